"""A book that was damaged, or made to do harm: told in plain lines, and a whole copy offered."""

import json
import shutil
import sqlite3
from collections.abc import Callable
from contextlib import closing, suppress
from datetime import date
from pathlib import Path

import pytest

from tests.files.jobs import filled
from true_compass.cli.main import run
from true_compass.files.book_db import BookError
from true_compass.files.book_file import Book
from true_compass.session.book_keeper import BookKeeper
from true_compass.session.store import Troubles

ENDLESS = "WITH RECURSIVE n (x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT x, x, x FROM n"
DAMAGE = {
    "day": "UPDATE job SET day = 'null' WHERE id = 'j-0'",
    "clock": "UPDATE job SET clock = -9e999 WHERE id = 'j-0'",
    "head": "UPDATE job SET head = '{' WHERE id = 'j-0'",
    "deep": f"UPDATE job SET head = '{'[' * 9000}' WHERE id = 'j-0'",
    "surrogate": """UPDATE job SET head = '{"note":"\\ud800"}' WHERE id = 'j-0'""",
    "versions": "UPDATE job SET versions = '[1]' WHERE id = 'j-0'",
    "more": "UPDATE item SET more = '[]' WHERE job_id = 'j-0'",
    "name": "UPDATE item SET name = name || 'x' WHERE job_id = 'j-0' AND name = 'I1'",
    "gap": "UPDATE item SET found_low = -1e300 WHERE job_id = 'j-0'",
    "engine": "DELETE FROM engine",
    "copy": "UPDATE engine_copy SET value = '{'",
    "hand": "INSERT INTO hand_test VALUES ('h', 'p-joel', 'null', 0.05, '[[1]]')",
    "heat": "INSERT INTO hot_cold VALUES ('h', 'e', 'intake', 0.1, NULL, 'x')",
    "version": "PRAGMA user_version = -1",
    "view": f"DROP TABLE drawer; CREATE VIEW drawer AS {ENDLESS}",
    "trigger": "CREATE TRIGGER t AFTER INSERT ON job BEGIN DELETE FROM item; END",
    "table": "CREATE TABLE more (x)",
    "index": "DROP INDEX job_of_engine",
}
OPENS = {"day", "clock", "head", "deep", "surrogate", "versions", "more", "name", "gap", "engine"}
OPENS |= {"copy", "hand", "heat"}


@pytest.fixture
def path(tmp_path: Path) -> Path:
    """A whole book, with a copy of its day beside it."""
    path = tmp_path / "b.tcbook"
    book = filled(path)
    book.db.back_up_of_day(date(2026, 11, 30))
    book.close()
    return path


def harm(path: Path, what: str) -> None:
    with closing(sqlite3.connect(path)) as db:
        db.executescript(f"PRAGMA ignore_check_constraints = ON; {DAMAGE[what]};")


@pytest.mark.parametrize("what", DAMAGE)
def test_check_tells_it_in_a_line_and_names_the_newest_whole_copy(
    what: str, path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    harm(path, what)
    assert run(["book", "check", "--book", str(path), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert len(told["problems"]) >= 2
    assert all("\n" not in line for line in told["problems"])
    assert "b-2026-11-30.tcbook" in told["problems"][-1]
    assert told["jobs"] > 0 or what not in OPENS


@pytest.mark.parametrize("what", DAMAGE)
def test_the_rest_of_a_damaged_book_goes_on_and_a_copy_takes_its_place(
    what: str, path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    harm(path, what)
    told: list[str] = []
    troubles = Troubles()
    troubles.listen(told.append)
    keeper = BookKeeper(path, troubles)
    lines = keeper.lines("e-birch-3")
    keeper.entries("e-birch-3")
    keeper.hand("Joel R.")
    for line in lines:
        keeper.job(line.id)
    assert len(lines) >= 2 or what not in OPENS
    keeper.close()
    assert run(["book", "put-back", "--book", str(path)]) == 0
    assert "is kept as b.damaged-" in capsys.readouterr().out
    with closing(Book(path)) as book:
        assert not book.check()
        assert len(book.lines()) == 3
    assert run(["book", "put-back", "--book", str(path)]) == 2
    assert "is whole: nothing was done" in capsys.readouterr().err


def test_any_flipped_byte_of_the_first_page_is_told(path: Path) -> None:
    with closing(Book(path)) as book:
        book.db.sweep()
    whole = path.read_bytes()
    for at in range(0, 4096, 97):
        path.write_bytes(whole[:at] + bytes([whole[at] ^ 0x55]) + whole[at + 1 :])
        for name in ("-wal", "-shm"):
            path.with_name(path.name + name).unlink(missing_ok=True)
        # Whatever it does to the book, it is sound, or told in its own error: nothing else comes.
        with suppress(BookError), closing(Book(path, read_only=True)) as book:
            assert all("\n" not in line for line in book.check())
            book.lines()


@pytest.mark.parametrize("name", ["newer", "another"])
def test_what_is_refused_is_not_touched_nor_anything_put_beside_it(
    name: str, tmp_path: Path, path: Path
) -> None:
    folder = tmp_path / "alone"
    folder.mkdir()
    other = folder / "other.tcbook"
    with closing(Book(path)) as book:
        book.db.sweep()
    shutil.copy(path, other)
    line = "PRAGMA user_version = 9" if name == "newer" else "PRAGMA application_id = 7"
    with closing(sqlite3.connect(other)) as db:
        db.execute(line)
        db.execute("PRAGMA journal_mode = DELETE")
        db.execute("PRAGMA journal_mode = WAL")
    before = other.read_bytes()
    with pytest.raises(BookError, match="not touched"):
        Book(other)
    assert [entry.name for entry in folder.iterdir()] == [other.name]
    assert other.read_bytes() == before


def test_a_question_without_end_is_given_up(path: Path) -> None:
    with closing(Book(path)) as book, pytest.raises(BookError, match="has no end"):
        book.db.rows(f"{ENDLESS} LIMIT -1 OFFSET 9000000000")


def test_a_table_comes_in_whole_or_not_at_all_and_says_why(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    table, book = tmp_path / "t.csv", tmp_path / "new.tcbook"
    head = "job,date,hours,person,item,found_mm,left_mm,note,fact,value"

    def take(line: str) -> str:
        table.write_text(f"{head}\n1,2026-01-02,,,I1,0.25,0.25,,,\n{line}\n", encoding="utf-8")
        words = ["book", "add", str(table), "--book", str(book), "--engine", "birch"]
        assert run(words) == 2
        return capsys.readouterr().err

    unknown = "2,2026-01-03,,,,,,,engine_id,nobody"
    for line, told in {
        unknown: "Nothing of the table was taken",
        '2,2026-01-03,,,,,,,put_back,"[""\\ud800""]"': "put_back",
        f"2,2026-01-03,,,,,,,temperature_c,{'9' * 400}": "temperature_c",
        "2,2026-01-03,,,I1,0.25,x,,,": "left_mm in line 3",
        "2,2026-01-03,,,,,,,ori\x1b[2J,{": r"fact ori\x1b[2J in line 3",
    }.items():
        assert told in take(line)
        with closing(Book(book)) as made:
            assert not made.lines()
            assert not made.engines()


def _spy(calls: list[int]) -> Callable[[int, int], bool]:
    def tell(done: int, _of: int) -> bool:
        calls.append(done)
        return len(calls) < 2

    return tell


def test_what_lasts_can_be_stopped_and_then_nothing_was_done(path: Path, tmp_path: Path) -> None:
    from true_compass.files.book_exchange import coming_from, merge_in, write_out

    with closing(Book(path)) as book:
        before = book.digests()
        for name in ("a.csv", "a.xlsx"):
            with pytest.raises(BookError, match="Stopped: nothing was written"):
                write_out(book, tmp_path / name, tell=_spy([]))
            assert not (tmp_path / name).exists()
    mine = tmp_path / "mine.tcbook"
    with closing(Book(mine)) as book:
        with pytest.raises(BookError, match="Stopped"):
            merge_in(book, path, {}, _spy([]))
        assert not book.digests()
        coming = coming_from(mine, path)
        assert (coming.merged.added, coming.adds) == (3, True)
        assert not book.digests()
        merge_in(book, path, {}, lambda _done, _of: True)
        assert book.digests() == before
    assert not coming_from(mine, path).adds
    with pytest.raises(BookError, match="your own book"):
        coming_from(path, path)
