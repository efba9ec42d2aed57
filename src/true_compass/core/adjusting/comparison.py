"""All schools side by side on one engine, and what the numbers say."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Final

from true_compass.core.adjusting.schools import (
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

    @property
    def safe(self) -> bool:
        """Whether it has a plan that is safe to follow."""
        return self.plan is not None and self.plan.safe


def rows_of(rig: Rig, choice: Choice = USUAL, first: str = "") -> Iterator[Row]:
    """Each school on an engine, one that is asked for before the others; worked out as it comes."""
    for school in sorted(SCHOOLS, key=lambda school: school.word != first):
        try:
            yield Row(school, school.plan(rig, choice))
        except NotApplicableError as error:
            yield Row(school, None, str(error), isinstance(error, NoStopsError))


def compare(rig: Rig, choice: Choice = USUAL) -> list[Row]:
    """All schools side by side."""
    return list(rows_of(rig, choice))


def first_safe(rows: Iterable[Row]) -> Row | None:
    """What an engine is begun with: the first school of these that is safe on it, or None."""
    return next((row for row in rows if row.safe), None)


def way_out(rows: Iterable[Row]) -> Row | None:
    """What to use where the chosen school is unsafe: the fewest stops with a fair margin, else the
    first that is safe, or None.
    """
    return first_safe(sorted(rows, key=lambda row: row.school.word != "fewest"))


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
