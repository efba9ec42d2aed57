"""What lies over the page and has the keyboard for itself: Tab stays in it, and closing it gives
the keyboard back to where it was."""

from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QAbstractButton, QWidget

from true_compass.app.widgets.look import Painted


class Over(Painted):
    """A sheet or a preview over the workspace."""

    _back: QWidget | None = None

    def showEvent(self, event: QShowEvent | None) -> None:
        """Whoever had the keyboard gets it back."""
        holder = self.focus_widget()
        if holder is not None and holder is not self and not self.isAncestorOf(holder):
            self._back = holder
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent | None) -> None:
        """Give the keyboard back, where it is still here and its widget can still be seen."""
        super().hideEvent(event)
        back, self._back = self._back, None
        holder = self.focus_widget()
        is_here = holder is self or (holder is not None and self.isAncestorOf(holder))
        if is_here and back is not None and back.isVisible():
            back.setFocus()

    def focusNextPrevChild(self, next: bool) -> bool:
        """Tab goes round what can be pressed here; Qt moves the keyboard away from what is put
        away."""
        if not self.isVisible():
            return super().focusNextPrevChild(next)
        buttons = [
            button
            for button in self.findChildren(QAbstractButton)
            if button.isVisible() and button.isEnabled()
        ]
        if not buttons:
            return True
        buttons.sort(key=lambda button: (button.y(), button.x()))
        holder = self.focus_widget()
        step = 1 if next else -1
        at = buttons.index(holder) + step if holder in buttons else (0 if next else -1)
        buttons[at % len(buttons)].setFocus()
        return True
