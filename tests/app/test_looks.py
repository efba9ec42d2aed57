"""What holds for every workspace: themes, sizes, names read out, targets large enough."""

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLineEdit, QWidget

from tests.conftest import MakeWindow
from tests.qtest import QTest
from true_compass.app.keeping.settings import Settings
from true_compass.app.keys import DigitKeys
from true_compass.app.registry import WORKSPACES
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import TEXT_SIZES, Look, Painted
from true_compass.app.window.glossary import CODES
from true_compass.app.window.window import MainWindow
from true_compass.session.store import Store, Troubles

Key = Qt.Key
PLACES = range(len(WORKSPACES))
LEAST_TARGET = 32


def open_place(window: MainWindow, place: int) -> QWidget:
    QTest.keyClick(window, WORKSPACES[place].key)
    QApplication.processEvents()
    return window.workspace


def visible(parent: QWidget, kind: type[QWidget]) -> list[QWidget]:
    return [view for view in parent.findChildren(kind) if view.isVisible()]


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("rig", ["ash", "cedar", "aspen"])
@pytest.mark.parametrize("size", [(700, 460), (1000, 700), (1920, 1080)])
def test_every_workspace_draws_at_every_size(
    open_window: MakeWindow, place: int, rig: str, size: tuple[int, int]
) -> None:
    window = open_window(rig, size=size)
    open_place(window, place)
    for percent in TEXT_SIZES:
        window.look.set_text_percent(percent)
        picture = window.grab().toImage()
        assert (picture.width(), picture.height()) == size


@pytest.mark.parametrize("place", PLACES)
def test_every_workspace_follows_the_theme(open_window: MakeWindow, place: int) -> None:
    window = open_window("cedar")
    workspace = open_place(window, place)
    light = workspace.grab().toImage()
    window.look.toggle_dark()
    dark = workspace.grab().toImage()
    paper = window.look.theme.paper.name()
    spots = [(x, y) for x in range(4, 1270, 60) for y in range(4, 650, 60)]
    same = [spot for spot in spots if light.pixel(*spot) == dark.pixel(*spot)]
    assert len(same) < len(spots) * 0.15
    assert any(dark.pixelColor(*spot).name() == paper for spot in spots)
    window.look.toggle_dark()
    assert workspace.grab().toImage() == light


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("rig", ["birch", "cedar", "acacia"])
def test_everything_that_takes_the_keyboard_has_a_name(
    open_window: MakeWindow, place: int, rig: str
) -> None:
    window = open_window(rig)
    open_place(window, place)
    for view in visible(window, QWidget):
        if view.focusPolicy() != Qt.FocusPolicy.NoFocus and isinstance(
            view, (Painted, QAbstractButton, QLineEdit, QComboBox)
        ):
            assert view.accessibleName(), view


@pytest.mark.parametrize("place", PLACES)
def test_targets_are_large_enough_for_a_dirty_finger(open_window: MakeWindow, place: int) -> None:
    window = open_window("cedar")
    open_place(window, place)
    for view in visible(window, DrawnButton):
        assert view.height() >= LEAST_TARGET, view


@pytest.mark.parametrize("place", PLACES)
def test_a_workspace_does_the_same_after_another_engine_was_open(
    open_window: MakeWindow, place: int
) -> None:
    window = open_window("cedar")
    before = open_place(window, place).grab().toImage()
    for rig in ("acacia", "ash", "spruce", "cedar"):
        window.opener.open_rig(rig)
        window.grab()
    assert window.workspace.grab().toImage() == before


def test_the_same_state_paints_the_same_picture(open_window: MakeWindow) -> None:
    window = open_window("acacia")
    window.session.turn_to(123.0)
    first = window.grab().toImage()
    for step in range(0, 720, 90):
        window.session.turn_to(float(step))
        window.grab()
    window.session.turn_to(123.0)
    assert window.grab().toImage() == first


def test_a_button_answers_keys_and_leaves_the_others_alone(open_window: MakeWindow) -> None:
    window = open_window("birch")
    button = window.turn_bar.step_buttons[-1]
    button.setFocus(Qt.FocusReason.TabFocusReason)
    window.grab()
    QTest.keyClick(button, Key.Key_Space)
    assert window.session.state.crank_deg == 180.0
    QTest.keyClick(button, Key.Key_Return)
    assert window.session.state.crank_deg == 360.0
    QTest.keyClick(button, Key.Key_Right)
    assert window.session.state.crank_deg == 361.0


def test_a_click_leaves_the_keyboard_where_it_was(open_window: MakeWindow) -> None:
    window = open_window("birch")
    QTest.mouseClick(window.turn_bar.step_buttons[-1], Qt.MouseButton.LeftButton)
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Space)
    assert window.session.state.crank_deg == 240.0


def test_changing_the_view_keeps_the_keyboard_on_the_ring(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    ring = window.workspace.focus_first()
    ring.setFocus()
    QTest.keyClick(ring, Key.Key_V)
    assert QApplication.focusWidget() is ring


def test_focus_shows_only_when_it_came_by_the_keyboard(open_window: MakeWindow) -> None:
    window = open_window("birch")
    ring = window.workspace.focus_first()
    ring.clearFocus()
    ring.setFocus(Qt.FocusReason.MouseFocusReason)
    by_pointer = ring.grab().toImage()
    ring.clearFocus()
    ring.setFocus(Qt.FocusReason.TabFocusReason)
    assert ring.grab().toImage() != by_pointer


def test_unknown_keys_are_left_to_others(open_window: MakeWindow) -> None:
    window = open_window("birch")
    event = QKeyEvent(QEvent.Type.KeyPress, Key.Key_F7, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(window, event)
    assert not event.isAccepted()


@pytest.mark.parametrize(
    ("count", "typed", "went"),
    [
        (6, [3], [3]),
        (6, [9], []),
        (12, [1, 2], [12]),
        (12, [7], [7]),
        (18, [1, 8, 2], [18, 2]),
        (14, [1, 9], []),
    ],
)
def test_two_digits_make_one_cylinder(
    look_parent: QWidget, count: int, typed: list[int], went: list[int]
) -> None:
    seen: list[int] = []
    digits = DigitKeys(seen.append, lambda: count, look_parent)
    for digit in typed:
        digits.press(digit)
    assert seen == went


def test_one_digit_of_many_waits_for_a_second(look_parent: QWidget) -> None:
    seen: list[int] = []
    digits = DigitKeys(seen.append, lambda: 12, look_parent)
    digits.press(1)
    assert seen == []
    QTest.qWait(700)
    assert seen == [1]


@pytest.fixture
def look_parent(qapp: QApplication) -> QWidget:
    return QWidget()


@pytest.mark.parametrize(("percent", "kept"), [(100, 100), (125, 125), (150, 150), (9000, 100)])
def test_text_sizes_are_remembered(
    tmp_path_factory: pytest.TempPathFactory, percent: int, kept: int
) -> None:
    store = Store(tmp_path_factory.mktemp("settings"), Troubles())
    look, settings = Look(), Settings(store)
    look.set_text_percent(percent)
    look.set_dark(True)
    look.set_still(True)
    settings.remember_look(look)
    settings.write()
    other = Look()
    Settings(store).restore_look(other)
    assert (other.text_percent, other.dark, other.still) == (kept, True, True)
    assert not other.projector


def test_the_help_explains_every_code_in_words() -> None:
    words = " ".join(f"{left} {right}" for left, right in CODES)
    for term in ("compression TDC", "overlap TDC", "margin", "Companion", "Ramp", "thou", "free"):
        assert term.lower() in words.lower()
