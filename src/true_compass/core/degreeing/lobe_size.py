"""A lobe measured off the engine or on it: micrometer or indicator, wear, taper, run-out.

Lobe lift is heel-to-nose less the base circle, which is measured square to the nose. That cannot be
where the ramps reach past 90 cam degrees from the nose. A micrometer's zero error is taken off both
figures; an indicator's turns are counted. Valve lift is lobe lift × ratio less the lash at the
valve (common practice, no source).
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Final

from true_compass.core.items import Item, Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.units import MM_PER_INCH, parse_length_mm, split_number
from true_compass.core.words import capital

SQUARE_CAM_DEG: Final = 90.0
AGREE_MM: Final = 0.02
"""How far micrometer and indicator may lie apart on one lobe."""
FEWEST_SIBLINGS: Final = 4
WORN_MM: Final = 0.05
MOST_SHARE: Final = 0.5
"""No lobe lifts more than half of its base circle's width (common practice, no source)."""
USUAL_SHARE: Final = 0.25
SLIPS_MM: Final = ((25.0, "25"), (MM_PER_INCH, "an inch"))
"""What a micrometer's figure is out by when the standard of its frame is left out: in mm, and one
that reads inches."""
SLIP_SHARE: Final = 0.04
MOST_APART_MM: Final = 1.0
"""How far front, middle and rear of a lobe may differ before one is read again."""
NORMAL: Final = 1.4826
WIDTHS: Final = 3.5
LEAST_LIFT_MM: Final = 0.5
LEAST_SIZE_MM: Final = 3.0
MOST_SIZE_MM: Final = 400.0


def parse_size_mm(field: str, text: str, unit: str = "mm") -> float:
    """A micrometer's figure, with what its frame adds: `11.02+25`, `36.02`, `1.418 in`.

    Raises `EngineError` for what is no size of a lobe, and says where the other unit was meant.

    >>> [round(parse_size_mm("base", *said), 2) for said in (("11.02+25",), ("1.5", "in"))]
    [36.02, 38.1]
    """
    parts = [part for part in text.split("+") if part.strip()]
    if not 1 <= len(parts) <= 2:
        raise EngineError(field, f"must be a size such as 36.02 or 11.02+25, not {text[:20]!r}")
    total = sum(parse_length_mm(field, part, unit) for part in parts)
    if not LEAST_SIZE_MM <= total <= MOST_SIZE_MM:
        told = f"cannot be {text.strip()} {unit}, {total:.4g} mm"
        other_mm = total / MM_PER_INCH if unit == "in" else total * MM_PER_INCH
        way_out = ""
        if LEAST_SIZE_MM <= other_mm <= MOST_SIZE_MM and not re.search(r"[a-z]", text):
            other = "mm" if unit == "in" else "in"
            way_out = f": was {text.strip()} {other} meant?"
        raise EngineError(field, told + way_out)
    return total


def is_in_inches(text: str) -> bool:
    """Whether a micrometer's figure, as `parse_size_mm` takes it, has the unit of one that reads
    inches.

    >>> is_in_inches("1.418 in"), is_in_inches("11.02+25")
    (True, False)
    """
    return split_number("size", text.split("+")[0], "a size such as 36.02")[1] not in ("", "mm")


def lobe_lift_mm(base_mm: float, nose_mm: float, *, inches: bool = False) -> float:
    """Heel to nose less the base circle; the zero error of one micrometer drops out.

    >>> round(lobe_lift_mm(36.02, 44.86), 2)
    8.84
    """
    if nose_mm <= base_mm:
        likely = _likely(base_mm, nose_mm, inches=inches)
        raise EngineError(
            "nose",
            f"must be more than the base circle's {base_mm:g} mm, not {nose_mm:g}: "
            + (likely or "were the two changed about?"),
        )
    return nose_mm - base_mm


def slip_words(base_mm: float, nose_mm: float, *, inches: bool = False) -> str:
    """Why a lobe cannot be as it was read, with what was likely left out; empty where it can be.

    >>> slip_words(10.5, 41.2)
    'No lobe lifts 30.70 mm on a base circle of 10.5 mm: 25 forgotten at the base circle?'
    >>> slip_words(30.0, 44.0)
    ''
    """
    if nose_mm - base_mm <= MOST_SHARE * base_mm:
        return ""
    return f"No lobe lifts {nose_mm - base_mm:.2f} mm on a base circle of {base_mm:g} mm: " + (
        _likely(base_mm, nose_mm, inches=inches) or "measure both again."
    )


def _likely(base_mm: float, nose_mm: float, *, inches: bool) -> str:
    """What would make a lobe of two figures, the likeliest first; or nothing."""
    slip_mm, name = SLIPS_MM[inches]
    ways = (
        (nose_mm, base_mm, "were the two changed about?"),
        (base_mm + slip_mm, nose_mm, f"{name} forgotten at the base circle?"),
        (base_mm, nose_mm + slip_mm, f"{name} forgotten over the nose?"),
        (base_mm, nose_mm - slip_mm, f"{name} too many over the nose?"),
        (base_mm - slip_mm, nose_mm, f"{name} too many at the base circle?"),
        (base_mm + slip_mm, nose_mm + slip_mm, f"{name} forgotten at both?"),
    )
    can = [
        (abs((nose - base) / base - USUAL_SHARE), words)
        for base, nose, words in ways
        if base >= LEAST_SIZE_MM and LEAST_LIFT_MM <= nose - base <= MOST_SHARE * base
    ]
    return min(can)[1] if can else ""


def step_words(lift_mm: float, others_mm: Sequence[float], turn_mm: float | None = None) -> str:
    """Why a lift cannot be, beside the other lobes of its kind: it lies one step away from them.

    A step is a standard, an inch, or with `turn_mm` a turn of the dial. Empty where it can be, and
    with fewer than two others.

    >>> step_words(7.84, [8.85, 8.83, 8.84], 1.0)
    'It lifts 7.84 mm and the others 8.84: a turn of the dial forgotten?'
    >>> step_words(8.60, [8.85, 8.83, 8.84], 1.0)
    ''
    """
    if len(others_mm) < 2:
        return ""
    middle = median(others_mm)
    steps = SLIPS_MM if turn_mm is None else ((turn_mm, "a turn of the dial"),)
    for step_mm, name in steps:
        apart = lift_mm - middle
        if abs(abs(apart) - step_mm) <= max(SLIP_SHARE * step_mm, AGREE_MM):
            way = "too many" if apart > 0 else "forgotten"
            return f"It lifts {lift_mm:.2f} mm and the others {middle:.2f}: {name} {way}?"
    return ""


def apart_words(lifts_mm: Mapping[str, float]) -> str:
    """Why front, middle and rear of a lobe, by their names, cannot all be; empty where they can.

    >>> apart_words({"front": 8.84, "middle": 8.83, "rear": 33.84})
    'Front 8.84, middle 8.83, rear 33.84 mm cannot be one lobe: read them again.'
    """
    if len(lifts_mm) < 2 or max(lifts_mm.values()) - min(lifts_mm.values()) <= MOST_APART_MM:
        return ""
    told = ", ".join(f"{name} {lift:.2f}" for name, lift in lifts_mm.items())
    return f"{capital(told)} mm cannot be one lobe: read them again."


def indicator_lift_mm(heel: float, turns: int, nose: float, per_turn_mm: float = 1.0) -> float:
    """Lift by an indicator: whole turns counted, and the figures at heel and reversal.

    Figures are in mm of the dial's own turn.

    >>> round(indicator_lift_mm(0.0, 3, 0.048 * 25.4, 2.54), 3)
    8.839
    """
    for name, value in (("heel", heel), ("nose", nose)):
        if not 0 <= value <= per_turn_mm:
            raise EngineError(
                name, f"must be from 0 to {per_turn_mm:g} mm, one turn of this dial, not {value:g}"
            )
    if not 0 <= turns <= 100:
        raise EngineError("turns", f"must be 0 to 100, not {turns}")
    lift = turns * per_turn_mm + nose - heel
    if lift <= 0:
        raise EngineError("turns", f"counted make no lift ({lift:g} mm): was a turn forgotten?")
    return lift


def two_ways_words(micrometer_mm: float, indicator_mm: float, per_turn_mm: float) -> str:
    """Empty where both ways agree; else which turns would make them, or that one is misread."""
    apart = micrometer_mm - indicator_mm
    if abs(apart) <= AGREE_MM + 1e-9:
        return ""
    turns = round(apart / per_turn_mm)
    if turns and abs(apart - turns * per_turn_mm) <= 2 * AGREE_MM:
        way = "forgotten" if turns > 0 else "too many"
        counted = f"{abs(turns)} turn" if abs(turns) == 1 else f"{abs(turns)} turns"
        return f"The two ways are {abs(apart):.2f} mm apart: {counted} {way}?"
    return f"The two ways are {abs(apart):.2f} mm apart: measure both again."


def square_reaches_heel(rig: Rig, kind: Kind) -> bool:
    """Whether the base circle can be measured square to the nose on this cam.

    Not where a ramp reaches past 90 cam degrees from the nose, which is 180 crank degrees.
    """
    row = rig.engine.valve_row(1, kind)
    half = float(rig.lobes.arc_half_deg[:, row].max())
    return half <= 2 * SQUARE_CAM_DEG


def valve_lift_mm(lobe_mm: float, ratio: float, lash_mm: float) -> float:
    """Lift at the valve: the lobe's times the ratio, less the lash at the valve.

    >>> round(valve_lift_mm(8.84, 1.6, 0.3), 3)
    13.844
    """
    return max(lobe_mm * ratio - lash_mm, 0.0)


@dataclass(frozen=True, slots=True)
class Place:
    """One place along a lobe: its base circle and its size over the nose, mm, zero error off."""

    base_mm: float
    nose_mm: float

    @property
    def lift_mm(self) -> float:
        """Lobe lift there."""
        return self.nose_mm - self.base_mm


@dataclass(frozen=True, slots=True)
class LobeState:
    """What the places along a lobe say: lowest lift and where, taper, and run-out of the heel."""

    lifts_mm: tuple[float, ...]
    lowest_mm: float
    lowest_at: int
    taper_mm: float
    run_out_mm: float


def lobe_state(places: Sequence[Place]) -> LobeState:
    """Wear along one lobe. `taper_mm` is its highest lift less its lowest."""
    lifts = tuple(place.lift_mm for place in places)
    bases = [place.base_mm for place in places]
    lowest = min(lifts)
    return LobeState(
        lifts, lowest, lifts.index(lowest), max(lifts) - lowest, max(bases) - min(bases)
    )


@dataclass(frozen=True, slots=True)
class Among:
    """A lobe held against the others of its kind: their median, and how far it may lie below."""

    lowest: Item
    lift_mm: float
    others_mm: float
    bound_mm: float | None
    """None with fewer than four others: then nothing is said of one lobe."""

    @property
    def low_by_mm(self) -> float:
        """How far it lies below the others."""
        return self.others_mm - self.lift_mm

    @property
    def points_to_wear(self) -> bool:
        """Whether it lies below the others by more than they differ among themselves."""
        return self.bound_mm is not None and self.low_by_mm > self.bound_mm


def among(lifts_mm: Mapping[Item, float], step_mm: float = 0.01) -> Among | None:
    """The lowest lobe of a kind against the others; None where there are not two.

    The bound is the largest of 0.05 mm, three steps of the gauge and 3.5 robust standard deviations
    of the others.
    """
    if len(lifts_mm) < 2:
        return None
    lowest = min(lifts_mm, key=lambda item: lifts_mm[item])
    others = [lift for item, lift in lifts_mm.items() if item != lowest]
    middle = median(others)
    bound = None
    if len(others) >= FEWEST_SIBLINGS - 1:
        spread = WIDTHS * NORMAL * median(abs(lift - middle) for lift in others)
        bound = max(WORN_MM, 3 * step_mm, spread)
    return Among(lowest, lifts_mm[lowest], middle, bound)
