"""Answers on the disk, each at once: the record of answers, and a result file a lesson and person.

A result is a chained log in the state folder; where the lesson was handed out, the same file lies
beside it for the instructor. A stick that was pulled out is told once, and nothing is lost: what is
here is handed in when it is there again.
"""

import contextlib
import os
import re
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Final
from uuid import uuid4

from true_compass.files.answers_file import NAME, Answers, AnswersError
from true_compass.files.atomic import write_atomic
from true_compass.files.lesson_file import lesson_digest, lesson_text
from true_compass.files.problems import EngineFileError
from true_compass.files.reading import read_text
from true_compass.lessons.lesson import Lesson, set_seed
from true_compass.lessons.result import (
    SUFFIX,
    Header,
    Person,
    Result,
    ResultError,
    chained,
    parse_result,
)
from true_compass.lessons.work import Given, firsts_of, shown_by
from true_compass.session.lesson import OnLesson
from true_compass.session.session import Session, SessionState
from true_compass.session.store import Troubles
from true_compass.version import VERSION

Clock = Callable[[], datetime]
MOST_BYTES: Final = 50_000_000
MOST_RESULTS: Final = 200


class LessonKeeper:
    """Keeps every answer of a session, as it is given."""

    def __init__(self, data: Path, folder: Path, troubles: Troubles, clock: Clock) -> None:
        self.folder = folder
        self._data = data
        self._troubles = troubles
        self._clock = clock
        self._answers: Answers | None = None
        self._path: Path | None = None
        self._lines: list[str] = []
        self._of: tuple[str, str, int] | None = None
        self.handed_in: Path | None = None
        """Where the result of the lesson that is worked through was last left, or None."""

    @property
    def answers(self) -> Answers | None:
        """The record of answers; None, and told, where it cannot be used."""
        if self._answers is None:
            try:
                self._answers = Answers(self._data / NAME)
            except AnswersError as error:
                self._troubles.tell(str(error))
        return self._answers

    def now(self) -> datetime:
        """The time, UTC, in whole seconds."""
        return self._clock().astimezone(UTC).replace(microsecond=0)

    def today(self) -> str:
        """The local date."""
        return self._clock().astimezone().date().isoformat()

    def close(self) -> None:
        """Let go of the record."""
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
        try:
            if self.answers is not None:
                shown = shown_by(lesson.lesson, given)
                self.answers.write(lesson.person, lesson.lesson.id, given, shown)
        except AnswersError as error:
            self._troubles.tell(str(error))
        if lesson.lesson.is_free:
            return
        try:
            self._begin(lesson)
            self._append(given)
        except OSError as error:
            self._troubles.tell(
                f"The result cannot be kept in {self.folder} ({error.strerror}): make room, or the "
                "result is lost when the program closes."
            )
        if lesson.folder:
            self.hand_in(Path(lesson.folder))

    def _begin(self, lesson: OnLesson) -> None:
        """Go on in the result of this lesson and person, or begin one."""
        of = (lesson.lesson.id, lesson.person.id, lesson.seed)
        if self._of == of:
            return
        self._of, self._path, self._lines, self.handed_in = of, None, [], None
        digest = lesson_digest(lesson.lesson)
        for path, result in self._results():
            header = result.header
            same = (header.lesson_id, header.person.id, header.seed) == of and result.whole
            if same and header.lesson_digest == digest:
                text = read_text(path, "a result", MOST_BYTES)
                self._path = path
                self._lines = [line for line in text.split("\n")[:-1] if line.strip()]
                if result.torn:
                    write_atomic(path, self._text())
                return
        header = Header(
            str(uuid4()),
            lesson.lesson.id,
            digest,
            lesson.lesson.title,
            lesson_text(lesson.lesson),
            lesson.person,
            lesson.seed,
            VERSION,
        )
        self.folder.mkdir(parents=True, exist_ok=True)
        self._path = self.folder / result_name(lesson.lesson.title, lesson.person, header.id)
        self._lines = [header.line()]
        write_atomic(self._path, self._text())
        self._forget_the_oldest()

    def _text(self) -> str:
        return "".join(f"{line}\n" for line in self._lines)

    def _append(self, given: Given) -> None:
        assert self._path is not None
        line = chained(self._lines[-1], given)
        self._lines.append(line)
        with self._path.open("ab") as file:
            file.write(line.encode("utf-8") + b"\n")
            file.flush()
            os.fsync(file.fileno())

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
        self._of = None

    def hand_in_again(self, lesson: OnLesson) -> bool:
        """Leave the result of a lesson where it was handed out; whether that could be done."""
        try:
            self._begin(lesson)
        except OSError as error:
            self._troubles.tell(f"The result cannot be found here ({error.strerror}).")
            return False
        return self.hand_in(Path(lesson.folder))

    def hand_in(self, folder: Path) -> bool:
        """Put the result beside its lesson; whether that could be done."""
        if self._path is None:
            return False
        try:
            write_atomic(folder / self._path.name, self._text())
        except OSError as error:
            self.handed_in = None
            self._troubles.tell(
                f"The result could not be left in {folder} ({error.strerror}). It is kept here: "
                "put the stick back, and the next answer leaves it there."
            )
            return False
        self.handed_in = folder / self._path.name
        return True

    def answered_of(self, person: Person) -> dict[str, int]:
        """How many questions a person has answered, by lesson, as the results here have it."""
        found: dict[str, int] = {}
        for _, result in self._results():
            if result.header.person.id == person.id and result.whole:
                asked = {(given.part, given.nth) for given in result.given}
                lesson = result.header.lesson_id
                found[lesson] = max(found.get(lesson, 0), len(asked))
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
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)

    def set_of(self, lesson: Lesson, person: Person) -> tuple[int, tuple[Given, ...]]:
        """The seed of the set that a person goes on with, and what was answered of it: the last set
        that was not finished, on whatever day it was begun, else the set of today.
        """
        digest, today = lesson_digest(lesson), set_seed(lesson, person.id, self.today())
        of_today: tuple[Given, ...] = ()
        for _, result in self._results():
            header = result.header
            same = (header.lesson_id, header.person.id) == (lesson.id, person.id)
            if not (same and header.lesson_digest == digest and result.whole):
                continue
            if 0 < len(firsts_of(result.given)) < lesson.asked_count:
                return header.seed, result.given
            if header.seed == today:
                of_today = of_today or result.given
        return today, of_today


def result_name(title: str, person: Person, result_id: str) -> str:
    """The name of a result's file: lesson, person, and some of its id.

    >>> result_name("Valves & stops", Person("x", "Ines Ø"), "12345678-aaaa")
    'valves-stops-ines-12345678.result.jsonl'
    """
    parts = [title, person.name, result_id[:8]]
    plain = [re.sub(r"[^a-z0-9]+", "-", part.casefold()).strip("-")[:40] for part in parts]
    return "-".join(part for part in plain if part) + SUFFIX
