"""The codes that carry meaning: stroke textures and pointers, plates, discs and beads.

A stroke is said four ways at once (colour, texture, pointer, word), so that none is needed alone.
Textures keep their own direction, whatever turns under them.
"""

import math
from dataclasses import dataclass
from enum import Enum
from functools import lru_cache
from typing import Any

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QColor,
    QPaintEngine,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QTransform,
)

from true_compass.core.angles import Floats
from true_compass.core.strokes import Stroke
from true_compass.drawing.stills import Paint, Stills
from true_compass.drawing.text import CENTRE, LEFT, draw_text, text_width
from true_compass.drawing.theme import BODY, NOTE, Theme, Weight

SLANT_PITCH = 10.0
DOT_PITCH = 9.0
LEVEL_PITCH = 8.0
PLATE_LEAD = 17.0

UPWARDS = (Stroke.EXHAUST, Stroke.COMPRESSION)
SHUT = (Stroke.POWER, Stroke.COMPRESSION)


def flat_pen(colour: QColor, width: float) -> QPen:
    """A solid pen whose ends do not stick out."""
    return _pen(colour.rgba(), width, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.MiterJoin)


def round_pen(colour: QColor, width: float) -> QPen:
    """A solid pen with round ends and joins."""
    return _pen(colour.rgba(), width, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)


@lru_cache(maxsize=256)
def _pen(rgba: int, width: float, cap: Qt.PenCapStyle, join: Qt.PenJoinStyle) -> QPen:
    return QPen(QColor.fromRgba(rgba), width, Qt.PenStyle.SolidLine, cap, join)


def ribbon(xs: Floats, ys: Floats, width: float) -> QPolygonF:
    """The outline of a curve of some width, to fill: a wide pen takes several times as long."""
    along_x, along_y = np.gradient(xs), np.gradient(ys)
    half = width / 2 / np.maximum(np.hypot(along_x, along_y), 1e-9)
    side_x, side_y = -along_y * half, along_x * half
    outline_x = np.concatenate((xs + side_x, (xs - side_x)[::-1]))
    outline_y = np.concatenate((ys + side_y, (ys - side_y)[::-1]))
    return polygon(outline_x, outline_y)


def polygon(xs: Floats, ys: Floats) -> QPolygonF:
    """A polygon from two arrays, put into Qt's memory: point by point is twenty times slower."""
    made = QPolygonF()
    made.fill(QPointF(), len(xs))
    if len(xs):
        memory: Any = made.data()
        memory.setsize(2 * xs.itemsize * len(xs))
        points = np.frombuffer(memory, dtype=np.float64).reshape(-1, 2)
        points[:, 0], points[:, 1] = xs, ys
    return made


def fill_stroke(
    p: QPainter,
    area: QRectF | QPainterPath,
    stroke: Stroke,
    theme: Theme,
    level_pitch: float = LEVEL_PITCH,
) -> None:
    """Fill an area with the texture of a stroke on its tint."""
    box = area if isinstance(area, QRectF) else area.boundingRect()
    ground = theme.stroke(stroke) if stroke is Stroke.POWER else theme.tint(stroke)
    engine = p.paintEngine()
    if engine is not None and engine.type() is QPaintEngine.Type.SVG:
        # Qt's SVG knows no clipping: the texture is cut to the area itself.
        path = _as_path(area)
        p.fillPath(path, ground)
        p.fillPath(path.intersected(_texture_path(box, stroke, level_pitch)), theme.stroke(stroke))
        return
    p.save()
    if isinstance(area, QRectF):
        p.setClipRect(area, Qt.ClipOperation.IntersectClip)
        p.fillRect(area, ground)
    else:
        p.setClipPath(area, Qt.ClipOperation.IntersectClip)
        p.fillPath(area, ground)
    colour = theme.stroke(stroke)
    if stroke is Stroke.EXHAUST:
        _slant_bars(p, box, colour)
    elif stroke is Stroke.INTAKE:
        _dots(p, box, colour)
    elif stroke is Stroke.COMPRESSION:
        _level_bars(p, box, colour, level_pitch)
    p.restore()


def _as_path(area: QRectF | QPainterPath) -> QPainterPath:
    if isinstance(area, QPainterPath):
        return area
    path = QPainterPath()
    path.addRect(area)
    return path


def _texture_path(box: QRectF, stroke: Stroke, level_pitch: float) -> QPainterPath:
    """The texture of a stroke over a box, as an outline."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    if stroke is Stroke.EXHAUST:
        wide = SLANT_PITCH * 0.36 * math.sqrt(2)
        for line in _slant_lines(box):
            top, foot = line.p1(), line.p2()
            side = QPointF(wide / 2, 0)
            path.addPolygon(QPolygonF([top - side, top + side, foot + side, foot - side]))
            path.closeSubpath()
    elif stroke is Stroke.INTAKE:
        for dot in _dot_places(box):
            path.addEllipse(dot, DOT_PITCH / 4, DOT_PITCH / 4)
    elif stroke is Stroke.COMPRESSION:
        for bar in _level_boxes(box, level_pitch):
            path.addRect(bar)
    return path


def _slant_lines(box: QRectF) -> list[QLineF]:
    step = SLANT_PITCH * math.sqrt(2)
    # Lines x + y = k·step, anchored to the origin so that neighbouring areas match.
    first = math.floor((box.left() + box.top()) / step)
    last = math.ceil((box.right() + box.bottom()) / step)
    return [
        QLineF(k * step - box.top(), box.top(), k * step - box.bottom(), box.bottom())
        for k in range(first, last + 1)
    ]


def _slant_bars(p: QPainter, box: QRectF, colour: QColor) -> None:
    p.setPen(flat_pen(colour, SLANT_PITCH * 0.36))
    for line in _slant_lines(box):
        p.drawLine(line)


def _dots(p: QPainter, box: QRectF, colour: QColor) -> None:
    p.setPen(round_pen(colour, DOT_PITCH * 0.5))
    p.drawPoints(QPolygonF(_dot_places(box)))


def _dot_places(box: QRectF) -> list[QPointF]:
    row_step = DOT_PITCH * 0.75
    dots = []
    for row in range(math.floor(box.top() / row_step), math.ceil(box.bottom() / row_step) + 1):
        shift = DOT_PITCH / 2 if row % 2 else 0.0
        first = math.floor((box.left() - shift) / DOT_PITCH)
        last = math.ceil((box.right() - shift) / DOT_PITCH)
        dots += [
            QPointF(column * DOT_PITCH + shift, row * row_step) for column in range(first, last + 1)
        ]
    return dots


def _level_bars(p: QPainter, box: QRectF, colour: QColor, pitch: float) -> None:
    for bar in _level_boxes(box, pitch):
        p.fillRect(bar, colour)


def _level_boxes(box: QRectF, pitch: float) -> list[QRectF]:
    bar, boxes = pitch * 0.46, []
    y = box.top() + (pitch - bar) / 2
    while y < box.bottom():
        boxes.append(QRectF(box.left(), y, box.width(), bar))
        y += pitch
    return boxes


def draw_pointer(p: QPainter, at: QPointF, size: float, stroke: Stroke, colour: QColor) -> None:
    """The pointer of a stroke: aims as the piston moves; solid with a lid when gas is shut in."""
    half, height = size / 2, size * 0.72
    up = stroke in UPWARDS
    tip_y = at.y() + (-height / 2 if up else height / 2)
    foot_y = at.y() + (height / 2 if up else -height / 2)
    shut = stroke in SHUT
    lid = size * 0.16
    if shut:
        shift = lid * 0.9
        tip_y, foot_y = tip_y + shift, foot_y + shift
    triangle = QPolygonF(
        [
            QPointF(at.x() - half, foot_y),
            QPointF(at.x() + half, foot_y),
            QPointF(at.x(), tip_y),
        ]
    )
    if shut:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        p.drawPolygon(triangle)
        top = min(tip_y, foot_y) - lid * 2.0
        p.drawRect(QRectF(at.x() - half, top, size, lid))
    else:
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(colour, max(1.4, size * 0.13)))
        p.drawPolygon(triangle)


def rounded(p: QPainter, box: QRectF, radius: float, fill: QColor | None, pen: QPen | None) -> None:
    """A rounded box with an optional fill and an optional edge that stays inside it."""
    p.setBrush(fill if fill is not None else Qt.BrushStyle.NoBrush)
    if pen is None:
        p.setPen(Qt.PenStyle.NoPen)
        p.drawRoundedRect(box, radius, radius)
        return
    inset = pen.widthF() / 2
    p.setPen(pen)
    p.drawRoundedRect(box.adjusted(inset, inset, -inset, -inset), radius, radius)


def paint_tick(p: QPainter, middle: QPointF, size: float, colour: QColor) -> None:
    """A tick about a point; `size` is its width. Drawn, since the typeface has none."""
    s = size / 12
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(round_pen(colour, 2.6 * s))
    way = (QPointF(-6, 0), QPointF(-2, 5), QPointF(6, -5))
    p.drawPolyline(QPolygonF([middle + at * s for at in way]))


def paint_cross(p: QPainter, middle: QPointF, half: float, pen: QPen) -> None:
    """Two strokes across: ruled out, wrong, not reached."""
    p.setPen(pen)
    p.drawLine(middle + QPointF(-half, -half), middle + QPointF(half, half))
    p.drawLine(middle + QPointF(-half, half), middle + QPointF(half, -half))


def outward(bearing_deg: float) -> QPointF:
    """Unit vector of a bearing: 0 is at the top, + clockwise."""
    turned = math.radians(bearing_deg)
    return QPointF(math.sin(turned), -math.cos(turned))


def tick_box(p: QPainter, box: QRectF, theme: Theme, *, ticked: bool, due: bool = True) -> None:
    """A box, solid with a tick where a step is behind; pale where it is not due yet."""
    edge = flat_pen(theme.ink if ticked or due else theme.line, 2.0)
    rounded(p, box, 4, theme.ink if ticked else theme.sheet, edge)
    if ticked:
        paint_tick(p, box.center(), box.width() / 2, theme.on_ink)


def paint_problem_mark(p: QPainter, box: QRectF, ink: QColor, on_ink: QColor) -> None:
    """A solid square with an exclamation mark."""
    rounded(p, box, 2, ink, None)
    draw_text(p, box, "!", NOTE, on_ink, Weight.STRONG, CENTRE)


def stroke_plate(
    p: QPainter, box: QRectF, stroke: Stroke, theme: Theme, *, alone: bool = False
) -> None:
    """A plate with the pointer of a stroke and, where it fits, its word.

    Plates in a row look alike: all show what the longest word allows. One that stands `alone`
    looks only at its own word.
    """
    rounded(p, box, 4, theme.stroke(stroke), None)
    colour = theme.on_stroke(stroke)
    word = stroke.word.capitalize()
    for px in (BODY, BODY - 1):
        width = text_width(word, px, Weight.LABEL)
        longest = text_width(word if alone else "Compression", px, Weight.LABEL)
        if longest + PLATE_LEAD + 4 <= box.width():
            left = box.center().x() - (width + PLATE_LEAD) / 2
            draw_pointer(p, QPointF(left + 6, box.center().y()), 12, stroke, colour)
            word_box = QRectF(left + PLATE_LEAD, box.top(), width + PLATE_LEAD, box.height())
            draw_text(p, word_box, word, px, colour, Weight.LABEL, LEFT)
            return
    if longest + 2 <= box.width():
        draw_text(p, box, word, BODY - 1, colour, Weight.LABEL, CENTRE)
    else:
        draw_pointer(p, box.center(), 13, stroke, colour)


def plate_width(stroke: Stroke) -> float:
    """Width of a plate with its word, for plates that stand alone."""
    return text_width(stroke.word.capitalize(), BODY, Weight.LABEL) + PLATE_LEAD + 16


def tdc_plate(p: QPainter, box: QRectF, fires: bool, theme: Theme) -> None:
    """The plate at a TDC: solid `Fires` at compression TDC, outlined `Overlap` at overlap TDC."""
    fill, edge = (theme.now, None) if fires else (theme.sheet, QPen(theme.now, 2.4))
    rounded(p, box, 4, fill, edge)
    word, colour = ("Fires", theme.on_now) if fires else ("Overlap", theme.ink)
    if text_width("Overlap", NOTE, Weight.LABEL) + 4 <= box.width():
        draw_text(p, box.adjusted(2, 0, -2, 0), word, BODY, colour, Weight.LABEL, CENTRE)
    else:
        _tdc_mark(p, box.center(), fires, theme)


def _tdc_mark(p: QPainter, at: QPointF, fires: bool, theme: Theme) -> None:
    """The mark of the ring, where a plate has no room for a word."""
    tip = 7.0 if fires else -7.0
    mark = QPolygonF([at + QPointF(-8, -tip), at + QPointF(8, -tip), at + QPointF(0, tip)])
    p.setPen(Qt.PenStyle.NoPen if fires else QPen(theme.now, 2.4))
    p.setBrush(theme.on_now if fires else Qt.BrushStyle.NoBrush)
    p.drawPolygon(mark)


class Place(Enum):
    """Where a cylinder stands, as far as its bead and disc show it."""

    BETWEEN = "between"
    COMPRESSION_TDC = "compression TDC"
    OVERLAP_TDC = "overlap TDC"


def number_disc(
    p: QPainter, at: QPointF, radius: float, number: int, place: Place, theme: Theme, strong: bool
) -> None:
    """The number of a cylinder on a disc, in the code of its place; `strong` thickens the edge."""
    fill, edge, width = _place_colours(place, theme, strong)
    p.setBrush(fill)
    p.setPen(round_pen(edge, width))
    p.drawEllipse(at, radius, radius)
    _place_number(p, at, radius, number, place, theme)


def _place_colours(place: Place, theme: Theme, strong: bool) -> tuple[QColor, QColor, float]:
    """Fill, edge and width of the edge."""
    fill = theme.now if place is Place.COMPRESSION_TDC else theme.sheet
    edge = theme.ink if place is Place.BETWEEN else theme.now
    return fill, edge, (4.0 if strong else 2.0) + (1.0 if place is Place.OVERLAP_TDC else 0.0)


def _place_number(
    p: QPainter, at: QPointF, radius: float, number: int, place: Place, theme: Theme
) -> None:
    colour = theme.on_now if place is Place.COMPRESSION_TDC else theme.ink
    box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
    draw_text(p, box, str(number), radius * 1.18, colour, Weight.STRONG, CENTRE)


@dataclass(frozen=True, slots=True)
class Bead:
    """A drop with the cylinder's number that points at the frame."""

    number: int
    place: Place
    radius: float
    strong: bool

    def paint(
        self, p: QPainter, at: QPointF, bearing_deg: float, theme: Theme, stills: Stills
    ) -> None:
        """Draw it at a point, pointing to a bearing clockwise from the top.

        The disc and the tip are two pictures, the tip one for each degree: the outline of a whole
        drop takes ten times as long.
        """
        stills.draw_made(p, ("bead", self), lambda: self._disc(theme), at)
        bearing = round(bearing_deg) % 360
        key = ("tip", self.place, self.radius, self.strong, bearing)
        stills.draw_made(p, key, lambda: self._tip(bearing, theme), at)

    def _disc(self, theme: Theme) -> tuple[QRectF, Paint]:
        reach = self.radius + 4

        def disc(q: QPainter) -> None:
            centre = QPointF(0, 0)
            number_disc(q, centre, self.radius, self.number, self.place, theme, self.strong)

        return QRectF(-reach, -reach, 2 * reach, 2 * reach), disc

    def _tip(self, bearing: int, theme: Theme) -> tuple[QRectF, Paint]:
        """The tip opens the disc's edge, so it goes over the disc."""
        fill, edge, width = _place_colours(self.place, theme, self.strong)
        turn = QTransform().rotate(bearing)
        outer = turn.map(tip_polygon(self.radius + width / 2))
        inner = turn.map(tip_polygon(self.radius - width / 2))

        def tip(q: QPainter) -> None:
            q.setPen(Qt.PenStyle.NoPen)
            q.setBrush(edge)
            q.drawPolygon(outer)
            q.setBrush(fill)
            q.drawPolygon(inner)

        return outer.boundingRect().adjusted(-1, -1, 1, 1), tip


@lru_cache(maxsize=64)
def tip_polygon(radius: float) -> QPolygonF:
    """The triangle between the point of a drop about the origin and the places where its sides
    touch the circle: at 1/1.5 of the radius along the axis for a point at 1.5 radii.
    """
    side, foot = radius * math.sqrt(1 - 1 / 1.5**2), -radius / 1.5
    return QPolygonF([QPointF(-side, foot), QPointF(0, -radius * 1.5), QPointF(side, foot)])
