"""Engines made from engines: another order, other valves, other events, a lobe from a table."""

from collections.abc import Collection
from dataclasses import replace
from enum import Enum

from true_compass.core.angles import CYCLE_DEG, TURN_DEG
from true_compass.core.crank.firing import Groups
from true_compass.core.engine import Engine, fire_in_order
from true_compass.core.items import Kind
from true_compass.core.valves.cam import DEFAULT_RAMP_DEG, LiftTable, ValveTiming
from true_compass.core.valves.readings import timing_of_table


def with_order(engine: Engine, groups: Groups) -> Engine:
    """The same engine, firing in another order. Raises `EngineError` when the crank forbids it."""
    return replace(engine, late=fire_in_order(engine.layout, groups))


def with_valves_swapped(engine: Engine, cylinders: Collection[int]) -> Engine:
    """The same engine with intake and exhaust changed about at some cylinders."""
    heads = []
    for bank in engine.layout.banks_in_use:
        letters = list(engine.valves_along(bank))
        for place, cylinder in enumerate(engine.layout.on_bank(bank)):
            if cylinder in cylinders:
                pair = letters[2 * place : 2 * place + 2]
                letters[2 * place : 2 * place + 2] = pair[::-1]
        heads.append("".join(letters))
    alike = len(set(heads)) == 1
    pattern = heads[0] if alike else " ".join(heads)
    if alike and pattern == "IE" * (len(pattern) // 2):
        pattern = ""
    return replace(engine, head=replace(engine.head, pattern=pattern, mirrored=False))


def longer(engine: Engine, by_deg: float) -> Engine:
    """The engine with both lobes longer by some crank degrees, half at each end."""

    def grown(timing: ValveTiming) -> ValveTiming:
        return replace(
            timing,
            opens_before_deg=timing.opens_before_deg + by_deg / 2,
            closes_after_deg=timing.closes_after_deg + by_deg / 2,
        )

    cam = engine.cam
    return replace(engine, cam=replace(cam, intake=grown(cam.intake), exhaust=grown(cam.exhaust)))


def has_plain_events(engine: Engine) -> bool:
    """Whether the lobes are from events, and not from a card, a table or suction."""
    timings = (engine.cam.intake, engine.cam.exhaust)
    return engine.card is None and all(t.table is None and not t.suction for t in timings)


def can_be_longer(engine: Engine) -> bool:
    """Whether the lobes are from events alone, so that they can be made longer."""
    timings = (engine.cam.intake, engine.cam.exhaust)
    return has_plain_events(engine) and all(t.centreline_deg is None for t in timings)


class Event(Enum):
    """One of the four events: the kind of valve, and whether it opens."""

    INTAKE_OPENS = (Kind.INTAKE, True)
    INTAKE_CLOSES = (Kind.INTAKE, False)
    EXHAUST_OPENS = (Kind.EXHAUST, True)
    EXHAUST_CLOSES = (Kind.EXHAUST, False)

    @property
    def kind(self) -> Kind:
        """Intake or exhaust."""
        return self.value[0]

    @property
    def opens(self) -> bool:
        """Whether the valve opens there."""
        return self.value[1]

    @property
    def words(self) -> str:
        """`I opens`, `E closes`."""
        return f"{self.kind.letter} opens" if self.opens else f"{self.kind.letter} closes"

    def cycle_deg(self, timing: ValveTiming) -> float:
        """Where it is on the cylinder's cycle, 0 at compression TDC."""
        if self.kind is Kind.INTAKE:
            before, after = 360.0, 540.0
        else:
            before, after = 180.0, 360.0
        if self.opens:
            return before - timing.opens_before_deg
        return after + timing.closes_after_deg


def with_event(engine: Engine, event: Event, cycle_deg: float) -> Engine:
    """The engine with one event at another place of the cycle, whichever way is the shorter.

    Raises `EngineError` where no lobe can be like that.
    """
    timing = engine.cam.timing(event.kind)
    by_deg = (cycle_deg - event.cycle_deg(timing) + TURN_DEG) % CYCLE_DEG - TURN_DEG
    if event.opens:
        timing = replace(timing, opens_before_deg=timing.opens_before_deg - by_deg)
    else:
        timing = replace(timing, closes_after_deg=timing.closes_after_deg + by_deg)
    timing = replace(timing, centreline_deg=None)
    return replace(engine, cam=engine.cam.with_timing(event.kind, timing))


def with_table(engine: Engine, kind: Kind, table: LiftTable) -> Engine:
    """The same engine with one kind of valve driven by a lift table; its nose stays in place."""
    old = engine.cam.timing(kind)
    centreline_deg = abs(old.nose_cycle_deg(kind) - 360.0)
    timing = timing_of_table(
        kind,
        table,
        engine.train,
        old.lash_mm,
        centreline_deg,
        old.advance_deg,
        old.ramp_deg or DEFAULT_RAMP_DEG,
    )
    return replace(engine, card=None, cam=engine.cam.with_timing(kind, timing))
