"""The engine at rest: heads from above, banks from the front, throws from front to rear.

Nothing turns here, so there are no stroke colours and no filled chips.
"""

import math
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.core.crank.layout import Layout, Seat
from true_compass.core.engine import Engine
from true_compass.core.state import Rig
from true_compass.drawing.codes import Place, flat_pen, number_disc, round_pen, rounded
from true_compass.drawing.endview import ArmScale, EndView
from true_compass.drawing.ring import sense_of
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Theme, Weight

HEAD_GAP: Final = 26.0
ABREAST_DEG: Final = 25.0
"""Pins or banks less than this apart share a label, which would lie one over the other."""


@dataclass(frozen=True, slots=True)
class HeadBox:
    """One head from above: its bank, its box, and a spot for each seat, from the front.

    `below` tells that its numbers stand at its lower edge.
    """

    bank: int
    box: QRectF
    spots: tuple[tuple[Seat, QRectF], ...]
    below: bool

    def disc(self, spot: QRectF) -> tuple[QPointF, float]:
        """Where the number of a spot stands, and how large."""
        y = spot.bottom() if self.below else spot.top()
        return QPointF(spot.center().x(), y), min(15.0, spot.width() * 0.3)


def head_boxes(layout: Layout, box: QRectF) -> list[HeadBox]:
    """Heads one above the other with the front at the left; painting and pressing go by it."""
    banks = layout.banks_in_use
    high = min((box.height() - HEAD_GAP * (len(banks) - 1)) / len(banks), 118.0)
    longest = max(len(layout.on_bank(bank)) for bank in banks)
    left = box.left() + 92
    each = min((box.right() - left - 40) / longest, 160.0)
    found = []
    for place, bank in enumerate(banks):
        cylinders = layout.on_bank(bank)
        ahead = 0.0 if layout.banks[bank].ahead or len(banks) == 1 else 26.0
        head = QRectF(left + ahead, box.top() + place * (high + HEAD_GAP), 0, high)
        head.setWidth(each * len(cylinders))
        spots = tuple(
            (layout.seats[cylinder - 1], QRectF(head.left() + at * each, head.top(), each, high))
            for at, cylinder in enumerate(cylinders)
        )
        found.append(HeadBox(bank, head, spots, place == len(banks) - 1 and len(banks) > 1))
    return found


def valve_boxes(spot: QRectF) -> tuple[QRectF, QRectF]:
    """Both valves of a cylinder, the one nearer to the front first."""
    size = min(46.0, spot.width() * 0.36, spot.height() * 0.42)
    middle = spot.center()
    return (
        QRectF(middle.x() - size - 3, middle.y() - size / 2, size, size),
        QRectF(middle.x() + 3, middle.y() - size / 2, size, size),
    )


def paint_heads(p: QPainter, box: QRectF, engine: Engine, theme: Theme) -> None:
    """Heads one above the other with the front at the left, numbers outboard, valves as letters."""
    heads = head_boxes(engine.layout, box)
    paint_block(p, box, engine.layout, heads, theme)
    number = {seat: row + 1 for row, seat in enumerate(engine.layout.seats)}
    for head in heads:
        letters = engine.valves_along(head.bank)
        for at, (seat, spot) in enumerate(head.spots):
            cylinder = number[seat]
            paint_bore(p, spot, theme)
            for valve, letter in zip(valve_boxes(spot), letters[2 * at : 2 * at + 2], strict=True):
                paint_valve(p, valve, letter, str(cylinder), theme)
            middle, radius = head.disc(spot)
            number_disc(p, middle, radius, cylinder, Place.BETWEEN, theme, strong=False)


def paint_block(
    p: QPainter, box: QRectF, layout: Layout, heads: list[HeadBox], theme: Theme
) -> None:
    """The heads themselves with the names of their banks, the crank line, and the front."""
    for head in heads:
        record = layout.banks[head.bank]
        rounded(p, head.box, 6, theme.sheet, flat_pen(theme.ink, 2))
        name = QRectF(box.left(), head.box.center().y() - 22, 88, 22)
        if len(heads) > 1:
            draw_text(p, name, f"Bank {record.name}", LABEL, theme.ink, Weight.STRONG)
        if record.ahead and len(heads) > 1:
            draw_text(p, name.translated(0, 22), "ahead", NOTE, theme.ink2)
    # Between the heads on either side of the crank; with an odd number, behind the first half.
    above = heads[max(len(heads) // 2, 1) - 1].box
    middle = above.bottom() + HEAD_GAP / 2 if len(heads) > 1 else above.center().y()
    if len(heads) % 2 == 0:
        p.setPen(flat_pen(theme.line, 1.6))
        p.drawLine(QPointF(box.left() + 88, middle), QPointF(box.right(), middle))
    tip = QPointF(box.left() + 54, middle)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.ink)
    p.drawPolygon(QPolygonF([tip, tip + QPointF(14, -9), tip + QPointF(14, 9)]))
    front = QRectF(box.left(), middle - 11, 52, 22)
    draw_text(p, front, "Front", BODY, theme.ink, Weight.STRONG)


def paint_bore(p: QPainter, spot: QRectF, theme: Theme) -> None:
    """A bore from above."""
    radius = min(spot.width(), spot.height()) * 0.4
    p.setBrush(theme.well)
    p.setPen(flat_pen(theme.line, 1.4))
    p.drawEllipse(spot.center(), radius, radius)


def paint_valve(p: QPainter, valve: QRectF, letter: str, number: str, theme: Theme) -> None:
    """A valve in outline: round with a hollow bar for intake, square with a solid one."""
    size = valve.width()
    corner = size * 0.3 if letter == "I" else 2.0
    rounded(p, valve, corner, theme.sheet, flat_pen(theme.ink, 2))
    name = valve.adjusted(2, 2, -2, -size * 0.3)
    code = f"{letter}{number}"
    px = min(LABEL, size * 0.42, name.width() / (0.7 * len(code)))
    draw_text(p, name, code, px, theme.ink, Weight.STRONG, CENTRE)
    bar_at = valve.bottomLeft() + QPointF(size * 0.2, -size * 0.28)
    bar = QRectF(bar_at, QSizeF(size * 0.6, size * 0.14))
    if letter == "I":
        rounded(p, bar, 3, None, flat_pen(theme.ink, 1.6))
    else:
        p.fillRect(bar, theme.ink)


def paint_front(p: QPainter, box: QRectF, rig: Rig, theme: Theme, stills: Stills) -> None:
    """The first cylinder of each bank at its true angle, and the pins by throw."""
    layout, sense = rig.engine.layout, sense_of(rig.engine)
    first = [layout.on_bank(bank)[0] for bank in layout.banks_in_use]
    bearings = [sense * float(layout.bank_deg[cylinder - 1]) for cylinder in first]
    scale = ArmScale(rig)
    extent = scale.extent(bearings)
    # Numbers stand beyond the heads, so there is room for them where a bank points.
    across = 40.0 if any(abs(_outward(at).x()) > 0.5 for at in bearings) else 24.0
    upright = 36.0 if any(abs(_outward(at).y()) > 0.5 for at in bearings) else 12.0
    room = box.adjusted(across, upright, -across, -upright)
    factor = min(room.width() / extent.width(), room.height() / extent.height(), 1.4)
    centre = room.center() - extent.center() * factor
    p.save()
    p.translate(centre)
    EndView(scale, theme, stills, factor).paint_still(p, bearings)
    radius = scale.radius * factor
    zero_deg = float(layout.bank_deg[0]) - float(layout.pin_deg[0])
    pins = [sense * (throw.angle_deg + zero_deg) for throw in layout.throws]
    reach = max(radius, 20.0)
    p.setPen(round_pen(theme.metal_dk, 6))
    for pin_deg in pins:
        p.drawLine(QPointF(0, 0), _outward(pin_deg) * reach)
    for at_deg, numbers in _abreast(pins):
        _paint_label(p, _outward(at_deg) * reach, "·".join(map(str, numbers)), 11, theme)
    reach = (scale.crank_y + 6) * factor + 12
    for at_deg, places in _abreast(bearings):
        words = "·".join(str(first[place - 1]) for place in places)
        _paint_label(p, _outward(at_deg) * reach, words, 13, theme)
    p.restore()


def _outward(bearing_deg: float) -> QPointF:
    turned = math.radians(bearing_deg)
    return QPointF(math.sin(turned), -math.cos(turned))


def _abreast(bearings_deg: list[float]) -> list[tuple[float, list[int]]]:
    """Bearings less than `ABREAST_DEG` apart as one, each with its numbers from 1."""
    groups: list[tuple[float, list[int]]] = []
    for number, bearing in enumerate(bearings_deg, start=1):
        for first, numbers in groups:
            if abs((bearing - first + 180.0) % 360.0 - 180.0) < ABREAST_DEG:
                numbers.append(number)
                break
        else:
            groups.append((bearing, [number]))
    return groups


def _paint_label(p: QPainter, at: QPointF, words: str, radius: float, theme: Theme) -> None:
    """A number, or several that share a place, in a disc that grows with them."""
    half = max(radius, text_width(words, NOTE, Weight.STRONG) / 2 + 6)
    label = QRectF(at.x() - half, at.y() - radius, 2 * half, 2 * radius)
    rounded(p, label, radius, theme.sheet, flat_pen(theme.ink, 2))
    draw_text(p, label, words, NOTE, theme.ink, Weight.STRONG, CENTRE)


def paint_throws(p: QPainter, box: QRectF, engine: Engine, theme: Theme) -> None:
    """One small dial a throw, with its angle and its cylinders."""
    layout, sense = engine.layout, sense_of(engine)
    count = len(layout.throws)
    per_row = min(count, 4 if count <= 8 else 6)
    step = box.width() / max(per_row, 1)
    radius = min(30.0, step / 2 - 8)
    for number, throw in enumerate(layout.throws):
        x = box.left() + (number % per_row + 0.5) * step
        y = box.top() + radius + 4 + (number // per_row) * (2 * radius + 46)
        centre = QPointF(x, y)
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawEllipse(centre, radius, radius)
        angle = throw.angle_deg - layout.throws[0].angle_deg
        turned = math.radians(sense * angle)
        pin = centre + QPointF(math.sin(turned), -math.cos(turned)) * (radius * 0.62)
        p.setPen(round_pen(theme.metal_dk, 5))
        p.drawLine(centre, pin)
        number_disc(p, pin, 9, number + 1, Place.BETWEEN, theme, strong=False)
        words = QRectF(x - step / 2, y + radius + 2, step, 20)
        draw_text(p, words, f"{throw.angle_deg:.4g}°", BODY, theme.ink, Weight.STRONG, CENTRE)
        on_it = "·".join(map(str, layout.on_throw(number)))
        draw_text(p, words.translated(0, 19), f"cyl {on_it}", NOTE, theme.ink2, align=CENTRE)
