"""The real window, driven offscreen as a hand would."""

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QHelpEvent, QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QToolTip, QWidget
from pytestqt.qtbot import QtBot

from tests.conftest import MakeWindow
from tests.qtest import QTest
from true_compass.app.widgets.steps import StepButton
from true_compass.app.window.teller import TURNED_BACK
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.watch.ring_view import RingView
from true_compass.app.workspaces.watch.workspace import WatchWorkspace
from true_compass.drawing.ring import BEAD_AT, lap_direction

NONE = Qt.KeyboardModifier.NoModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
CTRL = Qt.KeyboardModifier.ControlModifier
ALT = Qt.KeyboardModifier.AltModifier
Key = Qt.Key


def watch(window: MainWindow) -> WatchWorkspace:
    workspace = window.workspace
    assert isinstance(workspace, WatchWorkspace)
    return workspace


def angle(window: MainWindow) -> float:
    return window.session.state.crank_deg


def mouse(view: QWidget, kind: QEvent.Type, at: QPointF, keys: Qt.KeyboardModifier = NONE) -> None:
    button = Qt.MouseButton.LeftButton
    where = QPointF(view.mapToGlobal(at))
    QApplication.sendEvent(view, QMouseEvent(kind, at, where, button, button, keys))


def on_ring(ring: RingView, cycle_deg: float, radius: float = BEAD_AT) -> QPointF:
    return QPointF(ring.width() / 2, 236) + lap_direction(cycle_deg, 1) * radius


def drag(
    ring: RingView, start: float, end: float, keys: Qt.KeyboardModifier = NONE, steps: int = 20
) -> None:
    mouse(ring, QEvent.Type.MouseButtonPress, on_ring(ring, start), keys)
    for step in range(1, steps + 1):
        at = on_ring(ring, start + (end - start) * step / steps)
        mouse(ring, QEvent.Type.MouseMove, at, keys)
    mouse(ring, QEvent.Type.MouseButtonRelease, on_ring(ring, end), keys)


def wheel(view: QWidget, up: int, keys: Qt.KeyboardModifier = NONE) -> None:
    at = QPointF(view.width() / 2, view.height() / 2)
    where = QPointF(view.mapToGlobal(at))
    phase = Qt.ScrollPhase.NoScrollPhase
    buttons = Qt.MouseButton.NoButton
    turn = QPoint(0, 120 * up)
    QApplication.sendEvent(
        view, QWheelEvent(at, where, QPoint(), turn, buttons, keys, phase, False)
    )


def test_dragging_the_ring_turns_the_crank_under_the_hand(open_window: MakeWindow) -> None:
    window = open_window("birch")
    window.session.turn_to(240.0)
    ring = watch(window).ring
    drag(ring, 100.0, 157.0)
    assert angle(window) == pytest.approx(297.0, abs=0.5)
    # All the way round and over 720°: 297 + 560 - 720.
    drag(ring, 0.0, 560.0, steps=80)
    assert angle(window) == pytest.approx(137.0, abs=0.5)


def test_a_drag_snaps_near_a_firing_tdc_unless_alt_is_held(open_window: MakeWindow) -> None:
    window = open_window("birch")
    ring = watch(window).ring
    drag(ring, 50.0, 50.0 + 118.8)
    assert angle(window) == 120.0
    window.session.turn_to(0.0)
    drag(ring, 50.0, 50.0 + 118.8, ALT)
    assert angle(window) == pytest.approx(118.8, abs=0.2)


def test_a_press_beside_the_ring_turns_nothing(open_window: MakeWindow) -> None:
    window = open_window("birch")
    ring = watch(window).ring
    mouse(ring, QEvent.Type.MouseButtonPress, QPointF(4, 60))
    mouse(ring, QEvent.Type.MouseMove, QPointF(200, 4))
    assert angle(window) == 0.0


@pytest.mark.parametrize(
    ("up", "keys", "goal"),
    [(1, NONE, 5.0), (-1, NONE, 715.0), (3, SHIFT, 3.0), (1, CTRL, 30.0), (-2, CTRL, 660.0)],
)
def test_the_wheel(
    open_window: MakeWindow, up: int, keys: Qt.KeyboardModifier, goal: float
) -> None:
    window = open_window("birch")
    wheel(watch(window).ring, up, keys)
    assert angle(window) == goal


@pytest.mark.parametrize(
    ("key", "keys", "goal"),
    [
        (Key.Key_Right, NONE, 241.0),
        (Key.Key_Left, SHIFT, 235.0),
        (Key.Key_Right, CTRL, 270.0),
        (Key.Key_PageUp, NONE, 150.0),
        (Key.Key_PageDown, CTRL, 420.0),
        (Key.Key_Space, NONE, 360.0),
        (Key.Key_Space, SHIFT, 120.0),
        (Key.Key_Period, NONE, 250.0),
        (Key.Key_Comma, NONE, 228.0),
        (Key.Key_5, NONE, 120.0),
    ],
)
def test_the_keys(
    open_window: MakeWindow, key: Qt.Key, keys: Qt.KeyboardModifier, goal: float
) -> None:
    window = open_window("birch")
    window.session.turn_to(240.0)
    QTest.keyClick(watch(window).ring, key, keys)
    assert angle(window) == pytest.approx(goal, abs=1e-5)


def test_backspace_goes_back_to_where_the_jump_began(open_window: MakeWindow) -> None:
    window = open_window("birch")
    window.session.turn_to(33.0)
    QTest.keyClick(window, Key.Key_6)
    assert angle(window) == 360.0
    QTest.keyClick(window, Key.Key_Backspace)
    assert angle(window) == 33.0


def test_the_buttons(open_window: MakeWindow) -> None:
    window = open_window("birch")
    bar = window.turn_bar
    for button in bar.step_buttons:
        assert isinstance(button, StepButton)
        before = angle(window)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        assert angle(window) == (before + button.step_deg) % 720
    QTest.mouseClick(bar.next_tdc, Qt.MouseButton.LeftButton)
    assert angle(window) == 120.0
    assert bar.next_tdc.second() == "cylinder 3, 120° on"


def test_a_jump_sweeps_on_and_a_new_key_ends_it_at_its_goal(
    open_window: MakeWindow, qtbot: QtBot
) -> None:
    window = open_window("birch", still=False)
    seen: list[float] = []
    window.bridge.turned.connect(lambda: seen.append(angle(window)))
    QTest.keyClick(window, Key.Key_4)
    qtbot.waitUntil(lambda: angle(window) == 600.0, timeout=3000)
    assert len(seen) > 2
    assert seen == sorted(seen)
    QTest.keyClick(window, Key.Key_PageDown)
    assert window.turner.sweeping
    QTest.keyClick(window, Key.Key_Right)
    assert angle(window) == (600.0 + 90.0 + 1.0) % 720


def test_turning_back_says_why_not(open_window: MakeWindow) -> None:
    window = open_window("birch")
    QTest.keyClick(window, Key.Key_Right)
    assert not window.note.isVisible()
    QTest.keyClick(window, Key.Key_Left)
    assert window.note.isVisible()
    assert window.note.text == TURNED_BACK


def test_dragging_the_chart_moves_the_cursor(open_window: MakeWindow) -> None:
    window = open_window("birch")
    chart = watch(window).chart
    middle = QPointF(chart.width() / 2, 10 + chart.chart_height / 2)
    mouse(chart, QEvent.Type.MouseButtonPress, middle)
    assert angle(window) == pytest.approx(360.0, abs=1.5)
    mouse(chart, QEvent.Type.MouseMove, QPointF(5, 9000))
    assert angle(window) < 720.0
    mouse(chart, QEvent.Type.MouseButtonRelease, middle)


def test_a_cylinder_is_thickened_by_pointer_keyboard_and_pin(open_window: MakeWindow) -> None:
    window = open_window("birch")
    view = watch(window)
    column = view.columns[2]
    mouse(view.ring, QEvent.Type.MouseMove, on_ring(view.ring, 0.0))
    assert view.selection.strong == 1
    view.ring.leaveEvent(None)
    column.setFocus(Qt.FocusReason.TabFocusReason)
    assert view.selection.strong == 3
    column.clearFocus()
    assert view.selection.strong is None
    QTest.mouseClick(column, Qt.MouseButton.LeftButton)
    assert view.selection.pinned == 3
    QTest.mouseClick(column, Qt.MouseButton.LeftButton)
    assert view.selection.pinned is None
    ring_bead = on_ring(view.ring, 0.0)
    mouse(view.ring, QEvent.Type.MouseButtonPress, ring_bead)
    mouse(view.ring, QEvent.Type.MouseButtonRelease, ring_bead)
    assert view.selection.pinned == 1


def test_tab_goes_from_the_ring_through_the_columns(open_window: MakeWindow) -> None:
    window = open_window("birch")
    view = watch(window)
    view.ring.setFocus()
    for column in view.columns:
        QTest.keyClick(QApplication.focusWidget(), Key.Key_Tab)
        assert QApplication.focusWidget() is column


def test_a_smaller_engine_takes_the_keyboard_back_to_the_ring(open_window: MakeWindow) -> None:
    window = open_window("birch")
    watch(window).columns[2].setFocus()
    window.opener.open_rig("ash")
    assert window.focusWidget() is watch(window).ring
    assert len(watch(window).columns) == 1


def test_a_chip_says_its_whole_meaning_on_hover(open_window: MakeWindow) -> None:
    window = open_window("birch")
    window.session.turn_to(240.0)
    column = watch(window).columns[0]
    spot = column.chip_boxes()[0].center().toPoint()
    event = QHelpEvent(QEvent.Type.ToolTip, spot, column.mapToGlobal(spot))
    QApplication.sendEvent(column, event)
    assert QToolTip.text() == "I1, intake valve of cylinder 1: free, margin 88°"
    QToolTip.hideText()


def test_the_ring_has_a_twin_in_words(open_window: MakeWindow, qtbot: QtBot) -> None:
    window = open_window("birch")
    window.session.turn_to(240.0)
    ring = watch(window).ring
    qtbot.waitUntil(lambda: "240 degrees" in ring.accessibleDescription(), timeout=3000)
    said = ring.accessibleDescription()
    assert "Cylinder 3: compression TDC. Companion 4: overlap TDC." in said
    assert "Free: I1 88°, E2 90°, I3 114°, E3 110°, I5 208°, E6 210°." in said


def test_the_first_hint_goes_after_three_drags(open_window: MakeWindow) -> None:
    window = open_window("birch")
    view = watch(window)
    for n in range(3):
        assert view.headline.show_hint, n
        drag(view.ring, 0.0, 40.0)
    assert not view.headline.show_hint


def test_a_small_window_leaves_out_chart_and_dials_until_asked(open_window: MakeWindow) -> None:
    window = open_window("birch", size=(1000, 640))
    view = watch(window)
    assert view.compact
    assert (view.chart.isVisible(), view.dials.isVisible()) == (False, False)
    assert view.adjust_here.isVisible()
    QTest.keyClick(window, Key.Key_V)
    assert view.chart.isVisible()
    assert not view.columns[0].chip_boxes()
    window.resize(1280, 800)
    assert not view.compact
    assert view.chart.isVisible()
    assert view.dials.isVisible()
