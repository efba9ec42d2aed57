"""What is on the bench: the slice of the session that holds one covered engine and its readings."""

from dataclasses import dataclass, replace
from typing import Any, Final

from true_compass.bench.run import Run
from true_compass.bench.scenario import Scenario
from true_compass.bench.tasks import Task
from true_compass.core.engine import Engine

MOST_READINGS: Final = 24
Answer = dict[str, Any]
NOT_READINGS: Final = (
    "bar",
    "touch",
    "chalk",
    "on",
    "off",
    "pointer",
    "zero",
    "stop",
    "indicator",
    "slacken",
    "screw",
    "tighten",
    "torque",
    "stripe",
    "declare",
    "foretell",
    "record",
    "hint",
    "wait",
    "hand over",
    "finish",
    "rod",
)


@dataclass(frozen=True, slots=True)
class Reading:
    """One thing that was felt or seen: the action, what it answered, and when.

    `crank_deg` is where the crank stood: a reading taken elsewhere is no longer live.
    `nth` counts actions.
    """

    action: Answer
    answer: Answer
    crank_deg: float
    nth: int

    @property
    def of(self) -> str:
        """What it was of: two readings of one thing replace one another."""
        action = self.action
        what = action.get("item") or action.get("at") or action.get("cylinder") or ""
        return f"{action['do']} {what}"


@dataclass(frozen=True, slots=True, eq=False)
class OnBench:
    """A run with its latest readings, the newest first, and the last action with its answer.

    `actions` are all that were done, in turn.
    """

    run: Run
    readings: tuple[Reading, ...] = ()
    last: tuple[Answer, Answer] | None = None
    verdict: Answer | None = None
    closed: bool = True
    actions: tuple[Answer, ...] = ()

    @staticmethod
    def begin(scenario: Scenario, closed: bool = True) -> "OnBench":
        """A covered engine as it is found; in the window everything is on."""
        return OnBench(Run.begin(scenario, closed), closed=closed)

    def done(self, action: Answer) -> "OnBench":
        """After one more action. Raises `RefusedError`, and nothing has changed."""
        run, answer = self.run.done(action)
        actions = (*self.actions, action)
        if run.state.finished:
            return replace(self, run=run, last=(action, {}), verdict=answer, actions=actions)
        readings = self.readings
        if action["do"] not in NOT_READINGS:
            new = Reading(action, answer, run.state.crank_deg, run.state.done)
            rest = [old for old in readings if old.of != new.of]
            readings = (new, *rest)[:MOST_READINGS]
        return replace(self, run=run, readings=readings, last=(action, answer), actions=actions)

    def is_live(self, reading: Reading) -> bool:
        """Whether the engine still stands where a reading was taken."""
        return abs(reading.crank_deg - self.run.state.crank_deg) < 1e-9


def tells_order_asked(bench: OnBench | None, engine: Engine) -> bool:
    """Whether the firing order of an engine would give away what is still asked at the bench."""
    if bench is None or bench.verdict is not None:
        return False
    work = bench.run.work
    asked = work.scenario.task is Task.ORDER
    return asked and work.engine.firing_order == engine.firing_order
