"""The table of orders: pick a row, sort by a heading."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.core.crank.listing import COLUMNS, OrderListing, OrderRow
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.orders import paint_glyph
from true_compass.drawing.text import LEFT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

HEADER: Final = 54.0
FOOTER: Final = 32.0
ROW: Final = 100.0
LOW_ROW: Final = 72.0
RING_SHARE: Final = 0.33
SHARES: Final = (0.01, 0.43, 0.55, 0.685, 0.845)
SHARES_WITHOUT_RING: Final = (0.01, 0.3, 0.42, 0.61, 0.81)
RINGS_FROM: Final = 660.0
"""Least width of the table for a small ring in each row."""


class OrderTableView(Painted):
    """Rows in turn. The wheel scrolls; up and down pick; a click on a heading sorts by it."""

    picked = pyqtSignal()

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model: OrderListing | None = None
        self._rows: list[OrderRow] = []
        self._alike: set[str] = set()
        """Orders that several rows have: each of them says which turn each fires in."""
        self.chosen = 0
        self._first = 0
        self.setObjectName("order_table")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Firing orders that this crank allows")

    def show_model(self, model: OrderListing, keep: tuple[int, ...] | None = None) -> None:
        """Show the model's rows; keep an order chosen if it is still there."""
        self._model = model
        self._rows = model.rows()
        self._alike = model.alike(self._rows)
        orders = [row.order for row in self._rows]
        self.chosen = orders.index(keep) if keep in orders else 0
        self._first = 0
        self._see_chosen()
        self.update()
        self.picked.emit()

    @property
    def row(self) -> OrderRow | None:
        """The chosen row."""
        return self._rows[self.chosen] if self._rows else None

    @property
    def row_count(self) -> int:
        """How many rows there are."""
        return len(self._rows)

    @property
    def row_height(self) -> float:
        """Rows are lower where there are many."""
        room = self.logical_height - HEADER - FOOTER
        return min(max(room / max(len(self._rows), 1), LOW_ROW), ROW)

    @property
    def _has_rings(self) -> bool:
        return self.logical_width >= RINGS_FROM

    @property
    def _shares(self) -> tuple[float, ...]:
        return SHARES if self._has_rings else SHARES_WITHOUT_RING

    @property
    def _visible(self) -> int:
        return max(1, int((self.logical_height - HEADER - FOOTER) // self.row_height))

    def _see_chosen(self) -> None:
        if self.chosen < self._first:
            self._first = self.chosen
        elif self.chosen >= self._first + self._visible:
            self._first = self.chosen - self._visible + 1

    def text_twin(self) -> str:
        """The chosen order with its gaps."""
        row = self.row
        if row is None:
            return "no order fits"
        turns = f", {row.turns}" if row.text in self._alike else ""
        return f"{row.text}, {row.gaps}{turns}"

    def pick(self, place: int) -> None:
        """Choose a row by its place."""
        if self._rows:
            self.chosen = min(max(place, 0), len(self._rows) - 1)
            self._see_chosen()
            self.setAccessibleDescription(self.text_twin())
            self.update()
            self.picked.emit()

    def ground(self) -> QColor:
        """A sheet."""
        return self.look.theme.paper

    def paint(self, p: QPainter) -> None:
        """Draw headings, rows in view, and the sentence of the sorted column."""
        theme, width = self.look.theme, self.logical_width
        box = QRectF(0, 0, width, self.logical_height)
        rounded(p, box, 6, theme.sheet, flat_pen(theme.hair, 1.4))
        if self._model is None:
            return
        self._paint_headings(p, self._model.sorted_by)
        for place in range(self._first, min(self._first + self._visible, len(self._rows))):
            y = HEADER + (place - self._first) * self.row_height
            self._paint_row(p, QRectF(1, y, width - 2, self.row_height), self._rows[place], place)
        foot = QRectF(14, self.logical_height - FOOTER, width - 28, FOOTER)
        words = COLUMNS[self._model.sorted_by].why
        if not self._rows:
            words = "No order begins like that here. Clear the field to see all."
        elif len(self._rows) > self._visible:
            last = min(self._first + self._visible, len(self._rows))
            words = f"{self._first + 1} to {last} of {len(self._rows)}. {words}"
        draw_text(p, foot, words, BODY, theme.ink, Weight.BODY, LEFT)

    def _paint_headings(self, p: QPainter, sorted_by: int) -> None:
        theme, width = self.look.theme, self.logical_width
        shares, rings = self._shares, self._has_rings
        for place, column in enumerate(COLUMNS):
            x = shares[place] * width + 8
            end = RING_SHARE if place == 0 and rings else (*shares, 1.0)[place + 1]
            room = end * width - x - (20 if place == sorted_by else 0)
            head = QRectF(x, 6, room, 24)
            used = draw_text(p, head, column.word, LABEL, theme.ink, Weight.STRONG)
            under = QRectF(x, 28, end * width - x, 20)
            draw_one_of(p, under, [column.under], NOTE, theme.ink2)
            if place == sorted_by:
                at = QPointF(x + used + 12, 19)
                mark = [at + QPointF(-6, -4), at + QPointF(6, -4), at + QPointF(0, 5)]
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(theme.ink)
                p.drawPolygon(QPolygonF(mark))
        if rings:
            ring = QRectF(RING_SHARE * width - 20, 6, 90, 24)
            draw_text(p, ring, "Ring", LABEL, theme.ink, Weight.STRONG)
            draw_text(p, ring.translated(0, 20), "720° once", NOTE, theme.ink2)
        p.fillRect(QRectF(8, HEADER - 1, width - 16, 1.4), theme.hair)

    def _paint_row(self, p: QPainter, box: QRectF, row: OrderRow, place: int) -> None:
        theme, width = self.look.theme, self.logical_width
        if place == self.chosen:
            p.fillRect(box, theme.now_tint)
            p.fillRect(QRectF(box.left() + 1, box.top(), 5, box.height()), theme.now)
        p.fillRect(QRectF(8, box.bottom() - 1, width - 16, 1.4), theme.hair)

        def cell(i: int, wide: float) -> QRectF:
            return QRectF(self._shares[i] * width + 8, box.top(), wide * width, box.height())

        self._paint_order(p, cell(0, 0.27), row)
        radius = min(27.0, box.height() / 2 - 20)
        if self._has_rings:
            at = QPointF((RING_SHARE + 0.03) * width, box.center().y())
            paint_glyph(p, at, row.offsets_deg, row.pairs, theme, radius)
        gaps = (row.gaps, row.gaps.replace("° to ", "–"))
        draw_one_of(p, cell(1, 0.115), gaps, LABEL, theme.ink, Weight.STRONG)
        self._paint_run(p, cell(2, 0.13), row.run)
        draw_text(p, cell(3, 0.04), str(len(row.pairs)), LEAD + 2, theme.ink, Weight.STRONG)
        words = "  ".join(f"{a}-{b}" for a, b in row.pairs) or "none"
        pairs = cell(3, 0.12)
        pairs.setLeft(pairs.left() + 26)
        self._paint_wrapped(p, pairs, words)
        words = "  ".join(f"{a}·{b}" for a, b in row.companions) or "none"
        self._paint_wrapped(p, cell(4, 0.145), words)

    def _paint_order(self, p: QPainter, box: QRectF, row: OrderRow) -> None:
        theme = self.look.theme
        if row.text in self._alike:
            below = QRectF(box.left(), box.center().y() + 5, box.width(), 20)
            short = f"long gap after {row.long_gap_after}"
            draw_one_of(p, below, (row.turns, short), NOTE, theme.ink)
            box = box.adjusted(0, 0, 0, -20)
        px = HEAD if len(row.order) <= 8 else LEAD
        if text_width(row.text, px, Weight.STRONG) <= box.width() or len(row.order) <= 8:
            draw_text(p, box, row.text, px, theme.ink, Weight.STRONG)
            return
        half = (len(row.order) + 1) // 2
        for i, part in enumerate((row.order[:half], row.order[half:])):
            line = QRectF(box.left(), box.center().y() - 24 + 24 * i, box.width(), 24)
            words = "-".join(map(str, part)) + ("-" if i == 0 else "")
            draw_text(p, line, words, LEAD, theme.ink, Weight.STRONG)

    def _paint_run(self, p: QPainter, box: QRectF, run: int) -> None:
        theme = self.look.theme
        draw_text(p, box, str(run), LEAD + 2, theme.ink, Weight.STRONG)
        size = 14.0
        for i in range(min(run, 4)):
            left = box.left() + 26 + i * (size + 3)
            p.fillRect(QRectF(left, box.center().y() - 7, size, size), theme.ink)

    def _paint_wrapped(self, p: QPainter, box: QRectF, words: str) -> None:
        """Pairs in up to three short lines."""
        lines, line = [], ""
        for part in words.split("  "):
            longer = f"{line}  {part}" if line else part
            if line and text_width(longer, NOTE, Weight.LABEL) > box.width():
                lines.append(line)
                longer = part
            line = longer
        lines.append(line)
        if len(lines) > 3:
            lines = [*lines[:2], f"{lines[2]} …"]
        top = box.center().y() - 9 * len(lines)
        for i, text in enumerate(lines):
            where = QRectF(box.left(), top + 18 * i, box.width(), 18)
            draw_text(p, where, text, NOTE, self.look.theme.ink, Weight.LABEL)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A heading sorts, a row is chosen."""
        if event is None or self._model is None:
            return
        spot = event.position() / self.look.scale
        if spot.y() < HEADER:
            share = spot.x() / self.logical_width
            passed = [place for place, start in enumerate(self._shares) if share >= start]
            if passed:
                keep = self.row.order if self.row else None
                self._model.sorted_by = passed[-1]
                self.show_model(self._model, keep)
        elif spot.y() < self.logical_height - FOOTER:
            self.pick(self._first + int((spot.y() - HEADER) // self.row_height))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down, page up and page down, home and end."""
        if event is None:
            return
        moves = {
            Qt.Key.Key_Down: 1,
            Qt.Key.Key_Up: -1,
            Qt.Key.Key_PageDown: self._visible,
            Qt.Key.Key_PageUp: -self._visible,
            Qt.Key.Key_Home: -len(self._rows),
            Qt.Key.Key_End: len(self._rows),
        }
        move = moves.get(Qt.Key(event.key()))
        if move is None:
            event.ignore()
        else:
            self.pick(self.chosen + move)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Scroll by rows."""
        if event is not None:
            step = -1 if event.angleDelta().y() > 0 else 1
            most = max(0, len(self._rows) - self._visible)
            self._first = min(max(self._first + step, 0), most)
            self.update()
            event.accept()
