"""Undo, redo, saving and trying out, in any order, against a list that cannot be wrong."""

from dataclasses import replace
from pathlib import Path

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from true_compass.core.engine import Engine
from true_compass.core.state import AS_SET, WhatIf
from true_compass.files.rigs import demo_rig
from true_compass.session.session import Session, SessionState, Source

RIGS = {name: demo_rig(name) for name in ("alder", "birch", "cedar")}
bores_mm = st.integers(80, 99).map(float)


class History(RuleBasedStateMachine):
    """The model: every engine since the opening, the place in them, and what the source holds."""

    def __init__(self) -> None:
        super().__init__()
        self.session = Session(RIGS["birch"], Source(rig="birch"))
        self.past, self.place, self.kept = [RIGS["birch"]], 0, RIGS["birch"]
        self.last_field = ""
        self.told: list[tuple[SessionState, SessionState]] = []
        self.session.subscribe(lambda before, after: self.told.append((before, after)))

    @property
    def engine(self) -> Engine:
        return self.past[self.place]

    def put(self, engine: Engine, field: str) -> None:
        if engine == self.engine:
            return
        del self.past[self.place + 1 :]
        if field and field == self.last_field and self.place:
            self.past[self.place] = engine
        else:
            self.past.append(engine)
            self.place += 1
        self.last_field = field

    @rule(bore_mm=bores_mm, field=st.sampled_from(["", "bore"]))
    def edit_bore(self, bore_mm: float, field: str) -> None:
        engine = replace(self.session.state.engine, bore_mm=bore_mm)
        self.session.edit(engine, field)
        self.put(engine, field)

    @rule(place=st.sampled_from(["Bay 1", "Bay 2"]))
    def edit_place(self, place: str) -> None:
        engine = replace(self.session.state.engine, place=place)
        self.session.edit(engine, "place")
        self.put(engine, "place")

    @rule()
    def undo(self) -> None:
        assert bool(self.session.undo()) == (self.place > 0)
        self.last_field = "" if self.place else self.last_field
        self.place = max(self.place - 1, 0)

    @rule()
    def redo(self) -> None:
        ahead = self.place < len(self.past) - 1
        assert bool(self.session.redo()) == ahead
        self.last_field = "" if ahead else self.last_field
        self.place += ahead

    @rule()
    def save(self) -> None:
        self.session.saved(Source(path=Path("bench.engine.toml")))
        self.kept = self.engine

    @rule(name=st.sampled_from(sorted(RIGS)))
    def open_another(self, name: str) -> None:
        self.session.open_engine(RIGS[name], Source(rig=name), 90.0)
        self.past, self.place, self.kept = [RIGS[name]], 0, RIGS[name]

    @rule(lash_mm=st.sampled_from([-0.1, 0.0, 0.1]))
    def try_another_lash(self, lash_mm: float) -> None:
        tried = WhatIf(intake_lash_mm=lash_mm) if lash_mm else AS_SET
        self.session.try_out(tried)
        assert self.session.state.shown.what_if == tried

    @rule(crank_deg=st.floats(-2000, 2000))
    def turn(self, crank_deg: float) -> None:
        before = self.session.state.engine
        self.session.turn_to(crank_deg)
        assert self.session.state.engine is before

    @invariant()
    def the_engine_is_the_one_of_the_list(self) -> None:
        state = self.session.state
        assert state.engine == self.engine
        assert bool(self.session.undo_words) == (self.place > 0)
        assert bool(self.session.redo_words) == (self.place < len(self.past) - 1)
        # The star in the title: whether closing now would lose anything.
        assert state.edited == (self.engine != self.kept)

    @invariant()
    def listeners_heard_every_step_once(self) -> None:
        for (_, after), (before, _) in zip(self.told, self.told[1:], strict=False):
            assert after is before
        if self.told:
            assert self.told[-1][1] is self.session.state

    @invariant()
    def events_belong_to_the_engine(self) -> None:
        events = self.session.valve_events
        names = {valve.item for valve in self.session.state.engine.valves}
        assert {event.valve for event in events} == names


History.TestCase.settings = settings(max_examples=40, stateful_step_count=25)
TestHistory = History.TestCase
