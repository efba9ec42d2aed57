"""Where cap, posts, plugs and leads lie on the screen: once for painting and for pressing.

A cap between its banks is seen from above with the engine's front at the left; that of a radial
from the front, with its cylinders at their places on the clock.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainterPath

from true_compass.core.crank.layout import Form
from true_compass.core.engine import Engine
from true_compass.core.ignition.stand import Fitted, cap_deg
from true_compass.core.spark import Viewpoint
from true_compass.drawing.codes import outward
from true_compass.drawing.ring import sense_of

STRAIGHT_DEG: Final = 40.0
"""A lead that need not go further round than this goes straight to its plug."""
STEP_DEG: Final = 22.0
LANE: Final = 8.0
HEAD_HIGH: Final = 46.0


@dataclass(frozen=True, slots=True)
class HeadBox:
    """A head as it is drawn: its bank's name and its box."""

    name: str
    box: QRectF


@dataclass(frozen=True)
class CapMap:
    """A cap in a box, with the plugs of an engine about it."""

    engine: Engine
    fitted: Fitted
    star: bool
    centre: QPointF
    radius: float
    plug_radius: float
    post_half: float
    plugs: dict[int, QPointF]
    heads: tuple[HeadBox, ...]
    rear: frozenset[int]

    @staticmethod
    def of(engine: Engine, fitted: Fitted, box: QRectF) -> "CapMap":
        """Lay it out."""
        if engine.layout.form is Form.RADIAL:
            return _star(engine, fitted, box)
        return _between(engine, fitted, box)

    @property
    def is_upright(self) -> bool:
        """Whether 0° is at the top, as from an end of the engine, and not towards its front."""
        return self.star or self.engine.rotor.seen_from is not Viewpoint.ABOVE

    @property
    def seen_words(self) -> str:
        """From where it is drawn: a radial from the front, all others as their rotor was seen."""
        seen = self.engine.rotor.seen_from
        return "from the front" if self.star and seen is Viewpoint.ABOVE else seen.words

    def towards(self, direction_deg: float) -> QPointF:
        """Unit vector of a direction: from the engine's front, or from the top of a radial."""
        return outward(direction_deg if self.is_upright else direction_deg - 90.0)

    def direction_deg(self, at: QPointF) -> float:
        """The direction of a point about the cap's middle, as `towards` has it."""
        away = at - self.centre
        bearing = math.degrees(math.atan2(away.x(), -away.y()))
        return (bearing if self.is_upright else bearing + 90.0) % 360.0

    @cached_property
    def posts_deg(self) -> tuple[float, ...]:
        """Directions of the posts with the body as it stands."""
        body = self.fitted.body_deg
        return tuple((at + body) % 360.0 for at in cap_deg(self.engine))

    @cached_property
    def _posts(self) -> tuple[QPointF, ...]:
        reach = self.radius - self.post_half - 7
        return tuple(self.centre + self.towards(at) * reach for at in self.posts_deg)

    def post(self, post: int) -> QPointF:
        """The middle of a post."""
        return self._posts[post - 1]

    def rotor_deg(self, crank_deg: float) -> float:
        """Where the rotor points with the crank at an angle."""
        wanted = self.engine.spark.advance.initial_deg or 0.0
        turn = self.engine.rotor_turns.sense * (crank_deg + wanted) / 2
        return self.fitted.rotor_deg(self.engine) + turn

    def plug_near(self, at: QPointF, within: float = 12.0) -> int | None:
        """The cylinder whose plug lies under a point."""
        return _nearest(at, self.plugs, self.plug_radius + within)

    def post_near(self, at: QPointF, within: float = 8.0) -> int | None:
        """The post under a point."""
        count = self.engine.cylinder_count
        posts = {post: self.post(post) for post in range(1, count + 1)}
        return _nearest(at, posts, self.post_half + within)

    def leads(self, wired: Sequence[int]) -> dict[int, QPainterPath]:
        """The path of each lead that is on, by post. Longer ways round lie further in."""
        turns = {}
        for nth, cylinder in enumerate(wired):
            if cylinder:
                turns[nth + 1] = self._turn_deg(nth + 1, self.plugs[cylinder])
        round_it = sorted(
            (post for post, turn in turns.items() if abs(turn) > STRAIGHT_DEG),
            key=lambda post: -abs(turns[post]),
        )
        lanes = {post: nth for nth, post in enumerate(round_it)}
        return {
            post: self.lead(post, self.plugs[wired[post - 1]], lanes.get(post, 0)) for post in turns
        }

    def lead(self, post: int, to: QPointF, lane: int = 0, *, loose: bool = False) -> QPainterPath:
        """The way of a lead from a post to a plug, the shorter way round the cap.

        A `loose` end is held by a hand: it comes straight to the point.
        """
        start = self._bearing(self.post(post))
        turn = self._turn_deg(post, to)
        reach = self.radius + 14 + LANE * min(lane, 7)
        points = [self._at(start, self.radius), self._at(start, reach)]
        if abs(turn) > STRAIGHT_DEG:
            sign = 1 if turn > 0 else -1
            last = abs(turn) - STRAIGHT_DEG * 0.6
            count = max(int(last // STEP_DEG), 1)
            points += [
                self._at(start + sign * last * (nth + 1) / count, reach) for nth in range(count)
            ]
        if loose:
            return smooth([*points, to])
        if self.star:
            back = points[-1] - to
            return smooth(
                [*points, to + back * (self.plug_radius / math.hypot(back.x(), back.y()))]
            )
        down = QPointF(0, 1 if to.y() < self.centre.y() else -1)
        way = min(26.0, self.radius * 0.2)
        points.append(to + down * (self.plug_radius + way))
        return smooth([*points, to + down * self.plug_radius])

    def _bearing(self, at: QPointF) -> float:
        away = at - self.centre
        return math.degrees(math.atan2(away.y(), away.x()))

    def _at(self, bearing_deg: float, reach: float) -> QPointF:
        turn = math.radians(bearing_deg)
        return self.centre + QPointF(math.cos(turn), math.sin(turn)) * reach

    def _turn_deg(self, post: int, to: QPointF) -> float:
        return (self._bearing(to) - self._bearing(self.post(post)) + 180.0) % 360.0 - 180.0


def _nearest(at: QPointF, places: dict[int, QPointF], within: float) -> int | None:
    if not places:
        return None
    name = min(places, key=lambda one: _apart(places[one], at))
    return name if _apart(places[name], at) <= within else None


def _apart(one: QPointF, other: QPointF) -> float:
    return math.hypot(one.x() - other.x(), one.y() - other.y())


def smooth(points: Sequence[QPointF]) -> QPainterPath:
    """A curve through points, without corners (Catmull-Rom as cubic pieces)."""
    path = QPainterPath(points[0])
    ends = [points[0], *points, points[-1]]
    for nth in range(1, len(points)):
        before, one, other, after = ends[nth - 1 : nth + 3]
        path.cubicTo(one + (other - before) / 6, other - (after - one) / 6, other)
    return path


def _sizes(count: int, high: float) -> tuple[float, float]:
    """Radius of a plug and half a post, by how many there are and how low the room is."""
    share = min(max(high / 420.0, 0.72), 1.0)
    if count <= 8:
        return 19.0 * share, 15.0 * share
    return (17.0 * share, 13.0 * share) if count <= 12 else (16.0 * share, 11.5 * share)


def _star(engine: Engine, fitted: Fitted, box: QRectF) -> CapMap:
    """Cylinders at their clock places; the second row further in, on a darker plate."""
    layout, count = engine.layout, engine.cylinder_count
    plug, half = _sizes(count, box.height())
    reach = min(box.width(), box.height()) / 2 - plug - 4
    centre = box.center()
    rows = len(layout.throws)
    plugs, rear = {}, set()
    for cylinder in engine.cylinders:
        seat = layout.seats[cylinder - 1]
        behind = rows > 1 and seat.throw > 0
        bearing = float(layout.bank_deg[cylinder - 1]) * sense_of(engine)
        far = reach * (0.84 if behind else 1.0)
        plugs[cylinder] = centre + outward(bearing) * far
        if behind:
            rear.add(cylinder)
    radius = reach * 0.46
    return CapMap(engine, fitted, True, centre, radius, plug, half, plugs, (), frozenset(rear))


def _between(engine: Engine, fitted: Fitted, box: QRectF) -> CapMap:
    """Banks above and below the cap, the front at the left."""
    layout, count = engine.layout, engine.cylinder_count
    plug, half = _sizes(count, box.height())
    sense = sense_of(engine)
    banks = layout.banks_in_use
    above = [bank for bank in banks if layout.banks[bank].angle_deg * sense <= 0]
    below = [bank for bank in banks if bank not in above]
    if len(banks) > 1 and not below:
        above, below = [banks[0]], list(banks[1:])
    head = max(min(HEAD_HIGH, box.height() * 0.1), 2 * plug + 6)
    plugs: dict[int, QPointF] = {}
    heads = []
    for rows, is_above in ((above, True), (below, False)):
        for nth, bank in enumerate(rows):
            top = (
                box.top() + nth * (head + 8)
                if is_above
                else (box.bottom() - (len(rows) - nth) * (head + 8) + 8)
            )
            shift = 0.0 if layout.banks[bank].ahead or len(banks) == 1 else 14.0
            place = QRectF(box.left() + 28 + shift, top, box.width() - 44, head)
            heads.append(HeadBox(layout.banks[bank].name if len(banks) > 1 else "", place))
            row = layout.on_bank(bank)
            for step, cylinder in enumerate(row):
                x = place.left() + place.width() * (step + 0.5) / len(row)
                plugs[cylinder] = QPointF(x, place.center().y())
    used_above = len(above) * (head + 8)
    used_below = len(below) * (head + 8)
    room = box.height() - used_above - used_below
    lanes = min(58.0 if count <= 8 else 84.0, room * 0.17)
    radius = max(min(room / 2 - lanes, box.width() / 2 - lanes - 30), 60.0)
    middle = QPointF(box.center().x(), box.top() + used_above + room / 2)
    return CapMap(
        engine, fitted, False, middle, radius, plug, half, plugs, tuple(heads), frozenset()
    )
