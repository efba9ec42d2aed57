"""The usual cautions, in one wording for every screen and every sheet (common practice, no source).

They are reminders. The maker's manual, local rules and qualified people come first.
"""

from enum import Enum
from typing import Final


class Caution(Enum):
    """One caution; its value is the slug that files hold."""

    NO_START = "no-start"
    NEUTRAL = "neutral"
    BAR = "bar"
    BASE_CIRCLE = "base-circle"
    PLUG_HOLE = "plug-hole"
    BUMP = "bump"
    TOOL_OUT = "tool-out"
    TWO_TURNS = "two-turns"
    CLEARANCE = "clearance"
    RUNNING = "running"
    MANUAL = "manual"

    @property
    def words(self) -> str:
        """The caution as a sentence or two, with its reason."""
        return _WORDS[self]


RUNNING: Final = "Running: hands, sleeves, lamp lead clear of belts and fan; exhaust led outside."
_WORDS: Final = {
    Caution.NO_START: (
        "Battery earth off, plugs or injector lines out, keys away: it must not be able to start."
    ),
    Caution.NEUTRAL: (
        "Gearbox in neutral, wheels chocked, PTO out: a turned crank moves the machine."
    ),
    Caution.BAR: (
        "Bar by hand in the running direction. Too far? Go back well past and come up again."
    ),
    Caution.BASE_CIRCLE: (
        "Adjust a valve only while its tappet is on the base circle; elsewhere it may bend a valve."
    ),
    Caution.PLUG_HOLE: (
        "Thumb over a plug hole, never in it, and never at a diesel’s injector hole: it injures."
    ),
    Caution.BUMP: (
        "Before the starter is bumped: ignition coil off, fuel shut, hands and tools clear."
    ),
    Caution.TOOL_OUT: (
        "Flywheel pin and turning tool out before the starter turns it: they are thrown."
    ),
    Caution.TWO_TURNS: (
        "Bar two whole turns by hand afterwards. It stops? Find out why: a valve may meet a piston."
    ),
    Caution.CLEARANCE: (
        "With cams moved, check valve to piston before turning: it may bend valves."
    ),
    Caution.RUNNING: RUNNING,
    Caution.MANUAL: "The maker's manual and local rules come first.",
}
CARE: Final = tuple(
    caution.words
    for caution in (Caution.NO_START, Caution.BAR, Caution.BASE_CIRCLE, Caution.MANUAL)
)

IN_SHORT: Final = "Plugs out, keys away, bar by hand. The maker's manual comes first."
RUNNING_IN_SHORT: Final = "Running: clear of belts and fan; exhaust led outside."
ON_PAPER: Final = "Angles of this engine and this cam. The maker's manual comes first."
BELOW_A_TABLE: Final = "The maker's manual comes before this table."
