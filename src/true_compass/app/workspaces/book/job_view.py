"""One job: the result in one sentence, the chart along the heads, and what to do at each item."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

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
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.job_chart import JobChart, paint_item, paint_key
from true_compass.drawing.text import draw_one_of, draw_paragraph_that_fits, draw_text, text_width
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

TOP: Final = 68.0
FOOT: Final = 116.0


class JobView(Painted):
    """Paints the job; a press picks a reading."""

    history_wanted = pyqtSignal()

    def __init__(self, look: Look, model: BookModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("book_job")
        self.setAccessibleName("Items as found and as left")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        model.changed.connect(self.update)

    @property
    def foot(self) -> float:
        """Height of the cards below the chart."""
        return FOOT if self.logical_height > 520 else 70.0

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
        words = f"{told.change.middle:+.2f} mm since last left".replace("-", "−")
        if not told.causes:
            if told.bound is None:
                return [words, "Four of a kind or fewer: no claim about one."]
            return [words, f"Within {told.bound.mm:.2f} of its siblings: watch it."]
        causes = " or ".join(cause.words for cause in told.causes)
        return [f"Points to {causes}.", words]

    def _paint_cards(self, p: QPainter, job: Job) -> None:
        theme, top = self.look.theme, self.logical_height - self.foot
        cards = self.cards(job)
        room = self.logical_width - 250
        count = max(min(len(cards), int(room // 230)), 1)
        each = room / count
        for nth, (item, lines) in enumerate(cards[:count]):
            left = nth * each
            if nth:
                p.setPen(flat_pen(theme.hair, 1.4))
                p.drawLine(QPointF(left - 8, top + 4), QPointF(left - 8, top + self.foot - 8))
            paint_item(p, QRectF(left, top + 4, 50, 42), item, theme)
            box = QRectF(left + 60, top + 2, each - 76, self.foot - 6)
            y = 0.0
            for place, line in enumerate(lines[:3]):
                px = LABEL if place == 0 else BODY
                wraps = text_width(line, px) > box.width()
                high = 44.0 if place == 0 and wraps else 24.0
                part = QRectF(box.left(), box.top() + y, box.width(), high)
                draw_paragraph_that_fits(p, part, line, px, theme.ink if not place else theme.ink2)
                y += high
        if not cards and self._model.asked is not None:
            words = "Measure them all before one nut is slackened. Enter goes to the next."
            draw_one_of(p, QRectF(0, top + 4, room, 24), (words,), LABEL, theme.ink2)
        self._paint_totals(p, job, QRectF(self.logical_width - 236, top + 4, 236, self.foot - 8))

    def _paint_totals(self, p: QPainter, job: Job, box: QRectF) -> None:
        theme, told = self.look.theme, totals(job, self._model.items)
        lines = [f"{told.in_band} of {told.of} in band as left"]
        if told.measured < told.of:
            lines = [f"{told.in_band} in band so far"]
        for name, end in (("Tightest", told.tightest), ("Widest", told.widest)):
            if end is not None:
                off = f"{end[1]:+.2f}".replace("-", "−")
                words = "at its target" if abs(end[1]) < 0.005 else f"{off} from target"
                lines.append(f"{name} {end[0].name}, {words}")
        for nth, line in enumerate(lines if self.foot > 90 else lines[:1]):
            weight = Weight.STRONG if nth == 0 else Weight.BODY
            row = QRectF(box.left(), box.top() + 22 * nth, box.width(), 22)
            draw_text(p, row, line, BODY if nth == 0 else NOTE, theme.ink, weight)
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
