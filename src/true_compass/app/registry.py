"""The workspaces, in the order of the bar. A new one is one folder and one line here.

A workspace is imported and made when it is opened for the first time, so that a start with one
does not pay for the others.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from importlib import import_module
from typing import Any, Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.settings import Remembered
from true_compass.app.tile import Tile
from true_compass.app.workspace import Workspace
from true_compass.files.kinds import FileKind

FOLDER: Final = "true_compass.app.workspaces"


@dataclass(frozen=True, slots=True)
class Entry:
    """A workspace: its word in the bar, its key (a letter of the word), and its class."""

    word: str
    key: Qt.Key
    class_name: str
    folder: str = FOLDER
    opens: FileKind | None = None
    """The kind of file that it opens."""

    @property
    def letter(self) -> str:
        """The letter of the key, as it stands in the word."""
        return next(letter for letter in self.word if letter.upper() == chr(self.key.value))

    def _part(self, module: str, name: str) -> Any:
        return getattr(import_module(f"{self.folder}.{self.word.lower()}.{module}"), name)

    @property
    def remembers(self) -> Mapping[str, Remembered]:
        """What its section of the settings holds."""
        held: Mapping[str, Remembered] = self._part("workspace", self.class_name).remembers
        return held

    def make(self, desk: Desk, parent: QWidget) -> Workspace:
        """Make the workspace from `workspaces/WORD/workspace.py`."""
        made = self._part("workspace", self.class_name)(desk, parent)
        assert isinstance(made, Workspace)
        return made

    def tile(self) -> Tile:
        """What stands for it on the front page, from `workspaces/WORD/tile.py`."""
        made = self._part("tile", "TILE")
        assert isinstance(made, Tile)
        return made


HOME: Final = Entry("Front", Qt.Key.Key_Home, "FrontWorkspace")
WORKSPACES: Final = (
    Entry("Watch", Qt.Key.Key_W, "WatchWorkspace"),
    Entry("Engine", Qt.Key.Key_E, "EngineWorkspace"),
    Entry("Orders", Qt.Key.Key_O, "OrdersWorkspace"),
    Entry("Stops", Qt.Key.Key_S, "StopsWorkspace"),
    Entry("Bench", Qt.Key.Key_B, "BenchWorkspace", opens=FileKind.SCENARIO),
    Entry("Cam", Qt.Key.Key_C, "CamWorkspace"),
    Entry("Ignition", Qt.Key.Key_I, "IgnitionWorkspace"),
    Entry("Book", Qt.Key.Key_K, "BookWorkspace", opens=FileKind.BOOK),
    Entry("Lessons", Qt.Key.Key_L, "LessonsWorkspace", opens=FileKind.LESSON),
)
