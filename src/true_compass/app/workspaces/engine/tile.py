"""Engine on the front page: the head of the first bank from above."""

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from true_compass.app.tile import Tile
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import NOTE, Theme, Weight
from true_compass.session.session import SessionState

MOST_DRAWN = 4


def paint(p: QPainter, box: QRectF, state: SessionState, theme: Theme) -> None:
    """Discs with numbers on a head, and below each its two valves."""
    layout = state.engine.layout
    bank = layout.banks_in_use[0]
    shown = layout.on_bank(bank)[:MOST_DRAWN]
    pattern = state.engine.valves_along(bank)
    pitch = min((box.width() - 12) / max(len(shown), 1), 36.0)
    head = QRectF(box.left(), box.center().y() - 14, pitch * len(shown) + 10, 46)
    rounded(p, head, 5, theme.sheet, flat_pen(theme.ink, 2.0))
    for place, cylinder in enumerate(shown):
        x = head.left() + 5 + pitch * (place + 0.5)
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2.0))
        p.drawEllipse(QPointF(x, head.top()), 12, 12)
        disc = QRectF(x - 12, head.top() - 12, 24, 24)
        draw_text(p, disc, str(cylinder), NOTE, theme.ink, Weight.LABEL, CENTRE)
        for side, letter in enumerate(pattern[2 * place : 2 * place + 2]):
            valve = QRectF(x - 12 + 12.5 * side, head.top() + 22, 11, 11)
            if letter == "I":
                rounded(p, valve, 5.5, None, flat_pen(theme.ink, 1.6))
            else:
                p.fillRect(valve, theme.ink)


TILE = Tile(
    "Draw my engine",
    "Click and drag banks, throws, valves, events.",
    paint,
    lambda state: state.engine.layout_words,
)
