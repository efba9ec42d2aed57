import numpy as np
import pytest
from hypothesis import given

from tests.strategies import angles_deg, engines
from true_compass.core.adjust import standing
from true_compass.core.engine import Engine
from true_compass.core.items import item_named
from true_compass.core.state import Rig, engine_state
from true_compass.core.stops import Sides
from true_compass.core.strokes import Stroke
from true_compass.files.rigs import demo_rig

BIRCH = Rig.of(demo_rig("birch"))
NAMES = [valve.name for valve in BIRCH.engine.valves]


def test_the_six_at_240() -> None:
    state = engine_state(BIRCH, 240.0)
    words = [state.stroke_of(row).word for row in range(6)]
    assert words == ["exhaust", "intake", "power", "intake", "power", "compression"]
    free = [name for name, is_free in zip(NAMES, state.free, strict=True) if is_free]
    assert free == ["I1", "E2", "I3", "E3", "I5", "E6"]
    assert state.at_overlap_tdc.tolist() == [False, False, False, True, False, False]
    # I1 stands 240° after its TDC: 720 + 348 - 20 is where its ramp begins, 88° on at 960.
    assert state.margin_deg[NAMES.index("I1")] == pytest.approx(720 + 348 - 20 - 960)


@given(engines(), angles_deg)
def test_one_angle_and_an_array_agree(engine: Engine, angle: float) -> None:
    rig = Rig.of(engine)
    one, many = engine_state(rig, angle), engine_state(rig, np.array([0.0, angle, 1.0]))
    for field in ("cycle_deg", "stroke", "piston_from_tdc_mm", "lift_mm", "margin_deg", "free"):
        assert np.array_equal(getattr(one, field), getattr(many, field)[:, 1]), field


@given(engines(), angles_deg)
def test_a_free_valve_is_shut_and_an_open_one_is_not_free(engine: Engine, angle: float) -> None:
    state = engine_state(Rig.of(engine), angle)
    assert np.all(state.lift_mm[state.free] == 0.0)
    assert not np.any(state.free[state.lift_mm > 0])


def test_every_cylinder_meets_each_tdc_once_a_cycle() -> None:
    state = engine_state(BIRCH, np.arange(0.0, 720.0, 60.0))
    assert state.at_compression_tdc.sum(axis=1).tolist() == [1] * 6
    assert state.at_overlap_tdc.sum(axis=1).tolist() == [1] * 6
    assert set(np.unique(state.stroke)) == set(Stroke)


@pytest.mark.parametrize("name", ["I1", "E4"])
def test_an_item_is_free_at_the_very_ends_of_its_arc(name: str) -> None:
    """At least 0 is free: both ends are in, a thousandth of a degree beyond is out."""
    item = item_named(name)
    row = NAMES.index(name)
    ((start, length),) = BIRCH.item_arcs_deg[item]
    assert (start, length) == (round(start, 6), round(length, 6))
    for at, is_free in ((start, True), (start + length, True), (start - 1e-3, False)):
        assert engine_state(BIRCH, at).free[row] == is_free
        assert (BIRCH.item_margins_deg(np.array([at]))[row, 0] >= 0) == is_free
    sides = Sides(BIRCH)
    at_start, past_end = sides.at(item, start), sides.at(item, start + length + 0.25)
    assert (at_start.margin_deg, at_start.back_deg, at_start.on_deg) == (0.0, 0.0, length)
    at_end = sides.at(item, start + length)
    assert (at_end.margin_deg, at_end.back_deg, at_end.on_deg) == (0.0, length, 0.0)
    assert past_end.margin_deg == pytest.approx(-0.25)
    assert standing(BIRCH, item, start) == ""
    assert standing(BIRCH, item, start - 5.0) == f"{name} is on its ramp"
    assert standing(BIRCH, item, start + length + 100.0) == f"{name} is open"
