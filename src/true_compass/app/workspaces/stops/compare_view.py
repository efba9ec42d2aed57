"""All schools side by side: stops, turning, margin, what one must know, what can go wrong."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.widgets.hints import show_hint
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.widgets.slider import Slider
from true_compass.app.workspaces.stops.model import StopsModel
from true_compass.app.workspaces.stops.side import choose_by_key
from true_compass.core.adjusting.comparison import Row, compare, verdict
from true_compass.core.adjusting.stops import Plan
from true_compass.core.changes import longer
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import (
    CENTRE,
    LEFT,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_text,
    fitted,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

TWO_LINES: Final = 44.0
"""Least height of a row for its name and how it goes, one below the other."""
HEAD_ROOM: Final = 108.0
THIN_DEG: Final = 30.0
MOST_DEG: Final = 240.0


class DurationSlider(Slider):
    """Another duration for both lobes; it changes a copy until it is kept."""

    def __init__(self, view: "CompareView", model: StopsModel, look: Look) -> None:
        super().__init__(look, view, "Duration", (-60.0, 100.0), 1.0)
        self._view = view
        self._model = model
        self._by_deg = 0.0
        self.setObjectName("duration")

    @property
    def value(self) -> float:
        """Crank degrees longer than as set."""
        return self._by_deg

    def put(self, value: float) -> None:
        """Try another duration, if a lobe can have it."""
        before, self._by_deg = self._by_deg, value
        if not self._view.try_duration(value):
            self._by_deg = before
        self.follow()

    def words(self) -> str:
        """Intake duration as set, and as tried."""
        usual = self._model.session.state.engine.cam.intake.duration_deg
        return f"I {usual:g}°" + (f" to {usual + self.value:g}°" if self.value else "")


class CompareView(Painted):
    """The table. A click on a row takes that school."""

    changed = pyqtSignal()
    """Another duration is tried, or none any more."""

    def __init__(self, model: StopsModel, bridge: Bridge, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.tried: list[Row] | None = None
        self.tried_engine: Engine | None = None
        self.slider = DurationSlider(self, model, look)
        self.setObjectName("compare")
        self.setAccessibleName("All methods side by side")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        model.changed.connect(self.update)
        bridge.engine_changed.connect(self.go_back)
        bridge.tried.connect(self.go_back)

    def go_back(self) -> None:
        """The durations as set."""
        self.tried = self.tried_engine = None
        self.slider._by_deg = 0.0
        self.slider.follow()
        self.changed.emit()
        self.update()

    def try_duration(self, by_deg: float) -> bool:
        """Compare with lobes that much longer; whether such lobes can be."""
        if not by_deg:
            self.tried = self.tried_engine = None
            self.changed.emit()
            self.update()
            return True
        try:
            engine = longer(self._model.session.state.engine, by_deg)
        except EngineError:
            return False
        self.tried_engine = engine
        self.tried = compare(Rig.of(engine), self._model.choice)
        self.changed.emit()
        self.update()
        return True

    @property
    def rows(self) -> list[Row]:
        """The schools as tried, or as set."""
        return self.tried if self.tried is not None else self._model.rows

    def paint(self, p: QPainter) -> None:
        """Draw the sentence, the heads and the rows."""
        theme, width, height = self.look.theme, self.logical_width, self.logical_height
        words = verdict(self.rows)
        box = QRectF(0, 50, width, 34)
        draw_text(p, box, words, HEAD - 4, theme.ink, Weight.STRONG)
        x = self._columns()
        for wordings, left, right, align in (
            (("Method",), x[0], x[1], LEFT),
            (("Stops",), x[1], x[2], RIGHT),
            (("Turning",), x[2], x[3], RIGHT),
            (("Least margin", "Margin"), x[4], x[5], RIGHT),
            (("You must know",), x[5] + 20, x[6], LEFT),
            (("What can go wrong",), x[6] + 12, width - 10, LEFT),
        ):
            head = QRectF(left, 84, right - left, 24)
            draw_one_of(p, head, wordings, NOTE + 1, theme.ink2, Weight.LABEL, align)
        self._scale(p, x[3] + 24, x[4])
        table = QRectF(0, HEAD_ROOM, width, height - HEAD_ROOM - 8)
        rounded(p, table, 6, theme.sheet, flat_pen(theme.hair, 1.6))
        high = self._row_height
        for place, (row, usual) in enumerate(zip(self.rows, self._model.rows, strict=True)):
            self._row(p, QRectF(0, HEAD_ROOM + place * high, width, high), row, usual)

    @property
    def _row_height(self) -> float:
        return (self.logical_height - HEAD_ROOM - 8) / len(self._model.rows)

    def _columns(self) -> tuple[float, ...]:
        width = self.logical_width
        return (14.0, *(width * share for share in (0.225, 0.27, 0.335, 0.55, 0.645, 0.82)))

    def _scale(self, p: QPainter, left: float, right: float) -> None:
        theme = self.look.theme
        for degrees in (0, 60, 120, 180):
            x = left + degrees / MOST_DEG * (right - left)
            words = QRectF(x - 30, 84, 60, 24)
            draw_text(p, words, f"{degrees}°", NOTE, theme.ink2, align=CENTRE)

    def _row(self, p: QPainter, box: QRectF, row: Row, usual: Row) -> None:
        theme, x = self.look.theme, self._columns()
        chosen = row.school.word == self._model.word
        if chosen:
            p.fillRect(box.adjusted(2, 2, -2, -1), theme.now_tint)
        p.setPen(flat_pen(theme.hair, 1.2))
        p.drawLine(box.bottomLeft(), box.bottomRight())
        colour = theme.ink if row.plan else theme.ink3
        low = box.height() < TWO_LINES
        share = 1.0 if low else 0.52
        name = QRectF(x[0], box.top() + (0 if low else 3), x[1] - x[0], box.height() * share)
        draw_text(p, name, row.school.name, LABEL, colour, Weight.STRONG)
        if not low:
            how = QRectF(x[0], box.top() + box.height() * 0.5, x[1] - x[0], box.height() * 0.44)
            draw_text(p, how, row.school.how, NOTE, theme.ink2)
        if row.plan is None:
            rest = QRectF(x[1] + 20, box.top(), self.logical_width - x[1] - 40, box.height())
            draw_text(p, rest, row.reason, BODY - 1, theme.ink2)
            return
        plan = row.plan
        for words, left, right in (
            (str(len(plan.stops)), x[1], x[2]),
            (f"{plan.turning_deg:.0f}°", x[2], x[3]),
        ):
            cell = QRectF(left, box.top(), right - left, box.height())
            draw_text(p, cell, words, LEAD, theme.ink, Weight.LABEL, RIGHT)
        self._margin(p, box, plan, usual.plan, x[3] + 24, x[4])
        least = QRectF(x[4], box.top(), x[5] - x[4], box.height())
        words = plan.least_item.margin_words if plan.safe else "UNSAFE"
        draw_text(p, least, words, LEAD, theme.ink, Weight.STRONG, RIGHT)
        for words, left, right in (
            (row.school.needs, x[5] + 20, x[6]),
            (row.school.risks, x[6] + 12, self.logical_width - 10),
        ):
            cell = QRectF(left, box.top() + 4, right - left, box.height() - 6)
            if low or fitted(words, NOTE, Weight.BODY, cell.width())[0] == words:
                draw_text(p, cell, words, NOTE, theme.ink)
            else:
                draw_paragraph(p, cell, words, NOTE, theme.ink)

    def _margin(
        self, p: QPainter, box: QRectF, plan: Plan, usual: Plan | None, left: float, right: float
    ) -> None:
        """Solid bar, outlined below 30°; dashes lead to an upright tick at the margin as set."""
        theme, y = self.look.theme, box.center().y()
        scale = (right - left) / MOST_DEG
        p.setPen(flat_pen(theme.hair, 1))
        for degrees in (0, 60, 120, 180):
            x = left + degrees * scale
            p.drawLine(QPointF(x, box.top() + 2), QPointF(x, box.bottom() - 2))
        value = min(max(plan.least_margin_deg, 0.0), MOST_DEG)
        bar = QRectF(left, y - 8, value * scale, 16)
        if value < THIN_DEG:
            rounded(p, bar, 0, theme.sheet, flat_pen(theme.ink, 2))
        else:
            p.fillRect(bar, theme.ink)
        if usual is not None and self.tried is not None:
            at = left + min(max(usual.least_margin_deg, 0.0), MOST_DEG) * scale
            p.setPen(flat_pen(theme.ink, 3))
            p.drawLine(QPointF(at, y - 12), QPointF(at, y + 12))

    def event(self, event: object) -> bool:
        """Say a school in full on hover: in a low window its sentences are cut."""
        if isinstance(event, QHelpEvent):
            row = self._row_at(event.pos().y())
            words = ""
            if row is not None:
                school = row.school
                words = (
                    f"{school.name}: {school.how}.\nNeeds {school.needs}.\nRisk: {school.risks}."
                )
            show_hint(event.globalPos(), words, self)
            return True
        return super().event(event)  # type: ignore[arg-type]

    def _row_at(self, y: float) -> Row | None:
        place = int((y / self.look.scale - HEAD_ROOM) // self._row_height)
        return self.rows[place] if 0 <= place < len(self.rows) else None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down take another school."""
        if event is not None and not choose_by_key(self._model, event):
            event.ignore()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the school under the pointer."""
        row = self._row_at(event.position().y()) if event is not None else None
        if row is not None:
            self._model.choose(row.school.word)
