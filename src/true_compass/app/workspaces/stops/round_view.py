"""The last round: every nut that was slackened, its torque, and the paint stripe across it."""

from typing import Final

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.stops.doing import Doing
from true_compass.core.adjusting.setting import Setting
from true_compass.core.units import torque_words
from true_compass.drawing.codes import flat_pen, rounded, tick_box
from true_compass.drawing.job_chart import paint_item
from true_compass.drawing.text import CENTRE, draw_one_of, draw_text
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight

HEAD_ROOM: Final = 84.0
ROW: Final = 40.0
BOX: Final = 28.0


class RoundView(Painted):
    """A row a nut, with a box for the torque wrench and one for the stripe."""

    ticked = pyqtSignal(str, bool, bool)
    """The item's name, and whether its nut is torqued and striped now."""

    def __init__(self, doing: Doing, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._doing = doing
        self._first = 0
        self._due: Setting | None = None
        self.boxes: list[tuple[QRectF, Setting, str]] = []
        self.setObjectName("last_round")
        self.setAccessibleName("Last round: torque and stripe of every nut")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        doing.model.changed.connect(self.update)

    @property
    def _room(self) -> int:
        return max(int((self.logical_height - HEAD_ROOM - 10) // ROW), 1)

    def paint(self, p: QPainter) -> None:
        """Draw the list; the next nut lies on a tint."""
        theme, width, doing = self.look.theme, self.logical_width, self._doing
        whole = QRectF(0, 0, width, self.logical_height).adjusted(1, 1, -1, -1)
        rounded(p, whole, 6, theme.sheet, flat_pen(theme.ink, 2.4))
        nuts, due = doing.nuts, doing.next_nut
        done = sum(one is not due and self._both(one) for one in nuts)
        draw_text(p, QRectF(18, 8, width - 36, 36), "Last round", HEAD, theme.ink, Weight.STRONG)
        words = f"{done} of {len(nuts)} nuts"
        draw_text(p, QRectF(18, 40, width - 36, 24), words, BODY, theme.ink2)
        for x, word in ((width - 150, "wrench"), (width - 76, "stripe")):
            draw_text(p, QRectF(x, 62, 64, 20), word, NOTE, theme.ink2, align=CENTRE)
        self._first = self._in_sight(nuts, due)
        self.boxes = []
        for place, setting in enumerate(nuts[self._first : self._first + self._room]):
            row = QRectF(4, HEAD_ROOM + place * ROW, width - 8, ROW)
            self._row(p, row, setting, here=setting == due)
        if len(nuts) > self._room:
            high = self._room * ROW
            track = QRectF(width - 8, HEAD_ROOM, 4, high)
            p.fillRect(track, theme.hair)
            at = HEAD_ROOM + high * self._first / len(nuts)
            p.fillRect(QRectF(width - 8, at, 4, high * self._room / len(nuts)), theme.ink)

    def _in_sight(self, nuts: list[Setting], due: Setting | None) -> int:
        most = max(len(nuts) - self._room, 0)
        if due is not None and due != self._due:
            # Another nut is next: it comes into sight. Scrolling away from it is a choice.
            self._due = due
            if not self._first <= nuts.index(due) < self._first + self._room:
                return min(max(nuts.index(due) - 1, 0), most)
        return min(max(self._first, 0), most)

    def _both(self, setting: Setting) -> bool:
        record = self._doing.record(setting)
        return record.torqued and record.stripe

    def _row(self, p: QPainter, row: QRectF, setting: Setting, *, here: bool) -> None:
        theme, record = self.look.theme, self._doing.record(setting)
        if here:
            p.fillRect(row.adjusted(1, 1, -1, -1), theme.now_tint)
        p.setPen(flat_pen(theme.hair, 1.2))
        p.drawLine(row.topLeft(), row.topRight())
        paint_item(p, QRectF(row.left() + 10, row.top() + 4, 58, ROW - 8), setting.item, theme)
        nm = setting.tools.torque_nm
        told = torque_words(nm) if nm else "torque: the maker's manual"
        words = (told, f"{nm:g} N·m" if nm else "see manual")
        draw_one_of(p, row.adjusted(80, 0, -156, 0), words, LABEL, theme.ink, Weight.LABEL)
        for x, what, ticked in (
            (row.right() - 128, "torqued", record.torqued),
            (row.right() - 54, "stripe", record.stripe),
        ):
            box = QRectF(x, row.center().y() - BOX / 2, BOX, BOX)
            tick_box(p, box, theme, ticked=ticked)
            self.boxes.append((box.adjusted(-8, -6, 8, 6), setting, what))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Tick a box, or take its tick away."""
        if event is None:
            return
        spot = event.position() / self.look.scale
        for box, setting, what in self.boxes:
            if box.contains(spot):
                record = self._doing.record(setting)
                torqued = record.torqued != (what == "torqued")
                stripe = record.stripe != (what == "stripe")
                self.ticked.emit(setting.name, torqued, stripe)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Return ticks the next nut; Up and Down scroll."""
        if event is None:
            return
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        due = self._doing.next_nut
        if event.key() in steps:
            self._scroll(steps[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and due is not None:
            self.ticked.emit(due.name, True, True)
        else:
            event.ignore()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel scrolls."""
        if event is not None:
            event.accept()
            self._scroll(-1 if event.angleDelta().y() > 0 else 1)

    def _scroll(self, by: int) -> None:
        self._first = min(max(self._first + by, 0), max(len(self._doing.nuts) - self._room, 0))
        self.update()
