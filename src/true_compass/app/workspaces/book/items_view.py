"""The head, cylinder by cylinder: every item with its change since last left. A press picks one."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.book.model import BookModel
from true_compass.core.items import Item
from true_compass.drawing.codes import Place, flat_pen, number_disc, rounded
from true_compass.drawing.job_chart import paint_item
from true_compass.drawing.text import draw_one_of, draw_text
from true_compass.drawing.theme import BODY, NOTE, Weight

TOP: Final = 28.0
MOST_ROW: Final = 62.0
DISC_ROOM: Final = 46.0


class HeadItems(Painted):
    """One row a cylinder, in cylinder order."""

    picked = pyqtSignal()

    def __init__(self, look: Look, model: BookModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("book_items")
        self.setAccessibleName("Items and their change since last left")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        model.changed.connect(self.update)

    def boxes(self) -> dict[Item, QRectF]:
        """Where each item is, its figure beside it; for painting and for pressing."""
        by_cylinder: dict[int, list[Item]] = {}
        for item in self._model.items:
            by_cylinder.setdefault(item.cylinder, []).append(item)
        row = min((self.logical_height - TOP - 26) / max(len(by_cylinder), 1), MOST_ROW)
        found = {}
        for nth, (_, items) in enumerate(sorted(by_cylinder.items())):
            each = (self.logical_width - DISC_ROOM - 6) / max(len(items), 2)
            for place, item in enumerate(items):
                x = DISC_ROOM + 2 + place * each
                found[item] = QRectF(x, TOP + nth * row, each - 4, row - 4)
        return found

    def paint(self, p: QPainter) -> None:
        """Draw discs, items and figures."""
        theme, model = self.look.theme, self._model
        draw_text(p, QRectF(6, 3, self.logical_width, 22), "cylinder", NOTE, theme.ink2)
        job = model.job
        points = model.changes(job) if job is not None else {}
        told = model.points_to(job, points) if job is not None else {}
        boxes, drawn = self.boxes(), set()
        for item, box in boxes.items():
            if item.cylinder not in drawn:
                drawn.add(item.cylinder)
                radius = min(15.0, box.height() / 2 - 1)
                at = QPointF(24, box.center().y())
                number_disc(p, at, radius, item.cylinder, Place.BETWEEN, theme, strong=False)
            chosen = item == model.history_item
            if chosen:
                p.fillRect(box, theme.now_tint)
                rounded(p, box.adjusted(-1, -1, 1, 1), 2, None, flat_pen(theme.now, 2.6))
            chip = QRectF(box.left() + 3, box.top() + 3, min(50.0, box.width() * 0.5), 0)
            chip.setHeight(min(box.height() - 6, 44.0))
            chip.moveTop(box.center().y() - chip.height() / 2)
            paint_item(p, chip, item, theme)
            point = points.get(item)
            if point is not None and point.change is not None:
                claims = item in told and bool(told[item].causes)
                strong = Weight.STRONG if claims or chosen else Weight.BODY
                words = f"{point.change.middle:+.2f}".replace("-", "−")
                words = "0" if abs(point.change.middle) < 0.005 else words
                row = QRectF(
                    chip.right() + 5, box.top(), box.right() - chip.right() - 5, box.height()
                )
                colour = theme.ink if strong is Weight.STRONG else theme.ink2
                draw_one_of(p, row, (words, words.replace("0.", ".")), BODY, colour, strong)
        foot = QRectF(6, self.logical_height - 25, self.logical_width, 20)
        draw_text(p, foot, "Figures: change since last left, mm", NOTE, theme.ink2)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Pick the item under the pointer."""
        if event is None:
            return
        at = event.position() / self.look.scale
        for item, box in self.boxes().items():
            if box.contains(at):
                self._model.show_history(item)
                self.picked.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from item to item."""
        items, here = list(self.boxes()), self._model.history_item
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -2, Qt.Key.Key_Down: 2}
        if event is None:
            return
        if event.key() not in steps or not items:
            event.ignore()
            return
        items.sort(key=lambda item: item.cylinder)
        at = items.index(here) if here in items else 0
        at = min(max(at + steps[Qt.Key(event.key())], 0), len(items) - 1)
        self._model.show_history(items[at])
        self.picked.emit()
