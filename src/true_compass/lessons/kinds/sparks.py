"""Drills of cap, leads, body and advance."""

import math
from typing import Any, Final

from true_compass.core.angles import CYCLE_DEG
from true_compass.core.crank.firing import backwards
from true_compass.core.ignition.advance import parts_at
from true_compass.core.limits import EngineError
from true_compass.core.rotation import Rotation
from true_compass.core.spark import Advance, Points, check_advance
from true_compass.core.state import Rig
from true_compass.lessons.drill import MANY, NEVER, Asked, AskError, Draw, Drill, Question
from true_compass.lessons.forms import Answer, Figure, Form, Slots

WITHIN_DEG: Final = 0.25
LEADS_TOLD: Final = 6
"""On a cap of so many leads and more a second lead is told."""


class WireCap(Drill):
    """Which plug does each lead go to?"""

    slug = "cap"
    title = "Wire the cap"
    skill = "rotor-leads"
    shows_engine = False
    stands = False

    def missing(self, rig: Rig) -> str:
        """It needs a cap with an order that can be laid in wrongly."""
        if not rig.engine.has_rotor:
            return "has no distributor"
        if rig.engine.cylinder_count < 3:
            return "has too few cylinders: both ways round are the same"
        return ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Either direction, from any lead on; of six leads and more one other is on too."""
        turns = draw.even("rotor", tuple(Rotation))
        order = rig.engine.firing_order
        ask: dict[str, Any] = {"rotor": turns.value, "first": draw.even("first", list(order))}
        if len(order) >= LEADS_TOLD:
            ask["told"] = draw.whole("told", 2, len(order))
        return Question(self.slug, engine, ask)

    def _first(self, q: Asked) -> int:
        """The lead that is on: the first of the order where nothing is said."""
        order = q.engine.firing_order
        return int(q.number("first", 1, len(order))) if "first" in q.ask else order[0]

    def choices(self, q: Asked) -> int:
        """From lead 1 on it was always the same row, where the rotor's direction was seen."""
        if "first" in q.ask or q.engine.rotor.turns is None:
            return min(math.factorial(len(self.form(q).blanks)), MANY)
        return NEVER

    def _clockwise(self, q: Asked) -> bool:
        word = q.word("rotor", [turns.value for turns in Rotation])
        return word == Rotation.CLOCKWISE.value

    def text(self, q: Asked) -> str:
        """The question; posts are always counted clockwise."""
        turns = "clockwise" if self._clockwise(q) else "anticlockwise"
        return (
            f"It fires {q.engine.order_text}. The rotor of a cap turns {turns}, seen on the cap. "
            f"Going clockwise from lead {self._first(q)}, which plugs follow?"
        )

    def form(self, q: Asked) -> Slots:
        """All posts but those that are told."""
        together = tuple(group for group in q.engine.firing_groups if len(group) > 1)
        row, told = self.answer(q), 1
        if "told" in q.ask:
            told = int(q.number("told", 1, len(row)))
        return Slots(tuple(c if nth in (0, told - 1) else 0 for nth, c in enumerate(row)), together)

    def answer(self, q: Asked) -> Answer:
        """The order in the rotor's direction, read clockwise."""
        order = q.engine.firing_order
        row = order if self._clockwise(q) else backwards(order)
        at = row.index(self._first(q))
        return row[at:] + row[:at]

    def why(self, q: Asked) -> str:
        """Which way the order runs."""
        way = "clockwise" if self._clockwise(q) else "anticlockwise"
        return f"{q.engine.order_text} runs {way} round the cap, the way the rotor turns."

    def idea(self, q: Asked, given: Answer) -> str:
        """The other way round, or counted through."""
        right = tuple(self.answer(q))
        if tuple(given) == (right[0], *reversed(right[1:])):
            return "order-against-rotor"
        return "neighbour-next" if tuple(given) == tuple(q.engine.cylinders) else ""

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """Cylinders on a wrong post."""
        right = self.answer(q)
        return tuple(sorted(a for a, b in zip(right, given, strict=True) if a != b))


class AtDistributor(Drill):
    """What is asked of a distributor in figures."""

    skill = "fit-spark"
    shows_engine = False
    stands = False

    def missing(self, rig: Rig) -> str:
        """It needs one."""
        return "" if rig.engine.has_rotor else "has no distributor"


class BodyTurn(AtDistributor):
    """So much of crank: how far does the body turn?"""

    slug = "body"
    title = "How far to turn the body"

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """From 3 to 16 degrees of crank, too late or too early."""
        late = draw.whole("late", 3, 16) * draw.even("way", (1, -1), keeps=True)
        return Question(self.slug, engine, {"late_deg": late, "signed": True})

    def _late(self, q: Asked) -> float:
        return q.number("late_deg", -60.0 if q.ask.get("signed") is True else 0.1, 60.0)

    def text(self, q: Asked) -> str:
        """The question."""
        if q.ask.get("signed") is True:
            when = "late" if self._late(q) > 0 else "early"
            return (
                f"The lamp shows the spark {abs(self._late(q)):g}° of crank too {when}. How many "
                "degrees does the body turn? (against the rotor: plus; with it: minus)"
            )
        return (
            f"The lamp shows the spark {self._late(q):g}° of crank too late. How many degrees "
            "does the body turn against the rotor?"
        )

    def form(self, q: Asked) -> Form:
        """Degrees of the body."""
        return Figure("°", WITHIN_DEG, 1)

    def answer(self, q: Asked) -> Answer:
        """Half of it."""
        return round(self._late(q) / 2.0, 6)

    def why(self, q: Asked) -> str:
        """The rotor turns half as fast."""
        late = abs(self._late(q))
        told = f"{late / 2:g}° of body are {late:g}° of crank"
        way = "Against the rotor makes it earlier, with it later."
        return f"The rotor turns half as fast as the crank: {told}. {way}"

    def idea(self, q: Asked, given: Answer) -> str:
        """As much, or twice as much."""
        late = self._late(q)
        return "cam-for-crank" if any(abs(given - x) <= 0.3 for x in (late, late * 2)) else ""

    def slips(self, q: Asked) -> list[Answer]:
        """As much as the crank, and the other way."""
        late = self._late(q)
        return [late, -late / 2.0, late * 2.0]


_PARTS: Final = {2: "half-way", 3: "a third of the way", 4: "a quarter of the way"}


class HalfPost(AtDistributor):
    """The body half-way between two posts: how much of crank?"""

    slug = "half-post"
    title = "Part of the way between two posts"

    def missing(self, rig: Rig) -> str:
        """It needs posts at equal steps."""
        uneven = rig.engine.cylinder_count < 2 or not rig.engine.fires_evenly
        return super().missing(rig) or ("has posts at uneven steps" if uneven else "")

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """A cap of some posts, and part of the way between two of them."""
        posts, part = draw.one("posts", (3, 4, 5, 6, 8, 10, 12)), draw.one("part", tuple(_PARTS))
        return Question(self.slug, engine, {"posts": posts, "part": part})

    def _posts(self, q: Asked) -> int:
        return int(q.number("posts", 2, 18))

    def _part(self, q: Asked) -> int:
        return int(q.number("part", 2, 4)) if "part" in q.ask else 2

    def choices(self, q: Asked) -> int:
        """Of half-way and the engine's own posts the answer is always the same."""
        return MANY if "part" in q.ask else NEVER

    def text(self, q: Asked) -> str:
        """The question."""
        return (
            f"A cap of {self._posts(q)} posts. The body is turned {_PARTS[self._part(q)]} from one "
            "post to the next. How many crank degrees does that move the spark?"
        )

    def form(self, q: Asked) -> Form:
        """A number of degrees."""
        return Figure("°", 1.0)

    def answer(self, q: Asked) -> Answer:
        """That part of 720 by the posts."""
        return round(CYCLE_DEG / self._posts(q) / self._part(q), 6)

    def why(self, q: Asked) -> str:
        """Body and crank beside each other."""
        body = 360.0 / self._posts(q) / self._part(q)
        return f"{body:g}° of body are {2 * body:g}° of crank: far too much."

    def idea(self, q: Asked, given: Answer) -> str:
        """Anything smaller."""
        return "half-post-small" if given < float(self.answer(q)) else ""


class TotalAdvance(AtDistributor):
    """Initial, weights and vacuum: what is the total?"""

    slug = "total"
    title = "Total advance"

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Invented figures, at a speed on or beside the weights' slope."""
        first, last = draw.one("from", (900, 1000)), draw.one("to", (2900, 3000, 3200))
        ask = {
            "initial_deg": draw.whole("initial", 6, 12),
            "weights": [[first, 0], [last, draw.one("weights", (20, 22, 24))]],
            "can": [[100, 0], [400, draw.one("can", (12, 14, 15))]],
            "rpm": draw.one("speed", (800, (first + last) // 2, last, last + 300)),
            "mbar": draw.one("mbar", (0, 0, 100, 250, 400)),
        }
        return Question(self.slug, engine, ask)

    def _points(self, q: Asked, key: str) -> Points:
        wrong = AskError(f"ask.{key} must be two points or more, such as [[900, 0], [3200, 24]]")
        told = q.ask.get(key)
        if not isinstance(told, list | tuple) or len(told) < 2:
            raise wrong
        pairs = []
        for point in told:
            if not isinstance(point, list | tuple) or len(point) != 2:
                raise wrong
            if any(isinstance(x, bool) or not isinstance(x, int | float) for x in point):
                raise wrong
            pairs.append((float(point[0]), float(point[1])))
        return tuple(pairs)

    def _asked(self, q: Asked) -> tuple[Advance, float, float]:
        initial = q.number("initial_deg", -20, 60)
        advance = Advance(initial, self._points(q, "weights"), self._points(q, "can"))
        try:
            check_advance(advance)
        except EngineError as error:
            raise AskError(f"ask.{error.field} {error}") from None
        return advance, q.number("rpm", 0, 20_000), q.number("mbar", 0, 1000)

    def text(self, q: Asked) -> str:
        """The question."""
        advance, rpm, mbar = self._asked(q)
        first, last = advance.weights[0], advance.weights[-1]
        weights = f"weights from {first[0]:g} to {last[0]:g} rpm: {last[1]:g}°"
        first, last = advance.can[0], advance.can[-1]
        can = f"vacuum from {first[0]:g} to {last[0]:g} mbar: {last[1]:g}°"
        where = f"{rpm:g} rpm and {mbar:g} mbar" if mbar else f"{rpm:g} rpm, wide open"
        return (
            f"All at the crank: initial {advance.initial_deg:g}°; {weights}; {can}. What does the "
            f"lamp show at {where}?"
        )

    def form(self, q: Asked) -> Form:
        """Crank degrees before TDC."""
        return Figure("° before TDC", 0.5, 1)

    def answer(self, q: Asked) -> Answer:
        """The three together."""
        advance, rpm, mbar = self._asked(q)
        return round(parts_at(advance, rpm, mbar).total_deg, 6)

    def why(self, q: Asked) -> str:
        """The sum."""
        parts = parts_at(*self._asked(q))
        return (
            f"{parts.initial_deg:g} + {parts.mechanical_deg:.1f} + {parts.vacuum_deg:.1f} = "
            f"{parts.total_deg:.1f}°."
        )

    def idea(self, q: Asked, given: Answer) -> str:
        """Half or twice."""
        from true_compass.lessons.kinds.cams import half_or_double

        return half_or_double(given, float(self.answer(q)))


DRILLS: Final = (WireCap(), BodyTurn(), HalfPost(), TotalAdvance())
