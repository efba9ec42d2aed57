"""What opens over the window: the list of rigs, the recent engines, the menu."""

from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QObject, QPoint

from true_compass.app.widgets.search_list import SearchList
from true_compass.app.window.menu import Acts, fill_menu, make_menu
from true_compass.app.window.rig_list import recent_lines, rig_lines

if TYPE_CHECKING:
    from true_compass.app.window.window import MainWindow

WIDTH: Final = 620.0


class Lists(QObject):
    """Opens them in their places. The searchable list is made when it is first asked for."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self._window = window
        self.menu = make_menu(window)
        self.found: SearchList | None = None

    def open_rigs(self) -> None:
        """Every demo rig, to be searched by name, layout, order or lesson."""
        window = self._window
        lines = rig_lines(window.session, window.opener)
        self._list().show_lines("Demo rigs", lines, "Search: name, layout, order or lesson")
        self.place()

    def open_recent(self) -> None:
        """Engines that were open before."""
        window = self._window
        lines = recent_lines(window.opener, window.open_recent_one)
        self._list().show_lines("Recent engines", lines, "Search: name, layout or file")
        self.place()

    def open_menu(self) -> None:
        """Files, print, look, help."""
        window = self._window
        can_print = window.workspace.document() is not None
        acts = Acts(
            self.open_rigs,
            self.open_recent,
            window.print_page if can_print else None,
            window.show_help,
            window.toggle_full_screen,
            window.toggle_lock,
        )
        fill_menu(self.menu, window.session, window.opener, window.look, acts)
        button = window.strip.menu_button
        if button.isVisible():
            corner = button.mapToGlobal(QPoint(0, button.height() + 2))
        else:
            below = 0 if window.strip.isHidden() else window.strip.height()
            corner = window.mapToGlobal(QPoint(8, below + 8))
        self.menu.popup(corner)

    def _list(self) -> SearchList:
        if self.found is None:
            self.found = SearchList(self._window.look, self._window)
        return self.found

    def place(self) -> None:
        """Under the picker at the right, as high as there is room."""
        if self.found is None:
            return
        window, scale = self._window, self._window.look.scale
        strip = 0 if window.strip.isHidden() else window.strip.height()
        room = (window.height() - strip) / scale - 12
        width = min(WIDTH, window.width() / scale - 16)
        height = self.found.wanted_height(room)
        left = window.width() / scale - width - 8
        at = window.look.scaled(left, strip / scale + 4, width, height)
        self.found.setGeometry(at)
        self.found.arrange()
