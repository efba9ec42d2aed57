"""Lobes from tables of lift that somebody read off a cam."""

import warnings

import numpy as np

from true_compass.core.angles import Floats
from true_compass.core.items import Kind
from true_compass.core.limits import MOST_LOBE_DEG, EngineError
from true_compass.core.valves.cam import DEFAULT_RAMP_DEG, LiftTable, ValveTiming, check_table
from true_compass.core.valves.profile import Profile
from true_compass.core.valves.train import Train, stated_lash_mm


def table_profile(
    kind: Kind, timing: ValveTiming, table: LiftTable, ratio: float, ramp_mm: float
) -> Profile:
    """The lobe that a table of lifts describes, smoothed no more than the table's resolution.

    Where the table holds the valve's lift, the lash has closed the ramp below it: the ramp is put
    back with the engine's length and height before the ratio is taken off, so that the lash as set
    gives the table back and no ramp is taken for base circle.
    """
    at, lift = np.array(table.angles_deg), np.array(table.lifts_mm)
    if timing.centreline_deg is not None:
        at = at + timing.nose_cycle_deg(kind) - nose_by_equal_drop_deg(at, lift)
    motion = smoothed(at, lift, table.resolution_mm)
    moving = np.flatnonzero(lift > 0)
    runs = np.split(moving, np.flatnonzero(np.diff(moving) > 1) + 1)
    arcs = tuple((float(at[run[0] - 1]), float(at[run[-1] + 1])) for run in runs)
    if not table.of_lobe:
        at, motion = _on_ramps(at, motion, ramp_mm, timing.ramp_deg)
        motion /= ratio
        arcs = tuple((start - timing.ramp_deg, end + timing.ramp_deg) for start, end in arcs)
    if arcs[-1][1] - arcs[0][0] > MOST_LOBE_DEG:
        raise EngineError(
            f"{kind.value}_table",
            f"leaves no base circle with ramps of {timing.ramp_deg:g}° on either side: give the "
            "lobe's own lift, or shorter ramps",
        )
    return Profile(at, motion, arcs)


def _on_ramps(
    at_deg: Floats, motion: Floats, ramp_mm: float, ramp_deg: float
) -> tuple[Floats, Floats]:
    """A valve's motion set on the ramps that the lash has closed, one before and one after it."""
    raised = motion.copy()
    raised[0] += ramp_mm
    # The ramp hands over at the velocity with which the valve leaves its seat.
    raised[1, 0] = motion[0, 1] / (at_deg[1] - at_deg[0])
    raised[1, -1] = -motion[0, -2] / (at_deg[-1] - at_deg[-2])
    if ramp_deg <= 0:
        return at_deg, raised
    ends = np.array([at_deg[0] - ramp_deg, at_deg[-1] + ramp_deg])
    rest = np.zeros((3, 1))
    return (
        np.concatenate((ends[:1], at_deg, ends[1:])),
        np.concatenate((rest, raised, rest), axis=1),
    )


def timing_of_table(
    kind: Kind,
    table: LiftTable,
    train: Train,
    lash_mm: float,
    centreline_deg: float | None = None,
    advance_deg: float = 0.0,
    ramp_deg: float = DEFAULT_RAMP_DEG,
) -> ValveTiming:
    """The timing that goes with a table: its events at the seat, read off between the rows.

    `ramp_deg` is the length of the ramps below a valve's lift, which such a table cannot hold.
    """
    check_table(f"{kind.value}_table", table)
    at, lift = np.array(table.angles_deg), np.array(table.lifts_mm)
    if centreline_deg is not None:
        nose = 360.0 + (centreline_deg if kind is Kind.INTAKE else -centreline_deg)
        at = at + nose - nose_by_equal_drop_deg(at, lift)
    valve = lift
    if table.of_lobe:
        valve = lift * train.ratio(kind) - stated_lash_mm(train, kind, lash_mm)
    top = int(np.argmax(valve))
    opens = float(np.interp(0.0, valve[: top + 1], at[: top + 1]))
    closes = float(np.interp(0.0, valve[top:][::-1], at[top:][::-1]))
    return ValveTiming(
        opens_before_deg=kind.stroke_starts_deg - opens,
        closes_after_deg=closes - kind.stroke_starts_deg - 180.0,
        peak_lift_mm=max(float(valve.max()), 0.1),
        lash_mm=lash_mm,
        ramp_deg=0.0 if table.of_lobe else ramp_deg,
        centreline_deg=centreline_deg,
        advance_deg=advance_deg,
        table=table,
    )


def smoothed(at_deg: Floats, lift_mm: Floats, resolution_mm: float) -> Floats:
    """Lift, velocity and acceleration at each row of a table, from a smoothing spline.

    No row moves by more than half of `resolution_mm`; rows at zero rest.
    """
    from scipy.interpolate import UnivariateSpline  # it takes most of a second to import

    first, last = at_deg[1] - at_deg[0], at_deg[-1] - at_deg[-2]
    resting = np.arange(3, 0, -1)
    x = np.concatenate((at_deg[0] - resting * first, at_deg, at_deg[-1] + resting[::-1] * last))
    y = np.pad(lift_mm, 3)
    # The noise of rounding to a step q is q / √12; less is smoothed where a row would move more.
    budget = len(x) * resolution_mm**2 / 12
    with warnings.catch_warnings():
        # FITPACK warns where it does not settle on a budget; here the rows are the judge.
        warnings.simplefilter("ignore", UserWarning)
        for allowed in (*(budget / 2**n for n in range(12)), 0.0):
            spline = UnivariateSpline(x, y, k=3, s=allowed)
            if np.max(np.abs(spline(x) - y)) <= resolution_mm / 2:
                break
    motion = np.array([spline(at_deg), spline(at_deg, 1), spline(at_deg, 2)])
    motion[:, lift_mm <= 0] = 0.0
    motion[0] = np.maximum(motion[0], 0.0)
    return motion


def nose_by_equal_drop_deg(at_deg: Floats, lift_mm: Floats) -> float:
    """Middle between the two places where a lobe has dropped by a twentieth from its nose."""
    level = 0.95 * lift_mm.max()
    above = np.flatnonzero(lift_mm >= level)
    first, last = int(above[0]), int(above[-1])

    def crossing(low: int, high: int) -> float:
        share = (level - lift_mm[low]) / (lift_mm[high] - lift_mm[low])
        return float(at_deg[low] + share * (at_deg[high] - at_deg[low]))

    return (crossing(first - 1, first) + crossing(last + 1, last)) / 2
