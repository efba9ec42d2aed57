"""The truth: score and cause, where the crank stood, and item by item what follows."""

from typing import Any, Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPolygonF, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.model import BenchModel
from true_compass.bench.careful import careful_steps
from true_compass.bench.faults import BY_SLUG as FAULT_BY_SLUG
from true_compass.bench.hands.telling import fault_title
from true_compass.bench.tasks import Task
from true_compass.core.ideas import BY_SLUG as IDEA_BY_SLUG
from true_compass.core.items import item_named
from true_compass.core.state import engine_state
from true_compass.core.units import gap_short
from true_compass.core.words import capital, counted
from true_compass.drawing.codes import (
    flat_pen,
    paint_problem_mark,
    paint_tick,
    polygon,
    rounded,
)
from true_compass.drawing.ring import Card, free_arcs, paint_frame, sense_of
from true_compass.drawing.text import (
    CENTRE,
    LEFT,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_paragraph_that_fits,
    draw_text,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

SIDE: Final = 440.0
ROW: Final = 36.0
WIDEST_MM: Final = 1.2
SHORT: Final = {
    "Same engine again": "Again",
    "See it on Watch": "On Watch",
    "Another engine": "Another",
    "Save it for the class": "Save it",
}
Answer = dict[str, Any]


class TruthItems(Painted):
    """Item by item: found, left against its band, and what it would do. Faults come first."""

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._first = 0
        self._words_x = 446.0
        self.setObjectName("truth_items")
        self.setAccessibleName("Item by item")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def ground(self) -> QColor:
        """A sheet."""
        return self.look.theme.sheet

    def rows(self) -> list[Answer]:
        """What is shown: all of a few, or those of many that are not well."""
        verdict = self._model.begun.verdict
        items: list[Answer] = verdict["items"] if verdict else []
        if len(items) <= self._fit(8):
            return items
        bad = [item for item in items if not item["in_band"] or item["set_off_base_circle"]]
        rest = [item for item in items if item not in bad and item["was_set"]]
        return [*bad, *rest]

    def _fit(self, foot: float) -> int:
        return max(int((self.logical_height - 32 - foot) / ROW), 1)

    def _room(self) -> int:
        verdict = self._model.begun.verdict or {"items": []}
        return self._fit(8 if len(verdict["items"]) <= self._fit(8) else 34)

    def shown(self) -> list[Answer]:
        """The rows that fit, from where they were scrolled to."""
        rows = self.rows()
        self._first = max(min(self._first, len(rows) - self._room()), 0)
        return rows[self._first : self._first + self._room()]

    def paint(self, p: QPainter) -> None:
        """Draw the rows that fit."""
        bench = self._model.bench
        if bench is None or bench.verdict is None:
            return
        theme, width, rows = self.look.theme, self.logical_width, self.rows()
        unit = bench.run.work.engine.gap_unit.value
        for text, left, right in (
            ("item", 12, 0),
            ("found", 96, 150),
            (f"left, {unit}", 156, 230),
        ):
            box = QRectF(left, 6, (right or 80) - left, 22)
            draw_text(p, box, text, NOTE, theme.ink2, Weight.BODY, RIGHT if right else LEFT)
        self._words_x = 546.0 if width > 760 else 446.0 if width > 640 else 286.0
        if self._words_x > 500:
            draw_text(p, QRectF(414, 6, 96, 22), "where set", NOTE, theme.ink2)
        head = QRectF(self._words_x, 6, width - self._words_x - 8, 22)
        draw_text(p, head, "what it would do", NOTE, theme.ink2)
        for nth, item in enumerate(self.shown()):
            self._paint_row(p, QRectF(12, 32 + nth * ROW, width - 24, ROW), item)
        well = len(bench.verdict["items"]) - len(rows)
        below = max(len(rows) - self._first - self._room(), 0)
        notes = (
            f"{below} more below (wheel, Down)" if below else "",
            f"{counted(well, 'item')} as they should be" if well or not rows else "",
        )
        foot = QRectF(12, self.logical_height - 30, width - 24, 22)
        draw_text(p, foot, "; ".join(filter(None, notes)), NOTE, theme.ink2)

    def _paint_row(self, p: QPainter, box: QRectF, item: Answer) -> None:
        theme = self.look.theme
        p.setPen(flat_pen(theme.hair, 1.0))
        p.drawLine(box.bottomLeft(), box.bottomRight())
        code = QRectF(box.left(), box.top() + 5, 74, box.height() - 10)
        rounded(p, code, 8 if item_named(item["name"]).rounded else 2, None, flat_pen(theme.ink, 2))
        name = code.adjusted(2, 0, -2, 0)
        draw_text(p, name, item["name"], BODY, theme.ink, Weight.STRONG, CENTRE)
        found = QRectF(84, box.top(), 66, box.height())
        unit = self._model.begun.run.work.engine.gap_unit
        figure = gap_short(item["found_mm"], unit)
        draw_text(p, found, figure, BODY, theme.ink2, Weight.BODY, RIGHT)
        left = QRectF(156, box.top(), 74, box.height())
        figure = gap_short(item["left_mm"], unit)
        draw_text(p, left, figure, LABEL, theme.ink, Weight.STRONG, RIGHT)
        if self._words_x > 400:
            self._paint_band(p, QRectF(246, box.top(), 160, box.height()), item)
        if self._words_x > 500 and item["was_set"]:
            self._paint_lobe(p, QRectF(414, box.top() + 4, 92, box.height() - 8), item)
        mark = QRectF(self._words_x - 28, box.center().y() - 10, 20, 20)
        good = item["in_band"] and not item["set_off_base_circle"]
        if good:
            paint_tick(p, mark.center(), 14, theme.ink)
        else:
            paint_problem_mark(p, mark, theme.ink, theme.on_ink)
        words = "; ".join(filter(None, (item["follows"], item["cause"])))
        if not words:
            off = item["set_off_base_circle"]
            words = "set off its base circle" if off else "set well" if item["was_set"] else "good"
        at = QRectF(self._words_x, box.top(), box.right() - self._words_x - 4, box.height())
        weight = Weight.BODY if good else Weight.LABEL
        draw_one_of(p, at, (words, item["follows"] or words), BODY, theme.ink, weight)

    def _paint_band(self, p: QPainter, box: QRectF, item: Answer) -> None:
        """A line of mm with the band as a plate and what was left as a dot."""
        theme = self.look.theme
        low, high = item["band_mm"]
        left = item["left_mm"]
        least = min(low - 0.3, left, 0.0)
        most = max(high + 0.4, left, WIDEST_MM if high < 1.0 else high + 0.4)

        def x(mm: float) -> float:
            return float(box.left() + (mm - least) / (most - least) * box.width())

        middle = box.center().y()
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
        plate = QRectF(x(low), middle - 9, max(x(high) - x(low), 4), 18)
        rounded(p, plate, 1, theme.well, flat_pen(theme.ink2, 1.4))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        p.drawEllipse(QRectF(x(left) - 6, middle - 6, 12, 12))

    def _paint_lobe(self, p: QPainter, box: QRectF, item: Answer) -> None:
        """The lift over one cycle, and where on it the item was set."""
        theme, work = self.look.theme, self._model.begun.run.work
        setting = work.settings[work.place[item["name"]]]
        start = float(work.book.offsets_deg[setting.item.cylinder - 1])
        at = start + np.linspace(0.0, 720.0, 73)
        lift = work.lobes_mm(at % 720.0)[setting.row]
        full = max(float(lift.max()), 1e-6)
        xs = box.left() + np.linspace(0.0, 1.0, 73) * box.width()
        ys = box.bottom() - 2 - lift / full * (box.height() - 10)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.ink, 1.4))
        p.drawPolyline(polygon(xs, ys))
        share = ((item["set_at_deg"] - start) % 720.0) / 720.0
        tip = QPointF(box.left() + share * box.width(), float(ys[round(share * 72)]) - 1)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.now)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(-5, -9), tip + QPointF(5, -9)]))

    def _scroll(self, by: int) -> None:
        self._first = max(min(self._first + by, len(self.rows()) - self._room()), 0)
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel scrolls."""
        if event is not None and event.angleDelta().y():
            self._scroll(-1 if event.angleDelta().y() > 0 else 1)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down scroll."""
        if event is not None and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._scroll(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event is not None:
            event.ignore()


class TruthView(Painted):
    """Score, cause, ring and evidence at the left; items, runs, a careful person at the right."""

    again = pyqtSignal()
    watch = pyqtSignal()
    another = pyqtSignal()
    book = pyqtSignal()
    save = pyqtSignal()

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("bench_truth")
        self.setAccessibleName("The truth")
        self.items = TruthItems(look, model, self)
        self.same = StrongButton(look, "Same engine again", self)
        self.same.setObjectName("same_again")
        self.see = DrawnButton(look, "See it on Watch", self)
        self.other = DrawnButton(look, "Another engine", self)
        self.keep = DrawnButton(look, "Save it for the class", self)
        self.keep.setObjectName("save_scenario")
        self.keep.clicked.connect(self.save)
        self.play = DrawnButton(look, "Play it", self)
        self.play.setObjectName("careful_step")
        self.play.clicked.connect(self._next_step)
        self.step = -1
        self.same.clicked.connect(self.again)
        self.see.clicked.connect(self.watch)
        self.other.clicked.connect(self.another)
        self.write = DrawnButton(look, "Into the book", self)
        self.write.setObjectName("into_the_book")
        self.write.clicked.connect(self.book)
        look.changed.connect(self._arrange)
        model.changed.connect(self._show)

    @property
    def verdict(self) -> Answer:
        """The verdict on the bench."""
        return self._model.begun.verdict or {}

    def _next_step(self) -> None:
        """Play what a careful person would have done, one step at a time."""
        steps = careful_steps(self._model.begun.run.work)
        self.step = self.step + 1 if self.step + 1 < len(steps) else -1
        self._arrange()

    def _show(self) -> None:
        if self._model.bench is None or self._model.begun.verdict is None:
            self.step = -1
        self.items.update()
        self._arrange()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        put, width, height = self.look.scaled, self.logical_width, self.logical_height
        left = SIDE if width > 1000 else 340.0
        self._left = left
        right = width - left - 36
        runs = min(max(height * 0.19, 96.0), 150.0)
        self._runs_top = height - 64 - runs - 8
        self._runs_high = runs
        self.items.setGeometry(put(left + 20, 8, right, self._runs_top - 16))
        each = (right - 32) / 5
        for nth, button in enumerate((self.same, self.see, self.other, self.keep, self.write)):
            button.setGeometry(put(left + 20 + nth * (each + 8), height - 60, each, 50))
        wide = each > 158
        buttons = (self.same, self.see, self.other, self.keep)
        for button, (long, short) in zip(buttons, SHORT.items(), strict=True):
            button.setText(long if wide else short)
        if self._model.in_lesson:
            self.other.setText("On with the lesson" if wide else "Lesson")
        self.play.setText("Play it" if self.step < 0 else "Next step")
        self.play.setGeometry(put(left + 20 + right - 118, self._runs_top + 6, 110, 30))
        self.update()

    def head(self) -> str:
        """The answer in a few words."""
        verdict = self.verdict
        task = self._model.begun.run.work.scenario.task
        if task.sets:
            good = sum(i["in_band"] and not i["set_off_base_circle"] for i in verdict["items"])
            return f"{good} of {len(verdict['items'])} in the band"
        if verdict["passed"] is None:
            return "Uncovered"
        return "Right" if verdict["passed"] else "Not right"

    def cause(self) -> str:
        """Why, in one or two sentences."""
        verdict, scenario = self.verdict, self._model.begun.run.work.scenario
        said = []
        error = verdict["tdc_error_deg"]
        if error is not None:
            said.append(_tdc_words(error))
        if verdict["said_mark_error_deg"] is not None:
            real = f"{verdict['mark_error_deg']:+.1f}°".replace("-", "−")
            told = f"{verdict['said_mark_error_deg']:+g}°".replace("-", "−")
            said.append(f"You said {told}; the mark is out by {real}.")
        if verdict["named_faults"]:
            names = "; ".join(fault_title(slug) for slug in verdict["named_faults"])
            said.append(f"You said: {names}.")
        if scenario.faults:
            names = "; ".join(FAULT_BY_SLUG[slug].title for slug in scenario.faults)
            said.append(f"Wrong with it: {names}.")
        elif scenario.task is Task.FAULT:
            said.append("Nothing was wrong with it.")
        if verdict["turned_back_deg"] and error is not None:
            said.append(f"You turned back {verdict['turned_back_deg']:g}°: slack can mislead.")
        if verdict["hints"]:
            said.append(f"{counted(verdict['hints'], 'hint')}.")
        if verdict["foretold"]["all"]:
            right, asked = verdict["foretold"]["right"], verdict["foretold"]["all"]
            said.append(f"Foretold {right} of {asked}.")
        if verdict["could_tell"] is False:
            said.append("Nothing that you looked at there could tell the two TDCs apart.")
        return " ".join(said) or "Everything is judged as you left it, on the heel."

    def paint(self, p: QPainter) -> None:
        """Draw the left side, the runs and the careful person."""
        bench = self._model.bench
        if bench is None or bench.verdict is None:
            return
        theme, left = self.look.theme, self._left
        head = QRectF(16, 6, left - 20, 40)
        draw_text(p, head, self.head(), HEAD + 4, theme.ink, Weight.STRONG)
        foot = draw_paragraph(p, QRectF(16, 48, left - 24, 110), self.cause(), LABEL, theme.ink)
        top = min(foot, 150.0) + 10
        foot = self._paint_ideas(p, top)
        ring = min(self.logical_height - foot - 190, 250.0)
        if ring > 120:
            self._paint_ring(p, QRectF(16, foot, ring, ring))
            foot += ring + 8
        self._paint_evidence(p, foot)
        self._paint_runs(p)

    def _paint_ideas(self, p: QPainter, top: float) -> float:
        theme = self.look.theme
        for slug in self.verdict["wrong_ideas"][:3]:
            mark = QRectF(16, top + 3, 20, 20)
            paint_problem_mark(p, mark, theme.ink, theme.on_ink)
            box = QRectF(44, top, self._left - 54, 26)
            words = f"“{IDEA_BY_SLUG[slug].title}”"
            draw_text(p, box, words, LABEL, theme.ink, Weight.LABEL)
            top += 28
        return top + 4

    def _paint_ring(self, p: QPainter, box: QRectF) -> None:
        """The ring where the crank stood at the last word, or stands now."""
        run = self._model.begun.run
        told = run.state.told
        crank_deg = told[-1].crank_deg if told else run.state.crank_deg
        steps = careful_steps(run.work)
        if 0 <= self.step < len(steps):
            crank_deg = steps[self.step].crank_deg
        theme, rig = self.look.theme, run.work.book
        sense = sense_of(rig.engine)
        factor = box.width() / 450.0
        p.save()
        p.translate(box.center())
        p.scale(factor, factor)
        paint_frame(p, free_arcs(rig), theme, sense)
        card = Card(theme, self.stills, sense, rounded=not rig.plain)
        card.paint(p, rig, engine_state(rig, crank_deg))
        p.restore()
        at = QRectF(box.right() + 14, box.top() + 10, self._left - box.right() - 20, 60)
        words = "where you said it" if told else "where it stands now"
        if self.step >= 0:
            words = "where a careful person stands"
        draw_paragraph_that_fits(p, at, words, BODY, theme.ink2)

    def _paint_evidence(self, p: QPainter, top: float) -> None:
        theme, verdict = self.look.theme, self.verdict
        rows: dict[str, Answer] = {}
        for one in verdict["evidence"]:
            rows[f"{one['do']} {one['of']}"] = one
        if not rows or self.logical_height - top < 60:
            return
        head = QRectF(16, top, self._left - 24, 20)
        draw_text(p, head, "What you looked at there", NOTE, theme.ink2, Weight.LABEL)
        draw_text(p, head, "tells which TDC?", NOTE, theme.ink2, Weight.BODY, RIGHT)
        room = int((self.logical_height - top - 30) / 28)
        for nth, one in enumerate(list(rows.values())[-room:]):
            line = QRectF(16, top + 24 + 28 * nth, self._left - 24, 26)
            told = (f"{one['do'].capitalize()} {one['of']}: {one['said']}", one["do"].capitalize())
            draw_one_of(p, line.adjusted(0, 0, -76, 0), told, BODY, theme.ink)
            plate = QRectF(line.right() - 66, line.top() + 1, 62, 23)
            tells = one["tells_which_tdc"]
            rounded(p, plate, 3, theme.ink if tells else None, flat_pen(theme.line, 1.4))
            colour = theme.on_ink if tells else theme.ink2
            draw_text(p, plate, "yes" if tells else "no", BODY, colour, Weight.LABEL, CENTRE)

    def _paint_runs(self, p: QPainter) -> None:
        theme, left = self.look.theme, self._left + 20
        right = self.logical_width - left - 16
        half = (right - 8) / 2
        careful = " ".join((*self.verdict["careful"], *self.verdict["notes"]))
        steps = careful_steps(self._model.begun.run.work)
        if 0 <= self.step < len(steps):
            careful = f"{self.step + 1} of {len(steps)}: {steps[self.step].words}"
        for nth, (heads, body) in enumerate(
            ((("Test run",), self._run_words()), (("A careful person", "Careful"), careful))
        ):
            box = QRectF(left + nth * (half + 8), self._runs_top, half, self._runs_high)
            rounded(p, box, 6, theme.sheet, flat_pen(theme.hair, 1.4))
            title = QRectF(box.left() + 14, box.top() + 6, half - (136 if nth else 24), 26)
            draw_one_of(p, title, heads, LEAD - 2, theme.ink, Weight.STRONG)
            room = box.adjusted(14, 34, -12, -6)
            draw_paragraph_that_fits(p, room, body, BODY, theme.ink)

    def _run_words(self) -> str:
        before, after = self.verdict["run_before"], self.verdict["run_after"]
        words = [f"Starts: {after['starts']}. Pulls {after['pulls']}."]
        sounds = after["sounds"]
        heard = "; ".join(sounds) or "it sounds even"
        words.append(f"{capital(heard)}.")
        if before["starts"] != after["starts"]:
            words.append(f"Before: starts {before['starts']}.")
        kpa = [after["compression_kpa"][key] for key in after["compression_kpa"]]
        words.append(f"Compression {min(kpa) / 100:.1f} to {max(kpa) / 100:.1f} bar.")
        return " ".join(words)


def _tdc_words(error_deg: float) -> str:
    if abs(abs(error_deg) - 360.0) <= 90.0:
        return "It stood at the other TDC, one turn out."
    if abs(error_deg) < 0.05:
        return "It stood at true TDC."
    side = "after" if error_deg > 0 else "before"
    return f"It stood {abs(error_deg):.1f}° {side} true TDC."
