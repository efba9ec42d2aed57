"""What a change since the last setting points to. "Points to", never "is".

One item is held against its siblings, the other items of its kind in that job. It points to
something only when it lies from their median beyond the largest of three bounds: 3.5 × 1.4826 ×
their median distance from it, one step of that job's blades, and 3.5·√(s₁² + s₂²) with the scatter
of the hands that set and measured (common practice, no source; 1.4826 makes the median distance a
standard deviation of normally scattered readings: Rousseeuw and Croux, J. Am. Stat. Assoc. 88
(1993), from memory). A looser rule accuses a sound engine every third job.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from statistics import median
from typing import Final

from true_compass.book.brackets import Bracket
from true_compass.core.items import ExtraKind, Item, Kind

FEWEST_SIBLINGS: Final = 4
WIDTHS: Final = 3.5
NORMAL: Final = 1.4826
UNLEARNT_MM: Final = 0.01
"""Scatter of one reading, until a hand test has shown the person's own."""
USUAL_STEP_MM: Final = 0.02


class Cause(Enum):
    """What a change can point to, in the order in which it is told."""

    SEAT = "valve-or-seat"
    LOBE = "lobe-rod-or-tip"
    ALIKE = "heat-hand-or-blades"
    STAND = "stand-or-head-nut"
    TARGET = "wrong-target"

    @property
    def words(self) -> str:
        """What stands after "points to"."""
        return _WORDS[self]


_WORDS: Final = {
    Cause.SEAT: "its valve or seat",
    Cause.LOBE: "its lobe, rod or tip",
    Cause.ALIKE: "heat, hand or blades",
    Cause.STAND: "a rocker stand or a head nut",
    Cause.TARGET: "a wrong target",
}


@dataclass(frozen=True, slots=True)
class Hands:
    """How much readings scatter: of the hand that set (or measured) before, and of the one now."""

    before_mm: float = UNLEARNT_MM
    now_mm: float = UNLEARNT_MM
    step_mm: float = USUAL_STEP_MM

    @property
    def change_mm(self) -> float:
        """Standard deviation of one change: two readings, √(s₁² + s₂²)."""
        return math.hypot(self.before_mm, self.now_mm)


@dataclass(frozen=True, slots=True)
class Bound:
    """The three bounds in mm, about the median of the siblings in mm; the largest decides."""

    median_mm: float
    spread_mm: float
    step_mm: float
    hand_mm: float
    siblings: int

    @property
    def mm(self) -> float:
        """The largest of the three."""
        return max(self.spread_mm, self.step_mm, self.hand_mm)

    @property
    def decides(self) -> str:
        """Which of the three is the largest."""
        if self.mm == self.hand_mm:
            return "what hands scatter"
        return "one step of the blades" if self.mm == self.step_mm else "how the siblings spread"


@dataclass(frozen=True, slots=True)
class Pointing:
    """What one item's change points to, and the figures it rests on; `bound` is None where there
    are too few siblings for a claim about one item.
    """

    item: Item
    change: Bracket
    causes: tuple[Cause, ...]
    bound: Bound | None


def kind_of(item: Item) -> Kind | ExtraKind | str:
    """What makes items siblings: valves of a kind, bridges of a kind, injectors, brakes."""
    return item.kind if item.is_valve else f"{item.kind.value} {item.part.value}"


def bound_of(item: Item, changes: Mapping[Item, Bracket], hands: Hands) -> Bound | None:
    """The bound for one item, from its siblings; None where there are fewer than four."""
    others = [
        change.middle
        for other, change in changes.items()
        if other != item and kind_of(other) == kind_of(item)
    ]
    if len(others) < FEWEST_SIBLINGS:
        return None
    middle = median(others)
    distance = median(abs(other - middle) for other in others)
    hand_mm = WIDTHS * hands.change_mm
    return Bound(middle, WIDTHS * NORMAL * distance, hands.step_mm, hand_mm, len(others))


def point(
    changes: Mapping[Item, Bracket], hands: Hands | Callable[[Item], Hands]
) -> dict[Item, Pointing]:
    """What every change (mm, + is wider) points to.

    `hands` are those of the job, or of each item where different people had set them.
    """
    of = hands if callable(hands) else (lambda _: hands)
    causes = _group_causes(changes, of)
    found = {}
    for item, change in changes.items():
        bound = bound_of(item, changes, of(item))
        told = set(causes[item])
        if bound is not None and Cause.STAND not in told:
            told |= _alone(change, bound)
        found[item] = Pointing(item, change, tuple(c for c in Cause if c in told), bound)
    return found


def _alone(change: Bracket, bound: Bound) -> set[Cause]:
    """What one item points to by itself; a bracket must lie beyond the bound with both ends."""
    off = change.plus(-bound.median_mm)
    if off.high < -bound.mm - 1e-9:
        return {Cause.SEAT}
    return {Cause.LOBE} if off.low > bound.mm + 1e-9 else set()


def _group_causes(
    changes: Mapping[Item, Bracket], hands: Callable[[Item], Hands]
) -> dict[Item, list[Cause]]:
    """What whole groups point to; the widest group that moved alike is the one that is told."""
    told: dict[Item, list[Cause]] = {item: [] for item in changes}
    valves = [item for item in changes if item.is_valve]
    if _alike(valves, changes, hands) and len({item.cylinder for item in valves}) > 1:
        for item in valves:
            told[item].append(Cause.ALIKE)
        return told
    for kind in Kind:
        own = [item for item in valves if item.kind is kind]
        if len(own) > 1 and len(own) < len(valves) and _alike(own, changes, hands):
            for item in own:
                told[item].append(Cause.TARGET)
    for cylinder in {item.cylinder for item in valves}:
        own = [item for item in valves if item.cylinder == cylinder]
        kinds = {item.kind for item in own}
        others = [item for item in valves if item.cylinder != cylinder]
        if len(kinds) == 2 and others and not any(told[item] for item in own):
            shift = median(changes[other].middle for other in others)
            if _alike(own, changes, hands, shift):
                for item in own:
                    told[item].append(Cause.STAND)
    return told


def _alike(
    items: Sequence[Item],
    changes: Mapping[Item, Bracket],
    hands: Callable[[Item], Hands],
    shift_mm: float = 0.0,
) -> bool:
    """Whether all of a group lie beyond one blade step the same way, and their mean beyond what
    the mean of so many changes scatters.
    """
    if len(items) < 2:
        return False
    count = len(items)
    scatter = math.sqrt(sum(hands(item).change_mm ** 2 for item in items)) / count
    for sign in (1.0, -1.0):
        moved = [changes[item].times(sign) for item in items]
        beyond = all(
            change.low > hands(item).step_mm + 1e-9 and change.low - sign * shift_mm > 0
            for item, change in zip(items, moved, strict=True)
        )
        mean = sum(change.middle for change in moved) / count - sign * shift_mm
        if beyond and mean > WIDTHS * scatter + 1e-9:
            return True
    return False
