"""Results from the disk: read, judged again and collected, whatever a file turns out to be."""

import contextlib
import hashlib
import logging
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path
from typing import Final

from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.files.lesson_file import SUFFIX as LESSON_SUFFIX
from true_compass.files.lesson_file import lesson_digest, parse_lesson, read_lesson
from true_compass.files.problems import EngineFileError, shown_text
from true_compass.files.reading import read_text
from true_compass.lessons.collect import Known, Sheet, one_each, sheet_of
from true_compass.lessons.lesson import Lesson
from true_compass.lessons.result import SUFFIX, ResultError, parse_result

MOST_BYTES: Final = 20_000_000
MOST_FILES: Final = 2_000
MOST_LESSONS: Final = 60
_LOG: Final = logging.getLogger(__name__)


class NoResultError(Exception):
    """A file that gives no result, as a sentence that names it."""


@lru_cache(maxsize=32)
def _lesson(_mark: str, text: str, name: str) -> Lesson:
    return parse_lesson(text, name)


def read_sheet(path: Path) -> Sheet:
    """A result, judged again. Raises `NoResultError` with one sentence."""
    name = shown_text(path.name)
    try:
        result = parse_result(read_text(path, "a result", MOST_BYTES))
        text = result.header.lesson
        mark = hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
        lesson = _lesson(mark, text, "its lesson")
    except ResultError as error:
        end = "" if str(error).endswith("?") else "."
        raise NoResultError(f"{name} {error}{end}") from None
    except EngineFileError as error:
        raise NoResultError(f"{name}: {error}") from None
    if lesson.id != result.header.lesson_id or lesson_digest(lesson) != result.header.lesson_digest:
        raise NoResultError(f"{name} names another lesson than the one it holds: it is left out.")
    return sheet_of(name, result, lesson)


def result_paths(folder: Path) -> list[Path]:
    """The result files of a folder, by name. Raises `OSError`."""
    found = [path for path in folder.iterdir() if path.name.endswith(SUFFIX)]
    return sorted(found, key=lambda path: path.name)[:MOST_FILES]


@dataclass(frozen=True, slots=True)
class Collected:
    """What was collected: results judged again, what was left out and why, and whether all."""

    sheets: tuple[Sheet, ...]
    left_out: tuple[str, ...]
    all: bool = True


def sheet_or_why(path: Path) -> Sheet | str:
    """A result, or the sentence that says why there is none: one file never stops a class."""
    try:
        return read_sheet(path)
    except NoResultError as error:
        return str(error)
    except Exception:
        _LOG.exception("a result could not be judged")
        return f"{shown_text(path.name)} holds what cannot be judged: it is left out."


def known_lessons(folders: Iterable[Path]) -> dict[str, frozenset[str]]:
    """Digests of the lessons that a class has: those that ship, else those in its folders."""
    found: dict[str, set[str]] = {}
    for folder in folders:
        with contextlib.suppress(OSError):
            paths = [path for path in folder.iterdir() if path.name.endswith(LESSON_SUFFIX)]
            for path in sorted(paths)[:MOST_LESSONS]:
                with contextlib.suppress(EngineFileError):
                    lesson = read_lesson(path)
                    found.setdefault(lesson.id, set()).add(lesson_digest(lesson))
    return {key: frozenset(digests) for key, digests in found.items()} | _shipped_digests()


@cache
def _shipped_digests() -> dict[str, frozenset[str]]:
    lessons = map(shipped_lesson, lesson_names())
    return {lesson.id: frozenset([lesson_digest(lesson)]) for lesson in lessons}


def collect(
    paths: Iterable[Path],
    go_on: Callable[[int], bool] = lambda _done: True,
    known: Known | None = None,
) -> Collected:
    """Read results one after the other. `go_on` is told how many are done, and may say no."""
    sheets: list[Sheet] = []
    left_out: list[str] = []
    for done, path in enumerate(paths):
        if not go_on(done):
            return Collected(tuple(one_each(sheets, known)), tuple(left_out), all=False)
        held = sheet_or_why(path)
        if isinstance(held, str):
            left_out.append(held)
        else:
            sheets.append(held)
    return Collected(tuple(one_each(sheets, known)), tuple(left_out))
