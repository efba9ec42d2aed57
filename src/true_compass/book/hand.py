"""What is learnt of a person: how a hand scatters and leans, and what the nut does in it.

A hand test is five gaps set by micrometer and measured blind. Its bias is the mean of measured less
set, its scatter the standard deviation of these differences (n − 1). Blades cannot show less than
their own step: a scatter is never taken as less than step/√12, that of an even spread over one
step (arithmetic). Common practice, no source, for the rest.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, median, stdev
from typing import Final

from true_compass.book.pointing import UNLEARNT_MM
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit, gap_in

GAPS: Final = 5
FEWEST_NUTS: Final = 3
LEAST_SHIFT_MM: Final = 0.005


@dataclass(frozen=True, slots=True)
class HandFound:
    """What a hand test shows, mm: + bias measures too wide. `count` gaps were measured."""

    bias_mm: float
    scatter_mm: float
    count: int


def hand_of(pairs: Sequence[tuple[float, float]], step_mm: float) -> HandFound:
    """Bias and scatter of (set, measured) pairs in mm. Raises `EngineError` for fewer than five.

    >>> hand_of([(0.2, 0.21), (0.3, 0.3), (0.25, 0.26), (0.4, 0.41), (0.15, 0.17)], 0.01).bias_mm
    0.01
    """
    if len(pairs) < GAPS:
        raise EngineError("hand test", f"needs {GAPS} gaps, and has {len(pairs)}: measure the rest")
    off = [measured - told for told, measured in pairs]
    scatter = max(stdev(off), step_mm / math.sqrt(12.0))
    return HandFound(round(fmean(off), 6), scatter, len(pairs))


def scatter_mm(found: HandFound | None) -> float:
    """Scatter of one reading by a hand; what is usual until a test has shown its own."""
    return UNLEARNT_MM if found is None else found.scatter_mm


def nut_shift_mm(shifts: Sequence[float]) -> float | None:
    """What this person's nut usually does, mm; None for fewer than three readings, or nothing.

    >>> nut_shift_mm([-0.02, -0.03, -0.02])
    -0.02
    """
    if len(shifts) < FEWEST_NUTS:
        return None
    usual = round(median(shifts), 3)
    return usual if abs(usual) >= LEAST_SHIFT_MM else None


def nut_words(shift_mm: float | None, target_mm: float, unit: GapUnit = GapUnit.MM) -> str:
    """`Your nut closes it by 0.02 mm: hold the screw at 0.27 mm.`; empty where not known."""
    if shift_mm is None:
        return ""
    hold = f"hold the screw at {gap_in(target_mm - shift_mm, unit)}"
    if shift_mm < 0:
        return f"Your nut closes it by {gap_in(-shift_mm, unit)}: {hold}."
    return f"Your nut opens it by {gap_in(shift_mm, unit)}: {hold}."
