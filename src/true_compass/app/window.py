"""The main window: strip, workspaces, turn bar; keys, files and what is remembered."""

from functools import partial
from pathlib import Path
from typing import Final

from PyQt6.QtCore import QPoint, QRect, Qt
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

from true_compass.app import note, top_strip, turn_bar
from true_compass.app.bridge import Bridge
from true_compass.app.draft import DraftKeeper
from true_compass.app.keeping import Keeping
from true_compass.app.keys import COUNTED, HELP, NONE, DigitKeys, Key, KeyParts, key_actions
from true_compass.app.look import Look
from true_compass.app.note import NoteStrip, Sheet
from true_compass.app.opener import FileDialogs, Opener
from true_compass.app.registry import WORKSPACES
from true_compass.app.rig_menu import fill_menu, make_menu, menu_style
from true_compass.app.top_strip import TopStrip
from true_compass.app.turn_bar import TurnBar
from true_compass.app.turner import Turner
from true_compass.app.workspace import LEAST_SIZE, Workspace
from true_compass.files.problems import EngineFileError
from true_compass.session.drafts import Draft
from true_compass.session.session import Session

FIRST_SIZE: Final = (1280, 800)
STRIP_REACH: Final = 10
TURNED_BACK: Final = "Turning back. Come up to TDC in the running direction to take up slack."


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

    def __init__(self, session: Session, keeping: Keeping, dialogs: FileDialogs) -> None:
        super().__init__()
        self.session = session
        self.settings = keeping.settings
        self.look = Look(self)
        self.bridge = Bridge(session, self)
        self.turner = Turner(session, self.look, self)
        self.opener = Opener(session, dialogs, keeping, self)
        self.draft_keeper = DraftKeeper(session, keeping.drafts, self)
        keeping.progress.watch(session)
        self.strip = TopStrip(session, self.bridge, self.look, self)
        self.stack = QStackedWidget()
        self._made: dict[int, Workspace] = {}
        self.scroll_area = Middle(self)
        self.turn_bar = TurnBar(session, self.bridge, self.turner, self.look, self)
        self.note = NoteStrip(self.look, self)
        self.sheet = Sheet(self.look, self)
        self.menu = make_menu(self)
        self._problems: EngineFileError | None = None
        self._set_up()
        self._connect()
        self._restore()

    def _set_up(self) -> None:
        self.setObjectName("main_window")
        self.setAcceptDrops(True)
        self.setMouseTracking(True)
        self.setAutoFillBackground(True)
        self._open = 0
        self.scroll_area.setWidget(self.stack)
        digits = DigitKeys(self._to_cylinder, self._cylinder_count, self)
        window_keys = {
            (Key.Key_V, NONE): self._toggle_view,
            (Key.Key_T, NONE): self._toggle_cycle,
            (Key.Key_Z, NONE): self._toggle_lens,
            (Key.Key_Backspace, NONE): self._go_back,
            (Key.Key_F1, NONE): self.show_help,
            (Key.Key_F10, NONE): self.open_menu,
            (Key.Key_F11, NONE): self.toggle_full_screen,
            (Key.Key_Escape, NONE): self.note.hide,
        }
        parts = KeyParts(
            self.turner, self.turn_bar, self.look, self.opener, digits, dict(window_keys)
        )
        self._actions = key_actions(parts)

    def _connect(self) -> None:
        for tab in self.strip.tabs:
            tab.clicked.connect(self._on_tab)
        self.strip.picker.clicked.connect(self.open_menu)
        self.turner.turned_back.connect(self._on_turned_back)
        self.opener.refused.connect(self.show_problems)
        self.opener.said.connect(self.note.say)
        self.opener.parted.connect(self._show_parted)
        self.note.more.clicked.connect(self._show_all_problems)
        self.bridge.engine_changed.connect(self._show_engine)
        self.bridge.saved.connect(self._remember_engine)
        self.bridge.saved.connect(self._show_engine)
        self.look.changed.connect(self._dress)

    def _restore(self) -> None:
        self.settings.restore_look(self.look)
        self.resize(*FIRST_SIZE)
        self._fit_screen()
        self.restoreGeometry(self.settings.geometry())
        self._show_engine()
        self.open_workspace(0)

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

    # Workspaces ----------------------------------------------------------------------------

    @property
    def workspace(self) -> Workspace:
        """The workspace that is open."""
        return self.workspace_at(self._open)

    def workspace_at(self, place: int) -> Workspace:
        """A workspace by its place in the registry, made when it is first asked for."""
        if place not in self._made:
            parts = (self.session, self.bridge, self.turner, self.look, self.stack)
            made = self._made[place] = WORKSPACES[place].make(*parts)
            made.wanted.connect(self._open_by_word)
            made.save_wanted.connect(self._save)
            made.table_wanted.connect(self.opener.choose_table)
            made.card_wanted.connect(self.opener.choose_card)
            made.undo_wanted.connect(self.opener.undo)
            made.said.connect(self.note.say)
            made.rows_wanted.connect(self.sheet.show_rows)
            made.restore(self.settings)
            self.stack.addWidget(made)
        return self._made[place]

    def open_workspace(self, place: int) -> None:
        """Open a workspace by its place in the registry."""
        self._open = place
        self.stack.setCurrentWidget(self.workspace_at(place))
        for i, tab in enumerate(self.strip.tabs):
            tab.setChecked(i == place)
        self.workspace.came_to_front()
        self._arrange()
        self.workspace.focus_first().setFocus()

    def _on_tab(self) -> None:
        for place, tab in enumerate(self.strip.tabs):
            if tab is self.sender():
                self.open_workspace(place)

    def _open_by_word(self, word: str) -> None:
        self.open_workspace([entry.word for entry in WORKSPACES].index(word))

    def _save(self, as_copy: bool) -> None:
        if as_copy:
            self.opener.choose_and_save_copy()
        else:
            self.opener.save()

    def _toggle_view(self) -> None:
        self.workspace.toggle_view()

    def _toggle_cycle(self) -> None:
        self.workspace.toggle_cycle()

    def _toggle_lens(self) -> None:
        self.workspace.toggle_lens()

    def _go_back(self) -> None:
        if not self.workspace.go_back():
            self.turner.jump_back()

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
        self.setWindowTitle(f"{state.engine.name}{star} – True Compass")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place strip, workspace and bar."""
        self._arrange()

    def _arrange(self) -> None:
        s = self.look.scale
        strip = round(top_strip.HEIGHT * s)
        bar = round(turn_bar.HEIGHT * s) if self.workspace.has_crank else 0
        self.turn_bar.setVisible(self.workspace.has_crank)
        note_height = round(note.HEIGHT * s)
        width, height = self.width(), self.height()
        # In projector mode the strip lies over the workspace, and comes when it is wanted.
        top = 0 if self.look.projector else strip
        body = QRect(0, top, width, max(height - top - bar, 1))
        self.strip.setGeometry(0, 0, width, strip)
        self.strip.setVisible(not self.look.projector)
        self.scroll_area.setGeometry(body)
        least_width, least_height = (round(side * s) for side in LEAST_SIZE)
        self.stack.resize(max(width, least_width), max(body.height(), least_height))
        if bar:
            self.turn_bar.setGeometry(0, height - bar, width, bar)
        self.note.setGeometry(0, height - bar - note_height, width, note_height)
        self.note.place_more()
        self.sheet.setGeometry(body)
        self.sheet.place_close()

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

    def toggle_full_screen(self) -> None:
        """Full screen and back."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    # Keys and menu -------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Obey the table of keys and the letters of the workspaces."""
        if event is None:
            return
        chord = (Key(event.key()), event.modifiers() & COUNTED)
        act = self._actions.get(chord)
        if act is not None:
            act()
            return
        for place, entry in enumerate(WORKSPACES):
            if chord == (entry.key, NONE):
                self.open_workspace(place)
                return
        event.ignore()

    def _cylinder_count(self) -> int:
        return self.session.state.engine.cylinder_count

    def _to_cylinder(self, cylinder: int) -> None:
        self.turner.jump_to(float(self.session.state.rig.true_offsets_deg[cylinder - 1]))

    def open_menu(self) -> None:
        """Open the list of rigs under the picker."""
        fill_menu(
            self.menu,
            self.session,
            self.opener,
            self.look,
            self.show_help,
            self.toggle_full_screen,
        )
        picker = self.strip.picker
        self.menu.setMinimumWidth(picker.width())
        corner = picker.mapToGlobal(QPoint(0, picker.height() + 2))
        self.menu.popup(self.mapToGlobal(QPoint(0, 0)) if self.strip.isHidden() else corner)

    def show_help(self) -> None:
        """Show the keys and the codes, or put them away."""
        if self.sheet.isVisible():
            self.sheet.hide()
        else:
            self.sheet.show_rows("Keys and codes", list(HELP))

    # Notes ---------------------------------------------------------------------------------

    def _on_turned_back(self) -> None:
        self.note.say(TURNED_BACK)

    def show_problems(self, error: EngineFileError) -> None:
        """Say what is wrong with a file; the last good engine goes on turning."""
        self._problems = error
        count = error.count
        # Several problems, or a long one, are read on the sheet; the first stands in the strip.
        more = f"Show all {count}" if count > 1 else "Read it all"
        self.note.say(f"{error.file_name}: {error.problems[0]}", problem=True, more=more)

    def _show_all_problems(self) -> None:
        if self._problems is not None:
            rows = [("", sentence) for sentence in self._problems.sentences()]
            self.sheet.show_rows(f"{self._problems.file_name} was not opened", rows)
            self.note.hide()

    def _show_parted(self, rows: list[tuple[str, str, str]], draft: Draft) -> None:
        """A file was changed since unsaved edits were made: both are shown, a person chooses."""
        name = self.session.state.engine.name
        told = [("field", "in the file now → in your unsaved edits")]
        told += [(path, f"{theirs} → {yours}") for path, theirs, yours in rows]
        self.sheet.show_rows(
            f"{name} was changed elsewhere since your edits",
            told,
            (
                ("Keep the file", partial(self.opener.leave_draft, draft)),
                ("Take my edits", partial(self.opener.take_draft, draft)),
            ),
        )

    # Files and farewell --------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Take one file from the desktop."""
        if event is not None and self._dropped_path(event) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Open the dropped file."""
        path = self._dropped_path(event) if event is not None else None
        if event is not None and path is not None:
            event.acceptProposedAction()
            self.opener.open_path(path)

    @staticmethod
    def _dropped_path(event: QDropEvent) -> Path | None:
        data = event.mimeData()
        urls = data.urls() if data is not None else []
        if len(urls) == 1 and urls[0].isLocalFile():
            return Path(urls[0].toLocalFile())
        return None

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Remember the engine, the angle and the look."""
        self.turner.finish()
        self.draft_keeper.keep()
        state = self.session.state
        self.settings.remember_engine(state.source, state.crank_deg)
        self.settings.remember_look(self.look)
        self.settings.remember_geometry(bytes(self.saveGeometry().data()))
        for workspace in self._made.values():
            workspace.remember(self.settings)
        self.settings.write()
        super().closeEvent(event)
