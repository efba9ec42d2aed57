"""Tables of an engine file that every version has, and what all tables have in common."""

from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationInfo, field_validator

from true_compass.core.engine import check_rod_length
from true_compass.core.limits import LIMITS
from true_compass.core.valves.cam import ValveTiming, check_base_circle, check_duration
from true_compass.files.defaults import DEFAULTS


def number(field: str, description: str, **more: Any) -> Any:
    """A pydantic field within the limits that the core gives for this kind of number."""
    least, most = LIMITS[field]
    return Field(ge=least, le=most, description=description, **more)


# Control characters would break lines, tables and printed cards; direction characters would show
# a name as another one.
_NEVER: Final = r"\x7f-\x9f\u061c\u200b-\u200f\u2028-\u202e\u2060-\u206f\ufeff"
PLAIN: Final = rf"^[^\x00-\x1f{_NEVER}]*$"
Words = Annotated[str, Field(max_length=120, pattern=PLAIN)]
ShortWords = Annotated[str, Field(max_length=30, pattern=PLAIN)]
BankName = Annotated[str, Field(min_length=1, max_length=12, pattern=PLAIN)]
LongWords = Annotated[str, Field(max_length=1000, pattern=rf"^[^\x00-\x08\x0b-\x1f{_NEVER}]*$")]


class Part(BaseModel):
    """A table of the engine file: no unknown keys, no silent conversions, no NaN or infinity."""

    model_config = ConfigDict(strict=True, extra="forbid", allow_inf_nan=False)


class DimensionsPart(Part):
    """Bore, stroke and rod."""

    bore_mm: float = number("bore_mm", "Bore in mm.")
    stroke_mm: float = number("stroke_mm", "Stroke in mm: twice the crank radius.")
    rod_mm: float = number("rod_mm", "Length of the connecting rod in mm, centre to centre.")

    @field_validator("rod_mm")
    @classmethod
    def _rod_turns_over(cls, rod_mm: float, info: ValidationInfo) -> float:
        if "stroke_mm" in info.data:
            check_rod_length(rod_mm, info.data["stroke_mm"])
        return rod_mm


class CamPart(Part):
    """When the valves leave their seats and come back, and how far they lift."""

    events_at: Literal["seat"] = Field(
        default=DEFAULTS["cam"]["events_at"],
        description="Where the four events are stated: at the valve seat.",
    )
    intake_opens_btdc_deg: float = number(
        "intake_opens_btdc_deg", "Intake opens, crank degrees before exhaust TDC."
    )
    intake_closes_abdc_deg: float = number(
        "intake_closes_abdc_deg", "Intake closes, crank degrees after BDC."
    )
    exhaust_opens_bbdc_deg: float = number(
        "exhaust_opens_bbdc_deg", "Exhaust opens, crank degrees before BDC."
    )
    exhaust_closes_atdc_deg: float = number(
        "exhaust_closes_atdc_deg", "Exhaust closes, crank degrees after exhaust TDC."
    )
    intake_lift_mm: float = number("peak_lift_mm", "Greatest lift of an intake valve in mm.")
    exhaust_lift_mm: float = number("peak_lift_mm", "Greatest lift of an exhaust valve in mm.")
    ramp_deg: float = number(
        "ramp_deg",
        "Length of each ramp outside the events, in crank degrees.",
        default=DEFAULTS["cam"]["ramp_deg"],
        validate_default=True,
    )

    @field_validator("intake_closes_abdc_deg", "exhaust_closes_atdc_deg")
    @classmethod
    def _open_long_enough(cls, closes_deg: float, info: ValidationInfo) -> float:
        field = info.field_name or ""
        opens = "intake_opens_btdc_deg" if field.startswith("intake") else "exhaust_opens_bbdc_deg"
        if opens in info.data:
            check_duration(field, ValveTiming(info.data[opens], closes_deg, 1.0, 0.0))
        return closes_deg

    @field_validator("ramp_deg")
    @classmethod
    def _base_circle_left(cls, ramp_deg: float, info: ValidationInfo) -> float:
        known = info.data
        for opens, closes in (
            ("intake_opens_btdc_deg", "intake_closes_abdc_deg"),
            ("exhaust_opens_bbdc_deg", "exhaust_closes_atdc_deg"),
        ):
            if opens in known and closes in known:
                timing = ValveTiming(known[opens], known[closes], 1.0, 0.0, ramp_deg)
                check_base_circle("ramp_deg", timing)
        return ramp_deg


class LashPart(Part):
    """The gap with the tappet on the base circle, measured at the valve."""

    measured: Literal["cold", "hot"] = Field(
        default=DEFAULTS["lash"]["measured"],
        description="Whether the lash is meant for a cold or a hot engine.",
    )
    intake_mm: float = number("lash_mm", "Lash of the intake valves in mm.")
    exhaust_mm: float = number("lash_mm", "Lash of the exhaust valves in mm.")
