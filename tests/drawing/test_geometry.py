"""The drawn linkage against the engine: rods keep their length, pistons stay on their bores."""

import math
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtWidgets import QApplication

from true_compass.core.crank import makers
from true_compass.core.crank.layout import Form
from true_compass.core.engine import Engine, Head
from true_compass.core.state import Rig
from true_compass.drawing.chart import LiftCurves, degrees_to_y
from true_compass.drawing.endview import Arm, ArmScale, arms_of
from true_compass.drawing.frames import cylinder_frames
from true_compass.drawing.ring import Card, paint_frame, sense_of, true_cycles_deg
from true_compass.drawing.section import CROWN_AT_TDC, HEIGHT, SectionScale
from true_compass.drawing.stills import Stills
from true_compass.drawing.theme import theme
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.session.session import Session, Source

pytestmark = pytest.mark.usefixtures("qapp")
HAIR = 1e-6


def arms_at(engine: Engine, crank_deg: float) -> tuple[ArmScale, list[Arm]]:
    session = Session(engine, Source(), crank_deg)
    scale = ArmScale(session.state.rig)
    poses = [frame.pose for frame in cylinder_frames(session.state.shown, session.state.now)]
    return scale, arms_of(session.state.rig, scale, poses, sense_of(engine))


def gudgeon(arm: Arm) -> tuple[float, float]:
    turned = math.radians(arm.bearing_deg)
    return math.sin(turned) * arm.height, -math.cos(turned) * arm.height


# Offset bores are drawn in columns only.
IN_END_VIEW = [name for name in rig_names() if name != "holly"]


@pytest.mark.parametrize("name", IN_END_VIEW)
@pytest.mark.parametrize("crank_deg", [0.0, 47.0, 190.0, 333.0, 512.5])
def test_every_rod_keeps_its_length(name: str, crank_deg: float) -> None:
    """The drawing places pin, knuckle and piston each by its own rule; the rod must still fit."""
    engine = demo_rig(name)
    scale, arms = arms_at(engine, crank_deg)
    rods = Rig.of(engine).linkage.rod_mm * scale.unit_per_mm
    for arm, rod in zip(arms, rods, strict=True):
        drawn = math.dist(gudgeon(arm), (arm.rod_foot.x(), arm.rod_foot.y()))
        assert drawn == pytest.approx(rod, abs=1e-4), arm.cylinder


@pytest.mark.parametrize("name", rig_names())
def test_cylinders_on_one_throw_share_a_pin(name: str) -> None:
    engine = demo_rig(name)
    _, arms = arms_at(engine, 77.0)
    for throw, record in enumerate(engine.layout.throws):
        pins = [arms[cylinder - 1].pin for cylinder in engine.layout.on_throw(throw)]
        if pins and not record.split_deg:
            assert max(math.dist((p.x(), p.y()), (pins[0].x(), pins[0].y())) for p in pins) < HAIR


def test_an_anticlockwise_engine_is_the_mirror_image() -> None:
    plane = demo_rig("plane")
    assert sense_of(plane) == -1
    clockwise = makers.vee(8, 90)
    mirrored = Rig.of(clockwise)
    _, arms = arms_at(clockwise, 30.0)
    poses = [arm.pose for arm in arms]
    other = arms_of(mirrored, ArmScale(mirrored), poses, -1)
    for arm, twin in zip(arms, other, strict=True):
        assert twin.bearing_deg == -arm.bearing_deg
        assert (twin.pin.x(), twin.pin.y()) == pytest.approx((-arm.pin.x(), arm.pin.y()))


def test_intake_stands_towards_the_valley() -> None:
    _, arms = arms_at(makers.vee(8, 90), 0.0)
    assert [arm.mirrored for arm in arms] == [True] * 4 + [False] * 4
    _, star = arms_at(makers.radial(9), 0.0)
    assert not any(arm.mirrored for arm in star)


@pytest.mark.parametrize("name", rig_names())
def test_the_extent_holds_every_arm(name: str) -> None:
    engine = demo_rig(name)
    scale, arms = arms_at(engine, 0.0)
    box = scale.extent([arm.bearing_deg for arm in arms]).adjusted(-1, -1, 1, 1)
    for crank_deg in range(0, 720, 60):
        for arm in arms_at(engine, float(crank_deg))[1]:
            assert box.contains(QPointF(*gudgeon(arm)))
            assert box.contains(arm.pin)


@pytest.mark.parametrize("name", ["alder", "birch", "ash", "cypress"])
def test_a_section_fits_its_height_and_its_crank_turns_free(name: str) -> None:
    engine = demo_rig(name)
    scale = SectionScale.of(engine)
    assert scale.crank_y + scale.radius <= HEIGHT
    assert scale.bore_foot > CROWN_AT_TDC + 2 * scale.radius
    assert scale.radius == pytest.approx(engine.stroke_mm / 2 * scale.px_per_mm)


def test_beads_stand_at_the_true_tdc() -> None:
    session = Session(demo_rig("acacia"), Source())
    rig = session.state.rig
    for cylinder in (5, 7, 4):
        session.turn_to(float(rig.true_offsets_deg[cylinder - 1]))
        cycle = true_cycles_deg(rig, session.state.now)[cylinder - 1]
        assert min(cycle, 720 - cycle) < 1e-6


def card_image(engine: Engine, crank_deg: float = 0.0) -> QImage:
    session = Session(engine, Source(), crank_deg)
    image = QImage(440, 440, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    p = QPainter(image)
    p.translate(220, 220)
    paint_frame(p, (), theme("light"), sense_of(engine))
    Card(theme("light"), Stills(), sense_of(engine)).paint(p, session.state.rig, session.state.now)
    p.end()
    return image


def has_now(image: QImage, at: QPointF, reach: int = 10) -> bool:
    """Whether the colour of "now" is near a point about the ring's centre."""
    now, x0, y0 = theme("light").now.name(), round(220 + at.x()), round(220 + at.y())
    return any(
        image.pixelColor(x, y).name() == now
        for x in range(x0 - reach, x0 + reach)
        for y in range(y0 - reach, y0 + reach)
    )


def test_the_mark_stays_and_the_card_turns() -> None:
    top, foot = QPointF(0, -121), QPointF(0, 121)
    at_tdc, between = card_image(makers.inline(6), 240.0), card_image(makers.inline(6), 187.0)
    assert has_now(at_tdc, top)
    assert has_now(at_tdc, foot, reach=22)
    assert not has_now(between, top)
    assert not has_now(between, foot, reach=22)


def test_two_that_fire_together_stack_inward() -> None:
    together = replace(makers.inline(4), late=(False, False, False, False))
    image = card_image(together)
    assert has_now(image, QPointF(0, -121))
    assert has_now(image, QPointF(-13, -83), reach=3)
    assert not has_now(card_image(makers.inline(4)), QPointF(-13, -83), reach=3)


@pytest.mark.parametrize(
    ("head", "bank", "letters"),
    [
        (Head(), 0, "IEIEIEIE"),
        (Head(pattern="EIIEEIIE"), 0, "EIIEEIIE"),
        (Head(pattern="IEIEIEIE"), 1, "IEIEIEIE"),
        (Head(pattern="IEIEIEIE", mirrored=True), 1, "EIEIEIEI"),
        (Head(pattern="IEIEIEIE EIEIEIEI"), 0, "IEIEIEIE"),
        (Head(pattern="IEIEIEIE EIEIEIEI"), 1, "EIEIEIEI"),
        (Head(mirrored=True), 0, "IEIEIEIE"),
    ],
)
def test_valve_patterns_along_the_heads(head: Head, bank: int, letters: str) -> None:
    engine = replace(makers.vee(8, 90), head=head)
    assert engine.layout.form is Form.V
    assert engine.valves_along(bank) == letters


def test_the_chart_spans_the_cycle() -> None:
    curves = LiftCurves.of(Rig.of(demo_rig("birch"))).fractions
    assert curves.shape == (12, 361)
    assert np.all(curves.max(axis=1) > 0.99)
    assert np.all(curves >= 0)
    assert (degrees_to_y(0.0, 266), degrees_to_y(720.0, 266)) == (0.0, 266.0)


def test_the_application_runs_offscreen(qapp: QApplication) -> None:
    assert qapp.platformName() == "offscreen"
