"""Buttons as the program draws them."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPolygonF, QShowEvent
from PyQt6.QtWidgets import QAbstractButton, QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, LEFT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight


class DrawnButton(QAbstractButton):
    """A button with a line of text and, if given, a second one that says what it will do.

    It takes the keyboard only by Tab, so that after a click the space bar still means the crank.
    """

    def __init__(self, look: Look, text: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.look = look
        self.setText(text)
        self._second = ""
        self._next = False
        self._stills = Stills()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        look.changed.connect(self.repaint_all)

    def setText(self, text: str | None) -> None:
        """Show other words, and have them read out."""
        super().setText(text)
        self.setAccessibleName(text)

    def repaint_all(self) -> None:
        """Forget the picture and paint anew."""
        self._stills.forget()
        self.update()

    def set_words(self, text: str, second: str) -> None:
        """Show two lines and an arrow; both are read out together."""
        if (text, second) != (self.text(), self._second):
            if text != self.text():
                self.setText(text)
            self._second, self._next = second, True
            self.setAccessibleName(f"{text}: {second}")
            self.update()

    def second(self) -> str:
        """The second line."""
        return self._second

    def showEvent(self, event: QShowEvent | None) -> None:
        """The style takes this mark away from buttons; without it the parent paints each time."""
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        super().showEvent(event)

    def sizeHint(self) -> QSize:
        """Large enough for a dirty finger."""
        return QSize(round(60 * self.look.scale), round(40 * self.look.scale))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Return and space press the button; everything else is for the window."""
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.click()
        else:
            event.ignore()

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        """Presses count; releases are nobody's."""
        if event is not None:
            event.ignore()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the button."""
        theme = self.look.theme
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.scale(self.look.scale, self.look.scale)
        box = QRectF(0, 0, self.width() / self.look.scale, self.height() / self.look.scale)
        active, focus = self.isDown() or self.underMouse(), self.hasFocus()

        def still(q: QPainter) -> None:
            self._paint_still(q, box, active, focus)

        size = (self.width(), self.height())
        state = (active, focus, self.isEnabled(), self.isChecked())
        key = (self.text(), state, size, self.look.theme.name)
        self._stills.draw(p, key, box, still, self.ground())
        if self._next:
            foot = box.adjusted(14, box.height() / 2, -30, -6)
            draw_text(p, foot, self._second, NOTE + 1, theme.ink2, Weight.BODY, LEFT)
        p.end()

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        if not self.isEnabled():  # words without a button: nothing can be pressed here
            rounded(p, box, 4, None, flat_pen(theme.hair, 1.6))
            if self._next:
                top = box.adjusted(14, 6, -14, -box.height() / 2)
                draw_text(p, top, self.text(), LABEL, theme.ink2, Weight.BODY, LEFT)
                return
            inner = box.adjusted(3, 0, -3, 0)
            self._write(p, inner, theme.ink2, Weight.BODY)
            return
        fill = theme.now_tint if active else theme.sheet
        edge = flat_pen(theme.ink, 2.0) if self._next else flat_pen(theme.line, 1.6)
        rounded(p, box, 4, fill, edge)
        if self._next:
            top = box.adjusted(14, 6, -30, -box.height() / 2)
            draw_text(p, top, self.text(), LABEL, theme.ink, Weight.STRONG, LEFT)
            paint_arrow(p, QPointF(box.right() - 18, box.center().y()), theme.ink)
        else:
            inner = box.adjusted(3, 0, -3, 0)
            self._write(p, inner, theme.ink, Weight.LABEL)
        if focus:
            rounded(p, box, 4, None, flat_pen(theme.now, 3))

    def _write(self, p: QPainter, box: QRectF, colour: QColor, weight: Weight) -> None:
        """The words; where they do not fit, what stands before the colon."""
        words = self.text()
        if not draw_one_of(p, box, (words, words.partition(":")[0]), BODY, colour, weight, CENTRE):
            draw_text(p, box, words, BODY, colour, weight, CENTRE)

    def ground(self) -> QColor:
        """What shows at the corners: the ground of the widget that it lies on."""
        parent = self.parentWidget()
        return parent.ground() if isinstance(parent, Painted) else self.look.theme.paper


class StrongButton(DrawnButton):
    """The one button of a page that goes on: its plate is dark."""

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        if not self.isEnabled():
            super()._paint_still(p, box, active, focus)
            return
        rounded(p, box, 4, theme.now if active else theme.ink, None)
        colour = theme.on_now if active else theme.on_ink
        draw_text(p, box.adjusted(4, 0, -4, 0), self.text(), LABEL, colour, Weight.LABEL, CENTRE)
        if focus:
            rounded(p, box, 4, None, flat_pen(theme.now, 3))


class TabButton(DrawnButton):
    """A button that stays dark while its page is shown."""

    def __init__(self, look: Look, text: str, parent: QWidget) -> None:
        super().__init__(look, text, parent)
        self.setCheckable(True)
        self.setObjectName(f"tab_{text.split()[0].lower()}")

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        if not self.isChecked():
            super()._paint_still(p, box, active, focus)
            return
        rounded(p, box, 4, theme.ink, None)
        draw_text(p, box, self.text(), BODY, theme.on_ink, Weight.LABEL, CENTRE)
        if focus:
            rounded(p, box, 4, None, flat_pen(theme.now, 3))


def underline_letter(
    p: QPainter, word: QRectF, text: str, letter: str, px: float, colour: QColor
) -> None:
    """A line under the letter of a word that is its key; `word` is the box that it fills."""
    before = text_width(text[: text.index(letter)], px, Weight.LABEL)
    width = text_width(letter, px, Weight.LABEL)
    p.fillRect(QRectF(word.left() + before, word.bottom() - 2, width, 2), colour)


def paint_arrow(p: QPainter, at: QPointF, colour: QColor) -> None:
    """A solid triangle that points to the right."""
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour)
    corners = [QPointF(-5, -8), QPointF(5, 0), QPointF(-5, 8)]
    p.drawPolygon(QPolygonF([at + corner for corner in corners]))
