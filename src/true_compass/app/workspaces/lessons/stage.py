"""The live engine of a lesson: its ring, and its cylinders with what may be ticked below them.

What a question covers is drawn plain: a ring with "?", gas without texture, shut valves.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import Enum
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.turner import Turner
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.widgets.stepping import up_or_down
from true_compass.app.widgets.wheel import WheelNotches
from true_compass.app.workspaces.lessons.ring_face import RingFace
from true_compass.core.adjusting.stops import whole_degrees
from true_compass.core.angles import CYCLE_DEG
from true_compass.core.items import Item, Kind, item_named
from true_compass.core.state import Rig
from true_compass.drawing.chips import lift_words
from true_compass.drawing.codes import (
    Place,
    flat_pen,
    number_disc,
    paint_cross,
    paint_tick,
    rounded,
    stroke_plate,
    tdc_plate,
)
from true_compass.drawing.frames import CylinderFrame, cylinder_frames
from true_compass.drawing.ring import (
    OUTER,
    lap_angle_deg,
    sense_of,
)
from true_compass.drawing.section import BORE, HEIGHT, WALL, Section, SectionScale
from true_compass.drawing.text import CENTRE, draw_centred, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight
from true_compass.lessons.drill import Cover
from true_compass.session.session import Session

RING_WIDE: Final = 250.0
WIDEST: Final = 190.0
HEAD_HIGH: Final = 74.0
CHIP_HIGH: Final = 52.0
LOW_CHIP: Final = 30.0
MARK_HIGH: Final = 24.0
WHEEL_DEG: Final = 5.0
LEAST_FACTOR: Final = 0.3


class Ticking(Enum):
    """What a press on a chip means."""

    NOTHING = "nothing"
    TICK = "tick"
    STOPS = "stops"


@dataclass(frozen=True, slots=True)
class Showing:
    """What the stage shows beside the engine itself.

    `marks` are what was said of each item after judging: `right`, `wrong`, `left out`. `ticked` has
    the stop of an item, 1 or 2, or 1 where it is only ticked.
    """

    covers: frozenset[Cover] = frozenset()
    ticking: Ticking = Ticking.NOTHING
    ticked: Mapping[str, int] = field(default_factory=dict)
    marks: Mapping[str, str] = field(default_factory=dict)
    framed: tuple[int, ...] = ()
    figures: bool = False
    chips: bool = False


NOTHING: Final = Showing()


class Stage(Painted):
    """Shows a rig at a crank angle. Drag the ring, or use the wheel, to turn it; press a chip."""

    pressed = pyqtSignal(str)

    def __init__(self, look: Look, session: Session, turner: Turner, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._session = session
        self._turner = turner
        self.showing = NOTHING
        self._grab_deg: float | None = None
        self._hand_deg = 0.0
        self._wheel = WheelNotches()
        self._face = RingFace(look, self.stills)
        self._frames_of: object = None
        self._frames: list[CylinderFrame] = []
        self.setObjectName("lesson_engine")
        self.setAccessibleName("The engine of this lesson")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._near = ""

    def show_this(self, showing: Showing) -> None:
        """Cover, mark and tick."""
        if showing != self.showing:
            self.showing = showing
            self.update()

    # Where things are -------------------------------------------------------------------------

    @property
    def rig(self) -> Rig:
        """The engine."""
        return self._session.state.rig

    def frames(self) -> list[CylinderFrame]:
        """What every cylinder shows now."""
        state = self._session.state
        if self._frames_of is not state:
            self._frames_of, self._frames = state, cylinder_frames(state.rig, state.now)
        return self._frames

    def ring_box(self) -> QRectF:
        """Where the ring stands; empty in a narrow stage."""
        if self.logical_width < 760:
            return QRectF()
        return QRectF(0, 0, RING_WIDE, min(self.logical_height, RING_WIDE + 40))

    def column(self, row: int) -> QRectF:
        """The column of a cylinder."""
        count = self.rig.engine.cylinder_count
        left = self.ring_box().width() + (16 if self.ring_box().width() else 0)
        room = self.logical_width - left
        wide = min(room / count, WIDEST)
        start = left + (room - wide * count) / 2
        gap = 6.0 if wide > 80 else 3.0
        return QRectF(start + row * wide + gap / 2, 0, wide - gap, self.logical_height)

    def chip_boxes(self, row: int) -> dict[str, QRectF]:
        """Where the items of a cylinder can be ticked, by name."""
        names = [n for n in self.rig.item_names if item_named(n).cylinder == row + 1]
        if not self.showing.chips or not names:
            return {}
        box = self.column(row)
        foot = box.bottom() - MARK_HIGH - 4
        side = [n for n in names if n in _pair(row + 1)]
        more = [n for n in names if n not in side]
        found: dict[str, QRectF] = {}
        for name in reversed(more):
            foot -= LOW_CHIP + 4
            found[name] = QRectF(box.left(), foot, box.width(), LOW_CHIP)
        if box.width() >= 100 and len(side) == 2:
            # Inside the frame that a wrong answer puts round the cylinder.
            half = (min(box.width() - 10, 160.0) - 6) / 2
            middle = box.center().x()
            top = foot - CHIP_HIGH - 2
            found[side[0]] = QRectF(middle - half - 3, top, half, CHIP_HIGH)
            found[side[1]] = QRectF(middle + 3, top, half, CHIP_HIGH)
        else:
            for name in reversed(side):
                foot -= CHIP_HIGH + 4
                found[name] = QRectF(box.left(), foot, box.width(), CHIP_HIGH)
        return found

    def _section_at(self, row: int) -> tuple[QPointF, float]:
        box, chips = self.column(row), self.chip_boxes(row)
        foot = min((chip.top() for chip in chips.values()), default=box.bottom()) - 6
        room = foot - HEAD_HIGH
        factor = min(room / HEIGHT, box.width() / (BORE + 2 * WALL + 8))
        return QPointF(box.center().x(), HEAD_HIGH + room - HEIGHT * factor), factor

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Ring, columns, chips."""
        frames = self.frames()
        self.paint_whole(p, self._still_key(frames), self._paint_still)
        if self.ring_box().width():
            self._paint_card(p)
        covered = self.showing.covers
        section = self._section()
        for row, frame in enumerate(frames):
            at, factor = self._section_at(row)
            if factor < LEAST_FACTOR:
                continue
            p.save()
            p.translate(at)
            p.scale(factor, factor)
            self._paint_moving(p, section, frame, covered)
            p.restore()
            self._paint_figures(p, row, frame)

    def _section(self) -> Section:
        engine = self.rig.engine
        scale = SectionScale.of(engine)
        return Section(scale, self.look.theme, self.stills, sense_of(engine))

    def _still_key(self, frames: list[CylinderFrame]) -> tuple[object, ...]:
        shown = self.showing
        heads = tuple((frame.place, frame.pose.stroke, frame.pose.shut) for frame in frames)
        free: tuple[object, ...] = ()
        if shown.figures:
            free = tuple(chip.free for frame in frames for chip in frame.chips)
        ticks = tuple(shown.ticked.items()), tuple(shown.marks.items())
        words = (shown.covers, shown.ticking, ticks, shown.framed, shown.figures, shown.chips)
        return (id(self.rig), heads, free, words)

    def _paint_moving(
        self, p: QPainter, section: Section, frame: CylinderFrame, covers: frozenset[Cover]
    ) -> None:
        pose = frame.pose
        if Cover.VALVES in covers:
            pose = replace(pose, intake_lift=0.0, exhaust_lift=0.0)
        if Cover.STROKES in covers:
            section.paint_bare(p, pose)
        else:
            section.paint(p, pose)

    def _paint_still(self, p: QPainter) -> None:
        self._paint_ring_ground(p)
        section = self._section()
        for row, frame in enumerate(self.frames()):
            self._paint_column(p, row, frame, section)

    def _paint_ring_ground(self, p: QPainter) -> None:
        box, theme = self.ring_box(), self.look.theme
        if not box.width():
            return
        centre, factor = self._ring()
        self._face.paint_ground(p, centre, factor, self._session.state, self.showing.covers)
        order = QRectF(box.left(), centre.y() + OUTER * factor + 16, box.width(), 30)
        words = self.rig.engine.order_text
        if Cover.RING in self.showing.covers:
            draw_text(p, order, "the ring is covered", BODY, theme.ink2, Weight.LABEL, CENTRE)
        else:
            draw_one_of(p, order, (words,), LABEL, theme.ink, Weight.STRONG, CENTRE)
        name = order.translated(0, 28)
        if name.bottom() <= self.logical_height:
            draw_one_of(p, name, (self.rig.engine.name,), BODY, theme.ink2, Weight.BODY, CENTRE)

    def _ring(self) -> tuple[QPointF, float]:
        box = self.ring_box()
        factor = min((box.width() - 8) / 2 / (OUTER + 16), (box.height() - 44) / 2 / (OUTER + 16))
        radius = (OUTER + 16) * factor
        return QPointF(box.center().x(), radius + 2), factor

    def _paint_card(self, p: QPainter) -> None:
        self._face.paint_card(p, *self._ring(), self._session.state, self.showing.covers)

    def _paint_column(self, p: QPainter, row: int, frame: CylinderFrame, section: Section) -> None:
        theme, box, covers = self.look.theme, self.column(row), self.showing.covers
        if row + 1 in self.showing.framed:
            inside = box.adjusted(1.5, 1.5, -1.5, -1.5)
            rounded(p, inside, 5, theme.now_tint, QPen(theme.now, 3))
        hidden = Cover.STROKES in covers
        place = Place.BETWEEN if hidden else frame.place
        radius = min(18.0, box.width() / 2 - 3)
        number_disc(p, QPointF(box.center().x(), 24), radius, row + 1, place, theme, False)
        wide = min(box.width() - 8, 150.0)
        plate = QRectF(box.center().x() - wide / 2, 46, wide, 26)
        if hidden:
            rounded(p, plate, 4, theme.well, flat_pen(theme.line, 1.4))
            draw_text(p, plate, "?", LABEL, theme.ink2, Weight.STRONG, CENTRE)
        elif place is Place.BETWEEN:
            stroke_plate(p, plate, frame.pose.stroke, theme)
        else:
            tdc_plate(p, plate, place is Place.COMPRESSION_TDC, theme)
        at, factor = self._section_at(row)
        if factor >= LEAST_FACTOR:
            p.save()
            p.translate(at)
            p.scale(factor, factor)
            pose = frame.pose
            if Cover.VALVES in covers:
                pose = replace(pose, intake_lift=0.0, exhaust_lift=0.0)
            section.paint_still(p, pose)
            p.restore()
        for name, chip in self.chip_boxes(row).items():
            self._paint_chip(p, name, chip)

    def _paint_chip(self, p: QPainter, name: str, box: QRectF) -> None:
        theme, showing = self.look.theme, self.showing
        item, ticked = item_named(name), showing.ticked.get(name, 0)
        filled = bool(ticked)
        if showing.marks or showing.figures:
            filled = self._is_free(item)
        radius = box.height() * 0.3 if item.rounded else 2.0
        quiet = bool(showing.marks) and name not in showing.marks
        edge = theme.hair if quiet else theme.ink
        rounded(p, box, radius, theme.ink if filled else theme.sheet, flat_pen(edge, 2.0))
        colour = theme.on_ink if filled else theme.ink3 if quiet else theme.ink
        low = box.height() < 40 or not (showing.figures or showing.ticking is Ticking.STOPS)
        name_box = box.adjusted(3, 0, -3, 0) if low else box.adjusted(3, 3, -3, -box.height() / 2)
        draw_text(p, name_box, name, LABEL + 1, colour, Weight.STRONG, CENTRE)
        if showing.ticking is Ticking.STOPS and not showing.figures and box.height() >= 40:
            foot = box.adjusted(3, box.height() / 2, -3, -3)
            words = f"stop {ticked}" if ticked else "–"
            draw_one_of(p, foot, (words, str(ticked or "–")), NOTE, colour, Weight.LABEL, CENTRE)
        self._paint_mark(p, name, box)

    def _paint_mark(self, p: QPainter, name: str, box: QRectF) -> None:
        """What was said of an item: a tick, a cross, or in words that it was left out."""
        theme, mark = self.look.theme, self.showing.marks.get(name)
        if mark is None:
            return
        stacked = self.column(self._row_of(name)).width() < 100
        at = QPointF(box.center().x(), box.bottom() + 13)
        if stacked or box.height() < 40:
            at = QPointF(box.right() - 8, box.top() + 10)
        if mark == "right":
            paint_tick(p, at, 15 if not stacked else 11, theme.ink if not stacked else theme.now)
        elif mark == "wrong":
            paint_cross(
                p,
                at,
                6 if not stacked else 4.5,
                flat_pen(theme.ink if not stacked else theme.now, 3),
            )
        elif stacked:
            draw_centred(p, at, "…", NOTE, theme.now, Weight.STRONG)
        else:
            foot = QRectF(box.left() - 4, box.bottom() + 3, box.width() + 8, 20)
            draw_one_of(p, foot, ("left out", "left"), NOTE, theme.ink, Weight.LABEL, CENTRE)

    def _row_of(self, name: str) -> int:
        return item_named(name).cylinder - 1

    def _is_free(self, item: Item) -> bool:
        margins = self._margins()
        return margins.get(item.name, -1.0) > 0

    def _margins(self) -> dict[str, float]:
        import numpy as np

        at = np.array([self._session.state.crank_deg])
        margins = self.rig.item_margins_deg(at)[:, 0].tolist()
        return dict(zip(self.rig.item_names, margins, strict=True))

    def _paint_figures(self, p: QPainter, row: int, frame: CylinderFrame) -> None:
        """Margin or lift of each valve, which move with the crank."""
        if not self.showing.figures:
            return
        theme = self.look.theme
        for chip in frame.chips:
            box = self.chip_boxes(row).get(chip.name)
            if box is None or box.height() < 40:
                continue
            words = f"{whole_degrees(chip.margin_deg)}°" if chip.free else lift_words(chip.lift_mm)
            if not chip.free and chip.lift_mm <= 0:
                words = "ramp"
            colour = theme.on_ink if chip.margin_deg > 0 else theme.ink2
            foot = box.adjusted(2, box.height() / 2, -2, -3)
            draw_one_of(
                p, foot, (words, words.partition(" ")[0]), BODY, colour, Weight.LABEL, CENTRE
            )

    def text_twin(self) -> str:
        """Each cylinder with what is not covered, and what is ticked."""
        told = []
        covers = self.showing.covers
        for row, frame in enumerate(self.frames()):
            words = f"cylinder {row + 1}"
            if Cover.STROKES not in covers:
                words += f" {frame.pose.stroke.word}"
            told.append(words)
        ticked = [f"{name} at stop {stop}" for name, stop in self.showing.ticked.items() if stop]
        if self.showing.ticking is Ticking.TICK:
            ticked = [name for name, stop in self.showing.ticked.items() if stop]
        return "; ".join([*told, *(["ticked: " + ", ".join(ticked)] if ticked else [])])

    # Keys -------------------------------------------------------------------------------------

    def _names(self) -> list[str]:
        """Items that can be ticked, in the order of the cylinders."""
        count = self.rig.engine.cylinder_count
        return [name for row in range(count) for name in self.chip_boxes(row)]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down go from item to item, T ticks it."""
        if event is None:
            return
        step, names = up_or_down(event), self._names()
        if self.showing.ticking is Ticking.NOTHING or not names:
            event.ignore()
        elif step:
            here = names.index(self._near) if self._near in names else -step
            self._near = names[(here + step) % len(names)]
            self.update()
        elif event.key() == Qt.Key.Key_T and self._near in names:
            self.pressed.emit(self._near)
        else:
            event.ignore()

    def paint_focus(self, p: QPainter) -> None:
        """The item that the keys are at, or the whole."""
        boxes = [self.chip_boxes(row) for row in range(self.rig.engine.cylinder_count)]
        box = next((found[self._near] for found in boxes if self._near in found), None)
        if box is None:
            super().paint_focus(p)
            return
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(self.look.theme.now, 4))
        p.drawRoundedRect(box.adjusted(-3, -3, 3, 3), 5, 5)

    # Hands ------------------------------------------------------------------------------------

    def chip_at(self, at: QPointF) -> str | None:
        """The item at a point of the widget."""
        spot = at / self.look.scale
        for row in range(self.rig.engine.cylinder_count):
            for name, box in self.chip_boxes(row).items():
                if box.contains(spot):
                    return name
        return None

    def _on_ring(self, at: QPointF) -> QPointF | None:
        if not self.ring_box().width() or Cover.RING in self.showing.covers:
            return None
        centre, factor = self._ring()
        spot = (at / self.look.scale - centre) / factor
        return spot if QPointF.dotProduct(spot, spot) <= (OUTER + 14) ** 2 else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Tick a chip, or take hold of the ring."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        name = self.chip_at(event.position())
        if name is not None and self.showing.ticking is not Ticking.NOTHING:
            self.pressed.emit(name)
            return
        spot = self._on_ring(event.position())
        if spot is not None:
            self._turner.finish()
            self._grab_deg = lap_angle_deg(spot, sense_of(self.rig.engine))
            self._hand_deg = self._session.state.crank_deg

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Turn the crank with the ring."""
        if event is None:
            return
        if self._grab_deg is None:
            over = self.chip_at(event.position()) is not None
            hand = over and self.showing.ticking is not Ticking.NOTHING
            self.setCursor(
                Qt.CursorShape.PointingHandCursor if hand else Qt.CursorShape.ArrowCursor
            )
            return
        centre, factor = self._ring()
        spot = (event.position() / self.look.scale - centre) / factor
        angle, half = lap_angle_deg(spot, sense_of(self.rig.engine)), CYCLE_DEG / 2
        by_deg = (angle - self._grab_deg + half) % CYCLE_DEG - half
        self._grab_deg = angle
        self._hand_deg += by_deg
        self._turner.drag_to(self._hand_deg, by_deg)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go of the ring."""
        self._grab_deg = None

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """5° a notch; up is the engine's own direction."""
        if event is None:
            return
        notches = self._wheel.take(event)
        if notches:
            self._turner.turn_by(notches * WHEEL_DEG)
        event.accept()


def _pair(cylinder: int) -> tuple[str, ...]:
    return tuple(Item(kind, cylinder).name for kind in Kind)
