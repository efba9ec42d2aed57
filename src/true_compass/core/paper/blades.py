"""Which blades make a gap: pairs that add up, and where blades in mm and in thou are not equal."""

from dataclasses import dataclass
from itertools import combinations
from typing import Final

from true_compass.core.limits import EngineError
from true_compass.core.units import MM_PER_THOU, GapUnit, parse_length_mm

# fmt: off
USUAL_MM: Final = (
    0.04, 0.05, 0.06, 0.07, 0.08, 0.09, 0.10, 0.13, 0.15, 0.18, 0.20, 0.23, 0.25, 0.28, 0.30, 0.33,
    0.38, 0.40, 0.45, 0.50, 0.55, 0.60, 0.63, 0.65, 0.70, 0.75, 0.80, 0.85, 0.90, 1.00,
)
"""A common set (common practice, from memory)."""
# fmt: on
COMPARED_MM: Final = (0.05, 0.10, 0.15, 0.20, 0.25, 0.30, 0.35, 0.40, 0.45, 0.50, 0.60, 0.80)
"""Gaps that books give both ways."""
USUAL_THOU: Final = (1.5, 2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 13, 14, 15, 16, 18, 20, 22, 25)
"""A common set by the thou (common practice, no source)."""
MOST_BLADES: Final = 60
LEAST_BLADE_MM, MOST_BLADE_MM = 0.02, 3.0
MOST_TOGETHER: Final = 3
SAME_MM: Final = 1e-6


@dataclass(frozen=True, slots=True)
class Blades:
    """The blades of one set, mm, rising, each once."""

    sizes_mm: tuple[float, ...]
    unit: GapUnit = GapUnit.MM

    def words(self, size_mm: float) -> str:
        """A blade as it is stamped: `0.15`, `6`."""
        if self.unit is GapUnit.MM:
            return f"{size_mm:.3f}".rstrip("0").ljust(4, "0")
        return f"{round(size_mm / MM_PER_THOU, 2):g}"


def usual_blades(unit: GapUnit) -> Blades:
    """A common set in a unit."""
    if unit is GapUnit.MM:
        return Blades(USUAL_MM, unit)
    return Blades(tuple(thou * MM_PER_THOU for thou in USUAL_THOU), unit)


def parse_blades(text: str, unit: GapUnit) -> Blades:
    """A set as it is typed, with spaces between; an empty text is a common set.

    Raises `EngineError` that names what is no blade.

    >>> parse_blades("0.2 0.05 0.1", GapUnit.MM).sizes_mm
    (0.05, 0.1, 0.2)
    """
    words = text.replace(";", " ").split()
    if not words:
        return usual_blades(unit)
    if len(words) > MOST_BLADES:
        raise EngineError("blades", f"are {MOST_BLADES} at most, not {len(words)}")
    sizes = set()
    for word in words:
        size = parse_length_mm("blades", word, unit.value)
        if not LEAST_BLADE_MM <= size <= MOST_BLADE_MM:
            raise EngineError(
                "blades",
                f"are from {LEAST_BLADE_MM:g} to {MOST_BLADE_MM:g} mm thick, not {word[:20]} "
                f"{unit.value}",
            )
        sizes.add(round(size, 6))
    return Blades(tuple(sorted(sizes)), unit)


@dataclass(frozen=True, slots=True)
class Together:
    """Blades held together, thickest first, and how much thicker they are than was asked, mm."""

    sizes_mm: tuple[float, ...]
    over_mm: float

    @property
    def is_exact(self) -> bool:
        """Whether they make the gap."""
        return abs(self.over_mm) < SAME_MM


def together(gap_mm: float, blades: Blades) -> Together:
    """The blades that come nearest to a gap, the fewest of them, and the thickest thin one.

    One, two or three are tried. A thin blade bends, so of equals the pair without one is taken.

    >>> together(0.43, Blades((0.05, 0.08, 0.13, 0.2, 0.3, 0.35))).sizes_mm
    (0.3, 0.13)
    """
    best: tuple[float, int, float] | None = None
    chosen: tuple[float, ...] = ()
    for count in range(1, MOST_TOGETHER + 1):
        for held in combinations(blades.sizes_mm, count):
            off = round(abs(sum(held) - gap_mm), 6)
            rank = (off, count, -held[0])
            if best is None or rank < best:
                best, chosen = rank, held
        if best is not None and best[0] < SAME_MM:
            break
    return Together(tuple(sorted(chosen, reverse=True)), round(sum(chosen) - gap_mm, 6))


@dataclass(frozen=True, slots=True)
class Crossing:
    """A blade in mm and the nearest whole thou: nearly the same, and not equal."""

    size_mm: float
    thou: float

    @property
    def over_mm(self) -> float:
        """How much thicker the blade in thou is, mm."""
        return self.thou * MM_PER_THOU - self.size_mm


def crossings(sizes_mm: tuple[float, ...] = COMPARED_MM) -> tuple[Crossing, ...]:
    """Each size in mm beside its nearest whole thou.

    >>> [(c.size_mm, c.thou, round(c.over_mm, 3)) for c in crossings((0.2, 0.25))]
    [(0.2, 8, 0.003), (0.25, 10, 0.004)]
    """
    return tuple(Crossing(size, round(size / MM_PER_THOU)) for size in sizes_mm)
