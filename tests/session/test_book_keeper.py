"""The book beside the session: what is written when, what is found again, what is told."""

import sqlite3
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import pytest

from tests.files.test_growing import room_for
from true_compass.book.job import ItemRecord, Job, Measure, SeenTo
from true_compass.core.engine import FigureSource
from true_compass.core.items import item_named
from true_compass.files.book_file import Book
from true_compass.files.rigs import demo_rig
from true_compass.session.book import landed
from true_compass.session.book_keeper import BookKeeper
from true_compass.session.session import Session, Source
from true_compass.session.store import WRITTEN, Troubles
from true_compass.session.work import LEFT, OFF, SET, SKIPPED

I1, E1 = item_named("I1"), item_named("E1")
NOON = datetime(2026, 11, 12, 12, tzinfo=UTC)


class Desk:
    """A session with its keeper, as a window has them."""

    def __init__(self, path: Path, rig: str = "birch", now: datetime = NOON) -> None:
        self.troubles = Troubles()
        self.told: list[str] = []
        self.troubles.listen(self.told.append)
        self.session = Session(demo_rig(rig), Source(rig=rig))
        self.now = now
        self.keeper = BookKeeper(path, self.troubles, lambda: self.now)
        self.keeper.watch(self.session)

    @property
    def job(self) -> Job:
        on = self.session.state.book
        assert on is not None
        assert on.job is not None
        return on.job

    def enter(self, item: str = "I1", mm: float = 0.25) -> None:
        record = ItemRecord(Measure.mm(mm))
        self.session.write_job(self.job.with_item(item_named(item), record), f"{item} as found")


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    desk = Desk(tmp_path / "b.tcbook")
    desk.keeper.begin("paper")
    return desk


def on_disk(desk: Desk) -> list[Job]:
    book = Book(desk.keeper.path)
    found = book.jobs_where("1")
    book.close()
    return found


def test_a_job_that_says_nothing_is_not_written_and_one_undone_to_nothing_goes(
    desk: Desk,
) -> None:
    assert on_disk(desk) == []
    desk.enter()
    assert on_disk(desk) == [desk.job]
    assert desk.session.undo() == "I1 as found"
    assert on_disk(desk) == []
    assert desk.session.redo() == "I1 as found"
    assert on_disk(desk) == [desk.job]


def test_a_day_s_work_goes_on_after_a_close_until_somebody_signs(
    desk: Desk, tmp_path: Path
) -> None:
    desk.enter()
    again = Desk(tmp_path / "b.tcbook")
    assert again.job == desk.job
    again.session.write_job(replace(again.job, signed="J. Reed"), "signed")
    on = Desk(tmp_path / "b.tcbook").session.state.book
    assert on is not None
    assert on.job is None
    later = Desk(tmp_path / "b.tcbook", now=NOON + timedelta(days=1))
    assert later.keeper.job_now("stops").id != desk.job.id


def test_what_a_new_job_takes_over_from_the_last_one(desk: Desk) -> None:
    person = desk.keeper.person("Joel R.")
    desk.session.write_job(
        replace(desk.job, person=person, blades="set 3", blade_step_mm=0.05, clock=1840.0), "facts"
    )
    desk.enter()
    job = desk.keeper.begin("paper")
    assert (job.person, job.blades, job.blade_step_mm, job.clock) == (person, "set 3", 0.05, None)


def test_two_windows_at_one_job_see_each_other_s_entries(desk: Desk, tmp_path: Path) -> None:
    desk.enter("I1", 0.21)
    other = Desk(tmp_path / "b.tcbook")
    other.enter("E1", 0.41)
    assert desk.keeper.changed_elsewhere()
    desk.enter("I2", 0.22)
    (job,) = on_disk(desk)
    assert {item.name: r.found.short for item, r in job.items.items() if r.found} == {
        "I1": "0.21",
        "E1": "0.41",
        "I2": "0.22",
    }


def test_what_could_not_be_written_is_told_and_comes_with_the_next_entry(desk: Desk) -> None:
    desk.enter("I1", 0.21)
    holder = sqlite3.connect(desk.keeper.path, isolation_level=None)
    book = desk.keeper.book
    assert book is not None
    book.db.rows("PRAGMA busy_timeout = 50")
    holder.execute("BEGIN IMMEDIATE")
    desk.enter("E1", 0.41)
    desk.troubles.try_again()
    assert any("another program holds it" in sentence for sentence in desk.told)
    assert desk.job.record(E1).found == Measure.mm(0.41)
    holder.execute("ROLLBACK")
    holder.close()
    desk.enter("I2", 0.22)
    (job,) = on_disk(desk)
    assert job == desk.job


def test_another_engine_and_back_finds_each_its_own(desk: Desk) -> None:
    desk.enter()
    first = desk.job
    desk.session.open_engine(demo_rig("cedar"), Source(rig="cedar"))
    assert desk.session.state.book is not None
    assert desk.session.state.book.job is None
    desk.session.open_engine(demo_rig("birch"), Source(rig="birch"))
    assert desk.job == first


@pytest.mark.parametrize("rig", [True, False])
def test_an_engine_saved_under_another_name(desk: Desk, tmp_path: Path, rig: bool) -> None:
    """A file takes its history along; of a demo rig it is an engine of its own from then on."""
    if not rig:
        desk.session.open_engine(demo_rig("birch"), Source(path=tmp_path / "one.engine.toml"))
        desk.keeper.begin("paper")
    desk.enter()
    engine_id = desk.job.engine_id
    desk.session.saved(Source(path=tmp_path / "two.engine.toml"))
    on = desk.session.state.book
    assert on is not None
    assert (on.engine.id == engine_id) is not rig
    book = Book(desk.keeper.path)
    kept = book.engine(engine_id)
    assert kept is not None
    assert kept.source.endswith("two.engine.toml") is not rig
    book.close()


def test_a_copy_of_the_engine_as_it_was_set_stays_with_the_job(desk: Desk) -> None:
    desk.enter()
    before = desk.job.engine_digest
    desk.session.edit(replace(desk.session.state.engine, rod_mm=190.0), "rod")
    desk.keeper.begin("paper")
    desk.enter()
    assert desk.job.engine_digest != before
    book = Book(desk.keeper.path)
    copies = [book.engine_values(digest) for digest in (before, desk.job.engine_digest)]
    assert [copy["dimensions"]["rod_mm"] for copy in copies if copy] == [182.0, 190.0]
    book.close()


def test_numbers_and_sources_come_from_the_file(tmp_path: Path) -> None:
    desk = Desk(tmp_path / "b.tcbook")
    told = (FigureSource("Bench book", page="41"), FigureSource("Leaflet", of="E"))
    engine = replace(demo_rig("birch"), serial="17", sources=told)
    desk.session.open_engine(engine, Source(path=tmp_path / "x.engine.toml"))
    job = desk.keeper.begin("paper")
    sources = [t.source.words for item in (I1, E1) if (t := job.target(item)) is not None]
    assert sources == ["Bench book, page 41", "Leaflet"]
    assert desk.session.state.book is not None
    assert desk.session.state.book.engine.title == "Rig Birch, number 17"


@pytest.mark.parametrize(
    ("how", "seen_to"),
    [(SET, SeenTo.SET), (LEFT, SeenTo.GOOD), (OFF, SeenTo.OUT), (None, SeenTo.NOT_SAID)],
)
def test_a_tick_of_stops_writes_what_a_hand_did_and_no_reading(
    desk: Desk, how: str | None, seen_to: SeenTo
) -> None:
    found = Measure.mm(0.31)
    for record in (ItemRecord(), ItemRecord(found)):
        job = landed(desk.job.with_item(I1, record), I1, how, off_heel=how == SET)
        assert job.record(I1) == replace(record, seen_to=seen_to, off_heel=how == SET)
    # What was set and not measured again is not left as it was found, nor at its target.
    assert (job.record(I1).final is None) == (how == SET)
    assert landed(job, I1, SKIPPED) is job


def spoil_as_text(path: Path) -> None:
    path.write_text("x" * 4000)


def spoil_as_newer(path: Path) -> None:
    Book(path).close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 99")
    db.close()


@pytest.mark.parametrize("spoil", [spoil_as_text, spoil_as_newer])
def test_a_book_that_cannot_be_used_is_told_once_and_left_alone(
    tmp_path: Path, spoil: Callable[[Path], None]
) -> None:
    path = tmp_path / "b.tcbook"
    spoil(path)
    before = path.read_bytes()
    desk = Desk(path)
    desk.keeper.begin("paper")
    desk.enter()
    desk.enter("E1")
    assert len(desk.told) == 1
    assert "not touched" in desk.told[0]
    assert len(desk.job.items) == 2
    assert desk.keeper.lines("x") == []
    assert desk.keeper.entries("x") == []
    assert desk.keeper.scatter_of("Joel") == 0.01
    assert path.read_bytes() == before


@pytest.mark.parametrize("how", ["BEGIN IMMEDIATE", "BEGIN EXCLUSIVE"])
def test_a_book_that_another_program_holds_keeps_nobody_waiting_and_loses_nothing(
    how: str, desk: Desk
) -> None:
    desk.enter()
    other = sqlite3.connect(desk.keeper.path, isolation_level=None)
    other.execute(how)
    begun = time.monotonic()
    desk.enter("E1", 0.4)
    desk.enter("I2", 0.2)
    assert time.monotonic() - begun < 1.0, "each entry waited for the other program"
    assert not desk.told, "most programs are done within half a second"
    desk.troubles.try_again()
    assert "Another program holds" in desk.told[-1] or "another program holds" in desk.told[-1]
    other.execute("ROLLBACK")
    other.close()
    desk.troubles.try_again()
    assert desk.told[-1] == WRITTEN
    assert not desk.troubles.wait
    assert on_disk(desk) == [desk.job]


def test_work_begun_while_the_book_was_held_goes_to_the_engine_that_the_book_knows(
    desk: Desk,
) -> None:
    desk.enter()
    desk.session.write_job(replace(desk.job, signed="Joel"), "signed")
    desk.keeper.close()
    other = sqlite3.connect(desk.keeper.path, isolation_level=None)
    other.execute("PRAGMA locking_mode = EXCLUSIVE")
    other.execute("BEGIN EXCLUSIVE")
    other.execute("UPDATE person SET name = name")
    late = Desk(desk.keeper.path)
    late.keeper.begin("paper")
    late.enter("E2", 0.4)
    assert "Another program holds" in late.told[-1]
    other.execute("COMMIT")
    other.close()
    late.troubles.try_again()
    assert late.told[-1] == WRITTEN
    both = on_disk(desk)
    assert late.job in both
    assert [job.engine_id for job in both] == [late.job.engine_id] * 2


def test_a_disk_that_was_full_at_the_first_opening_leaves_no_empty_book(tmp_path: Path) -> None:
    path = tmp_path / "new" / "b.tcbook"
    with room_for(0):
        desk = Desk(path)
        desk.keeper.begin("paper")
        desk.enter()
        assert "no room on its disk" in desk.told[-1]
        assert "Make room" in desk.told[-1]
        assert not list(path.parent.glob("*"))
    desk.enter("E1", 0.4)
    desk.troubles.try_again()
    assert desk.told[-1] == WRITTEN
    assert on_disk(desk) == [desk.job]


def test_each_book_keeps_its_own_copies(tmp_path: Path) -> None:
    folder = tmp_path / "backups"
    for stem in ("book", "book-2026", "spare [1]"):
        desk = Desk(tmp_path / f"{stem}.tcbook")
        desk.keeper.begin("paper")
        desk.enter()
        book = Book(desk.keeper.path)
        for day in range(1, 10):
            book.db.back_up_of_day(date(2026, 11, day))
            book.db.back_up_before_merge(datetime(2026, 11, day, tzinfo=UTC))
        book.close()
    told = sorted(path.name for path in folder.iterdir())
    for stem in ("book", "book-2026", "spare [1]"):
        days = [f"{stem}-2026-11-0{day}.tcbook" for day in range(3, 10)]
        merges = [f"{stem}-2026-11-0{day}-000000-before-merge.tcbook" for day in range(3, 10)]
        assert sorted(n for n in told if n.startswith(f"{stem}-2026-11")) == sorted(days + merges)
