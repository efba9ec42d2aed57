"""Write a file whole or not at all."""

import contextlib
import errno
import os
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

SUFFIX: Final = ".tc-part"
STALE_S: Final = 60.0


def write_atomic(path: Path, text: str, *, follow: bool = True) -> None:
    """Replace the file's content in one step; a crash leaves the old file or the new one.

    Keeps the permissions of an existing file. Writes through a symbolic link, or takes its place
    where `follow` is no. Raises `OSError`.
    """
    with replacing(path, follow=follow) as part:
        part.write_text(text, encoding="utf-8", newline="")


@contextmanager
def replacing(path: Path, *, follow: bool = True) -> Iterator[Path]:
    """A new file beside a goal, which takes its place at the end if nothing was raised.

    What a kill left behind of earlier writes is swept. Raises `OSError`.
    """
    try:
        target = path.resolve() if follow else path.parent.resolve() / path.name
    except RuntimeError:
        raise OSError(errno.ELOOP, "its links go round in a circle") from None
    if not target.is_symlink() and target.exists() and not target.is_file():
        raise OSError(errno.EINVAL, "it is not an ordinary file")
    stem = f".{short(target.name)}."
    _sweep(target.parent)
    # The end of the name tells some writers what to write.
    suffix = f"{SUFFIX}{target.suffix[:12]}"
    handle, name = tempfile.mkstemp(prefix=stem, suffix=suffix, dir=target.parent)
    os.close(handle)
    part = Path(name)
    try:
        yield part
        with part.open("rb") as file:
            os.fsync(file.fileno())
        os.chmod(part, _mode_of(target))
        os.replace(part, target)
        _sync_folder(target.parent)
    except BaseException:
        with contextlib.suppress(OSError):
            part.unlink()
        raise


def short(name: str) -> str:
    """The beginning of a name, so that what is put behind it still fits."""
    return name.encode("utf-8", "surrogateescape")[:60].decode("utf-8", "ignore")


def _sweep(folder: Path) -> None:
    """Take away what killed programs left in a folder, unless it may still be written."""
    with contextlib.suppress(OSError):
        for left in folder.iterdir():
            if left.name.startswith(".") and SUFFIX in left.name:
                with contextlib.suppress(OSError):
                    if time.time() - left.stat().st_mtime > STALE_S:
                        left.unlink()


def _sync_folder(folder: Path) -> None:
    """Put the new name on the disk too, where the system can."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _mode_of(target: Path) -> int:
    if target.exists() and not target.is_symlink():
        return target.stat().st_mode & 0o777
    umask = os.umask(0)
    os.umask(umask)
    return 0o666 & ~umask
