"""What a careful person would have done, as steps that can be played on the uncovered engine."""

from dataclasses import dataclass
from typing import Final

from true_compass.bench.covered import Covered
from true_compass.bench.faults import BY_SLUG
from true_compass.bench.tasks import Task
from true_compass.core.adjusting.schools import BY_WORD, Choice, NotApplicableError
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.core.adjusting.stops import Plan
from true_compass.core.words import counted


@dataclass(frozen=True, slots=True)
class Step:
    """One step: what is done, and the crank angle in [0, 720) at which it is done."""

    words: str
    crank_deg: float


def careful_steps(work: Covered) -> tuple[Step, ...]:
    """The steps of a careful person, in running order; faults of the scenario come first."""
    tdc_deg = float(work.true_tdc_deg[work.scenario.cylinder - 1])
    looks = tuple(Step(BY_SLUG[slug].careful, tdc_deg) for slug in work.scenario.faults)
    return (*looks, *_BY_TASK.get(work.scenario.task, _nothing)(work, tdc_deg))


def _nothing(_work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    return (Step("Look at everything before you touch anything.", tdc_deg),)


def _to_tdc(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    cylinder = work.scenario.cylinder
    return (
        Step(f"Thumb on hole {cylinder}: bar on until it is pushed off.", (tdc_deg - 40) % 720),
        Step("On, to the top by the mark or the line.", tdc_deg),
        Step(f"Wiggle both rockers of {cylinder}: both are loose.", tdc_deg),
    )


def _which(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    cylinder = work.scenario.cylinder
    return (
        Step(f"Wiggle both rockers of {cylinder}.", work.condition.start_deg),
        Step("Both loose is compression TDC, both tight is overlap.", tdc_deg),
    )


def _readings(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    cylinder = work.scenario.cylinder
    return (
        Step(
            f"Dial on piston {cylinder}; read the wheel 1 mm before the top.", (tdc_deg - 9) % 720
        ),
        Step("Read the wheel at the same drop after the top.", (tdc_deg + 9) % 720),
        Step("The mean of the two is true TDC: go back well past, come up to it.", tdc_deg),
    )


def _mark(work: Covered, tdc_deg: float) -> tuple[Step, ...]:
    main_deg = work.marks[0][1]
    return (
        *_readings(work, tdc_deg),
        Step("Bend the pointer: the wheel reads 0 here.", tdc_deg),
        Step("Bring the mark into line: the wheel reads its error.", main_deg),
    )


def _order(work: Covered, _tdc_deg: float) -> tuple[Step, ...]:
    closes = [
        ((float(offset) - 130.0) % 720.0, row + 1)
        for row, offset in enumerate(work.engine.firing_offsets_deg)
    ]
    start = closes[0][0]
    closes.sort(key=lambda pair: (pair[0] - start) % 720.0)
    return tuple(Step(f"The intake of {n} has closed: write down {n}.", at) for at, n in closes)


def _set(work: Covered, _tdc_deg: float) -> tuple[Step, ...]:
    try:
        plan = BY_WORD[work.scenario.method].plan(work.book, Choice())
    except NotApplicableError:
        plan = BY_WORD["two-stop"].plan(work.book, Choice())
    return tuple(_stop_steps(work, plan))


def _stop_steps(work: Covered, plan: Plan) -> list[Step]:
    steps = []
    for nth, stop in enumerate(plan.stops, start=1):
        names = [item.item.name for item in stop.items] or [one.name for one in stop.loose_now]
        told = f"Stop {nth}: {', '.join(names)}. See that each is loose, then measure."
        steps.append(Step(told, stop.crank_deg))
    steps.append(Step(f"{_out_words(work)} Bar two turns, measure all.", plan.stops[-1].crank_deg))
    return steps


def _out_words(work: Covered) -> str:
    pairs = zip(work.settings, work.condition.items, strict=True)
    out = [s.name for s, found in pairs if _is_out(s, found.value_mm)]
    return f"{counted(len(out), 'item')} out of the band: set, held, tightened, measured again."


def _is_out(setting: Setting, value_mm: float) -> bool:
    return setting.can_be_set and not setting.holds(value_mm) and setting.way is not Way.HEIGHT


_BY_TASK: Final = {
    Task.TDC: _to_tdc,
    Task.WHICH_TDC: _which,
    Task.TRUE_TDC: _readings,
    Task.MARK: _mark,
    Task.ORDER: _order,
    Task.SET: _set,
    Task.PRELOAD: _set,
    Task.BRIDGE: _set,
}
