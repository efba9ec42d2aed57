"""The face of a degree wheel: ticks, figures, and what is written inside them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPolygonF

from true_compass.core.paper.places import Place, Sort, StopWords
from true_compass.core.paper.wheel import Face, PaperWheel
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.paper.placing import Taken
from true_compass.drawing.paper.sheet import HAIR, LINE, PX, SMALL, THICK, About, Sheet
from true_compass.drawing.sheet_text import BLACK, WHITE
from true_compass.drawing.text import CENTRE, text_width
from true_compass.drawing.theme import Weight

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


@dataclass(frozen=True, slots=True)
class Written:
    """Words in a box inside the wheel, with the end of their line at the rim."""

    box: QRectF
    words: str
    sort: Sort
    rim: QPointF | None
    width: float
    px: float


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
        held += self._rayed(Sort.EVENT, inner, EVENT_ASIDE)
        held += self._rayed(Sort.MARK, inner, MARK_ASIDE)
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


def _edge_of(box: QRectF, outside: QPointF) -> QPointF:
    """Where the way from a point to the middle of a box meets its edge."""
    away = outside - box.center()
    share = min(
        box.width() / 2 / abs(away.x()) if away.x() else math.inf,
        box.height() / 2 / abs(away.y()) if away.y() else math.inf,
        1.0,
    )
    return box.center() + away * share
