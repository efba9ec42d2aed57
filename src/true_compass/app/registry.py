"""The workspaces, in the order of the bar. A new one is one folder and one line here.

A workspace is imported and made when it is opened for the first time, so that a start with Watch
does not pay for the others.
"""

from dataclasses import dataclass
from importlib import import_module
from typing import Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.look import Look
from true_compass.app.turner import Turner
from true_compass.app.workspace import Workspace
from true_compass.session.session import Session


@dataclass(frozen=True, slots=True)
class Entry:
    """A workspace: its word in the bar, its key (a letter of the word), and its class."""

    word: str
    key: Qt.Key
    class_name: str

    def make(
        self, session: Session, bridge: Bridge, turner: Turner, look: Look, parent: QWidget
    ) -> Workspace:
        """Make the workspace from `workspaces/WORD/workspace.py`."""
        module = import_module(f"true_compass.app.workspaces.{self.word.lower()}.workspace")
        made = getattr(module, self.class_name)(session, bridge, turner, look, parent)
        assert isinstance(made, Workspace)
        return made


WORKSPACES: Final = (
    Entry("Watch", Qt.Key.Key_W, "WatchWorkspace"),
    Entry("Engine", Qt.Key.Key_E, "EngineWorkspace"),
    Entry("Orders", Qt.Key.Key_O, "OrdersWorkspace"),
    Entry("Stops", Qt.Key.Key_S, "StopsWorkspace"),
)
