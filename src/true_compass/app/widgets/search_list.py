"""A list that can be searched by typing: rigs, recent engines, and whatever else grows."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Final

from PyQt6.QtCore import QAbstractListModel, QEvent, QModelIndex, QObject, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import (
    QFrame,
    QLineEdit,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.over import Over
from true_compass.drawing.codes import rounded
from true_compass.drawing.text import RIGHT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, NOTE, Weight

ROW: Final = 52.0
FIELD: Final = 40.0
EDGE: Final = 12.0
KEYS: Final = {
    Qt.Key.Key_Down: 1,
    Qt.Key.Key_Up: -1,
    Qt.Key.Key_PageDown: 8,
    Qt.Key.Key_PageUp: -8,
}


@dataclass(frozen=True, slots=True)
class Line:
    """One line: a head, what stands at its right, a smaller line below, and what a press does."""

    head: str
    right: str
    below: str
    act: Callable[[], object]
    open_now: bool = False

    def begins_with(self, typed: list[str]) -> bool:
        """Whether every typed word begins one of the head's."""
        heads = self.head.casefold().replace("(", " ").split()
        return all(any(head.startswith(word) for head in heads) for word in typed)

    @property
    def words(self) -> str:
        """All that can be searched."""
        return f"{self.head} {self.right} {self.below}".casefold()


class LineModel(QAbstractListModel):
    """The lines that fit what was typed."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._all: list[Line] = []
        self.lines: list[Line] = []

    def put(self, lines: Sequence[Line]) -> None:
        """Hold other lines."""
        self._all = list(lines)
        self.filter("")

    def filter(self, typed: str) -> None:
        """Keep the lines in which every typed word occurs."""
        wanted = typed.casefold().split()
        self.beginResetModel()
        found = [line for line in self._all if all(word in line.words for word in wanted)]
        # A name that was begun comes before words that only occur.
        self.lines = sorted(found, key=lambda line: not line.begins_with(wanted))
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        """How many lines fit."""
        return len(self.lines)

    def data(self, index: QModelIndex, role: int = 0) -> Any:
        """Words for the screen reader; the delegate paints the line itself."""
        line = self.lines[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return line.head
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return ", ".join(filter(None, (line.head, line.right, line.below)))
        return None


class LineDelegate(QStyledItemDelegate):
    """Paints a line in the colours and sizes of the program."""

    def __init__(self, look: Look, model: LineModel, parent: QObject) -> None:
        super().__init__(parent)
        self._look = look
        self._model = model

    def sizeHint(self, _option: QStyleOptionViewItem, _index: QModelIndex) -> QSize:
        """All lines are alike."""
        return QSize(10, round(ROW * self._look.scale))

    def paint(self, p: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Head and right on one line, the smaller words below."""
        if p is None or index.row() >= len(self._model.lines):
            return
        line, theme, s = self._model.lines[index.row()], self._look.theme, self._look.scale
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.translate(option.rect.left(), option.rect.top())
        p.scale(s, s)
        box = QRectF(0, 0, option.rect.width() / s, option.rect.height() / s)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        p.fillRect(box, theme.now_tint if chosen else theme.sheet)
        if line.open_now:
            p.fillRect(QRectF(0, 4, 4, box.height() - 8), theme.now)
        left, width = EDGE + 2, box.width() - 2 * EDGE - 2
        used = text_width(line.head, BODY, Weight.LABEL) + 12
        head = QRectF(left, 4, min(used, width), 24)
        draw_text(p, head, line.head, BODY, theme.ink, Weight.LABEL)
        right = QRectF(left + used, 4, width - used, 24)
        if right.width() > 40:
            draw_one_of(p, right, (line.right,), NOTE, theme.ink2, Weight.BODY, RIGHT)
        draw_text(p, QRectF(left, 26, width, 22), line.below, NOTE, theme.ink2)
        p.restore()


class SearchList(Over):
    """The field and the lines below it. Typing filters, arrows choose, Return takes, Esc leaves."""

    def __init__(self, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self.setObjectName("search_list")
        self.field = QLineEdit(self)
        self.field.setMaxLength(80)
        self.field.textChanged.connect(self._on_typed)
        self.field.installEventFilter(self)
        self._nothing = ""
        self.model = LineModel(self)
        self.view = QListView(self)
        self.view.setModel(self.model)
        self.view.setItemDelegate(LineDelegate(look, self.model, self))
        self.view.setFrameShape(QFrame.Shape.NoFrame)
        self.view.setMouseTracking(True)
        self.view.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.view.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.view.clicked.connect(self._on_clicked)
        self.view.entered.connect(self.view.setCurrentIndex)
        look.changed.connect(self._dress)
        self.hide()

    def show_lines(self, title: str, lines: Sequence[Line], hint: str, nothing: str = "") -> None:
        """Show lines, with the keyboard in the field; `hint` stands in the empty field, `nothing`
        is said where there are none to search.
        """
        self._nothing = "" if lines else nothing
        self.setAccessibleName(title)
        self.view.setAccessibleName(title)
        self.field.setAccessibleName(f"{title}: type to search")
        self.field.setPlaceholderText(hint)
        self.model.put(lines)
        self.field.clear()
        self._dress()
        self.show()
        self.raise_()
        self.field.setFocus()
        here = next((row for row, line in enumerate(lines) if line.open_now), 0)
        self._choose(here)

    def wanted_height(self, room: float) -> float:
        """How high it would be, in pixels of the design, within a room."""
        return min(FIELD + 2 * EDGE + ROW * max(len(self.model.lines), 1) + 8, room)

    def _choose(self, row: int) -> None:
        if self.model.lines:
            at = self.model.index(min(max(row, 0), len(self.model.lines) - 1))
            self.view.setCurrentIndex(at)
            self.view.scrollTo(at)

    def _on_typed(self, text: str) -> None:
        self.model.filter(text)
        self._choose(0)
        self.update()

    def _on_clicked(self, index: QModelIndex) -> None:
        self._take(index.row())

    def _take(self, row: int) -> None:
        if 0 <= row < len(self.model.lines):
            act = self.model.lines[row].act
            self.leave()
            act()

    def leave(self) -> None:
        """Put the list away."""
        self.hide()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Keys of the list while the field has the keyboard."""
        if watched is self.field and isinstance(event, QKeyEvent):
            if event.type() == QEvent.Type.KeyPress and self._on_key(Qt.Key(event.key())):
                return True
        elif watched is self.field and event is not None and event.type() == QEvent.Type.FocusOut:
            # A press elsewhere puts the list away.
            self.hide()
        return super().eventFilter(watched, event)

    def _on_key(self, key: Qt.Key) -> bool:
        if key in KEYS:
            self._choose(self.view.currentIndex().row() + KEYS[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take(self.view.currentIndex().row())
        elif key == Qt.Key.Key_Escape:
            self.leave()
        else:
            return False
        return True

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A press beside the lines is no press on what lies below."""

    def ground(self) -> QColor:
        """The colour of a sheet."""
        return self.look.theme.sheet

    def _dress(self) -> None:
        theme, scale = self.look.theme, self.look.scale
        self.field.setStyleSheet(field_style(theme, scale, wrong=False))
        self.view.setStyleSheet(f"QListView {{ background: {theme.sheet.name()}; }}")
        self.arrange()

    def arrange(self) -> None:
        """Place field and lines."""
        put, width = self.look.scaled, self.logical_width
        self.field.setGeometry(put(EDGE, EDGE, width - 2 * EDGE, FIELD))
        top = FIELD + 2 * EDGE
        self.view.setGeometry(put(2, top, width - 4, max(self.logical_height - top - 4, 1)))
        self.update()

    def paint(self, p: QPainter) -> None:
        """The edge, and a sentence where nothing fits."""
        theme = self.look.theme
        box = QRectF(0, 0, self.logical_width, self.logical_height)
        rounded(p, box.adjusted(1, 1, -1, -1), 4, theme.sheet, QPen(theme.line, 2))
        if not self.model.lines:
            words = QRectF(EDGE, FIELD + 2 * EDGE, self.logical_width - 2 * EDGE, 28)
            told = self._nothing or "Nothing fits. Type less."
            draw_text(p, words, told, BODY, theme.ink2)
            self.view.hide()
        else:
            self.view.show()
