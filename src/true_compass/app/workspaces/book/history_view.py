"""One item's history: what it does, when it is due, its siblings, and what the change points to."""

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.book.model import BookModel
from true_compass.book.meaning import (
    Due,
    bound_words,
    due_of,
    due_words,
    head_words,
    look_next,
    reasons,
)
from true_compass.book.pointing import Pointing, kind_of
from true_compass.book.trend import Entry, Point
from true_compass.core.items import Item
from true_compass.core.words import capital
from true_compass.drawing.codes import flat_pen, paint_cross, paint_tick, round_pen
from true_compass.drawing.history_chart import HistoryChart, Past, paint_changes
from true_compass.drawing.text import draw_one_of, draw_paragraph, draw_text, paragraph_height
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

if TYPE_CHECKING:
    from true_compass.drawing.documents import Document

TOP: Final = 68.0


class HistoryView(Painted):
    """Chart above, changes and reasons below."""

    def __init__(self, look: Look, model: BookModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("book_history")
        self.setAccessibleName("History of one item")
        self.diary = DrawnButton(look, "Note it as still to do", self)
        self.diary.setObjectName("diary")
        self.diary.clicked.connect(self._put_in_diary)
        model.changed.connect(self._show)
        look.changed.connect(self._arrange)

    # What is shown ----------------------------------------------------------------------------

    def told(self) -> tuple[Item, list[Entry], int, Point, Pointing | None] | None:
        """The item, all jobs, which of them is looked at, the item's change, what it points to."""
        model = self._model
        job, item = model.job, model.history_item
        if job is None or item is None:
            return None
        entries = model.entries()
        nth = next((n for n, one in enumerate(entries) if one.name == job.id), None)
        if nth is None:
            return None
        points = model.changes(job)
        if item not in points:
            return None
        return item, entries, nth, points[item], model.points_to(job, points).get(item)

    def due(self) -> Due | None:
        """When the item that is shown is due."""
        told, job = self.told(), self._model.job
        if told is None or job is None:
            return None
        item, entries, nth, point, _ = told
        return due_of(entries, nth, point, job.band_mm(item))

    def _put_in_diary(self) -> None:
        told, due = self.told(), self.due()
        if told is not None and due is not None:
            self._model.put_in_diary(told[0], due)

    def _show(self) -> None:
        due, told = self.due(), self.told()
        self.diary.setVisible(due is not None)
        if due is not None and told is not None:
            unit = "km" if self._model.by_distance else "h"
            day = f" or {due.on_day.isoformat()}, whichever is first" if due.on_day else ""
            self.diary.set_words(
                f"Note {told[0].name} as still to do", f"{due.at_clock:,.0f} {unit}{day}"
            )
        self._arrange()

    def showEvent(self, event: QShowEvent | None) -> None:
        """What was picked while another page was shown is shown now."""
        super().showEvent(event)
        self._show()

    # Placing ----------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    @property
    def _split(self) -> tuple[QRectF, QRectF, QRectF]:
        """Boxes of chart, changes and reasons."""
        wide, high = self.logical_width, self.logical_height
        low = high < 560
        chart_high = high - TOP - (176 if low else 310)
        chart = QRectF(0, TOP, wide - 1, max(chart_high, 150))
        y = chart.bottom() + 8
        left = QRectF(0, y, wide * 0.52, high - y)
        return chart, left, QRectF(left.right() + 24, y, wide - left.right() - 24, high - y)

    def _arrange(self) -> None:
        box = self._split[2]
        put = self.look.scaled
        self.diary.setGeometry(put(box.left(), self.logical_height - 58, box.width(), 56))
        self.update()

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Sentence, chart, dots, reasons."""
        theme, wide, told = self.look.theme, self.logical_width, self.told()
        model = self._model
        if told is None:
            words = "Nothing measured yet" if model.job is None else "Not measured in this job"
            if model.history_item is not None and model.job is not None:
                words = f"{model.history_item.name} was not measured in this job"
            draw_text(p, QRectF(0, 0, wide, 38), words, HEAD, theme.ink, Weight.STRONG)
            row = QRectF(0, 42, wide, 24)
            draw_text(p, row, "A history begins with the second job.", LABEL, theme.ink2)
            return
        item, entries, nth, point, pointing = told
        head = head_words(point, pointing, model.by_distance, model.unit)
        draw_text(p, QRectF(0, 0, wide, 38), head, HEAD, theme.ink, Weight.STRONG)
        due = self.due()
        line = due_words(due, model.by_distance, point.seen.stays, model.unit)
        draw_text(p, QRectF(0, 38, wide, 24), line, LABEL, theme.ink2)
        chart, left, right = self._split
        HistoryChart(self._past(item, entries[: nth + 1], due), chart, theme).paint(p)
        self._paint_dots(p, left, point, pointing)
        self._paint_reasons(p, right, point, pointing)

    def _past(self, item: Item, own: list[Entry], due: Due | None) -> Past:
        """What the chart shows."""
        model, job = self._model, self._model.job
        assert job is not None
        target = job.target(item)
        kin = [one for one in model.items if one != item and kind_of(one) == kind_of(item)]
        aim = target.target_mm if target is not None else None
        band = job.band_mm(item)
        return Past(own, item, kin, band, aim, due, model.by_distance, model.unit)

    def document(self) -> "Document | None":
        """The history on paper; None where nothing is shown."""
        from true_compass.drawing.book_sheets import history_sheet  # a look needs no paper

        told, model, due = self.told(), self._model, self.due()
        job = model.job
        if told is None or job is None:
            return None
        item, entries, nth, point, pointing = told
        sentences = (
            head_words(point, pointing, model.by_distance, model.unit),
            due_words(due, model.by_distance, point.seen.stays, model.unit),
        )
        changes = {one: p.change for one, p in model.changes(job).items() if p.change is not None}
        past = self._past(item, entries[: nth + 1], due)
        bound = pointing.bound if pointing is not None else None
        title = model.book_engine.title
        return history_sheet(title, sentences, past, changes, bound, reasons(pointing, point))

    def _paint_dots(self, p: QPainter, box: QRectF, point: Point, told: Pointing | None) -> None:
        theme, model = self.look.theme, self._model
        job = model.job
        assert job is not None
        points = model.changes(job)
        changes = {item: one.change for item, one in points.items() if one.change is not None}
        head = f"Change since last left, all {len(changes)}" if changes else "No change known yet"
        draw_text(
            p, QRectF(box.left(), box.top(), box.width(), 26), head, LEAD, theme.ink, Weight.STRONG
        )
        two = point.since is not None and (
            point.since.person.casefold() != job.person.name.casefold()
        )
        # In a low window the dots are worth more than the words about them.
        low = box.height() < 220
        code = "Round and hollow: intake. Square and solid: exhaust."
        lines = [] if low else [*bound_words(told, two, model.unit), code]
        foot = 22.0 * len(lines)
        dots = QRectF(box.left(), box.top() + 30, box.width(), box.height() - 34 - foot)
        if dots.height() > 90:
            paint_changes(p, dots, changes, point.item, told.bound if told else None, theme)
        y = dots.bottom() + 4 if dots.height() > 90 else dots.top()
        for line in lines:
            row = QRectF(box.left(), y, box.width(), 22)
            draw_one_of(p, row, (line, line.partition(". ")[0] + "."), NOTE, theme.ink2)
            y += 22

    def _paint_reasons(self, p: QPainter, box: QRectF, point: Point, told: Pointing | None) -> None:
        theme = self.look.theme
        head = QRectF(box.left(), box.top(), box.width(), 26)
        draw_text(p, head, "What it points to, and why", LEAD, theme.ink, Weight.STRONG)
        # Where there is little room the reasons that hold come first.
        y, found = box.top() + 34, reasons(told, point)
        if box.height() < 220:
            found = sorted(found, key=lambda one: not one.holds)
        room = box.bottom() - 66
        for reason in found:
            if y + 34 > room:
                break
            at = QPointF(box.left() + 10, y + 15)
            if reason.holds:
                paint_tick(p, at, 18, theme.ink)
            else:
                paint_cross(p, at, 5, round_pen(theme.ink3, 2.0))
            row = QRectF(box.left() + 30, y, box.width() - 30, 30)
            weight = Weight.STRONG if reason.holds else Weight.BODY
            short = reason.words.partition("? Then ")[2]
            short = capital(short)
            colour = theme.ink if reason.holds else theme.ink2
            draw_one_of(p, row, (reason.words, short), BODY, colour, weight)
            p.setPen(flat_pen(theme.hair, 1.2))
            p.drawLine(QPointF(box.left(), y + 33), QPointF(box.right(), y + 33))
            y += 37
        rest = QRectF(box.left(), y + 2, box.width(), max(room - y, 0))
        words = look_next(told, point) if point.change is not None else ""
        if paragraph_height(words, BODY, rest.width()) <= rest.height():
            draw_paragraph(p, rest, words, BODY, theme.ink)
