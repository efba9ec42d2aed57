"""The ring of a lesson's engine, as far as the place in the lesson leaves it uncovered."""

from collections.abc import Set as AbstractSet

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter

from true_compass.app.widgets.look import Look
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.ring import OUTER, Card, free_arcs, paint_frame, sense_of
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import draw_centred
from true_compass.drawing.theme import Weight
from true_compass.lessons.drill import Cover
from true_compass.session.session import SessionState

INNER = 0.66


class RingFace:
    """Paints the ring about a centre, `factor` times its own size."""

    def __init__(self, look: Look, stills: Stills) -> None:
        self._look = look
        self._stills = stills

    def paint_ground(
        self,
        p: QPainter,
        centre: QPointF,
        factor: float,
        state: SessionState,
        covers: AbstractSet[Cover],
    ) -> None:
        """What stands still; covered, a plain ring with a question mark."""
        theme = self._look.theme
        p.save()
        p.translate(centre)
        p.scale(factor, factor)
        if Cover.RING in covers:
            p.setPen(flat_pen(theme.line, 2.4))
            p.setBrush(theme.well)
            p.drawEllipse(QPointF(0, 0), OUTER, OUTER)
            p.setBrush(theme.paper)
            p.drawEllipse(QPointF(0, 0), OUTER * INNER, OUTER * INNER)
            p.setPen(Qt.PenStyle.NoPen)
            draw_centred(p, QPointF(0, 0), "?", 130, theme.ink, Weight.STRONG)
        else:
            arcs = () if Cover.ARCS in covers else free_arcs(state.rig)
            paint_frame(p, arcs, theme, sense_of(state.engine))
        p.restore()

    def paint_card(
        self,
        p: QPainter,
        centre: QPointF,
        factor: float,
        state: SessionState,
        covers: AbstractSet[Cover],
    ) -> None:
        """What turns; without the angle where that is covered."""
        if Cover.RING in covers:
            return
        p.save()
        p.translate(centre)
        p.scale(factor, factor)
        hides, sense = Cover.ANGLE in covers, sense_of(state.engine)
        card = Card(self._look.theme, self._stills, sense, plain=hides, labels=False)
        card.paint(p, state.rig, state.now)
        p.restore()
