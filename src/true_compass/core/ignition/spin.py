"""No book: what the engine tells while it is barred round with the cap off.

Bar on in the running direction. Each time an intake closes, note whose it is and where the rotor
points. Three of these give the rotor's direction, narrow the firing order down and place the posts.
"""

from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np

from true_compass.core.angles import TURN_DEG, degrees_on, wrap_deg
from true_compass.core.crank.orders import all_orders, even_orders
from true_compass.core.events import valve_events
from true_compass.core.ignition.cap import shorter_deg
from true_compass.core.items import Kind
from true_compass.core.rotation import Rotation
from true_compass.core.state import Rig

POINTS_WITHIN_DEG: Final = 15.0
"""How near an eye tells where a rotor points."""
LEAST_MOVE_DEG: Final = 4.0
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
            return "The rotor's direction is open: bar on to the next intake that closes."
        if not self.orders:
            return "No firing order of this crank has them so: look again who closed."
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
    """What a row of intakes that closed one after the other says, and what it leaves open."""
    seen = tuple(one for one in seen if one.cylinder <= rig.engine.cylinder_count)
    names = [one.cylinder for one in seen]
    if len(set(names)) < len(names):
        return Inferred(None, (), {}, "One cylinder stands there twice: take its second line off.")
    moves = [shorter_deg(b.rotor_deg - a.rotor_deg) for a, b in pairwise(seen)]
    signs = {1 if move > 0 else -1 for move in moves if LEAST_MOVE_DEG <= abs(move) < 176.0}
    if len(signs) > 1:
        both = "The rotor went both ways: bar on in the running direction only, and begin again."
        return Inferred(None, (), {}, both)
    turns = None
    if signs:
        turns = Rotation.CLOCKWISE if signs == {1} else Rotation.ANTICLOCKWISE
    orders = _orders(rig, names, moves)
    posts = _posts(rig, seen, turns, orders)
    return Inferred(turns, orders, posts)


def _orders(rig: Rig, names: list[int], moves: list[float]) -> tuple[tuple[int, ...], ...]:
    """Orders of this crank, even ones where there are any, with those cylinders in a row."""
    table = even_orders(rig.engine.layout)
    if not len(table):
        table = all_orders(rig.engine.layout)
    keep = np.ones(len(table), dtype=bool)
    for (one, other), move in zip(pairwise(names), moves, strict=True):
        on = wrap_deg(table.offsets_deg[:, other - 1] - table.offsets_deg[:, one - 1])
        at_one = np.argmax(table.sequence == one, axis=1)
        follows = np.take_along_axis(
            table.sequence, ((at_one + 1) % table.sequence.shape[1])[:, None], axis=1
        )[:, 0]
        keep &= (follows == other) & (np.abs(on - 2 * abs(move)) <= 2 * POINTS_WITHIN_DEG)
    rows = np.flatnonzero(keep)
    return tuple(table.order(int(row)) for row in rows)


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
