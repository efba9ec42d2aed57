"""The figure at the right: events on a lap, marks on a damper, the order on a ring, or a clash."""

import math
from collections.abc import Hashable
from dataclasses import replace
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.engine.hand.crank import bearing_of, crowd_of
from true_compass.app.workspaces.engine.hand.grips import (
    Grip,
    GripView,
    Modifier,
    paint_grip,
)
from true_compass.app.workspaces.engine.hand.model import HandModel, Tab
from true_compass.core.angles import CYCLE_DEG, Floats
from true_compass.core.changes import Event, has_plain_events
from true_compass.core.crank.shaping import clash_words, fired_deg, order_words
from true_compass.core.engine import Mark, Meaning, Shaft
from true_compass.core.items import Kind
from true_compass.core.valves.cam import ValveTiming
from true_compass.core.valves.lobe import profiles_of
from true_compass.drawing.codes import flat_pen, paint_problem_mark, polygon, ribbon
from true_compass.drawing.dials import crank_direction
from true_compass.drawing.ring import lap_angle_deg, lap_direction, sense_of
from true_compass.drawing.text import (
    CENTRE,
    LEFT,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_text,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

LAP: Final = np.arange(0.0, CYCLE_DEG, 2.0)


class SheetView(GripView):
    """A figure on a sheet."""

    def ground(self) -> QColor:
        """The colour of a sheet."""
        return self.look.theme.sheet


class EventsView(SheetView):
    """One cylinder's lap, compression TDC at the top, with a grip at each of the four events."""

    tab = Tab.EVENTS

    @property
    def _middle(self) -> QPointF:
        return QPointF(self.logical_width / 2, self.logical_height / 2 + 10)

    @property
    def _radius(self) -> float:
        return max(min(self.logical_width - 260, self.logical_height - 142) / 2, 50.0)

    def _timing(self, event: Event) -> ValveTiming:
        return self.model.engine.cam.timing(event.kind)

    def grips(self) -> list[Grip]:
        """The four events; none where the lobes come from a card or a table."""
        engine = self.model.engine
        if not has_plain_events(engine):
            return []
        sense, found = sense_of(engine), []
        for event in Event:
            at_deg = event.cycle_deg(self._timing(event))
            at = self._middle + lap_direction(at_deg, sense) * self._radius
            words = f"{event.words} {self._words(event)}"
            found.append(Grip(event, at, 12.0, words, drags=True))
        return found

    def _words(self, event: Event) -> str:
        """`14° before TDC`."""
        timing = self._timing(event)
        # Before or after which dead centre, for an angle that may be negative.
        own = timing.opens_before_deg if event.opens else -timing.closes_after_deg
        at = f"{abs(own):.4g}°"
        if event in (Event.INTAKE_OPENS, Event.EXHAUST_CLOSES):
            return f"{at} before TDC" if own >= 0 else f"{at} after TDC"
        return f"{at} before BDC" if own > 0 else f"{at} after BDC"

    def dragged(self, key: Hashable, at: QPointF, how: Modifier, *, dropped: bool) -> None:
        """The event follows the hand, in whole degrees."""
        assert isinstance(key, Event)
        angle = lap_angle_deg(at - self._middle, sense_of(self.model.engine))
        self.model.move_event(key, float(round(angle)), live=not dropped)

    def nudged(self, key: Hashable, steps: int, how: Modifier) -> None:
        """One degree later or earlier, 5 with Shift."""
        assert isinstance(key, Event)
        by = -steps * (5.0 if how & Modifier.ShiftModifier else 1.0)
        self.model.move_event(key, key.cycle_deg(self._timing(key)) + by, live=False)

    def paint(self, p: QPainter) -> None:
        """Draw the lap with both lobes and the four grips."""
        theme, middle, radius = self.look.theme, self._middle, self._radius
        head = QRectF(14, 8, self.logical_width - 28, 26)
        draw_text(p, head, "Events of cylinder 1", LABEL, theme.ink, Weight.STRONG)
        check = self.model.engine.cam.intake.check.words
        draw_text(p, head, f"at {check}", NOTE, theme.ink2, Weight.BODY, RIGHT)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.line, 1.6))
        p.drawEllipse(middle, radius, radius)
        for words, box in self._dead_centres():
            draw_text(p, box, words, NOTE, theme.ink2, Weight.LABEL, CENTRE)
        self._paint_lobes(p)
        if not has_plain_events(self.model.engine):
            words = "These lobes come from a cam card or a lift table. All figures shows it."
            draw_paragraph(p, QRectF(14, 34, self.logical_width - 28, 44), words, NOTE, theme.ink2)
        for grip in self.grips():
            self._paint_event(p, grip)
        self.paint_chosen(p)

    def _dead_centres(self) -> list[tuple[str, QRectF]]:
        middle, radius = self._middle, self._radius
        wide = QRectF(-90, -11, 180, 22)
        return [
            ("compression TDC", wide.translated(middle - QPointF(0, radius + 16))),
            ("overlap TDC", wide.translated(middle + QPointF(0, radius + 46))),
            ("BDC", QRectF(-22, -11, 44, 22).translated(middle - QPointF(radius + 26, 0))),
            ("BDC", QRectF(-22, -11, 44, 22).translated(middle + QPointF(radius + 26, 0))),
        ]

    def _lift(self, kind: Kind) -> Floats:
        """Share of full lift round the lap, every two degrees."""
        engine = self.model.engine
        lobe = profiles_of(engine.cam, engine.train)[kind]
        at, lift = lobe.at_deg, lobe.motion[0]
        # A lobe may begin before the lap does, and then it ends the lap.
        here = np.interp(LAP, at, lift, 0.0, 0.0) + np.interp(LAP - CYCLE_DEG, at, lift, 0.0, 0.0)
        most = float(here.max())
        return np.asarray(here / most if most > 0 else here)

    def _paint_lobes(self, p: QPainter) -> None:
        theme, middle, sense = self.look.theme, self._middle, sense_of(self.model.engine)
        base = self._radius * 0.46
        reach = self._radius * 0.28
        p.setPen(flat_pen(theme.line, 1.2))
        p.drawEllipse(middle, base, base)
        bearing = np.radians(LAP / 2) * sense
        for kind in Kind:
            far = base + reach * np.maximum(self._lift(kind), 0.0)
            xs, ys = middle.x() + np.sin(bearing) * far, middle.y() - np.cos(bearing) * far
            raised = np.flatnonzero(far > base + 0.2)
            if not len(raised):
                continue
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.ink)
            cut = slice(int(raised[0]), int(raised[-1]) + 1)
            if kind is Kind.INTAKE:
                p.drawPolygon(ribbon(xs[cut], ys[cut], 2.4))
            else:
                # Back along the base circle, so that the lobe stands on it.
                foot_x = (middle.x() + np.sin(bearing[cut]) * base)[::-1]
                foot_y = (middle.y() - np.cos(bearing[cut]) * base)[::-1]
                outline = np.concatenate((xs[cut], foot_x)), np.concatenate((ys[cut], foot_y))
                p.drawPolygon(polygon(*outline))
            nose = int(np.argmax(far))
            out = QPointF(math.sin(bearing[nose]), -math.cos(bearing[nose]))
            at = middle + out * (base + reach * 0.45)
            colour = theme.ink if kind is Kind.INTAKE else theme.on_ink
            box = QRectF(at.x() - 20, at.y() - 12, 40, 24)
            draw_text(p, box, f"{kind.letter}1", BODY, colour, Weight.STRONG, CENTRE)

    def _paint_event(self, p: QPainter, grip: Grip) -> None:
        assert isinstance(grip.key, Event)
        theme, middle = self.look.theme, self._middle
        out = (grip.at - middle) / self._radius
        p.setPen(flat_pen(theme.ink, 1.8))
        p.drawLine(middle + out * self._radius * 0.46, grip.at)
        along = QPointF(-out.y(), out.x())
        paint_grip(p, grip, "", theme, held=grip.key == self.held, along=along)
        right = out.x() >= 0
        x = grip.at.x() + (26 if right else -146)
        y = grip.at.y() - (26 if out.y() < 0.6 else 10)
        align = LEFT if right else RIGHT
        head = QRectF(x, y, 120, 22)
        draw_text(p, head, grip.key.words, LABEL, theme.ink, Weight.STRONG, align)
        below = head.translated(0, 21)
        draw_text(p, below, self._words(grip.key), NOTE, theme.ink2, Weight.BODY, align)


class DamperView(SheetView):
    """The damper from the front, cylinder 1 at TDC: drag a mark, press the rim for a new one.

    A mark that is met so many degrees after TDC stands so far back from the pointer.
    """

    tab = Tab.MARKS

    @property
    def _middle(self) -> QPointF:
        return QPointF(self.logical_width / 2, self.logical_height / 2 + 12)

    @property
    def _radius(self) -> float:
        return max(min(self.logical_width - 240, self.logical_height - 120) / 2, 50.0)

    def _places(self) -> list[tuple[int, Mark, float]]:
        """The marks of the crank, each with its angle; 0 where it is the true TDC."""
        return [
            (number, mark, mark.angle_deg or 0.0)
            for number, mark in enumerate(self.model.engine.marks)
            if mark.shaft is Shaft.CRANK
        ]

    def grips(self) -> list[Grip]:
        """One grip a mark of the crank; marks at one angle stand one inside the other."""
        sense, found = sense_of(self.model.engine), []
        seen: list[float] = []
        for number, mark, angle in self._places():
            far = self._radius - 4 - 28.0 * crowd_of(angle, seen)
            at = self._middle + crank_direction(-angle, sense) * far
            words = f"{mark.label}: {mark.meaning.value} at {angle:.4g}°"
            found.append(Grip(number, at, 13.0, words, drags=True))
        return found

    def _angle_at(self, at: QPointF, how: Modifier) -> float:
        angle = -bearing_of(at, self._middle) * sense_of(self.model.engine)
        return (round(angle * 2) / 2 if how & Modifier.AltModifier else float(round(angle))) % 360.0

    def dragged(self, key: Hashable, at: QPointF, how: Modifier, *, dropped: bool) -> None:
        """The mark follows the hand."""
        assert isinstance(key, int)
        self.model.mark = key
        self._put(key, self._angle_at(at, how), live=not dropped)

    def nudged(self, key: Hashable, steps: int, how: Modifier) -> None:
        """One degree later or earlier, 10 with Shift."""
        assert isinstance(key, int)
        here = self.model.engine.marks[key].angle_deg or 0.0
        by = steps * (10.0 if how & Modifier.ShiftModifier else 1.0)
        self._put(key, (here + by) % 360.0, live=False)

    def _put(self, key: int, angle: float, *, live: bool) -> None:
        marks = list(self.model.engine.marks)
        marks[key] = replace(marks[key], angle_deg=angle)
        self.model.put_marks(marks, f"mark on the {marks[key].where}", live=live)

    def pressed(self, key: Hashable, how: Modifier) -> None:
        """Choose a mark: its words stand among the figures."""
        assert isinstance(key, int)
        self.model.mark = key
        self.model.changed.emit()

    def pressed_beside(self, at: QPointF, how: Modifier) -> None:
        """A new mark where the rim was pressed."""
        off = at - self._middle
        if abs(math.hypot(off.x(), off.y()) - self._radius) > 24:
            return
        marks = [*self.model.engine.marks, Mark("pulley", self._angle_at(at, how))]
        self.model.mark = len(marks) - 1
        self.model.put_marks(marks, "new mark")

    def paint(self, p: QPainter) -> None:
        """Draw damper, pointer and marks."""
        theme, middle, radius = self.look.theme, self._middle, self._radius
        head = QRectF(14, 8, self.logical_width - 28, 26)
        draw_text(p, head, "Marks on the damper", LABEL, theme.ink, Weight.STRONG)
        words = "from the front, cylinder 1 at TDC; press the rim for a new one"
        ways = (words, words.partition(";")[0])
        draw_one_of(p, head.translated(0, 22), ways, NOTE, theme.ink2)
        p.setBrush(theme.well)
        p.setPen(flat_pen(theme.ink, 2))
        p.drawEllipse(middle, radius, radius)
        p.setPen(flat_pen(theme.line, 1.4))
        p.drawEllipse(middle, radius * 0.4, radius * 0.4)
        tip = middle - QPointF(0, radius + 2)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        p.drawPolygon(QPolygonF([tip, tip + QPointF(-8, -16), tip + QPointF(8, -16)]))
        for grip in self.grips():
            mark = self.model.engine.marks[int(str(grip.key))]
            out = (grip.at - middle) / max(radius, 1.0)
            held = self.held == grip.key or self.model.mark == grip.key
            text = {Meaning.TDC: "T", Meaning.FIRING: "F", Meaning.OTHER: "–"}[mark.meaning]
            paint_grip(p, grip, text, theme, held=held, along=QPointF(-out.y(), out.x()))
            right = out.x() >= 0
            x = grip.at.x() + (28 if right else -148)
            box = QRectF(x, grip.at.y() - 22, 120, 22)
            align = LEFT if right else RIGHT
            draw_text(p, box, mark.label, BODY, theme.ink, Weight.LABEL, align)
            angle = f"{mark.angle_deg:.4g}°" if mark.angle_deg is not None else "true TDC"
            draw_text(p, box.translated(0, 20), angle, NOTE, theme.ink2, Weight.BODY, align)
        self.paint_chosen(p)


class OrderRing(Painted):
    """The firing order as it is, or as far as it has been tapped out."""

    def __init__(self, model: HandModel, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.model = model
        self.setAccessibleName("Firing order")
        model.changed.connect(self.update)

    def ground(self) -> QColor:
        """The colour of a sheet."""
        return self.look.theme.sheet

    def paint(self, p: QPainter) -> None:
        """Draw each cylinder at its angle on one lap."""
        theme, model = self.look.theme, self.model
        begun = bool(model.ordering)
        title = "Order so far" if begun else "Fires in this order"
        head = QRectF(14, 8, self.logical_width - 28, 26)
        draw_text(p, head, title, LABEL, theme.ink, Weight.STRONG)
        order = tuple(model.ordering) or model.engine.firing_order
        words = order_words(order) if begun else model.engine.order_text
        big = QRectF(14, 36, self.logical_width - 28, 40)
        draw_text(p, big, words, HEAD, theme.ink, Weight.STRONG)
        middle = QPointF(self.logical_width / 2, self.logical_height / 2 + 34)
        radius = max(min(self.logical_width, self.logical_height - 110) / 2 - 26, 40.0)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.line, 1.6))
        p.drawEllipse(middle, radius, radius)
        size = 17.0 if len(model.engine.cylinders) <= 12 else 13.0
        for cylinder, at_deg in self._fired():
            at = middle + lap_direction(at_deg, 1) * radius
            first = at_deg == 0.0
            p.setBrush(theme.now if first else theme.ink)
            p.setPen(Qt.PenStyle.NoPen)
            p.drawEllipse(at, size, size)
            box = QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size)
            on = theme.on_now if first else theme.on_ink
            draw_text(p, box, str(cylinder), LABEL, on, Weight.STRONG, CENTRE)
        gaps = model.engine.intervals_deg
        if not begun and model.engine.fires_evenly and gaps:
            box = QRectF(middle.x() - 80, middle.y() - 24, 160, 26)
            draw_text(p, box, f"every {gaps[0]:.4g}°", LEAD, theme.ink, Weight.STRONG, CENTRE)
        foot = QRectF(middle.x() - 80, middle.y() + 4, 160, 22)
        draw_text(p, foot, "one lap is 720°", NOTE, theme.ink2, Weight.BODY, CENTRE)

    def _fired(self) -> list[tuple[int, float]]:
        model = self.model
        if not model.ordering:
            offsets = model.engine.firing_offsets_deg.tolist()
            return [(cylinder, offsets[cylinder - 1]) for cylinder in model.engine.cylinders]
        return fired_deg(model.layout, model.ordering)


class ClashView(Painted):
    """What cannot be, where it stands in the cycle, and the ways out as buttons."""

    def __init__(self, model: HandModel, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.model = model
        self.back = DrawnButton(look, "", self)
        self.nearest = DrawnButton(look, "", self)
        self.back.clicked.connect(model.let_go)
        self.nearest.clicked.connect(model.take_nearest)
        self.setObjectName("clash")
        model.changed.connect(self._show)
        model.moved.connect(self._show)

    def ground(self) -> QColor:
        """The colour of a sheet."""
        return self.look.theme.sheet

    def _show(self) -> None:
        clash = self.model.clash
        if clash is None:
            return
        head, body = clash_words(clash)
        self.setAccessibleName(f"{head}. {body}")
        self.back.set_words("Put it back", "as it was before this change")
        self.nearest.setVisible(bool(clash.nearest))
        if clash.nearest:
            even = f"nearest of the {clash.even_count} even orders that this crank allows"
            told = even if clash.even_count > 1 else "the nearest order that this crank allows"
            self.nearest.set_words(f"Keep it, take {order_words(clash.nearest)}", told)
        self._place()
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place the ways out."""
        super().resizeEvent(event)
        self._place()

    def _place(self) -> None:
        put, wide = self.look.scaled, self.logical_width - 40
        foot = self.logical_height - 18
        several = self.model.clash is not None and bool(self.model.clash.nearest)
        self.back.setGeometry(put(20, foot - (118 if several else 58), wide, 54))
        self.nearest.setGeometry(put(20, foot - 58, wide, 54))

    def paint(self, p: QPainter) -> None:
        """Draw the sentence and the cycle as a line."""
        clash, theme = self.model.clash, self.look.theme
        if clash is None:
            return
        edge = QRectF(0, 0, self.logical_width, self.logical_height)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(flat_pen(theme.ink, 2.6))
        p.drawRoundedRect(edge.adjusted(2, 2, -2, -2), 6, 6)
        p.fillRect(QRectF(2, 4, 6, edge.height() - 8), theme.ink)
        head, body = clash_words(clash)
        paint_problem_mark(p, QRectF(20, 18, 24, 24), theme.ink, theme.on_ink)
        title = QRectF(58, 12, edge.width() - 74, 38)
        draw_text(p, title, head, HEAD, theme.ink, Weight.STRONG)
        draw_paragraph(p, QRectF(58, 52, edge.width() - 74, 60), body, BODY, theme.ink)
        self._paint_line(p, QRectF(40, 148, edge.width() - 80, 40))

    def _paint_line(self, p: QPainter, box: QRectF) -> None:
        """The cycle as a line: who fires where, and where the one that cannot would."""
        clash, theme = self.model.clash, self.look.theme
        assert clash is not None
        y = box.top()
        p.setPen(flat_pen(theme.ink, 2))
        p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        for step in range(0, 721, 90):
            x = box.left() + box.width() * step / 720
            p.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
            if step % 180 == 0:
                words = QRectF(x - 30, y + 20, 60, 20)
                draw_text(p, words, f"{step}°", NOTE, theme.ink2, Weight.BODY, CENTRE)
        taken: list[float] = []
        marks = [(c, at, False) for c, at in clash.fired_deg]
        marks += [(clash.failure.cylinder, at, True) for at in clash.failure.own_deg]
        for cylinder, at_deg, dashed in marks:
            crowd = sum(abs(at_deg - other) < 20 for other in taken)
            taken.append(at_deg)
            at = QPointF(box.left() + box.width() * at_deg / 720, y - 34.0 * crowd)
            colour = theme.now if dashed else theme.ink
            style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
            p.setBrush(theme.sheet)
            p.setPen(QPen(colour, 2.4, style))
            p.drawEllipse(at, 15, 15)
            disc = QRectF(at.x() - 15, at.y() - 15, 30, 30)
            draw_text(p, disc, str(cylinder), LABEL, theme.ink, Weight.STRONG, CENTRE)
