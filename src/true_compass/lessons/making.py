"""A lesson that is being made: parts added, moved and changed, and what is checked before it goes
out.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from true_compass.bench.scenario import Scenario
from true_compass.core.engine import Engine
from true_compass.core.ideas import IDEAS
from true_compass.core.words import counted
from true_compass.lessons.drill import Asked, AskError
from true_compass.lessons.drills import drill_of, rig_of
from true_compass.lessons.forms import AnswerError
from true_compass.lessons.guide import Guided, LessonError
from true_compass.lessons.kinds.covered import Deeds
from true_compass.lessons.lesson import (
    FREE,
    MOST_COUNT,
    MOST_PARTS,
    CoveredPart,
    DrillPart,
    Lesson,
    LessonEngine,
    Part,
    PartProblem,
    Settings,
    asked_in,
    engines_of,
    problems_of,
)

SETS_TRIED = 20
SETS_OF_IDEAS = 3
"""In how many of these the wrong ideas are looked for as well."""
SLUGS = frozenset(idea.slug for idea in IDEAS)
USUAL_COUNT = 6
FREE_COUNT = 10


def blank(lesson_id: str) -> Lesson:
    """A lesson without parts."""
    return Lesson(lesson_id, "New lesson", "", (), (), Settings())


def with_engine(lesson: Lesson, name: str, engine: Engine, rig: str = "") -> Lesson:
    """The lesson with an engine more, if it has none of that name."""
    if any(one.name == name for one in lesson.engines):
        return lesson
    return replace(lesson, engines=(*lesson.engines, LessonEngine(name, engine, rig)))


def with_part(lesson: Lesson, part: Part) -> Lesson:
    """The lesson with a part more at its end. Raises `LessonError` where it is full."""
    if len(lesson.parts) >= MOST_PARTS:
        raise LessonError(f"has {MOST_PARTS} parts, and that is the most: drop one first")
    return replace(lesson, parts=(*lesson.parts, part))


def drill_part(kind: str, engine: str) -> DrillPart:
    """A drill of one kind on one engine."""
    return DrillPart(drill_of(kind).title, (kind,), (engine,), USUAL_COUNT)


def free_drill(kinds: Sequence[str], title: str, engine: Engine, seed: int) -> Lesson:
    """Ten questions of some kinds on one engine; the next ten come with another seed."""
    name = engine.name
    part = DrillPart(title, tuple(kinds), (name,), FREE_COUNT)
    return Lesson(
        FREE + ",".join(kinds),
        title,
        "",
        (LessonEngine(name, engine),),
        (part,),
        Settings(same=True, seed=seed),
    )


def covered_part(scenario: Scenario) -> CoveredPart:
    """A covered engine."""
    return CoveredPart(scenario.shown_title, scenario)


def guided_of(source: Lesson) -> Guided | None:
    """The guided part of a lesson."""
    return next((part for part in source.parts if isinstance(part, Guided)), None)


def changed(lesson: Lesson, place: int, part: Part) -> Lesson:
    """The lesson with another part at a place."""
    parts = list(lesson.parts)
    parts[place] = part
    return replace(lesson, parts=tuple(parts))


def dropped(lesson: Lesson, place: int) -> Lesson:
    """The lesson without the part at a place; engines that nothing asks about go too."""
    parts = lesson.parts[:place] + lesson.parts[place + 1 :]
    return tidied(replace(lesson, parts=parts))


def tidied(lesson: Lesson) -> Lesson:
    """The lesson without engines that no part names."""
    named: set[str] = set()
    for part in lesson.parts:
        if isinstance(part, Guided):
            named.add(part.engine)
        elif isinstance(part, DrillPart):
            named.update(part.engines)
    return replace(lesson, engines=tuple(one for one in lesson.engines if one.name in named))


def moved(lesson: Lesson, place: int, by: int) -> tuple[Lesson, int]:
    """The lesson with a part further up or down, and where the part is then."""
    goal = min(max(place + by, 0), len(lesson.parts) - 1)
    parts = list(lesson.parts)
    parts.insert(goal, parts.pop(place))
    return replace(lesson, parts=tuple(parts)), goal


def counted_part(part: DrillPart, by: int) -> DrillPart:
    """The drill with more or fewer questions."""
    return replace(part, count=min(max(part.count + by, 1), MOST_COUNT))


def with_engine_toggled(part: DrillPart, name: str) -> DrillPart:
    """The drill with an engine more, or without it; the last one stays."""
    if name not in part.engines:
        return replace(part, engines=(*part.engines, name))
    left = tuple(one for one in part.engines if one != name)
    return replace(part, engines=left or part.engines)


@dataclass(frozen=True, slots=True)
class Checked:
    """What was checked before a lesson goes out: sentences that hold, and what does not."""

    good: tuple[str, ...]
    bad: tuple[PartProblem, ...]

    @property
    def can_go_out(self) -> bool:
        """Whether it may be handed out."""
        return not self.bad


def checked(lesson: Lesson, others: Mapping[str, Engine]) -> Checked:
    """Check a lesson: engines, answers of many sets, wrong ideas that it provokes."""
    bad = problems_of(lesson, others)
    if not lesson.parts:
        return Checked((), (PartProblem(0, "It has no part yet: add one"),))
    good = [f"{counted(len(lesson.engines), 'engine')} copied into the lesson file."]
    if bad:
        return Checked(tuple(good), tuple(bad))
    tried = 0
    provoked: set[str] = set()
    for place, part in enumerate(lesson.parts):
        if isinstance(part, Guided):
            continue
        try:
            engines = tuple(engines_of(lesson, part).items())
            found = _tried(part, place, engines, lesson.settings.seed, lesson.settings.mixed)
        except (LessonError, AskError) as error:
            return Checked(tuple(good), (PartProblem(place, str(error)),))
        if found.problem:
            return Checked(tuple(good), (PartProblem(place, found.problem),))
        tried += found.count
        provoked |= found.ideas
    if tried:
        good.append(
            f"Every question is judged from the engine: {tried} tried, each has one answer."
        )
    if provoked:
        good.append(f"It provokes {counted(len(provoked), 'wrong idea')} of {len(IDEAS)}.")
    return Checked(tuple(good), ())


@dataclass(frozen=True, slots=True)
class _Tried:
    """What came of answering the questions of a part: how many, the first that could not be
    answered, and the wrong ideas that they can bring out.
    """

    count: int
    problem: str
    ideas: frozenset[str]


@lru_cache(maxsize=8 * MOST_PARTS)
def _tried(
    part: DrillPart | CoveredPart,
    place: int,
    engines: tuple[tuple[str, Engine], ...],
    seed: int,
    mixed: bool,
) -> _Tried:
    """Answer the lesson's own set of a part, and many more. Kept, so that a change of one part
    tries only that one again.
    """
    rigs = {name: rig_of(engine) for name, engine in engines}
    count = 0
    ideas: set[str] = set()
    for nth, own in enumerate(dict.fromkeys((seed, *range(1, SETS_TRIED + 1)))):
        for one in asked_in(part, place, dict(engines), own, mixed=mixed):
            q = Asked(rigs[one.question.engine], one.question)
            problem = _cannot_be_answered(q)
            if problem:
                return _Tried(count, problem, frozenset(ideas))
            count += 1
            if nth < SETS_OF_IDEAS:
                ideas |= _ideas_of(q)
    return _Tried(count, "", frozenset(ideas))


def _cannot_be_answered(q: Asked) -> str:
    """Why a question cannot be answered, by answering it; empty where it can."""
    drill = drill_of(q.question.kind)
    try:
        if isinstance(drill.form(q), Deeds):
            drill.text(q)
            return ""
        if drill.judge(q, drill.answer(q)).is_right:
            return ""
        told = "what the engine answers is not taken as right"
    except (LessonError, AskError, AnswerError) as error:
        told = str(error)
    return f"{drill.title} on {q.question.engine} cannot be answered: {told}"


def _ideas_of(q: Asked) -> set[str]:
    """The wrong ideas that a question can bring out."""
    drill = drill_of(q.question.kind)
    form = drill.form(q)
    if isinstance(form, Deeds):
        return set()
    right = form.read(drill.answer(q))
    slips = map(form.read, drill.slips(q))
    wrong = [given for given in slips if not form.marks(right, given).is_full]
    return {drill.idea(q, given) for given in wrong} & SLUGS
