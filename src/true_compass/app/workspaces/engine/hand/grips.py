"""A drawing with grips: some are dragged, some are clicked, and keys do the same.

The boxes that are painted are the boxes that are pressed: both come from `grips`.
"""

from collections.abc import Hashable
from dataclasses import dataclass
from typing import ClassVar, Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.arrows import ARROWS, place_towards
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.engine.hand.model import HandModel, Tab
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import LABEL, Theme, Weight

REACH: Final = 6.0
"""How far beside a grip a press still counts, in pixels of the design."""

Modifier = Qt.KeyboardModifier


@dataclass(frozen=True, slots=True)
class Grip:
    """One thing to take or to press: what it stands for, where, how large, and in words."""

    key: Hashable
    at: QPointF
    radius: float
    words: str
    drags: bool = False


class GripView(Painted):
    """Hands on a drawing. Subclasses give `grips` and say what a drag, a press or a nudge does."""

    tab: ClassVar[Tab]
    """The tab whose drags change this drawing."""

    def __init__(self, model: HandModel, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.model = model
        self.held: Hashable = None
        self.chosen: Hashable = None
        self._moved = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        model.changed.connect(self._on_change)
        model.moved.connect(self._on_moved)

    # What a subclass says ----------------------------------------------------------------------

    def grips(self) -> list[Grip]:
        """All grips as they stand now."""
        raise NotImplementedError

    def dragged(self, key: Hashable, at: QPointF, how: Modifier, *, dropped: bool) -> None:
        """A hand has a grip at a point, or has let it go there."""

    def pressed(self, key: Hashable, how: Modifier) -> None:
        """A grip was pressed, by hand or by Return."""

    def nudged(self, key: Hashable, steps: int, how: Modifier) -> None:
        """Up or Down was pressed at a grip that drags."""

    def pressed_beside(self, at: QPointF, how: Modifier) -> None:
        """A press where there is no grip."""

    # Hands -------------------------------------------------------------------------------------

    def _on_change(self) -> None:
        if self.isVisible():
            self.tell()
            self.update()

    def _on_moved(self, tab: Tab) -> None:
        if tab is self.tab and self.isVisible():
            self.update()

    def text_twin(self) -> str:
        """All grips in words, the chosen one first."""
        grips = self.grips()
        told = "; ".join(grip.words for grip in grips)
        chosen = next((g.words for g in grips if g.key == self.chosen), "")
        return f"{chosen}. All: {told}" if chosen else told

    def tell(self) -> None:
        """Say the words at once: a key was pressed here."""
        self.setAccessibleDescription(self.text_twin())

    def grip_at(self, at: QPointF) -> Grip | None:
        """The grip under a point, the last painted first."""
        found = [
            (grip, QPointF.dotProduct(grip.at - at, grip.at - at) ** 0.5)
            for grip in reversed(self.grips())
        ]
        near = [(away, grip) for grip, away in found if away <= grip.radius + REACH]
        return min(near, key=lambda pair: pair[0])[1] if near else None

    def _point(self, event: QMouseEvent) -> QPointF:
        return event.position() / self.look.scale

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take a grip."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = self._point(event)
        grip = self.grip_at(at)
        if grip is None:
            self.pressed_beside(at, event.modifiers())
            return
        self.chosen, self._moved = grip.key, False
        if grip.drags:
            self.held = grip.key
        else:
            self.pressed(grip.key, event.modifiers())
        self.tell()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag what is held; the pointer shows what can be taken."""
        if event is None:
            return
        at = self._point(event)
        if self.held is not None:
            self._moved = True
            self.dragged(self.held, at, event.modifiers(), dropped=False)
            return
        grip = self.grip_at(at)
        shape = Qt.CursorShape.ArrowCursor
        if grip is not None:
            shape = (
                Qt.CursorShape.OpenHandCursor if grip.drags else Qt.CursorShape.PointingHandCursor
            )
        self.setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go: the drag is settled, or it was a press."""
        held, self.held = self.held, None
        if event is None or held is None:
            return
        if self._moved:
            self.dragged(held, self._point(event), event.modifiers(), dropped=True)
        else:
            self.pressed(held, event.modifiers())
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows choose a grip; at one that drags, Up and Down move it; Return presses it."""
        if event is None:
            return
        key, how = Qt.Key(event.key()), event.modifiers()
        self._shows_focus = True
        grips = self.grips()
        if key == Qt.Key.Key_Escape and self.held is not None:
            self.held = None
            self.model.let_go()
        elif key in ARROWS and grips and not how & Modifier.ControlModifier:
            self._arrow(grips, key, how)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen is not None:
            self.pressed(self.chosen, how)
        else:
            event.ignore()
            return
        self.tell()
        self.update()

    def _arrow(self, grips: list[Grip], key: Qt.Key, how: Modifier) -> None:
        here = next((grip for grip in grips if grip.key == self.chosen), None)
        if here is None:
            self.chosen = grips[0].key
            return
        across, down = way = ARROWS[key]
        if here.drags:
            if down:
                self.nudged(here.key, -down, how)
            else:
                place = (grips.index(here) + across) % len(grips)
                self.chosen = grips[place].key
            return
        goal = place_towards([grip.at for grip in grips], here.at, way)
        if goal is not None:
            self.chosen = grips[goal].key

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Something is chosen as soon as the keyboard is here."""
        super().focusInEvent(event)
        grips = self.grips()
        if grips and self.chosen not in [grip.key for grip in grips]:
            self.chosen = grips[0].key
        self.tell()

    def paint_focus(self, p: QPainter) -> None:
        """The grip that is chosen has the ring, not the whole view."""

    def paint_chosen(self, p: QPainter) -> None:
        """The ring about the grip that the keys act on."""
        if not (self.hasFocus() and self._shows_focus):
            return
        for grip in self.grips():
            if grip.key == self.chosen:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(QPen(self.look.theme.now, 3))
                p.drawEllipse(grip.at, grip.radius + 4, grip.radius + 4)


def paint_grip(
    p: QPainter, grip: Grip, text: str, theme: Theme, *, held: bool, along: QPointF
) -> None:
    """A disc with two points that show which way it can be dragged (`along`, of length 1)."""
    colour = theme.now if held else theme.ink
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour)
    side = QPointF(-along.y(), along.x())
    for way in (1.0, -1.0):
        tip = grip.at + along * way * (grip.radius + 10)
        foot = grip.at + along * way * (grip.radius + 3)
        p.drawPolygon(QPolygonF([tip, foot + side * 5, foot - side * 5]))
    p.setBrush(theme.now_tint if held else theme.sheet)
    p.setPen(flat_pen(colour, 2.4))
    p.drawEllipse(grip.at, grip.radius, grip.radius)
    if text:
        draw_text(p, box_of(grip), text, LABEL, theme.ink, Weight.STRONG, CENTRE)


def box_of(grip: Grip) -> QRectF:
    """The square about a grip."""
    r = grip.radius
    return QRectF(grip.at.x() - r, grip.at.y() - r, 2 * r, 2 * r)
