"""What has been done on each engine, on disk at every tick: one small file an engine.

Two windows may work on one engine: each tick has its time, and is put into what the file holds.
"""

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from true_compass.session.session import Session, SessionState, Source
from true_compass.session.store import Store, short_name
from true_compass.session.work import FRESH, HOWS, Deed, Work, deed_name, deed_named

Clock = Callable[[], datetime]


def utc_now() -> datetime:
    """The time in UTC, to the second."""
    return datetime.now(UTC).replace(microsecond=0)


class Progress:
    """Keeps and brings back the work on each engine. A value that makes no sense counts as none."""

    def __init__(self, store: Store, clock: Clock = utc_now) -> None:
        self._store = store
        self._clock = clock

    def of(self, source: Source) -> Work:
        """What has been done on the engine of a source."""
        return work_of(self._read(source))

    def _name(self, source: Source) -> str:
        return f"{short_name(source.key)}.json"

    def _read(self, source: Source) -> dict[str, Any]:
        held = self._store.read(self._name(source))
        if held is not None and not isinstance(held, dict):
            self._store.set_aside(self._name(source))
            held = None
        return held or {}

    def keep(self, source: Source, before: Work, after: Work) -> None:
        """Put what changed into the file of an engine."""
        held = self._read(source)
        items = held.get("items")
        items = dict(items) if isinstance(items, dict) else {}
        now = self._clock().isoformat()
        for deed in {**before.done, **after.done}:
            if before.done.get(deed) != after.done.get(deed):
                items[deed_name(deed)] = {"how": after.done.get(deed, ""), "at": now}
        value = {"engine": source.key, "school": after.school, "stop": after.place}
        value |= {"checking": after.checking, "at": now, "items": items}
        if self._store.write(self._name(source), value) and not held:
            self._store.forget_the_oldest()

    def watch(self, session: Session) -> None:
        """Keep every change of the work of a session, as it is made."""

        def on_change(before: SessionState, after: SessionState) -> None:
            if after.source == before.source:
                if after.work != before.work:
                    self.keep(after.source, before.work, after.work)
            elif after.work is before.work and after.work is not FRESH:
                # Saved under another name: what was done goes along.
                self.keep(after.source, FRESH, after.work)

        session.subscribe(on_change)


def work_of(held: dict[str, Any]) -> Work:
    """The work that a file describes; every value is checked on its own.

    Whether there is such a way of adjusting is seen when its plan is asked for.
    """
    school, place, items = held.get("school"), held.get("stop"), held.get("items")
    done: dict[Deed, str | None] = {}
    for name, entry in items.items() if isinstance(items, dict) else ():
        how = entry.get("how") if isinstance(entry, dict) else None
        deed = deed_named(name)
        if deed is not None and isinstance(how, str) and how in HOWS:
            done[deed] = how
    whole = isinstance(place, int) and not isinstance(place, bool) and 0 <= place < 100
    return Work(
        school=school if isinstance(school, str) and len(school) < 40 else FRESH.school,
        place=place if whole and isinstance(place, int) else 0,
        checking=held.get("checking") is True,
    ).with_done(done)
