"""The cycle chart: 0° to 720° downwards, one lane a cylinder, under that cylinder's column.

In a lane the strokes stand in the middle; the intake lift is a leaf on the left, the exhaust lift
one on the right, as everywhere.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.core.angles import CYCLE_DEG
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.strokes import Stroke
from true_compass.drawing.codes import draw_pointer, fill_stroke, flat_pen
from true_compass.drawing.text import RIGHT, draw_text
from true_compass.drawing.theme import BODY, NOTE, Theme, Weight

SAMPLES: Final = 361
STRIP_SHARE: Final = 0.48
LEAF_SHARE: Final = 0.19
POINTER_LEAST: Final = 34.0


@dataclass(frozen=True, slots=True, eq=False)
class LiftCurves:
    """Lift of every valve over the cycle as fractions of its peak, `(V, SAMPLES)`."""

    fractions: np.ndarray[tuple[int, ...], np.dtype[np.float64]]

    @staticmethod
    def of(rig: Rig, samples: int = SAMPLES) -> "LiftCurves":
        """Sample a rig once; the chart only stretches the result."""
        lifts = rig.lobes.lift_mm(np.linspace(0.0, CYCLE_DEG, samples))
        return LiftCurves(lifts / rig.full_lift_mm[:, None])


def degrees_to_y(crank_deg: float, height: float) -> float:
    """Height in the chart of a crank angle."""
    return crank_deg / CYCLE_DEG * height


def paint_axis(p: QPainter, right: float, height: float, width: float, theme: Theme) -> None:
    """Degrees at the left, with a hair line across at each dead centre between."""
    for step in range(9):
        degrees = 90 * step
        y = degrees_to_y(degrees, height)
        p.setPen(flat_pen(theme.hair, 1))
        p.drawLine(QPointF(right + 4, y), QPointF(width, y))
        strong = step % 2 == 0
        colour = theme.ink if strong else theme.ink2
        px, weight = (BODY, Weight.STRONG) if strong else (NOTE, Weight.BODY)
        draw_text(p, QRectF(right - 60, y - 10, 58, 20), f"{degrees}°", px, colour, weight, RIGHT)


def paint_lane(
    p: QPainter,
    box: QRectF,
    offset_deg: float,
    curves: dict[Kind, Sequence[float]],
    theme: Theme,
    lift_times: float = 1.0,
) -> None:
    """One cylinder's lane in `box`; `offset_deg` is its firing offset.

    Lift is drawn `lift_times` as large; what is larger than the lane is cut off.
    """
    strip_width = min(box.width() * STRIP_SHARE, 90.0)
    strip = QRectF(box.center().x() - strip_width / 2, box.top(), strip_width, box.height())
    p.fillRect(box, theme.sheet)
    reach = min(box.width() * LEAF_SHARE, 44.0) * lift_times
    p.setClipRect(box)
    for kind, fractions in curves.items():
        _paint_leaf(p, strip, reach, kind, fractions, theme)
    for stroke in Stroke:
        start = (offset_deg + 180.0 * stroke) % CYCLE_DEG
        for top_deg, foot_deg in _within_cycle(start, start + 180.0):
            _paint_block(p, strip, top_deg, foot_deg, stroke, theme)
    p.setClipping(False)


def _within_cycle(start_deg: float, end_deg: float) -> list[tuple[float, float]]:
    if end_deg <= CYCLE_DEG:
        return [(start_deg, end_deg)]
    return [(start_deg, CYCLE_DEG), (0.0, end_deg - CYCLE_DEG)]


def _paint_block(
    p: QPainter, strip: QRectF, top_deg: float, foot_deg: float, stroke: Stroke, theme: Theme
) -> None:
    top = strip.top() + degrees_to_y(top_deg, strip.height())
    height = degrees_to_y(foot_deg - top_deg, strip.height())
    block = QRectF(strip.left(), top, strip.width(), height)
    fill_stroke(p, block, stroke, theme)
    p.setPen(flat_pen(theme.stroke(stroke), 1.4))
    p.drawLine(block.topLeft(), block.topRight())
    if height < POINTER_LEAST:
        return
    size = min(15.0, strip.width() - 8)
    if stroke is Stroke.POWER:
        draw_pointer(p, block.center(), size, stroke, theme.on_power)
        return
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.sheet)
    p.drawEllipse(block.center(), size * 0.86, size * 0.86)
    draw_pointer(p, block.center(), size, stroke, theme.stroke(stroke))


def _paint_leaf(
    p: QPainter,
    strip: QRectF,
    reach: float,
    kind: Kind,
    fractions: Sequence[float],
    theme: Theme,
) -> None:
    side = -1 if kind is Kind.INTAKE else 1
    foot = strip.left() - 2 if kind is Kind.INTAKE else strip.right() + 2
    step = strip.height() / (len(fractions) - 1)
    p.setBrush(theme.intake_tint if kind is Kind.INTAKE else theme.ink)
    # Only where the valve is lifted: a line along the base circle would read as a wall.
    p.setPen(flat_pen(theme.ink, 1.4))
    for first, last in _lifted(fractions):
        points = [
            QPointF(foot + side * fractions[i] * reach, strip.top() + i * step)
            for i in range(first, last)
        ]
        ends = QPointF(foot, points[0].y()), QPointF(foot, points[-1].y())
        p.drawPolygon(QPolygonF([ends[0], *points, ends[1]]))


def _lifted(fractions: Sequence[float]) -> list[tuple[int, int]]:
    """Runs of samples off the seat, as half-open ranges."""
    up = np.asarray(fractions) > 0
    edges = np.flatnonzero(np.diff(np.concatenate(([False], up, [False])).astype(np.int8)))
    return [(int(first), int(last)) for first, last in zip(edges[::2], edges[1::2], strict=True)]


def paint_cursor(p: QPainter, left: float, right: float, y: float, theme: Theme) -> None:
    """The line at the crank angle, in a casing so that it reads over every texture."""
    p.setPen(flat_pen(theme.sheet, 8))
    p.drawLine(QPointF(left, y), QPointF(right, y))
    p.setPen(flat_pen(theme.now, 3.2))
    p.drawLine(QPointF(left, y), QPointF(right, y))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.now)
    p.drawPolygon(
        QPolygonF([QPointF(left - 2, y - 9), QPointF(left + 13, y), QPointF(left - 2, y + 9)])
    )
