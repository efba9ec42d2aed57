"""Cylinders on their true bank angles, seen from the front: the cell of one throw, and the star.

Rods, stroke and bore are to one scale here. Textures do not turn with a bank: level bars that
slant would read as another stroke.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPolygonF, QTransform

from true_compass.core.crank.mechanism import master_tilt_sin
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.strokes import Stroke
from true_compass.drawing.codes import LEVEL_PITCH, fill_stroke, flat_pen, round_pen
from true_compass.drawing.section import (
    BORE,
    CROWN_AT_TDC,
    FULL_LIFT,
    HALF,
    HEAD_FOOT,
    HEAD_TOP,
    PIN_BELOW_CROWN,
    PISTON,
    PORT_STROKE,
    VALVE_X,
    WALL,
    SectionPose,
    piston_path,
    port_path,
    valve_path,
)
from true_compass.drawing.stills import Paint, Stills
from true_compass.drawing.theme import Theme

ORIGIN: Final = QPointF(0, 0)
LIFT_STEPS: Final = 28
HIDDEN_GAS: Final = 4.5
"""How far gas may reach below a crown: no further than its first ring groove, which is open."""


@dataclass(frozen=True)
class ArmScale:
    """Where the parts of a cylinder are on its own axis, in units of a bore 70 wide.

    y = 40 is the joint of the head, as in a section; the crank's centre is at `crank_y`.
    """

    rig: Rig

    @cached_property
    def unit_per_mm(self) -> float:
        """Units for each mm of rod and stroke; bores drawn a little narrower than true."""
        engine = self.rig.engine
        return min(BORE / engine.bore_mm, 190.0 / (engine.rod_mm + engine.stroke_mm / 2))

    @cached_property
    def top(self) -> float:
        """Distance of the gudgeon pin from the crank's centre at true TDC, at its largest."""
        return float(np.max(self.rig.centres.top_mm)) * self.unit_per_mm

    @cached_property
    def crank_y(self) -> float:
        """Crank centre below the tips of the stems."""
        return CROWN_AT_TDC + PIN_BELOW_CROWN + self.top

    @cached_property
    def radius(self) -> float:
        """Crank radius."""
        return self.rig.engine.stroke_mm / 2 * self.unit_per_mm

    @cached_property
    def foot(self) -> float:
        """Where the walls end."""
        lowest = CROWN_AT_TDC + 2 * self.radius + PISTON
        return min(lowest, self.crank_y - self.radius * 0.6)

    def extent(self, angles_deg: Sequence[float]) -> QRectF:
        """Box about the crank's centre that holds cylinders at these bearings from the top."""
        box = QRectF(-self.radius - 8, -self.radius - 8, 2 * self.radius + 16, 2 * self.radius + 16)
        for angle in angles_deg:
            turn = QTransform().rotate(angle)
            arm = QRectF(-HALF, -self.crank_y, 2 * HALF, self.crank_y - self.foot)
            box = box.united(turn.mapRect(arm))
        return box


@dataclass(frozen=True, slots=True)
class Arm:
    """One cylinder in an end view: its bearing on the screen, pose, and true fall of the piston.

    `pin` and `rod_foot` are points about the crank's centre, in units: the crank pin and where the
    rod ends (the same point but for a link rod).
    """

    cylinder: int
    bearing_deg: float
    pose: SectionPose
    height: float
    pin: QPointF
    rod_foot: QPointF
    master: bool = False
    mirrored: bool = False
    """Whether intake stands at the right of its own axis: towards the valley on a left bank."""


def arms_of(rig: Rig, scale: ArmScale, poses: Sequence[SectionPose], sense: int) -> list[Arm]:
    """Every cylinder of a rig with its linkage, by cylinder."""
    layout, linkage = rig.engine.layout, rig.linkage
    unit = scale.unit_per_mm
    cycles = np.array([pose.cycle_deg for pose in poses])
    falls = np.array([pose.piston_from_tdc_mm for pose in poses])
    heights = (rig.centres.top_mm - falls) * unit
    tilts_deg = np.degrees(np.arcsin(master_tilt_sin(linkage, cycles)))
    arms = []
    for row, pose in enumerate(poses):
        seat = layout.seats[row]
        own = (
            -sense
            if layout.throws[seat.throw].second_crank and layout.second_crank_against
            else sense
        )
        bank_deg = float(layout.bank_deg[row])
        # The pin stands in its bank at TDC, whichever way its crank turns from there.
        axis_deg = sense * bank_deg
        pin = _point(axis_deg + own * float(cycles[row]), scale.radius)
        rod_foot = pin
        if linkage.hub_mm[row]:
            towards_deg = axis_deg + own * float(tilts_deg[row])
            rod_foot = pin + _point(towards_deg, float(linkage.hub_mm[row]) * unit)
        is_master = layout.articulated is not None and not linkage.hub_mm[row]
        arms.append(
            Arm(
                row + 1,
                axis_deg,
                pose,
                float(heights[row]),
                pin,
                rod_foot,
                is_master,
                layout.articulated is None and sense * bank_deg < 0,
            )
        )
    return arms


def _point(bearing_deg: float, distance: float) -> QPointF:
    turned = math.radians(bearing_deg)
    return QPointF(math.sin(turned) * distance, -math.cos(turned) * distance)


@dataclass(frozen=True, slots=True)
class EndView:
    """Paints arms about a crank centre at the painter's origin, `factor` pixels to the unit."""

    scale: ArmScale
    theme: Theme
    stills: Stills
    factor: float

    def paint_still(self, p: QPainter, bearings_deg: Sequence[float]) -> None:
        """Draw what stands still: walls, heads with shut ports, the circle of the crank pin."""
        p.save()
        p.scale(self.factor, self.factor)
        for bearing in bearings_deg:
            p.save()
            p.rotate(bearing)
            p.translate(0, -self.scale.crank_y)
            self._paint_block(p)
            p.restore()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(self.theme.line, 1.4))
        p.drawEllipse(QPointF(0, 0), self.scale.radius, self.scale.radius)
        p.restore()

    def _paint_block(self, p: QPainter) -> None:
        theme, foot = self.theme, self.scale.foot
        for left in (-HALF, BORE / 2):
            p.fillRect(QRectF(left, HEAD_FOOT, WALL, foot - HEAD_FOOT), theme.metal)
        p.setPen(flat_pen(theme.ink2, 1.6))
        for x in (-BORE / 2 - 0.8, BORE / 2 + 0.8):
            p.drawLine(QPointF(x, HEAD_FOOT), QPointF(x, foot))
        p.fillRect(QRectF(-HALF, HEAD_TOP, 2 * HALF, HEAD_FOOT - HEAD_TOP), theme.metal)
        for kind in Kind:
            p.fillPath(port_path(kind), theme.sheet)

    def paint(self, p: QPainter, arms: Sequence[Arm]) -> None:
        """Draw what moves: gas, valves, pistons, rods and crank.

        Turned shapes are slow to fill, so each is a picture: for gas and valves one a height in
        pixels, for pistons one a bank.
        """
        for arm in arms:
            self._paint_gas(p, arm)
            self._paint_ports(p, arm)
            self._paint_valves(p, arm)
            self._paint_piston(p, arm)
        p.save()
        p.scale(self.factor, self.factor)
        self._paint_crank(p, arms)
        p.restore()

    def _turn(self, arm: Arm) -> QTransform:
        """From a section's own coordinates to the screen about the crank's centre."""
        turn = QTransform().scale(self.factor, self.factor).rotate(arm.bearing_deg)
        return turn.translate(0, -self.scale.crank_y)

    def _paint_gas(self, p: QPainter, arm: Arm) -> None:
        stroke, most = arm.pose.stroke, CROWN_AT_TDC + 2 * self.scale.radius - HEAD_FOOT
        # The crown hides where the gas ends, so few heights do: a picture made costs ten drawn.
        step = max(math.floor(HIDDEN_GAS * self.factor), 1) / self.factor
        steps = max(math.ceil((self._crown(arm) - HEAD_FOOT) / step), 1)
        height = steps * step

        def make() -> tuple[QRectF, Paint]:
            box = QRectF(-BORE / 2, HEAD_FOOT, BORE, height)
            path = QPainterPath()
            path.addPolygon(self._turn(arm).map(QPolygonF(box)))
            path.closeSubpath()
            squeezed = stroke is Stroke.COMPRESSION
            pitch = max(3.0, LEVEL_PITCH * height / most) if squeezed else LEVEL_PITCH

            def gas(q: QPainter) -> None:
                fill_stroke(q, path, stroke, self.theme, level_pitch=pitch)

            return path.boundingRect(), gas

        self.stills.draw_made(p, ("gas", stroke, arm.bearing_deg, self.factor, steps), make, ORIGIN)

    def _paint_ports(self, p: QPainter, arm: Arm) -> None:
        for kind, is_shut in zip(Kind, arm.pose.shut, strict=True):
            if is_shut:
                continue

            def make(kind: Kind = kind) -> tuple[QRectF, Paint]:
                side = QTransform().scale(-1 if arm.mirrored else 1, 1)
                path = self._turn(arm).map(side.map(port_path(kind)))

                def port(q: QPainter) -> None:
                    fill_stroke(q, path, PORT_STROKE[kind], self.theme)

                return path.boundingRect(), port

            self.stills.draw_made(p, ("port", kind, arm.bearing_deg, self.factor), make, ORIGIN)

    def _paint_valves(self, p: QPainter, arm: Arm) -> None:
        lifts = (arm.pose.intake_lift, arm.pose.exhaust_lift)
        sides = (1, -1) if arm.mirrored else (-1, 1)
        for side, kind, lift in zip(sides, Kind, lifts, strict=True):
            steps = round(lift * LIFT_STEPS)

            def make(
                side: int = side, kind: Kind = kind, steps: int = steps
            ) -> tuple[QRectF, Paint]:
                shape = valve_path(kind).translated(side * VALVE_X, steps / LIFT_STEPS * FULL_LIFT)
                return self._filled(self._turn(arm).map(shape))

            key = ("valve", kind, steps, arm.bearing_deg, self.factor)
            self.stills.draw_made(p, key, make, ORIGIN)

    def _paint_piston(self, p: QPainter, arm: Arm) -> None:
        def make() -> tuple[QRectF, Paint]:
            return self._filled(self._turn(arm).map(piston_path()))

        down = _point(arm.bearing_deg, -self._crown(arm) * self.factor)
        key = ("piston", arm.bearing_deg, self.factor)
        self.stills.draw_made(p, key, make, down)

    def _filled(self, path: QPainterPath) -> tuple[QRectF, Paint]:
        def fill(q: QPainter) -> None:
            q.fillPath(path, self.theme.ink)

        return path.boundingRect(), fill

    def _crown(self, arm: Arm) -> float:
        return self.scale.crank_y - arm.height - PIN_BELOW_CROWN

    def _paint_crank(self, p: QPainter, arms: Sequence[Arm]) -> None:
        theme = self.theme
        centre = QPointF(0, 0)
        pins = {(round(arm.pin.x(), 1), round(arm.pin.y(), 1)): arm.pin for arm in arms}
        p.setPen(round_pen(theme.metal_dk, 9))
        for pin in pins.values():
            p.drawLine(centre, pin)
        gudgeons = [_point(arm.bearing_deg, arm.height) for arm in arms]
        for arm, gudgeon in zip(arms, gudgeons, strict=True):
            p.setPen(round_pen(theme.ink, 10 if arm.master else 6))
            p.drawLine(gudgeon, arm.rod_foot)
        p.setPen(round_pen(theme.ink, 8))
        p.drawPoint(centre)
        linked = [arm for arm in arms if arm.rod_foot is not arm.pin]
        for pin in pins.values():
            if linked:
                hub = math.dist(
                    (pin.x(), pin.y()), (linked[0].rod_foot.x(), linked[0].rod_foot.y())
                )
                p.setBrush(theme.metal)
                p.setPen(flat_pen(theme.ink, 2))
                p.drawEllipse(pin, hub + 6, hub + 6)
        if linked:
            knuckles = [arm.rod_foot for arm in linked]
            p.setPen(round_pen(theme.ink, 8))
            p.drawPoints(*knuckles)
            p.setPen(round_pen(theme.sheet, 5))
            p.drawPoints(*knuckles)
        p.setPen(round_pen(theme.ink, 12))
        for pin in pins.values():
            p.drawPoint(pin)
        p.setPen(round_pen(theme.sheet, 7.5))
        p.drawPoints(*pins.values(), *gudgeons)
