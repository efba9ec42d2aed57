"""A degree wheel to be cut out, on one sheet or on several that are laid over one another."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPolygonF

from true_compass.core.angles import TURN_DEG
from true_compass.core.paper.places import Place, Sort, StopWords
from true_compass.core.paper.proof import BAR_MM
from true_compass.core.paper.wheel import LAP_MM, Face, PaperWheel, Tile, Tiles, tiles_of
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.paper.placing import Taken
from true_compass.drawing.paper.sheet import (
    BAR_HIGH_MM,
    FOOT_MM,
    HAIR,
    LINE,
    PX,
    SMALL,
    THICK,
    About,
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
from true_compass.drawing.sheet_text import BLACK, WHITE
from true_compass.drawing.text import CENTRE, paragraph_height, text_width
from true_compass.drawing.theme import Weight

STRIP_MM: Final = 13.0
"""The strip at the right that the bar along the page needs."""
WORDS_MM: Final = 44.0
"""The least room for words below a wheel."""
TOP_MM: Final = 2.0
TITLE_MM: Final = 11.0
ROW: Final = 22.0
FINE_MM: Final = 0.6
"""Degrees closer than this are drawn two by two: a printer would run them together."""
LEAST_FIGURE_MM: Final = 6.6
REACHES: Final = (0.60, 0.46, 0.70, 0.36, 0.53, 0.30)
MARK_ASIDE: Final = (18.0, -18.0, 26.0, -26.0, 10.0, -10.0)
EVENT_ASIDE: Final = (0.0, 8.0, -8.0, 16.0, -16.0, 26.0, -26.0, 36.0, -36.0)
EVENT_REACHES: Final = (0.66, 0.74, 0.56, 0.48, 0.40, 0.32)


@dataclass(frozen=True, slots=True)
class WheelSheet:
    """A wheel with what is written on it and below it."""

    about: About
    wheel: PaperWheel
    places: tuple[Place, ...]
    stops: tuple[StopWords, ...] = ()
    method: str = ""
    check_words: str = "at the seat"
    cylinder: int = 1


def wheel_document(told: WheelSheet, style: Style) -> Document:
    """The wheel as a document. Its pages raise `EngineError` where it takes too many sheets."""
    name = f"wheel-{told.wheel.diameter_mm:g}mm"
    title = f"{told.about.name}: wheel, {told.wheel.diameter_mm:g} mm"
    return Document(title, name, lambda paper: wheel_pages(told, style, paper))


def wheel_pages(told: WheelSheet, style: Style, paper: Paper) -> list[Paint]:
    """Painters of its sheets on a kind of paper."""
    room = Room.of(paper, style.proof)
    diameter = told.wheel.diameter_mm
    words = Words(told, (room.wide_mm - STRIP_MM) * PX)
    if fits_one(diameter, room):
        free = room.high_mm - FOOT_MM - BAR_HIGH_MM - diameter - 2 * TOP_MM - TITLE_MM
        whole = words.high <= free * PX
        draws = [_one_sheet(told, words, stops=whole)]
    else:
        high = room.high_mm - FOOT_MM - BAR_HIGH_MM - 2
        tiles = tiles_of(diameter, room.wide_mm - STRIP_MM, high)
        draws = [_tile_sheet(told, tiles, tile) for tile in tiles.sheets]
        whole = False
    if not whole:
        draws.append(_words_sheet(told, words))
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


class Words:
    """Sentences, and below them the stops: side by side where they are short enough."""

    def __init__(self, told: WheelSheet, wide: float) -> None:
        self._sentences = _sentences(told)
        self._stops = _stop_lines(told)
        self._head = f"Stops, {told.method[:1].lower()}{told.method[1:]}:" if self._stops else ""
        self._wide = wide
        longest = max((text_width(words, SMALL) for words in self._stops), default=0.0)
        self._columns = min(max(int(wide / (longest + 20)), 1), 3) if longest else 1
        self.rows = -(-len(self._stops) // self._columns)

    def _high(self, lines: Sequence[str]) -> float:
        return sum(paragraph_height(words, SMALL, self._wide) + 4 for words in lines)

    @property
    def high(self) -> float:
        """How high everything stands."""
        stops = self.rows * ROW if self._columns > 1 else self._high(self._stops)
        return self._high(self._sentences) + (ROW + stops if self._stops else 0.0)

    def write_sentences(self, sheet: Sheet, y: float) -> float:
        """Write what is said before the stops; where the next line begins."""
        for words in self._sentences:
            y = sheet.paragraph(0.0, y, self._wide, words)
        return y

    def write_stops(self, sheet: Sheet, y: float) -> None:
        """Write the stops, down the columns."""
        if not self._stops:
            return
        y = sheet.paragraph(0.0, y, self._wide, self._head, bold=True)
        if self._columns == 1:
            for words in self._stops:
                y = sheet.paragraph(0.0, y, self._wide, words)
            return
        each = self._wide / self._columns
        for nth, words in enumerate(self._stops):
            column, down = divmod(nth, self.rows)
            sheet.say(QRectF(column * each, y + down * ROW, each - 12, ROW - 2), words, SMALL)


def _title(told: WheelSheet) -> str:
    return f"{told.about.name}: wheel, {told.wheel.diameter_mm:g} mm"


def _one_sheet(told: WheelSheet, words: Words, *, stops: bool) -> Draw:
    def draw(sheet: Sheet) -> None:
        radius = told.wheel.diameter_mm / 2 * PX
        middle = QPointF(sheet.wide / 2, radius + TOP_MM * PX)
        sheet.p.save()
        sheet.p.translate(middle)
        WheelFace(sheet, told).paint()
        sheet.p.restore()
        bars_at_foot(sheet)
        y = middle.y() + radius + 2 * PX
        y = paint_title(sheet, y, _title(told), sheet.wide - STRIP_MM * PX)
        y = words.write_sentences(sheet, y)
        if stops:
            words.write_stops(sheet, y)

    return draw


def _words_sheet(told: WheelSheet, words: Words) -> Draw:
    def draw(sheet: Sheet) -> None:
        bars_at_foot(sheet)
        y = paint_title(sheet, 0.0, _title(told), sheet.wide - STRIP_MM * PX)
        words.write_stops(sheet, words.write_sentences(sheet, y))

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
        words = f"{where}. Lay the broken lines and their ticks over one another."
        left = (BAR_MM + 5) * PX
        box = QRectF(left, sheet.foot - BAR_HIGH_MM * PX, sheet.wide - left - STRIP_MM * PX, 40)
        sheet.paragraph(box.left(), box.top(), box.width(), words)

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


class WheelFace:
    """The wheel about the origin, in the pixels of a sheet."""

    def __init__(self, sheet: Sheet, told: WheelSheet) -> None:
        self.sheet, self.p, self.told = sheet, sheet.p, told
        self.wheel, self.face = told.wheel, told.wheel.face
        self.radius = told.wheel.diameter_mm / 2 * PX
        self.taken = Taken()

    def way(self, at_deg: float) -> QPointF:
        """Unit vector of a place: figures grow against the running direction."""
        turned = math.radians(-at_deg * self.told.about.sense)
        return QPointF(math.sin(turned), -math.cos(turned))

    def paint(self) -> None:
        """Rim, ticks and figures, then what is written inside."""
        p = self.p
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(BLACK, LINE))
        p.drawEllipse(QPointF(0, 0), self.radius, self.radius)
        self._ticks()
        inner = self._figures()
        self._triangles()
        self._hub()
        self._write_inside(inner)

    def _ticks(self) -> None:
        step = 1 if self.wheel.degree_mm >= FINE_MM else 2
        for mark in range(0, 360, step):
            if mark % 10 == 0:
                long, width = 6.0, 0.3 * PX
            elif mark % 5 == 0:
                long, width = 4.5, 0.2 * PX
            else:
                long, width = 3.0, HAIR
            way = self.way(mark)
            self.sheet.line(way * self.radius, way * (self.radius - self._mm(long)), width)

    def _triangles(self) -> None:
        """A triangle that points at the rim where a mark stands, just inside the ticks."""
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.setBrush(BLACK)
        for place in self.told.places:
            if place.sort is Sort.MARK:
                way = self.way(place.at_deg)
                side, tip = QPointF(-way.y(), way.x()), way * (self.radius - self._mm(0.8))
                foot = tip - way * self._mm(5.0)
                corners = [tip, foot + side * self._mm(1.2), foot - side * self._mm(1.2)]
                self.p.drawPolygon(QPolygonF(corners))
        self.p.setBrush(Qt.BrushStyle.NoBrush)

    def _mm(self, value: float) -> float:
        """Millimetres in pixels, less on a small wheel."""
        return value * PX * min(1.0, self.wheel.diameter_mm / 110.0)

    def _figures(self) -> float:
        """Each ten where there is room, else each thirty; the radius that stays free inside."""
        px = min(20.0, max(11.0, self.radius * 0.055))
        middle = self.radius - self._mm(7.0) - px * 0.6
        tens = middle / PX * math.radians(10) >= LEAST_FIGURE_MM
        for mark in range(0, 360, 10 if tens else 30):
            strong = mark % 30 == 0
            self._turned(
                mark, middle, self.face.figure(mark), px if strong else px * 0.8, strong=strong
            )
        inner = middle - px * 0.8
        if self.face is Face.PROTRACTOR:
            second = inner - px * 0.7
            for mark in range(0, 360, 10 if tens else 30):
                self._turned(
                    mark, second, self.face.second_figure(mark), px * 0.8, strong=False, over=True
                )
            inner = second - px * 0.7
        return inner

    def _turned(
        self, mark: int, reach: float, words: str, px: float, *, strong: bool, over: bool = False
    ) -> None:
        """A figure that is upright when its place is at the top; or at the foot where `over`."""
        p = self.p
        p.save()
        p.rotate(-mark * self.told.about.sense)
        p.translate(0, -reach)
        if over:
            p.rotate(180)
        weight = Weight.STRONG if strong else Weight.LABEL
        self.sheet.say(QRectF(-40, -px, 80, 2 * px), words, px, weight, CENTRE)
        p.restore()

    def _hub(self) -> None:
        """The hole with its middle, and the running direction round it."""
        hole = self.wheel.hole_mm / 2 * PX
        self.p.setPen(flat_pen(BLACK, LINE))
        if hole > 0:
            self.p.drawEllipse(QPointF(0, 0), hole, hole)
        for way in (QPointF(1, 0), QPointF(0, 1)):
            self.sheet.line(way * -2 * PX, way * 2 * PX, HAIR)
        reach = max(hole + 4 * PX, 7 * PX)
        self._arrow(reach)
        side = reach + 2.5 * PX
        self.taken.add(QRectF(-side, -side, 2 * side, 2 * side))

    def _arrow(self, reach: float) -> None:
        sense = self.told.about.sense
        bearings = [sense * step for step in range(130, 231, 5)]
        points = [QPointF(math.sin(math.radians(b)), -math.cos(math.radians(b))) for b in bearings]
        self.p.setPen(flat_pen(BLACK, THICK))
        self.p.drawPolyline(QPolygonF([point * reach for point in points]))
        tip, out = points[-1] * reach, points[-1]
        along = QPointF(-out.y(), out.x()) * sense
        self.p.setBrush(BLACK)
        self.p.setPen(Qt.PenStyle.NoPen)
        self.p.drawPolygon(QPolygonF([tip + along * 10, tip + out * 5.5, tip - out * 5.5]))
        self.p.setBrush(Qt.BrushStyle.NoBrush)

    # Written inside ---------------------------------------------------------------------------

    def _boxes(
        self, at_deg: float, wide: float, high: float, reaches: Sequence[float], inner: float
    ) -> list[QRectF]:
        """Where words can stand along a ray, inside the figures."""
        boxes = []
        for share in reaches:
            spot = self.way(at_deg) * (self.radius * share)
            box = QRectF(spot.x() - wide / 2, spot.y() - high / 2, wide, high)
            corners = (box.topLeft(), box.topRight(), box.bottomLeft(), box.bottomRight())
            if max(math.hypot(c.x(), c.y()) for c in corners) < inner:
                boxes.append(box)
        return boxes

    def _write_inside(self, inner: float) -> None:
        """Everything takes its place, then the lines are drawn, and the words over them."""
        held = [*self._stops(inner), *self._sides(inner)]
        held += self._rayed(Sort.MARK, inner, MARK_ASIDE)
        held += self._rayed(Sort.EVENT, inner, EVENT_ASIDE)
        for one in held:
            if one.rim is not None:
                self.sheet.line(one.rim, _edge_of(one.box, one.rim), one.width)
        for one in held:
            if one.sort in (Sort.TDC, Sort.STOP):
                self.sheet.plate(one.box, one.words, one.px, solid=one.width == THICK)
            else:
                self.p.fillRect(one.box, WHITE)
                weight = Weight.BODY if one.rim is not None else Weight.LABEL
                self.sheet.say(one.box, one.words, SMALL, weight, CENTRE)

    def _stops(self, inner: float) -> list["Written"]:
        """Plates with a ray to the rim: solid where work is done."""
        px = min(18.0, max(SMALL, self.radius * 0.05))
        held = []
        for place in self.told.places:
            if place.sort not in (Sort.TDC, Sort.STOP):
                continue
            wide = text_width(place.words, px, Weight.STRONG) + 14
            boxes = self._boxes(place.at_deg, wide, px + 10, REACHES, inner)
            box = self.taken.first_free(boxes)
            if box is not None:
                rim, width = self.way(place.at_deg) * inner, THICK if place.is_stop else LINE
                held.append(Written(box, place.words, place.sort, rim, width, px))
        return held

    def _sides(self, inner: float) -> list["Written"]:
        """Which side is before TDC, where the figures do not tell."""
        if self.face is Face.FULL:
            return []
        held = []
        for words, at in (("after TDC", 90.0), ("before TDC", -90.0)):
            wide = text_width(words, SMALL, Weight.LABEL) + 4
            boxes = [
                box
                for aside in (0, 12, -12, 24, -24)
                for box in self._boxes(at + aside, wide, SMALL + 6, (0.62, 0.5, 0.72), inner)
            ]
            box = self.taken.first_free(boxes)
            if box is not None:
                held.append(Written(box, words, Sort.EVENT, None, LINE, SMALL))
        return held

    def _rayed(self, sort: Sort, inner: float, aside: Sequence[float]) -> list["Written"]:
        """Words with a thin line to their place at the rim."""
        held = []
        for place in self.told.places:
            if place.sort is not sort:
                continue
            wide = text_width(place.words, SMALL) + 4
            boxes = [
                box
                for off in aside
                for box in self._boxes(
                    place.at_deg + off, wide, SMALL + 5, EVENT_REACHES, inner - 2 * PX
                )
            ]
            rim = self.way(place.at_deg) * inner
            box = self.taken.first_clear(boxes, rim)
            if box is not None:
                width = HAIR if sort is Sort.EVENT else LINE
                held.append(Written(box, place.words, sort, rim, width, SMALL))
        return held


@dataclass(frozen=True, slots=True)
class Written:
    """Words in a box inside the wheel, with the end of their line at the rim."""

    box: QRectF
    words: str
    sort: Sort
    rim: QPointF | None
    width: float
    px: float


def _edge_of(box: QRectF, outside: QPointF) -> QPointF:
    """Where the way from a point to the middle of a box meets its edge."""
    away = outside - box.center()
    share = min(
        box.width() / 2 / abs(away.x()) if away.x() else math.inf,
        box.height() / 2 / abs(away.y()) if away.y() else math.inf,
        1.0,
    )
    return box.center() + away * share
