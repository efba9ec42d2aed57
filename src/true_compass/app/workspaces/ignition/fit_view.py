"""Fit it: the steps, tooth and post, the distributor in its engine, and how it can be wrong."""

from dataclasses import replace
from functools import partial
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.fit_map import FitMap
from true_compass.app.workspaces.ignition.model import Changes, IgnitionModel
from true_compass.app.workspaces.ignition.picked_rows import PickedRows
from true_compass.app.workspaces.ignition.wrong_view import WrongView
from true_compass.core.angles import CYCLE_DEG
from true_compass.core.cautions import IN_SHORT
from true_compass.core.ignition.bay import Step
from true_compass.core.ignition.cap import left_in_swing_deg, swing_of
from true_compass.core.ignition.fitting import (
    StepWords,
    Way,
    by_name,
    dropped,
    fit_headline,
    stands_right,
    steps,
    turned_right,
    ways,
)
from true_compass.core.rotation import Rotation
from true_compass.drawing.codes import flat_pen, paint_cross, tick_box
from true_compass.drawing.text import RIGHT, draw_one_of, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

LEFT_WIDE: Final = 376.0
RIGHT_WIDE: Final = 290.0
GAP: Final = 22.0
STEP_HIGH: Final = 44.0
WAY_HIGH: Final = 30.0


class StepsView(PickedRows):
    """The steps as rows with a box each; the next one on a tint."""

    called = ("fit_steps", "Steps of fitting")

    @property
    def row_count(self) -> int:
        """One row a step."""
        return len(Step)

    @property
    def row_high(self) -> float:
        """They share the height."""
        return self.logical_height / len(Step)

    def act(self, nth: int) -> None:
        """Tick a step, or take its tick back."""
        self.press(tuple(Step)[nth])

    def paint(self, p: QPainter) -> None:
        """All rows."""
        done, due = self._model.bay.done, self._model.bay.next_step
        for nth, words in enumerate(steps(self._model.told)):
            ticked, is_due = words.step in done, words.step is due
            row = partial(self._paint_row, words=words, ticked=ticked, due=is_due)
            box = QRectF(0, 0, self.logical_width, self.row_high)
            key = (words, ticked, is_due)
            self.stills.draw(p, key, box, row, self.ground(), at=self.row_box(nth).topLeft())
        self.paint_picked(p)

    def _paint_row(self, p: QPainter, *, words: StepWords, ticked: bool, due: bool) -> None:
        """One step about the origin."""
        theme, high = self.look.theme, self.row_high
        box = QRectF(0, 0, self.logical_width, high)
        if due:
            p.fillRect(box, theme.now_tint)
        side = min(24.0, high - 12)
        place = QRectF(6, box.center().y() - side / 2, side, side)
        tick_box(p, place, theme, ticked=ticked, due=due)
        left = box.adjusted(44, 0, -6, 0)
        if high >= 38:
            top = QRectF(left.left(), box.top() + 2, left.width(), high / 2)
            foot = QRectF(left.left(), box.center().y() - 1, left.width(), high / 2 - 2)
            draw_text(p, top, words.title, LABEL - 1, theme.ink, Weight.STRONG)
            draw_one_of(p, foot, (words.note,), NOTE, theme.ink2)
        else:
            draw_text(p, left, words.title, BODY, theme.ink, Weight.STRONG)
        p.setPen(flat_pen(theme.hair, 1.2))
        p.drawLine(box.bottomLeft(), box.bottomRight())

    def press(self, step: Step) -> None:
        """Do a step; the mark brings the crank there, the body is turned."""
        model = self._model
        done = model.bay.done
        if step in done:
            model.write("step taken back", done=tuple(s for s in done if s is not step))
            return
        if step is Step.TURNS and not model.direction_known:
            return
        changes: Changes = {"done": tuple(s for s in Step if s in done or s is step)}
        if step is Step.MARK:
            model.desk.turner.jump_to(CYCLE_DEG - model.standing.wanted_deg)
        if step is Step.BODY:
            fitted = turned_right(model.engine, model.standing.fitted)
            changes["fitted"] = fitted
            if not stands_right(model.engine, fitted):
                # It went as far as there is room: the step stays open, the headline says why.
                changes["done"] = done
        model.write(f"step: {step.value}", **changes)


class WaysView(PickedRows):
    """Tooth and post: where the body must go for each, within its swing or not."""

    head_high = 30.0
    called = ("fit_ways", "Tooth and post")

    @property
    def rows(self) -> tuple[Way, ...]:
        """The ways that are shown, the best first; while what is wrong is hidden, by name."""
        standing = self._model.standing
        if standing.hides:
            return by_name(standing)
        most = max(int((self.logical_height - 30 - 40) // WAY_HIGH), 1)
        return ways(standing, min(most, 4))

    def paint(self, p: QPainter) -> None:
        """A heading, a row a way, and where the teeth lie."""
        theme, wide = self.look.theme, self.logical_width
        head = QRectF(0, 0, wide, 28)
        draw_text(p, head, "Tooth and post", LABEL, theme.ink, Weight.STRONG)
        if not self._model.standing.hides:
            draw_text(p, head, "body, from mid-swing", NOTE, theme.ink2, align=RIGHT)
        p.setPen(flat_pen(theme.ink2, 1.4))
        p.drawLine(head.bottomLeft(), head.bottomRight())
        for nth, way in enumerate(self.rows):
            self._paint_way(p, self.row_box(nth), way, first=nth == 0)
        self.paint_picked(p)
        top = self.row_box(self.row_count).top()
        if self._model.standing.hides:
            words = "Look where the rotor points with 1 on compression, then drop it otherwise."
            draw_paragraph(p, QRectF(0, top + 4, wide, 44), words, BODY, theme.ink2)
            return
        for line in self._foot_lines():
            if top + 24 > self.logical_height:
                return
            draw_one_of(p, QRectF(0, top + 5, wide, 20), (line,), NOTE, theme.ink2)
            top += 20
        if self.logical_height - top > 40:
            draw_paragraph(p, QRectF(0, top + 8, wide, 40), IN_SHORT, NOTE, theme.ink2)

    def _foot_lines(self) -> list[str]:
        """The gear's seats, the body's room, and what is left of it from where it stands."""
        engine = self._model.engine
        teeth, swing = engine.distributor_teeth, engine.distributor.swing_deg
        assumed = "" if engine.distributor.gear_teeth else ", assumed"
        seats = f"Gear of {teeth}{assumed}: a seat every {360 / teeth:.1f}°."
        left = left_in_swing_deg(engine, self._model.standing.fitted.body_deg)
        if swing is None or left is None:
            return [seats, "Room for the body: not measured."]
        room = f"Room −{swing[0]:g}° to +{swing[1]:g}°. {seats}"
        return [room, f"Left from here: {left[0]:.1f}° anticlockwise, {left[1]:.1f}° clockwise."]

    def _paint_way(self, p: QPainter, box: QRectF, way: Way, *, first: bool) -> None:
        theme, engine = self.look.theme, self._model.engine
        hides = self._model.standing.hides
        colour = theme.ink if way.reached or hides else theme.ink2
        weight = Weight.STRONG if first else Weight.BODY
        name = QRectF(0, box.top(), 176, box.height())
        draw_text(p, name, way.name, BODY, colour, weight)
        if hides:
            p.setPen(flat_pen(theme.hair, 1.2))
            p.drawLine(box.bottomLeft(), box.bottomRight())
            return
        swing = swing_of(engine)
        bar = QRectF(186, box.center().y() - 6, 116, 12)
        span = swing[0] + swing[1]
        scale = bar.width() / span if span else 0.0
        p.fillRect(bar, theme.metal)
        middle = bar.left() + swing[0] * scale
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.drawLine(QPointF(middle, bar.top() - 4), QPointF(middle, bar.bottom() + 4))
        x = middle + way.body_deg * scale
        at = QPointF(min(max(x, bar.left() - 8), bar.right() + 8), bar.center().y())
        if way.reached:
            p.setBrush(theme.ink)
            p.setPen(Qt.PenStyle.NoPen)
            p.drawEllipse(at, 6, 6)
        else:
            paint_cross(p, at, 5, flat_pen(theme.ink, 2.4))
        figure = f"{way.body_deg:+.1f}°".replace("-", "−")
        place = QRectF(box.right() - 70, box.top(), 70, box.height())
        draw_text(p, place, figure, BODY, colour, weight, RIGHT)
        p.setPen(flat_pen(theme.hair, 1.2))
        p.drawLine(box.bottomLeft(), box.bottomRight())

    @property
    def row_count(self) -> int:
        """One row a way."""
        return len(self.rows)

    @property
    def row_high(self) -> float:
        """All alike."""
        return WAY_HIGH

    def act(self, nth: int) -> None:
        """Lift it and drop it on that tooth, with lead 1 on that post."""
        if nth:
            self.choose(self.rows[nth])

    def choose(self, way: Way) -> None:
        """Drop it so. The leads go round with the post, as wrong or right as they were."""
        fitted, wired = dropped(self._model.standing, way)
        self._model.write(f"dropping it: {way.name}", fitted=fitted, wired=wired)


class FitView(PageView):
    """The whole page."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setAccessibleName("Fit the distributor")
        self.steps = StepsView(look, model, self)
        self.ways = WaysView(look, model, self)
        self.map = FitMap(look, model, self)
        self.wrong = WrongView(look, model, self)
        self.turns = [DrawnButton(look, way.value.capitalize(), self) for way in Rotation]
        for button, way in zip(self.turns, Rotation, strict=True):
            button.setObjectName(f"rotor_{way.value}")
            button.clicked.connect(partial(self._saw, way))
        self.lift = DrawnButton(look, "Lift it out: one crank turn", self)
        self.lift.setObjectName("one_crank_turn")
        self.lift.clicked.connect(self._one_turn)
        model.changed.connect(self.refresh)
        model.dragged.connect(self.update)

    def _saw(self, way: Rotation) -> None:
        self._model.write("the rotor's direction", seen_turns=way, fitted=None, wired=())

    def _one_turn(self) -> None:
        fitted = self._model.standing.fitted
        turned = replace(fitted, turn_out=not fitted.turn_out)
        self._model.write("lifting it out for a crank turn", fitted=turned)

    def show_state(self) -> None:
        """The direction is asked for until somebody saw it."""
        asks = not self._model.direction_known
        for button in self.turns:
            button.setVisible(asks)
        is_out = self._model.standing.fitted.is_turn_out(self._model.engine)
        self.lift.setVisible((is_out or self._model.standing.hides) and not asks)
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Steps and ways at the left, the map, three wrong states at the right."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        roomy = wide >= 1060
        right = RIGHT_WIDE if roomy else 0.0
        most = 30 + 4 * WAY_HIGH + 30
        steps_high = min(high - most - 10, STEP_HIGH * len(Step) + 8)
        if steps_high < 28 * len(Step):
            most = 30 + WAY_HIGH + 30
            steps_high = min(high - most - 10, STEP_HIGH * len(Step))
        self.steps.setGeometry(put(0, 0, LEFT_WIDE, steps_high))
        self.ways.setGeometry(put(0, steps_high + 10, LEFT_WIDE, high - steps_high - 10))
        left = LEFT_WIDE + GAP
        middle = wide - left - (right + GAP if right else 0)
        keys = 0.0 if self.turns[0].isHidden() and self.lift.isHidden() else 50.0
        self.map.setGeometry(put(left, 66, middle, high - 70 - keys))
        self.wrong.setVisible(bool(right))
        self.wrong.setGeometry(put(wide - right, 0, right, high))
        for nth, button in enumerate(self.turns):
            button.setGeometry(put(left + nth * 148, high - 44, 140, 40))
        self.lift.setGeometry(put(left, high - 44, 250, 40))

    def paint(self, p: QPainter) -> None:
        """The headline over the map."""
        theme, wide = self.look.theme, self.logical_width
        left = LEFT_WIDE + GAP
        right = wide - (RIGHT_WIDE + GAP if self.wrong.isVisible() else 0)
        standing = self._model.standing
        head, below = fit_headline(self._model.told if standing.hides else standing)
        heads = (head, head.partition(":")[0])
        draw_one_of(p, QRectF(left, 0, right - left, 36), heads, HEAD, theme.ink, Weight.STRONG)
        box = QRectF(left, 36, right - left, 30)
        draw_one_of(p, box, (below, below.partition(".")[0] + "."), BODY, theme.ink2)
