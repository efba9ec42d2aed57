"""Figures of a firing order: a small ring with its gaps, and its steps across the engine."""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from true_compass.core.angles import CYCLE_DEG
from true_compass.drawing.codes import Place, flat_pen, number_disc, round_pen
from true_compass.drawing.text import RIGHT, draw_centred, draw_text
from true_compass.drawing.theme import NOTE, Theme, Weight

GLYPH_RADIUS = 27.0
TIE_WIDTH = 6.0


TOUCHING_DEG: Final = 58.0


def paint_glyph(
    p: QPainter,
    at: QPointF,
    offsets_deg: Sequence[float],
    pairs: Sequence[tuple[int, int]],
    theme: Theme,
    radius: float = GLYPH_RADIUS,
) -> None:
    """A dot at each firing angle, numbers outside; an arc ties neighbours that fire in a row.

    Numbers that would touch are left out, and over eight cylinders all of them.
    """

    def point(angle_deg: float, reach: float) -> QPointF:
        turned = math.radians(angle_deg / 2)
        return at + QPointF(math.sin(turned), -math.cos(turned)) * reach

    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(flat_pen(theme.line, 1.4))
    p.drawEllipse(at, radius, radius)
    box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
    p.setPen(flat_pen(theme.ink, TIE_WIDTH * radius / GLYPH_RADIUS))
    for first, second in pairs:
        start = offsets_deg[first - 1]
        length = (offsets_deg[second - 1] - start) % CYCLE_DEG
        p.drawArc(box, round((90 - start / 2) * 16), round(-length / 2 * 16))
    for row, angle in enumerate(offsets_deg):
        p.setPen(flat_pen(theme.ink, 1.6))
        p.setBrush(theme.now if row == 0 else theme.sheet)
        p.drawEllipse(point(angle, radius), 4.2, 4.2)
    if len(offsets_deg) > 8:
        return
    last_deg = -CYCLE_DEG
    for angle, row in sorted((angle, row) for row, angle in enumerate(offsets_deg)):
        if min(angle - last_deg, CYCLE_DEG - angle) >= TOUCHING_DEG:
            spot = point(angle, radius + 11)
            draw_centred(p, spot, str(row + 1), NOTE, theme.ink, Weight.STRONG)
            last_deg = angle


def paint_across(
    p: QPainter,
    box: QRectF,
    order: Sequence[int],
    offsets_deg: Sequence[float],
    borders: Sequence[int],
    theme: Theme,
) -> None:
    """Each cylinder keeps its column, the steps run down. `borders` part banks or halves."""
    count = len(order)
    gutter = 58.0
    step_x = (box.width() - gutter) / count
    top = box.top() + 38
    step_y = (box.height() - 44) / max(count - 1, 1)
    radius = min(16.0, step_x / 2 - 2)

    def x_of(cylinder: int) -> float:
        return box.left() + gutter + (cylinder - 0.5) * step_x

    for cylinder in range(1, count + 1):
        spot = QPointF(x_of(cylinder), box.top() + 16)
        number_disc(p, spot, radius, cylinder, Place.BETWEEN, theme, strong=False)
    places = []
    for step, cylinder in enumerate(order):
        y = top + step * step_y
        p.setPen(flat_pen(theme.hair, 1))
        p.drawLine(QPointF(box.left() + gutter, y), QPointF(box.right(), y))
        if step % max(1, math.ceil(18 / max(step_y, 1))) == 0:
            text = f"{offsets_deg[cylinder - 1]:.4g}°"
            where = QRectF(box.left(), y - 10, gutter - 10, 20)
            draw_text(p, where, text, NOTE, theme.ink2, Weight.LABEL, RIGHT)
        places.append(QPointF(x_of(cylinder), y))
    p.setPen(flat_pen(theme.line, 1.6))
    for border in borders:
        x = box.left() + gutter + border * step_x
        p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
    p.setPen(round_pen(theme.ink, 2))
    for a, b in pairwise(places):
        p.drawLine(a, b)
    p.setPen(Qt.PenStyle.NoPen)
    for i, place in enumerate(places):
        p.setBrush(theme.now if i == 0 else theme.ink)
        p.drawEllipse(place, 6.5, 6.5)
