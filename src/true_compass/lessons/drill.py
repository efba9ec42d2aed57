"""A drill: questions of one kind, without end, for any engine, each judged from the engine.

A question holds what is asked and nothing of the answer: that is worked out when it is judged. The
answer stored in a file beside it is never read.
"""

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import Enum
from types import MappingProxyType
from typing import Any, ClassVar, Final, TypeVar

from true_compass.core.chance import between, one_of, share, some_of
from true_compass.core.engine import Engine
from true_compass.core.items import Item, item_named
from true_compass.core.state import Rig
from true_compass.lessons.forms import Answer, Choice, Form, Marks, Ticks, slips_of

Thing = TypeVar("Thing")
Ask = Mapping[str, Any]
NOTHING: Final[Ask] = MappingProxyType({})
NEVER: Final = 1
"""The choices of a question whose answer never changes: it counts for nothing."""
MANY: Final = 64
"""The choices of an answer that nobody guesses: a figure, a table, an order laid by hand."""


class AskError(ValueError):
    """A question that cannot be asked, as one sentence with the way out."""


class Cover(Enum):
    """What is hidden on the engine until a question is answered."""

    RING = "ring"
    ARCS = "arcs"
    STROKES = "strokes"
    ANGLE = "angle"
    VALVES = "valves"


@dataclass(frozen=True, slots=True)
class Question:
    """What is asked of which engine. `at_deg` is where its crank stands, [0, 720), or None where
    that says nothing; `ask` has the rest, in the words of its kind.
    """

    kind: str
    engine: str
    ask: Ask = field(default_factory=lambda: NOTHING)
    at_deg: float | None = None

    def record(self) -> dict[str, Any]:
        """As files and commands have it."""
        return {
            "kind": self.kind,
            "engine": self.engine,
            "at_deg": self.at_deg,
            "ask": {key: plain(value) for key, value in self.ask.items()},
        }


def plain(value: Any) -> Any:
    """A value as JSON has it: tuples are lists."""
    return [plain(part) for part in value] if isinstance(value, tuple) else value


@dataclass(frozen=True, slots=True)
class Line:
    """One thing said of a part of an answer: its name, what was done there, and the reason.

    `mark` is `right`, `wrong` or `left out`.
    """

    name: str
    mark: str
    words: str


@dataclass(frozen=True, slots=True)
class Judged:
    """A judged answer. `why` is what the engine shows; `idea` a wrong idea's slug, or empty.

    `shows` are the cylinders to look at, `lines` one reason a part, and `show_deg` where the crank
    goes to show it, or None where it stays.
    """

    marks: Marks
    idea: str
    why: str
    lines: tuple[Line, ...] = ()
    shows: tuple[int, ...] = ()
    show_deg: float | None = None

    @property
    def credit(self) -> float:
        """From 0 to 1."""
        return self.marks.credit

    @property
    def is_right(self) -> bool:
        """Whether nothing was wrong and nothing left out."""
        return self.marks.is_full

    def record(self) -> dict[str, Any]:
        """As commands have it."""
        return {"credit": self.credit, "idea": self.idea or None, "why": self.why}


@dataclass(frozen=True, slots=True)
class Draw:
    """Chance for one question: the same seed, number and try draw the same."""

    seed: int
    nth: int
    tries: int = 0

    @property
    def _at(self) -> int:
        return self.nth + 1_000_003 * self.tries

    def one(self, what: str, things: Sequence[Thing]) -> Thing:
        """One of some things."""
        return one_of(self.seed, what, things, self._at)

    def some(self, what: str, things: Sequence[Thing], count: int) -> tuple[Thing, ...]:
        """Several different things."""
        return some_of(self.seed, f"{what}/{self._at}", things, count)

    def whole(self, what: str, least: int, most: int) -> int:
        """A whole number, both ends in."""
        return least + int(share(self.seed, what, self._at) * (most - least + 1))

    def between(self, what: str, low: float, high: float) -> float:
        """A number."""
        return between(self.seed, what, low, high, self._at)

    def even(self, what: str, things: Sequence[Thing], *, keeps: bool = False) -> Thing:
        """One of some things, each as often as any other: twice in every so many questions.

        So that no answer comes so often that always giving it would pay. Another try gives another
        thing, unless it `keeps`: then only the rest of the question is drawn again.
        """
        every = 2 * len(things)
        block, place = divmod(self.nth, every)
        turned = some_of(self.seed, f"{what}/{block}", range(every), every)
        return things[turned[(place + (0 if keeps else self.tries)) % every] % len(things)]

    def yes(self, what: str, likely: float = 0.5) -> bool:
        """Yes or no."""
        return share(self.seed, what, self._at) < likely

    def again(self, tries: int) -> "Draw":
        """Chance for the same question, once more."""
        return Draw(self.seed, self.nth, self.tries + tries)


@dataclass(frozen=True, slots=True)
class Asked:
    """A question on its engine: what the methods of a drill go by.

    What a question that was written by hand leaves out, or has wrongly, raises `AskError`.
    """

    rig: Rig
    question: Question

    @property
    def engine(self) -> Engine:
        """The engine."""
        return self.rig.engine

    @property
    def ask(self) -> Ask:
        """What is asked, in the words of its kind."""
        return self.question.ask

    @property
    def at_deg(self) -> float:
        """Where the crank stands."""
        if self.question.at_deg is None:
            raise AskError("at_deg must say where the crank stands, 0 to 720")
        return self.question.at_deg

    @property
    def cylinder(self) -> int:
        """The cylinder that is asked about."""
        value = self.ask.get("cylinder")
        if isinstance(value, bool) or not isinstance(value, int):
            raise AskError("ask.cylinder must be the number of a cylinder")
        if value not in self.engine.cylinders:
            raise AskError(f"ask.cylinder must be 1 to {self.engine.cylinder_count}, not {value}")
        return value

    def number(self, key: str, least: float, most: float) -> float:
        """A number, both ends in."""
        value = self.ask.get(key)
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise AskError(f"ask.{key} must be a number")
        if not least <= value <= most:
            raise AskError(f"ask.{key} must be {least:g} to {most:g}, not {value:g}")
        return float(value)

    def word(self, key: str, words: Sequence[str]) -> str:
        """One of some words."""
        value = self.ask.get(key)
        if value not in words:
            raise AskError(f"ask.{key} must be one of {', '.join(words)}")
        return str(value)

    def item(self, key: str) -> Item:
        """An item of the engine."""
        name = self.ask.get(key)
        if name not in self.rig.item_names:
            example = self.rig.item_names[0]
            raise AskError(f"ask.{key} must be an item of this engine, such as {example}")
        return item_named(str(name))


class Drill(ABC):
    """One kind of question. A subclass says what is asked; how it is marked follows from its form.

    Any method that takes a question raises `AskError` or `EngineError` for one that makes no sense.
    """

    slug: ClassVar[str]
    title: ClassVar[str]
    skill: ClassVar[str]
    stands: ClassVar[bool] = True
    """Whether the question is about where the crank stands."""
    covers: ClassVar[tuple[Cover, ...]] = ()
    """What would tell the answer on the engine, and is hidden until it is given."""
    shows_engine: ClassVar[bool] = True
    """Whether the engine is looked at for an answer."""
    on_paper: ClassVar[bool] = True
    """Whether it can be asked on paper."""
    reads_cam: ClassVar[bool] = False
    """Whether the answer follows from where lobes begin and end, which paper must then say."""

    def missing(self, rig: Rig) -> str:
        """Why an engine cannot be asked this, as the end of a sentence; nothing where it can."""
        return ""

    @abstractmethod
    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A question. `engine` is the name that it carries."""

    @abstractmethod
    def text(self, q: Asked) -> str:
        """The question as a sentence."""

    @abstractmethod
    def form(self, q: Asked) -> Form:
        """How its answer is given."""

    @abstractmethod
    def answer(self, q: Asked) -> Answer:
        """The right answer, from the engine."""

    @abstractmethod
    def why(self, q: Asked) -> str:
        """Why that is right: what the engine shows, in one sentence or two."""

    def skill_of(self, q: Asked) -> str:
        """The skill that a question shows."""
        return self.skill

    def choices(self, q: Asked) -> int:
        """How many answers somebody who knows nothing chooses from; 1 where the answer never
        changes on this engine, whatever is asked, so that it shows nothing.
        """
        form = self.form(q)
        if isinstance(form, Choice):
            return len(form.options)
        return min(2 ** len(form.names), MANY) if isinstance(form, Ticks) else MANY

    def unfair(self, q: Asked) -> str:
        """Why nobody should be asked this at this place, as the end of a sentence; or nothing."""
        return ""

    def given(self, q: Asked) -> str:
        """The figures that the answer is judged on, where the sentence of a step has none."""
        return ""

    def paper_text(self, q: Asked) -> str:
        """The question on paper, where no engine is seen."""
        return self.text(q)

    def hint(self, q: Asked) -> str:
        """What helps without answering."""
        return "Turn the crank and watch, then go back to where the question stands."

    def idea(self, q: Asked, given: Answer) -> str:
        """The wrong idea that leads to a wrong answer, or nothing."""
        return ""

    def wrong_words(self, q: Asked, given: Answer) -> str:
        """What the engine shows of a wrong answer; what is right follows."""
        return ""

    def slips(self, q: Asked) -> list[Answer]:
        """Wrong answers that people give: by the form, unless a drill knows them better."""
        return slips_of(self.form(q), self.form(q).read(self.answer(q)))

    def lines(self, q: Asked, given: Answer) -> tuple[Line, ...]:
        """A reason for each part of an answer of several parts."""
        return ()

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """The cylinders that a wrong answer is about."""
        return (q.cylinder,) if "cylinder" in q.ask else ()

    def show_deg(self, q: Asked, given: Answer) -> float | None:
        """Where the crank goes to show it; None where it stays."""
        return q.question.at_deg

    def judge(self, q: Asked, value: Answer) -> Judged:
        """Judge an answer. Raises `AnswerError` for one that is not in the form that is asked."""
        form = self.form(q)
        given, right = form.read(value), form.read(self.answer(q))
        marks, why, lines = form.marks(right, given), self.why(q), self.lines(q, given)
        if marks.is_full:
            return Judged(marks, "", why, lines)
        told = f"{self.wrong_words(q, given)} {why}".strip()
        shows = self.shows(q, given)
        return Judged(marks, self.idea(q, given), told, lines, shows, self.show_deg(q, given))
