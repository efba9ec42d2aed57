"""Watch on the front page: the ring as it stands."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.app.tile import Tile
from true_compass.core.words import shown_degrees
from true_compass.drawing.codes import Place, flat_pen, number_disc
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.ring import place_of, sense_of
from true_compass.drawing.theme import Theme
from true_compass.session.session import SessionState

MOST_NUMBERED = 9


def paint(p: QPainter, box: QRectF, state: SessionState, theme: Theme) -> None:
    """Beads round a circle under the mark."""
    engine, now = state.engine, state.now
    radius = min(box.width(), box.height()) / 2 - 18
    middle = QPointF(box.left() + radius + 20, box.center().y() + 4)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(flat_pen(theme.ink, 2.0))
    p.drawEllipse(middle, radius, radius)
    bead = 11.5 if engine.cylinder_count <= MOST_NUMBERED else 6.0
    for row in reversed(range(engine.cylinder_count)):
        # A full lap is 720° of crank, so a bead stands at half its angle.
        at = crank_direction(float(now.cycle_deg[row]) / 2, sense_of(engine)) * radius
        place = place_of(now, row)
        if bead > 8:
            number_disc(p, middle + at, bead, row + 1, place, theme, strong=False)
        else:
            p.setBrush(theme.now if place is Place.COMPRESSION_TDC else theme.ink)
            p.setPen(Qt.PenStyle.NoPen)
            p.drawEllipse(middle + at, bead, bead)
    top = middle - QPointF(0, radius + bead)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.now)
    p.drawPolygon(QPolygonF([top + QPointF(-8, -12), top + QPointF(8, -12), top]))


TILE = Tile(
    "See it turn",
    "Turn the crank: strokes, valves, and who fires.",
    paint,
    lambda state: f"at {shown_degrees(state.crank_deg)}°",
)
