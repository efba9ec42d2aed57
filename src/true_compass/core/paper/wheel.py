"""A degree wheel to be cut out: its size, its kinds of scale, and the sheets that it takes.

A wheel's figures grow against the running direction, so that a fixed pointer reads degrees after
TDC (arithmetic of a turning scale under a fixed mark).
"""

import math
from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.core.angles import TURN_DEG
from true_compass.core.degreeing.wheel import Scale, Wheel
from true_compass.core.limits import EngineError
from true_compass.core.units import MM_PER_INCH

LEAST_MM, MOST_MM = 50.0, 1500.0
LEAST_RIM_MM: Final = 18.0
"""What a wheel needs between hole and rim, for its ticks and figures."""
LAP_MM: Final = 10.0
"""By how much neighbouring sheets of a large wheel lie over one another."""
MOST_SHEETS: Final = 30


class Face(Enum):
    """How a paper wheel is graduated."""

    FULL = "0-360"
    SPLIT = "0-180-0"
    QUARTERS = "quarters"
    PROTRACTOR = "protractor"

    @property
    def words(self) -> str:
        """As a person says it."""
        if self is Face.PROTRACTOR:
            return "protractor, either way up"
        return Scale(self.value).words

    @property
    def wheel(self) -> Wheel:
        """The wheel that its outer row of figures makes."""
        return Wheel(Scale.SPLIT if self is Face.PROTRACTOR else Scale(self.value))

    def figure(self, after_tdc_deg: float) -> str:
        """The figure at a place, in its outer row."""
        return f"{self.wheel.figure_deg(after_tdc_deg):g}"

    def second_figure(self, after_tdc_deg: float) -> str:
        """The figure of the row that is upright when a protractor hangs upside down; or nothing."""
        if self is not Face.PROTRACTOR:
            return ""
        return f"{self.wheel.figure_deg(after_tdc_deg + TURN_DEG / 2):g}"


@dataclass(frozen=True, slots=True)
class PaperWheel:
    """A wheel: diameter of its rim and of its hole, mm. Raises `EngineError` for a wrong size.

    >>> round(PaperWheel(180.0).degree_mm, 2)
    1.57
    """

    diameter_mm: float = 180.0
    hole_mm: float = 20.0
    face: Face = Face.SPLIT

    def __post_init__(self) -> None:
        check_size("diameter", self.diameter_mm, LEAST_MM, MOST_MM)
        most = self.diameter_mm - 2 * LEAST_RIM_MM
        if not 0 <= self.hole_mm <= most:
            raise EngineError(
                "hole",
                f"must be from 0 to {most:g} mm in a wheel of {self.diameter_mm:g} mm, "
                f"not {self.hole_mm:g}",
            )

    @property
    def degree_mm(self) -> float:
        """One degree along the rim, mm."""
        return math.pi * self.diameter_mm / TURN_DEG


def check_size(field: str, value_mm: float, least_mm: float, most_mm: float) -> None:
    """Raise `EngineError` for a size out of its limits, and ask back what may be inches."""
    if math.isfinite(value_mm) and least_mm <= value_mm <= most_mm:
        return
    way_out = ""
    if 0 < value_mm < least_mm <= value_mm * MM_PER_INCH <= most_mm:
        way_out = f": is that inches? Write {value_mm:g} in"
    raise EngineError(
        field, f"must be from {least_mm:g} to {most_mm:g} mm, not {value_mm:g}{way_out}"
    )


@dataclass(frozen=True, slots=True)
class Tile:
    """A sheet of a large wheel. `left_mm` and `top_mm` are its corner from the wheel's middle."""

    row: int
    column: int
    left_mm: float
    top_mm: float


@dataclass(frozen=True, slots=True)
class Tiles:
    """The sheets of a large wheel, row by row; each shows `wide_mm` × `high_mm` of it."""

    rows: int
    columns: int
    wide_mm: float
    high_mm: float
    sheets: tuple[Tile, ...]


def tiles_of(diameter_mm: float, wide_mm: float, high_mm: float) -> Tiles:
    """The sheets that a wheel takes, each with room for `wide_mm` × `high_mm` of it.

    Neighbours share 10 mm. Raises `EngineError` where it takes more than 30.

    >>> plan = tiles_of(300.0, 178.0, 240.0)
    >>> plan.rows, plan.columns
    (2, 2)
    """
    size = diameter_mm + 2.0
    columns = _count(size, wide_mm)
    rows = _count(size, high_mm)
    if columns * rows > MOST_SHEETS:
        raise EngineError(
            "diameter",
            f"of {diameter_mm:g} mm takes {rows * columns} sheets of this paper, and "
            f"{MOST_SHEETS} at most are drawn: take larger paper or a smaller wheel",
        )
    left = _start(size, wide_mm, columns)
    top = _start(size, high_mm, rows)
    sheets = tuple(
        Tile(row, column, x, y)
        for row in range(rows)
        for column in range(columns)
        for x, y in [(left + column * (wide_mm - LAP_MM), top + row * (high_mm - LAP_MM))]
        if _touches(diameter_mm / 2, x, y, wide_mm, high_mm)
    )
    return Tiles(rows, columns, wide_mm, high_mm, sheets)


def _start(size_mm: float, room_mm: float, count: int) -> float:
    """Where the first sheet begins, so that no joint runs through the hole or a figure."""
    spare = count * room_mm - (count - 1) * LAP_MM - size_mm
    joints = [(nth + 1) * (room_mm - LAP_MM) + LAP_MM / 2 for nth in range(count - 1)]
    starts = [-size_mm / 2 - spare * share for share in (0.0, 0.5, 1.0)]

    def clear(start: float) -> float:
        return min((abs(start + joint) for joint in joints), default=0.0)

    return max(starts, key=lambda start: min(clear(start), 30.0))


def _count(size_mm: float, room_mm: float) -> int:
    return max(math.ceil((size_mm - LAP_MM) / (room_mm - LAP_MM) - 1e-9), 1)


def _touches(radius_mm: float, left: float, top: float, wide: float, high: float) -> bool:
    """Whether the disc reaches into a sheet: a corner of the grid can stay empty."""
    x = min(max(0.0, left), left + wide)
    y = min(max(0.0, top), top + high)
    return math.hypot(x, y) < radius_mm + 1.0
