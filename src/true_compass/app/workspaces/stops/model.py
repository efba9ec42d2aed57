"""What the Stops workspace shows: the chosen school's plan, and how far the work has come.

The work itself is a slice of the session; here it is held against the plan of the engine as set.
"""

from collections.abc import Callable, Mapping
from datetime import date

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.book.job import Job
from true_compass.book.targets import targets_of
from true_compass.core.adjusting.comparison import Row, compare, first_safe, way_out
from true_compass.core.adjusting.schools import (
    BY_WORD,
    QUARTER_DEG,
    SCHOOLS,
    Choice,
    NotApplicableError,
    School,
)
from true_compass.core.adjusting.setting import setting_of
from true_compass.core.adjusting.stops import Plan, whole_degrees
from true_compass.core.angles import degrees_on
from true_compass.core.items import Item
from true_compass.core.state import Rig
from true_compass.session.book import landed
from true_compass.session.going_round import Round
from true_compass.session.session import Session, SessionState
from true_compass.session.work import OFF, OFF_HEEL, SET, SKIPPED, Deed, Work, deed_name

JobNow = Callable[[str], Job | None]
"""The job of today that work by a school is written into; it is begun where there is none."""


def _nowhere(_school: str) -> None:
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
        self._begun_with = SCHOOLS[0].word
        self._round: Round | None = None
        self._gone_by: Plan | None = None
        self._gone_on: Rig | None = None
        self._doubted: tuple[Item, float] | None = None
        self.job_now: JobNow = _nowhere
        self.today: Callable[[], date] = date.today
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
        """The word of the chosen school; where none was chosen, of the first that is safe here."""
        if self.work.school in BY_WORD:
            return self.work.school
        _ = self.rows
        return self._begun_with

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
            safe = first_safe(self._rows)
            self._begun_with = safe.school.word if safe is not None else SCHOOLS[0].word
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
    def instead(self) -> str:
        """What to use where the chosen method is unsafe or is none here: `Fewest stops, 58°`."""
        row = way_out(self.rows)
        if row is None or row.plan is None:
            return ""
        return f"{row.school.short_name}, {whole_degrees(row.plan.least_margin_deg)}°"

    def use_instead(self) -> None:
        """Take that method."""
        row = way_out(self.rows)
        if row is not None:
            self.choose(row.school.word)

    @property
    def round(self) -> Round:
        """The round by the plan, if it is safe to follow. Kept: a press asks for it many times."""
        plan, work = self.usable, self.work
        if self._round is None or self._gone_by is not plan or self._gone_on is not self.rig:
            self._gone_by, self._gone_on = plan, self.rig
            self._round = Round.of(self.rig.engine, plan, work)
        elif self._round.work is not work:
            self._round = self._round.having(work)
        return self._round

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
        self.session.tick(dict.fromkeys(self.round.to_set), "the round of setting")
        self.session.work_at(checking=False, place=-1)
        self.session.work_at(place=self.round.next_place or 0)

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

    def tick(self, item: Item, how: str = SET, *, job: Job | None = None) -> bool:
        """Note what is set at an item as set, left or skipped; again, and it is open once more.

        What is not free where the crank stands is noted only when it is asked for twice, and then
        as noted off its base circle. `job` is the job with what was read just now. Whether it was
        noted.
        """
        setting = setting_of(self.rig.engine, item)
        if self.work.how(item) in (how, OFF_HEEL) and job is None:
            job = self._landed(item, None, job)
            changes = self.work.without(setting, self.rig.engine)
            self.session.tick(changes, f"open again: {item.name}", job)
            return False
        here, off = self.session.state.crank_deg, not self._free_now(item)
        if how != SKIPPED and off and self._doubted != (item, here):
            self._doubted = (item, here)
            self.doubted.emit(
                f"{item.name} is not free where the crank stands. Press again to note it all the "
                "same: it is marked as off its base circle."
            )
            return False
        self._doubted = None
        amiss = off and how != SKIPPED
        job = self._landed(item, how, job, off_heel=amiss)
        self.session.tick({item: OFF_HEEL if amiss else how}, f"tick of {item.name}", job)
        return True

    def _landed(
        self, item: Item, how: str | None, job: Job | None, *, off_heel: bool = False
    ) -> Job | None:
        job = job or self.job_now(self.word)
        return None if job is None else landed(job, item, how, off_heel=off_heel)

    def doubted_here(self, item: Item) -> bool:
        """Whether it was just said that an item is not free where the crank stands."""
        return self._doubted == (item, self.session.state.crank_deg)

    def doubt(self, item: Item) -> None:
        """Remember that it was said, so that asked again it is done."""
        self._doubted = (item, self.session.state.crank_deg)

    def _free_now(self, item: Item) -> bool:
        plan = self.plan
        if plan is not None and plan.swept:
            return True  # the preload goes on wherever the crank stands
        here = np.array([self.session.state.crank_deg])
        return bool(self.rig.item_margins_deg(here)[self.rig.row_of[item.whole], 0] >= 0)

    def tick_quarter(self, place: int) -> None:
        """Note a quarter of a sweep as taken up; again, and it is open once more."""
        deed = place + 1
        how = None if deed in self.done else SET
        self.session.tick({deed: how}, f"tick of {deed_name(deed)}")

    def see_to_next(self, how: str = SET) -> None:
        """Note what is due; on a round that only checks, what would be set is `OFF`."""
        due, stop = self.round.next_setting, self.round.stop
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
        if 0 <= place < len(self.round.stops):
            self.session.work_at(place=place)

    def start_from_here(self) -> None:
        """Work first at the stop that the crank comes to next."""
        here = self.session.state.crank_deg
        if self.round.stops:
            ways = [degrees_on(stop.crank_deg, here) % 719.999 for stop in self.round.stops]
            self.go_to(ways.index(min(ways)))

    def not_free_now(self) -> list[Item]:
        """Items of this stop that the crank, as it stands, does not leave free."""
        stop = self.round.stop
        return [due.item for due in stop.items if not self._free_now(due.item)] if stop else []

    @property
    def job(self) -> Job:
        """The job of today, or what one that is begun now would be judged by."""
        book, engine = self.session.state.book, self.rig.engine
        own = book.job if book is not None else None
        if own is not None and not own.signed and own.day == self.today():
            return own
        return Job(
            "",
            "",
            "",
            self.today(),
            "",
            unit=engine.gap_unit,
            hot=engine.lash_hot,
            targets=targets_of(engine),
        )

    def _on_change(self, before: SessionState, after: SessionState) -> None:
        if after.source != before.source and after.rig is not before.rig:
            self.choice = Choice()
        if after.crank_deg != before.crank_deg:
            self._doubted = None
        if _shown(after) != _shown(before):
            self.changed.emit()


def _shown(state: SessionState) -> tuple[object, ...]:
    """What the pages show, besides where the crank stands."""
    job = state.book.job if state.book is not None else None
    return state.rig, state.work, state.tried, job
