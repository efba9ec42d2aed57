"""The shapes of a scenario file: version 1; and 2, which is sealed. `docs/bench.md` tells more."""

from typing import Annotated, Literal

from pydantic import Field

from true_compass.bench.scenario import MOST_HARDNESS, MOST_SEED
from true_compass.core.limits import MOST_CYLINDERS
from true_compass.files.model_parts import LongWords, Part, ShortWords, Words
from true_compass.files.model_v3 import EngineFile

FaultName = Annotated[str, Field(max_length=40)]


class ItemPart(Part):
    """How one item is found."""

    name: ShortWords = Field(description="The item, such as I1 or E2 bridge.")
    found_mm: float | None = Field(
        default=None, description="Its gap on the heel, or how far its plunger is pushed in."
    )
    nut_moves_mm: float | None = Field(
        default=None, description="What its nut adds to the gap while nobody holds the screw."
    )


class ConditionPart(Part):
    """Parts of the hidden condition; what is left out follows from the seed."""

    start_deg: float | None = Field(default=None, description="Crank angle as found, 0 to 720.")
    cam_slack_deg: float | None = Field(
        default=None, description="Slack in the cam drive, crank °."
    )
    rotor_slack_deg: float | None = Field(
        default=None, description="Slack in the distributor drive, crank °."
    )
    slack_open: bool | None = Field(
        default=None, description="Whether the slack lies as after turning back."
    )
    mark_error_deg: float | None = Field(
        default=None, description="How far after true TDC the damper's mark is met."
    )
    head_torqued: bool | None = Field(default=None, description="Whether the head was torqued.")
    pumped: bool | None = Field(default=None, description="Whether hydraulic tappets are full.")
    item: list[ItemPart] = Field(default_factory=list, max_length=120, description="Items.")


class ScenarioHead(Part):
    """What may be seen of any scenario."""

    format: Literal["true-compass-scenario"] = Field(description="Says what kind of file this is.")
    title: Words = Field(default="", description="Its name.")
    note: LongWords = Field(default="", description="What it is for.")
    rig: ShortWords = Field(default="", description="Short name of the demo rig it was made from.")
    engine_digest: Words = Field(default="", description="Mark of the engine it was made for.")
    task: Literal[
        "tdc",
        "which-tdc",
        "true-tdc",
        "mark",
        "order",
        "set",
        "preload",
        "bridge",
        "fault",
        "free",
    ] = Field(default="free", description="What is asked.")
    cylinder: int = Field(default=1, ge=1, le=MOST_CYLINDERS, description="Which cylinder.")
    hardness: int = Field(default=2, ge=1, le=MOST_HARDNESS, description="1 to 5.")
    hand: Literal["steady", "usual", "clumsy"] = Field(
        default="usual", description="How far readings scatter."
    )
    method: ShortWords = Field(default="two-stop", description="Way of adjusting.")
    engine: EngineFile


class ScenarioFile(ScenarioHead):
    """A whole scenario file, version 1."""

    version: Literal[1] = Field(description="Version of the format.")
    seed: int = Field(default=1, ge=0, le=MOST_SEED, description="Fixes everything left to chance.")
    faults: list[FaultName] = Field(
        default_factory=list, max_length=10, description="Faults, two at most."
    )
    condition: ConditionPart = Field(default_factory=ConditionPart)


Encoded = Annotated[str, Field(max_length=100_000, pattern=r"^[A-Za-z0-9+/=]*$")]


class SealPart(Part):
    """What only the word of the seal opens, in base 64."""

    salt: Encoded = Field(description="Makes another key of the same word in each file.")
    nonce: Encoded = Field(description="Used once.")
    hidden: Encoded = Field(description="Seed, faults and condition, encrypted.")


class SealedScenarioFile(ScenarioHead):
    """A sealed scenario file, version 2."""

    version: Literal[2] = Field(description="Version of the format.")
    sealed: SealPart
