"""The files that a desktop looks for, put below a folder as it expects them."""

import shutil
from pathlib import Path
from typing import Final

from tools.packaging.common import DATA, ROOT, run, tools_python

PNG_SIZES: Final = (16, 22, 24, 32, 48, 64, 96, 128, 256, 512)
PLACES: Final = {
    "true-compass.desktop": "share/applications/true-compass.desktop",
    "org.example.TrueCompass.metainfo.xml": "share/metainfo/org.example.TrueCompass.metainfo.xml",
    "true-compass-mime.xml": "share/mime/packages/true-compass.xml",
    "icons/true-compass.svg": "share/icons/hicolor/scalable/apps/true-compass.svg",
} | {
    f"icons/true-compass-{size}.png": f"share/icons/hicolor/{size}x{size}/apps/true-compass.png"
    for size in PNG_SIZES
}
"""What stands in `packaging`, and where it goes below a prefix."""


def put_share(prefix: Path, command: str = "true-compass") -> list[Path]:
    """Copy desktop file, metainfo, MIME types, icons, manual page and completions; what was put.

    `command` is what the desktop file starts: a full path where the prefix is not on everyone's
    path.
    """
    put = []
    for name, place in PLACES.items():
        goal = prefix / place
        goal.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(DATA / name, goal)
        put.append(goal)
    desktop = prefix / PLACES["true-compass.desktop"]
    text = desktop.read_text("utf-8").replace("Exec=true-compass", f"Exec={quoted(command)}")
    desktop.write_text(text, encoding="utf-8")
    return [*put, *_pages(prefix)]


def quoted(command: str) -> str:
    """A command as the `Exec` of a desktop file has it (freedesktop.org, *Desktop Entry
    Specification*, The Exec key): in double quotes where it needs them, with `% ` doubled.

    >>> quoted("/usr/bin/true-compass"), quoted("/srv/all of us/true-compass")
    ('/usr/bin/true-compass', '"/srv/all of us/true-compass"')
    """
    command = command.replace("%", "%%")
    if not set(command) & set(" \t\n\"'\\><~|&;$*?#()`"):
        return command
    for mark in ("\\", '"', "`", "$"):
        command = command.replace(mark, f"\\{mark}")
    # The value is a string first, whose own backslashes are doubled.
    return f'"{command}"'.replace("\\", "\\\\")


def _pages(prefix: Path) -> list[Path]:
    """The manual page and the completions, made from the help."""
    made = ROOT / "build" / "pages"
    shutil.rmtree(made, ignore_errors=True)
    run(tools_python(), "-m", "tools.packaging.pages", made, PYTHONPATH=f"{ROOT / 'src'}:{ROOT}")
    put = []
    for path in sorted(made.rglob("*")):
        if path.is_file():
            goal = prefix / path.relative_to(made)
            goal.parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(path, goal)
            put.append(goal)
    return put
