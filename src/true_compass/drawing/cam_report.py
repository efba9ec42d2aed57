"""One page about a cam: readings of each round, results with their ±, the step, the new card."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from true_compass.core.cautions import ON_PAPER
from true_compass.core.degreeing.found import Found, found, headlines, pair_of, second_lines
from true_compass.core.degreeing.moving import Made, events_made
from true_compass.core.degreeing.own_card import Events
from true_compass.core.degreeing.sheet import Round, Setup, Sheet
from true_compass.core.degreeing.ways import WAYS
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.drawing.book_sheets import paper_theme
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.nose_chart import Middles
from true_compass.drawing.sheet_text import BLACK, SheetText
from true_compass.drawing.shop_card import MARGIN
from true_compass.drawing.text import RIGHT, draw_paragraph
from true_compass.drawing.theme import Weight

ROW: Final = 22.0
MOST_ROUNDS: Final = 3


@dataclass(frozen=True, slots=True)
class Reported:
    """What the page says. `made` is the way that was picked, or None; `origin` where it is from."""

    rig: Rig
    sheet: Sheet
    made: Made | None
    origin: str
    day: date


def cam_report(told: Reported) -> Document:
    """The report as a document of one page."""

    def pages(paper: Paper) -> list[Paint]:
        def paint(p: QPainter) -> None:
            _Page(p, paper, told).paint()

        return [paint]

    name = told.rig.engine.name
    return Document(f"{name}: cam report", f"cam-{name.lower().replace(' ', '-')}", pages)


class _Page:
    """Writes the page from its head down."""

    def __init__(self, p: QPainter, paper: Paper, told: Reported) -> None:
        self.p, self.paper, self.told = p, paper, told
        self.say = SheetText(p)
        self.wide = paper.width - 2 * MARGIN
        self.y = 36.0

    def paint(self) -> None:
        told, engine = self.told, self.told.rig.engine
        title = f"{engine.name}, {engine.layout_words}: cam, cylinder {told.sheet.cylinder}"
        self._line(title, 20, Weight.LABEL, 30)
        results = [found(told.rig, told.sheet, one) for one in told.sheet.rounds[-MOST_ROUNDS:]]
        box = QRectF(MARGIN, self.y, self.wide, 90)
        self.y = draw_paragraph(self.p, box, headlines(told.rig, results[-1])[0], 27, BLACK) + 4
        box = QRectF(MARGIN, self.y, self.wide, 60)
        self.y = draw_paragraph(self.p, box, second_lines(results[-1])[0], 17, BLACK) + 12
        self._line(self._instruments(), 15, Weight.BODY, 24)
        self._rule()
        self._rounds(told.sheet.rounds[-MOST_ROUNDS:], results)
        self._middles(results[-1])
        self._card(results)
        self._step()
        self._lobes()
        self._ways()
        self._foot()

    def _line(self, words: str, px: float, weight: Weight, high: float) -> None:
        self.say(QRectF(MARGIN, self.y, self.wide, high), words, px, weight)
        self.y += high

    def _rule(self) -> None:
        self.p.fillRect(QRectF(MARGIN, self.y + 3, self.wide, 1.6), BLACK)
        self.y += 12

    def _instruments(self) -> str:
        setup = self.told.sheet.setup or Setup()
        gauge = setup.gauge
        return (
            f"Wheel {setup.wheel.scale.words}, zero at {setup.wheel.zero.value.upper()}, "
            f"{setup.wheel_mm:g} mm; indicator {gauge.station.words}, step {gauge.step_mm:g} mm; "
            f"{self.told.day.isoformat()}"
        )

    # Readings ---------------------------------------------------------------------------------

    def _rounds(self, rounds: Sequence[Round], results: Sequence[Found]) -> None:
        """The rounds beside each other: the first set, and what was read after each step."""
        each = self.wide / max(len(rounds), 2)
        top, foot = self.y, self.y
        for nth, (one, result) in enumerate(zip(rounds, results, strict=True)):
            self.y = top
            self._round(MARGIN + nth * each, each - 24, one, result)
            foot = max(foot, self.y)
        self.y = foot + 8

    def _round(self, left: float, wide: float, one: Round, result: Found) -> None:
        title = f"After: {one.after_step}" if one.after_step else "Readings as found"
        self.say(QRectF(left, self.y, wide, 24), title, 17, Weight.STRONG)
        self.y += 28
        self._heads(left, wide, "True TDC", "pointer")
        for top in one.tops:
            before = _figure(top.before, far=top.before_far)
            figures = (before, _figure(top.after, far=top.after_far))
            last = "void" if top.void else ""
            if result.top is not None and not top.void and top is one.tops[-1]:
                last = "held" if result.top.held else result.top.top.words
            self._cells(left, wide, f"{top.drop_mm:.2f} mm down", *figures, last)
        for kind in Kind:
            pairs = one.pairs(result.cylinder, kind)
            if not any(pair.complete for pair in pairs):
                continue
            self.y += 6
            self._heads(left, wide, f"{kind.value.capitalize()} nose", "middle")
            for pair in pairs:
                told = pair_of(self.told.rig, self.told.sheet, kind, pair, result.correction_deg)
                last = "" if told is None else f"{told.middle_deg:.2f}"
                if pair.void:
                    last = "void"
                name = f"{pair.drop_mm:.2f} mm down"
                self._cells(left, wide, name, _figure(pair.before), _figure(pair.after), last)
            nose = result.noses.get(kind)
            if nose is not None:
                mean = f"{nose.nose.middle_deg:.1f} ± {nose.plus_minus_deg:.1f}"
                self._cells(left, wide, nose.nose.walk_words.partition(":")[0], "", "", mean)

    def _heads(self, left: float, wide: float, title: str, last: str) -> None:
        self.say(QRectF(left, self.y, wide * 0.5, ROW), title, 15, Weight.STRONG)
        for words, right in (("before", 0.6), ("after", 0.78), (last, 1.0)):
            self.say(QRectF(left, self.y, wide * right, ROW), words, 13, Weight.BODY, RIGHT)
        self.y += ROW
        self.p.fillRect(QRectF(left, self.y, wide, 1), BLACK)

    def _cells(
        self, left: float, wide: float, name: str, before: str, after: str, last: str
    ) -> None:
        self.say(QRectF(left, self.y, wide * 0.42, ROW), name, 15)
        for words, right, weight in (
            (before, 0.6, Weight.BODY),
            (after, 0.78, Weight.BODY),
            (last, 1.0, Weight.STRONG),
        ):
            self.say(QRectF(left, self.y, wide * right, ROW), words, 15, weight, RIGHT)
        self.y += ROW

    def _middles(self, result: Found) -> None:
        """The charts of the last round, exhaust left."""
        kinds = [kind for kind in (Kind.EXHAUST, Kind.INTAKE) if kind in result.noses]
        if not kinds:
            return
        each = (self.wide - 16) / 2
        for nth, kind in enumerate(kinds):
            box = QRectF(MARGIN + nth * (each + 16), self.y, each, 190)
            nose = result.noses[kind]
            Middles(box, kind, nose.card_nose_deg, paper_theme()).paint(self.p, nose)
        self.y += 204

    # Results ----------------------------------------------------------------------------------

    def _card(self, results: Sequence[Found]) -> None:
        """The four events as set and as read, at the engine's own checking lift."""
        rig, cylinder = self.told.rig, self.told.sheet.cylinder
        usual = events_made(rig, cylinder)
        if usual is None:
            return
        check = rig.engine.cam.intake.check.words
        self._line(f"Events at {check}: opens / closes, and overlap", 16, Weight.STRONG, 26)
        self._events("the card", usual)
        for nth, result in enumerate(results):
            later = [result.need_of(kind) or 0.0 for kind in Kind]
            name = "as found" if nth == 0 else "as read after the step"
            self._events(name, usual.earlier(-later[0], -later[1]))
        self.y += 8

    def _events(self, name: str, events: Events) -> None:
        told = (
            name,
            f"I {events.ivo_deg:.1f} BTDC / {events.ivc_deg:.1f} ABDC",
            f"E {events.evo_deg:.1f} BBDC / {events.evc_deg:.1f} ATDC",
            f"{events.overlap_deg:.1f}°",
        )
        for share, words in zip((0.0, 0.26, 0.58, 0.9), told, strict=True):
            box = QRectF(MARGIN + share * self.wide, self.y, self.wide * 0.3, ROW)
            self.say(box, words.replace("-", "−"), 15)
        self.y += ROW

    def _step(self) -> None:
        made = self.told.made
        if made is None:
            return
        gives = f"{made.option.gives_deg:+.2f}°".replace("-", "−")
        off = f"{made.option.error_deg:+.2f}°".replace("-", "−")
        self._line(f"Next step: {made.words} ({gives}, {off} off the card)", 16, Weight.STRONG, 26)
        for least in made.worst:
            kept = "" if least.clears else ": too near"
            self._line(f"{least.words}, must keep {least.limit_mm:g}{kept}", 15, Weight.BODY, ROW)
        if made.between_mm is not None:
            self._line(f"Valve to valve {made.between_mm:.2f} mm", 15, Weight.BODY, ROW)
        self.y += 8

    def _lobes(self) -> None:
        """The lowest lift of each lobe that was measured."""
        told = []
        for rows in self.told.sheet.lobes:
            lifts = [n - h for n, h in rows.places if n is not None and h is not None]
            if lifts:
                told.append(f"{rows.kind.letter}{rows.cylinder} {min(lifts):.2f}")
        if told:
            self._line("Lobe lift, lowest of each, mm", 16, Weight.STRONG, 26)
            box = QRectF(MARGIN, self.y, self.wide, 70)
            self.y = draw_paragraph(self.p, box, ", ".join(sorted(told)), 15, BLACK) + 8

    def _ways(self) -> None:
        """What was read in other ways, as far as the page goes."""
        foot = self.paper.height - 90
        for way in WAYS:
            if not any(name.startswith(f"{way.slug}.") for name, _ in self.told.sheet.texts):
                continue
            says = way.tell(self.told.rig, self.told.sheet)
            if says.wrong or self.y + 26 > foot:
                continue
            self._line(f"{way.word}: {says.headline}", 16, Weight.STRONG, 26)
            for line in says.lines:
                box = QRectF(MARGIN, self.y, self.wide, 60)
                if self.y + 40 > foot:
                    return
                self.y = draw_paragraph(self.p, box, line, 15, BLACK) + 3

    def _foot(self) -> None:
        y = self.paper.height - 66
        self.p.setPen(flat_pen(BLACK, 1.6))
        self.p.fillRect(QRectF(MARGIN, y, self.wide, 1.6), BLACK)
        self.say(QRectF(MARGIN, y + 6, self.wide, 22), ON_PAPER, 14)
        self.say(QRectF(MARGIN, y + 28, self.wide, 22), self.told.origin, 14)


def _figure(value: float | None, *, far: bool = False) -> str:
    if value is None:
        return ""
    return f"−{value:g}" if far else f"{value:.1f}"
