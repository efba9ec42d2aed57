"""What a valve train does with the lash and advance as they are: events, overlap, separation.

Duration, overlap, centreline, separation and advance are common practice (no source): D = opening
+ 180 + closing; intake centreline D/2 − IVO after TDC; separation (ICL + ECL)/2 in cam degrees;
advance (ECL − ICL)/2 in crank degrees.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, Floats, degrees_on, wrap_deg
from true_compass.core.events import crossings
from true_compass.core.items import Kind
from true_compass.core.state import AS_SET, Rig
from true_compass.core.valves.cam import SEAT, CheckLift
from true_compass.core.valves.drive import Drives

OVERLAP_TDC_DEG: Final = 360.0
AREA_STEP_DEG: Final = 0.25


@dataclass(frozen=True, slots=True)
class ValveTimes:
    """What one valve really does. Angles are crank degrees; `opens_deg` and `closes_deg` on θ.

    `own_opens_deg` and `own_closes_deg` are the same in the cylinder's own cycle.

    A valve that never reaches the checking lift has no angles: they are None.
    """

    name: str
    kind: Kind
    opens_deg: float | None
    closes_deg: float | None
    opens: str
    closes: str
    duration_deg: float | None
    centreline_deg: float | None
    peak_lift_mm: float
    lift_at_overlap_mm: float
    own_opens_deg: float | None = None
    own_closes_deg: float | None = None

    def own_deg(self, opens: bool) -> float | None:
        """Cycle angle of the opening or the closing, counted from the cylinder's firing."""
        return self.own_opens_deg if opens else self.own_closes_deg


@dataclass(frozen=True, slots=True)
class CylinderTimes:
    """Both kinds of valve of a cylinder, and what they do together around overlap TDC.

    `overlap_deg` is negative when one shuts before the other opens; `overlap_area_mm_deg` is the
    area under the lower of the two lifts.
    """

    cylinder: int
    valves: tuple[ValveTimes, ...]
    overlap_deg: float | None
    overlap_area_mm_deg: float
    lobe_separation_cam_deg: float | None
    advance_deg: float | None


def event_words(kind: Kind, opens: bool, cycle_deg: float) -> str:
    """A cycle angle as degrees before or after the dead centre that its event belongs to.

    >>> event_words(Kind.INTAKE, True, 345.0), event_words(Kind.INTAKE, True, 364.0)
    ('15 BTDC', '4 ATDC')
    """
    centre_deg = kind.stroke_starts_deg + (0.0 if opens else 180.0)
    name = "TDC" if centre_deg % 360 == 0 else "BDC"
    after_deg = round((cycle_deg - centre_deg + 360.0) % 720.0 - 360.0, 1) + 0.0
    after = after_deg > 0 or (after_deg == 0 and not opens)
    return f"{abs(after_deg):g} {'A' if after else 'B'}{name}"


def engine_times(rig: Rig, check: CheckLift = SEAT) -> tuple[CylinderTimes, ...]:
    """The times of every cylinder, at a checking lift."""
    return _times_of(rig, list(rig.engine.cylinders), check)


def cylinder_times(rig: Rig, cylinder: int, check: CheckLift = SEAT) -> CylinderTimes:
    """The times of one cylinder, at a checking lift."""
    return _times_of(rig, [cylinder], check)[0]


def _times_of(rig: Rig, cylinders: list[int], check: CheckLift) -> tuple[CylinderTimes, ...]:
    rows = [row for cylinder in cylinders for row in rig.engine.valve_rows(cylinder)]
    lobes = rig.lobes.take(rows)
    everywhere = crossings(rig.lobes, check)
    places = [everywhere[row] for row in rows]
    picked = np.array(cylinders) - 1
    at_overlap = wrap_deg(rig.true_offsets_deg[picked] + OVERLAP_TDC_DEG)
    at_tdc = lobes.lift_mm(at_overlap)
    peaks = lobes.peak_lift_mm
    areas = _overlap_areas_mm_deg(lobes, rig.offsets_deg[picked])
    result = []
    for place, cylinder in enumerate(cylinders):
        valves = tuple(
            _valve_times(rig, row, places[at], float(peaks[at]), float(at_tdc[at, place]))
            for at, row in ((2 * place + side, rows[2 * place + side]) for side in (0, 1))
        )
        result.append(_together(cylinder, valves, areas[place]))
    return tuple(result)


def _valve_times(
    rig: Rig, row: int, places: list[tuple[float, bool]], peak_mm: float, at_tdc_mm: float
) -> ValveTimes:
    valve = rig.engine.valves[row]
    main = main_lift(places)
    if main is None:
        return ValveTimes(
            valve.name, valve.kind, None, None, "never", "never", None, None, peak_mm, at_tdc_mm
        )
    opens, closes = main
    offset = float(rig.offsets_deg[valve.cylinder - 1])
    duration = degrees_on(closes, opens)
    own_opens = degrees_on(opens, offset)
    middle = own_opens + duration / 2 - OVERLAP_TDC_DEG
    middle = (middle + 360.0) % 720.0 - 360.0
    return ValveTimes(
        name=valve.name,
        kind=valve.kind,
        opens_deg=opens,
        closes_deg=closes,
        opens=event_words(valve.kind, True, own_opens),
        closes=event_words(valve.kind, False, degrees_on(closes, offset)),
        duration_deg=duration,
        centreline_deg=middle if valve.kind is Kind.INTAKE else -middle,
        peak_lift_mm=peak_mm,
        lift_at_overlap_mm=at_tdc_mm,
        own_opens_deg=own_opens,
        own_closes_deg=own_opens + duration,
    )


def main_lift(places: list[tuple[float, bool]]) -> tuple[float, float] | None:
    """Opening and closing of the main lobe: the longest stretch, where a bump adds another."""
    ups = [place for place, rises in places if rises]
    downs = [place for place, rises in places if not rises]
    if not ups or not downs:
        return None
    pairs = [(up, min(downs, key=lambda down: degrees_on(down, up))) for up in ups]
    return max(pairs, key=lambda pair: degrees_on(pair[1], pair[0]))


def _together(cylinder: int, valves: tuple[ValveTimes, ...], area: float) -> CylinderTimes:
    intake, exhaust = valves
    if intake.opens_deg is None or exhaust.closes_deg is None:
        return CylinderTimes(cylinder, valves, None, area, None, None)
    overlap = degrees_on(exhaust.closes_deg, intake.opens_deg)
    overlap = overlap - 720.0 if overlap > 360.0 else overlap
    assert intake.centreline_deg is not None
    assert exhaust.centreline_deg is not None
    icl, ecl = intake.centreline_deg, exhaust.centreline_deg
    return CylinderTimes(cylinder, valves, overlap, area, (icl + ecl) / 2, (ecl - icl) / 2)


def _overlap_areas_mm_deg(lobes: Drives, offsets_deg: Floats) -> list[float]:
    """Area under the lower of both lifts around each overlap TDC, mm × crank degrees.

    `lobes` has two rows a cylinder. Cylinders whose cams stand alike are worked out once.
    """
    reach = np.arange(-120.0, 120.0 + AREA_STEP_DEG, AREA_STEP_DEG)
    known: dict[tuple[float, ...], float] = {}
    areas = []
    for row, offset_deg in enumerate(offsets_deg.tolist()):
        pair = lobes.take([2 * row, 2 * row + 1])
        own = np.round(wrap_deg(pair.turn_deg - offset_deg), 6)
        key = (*own.tolist(), *pair.lash_mm.tolist(), *pair.origin_deg.tolist())
        if key not in known:
            lifts = pair.lift_mm(offset_deg + OVERLAP_TDC_DEG + reach)
            known[key] = float(np.trapezoid(lifts.min(axis=0), dx=AREA_STEP_DEG))
        areas.append(known[key])
    return areas


@dataclass(frozen=True, slots=True, eq=False)
class CylinderCycle:
    """One cylinder over its own cycle, as tried and as set.

    `lift_mm` and `as_set_mm` are `(2, N)` at the cycle angles `at_deg`, intake first.
    """

    cylinder: int
    at_deg: Floats
    lift_mm: Floats
    as_set_mm: Floats
    times: CylinderTimes
    as_set: CylinderTimes
    changed: bool
    extras_mm: tuple[tuple[str, Floats], ...] = ()
    """Name and lift of each item of the cylinder that is no valve."""
    whole_deg: float | None = None
    """Overlap from seat to seat, as tried, where `times` are told at a checking lift; else None."""

    @staticmethod
    def of(
        rig: Rig,
        cylinder: int,
        step_deg: float = 1.0,
        usual: "CylinderCycle | None" = None,
    ) -> "CylinderCycle":
        """Work out a cylinder of a rig.

        `usual` may be an older result for the same rig as set: what it found as set is kept.
        """
        at = np.arange(0.0, CYCLE_DEG + step_deg / 2, step_deg)
        rows = rig.engine.valve_rows(cylinder)
        crank = at + rig.offsets_deg[cylinder - 1]

        def lifts(shown: Rig) -> Floats:
            return shown.lobes.take(rows).lift_mm(crank)

        changed = rig.what_if != AS_SET
        # Angles are told at the checking lift of the engine's own figures.
        check = rig.engine.cam.intake.check
        own, times = lifts(rig), cylinder_times(rig, cylinder, check)
        extras = _extras_of(rig, cylinder, crank)
        whole = None if check == SEAT else cylinder_times(rig, cylinder, SEAT).overlap_deg
        if not changed:
            return CylinderCycle(cylinder, at, own, own, times, times, False, extras, whole)
        if usual is not None and usual.cylinder == cylinder:
            as_set_mm, as_set = usual.as_set_mm, usual.as_set
        else:
            as_set_mm, as_set = lifts(rig.as_set), cylinder_times(rig.as_set, cylinder, check)
        return CylinderCycle(cylinder, at, own, as_set_mm, times, as_set, True, extras, whole)


def _extras_of(rig: Rig, cylinder: int, crank_deg: Floats) -> tuple[tuple[str, Floats], ...]:
    if rig.extras is None:
        return ()
    lifts = rig.extras.lift_mm(crank_deg)
    return tuple(
        (item.name, lift)
        for item, lift in zip(rig.engine.driven_extras, lifts, strict=True)
        if item.cylinder == cylinder
    )
