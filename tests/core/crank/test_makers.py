"""Cranks as they are built: pins by the balance of their forces, and by what the trade knows."""

import numpy as np
import pytest

from true_compass.core.crank.layout import Layout
from true_compass.core.crank.makers import (
    double_u,
    flat,
    inline,
    radial,
    square_four,
    staggered,
    u_engine,
    vee,
)
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError


def pins_of(engine: Engine) -> list[float]:
    return [throw.angle_deg for throw in engine.layout.throws]


@pytest.mark.parametrize(
    ("engine", "pins"),
    [
        # Common practice, no source.
        (inline(2, "180"), [0, 180]),
        (inline(3, "180"), [0, 180, 0]),
        (inline(4, "180"), [0, 180, 180, 0]),
        (inline(2, "360"), [0, 0]),
        (inline(3, "360"), [0, 0, 0]),
        (inline(4, "360"), [0, 0, 0, 0]),
        (inline(4, "crossplane"), [0, 90, 270, 180]),
        (inline(8, "crossplane"), [0, 180, 90, 270, 270, 90, 180, 0]),
        (vee(2, 45), [0]),
        (vee(4, 90), [0, 180]),
        (vee(6, 60), [0, 240, 120]),
        (vee(8, 90), [0, 90, 270, 180]),
        (vee(8, 90, crank="flat"), [0, 180, 180, 0]),
        (vee(10, 72), [0, 144, 216, 288, 72]),
        (vee(12, 60), [0, 240, 120, 120, 240, 0]),
        (vee(16, 45), [0, 180, 90, 270, 270, 90, 180, 0]),
        (flat(6), [0, 180, 240, 60, 120, 300]),
        (radial(9), [0]),
        (radial(14, 2), [0, 180]),
        (square_four(), [0, 180, 180, 0]),
        (u_engine(8), [0, 180, 180, 0, 270, 90, 90, 270]),
        (double_u(12, 3, 60), [0, 180, 180, 0]),
        (double_u(18, 3, 40), [0, 240, 120, 120, 240, 0]),
        (double_u(6, 3, 60), [0, 180]),
        (double_u(8, 4, 45), [0, 180]),
        (vee(4, 90, crank="flat"), [0, 180]),
        (vee(12, 90, crank="flat"), [0, 180, 180, 180, 180, 0]),
        (vee(14, 90), [n * 720 / 7 % 360 for n in (0, 1, 2, 3, 4, 5, 6)]),
        (u_engine(4), [0, 180, 180, 0]),
        (u_engine(6), [0, 240, 120, 240, 120, 0]),
        (flat(2), [0, 180]),
    ],
)
def test_pins(engine: Engine, pins: list[float]) -> None:
    assert pins_of(engine) == pytest.approx(pins)


def forces(layout: Layout, order: int) -> float:
    """What is left of the inertia of one bank's pistons, as a share: the pins as vectors added."""
    pins = np.radians([layout.pin_deg[row] for row in range(layout.cylinder_count)])
    return float(abs(np.exp(1j * order * pins).sum())) / layout.cylinder_count


@pytest.mark.parametrize("count", range(3, 9))
def test_first_order_forces_of_an_even_inline_cancel(count: int) -> None:
    """Any text on engine balance: vectors spread evenly over a turn add up to nothing."""
    assert forces(inline(count).layout, 1) == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("engine", [inline(4, "crossplane"), inline(8, "crossplane"), vee(8, 90)])
def test_a_crossplane_crank_cancels_the_second_order_too(engine: Engine) -> None:
    assert forces(engine.layout, 1) == pytest.approx(0.0, abs=1e-9)
    assert forces(engine.layout, 2) == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("angle", range(40, 121, 5))
@pytest.mark.parametrize("count", [6, 8, 10, 12])
@pytest.mark.parametrize("pins", ["split", "own"])
def test_split_and_own_pins_make_any_angle_even(count: int, angle: int, pins: str) -> None:
    """Bank B's pin leads or trails by what the angle lacks; each pin then fires in its gap."""
    engine = vee(count, float(angle), pins)
    assert engine.fires_evenly, engine.intervals_deg
    # The second pin of a throw is never farther away than half of a firing gap.
    if pins == "split":
        split = engine.layout.throws[0].split_deg
        gap = 720.0 / count
        assert abs(split) <= gap / 2 + 1e-9
        assert (angle - split) % gap == pytest.approx(0.0, abs=1e-6) or (
            (angle - split) % gap == pytest.approx(gap, abs=1e-6)
        )


@pytest.mark.parametrize(("count", "angle"), [(9, 80), (12, 60), (15, 48), (18, 40)])
def test_three_banks_that_stand_a_gap_apart_fire_evenly_one_by_one(count: int, angle: int) -> None:
    """Common practice, no source: banks 720° / cylinders apart. 15 stand at 48°."""
    engine = double_u(count, 3, float(angle))
    assert engine.fires_evenly
    assert len(engine.firing_groups) == count


@pytest.mark.parametrize("count", range(2, 9))
def test_staggered_bores_fire_evenly(count: int) -> None:
    engine = staggered(count)
    assert engine.fires_evenly
    assert [bank.axis_offset_mm for bank in engine.layout.banks] == [12.0, -12.0]


REFUSED = {
    "V of 7": lambda: vee(7, 90),
    "V of 18": lambda: vee(18, 90),
    "flat crank of 10": lambda: vee(10, 90, crank="flat"),
    "flat of 14": lambda: flat(14),
    "flat of 3": lambda: flat(3),
    "radial of 2": lambda: radial(2),
    "radial of 10 in one row": lambda: radial(10),
    "radial of 4 in two": lambda: radial(4, 2),
    "W of 8 in three": lambda: double_u(8, 3),
    "W of five banks": lambda: double_u(10, 5),
    "W all round": lambda: double_u(9, 3, 180.0),
    "U of 5": lambda: u_engine(5),
    "U of 10": lambda: u_engine(10),
    "staggered 1": lambda: staggered(1),
    "staggered 9": lambda: staggered(9),
    "inline 9": lambda: inline(9),
    "crossplane 3": lambda: inline(3, "crossplane"),
    "no angle": lambda: vee(8, 0.5),
}


@pytest.mark.parametrize("name", REFUSED)
def test_what_cannot_be_made_is_refused(name: str) -> None:
    with pytest.raises(EngineError):
        REFUSED[name]()


@pytest.mark.parametrize(
    "engine",
    [
        vee(8, 90),
        vee(8, 90, first="B"),
        flat(6),
        flat(6, first="B"),
        double_u(12),
        staggered(6),
        square_four(),
        u_engine(8),
    ],
)
def test_the_bank_of_cylinder_1_sits_ahead_and_no_other(engine: Engine) -> None:
    layout = engine.layout
    ahead = [place for place, bank in enumerate(layout.banks) if bank.ahead]
    assert ahead == [layout.seats[0].bank]


def test_banks_stand_evenly_about_the_upright() -> None:
    assert [bank.angle_deg for bank in double_u(8, 4, 119.0).layout.banks] == [
        -178.5,
        -59.5,
        59.5,
        178.5,
    ]
    assert [bank.angle_deg for bank in double_u(16, 4, 30.0).layout.banks] == [-45, -15, 15, 45]
    assert [bank.angle_deg for bank in vee(6, 60.0).layout.banks] == [-30, 30]
