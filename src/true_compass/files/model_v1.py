"""The shape of an engine file of version 1: even-firing inline engines only.

Files of this version still open; new ones are written in the newest version.
"""

from typing import Annotated, Literal

from pydantic import Field, ValidationInfo, field_validator

from true_compass.core.crank.firing import parse_firing_order
from true_compass.core.limits import MOST_CYLINDERS
from true_compass.files.defaults import DEFAULTS
from true_compass.files.model_parts import (
    CamPart,
    DimensionsPart,
    LashPart,
    LongWords,
    Part,
    Words,
)


class LayoutPart(Part):
    """How the cylinders stand and in which order they fire."""

    kind: Literal["inline"] = Field(description="Layout of the engine.")
    cylinders: int = Field(ge=1, le=MOST_CYLINDERS, description="Number of cylinders.")
    firing_order: str = Field(
        max_length=200, description="Order from cylinder 1, such as 1-3-4-2; intervals are even."
    )
    rotation: Literal["clockwise", "anticlockwise"] = Field(
        default=DEFAULTS["layout"]["rotation"],
        description="Running direction of the crank seen from the front, the free end.",
    )

    @field_validator("firing_order")
    @classmethod
    def _order_fits(cls, text: str, info: ValidationInfo) -> str:
        order = parse_firing_order(text)
        cylinders = info.data.get("cylinders")
        if cylinders is not None and len(order) != cylinders:
            raise ValueError(
                f"names {len(order)} cylinders, but cylinders is {cylinders}: correct one of them"
            )
        return text


class EngineFileV1(Part):
    """A whole engine file, version 1."""

    format: Literal["true-compass-engine"] = Field(description="Says what kind of file this is.")
    version: Literal[1] = Field(description="Version of the format.")
    name: Annotated[Words, Field(min_length=1)] = Field(description="Name of the engine or rig.")
    place: Words = Field(default="", description="Where the engine stands.")
    note: LongWords = Field(default="", description="Anything else worth knowing.")
    layout: LayoutPart
    dimensions: DimensionsPart
    cam: CamPart
    lash: LashPart
