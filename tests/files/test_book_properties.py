"""Any job comes back from book and table; two books that are carried about agree in the end."""

import tempfile
from dataclasses import replace
from datetime import date
from itertools import count
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from tests.files.jobs import book_engine
from tests.strategies_book import GAPS, jobs
from true_compass.book.job import ItemRecord, Job, Measure
from true_compass.core.items import item_named
from true_compass.files.book_file import Book
from true_compass.files.book_merge import export_values, merge
from true_compass.files.book_rows import job_digest
from true_compass.files.engine_values import values_of_engine
from true_compass.files.job_import import Setup, jobs_from
from true_compass.files.job_table import csv_text, parse_table, table_of

NOW = "2026-01-02T00:00:00+00:00"
TODAY = date(2026, 11, 26)


def new_book(path: Path) -> Book:
    book = Book(path)
    told, engine = book_engine()
    book.put_engine(told, values_of_engine(engine))
    return book


@settings(max_examples=40)
@given(job=jobs())
def test_any_job_comes_back_from_a_book(job: Job) -> None:
    with tempfile.TemporaryDirectory() as folder:
        book = new_book(Path(folder) / "b.tcbook")
        book.write_job(None, job, NOW)
        assert book.job("j") == job
        (entry,) = book.entries(job.engine_id)
        assert entry == job.entry()
        book.close()


@settings(max_examples=40)
@given(job=jobs(), mark=st.sampled_from(",;\t"))
def test_any_job_comes_back_from_a_table(job: Job, mark: str) -> None:
    with tempfile.TemporaryDirectory() as folder:
        book = new_book(Path(folder) / "b.tcbook")
        text = csv_text(table_of([job], export_values(book)), mark)
        setup = Setup(None, book.person, TODAY, NOW)
        (back,) = jobs_from(parse_table(text, "t.csv"), setup, "t.csv").jobs
        assert job_digest(back) == job_digest(job)
        book.close()


@settings(max_examples=30)
@given(one=jobs(), other=jobs())
def test_marks_differ_where_jobs_do(one: Job, other: Job) -> None:
    assert (job_digest(one) == job_digest(other)) == (one == other)
    changed = replace(one, note=f"{one.note} x")
    assert job_digest(changed) != job_digest(one)


class Sticks(RuleBasedStateMachine):
    """Two machines and a stick: jobs are begun, changed, and carried to and fro in any order."""

    def __init__(self) -> None:
        super().__init__()
        self._folder = tempfile.TemporaryDirectory()
        folder = Path(self._folder.name)
        self.books = [new_book(folder / f"{name}.tcbook") for name in "ab"]
        self.written: set[str] = set()
        self._numbers = count(1)

    def _when(self) -> str:
        return f"2026-01-02T00:{next(self._numbers) % 60:02}:00+00:00"

    @rule(at=st.integers(0, 1))
    def begin(self, at: int) -> None:
        name = f"job-{next(self._numbers)}"
        told, _ = book_engine()
        job = Job(name, told.id, told.digest, date(2025, 1, 1), NOW, note=name)
        self.books[at].write_job(None, job, self._when())
        self.written.add(name)

    @rule(at=st.integers(0, 1), which=st.integers(0, 5), gap=GAPS)
    def change(self, at: int, which: int, gap: float) -> None:
        book = self.books[at]
        lines = [line for line in book.lines() if line.id.startswith("job-")]
        if lines:
            job = book.job(lines[which % len(lines)].id)
            assert job is not None
            record = ItemRecord(Measure.mm(gap), note=str(next(self._numbers)))
            after = job.with_item(item_named("E1"), record)
            book.write_job(job, after, self._when())

    @rule(to=st.integers(0, 1))
    def carry(self, to: int) -> None:
        merge(self.books[to], self.books[1 - to].db.path)

    @invariant()
    def nothing_is_lost(self) -> None:
        there = {line.id for book in self.books for line in book.lines()}
        assert self.written <= there

    def teardown(self) -> None:
        one, two = self.books
        merge(one, two.db.path)
        merge(two, one.db.path)
        # Whatever went another way on both has come to rest: once more changes nothing.
        merge(one, two.db.path)
        assert one.digests() == two.digests()
        before = one.digests()
        assert merge(one, two.db.path).beside == 0
        assert one.digests() == before
        assert one.check() == two.check() == []
        for book in self.books:
            book.close()
        self._folder.cleanup()


TestSticks = Sticks.TestCase
TestSticks.settings = settings(max_examples=12, stateful_step_count=14, deadline=None)
