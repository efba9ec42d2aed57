"""The shape of an engine file of version 3: every key, its unit and its limits.

`docs/schemas/engine.schema.json` is generated from it; `docs/engine-file.md` explains each key.
"""

import json
from typing import Annotated, Literal

from pydantic import Field

from true_compass.core.limits import MOST_CYLINDERS
from true_compass.files.defaults import DEFAULTS
from true_compass.files.model_degreeing import ChamberPart, DrivePart
from true_compass.files.model_parts import LashPart, LongWords, Part, ShortWords, Words
from true_compass.files.model_spark import IgnitionPart
from true_compass.files.model_train import (
    BankAdvancePart,
    CamPartV2,
    CardPart,
    CompressionPart,
    ExtraPart,
    ReleasePart,
    TablesPart,
    TrainPart,
)
from true_compass.files.model_v2 import (
    BankPart,
    CrankPart,
    CylindersPart,
    DimensionsPartV2,
    LayoutPart,
    RodsPart,
    ValvesPart,
)
from true_compass.files.written_units import with_text


class LashPartV3(LashPart):
    """The gap with the tappet on the base circle, where this engine measures it."""

    gap_unit: Literal["mm", "thou"] = Field(
        default=DEFAULTS["lash"]["gap_unit"],
        description="Unit of the blades: what a gap typed without a unit means.",
    )


class MarkPart(Part):
    """A mark to bring the crank to. Several can be at one place."""

    where: Annotated[Words, Field(min_length=1)] = Field(description="Where it is: pulley, …")
    angle_deg: float | None = Field(
        default=None,
        ge=0.0,
        lt=720.0,
        description="Nominal angle at which it is met: 0 to 360 on the crank, 0 to 720 on a cam. "
        "A TDC mark without one stands at the true TDC of its cylinder.",
    )
    stamped: Words = Field(default="", description="What is stamped beside it.")
    colour: ShortWords = Field(default="", description="Its colour.")
    meaning: Literal["tdc", "firing", "other"] = Field(
        default="tdc", description="What it marks: a TDC, a firing point, or something else."
    )
    shaft: Literal["crank", "cam"] = Field(
        default="crank", description="The shaft it sits on: a cam mark passes once a cycle."
    )
    cylinder: int = Field(default=1, ge=1, le=MOST_CYLINDERS, description="Whose TDC it marks.")
    can_creep: bool = Field(default=False, description="Whether it can move, as a damper ring can.")


class SourcePart(Part):
    """Where figures stand. Several books may be named, each for its items."""

    book: Annotated[Words, Field(min_length=1)] = Field(description="The book.")
    edition: ShortWords = Field(default="", description="Its edition.")
    page: ShortWords = Field(default="", description="The page.")
    variant: Words = Field(default="", description="The variant of the engine it is for.")
    of: Literal["", "I", "E", "U", "B", "bridge"] = Field(
        default="", description="The items that it is about; empty: everything."
    )


class CamPart(CamPartV2):
    """Events, lifts, how the camshafts are driven, and the gear that drives them."""

    gear_teeth: int = Field(
        default=0,
        ge=0,
        le=200,
        description="Teeth of the gear on the camshaft, 8 or more; 0: not known, 40 are assumed.",
    )


class EngineFile(Part):
    """A whole engine file, version 3."""

    format: Literal["true-compass-engine"] = Field(description="Says what kind of file this is.")
    version: Literal[3] = Field(description="Version of the format.")
    name: Annotated[Words, Field(min_length=1)] = Field(description="Name of the engine or rig.")
    place: Words = Field(default="", description="Where the engine stands.")
    note: LongWords = Field(default="", description="The lesson it is good for, or anything else.")
    serial: ShortWords = Field(default="", description="The engine's own number.")
    layout: LayoutPart
    bank: list[BankPart] = Field(
        default_factory=list, max_length=MOST_CYLINDERS, description="Banks; one at 0° if left out."
    )
    crank: CrankPart = Field(default_factory=CrankPart)
    cylinders: CylindersPart = Field(default_factory=CylindersPart)
    rods: RodsPart | None = None
    dimensions: DimensionsPartV2
    valves: ValvesPart = Field(default_factory=ValvesPart)
    cam: CamPart = Field(default_factory=CamPart)
    card: CardPart | None = None
    table: TablesPart | None = None
    release: ReleasePart | None = None
    extra: list[ExtraPart] = Field(
        default_factory=list, max_length=2, description="Injectors and engine brakes."
    )
    train: TrainPart = Field(default_factory=TrainPart)
    lash: LashPartV3
    bank_advance: list[BankAdvancePart] = Field(
        default_factory=list, max_length=MOST_CYLINDERS, description="Advance of single banks."
    )
    drive: list[DrivePart] = Field(
        default_factory=list, max_length=16, description="How camshafts can be moved."
    )
    chamber: ChamberPart = Field(default_factory=ChamberPart)
    compression: CompressionPart = Field(default_factory=CompressionPart)
    ignition: IgnitionPart = Field(default_factory=IgnitionPart)
    mark: list[MarkPart] = Field(default_factory=list, max_length=40, description="Marks.")
    source: list[SourcePart] = Field(
        default_factory=list, max_length=12, description="Where the figures stand."
    )


def schema_text() -> str:
    """The JSON Schema of an engine file, as `docs/schemas/engine.schema.json` has it."""
    schema = with_text(EngineFile.model_json_schema())
    # Rules across several fields (the rod against the stroke, the order against the crank) cannot
    # be said in a schema; reading a file checks them.
    schema = {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
