"""Which way things turn, and from which end that is seen."""

from enum import Enum


class Rotation(Enum):
    """A direction of turning, seen from an end or from above that is named beside it."""

    CLOCKWISE = "clockwise"
    ANTICLOCKWISE = "anticlockwise"

    @property
    def sense(self) -> int:
        """+1 clockwise, -1 anticlockwise."""
        return 1 if self is Rotation.CLOCKWISE else -1

    @property
    def other(self) -> "Rotation":
        """The other direction."""
        return Rotation.ANTICLOCKWISE if self is Rotation.CLOCKWISE else Rotation.CLOCKWISE


class End(Enum):
    """An end of the engine. The front is the free end, away from the flywheel."""

    FRONT = "front"
    REAR = "rear"
