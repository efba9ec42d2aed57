"""What is installed: the same wheel twice, desktop files that hold together, lists that are true.

Making pages and a .deb needs tools that are no part of the tests: `make install`, `make deb` and
`make chroot` are run by hand, and before a release.
"""

import configparser
import re
import shutil
import subprocess
import sys
import xml.etree.ElementTree as ET
import zipfile
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage
from PyQt6.QtSvg import QSvgRenderer
from tools.audit import report
from tools.packaging import install
from tools.packaging.common import EPOCH, shipped_names
from tools.packaging.icons import FOLDER, SIZES, picture
from tools.packaging.share import PLACES, quoted

from true_compass.entry import OTHER_FILES
from true_compass.files.engine_file import SUFFIX
from true_compass.files.kinds import FileKind, kind_by_name
from true_compass.version import VERSION

ROOT = Path(__file__).resolve().parents[2]
DATA = ROOT / "packaging"


def test_two_wheels_are_the_same_and_hold_the_program(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", EPOCH)
    wheels = []
    for name in ("one", "two"):
        words = ["-m", "hatchling", "build", "-t", "wheel", "-d", str(tmp_path / name)]
        subprocess.run([sys.executable, *words], check=True, cwd=ROOT, capture_output=True)
        (wheel,) = (tmp_path / name).glob("*.whl")
        wheels.append(wheel)
    assert wheels[0].name == f"true_compass-{VERSION}-py3-none-any.whl"
    assert wheels[0].read_bytes() == wheels[1].read_bytes()
    names = zipfile.ZipFile(wheels[0]).namelist()
    for needed in (
        *("true_compass/entry.py", "true_compass/look/parts.json", "true_compass/look/tokens.json"),
        *("true_compass/rigs/birch.engine.toml", "true_compass/look/fonts/OFL.txt"),
    ):
        assert needed in names
    assert not [name for name in names if name.startswith(("tests", "tools")) or ".pyc" in name]


class AsWritten(configparser.RawConfigParser):
    """Keys of a desktop file keep their capitals."""

    def optionxform(self, optionstr: str) -> str:
        return optionstr


def desktop_entry() -> configparser.SectionProxy:
    parser = AsWritten()
    parser.read(DATA / "true-compass.desktop", encoding="utf-8")
    return parser["Desktop Entry"]


def mime_globs() -> dict[str, str]:
    """MIME type by the ending of its files."""
    space = "{http://www.freedesktop.org/standards/shared-mime-info}"
    root = ET.parse(DATA / "true-compass-mime.xml").getroot()
    return {
        glob.attrib["pattern"].removeprefix("*"): kind.attrib["type"]
        for kind in root.iter(f"{space}mime-type")
        for glob in kind.iter(f"{space}glob")
    }


def test_every_kind_of_file_that_a_double_click_opens_has_its_type() -> None:
    globs = mime_globs()
    assert SUFFIX in globs
    assert sorted(map(str, map(kind_by_name, globs))) == sorted(
        map(str, (FileKind.ENGINE, *OTHER_FILES))
    )
    entry = desktop_entry()
    assert set(filter(None, entry["MimeType"].split(";"))) == set(globs.values())
    told = ET.parse(DATA / "org.example.TrueCompass.metainfo.xml").getroot()
    assert {one.text for one in told.iter("mediatype")} == set(globs.values())


def test_the_desktop_file_starts_the_program() -> None:
    """Desktop Entry Specification 1.5: Type, Name and Exec; %f is one file. From memory."""
    entry = desktop_entry()
    assert (entry["Type"], entry["Exec"]) == ("Application", "true-compass %f")
    assert set(filter(None, entry["Categories"].split(";"))) == {"Education", "Engineering"}
    assert "Version" not in entry
    text = (DATA / "true-compass.desktop").read_text("utf-8")
    for line in re.findall(r"^Exec=(.*)$", text, re.MULTILINE):
        options = [word for word in line.split()[1:] if word.startswith("--")]
        assert set(options) <= {"--new-window", "--demo"}


@pytest.mark.parametrize("folder", ["/usr/bin", "/srv/all of us", '/odd/$HOME/"50 %"\\x'])
def test_a_desktop_starts_the_command_wherever_it_was_put(folder: str) -> None:
    """By the specification's own two steps: the string's backslashes, then the quoted argument."""
    line = f"{quoted(f'{folder}/true-compass')} %f"
    argument = line.replace("\\\\", "\\")
    if argument.startswith('"'):
        told = re.fullmatch(r'"((?:[^"\\]|\\.)*)" %f', argument)
        assert told is not None
        argument = re.sub(r'\\(["`$\\])', r"\1", told[1])
    else:
        argument = argument.removesuffix(" %f")
    assert argument.replace("%%", "%") == f"{folder}/true-compass"


def test_the_metainfo_tells_this_version() -> None:
    path = DATA / "org.example.TrueCompass.metainfo.xml"
    assert f'<release version="{VERSION}"' in path.read_text("utf-8")
    if shutil.which("appstreamcli"):
        words = ["appstreamcli", "validate", "--no-net", str(path)]
        told = subprocess.run(words, check=False, capture_output=True, text=True)
        assert told.returncode == 0, told.stdout


@pytest.mark.usefixtures("qapp")
def test_icons_are_there_at_every_size_and_are_those_that_are_drawn() -> None:
    for size in SIZES:
        image = QImage(str(FOLDER / f"true-compass-{size}.png"))
        assert (image.width(), image.height()) == (size, size)
        assert image.convertToFormat(QImage.Format.Format_ARGB32) == picture(size)
        # The ground is dark and the rim light: it can be told apart on both kinds of desktop.
        values = [image.pixelColor(x, size // 2).value() for x in range(size)]
        assert max(values) - min(values) > 150
    assert QSvgRenderer(str(FOLDER / "true-compass.svg")).isValid()
    assert all((DATA / name).is_file() for name in PLACES)


def test_the_lists_of_what_ships_agree_with_the_lock() -> None:
    page = (ROOT / "docs" / "licences.md").read_text("utf-8").lower().replace("_", "-")
    assert [name for name in shipped_names() if f"| {name} |" not in page] == []


def test_uninstalling_leaves_only_what_is_a_persons_own(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    prefix = tmp_path / "local"
    home, other = (
        prefix / "lib" / "true-compass",
        prefix / "share" / "applications" / "other.desktop",
    )
    own = prefix / "share" / "true-compass" / "book.tcbook"
    monkeypatch.setattr(install, "PREFIX", prefix)
    monkeypatch.setattr(install, "HOME", home)
    monkeypatch.setattr(install, "RECORD", home / "installed.txt")
    monkeypatch.setattr(install, "tell_the_desktop", lambda: None)
    put = [prefix / "bin" / "true-compass", *(prefix / place for place in PLACES.values())]
    for path in (*put, other, own, home / "venv" / "bin" / "python"):
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text("x", encoding="utf-8")
    (home / "installed.txt").write_text("\n".join(map(str, put)), encoding="utf-8")
    install.uninstall()
    assert sorted(path for path in prefix.rglob("*") if path.is_file()) == sorted((other, own))
    assert not (prefix / "lib").exists()
    assert ".local/share/true-compass" in capsys.readouterr().out
    with pytest.raises(SystemExit, match="nothing is installed"):
        install.uninstall()


def test_an_audit_that_reached_nothing_is_not_called_a_clean_one() -> None:
    known = {"name": "a", "version": "1", "vulns": []}
    bad = {"name": "b", "version": "2", "vulns": [{"id": "GHSA-x", "fix_versions": ["2.1"]}]}
    skipped = {"name": "c", "skip_reason": "not found"}
    assert report([{"dependencies": [skipped]}])[0] == 2
    assert report([{"dependencies": [known]}, {"dependencies": [skipped]}]) == (
        0,
        "No advisory is known for 1 of 2 libraries.\nThe index knows nothing of: c.",
    )
    assert report([{"dependencies": [known, bad]}]) == (1, "b 2: GHSA-x, mended in 2.1")
