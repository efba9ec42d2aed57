"""The form: fields in groups, with what is wrong said right below the field."""

import copy
from dataclasses import replace
from typing import Any, Final

from PyQt6.QtCore import QPointF, QRectF, QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QComboBox, QLineEdit, QScrollArea, QWidget

from true_compass.app.widgets.fields import field_style, typed_number
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.engine.fields import FIELDS, GROUPS, Field
from true_compass.app.workspaces.engine.readers import EXTRA
from true_compass.core.crank.layout import turned_about
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.drawing.codes import flat_pen, paint_problem_mark
from true_compass.drawing.text import RIGHT, draw_paragraph, draw_text, text_width
from true_compass.drawing.theme import LABEL, NOTE, Theme, Weight
from true_compass.files.defaults import DEFAULTS, with_defaults
from true_compass.files.engine_file import sayable_values
from true_compass.files.engine_values import PATHS, engine_from_values, values_of_engine

FIELD_HEIGHT: Final = 32.0
LABEL_HEIGHT: Final = 20.0
ROW: Final = 58.0
ERROR: Final = 50.0
HEAD: Final = 34.0
COLUMNS: Final = 12
NARROW: Final = 415.0
"""Under this width fields take a third more, so that their labels are not cut."""


class Choice(QComboBox):
    """A field to pick from, with the arrow that a style sheet would take away."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(parent)
        self._look = look

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the field, then the arrow."""
        super().paintEvent(event)
        scale = self._look.scale
        at = QPointF(self.width() - 12 * scale, self.height() / 2)
        mark = [QPointF(-5, -3), QPointF(5, -3), QPointF(0, 4)]
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self._look.theme.ink)
        p.drawPolygon(QPolygonF([at + corner * scale for corner in mark]))
        p.end()


class EngineForm(Painted):
    """All fields. `edited` gives an engine after each keystroke that makes one."""

    edited = pyqtSignal(object, str)
    complained = pyqtSignal()

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.setAccessibleName("All figures")
        self.inputs: dict[str, QLineEdit | QComboBox] = {}
        self._values: dict[str, Any] = {}
        self._edits = ""
        self._made: Engine | None = None
        """What the fields as they stand say, where that was worked out already."""
        self.problem: EngineError | None = None
        self._heads: list[tuple[str, float]] = []
        self._places: dict[str, QRectF] = {}
        for field in FIELDS:
            self._make_input(field)
        look.changed.connect(self.arrange)

    def _make_input(self, field: Field) -> None:
        made: QLineEdit | QComboBox
        if field.choices:
            made = Choice(self.look, self)
            for value, word in field.choices:
                made.addItem(word, value)
            made.currentIndexChanged.connect(self._on_edit)
        else:
            made = QLineEdit(self)
            made.setMaxLength(1000)
            made.textEdited.connect(self._on_edit)
        made.setObjectName(field.path)
        made.setAccessibleName(f"{field.label}, {field.unit}" if field.unit else field.label)
        self.inputs[field.path] = made

    def show_engine(self, engine: Engine) -> None:
        """Fill the fields, but leave the one that is being typed in as it is typed."""
        try:
            values = values_of_engine(engine)
        except EngineError as error:
            self.problem = error
            return
        typed = self.inputs_changed_to(engine)
        self._values = values
        self.problem = None
        for field in FIELDS:
            made = self.inputs[field.path]
            if (made.hasFocus() and typed) or self._says(field, made, values):
                continue
            with QSignalBlocker(made):
                self._fill(made, typed_number(field.text(values)))
        self.arrange()

    def _says(self, field: Field, made: QLineEdit | QComboBox, values: dict[str, Any]) -> bool:
        """Whether a text already means the value: then it stays as it was typed, inches and all."""
        if isinstance(made, QComboBox) or not made.text():
            return False
        try:
            return bool(field.read(field.path, made.text()) == field.value(values))
        except EngineError:
            return False

    def inputs_changed_to(self, engine: Engine) -> bool:
        """Whether the fields as they stand already say this engine."""
        if self._made is not None:
            return self._made == engine
        try:
            return bool(self._values) and self._read() == engine
        except EngineError:
            return False

    @staticmethod
    def _fill(made: QLineEdit | QComboBox, text: str) -> None:
        if isinstance(made, QComboBox):
            made.setCurrentIndex(max(made.findData(text), 0))
        elif made.text() != text:
            made.setText(text)
            made.setCursorPosition(0)

    @staticmethod
    def _text(made: QLineEdit | QComboBox) -> str:
        return str(made.currentData()) if isinstance(made, QComboBox) else made.text()

    def _read(self) -> Engine:
        values = copy.deepcopy(self._values)
        for field in FIELDS:
            text = self._text(self.inputs[field.path])
            # An untouched field keeps its value with all the digits that are not shown.
            if text != typed_number(field.text(self._values)):
                field.put(values, text)
        if self._edits == "extra":
            values["extra"] = _with_tools(values["extra"], self._values.get("extra") or [])
        if values.get("bank") == [{"name": "A", "angle_deg": 0.0}]:
            values["bank"] = []
        if not values.get("rods", {}).get("masters"):
            values.pop("rods", None)
        _tidy_cams(values, self._edits)
        if not values["name"]:
            raise EngineError("name", "must not be empty: give the engine a name")
        at_end = values["layout"]["cylinder_1_at"]
        if self._edits == "layout.cylinder_1_at":
            # The other end: every TDC stays, the places change about.
            values["layout"]["cylinder_1_at"] = self._values["layout"]["cylinder_1_at"]
        engine = engine_from_values(with_defaults(values, DEFAULTS))
        if engine.cylinder_1_at.value != at_end:
            engine = replace(engine, layout=turned_about(engine.layout))
        sayable_values(engine)
        return engine

    def _on_edit(self) -> None:
        sender = self.sender()
        path = sender.objectName() if sender is not None else ""
        self._edits = path
        try:
            engine = self._read()
        except EngineError as error:
            self.problem = error
            self.arrange()
            self.complained.emit()
            return
        self.problem = None
        self._made = engine
        self.arrange()
        self.edited.emit(engine, path)
        self._made = None

    @property
    def problem_path(self) -> str:
        """The field that the problem belongs to."""
        if self.problem is None:
            return ""
        named = PATHS.get(self.problem.field, self.problem.field)
        near = {"bank_angle_deg": "bank", "axis_offset_mm": "bank", "pin_deg": "crank.pins_deg"}
        named = near.get(named, named)
        parts = named.split(".")
        for count in range(len(parts), 0, -1):
            if ".".join(parts[:count]) in self.inputs:
                return ".".join(parts[:count])
        ends = [path for path in self.inputs if path.rpartition(".")[2] == named]
        return ends[0] if ends else "layout.form"

    def arrange(self) -> None:
        """Place the fields under one another, with room for the problem."""
        width = self.logical_width - 26
        y, heads = 4.0, []
        for word, fields in GROUPS:
            heads.append((word, y))
            y += HEAD
            x, wrong = 0, False
            for field in fields:
                wide = field.wide
                if width < NARROW:
                    wide = min(-(-wide * 4 // 3), COLUMNS)
                if x + wide > COLUMNS:
                    y, x, wrong = y + ROW + (ERROR if wrong else 0.0), 0, False
                unit = (width + 10) / COLUMNS
                box = QRectF(x * unit, y, wide * unit - 10, ROW)
                self._places[field.path] = box
                place = self.look.scaled(box.x(), y + LABEL_HEIGHT, box.width(), FIELD_HEIGHT)
                self.inputs[field.path].setGeometry(place)
                x += wide
                wrong = wrong or field.path == self.problem_path
            y += ROW + (ERROR if wrong else 0.0) + 6
        self._heads = heads
        height = round(y * self.look.scale)
        if self.height() != height:
            self.resize(self.width(), height)
        self._style()
        self.update()

    def _style(self) -> None:
        for path, made in self.inputs.items():
            sheet = field_style(self.look.theme, self.look.scale, wrong=path == self.problem_path)
            if made.styleSheet() != sheet:
                made.setStyleSheet(sheet)

    def ground(self) -> QColor:
        """Paper."""
        return self.look.theme.paper

    def paint(self, p: QPainter) -> None:
        """Draw headings, labels, units, and the problem below its field."""
        # A keystroke seldom changes any of it, so it is a picture.
        self.paint_whole(p, (self.problem_path, str(self.problem)), self._paint_labels)

    def _paint_labels(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width - 26
        for word, y in self._heads:
            used = draw_text(p, QRectF(0, y, width, 28), word, LABEL, theme.ink, Weight.STRONG)
            p.setPen(flat_pen(theme.line, 1.4))
            p.drawLine(QPointF(used + 12, y + 14), QPointF(width, y + 14))
        for field in FIELDS:
            box = self._places[field.path]
            wrong = field.path == self.problem_path
            weight = Weight.STRONG if wrong else Weight.BODY
            unit_width = text_width(field.unit, NOTE) + 4 if field.unit else 0.0
            label = QRectF(box.x(), box.y(), box.width() - unit_width, LABEL_HEIGHT)
            colour = theme.ink if wrong else theme.ink2
            draw_text(p, label, field.label, NOTE, colour, weight)
            unit = QRectF(box.x(), box.y(), box.width(), LABEL_HEIGHT)
            draw_text(p, unit, field.unit, NOTE, theme.ink2, Weight.BODY, RIGHT)
        if self.problem is not None:
            self._paint_problem(p, theme, width)

    def _paint_problem(self, p: QPainter, theme: Theme, width: float) -> None:
        assert self.problem is not None
        box = self._places[self.problem_path]
        strip = QRectF(0, box.y() + ROW - 2, width, ERROR - 4)
        p.fillRect(strip, theme.sheet)
        p.fillRect(QRectF(0, strip.y(), 3, strip.height()), theme.ink)
        paint_problem_mark(p, QRectF(12, strip.y() + 6, 18, 18), theme.ink, theme.on_ink)
        label = next(f.label for f in FIELDS if f.path == self.problem_path)
        sentence = f"{label} {self.problem}."
        words = QRectF(40, strip.y() + 3, width - 48, ERROR)
        draw_paragraph(p, words, sentence, NOTE + 1, theme.ink)


def _with_tools(rows: list[dict[str, Any]], before: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Injector and brake with what the field does not show, such as their tools."""
    kept = {row["kind"]: {k: v for k, v in row.items() if k not in EXTRA} for row in before}
    return [kept.get(row["kind"], {}) | row for row in rows]


def _tidy_cams(values: dict[str, Any], edits: str) -> None:
    """A card or a lift table takes the place of the events; nothing typed is no card."""
    card = values.get("card") or {}
    sides = [card.get(kind) or {} for kind in ("intake", "exhaust")]
    told = [value for side in sides for key, value in side.items() if key != "events_at"]
    told += [card.get(key) for key in ("lobe_separation_cam_deg", "advance_deg")]
    if not any(value not in (None, [], "") for value in told):
        values["card"] = None
    elif edits.startswith("card."):
        for key in [key for key in values["cam"] if "opens" in key or "closes" in key]:
            values["cam"][key] = None


class FormScroll(QScrollArea):
    """Scrolls the form; its width follows the room."""

    def __init__(self, form: EngineForm, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAccessibleName("All figures")
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(form)
        self._form = form

    def fit(self) -> None:
        """Give the form the width that there is."""
        self._form.resize(self.width(), self._form.height())
        self._form.arrange()
