"""A table of jobs as an XLSX workbook: plain cells only, no formula whatever a note begins with."""

from collections.abc import Sequence
from pathlib import Path
from typing import Final

from true_compass.files.atomic import replacing

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


def write_xlsx(path: Path, lines: Sequence[Sequence[str]]) -> None:
    """Write lines, their head first. Raises `OSError`."""
    # Imported here: nothing but this export needs it.
    import xlsxwriter

    options = {
        "strings_to_formulas": False,
        "strings_to_urls": False,
        "strings_to_numbers": False,
        "in_memory": True,
    }
    with replacing(path) as part, xlsxwriter.Workbook(str(part), options) as workbook:
        sheet = workbook.add_worksheet("Jobs")
        strong = workbook.add_format({"bold": True})
        for column, name in enumerate(lines[0]):
            sheet.write_string(0, column, name, strong)
        for row, cells in enumerate(lines[1:], start=1):
            for column, text in enumerate(cells):
                number = _number(text) if lines[0][column] in NUMBERS else None
                if number is not None:
                    sheet.write_number(row, column, number)
                elif text:
                    sheet.write_string(row, column, text[:32767])
        sheet.freeze_panes(1, 0)


def _number(text: str) -> float | None:
    """A cell's number; a bracket and a count of turns stay text."""
    try:
        return float(text)
    except ValueError:
        return None
