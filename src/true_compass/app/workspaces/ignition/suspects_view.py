"""Readings down, suspects across: a cross rules out, a disc fits, a ring would tell."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.stepping import SteppingView
from true_compass.app.workspaces.ignition.lamping import Lamping
from true_compass.core.ignition.lamp import How, Row, Says
from true_compass.drawing.codes import flat_pen, paint_cross, rounded
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight

HEAD_HIGH: Final = 50.0
LOW_HEAD: Final = 34.0
MOST_ROW: Final = 54.0
COLUMN: Final = 96.0


class SuspectsView(SteppingView):
    """The table. Up, Down or a press ask for a reading."""

    covers_ground = True

    def __init__(self, look: Look, lamping: Lamping, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._lamping = lamping
        self.setObjectName("suspects")
        self.setAccessibleName("Readings and suspects")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        lamping.changed.connect(self.update)

    @property
    def _head(self) -> float:
        """Height of the headings: those of suspects have two lines."""
        return HEAD_HIGH if self.shows_suspects else LOW_HEAD

    @property
    def _high(self) -> float:
        rows = len(self._lamping.found.rows)
        return min((self.logical_height - self._head) / max(rows, 1), MOST_ROW)

    @property
    def shows_suspects(self) -> bool:
        """Whether there is room for them."""
        return self._column > 0.0

    @property
    def wanted_height(self) -> float:
        """As high as all rows stand with room."""
        return self._head + MOST_ROW * len(self._lamping.found.rows) + 2

    @property
    def _column(self) -> float:
        count = len(self._lamping.found.suspects)
        wide = min(COLUMN, (self.logical_width - 400) / count)
        # Too narrow for their names, the suspects are told by the headline alone.
        return wide if wide >= 62.0 else 0.0

    def paint(self, p: QPainter) -> None:
        """One picture: a drag of the speed changes nothing here."""
        found, asked = self._lamping.found, self._lamping.asked
        rows = [row.asked for row in found.rows]
        key = (tuple(found.rows), found.left, asked if asked in rows else None)
        self.paint_whole(p, key, self._paint_all)

    def _paint_all(self, p: QPainter) -> None:
        """The sheet, its headings, then the rows."""
        theme, wide, found = self.look.theme, self.logical_width, self._lamping.found
        high = self._high
        whole = QRectF(0, 0, wide, self._head + high * len(found.rows))
        rounded(p, whole, 6, theme.sheet, flat_pen(theme.hair, 1.6))
        column, first = self._column, wide - self._column * len(found.suspects)
        for nth, suspect in enumerate(found.suspects if column else ()):
            box = QRectF(first + nth * column, 0, column, whole.height())
            if suspect in found.left:
                p.fillRect(box.adjusted(0, 1, 0, -1), theme.now_tint)
            name = QRectF(box.left(), 4, column, 22)
            draw_text(p, name, suspect.value, BODY, theme.ink, Weight.STRONG, CENTRE)
            draw_one_of(p, name.translated(0, 21), (suspect.state,), NOTE, theme.ink, align=CENTRE)
        top = self._head / 2 - 17
        head = QRectF(14, top, 180, 34)
        draw_text(p, head, "Readings, in order", NOTE, theme.ink2)
        for right, words in ((first - 84, "should"), (first - 18, "read")):
            draw_text(p, QRectF(right - 80, top, 80, 34), words, NOTE, theme.ink2, align=RIGHT)
        p.setPen(flat_pen(theme.ink2, 1.4))
        p.drawLine(QPointF(8, self._head), QPointF(wide - 8, self._head))
        for nth, row in enumerate(found.rows):
            self._paint_row(p, QRectF(0, self._head + nth * high, wide, high), row, first, nth)

    def _paint_row(self, p: QPainter, box: QRectF, row: Row, first: float, nth: int) -> None:
        theme, lamping = self.look.theme, self._lamping
        here = QRectF(box.left() + 1, box.top(), first - 2, box.height())
        if row.asked == lamping.asked:
            p.fillRect(here, theme.now_tint)
            p.fillRect(QRectF(0, box.top(), 5, box.height()), theme.now)
        wide = first - 180
        if box.height() >= 40:
            top = QRectF(14, box.top() + 5, wide, box.height() / 2 - 2)
            draw_text(p, top, row.asked.title, BODY, theme.ink, Weight.STRONG)
            foot = QRectF(14, box.center().y() + 1, wide, box.height() / 2 - 6)
            draw_one_of(p, foot, (row.asked.note,), NOTE, theme.ink2)
        else:
            name = QRectF(14, box.top(), wide, box.height())
            draw_text(p, name, row.asked.title, BODY, theme.ink, Weight.LABEL)
        should, read = _shown(row)
        cell = QRectF(first - 174, box.top(), 90, box.height())
        draw_text(p, cell, should, BODY, theme.ink2, align=RIGHT)
        cell = QRectF(first - 108, box.top(), 90, box.height())
        draw_text(p, cell, read, LABEL, theme.ink, Weight.STRONG, RIGHT)
        for place, said in enumerate(row.says if self._column else ()):
            at = QPointF(first + (place + 0.5) * self._column, box.center().y())
            self._paint_says(p, at, said)
        if nth + 1 < len(lamping.found.rows):
            p.setPen(flat_pen(theme.hair, 1.2))
            p.drawLine(QPointF(8, box.bottom()), QPointF(box.right() - 8, box.bottom()))

    def _paint_says(self, p: QPainter, at: QPointF, said: Says) -> None:
        theme = self.look.theme
        if said is Says.RULED_OUT:
            paint_cross(p, at, 8, flat_pen(theme.ink, 3))
            return
        solid = said in (Says.FITS, Says.NOTHING)
        p.setPen(Qt.PenStyle.NoPen if solid else flat_pen(theme.ink, 2.4))
        colour = theme.metal_dk if said is Says.NOTHING else theme.ink
        p.setBrush(colour if solid else Qt.BrushStyle.NoBrush)
        radius = 2.5 if said is Says.NOTHING else 8.0
        p.drawEllipse(at, radius, radius)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Ask for the reading of a row."""
        if event is not None:
            nth = int((event.position().y() / self.look.scale - self._head) // self._high)
            rows = self._lamping.found.rows
            if 0 <= nth < len(rows):
                self._lamping.ask(rows[nth].asked)

    def step(self, by: int) -> None:
        """Ask for the reading above or below."""
        rows = [row.asked for row in self._lamping.found.rows]
        here = rows.index(self._lamping.asked) if self._lamping.asked in rows else -1
        self._lamping.ask(rows[min(max(here + by, 0), len(rows) - 1)])


def _shown(row: Row) -> tuple[str, str]:
    """What a row should be and what was read, as texts."""
    if row.asked.how is How.PUMP:
        read = "?" if row.read is None else "holds" if row.read > 0.5 else "falls"
        return "holds", read
    read = "?" if row.read is None else f"{row.read:g}".replace("-", "−")
    return f"{round(row.should, 1):g}", read
