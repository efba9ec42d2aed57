"""Text on a painter: one call that sets font, colour and place, and never runs out of its box."""

import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from functools import lru_cache
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QColor,
    QFont,
    QFontMetricsF,
    QPainter,
    QPainterPath,
    QTextLayout,
)

from true_compass.drawing.theme import NOTE, Weight, font

# Plain numbers, since combining Qt's flags anew for each text takes longer than drawing it.
_LINE: Final = Qt.TextFlag.TextSingleLine.value | Qt.AlignmentFlag.AlignVCenter.value
LEFT: Final = _LINE | Qt.AlignmentFlag.AlignLeft.value
CENTRE: Final = _LINE | Qt.AlignmentFlag.AlignHCenter.value
RIGHT: Final = _LINE | Qt.AlignmentFlag.AlignRight.value
_WRAP: Final = Qt.TextFlag.TextWordWrap.value
_outlined: Final[list[bool]] = []
"""Not empty while texts are written as outlines."""
_recorded: Final[list[list[str]]] = []
"""Not empty while texts are taken down as well as written."""
_point: Final = ["."]
_DECIMAL: Final = re.compile(r"(?<=\d)\.(?=\d)")


def set_decimal_point(point: str) -> None:
    """Show numbers as people write them here: with a comma, or with a point.

    Only what is painted changes; files, commands and what a program reads keep the point.
    """
    _point[0] = "," if point == "," else "."
    text_width.cache_clear()
    fitted.cache_clear()


def localised(text: str) -> str:
    """The text with its numbers as people write them here."""
    return text if _point[0] == "." else _DECIMAL.sub(_point[0], text)


@lru_cache(maxsize=2048)
def text_width(text: str, px: float, weight: Weight = Weight.BODY) -> float:
    """Width of one line in unscaled pixels."""
    return QFontMetricsF(font(px, weight)).horizontalAdvance(localised(text))


@lru_cache(maxsize=1024)
def fitted(text: str, px: float, weight: Weight, width: float) -> tuple[str, float]:
    """The text and size that fit a width: smaller type first, down to 14 px, then cut with "…"."""
    size = px
    wanted = text_width(text, px, weight)
    if wanted > width and px > NOTE:
        # Widths grow about in proportion, so this is at most a pixel or two too large.
        size = max(NOTE, min(px, int(px * width / wanted) + 1))
    while size > min(NOTE, px) and text_width(text, size, weight) > width:
        size -= 1
    if text_width(text, size, weight) <= width:
        return text, size
    metrics = QFontMetricsF(font(size, weight))
    return metrics.elidedText(text, Qt.TextElideMode.ElideRight, width), size


def draw_text(
    p: QPainter,
    box: QRectF,
    text: str,
    px: float,
    colour: QColor,
    weight: Weight = Weight.BODY,
    align: int = LEFT,
) -> float:
    """One line of text in a box, made smaller or cut when it does not fit. Returns its width."""
    shown, size = fitted(localised(text), px, weight, round(box.width(), 1))
    p.setFont(font(size, weight))
    p.setPen(colour)
    _write(p, box, align, shown)
    return text_width(shown, size, weight)


def draw_one_of(
    p: QPainter,
    box: QRectF,
    wordings: Sequence[str],
    px: float,
    colour: QColor,
    weight: Weight = Weight.BODY,
    align: int = LEFT,
) -> float:
    """The first of several wordings that fits whole, or nothing. Returns its width."""
    width = round(box.width(), 1)
    for words in wordings:
        size = fitted(words, px, weight, width)[1]
        if text_width(words, size, weight) <= width:
            return draw_text(p, box, words, px, colour, weight, align)
    return 0.0


def paragraph_height(text: str, px: float, width: float, weight: Weight = Weight.BODY) -> float:
    """How high a text stands in as many lines as it needs."""
    face = font(px, weight)
    return len(_lines(face, localised(text), width)) * QFontMetricsF(face).lineSpacing()


def draw_paragraph(
    p: QPainter,
    box: QRectF,
    text: str,
    px: float,
    colour: QColor,
    weight: Weight = Weight.BODY,
) -> float:
    """Text in as many lines as it needs. Returns the foot of the last one."""
    p.setFont(font(px, weight))
    p.setPen(colour)
    flags, shown = _WRAP | Qt.AlignmentFlag.AlignTop.value, localised(text)
    _write(p, box, flags, shown)
    return p.boundingRect(box, flags, shown).bottom()


def draw_paragraph_that_fits(
    p: QPainter, box: QRectF, text: str, px: float, colour: QColor
) -> None:
    """A paragraph written smaller, down to 14 px, so that its last line is not cut."""
    while px > NOTE and paragraph_height(text, px, box.width()) > box.height():
        px = max(px - 1, NOTE)
    draw_paragraph(p, box, text, px, colour)


@contextmanager
def texts_as_outlines() -> Iterator[None]:
    """Write outlines in place of texts, so that they look the same where the typeface is not."""
    _outlined.append(True)
    try:
        yield
    finally:
        _outlined.pop()


@contextmanager
def texts_recorded() -> Iterator[list[str]]:
    """Take down every text that is written, in order; kept pictures are painted anew meanwhile."""
    words: list[str] = []
    _recorded.append(words)
    try:
        yield words
    finally:
        _recorded.pop()


def recording() -> bool:
    """Whether texts are being taken down."""
    return bool(_recorded)


def _write(p: QPainter, box: QRectF, flags: int, text: str) -> None:
    """A text, or its outlines."""
    if _recorded:
        _recorded[-1].append(text)
    if not _outlined:
        p.drawText(box, flags, text)
        return
    outlines, metrics = QPainterPath(), QFontMetricsF(p.font())
    place = p.boundingRect(box, flags, text)
    foot = place.top() + metrics.ascent()
    for line in _lines(p.font(), text, box.width() if flags & _WRAP else 0.0):
        outlines.addText(QPointF(place.left(), foot), p.font(), line)
        foot += metrics.lineSpacing()
    p.fillPath(outlines, p.pen().color())


def _lines(face: QFont, text: str, width: float) -> list[str]:
    """A text broken as `drawText` breaks it; a width of 0 is one line."""
    if not width:
        return [text]
    layout = QTextLayout(text, face)
    layout.beginLayout()
    lines = []
    while (line := layout.createLine()).isValid():
        line.setLineWidth(width)
        lines.append(text[line.textStart() : line.textStart() + line.textLength()])
    layout.endLayout()
    return lines


def draw_centred(
    p: QPainter,
    at: QPointF,
    text: str,
    px: float,
    colour: QColor,
    weight: Weight = Weight.BODY,
) -> None:
    """One line of text about a point."""
    box = QRectF(at.x() - 200, at.y() - px, 400, 2 * px)
    draw_text(p, box, text, px, colour, weight, CENTRE)
