"""Hints on hover. What a file or a person has named is text, never markup."""

import html

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QToolTip, QWidget


def plain_hint(words: str) -> str:
    """Words as a hint that shows every character as it is: Qt takes `<…>` for markup otherwise."""
    return f"<qt>{html.escape(words)}</qt>".replace("\n", "<br>") if "<" in words else words


def show_hint(at: QPoint, words: str, over: QWidget) -> None:
    """Show words beside the pointer."""
    QToolTip.showText(at, plain_hint(words), over)
