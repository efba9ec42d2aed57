"""Keeps one slice of the session for each engine on the disk, every change as it is made.

A file an engine and window, as `progress` has them. The newest is gone on with.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from true_compass.session.session import Session, SessionState
from true_compass.session.store import Store, is_held_elsewhere, own_name, short_name

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class SliceOf(Generic[T]):
    """A slice: its word in the file, how it is found and put, how it becomes plain values."""

    word: str
    found: Callable[[SessionState], T | None]
    put: Callable[[Session, T], None]
    values: Callable[[T], Any]
    read: Callable[[Any], T | None]
    blank: T


class Kept(Generic[T]):
    """Brings a slice back and writes it."""

    def __init__(self, store: Store, session: Session, of: SliceOf[T]) -> None:
        self._store = store
        self._session = session
        self._slice = of
        self._own: dict[str, str] = {}
        self._last: T | None = None
        """What is on the disk, or was read from it."""
        session.subscribe(self._on_change)

    def attach(self) -> T:
        """The slice of the open engine: as it is in the session, else as it was kept."""
        held = self._slice.found(self._session.state)
        if held is None:
            held = self._last = self.of(self._session.state.key)
            self._slice.put(self._session, held)
        return held

    def of(self, key: str) -> T:
        """What was kept of the engine of a key; blank where nothing was."""
        for name in self._names(key):
            values = self._store.read(name)
            if values is None:
                continue
            told = values.get(self._slice.word) if isinstance(values, dict) else None
            held = self._slice.read(told)
            if held is not None:
                return held
            self._store.set_aside(name)
        return self._slice.blank

    def _names(self, key: str) -> list[str]:
        return self._store.names(short_name(key))

    def _on_change(self, before: SessionState, after: SessionState) -> None:
        now, was = self._slice.found(after), self._slice.found(before)
        if now is None or was is None or after.in_hand:
            return
        if after.key != before.key:
            # Saved under another name: what was done goes along.
            if now is was and now != self._slice.blank:
                self._keep(after.key, now)
        elif now is not self._last:
            self._keep(after.key, now)

    def _keep(self, key: str, held: T) -> None:
        self._last = held
        own = self._own.setdefault(key, own_name(key))
        closed = [n for n in self._names(key) if n != own and not is_held_elsewhere(n)]
        values = {"engine": key, self._slice.word: self._slice.values(held)}
        if self._store.write(own, values):
            # It goes on from the newest of these; what is older was gone on from before.
            for name in closed:
                self._store.drop(name)
            self._store.forget_the_oldest()
