"""What kind of file one is, by its name and its first line; what is in it is checked later."""

from enum import Enum
from pathlib import Path
from typing import Final

from true_compass.files.engine_file import SUFFIX, is_engine_file
from true_compass.files.lift_table import ANGLES, LIFTS
from true_compass.files.problems import EngineFileError
from true_compass.files.reading import column_mark, one_problem, read_head

HEAD_BYTES: Final = 4096
JOB_COLUMNS: Final = frozenset({"job", "date", "item"})
"""What the first line of a table of jobs names, among others."""
OPENS: Final = (
    f"It opens engines (*{SUFFIX}), scenarios, lessons, books, lift tables and tables of jobs"
)


class FileKind(Enum):
    """What a file is for."""

    ENGINE = "engine"
    SCENARIO = "scenario"
    LESSON = "lesson"
    BOOK = "book"
    LIFT_TABLE = "lift table"
    JOB_TABLE = "job table"
    OTHER = "other"


ENDINGS: Final = {
    FileKind.SCENARIO: ".scenario.toml",
    FileKind.LESSON: ".lesson.toml",
    FileKind.BOOK: ".tcbook",
    FileKind.ENGINE: ".toml",
}
"""How the names of files of a kind end, the longer ending first; engines are saved as `SUFFIX`."""

BOOK_NAME: Final = f"book{ENDINGS[FileKind.BOOK]}"


def kind_by_name(name: str) -> FileKind | None:
    """The kind of a file by its ending, or None where only its content tells.

    >>> kind_by_name("Tuesday.LESSON.toml"), kind_by_name("lifts.csv")
    (<FileKind.LESSON: 'lesson'>, None)
    """
    folded = name.casefold()
    return next((kind for kind, ending in ENDINGS.items() if folded.endswith(ending)), None)


def kind_of(path: Path) -> FileKind:
    """The kind of a file. Where it cannot be read at all it is taken for an engine's, whose reader
    says what is wrong with it.
    """
    kind = kind_by_name(path.name)
    if kind is not None:
        return kind
    try:
        begins = read_head(path, "a file of this program", HEAD_BYTES)
    except EngineFileError:
        return FileKind.ENGINE
    lines = begins.decode("utf-8-sig", errors="replace").splitlines()
    first = next((line for line in lines if line.strip() and not line.startswith("#")), "")
    head = [cell.strip().strip('"').casefold() for cell in first.split(column_mark(first))]
    if len(head) == 2 and head[0] in ANGLES and head[1] in LIFTS:
        return FileKind.LIFT_TABLE
    if set(head) >= JOB_COLUMNS:
        return FileKind.JOB_TABLE
    return FileKind.ENGINE if is_engine_file(path) else FileKind.OTHER


_NO_ENGINE: Final = {
    FileKind.LIFT_TABLE: "is a lift table: open an engine first, then use it for intake or "
    "exhaust (--table-intake, --table-exhaust)",
    FileKind.JOB_TABLE: "is a table of jobs: the Book takes it in (book add)",
    FileKind.OTHER: f"is not one of this program. {OPENS}",
}


def no_engine(kind: FileKind, path: Path) -> EngineFileError:
    """Why a table or a file of another program is not opened as an engine, and the way out."""
    return one_problem(path.name, _NO_ENGINE[kind])


def check_is_engine(path: Path) -> None:
    """Refuse what is a table, or of another program. Raises `EngineFileError`."""
    kind = kind_of(path)
    if kind in _NO_ENGINE:
        raise no_engine(kind, path)
