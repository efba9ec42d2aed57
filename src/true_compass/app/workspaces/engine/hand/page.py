"""The engine by hand: tabs that say what to do next, live drawings, exact figures."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.undo import UndoButton
from true_compass.app.widgets.controls import DrawnButton, TabButton
from true_compass.app.widgets.look import Painted
from true_compass.app.workspaces.engine.hand.crank import BanksView, ThrowsView
from true_compass.app.workspaces.engine.hand.figures import FiguresForm
from true_compass.app.workspaces.engine.hand.heads import HeadsView
from true_compass.app.workspaces.engine.hand.marks import MarkForm
from true_compass.app.workspaces.engine.hand.model import HandModel, Tab
from true_compass.app.workspaces.engine.hand.pad import LayoutPad
from true_compass.app.workspaces.engine.hand.right import (
    ClashView,
    DamperView,
    EventsView,
    OrderRing,
)
from true_compass.core.crank.layout import Form
from true_compass.core.crank.orders import even_orders
from true_compass.core.crank.wished import Offer, more_even, told_gaps
from true_compass.core.engine import Engine
from true_compass.core.findings import Severity, findings, is_very_uneven
from true_compass.core.state import Rig
from true_compass.drawing.codes import flat_pen, paint_problem_mark, paint_tick
from true_compass.drawing.text import draw_one_of, draw_paragraph, draw_text, text_width
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

TABS: Final = 34.0
LEFT: Final = 16.0
RIGHT_WIDE: Final = 500.0
FULL_WIDTH: Final = 1080.0
BUTTONS: Final = 46.0
PAD_HIGH: Final = 360.0
CLASH: Final = 344.0
"""What the sentence, the line of the cycle and both ways out need."""
TODO: Final = {
    Tab.LAYOUT: ("Choose how it is built", "Every press makes a whole engine. Undo goes back."),
    Tab.NUMBERS: (
        "Click the cylinders in the order in which they are numbered",
        "Begin with 1. Click the last one again to take it back.",
    ),
    Tab.THROWS: (
        "Drag a pin to its angle",
        "It snaps to even steps; Alt lets it stand anywhere. Dropped on another pin, the two "
        "change places.",
    ),
    Tab.BANKS: ("Drag a bank to its angle", "Its twin leans the other way; Shift moves one alone."),
    Tab.VALVES: (
        "Click a cylinder to change intake and exhaust",
        "Shift+click changes its whole head.",
    ),
    Tab.EVENTS: ("Drag the four events", "In whole degrees of crank. Ramps stay as they are."),
    Tab.ORDER: (
        "Click the cylinders in the order in which they fire",
        "Begin with 1. Pale ones cannot fire next; click one to read why.",
    ),
    Tab.MARKS: ("Drag the marks", "Press the rim for a new one; its words stand below."),
    Tab.SIZES: ("Type the sizes", "mm, or inches such as 3.5 in. The drawings follow."),
}


class HandPage(Painted):
    """Drawings at the left, what belongs to the open tab at the right."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk.look, parent)
        self.setObjectName("hand")
        self.setAccessibleName("Engine by hand")
        look = desk.look
        self._desk = desk
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.model = HandModel(desk, self)
        self._problem_high = 0.0
        self._judged: tuple[Engine | None, str, bool] = (None, "", True)
        self._offered: tuple[Engine | None, Offer | None] = (None, None)
        self.tabs = [TabButton(look, tab.value, self) for tab in Tab]
        for button in self.tabs:
            button.clicked.connect(self._on_tab)
        self.pad = LayoutPad(self.model, look, self)
        self.heads = HeadsView(self.model, look, self)
        self.throws = ThrowsView(self.model, look, self)
        self.banks = BanksView(self.model, look, self)
        self.events = EventsView(self.model, look, self)
        self.damper = DamperView(self.model, look, self)
        self.ring = OrderRing(self.model, look, self)
        self.clash = ClashView(self.model, look, self)
        self.figures = FiguresForm(self.model, look, self)
        self.marks = MarkForm(self.model, look, self)
        for view, name in (
            (self.heads, "Cylinders"),
            (self.throws, "Throws, from the front"),
            (self.banks, "Banks, from the front"),
            (self.events, "Events of cylinder 1"),
            (self.damper, "Marks on the damper"),
        ):
            view.setAccessibleName(name)
        self.undo = UndoButton(desk, self)
        self.redo = UndoButton(desk, self, redo=True)
        self.save = DrawnButton(look, "Save", self)
        self.all_figures = DrawnButton(look, "All figures", self)
        self.orders = DrawnButton(look, "", self)
        self.even = DrawnButton(look, "Make it even", self)
        self.even.setObjectName("make_even")
        self.even.clicked.connect(self._make_even)
        self.save.clicked.connect(desk.files.save)
        self.orders.clicked.connect(self._see_orders)
        self.model.changed.connect(self._show)
        self.model.told.connect(self.arrange)
        desk.bridge.saved.connect(self.update)
        look.changed.connect(self.arrange)

    @property
    def full(self) -> bool:
        """Whether there is room for the figure and the fields at the right."""
        return self.logical_width >= FULL_WIDTH

    def _on_tab(self) -> None:
        for tab, button in zip(Tab, self.tabs, strict=True):
            if button is self.sender():
                self.model.show_tab(tab)

    def _make_even(self) -> None:
        """The most even crank and numbering for the order that it has."""
        offer = self._more_even
        if offer is not None:
            self.model.take_shape(offer.engine, "the most even crank")

    @property
    def _more_even(self) -> Offer | None:
        """A way to fire more evenly, where it fires very unevenly; worked out once an engine."""
        engine = self.model.settled
        if engine is not self._offered[0]:
            self._offered = (engine, more_even(engine) if is_very_uneven(engine) else None)
        return self._offered[1]

    def _see_orders(self) -> None:
        self._desk.go_to("Orders", "")

    def _show(self) -> None:
        if not self.isVisible():
            return
        even = len(even_orders(self.model.layout))
        self.orders.setText(f"See all {even} even orders" if even > 1 else "See the orders")
        self.arrange()

    def came_to_front(self) -> None:
        """Show what is true now."""
        self._show()

    def begin_new(self) -> None:
        """Another engine: its layout, and the line for whoever knows its order."""
        self.model.show_tab(Tab.LAYOUT)
        self._show()
        self.pad.line.setFocus()

    def focus_first(self) -> QWidget:
        """The drawing that the open tab works at."""
        return {
            Tab.LAYOUT: self.throws,
            Tab.THROWS: self.throws,
            Tab.BANKS: self.banks,
            Tab.EVENTS: self.events,
            Tab.MARKS: self.damper,
        }.get(self.model.tab, self.heads)

    # Places ------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place everything anew."""
        super().resizeEvent(event)
        self.arrange()

    def _put(self, view: QWidget, x: float, y: float, width: float, height: float) -> None:
        view.setGeometry(self.look.scaled(x, y, max(width, 1), max(height, 1)))
        self._placed.add(view)

    def arrange(self) -> None:
        """Place what the open tab needs, and hide the rest."""
        self._placed: set[QWidget] = set()
        self.figures.follow()
        self._arrange_tabs()
        self._problem_high = 0.0
        if self._problem and text_width(self._problem, NOTE + 1, Weight.LABEL) > self._said_room:
            self._problem_high = 44.0
        if self.full:
            wide = RIGHT_WIDE if self.logical_width >= 1240 else 420.0
            left = self.logical_width - wide - 16
            self._arrange_left(left - LEFT - 24)
            self._arrange_right(left, wide)
        else:
            self._arrange_narrow()
        self._arrange_buttons()
        self._hide_the_rest()
        self.marks.follow()
        self.update()

    def _hide_the_rest(self) -> None:
        children = self.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly)
        focus = self.focus_widget()
        if focus in children and focus not in self._placed:
            # What hides passes the keyboard on to the next button, and that would show.
            self.setFocus()
        for view in children:
            view.setVisible(view in self._placed)

    def _arrange_tabs(self) -> None:
        x = LEFT
        room = self.logical_width - 2 * LEFT - (190 if self.full else 0)
        padding = 40.0 if self.full else 24.0
        for tab, button in zip(Tab, self.tabs, strict=True):
            wide = text_width(tab.value, BODY, Weight.LABEL) + padding
            if x + wide > room + LEFT:
                wide = max(room + LEFT - x, 40.0)
            self._put(button, x, 8, wide, TABS)
            button.setChecked(tab is self.model.tab)
            button.repaint_all()
            x += wide + 5

    def _arrange_left(self, wide: float) -> None:
        height = self.logical_height
        top, foot = 102.0, height - BUTTONS - 8 - self._problem_high
        if self.model.tab is Tab.LAYOUT:
            high = min(PAD_HIGH, foot - top - 4)
            self._put(self.pad, LEFT, top + 4, wide, high)
            low = top + high + 34
            if foot - low > 90:
                self._put(self.banks, LEFT, low, wide / 2 - 8, foot - low)
                self._put(self.throws, LEFT + wide / 2, low, wide / 2, foot - low)
            return
        if self.model.layout.form is Form.RADIAL:
            self._put(self.heads, LEFT, top, wide * 0.6, foot - top)
            self._put(self.throws, LEFT + wide * 0.62, top + 30, wide * 0.38, foot - top - 60)
            return
        single = len({seat.bank for seat in self.model.layout.seats}) == 1
        split = top + (foot - top) * (0.4 if single else 0.54)
        self._put(self.heads, LEFT, top, wide, split - top)
        low = split + 28
        if single:
            self._put(self.throws, LEFT, low, wide, foot - low)
        else:
            self._put(self.banks, LEFT, low, wide * 0.48, foot - low)
            self._put(self.throws, LEFT + wide * 0.5, low, wide * 0.5, foot - low)

    def _arrange_right(self, left: float, wide: float) -> None:
        foot = self.logical_height - BUTTONS - 10 - self._problem_high
        tab = self.model.tab
        if tab is Tab.MARKS:
            below = 214.0
        else:
            below = min(self.figures.wanted_height or 300.0, foot - 52 - 150)
        if self.model.clash is not None:
            below = min(below, foot - 52 - CLASH)
        figure = foot - below - 12
        if self.model.clash is not None:
            shown: QWidget = self.clash
        elif tab is Tab.ORDER:
            shown = self.ring
        elif tab is Tab.MARKS:
            shown = self.damper
        else:
            shown = self.events
        self._put(shown, left, 52, wide, max(figure - 52, 150))
        form: QWidget = self.marks if tab is Tab.MARKS else self.figures
        self._put(form, left, foot - below, wide, below)

    def _arrange_narrow(self) -> None:
        """In a small window each tab shows its own drawing only."""
        tab, wide = self.model.tab, self.logical_width - 2 * LEFT
        top, foot = 102.0, self.logical_height - BUTTONS - 8 - self._problem_high
        high = foot - top
        if self.model.clash is not None:
            self._put(self.clash, LEFT, top, wide, high)
        elif tab is Tab.LAYOUT:
            self._put(self.pad, LEFT, top, wide, high)
        elif tab is Tab.THROWS:
            self._put(self.throws, LEFT, top, wide, high)
        elif tab is Tab.BANKS:
            self._put(self.banks, LEFT, top, wide, high)
        elif tab is Tab.EVENTS:
            self._put(self.events, LEFT, top, wide, high)
        elif tab is Tab.MARKS:
            self._put(self.damper, LEFT, top, wide / 2 - 8, high)
            self._put(self.marks, LEFT + wide / 2, top, wide / 2, high)
        elif tab is Tab.SIZES:
            self._put(self.figures, LEFT, top, wide, high)
        else:
            self._put(self.heads, LEFT, top, wide, high)

    def _arrange_buttons(self) -> None:
        y = self.logical_height - BUTTONS
        x = LEFT
        wide = 150.0 if self.full else 80.0
        for button, width in (
            (self.undo, wide),
            (self.redo, wide),
            (self.save, 74.0),
            (self.all_figures, 110.0),
        ):
            self._put(button, x, y, width, 38)
            x += width + 6
        end = self.logical_width - 16
        if self.logical_width - x > 220:
            self._put(self.orders, self.logical_width - 226, y, 210, 38)
            end -= 216
        offer = self._more_even if self.model.clash is None else None
        if offer is not None and end - x > 130:
            self.even.setText(f"Make it even: {told_gaps(offer.engine.intervals_deg)}")
            self.even.setToolTip(f"{offer.head}, {offer.note}")
            self._put(self.even, end - 200, y, 194, 38)

    # Painting ----------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Draw what to do next, the names of the drawings, and what is worth saying."""
        theme, model = self.look.theme, self.model
        wide = self.throws.geometry().right() / self.look.scale if self.full else self.logical_width
        head, hint = TODO[model.tab]
        if model.tab is Tab.VALVES and model.layout.form is Form.RADIAL:
            head, hint = (
                "The valves of a radial",
                "Each cylinder has its own head: nothing to change here.",
            )
        if model.tab is Tab.NUMBERS and model.numbering:
            last = len(model.numbering)
            hint = f"Next: {last + 1}. Click {last} again to take it back."
        if model.tab is Tab.ORDER and model.ordering:
            hint = f"Click {model.ordering[-1]} again to take it back. Pale ones cannot fire next."
        draw_text(p, QRectF(LEFT, 46, wide - LEFT, 34), head, HEAD - 4, theme.ink, Weight.STRONG)
        below = QRectF(LEFT, 78, wide - LEFT, 22)
        draw_one_of(p, below, (hint, hint.partition(". ")[0]), NOTE, theme.ink2)
        if self.full:
            self._paint_names(p)
            self._paint_codes(p)
        self._paint_ticks(p)
        self._paint_said(p)

    def _paint_names(self, p: QPainter) -> None:
        theme = self.look.theme
        engine = self.model.engine
        turns = f"{engine.rotation.value}, seen from the {engine.seen_from.value}"
        for view, name, words in (
            (self.banks, "Banks", "from the front; Shift moves one alone"),
            (self.throws, "Throws", f"1 is the front one; {turns}"),
        ):
            if view.isHidden():
                continue
            at = view.geometry()
            s = self.look.scale
            box = QRectF(at.x() / s, at.y() / s - 26, at.width() / s, 24)
            used = draw_text(p, box, name, LABEL, theme.ink, Weight.STRONG)
            rest = box.adjusted(used + 10, 0, 0, 0)
            draw_one_of(p, rest, (words, words.partition(";")[0]), NOTE, theme.ink2)

    def _paint_codes(self, p: QPainter) -> None:
        """What a grip and a dashed disc mean."""
        theme = self.look.theme
        x, y = self.logical_width - 176, 25.0
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawEllipse(QPointF(x, y), 10, 10)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        for way in (-1, 1):
            tip = QPointF(x + way * 7, y)
            p.drawPolygon(QPolygonF([tip, tip - QPointF(way * 5, 4), tip - QPointF(way * 5, -4)]))
        draw_text(p, QRectF(x + 18, 14, 50, 22), "drag", NOTE, theme.ink2)
        x += 88
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.ink, 2, Qt.PenStyle.DashLine))
        p.drawEllipse(QPointF(x, y), 10, 10)
        draw_text(p, QRectF(x + 18, 14, 50, 22), "click", NOTE, theme.ink2)

    def _paint_ticks(self, p: QPainter) -> None:
        """A tick under what was confirmed."""
        for tab, button in zip(Tab, self.tabs, strict=True):
            if tab in self.model.confirmed and not button.isChecked():
                at = button.geometry()
                s = self.look.scale
                spot = QPointF(at.right() / s - 2, at.top() / s + 2)
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(self.look.theme.paper)
                p.drawEllipse(spot, 8, 8)
                paint_tick(p, spot, 11, self.look.theme.ink)

    def _paint_said(self, p: QPainter) -> None:
        """One sentence at the foot: what cannot be, or what is good."""
        theme, model = self.look.theme, self.model
        if self._problem_high:
            self._paint_problem(p)
            return
        s = self.look.scale
        left = self.all_figures.geometry().right() / s + 14
        ends = [b for b in (self.even, self.orders) if not b.isHidden()]
        right = min((b.geometry().left() / s for b in ends), default=10.0) - 10
        right = right if right > left else self.logical_width - 16
        box = QRectF(left, self.logical_height - BUTTONS + 6, right - left, 26)
        if self._desk.session.state.locked:
            words, fine = "Locked for the class: turn and look.", True
        elif model.problem:
            words, fine = model.problem, False
        elif model.clash is not None:
            words, fine = "Watch and Stops keep the last good engine.", False
        else:
            words, fine = self._good_words()
        if not words or box.width() < 60:
            return
        if fine:
            paint_tick(p, QPointF(box.left() + 8, box.center().y()), 14, theme.ink)
        else:
            mark = QRectF(box.left(), box.top() + 4, 18, 18)
            paint_problem_mark(p, mark, theme.ink, theme.on_ink)
        weight = Weight.BODY if fine else Weight.LABEL
        ways = (words, words.partition(": ")[0] + "." if ": " in words else words)
        if not self.even.isHidden():
            ways = (words, words.partition(": ")[2].capitalize())
        draw_one_of(p, box.adjusted(26, 0, 0, 0), ways, NOTE + 1, theme.ink, weight)

    @property
    def _problem(self) -> str:
        """What cannot be, unless nobody may change anything anyway."""
        return "" if self._desk.session.state.locked else self.model.problem

    @property
    def _said_room(self) -> float:
        """How wide a sentence may be beside the buttons."""
        buttons = 2 * (150.0 if self.full else 80.0) + 74 + 110 + 4 * 6
        return self.logical_width - LEFT - buttons - 226 - 60

    def _paint_problem(self, p: QPainter) -> None:
        """A sentence that is too long for the foot, on lines of its own."""
        theme = self.look.theme
        top = self.logical_height - BUTTONS - self._problem_high - 2
        paint_problem_mark(p, QRectF(LEFT, top + 2, 18, 18), theme.ink, theme.on_ink)
        box = QRectF(LEFT + 28, top, self.logical_width - 2 * LEFT - 28, self._problem_high)
        draw_paragraph(p, box, self._problem, NOTE + 1, theme.ink, Weight.LABEL)

    def _good_words(self) -> tuple[str, bool]:
        """What is worth saying of the engine as it is set, in one sentence; whether it is fine."""
        engine = self.model.settled
        if engine is not self._judged[0]:
            self._judged = (engine, *_judged(engine, self._desk.session.state.rig))
        return self._judged[1:]


def _judged(engine: Engine, rig: Rig) -> tuple[str, bool]:
    found = findings(engine, rig)
    if is_very_uneven(engine):
        uneven = next(f for f in found if f.field == "firing_order" and f.severity is Severity.LOOK)
        return uneven.sentence, False
    if engine.fires_evenly:
        every = f"{engine.intervals_deg[0]:.4g}°"
        return f"{engine.order_text} is possible: one firing every {every}.", True
    return (found[0].sentence if found else f"{engine.order_text} is possible."), True
