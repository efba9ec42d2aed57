"""Gaps to piston and between valves, by a second derivation and by hand."""

import math
from dataclasses import replace

import numpy as np
import pytest

from true_compass.core.degreeing.clearance import (
    Method,
    Touch,
    between_gaps_mm,
    gaps_at_mm,
    least_between_mm,
    least_gaps,
    shut_gap_from_mm,
    shut_gap_mm,
    tightest,
)
from true_compass.core.engine import even_inline
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.valves.chamber import Chamber, ValveRoom, check_chamber
from true_compass.files.rigs import demo_rig

CHAMBER = Chamber(0.2, 1.1, ValveRoom(2.0, 0.5, 20.0, 34.0), ValveRoom(2.4, 0.4, 22.0, 30.0), 36.0)
FLAT = Chamber(0.0, 1.0, ValveRoom(3.0), ValveRoom(3.0))


def test_the_gap_at_exact_angles() -> None:
    # r 40, rod 140 at 60° after TDC: the fall is 160 − 20√46 (exact algebra); power stroke, so both
    # valves are shut and the gap is what stands above, plus that fall along the leaning stem.
    rig = Rig.of(even_inline((1, 3, 4, 2)))
    fall = 160 - 20 * math.sqrt(46)
    gaps = gaps_at_mm(rig, CHAMBER, np.array([0.0, 60.0]))
    cos = math.cos(math.radians(20.0))
    assert shut_gap_mm(CHAMBER, Kind.INTAKE) == pytest.approx(3.8 * cos)
    assert gaps[0] == pytest.approx([3.8 * cos, (3.8 + fall) * cos], abs=1e-9)


@pytest.mark.parametrize("name", ["alder", "birch", "acacia"])
@pytest.mark.parametrize("earlier", [0.0, -12.0, 16.36])
def test_the_least_gap_equals_a_fine_sampling(name: str, earlier: float) -> None:
    engine = demo_rig(name)
    rig = Rig.of(engine)
    least = least_gaps(rig, FLAT, np.full(len(engine.valves), earlier))
    by_name = {each.item.name: each for each in least}
    for valve in engine.valves[:4]:
        row = engine.valve_row(valve.cylinder, valve.kind)
        overlap = rig.true_offsets_deg[valve.cylinder - 1] + 360.0
        fine = np.arange(-60.0, 60.0, 0.005)
        # Another way round: lift of the lobe turned by hand, fall by the cosine law.
        lift = rig.lobes.take([row]).lift_mm(overlap + fine + earlier)[0]
        fall = (
            gaps_at_mm(rig, FLAT, overlap + fine)[row]
            + rig.lobes.take([row]).lift_mm(overlap + fine)[0]
        )
        gap = fall - lift
        assert by_name[valve.name].gap_mm == pytest.approx(gap.min(), abs=1e-4)
        assert by_name[valve.name].after_tdc_deg == pytest.approx(fine[gap.argmin()], abs=0.3)


def test_advance_brings_intakes_nearer_and_exhausts_away() -> None:
    engine = demo_rig("birch")
    rig = Rig.of(engine)
    usual, early = (least_gaps(rig, FLAT, np.full(12, by)) for by in (0.0, 16.0))
    for kind, nearer in ((Kind.INTAKE, True), (Kind.EXHAUST, False)):
        before, after = tightest(usual, kind), tightest(early, kind)
        assert before is not None
        assert after is not None
        assert (after.gap_mm < before.gap_mm) is nearer
    nearest = tightest(early, Kind.INTAKE)
    assert nearest is not None
    assert nearest.limit_mm == 1.8
    assert replace(nearest, gap_mm=1.79).clears is False


@pytest.mark.parametrize("method", list(Method))
@pytest.mark.parametrize("kind", list(Kind))
def test_a_measured_gap_gives_the_shut_gap_back(method: Method, kind: Kind) -> None:
    rig = Rig.of(demo_rig("birch"))
    shut = shut_gap_mm(FLAT, kind)
    own = next(each for each in least_gaps(rig, FLAT) if each.item.name == f"{kind.letter}1")
    at = None if method is Method.CLAY else 10.0
    gap = own.gap_mm
    if at is not None:
        crank = np.array([rig.true_offsets_deg[0] + 360.0 + at])
        gap = float(gaps_at_mm(rig, FLAT, crank)[rig.engine.valve_row(1, kind), 0])
    touch = Touch(kind, method, gap, at)
    assert shut_gap_from_mm(rig, Chamber(), 1, touch) == pytest.approx(shut, abs=2e-3)


def test_what_is_not_known_is_not_guessed() -> None:
    rig = Rig.of(demo_rig("birch"))
    assert least_gaps(rig, Chamber()) == ()
    assert [each.item.kind for each in least_gaps(rig, Chamber(intake=ValveRoom(drop_mm=4.0)))] == (
        [Kind.INTAKE] * 6
    )
    assert least_between_mm(rig, FLAT, 1) is None
    with pytest.raises(EngineError, match="crank angle"):
        shut_gap_from_mm(rig, Chamber(), 1, Touch(Kind.INTAKE, Method.SPRING, 3.0))
    with pytest.raises(EngineError, match="from 0 to 50"):
        check_chamber(Chamber(intake=ValveRoom(pocket_mm=-1.0)))


def test_valve_to_valve_by_hand() -> None:
    # Upright stems: the heads lie level, so the gap is what is left between their edges.
    upright = Chamber(
        intake=ValveRoom(head_mm=30.0), exhaust=ValveRoom(head_mm=26.0), between_mm=32.0
    )
    lifts = np.array([0.0, 5.0])
    assert between_gaps_mm(upright, lifts, lifts) == pytest.approx([4.0, 4.0])
    # One lifted by 3 below the other: a right triangle of 4 and 3.
    assert between_gaps_mm(upright, np.array([3.0]), np.array([0.0])) == pytest.approx([5.0])
    # Stems at 45°, open: both heads reach the middle and meet.
    steep = Chamber(
        intake=ValveRoom(angle_deg=45.0, head_mm=30.0),
        exhaust=ValveRoom(angle_deg=45.0, head_mm=30.0),
        between_mm=36.0,
    )
    gaps = between_gaps_mm(steep, np.array([0.0, 4.0, 12.0]), np.array([0.0, 4.0, 12.0]))
    # Inner edges stand at ±(18 − 15 cos 45° − lift sin 45°) from the middle.
    assert gaps[:2] == pytest.approx(
        [2 * (18 - (15 + lift) * math.sqrt(0.5)) for lift in (0.0, 4.0)]
    )
    assert gaps[2] == 0.0
