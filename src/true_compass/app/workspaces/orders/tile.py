"""Orders on the front page: the firing order round a circle."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from true_compass.app.tile import Tile
from true_compass.core.crank.orders import even_orders
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import NOTE, Theme, Weight
from true_compass.session.bench import tells_order_asked
from true_compass.session.session import SessionState

MOST_NUMBERED = 9


def paint(p: QPainter, box: QRectF, state: SessionState, theme: Theme) -> None:
    """Every firing at its angle, cylinder 1 at the top."""
    radius = min(box.width(), box.height()) / 2 - 14
    middle = QPointF(box.left() + radius + 20, box.center().y())
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(flat_pen(theme.line, 1.6))
    p.drawEllipse(middle, radius, radius)
    asked = tells_order_asked(state.bench, state.engine)
    dot = 11.0 if state.engine.cylinder_count <= MOST_NUMBERED else 5.0
    p.setPen(Qt.PenStyle.NoPen)
    for row, offset_deg in enumerate(state.engine.firing_offsets_deg.tolist()):
        at = middle + crank_direction(offset_deg / 2, 1) * radius
        p.setBrush(theme.now if row == 0 else theme.ink)
        p.setPen(Qt.PenStyle.NoPen)
        p.drawEllipse(at, dot, dot)
        if dot > 8 and (row == 0 or not asked):
            disc = QRectF(at.x() - dot, at.y() - dot, 2 * dot, 2 * dot)
            on = theme.on_now if row == 0 else theme.on_ink
            draw_text(p, disc, str(row + 1), NOTE, on, Weight.STRONG, CENTRE)


def words(state: SessionState) -> str:
    """How many even orders this crank allows."""
    even = len(even_orders(state.engine.layout))
    return f"{even} even" if even else "none even"


TILE = Tile("Find an order", "Every firing order that this crank allows.", paint, words)
