"""What an engine file says about the spark, to and from its values."""

from typing import Any, Final

from true_compass.core.limits import EngineError
from true_compass.core.rotation import Rotation
from true_compass.core.spark import (
    Advance,
    Beyond,
    Distributor,
    Ignition,
    Points,
    Port,
    Rotor,
    Spark,
    Viewpoint,
)

SPARK_PATHS: Final = {
    "distributor_gear_teeth": "ignition.gear_teeth",
    "distributor_posts": "ignition.posts",
    "weights": "ignition.weights_rpm_deg",
    "can": "ignition.can_mbar_deg",
} | {
    field: f"ignition.{field}"
    for field in (
        *("seat_deg", "post_1_deg", "twist_deg", "slot_deg", "slot_ways", "swing_deg"),
        *("initial_deg", "most_wide_open_deg", "most_starter_deg", "waste_spark"),
        *("sensor_deg", "injects_deg", "trip_deg"),
    )
}
"""Where the fields of the spark stand in a file, for the messages."""
SIZES: Final = ("idle_rpm", "idle_mbar", "cruise_rpm", "cruise_mbar")


def spark_from(values: dict[str, Any]) -> Spark:
    """The spark of the table `[ignition]`, its missing keys filled in."""
    turns, swing = values["rotor_turns"], values["swing_deg"]
    if len(swing) == 1:
        raise EngineError("swing_deg", "must be two: how far anticlockwise, and how far clockwise")
    meets = [*values["swing_meets"], "", ""]
    advance = Advance(
        initial_deg=_known(values["initial_deg"]),
        weights=_points(values["weights_rpm_deg"]),
        can=_points(values["can_mbar_deg"]),
        at_distributor=values["figures_at"] == "distributor",
        port=Port(values["port"]),
        **{key: float(values[key]) for key in SIZES},
        most_wide_open_deg=_known(values["most_wide_open_deg"]),
        most_starter_deg=_known(values["most_starter_deg"]),
    )
    return Spark(
        Ignition(values["kind"]),
        Rotor(Rotation(turns) if turns else None, Viewpoint(values["rotor_seen_from"])),
        Distributor(
            values["gear_teeth"],
            values["posts"],
            seat_deg=_known(values["seat_deg"]),
            post_1_deg=_known(values["post_1_deg"]),
            twist_deg=_known(values["twist_deg"]),
            slot_ways=values["slot_ways"],
            slot_deg=float(values["slot_deg"]),
            swing_deg=(float(swing[0]), float(swing[1])) if swing else None,
            swing_meets=(meets[0], meets[1]),
        ),
        advance,
        Beyond(
            values["waste_spark"],
            tuple(float(edge) for edge in values["sensor_deg"]),
            _known(values["injects_deg"]),
            _known(values["trip_deg"]),
        ),
    )


def _known(value: float | None) -> float | None:
    return None if value is None else float(value)


def _points(pairs: list[list[float]]) -> Points:
    return tuple((float(at), float(deg)) for at, deg in pairs)


def spark_values(spark: Spark) -> dict[str, Any]:
    """The table `[ignition]` of a spark."""
    distributor, advance, beyond = spark.distributor, spark.advance, spark.beyond
    meets = list(distributor.swing_meets)
    return {
        "kind": spark.kind.value,
        "rotor_turns": spark.rotor.turns.value if spark.rotor.turns else "",
        "rotor_seen_from": spark.rotor.seen_from.value,
        "gear_teeth": distributor.gear_teeth,
        "posts": distributor.posts,
        "post_1_deg": distributor.post_1_deg,
        "seat_deg": distributor.seat_deg,
        "twist_deg": distributor.twist_deg,
        "slot_ways": distributor.slot_ways,
        "slot_deg": distributor.slot_deg,
        "swing_deg": list(distributor.swing_deg or ()),
        "swing_meets": meets if any(meets) else [],
        "figures_at": "distributor" if advance.at_distributor else "crank",
        "initial_deg": advance.initial_deg,
        "weights_rpm_deg": [list(point) for point in advance.weights],
        "can_mbar_deg": [list(point) for point in advance.can],
        "port": advance.port.value,
        **{key: getattr(advance, key) for key in SIZES},
        "most_wide_open_deg": advance.most_wide_open_deg,
        "most_starter_deg": advance.most_starter_deg,
        "waste_spark": beyond.waste_spark,
        "sensor_deg": list(beyond.sensor_deg),
        "injects_deg": beyond.injects_deg,
        "trip_deg": beyond.trip_deg,
    }
