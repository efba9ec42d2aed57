"""The job sheet: the order of work from the top down, to fill in by hand or as filled.

Black on white, the family of the shop card. Found is hollow, left is solid; an item that was set is
reversed. Longer heads and more items go on to a second page.
"""

from collections.abc import Sequence
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.book.brackets import Bracket
from true_compass.book.job import Job, Measure, Target
from true_compass.book.putting_back import PUT_BACK
from true_compass.book.work import is_set_unread, off_mm
from true_compass.core.adjusting.setting import Way, settings_of
from true_compass.core.engine import Engine
from true_compass.core.items import Item
from true_compass.core.units import MM_PER_THOU, GapUnit, band_words, gap_in
from true_compass.drawing.codes import flat_pen, paint_tick, rounded
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.job_chart import Row, figures, rows_of
from true_compass.drawing.sheet_text import BLACK, WHITE, SheetText
from true_compass.drawing.shop_card import MARGIN
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, text_width
from true_compass.drawing.theme import Weight
from true_compass.files.engine_values import engine_digest

ROWS_A_PAGE: Final = 2
MOST_A_LINE: Final = 12
BEFORE: Final = (
    "earth off, keys away",
    "plugs out, cover off",
    "cold, head torqued",
    "nobody else in it",
)


def job_sheet(
    engine: Engine, title: str, targets: Sequence[Target], job: Job | None, meaning: Sequence[str]
) -> Document:
    """The sheet of an engine; `job` None leaves every box empty. `meaning` are lines of what single
    items point to.
    """
    name = "job-sheet" if job is None else f"job-{job.day.isoformat()}"
    lines = _lines(engine)
    pages = [lines[n : n + ROWS_A_PAGE] for n in range(0, len(lines), ROWS_A_PAGE)]

    def made(paper: Paper) -> list[Paint]:
        def page(number: int) -> Paint:
            def paint(p: QPainter) -> None:
                sheet = _Sheet(p, engine, title, targets, job, paper)
                sheet.paint(pages[number], number, len(pages), meaning)

            return paint

        return [page(number) for number in range(len(pages))]

    return Document(f"{title}: job sheet", name, made)


def _lines(engine: Engine) -> list[Row]:
    """Rows of at most twelve items, a cylinder never torn apart."""
    found: list[Row] = []
    for row in rows_of(engine):
        line: list[Item] = []
        for item in row.items:
            new = line and item.cylinder != line[-1].cylinder
            own = sum(one.cylinder == item.cylinder for one in row.items)
            if new and len(line) + own > MOST_A_LINE:
                found.append(Row(row.name, tuple(line)))
                line = []
            line.append(item)
        found.append(Row(row.name, tuple(line)))
    return found


class _Sheet:
    """Paints one page."""

    def __init__(
        self,
        p: QPainter,
        engine: Engine,
        title: str,
        targets: Sequence[Target],
        job: Job | None,
        paper: Paper,
    ) -> None:
        self.p, self.text = p, SheetText(p)
        self.engine, self.title = engine, title
        self.targets, self.job = targets, job
        self.width, self.height = paper.width, paper.height
        self.wide = paper.width - 2 * MARGIN

    def paint(self, rows: Sequence[Row], page: int, pages: int, meaning: Sequence[str]) -> None:
        """The whole page, from the top."""
        y = self._head()
        y = self._facts(y)
        y = self._targets(y + 6)
        low = len(rows) > 1
        for row in rows:
            y = self._row(row, y + 8, low=low)
        y = self._after(y + 4)
        for line in meaning[: 2 if low else 4]:
            self.text(QRectF(MARGIN, y, self.wide, 22), line, 16)
            y += 23
        y = self._line(y + 4, "Signs after, parts changed and why", self._parts())
        half = self.wide * 0.62
        self._field(QRectF(MARGIN, y, half, 30), "Still to do, and when", self._to_do())
        signed = self.job.signed if self.job is not None else ""
        self._field(QRectF(MARGIN + half + 16, y, self.wide - half - 16, 30), "Signed", signed)
        if self.job is None and y < self.height - 150:
            self._line(y + 40, "Notes", "")
        self._foot(page, pages)

    # From the top -------------------------------------------------------------------------------

    def _head(self) -> float:
        self.text(QRectF(MARGIN, 36, 500, 50), "Job sheet", 40, Weight.STRONG)
        words = f"{self.title}: {self.engine.layout_words}"
        self.text(QRectF(MARGIN, 88, self.wide - 250, 28), words, 20, Weight.STRONG)
        train = self.engine.train
        thread = f", {train.thread.replace('x', ' × ')}" if train.thread else ""
        ratio = f", ratio {train.intake_ratio:g}" if train.intake_ratio != 1 else ""
        hot = self.job.hot if self.job is not None else self.engine.lash_hot
        heat = "hot" if hot else "cold"
        where = f"Measured {train.lash_at.words}, {heat}."
        line = f"Adjuster: {train.adjuster.words}{thread}{ratio}. {where}"
        # Where it is from: two sheets can be held against each other by the mark.
        mark = f"{line} Engine mark {engine_digest(self.engine)[:8]}."
        draw_one_of(self.p, QRectF(MARGIN, 116, self.wide, 24), (mark, line), 16, BLACK)
        self._rotation(QRectF(self.width - MARGIN - 210, 40, 210, 60))
        return 146.0

    def _rotation(self, box: QRectF) -> None:
        """Which way it turns, and from where that is seen."""
        p, engine = self.p, self.engine
        ring = QRectF(box.left(), box.top(), 56, 56)
        p.setPen(flat_pen(BLACK, 3.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        clockwise = engine.rotation.value == "clockwise"
        p.drawArc(
            ring,
            (-45 if clockwise else 225) * 16,
            (270 * 16) * (1 if clockwise else -1),
        )
        # The arc ends at the lower side of its way; the tip goes on along it.
        side = 1.0 if clockwise else -1.0
        end = ring.center() + QPointF(side * 28 * 0.707, 28 * 0.707)
        way = QPointF(-side * 0.707, 0.707)
        across = QPointF(way.y(), -way.x())
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(BLACK)
        tip = end + way * 12
        p.drawPolygon(QPolygonF([tip, end - way * 4 + across * 9, end - way * 4 - across * 9]))
        words = engine.rotation.value.capitalize()
        self.text(QRectF(box.left() + 70, box.top() + 4, 140, 24), words, 20, Weight.STRONG)
        seen = f"seen from the {engine.seen_from.value}"
        self.text(QRectF(box.left() + 70, box.top() + 28, 140, 22), seen, 15)

    def _facts(self, y: float) -> float:
        job = self.job
        day = job.day.isoformat() if job is not None else ""
        clock = job.clock_words if job is not None else ""
        temperature = f"{job.temperature_c:g}" if job and job.temperature_c is not None else ""
        rested = f"{job.rested_h:g}" if job and job.rested_h is not None else ""
        quarters = self.wide / 4
        for nth, (label, told) in enumerate(
            (("Date", day), ("Hours", clock), ("Head °C", temperature), ("Rested h", rested))
        ):
            self._field(QRectF(MARGIN + nth * quarters, y, quarters - 14, 30), label, told)
        y += 36
        who = job.person.name if job is not None else ""
        blades = f"{job.blades}, {job.unit.value}".lstrip(", ") if job is not None else ""
        seen = job.seen_by if job is not None else ""
        self._field(QRectF(MARGIN, y, 2 * quarters - 14, 30), "Set by", who)
        self._field(QRectF(MARGIN + 2 * quarters, y, quarters - 14, 30), "Blades", blades)
        self._field(QRectF(MARGIN + 3 * quarters, y, quarters - 14, 30), "Seen by", seen)
        told = "; ".join(filter(None, (job.complaint, job.signs_before))) if job is not None else ""
        y = self._line(y + 36, "Complaint, signs before", told)
        self.text(QRectF(MARGIN, y, 80, 26), "Before", 17, Weight.STRONG)
        x = MARGIN + 84.0
        for words in BEFORE:
            # Nobody ticked these in the window: they are for the pen.
            self._tick(QRectF(x, y + 2, 22, 22), ticked=False)
            wide = self.text(QRectF(x + 30, y, 200, 26), words, 16)
            x += wide + 58
        return y + 36

    def _field(self, box: QRectF, label: str, told: str) -> None:
        wide = self.text(box, label, 16) + 10
        self.p.setPen(flat_pen(BLACK, 1.6))
        y = box.bottom()
        self.p.drawLine(QPointF(box.left() + wide, y), QPointF(box.right(), y))
        if told:
            self.text(box.adjusted(wide + 6, 0, 0, 0), told, 18, Weight.STRONG)

    def _line(self, y: float, label: str, told: str) -> float:
        self._field(QRectF(MARGIN, y, self.wide, 30), label, told)
        return y + 40

    def _tick(self, box: QRectF, *, ticked: bool) -> None:
        rounded(self.p, box, 3, None, flat_pen(BLACK, 2.0))
        if ticked:
            paint_tick(self.p, box.center(), box.width() * 0.6, BLACK)

    def _targets(self, y: float) -> float:
        """Both ends of each band, reversed; the other unit at the right."""
        hot = self.job.hot if self.job is not None else self.engine.lash_hot
        own = [target for target in self.targets if target.hot == hot][:4]
        unit = self.job.unit if self.job is not None else self.engine.gap_unit
        self.p.fillRect(QRectF(MARGIN, y, self.wide, 42), BLACK)
        x = MARGIN + 16.0
        for target in own:
            x += 26 + self.text(
                QRectF(x, y, 420, 42), _band_text(target, unit), 22, Weight.STRONG, colour=WHITE
            )
        others = ", ".join(_band_text(t, unit.other) for t in own if not t.per_turn_mm)
        if others and x + text_width(others, 15) < MARGIN + self.wide - 20:
            box = QRectF(x, y, MARGIN + self.wide - 16 - x, 42)
            self.text(box, others, 15, Weight.LABEL, RIGHT, WHITE)
        return y + 48

    # Along the head -----------------------------------------------------------------------------

    def _row(self, row: Row, y: float, *, low: bool) -> float:
        each = min((self.wide - 88) / len(row.items), 72.0)
        left = MARGIN + 88
        boxes = {item: left + n * each for n, item in enumerate(row.items)}
        self._codes(row, boxes, y, each)
        y += 84
        if self.job is not None:
            y = self._plot(boxes, y, each, 70.0 if low else 150.0)
        high = 34.0 if low else 46.0 if self.job is not None else 60.0
        found = f"Found: measure all {len(row.items)} before one nut is slackened"
        y = self._step(y, 1, found)
        for words, end in (("goes", 0), ("does not", 1)):
            y = self._cells(boxes, y, each, high, words, "found", end)
        y = self._step(y + 4, 2, "Set only what is outside its band, tight ones first. Left:")
        y = self._cells(boxes, y, each, high, "left", "left", 0)
        y = self._cells(boxes, y, each, high, "after nut", "after_nut", 0)
        self.text(QRectF(MARGIN, y + 2, 86, 26), "nut, stripe", 15, Weight.STRONG)
        for item, x in boxes.items():
            record = self.job.record(item) if self.job is not None else None
            done = record is not None and record.stripe
            self._tick(QRectF(x + each / 2 - 12, y + 2, 24, 24), ticked=done)
        return y + 34

    def _step(self, y: float, number: int, words: str) -> float:
        box = QRectF(MARGIN, y, 26, 26)
        self.p.fillRect(box, BLACK)
        self.text(box, str(number), 17, Weight.STRONG, CENTRE, WHITE)
        self.text(QRectF(MARGIN + 36, y, self.wide - 36, 26), words, 18, Weight.STRONG)
        return y + 32

    def _codes(self, row: Row, boxes: dict[Item, float], y: float, each: float) -> None:
        p = self.p
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(BLACK)
        tip = QPointF(MARGIN, y + 16)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(12, -8), tip + QPointF(12, 8)]))
        self.text(QRectF(MARGIN + 18, y + 4, 70, 24), "front", 16, Weight.STRONG)
        if row.name:
            self.text(QRectF(MARGIN, y + 40, 86, 24), f"Bank {row.name}", 16, Weight.STRONG)
        for cylinder in dict.fromkeys(item.cylinder for item in row.items):
            own = [x for item, x in boxes.items() if item.cylinder == cylinder]
            at = QPointF((own[0] + own[-1] + each) / 2, y + 16)
            p.setPen(flat_pen(BLACK, 2.0))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawEllipse(at, 15, 15)
            box = QRectF(at.x() - 15, at.y() - 15, 30, 30)
            self.text(box, str(cylinder), 17, Weight.STRONG, CENTRE)
        for item, x in boxes.items():
            box = QRectF(x + 3, y + 36, each - 6, 40)
            was_set = self.job is not None and self.job.record(item).was_set
            corner = 13.0 if item.rounded else 2.0
            rounded(p, box, corner, BLACK if was_set else None, flat_pen(BLACK, 2.2))
            colour = WHITE if was_set else BLACK
            px = min(18.0, (each - 10) / (0.62 * len(item.name)))
            self.text(box, item.name, px, Weight.STRONG, CENTRE, colour)

    def _plot(self, boxes: dict[Item, float], y: float, each: float, high: float) -> float:
        """Found hollow and left solid about the target, the band as two lines."""
        p, job = self.p, self.job
        assert job is not None
        box = QRectF(min(boxes.values()), y, each * len(boxes), high)
        offs = [
            abs(off)
            for item in boxes
            for m in (job.record(item).found, job.record(item).final)
            if (off := off_mm(job, item, m)) is not None
        ]
        ends = [
            abs(end - t.target_mm)
            for item in boxes
            if (t := job.target(item)) is not None and t.band_mm
            for end in t.band_mm
        ]
        most = max([*offs, *ends, 0.05]) * 1.15

        def y_of(off: float) -> float:
            return box.center().y() - off / most * (high / 2 - 8)

        for words, at in (
            ("wide", box.top() + 8),
            ("target", box.center().y()),
            ("tight", box.bottom() - 8),
        ):
            self.text(QRectF(MARGIN, at - 11, 80, 22), words, 14, Weight.BODY, RIGHT)
        for item, x in boxes.items():
            target, middle = job.target(item), x + each / 2
            p.setPen(flat_pen(BLACK, 1.0))
            p.drawLine(QPointF(x, y_of(0)), QPointF(x + each, y_of(0)))
            if target is not None and target.band_mm is not None:
                p.setPen(flat_pen(BLACK, 1.8))
                for end in target.band_mm:
                    off = end - target.target_mm
                    p.drawLine(QPointF(x, y_of(off)), QPointF(x + each, y_of(off)))
            record = job.record(item)
            found, left = off_mm(job, item, record.found), off_mm(job, item, record.final)
            if found is None:
                continue
            if record.was_set and left is not None:
                p.setPen(flat_pen(BLACK, 2.4))
                p.drawLine(QPointF(middle, y_of(found)), QPointF(middle, y_of(left)))
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(BLACK)
                p.drawEllipse(QPointF(middle, y_of(left)), 6.5, 6.5)
            p.setPen(flat_pen(BLACK, 2.0))
            p.setBrush(WHITE)
            p.drawEllipse(QPointF(middle, y_of(found)), 6.5, 6.5)
        return y + high + 6

    def _cells(
        self,
        boxes: dict[Item, float],
        y: float,
        each: float,
        high: float,
        words: str,
        which: str,
        end: int,
    ) -> float:
        self.text(QRectF(MARGIN, y, 86, high), words, 15, Weight.STRONG)
        for item, x in boxes.items():
            box = QRectF(x + 2, y, each - 4, high - 4)
            record = self.job.record(item) if self.job is not None else None
            strong = record is not None and record.was_set and which != "found"
            rounded(self.p, box, 3, None, flat_pen(BLACK, 2.6 if strong else 1.4))
            told = self._cell(item, which, end)
            if told:
                weight = Weight.STRONG if strong else Weight.LABEL
                self.text(box.adjusted(2, 0, -2, 0), told, 17, weight, CENTRE)
        return y + high

    def _cell(self, item: Item, which: str, end: int) -> str:
        """What stands in a cell: the blade that goes, or the one that does not; a number above."""
        if self.job is None:
            return ""
        record = self.job.record(item)
        measure = record.reading(which)
        if which == "left" and not record.was_set:
            # What was left alone was left as it was found.
            measure = record.found
        if which == "left" and record.off_heel:
            return "off base"  # noted off its base circle: no reading stands for it
        if measure is None:
            return "set" if which == "left" and is_set_unread(record) else ""
        in_mm = self.job.unit is GapUnit.MM
        if which != "found" or measure.gap is None:
            return figures(measure, in_mm=in_mm)[0] if end == 0 or which != "found" else ""
        if end and measure.gap.is_number:
            return ""
        one = Measure(Bracket.of((measure.gap.low, measure.gap.high)[end]))
        return figures(one, in_mm=in_mm)[0]

    # At the foot --------------------------------------------------------------------------------

    def _after(self, y: float) -> float:
        torque = self.engine.train.torque_nm
        first = f"{torque:g} N·m; bar" if torque else "Bar"
        y = self._step(y, 3, f"{first} two turns on; look again; then put back")
        done = set(self.job.put_back) if self.job is not None else set()
        for nth, one in enumerate(one for one in PUT_BACK if one.on_sheet):
            x = MARGIN + nth % 3 * self.wide / 3
            line = y + nth // 3 * 32
            self._tick(QRectF(x, line, 22, 22), ticked=one.word in done)
            self.text(QRectF(x + 32, line - 2, self.wide / 3 - 40, 26), one.on_sheet, 16)
        return y + 68

    def _parts(self) -> str:
        if self.job is None:
            return ""
        told = [self.job.signs_after, *(part.words for part in self.job.parts)]
        return "; ".join(filter(None, told))

    def _to_do(self) -> str:
        return "; ".join(one.words for one in self.job.to_do) if self.job is not None else ""

    def _foot(self, page: int, pages: int) -> None:
        y = self.height - 52
        self.p.setPen(flat_pen(BLACK, 1.6))
        self.p.drawLine(QPointF(MARGIN, y), QPointF(self.width - MARGIN, y))
        words = "As filled, from the book. Hollow as found, solid as left."
        if self.job is None:
            rule = "A number, or the blade that goes and the one that does not."
            words = f"{_quarter_words(self.engine)}{rule}"
        self.text(QRectF(MARGIN, y + 8, self.wide - 90, 24), words, 14)
        self.text(
            QRectF(MARGIN, y + 8, self.wide, 24), f"{page + 1} of {pages}", 14, Weight.BODY, RIGHT
        )


def _band_text(target: Target, unit: GapUnit) -> str:
    if target.band_mm is None:
        return f"{target.of}  {gap_in(target.target_mm, unit)}"
    if target.per_turn_mm:
        low, high = (end / target.per_turn_mm for end in target.band_mm)
        return f"{target.of}  {low:.2f} to {high:.2f} turns"
    return f"{target.of}  {band_words(target.band_mm, unit)}"


def _quarter_words(engine: Engine) -> str:
    """What a quarter turn of the screw does; nothing where there is no screw."""
    first = next((one for one in settings_of(engine) if one.way is Way.GAP), None)
    if first is None or not first.per_turn_mm:
        return ""
    thou = first.per_turn_mm / 4 / MM_PER_THOU
    return f"Screw a quarter turn = {first.per_turn_mm / 4:.2f} mm ({thou:.0f} thou) of gap. "
