"""A book out and in: tables, workbooks, the whole book as one file, and another book merged."""

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

from true_compass.book.job import BookEngine, Target
from true_compass.core.words import counted
from true_compass.files.atomic import write_atomic
from true_compass.files.book_db import SUFFIX, BookError, Progress, go_on
from true_compass.files.book_file import Book
from true_compass.files.book_merge import Merged, export_values, merge, questions
from true_compass.files.job_import import Setup, jobs_from, take_in
from true_compass.files.job_table import csv_text, read_table, table_of
from true_compass.files.job_workbook import write_xlsx
from true_compass.files.problems import shown_text


def write_out(book: Book, path: Path, engine: BookEngine | None = None) -> str:
    """Write the jobs of one engine (of all) as CSV or XLSX, or the whole book, by the ending.

    What was written, as a sentence. Raises `BookError`.
    """
    if path.suffix == SUFFIX:
        book.db.copy_to(path)
        return f"{shown_text(path.name)}: the whole book."
    engines = book.engines() if engine is None else [engine]
    jobs = [job for one in engines for job in book.jobs(one.id)]
    write_table(path, table_of(jobs, export_values(book)))
    return f"{shown_text(path.name)}: {counted(len(jobs), 'job')}."


def write_table(path: Path, lines: list[list[str]]) -> None:
    """Lines as CSV or XLSX, by the ending of the name. Raises `BookError`."""
    name = shown_text(path.name)
    if path.suffix not in (".csv", ".xlsx"):
        raise BookError(f"The name must end in .csv, .xlsx or {SUFFIX}, not {name[:60]}.")
    try:
        if path.suffix == ".xlsx":
            write_xlsx(path, lines)
        else:
            write_atomic(path, csv_text(lines))
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


def asked_about(book: Book, path: Path) -> tuple[tuple[BookEngine, BookEngine], ...]:
    """Engines of one number that are two: theirs, ours."""
    other = Book(path, read_only=True)
    try:
        return questions(book, other)
    finally:
        other.close()


def merge_in(book: Book, path: Path, join: dict[str, str], tell: Progress) -> str:
    """Take every job of another book. Raises `BookError`, `StoppedError`."""
    done: Merged = merge(book, path, join, tell)
    beside = f", {done.beside} kept beside another" if done.beside else ""
    return f"{done.added} jobs added, {done.renewed} renewed, {done.same} the same{beside}."


def joined(pairs: tuple[tuple[BookEngine, BookEngine], ...]) -> dict[str, str]:
    """Which of their engines are which of ours, once a person said that they are."""
    return {theirs.id: ours.id for theirs, ours in pairs}
