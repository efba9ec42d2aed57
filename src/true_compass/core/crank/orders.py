"""Which firing orders a crank allows, and how they differ.

Each cylinder is at TDC twice a cycle; an order chooses one of the two for all but cylinder 1. So a
crank of n cylinders has 2^(n-1) choices. A choice in which all fire at different angles is an
order: a sequence with its intervals. The others are counted as firing together.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from typing import Final

import numpy as np
from numpy.typing import NDArray

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, Bools, Floats
from true_compass.core.crank.firing import (
    EVEN_DEG,
    SAME_DEG,
    Groups,
    are_even,
    cannot_follow,
    groups_of,
    groups_text,
    parse_groups,
    second_turns,
)
from true_compass.core.crank.layout import Form, Layout
from true_compass.core.limits import EngineError

MOST_COMPARED: Final = 3000


@dataclass(frozen=True, eq=False)
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

    def only(self, keep: Bools) -> "OrderTable":
        """The rows to keep, and none that fire together."""
        of = (self.offsets_deg, self.sequence, self.intervals_deg, self.even)
        return OrderTable(of[0][keep], of[1][keep], of[2][keep], of[3][keep], self.together_deg[:0])

    def order(self, row: int) -> tuple[int, ...]:
        """One order as cylinder numbers."""
        return tuple(self.sequence[row].tolist())


def all_orders(layout: Layout) -> OrderTable:
    """Every choice that a crank allows; about 2^17 rows for 18 cylinders.

    >>> from true_compass.core.crank.makers import inline
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
    return _table_of(tdc_deg + TURN_DEG * late)


@lru_cache(maxsize=8)
def even_orders(layout: Layout) -> OrderTable:
    """The even ones alone, without making the others: at most 2^(n/2 - 1) choices are looked at.

    In an even order the k-th firing lies within k × `EVEN_DEG` of k × 720/n, so that each of these
    places is one cylinder's, and most cylinders have but one. The last eight answers are kept: a
    table has at most 256 rows here, 80 kB.

    >>> from true_compass.core.crank.makers import radial, vee
    >>> len(even_orders(vee(16, 45).layout)), len(even_orders(radial(9).layout))
    (128, 1)
    """
    tdc_deg = layout.tdc_deg
    count = len(tdc_deg)
    step_deg = CYCLE_DEG / count
    places: list[dict[int, bool]] = []
    for at_deg in tdc_deg.tolist():
        near = {}
        for late in (False, True):
            place = round((at_deg + TURN_DEG * late) / step_deg)
            off_deg = abs(at_deg + TURN_DEG * late - place * step_deg)
            if place < count and off_deg <= count * EVEN_DEG:
                near[place] = late
        places.append(near)
    chosen: list[list[bool]] = []

    def choose(late: list[bool], taken: frozenset[int]) -> None:
        if len(late) == count:
            chosen.append(late)
            return
        for place, second in places[len(late)].items():
            if place not in taken:
                choose([*late, second], taken | {place})

    choose([False], frozenset({0}))
    choices = np.array(chosen, dtype=bool).reshape(-1, count)
    found = _table_of(tdc_deg + TURN_DEG * choices)
    return found.only(found.even)


def _table_of(offsets: Floats) -> OrderTable:
    """Choices `(J, C)` of firing offsets as a table, sorted."""
    count = offsets.shape[1]
    rows = np.argsort(offsets, axis=1, kind="stable").astype(np.int8)
    ends = np.take_along_axis(offsets, rows.astype(np.intp), axis=1)
    intervals = np.diff(ends, axis=1, append=CYCLE_DEG)
    apart = np.all(intervals > SAME_DEG, axis=1) if count > 1 else np.ones(len(offsets), dtype=bool)
    # Cylinder 1 fires at 0, so one that shares its TDC early would be sorted beside it.
    together = offsets[~apart]
    offsets, rows, intervals = offsets[apart], rows[apart], intervals[apart]
    # The sum of squares is least when all gaps are alike, and grows with every departure.
    squares = np.round((intervals**2).sum(axis=1), 3)
    even = np.ptp(intervals, axis=1) <= EVEN_DEG
    keys = (rows[:, column] for column in reversed(range(count)))
    by = np.lexsort((*keys, squares, ~even))
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
    best = table.even if table.even.any() else squares <= squares[0] + SAME_DEG
    alike = np.flatnonzero(best)[:MOST_COMPARED].tolist()

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


def nearest_orders(
    table: OrderTable, wanted: Sequence[int], most: int = 3
) -> list[tuple[int, ...]]:
    """The possible orders that differ from a wanted one in the fewest places; among those alike in
    that, even ones first."""
    if not len(table):
        return []
    differ = np.count_nonzero(table.sequence != np.array(wanted, dtype=np.int8), axis=1)
    found: list[tuple[int, ...]] = []
    for row in np.lexsort((np.arange(len(table)), ~table.even, differ)).tolist():
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
            replace(throw, angle_deg=-throw.angle_deg % TURN_DEG, split_deg=0.0 - throw.split_deg)
            for throw in layout.throws
        ),
    )


def has_hands(layout: Layout) -> bool:
    """Whether the mirror image of a crank is another crank."""
    return not bool((abs(layout.tdc_deg - other_hand(layout).tdc_deg) < 0.01).all())


@dataclass(frozen=True, slots=True)
class Verdict:
    """What is said about a typed order.

    `nearest` are orders that this crank allows, the one with the fewest changes first; `mirrored`
    is the nearest one of the mirrored crank, nothing where that is the same crank.
    """

    good: bool
    head: str
    body: str
    nearest: tuple[tuple[int, ...], ...] = ()
    mirrored: tuple[int, ...] = ()


def judge_order(layout: Layout, text: str, table: OrderTable | None = None) -> Verdict:
    """Whether a crank allows an order as it is typed, and what its gaps are, or why not.

    `table` are all orders of the crank, where they are known already.

    >>> from true_compass.core.crank.makers import inline
    >>> judge_order(inline(4).layout, "1-2-3-4").head
    'Not on this crank: 4 cannot follow 3.'
    """
    count = layout.cylinder_count
    try:
        groups = parse_groups(text)
    except EngineError as error:
        return Verdict(False, "Not an order.", f"It {error}.")
    named = sum(len(group) for group in groups)
    if named != count:
        return Verdict(False, "Another engine.", f"It names {named} cylinders, not {count}.")
    failure = cannot_follow(layout.tdc_deg, groups)
    if failure is None:
        return Verdict(True, f"{groups_text(groups)} is possible.", _fit_words(layout, groups))
    first, second = failure.own_deg
    body = f"{failure.cylinder} is at TDC at {first:.4g}° and {second:.4g}°"
    body += "." if failure.tie else f", and after {failure.before} both have already passed."
    flat = [cylinder for group in groups for cylinder in group]
    nearest = tuple(nearest_orders(all_orders(layout) if table is None else table, flat))
    mirrored: tuple[int, ...] = ()
    if has_hands(layout):
        near = nearest_orders(all_orders(other_hand(layout)), flat, 1)
        mirrored = near[0] if near else ()
    return Verdict(False, f"Not on this crank: {failure.head}.", body, nearest, mirrored)


def _fit_words(layout: Layout, groups: Groups) -> str:
    late = second_turns(layout.tdc_deg, groups)[0]
    gaps = intervals_of(layout.tdc_deg + TURN_DEG * np.array(late))
    words = f"Its gaps are {gaps_words(gaps)}."
    if not are_even(gaps):
        words = f"Uneven: {gaps_words(gaps)}."
    return words if len(groups) == layout.cylinder_count else f"Some fire together. {words}"


def intervals_of(offsets_deg: Floats) -> tuple[float, ...]:
    """Crank degrees from each firing to the next, one a group, from cylinder 1."""
    at = [float(offsets_deg[group[0] - 1]) for group in groups_of(offsets_deg)]
    return tuple(after - before for before, after in pairwise([*at, CYCLE_DEG]))


def gaps_words(gaps_deg: Sequence[float]) -> str:
    """Gaps in few characters: `120°`, or `90° to 150°`."""
    least, most = min(gaps_deg), max(gaps_deg)
    return f"{least:.4g}°" if are_even(gaps_deg) else f"{least:.4g}° to {most:.4g}°"
