"""A table of jobs as an XLSX workbook."""

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Final

from true_compass.files.workbook import Sheet, write_workbook

NUMBERS: Final = (
    "hours",
    "km",
    "found_mm",
    "left_mm",
    "after_nut_mm",
    "torque_nm",
    "shim_mm",
    "shim_left_mm",
)


def write_xlsx(path: Path, lines: Iterable[Sequence[str]]) -> None:
    """Write lines, their head first. Raises `OSError`."""
    write_workbook(path, [Sheet("Jobs", lines, NUMBERS)])
