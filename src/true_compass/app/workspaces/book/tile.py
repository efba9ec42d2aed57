"""The Book on the front page: found hollow, left solid, about a band."""

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from true_compass.app.tile import Tile
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.found_left import paint_arrow_between, paint_found, paint_left
from true_compass.drawing.theme import Theme
from true_compass.session.session import SessionState


def paint(p: QPainter, box: QRectF, _state: SessionState, theme: Theme) -> None:
    """Three items: one left alone, two set."""
    band = QRectF(box.left(), box.center().y() - 16, min(box.width(), 120.0), 32)
    p.fillRect(band, theme.well)
    p.setPen(flat_pen(theme.line, 1.6))
    for y in (band.top(), band.bottom()):
        p.drawLine(QPointF(band.left(), y), QPointF(band.right(), y))
    middle = band.center().y()
    for place, off in enumerate((-5.0, 38.0, -38.0)):
        x = band.left() + 22 + 38 * place
        if abs(off) > 20:
            paint_arrow_between(p, QPointF(x, middle + off), QPointF(x, middle), theme)
            paint_left(p, QPointF(x, middle), theme)
        paint_found(p, QPointF(x, middle + off), theme)


def words(state: SessionState) -> str:
    """Whether a job is open; the book itself is not read for that."""
    book = state.book
    if book is None or book.job is None or book.job.is_blank:
        return "found and left"
    count = len(book.job.items)
    return f"{count} items" if count != 1 else "1 item"


TILE = Tile("Keep the book", "What was found, what was left, what it points to.", paint, words)
