"""Volume, compression and piston speed, against a text and against general quadrature."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import quad

from true_compass.core.crank.cylinder import (
    clearance_cm3,
    compression_from_closing,
    piston_speed_mm_per_deg,
    pressure_kpa,
    swept_cm3,
    volume_cm3,
)
from true_compass.core.engine import Compression, even_inline
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

ONE = Rig.of(replace(even_inline((1,)), compression=Compression(9.5, 1.32, 95.0)))
ANGLES = np.arange(0.0, 720.0, 7.5)


def test_volume_as_the_handbook_has_it() -> None:
    # V/Vc = 1 + (rc - 1)/2 [R + 1 - cos θ - sqrt(R² - sin² θ)]: J. B. Heywood, Internal Combustion
    # Engine Fundamentals, 1988, eq. 2.6 (from memory).
    engine = ONE.engine
    ratio = engine.rod_mm / (engine.stroke_mm / 2)
    theta = np.radians(ANGLES)
    share = ratio + 1 - np.cos(theta) - np.sqrt(ratio**2 - np.sin(theta) ** 2)
    expected = clearance_cm3(ONE)[0] * (1 + (engine.compression.ratio - 1) / 2 * share)
    assert volume_cm3(ONE, ANGLES[None, :])[0] == pytest.approx(expected, rel=1e-9)
    assert swept_cm3(ONE)[0] == pytest.approx(np.pi / 4 * 8.4**2 * 8.0)


@pytest.mark.parametrize("name", ["birch", "acacia", "holly"])
def test_volume_is_what_the_piston_speed_adds_up_to(name: str) -> None:
    """By quadrature: also with link rods and offset bores, where the strokes are not 180°."""
    rig = Rig.of(demo_rig(name))
    row = rig.engine.cylinder_count - 1
    area_cm2 = np.pi / 4 * rig.engine.bore_mm**2 / 100

    def speed(cycle_deg: float) -> float:
        own = np.full(rig.engine.cylinder_count, cycle_deg)
        return float(piston_speed_mm_per_deg(rig, own)[row])

    for end in (40.0, 133.0, 250.0):
        fall_mm, _ = quad(speed, float(rig.centres.tdc_deg[row]), end)
        own = np.full(rig.engine.cylinder_count, end)
        grown = volume_cm3(rig, own)[row] - clearance_cm3(rig)[row]
        assert grown == pytest.approx(area_cm2 * fall_mm / 10, rel=1e-6)


def test_compression_from_closing_is_less_than_static() -> None:
    at_bdc, late = (compression_from_closing(ONE, np.array([at]))[0] for at in (540.0, 590.0))
    assert at_bdc == pytest.approx(9.5, rel=1e-9)
    assert 1 < late < at_bdc


def test_the_pressure_obeys_its_own_law() -> None:
    closes = np.array([590.0])
    at = np.arange(590.0, 720.0, 0.5)
    pressure = pressure_kpa(ONE, at[None, :], closes)[0]
    volume = volume_cm3(ONE, at[None, :])[0]
    law = pressure * volume**1.32
    assert law == pytest.approx(law[0], rel=1e-9)
    # Work of compression by quadrature against (p2 V2 - p1 V1)/(1 - n): any text on gases.
    work = np.trapezoid(pressure, volume)
    expected = (pressure[-1] * volume[-1] - pressure[0] * volume[0]) / (1 - 1.32)
    assert work == pytest.approx(expected, rel=1e-4)
    assert pressure_kpa(ONE, np.array([[300.0]]), closes)[0, 0] == 95.0
