"""Engines with one thing wrong under the lamp, read by an eye that scatters by up to a degree."""

import random
from collections.abc import Sequence
from dataclasses import dataclass

from true_compass.core.ignition.lamp import (
    Asked,
    Faults,
    How,
    Reading,
    Suspect,
    suspects_of,
    usual_row,
    would_read_deg,
)
from true_compass.core.spark import Advance
from true_compass.files.rigs import demo_rig, rig_names

EYE_DEG = 1.0
RIGS = [name for name in rig_names() if demo_rig(name).spark.advance.weights]


@dataclass(frozen=True, slots=True)
class LampRun:
    """What is wrong, and the readings that were taken."""

    advance: Advance
    suspect: Suspect
    readings: tuple[Reading, ...]


def lamp_run(chance: random.Random) -> LampRun:
    """One fault of any kind and size, and the first few readings of the usual row or others."""
    advance = demo_rig(chance.choice(RIGS)).spark.advance
    suspect = chance.choice(suspects_of(advance))
    by = chance.choice((-1, 1)) * chance.uniform(2.0, 12.0)
    faults = {
        Suspect.SETTING: Faults(off_deg=by),
        Suspect.WEIGHTS: Faults(weights_stuck=True),
        Suspect.CAN: Faults(can_leaks=True),
        Suspect.HOSE: Faults(hose_off=True),
        Suspect.DAMPER: Faults(crept_deg=by, off_deg=-by if chance.random() < 0.3 else 0.0),
    }[suspect]
    row = list(usual_row(advance))
    for _ in range(chance.randrange(3)):
        # Some read at any speed, with the hose off.
        row.insert(1, Asked(How.LAMP, chance.uniform(500.0, 4000.0), has_hose=bool(advance.can)))
    return LampRun(advance, suspect, seen(chance, advance, faults, row[: chance.randint(1, 9)]))


def seen(
    chance: random.Random, advance: Advance, faults: Faults, row: Sequence[Asked]
) -> tuple[Reading, ...]:
    """What an eye makes of a row of readings; a pump's needle is not read in degrees."""
    return tuple(
        Reading(
            asked,
            would_read_deg(advance, asked, faults)
            + (0.0 if asked.how is How.PUMP else chance.uniform(-EYE_DEG, EYE_DEG)),
        )
        for asked in row
    )
