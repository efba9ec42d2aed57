"""A cap as a question shows it: posts counted clockwise, numbers in them, and the rotor's arrow."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from true_compass.drawing.codes import flat_pen, outward, rounded
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import Weight

FIRST_DEG: Final = -30.0
MANY: Final = 8


def paint_cap_face(
    p: QPainter,
    centre: QPointF,
    radius: float,
    numbers: Sequence[int],
    given: Sequence[bool],
    *,
    clockwise: bool,
    ink: QColor,
    ground: QColor,
) -> None:
    """`numbers` are the cylinders of the posts, 0 for an empty one; `given` ones are solid.

    `clockwise` is the rotor's direction as it is seen on the cap.
    """
    p.setBrush(ground)
    p.setPen(flat_pen(ink, 1.8))
    p.drawEllipse(centre, radius, radius)
    half = radius * (0.185 if len(numbers) <= MANY else 0.12)
    for nth, number in enumerate(numbers):
        out = outward(360.0 * nth / len(numbers) + FIRST_DEG)
        spot = centre + out * (radius - half * 1.5)
        box = QRectF(spot.x() - half, spot.y() - half, 2 * half, 2 * half)
        rounded(p, box, 3, ink if given[nth] else ground, flat_pen(ink, 1.8))
        if number:
            colour = ground if given[nth] else ink
            draw_text(p, box, str(number), half * 0.95, colour, Weight.STRONG, CENTRE)
    _arrow(p, centre, radius * 0.28, 1 if clockwise else -1, ink)


def _arrow(p: QPainter, centre: QPointF, radius: float, sense: int, ink: QColor) -> None:
    points = [centre + outward(sense * a) * radius for a in range(-130, 131, 10)]
    p.setPen(flat_pen(ink, 2.4))
    for one, other in pairwise(points):
        p.drawLine(one, other)
    along = points[-1] - points[-4]
    length = (along.x() ** 2 + along.y() ** 2) ** 0.5 or 1.0
    unit, tip = along / length, points[-1]
    across = QPointF(-unit.y(), unit.x())
    p.setBrush(ink)
    p.setPen(Qt.PenStyle.NoPen)
    p.drawPolygon(QPolygonF([tip + unit * 9, tip + across * 7, tip - across * 7]))
