"""Engines made from engines: another order, other valves, a longer cam, a lobe from a table."""

from collections.abc import Collection
from dataclasses import replace

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
    for bank in range(len(engine.layout.banks)):
        letters = list(engine.valves_along(bank))
        for place, cylinder in enumerate(engine.layout.on_bank(bank)):
            if cylinder in cylinders:
                pair = letters[2 * place : 2 * place + 2]
                letters[2 * place : 2 * place + 2] = pair[::-1]
        heads.append("".join(letters))
    heads = [head for head in heads if head]
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


def can_be_longer(engine: Engine) -> bool:
    """Whether the lobes are from events, so that they can be made longer."""
    timings = (engine.cam.intake, engine.cam.exhaust)
    plain = all(t.table is None and not t.suction and t.centreline_deg is None for t in timings)
    return engine.card is None and plain


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
