"""The book in the session: which engine of the book is open, and the job that is written at."""

from dataclasses import dataclass, replace
from datetime import datetime

from true_compass.book.job import BookEngine, ItemRecord, Job, Measure, new_id
from true_compass.book.targets import targets_of
from true_compass.core.engine import Engine
from true_compass.core.items import Item
from true_compass.session.work import SET, SKIPPED


@dataclass(frozen=True, slots=True, eq=False)
class OnBook:
    """The engine of the book that is open, and the job that is written at, or None."""

    engine: BookEngine
    job: Job | None = None

    def with_job(self, job: Job | None) -> "OnBook":
        """The same engine with another job, or another state of it."""
        return replace(self, job=job)


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


def landed(job: Job, item: Item, how: str | None, measured: Measure | None) -> Job:
    """The job after an item was seen to on Stops: what was measured is what was found, and what
    was set is left at its target. Without a reading only the tick is written.
    """
    record = job.record(item)
    if how is None or how == SKIPPED:
        return job
    if measured is not None:
        record = replace(record, found=measured)
    target = job.target(item)
    if how == SET:
        if record.found is not None and target is not None and record.found.gap is not None:
            left = replace(Measure.mm(target.target_mm), unit=job.unit, text="set")
            record = replace(record, left=left)
        elif not record.note:
            record = replace(record, note="set")
    elif record == ItemRecord():
        record = replace(record, note="in band" if how == "left" else "out of band")
    return job.with_item(item, record)
