"""Readings by hand: a place between two rows by similar triangles."""

import numpy as np
import pytest
from scipy.interpolate import UnivariateSpline

from true_compass.core.items import Kind
from true_compass.core.valves.cam import LiftTable
from true_compass.core.valves.readings import (
    nose_by_equal_drop_deg,
    smoothed,
    table_profile,
    timing_of_table,
)
from true_compass.core.valves.train import Train


def test_the_nose_of_a_lopsided_lobe_is_between_equal_drops() -> None:
    """Up 10 mm in 40°, down in 60°: 9.5 mm is passed at 38° and at 43°, their middle is 40.5°."""
    at = np.array([-10.0, 0.0, 40.0, 100.0, 110.0])
    lift = np.array([0.0, 0.0, 10.0, 0.0, 0.0])
    assert nose_by_equal_drop_deg(at, lift) == pytest.approx(40.5)


@pytest.mark.parametrize(("kind", "starts"), [(Kind.INTAKE, 360.0), (Kind.EXHAUST, 180.0)])
def test_events_of_a_table_stand_between_its_rows(kind: Kind, starts: float) -> None:
    """At the valve: 0.5 of 2 mm is a quarter of the way up, and a sixth of 3 mm before the foot."""
    first = starts - 10.0
    angles = first + np.array([0.0, 40.0, 80.0, 120.0, 160.0, 200.0, 240.0, 280.0])
    lobe = np.array([0.0, 2.0, 5.0, 8.0, 9.0, 7.0, 3.0, 0.0])
    table = LiftTable(tuple(angles), tuple(lobe), resolution_mm=0.01, of_lobe=True)
    timing = timing_of_table(kind, table, Train(), lash_mm=0.5)
    assert timing.opens_before_deg == pytest.approx(0.0)
    closes = first + 240.0 + 40.0 * (3.0 - 0.5) / 3.0
    assert timing.closes_after_deg == pytest.approx(closes - starts - 180.0)
    assert timing.peak_lift_mm == pytest.approx(8.5)


@pytest.mark.parametrize(("kind", "nose"), [(Kind.INTAKE, 360.0 + 108.0), (Kind.EXHAUST, 252.0)])
def test_a_centreline_puts_the_middle_of_equal_drops_there(kind: Kind, nose: float) -> None:
    """Up in 80°, down in 120°: the middle of equal drops is 81° past the foot, as found above."""
    at = np.array([0.0, 40.0, 80.0, 110.0, 140.0, 170.0, 200.0])
    lift = np.array([0.0, 5.0, 10.0, 7.5, 5.0, 2.5, 0.0])
    table = LiftTable(tuple(at), tuple(lift), resolution_mm=0.01, of_lobe=True)
    middle = nose_by_equal_drop_deg(at, lift)
    assert middle == pytest.approx((80 - 4.0 + 80 + 6.0) / 2)
    timing = timing_of_table(kind, table, Train(), lash_mm=0.0, centreline_deg=108.0)
    opens, closes = nose - middle, nose + 200.0 - middle
    starts = kind.stroke_starts_deg
    assert timing.opens_before_deg == pytest.approx(starts - opens)
    assert timing.closes_after_deg == pytest.approx(closes - starts - 180.0)


def test_a_table_with_two_lobes_has_two_arcs() -> None:
    angles = tuple(10.0 * row for row in range(12))
    lifts = (0.0, 0.4, 0.4, 0.0, 0.0, 0.0, 2.0, 5.0, 6.0, 5.0, 2.0, 0.0)
    table = LiftTable(angles, lifts, resolution_mm=0.01, of_lobe=True)
    timing = timing_of_table(Kind.EXHAUST, table, Train(), lash_mm=0.1)
    assert table_profile(Kind.EXHAUST, timing, table, 1.0, 0.1).arcs_deg == ((0, 30), (50, 110))


def test_a_valve_that_its_lash_keeps_shut_still_has_a_timing() -> None:
    table = LiftTable(tuple(10.0 * row for row in range(7)), (0, 0.5, 1, 1.5, 1, 0.5, 0))
    assert timing_of_table(Kind.INTAKE, table, Train(), 1.45).peak_lift_mm == 0.1
    assert timing_of_table(Kind.INTAKE, table, Train(), 1.3).peak_lift_mm == pytest.approx(0.2)


@pytest.mark.parametrize("seed", range(8))
def test_a_noisy_table_is_smoothed_as_far_as_its_resolution_allows(seed: int) -> None:
    """A single row off by nearly half a step forbids the usual budget: then half of it, and so on.

    Against an interpolating spline of the same rows, whose acceleration is all noise.
    """
    at = np.arange(0.0, 262.0, 4.0)
    true = 8.0 * np.sin(np.pi * at / 260) ** 2
    read = true + np.random.default_rng(seed).uniform(-0.004, 0.004, len(at))
    read[0] = read[-1] = 0.0
    read[30] = true[30] + 0.0095
    bend = smoothed(at, np.maximum(read, 0.0), 0.01)[2]
    exact = 2 * (np.pi / 260) ** 2 * 8.0 * np.cos(2 * np.pi * at / 260)
    noisy = UnivariateSpline(at, read, k=3, s=0.0)(at, 2)
    inside = slice(5, -5)
    assert np.std((bend - exact)[inside]) < 0.7 * np.std((noisy - exact)[inside])


@pytest.mark.parametrize("of_lobe", [True, False])
def test_a_table_that_is_the_same_both_ways_makes_such_a_lobe(of_lobe: bool) -> None:
    """Whatever is done at one end is done at the other."""
    half = (0.0, 0.35, 1.3, 2.9, 4.8, 6.6, 8.0, 8.8)
    angles = tuple(150.0 + 16.0 * row for row in range(15))
    lifts = (*half, *half[-2::-1])
    table = LiftTable(angles, lifts, resolution_mm=1e-6, of_lobe=of_lobe)
    timing = timing_of_table(Kind.EXHAUST, table, Train(), lash_mm=0.2)
    profile = table_profile(Kind.EXHAUST, timing, table, 1.0, 0.2)
    lift, velocity, bend = profile.motion
    assert np.diff(profile.at_deg) == pytest.approx(np.diff(profile.at_deg)[::-1])
    assert lift == pytest.approx(lift[::-1], abs=1e-5)
    assert velocity == pytest.approx(-velocity[::-1], abs=1e-5)
    assert bend == pytest.approx(bend[::-1], abs=1e-5)
    if not of_lobe:
        # At the seat the ramp hands over at the speed of the first row, and at the lash's height.
        assert lift[1] == pytest.approx(0.2)
        assert velocity[1] == pytest.approx((lift[2] - 0.2) / 16.0)


def test_a_lobes_table_lifts_the_valve_by_the_ratio_less_the_lash() -> None:
    table = LiftTable(tuple(10.0 * row for row in range(7)), (0, 2, 4, 6, 4, 2, 0))
    train = Train(intake_ratio=1.5, exhaust_ratio=1.2)
    timing = timing_of_table(Kind.INTAKE, table, train, lash_mm=0.3)
    assert timing.peak_lift_mm == pytest.approx(6 * 1.5 - 0.3)
    # 0.2 mm of lobe take up the lash: a tenth of the first row's 10°.
    assert 360.0 - timing.opens_before_deg == pytest.approx(1.0)
