"""What happens in a cycle, and where: the places at which a step function changes.

A step function gives, for an array of crank angles `(N,)`, one whole number a row: `(R, N)`. One
search finds every change of any such function; it needs only a sampling step that no feature of
the function is shorter than.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, Bools, Floats, degrees_on, wrap_deg
from true_compass.core.items import Item
from true_compass.core.state import Rig
from true_compass.core.valves.cam import SEAT, CheckLift, Place
from true_compass.core.valves.drive import Drives

RESOLUTION_DEG: Final = 1e-6
VALVE_SAMPLING_DEG: Final = 2.0
PARTS: Final = 128

Steps = np.ndarray[tuple[int, ...], np.dtype[np.intp]]


@dataclass(frozen=True, slots=True)
class Change:
    """Row `row` of a step function goes from one value to another at a crank angle."""

    crank_deg: float
    row: int
    after: int


def changes(step: Callable[[Floats], Steps], sampling_deg: float) -> list[Change]:
    """Every change of a step function over one cycle, in order, to 1e-6°.

    `step` must accept angles a little over 720. The change is placed at its far side, where the
    new value already holds.
    """
    count = int(np.ceil(CYCLE_DEG / sampling_deg))
    grid = np.linspace(0.0, CYCLE_DEG, count + 1)
    values = step(grid)
    rows, cells = np.nonzero(values[:, 1:] != values[:, :-1])
    before, low, high = values[rows, cells], grid[cells], grid[cells + 1]
    # Many places of a bracket at once cost little more than one: fewer rounds than by halves.
    parts = np.arange(1, PARTS) / PARTS
    while len(rows) and np.max(high - low) > RESOLUTION_DEG:
        inner = low[:, None] + (high - low)[:, None] * parts
        lanes = np.arange(inner.size).reshape(inner.shape)
        still_before = step(inner.ravel())[rows[:, None], lanes] == before[:, None]
        # The first place with the new value ends the bracket.
        passed = np.where(still_before.all(axis=1), PARTS - 1, np.argmin(still_before, axis=1))
        edges = np.concatenate((low[:, None], inner, high[:, None]), axis=1)
        each = np.arange(len(rows))
        low, high = edges[each, passed], edges[each, passed + 1]
    found = zip(high, rows, values[rows, cells + 1], strict=True)
    return sorted(
        (Change(float(place) % CYCLE_DEG, int(row), int(after)) for place, row, after in found),
        key=lambda change: (change.crank_deg, change.row),
    )


@dataclass(frozen=True, slots=True)
class ValveEvent:
    """A valve leaves its seat or comes back to it."""

    crank_deg: float
    valve: Item
    opens: bool

    @property
    def words(self) -> str:
        """Such as `E5 opens`."""
        return f"{self.valve.name} opens" if self.opens else f"{self.valve.name} closes"


def lifted(lobes: Drives, check: CheckLift, crank_deg: Floats) -> Bools:
    """Whether valves, or the tappets below them, are lifted by more than a checking lift.

    An atmospheric valve has no tappet: it is asked for itself.
    """
    at_tappet = check.place is Place.TAPPET
    lift = lobes.lobe_mm(crank_deg) if at_tappet else lobes.lift_mm(crank_deg)
    return np.asarray(lift > check.lift_mm)


@lru_cache(maxsize=8)
def crossings(lobes: Drives, check: CheckLift) -> list[list[tuple[float, bool]]]:
    """Where each row rises above a checking lift (True) and falls below it: crank angles, per row.

    Rows that share a lobe are searched once. The last few answers are kept.
    """
    groups = lobes.alike()
    firsts = lobes.take([rows[0] for rows in groups])
    found: list[list[tuple[float, bool]]] = [[] for _ in lobes.turn_deg]

    def step(crank_deg: Floats) -> Steps:
        return lifted(firsts, check, crank_deg).astype(np.intp)

    for change in changes(step, VALVE_SAMPLING_DEG):
        rows = groups[change.row]
        for row in rows:
            later_deg = float(lobes.turn_deg[row] - lobes.turn_deg[rows[0]])
            found[row].append((wrap_deg(change.crank_deg + later_deg), bool(change.after)))
    return found


def valve_events(rig: Rig) -> tuple[ValveEvent, ...]:
    """Every opening and closing at the seat in one cycle, in running order."""
    events = (
        ValveEvent(place, valve.item, opens)
        for valve, places in zip(rig.engine.valves, crossings(rig.lobes, SEAT), strict=True)
        for place, opens in places
    )
    return tuple(sorted(events, key=lambda event: event.crank_deg))


def next_place(places_deg: Iterable[float], crank_deg: float, *, back: bool = False) -> int:
    """Index of the first place met when turning on from (or back from) a crank angle.

    The place that the crank stands on, within a thousandth of a degree, does not count: the way
    there is a whole cycle.
    """
    here = 1e-3
    ways = [
        degrees_on(crank_deg, float(place)) if back else degrees_on(float(place), crank_deg)
        for place in places_deg
    ]
    return min(range(len(ways)), key=lambda i: ways[i] if ways[i] > here else ways[i] + CYCLE_DEG)
