"""The lessons that ship with the program, in the order of the trade."""

import tomllib
from functools import cache
from importlib.resources import files
from importlib.resources.abc import Traversable

from true_compass.files.lesson_file import SUFFIX, lesson_from_values
from true_compass.lessons.lesson import Lesson


@cache
def _lesson_files() -> dict[str, Traversable]:
    """Files by their short name; their names begin with a number that gives the order."""
    folder = files("true_compass.course")
    entries = [entry for entry in folder.iterdir() if entry.name.endswith(SUFFIX)]
    ordered = sorted(entries, key=lambda entry: entry.name)
    return {entry.name.removesuffix(SUFFIX).partition("-")[2]: entry for entry in ordered}


def lesson_names() -> tuple[str, ...]:
    """Short names of the shipped lessons, in the order of the trade."""
    return tuple(_lesson_files())


def shipped_lesson_text(name: str) -> str:
    """The file of a shipped lesson, with its comments. Raises `KeyError` for an unknown name."""
    return _lesson_files()[name].read_text(encoding="utf-8")


@cache
def shipped_lesson(name: str) -> Lesson:
    """A shipped lesson by its short name. Raises `KeyError` for an unknown name."""
    # Without the strict reading of other files: the tests have checked these.
    return lesson_from_values(tomllib.loads(shipped_lesson_text(name)))
