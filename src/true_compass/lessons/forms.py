"""The forms of an answer: how it is given, read, marked and said. Answers are plain JSON values.

Screens, paper and quiz files go by the form, so that a new drill needs nothing of its own there.
"""

import json
import math
import re
from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from true_compass.core.angles import CYCLE_DEG
from true_compass.core.limits import EngineError
from true_compass.core.units import split_number

Answer = Any
"""A plain JSON value in the form of its question."""

MOST_TOLD: Final = 60
GRACE: Final = 1e-9


class AnswerError(ValueError):
    """An answer that is not in the form of its question, as one sentence with the way out."""


@dataclass(frozen=True, slots=True)
class Marks:
    """How an answer is marked: right and wrong parts, of how many that were asked."""

    right: int
    wrong: int
    asked: int

    @property
    def credit(self) -> float:
        """From 0 to 1: right less wrong, of those asked, never below 0.

        >>> Marks(3, 1, 4).credit, Marks(1, 2, 4).credit
        (0.5, 0.0)
        """
        return max(0, self.right - self.wrong) / self.asked

    @property
    def is_full(self) -> bool:
        """Whether nothing was wrong and nothing left out."""
        return self.right == self.asked and not self.wrong

    @property
    def words(self) -> str:
        """The mark scheme with its figures: `3 right less 1 wrong: 2 of 4`."""
        if self.asked == 1:
            return "right: 1 of 1" if self.right and not self.wrong else "0 of 1"
        got = max(0, self.right - self.wrong)
        return f"{self.right} right less {self.wrong} wrong: {got} of {self.asked}"


class Form(ABC):
    """How an answer is given."""

    @abstractmethod
    def read(self, value: Answer) -> Answer:
        """The answer, checked; words as a person types them are taken. Raises `AnswerError`."""

    @abstractmethod
    def marks(self, right: Answer, given: Answer) -> Marks:
        """The marks for a given answer, both as `read` gives them."""

    @abstractmethod
    def words(self, value: Answer) -> str:
        """An answer as a person says it."""

    @property
    def scheme(self) -> str:
        """How it is marked, in a sentence that anybody may read beforehand."""
        return "Marked: right or not."


def _shown(value: object) -> str:
    return repr(value)[:MOST_TOLD]


_BETWEEN: Final = re.compile(r"[\s,;–-]+")
"""What stands between the names or cylinders of a typed row."""
_NONE: Final = ("none", "nothing", "")


def _typed_parts(text: str) -> list[str]:
    """The parts of a typed row, such as `1-3-4-2` or `E1, I2`; `none` has no part."""
    told = text.strip()
    return [] if told.casefold() in _NONE else [part for part in _BETWEEN.split(told) if part]


def _typed_number(text: str, units: Sequence[str], what: str) -> float:
    """A typed number, with one of these units behind it or none. Raises `AnswerError`."""
    try:
        number, unit = split_number("answer", text, what)
    except EngineError:
        raise AnswerError(f"the answer must be {what}, not {_shown(text)}") from None
    if unit and unit not in units:
        raise AnswerError(f"the answer must be {what}, not {_shown(text)}")
    return number


@dataclass(frozen=True, slots=True)
class Option:
    """One of the answers of a choice. `value` is plain: a word, a number, yes or no, None."""

    value: str | int | bool | None
    words: str


@dataclass(frozen=True, slots=True)
class Choice(Form):
    """One of some answers. Each of `alike` is as good, and is read as the least of them."""

    options: tuple[Option, ...]
    alike: tuple[int, ...] = ()

    def read(self, value: Answer) -> Answer:
        """One of the values, or typed: the value or its words in capitals or not."""
        if isinstance(value, str):
            value = self._typed(value.strip().casefold(), value)
        if type(value) is int and value in self.alike:
            value = min(self.alike)
        for option in self.options:
            # True is 1 for Python, but not an answer to "which cylinder".
            if type(option.value) is type(value) and option.value == value:
                return value
        told = ", ".join(_plain(option.value) for option in self.options[:12])
        raise AnswerError(f"the answer must be one of {told}, not {_shown(value)}")

    def _typed(self, told: str, value: str) -> Answer:
        for option in self.options:
            names = {_plain(option.value).casefold(), option.words.casefold()}
            if told in names or (option.value is None and told in _NONE[:2]):
                return option.value
        return next((one for one in self.alike if told == str(one)), value)

    def marks(self, right: Answer, given: Answer) -> Marks:
        """All or nothing."""
        return Marks(int(given == right), int(given != right), 1)

    def words(self, value: Answer) -> str:
        """The words of an option."""
        return next(option.words for option in self.options if option.value == value)


def _plain(value: object) -> str:
    return json.dumps(value) if value is None or isinstance(value, bool) else str(value)


YES_NO: Final = Choice((Option(True, "Yes"), Option(False, "No")))


def one_cylinder(cylinders: Sequence[int], none: str = "") -> Choice:
    """A choice among cylinders, with `none` as the words for that there is none."""
    options = [Option(cylinder, str(cylinder)) for cylinder in cylinders]
    return Choice((*options, Option(None, none)) if none else tuple(options))


@dataclass(frozen=True, slots=True)
class Ticks(Form):
    """Some of these names, in any order."""

    names: tuple[str, ...]

    @property
    def scheme(self) -> str:
        """Right less wrong."""
        return "Marked: right less wrong, of those that belong."

    def read(self, value: Answer) -> Answer:
        """A list of names, each once; or typed, such as `E1, I2`."""
        return _names_in(value, self.names, "the answer")

    def marks(self, right: Answer, given: Answer) -> Marks:
        """Right less wrong, of those that are right; where none is right, only none is."""
        hits = len(set(given) & set(right))
        if not right:
            return Marks(int(not given), len(given), 1)
        return Marks(hits, len(given) - hits, len(right))

    def words(self, value: Answer) -> str:
        """The names in a row."""
        return ", ".join(value) if value else "none"


def _names_in(value: Answer, names: tuple[str, ...], where: str) -> tuple[str, ...]:
    if isinstance(value, str):
        value = _typed_parts(value)
    if not isinstance(value, list | tuple):
        raise AnswerError(f"{where} must be a list of names such as [{names[0]!r}]")
    known = {name.casefold(): name for name in names}
    found = []
    for name in value:
        kept = known.get(name.strip().casefold()) if isinstance(name, str) else None
        if kept is None:
            raise AnswerError(f"{where} names {_shown(name)}: this engine has {names[0]} to "
                              f"{names[-1]}")  # fmt: skip
        if kept in found:
            raise AnswerError(f"{where} names {kept} twice")
        found.append(kept)
    return tuple(sorted(found, key=names.index))


@dataclass(frozen=True, slots=True)
class TwoLists(Form):
    """Each of some names at the first stop or at the second. A name may be at none."""

    names: tuple[str, ...]
    either: tuple[str, ...] = ()
    """Names that are as good at one stop as at the other."""

    @property
    def scheme(self) -> str:
        """Right less wrong."""
        return "Marked: right less wrong, of all items."

    def read(self, value: Answer) -> Answer:
        """Two lists of names; or typed, with `;` between the stops: `I1, E1; I2, E2`."""
        if isinstance(value, str):
            value = value.split(";")
        if not isinstance(value, list | tuple) or len(value) != 2:
            raise AnswerError("the answer must be two lists of names, one for each stop")
        return tuple(
            _names_in(part, self.names, f"stop {nth}") for nth, part in enumerate(value, 1)
        )

    def marks(self, right: Answer, given: Answer) -> Marks:
        """Right less wrong, of all names."""
        hits = wrong = 0
        for good, said in zip(right, given, strict=True):
            for name in said:
                fits = name in good or name in self.either
                hits, wrong = hits + fits, wrong + (not fits)
        both = set(given[0]) & set(given[1]) & set(self.either)
        return Marks(hits - len(both), wrong + len(both), len(self.names))

    def words(self, value: Answer) -> str:
        """Both lists."""
        return "; ".join(f"stop {nth}: {', '.join(part) or 'none'}" for nth, part in
                         enumerate(value, 1))  # fmt: skip


@dataclass(frozen=True, slots=True)
class Figure(Form):
    """A number in a unit, right within `within` either way. `digits` are how many are asked."""

    unit: str
    within: float
    digits: int = 0

    @property
    def scheme(self) -> str:
        """Within its bound."""
        return f"Marked: right within {self._with_unit(f'{self.within:g}')} either way."

    def read(self, value: Answer) -> Answer:
        """A plain number; or typed, with its unit or without."""
        if isinstance(value, str):
            units = (self.unit, "°") if self.unit.startswith("°") else (self.unit,)
            value = _typed_number(value, units, f"a number in {self.unit}")
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise AnswerError(f"the answer must be a number in {self.unit}, not {_shown(value)}")
        if not math.isfinite(value) or abs(value) > 1e9:
            raise AnswerError(f"the answer must be a plain number in {self.unit}")
        return float(value)

    def marks(self, right: Answer, given: Answer) -> Marks:
        """All or nothing."""
        fits = abs(given - right) <= self.within + GRACE
        return Marks(int(fits), int(not fits), 1)

    def words(self, value: Answer) -> str:
        """The number with its unit."""
        return self._with_unit(f"{value:.{self.digits}f}".replace("-", "−"))

    def _with_unit(self, number: str) -> str:
        return f"{number}{self.unit}" if self.unit.startswith("°") else f"{number} {self.unit}"


@dataclass(frozen=True, slots=True)
class Slots(Form):
    """Cylinders in a row, such as an order or the posts of a cap. `given` has 0 where one is asked.

    `alike` are groups that may change places, because they fire together.
    """

    given: tuple[int, ...]
    alike: tuple[tuple[int, ...], ...] = ()
    goes_round: bool = False
    """Whether it may begin anywhere, since after the last the first comes again."""

    @property
    def blanks(self) -> tuple[int, ...]:
        """The places that are asked, from 0."""
        return tuple(nth for nth, cylinder in enumerate(self.given) if not cylinder)

    @property
    def scheme(self) -> str:
        """Right less wrong."""
        return "Marked: right less wrong, of the places asked."

    def read(self, value: Answer) -> Answer:
        """One number a place, 0 leaves a place empty; or typed, such as `1-3-4-2`."""
        count = len(self.given)
        if isinstance(value, str):
            parts = _typed_parts(value)
            number = all(p.isascii() and p.isdigit() and len(p) < 3 for p in parts)
            value = [int(p) for p in parts] if number else value
        if not isinstance(value, list | tuple) or len(value) != count:
            raise AnswerError(f"the answer must be {count} cylinders in a row")
        for cylinder in value:
            if isinstance(cylinder, bool) or not isinstance(cylinder, int):
                raise AnswerError(f"the answer has {_shown(cylinder)} where a cylinder goes")
            if not 0 <= cylinder <= count:
                raise AnswerError(f"the answer names cylinder {cylinder}, which there is not")
        return tuple(value)

    def marks(self, right: Answer, given: Answer) -> Marks:
        """Right less wrong, of the places that were asked, told from the cylinder that is named.

        An order goes round: told whole from another cylinder on it is the same order.
        """
        given = self.from_the_first(right, given)
        places = self.blanks
        hits = sum(self._same(given[nth], right[nth]) for nth in places)
        empty = sum(not given[nth] for nth in places)
        return Marks(hits, len(places) - hits - empty, len(places))

    def from_the_first(self, right: Answer, given: Answer) -> Answer:
        """A whole order, turned so that it begins where the right one does; else as it is."""
        if not self.goes_round or 0 in given or self._same(given[0], right[0]):
            return given
        starts = [nth for nth, cylinder in enumerate(given) if self._same(cylinder, right[0])]
        turned = [given[nth:] + given[:nth] for nth in starts]
        return max(turned, key=lambda row: sum(map(self._same, row, right)), default=given)

    def _same(self, one: int, other: int) -> bool:
        return one == other or any(one in group and other in group for group in self.alike)

    def words(self, value: Answer) -> str:
        """The row."""
        return "-".join(str(cylinder or "?") for cylinder in value)


@dataclass(frozen=True, slots=True)
class Place(Form):
    """A crank angle, answered by turning; right within `within_deg` on the circle of a cycle."""

    within_deg: float

    @property
    def scheme(self) -> str:
        """Within its bound."""
        return f"Marked: right within {self.within_deg:g}° either way."

    def read(self, value: Answer) -> Answer:
        """A crank angle; or typed, with `°` behind it or without."""
        if isinstance(value, str):
            value = _typed_number(value, ("°", "deg"), "a crank angle in degrees")
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise AnswerError(f"the answer must be a crank angle in degrees, not {_shown(value)}")
        if not math.isfinite(value) or abs(value) > 1e6:
            raise AnswerError("the answer must be a crank angle from 0 to 720 degrees")
        return float(value) % CYCLE_DEG

    def marks(self, right: Answer, given: Answer) -> Marks:
        """All or nothing."""
        fits = away_deg(given, right) <= self.within_deg + GRACE
        return Marks(int(fits), int(not fits), 1)

    def words(self, value: Answer) -> str:
        """The angle."""
        return f"{value:g}°"


def away_deg(one_deg: float, other_deg: float) -> float:
    """How far two crank angles are apart on the circle of a cycle, 0 to 360.

    >>> away_deg(719.0, 2.0), away_deg(0.0, 360.0)
    (3.0, 360.0)
    """
    return abs((one_deg - other_deg + 360.0) % CYCLE_DEG - 360.0)


def slips_of(form: Form, right: Answer) -> list[Answer]:
    """Answers of a form that are near at hand and wrong."""
    if isinstance(form, Choice):
        return [option.value for option in form.options if option.value != right]
    if isinstance(form, Figure):
        return [right / 2.0, right * 2.0, 0.0]
    if isinstance(form, Slots):
        count = len(right)
        return [(right[0], *reversed(right[1:])), tuple(range(1, count + 1))]
    if isinstance(form, TwoLists):
        return [(right[1], right[0])]
    return []
