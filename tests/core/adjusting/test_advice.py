"""What a person is told to do with a spanner in the hand: shims, screws, preload; when not to."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.adjusting.advice import standing, warning
from true_compass.core.adjusting.screws import gap_per_turn_mm, plunger_per_turn_mm, shim_share
from true_compass.core.adjusting.setting import setting_of
from true_compass.core.adjusting.tasks import last_round, preload_range_words, task_for
from true_compass.core.engine import Engine
from true_compass.core.items import ExtraKind, Item, Kind, Part, item_named
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.valves.cam import ExtraLobe, Method
from true_compass.core.valves.train import Adjuster, LashAt, Train, TrainKind, ZeroLash
from true_compass.files.rigs import demo_rig

BIRCH = Rig.of(demo_rig("birch"))
I1 = item_named("I1")


@pytest.mark.parametrize(
    ("crank_deg", "gap_mm", "says"),
    [
        (0.0, 0.31, ""),
        (0.0, None, ""),
        (450.0, None, "Touch no screw here. I1 is open"),
        # Nothing where there ought to be a gap, on the base circle: that comes first.
        (0.0, 0.0, "Tight here is not too tight. I1 ought to be loose: other stroke, or a pinched"),
        # At overlap TDC, and open: no screw is touched.
        (360.0, 0.0, "Tight here is not too tight. I1 is open: other stroke, or a pinched rocker."),
        (450.0, 0.10, "Touch no screw here. I1 is open"),
        # On the quiet ramp, before it opens at 348.
        (338.0, 0.10, "Touch no screw here. I1 is on its ramp"),
        (338.0, 0.0, "Tight here is not too tight. I1 is on its ramp"),
    ],
)
def test_a_screw_is_touched_on_the_base_circle_only(
    crank_deg: float, gap_mm: float | None, says: str
) -> None:
    told = warning(BIRCH, I1, crank_deg, gap_mm)
    assert told.startswith(says) if says else told == ""


@given(st.floats(0, 719.9), st.floats(0, 0.9))
def test_every_place_off_the_base_circle_is_warned_of(at: float, gap_mm: float) -> None:
    free = BIRCH.item_margins_deg(np.array([at]))[BIRCH.items.index(I1), 0] >= 0
    assert (standing(BIRCH, I1, at) == "") == free
    assert (warning(BIRCH, I1, at, gap_mm) == "") == (free and gap_mm > 0.005)


def finger(**more: object) -> Train:
    return Train(
        kind=TrainKind.FINGER,
        intake_ratio=1.6,
        exhaust_ratio=1.6,
        **more,  # type: ignore[arg-type]
    )


@pytest.mark.parametrize(
    ("train", "share"),
    [
        # New = old + k·(measured − target): k is 1 where gap and shim are at one place, the ratio
        # for a gap at the cam with the shim at the valve (common practice, no source).
        (finger(adjuster=Adjuster.SHIM), 1.0),
        (finger(adjuster=Adjuster.SHIM, lash_at=LashAt.CAM), 1.6),
        (Train(TrainKind.BUCKET, adjuster=Adjuster.SHIM, lash_at=LashAt.CAM), 1.0),
        (Train(intake_ratio=1.5, adjuster=Adjuster.SHIM, lash_at=LashAt.ROD_END), 1.5),
    ],
)
def test_a_shim_against_its_own_step(train: Train, share: float) -> None:
    engine = replace(demo_rig("elm"), train=train, card=None)
    assert shim_share(train, Kind.INTAKE) == share
    assert setting_of(engine, I1).shim_per_gap == share
    step = task_for(engine, I1).steps[1]
    assert step == (
        "New shim = old + measured − target."
        if share == 1.0
        else f"New shim = old + {share:g} × (measured − target)."
    )


@given(st.floats(1.05, 2.5), st.floats(0.5, 1.5))
def test_a_screw_at_a_fingers_pivot_from_its_levers(ratio: float, pitch: float) -> None:
    """The finger touches cam and valve; its pivot sinks by one pitch. Two levers, no formula.

    With the cam's point at 1 from the pivot and the valve's at R, the pivot down by p about the
    cam's point lifts the valve's point: by similar triangles p·(R − 1).
    """
    train = replace(finger(adjuster=Adjuster.PIVOT_SCREW), thread=f"M8x{pitch:.4f}")
    train = replace(train, intake_ratio=ratio)
    pivot, cam, valve = np.array([0.0, -pitch]), np.array([1.0, 0.0]), ratio
    slope = (cam[1] - pivot[1]) / (cam[0] - pivot[0])
    raised = pivot[1] + slope * valve
    assert gap_per_turn_mm(train, Kind.INTAKE) == pytest.approx(raised, abs=1e-3)


def test_a_pivot_screw_needs_a_finger_and_gains_nothing_at_a_ratio_of_one() -> None:
    level = Train(kind=TrainKind.FINGER, adjuster=Adjuster.PIVOT_SCREW, thread="M8x1")
    assert gap_per_turn_mm(level, Kind.INTAKE) is None
    with pytest.raises(EngineError, match="no finger followers"):
        replace(demo_rig("birch"), train=Train(adjuster=Adjuster.PIVOT_SCREW))


def hydraulic(adjuster: Adjuster, **more: object) -> Engine:
    train = replace(demo_rig("cedar").train, adjuster=adjuster, **more)  # type: ignore[arg-type]
    return replace(demo_rig("cedar"), train=train)


@pytest.mark.parametrize(
    ("zero", "says"),
    [
        (ZeroLash.PLAY, "up-and-down play is just gone"),
        (ZeroLash.SPIN, "meets slight resistance (unpumped tappets only)"),
        (ZeroLash.PLUNGER, "just starts to move"),
    ],
)
def test_zero_lash_names_which_of_three_depths_is_meant(zero: ZeroLash, says: str) -> None:
    for adjuster in (Adjuster.PIVOT_NUT, Adjuster.STUD_NUT, Adjuster.PEDESTAL, Adjuster.ROD_SCREW):
        steps = task_for(hydraulic(adjuster, zero_lash=zero), I1).steps
        assert says in " ".join(steps[:1]), adjuster


def test_hydraulic_tappets_have_no_gap_and_their_nuts_have_steps_of_their_own() -> None:
    steps: dict[Adjuster, str] = {}
    for adjuster in Adjuster:
        if adjuster in (Adjuster.PIVOT_SCREW, Adjuster.SHIM):
            continue
        engine = hydraulic(adjuster)
        task = task_for(engine, I1)
        assert (task.target_mm, task.short) == (None, "preload")
        assert "zero lash, then 0.70 to 1.20 mm" in task.target_words
        assert "there is no gap" in task.measured
        steps[adjuster] = " ".join(task.steps)
    for adjuster in (Adjuster.PIVOT_NUT, Adjuster.STUD_NUT, Adjuster.PEDESTAL):
        assert "screw held" not in steps[adjuster]
    assert "inner lock screw" in steps[Adjuster.STUD_NUT]
    assert "no locknut" in steps[Adjuster.PIVOT_NUT]
    assert "count the turns of the bolt to its seat" in steps[Adjuster.PEDESTAL]
    # 3/8-24 at 1.5 moves the plunger 1.764 mm a turn (common practice, no source).
    told = preload_range_words(demo_rig("cedar").train, Kind.INTAKE)
    assert told == "0.70 to 1.20 mm, 0.40 to 0.68 turns (143° to 245°)"
    per_turn = plunger_per_turn_mm(demo_rig("cedar").train, Kind.INTAKE)
    assert per_turn == pytest.approx(1.764, abs=1e-3)


@pytest.mark.parametrize("adjuster", [Adjuster.PIVOT_NUT, Adjuster.STUD_NUT, Adjuster.PEDESTAL])
def test_solid_nuts_without_a_screw_are_not_told_to_hold_one(adjuster: Adjuster) -> None:
    engine = replace(demo_rig("birch"), train=replace(demo_rig("birch").train, adjuster=adjuster))
    assert "screw held" not in " ".join(task_for(engine, I1).steps)


@pytest.mark.parametrize(
    ("lobe", "words", "step"),
    [
        ({"lash_mm": 0.6, "method": None}, "0.60 mm (23.6 thou)", "Blade in"),
        ({"method": Method.HEIGHT, "height_mm": 62.5}, "62.50 mm, by the maker's tool", "swung"),
        ({"method": Method.HEIGHT}, "its height, by the maker's tool", "maker's tool"),
        (
            {"method": Method.CONTACT, "turns": 0.25},
            "contact, then 0.25 of a turn (90°)",
            "bottoms",
        ),
        ({"method": Method.CONTACT}, "contact, then the maker's turn", "bottoms"),
    ],
)
def test_an_injector_is_set_by_its_own_method_with_its_own_tools(
    lobe: dict[str, Any], words: str, step: str
) -> None:
    engine = demo_rig("hickory")
    pump = next(e for e in engine.cam.extras if e.kind is ExtraKind.INJECTOR)
    told = replace(
        pump,
        place="on the follower",
        tool="height gauge",
        spanner="17 mm ring",
        torque_nm=30.0,
        **lobe,
    )
    engine = replace(engine, cam=replace(engine.cam, extras=(told,)))
    task = task_for(engine, Item(ExtraKind.INJECTOR, 2))
    assert task.target_words == words
    assert step in " ".join(task.steps)
    assert task.place == "on the follower"
    assert task.tools == "Tool: height gauge. Spanner: 17 mm ring. Torque: 30 N·m (22 lbf·ft)."


def test_a_band_has_its_lower_end_first() -> None:
    engine = demo_rig("birch")
    with pytest.raises(EngineError, match="lower end first"):
        replace(engine, train=replace(engine.train, intake_accepted_mm=(0.3, 0.2)))


def test_a_round_that_only_checked_asks_for_no_torque_wrench() -> None:
    with_torque, without = last_round(set_any=True), last_round(set_any=False)
    assert [line.split()[0] for line in with_torque] == ["Torque", "A", "Bar", "Measure"]
    assert without == with_torque[2:3]


def test_what_is_driven_by_a_lobe_of_its_own_stands_on_it() -> None:
    """The injector is down from 635 to 1005 after its TDC, the brake from 635 to 775."""
    rig = Rig.of(demo_rig("hickory"))
    for name, at, says in (
        ("U1", 700.0, "U1 stands on its lobe"),
        ("U1", 400.0, ""),
        ("B1", 700.0, "B1 stands on its lobe"),
        ("B1", 300.0, ""),
        ("E1", 250.0, "E1 is open"),
        ("I1 bridge", 450.0, "I1 is open"),
    ):
        assert standing(rig, item_named(name), at) == says


def test_parts_say_what_is_measured_instead_of_a_gap() -> None:
    hickory = demo_rig("hickory")
    assert "no gap" in task_for(hickory, Item(Kind.INTAKE, 1, Part.BRIDGE)).measured
    assert "height" in task_for(hickory, Item(ExtraKind.INJECTOR, 1)).measured
    assert ExtraLobe(ExtraKind.BRAKE).how is Method.BLADE
