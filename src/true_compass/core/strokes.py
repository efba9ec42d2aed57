"""The four strokes."""

from enum import IntEnum


class Stroke(IntEnum):
    """The four strokes, in the order in which a cycle angle passes through them from 0°."""

    POWER = 0
    EXHAUST = 1
    INTAKE = 2
    COMPRESSION = 3

    @property
    def word(self) -> str:
        """The stroke in lower case: power, exhaust, intake, compression."""
        return self.name.lower()
