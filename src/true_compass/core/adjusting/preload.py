"""Push rods and preload: which one rod length serves every lifter inside its window.

Rod length and a cut of the head (pedestals on the head) move a plunger one to one; a valve stem
that stands h higher moves it by h over the rocker ratio (common practice, no source). + pushes
the plunger further in.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from true_compass.core.items import Item
from true_compass.core.limits import EngineError


def plunger_change_mm(
    rod_mm: float = 0.0, head_cut_mm: float = 0.0, stem_mm: float = 0.0, ratio: float = 1.0
) -> float:
    """How much further in plungers are with a longer rod, a cut head, a higher stem; mm.

    >>> plunger_change_mm(rod_mm=0.5, stem_mm=0.3, ratio=1.5)
    0.7
    """
    return rod_mm + head_cut_mm + stem_mm / ratio


@dataclass(frozen=True, slots=True)
class RodPlan:
    """What one rod length can do. `change_mm` are the least and most that all rods may be longer
    (negative: shorter), None where no one length serves all; then `outliers` are the fewest items
    without which one does, for whose stem heights one looks first.
    """

    change_mm: tuple[float, float] | None
    outliers: tuple[Item, ...]
    of_the_rest_mm: tuple[float, float]

    @property
    def as_it_is(self) -> bool:
        """Whether the rods that are in serve all."""
        return self.change_mm is not None and self.change_mm[0] <= 1e-9 <= self.change_mm[1] + 2e-9


def plan_rods(plunger_mm: Mapping[Item, float], window_mm: tuple[float, float]) -> RodPlan:
    """Which one change of length keeps every plunger inside its window, both ends in.

    Allowed = [window low − least, window high − most]; where that is empty, the largest group that
    one length serves, nearest to the window as it is. Raises `EngineError` without a reading.
    """
    if not plunger_mm:
        raise EngineError("turns to the seat", "are missing: count them on every item first")
    low, high = window_mm
    order = sorted(plunger_mm, key=lambda item: plunger_mm[item])
    values = [plunger_mm[item] for item in order]
    best: tuple[int, float, int] | None = None
    for start, least in enumerate(values):
        count = sum(least <= value <= least + high - low + 1e-9 for value in values[start:])
        ends = (low - least, high - values[start + count - 1])
        off = max(ends[0], -ends[1], 0.0)
        if best is None or (count, -off) > (best[0], -best[1]):
            best = (count, off, start)
    assert best is not None
    count, _, start = best
    kept = order[start : start + count]
    allowed = (low - values[start], high - values[start + count - 1])
    rest = tuple(item for item in plunger_mm if item not in kept)
    return RodPlan(None if rest else allowed, rest, allowed)


def rod_words(plan: RodPlan) -> list[str]:
    """The result in plain sentences."""
    low, high = plan.of_the_rest_mm
    span = f"{low:+.2f} to {high:+.2f} mm".replace("-", "−")
    if plan.change_mm is not None:
        if plan.as_it_is:
            return [
                "The rods that are in serve every lifter.",
                f"Allowed change of length: {span}.",
            ]
        return [f"One length serves all: change every rod by {span}."]
    names = ", ".join(item.name for item in plan.outliers)
    return [
        "No one rod length serves all.",
        f"Outliers: {names}. Measure their stem heights first, then their rods.",
        f"Without them: change every rod by {span}.",
    ]
