"""Directions as they are drawn: cap, leads, lamp; and a picture for each step of fitting."""

import math
from dataclasses import replace
from itertools import pairwise

import pytest
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication

from true_compass.core.engine import Engine
from true_compass.core.ignition.bay import Step
from true_compass.core.ignition.stand import sound
from true_compass.core.rotation import Rotation
from true_compass.core.spark import Rotor, Viewpoint
from true_compass.drawing.cap_map import CapMap
from true_compass.drawing.fit_step import StepPicture
from true_compass.drawing.lamp import LampFace, paint_pump
from true_compass.drawing.stills import Stills
from true_compass.drawing.theme import load_fonts, theme
from true_compass.files.rigs import demo_rig, rig_names

BOX = QRectF(0, 0, 540, 520)


def map_of(engine: Engine) -> CapMap:
    return CapMap.of(engine, sound(engine), BOX)


def bearing_deg(place: CapMap, at: QPointF) -> float:
    """Clockwise on the screen from the top."""
    away = at - place.centre
    return math.degrees(math.atan2(away.x(), -away.y())) % 360


@pytest.mark.parametrize("turns", list(Rotation))
@pytest.mark.parametrize("seen", list(Viewpoint))
def test_posts_follow_in_the_rotors_direction_on_the_screen(
    turns: Rotation, seen: Viewpoint
) -> None:
    cedar = demo_rig("cedar")
    engine = replace(cedar, spark=replace(cedar.spark, rotor=Rotor(turns, seen)))
    place = map_of(engine)
    at = [bearing_deg(place, place.post(post)) for post in range(1, 9)]
    for one, other in pairwise(at):
        assert (other - one) % 360 == pytest.approx(45.0 if turns.sense > 0 else 315.0)
    # At its firing point the rotor stands on the post of 1; on by 90° of crank on the next.
    firing = 720.0 - (engine.spark.advance.initial_deg or 0.0)
    for crank, post in ((firing, 1), (firing + 90.0, 2), (firing + 630.0, 8)):
        tip = place.centre + place.towards(place.rotor_deg(crank)) * 50
        assert bearing_deg(place, tip) == pytest.approx(at[post - 1], abs=1e-6)


def test_from_above_the_front_is_at_the_left_and_clockwise_is_clockwise() -> None:
    place = map_of(demo_rig("cedar"))
    assert (place.towards(0.0).x(), round(place.towards(90.0).y(), 6)) == (-1.0, -1.0)
    for direction in (10.0, 100.0, 250.0, 359.0):
        at = place.centre + place.towards(direction) * 77
        assert place.direction_deg(at) == pytest.approx(direction)
    radial = map_of(demo_rig("acacia"))
    assert round(radial.towards(0.0).y(), 6) == -1.0


@pytest.mark.parametrize("name", rig_names())
def test_every_lead_begins_at_its_post_and_ends_at_its_plug(name: str) -> None:
    engine = demo_rig(name)
    place = map_of(engine)
    assert set(place.plugs) == set(engine.cylinders)
    assert all(BOX.contains(at) for at in place.plugs.values())
    for post, path in place.leads(engine.firing_order).items():
        plug = place.plugs[engine.firing_order[post - 1]]
        begin, end = path.elementAt(0), path.currentPosition()
        assert math.hypot(end.x() - plug.x(), end.y() - plug.y()) == pytest.approx(
            place.plug_radius, abs=0.01
        )
        from_middle = math.hypot(begin.x - place.centre.x(), begin.y - place.centre.y())
        assert from_middle == pytest.approx(place.radius, abs=0.01)
        assert place.plug_near(plug) == engine.firing_order[post - 1]
        assert place.post_near(place.post(post)) == post


def test_under_the_lamp_zero_stands_short_of_the_pointer_against_the_rotation() -> None:
    """Seen from the front, clockwise: zero is left of the pointer, and further with more advance
    (common practice, no source).
    """
    for sense in (1, -1):
        at = [LampFace(shows, sense)._bearing(0, small=False) for shows in (0.0, 10.0, 30.0)]
        assert at[0] == 0.0
        assert sense * at[1] < 0.0
        assert sense * at[2] < sense * at[1]


def painted(paint: object) -> QImage:
    image = QImage(400, 300, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    p = QPainter(image)
    assert callable(paint)
    paint(p)
    p.end()
    return image


def test_each_step_has_a_picture_of_its_own(qapp: QApplication) -> None:
    load_fonts()
    assert qapp is not None
    picture = StepPicture(theme("light"), map_of(demo_rig("cedar")))
    blank = painted(lambda p: None)
    images = [
        painted(lambda p, step=step: picture.paint(p, QPointF(200, 150), step)) for step in Step
    ]
    assert all(image != blank for image in images)
    assert all(one != other for n, one in enumerate(images) for other in images[n + 1 :])
    # A body that turns the other way has another picture, an unknown direction a question.
    other = StepPicture(theme("light"), map_of(demo_rig("alder")))
    assert painted(lambda p: other.paint(p, QPointF(200, 150), Step.TURNS)) not in images


def test_a_pump_that_falls_and_one_that_holds_look_different(qapp: QApplication) -> None:
    load_fonts()
    assert qapp is not None
    box = QRectF(0, 0, 380, 280)
    holds, falls = (
        painted(lambda p, fallen=fallen: paint_pump(p, box, 330.0, fallen=fallen))
        for fallen in (False, True)
    )
    assert holds != falls
    faces = [
        painted(
            lambda p, shows=shows: LampFace(shows, should_deg=10.0, told="").paint(
                p, box, theme("dark"), Stills()
            )
        )
        for shows in (10.0, 10.2, 21.0)
    ]
    assert len({bytes(face.bits().asarray(face.sizeInBytes())) for face in faces}) == 3
