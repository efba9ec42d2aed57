"""What a person acts on, in the real window: what is tried, advice, findings, ends, names."""

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication

from tests.app.test_stops import press, stops
from tests.conftest import MakeWindow
from tests.qtest import QTest
from tests.strategies import never_opens
from true_compass.app.main import Start, make_window
from true_compass.app.widgets.hints import plain_hint
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.engine.workspace import FIGURES, EngineWorkspace
from true_compass.app.workspaces.watch.workspace import WatchWorkspace
from true_compass.book.brackets import Bracket
from true_compass.book.job import Measure
from true_compass.core.adjusting.schools import SCHOOLS
from true_compass.core.adjusting.tasks import task_for
from true_compass.core.crank.makers import inline
from true_compass.core.items import item_named
from true_compass.core.rotation import Rotation
from true_compass.core.spark import Rotor, Spark
from true_compass.core.state import WhatIf
from true_compass.core.units import GapUnit
from true_compass.drawing.dials import rotor_sense, rotor_title
from true_compass.files.engine_file import save_engine
from true_compass.files.rigs import demo_rig
from true_compass.session.session import Source

Key = Qt.Key


def told(window: MainWindow) -> str:
    workspace = stops(window)
    return " ".join(workspace.next_item.lines()[1])


def test_watch_says_in_its_headline_what_is_only_tried(open_window: MakeWindow) -> None:
    window = open_window("birch")
    watch = window.workspace
    assert isinstance(watch, WatchWorkspace)
    window.session.try_out(WhatIf(intake_lash_mm=0.1, exhaust_lash_mm=0.1))
    assert watch._context.headline()[1] == "Trying lash +0.10 mm"
    # An edit and another engine end the trial.
    window.session.edit(replace(window.session.state.engine, bore_mm=97.0))
    assert window.session.state.tried is None


def test_at_overlap_tdc_no_screw_is_touched(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    workspace.show_page("Do it")
    window.session.turn_to(360.0)
    QTest.keyClicks(workspace.measured, "0")
    assert "Tight here is not too tight. I1 is open: other stroke" in told(window)
    assert "looser" not in told(window)
    workspace.measured.clear()
    window.session.turn_to(0.0)
    QTest.keyClicks(workspace.measured, "8 thou")
    assert "accepted band" in told(window)
    workspace.measured.clear()
    QTest.keyClicks(workspace.measured, "2")
    assert "2 thou is 0.05 mm" in told(window)
    QTest.keyClick(workspace.measured, Key.Key_Return)  # asked back: nothing is taken yet
    assert workspace.model.job.items == {}
    QTest.keyClick(workspace.measured, Key.Key_Return)
    assert workspace.model.job.record(item_named("I1")).found == Measure(
        Bracket.of(2.0), None, "2", GapUnit.MM
    )
    assert "tighter" in told(window)


def test_blades_in_thou_read_a_bare_number_as_thou(open_window: MakeWindow) -> None:
    window = open_window("birch")
    window.session.edit(replace(window.session.state.engine, gap_unit=GapUnit.THOU))
    workspace = stops(window)
    workspace.show_page("Do it")
    assert workspace.measured.placeholderText() == "as found, thou"
    QTest.keyClicks(workspace.measured, "10")
    assert "accepted band, 7.9 to 11.8 thou" in told(window)
    task = task_for(window.session.state.engine, item_named("I1"))
    assert task.target_words.startswith("9.8 thou")


def test_set_does_not_tick_what_is_not_free_unless_asked_twice(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = stops(window)
    workspace.show_page("Do it")
    window.session.turn_to(360.0)
    for button in (workspace.set_button, workspace.leave_button):
        button.click()
        assert workspace.model.done == {}
        assert window.note.text.startswith("I1 is not free where the crank stands.")
        window.session.turn_to(361.0)  # a turn in between, and it is asked anew
        button.click()
        assert workspace.model.done == {}
        window.session.turn_to(360.0)
    workspace.set_button.click()
    workspace.set_button.click()
    # It is marked as what it is, in the list and in the Book, never with the plain tick.
    assert workspace.model.done == {item_named("I1"): "off-heel"}
    assert workspace.model.job.record(item_named("I1")).off_heel
    # A row of the sheet asks as well; leaving one out needs no doubt.
    window.grab()
    box = next(b for b, _, due in workspace.sheets._boxes if due and due.name == "E1")
    press(workspace.sheets, box.center())
    assert item_named("E1") not in workspace.model.done
    workspace.skip_button.click()
    assert workspace.model.done[item_named("E1")] == "skipped"


def test_a_sweep_is_worked_quarter_by_quarter_and_then_the_preload(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    workspace = stops(window)
    model = workspace.model
    model.choose("quarter-turn")
    workspace.show_page("Do it")
    window.session.turn_to(37.0)
    assert "slacken every adjuster until it clacks" in told(window)
    for quarter in range(8):
        loose = {item.name for item in model.loose_at(model.place)}
        # What is loose where the crank stands, wherever the sweep was begun.
        rows = zip(model.rig.engine.valves, window.session.state.now.free, strict=True)
        free = {valve.name for valve, is_free in rows if is_free}
        assert loose == free
        window.grab()
        assert workspace.next_button.text() == "Tick this quarter: taken up"
        assert not workspace.measured.isEnabled()
        workspace.next_button.click()
        assert model.done[quarter + 1] == "set"
        workspace.next_button.click()
        if quarter < 7:
            assert window.session.state.crank_deg == (37.0 + 90.0 * (quarter + 1)) % 720
    assert (model.place, window.session.state.crank_deg) == (8, (37.0 + 630.0) % 720)
    window.grab()
    assert workspace.set_button.text() == "Set"
    # The last phase names no base circle, slackens nothing, and looks for no zero again.
    assert "Only so much tighter on all: 0.70 to 1.20 mm" in told(window)
    assert "Do not look for zero again" in told(window)
    assert "wait until it has bled down" in told(window)
    assert "slack" not in told(window).lower()
    while model.round.next_item is not None:
        workspace.next_button.click()
    assert model.round.finished
    assert model.round.seen_to == 8 + 16


def test_hydraulic_tappets_show_no_gap_of_zero(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    watch = window.workspace
    assert isinstance(watch, WatchWorkspace)
    assert watch._context.lash_words() == []
    workspace = stops(window)
    workspace.show_page("Do it")
    QTest.keyClicks(workspace.measured, "0 t")
    assert "From zero lash 0.40 to 0.68 turns: 0.70 to 1.20 mm of plunger." in told(window)
    for lash in ("0", "0.3", "0.3 mm"):
        workspace.measured.clear()
        QTest.keyClicks(workspace.measured, lash)
        assert "has no lash: type turns, such as 1.5 t" in told(window)
        assert "leave it" not in told(window)


def test_valves_that_never_open_break_nothing(tmp_path: Path, open_window: MakeWindow) -> None:
    window = open_window("birch")
    path = tmp_path / "shut.engine.toml"
    save_engine(never_opens(), path)
    window.opener.open_path(path)
    assert window.session.state.engine == never_opens()
    for key in (Key.Key_W, Key.Key_E, Key.Key_O, Key.Key_S, Key.Key_T, Key.Key_Period):
        QTest.keyClick(window, key)
        window.grab()
    for school in SCHOOLS:
        stops(window).model.choose(school.word)
        window.grab()


def test_findings_come_worst_first_and_the_rest_can_be_read(open_window: MakeWindow) -> None:
    window = open_window("acacia")
    window.session.edit(never_opens())
    window.go_to("Engine", FIGURES)
    engine = window.workspace
    assert isinstance(engine, EngineWorkspace)
    engine.drawing.resize(engine.drawing.width(), 420)
    engine.drawing.grab()
    assert not engine.drawing._more.isNull()
    press(engine.drawing, QPointF(engine.drawing._more.center()))
    sentences = [sentence for _, sentence in window.sheet.rows]
    assert sentences[0].startswith("wrong: The lash takes up the whole intake lobe")
    kinds = [sentence.partition(":")[0] for sentence in sentences]
    assert kinds == sorted(kinds, key=["wrong", "look", "note"].index)


def test_cylinder_1_at_the_rear_stands_at_the_right(open_window: MakeWindow) -> None:
    window = open_window("birch")
    watch = window.workspace
    assert isinstance(watch, WatchWorkspace)
    front = [column.x() for column in watch.columns]
    window.session.edit(inline(6, end="rear"))
    rear = [column.x() for column in watch.columns]
    assert front == sorted(front)
    assert rear == sorted(rear, reverse=True)
    window.go_to("Engine", FIGURES)
    engine = window.workspace
    assert isinstance(engine, EngineWorkspace)
    at_end = engine.form.inputs["layout.cylinder_1_at"]
    assert at_end.currentData() == "rear"  # type: ignore[union-attr]
    before = window.session.state.engine
    at_end.setCurrentIndex(0)  # type: ignore[union-attr]
    after = window.session.state.engine
    assert after.layout.on_bank(0) == tuple(reversed(before.layout.on_bank(0)))
    assert after.firing_offsets_deg.tolist() == before.firing_offsets_deg.tolist()
    window.grab()


def test_a_rotor_has_a_direction_of_its_own() -> None:
    engine = demo_rig("alder")
    assert rotor_title(engine) == "Rotor, direction assumed"
    assert rotor_sense(engine) == 1
    seen = replace(engine, spark=Spark(rotor=Rotor(Rotation.ANTICLOCKWISE)))
    assert (rotor_title(seen), rotor_sense(seen)) == ("Rotor, from above", -1)
    assert rotor_title(demo_rig("hickory")) == "Cycle, one turn in 720°"


def test_names_are_text_in_hints_and_menus(open_window: MakeWindow) -> None:
    window = open_window("birch")
    name = "<img src='/dev/zero'> & <b>Rig</b>"
    window.session.edit(replace(window.session.state.engine, name=name, note="<i>x</i>"))
    hint = window.strip.picker.toolTip()
    assert "&lt;img" in hint
    assert "<img" not in hint
    assert plain_hint("5 < 6") == "<qt>5 &lt; 6</qt>"
    assert plain_hint("plain") == "plain"
    window.lists.open_menu()
    texts = [action.text() for action in window.lists.menu.actions()]
    assert not any("& <" in text.replace("&&", "") for text in texts)
    window.lists.menu.close()
    assert window.windowTitle().startswith(name)


def test_opening_the_menu_leaks_no_menus(open_window: MakeWindow, qapp: QApplication) -> None:
    window = open_window("birch")
    window.lists.open_menu()
    before = len(window.lists.menu.children())
    for _ in range(5):
        window.lists.open_menu()
        window.lists.menu.close()
        qapp.sendPostedEvents(None, 52)  # deferred deletes
    assert len(window.lists.menu.children()) == before


def test_the_first_window_is_no_larger_than_the_screen(tmp_path: Path, qapp: QApplication) -> None:
    window = make_window(Start(demo_rig("birch"), Source(rig="birch"), tmp_path))
    screen = window.screen()
    assert screen is not None
    room = screen.availableGeometry()
    assert window.width() <= room.width()
    assert window.height() <= room.height()
    window.close()
    window.deleteLater()


@pytest.mark.parametrize("steps", [230])
def test_undo_is_bounded_and_names_its_steps(open_window: MakeWindow, steps: int) -> None:
    window = open_window("birch")
    for step in range(steps):
        window.session.edit(replace(window.session.state.engine, bore_mm=80.0 + step / 10))
    count = 0
    while window.session.undo():
        count += 1
    assert count == 200
