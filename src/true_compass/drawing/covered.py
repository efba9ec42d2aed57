"""The covered engine as one sees it from outside: damper and chalk, covers, plugs, rocker noses.

Nothing here knows strokes, margins or the crank angle: noses dip, springs close, chalk goes round.
"""

import math
from collections.abc import Hashable, Sequence
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from true_compass.bench.covered import Covered
from true_compass.bench.gaps import open_shares
from true_compass.bench.state import BenchState, cover_of, plug
from true_compass.core.engine import Mark
from true_compass.core.items import Kind
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.marks import mark_bar, paint_of
from true_compass.drawing.scene import (
    TITLE,
    Row,
    Scene,
    Stand,
    around,
    cover_box,
    head_box,
    hole_at,
    valve_xs,
)
from true_compass.drawing.stills import Paint, Stills
from true_compass.drawing.text import CENTRE, LEFT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

DIPS: Final = 28
"""Steps in which a nose is drawn on its way down: finer cannot be seen."""
NAMES_AT: Final = (0.66, 0.46, 1.24, 0.24)
"""Shares of the damper's radius at which a mark's name stands: the first that is free."""
POINTER_DEG: Final = -38.0
"""Where the pointer stands at the damper, degrees from straight up, against the clock."""


class EnginePainter:
    """Paints a scene as it stands now: first what stands still, then what turning moves."""

    def __init__(self, scene: Scene, work: Covered, theme: Theme, stills: Stills) -> None:
        self._stills = stills
        self.scene = scene
        self.work = work
        self.theme = theme
        self._sense = 1 if work.engine.clockwise_from_front else -1

    def still_key(self, state: BenchState) -> Hashable:
        """What the part that stands still depends on."""
        stop = state.stop[0] if state.stop is not None else 0
        return state.parts_on, state.line, stop

    def paint_still(self, p: QPainter, state: BenchState) -> None:
        """Draw what turning does not move."""
        if self.scene.star:
            self._title(p, self.scene.box, "From the front")
            for stand in self.scene.rows[0].stands:
                self._paint_arm(p, stand, state)
        else:
            self._title(p, self.scene.box, "From the front")
            if not self.scene.low:
                self._paint_front_block(p, state)
            for row in self.scene.rows:
                self._paint_row(p, row, state)
        self._paint_disc(p)
        self._paint_front_cover(p, state)
        self._paint_distributor(p, state)

    def paint_moving(self, p: QPainter, state: BenchState) -> None:
        """Draw marks and chalk, noses and rotor where they are now."""
        self._paint_marks(p, state)
        self._paint_rotor(p, state)
        lifts = self._lifts(state)
        for row in self.scene.rows:
            for stand in row.stands:
                if cover_of(self.work, stand.cylinder) in state.parts_on:
                    continue
                if self.scene.star:
                    self._paint_arm_valves(p, stand, lifts)
                else:
                    self._paint_valves(p, stand, lifts)

    def _lifts(self, state: BenchState) -> list[float]:
        """How far each valve is down, as a share of its full lift, in the order of the valves."""
        work = self.work
        shares = [0.0] * len(work.engine.valves)
        for setting, share in zip(work.settings, open_shares(work, state), strict=True):
            if setting.item.is_valve:
                shares[setting.row] = max(shares[setting.row], share)
        return shares

    def _title(self, p: QPainter, box: QRectF, words: str) -> None:
        at = QRectF(box.left() + 14, box.top() + 6, 400, 24)
        draw_text(p, at, words, LABEL, self.theme.ink, Weight.LABEL)

    def _paint_front_block(self, p: QPainter, state: BenchState) -> None:
        theme, scene = self.theme, self.scene
        at, reach = scene.damper, scene.radius
        block = QRectF(at.x() - reach * 1.12, at.y() - reach - 72, reach * 2.24, 2 * reach + 84)
        rounded(p, block, 6, theme.well, flat_pen(theme.line, 1.6))
        if len(scene.rows) > 1:
            return
        head = QRectF(block.left() + 14, block.top() - 44, block.width() - 28, 44)
        rounded(p, head, 3, theme.metal, flat_pen(theme.ink2, 1.6))
        covered = scene.rows[0].cover in state.parts_on
        cover = QRectF(head.left() + 16, scene.rows[0].box.top() + 10, head.width() - 32, 0)
        cover.setBottom(head.top())
        if covered:
            rounded(p, cover, 8, theme.metal, flat_pen(theme.ink2, 1.6))
            return
        arm = QRectF(head.center().x() - 58, cover.top() + cover.height() * 0.3, 116, 16)
        post = QRectF(head.center().x() - 9, arm.center().y(), 18, head.top() - arm.center().y())
        rounded(p, post, 2, theme.metal, flat_pen(theme.ink2, 1.4))
        rounded(p, arm, 8, theme.metal, flat_pen(theme.ink, 2.0))

    def _paint_front_cover(self, p: QPainter, state: BenchState) -> None:
        place = self.scene.place("front cover")
        if place is None:
            return
        theme, on = self.theme, "front cover" in state.parts_on
        rounded(p, place.box, 4, theme.metal if on else theme.sheet, flat_pen(theme.ink2, 1.6))
        words = "Front cover" if on else "Gears: the dots"
        draw_text(p, place.box.adjusted(6, 0, -6, 0), words, NOTE, theme.ink, Weight.BODY, CENTRE)

    def _paint_disc(self, p: QPainter) -> None:
        theme, at, reach = self.theme, self.scene.damper, self.scene.radius
        p.setPen(flat_pen(theme.ink, 2.4))
        p.setBrush(theme.sheet)
        p.drawEllipse(at, reach, reach)
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawEllipse(at, reach * 0.82, reach * 0.82)
        p.setPen(flat_pen(theme.ink2, 2.0))
        p.setBrush(theme.metal)
        p.drawEllipse(at, reach * 0.34, reach * 0.34)
        tip = self._rim(0.0, reach + 3)
        out = self._rim(0.0, reach + 20)
        side = crank_direction(POINTER_DEG + 90.0, 1) * 8
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        p.drawPolygon(QPolygonF([tip, out + side, out - side]))

    def _paint_marks(self, p: QPainter, state: BenchState) -> None:
        self._paint_bolt(p, state)
        named: list[QRectF] = []
        for mark, mark_deg in self.work.marks:
            if mark.where != "flywheel":
                self._paint_mark(p, state.crank_deg - mark_deg, mark, named)
        if state.chalk_deg is not None:
            self._paint_chalk(p, state)

    def _paint_bolt(self, p: QPainter, state: BenchState) -> None:
        at, reach = self.scene.damper, self.scene.radius * 0.15
        turn = state.crank_deg * self._sense
        corners = [at + crank_direction(turn + 60.0 * nth, 1) * reach for nth in range(6)]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.ink)
        p.drawPolygon(QPolygonF(corners))

    def _rim(self, past_deg: float, reach: float) -> QPointF:
        """A point of the damper that has gone past the pointer by so many degrees."""
        bearing = POINTER_DEG + past_deg * self._sense
        return self.scene.damper + crank_direction(bearing, 1) * reach

    def _paint_mark(self, p: QPainter, past_deg: float, mark: Mark, named: list[QRectF]) -> None:
        """A mark in its colour, its name further in where another's is in the way."""
        theme, reach = self.theme, self.scene.radius
        fill = paint_of(mark, theme)
        mark_bar(p, self._rim(past_deg, reach * 0.84), self._rim(past_deg, reach), fill, theme)
        name = mark.stamped or mark.colour
        half = max(text_width(name, LABEL, Weight.STRONG) / 2 + 2, 10.0)
        for share in NAMES_AT:
            at = self._rim(past_deg, reach * share)
            box = QRectF(at.x() - half, at.y() - 11, 2 * half, 22)
            if not any(box.intersects(other) for other in named):
                break
        named.append(box)
        draw_text(p, box, name, LABEL, theme.ink, Weight.STRONG, CENTRE)

    def _paint_chalk(self, p: QPainter, state: BenchState) -> None:
        theme, reach = self.theme, self.scene.radius
        assert state.chalk_deg is not None
        past = state.crank_deg - state.chalk_deg
        pen = QPen(theme.now, 4, Qt.PenStyle.DotLine)
        p.setPen(pen)
        p.drawLine(self._rim(past, reach * 0.42), self._rim(past, reach * 0.98))

    # Rows ------------------------------------------------------------------------------------

    def _paint_row(self, p: QPainter, row: Row, state: BenchState) -> None:
        theme = self.theme
        first, last = head_box(row.stands[0]), head_box(row.stands[-1])
        title = QRectF(row.box.left(), row.box.top() - TITLE + 4, max(row.box.width(), 320.0), 24)
        draw_text(p, title, row.title, LABEL, theme.ink, Weight.LABEL)
        block = QRectF(first.left() + 4, first.bottom(), last.right() - first.left() - 8, 40)
        if row.below:
            block = QRectF(
                first.left() + 4, row.box.top(), block.width(), first.top() - row.box.top()
            )
        else:
            block.setBottom(row.box.bottom())
        rounded(p, block, 3, theme.well, flat_pen(theme.line, 1.4))
        head = QRectF(first.left(), first.top(), last.right() - first.left(), first.height())
        rounded(p, head, 3, theme.metal, flat_pen(theme.ink2, 1.8))
        covered = row.cover in state.parts_on
        for stand in row.stands:
            self._paint_head_words(p, stand, state)
        if covered:
            box = cover_box(row)
            rounded(p, box, 10, theme.metal, flat_pen(theme.ink2, 1.8))
            words = ("Valve cover: press to take it off", "Cover")
            inner = box.adjusted(8, 0, -8, 0)
            draw_one_of(p, inner, words, LABEL, theme.ink, Weight.LABEL, CENTRE)

    def _paint_head_words(self, p: QPainter, stand: Stand, state: BenchState) -> None:
        theme, head = self.theme, head_box(stand)
        down = stand.turn_deg == 180.0
        y = head.bottom() - 22 if down else head.top() + 3
        for x, letter in zip(valve_xs(stand), stand.letters, strict=True):
            box = QRectF(x - stand.width / 4, y, stand.width / 2, 19)
            draw_text(p, box, f"{letter}{stand.cylinder}", BODY, theme.ink, Weight.STRONG, CENTRE)
        self._paint_hole(p, hole_at(stand), 11.0, stand.cylinder, state)
        disc_y = head.top() - 20 if down else head.bottom() + 20
        disc = QPointF(stand.middle.x(), disc_y)
        p.setPen(flat_pen(theme.ink, 2.0))
        p.setBrush(theme.sheet)
        p.drawEllipse(disc, 14, 14)
        draw_text(p, around(disc, 14), str(stand.cylinder), BODY, theme.ink, Weight.STRONG, CENTRE)

    def _paint_hole(
        self, p: QPainter, at: QPointF, reach: float, cylinder: int, state: BenchState
    ) -> None:
        theme = self.theme
        if plug(cylinder) not in state.parts_on:
            p.setPen(flat_pen(theme.ink, 1.6))
            p.setBrush(theme.ink)
            p.drawEllipse(at, reach, reach)
            if state.line == cylinder:
                self._paint_line(p, at)
            if state.stop is not None and state.stop[0] == cylinder:
                p.setBrush(theme.now)
                p.drawEllipse(at, reach * 0.7, reach * 0.7)
            return
        corners = [at + crank_direction(60.0 * nth, 1) * reach * 1.15 for nth in range(6)]
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.setBrush(theme.metal_dk)
        p.drawPolygon(QPolygonF(corners))
        p.setBrush(theme.sheet)
        p.drawEllipse(at, reach * 0.4, reach * 0.4)

    def _paint_line(self, p: QPainter, at: QPointF) -> None:
        p.setPen(QPen(self.theme.now, 7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        p.drawLine(at, at - QPointF(0, 70))

    def _paint_valves(self, p: QPainter, stand: Stand, lifts: Sequence[float]) -> None:
        head = head_box(stand)
        down = stand.turn_deg == 180.0
        top = stand.middle.y() - stand.height / 2
        room = (top + stand.height - head.bottom()) if down else head.top() - top
        half = min(stand.width * 0.2, 22.0)
        for x, letter in zip(valve_xs(stand), stand.letters, strict=True):
            kind = Kind.INTAKE if letter == "I" else Kind.EXHAUST
            dip = self._dip(lifts, stand, kind)
            foot = head.bottom() if down else head.top()
            box = (
                QRectF(-half - 2, 0, 2 * half + 4, room)
                if down
                else QRectF(-half - 2, -room, 2 * half + 4, room)
            )

            def paint(q: QPainter, kind: Kind = kind, dip: int = dip) -> None:
                if down:
                    q.scale(1, -1)
                self._paint_valve(q, kind, dip / DIPS, room, half)

            key = ("valve", kind, dip, down, round(room, 1), round(half, 1))
            self._stills.draw(p, key, box, paint, self.theme.sheet, QPointF(x, foot))

    def _dip(self, lifts: Sequence[float], stand: Stand, kind: Kind) -> int:
        """How far a nose is down, in steps that can be seen."""
        share = lifts[self.work.engine.valve_row(stand.cylinder, kind)]
        return round(min(share, 1.2) * DIPS)

    def _paint_valve(self, p: QPainter, kind: Kind, share: float, room: float, half: float) -> None:
        """A stem with its spring and the nose above, standing on y = 0 and reaching up."""
        theme = self.theme
        high = min(room * 0.88, (room - 20.0) / 0.82, 230.0)
        dip = share * high * 0.24
        nose = -high * 0.80 + dip
        plate = -high * 0.62 + dip
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        p.drawRect(QRectF(-half * 0.16, nose, half * 0.32, -nose))
        p.setBrush(theme.metal_dk)
        p.drawRect(QRectF(-half, plate, 2 * half, 6))
        coils = 5
        points = [
            QPointF(
                (-1 if nth % 2 else 1) * half * 0.8, plate + 6 + (-plate - 6) * nth / (2 * coils)
            )
            for nth in range(2 * coils + 1)
        ]
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.metal_dk, 2.4))
        p.drawPolyline(QPolygonF(points))
        box = QRectF(-half * 0.8, nose - 16, half * 1.6, 18)
        self._paint_nose(p, box, kind)
        arm = QRectF(-half * 0.45, -high - 4, half * 0.9, box.top() + high + 4)
        rounded(p, arm, 2, theme.metal, flat_pen(theme.ink2, 1.4))

    def _paint_nose(self, p: QPainter, box: QRectF, kind: Kind) -> None:
        """Intake round and hollow, exhaust square and solid."""
        theme = self.theme
        if kind is Kind.INTAKE:
            rounded(p, box, 9, theme.sheet, flat_pen(theme.ink, 2.4))
        else:
            rounded(p, box, 1, theme.ink, None)

    # Star ------------------------------------------------------------------------------------

    def _paint_arm_valves(self, p: QPainter, stand: Stand, lifts: Sequence[float]) -> None:
        """Both valves of a cylinder of a star, a picture for each step on its way down."""
        reach, width = stand.height / 0.68, stand.width
        bearing = math.radians(stand.turn_deg)
        out = QPointF(math.sin(bearing), -math.cos(bearing))
        along = QPointF(-out.y(), out.x())
        for side, kind in ((-1.0, Kind.INTAKE), (1.0, Kind.EXHAUST)):
            dip = self._dip(lifts, stand, kind)

            def make(kind: Kind = kind, dip: int = dip) -> tuple[QRectF, Paint]:
                def paint(q: QPainter) -> None:
                    q.rotate(stand.turn_deg)
                    self._paint_valve(q, kind, dip / DIPS, reach * 0.24, width * 0.17)

                return around(QPointF(0, 0), reach * 0.27), paint

            at = self.scene.damper + out * (reach * 0.78) + along * (side * width * 0.27)
            key = ("arm", stand.cylinder, kind, dip, round(reach))
            self._stills.draw_made(p, key, make, at)

    def _paint_arm(self, p: QPainter, stand: Stand, state: BenchState) -> None:
        theme, reach = self.theme, stand.height / 0.68
        width = stand.width
        p.save()
        p.translate(self.scene.damper)
        p.rotate(stand.turn_deg)
        barrel = QRectF(-width * 0.42, -reach * 0.62, width * 0.84, reach * 0.34)
        rounded(p, barrel, 2, theme.well, flat_pen(theme.line, 1.4))
        p.setPen(flat_pen(theme.line, 1.0))
        for nth in range(1, 6):
            y = barrel.top() + barrel.height() * nth / 6
            p.drawLine(QPointF(barrel.left() - 3, y), QPointF(barrel.right() + 3, y))
        head = QRectF(-width / 2, -reach * 0.78, width, reach * 0.16)
        rounded(p, head, 3, theme.metal, flat_pen(theme.ink2, 1.6))
        covered = cover_of(self.work, stand.cylinder) in state.parts_on
        if covered:
            for side in (-1.0, 1.0):
                box = QRectF(-width * 0.22, -reach * 0.20, width * 0.44, reach * 0.20)
                box.translate(side * width * 0.27, -reach * 0.78)
                rounded(p, box, 5, theme.metal, flat_pen(theme.ink2, 1.6))
        p.restore()
        bearing = math.radians(stand.turn_deg)
        out = QPointF(math.sin(bearing), -math.cos(bearing))
        hole = self.scene.damper + out * (reach * 0.70)
        self._paint_hole(p, hole, max(reach * 0.032, 7.0), stand.cylinder, state)
        disc = self.scene.damper + out * (reach * 0.45)
        p.setPen(flat_pen(theme.ink, 2.0))
        p.setBrush(theme.sheet)
        p.drawEllipse(disc, 15, 15)
        draw_text(p, around(disc, 15), str(stand.cylinder), BODY, theme.ink, Weight.STRONG, CENTRE)
        along = QPointF(-out.y(), out.x())
        if not covered:
            for side, letter in ((-1.0, "I"), (1.0, "E")):
                at = self.scene.damper + out * (reach * 0.72) + along * (side * width * 0.30)
                name = f"{letter}{stand.cylinder}"
                draw_text(p, around(at, 18), name, NOTE, theme.ink, Weight.STRONG, CENTRE)

    def _paint_distributor(self, p: QPainter, state: BenchState) -> None:
        box, theme = self.scene.distributor, self.theme
        if box is None:
            return
        p.setPen(flat_pen(theme.ink2, 1.8))
        p.setBrush(theme.metal)
        p.drawEllipse(box)
        p.setBrush(theme.sheet)
        p.drawEllipse(box.center(), 8, 8)
        on = "cap" in state.parts_on
        words = QRectF(box.right() + 6, box.top(), 110, box.height())
        if self.scene.star:
            words = QRectF(box.left() - 66, box.top(), 62, box.height())
        if not self.scene.low:
            draw_text(p, words, "cap on" if on else "rotor", BODY, theme.ink2, Weight.BODY, LEFT)

    def _paint_rotor(self, p: QPainter, state: BenchState) -> None:
        box = self.scene.distributor
        if box is None or "cap" in state.parts_on:
            return
        turns = self.work.rotor_deg(state.crank_deg, state.rotor_lag_deg)
        p.setPen(flat_pen(self.theme.ink, 5))
        tip = box.center() + crank_direction(turns, _rotor_sense(self.work)) * 15
        p.drawLine(box.center(), tip)


def _rotor_sense(work: Covered) -> int:
    return work.engine.rotor_turns.sense


def paint_tag(p: QPainter, box: QRectF, letter: str, theme: Theme, how: str) -> None:
    """The letter of a tool: in the hand (`now`), placed (`ink`), or in the tray (outlined)."""
    fills: dict[str, QColor] = {"now": theme.now, "ink": theme.ink}
    fill = fills.get(how)
    rounded(p, box, 3, fill or theme.sheet, None if fill else flat_pen(theme.line, 1.6))
    on = {"now": theme.on_now, "ink": theme.on_ink}.get(how, theme.ink)
    draw_text(p, box, letter, BODY, on, Weight.STRONG, CENTRE)


def paint_dashes(p: QPainter, box: QRectF, colour: QColor) -> None:
    """The dashed edge of a place that takes the tool in the hand."""
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(colour, 2, Qt.PenStyle.DashLine))
    p.drawRoundedRect(box, 4, 4)
