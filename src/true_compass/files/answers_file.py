"""The record of answers: who answered what, when, and how it was judged. `answers.tcanswers`.

Every answer is on the disk when it was given. Names stay on the machine; one person can be taken
out whole, and everything can be taken along.
"""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, ClassVar, Final
from uuid import uuid4

from true_compass.files.database import Records, RecordsError, RecordsKind
from true_compass.lessons.again import Due, after
from true_compass.lessons.mastery import Mastery, Shown, standing_of
from true_compass.lessons.result import Person, clean_name
from true_compass.lessons.skills import SKILLS
from true_compass.lessons.work import Given

SUFFIX: Final = ".tcanswers"
NAME: Final = f"answers{SUFFIX}"
APPLICATION_ID: Final = 0x54434131
"""`TCA1` in the file's head."""
VERSION: Final = 1
SCHEMA_1: Final = (
    "CREATE TABLE person (id TEXT PRIMARY KEY, name TEXT NOT NULL, seen TEXT NOT NULL) STRICT",
    "CREATE TABLE answer (id INTEGER PRIMARY KEY, person_id TEXT NOT NULL REFERENCES person (id), "
    "lesson_id TEXT NOT NULL, part INTEGER NOT NULL, nth INTEGER NOT NULL, skill TEXT NOT NULL, "
    "engine TEXT NOT NULL, layout TEXT NOT NULL, at TEXT NOT NULL, day TEXT NOT NULL, "
    "correct INTEGER NOT NULL, aided INTEGER NOT NULL, credit REAL NOT NULL, idea TEXT NOT NULL, "
    "question TEXT NOT NULL, answer TEXT NOT NULL) STRICT",
    "CREATE INDEX answer_of_person ON answer (person_id, skill, correct, aided, at, day, layout)",
    "CREATE TABLE again (person_id TEXT NOT NULL REFERENCES person (id), skill TEXT NOT NULL, "
    "tried INTEGER NOT NULL, correct INTEGER NOT NULL, aided INTEGER NOT NULL, "
    "holds_days REAL NOT NULL, hard REAL NOT NULL, last_at TEXT NOT NULL, due_at TEXT NOT NULL, "
    "PRIMARY KEY (person_id, skill)) STRICT, WITHOUT ROWID",
)


class AnswersError(RecordsError):
    """The record cannot do what was asked: one sentence with the way out. Nothing has changed."""


class AnswersDb(Records):
    """The file of a record of answers."""

    kind: ClassVar[RecordsKind] = RecordsKind(
        word="record of answers",
        suffix=SUFFIX,
        application_id=APPLICATION_ID,
        version=VERSION,
        schema=SCHEMA_1,
        begun="SELECT 1 FROM answer LIMIT 1",
        otherwise="choose another data folder",
        error=AnswersError,
    )


@dataclass(frozen=True, slots=True)
class Kept:
    """One answer as it is taken along: who, and everything that is known of it."""

    person: Person
    lesson_id: str
    skill: str
    engine: str
    layout: str
    given: dict[str, Any]


class Answers:
    """An open record of answers. Every method raises `AnswersError`; nothing has changed then."""

    def __init__(self, path: Path) -> None:
        self.db = AnswersDb(path)

    def close(self) -> None:
        """Let go of the file."""
        self.db.close()

    # People -----------------------------------------------------------------------------------

    def people(self) -> list[Person]:
        """Everybody who answered here, the last one first."""
        rows = self.db.rows("SELECT id, name FROM person ORDER BY seen DESC, name")
        return [Person(*row) for row in rows]

    def person(self, name: str, now: datetime) -> Person:
        """The person of a name, made where there is none. Names are compared without case."""
        name = clean_name(name)
        for known in self.people():
            if known.name.casefold() == name.casefold():
                return known
        person = Person(str(uuid4()), name)
        with self.db.writing("a name"):
            self._see(person, now)
        return person

    def _see(self, person: Person, now: datetime) -> None:
        self.db.do(
            "INSERT INTO person (id, name, seen) VALUES (?, ?, ?) "
            "ON CONFLICT (id) DO UPDATE SET name = excluded.name, seen = excluded.seen",
            *(person.id, person.name, now.isoformat(timespec="seconds")),
        )

    def erase(self, person_id: str) -> None:
        """Take out one person with every answer."""
        with self.db.writing("taking out a person"):
            for table in ("answer", "again"):
                self.db.do(f"DELETE FROM {table} WHERE person_id = ?", person_id)
            self.db.do("DELETE FROM person WHERE id = ?", person_id)
        # What was taken out is not to be found in the file's free pages either.
        self.db.sweep()

    # Answers ----------------------------------------------------------------------------------

    def write(self, person: Person, lesson_id: str, given: Given, shown: Shown) -> None:
        """Keep one answer, and when its skill is due again."""
        due = after(
            self._due(person.id, shown.skill), given.at, right=given.right, aided=given.aided
        )
        with self.db.writing("an answer"):
            self._see(person, given.at)
            record = given.record()
            self.db.do(
                "INSERT INTO answer (person_id, lesson_id, part, nth, skill, engine, layout, at, "
                "day, correct, aided, credit, idea, question, answer) "
                "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                *(person.id, lesson_id, given.part, given.nth, shown.skill, shown.engine),
                *(shown.layout, record["at"], given.day, int(given.right), int(given.aided)),
                *(given.credit, given.idea),
                *(json.dumps(record[key], ensure_ascii=False) for key in ("question", "answer")),
            )
            self.db.do(
                "INSERT INTO again VALUES (?, ?, 1, ?, ?, ?, ?, ?, ?) "
                "ON CONFLICT (person_id, skill) DO UPDATE SET tried = tried + 1, "
                "correct = excluded.correct, aided = excluded.aided, "
                "holds_days = excluded.holds_days, hard = excluded.hard, "
                "last_at = excluded.last_at, due_at = excluded.due_at",
                *(person.id, shown.skill, int(given.right), int(given.aided)),
                *(due.holds_days, due.hard, due.last_at.isoformat(), due.due_at.isoformat()),
            )

    def _due(self, person_id: str, skill: str) -> Due | None:
        rows = self.db.rows(
            "SELECT holds_days, hard, last_at, due_at FROM again WHERE person_id = ? AND skill = ?",
            *(person_id, skill),
        )
        return _due_from(rows[0]) if rows else None

    def skills(self, person_id: str, now: datetime) -> dict[str, Mastery]:
        """How a person stands with every skill."""
        last = {
            row[0]: row[1:]
            for row in self.db.rows(
                "SELECT skill, tried, correct, aided, holds_days, hard, last_at, due_at "
                "FROM again WHERE person_id = ?",
                person_id,
            )
        }
        found = {}
        for skill in SKILLS:
            row = last.get(skill.slug)
            shown = self._successes(person_id, skill.slug) if row else ()
            due = _due_from(row[3:]) if row else None
            right, aided = (bool(row[1]), bool(row[2])) if row else (False, False)
            standing = standing_of(row is not None, right, aided, shown, due, now)
            found[skill.slug] = Mastery(skill.slug, standing, row[0] if row else 0, shown, due)
        return found

    def _successes(self, person_id: str, skill: str) -> tuple[Shown, ...]:
        """Unaided successes, as few as the rule needs: the first two, the first elsewhere, the
        first on another day, and the first that differs in both.
        """
        rows = self._first_rows(person_id, skill, "", (), 2)
        if not rows:
            return ()
        layout, day = rows[0][1], rows[0][2]
        for more, values in (
            ("AND layout <> ?", (layout,)),
            ("AND day <> ?", (day,)),
            ("AND layout <> ? AND day <> ?", (layout, day)),
        ):
            rows += self._first_rows(person_id, skill, more, values, 1)
        found = {row[0]: row for row in rows}
        told = (
            Shown(skill, engine, layout, datetime.fromisoformat(at), day, True)
            for _, layout, day, at, engine in (found[key] for key in sorted(found))
        )
        return tuple(sorted(told, key=lambda one: one.at))

    def _first_rows(
        self, person_id: str, skill: str, more: str, values: tuple[str, ...], count: int
    ) -> list[tuple[Any, ...]]:
        return self.db.rows(
            "SELECT id, layout, day, at, engine FROM answer WHERE person_id = ? AND skill = ? "
            f"AND correct = 1 AND aided = 0 {more} ORDER BY at LIMIT {count}",
            *(person_id, skill, *values),
        )

    def count(self) -> int:
        """How many answers there are."""
        return int(self.db.rows("SELECT count(*) FROM answer")[0][0])

    def everything(self) -> Iterator[Kept]:
        """Every answer with its person, in the order in which they were given."""
        for row in self.db.rows(
            "SELECT p.id, p.name, a.lesson_id, a.skill, a.engine, a.layout, a.part, a.nth, a.at, "
            "a.day, a.aided, a.credit, a.idea, a.question, a.answer "
            "FROM answer a JOIN person p ON p.id = a.person_id ORDER BY a.id"
        ):
            keys = ("part", "nth", "at", "day", "aided", "credit", "idea")
            given = dict(zip(keys, row[6:13], strict=True))
            given["aided"] = bool(given["aided"])
            given["question"], given["answer"] = json.loads(row[13]), json.loads(row[14])
            yield Kept(Person(row[0], row[1]), row[2], row[3], row[4], row[5], given)


def _due_from(row: tuple[Any, ...]) -> Due:
    holds, hard, last_at, due_at = row
    return Due(holds, hard, datetime.fromisoformat(last_at), datetime.fromisoformat(due_at))
