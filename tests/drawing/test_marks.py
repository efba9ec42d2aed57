"""Marks in their own colour at the bench and in Watch, and the place of a blade on the lobe."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtWidgets import QApplication

from tests.painted import Painted
from true_compass.bench.covered import Covered
from true_compass.bench.gaps import open_shares
from true_compass.bench.scenario import Scenario
from true_compass.bench.state import first_state
from true_compass.bench.tasks import Task
from true_compass.core.engine import Engine, Mark
from true_compass.core.state import Rig, engine_state
from true_compass.drawing import covered
from true_compass.drawing.gap_sketch import HEIGHT, WIDTH, GapSketch
from true_compass.drawing.marks import PAINTS
from true_compass.drawing.ring import Card
from true_compass.drawing.scene import scene_of
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import texts_recorded
from true_compass.drawing.theme import Theme, theme
from true_compass.files.rigs import demo_rig, rig_names

RED, YELLOW = QColor(PAINTS["red"]), QColor(PAINTS["yellow"])


def marked(close_deg: float) -> Engine:
    marks = (
        Mark("pulley", 0.0, "T", colour="red"),
        Mark("pulley", close_deg, "F", colour="yellow"),
    )
    return replace(demo_rig("birch"), marks=marks)


def colours_of(image: QImage) -> set[str]:
    return {
        image.pixelColor(x, y).name() for x in range(image.width()) for y in range(image.height())
    }


@pytest.mark.parametrize("name", ["light", "dark"])
@pytest.mark.parametrize("close_deg", [4.0, 12.0, 90.0])
def test_two_coloured_marks_are_seen_and_named_apart(
    qapp: QApplication, monkeypatch: pytest.MonkeyPatch, name: str, close_deg: float
) -> None:
    work = Covered.of(Scenario(marked(close_deg), Task.FREE, 1, 7, 1))
    state = first_state(work)
    scene = scene_of(work, QRectF(0, 0, 900, 420), 0)
    painted = Painted(monkeypatch)
    image = QImage(900, 420, QImage.Format.Format_RGB32)
    p = QPainter(image)
    painter = covered.EnginePainter(scene, work, theme(name), Stills())
    painter.paint_still(p, state)
    painter.paint_moving(p, state)
    p.end()
    assert {RED.name(), YELLOW.name()} <= colours_of(image)
    boxes = {words: box for words, box in painted.seen if words in ("T", "F")}
    assert set(boxes) == {"T", "F"}
    assert not boxes["T"].intersects(boxes["F"])


@pytest.mark.parametrize("name", rig_names())
def test_only_an_engine_without_marks_of_its_own_gets_lines_on_its_flywheel(name: str) -> None:
    engine = demo_rig(name)
    work = Covered.of(Scenario(engine, Task.FREE, 1, 7, 1))
    own = {mark.where for mark in engine.marks}
    where = {mark.where for mark, _ in work.marks}
    assert where <= own | {"damper"} if own else "damper" in where


@pytest.mark.parametrize("at_deg", [0.0, 77.0, 360.0])
def test_watch_shows_the_marks_where_they_pass(qapp: QApplication, at_deg: float) -> None:
    rig = Rig.of(marked(40.0))
    image = QImage(400, 400, QImage.Format.Format_RGB32)
    image.fill(QColor("#808080"))
    p = QPainter(image)
    p.translate(200, 200)
    with texts_recorded() as texts:
        Card(theme("light"), Stills(), marks=True).paint(p, rig, engine_state(rig, at_deg))
    p.end()
    assert {RED.name(), YELLOW.name()} <= colours_of(image)
    assert ("mark red T" in texts) is (at_deg % 360.0 == 0.0)
    assert "mark yellow F" not in texts


@pytest.mark.parametrize("name", ["birch", "maple", "aspen", "yew"])
def test_on_its_lobe_a_valve_shows_no_gap_and_no_blade_inside(
    qapp: QApplication, name: str
) -> None:
    look = theme("light")
    train = demo_rig(name).train
    # The blade lies where the gap was, or beside it: its left edge tells.
    heel, lobe = (
        blade_left(GapSketch(train, look, blade=True, lift=lift), look) for lift in (0, 1)
    )
    assert lobe - heel > 40
    assert GapSketch(train, look, blade=True, lift=0.5).gap == 0.0


def blade_left(sketch: GapSketch, look: Theme) -> int:
    image = QImage(round(WIDTH), round(HEIGHT), QImage.Format.Format_RGB32)
    image.fill(look.sheet)
    p = QPainter(image)
    sketch.paint(p)
    p.end()
    return min(
        x
        for x in range(image.width())
        for y in range(image.height())
        if image.pixelColor(x, y) == look.now
    )


def test_what_is_open_follows_the_lobe() -> None:
    work = Covered.of(Scenario(demo_rig("birch"), Task.FREE, 1, 7, 1))
    state = first_state(work)._replace(cam_lag_deg=0.0)
    peak_deg = float(work.true_tdc_deg[0]) + 470.0  # about full lift of intake 1
    at_peak = open_shares(work, state._replace(crank_deg=peak_deg))
    at_tdc = open_shares(work, state._replace(crank_deg=float(work.true_tdc_deg[0])))
    place = work.place["I1"]
    assert at_peak[place] > 0.9
    assert at_tdc[place] == 0.0
