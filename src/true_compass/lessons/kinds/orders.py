"""Drills of companions, firing orders and who fires next."""

from collections.abc import Sequence
from functools import lru_cache
from typing import Any, Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, TURN_DEG
from true_compass.core.crank.firing import (
    Groups,
    backwards,
    cannot_follow,
    groups_text,
    parse_groups,
)
from true_compass.core.crank.layout import Bank, Layout, Seat, Throw
from true_compass.core.crank.layout import Form as Build
from true_compass.core.crank.makers import inline
from true_compass.core.crank.orders import even_orders
from true_compass.core.crank.phasing import companion_of
from true_compass.core.ignition.leads import backwards_words
from true_compass.core.limits import MOST_CYLINDERS, EngineError
from true_compass.core.state import Rig
from true_compass.core.words import counted
from true_compass.lessons.drill import MANY, NEVER, Asked, AskError, Cover, Draw, Drill, Question
from true_compass.lessons.forms import (
    YES_NO,
    Answer,
    Choice,
    Form,
    Option,
    Slots,
    one_cylinder,
)

MOST_USUAL: Final = 8
USUAL: Final = 6
"""In the place of an engine whose crank alone decides nothing, a crank in line is asked about."""


def supposed_companion(rig: Rig, cylinder: int) -> int:
    """The companion by the rule of thumb n + 1 − k."""
    return rig.engine.cylinder_count + 1 - cylinder


_BY: Final = {
    "name": "Which cylinder is the companion of {0}?",
    "fires": "{0} fires. Which cylinder is at overlap TDC then?",
    "rocks": "{0} is at overlap TDC. Which cylinder fires then?",
}
"""What companions are asked by: one is at compression TDC where the other rocks."""


class Companion(Drill):
    """Which cylinder rises with this one and fires a turn apart?"""

    slug = "companion"
    title = "Companion of a cylinder"
    skill = "companions"
    covers = (
        Cover.RING,
        Cover.STROKES,
    )
    stands = False

    def missing(self, rig: Rig) -> str:
        """One cylinder has nobody beside it; where none has a companion, that is the answer."""
        if rig.engine.cylinder_count == 1:
            return "has one cylinder, so there is no companion to ask for"
        return ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Any cylinder."""
        of = draw.even("cylinder", list(rig.engine.cylinders))
        return Question(self.slug, engine, {"cylinder": of, "by": draw.one("by", tuple(_BY))})

    def text(self, q: Asked) -> str:
        """The question, by its name or by what is seen."""
        by = q.word("by", tuple(_BY)) if "by" in q.ask else "name"
        return f"It fires {q.engine.order_text}. {_BY[by].format(q.cylinder)}"

    def form(self, q: Asked) -> Form:
        """A cylinder, or none. Its own number is there too, so that each keeps its place."""
        return one_cylinder(q.engine.cylinders, "None")

    def choices(self, q: Asked) -> int:
        """On an engine without any it is always none."""
        paired = any(companion_of(q.engine, c) is not None for c in q.engine.cylinders)
        return q.engine.cylinder_count if paired else NEVER

    def answer(self, q: Asked) -> Answer:
        """By nominal angles."""
        return companion_of(q.engine, q.cylinder)

    def why(self, q: Asked) -> str:
        """What it is that makes them companions."""
        cylinder = q.cylinder
        other = companion_of(q.engine, cylinder)
        if other is None:
            return f"No cylinder fires one turn after {cylinder}: it has no companion."
        return f"{other} fires one turn, 360°, after {cylinder}: they rise together."

    def idea(self, q: Asked, given: Answer) -> str:
        """n + 1 − k, or the one beside it."""
        supposed = supposed_companion(q.rig, q.cylinder)
        return "n-plus-1-minus-k" if given == supposed else ""

    def wrong_words(self, q: Asked, given: Answer) -> str:
        """Where the named one really is."""
        cylinder = q.cylinder
        if given is None or given == cylinder:
            return ""
        offsets = q.rig.offsets_deg
        later = float((offsets[given - 1] - offsets[cylinder - 1]) % 720.0)
        return f"{given} fires {later:.4g}° after {cylinder}."

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """This one, the named one, and the right one."""
        named = (q.cylinder, given, self.answer(q))
        return tuple(sorted({one for one in named if one}))

    def show_deg(self, q: Asked, given: Answer) -> float | None:
        """At its compression TDC one sees which piston is up with it."""
        return float(q.rig.true_offsets_deg[q.cylinder - 1])


MOST_STEPS: Final = 2
"""How many firings on may be asked about."""


class FiresNext(Drill):
    """Who fires after a cylinder?"""

    slug = "fires-next"
    title = "Who fires next"
    skill = "fires-next"
    covers = (Cover.RING,)
    stands = False

    def missing(self, rig: Rig) -> str:
        """It needs two firings."""
        if len(rig.engine.firing_groups) < 2:
            return "has one firing a cycle: nobody else fires next"
        return ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """Any cylinder, and the next one; or the one after that, where there are four firings."""
        cylinder = draw.even("cylinder", list(rig.engine.cylinders))
        several = len(rig.engine.firing_groups) >= MOST_STEPS + 2
        steps = draw.one("steps", (1, 1, MOST_STEPS)) if several else 1
        ask = {"cylinder": cylinder} | ({"steps": steps} if steps > 1 else {})
        return Question(self.slug, engine, ask)

    def _steps(self, q: Asked) -> int:
        return int(q.number("steps", 1, MOST_STEPS)) if "steps" in q.ask else 1

    def _at(self, q: Asked) -> int:
        return next(n for n, group in enumerate(q.engine.firing_groups) if q.cylinder in group)

    def _after(self, q: Asked) -> tuple[int, ...]:
        groups = q.engine.firing_groups
        return groups[(self._at(q) + self._steps(q)) % len(groups)]

    def _gap_deg(self, q: Asked) -> float:
        gaps, at = q.engine.intervals_deg, self._at(q)
        return sum(gaps[(at + nth) % len(gaps)] for nth in range(self._steps(q)))

    def text(self, q: Asked) -> str:
        """The question; the order is not told."""
        gap = self._gap_deg(q)
        return f"{q.cylinder} has just fired. Which cylinder fires {gap:.4g}° on?"

    def form(self, q: Asked) -> Form:
        """Any cylinder; of those that fire together the lowest stands for all."""
        after = self._after(q)
        names = {min(after): ", ".join(map(str, after))}
        options = [
            Option(c, names.get(c, str(c)))
            for c in q.engine.cylinders
            if c not in after or c == min(after)
        ]
        return Choice(tuple(options), after)

    def choices(self, q: Asked) -> int:
        """One of the others; with two cylinders there is no choice."""
        return max(len(q.engine.firing_groups) - 1, NEVER)

    def answer(self, q: Asked) -> Answer:
        """The next in the order."""
        return min(self._after(q))

    def why(self, q: Asked) -> str:
        """The order."""
        after = self._after(q)
        fire = "fires" if len(after) == 1 else "fire"
        place = "next" if self._steps(q) == 1 else "second"
        told = " and ".join(map(str, after))
        return f"The order is {q.engine.order_text}: {told} {fire} {place} after {q.cylinder}."

    def idea(self, q: Asked, given: Answer) -> str:
        """The neighbour by number, or the order read backwards."""
        cylinder, engine = q.cylinder, q.engine
        if given == cylinder % engine.cylinder_count + 1 or given == cylinder - 1:
            return "neighbour-next"
        order = engine.firing_order
        if order[order.index(cylinder) - 1] == given:
            return "order-against-rotor"
        return ""

    def wrong_words(self, q: Asked, given: Answer) -> str:
        """What the named one does when the right one fires."""
        from true_compass.lessons.kinds.cycle import stroke_words

        at = float(q.rig.offsets_deg[self.answer(q) - 1]) + 5.0
        return stroke_words(q.rig, given, at)

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """The one that was named and the right one."""
        return tuple(sorted({given, self.answer(q)}))

    def show_deg(self, q: Asked, given: Answer) -> float | None:
        """Where the next one fires."""
        return float(q.rig.true_offsets_deg[self.answer(q) - 1])


class CompleteOrder(Drill):
    """An order with gaps in it, to be completed: any that the crank can fire evenly.

    A question without `of_crank` asks for the engine's own order, as questions of 1.0 do.
    """

    slug = "order"
    title = "Complete the firing order"
    skill = "firing-order"
    covers = (Cover.RING,)
    stands = False

    def missing(self, rig: Rig) -> str:
        """Three firings at least, or there is nothing to complete."""
        if rig.engine.cylinder_count < 3:
            return "has too few cylinders for an order to complete"
        return ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """One of the even orders of its crank, with just enough of it told."""
        orders = _orders(rig.engine.layout)
        order = orders[draw.even("order", range(len(orders)))] if orders else ()
        if len(orders) < 2:
            return self._own(rig, engine, draw)
        turned = draw.some("places", range(1, len(order)), len(order) - 1)
        kept = [0]
        for place in turned:
            if len(_fitting(orders, order, kept)) == 1:
                break
            kept.append(place)
        shown = [c if nth in kept else 0 for nth, c in enumerate(order)]
        told = "-".join(str(c or "?") for c in shown)
        return Question(self.slug, engine, {"order": told, "of_crank": True})

    def _own(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """The engine's own order, where its crank allows one only."""
        order = list(rig.engine.firing_order)
        count = len(order)
        kept = draw.some("kept", range(1, count), 1 if count < 8 else count // 4)
        shown = [c if nth == 0 or nth in kept else 0 for nth, c in enumerate(order)]
        return Question(self.slug, engine, {"order": "-".join(str(c or "?") for c in shown)})

    def choices(self, q: Asked) -> int:
        """As many as the crank allows; the engine's own order is always the same."""
        if not q.ask.get("of_crank"):
            return NEVER
        return min(len(_orders(q.engine.layout)), MANY)

    def _given(self, q: Asked) -> tuple[int, ...]:
        text = q.ask.get("order")
        parts = text.split("-") if isinstance(text, str) else []
        count = q.engine.cylinder_count
        if len(parts) != count or not all(
            p == "?" or (p.isascii() and p.isdigit() and len(p) < 3) for p in parts
        ):
            raise AskError(
                f"ask.order must be {count} cylinders with ? for those asked, such as 1-?-4-2"
            )
        if "?" not in parts:
            raise AskError("ask.order leaves nothing out: write ? for each cylinder that is asked")
        return tuple(0 if part == "?" else int(part) for part in parts)

    def text(self, q: Asked) -> str:
        """The question; of a crank, with who comes up where."""
        self._given(q)
        if not q.ask.get("of_crank"):
            return f"Complete the firing order: {q.ask['order']}."
        return f"{crank_words(q.engine.layout)} Complete an even order of it: {q.ask['order']}."

    def form(self, q: Asked) -> Form:
        """The gaps."""
        together = tuple(group for group in q.engine.firing_groups if len(group) > 1)
        if q.ask.get("of_crank"):
            together = ()
        return Slots(self._given(q), together, goes_round=True)

    def answer(self, q: Asked) -> Answer:
        """The order; of those that a crank allows, the one that has what is told."""
        if not q.ask.get("of_crank"):
            return q.engine.firing_order
        given = self._given(q)
        kept = [nth for nth, cylinder in enumerate(given) if cylinder]
        found = _fitting(_orders(q.engine.layout), given, kept)
        if len(found) != 1:
            raise AskError("ask.order must leave one even order of this crank, no more and no less")
        return found[0]

    def why(self, q: Asked) -> str:
        """The order and its gaps."""
        if q.ask.get("of_crank"):
            every = CYCLE_DEG / q.engine.cylinder_count
            told = "-".join(map(str, self.answer(q)))
            return f"{told}: each is at TDC in its turn, every {every:.4g}°."
        gaps = q.engine.intervals_deg
        even = f"every {gaps[0]:.4g}°" if q.engine.fires_evenly else "unevenly"
        return f"It fires {q.engine.order_text}, {even}."

    def idea(self, q: Asked, given: Answer) -> str:
        """Read the other way round, or counted through."""
        order = tuple(self.answer(q))
        form = self.form(q)
        assert isinstance(form, Slots)
        told = form.from_the_first(order, tuple(given))
        if told == backwards(order):
            return "order-against-rotor"
        return "neighbour-next" if told == tuple(q.engine.cylinders) else ""


@lru_cache(maxsize=64)
def _orders(layout: Layout) -> tuple[tuple[int, ...], ...]:
    """The even orders of a crank, from cylinder 1."""
    table = even_orders(layout)
    return tuple(table.order(row) for row in range(len(table)))


def _fitting(
    orders: Sequence[tuple[int, ...]], order: Sequence[int], kept: Sequence[int]
) -> list[tuple[int, ...]]:
    """The orders that have the same cylinders at the places that are kept."""
    return [one for one in orders if all(one[nth] == order[nth] for nth in kept)]


def crank_words(layout: Layout) -> str:
    """Who comes to TDC where, such as `On one turn these come to TDC: 1, 4 at 0°; 2, 3 at 180°.`"""
    places: dict[float, list[str]] = {}
    first = float(layout.tdc_deg[0])
    for nth, at in enumerate(layout.tdc_deg, start=1):
        places.setdefault(round(float(at - first) % TURN_DEG, 1) % TURN_DEG, []).append(str(nth))
    told = "; ".join(f"{', '.join(places[at])} at {at:g}°" for at in sorted(places))
    return f"On one turn these come to TDC: {told}."


def asked_crank(q: Asked) -> tuple[Layout, Groups]:
    """The crank and the order of a question: pins of an inline engine, and an order as text."""
    pins = q.ask.get("pins")
    if not isinstance(pins, list | tuple) or not 2 <= len(pins) <= MOST_CYLINDERS:
        raise AskError(f"ask.pins must be 2 to {MOST_CYLINDERS} pin angles in degrees")
    angles = []
    for pin in pins:
        if isinstance(pin, bool) or not isinstance(pin, int | float):
            raise AskError("ask.pins must be pin angles in degrees")
        angles.append(float(pin))
    order: Any = q.ask.get("order")
    text = "-".join(map(str, order)) if isinstance(order, list | tuple) else str(order)
    try:
        groups = parse_groups(text)
        layout = crank_of(tuple(angles))
    except EngineError as error:
        key = "pins" if "pin" in error.field else "order"
        raise AskError(f"ask.{key} {error}") from None
    if sum(len(group) for group in groups) != len(angles):
        raise AskError(f"ask.order must name {len(angles)} cylinders, one for each pin")
    return layout, groups


@lru_cache(maxsize=256)
def crank_of(pins_deg: tuple[float, ...]) -> Layout:
    """The layout of an inline engine with these pins, from cylinder 1 at the front."""
    throws = tuple(Throw(pin) for pin in pins_deg)
    seats = tuple(Seat(0, throw) for throw in range(len(pins_deg)))
    return Layout(Build.INLINE, (Bank("A"),), throws, seats)


class OrderPossible(Drill):
    """Can a crank fire in an order?"""

    slug = "order-possible"
    title = "Possible or not?"
    skill = "firing-order"
    shows_engine = False
    stands = False

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """The engine's own crank where it is in line, else one in line of as many cylinders."""
        pins = asked_pins(rig)
        layout = crank_of(pins)
        cylinders = list(range(2, len(pins) + 1))
        if draw.even("possible", (True, False), keeps=True):
            order = draw.one("even", _orders(layout))
        elif draw.yes("counted", 0.25) and not can_fire(layout, (1, *cylinders)):
            order = (1, *cylinders)
        else:
            order = _wrong_order(layout, draw)
        ask = {"order": "-".join(map(str, order)), "pins": [float(pin) for pin in pins]}
        return Question(self.slug, engine, ask)

    def text(self, q: Asked) -> str:
        """The question."""
        groups = asked_crank(q)[1]
        return f"{pins_words(q)} Can it fire {groups_text(groups)}?"

    def form(self, q: Asked) -> Form:
        """Yes or no."""
        return YES_NO

    def answer(self, q: Asked) -> Answer:
        """By the two TDCs of each cylinder."""
        layout, groups = asked_crank(q)
        return cannot_follow(layout.tdc_deg, groups) is None

    def why(self, q: Asked) -> str:
        """Where it fits, or who cannot follow whom."""
        layout, groups = asked_crank(q)
        failure = cannot_follow(layout.tdc_deg, groups)
        if failure is None:
            return "Each cylinder has a TDC in the place that the order gives it."
        return f"{failure.words}."

    def idea(self, q: Asked, given: Answer) -> str:
        """Counting through was taken for an order."""
        groups = asked_crank(q)[1]
        flat = [cylinder for group in groups for cylinder in group]
        return "neighbour-next" if given and flat == sorted(flat) else ""

    def hint(self, q: Asked) -> str:
        """Where to look."""
        return "A cylinder can fire at two places of 720°, one turn apart. Go along with that."


def can_fire(layout: Layout, order: Sequence[int]) -> bool:
    """Whether each cylinder can follow the one before it."""
    return cannot_follow(layout.tdc_deg, tuple((c,) for c in order)) is None


def _wrong_order(layout: Layout, draw: Draw) -> tuple[int, ...]:
    """An order that the crank cannot fire, or any where it can fire all."""
    count = layout.cylinder_count
    order: tuple[int, ...] = ()
    for tries in range(50):
        order = (1, *draw.again(tries).some("order", range(2, count + 1), count - 1))
        if not can_fire(layout, order):
            break
    return order


def asked_pins(rig: Rig) -> tuple[float, ...]:
    """Crank pins to ask about: of this engine where it is in line, else of a usual one in line."""
    layout = rig.engine.layout
    own = layout.form is Build.INLINE and not layout.typed_tdc_deg
    if not own or layout.cylinder_count < 2 or not _orders(layout):
        count = layout.cylinder_count
        layout = inline(count if 3 <= count <= MOST_USUAL else USUAL).layout
    pins = (layout.pin_deg - layout.pin_deg[0]) % TURN_DEG
    return tuple(float(pin) % TURN_DEG for pin in np.round(pins, 6))


def pins_words(q: Asked) -> str:
    """The crank of a question in words."""
    pins = ", ".join(f"{float(pin):.4g}" for pin in q.ask["pins"])
    return f"An engine in line has its crank pins at {pins}°."


class WhoCannot(Drill):
    """Why an order is impossible: who is not at TDC in its turn."""

    slug = "order-why"
    title = "Why is it impossible?"
    skill = "firing-order"
    shows_engine = False
    stands = False

    def missing(self, rig: Rig) -> str:
        """With two cylinders every order goes."""
        return "has too few cylinders: every order goes" if len(asked_pins(rig)) < 4 else ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """An order that breaks at some cylinder, or nowhere."""
        pins = asked_pins(rig)
        layout, cylinders = crank_of(pins), list(range(2, len(pins) + 1))
        wanted = draw.even("first", (*cylinders, None), keeps=True)
        order = draw.one("even", _orders(layout))
        if wanted is not None:
            # Not every cylinder can be the first that breaks; then whichever it is.
            for tries in range(80):
                order = (1, *draw.again(tries).some("order", cylinders, len(cylinders)))
                if _out_of_turn(layout, tuple((c,) for c in order)) == wanted:
                    break
        ask = {"order": "-".join(map(str, order)), "pins": [float(pin) for pin in pins]}
        return Question(self.slug, engine, ask)

    def text(self, q: Asked) -> str:
        """The question, with the interval that it is judged by."""
        layout, groups = asked_crank(q)
        every = CYCLE_DEG / layout.cylinder_count
        return (
            f"{pins_words(q)} It must fire every {every:.4g}°. Going along {groups_text(groups)}, "
            "which cylinder is the first that is not at TDC in its turn?"
        )

    def given(self, q: Asked) -> str:
        """The interval."""
        return f"{CYCLE_DEG / asked_crank(q)[0].cylinder_count:.4g}°"

    def form(self, q: Asked) -> Form:
        """Any but the first."""
        layout = asked_crank(q)[0]
        return one_cylinder(range(2, layout.cylinder_count + 1), "None: it can fire so")

    def answer(self, q: Asked) -> Answer:
        """The first that is not at TDC in its turn."""
        return _out_of_turn(*asked_crank(q))

    def why(self, q: Asked) -> str:
        """Where it is at TDC, and where its turn is."""
        layout, groups = asked_crank(q)
        first = _out_of_turn(layout, groups)
        every = CYCLE_DEG / layout.cylinder_count
        if first is None:
            return f"Every cylinder is at TDC in its turn, every {every:.4g}°."
        nth = next(n for n, group in enumerate(groups) if first in group)
        own = float(layout.tdc_deg[first - 1] - layout.tdc_deg[groups[0][0] - 1]) % TURN_DEG
        return (
            f"The turn of {first} is {nth * every:.4g}° after {groups[0][0]}; it is at TDC "
            f"{own:.4g}° and {own + TURN_DEG:.4g}° after it."
        )


SAME_DEG: Final = 0.5


def _out_of_turn(layout: Layout, groups: Groups) -> int | None:
    """The first cylinder of an order that is not at TDC in its turn, where it fires evenly."""
    every = CYCLE_DEG / len(groups)
    first = float(layout.tdc_deg[groups[0][0] - 1])
    for nth, group in enumerate(groups):
        for cylinder in group:
            off = float(layout.tdc_deg[cylinder - 1]) - first - nth * every
            if abs((off + TURN_DEG / 2) % TURN_DEG - TURN_DEG / 2) > SAME_DEG:
                return cylinder
    return None


class ReadBackwards(Drill):
    """An order laid in against the rotor: where a spark goes, or how many leads are right."""

    slug = "backwards"
    title = "Leads against the rotor"
    skill = "rotor-leads"
    shows_engine = False
    stands = False

    def missing(self, rig: Rig) -> str:
        """It needs a rotor, and an order with a direction."""
        if not rig.engine.has_rotor:
            return "has no rotor"
        if backwards(rig.engine.firing_groups) == rig.engine.firing_groups:
            return "has an order that reads the same either way"
        return ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """The spark that is meant for some cylinder."""
        return Question(
            self.slug, engine, {"cylinder": draw.even("cylinder", list(rig.engine.cylinders))}
        )

    def text(self, q: Asked) -> str:
        """The question; the order is told, since nothing else is needed."""
        laid = f"It fires {q.engine.order_text}. From lead {q.engine.firing_order[0]} on the leads"
        laid = f"{laid} were laid in against the rotor."
        if "cylinder" in q.ask:
            return f"{laid} Which cylinder gets the spark that is meant for {q.cylinder}?"
        return f"{laid} How many of {len(q.engine.firing_order)} are on the right plug?"

    def form(self, q: Asked) -> Form:
        """A cylinder; or how many, from none to all."""
        if "cylinder" in q.ask:
            return one_cylinder(q.engine.cylinders)
        count = q.engine.cylinder_count
        return Choice(tuple(Option(nth, str(nth)) for nth in range(count + 1)))

    def choices(self, q: Asked) -> int:
        """How many leads are right is the same whenever one engine is asked about."""
        return q.engine.cylinder_count if "cylinder" in q.ask else NEVER

    def answer(self, q: Asked) -> Answer:
        """Where the spark goes; or those that are the same read either way."""
        order = q.engine.firing_order
        if "cylinder" in q.ask:
            return backwards(order)[order.index(q.cylinder)]
        return sum(a == b for a, b in zip(order, backwards(order), strict=True))

    def why(self, q: Asked) -> str:
        """Which are right, and what the others do."""
        if "cylinder" in q.ask:
            turned = "-".join(map(str, backwards(q.engine.firing_order)))
            return f"The plugs then get their sparks as {turned}. {backwards_words(q.rig)[1]}"
        right = self.answer(q)
        told = counted(right, "lead is right", "leads are right")
        return f"{told}. {backwards_words(q.rig)[1]}"

    def idea(self, q: Asked, given: Answer) -> str:
        """All right, or the cylinder itself: the direction was thought to be nothing."""
        unmoved = q.cylinder if "cylinder" in q.ask else q.engine.cylinder_count
        return "order-against-rotor" if given == unmoved else ""


DRILLS: Final = (
    Companion(),
    FiresNext(),
    CompleteOrder(),
    OrderPossible(),
    WhoCannot(),
    ReadBackwards(),
)
