"""The lens on the overlap: 60° of crank about overlap TDC, lift to a few mm, as set and changed."""

from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from true_compass.core.angles import Bools, Floats
from true_compass.core.items import Kind
from true_compass.core.strokes import Stroke
from true_compass.core.valves.timing import CylinderCycle, CylinderTimes
from true_compass.drawing.codes import fill_stroke, flat_pen, polygon, ribbon, rounded
from true_compass.drawing.lap import LENS_DEG, lifted_runs
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_centred, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

TDC_DEG: Final = 360.0
AXIS: Final = 44.0
FOOT: Final = 36.0
FLOOR: Final = 10.0
TOP_MM: Final = 2.4


@dataclass(frozen=True, slots=True)
class Lens:
    """The lens of one cylinder in a box."""

    box: QRectF
    cycle: CylinderCycle
    theme: Theme

    @property
    def plot(self) -> QRectF:
        """Where the curves are."""
        return self.box.adjusted(AXIS, 14, -14, -FOOT)

    def x(self, cycle_deg: float) -> float:
        """Across: cycle angle about overlap TDC."""
        share = (cycle_deg - TDC_DEG + LENS_DEG) / (2 * LENS_DEG)
        return self.plot.left() + share * self.plot.width()

    def y(self, lift_mm: float) -> float:
        """Up: lift."""
        return self.plot.bottom() - lift_mm / TOP_MM * self.plot.height()

    def paint_ground(self, p: QPainter) -> None:
        """Sheet, axes and the strokes as a floor."""
        theme, plot = self.theme, self.plot
        rounded(p, self.box, 6, theme.sheet, flat_pen(theme.ink, 2.0))
        for mm in (1, 2):
            p.setPen(flat_pen(theme.hair, 1))
            p.drawLine(QPointF(plot.left(), self.y(mm)), QPointF(plot.right(), self.y(mm)))
            label = QRectF(self.box.left(), self.y(mm) - 10, AXIS - 8, 20)
            draw_text(p, label, str(mm), BODY, theme.ink2, Weight.LABEL, RIGHT)
        unit = QRectF(self.box.left(), self.box.top() + 4, AXIS - 8, 18)
        draw_text(p, unit, "mm", NOTE, theme.ink2, align=RIGHT)
        for stroke, start in ((Stroke.EXHAUST, TDC_DEG - LENS_DEG), (Stroke.INTAKE, TDC_DEG)):
            left = self.x(start)
            floor = QRectF(left, plot.bottom(), self.x(start + LENS_DEG) - left, FLOOR)
            fill_stroke(p, floor, stroke, theme)
        for step in range(-3, 4):
            x = self.x(TDC_DEG + 10 * step)
            words = "TDC" if step == 0 else f"{abs(step) * 10}°"
            weight = Weight.STRONG if step == 0 else Weight.BODY
            spot = QPointF(x, plot.bottom() + FLOOR + 12)
            draw_centred(p, spot, words, NOTE + 1, theme.ink, weight)

    def paint_curves(self, p: QPainter) -> None:
        """Both lifts, what the change takes off them, and the overlap as a span."""
        theme, cycle = self.theme, self.cycle
        p.setPen(Qt.PenStyle.NoPen)
        pick = self._pick()
        at = cycle.at_deg[pick]
        for kind, lift, usual in zip(
            Kind, cycle.lift_mm[:, pick], cycle.as_set_mm[:, pick], strict=True
        ):
            if cycle.changed:
                there, back = self._points(at, lift), self._points(at[::-1], usual[::-1])
                p.setBrush(theme.hair)
                p.drawPolygon(polygon(*np.concatenate((there, back), axis=1)))
            for first, last in lifted_runs(lift):
                xs, ys = self._points(at[first:last], lift[first:last])
                if len(xs) < 2:
                    continue
                p.setBrush(theme.ink)
                p.drawPolygon(ribbon(xs, ys, 4.6))
                if kind is Kind.INTAKE:
                    p.setBrush(theme.sheet)
                    p.drawPolygon(ribbon(xs, ys, 1.8))
        self._names(p)
        self._span(p, cycle.times, 1.6, flat_pen(theme.ink, 2.6))

    def _pick(self) -> Bools:
        return np.asarray(np.abs(self.cycle.at_deg - TDC_DEG) <= LENS_DEG)

    def paint_as_set(self, p: QPainter) -> None:
        """Dashed: lifts and overlap as set, where something else is tried."""
        cycle, pen = self.cycle, QPen(self.theme.ink2, 1.8, Qt.PenStyle.DashLine)
        pick = self._pick()
        p.setBrush(Qt.BrushStyle.NoBrush)
        for usual in cycle.as_set_mm[:, pick]:
            p.setPen(pen)
            p.drawPolyline(polygon(*self._points(cycle.at_deg[pick], usual)))
        self._span(p, cycle.as_set, 2.0, pen)

    def _points(self, at: Floats, lift: Floats) -> Floats:
        """Places `(2, N)`. What is above the lens is left out, not clipped: SVG cannot clip."""
        within, plot = lift <= TOP_MM, self.plot
        xs = plot.left() + (at[within] - TDC_DEG + LENS_DEG) / (2 * LENS_DEG) * plot.width()
        return np.array([xs, plot.bottom() - lift[within] / TOP_MM * plot.height()])

    def _names(self, p: QPainter) -> None:
        intake, exhaust = self.cycle.times.valves
        top, plot = self.y(0.4), self.plot
        for name, box, align in (
            (exhaust.name, QRectF(plot.left() + 8, top - 12, 60, 24), LEFT),
            (intake.name, QRectF(plot.right() - 68, top - 12, 60, 24), RIGHT),
        ):
            draw_text(p, box, name, LABEL + 1, self.theme.ink, Weight.STRONG, align)

    def _span(self, p: QPainter, times: CylinderTimes, mm: float, pen: QPen) -> None:
        intake, exhaust = times.valves
        start, end = intake.own_deg(True), exhaust.own_deg(False)
        if start is None or end is None or times.overlap_deg is None or times.overlap_deg <= 0:
            return
        theme, y = self.theme, self.y(mm)
        words = f"{times.overlap_deg:.0f}°"
        weight = Weight.BODY if pen.style() == Qt.PenStyle.DashLine else Weight.STRONG
        left, right = (
            min(max(self.x(a), self.plot.left()), self.plot.right()) for a in (start, end)
        )
        wide = text_width(words, BODY, weight) / 2 + 5
        middle = (left + right) / 2
        p.setPen(pen)
        for x, inner in ((left, middle - wide), (right, middle + wide)):
            if (inner - x) * (1 if x == left else -1) > 0:
                p.drawLine(QPointF(x, y), QPointF(inner, y))
            p.drawLine(QPointF(x, y - 6), QPointF(x, y + 6))
        for x in (left, right):
            p.setPen(QPen(theme.line, 1, pen.style()))
            p.drawLine(QPointF(x, y + 6), QPointF(x, self.plot.bottom()))
        plate = QRectF(middle - wide + 1, y - 11, 2 * wide - 2, 22)
        p.fillRect(plate, theme.sheet)
        draw_text(p, plate, words, BODY, theme.ink, weight, CENTRE)

    def paint_cursor(self, p: QPainter, cycle_deg: float) -> None:
        """TDC as a line, and the crank where it is in the lens."""
        theme, plot = self.theme, self.plot
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawLine(QPointF(self.x(TDC_DEG), plot.top()), QPointF(self.x(TDC_DEG), plot.bottom()))
        if abs(cycle_deg - TDC_DEG) <= LENS_DEG:
            x = self.x(cycle_deg)
            p.setPen(flat_pen(theme.now, 3))
            p.drawLine(QPointF(x, plot.top() - 8), QPointF(x, plot.bottom() + FLOOR))
