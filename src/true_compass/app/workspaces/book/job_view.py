"""One job: the result in one sentence, the chart along the heads, and what to do at each item."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.book.model import BookModel
from true_compass.book.job import Job
from true_compass.book.pointing import Pointing
from true_compass.book.work import (
    FOUND,
    headline,
    is_found,
    second_line,
    to_set,
    totals,
    what_to_do,
)
from true_compass.core.items import Item
from true_compass.core.units import change_in, gap_in
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.found_left import paint_key
from true_compass.drawing.job_chart import JobChart, paint_item
from true_compass.drawing.text import (
    draw_one_of,
    draw_paragraph,
    draw_paragraph_that_fits,
    draw_text,
    paragraph_height,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

TOP: Final = 68.0
FOOT: Final = 132.0
LOW_FOOT: Final = 112.0

TOTALS: Final = 236.0
"""How wide the totals stand beside the cards."""


class JobView(Painted):
    """Paints the job; a press picks a reading."""

    history_wanted = pyqtSignal()

    def __init__(self, look: Look, model: BookModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("book_job")
        self.setAccessibleName("Items as found and as left")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.note = QLineEdit(self)
        self.note.setObjectName("item_note")
        self.note.setAccessibleName("Note on this item")
        self.note.setMaxLength(200)
        self.note.editingFinished.connect(self._note_done)
        self.stripe = TabButton(look, "Torqued, striped", self)
        self.stripe.setObjectName("item_stripe")
        self.stripe.clicked.connect(self._toggle_stripe)
        model.changed.connect(self._show)
        look.changed.connect(self._show)
        self._show()

    # One item beside its readings ------------------------------------------------------------

    @property
    def _item(self) -> Item | None:
        """The item in hand: the one that was picked, or the one that is asked for."""
        asked = self._model.asked
        return asked.item if asked is not None else self._model.item

    def _show(self) -> None:
        job, item = self._model.job, self._item
        shown = job is not None and item is not None and self.foot > 90
        self.note.setVisible(shown)
        self.stripe.setVisible(shown)
        if job is not None and item is not None and shown:
            record = job.record(item)
            if not self.note.hasFocus() and self.note.text() != record.note:
                self.note.setText(record.note)
            words = f"Note on {item.name}"
            if self.note.placeholderText() != words:
                self.note.setPlaceholderText(words)
            self.stripe.setEnabled(record.was_set)
            if self.stripe.isChecked() != record.stripe:
                self.stripe.setChecked(record.stripe)
                self.stripe.repaint_all()
        self._arrange()
        self.update()

    def _note_done(self) -> None:
        job, item = self._model.job, self._item
        if job is not None and item is not None and self.note.text() != job.record(item).note:
            self._model.change_item(item, f"note on {item.name}", note=self.note.text().strip())

    def _toggle_stripe(self) -> None:
        """The nut was tightened to its torque, and a stripe drawn across it."""
        job, item = self._model.job, self._item
        if job is None or item is None:
            return
        striped = not job.record(item).stripe
        torque = self._model.engine.train.torque_nm if striped else 0.0
        words = f"stripe of {item.name}"
        self._model.change_item(item, words, stripe=striped, torque_nm=torque)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put the two controls in their place."""
        super().resizeEvent(event)
        self._show()

    def _arrange(self) -> None:
        put, y = self.look.scaled, self.logical_height - 38
        wide = self.logical_width - (250 if self.logical_width > 560 else 0)
        style = field_style(self.look.theme, self.look.scale, wrong=False)
        if self.note.styleSheet() != style:
            self.note.setStyleSheet(style)
        for view, box in (
            (self.note, put(0, y, max(wide - 170, 100), 34)),
            (self.stripe, put(max(wide - 162, 108), y, 150, 34)),
        ):
            if view.geometry() != box:
                view.setGeometry(box)

    @property
    def foot(self) -> float:
        """Height of the cards below the chart."""
        return FOOT if self.logical_height > 520 else LOW_FOOT

    def chart(self, job: Job) -> JobChart:
        """The chart in the room that there is."""
        high = self.logical_height - TOP - self.foot - 8
        box = QRectF(0, TOP, self.logical_width - 1, max(high, 120.0))
        return JobChart(self._model.engine, job, box, self.look.theme)

    def paint(self, p: QPainter) -> None:
        """Headline, chart, cards."""
        theme, width, model = self.look.theme, self.logical_width, self._model
        job = model.job
        if job is None:
            self._paint_empty(p)
            return
        items = model.items
        head = headline(job, items)
        draw_text(p, QRectF(0, 0, width, 38), head, HEAD, theme.ink, Weight.STRONG)
        draw_text(p, QRectF(0, 38, width, 24), second_line(job, items), LABEL, theme.ink2)
        asked = model.asked
        self.chart(job).paint(p, asked, model.picked.item if model.picked else None)
        self._paint_cards(p, job)

    def _paint_empty(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        words = "No job on this engine yet" if not self._model.lines else "No job is open"
        draw_text(p, QRectF(0, 0, width, 38), words, HEAD, theme.ink, Weight.STRONG)
        told = (
            "Begin one, or work through Stops, Do it: its ticks and readings land here as they are "
            "made. A check that changed nothing is a full record too."
        )
        if self._model.keeper.refusal:
            told = self._model.keeper.refusal
            if self._model.keeper.copy is not None:
                told = f"{told} More, Books, tables puts it in its place."
        draw_paragraph_that_fits(p, QRectF(0, 44, min(width, 760), 80), told, LABEL, theme.ink2)

    # The cards below --------------------------------------------------------------------------

    def cards(self, job: Job) -> list[tuple[Item, list[str]]]:
        """What is told of single items: while they are set, what to do; then what it points to."""
        model = self._model
        asked = model.asked
        shift = model.keeper.nut_shift_mm(model.book_engine.id, job.person)
        if asked is not None and is_found(job, asked.item):
            first = [asked.item, *(item for item in to_set(job, model.items) if item != asked.item)]
            return [(item, what_to_do(model.setting(item), job, shift)) for item in first]
        if asked is not None and asked.which == FOUND:
            return []
        points = model.changes(job)
        told = model.points_to(job, points)
        pointing = [item for item in model.items if item in told and told[item].causes]
        rest = [item for item in to_set(job, model.items) if item not in pointing]
        return [(item, self._meaning(told.get(item))) for item in (*pointing, *rest)]

    def _meaning(self, told: Pointing | None) -> list[str]:
        if told is None:
            return ["Set. No job before it to compare with."]
        unit = self._model.unit
        words = f"{change_in(told.change.middle, unit)} since last left"
        if not told.causes:
            if told.bound is None:
                return [words, "Four of a kind or fewer: no claim about one."]
            return [words, f"Within {gap_in(told.bound.mm, unit)} of its siblings: watch it."]
        causes = " or ".join(cause.words for cause in told.causes)
        return [f"Points to {causes}.", words]

    def _paint_cards(self, p: QPainter, job: Job) -> None:
        theme, top = self.look.theme, self.logical_height - self.foot
        cards = self.cards(job)
        count, px, room = self.fitting(cards)
        each = room / count
        for nth, (item, lines) in enumerate(cards[:count]):
            left = nth * each
            if nth:
                p.setPen(flat_pen(theme.hair, 1.4))
                p.drawLine(QPointF(left - 8, top + 4), QPointF(left - 8, top + self.foot - 44))
            paint_item(p, QRectF(left, top + 4, 50, 42), item, theme)
            box = QRectF(left + 60, top + 2, each - 76, self.foot - 42)
            y = box.top()
            for place, line in enumerate(lines):
                high = paragraph_height(line, px, box.width())
                part = QRectF(box.left(), y, box.width(), high + 2)
                draw_paragraph(p, part, line, px, theme.ink if not place else theme.ink2)
                y += high + 1
        if not cards and self._model.asked is not None:
            words = "Measure them all before one nut is slackened. Enter goes to the next."
            draw_one_of(p, QRectF(0, top + 4, room, 24), (words,), LABEL, theme.ink2)
        if room < self.logical_width:
            box = QRectF(self.logical_width - TOTALS, top + 4, TOTALS, self.foot - 8)
            self._paint_totals(p, job, box)

    def fitting(self, cards: list[tuple[Item, list[str]]]) -> tuple[int, float, float]:
        """How many cards, in which size of print, and in how much of the width, so that every line
        of each is read whole: a direction without its side would be worse than a card less, and
        the totals give way to the last card.
        """
        high = self.foot - 40
        room = self.logical_width - TOTALS - 14
        for count in range(max(min(len(cards), int(room // 230)), 1), 0, -1):
            wide = room / count - 76
            for px in (LABEL, BODY, NOTE):
                need = [
                    sum(paragraph_height(line, px, wide) + 1 for line in lines)
                    for _, lines in cards[:count]
                ]
                if max(need, default=0.0) <= high:
                    return count, px, room
        return 1, NOTE, self.logical_width

    def _paint_totals(self, p: QPainter, job: Job, box: QRectF) -> None:
        theme, told = self.look.theme, totals(job, self._model.items)
        lines = [f"{told.in_band} of {told.of} in band"]
        if told.measured < told.of:
            lines = [f"{told.in_band} in band so far"]
        for name, end in (("Tightest", told.tightest), ("Widest", told.widest)):
            if end is not None:
                off = change_in(end[1], job.unit)
                words = "at its target" if abs(end[1]) < 0.005 else f"{off} from target"
                lines.append(f"{name} {end[0].name}, {words}")
        if told.spread_mm is not None:
            lines[0] += f", spread {gap_in(told.spread_mm, job.unit)}"
        for nth, line in enumerate(lines if self.foot > 90 else lines[:1]):
            weight = Weight.STRONG if nth == 0 else Weight.BODY
            row = QRectF(box.left(), box.top() + 22 * nth, box.width(), 22)
            draw_text(p, row, line, BODY if nth == 0 else NOTE, theme.ink, weight)
        if self.logical_width > 560:
            paint_key(p, QRectF(box.left(), box.bottom() - 26, box.width(), 24), theme)

    def paint_focus(self, p: QPainter) -> None:
        """The ring about the chart: that is what the keys are for."""
        high = max(self.logical_height - TOP - self.foot - 8, 120.0)
        box = QRectF(0, TOP, self.logical_width - 1, high).adjusted(1.5, 1.5, -1.5, -1.5)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(self.look.theme.now, 3))
        p.drawRoundedRect(box, 6, 6)

    # Pressing ---------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Ask for the reading under the pointer."""
        job = self._model.job
        if event is None or job is None:
            return
        found = self.chart(job).at(event.position() / self.look.scale)
        if found is not None:
            self._model.pick(*found)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Show the history of the item under the pointer."""
        self.mousePressEvent(event)
        if self._model.item is not None:
            self.history_wanted.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and Right along the head, Up and Down to another reading."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        turns = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event is None:
            return
        if event.key() in steps:
            self._model.step(steps[Qt.Key(event.key())])
        elif event.key() in turns:
            self._model.other_reading(turns[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._model.clear()
        else:
            event.ignore()
