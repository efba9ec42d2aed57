"""Starts the window."""

import contextlib
import os
import sys
import traceback
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from types import TracebackType
from typing import Final

from PyQt6.QtCore import QLibraryInfo, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from true_compass.app.keeping.keeping import Keeping
from true_compass.app.keeping.opener import REAL_DIALOGS, FileDialogs
from true_compass.app.window.system import System, use_system_numbers
from true_compass.app.window.window import FIRST_SIZE, MainWindow
from true_compass.core.engine import Engine
from true_compass.drawing.theme import load_fonts
from true_compass.files.engine_file import read_checked
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.session.session import Session, Source

FIRST_RIG: Final = "birch"
FIRST_ANGLE_DEG: Final = 240.0
FIRST_FRAME_MS: Final = 300
PICTURE: Final = "true-compass-demo.png"


@dataclass(frozen=True, slots=True)
class Start:
    """What to open first: an engine that was asked for, or what was open last."""

    engine: Engine | None
    source: Source
    folder: Path
    demo: bool = False
    state_folder: Path | None = None
    """Where work is kept; beside the settings unless said otherwise."""
    data_folder: Path | None = None
    """Where the book is; beside the work unless said otherwise."""
    other_file: Path | None = None
    """A file of another kind than an engine, such as a scenario."""
    listens_at: Path | None = None
    """Where later starts hand over what they were asked to open; None for a window of its own."""

    def keeping(self) -> Keeping:
        """Settings, drafts and progress; a demonstration has folders of its own."""
        state = self.state_folder or self.folder / "state"
        data = self.data_folder or state / "data"
        if self.demo:
            return Keeping.at(self.folder / "demo", state / "demo", data=data / "demo", demo=True)
        return Keeping.at(self.folder, state, data=data)


def log_error(folder: Path, text: str) -> None:
    """Add to a file of at most 0.5 MB; the one before it is kept as well."""
    # Imported here, since a start without an error has no use for it.
    import logging
    from logging.handlers import RotatingFileHandler

    folder.mkdir(parents=True, exist_ok=True)
    handler = RotatingFileHandler(folder / "true-compass.log", maxBytes=500_000, backupCount=1)
    handler.setFormatter(logging.Formatter("%(asctime)s %(message)s"))
    log = logging.getLogger("true_compass")
    log.addHandler(handler)
    log.error(text)
    log.removeHandler(handler)
    handler.close()


def catch_everything(log_folder: Path) -> None:
    """Log an error in a slot and tell the user, instead of letting Qt end the program."""

    def hook(kind: type[BaseException], value: BaseException, trace: TracebackType | None) -> None:
        from true_compass.app.keeping.fault_report import (
            keep_report,
            report_text,
            without_person,
        )

        text = without_person("".join(traceback.format_exception(kind, value, trace)))
        report = report_text(kind, value, trace)
        # Where there is no room for the message, the work goes on all the same.
        with contextlib.suppress(OSError, ValueError):
            print(text, file=sys.stderr)
        with contextlib.suppress(OSError, ValueError):
            log_error(log_folder, text)
            keep_report(log_folder, report, datetime.now())
        for widget in QApplication.topLevelWidgets():
            if isinstance(widget, MainWindow):
                widget.teller.show_fault(report)

    sys.excepthook = hook


def platform_problem() -> str:
    """Why the platform that is asked for cannot be used, or nothing. Qt would end the program."""
    asked = os.environ.get("QT_QPA_PLATFORM", "").partition(":")[0].partition(";")[0]
    if not asked:
        return ""
    folder = Path(QLibraryInfo.path(QLibraryInfo.LibraryPath.PluginsPath)) / "platforms"
    if asked.isascii() and asked.replace("-", "").isalnum() and list(folder.glob(f"libq{asked}*")):
        return ""
    return f"QT_QPA_PLATFORM names {asked[:30]!r}, which is not here: leave it unset"


def make_window(start: Start, dialogs: FileDialogs = REAL_DIALOGS) -> MainWindow:
    """The window on the engine that was asked for, or else on the one that was open last."""
    keeping = start.keeping()
    refusal: EngineFileError | None = None
    engine, source, crank_deg = start.engine, start.source, 0.0
    last = keeping.settings.last_engine()
    if engine is not None:
        if last is not None and last.source == source:
            crank_deg = last.crank_deg
    elif last is not None:
        source, crank_deg = last.source, last.crank_deg
        try:
            engine, source = _read(source)
        except EngineFileError as error:
            refusal = error
    if engine is None:
        engine, source, crank_deg = demo_rig(FIRST_RIG), Source(rig=FIRST_RIG), FIRST_ANGLE_DEG
    session = Session(engine, source, crank_deg, keeping.progress.of(source.key))
    window = MainWindow(session, keeping, dialogs)
    if start.engine is not None:
        # Whoever names an engine wants to see it; the front page is for whoever names none.
        window.pages.open(window.entries[0])
    window.opener.take_up_draft()
    if refusal is not None:
        window.teller.show_problems(refusal)
    keeping.troubles.listen(window.opener.said.emit)
    if start.other_file is not None:
        window.opener.open_path(start.other_file)
    return window


def _read(source: Source) -> tuple[Engine | None, Source]:
    """The engine of a source, and the source as it was read now."""
    if source.path is not None:
        engine, mark = read_checked(source.path, source.digest)
        return engine, replace(source, digest=mark)
    return (demo_rig(source.rig) if source.rig in rig_names() else None), source


def make_application() -> QApplication:
    """The application with its typeface and the drawing order of controls from Qt itself."""
    application = QApplication(["true-compass"])
    application.setApplicationName("True Compass")
    application.setDesktopFileName("true-compass")
    application.setStyle("Fusion")
    load_fonts()
    return application


def run(start: Start, log_folder: Path) -> int:
    """Show the window until it is closed; the exit code."""
    catch_everything(log_folder)
    application = make_application()
    use_system_numbers()
    window = make_window(start)
    system = System(window.look, window)
    window.show()
    from true_compass.app.window.farewell import Farewell  # the first frame need not wait for it

    farewell = Farewell(window)
    QTimer.singleShot(FIRST_FRAME_MS, system.follow_motion)
    first = None
    if start.listens_at is not None:
        from true_compass.app.window.first_window import FirstWindow

        first = FirstWindow(window, start.listens_at)
    code = application.exec()
    if first is not None:
        first.forget()
    farewell.forget()
    return code


def draw_first_screen(start: Start, path: Path) -> bool:
    """With no display: paint the first screen into a picture. Whether it was written."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    application = make_application()
    window = make_window(start)
    # The screen that is not there would be 800 × 800.
    window.resize(*FIRST_SIZE)
    window.setAttribute(Qt.WidgetAttribute.WA_DontShowOnScreen)
    window.show()
    application.processEvents()
    written = window.grab().save(str(path))
    window.close()
    return written
