"""Choosing a layout: family, number of cylinders, angle between the banks, kind of crank."""

from dataclasses import dataclass, replace
from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, TabButton
from true_compass.app.widgets.fields import field_style, typed_number
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.engine.hand.model import HandModel
from true_compass.core.crank.makers import FAMILIES, Family, Variant
from true_compass.core.crank.wished import EXAMPLE, MOST_OFFERED, Offer, offers, parse_wish
from true_compass.core.limits import LIMITS, EngineError
from true_compass.core.rotation import Rotation
from true_compass.core.units import parse_number
from true_compass.drawing.text import draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight

MOST_ROW: Final = 92.0
LEAST_ROW: Final = 62.0
LINE: Final = 76.0
"""The line at the top with its heading; in a low window it has none."""
LOW_LINE: Final = 48.0
LOW: Final = 360.0
HIGH: Final = 40.0
MOST_COUNTS: Final = 18
MOST_VARIANTS: Final = 4
TURNS: Final = {Rotation.CLOCKWISE: "Clockwise", Rotation.ANTICLOCKWISE: "Anticlockwise"}


@dataclass(frozen=True, slots=True)
class Wish:
    """What is chosen so far."""

    family: Family
    count: int
    angle_deg: float
    variant: Variant


class LayoutPad(Painted):
    """Four rows of buttons; each press makes the engine that is chosen, as one step of undo."""

    def __init__(self, model: HandModel, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.model = model
        self.setObjectName("layout_pad")
        self.setAccessibleName("Layout")
        self.wish = self._wish_of(model)
        self._before = model.settled
        self.problem = ""
        self.line = QLineEdit(self)
        self.line.setObjectName("engine_line")
        self.line.setAccessibleName("Layout, cylinders and order in one line")
        self.line.setPlaceholderText(EXAMPLE)
        self.line.setMaxLength(120)
        self.line.textEdited.connect(self._on_line)
        self.line.returnPressed.connect(self._take_first)
        self.offered: list[Offer] = []
        self.told = ""
        """What is wrong with the line so far."""
        self.offers = [DrawnButton(look, "offer", self) for _ in range(MOST_OFFERED)]
        for nth, button in enumerate(self.offers):
            button.setObjectName(f"offer_{nth}")
            button.clicked.connect(partial(self._take, nth))
        self.families = [TabButton(look, family.word, self) for family in FAMILIES]
        self.counts = [TabButton(look, str(n), self) for n in range(1, MOST_COUNTS + 1)]
        self.variants = [TabButton(look, "variant", self) for _ in range(MOST_VARIANTS)]
        self.turns = [TabButton(look, words, self) for words in TURNS.values()]
        self.less = DrawnButton(look, "−", self)
        self.more = DrawnButton(look, "+", self)
        self.less.setAccessibleName("1° less between the banks")
        self.more.setAccessibleName("1° more between the banks")
        self.angle = QLineEdit(self)
        self.angle.setObjectName("bank_angle")
        self.angle.setAccessibleName("Angle between the banks, degrees")
        self.angle.setMaxLength(12)
        for button in self.families:
            button.clicked.connect(self._on_family)
        for button in self.counts:
            button.clicked.connect(self._on_count)
        for button in self.variants:
            button.clicked.connect(self._on_variant)
        for button in self.turns:
            button.clicked.connect(self._on_turns)
        self.less.clicked.connect(self._less)
        self.more.clicked.connect(self._more)
        self.angle.editingFinished.connect(self._on_angle)
        model.changed.connect(self._follow)
        look.changed.connect(self._arrange)

    @staticmethod
    def _wish_of(model: HandModel) -> Wish:
        family = model.family
        count = model.engine.cylinder_count
        variants = family.variants_of(count) or family.variants
        angles = [bank.angle_deg for bank in model.engine.layout.banks]
        between = (max(angles) - min(angles)) / max(len(angles) - 1, 1)
        return Wish(family, count, between or family.angle_of(count), variants[0])

    def _follow(self) -> None:
        """Show the family and the count of the engine that is open, while anybody looks."""
        if not self.isVisible():
            return
        if self.offered and self.model.settled is not self._before:
            self.line.clear()
            self._on_line("")
        now = self._wish_of(self.model)
        if (now.family, now.count) != (self.wish.family, self.wish.count):
            self.wish = now
        elif self.wish.family.usual_deg:
            self.wish = replace(self.wish, angle_deg=now.angle_deg)
        if not self.angle.hasFocus():
            self.angle.setText(typed_number(f"{self.wish.angle_deg:.4g}"))
        self._arrange()

    # The line ----------------------------------------------------------------------------------

    def _on_line(self, text: str) -> None:
        """What was typed so far: the engines that fire so, or what is missing."""
        self.offered, self.told, self._before = [], "", self.model.settled
        if text.strip():
            try:
                wish = parse_wish(text)
                self.offered = offers(wish)
            except EngineError as error:
                self.told = f"{error.in_words}."
            else:
                if not self.offered:
                    self.told = "No crank of this kind fires in that order: try another layout."
        self._arrange()

    def _take_first(self) -> None:
        if self.offered:
            self._take(0)

    def _take(self, nth: int) -> None:
        """Make the engine that is offered."""
        if nth < len(self.offered):
            engine = self.offered[nth].engine
            self.line.clear()
            self._on_line("")
            self.model.take_offer(engine)

    # What a press does -------------------------------------------------------------------------

    def _on_family(self) -> None:
        for family, button in zip(FAMILIES, self.families, strict=True):
            if button is self.sender():
                count = self.wish.count if self.wish.count in family.counts else family.usual_count
                variant = family.variants_of(count)[0]
                self._make(Wish(family, count, family.angle_of(count), variant))

    def _on_count(self) -> None:
        for number, button in enumerate(self.counts, start=1):
            if button is self.sender():
                family, variant = self.wish.family, self.wish.variant
                if number not in variant.counts:
                    variant = family.variants_of(number)[0]
                usual = family.angle_of(number)
                angle = usual if number != self.wish.count else self.wish.angle_deg
                self._make(Wish(family, number, angle, variant))

    def _on_variant(self) -> None:
        ways = self.wish.family.variants_of(self.wish.count)
        for variant, button in zip(ways, self.variants, strict=False):
            if button is self.sender():
                self._make(replace(self.wish, variant=variant))

    def _on_turns(self) -> None:
        for rotation, button in zip(TURNS, self.turns, strict=True):
            if button is self.sender():
                self.model.turn_round(rotation)

    def _less(self) -> None:
        self._make(replace(self.wish, angle_deg=self.wish.angle_deg - 1.0))

    def _more(self) -> None:
        self._make(replace(self.wish, angle_deg=self.wish.angle_deg + 1.0))

    def _on_angle(self) -> None:
        """Any angle may be typed."""
        try:
            angle = parse_number("angle between the banks", self.angle.text())
        except EngineError as error:
            self.problem = f"The {error.field} {error}."
            self.update()
            return
        if self.wish.family.usual_deg and abs(angle - self.wish.angle_deg) > 1e-9:
            self._make(replace(self.wish, angle_deg=angle))

    def _make(self, wish: Wish) -> None:
        low, high = LIMITS["between_banks_deg"]
        if wish.family.usual_deg and not low <= wish.angle_deg <= high:
            self.problem = f"The angle between the banks must be {low:g} to {high:g}°."
            self.update()
            return
        self.problem = ""
        self.wish = wish
        self.model.make(wish.family, wish.count, wish.angle_deg, wish.variant)

    @property
    def _line_high(self) -> float:
        """Room for the line at the top."""
        return LINE if self.logical_height >= LOW else LOW_LINE

    @property
    def _pitch(self) -> float:
        """From one heading to the next; less in a low window."""
        room = self.logical_height - self._line_high - 30 - HIGH
        return max(min(MOST_ROW, room / 3), LEAST_ROW)

    # Places ------------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent | None) -> None:
        """Another engine may have been opened meanwhile."""
        super().showEvent(event)
        self._follow()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place the buttons."""
        super().resizeEvent(event)
        self._arrange()

    def _row(self, buttons: list[TabButton], y: float, chosen: str, least: float) -> None:
        """Buttons in a line, as wide as their words; on the next line where there is no room."""
        x = 0.0
        for button in buttons:
            wide = max(text_width(button.text(), BODY, Weight.LABEL) + 26, least)
            if x + wide > self.logical_width and x > 0:
                x, y = 0.0, y + HIGH + 6
            button.setGeometry(self.look.scaled(x, y, wide, HIGH))
            button.setChecked(button.text() == chosen)
            button.setVisible(True)
            button.repaint_all()
            x += wide + 6

    def _arrange(self) -> None:
        put = self.look.scaled
        top = self._line_high
        self.line.setGeometry(put(0, top - 50 if top == LINE else 0, self.logical_width, HIGH))
        sheet = field_style(self.look.theme, self.look.scale, wrong=bool(self.told))
        if self.line.styleSheet() != sheet:
            self.line.setStyleSheet(sheet)
        each = min((self.logical_height - self._line_high - 30) / MOST_OFFERED, 60.0)
        for nth, button in enumerate(self.offers):
            button.setVisible(nth < len(self.offered))
            button.setGeometry(put(0, top + 28 + nth * each, self.logical_width, each - 6))
            if nth < len(self.offered):
                offer = self.offered[nth]
                button.set_words(f"{offer.head}: use it", offer.note)
        if self.offered:
            rest = (*self.families, *self.counts, *self.variants, *self.turns)
            for view in (*rest, self.less, self.angle, self.more):
                view.setVisible(False)
        else:
            self._arrange_rows()
        self.update()

    def _arrange_rows(self) -> None:
        """Family, cylinders, crank and angle as buttons."""
        wish = self.wish
        self._row(self.families, self._line_high + 26, wish.family.word, 60)
        counts = [b for n, b in enumerate(self.counts, start=1) if n in wish.family.counts]
        ways = wish.family.variants_of(wish.count)
        for variant, button in zip(ways, self.variants, strict=False):
            button.setText(variant.words)
        shown = {*counts, *self.variants[: len(ways)]}
        for button in (*self.counts, *self.variants):
            if button not in shown:
                button.setVisible(False)
        self._row(counts, self._line_high + 26 + self._pitch, str(wish.count), 46)
        variants = self.variants[: len(ways)]
        self._row(variants, self._line_high + 26 + 2 * self._pitch, wish.variant.words, 90)
        angled = bool(wish.family.usual_deg)
        y = self._line_high + 26 + 3 * self._pitch
        parts: tuple[tuple[float, float, QWidget], ...] = (
            (0, 46, self.less),
            (52, 86, self.angle),
            (144, 46, self.more),
        )
        for x, wide, part in parts:
            part.setVisible(angled)
            part.setGeometry(self.look.scaled(x, y, wide, HIGH))
        left = 250.0 if angled else 0.0
        for rotation, button in zip(TURNS, self.turns, strict=True):
            wide = text_width(button.text(), BODY, Weight.LABEL) + 26
            button.setGeometry(self.look.scaled(left, y, wide, HIGH))
            button.setChecked(self.model.settled.rotation is rotation)
            button.setVisible(True)
            button.repaint_all()
            left += wide + 6
        sheet = field_style(self.look.theme, self.look.scale, wrong=bool(self.problem))
        if self.angle.styleSheet() != sheet:
            self.angle.setStyleSheet(sheet)

    def paint(self, p: QPainter) -> None:
        """Draw the headings, and what cannot be."""
        theme = self.look.theme
        high = self._line_high
        head = QRectF(0, 0, self.logical_width, 24)
        if high == LINE:
            used = draw_text(p, head, "In one line", LABEL, theme.ink, Weight.STRONG)
            head = head.adjusted(used + 16, 0, 0, 0)
            draw_one_of(p, head, (self.told,), NOTE + 1, theme.ink)
        if self.offered:
            below = QRectF(0, high + 2, self.logical_width, 24)
            draw_text(p, below, "What fires so", LABEL, theme.ink, Weight.STRONG)
            return
        angled = bool(self.wish.family.usual_deg)
        heads = ["Family", "Cylinders", "Crank"] + (["Angle between banks, °"] if angled else [])
        for place, words in enumerate(heads):
            box = QRectF(0, high + self._pitch * place, self.logical_width, 24)
            draw_text(p, box, words, LABEL, theme.ink, Weight.STRONG)
        left = 250.0 if angled else 0.0
        seen = f"Turns, seen from the {self.model.settled.seen_from.value}"
        box = QRectF(left, high + 3 * self._pitch, self.logical_width - left, 24)
        draw_text(p, box, seen, LABEL, theme.ink, Weight.STRONG)
        if self.problem:
            box = QRectF(0, high + 26 + 3 * self._pitch + HIGH, self.logical_width, 24)
            draw_text(p, box, self.problem, NOTE + 1, theme.ink, Weight.LABEL)
