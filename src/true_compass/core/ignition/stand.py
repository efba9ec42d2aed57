"""A distributor as it stands: on which tooth, how far its body is turned, and what that lights."""

from dataclasses import dataclass, replace
from enum import Enum
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, signed_difference_deg, wrap_deg
from true_compass.core.engine import Engine
from true_compass.core.ignition.cap import posts_deg, shorter_deg
from true_compass.core.state import Rig, engine_state
from true_compass.core.strokes import Stroke

USUAL_SPARK_DEG: Final = 5.0
"""A spark comes a little before TDC; what it meets is looked at there."""
EARLIEST_DEG: Final = 60.0
"""A compression stroke lit sooner than this is hardly begun: it burns backwards."""
KNOCKS_DEG: Final = 45.0
"""One lit sooner than this burns too early to pull (common practice, no source)."""


class Heard(Enum):
    """What one hears of a spark: a sentence, and a few words for where there is little room."""

    FIRES = "It fires.", "fires"
    KNOCKS = "It fires too early: it knocks.", "knocks"
    POPS = "Both valves are open: it pops in both manifolds.", "pops in both manifolds"
    SPITS = "It spits back through the intake.", "spits back"
    LIGHTS_EXHAUST = "It lights what is going out: a bang in the exhaust.", "bang in the exhaust"
    BANGS = "A bang in the exhaust.", "bang in the exhaust"
    KICKS = "It fires much too early: it kicks back.", "kicks back"
    LATE = "It fires late: weak and hot.", "weak and hot"
    DEAD = "It lights nothing: this cylinder is dead.", "dead"

    @property
    def sentence(self) -> str:
        """All of it."""
        return self.value[0]

    @property
    def short(self) -> str:
        """In a few words."""
        return self.value[1]


@dataclass(frozen=True, slots=True)
class Fitted:
    """How it was dropped in: teeth clockwise of the seat in the file, a crank turn out, the body.

    `body_deg` is from mid-swing, + clockwise as the cap is looked at. `post_1` is the post that
    lead 1 belongs on: the first one, unless somebody began elsewhere.
    """

    tooth: int = 0
    turn_out: bool = False
    body_deg: float = 0.0
    post_1: int = 1

    def rotor_deg(self, engine: Engine) -> float:
        """Where the rotor points with cylinder 1 at its firing point."""
        seat = engine.distributor.seat_deg or 0.0
        out = TURN_DEG / 2 if self.turn_out else 0.0
        return (seat + self.tooth * TURN_DEG / engine.distributor_teeth + out) % TURN_DEG

    def post_deg(self, engine: Engine, post: int) -> float:
        """Where a post stands with the body as it is."""
        return (cap_deg(engine)[post - 1] + self.body_deg) % TURN_DEG

    def body_turn_deg(self, engine: Engine, post: int = 0) -> float:
        """How far the body must still turn for the post of lead 1 to be met at the firing point."""
        return shorter_deg(self.rotor_deg(engine) - self.post_deg(engine, post or self.post_1))

    def is_turn_out(self, engine: Engine) -> bool:
        """Whether it stands a crank turn out: nearer to the wrong half-turn than to the right."""
        return abs(self.body_turn_deg(engine)) > TURN_DEG / 4

    def fires_at_deg(self, engine: Engine) -> float:
        """Crank degrees before TDC at which the rotor meets the post of lead 1.

        The body is half of the crank: a rotor that has gone past its post by 6.4° at the firing
        point met it 12.8° of crank earlier.
        """
        wanted = engine.spark.advance.initial_deg or 0.0
        return wanted + 2 * engine.rotor_turns.sense * self.body_turn_deg(engine)

    def at_advance(self, engine: Engine, advance_deg: float) -> "Fitted":
        """The same with the body turned so that it fires there."""
        more = advance_deg - self.fires_at_deg(engine)
        return replace(self, body_deg=self.body_deg - engine.rotor_turns.sense * more / 2)


def cap_deg(engine: Engine) -> tuple[float, ...]:
    """Where each post stands in mid-swing, as the file says, or from the front."""
    return posts_deg(engine, engine.distributor.post_1_deg or 0.0, engine.cylinder_count)


def sound(engine: Engine) -> Fitted:
    """The distributor as it should stand: the tooth that needs the body least, and turned there."""
    teeth = engine.distributor_teeth
    ways = [Fitted(tooth=tooth) for tooth in range(teeth)]
    best = min(ways, key=lambda way: (round(abs(way.body_turn_deg(engine)), 9), way.tooth))
    return replace(best, body_deg=best.body_turn_deg(engine))


@dataclass(frozen=True, slots=True)
class Lit:
    """One spark: from which post, at which cylinder, and what it finds there.

    `own` is the cylinder that the post is for. `cycle_deg` is where the cylinder stands, 0 at its
    compression TDC; `open_valves` are names such as `E3` with `lifts_mm` beside them.
    """

    post: int
    own: int
    cylinder: int
    crank_deg: float
    cycle_deg: float
    stroke: Stroke
    open_valves: tuple[str, ...]
    lifts_mm: tuple[float, ...]

    @property
    def is_right(self) -> bool:
        """Whether it lights a compressed charge."""
        return not self.open_valves and (
            (self.stroke is Stroke.COMPRESSION and CYCLE_DEG - self.cycle_deg <= EARLIEST_DEG)
            or self.cycle_deg < USUAL_SPARK_DEG
        )

    @property
    def heard(self) -> Heard:
        """What one hears of it."""
        kinds = {name[0] for name in self.open_valves}
        if self.is_right:
            too_early = USUAL_SPARK_DEG < self.cycle_deg < CYCLE_DEG - KNOCKS_DEG
            return Heard.KNOCKS if too_early else Heard.FIRES
        if kinds == {"I", "E"}:
            return Heard.POPS
        if "I" in kinds:
            return Heard.SPITS
        if "E" in kinds:
            return Heard.LIGHTS_EXHAUST if self.stroke is Stroke.POWER else Heard.BANGS
        return {Stroke.COMPRESSION: Heard.KICKS, Stroke.POWER: Heard.LATE}.get(
            self.stroke, Heard.DEAD
        )


def lit(
    rig: Rig, wired: tuple[int, ...], advance_deg: float = USUAL_SPARK_DEG, post_1: int = 1
) -> tuple[Lit, ...]:
    """Every spark of a cycle, a post each, with the post's own cylinder so far before its TDC.

    `wired` has the cylinder at each post in the rotor's direction, 0 for none. Angles follow the
    nominal phasing.
    """
    engine = rig.engine
    order, offsets = engine.firing_order, engine.firing_offsets_deg
    own = tuple(order[(nth - post_1 + 1) % len(order)] for nth in range(len(order)))
    crank = wrap_deg(offsets[np.array(own) - 1] - advance_deg)
    state = engine_state(rig, crank)
    return tuple(
        _lit(rig, state.lift_mm[:, nth], nth, own[nth], cylinder, float(crank[nth]))
        for nth, cylinder in enumerate(wired)
        if cylinder
    )


def _lit(rig: Rig, lifts_mm: np.ndarray, nth: int, own: int, cylinder: int, at: float) -> Lit:
    engine = rig.engine
    cycle = float(wrap_deg(at - float(engine.firing_offsets_deg[cylinder - 1])))
    rows = [row for row in engine.valve_rows(cylinder) if lifts_mm[row] > 0.0]
    return Lit(
        nth + 1,
        own,
        cylinder,
        at,
        cycle,
        Stroke(int(cycle // 180.0)),
        tuple(engine.valves[row].item.name for row in rows),
        tuple(float(lifts_mm[row]) for row in rows),
    )


def does_run(engine: Engine, sparks: tuple[Lit, ...]) -> bool:
    """Whether half of it or more is lit as it should be: enough to run, and for a lamp."""
    return 2 * sum(spark.is_right for spark in sparks) >= engine.cylinder_count


def runs_words(engine: Engine, sparks: tuple[Lit, ...]) -> str:
    """What the whole engine does, as a sentence."""
    right = sum(spark.is_right for spark in sparks)
    count = engine.cylinder_count
    if right == count:
        return "It starts and runs."
    if right == 0:
        return "It does not start."
    if not does_run(engine, sparks):
        return f"It does not start: only {right} of {count} get a spark on compression."
    return f"It runs on {right} of {count}, and shakes."


def apart_in_firing_deg(engine: Engine, one: int, other: int) -> float:
    """Crank degrees from one cylinder's firing to another's, on the shorter way."""
    offsets = engine.firing_offsets_deg
    return abs(float(signed_difference_deg(offsets[other - 1], offsets[one - 1])))
