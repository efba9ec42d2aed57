"""Engines from a few words: each maker knows the throws and the numbering of its layout.

A maker gives an `Engine` of ordinary dimensions that fires as evenly as its crank allows. Pin
angles are those of common practice (no source) unless said otherwise.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from true_compass.core.angles import CYCLE_DEG, TURN_DEG
from true_compass.core.changes import with_order
from true_compass.core.crank.firing import Groups, parse_firing_order
from true_compass.core.crank.layout import (
    Articulated,
    Bank,
    Form,
    Layout,
    Seat,
    Throw,
    turned_about,
)
from true_compass.core.crank.orders import best_order, other_hand
from true_compass.core.engine import Engine, even_layout, fire_in_order, layout_words
from true_compass.core.limits import EngineError, check_number
from true_compass.core.valves.cam import DEFAULT_CAM
from true_compass.core.words import capital

INLINE_ORDERS: Final = {
    1: "1",
    2: "1-2",
    3: "1-3-2",
    4: "1-3-4-2",
    5: "1-2-4-5-3",
    6: "1-5-3-6-2-4",
    7: "1-3-5-7-6-4-2",
    8: "1-6-2-5-8-3-7-4",
}
INLINE_CRANKS: Final = {
    "180": {2: (0, 180), 3: (0, 180, 0), 4: (0, 180, 180, 0)},
    "360": {2: (0, 0), 3: (0, 0, 0), 4: (0, 0, 0, 0)},
    "crossplane": {4: (0, 90, 270, 180), 8: (0, 180, 90, 270, 270, 90, 180, 0)},
}
SHARED_PINS: Final = {
    1: (0,),
    2: (0, 180),
    3: (0, 240, 120),
    4: (0, 90, 270, 180),
    5: (0, 144, 216, 288, 72),
    6: (0, 240, 120, 120, 240, 0),
    7: (0, 102.857143, 205.714286, 308.571429, 51.428571, 154.285714, 257.142857),
    8: (0, 180, 90, 270, 270, 90, 180, 0),
}
FLAT_PLANE_PINS: Final = {2: (0, 180), 4: (0, 180, 180, 0), 6: (0, 180, 180, 180, 180, 0)}


def made(layout: Layout, order: Groups | None = None) -> Engine:
    """An engine of ordinary dimensions on a layout, in this order or in the most even one."""
    groups = order if order is not None else best_order(layout)
    articulated = layout.articulated is not None
    words = layout_words(layout)
    return Engine(
        name=capital(words),
        layout=layout,
        late=fire_in_order(layout, groups),
        bore_mm=84.0,
        stroke_mm=80.0,
        rod_mm=190.0 if articulated else 140.0,
        cam=DEFAULT_CAM,
    )


def inline(count: int, crank: str = "even", end: str = "front") -> Engine:
    """An inline of 1 to 8: `crank` is even, 180, 360 or crossplane; `end` is that of cylinder 1.

    >>> inline(4, "crossplane").intervals_deg
    (90.0, 180.0, 270.0, 180.0)
    """
    if crank == "even":
        if count not in INLINE_ORDERS:
            raise EngineError("count", f"must be 1 to 8 for an inline, not {count}")
        order = parse_firing_order(INLINE_ORDERS[count])
        layout = even_layout(order)
        groups: Groups = tuple((cylinder,) for cylinder in order)
        return made(turned_about(layout) if end == "rear" else layout, groups)
    pins = INLINE_CRANKS.get(crank, {}).get(count)
    if pins is None:
        raise EngineError("crank", f"{crank!r} is not known for an inline of {count}")
    seats = tuple(Seat(0, throw) for throw in range(count))
    throws = tuple(Throw(float(pin)) for pin in pins)
    layout = Layout(Form.INLINE, (Bank("A"),), throws, seats)
    return made(turned_about(layout) if end == "rear" else layout)


def number_seats(
    by_bank: Sequence[Sequence[Seat]], numbering: str, end: str, first: str = "A"
) -> tuple[Seat, ...]:
    """Seats in cylinder order. `by_bank` has each bank's seats from the front.

    `numbering` is `along` each bank in turn or `across` the banks; `end` is front or rear; `first`
    the bank of cylinder 1, A or B.
    """
    rows = [list(bank) if end == "front" else list(reversed(bank)) for bank in by_bank]
    rows = rows[::-1] if first == "B" else rows
    if numbering == "along":
        return tuple(seat for bank in rows for seat in bank)
    if numbering == "across":
        return tuple(seat for abreast in zip(*rows, strict=True) for seat in abreast)
    raise EngineError("numbering", f"must be along or across, not {numbering!r}")


def vee(
    count: int,
    angle_deg: float,
    pins: str = "shared",
    crank: str = "usual",
    numbering: str = "along",
    end: str = "front",
    first: str = "A",
) -> Engine:
    """A V of 2 to 16: `pins` are shared, split or own; `crank` is usual or flat.

    Bank A stands half the angle back, bank B half the angle on; the bank of cylinder 1 (`first`)
    sits further forward. Split pins and own pins are turned so that the engine fires as evenly as
    its crank can.

    >>> vee(8, 90).fires_evenly, vee(2, 90).intervals_deg
    (True, (450.0, 270.0))
    """
    check_number("angle_deg", angle_deg, "between_banks_deg")
    if crank not in ("usual", "flat"):
        raise EngineError("crank", f"must be usual or flat for a V, not {crank!r}")
    throws_of = SHARED_PINS if crank == "usual" else FLAT_PLANE_PINS
    per_bank = count // 2
    if count % 2 or per_bank not in throws_of:
        raise EngineError("count", f"must be even, and known for this crank, not {count}")
    banks = (
        Bank("A", -angle_deg / 2, ahead=first == "A"),
        Bank("B", angle_deg / 2, ahead=first == "B"),
    )
    angles = throws_of[per_bank]
    # A bank fires at no more places than its pins have, twice each: some may fire together.
    gap = CYCLE_DEG / (2 * min(per_bank, 2 * len(set(angles))))
    # Half way between two even places the later one, as on the usual 60° six.
    split = angle_deg - max(int(angle_deg / gap + 0.5), 0) * gap
    if pins == "shared":
        throws = [Throw(float(angle)) for angle in angles]
        by_bank = [[Seat(bank, throw) for throw in range(per_bank)] for bank in (0, 1)]
    elif pins == "split":
        throws = [Throw(float(angle), split) for angle in angles]
        by_bank = [[Seat(bank, throw) for throw in range(per_bank)] for bank in (0, 1)]
    elif pins == "own":
        throws = [
            Throw(float(angle + extra) % TURN_DEG) for angle in angles for extra in (0.0, split)
        ]
        by_bank = [[Seat(bank, 2 * place + bank) for place in range(per_bank)] for bank in (0, 1)]
    else:
        raise EngineError("pins", f"must be shared, split or own, not {pins!r}")
    return made(Layout(Form.V, banks, tuple(throws), number_seats(by_bank, numbering, end, first)))


def flat(count: int, numbering: str = "across", end: str = "front", first: str = "A") -> Engine:
    """Opposed pistons on pins of their own, which move apart and together: 2 to 12 cylinders.

    A 180° V, whose opposed rods share a pin, is `vee(count, 180)`.

    >>> flat(4).layout.tdc_deg.tolist()
    [0.0, 0.0, 180.0, 180.0]
    """
    pairs = count // 2
    # A pair rises together, so no two pairs may: six go at 60°, mirrored half a turn apart.
    places = {**SHARED_PINS, 6: (0, 240, 120, 300, 60, 180)}
    if count % 2 or not 1 <= pairs <= 6:
        raise EngineError("count", f"must be even and 2 to 12 for a flat engine, not {count}")
    banks = (Bank("A", -90.0, ahead=first == "A"), Bank("B", 90.0, ahead=first == "B"))
    throws = [Throw(float(a + extra) % TURN_DEG) for a in places[pairs] for extra in (0, 180)]
    by_bank = [[Seat(bank, 2 * place + bank) for place in range(pairs)] for bank in (0, 1)]
    seats = number_seats(by_bank, numbering, end, first)
    return made(Layout(Form.FLAT, banks, tuple(throws), seats))


def to_order(candidates: Iterable[Engine], groups: Groups) -> Engine:
    """The first of several engines whose crank, or its mirror image, fires in an order.

    Which bank holds cylinder 1 and on which hand the crank is built are a maker's free choice: an
    order is not refused before both were tried. Raises `EngineError` of the first candidate.
    """
    refusal: EngineError | None = None
    for engine in candidates:
        for layout in (engine.layout, other_hand(engine.layout)):
            try:
                return with_order(replace(engine, layout=layout), groups)
            except EngineError as error:
                refusal = refusal or error
    assert refusal is not None
    raise refusal


def double_u(count: int, banks: int = 3, angle_deg: float = 60.0) -> Engine:
    """A W: three or four banks, `angle_deg` from each to the next, on shared throws."""
    check_number("angle_deg", angle_deg, "between_banks_deg")
    per_bank = count // banks if banks else 0
    if (banks - 1) * angle_deg >= TURN_DEG:
        raise EngineError("angle_deg", f"must be less, so that {banks} banks stand apart")
    if banks not in (3, 4) or per_bank * banks != count or per_bank not in SHARED_PINS:
        raise EngineError("banks", "must be 3 or 4, each with 1 to 8 of the cylinders")
    middle = (banks - 1) / 2
    stands = tuple(
        Bank("ABCD"[bank], (bank - middle) * angle_deg, ahead=bank == 0) for bank in range(banks)
    )
    # Four throws of three banks fire evenly on a flat crank, six on pins 120° apart.
    is_flat = (banks, per_bank) == (3, 4)
    angles = FLAT_PLANE_PINS[4] if is_flat else SHARED_PINS[per_bank]
    throws = tuple(Throw(float(angle)) for angle in angles)
    by_bank = [[Seat(bank, throw) for throw in range(per_bank)] for bank in range(banks)]
    return made(Layout(Form.W, stands, throws, number_seats(by_bank, "along", "front")))


def staggered(count: int, angle_deg: float = 15.0, axis_offset_mm: float = 12.0) -> Engine:
    """Two banks in one narrow block, cylinders by turns; pins turned so that it fires evenly."""
    check_number("angle_deg", angle_deg, "between_banks_deg")
    order = INLINE_ORDERS.get(count)
    if order is None or count < 2:
        raise EngineError("count", f"must be 2 to 8 for staggered bores, not {count}")
    banks = (
        Bank("A", -angle_deg / 2, ahead=True, axis_offset_mm=axis_offset_mm),
        Bank("B", angle_deg / 2, axis_offset_mm=-axis_offset_mm),
    )
    even = even_layout(parse_firing_order(order))
    throws = tuple(
        Throw((throw.angle_deg + (angle_deg if place % 2 else 0.0)) % TURN_DEG)
        for place, throw in enumerate(even.throws)
    )
    seats = tuple(Seat(place % 2, place) for place in range(count))
    layout = Layout(Form.STAGGERED, banks, throws, seats)
    return made(layout, tuple((cylinder,) for cylinder in parse_firing_order(order)))


def radial(count: int, rows: int = 1, hub_mm: float = 45.0) -> Engine:
    """A radial of 3 to 18 in one or two rows; cylinder 1 has a master rod.

    Numbers go round in the running direction; in two rows they go from row to row, odd ones in the
    first. The throws of two rows are half a turn apart.

    >>> radial(9).order_text
    '1-3-5-7-9-2-4-6-8'
    """
    if rows not in (1, 2) or count % rows or not 3 <= count // rows <= 9:
        raise EngineError("count", f"must be 3 to 9 a row, in 1 or 2 rows, not {count} in {rows}")
    banks = tuple(Bank(str(n + 1), n * TURN_DEG / count) for n in range(count))
    throws = tuple(Throw(180.0 * row) for row in range(rows))
    seats = tuple(Seat(n, n % rows) for n in range(count))
    rods = Articulated(tuple(range(1, rows + 1)), hub_mm)
    return made(Layout(Form.RADIAL, banks, throws, seats, articulated=rods))


def square_four() -> Engine:
    """Two upright twins on two cranks geared against each other."""
    banks = (Bank("A", ahead=True), Bank("B"))
    throws = (
        Throw(0.0),
        Throw(180.0),
        Throw(180.0, second_crank=True),
        Throw(0.0, second_crank=True),
    )
    seats = (Seat(0, 0), Seat(0, 1), Seat(1, 2), Seat(1, 3))
    return made(Layout(Form.SQUARE, banks, throws, seats, second_crank_against=True))


def u_engine(count: int = 8) -> Engine:
    """Two inlines side by side, each on a crank of its own, geared together."""
    per_bank = count // 2
    if count % 2 or per_bank not in (2, 3, 4):
        raise EngineError("count", f"must be 4, 6 or 8 for a U, not {count}")
    angles = {2: (0, 180), 3: (0, 240, 120), 4: (0, 180, 180, 0)}[per_bank]
    step = CYCLE_DEG / count
    throws = [Throw(float(angle)) for angle in angles]
    throws += [Throw((angle - step) % TURN_DEG, second_crank=True) for angle in angles]
    seats = tuple(Seat(n // per_bank, n) for n in range(count))
    banks = (Bank("A", ahead=True), Bank("B"))
    return made(Layout(Form.U, banks, tuple(throws), seats))


@dataclass(frozen=True, slots=True)
class Variant:
    """One way to build a family: in words, for how many cylinders, and the maker.

    The maker gets the number of cylinders and the degrees between neighbouring banks.
    """

    words: str
    counts: tuple[int, ...]
    make: Callable[[int, float], Engine]


@dataclass(frozen=True, slots=True)
class Family:
    """Engines of one kind of layout. `usual_deg` are the angles between banks that are common.

    `usual_count` is offered first. A family without angles between banks has no `usual_deg`.
    """

    word: str
    usual_count: int
    variants: tuple[Variant, ...]
    usual_deg: Mapping[int, float] = field(default_factory=dict)

    @property
    def counts(self) -> tuple[int, ...]:
        """All numbers of cylinders that one of its variants has."""
        return tuple(sorted({count for variant in self.variants for count in variant.counts}))

    def variants_of(self, count: int) -> tuple[Variant, ...]:
        """The ways to build it with so many cylinders."""
        return tuple(variant for variant in self.variants if count in variant.counts)

    def angle_of(self, count: int) -> float:
        """The usual angle between banks of so many cylinders, 0 where there is none."""
        return self.usual_deg.get(count, next(iter(self.usual_deg.values()), 0.0))


_EVEN: Final = (2, 4, 6, 8, 10, 12, 14, 16)
FAMILIES: Final = (
    Family(
        "Inline",
        4,
        (
            Variant("even gaps", tuple(range(1, 9)), lambda n, _: inline(n)),
            Variant("pins at 180°", (2, 3, 4), lambda n, _: inline(n, "180")),
            Variant("pins at 360°", (2, 3, 4), lambda n, _: inline(n, "360")),
            Variant("cross crank", (4, 8), lambda n, _: inline(n, "crossplane")),
        ),
    ),
    Family(
        "V",
        8,
        (
            Variant("shared pins", _EVEN, lambda n, deg: vee(n, deg)),
            Variant("split pins", _EVEN, lambda n, deg: vee(n, deg, "split")),
            Variant("own pins", _EVEN, lambda n, deg: vee(n, deg, "own")),
            Variant("flat crank", (4, 8), lambda n, deg: vee(n, deg, crank="flat")),
        ),
        {8: 90.0, 2: 45.0, 4: 60.0, 6: 60.0, 10: 72.0, 12: 60.0, 14: 60.0, 16: 45.0},
    ),
    Family("Flat", 4, (Variant("own pins", _EVEN[:6], lambda n, _: flat(n)),)),
    Family(
        "W",
        12,
        (
            Variant("three banks", (3, 6, 9, 12, 15, 18), lambda n, deg: double_u(n, 3, deg)),
            Variant("four banks", (4, 8, 12, 16), lambda n, deg: double_u(n, 4, deg)),
        ),
        {12: 60.0},
    ),
    Family(
        "Staggered",
        6,
        (Variant("one head", tuple(range(2, 9)), lambda n, deg: staggered(n, deg)),),
        {6: 15.0},
    ),
    Family(
        "Radial",
        9,
        (
            Variant("one row", tuple(range(3, 10)), lambda n, _: radial(n)),
            Variant("two rows", (6, 8, 10, 12, 14, 16, 18), lambda n, _: radial(n, 2)),
        ),
    ),
    Family("Square four", 4, (Variant("two cranks", (4,), lambda _n, _: square_four()),)),
    Family("U", 8, (Variant("two cranks", (4, 6, 8), lambda n, _: u_engine(n)),)),
)
"""What the Engine page offers, in the order of how common they are."""


def family_of(engine: Engine) -> Family:
    """The family that an engine's form belongs to; an inline where it is none of them."""
    words = {
        Form.V: "V",
        Form.FLAT: "Flat",
        Form.W: "W",
        Form.STAGGERED: "Staggered",
        Form.RADIAL: "Radial",
        Form.SQUARE: "Square four",
        Form.U: "U",
    }
    word = words.get(engine.layout.form, "Inline")
    return next(family for family in FAMILIES if family.word == word)
