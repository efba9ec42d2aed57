"""One window a person: a second start hands over; what went wrong inside is told and kept."""

import json
import os
import socket
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QApplication

from tests.conftest import MakeWindow
from true_compass.app import main as app
from true_compass.app.keeping.fault_report import (
    MOST_KEPT,
    keep_report,
    report_text,
    without_person,
)
from true_compass.app.registry import WORKSPACES
from true_compass.app.window.first_window import FirstWindow
from true_compass.cli.handing_over import answers, hand_over, read_asked, socket_path
from true_compass.cli.versions import shipped_parts, version_text
from true_compass.entry import OTHER_FILES, main
from true_compass.files.rigs import rig_text
from true_compass.version import VERSION

NOW = datetime(2026, 11, 27, 10, tzinfo=UTC)


def handed(path: Path, asked: dict[str, str]) -> bool:
    """Hand over from a second start, while the first window goes on."""
    with ThreadPoolExecutor(1) as pool:
        waits = pool.submit(hand_over, path, asked)
        while not waits.done():
            QApplication.processEvents()
        return waits.result()


def test_a_second_start_is_opened_by_the_first_window(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    window = open_window("birch")
    at = tmp_path / "w.sock"
    first = FirstWindow(window, at)
    assert first.listens
    assert handed(at, {"rig": "cedar"})
    assert window.session.state.source.rig == "cedar"
    engine = tmp_path / "mine.engine.toml"
    engine.write_text(rig_text("olive"), encoding="utf-8")
    window.showMinimized()
    assert handed(at, {"path": str(engine)})
    assert window.session.state.source.path == engine
    assert not window.isMinimized()
    # A wrong file is told by the window; the engine that is open goes on turning.
    engine.write_text("nonsense = [", encoding="utf-8")
    assert handed(at, {"path": str(engine)})
    assert "mine.engine.toml" in window.note.text
    # Nothing to open only brings it to the front.
    assert handed(at, {})
    # A window of its own leaves the first one listening.
    assert answers(at)
    first.forget()
    assert not answers(at)
    assert not hand_over(at, {"rig": "alder"})


def test_what_a_kill_left_behind_does_not_stop_the_next_start(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    at = tmp_path / "w.sock"
    with socket.socket(socket.AF_UNIX) as dead:
        dead.bind(str(at))
    assert not hand_over(at, {"rig": "cedar"})
    first = FirstWindow(open_window("birch"), at)
    assert first.listens
    first.forget()


@pytest.mark.parametrize(
    "data",
    [b"", b"nonsense", b"[]", b'{"rig": 1}', b'{"run": "rm"}', b"9" * 30000],
)
def test_what_is_no_request_is_refused(data: bytes) -> None:
    assert read_asked(data) is None


def test_the_socket_is_in_a_folder_of_ones_own(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    short = Path(tempfile.mkdtemp(prefix="tc"))
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(short / "run"))
    one, other = socket_path(tmp_path / "a"), socket_path(tmp_path / "b")
    assert one is not None
    assert one != other
    assert one.parent.stat().st_mode & 0o077 == 0
    one.parent.chmod(0o777)
    assert socket_path(tmp_path / "a") is None
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path / ("long" * 40)))
    assert socket_path(tmp_path / "a") is None


def test_every_kind_of_file_that_a_window_opens_can_be_named(tmp_path: Path) -> None:
    assert set(OTHER_FILES) == {entry.opens for entry in WORKSPACES if entry.opens}
    assert main([str(tmp_path / "gone.tcbook")]) == 2


def test_versions(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["--version"]) == 0
    told = capsys.readouterr().out
    assert told.startswith(f"True Compass {VERSION}\nPython 3.")
    assert "PyQt6 6." in told
    assert "numpy 2." in told


def test_about_names_every_part_that_ships(open_window: MakeWindow) -> None:
    window = open_window("birch")
    window.teller.show_about()
    rows = dict(window.sheet.rows)
    assert rows["Licence"].startswith("GPL-3.0-or-later")
    assert "GPL-3.0-only" in rows["PyQt6"]
    lock = Path(__file__).parents[2].joinpath("requirements.lock").read_text("utf-8")
    locked = {line.partition("==")[0].lower() for line in lock.splitlines() if "==" in line}
    build = {"editables", "hatchling", "packaging", "pathspec", "pluggy", "trove-classifiers"}
    named = {part.name.lower().replace("_", "-") for part in shipped_parts()}
    assert locked - build <= named


# A fault ----------------------------------------------------------------------------------------


def test_a_fault_is_told_and_its_report_can_be_copied(
    open_window: MakeWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = open_window("birch")
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    app.catch_everything(tmp_path / "log")
    home = os.path.expanduser("~")
    error = RuntimeError(f"no such thing in {home}/engines/secret.engine.toml")
    sys.excepthook(RuntimeError, error, None)
    window.note.more.click()
    told = " ".join(words for _, words in window.sheet.rows)
    assert "no such thing in ~/engines" in told
    assert version_text().split("\n")[0] in told
    window.sheet.choice_buttons[0].click()
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    assert "RuntimeError" in clipboard.text()
    (kept,) = (tmp_path / "log").glob("report-*.txt")
    assert kept.read_text("utf-8") == clipboard.text()


def test_a_report_names_no_person() -> None:
    try:
        json.loads("{")
    except ValueError as error:
        text = report_text(ValueError, error, error.__traceback__, "/home/ines", "ines")
    assert "/home" not in text
    assert "True Compass" in text
    told = without_person(
        'File "/home/ines/lib/site-packages/true_compass/app/x.py", in ines of /home/joel/a',
        "/home/ines",
        "ines",
    )
    assert told == 'File "…/true_compass/app/x.py", in someone of ~/a'


def test_only_the_newest_reports_stay(tmp_path: Path) -> None:
    for nth in range(MOST_KEPT + 5):
        keep_report(tmp_path, f"{nth}", NOW + timedelta(seconds=nth))
    kept = sorted(tmp_path.glob("report-*.txt"))
    assert len(kept) == MOST_KEPT
    assert kept[-1].read_text("utf-8") == str(MOST_KEPT + 4)
