"""The book on the disk: kept whole, shared, refused where it must be, copied, merged."""

import os
import sqlite3
import stat
from dataclasses import replace
from datetime import date
from pathlib import Path

import pytest

from tests.files.jobs import JOEL, MINA, NOW, book_engine, filled, full_job
from true_compass.book.job import BookEngine, ItemRecord, Measure
from true_compass.core.items import item_named
from true_compass.files.book_db import VERSION, BookError, StoppedError
from true_compass.files.book_file import Book
from true_compass.files.book_learnt import HandTest, HotCold
from true_compass.files.book_merge import merge
from true_compass.files.engine_values import values_of_engine

LATER = "2026-11-12T11:00:00+00:00"
I1 = item_named("I1")


def test_a_job_comes_back_as_it_was_written(tmp_path: Path) -> None:
    book = filled(tmp_path / "b.tcbook", 1)
    job = full_job("j-0", date(2026, 1, 1))
    assert book.job("j-0") == job
    book.close()
    again = Book(tmp_path / "b.tcbook")
    assert again.job("j-0") == job
    assert again.engine_values(job.engine_digest) == values_of_engine(book_engine()[1])
    (line,) = again.lines()
    assert (again.counts([line.id]), line.person) == ({"j-0": (1, 12)}, "Joel R.")
    assert again.check() == []
    # A trend sees the last reading of an item, after the nut.
    (entry,) = again.entries(job.engine_id)
    assert entry == job.entry()


def test_it_is_written_so_that_a_power_cut_loses_nothing(tmp_path: Path) -> None:
    book = filled(tmp_path / "b.tcbook", 1)
    assert book.db.rows("PRAGMA journal_mode") == [("wal",)]
    assert book.db.rows("PRAGMA synchronous") == [(2,)]
    tables = book.db.rows("SELECT name, strict FROM pragma_table_list WHERE schema = 'main'")
    assert {strict for name, strict in tables if not name.startswith("sqlite")} == {1}


def test_two_windows_at_one_job_keep_each_others_entries(tmp_path: Path) -> None:
    one = filled(tmp_path / "b.tcbook", 1)
    two = Book(tmp_path / "b.tcbook")
    first, second = one.job("j-0"), two.job("j-0")
    assert first is not None
    assert second is not None
    seen = one.db.data_version
    two.write_job(second, second.with_item(I1, ItemRecord(Measure.mm(0.21))), LATER)
    assert one.db.data_version != seen
    other = item_named("I2")
    one.write_job(first, first.with_item(other, ItemRecord(Measure.mm(0.22))), LATER)
    now = one.job("j-0")
    assert now is not None
    assert (now.record(I1).found, now.record(other).found) == (Measure.mm(0.21), Measure.mm(0.22))


def test_an_entry_that_is_taken_away_goes(tmp_path: Path) -> None:
    book = filled(tmp_path / "b.tcbook", 1)
    job = book.job("j-0")
    assert job is not None
    more = job.with_item(I1, ItemRecord(Measure.mm(0.2)))
    book.write_job(job, more, LATER)
    book.write_job(more, job, LATER)
    assert book.job("j-0") == job
    book.drop_job("j-0")
    assert (book.lines(), book.job("j-0")) == ([], None)


FIXTURES = Path(__file__).parents[1] / "fixtures" / "book"


@pytest.mark.parametrize("version", range(1, VERSION + 1))
def test_a_book_of_every_version_still_opens(version: int, tmp_path: Path) -> None:
    """Each fixture is a book as that version wrote it, as text; its jobs are those of `filled`."""
    path = tmp_path / "old.tcbook"
    with sqlite3.connect(path) as db:
        db.executescript((FIXTURES / f"v{version}.sql").read_text(encoding="utf-8"))
        db.execute(f"PRAGMA user_version = {version}")
        db.execute("PRAGMA application_id = 0x54434231")
    db.close()
    book, fresh = Book(path), filled(tmp_path / "new.tcbook")
    assert book.check() == []
    assert book.digests() == fresh.digests()
    assert book.db.rows("PRAGMA user_version") == [(VERSION,)]
    tables = "SELECT sql FROM sqlite_master WHERE sql IS NOT NULL ORDER BY name"
    assert book.db.rows(tables) == fresh.db.rows(tables)


def test_an_older_book_that_is_only_looked_at_stays_as_it_is(tmp_path: Path) -> None:
    path, fresh = tmp_path / "old.tcbook", filled(tmp_path / "new.tcbook")
    with sqlite3.connect(path) as db:
        db.executescript((FIXTURES / "v1.sql").read_text(encoding="utf-8"))
        db.execute("PRAGMA user_version = 1")
        db.execute("PRAGMA application_id = 0x54434231")
    db.close()
    book = Book(path, read_only=True)
    assert book.db.version == 1
    assert book.digests() == fresh.digests()
    ids = [line.id for line in book.lines()]
    assert book.counts(ids) == fresh.counts(ids)
    book.close()
    assert merge(fresh, path).same == len(ids)


# What is refused ---------------------------------------------------------------------------------


def test_a_newer_book_a_foreign_database_and_other_files_are_left_as_they_are(
    tmp_path: Path,
) -> None:
    newer = tmp_path / "newer.tcbook"
    filled(newer).close()
    with sqlite3.connect(newer) as db:
        db.execute(f"PRAGMA user_version = {VERSION + 1}")
    db.close()
    foreign = tmp_path / "foreign.tcbook"
    with sqlite3.connect(foreign) as db:
        db.execute("CREATE TABLE t (a)")
    db.close()
    text = tmp_path / "text.tcbook"
    text.write_text("not a book at all, " * 100)
    for path, words in ((newer, "newer version"), (foreign, "is no book"), (text, "is no book")):
        before = path.read_bytes()
        with pytest.raises(BookError, match=words):
            Book(path)
        assert path.read_bytes() == before
    (tmp_path / "folder.tcbook").mkdir()
    with pytest.raises(BookError, match="ordinary file"):
        Book(tmp_path / "folder.tcbook")


@pytest.mark.skipif(os.geteuid() == 0, reason="root writes everywhere")
def test_a_read_only_folder_explains_itself(tmp_path: Path) -> None:
    filled(tmp_path / "b.tcbook").close()
    tmp_path.chmod(stat.S_IREAD | stat.S_IEXEC)
    try:
        _refuses_to_write(Book(tmp_path / "b.tcbook"))
    finally:
        tmp_path.chmod(0o755)


def test_a_book_for_looking_only_explains_itself(tmp_path: Path) -> None:
    filled(tmp_path / "b.tcbook").close()
    _refuses_to_write(Book(tmp_path / "b.tcbook", read_only=True))


def _refuses_to_write(book: Book) -> None:
    assert len(book.lines()) == 3
    with pytest.raises(BookError, match="Copy the book to a folder of your own"):
        book.write_job(None, full_job("new"), NOW)
    assert len(book.lines()) == 3
    book.close()


def test_a_full_disk_is_told_and_nothing_is_half_written(tmp_path: Path) -> None:
    book = filled(tmp_path / "b.tcbook", 1)
    pages = book.db.rows("PRAGMA page_count")[0][0]
    book.db.rows(f"PRAGMA max_page_count = {pages}")
    job = book.job("j-0")
    assert job is not None
    large = replace(full_job("large"), note="x" * 100_000)
    with pytest.raises(BookError, match=r"no room.*what was typed is still here"):
        book.write_job(None, large, NOW)
    book.db.rows("PRAGMA max_page_count = 1000000")
    count = len(book.lines())
    book.write_job(job, job.with_item(I1, ItemRecord(Measure.mm(0.2))), LATER)
    assert book.check() == []
    assert len(book.lines()) == count


def test_a_damaged_job_is_named(tmp_path: Path) -> None:
    book = filled(tmp_path / "b.tcbook", 2)
    with book.db.writing("a test"):
        book.db.do("UPDATE job SET head = ? WHERE id = 'j-1'", '{"pumped": "maybe"}')
    (told,) = book.check()
    assert "j-1" in told
    assert "pumped" in told or "makes no sense" in told


# Copies ------------------------------------------------------------------------------------------


def test_copies_are_whole_and_kept_a_week(tmp_path: Path) -> None:
    book = filled(tmp_path / "b.tcbook")
    book.db.copy_to(tmp_path / "copy.tcbook")
    copy = Book(tmp_path / "copy.tcbook")
    assert copy.digests() == book.digests()
    copy.close()
    for day in range(1, 12):
        book.db.back_up_of_day(date(2026, 3, day))
        book.db.back_up_of_day(date(2026, 3, day))
    kept = sorted(path.name for path in (tmp_path / "backups").iterdir())
    assert kept == [f"b-2026-03-{day:02}.tcbook" for day in range(5, 12)]


# Merging -----------------------------------------------------------------------------------------


def stick(tmp_path: Path) -> tuple[Book, Path]:
    """A book, and a copy of it on a stick."""
    book = filled(tmp_path / "a.tcbook")
    book.db.copy_to(tmp_path / "b.tcbook")
    return book, tmp_path / "b.tcbook"


def change(book: Book, job_id: str, gap: float, when: str) -> None:
    job = book.job(job_id)
    assert job is not None
    book.write_job(job, job.with_item(I1, ItemRecord(Measure.mm(gap))), when)


def test_a_stick_carried_to_and_fro_neither_doubles_nor_loses(tmp_path: Path) -> None:
    ours, path = stick(tmp_path)
    theirs = Book(path)
    theirs.write_job(None, full_job("new", date(2026, 6, 1)), NOW)
    change(theirs, "j-1", 0.19, LATER)
    change(ours, "j-2", 0.18, LATER)
    done = merge(ours, path)
    assert (done.added, done.renewed, done.beside, done.same) == (1, 1, 0, 2)
    assert merge(ours, path).same == 4
    back = merge(theirs, ours.db.path)
    assert (back.added, back.renewed, back.beside) == (0, 1, 0)
    assert theirs.digests() == ours.digests()
    assert ours.check() == theirs.check() == []


def test_where_both_went_on_the_later_stays_and_the_other_is_kept_beside_it(
    tmp_path: Path,
) -> None:
    ours, path = stick(tmp_path)
    theirs = Book(path)
    change(ours, "j-1", 0.18, NOW)
    change(theirs, "j-1", 0.19, LATER)
    assert merge(ours, path).beside == 1
    assert len(ours.lines()) == 4
    kept = ours.job("j-1")
    assert kept is not None
    assert kept.record(I1).found == Measure.mm(0.19)
    gaps = [job.record(I1).found for job in ours.jobs(kept.engine_id)]
    assert Measure.mm(0.18) in gaps
    merge(theirs, ours.db.path)
    assert merge(ours, path).beside == 0
    assert theirs.digests() == ours.digests()


def test_a_merge_that_is_stopped_leaves_both_as_they_were(tmp_path: Path) -> None:
    ours, path = stick(tmp_path)
    theirs = Book(path)
    for n in range(5):
        theirs.write_job(None, full_job(f"new-{n}"), NOW)
    before = ours.digests(), theirs.digests()
    told: list[tuple[int, int]] = []

    def tell(done: int, of: int) -> bool:
        told.append((done, of))
        return done < 4

    with pytest.raises(StoppedError, match="as they were"):
        merge(ours, path, tell=tell)
    assert told[-1] == (4, 8)
    assert (ours.digests(), theirs.digests()) == before


def test_two_engines_of_one_number_are_asked_about(tmp_path: Path) -> None:
    ours, other = filled(tmp_path / "a.tcbook"), Book(tmp_path / "b.tcbook")
    engine = BookEngine("another-id", "Rig Birch", "3", "rig birch", "")
    other.put_engine(engine)
    other.write_job(None, replace(full_job("theirs"), engine_id="another-id"), NOW)
    other.close()
    path = tmp_path / "b.tcbook"
    copy = tmp_path / "c.tcbook"
    ours.db.copy_to(copy)
    done = merge(ours, path)
    assert [one.id for one, _ in done.asked] == ["another-id"]
    assert len(ours.engines()) == 2
    joined = Book(copy)
    assert merge(joined, path, {"another-id": "e-birch-3"}).asked == ()
    assert len(joined.engines()) == 1
    assert len(joined.jobs("e-birch-3")) == 4


# What is learnt ----------------------------------------------------------------------------------


def test_people_hands_heat_and_drawer_are_kept(tmp_path: Path) -> None:
    book = filled(tmp_path / "b.tcbook")
    assert book.person("  joel   r. ") == JOEL
    assert book.person("").id == ""
    assert book.person("Mina L.").id not in ("", MINA.id)
    test = HandTest("t", JOEL.id, date(2026, 2, 1), 0.05, ((0.2, 0.21), (0.3, 0.3)))
    heat = HotCold("h", "e-birch-3", "E", -0.05, 84.0, date(2026, 2, 1))
    book.learnt.put_hand_test(test, JOEL)
    book.learnt.put_hot_cold(heat)
    book.learnt.put_drawer([2.85, 2.8, 2.85])
    book.close()
    again = Book(tmp_path / "b.tcbook").learnt
    assert again.hand_tests() == [test]
    assert again.hot_cold("e-birch-3") == [heat]
    assert again.drawer() == [2.8, 2.85, 2.85]
