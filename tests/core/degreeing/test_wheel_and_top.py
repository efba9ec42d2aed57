"""Wheels of every kind, and true TDC by two readings."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.angles import apart_deg
from true_compass.core.crank.mechanism import Linkage, piston_height_mm
from true_compass.core.degreeing.top import Span, span_fits, span_of, span_words, true_top
from true_compass.core.degreeing.wheel import Scale, Wheel, Zero
from true_compass.core.engine import even_inline
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

WHEELS = [
    *(Wheel(scale, zero) for scale in Scale for zero in Zero),
    *(Wheel(Scale.FULL, zero, against=True) for zero in Zero),
]
# Wheel, crank degrees after TDC, the figure under the pointer (common practice, no source).
FIGURES = [
    (Wheel(), -9.1, 9.1),
    (Wheel(), 13.5, 13.5),
    (Wheel(Scale.FULL), 11.3, 11.3),
    (Wheel(Scale.FULL, against=True), 11.3, 348.7),
    (Wheel(zero=Zero.BDC), 11.3, 168.7),
    (Wheel(Scale.FULL, Zero.BDC), 11.3, 191.3),
    (Wheel(Scale.FULL, Zero.BDC, against=True), 11.3, 168.7),
    (Wheel(Scale.QUARTERS), 11.3, 11.3),
    (Wheel(Scale.QUARTERS, Zero.BDC), 108.0, 72.0),
]


@pytest.mark.parametrize(("wheel", "after_deg", "figure"), FIGURES)
def test_what_stands_under_the_pointer(wheel: Wheel, after_deg: float, figure: float) -> None:
    assert wheel.figure_deg(after_deg) == pytest.approx(figure, abs=1e-9)


@given(st.sampled_from(WHEELS), st.floats(-360, 360))
def test_a_figure_leads_back_to_its_place(wheel: Wheel, after_deg: float) -> None:
    figure = wheel.figure_deg(after_deg)
    places = wheel.places_deg(figure)
    assert len(places) <= {Scale.FULL: 1, Scale.SPLIT: 2, Scale.QUARTERS: 4}[wheel.scale]
    assert min(apart_deg(place, after_deg) for place in places) < 1e-6
    assert wheel.nearest_deg(figure, after_deg) == pytest.approx(after_deg, abs=1e-6)


@pytest.mark.parametrize(
    ("wheel", "figure"), [(Wheel(), 181.0), (Wheel(Scale.QUARTERS), 100.0), (Wheel(), -1.0)]
)
def test_a_figure_that_is_not_on_the_wheel_is_refused(wheel: Wheel, figure: float) -> None:
    with pytest.raises(EngineError, match="on this wheel"):
        wheel.places_deg(figure)


# Before, after, half the span, shift: the worked figures of the trade (common practice, no source).
TOPS = [(9.1, 13.5, 11.3, 2.2), (9.9, 9.9, 9.9, 0.0), (-1.0, 9.0, 4.0, 5.0), (8.4, 11.4, 9.9, 1.5)]


@pytest.mark.parametrize(("before", "after", "half", "shift"), TOPS)
def test_two_readings_give_true_tdc(before: float, after: float, half: float, shift: float) -> None:
    top = true_top(before, after)
    assert (top.half_span_deg, top.shift_deg, top.set_to_deg) == (half, shift, half)
    # A pointer that reads 2.2 at true TDC had its zero before it: met early, a negative error.
    assert top.late is (shift < 0)
    assert top.mark_error_deg == -shift


# Figures as they stand on a 0 to 360, half the span, mark error: s is the figure, or minus it where
# figures fall, less 180 for a zero at BDC (practice of the trade, no source).
ROUND = [
    (Wheel(Scale.FULL), 1, 9, 4, -5, 4),
    (Wheel(Scale.FULL), 351, 9, 9, 0, 9),
    (Wheel(Scale.FULL, against=True), 9, 359, 5, 4, 355),
    (Wheel(Scale.FULL, Zero.BDC), 171, 189, 9, 0, 189),
    (Wheel(Scale.FULL, Zero.BDC, against=True), 189, 171, 9, 0, 171),
    (Wheel(Scale.FULL), 170, 190, 10, -180, 10),
]


@pytest.mark.parametrize(("wheel", "before", "after", "half", "error", "set_to"), ROUND)
def test_a_wheel_that_counts_all_round_is_read_as_it_stands(
    wheel: Wheel, before: float, after: float, half: float, error: float, set_to: float
) -> None:
    top = true_top(before, after, wheel)
    assert (top.half_span_deg, top.mark_error_deg, top.set_to_deg) == (half, error, set_to)


@given(st.sampled_from(WHEELS), st.floats(2, 25), st.floats(-30, 30))
def test_the_pointer_set_so_reads_true_tdc(wheel: Wheel, half: float, out: float) -> None:
    """From another angle: a wheel that is out by `out`, read on both sides, then set."""
    readings = [wheel.figure_deg(side * half + out) for side in (-1, 1)]
    if wheel.scale is not Scale.FULL:
        far = (-half + out) > 0, (half + out) < 0
        readings = [-f if beyond else f for f, beyond in zip(readings, far, strict=True)]
    top = true_top(readings[0], readings[1], wheel)
    assert top.shift_deg == pytest.approx(out, abs=1e-6)
    assert top.set_to_deg == pytest.approx(wheel.figure_deg(half), abs=1e-6)


@pytest.mark.parametrize(
    ("before", "after", "wheel"),
    [
        (3.0, -9.0, Wheel()),
        (171.0, 171.0, Wheel()),
        (9.0, 351.0, Wheel(Scale.FULL)),
        (9.0, 9.0, Wheel(Scale.FULL)),
    ],
)
def test_readings_that_were_changed_about_are_named(
    before: float, after: float, wheel: Wheel
) -> None:
    with pytest.raises(EngineError, match="were they changed about"):
        true_top(before, after, wheel)


def test_the_span_of_a_drop_against_an_exact_slider_crank() -> None:
    # r 40, rod 140 at 60°: the fall is 160 − 20√46 (exact algebra).
    rig = Rig.of(even_inline((1, 3, 4, 2)))
    assert (rig.engine.stroke_mm, rig.engine.rod_mm) == (80, 140)
    span = span_of(rig, 1, 160 - 20 * math.sqrt(46))
    assert span.half_deg == pytest.approx(60.0, abs=1e-6)
    assert span.bias_deg == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize("cylinder", [1, 2, 5, 9])
def test_a_link_rod_biases_deep_drops(cylinder: int) -> None:
    rig = Rig.of(demo_rig("acacia"))
    assert rig.engine.layout.articulated is not None
    biases = [abs(span_of(rig, cylinder, drop).bias_deg) for drop in (0.5, 1.0, 20.0)]
    # At most 0.03° up to 1 mm (common practice, no source), and it grows with the drop.
    assert biases[1] <= 0.03
    if cylinder not in rig.engine.layout.articulated.masters:
        assert biases[0] < biases[1] < biases[2]
    span = span_of(rig, cylinder, 20.0)
    ends = rig.centres.tdc_deg[cylinder - 1] + span.bias_deg + np.array([-1, 1]) * span.half_deg
    around = np.broadcast_to(ends, (rig.engine.cylinder_count, 2))
    falls = rig.centres.top_mm[cylinder - 1] - piston_height_mm(Linkage.of(rig.engine), around)
    assert falls[cylinder - 1] == pytest.approx([20.0, 20.0], abs=1e-6)


def test_a_span_that_does_not_fit_says_so() -> None:
    span = Span(11.3, 0.0)
    assert span_fits(11.5, span)
    assert not span_fits(8.1, span)
    assert "needs ±11.3°, you have ±8.1°" in span_words(8.1, span, 0.5)
    assert "0.40° late" in span_words(30.0, Span(30.0, 0.4), 20.0)
    assert not span_words(11.3, span, 1.0)
