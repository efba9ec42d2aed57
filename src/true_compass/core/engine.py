"""What an engine is: frozen records, checked when they are made.

A wrong value raises `EngineError`, whose message names the field, the value and the way out.
"""

from dataclasses import dataclass
from enum import Enum
from functools import cached_property
from typing import Final

import numpy as np

from true_compass.core.angles import CYCLE_DEG, TURN_DEG, Floats
from true_compass.core.crank.firing import (
    SAME_DEG,
    Groups,
    are_even,
    cannot_follow,
    groups_of,
    groups_text,
    second_turns,
)
from true_compass.core.crank.layout import Articulated, Bank, Form, Layout, Seat, Throw
from true_compass.core.items import ExtraKind, Kind
from true_compass.core.limits import EngineError, check_count, check_number
from true_compass.core.rotation import End, Rotation
from true_compass.core.spark import (
    ASSUMED_DISTRIBUTOR_TEETH,
    NO_SPARK,
    Distributor,
    Ignition,
    Rotor,
    Spark,
    check_spark,
)
from true_compass.core.units import GapUnit
from true_compass.core.valves.cam import (
    DEFAULT_CAM,
    Cam,
    ExtraItem,
    Valve,
    check_cam,
)
from true_compass.core.valves.cam_card import Card
from true_compass.core.valves.chamber import UNKNOWN_CHAMBER, Chamber, check_chamber
from true_compass.core.valves.lobe import profiles_of
from true_compass.core.valves.timing_set import NO_TIMING_SET, TimingSet, check_timing_set
from true_compass.core.valves.train import DEFAULT_TRAIN, Train, check_train


class CamDrive(Enum):
    """Which way the camshafts turn."""

    WITH = "with"
    AGAINST = "against"


class Meaning(Enum):
    """What a mark says of the place at which it is met."""

    TDC = "tdc"
    FIRING = "firing"
    OTHER = "other"


class Shaft(Enum):
    """The shaft a mark sits on. A crank mark passes twice a cycle, a cam mark once."""

    CRANK = "crank"
    CAM = "cam"


@dataclass(frozen=True, slots=True)
class Mark:
    """A mark to bring the crank to. Several can be at one place: stamp and colour tell them apart.

    `angle_deg` is nominal: [0, 360) on the crank, [0, 720) on a cam. None, for a TDC mark only, is
    the true TDC of `cylinder` (compression TDC on a cam).
    """

    where: str
    angle_deg: float | None = None
    stamped: str = ""
    can_creep: bool = False
    colour: str = ""
    meaning: Meaning = Meaning.TDC
    shaft: Shaft = Shaft.CRANK
    cylinder: int = 1

    @property
    def label(self) -> str:
        """Its place, colour and stamp in few words: `pulley, white, T`."""
        return ", ".join(filter(None, (self.where, self.colour, self.stamped)))


ASSUMED_CAM_GEAR_TEETH: Final = 40
"""What is assumed of a gear that nobody counted (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Head:
    """Valves of a cylinder and how they stand along each head, from the front.

    `pattern` is one letter a valve group of the whole head, such as `IEIE` for two cylinders, for
    every head alike or a word for each: `EIIE IEEI`. Empty means intake before exhaust at every
    cylinder. `mirrored` turns the second bank about where all heads share a word.
    """

    intake_valves: int = 1
    exhaust_valves: int = 1
    pattern: str = ""
    mirrored: bool = False


@dataclass(frozen=True, slots=True)
class BankAdvance:
    """How much earlier the camshafts of one bank stand than the timing says, crank degrees."""

    bank: str
    intake_deg: float = 0.0
    exhaust_deg: float = 0.0


@dataclass(frozen=True, slots=True)
class Compression:
    """What the pressure on the compression stroke follows from.

    `ratio` is the static compression ratio; `exponent` that of p Vⁿ = constant; `start_kpa` the
    pressure, absolute, when the intake valve closes.
    """

    ratio: float = 9.0
    exponent: float = 1.3
    start_kpa: float = 100.0


@dataclass(frozen=True, slots=True)
class FigureSource:
    """Where figures stand: book, edition, page, and the variant of the engine they are for.

    `of` names the items that it is about, `I`, `E`, `U`, `B` or `bridge`; empty means everything.
    """

    book: str
    edition: str = ""
    page: str = ""
    variant: str = ""
    of: str = ""


@dataclass(frozen=True)
class Engine:
    """An engine. Lengths are mm.

    `damper_mm` is the damper's diameter and `ring_gear_teeth` the flywheel's, 0 when not known.
    `late` tells for each cylinder whether it fires at its second TDC of the cycle. `dots_fire` is
    the cylinder that fires when the dots on the timing gears meet, 0 when it is not known, and
    `cam_gear_teeth` the teeth of the gear on the camshaft. `gap_unit` is the unit of its blades.
    `serial` is its own number, and `sources` say where its figures stand. `timing_sets` are how its
    camshafts can be moved, `chamber` what stands between valves and piston, and `spark` what lights
    the charge.
    """

    name: str
    layout: Layout
    late: tuple[bool, ...]
    bore_mm: float
    stroke_mm: float
    rod_mm: float
    cam: Cam
    pin_offset_mm: float = 0.0
    rotation: Rotation = Rotation.CLOCKWISE
    seen_from: End = End.FRONT
    head: Head = Head()
    cam_drive: CamDrive = CamDrive.WITH
    camshafts: int = 1
    train: Train = DEFAULT_TRAIN
    card: Card | None = None
    bank_advances: tuple[BankAdvance, ...] = ()
    compression: Compression = Compression()
    dots_fire: int = 0
    marks: tuple[Mark, ...] = ()
    spark: Spark = NO_SPARK
    lash_hot: bool = False
    gap_unit: GapUnit = GapUnit.MM
    cam_gear_teeth: int = 0
    damper_mm: float = 0.0
    ring_gear_teeth: int = 0
    serial: str = ""
    sources: tuple[FigureSource, ...] = ()
    timing_sets: tuple[TimingSet, ...] = ()
    chamber: Chamber = UNKNOWN_CHAMBER
    place: str = ""
    note: str = ""

    def __post_init__(self) -> None:
        for field in ("bore_mm", "stroke_mm", "rod_mm", "pin_offset_mm"):
            check_number(field, getattr(self, field))
        check_rod(self)
        check_train(self.train)
        check_cam(self.cam)
        profiles_of(self.cam, self.train)  # raises where no smooth lobe fits
        check_shafts(self)
        check_valves(self)
        if len(self.late) != self.cylinder_count:
            raise EngineError("firing_order", "must say for every cylinder when it fires")
        if self.late[0]:
            raise EngineError("firing_order", "must have cylinder 1 at 0°")
        if not 0 <= self.dots_fire <= self.cylinder_count:
            raise EngineError("dots_fire", f"must be a cylinder, not {self.dots_fire}")
        for mark in self.marks:
            check_mark(self, mark)
        check_number("damper_mm", self.damper_mm)
        check_count("cam_gear_teeth", self.cam_gear_teeth, 8, 200)
        check_spark(self.spark)
        check_coils(self)
        check_timing_sets(self)
        check_chamber(self.chamber)
        if not 0 <= self.ring_gear_teeth <= 400:
            raise EngineError("ring_gear_teeth", f"must be 0 to 400, not {self.ring_gear_teeth}")

    @property
    def cylinder_count(self) -> int:
        """Number of cylinders, 1 to 18."""
        return self.layout.cylinder_count

    @property
    def cylinders(self) -> range:
        """Cylinder numbers: 1, 2, …"""
        return range(1, self.cylinder_count + 1)

    @cached_property
    def offsets_mm(self) -> Floats:
        """How far each cylinder's pin stands beside the crank's axis, `(C,)`: pin and bore."""
        banks = self.layout.banks
        aside = [banks[seat.bank].axis_offset_mm for seat in self.layout.seats]
        return self.pin_offset_mm + np.array(aside)

    @cached_property
    def firing_offsets_deg(self) -> Floats:
        """Nominal crank angle of each cylinder's compression TDC, shape `(C,)`, cylinder 1 at 0."""
        return self.layout.tdc_deg + TURN_DEG * np.array(self.late)

    @cached_property
    def firing_groups(self) -> Groups:
        """Firing order from cylinder 1; cylinders that fire together share a group."""
        return groups_of(self.firing_offsets_deg)

    @cached_property
    def firing_order(self) -> tuple[int, ...]:
        """Firing order as a plain sequence."""
        return tuple(cylinder for group in self.firing_groups for cylinder in group)

    @cached_property
    def intervals_deg(self) -> tuple[float, ...]:
        """Crank degrees from each firing to the next, one a group of `firing_groups`."""
        at = [float(self.firing_offsets_deg[group[0] - 1]) for group in self.firing_groups]
        return tuple(b - a for a, b in zip(at, [*at[1:], CYCLE_DEG], strict=True))

    @property
    def fires_evenly(self) -> bool:
        """Whether all intervals are alike."""
        return are_even(self.intervals_deg)

    @cached_property
    def valves(self) -> tuple[Valve, ...]:
        """Every kind of valve of every cylinder, intake before exhaust: I1, E1, I2, …"""
        counts = {Kind.INTAKE: self.head.intake_valves, Kind.EXHAUST: self.head.exhaust_valves}
        return tuple(Valve(k, cylinder, counts[k]) for cylinder in self.cylinders for k in Kind)

    @cached_property
    def extra_items(self) -> tuple[ExtraItem, ...]:
        """Every injector and brake of every cylinder."""
        return tuple(
            ExtraItem(lobe, cylinder) for cylinder in self.cylinders for lobe in self.cam.extras
        )

    @cached_property
    def driven_extras(self) -> tuple[ExtraItem, ...]:
        """Those of `extra_items` that have a lobe of their own."""
        return tuple(item for item in self.extra_items if item.lobe.bump is not None)

    def valve_row(self, cylinder: int, kind: Kind) -> int:
        """Row of a kind of valve of a cylinder in everything that has the order of `valves`."""
        return 2 * (cylinder - 1) + (kind is Kind.EXHAUST)

    def valve_rows(self, cylinder: int) -> tuple[int, int]:
        """Rows of both kinds of valve of a cylinder, intake first."""
        return self.valve_row(cylinder, Kind.INTAKE), self.valve_row(cylinder, Kind.EXHAUST)

    def rows_of(self, kind: Kind) -> slice:
        """The rows of one kind of valve, in cylinder order."""
        return slice(self.valve_row(1, kind), None, len(Kind))

    def valves_along(self, bank: int) -> str:
        """Letters along a head (bank from 0) from the front, two a cylinder."""
        count = len(self.layout.on_bank(bank))
        words = self.head.pattern.split()
        if len(words) > 1:
            return words[self.layout.banks_in_use.index(bank)]
        pattern = (words[0] if words else "IE" * count)[: 2 * count]
        return pattern[::-1] if self.head.mirrored and bank == 1 else pattern

    @property
    def cylinder_1_at(self) -> End:
        """The end at which cylinder 1 sits on its bank; the front where it is alone there."""
        row = self.layout.on_bank(self.layout.seats[0].bank)
        return End.REAR if len(row) > 1 and row[-1] == 1 else End.FRONT

    def timing_set(self, cylinder: int, kind: Kind) -> TimingSet:
        """How the camshaft of a kind of valve can be moved on the bank of a cylinder.

        What names the bank and the shaft comes before what names one of them, or none.
        """
        name = self.layout.banks[self.layout.seats[cylinder - 1].bank].name
        fitting = [
            drive
            for drive in self.timing_sets
            if drive.bank in ("", name) and drive.shaft in ("", kind.value)
        ]
        named = sorted(fitting, key=lambda drive: bool(drive.bank) + bool(drive.shaft))
        return named[-1] if named else NO_TIMING_SET

    @property
    def ignition(self) -> Ignition:
        """What lights the charge."""
        return self.spark.kind

    @property
    def rotor(self) -> Rotor:
        """The rotor's direction, as it was seen."""
        return self.spark.rotor

    @property
    def distributor(self) -> Distributor:
        """The distributor's gear and cap."""
        return self.spark.distributor

    @property
    def rotor_turns(self) -> Rotation:
        """The rotor's direction: as it was seen, else, assumed, as the crank is seen to turn."""
        return self.rotor.turns or (
            Rotation.CLOCKWISE if self.clockwise_from_front else Rotation.ANTICLOCKWISE
        )

    @property
    def has_rotor(self) -> bool:
        """Whether a rotor can be looked at: not where the file says otherwise, or pumps inject."""
        if self.ignition is Ignition.UNKNOWN:
            return all(extra.kind is not ExtraKind.INJECTOR for extra in self.cam.extras)
        return self.ignition in (Ignition.DISTRIBUTOR, Ignition.MAGNETO)

    def bank_advance_deg(self, cylinder: int, kind: Kind) -> float:
        """Advance of the camshaft of a cylinder's bank, beside that of its kind."""
        name = self.layout.banks[self.layout.seats[cylinder - 1].bank].name
        for advance in self.bank_advances:
            if advance.bank == name:
                return advance.intake_deg if kind is Kind.INTAKE else advance.exhaust_deg
        return 0.0

    @property
    def cam_teeth(self) -> int:
        """Teeth of the camshaft's gear: as counted, or as assumed."""
        moved = next((drive.teeth for drive in self.timing_sets if drive.teeth), 0)
        return self.cam_gear_teeth or moved or ASSUMED_CAM_GEAR_TEETH

    @property
    def distributor_teeth(self) -> int:
        """Teeth of the distributor's gear: as counted, or as assumed."""
        return self.distributor.gear_teeth or ASSUMED_DISTRIBUTOR_TEETH

    @property
    def posts(self) -> int:
        """Posts of the distributor's cap: as counted, or one a cylinder."""
        return self.distributor.posts or self.cylinder_count

    @property
    def two_shafts(self) -> bool:
        """Whether intake and exhaust valves have camshafts of their own, which move apart."""
        return self.camshafts >= 2 * len({seat.bank for seat in self.layout.seats})

    @property
    def clockwise_from_front(self) -> bool:
        """Running direction as seen from the front, whichever end it was stated from."""
        return (self.rotation is Rotation.CLOCKWISE) == (self.seen_from is End.FRONT)

    @property
    def layout_words(self) -> str:
        """Layout in words, such as `inline six` or `90° V8`."""
        return layout_words(self.layout)

    @property
    def order_text(self) -> str:
        """Firing order as it is spelt: `1-5-3-6-2-4`."""
        return groups_text(self.firing_groups)


ONE_SHAFT: Final = (
    "must be the same for intake and exhaust on one camshaft: say how many camshafts there are"
)
# fmt: off
COUNT_WORDS: Final = (
    "none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten",
    "eleven", "twelve", "thirteen", "fourteen", "fifteen", "sixteen", "seventeen", "eighteen",
)
# fmt: on


def layout_words(layout: Layout) -> str:
    """A layout in a few words.

    >>> layout_words(even_layout((1, 3, 4, 2)))
    'inline four'
    """
    count, form = layout.cylinder_count, layout.form
    word = COUNT_WORDS[count] if count != 2 else "twin"
    if count == 1:
        return "single"
    if form in (Form.V, Form.STAGGERED):
        angles = [bank.angle_deg for bank in layout.banks]
        between = f"{(max(angles) - min(angles)) % TURN_DEG:g}°"
        return f"{between} V{count}" if form is Form.V else f"{between} staggered {word}"
    if form is Form.W:
        return f"W{count}"
    if form is Form.U:
        return f"U{count}"
    if form is Form.RADIAL:
        rows = len(layout.throws)
        return f"radial {word}" if rows == 1 else f"two-row radial {word}"
    if form is Form.OTHER:
        return f"{word} cylinders"
    return f"{form.value} {word}"


def check_rod_length(rod_mm: float, stroke_mm: float, aside_mm: float = 0.0) -> None:
    """Raise unless a rod is longer than the crank radius and the offset: or it cannot turn over."""
    if rod_mm <= stroke_mm / 2 + aside_mm:
        more = f" and the offset of {aside_mm:g} mm" if aside_mm else ""
        raise EngineError(
            "rod_mm",
            f"must be longer than half the stroke ({stroke_mm / 2:g} mm){more}, not {rod_mm:g} mm: "
            "measure the rod from centre to centre",
        )


def check_rod(engine: Engine) -> None:
    """Raise unless every rod is long enough to turn over, offsets and link rods included."""
    aside = engine.offsets_mm
    check_rod_length(engine.rod_mm, engine.stroke_mm, float(np.abs(aside).max()))
    if engine.layout.articulated is not None:
        check_link_rods(engine, engine.layout.articulated, aside)


def check_link_rods(engine: Engine, rods: Articulated, aside_mm: Floats) -> None:
    """Raise unless every link rod reaches past the farthest swing of its knuckle pin.

    Beside its cylinder's axis the pin stands at r sin a − k r sin(a + d) + k m − e, with k = hub /
    rod, offsets m of the master and e of this cylinder, and its bank d on from its master's: two
    sines of one speed, so one sine whose height is r sqrt(1 + k² − 2 k cos d).
    """
    radius, share = engine.stroke_mm / 2, rods.hub_mm / engine.rod_mm
    link_mm = engine.rod_mm - rods.hub_mm
    for row, seat in enumerate(engine.layout.seats):
        master = rods.masters[seat.throw] - 1
        apart = np.radians(engine.layout.bank_deg[row] - engine.layout.bank_deg[master])
        swing_mm = radius * np.sqrt(1 + share**2 - 2 * share * np.cos(apart))
        swing_mm += abs(share * aside_mm[master] - aside_mm[row])
        if row != master and link_mm <= swing_mm:
            raise EngineError(
                "hub_mm",
                f"leaves a link rod of {link_mm:g} mm in cylinder {row + 1}, too short: "
                f"its knuckle pin swings {swing_mm:.4g} mm to the side",
            )


def check_valves(engine: Engine) -> None:
    """Raise unless the valves of a cylinder are 2 to 5 and the pattern fits the heads."""
    head = engine.head
    counts = (head.intake_valves, head.exhaust_valves)
    if min(counts) < 1 or not 2 <= sum(counts) <= 5:
        raise EngineError(
            "intake_valves",
            f"and exhaust valves must be 2 to 5 in all, each at least 1, not {counts}",
        )
    if set(head.pattern) - set("IE "):
        raise EngineError("pattern", f"must be letters I and E, not {head.pattern!r}")
    check_pattern(engine, head.pattern.split())
    if not 1 <= engine.camshafts <= 8:
        raise EngineError("camshafts", f"must be 1 to 8, not {engine.camshafts}")


def check_pattern(engine: Engine, words: list[str]) -> None:
    """Raise unless a word for all heads, or a word for each, fits its cylinders."""
    layout = engine.layout
    heads = [len(layout.on_bank(bank)) for bank in layout.banks_in_use]
    if len(words) > 1 and len(words) != len(heads):
        raise EngineError(
            "pattern",
            f"must be one word for all heads, or one for each of the {len(heads)} heads, "
            f"not {len(words)} words",
        )
    wanted = [max(heads)] if len(words) == 1 else heads
    for count, word in zip(wanted, words, strict=False):
        if len(word) != 2 * count or word.count("I") != count:
            raise EngineError(
                "pattern",
                f"must have one I and one E for each of the {count} cylinders of a head, "
                f"not {word}",
            )


def check_shafts(engine: Engine) -> None:
    """Raise unless advances fit the camshafts that there are, and compression is plausible."""
    cam, banks = engine.cam, {bank.name for bank in engine.layout.banks}
    for advance in engine.bank_advances:
        if advance.bank not in banks:
            raise EngineError("bank_advance", f"names {advance.bank!r}, which is no bank")
        check_number("advance_deg", advance.intake_deg)
        check_number("advance_deg", advance.exhaust_deg)
        if not engine.two_shafts and advance.intake_deg != advance.exhaust_deg:
            raise EngineError("bank_advance", ONE_SHAFT)
    driven = not (cam.intake.suction or cam.exhaust.suction)
    if driven and not engine.two_shafts and cam.intake.advance_deg != cam.exhaust.advance_deg:
        raise EngineError("intake_advance_deg", ONE_SHAFT)
    check_number("compression_ratio", engine.compression.ratio)
    check_number("polytropic_exponent", engine.compression.exponent)
    check_number("start_kpa", engine.compression.start_kpa)
    if engine.train.hydraulic and (cam.intake.lash_mm or cam.exhaust.lash_mm):
        raise EngineError("intake_mm", "and exhaust lash must be 0 with hydraulic tappets")


def check_coils(engine: Engine) -> None:
    """Raise where a coil is to fire two cylinders and one has no companion to share it with."""
    offsets = engine.firing_offsets_deg
    if not engine.spark.beyond.waste_spark or len(offsets) == 1:
        return
    for cylinder, offset in zip(engine.cylinders, offsets, strict=True):
        apart = np.abs((offsets - offset) % CYCLE_DEG - TURN_DEG)
        if apart.min() > SAME_DEG:
            raise EngineError(
                "waste_spark",
                f"needs companions, and cylinder {cylinder} has none: on an engine that fires so, "
                "each plug has a coil of its own",
            )


def check_timing_sets(engine: Engine) -> None:
    """Raise unless each timing set can be, and names a bank and a camshaft that there are."""
    banks = {bank.name for bank in engine.layout.banks}
    told = set()
    for drive in engine.timing_sets:
        check_timing_set(drive)
        if drive.teeth and engine.cam_gear_teeth not in (0, drive.teeth):
            raise EngineError(
                "drive.teeth",
                f"is {drive.teeth}, but cam.gear_teeth is {engine.cam_gear_teeth}: "
                "correct one of them",
            )
        odd = drive.idlers % 2 == 1
        if drive.idlers and odd != (engine.cam_drive is CamDrive.WITH):
            raise EngineError(
                "drive.idlers",
                f"of {drive.idlers} turn the camshaft the other way than cam.drive says: "
                "each gear reverses the direction",
            )
        if drive.bank and drive.bank not in banks:
            raise EngineError("drive.bank", f"names {drive.bank!r}, which is no bank")
        if drive.shaft and not engine.two_shafts:
            raise EngineError("drive.shaft", "is for two camshafts to a bank: leave it out")
        if (drive.bank, drive.shaft) in told:
            raise EngineError("drive", "names one camshaft twice: give each its own once")
        told.add((drive.bank, drive.shaft))


def check_mark(engine: Engine, mark: Mark) -> None:
    """Raise unless a mark's angle lies in one turn of its shaft and its cylinder is one."""
    if not 1 <= mark.cylinder <= engine.cylinder_count:
        raise EngineError("mark.cylinder", f"must be a cylinder, not {mark.cylinder}")
    most = TURN_DEG if mark.shaft is Shaft.CRANK else CYCLE_DEG
    if mark.angle_deg is None:
        if mark.meaning is not Meaning.TDC:
            raise EngineError(
                "mark.angle_deg",
                f"is missing on the {mark.where}: only a TDC mark can do without an angle",
            )
    elif not 0 <= mark.angle_deg < most:
        raise EngineError(
            "mark.angle_deg",
            f"of a {mark.shaft.value} mark must be from 0 to less than {most:g}°, "
            f"not {mark.angle_deg:g}: add or take off whole turns",
        )


def even_layout(firing_order: tuple[int, ...]) -> Layout:
    """An inline layout whose pins make this order fire evenly."""
    count = len(firing_order)
    pins = [0.0] * count
    for step, cylinder in enumerate(firing_order):
        pins[cylinder - 1] = -step * CYCLE_DEG / count % TURN_DEG
    return Layout(
        Form.INLINE,
        (Bank("A"),),
        tuple(Throw(pin) for pin in pins),
        tuple(Seat(0, throw) for throw in range(count)),
    )


def fire_in_order(layout: Layout, groups: Groups) -> tuple[bool, ...]:
    """The most even way to fire in this order on this layout; `Engine.late` of it.

    Raises `EngineError` for an order that the crank forbids.
    """
    ways = second_turns(layout.tdc_deg, groups)
    if ways:
        return ways[0]
    failure = cannot_follow(layout.tdc_deg, groups)
    assert failure is not None
    raise EngineError("firing_order", f"is not possible on this crank: {failure.words}")


def even_inline(firing_order: tuple[int, ...], cam: Cam = DEFAULT_CAM) -> Engine:
    """An even-firing inline engine made on the spot: bore 84, stroke 80, rod 140 mm.

    >>> even_inline((1, 3, 4, 2)).layout_words
    'inline four'
    """
    groups = tuple((cylinder,) for cylinder in firing_order)
    return plain_engine(even_layout(firing_order), groups, cam)


def plain_engine(layout: Layout, groups: Groups, cam: Cam = DEFAULT_CAM) -> Engine:
    """An engine on any crank, fired in an order that it allows: bore 84, stroke 80, rod 140 mm."""
    return Engine(
        name=groups_text(groups),
        layout=layout,
        late=fire_in_order(layout, groups),
        bore_mm=84.0,
        stroke_mm=80.0,
        rod_mm=140.0,
        cam=cam,
    )
