"""What a hand that sees only the screen gets done, and in how few actions.

An action is one click, one drag, one key, or one field typed into.
"""

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt

from tests.conftest import Answers, MakeWindow
from tests.hand import Hand
from tests.painted import painted_texts
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.lessons.workspace import LessonsWorkspace
from true_compass.app.workspaces.orders.workspace import OrdersWorkspace
from true_compass.files.course import shipped_lesson
from true_compass.files.lesson_file import lesson_text
from true_compass.files.rigs import demo_rig, rig_names

Key = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


class Counting(Hand):
    """A hand whose actions are counted; typing into a field is one."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.actions = 0

    def press(self, words: str) -> None:
        self.actions += 1
        super().press(words)

    def write_here(self, text: str) -> None:
        """Type where the keyboard was left."""
        self.actions += 1
        self.type(text)

    def hit(self, key: Qt.Key) -> None:
        """One key."""
        self.actions += 1
        self.key(key)


# Engine and Orders ---------------------------------------------------------------------------


def test_an_inline_five_from_its_order(open_window: MakeWindow) -> None:
    window = open_window()
    hand = Counting(window)
    hand.press("New engine")
    hand.write_here("inline five 1-3-5-4-2")
    hand.hit(Key.Key_Return)
    engine = window.session.state.engine
    assert (engine.order_text, engine.layout_words) == ("1-3-5-4-2", "inline five")
    assert engine.fires_evenly
    assert hand.actions <= 8


def test_a_v_six_from_its_order_on_the_crank_that_is_meant(open_window: MakeWindow) -> None:
    window = open_window()
    hand = Counting(window)
    hand.press("New engine")
    hand.write_here("V6 90° 1-2-3-4-5-6")
    hand.press("Crank 0/120/240, gaps 90 and 150°: use it")
    engine = window.session.state.engine
    assert engine.order_text == "1-2-3-4-5-6"
    assert sorted({round(gap) for gap in engine.intervals_deg}) == [90, 150]
    assert hand.actions <= 8
    # One step of undo brings the engine back that was open.
    hand.key(Key.Key_Z, CTRL)
    assert window.session.state.engine.order_text != "1-2-3-4-5-6"


def test_a_line_that_makes_no_sense_says_so_and_changes_nothing(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = Hand(window)
    hand.key(Key.Key_Home)
    hand.press("New engine")
    before = window.session.state.engine
    hand.type("V6 1-2-3")
    told = " ".join(painted_texts(window.workspace.hand.pad))  # type: ignore[attr-defined]
    assert "names 3 cylinders, and the layout has 6" in told
    hand.key(Key.Key_Return)
    assert window.session.state.engine is before


def test_a_very_uneven_engine_gets_no_tick_and_is_made_even_in_one_press(
    open_window: MakeWindow,
) -> None:
    window = open_window("willow")
    hand = Hand(window)
    workspace = orders_of(hand)
    # Both of its turns hold three: the row with the gaps of 30, 90 and 390 is chosen and used.
    row = next(n for n, row in enumerate(workspace.model.rows()) if max(row.intervals_deg) == 390)
    by = row - workspace.table.chosen
    for _ in range(abs(by)):
        hand.key(Key.Key_Down if by > 0 else Key.Key_Up)
    assert workspace.table.chosen == row
    hand.press("Use this order")
    order = window.session.state.engine.order_text
    hand.key(Key.Key_E)
    told = painted_texts(window.workspace.hand)  # type: ignore[attr-defined]
    assert "Firing is uneven: gaps of 30°, 90°, 390°." in told
    hand.press("Make it even")
    assert window.session.state.engine.order_text == order
    assert window.session.state.engine.fires_evenly


def orders_of(hand: Hand) -> OrdersWorkspace:
    hand.key(Key.Key_O)
    workspace = hand.window.workspace
    assert isinstance(workspace, OrdersWorkspace)
    return workspace


def test_an_order_of_the_mirrored_crank_mirrors_it_and_is_undone(open_window: MakeWindow) -> None:
    window = open_window("linden")
    hand = Hand(window)
    workspace = orders_of(hand)
    hand.click(workspace.field)
    hand.type("1-3-5-4-2")
    hand.press("On the mirrored crank")
    hand.press("Mirror the crank, use this order")
    assert window.session.state.engine.order_text == "1-3-5-4-2"
    # The keyboard has left the field: Ctrl+Z takes the order back, as the note says.
    hand.key(Key.Key_Z, CTRL)
    assert window.session.state.engine.order_text == "1-2-4-5-3"


def test_the_nearest_order_is_that_with_the_fewest_changes(open_window: MakeWindow) -> None:
    hand = Hand(open_window("birch"))
    workspace = orders_of(hand)
    hand.click(workspace.field)
    hand.type("1-5-3-2-6-4")
    verdict = workspace.verdict.verdict
    assert verdict is not None
    changes = [
        sum(a != b for a, b in zip(order, (1, 5, 3, 2, 6, 4), strict=True))
        for order in (row.order for row in workspace.model._all_rows(together=False))
    ]
    nearest = verdict.nearest[0]
    assert sum(a != b for a, b in zip(nearest, (1, 5, 3, 2, 6, 4), strict=True)) == min(changes)


@pytest.mark.parametrize("name", [n for n in rig_names() if len(demo_rig(n).firing_order) > 3])
def test_the_order_to_take_instead_is_read_whole(open_window: MakeWindow, name: str) -> None:
    """Two cylinders of the order have changed places, in large print."""
    window = open_window(name)
    window.look.set_text_percent(150)
    hand = Hand(window)
    workspace = orders_of(hand)
    order = list(map(str, window.session.state.engine.firing_order))
    order[2:4] = reversed(order[2:4])
    hand.click(workspace.field)
    hand.type("-".join(order))
    verdict = workspace.verdict.verdict
    assert verdict is not None
    offered = (
        (workspace.nearest, verdict.nearest[0] if verdict.nearest else ()),
        (workspace.on_mirrored, verdict.mirrored),
    )
    for button, instead in offered:
        assert button.isVisible() == bool(instead)
        if instead:
            assert "-".join(map(str, instead)) in painted_texts(button)


def test_rows_of_one_order_say_how_they_differ(open_window: MakeWindow) -> None:
    hand = Hand(open_window("maple"))
    workspace = orders_of(hand)
    same = [row for row in workspace.model.rows() if row.text == "1-3-4-2"]
    assert len(same) == 4
    assert len({row.turns for row in same}) == 4
    shown = painted_texts(workspace.table)
    assert {"1-3-4, then 2", "1-3, then 4-2"} <= set(shown)


# Lessons and class ---------------------------------------------------------------------------


def lessons_of(hand: Hand) -> LessonsWorkspace:
    hand.key(Key.Key_L)
    workspace = hand.window.workspace
    assert isinstance(workspace, LessonsWorkspace)
    return workspace


def take_the_test(hand: Hand, path: Path, name: str, *, rightly: bool) -> LessonsWorkspace:
    """Open the file, type a name, click an answer and press Enter, to the end."""
    assert hand.drop(path)
    page = hand.window.workspace
    assert isinstance(page, LessonsWorkspace)
    hand.key(Key.Key_A, CTRL)
    hand.enter(name)
    for nth in range(1, 6):
        on = page.model.on
        assert on is not None
        assert f"{path.name.partition('.')[0]}, {name}  {nth} of 5" in painted_texts(page.learn)
        right = on.drill.answer(on.asked)
        button = next(b for b in page.learn.answer.options if (b.option.value == right) is rightly)
        hand.click(button)
        hand.key(Key.Key_Return)
        assert page.model.on is not None
        assert page.model.on.judged is not None, "Enter answers the question"
        hand.key(Key.Key_Return)
    assert page.model.on is not None
    assert page.model.on.over
    return page


def test_a_lesson_is_made_handed_out_taken_by_two_and_its_marks_are_read(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    hand = Counting(window)
    answers.path = tmp_path / "Friday test.lesson.toml"
    hand.hit(Key.Key_L)
    hand.press("Make")
    page = window.workspace
    assert isinstance(page, LessonsWorkspace)
    hand.actions += 1
    hand.write(page.make.title, "Friday test")
    hand.press("Add a drill")
    hand.write_here("stroke")
    hand.hit(Key.Key_Return)
    hand.actions += 1
    hand.write(page.make.count, "5")
    hand.actions += 1
    hand.write(page.make.passed, "3")
    hand.press("Hand out…")
    assert hand.actions <= 9
    assert answers.path.exists()
    # Two students, one after the other, on the same machine.
    page = take_the_test(hand, answers.path, "Ines", rightly=True)
    over = painted_texts(page.learn)
    assert "5 of 5 marks" in over
    assert "Passed: 3 were needed" in over
    assert any(words.startswith("Handed in as friday-test-ines") for words in over)
    assert page.learn.more.text() == "Hand in again: Enter"
    hand.press("All lessons")
    assert any(one.title == "Friday test" for one in page.model.remembered.handed())
    assert "Friday test" in painted_texts(page.list)
    assert "all answered" in painted_texts(page.list)
    take_the_test(hand, answers.path, "Hugo", rightly=False)
    assert "Not passed: 3 are needed" in painted_texts(page.learn)
    hand.press("All lessons")
    hand.press("Class")
    wanted = {"Ines", "Hugo", "Friday test", "5 of 5", "passed", "not passed"}
    told = painted_texts(page.class_page)
    for _ in range(100):
        if wanted <= set(told):
            break
        QTest.qWait(100)
        told = painted_texts(page.class_page)
    assert wanted <= set(told)
    assert not any("Nobody" in words for words in told)


def test_why_a_lesson_cannot_go_out_is_read_in_large_print(open_window: MakeWindow) -> None:
    """A drill about posts on an engine without a distributor: the reason, and the way out."""
    window = open_window("hickory")
    window.look.set_text_percent(150)
    hand = Hand(window)
    hand.key(Key.Key_L)
    hand.press("Make")
    page = window.workspace
    assert isinstance(page, LessonsWorkspace)
    for drill in ("stroke", "between two posts"):
        hand.press("Add a drill")
        hand.type(drill)
        hand.key(Key.Key_Return)
    assert "Part 2: Rig Hickory has no distributor." in painted_texts(page.make)
    for words in ("all the same", "own questions", "Drop part 2"):
        hand.press(words)
    assert page.make.hand_out.text() == "Hand out…"
    assert page.make.try_it.isVisible()


def test_a_test_is_left_only_when_it_was_meant_and_goes_on_from_the_list(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    hand = Hand(window)
    lesson = replace(shipped_lesson("two-tdcs"), id="friday", title="Friday")
    path = tmp_path / "Friday.lesson.toml"
    path.write_text(lesson_text(lesson), encoding="utf-8")
    assert hand.drop(path)
    page = window.workspace
    assert isinstance(page, LessonsWorkspace)
    assert "Your name, it goes to your instructor:" in painted_texts(page.learn)
    hand.enter("Ines")
    hand.key(Key.Key_Return)
    place = page.model.on.place if page.model.on is not None else 0
    assert place == 1
    hand.key(Key.Key_Escape)
    assert page.model.on is not None, "it asks first"
    hand.press("Leave it unfinished?")
    assert page.model.on is None
    # From the list it goes on where it was; it asks whose it is again.
    row = page.list.row_box(0).center() * page.list.look.scale
    hand.click(page.list, QPointF(row))
    hand.key(Key.Key_Return)
    assert page.model.on is not None
    assert (page.model.on.place, page.model.on.person.name) == (place, "Ines")


def test_a_guided_lesson_goes_on_where_it_was_left(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = Hand(window)
    page = lessons_of(hand)
    first = QPointF(page.list.row_box(0).center() * page.list.look.scale)
    hand.click(page.list, first)
    for _ in range(3):
        hand.key(Key.Key_Return)
    assert page.model.on is not None
    place = page.model.on.place
    hand.key(Key.Key_Escape)
    assert page.model.on is None
    hand.click(page.list, first)
    assert page.model.on is not None
    assert page.model.on.place == place == 3
    # What is typed is the question's, though the list was clicked last.
    hand.key(Key.Key_Return)
    assert page.model.on.lesson.title == "The four strokes"
