"""The hidden condition of a covered engine: where it stands, its slack, each item, its faults.

It follows from the seed and the hardness, except for what a scenario's writer has fixed.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from true_compass.bench.faults import pairs_of
from true_compass.bench.scenario import Scenario
from true_compass.bench.tasks import Task
from true_compass.core.adjusting.setting import Setting, Way, book_rig, settings_of
from true_compass.core.angles import apart_deg, wrap_deg
from true_compass.core.chance import between, one_of, scatter, share
from true_compass.core.crank.phasing import companion_of
from true_compass.core.engine import Engine
from true_compass.core.ignition.leads import crossing_pairs
from true_compass.core.items import Kind

CLEAR_OF_TDC_DEG: Final = 14.0
TRAVEL_BEYOND_MM: Final = 1.2
FULL_RODS_MM: Final = 3.0
"""A set of rods 3 mm too long once came from a sister engine's list (common practice)."""


@dataclass(frozen=True, slots=True)
class Case:
    """One fault where it sits. `amount` is in the unit that its fault is told in."""

    slug: str
    cylinder: int = 0
    item: str = ""
    other: int = 0
    amount: float = 0.0


@dataclass(frozen=True, slots=True)
class ItemCondition:
    """How one item is found: `value_mm` as `Setting` measures it, on the heel.

    `nut_moves_mm` is what tightening its locknut adds to the gap while nobody holds the screw;
    `shim_mm` is the shim that is in it.
    """

    value_mm: float
    nut_moves_mm: float = 0.0
    shim_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Condition:
    """All that is hidden. Angles are crank degrees; slack lies behind the crank.

    `slack_open` tells that the slack lies on the side it lies on after turning back.
    `head_settles_mm` is what torquing the head takes off each gap, 0 where that was done.
    """

    start_deg: float
    cam_slack_deg: float
    rotor_slack_deg: float
    slack_open: bool
    wheel_deg: float
    head_settles_mm: float
    pumped: bool
    items: tuple[ItemCondition, ...]
    cases: tuple[Case, ...] = ()
    mark_error_deg: float = 0.0

    def case(self, slug: str) -> Case | None:
        """The case of a fault, if the engine has it."""
        return next((case for case in self.cases if case.slug == slug), None)


def condition_of(scenario: Scenario) -> Condition:
    """The hidden condition of a scenario. The same scenario always has the same one."""
    seed, said, hard = scenario.seed, scenario.said, scenario.hardness
    settings = settings_of(scenario.engine)
    cases = tuple(_case(scenario, slug, settings) for slug in scenario.faults)
    most_slack_deg = 0.5 + 1.1 * hard
    torqued = share(seed, "head") > 0.1 * (hard - 2) or not scenario.task.sets
    if said.head_torqued is not None:
        torqued = said.head_torqued
    creep = next((case.amount for case in cases if case.slug == "damper-crept"), 0.0)
    firing = next((-case.amount for case in cases if case.slug == "firing-mark"), 0.0)
    fixed = {item.name: item for item in said.items}
    items = []
    for setting in settings:
        item = _found(scenario, setting, cases)
        told = fixed.get(setting.name)
        if told is not None:
            value = item.value_mm if told.found_mm is None else told.found_mm
            moves = item.nut_moves_mm if told.nut_moves_mm is None else told.nut_moves_mm
            item = ItemCondition(value, moves, item.shim_mm)
        items.append(item)
    cam_slack = between(seed, "cam slack", 0.3, most_slack_deg)
    rotor_slack = between(seed, "rotor slack", 0.5, 1.5 * most_slack_deg)
    return Condition(
        start_deg=_or(said.start_deg, _start_deg(scenario)) % 720.0,
        cam_slack_deg=_or(said.cam_slack_deg, cam_slack),
        rotor_slack_deg=_or(said.rotor_slack_deg, rotor_slack),
        slack_open=said.slack_open if said.slack_open is not None else share(seed, "side") < 0.5,
        wheel_deg=between(seed, "wheel", 20.0, 340.0),
        head_settles_mm=0.0 if torqued else between(seed, "settles", 0.05, 0.10),
        pumped=said.pumped if said.pumped is not None else _pumped(scenario),
        items=tuple(items),
        cases=cases,
        mark_error_deg=_or(said.mark_error_deg, creep + firing),
    )


def _or(said: float | None, drawn: float) -> float:
    return drawn if said is None else said


def _pumped(scenario: Scenario) -> bool:
    """Tappets are pumped on an engine that ran; a preload is set on fresh ones as a rule."""
    return scenario.task is not Task.PRELOAD or share(scenario.seed, "pumped") < 0.3


def _start_deg(scenario: Scenario) -> float:
    """Where it is found: somewhere clear of the dead centres, or at one where that is the task."""
    seed = scenario.seed
    true_deg = float(book_rig(scenario.engine).true_offsets_deg[scenario.cylinder - 1])
    if "other-tdc" in scenario.faults:
        return wrap_deg(true_deg + 360.0)
    if scenario.task is Task.WHICH_TDC:
        return wrap_deg(true_deg + (360.0 if share(seed, "which") < 0.5 else 0.0))
    for nth in range(100):
        start = round(between(seed, "start", 0.0, 720.0, nth), 1)
        first = apart_deg(start, 0.0) >= CLEAR_OF_TDC_DEG
        if first and apart_deg(start, true_deg) >= CLEAR_OF_TDC_DEG:
            return start
    return wrap_deg(true_deg + 90.0)


def _found(scenario: Scenario, setting: Setting, cases: tuple[Case, ...]) -> ItemCondition:
    """How an item is found: near its target, or clearly out where setting is the task."""
    seed, name = scenario.seed, setting.name
    low, high = setting.band_mm
    half = (high - low) / 2
    value = sum(setting.band_mm) / 2 + 0.5 * half * max(-1.0, min(1.0, scatter(seed, name) / 2))
    if _is_asked(scenario.task, setting):
        value = _out(scenario, setting, value)
    for case in cases:
        value = _with_case(scenario, setting, case, value)
    nut = 0.0
    if setting.has_locknut:
        size = between(seed, f"{name} nut", 0.03, 0.05 + 0.01 * scenario.hardness)
        nut = size if share(seed, f"{name} nut side") < 0.15 else -size
    shim = round(2.5 + 0.05 * int(12 * share(seed, f"{name} shim")), 2)
    return ItemCondition(round(value, 4), round(nut, 4), shim)


def _is_asked(task: Task, setting: Setting) -> bool:
    if task is Task.SET:
        return True
    if task is Task.BRIDGE:
        return setting.way in (Way.BRIDGE, Way.GAP)
    return task is Task.PRELOAD and setting.way is Way.PLUNGER


def _out(scenario: Scenario, setting: Setting, value: float) -> float:
    """Half of the items are out of their band, to either side; three tight, some far too wide."""
    seed, name = scenario.seed, setting.name
    low, high = setting.band_mm
    if not setting.can_be_set or share(seed, f"{name} out") < 0.5:
        return value
    width = max(high - low, 0.04)
    tight = share(seed, f"{name} side") < 0.5
    far = between(seed, f"{name} far", 0.4, 0.8 + 0.4 * scenario.hardness) * width
    out = low - far if tight else high + far
    return max(out, min(0.02, low)) if setting.way is Way.GAP else out


def _case(scenario: Scenario, slug: str, settings: tuple[Setting, ...]) -> Case:
    """Where a fault sits and how large it is."""
    return _PLACED.get(slug, _plain)(scenario, slug, settings)


def _plain(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    return Case(slug, scenario.cylinder)


def _crept(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    seed = scenario.seed
    size = round(between(seed, "crept", 4.0, 20.0), 1)
    return Case(slug, amount=size if share(seed, "crept side") < 0.5 else -size)


def _firing(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    return Case(slug, amount=float(round(between(scenario.seed, "firing", 6.0, 14.0))))


def _second_mark(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    size = float(round(between(scenario.seed, "second", 12.0, 60.0)))
    return Case(slug, amount=size if share(scenario.seed, "second side") < 0.5 else -size)


def _other_pair(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    places = [at_deg for at_deg, _ in pairs_of(scenario.engine)]
    own = next(at for at, cylinders in pairs_of(scenario.engine) if 1 in cylinders)
    others = [at for at in places if at != own]
    return Case(slug, amount=one_of(scenario.seed, "pair", others) - own)


def _teeth(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    teeth = 1 if share(scenario.seed, "teeth") < 0.7 else 2
    back = share(scenario.seed, "teeth side") < 0.5
    return Case(slug, amount=float(-teeth if back else teeth))


def _two_leads(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    order = scenario.engine.firing_order
    if len(order) < 4:
        # With three leads two that leave post 1 alone would be the reversed order.
        return Case(slug, cylinder=order[0], other=one_of(scenario.seed, "lead", order[1:]))
    # Two that stand as far to either side of post 1 would, on four, be the reversed order.
    pairs = [
        (one, other)
        for nth, one in enumerate(order)
        for other in order[nth + 1 :]
        if len(order) > 4 or {one, other} != {order[1], order[3]}
    ]
    one, other = one_of(scenario.seed, "leads", pairs)
    return Case(slug, cylinder=one, other=other)


def _crossing(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    first, then = one_of(scenario.seed, slug, list(crossing_pairs(scenario.engine)))
    return Case(slug, cylinder=first, other=then)


def _one_cylinder(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    return Case(slug, one_of(scenario.seed, slug, list(scenario.engine.cylinders)))


def _one_valve(scenario: Scenario, slug: str, settings: tuple[Setting, ...]) -> Case:
    """A valve of one cylinder, among those with a gap or a plunger, or a locknut where asked."""
    wanted = [s for s in settings if s.item.is_valve]
    if slug == "locknut-creeps":
        wanted = [s for s in settings if s.has_locknut] or wanted
    chosen = one_of(scenario.seed, slug, wanted)
    amount = between(scenario.seed, f"{slug} size", 0.0, 1.0)
    return Case(slug, chosen.item.cylinder, chosen.name, amount=amount)


def _tooth_out(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    return Case(slug, amount=1.0 if share(scenario.seed, "tooth") < 0.5 else -1.0)


def _slanted(scenario: Scenario, slug: str, _settings: tuple[Setting, ...]) -> Case:
    size = between(scenario.seed, "slant", 0.08, 0.15)
    side = 1.0 if share(scenario.seed, "slant side") < 0.5 else -1.0
    return Case(slug, scenario.cylinder, amount=side * size)


_PLACED: Final = {
    "damper-crept": _crept,
    "firing-mark": _firing,
    "two-marks": _second_mark,
    "flywheel-pair": _other_pair,
    "rotor-teeth": _teeth,
    "leads-swapped": _two_leads,
    "leads-cross": _crossing,
    "cam-one-tooth": _tooth_out,
    "valve-leaks": _one_cylinder,
    "rings-leak": _one_cylinder,
    "lobe-worn": _one_valve,
    "rod-bent": _one_valve,
    "rod-length": _plain,
    "stems-unequal": _one_valve,
    "lifter-collapsed": _one_valve,
    "plunger-bottomed": _one_valve,
    "rocker-tight": _one_valve,
    "cover-struck": _one_valve,
    "locknut-creeps": _one_valve,
    "probe-slanted": _slanted,
}


def travel_mm(setting: Setting) -> float:
    """How far a plunger can be pushed in before it is solid."""
    return setting.band_mm[1] + TRAVEL_BEYOND_MM


def _with_case(scenario: Scenario, setting: Setting, case: Case, value: float) -> float:
    """What a fault does to the value at which an item is found."""
    engine, seed = scenario.engine, scenario.seed
    if case.slug == "lash-wide-companions" and setting.way is Way.GAP and setting.item.is_valve:
        if setting.item.cylinder in (1, companion_of(engine, 1)):
            return _loose_in_overlap_mm(engine, setting) + between(
                seed, f"{setting.name} wide", 0.15, 0.30
            )
        return value
    if case.slug == "rod-length" and setting.way is Way.PLUNGER and not setting.has_locknut:
        # Where nothing can take it up, the plunger does.
        return value + FULL_RODS_MM if setting.seats or not setting.per_turn_mm else value
    if case.item != setting.name:
        return value
    if case.slug == "plunger-bottomed":
        return travel_mm(setting) + 0.2 + 0.5 * case.amount
    if case.slug == "locknut-creeps":
        high = setting.band_mm[1]
        return high + 0.08 + 0.1 * case.amount if setting.way is not Way.HEIGHT else high + 0.3
    if case.slug == "rod-bent":
        bent_mm = 0.10 + 0.10 * case.amount
        return value - bent_mm if setting.way is Way.PLUNGER else setting.band_mm[1] + bent_mm
    return value


def _loose_in_overlap_mm(engine: Engine, setting: Setting) -> float:
    """The gap with which this valve is just loose at overlap TDC; 1.2 mm at most."""
    rig = book_rig(engine)
    row = engine.valve_row(setting.item.cylinder, Kind(setting.item.kind))
    at_deg = wrap_deg(rig.true_offsets_deg[setting.item.cylinder - 1] + 360.0)
    lobe = float(rig.lobes.lobe_mm(np.array([at_deg]))[row, 0]) * setting.lobe_share
    return min(max(lobe, setting.band_mm[1] + 0.1), 1.2)
