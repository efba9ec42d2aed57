"""What is open now: one immutable state, one session that alone changes it."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path

from true_compass.core.angles import wrap_deg
from true_compass.core.engine import Engine
from true_compass.core.events import ValveEvent, valve_events
from true_compass.core.state import AS_SET, EngineState, Rig, WhatIf, engine_state


@dataclass(frozen=True, slots=True)
class Source:
    """Where the open engine came from: a demo rig's short name, or a file."""

    rig: str = ""
    path: Path | None = None
    digest: str = field(default="", compare=False)
    """Mark of the file's text as it was read."""


@dataclass(frozen=True)
class SessionState:
    """The open engine and the crank angle, with what follows from them.

    `back_deg` is the angle before the last jump, or None. `edited` tells that the engine is no
    longer what its source says.
    """

    rig: Rig
    source: Source
    crank_deg: float = 0.0
    back_deg: float | None = None
    edited: bool = False

    @property
    def engine(self) -> Engine:
        """The engine that is open."""
        return self.rig.engine

    @cached_property
    def now(self) -> EngineState:
        """Every cylinder and valve at the crank angle."""
        return engine_state(self.rig, self.crank_deg)


Listener = Callable[[SessionState, SessionState], None]


class Session:
    """Holds the state and tells its listeners `(before, after)` of every change."""

    def __init__(self, engine: Engine, source: Source, crank_deg: float = 0.0) -> None:
        self._state = SessionState(Rig.of(engine), source, wrap_deg(crank_deg))
        self._at_source = engine
        self._events: tuple[ValveEvent, ...] | None = None
        self._listeners: list[Listener] = []
        self._done: list[Engine] = []
        self._undone: list[Engine] = []
        self._field = ""

    @property
    def state(self) -> SessionState:
        """The state as it is now."""
        return self._state

    @property
    def valve_events(self) -> tuple[ValveEvent, ...]:
        """Openings and closings of the open engine, in running order; worked out when asked for."""
        if self._events is None:
            self._events = valve_events(self._state.rig)
        return self._events

    def subscribe(self, listener: Listener) -> Callable[[], None]:
        """Call `listener(before, after)` after every change. Returns the way to stop that."""
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def open_engine(self, engine: Engine, source: Source, crank_deg: float = 0.0) -> None:
        """Put another engine in place of the open one."""
        self._events = None
        self._at_source = engine
        self._done.clear()
        self._undone.clear()
        self._change(SessionState(Rig.of(engine), source, wrap_deg(crank_deg)))

    def edit(self, engine: Engine, field: str = "") -> None:
        """Put a changed engine in place of the open one; `undo` brings the old one back.

        Edits of one `field` after another are one step: nobody wants to undo letter by letter.
        """
        if engine == self._state.engine:
            return
        self._undone.clear()
        if not field or field != self._field or not self._done:
            self._done.append(self._state.engine)
        self._field = field
        self._put(engine)

    def edit_late(self, late: tuple[bool, ...]) -> None:
        """Let the open engine fire at other of its TDCs."""
        self.edit(replace(self._state.engine, late=late))

    @property
    def can_undo(self) -> bool:
        """Whether there is an edit to take back."""
        return bool(self._done)

    @property
    def can_redo(self) -> bool:
        """Whether there is an edit to do again."""
        return bool(self._undone)

    def undo(self) -> bool:
        """Take the last edit back; whether there was one."""
        return self._step(self._done, self._undone)

    def redo(self) -> bool:
        """Do the last edit that was taken back again; whether there was one."""
        return self._step(self._undone, self._done)

    def _step(self, there: list[Engine], here: list[Engine]) -> bool:
        if not there:
            return False
        self._field = ""
        here.append(self._state.engine)
        self._put(there.pop())
        return True

    def _put(self, engine: Engine) -> None:
        self._events = None
        self._change(replace(self._state, rig=Rig.of(engine), edited=engine != self._at_source))

    def reread(self, engine: Engine, source: Source) -> None:
        """The source was read again; the crank stays, and `undo` brings the edits back."""
        self._at_source = engine
        if engine != self._state.engine:
            self._done.append(self._state.engine)
            self._undone.clear()
        self._field, self._events = "", None
        self._change(replace(self._state, rig=Rig.of(engine), source=source, edited=False))

    def saved(self, source: Source) -> None:
        """The open engine has been written to a file, which is now where it comes from."""
        self._at_source = self._state.engine
        self._change(replace(self._state, source=source, edited=False))

    def try_out(self, what_if: WhatIf) -> None:
        """Show the engine with another lash or advance; the engine itself stays as it is."""
        if what_if != self._state.rig.what_if:
            self._events = None
            usual = self._state.rig.as_set
            rig = usual if what_if == AS_SET else usual.trying(what_if)
            self._change(replace(self._state, rig=rig))

    def turn_to(self, crank_deg: float) -> None:
        """Turn the crank to an angle (any whole cycles more or less)."""
        angle = wrap_deg(float(crank_deg))
        if angle != self._state.crank_deg:
            self._change(replace(self._state, crank_deg=angle))

    def mark_way_back(self) -> None:
        """Remember the crank angle as the one to come back to."""
        self._change(replace(self._state, back_deg=self._state.crank_deg))

    def _change(self, after: SessionState) -> None:
        before, self._state = self._state, after
        for listener in tuple(self._listeners):
            listener(before, after)
