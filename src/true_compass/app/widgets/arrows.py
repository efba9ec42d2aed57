"""Arrow keys from one place on a drawing or a page to the nearest one that way."""

from collections.abc import Sequence
from typing import Final

from PyQt6.QtCore import QPointF, Qt

ARROWS: Final = {
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Down: (0, 1),
    Qt.Key.Key_Up: (0, -1),
}
"""Steps across and down."""
LEAST: Final = 1.0
SLANT: Final = 0.4
"""A place counts as that way where it is at least so much of its way aside along it."""


def place_towards(places: Sequence[QPointF], here: QPointF, way: tuple[int, int]) -> int | None:
    """Which of some places lies nearest one way (across, down) from here; None where none does.

    >>> place_towards([QPointF(0, 0), QPointF(90, 10), QPointF(40, 80)], QPointF(0, 0), (1, 0))
    1
    """
    across, down = way
    found = []
    for number, place in enumerate(places):
        to = place - here
        along = to.x() * across + to.y() * down
        aside = abs(to.x() * down + to.y() * across)
        if along > LEAST and along > aside * SLANT:
            found.append((along + 2 * aside, number))
    return min(found)[1] if found else None
