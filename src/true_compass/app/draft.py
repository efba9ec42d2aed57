"""The edited engine between two starts, until it is saved where the user wants it."""

import contextlib
from pathlib import Path
from typing import Final

from PyQt6.QtCore import QObject, QTimer

from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.files.atomic import write_atomic
from true_compass.files.engine_file import SUFFIX, engine_text, read_engine
from true_compass.files.problems import EngineFileError
from true_compass.session.session import Session

SETTLED_MS: Final = 800


class Draft(QObject):
    """Keeps an edited engine in a file of its own, shortly after each edit."""

    def __init__(self, session: Session, path: Path, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._path = path
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SETTLED_MS)
        self._timer.timeout.connect(self.keep)

    def touch(self) -> None:
        """The engine has changed: keep it as soon as the hand rests."""
        self._timer.start()

    def keep(self) -> None:
        """Write the draft, or remove it when there is nothing unsaved."""
        self._timer.stop()
        state = self._session.state
        # A full disk must not stop the lesson; the edit is still on the screen.
        with contextlib.suppress(OSError, EngineError):
            if state.edited:
                self._path.parent.mkdir(parents=True, exist_ok=True)
                write_atomic(self._path, engine_text(state.engine))
            else:
                self._path.unlink(missing_ok=True)


def draft_path(folder: Path, *, demo: bool) -> Path:
    """Where the draft is."""
    return folder / f"{'demo' if demo else 'draft'}{SUFFIX}"


def draft_at(path: Path) -> Engine | None:
    """The engine of a draft, if there is one that can be read."""
    if not path.exists():
        return None
    with contextlib.suppress(EngineFileError):
        return read_engine(path)
    return None
