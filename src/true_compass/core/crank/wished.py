"""An engine from a line of words: `V6 90° 1-2-3-4-5-6`; and the cranks that fire in its order.

Throws, numbering and hand are what an order leaves open. All of a family's usual ones are tried,
those that fire so are offered, the most even first.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import permutations
from typing import Final

import numpy as np

from true_compass.core.angles import TURN_DEG
from true_compass.core.changes import with_order
from true_compass.core.crank.firing import SAME_DEG, Groups, parse_groups, second_turns
from true_compass.core.crank.layout import Form, Layout
from true_compass.core.crank.makers import FAMILIES, Family, family_of, made, number_seats
from true_compass.core.crank.orders import gaps_words, intervals_of, other_hand
from true_compass.core.engine import Engine, even_layout
from true_compass.core.limits import EngineError

NUMBERS: Final = {
    word: count
    for count, word in enumerate(
        (
            *("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"),
            *("eleven", "twelve", "thirteen", "fourteen", "fifteen", "sixteen", "seventeen"),
            "eighteen",
        ),
        start=1,
    )
} | {"single": 1, "twin": 2}
FAMILY_WORDS: Final = {
    "inline": "Inline",
    "straight": "Inline",
    "row": "Inline",
    "l": "Inline",
    "i": "Inline",
    "v": "V",
    "vee": "V",
    "flat": "Flat",
    "boxer": "Flat",
    "opposed": "Flat",
    "w": "W",
    "staggered": "Staggered",
    "radial": "Radial",
    "square": "Square four",
    "u": "U",
}
_LETTER: Final = re.compile(r"(v|w|u|i|l)[- ]?(\d{1,2})", re.IGNORECASE)
_ANGLE: Final = re.compile(r"(\d{1,3}(?:\.\d+)?)\s*(?:°|deg|degrees)", re.IGNORECASE)
_ORDER: Final = re.compile(r"\d+(?:\s*[-+]\s*\d+)+")
MOST_PERMUTED: Final = 5
"""Throws up to which every change of places is tried."""
MOST_OFFERED: Final = 4
OTHER_ANGLES_DEG: Final = (60.0, 90.0)
"""Angles between banks that are tried beside the usual one."""
EXAMPLE: Final = "inline five 1-3-5-4-2, or V6 90° 1-2-3-4-5-6"


@dataclass(frozen=True, slots=True)
class Wish:
    """What a line says. `count` and `family` follow from the order where they are left out."""

    family: Family
    count: int
    angle_deg: float | None = None
    order: Groups | None = None


def parse_wish(text: str) -> Wish:
    """Read a line such as `inline five 1-3-5-4-2`. Raises `EngineError` with the way out.

    >>> wish = parse_wish("V6 90° 1-2-3-4-5-6")
    >>> wish.family.word, wish.count, wish.angle_deg, len(wish.order)
    ('V', 6, 90.0, 6)
    >>> parse_wish("1-3-4-2").family.word
    'Inline'
    """
    rest, order, angle = text, None, None
    found = _ORDER.search(rest)
    if found is not None:
        order = parse_groups(re.sub(r"\s", "", found[0]))
        rest = rest.replace(found[0], " ", 1)
    found = _ANGLE.search(rest)
    if found is not None:
        angle = float(found[1])
        rest = rest.replace(found[0], " ", 1)
    rest = _LETTER.sub(r"\1 \2", rest)
    family, count = None, None
    for word in re.split(r"[\s,;/-]+", rest.strip().lower()):
        if word in FAMILY_WORDS:
            family = next(one for one in FAMILIES if one.word == FAMILY_WORDS[word])
        elif word in NUMBERS or word.isdecimal():
            count = NUMBERS[word] if word in NUMBERS else int(word)
        elif word and word not in ("cylinder", "cylinders", "engine", "four-stroke", "order"):
            raise EngineError("line", f"has {word[:20]!r}: write it like {EXAMPLE}")
    named = sum(map(len, order)) if order else None
    if count is not None and named is not None and count != named:
        raise EngineError("order", f"names {named} cylinders, and the layout has {count}")
    count = count if count is not None else named
    if count is None:
        raise EngineError("line", f"names no cylinders: write it like {EXAMPLE}")
    family = family or FAMILIES[0]
    if count not in family.counts:
        counts = ", ".join(map(str, family.counts))
        raise EngineError("line", f"has {count} cylinders: {family.word} is built with {counts}")
    return Wish(family, count, angle, order)


@dataclass(frozen=True, slots=True)
class Offer:
    """An engine that fires as wished. `head` tells its crank and gaps, `note` what was chosen."""

    engine: Engine
    head: str
    note: str

    @property
    def unevenness(self) -> float:
        """0 where it fires evenly; the more, the less even."""
        return unevenness(self.engine)


def unevenness(engine: Engine) -> float:
    """How far the gaps are from even: 0, or their spread in degrees."""
    gaps = engine.intervals_deg
    return round(max(gaps) - min(gaps), 6)


def offers(wish: Wish, most: int = MOST_OFFERED) -> list[Offer]:
    """Engines that fire in the order of a wish, the most even first; without an order, the usual
    ones. Of those with the same banks, kind of crank and gaps the plainest is offered."""
    found: dict[tuple[object, ...], tuple[float, Engine, Layout, str]] = {}
    seen: set[tuple[object, ...]] = set()
    for nth, angle in enumerate(_angles(wish)):
        for variant in wish.family.variants_of(wish.count):
            try:
                base = variant.make(wish.count, angle)
            except EngineError:
                continue
            banks = f"{angle:g}°" if wish.family.usual_deg and wish.angle_deg is None else ""
            for layout, note in _layouts(base.layout, thrown=nth == 0 and wish.order is not None):
                if (angle, variant.words, 0.0) in found:
                    break  # the plainest that fires evenly is what is offered
                crank = (angle, *layout.tdc_deg.round(4).tolist())
                spread = None if crank in seen else _spread_of(base, layout, wish.order)
                seen.add(crank)
                if spread is not None:
                    said = ", ".join(filter(None, (banks, variant.words, note)))
                    key = (angle, variant.words, spread)
                    found.setdefault(key, (spread, base, layout, said))
    plainest = sorted(found.values(), key=lambda one: one[0])[: 2 * most]
    offered = []
    for _, base, layout, said in plainest:
        engine = _fired(base, layout, wish.order)
        if engine is not None:
            offered.append(_offer(engine, said))
    if wish.order is not None and wish.family.word == "Inline":
        offered += _by_its_order(wish.order, offered)
    offered.sort(key=lambda offer: offer.unevenness)
    return offered[:most]


def _spread_of(base: Engine, layout: Layout, order: Groups | None) -> float | None:
    """The spread of the gaps on a crank that is fired as wished, or None where it cannot be."""
    if order is None:
        return unevenness(base) if layout is base.layout else None
    spreads = [
        max(gaps) - min(gaps)
        for late in second_turns(layout.tdc_deg, order)
        for gaps in [intervals_of(layout.tdc_deg + TURN_DEG * np.array(late))]
    ]
    return round(min(spreads), 3) if spreads else None


def _angles(wish: Wish) -> list[float]:
    """Angles between banks to try: the one that was typed, or the usual ones."""
    if wish.angle_deg is not None or not wish.family.usual_deg:
        return [wish.angle_deg or 0.0]
    return list(dict.fromkeys((wish.family.angle_of(wish.count), *OTHER_ANGLES_DEG)))


def _fired(base: Engine, layout: Layout, order: Groups | None) -> Engine | None:
    """The engine on a layout, or None where something else of it forbids that."""
    if order is None:
        return base
    try:
        return with_order(replace(base, layout=layout), order)
    except EngineError:
        return None


def _layouts(layout: Layout, *, thrown: bool) -> Iterator[tuple[Layout, str]]:
    """A layout as it is, then numbered and built otherwise, and with `thrown` its throws changed
    about: each with what was changed, the plainest first."""
    ways = list(_numberings(layout))
    for numbered, how in ways:
        yield numbered, how
        yield other_hand(numbered), ", ".join(filter(None, (how, "mirrored")))
    for numbered, how in ways if thrown else ():
        for other, pins in _thrown(numbered):
            yield other, ", ".join(filter(None, (how, pins)))
            yield other_hand(other), ", ".join(filter(None, (how, pins, "mirrored")))


def _numberings(layout: Layout) -> Iterator[tuple[Layout, str]]:
    yield layout, ""
    banks = layout.banks_in_use
    rows = [[layout.seats[c - 1] for c in layout.on_bank(bank)] for bank in banks]
    if len(banks) != 2 or len(rows[0]) != len(rows[1]) or layout.form is Form.RADIAL:
        return
    for numbering, said in (("across", "numbered across"), ("along", "numbered along each bank")):
        for first in "AB":
            seats = number_seats(rows, numbering, "front", first)
            if seats != layout.seats:
                yield replace(layout, seats=seats), said + (" from B" if first == "B" else "")


def _thrown(layout: Layout) -> Iterator[tuple[Layout, str]]:
    """The throws in each other's place, where there are few."""
    pins = [throw.angle_deg for throw in layout.throws]
    if not 2 < len(pins) <= MOST_PERMUTED:
        return
    for order in sorted(set(permutations(pins[1:]))):
        if list(order) != pins[1:]:
            throws = [
                replace(throw, angle_deg=angle)
                for throw, angle in zip(layout.throws[1:], order, strict=True)
            ]
            yield replace(layout, throws=(layout.throws[0], *throws)), "throws changed about"


def _by_its_order(order: Groups, offered: Sequence[Offer]) -> list[Offer]:
    """An inline whose pins stand so that it fires evenly, where no usual crank does."""
    if any(len(group) > 1 for group in order) or any(not o.unevenness for o in offered):
        return []
    layout = even_layout(tuple(group[0] for group in order))
    return [_offer(made(layout, order), "pins by the order")]


def _offer(engine: Engine, note: str) -> Offer:
    pins = "/".join(f"{angle:.4g}" for angle in dict.fromkeys(pins_of(engine.layout)))
    return Offer(engine, f"Crank {pins}, gaps {told_gaps(engine.intervals_deg)}", note)


def pins_of(layout: Layout) -> list[float]:
    """Angles of the throws from the front, the first at 0."""
    first = layout.throws[0].angle_deg
    return [round((throw.angle_deg - first) % TURN_DEG, 2) for throw in layout.throws]


def told_gaps(gaps_deg: Sequence[float]) -> str:
    """`120°`, `90 and 150°`, or `30° to 390°` where there are more.

    >>> told_gaps((90.0, 150.0, 90.0, 150.0)), told_gaps((120.0, 120.0))
    ('90 and 150°', '120°')
    """
    different = sorted({round(gap, 2) for gap in gaps_deg})
    if len(different) == 2 and different[1] - different[0] > 0.05:
        return f"{different[0]:.4g} and {different[1]:.4g}°"
    return gaps_words(gaps_deg)


def more_even(engine: Engine) -> Offer | None:
    """The most even way to fire the order of an engine on a crank of its kind, with its own sizes
    and valves; None where nothing of that kind is more even."""
    layout = engine.layout
    angles = sorted(layout.banks[bank].angle_deg for bank in layout.banks_in_use)
    between = (angles[-1] - angles[0]) / max(len(angles) - 1, 1)
    family = family_of(engine)
    angle = between if family.usual_deg else None
    if engine.cylinder_count not in family.counts:
        return None
    found = offers(Wish(family, engine.cylinder_count, angle, engine.firing_groups), 1)
    if not found or found[0].unevenness >= unevenness(engine) - SAME_DEG:
        return None
    best = found[0]
    try:
        kept = replace(engine, layout=best.engine.layout, late=best.engine.late)
    except EngineError:
        return None
    return replace(best, engine=kept)
