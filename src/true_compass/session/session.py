"""What is open now: one immutable state, one session that alone changes it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from true_compass.core.angles import wrap_deg
from true_compass.core.engine import Engine
from true_compass.core.events import ValveEvent, valve_events
from true_compass.core.identity import changed_name, identity_mark, is_same_engine
from true_compass.core.state import AS_SET, EngineState, Rig, WhatIf, engine_state
from true_compass.session.history import NOWHERE, History, Place, Step
from true_compass.session.work import FRESH, Deed, Work

if TYPE_CHECKING:
    from true_compass.bench.scenario import Scenario
    from true_compass.book.job import Job
    from true_compass.core.degreeing.sheet import Sheet
    from true_compass.core.ignition.bay import Bay
    from true_compass.session.bench import OnBench
    from true_compass.session.book import Learnt, OnBook
    from true_compass.session.lesson import OnLesson


@dataclass(frozen=True, slots=True)
class Source:
    """Where the open engine came from: a demo rig's short name, or a file."""

    rig: str = ""
    path: Path | None = None
    digest: str = field(default="", compare=False)
    """Mark of the file's text as it was read."""

    @property
    def key(self) -> str:
        """One text for each source, to keep things by."""
        return f"file {self.path}" if self.path is not None else f"rig {self.rig}"


@dataclass(frozen=True, slots=True)
class Opened:
    """The slice of the engine: as set, where it came from, and what may be done to it.

    Plans, cards and files go by `rig` alone. `edited` tells that the engine is no longer what its
    source says; `changed` is the mark of one that is another engine by now, so that work, job and
    readings are its own. While it is `locked`, for a class, nobody changes it: students turn and
    look.
    """

    rig: Rig
    source: Source
    edited: bool = False
    locked: bool = False
    changed: str = ""

    @property
    def key(self) -> str:
        """One text for each engine, to keep by what was done on it."""
        return f"{self.source.key} changed {self.changed}" if self.changed else self.source.key


@dataclass(frozen=True, slots=True)
class Crank:
    """The slice of the crank: where it stands, and where before the last jump, or None."""

    at_deg: float = 0.0
    back_deg: float | None = None


@dataclass(frozen=True)
class SessionState:
    """What is open, in slices that change on their own: engine, crank, what is tried, the work.

    `tried` is the engine with another lash or advance, for a screen that says so, or None. A slice
    of its own is all that another part of the program needs to be kept and told here.
    """

    opened: Opened
    crank: Crank = Crank()
    tried: Rig | None = None
    work: Work = FRESH
    bench: "OnBench | None" = None
    book: "OnBook | None" = None
    cam: "Sheet | None" = None
    ignition: "Bay | None" = None
    lesson: "OnLesson | None" = None
    in_hand: bool = False
    """Whether a hand still moves what has changed: it is kept when the hand lets go."""

    @property
    def rig(self) -> Rig:
        """The engine as set."""
        return self.opened.rig

    @property
    def source(self) -> Source:
        """Where the engine came from."""
        return self.opened.source

    @property
    def key(self) -> str:
        """One text for the engine that is open, to keep by what was done on it."""
        return self.opened.key

    @property
    def owned(self) -> "Owned":
        """What belongs to this engine alone."""
        return Owned(self.opened.changed, self.work, self.book, self.cam, self.ignition)

    @property
    def edited(self) -> bool:
        """Whether the engine is no longer what its source says."""
        return self.opened.edited

    @property
    def locked(self) -> bool:
        """Whether the engine stays as it is, for a class."""
        return self.opened.locked

    @property
    def crank_deg(self) -> float:
        """Where the crank stands."""
        return self.crank.at_deg

    @property
    def back_deg(self) -> float | None:
        """Where it stood before the last jump."""
        return self.crank.back_deg

    @property
    def engine(self) -> Engine:
        """The engine that is open."""
        return self.rig.engine

    @property
    def shown(self) -> Rig:
        """The engine as it is tried, or as set where nothing is."""
        return self.tried or self.rig

    @cached_property
    def now(self) -> EngineState:
        """Every cylinder and valve at the crank angle, as tried."""
        return engine_state(self.shown, self.crank_deg)


@dataclass(frozen=True, slots=True)
class Owned:
    """What belongs to one engine alone, so that it stays behind where the engine becomes another:
    its mark, the work on it, its place in the book, what was read of its cam and its ignition.
    """

    changed: str = ""
    work: Work = FRESH
    book: "OnBook | None" = None
    cam: "Sheet | None" = None
    ignition: "Bay | None" = None


def _nothing() -> None:
    """Nobody is to be told."""


def _learns_nothing(_before: "Learnt | None", _after: "Learnt | None") -> bool:
    return False


def _no_work(_key: str) -> Work:
    return FRESH


def _nowhere() -> Place:
    return NOWHERE


Listener = Callable[[SessionState, SessionState], None]


class Session:
    """Holds the state and tells its listeners `(before, after)` of every change."""

    def __init__(
        self, engine: Engine, source: Source, crank_deg: float = 0.0, work: Work = FRESH
    ) -> None:
        self._state = SessionState(
            Opened(Rig.of(engine), source), Crank(wrap_deg(crank_deg)), work=work
        )
        self._at_source = engine
        self._events: tuple[ValveEvent, ...] | None = None
        self._listeners: list[Listener] = []
        self._history = History()
        self.when_locked: Callable[[], object] = _nothing
        """Called where an edit is refused because the engine is locked."""
        self.work_of: Callable[[str], Work] = _no_work
        """What was done before on the engine of a key."""
        self.learn: Callable[[Learnt | None, Learnt | None], bool] = _learns_nothing
        """Puts what was learnt into the book in place of something else; whether it could."""
        self.where: Callable[[], Place] = _nowhere
        """The workspace and the page that is open, so that a step knows where it was made."""
        self.went_back_to: Place = NOWHERE
        """Where the step was made that was undone or redone last."""

    @property
    def state(self) -> SessionState:
        """The state as it is now."""
        return self._state

    @property
    def valve_events(self) -> tuple[ValveEvent, ...]:
        """Openings and closings as tried, in running order; worked out when asked for."""
        if self._events is None:
            self._events = valve_events(self._state.shown)
        return self._events

    def subscribe(self, listener: Listener) -> Callable[[], None]:
        """Call `listener(before, after)` after every change. Returns the way to stop that."""
        self._listeners.append(listener)
        listeners = self._listeners

        def leave() -> None:
            # Where all of a window goes at once, the session may have gone first.
            if listener in listeners:
                listeners.remove(listener)

        return leave

    def open_engine(
        self, engine: Engine, source: Source, crank_deg: float = 0.0, work: Work = FRESH
    ) -> None:
        """Put another engine in place of the open one, with what has been done on it."""
        self._events = None
        self._at_source = engine
        self._history.forget()
        opened = Opened(Rig.of(engine), source, locked=self._state.locked)
        # What is on the bench, and a lesson, have engines of their own.
        crank, was = Crank(wrap_deg(crank_deg)), self._state
        after = SessionState(opened, crank, work=work, bench=was.bench, lesson=was.lesson)
        self._change(after)

    # Edits and ticks, which can be undone ----------------------------------------------------

    def edit(self, engine: Engine, field: str = "", words: str = "") -> None:
        """Put a changed engine in place of the open one; `undo` brings the old one back.

        Edits of one `field` after another are one step. `words` name the step: `edit of bore`.
        """
        if engine == self._state.engine:
            return
        if self._state.locked:
            self.when_locked()
            return
        told = words or f"edit of {field}" if words or field else "edit"
        self._edit(engine, told, field)

    def _edit(self, engine: Engine, told: str, field: str = "") -> None:
        """Change the engine as one step. One that is another engine by now gets a name of its own,
        and work, job and readings of its own; undo brings all of it back.
        """
        before = self._state
        engine = self._named(engine)
        owned = None
        changed = self._mark(engine)
        if changed != before.opened.changed:
            key = replace(before.opened, changed=changed).key
            owned = (before.owned, Owned(changed, self.work_of(key)))
        step = Step(told, engine=(before.engine, engine), owned=owned, page=self.where())
        self._history.add(step, field)
        self._put(engine, owned[1] if owned else None)

    def _mark(self, engine: Engine) -> str:
        same = is_same_engine(engine, self._at_source)
        return "" if same else identity_mark(engine)

    def _named(self, engine: Engine) -> Engine:
        """The engine with a name that tells whether it is still the one that its source holds."""
        own = self._at_source.name
        if is_same_engine(engine, self._at_source):
            return replace(engine, name=own) if engine.name == changed_name(own) else engine
        return replace(engine, name=changed_name(own)) if engine.name == own else engine

    def edit_late(self, late: tuple[bool, ...]) -> None:
        """Let the open engine fire at other of its TDCs."""
        self.edit(replace(self._state.engine, late=late), words="another order")

    def tick(
        self, changes: Mapping[Deed, str | None], words: str, job: "Job | None" = None
    ) -> None:
        """Note how items were seen to (None: not at all), and in the `job` that is written at what
        that says; `undo` takes both back.
        """
        done = self._state.work.done
        ticks = {d: (done.get(d), how) for d, how in changes.items() if done.get(d) != how}
        if ticks:
            book = self._state.book
            jobs = None
            if book is not None and book.job is not None and job is not None and job != book.job:
                jobs = (book.job, job)
                self._put_job(job)
            self._history.add(
                Step(words, ticks=ticks, job=jobs, owner=self._state.key, page=self.where())
            )
            self._work_on(self._state.work.with_done(changes))

    def work_at(self, **changes: Any) -> None:
        """Choose a way of adjusting, a stop, or a round that only checks; not undone."""
        self._work_on(replace(self._state.work, **changes))

    @property
    def undo_words(self) -> str:
        """What `undo` would take back, such as `tick of I3`; nothing where there is nothing."""
        return self._history.undo_words(self._is_here)

    @property
    def redo_words(self) -> str:
        """What `redo` would bring back."""
        return self._history.redo_words(self._is_here)

    def _is_here(self, step: Step) -> bool:
        """Whether what a step belongs to is open: else it is not offered."""
        book = self._state.book
        if step.job is not None and (book is None or book.engine.id != step.job[0].engine_id):
            return False
        return not step.owner or step.owner == self._state.key

    def undo(self) -> str:
        """Take the last step back; what that was, or nothing. An edit stays while locked."""
        if self._state.locked and self._history.undoes_edit(self._is_here):
            self.when_locked()
            return ""
        return self._step(self._history.undo(self._is_here))

    def redo(self) -> str:
        """Bring the last step that was undone back; what that was, or nothing."""
        if self._state.locked and self._history.redoes_edit(self._is_here):
            self.when_locked()
            return ""
        return self._step(self._history.redo(self._is_here))

    def lock(self, locked: bool) -> None:
        """Let nobody change the engine, or let it be changed again; work and turning go on."""
        if locked != self._state.locked:
            self._open(locked=locked)

    def _step(self, step: Step | None) -> str:
        if step is None:
            return ""
        self.went_back_to = step.page
        if step.ticks is not None:
            after = {deed: how for deed, (_, how) in step.ticks.items()}
            self._work_on(self._state.work.with_done(after))
        if step.engine is not None:
            self._put(step.engine[1], step.owned[1] if step.owned else None)
        if step.job is not None:
            self._put_job(step.job[1])
        if step.learnt is not None:
            self.learn(*step.learnt)
            self._tell_book()
        if step.sheet is not None:
            self.put_cam(step.sheet[1])
        if step.bay is not None:
            self.put_ignition(step.bay[1])
        return step.words

    def _work_on(self, work: Work) -> None:
        if work != self._state.work:
            self._change(replace(self._state, work=work))

    def _put(self, engine: Engine, owned: "Owned | None" = None) -> None:
        self._events = None
        edited = engine != self._at_source
        if owned is None:
            self._open(rig=Rig.of(engine), edited=edited)
            return
        opened = replace(
            self._state.opened, rig=Rig.of(engine), edited=edited, changed=owned.changed
        )
        after = replace(
            self._state,
            opened=opened,
            tried=None,
            work=owned.work,
            book=owned.book,
            cam=owned.cam,
            ignition=owned.ignition,
        )
        self._change(after)

    # The book --------------------------------------------------------------------------------

    def put_book(self, book: "OnBook | None") -> None:
        """Another engine of the book, or another job to write at; not undone."""
        self._change(replace(self._state, book=book))

    def write_job(self, job: "Job", words: str) -> None:
        """Put the next state of the job that is written at; `undo` brings the old one back."""
        book = self._state.book
        assert book is not None
        assert book.job is not None
        if job != book.job:
            self._history.add(Step(words, job=(book.job, job), page=self.where()))
            self._put_job(job)

    def write_learnt(self, learnt: "Learnt", words: str, job: "Job | None" = None) -> bool:
        """Let the book learn something, and the open job go by it; `undo` takes both back. Whether
        it was written.
        """
        if not self.learn(None, learnt):
            return False
        book = self._state.book
        jobs = None
        if book is not None and book.job is not None and job is not None and job != book.job:
            jobs = (book.job, job)
            self._put_job(job)
        self._history.add(Step(words, learnt=(None, learnt), job=jobs, page=self.where()))
        self._tell_book()
        return True

    def _tell_book(self) -> None:
        """What the book has learnt is another: whoever shows it looks again."""
        if self._state.book is not None:
            self._change(replace(self._state, book=replace(self._state.book)))

    def _put_job(self, job: "Job") -> None:
        # Where the engine of that job is no longer open, its way back is gone with it.
        book = self._state.book
        if book is not None and book.engine.id == job.engine_id:
            self._change(replace(self._state, book=book.with_job(job)))

    # The cam ---------------------------------------------------------------------------------

    def put_cam(self, sheet: "Sheet | None") -> None:
        """Another sheet of readings of the cam; not undone."""
        if sheet != self._state.cam:
            self._change(replace(self._state, cam=sheet))

    def write_cam(self, sheet: "Sheet", words: str) -> None:
        """Put the next state of the readings of the cam; `undo` brings the old one back."""
        before = self._state.cam
        assert before is not None
        if sheet != before:
            step = Step(words, sheet=(before, sheet), owner=self._state.key, page=self.where())
            self._history.add(step)
            self.put_cam(sheet)

    # The ignition ----------------------------------------------------------------------------

    def put_ignition(self, bay: "Bay | None", *, in_hand: bool = False) -> None:
        """Another state of the ignition, as while its body is dragged; not undone."""
        if bay != self._state.ignition or in_hand != self._state.in_hand:
            self._change(replace(self._state, ignition=bay, in_hand=in_hand))

    def write_ignition(self, bay: "Bay", words: str, before: "Bay | None" = None) -> None:
        """Put the next state of the ignition; `undo` brings the old one back.

        After a drag `before` is the state in which it began.
        """
        was = before or self._state.ignition
        assert was is not None
        if bay != was:
            step = Step(words, bay=(was, bay), owner=self._state.key, page=self.where())
            self._history.add(step)
        self.put_ignition(bay)

    # The bench, where nothing is undone ------------------------------------------------------

    def begin_bench(self, scenario: "Scenario") -> None:
        """Put a covered engine on the bench, in place of what was there."""
        # A start without the bench should not pay for it.
        from true_compass.session.bench import OnBench

        self.put_on_bench(OnBench.begin(scenario))

    def put_on_bench(self, bench: "OnBench | None") -> None:
        """Put a run on the bench that was begun before, or clear it."""
        self._change(replace(self._state, bench=bench))

    def bench_do(self, action: dict[str, Any]) -> dict[str, Any]:
        """Do one action; what it answered. Raises `RefusedError`, and nothing has changed."""
        assert self._state.bench is not None
        after = self._state.bench.done(action)
        self._change(replace(self._state, bench=after))
        assert after.last is not None
        return after.last[1]

    # A lesson, where nothing is undone either -------------------------------------------------

    def put_lesson(self, lesson: "OnLesson | None") -> None:
        """Another place in a lesson, another answer, another lesson, or none."""
        if lesson is not self._state.lesson:
            self._change(replace(self._state, lesson=lesson))

    # Files -----------------------------------------------------------------------------------

    def reread(self, engine: Engine, source: Source) -> None:
        """The source was read again; the crank stays, and `undo` brings the edits back."""
        self._at_source = engine
        if engine != self._state.engine:
            self._edit(engine, "reading it again")
        self._events = None
        rig = Rig.of(engine)
        self._open(rig=rig, source=source, edited=False, changed="")

    def saved(self, source: Source) -> None:
        """The open engine has been written to a file, which is now where it comes from."""
        self._at_source = self._state.engine
        was = self._state.key
        self._history.rename(was, source.key)
        self._open(source=source, edited=False, changed="")

    # The crank, and what is tried ------------------------------------------------------------

    def try_out(self, what_if: WhatIf) -> None:
        """Show the engine with another lash or advance; the engine itself stays as it is."""
        if what_if != self._state.shown.what_if:
            self._events = None
            tried = None if what_if == AS_SET else self._state.rig.trying(what_if)
            self._change(replace(self._state, tried=tried))

    def turn_to(self, crank_deg: float) -> None:
        """Turn the crank to an angle (any whole cycles more or less)."""
        angle = wrap_deg(float(crank_deg))
        if angle != self._state.crank_deg:
            self._change(replace(self._state, crank=replace(self._state.crank, at_deg=angle)))

    def mark_way_back(self) -> None:
        """Remember the crank angle as the one to come back to."""
        here = Crank(self._state.crank_deg, self._state.crank_deg)
        self._change(replace(self._state, crank=here))

    def _open(self, **changes: Any) -> None:
        """Change the slice of the engine; another engine ends what is tried."""
        tried = None if "rig" in changes else self._state.tried
        opened = replace(self._state.opened, **changes)
        self._change(replace(self._state, opened=opened, tried=tried))

    def _change(self, after: SessionState) -> None:
        before, self._state = self._state, after
        for listener in tuple(self._listeners):
            listener(before, after)
