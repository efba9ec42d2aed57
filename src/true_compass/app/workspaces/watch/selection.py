"""Which cylinder is thickened in every figure of Watch."""

from PyQt6.QtCore import QObject, pyqtSignal


class Selection(QObject):
    """A cylinder under the pointer or the keyboard goes before a pinned one."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._near: int | None = None
        self._pinned: int | None = None

    @property
    def strong(self) -> int | None:
        """The cylinder to thicken, if any."""
        return self._near if self._near is not None else self._pinned

    @property
    def pinned(self) -> int | None:
        """The cylinder that stays thick when the pointer is away, if any."""
        return self._pinned

    def come_near(self, cylinder: int | None) -> None:
        """The pointer or the keyboard is on a cylinder, or on none."""
        if cylinder != self._near:
            self._near = cylinder
            self.changed.emit()

    def pin(self, cylinder: int) -> None:
        """Pin a cylinder, or let it go when it is pinned already."""
        self._pinned = None if cylinder == self._pinned else cylinder
        self.changed.emit()

    def clear(self) -> None:
        """Nothing is near or pinned: another engine is open."""
        self._near = self._pinned = None
        self.changed.emit()
