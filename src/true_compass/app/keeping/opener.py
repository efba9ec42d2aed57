"""Opens engines into the session and saves copies; a wrong file changes nothing."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QLineEdit, QWidget

from true_compass.app.keeping.keeping import Keeping
from true_compass.app.keeping.recents import Recent
from true_compass.core.changes import with_table
from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.files.atomic import write_atomic
from true_compass.files.engine_file import (
    SUFFIX,
    engine_text,
    is_engine_file,
    parse_engine,
    read_checked,
    read_engine_text,
    text_digest,
)
from true_compass.files.engine_values import differing
from true_compass.files.kinds import ENDINGS, FileKind, kind_of, no_engine
from true_compass.files.lift_table import read_lift_table
from true_compass.files.problems import EngineFileError, saved_words, shown_text
from true_compass.files.rigs import demo_rig, rig_names, rig_text
from true_compass.session.drafts import Draft, origin_digest
from true_compass.session.session import Session, Source

if TYPE_CHECKING:
    from PyQt6.QtPrintSupport import QPrinter

    from true_compass.bench.scenario import Scenario
    from true_compass.drawing.documents import Paper

DOCUMENT_FILTER = "PDF (*.pdf);;PNG (*.png);;SVG (*.svg)"
SCENARIOS, LESSONS, BOOKS = (
    f"{word} (*{ENDINGS[kind]})"
    for word, kind in (
        ("Scenarios", FileKind.SCENARIO),
        ("Lessons", FileKind.LESSON),
        ("Books", FileKind.BOOK),
    )
)
BOOK_FILTER = f"Books and tables of jobs (*{ENDINGS[FileKind.BOOK]} *.csv);;All files (*)"
BOOK_COPY_FILTER = f"Table (*.csv);;Workbook (*.xlsx);;Whole book (*{ENDINGS[FileKind.BOOK]})"
READINGS_FILTER = "Table (*.csv)"
QUIZZES = "Quiz package (*.zip)"
CLASS_FILTER = "Workbook (*.xlsx);;Table (*.csv)"
TABLE_FILTER = "Lift tables (*.csv *.txt);;All files (*)"
ENGINES = f"Engine files (*{SUFFIX})"
_OPENS = " ".join(f"*{ending}" for ending in (*ENDINGS.values(), ".csv"))
FILTER = (
    f"Everything that opens here ({_OPENS});;"
    f"{ENGINES};;{SCENARIOS};;{LESSONS};;{BOOKS};;All files (*)"
)
SAVE_FILTER = f"{ENGINES};;All files (*)"


@dataclass(frozen=True, slots=True)
class FileDialogs:
    """The questions that need a dialog; tests and scripts give other answers."""

    open_path: Callable[[QWidget], Path | None]
    save_path: Callable[[QWidget, str], Path | None]
    table_path: Callable[[QWidget], Path | None] = lambda _parent: None
    document_path: Callable[[QWidget, str], Path | None] = lambda _parent, _suggested: None
    printer: "Callable[[QWidget, Paper, str], QPrinter | None]" = lambda *_asked: None
    printers: Callable[[], list[str]] = list
    book_path: Callable[[QWidget], Path | None] = lambda _parent: None
    book_copy_path: Callable[[QWidget, str], Path | None] = lambda _parent, _suggested: None
    readings_path: Callable[[QWidget, str], Path | None] = lambda _parent, _suggested: None
    folder: Callable[[QWidget, str], Path | None] = lambda _parent, _title: None
    lesson_path: Callable[[QWidget, str], Path | None] = lambda _parent, _suggested: None
    class_path: Callable[[QWidget, str], Path | None] = lambda _parent, _suggested: None
    scenario_path: Callable[[QWidget], Path | None] = lambda _parent: None
    word: Callable[[QWidget, str], str | None] = lambda _parent, _asked: None


def with_suffix(path: Path, suffix: str) -> Path:
    """The path with the ending of its kind, where it was typed without any: a figure is none.

    >>> with_suffix(Path("bench-v6"), ".engine.toml").name
    'bench-v6.engine.toml'
    >>> [with_suffix(Path(name), ".engine.toml").name for name in ("bench 2.0", "notes.txt")]
    ['bench 2.0.engine.toml', 'notes.txt']
    """
    return path if path.suffix[1:].isalpha() else path.with_name(f"{path.name}{suffix}")


def file_name_of(name: str, suffix: str) -> str:
    """A file's name out of that of an engine: `Rig Birch, changed` is `rig-birch-changed`.

    >>> file_name_of("Rig Birch, changed", ".engine.toml")
    'rig-birch-changed.engine.toml'
    """
    words = "".join(sign if sign.isalnum() else " " for sign in name.casefold()).split()
    return f"{'-'.join(words)[:60] or 'engine'}{suffix}"


def without_head(text: str) -> str:
    """The text of a file without the comments that stand at its top."""
    lines = text.split("\n")
    first = next((n for n, line in enumerate(lines) if line.strip() and line[0] != "#"), 0)
    return "\n".join(lines[first:])


def ask_open_path(parent: QWidget) -> Path | None:
    """Ask for a file to open."""
    name, _ = QFileDialog.getOpenFileName(parent, "Open", "", FILTER)
    return Path(name) if name else None


def ask_save_path(parent: QWidget, suggested: str) -> Path | None:
    """Ask where to save."""
    name, _ = QFileDialog.getSaveFileName(parent, "Save a copy", suggested, SAVE_FILTER)
    return Path(name) if name else None


def ask_word(parent: QWidget, asked: str) -> str | None:
    """Ask for a word, unseen."""
    told, is_given = QInputDialog.getText(
        parent, "Sealed engine", asked, QLineEdit.EchoMode.Password
    )
    return told if is_given else None


def ask_table_path(parent: QWidget) -> Path | None:
    """Ask for a lift table."""
    name, _ = QFileDialog.getOpenFileName(parent, "Open lift table", "", TABLE_FILTER)
    return Path(name) if name else None


def ask_document_path(parent: QWidget, suggested: str) -> Path | None:
    """Ask where a document goes."""
    name, _ = QFileDialog.getSaveFileName(parent, "Save as", suggested, DOCUMENT_FILTER)
    return Path(name) if name else None


def ask_book_path(parent: QWidget) -> Path | None:
    """Ask for a book or a table of jobs."""
    name, _ = QFileDialog.getOpenFileName(parent, "Open a book or a table", "", BOOK_FILTER)
    return Path(name) if name else None


def ask_book_copy_path(parent: QWidget, suggested: str) -> Path | None:
    """Ask where jobs are written."""
    name, _ = QFileDialog.getSaveFileName(parent, "Write jobs", suggested, BOOK_COPY_FILTER)
    return Path(name) if name else None


def ask_readings_path(parent: QWidget, suggested: str) -> Path | None:
    """Ask where readings are written."""
    name, _ = QFileDialog.getSaveFileName(parent, "Write readings", suggested, READINGS_FILTER)
    return Path(name) if name else None


def ask_folder(parent: QWidget, title: str) -> Path | None:
    """Ask for a folder."""
    name = QFileDialog.getExistingDirectory(parent, title)
    return Path(name) if name else None


def ask_lesson_path(parent: QWidget, suggested: str) -> Path | None:
    """Ask where a lesson, or a package of its questions, is written."""
    quiz = suggested.endswith(".zip")
    title = "Write the quiz package" if quiz else "Write the lesson"
    name, _ = QFileDialog.getSaveFileName(parent, title, suggested, QUIZZES if quiz else LESSONS)
    return Path(name) if name else None


def ask_scenario_path(parent: QWidget) -> Path | None:
    """Ask for a covered engine."""
    name, _ = QFileDialog.getOpenFileName(parent, "A covered engine", "", SCENARIOS)
    return Path(name) if name else None


def ask_class_path(parent: QWidget, suggested: str) -> Path | None:
    """Ask where a table of people or answers is written."""
    name, _ = QFileDialog.getSaveFileName(parent, "Write the table", suggested, CLASS_FILTER)
    return Path(name) if name else None


def ask_printer(parent: QWidget, paper: "Paper", name: str = "") -> "QPrinter | None":
    """Ask for a printer; the paper, and the printer if it is named, are set beforehand."""
    from PyQt6.QtPrintSupport import QPrintDialog, QPrinter

    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    if name in known_printers():
        printer.setPrinterName(name)
    printer.setPageLayout(paper.layout)
    dialog = QPrintDialog(printer, parent)
    return printer if dialog.exec() == QPrintDialog.DialogCode.Accepted.value else None


def known_printers() -> list[str]:
    """The names of what the system can print on."""
    from PyQt6.QtPrintSupport import QPrinterInfo

    return list(QPrinterInfo.availablePrinterNames())


REAL_DIALOGS = FileDialogs(
    ask_open_path,
    ask_save_path,
    ask_table_path,
    ask_document_path,
    ask_printer,
    known_printers,
    ask_book_path,
    ask_book_copy_path,
    ask_readings_path,
    ask_folder,
    ask_lesson_path,
    ask_class_path,
    ask_scenario_path,
    ask_word,
)


def _nowhere(_kind: FileKind, _path: Path) -> bool:
    """No other kinds of files."""
    return False


class Opener(QObject):
    """Every way to open an engine, so that they agree about what happens to a wrong one."""

    refused = pyqtSignal(object)
    """`EngineFileError`: the file was not opened; the last good engine goes on turning."""

    said = pyqtSignal(str)

    asks = pyqtSignal(str, object, object)
    """A question about a file: a title, sentences, and choices, each words and what it does."""

    parted = pyqtSignal(object, object)
    """The file has changed since an unsaved edit was made: rows of what differs, the `Draft`."""

    def __init__(
        self, session: Session, dialogs: FileDialogs, keeping: Keeping, window: QWidget
    ) -> None:
        super().__init__(window)
        self._session = session
        self._dialogs = dialogs
        self._keeping = keeping
        self._window = window
        self.elsewhere: Callable[[FileKind, Path], bool] = _nowhere
        """Opens a file of another kind, such as a scenario, in the workspace that has such files;
        whether there is one."""

    def recent(self) -> list[Recent]:
        """The engines that were open before, the last first."""
        return self._keeping.settings.recent()

    def now(self) -> datetime:
        """What time it is here."""
        return self._keeping.clock().astimezone()

    def open_recent(self, recent: Recent) -> bool:
        """Open an engine again, with the crank where it stood; whether it could be opened."""
        source = recent.source
        if source.path is not None:
            read = self._read(source.path)
            if read is None:
                return False
            self._open(*read, recent.crank_deg)
        elif source.rig in rig_names():
            self._open(demo_rig(source.rig), Source(rig=source.rig), recent.crank_deg)
        return True

    def open_rig(self, name: str) -> None:
        """Open a demo rig by its short name."""
        self._open(demo_rig(name), Source(rig=name))

    def open_path(self, path: Path) -> None:
        """Open an engine file, or say what is wrong with it; another kind of file where it goes.

        What a lift table or a table of jobs is for is asked.
        """
        kind = kind_of(path)
        if self.elsewhere(kind, path):
            return
        if kind is FileKind.LIFT_TABLE:
            self._ask_valves(path)
            return
        if kind is FileKind.JOB_TABLE:
            self._ask_book(path)
            return
        if kind is FileKind.OTHER:
            self.refused.emit(no_engine(kind, path))
            return
        read = self._read(path)
        if read is not None:
            self._open(*read)

    def open_dropped(self, paths: list[Path]) -> None:
        """Open what was dropped on the window: one file at a time."""
        if len(paths) == 1:
            self.open_path(paths[0])
        else:
            self.said.emit(f"{len(paths)} files at once: drop one at a time. Nothing was opened.")

    def _ask_valves(self, path: Path) -> None:
        """Which valves a lift table is for."""
        name, engine = shown_text(path.name), self._session.state.engine.name
        choices = [(f"Use for {kind.value}", partial(self.read_table, kind, path)) for kind in Kind]
        self.asks.emit(
            f"{name}: use for intake or exhaust?",
            [
                f"It is a lift table. It takes the place of the valve events of {engine}; Ctrl+Z "
                "takes it back."
            ],
            choices,
        )

    def _ask_book(self, path: Path) -> None:
        """Whether a table of jobs is taken into the book."""
        name = shown_text(path.name)
        self.asks.emit(
            f"{name}: take into the Book?",
            ["It is a table of jobs. The Book takes in those that it has not; none is changed."],
            [("Take into Book", partial(self.elsewhere, FileKind.BOOK, path))],
        )

    def reload(self) -> None:
        """Read the open file again, after someone edited it; the crank stays where it is."""
        path = self._session.state.source.path
        read = self._read(path) if path is not None else None
        if path is not None and read is not None:
            edited = self._session.state.edited
            self._session.reread(*read)
            back = " Ctrl+Z brings your edits back." if edited else ""
            self.said.emit(f"{shown_text(path.name)} was read again.{back}")

    def _open(self, engine: Engine, source: Source, crank_deg: float = 0.0) -> None:
        """Open an engine, with the edits that were left unsaved when it was last open."""
        work = self._keeping.progress.of(source.key)
        self._session.open_engine(engine, source, crank_deg, work)
        self.take_up_draft()

    def take_up_draft(self) -> None:
        """Put the edits back that were left unsaved when the open engine was last open."""
        state = self._session.state
        draft = self._keeping.drafts.of(state.source)
        if draft is None:
            return
        if draft.engine == state.engine:
            self._keeping.drafts.take(state.source, draft)
            return
        if draft.made_from and draft.made_from != origin_digest(state.source):
            self.parted.emit(differing(state.engine, draft.engine), draft)
        else:
            self.take_draft(draft)

    def take_draft(self, draft: Draft) -> None:
        """Go on with unsaved edits."""
        self._keeping.drafts.take(self._session.state.source, draft)
        self._session.edit(draft.engine, words="your unsaved edits")
        self.said.emit(f"{draft.engine.name} with your unsaved edits. Ctrl+Z shows it as saved.")

    def leave_draft(self, draft: Draft) -> None:
        """Go on with the file as it is; the unsaved edits are given up."""
        source = self._session.state.source
        self._keeping.drafts.take(source, draft)
        self._keeping.drafts.drop(source)

    def _read(self, path: Path) -> tuple[Engine, Source] | None:
        try:
            engine, mark = read_checked(path)
        except EngineFileError as error:
            self.refused.emit(error)
            return None
        return engine, Source(path=path.absolute(), digest=mark)

    def choose_and_open(self) -> None:
        """Ask for a file and open it."""
        path = self._dialogs.open_path(self._window)
        if path is not None:
            self.open_path(path)

    def choose_table(self, kind: Kind) -> None:
        """Ask for a lift table and put it in place of the events of a kind of valve."""
        path = self._dialogs.table_path(self._window)
        if path is not None:
            self.read_table(kind, path)

    def read_table(self, kind: Kind, path: Path) -> bool:
        """Drive a kind of valve by a lift table, or say what is wrong with it."""
        engine = self._session.state.engine
        try:
            changed = with_table(engine, kind, read_lift_table(path))
        except EngineFileError as error:
            self.refused.emit(error)
            return False
        except EngineError as error:
            self.said.emit(f"{shown_text(path.name)}: {error.field} {error}.")
            return False
        self._session.edit(changed, words=f"lift table {path.name}")
        self.said.emit(f"{shown_text(path.name)} now drives the {kind.value} valves.")
        return True

    def save(self) -> None:
        """Write the engine to its own file; a demo rig asks where to."""
        source = self._session.state.source
        if source.path is None or self._session.state.opened.changed:
            # Another engine than the file's gets a file of its own.
            self.choose_and_save_copy()
        elif self._changed_elsewhere(source):
            self.said.emit(
                f"{shown_text(source.path.name)} was changed elsewhere since it was read, and was "
                "left alone. F5 reads it anew; Save a copy keeps yours."
            )
        elif self._write(source.path):
            self.said.emit(saved_words(source.path))

    @staticmethod
    def _changed_elsewhere(source: Source) -> bool:
        """Whether somebody else wrote to the file; a file that is gone can be written anew."""
        if source.path is None or not source.path.exists() or not source.digest:
            return False
        try:
            return text_digest(read_engine_text(source.path)) != source.digest
        except EngineFileError:
            return True

    def choose_and_save_copy(self) -> None:
        """Ask where to, and save the engine there with the comments of its file."""
        path = self._dialogs.save_path(self._window, self.suggested())
        if path is None:
            return
        path, there = with_suffix(path, SUFFIX), path.exists()
        name = shown_text(path.name)
        if path.exists() and not is_engine_file(path):
            self.said.emit(f"{name} is no engine file and was left alone. Give another name.")
        elif path.exists() and not there:
            # The dialog asked about another name, so nobody agreed to write over this one.
            self.said.emit(f"{name} is there already. Save with that whole name to replace it.")
        elif self._write(path):
            self.said.emit(saved_words(path))

    def suggested(self) -> str:
        """The proposed name of a file: its own, or that of the engine."""
        state = self._session.state
        if state.source.path is not None and not state.opened.changed:
            return shown_text(state.source.path.name)
        return file_name_of(state.engine.name, SUFFIX)

    def ask_word(self, asked: str) -> str | None:
        """Ask for a word that nobody else sees."""
        return self._dialogs.word(self._window, asked)

    def save_scenario(self, scenario: "Scenario", text: str = "") -> None:
        """Ask where to, and save a covered engine there, so that a class can have the same one.

        `text` is its file where it was sealed.
        """
        # A start without the bench should not pay for it.
        from true_compass.files.scenario_file import SCENARIO_FILE, scenario_text

        # A sealed name does not tell the number that all follows from.
        sealed = bool(text) or scenario.seal is not None
        last = "sealed" if sealed else scenario.seed
        suggested = f"{scenario.rig or 'engine'}-{last}{SCENARIO_FILE.suffix}"
        path = self._dialogs.save_path(self._window, suggested)
        if path is None:
            return
        path = with_suffix(path, SCENARIO_FILE.suffix)
        name = shown_text(path.name)
        if path.exists() and not name.endswith(SCENARIO_FILE.suffix):
            self.said.emit(f"{name} is no scenario and was left alone. Give another name.")
            return
        try:
            write_atomic(path, text or scenario_text(scenario))
        except (OSError, EngineError) as error:
            reason = getattr(error, "strerror", None) or str(error)
            self.said.emit(f"{name} was not saved ({reason}). Choose another folder.")
            return
        self.said.emit(saved_words(path))

    def ask_book(self) -> Path | None:
        """Ask for a book or a table of jobs."""
        return self._dialogs.book_path(self._window)

    def ask_book_copy(self, suggested: str) -> Path | None:
        """Ask where jobs are written; a name without an ending means a table."""
        path = self._dialogs.book_copy_path(self._window, suggested)
        return path if path is None or path.suffix else path.with_suffix(".csv")

    def ask_readings_table(self) -> Path | None:
        """Ask for a lift table that was read elsewhere."""
        return self._dialogs.table_path(self._window)

    def ask_readings(self, suggested: str) -> Path | None:
        """Ask where readings are written; a name without an ending means a table."""
        path = self._dialogs.readings_path(self._window, suggested)
        return path if path is None or path.suffix else path.with_suffix(".csv")

    def ask_folder(self, title: str) -> Path | None:
        """Ask for a folder."""
        return self._dialogs.folder(self._window, title)

    def ask_lesson(self, suggested: str) -> Path | None:
        """Ask where a lesson, or a package of its questions, is written."""
        return self._dialogs.lesson_path(self._window, suggested)

    def ask_scenario(self) -> Path | None:
        """Ask for a covered engine."""
        return self._dialogs.scenario_path(self._window)

    def ask_class(self, suggested: str) -> Path | None:
        """Ask where a table of people or answers is written."""
        return self._dialogs.class_path(self._window, suggested)

    def _write(self, path: Path) -> bool:
        state = self._session.state
        try:
            text = engine_text(state.engine, self._base())
            write_atomic(path, text)
        except (OSError, EngineError) as error:
            reason = getattr(error, "strerror", None) or str(error)
            name = shown_text(path.name)
            self.said.emit(f"{name} was not saved ({reason}). Choose another folder.")
            return False
        self._session.saved(Source(path=path.absolute(), digest=text_digest(text)))
        return True

    def _base(self) -> str | None:
        """The text whose comments are kept: the file itself, or what the engine came from.

        What stands at its top is of the engine that it was written for: another one's is left out.
        """
        state, source = self._session.state, self._session.state.source
        text, name = None, ""
        if source.path is not None:
            try:
                text = read_engine_text(source.path)
                name = parse_engine(text, source.path.name).name
            except EngineFileError:
                return None
        elif source.rig:
            text, name = rig_text(source.rig), demo_rig(source.rig).name
        another = bool(state.opened.changed) or state.engine.name != name
        return without_head(text) if text is not None and another else text
