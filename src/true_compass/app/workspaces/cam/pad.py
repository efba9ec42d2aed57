"""Where figures enter: keys for dirty fingers, the field, and what comes next in words."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QLabel, QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.widgets.reading_field import ReadingField
from true_compass.app.workspaces.cam.asking import Asker
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import draw_one_of, draw_paragraph_that_fits, draw_text
from true_compass.drawing.theme import BODY, LEAD, NOTE, Weight

KEYS: Final = ("7", "8", "9", "4", "5", "6", "1", "2", "3", ".", "0", "Rub out")
KEY_WIDE, KEY_HIGH, GAP = 66.0, 44.0, 6.0
HEAD: Final = 68.0
HEIGHT: Final = HEAD + 4 * (KEY_HIGH + GAP)


class Pad(PageView):
    """The field with its keys, and what is asked beside a figure."""

    def __init__(self, look: Look, model: Asker, undo: QWidget, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("cam_pad")
        self.setAccessibleName("Readings")
        self.field = ReadingField(self)
        self.field.setObjectName("reading")
        self.field.setMaxLength(20)
        self.field.setAccessibleName("Reading")
        self.side = QLabel(self.field)
        self.side.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.side.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.keys: dict[str, DrawnButton] = {}
        for word in KEYS:
            key = DrawnButton(look, word, self)
            key.setObjectName(f"key_{word}")
            key.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            key.clicked.connect(partial(self._press, word))
            self.keys[word] = key
        self.enter_key = DrawnButton(look, "Enter", self)
        self.enter_key.setObjectName("key_enter")
        self.enter_key.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.enter_key.clicked.connect(self.enter)
        self.beyond = DrawnButton(look, "Beyond 0", self)
        self.beyond.setObjectName("beyond_zero")
        self.beyond.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.beyond.setToolTip("The figure stands on the other side of zero (a minus sign)")
        self.beyond.clicked.connect(partial(self._press, "−"))
        self.undo = undo
        undo.setParent(self)
        self.answers = [DrawnButton(look, "answer", self) for _ in range(3)]
        for nth, button in enumerate(self.answers):
            button.setObjectName(f"answer_{nth}")
            button.clicked.connect(partial(self._answer, nth))
            button.hide()
        self.field.returnPressed.connect(self.enter)
        self.field.stepped.connect(model.step)
        self.field.textEdited.connect(self._edited)
        model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _edited(self) -> None:
        if self._model.refused:
            self._model.refused = ""
            self.refresh()

    def _press(self, word: str) -> None:
        field = self.field
        if word == "Rub out":
            if field.text():
                field.backspace()
            else:
                self._model.rub_out()
        elif word == "−":
            text = field.text()
            field.setText(text[1:] if text.startswith(("-", "−")) else f"−{text}")
        else:
            field.insert(word)
        field.setFocus()
        self._edited()

    def enter(self) -> None:
        """Enter what stands in the field; on an empty one, the usual answer to a question."""
        question = self._model.question
        if question is not None and not self.field.text().strip():
            self._answer(question.usual)
        elif self.field.text().strip() and self._model.enter(self.field.text()):
            self.field.clear()

    def _answer(self, nth: int) -> None:
        question = self._model.question
        if question is not None and nth < len(question.answers):
            self._model.answer(question.answers[nth][1])
        self.field.setFocus()

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        model = self._model
        asks, question = model.asks, model.question
        # A field that goes dead would hand the keyboard to whatever comes next in the window.
        self.field.setReadOnly(not asks)
        name = f"{model.asked_words[0]}, {model.side_words}"
        if self.field.accessibleName() != name:
            self.field.setAccessibleName(name)
        side = model.side_words if asks else ""
        if self.side.text() != side:
            self.side.setText(side)
        told = question.answers if question is not None else ()
        for nth, button in enumerate(self.answers):
            button.setVisible(nth < len(told))
            if nth < len(told) and button.text() != told[nth][0]:
                button.setText(told[nth][0])
                button.repaint_all()
        self.enter_key.set_words("Enter", model.then_words)
        self.beyond.setVisible(model.has_far_side)
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Put every widget in its place."""
        put, theme, scale = self.look.scaled, self.look.theme, self.look.scale
        wide = self.logical_width
        key_high = min(KEY_HIGH, (self.logical_height - HEAD) / 4 - GAP)
        for nth, word in enumerate(KEYS):
            x, y = nth % 3 * (KEY_WIDE + GAP), HEAD + nth // 3 * (key_high + GAP)
            self.keys[word].setGeometry(put(x, y, KEY_WIDE, key_high))
        left = 3 * (KEY_WIDE + GAP) + 8
        room = wide - left
        field = put(left, HEAD, room, 58)
        if self.field.geometry() != field:
            self.field.setGeometry(field)
        # The side of TDC stands at the right in the field.
        if self.field.show_style(self.look, wrong=bool(self._model.refused)):
            self.side.setStyleSheet(
                f"color: {theme.ink2.name()}; font: 600 {round(NOTE * scale)}px 'Compass Text';"
                " background: transparent; border: none;"
            )
        self.side.setGeometry(put(room - 60, 3, 53, 18))
        top, foot = HEAD + 64, HEAD + 3 * (key_high + GAP)
        shown = [button for button in self.answers if not button.isHidden()]
        crowded = len(shown) == 3
        end = foot + key_high if crowded else foot - GAP
        self.enter_key.setVisible(not shown)
        self.enter_key.setGeometry(put(left, top, room, end - top))
        if shown:
            high = (end - top + GAP) / len(shown) - GAP
            for nth, button in enumerate(shown):
                button.setGeometry(put(left, top + nth * (high + GAP), room, high))
                button.raise_()
        both = not self.beyond.isHidden()
        self.undo.setVisible(not crowded)
        self.undo.setGeometry(put(left, foot, room / 2 - 3 if both else room, key_high))
        self.beyond.setGeometry(put(left + room / 2 + 3, foot, room / 2 - 3, key_high))

    def paint(self, p: QPainter) -> None:
        """What is asked, or what is wrong with what was typed."""
        theme, wide, model = self.look.theme, self.logical_width, self._model
        head, way = model.asked_words
        if model.question is not None and not model.refused:
            head = model.question.head
        draw_text(p, QRectF(0, 0, wide, 26), head, LEAD, theme.ink, Weight.STRONG)
        row = QRectF(0, 27, wide, 38)
        question = model.question
        warn = model.refused or (question.sentence if question is not None else "")
        if warn:
            p.fillRect(QRectF(0, 29, 3, 34), theme.ink)
            draw_paragraph_that_fits(p, row.adjusted(10, 0, 0, 0), warn, BODY, theme.ink)
            return
        draw_one_of(p, row, (way,), BODY, theme.ink2)
        p.setPen(flat_pen(theme.hair, 1))
