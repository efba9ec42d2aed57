"""What a workspace is given, and all that it may ask of the window."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

from true_compass.app.bridge import Bridge
from true_compass.app.keeping.opener import Opener
from true_compass.app.keeping.recents import Recent
from true_compass.app.keeping.settings import Section
from true_compass.app.paper.documents import Documents
from true_compass.app.tile import Tile
from true_compass.app.turner import Turner
from true_compass.app.widgets.look import Look
from true_compass.session.session import Session

if TYPE_CHECKING:
    from true_compass.core.degreeing.sheet import Sheet
    from true_compass.core.ignition.bay import Bay
    from true_compass.session.bench_logs import BenchLogs
    from true_compass.session.book_keeper import BookKeeper
    from true_compass.session.kept import Kept
    from true_compass.session.results import LessonKeeper

Rows = list[tuple[str, str]]


class Page(Protocol):
    """A workspace as its desk knows the others: by word, letter and tile."""

    @property
    def word(self) -> str:
        """Its word in the strip."""

    @property
    def letter(self) -> str:
        """The letter of its key."""

    def tile(self) -> Tile:
        """What stands for it on the front page."""


@dataclass(frozen=True, slots=True)
class Desk:
    """The desk that a workspace works at.

    `entries` are all workspaces of the window, `settings` is its own section. `say` puts a sentence
    into the note strip, `show_rows` a title and rows of words on the sheet; `go_to` opens a
    workspace by its word, at one of its pages. `runs` are the files of what was done at the
    bench, `book` keeps the jobs, `cam` the readings of a cam,
    `ignition` how the spark stands, `lessons` what was answered.
    """

    entries: tuple[Page, ...]
    session: Session
    bridge: Bridge
    turner: Turner
    look: Look
    files: Opener
    documents: Documents
    settings: Section
    say: Callable[[str], None]
    show_rows: Callable[[str, Rows], None]
    go_to: Callable[[str, str], None]
    undo: Callable[[], None]
    redo: Callable[[], None]
    open_rigs: Callable[[], None]
    open_recent: Callable[[], None]
    open_recent_one: Callable[[Recent], None]
    open_menu: Callable[[], None]
    runs: Callable[[], "BenchLogs"]
    book: Callable[[], "BookKeeper"]
    cam: Callable[[], "Kept[Sheet]"]
    ignition: Callable[[], "Kept[Bay]"]
    lessons: Callable[[], "LessonKeeper"]
