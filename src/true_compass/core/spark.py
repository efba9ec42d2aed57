"""What lights the charge, as facts of an engine: rotor, distributor, advance, coils, igniter.

Directions on a cap are seen by whoever looks at it, as `Rotor.seen_from` says (above, for most),
and grow clockwise there. Curves of advance stand as the book has them; `Advance.at_distributor`
says which degrees those are.
"""

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import Enum
from itertools import pairwise
from typing import Final

from true_compass.core.limits import EngineError, check_count, check_number
from true_compass.core.rotation import Rotation
from true_compass.core.units import MBAR_PER_INHG, parse_depression_mbar, parse_number


class Ignition(Enum):
    """What lights the charge, as far as the file says."""

    UNKNOWN = "unknown"
    DISTRIBUTOR = "distributor"
    MAGNETO = "magneto"
    COILS = "coils"
    IGNITER = "igniter"
    DIESEL = "diesel"


class Viewpoint(Enum):
    """From where a rotor's direction is seen."""

    ABOVE = "above"
    FRONT = "front"
    REAR = "rear"

    @property
    def words(self) -> str:
        """`from above`, `from the front`."""
        return "from above" if self is Viewpoint.ABOVE else f"from the {self.value}"


class Port(Enum):
    """Where a vacuum can gets its depression: it differs at idle."""

    UNKNOWN = ""
    PORTED = "ported"
    FULL = "full"


@dataclass(frozen=True, slots=True)
class Rotor:
    """The direction in which a rotor was seen to turn, and from where. None was not looked at."""

    turns: Rotation | None = None
    seen_from: Viewpoint = Viewpoint.ABOVE


ASSUMED_DISTRIBUTOR_TEETH: Final = 13
"""What is assumed of a gear that nobody counted (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Distributor:
    """The gear that turns the rotor, and the cap. What is 0 or None is not known.

    With the crank at cylinder 1's firing point a rotor sits at `seat_deg` and at each tooth of
    the gear from there; `post_1_deg` is where the cap's first post stands with the body in
    mid-swing. Both are degrees clockwise from the engine's front. `swing_deg` is how far the body
    goes from there, anticlockwise and clockwise, until it meets `swing_meets`. Going down, the
    gear twists the rotor `twist_deg` clockwise (anticlockwise where negative). `slot_deg` is the
    pump slot clockwise of the rotor; it fits `slot_ways` ways round.
    """

    gear_teeth: int = 0
    posts: int = 0
    seat_deg: float | None = None
    post_1_deg: float | None = None
    twist_deg: float | None = None
    slot_ways: int = 0
    slot_deg: float = 0.0
    swing_deg: tuple[float, float] | None = None
    swing_meets: tuple[str, str] = ("", "")


Points = tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Advance:
    """What the timing is made of. None or empty is not known.

    `initial_deg` is always degrees of crank before TDC, set with the hose off. `weights` are
    points of rpm and degrees, `can` of mbar of depression and degrees: of the crank, or, where
    `at_distributor`, rpm and degrees of the distributor. Limits are crank degrees before TDC.
    """

    initial_deg: float | None = None
    weights: Points = ()
    can: Points = ()
    at_distributor: bool = False
    port: Port = Port.UNKNOWN
    idle_rpm: float = 0.0
    idle_mbar: float = 0.0
    cruise_rpm: float = 0.0
    cruise_mbar: float = 0.0
    most_wide_open_deg: float | None = None
    most_starter_deg: float | None = None


@dataclass(frozen=True, slots=True)
class Beyond:
    """What stands in place of a distributor, or beside it.

    `waste_spark`: one coil fires two companions. `sensor_deg` are the crank angles, [0, 720), at
    which the cam sensor's edges are met, and `injects_deg` the cycle angle at which each
    cylinder's injector opens. `trip_deg` is where an igniter trips, crank degrees before TDC.
    """

    waste_spark: bool = False
    sensor_deg: tuple[float, ...] = ()
    injects_deg: float | None = None
    trip_deg: float | None = None


@dataclass(frozen=True, slots=True)
class Spark:
    """Everything that an engine's file says about its spark."""

    kind: Ignition = Ignition.UNKNOWN
    rotor: Rotor = Rotor()
    distributor: Distributor = Distributor()
    advance: Advance = Advance()
    beyond: Beyond = Beyond()


NO_SPARK: Final = Spark()
MOST_POINTS: Final = 12
LIKELY_INHG_MBAR: Final = 31.0
"""Below this no can is at its full: it is inches of mercury, typed as mbar."""


def check_spark(spark: Spark) -> None:
    """Raise unless what is said about the spark can be."""
    check_distributor(spark.distributor)
    check_advance(spark.advance)
    beyond = spark.beyond
    for edge in beyond.sensor_deg:
        check_number("sensor_deg", edge)
    for field in ("injects_deg", "trip_deg"):
        _check_known(field, getattr(beyond, field))


def _check_known(field: str, value: float | None) -> None:
    if value is not None:
        check_number(field, value)


def check_distributor(distributor: Distributor) -> None:
    """Raise unless teeth, posts, directions and the body's swing can be."""
    check_count("distributor_gear_teeth", distributor.gear_teeth, 5, 60)
    check_count("distributor_posts", distributor.posts, 1, 36)
    check_count("slot_ways", distributor.slot_ways, 1, 2)
    for field in ("seat_deg", "post_1_deg", "twist_deg", "slot_deg"):
        _check_known(field, getattr(distributor, field))
    for each in distributor.swing_deg or ():
        check_number("swing_deg", each)


def check_advance(advance: Advance) -> None:
    """Raise unless every figure of the advance can be, and both curves rise."""
    check_initial(advance.initial_deg)
    check_points("weights", advance.weights, "rpm")
    check_points("can", advance.can, "mbar")
    for field in ("idle_rpm", "cruise_rpm", "idle_mbar", "cruise_mbar"):
        check_number("speed_rpm" if "rpm" in field else "depression_mbar", getattr(advance, field))
    for field in ("most_wide_open_deg", "most_starter_deg"):
        _check_known(field, getattr(advance, field))


def check_initial(initial_deg: float | None) -> None:
    """Raise where the engine would kick its starter: that is a total, or a misread mark."""
    if initial_deg is not None and not -20.0 <= initial_deg <= 20.0:
        raise EngineError(
            "initial_deg",
            f"must be from -20 to 20 deg, not {initial_deg:g}: more kicks the starter. It is read "
            "at idle, below the weights, with the hose off and plugged; a total is more",
        )


def parse_points(field: str, text: str) -> Points:
    """Points of an advance, as they are typed; nothing is none.

    >>> parse_points("weights", "900:0, 3200:24")
    ((900.0, 0.0), (3200.0, 24.0))
    """
    points, is_can = [], field.rpartition(".")[2].startswith("can")
    for part in filter(None, (piece.strip() for piece in re.split(r"[,;]\s*", text))):
        at, colon, deg = part.partition(":")
        if not colon:
            raise EngineError(field, f"must be points such as 900:0, 3200:24; {part[:20]!r} is not")
        where = parse_depression_mbar(field, at, "mbar") if is_can else parse_number(field, at)
        points.append((where, parse_number(field, deg)))
    return tuple(points)


def points_text(points: Iterable[Sequence[float]]) -> str:
    """Points of an advance as `parse_points` reads them.

    >>> points_text(((900.0, 0.0), (3200.0, 24.5)))
    '900:0, 3200:24.5'
    """
    return ", ".join(f"{at:.10g}:{deg:.10g}" for at, deg in points)


def check_points(field: str, points: Points, unit: str) -> None:
    """Raise unless points of advance rise: the weights' in rpm, the can's in mbar."""
    if len(points) == 1 or len(points) > MOST_POINTS:
        raise EngineError(
            field, f"must be 2 to {MOST_POINTS} points, where it begins and where it is full"
        )
    for at, deg in points:
        if not (math.isfinite(at) and math.isfinite(deg) and at >= 0.0):
            raise EngineError(field, f"must not have {at:g}: {unit} from 0 on")
        check_number("advance_point_deg", deg)
    for (one, deg), (other, more) in pairwise(points):
        if other <= one:
            raise EngineError(field, f"must rise in {unit}: {other:g} follows {one:g}")
        if more < deg:
            raise EngineError(
                field,
                f"must not fall: {more:g}° at {other:g} {unit} follows {deg:g}°. "
                "Give the points in the order in which they rise",
            )
    most = points[-1][0] if points else 0.0
    if field == "can" and points:
        check_number("depression_mbar", most)
        if most < LIKELY_INHG_MBAR:
            raise EngineError(
                field,
                f"is full at {most:g} mbar, which is next to nothing: inHg? "
                f"{most:g} inHg are {most * MBAR_PER_INHG:.0f} mbar",
            )
    elif points:
        check_number("speed_rpm", most)
