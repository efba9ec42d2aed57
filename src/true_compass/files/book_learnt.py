"""What a book has learnt: hands, heat, and what lies in the drawer of shims."""

import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any, TypeVar

from true_compass.book.job import Person
from true_compass.core.chained import plain_json
from true_compass.files.book_db import BookDb


@dataclass(frozen=True, slots=True)
class HandTest:
    """Gaps set by micrometer and measured blind by one person: pairs (set, measured) in mm."""

    id: str
    person_id: str
    day: date
    step_mm: float
    pairs: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class HotCold:
    """How much wider (+) one kind of gap of one engine is hot than cold, as it was measured."""

    id: str
    engine_id: str
    of: str
    diff_mm: float
    temperature_c: float | None
    day: date


Row = tuple[Any, ...]
T = TypeVar("T")


def _hand_test(row: Row) -> HandTest:
    pairs = tuple((float(a), float(b)) for a, b in plain_json(row[4]))
    return HandTest(row[0], row[1], date.fromisoformat(row[2]), row[3], pairs)


def _hot_cold(row: Row) -> HotCold:
    return HotCold(row[0], row[1], row[2], row[3], row[4], date.fromisoformat(row[5]))


class Learnt:
    """What is learnt in one book. What makes no sense in it counts as not there."""

    def __init__(self, db: BookDb) -> None:
        self.db = db
        self.senseless: set[str] = set()
        """Ids of what was left out so."""

    def hand_tests(self) -> list[HandTest]:
        """Every hand test, the oldest first."""
        rows = self.db.rows(
            "SELECT id, person_id, day, step_mm, pairs FROM hand_test ORDER BY day, id"
        )
        return self._made(rows, _hand_test)

    def _made(self, rows: Iterable[Row], make: Callable[[Row], T]) -> list[T]:
        found = []
        for row in rows:
            try:
                found.append(make(row))
            except (ValueError, TypeError):
                self.senseless.add(str(row[0])[:40])
        return found

    def put_hand_test(self, test: HandTest, person: Person) -> None:
        """Keep a hand test."""
        with self.db.writing("the hand test"):
            self.db.do("INSERT OR IGNORE INTO person VALUES (?, ?)", person.id, person.name)
            pairs = json.dumps([list(pair) for pair in test.pairs])
            self.db.do(
                "INSERT OR REPLACE INTO hand_test VALUES (?, ?, ?, ?, ?)",
                test.id,
                test.person_id,
                test.day.isoformat(),
                test.step_mm,
                pairs,
            )

    def drop(self, learnt: HandTest | HotCold) -> None:
        """Forget something again."""
        table = "hand_test" if isinstance(learnt, HandTest) else "hot_cold"
        with self.db.writing("what was learnt"):
            self.db.do(f"DELETE FROM {table} WHERE id = ?", learnt.id)

    def hot_cold(self, engine_id: str | None = None) -> list[HotCold]:
        """What was measured hot less cold, the oldest first."""
        rows = self.db.rows(
            "SELECT id, engine_id, of, diff_mm, temperature_c, day FROM hot_cold ORDER BY day, id"
        )
        made = self._made(rows, _hot_cold)
        return [one for one in made if engine_id in (None, one.engine_id)]

    def put_hot_cold(self, found: HotCold) -> None:
        """Keep a difference between hot and cold."""
        with self.db.writing("the difference between hot and cold"):
            self.db.do(
                "INSERT OR REPLACE INTO hot_cold VALUES (?, ?, ?, ?, ?, ?)",
                found.id,
                found.engine_id,
                found.of,
                found.diff_mm,
                found.temperature_c,
                found.day.isoformat(),
            )

    def drawer(self) -> list[float]:
        """Shims that are there, mm, the thinnest first, each as often as it is there."""
        rows = self.db.rows("SELECT size_mm, count FROM drawer ORDER BY size_mm")
        return [size for size, count in rows for _ in range(count)]

    def put_drawer(self, sizes_mm: Iterable[float]) -> None:
        """Say what is in the drawer."""
        counts: dict[float, int] = {}
        for size in sizes_mm:
            counts[round(size, 4)] = counts.get(round(size, 4), 0) + 1
        with self.db.writing("the drawer"):
            self.db.do("DELETE FROM drawer")
            for size, count in counts.items():
                self.db.do("INSERT INTO drawer VALUES (?, ?)", size, count)
