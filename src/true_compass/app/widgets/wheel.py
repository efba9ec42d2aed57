"""The mouse wheel in whole notches."""

from typing import Final

from PyQt6.QtGui import QWheelEvent

NOTCH: Final = 120


class WheelNotches:
    """Adds up what fine wheels and touch pads tell, until it is a whole notch."""

    def __init__(self) -> None:
        self._rest = 0

    def take(self, event: QWheelEvent) -> int:
        """Whole notches that came together with this event; up is positive."""
        delta = event.angleDelta()
        # Some systems turn a wheel with Shift into a sideways one.
        self._rest += delta.y() or delta.x()
        notches = int(self._rest / NOTCH)
        self._rest -= notches * NOTCH
        return notches
