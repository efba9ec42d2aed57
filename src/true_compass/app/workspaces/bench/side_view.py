"""The left side of the bench: the task, tools as buttons, what was seen, hint and check."""

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QPainter, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.model import (
    HANDS,
    TOOLS,
    BenchModel,
    Tool,
    cards,
)
from true_compass.bench.hands.turning import starter_part
from true_compass.bench.state import coverings, plug
from true_compass.bench.tasks import Task
from true_compass.core.cautions import IN_SHORT
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.covered import paint_tag
from true_compass.drawing.text import (
    CENTRE,
    LEFT,
    RIGHT,
    draw_one_of,
    draw_paragraph_that_fits,
    draw_text,
)
from true_compass.drawing.theme import BODY, LEAD, NOTE, Weight

WIDTH = 280.0
ROW = 38.0
COMPACT_TOOLS = 56.0


class ToolButton(DrawnButton):
    """A tool with its letter: in the hand, placed, or in the tray."""

    def __init__(self, look: Look, tool: Tool, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, tool.word, parent)
        self.tool = tool
        self._model = model
        self.setObjectName(f"tool_{tool.slug}")
        self.setAccessibleName(f"{tool.word} (Shift+{tool.letter})")
        self.clicked.connect(self._take)
        model.changed.connect(self.repaint_all)

    def _take(self) -> None:
        self._model.take(self.tool)

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        held = self._model.hand is self.tool
        edge = flat_pen(theme.now, 2.6) if held or focus else flat_pen(theme.line, 1.6)
        rounded(p, box, 4, theme.now_tint if held or active else theme.sheet, edge)
        if box.height() > 50:
            tag = QRectF(box.center().x() - 12, box.top() + 6, 24, 24)
            words, align = box.adjusted(2, 30, -2, -2), CENTRE
        else:
            tag = QRectF(box.left() + 7, box.center().y() - 11, 22, 22)
            words, align = box.adjusted(36, 0, -4, 0), LEFT
        paint_tag(p, tag, self.tool.letter, theme, "now" if held else "")
        wordings = (self.tool.word, self.tool.word.split()[-1].capitalize())
        draw_one_of(p, words, wordings, BODY, theme.ink, Weight.LABEL, align)


class PartButton(DrawnButton):
    """A part that comes off and goes on, with what it is now at its right."""

    def __init__(self, look: Look, word: str, parent: QWidget) -> None:
        super().__init__(look, word, parent)
        self.state_words = ""

    def show_state(self, words: str) -> None:
        """Say what it is now: off, 3 out."""
        if words != self.state_words:
            self.state_words = words
            self.setAccessibleName(f"{self.text()}: {words}")
            self.repaint_all()

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        edge = flat_pen(theme.now, 3) if focus else flat_pen(theme.line, 1.6)
        rounded(p, box, 4, theme.now_tint if active else theme.sheet, edge)
        if box.height() > 50:
            top = box.adjusted(2, 6, -2, -box.height() + 30)
            draw_text(p, top, self.state_words, NOTE, theme.ink2, Weight.BODY, CENTRE)
            foot = box.adjusted(2, 30, -2, -2)
            draw_text(p, foot, self.text(), BODY, theme.ink, Weight.LABEL, CENTRE)
            return
        inner = box.adjusted(9, 0, -8, 0)
        draw_text(p, inner, self.text(), BODY, theme.ink, Weight.LABEL, LEFT)
        draw_text(p, inner, self.state_words, NOTE, theme.ink2, Weight.BODY, RIGHT)


class SideView(Painted):
    """Task, parts, tools, what was seen, hint, and the key that checks."""

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("bench_side")
        self.setAccessibleName("Task and tools")
        self.covers = PartButton(look, "Covers", self)
        self.plugs = PartButton(look, "Plugs", self)
        self.coil = PartButton(look, "Coil", self)
        self.starter = PartButton(look, "Starter", self)
        self.parts = (self.covers, self.plugs, self.coil, self.starter)
        self.tools = [ToolButton(look, tool, model, self) for tool in (*HANDS, *TOOLS)]
        self.hint = DrawnButton(look, "Hint", self)
        self.hint.setObjectName("hint")
        self.check = StrongButton(look, "Say it, check it", self)
        self.leave = DrawnButton(look, "Put away", self)
        self.leave.setObjectName("put_away")
        self.check.setObjectName("check")
        self.covers.clicked.connect(self._toggle_covers)
        self.plugs.clicked.connect(self._toggle_plugs)
        self.coil.clicked.connect(self._toggle_coil)
        self.starter.clicked.connect(self._bump)
        self.hint.clicked.connect(self._hint)
        look.changed.connect(self._arrange)
        model.changed.connect(self._show_state)

    def _toggle_all(self, word: str) -> None:
        work, state = self._model.begun.run.work, self._model.begun.run.state
        parts = [part for part in coverings(work) if part.startswith(word)]
        on = any(part in state.parts_on for part in parts)
        self._model.do("off" if on else "on", part=f"{word}s")

    def _toggle_covers(self) -> None:
        self._toggle_all("cover")

    def _toggle_plugs(self) -> None:
        self._toggle_all("plug")

    def _toggle_coil(self) -> None:
        on = "coil" in self._model.begun.run.state.parts_on
        self._model.do("off" if on else "on", part="coil")

    def _bump(self) -> None:
        bench = self._model.begun.run
        holes = (self._model.cylinder, *bench.work.engine.cylinders)
        gauge = next((one for one in holes if plug(one) not in bench.state.parts_on), 0)
        if gauge:
            self._model.do("bump", gauge=gauge)
        else:
            self._model.do("bump")

    def _hint(self) -> None:
        answer = self._model.do("hint")
        if answer is not None:
            self._model.say(str(answer["hint"]))

    def _show_state(self) -> None:
        bench = self._model.bench
        if bench is None:
            return
        work, state = bench.run.work, bench.run.state
        for word, button, off in (("cover", self.covers, "off"), ("plug", self.plugs, "out")):
            parts = [part for part in coverings(work) if part.startswith(word)]
            gone = [part for part in parts if part not in state.parts_on]
            words = "on" if not gone else off if len(gone) == len(parts) else f"{len(gone)} {off}"
            button.show_state(words if word == "cover" or gone else "in")
        self.coil.setText(starter_part(work).capitalize())
        self.coil.show_state("on" if "coil" in state.parts_on else "off")
        self.starter.show_state("bump")
        used = f"{state.hints} used" if state.hints else "none used"
        self.hint.setText(f"Hint ({used})")
        tdc = work.scenario.task in (Task.TDC, Task.TRUE_TDC)
        self.check.setText("It is there: check it" if tdc else "Say it, check it")
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put the buttons in their places."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        if self.compact:
            self._arrange_compact()
            return
        put, width = self.look.scaled, self.logical_width
        half = (width - 8) / 2
        top = 96.0
        row = min(ROW, max((self.logical_height - 320) / 8, 28.0))
        for nth, button in enumerate((*self.parts, *self.tools)):
            extra = 20.0 if nth >= len(self.parts) else 0.0
            y = top + (nth // 2) * (row + 5) + extra
            button.setGeometry(put((nth % 2) * (half + 8), y, half, row))
        self._seen_top = top + 7 * (row + 5) + 24
        foot = self.logical_height
        self.hint.setGeometry(put(0, foot - 98, width - 104, 38))
        self.leave.setGeometry(put(width - 98, foot - 98, 98, 38))
        self.check.setGeometry(put(0, foot - 54, width, 50))
        self.update()

    @property
    def compact(self) -> bool:
        """Whether the tools lie in one row below the readings, as in large print."""
        return self.logical_width > 2 * WIDTH

    def _arrange_compact(self) -> None:
        """The task and its keys above, the tools below; engine and readings lie between."""
        put, width, foot = self.look.scaled, self.logical_width, self.logical_height
        self.check.setGeometry(put(width - 190, 0, 190, 40))
        self.hint.setGeometry(put(width - 336, 0, 140, 40))
        self.leave.setGeometry(put(width - 430, 0, 88, 40))
        every = (*self.parts, *self.tools)
        each = (width - 4 * (len(every) - 1)) / len(every)
        for nth, button in enumerate(every):
            button.setGeometry(put(nth * (each + 4), foot - COMPACT_TOOLS, each, COMPACT_TOOLS))
        self.update()

    def ground(self) -> QColor:
        """The window's own ground."""
        return self.look.theme.paper

    def paint(self, p: QPainter) -> None:
        """Draw the task, the group names and what was seen."""
        theme, width, bench = self.look.theme, self.logical_width, self._model.bench
        if bench is None:
            return
        scenario = bench.run.work.scenario
        if self.compact:
            words = (scenario.shown_title, scenario.task.title(scenario.cylinder))
            box = QRectF(0, 0, width - 440, 40)
            draw_one_of(p, box, words, LEAD, theme.ink, Weight.STRONG)
            return
        title = QRectF(0, 0, width, 52)
        draw_paragraph_that_fits(p, title, scenario.shown_title, LEAD, theme.ink)
        about = f"Covered engine {scenario.seed}, hardness {scenario.hardness} of 5"
        draw_text(p, QRectF(0, 52, width, 20), about, NOTE, theme.ink2)
        draw_text(p, QRectF(0, 74, width, 20), "On the engine", NOTE, theme.ink2, Weight.LABEL)
        top = self.tools[0].y() / self.look.scale - 20
        draw_text(p, QRectF(0, top, width, 18), "Hands and tools", NOTE, theme.ink2, Weight.LABEL)
        self._paint_seen(p)

    def _paint_seen(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        top, foot = self._seen_top, self.logical_height - 106
        seen = [one for one, _ in cards(self._model.begun)]
        if foot - top < 44:
            return
        if not seen:
            draw_paragraph_that_fits(
                p, QRectF(0, top, width, foot - top), IN_SHORT, NOTE, theme.ink2
            )
            return
        draw_text(p, QRectF(0, top, width, 18), "You have seen", NOTE, theme.ink2, Weight.LABEL)
        for nth, one in enumerate(seen[: int((foot - top - 22) // 20)]):
            line = QRectF(0, top + 22 + 20 * nth, width, 19)
            words = (f"{one.of}: {one.answer}", one.answer)
            draw_one_of(p, line, words, NOTE, theme.ink, Weight.BODY, LEFT)
