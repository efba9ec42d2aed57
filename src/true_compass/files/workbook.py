"""Tables as an XLSX workbook: plain cells only, no formula whatever a cell begins with."""

from collections.abc import Collection, Iterable, Sequence
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
    lines: Iterable[Sequence[str]]
    numbers: Collection[str] = ()


def write_workbook(path: Path, sheets: Sequence[Sheet]) -> None:
    """Write all sheets into one file, whole or not at all. Raises `OSError`."""
    # Imported here: nothing but exports need it.
    import xlsxwriter

    options = {
        "strings_to_formulas": False,
        "strings_to_urls": False,
        "strings_to_numbers": False,
        # A line goes to the disk before the next one: a book of years needs no more memory.
        "constant_memory": True,
    }
    with replacing(path) as part, xlsxwriter.Workbook(str(part), options) as workbook:
        strong = workbook.add_format({"bold": True})
        for told in sheets:
            sheet = workbook.add_worksheet(told.name)
            sheet.freeze_panes(1, 0)
            lines = iter(told.lines)
            head = next(lines)
            for column, name in enumerate(head):
                sheet.write_string(0, column, name, strong)
            numbers = [name in told.numbers for name in head]
            for row, cells in enumerate(lines, start=1):
                for column, text in enumerate(cells):
                    if not text:
                        continue
                    number = _number(text) if numbers[column] else None
                    if number is not None:
                        sheet.write_number(row, column, number)
                    else:
                        sheet.write_string(row, column, text[:MOST_CELL])


def _number(text: str) -> float | None:
    """A cell's number; a bracket and a count of turns stay text."""
    try:
        return float(text)
    except ValueError:
        return None
