"""Bench: a covered engine to find TDC on, to set, to get wrong, and to find out why."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import ClassVar, Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.settings import Remembered
from true_compass.app.keys import NONE, SHIFT, DigitKeys, Key, KeyLine, turning_keys
from true_compass.app.workspace import Workspace
from true_compass.app.workspaces.bench.bar import HEIGHT, BenchBar
from true_compass.app.workspaces.bench.choose_view import ChooseView
from true_compass.app.workspaces.bench.model import ALL_TOOLS, BenchModel, Tool
from true_compass.app.workspaces.bench.over_view import OverView
from true_compass.app.workspaces.bench.readings_view import ReadingsView
from true_compass.app.workspaces.bench.say_view import SayView
from true_compass.app.workspaces.bench.scene_view import SceneView
from true_compass.app.workspaces.bench.set_view import SetView
from true_compass.app.workspaces.bench.side_view import COMPACT_TOOLS, WIDTH, SideView
from true_compass.app.workspaces.bench.truth_view import TruthView
from true_compass.bench.scenario import Scenario
from true_compass.book.job import BookEngine, Job
from true_compass.core.crank.layout import Form
from true_compass.core.engine import Engine
from true_compass.files.problems import EngineFileError
from true_compass.files.scenario_file import scenario_digest
from true_compass.files.sealing import (
    Sealed,
    SealError,
    parse_any_scenario,
    read_any_scenario,
    sealed_text,
)
from true_compass.session.bench import tells_order_asked
from true_compass.session.session import Source

CHOOSE, WORK, SET, SAY, TRUTH, OVER = "", "work", "set", "say", "truth", "over"
EDGE: Final = 16.0
UNTOUCHED: Final = "Nothing has been touched yet. Press again to say it all the same."


def _is_tried(value: object) -> bool:
    """Scenarios by their digest, each passed or only tried."""
    return isinstance(value, dict) and all(
        isinstance(key, str) and isinstance(passed, bool) for key, passed in value.items()
    )


class BenchWorkspace(Workspace):
    """Choose, work, set, say, and the truth, one page at a time."""

    wants_crank = False
    least_size = (780.0, 400.0)
    pages = (CHOOSE, WORK, SET, SAY, TRUTH, OVER)
    remembers: ClassVar[Mapping[str, Remembered]] = {"tried": Remembered({}, _is_tried)}

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        look = desk.look
        self.setObjectName("bench")
        self.setAccessibleName("Bench")
        self.model = BenchModel(desk, self)
        self.choose = ChooseView(desk, self)
        self.side = SideView(look, self.model, self)
        self.scene = SceneView(look, self.model, self)
        self.readings = ReadingsView(look, self.model, self)
        self.bar = BenchBar(look, self.model, self)
        self.set_view = SetView(look, self.model, self)
        self.say = SayView(look, self.model, self)
        self.truth = TruthView(look, self.model, self)
        self.over = OverView(look, self.model, self)
        self._page = CHOOSE
        self._digits = DigitKeys(self.scene.press_cylinder, self._cylinders, self)
        self._connect()
        self._bring_back()
        self._show()

    def _connect(self) -> None:
        self.choose.chosen.connect(self.begin)
        self.choose.go_on.clicked.connect(self._go_on)
        self.model.page_wanted.connect(self.show_page)
        self.side.over.connect(partial(self.show_page, OVER))
        self.over.taken.connect(self._take_role)
        self.over.alone.connect(self._be_alone)
        self.say.look_again.connect(partial(self.show_page, SET))
        self.side.check.clicked.connect(self._check)
        self.set_view.check.clicked.connect(self._check)
        self.set_view.whole.clicked.connect(partial(self.show_page, WORK))
        self.say.back.clicked.connect(partial(self.show_page, WORK))
        self.say.finished.connect(self._finished)
        self.truth.again.connect(self._again)
        self.truth.watch.connect(self._watch)
        self.truth.save.connect(self._save)
        self.truth.book.connect(self._into_the_book)
        self.truth.another.connect(self._another)
        self.side.leave.clicked.connect(partial(self.show_page, CHOOSE))
        self.desk.bridge.engine_changed.connect(self.update)
        self.look.changed.connect(self.arrange)

    def _bring_back(self) -> None:
        """What was on the bench when the program was closed or killed goes on."""
        runs = self.desk.runs()
        if self.model.bench is None:
            found = runs.unfinished()
            if isinstance(found, Sealed):
                seen = found.seen
                self.desk.files.asks.emit(
                    "A sealed engine was not finished",
                    [f"{seen.shown_title}, {seen.engine.name}: with its word it goes on."],
                    [("Type its word", partial(self._go_on_sealed, found))],
                )
            elif found is not None and found.run.state.done:
                self.desk.session.put_on_bench(found)

    def _go_on_sealed(self, sealed: Sealed) -> None:
        scenario = self._unsealed(sealed)
        found = self.desk.runs().goes_on(scenario) if scenario is not None else None
        if found is not None:
            self.desk.session.put_on_bench(found)
            self.show_page(WORK)
        elif scenario is not None:
            self.desk.say("That work cannot be gone on with: its log was altered.")

    def _unsealed(self, sealed: Sealed) -> Scenario | None:
        """A sealed scenario by its word, which the instructor types; None where it is not."""
        word = self.desk.files.ask_word("The word of the seal")
        if word is None:
            return None
        try:
            return sealed.opened(word)
        except SealError as error:
            self.desk.say(str(error))
            return None

    # Pages -----------------------------------------------------------------------------------

    @property
    def page(self) -> str:
        """The page that is shown."""
        return self._page

    def show_page(self, page: str) -> None:
        """Show a page; without an engine on the bench there is only the first."""
        bench = self.model.bench
        if page in (WORK, SET, SAY, OVER) and (bench is None or bench.verdict is not None):
            page = TRUTH if bench is not None else CHOOSE
        if page == TRUTH and (bench is None or bench.verdict is None):
            page = WORK if bench is not None else CHOOSE
        if page not in self.pages:
            return
        self._page = page
        if page == SET and not self.model.item:
            self.model.item = next(iter(self.model.begun.run.work.place), "")
        if page == SAY:
            self.say.begin()
        self._show()
        if self.isVisible():
            self.focus_first().setFocus()

    def begin(self, scenario: Scenario) -> None:
        """Put a covered engine on the bench and go to it."""
        self.model.hand, self.model.thumb, self.model.item = None, 0, ""
        self.model.role, self.model.no_play_deg = "", {}
        self.model.asked_untouched = False
        self.model.cylinder, self.model.sentence = scenario.cylinder, ""
        self._remember_tried(scenario, passed=False)
        self.desk.session.begin_bench(scenario)
        self.show_page(WORK)

    def take_file(self, path: Path) -> None:
        """Begin with a scenario file, or say what is wrong with it."""
        try:
            told = read_any_scenario(path)
        except EngineFileError as error:
            self.desk.files.refused.emit(error)
            return
        scenario = told if isinstance(told, Scenario) else self._unsealed(told)
        if scenario is not None:
            self.begin(scenario)

    def _save(self) -> None:
        """For the class: as it is, or sealed; a sealed one stays so."""
        bench = self.model.bench
        if bench is None:
            return
        scenario = bench.run.work.scenario
        if scenario.seal is not None:
            self.desk.files.save_scenario(scenario)
            return
        self.desk.files.asks.emit(
            "Save it for the class: sealed?",
            [
                "A sealed engine begins only when its word is typed on that machine. Nobody reads "
                "beforehand what is wrong with it, and its log says that it was made under the "
                "word."
            ],
            [
                ("Seal it", partial(self._save_sealed, scenario)),
                ("As it is", partial(self.desk.files.save_scenario, scenario)),
            ],
        )

    def _save_sealed(self, scenario: Scenario) -> None:
        files = self.desk.files
        word = files.ask_word("A word for the seal: three or four words")
        if word is None:
            return
        if files.ask_word("The same word once more") != word:
            self.desk.say("The two words are not the same: nothing was saved.")
            return
        try:
            text = sealed_text(scenario, word)
        except SealError as error:
            self.desk.say(str(error))
            return
        files.save_scenario(scenario, text)

    def _into_the_book(self) -> None:
        """Write what was found and left into the book of that engine."""
        from true_compass.session.bench_job import bench_job  # only where it is asked for

        bench = self.model.bench
        if bench is None:
            return
        scenario = bench.run.work.scenario
        key = f"rig {scenario.rig}" if scenario.rig else self.desk.session.state.key

        def make(engine: BookEngine, now: datetime) -> Job:
            return bench_job(bench, engine, now)

        self.desk.say(self.desk.book().write_of(scenario.engine, key, make))

    def _finished(self) -> None:
        verdict = self.model.begun.verdict
        passed = bool(verdict and verdict["passed"])
        self._remember_tried(self.model.begun.run.work.scenario, passed=passed)
        self.show_page(TRUTH)

    def _remember_tried(self, scenario: Scenario, *, passed: bool) -> None:
        """Note a scenario as tried or passed; once passed, it stays so."""
        digest = scenario_digest(scenario)
        tried = self.desk.settings.get("tried")
        self.desk.settings.put("tried", {**tried, digest: passed or tried.get(digest, False)})

    def _check(self) -> None:
        """To what is said and judged; where nothing has been touched yet that is asked first."""
        if self.model.begun.run.state.done or self.model.asked_untouched:
            self.show_page(SAY)
            return
        self.model.asked_untouched = True
        self.model.say(UNTOUCHED)

    def _take_role(self, role: str) -> None:
        self.model.hand_over(role)
        self.show_page(WORK)

    def _be_alone(self) -> None:
        self.model.role = ""
        self.show_page(WORK)

    def _go_on(self) -> None:
        self.show_page(WORK)

    def _again(self) -> None:
        scenario: Scenario | None = self.model.begun.run.work.scenario
        if scenario is not None and scenario.seal is not None:
            # Whoever saw the truth begins again only under the word.
            told = parse_any_scenario(scenario.seal.text, "the sealed engine")
            scenario = self._unsealed(told) if isinstance(told, Sealed) else None
        if scenario is not None:
            self.begin(scenario)

    def _another(self) -> None:
        """Another engine; in a lesson, back to it."""
        if self.model.in_lesson:
            self.desk.go_to("Lessons", "")
        else:
            self.show_page(CHOOSE)

    def _watch(self) -> None:
        """See the engine uncovered, at the crank angle where it stands."""
        run = self.model.begun.run
        scenario = run.work.scenario
        session = self.desk.session
        if session.state.engine == scenario.engine:
            session.turn_to(run.state.crank_deg)
        elif session.state.edited:
            self.desk.say("Save your edits first: Watch would show the engine of the bench.")
            return
        else:
            session.open_engine(scenario.engine, Source(rig=scenario.rig), run.state.crank_deg)
        self.desk.go_to("Watch", "")

    def focus_first(self) -> QWidget:
        """The engine, the list of items, or the first key."""
        return {
            WORK: self.scene,
            SET: self.set_view.items,
            TRUTH: self.truth.items,
        }.get(self._page, self)

    def came_to_front(self) -> None:
        """The first page shows whether there is an engine on the bench."""
        self._show()

    def _cylinders(self) -> int:
        return self.model.begun.run.work.engine.cylinder_count if self.model.bench else 0

    def _show(self) -> None:
        page = self._page
        self.choose.setVisible(page == CHOOSE)
        for view in (self.side, self.scene, self.readings):
            view.setVisible(page == WORK)
        self.set_view.setVisible(page == SET)
        self.say.setVisible(page == SAY)
        self.truth.setVisible(page == TRUTH)
        self.over.setVisible(page == OVER)
        self.bar.setVisible(page in (WORK, SET))
        if page == CHOOSE:
            self.choose.show_engine()
        self.model.changed.emit()
        self.arrange()
        self.shows_changed.emit()

    @property
    def on_show(self) -> Engine | None:
        """The engine on the bench, wherever one works at it."""
        bench = self.model.bench
        return None if bench is None or self._page == CHOOSE else bench.run.work.engine

    @property
    def hides_order(self) -> bool:
        """While the firing order of the engine on the bench is asked for."""
        engine = self.on_show or self.desk.session.state.engine
        return tells_order_asked(self.model.bench, engine)

    def arrange(self) -> None:
        """Put everything in its place."""
        put, width, height = self.look.scaled, self.logical_width, self.logical_height
        self.choose.setGeometry(put(0, 0, width, height))
        self.truth.setGeometry(put(0, 0, width, height))
        for view in (self.say, self.over):
            view.setGeometry(put(EDGE, 10, width - 2 * EDGE, height - 20))
        body = height - HEIGHT
        self.bar.setGeometry(put(0, body, width, HEIGHT))
        self.set_view.setGeometry(put(0, 0, width, body))
        if width < 1000:
            self._arrange_compact(width, body)
            return
        self.side.setGeometry(put(EDGE, 10, WIDTH, body - 20))
        left = WIDTH + EDGE + 12
        room = width - left - EDGE
        bench = self.model.bench
        star = bench is not None and bench.run.work.engine.layout.form is Form.RADIAL
        if star and room > 760:
            cards = min(room * 0.32, 300.0)
            self.scene.setGeometry(put(left, 10, room - cards - 10, body - 20))
            self.readings.setGeometry(put(left + room - cards, 10, cards, body - 20))
        else:
            cards = min(max(body * 0.26, 104.0), 176.0)
            self.scene.setGeometry(put(left, 10, room, body - 30 - cards))
            self.readings.setGeometry(put(left, body - 10 - cards, room, cards))
        self.update()

    def _arrange_compact(self, width: float, body: float) -> None:
        """Large print or a small window: the task above, the tools in one row below."""
        put = self.look.scaled
        self.side.setGeometry(put(EDGE, 8, width - 2 * EDGE, body - 14))
        foot = body - 6 - COMPACT_TOOLS - 8
        cards = 92.0 if body > 420 else 74.0
        self.scene.setGeometry(put(EDGE, 56, width - 2 * EDGE, foot - cards - 64))
        self.readings.setGeometry(put(EDGE, foot - cards, width - 2 * EDGE, cards))
        for view in (self.scene, self.readings):
            view.raise_()
        self.update()

    def paint(self, p: QPainter) -> None:
        """Only the ground shows between the views."""
        p.fillRect(QRectF(0, 0, self.logical_width, self.logical_height), self.look.theme.paper)

    # Keys ------------------------------------------------------------------------------------

    def keys(self) -> Sequence[KeyLine]:
        """X chalks, J rocks, V walks round; at the engine each tool has its letter."""
        if self._page not in (WORK, SET):
            return ()
        return (
            KeyLine("X", "chalk the damper", {(Key.Key_X, NONE): self.model.chalk}),
            KeyLine("J", "rock it", {(Key.Key_J, NONE): self.model.rock}),
            KeyLine("V", "the other row", {(Key.Key_V, NONE): self._other_side}),
            KeyLine(
                "Up, Down, Return",
                "from place to place, use the hand there",
                in_view=((Key.Key_Up, NONE), (Key.Key_Down, NONE), (Key.Key_Return, NONE)),
            ),
        )

    def instead(self) -> Sequence[KeyLine]:
        """Nothing jumps here: arrows bar the covered engine, digits move the hand."""
        turning = turning_keys(self._bar)
        nothing = dict.fromkeys(
            (
                (Key.Key_Space, NONE),
                (Key.Key_Space, SHIFT),
                (Key.Key_Period, NONE),
                (Key.Key_Comma, NONE),
            ),
            _nothing,
        )
        return (
            KeyLine("Arrows, Page keys", "bar the covered engine", {**turning, **nothing}),
            KeyLine("1, 2, 3 …", "the hand to that cylinder", self._digits.keys()),
            KeyLine("Esc", "put the tool back", {(Key.Key_Escape, NONE): self._escape}),
            *self._tool_keys(),
        )

    def _tool_keys(self) -> Sequence[KeyLine]:
        """The letter drawn on a tool takes it, at the engine; there it leads to no other page."""
        if self._page != WORK:
            return ()
        letters = ", ".join(tool.letter for tool in ALL_TOOLS)
        takes = {
            (Key(ord(tool.letter)), modifier): partial(self._take, tool)
            for tool in ALL_TOOLS
            for modifier in (NONE, SHIFT)
        }
        return (KeyLine(letters, "take a tool, or put it back", takes),)

    def _take(self, tool: Tool) -> None:
        if self._page == WORK:
            self.model.take(tool)

    def _bar(self, by_deg: float) -> None:
        if self._page in (WORK, SET):
            self.model.bar(by_deg)

    def _other_side(self) -> None:
        if self._page == WORK:
            self.scene.other_side()

    def _escape(self) -> None:
        if not self.model.put_back() and self._page in (SET, SAY, OVER):
            self.show_page(WORK)


def _nothing() -> None:
    """A key that must not jump."""
