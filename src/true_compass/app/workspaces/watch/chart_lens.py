"""The lens on the cycle chart: 60° about the crank, twelve times as tall, lift four times as wide.

The whole lap is drawn once as a tall picture; turning only moves it past the cursor.
"""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPixmap

from true_compass.app.widgets.look import Look
from true_compass.app.workspaces.watch.columns import GUTTER, ColumnGrid
from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.core.angles import CYCLE_DEG, degrees_on
from true_compass.core.events import ValveEvent
from true_compass.core.state import Rig
from true_compass.drawing.chart import LiftCurves, paint_cursor, paint_lane
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import CENTRE, RIGHT, draw_text
from true_compass.drawing.theme import BODY, NOTE, Theme, Weight

SPAN_DEG: Final = 60.0
LIFT_TIMES: Final = 4.0
MAP_WIDTH: Final = 14.0
SAMPLES: Final = 1441
MOST_PLATES: Final = 8
PLATE: Final = (84.0, 38.0)


class ChartLens:
    """Paints the chart as the lens shows it."""

    def __init__(self, context: WatchContext, look: Look) -> None:
        self._context = context
        self._look = look
        self._tall: QPixmap | None = None

    def forget(self) -> None:
        """Draw the tall picture anew from now on."""
        self._tall = None

    @staticmethod
    def px_per_deg(height: float) -> float:
        """Pixels of the design for a crank degree."""
        return height / SPAN_DEG

    def paint(self, p: QPainter, top: float, width: float, height: float) -> None:
        """Draw everything into a chart of this size below `top`."""
        state, theme = self._context.session.state, self._look.theme
        tall = self._tall
        if tall is None:
            tall = self._tall = self._draw_tall(state.shown, width, height)
        scale = self._look.scale
        k = self.px_per_deg(height)
        source = QRectF(0, state.crank_deg * k * scale, width * scale, height * scale)
        p.drawPixmap(QPointF(0, top), tall, source)
        p.save()
        p.translate(0, top)
        self._axis(p, state.crank_deg, height, theme)
        self._events(p, width, height, theme)
        p.restore()
        paint_cursor(p, GUTTER - 8, width, top + height / 2, theme)

    def _draw_tall(self, rig: Rig, width: float, height: float) -> QPixmap:
        k, scale, theme = self.px_per_deg(height), self._look.scale, self._look.theme
        total = (CYCLE_DEG + SPAN_DEG) * k
        made = QPixmap(round(width * scale), round(total * scale))
        made.setDevicePixelRatio(scale)
        made.fill(theme.paper)
        p = QPainter(made)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        curves = LiftCurves.of(rig, SAMPLES).fractions.tolist()
        grid = ColumnGrid.of(width, rig.engine)
        # The picture begins half a span before 0°, so that the window never wraps.
        for turn in (-1, 0, 1):
            begins = (SPAN_DEG / 2 + turn * CYCLE_DEG) * k
            for row, offset_deg in enumerate(rig.offsets_deg.tolist()):
                x, wide = grid.box(row)
                lane = QRectF(x, begins, wide, CYCLE_DEG * k)
                own = {
                    valve.kind: curves[i]
                    for i, valve in enumerate(rig.engine.valves)
                    if valve.cylinder == row + 1
                }
                paint_lane(p, lane, offset_deg, own, theme, LIFT_TIMES)
        p.end()
        return made

    def _axis(self, p: QPainter, crank_deg: float, height: float, theme: Theme) -> None:
        k = self.px_per_deg(height)
        first = int((crank_deg - SPAN_DEG / 2) // 10) * 10
        for degrees in range(first, first + int(SPAN_DEG) + 20, 10):
            y = height / 2 + (degrees - crank_deg) * k
            if not 8 <= y <= height - 8 or abs(y - height / 2) < 12:
                continue
            box = QRectF(MAP_WIDTH + 4, y - 10, GUTTER - MAP_WIDTH - 18, 20)
            draw_text(p, box, f"{degrees % 720}°", NOTE, theme.ink, align=RIGHT)
        bar = QRectF(2, 0, MAP_WIDTH, height)
        rounded(p, bar, 2, theme.sheet, flat_pen(theme.ink2, 1.4))
        # Where the lens stands in the lap; it may reach over the end.
        for turn in (-1, 0, 1):
            middle = (crank_deg / CYCLE_DEG + turn) * height
            half = SPAN_DEG / CYCLE_DEG / 2 * height
            part = QRectF(bar.left(), middle - half, MAP_WIDTH, 2 * half).intersected(bar)
            if part.height() > 0:
                p.fillRect(part, theme.now)

    def _events(self, p: QPainter, width: float, height: float, theme: Theme) -> None:
        session = self._context.session
        engine, k = session.state.engine, self.px_per_deg(height)
        grid = ColumnGrid.of(width, engine)
        strong = self._context.selection.strong
        for event in session.valve_events:
            on_deg = degrees_on(event.crank_deg + 360.0, session.state.crank_deg) - 360.0
            if abs(on_deg) >= SPAN_DEG / 2:
                continue
            cylinder = event.valve.cylinder
            x, wide = grid.box(cylinder - 1)
            y = height / 2 + on_deg * k
            p.setPen(flat_pen(theme.sheet, 4))
            p.drawLine(QPointF(x, y), QPointF(x + wide, y))
            p.setPen(flat_pen(theme.ink, 2))
            p.drawLine(QPointF(x, y), QPointF(x + wide, y))
            self._plate(p, event, on_deg, QRectF(x, y, wide, 0), height, strong == cylinder)

    def _plate(
        self, p: QPainter, event: ValveEvent, on_deg: float, at: QRectF, height: float, strong: bool
    ) -> None:
        theme = self._look.theme
        if self._context.session.state.engine.cylinder_count > MOST_PLATES and not strong:
            letter = QRectF(at.left(), at.top() - 9, 18, 18)
            rounded(p, letter, 3, theme.sheet, flat_pen(theme.ink, 1.4))
            draw_text(p, letter, event.valve.kind.letter, NOTE, theme.ink, Weight.STRONG, CENTRE)
            return
        wide, high = min(PLATE[0], at.width()), PLATE[1]
        # Away from the cursor, so that the line of the crank stays free.
        below = on_deg >= 0
        y = at.top() + 3 if below else at.top() - high - 3
        y = min(max(y, 1.0), height - high - 1)
        plate = QRectF(at.center().x() - wide / 2, y, wide, high)
        rounded(p, plate, 4, theme.sheet, flat_pen(theme.ink, 1.6))
        way = f"{on_deg:.1f}° on" if below else f"{-on_deg:.1f}° back"
        if abs(on_deg) < 0.05:
            way = "here"
        top = plate.adjusted(2, 1, -2, -high / 2)
        draw_text(p, top, event.words, BODY - 1, theme.ink, Weight.STRONG, CENTRE)
        foot = plate.adjusted(2, high / 2 - 1, -2, -1)
        draw_text(p, foot, way, BODY - 1, theme.ink, Weight.BODY, CENTRE)
