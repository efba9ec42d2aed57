"""The book as its views see it: the engine's jobs, the one that is written at, and what is asked.

It owns no fact of a job: every entry goes through the session, which keeps it and can undo it.
"""

from dataclasses import dataclass, replace
from datetime import date
from typing import Any, Final

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.desk import Desk
from true_compass.book.brackets import Bracket
from true_compass.book.entering import READINGS, entered, meanings, reading_name
from true_compass.book.heat import with_heat
from true_compass.book.job import BookEngine, ItemRecord, Job, Measure, ToDo, check_item
from true_compass.book.meaning import Due
from true_compass.book.pointing import USUAL_STEP_MM, Pointing
from true_compass.book.trend import Entry, Point, changes_in, pointed
from true_compass.book.work import AFTER_NUT, FOUND, LEFT, Asked, next_asked
from true_compass.core.adjusting.setting import Setting, setting_of
from true_compass.core.engine import Engine
from true_compass.core.items import Item
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit, ImplausibleGapError, parse_length_mm
from true_compass.drawing.job_chart import along_heads
from true_compass.files.book_file import Line
from true_compass.files.book_learnt import HotCold
from true_compass.session.book import OnBook
from true_compass.session.book_keeper import BookKeeper

SHIM: Final = "shim"
NEXT: Final = {**READINGS, SHIM: "shim that is in, mm"}


@dataclass(frozen=True, slots=True)
class Refused:
    """What could not be entered: the sentence, and what may have been meant as keys to press."""

    sentence: str
    meant: tuple[tuple[str, float], ...] = ()
    may_insist: bool = False


class BookModel(QObject):
    """One engine of the book."""

    changed = pyqtSignal()

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self.desk = desk
        self.keeper: BookKeeper = desk.book()
        self.picked: Asked | None = None
        """The reading that a person chose; None follows the order of work."""
        self.refused: Refused | None = None
        self._entries: tuple[tuple[list[Entry], Job | None], list[Entry]] | None = None
        self._points: dict[str, dict[Item, Point]] = {}
        self.wants_shims = False
        """Whether the page is asking for shims."""
        self.item: Item | None = None
        """The item whose history is shown."""
        desk.bridge.book_changed.connect(self._on_book)
        desk.bridge.engine_changed.connect(self.changed)

    def _on_book(self) -> None:
        self.refused = None
        self.changed.emit()

    # What is open -----------------------------------------------------------------------------

    @property
    def on(self) -> OnBook:
        """The slice of the session."""
        on = self.desk.session.state.book
        if on is None:
            self.keeper.attach()
            on = self.desk.session.state.book
        assert on is not None
        return on

    @property
    def engine(self) -> Engine:
        """The engine that is open, as it is set."""
        return self.desk.session.state.engine

    @property
    def book_engine(self) -> BookEngine:
        """The engine of the book."""
        return self.on.engine

    @property
    def job(self) -> Job | None:
        """The job that is written at."""
        return self.on.job

    @property
    def unit(self) -> GapUnit:
        """The unit of the blades: of the open job, else of the engine."""
        return self.job.unit if self.job is not None else self.engine.gap_unit

    @property
    def today(self) -> date:
        """The local day."""
        return self.keeper.clock().astimezone().date()

    @property
    def items(self) -> tuple[Item, ...]:
        """All items, as one walks along the heads."""
        return along_heads(self.engine)

    def setting(self, item: Item) -> Setting:
        """What can be set at an item."""
        return setting_of(self.engine, item)

    @property
    def lines(self) -> list[Line]:
        """Every job of this engine, the newest first; the open one as it is now."""
        own = self.job
        lines = self.keeper.lines(self.book_engine.id)
        if own is None:
            return lines
        others = [line for line in lines if line.id != own.id]
        return sorted([*others, Line.of(own)], key=lambda one: (one.day, one.made), reverse=True)

    # Entries ----------------------------------------------------------------------------------

    @property
    def asked(self) -> Asked | None:
        """The reading that is due: the one that was chosen, or the next in the order of work."""
        job = self.job
        if job is None:
            return None
        if self.wants_shims and self.picked is None:
            found = [item for item in self.items if item.is_valve]
            due = next((item for item in found if job.record(item).shim_mm is None), None)
            return Asked(due, SHIM) if due is not None else None
        return self.picked or next_asked(job, self.items)

    def pick(self, item: Item, which: str) -> None:
        """Ask for a reading out of turn."""
        job = self.job
        if job is not None and which == LEFT and job.record(item).left is not None:
            which = AFTER_NUT
        self.picked, self.item, self.refused = Asked(item, which), item, None
        self.changed.emit()

    def ask_for_shims(self, wants: bool) -> None:
        """Ask for shims, or for readings again."""
        if wants != self.wants_shims:
            self.wants_shims, self.picked, self.refused = wants, None, None
            self.changed.emit()

    def step(self, by: int) -> None:
        """Ask for the same reading of the next item along the head, or the one before."""
        items, asked = self.items, self.asked
        if not items:
            return
        if asked is None:
            self.pick(items[0], SHIM if self.wants_shims else FOUND)
            return
        at = items.index(asked.item) + by
        self.pick(items[min(max(at, 0), len(items) - 1)], asked.which)

    def other_reading(self, by: int) -> None:
        """Ask for another reading of the same item."""
        asked = self.asked
        if asked is not None and asked.which != SHIM:
            order = (FOUND, LEFT, AFTER_NUT)
            at = min(max(order.index(asked.which) + by, 0), len(order) - 1)
            self.picked, self.refused = Asked(asked.item, order[at]), None
            self.changed.emit()

    def new_job(self) -> None:
        """Begin a job on this engine."""
        self.picked = None
        self.keeper.begin("paper")
        self.changed.emit()

    def open_job(self, job_id: str) -> None:
        """Write at another job."""
        own = self.job
        found = own if own is not None and own.id == job_id else self.keeper.job(job_id)
        if found is not None:
            self.picked = None
            self.desk.session.put_book(self.on.with_job(found))

    def enter(self, text: str, *, sure: bool = False) -> bool:
        """Enter what was typed for the reading that is due; whether it was taken."""
        job, asked = self.job, self.asked
        if job is None or asked is None:
            return False
        if asked.which == SHIM:
            return self._enter_shim(asked.item, text)
        setting = self.setting(asked.item)
        try:
            record = entered(setting, job, asked.which, text, sure=sure)
        except ImplausibleGapError as error:
            name = reading_name(setting, asked.which)
            meant = meanings(setting, job, text)
            self._refuse(Refused(f"{name} {error}", meant, may_insist=True))
            return False
        except EngineError as error:
            self._refuse(Refused(error.in_words))
            return False
        self._write(asked.item, record, f"{asked.item.name} {NEXT[asked.which]}")
        return True

    def enter_mm(self, mm: float) -> None:
        """Enter what was meant by an unlikely number."""
        job, asked = self.job, self.asked
        if job is not None and asked is not None:
            measure = Measure(Bracket.of(mm), None, f"{mm:g} mm", job.unit)
            record = job.record(asked.item).with_reading(asked.which, measure)
            self._write(asked.item, record, f"{asked.item.name} {NEXT[asked.which]}")

    def _enter_shim(self, item: Item, text: str) -> bool:
        job = self.job
        assert job is not None
        try:
            record = replace(job.record(item), shim_mm=parse_length_mm(f"{item.name} shim", text))
            check_item(item.name, record)
        except EngineError as error:
            self._refuse(Refused(error.in_words))
            return False
        self._write(item, record, f"shim of {item.name}")
        return True

    def _refuse(self, refused: Refused) -> None:
        self.refused = refused
        if refused.meant or refused.may_insist:
            # Its keys take the place of the sentence on the pad.
            self.desk.say(f"{refused.sentence}. Press what is meant.")
        self.changed.emit()

    def _write(self, item: Item, record: ItemRecord, words: str) -> None:
        job = self.job
        assert job is not None
        self.picked, self.refused = None, None
        self.desk.session.write_job(job.with_item(item, record), words)

    def clear(self) -> None:
        """Take the reading that is asked for out again."""
        job, asked = self.job, self.asked
        if job is None or asked is None:
            return
        if asked.which == SHIM:
            record = replace(job.record(asked.item), shim_mm=None)
            self._write(asked.item, record, f"shim of {asked.item.name}")
            return
        record = job.record(asked.item).with_reading(asked.which, None)
        if asked.which == FOUND and record.was_set:
            self._refuse(Refused(f"{asked.item.name} was set: take its reading as left out first."))
            return
        self._write(asked.item, record, f"{asked.item.name} {NEXT[asked.which]}")

    def change(self, words: str, **facts: Any) -> None:
        """Change facts of the job."""
        job = self.job
        if job is not None:
            self.refused = None
            self.desk.session.write_job(replace(job, **facts), words)

    def change_item(self, item: Item, words: str, **facts: Any) -> None:
        """Change a fact of an item."""
        job = self.job
        if job is not None:
            record = replace(job.record(item), **facts)
            self._write(item, record, words)

    def job_with_heat(self, found: HotCold) -> Job | None:
        """The open job as it goes by what this engine does when it is hot, where no book says."""
        job, book = self.job, self.keeper.book
        if job is None or book is None:
            return None
        known = [*book.learnt.hot_cold(self.book_engine.id), found]
        words = f"this engine, measured {found.day.isoformat()}"
        return replace(job, targets=with_heat(job.targets, known, words))

    # History ----------------------------------------------------------------------------------

    @property
    def history_item(self) -> Item | None:
        """The item whose history is shown: the one that was picked, or the first that points."""
        if self.item in self.items:
            return self.item
        job = self.job
        if job is not None:
            told = self.points_to(job, self.changes(job))
            first = next((item for item in self.items if item in told and told[item].causes), None)
            if first is not None:
                return first
        return next(iter(self.items), None)

    def show_history(self, item: Item) -> None:
        """Show the history of an item."""
        self.item = item
        self.changed.emit()

    @property
    def by_distance(self) -> bool:
        """Whether this engine counts km."""
        lines = self.lines
        return bool(lines) and lines[0].by_distance

    def put_in_diary(self, item: Item, due: Due) -> None:
        """Note an item among what is still to do, once."""
        job = self.job
        if job is None:
            return
        words = f"{item.name} again"
        rest = tuple(one for one in job.to_do if one.what != words)
        entry = ToDo(words, round(due.at_clock), due.on_day)
        self.change("still to do", to_do=(*rest, entry))

    # Meaning ----------------------------------------------------------------------------------

    def entries(self) -> list[Entry]:
        """The newest jobs as a trend needs them, the oldest first, the open one as it is now."""
        own, kept = self.job, self.keeper.entries(self.book_engine.id)
        key = (kept, own)
        if (
            self._entries is None
            or self._entries[0][0] is not kept
            or self._entries[0][1] is not own
        ):
            self._entries = (key, self._with_own(kept, own))
            self._points.clear()
        return self._entries[1]

    def _with_own(self, kept: list[Entry], own: Job | None) -> list[Entry]:
        if own is None or own.is_blank:
            return kept
        entry = own.entry()
        if kept and own.by_distance != self.by_distance:
            # Hours and km are never held against each other.
            entry = replace(entry, clock=None)
        others = [one for one in kept if one.name != own.id]
        # Of one day the open job is the newest.
        return sorted([*others, entry], key=lambda one: one.day)

    def changes(self, job: Job) -> dict[Item, Point]:
        """Each item of a job against the last job that left it."""
        entries = self.entries()
        if job.id not in self._points:
            nth = next((n for n, one in enumerate(entries) if one.name == job.id), None)
            self._points[job.id] = changes_in(entries, nth) if nth is not None else {}
        return self._points[job.id]

    def points_to(self, job: Job, points: dict[Item, Point]) -> dict[Item, Pointing]:
        """What the changes of a job point to."""
        step = job.blade_step_mm or USUAL_STEP_MM
        return pointed(points, job.entry(), self.keeper.scatter_of, step)
