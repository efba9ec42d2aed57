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

from true_compass.files.database import BUSY_S, Records, RecordsError, RecordsKind
from true_compass.lessons.again import Due, after
from true_compass.lessons.drill import MANY, NEVER
from true_compass.lessons.mastery import MOST_LOOKED_AT, Evidence, Mastery, Shown, mastery_from
from true_compass.lessons.result import Person, clean_name
from true_compass.lessons.skills import SKILLS
from true_compass.lessons.work import Given

SUFFIX: Final = ".tcanswers"
NAME: Final = f"answers{SUFFIX}"
APPLICATION_ID: Final = 0x54434131
"""`TCA1` in the file's head."""
VERSION: Final = 2
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


_KIND: Final = "json_extract(question, '$.kind')"
_OLD_CHOICES: Final = {
    NEVER: "mark-zero order backwards sign flat cap half-post",
    2: "fires turn-to order-possible may-set ramp tight dots dots-prove",
    3: "order-why",
    4: "stroke turns open-at-tdc together companion fires-next table-line",
}
"""Of answers of version 1 no engine is known: at least so many choices there were. The answer to
the first row's kinds was always the same then."""
_OLD: Final = " ".join(
    f"WHEN {_KIND} IN ({', '.join(repr(kind) for kind in kinds.split())}) THEN {choices}"
    for choices, kinds in _OLD_CHOICES.items()
)
UPGRADES: Final = {
    1: (
        "ALTER TABLE answer ADD COLUMN kind TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE answer ADD COLUMN choices INTEGER NOT NULL DEFAULT 1",
        "ALTER TABLE answer ADD COLUMN asked TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE answer ADD COLUMN fresh INTEGER NOT NULL DEFAULT 1",
        "UPDATE answer SET kind = CASE WHEN json_extract(question, '$.ask.task') IN "
        "('tdc', 'set', 'preload', 'fault') THEN 'covered-' || json_extract(question, '$.ask.task')"
        f" ELSE coalesce({_KIND}, '') END, "
        f"choices = CASE {_OLD} "
        "WHEN json_extract(question, '$.ask.task') = 'which-tdc' THEN 2 "
        f"WHEN json_extract(question, '$.ask.measured_mm') = 0.0 THEN {NEVER} ELSE {MANY} END, "
        "asked = CASE WHEN length(question) <= 200 THEN question ELSE '' END",
        "UPDATE answer SET skill = 'set-preload' WHERE kind = 'covered-preload'",
        "INSERT OR IGNORE INTO again SELECT person_id, 'set-preload', tried, correct, aided, "
        "holds_days, hard, last_at, due_at FROM again AS old WHERE skill = 'set-engine' AND EXISTS "
        "(SELECT 1 FROM answer WHERE answer.person_id = old.person_id "
        "AND answer.skill = 'set-preload')",
        "DELETE FROM again WHERE skill = 'set-engine' AND NOT EXISTS (SELECT 1 FROM answer "
        "WHERE answer.person_id = again.person_id AND answer.skill = 'set-engine')",
        "CREATE INDEX answer_asked ON answer (person_id, asked, id)",
        "UPDATE answer SET fresh = 0 WHERE asked <> '' AND EXISTS (SELECT 1 FROM answer AS old "
        "WHERE old.person_id = answer.person_id AND old.asked = answer.asked "
        "AND old.id < answer.id AND (old.day = answer.day OR (old.lesson_id = answer.lesson_id "
        "AND old.part = answer.part AND old.nth = answer.nth)))",
        "CREATE INDEX answer_counts ON answer (person_id, skill, id) "
        "WHERE fresh = 1 AND choices > 1",
        "DROP INDEX answer_of_person",
    )
}
"""Version 2 knows which answers count for a skill."""


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
        upgrades=UPGRADES,
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

    def __init__(self, path: Path, busy_s: float = BUSY_S) -> None:
        self.db = AnswersDb(path, busy_s=busy_s)
        self._known: dict[tuple[str, str], tuple[int, Evidence]] = {}

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
        self._known.clear()
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
            fresh = self._is_fresh(person, lesson_id, given, shown)
            self.db.do(
                "INSERT INTO answer (person_id, lesson_id, part, nth, skill, engine, layout, at, "
                "day, correct, aided, credit, idea, kind, choices, asked, fresh, question, answer) "
                "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                *(person.id, lesson_id, given.part, given.nth, shown.skill, shown.engine),
                *(shown.layout, record["at"], given.day, int(given.right), int(given.aided)),
                *(given.credit, given.idea, shown.kind, shown.choices, shown.asked, int(fresh)),
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

    def _is_fresh(self, person: Person, lesson_id: str, given: Given, shown: Shown) -> bool:
        """Whether this was not asked on that day before, nor ever at that place (`fresh_of`)."""
        known = self.db.rows(
            "SELECT 1 FROM answer WHERE person_id = ? AND asked = ? AND (day = ? OR "
            "(lesson_id = ? AND part = ? AND nth = ?)) LIMIT 1",
            *(person.id, shown.asked, given.day, lesson_id, given.part, given.nth),
        )
        return not (shown.asked and known)

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
            due = _due_from(row[3:]) if row else None
            tried, good = (row[0], bool(row[1]) and not row[2]) if row else (0, False)
            evidence = self._evidence(person_id, skill.slug, tried)
            found[skill.slug] = mastery_from(evidence, tried, good, due, now)
        return found

    def _evidence(self, person_id: str, skill: str, tried: int) -> Evidence:
        """What the answers of a skill show; read again where there are more of them by now."""
        known = self._known.get((person_id, skill))
        if known is None or known[0] != tried:
            shown = self._counting(person_id, skill) if tried else []
            known = tried, Evidence(skill, tuple(shown))
            self._known[person_id, skill] = known
        return known[1]

    def _counting(self, person_id: str, skill: str) -> list[Shown]:
        """The last answers that can count, in the order in which they were given."""
        rows = self.db.rows(
            "SELECT kind, choices, engine, layout, at, day, correct, aided FROM answer "
            "WHERE person_id = ? AND skill = ? AND fresh = 1 AND choices > 1 "
            f"ORDER BY id DESC LIMIT {MOST_LOOKED_AT}",
            *(person_id, skill),
        )
        return [
            Shown(
                *(skill, kind, choices, engine, layout, datetime.fromisoformat(at), day),
                *(bool(right), bool(aided)),
            )
            for kind, choices, engine, layout, at, day, right, aided in reversed(rows)
        ]

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
