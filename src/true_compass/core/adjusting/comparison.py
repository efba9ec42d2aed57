"""All schools side by side on one engine, and what the numbers say."""

from dataclasses import dataclass
from typing import Final

from true_compass.core.adjusting.schools import (
    BY_WORD,
    SCHOOLS,
    USUAL,
    Choice,
    NoStopsError,
    NotApplicableError,
    School,
)
from true_compass.core.adjusting.stops import Plan, whole_degrees
from true_compass.core.state import Rig
from true_compass.core.words import counted


@dataclass(frozen=True, slots=True)
class Row:
    """A school on one engine: its plan, or the sentence that says why there is none."""

    school: School
    plan: Plan | None
    reason: str = ""
    without_stops: bool = False
    """Whether it suits this engine all the same: it is done without stops."""


def compare(rig: Rig, choice: Choice = USUAL) -> list[Row]:
    """All schools side by side."""
    rows = []
    for school in SCHOOLS:
        try:
            rows.append(Row(school, school.plan(rig, choice)))
        except NotApplicableError as error:
            rows.append(Row(school, None, str(error), isinstance(error, NoStopsError)))
    return rows


def first_safe(rig: Rig, asked: str = "") -> Plan | None:
    """The plan of the method that was asked for, where it is safe on this engine; else that of the
    first method that is, in the order of the list. None where none is.
    """
    words = sorted(BY_WORD, key=lambda word: word != asked)
    for word in words:
        try:
            plan = BY_WORD[word].plan(rig, USUAL)
        except NotApplicableError:
            continue
        if plan.safe:
            return plan
    return None


SENTENCES: Final = {
    "two-stop": (
        "Two stops leave {degrees}° on {item}.",
        "Two stops set {item} {degrees}° off its base circle.",
    ),
    "firing-order": (
        "Each at its own TDC leaves {degrees}° on {item}.",
        "Each at its own TDC sets {item} {degrees}° off its base circle.",
    ),
}
"""What is said of the two plainest methods, safe and unsafe."""


def verdict(rows: list[Row]) -> str:
    """What the numbers say, without a winner: two stops, its own TDC, and the widest margin."""
    plans = {row.school.word: row for row in rows if row.plan is not None}
    wide = max(plans.values(), key=_least_deg)
    parts = []
    for word, (safe, unsafe) in SENTENCES.items():
        plan = plans[word].plan if word in plans else None
        if plan is not None:
            degrees = abs(whole_degrees(plan.least_margin_deg))
            sentence = safe if plan.safe else unsafe
            parts.append(sentence.format(degrees=degrees, item=plan.least_item.name))
    assert wide.plan is not None
    stops = counted(len(wide.plan.stops), "stop")
    parts.append(f"{wide.school.name}: {whole_degrees(_least_deg(wide))}°, at {stops}.")
    return " ".join(parts)


def _least_deg(row: Row) -> float:
    assert row.plan is not None
    return row.plan.least_margin_deg
