"""Where does the crank stand? What is seen cuts the 720° down to some arcs.

Each sign is true in some part of the cycle. All of them together leave the arcs in which the crank
can be; the look that would tell most next is the one whose answers split what is left most evenly.
"""

import math
from dataclasses import dataclass
from enum import Enum
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, Bools, Floats
from true_compass.core.state import Rig

STEP_DEG: Final = 0.5
NEAR_MARK_DEG: Final = 1.0


class Look(Enum):
    """What can be looked at."""

    LOOSE = "loose"
    TIGHT = "tight"
    OPENING = "opening"
    CLOSING = "closing"
    PRESSURE = "pressure"
    MARK = "mark"
    ROTOR = "rotor"
    DOTS = "dots"


@dataclass(frozen=True, slots=True)
class Seen:
    """Something that was seen: at a valve, a cylinder, or a mark by where it is."""

    look: Look
    name: str

    @property
    def words(self) -> str:
        """In words."""
        return {
            Look.LOOSE: f"{self.name} loose",
            Look.TIGHT: f"{self.name} tight",
            Look.OPENING: f"{self.name} opening",
            Look.CLOSING: f"{self.name} closing",
            Look.PRESSURE: f"pressure in {self.name}",
            Look.MARK: f"mark on the {self.name}",
            Look.ROTOR: f"rotor at post {self.name}",
            Look.DOTS: "the gear dots together",
        }[self.look]


FOOLS: Final = {
    Look.LOOSE: "a rocker that is set too tight or pinched, or a pumped-up tappet",
    Look.TIGHT: "a rocker that is set too tight",
    Look.OPENING: "slack in the cam drive: look while turning in the running direction",
    Look.CLOSING: "slack in the cam drive: look while turning in the running direction",
    Look.PRESSURE: "a leaking valve, or a compression release",
    Look.MARK: "a mark that crept, or one that means the ignition point",
    Look.ROTOR: "a distributor that is one crank turn out",
    Look.DOTS: "a gear that is a tooth out, or dots that mean another TDC",
}


class Places:
    """Where each sign of a rig holds, on a grid of half degrees."""

    def __init__(self, rig: Rig) -> None:
        self._rig = rig
        self.at_deg: Floats = np.arange(0.0, CYCLE_DEG, STEP_DEG)
        self._names = [valve.name for valve in rig.engine.valves]
        self._free = rig.lobes.margin_deg(self.at_deg) >= 0
        lift = rig.lobes.lift_mm(self.at_deg)
        rising = np.roll(lift, -1, axis=1) - np.roll(lift, 1, axis=1)
        self._opening = (lift > 0.2) & (rising > 0)
        self._closing = (lift > 0.2) & (rising < 0)

    def holds(self, seen: Seen) -> Bools:
        """Where a sign is true, `(1440,)`."""
        rig, look = self._rig, seen.look
        if look in (Look.LOOSE, Look.TIGHT, Look.OPENING, Look.CLOSING):
            row = self._names.index(seen.name)
            table = {
                Look.LOOSE: self._free,
                Look.TIGHT: ~self._free,
                Look.OPENING: self._opening,
                Look.CLOSING: self._closing,
            }
            return np.asarray(table[look][row])
        if look is Look.MARK:
            mark = next(m for m in rig.engine.marks if m.where == seen.name)
            away = np.abs((self.at_deg - mark.angle_deg + 180.0) % TURN_DEG - 180.0)
            return np.asarray(away <= NEAR_MARK_DEG)
        if look is Look.DOTS:
            meet_deg = rig.offsets_deg[rig.engine.dots_fire - 1]
            return np.asarray(
                np.abs((self.at_deg - meet_deg + 360.0) % CYCLE_DEG - 360.0) <= NEAR_MARK_DEG
            )
        cylinder = int(seen.name)
        own = (self.at_deg - rig.offsets_deg[cylinder - 1]) % CYCLE_DEG
        if look is Look.PRESSURE:
            closes = rig.engine.cam.intake.event_cycle_deg
            shut = closes(next(v.kind for v in rig.engine.valves if v.name[0] == "I"))[1]
            return np.asarray(own >= shut)
        half = min(rig.engine.intervals_deg) / 2
        return np.asarray((own <= half) | (own >= CYCLE_DEG - half))

    def left_by(self, seen: list[Seen]) -> Bools:
        """Where all signs hold."""
        left = np.ones(len(self.at_deg), dtype=bool)
        for sign in seen:
            left &= self.holds(sign)
        return left

    def arcs(self, left: Bools) -> list[tuple[float, float]]:
        """Start and length of each stretch that is left, the longest first."""
        if left.all():
            return [(0.0, CYCLE_DEG)]
        first = int(np.flatnonzero(~left)[0])
        turned = np.roll(left, -first)
        edges = np.flatnonzero(np.diff(np.concatenate(([False], turned, [False])).astype(np.int8)))
        found = [
            (float((a + first) * STEP_DEG % CYCLE_DEG), float((b - a) * STEP_DEG))
            for a, b in zip(edges[::2], edges[1::2], strict=True)
        ]
        return sorted(found, key=lambda arc: -arc[1])

    def looks(self) -> list[Seen]:
        """Everything that can be looked at on this engine."""
        engine = self._rig.engine
        valves = [
            Seen(look, valve.name)
            for valve, settable in zip(engine.valves, self._rig.lobes.settable, strict=True)
            for look in (Look.LOOSE, Look.TIGHT, Look.OPENING, Look.CLOSING)
            if settable or look in (Look.OPENING, Look.CLOSING)
        ]
        cylinders = [Seen(Look.PRESSURE, str(c)) for c in engine.cylinders]
        rotor = [Seen(Look.ROTOR, str(c)) for c in engine.cylinders]
        others = [Seen(Look.MARK, mark.where) for mark in engine.marks]
        if engine.dots_fire:
            others.append(Seen(Look.DOTS, "meet"))
        return [*valves, *others, *cylinders, *rotor]

    def next_look(self, seen: list[Seen]) -> tuple[str, float] | None:
        """The look that would tell most: a question, and how many degrees it leaves on average."""
        left = self.left_by(seen)
        total = int(left.sum())
        if total <= 4:
            return None
        best: tuple[str, float] | None = None
        names = [n for n, ok in zip(self._names, self._rig.lobes.settable, strict=True) if ok]
        for name in names:
            parts = [
                left & self.holds(Seen(look, name))
                for look in (Look.LOOSE, Look.OPENING, Look.CLOSING)
            ]
            counts = [int(part.sum()) for part in parts]
            counts.append(max(total - sum(counts), 0))
            expected = sum(count * count for count in counts) / total * STEP_DEG
            if best is None or expected < best[1] - 1e-9:
                best = (f"Is {name} loose, opening or closing?", expected)
        if best is None or math.isclose(best[1], total * STEP_DEG):
            return None
        return best

    def fool(self, seen: list[Seen]) -> Seen | None:
        """Of contradictory signs the one without which most is left: the likely fool."""
        if self.left_by(seen).any():
            return None
        without = [
            (int(self.left_by([s for s in seen if s is not sign]).sum()), row)
            for row, sign in enumerate(seen)
        ]
        most, row = max(without, key=lambda pair: (pair[0], pair[1]))
        return seen[row] if most else seen[-1]
