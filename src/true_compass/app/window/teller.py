"""What the window says by itself: about files, undo, the lock, and turning back."""

from collections.abc import Callable
from functools import partial
from typing import Final

from PyQt6.QtCore import QObject

from true_compass.app.keeping.opener import Opener
from true_compass.app.window.note import NoteStrip, Sheet
from true_compass.files.problems import EngineFileError
from true_compass.session.drafts import Draft
from true_compass.session.session import Session

TURNED_BACK: Final = "Turning back. Come up to TDC in the running direction to take up slack."
LOCKED: Final = "The engine is locked for the class: turn and look. The Menu unlocks it."
UNLOCKED: Final = "The engine can be changed again."


class Teller(QObject):
    """Puts sentences into the note strip, and rows onto the sheet."""

    def __init__(self, session: Session, opener: Opener, note: NoteStrip, sheet: Sheet) -> None:
        super().__init__(note)
        self._session = session
        self._opener = opener
        self._note = note
        self._sheet = sheet
        self._problems: EngineFileError | None = None
        note.more.clicked.connect(self._show_all_problems)
        opener.refused.connect(self.show_problems)
        opener.said.connect(note.say)
        opener.parted.connect(self._show_parted)
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
        if done or not there:
            self._note.say(f"{word}: {done}." if done else nothing)

    def toggle_lock(self) -> None:
        """Lock the engine for a class, or unlock it."""
        self._session.lock(not self._session.state.locked)
        self._note.say(LOCKED if self._session.state.locked else UNLOCKED)

    def show_problems(self, error: EngineFileError) -> None:
        """Say what is wrong with a file; the last good engine goes on turning."""
        self._problems = error
        count = error.count
        # Several problems, or a long one, are read on the sheet; the first stands in the strip.
        more = f"Show all {count}" if count > 1 else "Read it all"
        self._note.say(f"{error.file_name}: {error.problems[0]}", problem=True, more=more)

    def _show_all_problems(self) -> None:
        if self._problems is not None:
            rows = [("", sentence) for sentence in self._problems.sentences()]
            self._sheet.show_rows(f"{self._problems.file_name} was not opened", rows)
            self._note.hide()

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
