"""Where the piston is at a crank angle: slider-crank, offset pins and bores, articulated rods.

Positions are measured along a cylinder's own axis from the crank's centre, s, and as the fall
from the highest point that the piston really reaches: its **true** TDC. Offsets and link rods move
that off the nominal angle.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from true_compass.core.angles import Floats, over_angles, scratch
from true_compass.core.engine import Engine

MOST_STEPS: Final = 40
SETTLED_DEG: Final = 1e-7


def piston_from_tdc_mm(angle_deg: float | Floats, stroke_mm: float, rod_mm: float) -> Floats:
    """Distance of the piston below its TDC, from 0 to the stroke; shape of `angle_deg`.

    `angle_deg` is the crank angle from that cylinder's TDC (any whole turns more or less). With
    crank radius r and rod l the pin is at s = r cos a + sqrt(l² − r² sin² a) from the crank centre
    (J. B. Heywood, *Internal Combustion Engine Fundamentals*, 1988, eq. 2.5; from memory), and
    this is r + l − s. For cylinders without offsets or link rods.

    >>> round(float(piston_from_tdc_mm(90.0, stroke_mm=80.0, rod_mm=140.0)), 4)
    45.8359
    """
    radius_mm = stroke_mm / 2
    # Both terms as squares of small quantities: subtracting nearly equal lengths near TDC would
    # leave rounding noise, even a hair above TDC. With h = sin²(a/2): 1 − cos a = 2 h and
    # sin² a = 4 h (1 − h).
    half = np.sin(np.asarray(angle_deg, dtype=float) * (np.pi / 360.0))
    half = half * half
    sideways_mm2 = (4 * radius_mm**2) * half * (1.0 - half)
    tilt_mm = sideways_mm2 / (rod_mm + np.sqrt(rod_mm**2 - sideways_mm2))
    return np.asarray(2 * radius_mm * half + tilt_mm)


@dataclass(frozen=True, slots=True, eq=False)
class Linkage:
    """What carries each piston, one row a cylinder.

    `offset_mm`: axis beside the crank's centre, positive towards the side to which the pin moves
    after TDC. For a link rod `hub_mm` is the distance of its knuckle pin from the crank pin,
    `from_master_deg` how far its bank stands on from its master's and `master_offset_mm` its
    master's offset; all are 0 for other rods.
    `rod_mm` is the rod from its own pin; the master's length stands in `master_mm`.
    """

    radius_mm: float
    master_mm: float
    rod_mm: Floats
    offset_mm: Floats
    hub_mm: Floats
    from_master_deg: Floats
    master_offset_mm: Floats

    @staticmethod
    def of(engine: Engine) -> "Linkage":
        """The linkage of an engine."""
        layout = engine.layout
        count = layout.cylinder_count
        aside = engine.offsets_mm
        hub, from_master, master_aside = np.zeros(count), np.zeros(count), np.zeros(count)
        rods = layout.articulated
        if rods is not None:
            for row, seat in enumerate(layout.seats):
                master = rods.masters[seat.throw]
                if row + 1 != master:
                    hub[row] = rods.hub_mm
                    from_master[row] = layout.bank_deg[row] - layout.bank_deg[master - 1]
                    master_aside[row] = aside[master - 1]
        return Linkage(
            radius_mm=engine.stroke_mm / 2,
            master_mm=engine.rod_mm,
            rod_mm=engine.rod_mm - hub,
            offset_mm=aside,
            hub_mm=hub,
            from_master_deg=from_master,
            master_offset_mm=master_aside,
        )

    @property
    def plain(self) -> bool:
        """Whether nothing moves a dead centre off its nominal angle."""
        return not (np.any(self.offset_mm) or np.any(self.hub_mm))


def piston_height_mm(linkage: Linkage, angle_deg: Floats) -> Floats:
    """Distance s of each gudgeon pin from the crank's centre along its axis.

    `angle_deg` is the crank angle from each cylinder's nominal TDC, shape `(C,)` or `(C, N)`; so is
    the result. With offset e: s = r cos a + sqrt(l² − (r sin a − e)²). A link rod hangs on a
    knuckle pin that the master rod carries about: with the master's tilt t from its own axis the
    knuckle is at r cos a + ρ cos t along, and r sin a + ρ sin t beside the link's axis.
    """
    rows = {
        name: over_angles(getattr(linkage, name), angle_deg[0])
        for name in ("rod_mm", "offset_mm", "hub_mm")
    }
    angle = np.radians(angle_deg)
    radius = linkage.radius_mm
    along, beside = radius * np.cos(angle), radius * np.sin(angle) - rows["offset_mm"]
    if np.any(linkage.hub_mm):
        tilt_sin = master_tilt_sin(linkage, angle_deg)
        along = along + rows["hub_mm"] * np.sqrt(1 - tilt_sin**2)
        beside = beside + rows["hub_mm"] * tilt_sin
    return np.asarray(along + np.sqrt(rows["rod_mm"] ** 2 - beside**2))


@dataclass(frozen=True, slots=True, eq=False)
class Turning:
    """A linkage with each cylinder's nominal offset, made ready to be turned to many angles.

    Sine and cosine of the crank are taken once for all cylinders, by the sums of angles; a master
    rod once for each way that one stands with each hub (`which` tells whose). Pairs are sine and
    cosine.
    """

    linkage: Linkage
    own: tuple[Floats, Floats]
    masters: tuple[Floats, Floats]
    masters_aside_mm: Floats
    hubs_mm: Floats
    which: NDArray[np.intp]

    @staticmethod
    def of(linkage: Linkage, offsets_deg: Floats) -> "Turning":
        """Work out what does not change while the crank turns."""
        stands = np.round((offsets_deg - linkage.from_master_deg) % 360.0, 9) % 360.0
        ways, which = np.unique(
            np.column_stack((stands, linkage.master_offset_mm, linkage.hub_mm)),
            axis=0,
            return_inverse=True,
        )
        masters = _sin_cos(ways[:, 0])
        own = _sin_cos(offsets_deg)
        return Turning(linkage, own, masters, ways[:, 1], ways[:, 2], which.ravel())

    def heights_mm(self, crank_deg: Floats) -> Floats:
        """`piston_height_mm` of every cylinder at crank angles `()` or `(N,)`."""
        linkage, radius = self.linkage, self.linkage.radius_mm
        crank = _sin_cos(crank_deg)
        shape = linkage.rod_mm.shape + crank_deg.shape
        sin, cos = (over_angles(part * radius, crank_deg) for part in self.own)
        # r sin (θ − own) = r (sin θ cos own − cos θ sin own), and r cos (θ − own) alike.
        other = scratch("heights", shape)
        beside = np.multiply(crank[0], cos, out=scratch("beside", shape))
        beside -= np.multiply(crank[1], sin, out=other)
        beside -= over_angles(linkage.offset_mm, crank_deg)
        along = np.asarray(crank[1] * cos)
        along += np.multiply(crank[0], sin, out=other)
        if np.any(linkage.hub_mm):
            sin, cos = (over_angles(part * radius, crank_deg) for part in self.masters)
            aside = over_angles(self.masters_aside_mm, crank_deg)
            tilt = (aside - crank[0] * cos + crank[1] * sin) / linkage.master_mm
            hub = over_angles(self.hubs_mm, crank_deg)
            upright, across = hub * np.sqrt(1.0 - tilt * tilt), hub * tilt
            along += np.take(upright, self.which, axis=0, out=other, mode="clip")
            beside += np.take(across, self.which, axis=0, out=other, mode="clip")
        beside *= beside
        np.subtract(over_angles(linkage.rod_mm * linkage.rod_mm, crank_deg), beside, out=beside)
        np.sqrt(beside, out=beside)
        along += beside
        return np.asarray(along)


def _sin_cos(angle_deg: Floats) -> tuple[Floats, Floats]:
    angle = np.radians(angle_deg)
    return np.sin(angle), np.cos(angle)


def master_tilt_sin(linkage: Linkage, angle_deg: Floats) -> Floats:
    """Sine of the tilt of each cylinder's master rod from the master's own axis.

    `angle_deg` is the crank angle from each cylinder's nominal TDC, shape `(C,)` or `(C, N)`; so is
    the result. The rod of length l leads from the pin at r sin a beside the axis to an offset m:
    its sine is (m − r sin a) / l.
    """
    rows = over_angles(linkage.from_master_deg, angle_deg[0])
    aside_mm = over_angles(linkage.master_offset_mm, angle_deg[0])
    sideways_mm = linkage.radius_mm * np.sin(np.radians(angle_deg + rows))
    return np.asarray((aside_mm - sideways_mm) / linkage.master_mm)


@dataclass(frozen=True, slots=True, eq=False)
class DeadCentres:
    """True dead centres of every cylinder, `(C,)` each.

    `tdc_deg` and `bdc_deg` are crank angles from the nominal TDC; `top_mm` is the height there,
    `stroke_mm` the way between.
    """

    tdc_deg: Floats
    bdc_deg: Floats
    top_mm: Floats
    stroke_mm: Floats


def dead_centres(linkage: Linkage) -> DeadCentres:
    """Find the true dead centres, to about 1e-5°.

    The highest and the lowest of whole degrees are where the search begins: with a long hub a
    piston has more than one place where it turns about. A dead centre is flat: the search looks for
    where the height changes as much before as after.
    """
    count = len(linkage.rod_mm)
    tdc, bdc = np.zeros(count), np.full(count, 180.0)
    if not linkage.plain:
        around = np.arange(-180.0, 180.0, 1.0)
        heights = piston_height_mm(linkage, np.broadcast_to(around, (count, len(around))))
        tdc, bdc = around[heights.argmax(axis=1)], around[heights.argmin(axis=1)] % 360.0
        for _ in range(MOST_STEPS):
            before = tdc, bdc
            tdc, bdc = _climb(linkage, tdc, 1.0), _climb(linkage, bdc, -1.0)
            if max(np.abs(tdc - before[0]).max(), np.abs(bdc - before[1]).max()) < SETTLED_DEG:
                break
    top, foot = piston_height_mm(linkage, tdc), piston_height_mm(linkage, bdc)
    return DeadCentres(tdc, bdc, top, top - foot)


def _climb(linkage: Linkage, at_deg: Floats, sign: float) -> Floats:
    """One Newton step of the derivative, from three heights close together."""
    step = 0.02
    places = at_deg[:, None] + np.array([-step, 0.0, step])
    low, middle, high = (sign * piston_height_mm(linkage, places)).T
    bend = low - 2 * middle + high
    return np.asarray(at_deg - np.clip(step * (high - low) / (2 * bend), -5.0, 5.0))
