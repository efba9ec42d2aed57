"""The work without a mouse: a bench laptop's pad is dead under an oily thumb."""

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QHelpEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QToolTip, QWidget

from tests.conftest import MakeWindow
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.orders.workspace import OrdersWorkspace
from true_compass.app.workspaces.stops.doing import Typed
from true_compass.app.workspaces.stops.workspace import COMPARE, DO, WHERE, StopsWorkspace
from true_compass.app.workspaces.watch.workspace import WatchWorkspace
from true_compass.core.adjusting.schools import SCHOOLS
from true_compass.core.evidence.where import Look, Seen

Key = Qt.Key


def stops(window: MainWindow) -> StopsWorkspace:
    QTest.keyClick(window, Key.Key_S)
    assert isinstance(window.workspace, StopsWorkspace)
    return window.workspace


def tabbed_to(window: MainWindow, view: QWidget, most: int = 60) -> bool:
    """Whether Tab comes to a view within one round."""
    for _ in range(most):
        focus = window.focusWidget()
        if focus is view:
            return True
        QTest.keyClick(focus if focus is not None else window, Key.Key_Tab)
    return False


def hover(view: QWidget, at: QPointF) -> str:
    spot = at.toPoint()
    QToolTip.hideText()
    event = QHelpEvent(QEvent.Type.ToolTip, spot, view.mapToGlobal(spot))
    QApplication.sendEvent(view, event)
    return QToolTip.text()


def test_schools_by_the_arrows(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    assert tabbed_to(window, workspace.schools)
    words = [school.word for school in SCHOOLS]
    QTest.keyClick(workspace.schools, Key.Key_Down)
    QTest.keyClick(workspace.schools, Key.Key_Down)
    assert workspace.model.word == words[2]
    QTest.keyClick(workspace.schools, Key.Key_End)
    QTest.keyClick(workspace.schools, Key.Key_Down)
    assert workspace.model.word == words[-1]
    workspace.show_page(COMPARE)
    QTest.keyClick(workspace.compare, Key.Key_Up)
    assert workspace.model.word == words[-2]
    QTest.keyClick(workspace.compare, Key.Key_Home)
    assert workspace.model.word == words[0]
    # Keys of the whole window still reach it from here.
    QTest.keyClick(workspace.compare, Key.Key_PageDown)
    assert window.session.state.crank_deg == 90.0


def test_a_whole_plan_by_return_and_the_turn_button(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    workspace.show_page(DO)
    sheets, model = workspace.sheets, workspace.model
    QTest.keyClicks(workspace.measured, "0.31")
    assert "tighter" in " ".join(workspace.next_item.typed.advice)
    for _ in range(6):
        QTest.keyClick(sheets, Key.Key_Return)
    assert len(model.done) == 6
    # What was measured at one item says nothing about the next.
    assert (workspace.measured.text(), workspace.next_item.typed) == ("", Typed())
    # Nothing is due here any more: return does nothing until the crank is turned on.
    QTest.keyClick(sheets, Key.Key_Return)
    assert len(model.done) == 6
    assert tabbed_to(window, workspace.next_button)
    QTest.keyClick(workspace.next_button, Key.Key_Space)
    assert window.session.state.crank_deg == 360.0
    for _ in range(6):
        QTest.keyClick(sheets, Key.Key_Enter)
    assert model.round.finished
    QTest.keyClick(sheets, Key.Key_Up)
    assert model.place == 0
    QTest.keyClick(sheets, Key.Key_Up)
    assert model.place == 0
    QTest.keyClick(sheets, Key.Key_Down)
    assert model.place == 1


def test_signs_are_ticked_from_box_to_box(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    workspace.show_page(WHERE)
    where = workspace.where
    window.grab()
    QTest.keyClick(where, Key.Key_Return)
    assert where.seen == []
    for key in (Key.Key_Down, Key.Key_Down, Key.Key_Right, Key.Key_Right, Key.Key_Space):
        QTest.keyClick(where, key)
    assert where.seen == [Seen(Look.OPENING, "E1")]
    for key in (Key.Key_Right, Key.Key_Return):
        QTest.keyClick(where, key)
    assert where.seen == [Seen(Look.CLOSING, "E1")]
    # At the edge the arrows stay where they are.
    for _ in range(20):
        QTest.keyClick(where, Key.Key_Right)
    QTest.keyClick(where, Key.Key_Space)
    assert where.seen == []
    before = where.grab().toImage()
    for _ in range(40):
        QTest.keyClick(where, Key.Key_Down)
    QTest.keyClick(where, Key.Key_Space)
    assert len(where.seen) == 1
    assert where.seen[0].look in (Look.ROTOR, Look.PRESSURE)
    assert where.grab().toImage() != before


def test_orders_by_wheel_and_keys(open_window: MakeWindow) -> None:
    window = open_window("spruce")
    QTest.keyClick(window, Key.Key_O)
    assert isinstance(window.workspace, OrdersWorkspace)
    table = window.workspace.table
    assert tabbed_to(window, table)
    for key, goal in (
        (Key.Key_Home, 0),
        (Key.Key_Down, 1),
        (Key.Key_PageDown, 1 + table._visible),
        (Key.Key_PageUp, 1),
        (Key.Key_End, table.row_count - 1),
        (Key.Key_Down, table.row_count - 1),
    ):
        QTest.keyClick(table, key)
        assert table.chosen == min(goal, table.row_count - 1)
    at = QPointF(60, 120)
    for turned, rows in ((120, -1), (-120, 0), (-120, 0)):
        first = table._first
        event = QWheelEvent(
            at,
            QPointF(table.mapToGlobal(at)),
            QPoint(),
            QPoint(0, turned),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(table, event)
        assert 0 <= table._first <= max(0, table.row_count - table._visible)
        assert rows == 0 or table._first == max(first + rows, 0)


@pytest.mark.parametrize(
    ("rig", "spot", "says"),
    [
        ("cedar", (40.0, 150.0), "Cylinder 1"),
        ("cedar", (360.0, 150.0), "Cylinder 5"),
    ],
)
def test_an_end_view_says_a_cylinder_in_words(
    open_window: MakeWindow, rig: str, spot: tuple[float, float], says: str
) -> None:
    window = open_window(rig)
    watch = window.workspace
    assert isinstance(watch, WatchWorkspace)
    words = hover(watch.cells, QPointF(*spot))
    assert words.startswith(f"{says};")


def test_sheets_say_what_an_item_is_and_what_fools_a_sign(open_window: MakeWindow) -> None:
    window = open_window("hickory")
    workspace = stops(window)
    workspace.model.choose("eo-ic")
    workspace.show_page(DO)
    first = next(
        place
        for place, stop in enumerate(workspace.model.round.stops)
        if any(due.name == "B2" for due in stop.items)
    )
    workspace.model.go_to(first)
    window.grab()
    box = next(box for box, _, item in workspace.sheets._boxes if item and item.name == "B2")
    words = hover(workspace.sheets, box.center())
    assert words.startswith("B2: engine brake of cylinder 2\n0.60 mm (23.6 thou), ")
    assert "can mislead)" in hover(workspace.sheets, QPointF(60, 60))
