"""The Stops workspace, driven as a hand would."""

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication, QWidget

from tests.conftest import Answers, MakeWindow
from tests.qtest import QTest
from true_compass.app.paper.preview import Preview
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.stops.model import StopsModel
from true_compass.app.workspaces.stops.workspace import DO, TABS, StopsWorkspace
from true_compass.core.adjusting.schools import SCHOOLS
from true_compass.core.evidence.where import Look, Seen
from true_compass.core.state import AS_SET, WhatIf
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.session.work import deed_name

Key = Qt.Key


def preview_of(window: MainWindow) -> Preview:
    preview = window.findChild(Preview)
    assert preview is not None
    assert preview.isVisible()
    return preview


def stops(window: MainWindow) -> StopsWorkspace:
    QTest.keyClick(window, Key.Key_S)
    assert isinstance(window.workspace, StopsWorkspace)
    return window.workspace


def press(view: QWidget, at: QPointF) -> None:
    button, where = Qt.MouseButton.LeftButton, QPointF(view.mapToGlobal(at))
    keys = Qt.KeyboardModifier.NoModifier
    kind = QEvent.Type.MouseButtonPress
    QApplication.sendEvent(view, QMouseEvent(kind, at, where, button, button, keys))


@pytest.mark.parametrize("name", rig_names())
def test_every_rig_shows_every_school_and_page(open_window: MakeWindow, name: str) -> None:
    window = open_window(name)
    workspace = stops(window)
    for school in SCHOOLS:
        workspace.model.choose(school.word)
        window.grab()
    for page in TABS[1:]:
        workspace.show_page(page)
        window.grab()


def done(model: StopsModel) -> dict[str, str]:
    return {deed_name(deed): how for deed, how in model.done.items()}


def test_working_through_a_plan_with_the_buttons(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    model = workspace.model
    assert workspace.next_item.lines()[0].words == "I1 to 0.25 mm (9.8 thou)"
    workspace.set_button.click()
    assert done(model) == {"I1": "set"}
    workspace.leave_button.click()
    workspace.skip_button.click()
    assert done(model) == {"I1": "set", "E1": "left", "I2": "skipped"}
    workspace.back_button.click()
    assert model.round.next_item is not None
    assert model.round.next_item.name == "I2"
    while model.round.next_item is not None:
        workspace.set_button.click()
    assert (
        workspace.turn_button.text()
        == "Turn 360° on to stop 2, 360°: 584 mm on the damper, 132 teeth"
    )
    workspace.turn_button.click()
    assert window.session.state.crank_deg == 360.0
    assert model.place == 1
    while model.round.next_item is not None:
        workspace.set_button.click()
    assert model.round.finished
    assert workspace.next_item.lines()[0].words == "All set. Last round"
    workspace.again_button.click()
    assert done(model) == {}


def test_a_round_of_checking_then_only_what_is_out_of_band(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    model = workspace.model
    workspace.do_button.click()
    workspace.check_button.click()
    assert workspace.set_button.text() == "Out of band"
    assert "no nut is slackened" in " ".join(workspace.next_item.lines()[1])
    QTest.keyClicks(workspace.measured, "0.28")
    assert "accepted band, 0.20 to 0.30 mm" in " ".join(workspace.next_item.lines()[1])
    while not model.round.finished:
        while (item := model.round.next_item) is not None:
            off = item.name in ("E3", "I6")
            (workspace.set_button if off else workspace.leave_button).click()
        workspace.turn_button.click()
    assert workspace.next_item.lines()[0].words == "Checked: 2 out of band"
    window.close()
    again = stops(open_window("birch"))
    again.show_page("Do it")
    assert again.model.checking
    assert again.next_button.text() == "Set those: 2 items"
    again.next_button.click()
    assert not again.model.checking
    assert again.model.round.next_item is not None
    assert (again.model.place, again.model.round.next_item.name) == (0, "E3")
    again.turn_button.click()  # the crank still stood at the second stop
    again.set_button.click()
    again.turn_button.click()
    assert again.model.round.next_item is not None
    assert (again.model.place, again.model.round.next_item.name) == (1, "I6")
    again.set_button.click()
    assert again.next_item.lines()[0].words == "All set. Last round"
    assert again.grab().width() > 0


def test_a_row_ticked_on_a_round_of_checking_was_good(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    workspace.show_page(DO)
    workspace.check_button.click()
    window.grab()
    box = next(box for box, _, due in workspace.sheets._boxes if due and due.name == "E1")
    press(workspace.sheets, box.center())
    assert done(workspace.model) == {"E1": "left"}


def test_skipped_stops_come_back_last(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    model = workspace.model
    model.choose("firing-order")
    model.go_to(4)
    window.session.turn_to(model.round.stops[4].crank_deg)
    for _ in range(2):
        workspace.set_button.click()
    assert model.round.next_place == 5
    model.go_to(5)
    window.session.turn_to(model.round.stops[5].crank_deg)
    for _ in range(2):
        workspace.set_button.click()
    assert model.round.next_place == 0
    assert workspace.turn_button.isEnabled()


def test_the_sweep_counts_its_quarters(open_window: MakeWindow) -> None:
    hydraulic = next(n for n in rig_names() if demo_rig(n).train.hydraulic)
    workspace = stops(open_window(hydraulic))
    workspace.model.choose("quarter-turn")
    workspace.model.go_to(2)
    assert workspace.next_item.counted().startswith("Quarter 3 of 8.")


def test_rows_are_ticked_by_hand_and_progress_outlasts_a_close(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    window.grab()
    box, _, item = workspace.sheets._boxes[3]
    assert item is not None
    press(workspace.sheets, box.center())
    assert done(workspace.model) == {item.name: "set"}
    window.opener.open_rig("alder")
    assert done(workspace.model) == {}
    window.opener.open_rig("birch")
    assert done(workspace.model) == {item.name: "set"}
    workspace.model.choose("companion")
    window.close()
    again = open_window("birch")
    model = stops(again).model
    assert (model.word, done(model)) == ("companion", {item.name: "set"})


def test_turning_away_names_what_is_no_longer_free(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    window.session.turn_to(100.0)
    assert any(
        "Not free where the crank stands: I2" in line for line in workspace.next_item.lines()[1]
    )
    assert workspace.turn_button.text().startswith("Turn 620° on to stop 1, 0°: 1006 mm")


def test_after_overshooting_the_crank_comes_up_again(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    window.session.turn_to(8.0)
    assert workspace.turn_button.text() == "8° past 0°: go back well past, come up again"
    seen: list[float] = []
    window.session.subscribe(lambda _, after: seen.append(after.crank_deg))
    workspace.turn_button.click()
    assert seen[-2:] == [690.0, 0.0]
    QTest.keyClick(window, Key.Key_Backspace)
    assert window.session.state.crank_deg == 8.0
    # Half a degree is at the stop; further on it is the next time round.
    for at, words in (
        (0.3, "The crank stands at this stop"),
        (60.0, "Turn 660° on to stop 1, 0°: 1071 mm"),
    ):
        window.session.turn_to(at)
        assert workspace.turn_button.text().startswith(words)


def test_an_unsafe_plan_cannot_be_followed_or_printed(open_window: MakeWindow) -> None:
    window = open_window("linden")
    workspace = stops(window)
    engine = window.session.state.engine
    # The long cam of the trade on an inline five: two stops would be 2° off.
    intake = replace(engine.cam.intake, opens_before_deg=50.0, closes_after_deg=85.0, ramp_deg=25.0)
    exhaust = replace(
        engine.cam.exhaust, opens_before_deg=90.0, closes_after_deg=45.0, ramp_deg=25.0
    )
    window.session.edit(replace(engine, cam=replace(engine.cam, intake=intake, exhaust=exhaust)))
    assert workspace.model.plan is not None
    assert workspace.model.plan.safe  # the window begins with a method that can be followed
    workspace.model.choose("two-stop")
    assert workspace.model.plan.least_margin_deg == pytest.approx(-2.0)
    assert workspace.next_item.lines()[0].words == "Unsafe: do not follow"
    assert not workspace.card_button.isEnabled()
    workspace.show_page(DO)
    assert not workspace.set_button.isEnabled()
    window.grab()
    press(workspace.sheets, QPointF(100, 140))
    assert done(workspace.model) == {}
    # It leads on: one press, and there is a plan to follow.
    assert workspace.next_button.text().startswith("Use: Fewest stops, ")
    workspace.next_button.click()
    assert workspace.model.word == "fewest"
    assert workspace.model.usable is not None


def test_the_line_of_the_crank_stops_where_words_say_not_free(open_window: MakeWindow) -> None:
    window = open_window("hickory")
    stops(window).model.choose("two-stop")
    sheets = stops(window).sheets
    picture, now = sheets.grab().toImage(), window.look.theme.now
    lined = {True: 0, False: 0}
    for row, number, item in sheets._boxes:
        if item is not None and number == 0:
            middle = round(sheets._middle(row.adjusted(-4, 0, 4, 0)))
            inside = range(round(row.top()) + 2, round(row.bottom()) - 1)
            has_line = all(picture.pixelColor(middle, y) == now for y in inside)
            assert has_line == (item.margin_deg >= 0), item.name
            lined[has_line] += 1
    assert min(lined.values()) > 0


def test_what_is_only_tried_reaches_no_plan_and_no_card(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    workspace = stops(window)
    before, rows = workspace.model.plan, workspace.model.rows
    window.session.try_out(WhatIf(intake_advance_deg=20.0, exhaust_advance_deg=20.0))
    assert workspace.model.plan is before
    assert workspace.model.rows is rows
    assert "this is as set" in workspace.next_item.counted()
    cards = []
    for name in ("tried.svg", "set.svg"):
        answers.path = tmp_path / name
        workspace.card_button.click()
        preview_of(window).save_button.click()
        cards.append((tmp_path / name).read_text(encoding="utf-8"))
        window.session.try_out(AS_SET)
    assert cards[0] == cards[1]


def test_another_tdc_mark_to_begin_with_and_the_stop_that_comes_next(
    open_window: MakeWindow,
) -> None:
    window = open_window("birch")
    workspace = stops(window)
    workspace.more.click()
    assert workspace.model.plan is not None
    assert [stop.crank_deg for stop in workspace.model.plan.stops] == [120.0, 480.0]
    window.session.turn_to(200.0)
    workspace.here_button.click()
    assert workspace.model.place == 1
    workspace.fewer.click()
    assert [stop.crank_deg for stop in workspace.model.plan.stops] == [0.0, 360.0]


def test_a_measured_gap_becomes_degrees_of_screw(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    QTest.keyClicks(workspace.measured, "0.35")
    assert "24° tighter" in " ".join(workspace.next_item.typed.advice)
    workspace.measured.clear()
    QTest.keyClicks(workspace.measured, "x")
    assert "must be a length" in workspace.next_item.typed.refused


def test_a_click_takes_a_school_and_a_solved_plan_is_asked_for_more(
    open_window: MakeWindow,
) -> None:
    window = open_window("cedar")
    workspace = stops(window)
    window.grab()
    schools = workspace.schools
    press(schools, QPointF(60, 66 + schools.row_height * 10.5))
    assert workspace.model.word == "most-margin"
    before = workspace.model.plan
    assert before is not None
    workspace.more.click()
    after = workspace.model.plan
    assert after is not None
    assert len(after.stops) == len(before.stops) + 1
    assert after.least_margin_deg > before.least_margin_deg
    for _ in range(4):
        workspace.fewer.click()
    assert workspace.model.plan is not None
    assert len(workspace.model.plan.stops) == 2  # one stop cannot be, and is refused


def test_the_comparison_is_live_while_the_duration_is_dragged(open_window: MakeWindow) -> None:
    window = open_window("sycamore")
    workspace = stops(window)
    workspace.show_page("Compare")
    compare = workspace.compare
    usual = compare.rows[0].plan
    assert usual is not None
    compare.slider.set_value(40.0)
    tried = compare.rows[0].plan
    assert tried is not None
    assert tried.least_margin_deg == pytest.approx(usual.least_margin_deg - 20.0, abs=0.1)
    window.grab()
    assert window.session.state.engine.cam.intake.opens_before_deg == 24.0
    workspace.use_button.click()
    assert window.session.state.engine.cam.intake.opens_before_deg == 44.0
    window.session.undo()
    assert window.session.state.engine.cam.intake.opens_before_deg == 24.0
    workspace.show_page("Compare")
    compare.slider.set_value(60.0)
    assert workspace.use_button.text() == "Keep this cam, use it"
    QTest.keyClick(window, Key.Key_Backspace)
    assert compare.tried is None
    assert workspace.use_button.text() == "Use this plan"
    press(compare, QPointF(100, 108 + compare._row_height * 2.5))
    assert workspace.model.word == "firing-order"


def test_where_am_i(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    workspace.show_page("Where am I?")
    where = workspace.where
    window.grab()
    assert where.answer()[0] == "Tick what you see"
    assert where.answer()[1].startswith("Look next: Is ")
    cell = next(box for box, sign in where._boxes if sign == Seen(Look.LOOSE, "I1"))
    press(where, cell.center())
    assert where.seen == [Seen(Look.LOOSE, "I1")]
    cell = next(box for box, sign in where._boxes if sign == Seen(Look.CLOSING, "I1"))
    press(where, cell.center())
    # A valve that moves is not loose.
    assert where.seen == [Seen(Look.CLOSING, "I1")]
    where.toggle(Seen(Look.PRESSURE, "1"))
    where.toggle(Seen(Look.ROTOR, "6"))
    window.grab()
    assert where.answer()[0] == "These signs contradict each other"
    assert "can mislead" in where.answer()[1]
    assert not workspace.there_button.isEnabled()
    workspace.clear_button.click()
    assert where.seen == []
    # One stretch of over 100° is no place to begin from.
    for sign in (Seen(Look.CLOSING, "I3"), Seen(Look.LOOSE, "E5")):
        where.toggle(sign)
    assert len(where.places.arcs(where.places.left_by(where.seen))) == 1
    assert workspace.there_button.text() == "Narrow it to 20° or less first"
    where.clear()
    # Cylinder 6 rocks: its exhaust closes, its intake opens. The crank stands near 0°.
    where.toggle(Seen(Look.ROCKING, "6"))
    where.toggle(Seen(Look.STILL, "1"))
    assert workspace.there_button.text() == "Put the crank at 0° ± 4°: begin from there"
    where.clear()
    where.toggle(Seen(Look.ROCKING, "1"))
    where.toggle(Seen(Look.STILL, "6"))
    assert workspace.there_button.text() == "Put the crank at 360° ± 4°: begin from there"
    workspace.there_button.click()
    assert (window.session.state.crank_deg, workspace.model.place) == (360.0, 1)
    assert workspace.page == "Plan"


def test_the_shop_card_is_written_where_asked(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("cedar")
    workspace = stops(window)
    answers.path = tmp_path / "card"
    workspace.card_button.click()
    preview = preview_of(window)
    preview.save_button.click()
    assert answers.suggested == "cedar-two-stop.pdf"
    assert (tmp_path / "card.pdf").read_bytes().startswith(b"%PDF")
    answers.path = tmp_path / "no" / "card.pdf"
    preview.save_button.click()
    assert "could not be written" in window.note.text
