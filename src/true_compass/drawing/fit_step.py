"""A small picture for each step of fitting a distributor, about the middle of a square."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from true_compass.core.ignition.bay import Step
from true_compass.core.ignition.fitting import slot_deg
from true_compass.drawing.cap_map import CapMap
from true_compass.drawing.codes import flat_pen, outward, round_pen
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import BODY, NOTE, Theme, Weight

RADIUS: Final = 44.0


@dataclass(frozen=True, slots=True)
class StepPicture:
    """Paints the step that is due. `at` says in which direction everything points."""

    theme: Theme
    at: CapMap

    def paint(self, p: QPainter, middle: QPointF, step: Step) -> None:
        """Draw it about a point, 60 px either way."""
        p.save()
        p.translate(middle)
        _PAINTERS[step](self, p)
        p.restore()

    def _disc(self, p: QPainter, radius: float = RADIUS) -> None:
        p.setBrush(self.theme.sheet)
        p.setPen(flat_pen(self.theme.ink, 2))
        p.drawEllipse(QPointF(0, 0), radius, radius)

    def _rotor(self, p: QPainter, out: QPointF, *, dashed: bool = False) -> None:
        pen = flat_pen(self.theme.now, 9)
        if dashed:
            pen = QPen(self.theme.ink, 1.8, Qt.PenStyle.DashLine)
        p.setPen(pen)
        p.drawLine(out * -8, out * (RADIUS - 8))
        p.setPen(round_pen(self.theme.ink, 12))
        p.drawPoint(QPointF(0, 0))

    def _arrow(self, p: QPainter, begin_deg: float, sweep_deg: float, reach: float) -> None:
        """A curved arrow, clockwise where the sweep is positive; 0 is at the top."""
        path = QPainterPath()
        box = QRectF(-reach, -reach, 2 * reach, 2 * reach)
        path.arcMoveTo(box, 90 - begin_deg)
        path.arcTo(box, 90 - begin_deg, -sweep_deg)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(self.theme.ink, 3))
        p.drawPath(path)
        side = outward(begin_deg + sweep_deg)
        tip = side * reach
        on = QPointF(-side.y(), side.x()) * (1 if sweep_deg > 0 else -1)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.ink)
        p.drawPolygon(QPolygonF([tip + on * 11, tip + side * 7, tip - side * 7]))

    @property
    def _sense(self) -> int:
        return self.at.engine.rotor_turns.sense

    @property
    def _seat(self) -> QPointF:
        return self.at.towards(self.at.fitted.rotor_deg(self.at.engine))

    def turns(self, p: QPainter) -> None:
        """The rotor and the way it goes, or a question."""
        self._disc(p)
        if self.at.engine.rotor.turns is None:
            box = QRectF(-30, -30, 60, 60)
            draw_text(p, box, "?", 40, self.theme.ink, Weight.STRONG, CENTRE)
            return
        self._rotor(p, self._seat)
        self._arrow(p, -70 * self._sense, 110 * self._sense, RADIUS + 10)

    def mark(self, p: QPainter) -> None:
        """The damper with its line short of the pointer."""
        self._disc(p)
        advance = self.at.engine.spark.advance.initial_deg or 0.0
        sense = 1 if self.at.engine.clockwise_from_front else -1
        # Drawn three times as far as it is, so that it can be seen.
        out = outward(-3.0 * advance * sense)
        p.setPen(flat_pen(self.theme.ink, 4))
        p.drawLine(out * (RADIUS - 16), out * RADIUS)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.now)
        top = QPointF(0, -RADIUS - 2)
        p.drawPolygon(QPolygonF([top, top + QPointF(-8, -13), top + QPointF(8, -13)]))
        self._arrow(p, 60 * sense, 60 * sense, RADIUS - 18)

    def goal(self, p: QPainter) -> None:
        """The rotor towards the plug of cylinder 1."""
        self._disc(p)
        self._rotor(p, self._seat)
        away = self.at.plugs[1] - self.at.centre
        out = away / math.hypot(away.x(), away.y())
        plug = out * (RADIUS + 12)
        p.setPen(flat_pen(self.theme.ink, 3))
        p.setBrush(self.theme.sheet)
        p.drawEllipse(plug, 12, 12)
        box = QRectF(plug.x() - 12, plug.y() - 12, 24, 24)
        draw_text(p, box, "1", BODY, self.theme.ink, Weight.STRONG, CENTRE)

    def slot(self, p: QPainter) -> None:
        """The slot in the pump's shaft, and the rotor above it dashed."""
        self._disc(p, 26)
        out = self.at.towards(slot_deg(self.at.engine, self.at.fitted))
        p.setPen(flat_pen(self.theme.ink, 8))
        p.drawLine(out * -18, out * 18)
        p.setPen(QPen(self.theme.ink2, 1.8, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(0, 0), self._seat * (RADIUS + 8))

    def back(self, p: QPainter) -> None:
        """Where it starts, dashed, and where the gear brings it."""
        self._disc(p)
        twist = self.at.engine.distributor.twist_deg or 0.0
        end = self.at.fitted.rotor_deg(self.at.engine)
        begin = self.at.towards(end - twist)
        self._rotor(p, begin, dashed=True)
        self._rotor(p, self._seat)
        if twist:
            bearing = math.degrees(math.atan2(begin.x(), -begin.y()))
            self._arrow(p, bearing, max(min(3 * twist, 80.0), -80.0), RADIUS + 10)

    def drop(self, p: QPainter) -> None:
        """The body from the side going down on its gasket."""
        theme = self.theme
        p.setBrush(theme.metal)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawRect(QRectF(-52, 22, 38, 26))
        p.drawRect(QRectF(14, 22, 38, 26))
        p.setPen(flat_pen(theme.now, 5))
        p.drawLine(QPointF(-34, 18), QPointF(-12, 18))
        p.drawLine(QPointF(12, 18), QPointF(34, 18))
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawRect(QRectF(-30, -6, 60, 12))
        p.drawRect(QRectF(-22, -46, 44, 40))
        p.drawRect(QRectF(-9, 6, 18, 34))
        p.setPen(flat_pen(theme.ink, 3))
        p.drawLine(QPointF(44, -40), QPointF(44, -8))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        p.drawPolygon(QPolygonF([QPointF(44, 4), QPointF(37, -9), QPointF(51, -9)]))

    def body(self, p: QPainter) -> None:
        """The body with its tab, and which way it must go."""
        self._disc(p)
        p.setPen(flat_pen(self.theme.ink, 2))
        p.setBrush(self.theme.sheet)
        p.drawRect(QRectF(-8, -RADIUS - 12, 16, 14))
        turn = self.at.fitted.body_turn_deg(self.at.engine)
        self._rotor(p, self._seat)
        if abs(turn) >= 0.05:
            self._arrow(p, 14.0 if turn > 0 else -14.0, 50.0 if turn > 0 else -50.0, RADIUS + 10)

    def clamp(self, p: QPainter) -> None:
        """A fork under a bolt."""
        theme = self.theme
        p.setBrush(theme.metal)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawRoundedRect(QRectF(-46, -10, 92, 20), 8, 8)
        p.setBrush(theme.sheet)
        points = [
            QPointF(math.cos(math.radians(60 * n)), math.sin(math.radians(60 * n))) * 22
            for n in range(6)
        ]
        p.drawPolygon(QPolygonF(points))
        self._arrow(p, -40, 90, 34)
        box = QRectF(-30, 30, 60, 22)
        draw_text(p, box, "nip", NOTE, theme.ink2, align=CENTRE)


_PAINTERS: Final[dict[Step, Callable[[StepPicture, QPainter], None]]] = {
    Step.TURNS: StepPicture.turns,
    Step.MARK: StepPicture.mark,
    Step.GOAL: StepPicture.goal,
    Step.SLOT: StepPicture.slot,
    Step.BACK: StepPicture.back,
    Step.DROP: StepPicture.drop,
    Step.BODY: StepPicture.body,
    Step.CLAMP: StepPicture.clamp,
}
