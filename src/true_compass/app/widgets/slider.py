"""A slider that any hand can drag: a tick where the figure is set, a handle where it is tried."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import LEFT, RIGHT, draw_text
from true_compass.drawing.theme import BODY, Weight

SLIDER_HEIGHT: Final = 46.0
TRACK_LEFT: Final = 8.0


class Slider(Painted):
    """One figure as a change from how it is set, 0 being as set.

    Drag it, turn the wheel on it, or use the arrows while it has the keyboard.
    """

    def __init__(
        self, look: Look, parent: QWidget, label: str, reach: tuple[float, float], step: float
    ) -> None:
        super().__init__(look, parent)
        self.label = label
        self._reach = reach
        self._step = step
        self._dragging = False
        self._shown = 0.0
        self.setAccessibleName(f"Try another {label}")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)

    @property
    def value(self) -> float:
        """The change that is tried."""
        raise NotImplementedError

    def put(self, value: float) -> None:
        """Try a change that is within reach and a whole step."""
        raise NotImplementedError

    def words(self) -> str:
        """The figure as set and as tried."""
        raise NotImplementedError

    def set_value(self, value: float) -> None:
        """Try another change, brought within reach and to a whole step."""
        low, high = self._reach
        value = round(min(max(value, low), high) / self._step) * self._step
        self.put(round(value, 6) + 0.0)

    def follow(self) -> None:
        """Paint anew if the figure has changed."""
        if self.value != self._shown:
            self._shown = self.value
            self.update()

    def _x(self, value: float) -> float:
        low, high = self._reach
        wide = self.logical_width - 2 * TRACK_LEFT
        return TRACK_LEFT + (value - low) / (high - low) * wide

    def paint(self, p: QPainter) -> None:
        """Label, figure, track, the tick as set, the handle."""
        theme, width, value = self.look.theme, self.logical_width, self.value
        box = QRectF(0, 0, width, 22)
        draw_text(p, box, self.label, BODY, theme.ink, Weight.LABEL, LEFT)
        weight = Weight.STRONG if value else Weight.BODY
        draw_text(p, box, self.words(), BODY, theme.ink, weight, RIGHT)
        y = 33.0
        p.setPen(flat_pen(theme.line, 1.6))
        p.drawLine(QPointF(TRACK_LEFT, y), QPointF(width - TRACK_LEFT, y))
        p.setPen(flat_pen(theme.ink, 2))
        set_at = self._x(0.0)
        p.drawLine(QPointF(set_at, y - 7), QPointF(set_at, y + 7))
        here = self._x(value)
        p.fillRect(QRectF(min(here, set_at), y - 2, abs(here - set_at), 4), theme.ink)
        handle = QPolygonF(
            [QPointF(here + x, y + dy) for x, dy in ((-7, -9), (7, -9), (7, 4), (0, 11), (-7, 4))]
        )
        p.setPen(flat_pen(theme.ink, 2))
        p.setBrush(theme.ink if value else theme.sheet)
        p.drawPolygon(handle)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the handle to the pointer."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._dragging = True
            self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The handle follows; it catches on the tick."""
        if event is None or not self._dragging:
            return
        low, high = self._reach
        wide = self.logical_width - 2 * TRACK_LEFT
        x = event.position().x() / self.look.scale
        value = low + (x - TRACK_LEFT) / wide * (high - low)
        self.set_value(0.0 if abs(x - self._x(0.0)) < 4 else value)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        self._dragging = False

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """A notch is a step."""
        if event is not None:
            event.accept()
            notches = event.angleDelta().y() / 120
            self.set_value(self.value + notches * self._step)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows change the figure while the slider has the keyboard."""
        if event is None:
            return
        turn = {
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: 1,
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Down: -1,
        }.get(Qt.Key(event.key()))
        if turn is None:
            event.ignore()
            return
        many = 5 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        self.set_value(self.value + turn * many * self._step)
