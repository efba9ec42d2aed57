"""A tape round the damper or the flywheel: its length, its pieces, and where things stand on it.

Paper of thickness t round a diameter D bends about its own middle, which lies at D + t: its length
is π(D + t) (arithmetic). A strip of the same paper, wrapped round and pricked through the lap, has
that length of itself. With its front edge down and the engine clockwise from the front, what comes
before TDC lies right of zero.
"""

import math
from dataclasses import dataclass
from typing import Final

from true_compass.core.angles import TURN_DEG
from true_compass.core.limits import EngineError, check_count
from true_compass.core.paper.wheel import check_size

LEAST_ROUND_MM, MOST_ROUND_MM = 40.0, 1500.0
MOST_THICK_MM: Final = 2.0
LEAST_LAP_MM, MOST_LAP_MM = 8.0, 12.0
LAP_DEG: Final = 6.0
"""By how much a piece lies under the next, where that is 8 to 12 mm; else the degrees of 8 mm."""
MOST_PIECES: Final = 40
MEET_MM: Final = 0.5
"""How near the end marks must meet; else the diameter is wrong."""
LEAST_TEETH, MOST_TEETH = 10, 500


@dataclass(frozen=True, slots=True)
class Tape:
    """A tape of a length, mm. `sense` is +1 where what comes before TDC lies right of zero.

    >>> tape = tape_of_diameter(165.0, 0.1)
    >>> round(tape.length_mm, 1), round(tape.degree_mm, 4)
    (518.7, 1.4408)
    """

    length_mm: float
    how: str
    sense: int = 1

    def __post_init__(self) -> None:
        least, most = math.pi * LEAST_ROUND_MM, math.pi * MOST_ROUND_MM
        if not least - 1e-9 <= self.length_mm <= most * 1.01:
            raise EngineError(
                "length",
                f"round must be from {least:.0f} to {most:.0f} mm, "
                f"not {self.length_mm:.4g}: measure it once more",
            )

    @property
    def degree_mm(self) -> float:
        """One degree along it, mm."""
        return self.length_mm / TURN_DEG

    @property
    def meet_deg(self) -> float:
        """How many degrees 0.5 mm are."""
        return MEET_MM / self.degree_mm

    def after_deg(self, right_deg: float) -> float:
        """The place, degrees after TDC, that stands so many degrees right of zero."""
        return -self.sense * right_deg

    def right_deg(self, after_tdc_deg: float) -> float:
        """The other way round, in (-180, 180]."""
        right = (-self.sense * after_tdc_deg) % TURN_DEG
        return right if right <= TURN_DEG / 2 else right - TURN_DEG


def check_thick(field: str, thick_mm: float) -> None:
    """Raise `EngineError` unless paper or string can be as thick."""
    if not 0 <= thick_mm <= MOST_THICK_MM:
        raise EngineError(field, f"must be from 0 to {MOST_THICK_MM:g} mm, not {thick_mm:g}")


def tape_of_diameter(diameter_mm: float, thick_mm: float, sense: int = 1) -> Tape:
    """The tape round a diameter that was measured: π(D + t). Raises `EngineError`."""
    check_size("diameter", diameter_mm, LEAST_ROUND_MM, MOST_ROUND_MM)
    check_thick("paper thickness", thick_mm)
    length = math.pi * (diameter_mm + thick_mm)
    return Tape(length, f"{diameter_mm:g} mm across, paper {thick_mm:g} mm", sense)


def tape_of_strip(length_mm: float, sense: int = 1) -> Tape:
    """A strip of the same paper was wrapped round and pricked through the lap: it is the tape."""
    return Tape(length_mm, f"a strip of this paper: {length_mm:g} mm round", sense)


def tape_of_string(length_mm: float, string_mm: float, thick_mm: float, sense: int = 1) -> Tape:
    """A string was laid round: it is π times its own thickness too long, π times the paper's short.

    D = L/π − the string's thickness (arithmetic).

    >>> round(tape_of_string(521.5, 1.0, 0.1).length_mm, 2)
    518.67
    """
    check_thick("string thickness", string_mm)
    diameter = length_mm / math.pi - string_mm
    check_size("string", diameter, LEAST_ROUND_MM, MOST_ROUND_MM)
    tape = tape_of_diameter(diameter, thick_mm, sense)
    return Tape(tape.length_mm, f"a string of {string_mm:g} mm: {length_mm:g} mm round", sense)


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece of a tape, in degrees right of zero; `lap_deg` more lie under the next piece."""

    number: int
    left_deg: float
    right_deg: float
    lap_deg: float

    @property
    def span_deg(self) -> float:
        """How much of the turn it covers."""
        return self.right_deg - self.left_deg


def pieces_of(tape: Tape, room_mm: float) -> tuple[Piece, ...]:
    """The fewest pieces that fit a room, with zero in the middle of the first.

    They meet at whole degrees; the last laps over the first. Raises `EngineError` beyond 40.
    """
    lap = LAP_DEG
    if not LEAST_LAP_MM <= LAP_DEG * tape.degree_mm <= MOST_LAP_MM:
        lap = float(math.ceil(LEAST_LAP_MM / tape.degree_mm))
    most_deg = math.floor(room_mm / tape.degree_mm - lap)
    if most_deg < 1 or math.ceil(TURN_DEG / most_deg) > MOST_PIECES:
        raise EngineError(
            "length",
            f"round of {tape.length_mm:.0f} mm takes more than {MOST_PIECES} pieces on this "
            "paper: take larger paper",
        )
    count = math.ceil(TURN_DEG / most_deg)
    first = -math.floor(TURN_DEG / count / 2)
    ends = [first + math.floor(TURN_DEG * nth / count) for nth in range(count + 1)]
    return tuple(
        Piece(nth + 1, float(ends[nth]), float(ends[nth + 1]), lap) for nth in range(count)
    )


def parse_teeth(text: str) -> int:
    """Teeth as they are typed: a whole number. Raises `EngineError`.

    >>> parse_teeth(" 132 ")
    132
    """
    told = text.strip()
    if not (told.isascii() and told.isdigit() and len(told) < 5):
        raise EngineError("teeth", f"must be a whole number, not {told[:20]!r}")
    return int(told)


@dataclass(frozen=True, slots=True)
class Ring:
    """A ring gear: its teeth, counted."""

    teeth: int

    def __post_init__(self) -> None:
        if not self.teeth:
            raise EngineError("teeth", "of the ring gear: count them, or type the number")
        check_count("teeth", self.teeth, LEAST_TEETH, MOST_TEETH)

    @property
    def tooth_deg(self) -> float:
        """One tooth, crank degrees."""
        return TURN_DEG / self.teeth

    def tooth_words(self, after_tdc_deg: float) -> str:
        """A place in teeth from TDC, to a tenth: `44 teeth`, `3.7 teeth`.

        >>> Ring(132).tooth_words(120.0), Ring(132).tooth_words(10.0)
        ('44 teeth', '3.7 teeth')
        """
        return f"{round(after_tdc_deg / self.tooth_deg, 1):g} teeth"
