"""What a class can do: results judged again, who × skill, and which question misled most."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import pairwise
from typing import Final

from true_compass.core.ideas import BY_SLUG as IDEAS
from true_compass.lessons.drills import drill_of
from true_compass.lessons.lesson import Lesson
from true_compass.lessons.mastery import Mastery, Shown, Standing, mastery_of
from true_compass.lessons.result import Person, Result, together
from true_compass.lessons.skills import SKILLS
from true_compass.lessons.work import Given, GivenError, firsts_of, judged_again, shown_by

Known = Mapping[str, frozenset[str]]
"""Digests of lessons, by the id of the lesson."""
LEAST_FOR_STATISTICS: Final = 4
"""Fewer people than this say nothing about a question."""


@dataclass(frozen=True, slots=True)
class Sheet:
    """One result, judged again. `differs` counts answers that the file has judged otherwise.

    `shown` is what each answer shows. `also` are other files that hold answers of the same set: two
    windows write two. `is_other` tells that it holds another lesson than the class has under this
    id, `shares` whose result or name has the same id as this one.
    """

    name: str
    result: Result
    lesson: Lesson
    given: tuple[Given, ...]
    differs: int
    shown: tuple[Shown, ...] = ()
    also: tuple[str, ...] = ()
    is_other: bool = False
    shares: str = ""

    @property
    def person(self) -> Person:
        """Who it is of."""
        return self.result.header.person

    @property
    def answered(self) -> int:
        """How many of the lesson's questions have an answer."""
        return len(firsts_of(self.given))

    @property
    def finished(self) -> bool:
        """Whether every question has one."""
        return self.answered >= self.lesson.asked_count

    @property
    def marks(self) -> float:
        """Marks: the first answer to each question counts."""
        return sum(given.credit for given in firsts_of(self.given))

    @property
    def passed(self) -> bool | None:
        """Whether it passes; None where the lesson has no pass mark, or it is not finished."""
        needed = self.lesson.settings.passed
        if not needed or not self.finished or self.is_other:
            return None
        return self.marks >= needed - 1e-9

    @property
    def state(self) -> str:
        """How it stands, in a few words: `passed`, `not passed`, `finished`, `not finished`, or
        `another lesson`.
        """
        if self.is_other:
            return "another lesson"
        if not self.finished:
            return "not finished"
        return {None: "finished", True: "passed", False: "not passed"}[self.passed]

    @property
    def at(self) -> datetime | None:
        """When its last answer was given."""
        return self.result.given[-1].at if self.result.given else None

    @property
    def trouble(self) -> str:
        """What is to be said of the file, or of all that are one set; nothing where all is well."""
        told = self._trouble
        return f"(with {', '.join(self.also)}) {told}" if told and self.also else told

    @property
    def _trouble(self) -> str:
        if self.result.altered:
            return f"was altered: line {self.result.altered} does not follow; read up to there"
        if self.shares:
            return f"has the id of what {self.shares} handed in: one was copied from the other"
        if self.is_other:
            return "answers another lesson that has this one's id: it neither passes nor fails"
        if self.differs:
            return f"{self.differs} answers judge otherwise than the file says: the engine counts"
        if self.went_back:
            return f"the clock went back before answer {self.went_back}: its days are not sure"
        return "its last line was cut off and is left out" if self.result.torn else ""

    @property
    def went_back(self) -> int:
        """The first answer (from 1) that is dated before the one before it, or 0."""
        times = [given.at for given in self.result.given]
        pairs = enumerate(pairwise(times), start=2)
        return next((nth for nth, (before, at) in pairs if at < before), 0)


def sheet_of(name: str, result: Result, lesson: Lesson) -> Sheet:
    """A result with every answer judged again from the engine; what cannot be is left out."""
    again: list[Given] = []
    differs = 0
    for given in result.given:
        try:
            judged = judged_again(lesson, given)
        except GivenError:
            differs += 1
            continue
        differs += abs(judged.credit - given.credit) > 1e-6
        again.append(judged)
    shown = tuple(shown_by(lesson, given) for given in again)
    return Sheet(name, result, lesson, tuple(again), differs, shown)


def one_each(sheets: Iterable[Sheet], known: Known | None = None) -> list[Sheet]:
    """One sheet for each set of a person, of all files that hold answers of it.

    An altered file stands alone. Whoever hands in under an id of somebody else is told, and nobody
    takes another's place. `known` are the digests of the class's own lessons, by id.
    """
    groups: dict[tuple[object, ...], list[Sheet]] = {}
    for sheet in sheets:
        header, mark = sheet.result.header, sheet.result.mark
        alone = (header.id, mark) if sheet.result.altered else ()
        key = (*_who(sheet), header.lesson_id, header.lesson_digest, header.seed, *alone)
        groups.setdefault(key, []).append(sheet)
    found = [_as_one(group) for group in groups.values()]
    named: dict[str, dict[tuple[str, str], str]] = {}
    for sheet in found:
        for an_id in {sheet.person.id, sheet.result.header.id}:
            named.setdefault(an_id, {})[_who(sheet)] = sheet.person.shown
    return [_marked(sheet, named, known or {}) for sheet in found]


def _who(sheet: Sheet) -> tuple[str, str]:
    return sheet.person.id, sheet.person.name.casefold()


def _as_one(group: Sequence[Sheet]) -> Sheet:
    group = sorted(group, key=lambda sheet: len(sheet.given), reverse=True)
    most = group[0]
    merged = together([sheet.result for sheet in group])
    if len(merged) == len(most.result.given):
        return most
    result = replace(most.result, given=merged, torn=any(s.result.torn for s in group))
    made = sheet_of(most.name, result, most.lesson)
    return replace(made, also=tuple(sheet.name for sheet in group[1:]))


def _marked(
    sheet: Sheet, named: Mapping[str, Mapping[tuple[str, str], str]], known: Known
) -> Sheet:
    header = sheet.result.header
    others = {
        name
        for an_id in (sheet.person.id, header.id)
        for who, name in named[an_id].items()
        if who != _who(sheet)
    }
    own = known.get(header.lesson_id)
    is_other = own is not None and header.lesson_digest not in own
    if not others and not is_other:
        return sheet
    return replace(sheet, shares=" and ".join(sorted(others)), is_other=is_other)


@dataclass(frozen=True, slots=True)
class Student:
    """One person of a class, with all that was handed in. `label` tells one name's people apart."""

    person: Person
    label: str
    sheets: tuple[Sheet, ...]
    skills: dict[str, Mastery]

    @property
    def secure(self) -> tuple[str, ...]:
        """Skills in which this person is secure, in the order of the catalogue."""
        return tuple(slug for slug, m in self.skills.items() if m.standing is Standing.SECURE)

    @property
    def answers(self) -> int:
        """How many answers there are."""
        return sum(len(sheet.given) for sheet in self.sheets)


@dataclass(frozen=True, slots=True)
class Item:
    """One question of a lesson as a class answered it.

    `p` is the mean credit, `tells` how well it tells who knows: the correlation of its credit with
    the rest of the marks (point-biserial where credit is all or nothing), None where it cannot be.
    """

    part: int
    nth: int
    title: str
    right: int
    ideas: tuple[tuple[str, int], ...]
    other: int
    p: float
    tells: float | None

    @property
    def misled(self) -> int:
        """How many were misled by the commonest wrong idea."""
        return self.ideas[0][1] if self.ideas else 0

    @property
    def said(self) -> str:
        """What misled most, in words."""
        return IDEAS[self.ideas[0][0]].title if self.ideas else ""


@dataclass(frozen=True, slots=True)
class ClassSheet:
    """A class: its people, and the questions of one lesson, what misled most first."""

    students: tuple[Student, ...]
    items: tuple[Item, ...]
    lesson: Lesson | None

    def count(self, skill: str, *standings: Standing) -> int:
        """How many stand so with a skill."""
        return sum(student.skills[skill].standing in standings for student in self.students)

    @property
    def handed_in(self) -> list[tuple[Student, Sheet]]:
        """Who handed in what: by lesson, then by name."""
        rows = [(student, sheet) for student in self.students for sheet in student.sheets]
        return sorted(rows, key=lambda row: (row[1].lesson.title, row[0].label.casefold()))

    @property
    def teach_next(self) -> str:
        """The skill that most have to practise; of equals the earlier one. Or nothing."""
        most = max(SKILLS, key=lambda skill: self.count(skill.slug, Standing.PRACTICE))
        return most.slug if self.count(most.slug, Standing.PRACTICE) else ""


def class_of(sheets: Sequence[Sheet], now: datetime, lesson_id: str = "") -> ClassSheet:
    """A class from what was handed in. Questions are those of `lesson_id`, or of the lesson with
    the most answers.
    """
    by_person: dict[tuple[str, str], list[Sheet]] = {}
    for sheet in sheets:
        by_person.setdefault(_who(sheet), []).append(sheet)
    named = Counter(group[0].person.shown.casefold() for group in by_person.values())
    students = []
    for group in by_person.values():
        person = group[-1].person
        label = person.name or "no name given"
        if named[label.casefold()] > 1 or not person.name:
            # Two people of one name stay two.
            label = f"{label} {person.id[:4]}"
        students.append(Student(person, label, tuple(group), _skills(group, now)))
    students.sort(key=lambda student: student.label.casefold())
    lessons = Counter({sheet.lesson.id: 0 for sheet in sheets})
    for sheet in sheets:
        lessons[sheet.lesson.id] += len(sheet.given)
    chosen = lesson_id or (lessons.most_common(1)[0][0] if lessons else "")
    of_lesson = [s for s in sheets if s.lesson.id == chosen and not s.is_other]
    lesson = of_lesson[-1].lesson if of_lesson else None
    return ClassSheet(tuple(students), items_of(of_lesson), lesson)


def _skills(sheets: Iterable[Sheet], now: datetime) -> dict[str, Mastery]:
    shown = sorted((one for sheet in sheets for one in sheet.shown), key=lambda one: one.at)
    by_skill: dict[str, list[Shown]] = {skill.slug: [] for skill in SKILLS}
    for one in shown:
        by_skill[one.skill].append(one)
    return {slug: mastery_of(slug, answers, now) for slug, answers in by_skill.items()}


def items_of(sheets: Sequence[Sheet]) -> tuple[Item, ...]:
    """Each question of one lesson, by its place; the first answer of each person counts."""
    firsts: list[dict[tuple[int, int], Given]] = []
    for sheet in sheets:
        first: dict[tuple[int, int], Given] = {}
        for given in sheet.given:
            first.setdefault((given.part, given.nth), given)
        firsts.append(first)
    places = sorted({place for first in firsts for place in first})
    items = [_item(place, firsts) for place in places]
    return tuple(sorted(items, key=lambda item: (-item.misled, item.p, item.part, item.nth)))


def _item(place: tuple[int, int], firsts: Sequence[dict[tuple[int, int], Given]]) -> Item:
    answered = [(first[place], first) for first in firsts if place in first]
    credits = [given.credit for given, _ in answered]
    rests = [sum(g.credit for at, g in first.items() if at != place) for _, first in answered]
    wrong = [given for given, _ in answered if not given.right]
    ideas = Counter(given.idea for given in wrong if given.idea)
    right = len(answered) - len(wrong)
    ordered = tuple(sorted(ideas.items(), key=lambda pair: (-pair[1], pair[0])))
    misled = ordered[0][1] if ordered else 0
    return Item(
        *place,
        title_of(answered[0][0], {g.question.engine for g, _ in answered}),
        right,
        ordered,
        len(wrong) - misled,
        sum(credits) / len(credits),
        correlation(credits, rests),
    )


def title_of(given: Given, engines: set[str]) -> str:
    """What a question is called in a list: its kind, and its engine where all had the same."""
    title = drill_of(given.question.kind).title
    return f"{title}, {next(iter(engines))}" if len(engines) == 1 else title


def correlation(one: Sequence[float], other: Sequence[float]) -> float | None:
    """Pearson's correlation; None for too few people, or where one of both does not vary."""
    count = len(one)
    if count < LEAST_FOR_STATISTICS:
        return None
    mean_1, mean_2 = sum(one) / count, sum(other) / count
    off_1, off_2 = [x - mean_1 for x in one], [x - mean_2 for x in other]
    square_1, square_2 = sum(x * x for x in off_1), sum(x * x for x in off_2)
    if square_1 <= 1e-12 or square_2 <= 1e-12:
        return None
    both = sum(a * b for a, b in zip(off_1, off_2, strict=True))
    return float(both / (square_1 * square_2) ** 0.5)
