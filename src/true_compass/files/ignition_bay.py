"""How an ignition stands, as plain values: what is kept while it is worked at.

What comes back is checked by the strict shape of the bay itself; what makes no sense is None.
"""

import math
from typing import Any, Final

from true_compass.core.angles import TURN_DEG
from true_compass.core.ignition.bay import Bay
from true_compass.core.ignition.leads import is_wiring
from true_compass.core.limits import LIMITS, MOST_CYLINDERS
from true_compass.files.kept_values import plain, value_from

VERSION: Final = 1
MOST_ROWS: Final = 200


def bay_values(bay: Bay) -> dict[str, Any]:
    """A bay as values for a JSON file."""
    return {"version": VERSION, "bay": plain(bay)}


def bay_from(values: Any) -> Bay | None:
    """The bay of such values, or None for what is none."""
    if not isinstance(values, dict) or values.get("version") != VERSION:
        return None
    told = value_from(Bay, values.get("bay"))
    return told if told is not None and _can_be(told) else None


def _can_be(bay: Bay) -> bool:
    """Whether figures and numbers lie where they were taken in."""
    fitted, faults = bay.fitted, bay.faults
    angles = [one.rotor_deg for one in bay.seen] + [one.read for one in bay.readings]
    angles += [faults.off_deg, faults.crept_deg]
    numbers = [one.cylinder for one in bay.seen]
    if fitted is not None:
        angles.append(fitted.body_deg)
        numbers.append(fitted.post_1)
    asked = [one.asked for one in bay.readings]
    return (
        len(bay.readings) <= MOST_ROWS
        and len(bay.seen) <= MOST_CYLINDERS
        and all(math.isfinite(angle) and abs(angle) <= TURN_DEG for angle in angles)
        and all(1 <= number <= MOST_CYLINDERS for number in numbers)
        and all(0 <= one.speed_rpm <= LIMITS["speed_rpm"][1] for one in asked)
        and all(0 <= one.depression_mbar <= LIMITS["depression_mbar"][1] for one in asked)
        and len(bay.wired) <= MOST_CYLINDERS
        and is_wiring(bay.wired)
    )
