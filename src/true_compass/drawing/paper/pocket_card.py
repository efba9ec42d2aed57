"""A card for the pocket: thou and mm on one side, how a blade feels on the other, to be folded."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt

from true_compass.core.units import MM_PER_THOU
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.paper.sheet import (
    BAR_HIGH_MM,
    FOOT_MM,
    HAIR,
    PX,
    STRIP_MM,
    Sheet,
    Style,
    bars_at_foot,
    broken_line,
    true_pages,
)
from true_compass.drawing.sheet_text import BLACK, WHITE
from true_compass.drawing.text import CENTRE, RIGHT
from true_compass.drawing.theme import Weight

# ISO/IEC 7810, ID-1: the size of a bank card; from memory.
WIDE_MM, HIGH_MM = 85.6, 53.98
GAP_MM: Final = 3.0
MOST_CARDS: Final = 8
THOU: Final = tuple(range(1, 21))
MM: Final = tuple(n / 20 for n in range(1, 11))
FEEL: Final = (
    "Light drag, the same on both faces: it fits.",
    "The next size up must not go, the next down is slack.",
    "It rocks? Loose, or not between two faces.",
    "Measure on the base circle, cold unless the book says hot.",
    "Record all as found before any nut is slackened.",
    "Hold the screw, tighten, then measure again.",
    "One person does one engine: feel differs.",
    "Bar two turns on, and look at every one again.",
)


def pocket_document(style: Style) -> Document:
    """The cards as a document: as many as a page holds."""
    return Document(
        "Pocket card: thou, mm and feel", "pocket-card", lambda paper: _pages(style, paper)
    )


def _pages(style: Style, paper: Paper) -> list[Paint]:
    def draw(sheet: Sheet) -> None:
        bars_at_foot(sheet)
        room = sheet.high - (FOOT_MM + BAR_HIGH_MM + 2) * PX
        pitch = (HIGH_MM + GAP_MM) * PX
        count = min(int((room + GAP_MM * PX) / pitch), MOST_CARDS)
        fits = sheet.room.wide_mm - STRIP_MM >= 2 * WIDE_MM
        for nth in range(count):
            _card(sheet, QPointF(0, nth * pitch), both=fits)

    return true_pages(paper, style, None, [draw])


def _card(sheet: Sheet, corner: QPointF, *, both: bool) -> None:
    """One card; where the page is too narrow for both sides, the table alone."""
    wide, high = WIDE_MM * PX, HIGH_MM * PX
    box = QRectF(corner.x(), corner.y(), wide * (2 if both else 1), high)
    sheet.p.setBrush(Qt.BrushStyle.NoBrush)
    sheet.p.setPen(flat_pen(BLACK, HAIR))
    sheet.p.drawRect(box)
    _table(sheet, QRectF(corner.x(), corner.y(), wide, high))
    if both:
        fold = corner.x() + wide
        broken_line(sheet, QPointF(fold, corner.y()), QPointF(fold, corner.y() + high))
        _feel(sheet, QRectF(fold, corner.y(), wide, high))


def _head(sheet: Sheet, box: QRectF, words: str) -> None:
    filled = not sheet.style.outlines
    head = QRectF(box.left() + 5, box.top() + 5, box.width() - 10, 21)
    sheet.p.setPen(flat_pen(BLACK, HAIR))
    sheet.p.setBrush(BLACK if filled else WHITE)
    sheet.p.drawRect(head)
    sheet.p.setBrush(Qt.BrushStyle.NoBrush)
    sheet.say(head, words, 13.0, Weight.STRONG, CENTRE, WHITE if filled else BLACK)


def _table(sheet: Sheet, box: QRectF) -> None:
    """Thou into mm in two columns, mm into thou in the third."""
    _head(sheet, box, "thou to mm (1 thou = 0.0254 mm), mm to thou")
    top, row = box.top() + 29, (box.height() - 33) / 10
    columns = (
        [(f"{thou}", f"{thou * MM_PER_THOU:.3f}") for thou in THOU[:10]],
        [(f"{thou}", f"{thou * MM_PER_THOU:.3f}") for thou in THOU[10:]],
        [(f"{mm:.2f}", f"{mm / MM_PER_THOU:.1f}") for mm in MM],
    )
    each = box.width() / 3
    for nth, column in enumerate(columns):
        x = box.left() + nth * each
        for down, (one, other) in enumerate(column):
            y = top + down * row
            sheet.say(QRectF(x, y, each * 0.40, row), one, 13.0, Weight.STRONG, RIGHT)
            sheet.say(QRectF(x, y, each * 0.88, row), other, 13.0, Weight.BODY, RIGHT)
        if nth:
            sheet.line(QPointF(x + 4, top), QPointF(x + 4, top + 10 * row), HAIR)


def _feel(sheet: Sheet, box: QRectF) -> None:
    _head(sheet, box, "How a blade feels")
    row = (box.height() - 33) / len(FEEL)
    for nth, words in enumerate(FEEL):
        line = QRectF(box.left() + 9, box.top() + 29 + nth * row, box.width() - 14, row)
        sheet.say(line, words, 13.0)
