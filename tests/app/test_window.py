"""Files, looks, notes and what outlasts a close, in the real window."""

import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QApplication, QWidget

from tests.conftest import Answers, MakeWindow
from tests.hand import Hand
from tests.qtest import QTest
from true_compass.app import main
from true_compass.app.registry import WORKSPACES
from true_compass.app.widgets.look import Painted
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.watch.workspace import WatchWorkspace
from true_compass.files.rigs import rig_names, rig_text

Key = Qt.Key


FIXTURE = Path(__file__).resolve().parents[1] / "fixtures" / "v1" / "alder.engine.toml"
ALDER = FIXTURE.read_text(encoding="utf-8")


def menu_action(window: MainWindow, words: str) -> QAction:
    QTest.mouseClick(window.strip.menu_button, Qt.MouseButton.LeftButton)
    window.lists.menu.hide()
    actions = window.lists.menu.actions()
    return next(action for action in actions if action.text().startswith(words))


@pytest.fixture
def single(tmp_path: Path) -> Path:
    path = tmp_path / "single.engine.toml"
    text = ALDER.replace('"1-3-4-2"', '"1"').replace("cylinders = 4", "cylinders = 1")
    path.write_text(text.replace("Rig Alder", "Bench single"), encoding="utf-8")
    return path


@pytest.fixture
def wrong(tmp_path: Path) -> Path:
    path = tmp_path / "wrong.engine.toml"
    path.write_text(ALDER.replace("143.5", "20\nbor_mm = 3"), encoding="utf-8")
    return path


def test_the_rig_picker_opens_each_demo_rig(open_window: MakeWindow) -> None:
    window = open_window("birch")
    for name in rig_names():
        QTest.mouseClick(window.strip.picker, Qt.MouseButton.LeftButton)
        found = window.lists.found
        assert found is not None
        QTest.keyClicks(found.field, f"rig {name}")
        QTest.keyClick(found.field, Key.Key_Return)
        assert not found.isVisible()
        assert window.session.state.source.rig == name
        assert window.windowTitle().startswith(f"Rig {name.capitalize()}")
        assert isinstance(window.workspace, WatchWorkspace)
        assert len(window.workspace.columns) == window.session.state.engine.cylinder_count


def test_any_engine_file_opens_from_the_picker(
    open_window: MakeWindow, answers: Answers, single: Path
) -> None:
    window = open_window("birch")
    menu_action(window, "Open engine file").trigger()
    assert window.session.state.source.rig == "birch"
    answers.path = single
    menu_action(window, "Open engine file").trigger()
    assert window.session.state.engine.name == "Bench single"
    assert "Bench single" in window.strip.picker.accessibleName()


def test_a_dropped_file_opens_and_anything_else_is_left_alone(
    open_window: MakeWindow, single: Path
) -> None:
    window = open_window("birch")
    assert Hand(window).drop(single, single)
    assert window.note.text == "2 files at once: drop one at a time. Nothing was opened."
    assert window.session.state.source.rig == "birch"
    assert Hand(window).drop(single)
    assert window.session.state.source.path == single


def test_a_wrong_file_is_explained_and_the_engine_goes_on_turning(
    open_window: MakeWindow, wrong: Path
) -> None:
    window = open_window("birch")
    before = wrong.read_bytes()
    assert Hand(window).drop(wrong)
    assert window.note.isVisible()
    assert window.note.text.startswith("wrong.engine.toml: line 17: dimensions.rod_mm must be")
    assert window.note.more.text() == "Show all 2"
    QTest.mouseClick(window.note.more, Qt.MouseButton.LeftButton)
    assert [text.split()[2] for _, text in window.sheet.rows] == [
        "dimensions.rod_mm",
        "dimensions.bor_mm",
    ]
    QTest.keyClick(window.sheet, Key.Key_Escape)
    assert not window.sheet.isVisible()
    QTest.keyClick(window, Key.Key_PageDown)
    assert (window.session.state.source.rig, window.session.state.crank_deg) == ("birch", 90.0)
    assert wrong.read_bytes() == before


def test_an_edited_file_is_read_again_where_the_crank_stands(
    open_window: MakeWindow, single: Path
) -> None:
    window = open_window("birch")
    Hand(window).drop(single)
    window.session.turn_to(77.0)
    single.write_text(single.read_text().replace("Bench single", "Old single"), encoding="utf-8")
    QTest.keyClick(window, Key.Key_F5)
    assert window.session.state.engine.name == "Old single"
    assert window.session.state.crank_deg == 77.0
    single.write_text("nonsense", encoding="utf-8")
    QTest.keyClick(window, Key.Key_F5)
    assert window.session.state.engine.name == "Old single"
    assert window.note.problem


def test_a_copy_of_a_rig_keeps_its_comments(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    answers.path = tmp_path / "copy.engine.toml"
    menu_action(window, "Save a copy").trigger()
    assert answers.suggested == "rig-birch.engine.toml"
    assert answers.path.read_text(encoding="utf-8") == rig_text("birch")
    answers.path = tmp_path / "no such folder" / "copy.engine.toml"
    menu_action(window, "Save a copy").trigger()
    assert "was not saved" in window.note.text


@pytest.mark.parametrize("kind", ["rig", "file"])
def test_closing_and_reopening_returns_to_the_same_rig_and_angle(
    open_window: MakeWindow, single: Path, kind: str
) -> None:
    window = open_window("birch")
    if kind == "file":
        Hand(window).drop(single)
    window.session.turn_to(123.456)
    QTest.keyClick(window, Key.Key_D)
    window.close()
    again = open_window()
    state = again.session.state
    assert state.source == window.session.state.source
    assert state.engine == window.session.state.engine
    assert state.crank_deg == 123.456
    assert again.look.theme.name == "dark"
    again.look.set_dark(False)


def test_a_remembered_file_that_has_gone_wrong_gives_way_to_a_demo_rig(
    open_window: MakeWindow, single: Path
) -> None:
    window = open_window("birch")
    Hand(window).drop(single)
    window.close()
    single.write_text("nonsense", encoding="utf-8")
    again = open_window()
    assert again.session.state.source.rig == main.FIRST_RIG
    assert "single.engine.toml" in again.note.text


def test_settings_that_make_no_sense_count_as_not_there(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    folder = tmp_path / "settings"
    folder.mkdir()
    (folder / "settings.ini").write_text(
        "[engine]\nrig=teak\ncrank_deg=nan\n[look]\ntext_percent=9000\ndark=maybe\n"
        "[hints]\ndrags=x\n[window]\ngeometry=rubbish\n",
        encoding="utf-8",
    )
    window = open_window()
    assert window.session.state.source.rig == main.FIRST_RIG
    assert (window.look.text_percent, window.look.dark) == (100, False)


def ground(view: QWidget) -> str:
    return view.grab().toImage().pixelColor(2, view.height() - 3).name()


def test_every_view_follows_the_theme(open_window: MakeWindow) -> None:
    window = open_window("birch")
    views = [view for view in window.findChildren(Painted) if view.isVisible()]
    assert len(views) > 12
    light = [ground(view) for view in views]
    QTest.keyClick(window, Key.Key_D)
    dark = [ground(view) for view in views]
    assert all(one != other for one, other in zip(light, dark, strict=True))
    QTest.keyClick(window, Key.Key_D)
    assert [ground(view) for view in views] == light


def test_projector_and_text_size_scale_everything(open_window: MakeWindow) -> None:
    window = open_window("birch")
    bar = window.turn_bar.height()
    QTest.keyClick(window, Key.Key_P)
    assert window.turn_bar.height() == round(bar * 1.5)
    assert not window.strip.isVisible()
    window.reveal_strip(QPoint(300, 4))
    assert window.strip.isVisible()
    window.reveal_strip(QPoint(300, 400))
    assert not window.strip.isVisible()
    QTest.keyClick(window, Key.Key_P)
    window.look.set_text_percent(125)
    assert window.turn_bar.height() == round(bar * 1.25)


@pytest.mark.parametrize("size", [(640, 420), (900, 600), (1280, 720), (1920, 1080)])
def test_nothing_lies_outside_the_window_or_the_scrolled_middle(
    open_window: MakeWindow, size: tuple[int, int]
) -> None:
    window = open_window("birch", size=size)
    for view in window.workspace.findChildren(Painted):
        if view.isVisible():
            assert window.workspace.rect().contains(view.geometry()), view
    for button in (window.turn_bar.next_tdc, window.strip.picker):
        parent = button.parentWidget()
        assert parent is not None
        assert parent.rect().contains(button.geometry())


def test_a_very_long_name_stays_in_its_box(open_window: MakeWindow, single: Path) -> None:
    text = single.read_text(encoding="utf-8")
    single.write_text(text.replace("Bench single", "W" * 120), encoding="utf-8")
    window = open_window("birch")
    Hand(window).drop(single)
    assert window.session.state.engine.name == "W" * 120
    window.strip.picker.grab()


def test_help_shows_every_key_and_goes_again(open_window: MakeWindow) -> None:
    window = open_window("birch")
    QTest.keyClick(window, Key.Key_F1)
    shown = " ".join(left for left, _ in window.sheet.rows)
    for key in ("Space", "Full stop", "Backspace", "Page Down", "F10", "Drag the ring"):
        assert key in shown
    QTest.mouseClick(window.sheet.close_button, Qt.MouseButton.LeftButton)
    assert not window.sheet.isVisible()


@pytest.mark.parametrize("place", range(len(WORKSPACES)))
def test_every_workspace_opens_by_its_letter_and_its_tab(
    open_window: MakeWindow, place: int
) -> None:
    window = open_window("birch")
    QTest.keyClick(window, WORKSPACES[place].key)
    assert window.workspace is window.pages.of(window.entries[place])
    QTest.mouseClick(window.strip.tabs[place], Qt.MouseButton.LeftButton)
    assert window.strip.tabs[place].isChecked()


def test_an_error_in_a_slot_is_told_and_logged(
    open_window: MakeWindow,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    window = open_window("birch")
    hook_before = sys.excepthook
    monkeypatch.setattr(sys, "excepthook", hook_before)
    main.catch_everything(tmp_path / "log")
    error = RuntimeError("a slot broke")
    sys.excepthook(RuntimeError, error, None)
    assert window.note.problem
    assert "a slot broke" in (tmp_path / "log" / "true-compass.log").read_text()
    assert "a slot broke" in capsys.readouterr().err
    assert QApplication.topLevelWidgets()
