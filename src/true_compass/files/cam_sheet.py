"""Sheets of cam readings as plain values: what is kept while a cam is degreed.

What comes back is checked by the strict shape of the sheet itself; what makes no sense is None.
"""

from typing import Any, Final

from true_compass.core.angles import TURN_DEG
from true_compass.core.degreeing.sheet import NosePair, Setup, Sheet, TopPair
from true_compass.core.limits import MOST_CYLINDERS
from true_compass.files.kept_values import plain, value_from

VERSION: Final = 1
MOST_ROUNDS: Final = 200
MOST_DROP_MM: Final = 1000.0


def sheet_values(sheet: Sheet) -> dict[str, Any]:
    """A sheet as values for a JSON file."""
    return {"version": VERSION, "sheet": plain(sheet)}


def sheet_from(values: Any) -> Sheet | None:
    """The sheet of such values, or None for what is none."""
    if not isinstance(values, dict) or values.get("version") != VERSION:
        return None
    told = value_from(Sheet, values.get("sheet"))
    return told if told is not None and _can_be(told) else None


def _can_be(sheet: Sheet) -> bool:
    """Whether figures and numbers lie where they were taken in."""
    if not (sheet.rounds and len(sheet.rounds) <= MOST_ROUNDS):
        return False
    cylinders = [sheet.cylinder, *(lobe.cylinder for lobe in sheet.lobes)]
    cylinders += [row.cylinder for row in sheet.gaps]
    pairs: list[TopPair | NosePair] = []
    for one in sheet.rounds:
        cylinders += [nose.cylinder for nose in one.noses]
        pairs += [*one.tops, *(pair for nose in one.noses for pair in nose.pairs)]
    figures = [f for pair in pairs for f in (pair.before, pair.after) if f is not None]
    setup = sheet.setup or Setup()
    return (
        all(1 <= cylinder <= MOST_CYLINDERS for cylinder in cylinders)
        and all(0 <= figure <= TURN_DEG for figure in figures)
        and all(0 < pair.drop_mm <= MOST_DROP_MM for pair in pairs)
        and min(setup.wheel_mm, setup.wheel_step_deg) > 0
        and min(setup.gauge.turn_mm, setup.gauge.step_mm, setup.gauge.travel_mm) > 0
        and all(len(lobe.places) == 3 for lobe in sheet.lobes)
    )
