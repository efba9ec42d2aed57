"""A degree wheel to be cut out, on one sheet or on several that are laid over one another."""

import math
from collections.abc import Sequence
from typing import Final

from PyQt6.QtCore import QPointF, QRectF

from true_compass.core.angles import TURN_DEG
from true_compass.core.paper.places import Place, Sort
from true_compass.core.paper.proof import BAR_MM
from true_compass.core.paper.wheel import LAP_MM, Face, Tile, Tiles, tiles_of
from true_compass.core.words import small
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.paper.flow import (
    Row,
    chunks,
    columns,
    high_of,
    paragraphs,
    write,
)
from true_compass.drawing.paper.sheet import (
    BAR_HIGH_MM,
    FOOT_MM,
    HAIR,
    PX,
    SMALL,
    STRIP_MM,
    Draw,
    Room,
    Sheet,
    Style,
    bars_at_foot,
    broken_line,
    paint_title,
    true_pages,
    white_outside,
)
from true_compass.drawing.paper.wheel_face import WheelFace, WheelSheet

WORDS_MM: Final = 44.0
"""The least room for words below a wheel."""
TOP_MM: Final = 2.0
TITLE_MM: Final = 11.0
BESIDE_MM: Final = 60.0
"""What words need beside the bar across the page."""


def wheel_document(told: WheelSheet, style: Style) -> Document:
    """The wheel as a document. Its pages raise `EngineError` where it takes too many sheets."""
    name = f"wheel-{told.wheel.diameter_mm:g}mm"
    title = f"{told.about.name}: wheel, {told.wheel.diameter_mm:g} mm"
    return Document(title, name, lambda paper: wheel_pages(told, style, paper))


def wheel_pages(told: WheelSheet, style: Style, paper: Paper) -> list[Paint]:
    """Painters of its sheets on a kind of paper."""
    room = Room.of(paper, style.proof)
    diameter = told.wheel.diameter_mm
    wide = (room.wide_mm - STRIP_MM) * PX
    sentences, stops = paragraphs(_sentences(told), wide), _stop_rows(told, wide)
    below, rest = [], [*sentences, *stops]
    if fits_one(diameter, room):
        free = room.high_mm - FOOT_MM - BAR_HIGH_MM - diameter - 2 * TOP_MM - TITLE_MM
        if high_of(rest) <= free * PX:
            below, rest = rest, []
        elif high_of(sentences) <= free * PX:
            below, rest = sentences, stops
        draws = [_one_sheet(told, below)]
    else:
        high = room.high_mm - FOOT_MM - BAR_HIGH_MM - 2
        tiles = tiles_of(diameter, room.wide_mm - STRIP_MM, high)
        draws = [_tile_sheet(told, tiles, tile) for tile in tiles.sheets]
    if rest:
        full = (room.high_mm - FOOT_MM - BAR_HIGH_MM - TITLE_MM - 2) * PX
        draws += [_words_sheet(told, lot) for lot in chunks(rest, full)]
    return true_pages(paper, style, told.about, draws)


def fits_one(diameter_mm: float, room: Room) -> bool:
    """Whether a wheel and its words fit one sheet, clear of the bars."""
    radius = diameter_mm / 2 + 1.0
    if 2 * radius > room.wide_mm:
        return False
    centre_x, centre_y = room.wide_mm / 2, TOP_MM + radius
    if room.high_mm - FOOT_MM - BAR_HIGH_MM - (TOP_MM + 2 * radius) < WORDS_MM:
        return False
    away_x = room.wide_mm - STRIP_MM - centre_x
    away_y = max(room.high_mm - FOOT_MM - BAR_MM - 3.0 - centre_y, 0.0)
    return math.hypot(away_x, away_y) > radius


def _sentences(told: WheelSheet) -> list[str]:
    """What is said below a wheel before its stops."""
    about, wheel = told.about, told.wheel
    lines = [
        f"{about.turns} Figures grow against it: a fixed pointer reads degrees after TDC.",
        f"Scale {wheel.face.words}, one degree is {wheel.degree_mm:.2f} mm at the rim. "
        f"0 is true TDC of cylinder 1. Hole {wheel.hole_mm:g} mm.",
        f"Each place passes twice a cycle. Order {about.order}.",
    ]
    events = ", ".join(place.words for place in told.places if place.sort is Sort.EVENT)
    if events:
        lines.append(f"Events of cylinder {told.cylinder}, {told.check_words}: {events}.")
    marks = marks_words(wheel.face, told.places)
    return [*lines, marks] if marks else lines


def _stop_lines(told: WheelSheet) -> list[str]:
    face = told.wheel.face
    return [
        f"{stop.number}: at {figure_words(face, stop.at_deg)}, {stop.sign}: {stop.items}"
        for stop in told.stops
    ]


def marks_words(face: Face, places: Sequence[Place]) -> str:
    """The marks with their figures, as a sentence; or nothing."""
    told = [
        f"{place.words} at {figure_words(face, place.at_deg)}"
        for place in places
        if place.sort is Sort.MARK
    ]
    return f"Marks: {', '.join(told)}." if told else ""


def figure_words(face: Face, at_deg: float) -> str:
    """A place as the wheel's own figure, with its side where the figure alone does not tell."""
    figure = round(face.wheel.figure_deg(at_deg), 1)
    if face is Face.FULL or figure in (0.0, 180.0):
        return f"{figure:g}"
    return f"{figure:g} after" if at_deg < TURN_DEG / 2 else f"{figure:g} before"


def _stop_rows(told: WheelSheet, wide: float) -> list[Row]:
    """The heading of the stops, and below it the stops."""
    if not told.stops:
        return []
    head = f"Stops, {small(told.method)}:"
    return [*paragraphs((head,), wide, bold=True), *columns(_stop_lines(told), wide)]


def _title(told: WheelSheet) -> str:
    return f"{told.about.name}: wheel, {told.wheel.diameter_mm:g} mm"


def _one_sheet(told: WheelSheet, below: Sequence[Row]) -> Draw:
    def draw(sheet: Sheet) -> None:
        radius = told.wheel.diameter_mm / 2 * PX
        middle = QPointF(sheet.wide / 2, radius + TOP_MM * PX)
        sheet.p.save()
        sheet.p.translate(middle)
        WheelFace(sheet, told).paint()
        sheet.p.restore()
        bars_at_foot(sheet)
        y = middle.y() + radius + 2 * PX
        write(sheet, below, paint_title(sheet, y, _title(told), sheet.wide - STRIP_MM * PX))

    return draw


def _words_sheet(told: WheelSheet, rows: Sequence[Row]) -> Draw:
    def draw(sheet: Sheet) -> None:
        bars_at_foot(sheet)
        write(sheet, rows, paint_title(sheet, 0.0, _title(told), sheet.wide - STRIP_MM * PX))

    return draw


def _tile_sheet(told: WheelSheet, tiles: Tiles, tile: Tile) -> Draw:
    def draw(sheet: Sheet) -> None:
        box = QRectF(0, 0, tiles.wide_mm * PX, tiles.high_mm * PX)
        sheet.p.save()
        sheet.p.translate(-tile.left_mm * PX, -tile.top_mm * PX)
        WheelFace(sheet, told).paint()
        sheet.p.restore()
        white_outside(sheet, box)
        _paint_laps(sheet, tiles, tile, box)
        bars_at_foot(sheet)
        where = f"Row {tile.row + 1} of {tiles.rows}, column {tile.column + 1} of {tiles.columns}"
        left = (BAR_MM + 5) * PX
        wide = sheet.wide - left - STRIP_MM * PX
        if wide >= BESIDE_MM * PX:
            words = f"{where}. Lay the broken lines and their ticks over one another."
            sheet.paragraph(left, sheet.foot - BAR_HIGH_MM * PX, wide, words)
        else:
            # Left of the words of the bar, where nothing of the wheel is.
            where = f"Row {tile.row + 1}/{tiles.rows}, column {tile.column + 1}/{tiles.columns}"
            top = sheet.foot - (BAR_HIGH_MM - 4) * PX
            sheet.say(QRectF(6, top, 36 * PX, 5 * PX), where, SMALL)

    return draw


def _paint_laps(sheet: Sheet, tiles: Tiles, tile: Tile, box: QRectF) -> None:
    """Down the middle of each lap a broken line with a tick every 10 mm of the wheel.

    Both sheets have the same line and the same ticks, since they are counted from its middle.
    """
    half = LAP_MM / 2 * PX
    for column, x in ((tile.column > 0, half), (tile.column < tiles.columns - 1, -half)):
        if column:
            at = box.left() + x if x > 0 else box.right() + x
            broken_line(sheet, QPointF(at, box.top()), QPointF(at, box.bottom()))
            for y in _tens(tile.top_mm, tiles.high_mm):
                sheet.line(QPointF(at - half / 2, y), QPointF(at + half / 2, y), HAIR)
    for row, y in ((tile.row > 0, half), (tile.row < tiles.rows - 1, -half)):
        if row:
            at = box.top() + y if y > 0 else box.bottom() + y
            broken_line(sheet, QPointF(box.left(), at), QPointF(box.right(), at))
            for x in _tens(tile.left_mm, tiles.wide_mm):
                sheet.line(QPointF(x, at - half / 2), QPointF(x, at + half / 2), HAIR)


def _tens(start_mm: float, size_mm: float) -> list[float]:
    """Where whole tens of millimetres of the wheel fall on a sheet, in pixels from its corner."""
    first = math.ceil(start_mm / 10)
    last = math.floor((start_mm + size_mm) / 10)
    return [(10 * nth - start_mm) * PX for nth in range(first, last + 1)]
