"""An instrument that is not there: an indicator on a rig, a crank encoder, and their vices.

It tells what a dial on a valve, tappet or piston would show while the crank turns, with noise, lost
and spoilt lines, a unit that is another one all at once, and a pointer that somebody knocks. It is
turned by itself, or from the program. The clock is an argument.
"""

import random
from dataclasses import dataclass, field
from enum import Enum
from typing import Final

import numpy as np

from true_compass.core.angles import TURN_DEG
from true_compass.core.engine import Engine
from true_compass.core.items import Kind, item_named
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig, engine_state
from true_compass.instrument.line import What, parsed, written

LINES_A_SECOND: Final = 50.0


class Place(Enum):
    """Where the dial stands."""

    VALVE = "valve"
    TAPPET = "tappet"
    PISTON = "piston"


@dataclass(frozen=True, slots=True)
class On:
    """Where a dial stands on an engine: a valve or tappet of a kind, or a piston."""

    place: Place
    cylinder: int
    kind: Kind | None = None


def parse_on(text: str, engine: Engine) -> On:
    """Read `valve I1`, `tappet E3` or `piston 1`. Raises `EngineError` for what is none.

    >>> from true_compass.core.engine import even_inline
    >>> parse_on("valve I1", even_inline((1, 3, 4, 2))).cylinder
    1
    """
    word, _, rest = text.strip().partition(" ")
    try:
        place = Place(word)
        if place is Place.PISTON:
            if not (rest.isascii() and rest.isdigit() and len(rest) < 3):
                raise ValueError
            on = On(place, int(rest))
        else:
            item = item_named(rest.strip())
            if not isinstance(item.kind, Kind):
                raise ValueError
            on = On(place, item.cylinder, item.kind)
    except (ValueError, EngineError):
        raise EngineError(
            "on", f"must be like valve I1, tappet E3 or piston 1, not {text[:20]!r}"
        ) from None
    if on.cylinder not in engine.cylinders:
        raise EngineError("on", f"names cylinder {on.cylinder}, which this engine does not have")
    return on


@dataclass(frozen=True, slots=True)
class Vices:
    """What is wrong with it. `noise_mm` is a standard deviation; shares are of all lines.

    `knock_deg` is how far the pointer is knocked after `knock_after` lines, `other_unit_after` when
    the dial begins to tell inches; 0 is never.
    """

    noise_mm: float = 0.0
    lost_share: float = 0.0
    spoilt_share: float = 0.0
    knock_deg: float = 0.0
    knock_after: int = 0
    other_unit_after: int = 0


@dataclass
class SimulatedInstrument:
    """A dial and an encoder. `turn_deg_s` turns the crank by itself, 0 waits to be turned."""

    rig: Rig
    on: On
    vices: Vices = field(default_factory=Vices)
    turn_deg_s: float = 0.0
    seed: int = 1
    late_deg: float = 0.0
    """How much later than set every camshaft stands: what is there to be found."""
    zero_deg: float = 0.0
    """What its encoder reads at true TDC: how far off its zero was set."""
    crank_deg: float = 0.0
    _number: int = 0
    _due: float = 0.0
    _rest: bytes = b""

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)
        if self.late_deg:
            lobes, count = self.rig.lobes, len(self.rig.engine.valves)
            moved = lobes.changed(lobes.lash_mm, np.full(count, -self.late_deg))
            self._lobes = moved
        else:
            self._lobes = self.rig.lobes

    def heard(self, data: bytes) -> None:
        """Obey lines from the program: turn by so many degrees."""
        lines = (self._rest + data).split(b"\n")
        self._rest = lines.pop()[-200:]
        for line in lines:
            told = parsed(line)
            if told is not None and told.what is What.TURN:
                self.crank_deg = (self.crank_deg + told.value) % 720.0

    def lift_mm(self) -> float:
        """What the dial shows: lift from the base circle, or the piston's fall from its top."""
        crank = np.asarray(self.crank_deg)
        if self.on.kind is None:
            state = engine_state(self.rig, crank)
            return float(state.piston_from_tdc_mm[self.on.cylinder - 1])
        row = self.rig.engine.valve_row(self.on.cylinder, self.on.kind)
        lobes = self._lobes.take([row])
        lift = lobes.lift_mm(crank) if self.on.place is Place.VALVE else lobes.lobe_mm(crank)
        return float(lift[0])

    def passed(self, seconds: float) -> bytes:
        """The lines of so much time: dial and encoder in turn, as often as they are due."""
        self._due += seconds * LINES_A_SECOND
        lines = bytearray()
        while self._due >= 1.0:
            self._due -= 1.0
            self.crank_deg = (self.crank_deg + self.turn_deg_s / LINES_A_SECOND) % 720.0
            lines += self.lines()
        return bytes(lines)

    def lines(self) -> bytes:
        """One reading of each, as it goes over the wire."""
        vices = self.vices
        lift = self.lift_mm() + self._chance.gauss(0.0, vices.noise_mm or 0.0)
        crank = (self.crank_deg + self.zero_deg) % TURN_DEG
        if vices.knock_after and self._number >= vices.knock_after:
            crank = (crank + vices.knock_deg) % TURN_DEG
        other = vices.other_unit_after and self._number >= vices.other_unit_after
        made = b""
        for what, value, unit in (
            (What.LIFT, lift, "in" if other else "mm"),
            (What.CRANK, crank, "deg"),
        ):
            line = written(self._number, what, value, unit)
            self._number = (self._number + 1) % 1_000_000
            if self._chance.random() < vices.lost_share:
                continue
            if self._chance.random() < vices.spoilt_share:
                line = bytes(self._chance.randrange(33, 127) for _ in range(20)) + b"\n"
            made += line
        return made
