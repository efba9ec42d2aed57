"""No book: what the engine tells while it is barred round with the cap off.

Bar on in the running direction. Each time an intake closes, note whose it is and where the rotor
points. Three of these give the rotor's direction, narrow the firing order down and place the posts.
"""

from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np

from true_compass.core.angles import TURN_DEG, degrees_on, wrap_deg
from true_compass.core.crank.orders import OrderTable, all_orders, even_orders
from true_compass.core.events import valve_events
from true_compass.core.ignition.cap import shorter_deg
from true_compass.core.items import Kind
from true_compass.core.rotation import Rotation
from true_compass.core.state import Rig

POINTS_WITHIN_DEG: Final = 15.0
"""How near an eye tells where a rotor points."""
NAMED: Final = 4


@dataclass(frozen=True, slots=True)
class Seen:
    """An intake that closed, and where the rotor pointed, clockwise from the engine's front."""

    cylinder: int
    rotor_deg: float


@dataclass(frozen=True, slots=True)
class Inferred:
    """What follows: direction, the orders that are left, and where posts stand, by cylinder.

    `trouble` is a sentence where what was seen cannot be.
    """

    turns: Rotation | None
    orders: tuple[tuple[int, ...], ...]
    posts_deg: dict[int, float]
    trouble: str = ""

    @property
    def still_open(self) -> str:
        """What is not known yet, and what would settle it; a sentence."""
        if self.trouble:
            return self.trouble
        if self.turns is None:
            return "The rotor's direction is open: bar on to the next intake, or watch it move."
        if len(self.orders) > 1:
            texts = ["-".join(map(str, order)) for order in self.orders[:NAMED]]
            more = len(self.orders) - len(texts)
            rest = f" and {more} more" if more else ""
            return f"{len(self.orders)} orders are left: {', '.join(texts)}{rest}. Bar on."
        return "Nothing is open: order, direction and posts are known."


def closing_before_tdc_deg(rig: Rig, cylinder: int = 1) -> float:
    """Crank degrees from a cylinder's intake closing to its compression TDC."""
    offset = float(rig.offsets_deg[cylinder - 1])
    for event in valve_events(rig):
        if event.valve.kind is Kind.INTAKE and event.valve.cylinder == cylinder and not event.opens:
            return degrees_on(offset, event.crank_deg)
    return TURN_DEG / 2


def inferred(rig: Rig, seen: tuple[Seen, ...]) -> Inferred:
    """What a row of intakes that closed one after the other says, and what it leaves open.

    Between two looks the rotor went half as far as the crank; which way is not seen, for it may
    have gone more than half a turn. So both directions are tried with every order of this crank.
    """
    seen = tuple(one for one in seen if one.cylinder <= rig.engine.cylinder_count)
    names = [one.cylinder for one in seen]
    if len(set(names)) < len(names):
        return Inferred(None, (), {}, "One cylinder stands there twice: take its second line off.")
    table = even_orders(rig.engine.layout)
    if not len(table):
        table = all_orders(rig.engine.layout)
    moves = [b.rotor_deg - a.rotor_deg for a, b in pairwise(seen)]
    fits = {turns: _orders(table, names, moves, turns.sense) for turns in Rotation}
    possible = [turns for turns in Rotation if fits[turns]]
    if not possible:
        return Inferred(None, (), {}, _trouble(moves))
    turns = possible[0] if len(possible) == 1 else None
    # Two choices of a crank can have one sequence: it is told once.
    orders = tuple(dict.fromkeys(order for turns in possible for order in fits[turns]))
    return Inferred(turns, orders, _posts(rig, seen, turns, orders))


def _trouble(moves: list[float]) -> str:
    """Why no order of this crank has what was seen."""
    ways = {shorter_deg(move) > 0 for move in moves}
    if len(ways) > 1:
        return "The rotor went both ways: bar on in the running direction only, and begin again."
    return "No firing order of this crank has them so: look again who closed."


def _orders(
    table: OrderTable, names: list[int], moves: list[float], sense: int
) -> list[tuple[int, ...]]:
    """Orders with those cylinders in a row, so far apart as the rotor went that way."""
    keep = np.ones(len(table), dtype=bool)
    for (one, other), move in zip(pairwise(names), moves, strict=True):
        on = wrap_deg(table.offsets_deg[:, other - 1] - table.offsets_deg[:, one - 1])
        at_one = np.argmax(table.sequence == one, axis=1)
        follows = np.take_along_axis(
            table.sequence, ((at_one + 1) % table.sequence.shape[1])[:, None], axis=1
        )[:, 0]
        went = 2 * (sense * move % TURN_DEG)
        keep &= (follows == other) & (np.abs(on - went) <= 2 * POINTS_WITHIN_DEG)
    return [table.order(int(row)) for row in np.flatnonzero(keep)]


def _posts(
    rig: Rig, seen: tuple[Seen, ...], turns: Rotation | None, orders: tuple[tuple[int, ...], ...]
) -> dict[int, float]:
    """Where the posts stand: of what was seen, and of all once one order is left."""
    if turns is None or not seen:
        return {}
    ahead = turns.sense * closing_before_tdc_deg(rig) / 2
    posts = {one.cylinder: (one.rotor_deg + ahead) % TURN_DEG for one in seen}
    if len(orders) == 1 and rig.engine.fires_evenly:
        first, count = seen[0], len(orders[0])
        begin = orders[0].index(first.cylinder)
        for nth in range(count):
            cylinder = orders[0][(begin + nth) % count]
            step = turns.sense * nth * TURN_DEG / count
            posts.setdefault(cylinder, (posts[first.cylinder] + step) % TURN_DEG)
    return posts
