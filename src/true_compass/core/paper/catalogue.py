"""Every sheet that can be printed: its word on the command line, its name, what it is for."""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class SheetKind:
    """A kind of sheet. `to_scale`: it is true to scale and takes any size of paper."""

    word: str
    name: str
    what: str
    to_scale: bool = True
    needs_engine: bool = True


WHEEL: Final = SheetKind("wheel", "Degree wheel", "round the crank's nose, to be cut out")
TAPE: Final = SheetKind("tape", "Damper tape", "round the damper, in pieces to be joined")
FLYWHEEL: Final = SheetKind("flywheel", "Flywheel strip", "round the flywheel, a tick a tooth")
KEYWAY: Final = SheetKind("keyway", "Keyway square", "holds the crank's key square to the split")
BLADES: Final = SheetKind(
    "blades", "Feeler pairs", "which blades make which gap, in mm and in thou", False
)
CAM_CARD: Final = SheetKind("cam-card", "Cam card", "events, centrelines, lift and lash", False)
LAP: Final = SheetKind("lap", "Lap diagram", "one cylinder over its 720°", False)
POCKET: Final = SheetKind(
    "pocket", "Pocket card", "thou and mm, and how a blade feels", needs_engine=False
)
CAP: Final = SheetKind("cap-map", "Cap map", "which lead goes from which post to which plug", False)
JOB: Final = SheetKind("job", "Job sheet", "a blank job, to be filled in at the engine", False)
PROOF: Final = SheetKind(
    "proof", "Proof", "what the printer makes of 100 mm; print it first", needs_engine=False
)
SHEETS: Final = (
    PROOF,
    WHEEL,
    TAPE,
    FLYWHEEL,
    KEYWAY,
    BLADES,
    CAM_CARD,
    LAP,
    POCKET,
    CAP,
    JOB,
)
BY_WORD: Final = {kind.word: kind for kind in SHEETS}
ELSEWHERE: Final = (
    ("card", "the shop card of a plan"),
    ("worksheet", "a lesson's drills, with their key"),
    ("draw", "ring, diagram and chart as pictures"),
)
"""Sheets that have a command of their own."""
