"""Who can do it: the rule, in one place.

"Can do" needs three unaided successes on two layouts on two days, the last answer right. Firm is
the last answer right and unaided, and not yet due again; anything else that was tried is shaky.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import Enum
from typing import Final

from true_compass.lessons.again import Due, after

SUCCESSES: Final = 3
LAYOUTS: Final = 2
DAYS: Final = 2
RULE: Final = (
    "Can do: three times right and unaided, on two layouts, on two days, the last one right."
)
SHORT_RULE: Final = "Can do: 3 unaided, 2 layouts, 2 days, the last right."


class Standing(Enum):
    """How a person stands with a skill."""

    CAN = "can do"
    FIRM = "firm"
    SHAKY = "shaky"
    UNTRIED = "untried"


@dataclass(frozen=True, slots=True)
class Shown:
    """One answer as far as mastery goes. `day` is the local date, `layout` the engine's in words.

    `right` is full credit; `aided` that a hint was looked at.
    """

    skill: str
    engine: str
    layout: str
    at: datetime
    day: str
    right: bool
    aided: bool = False

    @property
    def is_success(self) -> bool:
        """Right and unaided."""
        return self.right and not self.aided


@dataclass(frozen=True, slots=True)
class Mastery:
    """How far a person is with one skill."""

    skill: str
    standing: Standing
    tried: int
    successes: tuple[Shown, ...]
    due: Due | None

    @property
    def proof(self) -> tuple[Shown, ...]:
        """Three successes that meet the rule, or nothing."""
        return proof_of(self.successes)


def still_needed(mastery: Mastery) -> str:
    """What is missing for "can do", in a few words; "can do" where nothing is."""
    if mastery.standing is Standing.UNTRIED:
        return Standing.UNTRIED.value
    if mastery.standing is Standing.CAN:
        return Standing.CAN.value
    shown = mastery.successes
    if not shown:
        return "needs to be right unaided"
    if mastery.proof:
        return "needs to be right again"
    missing = []
    if len({one.layout for one in shown}) == 1:
        missing.append("another layout")
    if len({one.day for one in shown}) == 1:
        missing.append("another day")
    return f"needs {' and '.join(missing) or 'one more time'}"


def proof_of(successes: Sequence[Shown]) -> tuple[Shown, ...]:
    """Three successes on two layouts and two days, the first among them; nothing where there are
    none.

    Where three such are at all, the first is one of such three: one that differs from it in both
    goes with any third, else one that differs in the layout goes with one that differs in the day.
    """
    if len(successes) < SUCCESSES:
        return ()
    first, rest = successes[0], successes[1:]
    elsewhere = next((one for one in rest if one.layout != first.layout), None)
    later = next((one for one in rest if one.day != first.day), None)
    if elsewhere is None or later is None:
        return ()
    both = next((one for one in rest if one.layout != first.layout and one.day != first.day), None)
    if both is None:
        second, third = elsewhere, later
    else:
        second, third = both, next(one for one in rest if one is not both)
    return tuple(sorted((first, second, third), key=lambda one: one.at))


def mastery_of(skill: str, answers: Sequence[Shown], now: datetime) -> Mastery:
    """How a person stands with a skill; `answers` of it in the order in which they were given."""
    due: Due | None = None
    for shown in answers:
        due = after(due, shown.at, right=shown.right, aided=shown.aided)
    successes = tuple(shown for shown in answers if shown.is_success)
    last = answers[-1] if answers else None
    standing = standing_of(
        last is not None,
        last is not None and last.right,
        last is not None and last.aided,
        successes,
        due,
        now,
    )
    return Mastery(skill, standing, len(answers), successes, due)


def standing_of(
    tried: bool,
    last_right: bool,
    last_aided: bool,
    successes: Sequence[Shown],
    due: Due | None,
    now: datetime,
) -> Standing:
    """How a person stands, by the last answer, the successes so far, and when it is due again."""
    if not tried:
        return Standing.UNTRIED
    if last_right and proof_of(successes):
        return Standing.CAN
    if last_right and not last_aided and due is not None and now < due.due_at:
        return Standing.FIRM
    return Standing.SHAKY
