import itertools
import math
from dataclasses import fields

import pytest
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtWidgets import QApplication

from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.strokes import Stroke
from true_compass.core.words import shown_degrees
from true_compass.drawing.chips import Chip, figure_within, low_chip
from true_compass.drawing.codes import fill_stroke
from true_compass.drawing.ring import free_arcs, lap_angle_deg, lap_direction
from true_compass.drawing.stills import MOST_BYTES, Stills
from true_compass.drawing.text import draw_paragraph_that_fits, fitted, paragraph_height, text_width
from true_compass.drawing.theme import Theme, Weight, load_fonts, theme, tokens
from true_compass.files.rigs import demo_rig

THEMES = ("light", "dark")


def luminance(colour: QColor) -> float:
    def linear(part: float) -> float:
        return part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4

    red, green, blue = (linear(part) for part in (colour.redF(), colour.greenF(), colour.blueF()))
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: QColor, other: QColor) -> float:
    """Contrast ratio of WCAG 2.2, success criterion 1.4.3."""
    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("name", THEMES)
def test_text_and_graphics_have_enough_contrast(name: str) -> None:
    colours = theme(name)
    text = [
        (ink, ground)
        for ink in (colours.ink, colours.ink2, colours.ink3)
        for ground in (colours.paper, colours.sheet, colours.well)
    ]
    text += [(colours.on_stroke(stroke), colours.stroke(stroke)) for stroke in Stroke]
    text += [(colours.on_ink, colours.ink), (colours.on_now, colours.now)]
    text += [(colours.ink, colours.now_tint), (colours.on_strip, colours.strip)]
    assert min(contrast(*pair) for pair in text) >= 4.5
    graphics = [(colours.stroke(stroke), colours.tint(stroke)) for stroke in Stroke]
    graphics += [(colours.now, colours.sheet), (colours.line, colours.paper)]
    assert min(contrast(*pair) for pair in graphics) >= 3.0


def painted(stroke: Stroke, colours: Theme) -> QImage:
    image = QImage(120, 120, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    fill_stroke(painter, QRectF(0, 0, 120, 120), stroke, colours)
    painter.end()
    return image.convertToFormat(QImage.Format.Format_Grayscale8)


@pytest.mark.parametrize("name", THEMES)
def test_strokes_differ_by_texture_alone(name: str, qapp: QApplication) -> None:
    """Two textures, made black and white, must differ in a good part of their area."""
    bits = {}
    for stroke in Stroke:
        image = painted(stroke, theme(name))
        grey = [image.pixelColor(x, y).red() for x in range(0, 120, 2) for y in range(0, 120, 2)]
        middle = (min(grey) + max(grey)) / 2
        bits[stroke] = [value > middle for value in grey]
    for one, other in itertools.combinations(Stroke, 2):
        apart = sum(a != b for a, b in zip(bits[one], bits[other], strict=True)) / len(bits[one])
        assert 0.15 < apart < 0.85 or Stroke.POWER in (one, other)


@pytest.mark.parametrize(
    ("margin", "lift", "figure", "thin", "words"),
    [
        (88.4, 0.0, "88°", False, "free, margin 88°"),
        (29.999, 0.0, "29°", True, "free, margin 29°"),
        (0.0, 0.0, "0°", True, "free, margin 0°"),
        (-3.0, 0.0, "ramp", False, "not free, on its ramp"),
        (-40.0, 4.26, "4.3 mm", False, "not free, open 4.26 mm"),
        (-25.0, 0.004, "<0.1 mm", False, "not free, open 0.00 mm"),
    ],
)
def test_chips_say_margin_or_lift(
    margin: float, lift: float, figure: str, thin: bool, words: str
) -> None:
    chip = Chip(Kind.INTAKE, "I12", margin, lift, 12)
    assert (chip.figure, chip.thin) == (figure, thin)
    assert chip.sentence == f"I12, intake valve of cylinder 12: {words}"


@pytest.mark.usefixtures("qapp")
@pytest.mark.parametrize("width", [17.3, 30.0, 60.0])
@pytest.mark.parametrize(
    ("margin", "lift"), [(216.0, 0.0), (5.0, 0.0), (-3.0, 0.0), (-40.0, 8.76), (-25.0, 0.004)]
)
def test_the_figure_of_a_narrow_chip_is_whole(margin: float, lift: float, width: float) -> None:
    """17 px is the narrowest: eighteen columns at 150 %."""
    load_fonts()
    chip = Chip(Kind.INTAKE, "I12", margin, lift, 12)
    figure, px, weight = figure_within(chip, width)
    assert chip.figure.startswith(figure)
    assert chip.figure.removeprefix(figure) in ("", "°", " mm")
    assert fitted(figure, px, weight, width) == (figure, px)


@pytest.mark.parametrize("sense", [1, -1])
@pytest.mark.parametrize("cycle_deg", [0.0, 1.0, 179.0, 360.0, 545.0, 719.0])
def test_places_on_the_lap_read_back(cycle_deg: float, sense: int) -> None:
    back = lap_angle_deg(lap_direction(cycle_deg, sense) * 120, sense)
    assert math.isclose((back - cycle_deg + 360) % 720, 360, abs_tol=1e-6)


def test_a_clockwise_lap_has_power_at_the_upper_right() -> None:
    assert lap_direction(90.0, 1).x() > 0
    assert lap_direction(90.0, -1).x() < 0


def test_free_arcs_are_the_base_circle_between_the_ramps() -> None:
    # Birch: 12/46/50/10 with ramps of 20°, so the intake is free from 606 to 1048, the exhaust
    # from 390 to 830.
    intake, exhaust = free_arcs(Rig.of(demo_rig("birch")))
    assert (intake.start_deg, intake.length_deg) == (606.0, 442.0)
    assert (exhaust.start_deg, exhaust.length_deg) == (390.0, 440.0)


@pytest.mark.parametrize(("deg", "text"), [(240.0, "240"), (102.857, "102.9"), (719.97, "0")])
def test_angles_are_shown_short(deg: float, text: str) -> None:
    assert shown_degrees(deg) == text


def test_long_text_shrinks_then_is_cut(qapp: QApplication) -> None:
    words = "Cylinder 18: 620° before compression TDC"
    wide = text_width(words, 27, Weight.STRONG)
    assert fitted(words, 27, Weight.STRONG, wide) == (words, 27)
    assert fitted(words, 27, Weight.STRONG, wide * 0.8)[0] == words
    cut, px = fitted(words, 27, Weight.STRONG, 60)
    assert (cut[-1], px) == ("…", 14)
    assert text_width(cut, px, Weight.STRONG) <= 60


def test_a_low_chip_looks_the_same_whatever_was_painted_before(qapp: QApplication) -> None:
    def picture(chip: Chip, stills: Stills) -> QImage:
        image = QImage(64, 28, QImage.Format.Format_RGB32)
        image.fill(QColor("white"))
        p = QPainter(image)
        low_chip(p, QRectF(0, 0, 64, 28), chip, theme("light"), stills)
        p.end()
        return image

    used = Stills()
    for name in ("I11", "I1", "E12", "I11"):
        chip = Chip(Kind.INTAKE, name, 114.0, 0.0)
        assert picture(chip, used) == picture(chip, Stills())


def test_a_still_is_painted_once(qapp: QApplication) -> None:
    image = QImage(40, 40, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter, stills, calls = QPainter(image), Stills(), []

    def dot(p: QPainter) -> None:
        calls.append(1)
        p.fillRect(QRectF(10, 10, 5, 5), QColor("black"))

    for _ in range(3):
        stills.draw(painter, "dot", QRectF(10, 10, 5, 5), dot)
    stills.forget()
    painter.translate(QPointF(10, 0))
    stills.draw(painter, "dot", QRectF(10, 10, 5, 5), dot)
    painter.end()
    assert len(calls) == 2
    assert image.pixelColor(12, 12) == image.pixelColor(22, 12) == QColor("black")


def test_pictures_kept_have_a_bound_in_bytes(qapp: object) -> None:
    """A crank dragged for an hour makes ever new parts; the oldest go."""
    stills, image = Stills(), QImage(400, 400, QImage.Format.Format_RGB32)
    painted: list[int] = []
    p = QPainter(image)
    box = QRectF(0, 0, 400, 400)
    for number in range(200):
        stills.draw(p, number, box, lambda _: painted.append(1))
        assert stills.held_bytes <= MOST_BYTES
    assert len(painted) == 200
    stills.draw(p, 199, box, lambda _: painted.append(1))
    assert len(painted) == 200
    stills.draw(p, 0, box, lambda _: painted.append(1))
    assert len(painted) == 201
    p.end()
    stills.forget()
    assert stills.held_bytes == 0


def test_every_token_is_read() -> None:
    read = {field.name for field in fields(Theme)} - {"name"}
    assert {name: set(tokens()[name]) for name in ("light", "dark")} == dict.fromkeys(
        ("light", "dark"), read
    )
    assert set(tokens()) == {"light", "dark", "type"}
    assert set(tokens()["type"]) == {"family", "files"}


@pytest.mark.parametrize("height", [55.0, 60.0, 70.0, 120.0])
def test_a_paragraph_is_written_smaller_rather_than_cut(qapp: QApplication, height: float) -> None:
    image = QImage(151, 130, QImage.Format.Format_RGB32)
    colours, box = theme("light"), QRectF(0, 0, 151, height)
    p = QPainter(image)
    words = "Find TDC and set an engine whose inside is hidden."
    draw_paragraph_that_fits(p, box, words, 19.2, colours.ink)
    size = p.font().pixelSize()
    p.end()
    assert paragraph_height(words, size, 151) <= height
    assert size == 19 or paragraph_height(words, size + 1, 151) > height
