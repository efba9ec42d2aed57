"""A workspace of several pages, one at a time, with a button for each in a row."""

from collections.abc import Mapping
from functools import partial
from typing import ClassVar

from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.widgets.controls import TabButton
from true_compass.app.workspace import Workspace


class TabbedWorkspace(Workspace):
    """A subclass gives `pages` with `tab_wide`, and `turned_to`, which shows the page."""

    tab_wide: ClassVar[Mapping[str, float]]
    tab_gap: ClassVar[float] = 6.0

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self._page = self.pages[0]
        self.tabs = [TabButton(desk.look, word, self) for word in self.pages]
        for tab in self.tabs:
            tab.clicked.connect(partial(self.show_page, tab.text()))

    @property
    def page(self) -> str:
        """The page that is shown."""
        return self._page

    def show_page(self, page: str) -> None:
        """Show a page; a word that is none changes nothing."""
        if page in self.pages:
            self._page = page
            self.turned_to(page)
            if self.isVisible():
                self.focus_first().setFocus()

    def turned_to(self, page: str) -> None:
        """Another page is to be shown."""

    def arrange_tabs(self, left: float, top: float, high: float) -> float:
        """Put the buttons in a row and press the one of the page; where the row ends."""
        put, x = self.look.scaled, left
        for tab in self.tabs:
            wide = self.tab_wide[tab.text()]
            tab.setGeometry(put(x, top, wide, high))
            tab.setChecked(tab.text() == self._page)
            x += wide + self.tab_gap
        return x
