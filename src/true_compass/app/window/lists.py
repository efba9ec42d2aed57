"""What opens over the window: the list of rigs, the recent engines, the menu."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QObject, QPoint
from PyQt6.QtWidgets import QWidget

from true_compass.app.keeping.opener import Opener
from true_compass.app.keeping.recents import Recent
from true_compass.app.widgets.look import Look
from true_compass.app.widgets.search_list import SearchList
from true_compass.app.window.menu import Acts, fill_menu, make_menu
from true_compass.app.window.rig_list import recent_lines, rig_lines
from true_compass.app.window.strip import TopStrip
from true_compass.session.session import Session

WIDTH: Final = 620.0


@dataclass(frozen=True, slots=True)
class ListParts:
    """What the lists show and act on. `acts` are those of the menu, as they are possible now."""

    session: Session
    opener: Opener
    look: Look
    strip: TopStrip
    open_one: Callable[[Recent], None]
    acts: Callable[[], Acts]


class Lists(QObject):
    """Opens them in their places. The searchable list is made when it is first asked for."""

    def __init__(self, parts: ListParts, window: QWidget) -> None:
        super().__init__(window)
        self._parts = parts
        self._window = window
        self.menu = make_menu(window)
        self.found: SearchList | None = None

    def open_rigs(self) -> None:
        """Every demo rig, to be searched by name, layout, order or lesson."""
        lines = rig_lines(
            self._parts.session, self._parts.opener, hidden=self._parts.strip.hides_order
        )
        self._list().show_lines("Demo rigs", lines, "Search: name, layout, order or lesson")
        self.place()

    def open_recent(self) -> None:
        """Engines that were open before."""
        lines = recent_lines(self._parts.opener, self._parts.open_one)
        hint = "Search: name, layout or file"
        self._list().show_lines("Recent engines", lines, hint, "No recent engines yet.")
        self.place()

    def open_menu(self) -> None:
        """Files, print, look, help."""
        parts, strip = self._parts, self._parts.strip
        fill_menu(self.menu, parts.session, parts.opener, parts.look, parts.acts())
        button = strip.menu_button
        if button.isVisible():
            corner = button.mapToGlobal(QPoint(0, button.height() + 2))
        else:
            below = 0 if strip.isHidden() else strip.height()
            corner = self._window.mapToGlobal(QPoint(8, below + 8))
        self.menu.popup(corner)

    def _list(self) -> SearchList:
        if self.found is None:
            self.found = SearchList(self._parts.look, self._window)
        return self.found

    def place(self) -> None:
        """Under the picker at the right, as high as there is room."""
        if self.found is None:
            return
        strip, scale = self._parts.strip, self._parts.look.scale
        below = 0 if strip.isHidden() else strip.height()
        room = (self._window.height() - below) / scale - 12
        width = min(WIDTH, self._window.width() / scale - 16)
        height = self.found.wanted_height(room)
        left = self._window.width() / scale - width - 8
        self.found.setGeometry(self._parts.look.scaled(left, below / scale + 4, width, height))
        self.found.arrange()
