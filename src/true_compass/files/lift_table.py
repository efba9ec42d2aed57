"""Lift tables as people have them: CSV, two columns, any spacing, mm, inches or thou."""

import csv
import math
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from true_compass.core.limits import EngineError
from true_compass.core.units import MM_PER_INCH, MM_PER_THOU
from true_compass.core.valves.cam import MOST_TABLE_ROWS, LiftTable, check_table
from true_compass.files.problems import EngineFileError, Problem
from true_compass.files.reading import column_mark, read_text

ANGLES: Final = {"crank_deg": 1.0, "cam_deg": 2.0}
LIFTS: Final = {"lift_mm": 1.0, "lift_in": MM_PER_INCH, "lift_thou": MM_PER_THOU}
HEAD: Final = "the first line must name both columns, such as cam_deg,lift_mm or crank_deg,lift_in"


def read_lift_table(
    path: Path, of_lobe: bool = True, resolution_mm: float | None = None
) -> LiftTable:
    """Read a table of lift against degrees. Raises `EngineFileError` with one sentence.

    Without a `resolution_mm` it is the last printed digit of the lifts.
    """
    try:
        return parse_lift_table(read_text(path, "a lift table in CSV"), of_lobe, resolution_mm)
    except EngineError as error:
        raise EngineFileError(path.name, (Problem("", None, f"the table {error}"),)) from None


def parse_lift_table(
    text: str, of_lobe: bool = True, resolution_mm: float | None = None
) -> LiftTable:
    """The table in a CSV text; commas, semicolons or tabs between the columns.

    >>> rows = "".join(f"{x},{min(x, 60 - x) / 10}\\n" for x in range(0, 70, 10))
    >>> parse_lift_table("cam_deg,lift_mm\\n" + rows).angles_deg[1]
    20.0
    """
    lines = [line for line in text.splitlines() if line.strip() and not line.startswith("#")]
    if not lines:
        raise EngineError("table", f"is empty: {HEAD}")
    if len(lines) > MOST_TABLE_ROWS + 1:
        raise EngineError("table", f"has more than {MOST_TABLE_ROWS} rows: keep one lobe")
    mark = column_mark(lines[0])
    head = [cell.strip().lower() for cell in lines[0].split(mark)]
    if len(head) != 2 or head[0] not in ANGLES or head[1] not in LIFTS:
        raise EngineError("table", f"has no head: {HEAD}")
    angles, lifts, digits = [], [], 0
    for number, row in enumerate(_rows(lines[1:], mark), start=2):
        if len(row) != 2:
            raise EngineError("table", f"has {len(row)} values in row {number}: give two")
        angle, lift = (_number(cell, number, mark) for cell in row)
        angles.append(angle * ANGLES[head[0]])
        lifts.append(round(lift * LIFTS[head[1]], 9))
        digits = max(digits, len(row[1].strip().replace(",", ".").partition(".")[2]))
    if resolution_mm is None:
        resolution_mm = min(LIFTS[head[1]] * 10.0**-digits, 0.2)
    table = LiftTable(tuple(angles), tuple(lifts), of_lobe, resolution_mm)
    check_table("table", table)
    return table


def _rows(lines: list[str], mark: str) -> Iterator[list[str]]:
    try:
        yield from csv.reader(lines, delimiter=mark)
    except csv.Error:
        raise EngineError("table", "has a cell too long to read: write plain numbers") from None


def _number(cell: str, row: int, mark: str) -> float:
    text = cell.strip()
    try:
        value = float(text.replace(",", ".") if mark != "," else text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise EngineError(
            "table",
            f"has {text[:20]!r} in row {row}: write plain numbers, all in the unit of the head",
        )
    return value
