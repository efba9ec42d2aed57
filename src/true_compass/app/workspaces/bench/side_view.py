"""The left side of the bench: the task, tools as buttons, what was seen, hint and check."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.model import (
    HANDS,
    TOOLS,
    BenchModel,
    Tool,
)
from true_compass.app.workspaces.bench.told import cards
from true_compass.bench.faults import is_timed
from true_compass.bench.feel import LIFT_WORDS, PLAY_WORDS, SPIN_WORDS
from true_compass.bench.hands.turning import starter_part
from true_compass.bench.state import coverings, plug
from true_compass.bench.tasks import Task
from true_compass.core.cautions import IN_SHORT
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_number
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.covered import paint_tag
from true_compass.drawing.text import (
    LEFT,
    RIGHT,
    draw_one_of,
    draw_paragraph_that_fits,
    draw_text,
)
from true_compass.drawing.theme import BODY, LEAD, NOTE, Weight

WIDTH = 280.0
ROW = 38.0
COMPACT_TOOLS = 72.0
PART_NAMES: Final = ("covers", "plugs", "coil", "starter", "pin", "head", "run", "lamp", "over")
FORETOLD: Final = {"wiggle": PLAY_WORDS, "spin": SPIN_WORDS, "lift": LIFT_WORDS}
"""What a look can tell, so that it can be said beforehand."""


class ToolButton(DrawnButton):
    """A tool with its letter: in the hand, placed, or in the tray."""

    def __init__(self, look: Look, tool: Tool, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, tool.word, parent)
        self.tool = tool
        self._model = model
        self.setObjectName(f"tool_{tool.slug}")
        self.setAccessibleName(f"{tool.word} ({tool.letter})")
        self.clicked.connect(self._take)
        self._held = False
        model.changed.connect(self._show_hand)

    def _take(self) -> None:
        self._model.take(self.tool)

    def _show_hand(self) -> None:
        held = self._model.hand is self.tool
        if held != self._held:
            self._held = held
            self.repaint_all()

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        held = self._model.hand is self.tool
        edge = flat_pen(theme.now, 2.6) if held or focus else flat_pen(theme.line, 1.6)
        rounded(p, box, 4, theme.now_tint if held or active else theme.sheet, edge)
        tag = QRectF(box.left() + 5, box.center().y() - 11, 22, 22)
        words, align = box.adjusted(31, 0, -3, 0), LEFT
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
        inner = box.adjusted(9, 0, -8, 0)
        used = draw_text(p, inner, self.text(), BODY, theme.ink, Weight.LABEL, LEFT)
        rest = inner.adjusted(used + 4, 0, 0, 0)
        draw_one_of(p, rest, (self.state_words,), NOTE, theme.ink2, Weight.BODY, RIGHT)


class SideView(Painted):
    """Task, parts, tools, what was seen, hint, and the key that checks."""

    over = pyqtSignal()

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._laid: object = None
        self._seen_top = 0.0
        self.setObjectName("bench_side")
        self.setAccessibleName("Task and tools")
        self.covers = PartButton(look, "Covers", self)
        self.plugs = PartButton(look, "Plugs", self)
        self.coil = PartButton(look, "Coil", self)
        self.starter = PartButton(look, "Starter", self)
        self.pin = PartButton(look, "Pin", self)
        self.head = PartButton(look, "Head bolts", self)
        self.trial = PartButton(look, "Test run", self)
        self.lamp = PartButton(look, "Timing lamp", self)
        self.other = PartButton(look, "Hand over", self)
        self.parts = (
            self.covers,
            self.plugs,
            self.coil,
            self.starter,
            self.pin,
            self.head,
            self.trial,
            self.lamp,
            self.other,
        )
        for name, button in zip(PART_NAMES, self.parts, strict=True):
            button.setObjectName(f"part_{name}")
        self.pin.clicked.connect(self._toggle_pin)
        self.head.clicked.connect(self._torque_head)
        self.trial.clicked.connect(self._run)
        self.lamp.clicked.connect(partial(self._model.do, "lamp"))
        self.other.clicked.connect(self.over)
        self.figure = QLineEdit("0", self)
        self.figure.setObjectName("pointer_figure")
        self.figure.setAccessibleName("Figure that the wheel shall read now")
        self.figure.setMaxLength(8)
        self.pointer = DrawnButton(look, "Set pointer", self)
        self.pointer.setObjectName("set_pointer")
        self.pointer.clicked.connect(self._set_pointer)
        self.words = [TabButton(look, "word", self) for _ in range(4)]
        for word in self.words:
            word.clicked.connect(partial(self._foretell, word))
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
        look.changed.connect(self._dress)
        model.changed.connect(self._show_state)
        self._dress()

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

    def _toggle_pin(self) -> None:
        on = "pin" in self._model.begun.run.state.parts_on
        self._model.do("off" if on else "on", part="pin")

    def _torque_head(self) -> None:
        answer = self._model.do("torque", part="head")
        if answer is not None:
            self._model.say(f"The head's bolts {answer['bolts']}.")

    def _run(self) -> None:
        self._model.do("test run")

    def _set_pointer(self) -> None:
        try:
            figure = parse_number("pointer", self.figure.text().strip().replace("−", "-"))
        except EngineError as error:
            self._model.say(f"The figure {error}.")
            return
        if self._model.do("pointer", deg=figure) is not None:
            self._model.do("wheel")

    def _foretell(self, button: TabButton) -> None:
        self._model.foretell(button.text())

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
        self.pin.show_state("in" if "pin" in state.parts_on else "out")
        self.head.show_state("torque")
        self.trial.show_state("run it")
        self.lamp.show_state("run it")
        if self.lamp.isHidden() == self._has_lamp:
            self.lamp.setVisible(self._has_lamp)
            self._arrange()
        self.other.show_state(self._model.role or "two people")
        wheel = any(one.action["do"] == "wheel" for one in bench.readings)
        self.figure.setVisible(wheel)
        self.pointer.setVisible(wheel)
        self._show_words()
        used = f"{state.hints} used" if state.hints else "none used"
        self.hint.setText(f"Hint ({used})")
        tdc = work.scenario.task in (Task.TDC, Task.TRUE_TDC)
        self.check.setText("It is there: check it" if tdc else "Say it, check it")
        self.update()

    def _dress(self) -> None:
        self.figure.setStyleSheet(field_style(self.look.theme, self.look.scale, wrong=False))
        self._arrange()

    def _show_words(self) -> None:
        """What the hand could tell, to be said before it is felt."""
        hand = self._model.hand
        scale = FORETOLD.get(hand.slug, ()) if hand is not None and not self.compact else ()
        before = self._laid
        self._laid = (scale, self.figure.isHidden())
        for nth, button in enumerate(self.words):
            button.setVisible(nth < len(scale))
            if nth < len(scale):
                button.setText(scale[nth])
                button.setChecked(self._model.foretold == scale[nth])
        if before != self._laid:
            self._arrange()

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
        lines = -(-len(self._parts_here) // 2)
        rows = lines + -(-len(self.tools) // 2)
        row = min(ROW, max((self.logical_height - 340) / (rows + 1), 24.0))
        for buttons, first, extra in ((self._parts_here, 0, 0.0), (self.tools, lines, 20.0)):
            for nth, button in enumerate(buttons):
                y = top + (first + nth // 2) * (row + 5) + extra
                button.setGeometry(put((nth % 2) * (half + 8), y, half, row))
        self._seen_top = top + rows * (row + 5) + 24
        foot = self.logical_height
        if any(not button.isHidden() for button in self.words):
            shown = [button for button in self.words if not button.isHidden()]
            each = (width - 4 * (len(shown) - 1)) / len(shown)
            for nth, button in enumerate(shown):
                button.setGeometry(put(nth * (each + 4), self._seen_top + 20, each, 28))
            self._seen_top += 54
        if not self.figure.isHidden():
            self.figure.setGeometry(put(0, foot - 138, width - 126, 34))
            self.pointer.setGeometry(put(width - 120, foot - 138, 120, 34))
        self.hint.setGeometry(put(0, foot - 98, width - 104, 38))
        self.leave.setGeometry(put(width - 98, foot - 98, 98, 38))
        self.check.setGeometry(put(0, foot - 54, width, 50))
        self.update()

    @property
    def _parts_here(self) -> list[PartButton]:
        """What is put on, taken off or started; a lamp where the book has its figures."""
        return [button for button in self.parts if button is not self.lamp or self._has_lamp]

    @property
    def _has_lamp(self) -> bool:
        bench = self._model.bench
        return bench is not None and is_timed(bench.run.work.engine)

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
        self.figure.setGeometry(put(width - 620, 3, 64, 34))
        self.pointer.setGeometry(put(width - 550, 3, 112, 34))
        every = (*self._parts_here, *self.tools)
        across = -(-len(every) // 2)
        each = (width - 4 * (across - 1)) / across
        high = (COMPACT_TOOLS - 4) / 2
        for nth, button in enumerate(every):
            x, y = (nth % across) * (each + 4), foot - COMPACT_TOOLS + (nth // across) * (high + 4)
            button.setGeometry(put(x, y, each, high))
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
        asked = scenario.task.title(scenario.cylinder)
        if self.compact:
            # What is asked stands here all the time, however it has to be written.
            box = QRectF(0, 0, width - 440, 42)
            draw_paragraph_that_fits(p, box, asked, LEAD, theme.ink)
            return
        title = QRectF(0, 0, width, 52)
        draw_paragraph_that_fits(p, title, asked, LEAD, theme.ink)
        number = f"{scenario.number_words}, hardness {scenario.hardness} of 5"
        about = (f"{scenario.title}: {scenario.hardness} of 5", scenario.title, number)
        draw_one_of(
            p,
            QRectF(0, 52, width, 20),
            about if scenario.title else (number,),
            NOTE,
            theme.ink2,
        )
        draw_text(p, QRectF(0, 74, width, 20), "On the engine", NOTE, theme.ink2, Weight.LABEL)
        top = self.tools[0].y() / self.look.scale - 20
        draw_text(p, QRectF(0, top, width, 18), "Hands and tools", NOTE, theme.ink2, Weight.LABEL)
        self._paint_seen(p)

    def _paint_seen(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        top, foot = self._seen_top, self.logical_height - 106
        if not self.words[0].isHidden():
            label = QRectF(0, top - 56, width, 18)
            draw_text(p, label, "It will be (if you like)", NOTE, theme.ink2, Weight.LABEL)
        foot -= 38 if not self.figure.isHidden() else 0
        seen = [card.told for card in cards(self._model.begun, self._model.hides)]
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
