"""A distributor's cap with its rotor, posts, leads and plugs.

Square is the post, round is the plug. Unlike ends are wrong before any colour.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from true_compass.core.ignition.cap import seats_deg
from true_compass.core.rotation import Rotation
from true_compass.drawing.cap_map import CapMap
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, LEFT, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

LEAD: Final = 2.4
WRONG: Final = 4.4
PICKED: Final = 5.4


@dataclass(frozen=True, slots=True)
class CapPainter:
    """Paints a cap in one theme."""

    theme: Theme
    at: CapMap
    stills: Stills

    def paint_heads(self, p: QPainter) -> None:
        """The heads with their banks' names, or the rings on which a radial's plugs stand."""
        theme, place = self.theme, self.at
        for head in place.heads:
            rounded(p, head.box, 8, theme.sheet, flat_pen(theme.line, 1.8))
            name = QRectF(head.box.left() - 28, head.box.top(), 24, head.box.height())
            draw_text(p, name, head.name, LABEL, theme.ink, Weight.STRONG, LEFT)
        if place.star:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(flat_pen(theme.hair, 1.6))
            for reach in {round(_reach(place, cylinder), 1) for cylinder in place.plugs}:
                p.drawEllipse(place.centre, reach, reach)

    def paint_plugs(self, p: QPainter, strong: Iterable[int] = (), dashed: int = 0) -> None:
        """Every plug; `strong` ones thick, one that should get a lead with a dashed ring."""
        theme, place, thick = self.theme, self.at, set(strong)
        for cylinder, at in place.plugs.items():
            fill = theme.well if cylinder in place.rear else theme.sheet
            p.setBrush(fill)
            p.setPen(flat_pen(theme.ink, 4.0 if cylinder in thick else 2.0))
            p.drawEllipse(at, place.plug_radius, place.plug_radius)
            self._number(p, at, place.plug_radius, str(cylinder), theme.ink)
            if cylinder == dashed:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(QPen(theme.ink, 1.8, Qt.PenStyle.DashLine))
                p.drawEllipse(at, place.plug_radius + 5, place.plug_radius + 5)

    def _number(self, p: QPainter, at: QPointF, half: float, text: str, colour: QColor) -> None:
        box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
        size = BODY + 2 if half > 16 else NOTE
        draw_text(p, box, text, min(size, half * 1.15), colour, Weight.STRONG, CENTRE)

    def paint_body(self, p: QPainter) -> None:
        """The cap's disc and the arrow in which its rotor turns."""
        theme, place = self.theme, self.at
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2.4))
        p.drawEllipse(place.centre, place.radius, place.radius)
        inner = self.inner
        p.setPen(flat_pen(theme.line, 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(place.centre, inner, inner)
        self._arrow(p, inner + 7)

    @property
    def inner(self) -> float:
        """Radius of the ring inside the posts."""
        return self.at.radius - 2 * self.at.post_half - 22

    def _arrow(self, p: QPainter, reach: float) -> None:
        """A curved arrow at the foot of the inner ring, as the rotor turns."""
        clockwise = self.at.engine.rotor_turns is Rotation.CLOCKWISE
        begin, sweep = (300.0, -48.0) if clockwise else (240.0, 48.0)
        box = QRectF(-reach, -reach, 2 * reach, 2 * reach).translated(self.at.centre)
        path = QPainterPath()
        path.arcMoveTo(box, begin)
        path.arcTo(box, begin, sweep)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(self.theme.ink, 2.2))
        p.drawPath(path)
        tip = path.currentPosition()
        side = -1 if clockwise else 1
        corners = (QPointF(side * 10, -2), QPointF(-side * 1, -8), QPointF(side * 1, 7))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.ink)
        p.drawPolygon(QPolygonF([tip + corner for corner in corners]))

    def paint_seats(self, p: QPainter) -> None:
        """A tick for every seat that the gear has."""
        place = self.at
        engine, inner = place.engine, self.inner
        seat = engine.distributor.seat_deg or 0.0
        p.setPen(flat_pen(self.theme.ink2, 1.6))
        for direction in seats_deg(engine.distributor_teeth, seat):
            out = place.towards(direction)
            p.drawLine(place.centre + out * (inner - 9), place.centre + out * inner)

    def paint_posts(
        self, p: QPainter, order: tuple[int, ...], strong: Iterable[int] = (), due: int = 0
    ) -> None:
        """Every post with the cylinder it is for; the one that is `due` on now."""
        theme, thick = self.theme, set(strong)
        for nth, cylinder in enumerate(order):
            post = nth + 1
            is_due = post == due
            fill = theme.now if is_due else theme.sheet
            edge = theme.now if is_due else theme.ink if post in thick else theme.line
            wide = 3.4 if post in thick or is_due else 1.8
            half = self.at.post_half
            box = QRectF(-half, -half, 2 * half, 2 * half)

            pen, ink = flat_pen(edge, wide), theme.on_now if is_due else theme.ink
            name = str(cylinder) if cylinder else ""
            plate = partial(self._plate, box=box, fill=fill, pen=pen, name=name, ink=ink)
            key = ("post", cylinder, is_due, wide, half)
            self.stills.draw(p, key, box, plate, at=self.at.post(post))

    def _plate(
        self, p: QPainter, box: QRectF, fill: QColor, pen: QPen, name: str, ink: QColor
    ) -> None:
        rounded(p, box, 4, fill, pen)
        self._number(p, box.center(), box.width() / 2, name, ink)

    def paint_lead(
        self, p: QPainter, path: QPainterPath, colour: QColor, wide: float = LEAD
    ) -> None:
        """A lead in its casing, so that crossings can be followed."""
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(self.theme.paper, wide + 4))
        p.drawPath(path)
        p.setPen(flat_pen(colour, wide))
        p.drawPath(path)

    def paint_ghost(self, p: QPainter, path: QPainterPath) -> None:
        """Where a lead should go."""
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(self.theme.ink2, 1.8, Qt.PenStyle.DashLine))
        p.drawPath(path)

    def paint_rotor(self, p: QPainter, direction_deg: float) -> None:
        """The rotor, pointing somewhere."""
        place, theme = self.at, self.theme
        out = place.towards(direction_deg)
        wide = 14.0 if place.radius > 90 else 8.0
        p.setPen(flat_pen(theme.now, wide))
        tip = place.radius - 2 * place.post_half - 8
        p.drawLine(place.centre - out * (0.22 * tip), place.centre + out * tip)
        p.setPen(round_pen(theme.ink, 26 if place.radius > 90 else 14))
        p.drawPoint(place.centre)
        p.setPen(round_pen(theme.sheet, 10 if place.radius > 90 else 6))
        p.drawPoint(place.centre)

    def paint_start(self, p: QPainter, direction_deg: float) -> None:
        """Where the rotor is held before it goes down: dashed."""
        place = self.at
        out = place.towards(direction_deg)
        side = QPointF(-out.y(), out.x()) * 6
        near, far = place.centre + out * 24, place.centre + out * (self.inner - 4)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(self.theme.ink, 1.6, Qt.PenStyle.DashLine))
        p.drawPolygon(QPolygonF([near - side, far - side, far + side, near + side]))


def _reach(place: CapMap, cylinder: int) -> float:
    away = place.plugs[cylinder] - place.centre
    return float((away.x() ** 2 + away.y() ** 2) ** 0.5)
