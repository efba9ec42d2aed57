"""The bar at the foot of the window: direction, steps, crank angle, and the two next keys."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.turner import Turner
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.widgets.steps import FULL_WIDTH, arrange_steps, step_buttons
from true_compass.core.angles import degrees_on
from true_compass.core.events import next_place
from true_compass.core.words import shown_degrees
from true_compass.drawing.codes import rounded
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import CENTRE, LEFT, draw_text
from true_compass.drawing.theme import HEAD, LABEL, NOTE, Weight
from true_compass.session.session import Session

HEIGHT: Final = 74
READOUT_WIDTH: Final = 98


class Readout(Painted):
    """The crank angle, large."""

    covers_ground = True

    def __init__(self, session: Session, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.setAccessibleName("Crank angle")
        self._session = session
        self._from_deg: float | None = None

    def cover(self, from_deg: float | None) -> None:
        """Tell only how far the crank was turned from a place, or the angle again (None)."""
        if from_deg != self._from_deg:
            self._from_deg = from_deg
            self.repaint_all()

    def ground(self) -> QColor:
        """The bar shows at the corners."""
        return self.look.theme.well

    def paint(self, p: QPainter) -> None:
        """Draw the angle under a small mark."""
        self.paint_whole(p, "plate", self._paint_plate)
        at_deg = self._session.state.crank_deg
        angle = shown_degrees(at_deg)
        if self._from_deg is not None:
            by_deg = (at_deg - self._from_deg + 360.0) % 720.0 - 360.0
            angle = f"{by_deg:+.4g}".replace("-", "\N{MINUS SIGN}") if round(by_deg, 1) else "0"
        box = QRectF(4, 6, self.logical_width - 8, 30)
        draw_text(p, box, f"{angle}°", HEAD, self.look.theme.on_ink, Weight.STRONG, CENTRE)

    @property
    def _foot(self) -> str:
        return "of 720°" if self._from_deg is None else "in this step"

    def _paint_plate(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        rounded(p, QRectF(0, 0, width, self.logical_height), 4, theme.ink, None)
        foot = QRectF(4, 36, width - 8, 18)
        draw_text(p, foot, self._foot, NOTE, theme.on_ink, Weight.LABEL, CENTRE)
        x = width / 2
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.now)
        p.drawPolygon(QPolygonF([QPointF(x - 9, 0), QPointF(x + 9, 0), QPointF(x, 8)]))


class TurnBar(Painted):
    """Turns the crank in every workspace that has one."""

    def __init__(
        self, session: Session, bridge: Bridge, turner: Turner, look: Look, parent: QWidget
    ) -> None:
        super().__init__(look, parent)
        self._session = session
        self._turner = turner
        self.setObjectName("turn_bar")
        self.setAccessibleName("Turning the crank")
        self.step_buttons = step_buttons(look, "Turn", turner.turn_by, self)
        self.next_tdc = DrawnButton(look, "Next compression TDC", self)
        self.next_event = DrawnButton(look, "Next valve event", self)
        self.next_tdc.clicked.connect(self.to_next_tdc)
        self.next_event.clicked.connect(self.to_next_event)
        self.readout = Readout(session, look, self)
        self._covered = False
        look.changed.connect(self._arrange)
        bridge.turned.connect(self._show_angle)
        bridge.engine_changed.connect(self.update)
        self._show_angle()

    @property
    def compact(self) -> bool:
        """Whether there is room only for the middle steps and one next key."""
        return self.logical_width < FULL_WIDTH

    def cover(self, *, places: bool, from_deg: float | None) -> None:
        """Do not tell where TDCs and valve events are (`places`), nor the angle: only how far the
        crank was turned from `from_deg`, unless that is None.
        """
        self._covered = places
        self.readout.cover(from_deg)
        self._show_angle()

    def to_next_tdc(self, *, back: bool = False) -> None:
        """Jump on to the next compression TDC, or turn back to the one before."""
        if self._covered:
            return
        self._turner.finish()
        offsets = self._session.state.rig.true_offsets_deg
        place = next_place(offsets, self._session.state.crank_deg, back=back)
        self._go(float(offsets[place]), back)

    def to_next_event(self, *, back: bool = False) -> None:
        """Jump on to the next opening or closing of a valve, or turn back to the one before."""
        if self._covered:
            return
        self._turner.finish()
        events = self._session.valve_events
        if events:
            self._go(events[self._next_event(back)].crank_deg, back)

    def _go(self, goal_deg: float, back: bool) -> None:
        if back:
            here = self._session.state.crank_deg
            self._turner.turn_by(-(degrees_on(here, goal_deg) or 720.0))
        else:
            self._turner.jump_to(goal_deg)

    def _next_event(self, back: bool = False) -> int:
        places = [event.crank_deg for event in self._session.valve_events]
        return next_place(places, self._session.state.crank_deg, back=back)

    def showEvent(self, event: QShowEvent | None) -> None:
        """On pages without a crank it was hidden, and nobody waited for it."""
        super().showEvent(event)
        self._show_angle()

    def _show_angle(self) -> None:
        if not self.isVisible():
            return
        self.next_tdc.setEnabled(not self._covered)
        if self._covered:
            self.next_tdc.set_words("Next compression TDC", "covered here")
            self.next_event.set_words("Next valve event", "covered here")
            self.next_event.setEnabled(False)
            self.readout.update()
            return
        state = self._session.state
        offsets = state.rig.true_offsets_deg
        cylinder = next_place(offsets, state.crank_deg) + 1
        on = degrees_on(float(offsets[cylinder - 1]), state.crank_deg) or 720.0
        self.next_tdc.set_words(
            "Next compression TDC", f"cylinder {cylinder}, {round(on, 1):g}° on"
        )
        events, words = self._session.valve_events, "no valve ever opens"
        if events:
            event = events[self._next_event()]
            on = degrees_on(event.crank_deg, state.crank_deg)
            words = f"{event.words}, {round(on, 1):g}° on"
        self.next_event.set_words("Next valve event", words)
        self.next_event.setEnabled(bool(events))
        self.readout.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put the buttons in their places."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        width, middle = self.logical_width, HEIGHT / 2
        compact = self.compact
        buttons, plate = self.step_buttons, self.readout
        x = arrange_steps(self.look, buttons, plate, READOUT_WIDTH, width, middle)
        self.next_event.setVisible(not compact)
        left = x + 13
        each = (width - left - 16) if compact else (width - left - 16 - 9) / 2
        self.next_tdc.setGeometry(self.look.scaled(left, middle - 28, each, 56))
        self.next_event.setGeometry(self.look.scaled(left + each + 9, middle - 28, each, 56))
        self.update()

    def ground(self) -> QColor:
        """The bar lies in a well."""
        return self.look.theme.well

    def paint(self, p: QPainter) -> None:
        """Draw the direction; readout and buttons draw themselves."""
        theme = self.look.theme
        p.setPen(QPen(theme.line, 1.4))
        p.drawLine(QPointF(0, 0.7), QPointF(self.logical_width, 0.7))
        if not self.compact:
            self._paint_direction(p)

    def _paint_direction(self, p: QPainter) -> None:
        theme = self.look.theme
        engine = self._session.state.engine
        p.save()
        p.translate(46, HEIGHT / 2)
        paint_turn_arrow(p, theme.ink, sense_of(engine))
        p.restore()
        word = engine.rotation.value.capitalize()
        draw_text(p, QRectF(76, 14, 124, 24), word, LABEL, theme.ink, Weight.STRONG, LEFT)
        seen = f"seen from the {engine.seen_from.value}"
        draw_text(p, QRectF(76, 37, 124, 20), seen, NOTE, theme.ink2, Weight.BODY, LEFT)


def paint_turn_arrow(p: QPainter, colour: QColor, sense: int) -> None:
    """Most of a circle with an arrow head, in the running direction."""
    points = [crank_direction(a, sense) * 17 for a in range(-150, 121, 6)]
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(colour, 3))
    p.drawPolyline(QPolygonF(points))
    tip, out = crank_direction(150, sense) * 17, crank_direction(118, sense)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour)
    p.drawPolygon(QPolygonF([tip, out * 17 + out * 8, out * 17 - out * 8]))
