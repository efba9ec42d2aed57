"""What the Stops workspace shows: the chosen school's plan, and how far the work has come.

The work itself is a slice of the session; here it is held against the plan of the engine as set.
"""

from collections.abc import Callable, Mapping

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.book.job import Job, Measure
from true_compass.core.adjusting.comparison import Row, compare
from true_compass.core.adjusting.schools import (
    BY_WORD,
    QUARTER_DEG,
    SCHOOLS,
    Choice,
    NotApplicableError,
    School,
)
from true_compass.core.adjusting.stops import Plan, Stop, StopItem
from true_compass.core.angles import degrees_on
from true_compass.core.items import Item
from true_compass.core.state import Rig
from true_compass.session.session import Session, SessionState
from true_compass.session.work import OFF, SET, SKIPPED, Deed, Work, deed_name

Land = Callable[[Item, str, Measure | None, str], Job | None]
"""What the job in the book becomes when an item is seen to so, with a reading, by a school."""


def _nowhere(_item: Item, _how: str, _measured: Measure | None, _school: str) -> None:
    return None


class StopsModel(QObject):
    """One plan and its ticks."""

    changed = pyqtSignal()
    """Another plan, or another tick."""

    doubted = pyqtSignal(str)
    """What was to be ticked is not free where the crank stands: asked again, it is done."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.choice = Choice()
        self._rig: Rig | None = None
        self._rows: list[Row] = []
        self._doubted: tuple[Item, float] | None = None
        self.measured: Measure | None = None
        """The gap that was typed for the item that is due."""
        self.land: Land = _nowhere
        self._leave = session.subscribe(self._on_change)
        self.destroyed.connect(self._leave)

    @property
    def work(self) -> Work:
        """What has been done on the open engine."""
        return self.session.state.work

    @property
    def done(self) -> Mapping[Deed, str]:
        """How each item, or each quarter of a sweep, was seen to."""
        return self.work.done

    @property
    def word(self) -> str:
        """The word of the chosen school; two stops where what was kept is no school."""
        return self.work.school if self.work.school in BY_WORD else SCHOOLS[0].word

    @property
    def place(self) -> int:
        """The stop that is worked at, from 0."""
        return self.work.place

    @property
    def checking(self) -> bool:
        """Whether this round only checks: what is out of band is noted, and set on the next."""
        return self.work.checking

    @property
    def rig(self) -> Rig:
        """The open engine as it is set."""
        return self.session.state.rig

    @property
    def rows(self) -> list[Row]:
        """All schools on this engine, worked out once for each rig."""
        if self._rig is not self.rig:
            self._rig = self.rig
            self._rows = compare(self.rig, self.choice)
        return self._rows

    @property
    def school(self) -> School:
        """The chosen school."""
        return BY_WORD[self.word]

    @property
    def thing(self) -> str:
        """What the places of the plan are called: the sweep counts quarters."""
        return "Quarter" if self.word == "quarter-turn" else "Stop"

    @property
    def row(self) -> Row:
        """The chosen school on this engine."""
        return next(row for row in self.rows if row.school.word == self.word)

    @property
    def plan(self) -> Plan | None:
        """The plan, or None where the school does not apply."""
        return self.row.plan

    @property
    def usable(self) -> Plan | None:
        """The plan if it is safe to follow."""
        plan = self.plan
        return plan if plan is not None and plan.safe else None

    @property
    def stops(self) -> tuple[Stop, ...]:
        """The stops of a plan that is safe to follow; a sweep ends with the preload on all."""
        plan = self.usable
        if plan is None:
            return ()
        if not plan.swept:
            return plan.stops
        return (*plan.stops, Stop(plan.stops[-1].crank_deg, plan.swept, 0.0, "the preload on all"))

    @property
    def stop(self) -> Stop | None:
        """The stop that is worked at."""
        return self.stops[min(self.place, len(self.stops) - 1)] if self.stops else None

    @property
    def next_item(self) -> StopItem | None:
        """The item to set next at this stop."""
        stop = self.stop
        if stop is None:
            return None
        return next((due for due in stop.items if due.item not in self.done), None)

    def _deeds(self, place: int) -> list[Deed]:
        """What is to be ticked at a stop: its items, or the quarter of a sweep."""
        stop = self.stops[place]
        return [due.item for due in stop.items] or [place + 1]

    @property
    def deeds(self) -> list[Deed]:
        """Everything that is to be ticked, in the order of the plan."""
        return [deed for place in range(len(self.stops)) for deed in self._deeds(place)]

    @property
    def seen_to(self) -> int:
        """How much of it has been ticked."""
        return sum(deed in self.done for deed in self.deeds)

    @property
    def finished(self) -> bool:
        """Whether everything has been seen to."""
        return bool(self.deeds) and self.seen_to == len(self.deeds)

    @property
    def set_any(self) -> bool:
        """Whether anything was set on this round, so that nuts were touched."""
        return any(self.done.get(deed) == SET for deed in self.deeds)

    @property
    def to_set(self) -> list[Item]:
        """Items that a round of checking found out of their band, in the order of the plan."""
        return [d for d in self.deeds if isinstance(d, Item) and self.done.get(d) == OFF]

    @property
    def next_place(self) -> int | None:
        """The next stop at which something is open, the ones before this last; or None."""
        open_ones = [
            place
            for place in range(len(self.stops))
            if any(deed not in self.done for deed in self._deeds(place))
        ]
        later = [place for place in open_ones if place > self.place]
        return next(iter([*later, *open_ones]), None)

    def loose_at(self, place: int) -> list[Item]:
        """What is loose in a quarter of a sweep, counted from where the crank stands now."""
        at_deg = self.session.state.crank_deg + QUARTER_DEG * (place - self.place)
        free = self.rig.item_margins_deg(np.array([at_deg]))[:, 0] >= 0
        return [item for item, is_free in zip(self.rig.items, free, strict=True) if is_free]

    def check_only(self, checking: bool) -> None:
        """Only check on this round, or set as well."""
        self.session.work_at(checking=checking)

    def set_those(self) -> None:
        """After a round of checking: go round what was out of its band, and set it."""
        self.session.tick(dict.fromkeys(self.to_set), "the round of setting")
        self.session.work_at(checking=False, place=-1)
        self.session.work_at(place=self.next_place or 0)

    def choose(self, word: str) -> None:
        """Take another school. What has been set stays set."""
        if word in BY_WORD and word != self.word:
            self.session.work_at(school=word, place=0)

    def ask(self, choice: Choice) -> bool:
        """Ask a solved plan for other stops or another margin; whether that can be."""
        try:
            self.school.plan(self.rig, choice)
        except NotApplicableError:
            return False
        self.choice, self._rig = choice, None
        self.session.work_at(place=0)
        self.changed.emit()
        return True

    def tick(self, item: Item, how: str = SET) -> None:
        """Note an item as set, left or skipped; again, and it is open once more.

        What is not free where the crank stands is noted only when it is asked for twice.
        """
        if self.done.get(item) == how:
            self.session.tick({item: None}, f"open again: {item.name}")
            return
        here = self.session.state.crank_deg
        if how != SKIPPED and not self._free_now(item) and self._doubted != (item, here):
            self._doubted = (item, here)
            self.doubted.emit(
                f"{item.name} is not free where the crank stands. Press again to note it all the "
                "same."
            )
            return
        self._doubted = None
        due = self.next_item
        measured = self.measured if due is not None and due.item == item else None
        job = self.land(item, how, measured, self.word)
        self.session.tick({item: how}, f"tick of {item.name}", job)

    def _free_now(self, item: Item) -> bool:
        plan = self.plan
        if plan is not None and plan.swept:
            return True  # the preload goes on wherever the crank stands
        here = np.array([self.session.state.crank_deg])
        return bool(self.rig.item_margins_deg(here)[self.rig.items.index(item), 0] >= 0)

    def tick_quarter(self, place: int) -> None:
        """Note a quarter of a sweep as taken up; again, and it is open once more."""
        deed = place + 1
        how = None if deed in self.done else SET
        self.session.tick({deed: how}, f"tick of {deed_name(deed)}")

    def see_to_next(self, how: str = SET) -> None:
        """Note what is due; on a round that only checks, what would be set is `OFF`."""
        due, stop = self.next_item, self.stop
        if due is not None:
            self.tick(due.item, OFF if how == SET and self.checking else how)
        elif stop is not None and stop.loose_now and self.place + 1 not in self.done:
            self.tick_quarter(self.place)

    def begin_again(self) -> None:
        """Nothing has been set."""
        self.session.tick(dict.fromkeys(self.done), "starting again")
        self.session.work_at(place=0, checking=False)

    def go_to(self, place: int) -> None:
        """Work at another stop."""
        if 0 <= place < len(self.stops):
            self.session.work_at(place=place)

    def start_from_here(self) -> None:
        """Work first at the stop that the crank comes to next."""
        here = self.session.state.crank_deg
        if self.stops:
            ways = [degrees_on(stop.crank_deg, here) % 719.999 for stop in self.stops]
            self.go_to(ways.index(min(ways)))

    def not_free_now(self) -> list[Item]:
        """Items of this stop that the crank, as it stands, does not leave free."""
        stop = self.stop
        return [due.item for due in stop.items if not self._free_now(due.item)] if stop else []

    def _on_change(self, before: SessionState, after: SessionState) -> None:
        if after.source != before.source and after.rig is not before.rig:
            self.choice = Choice()
        if after.crank_deg != before.crank_deg:
            self._doubted = None
        if (after.rig, after.work, after.tried) != (before.rig, before.work, before.tried):
            self.changed.emit()
