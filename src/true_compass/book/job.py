"""One job on one engine: what was found, what was left, by whom, with what, and what is still open.

Everything here is a value. A job that is written down is never changed in place: the next version
takes its place in the book.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from enum import Enum
from types import MappingProxyType
from typing import Any, Final, Protocol
from uuid import uuid4

from true_compass.book.brackets import Bracket, checked_gap, most_mm
from true_compass.book.trend import ALL_ANEW, ITEM_ANEW, Entry, Seen
from true_compass.core.items import Item
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit, gap_words

MOST_TURNS: Final = 20.0
SHIM_MM: Final = (0.1, 20.0)
MOST_HOURS: Final = 1_000_000.0
MOST_KM: Final = 10_000_000.0
MOST_TEXT: Final = 500


@dataclass(frozen=True, slots=True)
class Measure:
    """What was measured at an item: a gap in mm, or turns to the seat; beside it what was typed."""

    gap: Bracket | None = None
    turns: float | None = None
    text: str = ""
    unit: GapUnit = GapUnit.MM

    @staticmethod
    def mm(value: float) -> "Measure":
        """A gap as a number."""
        return Measure(Bracket.of(value), text=f"{value:g}")

    @property
    def words(self) -> str:
        """In both units, that of the blades first: `0.20 goes, 0.25 does not (7.9, 9.8 thou)`."""
        if self.gap is None:
            return f"{self.turns:g} turns to the seat" if self.turns is not None else ""
        if self.gap.is_number:
            return gap_words(self.gap.low, self.unit)
        goes, does_not = (gap_words(end, self.unit) for end in (self.gap.low, self.gap.high))
        return f"{goes} goes, {does_not} does not"

    @property
    def short(self) -> str:
        """The gap in mm, as a cell has it: `0.25`, `0.20..0.25`, `1.5 turns`."""
        if self.gap is None:
            return f"{self.turns:g} turns" if self.turns is not None else ""
        ends = [f"{end:.2f}" for end in (self.gap.low, self.gap.high)]
        return ends[0] if self.gap.is_number else "..".join(ends)


class SeenTo(Enum):
    """How a hand saw to an item, whether or not anything was measured; the value is in files."""

    NOT_SAID = ""
    SET = "set"
    GOOD = "left"
    OUT = "out"
    """Found out of its band on a round that only checked."""


@dataclass(frozen=True, slots=True)
class ItemRecord:
    """One item of a job. `left` is read with the nut loose or as the job left it; `after_nut` is
    read again when the nut is tight, and then it is what the item was left with. Neither is ever
    filled in without a reading: what was set and not measured says so in `seen_to`.
    """

    found: Measure | None = None
    left: Measure | None = None
    after_nut: Measure | None = None
    torque_nm: float = 0.0
    stripe: bool = False
    note: str = ""
    anew: str = ""
    """What part of it was changed in this job: `valve`, `seat`, `rod`, `lifter`, `rocker`."""
    shim_mm: float | None = None
    """The shim that was in, as measured: shims wear."""
    shim_left_mm: float | None = None
    seen_to: SeenTo = SeenTo.NOT_SAID
    off_heel: bool = False
    """Whether it was seen to while its tappet stood off the base circle: it tells nothing."""
    torqued: bool = False
    """Whether the torque wrench was on it; `torque_nm` is 0 where nobody knows how much."""

    def reading(self, which: str) -> Measure | None:
        """One of its readings: `found`, `left` or `after_nut`."""
        told: Measure | None = getattr(self, which)
        return told

    def with_reading(self, which: str, measure: Measure | None) -> "ItemRecord":
        """The record with another reading: `found`, `left` or `after_nut`."""
        changed: dict[str, Any] = {which: measure}
        return replace(self, **changed)

    @property
    def again(self) -> Measure | None:
        """The reading after it was set: after the nut, else as left."""
        return self.after_nut or self.left

    @property
    def newest(self) -> Measure | None:
        """The last reading that there is."""
        return self.again or self.found

    @property
    def final(self) -> Measure | None:
        """What it was left with: as read again, or as found where nothing was set; None where it
        was set and not measured again.
        """
        return self.again or (None if self.was_set else self.found)

    @property
    def was_set(self) -> bool:
        """Whether anything was changed at it."""
        return self.again is not None or self.seen_to is SeenTo.SET

    @property
    def is_empty(self) -> bool:
        """Whether it says nothing."""
        return self == ItemRecord()


@dataclass(frozen=True, slots=True)
class BookSource:
    """Where a figure stands: book, edition, page, and which variant of the engine it is for."""

    book: str = ""
    edition: str = ""
    page: str = ""
    variant: str = ""

    @property
    def words(self) -> str:
        """In one line; `no source` where nothing is known."""
        page = f"page {self.page}" if self.page else ""
        told = ", ".join(filter(None, (self.book, self.edition, page, self.variant)))
        return told or "no source"


@dataclass(frozen=True, slots=True)
class Target:
    """What one kind of item is set to, hot or cold: both ends of the band, mm, and the source.

    `of` is the name of its items without the number: `I`, `E`, `U`, `B`, `I bridge`, `I variable`.
    """

    of: str
    hot: bool
    target_mm: float
    band_mm: tuple[float, float] | None
    source: BookSource = BookSource()
    assumed: bool = False
    """Whether the band is only assumed, because the engine's file has none."""
    per_turn_mm: float = 0.0
    """Of a hydraulic tappet: how far one turn of its adjuster moves the plunger; else 0."""

    def value(self, measure: "Measure | None") -> Bracket | None:
        """What was measured, in the mm of this target: a gap, or turns as travel of a plunger."""
        if measure is None:
            return None
        if self.per_turn_mm > 0:
            return None if measure.turns is None else Bracket.of(measure.turns * self.per_turn_mm)
        return measure.gap


def target_key(item: Item) -> str:
    """Which target an item goes by.

    >>> from true_compass.core.items import item_named
    >>> target_key(item_named("I3 bridge")), target_key(item_named("E2a"))
    ('I bridge', 'E')
    """
    part = f" {item.part.value}" if item.part.value else ""
    return f"{item.kind.letter}{part}"


@dataclass(frozen=True, slots=True)
class Part:
    """A part that was changed, and why. `item` is where, or nothing for the engine."""

    what: str
    reason: str = ""
    item: str = ""

    @property
    def words(self) -> str:
        """`E5 valve: burnt`."""
        told = f"{self.item} {self.what}".strip()
        return f"{told}: {self.reason}" if self.reason else told

    @property
    def all_anew(self) -> bool:
        """Whether every trend begins anew with it."""
        return not self.item and any(word in ALL_ANEW for word in self._words)

    @property
    def item_anew(self) -> str:
        """The part of its item that is new with it, so that the item's trend begins anew."""
        return next((word for word in self._words if word in ITEM_ANEW), "") if self.item else ""

    @property
    def _words(self) -> list[str]:
        return self.what.casefold().replace(",", " ").split()


@dataclass(frozen=True, slots=True)
class ToDo:
    """What is still to do, and when: at so many hours or km, on a day, or both."""

    what: str
    at_clock: float | None = None
    day: date | None = None

    @property
    def words(self) -> str:
        """`E5 again at 2,140 on 2027-03-07`."""
        at = f"at {self.at_clock:,.10g}" if self.at_clock is not None else ""
        on = f"on {self.day.isoformat()}" if self.day is not None else ""
        return " ".join(filter(None, (self.what, at, on)))


@dataclass(frozen=True, slots=True)
class General:
    """A reading that is no gap: centreline, lift at overlap, spark; found and left, with a unit."""

    what: str
    unit: str
    found: float | None = None
    left: float | None = None
    text: str = ""


@dataclass(frozen=True, slots=True)
class Witness:
    """The mark that a rocker left across a valve tip: its centre from one edge of the tip, and its
    width, mm, with the tip's own width and the length of the push rod it was made with.
    """

    item: str
    centre_mm: float
    width_mm: float
    tip_mm: float
    rod_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Person:
    """Somebody who works. Two people of one name are two, because ids differ."""

    id: str
    name: str


NOBODY: Final = Person("", "")


@dataclass(frozen=True, slots=True)
class BookEngine:
    """An engine of the book. Name, number, file and mark are attributes; the id is what it is."""

    id: str
    name: str
    serial: str = ""
    source: str = ""
    digest: str = ""

    @property
    def title(self) -> str:
        """`Rig Birch, number 3`."""
        return f"{self.name}, number {self.serial}" if self.serial else self.name


@dataclass(frozen=True, slots=True)
class Job:
    """One job. `clock` of the engine is hours, or a distance in km where `by_distance`.

    `engine_digest` names the copy of the engine as it was set that day. `day` is the local date,
    `made` UTC to the second. `pumped` and `head_first` are None where nobody said.
    """

    id: str
    engine_id: str
    engine_digest: str
    day: date
    made: str
    person: Person = NOBODY
    seen_by: str = ""
    clock: float | None = None
    by_distance: bool = False
    temperature_c: float | None = None
    rested_h: float | None = None
    blades: str = ""
    blade_step_mm: float = 0.0
    unit: GapUnit = GapUnit.MM
    school: str = ""
    hot: bool = False
    targets: tuple[Target, ...] = ()
    zero_lash: str = ""
    pumped: bool | None = None
    complaint: str = ""
    signs_before: str = ""
    signs_after: str = ""
    head_first: bool | None = None
    parts: tuple[Part, ...] = ()
    to_do: tuple[ToDo, ...] = ()
    put_back: tuple[str, ...] = ()
    rolled_over: bool = False
    signed: str = ""
    note: str = ""
    origin: str = ""
    """Where it grew from: `stops`, `bench`, `paper`, `table`."""
    readings: tuple[General, ...] = ()
    witness: tuple[Witness, ...] = ()
    items: Mapping[Item, ItemRecord] = field(default_factory=lambda: MappingProxyType({}))

    def with_item(self, item: Item, record: ItemRecord) -> "Job":
        """The job with another record of an item; an empty one takes it away."""
        items = {**self.items, item: record}
        kept = {item: one for item, one in items.items() if not one.is_empty}
        return replace(self, items=MappingProxyType(kept))

    def record(self, item: Item) -> ItemRecord:
        """What is written of an item."""
        return self.items.get(item, ItemRecord())

    def target(self, item: Item, hot: bool | None = None) -> Target | None:
        """The target an item goes by in this job, hot or cold as the job is."""
        key, hot = target_key(item), self.hot if hot is None else hot
        return next((t for t in self.targets if t.of == key and t.hot == hot), None)

    def band_mm(self, item: Item) -> tuple[float, float] | None:
        """The band of an item in this job."""
        target = self.target(item)
        return target.band_mm if target is not None else None

    @property
    def is_blank(self) -> bool:
        """Whether nothing was done or told yet: such a job is not written into the book."""
        told = (self.items, self.parts, self.to_do, self.put_back, self.readings, self.witness)
        texts = (self.complaint, self.signs_before, self.signs_after, self.signed, self.note)
        return not any((*told, *texts))

    @property
    def all_anew(self) -> bool:
        """Whether a head or a cam was changed: every trend begins anew."""
        return any(part.all_anew for part in self.parts)

    @property
    def clock_words(self) -> str:
        """`1,840 h` or `52,300 km`; nothing where it was not read."""
        return clock_words(self.clock, self.by_distance)

    def entry(self) -> Entry:
        """The job as a trend needs it."""
        items, anew = {}, {part.item for part in self.parts if part.item_anew}
        for item, record in self.items.items():
            found = record.found.gap if record.found else None
            told = (one.gap for one in (record.after_nut, record.left) if one is not None)
            left = next((gap for gap in told if gap is not None), None)
            seen = Seen(found, left, bool(record.anew) or item.name in anew)
            if seen != Seen():
                items[item] = seen
        return Entry(self.id, self.day, self.clock, self.person.name, items, self.all_anew)


def clock_words(clock: float | None, by_distance: bool) -> str:
    """Hours or km with a thin look: `1,840 h`."""
    if clock is None:
        return ""
    return f"{clock:,.10g} km" if by_distance else f"{clock:,.10g} h"


def new_id() -> str:
    """A new id for a job, an engine or a person."""
    return str(uuid4())


def check_item(name: str, record: ItemRecord) -> None:
    """Raise `EngineError` for a record that no item can have."""
    for field_name, measure in (
        ("found", record.found),
        ("left", record.left),
        ("after nut", record.after_nut),
    ):
        if measure is None:
            continue
        told = f"{name} {field_name}"
        if measure.gap is not None:
            checked_gap(told, measure.gap, most_mm(name))
        if measure.turns is not None and not 0 <= measure.turns <= MOST_TURNS:
            raise EngineError(told, f"must be 0 to {MOST_TURNS:g} turns, not {measure.turns:g}")
    if record.again is not None and record.found is None:
        raise EngineError(
            f"{name} left", "was read, but not as found: measure as found before a nut is slackened"
        )
    for shim in (record.shim_mm, record.shim_left_mm):
        if shim is not None and not SHIM_MM[0] <= shim <= SHIM_MM[1]:
            low, high = SHIM_MM
            raise EngineError(f"{name} shim", f"must be {low:g} to {high:g} mm, not {shim:g}")
    if record.anew and record.anew not in ITEM_ANEW:
        raise EngineError(f"{name} part", f"must be one of {', '.join(ITEM_ANEW)}")


class Counted(Protocol):
    """A job as far as its counter goes."""

    @property
    def id(self) -> str:
        """Its id."""

    @property
    def day(self) -> date:
        """Its local day."""

    @property
    def clock(self) -> float | None:
        """Hours or km."""

    @property
    def by_distance(self) -> bool:
        """Whether it counts km."""

    @property
    def clock_words(self) -> str:
        """The counter in words."""


def check_clock(others: Iterable[Counted], job: Job) -> None:
    """Raise `EngineError` where the counter of an engine would run backwards."""
    if job.clock is None:
        return
    most = MOST_KM if job.by_distance else MOST_HOURS
    thing = "distance" if job.by_distance else "hours"
    if not 0 <= job.clock <= most:
        raise EngineError(thing, f"must be 0 to {most:,.0f}, not {job.clock:g}")
    for other in others:
        if other.clock is None or other.id == job.id or other.by_distance != job.by_distance:
            continue
        if any("counter" in part.what.casefold() for part in job.parts):
            continue
        if other.day < job.day and other.clock > job.clock:
            raise EngineError(
                thing,
                f"fall: {other.clock_words} on {other.day.isoformat()}, {job.clock_words} on "
                f"{job.day.isoformat()}. Correct one, or note a new counter among the parts",
            )
        if other.day > job.day and other.clock < job.clock:
            raise EngineError(
                thing,
                f"would be over the {other.clock_words} of {other.day.isoformat()}: correct one",
            )


def check_day(day: date, today: date) -> None:
    """Raise `EngineError` for a day that has not come."""
    if day > today:
        raise EngineError("date", f"is ahead of today ({today.isoformat()}): write the day it was")
    if day.year < 1900:
        raise EngineError("date", f"must be 1900 or later, not {day.year}")
