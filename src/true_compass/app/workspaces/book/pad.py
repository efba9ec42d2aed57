"""Where readings enter: a field, large keys for dirty fingers, and what is asked next in words."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.widgets.reading_field import ReadingField
from true_compass.app.workspaces.book.model import NEXT, SHIM, BookModel
from true_compass.book.entering import typed_as
from true_compass.core.units import GapUnit
from true_compass.drawing.job_chart import paint_item
from true_compass.drawing.text import draw_one_of, draw_paragraph_that_fits, draw_text
from true_compass.drawing.theme import BODY, LABEL, Weight

KEYS: Final = ("7", "8", "9", "⌫", "4", "5", "6", "goes", "1", "2", "3", "turns", "0", ".", "Enter")
KEY_HIGH, GAP = 42.0, 5.0
HEIGHT: Final = 92.0 + 4 * (KEY_HIGH + GAP)


class Pad(Painted):
    """The field with its keys."""

    def __init__(self, look: Look, model: BookModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("book_pad")
        self.setAccessibleName("Readings")
        self.field = ReadingField(self)
        self.field.setObjectName("reading")
        self.field.setMaxLength(30)
        self.keys: dict[str, DrawnButton] = {}
        for word in KEYS:
            kind = StrongButton if word == "Enter" else DrawnButton
            key = kind(look, word, self)
            key.setObjectName(f"key_{word}")
            key.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            key.clicked.connect(partial(self._press, word))
            self.keys[word] = key
        self.keys["goes"].setToolTip("The blade that goes, then the one that does not")
        self.keys["turns"].setToolTip("Turns to the seat")
        self.keys["⌫"].setAccessibleName("Delete")
        self.meant = [DrawnButton(look, "Keep it", self) for _ in range(3)]
        for nth, button in enumerate(self.meant):
            button.setObjectName(f"meant_{nth}")
            button.clicked.connect(partial(self._take_meant, nth))
            button.hide()
        self.field.returnPressed.connect(self.enter)
        self.field.stepped.connect(model.step)
        self.field.turned.connect(model.other_reading)
        self.field.textEdited.connect(self._edited)
        model.changed.connect(self._show)
        look.changed.connect(self._arrange)
        self._asked_before: object = None
        self._show()

    def _edited(self) -> None:
        if self._model.refused is not None:
            self._model.refused = None
            self._show()

    def _press(self, word: str) -> None:
        field = self.field
        if word == "Enter":
            self.enter()
        elif word == "⌫":
            field.backspace()
        elif word == "goes":
            field.insert("..")
        elif word == "turns":
            field.setText(f"{field.text().removesuffix(' t').strip()} t")
        else:
            field.insert(word)
        field.setFocus()
        self._edited()

    def enter(self) -> None:
        """Enter what stands in the field; an unlikely number is taken when it is entered twice."""
        refused = self._model.refused
        sure = refused is not None and refused.may_insist
        if not self.field.text().strip():
            return
        if self._model.enter(self.field.text(), sure=sure):
            self.field.clear()

    def _take_meant(self, nth: int) -> None:
        refused = self._model.refused
        if refused is None:
            return
        if nth < len(refused.meant):
            self._model.enter_mm(refused.meant[nth][1])
            self.field.clear()
        else:
            self.enter()
        self.field.setFocus()

    def _show(self) -> None:
        asked, job = self._model.asked, self._model.job
        self.field.setEnabled(asked is not None)
        unit, words = GapUnit.MM.value, ""
        if asked is not None and job is not None:
            words = f"{asked.item.name} {NEXT[asked.which]}"
            if asked.which != SHIM:
                unit = typed_as(self._model.setting(asked.item), job.unit)
                words = f"{words}, {unit}"
        if self.field.accessibleName() != words:
            self.field.setAccessibleName(words)
            self.field.setPlaceholderText(unit)
        refused = self._model.refused
        meant = [word for word, _ in refused.meant] if refused is not None else []
        if refused is not None and refused.may_insist:
            meant.append("Keep it")
        for nth, button in enumerate(self.meant):
            shown = nth < len(meant)
            button.setVisible(shown)
            if shown and button.text() != meant[nth]:
                button.setText(meant[nth])
                button.repaint_all()
        self._arrange()
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        put = self.look.scaled
        wide = self.logical_width
        each = (wide - 3 * GAP) / 4
        field = put(108, 0, wide - 108, 44)
        if self.field.geometry() != field:
            self.field.setGeometry(field)
        self.field.show_style(self.look, wrong=self._model.refused is not None)
        top = 88.0
        high = min(KEY_HIGH, (self.logical_height - top - 3 * GAP) / 4)
        for nth, word in enumerate(KEYS):
            x, y = nth % 4 * (each + GAP), top + nth // 4 * (high + GAP)
            width = 2 * each + GAP if word == "Enter" else each
            self.keys[word].setGeometry(put(x, y, width, high))
        shown = [button for button in self.meant if not button.isHidden()]
        for nth, button in enumerate(shown):
            room = (wide - GAP * (len(shown) - 1)) / len(shown)
            button.setGeometry(put(nth * (room + GAP), 50, room, 34))
            button.raise_()

    def paint(self, p: QPainter) -> None:
        """What is asked, or what is wrong with what was typed."""
        theme, wide, asked = self.look.theme, self.logical_width, self._model.asked
        if asked is None:
            draw_text(p, QRectF(0, 8, 104, 28), "Done", LABEL, theme.ink2, Weight.LABEL)
            return
        paint_item(p, QRectF(2, 2, 92, 40), asked.item, theme)
        refused = self._model.refused
        row = QRectF(0, 48, wide, 40)
        if refused is not None:
            if not refused.meant and not refused.may_insist:
                draw_paragraph_that_fits(p, row, refused.sentence, BODY, theme.ink)
            return
        draw_one_of(p, row, (NEXT[asked.which].capitalize(),), BODY, theme.ink, Weight.LABEL)
