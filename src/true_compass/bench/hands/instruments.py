"""Wheel, pointer, chalk, soft line, stop, dial indicator, and what is fitted or taken off."""

from dataclasses import replace
from typing import Any, Final

import numpy as np

from true_compass.bench.covered import Covered
from true_compass.bench.feel import (
    DIAL_SCATTER_MM,
    DIAL_STEP_MM,
    LINE_SCATTER_MM,
    LINE_STEP_MM,
    WHEEL_SCATTER_DEG,
    WHEEL_STEP_DEG,
    stepped,
)
from true_compass.bench.gaps import heel_mm
from true_compass.bench.hands.turning import check_hole
from true_compass.bench.state import (
    BenchState,
    Dial,
    RefusedError,
    cover_of,
    coverings,
    covers,
    drawn,
    noted,
)
from true_compass.core.angles import apart_deg
from true_compass.core.chance import between, scatter
from true_compass.core.crank.phasing import companion_of
from true_compass.core.units import MM_PER_INCH

Answer = dict[str, Any]
PIN_DEG: Final = 0.75
LOOSE_PARTS: Final = ("coil", "pin", "turning tool")
MM_PER_TURN: Final = 1.0
STOP_MM: Final = (0.2, 60.0)


def wheel(work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """Read the degree wheel at its pointer."""
    state, off = drawn(work, state, "wheel", WHEEL_SCATTER_DEG)
    deg = stepped((state.crank_deg + state.wheel_deg + off) % 360.0, WHEEL_STEP_DEG) % 360.0
    state = noted(state, "wheel", "crank", f"{deg:g}")
    return state, {"deg": deg}


def pointer(_work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Bend the pointer so that the wheel reads this figure now."""
    offset = (float(action["deg"]) - state.crank_deg) % 360.0
    return state._replace(wheel_deg=offset), {"ok": True}


def chalk(_work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """Chalk the damper at the pointer: from here on degrees are counted."""
    return state._replace(chalk_deg=state.crank_deg), {"ok": True, "since_chalk_deg": 0.0}


def line(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Put the soft line into a hole, or read where its tape stands, in mm on an odd scale."""
    cylinder = action["cylinder"]
    check_hole(state, cylinder, "line")
    state = state._replace(line=cylinder)
    state, off = drawn(work, state, f"line {cylinder}", LINE_SCATTER_MM)
    top_mm = float(work.rig.centres.stroke_mm[cylinder - 1]) + between(
        work.scenario.seed, "line", 20.0, 60.0
    )
    fall = float(work.probed_mm(cylinder, np.array([state.crank_deg]))[0])
    mm = stepped(top_mm - fall + off, LINE_STEP_MM)
    state = noted(state, "line", f"cylinder {cylinder}", f"{mm:g}")
    return state, {"mm": mm}


def stop(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Screw the positive stop into a hole so that it reaches below the top of the stroke."""
    cylinder, depth_mm = action["cylinder"], float(action["depth_mm"])
    check_hole(state, cylinder, "stop")
    fall = float(work.probed_mm(cylinder, np.array([state.crank_deg]))[0])
    if fall <= depth_mm + 0.5:
        raise RefusedError("The piston is too near its top for this stop: turn it down first.")
    nth = state.counts.get("stop", 0)
    real_mm = depth_mm * (1.0 + 0.03 * scatter(work.scenario.seed, "stop", nth))
    counts = {**state.counts, "stop": nth + 1}
    return state._replace(stop=(cylinder, real_mm), counts=counts), {"ok": True}


def indicator(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Set the dial up on a piston or on a valve."""
    kind, _, name = str(action["on"]).partition(" ")
    if kind == "piston" and name.isdigit() and 1 <= int(name) <= work.engine.cylinder_count:
        check_hole(state, int(name), "dial")
        dial = Dial(f"piston {int(name)}", cylinder=int(name))
    elif kind == "valve" and name in work.place:
        setting = work.settings[work.place[name]]
        if not setting.item.is_valve:
            raise RefusedError(f"{name} is no valve: set the dial on a valve such as I1.")
        check_cover(work, state, setting.item.cylinder)
        dial = Dial(f"valve {name}", cylinder=setting.item.cylinder, item=name)
    else:
        raise RefusedError("The dial goes on a piston or a valve, such as piston 1 or valve I1.")
    nth = state.counts.get("set up", 0)
    zero = between(work.scenario.seed, "set up", 1.0, 4.0, nth)
    state = state._replace(counts={**state.counts, "set up": nth + 1})
    reading = _raw_mm(work, state._replace(dial=dial))
    return state._replace(dial=replace(dial, zero_mm=reading - zero)), {"ok": True}


def check_cover(work: Covered, state: BenchState, cylinder: int) -> None:
    """Raise while the cover over the valves of a cylinder is on."""
    name = cover_of(work, cylinder)
    if name in state.parts_on:
        raise RefusedError(f"The {name} is on: take it off first.")


def _raw_mm(work: Covered, state: BenchState) -> float:
    """How far the plunger of the dial is pressed in, from a place of its own."""
    dial = state.dial
    assert dial is not None
    if not dial.item:
        return -float(work.probed_mm(dial.cylinder, np.array([state.crank_deg]))[0])
    place = work.place[dial.item]
    setting = work.settings[place]
    lobe = work.lobes_at_mm(state.cam_deg)[setting.row]
    return float(work.valve_lift_mm(setting, lobe, heel_mm(work, state, place), state.pumped))


def _dial(state: BenchState) -> Dial:
    if state.dial is None:
        raise RefusedError("No dial is set up: put it on a piston or a valve first.")
    if state.dial.knocked:
        raise RefusedError("The dial was knocked, so its zero is lost: set it up again.")
    return state.dial


def zero(work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """Turn the dial's face so that it reads nothing now."""
    dial = _dial(state)
    return state._replace(dial=replace(dial, zero_mm=_raw_mm(work, state))), {"ok": True}


def read(work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """Read the dial with its turns. More is pressed in: a piston rising, a valve opening."""
    dial = _dial(state)
    state, off = drawn(work, state, f"dial {dial.on}", DIAL_SCATTER_MM)
    mm = stepped(_raw_mm(work, state) - dial.zero_mm + off, DIAL_STEP_MM)
    state = noted(state, "read", dial.on, f"{mm:g}")
    turns = int(abs(mm) / MM_PER_TURN + 1e-9)
    return state, {"mm": mm, "thou": round(mm / MM_PER_INCH * 1000.0, 1), "turns": turns}


def _parts(work: Covered, part: str) -> tuple[str, ...]:
    """The parts that a word names: one, or all covers or plugs."""
    every = coverings(work)
    part = "coil" if part == "fuel" else part
    if part in every or part in LOOSE_PARTS:
        return (part,)
    if part in ("covers", "cover"):
        return covers(work)
    if part == "plugs":
        return tuple(name for name in every if name.startswith("plug "))
    if part in ("line", "stop", "indicator"):
        return (part,)
    raise RefusedError(
        f"There is no {part[:30]!r} here: the parts are {', '.join((*every, *LOOSE_PARTS))}."
    )


def put_on(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Fit a part."""
    parts = _parts(work, action["part"])
    if parts[0] in ("line", "stop", "indicator"):
        raise RefusedError(f"Say where the {parts[0]} goes: it has an action of its own.")
    for part in parts:
        _check_fits(work, state, part)
    if "pin" in parts:
        state = noted(state, "pin", "flywheel", "in")
    return state._replace(parts_on=state.parts_on | set(parts)), {"ok": True}


def _check_fits(work: Covered, state: BenchState, part: str) -> None:
    kind, _, name = part.partition(" ")
    dial = state.dial
    if kind == "plug":
        check_hole(state._replace(parts_on=frozenset()), int(name))
    if dial is not None and dial.item and cover_of(work, dial.cylinder) == part:
        raise RefusedError("The dial stands on a valve under it: take it off first.")
    if part == "pin":
        firsts = {1, companion_of(work.engine, 1) or 1}
        places = [float(work.true_tdc_deg[cylinder - 1]) for cylinder in firsts]
        if min(apart_deg(state.crank_deg, at) for at in places) > PIN_DEG:
            raise RefusedError(
                "The pin does not drop in here: its hole is at TDC of cylinder 1's pair."
            )


def take_off(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Take a part or a tool off."""
    parts = _parts(work, action["part"])
    tools = {"line": {"line": 0}, "stop": {"stop": None}, "indicator": {"dial": None}}
    if parts[0] in tools:
        return state._replace(**tools[parts[0]]), {"ok": True}  # type: ignore[arg-type]
    return state._replace(parts_on=state.parts_on - set(parts)), {"ok": True}
