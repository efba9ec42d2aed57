from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given

from tests.strategies import angles_deg, engines
from true_compass.core.adjusting.advice import standing
from true_compass.core.adjusting.stops import Sides
from true_compass.core.crank import makers
from true_compass.core.engine import Engine, Mark, Shaft
from true_compass.core.items import Kind, item_named
from true_compass.core.state import Rig, WhatIf, engine_state, tried_words
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


@pytest.mark.parametrize("intake_deg", [0.0, -7.5, 4.0])
@pytest.mark.parametrize("exhaust_deg", [0.0, 12.0, -3.0])
def test_an_advance_that_is_tried_is_the_same_advance_set(
    intake_deg: float, exhaust_deg: float
) -> None:
    engine = replace(demo_rig("birch"), camshafts=2)
    tried = Rig.of(engine).trying(WhatIf(0.0, 0.0, intake_deg, exhaust_deg))
    cam = engine.cam
    for timing, kind, more in (
        (cam.intake, Kind.INTAKE, intake_deg),
        (cam.exhaust, Kind.EXHAUST, exhaust_deg),
    ):
        cam = cam.with_timing(kind, replace(timing, advance_deg=timing.advance_deg + more))
    made, at = Rig.of(replace(engine, cam=cam)), np.arange(0.0, 720.0, 3.3)
    assert tried.lobes.lift_mm(at) == pytest.approx(made.lobes.lift_mm(at), abs=1e-9)
    assert tried.item_margins_deg(at) == pytest.approx(made.item_margins_deg(at))
    for item, arcs in made.item_arcs_deg.items():
        assert np.ravel(tried.item_arcs_deg[item]) == pytest.approx(np.ravel(arcs))
    assert tried.as_set.lobes.lift_mm(at) == pytest.approx(Rig.of(engine).lobes.lift_mm(at))


def test_lash_that_is_tried_takes_away_the_same_lift_and_no_margin() -> None:
    engine, at = demo_rig("birch"), np.arange(0.0, 720.0, 3.3)
    usual, rows = Rig.of(engine), slice(0, None, 2)
    tried = usual.trying(WhatIf(intake_lash_mm=0.1))
    less = np.maximum(usual.lobes.lift_mm(at)[rows] - 0.1, 0.0)
    open_far = usual.lobes.lift_mm(at)[rows] > 0.2
    assert tried.lobes.lift_mm(at)[rows][open_far] == pytest.approx(less[open_far])
    assert np.array_equal(tried.lobes.lift_mm(at)[1::2], usual.lobes.lift_mm(at)[1::2])
    assert np.array_equal(tried.item_margins_deg(at), usual.item_margins_deg(at))
    # No gap is less than none.
    assert usual.trying(WhatIf(-9.0, -9.0)).lobes.lash_mm.tolist() == [0.0] * 12


@pytest.mark.parametrize(
    ("what_if", "words"),
    [
        (WhatIf(), ""),
        (WhatIf(0.1, 0.1, 5.0, 5.0), "lash +0.10 mm, cam +5°"),
        (WhatIf(0.1, -0.05), "I lash +0.10 mm, E lash −0.05 mm"),
        (WhatIf(0.0, 0.2, -4.0, 0.0), "E lash +0.20 mm, I cam −4°"),
    ],
)
def test_what_is_tried_in_words(what_if: WhatIf, words: str) -> None:
    assert tried_words(what_if) == words


def test_a_mark_on_the_crank_is_met_twice_a_cycle_and_one_on_a_cam_once() -> None:
    offset = Rig.of(replace(makers.inline(4), pin_offset_mm=10.0))
    tdc = float(offset.true_offsets_deg[2])
    for mark, places in (
        (Mark("damper", 30.0), (30.0, 390.0)),
        (Mark("cap", 500.0, shaft=Shaft.CAM), (500.0,)),
        (Mark("pin", None, cylinder=3), (tdc % 360, tdc % 360 + 360)),
        (Mark("cap", None, cylinder=3, shaft=Shaft.CAM), (tdc,)),
    ):
        assert offset.mark_places_deg(mark) == pytest.approx(places)
