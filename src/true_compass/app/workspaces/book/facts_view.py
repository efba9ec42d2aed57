"""All that a job says beside its readings: typed once, kept at once; what is put back is ticked."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.book.facts import (
    FACTS,
    Fact,
    read_fact,
    read_target,
    source_text,
    target_text,
)
from true_compass.app.workspaces.book.model import BookModel
from true_compass.book.putting_back import PUT_BACK, ROLLED_OVER, PutBack
from true_compass.core.limits import EngineError
from true_compass.drawing.codes import tick_box
from true_compass.drawing.text import draw_one_of, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

TOP: Final = 44.0
MOST_ROW: Final = 50.0
TICKS: Final = 300.0
MOST_TARGETS: Final = 4


class FactsView(Painted):
    """A form with a field a fact, and the list of what is put back."""

    number_typed = pyqtSignal(str)

    def __init__(self, look: Look, model: BookModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._wrong: dict[str, str] = {}
        self._shown_for = ""
        self._tick = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setObjectName("book_facts")
        self.setAccessibleName("Facts of this job")
        self.fields: dict[str, QLineEdit] = {}
        self.number = QLineEdit(self)
        self.number.setObjectName("fact_number")
        self.number.setAccessibleName("Number of this engine")
        self.number.setMaxLength(40)
        self.number.editingFinished.connect(self._number_done)
        for fact in FACTS:
            field = QLineEdit(self)
            field.setObjectName(f"fact_{fact.field}")
            field.setAccessibleName(fact.label)
            field.setPlaceholderText(fact.hint)
            field.setMaxLength(600)
            field.editingFinished.connect(partial(self._done, fact))
            self.fields[fact.field] = field
        self.targets: list[tuple[QLineEdit, QLineEdit]] = []
        for nth in range(MOST_TARGETS):
            pair = (QLineEdit(self), QLineEdit(self))
            for field, name, hint in zip(
                pair,
                ("Both ends of the band, mm", "Source of the target"),
                ("0.35..0.45", "book / edition / page / variant"),
                strict=True,
            ):
                field.setObjectName(f"target_{nth}")
                field.setAccessibleName(name)
                field.setPlaceholderText(hint)
                field.setMaxLength(200)
                field.editingFinished.connect(partial(self._target_done, nth))
            self.targets.append(pair)
        self.hot = TabButton(look, "Hot", self)
        self.hot.setToolTip("Measured hot: the hot targets hold")
        self.hot.clicked.connect(self._toggle_hot)
        model.changed.connect(self._show)
        look.changed.connect(self._arrange)
        self._show()

    # Typing -----------------------------------------------------------------------------------

    def _done(self, fact: Fact) -> None:
        job, field = self._model.job, self.fields[fact.field]
        if job is None or field.text() == fact.show(job):
            if self._wrong.pop(fact.field, None):
                self.update()
            return
        try:
            others = [one for one in self._model.lines if one.id != job.id]
            told = read_fact(fact, job, field.text(), others, self._model.today)
        except EngineError as error:
            self._wrong[fact.field] = f"{error.in_words}."
            self._style(fact.field)
            self.update()
            return
        self._wrong.pop(fact.field, None)
        if "person" in told:
            told["person"] = self._model.keeper.person(told["person"])
        self._model.change(fact.label.lower(), **told)

    def _number_done(self) -> None:
        if self.number.text().strip() != self._model.book_engine.serial:
            self.number_typed.emit(self.number.text())

    def _toggle_hot(self) -> None:
        job = self._model.job
        if job is not None:
            self._model.change("hot or cold", hot=not job.hot)

    def _show(self) -> None:
        job, wanted = self._model.job, self._model.book_engine.serial
        if not self.number.hasFocus() and self.number.text() != wanted:
            self.number.setText(wanted)
        for fact in FACTS:
            field = self.fields[fact.field]
            field.setEnabled(job is not None)
            text = fact.show(job) if job is not None else ""
            # What was typed and refused stays, until it is right.
            mine = fact.field in self._wrong and job is not None and job.id == self._shown_for
            if not field.hasFocus() and field.text() != text and not mine:
                field.setText(text)
                field.setCursorPosition(0)
        if job is None or job.id != self._shown_for:
            self._wrong.clear()
            self._shown_for = job.id if job is not None else ""
        self._show_targets()
        self.hot.setEnabled(job is not None)
        self.hot.setChecked(job is not None and job.hot)
        self.hot.repaint_all()
        self._arrange_targets()
        self.update()

    # Placing ----------------------------------------------------------------------------------

    def _style(self, name: str) -> None:
        style = field_style(self.look.theme, self.look.scale, wrong=name in self._wrong)
        if self.fields[name].styleSheet() != style:
            self.fields[name].setStyleSheet(style)

    def _boxes(self) -> dict[str, QRectF]:
        """Where each field goes: short ones two in a row, wide ones alone."""
        room = self.logical_width - (TICKS if self.logical_width > 760 else 0.0) - 16
        half = (room - 16) / 2
        short = ["number", *(fact.field for fact in FACTS if not fact.wide)]
        wide = [fact.field for fact in FACTS if fact.wide or fact.field == "signed"]
        short = [name for name in short if name != "signed"]
        rows = -(-len(short) // 2) + len(wide)
        row = min(max((self.logical_height - TOP - 26) / rows, 26.0), MOST_ROW)
        boxes, y = {}, TOP
        for nth, name in enumerate(short):
            x = nth % 2 * (half + 16)
            boxes[name] = QRectF(x, y, half, row)
            y += row if nth % 2 or nth == len(short) - 1 else 0
        for name in wide:
            boxes[name] = QRectF(0, y, room, row)
            y += row
        return boxes

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put every field in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        put = self.look.scaled
        for name, box in self._boxes().items():
            field = self.number if name == "number" else self.fields[name]
            high = min(box.height() - 6, 36.0)
            label = 150.0 if box.width() > 290 else 136.0
            field.setGeometry(put(box.left() + label, box.top(), box.width() - label, high))
            if name != "number":
                self._style(name)
        self.number.setStyleSheet(field_style(self.look.theme, self.look.scale, wrong=False))
        self._arrange_targets()
        self.hot.setGeometry(put(self.logical_width - 100, 0, 96, 34))
        self.update()

    def _arrange_targets(self) -> None:
        ticks, kinds = self._tick_boxes(), self._kinds()
        style = field_style(self.look.theme, self.look.scale, wrong="targets" in self._wrong)
        for nth, pair in enumerate(self.targets):
            top = ticks[-1].bottom() + 44 + 74 * nth if ticks else 0.0
            fits = bool(ticks) and nth < len(kinds) and top + 70 < self.logical_height
            for place, field in enumerate(pair):
                field.setVisible(fits)
                if fits:
                    box = QRectF(ticks[0].left() + 66, top + 36 * place, TICKS - 88, 33)
                    field.setGeometry(
                        self.look.scaled(box.left(), box.top(), box.width(), box.height())
                    )
                    if field.styleSheet() != style:
                        field.setStyleSheet(style)

    def _tick_boxes(self) -> list[QRectF]:
        left = self.logical_width - TICKS + 16
        if self.logical_width <= 760:
            return []
        row = 34.0 if self.logical_height > 560 else 29.0
        return [
            QRectF(left, TOP + 30 + row * nth, TICKS - 20, row - 2) for nth in range(len(PUT_BACK))
        ]

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Labels, what is wrong, and what is put back."""
        theme, job = self.look.theme, self._model.job
        draw_text(p, QRectF(0, 0, 500, 34), "What this job says", HEAD, theme.ink, Weight.STRONG)
        labels = {fact.field: fact.label for fact in FACTS} | {"number": "Engine number"}
        for name, box in self._boxes().items():
            high = min(box.height() - 6, 36.0)
            label = QRectF(box.left(), box.top(), 142 if box.width() > 290 else 132, high)
            draw_text(p, label, labels[name], BODY, theme.ink2)
        if self._wrong:
            words = next(iter(self._wrong.values()))
            row = QRectF(0, self.logical_height - 28, self.logical_width - 8, 26)
            draw_one_of(p, row, (words,), LABEL, theme.ink, Weight.STRONG)
        boxes = self._tick_boxes()
        if not boxes or job is None:
            return
        head = QRectF(boxes[0].left(), TOP, TICKS - 20, 28)
        draw_text(p, head, "Put back, in this order", LABEL, theme.ink, Weight.STRONG)
        for nth, (one, box) in enumerate(zip(PUT_BACK, boxes, strict=True)):
            if nth == self._tick and self.hasFocus():
                p.fillRect(box, theme.now_tint)
            tick_box(
                p, QRectF(box.left(), box.top() + 4, 24, 24), theme, ticked=one.word in job.put_back
            )
            draw_text(p, box.adjusted(34, 0, 0, 0), one.word, BODY, theme.ink)
        self._paint_targets(p, QRectF(boxes[0].left(), boxes[-1].bottom() + 14, TICKS - 20, 150))

    def _paint_targets(self, p: QPainter, box: QRectF) -> None:
        """What stands before the fields of the targets, hot or cold as the job is."""
        theme, job = self.look.theme, self._model.job
        assert job is not None
        words = "Targets, hot" if job.hot else "Targets, cold"
        head = QRectF(box.left(), box.top(), box.width(), 26)
        draw_text(p, head, words, LABEL, theme.ink, Weight.STRONG)
        for nth, of in enumerate(self._kinds()):
            if self.targets[nth][0].isHidden():
                break
            row = QRectF(box.left(), box.top() + 30 + 74 * nth, 64, 34)
            draw_text(p, row, of, BODY, theme.ink, Weight.STRONG)
            target = next((t for t in job.targets if t.of == of and t.hot == job.hot), None)
            told = "assumed" if target is not None and target.assumed else "source"
            draw_text(p, row.translated(0, 36), told, NOTE, theme.ink2)

    def _kinds(self) -> list[str]:
        """Which items have targets, the first four."""
        job = self._model.job
        kinds = dict.fromkeys(target.of for target in job.targets) if job is not None else {}
        order = ("I", "E", "B", "U")
        return sorted(kinds, key=lambda of: order.index(of) if of in order else 9)[:MOST_TARGETS]

    def _target_done(self, nth: int) -> None:
        job, kinds = self._model.job, self._kinds()
        if job is None or nth >= len(kinds):
            return
        of, (band, source) = kinds[nth], self.targets[nth]
        old = next((t for t in job.targets if t.of == of and t.hot == job.hot), None)
        if (band.text(), source.text()) == (target_text(old, job.unit), source_text(old)):
            return
        try:
            new = read_target(of, job.hot, band.text(), source.text(), job)
        except EngineError as error:
            self._wrong["targets"] = f"{error.in_words}."
            self.update()
            return
        self._wrong.pop("targets", None)
        rest = [t for t in job.targets if not (t.of == of and t.hot == job.hot)]
        kept = sorted(
            [*rest, *([new] if new is not None else [])], key=lambda t: (t.hot, t.of != "I")
        )
        self._model.change(f"target of {of}", targets=tuple(kept))

    def _show_targets(self) -> None:
        job, kinds = self._model.job, self._kinds()
        for nth, fields in enumerate(self.targets):
            of = kinds[nth] if nth < len(kinds) else ""
            told = (
                next((t for t in job.targets if t.of == of and t.hot == job.hot), None)
                if job is not None
                else None
            )
            texts = (target_text(told, self._model.unit), source_text(told))
            for field, text in zip(fields, texts, strict=True):
                wrong = "targets" in self._wrong
                if not field.hasFocus() and field.text() != text and not wrong:
                    field.setText(text)
                    field.setCursorPosition(0)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Tick what is put back."""
        job = self._model.job
        if event is None or job is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position() / self.look.scale
        for one, box in zip(PUT_BACK, self._tick_boxes(), strict=False):
            if box.contains(at):
                self.toggle(one)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down among what is put back, Return ticks it."""
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event is None:
            return
        if not self.hasFocus():
            # Return in a field comes on to here; it ticks nothing.
            event.ignore()
        elif event.key() in steps:
            self._tick = (self._tick + steps[Qt.Key(event.key())]) % len(PUT_BACK)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._model.job is not None:
            self.toggle(PUT_BACK[self._tick])
        else:
            event.ignore()

    def toggle(self, what: PutBack) -> None:
        """Tick something that is put back, or take the tick away."""
        job = self._model.job
        assert job is not None
        done = set(job.put_back) ^ {what.word}
        kept = tuple(one.word for one in PUT_BACK if one.word in done)
        self._model.change(what.word.lower(), put_back=kept, rolled_over=ROLLED_OVER.word in done)
