"""The field of a pad: one figure, large, with keys that leave it for another reading."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QLineEdit

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.stepping import up_or_down
from true_compass.drawing.theme import READOUT


class ReadingField(QLineEdit):
    """Up and Down go to another reading, Page keys to another of the same item."""

    stepped = pyqtSignal(int)
    turned = pyqtSignal(int)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows leave the field, everything else is typed."""
        if event is None:
            return
        turns = {Qt.Key.Key_PageUp: -1, Qt.Key.Key_PageDown: 1}
        step = up_or_down(event)
        if step:
            self.stepped.emit(step)
        elif event.key() in turns:
            self.turned.emit(turns[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def show_style(self, look: Look, *, wrong: bool) -> bool:
        """Dress it for the theme and size; whether that was another dress."""
        theme, scale = look.theme, look.scale
        edge = theme.ink.name() if wrong else theme.line.name()
        style = (
            f"QLineEdit {{ background: {theme.sheet.name()}; color: {theme.ink.name()};"
            f" font: 700 {round(READOUT * scale)}px 'Compass Text';"
            f" border: {2.0 * scale:.1f}px solid {edge}; border-radius: 4px; padding: 0 8px; }}"
            f" QLineEdit:focus {{ border: {2.6 * scale:.1f}px solid {theme.now.name()}; }}"
            f" QLineEdit:disabled {{ background: {theme.well.name()}; }}"
            f" QLineEdit[readOnly='true'] {{ background: {theme.well.name()}; }}"
        )
        if self.styleSheet() == style:
            return False
        self.setStyleSheet(style)
        return True
