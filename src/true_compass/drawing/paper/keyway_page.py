"""A square to be cut out: it stands on the split of the case and holds the key at 90° to it."""

import math
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt

from true_compass.core.paper.keyway import SWING_DEG, Keyway
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.documents import Document, DocumentError, Paint, Paper
from true_compass.drawing.paper.sheet import (
    HAIR,
    LINE,
    PX,
    SMALL,
    STRIP_MM,
    THICK,
    About,
    Room,
    Sheet,
    Style,
    bars_at_foot,
    paint_title,
    true_pages,
)
from true_compass.drawing.sheet_text import BLACK
from true_compass.drawing.text import CENTRE
from true_compass.drawing.theme import Weight

SIDE_MM: Final = 45.0
OVER_MM: Final = 42.0
LEAST_SIDE_MM: Final = 20.0
WORDS_MM: Final = 52.0
"""How far the square reaches beside and above the shaft."""
TICKS_MM: Final = 24.0
"""From the shaft to the ticks."""


def keyway_document(about: About, keyway: Keyway, marks: tuple[str, ...], style: Style) -> Document:
    """The square as a document; `marks` are sentences about the engine's own key marks."""

    def pages(paper: Paper) -> list[Paint]:
        room = Room.of(paper, style.proof)
        needed_wide = keyway.shaft_mm + 2 * LEAST_SIDE_MM + STRIP_MM
        needed_high = keyway.shaft_mm + OVER_MM + WORDS_MM
        if room.wide_mm < needed_wide or room.high_mm < needed_high:
            raise DocumentError(
                f"A square for a shaft of {keyway.shaft_mm:g} mm needs larger paper than this."
            )

        def draw(sheet: Sheet) -> None:
            _draw(sheet, about, keyway, marks)

        return true_pages(paper, style, about, [draw])

    return Document(f"{about.name}: keyway square", "keyway-square", pages)


def _draw(sheet: Sheet, about: About, keyway: Keyway, marks: tuple[str, ...]) -> None:
    bars_at_foot(sheet)
    wide = sheet.wide - STRIP_MM * PX
    title = f"{about.name}: keyway square, shaft {keyway.shaft_mm:g} mm, key {keyway.key_mm:g} mm"
    y = paint_title(sheet, 0.0, title, wide)
    for words in (
        "Cut round it. Lay the foot on the split of the case, the half round over the shaft.",
        "The key stands at 90° to the split when both its sides meet the two long lines. "
        "Ticks: degrees of the crank.",
        f"{about.turns} Which cylinder stands where with the key there is in the maker's book.",
        *marks,
    ):
        y = sheet.paragraph(0.0, y, wide, words)
    radius = keyway.shaft_mm / 2 * PX
    beside = min(SIDE_MM * PX, wide / 2 - radius)
    middle = QPointF(wide / 2, y + (OVER_MM + 8) * PX + radius)
    sheet.p.save()
    sheet.p.translate(middle)
    _square(sheet, keyway, radius, beside)
    sheet.p.restore()


def _square(sheet: Sheet, keyway: Keyway, radius: float, beside: float) -> None:
    """About the middle of the shaft: the foot, the half round, the key's sides, the ticks."""
    p, side, over = sheet.p, radius + beside, radius + OVER_MM * PX
    p.setBrush(Qt.BrushStyle.NoBrush)
    for one, other in (
        (QPointF(-side, 0), QPointF(-radius, 0)),
        (QPointF(radius, 0), QPointF(side, 0)),
        (QPointF(-side, 0), QPointF(-side, -over)),
        (QPointF(side, 0), QPointF(side, -over)),
        (QPointF(-side, -over), QPointF(side, -over)),
    ):
        sheet.line(one, other, THICK)
    p.setPen(flat_pen(BLACK, LINE))
    p.drawArc(QRectF(-radius, -radius, 2 * radius, 2 * radius), 0, 180 * 16)
    half = keyway.key_mm / 2 * PX
    foot = -math.sqrt(radius * radius - half * half)
    for x in (-half, half):
        sheet.line(QPointF(x, foot), QPointF(x, -over), LINE)
    reach = radius + TICKS_MM * PX
    for off in range(-SWING_DEG, SWING_DEG + 1):
        way = QPointF(math.sin(math.radians(off)), -math.cos(math.radians(off)))
        long = (6.0 if off % 10 == 0 else 4.5 if off % 5 == 0 else 3.0) * PX
        # The scale is of the key's middle; its own two lines stand for the sides.
        sheet.line(way * reach, way * (reach + long), HAIR if off % 5 else LINE)
        if off % 10 == 0:
            spot = way * (reach + 9.5 * PX)
            words = f"{90 + off}"
            box = QRectF(spot.x() - 30, spot.y() - 10, 60, 20)
            if off:
                sheet.say(box, words, SMALL, Weight.LABEL, CENTRE)
    sheet.say(QRectF(half + 6, -over + 4, 60, 22), "90°", 18.0, Weight.STRONG)
    for x, words in ((-side + 8, "split"), (side - 100, "split")):
        sheet.say(QRectF(x, -24, 92, 20), words, SMALL)
