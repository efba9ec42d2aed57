"""Drills of companions, firing orders and who fires next."""

from functools import lru_cache
from typing import Any, Final

import numpy as np

from true_compass.core.angles import TURN_DEG
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
from true_compass.lessons.drill import Asked, AskError, Cover, Draw, Drill, Question
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
        """Any cylinder; those that the rule of thumb gets wrong come more often."""
        cylinders = list(rig.engine.cylinders)
        wrong = [c for c in cylinders if companion_of(rig.engine, c) != supposed_companion(rig, c)]
        of = wrong if wrong and draw.yes("rule", 0.5) else cylinders
        return Question(self.slug, engine, {"cylinder": draw.one("cylinder", of)})

    def text(self, q: Asked) -> str:
        """The question."""
        cylinder = q.cylinder
        return f"It fires {q.engine.order_text}. Which cylinder is the companion of {cylinder}?"

    def form(self, q: Asked) -> Form:
        """Another cylinder, or none."""
        asked = q.cylinder
        return one_cylinder([c for c in q.engine.cylinders if c != asked] or [asked], "None")

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
        if given is None:
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
        """Any cylinder."""
        cylinder = draw.one("cylinder", list(rig.engine.cylinders))
        return Question(self.slug, engine, {"cylinder": cylinder})

    def _after(self, q: Asked) -> tuple[int, ...]:
        groups = q.engine.firing_groups
        cylinder = q.cylinder
        at = next(nth for nth, group in enumerate(groups) if cylinder in group)
        return groups[(at + 1) % len(groups)]

    def _gap_deg(self, q: Asked) -> float:
        groups = q.engine.firing_groups
        cylinder = q.cylinder
        at = next(nth for nth, group in enumerate(groups) if cylinder in group)
        return q.engine.intervals_deg[at]

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

    def answer(self, q: Asked) -> Answer:
        """The next in the order."""
        return min(self._after(q))

    def why(self, q: Asked) -> str:
        """The order."""
        after = " and ".join(map(str, self._after(q)))
        return f"The order is {q.engine.order_text}: after {q.cylinder} fires {after}."

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
    """An order with gaps in it, to be completed."""

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
        """All but the first, and some others, left out."""
        order = list(rig.engine.firing_order)
        count = len(order)
        kept = draw.some("kept", range(1, count), 1 if count < 8 else count // 4)
        shown = [c if nth == 0 or nth in kept else 0 for nth, c in enumerate(order)]
        return Question(self.slug, engine, {"order": "-".join(str(c or "?") for c in shown)})

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
        """The question."""
        self._given(q)
        return f"Complete the firing order: {q.ask['order']}."

    def form(self, q: Asked) -> Form:
        """The gaps."""
        together = tuple(group for group in q.engine.firing_groups if len(group) > 1)
        return Slots(self._given(q), together, goes_round=True)

    def answer(self, q: Asked) -> Answer:
        """The order."""
        return q.engine.firing_order

    def why(self, q: Asked) -> str:
        """The order and its gaps."""
        gaps = q.engine.intervals_deg
        even = f"every {gaps[0]:.4g}°" if q.engine.fires_evenly else "unevenly"
        return f"It fires {q.engine.order_text}, {even}."

    def idea(self, q: Asked, given: Answer) -> str:
        """Read the other way round, or counted through."""
        order = q.engine.firing_order
        form = self.form(q)
        assert isinstance(form, Slots)
        told = form.from_the_first(order, tuple(given))
        if told == backwards(order):
            return "order-against-rotor"
        return "neighbour-next" if told == tuple(q.engine.cylinders) else ""


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
        if draw.yes("possible", 0.45):
            orders = even_orders(layout)
            order = (
                orders.order(draw.whole("order", 0, len(orders) - 1))
                if len(orders)
                else _any(layout, draw)
            )
        elif draw.yes("counted", 0.35):
            order = (1, *cylinders)
        else:
            order = (1, *draw.some("order", cylinders, len(cylinders)))
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


def _any(layout: Layout, draw: Draw) -> tuple[int, ...]:
    count = layout.cylinder_count
    return (1, *draw.some("order", range(2, count + 1), count - 1))


def asked_pins(rig: Rig) -> tuple[float, ...]:
    """Crank pins to ask about: of this engine where it is in line, else of a usual one in line."""
    layout = rig.engine.layout
    if layout.form is not Build.INLINE or layout.typed_tdc_deg or layout.cylinder_count < 2:
        count = layout.cylinder_count
        layout = inline(count if 3 <= count <= MOST_USUAL else USUAL).layout
    pins = (layout.pin_deg - layout.pin_deg[0]) % TURN_DEG
    return tuple(float(pin) % TURN_DEG for pin in np.round(pins, 6))


def pins_words(q: Asked) -> str:
    """The crank of a question in words."""
    pins = ", ".join(f"{float(pin):.4g}" for pin in q.ask["pins"])
    return f"An engine in line has its crank pins at {pins}°."


class WhoCannot(Drill):
    """Why an order is impossible: who cannot follow."""

    slug = "order-why"
    title = "Why is it impossible?"
    skill = "firing-order"
    shows_engine = False
    stands = False

    def missing(self, rig: Rig) -> str:
        """With two cylinders every order goes."""
        return "has too few cylinders: every order goes" if len(asked_pins(rig)) < 4 else ""

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """An order that breaks somewhere."""
        pins = asked_pins(rig)
        layout, cylinders = crank_of(pins), list(range(2, len(pins) + 1))
        for tries in range(50):
            order = (1, *draw.again(tries).some("order", cylinders, len(cylinders)))
            if cannot_follow(layout.tdc_deg, tuple((c,) for c in order)) is not None:
                break
        ask = {"order": "-".join(map(str, order)), "pins": [float(pin) for pin in pins]}
        return Question(self.slug, engine, ask)

    def text(self, q: Asked) -> str:
        """The question."""
        groups = asked_crank(q)[1]
        return (
            f"{pins_words(q)} {groups_text(groups)} cannot be. Going along it, which is the "
            "first cylinder that cannot follow?"
        )

    def form(self, q: Asked) -> Form:
        """Any but the first."""
        layout = asked_crank(q)[0]
        return one_cylinder(range(2, layout.cylinder_count + 1), "None: it is possible")

    def answer(self, q: Asked) -> Answer:
        """The first that cannot."""
        layout, groups = asked_crank(q)
        failure = cannot_follow(layout.tdc_deg, groups)
        return None if failure is None else failure.cylinder

    def why(self, q: Asked) -> str:
        """Its two TDCs."""
        layout, groups = asked_crank(q)
        failure = cannot_follow(layout.tdc_deg, groups)
        return "Every cylinder can follow." if failure is None else f"{failure.words}."


class ReadBackwards(Drill):
    """An order laid in against the rotor: what the second spark meets."""

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
        """The whole engine."""
        return Question(
            self.slug, engine, {"wired": groups_text(backwards(rig.engine.firing_groups))}
        )

    def text(self, q: Asked) -> str:
        """The question."""
        count = len(q.engine.firing_order)
        return (
            f"The order is right, but it is laid in against the rotor. How many of {count} leads "
            "are on the right plug?"
        )

    def form(self, q: Asked) -> Form:
        """From none to all."""
        count = q.engine.cylinder_count
        return Choice(tuple(Option(nth, str(nth)) for nth in range(count + 1)))

    def answer(self, q: Asked) -> Answer:
        """Those that are the same read either way."""
        order = q.engine.firing_order
        return sum(a == b for a, b in zip(order, backwards(order), strict=True))

    def why(self, q: Asked) -> str:
        """Which are right, and what the others do."""
        right = self.answer(q)
        told = counted(right, "lead is right", "leads are right")
        return f"{told}. {backwards_words(q.rig)[1]}"

    def idea(self, q: Asked, given: Answer) -> str:
        """All right: the direction was thought to be nothing."""
        return "order-against-rotor" if given == q.engine.cylinder_count else ""


DRILLS: Final = (
    Companion(),
    FiresNext(),
    CompleteOrder(),
    OrderPossible(),
    WhoCannot(),
    ReadBackwards(),
)
