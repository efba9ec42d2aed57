"""True TDC by two readings at an equal drop of the piston, and what their span must be.

With s the running angle of a figure (degrees after the wheel's zero, on as the crank turns), half
the span is h = ((s after − s before) mod 360)/2, and the zero is met −(s before + h) after true
TDC: the mark error, negative where it is met early. For unsigned figures a before and b after that
is (a + b)/2 and (a − b)/2 (common practice, no source). Standing at the second reading, the pointer
is set to half the span.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from true_compass.core.angles import TURN_DEG, Floats
from true_compass.core.crank.mechanism import piston_height_mm
from true_compass.core.degreeing.wheel import Scale, Wheel
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig

MOST_BESIDE_DEG: Final = 120.0
"""The most that half a span can be; more, and the two readings were changed about."""
SET_DEG: Final = 0.1
"""A pointer that reads within this of true TDC is set."""
USUAL_MOST_DROP_MM: Final = 1.0
BIASED_DEG: Final = 0.05
FIT_SHARE: Final = 0.06
FIT_LEAST_DEG: Final = 0.5
SEARCH_STEPS: Final = 60


@dataclass(frozen=True, slots=True)
class TrueTop:
    """What two readings say. `half_span_deg` and `shift_deg` are crank degrees.

    `shift_deg` is what the pointer reads at true TDC, degrees after its zero, in (-180, 180].
    `set_to_deg` is the figure to which the pointer is set, standing at the second reading.
    """

    half_span_deg: float
    shift_deg: float
    set_to_deg: float

    @property
    def mark_error_deg(self) -> float:
        """How much after true TDC the zero is met; negative is early."""
        return -self.shift_deg

    @property
    def late(self) -> bool:
        """Whether the zero is met after true TDC."""
        return self.mark_error_deg > 0

    @property
    def is_set(self) -> bool:
        """Whether the pointer reads true TDC as near as it can be read."""
        return abs(self.shift_deg) < SET_DEG

    @property
    def words(self) -> str:
        """When the zero is met, against true TDC.

        >>> true_top(9.1, 13.5).words
        '2.2° early'
        """
        return met_words(self.mark_error_deg)


def met_words(mark_error_deg: float) -> str:
    """`2.2° early`, `1.0° late` or `at true TDC`: when a mark is met."""
    if abs(mark_error_deg) < SET_DEG / 2:
        return "at true TDC"
    if mark_error_deg > 0:
        return f"{mark_error_deg:.1f}° late"
    return f"{-mark_error_deg:.1f}° early"


def true_top(before: float, after: float, wheel: Wheel | None = None) -> TrueTop:
    """True TDC from two figures as they stood under the pointer.

    On a wheel that does not tell its side a figure beyond zero has a minus. Raises `EngineError`
    for a figure that is not on the wheel, and where the two cannot follow each other.

    >>> true_top(9.1, 13.5)
    TrueTop(half_span_deg=11.3, shift_deg=2.2, set_to_deg=11.3)
    >>> true_top(1.0, 9.0, Wheel(Scale.FULL))
    TrueTop(half_span_deg=4.0, shift_deg=5.0, set_to_deg=4.0)
    """
    wheel = wheel or Wheel()
    first = _running(wheel, before, before_tdc=True)
    second = _running(wheel, after, before_tdc=False)
    half = round(((second - first) % TURN_DEG) / 2, 9)
    if not 0 < half <= MOST_BESIDE_DEG:
        raise EngineError(
            "after",
            f"must follow the reading before TDC, but {after:g} does not follow {before:g}: were "
            "they changed about, read on the far side of zero, or is zero at BDC?",
        )
    error = (180.0 - first - half) % TURN_DEG - 180.0
    shift = -round(error, 9) + 0.0
    return TrueTop(half, shift, wheel.figure_deg(half))


def _running(wheel: Wheel, figure: float, *, before_tdc: bool) -> float:
    name = "before" if before_tdc else "after"
    if figure < 0 and wheel.scale is Scale.FULL:
        raise EngineError(name, "has no sign on this wheel: type the figure under the pointer")
    try:
        return wheel.running_deg(abs(figure), before=before_tdc, far_side=figure < 0)
    except EngineError as error:
        raise EngineError(name, str(error)) from None


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


def mirrored(before: float, after: float, wheel: Wheel, span: Span) -> tuple[str, float] | None:
    """The figure that was typed as degrees from TDC on a wheel that counts all round, or None.

    Only where the two as they stand do not fit their drop, and with that figure mirrored they do:
    its side ("before" or "after"), and what the pointer must have shown.

    >>> mirrored(9.1, 13.5, Wheel(Scale.FULL), Span(11.3, 0.0))
    ('before', 350.9)
    """
    if wheel.scale is not Scale.FULL:
        return None
    for side in ("before", "after"):
        read = {"before": before, "after": after}
        at_deg = wheel.running_deg(read[side], before=side == "before")
        read[side] = wheel.figure_deg(-at_deg)
        try:
            half_deg = true_top(read["before"], read["after"], wheel).half_span_deg
        except EngineError:
            continue
        if span_fits(half_deg, span):
            return side, round(read[side], 9)
    return None


@dataclass(frozen=True, slots=True)
class Fit:
    """Whether two readings can be those of their drop, and the words for it; `meant` is the side
    and the figure that would fit, where one was typed as degrees from TDC."""

    fits: bool
    words: str
    meant: tuple[str, float] | None = None


def fit_of(before: float, after: float, wheel: Wheel, span: Span, drop_mm: float) -> Fit:
    """Two figures as they stood under the pointer, held against what their drop needs.

    Raises `EngineError` as `true_top` does.

    >>> fit_of(9.1, 13.5, Wheel(Scale.FULL), Span(11.3, 0.0), 1.0).words
    'This drop needs ±11.3°, you have ±2.2°: did the wheel read 350.9 before TDC, and not 9.1?'
    """
    half_deg = true_top(before, after, wheel).half_span_deg
    words = span_words(half_deg, span, drop_mm)
    if span_fits(half_deg, span):
        return Fit(True, words)
    meant = mirrored(before, after, wheel, span)
    if meant is not None:
        side, figure = meant
        read = before if side == "before" else after
        words = (
            f"{words.partition(':')[0]}: did the wheel read {figure:g} {side} TDC, "
            f"and not {read:g}?"
        )
    return Fit(False, words, meant)


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
