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
from true_compass.core.valves.profile import Pieces, Profile


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

    `origin_deg` is where the profile of each row begins in `pieces`. `arc_centre_deg` (crank
    degrees) and `arc_half_deg` are `(K, V)`: the lifted arcs of each row, half widths −inf where a
    row has fewer than K.
    """

    pieces: Pieces
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
        most = max(len(profile.arcs_deg) for profile in profiles)
        centres, halves = np.zeros((most, len(drives))), np.full((most, len(drives)), -np.inf)
        for row, drive in enumerate(drives):
            for k, (start, end) in enumerate(drive.profile.arcs_deg):
                centres[k, row], halves[k, row] = (start + end) / 2, (end - start) / 2
        first = np.array([profile.at_deg[0] for profile in profiles])[which]
        return Drives(
            pieces=Pieces.of(profiles),
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
        lift[moving] = np.maximum(lobe, 0.0, out=lobe)
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
        lobe = self.pieces.lift_mm(into[moving])
        return moving, np.maximum(lobe, 0.0, out=lobe)

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
