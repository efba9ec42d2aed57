"""The book: one SQLite file of every job on every engine, `*.tcbook`.

Each entry is on the disk when it is made (write-ahead log, synchronous FULL): a kill loses at most
the entry that was being written. Several windows and commands may use one book at once.
"""

import contextlib
import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import Any, Final
from uuid import uuid4

from true_compass.book.brackets import Bracket
from true_compass.book.job import BookEngine, Job, Part, Person, clock_words
from true_compass.book.trend import Entry, Seen
from true_compass.core.chained import plain_json
from true_compass.core.items import Item, item_named
from true_compass.core.limits import EngineError
from true_compass.files.book_db import BookDb, BookError
from true_compass.files.book_learnt import Learnt
from true_compass.files.book_rows import (
    ITEM_COLUMNS,
    MORE,
    checked_clock,
    head_from_values,
    head_values,
    item_row,
    job_digest,
    job_from,
)
from true_compass.files.database import BUSY_S

NO_SENSE: Final = (
    *(EngineError, ValueError, TypeError, KeyError, AttributeError, IndexError, OverflowError),
    RecursionError,
)
"""What reading a row raises where somebody else wrote it."""
AT_ONCE: Final = 200
"""How many jobs one question asks for: few enough to be held, and to be stopped between two."""
NEWEST: Final = 200
"""How many jobs of one engine a trend looks back over."""


@dataclass(frozen=True, slots=True)
class Line:
    """One job as the list of jobs shows it; its items are not read for that."""

    id: str
    engine_id: str
    day: date
    made: str
    clock: float | None
    by_distance: bool
    person: str

    @property
    def clock_words(self) -> str:
        """`1,840 h` or `52,300 km`; nothing where it was not read."""
        return clock_words(self.clock, self.by_distance)

    @staticmethod
    def of(job: Job) -> "Line":
        """The line of a job."""
        return Line(
            job.id, job.engine_id, job.day, job.made, job.clock, job.by_distance, job.person.name
        )


class Book:
    """An open book. Every method raises `BookError`, and then nothing has changed."""

    def __init__(self, path: Path, *, read_only: bool = False, busy_s: float = BUSY_S) -> None:
        self.db = BookDb(path, read_only=read_only, busy_s=busy_s)
        self.learnt = Learnt(self.db)
        self._mark = uuid4().hex[:12]
        self.senseless: set[str] = set()
        """Ids of jobs that lists leave out, because their row makes no sense."""

    def close(self) -> None:
        """Let go of the file."""
        self.db.close()

    # Engines and people -----------------------------------------------------------------------

    def engines(self) -> list[BookEngine]:
        """Every engine, by name and number."""
        rows = self.db.rows(
            "SELECT id, name, serial, source, digest FROM engine ORDER BY name, serial"
        )
        return [BookEngine(*row) for row in rows]

    def engine(self, engine_id: str) -> BookEngine | None:
        """The engine of an id."""
        return next((one for one in self.engines() if one.id == engine_id), None)

    def put_engine(self, engine: BookEngine, values: Mapping[str, Any] | None = None) -> None:
        """Write an engine, and a copy of it as it is set now."""
        with self.db.writing("the engine"):
            self._put_engine(engine, values)

    def _put_engine(self, engine: BookEngine, values: Mapping[str, Any] | None) -> None:
        row = (engine.id, engine.name, engine.serial, engine.source, engine.digest)
        self.db.do("INSERT OR IGNORE INTO engine VALUES (?, ?, ?, ?, ?)", *row)
        self.db.do(
            "UPDATE engine SET name = ?, serial = ?, source = ?, digest = ? WHERE id = ?",
            *row[1:],
            row[0],
        )
        if values is not None and engine.digest:
            self._put_copy(engine.digest, values)

    def put_copy(self, digest: str, values: Mapping[str, Any]) -> None:
        """Write a copy of an engine as it was set."""
        with self.db.writing("the copy of the engine"):
            self._put_copy(digest, values)

    def _put_copy(self, digest: str, values: Mapping[str, Any]) -> None:
        text = json.dumps(values, separators=(",", ":"), ensure_ascii=False)
        self.db.do("INSERT OR IGNORE INTO engine_copy VALUES (?, ?)", digest, text)

    def engine_values(self, digest: str) -> dict[str, Any] | None:
        """The copy of an engine as it was set, by its digest."""
        rows = self.db.rows("SELECT value FROM engine_copy WHERE digest = ?", digest)
        with contextlib.suppress(*NO_SENSE):
            value = plain_json(rows[0][0]) if rows else None
            return value if isinstance(value, dict) else None
        return None

    def same_number(self, serial: str, engine_id: str = "") -> list[BookEngine]:
        """Other engines with a number; two of one number are asked about, never joined unasked."""
        wanted = serial.strip().casefold()
        return [
            one
            for one in self.engines()
            if wanted and one.serial.strip().casefold() == wanted and one.id != engine_id
        ]

    def people(self) -> list[Person]:
        """Everybody who is named, by name."""
        return [
            Person(*row) for row in self.db.rows("SELECT id, name FROM person ORDER BY name, id")
        ]

    def person(self, name: str) -> Person:
        """The person of a name; a new name is a new person, written with the first job."""
        from unicodedata import normalize

        told = normalize("NFC", " ".join(name.split()))
        if not told:
            return Person("", "")
        same = [one for one in self.people() if one.name.casefold() == told.casefold()]
        return same[0] if same else Person(str(uuid4()), told)

    # Jobs -------------------------------------------------------------------------------------

    def lines(self, engine_id: str | None = None) -> list[Line]:
        """Every job of an engine (of all), the newest first, as a list shows it."""
        where = "" if engine_id is None else "WHERE job.engine_id = ?"
        rows = self.db.rows(
            "SELECT job.id, engine_id, day, job.made, clock, by_distance, "
            "coalesce(person.name, '') FROM job LEFT JOIN person ON person.id = job.person_id "
            f"{where} ORDER BY day DESC, job.made DESC, job.id",
            *([] if engine_id is None else [engine_id]),
        )
        found = []
        for one, engine, day, made, clock, by_distance, person in rows:
            with self._sense(one):
                clock = checked_clock(clock)
                day = date.fromisoformat(day)
                found.append(Line(one, engine, day, made, clock, bool(by_distance), person))
        return found

    @contextlib.contextmanager
    def _sense(self, job_id: str) -> Iterator[None]:
        """What makes no sense in a row is left out of a list, and remembered."""
        try:
            yield
        except NO_SENSE:
            self.senseless.add(job_id)

    def counts(self, job_ids: Sequence[str]) -> dict[str, tuple[int, int]]:
        """How many items of each job were set, and how many it has."""
        found = dict.fromkeys(job_ids, (0, 0))
        set_unread = f"iif(json_valid({self._more}), {self._more} ->> 'seen_to' = 'set', 0)"
        for first in range(0, len(job_ids), AT_ONCE):
            some = job_ids[first : first + AT_ONCE]
            rows = self.db.rows(
                "SELECT job_id, total(left_low IS NOT NULL OR after_nut_low IS NOT NULL OR "
                f"left_turns IS NOT NULL OR after_nut_turns IS NOT NULL OR {set_unread}), "
                "count(*) FROM item WHERE job_id IN "
                f"({', '.join('?' * len(some))}) GROUP BY job_id",
                *some,
            )
            found |= {row[0]: (int(row[1]), row[2]) for row in rows}
        return found

    def last_worked(self, engine_ids: Sequence[str]) -> str | None:
        """Which of some engines was written about last."""
        marks = ", ".join("?" * len(engine_ids))
        rows = self.db.rows(
            f"SELECT engine_id FROM job WHERE engine_id IN ({marks}) ORDER BY changed DESC LIMIT 1",
            *engine_ids,
        )
        return rows[0][0] if rows else None

    def nut_shifts_mm(self, engine_id: str, person_id: str, most: int = 24) -> list[float]:
        """What the nut did in a person's last readings on an engine, mm, + is wider."""
        rows = self.db.rows(
            "SELECT (after_nut_low + after_nut_high - left_low - left_high) / 2 FROM item "
            "JOIN job ON job.id = job_id WHERE engine_id = ? AND person_id = ? "
            "AND after_nut_low IS NOT NULL AND left_low IS NOT NULL "
            "ORDER BY day DESC, job.made DESC LIMIT ?",
            engine_id,
            person_id,
            most,
        )
        return [row[0] for row in rows]

    def job(self, job_id: str) -> Job | None:
        """The whole of one job."""
        found = self.jobs_where("job.id = ?", job_id)
        return found[0] if found else None

    def jobs(self, engine_id: str) -> list[Job]:
        """Every job of an engine with its items, the oldest first."""
        return self.jobs_where("engine_id = ?", engine_id)

    def each_job(self, engine_id: str) -> Iterator[Job]:
        """Every job of an engine, the oldest first, some at a time."""
        asked = "SELECT id FROM job WHERE engine_id = ? ORDER BY day, made, id"
        ids = [row[0] for row in self.db.rows(asked, engine_id)]
        for first in range(0, len(ids), AT_ONCE):
            some = ids[first : first + AT_ONCE]
            yield from self.jobs_where(f"job.id IN ({', '.join('?' * len(some))})", *some)

    @property
    def _more(self) -> str:
        """The cell of JSON in a question; a book of version 1 that is only looked at has none."""
        return f"item.{MORE}" if self.db.version >= 2 else "''"

    def jobs_where(self, where: str, *values: Any) -> list[Job]:
        """Jobs that a condition in SQL names, the oldest first."""
        items: dict[str, list[tuple[Any, ...]]] = {}
        columns = ", ".join(f"item.{name}" for name in ITEM_COLUMNS[:-1])
        columns += f", {self._more}"
        for row in self.db.rows(
            f"SELECT job_id, {columns} FROM item JOIN job ON job.id = job_id WHERE {where}", *values
        ):
            items.setdefault(row[0], []).append(row[1:])
        names = ("id", "engine_id", "engine_digest", "day", "made", "clock", "by_distance")
        rows = self.db.rows(
            f"SELECT {', '.join(f'job.{name}' for name in names)}, person_id, "
            "coalesce(person.name, ''), head FROM job LEFT JOIN person ON person.id = person_id "
            f"WHERE {where} ORDER BY day, made, job.id",
            *values,
        )
        found = []
        for row in rows:
            columns_of = dict(zip(names, row, strict=False))
            try:
                head = plain_json(row[-1])
                person = Person(row[-3], row[-2])
                found.append(job_from(columns_of, person, head, items.get(row[0], [])))
            except NO_SENSE as error:
                raise BookError(f"The job {row[0]} of {row[3]} makes no sense ({error}).") from None
        return found

    def entries(self, engine_id: str, newest: int = NEWEST) -> list[Entry]:
        """The newest jobs of an engine as a trend needs them, the oldest of them first."""
        rows = self.db.rows(
            "SELECT job.id, day, clock, by_distance, coalesce(person.name, ''), head FROM job "
            "LEFT JOIN person ON person.id = person_id WHERE engine_id = ? "
            "ORDER BY day DESC, made DESC, job.id DESC LIMIT ?",
            engine_id,
            newest,
        )[::-1]
        items = self._seen([row[0] for row in rows])
        by_distance = bool(rows[-1][3]) if rows else False
        found = []
        for row in rows:
            with self._sense(row[0]):
                found.append(_entry(row, items.get(row[0], {}), by_distance=by_distance))
        return found

    def _seen(self, job_ids: Sequence[str]) -> dict[str, dict[Item, Seen]]:
        """The readings of some jobs, by job and item."""
        items: dict[str, dict[Item, Seen]] = {}
        named: dict[str, Item] = {}
        marks = ", ".join("?" * len(job_ids))
        for job_id, name, fl, fh, ll, lh, nl, nh, anew in self.db.rows(
            "SELECT job_id, name, found_low, found_high, left_low, left_high, after_nut_low, "
            f"after_nut_high, anew FROM item WHERE job_id IN ({marks}) "
            "AND (coalesce(found_low, left_low, after_nut_low) IS NOT NULL OR anew != '')",
            *job_ids,
        ):
            with self._sense(job_id):
                item = named.get(name) or named.setdefault(name, item_named(name))
                low, high = (nl, nh) if nl is not None else (ll, lh)
                seen = Seen(
                    None if fl is None else Bracket(fl, fh),
                    None if low is None else Bracket(low, high),
                    bool(anew),
                )
                items.setdefault(job_id, {})[item] = seen
        return items

    def write_job(self, before: Job | None, job: Job, changed: str) -> None:
        """Write what differs between two states of a job; `changed` is UTC to the second.

        Only the items that differ are written, so that two windows at one job do not undo each
        other's entries.
        """
        with self.db.writing("the entry"):
            self._put_person(job.person)
            self._put_job(job, changed, self._next_versions(job.id))
            old = before.items if before is not None else {}
            for item in {**old, **job.items}:
                record = job.items.get(item)
                if record is None:
                    self.db.do("DELETE FROM item WHERE job_id = ? AND name = ?", job.id, item.name)
                elif record != old.get(item):
                    self._put_item(job.id, item_row(item.name, record))

    def put_whole(self, job: Job, changed: str, versions: Mapping[str, int]) -> None:
        """Put a job in the place of what is there of it, within a change that was begun."""
        self._put_person(job.person)
        self._put_job(job, changed, _versions_text(versions))
        self.db.do("DELETE FROM item WHERE job_id = ?", job.id)
        for item, record in job.items.items():
            self._put_item(job.id, item_row(item.name, record))

    def _put_person(self, person: Person) -> None:
        if person.id:
            self.db.do("INSERT OR IGNORE INTO person VALUES (?, ?)", person.id, person.name)

    def _put_job(self, job: Job, changed: str, versions: str) -> None:
        row = (
            job.engine_id,
            job.engine_digest,
            job.day.isoformat(),
            job.made,
            job.person.id,
            job.clock,
            int(job.by_distance),
            json.dumps(head_values(job), separators=(",", ":"), ensure_ascii=False),
            changed,
            versions,
        )
        told = ", ".join(
            f"{name} = excluded.{name}"
            for name in (
                "engine_id",
                "engine_digest",
                "day",
                "made",
                "person_id",
                "clock",
                "by_distance",
                "head",
                "changed",
                "versions",
            )
        )
        self.db.do(
            f"INSERT INTO job VALUES ({', '.join('?' * 11)}) ON CONFLICT (id) DO UPDATE SET {told}",
            job.id,
            *row,
        )

    def _put_item(self, job_id: str, row: Sequence[Any]) -> None:
        marks = ", ".join("?" * (len(row) + 1))
        self.db.do(f"INSERT OR REPLACE INTO item VALUES ({marks})", job_id, *row)

    def _versions(self, job_id: str) -> dict[str, int]:
        rows = self.db.rows("SELECT versions FROM job WHERE id = ?", job_id)
        return versions_from(rows[0][0]) if rows else {}

    def _next_versions(self, job_id: str) -> str:
        """Each writer counts its own writes: so a copy that is only older is told from one that
        went another way.
        """
        versions = self._versions(job_id)
        versions[self._mark] = versions.get(self._mark, 0) + 1
        return _versions_text(versions)

    def drop_job(self, job_id: str) -> None:
        """Take a job out again: only for the way back from a job that was just begun."""
        with self.db.writing("the job"):
            self.db.do("DELETE FROM item WHERE job_id = ?", job_id)
            self.db.do("DELETE FROM job WHERE id = ?", job_id)

    def check(self) -> list[str]:
        """What is wrong with the book, as sentences; nothing where it is sound."""
        found: list[str] = []
        for look in (self._check_file, self._check_jobs, self._check_rest):
            try:
                found += look()
            except BookError as error:
                found.append(str(error))
        return found

    def _check_file(self) -> list[str]:
        found = [row[0] for row in self.db.rows("PRAGMA integrity_check") if row[0] != "ok"]
        lost = self.db.rows("PRAGMA foreign_key_check")
        return found + [f"A row of {row[0]} has lost what it belongs to." for row in lost]

    def _check_jobs(self) -> list[str]:
        found = []
        for job_id, versions in self.db.rows("SELECT id, versions FROM job ORDER BY day"):
            try:
                versions_from(versions)
                self.job(job_id)
            except BookError as error:
                found.append(str(error))
        return found

    def _check_rest(self) -> list[str]:
        """Copies of engines, and what was learnt."""
        found = [
            f"The copy {digest[:8]} of an engine makes no sense."
            for (digest,) in self.db.rows("SELECT digest FROM engine_copy")
            if self.engine_values(digest) is None
        ]
        self.learnt.hand_tests()
        self.learnt.hot_cold()
        return found + [f"What was learnt, {row}, makes no sense." for row in self.learnt.senseless]

    def digests(self) -> dict[str, str]:
        """What each job says, as a mark, by its id."""
        return {job.id: job_digest(job) for job in self.jobs_where("1")}


def _entry(row: Sequence[Any], seen: dict[Item, Seen], *, by_distance: bool) -> Entry:
    parts = _parts(row[5])
    for name in {part.item for part in parts if part.item_anew}:
        item = item_named(name)
        seen[item] = replace(seen.get(item, Seen()), anew=True)
    # Hours and km are never held against each other.
    clock = checked_clock(row[2]) if bool(row[3]) == by_distance else None
    anew = any(part.all_anew for part in parts)
    return Entry(row[0], date.fromisoformat(row[1]), clock, row[4], seen, anew)


def versions_from(text: str) -> dict[str, int]:
    """How often each writer wrote into a job. Raises `BookError`."""
    try:
        value = plain_json(text)
        if not isinstance(value, dict) or any(type(count) is not int for count in value.values()):
            raise ValueError("it is no count of writes")
    except NO_SENSE as error:
        raise BookError(f"The count of writes of a job makes no sense ({error}).") from None
    return value


def _parts(head: str) -> tuple[Part, ...]:
    """The parts that were changed in a job. Most heads have none; only those that do are read."""
    if '"parts"' not in head:
        return ()
    parts: tuple[Part, ...] = head_from_values(plain_json(head)).get("parts", ())
    return parts


def _versions_text(versions: Mapping[str, int]) -> str:
    return json.dumps(versions, sort_keys=True, separators=(",", ":"))
