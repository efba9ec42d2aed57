"""The live line: its address, what the dial is on, what it shows, what was told wrong."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.cam.lining import PARTS, Lining
from true_compass.app.workspaces.cam.wheel_view import WheelView
from true_compass.core.degreeing.sheet import Part
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import RIGHT, draw_one_of, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, RING, Weight

ON_WORDS: Final = {
    Part.TOP: "the piston",
    Part.INTAKE: "the intake",
    Part.EXHAUST: "the exhaust",
}
LEFT: Final = 520.0
PRACTISE: Final = "Connect an instrument by its address, or practise with a simulated one."


class LineView(PageView):
    """The whole page."""

    def __init__(self, look: Look, lining: Lining, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = lining
        self.setObjectName("cam_line")
        self.setAccessibleName("Live line")
        self.address = QLineEdit(self)
        self.address.setObjectName("line_address")
        self.address.setAccessibleName("Address of the instrument")
        self.address.setPlaceholderText("127.0.0.1:4000 or /dev/ttyUSB0")
        self.address.setMaxLength(120)
        self.address.returnPressed.connect(self._toggle)
        self.connect_key = StrongButton(look, "Connect", self)
        self.connect_key.setObjectName("line_connect")
        self.connect_key.clicked.connect(self._toggle)
        self.practise = DrawnButton(look, "Practise with a simulated one", self)
        self.practise.setObjectName("line_practise")
        self.practise.clicked.connect(lining.practise)
        self.on = [TabButton(look, ON_WORDS[part], self) for part in PARTS]
        for part, button in zip(PARTS, self.on, strict=True):
            button.setObjectName(f"line_on_{part.value}")
            button.setAccessibleName(f"The dial is on {ON_WORDS[part]}")
            button.clicked.connect(partial(lining.choose, part))
        self.turning = DrawnButton(look, "Turn its engine from here", self)
        self.turning.setCheckable(True)
        self.turning.setObjectName("line_turning")
        self.turning.clicked.connect(lining.toggle_turning)
        self.wheel = WheelView(look, lining.model, self, self._dial)
        self.wheel.setObjectName("line_wheel")
        lining.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _toggle(self) -> None:
        if self._model.line.is_open:
            self._model.close()
        else:
            self._model.open(self.address.text())

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        model = self._model
        simulated = model.line.simulated is not None
        opened = "Put it away" if simulated else "Disconnect"
        self.connect_key.setText(opened if model.line.is_open else "Connect")
        self.practise.setEnabled(not model.line.is_open and model.model.sheet.setup is not None)
        self.practise.setText(
            "A simulated one turns by itself" if simulated else "Practise with a simulated one"
        )
        for part, button in zip(PARTS, self.on, strict=True):
            button.setVisible(part is Part.TOP or part.kind in model.model.kinds)
            button.setChecked(part is model.part)
        told = "Its engine turns with this one"
        self.turning.setText(told if model.turns_engine else "Turn its engine from here")
        self.turning.setChecked(model.turns_engine)
        style = field_style(self.look.theme, self.look.scale, wrong=False)
        if self.address.styleSheet() != style:
            self.address.setStyleSheet(style)
        self.update()

    def arrange(self) -> None:
        """Put everything in its place."""
        put = self.look.scaled
        wide = min(LEFT, self.logical_width)
        self.address.setGeometry(put(0, 84, wide - 146, 40))
        self.connect_key.setGeometry(put(wide - 138, 84, 138, 40))
        each = (wide - 12) / 3
        for nth, button in enumerate(self.on):
            button.setGeometry(put(nth * (each + 6), 164, each, 38))
        self.turning.setGeometry(put(0, 214, wide / 2 - 4, 38))
        self.practise.setGeometry(put(wide / 2 + 4, 214, wide / 2 - 4, 38))
        room, high = self.logical_width - wide - 40, self.logical_height
        self.wheel.setVisible(room >= 240 and high >= 420)
        self.wheel.setGeometry(put(wide + 40, 250, min(room, 300.0), high - 254))

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Headline, the two figures, the last pass, what was told."""
        theme, wide, model = self.look.theme, self.logical_width, self._model
        draw_text(p, QRectF(0, 0, wide, 36), self.headline, HEAD, theme.ink, Weight.STRONG)
        draw_one_of(p, QRectF(0, 38, wide, 24), (self.second_line,), BODY, theme.ink2)
        left = min(LEFT, wide)
        draw_text(p, QRectF(0, 136, left, 26), "The dial is on", LABEL, theme.ink, Weight.LABEL)
        lost = f", lost {model.line.lost_at}" if model.line.lost_at else ""
        ink = theme.ink2 if lost else theme.ink
        figures = (
            (f"Dial{lost}", self._mm(model.line.lift_mm)),
            (f"Crank{lost or ', by the encoder'}", self._deg(model.line.crank_deg)),
        )
        for nth, (name, words) in enumerate(figures):
            tall = min(96.0, self.logical_height - 270)
            box = QRectF(1 + nth * (left / 2 + 4), 268, left / 2 - 6, tall)
            rounded(p, box, 6, theme.sheet, flat_pen(theme.line, 1.8))
            draw_text(p, QRectF(box.left() + 12, 274, left / 2, 26), name, NOTE + 1, theme.ink2)
            figure = box.adjusted(12, 30, -8, -4)
            px = min(RING, figure.height())
            draw_text(p, figure, words, px, ink, Weight.STRONG)
        self._paint_passed(p, QRectF(0, 380, left, self.logical_height - 384))
        if wide > left + 200:
            foot = 240.0 if self.wheel.isVisible() else self.logical_height
            self._paint_told(p, QRectF(left + 40, 84, wide - left - 40, foot - 90))

    def _dial(self) -> tuple[str, str, float | None]:
        """What the dial is on, what it shows, and that in mm: the one that is read."""
        line = self._model.line
        on = f"on {ON_WORDS[self._model.part]} of {self._model.model.cylinder}"
        return on, self._mm(line.lift_mm), line.lift_mm

    def _mm(self, value: float | None) -> str:
        if value is None:
            return "–"
        return (
            f"{value / 25.4:.4f} in" if self._model.model.setup.gauge.inches else f"{value:.3f} mm"
        )

    def _deg(self, value: float | None) -> str:
        return "–" if value is None else f"{value:.1f}°"

    @property
    def headline(self) -> str:
        """What the line does now."""
        model = self._model
        if model.model.sheet.setup is None:
            return "Name the instruments on Set-up first."
        if model.line.lost_at:
            return f"The line was lost at {model.line.lost_at}: these are its last figures."
        if not model.line.is_open:
            return "Readings from an indicator and an encoder."
        if model.wrong_place:
            return model.impossible() or "Is the dial where it is said to be?"
        if model.turned_back:
            return "Turned back: nothing counts until you have come up again."
        if model.too_fast:
            return "Too fast: turn more slowly over it."
        if model.line.crank_deg is None:
            return "Connected: nothing has come yet."
        if not model.taking.empty_drops_mm(model.part):
            return f"All read on {ON_WORDS[model.part]}: move the dial, and say on what it is."
        over = "the top" if model.part is Part.TOP else "the nose"
        return f"Turn on over {over}: the readings go in by themselves."

    @property
    def second_line(self) -> str:
        """One line of why."""
        model = self._model
        if model.model.refused:
            return model.model.refused
        if not model.line.is_open:
            return PRACTISE
        return f"{model.line.readings} readings so far. In the running direction only."

    def _paint_passed(self, p: QPainter, box: QRectF) -> None:
        """The pairs of the last pass."""
        theme, passed = self.look.theme, self._model.passed
        if not passed or box.height() < 60:
            return
        title = "The last pass, taken" if self._model.taken else "The last pass"
        head = QRectF(box.left(), box.top(), box.width(), 26)
        draw_text(p, head, title, LABEL, theme.ink, Weight.STRONG)
        p.setPen(flat_pen(theme.ink2, 1.4))
        p.drawLine(head.bottomLeft(), head.bottomRight())
        wheel = self._model.model.setup.wheel
        for nth, one in enumerate(passed):
            row = QRectF(box.left(), box.top() + 30 + 28 * nth, box.width(), 28)
            if row.bottom() > box.bottom():
                return
            name = f"{self._model.model.mm_words(one.drop_mm)} down"
            draw_text(p, row, name, BODY, theme.ink)
            for share, at in ((0.6, one.before_deg), (0.95, one.after_deg)):
                cell = QRectF(row.left(), row.top(), row.width() * share, row.height())
                words = f"{wheel.figure_deg((at + 180) % 360 - 180):.2f}"
                draw_text(p, cell, words, BODY, theme.ink, Weight.LABEL, RIGHT)

    def _paint_told(self, p: QPainter, box: QRectF) -> None:
        """What was told wrong, the newest first."""
        theme = self.look.theme
        head = QRectF(box.left(), box.top(), box.width(), 28)
        draw_text(p, head, "What the line told", LEAD, theme.ink, Weight.STRONG)
        told = self._model.line.told[::-1] or ["Nothing wrong so far."]
        y = box.top() + 36
        for nth, sentence in enumerate(told):
            colour = theme.ink if nth == 0 else theme.ink2
            if y + 24 > box.bottom():
                return
            room = QRectF(box.left(), y, box.width(), 60)
            y = draw_paragraph(p, room, sentence, BODY, colour) + 8
