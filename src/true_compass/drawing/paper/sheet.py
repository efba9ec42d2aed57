"""A sheet that is true to scale: its bars, its foot, and lengths in millimetres.

Everything is drawn in pixels of which `PX` make a millimetre on the paper, whatever the paper is
called. A printer that draws 100 mm as 98.7 is given everything 1.0132 times as large.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Final

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from true_compass.core.paper.proof import BAR_MM, PLAIN, Proof
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.documents import A4, Paint, Paper
from true_compass.drawing.sheet_text import BLACK, WHITE, SheetText
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_paragraph, paragraph_height
from true_compass.drawing.theme import Weight

PX: Final = A4.width / A4.width_mm
"""Pixels of a sheet to the millimetre: an A4 page is 900 across, as every other page is."""
EDGE_MM: Final = 10.0
"""White at every side: printers reach no further than 4 to 6 mm (common practice, no source)."""
FOOT_MM: Final = 7.0
BAR_HIGH_MM: Final = 11.0
STRIP_MM: Final = 13.0
"""The strip at the right that the bar along the page needs."""
HAIR, LINE, THICK = 0.12 * PX, 0.25 * PX, 0.5 * PX
SMALL: Final = 14.0
TITLE: Final = 24.0


@dataclass(frozen=True, slots=True)
class About:
    """What every sheet of an engine says of it.

    `origin` is the engine as set with the mark of its digest and the day; `turns` its direction
    with the end that it is seen from; `sense` +1 where it is clockwise seen from the front.
    """

    name: str
    origin: str
    turns: str
    order: str
    sense: int


@dataclass(frozen=True, slots=True)
class Style:
    """How sheets are printed. `outlines` leaves solid plates white, for the sake of the toner."""

    proof: Proof = PLAIN
    outlines: bool = False


@dataclass(frozen=True, slots=True)
class Room:
    """What of a page a printer can be given, in true millimetres: without the edges."""

    wide_mm: float
    high_mm: float

    @staticmethod
    def of(paper: Paper, proof: Proof) -> "Room":
        """The room on a kind of paper, as a printer draws it."""
        wide, long = proof.factors
        return Room(paper.width_mm / wide - 2 * EDGE_MM, paper.height_mm / long - 2 * EDGE_MM)


class Sheet:
    """One page while it is painted: the painter, the room with its corner at (0, 0), in pixels."""

    def __init__(self, p: QPainter, room: Room, style: Style) -> None:
        self.p = p
        self.room = room
        self.style = style
        self.say = SheetText(p)
        self.wide, self.high = room.wide_mm * PX, room.high_mm * PX

    @property
    def foot(self) -> float:
        """Where the line at the foot begins."""
        return self.high - FOOT_MM * PX

    def line(self, one: QPointF, other: QPointF, width: float = LINE) -> None:
        """A straight line with flat ends: a square cap would make it longer than it is."""
        self.p.setPen(flat_pen(BLACK, width))
        self.p.drawLine(QLineF(one, other))

    def plate(self, box: QRectF, words: str, px: float, *, solid: bool = True) -> None:
        """Words on a plate: black where `solid`, but for the toner; else an outline."""
        filled = solid and not self.style.outlines
        pen = flat_pen(BLACK, THICK if solid else LINE)
        rounded(self.p, box, 3, BLACK if filled else WHITE, pen)
        colour = WHITE if filled else BLACK
        self.say(box.adjusted(2, 0, -2, 0), words, px, Weight.STRONG, CENTRE, colour)

    def paragraph(
        self,
        left: float,
        y: float,
        wide: float,
        words: str,
        px: float = SMALL,
        *,
        bold: bool = False,
    ) -> float:
        """Words in as many lines as they need; where the next line begins."""
        weight = Weight.LABEL if bold else Weight.BODY
        high = paragraph_height(words, px, wide) + 4
        draw_paragraph(self.p, QRectF(left, y, wide, high + 4), words, px, BLACK, weight)
        return y + high


Draw = Callable[[Sheet], None]


def true_pages(
    paper: Paper, style: Style, about: About | None, draws: Sequence[Draw]
) -> list[Paint]:
    """Painters of sheets: each drawn true to scale, with its number and where it is from below."""
    wide, long = style.proof.factors
    dots = paper.width / paper.width_mm / PX
    return _pages(Room.of(paper, style.proof), (dots * wide, dots * long), style, about, draws)


def plain_pages(
    paper: Paper, style: Style, about: About | None, draws: Sequence[Draw]
) -> list[Paint]:
    """The same for sheets that fill whatever paper they are on: nothing on them is to scale."""
    room = Room(paper.width / PX - 2 * EDGE_MM, paper.height / PX - 2 * EDGE_MM)
    return _pages(room, (1.0, 1.0), replace(style, proof=PLAIN), about, draws)


def _pages(
    room: Room,
    scale: tuple[float, float],
    style: Style,
    about: About | None,
    draws: Sequence[Draw],
) -> list[Paint]:
    def page(number: int) -> Paint:
        def paint(p: QPainter) -> None:
            p.save()
            p.scale(*scale)
            p.translate(EDGE_MM * PX, EDGE_MM * PX)
            sheet = Sheet(p, room, style)
            draws[number](sheet)
            paint_foot(sheet, about, number + 1, len(draws))
            p.restore()

        return paint

    return [page(number) for number in range(len(draws))]


def paint_foot(sheet: Sheet, about: About | None, number: int, count: int) -> None:
    """Where it is from at the left, which sheet of how many at the right."""
    y = sheet.foot
    sheet.line(QPointF(0, y), QPointF(sheet.wide, y))
    words = f"Sheet {number} of {count}"
    box = QRectF(0, y + 4, sheet.wide, 20)
    right = sheet.say(box, words, SMALL, Weight.LABEL, RIGHT)
    drawn = "" if sheet.style.proof.is_plain else f" {sheet.style.proof.factor_words}"
    origin = f"{about.origin}.{drawn}" if about is not None else drawn.strip()
    sheet.say(box.adjusted(0, 0, -right - 12, 0), origin, SMALL)


def paint_bars(sheet: Sheet, across: QPointF, along: QPointF) -> None:
    """Both 100 mm bars. `across` is the left end of one, `along` the upper end of the other.

    A bar is measured from the middle of its first line to the middle of its last.
    """
    size = BAR_MM * PX
    for start, way, side in (
        (across, QPointF(1, 0), QPointF(0, 1)),
        (along, QPointF(0, 1), QPointF(-1, 0)),
    ):
        sheet.line(start, start + way * size, LINE)
        for nth in range(11):
            at = start + way * (nth * size / 10)
            reach = (4.0 if nth in (0, 10) else 2.4 if nth == 5 else 1.5) * PX
            sheet.line(at, at + side * reach, HAIR if nth in (0, 10) else LINE)
    words = "100 mm"
    box = QRectF(across.x(), across.y() + 4 * PX, size, 5 * PX)
    sheet.say(box, f"{words} across", SMALL, Weight.LABEL, CENTRE)
    p = sheet.p
    p.save()
    p.translate(along.x() - 4 * PX, along.y() + size)
    p.rotate(-90)
    sheet.say(QRectF(0, -5 * PX, size, 5 * PX), f"{words} along", SMALL, Weight.LABEL, CENTRE)
    p.restore()


def bars_at_foot(sheet: Sheet) -> QRectF:
    """Both bars in the lower corner at the right, and the box that they leave free beside them.

    The bar across lies just over the foot at the left, the other stands at the right edge.
    """
    top = sheet.foot - (BAR_MM + 3.0) * PX
    along = QPointF(sheet.wide - 1.0 * PX, top)
    across = QPointF(0.0, sheet.foot - BAR_HIGH_MM * PX)
    paint_bars(sheet, across, along)
    return QRectF(0, 0, sheet.wide, across.y() - 2 * PX)


def paint_title(sheet: Sheet, y: float, title: str, wide: float) -> float:
    """The title of a sheet; where what follows begins."""
    sheet.say(QRectF(0, y, wide, TITLE + 8), title, TITLE, Weight.STRONG, LEFT)
    return y + TITLE + 12


def white_outside(sheet: Sheet, box: QRectF) -> None:
    """Blot out what was drawn outside a box: Qt's SVG knows no clipping."""
    far = 4000.0 * PX
    p = sheet.p
    p.setPen(Qt.PenStyle.NoPen)
    for area in (
        QRectF(-far, -far, 2 * far, far + box.top()),
        QRectF(-far, box.bottom(), 2 * far, far),
        QRectF(-far, box.top(), far + box.left(), box.height()),
        QRectF(box.right(), box.top(), far, box.height()),
    ):
        p.fillRect(area, WHITE)


def broken_line(sheet: Sheet, one: QPointF, other: QPointF) -> None:
    """Where something is laid over something else."""
    pen = QPen(flat_pen(BLACK, LINE))
    pen.setDashPattern([6.0, 4.0])
    sheet.p.setPen(pen)
    sheet.p.drawLine(one, other)
