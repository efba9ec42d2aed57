"""A file that grows by lines, each on the disk before the next can be.

What finds no room waits in memory and is written with the next line, or when somebody tries again;
never is half a line left for the next one to be glued to. Whoever writes a file holds its lock, so
that two windows never write into one.
"""

import contextlib
import fcntl
import os
from collections.abc import Iterable
from pathlib import Path

from true_compass.files.atomic import write_atomic


def is_held(path: Path) -> bool:
    """Whether somebody is writing a file."""
    with contextlib.suppress(OSError):
        file = GrowingFile.gone_on_with(path, ())
        if file is None:
            return True
        file.close()
    return False


class GrowingFile:
    """Lines of one file. `waiting` is how many of them are not on the disk yet."""

    def __init__(self, path: Path, lines: Iterable[str] = ()) -> None:
        self.path = path
        self.lines = list(lines)
        self._kept = 0
        self._size = 0
        self._handle: int | None = None

    @staticmethod
    def gone_on_with(path: Path, lines: Iterable[str]) -> "GrowingFile | None":
        """A file that is there, whose whole lines are `lines`: what stands behind them goes with
        the next one.

        None where another window writes it. Raises `OSError`.
        """
        file = GrowingFile(path, lines)
        file._open()
        if not file._is_mine():
            file.close()
            return None
        told = file._bytes(0)
        if os.pread(file._held(), len(told), 0) == told:
            file._kept, file._size = len(file.lines), len(told)
        return file

    @property
    def waiting(self) -> int:
        """How many lines are not on the disk."""
        return len(self.lines) - self._kept

    def text(self) -> str:
        """All lines, with those that wait."""
        return "".join(f"{line}\n" for line in self.lines)

    def add(self, line: str) -> None:
        """One more line, which waits to be written."""
        self.lines.append(line)

    def write(self) -> None:
        """Write what waits. Raises `OSError`: then it still waits, and nothing of it is there."""
        if not self.waiting:
            return
        if not self._is_here():
            self._begin()
            return
        self._cut()
        told = self._bytes(self._kept)
        try:
            written = 0
            while written < len(told):
                written += os.pwrite(self._held(), told[written:], self._size + written)
            os.fsync(self._held())
        except OSError:
            with contextlib.suppress(OSError):
                self._cut()
            raise
        self._kept, self._size = len(self.lines), self._size + len(told)

    def close(self) -> None:
        """Let go of it."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None

    def _bytes(self, first: int) -> bytes:
        return "".join(f"{line}\n" for line in self.lines[first:]).encode("utf-8")

    def _begin(self) -> None:
        """The whole file, in one step."""
        self.close()
        self.path.parent.mkdir(parents=True, exist_ok=True)
        write_atomic(self.path, self.text())
        self._kept, self._size = len(self.lines), len(self._bytes(0))
        self._open()
        self._is_mine()

    def _open(self) -> None:
        self._handle = os.open(self.path, os.O_RDWR | os.O_NOFOLLOW | os.O_CLOEXEC)

    def _held(self) -> int:
        assert self._handle is not None
        return self._handle

    def _is_mine(self) -> bool:
        """Take the lock. Where a folder knows no locks, nobody else can be seen."""
        try:
            fcntl.flock(self._held(), fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return False
        except OSError:
            pass
        return True

    def _is_here(self) -> bool:
        """Whether the file that is held still is the one of that name, and nothing of it is cut."""
        if self._handle is None or not self._kept:
            return False
        try:
            there, held = os.lstat(self.path), os.fstat(self._handle)
        except OSError:
            return False
        return (there.st_dev, there.st_ino) == (held.st_dev, held.st_ino) and (
            held.st_size >= self._size
        )

    def _cut(self) -> None:
        if os.fstat(self._held()).st_size != self._size:
            os.ftruncate(self._held(), self._size)
