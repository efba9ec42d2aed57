"""The lens on the overlap: it is as wide as the overlap, and each curve has its own name."""

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication

from tests.painted import Painted
from true_compass.core.angles import Floats
from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.valves.cam import ValveTiming
from true_compass.core.valves.timing import CylinderCycle
from true_compass.drawing.lens import Lens
from true_compass.drawing.theme import theme
from true_compass.files.rigs import demo_rig, rig_names

BOX = QRectF(0, 0, 540, 170)


def with_events(intake: tuple[float, float], exhaust: tuple[float, float]) -> Engine:
    """Alder with another cam, its events at the seat."""
    engine = demo_rig("alder")
    lash, cam = engine.cam.intake, engine.cam
    made = [
        ValveTiming(*events, 14.0, lash.lash_mm, lash.ramp_deg, lash.ramp_mm)
        for events in (intake, exhaust)
    ]
    return replace(engine, card=None, cam=replace(cam, intake=made[0], exhaust=made[1]))


# The events of a race cam, at the seat (common practice, no source).
RACE = with_events((78.0, 102.0), (112.0, 66.0))
ENGINES = [RACE, *map(demo_rig, rig_names())]


@pytest.mark.parametrize("engine", ENGINES, ids=lambda engine: engine.name)
def test_each_curve_has_its_own_name_and_the_crossing_is_seen(
    engine: Engine, qapp: QApplication, monkeypatch: pytest.MonkeyPatch
) -> None:
    cycle = CylinderCycle.of(Rig.of(engine), 1)
    lens, image = Lens(BOX, cycle, theme("light")), QImage(540, 170, QImage.Format.Format_RGB32)
    painted = Painted(monkeypatch)
    p = QPainter(image)
    lens.paint_ground(p)
    lens.paint_curves(p)
    p.end()
    lower = cycle.lift_mm.min(axis=0) * (np.abs(cycle.at_deg - 360.0) <= 120.0)
    if lower.max() > 0:
        crossing = float(lower.max())
        assert lens.plot.top() < lens.y(crossing) < lens.plot.bottom()
        ends = cycle.at_deg[lower > 0]
        assert lens.plot.left() <= lens.x(float(ends[0]))
        assert lens.x(float(ends[-1])) <= lens.plot.right()
    boxes = dict(painted.seen)
    for kind, name in ((Kind.INTAKE, "I1"), (Kind.EXHAUST, "E1")):
        if name not in boxes:
            continue
        own, other = (cycle.lift_mm[row] for row in ((0, 1) if kind is Kind.INTAKE else (1, 0)))
        spot = boxes[name].center()
        assert distance(lens, cycle, own, spot.x(), spot.y()) < distance(
            lens, cycle, other, spot.x(), spot.y()
        )


def distance(lens: Lens, cycle: CylinderCycle, lift: Floats, x: float, y: float) -> float:
    """How far a place in the lens is from a curve, in pixels."""
    within = (np.abs(cycle.at_deg - 360.0) <= lens.reach_deg) & (lift > 0) & (lift <= lens.top_mm)
    if not within.any():
        return 1e9
    xs = np.array([lens.x(float(at)) for at in cycle.at_deg[within]])
    ys = np.array([lens.y(float(mm)) for mm in lift[within]])
    return float(np.hypot(xs - x, ys - y).min())


def test_the_overlap_from_seat_to_seat_stands_beside_that_at_a_checking_lift() -> None:
    """Cedar's events hold at 0.1 mm: from seat to seat its valves are open together for longer."""
    cycle = CylinderCycle.of(Rig.of(demo_rig("cedar")), 1)
    assert cycle.times.overlap_deg is not None
    assert cycle.whole_deg is not None
    assert cycle.whole_deg > cycle.times.overlap_deg + 10
    both = (cycle.lift_mm > 0).all(axis=0) & (np.abs(cycle.at_deg - 360.0) <= 120.0)
    assert cycle.whole_deg == pytest.approx(np.count_nonzero(both), abs=2)
    assert CylinderCycle.of(Rig.of(RACE), 1).whole_deg is None
