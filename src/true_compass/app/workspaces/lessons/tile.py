"""The Lessons on the front page: a ring with a question, and what comes next."""

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from true_compass.app.tile import GoOn, Tile
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import draw_centred
from true_compass.drawing.theme import Theme, Weight
from true_compass.session.session import SessionState


def paint(p: QPainter, box: QRectF, state: SessionState, theme: Theme) -> None:
    """A question about a ring, and the places that are behind."""
    radius = min(box.height() / 2 - 4, 48.0)
    centre = QPointF(box.left() + radius + 4, box.center().y())
    p.setBrush(theme.sheet)
    p.setPen(flat_pen(theme.ink, 2.4))
    p.drawEllipse(centre, radius, radius)
    draw_centred(p, centre, "?", radius * 1.1, theme.ink, Weight.STRONG)
    lesson = state.lesson
    done = 0 if lesson is None else round(6 * lesson.place / max(len(lesson.stops), 1))
    for nth in range(6):
        x = centre.x() + radius + 16 + nth % 3 * 22
        square = QRectF(x, centre.y() - 18 + nth // 3 * 22, 15, 15)
        fill = theme.ink if nth < done else None
        rounded(p, square, 2, fill, flat_pen(theme.ink, 1.8))


def words(state: SessionState) -> str:
    """The lesson that is worked through."""
    return "none open" if state.lesson is None else state.lesson.lesson.title


def go_on(state: SessionState) -> GoOn | None:
    """Go on in the lesson that was begun."""
    lesson = state.lesson
    if lesson is None or lesson.over:
        return None
    return GoOn(
        item=None,
        head="Go on with the lesson",
        line=lesson.lesson.title,
        sentence=lesson.lesson.purpose,
        button="Go on",
        page="Learn",
        done=lesson.place,
        of=len(lesson.stops),
    )


TILE = Tile("Learn and teach", "Lessons, drills, class.", paint, words, go_on)
