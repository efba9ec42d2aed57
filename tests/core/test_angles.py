import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.strategies import angles_deg
from true_compass.core.angles import degrees_on, signed_difference_deg, wrap_deg

MICRO_DEGREE = 1e-6


@pytest.mark.parametrize("tiny", [-1e-146, -1e-300, -0.0, 720.0, -720.0, 1440.0])
def test_multiples_of_a_cycle_wrap_to_exactly_zero(tiny: float) -> None:
    assert wrap_deg(tiny) == 0.0
    assert wrap_deg(np.array([tiny]))[0] == 0.0


@given(angles_deg)
def test_wrapping_stays_in_the_cycle_and_at_the_same_place(angle: float) -> None:
    wrapped = wrap_deg(angle)
    assert 0.0 <= wrapped < 720.0
    assert np.isclose(np.cos(np.radians(wrapped / 2)), np.cos(np.radians(angle / 2)), atol=1e-9)
    assert wrap_deg(np.array([angle]))[0] == wrapped


@given(st.floats(0, 719.9), st.floats(0, 719.9))
def test_differences_lead_from_one_place_to_the_other(to: float, start: float) -> None:
    way = signed_difference_deg(np.array(to), np.array(start))
    assert -360.0 <= way < 360.0
    around = abs(wrap_deg(start + float(way)) - to)
    assert min(around, 720 - around) < MICRO_DEGREE
    assert degrees_on(to, start) == pytest.approx(float(way) % 720.0, abs=MICRO_DEGREE)
