"""Collects the results of a folder, a file at a time beside the window, which goes on meanwhile.

The folder is watched, and looked at every few seconds as well: shared folders may not notify. A
file is read again only when it changed.
"""

import contextlib
from collections.abc import Callable, Mapping
from pathlib import Path
from threading import Thread
from typing import Final

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from true_compass.files.result_files import known_lessons, result_paths, sheet_or_why
from true_compass.lessons.collect import Sheet, one_each

EVERY_MS: Final = 5_000
SOON_MS: Final = 300

Stamp = tuple[int, int]


class Collector(QObject):
    """Reads what is new in a folder. `changed` tells that something else is known now."""

    changed = pyqtSignal()
    progress = pyqtSignal()
    _judged = pyqtSignal(object, object, object, object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.folder: Path | None = None
        self.trouble = ""
        self.own: Callable[[], Mapping[str, frozenset[str]]] = dict
        """Lessons that were handed out from here: digests by id."""
        self._read: dict[Path, tuple[Stamp, Sheet | str]] = {}
        self._sheets: list[Sheet] | None = None
        self._todo: list[Path] = []
        self._of = 0
        self._at_work = False
        self._judged.connect(self._on_judged)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.directoryChanged.connect(self._soon)
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self._step)
        self._poll = QTimer(self)
        self._poll.setInterval(EVERY_MS)
        self._poll.timeout.connect(self.look)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(SOON_MS)
        self._wait.timeout.connect(self.look)

    # What is known ----------------------------------------------------------------------------

    @property
    def sheets(self) -> list[Sheet]:
        """Every result, one for each set of a person."""
        if self._sheets is None:
            known = dict(known_lessons([] if self.folder is None else [self.folder]))
            known |= self.own()
            held = (held for _, held in self._read.values() if isinstance(held, Sheet))
            self._sheets = one_each(held, known)
        return self._sheets

    @property
    def left_out(self) -> list[str]:
        """What was no result, and why."""
        return [held for _, held in self._read.values() if isinstance(held, str)]

    @property
    def reading(self) -> tuple[int, int] | None:
        """How many of how many are read, while it reads."""
        return (self._of - len(self._todo), self._of) if self._todo else None

    # Doing ------------------------------------------------------------------------------------

    def open(self, folder: Path | None) -> None:
        """Collect from a folder from now on, or stop."""
        if self._watcher.directories():
            self._watcher.removePaths(self._watcher.directories())
        self.folder, self.trouble = folder, ""
        self._read, self._todo, self._sheets = {}, [], None
        if folder is None:
            self._poll.stop()
            return
        self._watcher.addPath(str(folder))
        self._poll.start()
        self.look()

    def _soon(self) -> None:
        # A file is written in several steps: look when they are over.
        self._wait.start()

    def look(self) -> None:
        """See what is new. A folder that is gone is told, and what was read stays."""
        if self.folder is None or self._todo:
            return
        try:
            stamps = {path: _stamp(path) for path in result_paths(self.folder)}
        except OSError as error:
            self._tell(f"{self.folder} cannot be read ({error.strerror}): is the stick there?")
            return
        if str(self.folder) not in self._watcher.directories():
            self._watcher.addPath(str(self.folder))
        gone = [path for path in self._read if path not in stamps]
        for path in gone:
            del self._read[path]
            self._sheets = None
        self._todo = [p for p, stamp in stamps.items() if self._read.get(p, ((), ""))[0] != stamp]
        self._of = len(self._todo)
        self._tell("")
        if self._todo:
            self._next.start(0)
        elif gone:
            self.changed.emit()

    def _tell(self, trouble: str) -> None:
        if trouble != self.trouble:
            self.trouble = trouble
            self.changed.emit()

    def _step(self) -> None:
        if not self._todo or self._at_work:
            return
        path = self._todo[0]
        self._at_work = True
        Thread(target=self._judge, args=(self.folder, path, _stamp(path)), daemon=True).start()

    def _judge(self, folder: Path, path: Path, stamp: Stamp) -> None:
        """Read and judge one file: a long one must not hold the window up."""
        held = sheet_or_why(path)
        # The page may be gone by now.
        with contextlib.suppress(RuntimeError):
            self._judged.emit(folder, path, stamp, held)

    def _on_judged(self, folder: Path, path: Path, stamp: Stamp, held: Sheet | str) -> None:
        self._at_work = False
        if folder == self.folder and self._todo[:1] == [path]:
            del self._todo[0]
            self._read[path] = (stamp, held)
            self._sheets = None
            self._go_on()
        elif self._todo:
            self._next.start(0)

    def _go_on(self) -> None:
        if self._todo:
            self.progress.emit()
            self._next.start(0)
        else:
            self.changed.emit()

    def cancel(self) -> None:
        """Read no more for now; what was read counts."""
        if self._todo:
            self._todo = []
            self._poll.stop()
            self.changed.emit()


def _stamp(path: Path) -> Stamp:
    try:
        told = path.stat()
    except OSError:
        # A link to nothing, or a file that has just gone: reading it says so.
        return (0, 0)
    return told.st_mtime_ns, told.st_size
