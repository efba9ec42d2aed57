"""A report of a fault that a person can read, keep and copy: no name, no folder of theirs in it."""

import getpass
import os
import platform
import re
import traceback
from datetime import datetime
from pathlib import Path
from types import TracebackType
from typing import Final

from true_compass.cli.versions import version_text

MOST_KEPT: Final = 10
LEAST_NAME: Final = 3
"""Names shorter than this stand inside other words too often to be taken out."""
PACKAGES: Final = re.compile(r"/[^\s\"']*/(?=(?:site-packages|true_compass)/)")
HEAD: Final = """\
Something went wrong inside True Compass. Your engine and your work are kept.
This report holds no name and no folder of yours; read it before you pass it on.
"""


def report_text(
    kind: type[BaseException],
    value: BaseException,
    trace: TracebackType | None,
    home: str = "",
    user: str = "",
) -> str:
    """What happened, and what runs here. `home` and `user` are taken out wherever they stand."""
    from PyQt6.QtGui import QGuiApplication

    screen = QGuiApplication.platformName() or "none"
    system = f"{platform.system()} {platform.release()} {platform.machine()}, screen {screen}"
    told = "".join(traceback.format_exception(kind, value, trace))
    return f"{HEAD}\n{version_text()}\n{system}\n\n{without_person(told, home, user)}"


def without_person(text: str, home: str = "", user: str = "") -> str:
    """A text without the folders and the name of whoever runs the program."""
    home = home or os.path.expanduser("~")
    user = user or _user()
    text = PACKAGES.sub("…/", text)
    if len(home) > 1:
        text = text.replace(home, "~")
    if len(user) >= LEAST_NAME and user != "root":
        text = re.sub(rf"\b{re.escape(user)}\b", "someone", text)
    return re.sub(r"/(?:home|Users)/[^/\s\"']+", "~", text)


def _user() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return ""


def keep_report(folder: Path, text: str, now: datetime) -> Path:
    """Write a report beside the log; the newest ten stay. Raises `OSError`."""
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"report-{now:%Y%m%d-%H%M%S}.txt"
    path.write_text(text, encoding="utf-8")
    for old in sorted(folder.glob("report-*.txt"))[:-MOST_KEPT]:
        old.unlink(missing_ok=True)
    return path
