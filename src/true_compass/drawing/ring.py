"""The ring: a fixed frame of four strokes, and a card with the cylinders that turns inside it.

One lap is one cycle: 720° of crank. What stands under the solid mark at the top is at compression
TDC, what stands above the hollow mark at the foot is at overlap TDC. Everything is drawn about the
origin with an outer radius of 200; callers translate and scale.
"""

import math
from dataclasses import dataclass

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, Floats, wrap_deg
from true_compass.core.engine import Engine, Shaft
from true_compass.core.items import Kind
from true_compass.core.state import EngineState, Rig
from true_compass.core.strokes import Stroke
from true_compass.core.words import shown_degrees
from true_compass.drawing.codes import Bead, Place, fill_stroke, flat_pen, round_pen
from true_compass.drawing.marks import mark_bar, paint_of, short_name
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import draw_centred
from true_compass.drawing.theme import NOTE, RING, Theme, Weight

OUTER = 200.0
BAND = 26.0
INNER = OUTER - BAND
INTAKE_ARC = 166.5
EXHAUST_ARC = 154.0
BEAD_AT = 121.0
CARD_REACH = 153.0
TICKS_AT = 96.0
LABELS_AT = 68.0
MARKS_AT = 143.0
PASSING_DEG = 2.0
"""Within so many degrees of the top a mark is named."""
MOST_LABELS = 12
MOST_GAPS = 8


@dataclass(frozen=True, slots=True)
class FreeArc:
    """The part of the lap in which a kind of valve is free: cycle angle of its start, length."""

    kind: Kind
    start_deg: float
    length_deg: float


def free_arcs(rig: Rig) -> tuple[FreeArc, ...]:
    """The free arcs of each kind of valve, in the cycle of its own cylinder.

    They are cylinder 1's; those of other cylinders are the same unless their bank is advanced.
    """
    arcs = []
    for row, valve in enumerate(rig.engine.valves[: len(Kind)]):
        if not rig.lobes.settable[row]:
            continue
        for start_deg, length_deg in rig.lobes.free_arcs_deg(row):
            own_deg = (start_deg - rig.offsets_deg[valve.cylinder - 1]) % CYCLE_DEG
            arcs.append(FreeArc(valve.kind, float(own_deg), length_deg))
    return tuple(arcs)


def sense_of(engine: Engine) -> int:
    """1 for an engine that turns clockwise seen from the front, -1 for one drawn mirrored."""
    return 1 if engine.clockwise_from_front else -1


def lap_direction(cycle_deg: float, sense: int) -> QPointF:
    """Unit vector from the centre to a cycle angle on the lap; 0 is at the top."""
    bearing = math.radians(cycle_deg / 2) * sense
    return QPointF(math.sin(bearing), -math.cos(bearing))


def lap_angle_deg(at: QPointF, sense: int) -> float:
    """Cycle angle in [0, 720) of a point about the centre."""
    bearing = math.degrees(math.atan2(at.x(), -at.y())) * sense
    return (bearing * 2) % CYCLE_DEG


def _arc_path(radius: float, start_deg: float, length_deg: float, sense: int) -> QPainterPath:
    box = QRectF(-radius, -radius, 2 * radius, 2 * radius)
    path = QPainterPath()
    # Qt counts from three o'clock, anticlockwise.
    begin = 90 - sense * start_deg / 2
    path.arcMoveTo(box, begin)
    path.arcTo(box, begin, -sense * length_deg / 2)
    return path


def _band_path(stroke: Stroke, sense: int) -> QPainterPath:
    start = 180.0 * stroke
    outer = QRectF(-OUTER, -OUTER, 2 * OUTER, 2 * OUTER)
    inner = QRectF(-INNER, -INNER, 2 * INNER, 2 * INNER)
    begin, sweep = 90 - sense * start / 2, -sense * 90.0
    path = QPainterPath()
    path.arcMoveTo(outer, begin)
    path.arcTo(outer, begin, sweep)
    path.arcTo(inner, begin + sweep, -sweep)
    path.closeSubpath()
    return path


def paint_frame(
    p: QPainter, arcs: tuple[FreeArc, ...], theme: Theme, sense: int = 1, edge: float = 1.6
) -> None:
    """The part that stays still: strokes, free arcs and the two marks."""
    p.setBrush(theme.sheet)
    p.setPen(Qt.PenStyle.NoPen)
    p.drawEllipse(QPointF(0, 0), OUTER, OUTER)
    for stroke in Stroke:
        path = _band_path(stroke, sense)
        fill_stroke(p, path, stroke, theme)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.stroke(stroke), edge + 0.4))
        p.drawPath(path)
    for arc in arcs:
        _paint_free_arc(p, arc, theme, sense)
    _paint_marks(p, theme)


def _paint_free_arc(p: QPainter, arc: FreeArc, theme: Theme, sense: int) -> None:
    p.setBrush(Qt.BrushStyle.NoBrush)
    if arc.kind is Kind.EXHAUST:
        p.setPen(flat_pen(theme.ink, 8))
        p.drawPath(_arc_path(EXHAUST_ARC, arc.start_deg, arc.length_deg, sense))
        return
    path = _arc_path(INTAKE_ARC, arc.start_deg, arc.length_deg, sense)
    p.setPen(flat_pen(theme.ink, 8))
    p.drawPath(path)
    # The hollow: the same arc in the colour of the sheet, shorter by the width of its end line.
    end = math.degrees(2.0 / INTAKE_ARC) * 2
    if arc.length_deg > 2 * end:
        hollow = _arc_path(INTAKE_ARC, arc.start_deg + end, arc.length_deg - 2 * end, sense)
        p.setPen(flat_pen(theme.sheet, 4.2))
        p.drawPath(hollow)


def _paint_marks(p: QPainter, theme: Theme) -> None:
    p.setPen(round_pen(theme.paper, 2.4))
    p.setBrush(theme.now)
    p.drawPolygon(QPolygonF([QPointF(-15, -215), QPointF(15, -215), QPointF(0, -187)]))
    p.setPen(QPen(theme.now, 3, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
    p.setBrush(theme.paper)
    p.drawPolygon(QPolygonF([QPointF(-14, 214), QPointF(14, 214), QPointF(0, 189)]))


def _tick(step: int) -> QLineF:
    out = lap_direction(step * 10.0, 1)
    return QLineF(out * (TICKS_AT - (5 if step % 9 else 8)), out * TICKS_AT)


_BEAD_TICK = QLineF(0, -(TICKS_AT - 10), 0, -(TICKS_AT + 4))
_TICKS = [_tick(step) for step in range(72)]


def paint_ticks(p: QPainter, theme: Theme) -> None:
    """The card's scale in its own frame: a tick each 10° of crank. The caller turns the painter."""
    # A pen no wider than 1: Qt draws wider ones many times slower.
    p.setPen(flat_pen(theme.line, 1.0))
    p.drawLines(*_TICKS)


@dataclass(frozen=True, slots=True)
class Card:
    """Paints the part that turns. `strong` is the number of a cylinder to thicken, if any."""

    theme: Theme
    stills: Stills
    sense: int = 1
    strong: int | None = None
    rounded: bool = False
    """Whether degrees on the card are whole, where true TDCs fall anywhere."""
    plain: bool = False
    """Whether no angle is told."""
    marks: bool = False
    """Whether the marks of the crank are shown: twice a cycle each, where they pass the top."""
    labels: bool = True
    """Whether the degrees of the beads are told: too small in a small ring."""

    def paint(self, p: QPainter, rig: Rig, state: EngineState) -> None:
        """One bead a cylinder at its firing angle, degrees, and the readout."""
        crank_deg = float(state.crank_deg)
        count = rig.engine.cylinder_count
        p.save()
        p.rotate(self.sense * crank_deg / 2)
        paint_ticks(p, self.theme)
        p.restore()
        if self.marks:
            self._paint_marks(p, rig, crank_deg)
        # Beads stand at the true TDC, not at the even one. Those that share it stack inward.
        cycles = true_cycles_deg(rig, state).tolist()
        radius = 19.0 if count <= 8 else 15.0
        taken: dict[float, int] = {}
        for row, cycle_deg in enumerate(cycles):
            place = place_of(state, row)
            depth = taken.get(round(cycle_deg, 2), 0)
            taken[round(cycle_deg, 2)] = depth + 1
            self._paint_bead(p, row + 1, cycle_deg, place, radius, depth)
            if self.plain or not self.labels:
                continue
            if depth == 0 and (1 < count <= MOST_LABELS or place is not Place.BETWEEN):
                self._paint_label(p, float(rig.true_offsets_deg[row]), cycle_deg)
        if self.plain:
            return
        if count == 1 and self.labels:
            # Nobody else is on the card: its own dead centres take the place of the other beads.
            for dead_centre_deg in (0.0, 180.0, 360.0, 540.0):
                self._paint_label(p, dead_centre_deg, crank_deg - dead_centre_deg)
        if self.labels and not rig.engine.fires_evenly and 1 < count <= MOST_GAPS:
            self._paint_gaps(p, rig, crank_deg)
        theme = self.theme
        angle = f"{shown_degrees(crank_deg)}°"
        draw_centred(p, QPointF(3, -7), angle, RING, theme.ink, Weight.STRONG)
        turn = f"turn {1 if crank_deg < 360 else 2} of 2"
        draw_centred(p, QPointF(0, 24), turn, NOTE + 1, theme.ink2, Weight.LABEL)

    def _paint_marks(self, p: QPainter, rig: Rig, crank_deg: float) -> None:
        """Every mark of the crank at the rim of the card, and the name of one that passes."""
        here = ""
        for mark in rig.engine.marks:
            if mark.shaft is not Shaft.CRANK:
                continue
            fill = paint_of(mark, self.theme)
            for at_deg in rig.mark_places_deg(mark):
                way = lap_direction(crank_deg - at_deg, self.sense)
                mark_bar(p, way * MARKS_AT, way * CARD_REACH, fill, self.theme)
                away = (crank_deg - at_deg + TURN_DEG) % CYCLE_DEG - TURN_DEG
                if abs(away) <= PASSING_DEG:
                    here = f"mark {short_name(mark)}"
        if here:
            draw_centred(p, QPointF(0, 51), here, NOTE + 1, self.theme.ink, Weight.STRONG)

    def _paint_gaps(self, p: QPainter, rig: Rig, crank_deg: float) -> None:
        """The gap between two firings, written between their beads."""
        engine = rig.engine
        for group, gap in zip(engine.firing_groups, engine.intervals_deg, strict=True):
            middle = float(rig.offsets_deg[group[0] - 1]) + gap / 2
            text = f"{gap:.4g}°"

            def paint(q: QPainter, text: str = text) -> None:
                draw_centred(q, QPointF(0, 0), text, NOTE, self.theme.ink, Weight.STRONG)

            at = lap_direction(crank_deg - middle, self.sense) * BEAD_AT
            self.stills.draw(p, ("gap", text), QRectF(-26, -11, 52, 22), paint, at=at)

    def _paint_bead(
        self,
        p: QPainter,
        cylinder: int,
        cycle_deg: float,
        place: Place,
        radius: float,
        depth: int,
    ) -> None:
        strong = cylinder == self.strong
        bearing_deg = self.sense * cycle_deg / 2
        mark = self.theme.ink if place is Place.BETWEEN else self.theme.now
        p.save()
        p.rotate(bearing_deg)
        p.setPen(flat_pen(mark, 3.0 if strong else 2.2))
        p.drawLine(_BEAD_TICK)
        p.restore()
        at = lap_direction(cycle_deg, self.sense) * (BEAD_AT - depth * 2 * radius)
        bead = Bead(cylinder, place, radius, strong)
        bead.paint(p, at, bearing_deg, self.theme, self.stills)

    def _paint_label(self, p: QPainter, card_deg: float, cycle_deg: float) -> None:
        text = f"{round(card_deg) if self.rounded else round(card_deg, 1):g}"

        def paint(q: QPainter) -> None:
            draw_centred(q, QPointF(0, 0), text, NOTE + 1, self.theme.ink2, Weight.LABEL)

        at = lap_direction(cycle_deg, self.sense) * LABELS_AT
        self.stills.draw(p, ("label", text), QRectF(-26, -11, 52, 22), paint, at=at)


def true_cycles_deg(rig: Rig, state: EngineState) -> Floats:
    """Cycle angle of each cylinder counted from its true TDC, in [0, 720), shape `(C,)`."""
    if rig.plain:
        return state.cycle_deg
    return wrap_deg(state.cycle_deg - rig.centres.tdc_deg)


def place_of(state: EngineState, row: int) -> Place:
    """Whether a cylinder row stands at a TDC."""
    if state.at_compression_tdc[row]:
        return Place.COMPRESSION_TDC
    return Place.OVERLAP_TDC if state.at_overlap_tdc[row] else Place.BETWEEN
