"""Where things are, and the environments that packages are made in. Only the standard library."""

import hashlib
import os
import subprocess
import sys
from pathlib import Path
from typing import Final, NoReturn

ROOT: Final = Path(__file__).resolve().parents[2]
BUILD: Final = ROOT / "build"
TOOLS: Final = BUILD / "package"
"""The environment with PyInstaller and the makers of pages and lists."""
SHIP: Final = BUILD / "ship"
"""An environment with what ships and nothing else."""
DIST: Final = ROOT / "dist"
DATA: Final = ROOT / "packaging"
EPOCH: Final = "1795737600"
"""27 November 2026: files in packages carry this day, so that two builds are the same."""


def say(sentence: str) -> None:
    """One line at once."""
    print(sentence, flush=True)


def stop(sentence: str) -> NoReturn:
    """End with one line on stderr."""
    sys.exit(f"true-compass: {sentence}")


def run(*words: str | Path, quiet: bool = False, **more: str) -> None:
    """Run a command; a failure ends with the command that failed."""
    quiet_env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    env = {**quiet_env, "SOURCE_DATE_EPOCH": EPOCH, **more}
    out = subprocess.DEVNULL if quiet else None
    done = subprocess.run([str(word) for word in words], check=False, env=env, cwd=ROOT, stdout=out)
    if done.returncode:
        stop(f"{' '.join(str(word) for word in words)[:200]} failed ({done.returncode})")


def version() -> str:
    """The version, from its one place."""
    text = (ROOT / "src" / "true_compass" / "version.py").read_text("utf-8")
    return text.split('VERSION: Final = "')[1].split('"')[0]


def environment(folder: Path, lock: Path, *, only: tuple[str, ...] = ()) -> Path:
    """An environment with the locked versions, made once for each state of the lock; its Python.

    `only` leaves out everything else of the lock.
    """
    mark = hashlib.sha256(lock.read_bytes() + " ".join(only).encode()).hexdigest()
    stamp, python = folder / "stamp", folder / "bin" / "python"
    if stamp.exists() and stamp.read_text() == mark and python.exists():
        return python
    say(f"Setting up {folder.name} (once)")
    run(sys.executable, "-m", "venv", "--clear", folder)
    BUILD.mkdir(exist_ok=True)
    wanted = BUILD / f"{folder.name}.lock"
    wanted.write_text(_chosen(lock.read_text("utf-8"), only), encoding="utf-8")
    pip = (python, "-m", "pip", "--disable-pip-version-check", "-q", "install", "--compile")
    run(*pip, "--no-deps", "--require-hashes", "-r", wanted)
    stamp.write_text(mark)
    return python


def _chosen(text: str, only: tuple[str, ...]) -> str:
    """The blocks of a lock file whose package is asked for; all of them where none is."""
    if not only:
        return text
    kept, keep = [], False
    for line in text.splitlines():
        if line and not line.startswith((" ", "#")):
            keep = line.partition("==")[0].lower().replace("_", "-") in only
        if keep:
            kept.append(line)
    return "\n".join(kept) + "\n"


BUILD_ONLY: Final = (
    *("editables", "hatchling", "packaging", "pathspec", "pluggy"),
    "trove-classifiers",
)


def shipped_names() -> tuple[str, ...]:
    """The packages of the lock file that the program itself needs."""
    names = []
    for line in (ROOT / "requirements.lock").read_text("utf-8").splitlines():
        name = line.partition("==")[0].strip().lower()
        if line and not line.startswith((" ", "#")) and name not in BUILD_ONLY:
            names.append(name)
    return tuple(dict.fromkeys(names))


def tools_python() -> Path:
    """The Python that makes packages."""
    return environment(TOOLS, ROOT / "requirements-package.lock")


def ship_python() -> Path:
    """A Python with what ships."""
    return environment(SHIP, ROOT / "requirements.lock", only=shipped_names())


def make_wheel(folder: Path = DIST) -> Path:
    """Build the wheel; the same files give the same bytes."""
    folder.mkdir(parents=True, exist_ok=True)
    run(tools_python(), "-m", "hatchling", "build", "-t", "wheel", "-d", folder, quiet=True)
    return folder / f"true_compass-{version()}-py3-none-any.whl"
