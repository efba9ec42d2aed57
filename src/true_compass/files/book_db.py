"""The file of a book: its tables. How it is opened and written is `database`."""

from collections.abc import Callable
from typing import ClassVar, Final

from true_compass.files.database import Records, RecordsError, RecordsKind
from true_compass.files.kinds import ENDINGS, FileKind

SUFFIX: Final = ENDINGS[FileKind.BOOK]
APPLICATION_ID: Final = 0x54434231
"""`TCB1` in the file's head: what tells a book from another database."""
VERSION: Final = 2
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

UPGRADES: Final = {1: ("ALTER TABLE item ADD COLUMN more TEXT NOT NULL DEFAULT ''",)}


class BookError(RecordsError):
    """The book cannot do what was asked: one sentence with the way out. Nothing has changed."""


class StoppedError(BookError):
    """The person stopped it: everything is as it was."""


Progress = Callable[[int, int], bool]
"""Told how many of how many are done; answers whether to go on."""


def go_on(done: int, of: int) -> bool:
    """Nobody is told, and nobody stops it."""
    return done <= of


class BookDb(Records):
    """An open book's file. Every method raises `BookError`, and then nothing has changed."""

    kind: ClassVar[RecordsKind] = RecordsKind(
        word="book",
        suffix=SUFFIX,
        application_id=APPLICATION_ID,
        version=VERSION,
        schema=SCHEMA_1,
        upgrades=UPGRADES,
        begun="SELECT 1 FROM job LIMIT 1",
        otherwise="choose another with --book",
        error=BookError,
    )
