"""The main window: strip, workspaces, turn bar; keys, files and what is remembered."""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QPoint, QRect, Qt, QTimer
from PyQt6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPalette,
    QResizeEvent,
)
from PyQt6.QtWidgets import QScrollArea, QStackedWidget, QWidget

from true_compass.app import turn_bar
from true_compass.app.bridge import Bridge
from true_compass.app.desk import Desk
from true_compass.app.keeping.draft_keeper import DraftKeeper
from true_compass.app.keeping.keeping import Keeping
from true_compass.app.keeping.opener import FileDialogs, Opener
from true_compass.app.keeping.recents import Recent
from true_compass.app.keys import COUNTED, Action, Chord, DigitKeys, Key, actions_of
from true_compass.app.paper.documents import Documents
from true_compass.app.registry import HOME, WORKSPACES, Entry
from true_compass.app.turn_bar import TurnBar
from true_compass.app.turner import Turner
from true_compass.app.widgets.look import Look
from true_compass.app.window import note
from true_compass.app.window import strip as top_strip
from true_compass.app.window.free_room import free_room, pressable
from true_compass.app.window.glossary import CODES
from true_compass.app.window.keys_everywhere import KeyParts, window_lines
from true_compass.app.window.lists import ListParts, Lists
from true_compass.app.window.menu import Acts, menu_style
from true_compass.app.window.note import NoteStrip, Sheet
from true_compass.app.window.pages import Pages
from true_compass.app.window.strip import TopStrip
from true_compass.app.window.teller import Teller
from true_compass.app.workspace import NEW_ENGINE, Workspace
from true_compass.files.kinds import FileKind
from true_compass.session.session import Session, SessionState

if TYPE_CHECKING:
    from true_compass.app.paper.preview import Preview
    from true_compass.core.degreeing.sheet import Sheet as CamSheet
    from true_compass.core.ignition.bay import Bay
    from true_compass.session.bench_logs import BenchLogs
    from true_compass.session.book_keeper import BookKeeper
    from true_compass.session.kept import Kept
    from true_compass.session.results import LessonKeeper

FIRST_SIZE: Final = (1280, 800)
STRIP_REACH: Final = 10
AGAIN_MS: Final = 500
NOTE_MOVES_MS: Final = 200
PROJECTOR: Final = "Projector view: Esc leaves it. The pages are at the top edge."


class Middle(QScrollArea):
    """Scrolls a workspace where the window is too small for it, and leaves the keys alone."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows and page keys turn the crank."""
        if event is not None:
            event.ignore()


class MainWindow(QWidget):
    """The one window of the program."""

    def __init__(
        self,
        session: Session,
        keeping: Keeping,
        dialogs: FileDialogs,
        entries: tuple[Entry, ...] = WORKSPACES,
    ) -> None:
        super().__init__()
        self.session = session
        self.settings = keeping.settings
        self.entries = entries
        self.look = Look(self)
        self.bridge = Bridge(session, self)
        self.turner = Turner(session, self.look, self)
        self.opener = Opener(session, dialogs, keeping, self)
        self.draft_keeper = DraftKeeper(session, keeping.drafts, self)
        keeping.progress.watch(session)
        self._keeping = keeping
        self._runs: BenchLogs | None = None
        self._book: BookKeeper | None = None
        self._cam: Kept[CamSheet] | None = None
        self._ignition: Kept[Bay] | None = None
        self._lessons: LessonKeeper | None = None
        self.strip = TopStrip(session, self.bridge, self.look, self, entries)
        self.stack = QStackedWidget()
        self.pages = Pages(entries, self._desk_of, self.stack)
        self._made_preview: Preview | None = None
        self.scroll_area = Middle(self)
        self.turn_bar = TurnBar(session, self.bridge, self.turner, self.look, self)
        self.note = NoteStrip(self.look, self)
        self.sheet = Sheet(self.look, self)
        self.teller = Teller(session, self.opener, self.note, self.sheet)
        self.documents = Documents(
            dialogs.document_path, dialogs.printer, dialogs.printers, self._preview, self
        )
        parts = ListParts(
            session, self.opener, self.look, self.strip, self.open_recent_one, self._menu_acts
        )
        self.lists = Lists(parts, self)
        self._set_up()
        self._connect()
        self._restore()

    def _set_up(self) -> None:
        self.setObjectName("main_window")
        self.strip.home.below = "Demonstration" if self._keeping.demo else ""
        self.setAcceptDrops(True)
        self.setMouseTracking(True)
        self.setAutoFillBackground(True)
        self.scroll_area.setWidget(self.stack)
        digits = DigitKeys(self._to_cylinder, self._cylinder_count, self)
        self.key_lines = window_lines(
            KeyParts(
                turner=self.turner,
                turn_bar=self.turn_bar,
                look=self.look,
                opener=self.opener,
                digits=digits.keys(),
                entries=self.entries,
                go_to=self.go_to,
                go_back=self._go_back,
                undo=self.teller.undo,
                redo=self.teller.redo,
                open_rigs=self.lists.open_rigs,
                open_recent=self.lists.open_recent,
                open_menu=self.lists.open_menu,
                print_page=self.print_page,
                show_help=self.show_help,
                toggle_full_screen=self.toggle_full_screen,
                way_out=self._way_out,
            )
        )
        self._actions = actions_of(self.key_lines)
        self._own_actions: dict[Chord, Action] = {}
        self._was_projector = False

    def _connect(self) -> None:
        self.strip.chosen.connect(self.go_to)
        self.pages.opened.connect(self._on_opened)
        self.pages.shows_changed.connect(self._on_shown)
        self.strip.picker.clicked.connect(self.lists.open_rigs)
        self.strip.menu_button.clicked.connect(self.lists.open_menu)
        self.turner.turned_back.connect(self.teller.turned_back)
        self.teller.stepped.connect(self._show_where)
        self.session.where = self._where
        self.documents.said.connect(self.note.say)
        bridge = self.bridge
        for done in (bridge.engine_changed, bridge.history_changed, bridge.lesson_changed):
            done.connect(self.note.pass_by)
        self.note.coming.connect(self._place_note)
        self._again_timer = QTimer(self)
        self._again_timer.setInterval(AGAIN_MS)
        self._again_timer.timeout.connect(self._keeping.troubles.try_again)
        self._again_timer.start()
        self._note_timer = QTimer(self)
        self._note_timer.setSingleShot(True)
        self._note_timer.timeout.connect(self._lay_note)
        self.opener.elsewhere = self._open_elsewhere
        self.bridge.engine_changed.connect(self._show_engine)
        self.bridge.saved.connect(self._remember_engine)
        self.bridge.saved.connect(self._show_engine)
        self.look.changed.connect(self._dress)
        self.look.changed.connect(self._say_projector)
        self.session.subscribe(self._on_change)

    def _restore(self) -> None:
        self.settings.restore_look(self.look)
        self.resize(*FIRST_SIZE)
        self._fit_screen()
        self.restoreGeometry(self.settings.geometry())
        self._show_engine()
        self.pages.open(HOME)

    def _preview(self) -> "Preview":
        """Made when the first document is looked at."""
        if self._made_preview is None:
            from true_compass.app.paper.preview import Preview

            self._made_preview = Preview(self.documents, self.look, self)
            self._arrange()
        return self._made_preview

    def _bench_logs(self) -> "BenchLogs":
        """Made when the bench is first opened."""
        if self._runs is None:
            from true_compass.session.bench_logs import BenchLogs

            self._runs = BenchLogs(self._keeping.runs_folder, self._keeping.troubles)
            self._runs.watch(self.session)
        return self._runs

    def _book_keeper(self) -> "BookKeeper":
        """Made when the first entry is made, or the book is first opened."""
        if self._book is None:
            from true_compass.session.book_keeper import BookKeeper

            keeping = self._keeping
            self._book = BookKeeper(keeping.book_path, keeping.troubles, keeping.clock)
            self._book.watch(self.session)
        return self._book

    def _cam_sheets(self) -> "Kept[CamSheet]":
        """Made when the page of the cam is first opened."""
        if self._cam is None:
            from true_compass.session.cam_sheets import cam_sheets

            self._cam = cam_sheets(self._keeping.cam_store, self.session)
        return self._cam

    def _ignition_bays(self) -> "Kept[Bay]":
        """Made when the page of the ignition is first opened."""
        if self._ignition is None:
            from true_compass.session.ignition_bays import ignition_bays

            self._ignition = ignition_bays(self._keeping.ignition_store, self.session)
        return self._ignition

    def _lesson_keeper(self) -> "LessonKeeper":
        """Made when Lessons are first opened."""
        if self._lessons is None:
            from true_compass.session.results import LessonKeeper

            keeping = self._keeping
            self._lessons = LessonKeeper(
                keeping.records_folder, keeping.results_folder, keeping.troubles, keeping.clock
            )
            self._lessons.watch(self.session)
        return self._lessons

    def _fit_screen(self) -> None:
        """The first window is no larger than the screen has room for."""
        screen = self.screen()
        if screen is not None:
            room = screen.availableGeometry().size()
            self.resize(self.size().boundedTo(room))

    def _remember_engine(self) -> None:
        """Another engine is open: it is the last one from now on, whatever happens."""
        state = self.session.state
        last = self.settings.last_engine()
        if last is None or last.source != state.source:
            self.settings.remember_engine(state.source, state.crank_deg)
            self.settings.write()

    # Pages -----------------------------------------------------------------------------------

    @property
    def workspace(self) -> Workspace:
        """The page that is open."""
        return self.pages.workspace

    def _where(self) -> tuple[str, str]:
        """The workspace and the page that is open: a step remembers where it was made."""
        return self.pages.entry.word, self.workspace.page

    def _show_where(self, word: str, page: str) -> None:
        """Show where a step was made that was undone just now."""
        if word and (word, page) != self._where():
            self.go_to(word, page)

    def go_to(self, word: str, page: str = "") -> None:
        """Open a workspace by its word, at one of its pages."""
        self.pages.go_to(word, page)

    def _desk_of(self, entry: Entry) -> Desk:
        return Desk(
            entries=self.entries,
            session=self.session,
            bridge=self.bridge,
            turner=self.turner,
            look=self.look,
            files=self.opener,
            documents=self.documents,
            settings=self.settings.section(entry.word.lower(), entry.remembers),
            say=self.note.say,
            show_rows=self.sheet.show_rows,
            go_to=self.go_to,
            undo=self.teller.undo,
            redo=self.teller.redo,
            open_rigs=self.lists.open_rigs,
            open_recent=self.lists.open_recent,
            open_recent_one=self.open_recent_one,
            open_menu=self.lists.open_menu,
            runs=self._bench_logs,
            book=self._book_keeper,
            cam=self._cam_sheets,
            ignition=self._ignition_bays,
            lessons=self._lesson_keeper,
        )

    def _on_opened(self) -> None:
        self.note.pass_by()
        self._on_shown()
        self.strip.show_open(self.pages.entry.word)
        self._arrange()

    def _on_shown(self) -> None:
        """The keys of the page, the engine that it is about, and what it hides."""
        workspace = self.workspace
        lines = (*workspace.keys(), *workspace.instead())
        self._own_actions = actions_of(lines)
        self.strip.cover(workspace.on_show, order=workspace.hides_order)
        self.turn_bar.cover(places=workspace.hides_order, from_deg=None)
        self._show_engine()

    def _go_back(self) -> None:
        if not self.workspace.go_back():
            self.turner.jump_back()

    def _open_elsewhere(self, kind: FileKind, path: Path) -> bool:
        """Open a file where its kind belongs; whether there is such a place."""
        for entry in self.entries:
            if entry.opens is kind:
                self.go_to(entry.word)
                self.workspace.take_file(path)
                return True
        return False

    def _menu_acts(self) -> Acts:
        """What the menu can do now."""
        can_print = self.workspace.document() is not None
        return Acts(
            self.lists.open_rigs,
            self.lists.open_recent,
            self.print_page if can_print else None,
            self.show_help,
            self.teller.show_about,
            self.toggle_full_screen,
            self.teller.toggle_lock,
            partial(self.go_to, *NEW_ENGINE),
            self.close,
        )

    def print_page(self) -> None:
        """Show what can be printed of the open page."""
        document = self.workspace.document()
        if document is None:
            self.note.say("This page has nothing to print. The shop card is on Stops.")
        else:
            self.documents.show(document)

    def _on_change(self, before: SessionState, after: SessionState) -> None:
        """Another engine takes the place of the open one: where one was on that is kept."""
        if after.source != before.source and after.rig is not before.rig:
            self.settings.remember_recent(self.pages.where(before, self.opener.now()))

    def open_recent_one(self, recent: Recent) -> None:
        """Open an engine again, on the page where one was."""
        if self.opener.open_recent(recent):
            self.go_to(recent.word, recent.page)

    # Looks ---------------------------------------------------------------------------------

    def _dress(self) -> None:
        theme = self.look.theme
        palette = self.palette()
        palette.setColor(QPalette.ColorRole.Window, theme.paper)
        self.setPalette(palette)
        style = menu_style(theme, self.look.scale)
        if self.styleSheet() != style:
            self.setStyleSheet(style)
        self._arrange()

    def _show_engine(self) -> None:
        state = self.session.state
        star = " (edited)" if state.edited else ""
        on_show = self.workspace.on_show
        named = f"{state.engine.name}{star}" if on_show is None else on_show.name
        mark = " (demonstration)" if self._keeping.demo else ""
        self.setWindowTitle(f"{named} – True Compass{mark}")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place strip, workspace and bar."""
        self._arrange()

    def _arrange(self) -> None:
        s = self.look.scale
        strip = round(top_strip.HEIGHT * s)
        bar = round(turn_bar.HEIGHT * s) if self.workspace.wants_crank else 0
        self.turn_bar.setVisible(self.workspace.wants_crank)
        width, height = self.width(), self.height()
        # In projector mode the strip lies over the workspace, and comes when it is wanted.
        top = 0 if self.look.projector else strip
        body = QRect(0, top, width, max(height - top - bar, 1))
        self.strip.setGeometry(0, 0, width, strip)
        self.strip.setVisible(not self.look.projector)
        self.scroll_area.setGeometry(body)
        least_width, least_height = (round(side * s) for side in self.workspace.least_size)
        self.stack.resize(max(width, least_width), max(body.height(), least_height))
        if bar:
            self.turn_bar.setGeometry(0, height - bar, width, bar)
        if self.note.isVisible():
            self._place_note()
        self.sheet.setGeometry(body)
        self.sheet.place_close()
        if self._made_preview is not None:
            self._made_preview.setGeometry(0, top, width, max(height - top, 1))
            self._made_preview.arrange()
        self.lists.place()

    def _place_note(self) -> None:
        """Now, and once more when a page that has just come is laid out."""
        self._lay_note()
        self._note_timer.start(0)

    def _lay_note(self) -> None:
        """As low as there is room: a message never takes a press."""
        high = round(note.HEIGHT * self.look.scale)
        taken = pressable(self.workspace, self)
        page = self.scroll_area.geometry()
        self.note.setGeometry(free_room(page, taken, self.note.widths, high))
        self.note.place_more()
        if self.note.isVisible():
            # A press on the page may show other things where it lies.
            self._note_timer.start(NOTE_MOVES_MS)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """The pointer may be near the hidden strip."""
        if event is not None:
            self.reveal_strip(event.position().toPoint())

    def reveal_strip(self, at: QPoint) -> None:
        """In projector mode: show the strip while the pointer is at the top edge."""
        if self.look.projector:
            reach = self.strip.height() if self.strip.isVisible() else STRIP_REACH
            self.strip.setVisible(at.y() <= reach)
            self.strip.raise_()

    def _way_out(self) -> None:
        """Put a message away, and leave the projector view."""
        self.note.hide()
        if self.look.projector:
            self.look.toggle_projector()

    def _say_projector(self) -> None:
        """On coming into the projector view: how one gets out of it."""
        if self.look.projector and not self._was_projector:
            self.note.say(PROJECTOR)
        self._was_projector = self.look.projector

    def toggle_full_screen(self) -> None:
        """Full screen and back."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    # Keys and menu -------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Obey the table of keys and the letters of the workspaces."""
        if event is None:
            return
        chord = (Key(event.key()), event.modifiers() & COUNTED)
        act = self._own_actions.get(chord) or self._actions.get(chord)
        if act is not None:
            act()
        else:
            event.ignore()

    def _cylinder_count(self) -> int:
        return self.session.state.engine.cylinder_count

    def _to_cylinder(self, cylinder: int) -> None:
        if self.workspace.hides_order:
            return
        self.turner.jump_to(float(self.session.state.rig.true_offsets_deg[cylinder - 1]))

    def show_help(self) -> None:
        """Show the keys of this page and of all, and the codes; or put them away."""
        if self.sheet.isVisible():
            self.sheet.hide()
            return
        instead = self.workspace.instead()
        other = set(actions_of(instead))
        kept = [line for line in self.key_lines if not line.acts or set(line.acts) - other]
        lines = (*self.workspace.keys(), *instead, *kept)
        rows = [(line.called, line.does) for line in lines]
        self.sheet.show_rows("Keys and codes", [*rows, *CODES])

    # Files and farewell --------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Take files from the desktop."""
        if event is not None and self._dropped_paths(event):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Open the dropped file."""
        paths = self._dropped_paths(event) if event is not None else []
        if event is not None and paths:
            event.acceptProposedAction()
            self.opener.open_dropped(paths)

    @staticmethod
    def _dropped_paths(event: QDropEvent) -> list[Path]:
        data = event.mimeData()
        urls = data.urls() if data is not None else []
        return [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Remember the engine, the angle and the look."""
        self.turner.finish()
        self.draft_keeper.keep()
        state = self.session.state
        self.settings.remember_engine(state.source, state.crank_deg)
        self.settings.remember_recent(self.pages.where(state, self.opener.now()))
        self.settings.remember_look(self.look)
        self.settings.remember_geometry(bytes(self.saveGeometry().data()))
        for workspace in self.pages.made():
            workspace.remember()
        self.settings.write()
        if self._book is not None:
            self._book.close()
        if self._lessons is not None:
            self._lessons.close()
        if self._runs is not None:
            self._runs.close()
        super().closeEvent(event)
