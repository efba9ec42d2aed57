"""One cylinder's lap: 720° round, with its two lobes drawn outward from a base circle.

One lap is one turn of the cam, so lift drawn outward *is* the picture of the lobes. The lobes stand
still and the bead runs round. Compression TDC is at the top, overlap TDC at the foot. All is drawn
about the origin.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from true_compass.core.angles import Floats
from true_compass.core.items import Kind
from true_compass.core.strokes import Stroke
from true_compass.core.valves.timing import CylinderCycle
from true_compass.core.words import shown_degrees
from true_compass.drawing.codes import (
    Place,
    fill_stroke,
    flat_pen,
    number_disc,
    plate_width,
    polygon,
    ribbon,
    stroke_plate,
)
from true_compass.drawing.ring import lap_direction
from true_compass.drawing.text import LEFT, RIGHT, draw_centred, draw_text
from true_compass.drawing.theme import LABEL, LEAD, NOTE, READOUT, Theme, Weight

OUTER: Final = 248.0
INNER: Final = 224.0
BASE: Final = 114.0
REACH: Final = 62.0
BEAD_AT: Final = 84.0
LABELS_AT: Final = 262.0
LABEL_PITCH: Final = 42.0
LENS_DEG: Final = 30.0
"""The least that the lens on the overlap shows, either side of TDC."""
MOST_LENS_DEG: Final = 120.0
LENS_MARGIN_DEG: Final = 5.0
EVERY: Final = 3
"""Samples from one corner of a lobe's outline to the next."""
FULL_WIDTH: Final = 796.0
FULL_HEIGHT: Final = 600.0


def lens_reach_deg(cycle: CylinderCycle) -> float:
    """How far the lens shows either side of overlap TDC: both ends of the overlap as set, from
    seat to seat."""
    both = (cycle.as_set_mm > 0).all(axis=0) & (np.abs(cycle.at_deg - 360.0) <= MOST_LENS_DEG)
    ends = np.abs(cycle.at_deg[both] - 360.0)
    need = math.ceil((float(ends.max(initial=0.0)) + LENS_MARGIN_DEG) / 10.0) * 10.0
    return min(max(need, LENS_DEG), MOST_LENS_DEG)


@dataclass(frozen=True, slots=True)
class EventMark:
    """An event on the lap: its line, and the box of its first line of words."""

    line: QLineF
    box: QRectF
    head: str
    words: str
    right: bool


@dataclass(frozen=True, slots=True)
class Lap:
    """Paints the lap of one cylinder. `sense` is −1 for an engine drawn mirrored."""

    theme: Theme
    sense: int = 1

    def paint_frame(self, p: QPainter) -> None:
        """What is the same for every cylinder: strokes, marks, dead centres, base circle."""
        theme = self.theme
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.sheet)
        p.drawEllipse(QPointF(0, 0), OUTER, OUTER)
        for stroke in Stroke:
            path = _band(stroke, self.sense)
            fill_stroke(p, path, stroke, theme)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(flat_pen(theme.stroke(stroke), 2.0))
            p.drawPath(path)
            out = lap_direction(180.0 * stroke + 90.0, self.sense)
            width = plate_width(stroke)
            middle = QPointF(out.x() * 306, out.y() * 300 * 1.2)
            plate = QRectF(middle.x() - width / 2, middle.y() - 14, width, 28)
            stroke_plate(p, plate, stroke, theme, alone=True)
        _marks(p, theme)
        for x, align in ((-OUTER - 78, RIGHT), (OUTER + 8, LEFT)):
            draw_text(p, QRectF(x, -14, 70, 28), "BDC", LABEL, theme.ink, Weight.STRONG, align)

    def paint_lobes(self, p: QPainter, cycle: CylinderCycle) -> None:
        """Both lobes as they lift the valves, their names, and injector and brake."""
        theme, most = self.theme, _most(cycle)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        for kind, lift in zip(Kind, cycle.lift_mm, strict=True):
            for first, last in lifted_runs(lift):
                edge = self._edge(cycle.at_deg, lift / most, first, last)
                # The hollow lobe is its edge alone, so the dashes below it show through.
                if kind is Kind.INTAKE:
                    p.drawPolygon(ribbon(edge[0], edge[1], 2.4))
                else:
                    back = self._edge(cycle.at_deg, np.zeros(len(lift)), first, last)
                    p.drawPolygon(polygon(*np.concatenate((edge, back[:, ::-1]), axis=1)))
        p.setBrush(Qt.BrushStyle.NoBrush)
        for name, lift in cycle.extras_mm:
            self._extra(p, name, cycle.at_deg, lift / max(float(lift.max()), 0.1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.line, 1.0))
        p.drawEllipse(QPointF(0, 0), BASE, BASE)
        self._names(p, cycle, most)

    def paint_as_set(self, p: QPainter, cycle: CylinderCycle) -> None:
        """Dashed: both lobes as set, where something else is tried."""
        p.setPen(QPen(self.theme.ink2, 1.6, Qt.PenStyle.DashLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        for lift in cycle.as_set_mm:
            for first, last in lifted_runs(lift):
                edge = self._edge(cycle.at_deg, lift / _most(cycle), first, last)
                p.drawPolyline(polygon(*edge))

    def _extra(self, p: QPainter, name: str, at: Floats, share: Floats) -> None:
        """The lobe of an injector or a brake, as an outline with its name."""
        p.setPen(flat_pen(self.theme.ink2, 1.8))
        for first, last in lifted_runs(share):
            p.drawPolyline(polygon(*self._edge(at, share * 0.8, first, last)))
        nose = float(at[int(np.argmax(share))])
        spot = lap_direction(nose, self.sense) * (BASE + REACH * 0.8 + 14)
        draw_centred(p, spot, name, LABEL, self.theme.ink2, Weight.LABEL)

    def _edge(self, at: Floats, share: Floats, first: int, last: int) -> Floats:
        """Corners `(2, N)` of a lobe's outline; a share of 1 is the full reach."""
        bearing = np.radians(at[first:last:EVERY] / 2) * self.sense
        reach = BASE + REACH * share[first:last:EVERY]
        return np.array([np.sin(bearing) * reach, -np.cos(bearing) * reach])

    def _names(self, p: QPainter, cycle: CylinderCycle, most: float) -> None:
        theme = self.theme
        for valve, lift in zip(cycle.times.valves, cycle.lift_mm, strict=True):
            if lift.max() < 0.25 * most:
                continue
            nose = float(cycle.at_deg[int(np.argmax(lift))])
            at = lap_direction(nose, self.sense) * (BASE + 0.46 * REACH)
            colour = theme.ink if valve.kind is Kind.INTAKE else theme.on_ink
            draw_centred(p, at, valve.name, LEAD, colour, Weight.STRONG)

    def paint_events(self, p: QPainter, cycle: CylinderCycle) -> None:
        """The four events: a line through the frame, and words outside it."""
        theme = self.theme
        for mark in self.marks(cycle):
            _line(p, mark.line.p1(), mark.line.p2(), theme)
            align = LEFT if mark.right else RIGHT
            draw_text(p, mark.box, mark.head, LABEL + 1, theme.ink, Weight.STRONG, align)
            below = mark.box.translated(0, 21)
            draw_text(p, below, mark.words, NOTE + 1, theme.ink2, align=align)

    def marks(self, cycle: CylinderCycle) -> list["EventMark"]:
        """Where the four events and their words stand; words on one side keep their distance."""
        sides: dict[bool, list[tuple[float, QLineF, str, str]]] = {True: [], False: []}
        for valve in cycle.times.valves:
            for opens in (True, False):
                place = valve.own_deg(opens)
                if place is None:
                    continue
                out = lap_direction(place, self.sense)
                line = QLineF(out * BASE, out * (OUTER + 10))
                letter = valve.kind.letter
                head = f"{letter} opens" if opens else f"{letter} closes"
                words = plain_words(valve.opens if opens else valve.closes)
                sides[out.x() >= 0].append((out.y() * LABELS_AT, line, head, words))
        marks = []
        for right, rows in sides.items():
            rows.sort(key=lambda row: row[0])
            heights = _spread([row[0] for row in rows])
            for y, (_, line, head, words) in zip(heights, rows, strict=True):
                reach = max(LABELS_AT**2 - y * y, 0.0) ** 0.5
                x = max(reach, 44.0 if abs(y) > LABELS_AT - 40 else 0.0) + 8
                box = QRectF(x if right else -x - 170, y - 20, 170, 22)
                marks.append(EventMark(line, box, head, words, right))
        return marks

    def paint_lens_frame(self, p: QPainter, cycle: CylinderCycle) -> None:
        """The framed part of the lap that the lens shows large."""
        inner, outer = BASE - 12, BASE + 24
        path, reach_deg = QPainterPath(), lens_reach_deg(cycle)
        for radius, turn in ((outer, 1), (inner, -1)):
            for step in range(-6, 7):
                point = lap_direction(360.0 + turn * step * reach_deg / 6, self.sense) * radius
                if radius == outer and step == -6:
                    path.moveTo(point)
                else:
                    path.lineTo(point)
        path.closeSubpath()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(self.theme.sheet, 5))
        p.drawPath(path)
        p.setPen(flat_pen(self.theme.now, 2.4))
        p.drawPath(path)

    def paint_bead(self, p: QPainter, cylinder: int, cycle_deg: float, place: Place) -> None:
        """Where the cylinder stands on its lap, and the angle in the middle."""
        theme = self.theme
        out = lap_direction(cycle_deg, self.sense)
        colour = theme.ink if place is Place.BETWEEN else theme.now
        p.setPen(flat_pen(colour, 3))
        p.drawLine(out * (BEAD_AT + 16), out * (BASE - 1))
        number_disc(p, out * BEAD_AT, 17, cylinder, place, theme, strong=True)
        angle = f"{shown_degrees(cycle_deg)}°"
        draw_centred(p, QPointF(2, -22), angle, READOUT + 3, theme.ink, Weight.STRONG)
        draw_centred(p, QPointF(0, 6), "after firing", NOTE + 1, theme.ink2, Weight.LABEL)
        cam = f"cam {shown_degrees(cycle_deg / 2)}°"
        draw_centred(p, QPointF(0, 27), cam, NOTE + 1, theme.ink2, Weight.LABEL)


def _most(cycle: CylinderCycle) -> float:
    """The lift that reaches furthest out: as set, so that the scale stays."""
    return max(float(cycle.as_set_mm.max()), 0.1)


def plain_words(words: str) -> str:
    """`14° before TDC` for `14 BTDC`."""
    if words == "never":
        return words
    amount, name = words.split()
    return f"{amount}° before {name[1:]}" if name[0] == "B" else f"{amount}° after {name[1:]}"


def lifted_runs(
    lift: Floats,
) -> list[tuple[int, int]]:
    """Runs of samples off the seat, each with the sample before and after: half-open ranges."""
    up = np.concatenate(([False], lift > 0, [False]))
    edges = np.flatnonzero(np.diff(up.astype(np.int8)))
    return [
        (max(int(first) - 1, 0), min(int(last) + 1, len(lift)))
        for first, last in zip(edges[::2], edges[1::2], strict=True)
    ]


def _spread(wanted: Sequence[float]) -> list[float]:
    """Heights near the wanted ones, in order, that leave room for a label each."""
    placed: list[float] = []
    for y in sorted(wanted):
        placed.append(max(y, placed[-1] + LABEL_PITCH) if placed else y)
    over = max(placed[-1] - LABELS_AT, 0.0) if placed else 0.0
    result: list[float] = []
    for y in reversed([y - over for y in placed]):
        result.append(min(y, result[-1] - LABEL_PITCH) if result else y)
    return result[::-1]


def _line(p: QPainter, start: QPointF, end: QPointF, theme: Theme) -> None:
    p.setPen(flat_pen(theme.sheet, 7))
    p.drawLine(start, end)
    p.setPen(flat_pen(theme.ink, 2.2))
    p.drawLine(start, end)


def _band(stroke: Stroke, sense: int) -> QPainterPath:
    begin, sweep = 90 - sense * 90.0 * stroke, -sense * 90.0
    outer = QRectF(-OUTER, -OUTER, 2 * OUTER, 2 * OUTER)
    inner = QRectF(-INNER, -INNER, 2 * INNER, 2 * INNER)
    path = QPainterPath()
    path.arcMoveTo(outer, begin)
    path.arcTo(outer, begin, sweep)
    path.arcTo(inner, begin + sweep, -sweep)
    path.closeSubpath()
    return path


def _marks(p: QPainter, theme: Theme) -> None:
    p.setPen(flat_pen(theme.paper, 2.4))
    p.setBrush(theme.now)
    p.drawPolygon(QPolygonF([QPointF(-15, -264), QPointF(15, -264), QPointF(0, -236)]))
    p.setPen(flat_pen(theme.now, 3))
    p.setBrush(theme.paper)
    p.drawPolygon(QPolygonF([QPointF(-14, 264), QPointF(14, 264), QPointF(0, 238)]))
