"""The signs of how somebody stands with a skill: never by colour alone."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from true_compass.drawing.codes import flat_pen, paint_tick, rounded
from true_compass.drawing.theme import Theme
from true_compass.lessons.mastery import Standing


def paint_standing(p: QPainter, at: QPointF, half: float, standing: Standing, theme: Theme) -> None:
    """A ticked square is secure, a full one sound, a half one needs practice, a dot is untried."""
    if standing is Standing.UNTRIED:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink3)
        p.drawEllipse(at, 2.6, 2.6)
        return
    box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
    if standing is Standing.PRACTICE:
        rounded(p, box, 2.5, theme.sheet, flat_pen(theme.ink, 1.8))
        p.fillRect(box.adjusted(1.5, half, -1.5, -1.5), theme.ink)
        return
    rounded(p, box, 2.5, theme.ink, flat_pen(theme.ink, 1.8))
    if standing is Standing.SECURE:
        paint_tick(p, at, half * 1.3, theme.on_ink)
