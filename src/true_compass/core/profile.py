"""The lift of one lobe over its cycle, as pieces of quintics."""

from dataclasses import dataclass

import numpy as np

from true_compass.core.angles import CYCLE_DEG, Floats
from true_compass.core.limits import EngineError


@dataclass(frozen=True, slots=True, eq=False)
class Profile:
    """Lift of one lobe in its own cycle (0 = its cylinder's compression TDC), before the ratio.

    `at_deg` rise over less than a cycle and may begin below 0; `motion` has a row each for lift
    (mm), velocity (mm/°) and acceleration (mm/°²) there. Outside them the tappet rests. `arcs_deg`
    are the stretches in which it does not, ramps included.
    """

    at_deg: Floats
    motion: Floats
    arcs_deg: tuple[tuple[float, float], ...]

    @property
    def peak_mm(self) -> float:
        """Greatest lift."""
        return float(self.motion[0].max())


def joined(first: Profile, second: Profile) -> Profile:
    """Two lobes on one base circle. Raises `EngineError` when they run into each other."""
    (start, end), (other_start, other_end) = first.arcs_deg[0], second.arcs_deg[0]
    turns = np.ceil((end - other_start) / CYCLE_DEG) * CYCLE_DEG
    if other_end + turns > start + CYCLE_DEG:
        raise EngineError(
            "release", "runs into the exhaust lobe: open it later or close it earlier"
        )
    return Profile(
        np.concatenate((first.at_deg, second.at_deg + turns)),
        np.concatenate((first.motion, second.motion), axis=1),
        (*first.arcs_deg, (other_start + turns, other_end + turns)),
    )
