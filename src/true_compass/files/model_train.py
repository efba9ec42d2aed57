"""Tables of an engine file about cams and the valve train."""

from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, field_validator

from true_compass.core.limits import MOST_CYLINDERS
from true_compass.core.units import parse_thread_mm
from true_compass.core.valves.cam import (
    MOST_TABLE_ROWS,
    ValveTiming,
    check_base_circle,
    check_duration,
    parse_check_lift,
)
from true_compass.files.defaults import (
    CAM_DEFAULTS,
    COMPRESSION_DEFAULTS,
    EXTRA_DEFAULTS,
    TABLE_DEFAULTS,
    TRAIN_DEFAULTS,
)
from true_compass.files.model_parts import BankName, Part, ShortWords, Words, number

CHECK_LIFT = "seat, or a lift and its place such as 1mm@valve or 0.050in@tappet."


def _check_lift(text: str) -> str:
    parse_check_lift("events_at", text)
    return text


def maybe(field: str, description: str) -> Any:
    """A number that may be left out."""
    return number(field, description, default=None)


class CamPartV2(Part):
    """Events, lifts, and how the camshafts are driven."""

    events_at: str = Field(
        default=CAM_DEFAULTS["events_at"], max_length=30, description=f"Events at: {CHECK_LIFT}"
    )
    intake_opens_btdc_deg: float | None = maybe(
        "intake_opens_btdc_deg", "Intake opens, crank degrees before exhaust TDC."
    )
    intake_closes_abdc_deg: float | None = maybe(
        "intake_closes_abdc_deg", "Intake closes, crank degrees after BDC."
    )
    exhaust_opens_bbdc_deg: float | None = maybe(
        "exhaust_opens_bbdc_deg", "Exhaust opens, crank degrees before BDC."
    )
    exhaust_closes_atdc_deg: float | None = maybe(
        "exhaust_closes_atdc_deg", "Exhaust closes, crank degrees after exhaust TDC."
    )
    intake_lift_mm: float | None = maybe("peak_lift_mm", "Greatest lift of an intake valve in mm.")
    exhaust_lift_mm: float | None = maybe(
        "peak_lift_mm", "Greatest lift of an exhaust valve in mm."
    )
    intake_centreline_deg: float | None = maybe(
        "centreline_deg", "Where the intake lobe's nose stands, crank degrees after TDC."
    )
    exhaust_centreline_deg: float | None = maybe(
        "centreline_deg", "Where the exhaust lobe's nose stands, crank degrees before TDC."
    )
    ramp_deg: float = number(
        "ramp_deg",
        "Length of each ramp outside the events, in crank degrees.",
        default=CAM_DEFAULTS["ramp_deg"],
        validate_default=True,
    )
    ramp_mm: float | None = maybe("ramp_mm", "Height of the ramp at the event, in mm at the valve.")
    intake_advance_deg: float = number(
        "advance_deg",
        "How much earlier the intake camshaft stands, crank degrees.",
        default=CAM_DEFAULTS["intake_advance_deg"],
    )
    exhaust_advance_deg: float = number(
        "advance_deg",
        "How much earlier the exhaust camshaft stands, crank degrees.",
        default=CAM_DEFAULTS["exhaust_advance_deg"],
    )
    intake_suction: bool = Field(
        default=CAM_DEFAULTS["intake_suction"],
        description="Whether suction opens the intake valve, without a lobe.",
    )
    drive: Literal["with", "against"] = Field(
        default=CAM_DEFAULTS["drive"], description="Whether camshafts turn with the crank."
    )
    camshafts: int = Field(default=1, ge=1, le=8, description="Number of camshafts.")
    dots_fire: int = Field(
        default=0, ge=0, le=MOST_CYLINDERS, description="Cylinder that fires when the dots meet."
    )

    _events_at = field_validator("events_at")(_check_lift)

    @field_validator("intake_closes_abdc_deg", "exhaust_closes_atdc_deg")
    @classmethod
    def _open_long_enough(cls, closes_deg: float | None, info: ValidationInfo) -> float | None:
        field = info.field_name or ""
        opens = "intake_opens_btdc_deg" if field.startswith("intake") else "exhaust_opens_bbdc_deg"
        if closes_deg is not None and info.data.get(opens) is not None:
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
            if known.get(opens) is not None and known.get(closes) is not None:
                timing = ValveTiming(known[opens], known[closes], 1.0, 0.0, ramp_deg)
                check_base_circle("ramp_deg", timing)
        return ramp_deg


class TrainBase(Part):
    """What stands between lobe and valve, in every version that has it."""

    kind: Literal["push-rod", "rocker", "finger", "bucket", "side-valve"] = Field(
        default=TRAIN_DEFAULTS["kind"], description="How the lobe reaches the valve."
    )
    tappet: Literal["flat", "roller"] = Field(
        default=TRAIN_DEFAULTS["tappet"], description="What runs on the lobe."
    )
    hydraulic: bool = Field(
        default=TRAIN_DEFAULTS["hydraulic"], description="Whether tappets are hydraulic."
    )
    intake_ratio: float = number("ratio", "Intake valve lift over lobe lift.", default=1.0)
    exhaust_ratio: float = number("ratio", "Exhaust valve lift over lobe lift.", default=1.0)
    thread: str = Field(
        default="", max_length=20, description="Its thread, such as M8x1 or 3/8-24."
    )
    bridge: bool = Field(default=False, description="Whether a bridge joins two valves.")
    leak_down_mm: float = number(
        "leak_down_mm", "How far a hydraulic plunger gives way under load, in mm.", default=0.0
    )
    variable_intake_mm: float = number(
        "variable_intake_mm",
        "Gap of the variable-intake lever at each intake rocker, mm; 0 for none.",
        default=0.0,
    )
    spanner: ShortWords = Field(default="", description="Spanner for the adjuster's nut.")
    key: ShortWords = Field(default="", description="What turns the adjuster's screw.")
    torque_nm: float = number("torque_nm", "Torque of that nut in N·m; 0 for unknown.", default=0.0)

    @field_validator("thread")
    @classmethod
    def _thread_is_one(cls, text: str) -> str:
        if text:
            parse_thread_mm(text)
        return text


class TrainPartV2(TrainBase):
    """What stands between lobe and valve, version 2."""

    adjuster: Literal["valve-screw", "rod-screw", "pivot-nut", "pedestal", "shim", "none"] = Field(
        default=TRAIN_DEFAULTS["adjuster"], description="What is turned or changed to set lash."
    )
    lash_at: Literal["valve", "bridge", "foot", "cam"] = Field(
        default=TRAIN_DEFAULTS["lash_at"], description="Where the lash is measured."
    )
    preload_mm: float = number("preload_mm", "Preload of a hydraulic plunger, mm.", default=0.0)
    accepted_mm: float = Field(
        default=0.0, ge=0.0, le=0.5, description="How far a gap may be off and still be left, mm."
    )


AdjusterWord = Literal[
    "valve-screw",
    "rod-screw",
    "pivot-nut",
    "stud-nut",
    "pivot-screw",
    "pedestal",
    "shim",
    "none",
]
End = Annotated[float, number("lash_mm", "An end of a band, mm.")]


def band(description: str) -> Any:
    """Both ends of a band, in mm, or none."""
    return Field(default_factory=list, max_length=2, description=description)


class TrainPart(TrainBase):
    """What stands between lobe and valve."""

    bridge_screw: bool = Field(
        default=True, description="Whether a bridge has a screw to set; without one it is no item."
    )
    bridge_spanner: ShortWords = Field(default="", description="Spanner for a bridge's nut.")
    bridge_key: ShortWords = Field(default="", description="What turns a bridge's screw.")
    bridge_torque_nm: float = number(
        "torque_nm", "Torque of a bridge's nut in N·m; 0 for unknown.", default=0.0
    )

    adjuster: AdjusterWord = Field(
        default=TRAIN_DEFAULTS["adjuster"], description="What is turned or changed to set lash."
    )
    lash_at: Literal["valve", "bridge", "rod-end", "cam"] = Field(
        default=TRAIN_DEFAULTS["lash_at"], description="Where the lash is measured."
    )
    preload_mm: list[End] = band(
        "Least and most preload of a hydraulic plunger past zero lash, mm."
    )
    zero_lash: Literal["play", "spin", "plunger"] = Field(
        default=TRAIN_DEFAULTS["zero_lash"], description="How zero lash is found."
    )
    intake_accepted_mm: list[End] = band("Both ends between which an intake gap is left, mm.")
    exhaust_accepted_mm: list[End] = band("Both ends between which an exhaust gap is left, mm.")


class DurationPart(Part):
    """One duration of a cam card."""

    at: str = Field(max_length=30, description=f"Checking lift: {CHECK_LIFT}")
    deg: float = number("duration_deg", "Crank degrees from opening to closing.")

    _at = field_validator("at")(_check_lift)


class CardSidePart(Part):
    """What a cam card says of one kind of valve."""

    lobe_lift_mm: float | None = maybe("peak_lift_mm", "Lift of the lobe in mm.")
    valve_lift_mm: float | None = maybe("peak_lift_mm", "Lift of the valve in mm.")
    centreline_deg: float | None = maybe("centreline_deg", "Centreline in crank degrees.")
    opens_deg: float | None = maybe("intake_opens_btdc_deg", "Opens, as the events of [cam].")
    closes_deg: float | None = maybe("intake_closes_abdc_deg", "Closes, as the events of [cam].")
    events_at: str = Field(default="seat", max_length=30, description=f"Events at: {CHECK_LIFT}")
    duration: list[DurationPart] = Field(
        default_factory=list, max_length=4, description="Durations at checking lifts."
    )

    _events_at = field_validator("events_at")(_check_lift)


class CardPart(Part):
    """A cam card, in place of the events of `[cam]`."""

    lobe_separation_cam_deg: float | None = maybe(
        "lobe_separation_cam_deg", "Lobe separation in cam degrees."
    )
    advance_deg: float | None = maybe("advance_deg", "Advance ground in, crank degrees.")
    intake: CardSidePart
    exhaust: CardSidePart


Row = Annotated[float, Field(ge=-1440, le=1440)]
Lift = Annotated[float, Field(ge=0, le=200)]


class TablePart(Part):
    """Lift of a lobe, degree by degree."""

    of: Literal["lobe", "valve"] = Field(
        default=TABLE_DEFAULTS["of"], description="Whether lifts are the lobe's or the valve's."
    )
    resolution_mm: float = number(
        "resolution_mm",
        "Step of the gauge, in mm: no row is smoothed by more than half of it.",
        default=TABLE_DEFAULTS["resolution_mm"],
    )
    angles_deg: list[Row] = Field(max_length=MOST_TABLE_ROWS, description="Crank degrees, rising.")
    lifts_mm: list[Lift] = Field(max_length=MOST_TABLE_ROWS, description="Lifts in mm.")


class TablesPart(Part):
    """Lift tables, in place of the events of that kind of valve."""

    intake: TablePart | None = None
    exhaust: TablePart | None = None


class ReleasePart(Part):
    """A compression release: a bump on the exhaust lobe."""

    opens_deg: float = number("cycle_deg", "Cycle angle at which it opens the valve.")
    closes_deg: float = number("cycle_deg", "Cycle angle at which it lets it shut.")
    lift_mm: float = number("peak_lift_mm", "Greatest lift in mm.")
    ramp_deg: float = number(
        "ramp_deg",
        "Length of each ramp outside, crank degrees.",
        default=EXTRA_DEFAULTS["ramp_deg"],
    )


class ExtraPartV2(ReleasePart):
    """A lobe that drives a unit injector or an engine brake, version 2."""

    kind: Literal["injector", "brake"] = Field(description="What it drives.")
    ratio: float = number("ratio", "Its rocker's ratio.", default=EXTRA_DEFAULTS["ratio"])
    lash_mm: float = number("lash_mm", "Gap to set, in mm.", default=EXTRA_DEFAULTS["lash_mm"])


class ExtraPart(Part):
    """A unit injector or an engine brake, one on every cylinder, and how it is set.

    A brake without a lobe of its own rides on the exhaust rocker.
    """

    kind: Literal["injector", "brake"] = Field(description="What it drives.")
    opens_deg: float | None = maybe("cycle_deg", "Cycle angle at which its lobe begins to lift.")
    closes_deg: float | None = maybe("cycle_deg", "Cycle angle at which its lobe is down again.")
    lift_mm: float | None = maybe("peak_lift_mm", "Greatest lift in mm.")
    ramp_deg: float = number(
        "ramp_deg",
        "Length of each ramp outside, crank degrees.",
        default=EXTRA_DEFAULTS["ramp_deg"],
    )
    ratio: float = number("ratio", "Its rocker's ratio.", default=EXTRA_DEFAULTS["ratio"])
    lash_mm: float = number("lash_mm", "Gap to set, in mm.", default=EXTRA_DEFAULTS["lash_mm"])
    method: Literal["", "blade", "height", "contact"] = Field(
        default="", description="How it is set: a blade, a height tool, contact and a stated turn."
    )
    accepted_mm: list[End] = band("Both ends between which its gap is left, mm.")
    turns: float = number("turns", "Turns past contact.", default=EXTRA_DEFAULTS["turns"])
    height_mm: float = number("height_mm", "Height that the tool sets, mm.", default=0.0)
    place: Words = Field(default="", description="Where blade or tool goes.")
    tool: ShortWords = Field(default="", description="The maker's tool.")
    thread: str = Field(default="", max_length=20, description="Its screw's thread.")
    spanner: ShortWords = Field(default="", description="Spanner for its nut.")
    key: ShortWords = Field(default="", description="What turns its screw.")
    torque_nm: float = number("torque_nm", "Torque of its nut in N·m; 0 for unknown.", default=0.0)


class BankAdvancePart(Part):
    """How much earlier the camshafts of one bank stand."""

    bank: BankName = Field(description="Name of the bank.")
    intake_deg: float = number("advance_deg", "Intake, crank degrees.", default=0.0)
    exhaust_deg: float = number("advance_deg", "Exhaust, crank degrees.", default=0.0)


class CompressionPart(Part):
    """What the pressure on the compression stroke follows from."""

    ratio: float = number(
        "compression_ratio", "Static compression ratio.", default=COMPRESSION_DEFAULTS["ratio"]
    )
    exponent: float = number(
        "polytropic_exponent",
        "Exponent n of p·Vⁿ = constant.",
        default=COMPRESSION_DEFAULTS["exponent"],
    )
    start_kpa: float = number(
        "start_kpa",
        "Absolute pressure when the intake valve closes, in kPa.",
        default=COMPRESSION_DEFAULTS["start_kpa"],
    )
