"""What people type with a unit, and how it is shown again: lengths, gaps, torques, plain numbers.

Inside the program lengths are mm and torques N·m; thou, inches and lbf·ft stand at the edge only.
"""

import math
import re
from enum import Enum
from typing import Final

from true_compass.core.limits import EngineError

MM_PER_INCH: Final = 25.4
MM_PER_THOU: Final = MM_PER_INCH / 1000
NM_PER_LBF_FT: Final = 1.3558179483314004
"""One pound-force foot: 0.45359237 kg × 9.80665 m/s² × 0.3048 m (BIPM and ISO 80000, exact)."""
PA_PER_INHG: Final = 3386.389
"""One inch of mercury at 0 °C (NIST SP 811, 2008 edition, B.8)."""
MBAR_PER_INHG: Final = PA_PER_INHG / 100
MOST_DEPRESSION_MBAR: Final = 1000.0
MOST_DIGITS: Final = 40

_LENGTHS: Final = {
    "mm": 1.0,
    "cm": 10.0,
    "in": MM_PER_INCH,
    '"': MM_PER_INCH,
    "inch": MM_PER_INCH,
    "thou": MM_PER_THOU,
}
_TORQUES: Final = {"nm": 1.0} | dict.fromkeys(("lbfft", "ftlbf", "lbft", "ftlb"), NM_PER_LBF_FT)
_PRESSURES: Final = {"mbar": 1.0, "hpa": 1.0, "kpa": 10.0, "inhg": MBAR_PER_INHG}
_QUANTITY: Final = re.compile(r"([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(\D*)", re.ASCII)
_MINUS: Final = str.maketrans({"\u2212": "-", "\u2013": "-"})


class GapUnit(Enum):
    """The unit of the blades of an engine: what a gap typed without a unit means."""

    MM = "mm"
    THOU = "thou"

    @property
    def other(self) -> "GapUnit":
        """The other unit of blades."""
        return GapUnit.THOU if self is GapUnit.MM else GapUnit.MM

    @property
    def in_mm(self) -> float:
        """One of it in mm."""
        return 1.0 if self is GapUnit.MM else MM_PER_THOU


def split_number(field: str, text: str, example: str) -> tuple[float, str]:
    """A number and what stands behind it. A comma before exactly three digits is asked back.

    >>> split_number("bore_mm", "1,5 mm", "94 mm")
    (1.5, 'mm')
    """
    cleaned = text.translate(_MINUS).strip()
    match = _QUANTITY.fullmatch(cleaned) if len(cleaned) <= MOST_DIGITS else None
    if match is None:
        raise EngineError(field, f"must be {example}, not {text.strip()[:20]!r}")
    number, unit = match[1], match[2].strip()
    whole, comma, rest = number.partition(",")
    if comma and len(rest) == 3 and whole.lstrip("+-"):
        raise EngineError(field, f"may be {whole}{rest} or {whole}.{rest}: write it so, not {text}")
    return float(number.replace(",", ".")), unit


def parse_depression_mbar(field: str, text: str, bare: str = "") -> float:
    """Read `250 mbar`, `25 kPa` or `7.4 inHg` as mbar of depression; a bare number is in `bare`.

    Raises `EngineError` without a unit, below 0, and beyond an empty manifold.

    >>> round(parse_depression_mbar("vacuum", "7.4inHg"), 1)
    250.6
    """
    value, unit = split_number(field, text, "a depression such as 250 mbar, 25 kPa or 7.4 inHg")
    factor = _PRESSURES.get((unit or bare).lower().replace(" ", ""))
    if factor is None:
        raise EngineError(
            field, f"needs its unit: {value:g} mbar, {value:g} kPa or {value:g} inHg?"
        )
    if value < 0:
        raise EngineError(
            field,
            f"is how far below the air outside, so 0 or more: {-value:g} {unit or bare}?",
        )
    mbar = value * factor
    if mbar > MOST_DEPRESSION_MBAR:
        raise EngineError(
            field, f"of {text.strip()[:20]} is more than an empty manifold has: is the unit right?"
        )
    return mbar


def parse_length_mm(field: str, text: str, bare: str = "mm") -> float:
    """Read `94`, `94 mm`, `3.7 in`, `3.7"` or `12 thou` as mm; a bare number is in `bare`.

    >>> round(parse_length_mm("bore_mm", "3.7 in"), 2)
    93.98
    """
    value, unit = split_number(field, text, "a length such as 94 or 3.7 in")
    factor = _LENGTHS.get(unit or bare)
    if factor is None:
        raise EngineError(
            field, f"must be a length such as 94 or 3.7 in, not {text.strip()[:20]!r}"
        )
    return value * factor


def parse_torque_nm(field: str, text: str) -> float:
    """Read `27`, `27 N·m` or `20 lbf·ft` as N·m.

    >>> round(parse_torque_nm("torque_nm", "20 lbf·ft"), 2)
    27.12
    """
    value, unit = split_number(field, text, "a torque such as 27 N·m or 20 lbf·ft")
    plain = re.sub(r"[\s.·*-]", "", unit).lower()
    if plain and plain not in _TORQUES:
        raise EngineError(
            field, f"must be a torque such as 27 N·m or 20 lbf·ft, not {text.strip()[:20]!r}"
        )
    return value * _TORQUES.get(plain, 1.0)


def torque_words(nm: float) -> str:
    """A torque in both units: `25 N·m (18 lbf·ft)`.

    >>> torque_words(25.0)
    '25 N·m (18 lbf·ft)'
    """
    return f"{nm:g} N·m ({nm / NM_PER_LBF_FT:.0f} lbf·ft)"


def parse_number(field: str, text: str) -> float:
    """Read a plain number; a degree sign after it is fine."""
    value, unit = split_number(field, text.strip().rstrip("°"), "a plain number such as 15")
    if unit or not math.isfinite(value):
        raise EngineError(field, f"must be a plain number such as 15, not {text.strip()[:20]!r}")
    return value


_BESIDE: Final = re.compile(r"(.*?)°?\s*(before|after|b|a)\.?\s*(?:[tb]dc)?", re.IGNORECASE)


def parse_beside(field: str, text: str, *, before: bool) -> float:
    """Degrees beside a dead centre: a plain number, or with its side said in words.

    `before` is the side that a plain number means; the other side comes out negative.

    >>> parse_beside("trip", "5 after", before=True), parse_beside("trip", "10 BTDC", before=True)
    (-5.0, 10.0)
    >>> parse_beside("closes", "-4", before=False)
    -4.0
    """
    match = _BESIDE.fullmatch(text.strip())
    if match is None:
        return parse_number(field, text)
    value = parse_number(field, match[1])
    if value < 0:
        raise EngineError(field, f"has a sign and a side: say {abs(value):g} {match[2]}")
    return value if match[2].lower().startswith("b") is before else -value


def parse_numbers(field: str, text: str) -> list[float]:
    """Read numbers with spaces between them; nothing is an empty list."""
    return [parse_number(field, part) for part in text.replace(";", " ").split()]


_FRACTIONS: Final = {"⅛": 0.125, "¼": 0.25, "⅜": 0.375, "½": 0.5, "⅝": 0.625, "¾": 0.75, "⅞": 0.875}
_TURNS: Final = re.compile(r"(.*?)\s*(?:of a\s+)?(?:turns?|t)", re.IGNORECASE)
_PARTS: Final = re.compile(r"(?:(\d+)\s+)?(\d+)/(\d+)", re.ASCII)


def parse_turns(field: str, text: str) -> float | None:
    """Turns of an adjuster: `1 t`, `¾ turn`, `1 1/2 turns`, `0.75 of a turn`; None for other units.

    Raises `EngineError` where it is turns, and not readable.

    >>> parse_turns("I1", "¾ turn"), parse_turns("I1", "1 1/2 t"), parse_turns("I1", "0.2 mm")
    (0.75, 1.5, None)
    """
    match = _TURNS.fullmatch(text.strip())
    if match is None:
        return None
    count = match[1].strip()
    parts = _PARTS.fullmatch(count)
    if parts is not None and int(parts[3]):
        return int(parts[1] or 0) + int(parts[2]) / int(parts[3])
    if count and count[-1] in _FRACTIONS:
        whole = parse_number(field, count[:-1]) if count[:-1].strip() else 0.0
        return whole + _FRACTIONS[count[-1]]
    return parse_number(field, count)


MOST_GAP_MM: Final = 2.0
LEAST_BLADE_MM: Final = 0.02
"""A gap of less can hardly be measured with a blade: another unit was meant (common practice)."""


def parse_gap_mm(text: str, unit: GapUnit, target_mm: float) -> float:
    """A measured gap in mm, by its written unit or that of the engine's blades.

    Raises `EngineError` for what is no gap, and asks back what can hardly be one: over four times
    the target, and never over 2 mm; or, without a unit, less than the thinnest blade and not 0.

    >>> parse_gap_mm("0.2", GapUnit.MM, 0.25), round(parse_gap_mm("8", GapUnit.THOU, 0.25), 4)
    (0.2, 0.2032)
    """
    gap_mm = parse_length_mm("measured gap", text, unit.value)
    if gap_mm < 0:
        raise EngineError("measured gap", "cannot be less than nothing: with no gap at all write 0")
    most_mm = min(4 * target_mm, MOST_GAP_MM) if target_mm > 0 else MOST_GAP_MM
    bare = not split_number("measured gap", text, "a gap")[1]
    least_mm = LEAST_BLADE_MM if bare and target_mm > 0 else 0.0
    if gap_mm > most_mm + 1e-9 or 0 < gap_mm < least_mm * (1 - 1e-9):
        raise ImplausibleGapError(gap_mm, text, unit)
    return gap_mm


class ImplausibleGapError(EngineError):
    """A gap that can hardly be meant. Asked twice, `gap_mm` is taken."""

    def __init__(self, gap_mm: float, text: str, unit: GapUnit) -> None:
        number, written = split_number("measured gap", text, "a gap")
        told = GapUnit.THOU if (written or unit.value) == "thou" else GapUnit.MM
        there_mm = number * told.other.in_mm
        asked = f"is {number:g} {written or told.value}?"
        if gap_mm < LEAST_BLADE_MM and number * MM_PER_INCH <= MOST_GAP_MM:
            # 0.006 is 6 thou to whoever thinks in inches, 0.15 is a blade in mm.
            inches_mm = number * MM_PER_INCH
            asked = f"{asked} {number:g} in is {inches_mm:.2f} mm, or {thou_words(inches_mm)}"
        elif told is GapUnit.MM:
            asked = f"{asked} {number:g} thou is {there_mm:.2f} mm"
        elif there_mm <= MOST_GAP_MM:
            asked = f"{asked} {number:g} mm is {thou_words(there_mm)}"
        super().__init__("measured gap", asked)
        self.gap_mm = gap_mm


def thou_words(mm: float) -> str:
    """A length in thou, to a tenth: `9.8 thou`, `10 thou`."""
    return f"{round(mm / MM_PER_THOU, 1):g} thou"


def gap_words(mm: float, unit: GapUnit = GapUnit.MM) -> str:
    """A gap in both units, that of the engine's blades first.

    >>> gap_words(0.25), gap_words(0.2032, GapUnit.THOU)
    ('0.25 mm (9.8 thou)', '8 thou (0.20 mm)')
    """
    if unit is GapUnit.MM:
        return f"{mm:.2f} mm ({thou_words(mm)})"
    return f"{thou_words(mm)} ({mm:.2f} mm)"


def gap_short(mm: float, unit: GapUnit) -> str:
    """A gap as a figure in the unit of the blades, where that unit stands beside it.

    >>> gap_short(0.25, GapUnit.MM), gap_short(0.25, GapUnit.THOU)
    ('0.25', '9.8')
    """
    return f"{mm:.2f}" if unit is GapUnit.MM else f"{round(mm / MM_PER_THOU, 1):g}"


def gap_in(mm: float, unit: GapUnit) -> str:
    """A gap in the unit of the blades alone: `0.25 mm`, `9.8 thou`."""
    return f"{gap_short(mm, unit)} {unit.value}"


def change_in(mm: float, unit: GapUnit) -> str:
    """A change of a gap with its sign, + wider: `+0.02 mm`, `−0.8 thou`."""
    figure = f"{mm:+.2f}" if unit is GapUnit.MM else f"{mm / MM_PER_THOU:+.1f}"
    return f"{figure} {unit.value}".replace("-", "−")


def band_words(band_mm: tuple[float, float], unit: GapUnit = GapUnit.MM) -> str:
    """Both ends of a band in the unit of the blades: `0.15 to 0.25 mm`, `6 to 10 thou`."""
    low, high = band_mm
    if unit is GapUnit.MM:
        return f"{low:.2f} to {high:.2f} mm"
    return f"{thou_words(low).removesuffix(' thou')} to {thou_words(high)}"


_METRIC: Final = re.compile(r"M(\d+\.?\d*)\s*[xX×]\s*(\d+\.?\d*)", re.ASCII)
_INCH: Final = re.compile(r"(?:#?\d+|\d+/\d+)\s*-\s*(\d+)", re.ASCII)


def parse_thread_mm(text: str) -> float:
    """The pitch of a thread in mm.

    >>> parse_thread_mm("M8x1.25"), round(parse_thread_mm("3/8-24"), 4)
    (1.25, 1.0583)
    """
    metric, inch = _METRIC.fullmatch(text.strip()), _INCH.fullmatch(text.strip())
    pitch = 0.0
    if metric:
        pitch = float(metric[2])
    elif inch and len(inch[1]) < 4 and int(inch[1]):
        pitch = MM_PER_INCH / int(inch[1])
    if not 0.2 <= pitch <= 6.0:
        raise EngineError("thread", f"must be a thread such as M8x1 or 3/8-24, not {text[:20]!r}")
    return pitch
