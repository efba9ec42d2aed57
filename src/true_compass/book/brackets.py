"""A gap as it is known: a number, or the blade that goes and the one that does not.

What goes and what does not stay two ends through every sum; a number has both ends alike.
"""

import math
from dataclasses import dataclass

from true_compass.core.limits import EngineError

MOST_MM = 5.0
"""Wider than any lash (limit of `lash_mm` in an engine file)."""
MOST_HEIGHT_MM = 500.0
"""A unit injector is set by its height (limit of `height_mm` in an engine file)."""


@dataclass(frozen=True, slots=True)
class Bracket:
    """From `low` to `high`, both in; mm unless a name says otherwise.

    >>> Bracket(0.30, 0.35) - Bracket(0.25, 0.25)
    Bracket(low=0.04999999999999999, high=0.09999999999999998)
    """

    low: float
    high: float

    @staticmethod
    def of(value: float) -> "Bracket":
        """A number."""
        return Bracket(value, value)

    @property
    def middle(self) -> float:
        """Half-way between the ends."""
        return (self.low + self.high) / 2

    @property
    def is_number(self) -> bool:
        """Whether both ends are one number."""
        return self.high - self.low < 1e-12

    def __add__(self, other: "Bracket") -> "Bracket":
        return Bracket(self.low + other.low, self.high + other.high)

    def __sub__(self, other: "Bracket") -> "Bracket":
        return Bracket(self.low - other.high, self.high - other.low)

    def times(self, factor: float) -> "Bracket":
        """Both ends times a number; a negative one turns them round."""
        ends = sorted((self.low * factor, self.high * factor))
        return Bracket(ends[0], ends[1])

    def plus(self, shift: float) -> "Bracket":
        """Both ends moved by a number."""
        return Bracket(self.low + shift, self.high + shift)

    def within(self, band_mm: tuple[float, float]) -> bool | None:
        """Whether it lies in a band, both ends in; None where one end does and one does not."""
        low, high = band_mm[0] - 1e-9, band_mm[1] + 1e-9
        if low <= self.low and self.high <= high:
            return True
        return False if self.high < low or self.low > high else None


def most_mm(item_name: str) -> float:
    """The largest reading of an item: a gap, or the height of an injector."""
    return MOST_HEIGHT_MM if item_name.startswith("U") else MOST_MM


def checked_gap(field: str, gap: Bracket, most: float = MOST_MM) -> Bracket:
    """The same gap. Raises `EngineError` for one that no engine has, or the wrong way round."""
    for end in (gap.low, gap.high):
        if not math.isfinite(end) or end < 0:
            raise EngineError(field, "cannot be less than nothing: with no gap at all write 0")
        if end > most:
            raise EngineError(field, too_wide(end))
    if gap.high < gap.low:
        raise EngineError(
            field,
            f"says that {gap.low:g} goes and {gap.high:g} does not: the one that does not go is "
            "the thicker one",
        )
    return gap


def too_wide(value: float) -> str:
    """What a number far too wide for a gap in mm may have meant."""
    meant = f"{value:g} thou is {value * 0.0254:.2f} mm"
    if value >= 10:
        return f"is {value:g} mm: 0.{value:g} mm? {meant}. Write the one that is meant"
    return f"is {value:g} mm: {meant}. Write the one that is meant"
