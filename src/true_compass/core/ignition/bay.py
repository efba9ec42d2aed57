"""The ignition as somebody left it, and everything done and read at it since, as one value."""

from collections import Counter
from dataclasses import dataclass, replace
from enum import Enum
from typing import Final

from true_compass.core.angles import TURN_DEG
from true_compass.core.crank.firing import backwards
from true_compass.core.engine import Engine
from true_compass.core.ignition.advance import three_places
from true_compass.core.ignition.lamp import SOUND, Asked, Faults, How, Reading, would_read_deg
from true_compass.core.ignition.leads import (
    Judged,
    Pattern,
    Wiring,
    headline,
    is_wiring,
    judged,
    order_from,
)
from true_compass.core.ignition.spin import Seen
from true_compass.core.ignition.stand import Fitted, Lit, does_run, lit, runs_words, sound
from true_compass.core.rotation import Rotation
from true_compass.core.state import Rig
from true_compass.core.words import before_tdc


class Step(Enum):
    """A step of fitting a distributor, in order."""

    TURNS = "turns"
    MARK = "mark"
    GOAL = "goal"
    SLOT = "slot"
    BACK = "back"
    DROP = "drop"
    BODY = "body"
    CLAMP = "clamp"


@dataclass(frozen=True, slots=True)
class Bay:
    """Where the distributor stands, how it is wired, what is wrong with its advance, what was read.

    `wired` empty is as it should be. `hidden` keeps what is wrong to itself: a drill. `seen_turns`
    is the rotor's direction as it was seen here, where the engine's file has none.
    """

    fitted: Fitted | None = None
    wired: Wiring = ()
    faults: Faults = SOUND
    hidden: bool = False
    seen_turns: Rotation | None = None
    done: tuple[Step, ...] = ()
    readings: tuple[Reading, ...] = ()
    seen: tuple[Seen, ...] = ()

    @property
    def next_step(self) -> Step | None:
        """The first step of fitting that is not done."""
        return next((step for step in Step if step not in self.done), None)


BLANK: Final = Bay()
CREPT_DEG: Final = 7.0
OFF_DEG: Final = 1.0
"""A setting that is nearer than this is right: no lamp is read closer."""


def engine_here(engine: Engine, bay: Bay) -> Engine:
    """The engine with the rotor's direction as it was seen here."""
    if bay.seen_turns is None or engine.rotor.turns is not None:
        return engine
    rotor = replace(engine.rotor, turns=bay.seen_turns)
    return replace(engine, spark=replace(engine.spark, rotor=rotor))


@dataclass(frozen=True, eq=False)
class Standing:
    """A bay on its engine: everything that follows from both."""

    rig: Rig
    bay: Bay
    fitted: Fitted
    wired: Wiring
    judged: Judged
    sparks: tuple[Lit, ...]

    @staticmethod
    def of(rig: Rig, bay: Bay) -> "Standing":
        """Work it out. What cannot be on this engine, since it was edited, counts as right."""
        engine = rig.engine
        count = engine.cylinder_count
        fitted = bay.fitted
        if fitted is None or fitted.post_1 > count:
            fitted = sound(engine)
        fits = len(bay.wired) == count and is_wiring(bay.wired)
        wired = bay.wired if fits else order_from(engine, fitted.post_1)
        at = fitted.fires_at_deg(engine)
        return Standing(
            rig,
            bay,
            fitted,
            wired,
            judged(rig, wired, fitted.post_1),
            lit(rig, wired, at, fitted.post_1),
        )

    @property
    def engine(self) -> Engine:
        """The engine."""
        return self.rig.engine

    @property
    def fires_at_deg(self) -> float:
        """Crank degrees before TDC at which cylinder 1's post is met, without advance."""
        return self.fitted.fires_at_deg(self.engine)

    @property
    def wanted_deg(self) -> float:
        """Where it should be met: the initial advance."""
        return self.engine.spark.advance.initial_deg or 0.0

    @property
    def early_deg(self) -> float:
        """Crank degrees by which it fires earlier than it should; below 0: later."""
        return self.fires_at_deg - self.wanted_deg

    @property
    def faults(self) -> Faults:
        """What the lamp sees: the faults, and the setting as the body stands."""
        return replace(self.bay.faults, off_deg=self.early_deg)

    @property
    def hides(self) -> bool:
        """Whether something is wrong that the pages keep to themselves: they show what an eye
        sees."""
        return self.bay.hidden and bool(what_is_wrong(self))

    def as_it_should_be(self) -> "Standing":
        """The same engine with nothing wrong, as far as it is told while something is hidden."""
        return Standing.of(self.rig, replace(BLANK, hidden=True, done=self.bay.done))

    @property
    def runs(self) -> bool:
        """Whether it runs, so that a lamp can be used."""
        return does_run(self.engine, self.sparks)

    def lamp_deg(self, asked: Asked) -> float:
        """What is read there, as things stand."""
        return would_read_deg(self.engine.spark.advance, asked, self.faults)


@dataclass(frozen=True, slots=True)
class Sign:
    """Something heard, felt or seen: where it comes from, and what it is."""

    where: str
    said: str


def signs(standing: Standing) -> tuple[Sign, ...]:
    """What a person notices of it without taking anything apart."""
    told = [Sign("Cranked", runs_words(standing.engine, standing.sparks))]
    wrong = [spark for spark in standing.sparks if not spark.is_right]
    heard = Counter(spark.heard for spark in wrong)
    told += [Sign("Heard", _times(said.sentence, times)) for said, times in heard.items()]
    if standing.runs:
        told += _driven(standing)
    return tuple(told)


def _times(said: str, count: int) -> str:
    return said if count == 1 else f"{said} On {count} cylinders."


def _driven(standing: Standing) -> list[Sign]:
    """How it runs, where it runs at all."""
    advance, found = standing.engine.spark.advance, []
    wide = three_places(advance)[2]
    off = standing.early_deg
    if off >= 4.0:
        found.append(Sign("Cranked", "The starter is kicked back."))
    if off <= -4.0:
        found.append(Sign("Driven", "Slow and hot, the exhaust glows."))
    full = Asked(How.LAMP, wide.speed_rpm)
    total = standing.lamp_deg(full) - standing.bay.faults.crept_deg
    most = advance.most_wide_open_deg
    if off >= 4.0 or (most is not None and total > most + 2.0):
        found.append(Sign("Driven", "It knocks when it pulls hard."))
    if standing.bay.faults.weights_stuck:
        found.append(Sign("Driven", "It pulls well at idle and is flat above."))
    if standing.bay.faults.can_leaks or standing.bay.faults.hose_off:
        found.append(Sign("Driven", "It drinks on a light throttle, and is fine wide open."))
    if standing.bay.faults.hose_off:
        found.append(Sign("Heard", "A hiss at the manifold at idle."))
    return found


@dataclass(frozen=True, slots=True)
class Wrong:
    """One thing that can be made wrong: its slug, a sentence, and that in two words."""

    slug: str
    said: str
    short: str


WRONGS: Final = (
    Wrong("rotor-tooth", "The rotor sits one tooth out.", "Rotor a tooth"),
    Wrong("rotor-turn", "The distributor is a crank turn out.", "A crank turn"),
    Wrong("leads-swapped", "Two leads are swapped.", "Two leads"),
    Wrong("leads-reversed", "The leads are laid against the rotor.", "Leads reversed"),
    Wrong("body-moved", "The body has slipped.", "Body slipped"),
    Wrong("weights-stuck", "The weights are stuck half-way.", "Weights stuck"),
    Wrong("can-leaks", "The vacuum can leaks.", "Can leaks"),
    Wrong("hose-off", "The vacuum hose is off or split.", "Hose off"),
    Wrong("damper-crept", "The damper's ring has crept.", "Damper crept"),
)
BY_SLUG: Final = {wrong.slug: wrong for wrong in WRONGS}


def can_be_wrong(engine: Engine) -> tuple[Wrong, ...]:
    """What of it this engine can have."""
    advance = engine.spark.advance
    without = set()
    if not engine.has_rotor:
        without |= {"rotor-tooth", "rotor-turn", "body-moved", "leads-reversed", "leads-swapped"}
    if engine.cylinder_count < 3:
        without |= {"leads-reversed"}
    if engine.cylinder_count < 2:
        without |= {"leads-swapped"}
    if not advance.weights:
        without |= {"weights-stuck"}
    if not advance.can:
        without |= {"can-leaks", "hose-off"}
    return tuple(wrong for wrong in WRONGS if wrong.slug not in without)


def made_wrong(engine: Engine, slugs: tuple[str, ...], turn: int = 0) -> Bay:
    """A bay with these things wrong, hidden; `turn` chooses which tooth way and which leads."""
    fitted = sound(engine)
    order, faults = engine.firing_order, SOUND
    wired = order
    count = len(order)
    for slug in slugs:
        if slug == "rotor-tooth":
            fitted = replace(fitted, tooth=fitted.tooth + (1 if turn % 2 else -1))
        elif slug == "rotor-turn":
            fitted = replace(fitted, turn_out=True)
        elif slug == "body-moved":
            back = engine.rotor_turns.sense * (4.0 if turn % 2 else -4.0)
            fitted = replace(fitted, body_deg=fitted.body_deg + back)
        elif slug == "damper-crept":
            # It was set by the mark after it had crept: the lamp shows nothing of it.
            late = (engine.spark.advance.initial_deg or 0.0) - CREPT_DEG
            fitted, faults = fitted.at_advance(engine, late), replace(faults, crept_deg=CREPT_DEG)
        elif slug == "leads-swapped":
            one, other = turn % count, (turn + 1 + turn // count % (count - 1)) % count
            places = list(wired)
            places[one], places[other] = places[other], places[one]
            wired = tuple(places)
        elif slug == "leads-reversed":
            wired = backwards(order)
        else:
            faults = _fault(faults, slug)
    return Bay(fitted=fitted, wired=wired, faults=faults, hidden=True)


def _fault(faults: Faults, slug: str) -> Faults:
    if slug == "weights-stuck":
        return replace(faults, weights_stuck=True)
    if slug == "can-leaks":
        return replace(faults, can_leaks=True)
    return replace(faults, hose_off=True)


def what_is_wrong(standing: Standing) -> tuple[str, ...]:
    """Everything that is still wrong, one sentence each; nothing once it is put right."""
    told, faults = [], standing.bay.faults
    if standing.fitted.is_turn_out(standing.engine):
        told.append(BY_SLUG["rotor-turn"].said)
    elif abs(standing.early_deg) >= OFF_DEG:
        at, wanted = standing.fires_at_deg, standing.wanted_deg
        told.append(f"It fires {before_tdc(at)}, not {before_tdc(wanted)}.")
    if standing.judged.meaning.pattern is not Pattern.RIGHT:
        told.append(f"{headline(standing.judged)}.")
    told += [BY_SLUG[slug].said for slug in _of_advance(faults)]
    return tuple(told)


def _of_advance(faults: Faults) -> list[str]:
    kinds = (
        (faults.weights_stuck, "weights-stuck"),
        (faults.can_leaks, "can-leaks"),
        (faults.hose_off, "hose-off"),
        (bool(faults.crept_deg), "damper-crept"),
    )
    return [slug for here, slug in kinds if here]


def wrongs_now(standing: Standing) -> tuple[str, ...]:
    """Slugs of what is wrong as it stands now: what was made wrong and not put right since."""
    engine, fitted, faults = standing.engine, standing.fitted, standing.bay.faults
    slugs = set(_of_advance(faults))
    if fitted.is_turn_out(engine):
        slugs.add("rotor-turn")
        fitted = replace(fitted, turn_out=not fitted.turn_out)
    early = abs(fitted.fires_at_deg(engine) - standing.wanted_deg)
    if early > TURN_DEG / engine.distributor_teeth:
        slugs.add("rotor-tooth")
    elif early >= OFF_DEG and not faults.crept_deg:
        slugs.add("body-moved")
    pattern = standing.judged.meaning.pattern
    if pattern is Pattern.REVERSED:
        slugs.add("leads-reversed")
    elif pattern is not Pattern.RIGHT:
        slugs.add("leads-swapped")
    return tuple(wrong.slug for wrong in WRONGS if wrong.slug in slugs)
