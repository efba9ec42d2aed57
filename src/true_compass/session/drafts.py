"""Edits that nobody has saved yet, on disk within a second, so that none is lost.

A draft remembers the text that it was made from. Each window writes drafts of its own, and neither
takes up nor takes away those of another window that is still open.
"""

from dataclasses import dataclass
from typing import Any

from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.files.engine_values import (
    ENGINE_FILE,
    engine_digest,
    engine_from_values,
    values_of_engine,
)
from true_compass.files.reading import problems_in
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.session.progress import Clock, utc_now
from true_compass.session.session import Source
from true_compass.session.store import Store, is_held_elsewhere, own_name, short_name


@dataclass(frozen=True, slots=True)
class Draft:
    """An edited engine, and the digest of what it was made from."""

    engine: Engine
    made_from: str
    name: str
    """The name of its file."""


def origin_digest(source: Source) -> str:
    """A mark of what a source holds now: the file's text as read, or the demo rig."""
    if source.path is not None:
        return source.digest
    return engine_digest(demo_rig(source.rig)) if source.rig in rig_names() else ""


class Drafts:
    """A folder of edited engines, one a source and window."""

    def __init__(self, store: Store, clock: Clock = utc_now) -> None:
        self._store = store
        self._clock = clock
        self._own: dict[str, str] = {}

    def of(self, source: Source) -> Draft | None:
        """The newest unsaved engine of a source that can be read, and that no open window holds."""
        names = [n for n in self._store.names(short_name(source.key)) if not is_held_elsewhere(n)]
        return next(filter(None, map(self._read, names)), None)

    def take(self, source: Source, draft: Draft) -> None:
        """From now on a draft is this window's: to write again, or to take away."""
        self._own[source.key] = draft.name

    def _read(self, name: str) -> Draft | None:
        held = self._store.read(name)
        if held is None:
            return None
        engine = _engine_of(held.get("values")) if isinstance(held, dict) else None
        if engine is None:
            self._store.set_aside(name)
            return None
        return Draft(engine, str(held.get("made_from", "")), name)

    def keep(self, source: Source, engine: Engine) -> None:
        """Keep an edited engine until its source is saved, or the edit undone."""
        name = self._own.get(source.key)
        if name is None:
            name = own_name(source.key)
            self._own[source.key] = name
        try:
            values = values_of_engine(engine)
        except EngineError:
            return
        value = {"engine": source.key, "made_from": origin_digest(source), "values": values}
        self._store.write(name, {**value, "at": self._clock().isoformat()})
        self._store.forget_the_oldest()

    def drop(self, source: Source) -> None:
        """There is nothing unsaved in this window."""
        name = self._own.pop(source.key, None)
        if name is not None:
            self._store.drop(name)


def _engine_of(values: Any) -> Engine | None:
    """The engine of a draft's values, or None for what no engine can have."""
    if not isinstance(values, dict) or values.get("format") != ENGINE_FILE.word:
        return None
    version = values.get("version")
    if isinstance(version, bool) or version not in range(1, ENGINE_FILE.newest + 1):
        return None
    try:
        # JSON knows no difference between a whole number and a decimal one; the model allows both.
        if problems_in(ENGINE_FILE, values, {})[0]:
            return None
        return engine_from_values(values)
    except (EngineError, ValueError, TypeError, KeyError):
        return None
