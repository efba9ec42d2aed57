"""The keys that hold on every page, declared once: the window obeys them, the help shows them."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

from true_compass.app.keeping.opener import Opener
from true_compass.app.keys import (
    CTRL,
    NONE,
    SHIFT,
    Action,
    Chord,
    Key,
    KeyLine,
    turning_keys,
)
from true_compass.app.registry import HOME, Entry
from true_compass.app.turn_bar import TurnBar
from true_compass.app.turner import Turner
from true_compass.app.widgets.look import Look


@dataclass(frozen=True, slots=True)
class KeyParts:
    """What the keys act on."""

    turner: Turner
    turn_bar: TurnBar
    look: Look
    opener: Opener
    digits: Mapping[Chord, Action]
    entries: tuple[Entry, ...]
    go_to: Callable[[str, str], None]
    go_back: Action
    undo: Action
    redo: Action
    open_rigs: Action
    open_recent: Action
    open_menu: Action
    print_page: Action
    show_help: Action
    toggle_full_screen: Action
    way_out: Action


def window_lines(parts: KeyParts) -> tuple[KeyLine, ...]:
    """Every key of the window and what it does, as the help tells it."""
    bar, look, opener = parts.turn_bar, parts.look, parts.opener
    pages = {(entry.key, NONE): partial(parts.go_to, entry.word, "") for entry in parts.entries}
    letters = ", ".join(entry.letter.upper() for entry in parts.entries)
    words = ", ".join(entry.word for entry in parts.entries)
    turning = turning_keys(parts.turner.turn_by)
    arrows = {chord: act for chord, act in turning.items() if chord[0] in ARROWS}
    return (
        KeyLine(letters, words, pages),
        KeyLine("Home", "front page", {(HOME.key, NONE): partial(parts.go_to, HOME.word, "")}),
        KeyLine("Right, Left", "1° on, 1° back (Shift 5°, Ctrl 30°)", arrows),
        KeyLine(
            "Page Down, Page Up",
            "90° on, 90° back (Ctrl 180°)",
            {chord: act for chord, act in turning.items() if chord[0] not in ARROWS},
        ),
        KeyLine("Mouse wheel", "5° a notch (Shift 1°, Ctrl 30°)"),
        KeyLine(
            "Space",
            "next compression TDC (Shift: the one before)",
            {
                (Key.Key_Space, NONE): bar.to_next_tdc,
                (Key.Key_Space, SHIFT): partial(bar.to_next_tdc, back=True),
            },
        ),
        KeyLine(
            "Full stop, comma",
            "next valve event, the one before",
            {
                (Key.Key_Period, NONE): bar.to_next_event,
                (Key.Key_Comma, NONE): partial(bar.to_next_event, back=True),
            },
        ),
        KeyLine("1, 2, 3 …", "that cylinder to compression TDC", parts.digits),
        KeyLine(
            "Backspace",
            "back to the set values, or to the angle before the last jump",
            {(Key.Key_Backspace, NONE): parts.go_back},
        ),
        KeyLine(
            "Ctrl+Z, Ctrl+Shift+Z",
            "undo, redo",
            {(Key.Key_Z, CTRL): parts.undo, (Key.Key_Z, CTRL | SHIFT): parts.redo},
        ),
        KeyLine(
            "Ctrl+S, Ctrl+Shift+S",
            "save the engine, save a copy",
            {
                (Key.Key_S, CTRL): opener.save,
                (Key.Key_S, CTRL | SHIFT): opener.choose_and_save_copy,
            },
        ),
        KeyLine(
            "Ctrl+O, F5",
            "open an engine file, read it again",
            {(Key.Key_O, CTRL): opener.choose_and_open, (Key.Key_F5, NONE): opener.reload},
        ),
        KeyLine("Ctrl+P", "print this page", {(Key.Key_P, CTRL): parts.print_page}),
        KeyLine(
            "F4, Ctrl+R",
            "list of rigs, recent engines",
            {(Key.Key_F4, NONE): parts.open_rigs, (Key.Key_R, CTRL): parts.open_recent},
        ),
        KeyLine(
            "F10, F1",
            "menu, this page",
            {(Key.Key_F10, NONE): parts.open_menu, (Key.Key_F1, NONE): parts.show_help},
        ),
        KeyLine(
            "D, P, F11",
            "dark theme, projector, full screen",
            {
                (Key.Key_D, NONE): look.toggle_dark,
                (Key.Key_P, NONE): look.toggle_projector,
                (Key.Key_F11, NONE): parts.toggle_full_screen,
            },
        ),
        KeyLine(
            "Esc",
            "puts away what lies over the page, leaves the projector view",
            {(Key.Key_Escape, NONE): parts.way_out},
        ),
    )


ARROWS = (Key.Key_Right, Key.Key_Left)
