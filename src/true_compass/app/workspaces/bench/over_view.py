"""Two people at one engine: the page between them, so that neither sees the other's readings."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.bench.model import BenchModel
from true_compass.drawing.text import draw_paragraph_that_fits, draw_text
from true_compass.drawing.theme import HEAD, LEAD, READOUT, Weight

ROLES: Final = {
    "turns": ("turns", "Bars the engine, sees marks, wheel and dial. Cannot feel."),
    "feels": ("feels", "Has thumb, rockers and blades. Cannot turn."),
}


class OverView(Painted):
    """Names the role of whoever comes next, and shows nothing of the engine."""

    taken = pyqtSignal(str)
    alone = pyqtSignal()

    def __init__(self, look: Look, model: BenchModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("bench_over")
        self.setAccessibleName("Hand over")
        self.buttons = {}
        for role in ROLES:
            button = StrongButton(look, f"I am the one who {role}", self)
            button.setObjectName(f"role_{role}")
            button.clicked.connect(partial(self.taken.emit, role))
            self.buttons[role] = button
        self.one = DrawnButton(look, "One person again", self)
        self.one.setObjectName("role_alone")
        self.one.clicked.connect(self.alone)
        look.changed.connect(self._arrange)

    def ground(self) -> QColor:
        """A sheet."""
        return self.look.theme.sheet

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self._arrange()

    def _arrange(self) -> None:
        put, width, height = self.look.scaled, self.logical_width, self.logical_height
        each = min((width - 72) / 2, 420.0)
        top = min(height - 150, 300.0)
        for nth, button in enumerate(self.buttons.values()):
            button.setGeometry(put(24 + nth * (each + 16), top, each, 60))
        self.one.setGeometry(put(24, height - 60, 220, 44))
        self.update()

    def paint(self, p: QPainter) -> None:
        """Draw who does what."""
        theme, width = self.look.theme, self.logical_width
        head = QRectF(24, 20, width - 48, 46)
        draw_text(p, head, "Hand over to the other person", READOUT, theme.ink, Weight.STRONG)
        body = QRectF(24, 76, width - 48, 60)
        words = "One turns, one feels. Say to each other what you know: the screen does not."
        draw_paragraph_that_fits(p, body, words, LEAD, theme.ink)
        each = min((width - 72) / 2, 420.0)
        top = min(self.logical_height - 150, 300.0) - 96
        for nth, (role, told) in enumerate(ROLES.values()):
            left = 24 + nth * (each + 16)
            box = QRectF(left, top, each, 34)
            draw_text(p, box, f"Who {role}", HEAD, theme.ink, Weight.STRONG)
            room = QRectF(left, top + 36, each, 52)
            draw_paragraph_that_fits(p, room, told, LEAD, theme.ink2)
