"""How a camshaft can be moved against the crank: its timing set.

Teeth, circles of holes, offset keys, offset bushes, slots or a vernier; or nothing at all. With two
camshafts to a bank each has its own (common practice, no source).
"""

import math
import re
from dataclasses import dataclass
from typing import Final

from true_compass.core.angles import CYCLE_DEG
from true_compass.core.limits import EngineError, check_number


@dataclass(frozen=True, slots=True)
class Offset:
    """An offset key or bush: `by_mm` out of true at `radius_mm`. A key sits on the crank or cam."""

    by_mm: float
    radius_mm: float
    on_cam: bool = False

    @property
    def shaft_rad(self) -> float:
        """How far it turns its own shaft: asin(e/R)."""
        return math.asin(self.by_mm / self.radius_mm)

    @property
    def crank_deg(self) -> float:
        """As a key, in crank degrees: the cam turns half as far, so there it counts twice.

        >>> round(Offset(1.0, 24.0).crank_deg, 3), round(Offset(1.0, 24.0, True).crank_deg, 3)
        (2.388, 4.776)
        """
        return math.degrees(self.shaft_rad) * (2.0 if self.on_cam else 1.0)


@dataclass(frozen=True, slots=True)
class TimingSet:
    """What one camshaft's drive allows; the shaft is named by its bank and by its kind of valve.

    An empty `bank` is every bank, an empty `shaft` both kinds. `teeth` are those of the cam's gear,
    0 where none can be moved; `crank_teeth` those of the crank's; each of the `idlers` reverses the
    direction. `holes` are two circles that can be set against each other, or `hole_deg` one step as
    a book gives it, in crank degrees unless `hole_on_cam`. `reach_deg` is how far slots or a
    vernier go either way, crank degrees; `scale_deg` a step of the vernier's own scale.
    """

    bank: str = ""
    shaft: str = ""
    teeth: int = 0
    crank_teeth: int = 0
    idlers: int = 0
    holes: tuple[int, int] | None = None
    hole_deg: float = 0.0
    hole_on_cam: bool = False
    keys: tuple[Offset, ...] = ()
    bushes: tuple[Offset, ...] = ()
    reach_deg: float = 0.0
    vernier: bool = False

    @property
    def hole_step_deg(self) -> float:
        """Crank degrees of one step of the holes, 0 where there are none.

        >>> TimingSet(holes=(15, 16)).hole_step_deg
        3.0
        """
        if self.holes is not None:
            return CYCLE_DEG / math.lcm(*self.holes)
        return self.hole_deg * (2.0 if self.hole_on_cam else 1.0)

    @property
    def hole_steps(self) -> int:
        """How many of those steps lie all round."""
        if self.holes is not None:
            return math.lcm(*self.holes)
        step = self.hole_step_deg
        return round(CYCLE_DEG / step) if step else 0


_OFFSET: Final = re.compile(r"\s*(\d*\.?\d+)\s*@\s*(\d*\.?\d+)\s*(:\s*(cam|crank))?\s*", re.ASCII)


def parse_offset(field: str, text: str) -> Offset:
    """Read `0.7@19`, or `0.7@19:cam`: mm out of true at a radius in mm.

    >>> parse_offset("key", "0.7@19:cam")
    Offset(by_mm=0.7, radius_mm=19.0, on_cam=True)
    """
    match = _OFFSET.fullmatch(text) if len(text) <= 40 else None
    if match is None:
        raise EngineError(
            field, f"must be mm @ radius in mm, such as 0.7@19 or 0.7@19:cam, not {text[:20]!r}"
        )
    offset = Offset(float(match[1]), float(match[2]), match[4] == "cam")
    check_offset(field, offset)
    return offset


def offset_text(offset: Offset) -> str:
    """As `parse_offset` reads it."""
    told = f"{offset.by_mm:.10g}@{offset.radius_mm:.10g}"
    return f"{told}:cam" if offset.on_cam else told


NO_TIMING_SET: Final = TimingSet()
MOST_HOLES: Final = 60
MOST_OFFSETS: Final = 8


def check_timing_set(drive: TimingSet) -> None:
    """Raise `EngineError` for the first field of a timing set that cannot be."""
    for field, count in (("teeth", drive.teeth), ("crank_teeth", drive.crank_teeth)):
        if count and not 8 <= count <= 200:
            raise EngineError(f"drive.{field}", f"must be 8 to 200, or left out, not {count}")
    if drive.teeth and drive.crank_teeth and drive.teeth != 2 * drive.crank_teeth:
        raise EngineError(
            "drive.teeth",
            f"must be twice the crank's {drive.crank_teeth}, not {drive.teeth}: "
            "a camshaft turns half as fast",
        )
    if not 0 <= drive.idlers <= 6:
        raise EngineError("drive.idlers", f"must be 0 to 6, not {drive.idlers}")
    for count in drive.holes or ():
        if not 2 <= count <= MOST_HOLES:
            raise EngineError("drive.holes", f"must be 2 to {MOST_HOLES} a circle, not {count}")
    if drive.holes is not None and drive.hole_deg:
        raise EngineError("drive.hole_deg", "and holes say the same: give one of them")
    check_number("drive.hole_deg", drive.hole_deg, "hole_deg")
    check_number("drive.reach_deg", drive.reach_deg, "reach_deg")
    for field, offsets in (("keys", drive.keys), ("bushes", drive.bushes)):
        if len(offsets) > MOST_OFFSETS:
            raise EngineError(f"drive.{field}", f"has more than {MOST_OFFSETS}: name fewer")
        for offset in offsets:
            check_offset(f"drive.{field}", offset)


def check_offset(field: str, offset: Offset) -> None:
    """Raise `EngineError` for an offset that its radius cannot have."""
    if not (math.isfinite(offset.radius_mm) and 2.0 <= offset.radius_mm <= 500.0):
        raise EngineError(field, f"must stand at a radius of 2 to 500 mm, not {offset.radius_mm:g}")
    if not 0 < offset.by_mm <= offset.radius_mm / 4:
        raise EngineError(
            field,
            f"must be above 0 and at most a quarter of its radius ({offset.radius_mm / 4:g} mm), "
            f"not {offset.by_mm:g} mm",
        )
