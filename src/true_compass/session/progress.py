"""What has been done on each engine, on disk at every tick: one small file an engine and window.

Two windows may work on one engine: each tick has its time, and what they wrote is read together.
No file has two writers, so that nothing need be locked and nothing is lost between two of them.
"""

from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from typing import Any

from true_compass.session.session import Session, SessionState
from true_compass.session.store import Store, is_held_elsewhere, own_name, short_name
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
        self._own: dict[str, str] = {}

    def of(self, key: str) -> Work:
        """What has been done on the engine of a key."""
        return work_of(self._read(key))

    def _names(self, key: str) -> list[str]:
        return self._store.names(short_name(key))

    def _read(self, key: str) -> dict[str, Any]:
        """What all files of an engine say together."""
        return self._together(reversed(self._names(key)))

    def _together(self, names: Iterable[str]) -> dict[str, Any]:
        """What some files say together; where two are as new, the one that is named later."""
        together: dict[str, Any] = {}
        for name in names:
            held = self._store.read(name)
            if isinstance(held, dict):
                together = _merged(together, held)
            elif held is not None:
                self._store.set_aside(name)
        return together

    def keep(self, key: str, before: Work, after: Work) -> None:
        """Put what changed into this window's file of an engine."""
        own = self._own.setdefault(key, own_name(key))
        names = [name for name in reversed(self._names(key)) if name != own]
        closed = [name for name in names if not is_held_elsewhere(name)]
        # What another open window did stays in its file alone: here it could only grow old.
        held = self._together([*closed, own])
        items = _entries(held)
        now = self._clock().isoformat()
        for deed in {**before.done, **after.done}:
            if before.done.get(deed) != after.done.get(deed):
                items[deed_name(deed)] = {"how": after.done.get(deed, ""), "at": now}
        value = {"engine": key, "school": after.school, "stop": after.place}
        value |= {"checking": after.checking, "at": now, "items": items}
        if self._store.write(own, value):
            for name in closed:
                self._store.drop(name)
            if not held:
                self._store.forget_the_oldest()

    def watch(self, session: Session) -> None:
        """Keep every change of the work of a session, as it is made."""

        def on_change(before: SessionState, after: SessionState) -> None:
            if after.key == before.key:
                if after.work != before.work:
                    self.keep(after.key, before.work, after.work)
            elif after.work is before.work and after.work is not FRESH:
                # Saved under another name: what was done goes along.
                self.keep(after.key, FRESH, after.work)

        session.work_of = self.of
        session.subscribe(on_change)


def _entries(held: dict[str, Any]) -> dict[str, Any]:
    """The ticks of a file, those that make sense."""
    items = held.get("items")
    entries = items.items() if isinstance(items, dict) else ()
    return {name: entry for name, entry in entries if isinstance(entry, dict)}


def _time(entry: dict[str, Any]) -> str:
    return str(entry.get("at", ""))


def _merged(one: dict[str, Any], other: dict[str, Any]) -> dict[str, Any]:
    """Two files as one: of each tick the later, and all else from the later file."""
    first, last = sorted((one, other), key=_time)
    items = _entries(first)
    for name, entry in _entries(last).items():
        if name not in items or _time(entry) >= _time(items[name]):
            items[name] = entry
    return {**first, **last, "items": items}


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
