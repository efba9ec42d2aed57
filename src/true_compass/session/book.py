"""The book in the session: which engine of the book is open, and the job that is written at."""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import TYPE_CHECKING, Final

from true_compass.book.job import NOBODY, BookEngine, Job, Person, SeenTo, new_id
from true_compass.book.targets import targets_of
from true_compass.core.engine import Engine
from true_compass.core.items import Item
from true_compass.session.work import LEFT, OFF, SET, SKIPPED

if TYPE_CHECKING:
    from true_compass.files.book_learnt import HandTest, HotCold


@dataclass(frozen=True, slots=True, eq=False)
class OnBook:
    """The engine of the book that is open, and the job that is written at, or None."""

    engine: BookEngine
    job: Job | None = None

    def with_job(self, job: Job | None) -> "OnBook":
        """The same engine with another job, or another state of it."""
        return replace(self, job=job)


@dataclass(frozen=True, slots=True)
class Learnt:
    """Something that the book learnt: a hand, with whose it is, or what heat does to an engine."""

    what: "HandTest | HotCold"
    person: Person = NOBODY


def new_job(engine: BookEngine, model: Engine, now: datetime, origin: str, school: str = "") -> Job:
    """A job that begins now, with the engine's targets as they are set."""
    local = now.astimezone()
    return Job(
        id=new_id(),
        engine_id=engine.id,
        engine_digest=engine.digest,
        day=local.date(),
        made=now.replace(microsecond=0).isoformat(),
        unit=model.gap_unit,
        hot=model.lash_hot,
        targets=targets_of(model),
        zero_lash=model.train.zero_lash.value if model.train.hydraulic else "",
        school=school,
        origin=origin,
    )


_SEEN_TO: Final = {SET: SeenTo.SET, LEFT: SeenTo.GOOD, OFF: SeenTo.OUT}


def landed(job: Job, item: Item, how: str | None, *, off_heel: bool = False) -> Job:
    """The job after an item was seen to on Stops. Only what a hand did is written: what was set and
    not measured is left without a reading; a tick that is taken back goes here as well.
    """
    record = job.record(item)
    if how == SKIPPED:
        return job
    seen_to = SeenTo.NOT_SAID if how is None else _SEEN_TO[how]
    return job.with_item(item, replace(record, seen_to=seen_to, off_heel=off_heel))
