"""Gaps from valve to piston and from valve to valve as the engine turns, and the least of them.

Along a valve's stem, which leans by α from the cylinder, the gap is

    shut gap + fall of the piston × cos α − lift

where the shut gap is (deck + gasket + pocket + recess) × cos α, or what was measured at TDC: the
floor of a pocket lies square to its stem. From valve to valve both heads are taken as lines in the
plane of their stems.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import Enum
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, Floats
from true_compass.core.items import Item, Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig, engine_state
from true_compass.core.valves.chamber import Chamber, ValveRoom

STEP_DEG: Final = 0.25


def shut_gap_mm(chamber: Chamber, kind: Kind) -> float | None:
    """Gap along the stem at TDC with the valve shut; None where a dimension is not known."""
    room = chamber.room(kind)
    if room.drop_mm is not None:
        return room.drop_mm
    if room.pocket_mm is None or chamber.deck_mm is None or chamber.gasket_mm is None:
        return None
    stack = chamber.deck_mm + chamber.gasket_mm + room.pocket_mm + room.recess_mm
    return float(stack * np.cos(np.radians(room.angle_deg)))


@dataclass(frozen=True, slots=True)
class Least:
    """The least gap of one valve, and where: crank degrees after its overlap TDC."""

    item: Item
    gap_mm: float
    after_tdc_deg: float
    limit_mm: float

    @property
    def clears(self) -> bool:
        """Whether the limit is kept."""
        return self.gap_mm >= self.limit_mm - 1e-9

    @property
    def words(self) -> str:
        """`I1 2.52 mm at 2° after`."""
        side = "after" if self.after_tdc_deg >= 0 else "before"
        return f"{self.item.name} {self.gap_mm:.2f} mm at {abs(self.after_tdc_deg):.0f}° {side}"


@dataclass(frozen=True, slots=True, eq=False)
class Gaps:
    """Gaps to the piston at crank angles `(N,)`: `(V, N)` in the order of `Engine.valves`, mm."""

    crank_deg: Floats
    gap_mm: Floats


def piston_gaps(rig: Rig, chamber: Chamber, earlier_deg: Floats | None = None) -> Gaps:
    """Every valve's gap to its piston over a cycle, at steps of 0.25°.

    `earlier_deg` `(V,)` moves each valve's lobe to come earlier. A kind of valve whose dimensions
    are not known has NaN.
    """
    crank = np.arange(0.0, CYCLE_DEG, STEP_DEG)
    return Gaps(crank, gaps_at_mm(rig, chamber, crank, earlier_deg))


def gaps_at_mm(
    rig: Rig, chamber: Chamber, crank_deg: Floats, earlier_deg: Floats | None = None
) -> Floats:
    """The gaps at crank angles `(N,)`, shape `(V, N)`."""
    engine = rig.engine
    state = engine_state(_moved(rig, earlier_deg), crank_deg)
    gaps = -state.lift_mm
    for kind in Kind:
        shut = shut_gap_mm(chamber, kind)
        cos = float(np.cos(np.radians(chamber.room(kind).angle_deg)))
        rows = engine.rows_of(kind)
        gaps[rows] += np.nan if shut is None else shut + state.piston_from_tdc_mm * cos
    return np.asarray(gaps)


def _moved(rig: Rig, earlier_deg: Floats | None) -> Rig:
    if earlier_deg is None or not np.any(earlier_deg):
        return rig
    return replace(rig, lobes=rig.lobes.changed(rig.lobes.lash_mm, earlier_deg), usual=rig)


def least_gaps(rig: Rig, chamber: Chamber, earlier_deg: Floats | None = None) -> tuple[Least, ...]:
    """The least gap of every valve whose dimensions are known, from BDC to BDC about overlap TDC.

    At its compression TDC a valve that is shut comes no nearer than that. The steps of 0.25° are
    refined by the parabola through the lowest three.
    """
    gaps = piston_gaps(rig, chamber, earlier_deg)
    found = []
    for row, valve in enumerate(rig.engine.valves):
        if np.isnan(gaps.gap_mm[row, 0]):
            continue
        overlap = float(rig.true_offsets_deg[valve.cylinder - 1]) + 360.0
        about = np.abs((gaps.crank_deg - overlap + 360.0) % CYCLE_DEG - 360.0) <= 180.0
        low = int(np.argmin(np.where(about, gaps.gap_mm[row], np.inf)))
        crank, gap = _refined(gaps, row, low)
        after = (crank - overlap + 360.0) % CYCLE_DEG - 360.0
        found.append(Least(valve.item, gap, after, chamber.least_mm(valve.kind)))
    return tuple(found)


def _refined(gaps: Gaps, row: int, low: int) -> tuple[float, float]:
    count = len(gaps.crank_deg)
    left, middle, right = (float(gaps.gap_mm[row, (low + k) % count]) for k in (-1, 0, 1))
    bend = left - 2 * middle + right
    if bend <= 0:
        return float(gaps.crank_deg[low]), middle
    share = (left - right) / (2 * bend)
    return float(gaps.crank_deg[low]) + share * STEP_DEG, middle - (left - right) ** 2 / (8 * bend)


def tightest(least: Sequence[Least], kind: Kind) -> Least | None:
    """The valve of a kind that comes nearest to its piston."""
    own = [each for each in least if each.item.kind is kind]
    return min(own, key=lambda each: each.gap_mm, default=None)


# Valve to valve ----------------------------------------------------------------------------------


def between_gaps_mm(chamber: Chamber, intake_mm: Floats, exhaust_mm: Floats) -> Floats:
    """Gap between the two heads at lifts of any one shape, mm; 0 where they would meet.

    NaN where the heads' diameters or the distance of their centres are not known.
    """
    rooms = (chamber.intake, chamber.exhaust)
    if chamber.between_mm is None or any(room.head_mm is None for room in rooms):
        return np.full(np.shape(intake_mm), np.nan)
    sides = [
        _head_line(room, lift, side * chamber.between_mm / 2, side)
        for room, lift, side in zip(rooms, (intake_mm, exhaust_mm), (1.0, -1.0), strict=True)
    ]
    (in_inner, in_outer), (ex_inner, ex_outer) = sides
    apart = np.minimum.reduce(
        [
            _to_line(in_inner, ex_inner, ex_outer),
            _to_line(in_outer, ex_inner, ex_outer),
            _to_line(ex_inner, in_inner, in_outer),
            _to_line(ex_outer, in_inner, in_outer),
        ]
    )
    return np.where(_cross(in_inner, in_outer, ex_inner, ex_outer), 0.0, apart)


def _head_line(
    room: ValveRoom, lift_mm: Floats, centre_mm: float, side: float
) -> tuple[Floats, Floats]:
    """Inner and outer edge of a head, `(2, …)`: across and up. The stem leans outward."""
    lean = np.radians(room.angle_deg)
    across = centre_mm - side * np.sin(lean) * lift_mm
    up = -np.cos(lean) * lift_mm
    half = (room.head_mm or 0.0) / 2
    reach, rise = side * half * np.cos(lean), half * np.sin(lean)
    inner = np.array([across - reach, up + rise])
    outer = np.array([across + reach, up - rise])
    return inner, outer


def _to_line(point: Floats, start: Floats, end: Floats) -> Floats:
    along = end - start
    length = np.maximum((along**2).sum(axis=0), 1e-12)
    share = np.clip(((point - start) * along).sum(axis=0) / length, 0.0, 1.0)
    return np.asarray(np.sqrt(((point - start - share * along) ** 2).sum(axis=0)))


def _cross(a: Floats, b: Floats, c: Floats, d: Floats) -> Floats:
    def turn(p: Floats, q: Floats, r: Floats) -> Floats:
        return np.asarray((q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]))

    apart = turn(a, b, c) * turn(a, b, d) < 0
    return np.asarray(apart & (turn(c, d, a) * turn(c, d, b) < 0))


def least_between_mm(
    rig: Rig, chamber: Chamber, cylinder: int, earlier_deg: Floats | None = None
) -> tuple[float, float] | None:
    """Least gap between the two heads of a cylinder, and where after its overlap TDC.

    None where dimensions are not known.
    """
    after = np.arange(-180.0, 180.0, STEP_DEG)
    crank = float(rig.true_offsets_deg[cylinder - 1]) + 360.0 + after
    lobes = _moved(rig, earlier_deg).lobes.take(rig.engine.valve_rows(cylinder))
    intake, exhaust = lobes.lift_mm(crank)
    gaps = between_gaps_mm(chamber, intake, exhaust)
    if np.isnan(gaps[0]):
        return None
    low = int(np.argmin(gaps))
    return float(gaps[low]), float(after[low])


# Measured ----------------------------------------------------------------------------------------


class Method(Enum):
    """How a gap to the piston is measured where the dimensions are not known."""

    CLAY = "clay"
    SPRING = "spring"

    @property
    def steps(self) -> str:
        """What a person does."""
        return _STEPS[self]


_STEPS: Final = {
    Method.CLAY: "Clay on the crown, oil on the valves, head on with the gasket torqued, lash at "
    "zero. Turn two turns by hand, lift the head, cut the clay, measure its thinnest place.",
    Method.SPRING: "A soft spring in place of the valve's own, lash at zero. Stand at each angle "
    "from 15° before to 15° after TDC, push the valve down until it touches: the gauge reads "
    "the gap.",
}


@dataclass(frozen=True, slots=True)
class Touch:
    """A gap that was measured: by clay the least of all, by a soft spring at one crank angle.

    `after_tdc_deg` is after overlap TDC, None for clay.
    """

    kind: Kind
    method: Method
    gap_mm: float
    after_tdc_deg: float | None = None


def shut_gap_from_mm(
    rig: Rig, chamber: Chamber, cylinder: int, touch: Touch, earlier_deg: Floats | None = None
) -> float:
    """The shut gap that a measured gap means, so that the gap anywhere else follows.

    `earlier_deg` `(V,)` tells where the lobes stood then. Raises `EngineError` for a soft spring
    without its angle.
    """
    if touch.method is Method.SPRING and touch.after_tdc_deg is None:
        raise EngineError("angle", "is missing: a soft spring is read at a crank angle")
    after = np.arange(-180.0, 180.0, STEP_DEG)
    if touch.after_tdc_deg is not None:
        after = np.array([touch.after_tdc_deg])
    crank = float(rig.true_offsets_deg[cylinder - 1]) + 360.0 + after
    state = engine_state(_moved(rig, earlier_deg), crank)
    lift = state.lift_mm[rig.engine.valve_row(cylinder, touch.kind)]
    cos = float(np.cos(np.radians(chamber.room(touch.kind).angle_deg)))
    return touch.gap_mm - float((state.piston_from_tdc_mm[cylinder - 1] * cos - lift).min())
