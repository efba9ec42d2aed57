"""Lift against crank angle: one cylinder strong, the others behind it, as set dashed."""

from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from true_compass.core.angles import CYCLE_DEG, Floats
from true_compass.core.state import Rig
from true_compass.core.strokes import Stroke
from true_compass.drawing.codes import (
    draw_pointer,
    fill_stroke,
    flat_pen,
    polygon,
    round_pen,
    rounded,
)
from true_compass.drawing.lap import lifted_runs
from true_compass.drawing.text import RIGHT, draw_centred, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

AXIS: Final = 44.0
FOOT: Final = 44.0
LEAST_STEP: Final = 26.0
"""Least way between two lines of the lift axis."""
FLOOR: Final = 18.0
SAMPLES: Final = 361


@dataclass(frozen=True, slots=True)
class LiftChart:
    """The chart of one cylinder of a rig, in a box."""

    box: QRectF
    rig: Rig
    cylinder: int
    theme: Theme

    @property
    def plot(self) -> QRectF:
        """Where the curves are."""
        return self.box.adjusted(AXIS, 30, -22, -FOOT)

    @property
    def top_mm(self) -> float:
        """A whole number of mm above every lift."""
        return float(np.ceil(float(self.rig.full_lift_mm.max()) * 1.04 + 0.2))

    def x(self, crank_deg: float) -> float:
        """Across: crank angle."""
        return self.plot.left() + crank_deg / CYCLE_DEG * self.plot.width()

    def y(self, lift_mm: float) -> float:
        """Up: lift."""
        return self.plot.bottom() - lift_mm / self.top_mm * self.plot.height()

    def paint(self, p: QPainter) -> None:
        """Everything but the cursor."""
        self._ground(p)
        angles = np.linspace(0.0, CYCLE_DEG, SAMPLES)
        lifts = self.rig.lobes.lift_mm(angles)
        own = [2 * (self.cylinder - 1), 2 * (self.cylinder - 1) + 1]
        for row, lift in enumerate(lifts):
            if row not in own:
                p.setPen(flat_pen(self.theme.hair, 1.0))
                p.drawPolyline(self._curve(angles, lift))
        usual = self.rig.as_set
        if usual is not self.rig:
            p.setPen(QPen(self.theme.ink2, 1.6, Qt.PenStyle.DashLine))
            for lift in usual.lobes.take(own).lift_mm(angles):
                p.drawPolyline(self._curve(angles, lift))
        for side, row in enumerate(own):
            for first, last in lifted_runs(lifts[row]):
                curve = self._curve(angles[first:last], lifts[row][first:last])
                p.setPen(round_pen(self.theme.ink, 4.2))
                p.drawPolyline(curve)
                if side == 0:
                    p.setPen(round_pen(self.theme.sheet, 1.6))
                    p.drawPolyline(curve)
            if lifts[row].max() > 0:
                place = int(np.argmax(lifts[row]))
                spot = QPointF(self.x(float(angles[place])), self.y(float(lifts[row][place])) - 14)
                name = self.rig.engine.valves[row].name
                draw_centred(p, spot, name, LABEL, self.theme.ink, Weight.STRONG)

    def _curve(
        self,
        angles: Floats,
        lift: Floats,
    ) -> QPolygonF:
        xs = self.plot.left() + angles / CYCLE_DEG * self.plot.width()
        ys = self.plot.bottom() - lift / self.top_mm * self.plot.height()
        return polygon(xs, ys)

    def _ground(self, p: QPainter) -> None:
        theme, plot = self.theme, self.plot
        rounded(p, self.box, 6, theme.sheet, flat_pen(theme.ink, 2.0))
        per_mm = plot.height() / self.top_mm
        step = next((s for s in (1, 2, 5, 10, 20) if s * per_mm >= LEAST_STEP), 50)
        for mm in range(step, int(self.top_mm) + 1, step):
            p.setPen(flat_pen(theme.hair, 1))
            p.drawLine(QPointF(plot.left(), self.y(mm)), QPointF(plot.right(), self.y(mm)))
            label = QRectF(self.box.left(), self.y(mm) - 10, AXIS - 8, 20)
            draw_text(p, label, str(mm), BODY, theme.ink2, Weight.LABEL, RIGHT)
        unit = QRectF(self.box.left(), self.box.top() + 6, AXIS - 8, 18)
        draw_text(p, unit, "mm", NOTE, theme.ink2, align=RIGHT)
        offset = float(self.rig.offsets_deg[self.cylinder - 1])
        for stroke in Stroke:
            start = (offset + 180.0 * stroke) % CYCLE_DEG
            for first, last in ((start, min(start + 180, CYCLE_DEG)), (0.0, start - 540.0)):
                if last > first:
                    wide = self.x(last) - self.x(first)
                    floor = QRectF(self.x(first), plot.bottom(), wide, FLOOR)
                    fill_stroke(p, floor, stroke, theme)
                    self._floor_pointer(p, floor, stroke)
        for degrees in range(0, 721, 90):
            spot = QPointF(self.x(degrees), plot.bottom() + FLOOR + 13)
            strong = Weight.LABEL if degrees % 180 == 0 else Weight.BODY
            draw_centred(p, spot, f"{degrees}°", NOTE, theme.ink, strong)

    def _floor_pointer(self, p: QPainter, floor: QRectF, stroke: Stroke) -> None:
        if floor.width() < 24:
            return
        theme, at = self.theme, floor.center()
        if stroke is Stroke.POWER:
            draw_pointer(p, at, 11, stroke, theme.on_power)
            return
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.sheet)
        p.drawEllipse(at, 9, 9)
        draw_pointer(p, at, 11, stroke, theme.stroke(stroke))

    def paint_cursor(self, p: QPainter, crank_deg: float) -> None:
        """The crank."""
        x = self.x(crank_deg)
        p.setPen(flat_pen(self.theme.sheet, 7))
        p.drawLine(QPointF(x, self.plot.top() - 10), QPointF(x, self.plot.bottom() + FLOOR))
        p.setPen(flat_pen(self.theme.now, 3))
        p.drawLine(QPointF(x, self.plot.top() - 16), QPointF(x, self.plot.bottom() + FLOOR))
