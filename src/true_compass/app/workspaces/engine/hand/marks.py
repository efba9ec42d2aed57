"""The words of the mark that is chosen on the damper."""

from dataclasses import replace
from functools import partial
from typing import Any, Final

from PyQt6.QtCore import QRectF, QSignalBlocker
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.engine.hand.model import HandModel
from true_compass.core.engine import Mark, Meaning
from true_compass.drawing.text import draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight

FIELDS: Final = (("where", "Where it is"), ("stamped", "Stamp"), ("colour", "Colour"))
MEANINGS: Final = (
    (Meaning.TDC, "TDC"),
    (Meaning.FIRING, "Firing point"),
    (Meaning.OTHER, "Other"),
)
HIGH: Final = 38.0


class MarkForm(Painted):
    """Where the chosen mark is, what is stamped on it, its colour, and what it means."""

    def __init__(self, model: HandModel, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.model = model
        self.setObjectName("mark_form")
        self.setAccessibleName("The chosen mark")
        self.fields = {name: QLineEdit(self) for name, _ in FIELDS}
        for name, label in FIELDS:
            self.fields[name].setAccessibleName(label)
            self.fields[name].setMaxLength(30)
            self.fields[name].textEdited.connect(partial(self._on_text, name))
        self.meanings = [TabButton(look, words, self) for _, words in MEANINGS]
        for button in self.meanings:
            button.clicked.connect(self._on_meaning)
        self.creeps = TabButton(look, "Can creep", self)
        self.creeps.setToolTip("Its ring is bonded with rubber and can turn")
        self.creeps.clicked.connect(self._on_creeps)
        self.remove = DrawnButton(look, "Remove this mark", self)
        self.add = DrawnButton(look, "New mark at 0°", self)
        self.remove.clicked.connect(self._on_remove)
        self.add.clicked.connect(self._on_add)
        model.changed.connect(self.follow)
        look.changed.connect(self._arrange)

    @property
    def _chosen(self) -> Mark | None:
        marks = self.model.settled.marks
        return marks[self.model.mark] if self.model.mark < len(marks) else None

    def follow(self) -> None:
        """Show the chosen mark."""
        if not self.isVisible():
            return
        mark = self._chosen
        for name, _ in FIELDS:
            field = self.fields[name]
            field.setEnabled(mark is not None)
            text = str(getattr(mark, name)) if mark is not None else ""
            if not field.hasFocus() and field.text() != text:
                with QSignalBlocker(field):
                    field.setText(text)
        for (meaning, _), button in zip(MEANINGS, self.meanings, strict=True):
            button.setChecked(mark is not None and mark.meaning is meaning)
            button.setEnabled(mark is not None)
            button.repaint_all()
        self.creeps.setChecked(mark is not None and mark.can_creep)
        self.creeps.setEnabled(mark is not None)
        self.creeps.repaint_all()
        self.remove.setEnabled(mark is not None)
        self._arrange()

    def _put(self, mark: Mark, words: str) -> None:
        marks = list(self.model.settled.marks)
        marks[self.model.mark] = mark
        self.model.put_marks(marks, words)

    def _on_text(self, name: str, text: str) -> None:
        mark = self._chosen
        if mark is not None and (text.strip() or name != "where"):
            change: dict[str, Any] = {name: text.strip()}
            self.model.name_mark(replace(mark, **change), name)

    def _on_meaning(self) -> None:
        mark = self._chosen
        for (meaning, _), button in zip(MEANINGS, self.meanings, strict=True):
            if button is self.sender() and mark is not None:
                angle = 0.0 if mark.angle_deg is None else mark.angle_deg
                self._put(replace(mark, meaning=meaning, angle_deg=angle), "meaning of a mark")

    def _on_creeps(self) -> None:
        mark = self._chosen
        if mark is not None:
            self._put(replace(mark, can_creep=not mark.can_creep), "a mark that can creep")

    def _on_remove(self) -> None:
        marks = list(self.model.settled.marks)
        if self.model.mark < len(marks):
            del marks[self.model.mark]
            self.model.mark = max(self.model.mark - 1, 0)
            self.model.put_marks(marks, "mark removed")

    def _on_add(self) -> None:
        marks = [*self.model.settled.marks, Mark("pulley", 0.0)]
        self.model.mark = len(marks) - 1
        self.model.put_marks(marks, "new mark")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place the parts."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        put, wide = self.look.scaled, self.logical_width
        each = (wide - 16) / 3
        sheet = field_style(self.look.theme, self.look.scale, wrong=False)
        for place, (name, _) in enumerate(FIELDS):
            self.fields[name].setGeometry(put(place * (each + 8), 50, each, 34))
            if self.fields[name].styleSheet() != sheet:
                self.fields[name].setStyleSheet(sheet)
        quarter = (wide - 24) / 4
        for place, button in enumerate((*self.meanings, self.creeps)):
            button.setGeometry(put(place * (quarter + 8), 116, quarter, HIGH))
        half = (wide - 8) / 2
        self.add.setGeometry(put(0, 168, half, HIGH))
        self.remove.setGeometry(put(half + 8, 168, half, HIGH))
        self.update()

    def paint(self, p: QPainter) -> None:
        """Draw the labels."""
        theme, wide = self.look.theme, self.logical_width
        mark = self._chosen
        head = "The chosen mark" if mark is not None else "No mark yet: press the rim for one"
        draw_text(p, QRectF(0, 0, wide, 26), head, LABEL, theme.ink, Weight.STRONG)
        each = (wide - 16) / 3
        for place, (_, label) in enumerate(FIELDS):
            draw_text(p, QRectF(place * (each + 8), 28, each, 20), label, NOTE, theme.ink2)
        draw_text(p, QRectF(0, 92, wide, 22), "What it says", BODY, theme.ink2)
