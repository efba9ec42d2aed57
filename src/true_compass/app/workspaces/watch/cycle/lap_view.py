"""The lap of one cylinder, on which its bead runs round."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.app.workspaces.watch.cycle.model import CycleModel
from true_compass.app.workspaces.watch.cycle.panel import CycleView
from true_compass.drawing.lap import BASE, FULL_HEIGHT, FULL_WIDTH, Lap, lens_reach_deg
from true_compass.drawing.ring import lap_angle_deg, place_of, sense_of
from true_compass.drawing.text import LEFT, draw_text
from true_compass.drawing.theme import HEAD, Weight

FOLLOWS_MS: Final = 40
LENS_BOX: Final = QRectF(-BASE - 16, 40, 2 * BASE + 32, BASE)
"""Where the frame of the lens can lie, however wide it is."""


class LapView(CycleView):
    """The lap of the shown cylinder; drag the bead to turn the crank."""

    def __init__(self, context: WatchContext, model: CycleModel, parent: QWidget) -> None:
        super().__init__(context, model, parent)
        self._dragging = False
        self._last_deg = 0.0
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(FOLLOWS_MS)
        self._later.timeout.connect(self.update)
        self.setObjectName("lap")
        self.setAccessibleName("One lap of a cylinder: 720 degrees with both lobes")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.OpenHandCursor)

    @property
    def _factor(self) -> float:
        high = self.logical_height - 50
        return min(high / FULL_HEIGHT, self.logical_width / FULL_WIDTH, 1.1)

    @property
    def centre(self) -> QPointF:
        """Middle of the lap in pixels of the design."""
        return QPointF(self.logical_width / 2, 44 + (self.logical_height - 44) / 2)

    def paint(self, p: QPainter) -> None:
        """The lap with its lobes from a picture; bead and angle each time."""
        state, cycle = self._context.session.state, self._model.cycle
        lap = Lap(self.look.theme, sense_of(state.engine))

        def frame(q: QPainter) -> None:
            words = f"Cylinder {cycle.cylinder}: one lap, 720°"
            box = QRectF(84, 6, self.logical_width - 170, 38)
            draw_text(q, box, words, HEAD, self.look.theme.ink, Weight.STRONG, LEFT)
            self._move(q)
            lap.paint_frame(q)
            if cycle.changed:
                lap.paint_as_set(q, cycle)

        def tried(q: QPainter) -> None:
            self._move(q)
            lap.paint_lobes(q, cycle)
            key = ("lens", lens_reach_deg(cycle))
            self.frames.draw(q, key, LENS_BOX, partial(lap.paint_lens_frame, cycle=cycle))
            lap.paint_events(q, cycle)

        self.paint_layers(p, (cycle.cylinder, cycle.changed), frame, tried)
        p.save()
        self._move(p)
        row = cycle.cylinder - 1
        cycle_deg = float(state.now.cycle_deg[row])
        lap.paint_bead(p, cycle.cylinder, cycle_deg, place_of(state.now, row))
        p.restore()

    def _on_tried(self) -> None:
        # A tenth of a millimetre is less than a pixel here: the lens follows the hand at once,
        # the lap some frames later.
        self.stills.forget()
        self._fresh = True
        if not self._later.isActive():
            self._later.start()

    def _move(self, p: QPainter) -> None:
        p.translate(self.centre)
        p.scale(self._factor, self._factor)

    def _angle_at(self, event: QMouseEvent) -> float:
        at = event.position() / self.look.scale - self.centre
        own = lap_angle_deg(at, sense_of(self._context.session.state.engine))
        return own + float(self._context.session.state.shown.offsets_deg[self._model.cylinder - 1])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the bead to the pointer."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._dragging = True
            self._last_deg = self._context.session.state.crank_deg
            self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The bead follows in whole degrees."""
        if event is not None and self._dragging:
            angle = float(round(self._angle_at(event)) % 720)
            by_deg = (angle - self._last_deg + 360) % 720 - 360
            self._last_deg = angle
            self._context.turner.drag_to(angle, by_deg)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let it go."""
        self._dragging = False
