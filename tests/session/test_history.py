"""Undo, redo, saving and trying out, in any order, against a list that cannot be wrong."""

from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path
from typing import Any

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from true_compass.book.job import BookEngine, Job
from true_compass.book.targets import targets_of
from true_compass.core.changes import with_order
from true_compass.core.degreeing.sheet import Sheet
from true_compass.core.engine import Engine
from true_compass.core.ignition.bay import Bay
from true_compass.core.items import item_named
from true_compass.core.state import AS_SET, WhatIf
from true_compass.files.rigs import demo_rig
from true_compass.session.book import OnBook
from true_compass.session.session import Session, SessionState, Source
from true_compass.session.work import deed_name

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


OTHER_ORDER = ((1,), (2,), (4,), (6,), (5,), (3,))
OWN = BookEngine("own", "Rig Birch")
AWAY = BookEngine("away", "another of the book")
SLICES = ("engine", "done", "note", "cam", "bay")


@dataclass(frozen=True)
class Known:
    """A step as a list of what it changed: slice, before, after; and whether the book is needed."""

    changes: dict[str, tuple[Any, Any]]
    needs_book: bool = False


class EveryStep(RuleBasedStateMachine):
    """Every kind of step, undone and redone in any order, with the book on another engine or not.

    The model knows five slices and what each step changed of them; it never asks the session.
    """

    def __init__(self) -> None:
        super().__init__()
        self.session = Session(RIGS["birch"], Source(rig="birch"))
        self.session.put_book(self.fresh_book())
        self.own = self.session.state.book
        self.away = False
        self.now: dict[str, Any] = {
            "engine": RIGS["birch"],
            "done": {},
            "note": "",
            "cam": Sheet(),
            "bay": Bay(),
        }
        self.session.put_cam(Sheet())
        self.session.put_ignition(Bay())
        self.past: list[Known] = []
        self.ahead: list[Known] = []
        self.count = 0

    def fresh_book(self) -> OnBook:
        job = Job("j", OWN.id, "", date(2026, 1, 2), "", targets=targets_of(RIGS["birch"]))
        return OnBook(OWN, job)

    def did(self, needs_book: bool = False, **after: Any) -> None:
        """Remember a step of some slices."""
        changes = {key: (self.now[key], value) for key, value in after.items()}
        self.past.append(Known(changes, needs_book))
        self.ahead.clear()
        self.now |= after

    @property
    def changed(self) -> bool:
        return bool(self.session.state.opened.changed)

    @rule(item=st.sampled_from(["I1", "E2", "I5"]), how=st.sampled_from(["set", "left"]))
    def tick(self, item: str, how: str) -> None:
        done = {**self.now["done"], item: how}
        if done == self.now["done"] or self.away:
            return
        self.session.tick({item_named(item): how}, f"tick of {item}")
        self.did(done=done)

    @precondition(lambda self: not self.away and not self.changed)
    @rule()
    def note(self) -> None:
        book = self.session.state.book
        assert book is not None
        assert book.job is not None
        self.count += 1
        self.session.write_job(replace(book.job, note=f"note {self.count}"), "note")
        self.did(needs_book=True, note=f"note {self.count}")

    @precondition(lambda self: not self.changed)
    @rule()
    def read_cam(self) -> None:
        self.count += 1
        sheet = replace(Sheet(), texts=(("card.icl", str(self.count)),))
        self.session.write_cam(sheet, "reading")
        self.did(cam=sheet)

    @precondition(lambda self: not self.changed)
    @rule()
    def wire(self) -> None:
        bay = replace(Bay(), wired=(1, 5, 3, 6, 2, 4) if self.now["bay"] == Bay() else ())
        self.session.write_ignition(bay, "leads")
        self.did(bay=bay)

    @rule(bore_mm=bores_mm)
    def edit_bore(self, bore_mm: float) -> None:
        engine = replace(self.session.state.engine, bore_mm=bore_mm)
        if engine != self.now["engine"]:
            self.session.edit(engine)
            self.did(engine=engine)

    @precondition(lambda self: not self.away and not self.changed)
    @rule()
    def become_another(self) -> None:
        engine = with_order(self.now["engine"], OTHER_ORDER)
        self.session.edit(engine, words="another order")
        named = replace(engine, name="Rig Birch, changed")
        self.did(engine=named, done={}, note=None, cam=None, bay=None)

    @precondition(lambda self: not self.changed)
    @rule()
    def look_at_another_of_the_book(self) -> None:
        book = self.session.state.book
        if not self.away:
            self.own = book
        self.away = not self.away
        self.session.put_book(OnBook(AWAY) if self.away else self.own)

    def _go(self, there: list[Known], here: list[Known], back: bool, said: str) -> None:
        offered = [known for known in there if not (known.needs_book and self.away)]
        assert bool(said) == bool(offered)
        if offered:
            at = len(there) - 1 - there[::-1].index(offered[-1])
            known = there.pop(at)
            here.append(known)
            self.now |= {k: (ends[0] if back else ends[1]) for k, ends in known.changes.items()}

    @rule()
    def undo(self) -> None:
        self._go(self.past, self.ahead, True, self.session.undo())

    @rule()
    def redo(self) -> None:
        self._go(self.ahead, self.past, False, self.session.redo())

    @invariant()
    def all_slices_are_as_the_model_has_them(self) -> None:
        state = self.session.state
        assert state.engine == self.now["engine"]
        assert {deed_name(deed): how for deed, how in state.work.done.items()} == self.now["done"]
        assert (state.cam, state.ignition) == (self.now["cam"], self.now["bay"])
        if not self.away:
            job = state.book.job if state.book is not None else None
            assert (job.note if job is not None else None) == self.now["note"]
        assert state.engine.name == ("Rig Birch, changed" if self.changed else "Rig Birch")


EveryStep.TestCase.settings = settings(max_examples=60, stateful_step_count=30)
TestEveryStep = EveryStep.TestCase
