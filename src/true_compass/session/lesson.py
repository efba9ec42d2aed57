"""The slice of a lesson: where a person is in it, what is being answered, and what was said so far.

Everything is a value: each step gives the next one. Nothing of it is undone, as at the bench.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import Enum

from true_compass.bench.scenario import Scenario
from true_compass.core.engine import Engine
from true_compass.core.state import Rig
from true_compass.lessons.drill import Asked, Drill, Judged, Question
from true_compass.lessons.drills import drill_of, judge, rig_of
from true_compass.lessons.forms import Answer, AnswerError, Form, Slots, TwoLists
from true_compass.lessons.guide import Guided, Shown, shown_on
from true_compass.lessons.kinds.covered import Covered
from true_compass.lessons.lesson import Lesson, asked_of
from true_compass.lessons.result import Person
from true_compass.lessons.work import Given, firsts_of


class Station(Enum):
    """What kind of place in a lesson."""

    STEP = "step"
    QUESTION = "question"


@dataclass(frozen=True, slots=True)
class Stop:
    """One place in a lesson: a step of a guided part, or a question."""

    station: Station
    part: int
    nth: int
    question: Question | None = None
    hints: bool = True


def stops_of(lesson: Lesson, seed: int, engine: Engine | None = None) -> tuple[Stop, ...]:
    """Every place of a lesson in order. Guided parts are given on `engine`, if one is named."""
    asked = asked_of(lesson, seed)
    found: list[Stop] = []
    for place, part in enumerate(lesson.parts):
        if isinstance(part, Guided):
            shown = engine or lesson.engine(part.engine)
            for nth in range(len(part.steps)):
                question = shown_on(rig_of(shown), part, nth, part.engine).question
                found.append(Stop(Station.STEP, place, nth, question))
        found += [
            Stop(Station.QUESTION, place, one.nth, one.question, one.hints)
            for one in asked
            if one.part == place
        ]
    return tuple(found)


@dataclass(frozen=True, slots=True)
class OnLesson:
    """A lesson that is being worked through.

    `entry` is what has been entered of the answer, `judged` what the engine said to it, None until
    then. `aided` tells that a hint was looked at here; `tries` are wrong answers given here. With
    `practice` nothing is kept. `engine` is another engine than the guided part's own, if chosen.
    """

    lesson: Lesson
    person: Person
    seed: int
    stops: tuple[Stop, ...]
    place: int = 0
    given: tuple[Given, ...] = ()
    entry: Answer = None
    judged: Judged | None = None
    aided: bool = False
    practice: bool = False
    engine: Engine | None = None
    folder: str = ""
    """Where its file lies, if it was handed out: the result is left there too."""
    until: datetime | None = None
    """When no more answers are taken: `minutes` from the first question on; None for no limit."""
    timed_out: bool = False

    @staticmethod
    def begin(
        lesson: Lesson,
        person: Person,
        seed: int,
        *,
        practice: bool = False,
        engine: Engine | None = None,
        folder: str = "",
    ) -> "OnLesson":
        """A lesson at its first place. Raises `LessonError` for one that cannot be given."""
        stops = stops_of(lesson, seed, engine)
        on = OnLesson(lesson, person, seed, stops, practice=practice, engine=engine, folder=folder)
        return on.at(0)

    # Where it stands --------------------------------------------------------------------------

    @property
    def over(self) -> bool:
        """Whether every place is behind."""
        return self.place >= len(self.stops)

    @property
    def stop(self) -> Stop:
        """The place it stands at."""
        return self.stops[min(self.place, len(self.stops) - 1)]

    @property
    def question(self) -> Question | None:
        """What is asked here, if anything is."""
        return None if self.over else self.stop.question

    @property
    def rig(self) -> Rig:
        """The engine here."""
        part = self.lesson.parts[self.stop.part]
        if isinstance(part, Guided):
            return rig_of(self.engine or self.lesson.engine(part.engine))
        assert self.stop.question is not None
        return rig_of(self.lesson.engine(self.stop.question.engine))

    @property
    def shown(self) -> Shown | None:
        """The guided step here, as it is given on the engine."""
        if self.over or self.stop.station is not Station.STEP:
            return None
        part = self.lesson.parts[self.stop.part]
        assert isinstance(part, Guided)
        return shown_on(self.rig, part, self.stop.nth, part.engine)

    @property
    def asked(self) -> Asked:
        """The question on its engine."""
        assert self.question is not None
        return Asked(self.rig, self.question)

    @property
    def drill(self) -> Drill:
        """The kind of question here."""
        assert self.question is not None
        return drill_of(self.question.kind)

    @property
    def form(self) -> Form:
        """How the answer is given here."""
        return self.drill.form(self.asked)

    @property
    def scenario(self) -> Scenario | None:
        """What the question here puts on the bench, if it is done there. Raises `AskError`."""
        if self.question is None or not isinstance(self.drill, Covered):
            return None
        return self.drill.scenario(self.asked)

    @property
    def crank_deg(self) -> float | None:
        """Where the crank goes when one comes here, or None where it stays."""
        shown = self.shown
        if shown is not None:
            return shown.crank_deg
        return None if self.question is None else self.question.at_deg

    @property
    def can_answer(self) -> bool:
        """Whether what was entered is an answer."""
        if self.question is None or self.judged is not None:
            return False
        try:
            self.form.read(self.entry)
        except AnswerError:
            return False
        return not (isinstance(self.form, Slots) and not any(self.entry))

    # In this part -----------------------------------------------------------------------------

    @property
    def in_part(self) -> tuple[Stop, ...]:
        """The places of the part it stands in."""
        return tuple(stop for stop in self.stops if stop.part == self.stop.part)

    @property
    def nth_in_part(self) -> int:
        """Its place there, from 0."""
        return self.in_part.index(self.stop)

    @property
    def nth_asked(self) -> int:
        """The number of the question that it stands at, over all parts; in a guided part that of
        the next one."""
        asked = [stop.station is Station.QUESTION for stop in self.stops[: self.place + 1]]
        return min(max(sum(asked), 1), max(self.lesson.asked_count, 1))

    def done_at(self, stop: Stop) -> Given | None:
        """The last answer that was given at a place."""
        here = [one for one in self.given if (one.part, one.nth) == (stop.part, stop.nth)]
        return here[-1] if here else None

    @property
    def aided_so_far(self) -> int:
        """How many answers had a hint."""
        return sum(one.aided for one in self.given)

    @property
    def marks(self) -> float:
        """Marks so far: full and part credit of the first answer at each question."""
        return sum(one.credit for one in firsts_of(self.given))

    # Going on ---------------------------------------------------------------------------------

    def at(self, place: int) -> "OnLesson":
        """The lesson at another place, nothing entered there."""
        on = replace(self, place=place, entry=None, judged=None, aided=False)
        return on if on.question is None else replace(on, entry=blank_entry(on.form))

    def timed(self, now: datetime) -> "OnLesson":
        """The clock started, if the first question is there and the lesson has a time.

        Where it was left, the time counts from the first answer.
        """
        minutes = self.lesson.settings.minutes
        if not minutes or self.until is not None or self.over:
            return self
        if self.stop.station is not Station.QUESTION:
            return self
        start = min(self.given[0].at, now) if self.given else now
        return replace(self, until=start + timedelta(minutes=minutes))

    def left_s(self, now: datetime) -> int | None:
        """Whole seconds that are left, or None without a limit."""
        if self.until is None or self.over:
            return None
        return max(0, int((self.until - now).total_seconds()))

    def ended(self) -> "OnLesson":
        """The time is up: over, with what was answered."""
        return replace(self.at(len(self.stops)), timed_out=True)

    def going_on(self, given: Sequence[Given]) -> "OnLesson":
        """The lesson where it was left: behind the last question that was answered before."""
        known = {(one.part, one.nth) for one in given}
        places = [
            place
            for place, stop in enumerate(self.stops)
            if stop.station is Station.QUESTION and (stop.part, stop.nth) in known
        ]
        on = replace(self, given=tuple(given))
        if not places or places[-1] + 1 >= len(self.stops):
            return on
        return on.at(places[-1] + 1)

    def entering(self, entry: Answer) -> "OnLesson":
        """With something entered; after judging nothing changes."""
        return self if self.judged is not None else replace(self, entry=entry)

    def hinted(self) -> "OnLesson":
        """With the hint looked at."""
        return self if self.judged is not None else replace(self, aided=True)

    def answered(self, now: datetime, day: str) -> "OnLesson":
        """Judged as entered. A guided step keeps no record. Raises `AnswerError`."""
        assert self.question is not None
        judged = judge(self.rig.engine, self.question, self.entry)
        on = replace(self, judged=judged)
        if self.stop.station is Station.STEP:
            return on
        given = Given(
            self.stop.part,
            self.stop.nth,
            self.question,
            self.entry,
            self.aided,
            now,
            day,
            judged.credit,
            judged.idea,
        )
        return replace(on, given=(*self.given, given))

    def again(self) -> "OnLesson":
        """The same question once more; it counts as aided, since the answer was told."""
        return replace(self.at(self.place), aided=True)


def blank_entry(form: Form) -> Answer:
    """What is entered before anything is; None where one answer is chosen or typed, or something is
    ticked: that none belongs is an answer too, and is said."""
    if isinstance(form, TwoLists):
        return ((), ())
    if isinstance(form, Slots):
        return form.given
    return None
