"""Hands for the tests of the bench: a run to which actions are done one after another."""

from typing import Any

from true_compass.bench.run import Run
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.state import RefusedError
from true_compass.files.rigs import demo_rig


class Hands:
    """A covered engine, and what it answers."""

    def __init__(self, rig: str = "birch", closed: bool = False, **scenario: Any) -> None:
        said = scenario.pop("said", Said(start_deg=50.0, slack_open=False))
        self.run = Run.begin(Scenario(demo_rig(rig), said=said, **scenario), closed)

    def do(self, word: str, **keys: Any) -> dict[str, Any]:
        """Do an action that must go."""
        self.run, answer = self.run.done({"do": word, **keys})
        return answer

    def refused(self, word: str, **keys: Any) -> str:
        """The sentence of an action that is refused and must change nothing."""
        before = self.run.state
        try:
            self.run.done({"do": word, **keys})
        except RefusedError as error:
            assert self.run.state is before
            return str(error)
        raise AssertionError(f"{word} {keys} was not refused")

    def go_to(self, crank_deg: float) -> None:
        """Turn on to a place in the cycle, so far that no slack is left."""
        self.do("bar", deg=(crank_deg - self.run.state.crank_deg) % 720.0 + 720.0)

    def heel_mm(self, item: str) -> float:
        """What an item really is on its heel."""
        return self.run.state.items[self.run.work.place[item]].value_mm
