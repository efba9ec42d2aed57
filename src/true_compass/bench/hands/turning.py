"""Turning the engine: bar it, rock it, bump the starter; the thumb and the stop on the way."""

from dataclasses import replace
from typing import Any, Final

import numpy as np

from true_compass.bench.covered import AMBIENT_KPA, STARTER_FASTER, Covered
from true_compass.bench.feel import (
    GAUGE_STEP_KPA,
    PUSH_KPA,
    SEEN_MOVING_MM,
    stepped,
)
from true_compass.bench.gaps import heel_values_mm
from true_compass.bench.state import (
    BenchState,
    RefusedError,
    cover_of,
    noted,
    plug,
    turned,
)
from true_compass.core.angles import Floats
from true_compass.core.chance import between

GENTLE_DEG: Final = 2.0
MOST_ROCK_DEG: Final = 20.0
STEP_DEG: Final = 1.0
Answer = dict[str, Any]


def check_free(state: BenchState) -> None:
    """Raise while something holds the crank."""
    if "pin" in state.parts_on:
        raise RefusedError("The flywheel pin is in: take it out first.")


def bar(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Bar the crank either way. A stop in a hole is met gently, or not at all."""
    check_free(state)
    by_deg = float(action["deg"])
    reach = _to_stop_deg(work, state, by_deg)
    touches = reach is not None
    if touches and abs(by_deg) > GENTLE_DEG:
        raise RefusedError(
            "The stop would be met at speed, which dents a piston: come to it in steps of "
            f"{GENTLE_DEG:g}° or less, or touch it."
        )
    return _barred(work, state, by_deg if reach is None else reach, touches)


def touch(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Turn gently until the stop is felt."""
    check_free(state)
    if state.stop is None:
        raise RefusedError("There is no stop in a plug hole: fit it first.")
    by_deg = float(action["deg"])
    reach = _to_stop_deg(work, state, by_deg)
    return _barred(work, state, by_deg if reach is None else reach, reach is not None)


def _barred(
    work: Covered, state: BenchState, by_deg: float, touches: bool
) -> tuple[BenchState, Answer]:
    state = turned(work, state, by_deg)
    forward, back = max(by_deg, 0.0), max(-by_deg, 0.0)
    state = state._replace(turned_deg=state.turned_deg + forward, back_deg=state.back_deg + back)
    answer: Answer = {"ok": True, "turned_deg": by_deg, "touches": touches}
    answer["since_chalk_deg"] = since_chalk_deg(state)
    if touches and state.stop is not None:
        state = noted(state, "touch", f"cylinder {state.stop[0]}", "touches")
    return state, answer


def since_chalk_deg(state: BenchState) -> float | None:
    """Degrees turned since the last chalk mark: counted, not known. None without one."""
    return None if state.chalk_deg is None else round(state.crank_deg - state.chalk_deg, 6)


def _to_stop_deg(work: Covered, state: BenchState, by_deg: float) -> float | None:
    """How far the crank turns before the stop is met, or None where it is not met on the way."""
    if state.stop is None or not by_deg:
        return None
    cylinder, depth_mm = state.stop
    count = int(abs(by_deg) / 0.5) + 2
    way = np.linspace(0.0, by_deg, count)
    fall = work.probed_mm(cylinder, state.crank_deg + way)
    met = np.flatnonzero(fall[1:] <= depth_mm)
    if not len(met):
        return None
    low, high = float(way[met[0]]), float(way[met[0] + 1])
    if fall[met[0]] <= depth_mm:
        return low
    for _ in range(50):
        middle = (low + high) / 2
        hit = float(work.probed_mm(cylinder, np.array([state.crank_deg + middle]))[0]) <= depth_mm
        low, high = (low, middle) if hit else (middle, high)
    return low


def path_lags(state: BenchState, work: Covered, way_deg: Floats) -> Floats:
    """How far the camshaft stands on at each place of a way from here."""
    slack = work.condition.cam_slack_deg
    return np.clip(state.cam_lag_deg - way_deg, 0.0, slack)


def _pressure_on(
    work: Covered, state: BenchState, cylinder: int, by_deg: float, leak_per_deg: float
) -> Floats:
    """Pressure in a cylinder on a way, sealed at its start; slack taken up as it is turned."""
    way = np.linspace(0.0, by_deg, max(int(abs(by_deg) / STEP_DEG) + 1, 3))
    crank = state.crank_deg + way
    cam = crank + path_lags(state, work, way)
    values = heel_values_mm(work, state)
    return work.kpa_along(cylinder, crank, cam % 720.0, values, state.pumped, leak_per_deg)


def check_hole(state: BenchState, cylinder: int, but: str = "") -> None:
    """Raise unless a plug hole is open and nothing else is in it."""
    if plug(cylinder) in state.parts_on:
        raise RefusedError(f"Plug {cylinder} is in: take it out first.")
    if but != "line" and state.line == cylinder:
        raise RefusedError(f"The line is in hole {cylinder}: take it out first.")
    if but != "stop" and state.stop is not None and state.stop[0] == cylinder:
        raise RefusedError(f"The stop is in hole {cylinder}: take it out first.")
    dial = state.dial
    if but != "dial" and dial is not None and dial.cylinder == cylinder and not dial.item:
        raise RefusedError(f"The dial stands in hole {cylinder}: take it off first.")


def thumb(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Bar with the thumb on a plug hole: is it pushed?"""
    check_free(state)
    cylinder, by_deg = action["cylinder"], float(action["deg"])
    check_hole(state, cylinder)
    if _to_stop_deg(work, state, by_deg) is not None:
        raise RefusedError("A stop is in the way: take it out first.")
    leak = work.leak_per_deg(cylinder)
    kpa = _pressure_on(work, state, cylinder, by_deg, leak)
    pushed = bool(kpa.max() - AMBIENT_KPA >= PUSH_KPA)
    state, answer = _barred(work, state, by_deg, False)
    said = "pushed" if pushed else "not pushed"
    state = noted(state, "thumb", f"cylinder {cylinder}", said)
    return state, {**answer, "push": pushed}


def rock(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Rock the crank a few degrees about where it stands: which valves are seen to move?"""
    check_free(state)
    deg = float(action["deg"])
    if state.stop is not None and (
        _to_stop_deg(work, state, deg) is not None or _to_stop_deg(work, state, -deg) is not None
    ):
        raise RefusedError("The stop is in the way: take it out before you rock it.")
    on = turned(work, state, deg)
    back = turned(work, on, -2 * deg)
    home = turned(work, back, deg)
    lobes = work.lobes_mm(np.array([on.cam_deg, back.cam_deg]))
    values = heel_values_mm(work, state)
    moving = []
    for setting, value in zip(work.settings, values, strict=True):
        if not setting.item.is_valve or cover_of(work, setting.item.cylinder) in state.parts_on:
            continue
        lift = work.valve_lift_mm(setting, lobes[setting.row], value, state.pumped)
        if abs(float(lift[0] - lift[1])) >= SEEN_MOVING_MM:
            moving.append(setting.name)
    home = noted(
        home._replace(crank_deg=state.crank_deg), "rock", "crank", ", ".join(moving), tuple(moving)
    )
    return home, {"moving": moving}


def starter_part(work: Covered) -> str:
    """What must be off so that a bumped engine cannot start."""
    return "coil" if work.engine.has_rotor or not work.engine.cam.extras else "fuel"


def bump(work: Covered, state: BenchState, action: Answer) -> tuple[BenchState, Answer]:
    """Bump the starter: it stops where it likes. With a gauge in a hole, read the pressure."""
    part = starter_part(work)
    if "coil" in state.parts_on:
        raise RefusedError(f"The {part} is on and it could start: take it off first.")
    gauge = action.get("gauge") or 0
    if gauge:
        check_hole(state, gauge)
    nth = state.counts.get("bump", 0)
    state = state._replace(counts={**state.counts, "bump": nth + 1})
    broke = [name for name in ("pin", "turning tool") if name in state.parts_on]
    if broke:
        told = "the flywheel pin" if "pin" in broke else "the turning tool"
        state = state._replace(
            broke=(*state.broke, f"{told}, when the starter was bumped"),
            parts_on=state.parts_on - set(broke),
        )
        return state, {"ok": True, "broke": told, "kpa": None}
    if state.stop is not None:
        state = state._replace(broke=(*state.broke, "a piston, on the stop"), stop=None)
    # At least one whole compression stroke in every cylinder, wherever it stood.
    by_deg = round(between(work.scenario.seed, "bump", 900.0, 1620.0, nth), 1)
    kpa = None
    if gauge:
        leak = work.leak_per_deg(gauge, bool(action.get("oil"))) / STARTER_FASTER
        read = float(_pressure_on(work, state, gauge, by_deg, leak).max() - AMBIENT_KPA)
        kpa = stepped(read, GAUGE_STEP_KPA)
        state = noted(state, "bump", f"cylinder {gauge}", f"{kpa:g} kPa")
    state = turned(work, state, by_deg)
    dial = None if state.dial is None else replace(state.dial, knocked=True)
    state = state._replace(turned_deg=state.turned_deg + by_deg, dial=dial, line=0, chalk_deg=None)
    return state, {"ok": True, "broke": None, "kpa": kpa}
