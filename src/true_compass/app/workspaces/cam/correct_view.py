"""The correction: what can be moved, the five best ways, and whether anything will touch."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.cam.case_view import CaseView
from true_compass.app.workspaces.cam.correcting import Correcting
from true_compass.app.workspaces.cam.gaps_view import VERDICT, GapsView
from true_compass.app.workspaces.cam.options_view import ROW_HIGH, OptionsView
from true_compass.core.items import Kind
from true_compass.drawing.text import draw_one_of, draw_text
from true_compass.drawing.theme import BODY, NOTE

LEFT_WIDE: Final = 380.0


class CorrectView(PageView):
    """The whole page."""

    moved = pyqtSignal()

    def __init__(self, look: Look, correcting: Correcting, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = correcting
        self.setObjectName("cam_correct")
        self.setAccessibleName("Correction")
        self.case = CaseView(look, correcting, self)
        self.options = OptionsView(look, correcting, self)
        self.gaps = GapsView(look, correcting, self)
        self.shafts = [TabButton(look, words, self) for words in ("Intake cam", "Exhaust cam")]
        for nth, tab in enumerate(self.shafts):
            tab.setObjectName(f"shaft_{nth}")
            tab.clicked.connect(partial(correcting.choose_shaft, nth))
        self.need = QLineEdit(self)
        self.need.setObjectName("cam_need")
        self.need.setAccessibleName("How much earlier the cam must come, crank degrees")
        self.need.setMaxLength(10)
        self.need.editingFinished.connect(self._need_typed)
        self.gap = QLineEdit(self)
        self.angle = QLineEdit(self)
        for field, name, hint in (
            (self.gap, "Measured gap, mm", "gap, mm"),
            (self.angle, "Degrees after TDC, for a soft spring", "° after TDC, for a spring"),
        ):
            field.setAccessibleName(name)
            field.setPlaceholderText(hint)
            field.setMaxLength(10)
        self.take = [DrawnButton(look, f"It is {kind.value}'s", self) for kind in Kind]
        for kind, button in zip(Kind, self.take, strict=True):
            button.setObjectName(f"gap_{kind.value}")
            button.clicked.connect(partial(self._gap_typed, kind))
        self.move_it = DrawnButton(look, "Move it", self)
        self.move_it.setObjectName("move_it")
        self.move_it.clicked.connect(self._move)
        self.say_how = DrawnButton(look, "Say how in Engine…", self)
        self.say_how.setObjectName("say_how")
        self.say_how.clicked.connect(self._say_how)
        correcting.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def _need_typed(self) -> None:
        # Following the readings is an empty field.
        text = self.need.text()
        shown = self._need_text()
        if text != shown:
            self._model.type_need(text)

    def _need_text(self) -> str:
        typed = self._model.typed_deg
        return "" if typed is None else f"{typed:g}"

    def _gap_typed(self, kind: Kind) -> None:
        if self._model.measured(kind, self.gap.text(), self.angle.text()):
            self.gap.clear()

    def _say_how(self) -> None:
        """Where the drive of the camshafts is entered."""
        self._model.model.desk.go_to("Engine", "All figures")

    def _move(self) -> None:
        self._model.move_it()
        self.moved.emit()

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        model, picked = self._model, self._model.picked
        two = len(model.shafts) > 1
        for nth, tab in enumerate(self.shafts):
            tab.setVisible(two)
            tab.setChecked(nth == model.which)
        may = model.may_move
        self.move_it.setEnabled(may)
        if picked is None:
            self.move_it.set_words("Nothing to move", "the file does not say how")
        elif model.waits:
            self.move_it.set_words("Not yet", "a reading cannot be: see Readings")
        elif not picked.known:
            self.move_it.set_words("Not yet", "measure the gaps first")
        elif not picked.clears:
            self.move_it.set_words("Do not move it", "a gap is under its limit")
        else:
            self.move_it.set_words(f"Move it: {picked.words}", "then read the noses again")
        self.say_how.setVisible(picked is None)
        asks = picked is not None and not picked.known
        for widget in (self.gap, self.angle, *self.take):
            widget.setVisible(asks)
        style = field_style(self.look.theme, self.look.scale, wrong=bool(model.refused))
        for field in (self.need, self.gap, self.angle):
            if field.styleSheet() != style:
                field.setStyleSheet(style)
        hint = f"{model.later_deg:+.1f}" if model.is_known else "°"
        if self.need.placeholderText() != hint:
            self.need.setPlaceholderText(hint)
        if not self.need.hasFocus() and self.need.text() != self._need_text():
            self.need.setText(self._need_text())
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Put every widget in its place."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        narrow = wide < 1000
        left = 0.0 if narrow else LEFT_WIDE + 24
        self.case.setVisible(not narrow)
        top = 44.0 if len(self._model.shafts) > 1 else 0.0
        first = wide - 256 if narrow else 0.0
        for nth, tab in enumerate(self.shafts):
            tab.setGeometry(put(first + nth * 128, 0, 122, 34))
            tab.raise_()
        self.case.setGeometry(put(0, top, LEFT_WIDE, high - top - 48))
        self.need.setGeometry(put(150, high - 40, 76, 36))
        rows = min(84 + 5 * ROW_HIGH, max(high * 0.56, 84 + 5 * 44.0))
        self.options.setGeometry(put(left, 0, wide - left, rows))
        below = rows + 8
        foot = high - 46 if narrow else high
        self.gaps.setGeometry(put(left, below, wide - left, foot - below))
        right = wide - VERDICT + 8
        self.move_it.setGeometry(put(right, high - 62, VERDICT - 8, 58))
        for nth, field in enumerate((self.gap, self.angle)):
            field.setGeometry(put(right, below + 34 + 42 * nth, VERDICT - 8, 36))
        for nth, button in enumerate(self.take):
            each = (VERDICT - 14) / 2
            button.setGeometry(put(right + nth * (each + 6), below + 118, each, 36))
        self.say_how.setGeometry(put(left, 136, 200, 40))
        for widget in (self.say_how, self.move_it, self.gap, self.angle, *self.take):
            widget.raise_()

    def paint(self, p: QPainter) -> None:
        """What the field is for."""
        box = QRectF(0, self.logical_height - 40, 146, 36)
        draw_text(p, box, "Or so much earlier", BODY, self.look.theme.ink2)
        unit = QRectF(232, self.logical_height - 40, 160, 36)
        draw_one_of(p, unit, ("crank °, − is later",), NOTE, self.look.theme.ink2)
