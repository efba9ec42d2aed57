"""An engine built by hand: every drawing is taken by mouse and by keys, in the real window."""

from collections.abc import Hashable
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication

from tests.conftest import Answers, MakeWindow
from tests.qtest import QTest
from true_compass.app.paper.preview import Preview
from true_compass.app.window.teller import LOCKED
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.engine.hand.grips import Grip, GripView
from true_compass.app.workspaces.engine.hand.heads import SEATS, VALVES
from true_compass.app.workspaces.engine.hand.model import Tab
from true_compass.app.workspaces.engine.hand.page import HandPage
from true_compass.app.workspaces.engine.workspace import BY_HAND, EngineWorkspace
from true_compass.app.workspaces.front.workspace import FrontWorkspace
from true_compass.app.workspaces.stops.workspace import StopsWorkspace
from true_compass.core.changes import Event
from true_compass.core.crank import makers
from true_compass.core.crank.layout import Form
from true_compass.core.crank.makers import FAMILIES
from true_compass.core.crank.shaping import taking
from true_compass.core.engine import Engine, Meaning
from true_compass.core.items import Kind
from true_compass.core.rotation import Rotation
from true_compass.drawing.dials import crank_direction
from true_compass.files.engine_file import read_engine
from true_compass.files.rigs import rig_names

Key = Qt.Key
LEFT = Qt.MouseButton.LeftButton
NONE = Qt.KeyboardModifier.NoModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier


def hand(window: MainWindow, tab: Tab) -> HandPage:
    window.go_to("Engine", BY_HAND)
    assert isinstance(window.workspace, EngineWorkspace)
    page = window.workspace.hand
    page.tabs[list(Tab).index(tab)].click()
    QApplication.processEvents()
    return page


def engine_of(window: MainWindow) -> Engine:
    return window.session.state.engine


def grip(view: GripView, key: Hashable) -> Grip:
    return next(grip for grip in view.grips() if grip.key == key)


def click(view: GripView, key: Hashable, how: Qt.KeyboardModifier = NONE) -> None:
    at = (grip(view, key).at * view.look.scale).toPoint()
    QTest.mouseClick(view, LEFT, how, at)


def drag(view: GripView, key: Hashable, to: QPointF, how: Qt.KeyboardModifier = NONE) -> None:
    """By mouse, in steps, with the modifier held."""
    begun = grip(view, key).at
    QTest.mousePress(view, LEFT, how, (begun * view.look.scale).toPoint())
    for step in (0.3, 0.7, 1.0):
        view.held = key
        view._moved = True
        view.dragged(key, begun + (to - begun) * step, how, dropped=False)
    QTest.mouseRelease(view, LEFT, how, (to * view.look.scale).toPoint())


# The whole way --------------------------------------------------


def test_a_stranger_builds_a_v8_by_hand_and_prints_its_card(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    """Front page, new engine, V, 8, numbers, order, plan, card: no text is typed."""
    window = open_window()
    assert isinstance(window.workspace, FrontWorkspace)
    QTest.mouseClick(window.workspace.new, LEFT)
    assert isinstance(window.workspace, EngineWorkspace)
    page = window.workspace.hand
    for words in ("V", "8"):
        button = next(b for b in (*page.pad.families, *page.pad.counts) if b.text() == words)
        QTest.mouseClick(button, LEFT)
    engine = engine_of(window)
    assert (engine.layout.form, engine.layout_words) == (Form.V, "90° V8")

    QTest.mouseClick(page.tabs[list(Tab).index(Tab.NUMBERS)], LEFT)
    # Cylinder 1 leads on bank B, and the numbers go from side to side.
    banks = [engine.layout.on_bank(bank) for bank in (1, 0)]
    for place in range(4):
        for bank in banks:
            click(page.heads, (SEATS, engine.layout.seats[bank[place] - 1]))
    assert Tab.NUMBERS in page.model.confirmed

    QTest.mouseClick(page.tabs[list(Tab).index(Tab.ORDER)], LEFT)
    for cylinder in (1, 8, 4, 3, 6, 5, 7, 2):
        click(page.heads, (SEATS, engine_of(window).layout.seats[cylinder - 1]))
    assert engine_of(window).order_text == "1-8-4-3-6-5-7-2"
    assert engine_of(window).intervals_deg == (90.0,) * 8

    QTest.mouseClick(window.strip.tabs[3], LEFT)
    stops = window.workspace
    assert isinstance(stops, StopsWorkspace)
    # Common practice, no source: E1 E3 E4 E8 I1 I2 I5 I7, then the others.
    plan = stops.model.usable
    assert plan is not None
    first = {item.name for item in plan.stops[0].items}
    assert first == {"E1", "E3", "E4", "E8", "I1", "I2", "I5", "I7"}
    QTest.mouseClick(stops.card_button, LEFT)
    preview = window.findChild(Preview)
    assert preview is not None
    answers.path = tmp_path / "card.pdf"
    QTest.mouseClick(preview.save_button, LEFT)
    assert answers.path.read_bytes().startswith(b"%PDF")


@pytest.mark.parametrize("family", FAMILIES, ids=lambda family: family.word)
def test_every_family_is_built_by_pressing(open_window: MakeWindow, family: object) -> None:
    window = open_window("birch")
    pad = hand(window, Tab.LAYOUT).pad
    chosen = next(f for f in FAMILIES if f is family)
    next(b for b in pad.families if b.text() == chosen.word).click()
    for count in chosen.counts:
        pad.counts[count - 1].click()
        for place, variant in enumerate(chosen.variants_of(count)):
            pad.variants[place].click()
            assert pad.model.problem == "", (count, variant.words)
            assert engine_of(window).cylinder_count == count
            assert pad.wish.variant is variant


def test_any_angle_can_be_typed_and_a_wrong_one_changes_nothing(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    pad = hand(window, Tab.LAYOUT).pad
    for text, words in (("71.5", "71.5° V8"), ("abc", "71.5° V8"), ("400", "71.5° V8")):
        pad.angle.setFocus()
        pad.angle.setText(text)
        QTest.keyClick(pad.angle, Key.Key_Return)
        assert engine_of(window).layout_words == words
        assert bool(pad.problem) == (text != "71.5")
    pad.more.click()
    assert engine_of(window).layout_words == "72.5° V8"
    pad.turns[1].click()
    assert engine_of(window).rotation is Rotation.ANTICLOCKWISE


# Throws and banks --------------------------------------------------


def test_a_pin_dropped_on_another_changes_places_and_the_clash_has_ways_out(
    open_window: MakeWindow,
) -> None:
    window = open_window("cedar")
    page = hand(window, Tab.THROWS)
    before = engine_of(window)
    drag(page.throws, 2, grip(page.throws, 3).at)
    # The order forbids it: drawn so, but Watch and Stops keep the last good engine.
    assert engine_of(window) is before
    clash = page.model.clash
    assert clash is not None
    assert [throw.angle_deg for throw in page.model.layout.throws] == [0.0, 90.0, 180.0, 270.0]
    assert page.clash.accessibleName().startswith("6 cannot fire after 8 here")
    assert page.clash.isVisible()
    assert page.figures.wrong == {"Throw 3", "Throw 4"}
    page.clash.back.click()
    assert page.model.clash is None
    assert page.figures.wrong == frozenset()
    drag(page.throws, 2, grip(page.throws, 3).at)
    page.clash.nearest.click()
    assert engine_of(window).order_text == "1-5-3-7-6-4-8-2"
    assert window.session.undo()
    assert engine_of(window) == before


def test_each_drag_is_one_step_and_is_live_meanwhile(open_window: MakeWindow) -> None:
    window = open_window("larch")
    page = hand(window, Tab.THROWS)
    before = engine_of(window)
    told: list[object] = []
    window.bridge.engine_changed.connect(lambda: told.append(1))
    view = page.throws
    middle = view._middle
    for degrees in (130.0, 140.0):
        view.dragged(1, middle + crank_direction(degrees, 1) * 80, ALT, dropped=False)
        assert page.model.engine.layout.throws[1].angle_deg == degrees
        assert engine_of(window) is before
    assert told == []
    view.dragged(1, middle + crank_direction(140.0, 1) * 80, ALT, dropped=True)
    assert engine_of(window).layout.throws[1].angle_deg == 140.0
    drag(view, 1, middle + crank_direction(150.0, 1) * 80, ALT)
    assert len(told) == 2
    assert window.session.undo_words == "throw 2"
    window.session.undo()
    assert engine_of(window).layout.throws[1].angle_deg == 140.0
    window.session.undo()
    assert engine_of(window) == before


def test_a_pin_snaps_to_even_steps(open_window: MakeWindow) -> None:
    window = open_window("larch")
    page = hand(window, Tab.THROWS)
    view = page.throws
    view.dragged(1, view._middle + crank_direction(128.0, 1) * 60, NONE, dropped=False)
    assert page.model.engine.layout.throws[1].angle_deg == 120.0
    view.chosen = 1
    view.setFocus()
    here = engine_of(window).layout.throws[1].angle_deg
    page.model.let_go()
    QTest.keyClick(view, Key.Key_Up, SHIFT)
    assert engine_of(window).layout.throws[1].angle_deg == here + 1.0


def test_banks_lean_as_mirror_images_or_alone(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    page = hand(window, Tab.BANKS)
    view = page.banks
    drag(view, 1, view._middle + crank_direction(50.0, 1) * 100)
    angles = [bank.angle_deg for bank in engine_of(window).layout.banks]
    assert angles == [-50.0, 50.0]
    drag(view, 1, view._middle + crank_direction(52.0, 1) * 100, SHIFT)
    assert [bank.angle_deg for bank in engine_of(window).layout.banks] == [-50.0, 52.0]
    view.chosen = 0
    QTest.keyClick(view, Key.Key_Down)
    assert [bank.angle_deg for bank in engine_of(window).layout.banks] == [-51.0, 51.0]


# Valves, events, order, marks --------------------------------------------------


def test_valves_are_swapped_one_or_a_whole_head_and_stay_so_in_the_file(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("cedar")
    page = hand(window, Tab.VALVES)
    before = [engine_of(window).valves_along(bank) for bank in (0, 1)]
    seat = engine_of(window).layout.seats[4]
    click(page.heads, (VALVES, seat))
    after = [engine_of(window).valves_along(bank) for bank in (0, 1)]
    assert after[0] == before[0]
    assert after[1] == before[1][1::-1] + before[1][2:]
    click(page.heads, (VALVES, seat), SHIFT)
    swapped = str.maketrans("IE", "EI")
    assert engine_of(window).valves_along(1) == after[1].translate(swapped)
    answers.path = tmp_path / "v8.engine.toml"
    page.save.click()
    assert read_engine(answers.path).valves_along(1) == engine_of(window).valves_along(1)


def test_events_are_dragged_and_nudged(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = hand(window, Tab.EVENTS)
    cam = engine_of(window).cam
    view = page.events
    at = grip(view, Event.INTAKE_OPENS)
    assert at.words.startswith(f"I opens {cam.intake.opens_before_deg:g}° before TDC")
    view.chosen = Event.INTAKE_OPENS
    QTest.keyClick(view, Key.Key_Up)
    assert engine_of(window).cam.intake.opens_before_deg == cam.intake.opens_before_deg + 1
    QTest.keyClick(view, Key.Key_Down, SHIFT)
    assert engine_of(window).cam.intake.opens_before_deg == cam.intake.opens_before_deg - 4
    goal = grip(view, Event.EXHAUST_OPENS).at
    out = goal - view._middle
    drag(view, Event.EXHAUST_OPENS, view._middle + QPointF(out.x() * 0.9, out.y() * 1.1))
    moved = engine_of(window).cam.exhaust
    assert moved.opens_before_deg > cam.exhaust.opens_before_deg
    assert moved.opens_before_deg == round(moved.opens_before_deg)
    assert moved.closes_after_deg == cam.exhaust.closes_after_deg


def test_events_of_a_card_are_not_dragged(open_window: MakeWindow) -> None:
    window = open_window("fir")  # its intake valve is opened by suction
    assert hand(window, Tab.EVENTS).events.grips() == []


def test_an_order_is_tapped_out_and_what_cannot_fire_says_why(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = hand(window, Tab.ORDER)

    def fire(cylinder: int) -> None:
        click(page.heads, (SEATS, page.model.layout.seats[cylinder - 1]))

    fire(2)
    assert window.note.text == "An order starts with 1."
    fire(1)
    fire(6)
    assert "would have to fire together" in window.note.text
    for cylinder in (5, 3):
        fire(cylinder)
    fire(3)
    assert page.model.ordering == [1, 5]
    for cylinder in (4, 6, 2, 3):
        fire(cylinder)
    assert engine_of(window).order_text == "1-5-4-6-2-3"


def test_marks_are_put_on_the_rim_dragged_named_and_taken_away(open_window: MakeWindow) -> None:
    window = open_window("fir")
    window.session.edit(replace(engine_of(window), marks=()))
    page = hand(window, Tab.MARKS)
    view = page.damper
    rim = view._middle + crank_direction(-20.0, 1) * view._radius
    QTest.mouseClick(view, LEFT, NONE, rim.toPoint())
    (mark,) = engine_of(window).marks
    assert mark.angle_deg == pytest.approx(20.0, abs=1.0)
    drag(view, 0, view._middle + crank_direction(8.0, 1) * view._radius)
    assert engine_of(window).marks[0].angle_deg == pytest.approx(352.0, abs=1.0)
    page.marks.meanings[1].click()
    page.marks.fields["stamped"].setFocus()
    QTest.keyClicks(page.marks.fields["stamped"], "8 BTDC")
    assert window.session.undo_words == "stamp of a mark"
    window.session.undo()
    assert engine_of(window).marks[0].stamped == ""
    window.session.redo()
    page.marks.creeps.click()
    mark = engine_of(window).marks[0]
    assert (mark.meaning, mark.stamped, mark.can_creep) == (Meaning.FIRING, "8 BTDC", True)
    page.marks.remove.click()
    assert engine_of(window).marks == ()


# Figures, lock, all rigs --------------------------------------------------


def test_exact_figures_and_what_cannot_be(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = hand(window, Tab.SIZES)

    def type_into(label: str, text: str) -> None:
        place = [figure.label for figure in page.figures.figures].index(label)
        field = page.figures.fields[place]
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)

    type_into("Bore", "3.5 in")
    assert engine_of(window).bore_mm == pytest.approx(88.9)
    type_into("I lash", "0,3")
    assert engine_of(window).cam.timing(Kind.INTAKE).lash_mm == 0.3
    good = engine_of(window)
    type_into("Rod", "20")
    assert engine_of(window).rod_mm == good.rod_mm
    assert "must be longer than half the stroke" in page.model.problem
    assert page.figures.wrong == {"Rod"}
    type_into("Throw 2", "10")
    assert "forbids it" in page.model.problem


def test_a_locked_engine_stays_as_it_is(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    page = hand(window, Tab.THROWS)
    window.session.edit(replace(engine_of(window), bore_mm=90.0), words="bore")
    window.teller.toggle_lock()
    before = engine_of(window)
    drag(page.banks, 1, page.banks._middle + crank_direction(50.0, 1) * 100)
    assert window.note.text == LOCKED
    window.teller.undo()
    page.pad.families[0].click()
    window.go_to("Orders")
    window.workspace.use_order()  # type: ignore[attr-defined]
    assert engine_of(window) is before
    assert "locked" in window.strip.picker.accessibleName()
    window.turner.jump_to(90.0)
    assert window.session.state.crank_deg == 90.0
    window.go_to("Stops")
    assert isinstance(window.workspace, StopsWorkspace)
    window.workspace.set_button.click()
    assert window.session.state.work.done
    window.teller.toggle_lock()
    window.teller.undo()
    window.teller.undo()
    assert engine_of(window).bore_mm != 90.0


@pytest.mark.parametrize("name", rig_names())
def test_every_rig_can_be_taken_in_hand(open_window: MakeWindow, name: str) -> None:
    window = open_window(name)
    for tab in Tab:
        page = hand(window, tab)
        for view in page.findChildren(GripView):
            if not view.isVisible():
                continue
            view.tell()
            for found in view.grips():
                spot = found.at * view.look.scale
                assert view.rect().contains(spot.toPoint()), (tab, found)
                assert found.words in view.accessibleDescription()
                assert view.grip_at(found.at) is not None
            view.setFocus()
            for key in (Key.Key_Right, Key.Key_Left, Key.Key_Escape):
                QTest.keyClick(view, key)
    assert not window.session.state.edited


def test_the_same_labels_of_another_engine_mean_its_own_banks(open_window: MakeWindow) -> None:
    window = open_window("elm")
    page = hand(window, Tab.SIZES)
    three = engine_of(window).layout
    # A bank in the middle without a cylinder: bank C comes second now.
    seats = [seat for seat in three.seats if seat.bank != 1]
    layout = replace(three, seats=tuple(seats))
    window.opener.open_rig("cedar")
    names = [replace(b, name=n) for b, n in zip(layout.banks, "AXB", strict=True)]
    layout = replace(layout, banks=tuple(names))
    order = taking(makers.vee(8, 60), layout, ())
    window.session.edit(order)
    place = [figure.label for figure in page.figures.figures].index("Bank B")
    field = page.figures.fields[place]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "61")
    assert engine_of(window).layout.banks[2].angle_deg == 61.0
    assert engine_of(window).layout.banks[1].angle_deg == layout.banks[1].angle_deg
