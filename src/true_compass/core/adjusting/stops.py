"""Stops: crank angles at which to adjust, and which items at each; what a plan is."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, degrees_on, wrap_deg
from true_compass.core.items import ExtraKind, Item, Part
from true_compass.core.state import Rig

HAIR_DEG: Final = 1e-4


def whole_degrees(margin_deg: float) -> int:
    """A margin as it is told everywhere: whole degrees, rounded down, a hair apart.

    What is off its base circle is so many degrees off, at least one.

    >>> whole_degrees(64.99996), whole_degrees(64.9), whole_degrees(-12.4), whole_degrees(-1e-5)
    (65, 64, -13, -1)
    """
    whole = math.floor(margin_deg + HAIR_DEG)
    return whole if margin_deg >= 0 else min(whole, -1)


@dataclass(frozen=True, slots=True)
class StopItem:
    """An item due at a stop, and its margin there in crank degrees (negative: not free).

    `back_deg` and `on_deg` are how far it stays free when the crank is turned back or on; 0 both
    for an item that is not free.
    """

    item: Item
    margin_deg: float
    back_deg: float = 0.0
    on_deg: float = 0.0

    @property
    def name(self) -> str:
        """The item's name."""
        return self.item.name

    @property
    def off_words(self) -> str:
        """What is said of an item that is not free: `I1 would be 12° off its base circle`."""
        return f"{self.name} would be {-whole_degrees(self.margin_deg)}° off its base circle"

    @property
    def margin_words(self) -> str:
        """Margin and name: `114° I1`."""
        return f"{whole_degrees(self.margin_deg)}° {self.name}"


@dataclass(frozen=True, slots=True)
class Stop:
    """A crank angle in [0, 720) and the items to adjust there.

    `turn_deg` is the way there from the stop before, in the running direction; `sign` says in a
    few words how the school knows the place. `loose_now` are the items that are free there, where
    a sweep takes up whatever is loose and names no item.
    """

    crank_deg: float
    items: tuple[StopItem, ...]
    turn_deg: float = 0.0
    sign: str = ""
    loose_now: tuple[Item, ...] = ()


@dataclass(frozen=True)
class Plan:
    """Stops in running order, none of them without work.

    Every item of the engine is due at exactly one of them; a sweep instead has all in `swept`, with
    the margin of the worst place to start.
    """

    school: str
    stops: tuple[Stop, ...]
    swept: tuple[StopItem, ...] = ()

    @property
    def items(self) -> tuple[StopItem, ...]:
        """Every item of the plan once."""
        return self.swept or tuple(item for stop in self.stops for item in stop.items)

    @property
    def least_margin_deg(self) -> float:
        """The smallest margin in the plan. A plan with a negative one is unsafe."""
        return self.least_item.margin_deg

    @cached_property
    def least_item(self) -> StopItem:
        """The item with the smallest margin; asked at every press of a key, worked out once."""
        # A bridge is free with its rocker, which is the better known of the two.
        return min(self.items, key=lambda item: (item.margin_deg, item.item.part is not Part.WHOLE))

    @property
    def safe(self) -> bool:
        """Whether every item is free where it is due."""
        return self.least_margin_deg >= 0.0

    @property
    def turning_deg(self) -> float:
        """Crank degrees from the first stop to the last."""
        return sum(stop.turn_deg for stop in self.stops)


TIE_DEG = 1e-9


def best_stops(margins_deg: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> list[int]:
    """For margins `(V, S)`, the stop of largest margin for each item; the earlier one of a tie.

    >>> best_stops(np.array([[10.0, 130.0], [65.0, 65.0 + 1e-12]]))
    [1, 0]
    """
    largest = margins_deg.max(axis=1, keepdims=True)
    return [int(place) for place in np.argmax(margins_deg >= largest - TIE_DEG, axis=1)]


class Sides:
    """Margins of a rig's items at any crank angle, with how far each is free back and on."""

    def __init__(self, rig: Rig) -> None:
        self._arcs = rig.item_arcs_deg

    def at(self, item: Item, crank_deg: float) -> StopItem:
        """One item at a crank angle."""
        off = np.inf
        for start, length in self._arcs[item]:
            back = degrees_on(crank_deg, start)
            if CYCLE_DEG - back < 1e-6:
                back = 0.0
            on = length - back
            if on >= -1e-6:
                on = max(on, 0.0)
                return StopItem(item, min(back, on), back, on)
            off = min(off, -on, CYCLE_DEG - back)
        return StopItem(item, -float(off))


Visit = tuple[float, Sequence[Item], str]
"""Crank angle, the items due there, and how the school knows the place."""


def plan_of(rig: Rig, school: str, visits: Sequence[Visit]) -> Plan:
    """A plan from its visits in running order.

    Visits at the same place one after another are one stop. A place where nothing is due is no
    stop: the turns are those between the stops that are kept.
    """
    sides = Sides(rig)
    stops: list[Stop] = []
    for crank_deg, items, sign in visits:
        if not items:
            continue
        place = wrap_deg(float(crank_deg))
        due = tuple(sides.at(item, place) for item in items)
        turn = degrees_on(place, stops[-1].crank_deg) if stops else 0.0
        if stops and min(turn, CYCLE_DEG - turn) < 1e-6:
            last = stops[-1]
            stops[-1] = replace(last, items=in_turn(rig, last.items + due), sign=last.sign or sign)
        else:
            stops.append(Stop(place, in_turn(rig, due), turn, sign))
    return Plan(school, tuple(stops))


def in_turn(rig: Rig, items: tuple[StopItem, ...]) -> tuple[StopItem, ...]:
    """Items of one stop in the order in which they are set: each rocker whole, injectors last."""
    first: dict[Item, int] = {}
    for place, due in enumerate(items):
        first.setdefault(due.item.rocker, place)

    def order(due: StopItem) -> tuple[bool, int, int]:
        injector = due.item.kind is ExtraKind.INJECTOR
        return injector, first[due.item.rocker], rig.row_of[due.item]

    return tuple(sorted(items, key=order))


def plan_at(rig: Rig, stops_deg: Sequence[float], school: str, sign: str = "") -> Plan:
    """Give each rocker, with all that is set at it, to the stop at which its margin is largest.

    `stops_deg` are crank angles in running order.
    """
    places_deg = [wrap_deg(float(stop)) for stop in stops_deg]
    chosen = best_stops(rig.rocker_margins_deg(np.array(places_deg)))
    due: list[list[Item]] = [[] for _ in places_deg]
    for rows, at in zip(rig.rockers.values(), chosen, strict=True):
        due[at] += [rig.items[row] for row in rows]
    visits = [(place, items, sign) for place, items in zip(places_deg, due, strict=True)]
    return plan_of(rig, school, visits)


def two_stop_plan(rig: Rig, start_deg: float = 0.0) -> Plan:
    """The two-stop school: a TDC (cylinder 1 at compression TDC), then one turn on.

    >>> from true_compass.core.engine import even_inline
    >>> plan = two_stop_plan(Rig.of(even_inline((1, 3, 4, 2))))
    >>> [item.name for item in plan.stops[0].items]
    ['I1', 'E1', 'I2', 'E3']
    """
    return plan_at(rig, (start_deg, start_deg + TURN_DEG), "two-stop")
