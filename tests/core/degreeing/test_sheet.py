"""The sheet of readings: order, voids, rounds; a pass over a nose; a camshaft moved and found."""

from dataclasses import replace

import numpy as np
import pytest

from true_compass.core.angles import Floats
from true_compass.core.degreeing.capture import Capture, Passed
from true_compass.core.degreeing.curve import Station, curve_of
from true_compass.core.degreeing.found import check_entry, found
from true_compass.core.degreeing.moving import (
    earlier_deg,
    options_for,
    shafts_of,
    turn_words,
    with_found,
)
from true_compass.core.degreeing.sheet import (
    Cell,
    Gauge,
    NosePair,
    Part,
    Setup,
    Sheet,
    begun,
    entered,
    next_cell,
    next_round,
    order_of_reading,
    pointer_moved,
    with_depth,
)
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

BEGUN = begun(Sheet(Setup()))


def filled(sheet: Sheet) -> Sheet:
    for nth, cell in enumerate(order_of_reading(sheet)):
        sheet = entered(sheet, cell, 10.0 + nth)
    return sheet


def test_a_nose_is_read_outside_in_and_inside_out() -> None:
    cells = order_of_reading(BEGUN)
    drops = [pair.drop_mm for pair in BEGUN.now.pairs(1, Kind.INTAKE)]
    intake = [cell for cell in cells if cell.part is Part.INTAKE]
    assert [drops[cell.row] for cell in intake] == [0.4, 0.25, 0.1, 0.1, 0.25, 0.4]
    assert [cell.after for cell in intake] == [False] * 3 + [True] * 3
    assert cells[0] == Cell(Part.TOP, 0, after=False)
    assert next_cell(filled(BEGUN)) is None
    inches = begun(Sheet(Setup(gauge=Gauge(inches=True))))
    assert inches.now.pairs(1, Kind.EXHAUST)[0].drop_mm == pytest.approx(0.127)


def test_what_is_void_stays_and_no_longer_counts() -> None:
    sheet = pointer_moved(filled(BEGUN))
    pairs = sheet.now.pairs(1, Kind.INTAKE)
    assert [pair.void for pair in pairs] == [True] * 3 + [False] * 3
    assert [pair.before for pair in pairs[:3]] == [14.0, 13.0, 12.0]
    assert {cell.row for cell in order_of_reading(sheet) if cell.part is Part.INTAKE} == {3, 4, 5}
    # Twice over nothing more is lost.
    again = pointer_moved(sheet)
    assert again.now.pairs(1, Kind.INTAKE)[:3] == pairs[:3]


def test_a_second_round_stands_beside_the_first() -> None:
    sheet = next_round(filled(BEGUN), "cam: key 0.7 on")
    assert len(sheet.rounds) == 2
    assert sheet.now.after_step == "cam: key 0.7 on"
    assert sheet.rounds[0] == filled(BEGUN).now
    # The wheel stays as it is set: its last reading of TDC goes along.
    assert sheet.now.tops == sheet.rounds[0].tops[-1:]
    assert next_cell(sheet) == Cell(Part.INTAKE, 2, after=False)


def test_depths_of_ones_own() -> None:
    sheet = with_depth(BEGUN, Kind.INTAKE, 0.6)
    assert [pair.drop_mm for pair in sheet.now.pairs(1, Kind.INTAKE)][-1] == 0.6
    for drop, said in ((0.6, "there already"), (0.001, "from 0.01"), (50.0, "to 20 mm")):
        with pytest.raises(EngineError, match=said):
            with_depth(sheet, Kind.INTAKE, drop)


def test_a_figure_that_is_not_on_the_wheel_is_refused_before_it_is_kept() -> None:
    rig = Rig.of(demo_rig("birch"))
    with pytest.raises(EngineError, match="0 to 180 on this wheel"):
        check_entry(rig, BEGUN, Cell(Part.INTAKE, 0, after=False), 190.0)


def test_typed_texts_of_other_ways_come_and_go() -> None:
    sheet = BEGUN.with_text("lift.io", "12").with_text("lift.io", "13")
    assert sheet.text("lift.io") == "13"
    assert sheet.with_text("lift.io", " ").texts == ()
    assert Sheet().is_blank
    assert not sheet.is_blank


# A pass over a nose ------------------------------------------------------------------------------


def passes(heights: Floats, cranks: Floats, *drops: float) -> list[Passed]:
    capture = Capture(drops)
    return [
        one
        for crank, height in zip(cranks, heights, strict=True)
        for one in capture.feed(float(crank % 360.0), float(height))
    ]


@pytest.mark.parametrize("kind", list(Kind))
def test_a_pass_finds_the_chords_of_the_curve(kind: Kind) -> None:
    curve = curve_of(Rig.of(demo_rig("birch")), 1, kind, Station.TAPPET)
    at = np.arange(curve.top_deg - 200.0, curve.top_deg + 200.0, 0.7)
    found_here = passes(curve.lift_at_mm(at), at, 0.1, 0.25, 0.4)
    assert [one.drop_mm for one in found_here] == [0.1, 0.25, 0.4]
    for one in found_here:
        before, after = (end % 360.0 for end in curve.chord_deg(one.drop_mm))
        assert one.before_deg == pytest.approx(before, abs=0.15)
        assert one.after_deg == pytest.approx(after, abs=0.15)


def test_turning_back_and_too_fast_count_for_nothing() -> None:
    curve = curve_of(Rig.of(demo_rig("birch")), 1, Kind.INTAKE, Station.TAPPET)
    up = np.arange(curve.top_deg - 60.0, curve.top_deg - 5.0, 0.7)
    back = np.arange(curve.top_deg - 5.0, curve.top_deg - 10.0, -0.7)
    on = np.arange(curve.top_deg - 10.0, curve.top_deg + 60.0, 0.7)
    at = np.concatenate((up, back, on))
    assert passes(curve.lift_at_mm(at), at, 0.1) == []
    capture = Capture((0.1,))
    for crank in np.arange(curve.top_deg - 61.0, curve.top_deg + 60.0, 20.0):
        assert capture.feed(float(crank), float(curve.lift_at_mm(crank))) == ()
    assert capture.too_fast


# A camshaft moved --------------------------------------------------------------------------------


def test_the_engine_as_found_reads_as_it_was_read() -> None:
    """From another angle: the readings of a late cam, put into the engine, stand as set."""
    engine = demo_rig("sycamore")
    assert engine.two_shafts
    rig = Rig.of(engine)
    shafts = shafts_of(engine, 5)
    moved = with_found(engine, shafts[0], 3.0)
    bank = engine.layout.banks[engine.layout.seats[4].bank].name
    assert [one.bank for one in moved.bank_advances] == [bank]
    for cylinder, kind, later in (
        (5, Kind.INTAKE, 3.0),
        (5, Kind.EXHAUST, 0.0),
        (1, Kind.INTAKE, 0),
    ):
        before = curve_of(rig, cylinder, kind).nose_deg()
        after = curve_of(Rig.of(moved), cylinder, kind).nose_deg()
        own_bank = engine.layout.seats[cylinder - 1].bank == engine.layout.seats[4].bank
        assert after - before == pytest.approx(later if own_bank else 0.0, abs=0.02)
    with pytest.raises(EngineError, match="-60 to 60"):
        with_found(demo_rig("birch"), shafts_of(demo_rig("birch"), 1)[0], 80.0)


def test_one_camshaft_moves_the_valves_of_both_banks() -> None:
    cedar, sycamore = demo_rig("cedar"), demo_rig("sycamore")
    assert np.all(earlier_deg(cedar, shafts_of(cedar, 1)[0], 2.0) == 2.0)
    one = earlier_deg(sycamore, shafts_of(sycamore, 1)[0], 2.0)
    assert np.count_nonzero(one) == 4


@pytest.mark.parametrize(
    ("name", "need", "words"),
    [("birch", 4.8, "clockwise"), ("birch", -4.8, "anticlockwise"), ("maple", 3.0, "clockwise")],
)
def test_the_direction_is_seen_from_the_front(name: str, need: float, words: str) -> None:
    assert (
        turn_words(demo_rig(name), need)
        == f"{abs(need) / 2:.1f} cam °, {words} seen from the front."
    )


def test_options_make_the_card_when_they_leave_no_error() -> None:
    engine = replace(
        demo_rig("birch"), timing_sets=(replace(demo_rig("birch").timing_sets[0], reach_deg=9.0),)
    )
    rig = Rig.of(engine)
    best = options_for(rig, shafts_of(engine, 1)[0], 2.4)[0]
    assert best.words == "slots 2.4° on"
    assert best.icl_deg == pytest.approx(107.0)
    assert best.ecl_deg == pytest.approx(110.0)
    assert best.events is not None
    assert best.events.ivo_deg == pytest.approx(12.0, abs=0.01)
    assert best.clears
    assert best.known
    no = options_for(Rig.of(demo_rig("alder")), shafts_of(demo_rig("alder"), 1)[0], 2.4)
    assert no == []


def test_a_single_pair_says_what_it_can() -> None:
    rig = Rig.of(demo_rig("birch"))
    rows = (NosePair(0.25, 92.0, 124.0),)
    sheet = BEGUN.with_now(BEGUN.now.with_pairs(1, Kind.INTAKE, rows))
    told = found(rig, sheet).noses[Kind.INTAKE]
    assert told.later_deg == pytest.approx(1.0, abs=0.01)
    assert "one pair" in told.nose.walk_words
