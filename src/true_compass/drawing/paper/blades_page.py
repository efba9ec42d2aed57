"""Which blades make which gap, and which blades in mm and thou are not equal."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF

from true_compass.book.targets import targets_of
from true_compass.core.engine import Engine
from true_compass.core.paper.blades import Blades, Together, crossings, together
from true_compass.core.units import MM_PER_THOU, GapUnit, gap_words
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.paper.sheet import (
    HAIR,
    LINE,
    SMALL,
    About,
    Sheet,
    Style,
    paint_title,
    plain_pages,
)
from true_compass.drawing.text import RIGHT
from true_compass.drawing.theme import Weight

COLUMNS: Final = 3
ROW: Final = 21.0
GAPS_MM: Final = tuple(n / 100 for n in range(5, 101))
GAPS_THOU: Final = tuple(float(n) for n in range(2, 41))


def blades_document(about: About, engine: Engine, blades: Blades, style: Style) -> Document:
    """The page as a document."""

    def pages(paper: Paper) -> list[Paint]:
        def draw(sheet: Sheet) -> None:
            _draw(sheet, about, engine, blades)

        return plain_pages(paper, style, about, [draw])

    return Document(f"{about.name}: feeler pairs", "feeler-pairs", pages)


def held_words(held: Together, blades: Blades) -> str:
    """Blades held together: `0.30 + 0.13`; one that is not exact tells what it makes."""
    words = " + ".join(blades.words(size) for size in held.sizes_mm)
    if held.is_exact:
        return words
    over = held.over_mm if blades.unit is GapUnit.MM else held.over_mm / MM_PER_THOU
    return f"{words} ({over:+.3g})".replace("-", "−")


def _draw(sheet: Sheet, about: About, engine: Engine, blades: Blades) -> None:
    y = paint_title(sheet, 0.0, f"{about.name}: which blades make which gap", sheet.wide)
    stamped = ", ".join(blades.words(size) for size in blades.sizes_mm)
    unit = blades.unit.value
    y = sheet.paragraph(0.0, y, sheet.wide, f"The set, in {unit}: {stamped}.")
    for target in targets_of(engine):
        held = held_words(together(target.target_mm, blades), blades)
        gap = gap_words(target.target_mm, engine.gap_unit)
        y = sheet.paragraph(0.0, y, sheet.wide, f"{target.of}: {gap}: {held}", 17.0, bold=True)
    y = sheet.paragraph(
        0.0,
        y,
        sheet.wide,
        "Wipe the blades, hold them flat on one another, the thin one between. In brackets: how "
        "much the nearest is off.",
    )
    y = _grid(sheet, y + 6, blades)
    _crossings(sheet, y + 14)


def _grid(sheet: Sheet, top: float, blades: Blades) -> float:
    """Every gap beside its blades, down the columns."""
    in_mm = blades.unit is GapUnit.MM
    gaps = GAPS_MM if in_mm else GAPS_THOU
    rows = -(-len(gaps) // COLUMNS)
    each = sheet.wide / COLUMNS
    for nth, gap in enumerate(gaps):
        column, down = divmod(nth, rows)
        x, y = column * each, top + down * ROW
        if down % 5 == 0:
            sheet.line(QPointF(x, y), QPointF(x + each - 16, y), HAIR)
        name = f"{gap:.2f}" if in_mm else f"{gap:g}"
        box = QRectF(x, y, 44, ROW)
        sheet.say(box, name, SMALL + 1, Weight.STRONG, RIGHT)
        held = together(gap if in_mm else gap * MM_PER_THOU, blades)
        words = held_words(held, blades)
        sheet.say(QRectF(x + 58, y, each - 76, ROW), words, SMALL + 1)
    return top + rows * ROW


def _crossings(sheet: Sheet, top: float) -> None:
    """Blades in mm and the nearest in thou, side by side, with what lies between them."""
    words = "Nearly the same, and not equal: a blade in thou for one in mm"
    sheet.say(QRectF(0, top, sheet.wide, 24), words, 17.0, Weight.STRONG)
    sheet.line(QPointF(0, top + 26), QPointF(sheet.wide, top + 26), LINE)
    told = crossings()
    columns, each = 4, sheet.wide / 4
    rows = -(-len(told) // columns)
    for nth, one in enumerate(told):
        column, down = divmod(nth, rows)
        over = f"{one.over_mm:+.3f}".replace("-", "−")
        line = f"{one.size_mm:.2f} mm: {one.thou:g} thou is {over}"
        box = QRectF(column * each, top + 30 + down * ROW, each - 8, ROW)
        sheet.say(box, line, SMALL)
