"""The cap between its plugs on the screen: the base of the maps of leads and of fitting."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPolygonF
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.drawing.cap import CapPainter
from true_compass.drawing.cap_map import CapMap
from true_compass.drawing.text import draw_text
from true_compass.drawing.theme import BODY, Weight


class CapView(PageView):
    """Gives the map of the cap, once for painting and for pressing."""

    covers_ground = True

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.model = model
        self._map: CapMap | None = None
        self._map_box = QRectF()
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
        known = self._map
        if (
            known is None
            or known.engine is not engine
            or (known.fitted, self._map_box) != (fitted, box)
        ):
            known = self._map = CapMap.of(engine, fitted, box)
            self._map_box = box
        return known

    @property
    def painter(self) -> CapPainter:
        """What paints it in the theme of now."""
        return CapPainter(self.look.theme, self.map, self.stills)

    @property
    def rotor_deg(self) -> float:
        """Where the rotor points now."""
        return self.map.rotor_deg(self.model.desk.session.state.crank_deg)

    def paint_front(self, p: QPainter) -> None:
        """Where the engine's front is, at the left of the cap's middle."""
        theme, tip = self.look.theme, QPointF(0, self.map.centre.y())
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(12, -8), tip + QPointF(12, 8)]))
        box = QRectF(18, tip.y() - 12, 90, 24)
        draw_text(p, box, "Front", BODY, theme.ink, Weight.STRONG)

    def at(self, event: QMouseEvent) -> QPointF:
        """Where a pointer is, in pixels of the design."""
        return event.position() / self.look.scale
