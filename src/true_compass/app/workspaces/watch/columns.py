"""The cylinders side by side: number, stroke, section and valve chips, one column each."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QEnterEvent, QFocusEvent, QHelpEvent, QMouseEvent, QPainter, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.hints import show_hint
from true_compass.app.widgets.look import Painted
from true_compass.app.workspaces.watch.context import WatchContext, strokes_in_words
from true_compass.core.engine import Engine
from true_compass.core.rotation import End
from true_compass.core.strokes import Stroke
from true_compass.drawing.chips import Chip, chip_figure, valve_chip
from true_compass.drawing.codes import Place, number_disc, stroke_plate, tdc_plate
from true_compass.drawing.frames import CylinderFrame
from true_compass.drawing.ring import sense_of
from true_compass.drawing.section import (
    BORE,
    HEIGHT,
    WALL,
    Section,
    SectionScale,
)
from true_compass.drawing.text import draw_one_of
from true_compass.drawing.theme import NOTE, Weight

GUTTER: Final = 72.0
WIDEST_PITCH: Final = 240.0
BANK_GAP: Final = 18.0
WIDEST_PLATE: Final = 180.0
HEAD_HEIGHT: Final = 72.0
CHIP_HEIGHT: Final = 52.0
LEAST_SECTION: Final = 0.3
SIDE_BY_SIDE: Final = 100.0
"""Least width of a column for two chips beside each other."""


@dataclass(frozen=True, slots=True)
class ColumnGrid:
    """Where the columns stand: shared by the columns and the chart below them."""

    left: float
    pitch: float
    breaks: tuple[int, ...] = ()
    """Rows before which a bank begins."""
    places: tuple[int, ...] = ()
    """Where the column of each row stands, from the left, where the front of the engine is."""

    @staticmethod
    def of(width: float, engine: Engine, gutter: float = GUTTER) -> "ColumnGrid":
        """Spread columns over a width, right of a gutter; few columns stand in the middle.

        Banks whose numbers run along them are set apart.
        """
        count = engine.cylinder_count
        banks = [seat.bank for seat in engine.layout.seats]
        changes = tuple(row for row in range(1, count) if banks[row] != banks[row - 1])
        breaks = changes if len(changes) < len(set(banks)) <= 4 else ()
        room = width - gutter - BANK_GAP * len(breaks)
        pitch = min(room / count, WIDEST_PITCH)
        places = column_places(count, breaks, engine.cylinder_1_at is End.REAR)
        return ColumnGrid(gutter + (room - pitch * count) / 2, pitch, breaks, places)

    def box(self, row: int) -> tuple[float, float]:
        """Left edge and width of a column, less the gap."""
        gap = 6.0 if self.pitch > 80 else 3.0
        banks = sum(1 for first in self.breaks if first <= row)
        place = self.places[row]
        return self.left + place * self.pitch + banks * BANK_GAP + gap / 2, self.pitch - gap

    @property
    def firsts(self) -> list[int]:
        """The row that stands first, from the left, in each bank that is set apart."""
        begins = (0, *self.breaks, len(self.places))
        blocks = pairwise(begins) if self.breaks else ()
        return [min(range(a, b), key=lambda row: self.places[row]) for a, b in blocks]


def column_places(count: int, breaks: tuple[int, ...], from_rear: bool) -> tuple[int, ...]:
    """Place of each row from the left; counted from the rear, each bank stands the other way."""
    if not from_rear:
        return tuple(range(count))
    begins = (0, *breaks, count)
    return tuple(a + b - 1 - row for a, b in pairwise(begins) for row in range(a, b))


class CylinderColumn(Painted):
    """One cylinder. In a low column the section steps back, in a narrow one the chips stack."""

    covers_ground = True

    def __init__(self, context: WatchContext, cylinder: int, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.stills = context.column_stills
        self.cylinder = cylinder
        self.bank_name = ""
        """Written on the first column of a bank that is set apart."""
        self._scale = SectionScale.of(context.session.state.engine)
        self._boxes: list[QRectF] = []
        self._factor = 0.0
        self._head_shown: tuple[Place, Stroke] | None = None
        self._section_at = QPointF()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Cylinder {cylinder}")
        context.bridge.turned.connect(self._on_turned)
        context.selection.changed.connect(self.update)

    @property
    def stacked(self) -> bool:
        """Whether the chips stand one above the other, intake on top."""
        return self.logical_width < SIDE_BY_SIDE

    def chip_boxes(self) -> list[QRectF]:
        """Where the chips are, intake first, in pixels of the design; none in a low column."""
        width, foot = self.logical_width, self.logical_height
        if foot < HEAD_HEIGHT + CHIP_HEIGHT:
            return []
        if self.stacked:
            step = CHIP_HEIGHT + 5
            return [QRectF(0, foot - i * step + 5, width, CHIP_HEIGHT) for i in (2, 1)]
        half = (min(width, WIDEST_PLATE) - 6) / 2
        left = width / 2 - half - 3
        return [
            QRectF(left + i * (half + 6), foot - CHIP_HEIGHT, half, CHIP_HEIGHT) for i in (0, 1)
        ]

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Find the places of the parts."""
        super().resizeEvent(event)
        self._boxes = self.chip_boxes()
        width = self.logical_width
        room = self._boxes[0].top() - 80 if self._boxes else 0.0
        factor = min(room / HEIGHT, width / (BORE + 2 * WALL + 8))
        # Pictures are drawn fastest, and sharpest, at exactly their own size.
        self._factor = 1.0 if 0.95 < factor < 1.05 else factor
        self._section_at = QPointF(round(width / 2), round(76 + room - HEIGHT * self._factor))

    def paint(self, p: QPainter) -> None:
        """Draw the column from top to foot."""
        frame, theme = self._context.frame(self.cylinder), self.look.theme
        sense = sense_of(self._context.session.state.engine)
        section = Section(self._scale, theme, self.stills, sense)
        strong = self._context.selection.strong == self.cylinder

        def still(q: QPainter) -> None:
            self._paint_head(q, frame, strong)
            for chip, box in zip(frame.chips, self._boxes, strict=False):
                valve_chip(q, box, chip, theme)
            self._move_to_section(q)
            section.paint_still(q, frame.pose)

        self._head_shown = (frame.place, frame.pose.stroke)
        chips = tuple((chip.free, chip.thin) for chip in frame.chips)
        look = (self._head_shown, frame.pose.shut, chips, strong)
        key = (self.cylinder, self.width(), self.bank_name, look)
        self.paint_whole(p, key, still)
        for chip, box in zip(frame.chips, self._boxes, strict=False):
            chip_figure(p, box, chip, theme, self.stills)
        if self._factor >= LEAST_SECTION:
            p.save()
            self._move_to_section(p)
            section.paint(p, frame.pose)
            p.restore()

    def retire(self) -> None:
        """Another engine is open: this column hears no more of turning."""
        self._context.bridge.turned.disconnect(self._on_turned)

    def _on_turned(self) -> None:
        if not self.isVisible():
            return
        frame = self._context.frame(self.cylinder)
        if self._head_shown == (frame.place, frame.pose.stroke):
            room = self.logical_height - HEAD_HEIGHT
            self.update(self.look.scaled(0, HEAD_HEIGHT, self.logical_width, room))
        else:
            self.update()

    def _move_to_section(self, p: QPainter) -> None:
        p.translate(self._section_at)
        if self._factor != 1.0:
            p.scale(self._factor, self._factor)

    def _paint_head(self, p: QPainter, frame: CylinderFrame, strong: bool) -> None:
        theme, width, place = self.look.theme, self.logical_width, frame.place
        if self.bank_name:
            name = QRectF(0, 2, width / 2 - 18, 20)
            draw_one_of(p, name, [self.bank_name], NOTE, theme.ink2, Weight.STRONG)
        radius = min(17.0, width / 2 - 3)
        number_disc(p, QPointF(width / 2, 20), radius, self.cylinder, place, theme, strong)
        wide = min(width, WIDEST_PLATE)
        plate = QRectF((width - wide) / 2, 43, wide, 26)
        if place is Place.BETWEEN:
            stroke_plate(p, plate, frame.pose.stroke, theme)
        else:
            tdc_plate(p, plate, place is Place.COMPRESSION_TDC, theme)

    def chip_under(self, at: QPointF) -> Chip | None:
        """The chip at a point of the widget, if any."""
        spot = at / self.look.scale
        chips = self._context.frame(self.cylinder).chips
        for chip, box in zip(chips, self._boxes, strict=False):
            if box.contains(spot):
                return chip
        return None

    def event(self, event: object) -> bool:
        """Say a chip's whole meaning on hover."""
        if isinstance(event, QHelpEvent):
            chip = self.chip_under(QPointF(event.pos()))
            words = chip.sentence if chip else strokes_in_words(self._context, self.cylinder)
            show_hint(event.globalPos(), words, self)
            return True
        return super().event(event)  # type: ignore[arg-type]

    def enterEvent(self, event: QEnterEvent | None) -> None:
        """Thicken this cylinder everywhere."""
        self._context.selection.come_near(self.cylinder)

    def leaveEvent(self, event: object) -> None:
        """Let go of it."""
        self._context.selection.come_near(None)

    def text_twin(self) -> str:
        """The stroke of this cylinder and its valves."""
        return strokes_in_words(self._context, self.cylinder)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """The keyboard counts as a pointer."""
        self._context.selection.come_near(self.cylinder)
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """The keyboard has gone on."""
        self._context.selection.come_near(None)
        super().focusOutEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Pin the cylinder, or let it go."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._context.selection.pin(self.cylinder)
