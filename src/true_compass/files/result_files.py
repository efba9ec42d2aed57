"""Results from the disk: read, judged again and collected, whatever a file turns out to be."""

import hashlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Final

from true_compass.files.lesson_file import lesson_digest, parse_lesson
from true_compass.files.problems import EngineFileError, shown_text
from true_compass.files.reading import read_text
from true_compass.lessons.collect import Sheet, sheet_of
from true_compass.lessons.lesson import Lesson
from true_compass.lessons.result import SUFFIX, ResultError, parse_result

MOST_BYTES: Final = 20_000_000
MOST_FILES: Final = 2_000


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
        raise NoResultError(f"{name} {error}.") from None
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


def newest_of(sheets: Iterable[Sheet]) -> list[Sheet]:
    """One sheet a result: of copies the one with the most answers."""
    best: dict[str, Sheet] = {}
    for sheet in sheets:
        held = best.get(sheet.result.header.id)
        if held is None or len(sheet.given) > len(held.given):
            best[sheet.result.header.id] = sheet
    return list(best.values())


def collect(paths: Iterable[Path], go_on: Callable[[int], bool] = lambda _done: True) -> Collected:
    """Read results one after the other. `go_on` is told how many are done, and may say no."""
    sheets: list[Sheet] = []
    left_out: list[str] = []
    for done, path in enumerate(paths):
        if not go_on(done):
            return Collected(tuple(newest_of(sheets)), tuple(left_out), all=False)
        try:
            sheets.append(read_sheet(path))
        except NoResultError as error:
            left_out.append(str(error))
    return Collected(tuple(newest_of(sheets)), tuple(left_out))
