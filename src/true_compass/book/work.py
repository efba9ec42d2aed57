"""The order people work in: all as found, then the verdict, tight ones first, a second look."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.book.brackets import Bracket
from true_compass.book.hand import nut_words
from true_compass.book.job import ItemRecord, Job, Measure, Target
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.core.items import Item
from true_compass.core.units import GapUnit, band_words, gap_in, gap_words
from true_compass.core.valves.train import Adjuster

FOUND, LEFT, AFTER_NUT = "found", "left", "after_nut"


class Verdict(Enum):
    """How a reading lies to the band."""

    UNKNOWN = "not measured"
    IN_BAND = "in band"
    TIGHT = "tight"
    WIDE = "wide"
    OPEN = "between two blades"
    """The band's end lies between the blade that goes and the one that does not."""


@dataclass(frozen=True, slots=True)
class Asked:
    """What is to be read next: which of an item's readings."""

    item: Item
    which: str


def verdict(target: Target | None, measure: Measure | None) -> Verdict:
    """How a reading lies to the band of its target, both ends in."""
    value = target.value(measure) if target is not None else None
    if value is None or target is None or target.band_mm is None:
        return Verdict.UNKNOWN
    inside = value.within(target.band_mm)
    if inside is None:
        return Verdict.OPEN
    if inside:
        return Verdict.IN_BAND
    less = value.high < target.band_mm[0]
    # A plunger pushed in too little has play left.
    return Verdict.TIGHT if less != bool(target.per_turn_mm) else Verdict.WIDE


def found_verdict(job: Job, item: Item) -> Verdict:
    """How an item was found."""
    return verdict(job.target(item), job.record(item).found)


def final_verdict(job: Job, item: Item) -> Verdict:
    """How an item was left."""
    return verdict(job.target(item), job.record(item).final)


def off_mm(job: Job, item: Item, measure: Measure | None) -> float | None:
    """How far a reading lies from its target, mm, + is wide (a plunger too far out); None where
    that is not known.
    """
    target = job.target(item)
    value = target.value(measure) if target is not None else None
    return None if value is None or target is None else wide_mm(target, value.middle)


def wide_mm(target: Target, value_mm: float) -> float:
    """How far a value lies from its target, + is wide: so is a plunger that is less pushed in."""
    off = value_mm - target.target_mm
    return -off if target.per_turn_mm else off


def to_set(job: Job, items: Sequence[Item]) -> list[Item]:
    """Items found outside their band, the tightest first, then the widest."""
    out = [item for item in items if found_verdict(job, item) in (Verdict.TIGHT, Verdict.WIDE)]
    tight = [item for item in out if found_verdict(job, item) is Verdict.TIGHT]
    wide = [item for item in out if item not in tight]
    return [
        *sorted(tight, key=lambda item: off_mm(job, item, job.record(item).found) or 0.0),
        *sorted(wide, key=lambda item: -(off_mm(job, item, job.record(item).found) or 0.0)),
    ]


def is_found(job: Job, item: Item) -> bool:
    """Whether an item was measured as found."""
    return job.record(item).found is not None


def next_asked(job: Job, items: Sequence[Item]) -> Asked | None:
    """What is to be read next: all as found, then what was set, tight first; None when done."""
    for item in items:
        if not is_found(job, item):
            return Asked(item, FOUND)
    for item in to_set(job, items):
        record = job.record(item)
        if record.after_nut is not None:
            continue  # what it was left with is known, with the nut loose or not
        return Asked(item, LEFT if record.left is None else AFTER_NUT)
    return None


@dataclass(frozen=True, slots=True)
class Totals:
    """All items of a job together; gaps in mm as they were left, offsets from their targets."""

    measured: int
    of: int
    in_band: int
    set_count: int
    tightest: tuple[Item, float] | None
    widest: tuple[Item, float] | None
    spread_mm: float | None


def totals(job: Job, items: Sequence[Item]) -> Totals:
    """In band, tightest and widest against their targets, and the spread between these two."""
    offs = []
    for item in items:
        off = off_mm(job, item, job.record(item).final)
        if off is not None:
            offs.append((item, off))
    offs.sort(key=lambda one: one[1])
    return Totals(
        sum(is_found(job, item) for item in items),
        len(items),
        sum(final_verdict(job, item) is Verdict.IN_BAND for item in items),
        sum(job.record(item).was_set for item in items),
        offs[0] if offs else None,
        offs[-1] if offs else None,
        offs[-1][1] - offs[0][1] if offs else None,
    )


def what_to_do(setting: Setting, job: Job, shift_mm: float | None = None) -> list[str]:
    """What to do at an item that was found so, in short sentences: screw, shim or preload."""
    found = job.record(setting.item).found
    if found is None:
        return ["Measure it as found, before any nut is slackened."]
    return asks(setting, job.target(setting.item), found, job.unit, shift_mm)


_TURNED: Final = {
    Adjuster.PIVOT_NUT: "nut",
    Adjuster.STUD_NUT: "nut",
    Adjuster.PEDESTAL: "bolt",
}
"""What is turned, where that is not a screw."""


def asks(
    setting: Setting,
    target: Target | None,
    measure: Measure,
    unit: GapUnit,
    shift_mm: float | None = None,
) -> list[str]:
    """What a reading on the base circle asks for, in short sentences: screw, shim or preload.

    The one judge of it: Book, Do it and card ask here. `shift_mm` is what the person's nut adds to
    a gap (mm), None where that is not learnt.
    """
    if setting.way is Way.PLUNGER:
        return _plunger(setting, target)
    if measure.gap is None or target is None:
        return ["Write down what was found; set it as the maker says."]
    told = verdict(target, measure)
    if told is Verdict.IN_BAND:
        return [f"In the accepted band{_band(target, unit)}: leave it."]
    if told is Verdict.OPEN:
        return ["The end of the band lies between these two blades: try the blade between them."]
    off = measure.gap.middle - target.target_mm
    words = gap_words(abs(off), unit)
    first = f"{words} too wide." if off > 0 else f"{words} too tight."
    if told is Verdict.UNKNOWN:
        return [first, "No band is known: the maker's manual decides."]
    return [first, *_changes(setting, target, off, unit, shift_mm)]


def _band(target: Target, unit: GapUnit) -> str:
    return f", {band_words(target.band_mm, unit)}" if target.band_mm is not None else ""


def _changes(
    setting: Setting, target: Target, off: float, unit: GapUnit, shift_mm: float | None
) -> list[str]:
    """How a gap that is `off` mm too wide is brought to its target."""
    if setting.adjuster is Adjuster.SHIM:
        way = "thicker" if off > 0 else "thinner"
        change = abs(off) * setting.shim_per_gap
        return [f"A shim {gap_in(change, unit)} {way}: plan all of them on Shims."]
    if not setting.can_be_set:
        return ["There is nothing to turn: the maker's manual decides."]
    way = "tighter" if off > 0 else "looser"
    what = _TURNED.get(setting.adjuster, "screw")
    if setting.turn_assumed:
        return [f"Turn the {what} {way}, a little at a time, and measure again."]
    turn = abs(off) / setting.per_turn_mm * 360.0
    nut = nut_words(shift_mm, target.target_mm, unit) if setting.has_locknut else ""
    turned = f"Turn the {what} {turn:.0f}° {way}, then measure again."
    return [line for line in (turned, nut) if line]


def _plunger(setting: Setting, target: Target | None) -> list[str]:
    if target is None or not setting.per_turn_mm or setting.turn_assumed:
        return ["Zero lash, then the preload as the maker says."]
    low, high = target.band_mm or (target.target_mm, target.target_mm)
    turns = " to ".join(f"{end / setting.per_turn_mm:.2f}" for end in (low, high))
    return [f"From zero lash {turns} turns: {low:.2f} to {high:.2f} mm of plunger."]


def headline(job: Job, items: Sequence[Item]) -> str:
    """The result of a job in one sentence; while it grows, how far it has come."""
    told = totals(job, items)
    if not told.measured:
        return "Nothing measured yet"
    if told.measured < told.of:
        return f"{told.measured} of {told.of} measured as found"
    out = to_set(job, items)
    unknown = [item for item in items if found_verdict(job, item) is Verdict.UNKNOWN]
    if unknown:
        return f"All {told.of} measured; no band is known for {_named([i.name for i in unknown])}"
    between = [item.name for item in items if found_verdict(job, item) is Verdict.OPEN]
    if between:
        return f"Try the blade between: {_named(between)}"
    if not out:
        return f"All {told.of} in band, left alone"
    tight = [item.name for item in out if found_verdict(job, item) is Verdict.TIGHT]
    wide = [item.name for item in out if item.name not in tight]
    parts = [
        f"{_named(names)} {word}" for names, word in ((tight, "tight"), (wide, "wide")) if names
    ]
    good = told.of - len(out)
    return f"{good} of {told.of} in band, left alone. {'; '.join(parts)}."


def _named(names: list[str]) -> str:
    if len(names) > 4:
        return f"{', '.join(names[:3])} and {len(names) - 3} more"
    return f"{', '.join(names[:-1])} and {names[-1]}" if len(names) > 1 else names[0]


def second_line(job: Job, items: Sequence[Item]) -> str:
    """The figure that proves the headline: how wide all were found, and how they were left."""
    # Heights of injectors and bridges are no gaps of valves.
    valves = [item for item in items if item.is_valve] or list(items)
    found = [r.found.gap for item in valves if (r := job.record(item)).found and r.found.gap]
    left = [r.final.gap for item in valves if (r := job.record(item)).final and r.final.gap]
    if not any(is_found(job, item) for item in items):
        return "Measure every item as found before a nut is slackened."
    if not found:
        counts = [r.found.turns for item in items if (r := job.record(item)).found]
        turns = [count for count in counts if count is not None]
        return f"Found {min(turns):g} to {max(turns):g} turns to the seat." if turns else ""
    words = f"Found {_span_words(found, job.unit)}."
    if left and any(job.record(item).was_set for item in items):
        words += f" Left {_span_words(left, job.unit)}."
    unread = [item.name for item in items if is_set_unread(job.record(item))]
    return f"{words} Set, not measured again: {_named(unread)}." if unread else words


def is_set_unread(record: ItemRecord) -> bool:
    """Whether an item was set and nobody measured it afterwards."""
    return record.was_set and record.final is None


def _span_words(gaps: Sequence[Bracket], unit: GapUnit) -> str:
    return band_words((min(gap.low for gap in gaps), max(gap.high for gap in gaps)), unit)
