"""A class that never was: fourteen invented people, what they answered on two days, as files."""

from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from true_compass.core.chance import share
from true_compass.files.course import shipped_lesson
from true_compass.files.lesson_file import lesson_digest, lesson_text
from true_compass.lessons.drill import Asked
from true_compass.lessons.drills import drill_of, judge, rig_of
from true_compass.lessons.forms import Answer
from true_compass.lessons.lesson import Lesson, LessonQuestion, asked_of, set_seed
from true_compass.lessons.result import SUFFIX, Header, Person, chained
from true_compass.lessons.work import Given

KNOWS: Final = {
    "Aled": 80,
    "Bina": 70,
    "Carl": 90,
    "Dora": 60,
    "Edda": 75,
    "Finn": 70,
    "Gita": 60,
    "Hugo": 20,
    "Ines": 97,
    "Jon": 80,
    "Kaya": 50,
    "Leo": 65,
    "Mira": 60,
    "Ned": 85,
}
"""How much of a hundred each gets right."""
LESSONS: Final = (
    "four-strokes",
    "two-turns",
    "two-tdcs",
    "companions",
    "fires-next",
    "rotor-leads",
    "valves-here",
    "two-stop-table",
    "ramps-lash",
)
DAYS: Final = 3
FIRST_DAY: Final = datetime(2026, 11, 2, 9, tzinfo=UTC)


def write_class(folder: Path) -> None:
    """Leave the result of every lesson and person in a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    for nth, (name, knows) in enumerate(KNOWS.items(), start=1):
        who = Person(f"00000000-0000-4000-8000-{nth:012d}", name)
        for place, word in enumerate(LESSONS):
            for day in range(DAYS):
                of = nth, place, day
                lines = _lines(shipped_lesson(word), who, knows / 100, of)
                path = folder / f"{word}-{name.lower()}-{day + 1}{SUFFIX}"
                path.write_text("".join(f"{line}\n" for line in lines), encoding="utf-8")


def _lines(lesson: Lesson, who: Person, knows: float, of: tuple[int, int, int]) -> list[str]:
    """The result of a person (from 1), a lesson and a day (from 0): each day a set of its own."""
    number, place, day = of
    first = FIRST_DAY + timedelta(days=7 * day, hours=place)
    seed = set_seed(lesson, who.id, first.date().isoformat())
    header = Header(
        f"{number:08d}-0000-4000-8000-{100 * day + place:012d}",
        lesson.id,
        lesson_digest(lesson),
        lesson.title,
        lesson_text(lesson),
        who,
        seed,
        "0.1.0",
    )
    lines = [header.line()]
    for nth, one in enumerate(asked_of(lesson, seed)):
        name = f"{who.name}/{lesson.id}/{day}/{nth}"
        if share(seed, f"{name}/comes") > knows + 0.35:
            continue
        if drill_of(one.question.kind).slug.startswith("covered"):
            continue
        given, at = _given(lesson, one, share(seed, name) < knows), first + timedelta(minutes=nth)
        lines.append(chained(lines[-1], _judged(lesson, one, given, at)))
    return lines


def _given(lesson: Lesson, one: LessonQuestion, right: bool) -> Answer:
    """A right answer, or one that comes of a wrong idea."""
    asked = Asked(rig_of(lesson.engine(one.question.engine)), one.question)
    drill = drill_of(one.question.kind)
    form = drill.form(asked)
    good = form.read(drill.answer(asked))
    if right:
        return good
    slips = [form.read(slip) for slip in drill.slips(asked)]
    wrong = [slip for slip in slips if not form.marks(good, slip).is_full]
    named = [slip for slip in wrong if drill.idea(asked, slip)]
    return next(iter(named or wrong), good)


def _judged(lesson: Lesson, one: LessonQuestion, given: Answer, at: datetime) -> Given:
    judged = judge(lesson.engine(one.question.engine), one.question, given)
    day = at.date().isoformat()
    return Given(one.part, one.nth, one.question, given, False, at, day, judged.credit, judged.idea)
