from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from tests.tables import rows
from true_compass.core.crank.makers import flat, inline, radial, staggered
from true_compass.core.crank.mechanism import piston_from_tdc_mm
from true_compass.core.engine import Engine
from true_compass.core.state import Rig, engine_state

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


def towards(bearing_deg: float) -> complex:
    """A unit vector at a bearing: up is 0, and it goes round with the crank."""
    return complex(np.exp(1j * np.radians(bearing_deg)))


def reach(pin: complex, axis: complex, offset_mm: float, rod_mm: float) -> float:
    """How far out on an axis, offset to the side, the end of a rod from a pin lies: by Pythagoras
    in the frame of the axis."""
    turned = pin / axis
    return float(turned.real + np.sqrt(rod_mm**2 - (turned.imag - offset_mm) ** 2))


@pytest.mark.parametrize(
    "engine",
    [
        replace(inline(4), pin_offset_mm=6.0),
        replace(flat(6), pin_offset_mm=-4.0),
        staggered(5),
        radial(9),
        replace(radial(5), pin_offset_mm=7.0),
        radial(14, 2),
    ],
    ids=lambda engine: engine.layout_words,
)
def test_any_linkage_at_many_angles_drawn_as_vectors(engine: Engine) -> None:
    """Pin, master rod, knuckle pin and link rod one after the other, with complex numbers."""
    rig, crank_deg = Rig.of(engine), np.arange(0.0, 720.0, 7.3)
    fall = engine_state(rig, crank_deg).piston_from_tdc_mm
    layout, rods, radius = engine.layout, engine.layout.articulated, engine.stroke_mm / 2
    for row, seat in enumerate(layout.seats):
        master = row if rods is None else rods.masters[seat.throw] - 1
        heights = []
        for crank in crank_deg.tolist():
            own = crank - float(rig.offsets_deg[master])
            bank = float(layout.bank_deg[master])
            pin, offset = radius * towards(bank + own), float(engine.offsets_mm[master])
            out = reach(pin, towards(bank), offset, engine.rod_mm)
            if row != master:
                end = towards(bank) * complex(out, offset)
                along = (end - pin) / abs(end - pin)
                bank = float(layout.bank_deg[row])
                pin += engine_hub(engine) * along * towards(bank - float(layout.bank_deg[master]))
                aside = float(engine.offsets_mm[row])
                out = reach(pin, towards(bank), aside, engine.rod_mm - engine_hub(engine))
            heights.append(out)
        top = float(rig.centres.top_mm[row])
        assert fall[row] == pytest.approx(top - np.array(heights), abs=100 * NANOMETRE)
        assert top >= max(heights) - 100 * NANOMETRE


def engine_hub(engine: Engine) -> float:
    assert engine.layout.articulated is not None
    return engine.layout.articulated.hub_mm
