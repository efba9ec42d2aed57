"""What is typed for an item: `0.25`, `10 thou`, `0.20..0.25` (goes, does not), `1.5 turns`.

One way in for the keypad, for paper and for tables. A bare number is in the unit of the blades.
"""

import math
import re
from typing import Final

from true_compass.book.brackets import MOST_MM, Bracket, checked_gap
from true_compass.book.job import MOST_TURNS, Measure
from true_compass.core.limits import EngineError
from true_compass.core.units import (
    LEAST_BLADE_MM,
    MM_PER_INCH,
    GapUnit,
    ImplausibleGapError,
    parse_gap_mm,
    parse_length_mm,
    parse_number,
    parse_turns,
)

BETWEEN: Final = ".."
_UNIT: Final = re.compile(r"(mm|thou|in\b|\")")


def read_measure(
    field: str,
    text: str,
    unit: GapUnit,
    target_mm: float,
    *,
    sure: bool = False,
    most: float = MOST_MM,
) -> Measure:
    """What was typed, as a measure. Raises `EngineError` that names the field and the way out.

    A gap that can hardly be meant raises `ImplausibleGapError`, unless the person is `sure`.

    >>> read_measure("I1", "0.20..0.25", GapUnit.MM, 0.25).gap
    Bracket(low=0.2, high=0.25)
    """
    text = text.strip()
    count = parse_turns(field, text)
    if count is not None:
        if not 0 <= count <= MOST_TURNS:
            raise EngineError(field, f"must be 0 to {MOST_TURNS:g} turns, not {count:g}")
        return Measure(None, count, text, unit)
    if len(set(_UNIT.findall(text))) > 1:
        raise EngineError(field, f"has two units ({text[:30]}): write one of them")
    goes, between, does_not = text.partition(BETWEEN)
    if not between:
        gap_mm = _gap_mm(field, text, unit, target_mm, sure)
        return Measure(checked_gap(field, Bracket.of(gap_mm), most), None, text, unit)
    written = _UNIT.search(does_not)
    if written is not None and not _UNIT.search(goes):
        goes = f"{goes} {written[1]}"
    ends = [_gap_mm(field, end, unit, target_mm, sure) for end in (goes, does_not)]
    return Measure(checked_gap(field, Bracket(*ends), most), None, text, unit)


def _gap_mm(field: str, text: str, unit: GapUnit, target_mm: float, sure: bool) -> float:
    if sure:
        return parse_length_mm(field, text, unit.value)
    try:
        return parse_gap_mm(text, unit, target_mm)
    except ImplausibleGapError:
        raise
    except EngineError as error:
        raise EngineError(field, str(error)) from None


def other_meanings(text: str, unit: GapUnit, target_mm: float) -> list[tuple[str, float]]:
    """What else an unlikely number may have meant, as keys to press: `0.15 mm`, `15 thou`.

    >>> [words for words, _ in other_meanings("15", GapUnit.MM, 0.15)]
    ['0.15 mm', '15 thou']
    """
    try:
        value = parse_number("gap", re.sub(_UNIT, "", text))
    except EngineError:
        return []
    meant: list[tuple[str, float]] = []
    if unit is GapUnit.MM and target_mm > 0 and value > 0:
        # The point was forgotten: the place of it that lies nearest to the target.
        sizes = [value / divided for divided in (10.0, 100.0, 1000.0)]
        mm = min(sizes, key=lambda size: abs(math.log(size / target_mm)))
        if target_mm / 4 <= mm <= target_mm * 4:
            meant.append((f"{mm:.3g} mm", mm))
    if 0 < value * MM_PER_INCH <= 4 * target_mm and value * unit.in_mm < LEAST_BLADE_MM:
        meant.append((f"{value:g} in", value * MM_PER_INCH))
    there = value * unit.other.in_mm
    if there <= max(4 * target_mm, 0.5):
        meant.append((f"{value:g} {unit.other.value}", there))
    return meant
