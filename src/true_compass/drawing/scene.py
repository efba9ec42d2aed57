"""Where everything stands on a covered engine: one geometry for painting, pressing and keys.

Rows of cylinders front at the left, one a bank, or a star for a radial. A `Place` is what a hand
can reach.
"""

import math
from dataclasses import dataclass
from typing import Final

from PyQt6.QtCore import QPointF, QRectF

from true_compass.bench.covered import Covered
from true_compass.bench.state import cover_of
from true_compass.core.crank.layout import Form

TITLE: Final = 30.0
FRONT_SHARE: Final = 0.27
LOW: Final = 300.0
LEAST_ROW: Final = 150.0
LEAST_STAR: Final = 330.0
"""Below this height the cylinders of a radial stand in a row, as if unrolled."""


@dataclass(frozen=True, slots=True)
class Place:
    """One place of the engine that a hand can reach: what it is, of which cylinder, and where."""

    kind: str
    box: QRectF
    cylinder: int = 0
    item: str = ""

    @property
    def name(self) -> str:
        """What it is called."""
        if self.kind == "hole":
            return f"plug hole {self.cylinder}"
        if self.kind == "rocker":
            return f"rocker of {self.item}"
        return self.kind


@dataclass(frozen=True, slots=True)
class Stand:
    """One cylinder as it is drawn: its head with both valves, upright, turned by `turn_deg`."""

    cylinder: int
    middle: QPointF
    width: float
    height: float
    turn_deg: float = 0.0
    letters: str = "IE"


@dataclass(frozen=True, slots=True)
class Row:
    """A row of cylinders under one cover, with its title. `below` tells a head seen from above."""

    title: str
    box: QRectF
    stands: tuple[Stand, ...]
    cover: str
    below: bool = False


@dataclass(frozen=True, slots=True)
class Scene:
    """Where everything stands in a box of the screen."""

    box: QRectF
    rows: tuple[Row, ...]
    damper: QPointF
    radius: float
    places: tuple[Place, ...]
    star: bool = False
    low: bool = False
    distributor: QRectF | None = None

    def at(self, point: QPointF) -> Place | None:
        """The place under a point, the smallest first."""
        hit = [place for place in self.places if place.box.contains(point)]
        return min(hit, key=lambda place: place.box.width() * place.box.height(), default=None)

    def place(self, kind: str, cylinder: int = 0, item: str = "") -> Place | None:
        """The place of a kind, of a cylinder or an item."""
        for place in self.places:
            fits = place.kind == kind and cylinder in (0, place.cylinder)
            if fits and item in ("", place.item):
                return place
        return None


def scene_of(work: Covered, box: QRectF, row_shown: int = 0) -> Scene:
    """Lay an engine out in a box. `row_shown` is the row of a two-row radial, or the open bank."""
    layout = work.engine.layout
    if layout.form is Form.RADIAL and box.height() >= LEAST_STAR:
        return _star(work, box, row_shown)
    front = QRectF(box.left(), box.top(), box.width() * FRONT_SHARE, box.height())
    side = QRectF(front.right(), box.top(), box.width() - front.width(), box.height())
    banks = list(enumerate(layout.banks_in_use))
    if is_low(work, box) or layout.form is Form.RADIAL:
        banks = [banks[row_shown % len(banks)]]
    # A single row leaves room below it for the distributor.
    low = box.height() < LOW
    foot = 52.0 if len(banks) == 1 and work.engine.has_rotor and not low else 0.0
    each = (side.height() - foot) / len(banks)
    rows = []
    if layout.form is Form.RADIAL:
        rows = _unrolled(work, side, row_shown)
    else:
        for nth, (place, bank) in enumerate(banks):
            area = QRectF(side.left(), side.top() + nth * each, side.width(), each)
            rows.append(_row(work, bank, area, place))
    places = [place for row in rows for place in _row_places(work, row)]
    spot = None
    if low:
        radius = min(front.width() * 0.30, (front.height() - 76) / 2)
        damper = QPointF(front.left() + radius + 40, front.bottom() - radius - 6)
        gear = QRectF(front.left() + 14, front.top() + 32, 118, 26)
        spot = QRectF(front.right() - 52, front.bottom() - 46, 38, 38)
    else:
        radius = min(front.width() * 0.36, front.height() * 0.25)
        damper = QPointF(front.center().x(), front.bottom() - radius - 16)
        if len(banks) > 1:
            damper = QPointF(front.center().x(), front.center().y() + radius * 0.3)
        gear = QRectF(damper.x() - radius, damper.y() - radius - 62, 2 * radius, 34)
        spot = QRectF(rows[-1].box.right() - 160, side.bottom() - 50, 42, 42)
        if len(banks) > 1:
            spot = QRectF(front.left() + 14, front.bottom() - 52, 40, 40)
    places.append(Place("damper", around(damper, radius)))
    places.append(Place("front cover", gear))
    if work.engine.has_rotor:
        places.append(Place("cap", spot))
    distributor = spot if work.engine.has_rotor else None
    return Scene(box, tuple(rows), damper, radius, tuple(places), low=low, distributor=distributor)


def other_row(work: Covered, box: QRectF) -> str:
    """What key V changes to, in a box, in words; empty when all is in reach at once."""
    layout = work.engine.layout
    if layout.form is Form.RADIAL:
        return "Other row" if len(layout.throws) > 1 else ""
    if layout.form is Form.FLAT and len(layout.banks_in_use) > 1:
        return "Walk round"
    return "Next bank" if is_low(work, box) else ""


def is_low(work: Covered, box: QRectF) -> bool:
    """Whether only one of several banks has room: key V changes to the next."""
    return len(work.engine.layout.banks_in_use) > 1 and (
        box.height() / len(work.engine.layout.banks_in_use) < LEAST_ROW
    )


def around(at: QPointF, reach: float) -> QRectF:
    """A square about a point."""
    return QRectF(at.x() - reach, at.y() - reach, 2 * reach, 2 * reach)


def _row(work: Covered, bank: int, area: QRectF, nth: int) -> Row:
    engine = work.engine
    layout = engine.layout
    cylinders = layout.on_bank(bank)
    letters = engine.valves_along(bank)
    many = len(layout.banks_in_use) > 1
    flat = layout.form is Form.FLAT and nth == 1
    inner = area.adjusted(14, TITLE, -14, -6)
    pitch = min(inner.width() / len(cylinders), 200.0)
    left = inner.left() + (inner.width() - pitch * len(cylinders)) / 2
    stands = tuple(
        Stand(
            cylinder,
            QPointF(left + (place + 0.5) * pitch, inner.center().y()),
            pitch,
            inner.height(),
            180.0 if flat else 0.0,
            letters[2 * place : 2 * place + 2],
        )
        for place, cylinder in enumerate(cylinders)
    )
    name = f"Bank {layout.banks[bank].name}" if many else "Valve side"
    how = "from above, front at the left" if layout.form is Form.FLAT else "front at the left"
    box = QRectF(left, inner.top(), pitch * len(cylinders), inner.height())
    return Row(f"{name}, {how}", box, stands, cover_of(work, cylinders[0]), flat)


def _unrolled(work: Covered, area: QRectF, row_shown: int) -> list[Row]:
    """The cylinders of a radial side by side, each with its own cover, from the first one on."""
    layout = work.engine.layout
    cylinders = layout.on_throw(row_shown % len(layout.throws))
    inner = area.adjusted(14, TITLE, -14, -6)
    pitch = min(inner.width() / len(cylinders), 200.0)
    rows = []
    for nth, cylinder in enumerate(cylinders):
        middle = QPointF(inner.left() + (nth + 0.5) * pitch, inner.center().y())
        stand = Stand(cylinder, middle, pitch - 6, inner.height())
        box = QRectF(middle.x() - pitch / 2 + 3, inner.top(), pitch - 6, inner.height())
        title = "Unrolled, as they follow round" if nth == 0 else ""
        rows.append(Row(title, box, (stand,), cover_of(work, cylinder)))
    return rows


def _row_places(work: Covered, row: Row) -> list[Place]:
    places = [Place("cover", cover_box(row), row.stands[0].cylinder)]
    for stand in row.stands:
        places += _stand_places(work, stand)
    return places


def cover_box(row: Row) -> QRectF:
    """Where the cover of a row is drawn."""
    head = head_box(row.stands[0])
    box = QRectF(row.box)
    if row.below:
        box.setTop(head.bottom())
    else:
        box.setBottom(head.top())
    return box.adjusted(4, 2, -4, 2)


def head_box(stand: Stand) -> QRectF:
    """The head of a cylinder: the lower part of its stand, or the upper one seen from above."""
    high = max(min(stand.height * 0.24, 76.0), 44.0)
    whole = QRectF(
        stand.middle.x() - stand.width / 2,
        stand.middle.y() - stand.height / 2,
        stand.width,
        stand.height,
    )
    foot = min(stand.height * 0.16, 44.0)
    if stand.turn_deg == 180.0:
        return QRectF(whole.left(), whole.top() + foot, whole.width(), high)
    return QRectF(whole.left(), whole.bottom() - high - foot, whole.width(), high)


def valve_xs(stand: Stand) -> tuple[float, float]:
    """Where both valves stand, in the order of `letters`."""
    return stand.middle.x() - stand.width * 0.26, stand.middle.x() + stand.width * 0.26


def _stand_places(work: Covered, stand: Stand) -> list[Place]:
    head = head_box(stand)
    hole = hole_at(stand)
    places = [Place("hole", around(hole, 16.0), stand.cylinder)]
    half = min(stand.width * 0.22, 34.0)
    for x, letter in zip(valve_xs(stand), stand.letters, strict=True):
        top = stand.middle.y() - stand.height / 2
        if stand.turn_deg == 180.0:
            box = QRectF(x - half, head.bottom(), 2 * half, top + stand.height - head.bottom())
        else:
            box = QRectF(x - half, top, 2 * half, head.top() - top)
        places.append(Place("rocker", box, stand.cylinder, first_item(work, letter, stand)))
    return places


def first_item(work: Covered, letter: str, stand: Stand) -> str:
    """The first item at a valve: `I3`, or `I3a` where each valve has a gap of its own."""
    names = [f"{letter}{stand.cylinder}", f"{letter}{stand.cylinder}a"]
    return next((name for name in names if name in work.place), "")


def hole_at(stand: Stand) -> QPointF:
    """The plug hole of a cylinder."""
    head = head_box(stand)
    if stand.turn_deg == 180.0:
        return QPointF(stand.middle.x(), head.top() + head.height() * 0.34)
    return QPointF(stand.middle.x(), head.bottom() - head.height() * 0.34)


def _star(work: Covered, box: QRectF, row_shown: int) -> Scene:
    """A radial from the front: cylinders round the damper, one row at a time."""
    layout = work.engine.layout
    throw = row_shown % len(layout.throws)
    cylinders = layout.on_throw(throw)
    reach = min(box.width(), box.height()) / 2 - 12
    middle = QPointF(box.center().x(), box.center().y() + 10)
    radius = reach * 0.30
    stands, places = [], []
    sense = 1 if work.engine.clockwise_from_front else -1
    for cylinder in cylinders:
        bearing = float(layout.bank_deg[cylinder - 1]) * sense
        out = QPointF(math.sin(math.radians(bearing)), -math.cos(math.radians(bearing)))
        crowd = 2 * math.pi * reach * 0.72 / len(cylinders)
        width = min(reach * 0.34, crowd * 0.9)
        stand = Stand(cylinder, middle + out * (reach * 0.66), width, reach * 0.68, bearing)
        stands.append(stand)
        hole = middle + out * (reach * 0.70)
        places.append(Place("hole", around(hole, max(reach * 0.055, 12.0)), cylinder))
        along = QPointF(-out.y(), out.x())
        for side, letter in ((-1.0, "I"), (1.0, "E")):
            at = middle + out * (reach * 0.90) + along * (side * width * 0.27)
            item = first_item(work, letter, stand)
            places.append(Place("rocker", around(at, width * 0.25), cylinder, item))
        cover = middle + out * (reach * 0.90)
        places.append(Place("cover", around(cover, width * 0.54), cylinder))
    places.append(Place("damper", around(middle, radius)))
    spot = None
    if work.engine.has_rotor:
        spot = QRectF(box.right() - 58, box.bottom() - 50, 44, 44)
        places.append(Place("cap", spot))
    places.append(Place("front cover", QRectF(box.left() + 14, box.top() + 36, 128, 34)))
    row = Row("From the front", box, tuple(stands), "")
    return Scene(box, (row,), middle, radius, tuple(places), star=True, distributor=spot)
