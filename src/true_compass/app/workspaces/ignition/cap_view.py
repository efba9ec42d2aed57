"""The cap between its plugs on the screen: the base of the maps of leads and of fitting."""

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.drawing.cap import CapPainter
from true_compass.drawing.cap_map import CapMap


class CapView(PageView):
    """Gives the map of the cap, once for painting and for pressing."""

    covers_ground = True

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.model = model
        self._map: tuple[tuple[object, ...], CapMap] | None = None
        model.changed.connect(self.refresh)
        model.dragged.connect(self.update)
        model.desk.bridge.turned.connect(self._on_turned)

    def _on_turned(self) -> None:
        if self.isVisible():
            self.update()

    @property
    def map(self) -> CapMap:
        """Where everything lies."""
        engine, fitted = self.model.engine, self.model.standing.fitted
        box = QRectF(0, 0, self.logical_width, self.logical_height)
        key = (id(engine), fitted, box.width(), box.height())
        if self._map is None or self._map[0] != key:
            self._map = (key, CapMap.of(engine, fitted, box))
        return self._map[1]

    @property
    def painter(self) -> CapPainter:
        """What paints it in the theme of now."""
        return CapPainter(self.look.theme, self.map, self.stills)

    @property
    def rotor_deg(self) -> float:
        """Where the rotor points now."""
        return self.map.rotor_deg(self.model.desk.session.state.crank_deg)

    def at(self, event: QMouseEvent) -> QPointF:
        """Where a pointer is, in pixels of the design."""
        return event.position() / self.look.scale
