"""The Cam on the front page: a nose with its chord, and where its middle stands."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from true_compass.app.tile import Tile
from true_compass.drawing.codes import flat_pen, polygon, round_pen
from true_compass.drawing.theme import Theme
from true_compass.session.session import SessionState


def paint(p: QPainter, box: QRectF, _state: SessionState, theme: Theme) -> None:
    """A nose, a chord across it, its middle, and the card's place dashed."""
    wide = min(box.width(), 120.0)
    middle, top = box.left() + wide / 2, box.top() + 6
    u = np.linspace(-1.0, 1.0, 41)
    p.setPen(round_pen(theme.ink, 4))
    p.drawPolyline(polygon(middle + u * wide / 2, top + u * u * (box.height() - 14)))
    card = QPointF(middle - 14, top)
    p.setPen(QPen(theme.ink2, 1.8, Qt.PenStyle.DashLine))
    p.drawLine(card, card + QPointF(0, box.height() - 12))
    y, reach = top + 0.36 * (box.height() - 14), 0.6 * wide / 2
    p.setPen(flat_pen(theme.ink, 1.8))
    p.drawLine(QPointF(middle - reach, y), QPointF(middle + reach, y))
    p.setBrush(theme.sheet)
    for side in (-1, 1):
        p.drawEllipse(QPointF(middle + side * reach, y), 5, 5)
    p.setBrush(theme.now)
    p.setPen(Qt.PenStyle.NoPen)
    p.drawEllipse(QPointF(middle, y), 5, 5)


def words(state: SessionState) -> str:
    """Whether readings were begun; what was kept on the disk is not read for that."""
    return "readings begun" if state.cam is not None and not state.cam.is_blank else "not read"


TILE = Tile("Degree a cam", "Where it stands, and how to move it.", paint, words)
