"""What stands on a worksheet beside the questions, so that each can be answered from it alone."""

from collections.abc import Sequence
from typing import Final

from true_compass.core.angles import CYCLE_DEG
from true_compass.core.events import crossings
from true_compass.core.items import Item, Kind
from true_compass.core.state import Rig
from true_compass.core.valves.cam import SEAT
from true_compass.core.valves.timing import main_lift

ZERO: Final = "0° is cylinder 1 at compression TDC; 720° is one cycle."
FREE: Final = (
    "Free is a tappet on its base circle, off both ramps. Lobes are given in degrees of their own "
    "cylinder’s cycle, from its compression TDC."
)


def order_words(rig: Rig) -> str:
    """Who fires where: the order, and each cylinder's true compression TDC."""
    places = sorted((float(at), c) for c, at in enumerate(rig.true_offsets_deg, start=1))
    told = ", ".join(f"{cylinder} at {at:.4g}°" for at, cylinder in places)
    return f"{rig.engine.name} fires {rig.engine.order_text}. Compression TDC: {told}."


def lobe_words(rig: Rig) -> str:
    """Where the valves of a cylinder open and close, and where each lobe presses, ramps and all."""
    own = float(rig.offsets_deg[0])
    items = [item for item in rig.item_arcs_deg if item.cylinder == 1]
    return " ".join(filter(None, (_item_words(rig, item, own) for item in items)))


def _item_words(rig: Rig, item: Item, own_deg: float) -> str:
    pressed = _pressed(rig.item_arcs_deg[item], own_deg)
    if not pressed:
        return ""
    told = " and ".join(f"{start:.4g}° to {end:.4g}°" for start, end in pressed)
    name = item.name.replace("1", "", 1).strip()
    if not isinstance(item.kind, Kind):
        return f"{name} presses {told}."
    seat = main_lift(crossings(rig.lobes, SEAT)[rig.engine.valve_row(1, item.kind)])
    events = ""
    if seat is not None:
        opens, closes = (_cycle(at, own_deg) for at in seat)
        events = f" opens {opens:.4g}°, closes {closes:.4g}°;"
    return f"{item.kind.value.capitalize()}{events} its lobe presses {told}."


def _cycle(at_deg: float, own_deg: float) -> float:
    return round((at_deg - own_deg) % CYCLE_DEG, 1)


def _pressed(free: Sequence[tuple[float, float]], own_deg: float) -> list[tuple[float, float]]:
    """The arcs between the free ones, as degrees of the cylinder's own cycle, in order."""
    arcs = sorted((start % CYCLE_DEG, length) for start, length in free)
    found = []
    for nth, (start, length) in enumerate(arcs):
        ends = start + length
        after = arcs[(nth + 1) % len(arcs)][0]
        if (after - ends) % CYCLE_DEG > 1e-6:
            found.append((_cycle(ends, own_deg), _cycle(after, own_deg)))
    return sorted(found)
