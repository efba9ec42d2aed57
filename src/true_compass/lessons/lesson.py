"""A lesson: engines, and parts on them, in order. Guided parts are shown, the others are asked."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from true_compass.bench.scenario import Scenario
from true_compass.core.chance import share
from true_compass.core.engine import Engine
from true_compass.lessons.drill import AskError, Draw, Question
from true_compass.lessons.drills import Apart, drill_of, questions, rig_of
from true_compass.lessons.guide import Guided, LessonError, why_not
from true_compass.lessons.kinds.covered import ask_of, skill_of_task

MOST_PARTS: Final = 20
MOST_COUNT: Final = 100
MOST_ENGINES: Final = 12
MOST_SEED: Final = 999_999_999
FREE: Final = "drill "


@dataclass(frozen=True, slots=True)
class LessonEngine:
    """An engine of a lesson: its short name there, a full copy, and the demo rig it came from."""

    name: str
    engine: Engine
    rig: str = ""


@dataclass(frozen=True, slots=True)
class DrillPart:
    """Questions of some kinds on some engines, in turn."""

    title: str
    kinds: tuple[str, ...]
    engines: tuple[str, ...]
    count: int = 10
    hints: bool = True
    strokes: bool = True
    """Whether the strokes are shown on the engine."""


@dataclass(frozen=True, slots=True)
class CoveredPart:
    """One covered engine from a scenario."""

    title: str
    scenario: Scenario
    hints: bool = True

    @property
    def engine_name(self) -> str:
        """The name that its engine has in questions."""
        return f"covered: {self.scenario.engine.name}"


Part = Guided | DrillPart | CoveredPart


@dataclass(frozen=True, slots=True)
class Settings:
    """How it is given. `passed` marks of all pass it, 0 for no mark; `minutes` 0 is no time.

    With `same` every student gets one set, else each a set of their own; with `mixed` on engines in
    an order of their own as well.
    """

    passed: int = 0
    minutes: int = 0
    same: bool = False
    seed: int = 1
    mixed: bool = False


@dataclass(frozen=True, slots=True)
class Lesson:
    """A lesson. `id` is a word for those that ship, else a UUID; `purpose` says what it is for."""

    id: str
    title: str
    purpose: str
    engines: tuple[LessonEngine, ...]
    parts: tuple[Part, ...]
    settings: Settings = Settings()
    note: str = ""

    def engine(self, name: str) -> Engine:
        """An engine by its name in this lesson. Raises `LessonError`."""
        for known in self.engines:
            if known.name == name:
                return known.engine
        for part in self.parts:
            if isinstance(part, CoveredPart) and part.engine_name == name:
                return part.scenario.engine
        names = ", ".join(known.name for known in self.engines)
        raise LessonError(f"names the engine {name[:30]!r}, and it has {names or 'none'}")

    @property
    def is_free(self) -> bool:
        """Whether it is a drill that somebody chose, without end: no result of it is handed in."""
        return self.id.startswith(FREE)

    @property
    def asked_count(self) -> int:
        """How many questions it asks in its drills and on covered engines."""
        return sum(_count(part) for part in self.parts)


def _count(part: Part) -> int:
    if isinstance(part, DrillPart):
        return part.count
    return int(isinstance(part, CoveredPart))


def skills_of(lesson: Lesson) -> tuple[str, ...]:
    """The skills that a lesson drills, in the order in which it asks for them."""
    found: dict[str, None] = {}
    for part in lesson.parts:
        if isinstance(part, DrillPart):
            found.update(dict.fromkeys(drill_of(kind).skill for kind in part.kinds))
        elif isinstance(part, CoveredPart):
            found[skill_of_task(part.scenario.task)] = None
    return tuple(found)


@dataclass(frozen=True, slots=True)
class LessonQuestion:
    """A question of a lesson: its part (from 0), and its place in it (from 0)."""

    part: int
    nth: int
    question: Question
    hints: bool


def set_seed(lesson: Lesson, person: str, day: str) -> int:
    """The seed of a person's set on a day: another one each day, so that what was told of one shows
    nothing in the next. Of the lesson alone where all have the same.

    >>> from dataclasses import replace
    >>> blank = Lesson("x", "X", "", (), (), Settings(same=True, seed=7))
    >>> set_seed(blank, "a", "2026-09-14") == set_seed(blank, "b", "2026-09-15") == 7
    True
    """
    if lesson.settings.same or not person:
        return lesson.settings.seed
    return int(share(lesson.settings.seed, f"set/{person}/{day}") * MOST_SEED)


def asked_of(lesson: Lesson, seed: int, apart: Apart | None = None) -> list[LessonQuestion]:
    """All questions of a lesson from a seed, in order. Raises `LessonError` for a part that has
    none to ask. `apart` knows what other sets ask, as for `questions`.
    """
    found, mixed = [], lesson.settings.mixed
    for place, part in enumerate(lesson.parts):
        found += asked_in(part, place, engines_of(lesson, part), seed, mixed=mixed, apart=apart)
    return found


def engines_of(lesson: Lesson, part: Part) -> dict[str, Engine]:
    """The engines of a part by their names. Raises `LessonError` for one that is not there."""
    if isinstance(part, CoveredPart):
        return {part.engine_name: part.scenario.engine}
    names = (part.engine,) if isinstance(part, Guided) else part.engines
    return {name: lesson.engine(name) for name in names}


def asked_in(
    part: Part,
    place: int,
    engines: Mapping[str, Engine],
    seed: int,
    *,
    mixed: bool,
    apart: Apart | None = None,
) -> list[LessonQuestion]:
    """The questions of the part at a place, from the seed of its lesson. Raises as `asked_of`."""
    if isinstance(part, Guided):
        return []
    if isinstance(part, CoveredPart):
        question = Question("covered", part.engine_name, ask_of(part.scenario))
        return [LessonQuestion(place, 0, question, part.hints)]
    own = Draw(seed, place).whole("part", 0, MOST_SEED)
    try:
        drawn = questions(part.kinds, engines, own, part.count, mixed=mixed, apart=apart)
    except AskError as error:
        raise LessonError(f"part {place + 1}: {error}") from None
    return [LessonQuestion(place, nth, q, part.hints) for nth, q in enumerate(drawn)]


@dataclass(frozen=True, slots=True)
class PartProblem:
    """What is wrong with a part (from 0), and the ways out: other engines that can."""

    part: int
    sentence: str
    could: tuple[str, ...] = ()


def problems_of(lesson: Lesson, others: Mapping[str, Engine]) -> list[PartProblem]:
    """What keeps a lesson from being given, part by part; `others` are engines to offer instead."""
    found = []
    for place, part in enumerate(lesson.parts):
        sentence = _part_problem(lesson, part)
        if sentence:
            could = tuple(name for name, engine in others.items() if _would_do(part, engine))
            found.append(PartProblem(place, sentence, could[:3]))
    return found


def _part_problem(lesson: Lesson, part: Part) -> str:
    try:
        if isinstance(part, Guided):
            return why_not(rig_of(lesson.engine(part.engine)), part)
        if isinstance(part, CoveredPart):
            return ""
        for name in part.engines:
            engine = lesson.engine(name)
            for kind in part.kinds:
                missing = drill_of(kind).missing(rig_of(engine))
                if missing:
                    return f"{engine.name} {missing}"
    except (LessonError, AskError) as error:
        return str(error)
    return "" if part.engines else "It has no engine"


def _would_do(part: Part, engine: Engine) -> bool:
    rig = rig_of(engine)
    if isinstance(part, Guided):
        return not why_not(rig, part)
    if isinstance(part, CoveredPart):
        return False
    return not any(drill_of(kind).missing(rig) for kind in part.kinds)
