"""Lobes measured, own cards, lift at overlap, and the engine with gear and igniter."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from true_compass.core.degreeing.curve import curve_of
from true_compass.core.degreeing.igniter import First, Set, Wanted, judged
from true_compass.core.degreeing.lobe_size import (
    Place,
    among,
    indicator_lift_mm,
    lobe_lift_mm,
    lobe_state,
    parse_size_mm,
    square_reaches_heel,
    two_ways_words,
    valve_lift_mm,
)
from true_compass.core.degreeing.overlap_lift import (
    lash_error_deg,
    overlap_starts,
    turn_for_lift_deg,
)
from true_compass.core.degreeing.own_card import (
    Events,
    Row,
    centreline_of,
    contradictions,
    events_of,
    measured_engine,
    table_of,
)
from true_compass.core.engine import even_inline
from true_compass.core.items import Item, Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig, WhatIf
from true_compass.core.valves.cam import CheckLift
from true_compass.core.valves.cam import Place as At
from true_compass.core.valves.timing import cylinder_times
from true_compass.files.rigs import demo_rig


def test_worked_figures_of_a_card() -> None:
    """Common practice, no source."""
    assert events_of(228.0, 236.0, 108.0, 112.0) == Events(6.0, 42.0, 50.0, 6.0)
    assert events_of(228.0, 236.0, 108.0, 112.0).overlap_deg == 12.0
    assert centreline_of(Kind.INTAKE, 15.0, 50.0) == (245.0, 107.5)
    assert Events(6.0, 42.0, 50.0, 6.0).earlier(4.0, 4.0) == Events(10.0, 38.0, 54.0, 2.0)


def test_worked_figures_of_a_lobe() -> None:
    """Common practice, no source."""
    assert lobe_lift_mm(parse_size_mm("base", "11.02+25"), 44.86) == pytest.approx(8.84)
    inches = indicator_lift_mm(0.0, 3, 0.048 * 25.4, 2.54)
    assert inches / 25.4 == pytest.approx(0.348)
    assert valve_lift_mm(8.84, 1.6, 0.3) == pytest.approx(13.844)
    assert valve_lift_mm(0.1, 1.0, 0.3) == 0.0


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (lambda: parse_size_mm("nose", "1.766"), "was 1.766 in meant"),
        (lambda: parse_size_mm("nose", "44.86", "in"), "was 44.86 mm meant"),
        (lambda: parse_size_mm("nose", "a"), "must be"),
        (lambda: parse_size_mm("nose", "1+2+3"), "11.02"),
        (lambda: lobe_lift_mm(44.86, 36.02), "changed about"),
        (lambda: indicator_lift_mm(0.12, 0, 0.05), "turn forgotten"),
        (lambda: indicator_lift_mm(0.12, 6, 1.4), "one turn of this dial"),
    ],
)
def test_sizes_that_cannot_be_are_named(call: Callable[[], float], said: str) -> None:
    with pytest.raises(EngineError, match=said):
        call()


def test_a_forgotten_turn_is_named() -> None:
    assert two_ways_words(6.02, 6.02, 1.0) == ""
    assert "1 turn forgotten?" in two_ways_words(6.02, 5.03, 1.0)
    assert "1 turn too many?" in two_ways_words(6.02, 7.02, 1.0)
    assert "measure both again" in two_ways_words(6.02, 6.32, 1.0)


def test_wear_taper_and_run_out_of_one_lobe() -> None:
    places = [Place(30.46, 36.58), Place(30.45, 36.47), Place(30.46, 36.30)]
    state = lobe_state(places)
    assert state.lifts_mm == pytest.approx((6.12, 6.02, 5.84))
    assert state.lowest_at == 2
    assert state.lowest_mm == pytest.approx(5.84)
    assert (state.taper_mm, state.run_out_mm) == pytest.approx((0.28, 0.01))


def test_the_lowest_of_a_kind_points_to_wear_only_beyond_the_others() -> None:
    lifts = dict(
        zip([Item(Kind.EXHAUST, n) for n in range(1, 5)], (6.49, 6.47, 5.84, 6.49), strict=True)
    )
    worn = among(lifts)
    assert worn is not None
    assert worn.points_to_wear
    assert worn.lowest.name == "E3"
    assert worn.low_by_mm == pytest.approx(0.65)
    sound = among({item: 6.70 - 0.01 * item.cylinder for item in lifts})
    assert sound is not None
    assert not sound.points_to_wear
    few = among(dict(list(lifts.items())[1:3]))
    assert few is not None
    assert few.bound_mm is None
    assert not few.points_to_wear


def test_square_to_the_nose_is_not_everywhere_heel() -> None:
    # 50/85 with 25° ramps reaches (50 + 180 + 85)/2 + 25 = 182.5 crank degrees from the nose.
    mild = even_inline((1, 3, 4, 2))
    assert square_reaches_heel(Rig.of(mild), Kind.INTAKE)
    long = replace(mild.cam.intake, opens_before_deg=50.0, closes_after_deg=85.0, ramp_deg=25.0)
    engine = replace(mild, cam=replace(mild.cam, intake=long))
    assert not square_reaches_heel(Rig.of(engine), Kind.INTAKE)


# Lift at overlap --------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", list(Kind))
@pytest.mark.parametrize("by_deg", [-6.0, 3.0, 5.0])
def test_the_turn_for_a_lift_brings_that_lift(kind: Kind, by_deg: float) -> None:
    """From another angle: the engine with its cam moved so far reads the target at overlap TDC."""
    rig = Rig.of(demo_rig("birch"))
    moved = rig.trying(WhatIf(intake_advance_deg=by_deg, exhaust_advance_deg=by_deg))
    row = rig.engine.valve_row(1, kind)
    tdc = np.array([rig.true_offsets_deg[0] + 360.0])
    read, target = (float(each.lobes.lift_mm(tdc)[row, 0]) for each in (rig, moved))
    turn = turn_for_lift_deg(curve_of(rig, 1, kind), read, target)
    assert turn == pytest.approx(by_deg, abs=0.02)
    assert (turn > 0) == ((target > read) == (kind is Kind.INTAKE))


def test_a_wide_checking_lash_turns_the_cam_too_far() -> None:
    curve = curve_of(Rig.of(demo_rig("birch")), 1, Kind.INTAKE)
    slope = curve.slope_mm_per_deg(0.0)
    lift = float(curve.lift_at_mm(0.0))
    out = lash_error_deg(curve, lift, lift + 0.05, 0.10)
    assert out == pytest.approx(0.10 / slope, rel=0.4)
    with pytest.raises(EngineError, match="full lift"):
        turn_for_lift_deg(curve, 0.2, 40.0)


def test_each_bank_has_its_own_start() -> None:
    starts = overlap_starts(Rig.of(demo_rig("cedar")))
    assert starts[0].cylinder == 1
    rig = Rig.of(demo_rig("cedar"))
    for start in starts:
        offset = rig.true_offsets_deg[start.cylinder - 1]
        assert (start.crank_deg - offset) % 720 == pytest.approx(360.0)


# Own card ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", list(Kind))
def test_a_table_read_off_a_rig_gives_its_events_back(kind: Kind) -> None:
    engine = demo_rig("birch")
    rig = Rig.of(engine)
    curve = curve_of(rig, 1, kind)
    at = np.arange(-300.0 if kind is Kind.EXHAUST else -60.0, 301.0, 4.0)
    rows = [Row(float(a), round(float(curve.lift_at_mm(a)), 2)) for a in at]
    table = table_of(rows, of_lobe=False, step_mm=0.01)
    measured = Rig.of(measured_engine(engine, kind, table))
    check = CheckLift(1.0, At.VALVE)
    row = 0 if kind is Kind.INTAKE else 1
    told = cylinder_times(measured, 1, check).valves[row]
    true = cylinder_times(rig, 1, check).valves[row]
    assert told.centreline_deg == pytest.approx(true.centreline_deg, abs=0.3)
    assert told.duration_deg == pytest.approx(true.duration_deg, abs=0.6)


def test_rows_that_contradict_each_other_are_named() -> None:
    good = [
        Row(float(a), lift) for a, lift in ((0, 0.0), (40, 3.0), (80, 5.0), (120, 3.0), (160, 0.0))
    ]
    assert contradictions(good, 0.01) == []
    assert "two lifts" in contradictions([*good, Row(40.0, 3.4)], 0.01)[0]
    assert "falls on its way up" in contradictions([*good, Row(60.0, 2.5)], 0.01)[0]
    assert "rises on its way down" in contradictions([*good, Row(140.0, 3.5)], 0.01)[0]
    assert "has slipped" in contradictions([*good[:-1], Row(160.0, 0.2)], 0.01)[-1]
    with pytest.raises(EngineError, match="contradicts itself"):
        table_of([*good, Row(40.0, 3.4)], of_lobe=True, step_mm=0.01)


# Gear and igniter ----------------------------------------------------------------------------


FIR = Wanted.of(10.0, 28.0, 4.0)
# Read, what is done first, teeth moved, trim: 36 teeth, 20° each (common practice, no source).
IGNITERS = [
    (Set(10, 28, 4), First.LEAVE, 0, 0.0),
    (Set(11, 29, 5), First.LEAVE, 0, 0.0),
    (Set(-10, 8, 24), First.TOOTH, 1, 0.0),
    (Set(35, 48, -16), First.TOOTH, -1, -5.0),
    (Set(5, 28, 4), First.TRIM, 0, 5.0),
    (Set(10, 44, -12), First.ZERO, 0, 0.0),
    (Set(10, 28, 20), First.GAP, 0, 0.0),
]


@pytest.mark.parametrize(("read", "first", "teeth", "trim"), IGNITERS)
def test_gap_then_tooth_then_trip(read: Set, first: First, teeth: int, trim: float) -> None:
    told = judged(read, 36, FIR)
    assert (told.first, told.teeth, told.trim_deg) == (first, teeth, trim)


def test_a_file_without_a_trip_takes_the_usual_band() -> None:
    assert judged(Set(12, 28, 4), 36, Wanted.of(None, 28.0, 4.0)).first is First.LEAVE
    assert judged(Set(15, 28, 4), 36, Wanted.of(None, 28.0, 4.0)).trim_deg == -3.0
