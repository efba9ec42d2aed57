"""What a person answers in a lesson: an answer as it is kept, and a run as it stands."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Final

from true_compass.core.chained import compact, mark_of
from true_compass.lessons.drill import Asked, AskError, Question, plain
from true_compass.lessons.drills import drill_of, judge, question_from, rig_of
from true_compass.lessons.forms import Answer, AnswerError
from true_compass.lessons.kinds.covered import kind_of
from true_compass.lessons.lesson import Lesson
from true_compass.lessons.mastery import Shown

FIRST_YEAR: Final = 1990
LAST_YEAR: Final = 9000
MOST_ASKED: Final = 200
"""A question of more letters than this is told from others by a hash."""


@dataclass(frozen=True, slots=True)
class Given:
    """One answer: where in its lesson, what was asked, what was said, and how it was judged.

    `at` is UTC, `day` the local date; `aided` that a hint was looked at. `credit` and `idea` are as
    judged then: whoever reads a file judges again.
    """

    part: int
    nth: int
    question: Question
    answer: Answer
    aided: bool
    at: datetime
    day: str
    credit: float
    idea: str = ""

    @property
    def right(self) -> bool:
        """Full credit."""
        return self.credit >= 1.0 - 1e-9

    def record(self) -> dict[str, Any]:
        """As a line of a result has it."""
        return {
            "part": self.part,
            "nth": self.nth,
            "question": self.question.record(),
            "answer": plain(self.answer),
            "aided": self.aided,
            "at": self.at.isoformat(timespec="seconds"),
            "day": self.day,
            "credit": self.credit,
            "idea": self.idea,
        }


class GivenError(ValueError):
    """An answer of a file that cannot be one, as the end of a sentence."""


def given_from(values: Mapping[str, Any]) -> Given:
    """An answer from a line of a result. Raises `GivenError`."""
    try:
        at = datetime.fromisoformat(str(values["at"]))
        part, nth = int(values["part"]), int(values["nth"])
        credit = float(values["credit"])
        question, answer = question_from(values["question"]), values["answer"]
        day, aided, idea = str(values["day"]), values["aided"], str(values["idea"])
    except (KeyError, TypeError, ValueError, OverflowError) as error:
        raise GivenError(f"has an answer that is none ({str(error)[:80]})") from None
    whole = 0 <= part < 1000 and 0 <= nth < 100_000 and 0.0 <= credit <= 1.0
    # Other years have no place in every zone.
    dated = at.tzinfo is not None and FIRST_YEAR <= at.year <= LAST_YEAR
    if not dated or not whole or not isinstance(aided, bool):
        raise GivenError("has an answer that is none")
    return Given(part, nth, question, answer, aided, at, day[:10], credit, idea[:40])


def judged_again(lesson: Lesson, given: Given) -> Given:
    """The same answer with what the engine says of it now. Raises `GivenError`."""
    try:
        engine = lesson.engine(given.question.engine)
        judged = judge(engine, given.question, given.answer)
    except (AskError, AnswerError, ValueError) as error:
        raise GivenError(f"has an answer that cannot be judged ({str(error)[:80]})") from None
    return replace(given, credit=judged.credit, idea=judged.idea)


def asked_text(question: Question) -> str:
    """What tells a question from every other one: what it asks; of a long one a hash of it."""
    text = json.dumps(question.record(), ensure_ascii=False)
    return text if len(text) <= MOST_ASKED else mark_of("", compact(question.record()))


def shown_by(lesson: Lesson, given: Given) -> Shown:
    """An answer as far as mastery goes."""
    engine, question = lesson.engine(given.question.engine), given.question
    drill, q = drill_of(question.kind), Asked(rig_of(engine), question)
    return Shown(
        skill=drill.skill_of(q),
        kind=kind_of(q),
        choices=drill.choices(q),
        engine=engine.name,
        layout=engine.layout_words,
        at=given.at,
        day=given.day,
        right=given.right,
        aided=given.aided,
        asked=asked_text(question),
        place=f"{lesson.id}/{given.part}/{given.nth}",
    )


def firsts_of(given: Sequence[Given]) -> list[Given]:
    """The first answer at each question."""
    found: dict[tuple[int, int], Given] = {}
    for one in given:
        found.setdefault((one.part, one.nth), one)
    return list(found.values())
