"""The instruments, asked and not assumed: wheel, indicator, where it stands, what is ready."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import StrongButton, TabButton
from true_compass.app.widgets.fields import field_style, typed_number
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.cam.model import THOU_MM, CamModel
from true_compass.app.workspaces.cam.ticks import TickButton
from true_compass.core.cautions import CARE
from true_compass.core.degreeing.curve import Station
from true_compass.core.degreeing.sheet import Gauge, Ready, Setup
from true_compass.core.degreeing.wheel import Scale, Zero
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_length_mm, parse_number
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.degree_wheel import WheelFace
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import draw_one_of, draw_paragraph, draw_text, paragraph_height
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, Weight

ROW: Final = 46.0
LABEL_WIDE: Final = 168.0
SHOWN_DEG: Final = 20.0


@dataclass(frozen=True, slots=True)
class Choice:
    """One row of words, one of which holds. `held` tells which, `take` makes another hold."""

    label: str
    words: tuple[str, ...]
    held: Callable[[Setup], int]
    take: Callable[[Setup, int], Setup]
    shown: Callable[[Setup], bool] = lambda _setup: True


def _wheel(setup: Setup, **changes: object) -> Setup:
    return replace(setup, wheel=replace(setup.wheel, **changes))  # type: ignore[arg-type]


def _gauge(setup: Setup, **changes: object) -> Setup:
    return replace(setup, gauge=replace(setup.gauge, **changes))  # type: ignore[arg-type]


def _unit(setup: Setup, nth: int) -> Setup:
    """mm or inches, with the usual turn and step of such a dial."""
    inches = nth == 1
    gauge: Gauge = replace(
        setup.gauge,
        inches=inches,
        turn_mm=2.54 if inches else 1.0,
        step_mm=THOU_MM if inches else 0.01,
        travel_mm=25.4 if inches else 25.0,
    )
    return replace(setup, gauge=gauge)


SCALES: Final = tuple(Scale)
ZEROS: Final = tuple(Zero)
STATIONS: Final = tuple(Station)
CHOICES: Final = (
    Choice(
        "This wheel reads",
        ("0 to 360", "0-180-0", "0-90 × 4"),
        lambda setup: SCALES.index(setup.wheel.scale),
        lambda setup, nth: _wheel(setup, scale=SCALES[nth], against=False),
    ),
    Choice(
        "Its zero is at",
        ("TDC", "BDC"),
        lambda setup: ZEROS.index(setup.wheel.zero),
        lambda setup, nth: _wheel(setup, zero=ZEROS[nth]),
    ),
    Choice(
        "Turning on, figures",
        ("grow", "fall"),
        lambda setup: int(setup.wheel.against),
        lambda setup, nth: _wheel(setup, against=nth == 1),
        lambda setup: setup.wheel.scale is Scale.FULL,
    ),
    Choice(
        "The indicator reads",
        ("mm", "inches"),
        lambda setup: int(setup.gauge.inches),
        _unit,
    ),
    Choice(
        "It is",
        ("a dial, turns counted", "digital, with a sign"),
        lambda setup: int(setup.gauge.digital),
        lambda setup, nth: _gauge(setup, digital=nth == 1),
    ),
    Choice(
        "It stands at the",
        tuple(station.value for station in STATIONS),
        lambda setup: STATIONS.index(setup.gauge.station),
        lambda setup, nth: _gauge(setup, station=STATIONS[nth]),
    ),
)
FIELDS: Final = ("Wheel's diameter", "read to", "One turn", "step", "Its travel")


class SetupView(PageView):
    """Rows of choices at the left, what must be ready and the cautions at the right."""

    begun = pyqtSignal()

    def __init__(self, look: Look, model: CamModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._draft: Setup | None = None
        self._wrong = ""
        self.setObjectName("cam_setup")
        self.setAccessibleName("Set-up")
        self.choices = [
            [TabButton(look, words, self) for words in choice.words] for choice in CHOICES
        ]
        for choice, buttons in zip(CHOICES, self.choices, strict=True):
            for nth, button in enumerate(buttons):
                button.setAccessibleName(f"{choice.label} {choice.words[nth]}")
                button.clicked.connect(partial(self._take, choice, nth))
        self.fields = [QLineEdit(self) for _ in FIELDS]
        for name, field in zip(FIELDS, self.fields, strict=True):
            field.setObjectName(f"setup_{name.split()[-1]}")
            field.setAccessibleName(name)
            field.setMaxLength(12)
            field.editingFinished.connect(self._read_fields)
        self.ticks = [TickButton(look, ready.words, self) for ready in Ready]
        for ready, tick in zip(Ready, self.ticks, strict=True):
            tick.setObjectName(f"ready_{ready.value}")
            tick.clicked.connect(partial(self._tick, ready))
        self.begin = StrongButton(look, "These are the instruments: begin", self)
        self.begin.setObjectName("begin")
        self.begin.clicked.connect(self._begin)
        model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    @property
    def setup(self) -> Setup:
        """The instruments as they stand on the page."""
        return self._draft or self._model.setup

    # Choosing ---------------------------------------------------------------------------------

    def _take(self, choice: Choice, nth: int) -> None:
        self._put(choice.take(self.setup, nth))

    def _tick(self, ready: Ready) -> None:
        ticked = set(self.setup.ready) ^ {ready}
        self._put(replace(self.setup, ready=tuple(one for one in Ready if one in ticked)))

    def _put(self, setup: Setup) -> None:
        """Once readings were begun, each change is an entry of its own."""
        self._draft, self._wrong = setup, ""
        if self._model.sheet.setup is not None:
            self._draft = None
            self._model.name_setup(setup)
        self.refresh()

    def _read_fields(self) -> None:
        if not self.isVisible():
            return
        texts = [field.text() for field in self.fields]
        try:
            setup = _with_figures(self.setup, texts)
        except EngineError as error:
            self._wrong = error.in_words
            self._show_marks()
            self.update()
            return
        if setup != self.setup:
            self._put(setup)
        else:
            self._wrong = ""
            self.refresh()

    def _begin(self) -> None:
        if self._wrong:
            return
        setup = self.setup
        self._draft = None
        self._model.name_setup(setup)
        self.begun.emit()

    # Showing ----------------------------------------------------------------------------------

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        setup = self.setup
        for choice, buttons in zip(CHOICES, self.choices, strict=True):
            held = choice.held(setup)
            for nth, button in enumerate(buttons):
                button.setVisible(choice.shown(setup))
                button.setChecked(nth == held)
        if not self._wrong:
            for field, words in zip(self.fields, _figure_texts(setup), strict=True):
                if field.text() not in (words, typed_number(words)) and not field.hasFocus():
                    field.setText(typed_number(words))
        for ready, tick in zip(Ready, self.ticks, strict=True):
            tick.show_ticked(ready in setup.ready)
        words = "These are the instruments: begin"
        if self._model.sheet.setup is not None:
            words = "Back to the readings"
        if self.begin.text() != words:
            self.begin.setText(words)
        self._show_marks()
        self.arrange()
        self.update()

    def _show_marks(self) -> None:
        wrong = self._wrong.split(" ")[0]
        for name, field in zip(FIELDS, self.fields, strict=True):
            marked = bool(wrong) and name.startswith(wrong)
            style = field_style(self.look.theme, self.look.scale, wrong=marked)
            if field.styleSheet() != style:
                field.setStyleSheet(style)

    @property
    def _top(self) -> float:
        """Where the rows begin: a low window goes without the second line."""
        return 84.0 if self.logical_height > 400 else 48.0

    @property
    def _row_high(self) -> float:
        return min(ROW, (self.logical_height - self._top - 16) / (len(CHOICES) + 3))

    @property
    def _right(self) -> float:
        return max(self.logical_width * 0.56, 480.0)

    def arrange(self) -> None:
        """Put every widget in its place."""
        put = self.look.scaled
        high = self._row_high
        top = self._top
        room = self._right - 32 - LABEL_WIDE
        setup = self.setup
        for choice, buttons in zip(CHOICES, self.choices, strict=True):
            if not choice.shown(setup):
                continue
            each = (room - 6 * (len(buttons) - 1)) / len(buttons)
            for nth, button in enumerate(buttons):
                button.setGeometry(put(LABEL_WIDE + nth * (each + 6), top, each, high - 8))
            top += high
        for nth, field in enumerate(self.fields):
            left = LABEL_WIDE + (nth % 2) * (room / 2 + 6)
            y = top + nth // 2 * high
            if nth % 2:
                left += 44
            field.setGeometry(put(left, y, room / 2 - 50, high - 8))
        right = self._right
        wide = self.logical_width - right - 4
        row = min(40.0, high - 4)
        for nth, tick in enumerate(self.ticks):
            tick.setGeometry(put(right, self._top + nth * (row + 4), wide, row))
        self.begin.setGeometry(put(right, self.logical_height - 54, wide, 46))

    def paint(self, p: QPainter) -> None:
        """Labels of the rows, the tick marks, and the cautions."""
        theme, wide = self.look.theme, self.logical_width
        head = "Name the instruments: nothing is assumed."
        draw_text(p, QRectF(0, 0, wide, 36), head, HEAD, theme.ink, Weight.STRONG)
        told = self._wrong or "What you type stands as the wheel shows it; this says what it means."
        if self._top > 60 or self._wrong:
            draw_one_of(p, QRectF(0, 36, wide, 24), (told,), BODY, theme.ink2)
        setup, high, top = self.setup, self._row_high, self._top
        for choice in CHOICES:
            if choice.shown(setup):
                row = QRectF(0, top, LABEL_WIDE - 10, high - 8)
                draw_one_of(p, row, (choice.label,), LABEL, theme.ink, Weight.LABEL)
                top += high
        self._paint_fields(p, top)
        if self._top > 60:
            head_box = QRectF(self._right, 58, 300, 24)
            draw_text(p, head_box, "Ready?", LEAD, theme.ink, Weight.STRONG)
        self._paint_care(p)
        self._paint_wheel(p, top + 3 * high)

    def _paint_fields(self, p: QPainter, top: float) -> None:
        theme, high = self.look.theme, self._row_high
        unit = "in" if self.setup.gauge.inches else "mm"
        units = ("mm", "°", unit, unit, unit)
        for nth, (name, field) in enumerate(zip(FIELDS, self.fields, strict=True)):
            box = field.geometry()
            scale = self.look.scale
            y, left, right = box.top() / scale, box.left() / scale, box.right() / scale
            after = QRectF(right + 5, y, 26, high - 8)
            draw_text(p, after, units[nth], BODY, theme.ink2)
            if nth % 2:
                before = QRectF(left - 66, y, 60, high - 8)
                draw_text(p, before, name, BODY, theme.ink2)
            else:
                row = QRectF(0, y, LABEL_WIDE - 10, high - 8)
                draw_one_of(p, row, (name,), LABEL, theme.ink, Weight.LABEL)

    def _paint_wheel(self, p: QPainter, top: float) -> None:
        """The wheel as it was named, a little after TDC: whoever holds another one sees it."""
        room = self.logical_height - top
        if room < 130:
            return
        theme, wheel = self.look.theme, self.setup.wheel
        radius = min((room - 30) / 2, 110.0)
        middle = QPointF(LABEL_WIDE + radius + 20, top + room / 2 + 4)
        face = WheelFace(wheel, theme, sense_of(self._model.engine))
        face.paint(p, middle, radius, SHOWN_DEG, self.stills)
        left = middle.x() + radius + 30
        row = QRectF(left, middle.y() - 30, self._right - left - 10, 24)
        figure = wheel.figure_deg(SHOWN_DEG)
        draw_one_of(p, row, (f"20° after TDC: {figure:g}",), LABEL, theme.ink, Weight.STRONG)
        told = f"20° before TDC: {wheel.figure_deg(-SHOWN_DEG):g}"
        draw_one_of(p, row.translated(0, 26), (told,), LABEL, theme.ink, Weight.STRONG)
        draw_one_of(p, row.translated(0, 52), ("Does yours read so?",), BODY, theme.ink2)

    def _paint_care(self, p: QPainter) -> None:
        """The usual cautions, beside the first step."""
        theme = self.look.theme
        scale = self.look.scale
        top = self.ticks[-1].geometry().bottom() / scale + 14
        wide = self.logical_width - self._right - 8
        foot = self.logical_height - 62
        p.setPen(flat_pen(theme.ink, 3))
        first = top
        for line in CARE:
            high = paragraph_height(line, BODY, wide - 14)
            if top + high > foot:
                break
            draw_paragraph(
                p, QRectF(self._right + 12, top, wide - 14, high + 4), line, BODY, theme.ink2
            )
            top += high + 6
        p.setPen(flat_pen(theme.ink, 3))
        if top > first:
            p.drawLine(QPointF(self._right + 2, first + 2), QPointF(self._right + 2, top - 6))


def _figure_texts(setup: Setup) -> list[str]:
    gauge = setup.gauge
    unit = 25.4 if gauge.inches else 1.0
    return [
        f"{setup.wheel_mm:g}",
        f"{setup.wheel_step_deg:g}",
        f"{round(gauge.turn_mm / unit, 4):g}",
        f"{round(gauge.step_mm / unit, 5):g}",
        f"{round(gauge.travel_mm / unit, 4):g}",
    ]


def _with_figures(setup: Setup, texts: list[str]) -> Setup:
    """The set-up with the figures of its fields. Raises `EngineError` that names one."""
    bare = "in" if setup.gauge.inches else "mm"
    wheel_mm = parse_length_mm(FIELDS[0], texts[0])
    step_deg = parse_number(FIELDS[1], texts[1])
    turn_mm = parse_length_mm(FIELDS[2], texts[2], bare)
    step_mm = parse_length_mm(FIELDS[3], texts[3], bare)
    travel_mm = parse_length_mm(FIELDS[4], texts[4], bare)
    for name, value, least, most, unit in (
        (FIELDS[0], wheel_mm, 50.0, 2000.0, "mm"),
        (FIELDS[1], step_deg, 0.05, 5.0, "°"),
        (FIELDS[2], turn_mm, 0.1, 10.0, "mm"),
        (FIELDS[3], step_mm, 0.0005, 0.2, "mm"),
        (FIELDS[4], travel_mm, 1.0, 200.0, "mm"),
    ):
        if not least <= value <= most:
            raise EngineError(name, f"must be from {least:g} to {most:g} {unit}, not {value:.4g}")
    gauge = replace(setup.gauge, turn_mm=turn_mm, step_mm=step_mm, travel_mm=travel_mm)
    return replace(setup, wheel_mm=wheel_mm, wheel_step_deg=step_deg, gauge=gauge)
