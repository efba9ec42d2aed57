"""Rows that a press, or Up and Down with Return, act on."""

from typing import ClassVar

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.widgets.stepping import up_or_down
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.drawing.codes import flat_pen


class PickedRows(PageView):
    """A subclass gives the count of rows, their height, what lies above them, and `act`."""

    head_high = 0.0
    called: ClassVar[tuple[str, str]]
    """Its name for finding it, and the one that is read out."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.picked = 0
        name, said = self.called
        self.setObjectName(name)
        self.setAccessibleName(said)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        model.changed.connect(self.refresh)
        model.dragged.connect(self.refresh)

    @property
    def row_count(self) -> int:
        """How many rows there are."""
        raise NotImplementedError

    @property
    def row_high(self) -> float:
        """How high each is."""
        raise NotImplementedError

    def act(self, nth: int) -> None:
        """A row was pressed."""
        raise NotImplementedError

    def row_box(self, nth: int) -> QRectF:
        """Where a row lies."""
        top = self.head_high + nth * self.row_high
        return QRectF(0, top, self.logical_width, self.row_high)

    def paint_picked(self, p: QPainter) -> None:
        """A line at the left of the row that Return acts on, while the keyboard is here."""
        if self.hasFocus() and self.picked < self.row_count:
            box = self.row_box(self.picked)
            p.setPen(flat_pen(self.look.theme.now, 4))
            p.drawLine(box.topLeft(), box.bottomLeft())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Act on the row below the pointer."""
        if event is not None:
            nth = int((event.position().y() / self.look.scale - self.head_high) // self.row_high)
            if 0 <= nth < self.row_count:
                self.picked = nth
                self.act(nth)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down pick, Return acts; the rest is the window's."""
        if event is None:
            return
        by = up_or_down(event)
        if by:
            self.picked = min(max(self.picked + by, 0), self.row_count - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.act(self.picked)
        else:
            event.ignore()
