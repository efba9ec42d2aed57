"""The shape of a lesson file, version 1. `docs/lessons.md` explains each key."""

from typing import Annotated, Any, Literal

from pydantic import Field

from true_compass.files.model_parts import LongWords, Part, ShortWords, Words
from true_compass.files.model_scenario import ScenarioFile
from true_compass.files.model_v3 import EngineFile
from true_compass.lessons.guide import MOST_STEPS
from true_compass.lessons.lesson import MOST_COUNT, MOST_ENGINES, MOST_PARTS, MOST_SEED

Name = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[\w .-]+$")]
CastWords = Annotated[str, Field(max_length=30)]
KindName = Annotated[str, Field(max_length=40)]


class NotesPart(Part):
    """What the instructor's own window says."""

    say: Words = Field(default="", description="What to say.")
    wait: Words = Field(default="", description="What to wait for.")
    answer: Words = Field(default="", description="The answer.")
    wrong: Words = Field(default="", description="What to do with a wrong answer.")


class StepPart(Part):
    """One step of a guided part."""

    say: Words = Field(description="Its sentence; {a} is a cylinder of the cast.")
    at: ShortWords = Field(default="", description="Where the crank goes, such as compression a.")
    look: Annotated[str, Field(pattern=r"^[a-d]{1,4}$")] = Field(
        default="a", description="Letters of the cylinders that are shown large."
    )
    point: Literal["", "valves", "pistons", "strokes", "crank", "ring", "chips"] = Field(
        default="", description="What is pointed to."
    )
    plate: Words = Field(default="", description="What stands where it points.")
    cover: list[Literal["ring", "arcs", "strokes", "angle", "valves"]] = Field(
        default_factory=list, max_length=5, description="What is hidden until it is answered."
    )
    picture: Literal["crank", "rotor", "lift"] = Field(
        default="crank", description="What stands between the cylinders."
    )
    asks: KindName = Field(default="", description="The drill that it asks.")
    ask: dict[str, Any] = Field(
        default_factory=dict, max_length=12, description="What is asked, in the words of the drill."
    )
    then: Words = Field(default="", description="Its sentence after the answer.")
    care: list[KindName] = Field(
        default_factory=list, max_length=2, description="The cautions that belong to it."
    )
    holds: list[Words] = Field(
        default_factory=list,
        max_length=6,
        description="What its sentences say of valves: an engine where it is not so is refused.",
    )
    notes: NotesPart = Field(default_factory=NotesPart)


class LessonPart(Part):
    """One part: guided, a drill, or a covered engine."""

    kind: Literal["guided", "drill", "covered"] = Field(description="What kind of part.")
    title: Words = Field(default="", description="Its name.")
    engine: Name | None = Field(default=None, description="The engine of a guided part.")
    cast: list[CastWords] = Field(
        default_factory=list, max_length=4, description="Who the letters a to d are."
    )
    step: list[StepPart] = Field(
        default_factory=list, max_length=MOST_STEPS, description="The steps of a guided part."
    )
    kinds: list[KindName] = Field(
        default_factory=list, max_length=40, description="The drills, asked in turn."
    )
    engines: list[Name] = Field(
        default_factory=list, max_length=MOST_ENGINES, description="The engines, in turn."
    )
    count: int = Field(default=10, ge=1, le=MOST_COUNT, description="How many questions.")
    hints: bool = Field(default=True, description="Whether hints may be asked for.")
    strokes: bool = Field(default=True, description="Whether the strokes are shown.")
    shipped: ShortWords = Field(default="", description="A scenario that ships.")
    scenario: ScenarioFile | None = Field(default=None, description="A full copy of a scenario.")


class LessonEnginePart(Part):
    """An engine of the lesson."""

    name: Name = Field(description="What it is called in this lesson.")
    rig: ShortWords = Field(default="", description="Short name of a demo rig.")
    copy_of: EngineFile | None = Field(
        default=None, alias="copy", description="A full copy of the engine."
    )


class SettingsPart(Part):
    """How it is given."""

    passed: int = Field(default=0, ge=0, le=MOST_COUNT * MOST_PARTS, description="Marks to pass.")
    minutes: int = Field(default=0, ge=0, le=600, description="Minutes; 0 is no limit.")
    same: bool = Field(default=False, description="Whether all get the same questions.")
    seed: int = Field(default=1, ge=0, le=MOST_SEED, description="Fixes the questions.")
    mixed: bool = Field(
        default=False, description="Whether each gets the engines in an order of their own."
    )


class LessonFile(Part):
    """A whole lesson file, version 1."""

    format: Literal["true-compass-lesson"] = Field(description="Says what kind of file this is.")
    version: Literal[1] = Field(description="Version of the format.")
    id: Annotated[str, Field(max_length=60, pattern=r"^[a-z0-9-]+$")] = Field(
        description="A word or a UUID of its own; copies of a lesson keep it."
    )
    title: Words = Field(description="Its name.")
    purpose: Words = Field(default="", description="What it is for.")
    note: LongWords = Field(default="", description="For the instructor.")
    settings: SettingsPart = Field(default_factory=SettingsPart)
    engine: list[LessonEnginePart] = Field(
        default_factory=list, max_length=MOST_ENGINES, description="Its engines."
    )
    part: list[LessonPart] = Field(
        default_factory=list, max_length=MOST_PARTS, description="Its parts, in order."
    )
