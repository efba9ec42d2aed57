"""Where the blade goes: rocker, tip and adjuster of one item, with the gap ten times as wide.

It shows the place, not the gap as it is: on the heel the gap drawn is always the same, and a blade
fills it. On its lobe a valve is open and its spring squeezed: there is no gap, the blade stays out.
"""

import math
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.core.valves.train import Adjuster, LashAt, Train, TrainKind
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import RIGHT, draw_text
from true_compass.drawing.theme import NOTE, Theme

GAP: Final = 14.0
DOWN: Final = 26.0
"""How far the valve is drawn down at its most lift."""
WIDTH: Final = 420.0
HEIGHT: Final = 200.0


class GapSketch:
    """Draws into a box 420 × 200 at the origin; `blade` says whether one is at hand.

    `lift` is how far the valve is open, 0 shut to 1 at its most.
    """

    def __init__(self, train: Train, theme: Theme, *, blade: bool, lift: float = 0.0) -> None:
        self.train = train
        self.theme = theme
        self.blade = blade
        self.lift = min(max(lift, 0.0), 1.0)

    @property
    def gap(self) -> float:
        """The gap as it is drawn: none while the lobe holds the valve open."""
        return 0.0 if self.lift else GAP

    def paint(self, p: QPainter) -> None:
        """Draw the head, and what stands on it."""
        theme = self.theme
        rounded(p, QRectF(0, HEIGHT - 26, WIDTH, 26), 0, theme.metal, flat_pen(theme.ink2, 1.6))
        draw_text(p, QRectF(8, HEIGHT - 24, 80, 22), "head", NOTE, theme.ink2)
        if self.train.kind in (TrainKind.BUCKET, TrainKind.SIDE_VALVE):
            self._bucket(p)
        else:
            self._rocker(p)

    def _rocker(self, p: QPainter) -> None:
        """A rocker on its post, or a finger, with its screw at one end. On its lobe it leans on the
        valve, and nothing goes in between.
        """
        theme, down = self.theme, DOWN * self.lift
        at_rod = self.train.lash_at is LashAt.ROD_END
        tip, rod = QPointF(310, 84), QPointF(110, 84)
        self._valve(p, tip.x(), tip.y() + down + (0 if at_rod else self.gap))
        if self.train.kind is TrainKind.PUSH_ROD:
            top = rod.y() - down + (self.gap if at_rod else 0)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.ink)
            p.drawRect(QRectF(rod.x() - 7, top, 14, HEIGHT - top))
            draw_text(p, QRectF(rod.x() + 14, 120, 90, 20), "push rod", NOTE, theme.ink2)
        post = QPolygonF([QPointF(200, 70), QPointF(220, 70), QPointF(232, 174), QPointF(188, 174)])
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.setBrush(theme.metal)
        p.drawPolygon(post)
        pivot = QPointF(210, 71)
        p.save()
        p.translate(pivot)
        p.rotate(math.degrees(math.atan2(2 * down, tip.x() - rod.x())))
        p.translate(-pivot)
        arm = QRectF(rod.x() - 16, 58, tip.x() - rod.x() + 32, 26)
        rounded(p, arm, 13, theme.metal, flat_pen(theme.ink, 2.0))
        p.setBrush(theme.sheet)
        p.drawEllipse(pivot, 12, 12)
        self._adjuster(p, rod.x(), tip.x())
        p.restore()
        self._put_blade(p, rod - QPointF(0, down) if at_rod else tip + QPointF(0, down))

    def _adjuster(self, p: QPainter, rod_x: float, tip_x: float) -> None:
        theme = self.theme
        places = {
            Adjuster.VALVE_SCREW: tip_x,
            Adjuster.ROD_SCREW: rod_x,
            Adjuster.PIVOT_SCREW: rod_x,
            Adjuster.PIVOT_NUT: 210.0,
            Adjuster.STUD_NUT: 210.0,
            Adjuster.PEDESTAL: 210.0,
        }
        x = places.get(self.train.adjuster)
        if x is None:
            return
        p.setPen(flat_pen(theme.ink, 1.6))
        p.setBrush(theme.sheet)
        p.drawRect(QRectF(x - 6, 22, 12, 36))
        p.setBrush(theme.metal_dk)
        p.drawRect(QRectF(x - 20, 40, 40, 18))
        words = self.train.adjuster.words
        if x > WIDTH / 2 + 20:
            draw_text(p, QRectF(x - 156, 28, 130, 20), words, NOTE, theme.ink2, align=RIGHT)
        else:
            draw_text(p, QRectF(x + 26, 28, 180, 20), words, NOTE, theme.ink2)

    def _valve(self, p: QPainter, x: float, top: float) -> None:
        theme = self.theme
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        p.drawRect(QRectF(x - 8, top, 16, HEIGHT - 26 - top))
        p.setBrush(theme.metal_dk)
        p.drawRect(QRectF(x - 36, top + 22, 72, 8))
        foot = HEIGHT - 26
        high = foot - top - 30
        points = [
            QPointF(x + (-28 if nth % 2 else 28), top + 30 + high * nth / 9) for nth in range(10)
        ]
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.metal_dk, 2.4))
        p.drawPolyline(QPolygonF(points))

    def _bucket(self, p: QPainter) -> None:
        """A camshaft above a bucket, its lobe turned away."""
        theme = self.theme
        x = 210.0
        p.setPen(flat_pen(theme.ink, 2.0))
        p.setBrush(theme.metal)
        down = DOWN * self.lift
        if self.lift:
            # The nose of the lobe stands on the bucket.
            nose = [QPointF(x - 31, 50), QPointF(x - 12, 70 + down), QPointF(x + 12, 70 + down)]
            p.drawPolygon(QPolygonF([*nose, QPointF(x + 31, 50)]))
        p.drawEllipse(QPointF(x, 36), 34, 34)
        p.setBrush(theme.sheet)
        p.drawEllipse(QPointF(x, 36), 9, 9)
        top = 70 + self.gap + down
        rounded(p, QRectF(x - 26, top, 52, 8), 2, theme.metal_dk, flat_pen(theme.ink, 1.4))
        rounded(p, QRectF(x - 46, top + 8, 92, 46), 4, theme.metal, flat_pen(theme.ink, 2.0))
        self._valve(p, x, top + 50)
        draw_text(p, QRectF(x + 56, top - 4, 120, 20), "shim", NOTE, theme.ink2)
        self._put_blade(p, QPointF(x, 70 + down))

    def _put_blade(self, p: QPainter, at: QPointF) -> None:
        """The blade from the right, in the gap below a point; beside it where there is none."""
        box = QRectF(at.x() - 24, at.y() + 1, 74, GAP - 2)
        if self.lift:
            box.setLeft(at.x() + 24)
            box.setWidth(42)
        if self.blade:
            rounded(p, box, 1, self.theme.now, None)
            handle = QRectF(box.right() - 2, box.center().y() - 11, 46, 22)
            rounded(p, handle, 11, self.theme.now, None)
