"""What the window expects of a workspace."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.settings import Remembered
from true_compass.app.keys import KeyLine
from true_compass.app.widgets.look import Painted
from true_compass.core.engine import Engine

if TYPE_CHECKING:
    from true_compass.drawing.documents import Document


NEW_ENGINE: Final = ("Engine", "New engine")
"""Where another engine is begun by its layout and order: front page and menu lead there."""


class Workspace(Painted):
    """One of the words in the bar. It fills the middle of the window.

    A subclass declares what it wants (`wants_crank`: the turn bar below it), its `pages`, what its
    section of the settings `remembers`, and its `keys`.
    """

    shows_changed = pyqtSignal()
    """What it is about, what it hides or which keys it takes has changed."""

    wants_crank: ClassVar[bool] = True
    least_size: ClassVar[tuple[float, float]] = (780.0, 380.0)
    """Below this size, in pixels of the design, the window scrolls the workspace."""
    pages: ClassVar[tuple[str, ...]] = ("",)
    remembers: ClassVar[Mapping[str, Remembered]] = {}

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk.look, parent)
        self.desk = desk

    @property
    def page(self) -> str:
        """The page that is shown."""
        return self.pages[0]

    def show_page(self, page: str) -> None:
        """Show one of its pages; a word that is none changes nothing."""

    def arrange(self) -> None:
        """Put everything in its place; done again at every size."""

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Another size."""
        super().resizeEvent(event)
        self.arrange()

    def keys(self) -> Sequence[KeyLine]:
        """Its own keys, beside those of the window."""
        return ()

    def instead(self) -> Sequence[KeyLine]:
        """Keys of the window that mean something else here."""
        return ()

    @property
    def on_show(self) -> Engine | None:
        """The engine that it is about; None where that is the open one."""
        return None

    @property
    def hides_order(self) -> bool:
        """Whether the firing order is asked for: then nothing on the screen tells it."""
        return False

    def document(self) -> "Document | None":
        """What Print in the menu prints here; None where there is no paper for it."""
        return None

    def take_file(self, path: Path) -> None:
        """Open a file of its own kind; the registry names its ending."""

    def came_to_front(self) -> None:
        """It has been opened; work that can wait for that is done here."""

    def go_back(self) -> bool:
        """Put back what is only tried (Backspace); whether there was anything."""
        return False

    def focus_first(self) -> QWidget:
        """The view that has the keyboard when the workspace opens."""
        return self

    def remember(self) -> None:
        """Put what should outlast the program into its section of the settings."""

    def paint(self, p: QPainter) -> None:
        """Only the ground shows between the views."""
