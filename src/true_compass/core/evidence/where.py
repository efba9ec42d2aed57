"""Where does the crank stand? What is seen cuts the 720° down to some arcs.

Each sign is true in some part of the cycle. All of them together leave the arcs in which the crank
can be; the look that would tell most next is the one whose answers split what is left most evenly.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import Enum
from functools import cached_property
from itertools import combinations
from typing import Final

import numpy as np

from true_compass.core.adjusting.schools import rocking_deg
from true_compass.core.angles import CYCLE_DEG, TURN_DEG, Bools, Floats
from true_compass.core.crank.phasing import companion_of
from true_compass.core.engine import Shaft
from true_compass.core.events import crossings
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.valves.cam import SEAT
from true_compass.core.valves.timing import main_lift

STEP_DEG: Final = 0.5
NEAR_MARK_DEG: Final = 1.0
ROCKED_DEG: Final = 3.0
"""How far a person rocks the crank, either way, to see a valve move."""
SEEN_MM: Final = 0.05
"""Movement that is seen while rocking; 0.1 mm end to end is what an eye sees at ease."""
FLAT_DEG: Final = 4.0
"""Around its dead centre a piston stands still to the eye (common practice, no source)."""
FOUR_LOOSE_DEG: Final = 20.0
"""How far from a dead centre four loose rockers of companions may be felt (assumed)."""
TURN_ON_DEG: Final = 20.0
PAST_OPENING_DEG: Final = 15.0
ROCKING_DEG: Final = (8.0, 25.0)
"""Least and most reach of the rocking of a pair, either side of its balance."""


class Look(Enum):
    """What can be looked at."""

    LOOSE = "loose"
    TIGHT = "tight"
    OPENING = "opening"
    CLOSING = "closing"
    ROCKING = "rocking"
    PRESSURE = "pressure"
    STILL = "still"
    MARK = "mark"
    ROTOR = "rotor"
    DOTS = "dots"


AT_VALVES: Final = (Look.LOOSE, Look.TIGHT, Look.OPENING, Look.CLOSING)


@dataclass(frozen=True, slots=True)
class Seen:
    """Something that was seen: at a valve, a cylinder, or a mark by its label."""

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
            Look.ROCKING: f"valves of {self.name} rock",
            Look.PRESSURE: f"pressure in {self.name}",
            Look.STILL: f"piston {self.name} stopped rising",
            Look.MARK: f"mark in line: {self.name}",
            Look.ROTOR: f"rotor at post {self.name}",
            Look.DOTS: "the gear dots together",
        }[self.look]


FOOLS: Final = {
    Look.LOOSE: "an adjuster slackened too far, or a tappet that has bled down",
    Look.TIGHT: "a rocker set too tight or pinched, a pumped-up tappet, a compression release",
    Look.OPENING: "slack in the cam drive: look while turning in the running direction",
    Look.CLOSING: "slack in the cam drive: look while turning in the running direction",
    Look.ROCKING: "a cam with little overlap; an advanced cam balances early",
    Look.PRESSURE: "a leaking valve, or a compression release",
    Look.STILL: "nothing, but it does not say which of the two TDCs",
    Look.MARK: "a mark that crept, one that means another place, or a cam that is not the original",
    Look.ROTOR: "a distributor one crank turn out, or its direction assumed and not seen",
    Look.DOTS: "a gear that is a tooth out, or dots that mean another TDC",
}


@dataclass(frozen=True, slots=True)
class Doubt:
    """Signs that cannot all be true: those to doubt first, and how many degrees are left then."""

    signs: tuple[Seen, ...]
    left_deg: float

    @property
    def words(self) -> str:
        """Which to doubt, and what can mislead there."""
        names = " and ".join(sign.words for sign in self.signs)
        if not self.left_deg:
            return "More than two of them must be wrong. Clear them, and look again."
        more = [f"can mislead: {FOOLS[look]}" for look in {sign.look: 0 for sign in self.signs}]
        return f"Doubt this first: {names}. What {'; '.join(more)}."


class Places:
    """Where each sign of a rig holds, on a grid of half degrees."""

    def __init__(self, rig: Rig) -> None:
        self._rig = rig
        self.at_deg: Floats = np.arange(0.0, CYCLE_DEG, STEP_DEG)
        self._names = [valve.name for valve in rig.engine.valves]
        lift = rig.lobes.lift_mm(self.at_deg)
        steps = round(ROCKED_DEG / STEP_DEG)
        moved = np.roll(lift, -steps, axis=1) - np.roll(lift, steps, axis=1)
        # On its quiet ramp a rocker still has some play: it may be felt as loose or as tight.
        self._valves: dict[Look, Bools] = {
            Look.LOOSE: lift <= 0,
            Look.TIGHT: ~(rig.lobes.margin_deg(self.at_deg) >= 0),
            Look.OPENING: moved > SEEN_MM,
            Look.CLOSING: moved < -SEEN_MM,
        }
        self._others: dict[Look, Callable[[str], Bools]] = {
            Look.ROCKING: self._rocks,
            Look.PRESSURE: self._squeezes,
            Look.STILL: self._stands_still,
            Look.MARK: self._in_line,
            Look.ROTOR: self._rotor_at,
            Look.DOTS: self._dots_meet,
        }

    def holds(self, seen: Seen) -> Bools:
        """Where a sign is true, `(1440,)`."""
        table = self._valves.get(seen.look)
        if table is not None:
            return np.asarray(table[self._names.index(seen.name)])
        return self._others[seen.look](seen.name)

    def _near(self, place_deg: float, reach_deg: float, turn_deg: float = CYCLE_DEG) -> Bools:
        """Within some degrees of a place that comes round every turn or every cycle."""
        half = turn_deg / 2
        return np.asarray(np.abs((self.at_deg - place_deg + half) % turn_deg - half) <= reach_deg)

    def _rocks(self, name: str) -> Bools:
        """Around the balance of a cylinder's valves: exhaust closing, intake opening, or still."""
        cylinder = int(name)
        middle = rocking_deg(self._rig, cylinder)
        seats = [self._seats[row] for row in self._rig.engine.valve_rows(cylinder)]
        overlap = 0.0
        if seats[0] is not None and seats[1] is not None:
            overlap = abs((seats[1][1] - seats[0][0] + 360.0) % CYCLE_DEG - 360.0)
        return self._near(middle, float(np.clip(overlap / 2, *ROCKING_DEG)))

    @cached_property
    def _seats(self) -> list[tuple[float, float] | None]:
        return [main_lift(places) for places in crossings(self._rig.lobes, SEAT)]

    def _squeezes(self, name: str) -> Bools:
        """From where the intake valve really closes to TDC."""
        cylinder = int(name)
        tdc_deg = float(self._rig.true_offsets_deg[cylinder - 1])
        seat = self._seats[self._rig.engine.valve_row(cylinder, Kind.INTAKE)]
        if seat is None:
            return np.zeros(len(self.at_deg), dtype=bool)
        length = (tdc_deg - seat[1]) % CYCLE_DEG
        return np.asarray((self.at_deg - seat[1]) % CYCLE_DEG <= length)

    def _stands_still(self, name: str) -> Bools:
        """Around either TDC of a piston."""
        return self._near(float(self._rig.true_offsets_deg[int(name) - 1]), FLAT_DEG, TURN_DEG)

    def _in_line(self, name: str) -> Bools:
        mark = dict(zip(self.mark_labels, self._rig.engine.marks, strict=True))[name]
        turn = TURN_DEG if mark.shaft is Shaft.CRANK else CYCLE_DEG
        return self._near(self._rig.mark_deg(mark), NEAR_MARK_DEG, turn)

    def _dots_meet(self, _name: str) -> Bools:
        return self._near(float(self._rig.offsets_deg[self._rig.engine.dots_fire - 1]), 1.0)

    def _rotor_at(self, name: str) -> Bools:
        half = min(self._rig.engine.intervals_deg) / 2
        return self._near(float(self._rig.offsets_deg[int(name) - 1]), half)

    @cached_property
    def mark_labels(self) -> tuple[str, ...]:
        """What each mark of the engine is called, no two alike."""
        return mark_labels(self._rig)

    def left_by(self, seen: Sequence[Seen]) -> Bools:
        """Where all signs hold.

        Four loose rockers of two companions need not contradict: with wide gaps or a small overlap
        all four are loose about both their dead centres. Then they say no more than that.
        """
        left = self._all_hold(seen)
        pair = None if left.any() else self.four_loose(seen)
        if pair is None:
            return left
        engine = self._rig.engine
        names = {self._names[row] for cylinder in pair for row in engine.valve_rows(cylinder)}
        others = [s for s in seen if not (s.look is Look.LOOSE and s.name in names)]
        tdc_deg = float(self._rig.true_offsets_deg[pair[0] - 1])
        return self._all_hold(others) & self._near(tdc_deg, FOUR_LOOSE_DEG, TURN_DEG)

    def _all_hold(self, seen: Sequence[Seen]) -> Bools:
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
        moving = (Look.OPENING, Look.CLOSING)
        valves = [
            Seen(look, valve.name)
            for valve, settable in zip(engine.valves, self._rig.lobes.settable, strict=True)
            for look in AT_VALVES
            if settable or look in moving
        ]
        others = [Seen(Look.MARK, label) for label in self.mark_labels]
        if engine.dots_fire:
            others.append(Seen(Look.DOTS, "meet"))
        at_cylinders = [Look.ROCKING, Look.STILL, Look.PRESSURE]
        at_cylinders += [Look.ROTOR] if engine.has_rotor else []
        cylinders = [Seen(look, str(c)) for look in at_cylinders for c in engine.cylinders]
        return [*valves, *others, *cylinders]

    def next_look(self, seen: Sequence[Seen]) -> tuple[str, float] | None:
        """The look that would tell most: a question, and how many degrees it leaves on average."""
        left = self.left_by(seen)
        total = int(left.sum())
        if total <= 4:
            return None
        both = self.four_loose(seen)
        if both is not None:
            return self.four_loose_words(both), total * STEP_DEG / 2
        best: tuple[str, float] | None = None
        names = [n for n, ok in zip(self._names, self._rig.lobes.settable, strict=True) if ok]
        for name in names:
            opens, closes = (left & self.holds(Seen(look, name)) for look in AT_VALVES[2:])
            loose = left & self.holds(Seen(Look.LOOSE, name)) & ~opens & ~closes
            counts = [int(part.sum()) for part in (opens, closes, loose)]
            counts.append(total - sum(counts))
            expected = sum(count * count for count in counts) / total * STEP_DEG
            if best is None or expected < best[1] - 1e-9:
                best = (f"Is {name} loose, opening or closing?", expected)
        if best is None or math.isclose(best[1], total * STEP_DEG):
            return None
        return best

    def four_loose_words(self, pair: tuple[int, int]) -> str:
        """What the trade does there: turn on, and see whose intake goes tight."""
        first, second = pair
        return (
            f"Turn on {self.turn_on_deg(pair):.0f}°. Of {first} and {second} the one whose intake "
            "goes tight was in overlap; its exhaust stays loose, and both of the other. Turned "
            "back instead, its exhaust goes tight. Neither tight: turn on, never slacken."
        )

    def turn_on_deg(self, pair: tuple[int, int]) -> float:
        """How far to turn on from a dead centre: 20°, or 15° past the later intake opening.

        Common practice, no source.
        """
        later = [TURN_ON_DEG]
        for cylinder in pair:
            seat = self._seats[self._rig.engine.valve_row(cylinder, Kind.INTAKE)]
            if seat is not None:
                overlap_deg = float(self._rig.true_offsets_deg[cylinder - 1]) + TURN_DEG
                opens_deg = (seat[0] - overlap_deg + 360.0) % CYCLE_DEG - 360.0
                later.append(math.ceil(opens_deg + PAST_OPENING_DEG - 1e-6))
        return max(later)

    def four_loose(self, seen: Sequence[Seen]) -> tuple[int, int] | None:
        """Two companions whose four rockers are all felt loose: that proves nothing yet."""
        loose = {sign.name for sign in seen if sign.look is Look.LOOSE}
        engine = self._rig.engine
        for cylinder in engine.cylinders:
            other = companion_of(engine, cylinder)
            if other is None or other < cylinder:
                continue
            rows = (*engine.valve_rows(cylinder), *engine.valve_rows(other))
            if all(self._names[row] in loose for row in rows):
                return cylinder, other
        return None

    def proves_nothing(self, seen: Sequence[Seen]) -> bool:
        """Whether four rockers are felt loose that this engine, as its file has it, never leaves
        loose together: wide gaps or a small overlap do that.
        """
        return self.four_loose(seen) is not None and not self._all_hold(seen).any()

    def doubt(self, seen: Sequence[Seen]) -> Doubt | None:
        """Of contradictory signs the one, or else the two, without which most is left."""
        if self.left_by(seen).any():
            return None
        for count in (1, 2):
            most = 0
            least_likely: tuple[Seen, ...] = ()
            for dropped in combinations(seen, count):
                left = int(self.left_by([sign for sign in seen if sign not in dropped]).sum())
                if left > most:
                    most, least_likely = left, dropped
            if most:
                return Doubt(least_likely, most * STEP_DEG)
        return Doubt(tuple(seen), 0.0)


def mark_labels(rig: Rig) -> tuple[str, ...]:
    """A label for each mark of an engine, no two alike: the place, then what tells them apart."""
    marks = rig.engine.marks
    labels = [mark.where for mark in marks]
    labels = [
        label if labels.count(label) == 1 else mark.label
        for label, mark in zip(labels, marks, strict=True)
    ]
    return tuple(
        label if labels.count(label) == 1 else f"{label} at {rig.mark_deg(mark):g}° ({number})"
        for number, (label, mark) in enumerate(zip(labels, marks, strict=True), start=1)
    )
