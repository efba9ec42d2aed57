"""The first page of the bench: what to practise, on which engine, how hard."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, pyqtSignal
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.desk import Desk
from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Painted
from true_compass.bench.faults import BY_SLUG, FAULTS
from true_compass.bench.scenario import MOST_HARDNESS, MOST_SEED, Scenario
from true_compass.bench.tasks import Task, why_not
from true_compass.core.chance import one_of, share
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.drawing.codes import flat_pen, paint_tick, rounded
from true_compass.drawing.text import draw_one_of, draw_paragraph_that_fits, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight
from true_compass.files.scenario_file import scenario_digest
from true_compass.files.scenarios import scenario_names, shipped_scenario

LEFT: Final = 380.0
ROW: Final = 40.0
MOST_DISCS: Final = 9


class ChooseView(Painted):
    """Tasks for the open engine at the left; covered engines that are ready at the right."""

    chosen = pyqtSignal(object)

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk.look, parent)
        self._session = desk.session
        self._settings = desk.settings
        self.setObjectName("bench_choose")
        self.setAccessibleName("What will you practise?")
        self.task = Task.TDC
        self.cylinder, self.hardness = 1, 2
        look = desk.look
        self.tasks = [TabButton(look, _short(task), self) for task in Task]
        for task, button in zip(Task, self.tasks, strict=True):
            button.setObjectName(f"task_{task.value}")
            button.clicked.connect(partial(self.choose_task, task))
        self.discs = [TabButton(look, str(n + 1), self) for n in range(18)]
        for n, button in enumerate(self.discs):
            button.setAccessibleName(f"Cylinder {n + 1}")
            button.clicked.connect(partial(self.choose_cylinder, n + 1))
        self.levels = [TabButton(look, str(n + 1), self) for n in range(MOST_HARDNESS)]
        for n, button in enumerate(self.levels):
            button.setAccessibleName(f"Hardness {n + 1} of {MOST_HARDNESS}")
            button.clicked.connect(partial(self.choose_hardness, n + 1))
        self.seed = QLineEdit("4417", self)
        self.seed.setObjectName("seed")
        self.seed.setMaxLength(9)
        self.seed.setAccessibleName("Number of the covered engine: the same for all")
        self.begin = StrongButton(look, "Begin", self)
        self.begin.setObjectName("begin")
        self.begin.clicked.connect(self._begin)
        self.go_on = DrawnButton(look, "Go on with the engine on the bench", self)
        self.go_on.setObjectName("go_on_bench")
        shipped = [(name, shipped_scenario(name)) for name in scenario_names()]
        shipped.sort(key=lambda pair: (pair[1].hardness, pair[1].title))
        self.ready = []
        for name, scenario in shipped:
            plate = DrawnButton(look, scenario.title, self)
            plate.setObjectName(f"ready_{name}")
            plate.clicked.connect(partial(self._take, scenario))
            self.ready.append((plate, scenario, scenario_digest(scenario)))
        self.all_ready = TabButton(look, "Ready made", self)
        self.all_ready.clicked.connect(self._arrange)
        self._ready_boxes: list[tuple[QRectF, str, bool]] = []
        self.said = ""
        desk.bridge.engine_changed.connect(self.show_engine)
        look.changed.connect(self._arrange)
        self.show_engine()

    def _where(self, scenario: Scenario, digest: str) -> tuple[str, bool]:
        """Layout, hardness and whether it was tried or passed here; and whether it was passed."""
        passed = self._settings.get("tried").get(digest)
        came = "" if passed is None else ", passed" if passed else ", tried"
        layout = scenario.engine.layout_words
        return f"{layout}, hardness {scenario.hardness}{came}", bool(passed)

    def _name_plates(self) -> None:
        for plate, scenario, digest in self.ready:
            where, _ = self._where(scenario, digest)
            plate.setAccessibleName(f"{scenario.title}: {where}. {scenario.note}")

    # What is chosen --------------------------------------------------------------------------

    def show_engine(self) -> None:
        """Another engine is open: what it cannot carry is not offered."""
        engine = self._session.state.engine
        self.cylinder = min(self.cylinder, engine.cylinder_count)
        if why_not(engine, self.task):
            self.task = Task.TDC
        for task, button in zip(Task, self.tasks, strict=True):
            reason = why_not(engine, task)
            button.setEnabled(not reason)
            button.setText(_short(task))
            button.setAccessibleName(f"{_short(task)}: this engine {reason}" if reason else "")
            if not reason:
                button.setAccessibleName(_short(task))
        self._show()

    def choose_task(self, task: Task) -> None:
        """Choose what to practise."""
        self.task = task
        self._show()

    def choose_cylinder(self, cylinder: int) -> None:
        """Choose the cylinder that it is about."""
        self.cylinder = cylinder
        self._show()

    def choose_hardness(self, hardness: int) -> None:
        """Choose how hard."""
        self.hardness = hardness
        self._show()

    def _show(self) -> None:
        for task, button in zip(Task, self.tasks, strict=True):
            button.setChecked(task is self.task)
        for n, button in enumerate(self.discs):
            button.setChecked(n + 1 == self.cylinder)
        for n, button in enumerate(self.levels):
            button.setChecked(n + 1 == self.hardness)
        self._name_plates()
        self._arrange()

    def _begin(self) -> None:
        text = self.seed.text().strip()
        if not (text.isascii() and text.isdigit()):
            self.said = f"The engine's number must be 0 to {MOST_SEED}: type digits only."
            self._arrange()
            return
        state = self._session.state
        try:
            scenario = Scenario(
                state.engine,
                self.task,
                self.cylinder,
                int(text),
                self.hardness,
                faults=_fault_for(self.task, state.engine, int(text)),
                rig=state.source.rig if not state.edited else "",
            )
        except EngineError as error:
            self.said = f"{error.in_words}."
            self._arrange()
            return
        self._take(scenario)

    def _take(self, scenario: Scenario) -> None:
        self.said = ""
        self.chosen.emit(scenario)

    # Looks -----------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        if self.narrow:
            self._arrange_narrow()
            return
        put, height = self.look.scaled, self.logical_height
        self.all_ready.hide()
        for part in (*self.tasks, *self.levels, self.seed, self.begin):
            part.show()
        row = min(ROW, (height - 300) / len(self.tasks))
        for n, button in enumerate(self.tasks):
            button.setGeometry(put(20, 66 + n * (row + 4), LEFT, row))
        self._below = 66 + len(self.tasks) * (row + 4) + 6
        count = self._session.state.engine.cylinder_count
        each = min(38.0, (LEFT - 8) / max(count, 1) - 4)
        for n, button in enumerate(self.discs):
            button.setVisible(n < count)
            button.setGeometry(put(20 + n * (each + 4), self._below + 22, each, 34))
        for n, button in enumerate(self.levels):
            button.setGeometry(put(20 + n * 42, self._below + 84, 38, 34))
        self.seed.setGeometry(put(250, self._below + 84, LEFT - 230, 34))
        self.begin.setGeometry(put(20, height - 66, LEFT, 50))
        self._arrange_ready()
        self.seed.setStyleSheet(
            field_style(self.look.theme, self.look.scale, wrong=bool(self.said))
        )
        self.update()

    @property
    def narrow(self) -> bool:
        """Whether print is large or the window small: one of both lists at a time."""
        return self.logical_width < 1000 or self.logical_height < 600

    def _arrange_narrow(self) -> None:
        """Tasks, or what is ready made, in two columns; a key changes between them."""
        put, width, height = self.look.scaled, self.logical_width, self.logical_height
        ready = self.all_ready.isChecked()
        self.all_ready.show()
        self.all_ready.setGeometry(put(width - 150, 8, 134, 38))
        self.go_on.setVisible(self._session.state.bench is not None)
        self.go_on.setGeometry(put(width - 456, 8, 298, 38))
        wide = (width - 40) / 2
        for n, button in enumerate(self.tasks):
            button.setVisible(not ready)
            button.setGeometry(put(16 + (n % 2) * (wide + 8), 66 + (n // 2) * 42, wide, 38))
        count = self._session.state.engine.cylinder_count
        self._below = 282.0
        each = min(36.0, wide / max(count, 1) - 3)
        for n, button in enumerate(self.discs):
            button.setVisible(not ready and n < count)
            button.setGeometry(put(16 + n * (each + 3), 304, each, 34))
        for n, button in enumerate(self.levels):
            button.setVisible(not ready)
            button.setGeometry(put(24 + wide + n * 38, 304, 34, 34))
        self.seed.setVisible(not ready)
        self.seed.setGeometry(put(24 + wide + 210, 304, wide - 210, 34))
        self.begin.setVisible(not ready)
        self.begin.setGeometry(put(16, height - 56, width - 32, 46))
        rows = -(-len(self.ready) // 2)
        high = (height - 70) / rows
        self._ready_boxes = []
        for n, (plate, scenario, digest) in enumerate(self.ready):
            passed = self._where(scenario, digest)[1]
            plate.setText(f"{scenario.title} \u2713" if passed else scenario.title)
            plate.setVisible(ready)
            plate.setGeometry(
                put(16 + (n // rows) * (wide + 8), 62 + (n % rows) * high, wide, high - 4)
            )
        style = field_style(self.look.theme, self.look.scale, wrong=bool(self.said))
        self.seed.setStyleSheet(style)
        self.update()

    def _arrange_ready(self) -> None:
        put, height = self.look.scaled, self.logical_height
        left, width = LEFT + 60, self.logical_width - LEFT - 80
        on_bench = self._session.state.bench is not None
        self.go_on.setVisible(on_bench)
        top = 66.0
        if on_bench:
            self.go_on.setGeometry(put(left, top, width, 46))
            top += 60
        columns = 2 if width > 620 else 1
        rows = -(-len(self.ready) // columns)
        high = min((height - top - 16) / rows, 64.0)
        wide = (width - 10 * (columns - 1)) / columns
        self._ready_boxes = []
        for n, (button, scenario, digest) in enumerate(self.ready):
            button.setText(scenario.title)
            x = left + (n // rows) * (wide + 10)
            y = top + (n % rows) * high
            plate = max(high - 24, 20.0) if high > 44 else high - 4
            button.show()
            button.setGeometry(put(x, y, wide, plate))
            box = QRectF(x, y + plate, wide, high - plate)
            self._ready_boxes.append((box, *self._where(scenario, digest)))

    def paint(self, p: QPainter) -> None:
        """Draw the headings and what stands below the buttons."""
        theme, width = self.look.theme, self.logical_width
        engine = self._session.state.engine
        if self.narrow:
            self._paint_narrow(p)
            return
        draw_text(
            p, QRectF(20, 8, LEFT, 34), "What will you practise?", HEAD, theme.ink, Weight.STRONG
        )
        under = f"On {engine.name}. The inside is covered until you check your work."
        draw_text(p, QRectF(20, 42, LEFT, 20), under, NOTE, theme.ink2)
        label = QRectF(20, self._below, LEFT, 20)
        draw_text(p, label, "Cylinder", NOTE, theme.ink2, Weight.LABEL)
        label = QRectF(20, self._below + 62, 200, 20)
        draw_text(p, label, "Hardness", NOTE, theme.ink2, Weight.LABEL)
        label = QRectF(250, self._below + 62, 200, 20)
        draw_text(p, label, "Number: same for all", NOTE, theme.ink2, Weight.LABEL)
        if self.said:
            box = QRectF(20, self._below + 122, LEFT, self.logical_height - self._below - 194)
            draw_paragraph_that_fits(p, box, self.said, BODY, theme.ink)
        right = QRectF(LEFT + 40, 0, width - LEFT - 50, self.logical_height - 6)
        rounded(p, right, 6, theme.sheet, flat_pen(theme.hair, 1.4))
        head = QRectF(LEFT + 60, 12, width - LEFT - 100, 34)
        draw_text(p, head, "Or a covered engine that is ready", LABEL + 3, theme.ink, Weight.STRONG)
        for box, where, passed in self._ready_boxes:
            if box.height() < 18:
                continue
            if passed:
                at = QPointF(box.left() + 12, box.center().y() - 2)
                paint_tick(p, at, 14, theme.ink)
            words = box.adjusted(26 if passed else 4, 0, -4, -4)
            draw_text(p, words, where, NOTE, theme.ink2)

    def _paint_narrow(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        ready = self.all_ready.isChecked()
        head = "Covered engines that are ready" if ready else "What will you practise?"
        box = QRectF(16, 8, width - 480, 38)
        draw_one_of(p, box, (head, head.split()[0]), HEAD - 4, theme.ink, Weight.STRONG)
        if ready:
            return
        wide = (width - 40) / 2
        for words, x in (("Cylinder", 16.0), ("Hardness", 24 + wide), ("Number", 234 + wide)):
            box = QRectF(x, self._below, 200, 20)
            draw_text(p, box, words, NOTE, theme.ink2, Weight.LABEL)
        if self.said:
            box = QRectF(16, 344, width - 32, self.logical_height - 404)
            draw_paragraph_that_fits(p, box, self.said, BODY, theme.ink)


_SHORT: Final = {
    Task.TDC: "Bring a cylinder to compression TDC",
    Task.WHICH_TDC: "Which TDC is this?",
    Task.TRUE_TDC: "Find true TDC by two readings",
    Task.MARK: "Check the mark on the damper",
    Task.ORDER: "Firing order without a book",
    Task.SET: "Set all items",
    Task.PRELOAD: "Set hydraulic preload",
    Task.BRIDGE: "Set bridges, then rockers",
    Task.FAULT: "Find the fault",
    Task.FREE: "Free: no task",
}


def _short(task: Task) -> str:
    return _SHORT[task]


def _fault_for(task: Task, engine: Engine, seed: int) -> tuple[str, ...]:
    """A fault for a task that is about one: drawn by the number, among those it can carry."""
    if task is Task.FAULT:
        return (one_of(seed, "fault", [f for f in FAULTS if not f.missing(engine)]).slug,)
    if task is Task.MARK and share(seed, "true mark") > 0.3:
        crept = BY_SLUG["damper-crept"]
        return () if crept.missing(engine) else (crept.slug,)
    return ()
