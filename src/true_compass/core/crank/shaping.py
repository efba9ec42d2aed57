"""An engine changed by hand: throws and banks moved, cylinders numbered, an order tapped out.

Each function takes an engine and gives another one, or a `Clash` where its firing order cannot be
any more, with what would help. Nothing here draws or asks.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, apart_deg
from true_compass.core.crank.firing import (
    SAME_DEG,
    Failure,
    Groups,
    cannot_follow,
    groups_text,
    second_turns,
)
from true_compass.core.crank.layout import Layout, Seat
from true_compass.core.crank.orders import all_orders, best_order, even_orders, nearest_orders
from true_compass.core.engine import Engine

MOST_LISTED: Final = 12
"""Up to so many cylinders all uneven orders are looked through as well for the nearest one."""


@dataclass(frozen=True, slots=True)
class Clash:
    """A crank that forbids the order that was wanted.

    `failure` says which cylinder cannot fire, after which, and when it could. `fired_deg` are those
    that could, each with its angle. `nearest` is the possible order that differs least from the
    wanted one, even ones first; nothing where cylinders must fire together.
    """

    layout: Layout
    wanted: Groups
    failure: Failure
    fired_deg: tuple[tuple[int, float], ...]
    nearest: tuple[int, ...]
    even_count: int


def clash_of(layout: Layout, wanted: Groups) -> Clash | None:
    """Why a layout forbids an order, or None where it does not.

    >>> from true_compass.core.crank.makers import inline
    >>> clash_of(inline(4).layout, ((1,), (2,), (3,), (4,))).fired_deg
    ((1, 0.0), (2, 180.0), (3, 540.0))
    """
    failure = cannot_follow(layout.tdc_deg, wanted)
    if failure is None:
        return None
    fired, here_deg = [(wanted[0][0], 0.0)], 0.0
    for group in wanted[1:]:
        if failure.cylinder in group:
            break
        first_deg = float(layout.tdc_deg[group[0] - 1])
        later = [at for at in (first_deg, first_deg + TURN_DEG) if at > here_deg + SAME_DEG]
        here_deg = later[0]
        fired += [(cylinder, here_deg) for cylinder in group]
    flat = [cylinder for group in wanted for cylinder in group]
    even = even_orders(layout)
    table = even
    if not len(even) and layout.cylinder_count <= MOST_LISTED:
        table = all_orders(layout)
    near = nearest_orders(table, flat, 1)
    return Clash(layout, wanted, failure, tuple(fired), near[0] if near else (), len(even))


def reshaped(engine: Engine, layout: Layout) -> Engine | Clash:
    """The engine on another layout, firing in the order in which it is spelt now.

    Raises `EngineError` for what the layout itself forbids, such as rods that are too short.
    """
    wanted = engine.firing_groups
    ways = second_turns(layout.tdc_deg, wanted)
    if not ways:
        clash = clash_of(layout, wanted)
        assert clash is not None
        return clash
    # Among the ways to fire in that order the one that changes nothing where nothing moved.
    late = engine.late if engine.late in ways else ways[0]
    return replace(engine, layout=layout, late=late)


def taking(engine: Engine, layout: Layout, order: Sequence[int]) -> Engine:
    """The engine on a layout, firing in an order that it allows."""
    groups = tuple((cylinder,) for cylinder in order) if order else best_order(layout)
    return replace(engine, layout=layout, late=second_turns(layout.tdc_deg, groups)[0])


# Throws and banks ----------------------------------------------------------------------------


def even_step_deg(layout: Layout) -> float:
    """The step between even pins: 720/n, or an even part of it where that is more than 90°."""
    step_deg = CYCLE_DEG / layout.cylinder_count
    while step_deg > 90.0:
        step_deg /= 2.0
    return step_deg


def snapped_deg(layout: Layout, angle_deg: float) -> float:
    """A pin's angle on the nearest even step, 720/n or a half of it: whole firing intervals.

    >>> from true_compass.core.crank.makers import inline
    >>> snapped_deg(inline(6).layout, 232.0)
    240.0
    """
    step_deg = even_step_deg(layout)
    return round(angle_deg / step_deg) * step_deg % TURN_DEG


def with_throw(layout: Layout, throw: int, angle_deg: float) -> Layout:
    """The layout with one throw (from 0) at another angle."""
    throws = list(layout.throws)
    throws[throw] = replace(throws[throw], angle_deg=round(angle_deg % TURN_DEG, 6) % TURN_DEG)
    return replace(layout, throws=tuple(throws))


def throws_changed_about(layout: Layout, one: int, other: int) -> Layout:
    """The layout with two throws (from 0) in each other's place."""
    throws = list(layout.throws)
    mine, theirs = throws[one].angle_deg, throws[other].angle_deg
    throws[one] = replace(throws[one], angle_deg=theirs)
    throws[other] = replace(throws[other], angle_deg=mine)
    return replace(layout, throws=tuple(throws))


def throws_at(layout: Layout, angle_deg: float, but: int, within_deg: float = 12.0) -> list[int]:
    """Throws (from 0) whose pins stand at an angle, the nearest first; `but` is left out."""
    away = [
        (apart_deg(throw.angle_deg, angle_deg), place)
        for place, throw in enumerate(layout.throws)
        if place != but
    ]
    return [place for off, place in sorted(away) if off <= within_deg]


def with_bank(layout: Layout, bank: int, angle_deg: float, *, alone: bool = False) -> Layout:
    """The layout with one bank (from 0) at another angle; two banks move as mirror images.

    `alone` leaves the other one where it is.
    """
    banks = list(layout.banks)
    banks[bank] = replace(banks[bank], angle_deg=angle_deg)
    if len(banks) == 2 and not alone:
        other = 1 - bank
        banks[other] = replace(banks[other], angle_deg=-angle_deg)
    return replace(layout, banks=tuple(banks))


# Numbers and order ---------------------------------------------------------------------------


def renumbered(engine: Engine, seats: Sequence[Seat]) -> Engine:
    """The same engine with its cylinders numbered anew: `seats` in the order of their numbers.

    It fires in the order in which it is spelt where that is possible, or else in the same places
    as before, spelt with the new numbers.
    """
    layout = engine.layout
    place_of = {seat: row for row, seat in enumerate(layout.seats)}
    new_number = {place_of[seat] + 1: number for number, seat in enumerate(seats, start=1)}
    rods = layout.articulated
    if rods is not None:
        rods = replace(rods, masters=tuple(new_number[master] for master in rods.masters))
    typed = tuple(layout.typed_tdc_deg[place_of[seat]] for seat in seats if layout.typed_tdc_deg)
    changed = replace(layout, seats=tuple(seats), articulated=rods, typed_tdc_deg=typed)
    ways = second_turns(changed.tdc_deg, engine.firing_groups)
    if ways:
        return replace(engine, layout=changed, late=ways[0])
    before = engine.firing_offsets_deg
    first_deg = before[place_of[seats[0]]]
    late = tuple(
        bool((before[place_of[seat]] - first_deg) % CYCLE_DEG - changed.tdc_deg[row] > 180.0)
        for row, seat in enumerate(seats)
    )
    return replace(engine, layout=changed, late=late)


@dataclass(frozen=True, slots=True)
class NextFiring:
    """Whether a cylinder can fire next in an order that was begun; `why` it cannot."""

    cylinder: int
    at_deg: float
    why: str = ""

    @property
    def possible(self) -> bool:
        """Whether it can."""
        return not self.why


def fired_deg(layout: Layout, begun: Sequence[int]) -> list[tuple[int, float]]:
    """Cylinders of an order that was begun, each with the angle at which it fires.

    >>> from true_compass.core.crank.makers import inline
    >>> fired_deg(inline(4).layout, (1, 3, 4))
    [(1, 0.0), (3, 180.0), (4, 360.0)]
    """
    found: list[tuple[int, float]] = []
    here_deg = 0.0
    for cylinder in begun:
        if found:
            here_deg = _next_tdc_deg(float(layout.tdc_deg[cylinder - 1]), here_deg) or here_deg
        found.append((cylinder, here_deg))
    return found


def next_firings(layout: Layout, begun: Sequence[int]) -> list[NextFiring]:
    """For each cylinder that is not in an order yet: when it would fire next, or why it cannot.

    One that would leave another with no TDC to fire at is not possible either.

    >>> from true_compass.core.crank.makers import inline
    >>> [n.cylinder for n in next_firings(inline(4).layout, (1,)) if n.possible]
    [2, 3]
    """
    tdc_deg = layout.tdc_deg.tolist()
    here_deg = fired_deg(layout, begun)[-1][1] if begun else 0.0
    left = [c for c in range(1, len(tdc_deg) + 1) if c not in begun]
    return [_judged(tdc_deg, cylinder, left, here_deg, begun) for cylinder in left]


def _next_tdc_deg(own_deg: float, here_deg: float) -> float | None:
    for at_deg in (own_deg, own_deg + TURN_DEG):
        if here_deg + SAME_DEG < at_deg < CYCLE_DEG - SAME_DEG:
            return at_deg
    return None


def _judged(
    tdc_deg: list[float], cylinder: int, left: list[int], here_deg: float, begun: Sequence[int]
) -> NextFiring:
    own_deg = tdc_deg[cylinder - 1]
    places = f"{own_deg:.4g}° and {own_deg + TURN_DEG:.4g}°"
    if not begun:
        return NextFiring(cylinder, 0.0, "" if cylinder == 1 else "An order starts with 1.")
    at_deg = _next_tdc_deg(own_deg, here_deg)
    if at_deg is None:
        why = f"{cylinder} is at TDC at {places}, and both have gone by at {here_deg:.4g}°."
        return NextFiring(cylinder, own_deg, why)
    stranded = _stranded(tdc_deg, [other for other in left if other != cylinder], at_deg)
    if not stranded:
        return NextFiring(cylinder, at_deg)
    if len(stranded) == 1:
        last_deg = tdc_deg[stranded[0] - 1] + TURN_DEG
        late = f"{stranded[0]}, whose last TDC is at {last_deg:.4g}°"
        why = f"After {cylinder} at {at_deg:.4g}° it is too late for {late}."
        return NextFiring(cylinder, at_deg, why)
    names = " and ".join(map(str, stranded))
    why = f"After {cylinder} at {at_deg:.4g}° cylinders {names} would have to fire together."
    return NextFiring(cylinder, at_deg, why)


def _stranded(tdc_deg: list[float], left: list[int], at_deg: float) -> list[int]:
    """Cylinders that share their TDCs and have fewer of them left than they are."""
    for first in left:
        own_deg = tdc_deg[first - 1]
        same = [other for other in left if abs(tdc_deg[other - 1] - own_deg) <= SAME_DEG]
        places = [own_deg, own_deg + TURN_DEG]
        if len(same) > sum(at_deg + SAME_DEG < at < CYCLE_DEG - SAME_DEG for at in places):
            return same
    return []


def clash_words(clash: Clash) -> tuple[str, str]:
    """A clash in a headline and a sentence."""
    failure = clash.failure
    first, second = failure.own_deg
    if failure.tie:
        head = f"{failure.cylinder} cannot fire together with {failure.before} here"
        return head, f"{failure.cylinder} is at TDC at {first:.4g}° and {second:.4g}°."
    at_deg = dict(clash.fired_deg).get(failure.before, 0.0)
    head = f"{failure.cylinder} cannot fire after {failure.before} here"
    body = (
        f"With these throws {failure.before} fires at {at_deg:.4g}°. {failure.cylinder} is at TDC "
        f"at {first:.4g}° and {second:.4g}°, and both have gone by."
    )
    return head, body


def order_words(order: Sequence[int]) -> str:
    """An order as it is spelt."""
    return groups_text(tuple((cylinder,) for cylinder in order))
