"""The engine with a gear and a make-and-break igniter: trip and cam move together on one gear.

Trip 8 to 12° before TDC (10 to 15 seen), exhaust opens 20 to 36° before BDC, closes 20 to 30°
before TDC on one such engine, near TDC on others and not critical (common practice, no source).
Try a tooth both ways, then trim the trip.
"""

from dataclasses import dataclass
from typing import Final

from true_compass.core.degreeing.steps import tooth_deg
from true_compass.core.limits import EngineError

MOST_TEETH: Final = 2


@dataclass(frozen=True, slots=True)
class Set:
    """What a protractor reads: trip before TDC, exhaust opens before BDC, closes after TDC.

    Crank degrees; a closing before TDC is negative.
    """

    trip_deg: float
    opens_deg: float
    closes_deg: float

    def earlier(self, by_deg: float) -> "Set":
        """All three with the gear moved on by some crank degrees."""
        return Set(self.trip_deg + by_deg, self.opens_deg + by_deg, self.closes_deg - by_deg)


@dataclass(frozen=True, slots=True)
class Wanted:
    """Bands, both ends in: trip, and where the exhaust valve opens."""

    trip_deg: tuple[float, float] = (8.0, 12.0)
    opens_deg: tuple[float, float] = (20.0, 36.0)


@dataclass(frozen=True, slots=True)
class Tooth:
    """The gear moved by whole teeth (+ on): what is read then, and how far the trip is trimmed.

    `trim_deg` + is an earlier trip.
    """

    teeth: int
    then: Set
    off_deg: float
    trim_deg: float


def tooth_options(read: Set, teeth: int, wanted: Wanted | None = None) -> tuple[Tooth, ...]:
    """Two teeth either way and as it stands, the best first.

    The exhaust opening decides, since the trip is trimmed by itself afterwards; among equals the
    fewest teeth moved.
    """
    wanted = wanted or Wanted()
    if not -90.0 <= read.trip_deg <= 90.0:
        raise EngineError("trip", f"must be from -90 to 90° before TDC, not {read.trip_deg:g}")
    step = tooth_deg(teeth)
    found = []
    for count in range(-MOST_TEETH, MOST_TEETH + 1):
        then = read.earlier(count * step)
        off = _outside(then.opens_deg, wanted.opens_deg)
        trim = _outside(then.trip_deg, wanted.trip_deg)
        found.append(Tooth(count, then, abs(off), -trim))
    return tuple(sorted(found, key=lambda tooth: (round(tooth.off_deg, 9), abs(tooth.teeth))))


def _outside(value: float, band: tuple[float, float]) -> float:
    """How far a value lies above a band (+) or below it (−)."""
    return max(value - band[1], 0.0) + min(value - band[0], 0.0)
