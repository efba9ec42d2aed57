"""The lamp: what it shows at this speed, readings down, suspects across."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.dragged import FigureSlider
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.widgets.reading_field import ReadingField
from true_compass.app.workspaces.ignition.lamping import Lamping
from true_compass.app.workspaces.ignition.suspects_view import SuspectsView
from true_compass.core.cautions import RUNNING, RUNNING_IN_SHORT
from true_compass.core.ignition.advance import DEEPEST_MBAR
from true_compass.core.ignition.lamp import Faults, How, Suspect, would_read_deg
from true_compass.core.units import MBAR_PER_INHG
from true_compass.drawing.lamp import LampFace, paint_pump
from true_compass.drawing.ring import sense_of
from true_compass.drawing.text import (
    draw_one_of,
    draw_paragraph,
    draw_paragraph_that_fits,
    draw_text,
    text_width,
)
from true_compass.drawing.theme import BODY, HEAD, NOTE, Weight

LEFT_WIDE: Final = 380.0
GAP: Final = 24.0
FACES_HIGH: Final = 158.0
KEY_ROW: Final = 52.0
KEYS_WIDE: Final = 568.0
"""All three keys below the table, with the space after each."""
FASTEST_RPM: Final = 6000.0
IF_SO: Final = {
    Suspect.SETTING: Faults(off_deg=-6.0),
    Suspect.WEIGHTS: Faults(weights_stuck=True),
    Suspect.CAN: Faults(can_leaks=True),
    Suspect.HOSE: Faults(hose_off=True),
    Suspect.DAMPER: Faults(off_deg=-7.0, crept_deg=7.0),
}


class FaceView(PageView):
    """The lamp at this speed: the mark to read."""

    def __init__(self, look: Look, lamping: Lamping, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._lamping = lamping
        self.setObjectName("lamp_face")
        self.setAccessibleName("What the lamp shows")
        lamping.changed.connect(self.refresh)

    def paint(self, p: QPainter) -> None:
        """The flash; an engine that does not run gives none."""
        lamping = self._lamping
        box = QRectF(0, 0, self.logical_width, self.logical_height)
        if lamping.asked.how is How.PUMP:
            fallen = lamping.model.bay.faults.can_leaks
            paint_pump(p, box, lamping.asked.depression_mbar, fallen=fallen)
            return
        face(lamping, told="").paint(p, box, self.look.theme, self.stills)


def face(lamping: Lamping, told: str) -> LampFace:
    """The picture at this speed, as things stand."""
    standing, asked = lamping.model.standing, lamping.asked
    engine = standing.engine
    if asked.how is not How.LAMP:
        # A mark that is met late has not come to the pointer yet.
        crept = lamping.model.bay.faults.crept_deg
        return LampFace(crept, sense_of(engine), title="Crank at true TDC", notes=(asked.note,))
    if not standing.runs:
        first = ("Put leads and rotor right first.",)
        return LampFace(0.0, sense_of(engine), title="It does not run", notes=first)
    shows = lamping.shows_deg
    return LampFace(
        shows, sense_of(engine), lamping.should_deg, told, asked.title, _steady(lamping)
    )


def _steady(lamping: Lamping) -> tuple[str, ...]:
    if lamping.asked.hose_on and not lamping.model.bay.hidden:
        return ("The mark stands still: no wander,", "so chain and shaft are tight.")
    return ("What stands under the pointer?",)


class FacesView(PageView):
    """This reading under each suspect."""

    def __init__(self, look: Look, lamping: Lamping, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._lamping = lamping
        self.setObjectName("lamp_faces")
        self.setAccessibleName("What the lamp would show")
        lamping.changed.connect(self.refresh)

    def paint(self, p: QPainter) -> None:
        """A small face for the sound engine and for each suspect."""
        lamping, theme, wide = self._lamping, self.look.theme, self.logical_width
        asked = lamping.asked
        head = f"What the lamp would show at {asked.title}"
        box = QRectF(0, 0, wide, 24)
        used = draw_text(p, box, head, BODY, theme.ink, Weight.STRONG)
        note = "Crept before it was set: the lamp cannot see it."
        draw_one_of(p, box.adjusted(used + 16, 0, 0, 0), (note,), NOTE, theme.ink2)
        found, sense = lamping.found, sense_of(lamping.model.engine)
        cases = [("sound", Faults(), False)]
        cases += [
            (f"{one.value.lower()} {one.state}", IF_SO[one], one in found.left)
            for one in found.suspects
        ]
        each = min((wide - 6 * (len(cases) - 1)) / len(cases), 200.0)
        for nth, (name, faults, left) in enumerate(cases):
            shows = would_read_deg(lamping.advance, asked, faults)
            small = LampFace(shows, sense, told=f"{shows:.1f}°", title=name, framed=left)
            place = QRectF(nth * (each + 6), 28, each, self.logical_height - 30)
            small.paint(p, place, theme, self.stills)


class LampField(ReadingField):
    """A figure; H is the hose."""

    hose = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """H takes the hose off, or puts it on; the rest is a reading."""
        if event is not None and event.key() == Qt.Key.Key_H:
            self.hose.emit()
        else:
            super().keyPressEvent(event)


class LampView(PageView):
    """The whole page."""

    def __init__(self, look: Look, lamping: Lamping, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._lamping = lamping
        self.setAccessibleName("Timing lamp")
        self.face = FaceView(look, lamping, self)
        self.table = SuspectsView(look, lamping, self)
        self.faces = FacesView(look, lamping, self)
        self.speed = speed_slider(look, lamping, self)
        self.depression = FigureSlider(
            look,
            self,
            "Depression",
            (0.0, DEEPEST_MBAR),
            10.0,
            lambda: lamping.mbar,
            mbar_words,
        )
        self.depression.moved.connect(lamping.set_depression)
        self.hose_on = TabButton(look, "on", self)
        self.hose_off = TabButton(look, "off and plugged", self)
        for button, on in ((self.hose_on, True), (self.hose_off, False)):
            button.setObjectName("hose_on" if on else "hose_off")
            button.clicked.connect(partial(lamping.set_hose, on))
        self.field = LampField(self)
        self.field.hose.connect(lamping.toggle_hose)
        self.field.setObjectName("lamp_reading")
        self.field.setAccessibleName("The mark reads")
        self.field.returnPressed.connect(self._keep)
        self.field.stepped.connect(self.table.step)
        self.keep = DrawnButton(look, "Keep this reading", self)
        self.keep.setObjectName("keep_reading")
        self.keep.set_words("Keep this reading", "Enter, then the next one")
        self.keep.clicked.connect(self._keep)
        self.holds = DrawnButton(look, "It holds", self)
        self.falls = DrawnButton(look, "It falls", self)
        for key, name, figure in ((self.holds, "holds", "1"), (self.falls, "falls", "0")):
            key.setObjectName(f"pump_{name}")
            key.clicked.connect(partial(lamping.keep, figure))
        self.repair = StrongButton(look, "Put it right", self)
        self.repair.setObjectName("repair")
        self.repair.clicked.connect(lamping.repair)
        self.again = DrawnButton(look, "Read anew", self)
        self.again.setObjectName("read_anew")
        self.again.clicked.connect(lamping.forget)
        self.book = DrawnButton(look, "Into the book", self)
        self.book.setObjectName("into_the_book")
        self.book.clicked.connect(self._into_the_book)
        lamping.changed.connect(self.refresh)

    def _into_the_book(self) -> None:
        self._lamping.model.desk.say(self._lamping.into_the_book())

    def _keep(self) -> None:
        if self._lamping.asked.how is How.PUMP:
            return
        if self._lamping.keep(self.field.text()):
            self.field.clear()
        self.field.setFocus()

    def show_state(self) -> None:
        """What is asked now."""
        lamping = self._lamping
        how, on = lamping.asked.how, lamping.asked.hose_on
        self.hose_on.setChecked(on)
        self.hose_off.setChecked(not on)
        pump = how is How.PUMP
        has_can = bool(lamping.advance.can)
        self.field.setVisible(not pump)
        self.keep.setVisible(not pump)
        self.holds.setVisible(pump)
        self.falls.setVisible(pump)
        for view in (self.hose_on, self.hose_off):
            view.setVisible(has_can and how is How.LAMP)
        self.depression.setVisible(has_can and how is How.LAMP and on)
        self.speed.setVisible(how is How.LAMP)
        left = lamping.found.left
        self.repair.setVisible(len(left) == 1)
        if len(left) == 1:
            self.repair.setText(REPAIRS[left[0]])
        self.again.setVisible(bool(lamping.model.bay.readings))
        self.book.setVisible(bool(lamping.model.bay.readings))
        self.speed.follow()
        self.depression.follow()
        self.field.show_style(self.look, wrong=bool(lamping.refused))
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """The lamp at the left; the table and the small faces at the right."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        foot = 236.0
        self.face.setGeometry(put(0, 0, LEFT_WIDE, max(high - foot - 8, 120)))
        y = high - foot
        self.speed.setGeometry(put(0, y, LEFT_WIDE, 46))
        self.hose_on.setGeometry(put(128, y + 54, 84, 36))
        self.hose_off.setGeometry(put(220, y + 54, 160, 36))
        self.depression.setGeometry(put(0, y + 98, LEFT_WIDE, 46))
        y = high - 82
        self.field.setGeometry(put(0, y + 24, 112, 54))
        for key in (self.keep, self.holds):
            key.setGeometry(put(126, y + 24, LEFT_WIDE - 126, 54))
        self.holds.setGeometry(put(0, y + 24, LEFT_WIDE / 2 - 4, 54))
        self.falls.setGeometry(put(LEFT_WIDE / 2 + 4, y + 24, LEFT_WIDE / 2 - 4, 54))
        left = LEFT_WIDE + GAP
        faces = FACES_HIGH if high >= 520 else 0.0
        faces = faces if self._lamping.asked.how is How.LAMP else 0.0
        self.faces.setVisible(bool(faces))
        keys = self._keys_high + self._care_below
        top = 66.0
        rows = self.table.wanted_height
        table = min(high - top - faces - keys - 12, rows)
        self.table.setGeometry(put(left, top, wide - left, table))
        y = top + table + 8
        self._arrange_keys(left, y, wide - left)
        self.faces.setGeometry(put(left, high - faces, wide - left, faces))

    def _arrange_keys(self, left: float, top: float, wide: float) -> None:
        """Repair, read anew, into the book: in one row, or the first alone where it is narrow."""
        put = self.look.scaled
        if self._keys_high > KEY_ROW:
            half = (wide - 6) / 2
            self.repair.setGeometry(put(left, top, wide, 36))
            self.again.setGeometry(put(left, top + 42, half, 36))
            self.book.setGeometry(put(left + half + 6, top + 42, half, 36))
            return
        self.repair.setGeometry(put(left, top, 300, 44))
        again = left if self.repair.isHidden() else left + 308
        self.again.setGeometry(put(again, top, 120, 44))
        self.book.setGeometry(put(again + 126, top, 120, 44))

    @property
    def _room(self) -> float:
        """Width right of the lamp."""
        return self.logical_width - LEFT_WIDE - GAP

    @property
    def _keys_high(self) -> float:
        """Height of the keys below the table: a row, or two where three keys have no room."""
        return KEY_ROW if self._room >= KEYS_WIDE or self.repair.isHidden() else 86.0

    @property
    def _care_below(self) -> float:
        """Height of the care below the keys, where beside all of them there is no room; else 0."""
        return 0.0 if self._room >= KEYS_WIDE + text_width(RUNNING, NOTE) / 2 else 24.0

    def paint(self, p: QPainter) -> None:
        """Headline over the table; labels of hose and field."""
        lamping, theme, wide = self._lamping, self.look.theme, self.logical_width
        left, found = LEFT_WIDE + GAP, lamping.found
        head, below = found.headline, found.below
        below = lamping.turn_words or below
        box = QRectF(left, 0, wide - left, 36)
        draw_text(p, box, head, HEAD, theme.ink, Weight.STRONG)
        if lamping.refused:
            line = QRectF(left, 34, wide - left, 32)
            draw_paragraph_that_fits(p, line, lamping.refused, BODY, theme.ink)
        else:
            draw_one_of(p, QRectF(left, 36, wide - left, 24), (below,), BODY, theme.ink2)
        high = self.logical_height
        if self.hose_on.isVisible():
            y = high - 236 + 54
            draw_text(p, QRectF(0, y, 124, 36), "Vacuum hose", BODY, theme.ink, Weight.LABEL)
        words = {
            How.LAMP: "The mark reads, degrees before TDC",
            How.PUMP: f"{lamping.asked.title}. Does the needle stay?",
            How.STOP: "The mark is met so many ° after true TDC",
        }[lamping.asked.how]
        line = QRectF(0, high - 82, LEFT_WIDE, 22)
        draw_text(p, line, words, BODY, theme.ink, Weight.LABEL)
        if lamping.asked.how is not How.LAMP:
            box = QRectF(0, high - 236, LEFT_WIDE, 140)
            draw_paragraph_that_fits(p, box, CARE_OF[lamping.asked.how], BODY, theme.ink2)
        foot = self.table.geometry().bottom() / self.look.scale
        shown = [key for key in (self.repair, self.again, self.book) if key.isVisible()]
        x = max((key.geometry().right() / self.look.scale + 14 for key in shown), default=left)
        if self._care_below:
            line = QRectF(left, foot + 6 + self._keys_high, wide - left, self._care_below)
            draw_one_of(p, line, (RUNNING, RUNNING_IN_SHORT), NOTE, theme.ink2)
            return
        if text_width(RUNNING, NOTE) > wide - x:
            # Beside all three keys the care has two lines, and the codes none.
            draw_paragraph(p, QRectF(x, foot + 6, wide - x, 44), RUNNING, NOTE, theme.ink2)
            return
        told = (CODES, RUNNING) if self.table.shows_suspects else (RUNNING,)
        for nth, words in enumerate(told):
            draw_text(p, QRectF(x, foot + 6 + 22 * nth, wide - x, 22), words, NOTE, theme.ink2)


def speed_slider(look: Look, lamping: Lamping, parent: QWidget) -> FigureSlider:
    """The engine's speed."""
    slider = FigureSlider(
        look,
        parent,
        "Speed",
        (0.0, FASTEST_RPM),
        50.0,
        lambda: lamping.asked.speed_rpm,
        lambda value: f"{value:,.0f} rpm",
    )
    slider.moved.connect(lamping.set_speed)
    return slider


def mbar_words(value: float) -> str:
    """A depression in mbar, with inches of mercury beside it."""
    return f"{value:.0f} mbar, {value / MBAR_PER_INHG:.1f} inHg"


REPAIRS: Final = {
    Suspect.SETTING: "Turn the body: set it right",
    Suspect.WEIGHTS: "Free the weights and oil them",
    Suspect.CAN: "Fit another can",
    Suspect.HOSE: "Fit another hose",
    Suspect.DAMPER: "Mark true TDC anew, then set it",
}
CARE_OF: Final = {
    How.PUMP: "Engine off. The pump takes the hose's place; hold the depression for ten seconds.",
    How.STOP: (
        "Engine off, plugs out, earth off. Bar gently on to the stop from both sides; the middle "
        "is true TDC. Never crank against a stop."
    ),
}
CODES: Final = "Cross: ruled out. Solid: fits. Hollow: would tell. Dot: says nothing."
