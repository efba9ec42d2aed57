"""What is typed for paper: sizes, the way of measuring, the proof of a printer, and the buttons."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.fields import field_style, typed_number
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.cam.papering import (
    FIELDS,
    OWN,
    PAPER_WORDS,
    Group,
    Papering,
    Round,
)
from true_compass.core.paper.catalogue import CAM_CARD, CAP, LAP, POCKET
from true_compass.core.paper.proof import FIT_TO_PAGE
from true_compass.core.paper.wheel import Face
from true_compass.core.words import capital
from true_compass.drawing.codes import flat_pen, paint_problem_mark, paint_tick
from true_compass.drawing.text import RIGHT, draw_one_of, draw_paragraph, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight

FACE_WORDS: Final = {
    Face.FULL: "0 to 360",
    Face.SPLIT: "0-180-0",
    Face.QUARTERS: "0-90 × 4",
    Face.PROTRACTOR: "protractor",
}
TITLES: Final = {
    Group.WHEEL: "Degree wheel",
    Group.FLYWHEEL: "Flywheel strip",
    Group.KEYWAY: "Keyway square",
    Group.BLADES: "Feeler pairs: the blades of your set",
}
CARDS: Final = (CAM_CARD, LAP, CAP, POCKET)
HEAD, LABEL_HIGH, FIELD, GAP = 28.0, 19.0, 34.0, 7.0
TABS_HIGH: Final = 34.0
FULL: Final = 560.0
"""A form lower than this stands in two columns."""
NEVER_FIT: Final = "Print at 100 %, never “fit to page”."


class PaperForm(PageView):
    """Fields and buttons; in a low window in two columns."""

    shown = pyqtSignal(str)
    """A sheet is asked for: `proof`, `sheets`, `save`, or the word of a card."""

    def __init__(self, look: Look, model: Papering, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._heads: list[tuple[QRectF, str]] = []
        self._labels: list[tuple[QRectF, str, str]] = []
        self._says = QRectF()
        self._placed: set[str] = set()
        self.setObjectName("paper_form")
        self.setAccessibleName("Sizes and proof")
        self.groups = [TabButton(look, group.value, self) for group in Group]
        for group, button in zip(Group, self.groups, strict=True):
            button.clicked.connect(partial(self._choose, group=group))
        self.faces = [TabButton(look, FACE_WORDS[face], self) for face in Face]
        for face, button in zip(Face, self.faces, strict=True):
            button.setAccessibleName(f"Scale {face.words}")
            button.clicked.connect(partial(self._choose, face=face))
        self.rounds = [TabButton(look, known.value, self) for known in Round]
        for known, button in zip(Round, self.rounds, strict=True):
            button.setAccessibleName(f"Damper {known.value}")
            button.clicked.connect(partial(self._choose, known=known))
        self.papers = [TabButton(look, word, self) for word in PAPER_WORDS]
        for word, button in zip(PAPER_WORDS, self.papers, strict=True):
            button.setAccessibleName(f"Paper {word}")
            button.clicked.connect(partial(self._choose, paper=word))
        self.outlines = DrawnButton(look, "Outlines", self)
        self.outlines.setObjectName("outlines")
        self.outlines.setCheckable(True)
        self.outlines.setToolTip("Leave solid plates white, to save toner")
        self.outlines.clicked.connect(self._toggle_outlines)
        self.fields = {name: self._field(name) for name in FIELDS}
        self.fields["blades"].setPlaceholderText("empty: a usual set; else 0.05 0.10 0.15 …")
        self.late = self._button("from_readings", "from readings", model.take_late)
        self.late.setToolTip(
            "What the first pair about TDC found, with the wheel's zero set at the cast mark"
        )
        self.printer = self._button("which_printer", "this printer", model.next_printer)
        self.proof = self._button(
            "print_proof", "Print the proof first", partial(self._ask, "proof")
        )
        self.look_at = StrongButton(look, "Look and print…", self)
        self.look_at.setObjectName("look_at_sheets")
        self.look_at.clicked.connect(partial(self._ask, "sheets"))
        self.save = self._button("save_sheets", "Save PDF…", partial(self._ask, "save"))
        self.cards = [
            self._button(f"card_{card.word}", card.name, partial(self._ask, card.word))
            for card in CARDS
        ]
        for card, key in zip(CARDS, self.cards, strict=True):
            key.set_words(card.name, card.what)
        model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _field(self, name: str) -> QLineEdit:
        field = QLineEdit(self)
        field.setObjectName(f"paper_{name}")
        unit = {"mm": " in mm", "°": " in degrees"}.get(FIELDS[name].unit, "")
        field.setAccessibleName(f"{FIELDS[name].name}{unit}")
        field.setMaxLength(200 if name == "blades" else 16)
        field.textEdited.connect(partial(self._model.type, name))
        return field

    def _button(self, name: str, words: str, act: Callable[[], None]) -> DrawnButton:
        button = DrawnButton(self.look, words, self)
        button.setObjectName(name)
        button.clicked.connect(act)
        return button

    def _ask(self, what: str) -> None:
        self.shown.emit(what)

    def _choose(
        self,
        *,
        group: Group | None = None,
        face: Face | None = None,
        known: Round | None = None,
        paper: str = "",
    ) -> None:
        self._model.choose(group=group, face=face, known=known, paper=paper)

    def _toggle_outlines(self) -> None:
        self._model.choose(outlines=self.outlines.isChecked())

    # Showing ------------------------------------------------------------------------------------

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        model = self._model
        for rows, held in (
            (zip(Group, self.groups, strict=True), model.group),
            (zip(Face, self.faces, strict=True), model.face),
            (zip(Round, self.rounds, strict=True), model.round),
            (zip(PAPER_WORDS, self.papers, strict=True), model.paper_word),
        ):
            for one, tab in rows:
                tab.setChecked(one == held)
        self.outlines.setChecked(model.outlines)
        words = "Outlines on" if model.outlines else "Outlines"
        if self.outlines.text() != words:
            self.outlines.setText(words)
        for name, field in self.fields.items():
            text = model.texts[name]
            shown = text if field.hasFocus() else typed_number(text)
            if field.text() not in (text, shown):
                field.setText(shown)
            style = field_style(self.look.theme, self.look.scale, wrong=name in model.wrong)
            if field.styleSheet() != style:
                field.setStyleSheet(style)
        self.late.setEnabled(model.late_read_deg is not None)
        name = model.printer_name
        if self.printer.text() != name:
            self.printer.setText(name)
            self.printer.setAccessibleName(f"Printer: {name}")
            self.printer.setToolTip(
                f"{name}. Each printer has a proof of its own: press for another."
            )
        for button in (self.look_at, self.save):
            button.setEnabled(model.is_ready and not self._own_wrong)
        self.arrange()
        self.update()

    @property
    def _own_wrong(self) -> list[str]:
        """The sentences about what is shown now."""
        shown = {name for row in self._rows() for name in row} | {"across", "along"}
        if self._model.paper_word == OWN:
            shown.add("own")
        return [words for name, words in self._model.wrong.items() if name in shown]

    def _rows(self) -> list[tuple[str, ...]]:
        """The fields of what is shown, row by row."""
        model = self._model
        tape: dict[Round, tuple[str, ...]] = {
            Round.ACROSS: ("damper", "thick"),
            Round.STRIP: ("strip",),
            Round.STRING: ("string", "string_thick", "thick"),
        }
        rows: dict[Group, list[tuple[str, ...]]] = {
            Group.WHEEL: [("diameter", "hole"), tape[model.round], ("late",)],
            Group.FLYWHEEL: [("flywheel", "teeth", "thick")],
            Group.KEYWAY: [("shaft", "key")],
            Group.BLADES: [("blades",)],
            Group.CARDS: [],
        }
        return rows[model.group]

    def arrange(self) -> None:
        """Everything below one another; in a low window in two columns."""
        wide, high = self.logical_width, self.logical_height
        two = high < FULL
        column = (wide - 24) / 2 if two else wide
        right = column + 24 if two else 0.0
        self._heads, self._labels, self._placed = [], [], set()
        y = self._arrange_groups(column)
        y = self._arrange_first(y, column)
        if two:
            self._arrange_papers(0.0, y, column)
            self._arrange_buttons(0.0, column, high)
            y = self._arrange_tape(right, 0.0, column)
            self._arrange_proof(right, y, column, high)
        else:
            y = self._arrange_tape(0.0, y, column)
            y = self._arrange_papers(0.0, y + 4, column)
            foot = self._arrange_buttons(0.0, column, high)
            self._arrange_proof(0.0, y, column, foot - 4)
        for name, field in self.fields.items():
            field.setVisible(name in self._placed)

    def _row(
        self, buttons: Sequence[QWidget], left: float, y: float, wide: float, high: float
    ) -> None:
        each = (wide + 6) / len(buttons) - 6
        for nth, button in enumerate(buttons):
            button.setGeometry(self.look.scaled(left + nth * (each + 6), y, each, high))

    def _head(self, left: float, y: float, wide: float, words: str) -> float:
        self._heads.append((QRectF(left, y, wide, HEAD - 4), words))
        return y + HEAD

    def _put_fields(self, names: Sequence[str], left: float, y: float, wide: float) -> float:
        each = (wide + GAP) / len(names) - GAP
        for nth, name in enumerate(names):
            x = left + nth * (each + GAP)
            label = QRectF(x, y, each, LABEL_HIGH)
            self._labels.append((label, FIELDS[name].label, FIELDS[name].unit))
            self._put_field(name, x, y + LABEL_HIGH, each, FIELD)
        return y + LABEL_HIGH + FIELD + GAP

    def _put_field(self, name: str, x: float, y: float, wide: float, high: float) -> None:
        self._placed.add(name)
        self.fields[name].setGeometry(self.look.scaled(x, y, wide, high))

    def _arrange_groups(self, wide: float) -> float:
        widths = [text_width(button.text(), BODY, Weight.LABEL) + 18 for button in self.groups]
        spare = (wide - 6 * (len(widths) - 1) - sum(widths)) / len(widths)
        x = 0.0
        for button, own in zip(self.groups, widths, strict=True):
            button.setGeometry(self.look.scaled(x, 0, own + spare, TABS_HIGH))
            x += own + spare + 6
        return TABS_HIGH + GAP

    def _arrange_first(self, y: float, wide: float) -> float:
        """The wheel, or the one sheet that is asked about, or the cards."""
        group = self._model.group
        for button in self.faces:
            button.setVisible(group is Group.WHEEL)
        for key in self.cards:
            key.setVisible(group is Group.CARDS)
        if group is Group.CARDS:
            pitch = min(54.0, (self.logical_height - y - 76) / len(self.cards))
            for key in self.cards:
                key.setGeometry(self.look.scaled(0, y, wide, pitch - 5))
                y += pitch
            return y
        y = self._head(0, y, wide, TITLES[group])
        y = self._put_fields(self._rows()[0], 0, y, wide)
        if group is Group.WHEEL:
            self._row(self.faces, 0, y - 2, wide, 32)
            y += 32 + 6
        return y

    def _arrange_tape(self, left: float, y: float, wide: float) -> float:
        """How large the damper is, and the cast mark's error."""
        is_wheel = self._model.group is Group.WHEEL
        for button in (*self.rounds, self.late):
            button.setVisible(is_wheel)
        if not is_wheel:
            return y
        rows = self._rows()
        y = self._head(left, y, wide, "Damper tape")
        self._row(self.rounds, left, y - 2, wide, 32)
        y = self._put_fields(rows[1], left, y + 32, wide)
        half = (wide - GAP) / 2
        self._put_fields(rows[2], left, y - 2, half)
        late = (left + half + GAP, y - 2 + LABEL_HIGH, half, FIELD)
        self.late.setGeometry(self.look.scaled(*late))
        return y + LABEL_HIGH + FIELD + 2

    def _arrange_papers(self, left: float, y: float, wide: float) -> float:
        """Kinds of paper; a size of one's own is typed beside them."""
        own = self._model.paper_word == OWN
        room = wide - 112 if own else wide
        self._row(self.papers, left, y, room, 32)
        if own:
            self._put_field("own", left + room + 6, y - 1, 106, FIELD)
        return y + 32 + 4

    def _arrange_proof(self, left: float, y: float, wide: float, foot: float) -> None:
        """The printer with its bars, and what is said about them."""
        y = self._head(left, y, wide, "Proof: what do your bars measure?")
        third = (wide + GAP) / 3
        self._labels.append((QRectF(left, y, third - GAP, LABEL_HIGH), "printer", ""))
        printer = (left, y + LABEL_HIGH, third - GAP, FIELD)
        self.printer.setGeometry(self.look.scaled(*printer))
        y = self._put_fields(("across", "along"), left + third, y, wide - third)
        self._says = QRectF(left, y - 3, wide, max(foot - y + 3, 18))

    def _arrange_buttons(self, left: float, wide: float, high: float) -> float:
        """The proof, and the sheets; where they begin."""
        put, is_cards = self.look.scaled, self._model.group is Group.CARDS
        foot = high - (38 if is_cards else 80)
        self.look_at.setVisible(not is_cards)
        self.save.setVisible(not is_cards)
        half = (wide - GAP) / 2
        self.proof.setGeometry(put(left, foot, wide - 118, 36))
        self.outlines.setGeometry(put(left + wide - 112, foot, 112, 36))
        self.look_at.setGeometry(put(left, foot + 42, half, 36))
        self.save.setGeometry(put(left + half + GAP, foot + 42, half, 36))
        return foot

    def paint(self, p: QPainter) -> None:
        """Headings with their lines, names of the fields, what is wrong or done."""
        theme = self.look.theme
        for box, words in self._heads:
            end = box.left() + draw_text(p, box, words, LABEL + 1, theme.ink, Weight.STRONG) + 10
            if end < box.right() - 6:
                p.setPen(flat_pen(theme.line, 1.4))
                middle = round(box.center().y()) + 1
                p.drawLine(round(end), middle, round(box.right()), middle)
        for box, name, unit in self._labels:
            room = box.adjusted(0, 0, -26 if unit else 0, 0)
            draw_one_of(p, room, (name, name.split()[0]), NOTE + 1, theme.ink2)
            draw_text(p, box, unit, NOTE + 1, theme.ink2, Weight.BODY, RIGHT)
        self._paint_says(p)

    def _paint_says(self, p: QPainter) -> None:
        """What is wrong first; else what is done about the printer."""
        theme, box, model = self.look.theme, self._says, self._model
        wrong = self._own_wrong
        if wrong:
            lines = [(True, f"{capital(words)}.") for words in wrong[:2]]
        else:
            proof = model.sizes.proof
            told = proof.sentences
            if proof.is_plain:
                lines = [(True, NEVER_FIT)]
            else:
                lines = [(words == FIT_TO_PAGE, words) for words in told]
                lines += [] if proof.is_far else [(True, NEVER_FIT)]
        y = box.top()
        for warns, words in lines:
            if y + 18 > box.bottom():
                return
            mark = QRectF(box.left(), y + 1, 18, 18)
            if warns:
                paint_problem_mark(p, mark, theme.ink, theme.on_ink)
            else:
                paint_tick(p, mark.center(), 14, theme.ink)
            room = QRectF(box.left() + 26, y, box.width() - 26, box.bottom() - y)
            y = draw_paragraph(p, room, words, NOTE, theme.ink) + 1
