"""Lists that Up and Down go along."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

from true_compass.app.widgets.look import Painted


def up_or_down(event: QKeyEvent) -> int:
    """−1 for Up, 1 for Down, 0 for every other key."""
    return {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)


class SteppingView(Painted):
    """A drawn list with one line picked."""

    def step(self, by: int) -> None:
        """Pick the line so many further on."""
        raise NotImplementedError

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down pick another line; the rest is the window's."""
        if event is None:
            return
        by = up_or_down(event)
        if by:
            self.step(by)
        else:
            event.ignore()
