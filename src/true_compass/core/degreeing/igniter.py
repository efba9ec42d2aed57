"""The engine with a gear and a make-and-break igniter: trip and cam move together on one gear.

What was read is held against the engine's own file. The gap comes first, since it makes the
exhaust's duration; then what opening and closing have in common, of which a tooth can only mend
whole teeth; then the trip alone. Trip 8 to 12° before TDC where the file has none (10 to 15 seen;
common practice, no source).
"""

from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.core.degreeing.steps import tooth_deg

SCATTER_DEG: Final = 2.0
"""How far a protractor on a slow engine may be out, either way (common practice, no source)."""
LONG_DEG: Final = 6.0
"""A duration this far off the file's is another gap, or another lobe."""
USUAL_TRIP_DEG: Final = (8.0, 12.0)


@dataclass(frozen=True, slots=True)
class Set:
    """What a protractor reads: trip before TDC, exhaust opens before BDC, closes after TDC.

    Crank degrees; a closing before TDC is negative, and so is a trip after it.
    """

    trip_deg: float
    opens_deg: float
    closes_deg: float

    @property
    def duration_deg(self) -> float:
        """How long the exhaust valve is open."""
        return self.opens_deg + 180.0 + self.closes_deg

    def earlier(self, by_deg: float) -> "Set":
        """All three with the gear moved on by some crank degrees."""
        return Set(self.trip_deg + by_deg, self.opens_deg + by_deg, self.closes_deg - by_deg)


@dataclass(frozen=True, slots=True)
class Wanted:
    """What the engine's file has: its trip as a band, both ends in, and the exhaust's events."""

    opens_deg: float
    closes_deg: float
    trip_deg: tuple[float, float] = USUAL_TRIP_DEG

    @staticmethod
    def of(trip_deg: float | None, opens_deg: float, closes_deg: float) -> "Wanted":
        """By a file that may not know its trip."""
        trip = USUAL_TRIP_DEG if trip_deg is None else (trip_deg, trip_deg)
        return Wanted(opens_deg, closes_deg, trip)


class First(Enum):
    """What is to be done first."""

    GAP = "gap"
    TOOTH = "tooth"
    ZERO = "zero"
    TRIM = "trim"
    LEAVE = "leave"


@dataclass(frozen=True, slots=True)
class Judged:
    """What a reading asks for. `longer_deg` and `earlier_deg` are the exhaust's against the file.

    `teeth` are moved (+ on); then all three read `then`, and the trip is trimmed by `trim_deg`
    (+ earlier), where it lies beyond the scatter.
    """

    first: First
    longer_deg: float
    earlier_deg: float
    teeth: int
    then: Set
    trim_deg: float


def judged(read: Set, teeth: int, wanted: Wanted) -> Judged:
    """What to do about a reading, on a gear of so many teeth.

    >>> fir = Wanted.of(10.0, 28.0, 4.0)
    >>> told = judged(Set(-10.0, 8.0, 24.0), 36, fir)
    >>> told.first.value, told.teeth, told.then
    ('tooth', 1, Set(trip_deg=10.0, opens_deg=28.0, closes_deg=4.0))
    >>> judged(Set(10.0, 44.0, -12.0), 36, fir).first.value
    'zero'
    """
    longer = (read.opens_deg + read.closes_deg) - (wanted.opens_deg + wanted.closes_deg)
    early = ((read.opens_deg - wanted.opens_deg) - (read.closes_deg - wanted.closes_deg)) / 2
    step = tooth_deg(teeth)
    out = round(early / step)
    then = read.earlier(-out * step)
    trim = _short_of(then.trip_deg, wanted.trip_deg)
    trim = trim if abs(trim) > SCATTER_DEG else 0.0
    if abs(longer) > LONG_DEG:
        return Judged(First.GAP, longer, early, 0, read, 0.0)
    if abs(early - out * step) > SCATTER_DEG:
        return Judged(First.ZERO, longer, early, 0, read, 0.0)
    first = First.TOOTH if out else First.TRIM if trim else First.LEAVE
    return Judged(first, longer, early, -out, then, trim)


def _short_of(value: float, band: tuple[float, float]) -> float:
    """How far a value lies below a band (+) or above it (−)."""
    return max(band[0] - value, 0.0) - max(value - band[1], 0.0)
