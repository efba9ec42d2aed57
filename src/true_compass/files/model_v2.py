"""The shape of an engine file of version 2: every key, its unit and its limits."""

from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, field_validator

from true_compass.core.crank.firing import parse_groups
from true_compass.core.limits import MOST_CYLINDERS
from true_compass.files.defaults import DEFAULTS
from true_compass.files.model_parts import (
    BankName,
    DimensionsPart,
    LashPart,
    LongWords,
    Part,
    Words,
    number,
)
from true_compass.files.model_train import (
    BankAdvancePart,
    CamPartV2,
    CardPart,
    CompressionPart,
    ExtraPartV2,
    ReleasePart,
    TablesPart,
    TrainPartV2,
)

FormWord = Literal["inline", "v", "flat", "w", "staggered", "radial", "square", "u", "other"]
End = Literal["front", "rear"]
Drive = Literal["with", "against"]
Counted = Annotated[int, Field(ge=1, le=MOST_CYLINDERS)]
Interval = Annotated[float, Field(gt=0, le=720)]
Pin = Annotated[float, number("pin_deg", "Pin angle.")]
Split = Annotated[float, number("split_deg", "Split.")]
Tdc = Annotated[float, number("tdc_deg", "TDC.")]


def listed(description: str) -> Any:
    """A list of one value a throw or a cylinder, empty when it is left out."""
    return Field(default_factory=list, max_length=MOST_CYLINDERS, description=description)


class LayoutPart(Part):
    """What the engine is called, how it turns, and in which order it fires."""

    form: FormWord = Field(description="Kind of layout, for words and drawings.")
    rotation: Literal["clockwise", "anticlockwise"] = Field(
        default=DEFAULTS["layout"]["rotation"], description="Running direction of the crank."
    )
    seen_from: End = Field(
        default=DEFAULTS["layout"]["seen_from"], description="End from which rotation is seen."
    )
    cylinder_1_at: End = Field(
        default=DEFAULTS["layout"]["cylinder_1_at"], description="End at which cylinder 1 is."
    )
    firing_order: str = Field(
        max_length=200,
        description="Order from cylinder 1, such as 1-3-4-2; + joins those that fire together.",
    )
    firing_intervals_deg: list[Interval] = Field(
        default_factory=list,
        max_length=MOST_CYLINDERS,
        description="Crank degrees to the next firing, where the order alone leaves a choice.",
    )

    @field_validator("firing_order")
    @classmethod
    def _order_is_one(cls, text: str) -> str:
        parse_groups(text)
        return text


class BankPart(Part):
    """A bank of cylinders."""

    name: BankName = Field(description="Short name, such as A.")
    angle_deg: float = number("bank_angle_deg", "Angle of the bank in the running direction.")
    ahead: bool = Field(default=False, description="Whether this bank sits further forward.")
    axis_offset_mm: float = number(
        "axis_offset_mm", "Bores beside the crank's axis, in mm.", default=0.0
    )


class CrankPart(Part):
    """The throws, from the front."""

    pins_deg: list[Pin] = listed("Angle of each throw's pin in the running direction.")
    split_deg: list[Split] = listed("How far the second pin of each split throw stands on.")
    on_second_crank: list[Counted] = listed("Throws that are on the second geared crankshaft.")
    second_crank_turns: Drive = Field(
        default=DEFAULTS["crank"]["second_crank_turns"],
        description="Whether the second crankshaft turns with the first or against it.",
    )


class CylindersPart(Part):
    """Where each cylinder sits, in cylinder order."""

    bank: list[BankName] = listed("Name of each cylinder's bank.")
    throw: list[Counted] = listed("Number of each cylinder's throw, from the front.")
    tdc_deg: list[Tdc] = listed("TDC of each cylinder, typed in instead of pins.")


class RodsPart(Part):
    """Master and link rods of a radial."""

    masters: list[Counted] = listed("Cylinder with the master rod, one a throw.")
    hub_mm: float = number("hub_mm", "Distance of the knuckle pins from the crank pin, in mm.")


class DimensionsPartV2(DimensionsPart):
    """Bore, stroke, rod and pin offset."""

    pin_offset_mm: float = number(
        "pin_offset_mm",
        "Gudgeon pin beside the bore's axis, positive to where the crank pin goes after TDC.",
        default=0.0,
    )
    damper_mm: float = number("damper_mm", "Diameter of the damper; 0: not known.", default=0.0)
    ring_gear_teeth: int = Field(
        default=0, ge=0, le=400, description="Teeth of the flywheel's ring gear; 0: not known."
    )


class ValvesPart(Part):
    """How many valves a cylinder has and how they stand along the heads."""

    intake: int = Field(default=1, ge=1, le=4, description="Intake valves of each cylinder.")
    exhaust: int = Field(default=1, ge=1, le=4, description="Exhaust valves of each cylinder.")
    pattern: str = Field(
        default="",
        max_length=80,
        description="Letters along a head from the front, such as IEEI; or a word for each head.",
    )
    mirrored: bool = Field(default=False, description="Whether the second head is turned about.")

    @field_validator("exhaust")
    @classmethod
    def _at_most_five(cls, exhaust: int, info: ValidationInfo) -> int:
        if info.data.get("intake", 1) + exhaust > 5:
            raise ValueError("and intake valves must be 2 to 5 in all")
        return exhaust


class MarkPartV2(Part):
    """A mark to bring the crank to, version 2."""

    where: Annotated[Words, Field(min_length=1)] = Field(description="Where it is: pulley, …")
    angle_deg: float = Field(ge=-720.0, le=720.0, description="Crank angle at which it is met.")
    stamped: Words = Field(default="", description="What is stamped beside it.")
    can_creep: bool = Field(default=False, description="Whether it can move, as a damper ring can.")


class EngineFileV2(Part):
    """A whole engine file, version 2."""

    format: Literal["true-compass-engine"] = Field(description="Says what kind of file this is.")
    version: Literal[2] = Field(description="Version of the format.")
    name: Annotated[Words, Field(min_length=1)] = Field(description="Name of the engine or rig.")
    place: Words = Field(default="", description="Where the engine stands.")
    note: LongWords = Field(default="", description="The lesson it is good for, or anything else.")
    layout: LayoutPart
    bank: list[BankPart] = Field(
        default_factory=list, max_length=MOST_CYLINDERS, description="Banks; one at 0° if left out."
    )
    crank: CrankPart = Field(default_factory=CrankPart)
    cylinders: CylindersPart = Field(default_factory=CylindersPart)
    rods: RodsPart | None = None
    dimensions: DimensionsPartV2
    valves: ValvesPart = Field(default_factory=ValvesPart)
    cam: CamPartV2 = Field(default_factory=CamPartV2)
    card: CardPart | None = None
    table: TablesPart | None = None
    release: ReleasePart | None = None
    extra: list[ExtraPartV2] = Field(
        default_factory=list, max_length=2, description="Lobes for injectors and brakes."
    )
    train: TrainPartV2 = Field(default_factory=TrainPartV2)
    lash: LashPart
    bank_advance: list[BankAdvancePart] = Field(
        default_factory=list, max_length=MOST_CYLINDERS, description="Advance of single banks."
    )
    compression: CompressionPart = Field(default_factory=CompressionPart)
    mark: list[MarkPartV2] = Field(default_factory=list, max_length=40, description="Marks.")
