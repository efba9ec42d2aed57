"""Answers on the disk, each at once: the record of answers, and a result file a lesson and person.

A result is a chained log in the state folder, one a window; where the lesson was handed out, the
same file lies beside it for the instructor. A stick that was pulled out and a full disk are told
once, and nothing is lost: what has no room waits and is written when there is some.
"""

import contextlib
import re
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from itertools import takewhile
from pathlib import Path
from typing import Final
from uuid import uuid4

from true_compass.core.chained import compact
from true_compass.files.answers_file import NAME, Answers, AnswersError
from true_compass.files.atomic import write_atomic
from true_compass.files.database import SOON_S
from true_compass.files.growing import GrowingFile, is_held
from true_compass.files.lesson_file import lesson_digest, lesson_text
from true_compass.files.problems import EngineFileError
from true_compass.files.reading import read_text
from true_compass.lessons.lesson import Lesson, set_seed
from true_compass.lessons.mastery import Shown
from true_compass.lessons.result import (
    SUFFIX,
    Header,
    Person,
    Result,
    ResultError,
    chained,
    parse_result,
    together,
)
from true_compass.lessons.work import Given, firsts_of, shown_by
from true_compass.session.lesson import OnLesson
from true_compass.session.session import Session, SessionState
from true_compass.session.store import Troubles
from true_compass.version import VERSION

Clock = Callable[[], datetime]
MOST_BYTES: Final = 50_000_000
MOST_RESULTS: Final = 200
SetOf = tuple[str, str, int]
"""A set of questions: lesson, person, seed."""


class LessonKeeper:
    """Keeps every answer of a session, as it is given."""

    def __init__(self, data: Path, folder: Path, troubles: Troubles, clock: Clock) -> None:
        self.folder = folder
        self._data = data
        self._troubles = troubles
        self._clock = clock
        self._answers: Answers | None = None
        self._late: list[tuple[Person, str, Given, Shown]] = []
        """Answers that the record has not taken yet."""
        self._files: dict[SetOf, GrowingFile] = {}
        """Results that are written: the one that is worked at, and earlier ones of which something
        waits.
        """
        self._of: SetOf | None = None
        self.handed_in: Path | None = None
        """Where the result of the lesson that is worked through was last left, or None."""

    @property
    def answers(self) -> Answers | None:
        """The record of answers; None, and told, where it cannot be used."""
        try:
            return self._opened()
        except AnswersError as error:
            self._troubles.tell(str(error))
            return None

    def _opened(self) -> Answers:
        if self._answers is None:
            self._answers = Answers(self._data / NAME, busy_s=SOON_S)
        return self._answers

    def now(self) -> datetime:
        """The time, UTC, in whole seconds."""
        return self._clock().astimezone(UTC).replace(microsecond=0)

    def today(self) -> str:
        """The local date."""
        return self._clock().astimezone().date().isoformat()

    def close(self) -> None:
        """Let go of the files; what waits is tried once more."""
        self._catch_up_results()
        self._catch_up_record()
        for of in list(self._files):
            self._files.pop(of).close()
        self._of = None
        if self._answers is not None:
            self._answers.close()
            self._answers = None

    def watch(self, session: Session) -> Callable[[], None]:
        """Keep every answer of a session."""

        def on_change(before: SessionState, after: SessionState) -> None:
            lesson = after.lesson
            if lesson is None or lesson.practice or lesson is before.lesson:
                return
            known = len(before.lesson.given) if before.lesson else 0
            if before.lesson is None or lesson.lesson is not before.lesson.lesson:
                known = len(lesson.given)
            for given in lesson.given[known:]:
                self.keep(lesson, given)

        return session.subscribe(on_change)

    # Answers ----------------------------------------------------------------------------------

    def keep(self, lesson: OnLesson, given: Given) -> None:
        """Write one answer into the record and into the result."""
        if any(before.at > given.at for before in lesson.given[-2:-1]):
            self._troubles.tell(
                "The clock of this computer went back: the answer is kept, with a date before the "
                "last one. Set the clock."
            )
        shown = shown_by(lesson.lesson, given)
        self._late.append((lesson.person, lesson.lesson.id, given, shown))
        self._write_record()
        if lesson.lesson.is_free:
            return
        file = self._file_of(lesson, given)
        file.add(chained(file.lines[-1], given))
        self._write_results()
        if lesson.folder:
            self.hand_in(Path(lesson.folder))

    def _write_record(self) -> None:
        """Put into the record what waits for it, in the order in which it was given."""
        try:
            self._write_late()
        except AnswersError as error:
            if error.passes:
                self._troubles.put_off(str(error), self._catch_up_record)
            else:
                # The next answer tries again: nothing else will change it.
                self._troubles.tell(str(error))

    def _write_late(self) -> None:
        while self._late:
            self._opened().write(*self._late[0])
            del self._late[0]

    def _write_results(self) -> None:
        try:
            self._write_files()
        except OSError as error:
            self._troubles.tell(
                f"The result cannot be kept in {self.folder} ({error.strerror}). It waits here "
                "until there is room: make some before the program is closed.",
                self._catch_up_results,
            )

    def _write_files(self) -> None:
        for of, file in list(self._files.items()):
            file.write()
            if of != self._of:
                self._files.pop(of).close()

    def _catch_up_results(self) -> bool:
        """Write the results that wait; whether none does any longer."""
        with contextlib.suppress(OSError):
            self._write_files()
            return True
        return False

    def _catch_up_record(self) -> bool:
        """Write the answers that wait for the record; whether none does any longer."""
        with contextlib.suppress(AnswersError):
            self._write_late()
            return True
        return False

    def _file_of(self, lesson: OnLesson, given: Given | None = None) -> GrowingFile:
        """The result of this lesson and person, with all that was answered before `given`: one
        that is there and that no other window writes, or a new one.
        """
        of = (lesson.lesson.id, lesson.person.id, lesson.seed)
        if self._of != of:
            self._of, self.handed_in = of, None
        if of not in self._files:
            before = list(takewhile(lambda one: one is not given, lesson.given))
            file = self._gone_on_with(lesson, before) or self._begun(lesson, before)
            self._files[of] = file
        return self._files[of]

    def _gone_on_with(self, lesson: OnLesson, before: Sequence[Given]) -> GrowingFile | None:
        """A result that nobody writes, and that holds all that was answered."""
        told = {compact(one.record()) for one in before}
        for path, result in self._results_of(lesson.lesson, lesson.person):
            held = {compact(one.record()) for one in result.given}
            if result.header.seed != lesson.seed or not told <= held:
                continue
            with contextlib.suppress(OSError, EngineFileError):
                text = read_text(path, "a result", MOST_BYTES)
                lines = [line for line in text.split("\n")[:-1] if line.strip()]
                file = GrowingFile.gone_on_with(path, lines)
                if file is not None:
                    return file
        return None

    def _begun(self, lesson: OnLesson, before: Sequence[Given]) -> GrowingFile:
        header = Header(
            str(uuid4()),
            lesson.lesson.id,
            lesson_digest(lesson.lesson),
            lesson.lesson.title,
            lesson_text(lesson.lesson),
            lesson.person,
            lesson.seed,
            VERSION,
        )
        self._forget_the_oldest()
        name = result_name(lesson.lesson.title, lesson.person, header.id)
        file = GrowingFile(self.folder / name, [header.line()])
        for one in before:
            file.add(chained(file.lines[-1], one))
        return file

    def erase(self, person: Person) -> None:
        """Take one person out of the record, with their result files. Raises `AnswersError`."""
        if self.answers is not None:
            self.answers.erase(person.id)
        for path, result in self._results():
            if result.header.person.id == person.id:
                try:
                    path.unlink(missing_ok=True)
                except OSError as error:
                    self._troubles.tell(f"{path} could not be erased ({error.strerror}).")
        self._late = [late for late in self._late if late[0].id != person.id]
        for of in list(self._files):
            if of[1] == person.id:
                self._files.pop(of).close()

    def hand_in_again(self, lesson: OnLesson) -> bool:
        """Leave the result of a lesson where it was handed out; whether that could be done."""
        self._file_of(lesson)
        self._write_results()
        return self.hand_in(Path(lesson.folder))

    def hand_in(self, folder: Path) -> bool:
        """Put the result beside its lesson; whether that could be done."""
        file = self._files.get(self._of) if self._of is not None else None
        if file is None:
            return False
        goal = folder / file.path.name
        try:
            # Whatever somebody put there under that name is replaced, never written through.
            write_atomic(goal, file.text(), follow=False)
        except OSError as error:
            self.handed_in = None
            self._troubles.tell(
                f"The result could not be left in {folder} ({error.strerror}). It is kept here: "
                "put the stick back, and the next answer leaves it there."
            )
            return False
        self.handed_in = goal
        return True

    def answered_of(self, person: Person) -> dict[str, int]:
        """How many questions a person has answered, by lesson, as the results here have it."""
        asked: dict[tuple[str, int], set[tuple[int, int]]] = {}
        for _, result in self._results():
            header = result.header
            if header.person.id == person.id and result.whole:
                of_set = asked.setdefault((header.lesson_id, header.seed), set())
                of_set |= {(given.part, given.nth) for given in result.given}
        found: dict[str, int] = {}
        for (lesson, _), of_set in asked.items():
            found[lesson] = max(found.get(lesson, 0), len(of_set))
        return found

    def _results(self) -> list[tuple[Path, Result]]:
        found = []
        for path in self._paths():
            with contextlib.suppress(EngineFileError, ResultError):
                found.append((path, parse_result(read_text(path, "a result", MOST_BYTES))))
        return found

    def _paths(self) -> list[Path]:
        with contextlib.suppress(OSError):
            paths = [p for p in self.folder.iterdir() if p.name.endswith(SUFFIX)]
            return sorted(paths, key=lambda path: path.stat().st_mtime, reverse=True)
        return []

    def _forget_the_oldest(self) -> None:
        for path in self._paths()[MOST_RESULTS:]:
            if not is_held(path):
                with contextlib.suppress(OSError):
                    path.unlink(missing_ok=True)

    def set_of(self, lesson: Lesson, person: Person) -> tuple[int, tuple[Given, ...]]:
        """The seed of the set that a person goes on with, and what was answered of it: the last set
        that was not finished, on whatever day it was begun, else the set of today.
        """
        today = set_seed(lesson, person.id, self.today())
        by_seed: dict[int, list[Result]] = {}
        for _, result in self._results_of(lesson, person):
            by_seed.setdefault(result.header.seed, []).append(result)
        sets = {seed: together(results) for seed, results in by_seed.items()}
        for seed, given in sets.items():
            if 0 < len(firsts_of(given)) < lesson.asked_count:
                return seed, given
        return today, sets.get(today, ())

    def _results_of(self, lesson: Lesson, person: Person) -> list[tuple[Path, Result]]:
        """The whole results of one person in one lesson as it is now, the newest first."""
        of = (lesson.id, person.id, lesson_digest(lesson))

        def is_of(result: Result) -> bool:
            header = result.header
            return (header.lesson_id, header.person.id, header.lesson_digest) == of

        return [
            (path, result) for path, result in self._results() if is_of(result) and result.whole
        ]


def result_name(title: str, person: Person, result_id: str) -> str:
    """The name of a result's file: lesson, person, and some of its id.

    >>> result_name("Valves & stops", Person("x", "Ines Ø"), "12345678-aaaa")
    'valves-stops-ines-12345678.result.jsonl'
    """
    parts = [title, person.name, result_id[:8]]
    plain = [re.sub(r"[^a-z0-9]+", "-", part.casefold()).strip("-")[:40] for part in parts]
    return "-".join(part for part in plain if part) + SUFFIX
