"""The cycle chart under the columns; drag its cursor to turn the crank."""

from typing import Final

from PyQt6.QtCore import QEvent, QRectF, Qt
from PyQt6.QtGui import QHelpEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.hints import show_hint
from true_compass.app.widgets.look import Painted
from true_compass.app.workspaces.watch.chart_lens import ChartLens
from true_compass.app.workspaces.watch.columns import GUTTER, ColumnGrid
from true_compass.app.workspaces.watch.context import WatchContext, names_in_full
from true_compass.core.angles import CYCLE_DEG
from true_compass.drawing.chart import (
    LiftCurves,
    degrees_to_y,
    paint_axis,
    paint_cursor,
    paint_lane,
)

TOP: Final = 10.0
FOOT: Final = 10.0


class ChartView(Painted):
    """Lanes of the cycle, 0° at the top. The picture is cached; only the cursor moves."""

    covers_ground = True

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self._cursor_y = 0.0
        self._dragging = False
        self._last_deg = 0.0
        self._grabbed_y = 0.0
        self._lens = ChartLens(context, context.look)
        self.lens_on = False
        self.setObjectName("chart")
        self.setAccessibleName("Chart: strokes and valve lift of every cylinder over 720 degrees")
        self.setCursor(Qt.CursorShape.SizeVerCursor)
        context.bridge.turned.connect(self._move_cursor)
        context.bridge.engine_changed.connect(self.repaint_all)
        context.bridge.tried.connect(self.repaint_all)
        context.selection.changed.connect(self._on_selection)

    def toggle_lens(self) -> None:
        """The whole lap, or 60° about the crank."""
        self.lens_on = not self.lens_on
        self.repaint_all()

    def repaint_all(self) -> None:
        """Forget both pictures."""
        self._lens.forget()
        super().repaint_all()

    def _on_selection(self) -> None:
        if self.lens_on:
            self.update()

    @property
    def chart_height(self) -> float:
        """Height of the 720° in pixels of the design."""
        return self.logical_height - TOP - FOOT

    def paint(self, p: QPainter) -> None:
        """Draw the cached lanes and the cursor."""
        if self.lens_on:
            self.paint_whole(p, "lens", self._paint_nothing)
            self._lens.paint(p, TOP, self.logical_width, self.chart_height)
            return
        self.paint_whole(p, "lanes", self._paint_still)
        self._cursor_y = self._y_now()
        paint_cursor(p, GUTTER - 8, self.logical_width, self._cursor_y, self.look.theme)

    def _paint_nothing(self, p: QPainter) -> None:
        """The lens covers the ground itself."""

    def _y_now(self) -> float:
        return TOP + degrees_to_y(self._context.session.state.crank_deg, self.chart_height)

    def _move_cursor(self) -> None:
        if self.lens_on:
            self.update()
            return
        # Only the two strips that change: the picture of the lanes is large.
        for y in (self._cursor_y, self._y_now()):
            self.update(self.look.scaled(0, y - 12, self.logical_width, 24))

    def _paint_still(self, p: QPainter) -> None:
        p.translate(0, TOP)
        theme, rig = self.look.theme, self._context.session.state.shown
        paint_axis(p, GUTTER - 14, self.chart_height, self.logical_width, theme)
        curves = LiftCurves.of(rig).fractions.tolist()
        grid = ColumnGrid.of(self.logical_width, rig.engine)
        for row, offset_deg in enumerate(rig.offsets_deg.tolist()):
            x, width = grid.box(row)
            lane = QRectF(x, 0, width, self.chart_height)
            own = {
                valve.kind: curves[i]
                for i, valve in enumerate(rig.engine.valves)
                if valve.cylinder == row + 1
            }
            paint_lane(p, lane, offset_deg, own, theme)
        for row in grid.firsts[1:]:
            x, _ = grid.box(row)
            p.fillRect(QRectF(x - 12, 0, 1.6, self.chart_height), theme.line)

    def event(self, event: QEvent | None) -> bool:
        """Say on hover what the codes of the lane under the pointer mean."""
        if isinstance(event, QHelpEvent):
            x = event.pos().x() / self.look.scale
            engine = self._context.session.state.engine
            grid = ColumnGrid.of(self.logical_width, engine)
            for row in range(engine.cylinder_count):
                left, width = grid.box(row)
                if left <= x <= left + width:
                    show_hint(event.globalPos(), names_in_full(engine, row + 1), self)
            return True
        return super().event(event)

    def _angle_at(self, event: QMouseEvent) -> float:
        share = (event.position().y() / self.look.scale - TOP) / self.chart_height
        # The foot of the chart is 720°, which is 0°: stop just short, or the cursor leaps up.
        return min(max(share, 0.0), 1.0 - 1e-4) * CYCLE_DEG

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the cursor to the pointer."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._dragging = True
            self._last_deg = self._context.session.state.crank_deg
            self._grabbed_y = event.position().y()
            if not self.lens_on:
                self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The cursor follows the pointer in whole degrees."""
        if event is None or not self._dragging:
            return
        if self.lens_on:
            # The lap follows the hand, in quarters of a degree.
            moved = (self._grabbed_y - event.position().y()) / self.look.scale
            by_deg = round(4 * moved / ChartLens.px_per_deg(self.chart_height)) / 4
            if by_deg:
                self._grabbed_y = event.position().y()
                here = self._context.session.state.crank_deg
                self._context.turner.drag_to((here + by_deg) % CYCLE_DEG, by_deg)
        else:
            angle = float(round(self._angle_at(event)) % CYCLE_DEG)
            by_deg, self._last_deg = angle - self._last_deg, angle
            self._context.turner.drag_to(angle, by_deg)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let the cursor go."""
        self._dragging = False
