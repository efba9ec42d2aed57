"""Ticks, job and readings belong to one engine; undo shows its page; files get their names."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt

from tests.conftest import Answers, MakeWindow
from tests.hand import Hand, Key
from true_compass.app.keeping.opener import FILTER
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.book.workspace import BookWorkspace
from true_compass.core.changes import with_order
from true_compass.core.identity import is_same_engine
from true_compass.files.engine_file import read_engine
from true_compass.files.rigs import demo_rig
from true_compass.session.work import deed_name

OTHER = ((1,), (2,), (4,), (6,), (5,), (3,))
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def ticked(window: MainWindow) -> set[str]:
    return {deed_name(deed) for deed in window.session.state.work.done}


def three_ticks(window: MainWindow) -> Hand:
    hand = Hand(window)
    hand.key(Key.Key_S)
    hand.press("Do it")
    for _ in range(3):
        hand.press("Set")
    assert ticked(window) == {"I1", "E1", "I2"}
    return hand


def five_cylinders(hand: Hand) -> None:
    """Another count is another engine, made new."""
    hand.press("Engine")
    hand.press("5")


def other_order(hand: Hand) -> None:
    """Another order is another engine, made out of this one."""
    hand.press("Engine")
    hand.press("All figures")
    hand.fill("Firing order", "1-2-4-6-5-3")


@pytest.mark.parametrize(
    ("become_another", "name", "page"),
    [
        (five_cylinders, "Inline five", "By hand"),
        (other_order, "Rig Birch, changed", "All figures"),
    ],
)
def test_another_engine_begins_with_empty_work_and_undo_brings_all_back(
    open_window: MakeWindow, become_another: Callable[[Hand], None], name: str, page: str
) -> None:
    window = open_window("birch")
    hand = three_ticks(window)
    book = window.session.state.book
    assert book is not None
    become_another(hand)
    state = window.session.state
    assert window.windowTitle().startswith(name)
    assert ticked(window) == set()
    assert state.book is not None
    assert state.book.engine.id != book.engine.id
    assert state.book.engine.name == name
    hand.press("Stops")
    hand.press("Set")
    assert ticked(window) == {"I1"}
    # A gap keeps the engine and its ticks.
    hand.press("Engine")
    if page == "All figures":
        hand.press("By hand")
    hand.fill("I lash, mm", "0.3")
    assert window.session.state.engine.cam.intake.lash_mm == 0.3
    assert ticked(window) == {"I1"}
    hand.press("Undo")
    assert (window.pages.entry.word, ticked(window)) == ("Engine", {"I1"})
    hand.press("Undo")
    assert (window.workspace.page, ticked(window)) == ("Do it", set())
    hand.press("Undo")
    assert (window.pages.entry.word, window.workspace.page) == ("Engine", page)
    assert window.windowTitle().startswith("Rig Birch –")
    assert ticked(window) == {"I1", "E1", "I2"}
    state = window.session.state
    assert state.book is not None
    assert state.book.engine.id == book.engine.id
    assert state.book.job is not None
    assert len(state.book.job.items) == 3


def test_after_a_restart_each_engine_has_its_own_work(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = three_ticks(window)
    five_cylinders(hand)
    hand.press("Stops")
    hand.press("Set")
    window.close()
    again = open_window()
    assert again.windowTitle().startswith("Inline five")
    assert ticked(again) == {"I1"}
    # The draft, taken up again, is one step.
    hand = Hand(again)
    hand.key(Key.Key_E)
    hand.press("Undo")
    assert again.windowTitle().startswith("Rig Birch –")
    assert ticked(again) == {"I1", "E1", "I2"}


def test_what_is_only_set_or_named_is_the_same_engine() -> None:
    birch = demo_rig("birch")
    same = replace(
        birch,
        name="Workshop six",
        bore_mm=90.0,
        cam=replace(birch.cam, exhaust=replace(birch.cam.exhaust, opens_before_deg=60.0)),
        train=replace(birch.train, torque_nm=30.0),
    )
    assert is_same_engine(birch, same)
    assert not is_same_engine(birch, with_order(birch, OTHER))
    assert not is_same_engine(birch, demo_rig("alder"))


def test_undo_shows_the_page_that_a_step_was_made_on(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = three_ticks(window)
    hand.press("Engine")
    assert window.pages.entry.word == "Engine"
    hand.key(Key.Key_Z, CONTROL)
    assert (window.pages.entry.word, window.workspace.page) == ("Stops", "Do it")
    assert ticked(window) == {"I1", "E1"}


def test_a_step_of_another_engine_of_the_book_is_not_offered_and_not_lost(
    open_window: MakeWindow,
) -> None:
    window = open_window("birch")
    hand = Hand(window)
    hand.press("Book")
    hand.press("New job")
    hand.enter("0.25")
    hand.press("Facts")
    hand.fill("Number of this engine", "3")
    hand.fill("Note", "ticks at idle")
    assert window.session.undo_words == "note"
    # Another engine of the book: its own number, its own jobs.
    hand.fill("Number of this engine", "4")
    assert "number 4" in window.note.text
    assert window.session.undo_words == ""
    hand.press("Job")
    hand.key(Key.Key_Z, CONTROL)
    assert "Undone" not in window.note.text
    hand.press("Facts")
    hand.fill("Number of this engine", "3")
    hand.press("Undo: note")
    page = window.workspace
    assert isinstance(page, BookWorkspace)
    assert page.model.job is not None
    assert page.model.job.note == ""
    assert len(page.model.job.items) == 1


# Files --------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["bench-v6", "bench 2.0", "rev.3b six"])
def test_a_name_without_an_ending_gets_it_and_nothing_is_written_over(
    open_window: MakeWindow, answers: Answers, tmp_path: Path, name: str
) -> None:
    window = open_window("birch")
    hand = Hand(window)
    hand.press("Engine")
    answers.path = tmp_path / name
    hand.key(Key.Key_S, CONTROL | SHIFT)
    assert answers.suggested == "rig-birch.engine.toml"
    saved = tmp_path / f"{name}.engine.toml"
    assert read_engine(saved) == demo_rig("birch")
    before = saved.read_bytes()
    hand.fill("Bore, mm", "90")
    hand.key(Key.Key_S, CONTROL | SHIFT)
    assert "is there already" in window.note.text
    assert saved.read_bytes() == before
    assert list(tmp_path.glob(f"{name}*")) == [saved]


def test_another_engine_is_saved_under_its_own_name_without_the_old_ones_words(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    hand = three_ticks(window)
    other_order(hand)
    answers.path = tmp_path / "mine.engine.toml"
    hand.key(Key.Key_S, CONTROL)
    assert answers.suggested == "rig-birch-changed.engine.toml"
    text = answers.path.read_text("utf-8")
    assert not text.startswith("#")
    assert "Rig Birch: an inline six" not in text
    assert read_engine(answers.path).name == "Rig Birch, changed"
    # The file that it came from keeps its own engine: a second save asks again, elsewhere.
    state = window.session.state
    assert (state.opened.changed, state.source.path) == ("", answers.path)


def test_open_lists_all_that_opens() -> None:
    for ending in ("*.engine.toml", "*.scenario.toml", "*.lesson.toml", "*.tcbook", "(*)"):
        assert ending in FILTER
