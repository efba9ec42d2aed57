import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from tests.tables import rows
from true_compass.core.mechanism import piston_from_tdc_mm

NANOMETRE = 1e-6


@pytest.mark.parametrize("row", rows("heywood_piston"), ids=lambda row: f"{row['angle_deg']} deg")
def test_published_formula(row: dict[str, str]) -> None:
    got = piston_from_tdc_mm(float(row["angle_deg"]), float(row["stroke_mm"]), float(row["rod_mm"]))
    assert float(got) == pytest.approx(float(row["from_tdc_mm"]), abs=0.5e-5)


@given(st.floats(-720, 720), st.floats(20, 300), st.floats(0.51, 4))
def test_second_derivation_by_solving_for_the_rod(
    angle: float, stroke: float, ratio: float
) -> None:
    """The gudgeon pin is where a rod of the right length reaches from the crank pin to the axis."""
    rod, radius = stroke * ratio, stroke / 2
    pin = radius * np.array([np.sin(np.radians(angle)), np.cos(np.radians(angle))])

    def too_long(height: float) -> float:
        return float(np.hypot(pin[0], height - pin[1]) - rod)

    height = brentq(too_long, pin[1], radius + rod + 1, xtol=1e-10)
    assert float(piston_from_tdc_mm(angle, stroke, rod)) == pytest.approx(
        radius + rod - height, abs=100 * NANOMETRE
    )


def test_never_above_tdc_and_the_same_for_arrays() -> None:
    angles = np.concatenate((np.linspace(-1, 1, 2001) * 1e-5, np.linspace(0, 720, 1441)))
    fall = piston_from_tdc_mm(angles, 104.0, 182.0)
    assert np.all(fall >= 0)
    assert np.max(fall) == pytest.approx(104.0)
    assert [float(piston_from_tdc_mm(a, 104.0, 182.0)) for a in angles[::97]] == fall[::97].tolist()
