"""Everything draws offscreen, with settings and dialogs of its own."""

import os
from collections.abc import Callable, Iterator
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

import pytest
from hypothesis import settings
from PyQt6.QtCore import QEvent
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtWidgets import QApplication, QWidget

from true_compass.app.keeping.opener import FileDialogs
from true_compass.app.main import Start, make_window
from true_compass.app.window.window import MainWindow
from true_compass.drawing.documents import Paper
from true_compass.drawing.theme import load_fonts
from true_compass.files.rigs import demo_rig
from true_compass.session.session import Source

# The same examples at every run, and no clock: speed is the bench's business. Look for new
# examples with `pytest --hypothesis-profile=explore`.
settings.register_profile("suite", deadline=None, derandomize=True)
settings.register_profile("explore", deadline=None)
settings.load_profile("suite")

MakeWindow = Callable[..., MainWindow]
SIZE = (1280, 800)


class Answers:
    """Stands in for the file dialogs: says what it was told to say."""

    def __init__(self) -> None:
        self.path: Path | None = None
        self.suggested = ""
        self.printed: Path | None = None
        self.printers: list[str] = []
        self.words: list[str | None] = []
        self.asked: list[str] = []

    def dialogs(self) -> FileDialogs:
        return FileDialogs(
            open_path=self._open,
            save_path=self._save,
            table_path=self._open,
            document_path=self._save,
            printer=self._print,
            printers=lambda: list(self.printers),
            book_path=self._open,
            book_copy_path=self._save,
            readings_path=self._save,
            folder=self._save,
            lesson_path=self._save,
            class_path=self._save,
            scenario_path=self._open,
            word=self._word,
        )

    def _word(self, _parent: QWidget, asked: str) -> str | None:
        self.asked.append(asked)
        return self.words.pop(0) if self.words else None

    def _open(self, _parent: QWidget) -> Path | None:
        return self.path

    def _print(self, _parent: QWidget, _paper: Paper, _name: str) -> QPrinter | None:
        if self.printed is None:
            return None
        printer = QPrinter()
        printer.setOutputFileName(str(self.printed))
        return printer

    def _save(self, _parent: QWidget, suggested: str) -> Path | None:
        self.suggested = suggested
        return self.path


@pytest.fixture
def answers() -> Answers:
    return Answers()


@pytest.fixture
def open_window(qapp: QApplication, tmp_path: Path, answers: Answers) -> Iterator[MakeWindow]:
    """Open windows that share one settings folder; each must die after it is closed."""
    load_fonts()
    windows: list[MainWindow] = []

    def make(
        rig: str = "", *, size: tuple[int, int] = (1280, 800), still: bool = True
    ) -> MainWindow:
        engine = demo_rig(rig) if rig else None
        start = Start(engine, Source(rig=rig), tmp_path / "settings")
        window = make_window(start, answers.dialogs())
        window.look.set_still(still)
        window.resize(*size)
        window.show()
        qapp.processEvents()
        windows.append(window)
        return window

    yield make
    died: list[str] = []
    for window in windows:
        window.destroyed.connect(lambda: died.append("window"))
        window.close()
        window.deleteLater()
    qapp.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    assert len(died) == len(windows)
