"""The lens on the overlap: the crank about overlap TDC, lift past the crossing, as set and changed.

It is as wide as the overlap and as high as the place where both curves cross.
"""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from true_compass.core.angles import Bools, Floats
from true_compass.core.items import Kind
from true_compass.core.strokes import Stroke
from true_compass.core.valves.timing import CylinderCycle, CylinderTimes
from true_compass.drawing.codes import fill_stroke, flat_pen, polygon, ribbon, rounded
from true_compass.drawing.lap import lens_reach_deg, lifted_runs
from true_compass.drawing.text import CENTRE, RIGHT, draw_centred, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

TDC_DEG: Final = 360.0
AXIS: Final = 44.0
FOOT: Final = 36.0
FLOOR: Final = 10.0
LEAST_TOP_MM: Final = 2.4
ABOVE: Final = 1.35
"""How much higher than the crossing the lens reaches."""
NAME_AT: Final = 0.88
"""At which share of the lens a curve has its name."""


@dataclass(frozen=True)
class Lens:
    """The lens of one cylinder in a box."""

    box: QRectF
    cycle: CylinderCycle
    theme: Theme

    @cached_property
    def reach_deg(self) -> float:
        """How far it shows either side of overlap TDC."""
        return lens_reach_deg(self.cycle)

    @cached_property
    def top_mm(self) -> float:
        """The lift at its upper edge."""
        lower = self.cycle.as_set_mm[:, self._pick()].min(axis=0)
        return max(float(lower.max()) * ABOVE, LEAST_TOP_MM)

    @property
    def plot(self) -> QRectF:
        """Where the curves are."""
        return self.box.adjusted(AXIS, 14, -22, -FOOT)

    def x(self, cycle_deg: float) -> float:
        """Across: cycle angle about overlap TDC."""
        share = (cycle_deg - TDC_DEG + self.reach_deg) / (2 * self.reach_deg)
        return self.plot.left() + share * self.plot.width()

    def y(self, lift_mm: float) -> float:
        """Up: lift."""
        return self.plot.bottom() - lift_mm / self.top_mm * self.plot.height()

    def paint_ground(self, p: QPainter) -> None:
        """Sheet, axes and the strokes as a floor."""
        theme, plot = self.theme, self.plot
        rounded(p, self.box, 6, theme.sheet, flat_pen(theme.ink, 2.0))
        top_mm, reach_deg = self.top_mm, self.reach_deg
        for mm in range(1, math.ceil(top_mm), 1 if top_mm < 4 else 2):
            p.setPen(flat_pen(theme.hair, 1))
            p.drawLine(QPointF(plot.left(), self.y(mm)), QPointF(plot.right(), self.y(mm)))
            label = QRectF(self.box.left(), self.y(mm) - 10, AXIS - 8, 20)
            draw_text(p, label, str(mm), BODY, theme.ink2, Weight.LABEL, RIGHT)
        unit = QRectF(self.box.left(), self.box.top() + 4, AXIS - 8, 18)
        draw_text(p, unit, "mm", NOTE, theme.ink2, align=RIGHT)
        for stroke, start in ((Stroke.EXHAUST, TDC_DEG - reach_deg), (Stroke.INTAKE, TDC_DEG)):
            left = self.x(start)
            floor = QRectF(left, plot.bottom(), self.x(start + reach_deg) - left, FLOOR)
            fill_stroke(p, floor, stroke, theme)
        every = 10 if reach_deg <= 30 else 20 if reach_deg <= 60 else 40
        count = int(reach_deg // every)
        for step in range(-count, count + 1):
            x = self.x(TDC_DEG + every * step)
            words = "TDC" if step == 0 else f"{abs(step) * every}°"
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
        return np.asarray(np.abs(self.cycle.at_deg - TDC_DEG) <= self.reach_deg)

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
        top_mm, reach_deg, plot = self.top_mm, self.reach_deg, self.plot
        within = lift <= top_mm
        xs = plot.left() + (at[within] - TDC_DEG + reach_deg) / (2 * reach_deg) * plot.width()
        return np.array([xs, plot.bottom() - lift[within] / top_mm * plot.height()])

    def _names(self, p: QPainter) -> None:
        """Each name beside its own curve, on the side away from the other."""
        pick, plot = self._pick(), self.plot
        at = self.cycle.at_deg[pick]
        for valve, lift in zip(self.cycle.times.valves, self.cycle.lift_mm[:, pick], strict=True):
            falls = valve.kind is Kind.EXHAUST
            name_mm = min(NAME_AT * self.top_mm, 0.8 * float(lift.max()))
            if name_mm <= 0:
                continue
            # The curve beside the upper edge of the name, where it leans towards it.
            beside_mm = min(name_mm + 12 / plot.height() * self.top_mm, float(lift.max()))
            places = np.flatnonzero(lift >= beside_mm)
            x = self.x(float(at[places[-1] if falls else places[0]]))
            wide = text_width(valve.name, LABEL + 1, Weight.STRONG)
            away = x - 10 - wide if falls else x + 10
            if not plot.left() <= away <= plot.right() - wide:
                away = x + 10 if falls else x - 10 - wide
            box = QRectF(away, self.y(name_mm) - 12, wide + 2, 24)
            draw_text(p, box, valve.name, LABEL + 1, self.theme.ink, Weight.STRONG)

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
        if abs(cycle_deg - TDC_DEG) <= self.reach_deg:
            x = self.x(cycle_deg)
            p.setPen(flat_pen(theme.now, 3))
            p.drawLine(QPointF(x, plot.top() - 8), QPointF(x, plot.bottom() + FLOOR))
