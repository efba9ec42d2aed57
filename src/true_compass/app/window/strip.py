"""The strip at the top: the mark that leads home, workspaces, menu, and the rig picker."""

from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QMenu, QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.registry import HOME, WORKSPACES, Entry
from true_compass.app.widgets.controls import DrawnButton, underline_letter
from true_compass.app.widgets.hints import plain_hint
from true_compass.app.widgets.look import Look, Painted
from true_compass.core.engine import Engine
from true_compass.drawing.codes import round_pen, rounded
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import LABEL, NOTE, Weight
from true_compass.session.session import Session

HEIGHT: Final = 54
NAME_WIDTH: Final = 194.0
MARK_WIDTH: Final = 54.0
MENU_WIDTH: Final = 76.0
LIST_WIDTH: Final = 76.0
PICKER_WIDTH: Final = 348.0
EDGE: Final = 12.0
GAP: Final = 2.0


@dataclass(frozen=True, slots=True)
class Fit:
    """What the strip holds at a width. Without `words` only the open one is shown, and a list."""

    name: bool
    padding: float
    menu: bool
    words: bool
    least_picker: float

    def taken(self, words_width: float, count: int) -> float:
        """How much of the width is taken beside the picker."""
        words = words_width + count * (self.padding + GAP)
        return (
            (NAME_WIDTH if self.name else MARK_WIDTH)
            + (words if self.words else 0.0)
            + (MENU_WIDTH + 8 if self.menu else 0.0)
            + 2 * EDGE
        )


FITS: Final = (
    Fit(name=True, padding=24, menu=True, words=True, least_picker=260),
    Fit(name=False, padding=24, menu=True, words=True, least_picker=220),
    Fit(name=False, padding=16, menu=True, words=True, least_picker=170),
    Fit(name=False, padding=16, menu=False, words=True, least_picker=130),
    Fit(name=False, padding=24, menu=True, words=False, least_picker=0),
)
"""From much room to little: the name goes, then the menu, then the words that are not open."""


class StripButton(DrawnButton):
    """A button on the dark strip; on paper where its page is open."""

    def draw_ground(self, p: QPainter) -> tuple[QRectF, QColor]:
        """Fill the box; the box, and the colour that is read on it."""
        theme = self.look.theme
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.scale(self.look.scale, self.look.scale)
        box = QRectF(0, 0, self.width() / self.look.scale, self.height() / self.look.scale)
        p.fillRect(box, theme.paper if self.isChecked() else theme.strip)
        return box, theme.ink if self.isChecked() else theme.on_strip

    def draw_focus(self, p: QPainter, box: QRectF) -> None:
        """The ring, where the keyboard is here."""
        if self.hasFocus():
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(
                QPen(self.look.theme.now if self.isChecked() else self.look.theme.now_on_strip, 3)
            )
            p.drawRect(box.adjusted(2, 2, -2, -2))


class HomeButton(StripButton):
    """The mark of the program, with its name where there is room; leads to the front page."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, "True Compass", parent)
        self.setCheckable(True)
        self.setObjectName("home")
        self.setAccessibleName("True Compass: front page")
        self.setToolTip("Front page (Home)")
        self.with_name = True
        self.below = ""
        """What stands below the name: that this is a demonstration."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the mark, then the name."""
        p = QPainter(self)
        box, colour = self.draw_ground(p)
        x = 36.0 if self.with_name else box.center().x()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(round_pen(colour, 2.4))
        p.drawEllipse(QPointF(x, 29), 12.5, 12.5)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        p.drawEllipse(QPointF(x, 29), 3, 3)
        theme = self.look.theme
        p.setBrush(theme.now if self.isChecked() else theme.now_on_strip)
        p.drawPolygon(QPolygonF([QPointF(x - 8, 9), QPointF(x + 8, 9), QPointF(x, 25)]))
        if self.with_name:
            name = QRectF(57, 0, 134, 38 if self.below else HEIGHT)
            draw_text(p, name, self.text(), LABEL, colour, Weight.STRONG, LEFT)
            draw_text(p, QRectF(57, 29, 134, 20), self.below, NOTE, colour, Weight.BODY, LEFT)
        self.draw_focus(p, box)
        p.end()


class WorkspaceTab(StripButton):
    """A word in the strip; the open one stands on paper under the mark."""

    def __init__(self, look: Look, entry: Entry, parent: QWidget) -> None:
        super().__init__(look, entry.word, parent)
        self._entry = entry
        self.setCheckable(True)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the word with its key letter underlined."""
        p = QPainter(self)
        box, colour = self.draw_ground(p)
        draw_text(p, box, self.text(), LABEL, colour, Weight.LABEL, CENTRE)
        left = box.center().x() - text_width(self.text(), LABEL, Weight.LABEL) / 2
        word = QRectF(left, 0, box.right() - left, 40)
        underline_letter(p, word, self.text(), self._entry.letter, LABEL, colour)
        if self.isChecked():
            x = box.center().x()
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(self.look.theme.now)
            p.drawPolygon(QPolygonF([QPointF(x - 10, 0), QPointF(x + 10, 0), QPointF(x, 9)]))
        self.draw_focus(p, box)
        p.end()


class OpenerButton(StripButton):
    """A word in an outlined box with a small triangle: a press opens a list."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw box, words and triangle."""
        p = QPainter(self)
        box, colour = self.draw_ground(p)
        edge = self.look.theme.now_on_strip if self.hasFocus() else colour
        rounded(p, box.adjusted(1, 1, -1, -1), 4, None, QPen(edge, 3 if self.hasFocus() else 1.4))
        self.draw_words(p, box.adjusted(10, 0, -26, 0), colour)
        x, y = box.right() - 15, box.center().y() - 3
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        p.drawPolygon(QPolygonF([QPointF(x - 6, y), QPointF(x + 6, y), QPointF(x, y + 7)]))
        p.end()

    def draw_words(self, p: QPainter, box: QRectF, colour: QColor) -> None:
        """Draw what stands in the box."""
        draw_text(p, box, self.text(), NOTE + 1, colour, Weight.LABEL, LEFT)


class RigPicker(OpenerButton):
    """Shows the open engine; a press opens the list of rigs."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, "Rig", parent)
        self.setObjectName("rig_picker")
        self._names: tuple[str, ...] = ("",)
        self._order = ""

    def show_engine(self, engine: Engine, *, locked: bool, hidden: bool) -> None:
        """Show name, layout and firing order (unless that is asked), or that it is locked."""
        full = f"{engine.name} ({engine.layout_words})"
        self._names = (full, engine.name)
        order = "order asked" if hidden else engine.order_text
        self._order = "locked" if locked else order
        self.setAccessibleName(f"Rig: {full}, {self._order}. Opens the list of rigs.")
        # A note may tell the order.
        about = filter(None, (full, engine.place, "" if hidden else engine.note))
        self.setToolTip(plain_hint("\n".join(about)))
        self.update()

    def draw_words(self, p: QPainter, box: QRectF, colour: QColor) -> None:
        """The name has the right of way; the order is in every other figure as well."""
        widths = [text_width(name, NOTE + 1, Weight.LABEL) + 2 for name in self._names]
        name, wanted = self._names[0], widths[0]
        if wanted > box.width():
            name, wanted = self._names[-1], widths[-1]
        room = max(box.width() - wanted - 12, 0.0)
        order = text_width(self._order, NOTE + 1) <= room
        at = QRectF(box.left(), 0, wanted if order else box.width(), box.height())
        draw_text(p, at, name, NOTE + 1, colour, Weight.LABEL, LEFT)
        if order:
            # Half an order would be another order.
            at = QRectF(box.right() - room, 0, room, box.height())
            draw_one_of(p, at, [self._order], NOTE + 1, colour, Weight.BODY, RIGHT)


class TopStrip(Painted):
    """Mark and name, one tab a workspace, menu, rig picker."""

    chosen = pyqtSignal(str)
    """A workspace by its word."""

    def __init__(
        self,
        session: Session,
        bridge: Bridge,
        look: Look,
        parent: QWidget,
        entries: tuple[Entry, ...] = WORKSPACES,
    ) -> None:
        super().__init__(look, parent)
        self._session = session
        self._on_show: Engine | None = None
        self.hides_order = False
        self.setObjectName("top_strip")
        self.setAccessibleName("Pages, menu and rig")
        self.home = HomeButton(look, self)
        self.entries = entries
        self.tabs = [WorkspaceTab(look, entry, self) for entry in entries]
        self.list = OpenerButton(look, "Pages", self)
        self.list.setAccessibleName("All pages")
        self.menu_button = OpenerButton(look, "Menu", self)
        self.menu_button.setToolTip("Files, print, look, help (F10)")
        self.picker = RigPicker(look, self)
        self.words = QMenu(self)
        for entry in entries:
            action = self.words.addAction(f"{entry.word}\t{entry.letter.upper()}")
            assert action is not None
            action.setData(entry.word)
        self.words.triggered.connect(lambda action: self.chosen.emit(action.data()))
        self.home.clicked.connect(self._on_tab)
        self.list.clicked.connect(self._open_list)
        for tab in self.tabs:
            tab.clicked.connect(self._on_tab)
        look.changed.connect(self._arrange)
        bridge.engine_changed.connect(self._show_engine)
        bridge.saved.connect(self._show_engine)
        self._show_engine()

    def _show_engine(self) -> None:
        state = self._session.state
        engine = self._on_show or state.engine
        self.picker.show_engine(engine, locked=state.locked, hidden=self.hides_order)

    def cover(self, on_show: Engine | None, *, order: bool) -> None:
        """Name the engine that the page is about, and keep its firing order back or not."""
        self._on_show, self.hides_order = on_show, order
        self._show_engine()

    def _on_tab(self) -> None:
        sender = self.sender()
        if sender is self.home:
            self.chosen.emit(HOME.word)
        for entry, tab in zip(self.entries, self.tabs, strict=True):
            if tab is sender:
                self.chosen.emit(entry.word)

    def _open_list(self) -> None:
        self.words.popup(self.list.mapToGlobal(self.list.rect().bottomLeft()))

    def show_open(self, word: str) -> None:
        """Mark the open page."""
        self.home.setChecked(word == HOME.word)
        for entry, tab in zip(self.entries, self.tabs, strict=True):
            tab.setChecked(entry.word == word)
        self._arrange()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place tabs and picker."""
        super().resizeEvent(event)
        self._arrange()

    @property
    def fit(self) -> Fit:
        """What there is room for."""
        words = sum(text_width(entry.word, LABEL, Weight.LABEL) for entry in self.entries)
        for fit in FITS:
            room = self.logical_width - fit.taken(words, len(self.entries))
            if room >= fit.least_picker:
                return fit
        return FITS[-1]

    def _arrange(self) -> None:
        fit, put = self.fit, self.look.scaled
        x = NAME_WIDTH if fit.name else MARK_WIDTH
        self.home.with_name = fit.name
        self.home.setGeometry(put(0, 0, x, HEIGHT))
        for tab in self.tabs:
            shown = fit.words or tab.isChecked()
            tab.setVisible(shown)
            if shown:
                width = text_width(tab.text(), LABEL, Weight.LABEL) + fit.padding
                tab.setGeometry(put(x, 0, width, HEIGHT))
                x += width + GAP
        self.list.setVisible(not fit.words)
        if not fit.words:
            self.list.setGeometry(put(x + 6, 10, LIST_WIDTH, 34))
            x += LIST_WIDTH + 6
        right = self.logical_width - EDGE
        self.menu_button.setVisible(fit.menu)
        width = min(PICKER_WIDTH, max(right - x - (MENU_WIDTH + 8 if fit.menu else 0) - EDGE, 40))
        self.picker.setGeometry(put(right - width, 10, width, 34))
        if fit.menu:
            left = right - width - MENU_WIDTH - 8
            self.menu_button.setGeometry(put(left, 10, MENU_WIDTH, 34))
        self.update()

    def ground(self) -> QColor:
        """Dark in both themes."""
        return self.look.theme.strip

    def paint(self, p: QPainter) -> None:
        """Only the ground shows between the buttons."""
