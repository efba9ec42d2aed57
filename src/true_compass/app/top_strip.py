"""The strip at the top: name, workspaces, and the rig picker."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.controls import DrawnButton
from true_compass.app.hints import plain_hint
from true_compass.app.look import Look, Painted
from true_compass.app.registry import WORKSPACES
from true_compass.core.engine import Engine
from true_compass.drawing.codes import round_pen, rounded
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import LABEL, NOTE, Weight
from true_compass.session.session import Session

HEIGHT: Final = 54
NAME_WIDTH: Final = 194
PICKER_WIDTH: Final = 348
NOW_ON_STRIP: Final = QColor("#FF69A3")


class WorkspaceTab(DrawnButton):
    """A word in the strip; the open one stands on paper under the mark."""

    def __init__(self, look: Look, word: str, parent: QWidget) -> None:
        super().__init__(look, word, parent)
        self.setCheckable(True)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the word with its key letter underlined."""
        theme = self.look.theme
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.scale(self.look.scale, self.look.scale)
        box = QRectF(0, 0, self.width() / self.look.scale, self.height() / self.look.scale)
        open_now = self.isChecked()
        p.fillRect(box, theme.paper if open_now else theme.strip)
        colour = theme.ink if open_now else theme.on_strip
        draw_text(p, box, self.text(), LABEL, colour, Weight.LABEL, CENTRE)
        width = text_width(self.text(), LABEL, Weight.LABEL)
        left = box.center().x() - width / 2
        letter = text_width(self.text()[0], LABEL, Weight.LABEL)
        p.fillRect(QRectF(left, 38, letter, 2), colour)
        if open_now:
            x = box.center().x()
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.now)
            p.drawPolygon(QPolygonF([QPointF(x - 10, 0), QPointF(x + 10, 0), QPointF(x, 9)]))
        if self.hasFocus():
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(theme.now, 3))
            p.drawRect(box.adjusted(2, 2, -2, -2))
        p.end()


class RigPicker(DrawnButton):
    """Shows the open engine; a press opens the list."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, "Rig", parent)
        self.setObjectName("rig_picker")
        self._name = self._order = ""

    def show_engine(self, engine: Engine) -> None:
        """Show name, layout and firing order."""
        self._name = f"{engine.name} ({engine.layout_words})"
        self._order = engine.order_text
        self.setAccessibleName(f"Rig: {self._name}, {self._order}. Opens the list of rigs.")
        about = filter(None, (self._name, engine.place, engine.note))
        self.setToolTip(plain_hint("\n".join(about)))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw name and order in an outlined box."""
        theme = self.look.theme
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.scale(self.look.scale, self.look.scale)
        box = QRectF(0, 0, self.width() / self.look.scale, self.height() / self.look.scale)
        p.fillRect(box, theme.strip)
        edge = NOW_ON_STRIP if self.hasFocus() else theme.on_strip
        rounded(p, box, 4, None, QPen(edge, 3 if self.hasFocus() else 1.4))
        inner = box.adjusted(10, 0, -30, 0)
        # The name has the right of way; the order is in every other figure as well.
        wanted = text_width(self._name, NOTE + 1, Weight.LABEL) + 2
        room = max(inner.width() - wanted - 12, 0.0)
        name_room = inner.width() if room < 60 else wanted
        draw_text(
            p,
            QRectF(inner.left(), 0, name_room, box.height()),
            self._name,
            NOTE + 1,
            theme.on_strip,
            Weight.LABEL,
            LEFT,
        )
        if room >= 60:
            order_box = QRectF(inner.right() - room, 0, room, box.height())
            colour = theme.on_strip
            # Half an order would be another order.
            draw_one_of(p, order_box, [self._order], NOTE + 1, colour, Weight.BODY, RIGHT)
        x, y = box.right() - 16, box.center().y() - 3
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.on_strip)
        p.drawPolygon(QPolygonF([QPointF(x - 6, y), QPointF(x + 6, y), QPointF(x, y + 7)]))
        p.end()


class TopStrip(Painted):
    """Name, one tab a workspace, rig picker."""

    def __init__(self, session: Session, bridge: Bridge, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._session = session
        self.setObjectName("top_strip")
        self.tabs = [WorkspaceTab(look, entry.word, self) for entry in WORKSPACES]
        self.picker = RigPicker(look, self)
        look.changed.connect(self._arrange)
        bridge.engine_changed.connect(self._show_engine)
        self._show_engine()

    def _show_engine(self) -> None:
        self.picker.show_engine(self._session.state.engine)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place tabs and picker."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        x = float(NAME_WIDTH)
        for tab in self.tabs:
            width = text_width(tab.text(), LABEL, Weight.LABEL) + 24
            tab.setGeometry(self.look.scaled(x, 0, width, HEIGHT))
            x += width + 2
        width = min(PICKER_WIDTH, self.logical_width - x - 20)
        self.picker.setGeometry(self.look.scaled(self.logical_width - width - 12, 10, width, 34))

    def ground(self) -> QColor:
        """Dark in both themes."""
        return self.look.theme.strip

    def paint(self, p: QPainter) -> None:
        """Draw the mark of the program and its name."""
        colour = self.look.theme.on_strip
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(round_pen(colour, 2.4))
        p.drawEllipse(QPointF(36, 29), 12.5, 12.5)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        p.drawEllipse(QPointF(36, 29), 3, 3)
        p.setBrush(NOW_ON_STRIP)
        p.drawPolygon(QPolygonF([QPointF(28, 9), QPointF(44, 9), QPointF(36, 25)]))
        draw_text(p, QRectF(57, 0, 134, HEIGHT), "True Compass", LABEL, colour, Weight.STRONG, LEFT)
