"""Two books made one: a stick carried between two machines, without doubling or losing a job.

Jobs with one id are one job. Each writer counts its own writes in a job, so a copy that is only
older gives way; where both went on from one state, the later one stays and the other is kept beside
it, with an id that follows from what it says, so that merging again changes nothing.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any
from uuid import NAMESPACE_OID, uuid5

from true_compass.book.job import BookEngine, Job
from true_compass.files.book_db import Progress, StoppedError, go_on
from true_compass.files.book_file import Book, versions_from
from true_compass.files.book_rows import job_digest


@dataclass(frozen=True, slots=True)
class Merged:
    """What a merge did: jobs that were new, newer, kept beside another, or the same already.

    `asked` are pairs of engines of one number that are two in the books: theirs and ours.
    """

    added: int = 0
    renewed: int = 0
    beside: int = 0
    same: int = 0
    asked: tuple[tuple[BookEngine, BookEngine], ...] = ()


def merge(
    book: Book, other_path: Path, join: Mapping[str, str] | None = None, tell: Progress = go_on
) -> Merged:
    """Take every job of another book into this one; the other is only read.

    `join` says which of their engines are which of ours, by id: equal numbers are asked about.
    Raises `BookError`, `StoppedError`; then both are as they were.
    """
    other = Book(other_path, read_only=True)
    try:
        return _merge(book, other, dict(join or {}), tell)
    finally:
        other.close()


def questions(book: Book, other: Book) -> tuple[tuple[BookEngine, BookEngine], ...]:
    """Engines of one number that are two: theirs, ours."""
    ours = {engine.id for engine in book.engines()}
    return tuple(
        (engine, same)
        for engine in other.engines()
        if engine.id not in ours
        for same in book.same_number(engine.serial)
    )


def _merge(book: Book, other: Book, join: dict[str, str], tell: Progress) -> Merged:
    asked = tuple(pair for pair in questions(book, other) if pair[0].id not in join)
    lines = other.lines()
    counts = dict.fromkeys(("added", "renewed", "beside", "same"), 0)
    with book.db.writing("the other book"):
        for engine in other.engines():
            if engine.id not in join:
                book.db.do(
                    "INSERT OR IGNORE INTO engine VALUES (?, ?, ?, ?, ?)",
                    engine.id,
                    engine.name,
                    engine.serial,
                    engine.source,
                    engine.digest,
                )
        _take_plain(book, other)
        done = 0
        there = {row[0] for row in book.db.rows("SELECT id FROM job")}
        for engine_id in {line.engine_id for line in lines}:
            for job in other.jobs(engine_id):
                told = replace(job, engine_id=join.get(engine_id, engine_id))
                ours = book.job(job.id) if job.id in there else None
                counts[_take_job(book, other, ours, told)] += 1
                done += 1
                if not tell(done, len(lines)):
                    raise StoppedError("Stopped: both books are as they were.")
    return Merged(**counts, asked=asked)


def _take_plain(book: Book, other: Book) -> None:
    """What has an id of its own and is never changed."""
    for table, marks in (("engine_copy", 2), ("person", 2), ("hand_test", 5), ("hot_cold", 6)):
        told = ", ".join("?" * marks)
        for row in other.db.rows(f"SELECT * FROM {table}"):
            book.db.do(f"INSERT OR IGNORE INTO {table} VALUES ({told})", *row)


def _told(book: Book, job_id: str) -> tuple[str, dict[str, int]]:
    changed, versions = book.db.rows("SELECT changed, versions FROM job WHERE id = ?", job_id)[0]
    return changed, versions_from(versions)


def _take_job(book: Book, other: Book, ours: Job | None, theirs: Job) -> str:
    changed, their_versions = _told(other, theirs.id)
    if ours is None:
        book.put_whole(theirs, changed, their_versions)
        return "added"
    our_changed, our_versions = _told(book, ours.id)
    both = _latest(our_versions, their_versions)
    if job_digest(ours) == job_digest(theirs):
        if both != our_versions:
            book.put_whole(ours, our_changed, both)
        return "same"
    if both == our_versions:
        return "same"
    if both == their_versions:
        book.put_whole(theirs, changed, both)
        return "renewed"
    # Both went on from one state: neither may be lost.
    later = (changed, job_digest(theirs)) > (our_changed, job_digest(ours))
    kept, laid = (theirs, ours) if later else (ours, theirs)
    beside_id = str(uuid5(NAMESPACE_OID, f"{laid.id} {job_digest(laid)}"))
    note = (
        f"Also written of {laid.day.isoformat()} in another copy of the book. {laid.note}".strip()
    )
    if book.job(beside_id) is None:
        book.put_whole(replace(laid, id=beside_id, note=note), max(changed, our_changed), {})
    book.put_whole(kept, max(changed, our_changed), both)
    return "beside"


def _latest(one: Mapping[str, int], other: Mapping[str, int]) -> dict[str, int]:
    return {key: max(one.get(key, 0), other.get(key, 0)) for key in {**one, **other}}


def export_values(book: Book) -> dict[str, dict[str, Any]]:
    """Plain values of every engine by its id and of every copy by its digest, for a table."""
    told: dict[str, dict[str, Any]] = {
        engine.id: {
            "id": engine.id,
            "name": engine.name,
            "serial": engine.serial,
            "source": engine.source,
            "digest": engine.digest,
        }
        for engine in book.engines()
    }
    for (digest,) in book.db.rows("SELECT digest FROM engine_copy"):
        values = book.engine_values(digest)
        if values is not None:
            told[digest] = values
    return told
