"""Tables of an engine file about moving a camshaft, and about valves coming near pistons."""

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from true_compass.core.valves.timing_set import MOST_HOLES, MOST_OFFSETS, parse_offset
from true_compass.files.defaults import DRIVE_DEFAULTS
from true_compass.files.model_parts import Part, ShortWords, number


def _offset(text: str) -> str:
    parse_offset("offset", text)
    return text


OffsetText = Annotated[ShortWords, Field(min_length=3)]


class DrivePart(Part):
    """How one camshaft can be moved against the crank."""

    bank: ShortWords = Field(default="", description="The bank; empty: every bank.")
    shaft: Literal["", "intake", "exhaust"] = Field(
        default="", description="The camshaft, where a bank has two; empty: both."
    )
    teeth: int = Field(
        default=0, ge=0, le=200, description="Teeth of the cam's gear, 8 or more; 0: none moved."
    )
    crank_teeth: int = Field(default=0, ge=0, le=100, description="Teeth of the crank's gear.")
    idlers: int = Field(default=0, ge=0, le=6, description="Idler gears between them.")
    holes: list[Annotated[int, Field(ge=2, le=MOST_HOLES)]] = Field(
        default_factory=list,
        max_length=2,
        description="Holes of the two circles that can be set against each other.",
    )
    hole_deg: float = number(
        "hole_deg", "Degrees a hole, where a book gives those.", default=DRIVE_DEFAULTS["hole_deg"]
    )
    hole_degrees_of: Literal["crank", "cam"] = Field(
        default="crank", description="Which degrees those are."
    )
    keys: list[OffsetText] = Field(
        default_factory=list,
        max_length=MOST_OFFSETS,
        description="Offset keys: mm @ radius in mm, such as 0.7@19, with :cam on the camshaft.",
    )
    bushes: list[OffsetText] = Field(
        default_factory=list,
        max_length=MOST_OFFSETS,
        description="Offset bushes: mm @ radius in mm, such as 0.3@24.",
    )
    reach_deg: float = number(
        "reach_deg",
        "How far slots or a vernier go either way, crank degrees.",
        default=DRIVE_DEFAULTS["reach_deg"],
    )
    vernier: bool = Field(default=False, description="Whether that is a vernier with a scale.")

    _offsets = field_validator("keys", "bushes")(lambda texts: [_offset(text) for text in texts])

    @field_validator("holes")
    @classmethod
    def _two_circles(cls, holes: list[int]) -> list[int]:
        if len(holes) == 1:
            raise ValueError("must name two circles, such as [15, 16]")
        return holes


def _size(field: str, description: str) -> Any:
    return number(f"chamber_{field}", description, default=None)


def _room(kind: str) -> dict[str, Any]:
    return {
        "pocket_mm": _size("pocket_mm", f"Depth of the {kind} valve's pocket in the piston."),
        "recess_mm": _size(
            "recess_mm", f"How far the shut {kind} valve stands back from the head's face."
        ),
        "angle_deg": _size("angle_deg", f"Lean of the {kind} valve's stem from the cylinder."),
        "head_mm": _size("head_mm", f"Diameter of the {kind} valve's head."),
        "drop_mm": _size(
            "drop_mm", f"Gap along the {kind} stem at TDC with the valve shut, as measured."
        ),
        "least_mm": _size("least_mm", f"Gap to the piston that the {kind} valve must keep."),
    }


_INTAKE, _EXHAUST = _room("intake"), _room("exhaust")


class ChamberPart(Part):
    """What stands between valves and piston at TDC. What is left out is not known."""

    deck_mm: float | None = _size(
        "deck_mm", "How far the crown stands below the block's face at TDC."
    )
    gasket_mm: float | None = _size("gasket_mm", "Head gasket, pressed down.")
    between_mm: float | None = _size("between_mm", "From centre to centre of the shut heads.")
    least_between_mm: float | None = _size("least_between_mm", "Gap that the two heads must keep.")
    intake_pocket_mm: float | None = _INTAKE["pocket_mm"]
    intake_recess_mm: float | None = _INTAKE["recess_mm"]
    intake_angle_deg: float | None = _INTAKE["angle_deg"]
    intake_head_mm: float | None = _INTAKE["head_mm"]
    intake_drop_mm: float | None = _INTAKE["drop_mm"]
    intake_least_mm: float | None = _INTAKE["least_mm"]
    exhaust_pocket_mm: float | None = _EXHAUST["pocket_mm"]
    exhaust_recess_mm: float | None = _EXHAUST["recess_mm"]
    exhaust_angle_deg: float | None = _EXHAUST["angle_deg"]
    exhaust_head_mm: float | None = _EXHAUST["head_mm"]
    exhaust_drop_mm: float | None = _EXHAUST["drop_mm"]
    exhaust_least_mm: float | None = _EXHAUST["least_mm"]
