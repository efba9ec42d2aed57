"""The jobs of the open engine, the newest first."""

from typing import Final

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.book.model import BookModel
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import RIGHT, draw_text
from true_compass.drawing.theme import BODY, LABEL, Weight
from true_compass.files.book_file import Line

ROW: Final = 58.0
MONTHS: Final = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def day_words(job: Line) -> str:
    """`12 Nov 2026`: no order of day and month to guess."""
    return f"{job.day.day} {MONTHS[job.day.month - 1]} {job.day.year}"


def set_words(was_set: int, of: int) -> str:
    """How many items were set: `3 set`, `none set`, `all 12 set`."""
    if not of:
        return "nothing measured"
    if not was_set:
        return "none set"
    return f"all {of} set" if was_set == of and of > 1 else f"{was_set} set"


class LinesView(Painted):
    """One row a job; one press opens it."""

    picked = pyqtSignal(str)

    def __init__(self, look: Look, model: BookModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._first = 0
        self.setObjectName("book_lines")
        self.setAccessibleName("Jobs")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        model.changed.connect(self.update)

    def jobs(self) -> list[Line]:
        """The jobs, the newest first."""
        return self._model.lines

    def _counts(self, lines: list[Line]) -> dict[str, tuple[int, int]]:
        """How many items were set of how many, of the jobs that are in sight."""
        counts = self._model.keeper.counts([line.id for line in lines])
        own = self._model.job
        if own is not None and own.id in counts:
            records = own.items.values()
            counts[own.id] = (sum(record.was_set for record in records), len(own.items))
        return counts

    @property
    def _room(self) -> int:
        return max(int(self.logical_height // ROW), 1)

    def paint(self, p: QPainter) -> None:
        """Draw the rows that fit."""
        jobs, own = self.jobs(), self._model.job
        self._first = max(min(self._first, len(jobs) - self._room), 0)
        shown = jobs[self._first : self._first + self._room]
        counts = self._counts(shown)
        for nth, job in enumerate(shown):
            box = QRectF(0, nth * ROW, self.logical_width, ROW)
            chosen = own is not None and job.id == own.id
            self._paint_row(p, box, job, set_words(*counts[job.id]), chosen=chosen)

    def _paint_row(
        self, p: QPainter, box: QRectF, job: Line, counted: str, *, chosen: bool
    ) -> None:
        theme = self.look.theme
        if chosen:
            p.fillRect(box.adjusted(0, 0, 0, -1), theme.now_tint)
            p.fillRect(QRectF(box.left(), box.top(), 4, box.height() - 1), theme.now)
        inner = box.adjusted(12, 5, -8, 0)
        first = QRectF(inner.left(), inner.top(), inner.width(), 26)
        draw_text(p, first, day_words(job), LABEL, theme.ink, Weight.STRONG)
        draw_text(p, first, job.clock_words, LABEL, theme.ink, Weight.STRONG, RIGHT)
        second = first.translated(0, 25)
        wide = second.adjusted(0, 0, -100, 0)
        draw_text(p, wide, job.person or "nobody named", BODY, theme.ink2)
        draw_text(p, second, counted, BODY, theme.ink2, Weight.BODY, RIGHT)
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawLine(box.bottomLeft(), box.bottomRight())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Open the job under the pointer."""
        if event is None:
            return
        nth = self._first + int(event.position().y() / self.look.scale // ROW)
        jobs = self.jobs()
        if 0 <= nth < len(jobs):
            self.picked.emit(jobs[nth].id)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel goes through older jobs."""
        if event is not None and event.angleDelta().y():
            self._first += 1 if event.angleDelta().y() < 0 else -1
            self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down open the job before and after."""
        jobs, own = self.jobs(), self._model.job
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event is None:
            return
        if event.key() not in steps or not jobs:
            event.ignore()
            return
        at = next((n for n, job in enumerate(jobs) if own is not None and job.id == own.id), -1)
        at = min(max(at + steps[Qt.Key(event.key())], 0), len(jobs) - 1)
        if not self._first <= at < self._first + self._room:
            self._first = at
        self.picked.emit(jobs[at].id)
