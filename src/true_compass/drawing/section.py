"""One cylinder in section: head with its two valves, gas, piston, rod and crank.

Drawn about x = 0, from y = 0 (tops of the stems) to y = 200. Rod and stroke are to one scale; the
bore is drawn wider than true so that the stroke's texture can be read from the back row.
"""

import math
from dataclasses import dataclass
from functools import cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPolygonF

from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.strokes import Stroke
from true_compass.drawing.codes import LEVEL_PITCH, fill_stroke, flat_pen, round_pen
from true_compass.drawing.stills import Stills
from true_compass.drawing.theme import Theme

HEIGHT = 200.0
BORE = 70.0
WALL = 8.0
HEAD_TOP, HEAD_FOOT = 18.0, 40.0
CROWN_AT_TDC = 48.0
PISTON = 30.0
PIN_BELOW_CROWN = 18.0
VALVE_X = 17.0
FULL_LIFT = 14.0
HALF = BORE / 2 + WALL
PORT_STROKE = {Kind.INTAKE: Stroke.INTAKE, Kind.EXHAUST: Stroke.EXHAUST}


@dataclass(frozen=True, slots=True)
class SectionPose:
    """What a section shows: the cylinder's cycle angle, its stroke and its valves' lifts.

    Lifts are fractions of the peak lift, 0 to 1. `piston_from_tdc_mm` is from the core.
    """

    cycle_deg: float
    stroke: Stroke
    piston_from_tdc_mm: float
    intake_lift: float
    exhaust_lift: float

    @property
    def shut(self) -> tuple[bool, bool]:
        """Whether the intake and the exhaust valve are on their seats."""
        return self.intake_lift <= 0, self.exhaust_lift <= 0


@dataclass(frozen=True, slots=True)
class SectionScale:
    """Pixels of the fixed parts of a section, from the engine's dimensions."""

    px_per_mm: float
    radius: float
    crank_y: float

    @staticmethod
    def of(engine: Engine) -> "SectionScale":
        """The scale at which rod and stroke fill the height."""
        top = CROWN_AT_TDC + PIN_BELOW_CROWN
        px_per_mm = (HEIGHT - 4 - top) / (engine.rod_mm + engine.stroke_mm)
        radius = engine.stroke_mm / 2 * px_per_mm
        return SectionScale(px_per_mm, radius, top + engine.rod_mm * px_per_mm + radius)

    @property
    def bore_foot(self) -> float:
        """Where the cylinder wall ends, a little below the piston at BDC."""
        return CROWN_AT_TDC + 2 * self.radius + PISTON + 4


@dataclass(frozen=True, slots=True)
class Section:
    """Paints sections of one engine in one theme. `sense` is -1 for an engine drawn mirrored."""

    scale: SectionScale
    theme: Theme
    stills: Stills
    sense: int = 1

    def paint_still(self, p: QPainter, pose: SectionPose) -> None:
        """Draw what stands still: walls, head, shut valves, the circle of the crank pin."""
        self._paint_block(p)
        for kind, is_shut in zip(Kind, pose.shut, strict=True):
            if is_shut:
                self._paint_valve(p, kind, 0.0)

    def paint(self, p: QPainter, pose: SectionPose) -> None:
        """Draw what moves, over what stands still."""
        crown = CROWN_AT_TDC + pose.piston_from_tdc_mm * self.scale.px_per_mm
        self._paint_gas(p, pose.stroke, crown)
        for kind, lift in ((Kind.INTAKE, pose.intake_lift), (Kind.EXHAUST, pose.exhaust_lift)):
            if lift > 0:
                self._paint_open_port(p, kind)
                self._paint_valve(p, kind, lift)
        self._paint_crank(p, pose.cycle_deg, crown)

    def paint_bare(self, p: QPainter, pose: SectionPose) -> None:
        """Draw what moves, and nothing that tells the stroke: the gas plain, open ports empty."""
        crown = CROWN_AT_TDC + pose.piston_from_tdc_mm * self.scale.px_per_mm
        p.fillRect(QRectF(-BORE / 2, HEAD_FOOT, BORE, crown - HEAD_FOOT + 1), self.theme.well)
        for kind, lift in ((Kind.INTAKE, pose.intake_lift), (Kind.EXHAUST, pose.exhaust_lift)):
            if lift > 0:
                self._paint_valve(p, kind, lift)
        self._paint_crank(p, pose.cycle_deg, crown)

    def _paint_valve(self, p: QPainter, kind: Kind, lift: float) -> None:
        side = -1 if kind is Kind.INTAKE else 1
        p.save()
        p.translate(side * VALVE_X, lift * FULL_LIFT)
        p.fillPath(valve_path(kind), self.theme.ink)
        p.restore()

    def _paint_block(self, p: QPainter) -> None:
        theme, foot = self.theme, self.scale.bore_foot
        for side in (-1, 1):
            wall = QRectF(BORE / 2, HEAD_FOOT, WALL, foot - HEAD_FOOT)
            if side < 0:
                wall.moveRight(-BORE / 2)
            p.fillRect(wall, theme.metal)
            x = side * (BORE / 2 + 0.8)
            p.setPen(flat_pen(theme.ink2, 1.6))
            p.drawLine(QPointF(x, HEAD_FOOT), QPointF(x, foot))
        p.fillRect(QRectF(-HALF, HEAD_TOP, 2 * HALF, HEAD_FOOT - HEAD_TOP), theme.metal)
        for kind in Kind:
            p.fillPath(port_path(kind), theme.sheet)
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.drawLine(QPointF(-5, HEAD_FOOT), QPointF(5, HEAD_FOOT))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawEllipse(QPointF(0, self.scale.crank_y), self.scale.radius, self.scale.radius)

    def _paint_gas(self, p: QPainter, stroke: Stroke, crown: float) -> None:
        box = QRectF(-BORE / 2, HEAD_FOOT, BORE, crown - HEAD_FOOT + 1)
        most = 2 * self.scale.radius + CROWN_AT_TDC - HEAD_FOOT + 1
        if stroke is Stroke.POWER:
            p.fillRect(box, self.theme.power)
            return
        if stroke is Stroke.COMPRESSION:
            # The bars close up as the gas is squeezed: one picture for each height in pixels.
            box.setHeight(round(box.height()))
            squeezed = max(3.0, LEVEL_PITCH * box.height() / most)
            whole, height = box, box.height()
        else:
            # The texture stands still and the piston uncovers it.
            squeezed = LEVEL_PITCH
            whole, height = QRectF(box.left(), box.top(), BORE, most), 0.0

        def paint(q: QPainter) -> None:
            fill_stroke(q, whole, stroke, self.theme, level_pitch=squeezed)

        p.save()
        p.setClipRect(box)
        self.stills.draw(p, ("gas", stroke, height), whole, paint, self.theme.tint(stroke))
        p.restore()

    def _paint_open_port(self, p: QPainter, kind: Kind) -> None:
        path = port_path(kind)

        def paint(q: QPainter) -> None:
            fill_stroke(q, path, PORT_STROKE[kind], self.theme)

        self.stills.draw(p, ("port", kind), path.boundingRect(), paint)

    def _paint_crank(self, p: QPainter, cycle_deg: float, crown: float) -> None:
        theme, scale = self.theme, self.scale
        turned = math.radians(cycle_deg) * self.sense
        centre = QPointF(0, scale.crank_y)
        crank_pin = centre + QPointF(math.sin(turned), -math.cos(turned)) * scale.radius
        gudgeon = QPointF(0, crown + PIN_BELOW_CROWN)
        p.setPen(round_pen(theme.metal_dk, 7))
        p.drawLine(centre, crank_pin)
        p.save()
        p.translate(0, crown)
        p.fillPath(piston_path(), theme.ink)
        p.restore()
        p.setPen(round_pen(theme.ink, 7))
        p.drawLine(gudgeon, crank_pin)
        p.drawPoint(centre)
        p.setPen(round_pen(theme.sheet, 6.4))
        p.drawPoints(crank_pin, gudgeon)


@cache
def port_path(kind: Kind) -> QPainterPath:
    """The channel of a port in the head, from outside to the valve seat."""
    side = -1 if kind is Kind.INTAKE else 1
    corners = ((HALF, 21), (HALF, 33), (29, 40), (5, 40), (13, 30))
    path = QPainterPath()
    path.addPolygon(QPolygonF([QPointF(side * x, y) for x, y in corners]))
    path.closeSubpath()
    return path


@cache
def valve_path(kind: Kind) -> QPainterPath:
    """A shut valve about its own axis: head, stem, and a tip with the corners of its kind."""
    head = ((-12, 0), (12, 0), (12, -2), (3, -8), (-3, -8), (-12, -2))
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    path.addPolygon(QPolygonF([QPointF(x, HEAD_FOOT + y) for x, y in head]))
    path.closeSubpath()
    path.addRect(QRectF(-1.7, 5, 3.4, HEAD_FOOT - 5))
    radius = 3.0 if kind is Kind.INTAKE else 0.0
    path.addRoundedRect(QRectF(-7, 1, 14, 6), radius, radius)
    return path.simplified()


@cache
def piston_path() -> QPainterPath:
    """A piston with its crown at y = 0 and two open ring grooves."""
    path = QPainterPath()
    wide = BORE - 3.2
    path.addRoundedRect(QRectF(-wide / 2, 0, wide, PISTON), 2, 2)
    for groove in (5.0, 9.0):
        path.addRect(QRectF(-wide / 2 + 2, groove, wide - 4, 1.4))
    return path
