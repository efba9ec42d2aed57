"""The list of items at the bench: as found, as left, nut and stripe; and the blades."""

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.model import BenchModel
from true_compass.bench.blades import bracket, bracket_words
from true_compass.bench.feel import BLADE_WORDS
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.core.units import gap_in, gap_words
from true_compass.drawing.codes import flat_pen, rounded, tick_box
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_text, text_width
from true_compass.drawing.theme import BODY, LABEL, NOTE, Weight


class ItemList(Painted):
    """Every item: as found, as left, nut, stripe."""

    picked = pyqtSignal(str)

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self._first = 0
        self.setObjectName("bench_items")
        self.setAccessibleName("Items, as found and as left")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        model.changed.connect(self.update)

    @property
    def narrow(self) -> bool:
        """Whether there is room for one figure only: as left, or as found."""
        return self.logical_width < 300

    def _row(self) -> float:
        count = len(self._model.begun.run.work.settings)
        return 38.0 if count <= 12 else 32.0

    def _room(self) -> int:
        return max(int((self.logical_height - 30) / self._row()), 1)

    def names(self) -> list[str]:
        """Names of all items."""
        return list(self._model.begun.run.work.place)

    def paint(self, p: QPainter) -> None:
        """Draw the rows that fit."""
        bench = self._model.bench
        if bench is None:
            return
        theme, width, row = self.look.theme, self.logical_width, self._row()
        heads: tuple[tuple[str, float], ...] = (("as found", 168), ("as left", 262), ("nut", 296))
        if self.narrow:
            heads = (("gap", 172),)
        draw_text(p, QRectF(0, 0, width, 24), "item", NOTE, theme.ink2)
        for text, right in heads:
            draw_text(p, QRectF(0, 0, right, 24), text, NOTE, theme.ink2, Weight.BODY, RIGHT)
        if not self.narrow:
            box = QRectF(0, 0, width, 24)
            draw_text(p, box, "stripe", NOTE, theme.ink2, Weight.BODY, RIGHT)
        self._keep_in_sight()
        for nth in range(
            self._first, min(self._first + self._room(), len(bench.run.work.settings))
        ):
            box = QRectF(0, 28 + (nth - self._first) * row, width, row)
            self._paint_row(p, box, bench.run.work.settings[nth], nth)

    def _keep_in_sight(self) -> None:
        names, room = self.names(), self._room()
        at = names.index(self._model.item) if self._model.item in names else 0
        self._first = min(max(self._first, at - room + 1), at)
        self._first = max(min(self._first, len(names) - room), 0)

    def _paint_row(self, p: QPainter, box: QRectF, setting: Setting, nth: int) -> None:
        theme, state = self.look.theme, self._model.begun.run.state
        item = state.items[nth]
        if setting.name == self._model.item:
            rounded(p, box, 3, theme.now_tint, None)
        code = QRectF(box.left() + 2, box.top() + 4, 78, box.height() - 8)
        rounded(p, code, 9 if setting.item.rounded else 2, theme.sheet, flat_pen(theme.ink, 2))
        draw_text(
            p, code.adjusted(3, 0, -3, 0), setting.name, BODY, theme.ink, Weight.STRONG, CENTRE
        )
        if setting.name in state.second_look:
            # Measured again without seeing what was read before.
            self._paint_again(p, box, bracket(state, setting.name, left=True, second=True))
            return
        found = bracket_words(bracket(state, setting.name, left=False))
        left = bracket_words(bracket(state, setting.name, left=True))
        if setting.way is Way.PLUNGER and item.set_at_deg is not None:
            left = f"{item.screw_deg / 360:+.2f} turn".replace("-", "−")
        if self.narrow:
            cell = QRectF(box.left() + 84, box.top(), box.width() - 112, box.height())
            weight = Weight.STRONG if left else Weight.BODY
            draw_one_of(p, cell, (left or found,), BODY, theme.ink, weight, RIGHT)
            mark = QRectF(box.right() - 22, box.center().y() - 9, 18, 18)
            tick_box(p, mark, theme, ticked=item.tight, due=False)
            return
        cell = QRectF(box.left() + 84, box.top(), 84, box.height())
        draw_text(p, cell, found, BODY, theme.ink, Weight.BODY, RIGHT)
        cell = QRectF(box.left() + 174, box.top(), 88, box.height())
        draw_text(p, cell, left, BODY, theme.ink, Weight.STRONG, RIGHT)
        size = min(box.height() - 12, 20.0)
        for x, ticked in ((276.0, item.tight), (box.width() - 24, item.striped)):
            mark = QRectF(x, box.center().y() - size / 2, size, size)
            tick_box(p, mark, theme, ticked=ticked, due=False)

    def _paint_again(
        self, p: QPainter, box: QRectF, ends: tuple[float | None, float | None]
    ) -> None:
        theme = self.look.theme
        cell = QRectF(box.left() + 88, box.top(), box.width() - 96, box.height())
        words = bracket_words(ends)
        told = f"again: {words}" if words else "measure it again"
        draw_one_of(p, cell, (told, words), BODY, theme.ink, Weight.LABEL, RIGHT)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Pick a row."""
        if event is None or self._model.bench is None:
            return
        nth = int((event.position().y() / self.look.scale - 28) / self._row()) + self._first
        if 0 <= nth < len(self.names()):
            self.picked.emit(self.names()[nth])

    def step(self, by: int) -> None:
        """Pick the next item or the one before."""
        names = self.names()
        at = names.index(self._model.item) if self._model.item in names else 0
        self.picked.emit(names[min(max(at + by, 0), len(names) - 1)])

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel goes through the items."""
        if event is not None and event.angleDelta().y():
            self.step(-1 if event.angleDelta().y() > 0 else 1)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down go through the items."""
        if event is not None and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.step(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event is not None:
            event.ignore()


class BladeButton(DrawnButton):
    """A blade, drawn as thick as it is, and what it said since the last change."""

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, "", parent)
        self._model = model
        self.mm = 0.0
        self.feel = ""

    def show_blade(self, mm: float, feel: str) -> None:
        """Another blade, or another feel."""
        self.mm, self.feel = mm, feel
        unit = self._model.begun.run.work.engine.gap_unit
        self.setText(gap_in(mm, unit))
        self.setAccessibleName(f"Blade {gap_words(mm, unit)}: {feel or 'not tried'}")
        self.repaint_all()

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        drags = self.feel == BLADE_WORDS[1]
        edge = flat_pen(theme.now, 2.6) if drags or focus else flat_pen(theme.line, 1.6)
        rounded(p, box, 4, theme.now_tint if drags or active else theme.sheet, edge)
        head = box.adjusted(9, 4, -8, 4 - box.height() + 32)
        used = draw_text(p, head, self.text(), LABEL + 4, theme.ink, Weight.STRONG)
        other = gap_in(self.mm, self._model.begun.run.work.engine.gap_unit.other)
        beside = head.adjusted(used + 8, 0, 0, 0)
        middle = box.center().y()
        if text_width(other, NOTE) <= beside.width():
            draw_text(p, beside, other, NOTE, theme.ink2, Weight.BODY, RIGHT)
        elif box.height() >= 84:
            below = QRectF(head.left(), head.bottom() - 4, head.width(), 18)
            draw_text(p, below, other, NOTE, theme.ink2)
            middle += 10
        thick = min(4 + self.mm * 24, box.height() - 62)
        blade = QRectF(box.left() + 9, middle - thick / 2, box.width() - 18, thick)
        rounded(p, blade, 1, theme.now if drags else theme.ink, None)
        foot = QRectF(box.left() + 4, box.bottom() - 26, box.width() - 8, 22)
        words = self.feel or "not tried"
        weight = Weight.STRONG if self.feel else Weight.BODY
        draw_text(p, foot, words, BODY, theme.ink if self.feel else theme.ink2, weight, CENTRE)
