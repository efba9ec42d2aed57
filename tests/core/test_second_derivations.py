"""The same figures by another way: closed forms, a drawn crank, and general solvers."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp

from tests.strategies import made
from true_compass.core.crank.cylinder import piston_speed_mm_per_deg, pressure_kpa, volume_cm3
from true_compass.core.crank.layout import Bank, Form, Layout, Seat, Throw
from true_compass.core.crank.mechanism import Linkage, dead_centres, piston_height_mm
from true_compass.core.engine import Compression, Engine, even_inline
from true_compass.core.state import Rig
from true_compass.core.valves.timing import CylinderCycle
from true_compass.files.rigs import demo_rig

ONE = even_inline((1,))


def single(stroke_mm: float, rod_share: float, offset_share: float) -> Engine:
    """One cylinder, its rod and its pin offset as shares of what they may be."""
    radius = stroke_mm / 2
    rod_mm = radius * (1.2 + 3 * rod_share)
    offset_mm = min(0.9 * (rod_mm - radius), 40.0) * offset_share
    return replace(ONE, stroke_mm=stroke_mm, rod_mm=rod_mm, pin_offset_mm=offset_mm)


shares = st.floats(0, 1)


@settings(max_examples=60)
@given(st.floats(40, 200), shares, st.floats(-1, 1))
def test_dead_centres_of_an_offset_pin_in_closed_form(
    stroke_mm: float, rod_share: float, offset_share: float
) -> None:
    """At a dead centre rod and throw lie in one line: stretched at the top, folded at the foot.

    So sin of the angle is e / (l + r) at the top and e / (l − r) past half a turn at the foot: the
    right-angled triangle over the offset e, any text on the slider-crank.
    """
    engine = single(stroke_mm, rod_share, offset_share)
    radius, rod, offset = engine.stroke_mm / 2, engine.rod_mm, engine.pin_offset_mm
    found = dead_centres(Linkage.of(engine))
    assert found.tdc_deg[0] == pytest.approx(
        np.degrees(np.arcsin(offset / (rod + radius))), abs=1e-4
    )
    below = 180 + np.degrees(np.arcsin(offset / (rod - radius)))
    assert found.bdc_deg[0] == pytest.approx(below, abs=1e-3)
    top, foot = (np.sqrt(side**2 - offset**2) for side in (rod + radius, rod - radius))
    assert found.top_mm[0] == pytest.approx(top, abs=1e-6)
    assert found.stroke_mm[0] == pytest.approx(top - foot, abs=1e-5)


@settings(max_examples=40)
@given(st.floats(40, 200), shares, st.floats(-1, 1), st.floats(0, 720))
def test_piston_speed_is_the_change_of_its_height(
    stroke_mm: float, rod_share: float, offset_share: float, at_deg: float
) -> None:
    engine = single(stroke_mm, rod_share, offset_share)
    rig, step = Rig.of(engine), 1e-3
    ends = np.array([[at_deg - step, at_deg + step]])
    before, after = piston_height_mm(rig.linkage, ends)[0]
    falls = (before - after) / (2 * step)
    assert piston_speed_mm_per_deg(rig, np.array([at_deg]))[0] == pytest.approx(falls, abs=1e-4)


@pytest.mark.parametrize("exponent", [1.0, 1.28, 1.4])
def test_pressure_by_integrating_its_law(exponent: float) -> None:
    """dp/dθ = −n p / V dV/dθ, by a general solver, with the volume's slope from differences."""
    rig = Rig.of(replace(ONE, compression=Compression(10.0, exponent, 98.0)))
    closes, step = 590.0, 1e-3

    def volume(at_deg: float) -> float:
        return float(volume_cm3(rig, np.array([at_deg]))[0])

    def slope(at_deg: float, pressure: np.ndarray) -> np.ndarray:
        grows = (volume(at_deg + step) - volume(at_deg - step)) / (2 * step)
        return np.asarray(-exponent * pressure / volume(at_deg) * grows)

    places = np.arange(600.0, 721.0, 20.0)
    solved = solve_ivp(slope, (closes, 720.0), [98.0], t_eval=places, rtol=1e-9, atol=1e-9)
    found = pressure_kpa(rig, places[None, :], np.array([closes]))[0]
    assert found == pytest.approx(solved.y[0], rel=1e-6)


@pytest.mark.parametrize("name", ["birch", "whitebeam", "mulberry", "hickory"])
def test_the_overlap_area_by_quadrature(name: str) -> None:
    rig = Rig.of(demo_rig(name))

    def lower(at_deg: float) -> float:
        return float(rig.lobes.take([0, 1]).lift_mm(np.array([at_deg]))[:, 0].min())

    events = CylinderCycle.of(rig, 1).times
    # The lower lift bends where the two cross and where either leaves its seat.
    area, _ = quad(lower, 300.0, 430.0, points=[345.0, 360.0, 375.0], limit=400, epsabs=1e-4)
    assert events.overlap_area_mm_deg == pytest.approx(area, abs=0.01)


@settings(max_examples=60)
@given(made)
def test_a_drawn_crank_has_its_pins_on_the_banks_at_tdc(engine: Engine) -> None:
    """Turn the pins as vectors: at a cylinder's TDC its pin points along its bank."""
    layout = engine.layout
    if layout.typed_tdc_deg or any(throw.second_crank for throw in layout.throws):
        return
    for row in range(layout.cylinder_count):
        # Angles in the running direction; at 0 the pin of cylinder 1 points along its bank.
        turned = float(layout.bank_deg[0] - layout.pin_deg[0] + layout.tdc_deg[row])
        pin = np.radians(float(layout.pin_deg[row]) + turned)
        bank = np.radians(float(layout.bank_deg[row]))
        along = np.cos(pin) * np.cos(bank) + np.sin(pin) * np.sin(bank)
        assert along == pytest.approx(1.0, abs=1e-9)


@settings(max_examples=60)
@given(
    st.lists(st.integers(0, 359), min_size=1, max_size=6),
    st.sampled_from([(0.0,), (-45.0, 45.0), (-30.0, 30.0)]),
    st.integers(-180, 180),
)
def test_only_differences_of_angles_count(
    pins: list[int], banks: tuple[float, ...], turned: int
) -> None:
    """The whole crank and all banks turned by as much leave every dead centre where it was."""

    def layout(by_deg: float) -> Layout:
        return Layout(
            Form.V if len(banks) > 1 else Form.INLINE,
            tuple(Bank(f"{i}", angle + by_deg) for i, angle in enumerate(banks)),
            tuple(Throw(pin + by_deg) for pin in pins),
            tuple(Seat(b, t) for t in range(len(pins)) for b in range(len(banks))),
        )

    usual, other = layout(0.0), layout(float(turned))
    assert other.tdc_deg == pytest.approx(usual.tdc_deg, abs=1e-6)
    assert usual.tdc_deg[0] == 0.0
