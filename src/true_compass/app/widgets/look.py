"""How the program looks now (theme, text size, motion), and the base of all painted widgets."""

from collections.abc import Callable, Hashable
from typing import Final

from PyQt6.QtCore import QObject, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFocusEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.twins import Twins, words_on
from true_compass.drawing.stills import Stills
from true_compass.drawing.theme import Theme, theme

TEXT_SIZES: Final = (100, 125, 150)
PROJECTOR: Final = 1.5


class Look(QObject):
    """Theme and size of everything on the screen; views repaint when it changes."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._dark = False
        self.follows_system = True
        self._text_percent = 100
        self._projector = False
        self._still = False
        self.twins = Twins(self)

    @property
    def theme(self) -> Theme:
        """The colours in use."""
        return theme("dark" if self._dark else "light")

    @property
    def scale(self) -> float:
        """Screen pixels for each pixel of the design."""
        return PROJECTOR if self._projector else self._text_percent / 100

    @property
    def dark(self) -> bool:
        """Whether the dark theme is on."""
        return self._dark

    @property
    def text_percent(self) -> int:
        """Text size in percent, as chosen; the projector has its own."""
        return self._text_percent

    @property
    def projector(self) -> bool:
        """Whether everything is drawn for a projector."""
        return self._projector

    @property
    def still(self) -> bool:
        """Whether the crank jumps at once instead of sweeping."""
        return self._still

    def set_dark(self, dark: bool, *, chosen: bool = True) -> None:
        """Show the dark or the light theme. One that was `chosen` no longer follows the system."""
        if chosen:
            self.follows_system = False
        elif dark == self._dark:
            return
        self._dark = dark
        self.changed.emit()

    def toggle_dark(self) -> None:
        """Change between the themes."""
        self.set_dark(not self._dark)

    def toggle_projector(self) -> None:
        """Change between desk and projector."""
        self._projector = not self._projector
        self.changed.emit()

    def toggle_still(self) -> None:
        """Change between sweeping and moving at once."""
        self.set_still(not self._still)

    def set_text_percent(self, percent: int) -> None:
        """Choose 100, 125 or 150 %; anything else counts as 100."""
        self._text_percent = percent if percent in TEXT_SIZES else 100
        self.changed.emit()

    def set_still(self, still: bool) -> None:
        """Move at once instead of sweeping."""
        self._still = still
        self.changed.emit()

    def scaled(self, x: float, y: float, width: float, height: float) -> QRect:
        """Screen rectangle of a rectangle given in pixels of the design."""
        s = self.scale
        left, top = round(x * s), round(y * s)
        return QRect(left, top, round((x + width) * s) - left, round((y + height) * s) - top)


class Painted(QWidget):
    """A widget that paints itself in pixels of the design. Subclasses give `paint` and no more."""

    tells_itself = False
    """Set by a subclass that says its words itself, better than by what is written on it."""

    covers_ground = False
    """Set by a subclass that begins with a picture of the whole widget (`paint_whole`)."""

    def __init__(self, look: Look, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.look = look
        self._shows_focus = False
        self.stills = Stills()
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        look.changed.connect(self.repaint_all)

    def repaint_all(self) -> None:
        """Forget every cached part and paint anew."""
        self.stills.forget()
        self.update()

    @property
    def logical_width(self) -> float:
        """Width in pixels of the design."""
        return self.width() / self.look.scale

    @property
    def logical_height(self) -> float:
        """Height in pixels of the design."""
        return self.height() / self.look.scale

    def text_twin(self) -> str:
        """What the view says in words: what is written on it, unless a subclass says it better."""
        return words_on(self)

    def paint(self, p: QPainter) -> None:
        """Paint the widget; the painter is scaled and antialiased, the ground is filled."""
        raise NotImplementedError

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Qt's call to paint."""
        p = QPainter(self)
        if not self.covers_ground:
            p.fillRect(self.rect(), self.ground())
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.scale(self.look.scale, self.look.scale)
        self.paint(p)
        if self._shows_focus and self.hasFocus():
            self.paint_focus(p)
        p.end()
        if not self.tells_itself:
            self.look.twins.painted(self)

    def paint_whole(self, p: QPainter, key: Hashable, paint: Callable[[QPainter], None]) -> None:
        """Draw the part of the whole widget that stands still, from its picture."""
        whole = QRectF(0, 0, self.logical_width, self.logical_height)
        self.stills.draw(p, key, whole, paint, self.ground())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Cached parts are for one size."""
        self.stills.forget()
        super().resizeEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Focus shows only when it came by the keyboard; a pointer shows where it is itself."""
        reasons = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._shows_focus = event is not None and event.reason() in reasons
        super().focusInEvent(event)

    def focus_widget(self) -> QWidget | None:
        """What has the keyboard in this window."""
        window = self.window()
        return window.focusWidget() if window is not None else None

    def ground(self) -> QColor:
        """Colour below everything."""
        return self.look.theme.paper

    def paint_focus(self, p: QPainter) -> None:
        """The ring about the widget that has the keyboard."""
        box = QRectF(0, 0, self.logical_width, self.logical_height).adjusted(1.5, 1.5, -1.5, -1.5)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(self.look.theme.now, 3))
        p.drawRoundedRect(box, 4, 4)
