"""What the window says by itself: about files, undo, the lock, and turning back."""

from collections.abc import Callable
from functools import partial
from typing import Final

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QGuiApplication

from true_compass.app.keeping.opener import Opener
from true_compass.app.window.note import Choice, NoteStrip, Sheet
from true_compass.core.cautions import CARE
from true_compass.files.problems import EngineFileError
from true_compass.session.drafts import Draft
from true_compass.session.session import Session

TURNED_BACK: Final = "Turning back. Come up to TDC in the running direction to take up slack."
LOCKED: Final = "The engine is locked for the class: turn and look. The Menu unlocks it."
FAULT: Final = "Something went wrong inside the program. Your engine is still here."
MOST_LINES: Final = 14
UNLOCKED: Final = "The engine can be changed again."


class Teller(QObject):
    """Puts sentences into the note strip, and rows onto the sheet."""

    stepped = pyqtSignal(str, str)
    """A step was taken back or brought back: the workspace and the page on which it was made."""

    def __init__(self, session: Session, opener: Opener, note: NoteStrip, sheet: Sheet) -> None:
        super().__init__(note)
        self._session = session
        self._opener = opener
        self._note = note
        self._sheet = sheet
        self._problems: EngineFileError | None = None
        self._fault = ""
        note.more.clicked.connect(self._show_more)
        opener.refused.connect(self.show_problems)
        opener.said.connect(note.say)
        opener.parted.connect(self._show_parted)
        opener.asks.connect(self._ask)
        session.when_locked = partial(note.say, LOCKED)

    def turned_back(self) -> None:
        """A hand turned the crank against its running direction."""
        self._note.say(TURNED_BACK)

    def undo(self) -> None:
        """Take the last edit or tick back, whichever page it was made on."""
        self._step(self._session.undo_words, self._session.undo, "Undone", "Nothing to undo.")

    def redo(self) -> None:
        """Bring back what was undone last."""
        self._step(self._session.redo_words, self._session.redo, "Redone", "Nothing to redo.")

    def _step(self, there: str, step: Callable[[], str], word: str, nothing: str) -> None:
        done = step()
        # Where there is a step that was not made, the lock has said why.
        if done:
            self.stepped.emit(*self._session.went_back_to)
        if done or not there:
            self._note.say(f"{word}: {done}." if done else nothing)

    def toggle_lock(self) -> None:
        """Lock the engine for a class, or unlock it."""
        self._session.lock(not self._session.state.locked)
        self._note.say(LOCKED if self._session.state.locked else UNLOCKED)

    def show_problems(self, error: EngineFileError) -> None:
        """Say what is wrong with a file; the last good engine goes on turning."""
        self._problems, self._fault = error, ""
        count = error.count
        # Several problems, or a long one, are read on the sheet; the first stands in the strip.
        more = f"Show all {count}" if count > 1 else "Read it all"
        self._note.say(f"{error.file_name}: {error.problems[0]}", problem=True, more=more)

    def show_fault(self, report: str) -> None:
        """Say that something went wrong inside the program; the report can be read and copied."""
        self._problems, self._fault = None, report
        self._note.say(FAULT, problem=True, more="Read the report")

    def show_about(self) -> None:
        """Show what this is, and every part that ships with its licence."""
        from true_compass.cli.versions import LICENCE, NAME, shipped_parts  # few look at it
        from true_compass.version import VERSION

        rows = [
            ("Licence", f"{LICENCE}, see LICENSE"),
            ("Care", CARE[-1]),
            *((part.name, f"{part.version}, {part.short_licence}") for part in shipped_parts()),
        ]
        self._sheet.show_rows(f"{NAME} {VERSION}", rows)

    def _show_more(self) -> None:
        if self._fault:
            lines = [line for line in self._fault.splitlines() if line.strip()]
            told = "\n".join((*lines[2:5], *lines[5:][-MOST_LINES:]))
            rows = [("", " ".join(lines[:2])), ("", told)]
            self._sheet.show_rows("A report of the fault", rows, (("Copy it all", self._copy),))
            self._note.hide()
        elif self._problems is not None:
            rows = [("", sentence) for sentence in self._problems.sentences()]
            self._sheet.show_rows(f"{self._problems.file_name} was not opened", rows)
            self._note.hide()

    def _copy(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self._fault)
        self._note.say("The report is on the clipboard.")

    def _ask(self, title: str, sentences: list[str], choices: list[Choice]) -> None:
        """A question about a file: its choices are buttons, and Close leaves all as it is."""
        rows = [("", sentence) for sentence in sentences]
        self._sheet.show_rows(title, rows, choices, problem=False)

    def _show_parted(self, rows: list[tuple[str, str, str]], draft: Draft) -> None:
        """A file was changed since unsaved edits were made: both are shown, a person chooses."""
        name = self._session.state.engine.name
        told = [("field", "in the file now → in your unsaved edits")]
        told += [(path, f"{theirs} → {yours}") for path, theirs, yours in rows]
        self._sheet.show_rows(
            f"{name} was changed elsewhere since your edits",
            told,
            (
                ("Keep the file", partial(self._opener.leave_draft, draft)),
                ("Take my edits", partial(self._opener.take_draft, draft)),
            ),
        )
