"""The end view of a V, a flat or a W: one cell a throw, front first, each with its true angles."""

from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPen, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.hints import show_hint
from true_compass.app.widgets.look import Painted
from true_compass.app.workspaces.watch.context import WatchContext, strokes_in_words
from true_compass.drawing.chips import chip_figure, valve_chip
from true_compass.drawing.codes import Place, number_disc, rounded, stroke_plate, tdc_plate
from true_compass.drawing.endview import ArmScale, EndView, arms_of
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import CENTRE, draw_text
from true_compass.drawing.theme import NOTE, Weight

HEADER: Final = 62.0
GAP: Final = 10.0
CHIP: Final = (55.0, 50.0)
MOST_FACTOR: Final = 1.8
FULL_CELL: Final = 330.0


@dataclass(frozen=True, slots=True)
class Cell:
    """One throw: its box, its cylinders, the crank's centre and the scale within it."""

    box: QRectF
    cylinders: tuple[int, ...]
    centre: QPointF
    factor: float


class CellsView(Painted):
    """All cells. Hovering a cylinder thickens it everywhere."""

    covers_ground = True

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self._cells: list[Cell] = []
        self._scale = ArmScale(context.session.state.shown)
        self.setObjectName("cells")
        self.setAccessibleName("End view: every throw from the front")
        self.setMouseTracking(True)
        context.bridge.turned.connect(self.update)
        context.bridge.engine_changed.connect(self._on_engine)
        context.selection.changed.connect(self.update)

    def _on_engine(self) -> None:
        self._scale = ArmScale(self._context.session.state.shown)
        self._arrange()
        self.repaint_all()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Find the grid that draws the largest cylinders."""
        super().resizeEvent(event)
        self._arrange()

    @property
    def _sense(self) -> int:
        return sense_of(self._context.session.state.engine)

    def _groups(self) -> list[tuple[int, ...]]:
        """Cylinders abreast: the first of each bank, the second of each, …"""
        layout = self._context.session.state.engine.layout
        banks = [layout.on_bank(bank) for bank in range(len(layout.banks))]
        # Left to right as seen, so that numbers stand above their own bank.
        banks.sort(key=lambda row: self._sense * float(layout.bank_deg[row[0] - 1]) if row else 0.0)
        longest = max(len(bank) for bank in banks)
        return [tuple(b[place] for b in banks if place < len(b)) for place in range(longest)]

    def _arrange(self) -> None:
        groups = self._groups()
        layout = self._context.session.state.engine.layout
        bearings = [self._sense * float(layout.bank_deg[c - 1]) for c in groups[0]]
        extent = self._scale.extent(bearings)
        best: list[Cell] = []
        for columns in (1, 2, 3, 4):
            rows = -(-len(groups) // columns)
            if columns > len(groups):
                continue
            wide = (self.logical_width - GAP * (columns - 1)) / columns
            high = (self.logical_height - GAP * (rows - 1)) / rows
            narrow = wide < FULL_CELL
            top = 44.0 if narrow else HEADER
            # In a wide cell the chips stand in the corners, beside the crank.
            flat = max(abs(bearing) for bearing in bearings) > 75
            # Three banks have one over the crank, whose chips stand under it.
            foot = CHIP[1] + 12 if narrow or flat or len(bearings) > 2 else 12.0
            room = QRectF(10, top, wide - 20, high - top - foot)
            factor = min(
                room.width() / extent.width(), room.height() / extent.height(), MOST_FACTOR
            )
            if best and factor <= best[0].factor:
                continue
            best = []
            for i, group in enumerate(groups):
                box = QRectF(
                    (i % columns) * (wide + GAP), (i // columns) * (high + GAP), wide, high
                )
                middle = box.topLeft() + room.center()
                centre = middle - extent.center() * factor
                best.append(Cell(box, group, QPointF(round(centre.x()), round(centre.y())), factor))
        self._cells = best

    def _ends(self, cell: Cell) -> list[tuple[int, QRectF, list[QRectF]]]:
        """For each cylinder of a cell: header box, and the boxes of its two chips."""
        count = len(cell.cylinders)
        each = cell.box.width() / count
        wide, high = min(CHIP[0], (each - 14) / 2), CHIP[1]
        found = []
        for place, cylinder in enumerate(cell.cylinders):
            left = cell.box.left() + place * each
            head = QRectF(left + 8, cell.box.top() + 8, each - 16, 30)
            at_right = place >= count / 2 and count > 1
            x = left + each - 2 * wide - 12 if at_right else left + 8
            if count == 3 and place == 1:
                x = left + each / 2 - wide - 2
            y = cell.box.bottom() - high - 8
            found.append(
                (cylinder, head, [QRectF(x + i * (wide + 4), y, wide, high) for i in (0, 1)])
            )
        return found

    def paint(self, p: QPainter) -> None:
        """Draw what stands still from its picture, then every cell."""
        state, theme = self._context.session.state, self.look.theme
        frames = self._context.frames()
        arms = arms_of(state.shown, self._scale, [frame.pose for frame in frames], self._sense)
        self.paint_whole(p, "cells", self._paint_still)
        for cell in self._cells:
            view = EndView(self._scale, theme, self.stills, cell.factor)
            p.save()
            p.translate(cell.centre)
            view.paint(p, [arms[cylinder - 1] for cylinder in cell.cylinders])
            p.restore()
            for cylinder, head, boxes in self._ends(cell):
                self._paint_words(p, cylinder, head, boxes)

    def _paint_still(self, p: QPainter) -> None:
        state, theme = self._context.session.state, self.look.theme
        layout = state.engine.layout
        for number, cell in enumerate(self._cells):
            rounded(p, cell.box, 6, theme.sheet, QPen(theme.hair, 1.4))
            p.save()
            p.translate(cell.centre)
            view = EndView(self._scale, theme, self.stills, cell.factor)
            bearings = [self._sense * float(layout.bank_deg[c - 1]) for c in cell.cylinders]
            view.paint_still(p, bearings)
            p.restore()
            where = QRectF(cell.box.left(), cell.box.top() + 40, cell.box.width(), 22)
            if cell.box.width() >= FULL_CELL:
                last = len(self._cells) - 1
                end = ", front end" if number == 0 else ", rear end" if number == last else ""
                words = f"Throw {number + 1}{end}"
                draw_text(p, where, words, NOTE + 1, theme.ink2, Weight.LABEL, CENTRE)

    def _paint_words(self, p: QPainter, cylinder: int, head: QRectF, boxes: list[QRectF]) -> None:
        frame, theme = self._context.frame(cylinder), self.look.theme
        strong = self._context.selection.strong == cylinder
        chips = tuple((chip.free, chip.thin) for chip in frame.chips)

        def words(q: QPainter) -> None:
            at_right = head.center().x() > self._box_of(cylinder).center().x()
            x = head.right() - 15 if at_right else head.left() + 15
            number_disc(q, QPointF(x, head.center().y()), 15, cylinder, frame.place, theme, strong)
            wide = min(head.width() - 38, 128.0)
            plate = QRectF(head.left() + 36, head.top() + 2, wide, 26)
            if at_right:
                plate.moveRight(head.right() - 36)
            if frame.place is Place.BETWEEN:
                stroke_plate(q, plate, frame.pose.stroke, theme)
            else:
                tdc_plate(q, plate, frame.place is Place.COMPRESSION_TDC, theme)
            for chip, box in zip(frame.chips, boxes, strict=True):
                valve_chip(q, box, chip, theme)

        area = head.united(boxes[0]).united(boxes[1])
        key = (cylinder, frame.place, frame.pose.stroke, strong, chips)
        self.stills.draw(p, key, area.adjusted(-3, -3, 3, 3), words)
        for chip, box in zip(frame.chips, boxes, strict=True):
            chip_figure(p, box, chip, theme, self.stills)

    def _box_of(self, cylinder: int) -> QRectF:
        return next(cell.box for cell in self._cells if cylinder in cell.cylinders)

    def cylinder_under(self, at: QPointF) -> int | None:
        """The cylinder in whose part of a cell a point lies."""
        spot = at / self.look.scale
        for cell in self._cells:
            if cell.box.contains(spot):
                place = int((spot.x() - cell.box.left()) / cell.box.width() * len(cell.cylinders))
                return cell.cylinders[min(place, len(cell.cylinders) - 1)]
        return None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Thicken the cylinder under the pointer."""
        if event is not None:
            self._context.selection.come_near(self.cylinder_under(event.position()))

    def leaveEvent(self, event: object) -> None:
        """Let go of it."""
        self._context.selection.come_near(None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Pin the cylinder, or let it go."""
        cylinder = self.cylinder_under(event.position()) if event is not None else None
        if (
            cylinder is not None
            and event is not None
            and event.button() == Qt.MouseButton.LeftButton
        ):
            self._context.selection.pin(cylinder)

    def event(self, event: object) -> bool:
        """Say a cylinder in words on hover."""
        if isinstance(event, QHelpEvent):
            cylinder = self.cylinder_under(QPointF(event.pos()))
            words = strokes_in_words(self._context, cylinder) if cylinder else ""
            show_hint(event.globalPos(), words, self)
            return True
        return super().event(event)  # type: ignore[arg-type]
