"""How a field to type in looks, and how it shows a number."""

import re
from typing import Final

from true_compass.drawing.text import localised
from true_compass.drawing.theme import BODY, Theme

_NUMBER: Final = re.compile(r"[-−]?\d+\.\d+")


def typed_number(text: str) -> str:
    """A single number as people write it here; texts that hold several keep the point.

    A comma there separates, and what is read takes both.
    """
    return localised(text) if _NUMBER.fullmatch(text) else text


def field_style(theme: Theme, scale: float, *, wrong: bool) -> str:
    """Style sheet of one field."""
    edge = theme.ink.name() if wrong else theme.line.name()
    width, focus = (3 if wrong else 1.6) * scale, 2.6 * scale
    font = f"600 {round(BODY * scale)}px 'Compass Text'"
    sheet, ink, now, tint = (c.name() for c in (theme.sheet, theme.ink, theme.now, theme.now_tint))
    return f"""
    QLineEdit, QComboBox {{ background: {sheet}; color: {ink}; font: {font};
        border: {width:.1f}px solid {edge}; border-radius: 4px; padding: 0 6px; }}
    QLineEdit:focus, QComboBox:focus {{ border: {focus:.1f}px solid {now}; }}
    QComboBox::drop-down {{ border: none; width: {round(18 * scale)}px; }}
    QComboBox QAbstractItemView {{ background: {sheet}; color: {ink}; font: {font};
        selection-background-color: {tint}; selection-color: {ink}; }}
    """
