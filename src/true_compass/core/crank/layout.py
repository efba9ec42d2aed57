"""How an engine is built: banks, throws, and which cylinder sits where.

Angles grow in the running direction and only differences count. A cylinder is at TDC when its pin
stands in its bank, so with cylinder 1 as the reference

    TDC of cylinder i = (bank i - pin i) - (bank 1 - pin 1)   mod 360.

On an inline a pin 120° on from pin 1 has its TDC at 240°; a bank 45° on comes 45° later. On a
second crank that turns against the first, that same bank comes 45° earlier.
"""

from dataclasses import dataclass, replace
from enum import Enum
from functools import cached_property

import numpy as np

from true_compass.core.angles import TURN_DEG, Floats
from true_compass.core.limits import MOST_CYLINDERS, EngineError, check_number


class Form(Enum):
    """The kind of layout, for words and drawings. What it can do follows from banks and throws."""

    INLINE = "inline"
    V = "v"
    FLAT = "flat"
    W = "w"
    STAGGERED = "staggered"
    RADIAL = "radial"
    SQUARE = "square"
    U = "u"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class Bank:
    """A row of cylinders on one axis direction.

    `axis_offset_mm` is how far the bores stand beside the crank's axis, towards the side to which
    the crank pin moves after TDC. `ahead` marks the bank that sits further forward.
    """

    name: str
    angle_deg: float = 0.0
    ahead: bool = False
    axis_offset_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Throw:
    """One throw of a crank: where its pin stands.

    With a split pin the second cylinder on the throw has a pin of its own, `split_deg` on.
    `second_crank` tells that the throw is on the second of two geared crankshafts; its angle is
    then counted in that crank's own running direction.
    """

    angle_deg: float
    split_deg: float = 0.0
    second_crank: bool = False


@dataclass(frozen=True, slots=True)
class Seat:
    """Where a cylinder sits: its bank and its throw, counted from 0."""

    bank: int
    throw: int


@dataclass(frozen=True, slots=True)
class Articulated:
    """Rods of a radial: on each throw one master rod, and link rods on its hub.

    `masters` are cylinder numbers, one a throw; `hub_mm` is the distance of the knuckle pins from
    the crank pin.
    """

    masters: tuple[int, ...]
    hub_mm: float


@dataclass(frozen=True)
class Layout:
    """Banks, throws and seats. `typed_tdc_deg` takes the place of pins for anything unusual.

    `seats` are in cylinder order. Throws are counted from the front.
    """

    form: Form
    banks: tuple[Bank, ...]
    throws: tuple[Throw, ...]
    seats: tuple[Seat, ...]
    articulated: Articulated | None = None
    second_crank_against: bool = False
    typed_tdc_deg: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        check_layout(self)

    @property
    def cylinder_count(self) -> int:
        """Number of cylinders."""
        return len(self.seats)

    @cached_property
    def bank_deg(self) -> Floats:
        """Bank angle of each cylinder, shape `(C,)`."""
        return np.array([self.banks[seat.bank].angle_deg for seat in self.seats])

    @cached_property
    def pin_deg(self) -> Floats:
        """Pin angle of each cylinder, shape `(C,)`, the split of its throw included."""
        first: dict[int, int] = {}
        for row, seat in enumerate(self.seats):
            held = first.get(seat.throw)
            if held is None or self.seats[held].bank > seat.bank:
                first[seat.throw] = row
        angles = []
        for row, seat in enumerate(self.seats):
            throw = self.throws[seat.throw]
            angles.append(throw.angle_deg + (0.0 if first[seat.throw] == row else throw.split_deg))
        return np.array(angles)

    @property
    def _own_bank_deg(self) -> Floats:
        """Bank angle of each cylinder in the running direction of its own crank, `(C,)`."""
        against = [
            self.second_crank_against and self.throws[seat.throw].second_crank
            for seat in self.seats
        ]
        return np.where(against, -self.bank_deg, self.bank_deg)

    @cached_property
    def tdc_deg(self) -> Floats:
        """Nominal TDC of each cylinder in [0, 360), shape `(C,)`, cylinder 1 at 0."""
        if self.typed_tdc_deg:
            tdc = np.array(self.typed_tdc_deg) - self.typed_tdc_deg[0]
        else:
            tdc = self._own_bank_deg - self.pin_deg
            tdc = tdc - tdc[0]
        # Nine decimals: sums of thirds must not end a hair short of a whole turn.
        return np.round(tdc % TURN_DEG, 9) % TURN_DEG

    def on_throw(self, throw: int) -> tuple[int, ...]:
        """Numbers of the cylinders on a throw (from 0), by bank."""
        rows = [row for row, seat in enumerate(self.seats) if seat.throw == throw]
        return tuple(row + 1 for row in sorted(rows, key=lambda row: self.seats[row].bank))

    def on_bank(self, bank: int) -> tuple[int, ...]:
        """Numbers of the cylinders on a bank (from 0), from the front."""
        rows = [row for row, seat in enumerate(self.seats) if seat.bank == bank]
        return tuple(row + 1 for row in sorted(rows, key=lambda row: self.seats[row].throw))

    @property
    def banks_in_use(self) -> tuple[int, ...]:
        """The banks (from 0) that have cylinders."""
        return tuple(sorted({seat.bank for seat in self.seats}))


def turned_about(layout: Layout) -> Layout:
    """The same cylinders with cylinder 1 at the other end: every TDC stays, every place changes."""
    last = len(layout.throws) - 1
    rods = layout.articulated
    return replace(
        layout,
        throws=layout.throws[::-1],
        seats=tuple(Seat(seat.bank, last - seat.throw) for seat in layout.seats),
        articulated=rods and Articulated(rods.masters[::-1], rods.hub_mm),
    )


def check_layout(layout: Layout) -> None:
    """Raise `EngineError` for a layout that cannot be built."""
    count = len(layout.seats)
    if not 1 <= count <= MOST_CYLINDERS:
        raise EngineError("cylinders", f"must be 1 to {MOST_CYLINDERS}, not {count}")
    taken: dict[Seat, int] = {}
    for cylinder, seat in enumerate(layout.seats, start=1):
        for field, place, among in (
            ("bank", seat.bank, layout.banks),
            ("throw", seat.throw, layout.throws),
        ):
            if not 0 <= place < len(among):
                raise EngineError(
                    f"cylinders.{field}",
                    f"puts cylinder {cylinder} on {field} {place + 1}, but there are {len(among)}",
                )
        if seat in taken:
            raise EngineError(
                "cylinders.throw",
                f"puts cylinders {taken[seat]} and {cylinder} in one place: bank "
                f"{layout.banks[seat.bank].name}, throw {seat.throw + 1}; give each its own",
            )
        taken[seat] = cylinder
    for bank in layout.banks:
        check_number("bank_angle_deg", bank.angle_deg)
        check_number("axis_offset_mm", bank.axis_offset_mm)
    for throw in layout.throws:
        check_number("pin_deg", throw.angle_deg)
        check_number("split_deg", throw.split_deg)
    _check_typed(layout)
    if layout.articulated is not None:
        _check_articulated(layout, layout.articulated)


def _check_typed(layout: Layout) -> None:
    typed = layout.typed_tdc_deg
    if typed and len(typed) != len(layout.seats):
        raise EngineError(
            "cylinders.tdc_deg", f"has {len(typed)} angles for {len(layout.seats)} cylinders"
        )
    for angle in typed:
        check_number("tdc_deg", angle)


def _check_articulated(layout: Layout, rods: Articulated) -> None:
    check_number("hub_mm", rods.hub_mm)
    if len(rods.masters) != len(layout.throws):
        raise EngineError(
            "rods.masters", f"must name one master cylinder a throw ({len(layout.throws)})"
        )
    for throw, master in enumerate(rods.masters):
        if master not in layout.on_throw(throw):
            raise EngineError(
                "rods.masters", f"names cylinder {master}, which is not on throw {throw + 1}"
            )
