"""A tape for the damper, or a strip for the flywheel with its teeth: pieces to cut out and join."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPolygonF

from true_compass.core.angles import TURN_DEG
from true_compass.core.paper.places import Place, Sort, StopWords
from true_compass.core.paper.tape import MEET_MM, Piece, Ring, Tape, pieces_of
from true_compass.core.paper.wheel import Face
from true_compass.core.words import capital
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.paper.flow import Row, chunks, columns, high_of, paragraphs, write
from true_compass.drawing.paper.placing import Taken
from true_compass.drawing.paper.sheet import (
    BAR_HIGH_MM,
    FOOT_MM,
    HAIR,
    LINE,
    PX,
    SMALL,
    STRIP_MM,
    TITLE,
    About,
    Draw,
    Room,
    Sheet,
    Style,
    bars_at_foot,
    broken_line,
    paint_title,
    true_pages,
)
from true_compass.drawing.paper.wheel_page import figure_words, marks_words
from true_compass.drawing.sheet_text import BLACK, WHITE
from true_compass.drawing.text import CENTRE, RIGHT, text_width
from true_compass.drawing.theme import Weight

STRIP_HIGH_MM: Final = 27.0
PITCH_MM: Final = 36.0
TOOTH_MM: Final = 4.0
END_MM, END_AT_MM = 2.0, 14.5
"""Half the size of an end mark, and how far below the upper edge its middle stands."""
FIGURE: Final = 17.0
FINE_MM: Final = 0.6
LEAST_FIGURE_MM: Final = 8.0
ROWS_MM: Final = (11.5, 17.0, 22.0)
"""Middles of the rows of words below the figures, from the upper edge."""


@dataclass(frozen=True, slots=True)
class TapeSheet:
    """A tape with what is written on it. `edge` names the edge that lies below: front or rear."""

    about: About
    tape: Tape
    places: tuple[Place, ...]
    title: str = "damper tape"
    edge: str = "front"
    ring: Ring | None = None
    face: Face = Face.SPLIT
    stops: tuple[StopWords, ...] = ()


def tape_document(told: TapeSheet, style: Style) -> Document:
    """The tape as a document. Its pages raise `EngineError` where it takes too many pieces."""
    name = told.title.replace(" ", "-")
    return Document(_title(told), name, lambda paper: tape_pages(told, style, paper))


def tape_pages(told: TapeSheet, style: Style, paper: Paper) -> list[Paint]:
    """Painters of its sheets on a kind of paper; pieces lie across the page."""
    room = Room.of(paper, style.proof)
    pieces = pieces_of(told.tape, room.wide_mm - STRIP_MM)
    high = room.high_mm - FOOT_MM - BAR_HIGH_MM - 4
    wide = (room.wide_mm - STRIP_MM) * PX
    rows = [*paragraphs(_lines(told), wide), *columns(_stop_lines(told), wide)]
    title = TITLE / PX + 3
    each = max(math.floor((high - title) / PITCH_MM), 1)
    first = math.floor((high - title - high_of(rows) / PX - 2) / PITCH_MM)
    if first < 1:
        # No piece has room below so many words: they have sheets of their own.
        lots = chunks(rows, (high - title) * PX)
        draws = [_sheet(told, (), len(pieces), lot) for lot in lots]
        first = 0
    else:
        draws = [_sheet(told, pieces[:first], len(pieces), rows)]
    for start in range(first, len(pieces), each):
        draws.append(_sheet(told, pieces[start : start + each], len(pieces), ()))
    return true_pages(paper, style, told.about, draws)


def _title(told: TapeSheet) -> str:
    return f"{told.about.name}: {told.title}, {told.tape.length_mm:.1f} mm round"


def _lines(told: TapeSheet) -> list[str]:
    tape = told.tape
    lines = [
        f"{told.about.turns} 0 is true TDC of cylinder 1; each place passes twice a cycle.",
        f"{capital(tape.how)}: one degree is {tape.degree_mm:.4f} mm.",
        f"The lower edge to the {told.edge}. "
        "Lay each piece on the one before, up to its broken line. "
        f"Round it, both halves of the diamond meet within {MEET_MM:g} mm ({tape.meet_deg:.1f}°), "
        "or it is not that large: wrap a strip of this paper round it and prick both layers.",
    ]
    if told.ring is not None:
        lines.append(
            f"{told.ring.teeth} teeth: a tick at the lower edge for each, "
            f"{told.ring.tooth_deg:.3g}° a tooth."
        )
    marks = marks_words(told.face, told.places)
    if marks:
        lines.append(marks)
    return lines


def _stop_lines(told: TapeSheet) -> list[str]:
    return [
        f"Stop {stop.number}: at {figure_words(told.face, stop.at_deg)}"
        f"{_teeth_words(told.ring, stop.at_deg)}, {stop.sign}: {stop.items}"
        for stop in told.stops
    ]


def _teeth_words(ring: Ring | None, at_deg: float) -> str:
    return "" if ring is None else f" ({ring.tooth_words(at_deg)} after TDC)"


def _sheet(told: TapeSheet, pieces: Sequence[Piece], count: int, rows: Sequence[Row]) -> Draw:
    def draw(sheet: Sheet) -> None:
        bars_at_foot(sheet)
        wide = sheet.wide - STRIP_MM * PX
        y = paint_title(sheet, 0.0, _title(told), wide)
        y = write(sheet, rows, y) + 2 * PX
        for piece in pieces:
            TapePainter(sheet, told, count).paint_piece(piece, y)
            y += PITCH_MM * PX

    return draw


class TapePainter:
    """Paints pieces of a tape from their left end, in the pixels of a sheet."""

    def __init__(self, sheet: Sheet, told: TapeSheet, count: int) -> None:
        self.count = count
        self.sheet, self.p, self.told, self.tape = sheet, sheet.p, told, told.tape
        self.high = STRIP_HIGH_MM * PX

    def x(self, piece: Piece, right_deg: float) -> float:
        """Where a place right of zero lies, from the left end of a piece."""
        return (right_deg - piece.left_deg) * self.tape.degree_mm * PX

    def paint_piece(self, piece: Piece, y: float) -> None:
        """The strip with its cut edges, its lap, and a line that says what it is."""
        self.p.save()
        self.p.translate(0, y)
        end, lap = piece.right_deg, piece.right_deg + piece.lap_deg
        box = QRectF(0, 0, self.x(piece, lap), self.high)
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        self.p.setPen(flat_pen(BLACK, LINE))
        self.p.drawRect(box)
        at = self.x(piece, end)
        lap_box = QRectF(at - 2, 0, box.right() - at + 4, self.high)
        self._write(piece, Taken([lap_box, *self._end_boxes(piece)]))
        self._end_marks(piece)
        self._ticks(piece)
        broken_line(self.sheet, QPointF(at, 0), QPointF(at, self.high))
        self._figures(piece)
        words = f"Piece {piece.number} of {self.count}, this edge to the {self.told.edge}"
        self.sheet.say(QRectF(0, self.high + 2, box.width(), 20), words, SMALL)
        self._arrow(QPointF(at, self.high + 12))
        self.p.restore()

    def _ends(self, piece: Piece) -> list[tuple[float, int]]:
        """Where an end of the whole tape stands on a piece, and to which side its mark points."""
        first = [(0.0, 1)] if piece.number == 1 else []
        last = [(self.x(piece, piece.right_deg), -1)] if piece.number == self.count else []
        return first + last

    def _end_boxes(self, piece: Piece) -> list[QRectF]:
        size = END_MM * PX
        return [
            QRectF(x if side > 0 else x - size, END_AT_MM * PX - size, size, 2 * size)
            for x, side in self._ends(piece)
        ]

    def _end_marks(self, piece: Piece) -> None:
        """Half a diamond at either end of the tape: round the damper they make a whole one."""
        size, y = END_MM * PX, END_AT_MM * PX
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.setBrush(BLACK)
        for x, side in self._ends(piece):
            corners = [QPointF(x, y - size), QPointF(x + side * size, y), QPointF(x, y + size)]
            self.p.drawPolygon(QPolygonF(corners))
        self.p.setBrush(Qt.BrushStyle.NoBrush)

    def _arrow(self, at: QPointF) -> None:
        """The way that the upper side of the rim runs, below the end of a piece."""
        long = 12 * PX
        start = at - QPointF(long + 2 * PX, 0)
        self.sheet.line(start, start + QPointF(long, 0), 0.4 * PX)
        tip = start + QPointF(long if self.tape.sense > 0 else 0, 0)
        back = QPointF(-self.tape.sense * 2.2 * PX, 0)
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.setBrush(BLACK)
        half = QPointF(0, 1.2 * PX)
        self.p.drawPolygon(QPolygonF([tip - back * 0.4, tip + back + half, tip + back - half]))
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        box = QRectF(start.x() - 30 * PX - 6, at.y() - 10, 30 * PX, 20)
        self.sheet.say(box, "turns", SMALL, Weight.BODY, RIGHT)

    def _ticks(self, piece: Piece) -> None:
        last = int(piece.right_deg + piece.lap_deg)
        step = 1 if self.tape.degree_mm >= FINE_MM else 2
        for right in range(int(piece.left_deg), last + 1):
            if right % step:
                continue
            long = 7.0 if right % 10 == 0 else 5.0 if right % 5 == 0 else 3.0
            width = 0.3 * PX if right % 10 == 0 else HAIR
            x = self.x(piece, right)
            self.sheet.line(QPointF(x, 0), QPointF(x, long * PX), width)
        if self.told.ring is None:
            return
        tooth = self.told.ring.tooth_deg
        first, end = math.ceil(piece.left_deg / tooth - 1e-9), math.floor(last / tooth + 1e-9)
        for nth in range(first, end + 1):
            x = self.x(piece, nth * tooth)
            long = TOOTH_MM * (1.5 if nth % 10 == 0 else 1.0)
            self.sheet.line(QPointF(x, self.high - long * PX), QPointF(x, self.high), LINE)

    def _figures(self, piece: Piece) -> None:
        every = 10 if 10 * self.tape.degree_mm >= LEAST_FIGURE_MM else 30
        for right in range(int(piece.left_deg), int(piece.right_deg + piece.lap_deg) + 1):
            if right % every:
                continue
            x = self.x(piece, right)
            words = self.told.face.figure(self.tape.after_deg(float(right)) % TURN_DEG)
            strong = Weight.STRONG if right % 30 == 0 else Weight.LABEL
            half = text_width(words, FIGURE, strong) / 2 + 1
            box = QRectF(x - half, 7 * PX, 2 * half, 4.4 * PX)
            # At an end half of it would be cut away: there it stands beside its tick.
            end = self.x(piece, piece.right_deg + piece.lap_deg)
            box.moveLeft(min(max(box.left(), 3.0), end - box.width() - 3))
            self.p.fillRect(box, WHITE)
            self.sheet.say(box, words, FIGURE, strong, CENTRE)

    def _write(self, piece: Piece, taken: Taken) -> None:
        """Cylinders and stops, the cast mark, events, and which side is which."""
        for sort in (Sort.TDC, Sort.STOP, Sort.MARK, Sort.EVENT):
            for place in self.told.places:
                if place.sort is sort:
                    self._place(piece, place, taken)
        if self.told.face is not Face.FULL:
            self._sides(piece, taken)

    def _place(self, piece: Piece, place: Place, taken: Taken) -> None:
        right = self.tape.right_deg(place.at_deg)
        while right < piece.left_deg:
            right += TURN_DEG
        if right > piece.right_deg:
            return
        x, plate = self.x(piece, right), place.sort in (Sort.TDC, Sort.STOP)
        px = 16.0 if plate else SMALL
        wide = text_width(place.words, px, Weight.STRONG if plate else Weight.BODY)
        wide += 14 if plate else 4
        box = taken.first_free(self._boxes(x, wide, px + 5, ROWS_MM if not plate else ROWS_MM[1:]))
        if place.sort is Sort.MARK:
            self._triangle(x)
        if box is None:
            return
        if place.sort is not Sort.MARK:
            # The figures are drawn over it; a line whose words stand beside it goes on to them.
            width = 0.35 * PX if place.is_stop else HAIR
            beside = not box.left() < x < box.right()
            foot = box.center().y() if beside else box.top()
            self.sheet.line(QPointF(x, 0), QPointF(x, foot), width)
        if plate:
            self.sheet.plate(box, place.words, px, solid=place.is_stop)
        else:
            self.p.fillRect(box, WHITE)
            self.sheet.say(box, place.words, px, Weight.BODY, CENTRE)

    def _boxes(self, x: float, wide: float, high: float, rows: Sequence[float]) -> list[QRectF]:
        return [
            QRectF(x - wide / 2 + aside, row * PX - high / 2 + 1.2 * PX, wide, high)
            for row in rows
            for aside in (0.0, wide / 2 + 3, -wide / 2 - 3)
            if x - wide / 2 + aside > 2
        ]

    def _triangle(self, x: float) -> None:
        """The cast mark: a solid triangle that stands on the edge where it is met."""
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.setBrush(BLACK)
        tip, half, long = QPointF(x, 0), 1.2 * PX, 5.0 * PX
        self.p.drawPolygon(QPolygonF([tip, QPointF(x + half, long), QPointF(x - half, long)]))
        self.p.setBrush(Qt.BrushStyle.NoBrush)

    def _sides(self, piece: Piece, taken: Taken) -> None:
        """`after` and `before` at the ends of a piece."""
        left, right = 1.5 * PX, self.x(piece, piece.right_deg) - 1.5 * PX
        for at_left, deg in ((True, piece.left_deg + 1), (False, piece.right_deg - 1)):
            after = self.tape.after_deg(deg) % TURN_DEG < TURN_DEG / 2
            words = "after" if after else "before"
            wide = text_width(words, SMALL, Weight.LABEL) + 4
            x = left if at_left else right - wide
            rows_mm = (21.5, 16.5) if self.told.ring is None else (16.0, 11.5)
            rows = [QRectF(x, row * PX, wide, SMALL + 5) for row in rows_mm]
            box = taken.first_free(rows)
            if box is not None:
                align = CENTRE if at_left else RIGHT
                self.sheet.say(box, words, SMALL, Weight.LABEL, align)
