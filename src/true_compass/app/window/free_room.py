"""Where a note can lie without taking a press: the lowest free room on the page."""

from collections.abc import Sequence
from typing import Final

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QAbstractButton, QWidget

ROOM: Final = 4
"""Pixels that a note keeps from what stands beside it."""
STEP: Final = 4
"""Pixels between two heights that are tried."""
LOW_SHARE: Final = 0.2
"""What is pressed or typed at is no higher than this share of the page; taller views are pictures
and lists, of which a note may hide a part for some seconds."""


def pressable(page: QWidget, window: QWidget) -> list[QRect]:
    """What is pressed or typed at on a page, as it is seen, in the window's own pixels."""
    most = page.height() * LOW_SHARE
    found = []
    for view in page.findChildren(QWidget):
        # The keys of a keypad leave the keyboard to their field.
        takes = view.focusPolicy() != Qt.FocusPolicy.NoFocus or isinstance(view, QAbstractButton)
        if takes and view.isVisible() and view.height() <= most:
            found.append(_seen(view, page, window))
    return [rect.adjusted(-ROOM, 0, ROOM, 0) for rect in found if not rect.isEmpty()]


def _seen(view: QWidget, page: QWidget, window: QWidget) -> QRect:
    """The part of a view that is not scrolled out of sight, whatever lies over it."""
    rect = QRect(view.mapTo(window, QPoint(0, 0)), view.size())
    around = view.parentWidget()
    while around is not None and around is not page:
        rect &= QRect(around.mapTo(window, QPoint(0, 0)), around.size())
        around = around.parentWidget()
    return rect


def free_room(page: QRect, taken: Sequence[QRect], widths: Sequence[int], high: int) -> QRect:
    """The lowest room so high on a page in which nothing is taken, as wide as it can be: at least
    the first of some widths for which there is one.

    At its foot, over whatever lies there, where there is none.
    """
    foot = page.bottom() + 1 - high
    rows = [QRect(page.left(), y, page.width(), high) for y in range(foot, page.top() - 1, -STEP)]
    rooms = [_widest_gap(row, [rect for rect in taken if rect.intersects(row)]) for row in rows]
    for wide in widths:
        fitting = [room for room in rooms if room.width() >= min(wide, page.width())]
        if fitting:
            return fitting[0]
    return QRect(page.left(), foot, page.width(), high)


def _widest_gap(row: QRect, taken: Sequence[QRect]) -> QRect:
    """The widest part of a row between what is taken in it; of no width where all is taken."""
    widest, left = QRect(row.topLeft(), QSize(0, row.height())), row.left()
    ends = [(rect.left(), rect.right() + 1) for rect in taken]
    for begins, ends_at in sorted([*ends, (row.right() + 1, row.right() + 1)]):
        if begins - left > widest.width():
            widest = QRect(left, row.top(), begins - left, row.height())
        left = max(left, ends_at)
    return widest
