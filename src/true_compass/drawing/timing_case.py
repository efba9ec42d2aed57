"""The timing case from the front: crank and cam wheels, what joins them, and what can be moved."""

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from true_compass.core.engine import CamDrive, Engine
from true_compass.core.valves.timing_set import TimingSet
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import BODY, NOTE, Theme, Weight

TAG: Final = 24.0
DRAWN_TEETH: Final = 44


@dataclass(frozen=True, slots=True)
class TimingCase:
    """The case in a box. `picked` is the camshaft that is moved: 0, or 1 of two."""

    box: QRectF
    engine: Engine
    drive: TimingSet
    picked: int
    theme: Theme

    @property
    def geared(self) -> bool:
        """Whether wheels mesh, some with idlers between them; else a chain or a belt."""
        return self.engine.cam_drive is CamDrive.AGAINST or self.drive.idlers > 0

    def paint(self, p: QPainter) -> None:
        """Wheels, what joins them, tags, and the direction."""
        cams = 2 if self.engine.two_shafts else 1
        radius = min(self.box.width() / (5.2 if cams == 2 else 3.4), self.box.height() / 4.4)
        small = radius / 2
        middle = self.box.center().x()
        foot = self.box.bottom() - small - 14
        top = self.box.top() + radius + 8
        if self.geared:
            room = 46.0 * self.drive.idlers
            top = max(top, foot - small - radius - 4 - room)
        tops = [QPointF(middle, top)]
        if cams == 2:
            apart = radius * 1.12
            tops = [QPointF(middle - apart, top), QPointF(middle + apart, top)]
        crank = QPointF(middle, foot)
        if not self.geared:
            self._chain(p, tops, radius, crank, small)
        self._idlers(p, tops, radius, crank, small)
        for nth, at in enumerate(tops):
            names = ("I cam", "E cam") if cams == 2 else ("cam",)
            self._wheel(p, at, radius, self.drive.teeth or DRAWN_TEETH, names[nth])
            if nth == self.picked:
                self._cam_parts(p, at, radius)
        teeth = (self.drive.teeth or DRAWN_TEETH) // 2
        self._wheel(p, crank, small, teeth, "crank")
        self._crank_parts(p, crank, small)
        self._arrow(p, crank, small + 12, sense_of(self.engine))
        on = sense_of(self.engine) * (-1 if self.engine.cam_drive is CamDrive.AGAINST else 1)
        self._arrow(p, tops[min(self.picked, len(tops) - 1)], radius + 12, on)

    def _chain(
        self, p: QPainter, tops: list[QPointF], radius: float, crank: QPointF, small: float
    ) -> None:
        """The outer run of a chain or belt."""
        p.setPen(QPen(self.theme.metal_dk, 7, cap=Qt.PenCapStyle.RoundCap))
        p.setBrush(Qt.BrushStyle.NoBrush)
        hull = QPainterPath()
        left, right = tops[0], tops[-1]
        hull.moveTo(crank.x() - small, crank.y())
        hull.lineTo(left.x() - radius, left.y())
        hull.arcTo(QRectF(left.x() - radius, left.y() - radius, 2 * radius, 2 * radius), 180, -90)
        hull.lineTo(right.x(), right.y() - radius)
        hull.arcTo(QRectF(right.x() - radius, right.y() - radius, 2 * radius, 2 * radius), 90, -90)
        hull.lineTo(crank.x() + small, crank.y())
        hull.arcTo(QRectF(crank.x() - small, crank.y() - small, 2 * small, 2 * small), 0, -180)
        p.drawPath(hull)

    def _idlers(
        self, p: QPainter, tops: list[QPointF], radius: float, crank: QPointF, small: float
    ) -> None:
        """Idler gears between crank and camshafts; each reverses the direction."""
        count = self.drive.idlers
        for top in tops if count else ():
            way = crank - top
            length = max((way.x() ** 2 + way.y() ** 2) ** 0.5, 1e-6)
            free = max(length - radius - small, 12.0)
            for nth in range(count):
                at = top + way * ((radius + free * (nth + 0.5) / count) / length)
                self._wheel(p, at, max(free / count / 2, 8.0), 16, "")

    def _wheel(self, p: QPainter, at: QPointF, radius: float, teeth: int, name: str) -> None:
        theme = self.theme
        points = []
        for nth in range(teeth):
            for share, out in ((0.0, radius), (0.3, radius), (0.4, radius - 5), (0.9, radius - 5)):
                turn = 360.0 * (nth + share) / teeth
                points.append(at + crank_direction(turn, 1) * out)
        p.setPen(flat_pen(theme.ink, 1.8))
        p.setBrush(theme.sheet)
        p.drawPolygon(QPolygonF(points))
        p.setBrush(theme.ink)
        p.setPen(Qt.PenStyle.NoPen)
        p.drawEllipse(at - QPointF(0, radius * 0.8), 4, 4)
        hub = radius * (0.28 if radius > 40 else 0.5)
        p.setBrush(theme.metal)
        p.setPen(flat_pen(theme.metal_dk, 1.6))
        p.drawEllipse(at, hub, hub)
        label = QRectF(at.x() - 40, at.y() - 11, 80, 22)
        draw_text(p, label, name, NOTE, theme.ink, Weight.STRONG, CENTRE)

    def _cam_parts(self, p: QPainter, at: QPointF, radius: float) -> None:
        """Teeth, holes, bushes, slots: each with its tag where it is moved."""
        theme, drive = self.theme, self.drive
        if drive.hole_step_deg:
            count = min(drive.holes[0] if drive.holes else 9, 12)
            ring = radius * 0.56
            p.setPen(flat_pen(theme.ink, 1.6))
            p.setBrush(theme.sheet)
            for nth in range(count):
                p.drawEllipse(at + crank_direction(360.0 * nth / count, 1) * ring, 5, 5)
            self._tag(p, at + crank_direction(-66, 1) * (radius * 0.8), "H")
        if drive.bushes:
            spot = at + crank_direction(60, 1) * (radius * 0.56)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.ink)
            p.drawEllipse(spot, 6, 6)
            self._tag(p, at + crank_direction(62, 1) * (radius * 0.86), "B")
        if drive.reach_deg:
            p.setPen(QPen(theme.ink, 6, cap=Qt.PenCapStyle.RoundCap))
            for nth in range(3):
                box = QRectF(at.x() - radius * 0.5, at.y() - radius * 0.5, radius, radius)
                p.drawArc(box, int((30 + 120 * nth) * 16), 40 * 16)
            self._tag(p, at + crank_direction(120, 1) * (radius * 0.8), "S")
        if drive.teeth:
            self._tag(p, at + crank_direction(104, 1) * (radius + 4), "T")
        if any(key.on_cam for key in drive.keys):
            self._tag(p, at + crank_direction(180, 1) * (radius * 0.52), "K")

    def _crank_parts(self, p: QPainter, at: QPointF, small: float) -> None:
        if any(not key.on_cam for key in self.drive.keys):
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(self.theme.ink)
            p.drawRect(QRectF(at.x() - 5, at.y() - small * 0.5 - 8, 10, 10))
            self._tag(p, at + crank_direction(-50, 1) * (small * 0.9), "K")

    def _tag(self, p: QPainter, at: QPointF, letter: str) -> None:
        box = QRectF(at.x() - TAG / 2, at.y() - TAG / 2, TAG, TAG)
        paint_letter(p, box, letter, self.theme)

    def _arrow(self, p: QPainter, at: QPointF, radius: float, sense: int) -> None:
        theme = self.theme
        p.setPen(flat_pen(theme.ink, 2.4))
        steps = [at + crank_direction(turn, sense) * radius for turn in range(5, 50, 5)]
        for a, b in pairwise(steps):
            p.drawLine(a, b)
        tip = at + crank_direction(56, sense) * radius
        out = crank_direction(48, sense)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        foot = at + out * radius
        p.drawPolygon(QPolygonF([tip, foot + out * 6, foot - out * 6]))


def paint_letter(p: QPainter, box: QRectF, letter: str, theme: Theme) -> None:
    """A dark tag with its letter."""
    rounded(p, box, 3, theme.ink, None)
    draw_text(p, box, letter, BODY, theme.on_ink, Weight.STRONG, CENTRE)


def moves_worth(drive: TimingSet) -> list[tuple[str, str, str]]:
    """What each part can do: tag, words, and what it is worth in crank degrees."""
    rows = []
    if drive.teeth:
        rows.append(("T", f"1 tooth of {drive.teeth}", f"{720 / drive.teeth:.2f}°"))
    if drive.holes is not None:
        one, other = drive.holes
        rows.append(("H", f"1 hole, {one} against {other}", f"{drive.hole_step_deg:.2f}°"))
    elif drive.hole_deg:
        of = "cam" if drive.hole_on_cam else "crank"
        rows.append(("H", f"1 hole, {drive.hole_deg:g} {of} °", f"{drive.hole_step_deg:.2f}°"))
    if drive.bushes:
        sizes = ", ".join(f"{bush.by_mm:g}" for bush in drive.bushes)
        worth = ", ".join(f"{2 * math.degrees(b.shaft_rad):.2f}°" for b in drive.bushes)
        rows.append(("B", f"bush {sizes} mm at {drive.bushes[0].radius_mm:g}", worth))
    for on_cam in (False, True):
        keys = [key for key in drive.keys if key.on_cam is on_cam]
        if keys:
            sizes = ", ".join(f"{key.by_mm:g}" for key in keys)
            worth = ", ".join(f"{key.crank_deg:.2f}°" for key in keys)
            name = "cam key" if on_cam else "key"
            rows.append(("K", f"{name} {sizes} mm at {keys[0].radius_mm:g}", worth))
    if drive.reach_deg:
        name = "vernier" if drive.vernier else "slots"
        rows.append(("S", f"{name}, without steps", f"±{drive.reach_deg:g}°"))
    return rows
