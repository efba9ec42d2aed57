"""What is asked is told nowhere on the screen, and the bench says all the time what it asks."""

from pathlib import Path

import pytest
from PyQt6.QtWidgets import QWidget

from tests.conftest import MakeWindow
from tests.hand import Hand, Key
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.bench.workspace import UNTOUCHED, BenchWorkspace
from true_compass.drawing.text import texts_recorded
from true_compass.files.rigs import demo_rig
from true_compass.files.scenario_file import scenario_text
from true_compass.files.scenarios import scenario_names, shipped_scenario

ORDER = demo_rig("cedar").order_text


def told(window: MainWindow) -> str:
    """Everything that the window says now: drawn, in tool tips, to screen readers, in its title."""
    with texts_recorded() as drawn:
        for view in window.findChildren(QWidget):
            if view.isVisible():
                view.repaint()
        window.grab()
    seen = [view for view in (window, *window.findChildren(QWidget)) if view.isVisible()]
    said = [f"{v.toolTip()} {v.accessibleName()} {v.accessibleDescription()}" for v in seen]
    return "\n".join([*drawn, *said, window.windowTitle()])


def bench_of(window: MainWindow) -> BenchWorkspace:
    page = window.workspace
    assert isinstance(page, BenchWorkspace)
    return page


def put_on_bench(window: MainWindow, task: str) -> BenchWorkspace:
    """Begin with a task, and go to what is said of it at once: that is asked about first."""
    hand = Hand(window)
    hand.key(Key.Key_B)
    hand.press(task)
    hand.press("Begin")
    hand.press("Say it, check it")
    hand.press("Say it, check it")
    return bench_of(window)


def test_an_order_that_is_asked_stands_nowhere(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    hand = Hand(window)
    hand.key(Key.Key_B)
    assert ORDER in told(window)
    hand.press("Firing order without a book")
    hand.press("Begin")
    assert ORDER not in told(window)
    assert "order asked" in told(window)
    hand.press("True Compass")
    assert ORDER not in told(window)
    hand.key(Key.Key_F4)
    assert ORDER not in told(window)


@pytest.mark.parametrize("percent", [100, 150])
def test_no_book_tells_no_order_and_jumps_to_no_tdc(open_window: MakeWindow, percent: int) -> None:
    window = open_window("cedar")
    window.look.set_text_percent(percent)
    hand = Hand(window)
    hand.key(Key.Key_I)
    assert "Next compression TDC" in window.turn_bar.next_tdc.text()
    hand.press("No book")
    words = told(window)
    assert ORDER not in words
    assert "cylinder 5, 90° on" not in words
    before = window.session.state.crank_deg
    hand.key(Key.Key_Space)
    assert window.session.state.crank_deg == before
    hand.press("Leads")
    assert ORDER in told(window)


def test_the_strip_names_the_engine_on_the_bench(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = Hand(window)
    hand.key(Key.Key_B)
    hand.click(next(p for p, s, _ in bench_of(window).choose.ready if s.task.value == "preload"))
    assert window.windowTitle().startswith("Rig Cedar")
    assert "Rig Birch" not in told(window)
    hand.key(Key.Key_W)
    assert window.windowTitle().startswith("Rig Birch")


@pytest.mark.parametrize("name", scenario_names())
@pytest.mark.parametrize("percent", [100, 150])
def test_the_task_is_said_while_one_works(
    open_window: MakeWindow, tmp_path: Path, name: str, percent: int
) -> None:
    window = open_window("birch")
    window.look.set_text_percent(percent)
    scenario = shipped_scenario(name)
    path = tmp_path / "any.scenario.toml"
    path.write_text(scenario_text(scenario), encoding="utf-8")
    assert Hand(window).drop(path)
    assert scenario.task.title(scenario.cylinder) in told(window).replace("\n", " ")


def test_the_letter_drawn_on_a_tool_takes_it(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = Hand(window)
    hand.key(Key.Key_B)
    hand.press("Begin")
    bench = bench_of(window)
    for button in bench.side.tools:
        hand.type(button.tool.letter.lower())
        assert window.workspace is bench
        assert bench.model.hand is button.tool
    hand.press("Say it, check it" if bench.side.check.text().startswith("Say") else "It is there")
    assert bench.page == "work"
    assert bench.model.sentence == UNTOUCHED


def test_what_nobody_measured_is_asked_before_it_is_judged(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand, bench = Hand(window), put_on_bench(window, "Set all items")
    hand.press("Uncover it")
    assert bench.say.asked == "Finish? 12 items were not measured."
    assert bench.model.begun.verdict is None
    hand.press("Finish all the same")
    assert bench.page == "truth"


def test_what_was_tried_and_passed_is_remembered(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = Hand(window)
    hand.key(Key.Key_B)
    bench = bench_of(window)
    plate, scenario, _ = bench.choose.ready[0]
    hand.click(plate)
    hand.press("Put away")
    assert f"{scenario.engine.layout_words}, hardness {scenario.hardness}, tried" in told(window)


def test_nothing_wrong_can_be_said(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand, bench = Hand(window), put_on_bench(window, "Find the fault")
    fault = next(button for button in bench.say.faults if button.isVisible())
    hand.click(fault)
    hand.press("Nothing is wrong")
    assert not fault.isChecked()
    hand.press("Uncover it")
    assert bench.page == "truth"
    assert bench.model.begun.verdict is not None
    assert not bench.model.begun.verdict["passed"]
