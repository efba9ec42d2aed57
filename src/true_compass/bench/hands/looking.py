"""Looking: marks, rotor, cap, rockers, gear dots, the inside of a cover; and the book."""

import math
from typing import Any, Final

import numpy as np

from true_compass.bench.condition import Case
from true_compass.bench.covered import Covered, sound_marks
from true_compass.bench.faults import is_timed
from true_compass.bench.feel import (
    RIM_SCATTER_MM,
    RIM_STEP_MM,
    ROTOR_SCATTER_DEG,
    SEEN_DOWN_MM,
    stepped,
)
from true_compass.bench.gaps import heel_values_mm
from true_compass.bench.running import sound_kpa
from true_compass.bench.state import (
    BenchState,
    RefusedError,
    cover_of,
    covers,
    drawn,
    noted,
)
from true_compass.bench.tasks import Task
from true_compass.core.adjusting.setting import has_rockers
from true_compass.core.engine import Engine
from true_compass.core.ignition.lamp import lamp_row, should_read_deg
from true_compass.core.items import Kind
from true_compass.core.rotation import Rotation

Answer = dict[str, Any]
IN_SIGHT_DEG: Final = 15.0
IN_LINE_MM: Final = 0.75
TO_COME, IN_LINE, PAST = "to come", "in line", "past"
"""Where a mark stands by the pointer, in the running direction."""
ASSUMED_DAMPER_MM: Final = 160.0
AT_POST_DEG: Final = 6.0
DOT_IN_LINE: Final = 0.4
DOT_IN_SIGHT: Final = 3.5


def look(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Look at one thing."""
    return _LOOKS[action["at"]](work, state)


def damper_mm(work: Covered) -> float:
    """Diameter of the rim on which the marks stand; 160 mm is assumed where nobody measured."""
    return work.engine.damper_mm or ASSUMED_DAMPER_MM


def rim_away_mm(work: Covered, crank_deg: float, mark_deg: float) -> float:
    """How far along the rim a mark has gone past the pointer; minus is still to come."""
    away_deg = (crank_deg - mark_deg + 180.0) % 360.0 - 180.0
    return math.pi * damper_mm(work) * away_deg / 360.0


def _marks(work: Covered, state: BenchState) -> tuple[BenchState, Answer]:
    state, off = drawn(work, state, "marks", RIM_SCATTER_MM)
    reach_mm = math.pi * damper_mm(work) * IN_SIGHT_DEG / 360.0
    found = []
    for mark, at_deg in work.marks:
        away_mm = rim_away_mm(work, state.crank_deg, at_deg)
        if abs(away_mm) > reach_mm:
            continue
        seen_mm = away_mm + off
        at = TO_COME if seen_mm < 0 else PAST
        found.append(
            {
                "where": mark.where,
                "stamped": mark.stamped,
                "colour": mark.colour,
                "at": IN_LINE if abs(seen_mm) <= IN_LINE_MM else at,
                "mm": stepped(seen_mm, RIM_STEP_MM),
            }
        )
    said = "; ".join(f"{one['where']} {one['stamped']} {one['at']}" for one in found)
    fact = tuple(one["at"] for one in found)
    return noted(state, "look", "marks", said or "none in sight", fact), {"in_sight": found}


def _check_cap(work: Covered, state: BenchState) -> None:
    if not work.engine.has_rotor:
        raise RefusedError("This engine has no distributor.")
    if "cap" in state.parts_on:
        raise RefusedError("The cap is on: take it off first.")


def post_angles_deg(work: Covered) -> tuple[float, ...]:
    """Where each post stands from the notch, in the rotor's direction, in firing order."""
    offsets = work.engine.firing_offsets_deg
    return tuple(float(offsets[cylinder - 1]) / 2 for cylinder in work.engine.firing_order)


def _rotor(work: Covered, state: BenchState) -> tuple[BenchState, Answer]:
    _check_cap(work, state)
    state, off = drawn(work, state, "rotor", ROTOR_SCATTER_DEG)
    points = (work.rotor_deg(state.crank_deg, state.rotor_lag_deg) + off) % 360.0
    posts, leads = post_angles_deg(work), work.leads()
    away = [(points - at + 180.0) % 360.0 - 180.0 for at in posts]
    near = min(range(len(posts)), key=lambda nth: abs(away[nth]))
    at_post = abs(away[near]) <= AT_POST_DEG
    between: list[int] = []
    if not at_post and len(posts) > 1:
        # Of the posts that it has passed the last, and of those to come the next.
        passed = min(range(len(posts)), key=lambda nth: away[nth] % 360.0)
        to_come = min(range(len(posts)), key=lambda nth: -away[nth] % 360.0)
        between = [leads[passed], leads[to_come]]
    turns = _seen_turning(work, state)
    said = f"at post {leads[near]}" if at_post else "between posts"
    state = noted(state, "look", "rotor", said)
    return state, {"post": leads[near] if at_post else None, "between": between, "turns": turns}


def _seen_turning(work: Covered, state: BenchState) -> str | None:
    """Which way the rotor went since it was looked at last; nothing without a clear turn."""
    last = next((s for s in reversed(state.seen) if (s.do, s.of) == ("look", "rotor")), None)
    if last is None:
        return None
    went = state.crank_deg - last.crank_deg
    if not 10.0 <= abs(went) <= 330.0:
        return None
    own = work.engine.rotor_turns
    if went < 0:
        return own.other.value
    return own.value


def _cap(work: Covered, state: BenchState) -> tuple[BenchState, Answer]:
    """Leads round the cap clockwise from above, from the post over the notch on."""
    if not work.engine.has_rotor:
        raise RefusedError("This engine has no distributor.")
    first, *rest = work.leads()
    if work.engine.rotor_turns is Rotation.ANTICLOCKWISE:
        rest = rest[::-1]
    leads = [first, *rest]
    said = "-".join(map(str, leads))
    cross = work.condition.case("leads-cross")
    beside = [] if cross is None else [cross.cylinder, cross.other]
    return noted(state, "look", "cap", said), {"leads_clockwise": leads, "side_by_side": beside}


def _open_items(work: Covered, state: BenchState) -> list[int]:
    rows = [
        row
        for row, setting in enumerate(work.settings)
        if cover_of(work, setting.item.cylinder) not in state.parts_on
    ]
    if not rows:
        raise RefusedError(f"The {covers(work)[0]} is on: take it off first.")
    return rows


def _rockers(work: Covered, state: BenchState) -> tuple[BenchState, Answer]:
    """Which noses stand low, where each bears on its tip, and whether one stands higher."""
    rows = _open_items(work, state)
    lobes = work.lobes_at_mm(state.cam_deg)
    values = heel_values_mm(work, state)
    long = work.condition.case("rod-length")
    stem = work.condition.case("stems-unequal")
    found = []
    for row in rows:
        setting = work.settings[row]
        if not setting.item.is_valve:
            continue
        lift = work.valve_lift_mm(setting, lobes[setting.row], values[row], state.pumped)
        higher = stem is not None and stem.item == setting.name
        aside = has_rockers(work.engine) and (higher or _still_long(long, state.items[row].rod_mm))
        found.append(
            {
                "name": setting.name,
                "down": bool(lift >= SEEN_DOWN_MM),
                "bears": "off the middle" if aside else "middle",
                "stands": "higher" if higher else "level",
            }
        )
    down = [str(one["name"]) for one in found if one["down"]]
    return noted(state, "look", "rockers", ", ".join(down), tuple(down)), {"items": found}


def _still_long(case: Case | None, rod_mm: float) -> bool:
    return case is not None and rod_mm > -1.5


def _cover(work: Covered, state: BenchState) -> tuple[BenchState, Answer]:
    """Bright spots inside the covers that are off."""
    rows = _open_items(work, state)
    struck = work.condition.case("cover-struck")
    names = [work.settings[row].name for row in rows]
    spots = [struck.item] if struck is not None and struck.item in names else []
    return noted(state, "look", "cover", ", ".join(spots), tuple(spots)), {"bright_spots": spots}


def _cam_marks(work: Covered, state: BenchState) -> tuple[BenchState, Answer]:
    """The dots on the timing gears, in teeth past the mesh; nothing for one out of sight."""
    if "front cover" in state.parts_on:
        raise RefusedError("The front cover is on: take it off first.")
    tooth_deg = 720.0 / work.engine.cam_teeth
    meets_deg = dots_meet_deg(work)
    case = work.condition.case("cam-one-tooth")
    ahead_deg = case.amount * tooth_deg if case is not None else 0.0
    crank = ((state.crank_deg - meets_deg + 180.0) % 360.0 - 180.0) / tooth_deg
    cam_deg = state.crank_deg + state.cam_lag_deg + ahead_deg - meets_deg
    cam = ((cam_deg + 360.0) % 720.0 - 360.0) / tooth_deg
    crank_at = round(crank, 1) + 0.0 if abs(crank) <= DOT_IN_SIGHT else None
    cam_at = round(cam, 1) + 0.0 if abs(cam) <= DOT_IN_SIGHT else None
    said = "not in sight"
    if crank_at is not None and abs(crank_at) <= DOT_IN_LINE:
        said = "apart"
        if cam_at is not None:
            said = "meet" if abs(cam_at) <= DOT_IN_LINE else "miss"
    state = noted(state, "look", "cam marks", said)
    return state, {"dots": said, "crank_dot_teeth": crank_at, "cam_dot_teeth": cam_at}


def dots_meet_deg(work: Covered) -> float:
    """Crank angle at which the dots meet: at the cylinder that the file names, else 1."""
    engine = work.engine
    case = work.condition.case("dots-companion")
    at_deg = float(engine.firing_offsets_deg[(engine.dots_fire or 1) - 1])
    if case is None:
        return at_deg
    return (float(engine.firing_offsets_deg[0]) + 360.0) % 720.0


_LOOKS: Final = {
    "marks": _marks,
    "rotor": _rotor,
    "cap": _cap,
    "rockers": _rockers,
    "cover": _cover,
    "cam marks": _cam_marks,
}
PLACES: Final = tuple(_LOOKS)


def manual(work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """What the maker's book says of this engine. A task to find the order hides it."""
    engine, train, cam = work.engine, work.engine.train, work.engine.cam
    hidden = work.scenario.task is Task.ORDER
    turns = work.engine.rotor_turns.value if engine.has_rotor else None
    items = [
        {
            "name": setting.name,
            "cylinder": setting.item.cylinder,
            "kind": setting.item.kind.value,
            "part": setting.item.part.value,
            "way": setting.way.value,
            "band_mm": list(setting.band_mm),
            "target_mm": setting.target_mm,
            "per_turn_mm": setting.per_turn_mm or None,
            "adjuster": setting.adjuster.value,
            "locknut": setting.has_locknut,
            "shim_per_gap": setting.shim_per_gap,
        }
        for setting in work.settings
    ]
    answer = {
        "engine": engine.name,
        "layout": engine.layout_words,
        "cylinders": engine.cylinder_count,
        "task": work.scenario.task.value,
        "cylinder": work.scenario.cylinder,
        "firing_order": None if hidden else list(engine.firing_order),
        "fires_at_deg": None if hidden else engine.firing_offsets_deg.tolist(),
        "true_tdc_deg": None if hidden else work.book.true_offsets_deg.tolist(),
        "rotation": engine.rotation.value,
        "seen_from": engine.seen_from.value,
        "rotor": engine.has_rotor,
        "rotor_turns": None if hidden else turns,
        "distributor_teeth": engine.distributor_teeth if engine.has_rotor else None,
        "cam_teeth": engine.cam_teeth,
        "stroke_mm": engine.stroke_mm,
        "rod_mm": engine.rod_mm,
        "damper_mm": damper_mm(work),
        "marks": [
            {
                "where": mark.where,
                "stamped": mark.stamped,
                "colour": mark.colour,
                "meaning": mark.meaning.value,
                "at_deg": at_deg,
            }
            for mark, at_deg in sound_marks(work.book)
        ],
        "dots_fire": engine.dots_fire or 1,
        "compression_kpa": sound_kpa(work.scenario),
        "valve_train": train.kind.value,
        "hydraulic": train.hydraulic,
        "torque_nm": train.torque_nm or None,
        "intake_lift_mm": cam.intake.peak_lift_mm,
        "exhaust_lift_mm": cam.exhaust.peak_lift_mm,
        "noses_deg": _noses(work),
        "release_closes_deg": cam.release.closes_deg if cam.release is not None else None,
        "blades_in": engine.gap_unit.value,
        "advance": _advance(work),
        "assumed": _assumed(engine),
        "items": items,
    }
    return noted(state, "manual", "engine", ""), answer


def _advance(work: Covered) -> list[Answer] | None:
    """What the lamp should show, reading by reading; None where the book says nothing."""
    advance = work.engine.spark.advance
    if not is_timed(work.engine):
        return None
    return [
        {
            "rpm": asked.speed_rpm,
            "hose": "on" if asked.hose_on else "off",
            "mark_deg": should_read_deg(advance, asked),
        }
        for asked in lamp_row(advance)
    ]


def _assumed(engine: Engine) -> list[str]:
    """Which of these figures nobody counted or measured."""
    known = {
        "cam_teeth": engine.cam_gear_teeth,
        "distributor_teeth": engine.distributor.gear_teeth or not engine.has_rotor,
        "rotor_turns": engine.rotor.turns or not engine.has_rotor,
        "damper_mm": engine.damper_mm,
    }
    return [name for name, value in known.items() if not value]


def _noses(work: Covered) -> dict[str, float]:
    """Crank degrees after compression TDC at which each kind of valve stands fully open."""
    at_deg = np.arange(0.0, 720.0, 1.0)
    lobes = work.book.lobes.lobe_mm(at_deg)
    rows = work.engine.valve_rows(1)
    return {kind.value: float(lobes[row].argmax()) for kind, row in zip(Kind, rows, strict=True)}
