"""A degree wheel under its pointer, the rim at the pointer enlarged, and an indicator's dial."""

import math
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.core.degreeing.wheel import Scale, Wheel
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.dials import crank_direction, paint_direction_arrow
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

RIM_SPAN_DEG: Final = 18.0
TICKS: Final = 24
"""Pictures of the ticks: one for every 5° / 24, finer than a pixel at the rim of a large wheel."""


@dataclass(frozen=True, slots=True)
class WheelFace:
    """A wheel of one kind. `sense` is −1 where the crank turns anticlockwise as it is drawn."""

    wheel: Wheel
    theme: Theme
    sense: int = 1

    def figure_words(self, after_tdc_deg: float) -> str:
        """The figure there, to a tenth."""
        return f"{self.wheel.figure_deg(after_tdc_deg):.1f}"

    def paint(
        self, p: QPainter, middle: QPointF, radius: float, after_tdc_deg: float, stills: Stills
    ) -> None:
        """The wheel with what stands under the pointer at its top."""
        theme = self.theme
        turned = after_tdc_deg % 5.0
        step = round(turned / 5.0 * TICKS) % TICKS

        def ticks(q: QPainter) -> None:
            self._paint_ticks(q, radius, step * 5.0 / TICKS)

        box = QRectF(-radius - 2, -radius - 2, 2 * radius + 4, 2 * radius + 4)
        stills.draw(p, ("wheel", radius, step, self.sense), box, ticks, at=middle)
        p.save()
        p.translate(middle)
        every = 30 if radius >= 90 else 90
        for mark in range(0, 360, every):
            way = crank_direction(after_tdc_deg - mark, self.sense)
            figure = self.wheel.figure_deg(float(mark))
            spot = way * (radius - max(radius * 0.24, 30.0))
            strong = Weight.STRONG if figure % 90 == 0 else Weight.LABEL
            box = QRectF(spot.x() - 24, spot.y() - 11, 48, 22)
            draw_text(p, box, f"{figure:g}", BODY, theme.ink, strong, CENTRE)
        self._paint_sides(p, radius, after_tdc_deg)
        p.setPen(flat_pen(theme.ink, 2.4))
        zero = crank_direction(after_tdc_deg - self.wheel.zero.at_deg, self.sense)
        p.drawLine(zero * (radius * 0.2), zero * (radius * 0.62))
        p.setBrush(theme.metal)
        p.setPen(flat_pen(theme.metal_dk, 1.6))
        p.drawEllipse(QPointF(0, 0), radius * 0.19, radius * 0.19)
        p.setBrush(theme.ink)
        p.setPen(Qt.PenStyle.NoPen)
        p.drawEllipse(QPointF(0, 0), 5, 5)
        p.setBrush(theme.now)
        p.drawPolygon(
            QPolygonF(
                [QPointF(-11, -radius - 15), QPointF(11, -radius - 15), QPointF(0, -radius + 8)]
            )
        )
        paint_direction_arrow(p, radius + 12, theme, self.sense)
        p.restore()

    def _paint_sides(self, p: QPainter, radius: float, after_tdc_deg: float) -> None:
        """`before` and `after` at either side of TDC, where the figures do not tell."""
        if self.wheel.scale is Scale.FULL or radius < 100:
            return
        for words, mark in (("before", -45.0), ("after", 45.0)):
            spot = crank_direction(after_tdc_deg - mark, self.sense) * (radius * 0.46)
            box = QRectF(spot.x() - 34, spot.y() - 10, 68, 20)
            draw_text(p, box, words, NOTE + 1, self.theme.ink2, Weight.LABEL, CENTRE)

    def _paint_ticks(self, p: QPainter, radius: float, turned_deg: float) -> None:
        theme = self.theme
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2.0))
        p.drawEllipse(QPointF(0, 0), radius - 1, radius - 1)
        fine = radius >= 100
        for mark in range(0, 360, 1 if fine else 5):
            way = crank_direction(turned_deg - mark, self.sense)
            long = 13.0 if mark % 5 == 0 else 6.0
            p.setPen(flat_pen(theme.ink if mark % 5 == 0 else theme.ink3, 1.2))
            p.drawLine(way * (radius - 1 - long), way * (radius - 1))

    def paint_rim(self, p: QPainter, box: QRectF, after_tdc_deg: float) -> None:
        """The rim at the pointer, enlarged: what the eye reads."""
        theme = self.theme
        rounded(p, box, 4, theme.sheet, flat_pen(theme.now, 3))
        middle, per_deg = box.center().x(), box.width() / RIM_SPAN_DEG
        first = math.ceil(after_tdc_deg - RIM_SPAN_DEG / 2 + 0.2)
        last = math.floor(after_tdc_deg + RIM_SPAN_DEG / 2 - 0.2)
        for mark in range(first, last + 1):
            # The wheel turns under the pointer: what comes after stands before it.
            x = middle + (after_tdc_deg - mark) * per_deg * self.sense
            long = mark % 5 == 0
            p.setPen(flat_pen(theme.ink, 2.0 if long else 1.4))
            p.drawLine(QPointF(x, box.top() + 3), QPointF(x, box.top() + (30 if long else 20)))
            if long and box.left() + 22 < x < box.right() - 22:
                words = f"{self.wheel.figure_deg(float(mark)):g}"
                figure = QRectF(x - 26, box.bottom() - 28, 52, 24)
                draw_text(p, figure, words, LABEL + 2, theme.ink, Weight.STRONG, CENTRE)
        p.setPen(flat_pen(theme.now, 3))
        p.drawLine(QPointF(middle, box.top() - 12), QPointF(middle, box.top() + 33))


def paint_indicator(
    p: QPainter, middle: QPointF, radius: float, down_mm: float, turn_mm: float, theme: Theme
) -> None:
    """A dial set to zero at the nose: its hand counts backwards as the tappet goes down."""
    p.setBrush(theme.sheet)
    p.setPen(flat_pen(theme.ink, 2.0))
    p.drawEllipse(middle, radius, radius)
    for nth in range(50):
        way = crank_direction(-7.2 * nth, 1)
        long = nth % 5 == 0
        p.setPen(flat_pen(theme.ink, 1.6 if long else 1.0))
        p.drawLine(middle + way * (radius - (8 if long else 4)), middle + way * (radius - 1))
    for nth in range(5):
        spot = middle + crank_direction(-72.0 * nth, 1) * (radius * 0.64)
        box = QRectF(spot.x() - 16, spot.y() - 9, 32, 18)
        draw_text(p, box, f"{20 * nth}", NOTE, theme.ink, Weight.LABEL, CENTRE)
    way = crank_direction(-360.0 * (down_mm / turn_mm % 1.0), 1)
    p.setPen(flat_pen(theme.ink, 4))
    p.drawLine(middle - way * (radius * 0.2), middle + way * (radius * 0.5))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.ink)
    p.drawEllipse(middle, 6, 6)
