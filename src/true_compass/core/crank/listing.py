"""Orders of one crank as they are listed: sorted and filtered, with what a reader asks of each."""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Final

import numpy as np

from true_compass.core.angles import TURN_DEG, Floats
from true_compass.core.crank.firing import (
    SAME_DEG,
    Groups,
    are_even,
    groups_of,
    groups_text,
)
from true_compass.core.crank.layout import Layout
from true_compass.core.crank.orders import (
    OrderTable,
    Verdict,
    all_orders,
    even_orders,
    gaps_words,
    halves,
    has_hands,
    intervals_of,
    judge_order,
    longest_run,
    neighbours,
    other_hand,
)
from true_compass.core.words import counted

MOST_ROWS: Final = 2000


@dataclass(frozen=True, slots=True)
class OrderRow:
    """One order with all that the table says about it."""

    order: tuple[int, ...]
    offsets_deg: tuple[float, ...]
    intervals_deg: tuple[float, ...]
    even: bool
    run: int
    pairs: tuple[tuple[int, int], ...]
    companions: tuple[tuple[int, int], ...]

    @property
    def text(self) -> str:
        """The order as it is spelt."""
        return groups_text(self.groups)

    @property
    def gaps(self) -> str:
        """Its gaps in few characters: `120°`, or `90° to 150°`."""
        return gaps_words(self.intervals_deg)

    @property
    def groups(self) -> Groups:
        """The order as firings; cylinders that fire together share one."""
        return groups_of(np.array(self.offsets_deg))

    @property
    def long_gap_after(self) -> str:
        """The firing before the longest gap."""
        longest = self.intervals_deg.index(max(self.intervals_deg))
        return groups_text((self.groups[longest],))

    @property
    def turns(self) -> str:
        """Which fire in the first turn and which in the second: `1-3-4, then 2`.

        Rows of one order on one crank differ in nothing else.
        """
        late = {group for group in self.groups if self.offsets_deg[group[0] - 1] >= TURN_DEG}
        halves = ([g for g in self.groups if (g in late) is side] for side in (False, True))
        first, second = (groups_text(tuple(half)) for half in halves)
        return f"{first}, then {second}" if second else f"{first}, all in one turn"


def order_row(layout: Layout, offsets_deg: Floats) -> OrderRow:
    """Work out everything about one choice of TDCs, given as firing offsets `(C,)`."""
    groups = groups_of(offsets_deg)
    order = tuple(cylinder for group in groups for cylinder in group)
    gaps = intervals_of(offsets_deg)
    apart = np.abs(offsets_deg[:, None] - offsets_deg[None, :])
    ones, others = np.nonzero(np.triu(np.abs(apart - TURN_DEG) < SAME_DEG))
    return OrderRow(
        order,
        tuple(offsets_deg.tolist()),
        gaps,
        are_even(gaps),
        longest_run(layout, order),
        tuple(neighbours(layout, order)),
        tuple((int(a) + 1, int(b) + 1) for a, b in zip(ones, others, strict=True)),
    )


class Shown(Enum):
    """Which choices the table lists, with the words of the button that leads there."""

    EVEN = "Only even"
    APART = "Show uneven"
    TOGETHER = "Fire together"


@dataclass(frozen=True, slots=True)
class Column:
    """A column of the table: heading, what it is, why a builder cares, and how to sort by it."""

    word: str
    under: str
    why: str
    key: Callable[[OrderRow], tuple[float, ...]]


COLUMNS: Final = (
    Column(
        "Order",
        "fires in this turn",
        "Order: the turn in which the cylinders fire, from cylinder 1.",
        lambda row: tuple(float(cylinder) for cylinder in row.order),
    ),
    Column(
        "Gaps",
        "to the next",
        "Gaps: even ones make the turning smooth and spare the gearbox.",
        lambda row: (sum(gap * gap for gap in row.intervals_deg),),
    ),
    Column(
        "Longest run",
        "on one side",
        "Longest run: firings in a row on one bank or half crowd its manifold and its bearings.",
        lambda row: (float(row.run),),
    ),
    Column(
        "Neighbours",
        "fire in a row",
        "Neighbours: two side by side that fire in a row load the same stretch of crank.",
        lambda row: (float(len(row.pairs)),),
    ),
    Column(
        "Companions",
        "360° apart",
        "Companions: they rise together; one fires while the other is in overlap.",
        lambda row: (-float(len(row.companions)),),
    ),
)


class OrderListing:
    """Orders of one crank, or of its mirror image; only the one that is shown is kept."""

    def __init__(self, layout: Layout) -> None:
        self.built = layout
        self.mirrored = False
        self.shown = Shown.EVEN
        self.sorted_by = 3
        self.begins = ""
        self._held: tuple[Layout, OrderTable] | None = None
        self._rows: dict[bool, list[OrderRow]] = {}

    def _hand(self) -> tuple[Layout, OrderTable]:
        if self._held is None:
            layout = other_hand(self.built) if self.mirrored else self.built
            self._held = (layout, all_orders(layout))
        return self._held

    def mirror(self) -> None:
        """Change to the other hand of crank."""
        self.mirrored, self._held = not self.mirrored, None
        self._rows.clear()

    def _all_rows(self, together: bool) -> list[OrderRow]:
        if together not in self._rows:
            layout, table = self._hand()
            choices = table.together_deg if together else table.offsets_deg
            self._rows[together] = [order_row(layout, offsets) for offsets in choices[:MOST_ROWS]]
        return self._rows[together]

    def shown_next(self) -> Shown | None:
        """What the button offers: the next list that is not empty and not shown already."""
        uneven = len(self.table) > self.even_count
        there = [Shown.EVEN] if self.even_count else []
        there += [Shown.APART] if uneven else []
        there += [Shown.TOGETHER] if len(self.table.together_deg) else []
        if len(there) < 2:
            return None
        here = there.index(self.shown) if self.shown in there else 0
        return there[(here + 1) % len(there)]

    @property
    def layout(self) -> Layout:
        """The crank that is shown."""
        return self._hand()[0]

    @property
    def table(self) -> OrderTable:
        """All its orders."""
        return self._hand()[1]

    @property
    def even_count(self) -> int:
        """How many of them are even."""
        return int(self.table.even.sum())

    @property
    def other_even_count(self) -> int:
        """How many even ones the mirror image allows."""
        return len(even_orders(self.built if self.mirrored else other_hand(self.built)))

    @property
    def has_hands(self) -> bool:
        """Whether the mirror image is another crank."""
        return has_hands(self.built)

    def rows(self) -> list[OrderRow]:
        """The rows to show, filtered and sorted."""
        if self.shown is Shown.TOGETHER or not len(self.table):
            rows = self._all_rows(together=True)
        else:
            rows = self._all_rows(together=False)
            if self.shown is Shown.EVEN and self.even_count:
                rows = [row for row in rows if row.even]
        if self.begins:
            rows = [row for row in rows if row.text.startswith(self.begins)]
        key = COLUMNS[self.sorted_by].key
        return sorted(rows, key=lambda row: (*key(row), not row.even, row.order))

    @staticmethod
    def alike(rows: Sequence[OrderRow]) -> set[str]:
        """Orders that more than one of these rows has: such rows must say how they differ."""
        times = Counter(row.text for row in rows)
        return {text for text, count in times.items() if count > 1}

    def headline(self) -> str:
        """The answer in one line."""
        even, every = self.even_count, len(self.table)
        if even:
            return f"This crank allows {counted(even, 'even order')}"
        if every:
            return f"No even order; {counted(every, 'uneven one')}"
        return "On this crank some must fire together"

    def crank_words(self) -> list[str]:
        """The pins, and what else the crank allows; wordings, the longest first."""
        pins = ", ".join(f"{throw.angle_deg:.4g}" for throw in self.layout.throws)
        sentences = [f"Pins {pins}°."]
        together = len(self.table.together_deg)
        if together:
            sentences.append(f"In {together} more choices some fire together.")
        if self.has_hands:
            other = self.other_even_count
            told = counted(other, "even order") if other else "no even order"
            sentences.append(f"The mirrored crank allows {told}.")
        return [" ".join(sentences[:count]) for count in range(len(sentences), 0, -1)]

    def borders(self) -> list[int]:
        """After which columns a bank or a half ends, where numbers run along them."""
        sides = halves(self.layout)
        edges = [i + 1 for i in range(len(sides) - 1) if sides[i] != sides[i + 1]]
        return edges if len(edges) < len(set(sides)) else []

    def verdict(self, text: str) -> Verdict | None:
        """What to say about a typed order; None while it is only the beginning of one."""
        count = self.layout.cylinder_count
        numbers = [part for part in text.replace("+", "-").split("-") if part.isdigit()]
        if len(numbers) < count and len(set(numbers)) == len(numbers):
            return None
        return judge_order(self.layout, text, self.table)
