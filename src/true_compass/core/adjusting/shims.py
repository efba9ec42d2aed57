"""Which shim goes where: swaps first, fewest bought, all in band; exact, as an assignment.

A shim thicker by k·Δ closes the gap by Δ; k is 1 where gap and shim are at one place, and the ratio
where the gap is at the cam and the shim at the valve (common practice, no source).
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Final

import numpy as np

from true_compass.core.limits import EngineError

GRACE_MM: Final = 1e-9
MOST_SIZES: Final = 2000
NEVER: Final = -1.0


class Origin(Enum):
    """Where the shim of a position comes from."""

    STAYS = "stays"
    MOVED = "position"
    DRAWER = "drawer"
    BUY = "buy"


@dataclass(frozen=True, slots=True)
class Position:
    """One place with a shim: what is in it, the gap measured with it, and its band, all in mm.

    `share` is how much thicker a shim is for each mm of gap (see `screws.shim_share`).
    """

    name: str
    shim_mm: float
    gap_mm: float
    band_mm: tuple[float, float]
    target_mm: float
    share: float = 1.0

    @property
    def wanted_mm(self) -> float:
        """The shim with which the gap would be the target: old + k·(measured − target)."""
        return self.shim_mm + self.share * (self.gap_mm - self.target_mm)

    def gap_with_mm(self, shim_mm: float) -> float:
        """The gap with another shim."""
        return self.gap_mm + (self.shim_mm - shim_mm) / self.share

    def takes(self, shim_mm: float) -> bool:
        """Whether the gap is in its band with this shim."""
        low, high = self.band_mm
        return low - GRACE_MM <= self.gap_with_mm(shim_mm) <= high + GRACE_MM

    @property
    def in_band(self) -> bool:
        """Whether it can stay as it is."""
        return self.takes(self.shim_mm)


@dataclass(frozen=True, slots=True)
class Placed:
    """What goes into a position. `shim_mm` is None where nothing that there is brings it in band.

    `giver` is the position that a moved shim comes from, as its place in the list of positions.
    """

    position: Position
    shim_mm: float | None
    origin: Origin | None
    giver: int | None = None

    @property
    def gap_mm(self) -> float | None:
        """The gap then."""
        return None if self.shim_mm is None else self.position.gap_with_mm(self.shim_mm)


@dataclass(frozen=True, slots=True)
class ShimPlan:
    """What goes where, in the order of the positions."""

    places: tuple[Placed, ...]

    def _from(self, origin: Origin) -> list[Placed]:
        return [placed for placed in self.places if placed.origin is origin]

    @property
    def bought_mm(self) -> tuple[float, ...]:
        """Sizes to buy, the thinnest first."""
        return tuple(sorted(p.shim_mm for p in self._from(Origin.BUY) if p.shim_mm is not None))

    @property
    def drawn_mm(self) -> tuple[float, ...]:
        """Sizes that come out of the drawer, the thinnest first."""
        return tuple(sorted(p.shim_mm for p in self._from(Origin.DRAWER) if p.shim_mm is not None))

    @property
    def moved(self) -> int:
        """How many shims go from one position to another."""
        return len(self._from(Origin.MOVED))

    @property
    def touched(self) -> int:
        """At how many positions the shim is changed."""
        return sum(placed.origin not in (None, Origin.STAYS) for placed in self.places)

    @property
    def impossible(self) -> tuple[str, ...]:
        """Positions that nothing brings into their band."""
        return tuple(p.position.name for p in self.places if p.shim_mm is None)

    @property
    def freed(self) -> tuple[int, ...]:
        """Positions (by place in the list) whose shim goes to the drawer."""
        given = {p.giver for p in self.places if p.origin is Origin.MOVED}
        return tuple(
            row
            for row, placed in enumerate(self.places)
            if placed.origin not in (None, Origin.STAYS) and row not in given
        )


def stock_sizes_mm(low_mm: float, high_mm: float, step_mm: float) -> tuple[float, ...]:
    """Sizes that can be bought, from low to high, both in. Raises `EngineError`.

    >>> stock_sizes_mm(2.5, 2.6, 0.05)
    (2.5, 2.55, 2.6)
    """
    if not (0 < low_mm <= high_mm and step_mm > 0):
        raise EngineError("stock", "must be least:most:step in mm, such as 2.50:3.50:0.05")
    count = int((high_mm - low_mm) / step_mm + 1e-6) + 1
    if count > MOST_SIZES:
        raise EngineError("stock", f"has {count} sizes: at most {MOST_SIZES} are taken")
    return tuple(round(low_mm + n * step_mm, 6) for n in range(count))


def plan_shims(
    positions: Sequence[Position], drawer_mm: Sequence[float] = (), stock_mm: Sequence[float] = ()
) -> ShimPlan:
    """The best shim for every position; each shim that there is goes into one place only.

    Fewest impossible positions, then fewest bought, then fewest touched, then fewest taken from
    the drawer, then the least sum of |gap − target|. Exact: the costs are weighed so that no sum
    of a later one outweighs one step of an earlier, and the assignment is solved to its optimum.
    """
    if not positions:
        return ShimPlan(())
    # SciPy takes half a second to import, and only this needs it.
    from scipy.optimize import linear_sum_assignment

    count, drawer = len(positions), np.asarray(drawer_mm, dtype=float)
    there = np.concatenate([[p.shim_mm for p in positions], drawer])
    off = _offs_mm(positions, there)
    best = [_best_size(position, stock_mm) for position in positions]
    bought_off = np.array([p.band_mm[1] if s is None else _off_mm(p, s) for p, s in best])
    most = float(sum(max(abs(end - p.target_mm) for end in p.band_mm) for p in positions))
    one_drawn = 1.0 + most
    one_touched = one_drawn * (count + 1)
    one_bought = one_touched * (count + 1)
    one_lost = one_bought * (count + 1)
    never = one_lost * (count + 1)
    costs = np.full((count, len(there) + 2 * count), never)
    extra = np.full(len(there), one_touched)
    extra[count:] += one_drawn
    ok = off >= 0
    costs[:, : len(there)][ok] = (off + extra)[ok]
    own = np.arange(count)
    stays = ok[own, own]
    costs[own[stays], own[stays]] -= one_touched
    can = np.array([size is not None for _, size in best])
    costs[own[can], len(there) + own[can]] = (one_bought + one_touched + bought_off)[can]
    costs[own, len(there) + count + own] = one_lost
    _, columns = linear_sum_assignment(costs)
    return ShimPlan(
        tuple(_placed(positions, drawer, best, row, int(c)) for row, c in enumerate(columns))
    )


def _placed(
    positions: Sequence[Position],
    drawer: "np.ndarray[tuple[int], np.dtype[np.float64]]",
    best: "Sequence[tuple[Position, float | None]]",
    row: int,
    column: int,
) -> Placed:
    position, count = positions[row], len(positions)
    if column == row:
        return Placed(position, position.shim_mm, Origin.STAYS)
    if column < count:
        return Placed(position, positions[column].shim_mm, Origin.MOVED, column)
    if column < count + len(drawer):
        return Placed(position, float(drawer[column - count]), Origin.DRAWER)
    if column < 2 * count + len(drawer):
        return Placed(position, best[row][1], Origin.BUY)
    return Placed(position, None, None)


def _off_mm(position: Position, shim_mm: float) -> float:
    return abs(position.gap_with_mm(shim_mm) - position.target_mm)


def _offs_mm(
    positions: Sequence[Position], there: "np.ndarray[tuple[int], np.dtype[np.float64]]"
) -> "np.ndarray[tuple[int, int], np.dtype[np.float64]]":
    """|gap − target| of every position with every shim that there is; NEVER out of its band."""
    found = np.full((len(positions), len(there)), NEVER)
    for row, p in enumerate(positions):
        gaps = p.gap_mm + (p.shim_mm - there) / p.share
        ok = (gaps >= p.band_mm[0] - GRACE_MM) & (gaps <= p.band_mm[1] + GRACE_MM)
        found[row][ok] = np.abs(gaps[ok] - p.target_mm)
    return found


def _best_size(position: Position, stock_mm: Sequence[float]) -> tuple[Position, float | None]:
    """The size to buy that brings a position nearest to its target, or None."""
    fits = [size for size in stock_mm if position.takes(size)]
    return position, min(fits, key=lambda size: (_off_mm(position, size), size), default=None)


def walk(plan: ShimPlan) -> Iterator[str]:
    """What to carry where, along the head: chains from a new shim to the drawer, then circles.

    Each chain is one sentence: `New 2.50 to I4, its 2.60 to I1, its 2.70 to the drawer.`
    """
    places = plan.places
    takers = {p.giver: row for row, p in enumerate(places) if p.origin is Origin.MOVED}
    walked: set[int] = set()

    def carried(row: int) -> list[str]:
        steps: list[str] = []
        while row in takers and takers[row] not in walked:
            size, row = places[row].position.shim_mm, takers[row]
            walked.add(row)
            steps.append(f"its {size:.2f} to {places[row].position.name}")
        if row not in takers:
            steps.append(f"its {places[row].position.shim_mm:.2f} to the drawer")
        return steps

    for origin, word in ((Origin.BUY, "New"), (Origin.DRAWER, "From the drawer")):
        for row, placed in enumerate(places):
            if placed.origin is origin:
                walked.add(row)
                first = f"{word} {placed.shim_mm:.2f} to {placed.position.name}"
                yield ", ".join([first, *carried(row)]) + "."
    for row, placed in enumerate(places):
        if placed.shim_mm is None and row in takers and takers[row] not in walked:
            yield f"{placed.position.name} stays open: " + ", ".join(carried(row)) + "."
    for row, placed in enumerate(places):
        if placed.origin is Origin.MOVED and row not in walked:
            steps, at = [], row
            while at not in walked:
                walked.add(at)
                giver = places[at].giver
                assert giver is not None
                steps.append(
                    f"{places[giver].position.name}'s {places[at].shim_mm:.2f} to "
                    f"{places[at].position.name}"
                )
                at = giver
            yield "In a circle: " + ", ".join(steps) + "."
