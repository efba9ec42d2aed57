"""The distributor in its engine: seats, rotor, posts, and the body that a hand turns."""

import math
from dataclasses import replace
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPolygonF
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.stepping import up_or_down
from true_compass.app.workspaces.ignition.cap_view import CapView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.core.ignition.bay import Step
from true_compass.core.ignition.cap import shorter_deg, swing_of
from true_compass.core.ignition.fitting import slot_deg
from true_compass.drawing.cap import LEAD, PICKED
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import CENTRE, draw_text, text_width
from true_compass.drawing.theme import NOTE

TAB_FROM_POST_1_DEG: Final = 66.0
MOST_LEADS: Final = 8
KEY_STEP_DEG: Final = 0.5


class FitMap(CapView):
    """Drag the body; Up and Down turn it by half a degree."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, model, parent)
        self.setObjectName("fit_map")
        self.setAccessibleName("Distributor")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._grip: tuple[float, float] | None = None
        self.setMouseTracking(True)
        self.hovered = 0
        """The post whose lead is followed, where there are too many to show."""

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Heads stand still; body, posts and leads follow the hand."""
        model, theme, painter = self.model, self.look.theme, self.painter
        self.paint_whole(p, ("heads", self.logical_width), self._paint_heads)
        standing = model.standing
        first, wired = standing.fitted.post_1, standing.wired
        if len(wired) > MOST_LEADS:
            shown = (first, self.hovered)
            wired = tuple(c if nth + 1 in shown else 0 for nth, c in enumerate(wired))
        leads = self.map.leads(wired)
        for post, path in leads.items():
            if post != first:
                painter.paint_lead(p, path, theme.metal_dk, LEAD)
        if first in leads:
            painter.paint_lead(p, leads[first], theme.now, PICKED)
        self._paint_swing(p)
        self._paint_start(p)
        painter.paint_posts(p, model.order, (), first)
        painter.paint_rotor(p, self.rotor_deg)
        self._paint_slot(p)
        self._paint_front(p)

    def _paint_heads(self, p: QPainter) -> None:
        self.painter.paint_heads(p)
        self.painter.paint_plugs(p, (1,))
        self.painter.paint_body(p)
        self.painter.paint_seats(p)

    def _tab_deg(self, body_deg: float) -> float:
        """Direction of the clamp's tab with the body somewhere."""
        engine = self.model.engine
        post_1 = engine.distributor.post_1_deg or 0.0
        return post_1 + TAB_FROM_POST_1_DEG + body_deg

    def _paint_swing(self, p: QPainter) -> None:
        """The arc that the body's tab can reach, with its ends, and the tab."""
        theme, place, engine = self.look.theme, self.map, self.model.engine
        swing = engine.distributor.swing_deg
        reach = place.radius + 26
        body = self.model.standing.fitted.body_deg
        if swing is not None:
            self._paint_arc(p, reach, -swing[0], swing[1])
            ends = zip((-swing[0], swing[1]), engine.distributor.swing_meets, strict=True)
            for end, meets in ends:
                out = place.towards(self._tab_deg(end))
                p.setPen(flat_pen(theme.ink, 3.4))
                p.drawLine(place.centre + out * (reach - 10), place.centre + out * (reach + 10))
                at = place.centre + out * (reach + 26)
                half = min(text_width(meets, NOTE) / 2 + 2, 60.0)
                # A lead may pass behind it.
                p.fillRect(QRectF(at.x() - half, at.y() - 9, 2 * half, 18), theme.paper)
                box = QRectF(at.x() - 60, at.y() - 10, 120, 20)
                draw_text(p, box, meets, NOTE, theme.ink2, align=CENTRE)
        out = place.towards(self._tab_deg(body))
        side = QPointF(-out.y(), out.x()) * 9
        near, far = place.centre + out * (place.radius - 2), place.centre + out * (reach + 4)
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawPolygon(QPolygonF([near - side, far - side, far + side, near + side]))

    def _paint_arc(self, p: QPainter, reach: float, begin: float, end: float) -> None:
        place = self.map
        steps = max(int((end - begin) / 3), 2)
        path = QPainterPath()
        for nth in range(steps + 1):
            direction = self._tab_deg(begin + (end - begin) * nth / steps)
            at = place.centre + place.towards(direction) * reach
            if nth:
                path.lineTo(at)
            else:
                path.moveTo(at)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(self.look.theme.metal_dk, 5))
        p.drawPath(path)

    def _paint_start(self, p: QPainter) -> None:
        """Before it goes down the rotor is held back by the twist of the gear."""
        engine = self.model.engine
        twist = engine.distributor.twist_deg
        if self.model.bay.next_step not in (Step.BACK, Step.DROP, Step.SLOT) or not twist:
            return
        fitted = self.model.standing.fitted
        self.painter.paint_start(p, fitted.rotor_deg(engine) - twist)

    def _paint_slot(self, p: QPainter) -> None:
        """The pump slot below, as it is sighted: at the left, on a disc of its own."""
        engine, theme = self.model.engine, self.look.theme
        if not engine.distributor.slot_ways or self.map.star:
            return
        heads = [head.box.top() for head in self.map.heads]
        lowest = max((top for top in heads if top > self.map.centre.y()), default=1e9)
        foot = min(self.logical_height, lowest)
        # Below the word Front at the left, above the lower head.
        y = max(min(self.map.centre.y() + 92, foot - 54), self.map.centre.y() + 44)
        at = QPointF(46, y)
        strong = self.model.bay.next_step is Step.SLOT
        p.setBrush(theme.now_tint if strong else theme.sheet)
        p.setPen(flat_pen(theme.now if strong else theme.ink, 2.4 if strong else 1.8))
        p.drawEllipse(at, 25, 25)
        out = self.map.towards(slot_deg(engine, self.model.standing.fitted))
        p.setPen(flat_pen(theme.ink, 6))
        p.drawLine(at - out * 17, at + out * 17)
        box = QRectF(at.x() - 60, at.y() + 28, 120, 20)
        if box.bottom() <= foot:
            draw_text(p, box, "pump slot", NOTE, theme.ink2, align=CENTRE)

    def _paint_front(self, p: QPainter) -> None:
        theme, place = self.look.theme, self.map
        if place.star:
            words = f"{place.seen_words}, cylinder 1 at the top"
            foot = QRectF(0, self.logical_height - 22, self.logical_width, 20)
            draw_text(p, foot, words, NOTE, theme.ink2)
            return
        self.paint_front(p)

    # Hands ------------------------------------------------------------------------------------

    def _is_on_body(self, at: QPointF) -> bool:
        away = at - self.map.centre
        return math.hypot(away.x(), away.y()) <= self.map.radius + 44

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take hold of the body."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = self.at(event)
        if self._is_on_body(at):
            body = self.model.standing.fitted.body_deg
            self._grip = (self.map.direction_deg(at), body)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The body follows as far as it goes."""
        if event is None:
            return
        if self._grip is None:
            self._hover(self.at(event))
            return
        began, body = self._grip
        self._turn_to(body + shorter_deg(self.map.direction_deg(self.at(event)) - began), drag=True)

    def _hover(self, at: QPointF) -> None:
        wired = self.model.standing.wired
        plug = self.map.plug_near(at)
        post = wired.index(plug) + 1 if plug in wired else self.map.post_near(at) or 0
        if post != self.hovered:
            self.hovered = post
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        if self._grip is not None:
            self._grip = None
            self.model.let_go("turning the body")

    def _turn_to(self, body_deg: float, *, drag: bool = False) -> None:
        swing = swing_of(self.model.engine)
        body = min(max(round(body_deg, 1), -swing[0]), swing[1]) + 0.0
        fitted = replace(self.model.standing.fitted, body_deg=body)
        if drag:
            self.model.drag(fitted=fitted)
        else:
            self.model.write("turning the body", fitted=fitted)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up turns the body clockwise, Down back."""
        if event is None:
            return
        by = up_or_down(event)
        if by:
            self._turn_to(self.model.standing.fitted.body_deg - by * KEY_STEP_DEG)
        else:
            event.ignore()
