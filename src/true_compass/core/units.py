"""Lengths as people type them: millimetres, inches or thou."""

import math
import re
from typing import Final

from true_compass.core.limits import EngineError

MM_PER_INCH: Final = 25.4
MM_PER_THOU: Final = MM_PER_INCH / 1000
_UNITS: Final = {
    "": 1.0,
    "mm": 1.0,
    "cm": 10.0,
    "in": MM_PER_INCH,
    '"': MM_PER_INCH,
    "inch": MM_PER_INCH,
    "thou": MM_PER_THOU,
}
_NUMBER: Final = re.compile(r"\s*([+-]?(?:\d+\.?\d*|\.\d+))\s*(mm|cm|inch|in|thou|\")?\s*")


def parse_length_mm(field: str, text: str) -> float:
    """Read `94`, `94 mm`, `3.7 in`, `3.7"` or `12 thou` as mm.

    >>> round(parse_length_mm("bore_mm", "3.7 in"), 2)
    93.98
    """
    match = _NUMBER.fullmatch(text.replace("\u2212", "-").replace(",", "."))
    if match is None:
        raise EngineError(field, f"must be a length such as 94 or 3.7 in, not {text.strip()!r}")
    return float(match[1]) * _UNITS[match[2] or ""]


def parse_number(field: str, text: str) -> float:
    """Read a plain number; a degree sign after it is fine."""
    cleaned = text.strip().rstrip("°").strip().replace("\u2212", "-").replace(",", ".")
    try:
        value = float(cleaned)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise EngineError(field, f"must be a plain number such as 15, not {text.strip()!r}")
    return value


def parse_numbers(field: str, text: str) -> list[float]:
    """Read numbers with spaces between them; nothing is an empty list."""
    return [parse_number(field, part) for part in text.replace(";", " ").split()]
