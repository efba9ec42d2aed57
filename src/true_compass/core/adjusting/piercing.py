"""Fewest stops, and most margin for a number of stops, solved exactly: points that pierce arcs.

Each item has free arcs on the 720° circle, and a stop serves it when it stands in one of them with
the margin asked. Where each item has one arc, the next stop after one at `r` is best put at the
first end of those arcs that begin beyond it; so stops stand at ends of arcs, and following these
jumps from every end once round gives the fewest. An item with several arcs makes it a cover of
items by ends, which is searched through.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, Floats

SMALL_DEG: Final = 1e-9
# More stops than this are no plan.
MOST_STOPS: Final = 36

Arcs = tuple[tuple[float, float], ...]


def shared_arcs(several: Sequence[Arcs]) -> Arcs:
    """The stretches in which all of several items are free; none is an empty tuple.

    >>> shared_arcs([((700.0, 100.0),), ((0.0, 300.0), (600.0, 110.0))])
    ((0.0, 80.0), (700.0, 10.0))
    """
    first, *others = dict.fromkeys(several)
    for arcs in others:
        both = []
        for start, length in first:
            for other, reach in arcs:
                # Where the other begins within this one, and where it began before this one.
                into, since = (other - start) % CYCLE_DEG, (start - other) % CYCLE_DEG
                if into < length:
                    both.append((other, min(length - into, reach)))
                if 0 < since < reach:
                    both.append((start, min(length, reach - since)))
        first = tuple(sorted(both))
    return first


@dataclass(frozen=True, slots=True)
class Pierced:
    """Stops that serve every item, rising crank angles, and the margin that they leave."""

    stops_deg: tuple[float, ...]
    margin_deg: float


@dataclass(frozen=True, slots=True, eq=False)
class FreeArcs:
    """The free arcs of all items: start in [0, 720), length; one tuple an item.

    With `places_deg` stops may stand only there.
    """

    items: tuple[Arcs, ...]
    places_deg: tuple[float, ...] = ()

    def fewest(self, margin_deg: float) -> Pierced | None:
        """The fewest stops that leave a margin, with as much margin as so many can; or None."""
        for count in range(1, MOST_STOPS + 1):
            stops = self._stops(margin_deg, count)
            if stops is not None:
                return self.most_margin(count)
        return None

    def most_margin(self, count: int) -> Pierced | None:
        """The most margin that a number of stops can leave; None when even 0° is too much."""
        levels = self._levels()
        low, high = 0, len(levels)
        best: tuple[float, ...] | None = None
        margin = 0.0
        while low < high:
            middle = (low + high) // 2
            stops = self._stops(float(levels[middle]), count)
            if stops is None:
                high = middle
            else:
                low, best, margin = middle + 1, stops, float(levels[middle])
        if best is None:
            best = self._stops(0.0, count)
            if best is None:
                return None
        return Pierced(self._eased(best, margin), margin)

    def _levels(self) -> Floats:
        """Margins at which the answer can change, rising.

        A stop at the end of one arc serves another while twice the margin fits between that one's
        start and this one's end.
        """
        starts = np.array([start for arcs in self._distinct() for start, _ in arcs])
        ends = np.array([start + length for arcs in self._distinct() for start, length in arcs])
        longest = max((length for arcs in self.items for _, length in arcs), default=0.0)
        if self.places_deg:
            places = np.array(self.places_deg)
            both = [(places[:, None] - starts) % CYCLE_DEG, (ends - places[:, None]) % CYCLE_DEG]
            levels = np.concatenate([part.ravel() for part in both])
        else:
            levels = ((ends[:, None] - starts) % CYCLE_DEG).ravel() / 2
        levels = levels[levels <= longest / 2 + SMALL_DEG]
        return np.unique(np.round(levels, 9))

    def _distinct(self) -> list[Arcs]:
        return list(dict.fromkeys(self.items))

    def _stops(self, margin_deg: float, count: int) -> tuple[float, ...] | None:
        """Some `count` stops or fewer that leave the margin, or None."""
        shrunk = []
        for arcs in self._distinct():
            inner = [
                (start + margin_deg, start + length - margin_deg)
                for start, length in arcs
                if length - 2 * margin_deg >= -SMALL_DEG
            ]
            inner = [arc for arc in (self._snapped(*arc) for arc in inner) if arc is not None]
            if not inner:
                return None
            shrunk.append(inner)
        if all(len(inner) == 1 for inner in shrunk):
            return _jumps(np.array([inner[0] for inner in shrunk]), count)
        return _cover(shrunk, count)

    def _snapped(self, left: float, right: float) -> tuple[float, float] | None:
        """An arc drawn in to the places that stops may have."""
        if not self.places_deg:
            return left, max(left, right)
        inside = [
            left + (place - left) % CYCLE_DEG
            for place in self.places_deg
            if (place - left + SMALL_DEG) % CYCLE_DEG <= right - left + 2 * SMALL_DEG
        ]
        if not inside:
            return None
        # A place a hair before the left end counts as on it.
        inside = [
            place - CYCLE_DEG if place - left > CYCLE_DEG - 1e-6 else place for place in inside
        ]
        return min(inside), max(inside)

    def _eased(self, stops_deg: tuple[float, ...], margin_deg: float) -> tuple[float, ...]:
        """Each stop in the middle of the stretch in which it still serves its items."""
        if self.places_deg:
            return tuple(sorted(stop % CYCLE_DEG for stop in stops_deg))
        reach: list[tuple[float, float]] = [(-np.inf, np.inf)] * len(stops_deg)
        for arcs in self._distinct():
            best, place, room = -1.0, 0, (0.0, 0.0)
            for number, stop in enumerate(stops_deg):
                for start, length in arcs:
                    back = (stop - start + SMALL_DEG) % CYCLE_DEG - SMALL_DEG
                    on = length - back
                    if min(back, on) > best:
                        best, place, room = (
                            min(back, on),
                            number,
                            (margin_deg - back, on - margin_deg),
                        )
            low, high = reach[place]
            reach[place] = (max(low, room[0]), min(high, room[1]))
        eased = [
            stop + (low + high) / 2 if np.isfinite(low) and np.isfinite(high) else stop
            for stop, (low, high) in zip(stops_deg, reach, strict=True)
        ]
        return tuple(sorted(round(stop, 9) % CYCLE_DEG for stop in eased))


def _jumps(arcs: Floats, count: int) -> tuple[float, ...] | None:
    """Pierce one arc an item, `(A, 2)` of left and right ends."""
    lefts, rights = arcs[:, 0] % CYCLE_DEG, arcs[:, 1] - arcs[:, 0] + arcs[:, 0] % CYCLE_DEG
    # Two laps, sorted by where arcs begin; from a stop, the next must be no later than the first
    # end of all that begin beyond it.
    order = np.argsort(lefts)
    laps = (0.0, CYCLE_DEG, 2 * CYCLE_DEG)
    lap_lefts = np.concatenate([lefts[order] + lap for lap in laps])
    lap_rights = np.concatenate([rights[order] + lap for lap in laps])
    first_end = np.minimum.accumulate(lap_rights[::-1])[::-1]

    def following(stops: Floats) -> Floats:
        beyond = np.searchsorted(lap_lefts, stops + SMALL_DEG, side="right")
        return np.asarray(first_end[np.minimum(beyond, len(first_end) - 1)])

    starts = np.unique(rights % CYCLE_DEG)
    rows = [starts]
    for _ in range(count - 1):
        # Rights may lie a lap on: stops are kept rising from the start.
        rows.append(_within_laps(following, rows[-1]))
    closing = _within_laps(following, rows[-1])
    done = np.flatnonzero(closing >= starts + CYCLE_DEG - SMALL_DEG)
    if not len(done):
        return None
    pick = int(done[0])
    stops = [float(row[pick]) for row in rows]
    needed = [stop for stop in stops if stop < starts[pick] + CYCLE_DEG - SMALL_DEG]
    return tuple(needed)


def _within_laps(following: Callable[[Floats], Floats], stops: Floats) -> Floats:
    """The stop after each, for stops that may have gone round."""
    laps = np.floor(stops / CYCLE_DEG) * CYCLE_DEG
    return np.asarray(following(stops - laps) + laps)


def _cover(items: Sequence[Sequence[tuple[float, float]]], count: int) -> tuple[float, ...] | None:
    """Pierce items that have several arcs each: ends as candidates, items as what they cover."""
    serves: dict[int, float] = {}
    for end in sorted({round(right % CYCLE_DEG, 9) for arcs in items for _, right in arcs}):
        mask = 0
        for row, arcs in enumerate(items):
            if any((end - left + 1e-7) % CYCLE_DEG <= right - left + 2e-7 for left, right in arcs):
                mask |= 1 << row
        serves.setdefault(mask, end)
    found = _Search(list(serves)).masks((1 << len(items)) - 1, count)
    return None if found is None else tuple(sorted(serves[mask] for mask in found))


class _Search:
    """The fewest sets that hold every row, by trying each set that holds the scarcest row.

    A branch is given up when rows of which no set holds two are more than the sets that are left.
    """

    def __init__(self, masks: list[int]) -> None:
        self._masks = masks
        self._hopeless: dict[int, int] = {}

    def masks(self, missing: int, left: int) -> tuple[int, ...] | None:
        """At most `left` sets that hold all of what is missing, or None."""
        if not missing:
            return ()
        if self._hopeless.get(missing, -1) >= left:
            return None
        sets = self._needed(missing)
        found = None
        scarce = self._scarce_rows(sets, missing, left)
        if scarce is not None:
            for part, mask in sorted(sets.items(), key=lambda pair: -pair[0].bit_count()):
                if part & scarce:
                    rest = self.masks(missing & ~part, left - 1)
                    if rest is not None:
                        found = (mask, *rest)
                        break
        if found is None:
            self._hopeless[missing] = left
        return found

    def _needed(self, missing: int) -> dict[int, int]:
        """What each set adds, without those that add no more than another."""
        adds = {mask & missing: mask for mask in self._masks}
        kept: dict[int, int] = {}
        for part in sorted(adds, key=int.bit_count, reverse=True):
            if part and not any(part & other == part for other in kept):
                kept[part] = adds[part]
        return kept

    @staticmethod
    def _scarce_rows(sets: dict[int, int], missing: int, left: int) -> int | None:
        """The row that fewest sets hold, as a bit; None where `left` sets are too few."""
        near: dict[int, int] = {}
        many: dict[int, int] = {}
        for row in range(missing.bit_length()):
            bit = 1 << row
            if missing & bit:
                holding = [part for part in sets if part & bit]
                if not holding:
                    return None
                many[bit] = len(holding)
                near[bit] = 0
                for part in holding:
                    near[bit] |= part
        apart, rest = 0, missing
        for bit in sorted(near, key=lambda bit: near[bit].bit_count()):
            if rest & bit:
                apart += 1
                rest &= ~near[bit]
        return None if apart > left else min(many, key=lambda bit: many[bit])
