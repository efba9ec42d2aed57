"""Records in one file: opened, upgraded, written whole or not at all, copied by its own means.

It is SQLite with a write-ahead log and synchronous FULL: what is written is on the disk. A file of
an older version is upgraded step by step after a copy was put beside it; one of a newer version,
a file of another kind, and one with other tables, views or triggers than ours are refused and left
as they are.
"""

import contextlib
import os
import re
import sqlite3
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import date, datetime
from enum import Enum
from pathlib import Path
from typing import Any, ClassVar, Final

from true_compass.files.atomic import replacing
from true_compass.files.problems import shown_text

BUSY_S: Final = 5.0
SOON_S: Final = 0.04
"""How long a window waits for another program that is writing."""
MOST_BACKUPS: Final = 7
PAGES: Final = 500
STEPS: Final = 100_000
MOST_STEPS_A_PAGE: Final = 200_000
"""How many steps of the database a question may take for each page of the file: a whole check of a
sound book takes under a hundredth of it."""
MOST_CELL: Final = 20_000_000
BEFORE_MERGE: Final = "-before-merge"
SQL_ERRORS: Final = (sqlite3.Error, UnicodeDecodeError)
"""What a question raises; the second where even the name of what is wrong is no text."""
_HEAD_BYTES: Final = 72


class RecordsError(Exception):
    """The file cannot do what was asked: one sentence with the way out. Nothing has changed.

    `why` is what lies behind it: what passes is worth trying again.
    """

    def __init__(self, sentence: str, why: "Why | None" = None) -> None:
        super().__init__(sentence)
        self.why = why

    @property
    def passes(self) -> bool:
        """Whether it may go by itself."""
        return self.why in (Why.HELD, Why.ROOM)

    @property
    def is_damage(self) -> bool:
        """Whether the file itself makes no sense: then a copy may take its place."""
        return self.why is Why.DAMAGE


class Why(Enum):
    """What lies behind an error of the database, with the codes that tell it (*Result and Error
    Codes*, sqlite.org).
    """

    HELD = "BUSY LOCKED PROTOCOL"
    ROOM = "FULL IOERR CANTOPEN"
    DAMAGE = "CORRUPT INTERRUPT"
    OTHER_KIND = "NOTADB"
    ONLY_READ = "READONLY"


def why_of(error: BaseException) -> Why:
    """What lies behind an error, by its code; without one the file makes no sense."""
    if isinstance(error, OSError):
        return Why.ROOM
    name = getattr(error, "sqlite_errorname", None) or "SQLITE_CORRUPT"
    kind = name.removeprefix("SQLITE_").partition("_")[0]
    return next((why for why in Why if kind in why.value.split()), Why.DAMAGE)


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


_SCHEMAS: Final[dict[tuple[int, int], frozenset[tuple[str, str]]]] = {}


def _schema(kind: RecordsKind, version: int) -> frozenset[tuple[str, str]]:
    """The tables and indexes of a version as they were released."""
    key = (kind.application_id, version)
    if key not in _SCHEMAS:
        with contextlib.closing(sqlite3.connect(":memory:")) as db:
            for statement in kind.schema:
                db.execute(statement)
            for older in range(1, version):
                for statement in kind.upgrades[older]:
                    db.execute(statement)
            _SCHEMAS[key] = _told(db.execute("SELECT type, name, sql FROM sqlite_master"))
    return _SCHEMAS[key]


def _told(rows: Iterable[tuple[str, str, str | None]]) -> frozenset[tuple[str, str]]:
    """What makes a schema; what the database itself adds (statistics, keys) left out."""
    return frozenset(
        (name, " ".join((sql or "").split()))
        for kind, name, sql in rows
        if not (kind in ("table", "index") and name.startswith("sqlite_"))
    )


def copies_of(path: Path, end: str = "") -> list[Path]:
    """Copies of a file of records in the folder beside it, the newest first: those of each day, or
    with `BEFORE_MERGE` those from before another book came in.
    """
    moment = r"\d{4}-\d\d-\d\d" + (r"-\d{6}" if end else "")
    named = re.compile(f"{re.escape(path.stem)}-{moment}{re.escape(end + path.suffix)}")
    with contextlib.suppress(OSError):
        folder = path.parent / "backups"
        return sorted((p for p in folder.iterdir() if named.fullmatch(p.name)), reverse=True)
    return []


def newest_copy(kind: RecordsKind, path: Path) -> Path | None:
    """The newest copy that is whole, of all that are beside a file."""
    copies = copies_of(path) + copies_of(path, BEFORE_MERGE)
    copies.sort(key=lambda copy: copy.name.removesuffix(path.suffix), reverse=True)
    return next((copy for copy in copies if _is_whole(kind, copy)), None)


def _is_whole(kind: RecordsKind, path: Path) -> bool:
    with contextlib.suppress(*SQL_ERRORS, OSError, KeyError):
        uri = f"{path.resolve().as_uri()}?mode=ro&immutable=1"
        with contextlib.closing(sqlite3.connect(uri, uri=True)) as db:
            version = db.execute("PRAGMA user_version").fetchone()[0]
            rows = db.execute("SELECT type, name, sql FROM sqlite_master").fetchall()
            sound = db.execute("PRAGMA quick_check(1)").fetchone()[0] == "ok"
            return bool(sound and _told(rows) == _schema(kind, version))
    return False


_WORDS: Final = {
    Why.HELD: "another program holds it",
    Why.ROOM: "there is no room on its disk, or the disk fails",
    Why.ONLY_READ: "it can only be read",
}


def _reason(error: BaseException) -> str:
    return getattr(error, "strerror", None) or _WORDS.get(why_of(error)) or str(error)


class Records:
    """An open file of records. A method raises its kind's error, and then nothing has changed."""

    kind: ClassVar[RecordsKind]

    def __init__(self, path: Path, *, read_only: bool = False, busy_s: float = BUSY_S) -> None:
        self.path = path
        self.why_read_only = ""
        self._busy_s = busy_s
        self._steps = 0
        self._most_steps = 0
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
        made = not path.exists()
        is_new = made or path.stat().st_size == 0
        self._check_head(path)
        if not is_new and not (os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)):
            self._only_read(path, "its folder or file cannot be written")
            return
        try:
            self._connect(path)
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
        except (*SQL_ERRORS, RecordsError) as error:
            self._give_up(path, made=made)
            raise error if isinstance(error, RecordsError) else self._broken(error) from None

    def _give_up(self, path: Path, *, made: bool) -> None:
        """Leave nothing behind of a file that could not be begun."""
        with contextlib.suppress(sqlite3.Error, AttributeError):
            self._db.close()
        with contextlib.suppress(OSError):
            if made and path.stat().st_size == 0:
                for name in ("", "-wal", "-shm"):
                    path.with_name(path.name + name).unlink(missing_ok=True)

    def _connect(self, path: Path | str) -> None:
        is_uri = isinstance(path, str)
        self._db = sqlite3.connect(path, timeout=self._busy_s, isolation_level=None, uri=is_uri)
        # Whoever made the file has no say in what is run here.
        for line in ("trusted_schema = OFF", "cell_size_check = ON"):
            self._db.execute(f"PRAGMA {line}")
        self._db.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, MOST_CELL)
        self._db.set_progress_handler(self._on_step, STEPS)

    def _on_step(self) -> int:
        self._steps += STEPS
        return int(0 < self._most_steps < self._steps)

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
            self._connect(uri)
            self._check_kind()
        except SQL_ERRORS as error:
            self._give_up(path, made=False)
            raise self._broken(error) from None
        except RecordsError:
            self._give_up(path, made=False)
            raise
        self.why_read_only = why

    def _broken(self, error: Exception) -> RecordsError:
        why = why_of(error)
        if why is Why.OTHER_KIND:
            return self._another_kind()
        if why is Why.HELD:
            return self.kind.error(
                f"Another program holds the {self._word} {self.name}. Nothing was lost: it is "
                "tried again.",
                why,
            )
        if why in (Why.ROOM, Why.ONLY_READ):
            way = "Make room; or" if why is Why.ROOM else "Copy it to a folder of your own; or"
            return self.kind.error(
                f"The {self._word} {self.name} could not be used: {_WORDS[why]}. {way} "
                f"{self.kind.otherwise}.",
                why,
            )
        code = getattr(error, "sqlite_errorname", "")
        endless = code == "SQLITE_INTERRUPT"
        return self.damaged("a question has no end" if endless else "it does not hang together")

    def damaged(self, what: str) -> RecordsError:
        """It makes no sense: the sentence names the newest copy that does."""
        copy = newest_copy(self.kind, self.path)
        way = (
            f"the newest whole copy is {shown_text(copy.name)} in the folder {copy.parent.name}"
            if copy is not None
            else "there is no whole copy of it in the folder backups"
        )
        return self.kind.error(
            f"{self.name} is damaged ({what}). It was not touched: {way}.", Why.DAMAGE
        )

    def _another_kind(self) -> RecordsError:
        return self.kind.error(
            f"{self.name} is no {self._word}: choose another file. It was not touched."
        )

    def _check_head(self, path: Path) -> None:
        """Refuse by the first bytes what is of another kind or newer: so nothing is put beside it.

        (*Database File Format*, sqlite.org: version at byte 60, application id at byte 68.)
        """
        with contextlib.suppress(OSError):
            with path.open("rb") as file:
                head = file.read(_HEAD_BYTES)
            if len(head) == _HEAD_BYTES and head.startswith(b"SQLite format 3\0"):
                version, kind = (int.from_bytes(head[at : at + 4], signed=True) for at in (60, 68))
                if kind == self.kind.application_id:
                    self._check_version(version)
                elif kind:
                    raise self._another_kind()

    def _check_kind(self) -> None:
        kind = self._db.execute("PRAGMA application_id").fetchone()[0]
        version = self._db.execute("PRAGMA user_version").fetchone()[0]
        rows = self._db.execute("SELECT type, name, sql FROM sqlite_master").fetchall()
        if kind != self.kind.application_id and (rows or kind):
            raise self._another_kind()
        self._check_version(version)
        if (rows or version) and _told(rows) != _schema(self.kind, version):
            raise self.damaged("its tables are not those of this program")
        pages = self._db.execute("PRAGMA page_count").fetchone()[0]
        self._most_steps = MOST_STEPS_A_PAGE * (pages + 100)

    def _check_version(self, version: int) -> None:
        if version < 0:
            raise self.damaged(f"it says that it is of version {version}")
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
        """One change, whole or not at all; within another it is part of that one."""
        if self._db.in_transaction:
            yield
            return
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
        except SQL_ERRORS as error:
            why = why_of(error)
            if why is Why.DAMAGE:
                raise self._broken(error) from None
            way = "Make room or choose another folder" if why is Why.ROOM else "Try again"
            raise self.kind.error(
                f"{thing.capitalize()} could not be written into {self.name} ({_reason(error)}). "
                f"{way}: what was typed is still here.",
                why,
            ) from None

    def do(self, sql: str, *values: Any) -> None:
        """One statement within `writing`."""
        self._steps = 0
        self._db.execute(sql, values)

    def rows(self, sql: str, *values: Any) -> list[tuple[Any, ...]]:
        """What a question in SQL answers."""
        self._steps = 0
        try:
            return self._db.execute(sql, values).fetchall()
        except SQL_ERRORS as error:
            raise self._broken(error) from None

    def sweep(self) -> None:
        """Write the file anew without what was taken out."""
        try:
            self._db.execute("VACUUM")
            self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        except SQL_ERRORS as error:
            raise self._broken(error) from None

    @property
    def version(self) -> int:
        """The version of the file as it is: an older one that is only looked at stays so."""
        return int(self.rows("PRAGMA user_version")[0][0])

    @property
    def data_version(self) -> int:
        """Changes when somebody else wrote into it."""
        return int(self.rows("PRAGMA data_version")[0][0])

    def copy_to(self, path: Path, tell: Callable[[int, int], bool] | None = None) -> None:
        """All of it as one file, by the database's own means, in one step. `tell` is told how many
        pages of how many are copied, and says whether to go on.
        """

        def on_pages(_status: int, left: int, of: int) -> None:
            if tell is not None and not tell(of - left, of):
                raise self.kind.error("Stopped: nothing was written.")

        try:
            with replacing(path) as part:
                copy = sqlite3.connect(part)
                try:
                    self._db.backup(copy, pages=PAGES, progress=on_pages)
                    copy.execute("PRAGMA journal_mode = DELETE")
                finally:
                    copy.close()
        except (OSError, *SQL_ERRORS) as error:
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
        for end in ("", BEFORE_MERGE):
            for old in copies_of(self.path, end)[MOST_BACKUPS:]:
                with contextlib.suppress(OSError):
                    old.unlink()

    def back_up_before_merge(self, now: datetime) -> None:
        """A copy before another book comes in."""
        if self.rows(self.kind.begun):
            self.back_up(f"{now:%Y-%m-%d-%H%M%S}{BEFORE_MERGE}")

    def back_up_of_day(self, day: date) -> None:
        """One copy a day, before the first entry of it."""
        there = (
            self.path.parent / "backups" / f"{self.path.stem}-{day.isoformat()}{self.kind.suffix}"
        )
        if not there.exists() and not self.why_read_only and self.rows(self.kind.begun):
            self.back_up(day.isoformat())
