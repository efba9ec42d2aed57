"""Three ways to have it wrong: a small cap each, what happens, what to do."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.core.ignition.fitting import HOW, WrongState, wrong_states
from true_compass.drawing.cap_map import CapMap
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.fit_step import StepPicture
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
        self.setAccessibleName("This step, and if it were wrong")
        model.changed.connect(self.refresh)

    def paint(self, p: QPainter) -> None:
        """A title, then a block a state."""
        theme, wide = self.look.theme, self.logical_width
        top = self._paint_step(p)
        title = QRectF(0, top, wide, 30)
        draw_text(p, title, "If it were wrong", LEAD, theme.ink, Weight.STRONG)
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.drawLine(QPointF(0, top + 32), QPointF(wide, top + 32))
        states = wrong_states(self._model.told)
        each = min((self.logical_height - top - 38) / len(states), 206.0)
        for nth, state in enumerate(states):
            self._paint_state(p, QRectF(0, top + 38 + nth * each, wide, each - 4), state)

    def _paint_step(self, p: QPainter) -> float:
        """The step that is due, as a picture with how it is done. Returns its foot."""
        step = self._model.bay.next_step
        if step is None or self.logical_height < 560:
            return 0.0
        theme, wide = self.look.theme, self.logical_width
        draw_text(p, QRectF(0, 0, wide, 30), "This step", LEAD, theme.ink, Weight.STRONG)
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.drawLine(QPointF(0, 32), QPointF(wide, 32))
        engine, fitted = self._model.engine, self._model.told.fitted
        place = CapMap.of(engine, fitted, QRectF(0, 0, 400, 400))
        StepPicture(theme, place).paint(p, QPointF(64, 104), step)
        words = QRectF(138, 40, wide - 138, 132)
        draw_paragraph_that_fits(p, words, HOW[step], BODY, theme.ink)
        return 176.0

    def _paint_state(self, p: QPainter, box: QRectF, state: WrongState) -> None:
        theme = self.look.theme
        if state.is_now:
            rounded(p, box, 6, theme.now_tint, flat_pen(theme.now, 2))
        small = min(SMALL, (box.height() - 56) / 2)
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
        half = 11.0 if engine.cylinder_count <= 8 and radius > 50 else min(7.0, radius * 0.17)
        for nth, cylinder in enumerate(state.posts):
            post = (nth + state.fitted.post_1 - 1) % len(state.posts) + 1
            direction = state.fitted.post_deg(engine, post)
            middle = at + place.towards(direction) * (radius - half - 4)
            plate = QRectF(middle.x() - half, middle.y() - half, 2 * half, 2 * half)
            right = cylinder in state.right
            pen = flat_pen(theme.ink, 2.2) if right else flat_pen(theme.line, 1.2)
            # Where there is no room for numbers the post of 1 is solid.
            fill = theme.ink if half <= 8 and cylinder == 1 else theme.sheet
            rounded(p, plate, 3, fill, pen)
            if half > 8:
                draw_text(p, plate, str(cylinder), NOTE, theme.ink, Weight.LABEL, CENTRE)
        out = place.towards(state.fitted.rotor_deg(engine))
        p.setPen(flat_pen(theme.now, 8 if radius > 50 else 6))
        p.drawLine(at - out * 6, at + out * (radius - 2 * half - 8))
        p.setPen(flat_pen(theme.ink, 2))
        p.setBrush(theme.ink)
        p.drawEllipse(at, radius / 10, radius / 10)
