"""The map of skills: how this person stands with each, and what is still needed until secure."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Painted
from true_compass.app.widgets.stepping import up_or_down
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.app.workspaces.lessons.standing import paint_standing
from true_compass.drawing.text import RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight
from true_compass.lessons.mastery import Standing, still_needed
from true_compass.lessons.skills import SKILLS

HEAD: Final = 34.0
MOST_ROW: Final = 44.0
TWO_WIDE: Final = 480.0
GAP: Final = 28.0


class SkillMap(Painted):
    """A press drills a skill on the engine of the window; Up, Down and Return do too."""

    chosen = pyqtSignal(str)

    def __init__(self, model: LessonModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self._model = model
        self._near = 0
        self.setObjectName("skill_map")
        self.setAccessibleName("Skills")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        model.standing_changed.connect(self.update)

    def row_box(self, row: int) -> QRectF:
        """Where a skill stands: in two columns where there is room."""
        # Two columns, where titles of both have room.
        columns = 2 if self.logical_width >= TWO_WIDE else 1
        deep = -(-len(SKILLS) // columns)
        high = min((self.logical_height - HEAD) / deep, MOST_ROW)
        wide = (self.logical_width - GAP * (columns - 1)) / columns
        left = row // deep * (wide + GAP)
        return QRectF(left, HEAD + row % deep * high, wide, high)

    def _words(self, slug: str, most: int = 2) -> str:
        mastery = self._model.skills.get(slug)
        if mastery is None:
            return Standing.UNTRIED.words
        due = mastery.due is not None and mastery.due.due_at <= self._model.keeper.now()
        if mastery.standing is Standing.SECURE:
            return "secure, due again" if due else "secure"
        return still_needed(mastery, most)

    def _short(self, slug: str) -> str:
        mastery = self._model.skills.get(slug)
        return (mastery.standing if mastery is not None else Standing.UNTRIED).words

    def paint(self, p: QPainter) -> None:
        """Every skill with its sign, and what it needs."""
        theme = self.look.theme
        head = QRectF(0, 0, self.logical_width, 28)
        words = "Your skills: press one to drill it on the engine in the window"
        draw_one_of(
            p,
            head,
            (words, "Your skills: press one to drill it", "Your skills"),
            LABEL,
            theme.ink,
            Weight.STRONG,
        )
        for row, skill in enumerate(SKILLS):
            box, mastery = self.row_box(row), self._model.skills.get(skill.slug)
            if self._shows_focus and self.hasFocus() and row == self._near:
                p.fillRect(box.adjusted(0, 0, 0, -1), theme.now_tint)
            p.fillRect(QRectF(box.left(), box.bottom() - 1, box.width(), 1.4), theme.hair)
            standing = mastery.standing if mastery is not None else Standing.UNTRIED
            paint_standing(p, QPointF(box.left() + 14, box.center().y()), 8.5, standing, theme)
            used = draw_text(
                p, box.adjusted(36, 0, 0, 0), skill.title, BODY, theme.ink, Weight.LABEL
            )
            left = box.left() + 36 + used + 8
            rest = QRectF(left, box.top(), box.right() - left - 4, box.height())
            told = (
                *(self._words(skill.slug, most) for most in (2, 1)),
                self._short(skill.slug),
                "",
            )
            draw_one_of(p, rest, told, NOTE, theme.ink2, Weight.BODY, RIGHT)

    def text_twin(self) -> str:
        """Every skill with how one stands."""
        told = [f"{skill.title}: {self._words(skill.slug)}" for skill in SKILLS]
        return "; ".join(told)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Drill a skill."""
        if event is None:
            return
        spot = event.position() / self.look.scale
        for row, skill in enumerate(SKILLS):
            if self.row_box(row).contains(spot):
                self._near = row
                self.chosen.emit(skill.slug)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down go along, Return drills."""
        if event is None:
            return
        step = up_or_down(event)
        if step:
            self._near = min(max(self._near + step, 0), len(SKILLS) - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.chosen.emit(SKILLS[self._near].slug)
        else:
            event.ignore()
