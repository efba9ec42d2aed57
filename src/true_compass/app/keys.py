"""The keys of the program: one table, which the window obeys and the help shows."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Final

from PyQt6.QtCore import QObject, Qt, QTimer

from true_compass.app.look import Look
from true_compass.app.opener import Opener
from true_compass.app.turn_bar import TurnBar
from true_compass.app.turner import Turner

Key = Qt.Key
NONE: Final = Qt.KeyboardModifier.NoModifier
SHIFT: Final = Qt.KeyboardModifier.ShiftModifier
CTRL: Final = Qt.KeyboardModifier.ControlModifier
ALT: Final = Qt.KeyboardModifier.AltModifier
COUNTED: Final = SHIFT | CTRL | ALT

Chord = tuple[Qt.Key, Qt.KeyboardModifier]
TWO_DIGITS_MS: Final = 600

ARROW_STEPS: Final = ((NONE, 1.0), (SHIFT, 5.0), (CTRL, 30.0))
PAGE_STEPS: Final = ((NONE, 90.0), (CTRL, 180.0))


Action = Callable[[], object]


def key_actions(parts: "KeyParts") -> dict[Chord, Action]:
    """Every key of the window and what it does."""
    bar, look, opener = parts.turn_bar, parts.look, parts.opener
    actions: dict[Chord, Action] = {
        (Key.Key_Space, NONE): bar.to_next_tdc,
        (Key.Key_Space, SHIFT): partial(bar.to_next_tdc, back=True),
        (Key.Key_Period, NONE): bar.to_next_event,
        (Key.Key_Comma, NONE): partial(bar.to_next_event, back=True),
        (Key.Key_D, NONE): look.toggle_dark,
        (Key.Key_P, NONE): look.toggle_projector,
        (Key.Key_O, CTRL): opener.choose_and_open,
        (Key.Key_S, CTRL | SHIFT): opener.choose_and_save_copy,
        (Key.Key_F5, NONE): opener.reload,
        (Key.Key_S, CTRL): opener.save,
        (Key.Key_Z, CTRL): opener.undo,
        (Key.Key_Z, CTRL | SHIFT): opener.redo,
        **parts.window_keys,
        **turning_keys(parts.turner.turn_by),
    }
    for digit in range(10):
        actions[Key(Key.Key_0.value + digit), NONE] = partial(parts.digits.press, digit)
    return actions


def turning_keys(turn_by: Callable[[float], None]) -> dict[Chord, Callable[[], None]]:
    """Arrow and page keys; Right and Page Down turn on."""
    keys: dict[Chord, Callable[[], None]] = {}
    for on, back, steps in (
        (Key.Key_Right, Key.Key_Left, ARROW_STEPS),
        (Key.Key_PageDown, Key.Key_PageUp, PAGE_STEPS),
    ):
        for modifier, step_deg in steps:
            keys[on, modifier] = partial(turn_by, step_deg)
            keys[back, modifier] = partial(turn_by, -step_deg)
    return keys


HELP: Final = (
    ("Right, Left", "1° on, 1° back (Shift 5°, Ctrl 30°)"),
    ("Page Down, Page Up", "90° on, 90° back (Ctrl 180°)"),
    ("Mouse wheel", "5° a notch (Shift 1°, Ctrl 30°)"),
    ("Drag the ring", "turns the crank; with Alt no snap at TDC"),
    ("Drag the chart", "moves the cursor to an angle"),
    ("Space", "next compression TDC (Shift: the one before)"),
    ("Full stop, comma", "next valve event, the one before"),
    ("1, 2, 3 …", "that cylinder to compression TDC"),
    ("Backspace", "back to the set values, or to the angle before the last jump"),
    ("Up, Down, Return", "in Stops: another school or stop; set the item due"),
    ("T", "one cylinder: lap, overlap, lift, events, train"),
    ("Z", "lens: 60° of the chart about the crank"),
    ("D, P, F11", "dark theme, projector, full screen"),
    ("V", "in a small window: chart or sections"),
    ("Ctrl+O, F5", "open an engine file, read it again"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+S", "save the engine"),
    ("F10, F1", "list of rigs, this page"),
    ("Solid mark, hollow mark", "compression TDC above, overlap TDC below"),
    ("Solid arc", "where an exhaust valve is free"),
    ("Hollow arc", "where an intake valve is free"),
    ("Round chip", "intake valve, always at the left"),
    ("Square chip", "exhaust valve, always at the right"),
    ("Solid chip", "free: margin in degrees to the nearer end"),
    ("Outlined chip", "free, but less than 30° from its ramp"),
    ("Pale chip", "not free: on its ramp, or open by so many mm"),
    ("Margin", "base circle left before the tappet moves"),
    ("Companion", "rises with it; one fires, one is in overlap"),
    ("Ramp", "quiet part of the lobe outside the named events"),
    ("On, back", "with or against the running direction"),
    ("Thou", "0.001 in, which is 0.0254 mm"),
)


class DigitKeys(QObject):
    """Digits name a cylinder; a second one within 0.6 s makes it a number of two digits."""

    def __init__(
        self, go: Callable[[int], None], count: Callable[[], int], parent: QObject
    ) -> None:
        super().__init__(parent)
        self._go = go
        self._count = count
        self._typed = ""
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(TWO_DIGITS_MS)
        self._timer.timeout.connect(self._act)

    def press(self, digit: int) -> None:
        """Take one digit."""
        self._typed += str(digit)
        # Wait for a second digit only where one could follow.
        if len(self._typed) == 2 or int(self._typed) * 10 > self._count():
            self._act()
        else:
            self._timer.start()

    def _act(self) -> None:
        self._timer.stop()
        number, self._typed = int(self._typed or 0), ""
        if 1 <= number <= self._count():
            self._go(number)


@dataclass(frozen=True, slots=True)
class KeyParts:
    """What the keys act on. `window_keys` are those that only the window can obey."""

    turner: Turner
    turn_bar: TurnBar
    look: Look
    opener: Opener
    digits: DigitKeys
    window_keys: dict[Chord, Action]
