"""A panel beside the lap; under its figure, what it means now."""

from collections.abc import Hashable
from typing import Final

import numpy as np
from PyQt6.QtCore import QEvent, QRectF
from PyQt6.QtGui import QHelpEvent, QPainter, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.hints import show_hint
from true_compass.app.widgets.look import Painted
from true_compass.app.workspaces.watch.context import WatchContext, names_in_full
from true_compass.app.workspaces.watch.cycle.model import CycleModel
from true_compass.core.adjusting.stops import whole_degrees
from true_compass.drawing.stills import Paint, Stills
from true_compass.drawing.text import draw_one_of, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, Weight

HEAD_ROOM: Final = 66.0
ROW: Final = 22.0
SENTENCE: Final = 44.0


class CycleView(Painted):
    """A view of the shown cylinder, in three layers.

    What another lash leaves as it is comes from one picture, what turning leaves from a second on
    top of it; only the rest is painted each time.
    """

    covers_ground = True

    def __init__(self, context: WatchContext, model: CycleModel, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self._model = model
        self.frames = Stills()
        self._fresh = False
        self._turned_to = -1.0
        context.bridge.turned.connect(self._on_turned)
        context.bridge.tried.connect(self._on_tried)
        context.bridge.engine_changed.connect(self.repaint_all)
        model.changed.connect(self.repaint_all)

    def repaint_all(self) -> None:
        """Forget both pictures."""
        self.frames.forget()
        super().repaint_all()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Both pictures are for one size."""
        self.frames.forget()
        super().resizeEvent(event)

    def event(self, event: QEvent | None) -> bool:
        """Say on hover what the codes of this cylinder mean."""
        if isinstance(event, QHelpEvent):
            engine = self._context.session.state.engine
            words = names_in_full(engine, self._model.cylinder)
            show_hint(event.globalPos(), words, self)
            return True
        return super().event(event)

    def _on_turned(self) -> None:
        # What is tried is told as a turn too, for those views that show only the moment.
        here = self._context.session.state.crank_deg
        if here != self._turned_to:
            self._turned_to = here
            self.update()

    def _on_tried(self) -> None:
        self.stills.forget()
        self._fresh = True
        self.update()

    def paint_layers(self, p: QPainter, key: Hashable, frame: Paint, tried: Paint) -> None:
        """Draw the two layers that stand still while the crank turns."""

        def both(q: QPainter) -> None:
            whole = QRectF(0, 0, self.logical_width, self.logical_height)
            self.frames.draw(q, key, whole, frame, self.ground())
            tried(q)

        # While a figure is dragged a picture would be thrown away at once.
        if self._fresh:
            self._fresh = False
            p.save()
            both(p)
            p.restore()
        else:
            self.paint_whole(p, key, both)


class Panel(CycleView):
    """A panel: head line, second line, a figure, and a sentence at the foot."""

    slider_room = 0.0
    """Height that the sliders take, above the table or the sentence."""

    @property
    def figure(self) -> QRectF:
        """Where the figure goes."""
        return QRectF(0, HEAD_ROOM, self.logical_width, self.sliders_top - HEAD_ROOM - 8)

    @property
    def sliders_top(self) -> float:
        """Where the sliders begin, in pixels of the design."""
        return self.logical_height - SENTENCE - self.slider_room

    def head(self, p: QPainter, first: str, second: str) -> None:
        """The two lines at the top."""
        theme, width = self.look.theme, self.logical_width
        # The button that puts things back stands at the right while something is tried.
        room = width - (94 if self._model.tried and self.slider_room else 0)
        draw_text(p, QRectF(0, 2, room, 36), first, HEAD, theme.ink, Weight.STRONG)
        shorter = second.partition(". ")[0].partition(",")[0]
        draw_one_of(p, QRectF(0, 38, width, 22), (second, shorter), BODY - 1, theme.ink2)

    def sentence(self, p: QPainter, words: str) -> None:
        """The sentence at the foot."""
        box = QRectF(0, self.logical_height - SENTENCE + 2, self.logical_width, SENTENCE)
        draw_paragraph(p, box, words, LABEL, self.look.theme.ink)


def valve_words(name: str, lift_mm: float, margin_deg: float) -> str:
    """Where one valve stands, in words."""
    if lift_mm > 0:
        return f"{name} is open {lift_mm:.2f} mm"
    if np.isnan(margin_deg):
        return f"{name} is shut; suction opens it"
    if margin_deg >= 0:
        return f"{name} is free, {whole_degrees(margin_deg)}° of base circle to the nearer ramp"
    return f"{name} is shut, on its ramp"
