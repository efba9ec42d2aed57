"""The lift of one lobe over its cycle, as pieces of quintics."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from true_compass.core.angles import CYCLE_DEG, Floats, scratch
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


BINS_PER_DEG: Final = 2
"""A power of two, so that an angle times this is exact."""


@dataclass(frozen=True, slots=True, eq=False)
class Pieces:
    """The pieces of several profiles, one after the other and a cycle apart, to look lifts up in.

    Each profile begins at a whole cycle, the first at 0. `starts_deg` are `(P,)`, `coefficients`
    `(6, P)` from the constant up. A table finds a piece more quickly than a search: `first_in_bin`
    has the piece at the beginning of every half degree, `most_in_bin` is how many can begin in one.
    """

    starts_deg: Floats
    coefficients: Floats
    first_in_bin: NDArray[np.intp]
    next_deg: Floats
    most_in_bin: int

    @staticmethod
    def of(profiles: Sequence[Profile]) -> "Pieces":
        """The pieces of these profiles, in this order."""
        each = [_quintics(profile) for profile in profiles]
        starts = np.concatenate([begin + row * CYCLE_DEG for row, (begin, _) in enumerate(each)])
        bins = np.arange(len(profiles) * int(CYCLE_DEG) * BINS_PER_DEG)
        return Pieces(
            starts_deg=starts,
            coefficients=np.concatenate([own for _, own in each], axis=1),
            first_in_bin=np.searchsorted(starts, bins / BINS_PER_DEG, side="right") - 1,
            next_deg=np.append(starts[1:], np.inf),
            most_in_bin=int(np.bincount((starts * BINS_PER_DEG).astype(np.intp)).max()),
        )

    def lift_mm(self, at_deg: Floats) -> Floats:
        """Lift at places within the pieces, `(N,)`; uses `at_deg` up."""
        room = scratch("of_piece", at_deg.shape)
        piece = self.first_in_bin.take((at_deg * BINS_PER_DEG).astype(np.intp))
        for _ in range(self.most_in_bin):
            piece += at_deg >= np.take(self.next_deg, piece, out=room, mode="clip")
        at_deg -= np.take(self.starts_deg, piece, out=room, mode="clip")
        lift = self.coefficients[5].take(piece)
        for power in (4, 3, 2, 1, 0):
            lift *= at_deg
            lift += np.take(self.coefficients[power], piece, out=room, mode="clip")
        return np.asarray(lift)


def _quintics(profile: Profile) -> tuple[Floats, Floats]:
    """Starts `(P,)` from 0 on and coefficients `(6, P)` of a profile's quintics."""
    step = np.diff(profile.at_deg)
    (y0, v0, a0), (y1, v1, a1) = profile.motion[:, :-1], profile.motion[:, 1:]
    rest = y1 - y0 - v0 * step - a0 * step**2 / 2
    slope, bend = v1 - v0 - a0 * step, a1 - a0
    coefficients = (
        y0,
        v0,
        a0 / 2,
        (10 * rest - 4 * slope * step + bend * step**2 / 2) / step**3,
        (-15 * rest + 7 * slope * step - bend * step**2) / step**4,
        (6 * rest - 3 * slope * step + bend * step**2 / 2) / step**5,
    )
    return profile.at_deg[:-1] - profile.at_deg[0], np.array(coefficients)
