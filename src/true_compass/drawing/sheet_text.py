"""Text on paper: black unless said, from the left unless said."""

from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QPainter

from true_compass.drawing.text import LEFT, draw_text
from true_compass.drawing.theme import Weight

BLACK: Final = QColor("#000000")
WHITE: Final = QColor("#FFFFFF")


class SheetText:
    """Writes lines onto one page."""

    def __init__(self, p: QPainter) -> None:
        self._p = p

    def __call__(
        self,
        box: QRectF,
        words: str,
        px: float,
        weight: Weight = Weight.BODY,
        align: int = LEFT,
        colour: QColor = BLACK,
    ) -> float:
        """One line in a box; its width."""
        return draw_text(self._p, box, words, px, colour, weight, align)
