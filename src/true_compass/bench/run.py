"""One run at the bench: a scenario, what was done to it, and what each action answered."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from true_compass.bench.actions import Answer, do
from true_compass.bench.covered import Covered
from true_compass.bench.scenario import Scenario
from true_compass.bench.state import BenchState, RefusedError, first_state
from true_compass.bench.verdict import judge


@dataclass(frozen=True, slots=True, eq=False)
class Run:
    """A run as it stands. Immutable: `done` gives the next one."""

    work: Covered
    state: BenchState

    @staticmethod
    def begin(scenario: Scenario, closed: bool = False) -> "Run":
        """An engine as it is found. Covers, caps and plugs are off, unless `closed`."""
        work = Covered.of(scenario)
        return Run(work, first_state(work, closed))

    def done(self, action: object) -> tuple["Run", Answer]:
        """Do one action. Raises `RefusedError`, and nothing has changed."""
        state, answer = do(self.work, self.state, action)
        after = Run(self.work, state)
        return after, {**answer, **after.verdict()} if state.finished else answer

    def verdict(self) -> dict[str, Any]:
        """The truth about the run, as JSON has it."""
        return judge(self.work, self.state).record()

    def replayed(self, actions: Iterable[object]) -> "Run":
        """The run after some more actions. Raises `RefusedError` at the first that is refused."""
        run = self
        for nth, action in enumerate(actions, start=1):
            try:
                run = Run(run.work, do(run.work, run.state, action)[0])
            except RefusedError as error:
                raise RefusedError(f"Action {nth}: {error}") from None
        return run
