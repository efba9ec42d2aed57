"""Keys as they are declared: one line says how they are called, what they do, and does it.

The window and each workspace declare lines; the window obeys them and the help shows them, so the
two cannot differ. What a view with the keyboard does with a key of its own is declared too.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Final

from PyQt6.QtCore import QObject, Qt, QTimer

Key = Qt.Key
NONE: Final = Qt.KeyboardModifier.NoModifier
SHIFT: Final = Qt.KeyboardModifier.ShiftModifier
CTRL: Final = Qt.KeyboardModifier.ControlModifier
ALT: Final = Qt.KeyboardModifier.AltModifier
COUNTED: Final = SHIFT | CTRL | ALT

Chord = tuple[Qt.Key, Qt.KeyboardModifier]
Action = Callable[[], object]
TWO_DIGITS_MS: Final = 600

ARROW_STEPS: Final = ((NONE, 1.0), (SHIFT, 5.0), (CTRL, 30.0))
PAGE_STEPS: Final = ((NONE, 90.0), (CTRL, 180.0))


@dataclass(frozen=True, slots=True)
class KeyLine:
    """One line of the help. `in_view` are keys that only a view with the keyboard takes."""

    called: str
    does: str
    acts: Mapping[Chord, Action] = field(default_factory=dict)
    in_view: tuple[Chord, ...] = ()


def actions_of(lines: Iterable[KeyLine]) -> dict[Chord, Action]:
    """Every chord of some lines and what it does."""
    return {chord: act for line in lines for chord, act in line.acts.items()}


def turning_keys(turn_by: Callable[[float], None]) -> dict[Chord, Action]:
    """Arrow and page keys; Right and Page Down turn on."""
    keys: dict[Chord, Action] = {}
    for on, back, steps in (
        (Key.Key_Right, Key.Key_Left, ARROW_STEPS),
        (Key.Key_PageDown, Key.Key_PageUp, PAGE_STEPS),
    ):
        for modifier, step_deg in steps:
            keys[on, modifier] = partial(turn_by, step_deg)
            keys[back, modifier] = partial(turn_by, -step_deg)
    return keys


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

    def keys(self) -> dict[Chord, Action]:
        """All ten digits."""
        return {
            (Key(Key.Key_0.value + digit), NONE): partial(self.press, digit) for digit in range(10)
        }

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
