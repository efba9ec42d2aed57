"""Centrelines from equal drops: pairs, their middles, what walks, what was misread, and the ±.

Readings are crank degrees as a trade says them: an intake nose after TDC (ATDC), an exhaust nose
before it (BTDC), both positive. ICL and ECL are the means of the middles; separation is (ICL + ECL)
/ 2 in cam degrees; advance (ECL − ICL)/2 in crank degrees (common practice, no source).
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import mean, median
from typing import Final

from true_compass.core.items import Kind
from true_compass.core.limits import EngineError

STANDS_STILL_DEG: Final = 1.0
MISREAD_DEG: Final = 1.5
"""How far one middle lies from the others before it is asked whether it was misread."""
LEAST_DEG: Final = 80.0
MOST_DEG: Final = 140.0
MOST_READ_DEG: Final = 260.0
NORMAL_95: Final = 1.96

SIDE: Final = {Kind.INTAKE: "ATDC", Kind.EXHAUST: "BTDC"}
"""How the readings of a nose are said."""
_SEEN: Final = {Kind.INTAKE: "falling", Kind.EXHAUST: "rising"}


@dataclass(frozen=True, slots=True)
class Pair:
    """Two readings at an equal drop from the nose, in running order, crank degrees ATDC or BTDC."""

    before_deg: float
    after_deg: float
    drop_mm: float | None = None
    kept: bool = False
    """Whether it counts although it looks misread: somebody read it again and it stands."""

    @property
    def middle_deg(self) -> float:
        """Half way between both."""
        return (self.before_deg + self.after_deg) / 2


@dataclass(frozen=True, slots=True)
class Nose:
    """What the pairs of one lobe say. Degrees ATDC for an intake, BTDC for an exhaust lobe.

    `used` tells for each pair whether its middle counts; one that looks misread does not.
    """

    kind: Kind
    pairs: tuple[Pair, ...]
    used: tuple[bool, ...]

    @property
    def middles_deg(self) -> tuple[float, ...]:
        """The middles that count."""
        return tuple(p.middle_deg for p, u in zip(self.pairs, self.used, strict=True) if u)

    @property
    def middle_deg(self) -> float:
        """Their mean."""
        return mean(self.middles_deg)

    @property
    def walk_deg(self) -> float:
        """Greatest less least of them."""
        return max(self.middles_deg) - min(self.middles_deg)

    @property
    def stands_still(self) -> bool:
        """Whether the middles agree to a degree."""
        return self.walk_deg <= STANDS_STILL_DEG

    @property
    def odd(self) -> tuple[int, ...]:
        """Places of the pairs that look misread."""
        return tuple(place for place, used in enumerate(self.used) if not used)

    @property
    def walk_words(self) -> str:
        """`stands still: walk 0.25°`, or what a walk points to."""
        if len(self.middles_deg) < 2:
            return "one pair: a second depth shows whether the middle walks"
        if self.stands_still:
            return f"stands still: walk {self.walk_deg:.2f}°"
        return f"walks {self.walk_deg:.2f}°: lopsided lobe or loose gauge"


def check_pair(kind: Kind, pair: Pair, piston_falls: bool | None = None) -> None:
    """Raise `EngineError` for a pair that cannot be, with what may have been meant.

    `piston_falls` is what was seen of that cylinder's piston at the nose, None where nobody looked:
    it falls at an intake nose and rises at an exhaust nose.
    """
    before, after, side = pair.before_deg, pair.after_deg, SIDE[kind]
    for name, value in (("before the nose", before), ("after the nose", after)):
        if not -MOST_READ_DEG <= value <= MOST_READ_DEG:
            raise EngineError(name, f"cannot be {value:g}° {side}: read the wheel again")
    in_order = before < after if kind is Kind.INTAKE else before > after
    if not in_order:
        grow = "grow" if kind is Kind.INTAKE else "fall"
        raise EngineError(
            "after the nose",
            f"must follow {before:g}° {side}, but {after:g}° does not: degrees {side} {grow} as "
            "the crank turns on. Were the two changed about, or is it the other valve?",
        )
    falls = kind is Kind.INTAKE
    if piston_falls is not None and piston_falls is not falls:
        seen, of = ("falls", "intake") if piston_falls else ("rises", "exhaust")
        raise EngineError(
            "piston",
            f"{seen} there, so it is an {of} nose, or the side of TDC was changed about: "
            f"an {kind.value} nose has its piston {_SEEN[kind]}",
        )
    if not LEAST_DEG <= pair.middle_deg <= MOST_DEG:
        raise EngineError(
            "middle",
            f"{pair.middle_deg:g}° {side} is no {kind.value} nose (they stand from {LEAST_DEG:g} "
            f"to {MOST_DEG:g}): other valve, other TDC, or a figure misread",
        )


def nose_of(kind: Kind, pairs: Sequence[Pair]) -> Nose:
    """What pairs say of a nose; a middle that lies apart from the others does not count.

    That needs at least two others which agree with each other. Raises `EngineError` for a pair that
    cannot be, and where there is none.

    >>> pairs = [Pair(92, 124), Pair(84.5, 131), Pair(78, 138.5)]
    >>> nose = nose_of(Kind.INTAKE, pairs)
    >>> nose.middle_deg, nose.walk_deg
    (108.0, 0.5)
    """
    if not pairs:
        raise EngineError(f"{kind.value} nose", "has no pair yet: read both sides of the nose")
    for pair in pairs:
        check_pair(kind, pair)
    return Nose(kind, tuple(pairs), tuple(_used(pairs, place) for place in range(len(pairs))))


def _used(pairs: Sequence[Pair], place: int) -> bool:
    others = [pair.middle_deg for row, pair in enumerate(pairs) if row != place]
    if pairs[place].kept or len(others) < 2:
        return True
    agree = max(others) - min(others) <= STANDS_STILL_DEG
    return not agree or abs(pairs[place].middle_deg - median(others)) <= MISREAD_DEG


def misread_words(nose: Nose) -> str:
    """`Middle 112.8, the others 107.6: misread?`, or empty."""
    if not nose.odd:
        return ""
    odd = nose.pairs[nose.odd[-1]].middle_deg
    return f"Middle {odd:.1f}, the others {nose.middle_deg:.1f}: misread?"


@dataclass(frozen=True, slots=True)
class Centrelines:
    """Where a cam stands, crank degrees but for the separation. None is what was not read."""

    icl_deg: float | None
    ecl_deg: float | None

    @property
    def separation_cam_deg(self) -> float | None:
        """Half of both together, in cam degrees."""
        if self.icl_deg is None or self.ecl_deg is None:
            return None
        return (self.icl_deg + self.ecl_deg) / 2

    @property
    def advance_deg(self) -> float | None:
        """Half of their difference; 0 is straight up."""
        if self.icl_deg is None or self.ecl_deg is None:
            return None
        return (self.ecl_deg - self.icl_deg) / 2

    def advance_by_card_deg(self, separation_cam_deg: float) -> float | None:
        """Advance from one nose alone. It rests on the card's separation, so that must be said."""
        if self.icl_deg is not None:
            return separation_cam_deg - self.icl_deg
        return None if self.ecl_deg is None else self.ecl_deg - separation_cam_deg


@dataclass(frozen=True, slots=True)
class Disorder:
    """Two readings on one side of a nose that cannot both be: their places, and what they are.

    `after` tells the side. `words` name both, each with its drop where that is known.
    """

    kind: Kind
    after: bool
    places: tuple[int, int]
    words: str


def disorder_of(
    kind: Kind, after: bool, readings: Sequence[tuple[float | None, float | None]]
) -> Disorder | None:
    """The first two readings of one side of a nose that contradict each other, or None.

    Each reading is (drop in mm, degrees ATDC or BTDC); None is what is missing. As the drop
    shrinks, the running angle grows before the nose and falls after it.

    >>> told = disorder_of(Kind.INTAKE, False, [(0.40, 92.0), (0.25, 124.0), (0.10, 87.0)])
    >>> told.places, told.words
    ((1, 2), '0.25 mm read at 124 and 0.10 mm at 87')
    >>> disorder_of(Kind.EXHAUST, False, [(0.40, 142.0), (0.25, 135.5), (0.10, 128.0)])
    """
    rows = [
        (drop, at, place)
        for place, (drop, at) in enumerate(readings)
        if drop is not None and at is not None
    ]
    rows.sort(key=lambda row: -row[0])
    towards = (1.0 if kind is Kind.INTAKE else -1.0) * (-1.0 if after else 1.0)
    for (deep, outer, one), (shallow, inner, two) in itertools.pairwise(rows):
        if deep > shallow + 1e-9 and towards * (inner - outer) <= 0:
            words = f"{deep:.2f} mm read at {outer:g} and {shallow:.2f} mm at {inner:g}"
            return Disorder(kind, after, (one, two), words)
    return None


def crossing_of(kind: Kind, pairs: Sequence[Pair]) -> Disorder | None:
    """Two pairs of which neither lies inside the other, so that no depths fit them; or None.

    >>> crossing_of(Kind.INTAKE, [Pair(92, 124), Pair(84.5, 121)]).words
    '92/124 and 84.5/121'
    """
    outside_in = sorted(range(len(pairs)), key=lambda place: -abs(_width(pairs[place])))
    for one, two in itertools.pairwise(outside_in):
        outer, inner = pairs[one], pairs[two]
        sign = 1.0 if kind is Kind.INTAKE else -1.0
        before = sign * (inner.before_deg - outer.before_deg)
        after = sign * (outer.after_deg - inner.after_deg)
        if min(before, after) < 0:
            places = (min(one, two), max(one, two))
            told = " and ".join(
                f"{pairs[place].before_deg:g}/{pairs[place].after_deg:g}" for place in places
            )
            return Disorder(kind, before >= 0, places, told)
    return None


def _width(pair: Pair) -> float:
    return pair.after_deg - pair.before_deg


def later_deg(kind: Kind, stands_deg: float, card_deg: float) -> float:
    """How much later than the card's a nose stands, crank degrees; negative is earlier.

    An intake nose at 108 after TDC is 2 later than the card's 106; an exhaust nose at 108 before
    TDC is 2 earlier than that.
    """
    later = stands_deg - card_deg
    return later if kind is Kind.INTAKE else -later


def late_words(later: float) -> str:
    """`2.4° late`, `1.0° early`, or `as on the card`."""
    if abs(later) < 0.05:
        return "as on the card"
    return f"{later:.1f}° late" if later > 0 else f"{-later:.1f}° early"


@dataclass(frozen=True, slots=True)
class Doubt:
    """What a reading may be out by. `wheel_deg` is half the step of the wheel with the eye at the
    pointer, `gauge_mm` half a step of the indicator; both are even over their width."""

    wheel_deg: float
    gauge_mm: float

    @staticmethod
    def of(wheel_mm: float, wheel_step_deg: float, gauge_step_mm: float) -> "Doubt":
        """From the wheel's diameter, the step to which it is read, and the indicator's step.

        A pointer is read to a quarter of a millimetre of rim (common practice, no source).
        """
        eye_deg = EYE_MM / (math.pi * wheel_mm / 360.0)
        return Doubt(math.hypot(wheel_step_deg / 2, eye_deg), gauge_step_mm / 2)


EYE_MM: Final = 0.25


def nose_plus_minus_deg(
    slopes_mm_per_deg: Sequence[tuple[float, float]], doubt: Doubt, top_deg: float = 0.0
) -> float:
    """The ± of a nose (95 %) from the slopes of the curve at each pair's two readings.

    A reading's standard deviation is that of an even spread, width/√12; a gauge step counts as the
    angle that it is on the curve. The indicator's zero at the nose is shared by a pair's readings,
    and it moves them apart, not their middle. `top_deg` is the standard deviation of true TDC.
    """
    variance = 0.0
    for before, after in slopes_mm_per_deg:
        for slope in (before, after):
            gauge_deg = doubt.gauge_mm / max(abs(slope), 1e-6)
            variance += (doubt.wheel_deg**2 + gauge_deg**2) / 3.0
    count = 2 * len(slopes_mm_per_deg)
    return NORMAL_95 * math.sqrt(variance / count**2 + top_deg**2)


def top_deviation_deg(slope_mm_per_deg: float, doubt: Doubt) -> float:
    """Standard deviation of true TDC: the mean of two readings at an equal drop."""
    gauge_deg = doubt.gauge_mm / max(abs(slope_mm_per_deg), 1e-6)
    return math.sqrt((doubt.wheel_deg**2 + gauge_deg**2) / 3.0 / 2.0)
