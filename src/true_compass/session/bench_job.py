"""A job in the book out of a run at the bench: what blades said as found, as left, and again."""

from dataclasses import replace
from datetime import datetime

from true_compass.bench.blades import bracket, bracket_words
from true_compass.bench.state import BenchState
from true_compass.book.brackets import Bracket
from true_compass.book.job import BookEngine, ItemRecord, Job, Measure
from true_compass.core.adjusting.setting import Setting, Way
from true_compass.session.bench import OnBench
from true_compass.session.book import new_job


def bench_job(bench: OnBench, engine: BookEngine, now: datetime) -> Job:
    """The job of a run. Only the blade that goes with the one that does not are a reading; one of
    them alone is a note.
    """
    work, state = bench.run.work, bench.run.state
    scenario = work.scenario
    job = new_job(engine, work.engine, now, "bench", scenario.method)
    for nth, setting in enumerate(work.settings):
        item = state.items[nth]
        record = _record(state, setting, striped=item.striped, screw_deg=item.screw_deg)
        job = job.with_item(setting.item, record)
    title = scenario.shown_title
    words = f"At the bench: {title}, seed {scenario.seed}."
    return replace(job, note=words)


def _record(state: BenchState, setting: Setting, *, striped: bool, screw_deg: float) -> ItemRecord:
    ends = [bracket(state, setting.name, left=left) for left in (False, True)]
    found, left = (_measure(one) for one in ends)
    notes = [bracket_words(one) for one, m in zip(ends, (found, left), strict=True) if m is None]
    if setting.way is Way.PLUNGER and screw_deg:
        notes.append(f"{screw_deg / 360.0:+.2f} turn")
    if found is None:
        # As left without as found is no reading: it stays a note.
        if left is not None:
            notes.append(f"left {left.short}")
        left = None
    return ItemRecord(found, left, stripe=striped, note=", ".join(filter(None, notes)))


def _measure(ends: tuple[float | None, float | None]) -> Measure | None:
    goes, stops = ends
    if goes is None or stops is None or goes > stops:
        return None
    return Measure(Bracket(goes, stops), text=f"{goes:.2f}..{stops:.2f}")
