"""A turn of the crank, as it is chalked: along the damper, and in teeth of the ring gear."""

import math

from true_compass.core.angles import TURN_DEG
from true_compass.core.state import Rig


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
