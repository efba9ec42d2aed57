from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import CubicSpline, PchipInterpolator

from tests.strategies import angles_deg, timings
from true_compass.core.changes import with_table
from true_compass.core.items import Item, Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.valves.cam import (
    SEAT,
    Bump,
    CheckLift,
    LiftTable,
    Place,
    ValveTiming,
    check_table,
    parse_check_lift,
)
from true_compass.core.valves.cam_card import Card, CardSide, timings_of_card
from true_compass.core.valves.drive import Drive, Drives
from true_compass.core.valves.lobe import bump_profile, profile_of
from true_compass.core.valves.profile import Profile, joined
from true_compass.core.valves.readings import smoothed, table_profile, timing_of_table
from true_compass.core.valves.train import Train
from true_compass.files.rigs import demo_rig

CRANK_DEGREE = 1.0
MILD = ValveTiming(15.0, 50.0, peak_lift_mm=9.0, lash_mm=0.25, ramp_deg=20.0)
kinds = st.sampled_from(Kind)


def driven(kind: Kind, timing: ValveTiming, ratio: float = 1.0) -> Drives:
    lash = timing.lash_mm
    return Drives.of([Drive(profile_of(kind, timing, ratio, lash), 0.0, ratio, lash)])


def lift_at(kind: Kind, timing: ValveTiming, cycle_deg: float, ratio: float = 1.0) -> float:
    return float(driven(kind, timing, ratio).lift_mm(np.array(cycle_deg))[0])


def events_deg(kind: Kind, timing: ValveTiming) -> tuple[float, float]:
    """Cycle angles of opening and closing, from the definition of the four events."""
    if kind is Kind.INTAKE:
        return 360 - timing.opens_before_deg, 540 + timing.closes_after_deg
    return 180 - timing.opens_before_deg, 360 + timing.closes_after_deg


def largest_jumps(profile: Profile, step: float) -> list[float]:
    """Largest change from one sample to the next of lift, velocity and acceleration."""
    lobe = Drives.of([Drive(profile, 0.0)]).lobe_mm(np.arange(0.0, 720.0, step))[0]
    return [
        float(np.max(np.abs(np.diff(np.diff(lobe, order) / step**order)))) for order in range(3)
    ]


@given(kinds, timings, st.sampled_from([1.0, 1.6]))
def test_the_valve_leaves_its_seat_exactly_at_the_named_events(
    kind: Kind, timing: ValveTiming, ratio: float
) -> None:
    opens, closes = events_deg(kind, timing)
    within = 0.01 * CRANK_DEGREE
    assert lift_at(kind, timing, opens - within, ratio) == 0.0
    assert lift_at(kind, timing, opens + within, ratio) > 0.0
    assert lift_at(kind, timing, closes - within, ratio) > 0.0
    assert lift_at(kind, timing, closes + within, ratio) == 0.0
    assert lift_at(kind, timing, (opens + closes) / 2) == pytest.approx(timing.peak_lift_mm)


@given(kinds, timings, angles_deg)
def test_lift_is_never_negative_nor_above_its_peak(
    kind: Kind, timing: ValveTiming, angle: float
) -> None:
    lobes = driven(kind, timing)
    assert 0.0 <= lobes.lift_mm(np.array(angle))[0] <= timing.peak_lift_mm + 1e-9
    assert lobes.lobe_mm(np.array(angle))[0] >= 0.0


TABLE = LiftTable(
    tuple(float(x) for x in range(0, 262, 4)),
    tuple(round(8.0 * float(np.sin(np.pi * x / 260)) ** 2, 2) for x in range(0, 262, 4)),
)
CHECKED = ValveTiming(
    7.0,
    33.0,
    peak_lift_mm=10.0,
    lash_mm=0.3,
    check=parse_check_lift("at", "1mm@valve"),
    centreline_deg=100.0,
)
CARD = ValveTiming(
    20.0, 64.0, 10.0, 0.3, durations_deg=((parse_check_lift("at", "0.050in@tappet"), 228.0),)
)


@pytest.mark.parametrize(
    "profile",
    [
        profile_of(Kind.INTAKE, MILD, 1.0, 0.25),
        profile_of(Kind.INTAKE, CHECKED, 1.5, 0.3),
        profile_of(Kind.INTAKE, CARD, 1.5, 0.3),
        table_profile(Kind.INTAKE, MILD, TABLE, 1.5, 0.25),
        joined(
            profile_of(Kind.EXHAUST, MILD, 1.0, 0.25),
            bump_profile(Bump(600.0, 700.0, 0.6, 10.0), 1.0, 0.25),
        ),
    ],
    ids=["events", "checked, lopsided", "card", "table", "release"],
)
def test_a_lobe_is_continuous_up_to_its_acceleration(profile: Profile) -> None:
    """Finite differences: halving the step must halve the largest jump of each derivative."""
    coarse, fine = largest_jumps(profile, 0.04), largest_jumps(profile, 0.02)
    assert np.array(coarse) / fine == pytest.approx(2.0, abs=0.1)


def test_an_edge_would_have_been_found() -> None:
    """The same measure on a lobe whose ramp is a plain step, to see that it can fail."""
    sharp = ValveTiming(15.0, 50.0, peak_lift_mm=9.0, lash_mm=0.25, ramp_deg=0.0)
    profile = profile_of(Kind.INTAKE, sharp, 1.0, 0.25)
    ratio = largest_jumps(profile, 0.1)[0] / largest_jumps(profile, 0.05)[0]
    assert ratio == pytest.approx(1.0, abs=0.1)


@pytest.mark.parametrize(
    ("text", "ratio"),
    [("seat", 1.0), ("1mm@valve", 1.4), ("0.050in@tappet", 1.6), ("0.1mm@tappet", 1.0)],
)
@pytest.mark.parametrize("centreline", [None, 95.0, 120.0])
@settings(max_examples=30)
@given(opens=st.floats(-10, 40), closes=st.floats(10, 60))
def test_events_at_a_checking_lift_solve_back(
    text: str, ratio: float, centreline: float | None, opens: float, closes: float
) -> None:
    timing = ValveTiming(
        opens, closes, 10.0, 0.25, check=parse_check_lift("at", text), centreline_deg=centreline
    )
    try:
        lobes = driven(Kind.INTAKE, timing, ratio)
    except EngineError:
        assert centreline is not None  # too lopsided for a smooth lobe, and it says so
        return
    level = {"seat": 0.25, "1mm@valve": 1.25, "0.050in@tappet": 1.27 * ratio, "0.1mm@tappet": 0.1}
    for at in events_deg(Kind.INTAKE, timing):
        near = ratio * lobes.lobe_mm(np.array([at - 0.05, at + 0.05]))[0]
        assert near.min() <= level[text] + 1e-9
        assert near.max() >= level[text] - 1e-9


def test_the_nose_stands_at_the_centreline() -> None:
    at = np.arange(380.0, 560.0, 0.05)
    lift = driven(Kind.INTAKE, CHECKED).lift_mm(at)[0]
    assert at[np.argmax(lift)] == pytest.approx(460.0, abs=0.1)
    assert lift.max() == pytest.approx(10.0)


@pytest.mark.parametrize(
    ("timing", "says"),
    [
        (ValveTiming(15, 50, 9, 0.25, centreline_deg=20.0), "no smooth lobe"),
        (ValveTiming(15, 50, 9, 0.25, centreline_deg=180.0), "no smooth lobe|between"),
        (ValveTiming(15, 50, 9, 0.25, check=parse_check_lift("a", "9.2mm@valve")), "only 9.25 mm"),
        (
            ValveTiming(15, 50, 9, 0.25, durations_deg=((parse_check_lift("a", "1mm"), 244.0),)),
            "no smooth lobe",
        ),
        (
            ValveTiming(
                15,
                50,
                9,
                0.25,
                durations_deg=tuple(
                    (parse_check_lift("a", at), length)
                    for at, length in (("1mm", 200.0), ("2mm", 204.0), ("4mm", 140.0))
                ),
            ),
            "no smooth lobe",
        ),
    ],
)
def test_numbers_that_make_no_lobe_are_named(timing: ValveTiming, says: str) -> None:
    with pytest.raises(EngineError, match=says):
        profile_of(Kind.INTAKE, timing, 1.0, 0.25)


@given(kinds, timings, st.floats(0, 719.9))
def test_margin_against_a_brute_force_scan(kind: Kind, timing: ValveTiming, angle: float) -> None:
    """Walk both ways in small steps until the lobe has begun, or the base circle is reached."""
    opens, closes = events_deg(kind, timing)
    reach = (closes - opens) + 2 * timing.ramp_deg
    step = 0.25 * CRANK_DEGREE

    def on_lobe(at: float) -> bool:
        return (at - (opens - timing.ramp_deg)) % 720 < reach

    here = on_lobe(angle)
    walked = next(
        n * step
        for n in range(1, 3000)
        if on_lobe(angle + n * step) != here or on_lobe(angle - n * step) != here
    )
    margin = float(driven(kind, timing).margin_deg(np.array(angle))[0])
    assert abs(margin) == pytest.approx(walked, abs=1.01 * step)
    if abs(margin) > 0.01 * CRANK_DEGREE:
        assert (margin < 0) == here


@pytest.mark.parametrize("ramp", [0.0, 20.0, 25.0])
def test_at_its_own_compression_tdc_the_later_of_ivc_and_evo_decides(ramp: float) -> None:
    # 180 - max(IVC, EVO) - ramp: common practice, no source. The long cam with 25° leaves 65°.
    intake = driven(Kind.INTAKE, ValveTiming(50.0, 85.0, 11.0, 0.3, ramp))
    exhaust = driven(Kind.EXHAUST, ValveTiming(90.0, 45.0, 11.0, 0.4, ramp))
    margins = [float(lobes.margin_deg(np.array(0.0))[0]) for lobes in (intake, exhaust)]
    assert min(margins) == pytest.approx(180 - 90 - ramp)


def test_a_compression_release_moves_the_place_to_adjust() -> None:
    # Held to 15° before TDC, no ramp: 15° of margin at TDC, 72° at 57° after it, for a cam whose
    # exhaust opens 51° before BDC. Common practice, no source.
    exhaust = profile_of(Kind.EXHAUST, ValveTiming(51.0, 15.0, 9.0, 0.3, 0.0), 1.0, 0.3)
    lobes = Drives.of([Drive(joined(exhaust, bump_profile(Bump(600, 705, 0.5, 0), 1.0, 0.3)), 0.0)])
    assert lobes.margin_deg(np.array([0.0, 57.0]))[0] == pytest.approx([15.0, 72.0])
    free = sorted((round(start), round(length)) for start, length in lobes.free_arcs_deg(0))
    assert free == [(375, 225), (705, 144)]
    with pytest.raises(EngineError, match="runs into the exhaust lobe"):
        joined(exhaust, bump_profile(Bump(340, 420, 0.5), 1.0, 0.3))


@pytest.mark.parametrize("spline", [CubicSpline, PchipInterpolator])
def test_a_table_reads_back_as_a_general_spline_does(spline: Callable[..., object]) -> None:
    other = spline(TABLE.angles_deg, TABLE.lifts_mm)
    at = np.arange(6.0, 254.0, 0.37)
    profile = table_profile(Kind.INTAKE, MILD, TABLE, 1.0, 0.25)
    ours = Drives.of([Drive(profile, 0.0)]).lobe_mm(at)[0]
    assert ours == pytest.approx(other(at), abs=2 * TABLE.resolution_mm)  # type: ignore[operator]


@given(st.integers(0, 2**32 - 1))
def test_smoothing_moves_no_row_by_more_than_half_a_step(seed: int) -> None:
    at = np.arange(0.0, 262.0, 4.0)
    true = 8.0 * np.sin(np.pi * at / 260) ** 2
    noise = np.random.default_rng(seed).uniform(-0.004, 0.004, len(at))
    read = np.asarray(np.round(np.maximum(true + noise, 0), 2), dtype=np.float64)
    read[0] = read[-1] = 0.0
    lift, velocity, _ = smoothed(at, read, 0.01)
    assert np.max(np.abs(lift - read)) <= 0.005 + 1e-12
    slope = np.pi / 260 * 8.0 * np.sin(2 * np.pi * at / 260)
    assert np.max(np.abs(velocity - slope)[3:-3]) < 0.004


def test_a_table_stands_where_its_centreline_says() -> None:
    timing = timing_of_table(Kind.INTAKE, TABLE, Train(), 0.25, centreline_deg=105.0)
    profile = profile_of(Kind.INTAKE, timing, 1.0, 0.25)
    assert profile.at_deg[np.argmax(profile.motion[0])] == pytest.approx(465.0, abs=2.0)
    assert timing.duration_deg == pytest.approx(260 - 2 * 260 / np.pi * np.arcsin(0.1768), abs=1.0)


@pytest.mark.parametrize(
    ("angles", "lifts", "says"),
    [
        ([0, 10, 20, 20, 40, 50, 60], [0, 1, 2, 2, 1, 1, 0], "has 20° twice"),
        ([0, 10, 20, 15, 40, 50, 60], [0, 1, 2, 2, 1, 1, 0], "goes back from 20° to 15°"),
        ([0, 10, 20, 30, 40, 50, 60], [0, 1, 2, 3, 2, 1, 0.5], "begin and end at zero"),
        ([0, 10, 20, 30, 40, 50, 60], [0, 1, -2, 3, 2, 1, 0], "negative lift"),
        ([0, 10, 20], [0, 1, 0], "7 to 5000 rows"),
        ([0, 100, 200, 300, 400, 500, 800], [0, 1, 2, 3, 2, 1, 0], "longer than one cycle"),
        ([0, 90, 180, 190, 200, 210, 220], [0, 5, 6, 5, 4, 3, 0], "60° apart"),
    ],
)
def test_wrong_tables_are_explained(angles: list[float], lifts: list[float], says: str) -> None:
    with pytest.raises(EngineError, match=says):
        check_table("table", LiftTable(tuple(angles), tuple(lifts)))


def test_checking_lifts_read_back() -> None:
    for text in ("seat", "1mm@valve", "0.050in@tappet"):
        assert parse_check_lift("at", text).text == text
    assert parse_check_lift("at", "1 mm").words == "1 mm at the valve"
    assert parse_check_lift("at", "seat") is SEAT
    for wrong in ("", "1", "1mm@foot", "-1mm", "0mm", "1e9mm", "mm"):
        with pytest.raises(EngineError):
            parse_check_lift("at", wrong)


def with_check(text: str, name: str = "alder") -> Rig:
    engine = demo_rig(name)
    check = parse_check_lift("at", text)
    cam = engine.cam
    for kind in Kind:
        cam = cam.with_timing(kind, replace(cam.timing(kind), check=check))
    return Rig.of(replace(engine, cam=cam))


@pytest.mark.parametrize("lift_mm", [0.05, 0.21, 0.25, 0.31, 0.4, 0.46, 1.0])
def test_events_at_a_lift_near_the_ramp_against_halving_the_whole_lobe(lift_mm: float) -> None:
    """Seat events are moved out until the lift at the checked angle is the checking lift.

    Only the lift of lobes that are stated at the seat is used, as a second derivation.
    """
    engine = demo_rig("alder")
    exhaust = engine.cam.exhaust
    opens_deg = exhaust.event_cycle_deg(Kind.EXHAUST)[0]
    low, high = 0.0, 60.0
    for _ in range(50):
        middle = (low + high) / 2
        moved = replace(
            exhaust,
            opens_before_deg=exhaust.opens_before_deg + middle,
            closes_after_deg=exhaust.closes_after_deg + middle,
        )
        rig = Rig.of(replace(engine, cam=replace(engine.cam, exhaust=moved)))
        row = engine.valve_row(1, Kind.EXHAUST)
        reached = rig.lobes.lift_mm(np.array([opens_deg]))[row, 0] > lift_mm
        low, high = (low, middle) if reached else (middle, high)
    ends = [rig.item_arcs_deg, with_check(f"{lift_mm}mm@valve").item_arcs_deg]
    by_halving, by_check = (arcs[Item(Kind.EXHAUST, 1)] for arcs in ends)
    assert by_check[0] == pytest.approx(by_halving[0], abs=1e-4)


@settings(max_examples=60)
@given(st.floats(0.02, 1.2), st.sampled_from(["alder", "birch", "aspen"]))
def test_margins_are_continuous_in_the_checking_lift(lift_mm: float, name: str) -> None:
    margins = [
        with_check(f"{lift:.6f}mm@valve", name).item_margins_deg(np.array([0.0]))
        for lift in (lift_mm, lift_mm + 2e-4)
    ]
    assert np.max(np.abs(margins[1] - margins[0])) < 0.5


@given(st.floats(0.02, 1.2))
def test_cards_given_at_such_lifts_are_continuous_too(lift_mm: float) -> None:
    def free_deg(lift: float) -> float:
        side = CardSide(((CheckLift(lift, Place.VALVE), 230.0),), valve_lift_mm=9.0)
        card = Card(side, side, lobe_separation_cam_deg=110.0)
        timing = timings_of_card(card, Train(), dict.fromkeys(Kind, 0.25))[Kind.INTAKE]
        ((start, end),) = profile_of(Kind.INTAKE, timing, 1.0, 0.25).arcs_deg
        return end - start

    assert abs(free_deg(lift_mm + 2e-4) - free_deg(lift_mm)) < 0.5


def test_a_table_read_at_the_valve_gives_its_lobe_back() -> None:
    """Alder's own valve lift, degree by degree, fed back: the ramps that lash hid are not free."""
    engine = demo_rig("alder")
    usual = Rig.of(engine)
    angles = np.arange(0.0, 720.0)
    for kind in Kind:
        row = engine.valve_row(1, kind)
        lift = np.round(usual.lobes.lift_mm(angles)[row], 6)
        moving = np.flatnonzero(lift > 0)
        cut = slice(moving[0] - 1, moving[-1] + 2)
        table = LiftTable(tuple(angles[cut]), tuple(lift[cut]), of_lobe=False, resolution_mm=1e-6)
        fed = Rig.of(with_table(engine, kind, table))
        item = Item(kind, 1)
        told, back = usual.item_arcs_deg[item][0], fed.item_arcs_deg[item][0]
        # No free degree is made up, and no more than the step of the table is lost.
        assert told[1] - 4.0 <= back[1] <= told[1] + 0.01
        every = np.arange(0.0, 720.0, 0.25)
        apart = fed.lobes.lift_mm(every)[row] - usual.lobes.lift_mm(every)[row]
        assert np.max(np.abs(apart)) < 0.02


def test_few_rows_are_refused_with_a_reason() -> None:
    with pytest.raises(EngineError, match="between fewer the curve would be a guess"):
        check_table("table", LiftTable((0.0, 90.0, 180.0), (0.0, 5.0, 0.0)))


@pytest.mark.parametrize("kind", Kind)
@pytest.mark.parametrize("ramp_deg", [0.0, 25.0])
def test_a_lobe_without_lash_rises_from_the_seat_to_its_stated_lift(
    kind: Kind, ramp_deg: float
) -> None:
    profile = profile_of(kind, ValveTiming(15, 50, 9, 0.0, ramp_deg), 1.0, 0.0)
    assert profile.peak_mm == pytest.approx(9.0)
    assert profile.motion[0, 0] == profile.motion[0, -1] == 0.0
    rising = np.diff(profile.motion[0])
    assert np.all(rising[: np.argmax(profile.motion[0])] >= 0)


@pytest.mark.parametrize("kind", Kind)
@pytest.mark.parametrize("ramp_deg", [10.0, 30.0, 60.0])
def test_a_short_lobe_on_long_ramps_rises_once_and_falls_once(kind: Kind, ramp_deg: float) -> None:
    """Open for 40° only: its ramps reach no further in than its nose lets them."""
    profile = profile_of(kind, ValveTiming(-70, -70, 3.0, 0.25, ramp_deg), 1.0, 0.25)
    lift = profile.motion[0]
    top = int(np.argmax(lift))
    assert lift[top] == pytest.approx(3.25)
    assert np.all(np.diff(lift[: top + 1]) >= -1e-9)
    assert np.all(np.diff(lift[top:]) <= 1e-9)
