"""One job along the heads: every item as found and as left, about its own target and band.

Found is hollow, left is solid; an arrow leads from the one to the other. Cells are given once, for
painting and for pressing.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.book.job import ItemRecord, Job, Measure
from true_compass.book.work import (
    Asked,
    Verdict,
    final_verdict,
    found_verdict,
    is_found,
    is_set_unread,
    wide_mm,
)
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.engine import Engine
from true_compass.core.items import Item, Kind
from true_compass.core.units import GapUnit, change_in, gap_short
from true_compass.drawing.codes import Place as DiscPlace
from true_compass.drawing.codes import flat_pen, number_disc, paint_tick, round_pen, rounded
from true_compass.drawing.found_left import paint_arrow_between, paint_found, paint_left
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, LEAD, NOTE, Theme, Weight

LEFT_EDGE: Final = 92.0
MOST_A_ROW: Final = 18
DISC: Final = 15.0
LEAST_CELL: Final = 42.0
CHIP_HIGH: Final = 42.0
FIGURE: Final = 26.0
THOU: Final = 18.0
SCALES_MM: Final = (0.10, 0.15, 0.20, 0.30, 0.50, 1.0, 2.0, 5.0)


@dataclass(frozen=True, slots=True)
class Row:
    """One row of items along a head, from the front."""

    name: str
    items: tuple[Item, ...]


def rows_of(engine: Engine, most: int = MOST_A_ROW) -> tuple[Row, ...]:
    """All items of an engine along its heads, a bank a row; a long bank and a star in parts of at
    most so many items, as far as cylinders can be parted.
    """
    layout = engine.layout
    own: dict[int, list[Item]] = {}
    for setting in settings_of(engine):
        own.setdefault(setting.item.cylinder, []).append(setting.item)
    rows: list[Row] = []
    banks = layout.banks_in_use
    star = len(banks) > 4
    groups = (
        [("", list(engine.cylinders))]
        if star
        else [
            (layout.banks[bank].name if len(banks) > 1 else "", list(layout.on_bank(bank)))
            for bank in banks
        ]
    )
    for name, cylinders in groups:
        pattern = "" if star else engine.valves_along(layout.seats[cylinders[0] - 1].bank)
        items = [
            item
            for place, cylinder in enumerate(cylinders)
            for item in _in_order(own.get(cylinder, []), pattern[2 * place : 2 * place + 2])
        ]
        parts = -(-len(items) // most)
        # A cylinder is never torn apart.
        each = -(-len(cylinders) // max(parts, 1))
        for first in range(0, len(cylinders), each):
            here = set(cylinders[first : first + each])
            rows.append(Row(name, tuple(item for item in items if item.cylinder in here)))
    return tuple(row for row in rows if row.items)


def _in_order(items: Sequence[Item], pattern: str) -> list[Item]:
    """Items of a cylinder as they stand: by the head's pattern, bridges and levers beside them."""
    order = {letter: n for n, letter in enumerate(pattern)}
    return sorted(items, key=lambda item: order.get(item.kind.letter, 2))


def along_heads(engine: Engine) -> tuple[Item, ...]:
    """All items in the order in which one walks along the heads."""
    return tuple(item for row in rows_of(engine) for item in row.items)


@dataclass(frozen=True, slots=True)
class Cell:
    """One item's column: the whole of it, and where its parts are, top edges in pixels."""

    item: Item
    box: QRectF
    plot: QRectF
    found_y: float
    left_y: float
    verdict_y: float
    low: bool

    @property
    def chip(self) -> QRectF:
        """The item's code."""
        wide = min(self.box.width() - 8, 54.0)
        top = self.box.top() + (0 if self.low else 2 * DISC + 8)
        high = 28.0 if self.low else CHIP_HIGH
        return QRectF(self.box.center().x() - wide / 2, top, wide, high)


class JobChart:
    """Paints one job; `asked` is the reading that is due, `picked` the item in hand."""

    def __init__(self, engine: Engine, job: Job, box: QRectF, theme: Theme) -> None:
        self.engine, self.job, self.box, self.theme = engine, job, box, theme
        room = int((box.width() - LEFT_EDGE - 8) / LEAST_CELL)
        self.rows = rows_of(engine, max(min(room, MOST_A_ROW), 4))
        self.cells = self._cells()
        self.scale_mm = self._scale_mm()
        self.all_found = all(is_found(job, item) for row in self.rows for item in row.items)
        """Until all are measured as found, nothing is said of what is left."""

    def _cells(self) -> list[Cell]:
        high = self.box.height() / len(self.rows)
        found = []
        for nth, row in enumerate(self.rows):
            each = (self.box.width() - LEFT_EDGE - 8) / len(row.items)
            each = min(each, 240.0)
            top = self.box.top() + nth * high
            low = high < 250
            head = 34.0 if low else 2 * DISC + CHIP_HIGH + 14
            figures = 2 * FIGURE + (0 if high < 180 else FIGURE) + (0 if high < 300 else 2 * THOU)
            plot_high = max(high - head - figures - 10, 24.0)
            for place, item in enumerate(row.items):
                box = QRectF(self.box.left() + LEFT_EDGE + place * each, top + 6, each, high - 8)
                plot = QRectF(box.left(), box.top() + head, each, plot_high)
                found_y = plot.bottom() + 4
                thou = 0.0 if high < 300 else THOU
                left_y = found_y + FIGURE + thou
                found.append(Cell(item, box, plot, found_y, left_y, left_y + FIGURE + thou, low))
        return found

    def _scale_mm(self) -> float:
        """What the edge of every plot stands for, about its item's target."""
        most = 0.0
        for item, record in self.job.items.items():
            target = self.job.target(item)
            if target is None:
                continue
            for measure in (record.found, record.final):
                value = target.value(measure)
                if value is not None:
                    most = max(most, *(abs(e - target.target_mm) for e in (value.low, value.high)))
        for target in self.job.targets:
            if target.band_mm is not None and target.hot == self.job.hot:
                most = max(most, *(abs(end - target.target_mm) for end in target.band_mm))
        return next((scale for scale in SCALES_MM if most <= scale - 0.02), SCALES_MM[-1])

    def at(self, point: QPointF) -> tuple[Item, str] | None:
        """Which item, and which of its rows, lies under a point."""
        for cell in self.cells:
            if cell.box.adjusted(0, -4, 0, 4).contains(point):
                left = cell.left_y <= point.y() < cell.verdict_y + FIGURE
                return cell.item, "left" if left else "found"
        return None

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter, asked: Asked | None = None, picked: Item | None = None) -> None:
        """The whole chart."""
        rounded(p, self.box, 6, self.theme.sheet, flat_pen(self.theme.line, 1.6))
        for nth, row in enumerate(self.rows):
            self._paint_edge(p, nth, row)
        self._paint_cylinders(p)
        out = {Verdict.TIGHT, Verdict.WIDE}
        for cell in self.cells:
            due = asked is not None and asked.item == cell.item
            lit = due or cell.item == picked
            if lit or found_verdict(self.job, cell.item) in out:
                tint = self.theme.now_tint
                p.fillRect(cell.box.adjusted(2, 0 if cell.low else 2 * DISC + 4, -2, 0), tint)
            self._paint_cell(p, cell)
            if lit:
                edge = cell.box.adjusted(2, 0 if cell.low else 2 * DISC + 4, -2, 0)
                rounded(p, edge, 4, None, flat_pen(self.theme.now, 2.6))

    def _paint_edge(self, p: QPainter, nth: int, row: Row) -> None:
        """What stands left of a row: its bank, the scale, and what the figures are."""
        theme = self.theme
        cell = next(cell for cell in self.cells if cell.item == row.items[0])
        left, wide = self.box.left() + 6, LEFT_EDGE - 14
        if nth == 0 or row.name or not cell.low:
            tip = QPointF(left + 4, cell.box.top() + 14)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.ink)
            p.drawPolygon(QPolygonF([tip, tip + QPointF(10, -7), tip + QPointF(10, 7)]))
            front = QRectF(left + 17, cell.box.top() + 3, wide - 17, 22)
            words = f"Bank {row.name}" if cell.low and row.name else "Front"
            draw_text(p, front, words, NOTE, theme.ink, Weight.STRONG)
        if row.name and not cell.low:
            head = QRectF(left, cell.box.top() + 28, wide, 22)
            draw_text(p, head, f"Bank {row.name}", NOTE, theme.ink, Weight.STRONG)
        self._scale_words(p, cell)
        unit = self.job.unit
        for y, words in ((cell.found_y, "found"), (cell.left_y, "left")):
            box = QRectF(left, y, wide, FIGURE)
            # Turns of an adjuster have their unit beside each figure.
            turns = self.engine.train.hydraulic
            named = (words,) if turns else (f"{words}, {unit.value}", words)
            draw_one_of(p, box, named, BODY, theme.ink, Weight.STRONG, RIGHT)
            if cell.left_y - cell.found_y > FIGURE + 1:
                draw_text(
                    p,
                    QRectF(left, y + FIGURE - 3, wide, THOU),
                    unit.other.value,
                    NOTE,
                    theme.ink2,
                    Weight.BODY,
                    RIGHT,
                )

    def _scale_words(self, p: QPainter, cell: Cell) -> None:
        """The scale about the target, with a line across at its ends."""
        theme, left, wide = self.theme, self.box.left() + 6, LEFT_EDGE - 14
        half = cell.plot.height() / 2
        end = change_in(self.scale_mm, self.job.unit)
        for share, words in ((1.0, end), (0.0, "target"), (-1.0, end.replace("+", "−"))):
            if share and half < 30:
                continue
            y = self._y(cell, share * self.scale_mm)
            box = QRectF(left, y - 10, wide, 20)
            weight = Weight.BODY if share else Weight.LABEL
            draw_text(p, box, words, NOTE, theme.ink2, weight, RIGHT)
            if share and half > 70:
                p.setPen(flat_pen(theme.hair, 1.2))
                right = self.box.right() - 8
                p.drawLine(QPointF(self.box.left() + LEFT_EDGE, y), QPointF(right, y))
                word = "wide" if share > 0 else "tight"
                draw_text(
                    p, box.translated(0, 18 * -share), word, NOTE, theme.ink2, Weight.BODY, RIGHT
                )

    def _paint_cylinders(self, p: QPainter) -> None:
        """A disc over the items of each cylinder, and a line between cylinders."""
        for row in self.rows:
            cells = [cell for cell in self.cells if cell.item in row.items]
            groups: dict[int, list[Cell]] = {}
            for cell in cells:
                groups.setdefault(cell.item.cylinder, []).append(cell)
            for number, own in groups.items():
                left, right = own[0].box.left(), own[-1].box.right()
                if not own[0].low:
                    at = QPointF((left + right) / 2, own[0].box.top() + DISC + 1)
                    number_disc(p, at, DISC, number, DiscPlace.BETWEEN, self.theme, strong=False)
                if own is not list(groups.values())[-1]:
                    p.setPen(flat_pen(self.theme.hair, 1.4))
                    p.drawLine(
                        QPointF(right, own[0].box.top()), QPointF(right, own[0].box.bottom())
                    )

    def _y(self, cell: Cell, off_mm: float) -> float:
        half = cell.plot.height() / 2 - (24 if cell.plot.height() > 140 else 8)
        share = max(min(off_mm / self.scale_mm, 1.0), -1.0)
        return cell.plot.center().y() - share * half

    def _paint_cell(self, p: QPainter, cell: Cell) -> None:
        record = self.job.record(cell.item)
        paint_item(p, cell.chip, cell.item, self.theme)
        self._paint_band(p, cell)
        self._paint_readings(p, cell, record)
        set_here = record.was_set
        out = found_verdict(self.job, cell.item) in (Verdict.TIGHT, Verdict.WIDE)
        # What is still to be set was not left yet, unless somebody signed that it was.
        told = self.all_found and (not out or bool(self.job.signed))
        final = record.final if set_here or told else None
        wide = self.job.unit.value == "mm"
        for y, measure, strong in (
            (cell.found_y, record.found, set_here),
            (cell.left_y, final, set_here),
        ):
            self._figure(p, cell, y, measure, strong, in_mm=wide)
        self._paint_verdict(p, cell, record)

    def _figure(
        self,
        p: QPainter,
        cell: Cell,
        y: float,
        measure: Measure | None,
        strong: bool,
        *,
        in_mm: bool,
    ) -> None:
        box = QRectF(cell.box.left() + 1, y, cell.box.width() - 2, FIGURE)
        theme = self.theme
        if measure is None:
            return
        weight = Weight.STRONG if strong else Weight.LABEL
        main, other = figures(measure, in_mm=in_mm)
        px = LEAD if strong and cell.box.width() > 58 else BODY
        if text_width(main, px, weight) > box.width():
            px = NOTE
        draw_one_of(
            p, box, (main, main.replace("..", "–"), main.lstrip("0")), px, theme.ink, weight, CENTRE
        )
        if cell.left_y - cell.found_y > FIGURE + 1:
            draw_one_of(
                p,
                QRectF(box.left(), y + FIGURE - 3, box.width(), THOU),
                (other,),
                NOTE,
                theme.ink2,
                Weight.BODY,
                CENTRE,
            )

    def _paint_band(self, p: QPainter, cell: Cell) -> None:
        theme, target = self.theme, self.job.target(cell.item)
        inside = cell.plot
        if target is None:
            return
        if target.band_mm is not None:
            ends = sorted(self._y(cell, wide_mm(target, end)) for end in target.band_mm)
            high, low = ends
            p.fillRect(QRectF(inside.left(), high, inside.width(), low - high), theme.well)
            p.setPen(flat_pen(theme.line, 1.6))
            for y in (low, high):
                p.drawLine(QPointF(inside.left(), y), QPointF(inside.right(), y))
        p.setPen(flat_pen(theme.ink2, 1.4))
        y = self._y(cell, 0.0)
        p.drawLine(QPointF(inside.left(), y), QPointF(inside.right(), y))

    def _paint_readings(self, p: QPainter, cell: Cell, record: ItemRecord) -> None:
        target = self.job.target(cell.item)
        gap = target.value(record.found) if target is not None else None
        if target is None or gap is None:
            return
        x = cell.plot.center().x()
        found = self._y(cell, wide_mm(target, gap.middle))
        final = target.value(record.final)
        if record.was_set and final is not None:
            left = self._y(cell, wide_mm(target, final.middle))
            paint_arrow_between(p, QPointF(x, found), QPointF(x, left), self.theme)
            paint_found(p, QPointF(x, found), self.theme, strong=True)
            paint_left(p, QPointF(x, left), self.theme)
            return
        if not gap.is_number:
            ends = [self._y(cell, wide_mm(target, end)) for end in (gap.low, gap.high)]
            p.setPen(round_pen(self.theme.ink, 2.2))
            p.drawLine(QPointF(x, ends[0]), QPointF(x, ends[1]))
            for y in ends:
                p.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))
            return
        paint_found(p, QPointF(x, found), self.theme)

    def _paint_verdict(self, p: QPainter, cell: Cell, record: ItemRecord) -> None:
        if cell.verdict_y + FIGURE > cell.box.bottom() + 6:
            return
        box = QRectF(cell.box.left(), cell.verdict_y, cell.box.width(), FIGURE)
        told = final_verdict(self.job, cell.item)
        strong = (BODY, self.theme.ink, Weight.STRONG, CENTRE)
        if record.off_heel:
            draw_one_of(p, box, ("off its base circle", "off base", "off"), *strong)
        elif is_set_unread(record):
            draw_one_of(p, box, ("set, not measured", "set only", "set"), *strong)
        elif record.was_set and told in (Verdict.IN_BAND, Verdict.UNKNOWN):
            draw_text(p, box, "set", BODY, self.theme.ink, Weight.STRONG, CENTRE)
        elif told is Verdict.IN_BAND:
            paint_tick(p, box.center(), 12, self.theme.ink)
        elif told is not Verdict.UNKNOWN:
            words = ("between", "?") if told is Verdict.OPEN else (told.value, told.value[:1])
            draw_one_of(p, box, words, BODY, self.theme.ink, Weight.STRONG, CENTRE)


def figures(measure: Measure, *, in_mm: bool) -> tuple[str, str]:
    """A reading in the unit of the blades, and in the other one, both without their unit."""
    if measure.gap is None:
        return (f"{measure.turns:g} t", "") if measure.turns is not None else ("", "")
    ends = (measure.gap.low, measure.gap.high)
    mm, thou = ("..".join(gap_short(end, unit) for end in dict.fromkeys(ends)) for unit in GapUnit)
    return (mm, thou) if in_mm else (thou, mm)


def paint_item(p: QPainter, box: QRectF, item: Item, theme: Theme, *, fill: bool = False) -> None:
    """An item in outline: round with a hollow bar for intake, square with a solid one."""
    corner = box.height() * 0.32 if item.rounded else 2.0
    rounded(p, box, corner, theme.ink if fill else theme.sheet, flat_pen(theme.ink, 2))
    colour = theme.on_ink if fill else theme.ink
    small = box.height() < 36
    name = box.adjusted(3, 0 if small else 2, -3, 0 if small else -box.height() * 0.28)
    short = item.name.replace(" bridge", " br").replace(" variable", " v")
    px = min(float(LABEL), box.width() / (0.64 * max(len(short), 2)))
    draw_text(p, name, short, max(px, 11.0), colour, Weight.STRONG, CENTRE)
    if small:
        return
    bar = QRectF(
        box.bottomLeft() + QPointF(box.width() * 0.27, -box.height() * 0.24),
        QSizeF(box.width() * 0.46, 5.0),
    )
    if item.kind is Kind.INTAKE or item.rounded:
        rounded(p, bar, 2.5, None, flat_pen(colour, 1.6))
    else:
        p.fillRect(bar, colour)
