"""The ladder of hints, and what a careful person does: one step after another, by task."""

from dataclasses import dataclass

from true_compass.bench.covered import Covered
from true_compass.bench.state import BenchState
from true_compass.bench.tasks import Task
from true_compass.core.crank.phasing import companion_of


@dataclass(frozen=True, slots=True)
class Hint:
    """Where to look, what it means, and what is done for whoever asks a third time."""

    look: str
    means: str
    done: str
    turn_deg: float = 0.0


def next_hint(work: Covered, state: BenchState) -> Hint:
    """The hint for the first step that has not been taken yet."""
    steps = [step for step, taken in _steps(work, state) if not taken]
    return steps[0] if steps else _LAST


_LAST = Hint(
    "You have looked at everything that this task needs.",
    "Say what you found, then check your work.",
    "Nothing is left to do for you: say what you found.",
)


def _steps(work: Covered, state: BenchState) -> list[tuple[Hint, bool]]:
    """Every step of the task, with whether it was taken."""
    cylinder = work.scenario.cylinder
    to_tdc = _forward_deg(state.crank_deg, float(work.true_tdc_deg[cylinder - 1]))
    seen = {(one.do, one.of) for one in state.seen}
    of = f"cylinder {cylinder}"
    thumb = Hint(
        f"Hold the thumb on hole {cylinder} and bar on.",
        "A push means that the piston rises with both valves shut: the compression stroke.",
        "Barred up to 30° before compression TDC.",
        (to_tdc - 30.0) % 720.0,
    )
    height = Hint(
        f"Put the soft line into hole {cylinder}, or bring the mark to the pointer.",
        "Where the line stops rising the piston is at the top, a few degrees wide.",
        "Barred to the top of the stroke.",
        to_tdc,
    )
    rockers = Hint(
        f"Wiggle both rockers of {cylinder}.",
        "Both loose: compression TDC. Not both loose: the other stroke, or one binds. "
        "Never slacken there.",
        "Barred to compression TDC: both are loose here.",
        to_tdc,
    )
    wiggled = any(one.do == "wiggle" and _is_of(work, one.of, cylinder) for one in state.seen)
    up = ("line", of) in seen or ("look", "marks") in seen or ("read", f"piston {cylinder}") in seen
    where = [(thumb, ("thumb", of) in seen), (height, up), (rockers, wiggled)]
    return _BY_TASK.get(work.scenario.task, _where_only)(work, state, where)


def _forward_deg(from_deg: float, to_deg: float) -> float:
    return (to_deg - from_deg) % 720.0


def _is_of(work: Covered, name: str, cylinder: int) -> bool:
    place = work.place.get(name)
    return place is not None and work.settings[place].item.cylinder == cylinder


Steps = list[tuple[Hint, bool]]


def _where_only(_work: Covered, _state: BenchState, where: Steps) -> Steps:
    return where


def _which(_work: Covered, _state: BenchState, where: Steps) -> Steps:
    return [where[2], where[0]]


def _readings(work: Covered, state: BenchState, where: Steps) -> Steps:
    cylinder = work.scenario.cylinder
    reads = sum(one.do in ("read", "touch") for one in state.seen)
    wheels = sum(one.do == "wheel" for one in state.seen)
    fit = Hint(
        f"Fit the dial on piston {cylinder}, or the stop in its hole, and read the wheel.",
        "The top itself is flat. Equal drops to either side of it are sharp.",
        "Barred to 15° before the top: begin to read here.",
        (_forward_deg(state.crank_deg, float(work.true_tdc_deg[cylinder - 1])) - 15.0) % 360.0,
    )
    two = Hint(
        "Read the wheel at the same drop before and after the top, 1 mm or less.",
        "True TDC is the mean of the two figures. Turn to it in the running direction.",
        "Barred to the middle.",
        _forward_deg(state.crank_deg, float(work.true_tdc_deg[cylinder - 1])) % 360.0,
    )
    return [(fit, reads > 0), (two, wheels > 1), *where[2:]]


def _mark(work: Covered, state: BenchState, where: Steps) -> Steps:
    marks = Hint(
        "Bring the mark to the pointer and read the wheel there.",
        "Its error is the wheel there less the wheel at true TDC: plus is met after TDC.",
        "Look at the mark: one turn of the crank brings it by once.",
    )
    seen = any((one.do, one.of) == ("look", "marks") for one in state.seen)
    return [*_readings(work, state, where)[:2], (marks, seen)]


def _order(work: Covered, state: BenchState, _where: Steps) -> Steps:
    looked = any((one.do, one.of) == ("look", "rockers") for one in state.seen)
    rotor = sum((one.do, one.of) == ("look", "rotor") for one in state.seen)
    closes = Hint(
        "Bar round and write down which intake closes next.",
        "Intakes close in firing order, each a little after its bottom dead centre.",
        "Look at the rockers every 30° for two turns.",
    )
    turns = Hint(
        "Take the cap off, look at the rotor, bar on a little, look again.",
        "Its direction is what you saw, not what the crank does.",
        "Bar 60° between two looks at the rotor.",
    )
    steps = [(closes, looked)]
    return [*steps, (turns, rotor > 1)] if work.engine.has_rotor else steps


def _set(work: Covered, state: BenchState, where: Steps) -> Steps:
    todo = [
        setting.name
        for setting, item in zip(work.settings, state.items, strict=True)
        if setting.can_be_set and not item.torque_nm and item.set_at_deg is None
    ]
    told = todo[0] if todo else ""
    item = Hint(
        f"Next is {told}: measure it as found, in its band leave it.",
        "On its base circle only: slacken, set, hold the screw, tighten, measure again.",
        f"Turn to where {told} is free, and see that it is loose.",
    )
    return [*where[2:], (item, not todo)]


def _fault(work: Covered, state: BenchState, where: Steps) -> Steps:
    looks = {one.of for one in state.seen if one.do == "look"}
    other = companion_of(work.engine, 1)
    around = Hint(
        "Look at everything before you touch anything: marks, rockers, cover, cap, dots.",
        "Each fault shows in one sign first. What disagrees with the rest is the fault.",
        "Look at the marks, then at the rockers of 1" + (f" and {other}." if other else "."),
    )
    run = Hint(
        "Put it together and run it, or gauge every cylinder.",
        "Low compression that oil raises is rings; that oil does not raise is a valve.",
        "Gauge each cylinder with the starter, coil off.",
    )
    gauged = any(one.do in ("bump", "test run") for one in state.seen)
    return [(around, len(looks) > 2), (run, gauged), *where]


_BY_TASK = {
    Task.WHICH_TDC: _which,
    Task.TRUE_TDC: _readings,
    Task.MARK: _mark,
    Task.ORDER: _order,
    Task.SET: _set,
    Task.PRELOAD: _set,
    Task.BRIDGE: _set,
    Task.FAULT: _fault,
}
