"""A book out and in: tables, workbooks, the whole book as one file, and another book merged."""

import contextlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from itertools import count
from pathlib import Path
from typing import Any, Final

from true_compass.book.job import BookEngine, Job, Target
from true_compass.core.words import counted
from true_compass.files.atomic import replacing
from true_compass.files.book_db import (
    SUFFIX,
    BookDb,
    BookError,
    Progress,
    StoppedError,
    go_on,
)
from true_compass.files.book_file import Book
from true_compass.files.book_merge import Merged, export_values, merge, questions
from true_compass.files.database import newest_copy
from true_compass.files.job_import import Setup, jobs_from, take_in
from true_compass.files.job_table import read_table, table_of, write_csv
from true_compass.files.job_workbook import write_xlsx
from true_compass.files.problems import shown_text

MOST_NAMED: Final = 5


def write_out(
    book: Book, path: Path, engine: BookEngine | None = None, tell: Progress = go_on
) -> str:
    """Write the jobs of one engine (of all) as CSV or XLSX, or the whole book, by the ending.

    What was written, as a sentence. Raises `BookError`, `StoppedError`.
    """
    if path.suffix == SUFFIX:
        book.db.copy_to(path, tell)
        return f"{shown_text(path.name)}: the whole book."
    engines = book.engines() if engine is None else [engine]
    of = sum(len(book.lines(one.id)) for one in engines)
    jobs = _told(tell, of, (job for one in engines for job in book.each_job(one.id)))
    write_table(path, table_of(jobs, export_values(book)))
    return f"{shown_text(path.name)}: {counted(of, 'job')}."


def _told(tell: Progress, of: int, jobs: Iterable[Job]) -> Iterator[Job]:
    for done, job in enumerate(jobs, start=1):
        yield job
        if not tell(done, of):
            raise StoppedError("Stopped: nothing was written.")


def write_table(path: Path, lines: Iterable[Sequence[str]]) -> None:
    """Lines as CSV or XLSX, by the ending of the name. Raises `BookError`."""
    name = shown_text(path.name)
    if path.suffix not in (".csv", ".xlsx"):
        raise BookError(f"The name must end in .csv, .xlsx or {SUFFIX}, not {name[:60]}.")
    try:
        if path.suffix == ".xlsx":
            write_xlsx(path, lines)
        else:
            with replacing(path) as part, part.open("w", encoding="utf-8", newline="") as file:
                write_csv(file, lines)
    except OSError as error:
        reason = error.strerror
        raise BookError(f"{name[:60]} was not written ({reason}). Choose another folder.") from None


def take_table(
    book: Book,
    path: Path,
    engine: BookEngine,
    values: dict[str, Any],
    targets: tuple[Target, ...],
    clock: Callable[[], datetime],
    *,
    hydraulic: bool,
    tell: Progress = go_on,
) -> str:
    """Take the jobs of a CSV file; those from paper were done on `engine`.

    Raises `BookError`, `EngineFileError`; then nothing was taken.
    """
    now = clock().replace(microsecond=0)
    today = now.astimezone().date()
    setup = Setup(engine, book.person, today, now.isoformat(), targets, hydraulic)
    found = jobs_from(read_table(path), setup, path.name)
    added = take_in(book, found, engine, values, now.isoformat(), tell)
    return f"{counted(len(found.jobs), 'job')} read, {added} new."


def merge_in(book: Book, path: Path, join: dict[str, str], tell: Progress) -> str:
    """Take every job of another book. Raises `BookError`, `StoppedError`."""
    done: Merged = merge(book, path, join, tell)
    beside = f", {done.beside} kept beside another" if done.beside else ""
    added = counted(done.added, "job")
    return f"{added} added, {done.renewed} renewed, {done.same} the same{beside}."


@dataclass(frozen=True, slots=True)
class Coming:
    """Another book and what would come in from it. `pairs` are engines of one number that are two:
    theirs, ours; `merged` is what would be if they are one.
    """

    path: Path
    pairs: tuple[tuple[BookEngine, BookEngine], ...]
    engines: tuple[str, ...]
    merged: Merged

    @property
    def name(self) -> str:
        """The name of its file."""
        return shown_text(self.path.name)

    @property
    def adds(self) -> bool:
        """Whether anything would come in."""
        merged = self.merged
        return bool(merged.added or merged.renewed or merged.beside)

    @property
    def words(self) -> str:
        """What would come in, in a few sentences."""
        merged = self.merged
        jobs = merged.added + merged.renewed + merged.beside + merged.same
        shown = ", ".join(self.engines[:MOST_NAMED])
        more = f" and {len(self.engines) - MOST_NAMED} more" if self.engines[MOST_NAMED:] else ""
        told = [f"It holds {counted(jobs, 'job')} on {shown or 'no engine'}{more}."]
        parts = (
            (merged.added, "new here"),
            (merged.renewed, "newer than here"),
            (merged.beside, "kept beside another that differs"),
            (merged.same, "here already"),
        )
        if self.adds:
            shares = ", ".join(f"{number} {what}" for number, what in parts if number)
            told.append(f"Of these: {shares}.")
        else:
            told.append("All of it is in your book already: there is nothing to take in.")
        if self.pairs:
            told.append(f"{self.pairs[0][0].title} is in both books under one number.")
        told.append("Nothing has been taken in yet. Before it is, a copy of your book is made.")
        return " ".join(told)


def coming_from(path: Path, other: Path, tell: Progress = go_on) -> Coming:
    """What would come in from another book; both stay as they are. Raises `BookError`."""
    if path.exists() and other.exists() and path.samefile(other):
        raise BookError(f"{shown_text(other.name)} is your own book: there is nothing to take in.")
    theirs = Book(other, read_only=True)
    try:
        with contextlib.closing(Book(path)) as book:
            pairs = questions(book, theirs)
            engines = tuple(engine.title for engine in theirs.engines())
            found: list[Merged] = []
            with contextlib.suppress(_OnlyLookedError), book.db.writing("the other book"):
                found.append(merge(book, other, joined(pairs), tell))
                raise _OnlyLookedError
    finally:
        theirs.close()
    return Coming(other, pairs, engines, found[0])


class _OnlyLookedError(Exception):
    """Takes back what a preview did."""


def put_back_copy(path: Path, day: date) -> str:
    """Put the newest whole copy of a damaged book in its place; the damaged one is set aside.

    What was done, as a sentence. Raises `BookError`.
    """
    copy = newest_copy(BookDb.kind, path)
    if copy is None:
        raise BookError(f"There is no whole copy of {shown_text(path.name)} beside it.")
    aside = next(
        name
        for nth in count(1)
        if not (name := path.with_name(f"{path.stem}.damaged-{day}-{nth}{path.suffix}")).exists()
    )
    try:
        for end in ("", "-wal", "-shm"):
            with contextlib.suppress(FileNotFoundError):
                path.with_name(path.name + end).rename(aside.with_name(aside.name + end))
        with replacing(path) as part:
            part.write_bytes(copy.read_bytes())
    except OSError as error:
        raise BookError(f"{shown_text(path.name)} was not put back ({error.strerror}).") from None
    return (
        f"{shown_text(copy.name)} is in the place of {shown_text(path.name)}; the damaged book "
        f"is kept as {shown_text(aside.name)}."
    )


def joined(pairs: tuple[tuple[BookEngine, BookEngine], ...]) -> dict[str, str]:
    """Which of their engines are which of ours, once a person said that they are."""
    return {theirs.id: ours.id for theirs, ours in pairs}
