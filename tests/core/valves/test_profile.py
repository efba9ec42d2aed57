"""Pieces of a lobe: what is called velocity and acceleration is the slope and bend of the lift."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.interpolate import CubicSpline

from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.valves.cam import DEFAULT_CAM, Bump, CheckLift, Place, ValveTiming
from true_compass.core.valves.drive import Drive, Drives
from true_compass.core.valves.lobe import bump_profile, profile_of
from true_compass.core.valves.profile import joined
from true_compass.core.valves.shapes import Ramp, Spline, flank_share, ramp_share

TIMINGS = {
    "usual": ValveTiming(15, 50, 9.0, 0.25),
    "tall ramp": ValveTiming(12, 46, 9.0, 0.4, ramp_deg=40.0),
    "lopsided": replace(ValveTiming(15, 50, 9.0, 0.25), centreline_deg=104.0),
    "short": ValveTiming(-20, 20, 4.0, 0.1, ramp_deg=12.0),
}


@pytest.mark.parametrize("name", TIMINGS)
@pytest.mark.parametrize("kind", Kind)
def test_slope_and_bend_of_a_lobe_are_those_of_its_lift(name: str, kind: Kind) -> None:
    """A general spline through the lifts has the same slope; one through the slopes, the bend."""
    profile = profile_of(kind, TIMINGS[name], 1.4, TIMINGS[name].lash_mm)
    at, (lift, slope, bend) = profile.at_deg, profile.motion
    spline = CubicSpline(at, lift, bc_type="clamped")
    scale = lift.max()
    assert np.abs(spline(at, 1) - slope).max() < 2e-3 * scale
    # The bend steps where ramp and flank meet, and a spline swings there.
    off = np.abs(CubicSpline(at, slope)(at, 1) - bend)[4:-4]
    assert np.quantile(off, 0.8) < 1e-5 * scale
    # It rises to its nose and falls from there, and rests at both ends.
    nose = int(np.argmax(lift))
    assert np.all(slope[:nose] >= -1e-12)
    assert np.all(slope[nose + 1 :] <= 1e-12)
    assert motion_at_ends(profile.motion) == pytest.approx(np.zeros(6), abs=1e-12)


def motion_at_ends(motion: np.ndarray) -> np.ndarray:
    return motion[:, [0, -1]].ravel()


@pytest.mark.parametrize("share", [flank_share, ramp_share])
def test_shares_are_their_own_slopes(share: object) -> None:
    t, step = np.linspace(0.01, 0.99, 99), 1e-5
    assert callable(share)
    value, before, after = share(t), share(t - step), share(t + step)
    assert (after[0] - before[0]) / (2 * step) == pytest.approx(value[1], abs=1e-7)
    assert (after[1] - before[1]) / (2 * step) == pytest.approx(value[2], abs=1e-6)


def test_a_spline_is_that_of_a_general_library() -> None:
    points = [(-1.0, -1.0), (-0.4, -0.5), (0.1, 0.2), (0.7, 0.6), (1.0, 1.0)]
    x, y = np.array(points).T
    other = CubicSpline(x, y, bc_type="natural")
    at = np.linspace(-1.0, 1.0, 41)
    for order, mine in enumerate(Spline.through(points[::-1])(at)):
        assert mine == pytest.approx(other(at, order), abs=1e-12)


@pytest.mark.parametrize("lift_mm", [0.01, 0.1, 0.2, 0.249])
def test_a_ramp_stands_at_a_lift_where_it_says(lift_mm: float) -> None:
    ramp = Ramp.of(TIMINGS["usual"], 0.25, 120.0)
    assert ramp.lift_at(-ramp.event_for(lift_mm)) == pytest.approx(lift_mm, abs=1e-9)
    assert ramp.lift_at(-ramp.length_deg - 1.0) == 0.0
    assert ramp.lift_at(0.0) == pytest.approx(0.25)
    # Inside it eases out to its whole height without a step.
    assert ramp.lift_at(ramp.inside_deg) == pytest.approx(0.25 + ramp.inside_mm)


def test_two_lobes_on_one_base_circle_stand_in_one_cycle() -> None:
    exhaust = profile_of(Kind.EXHAUST, DEFAULT_CAM.exhaust, 1.0, 0.3)
    release = bump_profile(Bump(612.0, 690.0, 0.6, 10.0), 1.0, 0.3)
    both = joined(exhaust, release)
    assert np.all(np.diff(both.at_deg) > 0)
    assert both.at_deg[-1] - both.at_deg[0] < 720.0
    (start, end), (other_start, other_end) = both.arcs_deg
    assert (start, end) == exhaust.arcs_deg[0]
    assert other_end - other_start == pytest.approx(690.0 - 612.0 + 2 * 10.0)
    assert (other_start - (612.0 - 10.0)) % 720.0 == pytest.approx(0.0, abs=1e-9)
    with pytest.raises(EngineError, match="runs into the exhaust lobe"):
        joined(exhaust, bump_profile(Bump(300.0, 480.0, 0.6, 10.0), 1.0, 0.3))


@pytest.mark.parametrize("cycles", [-1, 0, 1])
def test_the_arcs_of_two_lobes_are_where_either_lifts(cycles: int) -> None:
    exhaust = profile_of(Kind.EXHAUST, DEFAULT_CAM.exhaust, 1.0, 0.3)
    release = bump_profile(Bump(612.0, 690.0, 0.6, 10.0), 1.0, 0.3)
    moved = replace(
        release,
        at_deg=release.at_deg + 720.0 * cycles,
        arcs_deg=tuple((a + 720.0 * cycles, b + 720.0 * cycles) for a, b in release.arcs_deg),
    )
    lobes = Drives.of([Drive(joined(exhaust, moved), 0.0)])
    at = np.arange(0.0, 720.0, 0.25)
    lifted = lobes.lobe_mm(at)[0] > 1e-9
    assert np.all(lobes.margin_deg(at)[0][lifted] < 0)
    assert np.count_nonzero(lobes.margin_deg(at)[0] < 0) - np.count_nonzero(lifted) < 40


@pytest.mark.parametrize("kind", Kind)
def test_a_checking_lift_stands_inside_the_seat(kind: Kind) -> None:
    """Events at 1 mm leave a lobe that lifts exactly 1 mm there, as read from its rows."""
    timing = replace(TIMINGS["usual"], check=CheckLift(1.0, Place.VALVE))
    profile = profile_of(kind, timing, 1.0, 0.25)
    opens = kind.stroke_starts_deg - timing.opens_before_deg
    closes = kind.stroke_starts_deg + 180.0 + timing.closes_after_deg
    spline = CubicSpline(profile.at_deg, profile.motion[0])
    assert spline([opens, closes]) - 0.25 == pytest.approx([1.0, 1.0], abs=2e-3)
