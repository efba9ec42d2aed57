"""The Ignition in the real window: a six put right from signs to strobe, and the other pages."""

import sys
from dataclasses import replace
from typing import Any

import pytest
from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from tests.conftest import MakeWindow
from tests.hand import Hand
from tests.painted import painted_texts
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.ignition.workspace import (
    COILS,
    CURVE,
    FIT,
    LAMP,
    LEADS,
    PAGES,
    SIGNS,
    SPIN,
    IgnitionWorkspace,
)
from true_compass.core.ignition.bay import Step, can_be_wrong, made_wrong, signs, what_is_wrong
from true_compass.core.ignition.fitting import wrong_states
from true_compass.core.ignition.lamp import How, Suspect
from true_compass.core.ignition.spin import Seen
from true_compass.core.ignition.stand import sound
from true_compass.core.rotation import Rotation
from true_compass.drawing.text import draw_one_of
from true_compass.files.rigs import demo_rig

Key = Qt.Key


def ignition_of(window: MainWindow, page: str = "") -> IgnitionWorkspace:
    QTest.keyClick(window, Key.Key_I)
    assert isinstance(window.workspace, IgnitionWorkspace)
    if page:
        tab = next(tab for tab in window.workspace.tabs if tab.text() == page)
        tab.click()
    return window.workspace


def screen(view: QWidget, at: QPointF) -> QPoint:
    scale = view.look.scale  # type: ignore[attr-defined]
    return QPoint(round(at.x() * scale), round(at.y() * scale))


def dragged(view: QWidget, begin: QPointF, end: QPointF) -> None:
    """A drag with a stop half-way, as a hand does it."""
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=screen(view, begin))
    QTest.mouseMove(view, screen(view, (begin + end) / 2))
    QTest.mouseMove(view, screen(view, end))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=screen(view, end))


def read_lamp(page: IgnitionWorkspace) -> None:
    """Every reading that the page asks for, as the lamp, the pump and the stop show it."""
    lamping = page.lamping
    while lamping.found.next_row is not None and len(lamping.found.left) != 1:
        asked = lamping.asked
        if asked.how is How.PUMP:
            leaks = lamping.model.bay.faults.can_leaks
            (page.lamp.falls if leaks else page.lamp.holds).click()
            continue
        shown = lamping.model.bay.faults.crept_deg if asked.how is How.STOP else lamping.shows_deg
        QTest.keyClicks(page.lamp.field, f"{shown:.1f}")
        QTest.keyClick(page.lamp.field, Key.Key_Return)
        assert not lamping.refused


# Done when ----------------------------------------------------------------------------------------


def test_a_six_with_the_rotor_a_tooth_out_and_two_leads_swapped_is_put_right(
    open_window: MakeWindow,
) -> None:
    window = open_window("birch")
    page = ignition_of(window, SIGNS)
    page.signs.make(("rotor-tooth", "leads-swapped"), 4, hidden=True)
    model = page.model
    assert signs(model.standing)[0].said.startswith("It does not start")
    assert len(what_is_wrong(model.standing)) == 2
    assert not model.standing.runs
    # Leads: the wrong end is dragged to its own plug, and the other one changes with it.
    page.signs.where[0].click()
    assert page.page == LEADS
    result = model.standing.judged
    assert result.meaning.slug == "swapped-2-4"
    wrong = result.wrong[0]
    plugs = page.leads.map.map.plugs
    dragged(page.leads.map, plugs[wrong.lead_to], plugs[wrong.own])
    assert model.standing.judged.meaning.slug == "right"
    # Fit: all steps; the body has no room, so another tooth is taken.
    next(tab for tab in page.tabs if tab.text() == FIT).click()
    for step in tuple(Step)[:6]:
        page.fit.steps.press(step)
    assert window.session.state.crank_deg == pytest.approx(710.0)
    # What is wrong is hidden: the rows have their names, and the figures are not told.
    rows = page.fit.ways.rows
    assert not any("°" in words for words in painted_texts(page.fit.ways))
    nth = next(n for n, way in enumerate(rows) if way.name == "tooth on, this post")
    row = QPointF(40, 30 + 30.0 * nth + 15)
    QTest.mouseClick(page.fit.ways, Qt.MouseButton.LeftButton, pos=screen(page.fit.ways, row))
    assert abs(model.standing.fitted.body_turn_deg(model.engine)) < 10
    page.fit.steps.press(Step.BODY)
    page.fit.steps.press(Step.CLAMP)
    assert set(model.bay.done) == set(Step)
    # Strobe: every reading as it should be.
    next(tab for tab in page.tabs if tab.text() == LAMP).click()
    read_lamp(page)
    assert page.lamping.found.headline == "Everything is as it should be"
    assert what_is_wrong(model.standing) == ()
    next(tab for tab in page.tabs if tab.text() == SIGNS).click()
    assert signs(model.standing)[0].said == "It starts and runs."
    # Everything is undone in order, and kept over a close.
    while window.session.undo_words:
        window.session.undo()
    assert not model.bay.hidden


def test_a_drawn_fault_is_hidden_from_every_page_until_it_is_said(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page, hand = ignition_of(window, SIGNS), Hand(window)
    hand.press("The distributor is a crank turn out")
    hand.press("Hide what is wrong")
    hand.press("Fit")
    told = " ".join(painted_texts(page.fit) + painted_texts(page.fit.wrong))
    assert told.startswith("Not fitted yet")
    assert "One crank turn out" not in told
    assert not any(state.is_now for state in wrong_states(page.model.told))
    hand.press("Leads")
    assert not any("✓" in words or "right" in words for words in painted_texts(page.leads))
    hand.press("Signs")
    hand.press("The leads are laid against the rotor")
    hand.press("That is wrong")
    assert "Not that, or not that alone. Look again." in painted_texts(page.signs)
    assert page.model.bay.hidden
    hand.press("The leads are laid against the rotor")
    hand.press("The distributor is a crank turn out")
    hand.press("That is wrong")
    assert "Right." in painted_texts(page.signs)
    assert not page.model.bay.hidden
    hand.press("Fit")
    assert "One crank turn out" in painted_texts(page.fit)
    hand.press("Lift it out: one crank turn")
    assert what_is_wrong(page.model.standing) == ()


def test_fitting_tells_how_far_it_is(open_window: MakeWindow) -> None:
    page, hand = ignition_of(window := open_window("birch"), FIT), Hand(window)
    heads = [painted_texts(page.fit)[0]]
    for _ in Step:
        row = page.fit.steps.row_box(tuple(Step).index(page.model.bay.next_step or Step.TURNS))
        hand.click(page.fit.steps, QPointF(screen(page.fit.steps, row.center())))
        heads.append(painted_texts(page.fit)[0])
    assert heads[0].startswith("Not fitted yet: ")
    assert heads[2].startswith("Step 3 of 8: ")
    assert heads[-1] == "Fitted. Now the lamp"


def test_two_swapped_leads_are_found_and_changed_without_a_failed_try(
    open_window: MakeWindow,
) -> None:
    """By a hand that sees posts, plugs and the order in the strip, while the answer is hidden."""
    window = open_window("birch")
    page, hand = ignition_of(window, SIGNS), Hand(window)
    hand.press("Two leads are swapped")
    hand.press("Hide what is wrong")
    hand.press("Cap and plugs")
    assert any("Drag a plug end onto another plug" in words for words in painted_texts(page.leads))
    strip = demo_rig("birch").firing_order
    seen = page.model.standing.wired
    wrong = next(plug for plug, due in zip(seen, strip, strict=True) if plug != due)
    due = strip[seen.index(wrong)]
    plugs = page.leads.map.map.plugs
    dragged(page.leads.map, plugs[wrong], plugs[due])
    assert page.model.standing.judged.meaning.slug == "right"
    hand.press("Signs")
    assert "Everything is right" in painted_texts(page.signs)


# Leads --------------------------------------------------------------------------------------------


def test_leads_by_keys_and_kept_over_a_close(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    page = ignition_of(window, LEADS)
    model, view = page.model, page.leads.map
    QTest.keyClick(view, Key.Key_Down)
    assert model.post == 2
    QTest.keyClick(view, Key.Key_6)
    assert model.standing.judged.meaning.slug == "swapped-5-6"
    model.pick(2)
    assert window.session.state.crank_deg == pytest.approx(85.0)
    window.close()
    again = open_window("cedar")
    page = ignition_of(again, LEADS)
    assert page.model.standing.judged.meaning.slug == "swapped-5-6"
    QTest.keyClick(page.leads.map, Key.Key_Return)
    assert page.model.standing.judged.meaning.slug == "right"
    page.leads.off.click()
    assert page.model.standing.judged.moves == 8
    page.leads.hide_answer.click()
    for post, cylinder in enumerate(page.model.order, start=1):
        page.model.pick(post)
        QTest.keyClick(page.leads.map, Key(Key.Key_0.value + cylinder))
    assert page.model.standing.judged.meaning.slug == "right"


def test_a_lead_let_go_beside_every_plug_stays_where_it_was(open_window: MakeWindow) -> None:
    window = open_window("aspen")
    page = ignition_of(window, LEADS)
    view = page.leads.map
    before = page.model.standing.wired
    dragged(view, view.map.plugs[9], QPointF(8, 8))
    assert page.model.standing.wired == before
    # On a radial of fourteen two digits name a plug.
    page.model.pick(1)
    QTest.keyClicks(view, "12")
    assert page.model.standing.wired[0] == 12
    assert len(page.model.standing.judged.wrong) == 2


# Fit ----------------------------------------------------------------------------------------------


def test_the_body_is_dragged_and_stops_where_it_meets_something(open_window: MakeWindow) -> None:
    window = open_window("sycamore")
    page = ignition_of(window, FIT)
    view, model = page.fit.map, page.model
    turns = window.session.undo_words
    centre, reach = view.map.centre, view.map.radius - 10
    begin, end = centre + QPointF(0, reach), centre + QPointF(-reach, 0)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=screen(view, begin))
    QTest.mouseMove(view, screen(view, (begin + end) / 2))
    assert window.session.undo_words == turns  # not before the hand lets go
    QTest.mouseMove(view, screen(view, end))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=screen(view, end))
    assert model.standing.fitted.body_deg == 14.0
    assert window.session.undo_words == "turning the body"
    window.session.undo()
    assert model.standing.fitted == sound(model.engine)
    QTest.keyClick(view, Key.Key_Up)
    assert model.standing.fitted.body_deg - sound(model.engine).body_deg == pytest.approx(
        0.5, abs=0.06
    )


def test_on_a_radial_the_lead_below_the_pointer_is_followed(open_window: MakeWindow) -> None:
    window = open_window("aspen")
    page = ignition_of(window, FIT)
    view = page.fit.map
    QTest.mouseMove(view, screen(view, view.map.plugs[5]))
    assert page.model.standing.wired[view.hovered - 1] == 5
    window.grab()
    QTest.mouseMove(view, QPoint(3, 3))
    assert view.hovered == 0


def test_what_cannot_be_on_an_edited_engine_is_let_go(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    page = ignition_of(window, FIT)
    fitted = replace(page.model.standing.fitted, post_1=8)
    page.model.write("a late post", fitted=fitted, seen=(Seen(8, 10.0),))
    page.model.post = 8
    window.session.edit(replace(demo_rig("alder"), name="fewer"))
    for word in PAGES:
        page.show_page(word)
        window.grab()
    assert page.model.standing.fitted.post_1 == 1


def test_a_direction_that_nobody_saw_is_asked_and_not_assumed(open_window: MakeWindow) -> None:
    window = open_window("alder")
    page = ignition_of(window, FIT)
    assert page.fit.turns[0].isVisible()
    page.fit.steps.press(Step.TURNS)
    assert Step.TURNS not in page.model.bay.done
    page.fit.turns[1].click()
    assert page.model.engine.rotor_turns is Rotation.ANTICLOCKWISE
    assert not page.fit.turns[0].isVisible()
    # The engine's own file says nothing of it, and keeps saying nothing.
    assert window.session.state.engine.rotor.turns is None


def test_a_crank_turn_out_is_one_crank_turn(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    page = ignition_of(window, FIT)
    assert not page.fit.lift.isVisible()
    page.model.begin_anew(made_wrong(page.model.engine, ("rotor-turn",)), "x")
    assert page.fit.lift.isVisible()
    page.fit.lift.click()
    assert what_is_wrong(page.model.standing) == ()


# Curve and lamp -----------------------------------------------------------------------------------


def test_the_curve_is_dragged_typed_and_told_at_the_distributor(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = ignition_of(window, CURVE)
    chart = page.curve.chart
    at = QPointF(chart.chart.x(1900), 60)
    QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=screen(chart, at))
    QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=screen(chart, at))
    assert page.lamping.asked.speed_rpm == 1900
    page.curve.depression.set_value(270)
    assert page.lamping.parts.total_deg == pytest.approx(28.5)
    page.curve.at[1].click()
    engine = window.session.state.engine
    assert engine.spark.advance.weights == ((500.0, 0.0), (1400.0, 11.0))
    assert page.lamping.parts.total_deg == pytest.approx(28.5)
    field = page.curve.fields["weights"]
    for typed, says in (
        ("500:11, 1400:0", "must not fall"),
        ("500", "must be points"),
    ):
        field.setFocus()
        field.setText(typed)
        QTest.keyClick(field, Key.Key_Return)
        assert says in page.curve.refused
        assert window.session.state.engine is engine
    field.setText("500:0, 1400:12")
    QTest.keyClick(field, Key.Key_Return)
    assert page.curve.refused == ""
    assert window.session.state.engine.spark.advance.weights[1] == (1400.0, 12.0)
    page.curve.set_button.click()
    assert page.page == LAMP
    assert page.lamping.asked.hose_on is False


@pytest.mark.parametrize(
    ("slug", "suspect"),
    [
        ("can-leaks", Suspect.CAN),
        ("hose-off", Suspect.HOSE),
        ("weights-stuck", Suspect.WEIGHTS),
        ("body-moved", Suspect.SETTING),
        ("damper-crept", Suspect.DAMPER),
    ],
)
def test_each_fault_is_read_found_and_put_right(
    open_window: MakeWindow, slug: str, suspect: Suspect
) -> None:
    window = open_window("birch")
    page = ignition_of(window, LAMP)
    page.model.begin_anew(made_wrong(page.model.engine, (slug,), 1), "x")
    page.lamping.set_idle()
    lamping = page.lamping
    while suspect not in lamping.found.left or len(lamping.found.left) > 1:
        assert lamping.found.next_row is not None, (lamping.found.headline, lamping.found.left)
        asked = lamping.asked
        if asked.how is How.PUMP:
            (page.lamp.falls if slug == "can-leaks" else page.lamp.holds).click()
            continue
        crept = page.model.bay.faults.crept_deg
        QTest.keyClicks(
            page.lamp.field, f"{crept if asked.how is How.STOP else lamping.shows_deg:.1f}"
        )
        QTest.keyClick(page.lamp.field, Key.Key_Return)
    page.lamp.repair.click()
    if suspect is Suspect.DAMPER:
        # With the mark right at last, the setting that was made by it is seen to be late.
        read_lamp(page)
        assert lamping.found.left[0] is Suspect.SETTING
        page.model.repair(Suspect.SETTING)
    assert what_is_wrong(page.model.standing) == ()


def test_readings_land_in_the_job_of_the_day_found_and_left(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = ignition_of(window, LAMP)
    page.model.begin_anew(made_wrong(page.model.engine, ("body-moved",), 0), "x")
    for _ in range(2):
        read_lamp(page)
        page.lamp.book.click()
        if page.lamp.repair.isVisible():
            assert (
                "Turn the body 4.0° clockwise, from above: with the rotor is later."
                in page.lamping.turn_words
            )
            page.lamp.repair.click()
    book = window.session.state.book
    assert book is not None
    assert book.job is not None
    first = book.job.readings[0]
    assert (first.what, first.found, first.left) == ("Spark at 750 rpm, hose off", 18.0, 10.0)


def test_the_hose_goes_on_and_off_by_its_key(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = ignition_of(window, LAMP)
    QTest.keyClick(page.lamp.field, Key.Key_H)
    assert page.lamping.asked.hose_on
    page.lamp.hose_off.click()
    assert not page.lamping.asked.hose_on
    QTest.keyClick(page.lamp.field, Key.Key_Down)
    assert page.lamping.asked.speed_rpm == 2800


def test_a_reading_that_cannot_be_is_refused_and_stays(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = ignition_of(window, LAMP)
    for typed, says in (("x", "The reading must be"), ("200", "from -90 to 90")):
        page.lamp.field.setText(typed)
        QTest.keyClick(page.lamp.field, Key.Key_Return)
        assert says in page.lamping.refused
        assert page.lamp.field.text() == typed
        assert page.model.bay.readings == ()


# No book, and beyond ------------------------------------------------------------------------------


def test_an_engine_without_a_book_is_barred_and_understood(open_window: MakeWindow) -> None:
    window = open_window("olive")
    page = ignition_of(window, SPIN)
    view = page.spin
    for _ in range(3):
        view.bar_on.click()
        said = view.bar_on.second()
        cylinder = said.split()[1]
        assert "has just closed" in said
        QTest.keyClicks(view.cylinder, cylinder)
        at = view.map.map.centre + view.map.map.towards(view.map.rotor_deg) * 60
        QTest.mouseClick(view.map, Qt.MouseButton.LeftButton, pos=screen(view.map, at))
        view.note_it.click()
        assert view.refused == ""
    result = view.result
    assert result.turns is page.model.engine.rotor_turns
    assert window.session.state.engine.firing_order in result.orders
    view.take.click()
    assert page.model.direction_known
    view.cylinder.setText("9")
    view.points.setText("20")
    view.note_it.click()
    assert "must be 1 to 4" in view.refused


@pytest.mark.parametrize("name", ["hickory", "fir", "larch", "whitebeam", "acacia", "ash", "oak"])
def test_every_page_is_shown_on_every_kind_of_engine(open_window: MakeWindow, name: str) -> None:
    window = open_window(name)
    page = ignition_of(window)
    for word in PAGES:
        page.show_page(word)
        window.grab()
        assert page.page == word
    page.show_page(FIT)
    assert page.fit.isVisible() is page.model.engine.has_rotor
    # Without a rotor the page shows what the engine has instead, and says so.
    assert page.beyond.isVisible() is not page.model.engine.has_rotor
    page.show_page(COILS)
    assert page.beyond.isVisible()


@pytest.mark.parametrize("name", ["ash", "birch", "sycamore", "aspen", "willow", "whitebeam"])
def test_at_the_usual_size_no_line_is_left_out(
    open_window: MakeWindow, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    """Where nothing shorter is given a line that does not fit would not be drawn at all."""
    left_out: set[str] = set()

    def drawn(
        p: QPainter, box: QRectF, wordings: tuple[str, ...], *rest: Any, **more: Any
    ) -> float:
        used = draw_one_of(p, box, wordings, *rest, **more)
        left_out.update(wordings if not used and any(wordings) else ())
        return used

    views = [m for w, m in sys.modules.items() if ".workspaces.ignition." in w]
    for view in views:
        if hasattr(view, "draw_one_of"):
            monkeypatch.setattr(view, "draw_one_of", drawn)
    window = open_window(name)
    page = ignition_of(window)
    for wrong in ((), *((one.slug,) for one in can_be_wrong(page.model.engine))):
        page.model.begin_anew(made_wrong(page.model.engine, wrong, 1), "x")
        for word in PAGES:
            page.show_page(word)
            if page.shown_page == LAMP and page.model.standing.runs:
                read_lamp(page)
            page.grab()
    assert left_out == set()


@pytest.mark.parametrize(("wide", "high", "percent"), [(1280, 800, 150), (1024, 768, 100)])
@pytest.mark.parametrize("name", ["birch", "aspen"])
def test_everything_to_press_lies_on_the_page(
    open_window: MakeWindow, name: str, wide: int, high: int, percent: int
) -> None:
    window = open_window(name)
    window.look.set_text_percent(percent)
    window.resize(wide, high)
    page = ignition_of(window)
    for wrong in ((), *((one.slug,) for one in can_be_wrong(page.model.engine))):
        page.model.begin_anew(made_wrong(page.model.engine, wrong, 1), "x")
        for word in PAGES:
            page.show_page(word)
            if page.shown_page == LAMP and page.model.standing.runs:
                read_lamp(page)
            QTest.qWait(0)
            view = page.views[page.shown_page]
            for child in view.findChildren(QWidget):
                if child.isVisible():
                    assert view.rect().contains(page_rect(child, view)), (word, child.objectName())


def page_rect(child: QWidget, view: QWidget) -> QRect:
    return QRect(child.mapTo(view, QPoint(0, 0)), child.size())


def test_what_is_drawn_can_always_be_put_right(open_window: MakeWindow) -> None:
    window = open_window("sycamore")
    page = ignition_of(window, SIGNS)
    for button in (page.signs.draw_one, page.signs.draw_two):
        button.click()
        assert page.model.bay.hidden
        assert what_is_wrong(page.model.standing)
    page.signs.show_wrong.click()
    assert not page.model.bay.hidden
    page.signs.sound.click()
    assert what_is_wrong(page.model.standing) == ()
    page.signs.wrongs["leads-reversed"].click()
    assert page.model.standing.judged.meaning.slug == "reversed"
    assert replace(page.model.bay, hidden=True) != page.model.bay


def pressed(page: IgnitionWorkspace) -> list[str]:
    return [slug for slug, button in page.signs.wrongs.items() if button.isChecked()]


def test_what_is_pressed_is_what_is_wrong_through_undo_and_repair(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = ignition_of(window, SIGNS)
    page.signs.wrongs["can-leaks"].click()
    page.signs.wrongs["leads-reversed"].click()
    assert pressed(page) == ["leads-reversed", "can-leaks"]
    QTest.keyClick(window, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert pressed(page) == ["can-leaks"]
    page.model.repair(Suspect.CAN)
    assert pressed(page) == []
    page.signs.wrongs["rotor-tooth"].click()
    page.signs.wrongs["rotor-tooth"].click()
    assert pressed(page) == []
    assert what_is_wrong(page.model.standing) == ()
    page.signs.draw_two.click()
    assert pressed(page) == []  # hidden: nobody in the room knows


def test_a_choice_that_stands_already_stays_pressed(open_window: MakeWindow) -> None:
    page = ignition_of(open_window("birch"), CURVE)
    for button in (page.curve.at[0], page.curve.ports[1]):
        assert button.isChecked()
        button.click()
        assert button.isChecked()
    assert not page.undo.isEnabled()


# By keys alone, and what is refused ---------------------------------------------------------------


def test_the_steps_and_the_ways_by_keys(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    page = ignition_of(window, FIT)
    wrong = replace(made_wrong(page.model.engine, ("rotor-tooth",), 0), hidden=False)
    page.model.begin_anew(wrong, "x")
    for _ in Step:
        QTest.keyClick(page.fit.steps, Key.Key_Return)
        QTest.keyClick(page.fit.steps, Key.Key_Down)
    # A tooth out the body meets something before it is right: that step stays open.
    assert page.model.bay.done == tuple(step for step in Step if step is not Step.BODY)
    assert page.model.standing.fitted.body_deg == -18.0
    QTest.keyClick(page.fit.steps, Key.Key_Return)
    assert Step.CLAMP not in page.model.bay.done
    tooth = page.model.standing.fitted.tooth
    QTest.keyClick(page.fit.ways, Key.Key_Return)
    assert page.model.standing.fitted.tooth == tooth  # the first row is how it stands
    QTest.keyClick(page.fit.ways, Key.Key_Down)
    QTest.keyClick(page.fit.ways, Key.Key_Return)
    assert page.model.standing.fitted.tooth != tooth
    QTest.keyClick(page.fit.steps, Key.Key_Up)
    QTest.keyClick(page.fit.steps, Key.Key_Return)
    assert Step.BODY in page.model.bay.done
    # With lead 1 on another post the leads have gone round with it: none is wrong.
    assert page.model.standing.judged.meaning.slug == "right"


def test_rows_of_leads_and_readings_take_keys_and_presses(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = ignition_of(window, LEADS)
    rows = page.leads.rows
    QTest.keyClick(rows, Key.Key_Down)
    QTest.keyClick(rows, Key.Key_Return)
    assert page.model.post == 2
    QTest.mouseClick(rows, Qt.MouseButton.LeftButton, pos=screen(rows, QPointF(30, 24 + 42 * 4.5)))
    assert page.model.post == 5
    page.leads.off.click()
    page.leads.off.click()
    assert page.model.standing.judged.moves == 0
    # A lead that is off is taken at its post and put on a plug.
    page.model.write("off", wired=(1, 0, 3, 6, 2, 4))
    view = page.leads.map
    dragged(view, view.map.post(2), view.map.plugs[5])
    assert page.model.standing.judged.meaning.slug == "right"
    page.show_page(LAMP)
    table = page.lamp.table
    fourth = screen(table, QPointF(40, 50 + 54 * 3.5))
    QTest.mouseClick(table, Qt.MouseButton.LeftButton, pos=fourth)
    asked = [page.lamping.asked.how]
    assert page.lamp.holds.isVisible()
    QTest.keyClick(table, Key.Key_Down)
    asked.append(page.lamping.asked.how)
    page.lamp.speed.set_value(3000)
    asked.append(page.lamping.asked.how)
    assert asked == [How.PUMP, How.STOP, How.LAMP]


@pytest.mark.parametrize(
    ("cylinder", "points", "says"),
    [
        ("", "20", "The cylinder must be"),
        ("1.5", "20", "must be 1 to 6"),
        ("1", "north", "The direction must be"),
        ("1", "400", "0 to 360"),
    ],
)
def test_what_was_not_seen_is_refused(
    open_window: MakeWindow, cylinder: str, points: str, says: str
) -> None:
    window = open_window("birch")
    view = ignition_of(window, SPIN).spin
    view.cylinder.setText(cylinder)
    view.points.setText(points)
    QTest.keyClick(view.points, Key.Key_Return)
    assert says in view.refused
    view.anew.click()
    assert view.refused == ""


def test_ports_and_limits_are_edits_of_the_engine_and_undone(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = ignition_of(window, CURVE)
    page.curve.ports[0].click()
    assert window.session.state.engine.spark.advance.port.value == "ported"
    field = page.curve.fields["most_wide_open_deg"]
    field.setText("")
    QTest.keyClick(field, Key.Key_Return)
    assert window.session.state.engine.spark.advance.most_wide_open_deg is None
    window.session.undo()
    window.session.undo()
    assert not window.session.state.edited
    window.session.lock(True)
    page.curve.ports[0].click()
    assert window.session.state.engine.spark.advance.port.value == "full"


def test_signs_of_an_engine_that_can_have_fewer_wrongs_bear_a_resize(
    open_window: MakeWindow,
) -> None:
    window = open_window("cedar")
    window.go_to("Ignition", "Signs")
    window.go_to("Watch")
    window.opener.open_rig("ash")
    window.resize(1500, 900)
    window.go_to("Ignition")
    assert window.grab().width() == 1500
