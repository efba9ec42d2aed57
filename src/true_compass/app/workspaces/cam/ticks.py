"""A line with a box that a person ticks."""

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.widgets.look import Look
from true_compass.drawing.codes import flat_pen, paint_tick, rounded
from true_compass.drawing.text import LEFT, draw_one_of
from true_compass.drawing.theme import BODY, Weight


class TickButton(DrawnButton):
    """Ticked or not; the words say what for."""

    def __init__(self, look: Look, words: str, parent: QWidget) -> None:
        super().__init__(look, words, parent)
        self.setCheckable(True)

    def show_ticked(self, ticked: bool) -> None:
        """Show whether it is ticked, and have it read out."""
        if self.isChecked() != ticked:
            self.setChecked(ticked)
        name = f"{self.text()}: ticked" if ticked else f"{self.text()}: not ticked"
        if self.accessibleName() != name:
            self.setAccessibleName(name)

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        theme = self.look.theme
        edge = flat_pen(theme.now, 3) if focus else flat_pen(theme.line, 1.6)
        rounded(p, box, 4, theme.now_tint if active else theme.sheet, edge)
        side = min(20.0, box.height() - 6)
        place = QRectF(box.left() + 10, box.center().y() - side / 2, side, side)
        done = self.isChecked()
        rounded(p, place, 3, theme.ink if done else theme.sheet, flat_pen(theme.ink, 1.8))
        if done:
            paint_tick(p, place.center(), 12, theme.on_ink)
        words = box.adjusted(42, 0, -8, 0)
        draw_one_of(p, words, (self.text(),), BODY, theme.ink, Weight.LABEL, LEFT)
