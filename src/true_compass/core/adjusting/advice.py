"""Where an item stands on its lobe, and why no screw is touched there."""

from typing import Final

import numpy as np

from true_compass.core.adjusting.tasks import task_for
from true_compass.core.items import ExtraKind, Item, Kind
from true_compass.core.state import Rig

ZERO_MM: Final = 0.005


OTHER_STROKE: Final = "other stroke, or a pinched rocker. Stop and find out."


def warning(rig: Rig, item: Item, crank_deg: float, measured_mm: float | None) -> str:
    """Why no screw is touched here: off the base circle, on a ramp, or tight where it ought to be
    loose; nothing where a reading may be acted on.

    `crank_deg` is [0, 720). `measured_mm` is the gap that was read, None where none was.
    """
    tight = measured_mm is not None and measured_mm <= ZERO_MM
    where = standing(rig, item, crank_deg)
    if where:
        if tight:
            return f"Tight here is not too tight. {where}: {OTHER_STROKE}"
        return f"Touch no screw here. {where}: turn to where it is free, and measure there."
    if tight and (task_for(rig.engine, item).target_mm or 0.0) > ZERO_MM:
        return f"Tight here is not too tight. {item.name} ought to be loose: {OTHER_STROKE}"
    return ""


def standing(rig: Rig, item: Item, crank_deg: float) -> str:
    """`I1 is open` or `I1 is on its ramp` where an item is not free; else nothing."""
    here = np.array([crank_deg])
    row = rig.row_of[item.whole]
    if rig.item_margins_deg(here)[row, 0] >= 0:
        return ""
    valve = item.rocker
    lifted = False
    if isinstance(valve.kind, Kind):
        at = rig.engine.valve_row(valve.cylinder, valve.kind)
        lifted = bool(rig.lobes.lift_mm(here)[at, 0] > 0)
    if item.kind is ExtraKind.BRAKE and not lifted:
        return f"{item.name} stands on its lobe"
    if item.kind is ExtraKind.INJECTOR:
        return f"{item.name} stands on its lobe"
    return f"{valve.name} is open" if lifted else f"{valve.name} is on its ramp"
