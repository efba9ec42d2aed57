"""Hot and cold: targets for the other temperature, from what was measured on this very engine.

Published corrections disagree, for iron even in sign: so there is none built in. Measured hot once,
the engine's own difference is used from then on (common practice, no source).
"""

from collections.abc import Sequence
from dataclasses import replace
from typing import Protocol

from true_compass.book.job import BookSource, Target
from true_compass.core.limits import EngineError

MOST_DIFF_MM = 0.5


class Difference(Protocol):
    """Hot less cold of one kind of item, mm, as it was measured."""

    @property
    def of(self) -> str:
        """Which items: `I`, `E`."""

    @property
    def diff_mm(self) -> float:
        """+ is wider hot."""


def checked_diff_mm(cold_mm: float, hot_mm: float) -> float:
    """Hot less cold. Raises `EngineError` for what no engine does."""
    diff = hot_mm - cold_mm
    if abs(diff) > MOST_DIFF_MM:
        raise EngineError("hot", f"and cold lie {abs(diff):.2f} mm apart: measure both again")
    return round(diff, 6)


def with_heat(
    targets: Sequence[Target], differences: Sequence[Difference], words: str
) -> tuple[Target, ...]:
    """The targets, and those for the other temperature where a difference is known and no book
    gives them; `words` say where the difference comes from.
    """
    found = list(targets)
    for target in targets:
        if target.per_turn_mm or any(t.of == target.of and t.hot != target.hot for t in found):
            continue
        diff = next((d.diff_mm for d in reversed(differences) if d.of == target.of), None)
        if diff is None:
            continue
        shift = -diff if target.hot else diff
        band = target.band_mm
        moved = None if band is None else tuple(max(round(end + shift, 6), 0.0) for end in band)
        found.append(
            replace(
                target,
                hot=not target.hot,
                target_mm=max(round(target.target_mm + shift, 6), 0.0),
                band_mm=None if moved is None else (moved[0], moved[1]),
                source=BookSource(book=words),
            )
        )
    return tuple(found)
