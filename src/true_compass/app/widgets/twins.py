"""The words of painted views, for whoever cannot see them.

A view that paints itself is a blank to a screen reader. Its twin is what is written on it, told
once nothing has been painted for a second: a drag is never held up.
"""

from typing import Final
from weakref import WeakSet

from PyQt6 import sip
from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtGui import QPainter, QPicture
from PyQt6.QtWidgets import QWidget

from true_compass.drawing.text import texts_recorded

REST_MS: Final = 1000
MOST: Final = 4000


class Twins(QObject):
    """Views that were painted since their words were told."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._stale: WeakSet[QWidget] = WeakSet()
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self._next)

    def painted(self, view: QWidget) -> None:
        """A view looks otherwise than before."""
        self._stale.add(view)
        self._rest.start(REST_MS)

    def _next(self) -> None:
        """Tell one view and come back for the next, so that hands are served in between."""
        if self.tell_one():
            self._rest.start(0)

    def tell_one(self) -> bool:
        """Tell the words of one view; whether there was one."""
        while self._stale:
            view = self._stale.pop()
            # Python may hold a view for a while that Qt has deleted already.
            if not sip.isdeleted(view) and view.isVisible():
                words = twin_of(view)
                if view.accessibleDescription() != words:
                    view.setAccessibleDescription(words)
                return True
        return False


def twin_of(view: QWidget) -> str:
    """The words of a view, as it says them itself."""
    says = getattr(view, "text_twin", None)
    return str(says()) if says is not None else ""


def words_on(view: QWidget) -> str:
    """What is written on a view, each text once, in the order in which it is painted."""
    paint = getattr(view, "paint", None)
    if paint is None:
        return ""
    picture = QPicture()
    with texts_recorded() as words:
        p = QPainter(picture)
        paint(p)
        p.end()
    return ". ".join(dict.fromkeys(word.strip(". ") for word in words if word.strip(". ")))[:MOST]
