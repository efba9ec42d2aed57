"""Lessons in the window: guided steps, drills, what is judged, and who it is kept for."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt

from tests.conftest import MakeWindow
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.bench.workspace import BenchWorkspace
from true_compass.app.workspaces.lessons.workspace import LessonsWorkspace
from true_compass.files.course import lesson_names
from true_compass.lessons.drill import Cover
from true_compass.lessons.forms import Ticks
from true_compass.lessons.mastery import Standing
from true_compass.lessons.result import parse_result
from true_compass.session.lesson import OnLesson, Station

Key = Qt.Key


class Bench:
    """A student's hands."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        window.look.set_still(True)
        window.go_to("Lessons")
        page = window.workspace
        assert isinstance(page, LessonsWorkspace)
        self.page, self.model = page, page.model

    @property
    def on(self) -> OnLesson:
        assert self.model.on is not None
        return self.model.on

    def key(self, key: Key) -> None:
        QTest.keyClick(self.window, key)

    def open(self, name: str) -> None:
        row = lesson_names().index(name)
        view = self.page.list
        at = view.row_box(row).center() * view.look.scale
        QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=at.toPoint())

    def to_drill(self, kind: str = "") -> None:
        places = [
            place
            for place, stop in enumerate(self.on.stops)
            if stop.station is Station.QUESTION
            and stop.question is not None
            and (not kind or stop.question.kind == kind)
        ]
        self.model.desk.session.put_lesson(self.on.at(places[0]))

    def press_chip(self, name: str) -> None:
        stage = self.page.learn.stage
        boxes = [stage.chip_boxes(row) for row in range(stage.rig.engine.cylinder_count)]
        box = next(found[name] for found in boxes if name in found)
        at: QPointF = box.center() * stage.look.scale
        QTest.mouseClick(stage, Qt.MouseButton.LeftButton, pos=at.toPoint())


@pytest.fixture
def bench(open_window: MakeWindow) -> Bench:
    return Bench(open_window("birch"))


def test_a_guided_part_is_worked_through_with_keys_alone(bench: Bench) -> None:
    bench.open("two-tdcs")
    assert bench.page.learn.step.isVisible()
    assert not bench.page.list.isVisible()
    assert bench.model.crank.state.engine.name == "Rig Alder"
    # The engine that is open elsewhere is not touched.
    assert bench.window.session.state.engine.name == "Rig Birch"
    bench.key(Key.Key_Return)
    assert bench.on.place == 1
    for _ in range(12):
        bench.key(Key.Key_Right)
        QTest.keyClick(bench.window, Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    for _ in range(12):
        bench.key(Key.Key_Left)
    assert bench.model.crank.state.crank_deg == 0.0
    bench.key(Key.Key_Return)
    assert bench.on.judged is not None
    assert bench.on.judged.is_right
    bench.key(Key.Key_Return)
    while bench.on.shown is not None and bench.on.shown.step.asks != "fires":
        if bench.on.question is not None and bench.on.judged is None:
            bench.model.enter(bench.on.drill.answer(bench.on.asked))
        bench.key(Key.Key_Return)
    assert Cover.RING in bench.model.covers
    assert not bench.page.bar.next_tdc.isEnabled()
    assert "in this step" in bench.page.bar.readout.text_twin()
    bench.key(Key.Key_R)
    assert bench.model.from_home_deg == 5.0
    step, shown = bench.page.learn.step, bench.on.shown
    assert shown is not None
    rock = step.rock_box(shown)
    assert rock is not None
    at = (rock.center() * step.look.scale).toPoint()
    QTest.mouseClick(step, Qt.MouseButton.LeftButton, pos=at)
    assert bench.model.from_home_deg == -5.0
    bench.key(Key.Key_1)
    assert bench.on.judged is not None
    assert bench.on.judged.idea == "together-fire-together"
    assert bench.model.covers == frozenset()
    assert bench.page.bar.next_tdc.isEnabled()
    assert bench.page.learn.step.sentence == "4 fires. The valves of 1 rock: overlap."
    assert bench.model.keeper.answers is not None
    assert bench.model.keeper.answers.count() == 0


def test_chips_are_ticked_and_the_answer_stands_on_the_engine(bench: Bench) -> None:
    bench.open("valves-here")
    bench.to_drill("free")
    on = bench.on
    assert isinstance(on.form, Ticks)
    right = on.drill.answer(on.asked)
    wrong = next(name for name in on.rig.item_names if name not in right)
    assert Cover.ARCS in bench.model.covers
    bench.press_chip(wrong)
    bench.press_chip(right[0])
    bench.press_chip(right[1])
    bench.press_chip(right[1])
    assert bench.on.entry == (wrong, right[0])
    bench.key(Key.Key_Return)
    judged = bench.on.judged
    assert judged is not None
    assert (judged.marks.right, judged.marks.wrong, judged.marks.asked) == (1, 1, len(right))
    showing = bench.page.learn.stage.showing
    assert showing.marks[wrong] == "wrong"
    assert showing.marks[right[1]] == "left out"
    assert showing.framed == judged.shows
    assert bench.page.learn.answer.free.isVisible()
    bench.page.learn.answer.free.click()
    bench.key(Key.Key_A)
    assert bench.on.aided
    assert bench.model.crank.state.crank_deg == pytest.approx(on.question.at_deg)  # type: ignore[union-attr]


def test_a_figure_is_typed_and_a_letter_is_refused(bench: Bench) -> None:
    bench.open("set-one")
    bench.to_drill("thou")
    field = bench.page.learn.answer.field
    assert field.isVisible()
    assert not bench.page.learn.stage.isVisible()
    bench.key(Key.Key_Return)
    assert bench.on.judged is None
    QTest.keyClicks(field, "x")
    assert bench.on.entry is None
    field.clear()
    QTest.keyClicks(field, str(round(bench.on.drill.answer(bench.on.asked), 2)))
    QTest.keyClick(field, Key.Key_Return)
    assert bench.on.judged is not None
    assert bench.on.judged.is_right


def test_answers_are_kept_and_a_lesson_goes_on_where_it_was_left(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    bench = Bench(open_window("birch"))
    bench.open("four-strokes")
    bench.to_drill()
    first = bench.on.place
    bench.model.choose(bench.on.drill.answer(bench.on.asked))
    bench.key(Key.Key_Return)
    assert bench.model.skills["name-stroke"].standing is Standing.SOUND
    results = list(bench.model.keeper.folder.iterdir())
    assert [path.suffix for path in results] == [".jsonl"]
    bench.key(Key.Key_Escape)
    assert bench.model.on is None
    bench.open("four-strokes")
    assert bench.on.place == first + 1
    assert len(bench.on.given) == 1


def test_with_a_hint_it_needs_practice(bench: Bench) -> None:
    bench.open("four-strokes")
    bench.to_drill()
    bench.key(Key.Key_H)
    assert bench.on.aided
    bench.model.choose(bench.on.drill.answer(bench.on.asked))
    bench.key(Key.Key_Return)
    assert bench.model.skills["name-stroke"].standing is Standing.PRACTICE


@pytest.mark.parametrize("name", ["no-table", "rotor-leads", "two-stop-table", "find-tdc"])
def test_every_place_of_a_lesson_can_be_shown_answered_and_left(bench: Bench, name: str) -> None:
    bench.open(name)
    while not bench.on.over:
        place = bench.on.place
        if bench.on.question is not None and not bench.on.drill.slug.startswith("covered"):
            bench.model.enter(bench.on.form.read(bench.on.drill.answer(bench.on.asked)))
            if bench.on.drill.slug == "turn-to":
                bench.model.crank.turn_to(bench.on.drill.answer(bench.on.asked))
            bench.model.answer()
            assert bench.on.judged is not None
            assert bench.on.judged.is_right
        QTest.qWait(1)
        bench.window.grab()
        bench.model.go_on()
        assert bench.on.place == place + 1
    bench.window.grab()
    assert bench.on.marks == bench.on.lesson.asked_count - sum(
        stop.question is not None and stop.question.kind.startswith("covered")
        for stop in bench.on.stops
    )


@pytest.mark.parametrize(
    ("off_deg", "hint", "passes"), [(0.0, False, True), (0.0, True, True), (360.0, False, False)]
)
def test_what_was_done_on_the_bench_is_the_answer(
    bench: Bench, off_deg: float, hint: bool, passes: bool
) -> None:
    bench.open("find-tdc")
    bench.to_drill("covered")
    bench.key(Key.Key_Return)
    session = bench.window.session
    at_bench = bench.window.workspace
    assert isinstance(at_bench, BenchWorkspace)
    run = session.state.bench
    assert run is not None
    work = run.run.work
    true_deg = float(work.true_tdc_deg[work.scenario.cylinder - 1])
    way = (true_deg - run.run.state.crank_deg + off_deg) % 720.0
    session.bench_do({"do": "bar", "deg": way})
    if hint:
        session.bench_do({"do": "hint"})
    bench.window.go_to("Lessons")
    bench.model.to_bench()
    assert session.state.bench is not None
    assert session.state.bench.actions, "a run half done goes on"
    session.bench_do({"do": "declare", "cylinder": work.scenario.cylinder, "tdc": "compression"})
    session.bench_do({"do": "finish"})
    bench.window.go_to("Bench")
    at_bench.show_page("truth")
    assert at_bench.truth.other.text() in ("On with the lesson", "Lesson")
    QTest.mouseClick(at_bench.truth.other, Qt.MouseButton.LeftButton)
    assert bench.window.workspace is bench.page
    assert bench.on.judged is not None
    assert bench.on.judged.is_right == passes
    assert bench.on.given[-1].aided == hint
    (result,) = bench.model.keeper.folder.iterdir()
    (kept,) = parse_result(result.read_text()).given
    assert kept.answer == list(session.state.bench.actions)
    assert kept.credit == bench.on.given[0].credit == float(passes)
    before = bench.on.given
    bench.model.go_on()
    session.put_on_bench(session.state.bench)
    assert bench.on.given == before
