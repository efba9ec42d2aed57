"""Found is hollow, left is solid, an arrow leads from the one to the other."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF

from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import LEFT, draw_text
from true_compass.drawing.theme import BODY, Theme


def paint_found(p: QPainter, at: QPointF, theme: Theme, *, strong: bool = False) -> None:
    """As found: hollow."""
    p.setBrush(theme.sheet)
    p.setPen(flat_pen(theme.ink, 2.6 if strong else 2.0))
    radius = 8.0 if strong else 6.5
    p.drawEllipse(at, radius, radius)


def paint_left(p: QPainter, at: QPointF, theme: Theme) -> None:
    """As left: solid."""
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.ink)
    p.drawEllipse(at, 7.0, 7.0)


def paint_arrow_between(p: QPainter, start: QPointF, end: QPointF, theme: Theme) -> None:
    """A thick arrow that ends just before a point, straight up or down."""
    way = 1.0 if end.y() > start.y() else -1.0
    if abs(end.y() - start.y()) < 22:
        return
    tip = QPointF(end.x(), end.y() - 9 * way)
    p.setPen(flat_pen(theme.ink, 3.0))
    p.drawLine(start + QPointF(0, 8 * way), tip - QPointF(0, 7 * way))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme.ink)
    p.drawPolygon(QPolygonF([tip, tip + QPointF(-6, -10 * way), tip + QPointF(6, -10 * way)]))


def paint_key(p: QPainter, box: QRectF, theme: Theme) -> None:
    """What hollow and solid mean."""
    at = QPointF(box.left() + 8, box.center().y())
    paint_found(p, at, theme)
    draw_text(p, box.adjusted(22, 0, 0, 0), "found", BODY, theme.ink, align=LEFT)
    paint_left(p, at + QPointF(80, 0), theme)
    draw_text(p, box.adjusted(102, 0, 0, 0), "left", BODY, theme.ink, align=LEFT)
