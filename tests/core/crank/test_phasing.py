import numpy as np
import pytest
from hypothesis import given

from tests.strategies import orders
from true_compass.core.crank.phasing import (
    at_tdc,
    companion_of,
    crank_pins,
    cycle_angles_deg,
    due_to_fire,
    strokes,
)
from true_compass.core.engine import even_inline
from true_compass.core.strokes import Stroke

SIX = even_inline((1, 5, 3, 6, 2, 4))


@given(orders)
def test_cylinders_fire_in_their_order_at_even_intervals(order: tuple[int, ...]) -> None:
    offsets = even_inline(order).firing_offsets_deg
    assert tuple(np.argsort(offsets) + 1) == order
    assert np.allclose(np.diff(np.sort(offsets)), 720 / len(order))


@given(orders)
def test_companions_are_a_turn_apart_and_mutual(order: tuple[int, ...]) -> None:
    engine = even_inline(order)
    offsets = engine.firing_offsets_deg
    for cylinder in engine.cylinders:
        companion = companion_of(engine, cylinder)
        if len(order) % 2:
            assert companion is None
        else:
            assert companion is not None
            assert abs(offsets[companion - 1] - offsets[cylinder - 1]) == pytest.approx(360)
            assert companion_of(engine, companion) == cylinder


def test_a_cylinder_passes_through_the_four_strokes() -> None:
    cycle = cycle_angles_deg(SIX.firing_offsets_deg, np.arange(0.0, 720.0, 180.0))
    assert strokes(cycle)[0].tolist() == list(Stroke)
    # Cylinder 3 fires at 240°, so at 180° it is on compression: 1-5-3, 120° apart.
    assert Stroke(strokes(cycle)[2, 1]) is Stroke.COMPRESSION


@pytest.mark.parametrize(("away", "there"), [(0.0, True), (0.5, True), (-0.5, True), (0.51, False)])
def test_at_tdc_means_within_half_a_degree(away: float, there: bool) -> None:
    compression, overlap = at_tdc(np.array([away % 720, (360 + away) % 720]))
    assert compression.tolist() == [there, False]
    assert overlap.tolist() == [False, there]


def test_pins_follow_from_the_order() -> None:
    # On an inline a pin 120° on from pin 1 comes to TDC at 240°: 3 and 4 fire at 240 and 600.
    assert crank_pins(SIX) == ((0.0, (1, 6)), (120.0, (3, 4)), (240.0, (2, 5)))


@pytest.mark.parametrize(
    ("crank_deg", "cylinder", "before", "companion"),
    [
        (240.0, 3, 0.0, 4),
        (240.4, 3, 0.0, 4),
        (239.6, 3, 0.0, 4),
        (187.0, 3, 53.0, 4),
        (719.8, 1, 0.0, 6),
    ],
)
def test_who_is_due(crank_deg: float, cylinder: int, before: float, companion: int) -> None:
    due = due_to_fire(SIX, SIX.firing_offsets_deg, crank_deg)
    assert (due.cylinder, due.before_deg, due.companion) == (cylinder, before, companion)


def test_a_hair_before_its_tdc_is_still_within_the_cycle() -> None:
    """0 less 1e-14 and one cycle more rounds to 720 itself, which is 0."""
    for crank in (0.0, np.zeros(3)):
        assert np.all(cycle_angles_deg(np.array([1e-14]), crank) == 0.0)
