"""One cylinder over its cycle, the lens on the chart, and lash and advance to try."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QHelpEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QToolTip, QWidget

from tests.conftest import Answers, MakeWindow
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.engine.workspace import FIGURES, EngineWorkspace
from true_compass.app.workspaces.watch.cycle.page import CyclePage, Tab
from true_compass.app.workspaces.watch.cycle.trying import TrySlider
from true_compass.app.workspaces.watch.workspace import View, WatchWorkspace
from true_compass.core.items import Kind
from true_compass.core.state import AS_SET
from true_compass.files.rigs import rig_names

Key = Qt.Key


def watch(window: MainWindow) -> WatchWorkspace:
    workspace = window.pages.of(window.entries[0])
    assert isinstance(workspace, WatchWorkspace)
    return workspace


def cycle_page(window: MainWindow) -> CyclePage:
    QTest.keyClick(window, Key.Key_T)
    assert watch(window).view is View.CYCLE
    return watch(window).cycle


def mouse(view: QWidget, kind: QEvent.Type, at: QPointF) -> None:
    button, where = Qt.MouseButton.LeftButton, QPointF(view.mapToGlobal(at))
    keys = Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(view, QMouseEvent(kind, at, where, button, button, keys))


def drag(view: QWidget, start: QPointF, end: QPointF) -> None:
    mouse(view, QEvent.Type.MouseButtonPress, start)
    mouse(view, QEvent.Type.MouseMove, end)
    mouse(view, QEvent.Type.MouseButtonRelease, end)


def slider(page: CyclePage, field: str) -> TrySlider:
    return next(made for made in page.sliders if field in made.fields)


@pytest.mark.parametrize("name", rig_names())
def test_every_rig_shows_every_panel(open_window: MakeWindow, name: str) -> None:
    window = open_window(name)
    page = cycle_page(window)
    for tab in Tab:
        page.show_tab(tab)
        for crank in (0.0, 200.0, 350.0):
            window.session.turn_to(crank)
            window.grab()
        assert page.panels[tab].text_twin()
    for made in page.sliders:
        made.set_value(0.05 if "lash" in made.fields[0] else 4.0)
    window.grab()


def test_a_dragged_lash_is_tried_and_one_key_goes_back(open_window: MakeWindow) -> None:
    window = open_window("alder")
    page = cycle_page(window)
    before = page.model.cycle.times
    lash = slider(page, "intake_lash_mm")
    drag(lash, QPointF(80, 30), QPointF(lash.width() * 0.6, 30))
    tried = window.session.state.shown.what_if
    assert tried.intake_lash_mm > 0.1
    after = page.model.cycle.times
    assert after.valves[0].own_deg(True) > before.valves[0].own_deg(True)  # type: ignore[operator]
    assert page.model.cycle.as_set == before
    assert page.as_set_button.isVisible()
    window.grab()
    assert "Wider lash" in page.panels[Tab.OVERLAP].text_twin()
    # The rest of Watch shows it too, and says so; the engine itself is untouched.
    QTest.keyClick(window, Key.Key_T)
    assert watch(window)._context.headline()[1].startswith("Trying I lash +")
    assert not window.session.state.edited
    QTest.keyClick(window, Key.Key_Backspace)
    assert window.session.state.shown.what_if == AS_SET
    assert page.model.cycle.times == before


def test_sliders_obey_arrows_and_keep_within_reach(open_window: MakeWindow) -> None:
    window = open_window("whitebeam")
    page = cycle_page(window)
    # Two camshafts: each kind has an advance of its own.
    advance = slider(page, "exhaust_advance_deg")
    assert advance.fields == ("exhaust_advance_deg",)
    advance.setFocus()
    QTest.keyClick(advance, Key.Key_Right)
    assert window.session.state.shown.what_if.exhaust_advance_deg == 0.5
    advance.set_value(999.0)
    assert window.session.state.shown.what_if.exhaust_advance_deg == 20.0
    lash = slider(page, "intake_lash_mm")
    lash.set_value(-9.0)
    # Lash never goes below nothing.
    assert window.session.state.shown.what_if.intake_lash_mm == -0.2
    page.as_set_button.click()
    assert window.session.state.shown.what_if == AS_SET


def test_one_camshaft_moves_both_kinds(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = cycle_page(window)
    assert slider(page, "intake_advance_deg").fields == (
        "intake_advance_deg",
        "exhaust_advance_deg",
    )


def test_stepping_through_the_cylinders(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = cycle_page(window)
    page.after.click()
    assert page.model.cylinder == 2
    page.before.click()
    page.before.click()
    assert page.model.cylinder == 6
    window.opener.open_rig("ash")
    assert page.model.cylinder == 1
    assert not page.after.isVisible()


def test_the_bead_on_the_lap_turns_the_crank(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = cycle_page(window)
    lap = page.lap
    middle = lap.centre
    drag(lap, middle + QPointF(0, -80), middle + QPointF(80, 0))
    assert window.session.state.crank_deg == pytest.approx(180.0, abs=1.0)


def test_events_come_in_order_from_here(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = cycle_page(window)
    page.show_tab(Tab.EVENTS)
    window.session.turn_to(241.0)
    panel = page.panels[Tab.EVENTS]
    events = panel.events()  # type: ignore[attr-defined]
    assert [words for _, words, _ in events[:2]] == ["E4 closes", "E5 opens"]
    assert events[0][2] == ("exhaust valve of cylinder 4 closes", "exhaust closes")
    assert len(events) == 24 + 6
    assert [on for on, _, _ in events] == sorted(on for on, _, _ in events)


def test_a_valve_that_lash_keeps_shut_is_told_and_drawn(open_window: MakeWindow) -> None:
    window = open_window("alder")
    page = cycle_page(window)
    from true_compass.core.state import WhatIf

    window.session.try_out(WhatIf(intake_lash_mm=50.0))
    window.grab()
    words = page.panels[Tab.OVERLAP].text_twin()
    assert "The lash takes up the whole lobe: I1 never opens" in words


def test_the_lens_follows_the_hand_in_quarters_of_a_degree(open_window: MakeWindow) -> None:
    window = open_window("birch")
    window.session.turn_to(240.0)
    chart = watch(window).chart
    window.grab()
    QTest.keyClick(window, Key.Key_Z)
    assert chart.lens_on
    assert watch(window).lens_button.text() == "Lap"
    window.grab()
    drag(chart, QPointF(300, 150), QPointF(300, 130))
    moved = window.session.state.crank_deg - 240.0
    assert 0 < moved < 10
    assert moved % 0.25 == 0
    for rig in ("oak", "ash", "acacia"):
        window.opener.open_rig(rig)
        window.grab()
    QTest.keyClick(window, Key.Key_Z)
    assert not chart.lens_on


def test_every_code_has_its_full_name_on_hover(open_window: MakeWindow) -> None:
    window = open_window("hickory")
    page = cycle_page(window)
    spot = QPoint(60, 60)
    for view in (page.lap, page.panels[Tab.OVERLAP]):
        told = QHelpEvent(QEvent.Type.ToolTip, spot, view.mapToGlobal(spot))
        QApplication.sendEvent(view, told)
        assert "I1: intake valves of cylinder 1" in QToolTip.text()
        assert "U1: unit injector of cylinder 1" in QToolTip.text()
    QTest.keyClick(window, Key.Key_T)
    chart = watch(window).chart
    spot = QPoint(chart.width() - 40, 60)
    told = QHelpEvent(QEvent.Type.ToolTip, spot, chart.mapToGlobal(spot))
    QApplication.sendEvent(chart, told)
    assert "E6: exhaust valves of cylinder 6" in QToolTip.text()


TABLE = "cam_deg,lift_mm\n" + "".join(
    f"{5 * i},{lift:.2f}\n"
    for i, lift in enumerate(
        [0, 0.1, 0.4, 1.4, 3.0, 4.6, 5.9, 6.8, 7.1, 6.8, 5.9, 4.6, 3.0, 1.4, 0.4, 0.1, 0]
    )
)


def test_a_lift_table_drives_a_kind_of_valve(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("alder")
    window.go_to("Engine", FIGURES)
    workspace = window.workspace
    assert isinstance(workspace, EngineWorkspace)
    answers.path = tmp_path / "lobe.csv"
    answers.path.write_text("0,0\n", encoding="utf-8")
    before = window.session.state.engine
    workspace.tables[0].click()
    assert "has no head" in window.note.text
    assert window.session.state.engine is before
    answers.path.write_text(TABLE, encoding="utf-8")
    workspace.tables[0].click()
    table = window.session.state.engine.cam.intake.table
    assert table is not None
    assert len(table.angles_deg) == 17
    field = workspace.form.inputs["table.intake"]
    assert isinstance(field, QLineEdit)
    assert field.text() == "17 rows"
    assert window.session.state.engine.cam.exhaust == before.cam.exhaust
    window.session.undo()
    assert window.session.state.engine.cam.timing(Kind.INTAKE).table is None


def test_a_card_typed_in_takes_the_place_of_the_events(open_window: MakeWindow) -> None:
    window = open_window("alder")
    window.go_to("Engine", FIGURES)
    workspace = window.workspace
    assert isinstance(workspace, EngineWorkspace)
    for path, text in (
        ("card.lobe_separation_cam_deg", "110"),
        ("card.intake.duration", "248 seat, 214 1mm@tappet"),
        ("card.intake.lobe_lift_mm", "6.6"),
        ("card.exhaust.duration", "248 seat"),
        ("card.exhaust.lobe_lift_mm", "6.4"),
    ):
        field = workspace.form.inputs[path]
        assert isinstance(field, QLineEdit)
        field.setFocus()
        field.setText(text)
        field.textEdited.emit(text)
    assert workspace.form.problem is None
    engine = window.session.state.engine
    assert engine.card is not None
    assert engine.cam.intake.opens_before_deg == pytest.approx(14.0)
    events = workspace.form.inputs["cam.intake_opens_btdc_deg"]
    assert isinstance(events, QLineEdit)
    assert events.text() == ""
    field = workspace.form.inputs["card.intake.duration"]
    assert isinstance(field, QLineEdit)
    field.setText("248 seat, 247 1mm@tappet")
    field.textEdited.emit(field.text())
    assert "no smooth lobe" in str(workspace.form.problem)
    assert window.session.state.engine == engine
