"""What a careful person would have done: steps in words, which can be played on the covered engine.

The steps know the hidden condition, since they are told when the engine is uncovered. A test plays
them through the bench's own actions on every rig and task, and they must pass.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Final

from true_compass.bench.actions import do
from true_compass.bench.covered import Covered
from true_compass.bench.faults import BY_SLUG
from true_compass.bench.gaps import bridge_place, gap_now_mm, has_rocker_slack, on_lobe_mm
from true_compass.bench.hands.telling import NOTHING_WRONG
from true_compass.bench.hands.valves import (
    HELD_SHARE,
    STOCK_MM,
    STOCK_STEP_MM,
    TORQUE_SHARE,
    USUAL_NM,
)
from true_compass.bench.state import BenchState
from true_compass.bench.tasks import Task
from true_compass.core.adjusting.comparison import first_safe, rows_of
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.core.adjusting.stops import Plan
from true_compass.core.adjusting.tasks import FELT_AT_LAST, FULL_TAPPETS
from true_compass.core.items import Item
from true_compass.core.valves.train import Adjuster
from true_compass.core.words import at_degrees, counted

Action = dict[str, Any]
Doing = Callable[[Covered, BenchState], list[Action]]
"""What is done next, as the engine is then."""
PLAY_MM: Final = 0.3
"""How far an adjuster is slackened past zero: it clacks."""
BOLT_DEG: Final = 1080.0
"""How far a pedestal's bolt is turned up so that its rod comes out."""


@dataclass(frozen=True, slots=True)
class Step:
    """One step: what is done, and the crank angle in [0, 720) at which it is done.

    `does` is the work of a hand there, each part worked out from the engine as it is then.
    """

    words: str
    crank_deg: float
    does: tuple[Doing, ...] = ()


def careful_steps(work: Covered) -> tuple[Step, ...]:
    """The steps of a careful person, in running order; faults of the scenario come first."""
    tdc_deg = float(work.true_tdc_deg[work.scenario.cylinder - 1])
    looks = tuple(Step(BY_SLUG[slug].careful, tdc_deg) for slug in work.scenario.faults)
    return (*looks, *_BY_TASK.get(work.scenario.task, _nothing)(work, tdc_deg))


def played_carefully(work: Covered, state: BenchState) -> BenchState:
    """The state after every step was done through the bench's own actions; not finished yet."""
    for step in careful_steps(work):
        way_deg = (step.crank_deg - state.crank_deg) % 720.0
        # Less than 30° might leave slack open, or be a turn back.
        by_deg = way_deg if way_deg >= 30.0 or way_deg < 1e-9 else way_deg + 720.0
        if by_deg >= 1e-9:
            state, _ = do(work, state, {"do": "bar", "deg": by_deg})
        for doing in step.does:
            for action in doing(work, state):
                state, _ = do(work, state, action)
    return state


def _say(**keys: Any) -> Doing:
    return lambda _work, _state: [{"do": "declare", **keys}]


def _nothing(_work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    return (Step("Look at everything before you touch anything.", tdc_deg),)


def _fault(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    named = list(work.scenario.faults) or [NOTHING_WRONG]
    words = "Look at everything, then name what is wrong, or say that nothing is."
    return (Step(words, tdc_deg, (_say(fault=named),)),)


def _to_tdc(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    cylinder = work.scenario.cylinder
    tells = _say(cylinder=cylinder, tdc="compression")
    return (
        Step(f"Thumb on hole {cylinder}: bar on until it is pushed off.", (tdc_deg - 40) % 720),
        Step("On, to the top by the mark or the line.", tdc_deg),
        Step(f"Wiggle both rockers of {cylinder}: both are loose.", tdc_deg, (tells,)),
    )


def _which(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    cylinder = work.scenario.cylinder
    tells = _say(cylinder=cylinder, tdc="compression")
    return (
        Step(f"Wiggle both rockers of {cylinder}.", work.condition.start_deg),
        Step("Both loose is compression TDC, both tight is overlap.", tdc_deg, (tells,)),
    )


def _readings(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    cylinder = work.scenario.cylinder
    return (
        Step(
            f"Dial on piston {cylinder}; read the wheel 1 mm before the top.", (tdc_deg - 9) % 720
        ),
        Step("Read the wheel at the same drop after the top.", (tdc_deg + 9) % 720),
        Step(
            "The mean of the two is true TDC: go back well past, come up to it.",
            tdc_deg,
            (_say(cylinder=cylinder, tdc="compression"),),
        ),
    )


def _mark(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    main_deg = work.marks[0][1]
    tells = _say(mark_error_deg=work.condition.mark_error_deg)
    return (
        *(Step(step.words, step.crank_deg) for step in _readings(work, tdc_deg)),
        Step("Bend the pointer: the wheel reads 0 here.", tdc_deg),
        Step("Bring the mark into line: the wheel reads its error.", main_deg, (tells,)),
    )


def _order(work: Covered, _tdc_deg: float) -> tuple[Step, ...]:
    engine = work.engine
    closes = [
        ((float(offset) - 130.0) % 720.0, row + 1)
        for row, offset in enumerate(engine.firing_offsets_deg)
    ]
    start = closes[0][0]
    closes.sort(key=lambda pair: (pair[0] - start) % 720.0)
    rotor = {"rotor": engine.rotor_turns.value} if engine.has_rotor else {}
    tells = _say(order=[n for _, n in closes], **rotor)
    found = [Step(f"The intake of {n} has closed: write down {n}.", at) for at, n in closes]
    return (*found[:-1], Step(found[-1].words, found[-1].crank_deg, (tells,)))


# Setting ------------------------------------------------------------------------------------------


def _set(work: Covered, _tdc_deg: float) -> tuple[Step, ...]:
    row = first_safe(rows_of(work.book, first=work.scenario.method))
    plan = row.plan if row is not None else None
    if plan is None:
        return (Step("No method is safe on this engine: the maker's manual decides.", 0.0),)
    if plan.swept:
        return tuple(_sweep_steps(work, plan))
    return tuple(_stop_steps(work, plan))


def _stop_steps(work: Covered, plan: Plan) -> Iterator[Step]:
    for nth, stop in enumerate(plan.stops, start=1):
        names = ", ".join(due.item.name for due in stop.items)
        at = at_degrees(stop.crank_deg)
        told = f"Stop {nth}, crank at {at}: {names}. See that each is loose, then measure."
        head: tuple[Doing, ...] = (_torque_head,) if nth == 1 else ()
        deeds = tuple(_right(setting) for due in stop.items for setting in _at(work, due.item))
        yield Step(told, stop.crank_deg, (*head, *deeds))
    last = plan.stops[-1].crank_deg
    yield Step(f"{_out_words(work)} Bar two turns, measure all.", last)


def _sweep_steps(work: Covered, plan: Plan) -> Iterator[Step]:
    """Zero for whatever is loose at each quarter; then the preload on all, wherever it stands."""
    plungers = [s for s in work.settings if s.way is Way.PLUNGER and s.can_be_set]
    for nth, stop in enumerate(plan.stops, start=1):
        at = at_degrees(stop.crank_deg)
        first = (
            "Slacken every adjuster until it clacks, let the plungers rise. " if nth == 1 else ""
        )
        told = f"{first}Quarter {nth}, crank at {at}: take up to zero whatever is loose."
        slack = tuple(_slack(setting) for setting in plungers) if nth == 1 else ()
        rise: tuple[Doing, ...] = (_wait,) if nth == 1 else ()
        taken = tuple(_to_zero(setting) for setting in plungers)
        yield Step(told, stop.crank_deg, (*slack, *rise, *taken))
    last = plan.stops[-1].crank_deg
    words = f"The preload on all, the same, here: crank at {at_degrees(last)}. {FULL_TAPPETS}"
    yield Step(words, last, (*(_add(setting) for setting in plungers), _wait))
    yield Step(FELT_AT_LAST, last)


def _at(work: Covered, item: Item) -> list[Setting]:
    return [setting for setting in work.settings if setting.due == item]


def _torque_head(_work: Covered, state: BenchState) -> list[Action]:
    return [] if state.head_torqued else [{"do": "torque", "part": "head"}]


def _wait(_work: Covered, _state: BenchState) -> list[Action]:
    return [{"do": "wait"}]


def _right(setting: Setting) -> Doing:
    """What brings one item into its band, on its heel; nothing where it is in."""

    def doing(work: Covered, state: BenchState) -> list[Action]:
        place = work.place[setting.name]
        if not setting.can_be_set:
            return []
        if setting.way is Way.PLUNGER:
            return _plunger(work, state, setting, place)
        wanted = _aim_mm(setting)
        bridge = bridge_place(work, setting)
        if bridge is not None:
            # A bridge that hangs down on one side widens the gap over it.
            wanted -= state.items[bridge].value_mm / 2
        now = state.items[place].value_mm
        loose = not state.items[place].tight
        heel = now + (state.items[bridge].value_mm / 2 if bridge is not None else 0.0)
        if setting.holds(heel) and not loose:
            return []
        if setting.adjuster is Adjuster.SHIM:
            return [_shim(setting, state.items[place].shim_mm, now)]
        opens = _room_for_bridge(work, state, setting)
        return [*opens, *_screwed(work, setting, place, now, wanted)]

    return doing


def _aim_mm(setting: Setting) -> float:
    low, high = setting.band_mm
    return setting.target_mm if low < setting.target_mm < high else (low + high) / 2


def _nut_share(setting: Setting) -> float:
    """What share of its own movement a nut makes, held and torqued."""
    return HELD_SHARE + TORQUE_SHARE if setting.has_locknut else TORQUE_SHARE


def _screwed(
    work: Covered, setting: Setting, place: int, now_mm: float, wanted_mm: float
) -> list[Action]:
    """Slacken, turn, hold, tighten, torque, stripe: so that the nut closes it to what is wanted."""
    name, inward = setting.name, setting.way in (Way.PLUNGER, Way.CONTACT)
    moved = work.condition.items[place].nut_moves_mm * _nut_share(setting)
    goal = wanted_mm + moved if inward else wanted_mm - moved
    widen_mm = now_mm - goal if inward else goal - now_mm
    deg = -widen_mm / setting.per_turn_mm * 360.0
    turned = [{"do": "screw", "item": name, "deg": deg}] if abs(deg) > 1e-6 else []
    return [{"do": "slacken", "item": name}, *turned, *_closed(setting)]


def _closed(setting: Setting) -> list[Action]:
    nm = setting.tools.torque_nm or USUAL_NM
    name = setting.name
    return [
        {"do": "tighten", "item": name, "hold": True},
        {"do": "torque", "item": name, "nm": nm},
        {"do": "stripe", "item": name},
    ]


def _room_for_bridge(work: Covered, state: BenchState, setting: Setting) -> list[Action]:
    """The rocker over a bridge slackened, where it presses: it is set right after."""
    if setting.way is not Way.BRIDGE or has_rocker_slack(work, state, setting.item):
        return []
    rocker = work.settings[work.place[setting.item.rocker.name]]
    turns = {"do": "screw", "item": rocker.name, "deg": -PLAY_MM / rocker.per_turn_mm * 360.0}
    return [{"do": "slacken", "item": rocker.name}, turns]


def _shim(setting: Setting, shim_mm: float, gap_mm: float) -> Action:
    """New = old + k × (measured − target), to the next size that the box has."""
    exact = shim_mm + setting.shim_per_gap * (gap_mm - _aim_mm(setting))
    size = round(round(exact / STOCK_STEP_MM) * STOCK_STEP_MM, 2)
    size = min(max(size, STOCK_MM[0]), STOCK_MM[1])
    return {"do": "shim", "item": setting.name, "mm": size}


def _plunger(work: Covered, state: BenchState, setting: Setting, place: int) -> list[Action]:
    """Play, time to rise, zero, then the preload; a bolt to its seat takes another rod instead."""
    value = state.items[place].value_mm
    if setting.holds(value):
        return []
    name = setting.name
    if setting.seats:
        # The bolt comes up, another rod goes in, and the bolt goes down to its seat again.
        return [
            {"do": "screw", "item": name, "deg": -BOLT_DEG},
            {"do": "rod", "item": name, "mm": _aim_mm(setting) - value},
            {"do": "screw", "item": name, "deg": BOLT_DEG},
            {"do": "wait"},
        ]
    nut = work.condition.items[place].nut_moves_mm * _nut_share(setting)
    per_deg = 360.0 / setting.per_turn_mm
    return [
        {"do": "slacken", "item": name},
        {"do": "screw", "item": name, "deg": (-PLAY_MM - value) * per_deg},
        {"do": "wait"},
        {"do": "wiggle", "item": name},
        {"do": "screw", "item": name, "deg": PLAY_MM * per_deg},
        {"do": "screw", "item": name, "deg": (_aim_mm(setting) + nut) * per_deg},
        *_closed(setting),
        {"do": "wait"},
    ]


def _slack(setting: Setting) -> Doing:
    """Slacken a plunger's adjuster where the crank stands, until it clacks."""

    def doing(work: Covered, state: BenchState) -> list[Action]:
        value = state.items[work.place[setting.name]].value_mm
        out_mm = value + on_lobe_mm(work, setting, state.cam_deg) + PLAY_MM
        turns = {"do": "screw", "item": setting.name, "deg": -out_mm / setting.per_turn_mm * 360.0}
        return [{"do": "slacken", "item": setting.name}, *([turns] if out_mm > 0 else [])]

    return doing


def _to_zero(setting: Setting) -> Doing:
    """Take the play up, where there is some: whatever is loose, and nothing else."""

    def doing(work: Covered, state: BenchState) -> list[Action]:
        play_mm = gap_now_mm(work, state, work.place[setting.name])
        if play_mm <= 1e-6:
            return []
        deg = play_mm / setting.per_turn_mm * 360.0
        return [{"do": "screw", "item": setting.name, "deg": deg + 1e-6}]

    return doing


def _add(setting: Setting) -> Doing:
    """The preload, so many turns on all; then the nut."""

    def doing(work: Covered, _state: BenchState) -> list[Action]:
        place = work.place[setting.name]
        nut = work.condition.items[place].nut_moves_mm * _nut_share(setting)
        deg = (_aim_mm(setting) + nut) / setting.per_turn_mm * 360.0
        turned = {"do": "screw", "item": setting.name, "deg": deg}
        return [turned, *_closed(setting)]

    return doing


def _out_words(work: Covered) -> str:
    pairs = zip(work.settings, work.condition.items, strict=True)
    out = [s.name for s, found in pairs if s.can_be_set and not s.holds(found.value_mm)]
    return f"{counted(len(out), 'item')} out of the band: set, held, tightened, measured again."


_BY_TASK: Final = {
    Task.TDC: _to_tdc,
    Task.WHICH_TDC: _which,
    Task.TRUE_TDC: _readings,
    Task.MARK: _mark,
    Task.ORDER: _order,
    Task.SET: _set,
    Task.PRELOAD: _set,
    Task.BRIDGE: _set,
    Task.FAULT: _fault,
}
