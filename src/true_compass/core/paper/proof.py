"""The proof bar: what a printer makes of 100 mm, and what is drawn so that it comes out right."""

from dataclasses import dataclass
from typing import Final

from true_compass.core.limits import EngineError
from true_compass.core.units import MM_PER_INCH, parse_length_mm
from true_compass.core.words import small

BAR_MM: Final = 100.0
LEAST_MM, MOST_MM = 90.0, 110.0
FAR_OFF: Final = 0.015
"""A printer that draws to scale is nearer than this; what is further off was most likely fitted."""
FIT_TO_PAGE: Final = "“Fit to page” may be on: print again at 100 %."


@dataclass(frozen=True, slots=True)
class Proof:
    """What the 100 mm bars of a page drawn without correction measure, mm: 90 to 110.

    >>> round(Proof(98.7).factors[0], 4)
    1.0132
    """

    across_mm: float = BAR_MM
    along_mm: float = BAR_MM

    def __post_init__(self) -> None:
        check_bar("across the page", self.across_mm)
        check_bar("along the page", self.along_mm)

    @property
    def factors(self) -> tuple[float, float]:
        """How many times as wide and as long everything is drawn."""
        return BAR_MM / self.across_mm, BAR_MM / self.along_mm

    @property
    def is_plain(self) -> bool:
        """Whether nothing is corrected."""
        return self.factors == (1.0, 1.0)

    @property
    def is_far(self) -> bool:
        """Whether a bar is more than 1.5 % off."""
        off_mm = max(abs(self.across_mm - BAR_MM), abs(self.along_mm - BAR_MM))
        return off_mm > FAR_OFF * BAR_MM + 1e-9

    @property
    def factor_words(self) -> str:
        """What is done about it."""
        if self.is_plain:
            return "Drawn without correction."
        wide, long = self.factors
        return f"Drawn {wide:.4f} times as wide, {long:.4f} as long."

    @property
    def sentences(self) -> tuple[str, ...]:
        """What is told about it, the first thing to do first."""
        if self.is_far:
            return FIT_TO_PAGE, f"Only if it stays so: {small(self.factor_words)}"
        if self.is_plain:
            return (self.factor_words,)
        return self.factor_words, "On these pages the bar is then 100.0 both ways."


def check_bar(field: str, measured_mm: float) -> None:
    """Raise `EngineError` unless a bar can measure this."""
    if LEAST_MM <= measured_mm <= MOST_MM:
        return
    inches = measured_mm * MM_PER_INCH
    if LEAST_MM <= inches <= MOST_MM:
        way_out = f"is that inches? Write {measured_mm:g} in"
    elif LEAST_MM <= measured_mm * 10 <= MOST_MM:
        way_out = f"is that cm? Write {measured_mm * 10:g}"
    else:
        way_out = "print at 100 % and measure the whole bar"
    raise EngineError(
        field, f"must be from {LEAST_MM:g} to {MOST_MM:g} mm, not {measured_mm:g}: {way_out}"
    )


PLAIN: Final = Proof()
"""A printer that draws to scale, or one that nobody measured."""


def parse_bar_mm(field: str, text: str) -> float:
    """What a person measured on a bar, mm.

    >>> parse_bar_mm("across the page", "98,7")
    98.7
    """
    measured_mm = parse_length_mm(field, text)
    check_bar(field, measured_mm)
    return measured_mm


def parse_proof(text: str) -> Proof:
    """Both bars as one word of a command line: `99.2/100.1`.

    Raises `EngineError` that names the bar.
    """
    across, stroke, along = text.partition("/")
    if not stroke:
        raise EngineError("proof", f"must be ACROSS/ALONG such as 99.2/100.1, not {text[:20]!r}")
    return Proof(parse_bar_mm("across the page", across), parse_bar_mm("along the page", along))
