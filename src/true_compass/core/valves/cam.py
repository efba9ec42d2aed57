"""Valves and when they open: events, cards and tables of lift, lash, ramps.

A wrong value raises `EngineError`, whose message names the field, the value and the way out.
"""

import re
from dataclasses import dataclass, replace
from enum import Enum
from itertools import pairwise
from typing import Final

from true_compass.core.angles import CYCLE_DEG
from true_compass.core.items import ExtraKind, Item, Kind
from true_compass.core.limits import (
    LEAST_DURATION_DEG,
    MOST_LOBE_DEG,
    EngineError,
    check_number,
)
from true_compass.core.units import MM_PER_INCH, parse_thread_mm

DEFAULT_RAMP_DEG: Final = 20.0


@dataclass(frozen=True, slots=True)
class Valve:
    """The valves of one kind in one cylinder (counted from 1), which move together.

    `count` is how many they are.
    """

    kind: Kind
    cylinder: int
    count: int = 1

    @property
    def name(self) -> str:
        """Short name such as `I1`."""
        return self.item.name

    @property
    def item(self) -> Item:
        """What a person sets at it."""
        return Item(self.kind, self.cylinder)

    @property
    def full_name(self) -> str:
        """Name in words, such as `intake valve of cylinder 1`."""
        valves = "valve" if self.count == 1 else "valves"
        return f"{self.kind.value} {valves} of cylinder {self.cylinder}"


class Place(Enum):
    """Where a checking lift is read."""

    SEAT = "seat"
    VALVE = "valve"
    TAPPET = "tappet"


@dataclass(frozen=True, slots=True)
class CheckLift:
    """The lift at which events are stated, in mm, and where it is read."""

    lift_mm: float = 0.0
    place: Place = Place.SEAT
    in_inches: bool = False

    @property
    def text(self) -> str:
        """As files and the command line write it: `seat`, `1mm@valve`, `0.050in@tappet`."""
        if self.place is Place.SEAT:
            return "seat"
        return f"{self._number}@{self.place.value}"

    @property
    def words(self) -> str:
        """As people say it: `the seat`, `1 mm at the valve`."""
        if self.place is Place.SEAT:
            return "the seat"
        number = self._number.replace("mm", " mm").replace("in", " in")
        return f"{number} at the {self.place.value}"

    @property
    def _number(self) -> str:
        if self.in_inches:
            return f"{self.lift_mm / MM_PER_INCH:.3f}in"
        return f"{self.lift_mm:g}mm"


SEAT: Final = CheckLift()
_CHECK: Final = re.compile(r"\s*(\d*\.?\d+)\s*(mm|in)\s*(?:@\s*(valve|tappet))?\s*")


def parse_check_lift(field: str, text: str) -> CheckLift:
    """Read `seat`, `1mm` (at the valve), `1mm@valve` or `0.050in@tappet`.

    >>> parse_check_lift("at", "0.050in@tappet").lift_mm
    1.27
    """
    if text.strip() == "seat":
        return SEAT
    match = _CHECK.fullmatch(text)
    if match is None:
        raise EngineError(
            field, f"must be seat, or a lift such as 1mm@valve or 0.050in@tappet, not {text[:30]!r}"
        )
    in_inches = match[2] == "in"
    lift_mm = round(float(match[1]) * (MM_PER_INCH if in_inches else 1.0), 9)
    check_number(field, lift_mm, "check_lift_mm")
    return CheckLift(lift_mm, Place(match[3] or "valve"), in_inches)


@dataclass(frozen=True, slots=True)
class LiftTable:
    """Lift read off a lobe, degree by degree.

    `angles_deg` are crank degrees and rise; `lifts_mm` begin and end at zero. `of_lobe` tells that
    they are the lobe's own lift, before rocker and lash. `resolution_mm` is the step of the gauge
    that read them. The centreline of the timing says where the nose goes; without one the angles
    are cycle angles.
    """

    angles_deg: tuple[float, ...]
    lifts_mm: tuple[float, ...]
    of_lobe: bool = True
    resolution_mm: float = 0.01


@dataclass(frozen=True, slots=True)
class Bump:
    """A small second lobe on the exhaust lobe: a compression release. Crank degrees, mm.

    `opens_deg` and `closes_deg` are cycle angles between which it holds the valve off its seat.
    """

    opens_deg: float
    closes_deg: float
    lift_mm: float
    ramp_deg: float = DEFAULT_RAMP_DEG


@dataclass(frozen=True, slots=True)
class ValveTiming:
    """Opening and closing of one kind of valve, with the lash at `ramp_mm`.

    Both angles are crank degrees **outside** the stroke that the valve serves: an intake valve
    opens before TDC and closes after BDC, an exhaust valve opens before BDC and closes after TDC.
    Either may be negative. They hold at the checking lift `check`. `peak_lift_mm` is the valve's.

    `ramp_mm` is how high the ramp lifts at the valve; None is the lash as set. `centreline_deg` is
    where the nose stands (intake after TDC, exhaust before TDC); None is half way. `durations_deg`
    are more durations of the same lobe at other checking lifts. `suction` marks an atmospheric
    valve, which has no lobe.
    """

    opens_before_deg: float
    closes_after_deg: float
    peak_lift_mm: float
    lash_mm: float
    ramp_deg: float = DEFAULT_RAMP_DEG
    ramp_mm: float | None = None
    check: CheckLift = SEAT
    centreline_deg: float | None = None
    durations_deg: tuple[tuple[CheckLift, float], ...] = ()
    advance_deg: float = 0.0
    suction: bool = False
    table: LiftTable | None = None

    @property
    def duration_deg(self) -> float:
        """Crank degrees from opening to closing, at the checking lift."""
        return self.opens_before_deg + 180.0 + self.closes_after_deg

    def event_cycle_deg(self, kind: Kind) -> tuple[float, float]:
        """Cycle angles of opening and closing (0 = compression TDC), before any advance."""
        opens = kind.stroke_starts_deg - self.opens_before_deg
        return opens, opens + self.duration_deg

    def nose_cycle_deg(self, kind: Kind) -> float:
        """Cycle angle of full lift, before any advance."""
        if self.centreline_deg is None:
            return sum(self.event_cycle_deg(kind)) / 2
        return 360.0 + (self.centreline_deg if kind is Kind.INTAKE else -self.centreline_deg)


class Method(Enum):
    """How an injector or a brake gap is set."""

    BLADE = "blade"
    HEIGHT = "height"
    CONTACT = "contact"


@dataclass(frozen=True, slots=True)
class ExtraLobe:
    """A unit injector or an engine brake, the same for every cylinder, and how it is set.

    `bump` has cycle angles, mm at the item; `ratio` is the rocker's. A brake without a `bump` rides
    on the exhaust rocker and follows it. `turns` are those past contact (`Method.CONTACT`),
    `height_mm` what the tool measures (`Method.HEIGHT`); 0, an empty text or None is not known.
    """

    kind: ExtraKind
    bump: Bump | None = None
    ratio: float = 1.0
    lash_mm: float = 0.0
    method: Method | None = None
    accepted_mm: tuple[float, float] | None = None
    turns: float = 0.0
    height_mm: float = 0.0
    place: str = ""
    tool: str = ""
    thread: str = ""
    spanner: str = ""
    key: str = ""
    torque_nm: float = 0.0

    @property
    def how(self) -> Method:
        """The method, or the usual one: a blade where there is a gap, else the maker's tool."""
        if self.method is not None:
            return self.method
        gap = self.lash_mm > 0 or self.kind is ExtraKind.BRAKE
        return Method.BLADE if gap else Method.HEIGHT


@dataclass(frozen=True, slots=True)
class ExtraItem:
    """One injector or brake of one cylinder."""

    lobe: ExtraLobe
    cylinder: int

    @property
    def name(self) -> str:
        """Short name such as `U1`."""
        return self.item.name

    @property
    def item(self) -> Item:
        """What a person sets at it."""
        return Item(self.lobe.kind, self.cylinder)

    @property
    def full_name(self) -> str:
        """Name in words."""
        thing = "unit injector" if self.lobe.kind is ExtraKind.INJECTOR else "engine brake"
        return f"{thing} of cylinder {self.cylinder}"


@dataclass(frozen=True, slots=True)
class Cam:
    """The timing of both kinds of valve; the same for every cylinder."""

    intake: ValveTiming
    exhaust: ValveTiming
    release: Bump | None = None
    extras: tuple[ExtraLobe, ...] = ()

    def timing(self, kind: Kind) -> ValveTiming:
        """The timing of one kind of valve."""
        return self.intake if kind is Kind.INTAKE else self.exhaust

    def with_timing(self, kind: Kind, timing: ValveTiming) -> "Cam":
        """The same cam with another timing of one kind of valve."""
        if kind is Kind.INTAKE:
            return replace(self, intake=timing)
        return replace(self, exhaust=timing)

    @property
    def overlap_deg(self) -> float:
        """Crank degrees around exhaust TDC with both valves off their seats, as the events say.

        Negative when the exhaust valve is shut before the intake valve opens.
        """
        return self.intake.opens_before_deg + self.exhaust.closes_after_deg


def check_duration(field: str, timing: ValveTiming) -> None:
    """Raise when a valve would be open too briefly for its two events."""
    if timing.duration_deg < LEAST_DURATION_DEG:
        raise EngineError(
            field,
            f"leaves the valve open for only {timing.duration_deg:g}°: "
            f"opening and closing must be at least {LEAST_DURATION_DEG:g}° apart",
        )


def check_base_circle(field: str, timing: ValveTiming) -> None:
    """Raise when the lobe and its ramps would leave hardly any base circle."""
    if timing.duration_deg + 2 * timing.ramp_deg > MOST_LOBE_DEG:
        raise EngineError(
            field,
            f"leaves no base circle: a valve is open for {timing.duration_deg:g}° and has two "
            f"ramps of {timing.ramp_deg:g}°, together at most {MOST_LOBE_DEG:g}°",
        )


EVENT_FIELDS: Final = {
    Kind.INTAKE: ("intake_opens_btdc_deg", "intake_closes_abdc_deg"),
    Kind.EXHAUST: ("exhaust_opens_bbdc_deg", "exhaust_closes_atdc_deg"),
}


def check_cam(cam: Cam) -> None:
    """Raise `EngineError` for the first field of the cam that is out of its limits."""
    for kind, (opens, closes) in EVENT_FIELDS.items():
        timing = cam.timing(kind)
        if timing.table is None:
            check_number(opens, timing.opens_before_deg)
            check_number(closes, timing.closes_after_deg)
            check_duration(closes, timing)
            check_base_circle(f"{kind.value}_ramp_deg", timing)
        else:
            check_table(f"{kind.value}_table", timing.table)
        for part in ("peak_lift_mm", "lash_mm", "ramp_deg", "ramp_mm", "advance_deg"):
            if getattr(timing, part) is not None:
                check_number(f"{kind.value}_{part}", getattr(timing, part), limits_of=part)
        if timing.centreline_deg is not None:
            check_number(f"{kind.value}_centreline_deg", timing.centreline_deg, "centreline_deg")
        for _, duration_deg in timing.durations_deg:
            check_number(f"{kind.value}_durations", duration_deg, "duration_deg")
        if timing.suction and (timing.lash_mm or kind is Kind.EXHAUST):
            raise EngineError(
                f"{kind.value}_lobe", "may be suction for the intake only, with a lash of 0"
            )
    for bump in (cam.release, *(extra.bump for extra in cam.extras)):
        if bump is not None:
            check_bump(bump)
    for extra in cam.extras:
        check_extra(extra)
    if len({extra.kind for extra in cam.extras}) < len(cam.extras):
        raise EngineError("extra", "has one kind twice: give each kind of lobe once")


def check_extra(extra: ExtraLobe) -> None:
    """Raise `EngineError` for the first field of an injector or a brake that is out of limits."""
    if extra.bump is None and extra.kind is not ExtraKind.BRAKE:
        raise EngineError("opens_deg", "is missing: only a brake can ride on the exhaust rocker")
    for field in ("ratio", "lash_mm", "torque_nm", "turns", "height_mm"):
        check_number(field, getattr(extra, field))
    check_band("accepted_mm", extra.accepted_mm)
    if extra.thread:
        parse_thread_mm(extra.thread)


def check_band(field: str, band: tuple[float, float] | None) -> None:
    """Raise unless a band has its lower end first and both within the limits of a gap."""
    if band is None:
        return
    for end in band:
        check_number(field, end, "lash_mm")
    if band[0] > band[1]:
        raise EngineError(field, f"must have its lower end first, not {band[0]:g} to {band[1]:g}")


def check_bump(bump: Bump) -> None:
    """Raise unless a bump opens before it closes and leaves some base circle."""
    check_number("opens_deg", bump.opens_deg, "cycle_deg")
    check_number("closes_deg", bump.closes_deg, "cycle_deg")
    check_number("peak_lift_mm", bump.lift_mm)
    check_number("ramp_deg", bump.ramp_deg)
    length = bump.closes_deg - bump.opens_deg
    if not 20.0 <= length <= MOST_LOBE_DEG - 2 * bump.ramp_deg:
        raise EngineError(
            "closes_deg",
            f"must be 20° or more after opens_deg and leave base circle, not {length:g}° after",
        )


MOST_TABLE_ROWS: Final = 5000


def check_table(field: str, table: LiftTable) -> None:
    """Raise unless a table rises and falls between two zeros within a cycle."""
    angles, lifts = table.angles_deg, table.lifts_mm
    if not 7 <= len(angles) <= MOST_TABLE_ROWS:
        raise EngineError(
            field,
            f"must have 7 to {MOST_TABLE_ROWS} rows, not {len(angles)}: between fewer the curve "
            "would be a guess, and more are more than one lobe",
        )
    for before, after in pairwise(angles):
        if after == before:
            raise EngineError(field, f"has {after:g}° twice: keep one row for each angle")
        if after < before:
            raise EngineError(field, f"goes back from {before:g}° to {after:g}°: sort the rows")
    if angles[-1] - angles[0] >= CYCLE_DEG:
        raise EngineError(
            field, "is longer than one cycle: 720 crank degrees, which are 360 cam degrees"
        )
    if lifts[0] or lifts[-1]:
        raise EngineError(
            field,
            f"must begin and end at zero lift, not {lifts[0]:g} and {lifts[-1]:g} mm: "
            "measure on to the base circle",
        )
    if min(lifts) < 0:
        raise EngineError(field, f"has a negative lift, {min(lifts):g} mm: set the gauge to zero")
    check_number(f"{field}_lift", max(lifts), "peak_lift_mm")
    gaps = zip(pairwise(angles), pairwise(lifts), strict=True)
    if max((b - a for (a, b), lifted in gaps if any(lifted)), default=0.0) > 60:
        raise EngineError(field, "has rows more than 60° apart where the valve lifts: read more")
    check_number("resolution_mm", table.resolution_mm)


DEFAULT_CAM: Final = Cam(
    intake=ValveTiming(15.0, 50.0, peak_lift_mm=9.0, lash_mm=0.25),
    exhaust=ValveTiming(50.0, 15.0, peak_lift_mm=9.0, lash_mm=0.30),
)
"""A mild cam for engines that are made on the spot: seat events 15/50/50/15, 20° ramps."""
