"""Both lobes of one cylinder over the strokes about overlap TDC: a map of where the crank is."""

from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from true_compass.core.degreeing.found import curve_for
from true_compass.core.degreeing.sheet import Sheet
from true_compass.core.items import Item, Kind
from true_compass.core.state import Rig
from true_compass.core.strokes import Stroke
from true_compass.drawing.codes import fill_stroke, flat_pen, polygon, round_pen, rounded
from true_compass.drawing.text import draw_centred, draw_text
from true_compass.drawing.theme import LABEL, NOTE, Theme, Weight

REACH_DEG: Final = 270.0
NOSE_MM: Final = 0.5
PLACES: Final = ((-180.0, "BDC"), (0.0, "TDC"), (180.0, "BDC"))


@dataclass(frozen=True, slots=True)
class CamMap:
    """The map of the sheet's cylinder in a box."""

    box: QRectF
    rig: Rig
    sheet: Sheet
    theme: Theme

    @property
    def plot(self) -> QRectF:
        """Where the curves are; the strokes stand below it."""
        return self.box.adjusted(14, 18, -14, -38)

    def x(self, after_tdc_deg: float) -> float:
        """Across: crank degrees after overlap TDC."""
        plot = self.plot
        return plot.center().x() + after_tdc_deg / REACH_DEG * plot.width() / 2

    def paint(self, p: QPainter) -> None:
        """Strokes, lobes, their names, and a frame about each nose."""
        theme, plot = self.theme, self.plot
        rounded(p, self.box.adjusted(1, 1, -1, -1), 6, theme.sheet, flat_pen(theme.line, 1.8))
        for nth, stroke in enumerate(Stroke):
            start = -360.0 + 180.0 * nth
            low, high = max(start, -REACH_DEG), min(start + 180.0, REACH_DEG)
            band = QRectF(self.x(low), plot.bottom() + 1, self.x(high) - self.x(low), 11)
            fill_stroke(p, band, stroke, theme)
        for place, words in PLACES:
            x = self.x(place)
            p.setPen(flat_pen(theme.line, 1.2))
            p.drawLine(QPointF(x, plot.top() - 4), QPointF(x, plot.bottom()))
            spot = QPointF(x, plot.bottom() + 25)
            draw_centred(p, spot, words, NOTE, theme.ink, Weight.LABEL)
        curves = {
            kind: curve_for(self.rig, self.sheet, kind)
            for kind in Kind
            if not self.rig.engine.cam.timing(kind).suction
        }
        top_mm = max((curve.peak_mm for curve in curves.values()), default=1.0)
        for kind, curve in curves.items():
            at = np.arange(-REACH_DEG, REACH_DEG + 0.5, 1.0)
            lift = curve.lift_at_mm(at)
            lifted = np.flatnonzero(lift > 0)
            if not len(lifted):
                continue
            rows = slice(max(int(lifted[0]) - 1, 0), int(lifted[-1]) + 2)
            xs = plot.center().x() + at[rows] / REACH_DEG * plot.width() / 2
            ys = plot.bottom() - lift[rows] / top_mm * plot.height()
            line = polygon(xs, ys)
            p.setPen(round_pen(theme.ink, 3.6))
            p.drawPolyline(line)
            if kind is Kind.INTAKE:
                p.setPen(round_pen(theme.sheet, 1.4))
                p.drawPolyline(line)
            self._paint_nose(p, curve.top_deg, kind, plot.top(), top_mm, curve.peak_mm)

    def _paint_nose(
        self, p: QPainter, nose_deg: float, kind: Kind, top: float, top_mm: float, peak_mm: float
    ) -> None:
        """A frame about the last half millimetre, and the valve's name beside it."""
        plot, theme = self.plot, self.theme
        y = plot.bottom() - peak_mm / top_mm * plot.height()
        frame = QRectF(
            self.x(nose_deg - 24), y - 4, self.x(nose_deg + 24) - self.x(nose_deg - 24), 14
        )
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.ink, 1.4))
        p.drawRect(frame)
        name = Item(kind, self.sheet.cylinder).name
        box = QRectF(frame.right() + 8, top - 12, 60, 24)
        draw_text(p, box, name, LABEL, theme.ink, Weight.STRONG)

    def paint_cursor(self, p: QPainter, after_tdc_deg: float) -> None:
        """The crank, where it stands on the map."""
        if abs(after_tdc_deg) > REACH_DEG:
            return
        x = self.x(after_tdc_deg)
        p.setPen(flat_pen(self.theme.now, 3))
        p.drawLine(QPointF(x, self.box.top() + 5), QPointF(x, self.plot.bottom() + 12))
