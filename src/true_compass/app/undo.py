"""The button that takes back the last step, whichever page that was made on."""

from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.widgets.controls import DrawnButton


class UndoButton(DrawnButton):
    """Undo or Redo, with what it would take back or bring back; no plate where there is nothing."""

    def __init__(self, desk: Desk, parent: QWidget, *, redo: bool = False) -> None:
        self._word = "Redo" if redo else "Undo"
        super().__init__(desk.look, self._word, parent)
        self._redo = redo
        self._session = desk.session
        self.clicked.connect(desk.redo if redo else desk.undo)
        desk.bridge.history_changed.connect(self._show_step)
        self._show_step()

    def _show_step(self) -> None:
        step = self._session.redo_words if self._redo else self._session.undo_words
        words = f"{self._word}: {step}" if step else self._word
        self.setText(words)
        self.setToolTip(words if step else f"Nothing to {self._word.lower()}")
        self.setEnabled(bool(step))
        self.update()
