"""What a measured gap asks for: a turn of the screw, another shim, or to stop and find out."""

from typing import Final

import numpy as np

from true_compass.core.adjusting.screws import AS_SET_MM, gap_per_turn_mm, shim_share
from true_compass.core.adjusting.tasks import Task, task_for
from true_compass.core.items import ExtraKind, Item, Kind
from true_compass.core.state import Rig
from true_compass.core.units import band_words, gap_words
from true_compass.core.valves.train import Adjuster, LashAt, Train

ZERO_MM: Final = 0.005


def screw_words(train: Train, kind: Kind, measured_mm: float, task: Task) -> str:
    """What to do about a measured gap of an item on its base circle: how far, which way."""
    target_mm, unit = task.target_mm or 0.0, task.unit
    off_mm = measured_mm - target_mm
    if task.band_mm is not None and (
        task.band_mm[0] - 1e-9 <= measured_mm <= task.band_mm[1] + 1e-9
    ):
        return f"In the accepted band, {band_words(task.band_mm, unit)}: leave it, write it down."
    if abs(off_mm) < AS_SET_MM:
        return "As it should be: leave it, and write down that it was good."
    wide = off_mm > 0
    if train.adjuster is Adjuster.SHIM and task.item.is_valve:
        change_mm = off_mm * shim_share(train, kind)
        size = f"{abs(change_mm):.2f} mm"
        return f"Take a shim {size} thicker." if wide else f"Take a shim {size} thinner."
    per_turn = gap_per_turn_mm(train, kind)
    if per_turn is None or not task.item.is_valve:
        off = gap_words(abs(off_mm), unit)
        return f"{off} too wide." if wide else f"{off} too tight."
    # Per turn is at the valve; where the gap is measured elsewhere it grows on its way there.
    if train.lash_at in (LashAt.ROD_END, LashAt.CAM):
        off_mm *= train.ratio(kind)
    degrees = abs(off_mm) / per_turn * 360.0
    if wide:
        return f"Turn the adjuster {degrees:.0f}° tighter, then measure again."
    return f"Turn the adjuster {degrees:.0f}° looser, then measure again."


OTHER_STROKE: Final = "other stroke, or a pinched rocker. Stop and find out."


def gap_advice(rig: Rig, item: Item, crank_deg: float, measured_mm: float) -> str:
    """What a measured gap asks for where the crank stands.

    Off the base circle, and within a ramp, a screw is never touched. A gap of nothing where there
    ought to be one says so first.
    """
    task = task_for(rig.engine, item)
    where = standing(rig, item, crank_deg)
    if where:
        if measured_mm <= ZERO_MM:
            return f"Tight here is not too tight. {where}: {OTHER_STROKE}"
        return f"Touch no screw here. {where}: turn to where it is free, and measure there."
    kind = item.rocker.kind
    assert isinstance(kind, Kind)
    words = screw_words(rig.engine.train, kind, measured_mm, task)
    if measured_mm <= ZERO_MM and (task.target_mm or 0.0) > ZERO_MM:
        return f"Tight here is not too tight. {item.name} ought to be loose: {OTHER_STROKE}"
    return words


def standing(rig: Rig, item: Item, crank_deg: float) -> str:
    """`I1 is open` or `I1 is on its ramp` where an item is not free; else nothing."""
    here = np.array([crank_deg])
    row = rig.items.index(item)
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
