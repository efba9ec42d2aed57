"""The list of lessons, each with how this person stands with it."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Painted
from true_compass.app.widgets.stepping import up_or_down
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.app.workspaces.lessons.standing import paint_standing
from true_compass.drawing.text import RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight
from true_compass.lessons.mastery import Standing

HEAD: Final = 30.0
FOOT: Final = 30.0
MOST_ROW: Final = 35.0
LEAST_ROW: Final = 23.0


class LessonList(Painted):
    """A press opens a lesson; Up, Down and Return do too. The wheel scrolls where it is long."""

    chosen = pyqtSignal(int)

    def __init__(self, model: LessonModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self._model = model
        self._first = 0
        self._near = 0
        self.setObjectName("lesson_list")
        self.setAccessibleName("Lessons")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        model.changed.connect(self.update)
        model.standing_changed.connect(self.update)

    @property
    def row_count(self) -> int:
        """Lessons that were handed out, then those that ship."""
        return len(self._model.remembered.handed()) + len(self._model.lessons())

    @property
    def row_high(self) -> float:
        """Height of a row: all of them fit, if they can."""
        count = max(self.row_count, 1)
        room = (self.logical_height - HEAD - FOOT) / count
        return min(max(room, LEAST_ROW), MOST_ROW)

    @property
    def _visible(self) -> int:
        return max(1, int((self.logical_height - HEAD - FOOT) / self.row_high + 0.01))

    def row_box(self, row: int) -> QRectF:
        """Where a lesson stands."""
        top = HEAD + (row - self._first) * self.row_high
        return QRectF(0, top, self.logical_width, self.row_high)

    def paint(self, p: QPainter) -> None:
        """Head, rows, and what the signs mean."""
        theme, width = self.look.theme, self.logical_width
        lessons = self._model.lessons()
        standings = [self._model.standing(lesson) for lesson in lessons]
        draw_text(p, QRectF(0, 0, 90, 26), "Lessons", LABEL, theme.ink, Weight.STRONG)
        sound = sum(one in (Standing.SOUND, Standing.SECURE) for one in standings)
        practice = standings.count(Standing.PRACTICE)
        counts = QRectF(96, 0, width - 100, 26)
        draw_text(p, counts, f"{sound} sound, {practice} to practise", NOTE, theme.ink2)
        on, handed = self._model.on, self._model.remembered.handed()
        for row in range(self._first, min(self.row_count, self._first + self._visible)):
            if row < len(handed):
                one = handed[row]
                here = on is not None and on.lesson.id == one.lesson_id
                self._paint_row(p, row, one.title, self._model.handed_state(one), here)
                continue
            nth = row - len(handed)
            here = on is not None and on.lesson.id == lessons[nth].id
            self._paint_row(p, row, lessons[nth].title, standings[nth], here)
        self._paint_foot(p)

    def _paint_row(
        self, p: QPainter, row: int, title: str, standing: Standing | str, here: bool
    ) -> None:
        """A row with how one stands; one that was handed out says how far it is."""
        theme, box = self.look.theme, self.row_box(row)
        near = self._shows_focus and self.hasFocus() and row == self._near
        if here or near:
            p.fillRect(box.adjusted(0, 0, 0, -1), theme.now_tint)
        if here:
            p.fillRect(QRectF(box.left(), box.top(), 4, box.height() - 1), theme.now)
        p.fillRect(QRectF(8, box.bottom() - 1, box.width() - 8, 1.4), theme.hair)
        words = box.adjusted(42, 0, -4, 0)
        if isinstance(standing, Standing):
            paint_standing(p, QPointF(box.left() + 20, box.center().y()), 8.5, standing, theme)
        else:
            words = box.adjusted(10, 0, -4, 0)
            note = QRectF(words.right() - 90, box.top(), 90, box.height())
            draw_one_of(p, note, (standing,), NOTE, theme.ink2, Weight.BODY, RIGHT)
            words.setRight(note.left() - 4)
        weight = Weight.STRONG if here else Weight.BODY
        draw_one_of(p, words, (title,), BODY, theme.ink, weight) or draw_text(
            p, words, title, NOTE, theme.ink, weight
        )

    def _paint_foot(self, p: QPainter) -> None:
        theme, y = self.look.theme, self.logical_height - FOOT / 2
        x = 8.0
        for standing in Standing:
            paint_standing(p, QPointF(x + 7, y), 7, standing, theme)
            box = QRectF(x + 19, y - 12, 64, 24)
            x += 19 + draw_text(p, box, standing.short, NOTE, theme.ink2) + 10

    def text_twin(self) -> str:
        """Every lesson with how one stands."""
        told = [
            f"{x.title}: {self._model.handed_state(x)}" for x in self._model.remembered.handed()
        ]
        told += [f"{x.title}: {self._model.standing(x).value}" for x in self._model.lessons()]
        return "; ".join(told)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Open a lesson."""
        if event is None:
            return
        y = event.position().y() / self.look.scale - HEAD
        row = self._first + int(y // self.row_high)
        if y >= 0 and row < self.row_count:
            self._near = row
            self.chosen.emit(row)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down go along, Return opens."""
        if event is None:
            return
        step, last = up_or_down(event), self.row_count - 1
        if step:
            self._near = min(max(self._near + step, 0), last)
            self._see(self._near)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.chosen.emit(self._near)
        else:
            event.ignore()

    def _see(self, row: int) -> None:
        if row < self._first:
            self._first = row
        elif row >= self._first + self._visible:
            self._first = row - self._visible + 1
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Scroll where there are more than fit."""
        if event is not None:
            most = max(0, self.row_count - self._visible)
            step = -1 if event.angleDelta().y() > 0 else 1
            self._first = min(max(self._first + step, 0), most)
            self.update()
            event.accept()
