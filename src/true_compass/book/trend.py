"""How gaps changed: found less what was left last, at what rate, and when that reaches the band.

Change = found − last left, never − nominal. A new head or cam begins every trend anew, a new valve
that of its item. Common practice, no source.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Final

from true_compass.book.brackets import Bracket
from true_compass.book.pointing import Hands, Pointing, point
from true_compass.core.items import Item

BandOf = Callable[[Item], tuple[float, float] | None]
RATE_HOURS: Final = 100.0
RATE_KM: Final = 1000.0
ALL_ANEW: Final = ("head", "cam")
ITEM_ANEW: Final = ("valve", "seat", "rod", "lifter", "rocker")


@dataclass(frozen=True, slots=True)
class Seen:
    """One item in one job: as found and as left (mm), None where that was not measured.

    `anew` tells that a part of it was changed in this job: its trend begins with what was left.
    """

    found: Bracket | None = None
    left: Bracket | None = None
    anew: bool = False

    @property
    def stays(self) -> Bracket | None:
        """The gap that it was left with: as left, or as found where nothing was set."""
        return self.left if self.left is not None else self.found


@dataclass(frozen=True, slots=True)
class Entry:
    """One job as a trend needs it. `clock` is hours or km as the engine's own counter stood.

    `anew` tells that a head or a cam was changed: every trend begins with what was left.
    """

    name: str
    day: date
    clock: float | None
    person: str
    items: dict[Item, Seen]
    anew: bool = False


@dataclass(frozen=True, slots=True)
class Point:
    """One item's change in one job: since which job, over how many hours (or km)."""

    item: Item
    seen: Seen
    since: Entry | None
    change: Bracket | None
    clock: float | None

    def rate(self, per: float = RATE_HOURS) -> Bracket | None:
        """Change per 100 h (or per 1,000 km with `RATE_KM`), mm; None where it is not known."""
        if self.change is None or not self.clock:
            return None
        return self.change.times(per / self.clock)

    def due(self, band_mm: tuple[float, float] | None) -> Bracket | None:
        """Hours (or km) until what was left reaches the end of its band at this rate.

        None without a band, or where it does not move. With brackets it is the earliest and the
        latest; where only one end of the rate moves that way, there is no latest, and none is told.

        >>> seen = Seen(Bracket.of(0.34), Bracket.of(0.40))
        >>> p = Point(None, seen, None, Bracket.of(-0.06), 450.0)
        >>> round(p.due((0.30, 0.50)).low)
        750
        """
        rate, left = self.rate(1.0), self.seen.stays
        if rate is None or left is None or band_mm is None:
            return None
        if rate.high < -1e-12:
            ends = sorted(
                max(gap - band_mm[0], 0.0) / -speed
                for gap, speed in ((left.low, rate.low), (left.high, rate.high))
            )
        elif rate.low > 1e-12:
            ends = sorted(
                max(band_mm[1] - gap, 0.0) / speed
                for gap, speed in ((left.high, rate.high), (left.low, rate.low))
            )
        else:
            return None
        return Bracket(ends[0], ends[1])


def changes_in(entries: Sequence[Entry], nth: int) -> dict[Item, Point]:
    """Each item of the nth job (oldest first) against the last job that left it."""
    job = entries[nth]
    return {
        item: _point(job, item, None if job.anew or seen.anew else _last_left(entries, nth, item))
        for item, seen in job.items.items()
    }


def _point(job: Entry, item: Item, since: Entry | None) -> Point:
    """An item's change in one job since another that left it."""
    seen = job.items[item]
    change = clock = None
    if since is not None and seen.found is not None:
        before = since.items[item].stays
        assert before is not None
        change = seen.found - before
        if job.clock is not None and since.clock is not None and job.clock > since.clock:
            clock = job.clock - since.clock
    return Point(item, seen, since, change, clock)


def _last_left(entries: Sequence[Entry], nth: int, item: Item) -> Entry | None:
    """The latest job before the nth that left an item, none before a part was changed."""
    for place in range(nth - 1, -1, -1):
        entry = entries[place]
        seen = entry.items.get(item)
        if seen is not None and seen.stays is not None:
            return entry
        if entry.anew or (seen is not None and seen.anew):
            return None
    return None


def history(entries: Sequence[Entry], item: Item) -> list[Point]:
    """One item through all jobs that have it, oldest first."""
    found: list[Point] = []
    last: Entry | None = None
    for entry in entries:
        seen = entry.items.get(item)
        if entry.anew or (seen is not None and seen.anew):
            last = None
        if seen is None:
            continue
        found.append(_point(entry, item, last))
        if seen.stays is not None:
            last = entry
    return found


Scatters = Callable[[str], float]


def pointed(
    points: dict[Item, Point], job: Entry, scatter_of: Scatters, step_mm: float
) -> dict[Item, Pointing]:
    """What the changes of one job point to; each change by the two hands that made it."""

    def hands(item: Item) -> Hands:
        since = points[item].since
        before = since.person if since is not None else job.person
        return Hands(scatter_of(before), scatter_of(job.person), step_mm)

    changes = {item: p.change for item, p in points.items() if p.change is not None}
    return point(changes, hands)


def a_day(entries: Sequence[Entry]) -> float | None:
    """Hours (or km) a day over all jobs; None where days or counter do not tell."""
    known = [entry for entry in entries if entry.clock is not None]
    if len(known) < 2:
        return None
    first, last = known[0], known[-1]
    days = (last.day - first.day).days
    assert first.clock is not None
    assert last.clock is not None
    run = last.clock - first.clock
    return run / days if days > 0 and run > 0 else None


def day_of(entries: Sequence[Entry], hours_on: float) -> date | None:
    """The day on which so many hours more will have run, at the pace so far."""
    pace = a_day(entries)
    if pace is None or hours_on / pace > 36500:
        return None
    return entries[-1].day + timedelta(days=round(hours_on / pace))
