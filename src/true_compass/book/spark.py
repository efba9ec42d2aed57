"""What a timing lamp read, in a job: found the first time, left when it is read again."""

from collections.abc import Iterable
from dataclasses import replace

from true_compass.book.job import General, Job
from true_compass.core.ignition.lamp import How, Reading

UNIT = "° before TDC"


def with_spark(job: Job, readings: Iterable[Reading]) -> Job:
    """The job with the lamp's readings as general readings, one a speed and hose."""
    kept = {one.what: one for one in job.readings}
    for reading in readings:
        if reading.asked.how is not How.LAMP:
            continue
        what = f"Spark at {reading.asked.title}"
        before = kept.get(what)
        kept[what] = (
            General(what, UNIT, reading.read)
            if before is None
            else replace(before, left=reading.read)
        )
    return replace(job, readings=tuple(kept.values()))
