"""One item's history in a sentence, the reasons with those ruled out, and where to look next."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from true_compass.book.brackets import Bracket
from true_compass.book.pointing import FEWEST_SIBLINGS, Cause, Pointing
from true_compass.book.trend import RATE_HOURS, RATE_KM, Entry, Point, day_of
from true_compass.core.items import Kind
from true_compass.core.units import GapUnit, change_in, gap_in


@dataclass(frozen=True, slots=True)
class Reason:
    """One reason that was weighed: whether it holds, as a sentence."""

    holds: bool
    words: str


@dataclass(frozen=True, slots=True)
class Due:
    """When what was left reaches the end of its band: at which counter, and about which day."""

    at_clock: float
    on_day: date | None
    at_mm: float


def per_words(by_distance: bool) -> tuple[float, str]:
    """The usual run for a rate, and its words."""
    return (RATE_KM, "1,000 km") if by_distance else (RATE_HOURS, "100 hours")


def due_of(
    entries: Sequence[Entry], nth: int, point: Point, band_mm: tuple[float, float] | None
) -> Due | None:
    """When the item of a point is due, the earliest end of a bracket; None where nothing tells."""
    left = point.due(band_mm)
    clock = entries[nth].clock
    if left is None or clock is None or band_mm is None or point.change is None:
        return None
    end = band_mm[0] if point.change.middle < 0 else band_mm[1]
    return Due(clock + left.low, day_of(entries[: nth + 1], left.low), end)


def head_words(
    point: Point, told: Pointing | None, by_distance: bool, unit: GapUnit = GapUnit.MM
) -> str:
    """`E5 closes 0.017 mm each 100 hours: points to its valve or seat`."""
    name, change = point.item.name, point.change
    if point.seen.found is None:
        return f"{name} was not measured in this job"
    if change is None:
        return f"{name}: nothing before this job to compare with"
    run, words = per_words(by_distance)
    rate = point.rate(run)
    causes = told.causes if told is not None else ()
    pointing = f": points to {' or '.join(c.words for c in causes)}" if causes else ""
    if abs(change.middle) < 0.005:
        return f"{name} has not moved{pointing}"
    way = "closes" if change.middle < 0 else "opens"
    if rate is None:
        return f"{name} {way} by {gap_in(abs(change.middle), unit)}{pointing}"
    figure = f"{abs(rate.middle) / unit.in_mm:.{3 if unit is GapUnit.MM else 2}f} {unit.value}"
    return f"{name} {way} {figure} each {words}{pointing}"


def due_words(
    due: Due | None, by_distance: bool, left: Bracket | None, gap_unit: GapUnit = GapUnit.MM
) -> str:
    """When to look again."""
    if due is None:
        return "No due date: no band, no hours, or it does not move."
    unit = "km" if by_distance else "h"
    day = f", about {due.on_day.isoformat()}" if due.on_day is not None else ""
    was = f"Left at {gap_in(left.middle, gap_unit)} " if left is not None else ""
    at = gap_in(due.at_mm, gap_unit)
    return f"{was}it is at {at} by {due.at_clock:,.0f} {unit}{day}. Look then, or before."


def reasons(told: Pointing | None, point: Point) -> list[Reason]:
    """What was weighed, the reasons that hold and those that are ruled out."""
    if told is None or point.change is None:
        return []
    causes = set(told.causes)
    closing = point.change.middle < 0
    alone = Cause.SEAT if closing else Cause.LOBE
    found = []
    if told.bound is None:
        kind = "exhausts" if point.item.kind is Kind.EXHAUST else "intakes"
        words = f"Fewer than {FEWEST_SIBLINGS} other {kind} were compared: no claim about one"
        found.append(Reason(False, words))
    else:
        way = "closes" if closing else "opens"
        found.append(Reason(alone in causes, f"It alone {way}? Then {alone.words}"))
    found.append(Reason(Cause.ALIKE in causes, "All alike? Then heat, hand or blades"))
    found.append(Reason(Cause.STAND in causes, "Both of one cylinder? Then stand or head nut"))
    found.append(Reason(Cause.TARGET in causes, "One kind? Then a wrong target"))
    return found


def look_next(told: Pointing | None, point: Point) -> str:
    """What to look at next; never chase power with lash (common practice)."""
    cylinder = point.item.cylinder
    causes = told.causes if told is not None else ()
    if Cause.SEAT in causes:
        return f"Look next: leak test of cylinder {cylinder} at its compression TDC."
    if Cause.LOBE in causes:
        return f"Look next: lift of {point.item.name} by dial, its rod, and its tip."
    if Cause.ALIKE in causes:
        return "Look next: was the engine as cold as before, and are the blades the same?"
    if Cause.STAND in causes:
        return f"Look next: the stand and the head nuts at cylinder {cylinder}."
    if Cause.TARGET in causes:
        return "Look next: which target, of which book and variant, was it set to?"
    return "Never chase power with lash."


def bound_words(told: Pointing | None, two_hands: bool, unit: GapUnit = GapUnit.MM) -> list[str]:
    """The figures that a claim rests on."""
    if told is None or told.bound is None:
        return []
    bound = told.bound
    middle = "0" if abs(bound.median_mm) < 0.005 else change_in(bound.median_mm, unit)
    words = [
        f"Median of {bound.siblings} siblings {middle}. Shaded: {gap_in(bound.mm, unit)} to either "
        f"side ({bound.decides})."
    ]
    if two_hands:
        words.append("Two people measured: the bound is wider for that.")
    return words
