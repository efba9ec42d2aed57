"""Saying what was found: the words that the task asks for, then the engine is uncovered."""

from functools import partial
from typing import Any, Final

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.model import BenchModel
from true_compass.bench.blades import bracket
from true_compass.bench.faults import FAULTS
from true_compass.bench.hands.telling import NOTHING_WRONG
from true_compass.bench.tasks import Task
from true_compass.bench.verdict import unmeasured
from true_compass.core.adjusting.setting import Way
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_number
from true_compass.drawing.text import draw_paragraph_that_fits, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, Weight

TDC_TASKS: Final = (Task.TDC, Task.WHICH_TDC, Task.TRUE_TDC)


class SayView(Painted):
    """What the task asks to be said, and the key that uncovers."""

    finished = pyqtSignal()
    look_again = pyqtSignal()

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("bench_say")
        self.setAccessibleName("Say what you found")
        self.tdc = [TabButton(look, word, self) for word in ("Compression TDC", "Overlap TDC")]
        self.rotor = [TabButton(look, word, self) for word in ("Clockwise", "Anticlockwise")]
        self.faults = [TabButton(look, fault.title, self) for fault in FAULTS]
        self.nothing = TabButton(look, "Nothing is wrong with it", self)
        self.nothing.setObjectName("fault_nothing")
        self.nothing.clicked.connect(self._pick_nothing)
        self.field = QLineEdit(self)
        self.field.setObjectName("say_field")
        self.field.setMaxLength(60)
        self.uncover = StrongButton(look, "Uncover it and judge", self)
        self.uncover.setObjectName("uncover")
        self.back = DrawnButton(look, "Not yet", self)
        self.again = DrawnButton(look, "Second look at three, blind", self)
        self.again.setObjectName("second_look")
        self.again.clicked.connect(self._second_look)
        for button in (*self.tdc, *self.rotor):
            button.clicked.connect(partial(self._pick_one, button))
        for button, fault in zip(self.faults, FAULTS, strict=True):
            button.setObjectName(f"fault_{fault.slug}")
            button.clicked.connect(self._pick_fault)
        self.uncover.clicked.connect(self._finish)
        self.said = ""
        self.asked = ""
        look.changed.connect(self._arrange)

    def ground(self) -> QColor:
        """A sheet."""
        return self.look.theme.sheet

    @property
    def task(self) -> Task:
        """What is asked."""
        return self._model.begun.run.work.scenario.task

    def begin(self) -> None:
        """A fresh page for the task on the bench."""
        for button in (*self.tdc, *self.rotor, *self.faults, self.nothing):
            button.setChecked(False)
        self.asked = ""
        if self.task in (Task.TDC, Task.TRUE_TDC):
            self.tdc[0].setChecked(True)
        self.field.clear()
        self.said = ""
        names = {Task.MARK: "Error of the mark in degrees", Task.ORDER: "Firing order"}
        self.field.setAccessibleName(names.get(self.task, "Answer"))
        self._arrange()

    def _pick_one(self, picked: TabButton) -> None:
        group = self.tdc if picked in self.tdc else self.rotor
        for button in group:
            button.setChecked(button is picked)
        self._arrange()

    def _pick_nothing(self) -> None:
        for button in self.faults:
            button.setChecked(False)
        self._arrange()

    def _pick_fault(self) -> None:
        self.nothing.setChecked(False)
        self._arrange()

    def _words(self) -> tuple[str, str]:
        cylinder = self._model.begun.run.work.scenario.cylinder
        return {
            Task.TDC: (f"Cylinder {cylinder} stands here at", "Within 4°, and the right stroke."),
            Task.WHICH_TDC: (f"Cylinder {cylinder} stands at", "One of the two. How do you know?"),
            Task.TRUE_TDC: (f"True TDC of {cylinder} is here", "Within 0.3°."),
            Task.MARK: (
                "The mark is out by",
                "Degrees of crank; + is met after true TDC. 0: true.",
            ),
            Task.ORDER: ("It fires", "Such as 1-3-4-2, and how the rotor turns, from above."),
            Task.FAULT: ("This is wrong with it", "Press every fault that you found, two at most."),
        }.get(self.task, ("You are done", "Everything is judged as you left it, on the heel."))

    def _ask_first(self) -> bool:
        """Ask once before an engine is judged on which items were left out; whether to wait."""
        run = self._model.begun.run
        left = len(unmeasured(run.work, run.state))
        if not left or self.asked:
            return False
        many = f"Finish? {left} items were not measured."
        self.asked = "Finish? 1 item was not measured." if left == 1 else many
        self._arrange()
        return True

    def _finish(self) -> None:
        if self._ask_first():
            return
        if self._declared():
            self._write_down()
            if self._model.do("finish") is not None:
                self.finished.emit()
        else:
            self._arrange()

    def _second_look(self) -> None:
        answer = self._model.do("second look")
        if answer is not None:
            self._model.item = answer["items"][0]
            self.look_again.emit()

    def _write_down(self) -> None:
        """What was measured goes into the record: as left, and at the second look."""
        state = self._model.begun.run.state
        for name in state.second_look:
            for when, second in (("left", False), ("second", True)):
                goes, stops = bracket(state, name, left=True, second=second)
                if goes is None and not second:
                    goes, stops = bracket(state, name, left=False)
                if goes is not None:
                    self._model.do("record", item=name, goes_mm=goes, not_mm=stops, **{"as": when})

    def _declared(self) -> bool:
        """Say what is picked and typed; whether that could be said."""
        keys = self._keys()
        if keys is None:
            return False
        if not keys:
            return True
        if self._model.do("declare", **keys) is None:
            self.said = self._model.sentence
            return False
        return True

    def _keys(self) -> dict[str, Any] | None:
        cylinder = self._model.begun.run.work.scenario.cylinder
        self.said = ""
        if self.task in TDC_TASKS:
            if not any(button.isChecked() for button in self.tdc):
                self.said = "Say which of the two it is."
                return None
            tdc = "compression" if self.tdc[0].isChecked() else "overlap"
            return {"cylinder": cylinder, "tdc": tdc}
        if self.task is Task.MARK:
            try:
                text = self.field.text().strip().replace("−", "-")
                return {"mark_error_deg": parse_number("error", text)}
            except EngineError:
                self.said = "The error must be a number of degrees, such as 7.5 or −3."
                return None
        if self.task is Task.ORDER:
            rotor = next((b.text().lower() for b in self.rotor if b.isChecked()), "")
            if self._model.begun.run.work.engine.has_rotor and not rotor:
                self.said = "Say how the rotor turns, as you saw it."
                return None
            keys: dict[str, Any] = {"order": self.field.text().strip().replace(" ", "-") or "?"}
            return {**keys, "rotor": rotor} if rotor else keys
        if self.task is Task.FAULT:
            named = [f.slug for b, f in zip(self.faults, FAULTS, strict=True) if b.isChecked()]
            if self.nothing.isChecked():
                named = [NOTHING_WRONG]
            if not named:
                self.said = "Press the fault that you found, or that nothing is wrong."
                return None
            return {"fault": named}
        return {}

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        if self._model.bench is None:
            return
        put, width, height = self.look.scaled, self.logical_width, self.logical_height
        task = self.task
        for n, button in enumerate(self.tdc):
            button.setVisible(task in TDC_TASKS)
            button.setGeometry(put(24 + n * 220, 100, 210, 50))
        has_rotor = task is Task.ORDER and self._model.begun.run.work.engine.has_rotor
        for n, button in enumerate(self.rotor):
            button.setVisible(has_rotor)
            button.setGeometry(put(24 + n * 180, 156, 170, 44))
        self.field.setVisible(task in (Task.MARK, Task.ORDER))
        self.field.setGeometry(put(24, 100, min(width - 48, 420), 42))
        self._arrange_faults()
        low = height < 520 and task is Task.FAULT
        top = 14.0 if low else height - 68
        left = width - 420 if low else 24.0
        self.uncover.setText("Finish all the same" if self.asked else "Uncover it and judge")
        self.uncover.setGeometry(put(left, top, 250, 50))
        self.back.setGeometry(put(left + 262, top, 130, 50))
        sets = task.sets and not self._model.begun.run.state.second_look
        gaps = any(setting.way is Way.GAP for setting in self._model.begun.run.work.settings)
        self.again.setVisible(sets and gaps)
        self.again.setGeometry(put(24, 104, 300, 46))
        self.field.setStyleSheet(
            field_style(self.look.theme, self.look.scale, wrong=bool(self.said))
        )
        self.update()

    def _arrange_faults(self) -> None:
        """The faults that this engine can have, in as many columns as their words allow."""
        width, height = self.logical_width, self.logical_height
        engine = self._model.begun.run.work.engine
        asked = self.task is Task.FAULT
        shown = []
        for button, fault in zip(self.faults, FAULTS, strict=True):
            button.setVisible(asked and not fault.missing(engine))
            if not button.isHidden():
                shown.append(button)
        self.nothing.setVisible(asked)
        shown += [self.nothing] if asked else []
        columns = 3 if width > 1100 else 2
        rows = max(-(-len(shown) // columns), 1)
        wide = (width - 48 - 8 * (columns - 1)) / columns
        foot = 8.0 if height < 520 else 94.0
        high = min((height - 92 - foot) / rows, 46.0)
        for n, button in enumerate(shown):
            x, y = 24 + (n // rows) * (wide + 8), 92 + (n % rows) * high
            button.setGeometry(self.look.scaled(x, y, wide, high - 4))

    def paint(self, p: QPainter) -> None:
        """Draw the question, and what is missing."""
        if self._model.bench is None:
            return
        theme, width = self.look.theme, self.logical_width
        head, body = self._words()
        draw_text(p, QRectF(24, 18, width - 48, 38), head, HEAD, theme.ink, Weight.STRONG)
        draw_text(p, QRectF(24, 58, width - 48, 26), body, BODY, theme.ink2)
        said = self.said or self.asked
        if said:
            box = QRectF(430, self.logical_height - 68, width - 450, 52)
            if self.logical_height < 520 and self.task is Task.FAULT:
                box = QRectF(340, 58, width - 360, 26)
            draw_paragraph_that_fits(p, box, said, LABEL, theme.ink)
