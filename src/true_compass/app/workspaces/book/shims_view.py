"""Shims: measure all, then the plan; swaps first, fewest to buy; and a list to walk along with."""

from functools import partial
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.book.model import BookModel
from true_compass.app.workspaces.book.shims import SHIM, ShimsModel
from true_compass.core.adjusting.shims import walk
from true_compass.core.limits import EngineError
from true_compass.drawing.job_chart import MOST_A_ROW, rows_of
from true_compass.drawing.shim_chart import ShimChart
from true_compass.drawing.text import draw_one_of, draw_paragraph_that_fits, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

if TYPE_CHECKING:
    from true_compass.drawing.documents import Document

TOP: Final = 68.0
FOOT: Final = 126.0
PAPER_ROW: Final = 12
STEPS: Final = (
    "Measure all gaps, caps still tight.",
    "Pistons half-way, marks noted.",
    "Cams out once; measure the shims too: they wear.",
    "Cams in, timed, two turns by hand.",
    "Measure all again.",
)
"""Common practice, no source."""


class ShimsView(Painted):
    """The plan along the head, what is bought, and what to carry where."""

    def __init__(self, look: Look, model: BookModel, shims: ShimsModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model, self._shims = model, shims
        self._wrong = ""
        self.setObjectName("book_shims")
        self.setAccessibleName("Shims")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.stock = self._field("shim_stock", "Sizes that can be bought: least:most:step, mm")
        self.drawer = self._field("shim_drawer", "Shims in the drawer, mm, spaces between")
        self.stock.editingFinished.connect(partial(self._typed, self.stock))
        self.drawer.editingFinished.connect(partial(self._typed, self.drawer))
        self.fit = DrawnButton(look, "Fitted: write the new shims down", self)
        self.fit.setObjectName("shims_fitted")
        self.fit.clicked.connect(shims.fitted)
        model.changed.connect(self._show)
        look.changed.connect(self._arrange)

    def _field(self, name: str, words: str) -> QLineEdit:
        field = QLineEdit(self)
        field.setObjectName(name)
        field.setAccessibleName(words)
        field.setToolTip(words)
        field.setMaxLength(2000)
        return field

    def _typed(self, field: QLineEdit) -> None:
        try:
            if field is self.stock:
                self._shims.put_stock(field.text())
            else:
                self._shims.put_drawer(field.text())
            self._wrong = ""
        except EngineError as error:
            self._wrong = f"{error.in_words}."
        self._show()

    def _show(self) -> None:
        for field, text in (
            (self.stock, self._shims.stock_text),
            (self.drawer, self._shims.drawer_text),
        ):
            if not field.hasFocus() and not self._wrong and field.text() != text:
                field.setText(text)
                field.setCursorPosition(0)
        plan = self._shims.plan
        self.fit.setEnabled(plan is not None and plan.touched > 0 and not plan.impossible)
        self._arrange()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        style = field_style(self.look.theme, self.look.scale, wrong=bool(self._wrong))
        for part in (self.stock, self.drawer, self.fit):
            part.setVisible(self._shims.applies)
        y = high - 38
        self.stock.setGeometry(put(96, y, 170, 36))
        self.drawer.setGeometry(put(340, y, max(wide - 340 - 330, 120), 36))
        self.fit.setGeometry(put(wide - 310, y - 4, 310, 40))
        for field in (self.stock, self.drawer):
            if field.styleSheet() != style:
                field.setStyleSheet(style)
        self.update()

    @property
    def _chart_box(self) -> QRectF:
        return QRectF(0, TOP, self.logical_width - 1, self.logical_height - TOP - FOOT)

    def chart(self) -> ShimChart:
        """The chart in the room that there is."""
        shims = self._shims
        gaps, sizes = shims.gaps, shims.sizes
        box = self._chart_box
        rows = rows_of(self._model.engine, max(min(int((box.width() - 88) / 50), MOST_A_ROW), 4))
        return ShimChart(rows, gaps, sizes, shims.plan, box, self.look.theme)

    def document(self) -> "Document | None":
        """The plan on paper; None while something is still to be measured."""
        from true_compass.drawing.book_sheets import shim_sheet  # a look needs no paper

        shims, plan = self._shims, self._shims.plan
        if plan is None:
            return None
        rows = rows_of(self._model.engine, PAPER_ROW)
        title = self._model.book_engine.title
        return shim_sheet(title, shims.sentence(), rows, shims.gaps, shims.sizes, plan)

    def paint(self, p: QPainter) -> None:
        """Sentence, plan, walk."""
        theme, wide = self.look.theme, self.logical_width
        head, line = self._shims.sentence()
        draw_text(p, QRectF(0, 0, wide, 38), head, HEAD, theme.ink, Weight.STRONG)
        draw_one_of(p, QRectF(0, 38, wide, 24), (line,), LABEL, theme.ink2)
        if not self._shims.applies:
            return
        asked = self._model.asked
        due = asked.item if asked is not None and asked.which == SHIM else None
        self.chart().paint(p, due)
        y, plan = self._chart_box.bottom() + 8, self._shims.plan
        lines = [*walk(plan)] if plan is not None else list(STEPS)
        words = self._wrong or " ".join(lines)
        row = QRectF(0, y, wide - 8, FOOT - 54)
        colour = theme.ink if self._wrong or plan is not None else theme.ink2
        draw_paragraph_that_fits(p, row, words, BODY, colour)
        foot = self.logical_height - 38
        draw_text(p, QRectF(0, foot, 92, 36), "Shims sold", NOTE, theme.ink2)
        draw_text(p, QRectF(280, foot, 58, 36), "Drawer", NOTE, theme.ink2)

    def paint_focus(self, p: QPainter) -> None:
        """The ring about the chart: that is what the keys are for."""
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(self.look.theme.now, 3))
        p.drawRoundedRect(self._chart_box.adjusted(1.5, 1.5, -1.5, -1.5), 6, 6)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Ask for the shim of the column under the pointer."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if self._shims.applies and self._model.job is not None:
            item = self.chart().at(event.position() / self.look.scale)
            if item is not None:
                self._model.pick(item, SHIM)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and Right along the head."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event is not None and event.key() in steps and self._shims.applies:
            self._model.step(steps[Qt.Key(event.key())])
        elif event is not None:
            event.ignore()
