"""Three ways to have it wrong: a small cap each, what happens, what to do."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.core.ignition.fitting import WrongState, wrong_states
from true_compass.drawing.cap_map import CapMap
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import (
    CENTRE,
    draw_paragraph_that_fits,
    draw_text,
)
from true_compass.drawing.theme import BODY, LABEL, LEAD, NOTE, Weight

SMALL: Final = 58.0


class WrongView(PageView):
    """The block of the state as it stands is framed."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("wrong_states")
        self.setAccessibleName("If it were wrong")
        model.changed.connect(self.refresh)

    def paint(self, p: QPainter) -> None:
        """A title, then a block a state."""
        theme, wide = self.look.theme, self.logical_width
        title = QRectF(0, 0, wide, 34)
        draw_text(p, title, "If it were wrong", LEAD, theme.ink, Weight.STRONG)
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.drawLine(QPointF(0, 40), QPointF(wide, 40))
        states = wrong_states(self._model.standing)
        each = min((self.logical_height - 46) / len(states), 206.0)
        for nth, state in enumerate(states):
            self._paint_state(p, QRectF(0, 46 + nth * each, wide, each - 6), state)

    def _paint_state(self, p: QPainter, box: QRectF, state: WrongState) -> None:
        theme = self.look.theme
        if state.is_now:
            rounded(p, box, 6, theme.now_tint, flat_pen(theme.now, 2))
        most = SMALL if self._model.engine.cylinder_count <= 8 else 46.0
        small = min(most, (box.height() - 60) / 2)
        centre = QPointF(box.left() + small + 8, box.top() + small + 8)
        self._paint_cap(p, centre, small, state)
        x = centre.x() + small + 12
        words = QRectF(x, box.top() + 8, box.right() - x - 6, 24)
        draw_text(p, words, state.title, LABEL, theme.ink, Weight.STRONG)
        short = QRectF(x, box.top() + 34, box.right() - x - 6, 2 * small - 26)
        draw_paragraph_that_fits(p, short, state.short, BODY, theme.ink)
        more = QRectF(box.left() + 8, centre.y() + small + 6, box.width() - 14, 0)
        more.setBottom(box.bottom() - 2)
        draw_paragraph_that_fits(p, more, state.more, BODY, theme.ink)

    def _paint_cap(self, p: QPainter, at: QPointF, radius: float, state: WrongState) -> None:
        """Posts that would be wrong are dotted."""
        theme, engine = self.look.theme, self._model.engine
        place = CapMap.of(engine, state.fitted, QRectF(0, 0, 400, 400))
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 1.8))
        p.drawEllipse(at, radius, radius)
        half = 11.0 if engine.cylinder_count <= 8 else 7.0
        for nth, cylinder in enumerate(state.posts):
            post = (nth + state.fitted.post_1 - 1) % len(state.posts) + 1
            direction = state.fitted.post_deg(engine, post)
            middle = at + place.towards(direction) * (radius - half - 4)
            plate = QRectF(middle.x() - half, middle.y() - half, 2 * half, 2 * half)
            right = cylinder in state.right
            pen = flat_pen(theme.ink, 2.2) if right else flat_pen(theme.line, 1.2)
            rounded(p, plate, 3, theme.sheet, pen)
            if half > 8:
                draw_text(p, plate, str(cylinder), NOTE, theme.ink, Weight.LABEL, CENTRE)
        out = place.towards(state.fitted.rotor_deg(engine))
        p.setPen(flat_pen(theme.now, 8))
        p.drawLine(at - out * 6, at + out * (radius - 2 * half - 8))
        p.setPen(flat_pen(theme.ink, 2))
        p.setBrush(theme.ink)
        p.drawEllipse(at, 6, 6)
