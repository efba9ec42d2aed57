"""Bench on the front page: a damper with its chalk, and a question mark."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from true_compass.app.tile import GoOn, Tile
from true_compass.core.words import counted
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import HEAD, Theme, Weight
from true_compass.session.session import SessionState


def paint(p: QPainter, box: QRectF, _state: SessionState, theme: Theme) -> None:
    """A covered engine's damper: what it hides is a question."""
    radius = min(box.width(), box.height()) / 2 - 18
    middle = QPointF(box.left() + radius + 20, box.center().y())
    p.setPen(flat_pen(theme.ink, 2.4))
    p.setBrush(theme.sheet)
    p.drawEllipse(middle, radius, radius)
    p.setPen(QPen(theme.now, 4, Qt.PenStyle.DotLine))
    out = crank_direction(-60.0, 1)
    p.drawLine(middle + out * (radius * 0.5), middle + out * radius)
    mark = QRectF(middle.x() - 20, middle.y() - 20, 40, 40)
    draw_text(p, mark, "?", HEAD, theme.ink, Weight.STRONG, CENTRE)


def words(state: SessionState) -> str:
    """How far the work on the bench has come."""
    if state.bench is None:
        return "nothing begun"
    if state.bench.verdict is not None:
        return "uncovered"
    return counted(state.bench.run.state.done, "action")


def go_on(_state: SessionState) -> GoOn | None:
    """Work at the bench is taken up on its own page."""
    return None


TILE = Tile(
    "Covered engine",
    "Find TDC, set, find what is wrong. Then see the truth.",
    paint,
    words,
    go_on,
)
