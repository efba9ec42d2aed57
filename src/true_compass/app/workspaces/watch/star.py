"""A radial: the star with its true linkage, the list in firing order, and what link rods do."""

import math
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, QSizeF
from PyQt6.QtGui import QMouseEvent, QPainter, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Painted
from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.drawing.chips import chip_figure, valve_chip
from true_compass.drawing.codes import Place, flat_pen, number_disc, stroke_plate, tdc_plate
from true_compass.drawing.dials import paint_direction_arrow
from true_compass.drawing.endview import ArmScale, EndView, arms_of
from true_compass.drawing.frames import CylinderFrame
from true_compass.drawing.ring import sense_of
from true_compass.drawing.stills import Paint
from true_compass.drawing.text import CENTRE, LEFT, draw_text
from true_compass.drawing.theme import BODY, LABEL, LEAD, NOTE, Weight

DISC: Final = 17.0
ROW_HEIGHT: Final = 68.0


class StarView(Painted):
    """All cylinders of one row about the crank. Of two rows the other one is left out."""

    covers_ground = True

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.row_shown = 0
        self._scale = ArmScale(context.session.state.shown)
        self._centre, self._factor = QPointF(), 1.0
        self.setObjectName("star")
        self.setAccessibleName("Star: every cylinder of a row from the front")
        self.setMouseTracking(True)
        context.bridge.turned.connect(self.update)
        context.bridge.engine_changed.connect(self._on_engine)
        context.selection.changed.connect(self.update)

    def _on_engine(self) -> None:
        self._scale = ArmScale(self._context.session.state.shown)
        self.row_shown = 0
        self._arrange()
        self.repaint_all()

    def show_row(self, row: int) -> None:
        """Show the first or the second row of cylinders."""
        self.row_shown = row
        self.repaint_all()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Make the star as large as the room allows."""
        super().resizeEvent(event)
        self._arrange()

    @property
    def _sense(self) -> int:
        return sense_of(self._context.session.state.engine)

    def cylinders(self) -> tuple[int, ...]:
        """Numbers of the cylinders that are shown."""
        return self._context.session.state.engine.layout.on_throw(self.row_shown)

    def _bearing(self, cylinder: int) -> float:
        layout = self._context.session.state.engine.layout
        return self._sense * float(layout.bank_deg[cylinder - 1])

    def _arrange(self) -> None:
        room = min(self.logical_width, self.logical_height)
        self._factor = max((room / 2 - 2 * DISC - 8) / self._scale.crank_y, 0.1)
        self._centre = QPointF(round(self.logical_width / 2), round((self.logical_height - 12) / 2))

    def paint(self, p: QPainter) -> None:
        """Draw the blocks from their picture, then the linkage and the numbers."""
        state, theme = self._context.session.state, self.look.theme
        frames = self._context.frames()
        self.paint_whole(p, self.row_shown, self._paint_still)
        arms = arms_of(state.shown, self._scale, [frame.pose for frame in frames], self._sense)
        view = EndView(self._scale, theme, self.stills, self._factor)
        p.save()
        p.translate(self._centre)
        view.paint(p, [arms[cylinder - 1] for cylinder in self.cylinders()])
        p.restore()
        for cylinder in self.cylinders():
            at = self._disc_at(cylinder)
            place = frames[cylinder - 1].place
            strong = self._context.selection.strong == cylinder
            box = QRectF(-DISC - 4, -DISC - 4, 2 * DISC + 8, 2 * DISC + 8)

            def disc(
                q: QPainter, cylinder: int = cylinder, place: Place = place, strong: bool = strong
            ) -> None:
                number_disc(q, QPointF(0, 0), DISC, cylinder, place, theme, strong)

            self.stills.draw(p, ("disc", cylinder, place, strong), box, disc, at=at)

    def _disc_at(self, cylinder: int) -> QPointF:
        out = math.radians(self._bearing(cylinder))
        reach = self._scale.crank_y * self._factor + DISC + 6
        return self._centre + QPointF(math.sin(out), -math.cos(out)) * reach

    def _paint_still(self, p: QPainter) -> None:
        state, theme = self._context.session.state, self.look.theme
        rows = len(state.engine.layout.throws)
        words = "Seen from the front"
        if rows > 1:
            first = self.row_shown == 0
            words += ", first row (V: the other)" if first else ", second row (V: the other)"
        foot = QRectF(0, self.logical_height - 24, self.logical_width, 22)
        draw_text(p, foot, words, NOTE + 1, theme.ink2, Weight.BODY, LEFT)
        p.translate(self._centre)
        view = EndView(self._scale, theme, self.stills, self._factor)
        view.paint_still(p, [self._bearing(cylinder) for cylinder in self.cylinders()])
        p.rotate(-40 * self._sense)
        paint_direction_arrow(p, self._scale.crank_y * self._factor, theme, self._sense)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Thicken the cylinder under the pointer."""
        if event is None:
            return
        spot = event.position() / self.look.scale
        near = None
        for cylinder in self.cylinders():
            away = spot - self._disc_at(cylinder)
            if QPointF.dotProduct(away, away) < (3 * DISC) ** 2:
                near = cylinder
        self._context.selection.come_near(near)

    def leaveEvent(self, event: object) -> None:
        """Let go of it."""
        self._context.selection.come_near(None)


class FiringList(Painted):
    """Every cylinder in firing order, the next to fire first. The list rolls as the crank turns."""

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self._row_size = QSizeF()
        self.setObjectName("firing_list")
        self.setAccessibleName("Cylinders in firing order")
        context.bridge.turned.connect(self.update)
        context.bridge.engine_changed.connect(self.repaint_all)
        context.selection.changed.connect(self.update)

    def order_now(self) -> list[int]:
        """Cylinders from the one at compression TDC, or the next to come to it, on."""
        state = self._context.session.state
        due = self._context.due()
        order = list(state.engine.firing_order)
        start = order.index(due.cylinder)
        return order[start:] + order[:start]

    def paint(self, p: QPainter) -> None:
        """Draw one row a cylinder, in two columns from ten on."""
        order = self.order_now()
        columns = 1 if len(order) <= 9 else 2
        rows = -(-len(order) // columns)
        high = min((self.logical_height - 34) / rows, ROW_HEIGHT)
        wide = self.logical_width / columns
        self._row_size = QSizeF(wide - 6, high - 5)
        title = QRectF(0, 2, self.logical_width, 26)

        def write(q: QPainter) -> None:
            draw_text(q, title, "In firing order", LABEL, self.look.theme.ink, Weight.STRONG)

        self.stills.draw(p, "title", title, write, self.ground())
        for place, cylinder in enumerate(order):
            x, y = (place // rows) * wide, 34 + (place % rows) * high
            self._paint_row(p, cylinder, QRectF(QPointF(x, y), self._row_size))

    def _paint_row(self, p: QPainter, cylinder: int, box: QRectF) -> None:
        frame, theme = self._context.frame(cylinder), self.look.theme
        strong = self._context.selection.strong == cylinder
        looks = tuple((chip.free, chip.thin) for chip in frame.chips)

        def make() -> tuple[QRectF, Paint]:
            own = QRectF(0, 0, box.width(), box.height())
            return own, lambda q: self._paint_still_row(q, cylinder, frame, strong)

        key = (cylinder, frame.place, frame.pose.stroke, strong, looks)
        self.stills.draw_made(p, key, make, box.topLeft(), self.ground())
        for chip, place in zip(frame.chips, self._chip_boxes(box), strict=True):
            chip_figure(p, place, chip, theme, self.stills)

    def _chip_boxes(self, box: QRectF) -> list[QRectF]:
        left = box.left() + self._radius(box) * 2 + self._plate(box) + 16
        wide = (box.right() - left - 4) / 2
        return [QRectF(left + i * (wide + 4), box.top(), wide, box.height()) for i in (0, 1)]

    @staticmethod
    def _radius(box: QRectF) -> float:
        return min(DISC, box.height() / 2 - 3)

    @staticmethod
    def _plate(box: QRectF) -> float:
        return min(44.0, box.width() * 0.2)

    def _paint_still_row(
        self, p: QPainter, cylinder: int, frame: CylinderFrame, strong: bool
    ) -> None:
        theme, box = self.look.theme, QRectF(QPointF(0, 0), self._row_size)
        radius, middle = self._radius(box), box.height() / 2
        at = QPointF(radius + 3, middle)
        number_disc(p, at, radius, cylinder, frame.place, theme, strong)
        plate = QRectF(2 * radius + 8, middle - 15, self._plate(box), 30)
        if frame.place is Place.BETWEEN:
            stroke_plate(p, plate, frame.pose.stroke, theme)
        else:
            tdc_plate(p, plate, frame.place is Place.COMPRESSION_TDC, theme)
        for chip, place in zip(frame.chips, self._chip_boxes(box), strict=True):
            valve_chip(p, place, chip, theme)


class LinkBars(Painted):
    """How far link rods move each cylinder's TDC off its even step."""

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.setObjectName("link_bars")
        self.setAccessibleName("How link rods move each TDC")
        context.bridge.engine_changed.connect(self.repaint_all)

    def paint(self, p: QPainter) -> None:
        """Draw the title and one bar a cylinder, in firing order."""
        theme, state = self.look.theme, self._context.session.state
        away = state.shown.centres.tdc_deg
        width = self.logical_width
        head = QRectF(0, 0, width, 26)
        draw_text(p, head, "Link rods move TDC", LEAD, theme.ink, Weight.STRONG)
        rods = state.engine.layout.articulated
        masters = " and ".join(map(str, rods.masters)) if rods else ""
        words = f"Up to {abs(away).max():.1f}° off the even steps. Master rod: {masters}."
        draw_text(p, QRectF(0, 26, width, 22), words, BODY - 1, theme.ink2)
        order = state.engine.firing_order
        step = width / len(order)
        middle = 54 + (self.logical_height - 54 - 24) / 2
        most = max(float(abs(away).max()), 0.1)
        reach = middle - 54 - 20
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawLine(QPointF(0, middle), QPointF(width, middle))
        for place, cylinder in enumerate(order):
            x = (place + 0.5) * step
            value = float(away[cylinder - 1])
            bar = value / most * reach
            p.fillRect(QRectF(x - 8, middle - max(bar, 0.0), 16, max(abs(bar), 1.5)), theme.ink)
            if len(order) <= 9:
                y = middle - bar - 19 if value >= 0 else middle - bar + 1
                text = f"{value:+.1f}°".replace("-", "\u2212") if abs(value) > 0.05 else "0"
                box = QRectF(x - step / 2, y, step, 18)
                draw_text(p, box, text, NOTE, theme.ink2, Weight.BODY, CENTRE)
            foot = QRectF(x - step / 2, self.logical_height - 22, step, 20)
            draw_text(p, foot, str(cylinder), BODY, theme.ink, Weight.STRONG, CENTRE)
