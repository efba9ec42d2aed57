"""What a timing lamp shows: the damper's tape below its pointer, in one flash.

Dark in both themes, because a lamp is used in the dark. Seen from the front the zero stands short
of the pointer by the total, against the rotation; so figures grow in the running direction.
"""

import math
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from true_compass.core.ignition.advance import DEEPEST_MBAR
from true_compass.drawing.codes import flat_pen, outward, rounded
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, LEFT, RIGHT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, READOUT, Theme, Weight, theme

VISUAL: Final = 0.86
SMALL_VISUAL: Final = 1.5
"""Degrees of the drawing for a degree of the tape: figures are true, distances are not."""
SHOWN_DEG: Final = 46.0
LOW: Final = 230.0
"""A face lower than this has its tape and its title, no more."""


@dataclass(frozen=True, slots=True)
class LampFace:
    """One picture of the lamp. `shows_deg` is what stands at the pointer, `should_deg` what ought.

    `sense` is -1 where the engine turns anticlockwise, seen from the front. `told` writes the
    figure; a small face keeps pointer and tape only.
    """

    shows_deg: float
    sense: int = 1
    should_deg: float | None = None
    told: str = ""
    title: str = ""
    notes: tuple[str, ...] = ()
    framed: bool = False

    def paint(self, p: QPainter, box: QRectF, outer: Theme, stills: Stills) -> None:
        """Paint it into a box; its figures are kept as pictures, since all of them move."""
        dark = theme("dark")
        small = box.width() < 220
        size = QRectF(0, 0, box.width(), box.height())
        centre, radius = _damper(size)
        key = ("lamp", self.title, self.notes, self.framed, size.width(), size.height())

        def ground(q: QPainter) -> None:
            self._paint_ground(q, size, outer, small=small)

        p.save()
        p.translate(box.topLeft())
        stills.draw(p, key, size, ground)
        self._paint_tape(p, centre, radius, stills, small=small)
        if self.should_deg is not None and abs(self.should_deg - self.shows_deg) > 0.3:
            low = small or size.height() < LOW
            self._paint_should(p, centre, radius, dark, small=small, named=not low)
        self._paint_told(p, size, centre, radius, small=small)
        p.restore()

    def _paint_ground(self, p: QPainter, box: QRectF, outer: Theme, *, small: bool) -> None:
        """What does not move: the dark, the damper's disc, the pointer, title and notes."""
        dark, (centre, radius) = theme("dark"), _damper(box)
        clip = QPainterPath()
        clip.addRoundedRect(box, 6, 6)
        p.setClipPath(clip)
        p.fillRect(box, dark.strip)
        p.setBrush(dark.well)
        p.setPen(flat_pen(dark.ink, 2))
        p.drawEllipse(centre, radius, radius)
        half, high = (9, 18) if small else (14, 30)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(dark.now)
        tip = QPointF(centre.x(), centre.y() - radius - 3)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(-half, -high), tip + QPointF(half, -high)]))
        self._paint_words(p, box, dark, small=small)
        p.setClipping(False)
        if self.framed:
            rounded(p, box, 6, None, flat_pen(outer.now, 4))

    def _bearing(self, tape_deg: float, *, small: bool) -> float:
        visual = SMALL_VISUAL if small else VISUAL
        return self.sense * (tape_deg - self.shows_deg) * visual

    def _at(self, centre: QPointF, reach: float, bearing_deg: float) -> QPointF:
        return centre + outward(bearing_deg) * reach

    def _paint_tape(
        self, p: QPainter, centre: QPointF, radius: float, stills: Stills, *, small: bool
    ) -> None:
        """Ticks each 2° (10° where small), figures each 10°, a strong line at zero."""
        dark = theme("dark")
        step = 10 if small else 2
        first = math.ceil((self.shows_deg - SHOWN_DEG) / step) * step
        size = BODY if small else LABEL + 4
        for tape in range(first, int(self.shows_deg + SHOWN_DEG) + 1, step):
            bearing = self._bearing(tape, small=small)
            if abs(bearing) > 40:
                continue
            strong = tape % 10 == 0
            deep = (13 if small else 22) if strong else (7 if small else 12)
            p.setPen(flat_pen(dark.ink, 4.0 if tape == 0 else 2.0 if strong else 1.4))
            inner, outer = (self._at(centre, radius - by, bearing) for by in (deep, 0))
            if not 2.0 < outer.x() < 2 * centre.x() - 2.0:
                continue
            p.drawLine(inner, outer)
            if strong:
                at = self._at(centre, radius - deep - size * 0.85, bearing)
                if not 16.0 < at.x() < 2 * centre.x() - 16.0:
                    continue
                _figure(p, stills, str(abs(tape)), at, size)
                if tape == 0 and not small:
                    _figure(p, stills, "TDC", at + QPointF(0, size * 1.35), NOTE)

    def _paint_should(
        self,
        p: QPainter,
        centre: QPointF,
        radius: float,
        dark: Theme,
        *,
        small: bool,
        named: bool,
    ) -> None:
        """Where the pointer ought to stand on the tape, and its figure where there is room."""
        assert self.should_deg is not None
        bearing = self._bearing(self.should_deg, small=small)
        if abs(bearing) > 34:
            return
        p.setPen(QPen(dark.ink, 1.8, Qt.PenStyle.DashLine))
        foot = self._at(centre, radius, bearing)
        tip = self._at(centre, radius + (16 if small else 26), bearing)
        p.drawLine(foot, tip)
        if named:
            box = QRectF(tip.x() + 8, tip.y() - 14, 120, 22)
            if bearing < 0:
                box = QRectF(tip.x() - 128, tip.y() - 14, 120, 22)
            align = LEFT if bearing >= 0 else RIGHT
            words = f"should {self.should_deg:.1f}"
            draw_text(p, box, words, NOTE + 1, dark.ink, Weight.LABEL, align)

    def _paint_told(
        self, p: QPainter, box: QRectF, centre: QPointF, radius: float, *, small: bool
    ) -> None:
        """The figure, beside the pointer or below a small damper."""
        if not self.told:
            return
        ink = theme("dark").ink
        if small:
            place = QRectF(box.left() + 4, box.bottom() - 54, box.width() - 8, 26)
            draw_text(p, place, self.told, LABEL + 2, ink, Weight.STRONG, CENTRE)
            return
        wide = text_width(self.told, READOUT, Weight.STRONG)
        at = QPointF(centre.x(), centre.y() - radius)
        place = QRectF(at.x() - 26 - wide, at.y() - 40, wide + 4, 38)
        draw_text(p, place, self.told, READOUT, ink, Weight.STRONG, RIGHT)

    def _paint_words(self, p: QPainter, box: QRectF, dark: Theme, *, small: bool) -> None:
        if small:
            name = QRectF(box.left() + 4, box.bottom() - 30, box.width() - 8, 24)
            draw_text(p, name, self.title, BODY, dark.ink, Weight.LABEL, CENTRE)
            return
        head = QRectF(box.left() + 16, box.top() + 10, box.width() - 32, 24)
        used = draw_text(p, head, self.title, BODY, dark.ink, Weight.STRONG)
        seen = head.adjusted(used + 12, 0, 0, 0)
        draw_one_of(p, seen, ("from the front",), NOTE, dark.ink, align=RIGHT)
        top = box.bottom() - 12 - 22 * len(self.notes)
        for nth, note in enumerate(self.notes if box.height() >= LOW else ()):
            line = QRectF(box.left() + 16, top + 22 * nth, box.width() - 32, 22)
            draw_text(p, line, note, NOTE + 1, dark.ink, Weight.LABEL)


def _damper(box: QRectF) -> tuple[QPointF, float]:
    """Middle and radius of the damper in a box: its rim passes below the pointer."""
    small = box.width() < 220
    radius = box.width() * (0.95 if small else 0.88)
    top = box.top() + (34 if small else box.height() * 0.37)
    return QPointF(box.center().x(), top + radius), radius


def _figure(p: QPainter, stills: Stills, text: str, at: QPointF, size: float) -> None:
    box = QRectF(-24, -size * 0.7, 48, size * 1.4)

    def paint(q: QPainter) -> None:
        draw_text(q, box, text, size, theme("dark").ink, Weight.STRONG, CENTRE)

    stills.draw(p, ("figure", text, size), box, paint, at=at)


def paint_pump(p: QPainter, box: QRectF, pulled_mbar: float, *, fallen: bool) -> None:
    """The gauge of a hand pump ten seconds after it was pulled: where it was, where it is."""
    dark = theme("dark")
    rounded(p, box, 6, dark.strip, None)
    radius = min(box.width(), box.height()) * 0.36
    centre = QPointF(box.center().x(), box.center().y() + 14)
    p.setBrush(dark.well)
    p.setPen(flat_pen(dark.ink, 2))
    p.drawEllipse(centre, radius, radius)
    for mbar in range(0, int(DEEPEST_MBAR) + 1, 50):
        out = _round(mbar)
        strong = mbar % 100 == 0
        p.setPen(flat_pen(dark.ink, 2.0 if strong else 1.2))
        p.drawLine(centre + out * (radius - (14 if strong else 8)), centre + out * radius)
        if strong:
            at = centre + out * (radius - 30)
            name = QRectF(at.x() - 24, at.y() - 11, 48, 22)
            draw_text(p, name, str(mbar), NOTE, dark.ink, Weight.LABEL, CENTRE)
    was, now = _round(pulled_mbar), _round(pulled_mbar * 0.2 if fallen else pulled_mbar)
    p.setPen(QPen(dark.ink, 2, Qt.PenStyle.DashLine))
    p.drawLine(centre, centre + was * (radius - 44))
    p.setPen(flat_pen(dark.now, 5))
    p.drawLine(centre, centre + now * (radius - 40))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(dark.ink)
    p.drawEllipse(centre, 8, 8)
    head = QRectF(box.left() + 16, box.top() + 10, box.width() - 32, 24)
    draw_text(p, head, f"Pulled to {pulled_mbar:.0f} mbar, ten seconds on", BODY, dark.ink)
    unit = QRectF(centre.x() - 40, centre.y() + radius * 0.45, 80, 22)
    draw_text(p, unit, "mbar", NOTE, dark.ink, align=CENTRE)


def _round(mbar: float) -> QPointF:
    """Direction on the gauge's dial, three quarters of a turn for its whole scale."""
    return outward(-135.0 + 270.0 * min(mbar, DEEPEST_MBAR) / DEEPEST_MBAR)
