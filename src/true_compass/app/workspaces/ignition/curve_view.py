"""The curve: what the advance is made of, and what to do before it is set."""

from dataclasses import replace
from functools import partial
from typing import Any, Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, TabButton
from true_compass.app.widgets.dragged import FigureSlider
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.lamp_view import (
    mbar_words,
    speed_slider,
)
from true_compass.app.workspaces.ignition.lamping import Lamping
from true_compass.core.ignition.advance import (
    DEEPEST_MBAR,
    Check,
    Place,
    checks,
    rim_mm,
    three_places,
    told_at,
)
from true_compass.core.limits import EngineError
from true_compass.core.spark import Advance, Port, check_advance, parse_points, points_text
from true_compass.core.units import parse_number
from true_compass.drawing.advance_chart import AdvanceChart
from true_compass.drawing.codes import flat_pen, paint_problem_mark, paint_tick, rounded
from true_compass.drawing.lamp import LampFace
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import (
    CENTRE,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_paragraph_that_fits,
    draw_text,
    paragraph_height,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight
from true_compass.drawing.theme import theme as theme_of

LEFT_WIDE: Final = 336.0
GAP: Final = 24.0
RIGHT_WIDE: Final = 392.0
BEFORE_HIGH: Final = 40.0
LEAST_LAMP: Final = 120.0
LEAST_PX: Final = 11.0


def maybe_text(value: float | None) -> str:
    """A figure, or nothing where it is not known."""
    return "" if value is None else f"{value:g}"


FIELDS: Final = (
    ("initial_deg", "Initial, hose off", "°"),
    ("weights", "Weights, rpm:degrees", ""),
    ("can", "Vacuum, mbar:degrees", ""),
    ("most_wide_open_deg", "Wide open, most", "°"),
    ("most_starter_deg", "For the starter, most", "°"),
)
PORTS: Final = ((Port.PORTED, "ported"), (Port.FULL, "full"))


class ChartView(PageView):
    """The chart; a drag along it is another speed."""

    covers_ground = True

    def __init__(self, look: Look, lamping: Lamping, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._lamping = lamping
        self._dragging = False
        self.setObjectName("advance_chart")
        self.setAccessibleName("Advance over speed")
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        lamping.changed.connect(self.refresh)

    @property
    def chart(self) -> AdvanceChart:
        """Where everything lies."""
        box = QRectF(0, 0, self.logical_width, self.logical_height).adjusted(1, 1, -1, -1)
        return AdvanceChart(self._lamping.advance, box, self.look.theme)

    def paint(self, p: QPainter) -> None:
        """What stands still, then the cursor."""
        chart, lamping = self.chart, self._lamping

        def still(q: QPainter) -> None:
            rounded(q, chart.box, 6, self.look.theme.sheet, flat_pen(self.look.theme.hair, 1.6))
            chart.paint_still(q)

        self.paint_whole(p, lamping.advance, still)
        asked = lamping.asked
        chart.paint_moving(p, asked.speed_rpm, asked.at_can_mbar, lamping.parts.total_deg)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the cursor to the pointer."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._dragging = True
            self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The speed follows."""
        if event is not None and self._dragging:
            rpm = self.chart.rpm(event.position().x() / self.look.scale)
            self._lamping.set_speed(round(rpm / 50) * 50)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        self._dragging = False


class CurveView(PageView):
    """Figures at the left, the chart and three places, the lamp and what to do first."""

    covers_ground = True

    set_it = pyqtSignal()

    def __init__(self, look: Look, lamping: Lamping, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._lamping = lamping
        self.setAccessibleName("Curve of the advance")
        self.refused = ""
        self._wrong = ""
        self._in_rows = False
        self.at = [TabButton(look, word, self) for word in ("crank", "distributor")]
        for button in self.at:
            button.setObjectName(f"at_{button.text()}")
            button.clicked.connect(partial(self._name_at, button.text() == "distributor"))
        self.ports = [TabButton(look, word, self) for _, word in PORTS]
        for button, (port, word) in zip(self.ports, PORTS, strict=True):
            button.setObjectName(f"port_{word}")
            button.clicked.connect(partial(self._move_hose, port))
        self.fields: dict[str, QLineEdit] = {}
        for name, label, _ in FIELDS:
            field = QLineEdit(self)
            field.setObjectName(f"advance_{name}")
            field.setAccessibleName(label)
            field.editingFinished.connect(partial(self._typed, name))
            self.fields[name] = field
        self.speed = speed_slider(look, lamping, self)
        self.depression = FigureSlider(
            look, self, "Depression", (0.0, DEEPEST_MBAR), 10.0, self._mbar, mbar_words
        )
        self.depression.moved.connect(self._pull)
        self.chart = ChartView(look, lamping, self)
        self.set_button = DrawnButton(look, "Set it", self)
        self.set_button.setObjectName("set_it")
        self.set_button.clicked.connect(self._set)
        self.before = TabButton(look, "Before you set it", self)
        self.before.setObjectName("before_you_set_it")
        self.before.clicked.connect(self._turn_over)
        lamping.changed.connect(self.refresh)

    def _turn_over(self) -> None:
        """Where there is no room beside the chart, what to do first takes its place."""
        self.show_state()

    @property
    def _roomy(self) -> bool:
        """Whether lamp and checks have a column of their own."""
        return self.logical_width >= 1060

    @property
    def _turned_over(self) -> bool:
        return self.before.isChecked() and not self._roomy

    def _mbar(self) -> float:
        return self._lamping.asked.at_can_mbar

    def _pull(self, mbar: float) -> None:
        self._lamping.set_hose(True)
        self._lamping.set_depression(mbar)

    def _set(self) -> None:
        self._lamping.set_idle()
        self.set_it.emit()

    # Edits ------------------------------------------------------------------------------------

    def _name_at(self, at_distributor: bool) -> None:
        """The same engine, its figures told at the other place."""
        self._edit(told_at(self._lamping.advance, distributor=at_distributor))

    def _typed(self, name: str) -> None:
        text = self.fields[name].text().strip()
        if text == self._text(name):
            self._refuse("", "")
            return
        try:
            value: Any
            if name in ("weights", "can"):
                value = parse_points(name, text)
            else:
                value = parse_number(name, text) if text else None
            changed = replace(self._lamping.advance, **{name: value})
            check_advance(changed)
        except EngineError as error:
            label = next(label for field, label, _ in FIELDS if field == name)
            self._refuse(name, f"{label}: {error}.")
            return
        self._refuse("", "")
        self._edit(changed)

    def _refuse(self, field: str, sentence: str) -> None:
        if (field, sentence) != (self._wrong, self.refused):
            self._wrong, self.refused = field, sentence
            self.show_state()

    def _move_hose(self, port: Port) -> None:
        self._edit(replace(self._lamping.advance, port=port))

    def _edit(self, advance: Advance) -> None:
        if advance == self._lamping.advance:
            self.show_state()  # a press has let go of the button that says so already
            return
        model = self._lamping.model
        engine = model.desk.session.state.engine
        edited = replace(engine, spark=replace(engine.spark, advance=advance))
        model.desk.session.edit(edited, words="edit of the advance")

    def _text(self, name: str) -> str:
        value = getattr(self._lamping.advance, name)
        return points_text(value) if isinstance(value, tuple) else maybe_text(value)

    # Showing ----------------------------------------------------------------------------------

    def show_state(self) -> None:
        """The figures of the engine, unless one is being typed."""
        advance = self._lamping.advance
        for name, field in self.fields.items():
            style = field_style(self.look.theme, self.look.scale, wrong=name == self._wrong)
            if field.styleSheet() != style:
                field.setStyleSheet(style)
            if not field.hasFocus() and name != self._wrong and field.text() != self._text(name):
                field.setText(self._text(name))
        for button in self.at:
            button.setChecked((button.text() == "distributor") is advance.at_distributor)
        for button, (port, _) in zip(self.ports, PORTS, strict=True):
            button.setChecked(advance.port is port)
            button.setVisible(bool(advance.can) and not self._in_rows)
        idle = three_places(advance)[0]
        initial = maybe_text(advance.initial_deg)
        second = f"{initial}° at {idle.speed_rpm:,.0f} rpm, hose off" if initial else "by the lamp"
        self.set_button.set_words("Set it", second)
        self.speed.follow()
        self.depression.follow()
        self.depression.setVisible(bool(advance.can))
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Three columns; where there is no room the right one goes."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        for nth, button in enumerate(self.at):
            button.setGeometry(put(124 + nth * 92, 0, 86 if not nth else 120, 34))
        y, each = 46.0, min((high - 46 - 112) / 5, 84.0)
        self._in_rows = each < 64.0
        for name, _, _ in FIELDS:
            narrow = name in ("initial_deg", "most_wide_open_deg", "most_starter_deg")
            if self._in_rows:
                field_wide = 90.0 if narrow else 150.0
                box = (LEFT_WIDE - 150.0, y, field_wide, min(each - 6, 36))
            else:
                field_wide = 110.0 if narrow else LEFT_WIDE
                box = (0.0, y + 24, field_wide, min(each - 30, 40))
            self.fields[name].setGeometry(put(*box))
            if name == "can":
                for nth, button in enumerate(self.ports):
                    button.setGeometry(put(LEFT_WIDE - 160 + nth * 82, y - 4, 78, 26))
            y += each
        self.speed.setGeometry(put(0, high - 104, LEFT_WIDE, 46))
        self.depression.setGeometry(put(0, high - 52, LEFT_WIDE, 46))
        left = LEFT_WIDE + GAP
        roomy = self._roomy
        right = RIGHT_WIDE + GAP if roomy else 0.0
        places = 190.0 if high >= 460 else 0.0
        foot = 0.0 if roomy else BEFORE_HIGH + 8
        self.chart.setGeometry(put(left, 70, wide - left - right, high - 70 - places - foot - 8))
        self.chart.setVisible(not self._turned_over)
        self.before.setVisible(not roomy)
        half = (wide - left - 8) / 2
        self.before.setGeometry(put(left, high - BEFORE_HIGH - 4, half, BEFORE_HIGH))
        self.before.setText("Back to the curve" if self._turned_over else "Before you set it")
        place = (wide - RIGHT_WIDE, high - 52, RIGHT_WIDE, 48.0)
        if not roomy:
            place = (left + half + 8, high - BEFORE_HIGH - 4, half, BEFORE_HIGH)
        self.set_button.setGeometry(put(*place))

    def paint(self, p: QPainter) -> None:
        """What a drag does not change as one picture; headline and lamp over it."""
        lamping, theme, wide = self._lamping, self.look.theme, self.logical_width
        boxes = tuple(field.geometry().getRect() for field in self.fields.values())
        chart, name = self.chart.geometry().getRect(), lamping.model.engine.name
        key = (self._turned_over, lamping.advance, boxes, chart, name)
        self.paint_whole(p, key, self._paint_still)
        parts, asked = lamping.parts, lamping.asked
        left = LEFT_WIDE + GAP
        pull = f"{asked.at_can_mbar:.0f} mbar" if asked.at_can_mbar else "no vacuum"
        head = f"{parts.total_deg:.1f}° before TDC at {asked.speed_rpm:,.0f} rpm, {pull}"
        box = QRectF(left, 0, wide - left, 36)
        draw_text(p, box, head, HEAD, theme.ink, Weight.STRONG)
        if self.refused:
            # A refusal is never left out: it may take two lines.
            line = QRectF(left, 34, wide - left, 36)
            draw_paragraph_that_fits(p, line, self.refused, BODY, theme.ink)
        else:
            below = (
                f"{parts.initial_deg:g} as set + {parts.mechanical_deg:.1f} by the weights + "
                f"{parts.vacuum_deg:.1f} by the vacuum, all at the crank."
            )
            draw_one_of(p, QRectF(left, 36, wide - left, 24), (below,), BODY, theme.ink2)
        if self._roomy:
            self._paint_lamp(p)

    def _paint_still(self, p: QPainter) -> None:
        """Labels, three places, what to do first."""
        theme, wide, left = self.look.theme, self.logical_width, LEFT_WIDE + GAP
        draw_text(p, QRectF(0, 0, 124, 34), "Figures are at the", NOTE + 1, theme.ink2)
        for name, label, unit in FIELDS:
            field = self.fields[name].geometry()
            y = field.top() / self.look.scale - 24
            if self._in_rows:
                y = field.center().y() / self.look.scale - 11
            draw_text(p, QRectF(0, y, 178, 22), label, BODY, theme.ink, Weight.LABEL)
            if unit:
                x = field.right() / self.look.scale + 8
                middle = field.center().y() / self.look.scale
                draw_text(p, QRectF(x, middle - 11, 30, 22), unit, BODY, theme.ink2)
        foot = self.chart.geometry().bottom() / self.look.scale + 12
        right = self.chart.geometry().right() / self.look.scale
        low = self.logical_height - (0 if self._roomy else BEFORE_HIGH + 8)
        if self._turned_over:
            self._paint_checks(p, QRectF(left, 70, wide - left, low - 78))
            return
        if low - foot > 150:
            self._paint_places(p, QRectF(left, foot, right - left, low - foot))
        if self._roomy:
            top = self._lamp_box.bottom() + 14
            box = QRectF(wide - RIGHT_WIDE, top, RIGHT_WIDE, self.logical_height - top - 56)
            self._paint_checks(p, box)

    def _paint_places(self, p: QPainter, box: QRectF) -> None:
        theme = self.look.theme
        advance = self._lamping.advance
        head = QRectF(box.left(), box.top(), box.width(), 26)
        draw_text(p, head, "Three places that matter", LABEL, theme.ink, Weight.STRONG)
        places = three_places(advance)
        most = max(*(place.parts.total_deg for place in places), 30.0) * 1.25
        high = (box.height() - 52) / 3
        for nth, place in enumerate(places):
            row = QRectF(box.left(), box.top() + 28 + nth * high, box.width(), high)
            limit = advance.most_wide_open_deg if place.name == "Wide open" else None
            self._paint_place(p, row, place, most, limit)
        self._paint_legend(p, QRectF(box.left() + 176, box.bottom() - 22, box.width() - 176, 20))

    def _paint_place(
        self, p: QPainter, row: QRectF, place: Place, most: float, limit: float | None
    ) -> None:
        theme, parts = self.look.theme, place.parts
        p.setPen(flat_pen(theme.hair, 1.2))
        p.drawLine(row.topLeft(), row.topRight())
        name = QRectF(row.left(), row.top() + 2, 170, row.height() / 2)
        assumed = ", assumed" if place.assumed else ""
        draw_text(p, name, f"{place.name}{assumed}", BODY, theme.ink, Weight.STRONG)
        pull = f"{place.depression_mbar:.0f} mbar" if place.depression_mbar else "no vacuum"
        note = QRectF(row.left(), row.center().y() - 2, 172, row.height() / 2)
        draw_text(p, note, f"{place.speed_rpm:,.0f} rpm, {pull}", NOTE, theme.ink2)
        scale = (row.width() - 176 - 76) / most
        x, y, high = row.left() + 176, row.top() + 6, min(row.height() - 26, 22)
        fills = ((parts.initial_deg, theme.ink), (parts.mechanical_deg, theme.metal))
        for deg, fill in (*fills, (parts.vacuum_deg, theme.sheet)):
            if deg <= 0:
                continue
            bar = QRectF(x, y, deg * scale, high)
            p.fillRect(bar, fill)
            rounded(p, bar, 0, None, flat_pen(theme.ink, 1.8))
            figure = QRectF(bar.center().x() - 30, bar.bottom() + 1, 60, 18)
            draw_text(p, figure, f"{round(deg, 1):g}", NOTE, theme.ink, align=CENTRE)
            x += deg * scale
        if limit is not None:
            at = row.left() + 176 + limit * scale
            p.setPen(flat_pen(theme.ink, 3))
            p.drawLine(QPointF(at, y - 4), QPointF(at, y + high + 4))
        total = QRectF(row.right() - 72, row.top(), 72, row.height())
        draw_text(p, total, f"{parts.total_deg:.1f}°", LEAD, theme.ink, Weight.STRONG, RIGHT)

    def _paint_legend(self, p: QPainter, box: QRectF) -> None:
        theme, x = self.look.theme, box.left()
        for words, fill in (
            ("initial", theme.ink),
            ("weights", theme.metal),
            ("vacuum", theme.sheet),
        ):
            square = QRectF(x, box.center().y() - 6, 12, 12)
            p.fillRect(square, fill)
            rounded(p, square, 0, None, flat_pen(theme.ink, 1.6))
            name = QRectF(x + 18, box.top(), 70, box.height())
            x += 30 + draw_text(p, name, words, NOTE, theme.ink)

    @property
    def _lamp_box(self) -> QRectF:
        # What to do before it is set is never left out: the lamp gives way to it.
        checks_high = 32.0 + sum(self._check_height(check, RIGHT_WIDE) for check in self._checks())
        high = max(min(self.logical_height - 70 - 14 - 56 - checks_high, 310.0), LEAST_LAMP)
        return QRectF(self.logical_width - RIGHT_WIDE, 70, RIGHT_WIDE, high)

    def _paint_lamp(self, p: QPainter) -> None:
        """The lamp at this speed, and where to chalk for want of figures on the damper."""
        lamping = self._lamping
        engine = lamping.model.engine
        total, sense = lamping.parts.total_deg, sense_of(engine)
        words = f"{total:.1f}"
        LampFace(total, sense, None, words, "What the lamp shows").paint(
            p, self._lamp_box, self.look.theme, self.stills
        )
        notes: tuple[str, ...] = ("Give the damper's diameter for a chalk mark.",)
        if engine.damper_mm:
            way = "clockwise" if sense > 0 else "anticlockwise"
            along, each = rim_mm(engine.damper_mm, total), rim_mm(engine.damper_mm, 1.0)
            notes = (
                f"Only a 0 line? Chalk one {along:.1f} mm {way} of it",
                f"on this {engine.damper_mm:g} mm damper: {each:.3f} mm a degree.",
            )
        top = self._lamp_box.bottom() - 12 - 22 * len(notes)
        for nth, note in enumerate(notes):
            line = QRectF(self._lamp_box.left() + 16, top + 22 * nth, RIGHT_WIDE - 32, 22)
            draw_text(p, line, note, NOTE + 1, theme_of("dark").ink, Weight.LABEL)

    def _checks(self) -> list[Check]:
        """What holds, what does not, and what is always to be done first."""
        turn = Check(False, "Turn against the rotor to advance", "Body 1° is 2° at the crank.")
        return [*checks(self._lamping.advance), turn]

    @staticmethod
    def _check_height(check: Check, width: float, px: float = BODY) -> float:
        """How much room a check takes, however often its words have to wrap."""
        high = paragraph_height(check.said, px, width - 32)
        if check.why:
            high += paragraph_height(check.why, px - 2, width - 32)
        return max(high, 22.0) + 7

    def _paint_checks(self, p: QPainter, box: QRectF) -> None:
        """All of them: in smaller type rather than one too few."""
        theme, found = self.look.theme, self._checks()
        head = QRectF(box.left(), box.top(), box.width(), 26)
        draw_text(p, head, "Before you set it", LABEL, theme.ink, Weight.STRONG)
        px = float(BODY)
        room = box.height() - 32
        while px > LEAST_PX and sum(self._check_height(c, box.width(), px) for c in found) > room:
            px -= 0.5
        y = box.top() + 32
        for check in found:
            self._paint_check(p, QRectF(box.left(), y, box.width(), 24), check, px)
            y += self._check_height(check, box.width(), px)

    def _paint_check(self, p: QPainter, row: QRectF, check: Check, px: float) -> None:
        theme = self.look.theme
        if check.fine:
            paint_tick(p, QPointF(row.left() + 10, row.center().y() - 2), 16, theme.ink)
        else:
            square = QRectF(row.left(), row.top(), 20, 20)
            paint_problem_mark(p, square, theme.ink, theme.on_ink)
        words = row.adjusted(32, 0, 0, 200)
        y = draw_paragraph(p, words, check.said, px, theme.ink, Weight.LABEL)
        if check.why:
            words.moveTop(y)
            draw_paragraph(p, words, check.why, px - 2, theme.ink2)
