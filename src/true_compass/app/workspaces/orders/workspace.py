"""Orders: every firing order that this crank allows, and how they differ."""

from dataclasses import replace
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.desk import Desk
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspace import Workspace
from true_compass.app.workspaces.orders.table_view import OrderTableView
from true_compass.core.changes import with_order
from true_compass.core.crank.listing import OrderListing, OrderRow, Shown
from true_compass.core.crank.orders import Verdict
from true_compass.core.engine import Engine
from true_compass.core.ignition.leads import backwards_words
from true_compass.core.limits import EngineError
from true_compass.core.spark import NO_SPARK
from true_compass.core.state import Rig, engine_state
from true_compass.drawing.codes import flat_pen, paint_problem_mark, rounded
from true_compass.drawing.orders import paint_across
from true_compass.drawing.ring import Card, free_arcs, paint_frame, sense_of
from true_compass.drawing.text import (
    CENTRE,
    draw_one_of,
    draw_paragraph,
    draw_paragraph_that_fits,
    draw_text,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, READOUT, Weight

SIDE: Final = 420.0
NARROW_SIDE: Final = 340.0
TEST_HEIGHT: Final = 150.0


class ChosenOrder(Painted):
    """The chosen order: spelt large, on the ring, across the engine, and backwards."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._rig: Rig | None = None
        self._row: OrderRow | None = None
        self._model: OrderListing | None = None
        self.setObjectName("chosen_order")
        self.setAccessibleName("The chosen order")

    def show_row(self, engine: Engine, model: OrderListing, row: OrderRow | None) -> None:
        """Show a row of the model, or nothing."""
        self._model, self._row = model, row
        self._rig = None
        if row is not None:
            # What the crank allows is shown even where the coils of this engine could not follow.
            plain = replace(engine, layout=model.layout, spark=NO_SPARK)
            self._rig = Rig.of(with_order(plain, row.groups))
        self.update()

    def paint(self, p: QPainter) -> None:
        """Draw from top to foot."""
        theme, width, row = self.look.theme, self.logical_width, self._row
        if row is None or self._model is None:
            return
        title = QRectF(0, 4, width, 44)
        draw_text(p, title, row.text, READOUT, theme.ink, Weight.STRONG, CENTRE)
        below = 52.0
        if self._rig is not None:
            factor = 0.66 if self.logical_height > 620 else 0.44
            self._paint_ring(p, self._rig, factor, below)
            below += (2 * 215) * factor + 14
        back = self.logical_height - 112
        label = QRectF(0, below, width, 22)
        draw_text(p, label, "Across the engine", LABEL, theme.ink, Weight.STRONG)
        across = QRectF(0, below + 26, width, back - below - 34)
        if across.height() > 90:
            paint_across(p, across, row.order, row.offsets_deg, self._model.borders(), theme)
        if self._rig is not None:
            self._paint_backwards(p, QRectF(0, back, width, 110), self._rig)

    def _paint_ring(self, p: QPainter, rig: Rig, factor: float, top: float) -> None:
        theme, sense = self.look.theme, sense_of(rig.engine)
        p.save()
        p.translate(self.logical_width / 2, top + 218 * factor)
        p.scale(factor, factor)
        paint_frame(p, free_arcs(rig), theme, sense)
        Card(theme, self.stills, sense, rounded=not rig.plain).paint(p, rig, engine_state(rig, 0.0))
        p.restore()

    def _paint_backwards(self, p: QPainter, box: QRectF, rig: Rig) -> None:
        theme = self.look.theme
        head, body = backwards_words(rig)
        rounded(p, box, 4, theme.sheet, flat_pen(theme.ink, 2))
        mark = QRectF(box.left() + 14, box.top() + 14, 20, 20)
        paint_problem_mark(p, mark, theme.ink, theme.on_ink)
        words = QRectF(box.left() + 46, box.top() + 10, box.width() - 58, 26)
        heads = (head, head.removeprefix("Backwards it is "), "Backwards")
        draw_one_of(p, words, heads, LABEL, theme.ink, Weight.STRONG)
        body_box = QRectF(box.left() + 46, box.top() + 38, box.width() - 58, box.height() - 42)
        draw_paragraph_that_fits(p, body_box, body, NOTE + 1, theme.ink2)


class VerdictView(Painted):
    """What is said about the typed order."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.verdict: Verdict | None = None
        self.setObjectName("verdict")
        self.setAccessibleName("Whether the typed order is possible")

    def show_verdict(self, verdict: Verdict | None) -> None:
        """Show a verdict, or how to get one."""
        self.verdict = verdict
        words = f"{verdict.head} {verdict.body}" if verdict else ""
        self.setAccessibleName(words)
        self.update()

    def paint(self, p: QPainter) -> None:
        """Draw the mark, the head and the body."""
        theme, width, verdict = self.look.theme, self.logical_width, self.verdict
        p.fillRect(QRectF(0, 0, width, self.logical_height), theme.sheet)
        if verdict is None:
            hint = (
                "Type the beginning to see only orders that begin so; type all of one to test it."
            )
            draw_paragraph(p, QRectF(0, 8, width, 60), hint, BODY, theme.ink2)
            return
        if not verdict.good:
            paint_problem_mark(p, QRectF(0, 8, 22, 22), theme.ink, theme.on_ink)
        left = 0.0 if verdict.good else 36.0
        head = QRectF(left, 4, width - left, 30)
        draw_text(p, head, verdict.head, HEAD - 6, theme.ink, Weight.STRONG)
        body = QRectF(left, 36, width - left, 44)
        draw_paragraph(p, body, verdict.body, BODY, theme.ink2)


class OrdersWorkspace(Workspace):
    """The table at the left, the chosen order at the right, a field to test one."""

    wants_crank = False

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        look = desk.look
        self.setObjectName("orders")
        self.setAccessibleName("Orders")
        self._session = desk.session
        self.model = OrderListing(desk.session.state.engine.layout)
        self._stale = True
        self.table = OrderTableView(look, self)
        self.chosen = ChosenOrder(look, self)
        self.verdict = VerdictView(look, self)
        self.hand = DrawnButton(look, "Mirror image", self)
        self.uneven = DrawnButton(look, "Show uneven", self)
        self.use = DrawnButton(look, "Use this order", self)
        self.nearest = DrawnButton(look, "", self)
        self.nearest.hide()
        self.on_mirrored = DrawnButton(look, "", self)
        self.on_mirrored.setObjectName("on_mirrored")
        self.on_mirrored.hide()
        self.field = QLineEdit(self)
        self.field.setObjectName("order_field")
        self.field.setAccessibleName("Type an order to test it")
        self.field.setPlaceholderText("1-…")
        self.field.setMaxLength(80)
        self.table.picked.connect(self._on_picked)
        self.hand.clicked.connect(self._change_hand)
        self.uneven.clicked.connect(self._change_uneven)
        self.use.clicked.connect(self.use_order)
        self.nearest.clicked.connect(self._take_nearest)
        self.on_mirrored.clicked.connect(self._take_mirrored)
        self.field.textChanged.connect(self._on_typed)
        desk.bridge.engine_changed.connect(self._on_engine)
        look.changed.connect(self.arrange)

    def focus_first(self) -> QWidget:
        """The table."""
        return self.table

    def came_to_front(self) -> None:
        """Work out the orders only when someone looks."""
        if self._stale:
            self._stale = False
            self.model = OrderListing(self._session.state.engine.layout)
            self.field.clear()
            self.table.show_model(self.model, self._session.state.engine.firing_order)
            self._show_words()

    def _on_engine(self) -> None:
        self._stale = True
        if self.isVisible():
            self.came_to_front()

    def _show_words(self) -> None:
        other = "This crank" if self.model.mirrored else "Mirror image"
        self.hand.setText(other)
        self.hand.setVisible(self.model.has_hands)
        offered = self.model.shown_next()
        if offered is not None:
            counts = {
                Shown.EVEN: self.model.even_count,
                Shown.APART: len(self.model.table) - self.model.even_count,
                Shown.TOGETHER: len(self.model.table.together_deg),
            }
            self.uneven.setText(f"{offered.value}: {counts[offered]}")
        self.uneven.setVisible(offered is not None)
        self.arrange()

    def _change_hand(self) -> None:
        self.model.mirror()
        self.table.show_model(self.model)
        self._show_words()
        self._on_typed(self.field.text())

    def _change_uneven(self) -> None:
        self.model.shown = self.model.shown_next() or self.model.shown
        self.table.show_model(self.model, self.table.row.order if self.table.row else None)
        self._show_words()

    def _on_picked(self) -> None:
        self.chosen.show_row(self._session.state.engine, self.model, self.table.row)
        row = self.table.row
        own = not self.model.mirrored
        current = (
            own
            and row is not None
            and row.offsets_deg == tuple(self._session.state.engine.firing_offsets_deg.tolist())
        )
        self.use.setEnabled(row is not None and not current)
        usual = "Mirror the crank, use this order" if self.model.mirrored else "Use this order"
        self.use.setText("Current order" if current else usual)

    def _on_typed(self, text: str) -> None:
        text = text.strip().replace(" ", "-").replace(",", "-")
        verdict = self.model.verdict(text) if text else None
        self.verdict.show_verdict(verdict)
        keep = self.table.row.order if self.table.row else None
        self.model.begins = text if verdict is None else ""
        self.table.show_model(self.model, keep)
        nearest = verdict.nearest if verdict is not None else ()
        self.nearest.setVisible(bool(nearest))
        if nearest:
            self.nearest.set_words("Nearest here", "-".join(map(str, nearest[0])))
        mirrored = verdict.mirrored if verdict is not None else ()
        self.on_mirrored.setVisible(bool(mirrored))
        if mirrored:
            other = "this crank" if self.model.mirrored else "the mirrored crank"
            self.on_mirrored.set_words(f"On {other}", "-".join(map(str, mirrored)))
        self.arrange()

    def _take_nearest(self) -> None:
        verdict = self.verdict.verdict
        if verdict is not None and verdict.nearest:
            wanted = verdict.nearest[0]
            if not any(row.order == wanted for row in self.model.rows()):
                self.model.shown = Shown.APART
            self.field.clear()
            self.table.show_model(self.model, wanted)
            self._show_words()

    def _take_mirrored(self) -> None:
        """Look at the other hand of crank, with its nearest order chosen."""
        verdict = self.verdict.verdict
        if verdict is not None and verdict.mirrored:
            wanted = verdict.mirrored
            self.field.clear()
            self.model.mirror()
            if not any(row.order == wanted for row in self.model.rows()):
                self.model.shown = Shown.APART
            self.table.show_model(self.model, wanted)
            self._show_words()

    def use_order(self) -> None:
        """Let the engine fire in the chosen order, on the mirrored crank where that is shown."""
        row = self.table.row
        if row is None:
            return
        # The field would keep Ctrl+Z for its own letters; now it is the order that is undone.
        self.table.setFocus()
        late = tuple(offset >= 360.0 for offset in row.offsets_deg)
        try:
            if self.model.mirrored:
                engine = replace(self._session.state.engine, layout=self.model.layout, late=late)
                self._session.edit(engine, words=f"mirrored crank, {row.text}")
            else:
                self._session.edit_late(late)
        except EngineError as error:
            self.desk.say(f"{error.in_words}. The order stays as it was.")

    def arrange(self) -> None:
        """Put everything in its place."""
        width, height = self.logical_width, self.logical_height
        narrow = width < 1000
        side = SIDE if width >= 1200 else NARROW_SIDE
        left = width - 40 if narrow else width - side - 56
        put = self.look.scaled
        self.uneven.setGeometry(put(20 + left - 162, 12, 162, 36))
        hand = left - 120 if self.uneven.isHidden() else left - 292
        self.hand.setGeometry(put(20 + hand, 12, 120, 36))
        table_top = 92.0
        self.table.setGeometry(put(20, table_top, left, height - table_top - TEST_HEIGHT - 22))
        top = height - TEST_HEIGHT - 10
        self.field.setGeometry(put(36, top + 42, 250, 36))
        self.verdict.setGeometry(put(306, top + 12, left - 306, 84))
        offers = [b for b in (self.nearest, self.on_mirrored) if not b.isHidden()]
        wide = min((left - 306) / max(len(offers), 1) - 3, 400)
        for nth, button in enumerate(offers):
            button.setGeometry(put(306 + nth * (wide + 6), top + TEST_HEIGHT - 54, wide, 48))
        self.chosen.setVisible(not narrow)
        x = 20.0 + left + 20
        if narrow:
            self.use.setGeometry(put(36, top + TEST_HEIGHT - 50, 250, 38))
        else:
            self.chosen.setGeometry(put(x, 8, side - 4, height - 70))
            self.use.setGeometry(put(x, height - 54, side - 4, 44))
        self._style_field()
        self.update()

    def _style_field(self) -> None:
        theme, scale = self.look.theme, self.look.scale
        self.field.setStyleSheet(
            f"QLineEdit {{ background: {theme.sheet.name()}; color: {theme.ink.name()};"
            f" border: {round(2 * scale)}px solid {theme.line.name()}; border-radius: 4px;"
            f" padding: 0 8px; font: 600 {round(LABEL * scale)}px 'Compass Text'; }}"
            f"QLineEdit:focus {{ border-color: {theme.now.name()}; }}"
        )

    def paint(self, p: QPainter) -> None:
        """Draw the headline, the crank, and the ground of the test."""
        theme, height = self.look.theme, self.logical_height
        left = self.table.width() / self.look.scale
        shown = [b for b in (self.hand, self.uneven) if b.isVisibleTo(self)]
        ends = min((b.x() / self.look.scale for b in shown), default=20 + left)
        head = QRectF(20, 8, ends - 32, 44)
        draw_text(p, head, self.model.headline(), HEAD, theme.ink, Weight.STRONG)
        crank = QRectF(20, 56, left, 26)
        draw_one_of(p, crank, self.model.crank_words(), BODY, theme.ink2)
        top = height - TEST_HEIGHT - 10
        rounded(p, QRectF(20, top, left, TEST_HEIGHT), 6, theme.sheet, flat_pen(theme.hair, 1.4))
        label = QRectF(36, top + 12, 260, 24)
        draw_text(p, label, "Type an order to test it", NOTE + 1, theme.ink, Weight.LABEL)
        if self.logical_width >= 1000:
            hint = QRectF(36, top + 84, 260, 22)
            draw_text(p, hint, "Each cylinder once, starting with 1.", NOTE, theme.ink2)
