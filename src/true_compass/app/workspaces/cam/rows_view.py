"""The readings as a person writes them down: true TDC, then a row a depth at either nose."""

from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.stepping import SteppingView
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.core.degreeing.found import pair_of, top_found
from true_compass.core.degreeing.sheet import Cell, NosePair, Part, TopPair, figure_at
from true_compass.core.items import Kind
from true_compass.core.words import counted
from true_compass.drawing.codes import flat_pen, paint_tick, rounded
from true_compass.drawing.text import RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight

HEAD_HIGH: Final = 34.0
ROW_HIGH: Final = 28.0
LEAST_ROW: Final = 20.0
BETWEEN: Final = 8.0
TITLES: Final = {
    Part.TOP: ("True TDC", "before", "after", "pointer"),
    Part.INTAKE: ("Intake nose", "before it", "after it", "middle"),
    Part.EXHAUST: ("Exhaust nose", "before it", "after it", "middle"),
}


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the table: a heading (no row), or a pair of readings."""

    part: Part
    row: int | None
    top: float
    high: float


class RowsView(SteppingView):
    """The table; a press asks for that reading, for the drop of a row or for one more drop."""

    asked = pyqtSignal()

    def __init__(self, look: Look, model: CamModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("cam_rows")
        self.setAccessibleName("Readings so far")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        model.changed.connect(self.update)

    # Where everything is ----------------------------------------------------------------------

    def _parts(self) -> list[Part]:
        return [Part.TOP, *(Part.of(kind) for kind in self._model.kinds)]

    def _rows(self, part: Part) -> list[int]:
        """Rows that are shown: those of this round that are not void."""
        now = self._model.sheet.now
        if part is Part.TOP:
            return [row for row, top in enumerate(now.tops) if not top.void]
        pairs = now.pairs(self._model.cylinder, part.kind)
        return [row for row, pair in enumerate(pairs) if not pair.void]

    def lines(self) -> list[Line]:
        """Every line with its place, for painting and pressing; low, the asked block alone."""
        parts = self._parts()
        high = self._row_high(parts)
        if high < LEAST_ROW:
            cell = self._model.asked
            parts = [cell.part if cell is not None else parts[-1]]
            high = min(max(self._row_high(parts), LEAST_ROW), ROW_HIGH)
        lines, top = [], 0.0
        for part in parts:
            lines.append(Line(part, None, top, HEAD_HIGH))
            top += HEAD_HIGH
            for row in self._rows(part):
                lines.append(Line(part, row, top, high))
                top += high
            top += BETWEEN
        return lines

    def _row_high(self, parts: list[Part]) -> float:
        count = sum(len(self._rows(part)) for part in parts)
        room = self.logical_height - len(parts) * (HEAD_HIGH + BETWEEN) - 22
        return min(room / max(count, 1), ROW_HIGH)

    def _columns(self) -> tuple[float, float, float]:
        """Right edges of before, after and middle."""
        wide = self.logical_width
        return wide - 184, wide - 102, wide - 2

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """All lines; the one that is asked lies on a tint."""
        model, theme = self._model, self.look.theme
        asked = model.asked
        for line in self.lines():
            if line.row is None:
                self._paint_head(p, line)
                continue
            box = QRectF(0, line.top, self.logical_width, line.high)
            if asked is not None and (asked.part, asked.row) == (line.part, line.row):
                p.fillRect(box, theme.now_tint)
                self._paint_asked(p, box, asked)
            if model.depth == (line.part, line.row):
                p.fillRect(QRectF(0, line.top, 126, line.high), theme.now_tint)
                p.fillRect(QRectF(0, line.top + line.high - 3, 126, 3), theme.now)
            self._paint_row(p, box, line.part, line.row)
            p.setPen(flat_pen(theme.hair, 1))
            p.drawLine(box.bottomLeft(), box.bottomRight())
        self._paint_void(p)

    def _paint_head(self, p: QPainter, line: Line) -> None:
        theme = self.look.theme
        title, before, after, last = TITLES[line.part]
        box = QRectF(0, line.top, self.logical_width, line.high)
        used = draw_text(p, box, title, LABEL, theme.ink, Weight.STRONG)
        if line.part is not Part.TOP:
            plus = QRectF(used + 8, line.top, 20, line.high)
            draw_text(p, plus, "+", LABEL, theme.ink2, Weight.STRONG)
        for words, right in zip((before, after, last), self._columns(), strict=True):
            cell = QRectF(right - 90, line.top, 90, line.high)
            draw_text(p, cell, words, NOTE + 1, theme.ink2, align=RIGHT)
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.drawLine(box.bottomLeft(), box.bottomRight())

    def _paint_row(self, p: QPainter, box: QRectF, part: Part, row: int) -> None:
        model, theme = self._model, self.look.theme
        pair: TopPair | NosePair
        if part is Part.TOP:
            pair = model.sheet.now.tops[row]
            name = f"{model.mm_words(pair.drop_mm)} down"
            if row and model.sheet.now.tops[row - 1].pointer_set:
                name = "pointer set, again"
            last = self._top_words(pair)
        else:
            pair = model.sheet.now.pairs(model.cylinder, part.kind)[row]
            name = f"{model.mm_words(pair.drop_mm)} down"
            last = self._middle_words(part.kind, pair)
        columns = self._columns()
        draw_one_of(
            p, QRectF(2, box.top(), columns[0] - 60, box.height()), (name,), BODY, theme.ink
        )
        for after, right in zip((False, True), columns, strict=False):
            figure = pair.after if after else pair.before
            if figure is None:
                continue
            far = part is Part.TOP and isinstance(pair, TopPair)
            sign = far and (pair.after_far if after else pair.before_far)  # type: ignore[union-attr]
            words = f"−{figure:g}" if sign else f"{figure:.1f}"
            cell = QRectF(right - 62, box.top(), 60, box.height())
            draw_text(p, cell, words, BODY, theme.ink, Weight.LABEL, RIGHT)
        cell = QRectF(columns[2] - 84, box.top(), 84, box.height())
        if last == "✓":
            paint_tick(p, QPointF(cell.right() - 12, cell.center().y()), 14, self.look.theme.ink)
        elif last:
            draw_one_of(p, cell, (last,), BODY, theme.ink, Weight.STRONG, RIGHT)

    def _paint_asked(self, p: QPainter, box: QRectF, cell: Cell) -> None:
        """The empty place of the reading that is asked."""
        if figure_at(self._model.sheet, cell) is not None and self._model.picked is None:
            return
        right = self._columns()[1 if cell.after else 0]
        place = QRectF(right - 66, box.top() + 2, 68, box.height() - 4)
        rounded(p, place, 4, self.look.theme.sheet, flat_pen(self.look.theme.now, 2.6))

    def _top_words(self, pair: TopPair) -> str:
        told = top_found(self._model.rig, self._model.sheet, pair)
        if told is None:
            return ""
        if told.held:
            return "?"
        return "✓" if told.top.is_set else told.top.words.replace("°", "")

    def _middle_words(self, kind: Kind, pair: NosePair) -> str:
        model = self._model
        told = pair_of(model.rig, model.sheet, kind, pair, model.result.correction_deg)
        return "" if told is None else f"{told.middle_deg:.2f}"

    def _paint_void(self, p: QPainter) -> None:
        """How many readings are void, below the table: they are kept, and do not count."""
        now = self._model.sheet.now
        pairs = [pair for nose in now.noses for pair in nose.pairs if pair.void]
        count = len([top for top in now.tops if top.void]) + len(pairs)
        if count:
            words = f"{counted(count, 'row')} before the pointer moved: void"
            box = QRectF(2, self.logical_height - 20, self.logical_width - 4, 20)
            draw_one_of(p, box, (words,), NOTE, self.look.theme.ink2)

    # Pressing ---------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Ask for the reading that was pressed, for the drop of a row, or for one more drop."""
        if event is None:
            return
        at = event.position() / self.look.scale
        if self._model.sheet.setup is None:
            return
        line = next((n for n in self.lines() if n.top <= at.y() < n.top + n.high), None)
        if line is None:
            return
        if at.x() < self._columns()[0] - 66:
            if line.row is not None or line.part is not Part.TOP:
                self._model.ask_depth(line.part, line.row)
        elif line.row is not None:
            self._model.pick(Cell(line.part, line.row, after=at.x() > self._columns()[0] + 6))
        self.asked.emit()

    def step(self, by: int) -> None:
        """Go along the readings, in the order of reading."""
        self._model.step(by)
