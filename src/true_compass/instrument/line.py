"""One line of text a reading, and a reader that never loses its way.

A line is words with single spaces between them, in ASCII, and ends with a newline:

    <number> <what> <value> <unit> <check>

`number` counts the sender's lines from 0 to 999999 and round again; `what` is `lift` or `crank`;
`value` is decimal, with a sign where it is negative; `unit` is `mm` or `in` for a lift, `deg` for a
crank; `check` is the CRC-32 of everything before its space, as eight hexadecimal digits.

    17 lift 6.931 mm 47d7da11

To an instrument that turns the engine itself, a program sends lines of the same shape with `turn`
in place of `what`: by so many degrees. `docs/instrument.md` has the whole of it.
"""

import math
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.core.units import MM_PER_INCH

MOST_BYTES: Final = 80
MOST_NUMBER: Final = 1_000_000
MOST_VALUE: Final = 1e6


class What(Enum):
    """What a line tells."""

    LIFT = "lift"
    CRANK = "crank"
    TURN = "turn"


UNITS: Final = {
    What.LIFT: {"mm": 1.0, "in": MM_PER_INCH},
    What.CRANK: {"deg": 1.0},
    What.TURN: {"deg": 1.0},
}


@dataclass(frozen=True, slots=True)
class Reading:
    """One line that was understood. `value` is in mm or degrees, whatever `unit` it was sent in."""

    number: int
    what: What
    value: float
    unit: str


class Fault(Enum):
    """What can be wrong with a line of instruments."""

    GARBAGE = "garbage"
    LOST = "lost"
    UNIT = "unit"
    AGAIN = "again"


@dataclass(frozen=True, slots=True)
class Told:
    """Something to be told: a fault in one sentence. `count` is how many lines it is about."""

    fault: Fault
    sentence: str
    count: int = 1


GARBAGE: Final = Told(Fault.GARBAGE, "A line made no sense and was left out.")
_SAID: Final = {"mm": "mm", "in": "inches", "deg": "degrees"}


def check_of(text: str) -> str:
    """The check of a line without it.

    >>> check_of("17 lift 6.931 mm")
    '47d7da11'
    """
    return f"{zlib.crc32(text.encode('ascii')):08x}"


def written(number: int, what: What, value: float, unit: str = "") -> bytes:
    """A line as it goes over the wire; a value in mm or degrees is sent in `unit`."""
    unit = unit or next(iter(UNITS[what]))
    told = f"{number % MOST_NUMBER} {what.value} {value / UNITS[what][unit]:.4f} {unit}"
    return f"{told} {check_of(told)}\n".encode("ascii")


def parsed(line: bytes) -> Reading | None:
    """The reading of one line without its newline, or None for what is none."""
    try:
        told, _, check = line.decode("ascii").rstrip("\r").rpartition(" ")
    except UnicodeDecodeError:
        return None
    if check != check_of(told):
        return None
    words = told.split(" ")
    if len(words) != 4 or not (words[0].isdecimal() and len(words[0]) <= 6):
        return None
    try:
        what, value = What(words[1]), float(words[2])
    except ValueError:
        return None
    factor = UNITS[what].get(words[3])
    if factor is None or not (math.isfinite(value) and abs(value) <= MOST_VALUE):
        return None
    return Reading(int(words[0]), what, value * factor, words[3])


class LineReader:
    """Turns bytes as they come into readings, and says what is wrong with them.

    It holds no more than one unfinished line, however much is fed. What makes no sense is skipped
    to the next newline and told; lost lines are counted by their numbers; a change of unit is told
    and the readings go on in mm.
    """

    def __init__(self) -> None:
        self._rest = b""
        self._skipping = False
        self._last: int | None = None
        self._units: dict[What, str] = {}

    def feed(self, data: bytes) -> Iterator[Reading | Told]:
        """Everything that these bytes complete."""
        *lines, rest = (self._rest + data).split(b"\n")
        for line in lines:
            if self._skipping:  # the end of a line that was too long
                self._skipping = False
                continue
            yield from self._one(line)
        if len(rest) > MOST_BYTES and not self._skipping:
            self._skipping = True
            yield GARBAGE
        self._rest = b"" if self._skipping else rest

    def _one(self, line: bytes) -> Iterator[Reading | Told]:
        reading = parsed(line) if len(line) <= MOST_BYTES else None
        if reading is None:
            if line.strip(b"\r "):
                yield GARBAGE
            return
        yield from self._numbered(reading)
        unit = self._units.get(reading.what)
        if unit is not None and unit != reading.unit:
            yield Told(
                Fault.UNIT,
                f"The {reading.what.value} comes in {_SAID[reading.unit]} now, no longer in "
                f"{_SAID[unit]}: it is read so. Check the instrument.",
            )
        self._units[reading.what] = reading.unit
        yield reading

    def _numbered(self, reading: Reading) -> Iterator[Told]:
        last, self._last = self._last, reading.number
        if last is None:
            return
        missing = (reading.number - last - 1) % MOST_NUMBER
        if missing == 0:
            return
        if missing > MOST_NUMBER // 2:
            yield Told(Fault.AGAIN, "The instrument counts anew: it was switched off and on.")
            return
        lines = "1 line was" if missing == 1 else f"{missing} lines were"
        yield Told(Fault.LOST, f"{lines} lost on the way; the readings go on.", missing)
