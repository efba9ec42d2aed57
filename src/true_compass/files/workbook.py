"""Tables as an XLSX workbook: plain cells only, no formula whatever a cell begins with."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from true_compass.files.atomic import replacing

MOST_CELL: Final = 32_767
"""What a cell holds (Microsoft, *Excel specifications and limits*; from memory)."""


@dataclass(frozen=True, slots=True)
class Sheet:
    """One sheet: its name, its lines with their head first, and which columns are numbers."""

    name: str
    lines: Sequence[Sequence[str]]
    numbers: Collection[str] = ()


def write_workbook(path: Path, sheets: Sequence[Sheet]) -> None:
    """Write all sheets into one file, whole or not at all. Raises `OSError`."""
    # Imported here: nothing but exports need it.
    import xlsxwriter

    options = {
        "strings_to_formulas": False,
        "strings_to_urls": False,
        "strings_to_numbers": False,
        "in_memory": True,
    }
    with replacing(path) as part, xlsxwriter.Workbook(str(part), options) as workbook:
        strong = workbook.add_format({"bold": True})
        for told in sheets:
            sheet = workbook.add_worksheet(told.name)
            for column, name in enumerate(told.lines[0]):
                sheet.write_string(0, column, name, strong)
            for row, cells in enumerate(told.lines[1:], start=1):
                for column, text in enumerate(cells):
                    number = _number(text) if told.lines[0][column] in told.numbers else None
                    if number is not None:
                        sheet.write_number(row, column, number)
                    elif text:
                        sheet.write_string(row, column, text[:MOST_CELL])
            sheet.freeze_panes(1, 0)


def _number(text: str) -> float | None:
    """A cell's number; a bracket and a count of turns stay text."""
    try:
        return float(text)
    except ValueError:
        return None
