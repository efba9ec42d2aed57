"""Throws and banks from the front: drag a pin round, lean a bank over."""

import math
from collections.abc import Hashable
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from true_compass.app.workspaces.engine.hand.grips import (
    Grip,
    GripView,
    Modifier,
    paint_grip,
)
from true_compass.app.workspaces.engine.hand.model import Tab
from true_compass.core.angles import apart_deg
from true_compass.core.crank.shaping import even_step_deg, snapped_deg
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import CENTRE, draw_text, text_width
from true_compass.drawing.theme import BODY, LEAD, Weight

SAME_DEG: Final = 8.0
"""Pins nearer to each other than this stand one outside the other."""


def bearing_of(at: QPointF, middle: QPointF) -> float:
    """Bearing of a point about a centre, in degrees."""
    return math.degrees(math.atan2(at.x() - middle.x(), middle.y() - at.y()))


def crowd_of(angle_deg: float, seen: list[float]) -> int:
    """How many of the angles `seen` so far a new one stands with; it is added to them."""
    crowd = sum(apart_deg(angle_deg, other) < SAME_DEG for other in seen)
    seen.append(angle_deg)
    return crowd


class ThrowsView(GripView):
    """The crank from the front, one pin a throw. Angles grow in the running direction."""

    tab = Tab.THROWS
    held_deg: float | None = None

    @property
    def _middle(self) -> QPointF:
        return QPointF(self.logical_width / 2, self.logical_height / 2)

    @property
    def _radius(self) -> float:
        return max(min(self.logical_width - 130, self.logical_height - 92) / 2, 40.0)

    def grips(self) -> list[Grip]:
        """One pin a throw; pins at one angle stand one outside the other."""
        layout, sense = self.model.layout, sense_of(self.model.engine)
        radius = min(18.0, max(self._radius * 0.17, 10.0))
        angles = {round(throw.angle_deg, 1) for throw in layout.throws}
        alone = len(angles) == len(layout.throws)
        reach, found = self._radius * (0.76 if alone else 0.5), []
        seen: list[float] = []
        for place, throw in enumerate(layout.throws):
            at_deg = throw.angle_deg
            if self.held == place and self.held_deg is not None:
                at_deg = self.held_deg
            far = reach + crowd_of(at_deg, seen) * (2 * radius + 2)
            at = self._middle + crank_direction(at_deg, sense) * far
            second = ", second crank" if throw.second_crank else ""
            words = f"pin {place + 1} at {throw.angle_deg:.4g}°{second}"
            found.append(Grip(place, at, radius, words, drags=True))
        return found

    def _angle_at(self, at: QPointF, how: Modifier) -> float:
        angle = bearing_of(at, self._middle) * sense_of(self.model.engine) % 360.0
        if how & Modifier.AltModifier:
            return round(angle) % 360.0
        return snapped_deg(self.model.layout, angle)

    def dragged(self, key: Hashable, at: QPointF, how: Modifier, *, dropped: bool) -> None:
        """The pin follows the hand; at the release it snaps, or changes places."""
        assert isinstance(key, int)
        angle = self._angle_at(at, how)
        if dropped:
            self.held_deg = None
            self.model.drop_throw(key, angle)
        else:
            self.held_deg = bearing_of(at, self._middle) * sense_of(self.model.engine)
            self.model.move_throw(key, angle, live=True)

    def nudged(self, key: Hashable, steps: int, how: Modifier) -> None:
        """One even step, or with Shift or Alt one degree."""
        assert isinstance(key, int)
        layout = self.model.layout
        here = layout.throws[key].angle_deg
        fine = how & (Modifier.ShiftModifier | Modifier.AltModifier)
        goal = here + steps if fine else snapped_deg(layout, here + steps * even_step_deg(layout))
        self.model.move_throw(key, goal % 360.0, live=False)

    def paint(self, p: QPainter) -> None:
        """Draw the circle with its quarters, webs, and pins."""
        theme, middle, radius = self.look.theme, self._middle, self._radius
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.line, 1.6))
        p.drawEllipse(middle, radius, radius)
        sense = sense_of(self.model.engine)
        for quarter in (0, 90, 180, 270):
            out = crank_direction(quarter, sense)
            tip = middle + out * (radius + 2)
            side = QPointF(-out.y(), out.x())
            p.setBrush(theme.sheet)
            p.setPen(flat_pen(theme.ink, 1.6))
            foot = middle + out * (radius + 13)
            p.drawPolygon(QPolygonF([tip, foot + side * 7, foot - side * 7]))
            box = QRectF(-24, -11, 48, 22).translated(
                middle + out * (radius + (40 if out.x() else 26))
            )
            draw_text(p, box, f"{quarter}°", BODY, theme.ink2, Weight.LABEL, CENTRE)
        grips = self.grips()
        p.setPen(round_pen(theme.metal_dk, 9))
        for grip in grips:
            p.drawLine(middle, grip.at)
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 5))
        p.drawEllipse(middle, 9, 9)
        for grip in sorted(grips, key=lambda grip: grip.key == self.held):
            out = grip.at - middle
            length = max(math.hypot(out.x(), out.y()), 1.0)
            along = QPointF(-out.y(), out.x()) / length
            text = str(int(str(grip.key)) + 1)
            paint_grip(p, grip, text, theme, held=grip.key == self.held, along=along)
        self.paint_chosen(p)


class BanksView(GripView):
    """The banks from the front at their true angles, each with a grip at its end."""

    tab = Tab.BANKS

    @property
    def _middle(self) -> QPointF:
        """Where the crank is: low where banks point up, in the middle where they lie flat."""
        ups = [math.cos(math.radians(deg)) for _, deg in self._banks()]
        low = self.logical_height - 40 if min(ups) > -0.1 else self.logical_height / 2
        return QPointF(self.logical_width / 2, low)

    def _banks(self) -> list[tuple[int, float]]:
        """Banks with cylinders, each with its bearing on the screen."""
        layout, sense = self.model.layout, sense_of(self.model.engine)
        return [(bank, layout.banks[bank].angle_deg * sense) for bank in layout.banks_in_use]

    @property
    def _reach(self) -> float:
        wide = self.logical_width / 2 - 40
        high = self._middle.y() - 40
        return max(min(wide / 0.9, high, 170.0), 60.0)

    def grips(self) -> list[Grip]:
        """The name of each bank at its end."""
        layout = self.model.layout
        return [
            Grip(
                bank,
                self._middle + crank_direction(bearing, 1) * self._reach,
                18.0,
                f"bank {layout.banks[bank].name} at {layout.banks[bank].angle_deg:.4g}°",
                drags=True,
            )
            for bank, bearing in self._banks()
        ]

    def dragged(self, key: Hashable, at: QPointF, how: Modifier, *, dropped: bool) -> None:
        """The bank leans with the hand, in whole degrees; its twin leans the other way."""
        assert isinstance(key, int)
        angle = bearing_of(at, self._middle) * sense_of(self.model.engine)
        angle = round(angle * 2) / 2 if how & Modifier.AltModifier else float(round(angle))
        alone = bool(how & Modifier.ShiftModifier)
        self.model.move_bank(key, angle, alone=alone, live=not dropped)

    def nudged(self, key: Hashable, steps: int, how: Modifier) -> None:
        """One degree further out or in, 0.5° with Alt; with Shift this bank alone."""
        assert isinstance(key, int)
        here = self.model.layout.banks[key].angle_deg
        step = 0.5 if how & Modifier.AltModifier else 1.0
        alone = bool(how & Modifier.ShiftModifier)
        self.model.move_bank(key, here + steps * step, alone=alone, live=False)

    def paint(self, p: QPainter) -> None:
        """Draw each bank as a bore with its head, the crank, and the angle between two."""
        theme, middle, reach = self.look.theme, self._middle, self._reach
        banks = self._banks()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.line, 1.6))
        p.drawEllipse(middle, 30, 30)
        for _, bearing in banks:
            p.save()
            p.translate(middle)
            p.rotate(bearing)
            self._paint_bank(p, reach)
            p.restore()
        if len(banks) == 2:
            self._paint_angle(p, banks[0][1], banks[1][1])
        for grip in self.grips():
            bearing = dict(banks)[int(str(grip.key))]
            name = self.model.layout.banks[int(str(grip.key))].name
            along = crank_direction(bearing + 90.0, 1)
            paint_grip(p, grip, name, theme, held=grip.key == self.held, along=along)
        self.paint_chosen(p)

    def _paint_bank(self, p: QPainter, reach: float) -> None:
        theme = self.look.theme
        bore, top, foot = 22.0, -(reach - 34), -38.0
        p.setPen(flat_pen(theme.metal, 7))
        for side in (-1, 1):
            p.drawLine(QPointF(side * (bore + 4), foot), QPointF(side * (bore + 4), top))
        p.setPen(flat_pen(theme.ink2, 1.6))
        for side in (-1, 1):
            p.drawLine(QPointF(side * bore, foot), QPointF(side * bore, top))
        head = QRectF(-bore - 8, top - 12, 2 * bore + 16, 12)
        rounded(p, head, 2, theme.metal, flat_pen(theme.ink2, 1.6))
        p.setPen(QPen(theme.line, 1.2, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(0, -30), QPointF(0, top))

    def _paint_angle(self, p: QPainter, one: float, other: float) -> None:
        theme, middle = self.look.theme, self._middle
        between = abs(other - one)
        radius = min(self._reach * 0.5, 92.0)
        box = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawArc(box, round((90 - max(one, other)) * 16), round(between * 16))
        words = f"{between:.4g}°"
        wide = text_width(words, LEAD, Weight.STRONG) + 18
        at = middle + crank_direction((one + other) / 2, 1) * radius
        plate = QRectF(at.x() - wide / 2, at.y() - 15, wide, 30)
        rounded(p, plate, 4, theme.sheet, flat_pen(theme.hair, 1.4))
        draw_text(p, plate, words, LEAD, theme.ink, Weight.STRONG, CENTRE)
