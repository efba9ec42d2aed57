"""What the window expects of a workspace."""

from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.look import Painted
from true_compass.app.settings import Settings

LEAST_SIZE: Final = (780.0, 380.0)
"""Below this size, in pixels of the design, the window scrolls the workspace."""


class Workspace(Painted):
    """One of the words in the bar. It fills the middle of the window."""

    wanted = pyqtSignal(str)
    """Another workspace is asked for by its word."""

    save_wanted = pyqtSignal(bool)
    """The engine is to be saved: to its own file, or (True) as a copy."""

    table_wanted = pyqtSignal(object)
    """A lift table is to be read for a `Kind` of valve."""

    card_wanted = pyqtSignal(object)
    """The shop card of a `Plan` is to be written."""

    undo_wanted = pyqtSignal()
    """The last step is to be taken back, as Ctrl+Z does."""

    rows_wanted = pyqtSignal(str, object)
    """Rows of words are to be read on the sheet, under a title."""

    said = pyqtSignal(str)
    """A sentence for the note strip."""

    has_crank = True
    """Whether the turn bar belongs below it."""

    def came_to_front(self) -> None:
        """It has been opened; work that can wait for that is done here."""

    def toggle_view(self) -> None:
        """Change to the other view, where there is one (key V)."""

    def toggle_cycle(self) -> None:
        """Change to one cylinder over its whole cycle, where that is shown (key T)."""

    def toggle_lens(self) -> None:
        """Show small angles large, where there is a lens (key Z)."""

    def go_back(self) -> bool:
        """Put back what is only tried (Backspace); whether there was anything."""
        return False

    def focus_first(self) -> QWidget:
        """The view that has the keyboard when the workspace opens."""
        return self

    def restore(self, settings: Settings) -> None:
        """Take up what was remembered."""

    def remember(self, settings: Settings) -> None:
        """Keep what should outlast the program."""

    def paint(self, p: QPainter) -> None:
        """Only the ground shows between the views."""
