"""True TDC by two readings at an equal drop of the piston, and what their span must be.

Before TDC the wheel reads a, after it b, unsigned; what is read on the far side of zero counts
negative. Half the span is (a + b)/2; the pointer reads late by (b − a)/2 (common practice, no
source). Standing at the second reading, the pointer is set to half the span.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from true_compass.core.angles import Floats
from true_compass.core.crank.mechanism import piston_height_mm
from true_compass.core.degreeing.wheel import Wheel
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig

MOST_BESIDE_DEG: Final = 120.0
USUAL_MOST_DROP_MM: Final = 1.0
BIASED_DEG: Final = 0.05
FIT_SHARE: Final = 0.06
FIT_LEAST_DEG: Final = 0.5
SEARCH_STEPS: Final = 60


@dataclass(frozen=True, slots=True)
class TrueTop:
    """What two readings say. `half_span_deg` and `shift_deg` are crank degrees.

    `shift_deg` is how much later than true TDC the pointer's zero stands: negative is early.
    `set_to_deg` is the figure to which the pointer is set, standing at the second reading.
    """

    half_span_deg: float
    shift_deg: float
    set_to_deg: float

    @property
    def late(self) -> bool:
        """Whether the pointer's zero comes after true TDC."""
        return self.shift_deg > 0


def true_top(before_deg: float, after_deg: float, wheel: Wheel | None = None) -> TrueTop:
    """True TDC from two readings, each degrees from zero, negative on the far side.

    Raises `EngineError` where the second reading does not follow the first.

    >>> true_top(9.1, 13.5)
    TrueTop(half_span_deg=11.3, shift_deg=2.2, set_to_deg=11.3)
    >>> true_top(-1.0, 9.0).set_to_deg
    4.0
    """
    wheel = wheel or Wheel()
    half = round((before_deg + after_deg) / 2, 9)
    for side, value in (("before", before_deg), ("after", after_deg)):
        if abs(value) > MOST_BESIDE_DEG:
            raise EngineError(
                side,
                f"must be within {MOST_BESIDE_DEG:g}° of TDC, not {value:g}°: is zero at BDC?",
            )
    if half <= 0:
        raise EngineError(
            "after",
            f"must follow the reading before TDC, but {after_deg:g}° comes first: "
            "were they changed about, or read on the far side of zero?",
        )
    shift = round((after_deg - before_deg) / 2, 9)
    return TrueTop(half, shift, wheel.figure_deg(half))


@dataclass(frozen=True, slots=True)
class Span:
    """What a drop needs on one cylinder: half the span, and how much later than true TDC its mean
    comes (the bias), both crank degrees."""

    half_deg: float
    bias_deg: float


@lru_cache(maxsize=32)
def span_of(rig: Rig, cylinder: int, drop_mm: float) -> Span:
    """Half the span and the bias of an equal drop, from stroke, rod, pin offset and link rods.

    Raises `EngineError` for a drop that the piston does not make before its turn to 120°.
    """
    row = cylinder - 1
    top_deg, top_mm = float(rig.centres.tdc_deg[row]), float(rig.centres.top_mm[row])

    def fall_mm(beside_deg: float) -> float:
        at: Floats = np.full(len(rig.offsets_deg), top_deg + beside_deg)
        return top_mm - float(piston_height_mm(rig.linkage, at)[row])

    most_mm = min(fall_mm(MOST_BESIDE_DEG), fall_mm(-MOST_BESIDE_DEG))
    if not 0 < drop_mm <= most_mm:
        raise EngineError(
            "drop", f"must be above 0 and at most {most_mm:.0f} mm here, not {drop_mm:g} mm"
        )
    ends = []
    for side in (-1.0, 1.0):
        low, high = 0.0, MOST_BESIDE_DEG
        for _ in range(SEARCH_STEPS):
            middle = (low + high) / 2
            low, high = (middle, high) if fall_mm(side * middle) < drop_mm else (low, middle)
        ends.append(high)
    before, after = ends
    return Span((before + after) / 2, (after - before) / 2)


def span_fits(half_deg: float, span: Span) -> bool:
    """Whether a half-span can be that of the drop: within 6 %, or half a degree."""
    return abs(half_deg - span.half_deg) <= max(FIT_SHARE * span.half_deg, FIT_LEAST_DEG)


def span_words(half_deg: float, span: Span, drop_mm: float) -> str:
    """What is to be said of a span and a drop; empty where nothing is.

    >>> span_words(8.1, Span(11.3, 0.0), 0.5)
    'This drop needs ±11.3°, you have ±8.1°: wrong drop, slanted probe, or another engine.'
    """
    if not span_fits(half_deg, span):
        return (
            f"This drop needs ±{span.half_deg:.1f}°, you have ±{half_deg:.1f}°: "
            "wrong drop, slanted probe, or another engine."
        )
    if abs(span.bias_deg) >= BIASED_DEG:
        side = "late" if span.bias_deg > 0 else "early"
        return (
            f"At {drop_mm:g} mm this engine's mean comes {abs(span.bias_deg):.2f}° {side}: "
            f"take {USUAL_MOST_DROP_MM:g} mm or less."
        )
    return ""
