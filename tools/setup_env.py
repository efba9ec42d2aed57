"""Make .venv from the lock files, or say in one line what the system lacks.

Runs on the system's own Python with nothing installed:  setup_env.py run|test|lock
"""

import ctypes
import hashlib
import importlib.util
import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import NoReturn

ROOT = Path(__file__).resolve().parent.parent
VENV = ROOT / ".venv"
OLDEST = (3, 11)
LOCKS = {
    "run": ROOT / "requirements.lock",
    "test": ROOT / "requirements-dev.lock",
    "package": ROOT / "requirements-package.lock",
}

# Debian package -> the library file that Qt opens. Qt's own message names only the last one
# that it missed, so each is tried here.
OFFSCREEN_LIBRARIES = {
    "libgl1": "libGL.so.1",
    "libegl1": "libEGL.so.1",
    "libglib2.0-0": "libglib-2.0.so.0",
    "libfontconfig1": "libfontconfig.so.1",
    "libxkbcommon0": "libxkbcommon.so.0",
    "libdbus-1-3": "libdbus-1.so.3",
}
X11_LIBRARIES = {
    "libxkbcommon-x11-0": "libxkbcommon-x11.so.0",
    "libxcb-cursor0": "libxcb-cursor.so.0",
    "libxcb-icccm4": "libxcb-icccm.so.4",
    "libxcb-keysyms1": "libxcb-keysyms.so.1",
    "libxcb-shape0": "libxcb-shape.so.0",
}
TEST_PROGRAMS = {"xvfb": "Xvfb", "xauth": "xauth"}


def say(sentence: str) -> None:
    """Print one line at once, also when the output is a pipe."""
    print(sentence, flush=True)


def stop(sentence: str) -> NoReturn:
    """End with one line on stderr."""
    sys.exit("true-compass: " + sentence)


def use_new_enough_python() -> None:
    """Go on under a newer Python when this one is too old and another is installed."""
    if sys.version_info >= OLDEST:
        return
    for minor in (13, 12, 11):
        found = shutil.which(f"python3.{minor}")
        if found:
            os.execv(found, [found, *sys.argv])
    stop("Python 3.11 or newer is needed. Run: sudo apt-get install python3.11 python3.11-venv")


def lacks_library(file_name: str) -> bool:
    """Whether the system cannot open this shared library."""
    try:
        ctypes.CDLL(file_name)
    except OSError:
        return True
    return False


def missing_packages(for_test: bool) -> list[str]:
    """Debian names of everything that the system lacks, in a stable order."""
    libraries = dict(OFFSCREEN_LIBRARIES)
    if for_test or os.environ.get("DISPLAY"):
        libraries.update(X11_LIBRARIES)
    missing = [package for package, file in libraries.items() if lacks_library(file)]
    if for_test:
        missing += [package for package, tool in TEST_PROGRAMS.items() if not shutil.which(tool)]
    if not (importlib.util.find_spec("venv") and importlib.util.find_spec("ensurepip")):
        missing.append("python{}.{}-venv".format(*sys.version_info))
    return missing


def install_packages(names: list[str]) -> None:
    """Install as root; otherwise stop with the exact line to type."""
    command = ["apt-get", "install", "-y", *names]
    if not shutil.which("apt-get"):
        stop(f"this system lacks what Debian calls {' '.join(names)}. Install them and try again.")
    if os.geteuid() != 0:
        stop("some system parts are missing. Run: sudo " + " ".join(command))
    say("Installing system parts: " + " ".join(names))
    unasked = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    for words in (["apt-get", "update", "-qq"], command):
        done = subprocess.run(
            words, check=False, env=unasked, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
    if done.returncode:
        stop("the system parts could not be installed. Run: " + " ".join(command))


def stamp_text(kind: str) -> str:
    """What the installed state depends on."""
    parts = [LOCKS[kind], ROOT / "pyproject.toml"]
    digest = hashlib.sha256(sys.version.encode())
    for part in parts:
        digest.update(part.read_bytes())
    return digest.hexdigest()


def fill_venv(kind: str) -> None:
    """Install exactly the locked versions, then this project beside them."""
    say("Setting up .venv (once; about half a minute)")
    if not (VENV / "bin" / "python").exists():
        subprocess.run([sys.executable, "-m", "venv", str(VENV)], check=True)
    pip = [str(VENV / "bin" / "python"), "-m", "pip", "--disable-pip-version-check", "-q"]
    install = [*pip, "install", "--compile", "--no-deps"]
    # pip's byte code is wanted even where the machine asks Python not to write any:
    # without it every start of the program would compile its libraries again.
    quiet = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    steps = [
        [*install, "--require-hashes", "-r", str(LOCKS[kind])],
        [*install, "--no-build-isolation", "-e", str(ROOT)],
    ]
    for step in steps:
        if subprocess.run(step, check=False, env=quiet).returncode:
            stop("the libraries could not be installed. Is the network there? Then try again.")


def make_environment(kind: str) -> None:
    """Bring .venv up to date for 'run' or 'test'; cheap when nothing changed."""
    missing = missing_packages(for_test=kind == "test")
    if missing:
        install_packages(missing)
    # A venv made for the tests also runs the program.
    stamps = {name: VENV / ("stamp-" + name) for name in LOCKS}
    good = [name for name, stamp in stamps.items() if _reads(stamp) == stamp_text(name)]
    if kind not in good and "test" not in good:
        fill_venv(kind)
        stamps[kind].write_text(stamp_text(kind))
    # Where the machine asks Python not to write byte code, each start would compile the program.
    byte_code = [str(VENV / "bin" / "python"), "-m", "compileall", "-q", str(ROOT / "src")]
    subprocess.run(byte_code, check=False)


def _reads(path: Path) -> str:
    try:
        return path.read_text()
    except OSError:
        return ""


def make_locks() -> None:
    """Resolve new versions with hashes; the one step that needs a resolver from outside."""
    resolver = ROOT / "build" / "resolver"
    subprocess.run([sys.executable, "-m", "venv", str(resolver)], check=True)
    subprocess.run([str(resolver / "bin" / "pip"), "install", "-q", "uv"], check=True)
    for kind, extras in (
        ("run", ["build"]),
        ("test", ["build", "dev"]),
        ("package", ["build", "package"]),
    ):
        command = [str(resolver / "bin" / "uv"), "pip", "compile", "-q", "pyproject.toml"]
        command += ["--universal", "--python-version", "3.11", "--generate-hashes"]
        command += [part for extra in extras for part in ("--extra", extra)]
        command += ["--no-emit-index-url", "--custom-compile-command", "make lock"]
        # Build tools are pinned by name in the same file, or an editable install is not repeatable.
        subprocess.run([*command, "-o", str(LOCKS[kind])], check=True, cwd=str(ROOT))


if __name__ == "__main__":
    use_new_enough_python()
    wanted = sys.argv[1] if len(sys.argv) > 1 else "run"
    if wanted == "lock":
        make_locks()
    else:
        make_environment(wanted)
