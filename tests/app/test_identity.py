"""Ticks, job and readings belong to one engine; undo shows its page; files get their names."""

from dataclasses import replace
from pathlib import Path

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
CONTROL = Qt.KeyboardModifier.ControlModifier


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


def other_order(window: MainWindow) -> None:
    """Another order is another engine: by the form's own way into the session."""
    window.session.edit(with_order(window.session.state.engine, OTHER), "order")


def test_another_engine_begins_with_empty_work_and_undo_brings_all_back(
    open_window: MakeWindow,
) -> None:
    window = open_window("birch")
    hand = three_ticks(window)
    book = window.session.state.book
    assert book is not None
    other_order(window)
    state = window.session.state
    assert (state.engine.name, ticked(window)) == ("Rig Birch, changed", set())
    assert state.book is not None
    assert state.book.engine.id != book.engine.id
    assert state.book.engine.name == "Rig Birch, changed"
    hand.press("Set")
    assert ticked(window) == {"I1"}
    # A gap and a name keep the engine and its ticks.
    engine = state.engine
    cam = replace(engine.cam, intake=replace(engine.cam.intake, lash_mm=0.3))
    window.session.edit(replace(engine, cam=cam), "lash")
    assert ticked(window) == {"I1"}
    for _ in range(2):
        hand.press("Undo")
    assert ticked(window) == set()
    hand.press("Undo")
    state = window.session.state
    assert (state.engine.name, ticked(window)) == ("Rig Birch", {"I1", "E1", "I2"})
    assert state.book is not None
    assert state.book.engine.id == book.engine.id
    assert state.book.job is not None
    assert len(state.book.job.items) == 3


def test_after_a_restart_each_engine_has_its_own_work(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = three_ticks(window)
    other_order(window)
    hand.press("Set")
    window.close()
    again = open_window()
    state = again.session.state
    assert (state.engine.name, ticked(again)) == ("Rig Birch, changed", {"I1"})
    again.session.undo()  # the draft, taken up again, is one step
    assert (again.session.state.engine.name, ticked(again)) == (
        "Rig Birch",
        {"I1", "E1", "I2"},
    )


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
    page = window.workspace
    assert isinstance(page, BookWorkspace)
    page.begin.click()
    page.model.change("note", note="ticks at idle")
    own = window.session.state.book
    assert window.session.undo_words == "note"
    # Another engine of the book is opened: its own number, its own jobs.
    assert own is not None
    other = replace(own, engine=replace(own.engine, id="another", serial="2"), job=None)
    window.session.put_book(other)
    assert window.session.undo_words == ""
    assert window.session.undo() == ""
    assert not page.undo.isEnabled()
    window.session.put_book(own)
    assert window.session.undo_words == "note"
    hand.press("Undo: note")
    assert window.session.state.book is not None
    assert window.session.state.book.job is not None
    assert window.session.state.book.job.note == ""


# Files --------------------------------------------------------------------------------------------


def test_a_name_without_an_ending_gets_it_and_nothing_is_written_over(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    answers.path = tmp_path / "bench-v6"
    window.opener.choose_and_save_copy()
    assert answers.suggested == "rig-birch.engine.toml"
    saved = tmp_path / "bench-v6.engine.toml"
    assert read_engine(saved) == demo_rig("birch")
    before = saved.read_bytes()
    window.session.edit(replace(window.session.state.engine, bore_mm=90.0))
    window.opener.choose_and_save_copy()
    assert "is there already" in window.note.text
    assert saved.read_bytes() == before
    assert sorted(path.name for path in tmp_path.glob("bench*")) == ["bench-v6.engine.toml"]


def test_another_engine_is_saved_under_its_own_name_without_the_old_ones_words(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    three_ticks(window)
    other_order(window)
    answers.path = tmp_path / "mine.engine.toml"
    window.opener.save()
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
