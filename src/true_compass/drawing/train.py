"""The valve train of one valve, drawn as what it is: push rod, rocker, finger, bucket, side valve.

The cam turns, the lobe is drawn from its real lift, and the parts move with it. Lash is drawn ten
times as wide as it is, or nobody would see it.
"""

import math
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.core.items import Kind
from true_compass.core.valves.train import Train, TrainKind
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.text import CENTRE, LEFT, draw_text
from true_compass.drawing.theme import NOTE, Theme, Weight

MM: Final = 7.0
"""Pixels for a mm of lift."""
BASE_R: Final = 30.0
LASH_TIMES: Final = 10.0
REST_GAP: Final = 4.0
"""Pixels that stand for the lash where a camshaft has its place."""


@dataclass(frozen=True, slots=True)
class TrainPose:
    """Where the train stands: `lobe_mm` is the lobe's lift under the tappet, mm at the lobe.

    `outline_mm` is the lobe's lift every 2 cam degrees, 180 of them, beginning where the lobe
    touches the tappet now and going on against the running direction.
    """

    kind: Kind
    name: str
    lobe_mm: float
    valve_mm: float
    gap_mm: float
    ratio: float
    outline_mm: tuple[float, ...]
    suction: bool = False


@dataclass(frozen=True, slots=True)
class TrainDrawing:
    """Draws the train about a box of 260 × 330, its parts with their names unless it is small."""

    train: Train
    pose: TrainPose
    theme: Theme
    named: bool = True

    def paint(self, p: QPainter) -> None:
        """Draw the train of the engine's kind; an atmospheric valve has none."""
        if self.pose.suction:
            self._valve(p, QPointF(130, 90))
            self._label(p, QPointF(130, 60), "suction opens it", CENTRE)
            return
        draw = {
            TrainKind.PUSH_ROD: self._push_rod,
            TrainKind.ROCKER: self._rocker,
            TrainKind.FINGER: self._finger,
            TrainKind.BUCKET: self._bucket,
            TrainKind.SIDE_VALVE: self._side_valve,
        }[self.train.kind]
        draw(p)

    # Parts ---------------------------------------------------------------------------------

    def _cam(self, p: QPainter, centre: QPointF, touches_deg: float) -> None:
        """The lobe about its shaft; `touches_deg` is the bearing at which the tappet runs."""
        points = []
        for step, lift in enumerate(self.pose.outline_mm):
            bearing = math.radians(touches_deg + 2.0 * step)
            reach = BASE_R + MM * lift
            points.append(centre + QPointF(math.sin(bearing), -math.cos(bearing)) * reach)
        p.setPen(flat_pen(self.theme.ink, 2))
        p.setBrush(self.theme.ink if self.pose.kind is Kind.EXHAUST else self.theme.sheet)
        p.drawPolygon(QPolygonF(points))
        p.setBrush(self.theme.metal)
        p.drawEllipse(centre, 9, 9)

    def _valve(self, p: QPainter, tip: QPointF, *, up: bool = False) -> None:
        """Stem, spring and head; `tip` is the top of the stem when shut. A side valve opens up."""
        sign = -1.0 if up else 1.0
        at = tip + QPointF(0, sign * MM * self.pose.valve_mm)
        theme, long = self.theme, 118.0
        head = at + QPointF(0, sign * long)
        seat = tip + QPointF(0, sign * (long - 2))
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.setBrush(theme.metal)
        for side in (-1, 1):
            foot = seat + QPointF(side * 32, 0)
            corners = [foot, foot + QPointF(side * 22, 0)]
            depth = QPointF(0, -sign * 26)
            p.drawPolygon(
                QPolygonF([corners[0], corners[1], corners[1] + depth, corners[0] + depth])
            )
        p.setPen(round_pen(theme.ink2, 2.2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        start, end = at + QPointF(0, sign * 14), seat + QPointF(0, -sign * 34)
        turns = 7
        coil = []
        for i in range(2 * turns + 1):
            share = i / (2 * turns)
            y = start.y() + (end.y() - start.y()) * share
            coil.append(QPointF(at.x() + (15 if i % 2 else -15), y))
        p.drawPolyline(QPolygonF(coil))
        p.setPen(flat_pen(theme.ink, 6))
        p.drawLine(at, head)
        p.setPen(flat_pen(theme.ink, 2))
        p.setBrush(theme.ink)
        p.drawPolygon(
            QPolygonF(
                [
                    head + QPointF(-32, 0),
                    head + QPointF(32, 0),
                    head + QPointF(4, -sign * 14),
                    head + QPointF(-4, -sign * 14),
                ]
            )
        )
        rounded(p, QRectF(at.x() - 19, start.y() - 4, 38, 8), 2, theme.metal_dk, None)

    def _arm(self, p: QPainter, pivot: QPointF, ends: tuple[QPointF, QPointF]) -> None:
        theme = self.theme
        p.setPen(round_pen(theme.ink, 17))
        p.drawPolyline(QPolygonF([ends[0], pivot, ends[1]]))
        p.setPen(round_pen(theme.metal, 12))
        p.drawPolyline(QPolygonF([ends[0], pivot, ends[1]]))
        p.setPen(flat_pen(theme.ink, 2))
        p.setBrush(theme.sheet)
        p.drawEllipse(pivot, 8, 8)

    def _label(self, p: QPainter, at: QPointF, words: str, align: int = LEFT) -> None:
        if not self.named:
            return
        box = QRectF(at.x(), at.y() - 10, 150, 20)
        if align == CENTRE:
            box.translate(-75, 0)
        draw_text(p, box, words, NOTE, self.theme.ink2, Weight.LABEL, align)

    def _gap(self, p: QPainter, at: QPointF) -> None:
        """A mark at the gap where the lash is."""
        if self.pose.gap_mm > 0:
            p.setPen(flat_pen(self.theme.now, 2.6))
            p.drawLine(at + QPointF(12, 0), at + QPointF(30, 0))

    @property
    def _shown_gap(self) -> float:
        return min(MM * LASH_TIMES * self.pose.gap_mm / 4, 12.0)

    # Kinds ---------------------------------------------------------------------------------

    def _push_rod(self, p: QPainter) -> None:
        pivot, rise = QPointF(128, 52), MM * self.pose.lobe_mm
        tip = QPointF(206, 62)
        rod_x = 48.0
        foot = QPointF(rod_x, 262 - BASE_R - rise)
        top = QPointF(rod_x, 62 - min(rise, 60))
        self._cam(p, QPointF(rod_x, 262), 0.0)
        rounded(p, QRectF(rod_x - 15, foot.y() - 30, 30, 30), 3, self.theme.metal_dk, None)
        p.setPen(round_pen(self.theme.ink, 7))
        p.drawLine(foot + QPointF(0, -26), top)
        end = tip + QPointF(0, MM * self.pose.valve_mm - self._shown_gap - 8)
        self._valve(p, tip)
        self._arm(p, pivot, (top, end))
        self._gap(p, tip + QPointF(-4, MM * self.pose.valve_mm - self._shown_gap / 2))
        self._label(p, QPointF(rod_x + 22, 150), "push rod")
        self._label(p, QPointF(rod_x + 74, 306), "camshaft")
        self._label(p, QPointF(pivot.x(), 22), "rocker", CENTRE)

    def _rocker(self, p: QPainter) -> None:
        pivot, tip = QPointF(128, 92), QPointF(206, 106)
        cam = QPointF(48, 92 + 14 + BASE_R + 34)
        rise = MM * self.pose.lobe_mm
        foot = QPointF(48, cam.y() - BASE_R - rise - 8)
        self._cam(p, cam, 0.0)
        self._valve(p, tip)
        end = tip + QPointF(0, MM * self.pose.valve_mm - self._shown_gap - 8)
        self._arm(p, pivot, (foot, end))
        self._gap(p, tip + QPointF(-4, MM * self.pose.valve_mm - self._shown_gap / 2))
        self._label(p, QPointF(4, cam.y() + BASE_R + 62), "overhead camshaft")
        self._label(p, QPointF(pivot.x(), 60), "rocker", CENTRE)

    def _finger(self, p: QPainter) -> None:
        tip, pivot = QPointF(196, 132), QPointF(48, 130)
        drop = MM * self.pose.valve_mm
        end = tip + QPointF(0, drop - self._shown_gap - 8)
        # The lobe runs where the follower's ratio puts it.
        share = min(1.0 / self.pose.ratio, 0.8)
        middle = pivot + (end - pivot) * share
        rest = pivot + (tip + QPointF(0, -REST_GAP - 8) - pivot) * share
        self._valve(p, tip)
        p.setPen(round_pen(self.theme.ink, 17))
        p.drawLine(pivot, end)
        p.setPen(round_pen(self.theme.metal, 12))
        p.drawLine(pivot, end)
        p.setPen(flat_pen(self.theme.ink, 2))
        p.setBrush(self.theme.sheet)
        p.drawEllipse(pivot, 10, 10)
        p.drawEllipse(middle + QPointF(0, -3), 11, 11)
        self._cam(p, QPointF(rest.x(), rest.y() - 14 - BASE_R), 180.0)
        self._gap(p, tip + QPointF(-4, drop - self._shown_gap / 2))
        self._label(p, QPointF(10, 158), "pivot")
        self._label(p, QPointF(72, 182), "finger follower")

    def _bucket(self, p: QPainter) -> None:
        tip = QPointF(130, 150)
        top = tip.y() + MM * self.pose.valve_mm - 16
        self._valve(p, tip)
        theme = self.theme
        rounded(p, QRectF(98, top, 64, 44), 4, theme.metal, flat_pen(theme.ink, 2))
        rounded(p, QRectF(112, top - 5, 36, 6), 1, theme.metal_dk, None)
        self._cam(p, QPointF(130, tip.y() - 21 - REST_GAP - BASE_R), 180.0)
        self._gap(p, QPointF(150, top - 5 - REST_GAP / 2))
        self._label(p, QPointF(172, top + 24), "bucket and shim")
        self._label(p, QPointF(172, top - 52), "camshaft")

    def _side_valve(self, p: QPainter) -> None:
        cam = QPointF(130, 280)
        rise = MM * self.pose.lobe_mm
        theme = self.theme
        self._cam(p, cam, 0.0)
        foot = cam.y() - BASE_R - rise
        rounded(p, QRectF(114, foot - 36, 32, 36), 3, theme.metal_dk, None)
        tip = QPointF(130, cam.y() - BASE_R - 36 - self._shown_gap)
        self._valve(p, tip, up=True)
        self._gap(p, QPointF(140, tip.y() - MM * self.pose.valve_mm + self._shown_gap / 2))
        self._label(p, QPointF(160, foot - 14), "tappet")
        self._label(p, QPointF(176, cam.y()), "camshaft")
