"""Results made for tests: who answered what, rightly or wrongly, as a chained log."""

from datetime import UTC, datetime, timedelta

from true_compass.files.lesson_file import lesson_digest, lesson_text
from true_compass.lessons.lesson import Lesson
from true_compass.lessons.result import Header, Person, chained
from true_compass.lessons.work import Given
from true_compass.session.lesson import OnLesson, Station

NOW = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)


def person(nth: int, name: str) -> Person:
    return Person(f"00000000-0000-4000-8000-{nth:012d}", name)


def answers(lesson: Lesson, who: Person, right: float = 1.0, day: int = 0) -> list[Given]:
    """A person answers all questions, the first share of them rightly, the others wrongly. Each day
    has a set of its own.
    """
    on = OnLesson.begin(lesson, who, 7 + day)
    stops = [n for n, stop in enumerate(on.stops) if stop.station is Station.QUESTION]
    for nth, place in enumerate(stops):
        on = on.at(place)
        good = on.form.read(on.drill.answer(on.asked))
        if nth >= right * len(stops):
            form = on.form
            slips = map(form.read, on.drill.slips(on.asked))
            good = next(slip for slip in slips if not form.marks(good, slip).is_full)
        at = NOW + timedelta(days=day, minutes=nth)
        on = on.entering(good).answered(at, at.date().isoformat())
    return list(on.given)


def result_text(lesson: Lesson, who: Person, given: list[Given], nth: int = 0) -> str:
    """The text of a result file; `nth` tells results apart."""
    header = Header(
        f"6f1de5b0-7a6f-4b0c-9f6e-{nth:012d}",
        lesson.id,
        lesson_digest(lesson),
        lesson.title,
        lesson_text(lesson),
        who,
        7,
        "0.1.0",
    )
    lines = [header.line()]
    for one in given:
        lines.append(chained(lines[-1], one))
    return "".join(f"{line}\n" for line in lines)
