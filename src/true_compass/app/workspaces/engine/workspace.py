"""Engine: the whole model in a form, beside drawings that follow what is typed."""

from collections.abc import Callable
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QMenu, QWidget

from true_compass.app.desk import Desk
from true_compass.app.undo import UndoButton
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspace import NEW_ENGINE, Workspace
from true_compass.app.workspaces.engine.fields import FIELDS
from true_compass.app.workspaces.engine.form import EngineForm, FormScroll
from true_compass.app.workspaces.engine.hand.page import HandPage
from true_compass.core.crank import makers
from true_compass.core.crank.layout import Form
from true_compass.core.crank.orders import even_orders
from true_compass.core.engine import Engine
from true_compass.core.findings import Finding, Severity, findings
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.drawing.codes import paint_problem_mark, paint_tick
from true_compass.drawing.plan import paint_front, paint_heads, paint_throws
from true_compass.drawing.text import draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LEAD, NOTE, Weight
from true_compass.session.session import Session

BY_HAND: Final = "By hand"
FIGURES: Final = "All figures"
FORM_WIDTH: Final = 450.0
BUTTONS: Final = 46.0
NARROW: Final = 600.0

MAKERS: Final[tuple[tuple[str, Callable[[], Engine]], ...]] = (
    ("Inline four", lambda: makers.inline(4)),
    ("Inline six", lambda: makers.inline(6)),
    ("Single", lambda: makers.inline(1)),
    ("Twin, 180°", lambda: makers.inline(2, "180")),
    ("Twin, 360°", lambda: makers.inline(2, "360")),
    ("Three", lambda: makers.inline(3)),
    ("Five", lambda: makers.inline(5)),
    ("Inline eight", lambda: makers.inline(8)),
    ("V twin, 45°", lambda: makers.vee(2, 45)),
    ("V six, 60°, own pins", lambda: makers.vee(6, 60, "own")),
    ("V six, 90°, three pins", lambda: makers.vee(6, 90)),
    ("V eight, cross crank", lambda: makers.vee(8, 90)),
    ("V eight, flat crank", lambda: makers.vee(8, 90, crank="flat")),
    ("V ten, 72°", lambda: makers.vee(10, 72)),
    ("V twelve, 60°", lambda: makers.vee(12, 60)),
    ("V sixteen, 45°", lambda: makers.vee(16, 45)),
    ("Flat twin", lambda: makers.flat(2)),
    ("Flat four", lambda: makers.flat(4)),
    ("Flat six", lambda: makers.flat(6)),
    ("180° V twelve", lambda: makers.vee(12, 180)),
    ("W twelve", lambda: makers.double_u(12)),
    ("Staggered six", lambda: makers.staggered(6)),
    ("Radial seven", lambda: makers.radial(7)),
    ("Radial nine", lambda: makers.radial(9)),
    ("Two-row radial fourteen", lambda: makers.radial(14, 2)),
    ("Square four", makers.square_four),
    ("U eight", lambda: makers.u_engine(8)),
)


class EngineDrawing(Painted):
    """From above, from the front, the throws, and what is worth saying."""

    more_wanted = pyqtSignal()
    """All findings are to be read."""

    def __init__(self, session: Session, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._session = session
        self._more = QRectF()
        self._said: tuple[Engine | None, list[Finding]] = (None, [])
        self.waiting = False
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setObjectName("engine_drawing")
        self.setAccessibleName("The engine drawn, and what is worth saying")

    def paint(self, p: QPainter) -> None:
        """Draw the last good engine."""
        theme, width, height = self.look.theme, self.logical_width, self.logical_height
        engine = self._session.state.engine
        title = QRectF(0, 4, width, 34)
        above = "From the front" if engine.layout.form is Form.RADIAL else "From above"
        used = draw_text(p, title, above, HEAD - 4, theme.ink, Weight.STRONG)
        if self.waiting:
            words = QRectF(used + 20, 6, width - used - 20, 32)
            draw_text(p, words, "The last good engine is drawn.", BODY, theme.ink2)
        radial = engine.layout.form is Form.RADIAL
        narrow = width < NARROW
        half = 60 + (height - 60) * (0.4 if narrow else 0.47)
        split = width if narrow else width * 0.56
        if radial:
            self._paint_front(p, engine, QRectF(0, 40, split, height - 96))
        else:
            paint_heads(p, QRectF(0, 58, width, half - 84), engine, theme)
            label = QRectF(0, half, split, 30)
            draw_text(p, label, "From the front", HEAD - 4, theme.ink, Weight.STRONG)
            foot = 56.0 if narrow else 8.0
            self._paint_front(p, engine, QRectF(0, half + 30, split, height - half - 30 - foot))
        if not narrow:
            top = 50.0 if radial else half
            self._paint_side(p, engine, QRectF(split + 20, top, width - split - 20, height - top))

    def _paint_front(self, p: QPainter, engine: Engine, box: QRectF) -> None:
        turns = f"{engine.rotation.value}, seen from the {engine.seen_from.value}"
        words = QRectF(box.left(), box.top(), box.width(), 20)
        draw_text(p, words, turns, NOTE, self.look.theme.ink2)
        rest = box.adjusted(0, 20, 0, 0)
        paint_front(p, rest, self._session.state.rig, self.look.theme, self.stills)

    def _paint_side(self, p: QPainter, engine: Engine, box: QRectF) -> None:
        theme = self.look.theme
        title = QRectF(box.left(), box.top(), box.width(), 30)
        draw_text(p, title, "Throws, front to rear", LEAD, theme.ink, Weight.STRONG)
        count = len(engine.layout.throws)
        rows = -(-count // (4 if count <= 8 else 6))
        throws = QRectF(box.left(), box.top() + 36, box.width(), 106.0 * rows)
        paint_throws(p, throws, engine, theme)
        below = QRectF(box.left(), throws.bottom() + 6, box.width(), 200)
        self._paint_findings(p, below, engine)

    def _paint_findings(self, p: QPainter, box: QRectF, engine: Engine) -> None:
        theme = self.look.theme
        if self._said[0] is not engine:
            self._said = (engine, findings(engine, self._session.state.rig))
        found = self._said[1]
        lines = [(f.severity is Severity.NOTE, f.sentence) for f in found]
        # What is wrong or worth a look comes before what is good, and before what is just so.
        good = [(True, f"Order {engine.order_text} is possible.")]
        if engine.fires_evenly:
            good.append((True, f"Even: one firing every {engine.intervals_deg[0]:.4g}°."))
        worse = sum(not fine for fine, _ in lines)
        lines[worse:worse] = good
        y = box.top()
        self._more = QRectF()
        for place, (fine, sentence) in enumerate(lines):
            if y > self.logical_height - 106 and place < len(lines) - 1:
                self._more = QRectF(box.left(), y, box.width(), 26)
                words = self._more.adjusted(28, 0, 0, 0)
                told = f"… and {len(lines) - place} more: press to read"
                draw_text(p, words, told, BODY - 1, theme.ink, Weight.LABEL)
                return
            if fine:
                paint_tick(p, QPointF(box.left() + 9, y + 12), 14, theme.ink)
            else:
                paint_problem_mark(p, QRectF(box.left(), y + 2, 18, 18), theme.ink, theme.on_ink)
            words = QRectF(box.left() + 28, y, box.width() - 28, 60)
            y = max(draw_paragraph(p, words, sentence, BODY - 1, theme.ink), y + 20) + 5

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Return reads all that is worth saying."""
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.more_wanted.emit()
        elif event is not None:
            event.ignore()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Open the findings that there is no room for."""
        if event is not None and self._more.contains(event.position() / self.look.scale):
            self.more_wanted.emit()


class EngineWorkspace(Workspace):
    """By hand, on live drawings; or all figures in a form, beside drawings that follow."""

    wants_crank = False
    pages = (BY_HAND, FIGURES)

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        look = desk.look
        self.setObjectName("engine")
        self.setAccessibleName("Engine")
        self._session = desk.session
        self._page = BY_HAND
        self.hand = HandPage(desk, self)
        self.hand.all_figures.clicked.connect(self._show_figures)
        self.by_hand = DrawnButton(look, "By hand", self)
        self.by_hand.clicked.connect(self._show_hand)
        self.form = EngineForm(look, self)
        self.scroll_form = FormScroll(self.form, self)
        self.drawing = EngineDrawing(desk.session, look, self)
        self.new = DrawnButton(look, "New from…", self)
        self.undo = UndoButton(desk, self)
        self.redo = UndoButton(desk, self, redo=True)
        self.copy = DrawnButton(look, "Save a copy…", self)
        self.keep = DrawnButton(look, "Save", self)
        self.orders = DrawnButton(look, "", self)
        self.tables = [DrawnButton(look, f"{kind.letter} table…", self) for kind in Kind]
        for button in self.tables:
            button.setToolTip("Read a lift table from a CSV file")
            button.clicked.connect(self._on_table)
        self.menu = QMenu(self)
        self._makers = dict(MAKERS)
        for words in self._makers:
            self.menu.addAction(words)
        self.menu.triggered.connect(self._on_maker)
        self.new.clicked.connect(self._open_menu)
        self.orders.clicked.connect(self._see_orders)
        self.keep.clicked.connect(desk.files.save)
        self.copy.clicked.connect(desk.files.choose_and_save_copy)
        self.drawing.more_wanted.connect(self._show_findings)
        self.form.edited.connect(self._on_edited)
        self.form.complained.connect(self._on_complained)
        desk.bridge.engine_changed.connect(self._on_engine)
        look.changed.connect(self.arrange)
        self._stale = True

    @property
    def page(self) -> str:
        """By hand, or all figures."""
        return self._page

    def show_page(self, page: str) -> None:
        """Show one of the two pages."""
        if page == NEW_ENGINE[1]:
            self.show_page(BY_HAND)
            self.hand.begin_new()
            return
        if page not in self.pages:
            return
        self._page = page
        self.arrange()
        self.came_to_front()
        # What hides passes the keyboard on as if by Tab; it is not shown that way.
        first = self.focus_first()
        first.clearFocus()
        first.setFocus()

    def _show_hand(self) -> None:
        self.show_page(BY_HAND)

    def _show_figures(self) -> None:
        self.show_page(FIGURES)

    def came_to_front(self) -> None:
        """Fill the page when someone looks."""
        if self._page == BY_HAND:
            self.hand.came_to_front()
        elif self._stale:
            self._stale = False
            self._show()

    def focus_first(self) -> QWidget:
        """The drawing that is worked at, or the page about the form, which is entered by Tab."""
        return self.hand.focus_first() if self._page == BY_HAND else self.scroll_form

    def _on_engine(self) -> None:
        self._stale = True
        # The page by hand hears of it by itself.
        if self.isVisible() and self._page == FIGURES:
            self.came_to_front()

    def _show(self) -> None:
        self.form.show_engine(self._session.state.engine)
        self.drawing.waiting = False
        self.drawing.repaint_all()
        even = len(even_orders(self._session.state.engine.layout))
        words = f"See all {even} even orders" if even > 1 else "See the orders of this crank"
        self.orders.setText(words)
        self.update()

    def _show_findings(self) -> None:
        engine = self._session.state.engine
        rows = [("", f"{f.severity.value}: {f.sentence}") for f in findings(engine)]
        self.desk.show_rows(f"What is worth saying of {engine.name}", rows)

    def _on_edited(self, engine: Engine, path: str) -> None:
        label = next((field.label for field in FIELDS if field.path == path), path)
        self._session.edit(engine, path, f"edit of {label}")
        if self.drawing.waiting:
            self._show()

    def _on_complained(self) -> None:
        self.drawing.waiting = True
        self.drawing.update()

    def _open_menu(self) -> None:
        self.menu.popup(self.new.mapToGlobal(self.new.rect().topLeft()))

    def _on_maker(self, action: QAction) -> None:
        self.make(action.text())

    def make(self, words: str) -> None:
        """Put an engine of a maker in place of the open one; undo brings that back."""
        try:
            self._session.edit(self._makers[words](), words=f"new engine, {words}")
        except EngineError as error:
            self.form.problem = error
            self.form.arrange()

    def _on_table(self) -> None:
        for kind, button in zip(Kind, self.tables, strict=True):
            if button is self.sender():
                self.desk.files.choose_table(kind)

    def _see_orders(self) -> None:
        self.desk.go_to("Orders", "")

    def arrange(self) -> None:
        """Put everything in its place."""
        width, height = self.logical_width, self.logical_height
        hand = self._page == BY_HAND
        for view in self.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly):
            if not isinstance(view, QMenu):
                view.setVisible((view is self.hand) == hand)
        if hand:
            self.hand.setGeometry(self.look.scaled(0, 0, width, height))
            return
        form = min(FORM_WIDTH, width * 0.5)
        put = self.look.scaled
        self.scroll_form.setGeometry(put(16, 8, form, height - BUTTONS - 16))
        self.scroll_form.fit()
        x = 16.0
        for button, wide in (
            (self.by_hand, 84),
            (self.new, 110),
            (self.undo, 68),
            (self.redo, 68),
            (self.keep, 68),
            (self.copy, 126),
            *((button, 86) for button in self.tables),
        ):
            button.setGeometry(put(x, height - BUTTONS, wide, 38))
            x += wide + 4
        left = form + 40
        self.drawing.setGeometry(put(left, 4, width - left - 12, height - 6))
        self.orders.setGeometry(put(width - 292, height - BUTTONS, 276, 38))
        self.orders.raise_()
        self.update()
