"""The usual cautions, in one wording for every screen and every sheet (common practice, no source).

They are reminders. The maker's manual, local rules and qualified people come first.
"""

from typing import Final

CARE: Final = (
    "Battery earth off, plugs or injector lines out, keys away: it must not be able to start.",
    "Bar by hand in the running direction. Too far? Go back well past and come up again.",
    "Adjust a valve only while its tappet is on the base circle; elsewhere it may bend a valve.",
    "The maker's manual and local rules come first.",
)

IN_SHORT: Final = "Plugs out, keys away, bar by hand. The maker's manual comes first."
RUNNING: Final = "Running: hands, sleeves, lamp lead clear of belts and fan; exhaust led outside."
RUNNING_IN_SHORT: Final = "Running: clear of belts and fan; exhaust led outside."
ON_PAPER: Final = "Angles of this engine and this cam. The maker's manual comes first."
BELOW_A_TABLE: Final = "The maker's manual comes before this table."
