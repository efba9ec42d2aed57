"""Words that do not lie over one another: each takes the first of its places that is free."""

import math
from collections.abc import Iterable

from PyQt6.QtCore import QLineF, QPointF, QRectF


class Taken:
    """The boxes that are taken on a sheet."""

    def __init__(self, boxes: Iterable[QRectF] = ()) -> None:
        self._boxes = list(boxes)

    def add(self, box: QRectF) -> None:
        """Take a box whatever lies there."""
        self._boxes.append(box)

    def is_free(self, box: QRectF) -> bool:
        """Whether nothing lies there."""
        return not any(box.intersects(taken) for taken in self._boxes)

    def first_clear(self, boxes: Iterable[QRectF], rim: QPointF) -> QRectF | None:
        """The free box nearest to a point; if there is one, with nothing on the way to it."""
        free = [box for box in boxes if self.is_free(box)]
        free.sort(key=lambda box: _apart(box.center(), rim))
        clear = next((box for box in free if not self._crossed(box.center(), rim)), None)
        found = clear or (free[0] if free else None)
        if found is not None:
            self.add(found)
        return found

    def _crossed(self, one: QPointF, other: QPointF) -> bool:
        way = QLineF(one, other)
        return any(_meets(way, box) for box in self._boxes)

    def first_free(self, boxes: Iterable[QRectF]) -> QRectF | None:
        """The first box that is free, taken now; None where all are taken."""
        for box in boxes:
            if self.is_free(box):
                self.add(box)
                return box
        return None


def _apart(one: QPointF, other: QPointF) -> float:
    return math.hypot(one.x() - other.x(), one.y() - other.y())


def _meets(way: QLineF, box: QRectF) -> bool:
    corners = (box.topLeft(), box.topRight(), box.bottomRight(), box.bottomLeft())
    bounded = QLineF.IntersectionType.BoundedIntersection
    return any(
        way.intersects(QLineF(corners[nth], corners[nth - 1]))[0] is bounded for nth in range(4)
    )
