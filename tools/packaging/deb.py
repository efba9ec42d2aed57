"""Build `dist/true-compass_VERSION_ARCH.deb`: one folder by PyInstaller, built on Debian 12.

What is in it: Python, the shipped libraries, of Qt only the modules that the program imports, and
the program. Two builds hold the same files.
"""

import gzip
import os
import platform
import shutil
import subprocess
from pathlib import Path
from typing import Final

from tools.packaging.common import (
    BUILD,
    DATA,
    DIST,
    EPOCH,
    ROOT,
    run,
    say,
    stop,
    tools_python,
    version,
)
from tools.packaging.share import put_share

TREE: Final = BUILD / "deb"
NAME: Final = "true-compass"
BY_ITSELF: Final = ("libgl1", "libegl1", "libxcb-cursor0", "libfontconfig1", "libdbus-1-3")
"""What Qt opens while it runs, so that no file names it."""
OURS: Final = (
    *("libpython", "libssl", "libcrypto", "libsqlite3", "libffi", "liblzma", "libbz2", "libexpat"),
    *("libreadline", "libncurses", "libtinfo", "libuuid", "libz.so", "libzstd"),
)
"""What Python itself needs comes along; everything of the desktop is the system's own."""
LEFT_OUT: Final = (
    *("tkinter", "lib2to3", "PIL", "matplotlib", "IPython", "setuptools", "pip", "wheel"),
    *("scipy.io", "scipy.signal", "scipy.stats", "scipy.cluster", "scipy.odr", "scipy.datasets"),
    *("PyQt6.QtQml", "PyQt6.QtQuick", "PyQt6.QtPdf", "PyQt6.QtMultimedia", "PyQt6.QtOpenGL"),
    *("PyQt6.QtTest", "PyQt6.QtSql", "PyQt6.QtWebSockets", "PyQt6.QtBluetooth", "PyQt6.QtHelp"),
)
"""What hooks would bring along; NumPy's own parts import one another by name, so none is here."""
METADATA: Final = (
    *("PyQt6", "PyQt6-Qt6", "PyQt6-sip", "numpy", "scipy", "pydantic", "pydantic-core", "tomlkit"),
    *("annotated-types", "fsrs", "platformdirs", "typing-extensions", "typing-inspection"),
    "xlsxwriter",
)
UNUSED_QT: Final = (
    *("libQt6Quick", "libQt6Qml", "libQt6Pdf", "libQt6VirtualKeyboard", "libQt6OpenGL"),
    *("libQt6EglFS", "libQt6ShaderTools", "libQt6Multimedia", "libQt6Test", "libQt6Sql"),
    *("libavcodec", "libavformat", "libavutil", "libswscale", "libswresample"),
)
UNUSED_PLUGINS: Final = (
    *("sqldrivers", "multimedia", "qmltooling", "virtualkeyboard", "tls", "networkinformation"),
    *(
        "wayland-graphics-integration-client",
        "egldeviceintegrations",
        "generic",
        "assetimporters",
        "webview",
        "position",
        "sensors",
    ),
)
KEPT_PLATFORMS: Final = ("libqxcb.so", "libqwayland.so", "libqoffscreen.so", "libqminimal.so")
KEPT_IMAGES: Final = ("libqsvg.so", "libqjpeg.so", "libqgif.so", "libqico.so")


def freeze() -> Path:
    """One folder with the program; where it is.

    Modules are files, not an archive: unpacking one costs 30 ms at each start.
    """
    work = BUILD / "freeze"
    shutil.rmtree(work, ignore_errors=True)
    out = [("--exclude-module", name) for name in LEFT_OUT]
    meta = [("--copy-metadata", name) for name in METADATA]
    run(
        tools_python().parent / "pyinstaller",
        *("--noconfirm", "--clean", "--onedir", "--log-level", "ERROR", "-d", "noarchive"),
        *("--name", NAME, "--paths", ROOT / "src"),
        *("--distpath", work / "dist", "--workpath", work / "work", "--specpath", work),
        *("--collect-submodules", "true_compass", "--collect-data", "true_compass"),
        *(word for pair in (*out, *meta) for word in pair),
        DATA / "launch.py",
        PYTHONHASHSEED="1",
        PYTHONPATH=str(ROOT / "src"),
    )
    made = work / "dist" / NAME
    slim(made / "_internal")
    return made


def slim(inside: Path) -> None:
    """Take out what a hook brought along and the program never opens."""
    qt = inside / "PyQt6" / "Qt6"
    for name in UNUSED_PLUGINS:
        shutil.rmtree(qt / "plugins" / name, ignore_errors=True)
    for folder, kept in (("platforms", KEPT_PLATFORMS), ("imageformats", KEPT_IMAGES)):
        for path in (qt / "plugins" / folder).glob("*.so"):
            if path.name not in kept:
                path.unlink()
    for path in (qt / "lib").glob("*.so*"):
        if path.name.startswith(UNUSED_QT):
            path.unlink()
    (qt / "plugins" / "platformthemes" / "libqgtk3.so").unlink(missing_ok=True)
    for path in inside.glob("*.so*"):
        if not path.name.startswith(OURS):
            path.unlink()
        elif path.name.startswith("libpython") and not path.is_symlink():
            # It alone: stripping breaks OpenBLAS, whose pages then are no longer aligned.
            run("strip", "--strip-unneeded", path)
    shutil.rmtree(qt / "translations", ignore_errors=True)
    shutil.rmtree(qt / "qml", ignore_errors=True)


def architecture() -> str:
    """As Debian calls this machine."""
    told = subprocess.run(
        ["dpkg", "--print-architecture"], check=True, capture_output=True, text=True
    )
    return told.stdout.strip()


def depends(tree: Path) -> list[str]:
    """Debian's packages with the libraries that the files name and that do not come along."""
    here = {path.name for path in tree.rglob("*.so*")}
    named: set[str] = set()
    for path in tree.rglob("*"):
        if path.is_file() and not path.is_symlink() and path.read_bytes()[:4] == b"\x7fELF":
            told = subprocess.run(
                ["objdump", "-p", str(path)], check=True, capture_output=True, text=True
            ).stdout
            named |= {line.split()[1] for line in told.splitlines() if "NEEDED" in line}
    packages = {_package_of(name) for name in named - here} - {"libc6", ""}
    return ["libc6 (>= 2.36)", *sorted(packages | set(BY_ITSELF))]


def _package_of(library: str) -> str:
    """The package that has a library: as this machine knows it, or as Debian names it.

    Debian policy 8.1: the name of the library, then the number of its interface.
    """
    if library.startswith("ld-linux"):
        return ""
    words = ["dpkg", "-S", f"*/{library}"]
    told = subprocess.run(words, check=False, capture_output=True, text=True)
    if told.returncode == 0:
        return told.stdout.partition(":")[0]
    stem, _, number = library.partition(".so.")
    name = f"{stem}-{number}" if stem[-1].isdigit() else f"{stem}{number}"
    known = ["apt-cache", "show", name.lower()]
    if subprocess.run(known, check=False, capture_output=True).returncode:
        stop(f"{library} is needed, and no package here has it: install it and build again")
    return name.lower()


def control(size_kb: int) -> str:
    """The control file."""
    return (
        f"Package: {NAME}\nVersion: {version()}\nArchitecture: {architecture()}\n"
        f"Maintainer: The True Compass developers <true-compass@example.org>\n"
        f"Installed-Size: {size_kb}\nDepends: {', '.join(depends(TREE))}\n"
        "Section: education\nPriority: optional\n"
        "Description: teach the four-stroke cycle and valve adjustment on any engine\n"
        " Turn the crank of an engine on the screen and see which cylinder is at\n"
        " compression TDC, which is in overlap, and which valves may be adjusted\n"
        " here. Plans, firing orders, degreeing, ignition, a record of jobs,\n"
        " lessons, and paper that is true to scale.\n"
    )


def copyright_text() -> str:
    """Debian's copyright file: the program, and the list of parts."""
    parts = (ROOT / "docs" / "licences.md").read_text("utf-8")
    return (
        f"True Compass {version()}: GPL-3.0-or-later, /usr/share/common-licenses/GPL-3\n\n{parts}"
    )


def build() -> Path:
    """The package; where it is."""
    on_bookworm = "VERSION_CODENAME=bookworm" in Path("/etc/os-release").read_text("utf-8")
    if platform.system() != "Linux" or not shutil.which("dpkg-deb"):
        stop("a .deb is built where dpkg-deb is: on Debian 12")
    if not on_bookworm:
        say("This is not Debian 12: the package may need a newer libc than it says.")
    shutil.rmtree(TREE, ignore_errors=True)
    home = TREE / "usr" / "lib" / NAME
    home.parent.mkdir(parents=True)
    shutil.copytree(freeze(), home, symlinks=True)
    command = TREE / "usr" / "bin" / NAME
    command.parent.mkdir()
    command.symlink_to(f"../lib/{NAME}/{NAME}")
    put_share(TREE / "usr")
    page = TREE / "usr" / "share" / "man" / "man1" / f"{NAME}.1"
    page.with_name(page.name + ".gz").write_bytes(gzip.compress(page.read_bytes(), 9, mtime=0))
    page.unlink()
    doc = TREE / "usr" / "share" / "doc" / NAME
    doc.mkdir(parents=True)
    (doc / "copyright").write_text(copyright_text(), encoding="utf-8")
    log = (ROOT / "CHANGELOG.md").read_bytes()
    (doc / "changelog.gz").write_bytes(gzip.compress(log, 9, mtime=0))
    set_times_and_modes(TREE)
    size = sum(path.lstat().st_size for path in TREE.rglob("*")) // 1024
    (TREE / "DEBIAN").mkdir()
    (TREE / "DEBIAN" / "control").write_text(control(size), encoding="utf-8")
    DIST.mkdir(exist_ok=True)
    path = DIST / f"{NAME}_{version()}_{architecture()}.deb"
    run("dpkg-deb", "--root-owner-group", "-Zxz", "--build", TREE, path, quiet=True)
    megabytes = f"{path.stat().st_size / 1e6:.1f} MB, {size / 1000:.0f} MB installed"
    say(f"{path.relative_to(ROOT)}: {megabytes}")
    return path


def set_times_and_modes(tree: Path) -> None:
    """One day and plain modes for every file."""
    for path in tree.rglob("*"):
        if not path.is_symlink():
            runs = path.is_dir() or os.access(path, os.X_OK)
            path.chmod(0o755 if runs else 0o644)
        os.utime(path, (int(EPOCH), int(EPOCH)), follow_symlinks=False)


if __name__ == "__main__":
    build()
