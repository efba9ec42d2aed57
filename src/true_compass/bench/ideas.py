"""Wrong ideas, recognised by name from what was done at the bench.

Each rule looks at the facts of one run and says whether it is what somebody with that idea does.
Only ideas that the bench can provoke are here; others show in other parts of the program.
"""

from collections.abc import Callable
from typing import Final

import numpy as np

from true_compass.bench.covered import Covered
from true_compass.bench.gaps import heel_mm
from true_compass.bench.hands.looking import IN_LINE, PAST
from true_compass.bench.hands.telling import said_order
from true_compass.bench.state import BenchState, Seen, Told
from true_compass.core.adjusting.setting import Way
from true_compass.core.angles import apart_deg
from true_compass.core.crank.phasing import companion_of
from true_compass.core.items import Kind

NEAR_DEG: Final = 30.0
TELLING: Final = ("thumb", "wiggle", "lift", "spin", "feeler", "rock")
"""Readings that can tell the two TDCs apart."""
THOU_FOR_MM: Final = 2.54


def ideas_of(work: Covered, state: BenchState) -> tuple[str, ...]:
    """The wrong ideas that a run shows, in the order of the catalogue."""
    return tuple(slug for slug, shown in RULES.items() if shown(work, state))


def seen_near(state: BenchState, crank_deg: float, before: int) -> list[Seen]:
    """What was looked at within 30° of a place, on the same stroke, up to an action."""
    return [
        one
        for one in state.seen
        if one.nth <= before and _away_deg(one.crank_deg, crank_deg) <= NEAR_DEG
    ]


def _away_deg(one_deg: float, other_deg: float) -> float:
    """How far two crank angles are apart on the circle of a cycle."""
    return abs((one_deg - other_deg + 360.0) % 720.0 - 360.0)


def tells_stroke(seen: list[Seen], cylinder: int, work: Covered) -> bool:
    """Whether what was seen could have told the two TDCs of a cylinder apart."""
    return any(one.do in TELLING and _concerns(work, one, cylinder) for one in seen)


def _concerns(work: Covered, one: Seen, cylinder: int) -> bool:
    if one.do == "rock":
        return True
    if one.of.startswith("cylinder "):
        return one.of == f"cylinder {cylinder}"
    place = work.place.get(one.of)
    pair = (cylinder, companion_of(work.engine, cylinder))
    return place is not None and work.settings[place].item.cylinder in pair


def error_deg(work: Covered, told: Told) -> float:
    """How far the crank stood from the true TDC that was declared, −360 to 360."""
    cylinder = int(told.said["cylinder"])
    tdc_deg = float(work.true_tdc_deg[cylinder - 1])
    if told.said["tdc"] == "overlap":
        tdc_deg += 360.0
    return (told.crank_deg - tdc_deg + 360.0) % 720.0 - 360.0


def last_tdc(state: BenchState) -> Told | None:
    """The last TDC that was declared."""
    return next((told for told in reversed(state.told) if "tdc" in told.said), None)


def last_with(state: BenchState, key: str) -> Told | None:
    """The last declaration with a key."""
    return next((told for told in reversed(state.told) if key in told.said), None)


def _wrong_stroke(work: Covered, state: BenchState) -> Told | None:
    """The last TDC that was declared, if it was the other one of the two."""
    told = last_tdc(state)
    if told is None or abs(abs(error_deg(work, told)) - 360.0) > NEAR_DEG:
        return None
    return told


def _set_off(state: BenchState) -> list[int]:
    """Rows of the items that were last set off their base circle."""
    return [row for row, item in enumerate(state.items) if item.off_heel]


def _set_in_overlap(work: Covered, state: BenchState) -> list[int]:
    """Of those the ones set within 30° of overlap TDC of their own cylinder."""
    found = []
    for row in _set_off(state):
        item, cylinder = state.items[row], work.settings[row].item.cylinder
        overlap_deg = (float(work.true_tdc_deg[cylinder - 1]) + 360.0) % 720.0
        away = _away_deg(item.set_at_deg or 0.0, overlap_deg)
        if item.set_at_deg is not None and away <= NEAR_DEG:
            found.append(row)
    return found


def _looks(state: BenchState, crank_deg: float, before: int) -> set[tuple[str, str]]:
    return {(one.do, one.of) for one in seen_near(state, crank_deg, before)}


def _mark_zero_fires(work: Covered, state: BenchState) -> bool:
    told = _wrong_stroke(work, state)
    if told is not None and told.said["tdc"] == "compression":
        seen = seen_near(state, told.crank_deg, told.nth)
        by_mark = any((one.do, one.of) == ("look", "marks") for one in seen)
        return by_mark and not tells_stroke(seen, int(told.said["cylinder"]), work)
    marks = [one for one in state.seen if (one.do, one.of) == ("look", "marks")]
    set_there = _set_in_overlap(work, state)
    in_line = [one for one in marks if {IN_LINE, PAST} & set(one.fact)]
    places = [float(state.items[row].set_at_deg or 0.0) for row in set_there]
    near = any(apart_deg(one.crank_deg, place) <= NEAR_DEG for one in in_line for place in places)
    felt = any(one.do in ("thumb", "rock") for one in state.seen)
    return bool(set_there) and near and not felt


def _both_shut(work: Covered, state: BenchState) -> bool:
    told = _wrong_stroke(work, state)
    if told is None or told.said["tdc"] != "compression":
        return False
    looks = _looks(state, told.crank_deg, told.nth)
    by_piston = any(do in ("line", "touch", "read") for do, _ in looks)
    seen = seen_near(state, told.crank_deg, told.nth)
    marked = ("look", "marks") in looks
    return by_piston and not marked and not tells_stroke(seen, int(told.said["cylinder"]), work)


def _tight_is_too_tight(work: Covered, state: BenchState) -> bool:
    """Slackened where the lobe pressed, and left wider for it."""
    for row in _set_off(state):
        item, setting = state.items[row], work.settings[row]
        wider = item.screw_deg < 0 or item.shim_mm < work.condition.items[row].shim_mm
        if setting.way is Way.GAP and wider and item.set_on_mm > work.condition.items[row].value_mm:
            return True
    return False


def _against_rotor(work: Covered, state: BenchState) -> bool:
    told = last_with(state, "order")
    if told is None:
        return False
    order, right = said_order(told.said), list(work.engine.firing_order)
    backwards = [right[0], *right[:0:-1]]
    return len(right) > 2 and _from_1(order) == backwards != right


def _from_1(order: list[int]) -> list[int]:
    start = order.index(1) if 1 in order else 0
    return order[start:] + order[:start]


def _neighbour(work: Covered, state: BenchState) -> bool:
    told = last_with(state, "order")
    if told is None:
        return False
    natural = list(work.engine.cylinders)
    return len(natural) > 2 and _from_1(said_order(told.said)) == natural != list(
        work.engine.firing_order
    )


def _together(work: Covered, state: BenchState) -> bool:
    """The companion pushed or clicked, so this one was said to be firing."""
    told = _wrong_stroke(work, state)
    if told is None or told.said["tdc"] != "compression":
        return False
    cylinder = int(told.said["cylinder"])
    other = companion_of(work.engine, cylinder)
    if other is None:
        return False
    seen = seen_near(state, told.crank_deg, told.nth)
    return any(
        (one.do, one.of, one.fact) == ("thumb", f"cylinder {other}", "pushed")
        or (one.do == "wiggle" and one.fact == "loose" and _item_of(work, one.of) == other)
        for one in seen
    )


def _item_of(work: Covered, name: str) -> int:
    place = work.place.get(name)
    return 0 if place is None else work.settings[place].item.cylinder


def _n_plus_1(work: Covered, state: BenchState) -> bool:
    """The valves of n + 1 − k were watched for its companion's, and they are another's."""
    told = last_tdc(state)
    if told is None or abs(error_deg(work, told)) < NEAR_DEG:
        return False
    cylinder = int(told.said["cylinder"])
    supposed = work.engine.cylinder_count + 1 - cylinder
    other = companion_of(work.engine, cylinder)
    if supposed in (other, cylinder):
        return False
    seen = seen_near(state, told.crank_deg, told.nth)
    looked = [one for one in seen if one.do in ("wiggle", "rock")]
    return any(
        _item_of(work, one.of) == supposed
        or (one.do == "rock" and any(_item_of(work, name) == supposed for name in one.fact))
        for one in looked
    ) and not tells_stroke([one for one in seen if one.do == "thumb"], cylinder, work)


def _cam_for_crank(work: Covered, state: BenchState) -> bool:
    told = last_with(state, "mark_error_deg")
    if told is None:
        return False
    said, real = float(told.said["mark_error_deg"]), work.condition.mark_error_deg
    wrong = abs(said - real) > 1.0
    return wrong and any(abs(said - real * factor) <= 0.75 for factor in (0.5, 2.0))


def _highest(work: Covered, state: BenchState) -> bool:
    """TDC said from where the line or the dial stood highest, without a second reading."""
    told = last_tdc(state)
    if told is None or work.scenario.task.value not in ("true-tdc", "tdc"):
        return False
    error = abs(error_deg(work, told))
    error = min(error, abs(error - 360.0))
    least = 0.3 if work.scenario.task.value == "true-tdc" else 4.0
    seen = seen_near(state, told.crank_deg, told.nth)
    by_top = any(one.do in ("line", "read") for one in seen)
    twice = sum(one.do in ("wheel", "touch") for one in seen) >= 2
    return error > least and error <= NEAR_DEG and by_top and not twice


def _one_table(work: Covered, state: BenchState) -> bool:
    """A four set by the two stops of 1-3-4-2, which fires otherwise."""
    engine = work.engine
    if engine.cylinder_count != 4 or engine.firing_order == (1, 3, 4, 2):
        return False
    first = {"I1", "E1", "I2", "E3"}
    names = {setting.item.code.rstrip("ab"): row for row, setting in enumerate(work.settings)}
    places = {
        name: state.items[row].set_at_deg
        for name, row in names.items()
        if state.items[row].set_at_deg is not None
    }
    if len(places) < 3 or not _set_off(state):
        return False
    stops = {round(float(at or 0.0) / 10.0) for name, at in places.items() if name in first}
    other = {round(float(at or 0.0) / 10.0) for name, at in places.items() if name not in first}
    return len(stops) == 1 and not (stops & other)


def _blade_goes(work: Covered, state: BenchState) -> bool:
    """Set on a ramp: the blade went there, and it crept."""
    for row in _set_off(state):
        item, setting = state.items[row], work.settings[row]
        if setting.way is Way.GAP and 0 < item.set_on_mm <= 0.6 * max(setting.target_mm, 0.1):
            return True
    return False


def _dots_mean_1(work: Covered, state: BenchState) -> bool:
    told = _wrong_stroke(work, state)
    if told is None:
        return False
    seen = seen_near(state, told.crank_deg, told.nth)
    met = any((one.do, one.of, one.fact) == ("look", "cam marks", "meet") for one in seen)
    return met and not tells_stroke(seen, int(told.said["cylinder"]), work)


def _intake_lifts(work: Covered, state: BenchState) -> bool:
    """An exhaust valve set just where the intake valve of its cylinder begins to open."""
    for row in _set_off(state):
        setting, item = work.settings[row], state.items[row]
        if setting.item.kind is not Kind.EXHAUST or item.set_at_deg is None:
            continue
        intake = work.engine.valve_row(setting.item.cylinder, Kind.INTAKE)
        at = np.array([item.set_at_deg - 40.0, item.set_at_deg]) % 720.0
        lobe = work.lobes_mm(at)[intake]
        if lobe[0] <= 0.05 < lobe[1] <= 1.0 and not _both_set(work, state, row):
            return True
    return False


def _both_set(work: Covered, state: BenchState, row: int) -> bool:
    """Whether the intake of the same cylinder was set there as well: that is the wrong TDC."""
    cylinder, at = work.settings[row].item.cylinder, state.items[row].set_at_deg
    return any(
        setting.item.kind is Kind.INTAKE
        and setting.item.cylinder == cylinder
        and item.set_at_deg is not None
        and at is not None
        and _away_deg(item.set_at_deg, at) <= NEAR_DEG
        for setting, item in zip(work.settings, state.items, strict=True)
    )


def _bare_25(work: Covered, state: BenchState) -> bool:
    """Two items or more left at the number of thou read as hundredths of a mm."""
    found = 0
    for row, setting in enumerate(work.settings):
        item = state.items[row]
        if setting.way is not Way.GAP or item.set_at_deg is None or item.off_heel:
            continue
        share = heel_mm(work, state, row) / max(setting.target_mm, 0.01)
        found += abs(share - THOU_FOR_MM) < 0.15 or abs(share - 1 / THOU_FOR_MM) < 0.06
    return found >= 2


def direction_right(work: Covered, said: str) -> bool:
    """Whether the rotor's direction that was declared is the true one."""
    return said == work.engine.rotor_turns.value


RULES: Final[dict[str, Callable[[Covered, BenchState], bool]]] = {
    "mark-zero-fires": _mark_zero_fires,
    "both-shut-at-tdc": _both_shut,
    "tight-is-too-tight": _tight_is_too_tight,
    "order-against-rotor": _against_rotor,
    "neighbour-next": _neighbour,
    "together-fire-together": _together,
    "n-plus-1-minus-k": _n_plus_1,
    "cam-for-crank": _cam_for_crank,
    "highest-is-tdc": _highest,
    "one-table-fits-all": _one_table,
    "blade-goes-so-heel": _blade_goes,
    "dots-mean-1": _dots_mean_1,
    "intake-lifts-so-exhaust": _intake_lifts,
    "bare-25-is-mm": _bare_25,
}
