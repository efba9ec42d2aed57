"""Which firing orders a crank allows, and how they differ.

Each cylinder is at TDC twice a cycle; an order chooses one of the two for all but cylinder 1. So a
crank of n cylinders has 2^(n-1) choices. A choice in which all fire at different angles is an
order: a sequence with its intervals. The others are counted as firing together.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final

import numpy as np
from numpy.typing import NDArray

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, Bools, Floats
from true_compass.core.firing import SAME_DEG, Groups, groups_of
from true_compass.core.layout import Form, Layout

MOST_COMPARED: Final = 3000


@dataclass(frozen=True)
class OrderTable:
    """Orders of one crank, a row each, the most even first.

    `offsets_deg` `(K, C)` are firing offsets by cylinder; `sequence` `(K, C)` cylinder numbers in
    firing order; `intervals_deg` `(K, C)` the gap after each firing; `even` `(K,)`.
    `together_deg` `(J, C)` are the offsets of the choices in which some fire together.
    """

    offsets_deg: Floats
    sequence: NDArray[np.int8]
    intervals_deg: Floats
    even: Bools
    together_deg: Floats

    def __len__(self) -> int:
        """Number of orders in which all fire apart."""
        return len(self.sequence)

    def order(self, row: int) -> tuple[int, ...]:
        """One order as cylinder numbers."""
        return tuple(self.sequence[row].tolist())


def all_orders(layout: Layout) -> OrderTable:
    """Every choice that a crank allows; about 2^17 rows for 18 cylinders.

    >>> from true_compass.core.makers import inline
    >>> table = all_orders(inline(4).layout)
    >>> [table.order(row) for row in np.flatnonzero(table.even)]
    [(1, 2, 4, 3), (1, 3, 4, 2)]
    """
    tdc_deg = layout.tdc_deg
    count = len(tdc_deg)
    choices = np.arange(2 ** (count - 1), dtype=np.uint32)
    late = np.zeros((len(choices), count), dtype=bool)
    for cylinder in range(1, count):
        late[:, cylinder] = choices >> (cylinder - 1) & 1
    offsets = tdc_deg + TURN_DEG * late
    rows = np.argsort(offsets, axis=1, kind="stable").astype(np.int8)
    ends = np.take_along_axis(offsets, rows.astype(np.intp), axis=1)
    intervals = np.diff(ends, axis=1, append=CYCLE_DEG)
    apart = np.all(intervals > SAME_DEG, axis=1) if count > 1 else np.ones(1, dtype=bool)
    # Cylinder 1 fires at 0, so one that shares its TDC early would be sorted beside it.
    together = offsets[~apart]
    offsets, rows, intervals = offsets[apart], rows[apart], intervals[apart]
    # The sum of squares is least when all gaps are alike, and grows with every departure.
    squares = np.round((intervals**2).sum(axis=1), 3)
    even = squares <= CYCLE_DEG**2 / count + SAME_DEG
    by = np.lexsort((*(rows[:, column] for column in reversed(range(count))), squares))
    return OrderTable(offsets[by], rows[by] + np.int8(1), intervals[by], even[by], together)


def best_order(layout: Layout) -> Groups:
    """The order a builder would try first: most even, then fewest neighbours in a row.

    Then shortest runs on one side. Where cylinders cannot but fire together, the choice with the
    most firings, as even as can be.
    """
    table = all_orders(layout)
    if not len(table):
        gaps = np.diff(np.sort(table.together_deg, axis=1), axis=1, append=CYCLE_DEG)
        firings = (gaps > SAME_DEG).sum(axis=1)
        squares = np.round((gaps**2).sum(axis=1), 3)
        return groups_of(table.together_deg[np.lexsort((squares, -firings))[0]])
    squares = (table.intervals_deg**2).sum(axis=1)
    alike = np.flatnonzero(squares <= squares[0] + SAME_DEG)[:MOST_COMPARED].tolist()

    def trouble(row: int) -> tuple[int, int, int]:
        order = table.order(row)
        return len(neighbours(layout, order)), longest_run(layout, order), row

    return groups_of(table.offsets_deg[min(alike, key=trouble)])


def neighbours(layout: Layout, order: Sequence[int]) -> list[tuple[int, int]]:
    """Pairs that fire one after the other and stand side by side on a bank."""
    beside = set()
    for bank in range(len(layout.banks)):
        row = layout.on_bank(bank)
        beside |= {frozenset(pair) for pair in pairwise(row)}
    turns = zip(order, [*order[1:], order[0]], strict=True)
    pairs = [(a, b) for a, b in turns if frozenset((a, b)) in beside]
    # In a twin the same two follow each other both ways; that is one pair.
    return pairs if len(order) > 2 else pairs[:1]


def halves(layout: Layout) -> list[int]:
    """For each cylinder its side: bank, row of a radial, or half of a single bank."""
    if layout.form is Form.RADIAL:
        return [seat.throw for seat in layout.seats]
    if len(layout.banks) > 1:
        return [seat.bank for seat in layout.seats]
    row = layout.on_bank(0)
    return [0 if row.index(n + 1) < len(row) / 2 else 1 for n in range(len(row))]


def longest_run(layout: Layout, order: Sequence[int]) -> int:
    """Most firings in a row on one side (see `halves`), round the cycle."""
    sides = halves(layout)
    around = [sides[cylinder - 1] for cylinder in order]
    if len(set(around)) == 1:
        return len(around)
    start = next(i for i in range(len(around)) if around[i] != around[i - 1])
    turned = around[start:] + around[:start]
    longest = run = 1
    for before, after in pairwise(turned):
        run = run + 1 if after == before else 1
        longest = max(longest, run)
    return longest


def backwards(order: Sequence[int]) -> tuple[int, ...]:
    """The order read in the wrong direction, from cylinder 1."""
    return (order[0], *reversed(order[1:]))


def nearest_orders(
    table: OrderTable, wanted: Sequence[int], most: int = 3
) -> list[tuple[int, ...]]:
    """The possible orders that differ from a wanted one in the fewest places, even ones first."""
    if not len(table):
        return []
    differ = np.count_nonzero(table.sequence != np.array(wanted, dtype=np.int8), axis=1)
    found: list[tuple[int, ...]] = []
    for row in np.lexsort((np.arange(len(table)), differ, ~table.even)).tolist():
        order = table.order(row)
        if order not in found:
            found.append(order)
        if len(found) == most:
            break
    return found


def other_hand(layout: Layout) -> Layout:
    """The same crank built as its mirror image: every pin on the other side."""
    return replace(
        layout,
        throws=tuple(
            replace(throw, angle_deg=-throw.angle_deg % TURN_DEG, split_deg=-throw.split_deg)
            for throw in layout.throws
        ),
    )
