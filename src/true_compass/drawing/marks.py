"""A mark of the crank as it is painted on the engine: a bar in its own colour, edged in ink."""

from typing import Final

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter

from true_compass.core.engine import Mark
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.theme import Theme

PAINTS: Final = {
    "white": "#FFFFFF",
    "yellow": "#F2C200",
    "gold": "#C99A1E",
    "orange": "#E8730C",
    "red": "#D0202E",
    "pink": "#EE7FA8",
    "purple": "#7A3FA0",
    "violet": "#7A3FA0",
    "blue": "#1F62C8",
    "green": "#1E8A45",
    "brown": "#7A4A21",
    "grey": "#8C8C8C",
    "gray": "#8C8C8C",
    "silver": "#C4C4C8",
    "black": "#000000",
}
"""Colours as a file names them; one that is not here is drawn in ink, and its name beside it."""


def paint_of(mark: Mark, theme: Theme) -> QColor:
    """The colour that a mark is drawn in: its own, or ink for a bare line.

    >>> from true_compass.drawing.theme import theme
    >>> paint_of(Mark("pulley", 0.0, "T", colour="yellow paint"), theme("light")).name()
    '#f2c200'
    """
    for word in mark.colour.lower().replace("-", " ").split():
        if word in PAINTS:
            return QColor(PAINTS[word])
    return theme.ink


def short_name(mark: Mark) -> str:
    """What tells it apart: its colour and stamp, or where it is.

    >>> short_name(Mark("pulley", 0.0, "T", colour="white")), short_name(Mark("damper", 0.0))
    ('white T', 'damper')
    """
    return " ".join(filter(None, (mark.colour, mark.stamped))) or mark.where


def mark_bar(p: QPainter, one: QPointF, other: QPointF, fill: QColor, theme: Theme) -> None:
    """A bar from one place to another: its colour is seen on paper and on black."""
    p.setPen(flat_pen(theme.ink, 6.0))
    p.drawLine(one, other)
    if fill != theme.ink:
        p.setPen(flat_pen(fill, 3.4))
        p.drawLine(one, other)
