"""Drills on a covered engine: the answer is what was done to it, judged as at the bench."""

from dataclasses import dataclass, fields
from typing import Any, ClassVar, Final

from true_compass.bench.run import Run
from true_compass.bench.scenario import (
    MOST_HARDNESS,
    MOST_SEED,
    Hand,
    ItemSaid,
    Said,
    Scenario,
)
from true_compass.bench.state import RefusedError
from true_compass.bench.tasks import Task, why_not
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.lessons.drill import MANY, NEVER, Asked, AskError, Draw, Drill, Judged, Question
from true_compass.lessons.forms import Answer, AnswerError, Form, Marks

MOST_ACTIONS: Final = 5000


@dataclass(frozen=True, slots=True)
class Deeds(Form):
    """Actions at the bench, one after another, as its log has them."""

    def read(self, value: Answer) -> Answer:
        """A list of actions."""
        if not isinstance(value, list | tuple):
            raise AnswerError(
                'the answer must be a list of actions such as {"do": "bar", "deg": 30}'
            )
        if len(value) > MOST_ACTIONS:
            raise AnswerError(f"the answer has more than {MOST_ACTIONS} actions")
        return tuple(value)

    def marks(self, right: Answer, given: Answer) -> Marks:
        """The bench judges; there is no list that is the right one."""
        raise NotImplementedError

    def words(self, value: Answer) -> str:
        """How many."""
        return f"{len(value)} actions"


_SAID: Final = tuple(field.name for field in fields(Said) if field.name != "items")


def ask_of(scenario: Scenario) -> dict[str, Any]:
    """Everything but the engine that makes a scenario what it is, as plain values."""
    said = {key: getattr(scenario.said, key) for key in _SAID}
    return {
        "task": scenario.task.value,
        "cylinder": scenario.cylinder,
        "seed": scenario.seed,
        "hardness": scenario.hardness,
        "hand": scenario.hand.value,
        "faults": list(scenario.faults),
        "method": scenario.method,
        "said": {key: value for key, value in said.items() if value is not None},
        "items": [[item.name, item.found_mm, item.nut_moves_mm] for item in scenario.said.items],
    }


def scenario_of(q: Asked, task: Task | None = None) -> Scenario:
    """What a question puts on the bench. Raises `AskError`."""
    faults, said, items = q.ask.get("faults", ()), q.ask.get("said", {}), q.ask.get("items", ())
    if not isinstance(faults, list | tuple) or not all(isinstance(x, str) for x in faults):
        raise AskError("ask.faults must be a list of names")
    if not isinstance(said, dict) or not set(said) <= set(_SAID):
        raise AskError(f"ask.said must have keys of {', '.join(_SAID)}")
    word = task.value if task else q.word("task", [one.value for one in Task])
    try:
        return Scenario(
            engine=q.engine,
            task=Task(word),
            cylinder=int(q.number("cylinder", 1, q.engine.cylinder_count)),
            seed=int(q.number("seed", 0, MOST_SEED)),
            hardness=int(q.number("hardness", 1, MOST_HARDNESS)),
            hand=Hand(q.word("hand", [one.value for one in Hand]) if "hand" in q.ask else "usual"),
            faults=tuple(faults),
            method=str(q.ask.get("method", "two-stop")),
            said=Said(**said, items=tuple(ItemSaid(*row) for row in items)),
        )
    except EngineError as error:
        raise AskError(f"ask.{error.field} {error}") from None
    except TypeError:
        raise AskError("ask.said and ask.items must be as a scenario has them") from None


class Covered(Drill):
    """Any scenario: its task, its faults and its chance stand in what is asked."""

    slug = "covered"
    title = "A covered engine"
    skill = "find-tdc"
    shows_engine = False
    stands = False
    on_paper = False
    task: ClassVar[Task | None] = None

    def missing(self, rig: Rig) -> str:
        """What the bench says."""
        return why_not(rig.engine, self.task) if self.task else ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A seed, a cylinder, and what is wrong."""
        ask: dict[str, Any] = {
            "seed": draw.whole("seed", 1, 999_999),
            "hardness": draw.whole("hard", 1, 3),
            "cylinder": draw.one("cylinder", list(rig.engine.cylinders)),
        }
        if self.task is None:
            ask["task"] = Task.WHICH_TDC.value
        faults = self.faults(rig, draw)
        return Question(self.slug, engine, {**ask, "faults": list(faults)} if faults else ask)

    def faults(self, rig: Rig, draw: Draw) -> tuple[str, ...]:
        """What is wrong with the engine."""
        return ()

    def scenario(self, q: Asked) -> Scenario:
        """What is put on the bench. Raises `AskError`."""
        return scenario_of(q, self.task)

    def choices(self, q: Asked) -> int:
        """Nobody guesses what to do at an engine; but which of two TDCs it is."""
        task = self.scenario(q).task
        if task is Task.FREE:
            return NEVER
        return 2 if task is Task.WHICH_TDC else MANY

    def skill_of(self, q: Asked) -> str:
        """By its task."""
        return skill_of_task(self.scenario(q).task)

    def text(self, q: Asked) -> str:
        """What the bench asks."""
        scenario = self.scenario(q)
        return f"Covered. {scenario.task.title(scenario.cylinder)}."

    def form(self, q: Asked) -> Form:
        """What was done."""
        return Deeds()

    def answer(self, q: Asked) -> Answer:
        """Nothing that could be copied: it is judged by what is done."""
        self.scenario(q)
        return None

    def why(self, q: Asked) -> str:
        """When it is passed."""
        return f"Passed with {self.scenario(q).task.passes}."

    def judge(self, q: Asked, value: Answer) -> Judged:
        """Play the actions and take the bench's verdict."""
        actions = Deeds().read(value)
        run = Run.begin(self.scenario(q), closed=True)
        try:
            run = run.replayed(actions)
        except RefusedError as error:
            raise AnswerError(f"the answer cannot be played: {error}") from None
        verdict = run.verdict()
        why, ideas = self.why(q), verdict["wrong_ideas"]
        if verdict["passed"] is not False:
            return Judged(Marks(1, 0, 1), "", why)
        told = " ".join(verdict["careful"][:2])
        return Judged(Marks(0, 1, 1), ideas[0] if ideas else "", f"{why} {told}".strip())


_SKILLS: Final = {
    Task.ORDER: "firing-order",
    Task.SET: "set-engine",
    Task.PRELOAD: "set-preload",
    Task.BRIDGE: "set-engine",
    Task.FAULT: "find-fault",
    Task.WHICH_TDC: "two-tdcs",
}
_KINDS: Final = {
    Task.TDC: "covered-tdc",
    Task.SET: "covered-set",
    Task.BRIDGE: "covered-set",
    Task.PRELOAD: "covered-preload",
    Task.FAULT: "covered-fault",
}


def skill_of_task(task: Task) -> str:
    """The skill that a task of the bench shows."""
    return _SKILLS.get(task, "find-tdc")


def kind_of(q: Asked) -> str:
    """The kind of a question as far as a skill goes: any scenario counts as the one of its task."""
    if q.question.kind != Covered.slug:
        return q.question.kind
    return _KINDS.get(scenario_of(q).task, Covered.slug)


class FindTdc(Covered):
    """Bring a cylinder to compression TDC, covered."""

    slug = "covered-tdc"
    title = "Find TDC on a covered engine"
    skill = "find-tdc"
    task = Task.TDC


class SetItems(Covered):
    """Set all items, covered."""

    slug = "covered-set"
    title = "Set a covered engine"
    skill = "set-engine"
    task = Task.SET


class SetPreload(Covered):
    """Set the preload of all tappets."""

    slug = "covered-preload"
    title = "Set the preload of a covered engine"
    skill = "set-preload"
    task = Task.PRELOAD


class FindFault(Covered):
    """Find what is wrong."""

    slug = "covered-fault"
    title = "Find the fault on a covered engine"
    skill = "find-fault"
    task = Task.FAULT

    def faults(self, rig: Rig, draw: Draw) -> tuple[str, ...]:
        """One that this engine can carry."""
        from true_compass.bench.faults import FAULTS

        carried = [fault.slug for fault in FAULTS if not fault.missing(rig.engine)]
        return (draw.one("fault", carried),)


DRILLS: Final = (Covered(), FindTdc(), SetItems(), SetPreload(), FindFault())
