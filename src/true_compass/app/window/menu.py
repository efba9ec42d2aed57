"""The menu: files, print, how the program looks, help."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PyQt6.QtGui import QAction, QActionGroup, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidget

from true_compass.app.keeping.opener import Opener
from true_compass.app.widgets.look import TEXT_SIZES, Look
from true_compass.drawing.theme import BODY, Theme
from true_compass.session.session import Session


@dataclass(frozen=True, slots=True)
class Acts:
    """What only the window can do."""

    open_rigs: Callable[[], None]
    open_recent: Callable[[], None]
    print_page: Callable[[], None] | None
    show_help: Callable[[], None]
    show_about: Callable[[], None]
    toggle_full_screen: Callable[[], None]
    toggle_lock: Callable[[], None]
    new_engine: Callable[[], None]
    quit: Callable[[], object]


def fill_menu(menu: QMenu, session: Session, opener: Opener, look: Look, acts: Acts) -> None:
    """Put the current entries into the menu: each row always in its place, off where it has
    nothing to do.
    """
    _empty(menu)
    _plain(menu, "New engine…", acts.new_engine)
    _plain(menu, "Demo rigs…", acts.open_rigs, "F4")
    _plain(menu, "Recent engines…", acts.open_recent, "Ctrl+R")
    _plain(menu, "Open engine file…", opener.choose_and_open, "Ctrl+O")
    again = _plain(menu, "Read the file again", opener.reload, "F5")
    again.setEnabled(session.state.source.path is not None)
    menu.addSeparator()
    _plain(menu, "Save", opener.save, "Ctrl+S")
    _plain(menu, "Save a copy…", opener.choose_and_save_copy, "Ctrl+Shift+S")
    _tick(menu, menu, "Lock the engine for a class", session.state.locked, acts.toggle_lock)
    printing = _plain(menu, "Print…", acts.print_page or _nothing, "Ctrl+P")
    printing.setEnabled(acts.print_page is not None)
    menu.addSeparator()
    _tick(menu, menu, "Dark theme", look.dark, look.toggle_dark, "D")
    _tick(menu, menu, "Projector", look.projector, look.toggle_projector, "P")
    for percent in TEXT_SIZES:
        chosen = look.text_percent == percent
        _tick(menu, menu, f"Text {percent} %", chosen, partial(look.set_text_percent, percent))
    _tick(menu, menu, "Turn without sweeping", look.still, look.toggle_still)
    _plain(menu, "Full screen", acts.toggle_full_screen, "F11")
    menu.addSeparator()
    _plain(menu, "Keys and codes", acts.show_help, "F1")
    _plain(menu, "About True Compass", acts.show_about)
    menu.addSeparator()
    _plain(menu, "Quit", acts.quit)


def _nothing() -> None:
    """Nothing can be printed here."""


def _empty(menu: QMenu) -> None:
    """Take everything out, submenus and groups too: the menu would keep them for ever."""
    menu.clear()
    for child in menu.children():
        if isinstance(child, QMenu | QActionGroup):
            child.setParent(None)
            child.deleteLater()


def _plain(menu: QMenu, words: str, act: Callable[[], object], keys: str = "") -> QAction:
    # An ampersand would underline the next letter.
    action = QAction(words.replace("&", "&&"), menu)
    if keys:
        # The window acts on the keys; here they are only shown.
        action.setText(
            f"{action.text()}\t{QKeySequence(keys).toString(QKeySequence.SequenceFormat.NativeText)}"
        )
    action.triggered.connect(_without_argument(act))
    menu.addAction(action)
    return action


def _tick(
    group: QActionGroup | QMenu,
    menu: QMenu,
    words: str,
    ticked: bool,
    act: Callable[[], object],
    keys: str = "",
) -> QAction:
    action = _plain(menu, words, act, keys)
    action.setCheckable(True)
    action.setChecked(ticked)
    if isinstance(group, QActionGroup):
        group.addAction(action)
    return action


def _without_argument(act: Callable[[], object]) -> Callable[[bool], None]:
    def slot(_checked: bool) -> None:
        act()

    return slot


def menu_style(theme: Theme, scale: float) -> str:
    """Style sheet of menus, hints and scroll bars, in the theme's colours."""
    font = f"{round(BODY * scale)}px 'Compass Text'"
    pad = round(7 * scale)
    edge, ink = f"1px solid {theme.line.name()}", theme.ink.name()
    sheet = theme.sheet.name()
    return f"""
    QMenu, QToolTip {{ background: {sheet}; color: {ink}; border: {edge}; font: {font}; }}
    QScrollBar {{ background: {theme.well.name()}; width: {2 * pad}px; height: {2 * pad}px; }}
    QScrollBar::handle {{ background: {theme.line.name()}; border-radius: 3px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QMenu {{ padding: {pad}px 0; }}
    QMenu::item {{ padding: {pad}px {3 * pad}px {pad}px {5 * pad}px; }}
    QMenu::item:selected {{ background: {theme.now_tint.name()}; color: {ink}; }}
    QMenu::separator {{ height: 1px; background: {theme.hair.name()}; margin: {pad}px 0; }}
    QMenu::item:disabled {{ color: {theme.ink3.name()}; }}
    QMenu::indicator {{ width: {pad * 2}px; height: {pad * 2}px; left: {pad * 2}px; }}
    """


def make_menu(parent: QWidget) -> QMenu:
    """An empty menu; `fill_menu` puts in what is true when it opens."""
    menu = QMenu(parent)
    menu.setObjectName("menu")
    return menu
