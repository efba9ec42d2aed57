"""The Ignition on the front page: a cap with its posts and rotor."""

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from true_compass.app.tile import Tile
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.ring import lap_direction
from true_compass.drawing.theme import Theme
from true_compass.session.session import SessionState


def paint(p: QPainter, box: QRectF, state: SessionState, theme: Theme) -> None:
    """As many posts as the engine has, and the rotor where the crank has brought it."""
    engine = state.engine
    radius = min(box.height() / 2 - 2, 52.0)
    centre = QPointF(box.left() + radius + 4, box.center().y())
    p.setBrush(theme.sheet)
    p.setPen(flat_pen(theme.ink, 2.4))
    p.drawEllipse(centre, radius, radius)
    half = 7.0 if engine.cylinder_count <= 8 else 4.0
    sense = engine.rotor_turns.sense
    for offset in engine.firing_offsets_deg:
        out = lap_direction(float(offset), sense)
        at = centre + out * (radius - half - 5)
        plate = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
        rounded(p, plate, 2, theme.sheet, flat_pen(theme.ink, 1.8))
    out = lap_direction(state.crank_deg, sense)
    p.setPen(flat_pen(theme.now, 8))
    p.drawLine(centre - out * 8, centre + out * (radius - 2 * half - 8))
    p.setPen(round_pen(theme.ink, 12))
    p.drawPoint(centre)


def words(state: SessionState) -> str:
    """What lights this engine."""
    kind = state.engine.ignition.value
    return "not named" if kind == "unknown" else kind


TILE = Tile("Light the charge", "Cap, leads, advance, lamp.", paint, words)
