"""The proof: both bars drawn without correction, to be measured before anything else is printed."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF

from true_compass.core.paper.proof import LEAST_MM, MOST_MM, PLAIN
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.paper.sheet import (
    LINE,
    PX,
    SMALL,
    Draw,
    Sheet,
    Style,
    paint_bars,
    paint_title,
    true_pages,
)

STEPS: Final = (
    "Print at 100 %, never “fit to page”, on the paper that the sheets will be printed on.",
    "Measure each bar from its first line to its last, with a steel rule or a caliper.",
    "Type what they measure. The sheets are then drawn so that theirs come out at 100.0 mm.",
    f"A bar below {LEAST_MM:g} or above {MOST_MM:g} mm is no printer's error: the page was fitted.",
    "More than 1.5 mm off: print this page again at 100 % before you correct anything.",
    "Measure after the paper has cooled, and keep each printer's figures apart.",
)
FIELDS: Final = (
    "Across the page: ____________ mm",
    "Along the page: ____________ mm",
    "Printer, paper, date: ______________________________",
)
ROOMY_MM: Final = 200.0
GAUGE_MM: Final = 10.0


def proof_document() -> Document:
    """The page as a document; it is never corrected."""
    return Document("Proof of the printer", "proof", proof_pages)


def proof_pages(paper: Paper) -> list[Paint]:
    """Painters of its one page."""
    return true_pages(paper, Style(PLAIN), None, [_draw()])


def _draw() -> Draw:
    def draw(sheet: Sheet) -> None:
        wide = sheet.wide - 20 * PX
        y = paint_title(sheet, 0.0, "Proof: what does your printer make of 100 mm?", sheet.wide)
        roomy = sheet.high >= ROOMY_MM * PX
        for nth, words in enumerate(STEPS if roomy else STEPS[:3], start=1):
            y = sheet.paragraph(0.0, y, wide, f"{nth}. {words}", 17.0 if roomy else SMALL)
        y += (6 if roomy else 2) * PX
        paint_bars(sheet, QPointF(0.0, y), QPointF(sheet.wide - 2 * PX, sheet.foot - 106 * PX))
        y += 16 * PX
        for words in FIELDS:
            sheet.say(QRectF(0, y, wide, 26), words, 18.0)
            y += 34
        if roomy:
            _square(sheet, QPointF(0.0, y + 4 * PX))

    return draw


def _square(sheet: Sheet, corner: QPointF) -> None:
    """A square of 10 mm: a look tells whether the page was stretched one way."""
    size = GAUGE_MM * PX
    box = QRectF(corner.x() + LINE, corner.y(), size, size)
    for one, other in (
        (box.topLeft(), box.topRight()),
        (box.topRight(), box.bottomRight()),
        (box.bottomRight(), box.bottomLeft()),
        (box.bottomLeft(), box.topLeft()),
    ):
        sheet.line(one, other)
    words = QRectF(box.right() + 3 * PX, box.top(), 300, size)
    sheet.say(words, f"{GAUGE_MM:g} × {GAUGE_MM:g} mm", 16.0)
