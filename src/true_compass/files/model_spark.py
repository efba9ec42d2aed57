"""The table `[ignition]` of an engine file."""

from typing import Annotated, Any, Literal

from pydantic import Field

from true_compass.core.spark import MOST_POINTS
from true_compass.files.defaults import DEFAULTS
from true_compass.files.model_parts import Part, ShortWords, number

USUAL = DEFAULTS["ignition"]
Plain = Annotated[float, Field(allow_inf_nan=False)]
Pair = Annotated[list[Plain], Field(min_length=2, max_length=2)]


def _points(description: str) -> Any:
    return Field(default_factory=list, max_length=MOST_POINTS, description=description)


def _angle(field: str, description: str) -> Any:
    return number(field, description, default=None)


def _plain(field: str, description: str) -> Any:
    limits_of = "speed_rpm" if field.endswith("rpm") else "depression_mbar"
    return number(limits_of, description, default=USUAL[field])


class IgnitionPart(Part):
    """What lights the charge: rotor, distributor, advance, coils, igniter."""

    kind: Literal["unknown", "distributor", "magneto", "coils", "igniter", "diesel"] = Field(
        default=USUAL["kind"], description="What lights the charge."
    )
    rotor_turns: Literal["", "clockwise", "anticlockwise"] = Field(
        default="", description="The rotor's direction as it was seen; empty: not looked at."
    )
    rotor_seen_from: Literal["above", "front", "rear"] = Field(
        default=USUAL["rotor_seen_from"], description="From where it was seen."
    )
    gear_teeth: int = Field(
        default=USUAL["gear_teeth"],
        ge=0,
        le=60,
        description="Teeth of the distributor's gear, 5 or more; 0: not known, 13 are assumed.",
    )
    posts: int = Field(
        default=USUAL["posts"],
        ge=0,
        le=36,
        description="Posts of its cap; 0: not known, one a cylinder.",
    )
    post_1_deg: float | None = _angle(
        "post_1_deg", "Where post 1 stands with the body in mid-swing, clockwise from the front."
    )
    seat_deg: float | None = _angle(
        "seat_deg", "Where the rotor points on one of its seats, cylinder 1 at its firing point."
    )
    twist_deg: float | None = _angle(
        "twist_deg", "How far the gear twists the rotor clockwise as it goes down."
    )
    slot_ways: int = Field(default=0, ge=0, le=2, description="Ways round in which the slot fits.")
    slot_deg: float = number(
        "slot_deg", "The pump slot, clockwise of the rotor.", default=USUAL["slot_deg"]
    )
    swing_deg: list[Annotated[float, Field(ge=0, le=90, allow_inf_nan=False)]] = Field(
        default_factory=list,
        max_length=2,
        description="How far the body goes from mid-swing, anticlockwise and clockwise.",
    )
    swing_meets: list[ShortWords] = Field(
        default_factory=list, max_length=2, description="What it meets there, in that order."
    )
    figures_at: Literal["crank", "distributor"] = Field(
        default=USUAL["figures_at"], description="Whose degrees and rpm weights and can are."
    )
    # Its limits are the core's own, which says what more would do.
    initial_deg: float | None = Field(
        default=None,
        allow_inf_nan=False,
        description="Initial advance before TDC, at the crank, hose off.",
        json_schema_extra={"minimum": -20, "maximum": 20},
    )
    weights_rpm_deg: list[Pair] = _points("Points of the weights' advance: rpm, degrees.")
    can_mbar_deg: list[Pair] = _points("Points of the vacuum can's advance: mbar, degrees.")
    port: Literal["", "ported", "full"] = Field(
        default="", description="Where the can gets its depression; empty: not known."
    )
    idle_rpm: float = _plain("idle_rpm", "Idle speed.")
    idle_mbar: float = _plain("idle_mbar", "Depression in the manifold at idle.")
    cruise_rpm: float = _plain("cruise_rpm", "Speed on a light throttle.")
    cruise_mbar: float = _plain("cruise_mbar", "Depression there.")
    most_wide_open_deg: float | None = _angle(
        "most_wide_open_deg", "The most that the engine bears wide open, before TDC."
    )
    most_starter_deg: float | None = _angle(
        "most_starter_deg", "The most initial that the starter bears."
    )
    waste_spark: bool = Field(default=False, description="Whether a coil fires two companions.")
    sensor_deg: list[Annotated[float, Field(ge=0, lt=720, allow_inf_nan=False)]] = Field(
        default_factory=list,
        max_length=36,
        description="Crank angles at which the cam sensor's edges are met.",
    )
    injects_deg: float | None = _angle(
        "injects_deg", "Cycle angle at which each cylinder's injector opens."
    )
    trip_deg: float | None = _angle("trip_deg", "Where an igniter trips, before TDC.")
