"""Pictures of parts that look the same in many frames, kept so that they are painted once.

A view owns one `Stills`; the keys say everything that the look of a part depends on, and the view
forgets all of them when theme, size or engine change.
"""

import math
from collections.abc import Callable, Hashable
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPixmap

from true_compass.drawing.text import recording

MOST_BYTES: Final = 48_000_000
"""Of one view: about twelve whole windows of 1280 × 800. What was made first goes first."""
Paint = Callable[[QPainter], None]


class Stills:
    """Pictures by key.

    Without `kept` every part is painted anew, as vectors: for SVG, PDF and print.
    """

    def __init__(self, *, kept: bool = True) -> None:
        self._kept = kept
        self._pictures: dict[Hashable, tuple[QPixmap, QPointF]] = {}
        self.held_bytes = 0

    def forget(self) -> None:
        """Paint everything anew from now on."""
        self._pictures.clear()
        self.held_bytes = 0

    def draw(
        self,
        p: QPainter,
        key: Hashable,
        box: QRectF,
        paint: Callable[[QPainter], None],
        ground: QColor | None = None,
        at: QPointF | None = None,
    ) -> None:
        """Draw the picture of `key` into `box`; `paint` makes it, in the coordinates of `p`.

        With `at` the part is painted about the origin and drawn about that point.

        The painter may be moved and scaled, not turned. A picture with a `ground` covers what is
        below it, and is drawn much faster than a transparent one.
        """
        if not self._kept or recording():
            _paint_moved(p, at or QPointF(0, 0), paint)
            return
        found = self._pictures.get(key)
        if found is None:
            found = self._keep(key, self._make(p, box, paint, ground), box.topLeft())
        p.drawPixmap(box.topLeft() if at is None else box.topLeft() + at, found[0])

    def draw_made(
        self,
        p: QPainter,
        key: Hashable,
        make: Callable[[], tuple[QRectF, Paint]],
        at: QPointF,
        ground: QColor | None = None,
    ) -> None:
        """Draw a part about a point. `make` gives its box about the origin and how to paint it.

        It is asked only for a part that is not there yet, so it may take its time.
        """
        if not self._kept or recording():
            _paint_moved(p, at, make()[1])
            return
        held = self._pictures.get(key)
        if held is None:
            box, paint = make()
            held = self._keep(key, self._make(p, box, paint, ground), box.topLeft())
        p.drawPixmap(held[1] + at, held[0])

    def _keep(self, key: Hashable, made: QPixmap, corner: QPointF) -> tuple[QPixmap, QPointF]:
        """Hold a picture, and let go of the oldest ones where there are too many bytes."""
        kept = self._pictures[key] = (made, corner)
        self.held_bytes += _bytes_of(made)
        while self.held_bytes > MOST_BYTES and len(self._pictures) > 1:
            oldest = next(iter(self._pictures))
            self.held_bytes -= _bytes_of(self._pictures.pop(oldest)[0])
        return kept

    def _make(
        self,
        p: QPainter,
        box: QRectF,
        paint: Callable[[QPainter], None],
        ground: QColor | None,
    ) -> QPixmap:
        # As sharp as the painter's device.
        density = p.deviceTransform().m11()
        made = QPixmap(math.ceil(box.width() * density), math.ceil(box.height() * density))
        if made.isNull():  # a part of a window that is too low for it
            return made
        made.setDevicePixelRatio(density)
        made.fill(Qt.GlobalColor.transparent if ground is None else ground)
        inner = QPainter(made)
        inner.setRenderHint(QPainter.RenderHint.Antialiasing)
        inner.translate(QPointF(0, 0) - box.topLeft())
        paint(inner)
        inner.end()
        return made


def _bytes_of(picture: QPixmap) -> int:
    return picture.width() * picture.height() * 4


def _paint_moved(p: QPainter, by: QPointF, paint: Paint) -> None:
    p.save()
    p.translate(by)
    paint(p)
    p.restore()
