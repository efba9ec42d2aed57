"""The instructor's own window: what to say, what to wait for, the answer, and what comes next."""

from typing import Final

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QGuiApplication, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Painted
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.app.workspaces.lessons.show_view import ShowView
from true_compass.drawing.text import draw_paragraph, draw_text, paragraph_height
from true_compass.drawing.theme import HEAD, LABEL, LEAD, Weight
from true_compass.lessons.guide import Guided, LessonError, cast_on, said
from true_compass.lessons.room import LETTERS
from true_compass.session.lesson import OnLesson

SIZE: Final = (560, 640)


class NotesWindow(Painted):
    """A window of its own, on the other screen where there are two."""

    def __init__(self, model: LessonModel, show: ShowView, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self.setWindowFlag(Qt.WindowType.Window)
        self._model = model
        self._show = show
        self.setObjectName("notes")
        self.setWindowTitle("Notes – True Compass")
        self.setAccessibleName("Notes for the instructor")
        self.resize(*SIZE)
        model.changed.connect(self.update)

    def open_beside(self) -> None:
        """Open it on the screen where the lesson is not."""
        window = self.parentWidget()
        here = window.screen() if window is not None else None
        others = [screen for screen in QGuiApplication.screens() if screen is not here]
        if others:
            self.setGeometry(others[0].availableGeometry().adjusted(40, 40, -40, -40))
        self.show()

    def rows(self) -> list[tuple[str, str]]:
        """What is said: a word at the left, a sentence beside it."""
        question = self._show.question
        if self._show.isVisible() and question is not None:
            return [
                ("Asked", question.text),
                ("Answer", f"{LETTERS[question.right]}: {question.answers[question.right].words}"),
                ("Why", question.drill.why(question.q)),
                ("Hands", ", ".join(map(str, self._show.hands.counts))),
            ]
        on = self._model.on
        if on is None or on.over:
            return [("", "Begin a lesson, or show questions to the room.")]
        return step_rows(on)

    def paint(self, p: QPainter) -> None:
        """A paragraph a row."""
        theme, y = self.look.theme, 20.0
        head = QRectF(20, y, self.logical_width - 40, 36)
        draw_text(p, head, "For the instructor", HEAD, theme.ink, Weight.STRONG)
        y += 52
        for name, words in self.rows():
            if not words:
                continue
            label = QRectF(20, y, 96, 28)
            draw_text(p, label, name, LABEL, theme.ink, Weight.STRONG)
            wide = self.logical_width - 140
            high = paragraph_height(words, LEAD, wide) + 6
            draw_paragraph(p, QRectF(116, y - 2, wide, high), words, LEAD, theme.ink)
            y += high + 14

    def text_twin(self) -> str:
        """All rows."""
        return " ".join(f"{name}: {words}" for name, words in self.rows() if words)


def step_rows(on: OnLesson) -> list[tuple[str, str]]:
    """The notes of the place that a lesson stands at."""
    shown = on.shown
    rows: list[tuple[str, str]] = []
    if shown is not None:
        part = on.lesson.parts[on.stop.part]
        notes = shown.step.notes
        cast: dict[str, int] = {}
        if isinstance(part, Guided):
            try:
                cast = cast_on(on.rig, part.cast)
            except LessonError:
                cast = {}
        rows += [("Shown", shown.sentence), ("Say", notes.say), ("Wait", notes.wait)]
        asked = on.asked if on.question is not None else None
        rows = [(name, said(words, cast, asked)) for name, words in rows]
        rows += [("Care", caution.words) for caution in shown.step.care]
    if on.question is not None:
        right = on.drill.answer(on.asked)
        words = "" if right is None and on.drill.slug.startswith("covered") else _words(on)
        rows += [("Answer", words), ("Why", on.drill.why(on.asked))]
        if shown is not None and shown.step.notes.wrong:
            rows.append(("If wrong", said(shown.step.notes.wrong, cast)))
    after = on.place + 1
    if after < len(on.stops):
        ahead = on.at(after)
        told = ahead.shown.sentence if ahead.shown is not None else "a question"
        rows.append(("Next", told))
    return rows


def _words(on: OnLesson) -> str:
    return on.form.words(on.form.read(on.drill.answer(on.asked)))
