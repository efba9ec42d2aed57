"""The ring on the screen: drag it to turn the crank."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Painted
from true_compass.app.widgets.wheel import WheelNotches
from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.core.angles import CYCLE_DEG, wrap_deg
from true_compass.core.strokes import Stroke
from true_compass.drawing.codes import flat_pen, plate_width, stroke_plate
from true_compass.drawing.ring import (
    BEAD_AT,
    CARD_REACH,
    OUTER,
    Card,
    free_arcs,
    lap_angle_deg,
    lap_direction,
    paint_frame,
    sense_of,
    true_cycles_deg,
)
from true_compass.drawing.text import draw_text
from true_compass.drawing.theme import NOTE, Weight

SNAP_DEG: Final = 2.0
WHEEL_DEG: Final = 5.0
WHEEL_FINE_DEG: Final = 1.0
WHEEL_COARSE_DEG: Final = 30.0
CLICK_SLACK_PX: Final = 3
HEIGHT: Final = 456.0
WIDTH: Final = 424.0


class RingView(Painted):
    """The ring, its plates and its legend. Dragging, the wheel and the keys turn the crank."""

    dragged = pyqtSignal()
    covers_ground = True

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self._grab_deg: float | None = None
        self._hand_deg = 0.0
        self._pressed_at = QPointF()
        self._moved = False
        self._wheel = WheelNotches()
        self.drags = 0
        self.setObjectName("ring")
        self.setAccessibleName("Ring: the cycle of every cylinder")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        context.bridge.turned.connect(self._on_turned)
        context.bridge.engine_changed.connect(self.repaint_all)
        context.bridge.tried.connect(self.repaint_all)
        context.selection.changed.connect(self.update)

    # Painting ------------------------------------------------------------------------------

    @property
    def _sense(self) -> int:
        return sense_of(self._context.session.state.engine)

    def _centre(self) -> tuple[QPointF, float]:
        """Centre and scale of the ring within the widget, in pixels of the design."""
        factor = min(self.logical_width / WIDTH, self.logical_height / HEIGHT)
        return QPointF(self.logical_width / 2, 20 * factor + OUTER * factor + 16 * factor), factor

    def paint(self, p: QPainter) -> None:
        """Draw the still layer from its cache and the card over it."""
        self.paint_whole(p, "frame", self._paint_still)
        state = self._context.session.state
        centre, factor = self._centre()
        p.translate(centre)
        p.scale(factor, factor)
        strong = self._context.selection.strong
        whole = not state.shown.plain
        card = Card(self.look.theme, self.stills, self._sense, strong, whole, marks=True)
        card.paint(p, state.shown, state.now)
        p.resetTransform()
        p.scale(self.look.scale, self.look.scale)

    def paint_focus(self, p: QPainter) -> None:
        """The focus ring follows the figure."""
        centre, factor = self._centre()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(self.look.theme.now, 3))
        p.drawEllipse(centre, (OUTER + 4) * factor, (OUTER + 4) * factor)

    def _paint_still(self, p: QPainter) -> None:
        centre, factor = self._centre()
        self._paint_plates(p, factor)
        p.translate(centre)
        p.scale(factor, factor)
        rig = self._context.session.state.shown
        paint_frame(p, free_arcs(rig), self.look.theme, self._sense)

    def _paint_plates(self, p: QPainter, factor: float) -> None:
        width, foot = self.logical_width, min(self.logical_height, HEIGHT * factor)
        at_left = {Stroke.COMPRESSION: 0.0, Stroke.INTAKE: foot - 26}
        at_right = {Stroke.POWER: 0.0, Stroke.EXHAUST: foot - 26}
        if self._sense < 0:
            at_left, at_right = at_right, at_left
        for stroke, y in (at_left | at_right).items():
            wide = plate_width(stroke)
            x = 0.0 if stroke in at_left else width - wide
            stroke_plate(p, QRectF(x, y, wide, 26), stroke, self.look.theme, alone=True)
        if width >= WIDTH:
            self._paint_legend(p, width / 2, foot - 14)

    def _paint_legend(self, p: QPainter, middle: float, y: float) -> None:
        theme = self.look.theme
        p.setPen(flat_pen(theme.ink, 8))
        p.drawLine(QPointF(middle - 92, y), QPointF(middle - 68, y))
        draw_text(p, QRectF(middle - 64, y - 10, 50, 20), "E free", NOTE, theme.ink, Weight.LABEL)
        p.setBrush(theme.sheet)
        p.setPen(QPen(theme.ink, 2))
        p.drawRect(QRectF(middle + 23, y - 3, 22, 6))
        draw_text(p, QRectF(middle + 49, y - 10, 48, 20), "I free", NOTE, theme.ink, Weight.LABEL)

    def _on_turned(self) -> None:
        centre, factor = self._centre()
        reach = CARD_REACH * factor
        corner = centre - QPointF(reach, reach)
        self.update(self.look.scaled(corner.x(), corner.y(), 2 * reach, 2 * reach))

    def text_twin(self) -> str:
        """Where the crank stands, who fires, who overlaps, and what is free."""
        return self._context.in_words()

    # Turning -------------------------------------------------------------------------------

    def _from_centre(self, at: QPointF) -> QPointF:
        centre, factor = self._centre()
        return (at / self.look.scale - centre) / factor

    def bead_under(self, at: QPointF) -> int | None:
        """The cylinder whose bead is at a point of the widget, if any."""
        state = self._context.session.state
        spot = self._from_centre(at)
        for row, cycle_deg in enumerate(true_cycles_deg(state.shown, state.now).tolist()):
            away = spot - lap_direction(cycle_deg, self._sense) * BEAD_AT
            if QPointF.dotProduct(away, away) <= 24.0**2:
                return row + 1
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take hold of the ring."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        spot = self._from_centre(event.position())
        if QPointF.dotProduct(spot, spot) > (OUTER + 14) ** 2:
            return
        self._context.turner.finish()
        self._grab_deg = lap_angle_deg(spot, self._sense)
        self._hand_deg = self._context.session.state.crank_deg
        self._pressed_at, self._moved = event.position(), False
        self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Follow the hand: the point that was taken hold of stays under it."""
        if event is None:
            return
        if self._grab_deg is None:
            self._context.selection.come_near(self.bead_under(event.position()))
            return
        way = event.position() - self._pressed_at
        self._moved = self._moved or way.manhattanLength() > CLICK_SLACK_PX
        if not self._moved:
            return
        angle = lap_angle_deg(self._from_centre(event.position()), self._sense)
        half = CYCLE_DEG / 2
        by_deg = (angle - self._grab_deg + half) % CYCLE_DEG - half
        self._grab_deg = angle
        self._hand_deg += by_deg
        free_hand = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        goal = self._hand_deg if free_hand else self._snapped(self._hand_deg)
        self._context.turner.drag_to(goal, by_deg)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go. A press on a bead without a move pins its cylinder."""
        if event is None or self._grab_deg is None:
            return
        self._grab_deg = None
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        if self._moved:
            self.drags += 1
            self.dragged.emit()
            return
        cylinder = self.bead_under(event.position())
        if cylinder is not None:
            self._context.selection.pin(cylinder)

    def leaveEvent(self, event: object) -> None:
        """The pointer is on no bead any more."""
        self._context.selection.come_near(None)

    def _snapped(self, crank_deg: float) -> float:
        for offset in self._context.session.state.shown.true_offsets_deg.tolist():
            away = (crank_deg - offset + CYCLE_DEG / 2) % CYCLE_DEG - CYCLE_DEG / 2
            if abs(away) <= SNAP_DEG:
                return wrap_deg(float(offset))
        return crank_deg

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """5° a notch, 1° with Shift, 30° with Ctrl; up is the engine's own direction."""
        if event is None:
            return
        notches = self._wheel.take(event)
        step = WHEEL_DEG
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            step = WHEEL_FINE_DEG
        elif event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            step = WHEEL_COARSE_DEG
        if notches:
            self._context.turner.turn_by(notches * step)
        event.accept()
