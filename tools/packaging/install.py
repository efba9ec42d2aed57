"""Install True Compass for one user, or take it away again.

`install.py install` makes an environment of its own below the prefix and puts what a desktop looks
for beside it; `install.py uninstall` removes exactly what was put, and nothing that a person made.
The prefix is $PREFIX, or ~/.local.
"""

import contextlib
import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Final

from tools.packaging.common import ROOT, environment, make_wheel, run, say, shipped_names, stop
from tools.packaging.share import put_share
from tools.setup_env import install_packages, missing_packages

PREFIX: Final = Path(os.environ.get("PREFIX") or Path.home() / ".local").absolute()
HOME: Final = PREFIX / "lib" / "true-compass"
RECORD: Final = HOME / "installed.txt"
KEPT: Final = tuple(
    f"~/{place}/true-compass" for place in (".config", ".local/share", ".local/state")
)
MADE_OF_MIME: Final = (
    *("aliases", "generic-icons", "globs", "globs2", "icons", "magic", "mime.cache", "subclasses"),
    *("treemagic", "types", "version", "XMLnamespaces"),
)
"""What `update-mime-database` writes beside the packages (shared-mime-info)."""


def install() -> None:
    """Environment, command, desktop files."""
    missing = missing_packages(for_test=False)
    if missing:
        install_packages(missing)
    wheel = make_wheel(ROOT / "build" / "wheel")
    HOME.mkdir(parents=True, exist_ok=True)
    python = environment(HOME / "venv", ROOT / "requirements.lock", only=shipped_names())
    pip = (python, "-m", "pip", "--disable-pip-version-check", "-q", "install", "--compile")
    run(*pip, "--no-deps", "--force-reinstall", wheel)
    command = PREFIX / "bin" / "true-compass"
    command.parent.mkdir(parents=True, exist_ok=True)
    if command.is_symlink() or command.exists():
        if not _is_ours(command):
            stop(f"{command} is there and is not ours: move it away, or choose another PREFIX")
        command.unlink()
    command.symlink_to(HOME / "venv" / "bin" / "true-compass")
    put = [command, *put_share(PREFIX, str(command))]
    RECORD.write_text("\n".join(str(path) for path in put) + "\n", encoding="utf-8")
    tell_the_desktop()
    say(f"Installed: {command}")
    if str(command.parent) not in os.environ.get("PATH", "").split(":"):
        say(f"{command.parent} is not on your PATH; the menu of the desktop finds it all the same.")


def _is_ours(command: Path) -> bool:
    return command.is_symlink() and str(HOME) in os.readlink(command)


def uninstall() -> None:
    """Remove what was put; what a person made stays."""
    if not RECORD.exists():
        stop(f"nothing is installed below {PREFIX}")
    for line in RECORD.read_text("utf-8").splitlines():
        path = Path(line)
        path.unlink(missing_ok=True)
        _prune(path.parent)
    shutil.rmtree(HOME)
    _prune(HOME.parent)
    tell_the_desktop()
    _sweep_caches()
    say("Taken away. Your own work stays in " + ", ".join(KEPT) + ".")


def _sweep_caches() -> None:
    """Remove what the desktop's tools made of our files, where nothing of others' is left."""
    share = PREFIX / "share"
    mime, icons, desktop = share / "mime", share / "icons" / "hicolor", share / "applications"
    if not (mime / "packages").exists():
        for name in MADE_OF_MIME:
            (mime / name).unlink(missing_ok=True)
        for made in mime.glob("*/*.xml"):
            made.unlink()
            _prune(made.parent)
        _prune(mime)
    for cache in (icons / "icon-theme.cache", desktop / "mimeinfo.cache"):
        if cache.exists() and len(list(cache.parent.iterdir())) == 1:
            cache.unlink()
        _prune(cache.parent)


def _prune(folder: Path) -> None:
    """Remove folders that are empty now, up to the prefix."""
    while folder != PREFIX and PREFIX in folder.parents:
        with contextlib.suppress(OSError):
            folder.rmdir()
            folder = folder.parent
            continue
        return


def tell_the_desktop() -> None:
    """Have the desktop look again, with whichever of its tools are here."""
    share = PREFIX / "share"
    for words in (
        ("update-desktop-database", "-q", share / "applications"),
        ("update-mime-database", share / "mime"),
        ("gtk-update-icon-cache", "-q", "-t", "-f", share / "icons" / "hicolor"),
    ):
        there = Path(words[-1]).is_dir() and shutil.which(str(words[0]))
        if there:
            command = [str(word) for word in words]
            subprocess.run(
                command, check=False, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
            )


if __name__ == "__main__":
    {"install": install, "uninstall": uninstall}[sys.argv[1]]()
