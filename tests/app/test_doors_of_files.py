"""What somebody else's file does in the window, by hand: books, a damaged book, a sealed engine."""

import sqlite3
from contextlib import closing
from datetime import date
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QRect
from PyQt6.QtWidgets import QApplication

from tests.conftest import Answers, MakeWindow
from tests.files.jobs import filled
from tests.hand import Hand, Key
from tests.painted import painted_texts
from tests.qtest import QTest
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.window.window import MainWindow
from true_compass.bench.scenario import Scenario
from true_compass.bench.tasks import Task
from true_compass.files.book_file import Book
from true_compass.files.rigs import demo_rig
from true_compass.files.sealing import sealed_text

WORD = "oak ash birch elm"
SEED = 271828


def jobs_in(path: Path) -> int:
    if not path.exists():
        return 0
    with closing(Book(path, read_only=True)) as book:
        return len(book.lines())


def opened(window: MainWindow, percent: int) -> Hand:
    window.look.set_text_percent(percent)
    QApplication.processEvents()
    return Hand(window)


@pytest.mark.parametrize("percent", [100, 150])
def test_a_book_that_is_dropped_is_shown_and_comes_in_on_a_press(
    percent: int, open_window: MakeWindow, tmp_path: Path
) -> None:
    other = tmp_path / "from the workshop.tcbook"
    filled(other).close()
    window = open_window("birch")
    hand = opened(window, percent)
    mine = Path(window._keeping.book_path)
    hand.drop(other)
    told = " ".join(painted_texts(window))
    assert "Opened: from the workshop.tcbook" in told
    assert "3 new here" in told
    assert jobs_in(mine) == 0
    hand.press("Leave it")
    assert jobs_in(mine) == 0
    hand.drop(other)
    # The keyboard stands at the press that is meant.
    hand.key(Key.Key_Space)
    assert jobs_in(mine) == 3
    assert "3 jobs added" in window.note.text
    hand.drop(other)
    assert "there is nothing to take in" in " ".join(painted_texts(window))


@pytest.mark.parametrize("percent", [100, 150])
@pytest.mark.parametrize("harm", ["CREATE VIEW v AS SELECT 1", "UPDATE job SET day = 'null'"])
def test_a_damaged_book_still_has_its_window_and_its_copy_is_put_back_by_hand(
    harm: str, percent: int, open_window: MakeWindow, tmp_path: Path
) -> None:
    first = open_window("birch")
    mine = Path(first._keeping.book_path)
    first.close()
    mine.parent.mkdir(parents=True, exist_ok=True)
    book = filled(mine)
    book.db.back_up_of_day(date(2026, 11, 30))
    book.close()
    with closing(sqlite3.connect(mine)) as db:
        db.executescript(f"{harm};")
    window = open_window("birch")
    hand = opened(window, percent)
    hand.key(Key.Key_K)
    hand.press("More")
    hand.press("Books, tables")
    assert window.note.isVisible()
    QTest.qWait(300)
    for door in window.findChildren(DrawnButton):
        if door.objectName().startswith("door_") and door.isVisible():
            box = QRect(door.mapTo(window, QPoint(0, 0)), door.size())
            assert not box.intersects(window.note.geometry()), door.text()
    assert "is damaged" in " ".join(painted_texts(window))
    hand.press("Put book-2026-11-30.tcbook")
    assert "in the place of your book?" in " ".join(painted_texts(window))
    hand.press("Put it in its place")
    assert jobs_in(mine) == 3
    assert len(list(mine.parent.glob("book.damaged-*.tcbook"))) == 1
    hand.press("Job")
    assert "is damaged" not in " ".join(painted_texts(window))


def test_a_book_of_a_newer_program_offers_no_older_copy(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    first = open_window("birch")
    mine = Path(first._keeping.book_path)
    first.close()
    mine.parent.mkdir(parents=True, exist_ok=True)
    book = filled(mine)
    book.db.back_up_of_day(date(2026, 11, 30))
    book.close()
    with closing(sqlite3.connect(mine)) as db:
        db.execute("PRAGMA user_version = 9")
    hand = opened(open_window("birch"), 100)
    hand.key(Key.Key_K)
    told = " ".join(painted_texts(hand.window))
    assert "newer version" in told
    assert "puts it in its place" not in told


@pytest.mark.parametrize("percent", [100, 150])
def test_a_sealed_engine_tells_its_number_nowhere(
    percent: int, open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    path = tmp_path / "sealed.scenario.toml"
    scenario = Scenario(demo_rig("birch"), Task.TDC, 1, seed=SEED, rig="birch")
    path.write_text(sealed_text(scenario, WORD), encoding="utf-8")
    window = open_window("cedar")
    hand = opened(window, percent)
    answers.words = [WORD]
    hand.drop(path)
    told = " ".join(painted_texts(window))
    assert "compression TDC" in told
    assert str(SEED) not in told
    hand.key(Key.Key_Right)
    assert str(SEED) not in " ".join(painted_texts(window))
    for kept in Path(window._keeping.runs_folder).parent.rglob("*"):
        if kept.is_file():
            assert str(SEED).encode() not in kept.read_bytes(), kept.name
