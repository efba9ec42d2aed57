"""Records in one file: opened, upgraded, written whole or not at all, copied by its own means.

It is SQLite with a write-ahead log and synchronous FULL: what is written is on the disk. A file of
an older version is upgraded step by step after a copy was put beside it; one of a newer version,
and a file of another kind, are refused and left as they are.
"""

import contextlib
import os
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path
from typing import Any, ClassVar, Final

from true_compass.files.atomic import replacing
from true_compass.files.problems import shown_text

BUSY_S: Final = 5.0
MOST_BACKUPS: Final = 7


class RecordsError(Exception):
    """The file cannot do what was asked: one sentence with the way out. Nothing has changed."""


@dataclass(frozen=True, slots=True)
class RecordsKind:
    """A kind of such files: what it is called (`book`), its ending, number, and tables.

    `upgrades` make a file of each older version one of the next, one statement at a time.
    `begun` is a question that has an answer once something was written. `otherwise` is the way out
    where its folder cannot be made.
    """

    word: str
    suffix: str
    application_id: int
    version: int
    schema: Sequence[str]
    begun: str
    otherwise: str
    error: type[RecordsError] = RecordsError
    upgrades: Mapping[int, Sequence[str]] = field(default_factory=dict)


def _reason(error: BaseException) -> str:
    text = getattr(error, "strerror", None) or str(error)
    if "readonly" in text:
        return "it can only be read"
    if "locked" in text:
        return "another program holds it"
    return text


class Records:
    """An open file of records. A method raises its kind's error, and then nothing has changed."""

    kind: ClassVar[RecordsKind]

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
            raise self.kind.error(
                f"The folder of the {self._word}, {shown_text(str(path.parent))}, cannot be made "
                f"({_reason(error)}): {self.kind.otherwise}."
            ) from None
        if path.exists() and not path.is_file():
            raise self.kind.error(
                f"{self.name}, the {self._word}, is no ordinary file: choose another."
            )
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
    def _word(self) -> str:
        return self.kind.word

    @property
    def name(self) -> str:
        """The name of the file, fit to be shown."""
        return shown_text(self.path.name)

    def _only_read(self, path: Path, why: str) -> None:
        if not path.is_file():
            raise self.kind.error(f"{self.name}, the {self._word}, is not there: check the name.")
        try:
            # What cannot be written beside the book (its -shm) is not needed to read it alone.
            how = "mode=ro" if os.access(path.parent, os.W_OK) else "mode=ro&immutable=1"
            uri = f"{path.resolve().as_uri()}?{how}"
            self._db = sqlite3.connect(uri, timeout=BUSY_S, isolation_level=None, uri=True)
            self._check_kind()
        except sqlite3.Error as error:
            raise self._broken(error) from None
        self.why_read_only = why

    def _broken(self, error: sqlite3.Error) -> RecordsError:
        if isinstance(error, sqlite3.DatabaseError) and "not a database" in str(error):
            return self._another_kind()
        if "malformed" in str(error):
            return self.kind.error(
                f"{self.name} is damaged ({error}). It was not touched: take the newest copy in "
                "the folder backups beside it."
            )
        return self.kind.error(
            f"The {self._word} {self.name} could not be used ({_reason(error)})."
        )

    def _another_kind(self) -> RecordsError:
        return self.kind.error(
            f"{self.name} is no {self._word}: choose another file. It was not touched."
        )

    def _check_kind(self) -> None:
        kind = self._db.execute("PRAGMA application_id").fetchone()[0]
        version = self._db.execute("PRAGMA user_version").fetchone()[0]
        tables = self._db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]
        if kind != self.kind.application_id and (tables or kind):
            raise self._another_kind()
        if version > self.kind.version:
            raise self.kind.error(
                f"{self.name} was written by a newer version of the program ({self._word} "
                f"{version}, this one reads up to {self.kind.version}). It was not touched: use "
                "the newer program."
            )

    def _set_up(self) -> None:
        version = self._db.execute("PRAGMA user_version").fetchone()[0]
        if version == self.kind.version:
            return
        if version:
            self.back_up(f"before-version-{self.kind.version}")
        with self.writing(f"the {self._word}"):
            # Another window may have been quicker.
            version = self._db.execute("PRAGMA user_version").fetchone()[0]
            if not version:
                for statement in self.kind.schema:
                    self._db.execute(statement)
                self._db.execute(f"PRAGMA application_id = {self.kind.application_id}")
                version = 1
            while version < self.kind.version:
                for statement in self.kind.upgrades[version]:
                    self._db.execute(statement)
                version += 1
            self._db.execute(f"PRAGMA user_version = {self.kind.version}")

    def close(self) -> None:
        """Let go of the file."""
        with contextlib.suppress(sqlite3.Error):
            self._db.close()

    @contextmanager
    def writing(self, thing: str) -> Iterator[None]:
        """One change, whole or not at all."""
        if self.why_read_only:
            raise self.kind.error(
                f"{thing.capitalize()} cannot be written into {self.name}: {self.why_read_only}. "
                f"Copy the {self._word} to a folder of your own and open it there."
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
            raise self.kind.error(
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

    def sweep(self) -> None:
        """Write the file anew without what was taken out."""
        try:
            self._db.execute("VACUUM")
            self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        except sqlite3.Error as error:
            raise self._broken(error) from None

    @property
    def version(self) -> int:
        """The version of the file as it is: an older one that is only looked at stays so."""
        return int(self.rows("PRAGMA user_version")[0][0])

    @property
    def data_version(self) -> int:
        """Changes when somebody else wrote into it."""
        return int(self.rows("PRAGMA data_version")[0][0])

    def copy_to(self, path: Path) -> None:
        """All of it as one file, by the database's own means, in one step."""
        try:
            with replacing(path) as part:
                copy = sqlite3.connect(part)
                try:
                    self._db.backup(copy)
                    copy.execute("PRAGMA journal_mode = DELETE")
                finally:
                    copy.close()
        except (OSError, sqlite3.Error) as error:
            raise self.kind.error(
                f"{shown_text(path.name)} could not be written ({_reason(error)})."
            ) from None

    def back_up(self, word: str) -> None:
        """A copy in the folder `backups` beside the file; the oldest of too many go."""
        folder = self.path.parent / "backups"
        try:
            folder.mkdir(exist_ok=True)
        except OSError as error:
            raise self.kind.error(
                f"No copy of the {self._word} could be made ({_reason(error)})."
            ) from None
        self.copy_to(folder / f"{self.path.stem}-{word}{self.kind.suffix}")
        copies = sorted(folder.glob(f"{self.path.stem}-20*{self.kind.suffix}"))
        for old in copies[:-MOST_BACKUPS]:
            with contextlib.suppress(OSError):
                old.unlink()

    def back_up_of_day(self, day: date) -> None:
        """One copy a day, before the first entry of it."""
        there = (
            self.path.parent / "backups" / f"{self.path.stem}-{day.isoformat()}{self.kind.suffix}"
        )
        if not there.exists() and not self.why_read_only and self.rows(self.kind.begun):
            self.back_up(day.isoformat())
