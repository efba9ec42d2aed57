"""A lobe's nose with its chords, and the middles of the chords enlarged ten times."""

import math
from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from true_compass.core.degreeing.centreline import Pair
from true_compass.core.degreeing.curve import Curve
from true_compass.core.degreeing.found import NoseFound
from true_compass.core.items import Kind
from true_compass.drawing.codes import flat_pen, polygon, round_pen, rounded
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

BAND_DEG: Final = 0.5


@dataclass(frozen=True, slots=True)
class NoseChart:
    """One lobe's last half millimetre in a box.

    `shown_deg` is where its nose is drawn, crank degrees after TDC: where the readings put it, or
    as the card has it. The chart's middle is the card's nose, `card_deg`.
    """

    box: QRectF
    curve: Curve
    name: str
    card_deg: float
    theme: Theme
    depth_mm: float = 0.5

    @property
    def plot(self) -> QRectF:
        """Where the curve is."""
        return self.box.adjusted(14, 34, -14, -10)

    @property
    def half_deg(self) -> float:
        """Half the width of the chart in crank degrees."""
        before, after = self.curve.chord_deg(min(self.depth_mm, self.curve.peak_mm * 0.9))
        return (after - before) / 2 * 1.06

    def x(self, after_tdc_deg: float) -> float:
        """Across: crank degrees."""
        plot = self.plot
        return plot.center().x() + (after_tdc_deg - self.card_deg) / self.half_deg * (
            plot.width() / 2
        )

    def y(self, down_mm: float) -> float:
        """Down: mm below the nose."""
        return self.plot.top() + down_mm / self.depth_mm * self.plot.height()

    def paint(self, p: QPainter, stands_deg: float | None) -> None:
        """The nose where it stands, and the card's place dashed."""
        theme, plot, box = self.theme, self.plot, self.box
        rounded(p, box, 6, theme.sheet, flat_pen(theme.line, 1.8))
        head = QRectF(box.left() + 12, box.top() + 4, box.width() - 24, 26)
        used = draw_text(p, head, f"{self.name} nose", LABEL, theme.ink, Weight.STRONG)
        told = f"last {self.depth_mm:g} mm of lift"
        draw_one_of(p, head.adjusted(used + 10, 0, 0, 0), (told,), NOTE, theme.ink2, align=RIGHT)
        shift = 0.0 if stands_deg is None else stands_deg - self.curve.nose_deg()
        p.save()
        p.setClipRect(plot.adjusted(0, -4, 0, 6))
        share = np.linspace(-1.0, 1.0, 121)
        lifts = self.curve.lift_at_mm(share * self.half_deg + self.card_deg - shift)
        xs = plot.center().x() + share * plot.width() / 2
        ys = plot.top() + (self.curve.peak_mm - lifts) / self.depth_mm * plot.height()
        line = polygon(xs, np.minimum(ys, plot.bottom() + 40))
        p.setPen(round_pen(theme.ink, 4.2))
        p.drawPolyline(line)
        if self.curve.kind is Kind.INTAKE:
            p.setPen(round_pen(theme.sheet, 1.6))
            p.drawPolyline(line)
        p.restore()
        p.setPen(QPen(theme.ink2, 1.8, Qt.PenStyle.DashLine))
        p.drawLine(
            QPointF(self.x(self.card_deg), plot.top()),
            QPointF(self.x(self.card_deg), plot.bottom()),
        )
        if stands_deg is not None:
            p.setPen(flat_pen(theme.ink, 2.2))
            x = self.x(stands_deg)
            p.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))

    def paint_pair(self, p: QPainter, pair: Pair, *, used: bool = True) -> None:
        """A chord with its middle; one that does not count is dashed, its middle hollow."""
        theme = self.theme
        drop = pair.drop_mm or 0.0
        if drop > self.depth_mm * 1.02:
            return
        sign = 1.0 if self.curve.kind is Kind.INTAKE else -1.0
        ends = [QPointF(self.x(sign * d), self.y(drop)) for d in (pair.before_deg, pair.after_deg)]
        middle = QPointF((ends[0].x() + ends[1].x()) / 2, ends[0].y())
        dash = Qt.PenStyle.SolidLine if used else Qt.PenStyle.DashLine
        p.setPen(QPen(theme.ink2, 1.4, dash))
        p.drawLine(ends[0], ends[1])
        p.setPen(flat_pen(theme.ink, 2.0))
        p.setBrush(theme.sheet)
        for end in ends:
            p.drawEllipse(end, 5.0, 5.0)
        if used:
            p.setBrush(theme.ink)
        p.drawEllipse(middle, 4.0, 4.0)

    def paint_asked(self, p: QPainter, drop_mm: float, after: bool, stands_deg: float) -> None:
        """The place that is asked, where the curve says that it will be."""
        if drop_mm > self.depth_mm * 1.02:
            return
        ends = self.curve.chord_deg(min(drop_mm, self.curve.peak_mm * 0.9))
        at = ends[1 if after else 0] + stands_deg - self.curve.nose_deg()
        theme = self.theme
        p.setPen(flat_pen(theme.sheet, 2.0))
        p.setBrush(theme.now)
        p.drawEllipse(QPointF(self.x(at), self.y(drop_mm)), 7.5, 7.5)


@dataclass(frozen=True, slots=True)
class Middles:
    """The middles of one nose, enlarged: degrees ATDC grow to the right, BTDC to the left."""

    box: QRectF
    kind: Kind
    card_deg: float
    theme: Theme
    before: NoseFound | None = None
    """What the set of readings before said: it stays to be seen, hollow."""

    @property
    def plot(self) -> QRectF:
        """Where the dots are."""
        return self.box.adjusted(50, 52, -18, -58)

    def paint(self, p: QPainter, found: NoseFound | None) -> None:
        """Each middle, their mean with its band, the card, and what the walk says."""
        theme, box = self.theme, self.box
        rounded(p, box, 6, theme.sheet, flat_pen(theme.line, 1.8))
        side = "after TDC" if self.kind is Kind.INTAKE else "before TDC"
        head = QRectF(box.left() + 12, box.top() + 4, box.width() - 20, 24)
        titles = (f"Middles × 10, {side}", f"Middles, {side}")
        draw_one_of(p, head, titles, BODY, theme.ink, Weight.STRONG, LEFT)
        if found is None:
            row = QRectF(box.left() + 12, box.bottom() - 30, box.width() - 24, 24)
            draw_one_of(p, row, ("no pair yet",), BODY, theme.ink2)
            return
        ends = self._span(found)
        self._paint_scale(p, found, ends)
        self._paint_dots(p, found, ends)
        row = QRectF(box.left() + 12, box.bottom() - 30, box.width() - 24, 24)
        words = found.nose.walk_words
        count = len(found.nose.middles_deg)
        short = f"walk {found.nose.walk_deg:.2f}°" if count > 1 else "one pair so far"
        draw_one_of(p, row, (words, short), BODY, theme.ink, Weight.LABEL)

    def _span(self, found: NoseFound) -> tuple[float, float]:
        """Least and most degree of the scale, whole degrees, wide enough for card and middles."""
        values = [found.nose.middle_deg, found.card_nose_deg, *found.nose.middles_deg]
        if self.before is not None:
            values += self.before.nose.middles_deg
        low, high = math.floor(min(values) - 0.6), math.ceil(max(values) + 0.6)
        while high - low < 4:
            low, high = (low - 1, high) if (high - low) % 2 else (low, high + 1)
        return float(low), float(high)

    def _x(self, deg: float, ends: tuple[float, float]) -> float:
        share = (deg - ends[0]) / (ends[1] - ends[0])
        plot = self.plot
        if self.kind is Kind.EXHAUST:
            share = 1 - share
        return plot.left() + share * plot.width()

    def _paint_scale(self, p: QPainter, found: NoseFound, ends: tuple[float, float]) -> None:
        theme, plot = self.theme, self.plot
        mean = found.nose.middle_deg
        edges = sorted(self._x(mean + side * BAND_DEG, ends) for side in (-1, 1))
        p.fillRect(QRectF(edges[0], plot.top(), edges[1] - edges[0], plot.height()), theme.well)
        step = max(1, math.ceil((ends[1] - ends[0]) / max(plot.width() / 36, 1)))
        for deg in range(int(ends[0]), int(ends[1]) + 1, step):
            x = self._x(deg, ends)
            p.setPen(flat_pen(theme.hair, 1))
            p.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
            label = QRectF(x - 24, plot.bottom() + 2, 48, 20)
            draw_text(p, label, str(deg), NOTE + 1, theme.ink2, align=CENTRE)
        card_x, mean_x = self._x(found.card_nose_deg, ends), self._x(mean, ends)
        p.setPen(QPen(theme.ink2, 2.0, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(card_x, plot.top()), QPointF(card_x, plot.bottom()))
        p.setPen(flat_pen(theme.ink, 2.2))
        p.drawLine(QPointF(mean_x, plot.top()), QPointF(mean_x, plot.bottom()))
        close = abs(card_x - mean_x) < 78
        card_words, mean_words = f"card {found.card_nose_deg:.1f}", f"{mean:.1f}"
        if close:
            box = QRectF(self.box.left() + 12, plot.top() - 22, self.box.width() - 24, 20)
            told = f"{mean_words}, {card_words}"
            draw_text(p, box, told, NOTE + 1, theme.ink, Weight.LABEL, CENTRE)
            return
        for x, words, weight in (
            (card_x, card_words, Weight.BODY),
            (mean_x, mean_words, Weight.STRONG),
        ):
            left = min(max(x - 45, self.box.left() + 4), self.box.right() - 94)
            box = QRectF(left, plot.top() - 22, 90, 20)
            draw_text(p, box, words, NOTE + 1, theme.ink, weight, CENTRE)

    def _paint_dots(self, p: QPainter, found: NoseFound, ends: tuple[float, float]) -> None:
        theme, plot, nose = self.theme, self.plot, found.nose
        count = len(nose.pairs)
        if self.before is not None:
            self._paint_before(p, self.before, ends)
        spots = []
        for nth, (pair, used) in enumerate(zip(nose.pairs, nose.used, strict=True)):
            y = plot.top() + (nth + 0.5) * plot.height() / count
            label = QRectF(self.box.left() + 4, y - 10, 42, 20)
            draw_text(p, label, f"{pair.drop_mm or 0:.2f}", NOTE, theme.ink2, align=RIGHT)
            x = self._x(pair.middle_deg, ends)
            if used:
                spots.append(QPointF(x, y))
            else:
                self._paint_odd(p, y, x, pair)
        p.setPen(flat_pen(theme.ink, 2.0))
        p.drawPolyline(QPolygonF(spots))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        for spot in spots:
            p.drawEllipse(spot, 5.5, 5.5)

    def _paint_before(self, p: QPainter, before: NoseFound, ends: tuple[float, float]) -> None:
        plot, middles = self.plot, before.nose.middles_deg
        p.setPen(flat_pen(self.theme.ink2, 1.8))
        p.setBrush(self.theme.sheet)
        for nth, middle in enumerate(middles):
            y = plot.top() + (nth + 0.5) * plot.height() / len(middles)
            p.drawEllipse(QPointF(self._x(middle, ends), y), 5.0, 5.0)

    def _paint_odd(self, p: QPainter, y: float, x: float, pair: Pair) -> None:
        """A middle that does not count: a hollow pointer at the edge it lies beyond."""
        theme, plot = self.theme, self.plot
        left = x < plot.center().x()
        edge = plot.left() + 2 if left else plot.right() - 2
        out = 1 if left else -1
        p.setPen(flat_pen(theme.ink, 2.0))
        p.setBrush(theme.sheet)
        p.drawPolygon(
            QPolygonF(
                [QPointF(edge, y), QPointF(edge + 12 * out, y - 8), QPointF(edge + 12 * out, y + 8)]
            )
        )
        box = QRectF(edge + 16, y - 10, 70, 20)
        if not left:
            box = QRectF(edge - 86, y - 10, 70, 20)
        align = LEFT if left else RIGHT
        draw_text(p, box, f"{pair.middle_deg:.1f}", NOTE + 1, theme.ink, Weight.LABEL, align)
