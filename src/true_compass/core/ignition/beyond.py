"""Beyond the distributor: coils that fire two, sequential injection, a cam sensor, an igniter."""

from dataclasses import dataclass

from true_compass.core.angles import TURN_DEG, degrees_on, wrap_deg
from true_compass.core.crank.phasing import companion_of
from true_compass.core.degreeing.steps import tooth_deg
from true_compass.core.engine import Engine
from true_compass.core.spark import Ignition
from true_compass.core.words import before_tdc


@dataclass(frozen=True, slots=True)
class Coil:
    """A coil and the cylinders that it fires at once: one on compression, the other in overlap."""

    name: str
    cylinders: tuple[int, ...]


def coils(engine: Engine) -> tuple[Coil, ...]:
    """Which coil fires which plugs, in firing order: companions where a spark is wasted.

    >>> from true_compass.core.engine import even_inline
    >>> from dataclasses import replace
    >>> from true_compass.core.spark import Beyond, Spark
    >>> four = replace(even_inline((1, 3, 4, 2)), spark=Spark(beyond=Beyond(waste_spark=True)))
    >>> [coil.cylinders for coil in coils(four)]
    [(1, 4), (3, 2)]
    """
    groups: list[tuple[int, ...]] = []
    told: set[int] = set()
    for cylinder in engine.firing_order:
        if cylinder in told:
            continue
        other = companion_of(engine, cylinder) if engine.spark.beyond.waste_spark else None
        group = (cylinder, other) if other else (cylinder,)
        groups.append(group)
        told |= set(group)
    return tuple(Coil(chr(ord("A") + nth), group) for nth, group in enumerate(groups))


def sparks_deg(engine: Engine, coil: Coil) -> tuple[float, ...]:
    """Nominal crank angles of a cycle at which a coil fires, without advance."""
    own = [float(engine.firing_offsets_deg[cylinder - 1]) for cylinder in coil.cylinders]
    if engine.spark.beyond.waste_spark and len(own) == 1:
        own.append(wrap_deg(own[0] + TURN_DEG))
    return tuple(sorted(own))


def injections_deg(engine: Engine) -> tuple[float, ...]:
    """Where each cylinder's injector opens, in cylinder order; nothing if that is not known."""
    at = engine.spark.beyond.injects_deg
    if at is None:
        return ()
    return tuple(float(wrap_deg(offset + at)) for offset in engine.firing_offsets_deg)


def edge_words(engine: Engine, edge_deg: float) -> str:
    """What an edge of the cam sensor says: who comes to compression TDC next, and how soon.

    >>> from true_compass.core.engine import even_inline
    >>> edge_words(even_inline((1, 3, 4, 2)), 120.0)
    '60° before 3'
    """
    on = [degrees_on(float(offset), edge_deg) for offset in engine.firing_offsets_deg]
    row = min(range(len(on)), key=on.__getitem__)
    return f"{on[row]:g}° before {row + 1}"


def igniter_words(engine: Engine) -> tuple[str, ...]:
    """An igniter's trip, and what one tooth of the common gear does to it."""
    trip = engine.spark.beyond.trip_deg
    tooth = tooth_deg(engine.cam_teeth)
    known = engine.cam_gear_teeth or any(drive.teeth for drive in engine.timing_sets)
    teeth = f"{engine.cam_teeth}" if known else f"{engine.cam_teeth} (assumed)"
    trips = "not known: 8 to 12° before TDC is usual" if trip is None else before_tdc(trip)
    return (
        f"It trips {trips}.",
        f"One tooth of {teeth} moves trip and cam by {tooth:.1f}° together.",
        "A later trip is slower and weaker. Move a tooth, both ways if need be, then trim it.",
    )


def sparks(engine: Engine) -> bool:
    """Whether anything sparks: not on a diesel, nor where only pumps are known of."""
    return engine.ignition not in (Ignition.DIESEL, Ignition.UNKNOWN) or engine.has_rotor


def kind_words(engine: Engine) -> str:
    """What lights this engine, as a headline."""
    kind, beyond = engine.ignition, engine.spark.beyond
    if not sparks(engine):
        return f"A diesel: nothing sparks. It injects {engine.order_text}"
    if kind is Ignition.IGNITER:
        return "A make-and-break igniter: no rotor, no leads to order"
    if kind is Ignition.COILS and beyond.waste_spark:
        return "One coil fires two companions: one works, one is wasted"
    if kind is Ignition.COILS:
        return "A coil on every plug: no rotor"
    return "A distributor: one coil, one rotor, a lead a cylinder"
