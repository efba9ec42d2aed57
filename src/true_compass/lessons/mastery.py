"""What has been shown of a skill: the rule, in one place.

Guessing must not pass. An answer that could be guessed counts only in a run that guessing makes
once in sixteen times; each kind of question needs three of those running; and a question that was
answered before shows nothing. So somebody who knows one kind and guesses the other would need
twelve lucky bits in a row.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import Enum
from functools import cache, cached_property
from itertools import groupby
from typing import Final

from true_compass.lessons.again import Due, after
from true_compass.lessons.drill import NEVER
from true_compass.lessons.drills import drill_of
from true_compass.lessons.skills import BY_SLUG

LAST: Final = 6
RIGHT_OF_LAST: Final = 5
RUNNING: Final = 3
"""How many of one kind of question running."""
LAYOUTS: Final = 2
DAYS: Final = 2
BITS: Final = 4
"""A run counts as one where guessing makes it once in 2 to this power."""
MOST_LOOKED_AT: Final = 150
"""How many of the last answers of a skill are looked at."""
RULE: Final = (
    "Secure: five of the last six right and unaided, three running in each of two kinds of "
    "question, on two layouts and two days. What can be guessed counts in runs: of two choices "
    "four, of three three, of up to fifteen two."
)
SHORT_RULE: Final = "Secure: 5 of the last 6 unaided, two kinds, two layouts, two days."


class Standing(Enum):
    """How a person stands with a skill. The values stand in files, the words on screens."""

    SECURE = "can do"
    SOUND = "firm"
    PRACTICE = "shaky"
    UNTRIED = "untried"

    @property
    def words(self) -> str:
        """As a screen says it."""
        return _WORDS[self]

    @property
    def short(self) -> str:
        """In one word, where there is little room."""
        return "practise" if self is Standing.PRACTICE else self.words


_WORDS: Final = {
    Standing.SECURE: "secure",
    Standing.SOUND: "sound",
    Standing.PRACTICE: "needs practice",
    Standing.UNTRIED: "untried",
}


@dataclass(frozen=True, slots=True)
class Shown:
    """One answer as far as mastery goes. `day` is the local date, `layout` the engine's in words.

    `kind` is the kind of question, and `choices` are how many answers somebody who knows nothing
    chooses from, `NEVER` where the answer never changes. `right` is full credit; `aided` that a
    hint was looked at. `asked` tells one question from another, and `place` where it stood: its
    lesson, part and number.
    """

    skill: str
    kind: str
    choices: int
    engine: str
    layout: str
    at: datetime
    day: str
    right: bool
    aided: bool = False
    asked: str = ""
    place: str = ""

    @property
    def is_success(self) -> bool:
        """Right and unaided."""
        return self.right and not self.aided


@dataclass(frozen=True, slots=True)
class Counted:
    """What counts as one: a run of right answers, or an answer that was not right and unaided."""

    kind: str
    good: bool
    answers: tuple[Shown, ...]


@cache
def run_needed(choices: int) -> int:
    """How many right answers running count as one; 0 where none ever does.

    >>> [run_needed(choices) for choices in (1, 2, 3, 4, 15, 16, 1000)]
    [0, 4, 3, 2, 2, 1, 1]
    """
    return 0 if choices <= NEVER else math.ceil(BITS / math.log2(choices) - 1e-9) or 1


def fresh_of(answers: Sequence[Shown]) -> list[Shown]:
    """The answers to questions that this person had not answered before, in order.

    A question is known once it was answered on that day; and a set that is opened again on another
    day asks the same at the same place, of which the answers were told.
    """
    found, on_days, at_places = [], set(), set()
    for shown in answers:
        of_day, at_place = (shown.asked, shown.day), (shown.asked, shown.place)
        if not shown.asked or not (of_day in on_days or at_place in at_places):
            found.append(shown)
        on_days.add(of_day)
        at_places.add(at_place)
    return found


def counted_of(answers: Sequence[Shown]) -> list[Counted]:
    """What counts, in order; `answers` are fresh ones. A run goes on from day to day."""
    found: list[Counted] = []
    runs: dict[str, list[Shown]] = {}
    for shown in answers:
        needed = run_needed(shown.choices)
        if not needed:
            continue
        run = runs.setdefault(shown.kind, [])
        if not shown.is_success:
            run.clear()
            found.append(Counted(shown.kind, False, (shown,)))
            continue
        run.append(shown)
        if len(run) >= max(run_needed(one.choices) for one in run):
            found.append(Counted(shown.kind, True, tuple(run)))
            run.clear()
    return found


def stretch_of(counted: Sequence[Counted]) -> list[Counted]:
    """The last stretch of which no six in a row hold more than one that is not good."""
    start, last_bad = 0, len(counted) + LAST
    for nth in range(len(counted) - 1, -1, -1):
        if counted[nth].good:
            continue
        if last_bad - nth < LAST:
            start = nth + 1
            break
        last_bad = nth
    return list(counted[start:])


class Need(Enum):
    """What is missing, in a few words."""

    UNAIDED = "right unaided"
    LAST = "5 of the last 6"
    KINDS = "3 running"
    LAYOUT = "another layout"
    DAY = "another day"


@dataclass(frozen=True)
class Evidence:
    """What the answers of one skill show.

    `answers` are the last `MOST_LOOKED_AT` that can count, in order: fresh ones, and none whose
    answer never changes.
    """

    skill: str
    answers: tuple[Shown, ...]

    @cached_property
    def stretch(self) -> tuple[Counted, ...]:
        """What counts of the last stretch that went well."""
        return tuple(stretch_of(counted_of(self.answers)))

    @cached_property
    def good(self) -> tuple[Shown, ...]:
        """The right and unaided answers of the last stretch that count."""
        return tuple(shown for one in self.stretch if one.good for shown in one.answers)

    @cached_property
    def kinds(self) -> tuple[str, ...]:
        """The kinds of question of which three ran in that stretch."""
        found = []
        for kind in dict.fromkeys(one.kind for one in self.stretch):
            runs = groupby(one.good for one in self.stretch if one.kind == kind)
            if any(good and len(list(run)) >= RUNNING for good, run in runs):
                found.append(kind)
        return tuple(found)

    @property
    def kind_words(self) -> str:
        """Of which kind three running are missing."""
        lacking = [kind for kind in BY_SLUG[self.skill].needs if kind not in self.kinds]
        return f"3 running: {drill_of(lacking[0]).title}" if lacking else "3 running of a 2nd kind"

    @cached_property
    def missing(self) -> tuple[Need, ...]:
        """What keeps it from being secure; nothing where it is."""
        skill, found, stretch = BY_SLUG[self.skill], [], self.stretch
        if not any(shown.is_success for shown in self.answers):
            return (Need.UNAIDED,)
        if sum(one.good for one in stretch[-LAST:]) < RIGHT_OF_LAST:
            found.append(Need.LAST)
        if len(self.kinds) < skill.kinds or not set(skill.needs) <= set(self.kinds):
            found.append(Need.KINDS)
        if len({shown.layout for shown in self.good}) < LAYOUTS:
            found.append(Need.LAYOUT)
        if len({shown.day for shown in self.good}) < DAYS:
            found.append(Need.DAY)
        return tuple(found)


@dataclass(frozen=True, slots=True)
class Mastery:
    """How far a person is with one skill. `tried` counts all answers, again ones too."""

    skill: str
    standing: Standing
    tried: int
    evidence: Evidence
    due: Due | None


def still_needed(mastery: Mastery, most: int = 2) -> str:
    """What is missing until it is secure, in a few words; `secure` where nothing is. `most` needs
    are told.
    """
    if mastery.standing in (Standing.UNTRIED, Standing.SECURE):
        return mastery.standing.words
    evidence = mastery.evidence
    told = [evidence.kind_words if need is Need.KINDS else need.value for need in evidence.missing]
    return f"needs {', '.join(told[:most])}"


def mastery_of(skill: str, answers: Sequence[Shown], now: datetime) -> Mastery:
    """How a person stands with a skill; `answers` of it in the order in which they were given."""
    due: Due | None = None
    for shown in answers:
        due = after(due, shown.at, right=shown.right, aided=shown.aided)
    counting = [shown for shown in fresh_of(answers) if shown.choices > NEVER]
    good = bool(answers) and answers[-1].is_success
    evidence = Evidence(skill, tuple(counting[-MOST_LOOKED_AT:]))
    return mastery_from(evidence, len(answers), good, due, now)


def mastery_from(
    evidence: Evidence, tried: int, last_good: bool, due: Due | None, now: datetime
) -> Mastery:
    """How a person stands, by what the answers show, how many there are, whether the last of all
    was right and unaided, and when it is due again.
    """
    if not tried:
        standing = Standing.UNTRIED
    elif not evidence.missing:
        standing = Standing.SECURE
    elif last_good and due is not None and now < due.due_at:
        standing = Standing.SOUND
    else:
        standing = Standing.PRACTICE
    return Mastery(evidence.skill, standing, tried, evidence, due)
