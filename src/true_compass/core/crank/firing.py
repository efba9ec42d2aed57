"""Firing orders as text, and which of its two TDCs each cylinder fires at.

A cylinder is at TDC twice a cycle, one turn apart. An order chooses one of the two for each.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final, TypeVar

import numpy as np

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, Floats
from true_compass.core.limits import MOST_CYLINDERS, EngineError

SAME_DEG: Final = 0.01
"""Angles closer than this are one place: a file may give them with few decimals."""

EVEN_DEG: Final = 0.1
"""Intervals that differ by no more are even: banks of 51.43° stand for 360/7."""

Groups = tuple[tuple[int, ...], ...]
"""Cylinders in firing order; those in one group fire together."""
Fired = TypeVar("Fired")


def check_firing_order(order: tuple[int, ...]) -> None:
    """Raise unless every cylinder from 1 up fires exactly once, cylinder 1 first."""

    def wrong(sentence: str) -> EngineError:
        return EngineError("firing_order", sentence)

    if not 1 <= len(order) <= MOST_CYLINDERS:
        raise wrong(f"must name 1 to {MOST_CYLINDERS} cylinders, not {len(order)}")
    for cylinder in order:
        if order.count(cylinder) > 1:
            raise wrong(f"has {cylinder} more than once: each cylinder fires once in 720°")
    for cylinder in range(1, len(order) + 1):
        if cylinder not in order:
            raise wrong(
                f"leaves out cylinder {cylinder}: {len(order)} cylinders are numbered "
                f"1 to {len(order)}"
            )
    if order[0] != 1:
        at = order.index(1)
        turned = "-".join(str(cylinder) for cylinder in order[at:] + order[:at])
        raise wrong(f"must start with cylinder 1: write {turned}")


def parse_firing_order(text: str) -> tuple[int, ...]:
    """Read `1-5-3-6-2-4`; commas and spaces also part the numbers.

    >>> parse_firing_order("1-3-4-2")
    (1, 3, 4, 2)
    """
    order = tuple(_order_numbers(text))
    check_firing_order(order)
    return order


def _order_numbers(text: str) -> Iterator[int]:
    for part in text.replace(",", "-").replace(" ", "-").split("-"):
        if not (part.isascii() and part.isdigit() and len(part) <= 3):
            raise EngineError(
                "firing_order",
                f"has {part[:12]!r} where a cylinder number should be: write it like 1-3-4-2",
            )
        yield int(part)


def parse_groups(text: str) -> Groups:
    """Read an order in which some cylinders may fire together: `1+4-2+3`.

    >>> parse_groups("1+4-2+3")
    ((1, 4), (2, 3))
    """
    groups = tuple(
        tuple(_order_numbers(part.replace("+", "-")))
        for part in text.replace(",", "-").replace(" ", "-").split("-")
    )
    flat = tuple(cylinder for group in groups for cylinder in group)
    check_firing_order(flat)
    return tuple(tuple(sorted(group)) for group in groups)


def groups_text(groups: Groups) -> str:
    """An order as it is spelt: `1-3-4-2`, or `1+4-2+3` when cylinders fire together."""
    return "-".join("+".join(map(str, group)) for group in groups)


def groups_of(offsets_deg: Floats) -> Groups:
    """The firing order of given firing offsets, shape `(C,)`, from cylinder 1 at 0."""
    rows = np.argsort(offsets_deg, kind="stable")
    groups: list[list[int]] = []
    last = -np.inf
    for row in rows.tolist():
        if offsets_deg[row] - last > SAME_DEG:
            groups.append([])
            last = float(offsets_deg[row])
        groups[-1].append(row + 1)
    return tuple(tuple(sorted(group)) for group in groups)


def are_even(intervals_deg: Sequence[float]) -> bool:
    """Whether intervals between firings are alike.

    >>> are_even([102.86] * 6 + [102.84]), are_even([90.0, 150.0])
    (True, False)
    """
    return max(intervals_deg) - min(intervals_deg) <= EVEN_DEG


def second_turns(tdc_deg: Floats, groups: Groups) -> list[tuple[bool, ...]]:
    """Every way to fire in this order: for each, which cylinders fire in the second turn.

    `tdc_deg`, shape `(C,)`, are TDCs in [0, 360) with cylinder 1 at 0. An order that rises
    through two turns has all of its first part in the first one, so a way is the place where the
    second turn begins. The most even way comes first; none means that the crank forbids the order.
    """
    places = [float(tdc_deg[group[0] - 1]) for group in groups]
    for group, place in zip(groups, places, strict=True):
        if any(abs(tdc_deg[cylinder - 1] - place) > SAME_DEG for cylinder in group):
            return []
    ways = []
    for first in range(1, len(groups) + 1):
        rising = np.array(places)
        rising[first:] += TURN_DEG
        gaps = np.diff(np.append(rising, CYCLE_DEG))
        if np.all(gaps > SAME_DEG):
            ways.append((tuple(np.sort(gaps).tolist()), first))
    # The largest least interval is the most even; then the second least, and so on.
    ways.sort(key=lambda way: (tuple(-gap for gap in way[0]), way[1]))
    return [_flags(groups, first, len(tdc_deg)) for _, first in ways]


def _flags(groups: Groups, first: int, count: int) -> tuple[bool, ...]:
    late = {cylinder for group in groups[first:] for cylinder in group}
    return tuple(cylinder in late for cylinder in range(1, count + 1))


def second_turns_at(
    tdc_deg: Floats, groups: Groups, intervals_deg: Sequence[float]
) -> tuple[bool, ...]:
    """The way to fire in this order with these intervals. Raises `EngineError` without one."""
    if len(intervals_deg) != len(groups):
        raise EngineError(
            "firing_intervals_deg",
            f"has {len(intervals_deg)} intervals, but the order has {len(groups)} firings",
        )
    if abs(sum(intervals_deg) - CYCLE_DEG) > SAME_DEG * len(groups):
        raise EngineError("firing_intervals_deg", f"must add up to 720, not {sum(intervals_deg):g}")
    at_deg = np.concatenate(([0.0], np.cumsum(intervals_deg)[:-1]))
    flags = [False] * len(tdc_deg)
    for group, place in zip(groups, at_deg.tolist(), strict=True):
        for cylinder in group:
            away = abs((place - tdc_deg[cylinder - 1] + 180.0) % TURN_DEG - 180.0)
            if away > 100 * SAME_DEG:
                raise EngineError(
                    "firing_intervals_deg",
                    f"puts cylinder {cylinder} at {place:g}°, but it is at TDC at "
                    f"{tdc_deg[cylinder - 1]:g}° and {tdc_deg[cylinder - 1] + TURN_DEG:g}°",
                )
            flags[cylinder - 1] = place - tdc_deg[cylinder - 1] > TURN_DEG / 2
    return tuple(flags)


@dataclass(frozen=True, slots=True)
class Failure:
    """Why a crank forbids an order: `cylinder` cannot follow `before`, or (`tie`) fire with it.

    `own_deg` are the two TDCs of the cylinder.
    """

    cylinder: int
    before: int
    own_deg: tuple[float, float]
    tie: bool = False

    @property
    def head(self) -> str:
        """What cannot be, in a few words."""
        if self.tie:
            return f"{self.cylinder} cannot fire together with {self.before}"
        return f"{self.cylinder} cannot follow {self.before}"

    @property
    def words(self) -> str:
        """What cannot be, and why."""
        first, second = self.own_deg
        return f"{self.head}, because it is at TDC at {first:.6g}° and {second:.6g}°"


def backwards(row: tuple[Fired, ...]) -> tuple[Fired, ...]:
    """An order, or the leads round a cap, read in the wrong direction from the first on.

    Of groups those that fire together stay so.

    >>> backwards((1, 3, 4, 2)), backwards(((1, 4), (2, 3)))
    ((1, 2, 4, 3), ((1, 4), (2, 3)))
    """
    return (row[0], *reversed(row[1:]))


def cannot_follow(tdc_deg: Floats, groups: Groups) -> Failure | None:
    """The first cylinder of an order that cannot fire where the order wants it, or None."""
    here, before = 0.0, groups[0][0]
    for group in groups:
        places = [float(tdc_deg[group[0] - 1]), float(tdc_deg[group[0] - 1]) + TURN_DEG]
        for cylinder in group[1:]:
            if abs(tdc_deg[cylinder - 1] - places[0]) > SAME_DEG:
                own = float(tdc_deg[cylinder - 1])
                return Failure(cylinder, group[0], (own, own + TURN_DEG), tie=True)
        if group is groups[0]:
            continue
        later = [place for place in places if here + SAME_DEG < place < CYCLE_DEG - SAME_DEG]
        if not later:
            return Failure(group[0], before, (places[0], places[1]))
        here, before = later[0], group[0]
    return None
