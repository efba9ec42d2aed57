"""Hints on hover. What a file or a person has named is text, never markup."""

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QToolTip, QWidget


def plain_hint(words: str) -> str:
    """Words as a hint that shows every character as it is: Qt takes `<…>` for markup otherwise."""
    if "<" not in words:
        return words
    for char, spelt in (("&", "&amp;"), ("<", "&lt;"), (">", "&gt;"), ("\n", "<br>")):
        words = words.replace(char, spelt)
    return f"<qt>{words}</qt>"


def show_hint(at: QPoint, words: str, over: QWidget) -> None:
    """Show words beside the pointer."""
    QToolTip.showText(at, plain_hint(words), over)
