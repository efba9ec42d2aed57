"""One item through all jobs, with its siblings behind it; and the changes of one job as dots."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.book.brackets import Bracket
from true_compass.book.meaning import Due
from true_compass.book.pointing import Bound
from true_compass.book.trend import Entry
from true_compass.core.items import Item, Kind
from true_compass.core.units import MM_PER_THOU, GapUnit, band_words, gap_short
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.found_left import paint_arrow_between, paint_found, paint_left
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Theme, Weight

LEFT_EDGE: Final = 66.0
FOOT: Final = 50.0
MONTHS: Final = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


@dataclass(frozen=True, slots=True)
class Past:
    """What a history shows: the jobs, the item, its siblings, its band, its target, what is due."""

    entries: Sequence[Entry]
    item: Item
    siblings: Sequence[Item]
    band_mm: tuple[float, float] | None
    target_mm: float | None
    due: Due | None
    by_distance: bool
    unit: GapUnit = GapUnit.MM

    @property
    def shown(self) -> list[Entry]:
        """Jobs that measured the item, the oldest first; the newest twelve."""
        return [one for one in self.entries if self.item in one.items][-12:]


class HistoryChart:
    """Paints a history into a box."""

    def __init__(self, past: Past, box: QRectF, theme: Theme) -> None:
        self.past, self.box, self.theme = past, box, theme
        self.plot = box.adjusted(LEFT_EDGE, 22, -18, -FOOT)
        self.low, self.high = self._range()
        self.places = self._places()

    def _range(self) -> tuple[float, float]:
        """Lowest and highest gap that is shown, rounded outwards to 0.05 mm."""
        gaps: list[float] = list(self.past.band_mm or ())
        for entry in self.past.shown:
            for item in (self.past.item, *self.past.siblings):
                seen = entry.items.get(item)
                for bracket in (seen.found, seen.left) if seen else ():
                    if bracket is not None and (item == self.past.item or self._near(bracket)):
                        gaps += [bracket.low, bracket.high]
        low, high = min(gaps, default=0.0), max(gaps, default=0.5)
        return max(low - 0.03, 0.0), high + 0.03

    def _near(self, bracket: Bracket) -> bool:
        """A sibling far from the band would flatten the picture; it is cut at its edge."""
        if self.past.band_mm is None:
            return True
        low, high = self.past.band_mm
        return low - 0.15 <= bracket.middle <= high + 0.15

    def _places(self) -> list[float]:
        """Where each job stands across: by its counter where all have one, else evenly."""
        shown, due = self.past.shown, self.past.due
        clocks = [entry.clock for entry in shown]
        wide = self.plot.width() - 40
        count = len(shown) + (due is not None)
        if count <= 1:
            return [self.plot.left() + wide / 2]
        known = [clock for clock in clocks if clock is not None]
        if len(known) == len(shown) and known[-1] > known[0]:
            end = max(known[-1], min(due.at_clock, 2 * known[-1] - known[0])) if due else known[-1]
            span = max(end - known[0], 1e-9)
            raw = [self.plot.left() + 20 + wide * (c - known[0]) / span for c in known]
            if due is not None:
                at = min(due.at_clock, end)
                raw.append(self.plot.left() + 20 + wide * (at - known[0]) / span)
            return self._apart(raw)
        return [self.plot.left() + 20 + wide * n / (count - 1) for n in range(count)]

    def _apart(self, raw: list[float]) -> list[float]:
        """Jobs close together are drawn at least a label apart, in order."""
        least = min(96.0, (self.plot.width() - 40) / max(len(raw) - 1, 1))
        places = raw[:1]
        for x in raw[1:]:
            places.append(max(x, places[-1] + least))
        over = places[-1] - (self.plot.right() - 20)
        if over > 0:
            first = self.plot.left() + 20
            scale = (self.plot.right() - 20 - first) / max(places[-1] - first, 1e-9)
            places = [first + (x - first) * scale for x in places]
        return places

    def y(self, mm: float) -> float:
        """Height of a gap."""
        share = (min(max(mm, self.low), self.high) - self.low) / (self.high - self.low)
        return self.plot.bottom() - share * self.plot.height()

    def paint(self, p: QPainter) -> None:
        """The whole chart."""
        theme = self.theme
        rounded(p, self.box, 6, theme.sheet, flat_pen(theme.line, 1.6))
        self._paint_scale(p)
        self._paint_foot(p)
        own = self.past.shown[-1].items[self.past.item] if self.past.shown else None
        final = own.stays if own is not None else None
        # The item's own figure stands beside its last point.
        self._named: list[float] = [] if final is None else [self.y(final.middle)]
        for sibling in self.past.siblings:
            self._paint_line(p, sibling, strong=False)
        self._paint_line(p, self.past.item, strong=True)
        self._paint_due(p)

    def _paint_scale(self, p: QPainter) -> None:
        theme, band = self.theme, self.past.band_mm
        if band is not None:
            box = QRectF(
                self.plot.left(),
                self.y(band[1]),
                self.plot.width(),
                self.y(band[0]) - self.y(band[1]),
            )
            p.fillRect(box, theme.well)
            p.setPen(flat_pen(theme.line, 1.6))
            for end in band:
                y = self.y(end)
                p.drawLine(QPointF(self.plot.left(), y), QPointF(self.plot.right(), y))
            words = f"band {band_words(band, self.past.unit)}"
            # Where the due point stands there is no room for words.
            at_top = self.past.due is not None and self.past.due.at_mm >= band[1] - 1e-9
            y = self.y(band[0]) + 1 if at_top else self.y(band[1]) - 20
            right = self.places[-1] - 10 if at_top else self.plot.right() - 2
            at = QRectF(right - 168, y, 168, 20)
            draw_text(p, at, words, NOTE, theme.ink2, Weight.LABEL, RIGHT)
        draw_text(
            p,
            QRectF(self.box.left() + 10, self.box.top() + 2, LEFT_EDGE - 20, 20),
            self.past.unit.value,
            NOTE,
            theme.ink2,
            Weight.BODY,
            RIGHT,
        )
        step = 0.05 if self.high - self.low < 0.4 else 0.1
        if self.past.unit is GapUnit.THOU:
            step = (2 if self.high - self.low < 0.4 else 4) * MM_PER_THOU
        at_mm = round(self.low / step + 0.499) * step
        while at_mm <= self.high + 1e-9:
            y = self.y(at_mm)
            p.setPen(flat_pen(theme.hair, 1.0))
            p.drawLine(QPointF(self.plot.left(), y), QPointF(self.plot.right(), y))
            row = QRectF(self.box.left() + 6, y - 11, LEFT_EDGE - 14, 22)
            figure = gap_short(at_mm, self.past.unit)
            draw_text(p, row, figure, BODY, theme.ink2, Weight.LABEL, RIGHT)
            at_mm += step

    def _points(self, item: Item) -> list[tuple[float, Bracket | None, Bracket | None, bool]]:
        """Across, as found, as left, whether a part was new: of each job that has the item."""
        return [
            (x, seen.found, seen.left, entry.anew or seen.anew)
            for x, entry in zip(self.places, self.past.shown, strict=False)
            if (seen := entry.items.get(item)) is not None
        ]

    def _paint_line(self, p: QPainter, item: Item, *, strong: bool) -> None:
        theme = self.theme
        pen = round_pen(theme.ink, 3.4) if strong else flat_pen(theme.ink3, 1.2)
        before: QPointF | None = None
        points = self._points(item)
        for x, found, left, anew in points:
            if found is not None and before is not None and not anew:
                p.setPen(pen)
                p.drawLine(before, QPointF(x, self.y(found.middle)))
            final = left if left is not None else found
            before = QPointF(x, self.y(final.middle)) if final is not None else before
        if strong:
            for x, found, left, _ in points:
                self._paint_point(p, x, found, left)
            self._paint_name(p, points)
        elif points and points[-1][1] is not None and len(self.past.siblings) <= 5:
            last = points[-1][1]
            y = self.y(last.middle)
            if all(abs(y - other) > 15 for other in self._named):
                self._named.append(y)
                words = QRectF(points[-1][0] + 12, y - 10, 40, 20)
                draw_text(p, words, item.name, NOTE, theme.ink2)

    def _paint_name(
        self, p: QPainter, points: list[tuple[float, Bracket | None, Bracket | None, bool]]
    ) -> None:
        x, found, left, _ = points[-1]
        final = left or found
        if final is not None:
            box = QRectF(x - 190, self.plot.bottom() - 40, 110, 34)
            if self.plot.height() < 170:
                box = QRectF(self.plot.left() + 6, self.plot.bottom() - 34, 60, 32)
            draw_text(p, box, self.past.item.name, HEAD, self.theme.ink, Weight.STRONG, RIGHT)

    def _paint_point(
        self, p: QPainter, x: float, found: Bracket | None, left: Bracket | None
    ) -> None:
        theme = self.theme
        if found is not None:
            y = self.y(found.middle)
            if not found.is_number:
                p.setPen(round_pen(theme.ink, 2.0))
                p.drawLine(QPointF(x, self.y(found.low)), QPointF(x, self.y(found.high)))
            if left is not None:
                paint_arrow_between(p, QPointF(x, y), QPointF(x, self.y(left.middle)), theme)
            paint_found(p, QPointF(x, y), theme, strong=True)
            at = QRectF(
                x - 62, y + (8 if left is None or left.middle > found.middle else -28), 56, 22
            )
            figure = gap_short(found.middle, self.past.unit)
            draw_text(p, at, figure, LABEL, theme.ink, Weight.STRONG, RIGHT)
        if left is not None:
            y = self.y(left.middle)
            paint_left(p, QPointF(x, y), theme)
            due = self.past.due
            rising = due is not None and due.at_mm > left.middle
            at = QRectF(x + 10, y + 2 if rising else y - 24, 56, 22)
            figure = gap_short(left.middle, self.past.unit)
            draw_text(p, at, figure, LABEL, theme.ink, Weight.STRONG)

    def _paint_due(self, p: QPainter) -> None:
        due, theme = self.past.due, self.theme
        if due is None or len(self.places) <= len(self.past.shown):
            return
        points = self._points(self.past.item)
        final = points[-1][2] or points[-1][1]
        if final is None:
            return
        x, y = self.places[-1], self.y(due.at_mm)
        pen = round_pen(theme.ink, 2.6)
        pen.setStyle(Qt.PenStyle.DashLine)
        p.setPen(pen)
        p.drawLine(QPointF(points[-1][0], self.y(final.middle)), QPointF(x, y))
        p.setPen(flat_pen(theme.ink, 2.0))
        p.drawLine(QPointF(x, y), QPointF(x, self.plot.bottom()))
        square = QRectF(x - 8, y - 8, 16, 16)
        rounded(p, square, 1, theme.sheet, flat_pen(theme.ink, 2.4))

    def _paint_foot(self, p: QPainter) -> None:
        theme, unit = self.theme, "km" if self.past.by_distance else "h"
        for x, entry in zip(self.places, self.past.shown, strict=False):
            p.setPen(flat_pen(theme.hair, 1.2))
            p.drawLine(QPointF(x, self.plot.top()), QPointF(x, self.plot.bottom()))
            day = f"{entry.day.day} {MONTHS[entry.day.month - 1]} {entry.day.year}"
            clock = "" if entry.clock is None else f"{entry.clock:,.10g} {unit}"
            self._label(p, x, clock, day)
        if self.past.due is not None and len(self.places) > len(self.past.shown):
            due = self.past.due
            day = f"about {due.on_day.isoformat()}" if due.on_day is not None else ""
            self._label(p, self.places[-1], f"due {due.at_clock:,.0f} {unit}", day)

    def _label(self, p: QPainter, x: float, strong: str, weak: str) -> None:
        near = [abs(x - other) for other in self.places if other != x]
        if near and min(near) < 126:
            # Two lines would lie over those of the next job.
            short = strong.removeprefix("due ")
            row = QRectF(x - 44, self.plot.bottom() + 6, 88, 22)
            words = (short, short.removesuffix(" h"))
            draw_one_of(p, row, words, NOTE, self.theme.ink, Weight.STRONG, CENTRE)
            if short != strong:
                draw_text(
                    p, row.translated(0, 20), "due", NOTE, self.theme.ink2, Weight.BODY, CENTRE
                )
            return
        wide = 6 + max(text_width(strong, BODY, Weight.STRONG), text_width(weak, NOTE), 40.0)
        left = min(max(x - wide / 2, self.box.left() + 6), self.box.right() - wide - 6)
        row = QRectF(left, self.plot.bottom() + 6, wide, 22)
        draw_text(p, row, strong, BODY, self.theme.ink, Weight.STRONG, CENTRE)
        draw_one_of(p, row.translated(0, 20), (weak,), NOTE, self.theme.ink2, Weight.BODY, CENTRE)


def paint_changes(
    p: QPainter,
    box: QRectF,
    changes: Mapping[Item, Bracket],
    item: Item | None,
    bound: Bound | None,
    theme: Theme,
) -> None:
    """The change of every item as a dot over a line from closing to opening: intake hollow and
    round, exhaust solid and square; dots of one place stand on one another.
    """
    rounded(p, box, 6, theme.sheet, flat_pen(theme.line, 1.6))
    draw_text(p, box.adjusted(12, 4, 0, 4 - box.height() + 24), "closing", NOTE, theme.ink2)
    right = box.adjusted(0, 4, -12, 4 - box.height() + 24)
    draw_text(p, right, "opening", NOTE, theme.ink2, Weight.BODY, RIGHT)
    if not changes:
        return
    most = max([abs(change.middle) for change in changes.values()] + [0.04])
    if bound is not None:
        most = max(most, abs(bound.median_mm) + bound.mm)
    most *= 1.15
    base = box.bottom() - 34
    centre, half = box.center().x(), box.width() / 2 - 24

    def x_of(mm: float) -> float:
        return centre + half * mm / most

    if bound is not None:
        left, end = x_of(bound.median_mm - bound.mm), x_of(bound.median_mm + bound.mm)
        p.fillRect(QRectF(left, box.top() + 28, end - left, base - box.top() - 28), theme.well)
        p.setPen(flat_pen(theme.ink2, 1.2))
        x = x_of(bound.median_mm)
        p.drawLine(QPointF(x, box.top() + 28), QPointF(x, base))
    p.setPen(flat_pen(theme.ink, 2.0))
    p.drawLine(QPointF(box.left() + 20, base), QPointF(box.right() - 20, base))
    step = next(s for s in (0.01, 0.02, 0.04, 0.05, 0.1, 0.2, 0.5, 1.0, 5.0) if most / s <= 4.6)
    for n in range(-4, 5):
        if abs(n * step) <= most:
            words = f"{n * step:+.2f}".replace("-", "−") if n else "0"
            row = QRectF(x_of(n * step) - 30, base + 6, 60, 20)
            draw_text(p, row, words, NOTE, theme.ink2, Weight.LABEL, CENTRE)
    stacks: dict[int, int] = {}
    room = base - box.top() - 46
    tallest = _tallest(changes)
    each = min(17.0, room / max(tallest, 1))
    for one, change in changes.items():
        slot = round(change.middle * 100)
        level = stacks.get(slot, 0)
        stacks[slot] = level + 1
        at = QPointF(x_of(change.middle), base - 10 - level * each)
        _paint_dot(p, at, one, theme, chosen=one == item)


def _tallest(changes: Mapping[Item, Bracket]) -> int:
    counts: dict[int, int] = {}
    for change in changes.values():
        slot = round(change.middle * 100)
        counts[slot] = counts.get(slot, 0) + 1
    return max(counts.values(), default=0)


def _paint_dot(p: QPainter, at: QPointF, item: Item, theme: Theme, *, chosen: bool) -> None:
    if item.kind is Kind.INTAKE:
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2.0))
        p.drawEllipse(at, 6.5, 6.5)
    else:
        p.fillRect(QRectF(at.x() - 6, at.y() - 6, 12, 12), theme.ink)
    if chosen:
        tip = at + QPointF(0, -12)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.now)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(-7, -10), tip + QPointF(7, -10)]))
        row = QRectF(at.x() - 30, at.y() - 44, 60, 20)
        draw_text(p, row, item.name, LABEL, theme.ink, Weight.STRONG, CENTRE)
