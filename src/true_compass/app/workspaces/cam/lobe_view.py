"""One lobe measured: figures at the left, the lobe in the middle, its siblings at the right."""

from dataclasses import dataclass
from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.undo import UndoButton
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.widgets.stepping import SteppingView
from true_compass.app.workspaces.cam.lobing import PLACES, LobeCell, Lobing, What
from true_compass.app.workspaces.cam.pad import HEIGHT as PAD
from true_compass.app.workspaces.cam.pad import Pad
from true_compass.core.degreeing.curve import Station, curve_of
from true_compass.core.items import Item, Kind
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.job_chart import paint_item
from true_compass.drawing.lobe_chart import paint_along, paint_lobe, paint_siblings
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

SIDE: Final = 372.0
MIDDLE: Final = 300.0
ROW: Final = 29.0
TURNS: Final = "turns counted"


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the table: its cells with the right edge of each, and where it stands."""

    name: str
    top: float
    cells: tuple[tuple[LobeCell, float], ...]


class LobeRowsView(SteppingView):
    """The table of one lobe; a press asks for that figure."""

    def __init__(self, look: Look, lobing: Lobing, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = lobing
        self.setObjectName("lobe_rows")
        self.setAccessibleName("Figures of this lobe")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        lobing.changed.connect(self.update)

    @property
    def blocks(self) -> tuple[bool, bool]:
        """Whether micrometer and indicator are shown; where it is low, the asked one alone."""
        if self.logical_height >= 250:
            return True, True
        asked = self._model.asked
        dial = asked is not None and asked.what in (What.DIAL_HEEL, What.DIAL_NOSE)
        return not dial, dial

    def lines(self) -> list[Line]:
        """Every line with its cells."""
        wide, high = self.logical_width, self.row_high
        micrometer, dial = self.blocks
        lines, top = [], 0.0
        if micrometer:
            top = 52.0
            for place, name in enumerate(PLACES):
                cells = (
                    (LobeCell(What.NOSE, place), wide - 184.0),
                    (LobeCell(What.HEEL, place), wide - 92.0),
                )
                lines.append(Line(name, top, cells))
                top += high
            top += 8.0
        if dial:
            top += 30.0
            for name, cell in (
                ("on the heel", LobeCell(What.DIAL_HEEL)),
                (TURNS, None),
                ("on the nose, at reversal", LobeCell(What.DIAL_NOSE)),
            ):
                lines.append(Line(name, top, () if cell is None else ((cell, wide - 2.0),)))
                top += high + (6 if cell is None else 0)
        return lines

    @property
    def row_high(self) -> float:
        """Height of one row."""
        count = 7 if all(self.blocks) else 4
        return min(ROW, max((self.logical_height - 18 * count) / count, 18.0))

    @property
    def turns_top(self) -> float | None:
        """Where the turns stand, or None where they are not shown."""
        return next((line.top for line in self.lines() if line.name == TURNS), None)

    def paint(self, p: QPainter) -> None:
        """Micrometer above indicator."""
        theme, wide, model = self.look.theme, self.logical_width, self._model
        lines = self.lines()
        micrometer, dial = self.blocks
        if micrometer:
            self._head(p, 0.0, "Micrometer", 130.0)
            label = QRectF(wide - 124, 0, 50, 28)
            draw_text(p, label, "zero", NOTE, theme.ink2, align=RIGHT)
            for words, right in (("A over nose", 184.0), ("B heel", 92.0), ("lift", 2.0)):
                cell = QRectF(wide - right - 96, 29, 96, 22)
                draw_text(p, cell, words, NOTE, theme.ink2, align=RIGHT)
        if dial:
            turn = model.model.mm_words(model.model.setup.gauge.turn_mm)
            self._head(p, lines[-3].top - 30, f"Indicator, one turn {turn}", 0.0)
        for line in lines:
            self._line(p, line)
        top = self.turns_top
        if top is not None:
            box = QRectF(wide - 106, top, 60, self.row_high + 4)
            draw_text(p, box, str(model.rows.turns), LEAD, theme.ink, Weight.STRONG, CENTRE)
        foot = lines[-1].top + self.row_high + 4
        told = model.two_ways or self._agree()
        if told and foot + 24 <= self.logical_height:
            draw_one_of(p, QRectF(0, foot, wide, 24), (told,), BODY, theme.ink, Weight.LABEL)

    def _agree(self) -> str:
        dial = self._model.dial_lift_mm(self._model.item)
        if dial is None:
            return ""
        both = self._model.state_of(self._model.item) is not None
        words = self._model.model.mm_words(dial)
        return f"Both ways agree: {words}" if both else f"By the indicator: {words}"

    def _head(self, p: QPainter, top: float, title: str, end: float) -> None:
        theme = self.look.theme
        box = QRectF(0, top, self.logical_width, 26)
        used = draw_text(p, box, title, LABEL, theme.ink, Weight.STRONG)
        p.setPen(flat_pen(theme.ink2, 1.4))
        y = box.center().y()
        if self.logical_width - end > used + 16:
            p.drawLine(QPointF(used + 10, y), QPointF(self.logical_width - end, y))

    def _line(self, p: QPainter, line: Line) -> None:
        theme, model, high = self.look.theme, self._model, self.row_high
        asked = model.asked
        box = QRectF(0, line.top, self.logical_width, high)
        if any(cell == asked for cell, _ in line.cells):
            p.fillRect(box, theme.now_tint)
        draw_text(p, box.adjusted(2, 0, -100, 0), line.name, BODY, theme.ink)
        for cell, right in line.cells:
            value = model.figure(cell)
            if cell == asked:
                place = QRectF(right - 70, line.top + 2, 72, high - 4)
                rounded(p, place, 4, theme.sheet, flat_pen(theme.now, 2.6))
            if value is not None:
                words = self._words(value)
                place = QRectF(right - 68, line.top, 66, high)
                draw_text(p, place, words, BODY, theme.ink, Weight.LABEL, RIGHT)
        if line.name in PLACES:
            told = model.places(model.item).get(PLACES.index(line.name))
            if told is not None:
                place = QRectF(self.logical_width - 84, line.top, 82, high)
                words = self._words(told.lift_mm)
                draw_text(p, place, words, BODY, theme.ink, Weight.STRONG, RIGHT)
        p.setPen(flat_pen(theme.hair, 1))
        p.drawLine(box.bottomLeft(), box.bottomRight())

    def _words(self, mm: float) -> str:
        return f"{mm / 25.4:.4f}" if self._model.model.setup.gauge.inches else f"{mm:.2f}"

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Ask for the figure that was pressed."""
        if event is None:
            return
        at = event.position() / self.look.scale
        for line in self.lines():
            if line.top <= at.y() < line.top + self.row_high:
                for cell, right in line.cells:
                    if at.x() < right + 6:
                        self._model.pick(cell)
                        return

    def step(self, by: int) -> None:
        """Go along the figures."""
        self._model.step(by)


class LobeView(PageView):
    """The whole page."""

    def __init__(self, look: Look, lobing: Lobing, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = lobing
        self.setObjectName("cam_lobe")
        self.setAccessibleName("Lobe")
        self.rows = LobeRowsView(look, lobing, self)
        self.pad = Pad(look, lobing, UndoButton(lobing.model.desk, self), self)
        self.before, self.after = (DrawnButton(look, word, self) for word in ("−", "+"))
        self.fewer, self.more = (DrawnButton(look, word, self) for word in ("−", "+"))
        for button, name, act in (
            (self.before, "Lobe before", partial(lobing.next_lobe, -1)),
            (self.after, "Next lobe", partial(lobing.next_lobe, 1)),
            (self.fewer, "One turn less", partial(lobing.turn_count, -1)),
            (self.more, "One turn more", partial(lobing.turn_count, 1)),
        ):
            button.setAccessibleName(name)
            button.setObjectName(name.lower().replace(" ", "_"))
            button.clicked.connect(act)
        self.zero = QLineEdit(self)
        self.zero.setObjectName("zero_error")
        self.zero.setAccessibleName("What the shut micrometer reads")
        self.zero.setMaxLength(10)
        self.zero.editingFinished.connect(self._zero_typed)
        lobing.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _zero_text(self) -> str:
        return f"{self._model.model.sheet.zero_error_mm:.3g}"

    def _zero_typed(self) -> None:
        if self.zero.text() != self._zero_text():
            self._model.set_zero(self.zero.text())

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        style = field_style(self.look.theme, self.look.scale, wrong=False)
        if self.zero.styleSheet() != style:
            self.zero.setStyleSheet(style)
        if not self.zero.hasFocus() and self.zero.text() != self._zero_text():
            self.zero.setText(self._zero_text())
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Put every widget in its place."""
        put, high = self.look.scaled, self.logical_height
        pad = min(PAD, max(high * 0.42, 184.0))
        top = 52.0
        self.pad.setGeometry(put(0, high - pad, SIDE, pad))
        self.rows.setGeometry(put(0, top, SIDE, high - pad - top - 6))
        self.before.setGeometry(put(SIDE - 76, 6, 34, 34))
        self.after.setGeometry(put(SIDE - 36, 6, 34, 34))
        self.zero.setGeometry(put(SIDE - 70, top, 70, 28))
        turns, row = self.rows.turns_top, self.rows.row_high
        self.zero.setVisible(self.rows.blocks[0])
        for button, x in ((self.fewer, SIDE - 150), (self.more, SIDE - 46)):
            button.setVisible(turns is not None)
            button.setGeometry(put(x, top + (turns or 0.0) + 1, 44, row + 3))
        for widget in (self.zero, self.fewer, self.more):
            widget.raise_()

    def paint(self, p: QPainter) -> None:
        """Name, headline, lobe, wear, siblings."""
        theme, model = self.look.theme, self._model
        paint_item(p, QRectF(2, 2, 92, 40), model.item, theme)
        words = QRectF(106, 2, SIDE - 190, 40)
        of = f"{model.kind.value} lobe of {model.cylinder}"
        draw_text(p, words, of, BODY, theme.ink2)
        left = SIDE + 32
        room = self.logical_width - left
        head = QRectF(left, 0, room, 34)
        draw_text(p, head, model.headline, HEAD, theme.ink, Weight.STRONG)
        row = QRectF(left, 34, room, 24)
        draw_one_of(p, row, (model.refused or model.second_line,), BODY, theme.ink2)
        wide = room >= 560
        if wide:
            self._paint_lobe(p, QRectF(left, 66, MIDDLE, self.logical_height - 70))
            left += MIDDLE + 20
        self._paint_kinds(p, QRectF(left, 72, self.logical_width - left, self.logical_height - 76))

    def _paint_lobe(self, p: QPainter, box: QRectF) -> None:
        model, theme = self._model, self.look.theme
        curve = curve_of(model.model.rig, model.cylinder, model.kind, Station.TAPPET)
        places = model.places(model.item)
        told = places.get(1) or next(iter(places.values()), None)
        base = told.base_mm if told is not None else curve.peak_mm * 4.5
        others = model.among(model.kind)
        usual = others.others_mm if others is not None else curve.peak_mm
        worn = told.lift_mm / usual if told is not None and usual > 0 else 1.0
        figures = (told.nose_mm, told.base_mm) if told is not None else (None, None)
        caption = QRectF(box.left(), box.top(), box.width(), 20)
        name = model.item.name
        of = f"Middle of {name}, square to the nose" if 1 in places else f"Shape of {name}"
        draw_one_of(p, caption, (of,), NOTE, theme.ink2, Weight.LABEL)
        shape = QRectF(box.left(), box.top() + 18, box.width(), box.height() * 0.66)
        paint_lobe(p, shape, curve, base, figures, min(worn, 1.0), theme)
        if len(places) >= 2 and others is not None and others.lowest.kind is model.kind:
            low = {place: usual - one.lift_mm for place, one in places.items()}
            top = box.top() + box.height() * 0.72
            paint_along(p, QRectF(box.left(), top, box.width(), box.bottom() - top), low, theme)

    def _paint_kinds(self, p: QPainter, box: QRectF) -> None:
        model = self._model
        kinds = [kind for kind in (Kind.EXHAUST, Kind.INTAKE) if kind in model.model.kinds]
        if not kinds:
            return
        each = (box.height() - 16 * (len(kinds) - 1)) / len(kinds)
        for nth, kind in enumerate(kinds):
            lifts = {}
            for item in model.lifts(kind):
                places = model.places(item)
                dial = model.dial_lift_mm(item)
                values = [one.lift_mm for one in places.values()]
                lifts[item] = values or ([dial] if dial is not None else [])
            part = QRectF(box.left(), box.top() + nth * (each + 16), box.width(), each)
            paint_siblings(
                p,
                part,
                kind,
                _at_most(lifts, model),
                model.among(kind),
                model.item,
                self.look.theme,
            )


def _at_most(lifts: dict[Item, list[float]], model: Lobing) -> dict[Item, list[float]]:
    """Up to twelve lobes beside each other: those about the one that is measured."""
    items = sorted(lifts, key=lambda item: item.cylinder)
    if len(items) <= 12:
        return {item: lifts[item] for item in items}
    near = sorted(items, key=lambda item: abs(item.cylinder - model.cylinder))[:12]
    return {item: lifts[item] for item in items if item in near}
