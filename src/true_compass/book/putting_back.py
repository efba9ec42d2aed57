"""What is put back after a job, in this order (common practice): one catalogue for page and paper.

A job keeps the `word` of each, and files hold it; how it is said may change, the word never does.
"""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class PutBack:
    """One thing to put back or to do last. `on_sheet` is its wording on the job sheet, or nothing
    where the sheet has no box for it.
    """

    word: str
    on_sheet: str = ""


ROLLED_OVER: Final = PutBack("Rolled over by hand, two turns", "Rolled over by hand")
PUT_BACK: Final = (
    PutBack("Pin out, turning tool off", "Pin out, turning tool off"),
    PutBack("Hole plug, plugs or injector lines"),
    PutBack("Gasket and covers", "Plugs, gasket, cover"),
    PutBack("Second look at what was set", "Second look"),
    PutBack("Tools counted", "Tools counted"),
    PutBack("Earth on", "Earth on"),
    ROLLED_OVER,
)
"""The pin and the turning tool come first."""
