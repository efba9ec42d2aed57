"""Everything that lobes drive, one row an item: lift, margin; and the lash, which is applied here.

Valve lift = max(0, ratio × lobe lift − lash at the valve), in `Drives.lift_mm` and nowhere else.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from true_compass.core.angles import (
    CYCLE_DEG,
    Bools,
    Floats,
    bring_into_cycle,
    over_angles,
    scratch,
    wrap_deg,
)
from true_compass.core.profile import Profile


@dataclass(frozen=True, slots=True)
class Drive:
    """One item and the lobe that drives it.

    `turn_deg` is the crank angle at which the lobe's own cycle begins; `lash_mm` the gap at the
    valve. An item without a lobe (`suction`) follows its profile and cannot be set.
    """

    profile: Profile
    turn_deg: float
    ratio: float = 1.0
    lash_mm: float = 0.0
    suction: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Drives:
    """Several drives, one a row, `V` in all.

    The pieces of all profiles lie one after the other, a cycle apart, so that one search finds the
    piece of every row. `arc_centre_deg` (crank degrees) and `arc_half_deg` are `(K, V)`: the lifted
    arcs of each row, half widths −inf where a row has fewer than K.
    """

    starts_deg: Floats
    coefficients: Floats
    origin_deg: Floats
    span_deg: Floats
    turn_deg: Floats
    ratio: Floats
    lash_mm: Floats
    lobe_peak_mm: Floats
    arc_centre_deg: Floats
    arc_half_deg: Floats
    settable: Bools

    @staticmethod
    def of(drives: Sequence[Drive]) -> "Drives":
        """The table of these drives, in this order."""
        profiles = list({id(drive.profile): drive.profile for drive in drives}.values())
        place = {id(profile): row for row, profile in enumerate(profiles)}
        which = np.array([place[id(drive.profile)] for drive in drives])
        pieces = [_pieces(profile, row * CYCLE_DEG) for row, profile in enumerate(profiles)]
        most = max(len(profile.arcs_deg) for profile in profiles)
        centres, halves = np.zeros((most, len(drives))), np.full((most, len(drives)), -np.inf)
        for row, drive in enumerate(drives):
            for k, (start, end) in enumerate(drive.profile.arcs_deg):
                centres[k, row], halves[k, row] = (start + end) / 2, (end - start) / 2
        first = np.array([profile.at_deg[0] for profile in profiles])[which]
        return Drives(
            starts_deg=np.concatenate([starts for starts, _ in pieces]),
            coefficients=np.concatenate([each for _, each in pieces], axis=1),
            origin_deg=which * CYCLE_DEG,
            span_deg=np.array([profile.at_deg[-1] for profile in profiles])[which] - first,
            turn_deg=wrap_deg(np.array([drive.turn_deg for drive in drives]) + first),
            ratio=np.array([drive.ratio for drive in drives]),
            lash_mm=np.array([drive.lash_mm for drive in drives]),
            lobe_peak_mm=np.array([drive.profile.peak_mm for drive in drives]),
            arc_centre_deg=wrap_deg(centres + np.array([drive.turn_deg for drive in drives])),
            arc_half_deg=halves,
            settable=np.array([not drive.suction for drive in drives]),
        )

    def changed(self, lash_mm: Floats, earlier_deg: Floats) -> "Drives":
        """The same drives with another lash at each valve, and lobes that come earlier, `(V,)`."""
        return replace(
            self,
            lash_mm=lash_mm,
            turn_deg=wrap_deg(self.turn_deg - earlier_deg),
            arc_centre_deg=wrap_deg(self.arc_centre_deg - earlier_deg),
        )

    def take(self, rows: Sequence[int]) -> "Drives":
        """Some of the rows."""
        pick = np.asarray(rows, dtype=np.intp)
        return replace(
            self,
            **{name: getattr(self, name)[..., pick] for name in _PER_ROW},
        )

    def alike(self) -> list[list[int]]:
        """Rows in groups that share lobe, ratio and lash, and differ only in when they come."""
        groups: dict[tuple[float, ...], list[int]] = {}
        for row in range(len(self.turn_deg)):
            key = (self.origin_deg[row], self.ratio[row], self.lash_mm[row])
            groups.setdefault(key, []).append(row)
        return list(groups.values())

    def free_arcs_deg(self, row: int) -> list[tuple[float, float]]:
        """Start (crank angle) and length of each free arc of an item, the arc after TDC last."""
        arcs = zip(self.arc_centre_deg[:, row], self.arc_half_deg[:, row], strict=True)
        lifted = sorted(
            (float((centre - half) % CYCLE_DEG), float(2 * half))
            for centre, half in arcs
            if half > 0
        )
        following = [start for start, _ in lifted[1:]] + [lifted[0][0] + CYCLE_DEG]
        return [
            (wrap_deg(start + length), after - start - length)
            for (start, length), after in zip(lifted, following, strict=True)
        ]

    @property
    def peak_lift_mm(self) -> Floats:
        """Greatest lift of each valve, `(V,)`; 0 for one that the lash keeps shut."""
        return np.maximum(self.ratio * self.lobe_peak_mm - self.lash_mm, 0.0)

    def lobe_mm(self, crank_deg: Floats) -> Floats:
        """Lift of each lobe, never negative, `(V,)` or `(V, N)`."""
        moving, lobe = self._moving(crank_deg)
        lift = np.zeros(moving.shape)
        lift[moving] = lobe
        return lift

    def lift_mm(self, crank_deg: Floats) -> Floats:
        """Lift of each valve off its seat, `(V,)` or `(V, N)`."""
        moving, lobe = self._moving(crank_deg)
        each = moving.astype(np.intp) if moving.ndim == 1 else np.count_nonzero(moving, axis=1)
        lobe *= np.repeat(self.ratio, each)
        lobe -= np.repeat(self.lash_mm, each)
        lift = np.zeros(moving.shape)
        lift[moving] = np.maximum(lobe, 0.0)
        return lift

    def _moving(self, crank_deg: Floats) -> tuple[Bools, Floats]:
        """Which places lie within a lobe's extent, and the lobe's lift at those, row by row."""
        shape = self.turn_deg.shape + crank_deg.shape
        into = scratch("into", shape)
        np.subtract(wrap_deg(crank_deg), over_angles(self.turn_deg, crank_deg), out=into)
        bring_into_cycle(into)
        # Two thirds of a cycle are base circle as a rule: the search is for the rest only.
        moving = into < over_angles(self.span_deg, crank_deg)
        into += over_angles(self.origin_deg, crank_deg)
        place = into[moving]
        piece = np.searchsorted(self.starts_deg, place, side="right") - 1
        place -= self.starts_deg[piece]
        lobe = self.coefficients[5][piece]
        for power in (4, 3, 2, 1, 0):
            lobe *= place
            lobe += self.coefficients[power][piece]
        return moving, np.maximum(lobe, 0.0)

    def margin_deg(self, crank_deg: Floats) -> Floats:
        """Crank degrees to the nearer end of the free arc that each item stands in.

        Negative off it: how far it is to the nearer free arc. NaN for what cannot be set.
        """
        crank_deg = wrap_deg(crank_deg)
        nearest: Floats | None = None
        for centre, half in zip(self.arc_centre_deg, self.arc_half_deg, strict=True):
            # On the circle the way is half a cycle less how far it is from the far side.
            away = np.asarray(crank_deg - over_angles(centre, crank_deg))
            np.abs(away, out=away)
            away -= CYCLE_DEG / 2
            np.abs(away, out=away)
            np.subtract(over_angles(CYCLE_DEG / 2 - half, crank_deg), away, out=away)
            nearest = away if nearest is None else np.minimum(nearest, away)
        assert nearest is not None
        if not self.settable.all():
            nearest[~self.settable] = np.nan
        return nearest


_PER_ROW: Final = (
    "origin_deg",
    "span_deg",
    "turn_deg",
    "ratio",
    "lash_mm",
    "lobe_peak_mm",
    "arc_centre_deg",
    "arc_half_deg",
    "settable",
)


def _pieces(profile: Profile, origin_deg: float) -> tuple[Floats, Floats]:
    """Starts `(P,)` and coefficients `(6, P)` of a profile's quintics."""
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
    return profile.at_deg[:-1] - profile.at_deg[0] + origin_deg, np.array(coefficients)
