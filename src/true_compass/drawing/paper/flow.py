"""Lines of words on a sheet: how high they stand, and how they part where a sheet is too short."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QRectF

from true_compass.drawing.paper.sheet import SMALL, Sheet
from true_compass.drawing.text import paragraph_height, text_width

ROW: Final = 22.0
MOST_COLUMNS: Final = 3
BETWEEN: Final = 20.0


@dataclass(frozen=True, slots=True)
class Row:
    """Words beside each other, each with its left edge and its width; how high they stand."""

    parts: tuple[tuple[float, float, str], ...]
    high: float
    bold: bool = False
    wraps: bool = True


def paragraphs(lines: Sequence[str], wide: float, *, bold: bool = False) -> list[Row]:
    """A row a line, as high as it needs."""
    return [
        Row(((0.0, wide, words),), paragraph_height(words, SMALL, wide) + 4, bold)
        for words in lines
    ]


def columns(lines: Sequence[str], wide: float) -> list[Row]:
    """Short lines down up to three columns; long ones as paragraphs."""
    longest = max((text_width(words, SMALL) for words in lines), default=0.0)
    count = min(max(int(wide / (longest + BETWEEN)), 1), MOST_COLUMNS) if longest else 1
    if count == 1:
        return paragraphs(lines, wide)
    down, each = -(-len(lines) // count), wide / count
    return [
        Row(
            tuple(
                (nth * each, each - 12, lines[nth * down + row])
                for nth in range(count)
                if nth * down + row < len(lines)
            ),
            ROW,
            wraps=False,
        )
        for row in range(down)
    ]


def high_of(rows: Sequence[Row]) -> float:
    """How high they stand in all."""
    return sum(row.high for row in rows)


def chunks(rows: Sequence[Row], high: float) -> list[list[Row]]:
    """The rows parted so that each lot stands within a height; at least a row a lot."""
    lots: list[list[Row]] = [[]]
    for row in rows:
        if lots[-1] and high_of(lots[-1]) + row.high > high:
            lots.append([])
        lots[-1].append(row)
    return lots


def write(sheet: Sheet, rows: Sequence[Row], y: float) -> float:
    """Write rows from a height on; where the next line begins."""
    for row in rows:
        for left, wide, words in row.parts:
            if row.wraps:
                sheet.paragraph(left, y, wide, words, bold=row.bold)
            else:
                sheet.say(QRectF(left, y, wide, row.high - 2), words, SMALL)
        y += row.high
    return y
