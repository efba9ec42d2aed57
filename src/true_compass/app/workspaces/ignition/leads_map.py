"""The leads as they are wired: a plug's end is dragged onto another plug."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.keys import DigitKeys
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.stepping import up_or_down
from true_compass.app.workspaces.ignition.cap_view import CapView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.drawing.cap import LEAD, PICKED, WRONG
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import LEFT, draw_text, text_width
from true_compass.drawing.theme import BODY, NOTE, Weight


class LeadsMap(CapView):
    """Up and Down pick a post, digits put its lead on a plug, Return moves the next one."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, model, parent)
        self.setObjectName("leads_map")
        self.setAccessibleName("Leads")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.held_post = 0
        self._hand: QPointF | None = None
        self._digits = DigitKeys(self._to_plug, lambda: model.engine.cylinder_count, self)

    def show_state(self) -> None:
        """Another wiring."""
        self.stills.forget()
        self.update()

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """What lies still, then the lead that is held, and the rotor."""
        model, wired = self.model, self.model.standing.wired
        picked = 0 if self.held_post else model.post
        key = (wired, picked, self.held_post, model.unaided)
        self.paint_whole(p, key, self._paint_still)
        painter = self.painter
        painter.paint_rotor(p, self.rotor_deg)
        if self.held_post and self._hand is not None:
            path = self.map.lead(self.held_post, self._hand, loose=True)
            painter.paint_lead(p, path, self.look.theme.now, PICKED)
            self._paint_end(p, self._hand)

    def _paint_still(self, p: QPainter) -> None:
        model, theme, painter = self.model, self.look.theme, self.painter
        standing = model.standing
        wrong = set() if model.unaided else {lead.post for lead in standing.judged.wrong}
        leads = self.map.leads(standing.wired)
        painter.paint_heads(p)
        crowded = len(leads) > 12
        quiet = theme.line if crowded else theme.metal_dk
        for post, path in leads.items():
            if post not in (model.post, self.held_post, *wrong):
                painter.paint_lead(p, path, quiet, LEAD)
        for post in wrong - {model.post, self.held_post}:
            painter.paint_lead(p, leads[post], theme.ink, WRONG)
        self._paint_goal(p)
        if model.post in leads and model.post != self.held_post:
            painter.paint_lead(p, leads[model.post], theme.now, PICKED)
        ends = {standing.wired[post - 1] for post in wrong}
        if model.post <= len(standing.wired):
            ends.add(standing.wired[model.post - 1])
        painter.paint_plugs(p, ends, self._goal)
        painter.paint_body(p)
        painter.paint_posts(p, self._numbers, wrong, model.post)
        self._paint_words(p)

    @property
    def _numbers(self) -> tuple[int, ...]:
        """What the posts say: the cylinder each is for; unaided, only that of the first."""
        order = self.model.order
        if not self.model.unaided:
            return order
        return tuple(c if c == 1 else 0 for c in order)

    @property
    def _goal(self) -> int:
        """The plug on which the picked lead belongs, where it is on another."""
        lead = self.model.wrong_at(self.model.post)
        return 0 if lead is None or self.model.unaided else lead.own

    def _paint_goal(self, p: QPainter) -> None:
        if self._goal:
            path = self.map.lead(self.model.post, self.map.plugs[self._goal], 2)
            self.painter.paint_ghost(p, path)

    def _paint_end(self, p: QPainter, at: QPointF) -> None:
        theme = self.look.theme
        p.setBrush(theme.now)
        p.setPen(flat_pen(theme.paper, 2))
        p.drawEllipse(at, 13, 13)
        name = self.map.plug_near(at)
        if name is not None:
            box = QRectF(at.x() + 20, at.y() - 12, 120, 24)
            draw_text(p, box, f"on plug {name}", BODY, theme.ink, Weight.LABEL, LEFT)

    def _paint_words(self, p: QPainter) -> None:
        """From where this is seen."""
        theme, place, wide = self.look.theme, self.map, self.logical_width
        words = place.seen_words
        known = "" if self.model.direction_known else ", direction assumed"
        if place.star:
            if place.rear:
                for nth, line in enumerate(("outer: front row", "inner: rear row")):
                    draw_text(p, QRectF(0, nth * 19, 180, 19), line, NOTE, theme.ink2)
            foot = QRectF(0, self.logical_height - 22, wide, 20)
            draw_text(p, foot, f"{words}{known}", NOTE, theme.ink2)
            return
        middle = place.centre.y()
        self.paint_front(p)
        for nth, line in enumerate((words, *(("direction", "assumed") if known else ()))):
            box = QRectF(0, middle + 14 + 19 * nth, text_width(line, NOTE) + 6, 19)
            p.fillRect(box, theme.paper)
            draw_text(p, box, line, NOTE, theme.ink2)

    # Hands ------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the end of a lead at its plug, or pick a post."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = self.at(event)
        plug = self.map.plug_near(at)
        wired = self.model.standing.wired
        if plug is not None and plug in wired:
            self.held_post = wired.index(plug) + 1
            self._hand = at
            self.model.post = self.held_post
        else:
            post = self.map.post_near(at)
            if post is not None:
                off = not wired[post - 1]
                self.model.pick(post)
                if off:
                    self.held_post, self._hand = post, at
        self.show_state()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The held end follows the pointer."""
        if event is not None and self.held_post:
            self._hand = self.at(event)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Over a plug the lead goes on; elsewhere it goes back where it was."""
        if event is None or not self.held_post:
            return
        plug = self.map.plug_near(self.at(event))
        post, self.held_post, self._hand = self.held_post, 0, None
        was = self.model.standing.wired[post - 1]
        if plug is not None and plug != was:
            self.model.put_lead(post, plug)
        else:
            self.model.pick(post)
        self.show_state()

    def _to_plug(self, cylinder: int) -> None:
        self.model.put_lead(self.model.post, cylinder)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows pick, digits wire, Return moves."""
        if event is None:
            return
        key, by = Qt.Key(event.key()), up_or_down(event)
        if by:
            self.model.pick(self.model.post + by)
        elif Qt.Key.Key_0 <= key <= Qt.Key.Key_9:
            self._digits.press(key.value - Qt.Key.Key_0.value)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.model.move_next()
        else:
            event.ignore()
