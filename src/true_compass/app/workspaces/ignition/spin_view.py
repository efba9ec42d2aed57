"""No book, spin it: which intake closes, where the rotor points, and what follows."""

from dataclasses import replace
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.cap_view import CapView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.core.angles import degrees_on, wrap_deg
from true_compass.core.ignition.spin import Inferred, Seen, closing_before_tdc_deg, inferred
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_number
from true_compass.drawing.cap_map import CapMap
from true_compass.drawing.codes import flat_pen, round_pen, rounded
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, Weight

LEFT_WIDE: Final = 330.0
RIGHT_WIDE: Final = 300.0
GAP: Final = 28.0
ROW: Final = 34.0
AT_IT_DEG: Final = 1.0


class SpinMap(CapView):
    """The cap off: a press says where the rotor points."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, model, parent)
        self.setObjectName("spin_map")
        self.setAccessibleName("Rotor seen from above, cap off")
        self.pointed: float | None = None

    @property
    def map(self) -> CapMap:
        """The cap alone, as large as there is room."""
        middle = QPointF(self.logical_width / 2, self.logical_height / 2 - 6)
        radius = max(min(self.logical_width, self.logical_height) / 2 - 48, 50.0)
        return replace(super().map, centre=middle, radius=radius)

    def show_state(self) -> None:
        """Another row."""
        self.stills.forget()
        self.update()

    def paint(self, p: QPainter) -> None:
        """The body, the rotor now, what was seen, posts that follow."""
        seen = self.model.bay.seen
        self.paint_whole(p, (seen, self.pointed), self._paint_still)
        self.painter.paint_rotor(p, self.rotor_deg)

    def _paint_still(self, p: QPainter) -> None:
        theme, place = self.look.theme, self.map
        p.setBrush(theme.sheet)
        p.setPen(flat_pen(theme.ink, 2.4))
        p.drawEllipse(place.centre, place.radius, place.radius)
        p.setPen(flat_pen(theme.line, 1.4))
        for step in range(0, 360, 10):
            out = place.towards(step)
            deep = 12 if step % 30 == 0 else 6
            p.drawLine(
                place.centre + out * (place.radius - deep), place.centre + out * place.radius
            )
            if step % 30 == 0:
                at = place.centre + out * (place.radius + 20)
                box = QRectF(at.x() - 24, at.y() - 10, 48, 20)
                draw_text(p, box, f"{step}°", NOTE, theme.ink2, align=CENTRE)
        posts = inferred(self.model.rig, self.model.bay.seen).posts_deg
        for cylinder, direction in posts.items():
            middle = place.centre + place.towards(direction) * (place.radius - 32)
            plate = QRectF(middle.x() - 14, middle.y() - 14, 28, 28)
            rounded(p, plate, 4, theme.sheet, flat_pen(theme.ink, 2.2))
            draw_text(p, plate, str(cylinder), BODY, theme.ink, Weight.STRONG, CENTRE)
        for one in self.model.bay.seen:
            at = place.centre + place.towards(one.rotor_deg) * (place.radius * 0.52)
            p.setPen(round_pen(theme.metal_dk, 3))
            p.drawLine(place.centre, at)
            box = QRectF(at.x() - 20, at.y() - 11, 40, 22)
            rounded(p, box, 11, theme.well, None)
            draw_text(p, box, f"I{one.cylinder}", NOTE, theme.ink, Weight.STRONG, CENTRE)
        if self.pointed is not None:
            at = place.centre + place.towards(self.pointed) * (place.radius + 2)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(theme.now)
            p.drawEllipse(at, 7, 7)
        words = place.seen_words
        foot = QRectF(0, self.logical_height - 24, self.logical_width, 20)
        zero = "0° at the top" if place.is_upright else "0° towards the front"
        draw_text(p, foot, f"{words}, {zero}", NOTE, theme.ink2, align=CENTRE)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Point where the rotor points."""
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.pointed = round(self.map.direction_deg(self.at(event)) / 5) * 5 % 360
            self.show_state()
            parent = self.parent()
            if isinstance(parent, SpinView):
                parent.pointed_at(self.pointed)


class SpinView(PageView):
    """Rows of what was seen, the cap off, and what follows."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setAccessibleName("No book: bar it and look")
        self.refused = ""
        self.map = SpinMap(look, model, self)
        self.cylinder, self.points = QLineEdit(self), QLineEdit(self)
        for field, name, called in (
            (self.cylinder, "spin_cylinder", "Whose intake closes"),
            (self.points, "spin_points", "Where the rotor points, degrees from the front"),
        ):
            field.setObjectName(name)
            field.setAccessibleName(called)
            field.returnPressed.connect(self.note)
        self.note_it = DrawnButton(look, "Note it", self)
        self.note_it.setObjectName("note_seen")
        self.note_it.clicked.connect(self.note)
        self.bar_on = DrawnButton(look, "Bar on", self)
        self.bar_on.setObjectName("bar_on")
        self.bar_on.set_words("Bar on", "to the next intake that closes")
        self.bar_on.clicked.connect(self.bar)
        self.anew = DrawnButton(look, "Begin again", self)
        self.anew.setObjectName("spin_anew")
        self.anew.clicked.connect(self._anew)
        self.take = DrawnButton(look, "Take the direction", self)
        self.take.setObjectName("take_direction")
        self.take.clicked.connect(self._take)
        model.changed.connect(self.refresh)
        model.desk.bridge.turned.connect(self._turned)

    def _turned(self) -> None:
        if self.isVisible():
            self._on_turned()

    @property
    def result(self) -> Inferred:
        """What follows from the rows."""
        return inferred(self._model.rig, self._model.bay.seen)

    def pointed_at(self, direction_deg: float) -> None:
        """The map was pressed there."""
        self.points.setText(f"{direction_deg:g}")

    @property
    def _closings_deg(self) -> list[float]:
        """Where each intake closes, in cylinder order."""
        rig = self._model.rig
        before = closing_before_tdc_deg(rig)
        return [wrap_deg(float(offset) - before) for offset in rig.offsets_deg]

    def bar(self) -> None:
        """Turn on to the next intake that closes; where the rotor points a person sees."""
        here = self._model.desk.session.state.crank_deg
        on = min(self._closings_deg, key=lambda one: degrees_on(one, here + AT_IT_DEG))
        self._model.desk.turner.jump_to(on)

    def _on_turned(self) -> None:
        """At a closing the button says whose it is: the rocker comes to rest."""
        here = self._model.desk.session.state.crank_deg
        shut = [
            cylinder
            for cylinder, at in enumerate(self._closings_deg, start=1)
            if degrees_on(here + AT_IT_DEG, at) < 2 * AT_IT_DEG
        ]
        said = f"intake {shut[0]} has just closed" if shut else "to the next intake that closes"
        self.bar_on.set_words("Bar on", said)

    def note(self) -> None:
        """Note what was typed as one more row."""
        try:
            cylinder = parse_number("cylinder", self.cylinder.text())
            points = parse_number("direction", self.points.text())
        except EngineError as error:
            self._refuse(f"The {error.field} {error}.")
            return
        count = self._model.engine.cylinder_count
        if cylinder != int(cylinder) or not 1 <= cylinder <= count:
            self._refuse(f"The cylinder must be 1 to {count}, not {cylinder:g}.")
            return
        if not 0 <= points <= 360:
            self._refuse(f"The direction must be 0 to 360°, not {points:g}.")
            return
        self._refuse("")
        seen = (*self._model.bay.seen, Seen(int(cylinder), points % 360))
        self.cylinder.clear()
        self.points.clear()
        self.map.pointed = None
        self._model.write(f"seen: intake {cylinder:g} closes", seen=seen)
        self.cylinder.setFocus()

    def _refuse(self, sentence: str) -> None:
        if sentence != self.refused:
            self.refused = sentence
            self.show_state()

    def _anew(self) -> None:
        self._refuse("")
        self._model.write("beginning again", seen=())

    def _take(self) -> None:
        turns = self.result.turns
        if turns is not None:
            self._model.write("the rotor's direction", seen_turns=turns, fitted=None, wired=())

    def show_state(self) -> None:
        """What can be done now."""
        style = field_style(self.look.theme, self.look.scale, wrong=bool(self.refused))
        for field in (self.cylinder, self.points):
            if field.styleSheet() != style:
                field.setStyleSheet(style)
        self.anew.setVisible(bool(self._model.bay.seen))
        known = self.result.turns is not None and not self._model.direction_known
        self.take.setVisible(known)
        self._on_turned()
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Three columns; where there is no room the right one goes below the rows."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        self.bar_on.setGeometry(put(0, 42, LEFT_WIDE, 52))
        self.cylinder.setGeometry(put(0, 128, 70, 40))
        self.points.setGeometry(put(90, 128, 100, 40))
        self.note_it.setGeometry(put(214, 128, LEFT_WIDE - 214, 40))
        self.anew.setGeometry(put(0, high - 44, 150, 40))
        roomy = wide >= 1060
        left = LEFT_WIDE + GAP
        right = RIGHT_WIDE + GAP if roomy else 0
        self.map.setGeometry(put(left, 66, wide - left - right, high - 70))
        self.take.setGeometry(put(wide - RIGHT_WIDE, high - 52, RIGHT_WIDE, 48))

    def paint(self, p: QPainter) -> None:
        """Titles, rows, and what follows."""
        theme, wide, high = self.look.theme, self.logical_width, self.logical_height
        result, seen = self.result, self._model.bay.seen
        title = QRectF(0, 0, LEFT_WIDE, 30)
        draw_text(p, title, "What is seen, cap off", LEAD, theme.ink, Weight.STRONG)
        draw_text(p, QRectF(0, 104, 86, 22), "intake of", NOTE + 1, theme.ink2)
        draw_text(p, QRectF(90, 104, 200, 22), "rotor points, °", NOTE + 1, theme.ink2)
        y = 182.0
        if self.refused:
            y = draw_paragraph(p, QRectF(0, y, LEFT_WIDE, 60), self.refused, BODY, theme.ink) + 8
        for nth, one in enumerate(seen):
            if y + ROW > high - 52:
                break
            words = f"{nth + 1}.  Intake {one.cylinder} closes"
            draw_text(p, QRectF(0, y, 220, ROW), words, LABEL, theme.ink, Weight.LABEL)
            at = QRectF(220, y, LEFT_WIDE - 220, ROW)
            draw_text(p, at, f"{one.rotor_deg:g}°", LABEL, theme.ink, Weight.STRONG, RIGHT)
            y += ROW
            p.setPen(flat_pen(theme.hair, 1.2))
            p.drawLine(QPointF(0, y), QPointF(LEFT_WIDE, y))
        left = LEFT_WIDE + GAP
        roomy = wide >= 1060
        right = wide - (RIGHT_WIDE + GAP if roomy else 0)
        head = self._headline(result)
        draw_text(p, QRectF(left, 0, right - left, 36), head, HEAD, theme.ink, Weight.STRONG)
        line = QRectF(left, 36, right - left, 24)
        draw_one_of(p, line, (result.still_open, self._short(result)), BODY, theme.ink2)
        if roomy:
            self._paint_follows(p, QRectF(wide - RIGHT_WIDE, 0, RIGHT_WIDE, high), result)

    def _headline(self, result: Inferred) -> str:
        most = min(3, self._model.engine.cylinder_count)
        if len(self._model.bay.seen) < most and not result.trouble:
            return "No book? Bar it on and look three times"
        if len(result.orders) == 1:
            return "It fires " + "-".join(map(str, result.orders[0]))
        return "Not settled yet"

    def _short(self, result: Inferred) -> str:
        return f"{len(result.orders)} orders are left. Bar on."

    def _paint_follows(self, p: QPainter, box: QRectF, result: Inferred) -> None:
        theme, x, wide = self.look.theme, box.left(), box.width()
        draw_text(p, QRectF(x, 0, wide, 30), "What follows", LEAD, theme.ink, Weight.STRONG)
        y = 44.0
        turns = "open" if result.turns is None else f"turns {result.turns.value}"
        orders = ["-".join(map(str, order)) for order in result.orders[:5]]
        posts = sorted(result.posts_deg.items())
        rows = (
            ("Rotor", [turns]),
            ("Firing order", orders if len(self._model.bay.seen) > 1 else ["open"]),
            ("Posts", [f"{name}: {at:.0f}°" for name, at in posts][:9] or ["open"]),
        )
        for name, lines in rows:
            draw_text(p, QRectF(x, y, wide, 26), name, LABEL, theme.ink, Weight.STRONG)
            y += 28
            for line in lines or ["none fits"]:
                draw_one_of(p, QRectF(x, y, wide, 24), (line,), BODY, theme.ink)
                y += 24
            y += 14
        if y < box.height() - 170:
            said = (
                "A post stands ahead of the rotor by half of what the crank has still to go: an "
                "intake closes well before its cylinder fires."
            )
            draw_paragraph(p, QRectF(x, y, wide, 110), said, BODY, theme.ink2)
