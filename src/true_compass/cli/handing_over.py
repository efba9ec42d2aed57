"""A second start gives what it was asked to open to the window that is open already.

One window of one user, for one folder of settings, listens on a socket of the file system. Only
the standard library is used here: a second start must not wait for Qt.
"""

import contextlib
import hashlib
import json
import os
import socket
import stat
from pathlib import Path
from typing import Any, Final

from true_compass.core.chained import plain_json

PATIENCE_S: Final = 2.0
MOST_BYTES: Final = 20_000
LONGEST_PATH: Final = 100
"""A socket's path has room for 108 bytes with its end (Linux, unix(7))."""
TAKEN: Final = b"taken\n"


def has_display() -> bool:
    """Whether a window can be shown, as far as the environment tells."""
    return any(os.environ.get(name) for name in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY", "DISPLAY"))


def socket_path(config: Path) -> Path | None:
    """Where a window with these settings listens; None where no safe folder is at hand."""
    mark = hashlib.sha256(os.fsencode(config.absolute())).hexdigest()[:12]
    base = os.environ.get("XDG_RUNTIME_DIR", "")
    # The system's folder for temporary files is the same for every process, unlike TMPDIR.
    folder = Path(base) if base else Path("/tmp") / f"true-compass-{os.getuid()}"
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
        found = folder.lstat()
    except OSError:
        return None
    mine = stat.S_ISDIR(found.st_mode) and found.st_uid == os.getuid()
    path = folder / f"true-compass-{mark}.sock"
    # Whoever else could write there could answer in our place.
    safe = mine and not found.st_mode & 0o022
    return path if safe and len(os.fsencode(path)) <= LONGEST_PATH else None


def answers(path: Path | None) -> bool:
    """Whether a window listens there."""
    if path is None or not path.exists():
        return False
    with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as line:
        line.settimeout(PATIENCE_S)
        line.connect(str(path))
        return True
    return False


def hand_over(path: Path | None, asked: dict[str, Any]) -> bool:
    """Ask the open window to open something; whether it has taken it."""
    if path is None or not path.exists():
        return False
    with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as line:
        line.settimeout(PATIENCE_S)
        line.connect(str(path))
        line.sendall(json.dumps(asked).encode() + b"\n")
        return line.recv(len(TAKEN)) == TAKEN
    return False


def read_asked(data: bytes) -> dict[str, str] | None:
    """What another start asked for, or None for what is no such request."""
    if len(data) > MOST_BYTES:
        return None
    try:
        asked = plain_json(data)
    except ValueError:
        return None
    if not isinstance(asked, dict) or set(asked) - {"rig", "path"}:
        return None
    if not all(isinstance(text, str) and "\0" not in text for text in asked.values()):
        return None
    return asked
