"""Orders and Engine in the real window, and Watch on engines that are not inline."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit

from tests.conftest import Answers, MakeWindow
from tests.painted import painted_texts
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.engine.workspace import FIGURES, MAKERS, EngineWorkspace
from true_compass.app.workspaces.orders.workspace import OrdersWorkspace
from true_compass.app.workspaces.watch.workspace import View, WatchWorkspace
from true_compass.core.crank.listing import Shown
from true_compass.files.engine_file import read_engine
from true_compass.files.rigs import demo_rig, rig_names

LEFT = Qt.MouseButton.LeftButton
Key = Qt.Key


def watch(window: MainWindow) -> WatchWorkspace:
    workspace = window.pages.of(window.entries[0])
    assert isinstance(workspace, WatchWorkspace)
    return workspace


def engine_form(window: MainWindow) -> EngineWorkspace:
    window.go_to("Engine", FIGURES)
    assert isinstance(window.workspace, EngineWorkspace)
    return window.workspace


def orders(window: MainWindow) -> OrdersWorkspace:
    QTest.keyClick(window, Key.Key_O)
    assert isinstance(window.workspace, OrdersWorkspace)
    return window.workspace


def type_into(workspace: EngineWorkspace, path: str, text: str) -> QLineEdit:
    made = workspace.form.inputs[path]
    assert isinstance(made, QLineEdit)
    made.setFocus()
    made.selectAll()
    QTest.keyClicks(made, text)
    return made


@pytest.mark.parametrize("name", rig_names())
def test_every_rig_turns_through_a_cycle(open_window: MakeWindow, name: str) -> None:
    window = open_window(name)
    seen = set()
    for crank in range(0, 720, 90):
        window.session.turn_to(float(crank) + 0.5)
        window.grab()
        seen.add(window.turn_bar.next_tdc.second())
    assert len(seen) > 2
    for _ in range(window.session.state.engine.cylinder_count):
        QTest.keyClick(window, Key.Key_Space)
        assert window.session.state.now.at_compression_tdc.any()


@pytest.mark.parametrize(
    ("rig", "natural", "after"),
    [
        ("birch", View.COLUMNS, View.COLUMNS),
        ("cedar", View.CELLS, View.COLUMNS),
        ("hornbeam", View.CELLS, View.COLUMNS),
        ("elm", View.CELLS, View.COLUMNS),
        ("acacia", View.STAR, View.COLUMNS),
        ("olive", View.COLUMNS, View.COLUMNS),
    ],
)
def test_key_v_changes_between_columns_and_end_view(
    open_window: MakeWindow, rig: str, natural: View, after: View
) -> None:
    window = open_window(rig)
    assert watch(window).view is natural
    QTest.keyClick(window, Key.Key_V)
    assert watch(window).view is after
    assert watch(window).columns[0].isVisible() == (after is View.COLUMNS)
    QTest.keyClick(window, Key.Key_V)
    assert watch(window).view is natural


def test_key_v_swaps_the_rows_of_a_radial(open_window: MakeWindow) -> None:
    window = open_window("aspen")
    star = watch(window).star
    assert star.cylinders() == (1, 3, 5, 7, 9, 11, 13)
    QTest.keyClick(window, Key.Key_V)
    assert star.cylinders() == (2, 4, 6, 8, 10, 12, 14)


def test_the_list_of_a_radial_begins_with_the_next_to_fire(open_window: MakeWindow) -> None:
    window = open_window("acacia")
    window.session.turn_to(100.0)
    assert watch(window).firing_list.order_now() == [5, 7, 9, 2, 4, 6, 8, 1, 3]
    assert watch(window).headline._context.headline()[1] == "No companion"


def test_a_cell_thickens_its_cylinder(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    cells = watch(window).cells
    assert cells.cylinder_under(QPointF(40, 150)) == 1
    assert cells.cylinder_under(QPointF(360, 150)) == 5
    QTest.mouseClick(cells, LEFT, pos=QPoint(360, 150))
    assert watch(window).selection.pinned == 5


def test_cylinders_that_fire_together_share_the_headline(open_window: MakeWindow) -> None:
    window = open_window("alder")
    window.session.edit_late((False, False, False, False))
    assert watch(window).headline._context.headline()[0] == "Cylinders 1 and 4: compression TDC"
    window.grab()


def test_orders_are_listed_sorted_and_used(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = orders(window)
    assert workspace.model.headline() == "This crank allows 4 even orders"
    assert workspace.table.row is not None
    assert workspace.table.row.text == "1-5-3-6-2-4"
    assert not workspace.use.isEnabled()
    QTest.mouseClick(workspace.table, LEFT, pos=QPoint(30, 20))
    assert workspace.table.row.text == "1-5-3-6-2-4"
    QTest.keyClick(workspace.table, Key.Key_Home)
    assert workspace.table.row.text == "1-2-3-6-5-4"
    QTest.keyClick(workspace.table, Key.Key_Down)
    QTest.mouseClick(workspace.use, LEFT)
    assert window.session.state.engine.order_text == "1-2-4-6-5-3"
    assert window.session.state.edited
    QTest.keyClick(window, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.session.state.engine == demo_rig("birch")


def test_an_impossible_order_is_explained_and_the_nearest_offered(open_window: MakeWindow) -> None:
    window = open_window("alder")
    workspace = orders(window)
    workspace.field.setText("1-2-3-4")
    verdict = workspace.verdict.verdict
    assert verdict is not None
    assert verdict.head == "Not on this crank: 4 cannot follow 3."
    assert workspace.nearest.isVisible()
    QTest.mouseClick(workspace.nearest, LEFT)
    assert workspace.table.row is not None
    assert workspace.table.row.text == "1-2-4-3"
    for text, head in (
        ("1-3-3-2", "Not an order."),
        ("1-3-4-2-5", "Another engine."),
        ("1-3-4-2", "1-3-4-2 is possible."),
    ):
        workspace.field.setText(text)
        verdict = workspace.verdict.verdict
        assert verdict is not None
        assert verdict.head == head


def test_a_beginning_filters_the_list(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    workspace = orders(window)
    every = workspace.table.row_count
    workspace.field.setText("1-5")
    assert 0 < workspace.table.row_count < every
    workspace.field.setText("1-8-8")
    workspace.field.clear()
    assert workspace.table.row_count == every


def test_the_other_hand_and_the_uneven_ones(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = orders(window)
    QTest.mouseClick(workspace.hand, LEFT)
    assert workspace.model.mirrored
    assert workspace.use.text() == "Mirror the crank, use this order"
    open_uneven = open_window("willow")
    uneven = orders(open_uneven)
    assert "uneven" in uneven.model.headline()
    assert uneven.table.row_count == len(uneven.model.table)
    QTest.mouseClick(workspace.hand, LEFT)
    QTest.mouseClick(workspace.uneven, LEFT)
    assert workspace.table.row_count == len(workspace.model.table.together_deg) == 28
    assert workspace.table.row is not None
    assert "+" in workspace.table.row.text
    QTest.mouseClick(workspace.use, LEFT)
    assert any(len(group) > 1 for group in window.session.state.engine.firing_groups)


def test_backwards_it_spits(open_window: MakeWindow) -> None:
    workspace = orders(open_window("birch"))
    row = workspace.table.row
    assert row is not None
    shown = painted_texts(workspace.chosen)
    assert "Backwards it is 1-4-2-6-3-5" in shown
    assert any("4 gets it on its exhaust stroke. A bang in the exhaust." in one for one in shown)


def test_a_field_that_makes_sense_changes_the_engine_at_once(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    workspace = engine_form(window)
    type_into(workspace, "dimensions.bore_mm", "3.5 in")
    assert window.session.state.engine.bore_mm == pytest.approx(88.9)
    stroke = type_into(workspace, "dimensions.stroke_mm", "80")
    # What was typed in inches stays in inches.
    bore = workspace.form.inputs["dimensions.bore_mm"]
    assert isinstance(bore, QLineEdit)
    assert (bore.text(), stroke.text()) == ("3.5 in", "80")
    QTest.mouseClick(workspace.undo, LEFT)
    assert window.session.state.engine.stroke_mm == 84.0
    QTest.mouseClick(workspace.undo, LEFT)
    assert window.session.state.engine == demo_rig("cedar")
    QTest.mouseClick(workspace.redo, LEFT)
    assert window.session.state.engine.bore_mm == pytest.approx(88.9)


@pytest.mark.parametrize(
    ("path", "text", "says"),
    [
        ("dimensions.rod_mm", "20", "must be longer than half the stroke"),
        ("dimensions.bore_mm", "x", "must be a length such as 94"),
        ("dimensions.bore_mm", "99999", "must be from 10 to 2000"),
        ("crank.pins_deg", "0 90 nan 180", "must be a plain number"),
        ("cylinders.throw", "1 2 3 9 1 2 3 4", "cylinder 4 on throw 9"),
        ("cylinders.throw", "1 2 3 3 1 2 3 4", "3 and 4 in one place"),
        ("cylinders.bank", "A A A A B B B C", "which is no bank"),
        ("bank", "A", "must be like A -45 ahead, B 45"),
        ("layout.firing_order", "1-5-4-8-6-2-7-3", "7 cannot follow 2"),
        ("valves.pattern", "EIIE", "one I and one E for each of the 4"),
        ("valves.intake", "7", "2 to 5"),
        ("name", " ", "must not be empty"),
        ("name", "x" * 121, "must be at most 120 characters long"),
        ("mark", "x" * 130 + " 0", "must be at most 120 characters long"),
        ("train.key", "k" * 31, "must be at most 30 characters long"),
        ("mark", "pulley", "must be like pulley 0"),
    ],
)
def test_a_wrong_entry_is_explained_at_its_field(
    open_window: MakeWindow, path: str, text: str, says: str
) -> None:
    window = open_window("cedar")
    workspace = engine_form(window)
    type_into(workspace, path, text)
    form = workspace.form
    assert form.problem is not None
    assert form.problem_path == path
    assert says in str(form.problem)
    assert workspace.drawing.waiting
    window.grab()
    # Typing passes through shorter numbers, so only what is wrong in the end must be refused.
    assert window.session.state.engine.cylinder_count == 8
    good = demo_rig("cedar")
    window.session.open_engine(good, window.session.state.source)
    assert form.problem is None
    assert not workspace.drawing.waiting


def test_one_field_can_need_another(open_window: MakeWindow) -> None:
    workspace = engine_form(open_window("birch"))
    field = type_into(workspace, "rods.masters", "1")
    assert workspace.form.problem_path == "rods.hub_mm"
    assert "must be from 1 to 2000" in str(workspace.form.problem)
    QTest.keyClick(field, Key.Key_Backspace)
    assert workspace.form.problem is None


def test_choices_change_the_engine(open_window: MakeWindow) -> None:
    window = open_window("birch")
    workspace = engine_form(window)
    turns = workspace.form.inputs["layout.rotation"]
    assert isinstance(turns, QComboBox)
    turns.setCurrentIndex(1)
    assert not window.session.state.engine.clockwise_from_front


@pytest.mark.parametrize("words", [words for words, _ in MAKERS])
def test_every_maker_can_be_picked_drawn_and_undone(open_window: MakeWindow, words: str) -> None:
    window = open_window("birch")
    workspace = engine_form(window)
    workspace.make(words)
    window.grab()
    made = window.session.state.engine
    assert made == dict(MAKERS)[words]()
    assert workspace.form.problem is None
    QTest.mouseClick(workspace.undo, LEFT)
    assert window.session.state.engine == demo_rig("birch")


def test_saving_keeps_the_edit_and_the_comments(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("cedar")
    workspace = engine_form(window)
    type_into(workspace, "dimensions.rod_mm", "150")
    answers.path = tmp_path / "mine.engine.toml"
    QTest.mouseClick(workspace.keep, LEFT)
    assert read_engine(answers.path).rod_mm == 150.0
    assert answers.path.read_text(encoding="utf-8").startswith("# Rig Cedar")
    assert not window.session.state.edited
    type_into(workspace, "dimensions.rod_mm", "151")
    QTest.keyClick(window, Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert read_engine(answers.path).rod_mm == 151.0


def test_edits_outlast_a_close(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    type_into(engine_form(window), "dimensions.rod_mm", "150")
    window.close()
    again = open_window()
    assert again.session.state.engine.rod_mm == 150.0
    assert again.session.state.edited
    assert again.session.state.source.rig == "cedar"


def test_the_form_leads_to_the_orders(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    workspace = engine_form(window)
    assert workspace.orders.text() == "See all 8 even orders"
    QTest.mouseClick(workspace.orders, LEFT)
    assert isinstance(window.workspace, OrdersWorkspace)
    assert not window.turn_bar.isVisible()
    QTest.keyClick(window, Key.Key_W)
    assert window.turn_bar.isVisible()
    QApplication.processEvents()


def test_an_order_that_the_coils_cannot_follow_is_shown_and_refused_in_words(
    open_window: MakeWindow,
) -> None:
    """A shared coil needs a companion; the crank may allow an order that leaves one without."""
    window = open_window("whitebeam")
    page = orders(window)
    page.model.shown = Shown.TOGETHER
    page.table.show_model(page.model, None)
    before = window.session.state.engine
    assert before.spark.beyond.waste_spark
    row = next(row for row in page.model.rows() if row.text == "1+4-2-3")
    page.table.show_model(page.model, row.order)
    page.use_order()
    assert "needs companions" in window.note.text
    assert window.session.state.engine == before
