"""Write a file whole or not at all."""

import os
import tempfile
from pathlib import Path


def write_atomic(path: Path, text: str) -> None:
    """Replace the file's content in one step; a crash leaves the old file or the new one.

    Keeps the permissions of an existing file and writes through a symbolic link. Raises `OSError`.
    """
    target = path.resolve()
    handle, name = tempfile.mkstemp(prefix=f".{target.name}.", dir=target.parent)
    try:
        with os.fdopen(handle, "w", encoding="utf-8", newline="") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(name, _mode_of(target))
        os.replace(name, target)
    except BaseException:
        os.unlink(name)
        raise


def _mode_of(target: Path) -> int:
    if target.exists():
        return target.stat().st_mode & 0o777
    umask = os.umask(0)
    os.umask(umask)
    return 0o666 & ~umask
