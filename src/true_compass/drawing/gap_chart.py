"""Gaps from valve to piston about overlap TDC, against their limits; one tooth too far dashed."""

from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from true_compass.core.angles import Floats
from true_compass.core.degreeing.clearance import gaps_at_mm
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.strokes import Stroke
from true_compass.drawing.codes import fill_stroke, flat_pen, polygon, round_pen, rounded
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import LABEL, NOTE, Theme, Weight

REACH_DEG: Final = 30.0
TOP_MM: Final = 5.4


@dataclass(frozen=True, slots=True)
class GapChart:
    """The chart of one cylinder. `earlier_deg` is how much earlier each valve comes, `(V,)`."""

    box: QRectF
    rig: Rig
    cylinder: int
    theme: Theme

    @property
    def plot(self) -> QRectF:
        """Where the curves are."""
        return self.box.adjusted(42, 10, -18, -44)

    def x(self, after_tdc_deg: float) -> float:
        """Across."""
        return self.plot.center().x() + after_tdc_deg / REACH_DEG * self.plot.width() / 2

    def y(self, gap_mm: float) -> float:
        """Up."""
        return self.plot.bottom() - gap_mm / self.top_mm * self.plot.height()

    @property
    def top_mm(self) -> float:
        """Greatest gap that is drawn: limits and least gaps lie well inside."""
        chamber = self.rig.engine.chamber
        return max(TOP_MM, 2.2 * max(chamber.least_mm(kind) for kind in Kind))

    def paint(self, p: QPainter, earlier_deg: Floats, too_far: tuple[Kind, Floats] | None) -> None:
        """Grid, limits, both curves with their least points, and one tooth too far dashed."""
        self._ground(p)
        for kind in Kind:
            self._limit(p, kind)
        if too_far is not None:
            self._curve(p, too_far[0], too_far[1], dashed=True)
        for kind in Kind:
            self._curve(p, kind, earlier_deg, dashed=False)

    def _ground(self, p: QPainter) -> None:
        theme, plot = self.theme, self.plot
        rounded(p, self.box, 6, theme.sheet, flat_pen(theme.line, 1.8))
        for mm in range(int(self.top_mm) + 1):
            p.setPen(flat_pen(theme.hair, 1))
            p.drawLine(QPointF(plot.left(), self.y(mm)), QPointF(plot.right(), self.y(mm)))
            label = QRectF(self.box.left() + 4, self.y(mm) - 10, 32, 20)
            draw_text(p, label, str(mm), NOTE, theme.ink2, Weight.LABEL, RIGHT)
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawLine(QPointF(self.x(0), plot.top()), QPointF(self.x(0), plot.bottom()))
        for start, stroke in ((-REACH_DEG, Stroke.EXHAUST), (0.0, Stroke.INTAKE)):
            band = QRectF(self.x(start), plot.bottom() + 2, plot.width() / 2, 11)
            fill_stroke(p, band, stroke, theme)
        for deg in range(-30, 31, 10):
            words = "TDC" if deg == 0 else f"{abs(deg)}°"
            label = QRectF(self.x(deg) - 24, plot.bottom() + 16, 48, 20)
            weight = Weight.STRONG if deg == 0 else Weight.BODY
            draw_text(p, label, words, NOTE, theme.ink, weight, CENTRE)

    def _limit(self, p: QPainter, kind: Kind) -> None:
        """An ink line, hatched on its forbidden side, over the half where the valve is."""
        theme, plot = self.theme, self.plot
        if self._row(kind) is None:
            return
        limit = self.rig.engine.chamber.least_mm(kind)
        left = plot.left() if kind is Kind.EXHAUST else self.x(3)
        right = self.x(-3) if kind is Kind.EXHAUST else plot.right()
        y = self.y(limit)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawLine(QPointF(left, y), QPointF(right, y))
        p.setPen(flat_pen(theme.ink, 1.2))
        for nth in range(int((right - left) // 14) + 1):
            x = left + 14 * nth
            p.drawLine(QPointF(x + 7, y), QPointF(x, y + 7))
        words = f"{kind.letter}{self.cylinder} least allowed {limit:g}"
        box = QRectF(left, y + 9, right - left, 20)
        align = RIGHT if kind is Kind.INTAKE else CENTRE
        draw_one_of(p, box, (words, f"least {limit:g}"), NOTE, theme.ink, Weight.LABEL, align)

    def _row(self, kind: Kind) -> int | None:
        row = self.rig.engine.valve_row(self.cylinder, kind)
        gap = gaps_at_mm(self.rig, self.rig.engine.chamber, np.zeros(1))[row, 0]
        return None if np.isnan(gap) else row

    def _curve(self, p: QPainter, kind: Kind, earlier_deg: Floats, *, dashed: bool) -> None:
        row = self._row(kind)
        if row is None:
            return
        theme, plot = self.theme, self.plot
        at = np.arange(-REACH_DEG, REACH_DEG + 0.25, 0.5)
        crank = float(self.rig.true_offsets_deg[self.cylinder - 1]) + 360.0 + at
        gaps = gaps_at_mm(self.rig, self.rig.engine.chamber, crank, earlier_deg)[row]
        xs = plot.center().x() + at / REACH_DEG * plot.width() / 2
        ys = plot.bottom() - gaps / self.top_mm * plot.height()
        p.save()
        p.setClipRect(plot)
        if dashed:
            p.setPen(QPen(theme.ink2, 1.6, Qt.PenStyle.DashLine))
            p.drawPolyline(polygon(xs, ys))
            p.restore()
            return
        p.setPen(round_pen(theme.ink, 4.2))
        p.drawPolyline(polygon(xs, ys))
        if kind is Kind.INTAKE:
            p.setPen(round_pen(theme.sheet, 1.6))
            p.drawPolyline(polygon(xs, ys))
        p.restore()
        low = int(np.argmin(gaps))
        if gaps[low] < self.top_mm:
            p.setPen(flat_pen(theme.ink, 2))
            p.setBrush(theme.sheet)
            p.drawEllipse(QPointF(float(xs[low]), float(ys[low])), 6, 6)
        self._name(p, kind, at, gaps)

    def _name(self, p: QPainter, kind: Kind, at: Floats, gaps: Floats) -> None:
        """The valve beside its curve, on the outer side, where that is two thirds up."""
        outer = at > 0 if kind is Kind.INTAKE else at < 0
        off = np.where(outer, np.abs(gaps - self.top_mm * 0.66), np.inf)
        row = int(np.argmin(off))
        out = 26 if kind is Kind.INTAKE else -26
        free = self.x(float(at[row])) + out
        x = min(max(free, self.plot.left() + 20), self.plot.right() - 20)
        # At the edge of the chart there is no outer side: the name stands above.
        above = 12.0 if x == free else 34.0
        name = QRectF(x - 22, self.y(float(gaps[row])) - above, 44, 24)
        words = f"{kind.letter}{self.cylinder}"
        draw_text(p, name, words, LABEL, self.theme.ink, Weight.STRONG, CENTRE)
