"""Witness marks across valve tips against the length of the push rod that made them.

Measured square to the stem, with trial rods: where the mark is narrowest and nearest to the middle
of the tip, the geometry is best. A rod length moves both (common practice, no source).
"""

from collections.abc import Sequence

from true_compass.book.job import Witness
from true_compass.core.limits import EngineError


def check_witness(mark: Witness) -> None:
    """Raise `EngineError` for a mark that no tip can carry."""
    if not 2.0 <= mark.tip_mm <= 40.0:
        raise EngineError("tip", f"must be 2 to 40 mm wide, not {mark.tip_mm:g}")
    if not 0.0 < mark.width_mm <= mark.tip_mm:
        raise EngineError("width", f"must be more than 0 and at most the tip's {mark.tip_mm:g} mm")
    half = mark.width_mm / 2
    if not half - 1e-9 <= mark.centre_mm <= mark.tip_mm - half + 1e-9:
        raise EngineError("centre", "puts the mark over the edge of the tip: measure it again")
    if not 0.0 <= mark.rod_mm <= 1000.0:
        raise EngineError("rod", f"must be 0 to 1,000 mm, not {mark.rod_mm:g}")


def off_middle_mm(mark: Witness) -> float:
    """How far the mark's centre lies from the middle of the tip."""
    return mark.centre_mm - mark.tip_mm / 2


def witness_words(marks: Sequence[Witness]) -> list[str]:
    """What the marks say, the newest last; with trial rods, which one is best in which way."""
    lines = [
        f"{m.item}, rod {m.rod_mm:g} mm: {abs(off_middle_mm(m)):.1f} mm off the middle, "
        f"{m.width_mm:.1f} mm wide"
        for m in marks
    ]
    rods = {mark.rod_mm for mark in marks}
    if len(rods) > 1:
        middle = min(marks, key=lambda m: abs(off_middle_mm(m)))
        narrow = min(marks, key=lambda m: m.width_mm)
        lines.append(
            f"Nearest to the middle with {middle.rod_mm:g} mm, narrowest with {narrow.rod_mm:g} mm."
        )
    return lines
