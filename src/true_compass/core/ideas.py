"""The wrong ideas that people have of an engine, one catalogue: common practice (no source).

Bench, lessons and files name them by their slug; each room that can recognise one says how.
"""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class Idea:
    """One wrong idea: what somebody says who has it, and what the engine shows instead."""

    slug: str
    title: str
    shows: str


IDEAS: Final = tuple(
    Idea(*row)
    for row in (
        (
            "mark-zero-fires",
            "The mark is at zero, so it fires",
            "The mark passes twice a cycle: once the cylinder fires, once its valves overlap.",
        ),
        (
            "both-shut-at-tdc",
            "At TDC both valves are shut",
            "At overlap TDC both are open: the exhaust still closes while the intake opens.",
        ),
        (
            "tight-is-too-tight",
            "Tight rockers are set too tight",
            "On the overlap TDC the lobes press on both. One turn on they have their gap.",
        ),
        (
            "order-against-rotor",
            "The order read against the rotor",
            "The sparks come in the wrong turn, into open valves.",
        ),
        (
            "neighbour-next",
            "The neighbour fires next",
            "Who fires next follows from the crank pins and the cam, not from the numbers.",
        ),
        (
            "together-fire-together",
            "They rise together, so they fire together",
            "One has both valves shut and fires; the valves of the other rock.",
        ),
        (
            "n-plus-1-minus-k",
            "The companion is n + 1 − k",
            "Companions share a pin angle and fire one turn apart, whatever their numbers.",
        ),
        (
            "cam-for-crank",
            "Cam degrees taken for crank degrees",
            "The cam turns once while the crank turns twice: a cam degree is two crank degrees.",
        ),
        (
            "highest-is-tdc",
            "The highest point is TDC",
            "Near TDC the piston hardly moves: the middle of two equal readings is TDC.",
        ),
        (
            "one-table-fits-all",
            "One table fits all fours",
            "Another firing order has another table.",
        ),
        (
            "blade-goes-so-heel",
            "The blade goes, so it is on the base circle",
            "On its quiet ramp a tappet still has play, and less than on the base circle.",
        ),
        (
            "dots-mean-1",
            "Dots together, so 1 fires",
            "The dots say how the gears mesh. Which cylinder fires there the book says.",
        ),
        (
            "intake-lifts-so-exhaust",
            "Intake begins to lift, so its exhaust may be set",
            "The exhaust of that cylinder is still closing when its intake begins to lift.",
        ),
        (
            "half-post-small",
            "Half-way between posts is a small change",
            "The rotor turns half as far as the crank: half a post is a great many degrees.",
        ),
        (
            "bare-25-is-mm",
            "A bare 25 is hundredths of a mm",
            "One thou is 0.0254 mm: 25 thou are 0.64 mm, and 0.25 mm are 9.8 thou.",
        ),
        (
            "dots-prove-timing",
            "Dots in line prove the timing",
            "Dots show the tooth. Where the lobes stand only readings at the lobes tell.",
        ),
    )
)
BY_SLUG: Final = {idea.slug: idea for idea in IDEAS}
