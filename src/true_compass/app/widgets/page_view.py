"""A view that works only while it is looked at: what changed before is shown when it appears."""

from PyQt6.QtGui import QResizeEvent, QShowEvent

from true_compass.app.widgets.look import Painted


class PageView(Painted):
    """A subclass gives `show_state`, which puts its model into its widgets, and `arrange`."""

    def refresh(self) -> None:
        """Its model has changed."""
        if self.isVisible():
            self.show_state()

    def show_state(self) -> None:
        """Put the state of the model into the widgets."""
        self.update()

    def arrange(self) -> None:
        """Put every widget in its place."""

    def showEvent(self, event: QShowEvent | None) -> None:
        """What changed while it was hidden is shown now."""
        super().showEvent(event)
        self.show_state()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put everything in its place."""
        super().resizeEvent(event)
        self.arrange()
