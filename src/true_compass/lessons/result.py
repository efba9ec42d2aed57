"""A result: what one person answered in one lesson, as a chained log that can be judged again.

Its first line holds the lesson itself, so that it works without any other file. The chain shows
that a file was altered, not by whom, and cannot show that a whole file was made up.
"""

import heapq
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final
from uuid import UUID

from true_compass.core.chained import compact, mark_of, plain_json
from true_compass.lessons.work import Given, GivenError, given_from

FORMAT: Final = "true-compass-result"
VERSION: Final = 1
SUFFIX: Final = ".result.jsonl"
MOST_LINE: Final = 1_200_000
MOST_ANSWERS: Final = 20_000
MOST_SEEDS: Final = 2**63
PROVES: Final = (
    "A whole chain shows that nothing was altered since. Who sat there, and that it is no made-up "
    "file, only somebody who was there can say."
)


class ResultError(Exception):
    """A result that cannot be read, as the end of a sentence."""


@dataclass(frozen=True, slots=True)
class Person:
    """Who answers: a random id, made once, and a name, which may be empty."""

    id: str
    name: str = ""

    @property
    def shown(self) -> str:
        """The name, or what stands for none."""
        return self.name or "no name"


@dataclass(frozen=True, slots=True)
class Header:
    """What a result is of. `lesson` is the text of the lesson file, with copies of its engines."""

    id: str
    lesson_id: str
    lesson_digest: str
    title: str
    lesson: str
    person: Person
    seed: int
    program: str

    def line(self) -> str:
        """As the first line of a result."""
        told = {
            "format": FORMAT,
            "version": VERSION,
            "id": self.id,
            "lesson_id": self.lesson_id,
            "lesson_digest": self.lesson_digest,
            "title": self.title,
            "person_id": self.person.id,
            "person": self.person.name,
            "seed": self.seed,
            "program": self.program,
            "lesson": self.lesson,
        }
        return compact(told)


def chained(before: str, given: Given) -> str:
    """The next line of a result whose line before is `before`."""
    told = given.record()
    return compact({"given": told, "chain": mark_of(before, told)})


@dataclass(frozen=True, slots=True)
class Result:
    """A result as it was read. `mark` is the chain's last hash, which tells it from any other.

    `torn` tells that its last line was cut off; `altered` is the first line that does not follow
    from the one before it, 0 where all do. What stands from there on is not counted.
    """

    header: Header
    given: tuple[Given, ...]
    mark: str
    torn: bool = False
    altered: int = 0

    @property
    def whole(self) -> bool:
        """Whether the chain holds to the end."""
        return not self.altered


def parse_result(text: str) -> Result:
    """Read a result. Raises `ResultError` for what is none.

    A file that was altered is read up to there, and says so.
    """
    lines = text.split("\n")
    torn = bool(lines[-1].strip())
    lines = [line for line in lines[:-1] if line.strip()]
    if not lines:
        raise ResultError("has no whole line: is this a result?")
    header = _header(_value(1, lines[0]))
    if len(lines) - 1 > MOST_ANSWERS:
        raise ResultError(f"has more than {MOST_ANSWERS} answers")
    found: list[Given] = []
    before, mark, altered = lines[0], mark_of("", lines[0]), 0
    for nth, line in enumerate(lines[1:], start=2):
        value = _value(nth, line)
        told = value.get("given")
        if set(value) != {"given", "chain"} or value["chain"] != mark_of(before, told):
            altered = nth
            break
        if not isinstance(told, Mapping):
            raise ResultError(f"has no answer in line {nth}")
        try:
            found.append(given_from(told))
        except GivenError as error:
            raise ResultError(f"{error} in line {nth}") from None
        before, mark = line, str(value["chain"])
    return Result(header, tuple(found), mark, torn, altered)


def together(results: Sequence[Result]) -> tuple[Given, ...]:
    """What several results of one set hold, each answer once, by their time; each result keeps its
    own order.
    """
    known: set[str] = set()
    orders: list[list[Given]] = []
    for result in sorted(results, key=lambda result: len(result.given), reverse=True):
        told = {compact(given.record()): given for given in result.given}
        orders.append([given for mark, given in told.items() if mark not in known])
        known |= told.keys()
    return tuple(heapq.merge(*orders, key=lambda given: given.at))


def _value(nth: int, line: str) -> dict[str, Any]:
    if len(line) > MOST_LINE:
        raise ResultError(f"has a line {nth} that is too long")
    try:
        value = plain_json(line)
    except ValueError:
        raise ResultError(f"is not readable in line {nth}: is this a result?") from None
    if not isinstance(value, dict):
        raise ResultError(f"says nothing in line {nth}: is this a result?")
    return value


def _header(value: dict[str, Any]) -> Header:
    if value.get("format") != FORMAT:
        raise ResultError("does not begin as a result: is this another file?")
    if value.get("version") != VERSION:
        told = str(value.get("version"))[:10]
        raise ResultError(f"is of version {told}; this reads {VERSION}: open it with a newer one")
    try:
        person = Person(str(UUID(value["person_id"])), clean_name(value["person"]))
        return Header(
            str(UUID(value["id"])),
            str(value["lesson_id"])[:60],
            str(value["lesson_digest"])[:64],
            str(value["title"])[:120],
            str(value["lesson"]),
            person,
            _seed(value["seed"]),
            str(value["program"])[:40],
        )
    except (KeyError, TypeError, ValueError, AttributeError):
        raise ResultError("has a first line that is not whole") from None


def _seed(value: object) -> int:
    if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value < MOST_SEEDS:
        raise ValueError("a seed is a whole number")
    return value


MOST_NAME: Final = 60


def clean_name(name: object) -> str:
    """A name as it is kept: trimmed, composed, without what breaks lines or turns them round.

    >>> clean_name("  Ada\\u202e\\nB ")
    'Ada B'
    """
    import unicodedata

    text = unicodedata.normalize("NFC", str(name).replace("\n", " "))
    kept = "".join(c for c in text if unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co"))
    return " ".join(kept.split())[:MOST_NAME]


def groups_of(mark: str) -> tuple[str, ...]:
    """The first half of a mark in groups of four, as a certificate prints it.

    >>> groups_of("4f1ca90277de0b35e8a15c60193fd2b4" * 2)[:2]
    ('4F1C', 'A902')
    """
    return tuple(mark[at : at + 4].upper() for at in range(0, 32, 4))
