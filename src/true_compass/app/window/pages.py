"""The pages of the window: the front page and the workspaces, made when they are first opened."""

from collections.abc import Callable, Iterator
from datetime import datetime

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QStackedWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.recents import Recent
from true_compass.app.registry import HOME, Entry
from true_compass.app.workspace import Workspace
from true_compass.session.session import SessionState


class Pages(QObject):
    """Opens them one over the other. `desk_of` gives each the desk that it works at."""

    opened = pyqtSignal()
    """Another page is in front."""
    shows_changed = pyqtSignal()
    """The page in front is about something else, hides something else or takes other keys."""

    def __init__(
        self, entries: tuple[Entry, ...], desk_of: Callable[[Entry], Desk], stack: QStackedWidget
    ) -> None:
        super().__init__(stack)
        self.entries = entries
        self.entry = HOME
        self._desk_of = desk_of
        self._stack = stack
        self._made: dict[str, Workspace] = {}
        self._worked_at = entries[0].word

    @property
    def workspace(self) -> Workspace:
        """The page that is open."""
        return self.of(self.entry)

    def of(self, entry: Entry) -> Workspace:
        """The workspace of an entry, made when it is first asked for."""
        if entry.word not in self._made:
            made = entry.make(self._desk_of(entry), self._stack)
            self._made[entry.word] = made
            self._stack.addWidget(made)
            made.shows_changed.connect(self.shows_changed)
        return self._made[entry.word]

    def made(self) -> Iterator[Workspace]:
        """Those that were opened so far."""
        return iter(self._made.values())

    def open(self, entry: Entry) -> None:
        """Bring a page to the front, with the keyboard in its first view."""
        self.entry = entry
        if entry is not HOME:
            self._worked_at = entry.word
        workspace = self.of(entry)
        self._stack.setCurrentWidget(workspace)
        workspace.came_to_front()
        self.opened.emit()
        workspace.focus_first().setFocus()

    def go_to(self, word: str, page: str = "") -> None:
        """Open a workspace by its word, at one of its pages; a word that is none is no page."""
        for entry in (HOME, *self.entries):
            if entry.word == word:
                self.open(entry)
                if page:
                    self.workspace.show_page(page)

    def where(self, state: SessionState, at: datetime) -> Recent:
        """Where one is on the open engine, to go on there later."""
        word = self._worked_at
        entry = next(entry for entry in self.entries if entry.word == word)
        return Recent(
            source=state.source,
            name=state.engine.name,
            layout=state.engine.layout_words,
            crank_deg=state.crank_deg,
            word=word,
            page=self._made[word].page if word in self._made else "",
            left=f"{word}, {entry.tile().words(state)}",
            at=at,
        )
