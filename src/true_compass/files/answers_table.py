"""Every answer on record as a table that a spreadsheet opens."""

from collections.abc import Iterable
from pathlib import Path
from typing import Final

from true_compass.core.chained import compact
from true_compass.files.answers_file import Kept
from true_compass.files.atomic import write_atomic
from true_compass.files.job_table import csv_text

HEADS: Final = ("person", "name", "lesson", "skill", "engine", "layout")
GIVEN: Final = ("part", "nth", "at", "day", "aided", "credit", "idea", "question", "answer")


def write_answers_csv(path: Path, kept: Iterable[Kept]) -> int:
    """Write a line an answer; how many. The question and the answer are JSON. Raises `OSError`."""
    lines = [[*HEADS, *GIVEN]]
    for one in kept:
        who = (one.person.id, one.person.name, one.lesson_id, one.skill, one.engine, one.layout)
        lines.append([*who, *(_cell(one.given[k]) for k in GIVEN)])
    write_atomic(path, "\ufeff" + csv_text(lines))
    return len(lines) - 1


def _cell(value: object) -> str:
    return value if isinstance(value, str) else compact(value)
