"""The file of a book: opened, upgraded, written whole or not at all, copied by its own means.

A book is SQLite with a write-ahead log and synchronous FULL: what is written is on the disk. A book
of an older version is upgraded step by step after a copy was put beside it; one of a newer version,
and a file that is no book, are refused and left as they are.
"""

import contextlib
import os
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import date
from pathlib import Path
from typing import Any, Final

from true_compass.files.atomic import replacing
from true_compass.files.problems import shown_text

SUFFIX: Final = ".tcbook"
NAME: Final = f"book{SUFFIX}"
APPLICATION_ID: Final = 0x54434231
"""`TCB1` in the file's head: what tells a book from another database."""
VERSION: Final = 1
BUSY_S: Final = 5.0
MOST_BACKUPS: Final = 7

_MEASURE: Final = ", ".join(
    f"{which}_low REAL, {which}_high REAL, {which}_turns REAL, {which}_text TEXT NOT NULL, "
    f"{which}_unit TEXT NOT NULL"
    for which in ("found", "left", "after_nut")
)
SCHEMA_1: Final = (
    "CREATE TABLE engine (id TEXT PRIMARY KEY, name TEXT NOT NULL, serial TEXT NOT NULL, "
    "source TEXT NOT NULL, digest TEXT NOT NULL) STRICT",
    "CREATE TABLE engine_copy (digest TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT",
    "CREATE TABLE person (id TEXT PRIMARY KEY, name TEXT NOT NULL) STRICT",
    "CREATE TABLE job (id TEXT PRIMARY KEY, engine_id TEXT NOT NULL REFERENCES engine (id), "
    "engine_digest TEXT NOT NULL, day TEXT NOT NULL, made TEXT NOT NULL, person_id TEXT NOT NULL, "
    "clock REAL, by_distance INTEGER NOT NULL, head TEXT NOT NULL, changed TEXT NOT NULL, "
    "versions TEXT NOT NULL) STRICT",
    "CREATE INDEX job_of_engine ON job (engine_id, day, made)",
    f"CREATE TABLE item (job_id TEXT NOT NULL REFERENCES job (id), name TEXT NOT NULL, {_MEASURE}, "
    "torque_nm REAL NOT NULL, stripe INTEGER NOT NULL, note TEXT NOT NULL, anew TEXT NOT NULL, "
    "shim_mm REAL, shim_left_mm REAL, "
    "PRIMARY KEY (job_id, name)) STRICT, WITHOUT ROWID",
    "CREATE TABLE hand_test (id TEXT PRIMARY KEY, person_id TEXT NOT NULL, day TEXT NOT NULL, "
    "step_mm REAL NOT NULL, pairs TEXT NOT NULL) STRICT",
    "CREATE TABLE hot_cold (id TEXT PRIMARY KEY, engine_id TEXT NOT NULL, of TEXT NOT NULL, "
    "diff_mm REAL NOT NULL, temperature_c REAL, day TEXT NOT NULL) STRICT",
    "CREATE TABLE drawer (size_mm REAL PRIMARY KEY, count INTEGER NOT NULL) STRICT",
)
UPGRADES: Final[Mapping[int, Sequence[str]]] = {}
"""What makes a book of each older version one of the next; one statement at a time."""


class BookError(Exception):
    """The book cannot do what was asked: one sentence with the way out. Nothing has changed."""


def _reason(error: BaseException) -> str:
    text = getattr(error, "strerror", None) or str(error)
    if "readonly" in text:
        return "it can only be read"
    if "locked" in text:
        return "another program holds it"
    return text


class BookDb:
    """An open book's file. Every method raises `BookError`, and then nothing has changed."""

    def __init__(self, path: Path, *, read_only: bool = False) -> None:
        self.path = path
        self.why_read_only = ""
        if read_only:
            self._only_read(path, "it was opened for looking only")
        else:
            self._open(path)

    def _open(self, path: Path) -> None:
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise BookError(
                f"The folder of the book, {shown_text(str(path.parent))}, cannot be made "
                f"({_reason(error)}): choose another with --book."
            ) from None
        if path.exists() and not path.is_file():
            raise BookError(f"{self.name}, the book, is no ordinary file: choose another.")
        is_new = not path.exists() or path.stat().st_size == 0
        if not is_new and not (os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)):
            self._only_read(path, "its folder or file cannot be written")
            return
        try:
            self._db = sqlite3.connect(path, timeout=BUSY_S, isolation_level=None)
            self._db.execute("PRAGMA foreign_keys = ON")
            if not is_new:
                self._check_kind()
            mode = self._db.execute("PRAGMA journal_mode = WAL").fetchone()[0]
            self._db.execute("PRAGMA synchronous = FULL")
            if mode != "wal":
                # A network folder has no shared memory between machines.
                self._db.close()
                self._only_read(
                    path, "its folder (a network folder?) cannot keep two writers apart"
                )
                return
            self._set_up()
        except sqlite3.Error as error:
            raise self._broken(error) from None

    @property
    def name(self) -> str:
        """The name of the file, fit to be shown."""
        return shown_text(self.path.name)

    def _only_read(self, path: Path, why: str) -> None:
        if not path.is_file():
            raise BookError(f"{self.name}, the book, is not there: check the name.")
        try:
            # What cannot be written beside the book (its -shm) is not needed to read it alone.
            how = "mode=ro" if os.access(path.parent, os.W_OK) else "mode=ro&immutable=1"
            uri = f"{path.resolve().as_uri()}?{how}"
            self._db = sqlite3.connect(uri, timeout=BUSY_S, isolation_level=None, uri=True)
            self._check_kind()
        except sqlite3.Error as error:
            raise self._broken(error) from None
        self.why_read_only = why

    def _broken(self, error: sqlite3.Error) -> BookError:
        if isinstance(error, sqlite3.DatabaseError) and "not a database" in str(error):
            return BookError(f"{self.name} is no book: choose another file. It was not touched.")
        if "malformed" in str(error):
            return BookError(
                f"{self.name} is damaged ({error}). It was not touched: take the newest copy in "
                "the folder backups beside it."
            )
        return BookError(f"The book {self.name} could not be used ({_reason(error)}).")

    def _check_kind(self) -> None:
        kind = self._db.execute("PRAGMA application_id").fetchone()[0]
        version = self._db.execute("PRAGMA user_version").fetchone()[0]
        tables = self._db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]
        if kind != APPLICATION_ID and (tables or kind):
            raise BookError(f"{self.name} is no book: choose another file. It was not touched.")
        if version > VERSION:
            raise BookError(
                f"{self.name} was written by a newer version of the program (book {version}, this "
                f"one reads up to {VERSION}). It was not touched: use the newer program."
            )

    def _set_up(self) -> None:
        version = self._db.execute("PRAGMA user_version").fetchone()[0]
        if version == VERSION:
            return
        if version:
            self.back_up(f"before-version-{VERSION}")
        with self.writing("the book"):
            # Another window may have been quicker.
            version = self._db.execute("PRAGMA user_version").fetchone()[0]
            if not version:
                for statement in SCHEMA_1:
                    self._db.execute(statement)
                self._db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
                version = 1
            while version < VERSION:
                for statement in UPGRADES[version]:
                    self._db.execute(statement)
                version += 1
            self._db.execute(f"PRAGMA user_version = {VERSION}")

    def close(self) -> None:
        """Let go of the file."""
        with contextlib.suppress(sqlite3.Error):
            self._db.close()

    @contextmanager
    def writing(self, thing: str) -> Iterator[None]:
        """One change, whole or not at all."""
        if self.why_read_only:
            raise BookError(
                f"{thing.capitalize()} cannot be written into {self.name}: {self.why_read_only}. "
                "Copy the book to a folder of your own and open it there."
            )
        try:
            self._db.execute("BEGIN IMMEDIATE")
            try:
                yield
                self._db.execute("COMMIT")
            except BaseException:
                with contextlib.suppress(sqlite3.Error):
                    self._db.execute("ROLLBACK")
                raise
        except sqlite3.Error as error:
            way = "Make room or choose another folder" if "full" in str(error) else "Try again"
            raise BookError(
                f"{thing.capitalize()} could not be written into {self.name} ({_reason(error)}). "
                f"{way}: what was typed is still here."
            ) from None

    def do(self, sql: str, *values: Any) -> None:
        """One statement within `writing`."""
        self._db.execute(sql, values)

    def rows(self, sql: str, *values: Any) -> list[tuple[Any, ...]]:
        """What a question in SQL answers."""
        try:
            return self._db.execute(sql, values).fetchall()
        except sqlite3.Error as error:
            raise self._broken(error) from None

    @property
    def data_version(self) -> int:
        """Changes when somebody else wrote into the book."""
        return int(self.rows("PRAGMA data_version")[0][0])

    def copy_to(self, path: Path) -> None:
        """The whole book as one file, by the database's own means, in one step."""
        try:
            with replacing(path) as part:
                copy = sqlite3.connect(part)
                try:
                    self._db.backup(copy)
                    copy.execute("PRAGMA journal_mode = DELETE")
                finally:
                    copy.close()
        except (OSError, sqlite3.Error) as error:
            raise BookError(
                f"{shown_text(path.name)} could not be written ({_reason(error)})."
            ) from None

    def back_up(self, word: str) -> None:
        """A copy in the folder `backups` beside the book; the oldest of too many go."""
        folder = self.path.parent / "backups"
        try:
            folder.mkdir(exist_ok=True)
        except OSError as error:
            raise BookError(f"No copy of the book could be made ({_reason(error)}).") from None
        self.copy_to(folder / f"{self.path.stem}-{word}{SUFFIX}")
        copies = sorted(folder.glob(f"{self.path.stem}-20*{SUFFIX}"))
        for old in copies[:-MOST_BACKUPS]:
            with contextlib.suppress(OSError):
                old.unlink()

    def back_up_of_day(self, day: date) -> None:
        """One copy a day, before the first entry of it."""
        there = self.path.parent / "backups" / f"{self.path.stem}-{day.isoformat()}{SUFFIX}"
        if not there.exists() and not self.why_read_only and self.rows("SELECT 1 FROM job LIMIT 1"):
            self.back_up(day.isoformat())
