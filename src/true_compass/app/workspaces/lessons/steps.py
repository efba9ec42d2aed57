"""A guided step: one sentence for the back row, and only the cylinders that it is about, large.

What it points to has a plate with arrows; they say where to look, never what is seen. What it
covers is drawn plain, and comes off once it is answered.
"""

from dataclasses import replace
from functools import partial
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Painted
from true_compass.app.widgets.wheel import WheelNotches
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.app.workspaces.lessons.ring_face import RingFace
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.drawing.codes import (
    Place,
    flat_pen,
    number_disc,
    polygon,
    round_pen,
    rounded,
    stroke_plate,
    tdc_plate,
)
from true_compass.drawing.dials import Dials
from true_compass.drawing.frames import CylinderFrame, cylinder_frames
from true_compass.drawing.ring import OUTER, sense_of
from true_compass.drawing.section import (
    BORE,
    HEIGHT,
    PORT_STROKE,
    WALL,
    Section,
    SectionPose,
    SectionScale,
)
from true_compass.drawing.text import (
    CENTRE,
    draw_one_of,
    draw_paragraph,
    draw_text,
    fitted,
    paragraph_height,
    text_width,
)
from true_compass.drawing.theme import BODY, LABEL, LEAD, NOTE, Weight
from true_compass.lessons.drill import Cover
from true_compass.lessons.forms import Choice, Ticks
from true_compass.lessons.guide import Picture, Pointing, Shown
from true_compass.session.lesson import OnLesson

SENTENCE: Final = 46.0
LEAST_SENTENCE: Final = 27.0
SENTENCE_HIGH: Final = 62.0
RING_WIDE: Final = 300.0
BOX_WIDE: Final = 250.0
MIDDLE_WIDE: Final = 320.0
WHEEL_DEG: Final = 5.0
LOW_BOX: Final = 250.0
CARE_LINE: Final = 34.0
CARE_SIZES: Final = (20.0, 18.0, 16.0, 15.0)


class StepView(Painted):
    """Shows the step that the lesson stands at. The wheel turns the crank."""

    def __init__(self, model: LessonModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self._model = model
        self._wheel = WheelNotches()
        self._face = RingFace(self.look, self.stills)
        self._frames_of: object = None
        self._frames: list[CylinderFrame] = []
        self.setObjectName("step")
        self.setAccessibleName("The step")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        model.changed.connect(self.update)

    # What is shown ----------------------------------------------------------------------------

    @property
    def _on(self) -> OnLesson | None:
        on = self._model.on
        return None if on is None or on.over else on

    @property
    def sentence(self) -> str:
        """What the step says; once it was answered, what came of it."""
        on = self._on
        shown = self._model.shown if on is not None else None
        if on is None or shown is None:
            return ""
        if on.judged is None:
            return shown.sentence
        return shown.then or on.judged.why

    def _rig(self) -> Rig:
        return self._model.crank.state.rig

    def frames(self) -> list[CylinderFrame]:
        """What every cylinder shows now."""
        state = self._model.crank.state
        if self._frames_of is not state:
            self._frames_of, self._frames = state, cylinder_frames(state.rig, state.now)
        return self._frames

    # Where things are -------------------------------------------------------------------------

    def _sentence_high(self) -> float:
        """One line, two lower ones where it is long."""
        return SENTENCE_HIGH if self._fits_in_a_line() else SENTENCE_HIGH + 14

    @property
    def care(self) -> tuple[str, ...]:
        """The cautions of the step, one a line."""
        shown = self._model.shown if self._on is not None else None
        return () if shown is None else tuple(caution.words for caution in shown.step.care)

    @property
    def _foot(self) -> float:
        """Where the picture ends: above the cautions."""
        return self.logical_height - len(self.care) * CARE_LINE - (8 if self.care else 0)

    def _fits_in_a_line(self) -> bool:
        return text_width(self.sentence, 34, Weight.STRONG) <= self.logical_width - 8

    def ring_box(self) -> QRectF:
        """Where the ring stands; empty in a narrow view."""
        top = self._sentence_high() + 8
        if self.logical_width < 900:
            return QRectF(0, top, 0, 0)
        return QRectF(0, top, RING_WIDE, self._foot - top)

    def boxes(self, shown: Shown) -> list[QRectF]:
        """Where each cylinder of the step stands, large."""
        count = len(shown.cylinders)
        left = self.ring_box().width() + 24
        room, top = self.logical_width - left, self._sentence_high() + 8
        high = self._foot - top
        if count == 1:
            wide = min(BOX_WIDE + 40, room * 0.45)
            return [QRectF(self.logical_width - wide, top, wide, high)]
        if count == 2:
            wide = min(BOX_WIDE, (room - MIDDLE_WIDE) / 2)
            return [
                QRectF(left, top, wide, high),
                QRectF(self.logical_width - wide, top, wide, high),
            ]
        wide = min(BOX_WIDE, (room - 10 * (count - 1)) / count)
        top, start = top + 76.0, left + (room - count * (wide + 10) + 10) / 2
        return [QRectF(start + nth * (wide + 10), top, wide, high - 76) for nth in range(count)]

    def middle(self, shown: Shown) -> QRectF:
        """Where the plate and the crank stand: between two cylinders, or beside one."""
        left = self.ring_box().width() + 24
        boxes, top = self.boxes(shown), self._sentence_high() + 8
        if len(boxes) == 1:
            return QRectF(left, top, boxes[0].left() - left - 16, self._foot - top)
        if len(boxes) == 2:
            wide = boxes[1].left() - boxes[0].right() - 24
            return QRectF(boxes[0].right() + 12, top, wide, self._foot - top)
        return QRectF(left, top, self.logical_width - left, 52)

    def _section_at(self, box: QRectF) -> tuple[QPointF, float]:
        if box.height() < LOW_BOX:
            # The number stands beside it, not above.
            factor = (box.height() - 12) / HEIGHT
            return QPointF(box.left() + box.width() * 0.66, box.top() + 6), factor
        room = box.height() - 88
        factor = min(room / HEIGHT, box.width() / (BORE + 2 * WALL + 24))
        return QPointF(box.center().x(), box.top() + 84 + (room - HEIGHT * factor) / 2), factor

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Sentence, ring, cylinders, plate."""
        on = self._on
        shown = self._model.shown if on is not None else None
        if on is None or shown is None:
            return
        covers, frames = self._model.covers, self.frames()

        def still(q: QPainter) -> None:
            self._paint_sentence(q)
            self._paint_ring(q)
            self._paint_care(q)

        self.paint_whole(p, (self.sentence, self.care, covers, id(self._rig())), still)
        self._paint_card(p)
        section, framed = self._section(), self._framed(on)
        for cylinder, box in zip(shown.cylinders, self.boxes(shown), strict=True):
            frame = frames[cylinder - 1]
            pose = frame.pose
            if Cover.VALVES in covers:
                pose = replace(pose, intake_lift=0.0, exhaust_lift=0.0)
            at, factor = self._section_at(box)
            look = (frame.place, frame.pose.stroke, pose.shut, cylinder in framed, covers)
            ground = partial(
                self._paint_cylinder, cylinder, box, frame, pose, cylinder in framed, section
            )
            key = (id(self._rig()), cylinder, look, box.getRect())
            self.stills.draw(p, key, box, ground, self.ground())
            p.save()
            p.translate(at)
            p.scale(factor, factor)
            (section.paint_bare if Cover.STROKES in covers else section.paint)(p, pose)
            p.restore()
        self._paint_picture(p, shown)
        self._paint_plate(p, shown)

    def _framed(self, on: OnLesson) -> tuple[int, ...]:
        judged = on.judged
        return judged.shows if judged is not None and not judged.is_right else ()

    def _section(self) -> Section:
        engine = self._rig().engine
        return Section(SectionScale.of(engine), self.look.theme, self.stills, sense_of(engine))

    def _paint_cylinder(
        self,
        cylinder: int,
        box: QRectF,
        frame: CylinderFrame,
        pose: SectionPose,
        framed: bool,
        section: Section,
        p: QPainter,
    ) -> None:
        """What stands still of one cylinder."""
        self._paint_box(p, box, cylinder, frame, framed)
        at, factor = self._section_at(box)
        p.save()
        p.translate(at)
        p.scale(factor, factor)
        section.paint_still(p, pose)
        p.restore()

    def _paint_sentence(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        words = self.sentence
        if self._fits_in_a_line():
            box = QRectF(0, 0, width - 4, SENTENCE_HIGH)
            draw_text(p, box, words, SENTENCE, theme.ink, Weight.STRONG)
            return
        px = 34.0
        box = QRectF(0, 0, width - 4, self._sentence_high())
        wide, high = box.width(), box.height()
        while px > LEAST_SENTENCE and paragraph_height(words, px, wide, Weight.STRONG) > high:
            px -= 1
        draw_paragraph(p, box, words, px, theme.ink, Weight.STRONG)

    def _paint_care(self, p: QPainter) -> None:
        """What to mind at this step, over the whole width."""
        theme = self.look.theme
        for nth, words in enumerate(self.care):
            line = QRectF(
                0, self._foot + 8 + nth * CARE_LINE, self.logical_width - 4, CARE_LINE - 4
            )
            rounded(p, line, 4, theme.well, flat_pen(theme.ink, 1.4))
            name = line.adjusted(10, 0, 0, 0)
            used = draw_text(p, name, "Care", BODY, theme.ink, Weight.STRONG)
            rest = name.adjusted(used + 12, 0, -8, 0)
            px = next((s for s in CARE_SIZES if text_width(words, s) <= rest.width()), NOTE)
            draw_text(p, rest, words, px, theme.ink)

    def _ring(self) -> tuple[QPointF, float]:
        box = self.ring_box()
        radius = min(box.width() / 2 - 16, (box.height() - 40) / 2)
        return QPointF(box.left() + 16 + radius, box.top() + radius + 6), radius / (OUTER + 16)

    def _paint_ring(self, p: QPainter) -> None:
        box, theme = self.ring_box(), self.look.theme
        if not box.width():
            return
        centre, factor = self._ring()
        covers = self._model.covers
        self._face.paint_ground(p, centre, factor, self._model.crank.state, covers)
        foot = QRectF(box.left(), centre.y() + (OUTER + 16) * factor + 4, box.width(), 26)
        engine = self._rig().engine
        words = "ring and strokes covered" if Cover.RING in covers else engine.order_text
        draw_one_of(p, foot, (words,), BODY, theme.ink2, Weight.LABEL, CENTRE)

    def _paint_card(self, p: QPainter) -> None:
        if self.ring_box().width():
            self._face.paint_card(p, *self._ring(), self._model.crank.state, self._model.covers)

    def _paint_box(
        self, p: QPainter, box: QRectF, cylinder: int, frame: CylinderFrame, framed: bool
    ) -> None:
        theme, hidden = self.look.theme, Cover.STROKES in self._model.covers
        edge = QPen(theme.now, 4) if framed else flat_pen(theme.hair, 1.4)
        inside = box.adjusted(2, 2, -2, -2)
        rounded(p, inside, 6, theme.now_tint if framed else theme.sheet, edge)
        place = Place.BETWEEN if hidden else frame.place
        at = QPointF(box.left() + 40, box.top() + 40)
        low = box.height() < LOW_BOX
        if hidden:
            at = QPointF(box.center().x(), box.top() + 40)
        if hidden and low:
            # Below, where no arrow to the valves goes over it.
            at = QPointF(box.left() + 40, box.bottom() - 40)
        number_disc(p, at, 27, cylinder, place, theme, False)
        if hidden:
            return
        plate = QRectF(box.left() + 80, box.top() + 22, box.width() - 96, 36)
        if low:
            plate = QRectF(box.left() + 10, box.top() + 76, box.width() * 0.42, 32)
        if place is Place.BETWEEN:
            stroke_plate(p, plate, frame.pose.stroke, theme)
        else:
            tdc_plate(p, plate, place is Place.COMPRESSION_TDC, theme)

    def _dial_radius(self, shown: Shown) -> float:
        box = self.middle(shown)
        return min((box.height() - 230) / 2, box.width() / 2 - 20, 140.0)

    def rock_box(self, shown: Shown) -> QRectF | None:
        """Where a press rocks the crank: below its dial, where that has room."""
        if shown.step.picture is Picture.LIFT or self._dial_radius(shown) < 50:
            return None
        box = self.middle(shown)
        return QRectF(box.center().x() - 130, box.bottom() - 46, 260, 42)

    def _paint_picture(self, p: QPainter, shown: Shown) -> None:
        """The crank, or the rotor, between the cylinders, where there is room."""
        box = self.middle(shown)
        if shown.step.picture is Picture.LIFT:
            if box.height() >= 240 and box.width() >= 180:
                self._paint_lift(p, box, shown)
            return
        radius, rock = self._dial_radius(shown), self.rock_box(shown)
        if rock is None:
            return
        theme, state = self.look.theme, self._model.crank.state
        centre = QPointF(box.center().x(), box.bottom() - radius - 64)
        title = QRectF(box.left(), centre.y() - radius * 1.25 - 26, box.width(), 24)
        dials = Dials(theme, self.stills, sense_of(state.engine))
        rotor = shown.step.picture is Picture.ROTOR and state.engine.has_rotor
        words = "Rotor" if rotor else "Crank, from the front"
        draw_text(p, title, words, LABEL, theme.ink2, Weight.STRONG, CENTRE)
        p.save()
        p.translate(centre)
        p.scale(radius / 60.0, radius / 60.0)
        if rotor:
            dials.paint_rotor_face(p, state.rig, ())
            dials.paint_rotor(p, state.now)
        else:
            dials.paint_crank_face(p)
            dials.paint_crank(p, state.rig, state.now)
        p.restore()
        rounded(p, rock, 4, theme.sheet, flat_pen(theme.ink, 2))
        draw_text(p, rock, "Rock it: R", LEAD, theme.ink, Weight.STRONG, CENTRE)

    def _paint_lift(self, p: QPainter, box: QRectF, shown: Shown) -> None:
        """Lift of both valves of the first cylinder over its cycle, and where it stands."""
        theme, state = self.look.theme, self._model.crank.state
        plot = QRectF(box.left() + 10, box.top() + 130, box.width() - 20, box.height() - 180)
        cylinder = shown.cylinders[0]
        offset = float(state.rig.true_offsets_deg[cylinder - 1])

        def still(q: QPainter) -> None:
            at = np.linspace(0.0, 720.0, 241)
            lift = state.rig.lobes.lift_mm(offset + at)
            most = float(state.rig.full_lift_mm.max())
            q.setPen(flat_pen(theme.line, 1.4))
            q.drawLine(plot.bottomLeft(), plot.bottomRight())
            for kind, row in zip(Kind, state.engine.valve_rows(cylinder), strict=True):
                ys = plot.bottom() - lift[row] / most * plot.height()
                q.setBrush(Qt.BrushStyle.NoBrush)
                q.setPen(flat_pen(theme.stroke(PORT_STROKE[kind]), 3))
                q.drawPolyline(polygon(plot.left() + at / 720.0 * plot.width(), ys))
                peak = int(np.argmax(lift[row]))
                x = plot.left() + at[peak] / 720.0 * plot.width()
                name = QRectF(x - 40, plot.top() - 28, 80, 24)
                words = f"{kind.letter}{cylinder}"
                draw_text(q, name, words, LABEL, theme.ink, Weight.STRONG, CENTRE)
            foot = QRectF(plot.left(), plot.bottom() + 6, plot.width(), 24)
            draw_text(q, foot, "lift over 720° of crank", BODY, theme.ink2, Weight.LABEL, CENTRE)

        self.stills.draw(p, ("lift", id(state.rig), cylinder), box, still, self.ground())
        on_deg = (state.crank_deg - offset) % 720.0
        x = plot.left() + on_deg / 720.0 * plot.width()
        p.setPen(QPen(theme.now, 3))
        p.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))

    def _paint_plate(self, p: QPainter, shown: Shown) -> None:
        """Where to look: a plate, and an arrow to each place."""
        on = self._on
        if not shown.plate or on is None or on.judged is not None:
            return
        theme, box = self.look.theme, self.middle(shown)
        words, px = fitted(shown.plate, 27, Weight.STRONG, box.width() - 48)
        wide = min(text_width(words, px, Weight.STRONG) + 52, box.width())
        boxes = self.boxes(shown)
        middle_y = box.top() + 26 if len(boxes) > 2 else box.top() + 54
        plate = QRectF(box.center().x() - wide / 2, middle_y - 26, wide, 52)
        targets = self._targets(shown)
        if len(boxes) > 2 and len(targets) > 1:
            self._paint_rake(p, plate, targets)
            targets = []
        for nth, target in enumerate(targets):
            self._paint_arrow(p, plate, target, boxes[nth] if nth < len(boxes) else box)
        rounded(p, plate, 6, theme.now_tint, QPen(theme.now, 3))
        draw_text(p, plate, words, px, theme.ink, Weight.STRONG, CENTRE)

    def _paint_rake(self, p: QPainter, plate: QRectF, targets: list[QPointF]) -> None:
        """One bar through the plate, and an arrow down from it to each place."""
        theme, y = self.look.theme, plate.center().y()
        xs = [target.x() for target in targets]
        p.setPen(round_pen(theme.now, 5))
        p.drawLine(QPointF(min(xs), y), QPointF(max(xs), y))
        for target in targets:
            start = QPointF(target.x(), y)
            tip = QPointF(target.x(), target.y() - 38)
            self._paint_line(p, start, tip)

    def _targets(self, shown: Shown) -> list[QPointF]:
        """The places that are pointed to."""
        kind = shown.step.point
        if kind in (Pointing.NOTHING, Pointing.CRANK, Pointing.RING):
            if kind is Pointing.RING and self.ring_box().width():
                centre, factor = self._ring()
                return [centre + QPointF(OUTER * factor, 0)]
            return []
        found = []
        for cylinder, box in zip(shown.cylinders, self.boxes(shown), strict=True):
            at, factor = self._section_at(box)
            pose = self.frames()[cylinder - 1].pose
            if kind is Pointing.STROKES:
                found.append(QPointF(box.center().x(), box.top() + 60))
            elif kind is Pointing.PISTONS:
                scale = SectionScale.of(self._rig().engine)
                crown = 48.0 + pose.piston_from_tdc_mm * scale.px_per_mm
                found.append(at + QPointF(0, (crown + 14) * factor))
            else:
                found.append(at + QPointF(0, 22 * factor))
        return found

    def _paint_arrow(self, p: QPainter, plate: QRectF, target: QPointF, box: QRectF) -> None:
        leftward = target.x() < plate.center().x()
        start = QPointF(plate.left() if leftward else plate.right(), plate.center().y())
        side = (14.0 + 42.0 * min(self._section_at(box)[1], 1.0)) if box.contains(target) else 6.0
        tip = QPointF(target.x() + (side if leftward else -side), target.y())
        if abs(target.x() - plate.center().x()) < plate.width() / 2:
            start = QPointF(target.x(), plate.bottom())
            tip = QPointF(target.x(), target.y() - 30)
        self._paint_line(p, start, tip)

    def _paint_line(self, p: QPainter, start: QPointF, tip: QPointF) -> None:
        theme, way = self.look.theme, tip - start
        length = (way.x() ** 2 + way.y() ** 2) ** 0.5
        if length < 8:
            return
        unit = way / length
        p.setPen(round_pen(theme.now, 5))
        p.drawLine(start, tip - unit * 14)
        across = QPointF(-unit.y(), unit.x())
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.now)
        back = tip - unit * 18
        p.drawPolygon(QPolygonF([tip, back + across * 11, back - across * 11]))

    def text_twin(self) -> str:
        """The sentence, and where to look."""
        on = self._on
        shown = self._model.shown if on is not None else None
        if shown is None:
            return ""
        who = ", ".join(map(str, shown.cylinders))
        care = "".join(f" Care: {words}" for words in self.care)
        return f"{self.sentence} Cylinders {who}. {shown.plate}{care}".strip()

    # Hands ------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A press on a cylinder answers with it, where one is asked for; or the crank is rocked."""
        on = self._on
        shown = self._model.shown if on is not None else None
        if event is None or on is None or shown is None:
            return
        spot = event.position() / self.look.scale
        rock = self.rock_box(shown)
        if rock is not None and rock.contains(spot):
            self._model.rock()
            return
        for cylinder, box in zip(shown.cylinders, self.boxes(shown), strict=True):
            if box.contains(spot):
                self._press_cylinder(on, cylinder, right=spot.x() > box.center().x())

    def _press_cylinder(self, on: OnLesson, cylinder: int, *, right: bool) -> None:
        """A cylinder is chosen; where valves are ticked, left is its intake, right its exhaust."""
        form = on.form if on.question is not None else None
        if isinstance(form, Ticks):
            kind = Kind.EXHAUST if right else Kind.INTAKE
            self._model.tick(f"{kind.letter}{cylinder}")
        elif isinstance(form, Choice) and any(o.value == cylinder for o in form.options):
            self._model.choose(cylinder)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """5° a notch."""
        if event is None:
            return
        notches = self._wheel.take(event)
        if notches:
            self._model.turner.turn_by(notches * WHEEL_DEG)
        event.accept()
