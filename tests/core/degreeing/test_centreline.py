"""Centrelines: worked figures, what is odd, and whether the ± holds."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.angles import Floats
from true_compass.core.degreeing.centreline import (
    Centrelines,
    Doubt,
    Nose,
    Pair,
    check_pair,
    later_deg,
    misread_words,
    nose_of,
    nose_plus_minus_deg,
    top_deviation_deg,
)
from true_compass.core.degreeing.curve import Station, curve_of, events_middle_deg
from true_compass.core.degreeing.found import found, odd_words
from true_compass.core.degreeing.own_card import centreline_of, events_of
from true_compass.core.degreeing.sheet import NosePair, Round, Setup, Sheet
from true_compass.core.degreeing.top import span_of
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

INTAKE = [Pair(92, 124), Pair(84.5, 131), Pair(78, 138.5)]
EXHAUST = [Pair(128, 96), Pair(135.5, 88.5), Pair(142, 82)]


def test_the_worked_figures_of_the_trade() -> None:
    """Common practice, no source."""
    intake, exhaust = nose_of(Kind.INTAKE, INTAKE), nose_of(Kind.EXHAUST, EXHAUST)
    assert intake.middles_deg == (108.0, 107.75, 108.25)
    lines = Centrelines(intake.middle_deg, exhaust.middle_deg)
    assert (lines.icl_deg, lines.ecl_deg) == (108.0, 112.0)
    assert (lines.separation_cam_deg, lines.advance_deg) == (110.0, 2.0)
    assert later_deg(Kind.INTAKE, 108.0, 106.0) == 2.0
    assert later_deg(Kind.EXHAUST, 108.0, 106.0) == -2.0
    assert Centrelines(108.0, None).advance_by_card_deg(110.0) == 2.0
    assert Centrelines(None, 112.0).advance_by_card_deg(110.0) == 2.0


def test_a_misread_middle_stays_out_until_it_is_kept() -> None:
    pairs = [Pair(118, 97), Pair(124.5, 91), Pair(129, 96.5)]
    nose = nose_of(Kind.EXHAUST, pairs)
    assert nose.odd == (2,)
    assert nose.middle_deg == pytest.approx(107.625)
    assert misread_words(nose) == "Middle 112.8, the others 107.6: misread?"
    kept = nose_of(Kind.EXHAUST, [*pairs[:2], Pair(129, 96.5, kept=True)])
    assert not kept.odd
    assert kept.walk_deg == pytest.approx(5.25)
    assert "lopsided lobe or loose gauge" in kept.walk_words
    # Two pairs apart: neither can be called the odd one.
    assert not nose_of(Kind.EXHAUST, [pairs[0], pairs[2]]).odd


WRONG = [
    (Kind.INTAKE, Pair(124, 92), None, "must follow"),
    (Kind.EXHAUST, Pair(96, 128), None, "must follow"),
    (Kind.INTAKE, Pair(20, 60), None, "no intake nose"),
    (Kind.EXHAUST, Pair(170, 140), None, "no exhaust nose"),
    (Kind.INTAKE, Pair(92, 124), False, "exhaust nose"),
    (Kind.EXHAUST, Pair(128, 96), True, "intake nose"),
]


@pytest.mark.parametrize(("kind", "pair", "falls", "said"), WRONG)
def test_a_pair_that_cannot_be_is_named(
    kind: Kind, pair: Pair, falls: bool | None, said: str
) -> None:
    with pytest.raises(EngineError, match=said):
        check_pair(kind, pair, falls)


def test_a_piston_seen_as_it_should_be_says_nothing() -> None:
    check_pair(Kind.INTAKE, INTAKE[0], piston_falls=True)
    check_pair(Kind.EXHAUST, EXHAUST[0], piston_falls=False)


@pytest.mark.parametrize("kind", list(Kind))
@pytest.mark.parametrize("station", list(Station))
def test_chords_of_a_rig_have_their_middle_at_its_nose(kind: Kind, station: Station) -> None:
    curve = curve_of(Rig.of(demo_rig("birch")), 1, kind, station)
    for drop in (0.1, 0.25, 0.4):
        before, after = curve.chord_deg(drop)
        assert curve.lift_at_mm(before) == pytest.approx(curve.peak_mm - drop, abs=1e-4)
        assert curve.lift_at_mm(after) == pytest.approx(curve.peak_mm - drop, abs=1e-4)
        assert (before + after) / 2 == pytest.approx(curve.top_deg, abs=0.05)
    # On a lobe with like flanks the middle of the events is the nose.
    assert events_middle_deg(curve, 1.0) == pytest.approx(curve.nose_deg(), abs=0.05)


def test_unlike_flanks_part_the_nose_from_the_middle_of_the_events() -> None:
    engine = demo_rig("birch")
    timing = replace(
        engine.cam.intake,
        centreline_deg=engine.cam.intake.nose_cycle_deg(Kind.INTAKE) - 360.0 + 5.0,
    )
    lopsided = replace(engine, cam=engine.cam.with_timing(Kind.INTAKE, timing))
    curve = curve_of(Rig.of(lopsided), 1, Kind.INTAKE)
    # A small drop finds the nose, the events at a low lift their own middle, 5° before it.
    assert curve.nose_deg(0.02) == pytest.approx(curve.top_deg, abs=0.3)
    assert events_middle_deg(curve, 0.01) == pytest.approx(curve.top_deg - 5.0, abs=0.5)
    assert curve.nose_deg(0.02) > curve.nose_deg(3.0) > events_middle_deg(curve, 0.01)


@pytest.mark.parametrize(
    ("wheel_mm", "step_deg", "gauge_mm", "drops"),
    [
        (180.0, 0.5, 0.01, (0.1, 0.25, 0.4)),
        (300.0, 0.25, 0.02, (0.25,)),
        (120.0, 1.0, 0.01, (0.3, 0.5)),
    ],
)
def test_the_stated_plus_minus_covers_95_percent(
    wheel_mm: float, step_deg: float, gauge_mm: float, drops: tuple[float, ...]
) -> None:
    """Monte Carlo from another angle: rounding to steps and the eye's error, 4,000 times."""
    rig = Rig.of(demo_rig("birch"))
    curve, chance = curve_of(rig, 1, Kind.INTAKE), np.random.default_rng(5)
    doubt = Doubt.of(wheel_mm, step_deg, gauge_mm)
    eye_deg = 0.25 / (np.pi * wheel_mm / 360.0)
    drop_mm, runs = 0.5, 4000
    half = span_of(rig, 1, drop_mm).half_deg
    piston_slope = 2 * drop_mm / half  # near TDC the fall is a parabola

    offset = chance.uniform(0, step_deg, runs)  # the wheel is bolted on anywhere

    def read(at_deg: float, slope: float) -> Floats:
        # Where the needle stands on its mark, then where the eye and the wheel's steps put it.
        place = at_deg + offset + chance.uniform(-gauge_mm / 2, gauge_mm / 2, runs) / slope
        seen = place + chance.uniform(-eye_deg, eye_deg, runs)
        return np.asarray(np.round(seen / step_deg) * step_deg - offset)

    top = (read(-half, piston_slope) + read(half, piston_slope)) / 2
    found, slopes = -top, []
    for drop in drops:
        ends = curve.chord_deg(drop)
        before, after = (curve.slope_mm_per_deg(at) for at in ends)
        found += (read(ends[0], before) + read(ends[1], after)) / 2 / len(drops)
        slopes.append((before, after))
    plus_minus = nose_plus_minus_deg(slopes, doubt, top_deviation_deg(piston_slope, doubt))
    covered = np.mean(np.abs(found - curve.nose_deg()) <= plus_minus)
    assert covered >= 0.95
    # Not by being far too wide.
    assert plus_minus <= 1.6 * np.percentile(np.abs(found - curve.nose_deg()), 95)


def test_a_nose_without_pairs_says_what_to_do() -> None:
    with pytest.raises(EngineError, match="read both sides"):
        nose_of(Kind.INTAKE, [])
    assert "second depth" in Nose(Kind.INTAKE, (INTAKE[0],), (True,)).walk_words


def test_unequal_drops_are_named() -> None:
    """The second reading of the deepest pair was taken at 0.25 mm in place of 0.40."""
    rig = Rig.of(demo_rig("birch"))
    curve = curve_of(rig, 1, Kind.INTAKE, Station.TAPPET)
    ends = {drop: curve.chord_deg(drop) for drop in (0.1, 0.25, 0.4)}
    ends[0.4] = (ends[0.4][0], ends[0.25][1])
    rows = tuple(NosePair(drop, round(a, 1), round(b, 1)) for drop, (a, b) in ends.items())
    sheet = Sheet(Setup()).with_now(Round().with_pairs(1, Kind.INTAKE, rows))
    told = found(rig, sheet).noses[Kind.INTAKE]
    assert "unequal drops, 0.40 mm before and 0.25 after?" in odd_words(rig, sheet, told)


@given(st.fractions(80, 140, max_denominator=64), st.fractions(80, 140, max_denominator=64))
def test_the_sums_in_exact_fractions(icl: Fraction, ecl: Fraction) -> None:
    lines = Centrelines(float(icl), float(ecl))
    assert lines.separation_cam_deg == pytest.approx(float((icl + ecl) / 2), abs=1e-12)
    assert lines.advance_deg == pytest.approx(float((ecl - icl) / 2), abs=1e-12)
    events = events_of(240.0, 250.0, float(icl), float(ecl))
    assert events.ivo_deg == pytest.approx(float(120 - icl), abs=1e-12)
    assert events.evc_deg == pytest.approx(float(125 - ecl), abs=1e-12)
    for kind, opens, closes, line in (
        (Kind.INTAKE, events.ivo_deg, events.ivc_deg, icl),
        (Kind.EXHAUST, events.evo_deg, events.evc_deg, ecl),
    ):
        assert centreline_of(kind, opens, closes)[1] == pytest.approx(float(line), abs=1e-12)
