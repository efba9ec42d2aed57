"""Which shim goes where: what is in, what is wanted, where each goes, and the gap then.

Positions stand along the head from the front. Swaps are strong, what stays is thin, bought is
solid, out of the drawer hollow. Where the head needs several rows, words take the place of lines.
"""

from collections.abc import Sequence
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPolygonF

from true_compass.core.adjusting.shims import Origin, Placed, ShimPlan
from true_compass.core.items import Item
from true_compass.core.units import MM_PER_THOU
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.job_chart import Row, paint_item
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

LEFT_EDGE: Final = 80.0


class ShimChart:
    """Paints a plan; `plan` is None while something is still to be measured."""

    def __init__(
        self,
        rows: Sequence[Row],
        gaps: Sequence[float | None],
        shims: Sequence[float | None],
        plan: ShimPlan | None,
        box: QRectF,
        theme: Theme,
    ) -> None:
        self.rows, self.gaps, self.shims, self.plan = rows, gaps, shims, plan
        self.box, self.theme = box, theme
        self.order = {item: n for n, item in enumerate(i for row in rows for i in row.items)}

    def _column(self, item: Item) -> QRectF:
        """The item's column: its row of the head, its place in it."""
        high = self.box.height() / len(self.rows)
        for nth, row in enumerate(self.rows):
            if item in row.items:
                each = min((self.box.width() - LEFT_EDGE - 8) / len(row.items), 240.0)
                x = self.box.left() + LEFT_EDGE + row.items.index(item) * each
                return QRectF(x, self.box.top() + nth * high + 6, each, high - 10)
        raise KeyError(item)

    def at(self, point: QPointF) -> Item | None:
        """The item whose column is under a point."""
        return next((item for item in self.order if self._column(item).contains(point)), None)

    def paint(self, p: QPainter, asked: Item | None = None) -> None:
        """The whole chart."""
        rounded(p, self.box, 6, self.theme.sheet, flat_pen(self.theme.line, 1.6))
        for row in self.rows:
            self._paint_words(p, row)
        for item in self.order:
            self._paint_column(p, item, due=item == asked)
        if self.plan is not None and len(self.rows) == 1:
            self._paint_ways(p)

    def _ys(self, column: QRectF) -> dict[str, float]:
        """Top edges of what stands in a column."""
        high = column.height()
        chip = min(44.0, high * 0.13)
        gap = column.top() + chip + 4
        now = gap + 26
        then = column.bottom() - (112 if high > 330 else 82)
        return {"chip": column.top(), "gap": gap, "now": now, "then": then, "left": then + 36}

    def _paint_words(self, p: QPainter, row: Row) -> None:
        theme, column = self.theme, self._column(row.items[0])
        ys = self._ys(column)
        if row.name:
            head = QRectF(self.box.left() + 8, ys["chip"] + 4, LEFT_EDGE - 16, 22)
            draw_text(p, head, f"Bank {row.name}", NOTE, theme.ink, Weight.STRONG)
        for key, words in (
            ("gap", "gap, mm"),
            ("now", "shim now"),
            ("then", "shim then"),
            ("left", "gap then"),
        ):
            if self.plan is None and key in ("then", "left"):
                continue
            box = QRectF(self.box.left() + 4, ys[key], LEFT_EDGE - 14, 28)
            draw_text(p, box, words, BODY, theme.ink, Weight.LABEL, RIGHT)
            if key == "left" and column.width() <= 72:
                under = box.translated(0, 21)
                draw_text(p, under, "thou", NOTE, theme.ink2, Weight.BODY, RIGHT)

    def _placed(self, item: Item) -> Placed | None:
        return self.plan.places[self.order[item]] if self.plan is not None else None

    def _paint_column(self, p: QPainter, item: Item, *, due: bool) -> None:
        theme, column = self.theme, self._column(item)
        ys, place = self._ys(column), self.order[item]
        placed = self._placed(item)
        off = placed is not None and not placed.position.in_band
        if due or off:
            high = column.height() if due else ys["now"] - column.top()
            p.fillRect(
                QRectF(column.left() + 2, column.top(), column.width() - 4, high), theme.now_tint
            )
        if due:
            rounded(p, column.adjusted(2, 0, -2, 0), 4, None, flat_pen(theme.now, 2.6))
        wide = min(column.width() - 8, 54.0)
        chip_high = ys["gap"] - ys["chip"] - 4
        chip = QRectF(column.center().x() - wide / 2, ys["chip"], wide, chip_high)
        paint_item(p, chip, item, theme)
        gap, shim = self.gaps[place], self.shims[place]
        weight = Weight.STRONG if off else Weight.BODY
        if gap is not None:
            box = QRectF(column.left(), ys["gap"], column.width(), 26)
            draw_text(p, box, f"{gap:.2f}", LABEL, theme.ink, weight, CENTRE)
        if shim is not None:
            self._disc(p, column, ys["now"], shim, strong=off)
        if placed is None:
            return
        if column.height() > 330:
            wants = QRectF(column.left(), ys["now"] + 32, column.width(), 20)
            words = f"wants {placed.position.wanted_mm:.2f}"
            draw_one_of(p, wants, (words, words[6:]), NOTE, theme.ink2, Weight.BODY, CENTRE)
        self._paint_then(p, column, ys, placed)

    def _paint_then(
        self, p: QPainter, column: QRectF, ys: dict[str, float], placed: Placed
    ) -> None:
        theme = self.theme
        changed = placed.origin is not Origin.STAYS
        box = QRectF(column.left(), ys["left"], column.width(), 26)
        if placed.shim_mm is None or placed.gap_mm is None:
            draw_one_of(p, box, ("no shim", "none"), BODY, theme.ink, Weight.STRONG, CENTRE)
            return
        self._disc(
            p, column, ys["then"], placed.shim_mm, strong=changed, solid=placed.origin is Origin.BUY
        )
        weight = Weight.STRONG if changed else Weight.BODY
        draw_text(p, box, f"{placed.gap_mm:.2f}", LABEL, theme.ink, weight, CENTRE)
        thou = f"{placed.gap_mm / MM_PER_THOU:.1f}"
        thou = f"{thou} thou" if column.width() > 72 else thou
        row = box.translated(0, 22)
        draw_one_of(p, row, (thou,), NOTE, theme.ink2, Weight.BODY, CENTRE)
        if column.height() > 330:
            self._paint_in_band(p, column, placed)
        if len(self.rows) > 1 and changed:
            words = {Origin.BUY: "buy", Origin.DRAWER: "drawer"}.get(placed.origin or Origin.BUY)
            if words is None and placed.giver is not None and self.plan is not None:
                words = f"from {self.plan.places[placed.giver].position.name}"
            above = QRectF(column.left(), ys["then"] - 22, column.width(), 20)
            told = words or ""
            draw_one_of(
                p, above, (told, told.replace("from ", "")), NOTE, theme.ink, Weight.LABEL, CENTRE
            )

    def _paint_in_band(self, p: QPainter, column: QRectF, placed: Placed) -> None:
        theme = self.theme
        low, high = placed.position.band_mm
        wide = min(column.width() - 16, 64.0)
        bar = QRectF(column.center().x() - wide / 2, column.bottom() - 26, wide, 12)
        p.fillRect(bar, theme.well)
        p.setPen(flat_pen(theme.line, 1.4))
        for x in (bar.left(), bar.right()):
            p.drawLine(QPointF(x, bar.top()), QPointF(x, bar.bottom()))
        share = (placed.position.target_mm - low) / max(high - low, 1e-9)
        x = bar.left() + share * wide
        p.drawLine(QPointF(x, bar.top() - 2), QPointF(x, bar.bottom() + 2))
        assert placed.gap_mm is not None
        share = (placed.gap_mm - low) / max(high - low, 1e-9)
        changed = placed.origin is not Origin.STAYS
        p.setPen(flat_pen(theme.ink, 1.8))
        p.setBrush(theme.ink if changed else theme.sheet)
        p.drawEllipse(QPointF(bar.left() + share * wide, bar.center().y()), 5.5, 5.5)

    def _disc(
        self,
        p: QPainter,
        column: QRectF,
        y: float,
        size_mm: float,
        *,
        strong: bool,
        solid: bool = False,
    ) -> None:
        theme = self.theme
        wide = min(column.width() - 6, 66.0)
        box = QRectF(column.center().x() - wide / 2, y, wide, 28)
        fill = theme.ink if solid else theme.sheet
        rounded(p, box, 12, fill, flat_pen(theme.ink, 2.6 if strong else 1.2))
        weight = Weight.STRONG if strong else Weight.BODY
        words = f"{size_mm:.3f}".rstrip("0")
        words = words if len(words.partition(".")[2]) >= 2 else f"{size_mm:.2f}"
        colour = theme.on_ink if solid else theme.ink
        draw_text(p, box.adjusted(3, 0, -3, 0), words, BODY, colour, weight, CENTRE)

    # Ways ---------------------------------------------------------------------------------------

    def _paint_ways(self, p: QPainter) -> None:
        """Lines from where a shim is to where it goes; thin ones first, strong ones over them."""
        plan = self.plan
        assert plan is not None
        items = list(self.order)
        plates: list[tuple[QPointF, bool]] = []
        for stays in (True, False):
            for row, placed in enumerate(plan.places):
                column = self._column(items[row])
                ys = self._ys(column)
                end = QPointF(column.center().x(), ys["then"] - 3)
                if placed.origin is Origin.STAYS and stays:
                    start = QPointF(column.center().x(), ys["now"] + 54)
                    self._way(p, start, end, strong=False)
                elif placed.origin is Origin.MOVED and not stays and placed.giver is not None:
                    giver = self._column(items[placed.giver])
                    start = QPointF(giver.center().x(), self._ys(giver)["now"] + 54)
                    self._way(p, start, end, strong=True)
                elif placed.origin in (Origin.BUY, Origin.DRAWER) and not stays:
                    plates.append((end - QPointF(0, 64), placed.origin is Origin.BUY))
                    self._way(p, end - QPointF(0, 40), end, strong=True)
        for row in plan.freed:
            column = self._column(items[row])
            top = QPointF(column.center().x(), self._ys(column)["now"] + 54)
            self._way(p, top, top + QPointF(0, 30), strong=True)
            plates.append((top + QPointF(0, 32), False))
        for top, solid in plates:
            self._plate(p, top, solid)

    def _plate(self, p: QPainter, top: QPointF, solid: bool) -> None:
        theme = self.theme
        wide = min(68.0, self._column(next(iter(self.order))).width() - 4)
        box = QRectF(top.x() - wide / 2, top.y(), wide, 24)
        rounded(p, box, 3, theme.ink if solid else theme.sheet, flat_pen(theme.ink, 1.8))
        words, colour = ("buy", theme.on_ink) if solid else ("drawer", theme.ink)
        draw_text(p, box, words, BODY, colour, Weight.LABEL, CENTRE)

    def _way(self, p: QPainter, start: QPointF, end: QPointF, *, strong: bool) -> None:
        theme = self.theme
        tip = end - QPointF(0, 8)
        path = QPainterPath(start)
        middle = (start.y() + tip.y()) / 2
        path.cubicTo(QPointF(start.x(), middle), QPointF(tip.x(), middle), tip)
        p.setBrush(Qt.BrushStyle.NoBrush)
        if strong:
            # A casing tells crossing lines apart.
            p.setPen(flat_pen(theme.sheet, 8.0))
            p.drawPath(path)
        p.setPen(round_pen(theme.ink, 3.0) if strong else flat_pen(theme.ink3, 1.4))
        p.drawPath(path)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink if strong else theme.ink3)
        size = 7.0 if strong else 5.0
        p.drawPolygon(QPolygonF([end, tip + QPointF(-size, -2), tip + QPointF(size, -2)]))
