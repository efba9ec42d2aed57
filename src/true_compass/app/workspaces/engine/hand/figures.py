"""Exact figures: one number a field, in three groups. Everything else is under "All figures"."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Final

from PyQt6.QtCore import QPointF, QRectF, QSignalBlocker
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.fields import field_style, typed_number
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.engine.hand.model import HandModel
from true_compass.core.crank.layout import Layout
from true_compass.core.crank.shaping import Clash, reshaped, with_bank, with_throw
from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit, parse_gap_mm, parse_length_mm, parse_number
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import RIGHT, draw_text
from true_compass.drawing.theme import LABEL, NOTE, Weight

HEAD: Final = 24.0
ROW: Final = 52.0
FIELD: Final = 30.0
COLUMNS: Final = 4
MOST_THROWS: Final = 8
MOST_BANKS: Final = 4


@dataclass(frozen=True, slots=True)
class Figure:
    """One field: its group, label and unit, what it shows, and the engine with another value."""

    group: str
    label: str
    unit: str
    show: Callable[[Engine], str]
    put: Callable[[Engine, str], Engine]
    of_layout: Callable[[Layout], str] | None = None

    def of(self, layout: Layout, engine: Engine) -> str:
        """What it shows where a layout is drawn that the engine cannot have."""
        return self.of_layout(layout) if self.of_layout is not None else self.show(engine)


def _number(value: float) -> str:
    return f"{value:.6g}"


def _on(engine: Engine, layout: Layout) -> Engine:
    """The engine on another layout, or an error that says why its order forbids that."""
    found = reshaped(engine, layout)
    if isinstance(found, Clash):
        raise EngineError("firing order", f"forbids it: {found.failure.words}")
    return found


def _throw(place: int) -> Figure:
    def put(engine: Engine, text: str) -> Engine:
        angle = parse_number(f"throw {place + 1}", text)
        return _on(engine, with_throw(engine.layout, place, angle))

    def show(layout: Layout) -> str:
        return _number(layout.throws[place].angle_deg)

    label = f"Throw {place + 1}"
    return Figure("Crank", label, "°", lambda engine: show(engine.layout), put, show)


def _bank(place: int, name: str) -> Figure:
    def put(engine: Engine, text: str) -> Engine:
        angle = parse_number(f"bank {name}", text)
        return _on(engine, with_bank(engine.layout, place, angle, alone=True))

    def show(layout: Layout) -> str:
        return _number(layout.banks[place].angle_deg)

    label = f"Bank {name}"
    return Figure("Banks", label, "°", lambda engine: show(engine.layout), put, show)


def _length(label: str, name: str) -> Figure:
    def put(engine: Engine, text: str) -> Engine:
        change: dict[str, Any] = {name: parse_length_mm(label.lower(), text)}
        return replace(engine, **change)

    return Figure("Sizes", label, "mm", lambda engine: _number(getattr(engine, name)), put)


def _lash(kind: Kind) -> Figure:
    label = f"{kind.letter} lash"

    def show(engine: Engine) -> str:
        if engine.train.hydraulic:
            return "hydraulic"
        return _number(engine.cam.timing(kind).lash_mm)

    def put(engine: Engine, text: str) -> Engine:
        if engine.train.hydraulic:
            raise EngineError(label, "is 0 with hydraulic tappets: All figures has the tappets")
        old = engine.cam.timing(kind)
        gap_mm = parse_gap_mm(text, GapUnit.MM, old.lash_mm or 0.3)
        return replace(engine, cam=engine.cam.with_timing(kind, replace(old, lash_mm=gap_mm)))

    return Figure("Sizes", label, "mm", show, put)


def _split() -> Figure:
    def put(engine: Engine, text: str) -> Engine:
        split = parse_number("split pins", text)
        throws = tuple(replace(throw, split_deg=split) for throw in engine.layout.throws)
        return _on(engine, replace(engine.layout, throws=throws))

    def show(engine: Engine) -> str:
        splits = {throw.split_deg for throw in engine.layout.throws}
        return _number(splits.pop()) if len(splits) == 1 else ""

    return Figure("Banks", "Split pins", "°", show, put)


def _name() -> Figure:
    def put(engine: Engine, text: str) -> Engine:
        if not text.strip():
            raise EngineError("name", "must not be empty: give the engine a name")
        return replace(engine, name=text.strip())

    return Figure("Sizes", "Name", "", lambda engine: engine.name, put)


def figures_of(engine: Engine) -> tuple[Figure, ...]:
    """The figures of an engine, those that it has."""
    layout = engine.layout
    banks = layout.banks_in_use
    throws = range(len(layout.throws)) if len(layout.throws) <= MOST_THROWS else ()
    crank = [_throw(place) for place in throws]
    leaning = [_bank(bank, layout.banks[bank].name) for bank in banks]
    shared = len(banks) == 2 and len(layout.throws) < layout.cylinder_count
    return (
        *crank,
        *(leaning if 1 < len(leaning) <= MOST_BANKS else ()),
        *((_split(),) if shared else ()),
        _length("Bore", "bore_mm"),
        _length("Stroke", "stroke_mm"),
        _length("Rod", "rod_mm"),
        _length("Pin offset", "pin_offset_mm"),
        *(_lash(kind) for kind in Kind),
        _length("Damper", "damper_mm"),
        _name(),
    )


class FiguresForm(Painted):
    """The fields; each keystroke that can be changes the engine, others are explained."""

    def __init__(self, model: HandModel, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.model = model
        self.figures: tuple[Figure, ...] = ()
        self.fields: list[QLineEdit] = []
        self.wrong: frozenset[str] = frozenset()
        self.setObjectName("figures")
        self.setAccessibleName("Exact figures")
        look.changed.connect(self._arrange)

    def follow(self) -> None:
        """Show the engine; a field that is typed in stays as it is typed."""
        if self.model.live is not None:
            return
        engine = self.model.settled
        clash = self.model.clash
        figures = figures_of(engine)
        if [f.label for f in figures] != [f.label for f in self.figures]:
            self._make(figures)
        # The same labels can mean other banks or throws of another engine.
        self.figures = figures
        for figure, field in zip(self.figures, self.fields, strict=True):
            if not field.hasFocus():
                text = figure.show(engine) if clash is None else figure.of(clash.layout, engine)
                with QSignalBlocker(field):
                    field.setText(typed_number(text))
                field.setCursorPosition(0)
        if not any(field.hasFocus() for field in self.fields):
            self.wrong = frozenset()
        if clash is not None:
            self.wrong = frozenset(
                figure.label
                for figure in self.figures
                if figure.of(clash.layout, engine) != figure.show(engine)
            )
        self._arrange()

    def _make(self, figures: tuple[Figure, ...]) -> None:
        for field in self.fields:
            # What is typed into a field that goes is for nobody.
            field.blockSignals(True)
            field.setParent(None)
            field.deleteLater()
        self.figures, self.fields, self.wrong = figures, [], frozenset()
        for place, figure in enumerate(figures):
            field = QLineEdit(self)
            name = f"{figure.label}, {figure.unit}" if figure.unit else figure.label
            field.setObjectName(f"figure_{figure.label.lower().replace(' ', '_')}")
            field.setAccessibleName(name)
            field.setMaxLength(120)
            field.textEdited.connect(partial(self._on_edit, place))
            field.editingFinished.connect(self.follow)
            field.show()
            self.fields.append(field)

    def _on_edit(self, place: int, text: str) -> None:
        figure = self.figures[place]
        try:
            engine = figure.put(self.model.settled, text)
        except EngineError as error:
            self.wrong = frozenset((figure.label,))
            self.model.problem = f"{figure.label} {error}."
            self.model.told.emit()
        else:
            self.wrong = frozenset()
            self.model.put_engine(engine, f"edit of {figure.label}", f"figure {figure.label}")
        self._style()
        self.update()

    # Places ------------------------------------------------------------------------------------

    def _groups(self) -> list[tuple[str, list[int]]]:
        """Every group with the places of its fields."""
        found: dict[str, list[int]] = {}
        for place, figure in enumerate(self.figures):
            found.setdefault(figure.group, []).append(place)
        return list(found.items())

    def _boxes(self) -> tuple[list[tuple[str, float]], dict[int, QRectF]]:
        """Headings with their heights, and the box of each field."""
        heads: list[tuple[str, float]] = []
        boxes: dict[int, QRectF] = {}
        y, unit = 0.0, (self.logical_width + 8) / COLUMNS
        for group, places in self._groups():
            heads.append((group, y))
            y += HEAD
            for at, place in enumerate(places):
                x, row = at % COLUMNS, at // COLUMNS
                boxes[place] = QRectF(x * unit, y + row * ROW, unit - 8, ROW)
            y += ROW * (-(-len(places) // COLUMNS)) + 4
        return heads, boxes

    @property
    def wanted_height(self) -> float:
        """How high it is, in pixels of the design."""
        rows = sum(-(-len(places) // COLUMNS) for _, places in self._groups())
        return len(self._groups()) * (HEAD + 4) + rows * ROW

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place the fields."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        _, boxes = self._boxes()
        for place, box in boxes.items():
            at = self.look.scaled(box.x(), box.y() + 20, box.width(), FIELD)
            self.fields[place].setGeometry(at)
        self._style()
        self.update()

    def _style(self) -> None:
        for figure, field in zip(self.figures, self.fields, strict=True):
            wrong = figure.label in self.wrong
            sheet = field_style(self.look.theme, self.look.scale, wrong=wrong)
            if field.styleSheet() != sheet:
                field.setStyleSheet(sheet)

    def paint(self, p: QPainter) -> None:
        """Draw headings, labels and units."""
        theme = self.look.theme
        heads, boxes = self._boxes()
        for words, y in heads:
            box = QRectF(0, y, self.logical_width, 24)
            used = draw_text(p, box, words, LABEL, theme.ink, Weight.STRONG)
            p.setPen(flat_pen(theme.line, 1.4))
            p.drawLine(QPointF(used + 10, y + 12), QPointF(self.logical_width, y + 12))
        for place, box in boxes.items():
            figure = self.figures[place]
            wrong = figure.label in self.wrong
            label = QRectF(box.x(), box.y(), box.width(), 20)
            weight = Weight.STRONG if wrong else Weight.BODY
            draw_text(p, label, figure.label, NOTE, theme.ink if wrong else theme.ink2, weight)
            draw_text(p, label, figure.unit, NOTE, theme.ink2, Weight.BODY, RIGHT)
