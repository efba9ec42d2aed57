"""The book beside the session: every entry is on the disk as it is made.

The book is opened when it is first needed. Where it cannot be used, one sentence says so, the work
goes on in the window, and what could not be written is tried again with the next entry.
"""

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import Final, TypeVar

from true_compass.book.hand import HandFound, hand_of, nut_shift_mm, scatter_mm
from true_compass.book.heat import with_heat
from true_compass.book.job import NOBODY, BookEngine, Job, Person, Target, new_id
from true_compass.book.trend import Entry
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.core.words import counted
from true_compass.files.book_db import BookDb, BookError
from true_compass.files.book_file import Book, Line
from true_compass.files.book_learnt import HandTest, HotCold
from true_compass.files.database import SOON_S, newest_copy
from true_compass.files.engine_values import engine_digest, values_of_engine
from true_compass.session.book import Learnt, OnBook, new_job
from true_compass.session.progress import Clock, utc_now
from true_compass.session.session import Session, SessionState
from true_compass.session.store import Troubles

SEE_CHECK: Final = "the command book check says which"
WAITS: Final = "It is tried again until it is written."
CARRIED: Final = ("person", "blades", "blade_step_mm", "unit", "by_distance", "seen_by")
"""What a new job takes over from the last one of this engine."""


T = TypeVar("T")


class BookKeeper:
    """One person's book, and the session that writes in it."""

    def __init__(self, path: Path, troubles: Troubles, clock: Clock = utc_now) -> None:
        self.path = path
        self.clock = clock
        self.refusal = ""
        """Why the book cannot be used, or why it can only be read."""
        self.damage = ""
        """What makes no sense in the book, if anything does."""
        self._senseless = 0
        """Of how many jobs it was told that they make no sense."""
        self._copy_for: tuple[str, Path | None] = ("", None)
        self._troubles = troubles
        self._book: Book | None = None
        self._session: Session | None = None
        self._on_disk: dict[str, Job] = {}
        self._late: dict[str, tuple[OnBook, Engine]] = {}
        """Jobs as they are here and not yet in the book, by id, each with its engine as set."""
        self._seen = -1
        self._lines: dict[str, list[Line]] = {}
        self._entries: dict[str, list[Entry]] = {}
        self._hands: dict[str, HandFound | None] = {}

    @property
    def book(self) -> Book | None:
        """The open book; None where it cannot be used."""
        if self._book is None and not self.refusal:
            try:
                self._book = Book(self.path, busy_s=SOON_S)
            except BookError as error:
                self.refusal = str(error)
                self.damage = self.refusal if error.is_damage else ""
                if error.passes:
                    self._troubles.tell(self.refusal, self._try_to_open)
                else:
                    self._troubles.tell(self.refusal)
            else:
                if self._book.db.why_read_only:
                    self.refusal = (
                        f"{self._book.db.name} is open for looking only: "
                        f"{self._book.db.why_read_only}. Nothing is written."
                    )
                    self._troubles.tell(self.refusal)
        return self._book

    def _try_to_open(self) -> bool:
        """Whether a book that could not be opened can be by now; then what waited is written."""
        if self._book is None:
            self.refusal = ""
            if self.book is None:
                return False
            self._find_again()
        return self.catch_up()

    def _find_again(self) -> None:
        """What was begun without the book goes on in it, on the engine that the book knows."""
        session = self._session
        if session is None or session.state.book is None:
            return
        on = session.state.book
        engine = self.engine_of(session.state)
        job = on.job
        if job is not None:
            job = replace(job, engine_id=engine.id)
            self._late = {job.id: (OnBook(engine, job), session.state.engine)} | {
                key: late for key, late in self._late.items() if key != job.id
            }
        self.forget()
        session.put_book(OnBook(engine, job if job is not None else self._unfinished(engine)))

    def catch_up(self) -> bool:
        """Write the entries that wait; whether none does any longer."""
        for on, model in list(self._late.values()):
            self._write(on, model)
        return not self._late

    def close(self) -> None:
        """Let go of the file; what waits is tried once more."""
        if self._late:
            self._try_to_open()
        if self._book is not None:
            self._book.close()
        self._book = None
        self.forget()

    @property
    def copy(self) -> Path | None:
        """The newest whole copy of a book that makes no sense."""
        if self.damage and self.damage != self._copy_for[0]:
            self._copy_for = self.damage, newest_copy(BookDb.kind, self.path)
        return self._copy_for[1] if self.damage else None

    def begin_anew(self) -> None:
        """Another file is in the place of the book."""
        self.refusal = self.damage = ""
        self._senseless = 0
        self.forget()

    def forget(self) -> None:
        """Read anew: this window wrote into the book, which the book does not tell it itself."""
        self._lines.clear()
        self._entries.clear()
        self._hands.clear()
        self._seen = -1

    # The session ------------------------------------------------------------------------------

    def watch(self, session: Session) -> Callable[[], None]:
        """Keep every entry of a session as it is made; its engine is found in the book."""
        self._session = session
        leave = session.subscribe(self._on_change)
        session.learn = self._learn
        self.attach()
        return leave

    def _learn(self, before: Learnt | None, after: Learnt | None) -> bool:
        """Put something that was learnt in the place of something else; whether it could be."""
        book = self.book
        if book is None:
            return False
        try:
            if before is not None:
                book.learnt.drop(before.what)
            what = after.what if after is not None else None
            if isinstance(what, HandTest):
                book.learnt.put_hand_test(what, after.person if after is not None else NOBODY)
            elif what is not None:
                book.learnt.put_hot_cold(what)
        except BookError as error:
            self._troubles.tell(str(error))
            return False
        self.forget()
        return True

    def _on_change(self, before: SessionState, after: SessionState) -> None:
        if after.book is None:
            # Another engine is open.
            self.attach()
        elif after.source != before.source:
            self._moved(before, after)
        elif after.book.job is not None and (
            before.book is None or after.book.job is not before.book.job
        ):
            self._write(after.book, after.engine)

    def _moved(self, before: SessionState, after: SessionState) -> None:
        """The engine was saved under another name. A file takes its history along; of a demo rig
        it is an engine of its own from now on.
        """
        on, book = after.book, self.book
        if not (before.source.path or before.opened.changed) or on is None or book is None:
            self.attach()
            return
        engine = replace(on.engine, source=after.key)
        try:
            if book.engine(engine.id) is not None:
                book.put_engine(engine)
        except BookError as error:
            self._troubles.tell(str(error))
        assert self._session is not None
        self._session.put_book(OnBook(engine, on.job))

    def attach(self) -> None:
        """Find the open engine in the book, and the job of today that goes on."""
        session = self._session
        if session is None:
            return
        state = session.state
        engine = self.engine_of(state)
        session.put_book(OnBook(engine, self._unfinished(engine)))

    def engine_of(self, state: SessionState) -> BookEngine:
        """The engine of the book that is open: of its file or rig, the one worked at last."""
        return self._found(state.engine, state.key)

    def _found(self, model: Engine, key: str) -> BookEngine:
        return self._read(
            lambda: self._found_in(self.book, model, key),
            BookEngine(new_id(), model.name, model.serial.strip(), key, engine_digest(model)),
        )

    def _found_in(self, book: Book | None, model: Engine, key: str) -> BookEngine:
        digest = engine_digest(model)
        serial = model.serial.strip()
        if book is not None and serial:
            # An engine that knows its own number is found by it, wherever its file is.
            numbered = [one for one in book.same_number(serial) if one.name == model.name]
            if numbered:
                return replace(numbered[0], digest=digest, source=key)
        elif book is not None:
            same = {one.id: one for one in book.engines() if one.source == key}
            last = book.last_worked(list(same)) if same else None
            found = same.get(last or "") or next(iter(same.values()), None)
            if found is not None:
                return replace(found, digest=digest, name=model.name)
        return BookEngine(new_id(), model.name, serial, key, digest)

    def _unfinished(self, engine: BookEngine) -> Job | None:
        """The newest job of today that nobody signed."""
        today = self.clock().astimezone().date()
        for line in self.lines(engine.id):
            if line.day != today:
                break
            job = self.job(line.id)
            if job is not None and not job.signed:
                return job
        return None

    def rename(self, engine: BookEngine) -> None:
        """The open engine has another number; the job that is written at goes on."""
        session, book = self._session, self.book
        assert session is not None
        on = session.state.book
        assert on is not None
        try:
            if book is not None and book.engine(engine.id) is not None:
                book.put_engine(engine)
        except BookError as error:
            self._troubles.tell(str(error))
            return
        session.put_book(OnBook(engine, on.job))

    def begin(self, origin: str, school: str = "") -> Job:
        """A new job on the open engine; it is written with its first entry."""
        session = self._session
        assert session is not None
        state = session.state
        assert state.book is not None
        engine = replace(state.book.engine, digest=engine_digest(state.engine))
        job = new_job(engine, state.engine, self.clock(), origin, school)
        lines = self.lines(engine.id)
        last = self.job(lines[0].id) if lines else None
        if last is not None:
            job = replace(job, **{field: getattr(last, field) for field in CARRIED})
        job = replace(job, targets=self._heated(engine, job))
        session.put_book(OnBook(engine, job))
        return job

    def _heated(self, engine: BookEngine, job: Job) -> tuple[Target, ...]:
        """The targets of a new job, those for the other temperature as this engine was measured."""
        book = self.book
        if book is None:
            return job.targets
        nothing: list[HotCold] = []
        found = self._read(lambda: book.learnt.hot_cold(engine.id), nothing)
        if not found:
            return job.targets
        words = f"this engine, measured {found[-1].day.isoformat()}"
        return with_heat(job.targets, found, words)

    def job_now(self, origin: str, school: str = "") -> Job:
        """The job that is written at, or a new one."""
        assert self._session is not None
        book = self._session.state.book
        if book is not None and book.job is not None and not book.job.signed:
            today = self.clock().astimezone().date()
            if book.job.day == today:
                return book.job
        return self.begin(origin, school)

    def _write(self, on: OnBook, model: Engine) -> None:
        """Write what differs of a job; where that cannot be, it waits and is told."""
        job, book = on.job, self.book
        assert job is not None
        before = self._on_disk.get(job.id)
        if (job.is_blank and before is None) or job == before:
            self._late.pop(job.id, None)
            return
        self._late[job.id] = on, model
        if book is None:
            return
        try:
            book.db.back_up_of_day(self.clock().astimezone().date())
            with book.db.writing("the entry"):
                if before is None and book.job(job.id) is None:
                    book.put_engine(on.engine, values_of_engine(model))
                if job.is_blank:
                    book.drop_job(job.id)
                else:
                    book.write_job(before, job, self.clock().replace(microsecond=0).isoformat())
        except BookError as error:
            if error.passes:
                # Another program is done within a moment as a rule: it is told if it is not.
                self._troubles.put_off(f"{error} {WAITS}", self.catch_up)
            else:
                del self._late[job.id]
                self._troubles.tell(str(error))
            return
        del self._late[job.id]
        if job.is_blank:
            self._on_disk.pop(job.id, None)
        else:
            self._on_disk[job.id] = job
        self.forget()

    def write_of(self, model: Engine, key: str, make: Callable[[BookEngine, datetime], Job]) -> str:
        """Write a job of an engine that need not be the open one; what was written, or why not."""
        book, now = self.book, self.clock()
        if book is None:
            return self.refusal
        on = self._session.state.book if self._session is not None else None
        open_here = on is not None and on.engine.source == key
        engine = on.engine if on is not None and open_here else self._found(model, key)
        job = make(engine, now)
        try:
            if book.engine(engine.id) is None:
                book.put_engine(engine, values_of_engine(model))
            book.write_job(None, job, now.replace(microsecond=0).isoformat())
        except BookError as error:
            return str(error)
        self.forget()
        if self._session is not None and on is not None and open_here:
            self._session.put_book(on.with_job(job))
        return f"Written into the book of {engine.title}."

    # Reading ----------------------------------------------------------------------------------

    def changed_elsewhere(self) -> bool:
        """Whether another window or command wrote since it was read last."""
        return self._book is not None and self._seen != self._book.db.data_version

    def _fresh(self) -> None:
        """Forget what was read before another window wrote."""
        version = self._book.db.data_version if self._book is not None else 0
        if version != self._seen:
            self._lines.clear()
            self._entries.clear()
            self._hands.clear()
            self._seen = version

    def _read(self, look: Callable[[], T], nothing: T) -> T:
        """What the book answers; nothing, and told, where it cannot."""
        try:
            found = look()
        except BookError as error:
            if error.is_damage:
                self.damage = str(error)
            self._troubles.tell(str(error))
            return nothing
        book = self._book
        if book is not None and len(book.senseless) != self._senseless:
            self._senseless = len(book.senseless)
            count = counted(self._senseless, "job")
            self.damage = str(book.db.damaged(f"{count} left out, {SEE_CHECK}"))
            self._troubles.tell(self.damage)
        return found

    def job(self, job_id: str) -> Job | None:
        """The whole of one job, as the book has it now."""
        book = self.book
        try:
            job = book.job(job_id) if book is not None else None
        except BookError as error:
            self._troubles.tell(str(error))
            return None
        if job is not None:
            self._on_disk[job_id] = job
        return job

    def lines(self, engine_id: str) -> list[Line]:
        """The list of jobs of an engine, the newest first."""
        book = self.book
        if book is None:
            return []
        self._fresh()
        if engine_id not in self._lines:
            self._lines[engine_id] = self._read(lambda: book.lines(engine_id), [])
        return self._lines[engine_id]

    def counts(self, job_ids: list[str]) -> dict[str, tuple[int, int]]:
        """How many items of each job were set, and how many it has."""
        book = self.book
        none = dict.fromkeys(job_ids, (0, 0))
        return none if book is None else self._read(lambda: book.counts(job_ids), none)

    def entries(self, engine_id: str) -> list[Entry]:
        """The newest jobs of an engine as a trend needs them."""
        book = self.book
        if book is None:
            return []
        self._fresh()
        if engine_id not in self._entries:
            self._entries[engine_id] = self._read(lambda: book.entries(engine_id), [])
        return self._entries[engine_id]

    def person(self, name: str) -> Person:
        """The person of a name."""
        book = self.book
        nobody = Person("", name.strip())
        return nobody if book is None else self._read(lambda: book.person(name), nobody)

    def hand(self, name: str) -> HandFound | None:
        """What the newest hand test of a person showed, by name; None where there is none."""
        book, told = self.book, name.casefold()
        if book is None or not told:
            return None
        # Every item of every picture asks for two hands.
        self._fresh()
        if told not in self._hands:
            self._hands[told] = self._read(lambda: _newest_hand(book, told), None)
        return self._hands[told]

    def scatter_of(self, name: str) -> float:
        """Scatter of one reading by a person, mm; what is usual where no test was made."""
        return scatter_mm(self.hand(name))

    def nut_shift_mm(self, engine_id: str, person: Person) -> float | None:
        """What a person's nut usually does on this engine."""
        book = self.book
        if book is None or not person.id:
            return None
        return nut_shift_mm(self._read(lambda: book.nut_shifts_mm(engine_id, person.id), []))


def _newest_hand(book: Book, name: str) -> HandFound | None:
    ids = {person.id for person in book.people() if person.name.casefold() == name}
    tests = [test for test in book.learnt.hand_tests() if test.person_id in ids]
    try:
        return hand_of(tests[-1].pairs, tests[-1].step_mm) if tests else None
    except EngineError:
        return None
