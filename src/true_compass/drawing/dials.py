"""The two dials: the crank seen from the front, and the rotor of the ignition seen from above.

Both are drawn about the origin with a radius of 58.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from true_compass.core.engine import Engine
from true_compass.core.state import EngineState, Rig
from true_compass.drawing.codes import Place, flat_pen, round_pen, rounded
from true_compass.drawing.ring import lap_direction, place_of, sense_of
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, draw_text, text_width
from true_compass.drawing.theme import NOTE, Theme, Weight

RADIUS = 58.0
MOST_NUMBERED_PINS = 6
MOST_NUMBERED_POSTS = 12


def crank_direction(crank_deg: float, sense: int) -> QPointF:
    """Unit vector of a crank angle from the top, for a whole turn of 360°."""
    turned = math.radians(crank_deg) * sense
    return QPointF(math.sin(turned), -math.cos(turned))


def paint_direction_arrow(p: QPainter, radius: float, theme: Theme, sense: int) -> None:
    """A curved arrow at the upper right (upper left when mirrored) in the running direction."""
    steps = [crank_direction(a, sense) * radius for a in range(36, 70, 3)]
    p.setPen(flat_pen(theme.ink, 2.4))
    for a, b in pairwise(steps):
        p.drawLine(a, b)
    tip, out = crank_direction(75, sense) * radius, crank_direction(69, sense)
    foot = out * radius
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.ink)
    p.drawPolygon(QPolygonF([tip, foot + out * 6, foot - out * 6]))


def rotor_sense(engine: Engine) -> int:
    """+1 where the rotor's dial goes clockwise as it is drawn; as the crank where none was seen."""
    return engine.rotor_turns.sense if engine.has_rotor else sense_of(engine)


def rotor_title(engine: Engine) -> str:
    """What the rotor's dial shows, from where, and whether its direction was ever seen."""
    if not engine.has_rotor:
        return "Cycle, one turn in 720°"
    if engine.rotor.turns is None:
        return "Rotor, direction assumed"
    return f"Rotor, {engine.rotor.seen_from.words}"


@dataclass(frozen=True, slots=True)
class Dials:
    """Paints both dials in one theme. `sense` is -1 for an engine drawn mirrored.

    `strong` is the number of a cylinder to thicken, if any.
    """

    theme: Theme
    stills: Stills
    sense: int = 1
    strong: int | None = None

    def paint_crank(self, p: QPainter, rig: Rig, state: EngineState) -> None:
        """Crank pins about the shaft, each with the cylinders on it, over the face."""
        crank_deg = float(state.crank_deg)
        placed = [
            (crank_direction(crank_deg + angle, self.sense), cylinders)
            for angle, cylinders in rig.pins
        ]
        p.setPen(round_pen(self.theme.metal_dk, 7))
        for out, _ in placed:
            p.drawLine(QPointF(0, 0), out * 34)
        p.setPen(round_pen(self.theme.ink, 12))
        p.drawPoint(QPointF(0, 0))
        for out, cylinders in placed:
            at_tdc = any(place_of(state, c - 1) is not Place.BETWEEN for c in cylinders)
            edge = self.theme.now if at_tdc else self.theme.ink
            width = (3.4 if self.strong in cylinders else 2.0) + (0.6 if at_tdc else 0.0)
            if len(placed) > MOST_NUMBERED_PINS:
                p.setBrush(self.theme.sheet)
                p.setPen(flat_pen(edge, width))
                p.drawEllipse(out * 38, 7, 7)
            else:
                self._paint_pin(p, out * 38, "·".join(map(str, cylinders)), flat_pen(edge, width))

    def paint_crank_face(self, p: QPainter) -> None:
        """The part of the crank dial that stands still."""
        theme = self.theme
        self._paint_disc(p)
        for step in range(12):
            out = crank_direction(30.0 * step, 1)
            strong = step % 3 == 0
            p.setPen(flat_pen(theme.ink if strong else theme.line, 2.0 if strong else 1.4))
            p.drawLine(out * (RADIUS - (9 if strong else 5)), out * RADIUS)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.now)
        p.drawPolygon(QPolygonF([QPointF(-10, -74), QPointF(10, -74), QPointF(0, -58)]))

    def _paint_disc(self, p: QPainter) -> None:
        p.setBrush(self.theme.sheet)
        p.setPen(flat_pen(self.theme.line, 1.4))
        p.drawEllipse(QPointF(0, 0), RADIUS, RADIUS)
        paint_direction_arrow(p, RADIUS + 15, self.theme, self.sense)

    def _paint_pin(self, p: QPainter, at: QPointF, text: str, pen: QPen) -> None:
        half = max(15.0, text_width(text, NOTE + 1, Weight.STRONG) / 2 + 7)
        box = QRectF(-half, -12, 2 * half, 24)

        def plate(q: QPainter) -> None:
            rounded(q, box, 12, self.theme.sheet, pen)
            draw_text(q, box, text, NOTE + 1, self.theme.ink, Weight.STRONG, CENTRE)

        key = ("pin", text, pen.color().rgba(), pen.widthF())
        self.stills.draw(p, key, box, plate, at=at)

    def paint_rotor(self, p: QPainter, state: EngineState) -> None:
        """The rotor, which turns once in 720° of crank, over its face of posts."""
        arm = lap_direction(float(state.crank_deg), self.sense)
        p.setPen(flat_pen(self.theme.now, 10))
        p.drawLine(arm * -14, arm * 28)
        p.setPen(round_pen(self.theme.ink, 18))
        p.drawPoint(QPointF(0, 0))
        p.setPen(round_pen(self.theme.sheet, 7))
        p.drawPoint(QPointF(0, 0))

    def paint_rotor_face(self, p: QPainter, rig: Rig, firing: tuple[int, ...]) -> None:
        """The posts; those of the cylinders `firing` are filled."""
        self._paint_disc(p)
        for cylinder in rig.engine.cylinders:
            self._paint_post(p, rig, cylinder, cylinder in firing)

    def _paint_post(self, p: QPainter, rig: Rig, cylinder: int, fires: bool) -> None:
        theme, count = self.theme, rig.engine.cylinder_count
        numbered = count <= MOST_NUMBERED_POSTS
        half = 12.0 if count <= 8 else 9.5 if numbered else 5.0
        at = lap_direction(float(rig.offsets_deg[cylinder - 1]), self.sense) * (RADIUS - 15)
        box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
        edge = theme.now if fires else theme.ink
        pen = flat_pen(edge, 3.4 if cylinder == self.strong else 1.8)
        rounded(p, box, 3, theme.now if fires else theme.sheet, pen)
        if numbered:
            colour = theme.on_now if fires else theme.ink
            px = NOTE if count <= 8 else NOTE - 3
            draw_text(p, box, str(cylinder), px, colour, Weight.STRONG, CENTRE)
