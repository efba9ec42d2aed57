"""What to do at an item: to what it is set, with which tools, in which steps."""

from dataclasses import replace

import numpy as np
import pytest

from true_compass.core.adjusting.comparison import compare
from true_compass.core.adjusting.screws import gap_per_turn_mm, plunger_per_turn_mm
from true_compass.core.adjusting.tasks import task_for, turns_words
from true_compass.core.items import Kind, Part, item_named
from true_compass.core.state import Rig, items_at
from true_compass.core.valves.train import Adjuster, LashAt, Train
from true_compass.files.rigs import demo_rig, rig_names

BIRCH = Rig.of(demo_rig("birch"))


@pytest.mark.parametrize(
    ("adjuster", "thread", "ratio", "gap", "plunger"),
    [
        # Common practice, no source: a pivot nut of 3/8-24 at 1.5 moves the gap 2.65 mm a turn and
        # a plunger 1.76 mm; M8×1.25 at 1.6 moves a plunger 2.03 mm.
        (Adjuster.PIVOT_NUT, "3/8-24", 1.5, 2.65, 1.76),
        (Adjuster.PEDESTAL, "M8x1.25", 1.6, 3.25, 2.03),
        (Adjuster.STUD_NUT, "3/8-24", 1.5, 2.65, 1.76),
        (Adjuster.VALVE_SCREW, "M8x1", 1.5, 1.0, 0.667),
        (Adjuster.ROD_SCREW, "M8x1", 1.5, 1.5, 1.0),
    ],
)
def test_change_per_turn(
    adjuster: Adjuster, thread: str, ratio: float, gap: float, plunger: float
) -> None:
    train = Train(intake_ratio=ratio, adjuster=adjuster, thread=thread)
    assert gap_per_turn_mm(train, Kind.INTAKE) == pytest.approx(gap, abs=0.005)
    assert plunger_per_turn_mm(train, Kind.INTAKE) == pytest.approx(plunger, abs=0.005)
    assert gap_per_turn_mm(replace(train, thread=""), Kind.INTAKE) is None


@pytest.mark.parametrize("adjuster", [Adjuster.SHIM, Adjuster.NONE])
def test_what_has_no_screw_has_no_turns(adjuster: Adjuster) -> None:
    train = Train(adjuster=adjuster, thread="M8x1")
    assert gap_per_turn_mm(train, Kind.INTAKE) is None
    assert plunger_per_turn_mm(train, Kind.INTAKE) is None


@pytest.mark.parametrize("name", rig_names())
def test_every_item_of_every_rig_has_a_task(name: str) -> None:
    rig = Rig.of(demo_rig(name))
    for item in rig.items:
        task = task_for(rig.engine, item)
        assert task.full_name.endswith(str(item.cylinder))
        assert task.steps
        assert task.short in ("preload", "height", "zero") or float(task.short) > 0
        assert (task.target_mm is None) == bool(task.measured)


def test_a_bridge_comes_before_its_rocker_and_a_lever_after_it() -> None:
    hickory = demo_rig("hickory")
    for row in compare(Rig.of(hickory)):
        for stop in row.plan.stops if row.plan else ():
            items = [due.item for due in stop.items]
            for place, item in enumerate(items):
                if item.part is not Part.WHOLE:
                    step = 1 if item.part is Part.BRIDGE else -1
                    assert items[place + step] == item.rocker, (row.school.word, items)
    one = [item.name for item in items_at(hickory, hickory.valves[0])]
    assert one == ["I1 bridge", "I1", "I1 variable"]
    both = [item.name for item in items_at(hickory, hickory.valves[1])]
    assert both == ["E1 bridge", "E1", "B1"]
    # A bridge joins two valves: over one there is none, whatever the file says.
    single = replace(demo_rig("birch"), train=replace(hickory.train, lash_at=LashAt.VALVE))
    assert "I1 bridge" not in Rig.of(single).item_names


def test_parts_of_a_rocker_are_free_with_it() -> None:
    rig = Rig.of(demo_rig("hickory"))
    margins = rig.item_margins_deg(np.arange(0.0, 720.0, 7.5))
    of = {item: row for row, item in enumerate(rig.items)}
    for item, row in of.items():
        if item.part is not Part.WHOLE:
            assert margins[row] == pytest.approx(margins[of[item.rocker]])
    assert len(of) == 6 * 7


def test_tools_band_and_preload_are_told() -> None:
    hickory = demo_rig("hickory")
    task = task_for(hickory, item_named("I3"))
    assert task.tools == "Key: 8 mm hexagon. Spanner: 19 mm ring. Torque: 48 N·m (35 lbf·ft)."
    assert task_for(hickory, item_named("I3 variable")).target_words == "0.45 mm (17.7 thou)"
    assert "just touch" in task_for(hickory, item_named("E3 bridge")).target_words
    assert task.band_words == "0.25 to 0.35 mm"
    # A bridge's nut is not the rocker's: what the file does not know is left out.
    assert task_for(hickory, item_named("I3 bridge")).tools == ""
    engine = demo_rig("birch")
    cam = engine.cam
    for kind in Kind:
        cam = cam.with_timing(kind, replace(cam.timing(kind), lash_mm=0.0, ramp_mm=0.1))
    soft = Train(
        hydraulic=True,
        preload_mm=(0.44, 0.88),
        intake_ratio=1.5,
        exhaust_ratio=1.5,
        adjuster=Adjuster.PIVOT_NUT,
        thread="3/8-24",
    )
    steps = task_for(replace(engine, cam=cam, train=soft), item_named("I1")).steps
    assert steps[0].startswith("Zero lash first: up-and-down play is just gone.")
    assert "0.44 to 0.88 mm, 0.25 to 0.50 turns (90° to 180°)" in steps[1]


@pytest.mark.parametrize(
    ("turns", "words"),
    [(0.25, "0.25 of a turn (90°)"), (0.996, "1.00 of a turn (359°)"), (1.0, "1.00 turns (360°)")],
)
def test_turns_of_a_screw(turns: float, words: str) -> None:
    assert turns_words(turns) == words


@pytest.mark.parametrize("torque_nm", [0.0, 55.0])
def test_an_injectors_nut_is_torqued_at_its_own_stop_where_the_file_says_to_what(
    torque_nm: float,
) -> None:
    hickory = demo_rig("hickory")
    extras = tuple(replace(lobe, torque_nm=torque_nm) for lobe in hickory.cam.extras)
    task = task_for(replace(hickory, cam=replace(hickory.cam, extras=extras)), item_named("U1"))
    assert ("to its torque" in task.steps[-1]) == ("55 N·m" in task.tools) == bool(torque_nm)
