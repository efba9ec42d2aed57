"""What was painted, text by text, and where it stands."""

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.drawing import text
from true_compass.drawing.text import texts_recorded


def painted_texts(view: QWidget) -> list[str]:
    """Every text that a view paints."""
    with texts_recorded() as words:
        view.grab()
    return words


class Painted:
    """Every paragraph of the lines, and how far down it reaches."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.seen: list[tuple[str, QRectF]] = []
        monkeypatch.setattr(text, "_write", self._write)

    def _write(self, p: QPainter, box: QRectF, flags: int, words: str) -> None:
        self.seen.append((words, QRectF(p.boundingRect(box, flags, words))))
        p.drawText(box, flags, words)
