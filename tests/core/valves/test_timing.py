"""What a train does with lash and advance, against the identities of the trade."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.strategies import any_engines
from tests.tables import rows
from true_compass.core.changes import with_table
from true_compass.core.crank.makers import vee
from true_compass.core.engine import BankAdvance, Engine, even_inline
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig, WhatIf
from true_compass.core.units import parse_thread_mm
from true_compass.core.valves.cam import SEAT, Bump, LiftTable, ValveTiming, parse_check_lift
from true_compass.core.valves.cam_card import Card, CardSide, timings_of_card
from true_compass.core.valves.timing import (
    CylinderCycle,
    cylinder_times,
    engine_times,
    event_words,
    main_lift,
)
from true_compass.core.valves.train import LashAt, Train, TrainKind

ONE = even_inline((1,))
WITHIN_DEG = 0.05


def with_cam(engine: Engine, events: tuple[float, ...], ramp: float = 20.0) -> Engine:
    intake = replace(
        engine.cam.intake, opens_before_deg=events[0], closes_after_deg=events[1], ramp_deg=ramp
    )
    exhaust = replace(
        engine.cam.exhaust, opens_before_deg=events[2], closes_after_deg=events[3], ramp_deg=ramp
    )
    return replace(engine, cam=replace(engine.cam, intake=intake, exhaust=exhaust))


@pytest.mark.parametrize("row", rows("cam_cards"), ids=lambda row: row["source"].partition(":")[0])
def test_identities_of_the_cam_both_ways(row: dict[str, str]) -> None:
    told = {key: float(value) for key, value in row.items() if key != "source"}
    engine = with_cam(ONE, (told["ivo"], told["ivc"], told["evo"], told["evc"]))
    times = engine_times(Rig.of(engine))[0]
    intake, exhaust = times.valves
    assert (intake.duration_deg, exhaust.duration_deg) == pytest.approx(
        (told["intake_deg"], told["exhaust_deg"]), abs=WITHIN_DEG
    )
    assert (intake.centreline_deg, exhaust.centreline_deg) == pytest.approx(
        (told["icl"], told["ecl"]), abs=WITHIN_DEG
    )
    assert times.overlap_deg == pytest.approx(told["overlap"], abs=WITHIN_DEG)
    assert times.lobe_separation_cam_deg == pytest.approx(told["separation"], abs=WITHIN_DEG)
    assert times.advance_deg == pytest.approx(told["advance"], abs=WITHIN_DEG)
    card = Card(
        CardSide(((SEAT, told["intake_deg"]),), valve_lift_mm=9.0),
        CardSide(((SEAT, told["exhaust_deg"]),), valve_lift_mm=9.0),
        told["separation"],
        told["advance"],
    )
    cams = timings_of_card(card, Train(), dict.fromkeys(Kind, 0.3))
    made = [(cams[k].opens_before_deg, cams[k].closes_after_deg) for k in Kind]
    assert made[0] == pytest.approx((told["ivo"], told["ivc"]))
    assert made[1] == pytest.approx((told["evo"], told["evc"]))


@given(st.floats(0.01, 0.4), st.floats(0.01, 0.4))
def test_more_lash_opens_later_closes_earlier_and_loses_its_own_lift(a: float, b: float) -> None:
    rig = Rig.of(even_inline((1, 3, 4, 2)))
    before = cylinder_times(rig, 2)
    after = cylinder_times(rig.trying(WhatIf(a, b)), 2)
    for was, now, more in zip(before.valves, after.valves, (a, b), strict=True):
        assert now.own_deg(True) > was.own_deg(True)  # type: ignore[operator]
        assert now.own_deg(False) < was.own_deg(False)  # type: ignore[operator]
        assert was.peak_lift_mm - now.peak_lift_mm == pytest.approx(more)
        assert was.lift_at_overlap_mm - now.lift_at_overlap_mm == pytest.approx(
            min(more, was.lift_at_overlap_mm)
        )
    assert after.overlap_area_mm_deg < before.overlap_area_mm_deg


@pytest.mark.parametrize("earlier", [-7.0, 4.5])
def test_advance_moves_all_four_events_earlier_by_the_same(earlier: float) -> None:
    rig = Rig.of(vee(8, 90))
    before = engine_times(rig)
    after = engine_times(
        rig.trying(WhatIf(intake_advance_deg=earlier, exhaust_advance_deg=earlier))
    )
    for was, now in zip(before, after, strict=True):
        for a, b in zip(was.valves, now.valves, strict=True):
            assert a.own_opens_deg - b.own_opens_deg == pytest.approx(earlier, abs=1e-4)  # type: ignore[operator]
            assert a.own_closes_deg - b.own_closes_deg == pytest.approx(earlier, abs=1e-4)  # type: ignore[operator]
        assert now.advance_deg == pytest.approx(was.advance_deg + earlier, abs=1e-4)  # type: ignore[operator]
        assert now.overlap_deg == pytest.approx(was.overlap_deg, abs=1e-4)


def test_lift_at_overlap_of_a_plain_sine_lobe() -> None:
    # 8 mm sin² lobe, ratio 1.5, events 15/50/50/15: 0.44 mm. Common practice, no source.
    degrees = np.arange(0.0, 245.0 + 0.1, 1.0)
    lobe = 8.0 * np.sin(np.pi * degrees / 245.0) ** 2
    lobe[0] = lobe[-1] = 0.0
    table = LiftTable(tuple(degrees), tuple(lobe), resolution_mm=0.0)
    engine = with_cam(replace(ONE, train=Train(intake_ratio=1.5)), (15, 50, 50, 15))
    engine = replace(
        engine, cam=engine.cam.with_timing(Kind.INTAKE, replace(engine.cam.intake, lash_mm=0.0))
    )
    engine = with_table(engine, Kind.INTAKE, table)
    intake = cylinder_times(Rig.of(engine), 1).valves[0]
    assert intake.lift_at_overlap_mm == pytest.approx(0.44, abs=0.005)
    assert intake.peak_lift_mm == pytest.approx(12.0, abs=0.001)
    # Slackened there to 0.20 the real lash is 0.64: the blade and the lift of the lobe there.
    assert 0.20 + intake.lift_at_overlap_mm == pytest.approx(0.64, abs=0.005)


def test_equal_drops_from_the_nose_find_the_centreline() -> None:
    # Three depths of an even lobe at 108 after TDC; readings 92/124, 84.5/131 and 78/138.5 of the
    # trade average 108.0, 107.75 and 108.25. Common practice, no source.
    rig = Rig.of(with_cam(ONE, (16, 52, 58, 14)))
    at = np.arange(360.0, 580.0, 0.01)
    lift = rig.lobes.lift_mm(at)[0]
    for share in (0.97, 0.93, 0.87):
        above = at[lift >= share * lift.max()]
        assert (above[0] + above[-1]) / 2 - 360 == pytest.approx(108.0, abs=0.25)
    readings = ((92, 124), (84.5, 131), (78, 138.5))
    assert np.mean([np.mean(pair) for pair in readings]) == pytest.approx(108.0)


def test_a_cycle_keeps_what_it_found_as_set_for_the_same_cylinder_only() -> None:
    rig = Rig.of(even_inline((1, 3, 4, 2)))
    usual, tried = CylinderCycle.of(rig, 2), rig.trying(WhatIf(0.1, 0.1))
    anew = CylinderCycle.of(tried, 2)
    assert (usual.changed, anew.changed) == (False, True)
    assert np.array_equal(anew.as_set_mm, usual.lift_mm)
    assert anew.as_set == usual.times
    kept = CylinderCycle.of(tried, 2, usual=usual)
    assert kept.as_set_mm is usual.as_set_mm
    assert np.array_equal(kept.lift_mm, anew.lift_mm)
    other = CylinderCycle.of(tried, 3, usual=usual)
    assert other.as_set.cylinder == 3
    assert (anew.at_deg[0], anew.at_deg[-1], len(anew.at_deg)) == (0.0, 720.0, 721)
    # Each in its own cycle: all cylinders look alike.
    assert other.lift_mm == pytest.approx(anew.lift_mm)


@pytest.mark.parametrize(
    ("kind", "opens", "cycle_deg", "words"),
    [
        (Kind.INTAKE, True, 345.0, "15 BTDC"),
        (Kind.INTAKE, True, 364.0, "4 ATDC"),
        (Kind.INTAKE, False, 590.0, "50 ABDC"),
        (Kind.EXHAUST, True, 130.0, "50 BBDC"),
        (Kind.EXHAUST, False, 375.0, "15 ATDC"),
        (Kind.EXHAUST, False, 347.3, "12.7 BTDC"),
        (Kind.INTAKE, True, 360.0, "0 BTDC"),
        (Kind.EXHAUST, True, 700.0, "200 BBDC"),
        (Kind.INTAKE, False, 170.0, "350 ABDC"),
        (Kind.INTAKE, False, 540.0, "0 ABDC"),
        (Kind.EXHAUST, True, 179.96, "0 BBDC"),
        (Kind.EXHAUST, False, 360.04, "0 ATDC"),
    ],
)
def test_events_in_words(kind: Kind, opens: bool, cycle_deg: float, words: str) -> None:
    assert event_words(kind, opens, cycle_deg) == words


def test_lash_is_converted_to_the_valve_from_where_it_is_measured() -> None:
    for at, factor in ((LashAt.VALVE, 1.0), (LashAt.BRIDGE, 1.0), (LashAt.ROD_END, 1.5)):
        engine = replace(ONE, train=Train(intake_ratio=1.5, exhaust_ratio=1.5, lash_at=at))
        lashes = Rig.of(engine).lobes.lash_mm
        assert lashes == pytest.approx([0.25 * factor, 0.30 * factor])
        # With the lash as set the events hold, wherever it is measured.
        assert cylinder_times(Rig.of(engine), 1).overlap_deg == pytest.approx(30.0, abs=WITHIN_DEG)


def test_a_hydraulic_plunger_that_sinks_loses_lift() -> None:
    cam = replace(
        ONE.cam,
        intake=replace(ONE.cam.intake, lash_mm=0.0),
        exhaust=replace(ONE.cam.exhaust, lash_mm=0.0),
    )
    train = Train(hydraulic=True, intake_ratio=1.6, exhaust_ratio=1.6)
    sinks = replace(ONE, cam=cam, train=replace(train, leak_down_mm=0.2))
    firm = replace(ONE, cam=cam, train=train)
    lost = Rig.of(firm).lobes.peak_lift_mm - Rig.of(sinks).lobes.peak_lift_mm
    # Off by default, and then the ratio times what the plunger gives way.
    assert Rig.of(firm).lobes.lash_mm.tolist() == [0.0, 0.0]
    assert lost == pytest.approx(0.32)
    tried = Rig.of(firm).trying(WhatIf(0.2, 0.2)).lobes.peak_lift_mm
    assert Rig.of(firm).lobes.peak_lift_mm - tried == pytest.approx(0.32)


def test_more_lash_than_lobe_never_opens() -> None:
    rig = Rig.of(ONE).trying(WhatIf(intake_lash_mm=20.0))
    times = cylinder_times(rig, 1)
    assert times.valves[0].opens == times.valves[0].closes == "never"
    assert times.valves[0].peak_lift_mm == 0.0
    assert times.overlap_deg is None
    assert CylinderCycle.of(rig, 1).lift_mm[0].max() == 0.0


def test_each_bank_has_its_own_advance() -> None:
    engine = replace(vee(8, 90), bank_advances=(BankAdvance("B", 3.0, 3.0),))
    advances = [times.advance_deg for times in engine_times(Rig.of(engine))]
    assert advances == pytest.approx([0.0] * 4 + [3.0] * 4, abs=1e-4)
    with pytest.raises(EngineError, match="one camshaft"):
        replace(engine, bank_advances=(BankAdvance("B", 3.0, 1.0),))
    with pytest.raises(EngineError, match="no bank"):
        replace(engine, bank_advances=(BankAdvance("C", 3.0, 3.0),))


SIDE = CardSide(((SEAT, 248.0),), valve_lift_mm=9.0)
AT_108 = {"centreline_deg": 108.0}


@pytest.mark.parametrize(
    ("card", "says"),
    [
        (
            Card(replace(SIDE, durations_deg=((SEAT, 252.0),), opens_deg=16, closes_deg=52), SIDE),
            "these events make 248°, the card says 252° at the seat",
        ),
        (Card(replace(SIDE, centreline_deg=104, opens_deg=16, closes_deg=52), SIDE), "centreline"),
        (
            Card(replace(SIDE, centreline_deg=108), replace(SIDE, centreline_deg=112), 112.0),
            "the centrelines 108 and 112 make 110 cam °",
        ),
        (
            Card(replace(SIDE, centreline_deg=108), replace(SIDE, centreline_deg=112), None, 6.0),
            "make 2°",
        ),
        (Card(SIDE, SIDE), "is missing"),
        (Card(replace(SIDE, lobe_lift_mm=6.0), SIDE, 110.0), "either lobe_lift_mm or valve"),
        (Card(replace(SIDE, durations_deg=()), SIDE, 110.0), "needs a duration"),
    ],
)
def test_a_card_that_contradicts_itself_is_told_so(card: Card, says: str) -> None:
    with pytest.raises(EngineError, match=says):
        timings_of_card(card, Train(), dict.fromkeys(Kind, 0.25))


@pytest.mark.parametrize(
    ("intake", "exhaust", "more", "centrelines"),
    [
        # Each by hand. 16 + 180 + 52 = 248, whose half less 16 is 108.
        ({"opens_deg": 16, "closes_deg": 52}, {"centreline_deg": 112}, {}, (108, 112)),
        (AT_108, {"opens_deg": 56, "closes_deg": 12}, {}, (108, 112)),
        # What differs by one degree was rounded.
        ({"opens_deg": 16, "closes_deg": 53}, {"centreline_deg": 112}, {}, (108.5, 112)),
        (
            {"centreline_deg": 108},
            {"centreline_deg": 112},
            {"lobe_separation_cam_deg": 111},
            (108, 112),
        ),
        (AT_108, {"centreline_deg": 112}, {"advance_deg": 3}, (108, 112)),
        ({**AT_108, "opens_deg": 17, "closes_deg": 51}, {"centreline_deg": 112}, {}, (108, 112)),
        # One side and the separation: the other is twice the separation less it.
        (AT_108, {}, {"lobe_separation_cam_deg": 110}, (108, 112)),
        ({}, {"centreline_deg": 115}, {"lobe_separation_cam_deg": 110}, (105, 115)),
        ({}, {}, {"lobe_separation_cam_deg": 110, "advance_deg": 4}, (106, 114)),
        ({}, {}, {"lobe_separation_cam_deg": 110}, (110, 110)),
    ],
)
def test_what_a_card_says_gives_both_centrelines(
    intake: dict[str, Any],
    exhaust: dict[str, Any],
    more: dict[str, float],
    centrelines: tuple[float, float],
) -> None:
    card = Card(replace(SIDE, **intake), replace(SIDE, **exhaust), **more)
    cams = timings_of_card(card, Train(), dict.fromkeys(Kind, 0.25))
    for kind, wanted in zip(Kind, centrelines, strict=True):
        assert cams[kind].centreline_deg == pytest.approx(wanted)
        # 248° of duration, half of it on either side.
        outer = 124.0 - wanted
        opens, closes = (outer, 68.0 - outer) if kind is Kind.INTAKE else (68.0 - outer, outer)
        assert cams[kind].opens_before_deg == pytest.approx(opens)
        assert cams[kind].closes_after_deg == pytest.approx(closes)


def test_a_card_with_events_and_no_duration_takes_theirs() -> None:
    events = CardSide((), valve_lift_mm=9.0, opens_deg=16.0, closes_deg=52.0)
    only_one = replace(events, closes_deg=None)
    cams = timings_of_card(Card(events, SIDE, 110.0), Train(), dict.fromkeys(Kind, 0.25))
    assert cams[Kind.INTAKE].duration_deg == 248.0
    with pytest.raises(EngineError, match="needs a duration, or an opening and a closing"):
        timings_of_card(Card(only_one, SIDE, 110.0), Train(), dict.fromkeys(Kind, 0.25))
    # At another lift than the duration's, it is one duration more.
    two = replace(events, durations_deg=((parse_check_lift("at", "1mm@valve"), 210.0),))
    found = timings_of_card(Card(two, SIDE, 110.0), Train(), dict.fromkeys(Kind, 0.25))
    assert found[Kind.INTAKE].durations_deg == ((SEAT, 248.0),)


def test_a_lobe_that_the_lash_takes_up_still_has_a_lobe() -> None:
    side = replace(SIDE, valve_lift_mm=None, lobe_lift_mm=4.0)
    train = Train(intake_ratio=1.5, exhaust_ratio=1.5)
    for lash_mm, ramp_mm in ((2.9, None), (3.1, 1.5)):
        timing = timings_of_card(Card(side, side, 110.0), train, dict.fromkeys(Kind, lash_mm))
        assert timing[Kind.INTAKE].ramp_mm == ramp_mm
        assert timing[Kind.INTAKE].peak_lift_mm == pytest.approx(4.0 * 1.5 - lash_mm)


def test_a_card_with_lobe_lift_and_two_durations_solves_back() -> None:
    check = parse_check_lift("at", "0.050in@tappet")
    side = CardSide(((SEAT, 254.0), (check, 214.0)), lobe_lift_mm=7.6)
    card = Card(side, side, 110.0, 4.0)
    train = Train(intake_ratio=1.5, exhaust_ratio=1.5)
    cams = timings_of_card(card, train, dict.fromkeys(Kind, 0.3))
    engine = replace(
        ONE,
        train=train,
        card=card,
        cam=replace(ONE.cam, intake=cams[Kind.INTAKE], exhaust=cams[Kind.EXHAUST]),
    )
    rig = Rig.of(engine)
    assert rig.lobes.lobe_peak_mm == pytest.approx([7.6, 7.6])
    for at, duration in ((SEAT, 254.0), (check, 214.0)):
        times = cylinder_times(rig, 1, at)
        assert [v.duration_deg for v in times.valves] == pytest.approx([duration] * 2, abs=0.05)
        assert times.lobe_separation_cam_deg == pytest.approx(110.0, abs=0.05)


@settings(max_examples=25)
@given(any_engines())
def test_times_of_all_cylinders_and_of_one_agree(engine: Engine) -> None:
    rig = Rig.of(engine)
    for times in engine_times(rig):
        alone = cylinder_times(rig, times.cylinder)
        assert alone.valves == times.valves
        assert alone.overlap_area_mm_deg == pytest.approx(times.overlap_area_mm_deg)


@pytest.mark.parametrize(
    ("text", "pitch"),
    [
        ("M1x0.2", 0.2),
        ("M64x6", 6.0),
        ("M8x1.25", 1.25),
        ("M6x0.75", 0.75),
        ("3/8-24", 25.4 / 24),
        ("#10-32", 0.79375),
    ],
)
def test_threads(text: str, pitch: float) -> None:
    assert parse_thread_mm(text) == pytest.approx(pitch, abs=1e-5)


@pytest.mark.parametrize("text", ["M8", "8x1", "3/8-0", "M8x99", "-24", "M1x0.19", "M64x6.1"])
def test_wrong_threads(text: str) -> None:
    with pytest.raises(EngineError, match="M8x1 or 3/8-24"):
        parse_thread_mm(text)


@pytest.mark.parametrize(
    ("train", "says"),
    [
        (Train(TrainKind.BUCKET, intake_ratio=1.5), "must be 1 with"),
        (Train(leak_down_mm=0.2), "hydraulic tappets only"),
        (Train(TrainKind.BUCKET, lash_at=LashAt.ROD_END), "have none"),
        (Train(hydraulic=True), "must be 0 with hydraulic"),
        (Train(intake_ratio=9.0), "from 0.5 to 4"),
    ],
)
def test_trains_that_cannot_be(train: Train, says: str) -> None:
    with pytest.raises(EngineError, match=says):
        replace(ONE, train=train)


def test_suction_has_nothing_to_set() -> None:
    intake = ValveTiming(-14.0, 6.0, 5.0, 0.0, ramp_deg=0.0, suction=True)
    rig = Rig.of(replace(ONE, cam=replace(ONE.cam, intake=intake)))
    assert rig.item_names == ("E1",)
    assert rig.lobes.peak_lift_mm[0] == pytest.approx(5.0)
    assert np.isnan(rig.lobes.margin_deg(np.array(0.0))[0])
    # Advance does not move it, and lash is nothing to it.
    times = cylinder_times(rig.trying(WhatIf(0.3, 0.0, 8.0, 8.0)), 1)
    assert times.valves[0].opens == "14 ATDC"
    with pytest.raises(EngineError, match="lash of 0"):
        replace(ONE, cam=replace(ONE.cam, intake=replace(intake, lash_mm=0.2)))


def test_the_main_lobe_is_the_longer_one_wherever_the_release_stands() -> None:
    exhaust = replace(ONE.cam.exhaust, opens_before_deg=51.0, closes_after_deg=15.0)
    for release in (None, Bump(600.0, 690.0, 0.6, 10.0), Bump(-90.0, 0.0, 0.6, 10.0)):
        cam = replace(ONE.cam, exhaust=exhaust, release=release)
        times = cylinder_times(Rig.of(replace(ONE, cam=cam)), 1).valves[1]
        assert (times.opens, times.closes) == ("51 BBDC", "15 ATDC")
    assert main_lift([(10.0, True), (50.0, False), (700.0, True), (5.0, False)]) == (10.0, 50.0)
    assert main_lift([(600.0, True), (90.0, False), (200.0, True), (300.0, False)]) == (600.0, 90.0)
    assert main_lift([(10.0, True)]) is None
