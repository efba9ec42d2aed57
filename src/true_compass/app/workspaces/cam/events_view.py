"""The other ways to read a cam: a row of ways, the figures of the chosen one, what they say."""

from functools import partial
from typing import Final

import numpy as np
from PyQt6.QtCore import QEvent, QObject, QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QLineEdit, QPlainTextEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, TabButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.app.workspaces.cam.wheel_view import MapView
from true_compass.core.degreeing.own_card import Row
from true_compass.core.degreeing.ways import WAYS, Ask, Told, Way, rows_of
from true_compass.core.limits import EngineError
from true_compass.drawing.codes import flat_pen, polygon, round_pen, rounded
from true_compass.drawing.text import draw_one_of, draw_paragraph, draw_text, paragraph_height
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

LEFT: Final = 400.0
ROW: Final = 44.0
MOST_ASKS: Final = 12
MOST_TEXT: Final = 40_000


class RowsField(QPlainTextEdit):
    """Several lines; what was typed counts when the keyboard leaves it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setTabChangesFocus(True)


class EventsView(PageView):
    """One way at a time."""

    def __init__(self, look: Look, model: CamModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.way: Way = WAYS[0]
        self.setObjectName("cam_events")
        self.setAccessibleName("Events and other ways")
        self.tabs = [TabButton(look, way.word, self) for way in WAYS]
        for way, tab in zip(WAYS, self.tabs, strict=True):
            tab.setObjectName(f"way_{way.slug}")
            tab.clicked.connect(partial(self.show_way, way))
        self.fields = [QLineEdit(self) for _ in range(MOST_ASKS)]
        for nth, field in enumerate(self.fields):
            field.setMaxLength(20)
            field.editingFinished.connect(partial(self._typed, nth))
        self.tables = [RowsField(self) for _ in range(2)]
        for table in self.tables:
            table.installEventFilter(self)
        self.read_in = DrawnButton(look, "Read a table in…", self)
        self.read_in.setObjectName("read_table")
        self.read_in.clicked.connect(self._read_in)
        self.map = MapView(look, model, self)
        self.map.setObjectName("events_map")
        self._told: tuple[object, object, Way, Told] | None = None
        model.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    # What is typed ----------------------------------------------------------------------------

    @property
    def asks(self) -> tuple[Ask, ...]:
        """The figures of the way, those in a line of their own first."""
        return tuple(ask for ask in self.way.asks(self._model.engine) if not ask.rows)[:MOST_ASKS]

    @property
    def table_asks(self) -> tuple[Ask, ...]:
        """The tables of the way."""
        return tuple(ask for ask in self.way.asks(self._model.engine) if ask.rows)

    @property
    def told(self) -> Told:
        """What the figures say."""
        rig, sheet, way = self._model.rig, self._model.sheet, self.way
        known = self._told
        if known is None or known[0] is not rig or known[1] is not sheet or known[2] is not way:
            known = self._told = (rig, sheet, way, way.tell(rig, sheet))
        return known[3]

    def show_way(self, way: Way) -> None:
        """Show another way."""
        self.way = way
        self.refresh()

    def _typed(self, nth: int) -> None:
        if nth < len(self.asks):
            self._put(self.asks[nth], self.fields[nth].text())

    def _put(self, ask: Ask, text: str) -> None:
        sheet = self._model.sheet
        if text.strip() != sheet.text(ask.key).strip():
            self._model.write(sheet.with_text(ask.key, text.strip()), ask.label.lower())

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """A table counts when the keyboard leaves it."""
        if event is not None and event.type() == QEvent.Type.FocusOut:
            for ask, table in zip(self.table_asks, self.tables, strict=False):
                if table is watched:
                    self._put(ask, table.toPlainText()[:MOST_TEXT])
        return super().eventFilter(watched, event)

    def _read_in(self) -> None:
        """A lift table from a file, into the first table that is empty."""
        path = self._model.desk.files.ask_readings_table()
        asks = self.table_asks
        if path is None or not asks:
            return
        from true_compass.files.lift_table import read_lift_table  # opening the page need not wait
        from true_compass.files.problems import EngineFileError

        empty = [ask for ask in asks if not self._model.sheet.text(ask.key)]
        try:
            table = read_lift_table(path)
        except (EngineFileError, EngineError) as error:
            self._model.desk.say(str(error))
            return
        pairs = zip(table.angles_deg, table.lifts_mm, strict=True)
        lines = "\n".join(f"{angle:.10g} {lift:.10g}" for angle, lift in pairs)
        self._put((empty or list(asks))[0], lines)

    # Showing ----------------------------------------------------------------------------------

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        for way, tab in zip(WAYS, self.tabs, strict=True):
            tab.setChecked(way is self.way)
        wrong, sheet = self.told.wrong, self._model.sheet
        asks = self.asks
        for nth, field in enumerate(self.fields):
            field.setVisible(nth < len(asks))
            if nth >= len(asks):
                continue
            ask = asks[nth]
            if field.accessibleName() != ask.label:
                field.setAccessibleName(ask.label)
                field.setObjectName(ask.key.replace(".", "_"))
            if not field.hasFocus() and field.text() != sheet.text(ask.key):
                field.setText(sheet.text(ask.key))
            style = field_style(self.look.theme, self.look.scale, wrong=ask.key == wrong)
            if field.styleSheet() != style:
                field.setStyleSheet(style)
        tables = self.table_asks
        for nth, table in enumerate(self.tables):
            table.setVisible(nth < len(tables))
            if nth < len(tables):
                self._show_table(table, tables[nth], wrong)
        self.read_in.setVisible(bool(tables))
        self.arrange()
        self.update()

    def _show_table(self, table: RowsField, ask: Ask, wrong: str) -> None:
        if table.accessibleName() != ask.label:
            table.setAccessibleName(ask.label)
            table.setObjectName(ask.key.replace(".", "_"))
        text = self._model.sheet.text(ask.key)
        if not table.hasFocus() and table.toPlainText() != text:
            table.setPlainText(text)
        style = field_style(self.look.theme, self.look.scale, wrong=ask.key == wrong)
        style = style.replace("QLineEdit", "QPlainTextEdit")
        if table.styleSheet() != style:
            table.setStyleSheet(style)

    @property
    def _fields_top(self) -> float:
        return 124.0

    def arrange(self) -> None:
        """Put every widget in its place."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        each = (wide - 5 * 6) / 6 if wide < 1000 else 168.0
        for nth, tab in enumerate(self.tabs):
            tab.setGeometry(put(nth * (each + 6), 0, each, 34))
        left = min(LEFT, wide * 0.46)
        row = min(ROW, (high - self._fields_top) / max(len(self.asks), 1))
        top = self._fields_top
        for nth, field in enumerate(self.fields):
            field.setGeometry(put(left - 186, top + nth * row, 96, row - 6))
        tables = self.table_asks
        top += row * len(self.asks) + 28
        room = (left - 12) / 2
        for nth, table in enumerate(self.tables[: len(tables)]):
            table.setGeometry(put(nth * (room + 12), top, room, high - top - 52))
        self.read_in.setGeometry(put(0, high - 42, left, 38))
        # The map says where one is; a table has its own curves there.
        self.map.setVisible(not tables and high >= 430 and wide - left >= 420)
        self.map.setGeometry(put(left + 48, high - 190, wide - left - 52, 180))

    def paint(self, p: QPainter) -> None:
        """What the way is, the labels, what the figures say."""
        theme, wide = self.look.theme, self.logical_width
        draw_text(p, QRectF(0, 46, wide, 36), self.told.headline, HEAD, theme.ink, Weight.STRONG)
        draw_one_of(p, QRectF(0, 84, wide, 24), (self.way.about,), BODY, theme.ink2)
        left = min(LEFT, wide * 0.46)
        row = min(ROW, (self.logical_height - self._fields_top) / max(len(self.asks), 1))
        for nth, ask in enumerate(self.asks):
            y = self._fields_top + nth * row
            label = QRectF(0, y, left - 194, row - 6)
            draw_one_of(p, label, (ask.label,), LABEL, theme.ink, Weight.LABEL)
            unit = QRectF(left - 84, y, 110, row - 6)
            draw_one_of(p, unit, (ask.unit, ask.unit.split(",")[0]), BODY, theme.ink2)
        top = self._fields_top + row * len(self.asks)
        room = (left - 12) / 2
        for nth, ask in enumerate(self.table_asks):
            head = QRectF(nth * (room + 12), top, room, 24)
            draw_one_of(p, head, (ask.label, ask.label.split(":")[0]), NOTE, theme.ink2)
        foot = self.logical_height - (200 if self.map.isVisible() else 6)
        self._paint_lines(p, QRectF(left + 48, 126, wide - left - 52, foot - 126))

    def _paint_lines(self, p: QPainter, box: QRectF) -> None:
        theme, y = self.look.theme, box.top()
        for line in self.told.lines:
            high = paragraph_height(line, LABEL, box.width())
            if y + high > box.bottom():
                return
            draw_paragraph(p, QRectF(box.left(), y, box.width(), high + 4), line, LABEL, theme.ink)
            y += high + 12
        if self.table_asks:
            self._paint_curves(p, QRectF(box.left(), y + 8, box.width(), box.bottom() - y - 8))

    def _paint_curves(self, p: QPainter, box: QRectF) -> None:
        """The tables as curves: what is out of line shows."""
        if box.height() < 120:
            return
        theme, found = self.look.theme, []
        for ask in self.table_asks:
            try:
                rows = rows_of(self._model.sheet.text(ask.key))
            except EngineError:
                continue
            if len(rows) > 1:
                found.append((ask, sorted(rows, key=lambda row: row.after_tdc_deg)))
        if not found:
            return
        rounded(p, box, 6, theme.sheet, flat_pen(theme.line, 1.8))
        plot = box.adjusted(16, 16, -16, -30)
        every: list[Row] = [row for _, rows in found for row in rows]
        low = min(row.after_tdc_deg for row in every)
        high = max(row.after_tdc_deg for row in every)
        most = max(max(row.lift_mm for row in every), 0.1)
        for ask, rows in found:
            at = np.array([row.after_tdc_deg for row in rows])
            lift = np.array([row.lift_mm for row in rows])
            xs = plot.left() + (at - low) / max(high - low, 1e-6) * plot.width()
            ys = plot.bottom() - lift / most * plot.height()
            p.setPen(round_pen(theme.ink, 3.4))
            p.drawPolyline(polygon(xs, ys))
            if ask.key.endswith("intake"):
                p.setPen(round_pen(theme.sheet, 1.4))
                p.drawPolyline(polygon(xs, ys))
        if low < 0 < high:
            x = plot.left() + (0 - low) / (high - low) * plot.width()
            p.setPen(flat_pen(theme.line, 1.4))
            p.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
            label = QRectF(x - 30, plot.bottom() + 4, 60, 20)
            draw_text(p, label, "TDC", NOTE, theme.ink, Weight.STRONG, 0x84)
