"""How a person can know that the crank stands at a place, and what can fool them.

The signs are common practice (no source). Only those that work on this engine are told.
"""

import math
from dataclasses import dataclass

import numpy as np

from true_compass.core.angles import TURN_DEG, signed_difference_deg
from true_compass.core.phasing import companion_of
from true_compass.core.state import Rig, engine_state

AT_DEG = 0.5


@dataclass(frozen=True, slots=True)
class Sign:
    """One thing to look at, and what can fool whoever looks."""

    look: str
    fooled_by: str = ""


def signs_at(rig: Rig, crank_deg: float) -> list[Sign]:
    """Every sign that this engine gives at a crank angle, the surest first."""
    engine = rig.engine
    state = engine_state(rig, crank_deg)
    signs: list[Sign] = []
    firing = [c for c in engine.cylinders if state.at_compression_tdc[c - 1]]
    rocking = [c for c in engine.cylinders if state.at_overlap_tdc[c - 1]]
    for cylinder in firing:
        other = companion_of(engine, cylinder)
        if other in rocking and other is not None:
            signs.append(
                Sign(
                    f"the valves of {other} rock: its exhaust closes, its intake opens",
                    "cams with little overlap",
                )
            )
    for mark in engine.marks:
        away = float(signed_difference_deg(np.array(crank_deg), np.array(mark.angle_deg)))
        turns = (away + TURN_DEG / 2) % TURN_DEG - TURN_DEG / 2
        if abs(turns) <= AT_DEG:
            stamp = f" ({mark.stamped})" if mark.stamped else ""
            fooled = "a mark passes twice a cycle"
            if mark.can_creep:
                fooled += "; this one can creep"
            signs.append(Sign(f"the mark on the {mark.where}{stamp} is in line", fooled))
    for cylinder in firing:
        signs.append(
            Sign(
                f"both rockers of {cylinder} are loose, and its rotor post is due",
                "a rocker set too tight; a distributor one turn out",
            )
        )
        if cylinder == engine.dots_fire:
            signs.append(Sign("the gear dots meet", "a tooth out, or dots that mean another TDC"))
    if not firing:
        signs += [
            Sign(f"the valves of {cylinder} rock: overlap TDC", "cams with little overlap")
            for cylinder in rocking
        ]
    if not firing and not rocking:
        signs += _moving_signs(rig, crank_deg)
    return signs


def _moving_signs(rig: Rig, crank_deg: float) -> list[Sign]:
    """Between dead centres: what just opens or closes, or stands fully open, near by."""
    lobes, names = rig.lobes, [valve.name for valve in rig.engine.valves]
    before, here, after = lobes.lift_mm(np.array([crank_deg - 3.0, crank_deg, crank_deg + 3.0])).T
    signs = []
    for row, name in enumerate(names):
        if before[row] <= 0 < after[row]:
            signs.append(Sign(f"{name} just opens", "slack: turn in the running direction"))
        elif after[row] <= 0 < before[row]:
            signs.append(Sign(f"{name} has just closed", "slack: turn in the running direction"))
        elif here[row] >= max(before[row], after[row]) > 0:
            signs.append(Sign(f"{name} stands fully open", "the nose is flat: ± 15° by eye"))
    return signs


def rim_words(rig: Rig, turn_deg: float) -> str:
    """A turn of the crank as millimetres along the damper and teeth of the ring gear; or nothing.

    πD/360 a degree, and teeth × degrees / 360 (arithmetic).
    """
    engine, parts = rig.engine, []
    if engine.damper_mm:
        parts.append(f"{math.pi * engine.damper_mm * turn_deg / TURN_DEG:.0f} mm on the damper")
    if engine.ring_gear_teeth:
        parts.append(f"{engine.ring_gear_teeth * turn_deg / TURN_DEG:.4g} teeth")
    return ", ".join(parts)


def there_words(rig: Rig, crank_deg: float) -> str:
    """One line that tells how to know the place; a degree scale where nothing else does."""
    signs = signs_at(rig, crank_deg)
    if not signs:
        return f"Only a degree scale shows {crank_deg:g}°: chalk it from TDC."
    first = signs[0].look
    return f"{first[0].upper()}{first[1:]}."


CARE = (
    "Battery earth off, plugs or injector lines out, keys away: it must not be able to start.",
    "Bar by hand in the running direction. Too far? Go back well past and come up again.",
    "Set nothing off its base circle: it bends valves.",
    "The maker's manual and local rules come first.",
)
"""The usual cautions in short (common practice, no source)."""
