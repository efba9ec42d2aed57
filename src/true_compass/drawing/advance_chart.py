"""Advance over speed: initial, weights, vacuum on top, the limit, and where the engine runs."""

from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from true_compass.core.ignition.advance import (
    DEEPEST_MBAR,
    at_crank,
    full_at_rpm,
    total_deg,
    vacuum_deg,
)
from true_compass.core.spark import Advance
from true_compass.drawing.codes import flat_pen, polygon, round_pen
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_text, text_width
from true_compass.drawing.theme import LEAD, NOTE, Theme, Weight

LEFT_EDGE: Final = 48.0
FOOT: Final = 30.0
TOP: Final = 30.0
SPEEDS: Final = 200


@dataclass(frozen=True, slots=True)
class AdvanceChart:
    """The chart in a box."""

    advance: Advance
    box: QRectF
    theme: Theme

    @property
    def fastest_rpm(self) -> float:
        """Right end of the scale: a whole thousand beyond the last point."""
        full = full_at_rpm(self.advance) or 3000.0
        return float(np.ceil(full * 1.35 / 1000) * 1000)

    @property
    def most_deg(self) -> float:
        """Top of the scale."""
        weights, can = at_crank(self.advance)
        total = (self.advance.initial_deg or 0.0) + (weights[-1][1] if weights else 0.0)
        total += can[-1][1] if can else 0.0
        limit = self.advance.most_wide_open_deg or 0.0
        return float(np.ceil((max(total, limit, 20.0) + 4) / 10) * 10)

    def x(self, rpm: float) -> float:
        """Where a speed is."""
        wide = self.box.width() - LEFT_EDGE - 18
        return self.box.left() + LEFT_EDGE + rpm / self.fastest_rpm * wide

    def rpm(self, x: float) -> float:
        """The speed at a place."""
        wide = self.box.width() - LEFT_EDGE - 18
        share = (x - self.box.left() - LEFT_EDGE) / wide
        return min(max(share, 0.0), 1.0) * self.fastest_rpm

    def y(self, deg: float) -> float:
        """Where an advance is."""
        high = self.box.height() - TOP - FOOT
        return self.box.bottom() - FOOT - deg / self.most_deg * high

    def paint_still(self, p: QPainter) -> None:
        """Scales, areas, the limit, and the curves wide open and at full depression."""
        theme, advance = self.theme, self.advance
        p.setPen(flat_pen(theme.hair, 1.4))
        for deg in range(0, int(self.most_deg) + 1, 10):
            y = self.y(deg)
            p.setPen(flat_pen(theme.hair, 1.2))
            p.drawLine(QPointF(self.x(0), y), QPointF(self.x(self.fastest_rpm), y))
            name = QRectF(self.box.left(), y - 11, LEFT_EDGE - 8, 22)
            draw_text(p, name, str(deg), NOTE, theme.ink2, align=RIGHT)
        head = QRectF(self.box.left() + 8, self.box.top() + 4, 160, 20)
        draw_text(p, head, "° before TDC, crank", NOTE, theme.ink2)
        for rpm in range(0, int(self.fastest_rpm) + 1, 1000):
            name = QRectF(self.x(rpm) - 40, self.box.bottom() - FOOT + 4, 80, 22)
            last = rpm + 1000 > self.fastest_rpm
            if not last and self.x(self.fastest_rpm) - self.x(rpm) < 86.0:
                continue
            words = f"{rpm:,} rpm" if last else f"{rpm:,}"
            shift = -24 if last else 0
            draw_text(p, name.translated(shift, 0), words, NOTE, theme.ink2, align=CENTRE)
        rpms = np.linspace(0.0, self.fastest_rpm, SPEEDS)
        wide_open, full = total_deg(advance, rpms, np.array([0.0, DEEPEST_MBAR])).T
        self._paint_areas(p, rpms, wide_open)
        if advance.can:
            self._paint_full(p, rpms, full)
        self._curve(p, rpms, wide_open, round_pen(theme.ink, 4))
        self._paint_names(p, float(wide_open[-1]), float(full[-1]))
        self._paint_limit(p)

    def _paint_areas(self, p: QPainter, rpms: np.ndarray, open_deg: np.ndarray) -> None:
        theme, initial = self.theme, max(self.advance.initial_deg or 0.0, 0.0)
        ground = self.y(0)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.well)
        xs = np.array([self.x(rpm) for rpm in (*rpms, self.fastest_rpm, 0.0)])
        ys = np.array([*(self.y(deg) for deg in open_deg), ground, ground])
        p.drawPolygon(polygon(xs, ys))
        p.fillRect(
            QRectF(QPointF(self.x(0), self.y(initial)), QPointF(self.x(self.fastest_rpm), ground)),
            theme.metal,
        )

    def _curve(self, p: QPainter, rpms: np.ndarray, deg: np.ndarray, pen: QPen) -> None:
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(pen)
        xs = np.array([self.x(rpm) for rpm in rpms])
        p.drawPolyline(polygon(xs, np.array([self.y(one) for one in deg])))

    def _paint_full(self, p: QPainter, rpms: np.ndarray, deg: np.ndarray) -> None:
        """A double line."""
        self._curve(p, rpms, deg, round_pen(self.theme.ink, 4.4))
        self._curve(p, rpms, deg, round_pen(self.theme.sheet, 1.8))

    def _paint_names(self, p: QPainter, wide: float, full: float) -> None:
        theme, right = self.theme, self.x(self.fastest_rpm) - 4
        self._name(p, right, self.y(wide) + 14, f"wide open {wide:.1f}")
        if self.advance.can:
            self._name(p, right, self.y(full) - 14, f"full vacuum {full:.1f}")
        initial = self.advance.initial_deg or 0.0
        if initial >= 4:
            self._name(p, right, self.y(initial / 2), "initial")
        if wide - initial > 8:
            box = QRectF(right - 160, self.y(initial + (wide - initial) * 0.35) - 11, 160, 22)
            draw_text(p, box, "weights", NOTE + 1, theme.ink, Weight.LABEL, RIGHT)

    def _name(self, p: QPainter, right: float, y: float, words: str) -> None:
        box = QRectF(right - 200, y - 11, 200, 22)
        draw_text(p, box, words, NOTE + 1, self.theme.ink, Weight.LABEL, RIGHT)

    def _paint_limit(self, p: QPainter) -> None:
        """An ink line, hatched on its forbidden side."""
        most = self.advance.most_wide_open_deg
        if most is None:
            return
        theme, y = self.theme, self.y(most)
        left, right = self.x(0), self.x(self.fastest_rpm)
        p.setPen(flat_pen(theme.ink, 1.6))
        p.drawLine(QPointF(left, y), QPointF(right, y))
        x = left + 6
        while x < right - 6:
            p.drawLine(QPointF(x, y), QPointF(x + 6, y - 7))
            x += 13
        self._paint_limit_name(p, most)

    def _paint_limit_name(self, p: QPainter, most_deg: float) -> None:
        """On the sheet, so that no line runs through it."""
        words = f"wide open, most {most_deg:g}"
        wide = text_width(words, NOTE + 1, Weight.LABEL)
        box = QRectF(self.x(0) + 6, self.y(most_deg) - 30, wide + 4, 20)
        p.fillRect(box, self.theme.sheet)
        draw_text(p, box, words, NOTE + 1, self.theme.ink, Weight.LABEL, LEFT)

    def paint_moving(self, p: QPainter, rpm: float, mbar: float, total: float) -> None:
        """The curve at this depression, dashed, and where the engine runs."""
        theme = self.theme
        if self.advance.can and mbar:
            rise = float(vacuum_deg(self.advance, mbar))
            weights, _ = at_crank(self.advance)
            initial = self.advance.initial_deg or 0.0
            points = [(0.0, initial + rise)]
            points += [(at, initial + deg + rise) for at, deg in weights]
            points.append((self.fastest_rpm, points[-1][1]))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(theme.ink, 2, Qt.PenStyle.DashLine))
            p.drawPolyline(QPolygonF([QPointF(self.x(at), self.y(deg)) for at, deg in points]))
        x, y = self.x(min(rpm, self.fastest_rpm)), self.y(total)
        p.setPen(flat_pen(theme.now, 3))
        # Below the name of the scale.
        tip = QPointF(x, self.box.top() + TOP + 8)
        p.drawLine(tip, QPointF(x, self.box.bottom() - FOOT))
        most = self.advance.most_wide_open_deg
        if most is not None:
            self._paint_limit_name(p, most)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.now)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(-8, -12), tip + QPointF(8, -12)]))
        p.drawEllipse(QPointF(x, y), 7.5, 7.5)
        wide = text_width(f"{total:.1f}", LEAD, Weight.STRONG)
        left = x - 14 - wide if x - 14 - wide > self.x(0) else x + 14
        place = QRectF(left - 3, y - 26, wide + 6, 26)
        p.fillRect(place, theme.sheet)
        draw_text(p, place, f"{total:.1f}", LEAD, theme.ink, Weight.STRONG, CENTRE)
