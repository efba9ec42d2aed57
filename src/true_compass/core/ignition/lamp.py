"""What a timing lamp shows, and what a row of readings points to.

The lamp flashes at cylinder 1's spark; the mark then stands short of the pointer by the total,
against the rotation. Each suspect foretells what a reading would be; a reading rules out, fits,
or says nothing.
"""

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from enum import Enum
from typing import Final

from true_compass.core.ignition.advance import (
    begins_at_rpm,
    full_at_rpm,
    parts_at,
    three_places,
)
from true_compass.core.spark import Advance
from true_compass.core.words import capital, counted

EYE_DEG: Final = 1.0
"""How far an eye may misread a moving mark, either way (common practice, no source)."""
OFF_DEG: Final = 2.0
"""What is off by less may be the eye."""
LEAST_DEG: Final = 2.0
"""A setting or a mark that is out by less is no fault."""
LEAST_LOST: Final = 0.25
"""Weights that hang and cans that leak lose at least so much of what they add."""
STOP_DEG: Final = 0.3
"""How far two readings at the stop may be out (common practice, no source)."""
GRACE_DEG: Final = 1e-6
STUCK_SHARE: Final = 0.5
"""What stuck weights still give of their advance, as the program shows them: half."""


class Suspect(Enum):
    """What can be wrong, with the word below it."""

    SETTING = "Setting"
    WEIGHTS = "Weights"
    CAN = "Can"
    HOSE = "Hose"
    DAMPER = "Damper"

    @property
    def state(self) -> str:
        """What is wrong with it: one or two words."""
        return _STATES[self]

    @property
    def sentence(self) -> str:
        """It as part of a sentence."""
        return _SENTENCES[self]


_STATES: Final = {
    Suspect.SETTING: "wrong",
    Suspect.WEIGHTS: "stuck",
    Suspect.CAN: "leaks",
    Suspect.HOSE: "off, split",
    Suspect.DAMPER: "crept",
}
_SENTENCES: Final = {
    Suspect.SETTING: "the setting is wrong",
    Suspect.WEIGHTS: "the weights are stuck",
    Suspect.CAN: "the can leaks",
    Suspect.HOSE: "the hose is off or split",
    Suspect.DAMPER: "the damper has crept",
}


class How(Enum):
    """How something is looked at."""

    LAMP = "lamp"
    PUMP = "pump"
    STOP = "stop"


@dataclass(frozen=True, slots=True)
class Asked:
    """A reading to take: by the lamp at a speed and a depression, or by another tool.

    `depression_mbar` is what the engine has; with the hose off the can gets none of it.
    """

    how: How
    speed_rpm: float = 0.0
    depression_mbar: float = 0.0
    hose_on: bool = False
    has_hose: bool = True

    @property
    def at_can_mbar(self) -> float:
        """Depression that a sound hose brings to the can."""
        return self.depression_mbar if self.hose_on else 0.0

    @property
    def title(self) -> str:
        """What to do, in a few words."""
        if self.how is How.PUMP:
            return f"Pump on the can: {self.depression_mbar:.0f} mbar"
        if self.how is How.STOP:
            return "Piston stop, both sides"
        if not self.has_hose:
            return f"{self.speed_rpm:,.0f} rpm"
        hose = "hose on" if self.hose_on else "hose off"
        return f"{self.speed_rpm:,.0f} rpm, {hose}"

    @property
    def note(self) -> str:
        """One small line below it."""
        if self.how is How.PUMP:
            return "engine off, in the hose's place"
        if self.how is How.STOP:
            return "true TDC against the mark"
        return f"{self.depression_mbar:.0f} mbar at the can" if self.hose_on else "no vacuum"


@dataclass(frozen=True, slots=True)
class Reading:
    """What was read there: degrees of the mark, degrees it is off, or 1 for a can that holds."""

    asked: Asked
    read: float


@dataclass(frozen=True, slots=True)
class Faults:
    """What is really wrong, as the picture of the lamp shows it.

    `off_deg` is how much earlier the setting is than it should be, `crept_deg` how far after true
    TDC the mark is met since it was set.
    """

    off_deg: float = 0.0
    weights_stuck: bool = False
    can_leaks: bool = False
    hose_off: bool = False
    crept_deg: float = 0.0


SOUND: Final = Faults()
ALIKE: Final = (Suspect.SETTING, Suspect.DAMPER)
"""They add the same at every speed: a lamp cannot tell them apart."""


def should_read_deg(advance: Advance, asked: Asked) -> float:
    """What the lamp shows on a sound engine."""
    if asked.how is not How.LAMP:
        return 1.0 if asked.how is How.PUMP else 0.0
    return parts_at(advance, asked.speed_rpm, asked.at_can_mbar).total_deg


def would_read_deg(advance: Advance, asked: Asked, faults: Faults) -> float:
    """What is read with these faults. A mark met late reads too much."""
    if asked.how is How.PUMP:
        return 0.0 if faults.can_leaks else 1.0
    if asked.how is How.STOP:
        return faults.crept_deg
    parts = parts_at(advance, asked.speed_rpm, asked.at_can_mbar)
    weights = parts.mechanical_deg * (STUCK_SHARE if faults.weights_stuck else 1.0)
    vacuum = 0.0 if faults.can_leaks or faults.hose_off else parts.vacuum_deg
    return parts.initial_deg + faults.off_deg + weights + vacuum + faults.crept_deg


def usual_row(advance: Advance) -> tuple[Asked, ...]:
    """The readings in their usual order: initial, weights, vacuum, pump, piston stop."""
    idle, cruise, _ = three_places(advance)
    begins = begins_at_rpm(advance)
    slow = min(idle.speed_rpm, begins) if begins else idle.speed_rpm
    hose = bool(advance.can)
    row = [Asked(How.LAMP, slow, has_hose=hose)]
    if advance.weights:
        row.append(Asked(How.LAMP, full_at_rpm(advance), has_hose=hose))
    if advance.can:
        at_can = cruise.depression_mbar
        row.append(Asked(How.LAMP, cruise.speed_rpm, at_can, hose_on=True))
        row.append(Asked(How.PUMP, depression_mbar=at_can))
    return (*row, Asked(How.STOP))


def lamp_row(advance: Advance) -> tuple[Asked, ...]:
    """The readings of that row that are taken with the lamp."""
    return tuple(asked for asked in usual_row(advance) if asked.how is How.LAMP)


def suspects_of(advance: Advance) -> tuple[Suspect, ...]:
    """What there is on this engine to be wrong."""
    kinds = [Suspect.SETTING]
    if advance.weights:
        kinds.append(Suspect.WEIGHTS)
    if advance.can:
        kinds += [Suspect.CAN, Suspect.HOSE]
    return (*kinds, Suspect.DAMPER)


class Says(Enum):
    """What a reading says of a suspect."""

    RULED_OUT = "ruled out"
    FITS = "fits"
    WOULD_TELL = "would tell"
    NOTHING = "says nothing"


def shows(advance: Advance, asked: Asked, suspect: Suspect) -> bool:
    """Whether such a reading could show a suspect: by the lamp, by 2° or more."""
    if asked.how is How.PUMP:
        return suspect in (Suspect.CAN, Suspect.HOSE)
    if asked.how is How.STOP:
        return suspect is Suspect.DAMPER
    return suspect in ALIKE or abs(_adds_deg(advance, asked, suspect)) >= OFF_DEG


def _adds_deg(advance: Advance, asked: Asked, suspect: Suspect) -> float:
    """What the part that is suspected adds there when it is sound."""
    parts = parts_at(advance, asked.speed_rpm, asked.at_can_mbar)
    return parts.mechanical_deg if suspect is Suspect.WEIGHTS else parts.vacuum_deg


def off_by(advance: Advance, reading: Reading) -> float:
    """How much a reading is over (+) or short (−) of what it should be."""
    return reading.read - should_read_deg(advance, reading.asked)


def is_off(advance: Advance, reading: Reading) -> bool:
    """Whether a reading is off by more than an eye could be."""
    if reading.asked.how is How.PUMP:
        return reading.read < 0.5
    return abs(off_by(advance, reading)) >= OFF_DEG


def contradicts(advance: Advance, reading: Reading, suspect: Suspect) -> bool:
    """Whether one reading cannot be with this suspect alone at fault, however the eye erred.

    It must contradict the least that the fault would do: what is off by 2° or more, or loses a
    quarter of what it adds, shows less than that by no more than the eye's scatter.
    """
    asked, by = reading.asked, off_by(advance, reading)
    if asked.how is How.PUMP:
        return (suspect is Suspect.CAN) is (reading.read >= 0.5) and shows(advance, asked, suspect)
    if asked.how is How.STOP:
        return suspect is Suspect.DAMPER and abs(by) + EYE_DEG < LEAST_DEG
    if suspect is Suspect.DAMPER:
        return False  # one that crept before it was set looks sound under the lamp
    if suspect is Suspect.SETTING:
        return abs(by) + EYE_DEG < LEAST_DEG
    adds = _adds_deg(advance, asked, suspect)
    least, most = sorted((-adds, -LEAST_LOST * adds))
    return not least - EYE_DEG <= by <= most + EYE_DEG


def contradicted(advance: Advance, readings: Collection[Reading], suspect: Suspect) -> bool:
    """Whether readings cannot be together with this suspect alone at fault.

    A body that moved and a damper that crept are off everywhere by the same amount; what two
    readings at the stop say of the mark is taken off before the setting is judged.
    """
    if any(contradicts(advance, reading, suspect) for reading in readings):
        return True
    if suspect not in ALIKE:
        return False
    by = [off_by(advance, one) for one in readings if one.asked.how is How.LAMP]
    if not by:
        return False
    if max(by) - min(by) > 2 * EYE_DEG + GRACE_DEG:
        return True
    stops = [one.read for one in readings if one.asked.how is How.STOP]
    if suspect is Suspect.DAMPER or not stops or abs(stops[-1]) <= EYE_DEG:
        return False
    scatter = EYE_DEG + STOP_DEG
    least, most = (end - stops[-1] for end in (max(by) - scatter, min(by) + scatter))
    return least > -LEAST_DEG and most < LEAST_DEG


def supports(advance: Advance, reading: Reading, suspect: Suspect) -> bool:
    """Whether a reading is off in a way that this suspect would do."""
    can = shows(advance, reading.asked, suspect) and is_off(advance, reading)
    return can and not contradicts(advance, reading, suspect)


@dataclass(frozen=True, slots=True)
class Row:
    """One row of the table: what to read, what it should be, what was read, what that says."""

    asked: Asked
    should: float
    read: float | None
    off: bool
    says: tuple[Says, ...]


@dataclass(frozen=True, slots=True)
class Found:
    """What the readings point to: suspects left, rows, and the row that would tell most next."""

    suspects: tuple[Suspect, ...]
    rows: tuple[Row, ...]
    left: tuple[Suspect, ...]
    next_row: int | None
    headline: str
    below: str


def found(advance: Advance, readings: Iterable[Reading]) -> Found:
    """Judge all readings together; those of the usual row that are missing come after."""
    taken = {reading.asked: reading for reading in readings}
    asked = [*taken, *(one for one in usual_row(advance) if one not in taken)]
    asked.sort(key=_place)
    suspects = suspects_of(advance)
    lamp = taken.values()
    out = {each for each in suspects if contradicted(advance, lamp, each)}
    left = tuple(
        each
        for each in suspects
        if each not in out and any(supports(advance, one, each) for one in lamp)
    )
    is_open = set(left) or set(suspects) - out
    rows = tuple(_row(advance, one, taken.get(one), suspects, left, is_open) for one in asked)
    off = [row for row in rows if row.off]
    following = _next(rows, bool(off))
    still = tuple(each for each in suspects if each not in out)
    head, below = _words(rows, left, off, still, more=following is not None)
    return Found(suspects, rows, left, following, head, below)


def _place(asked: Asked) -> tuple[int, bool, float]:
    return (tuple(How).index(asked.how), asked.hose_on, asked.speed_rpm)


def _row(
    advance: Advance,
    asked: Asked,
    reading: Reading | None,
    suspects: tuple[Suspect, ...],
    left: tuple[Suspect, ...],
    is_open: set[Suspect],
) -> Row:
    should = should_read_deg(advance, asked)
    if reading is not None:
        told = tuple(_says(advance, reading, each, left) for each in suspects)
        return Row(asked, should, reading.read, is_off(advance, reading), told)
    cells = [
        Says.WOULD_TELL if each in is_open and _would_tell(advance, asked, each) else Says.NOTHING
        for each in suspects
    ]
    return Row(asked, should, None, False, tuple(cells))


def _says(advance: Advance, reading: Reading, suspect: Suspect, left: tuple[Suspect, ...]) -> Says:
    """What a reading that was taken says of a suspect."""
    if contradicts(advance, reading, suspect):
        return Says.RULED_OUT
    # What does not explain all readings does not fit one of them either.
    if suspect in left and supports(advance, reading, suspect):
        return Says.FITS
    return Says.NOTHING


def _would_tell(advance: Advance, asked: Asked, suspect: Suspect) -> bool:
    under_lamp = asked.how is How.LAMP and suspect is Suspect.DAMPER
    return shows(advance, asked, suspect) and not under_lamp


def _next(rows: tuple[Row, ...], something_is_off: bool) -> int | None:
    """The next reading: in the usual order while all is sound, then the one that tells most."""
    telling = [
        (row.says.count(Says.WOULD_TELL), -nth) for nth, row in enumerate(rows) if row.read is None
    ]
    telling = [one for one in telling if one[0]]
    if not telling:
        return None
    return -(max(telling) if something_is_off else telling[0])[1]


def _words(
    rows: tuple[Row, ...],
    left: tuple[Suspect, ...],
    off: list[Row],
    still: tuple[Suspect, ...],
    *,
    more: bool,
) -> tuple[str, str]:
    taken = [row for row in rows if row.read is not None]
    if not taken:
        begin = "Idle first, with the hose off and plugged."
        if not rows[0].asked.has_hose:
            begin = "Idle first, below the weights where there are any."
        return "Take the readings in their order", begin
    if not off:
        if more:
            if len(taken) == 1:
                return "1 reading is as it should be", _open_words(len(still))
            return f"{len(taken)} readings are as they should be", _open_words(len(still))
        if still:
            names = " or ".join(each.sentence for each in still)
            return "Nothing is off by more than an eye", f"Read again: it may be that {names}."
        return "Everything is as it should be", "Setting, weights, vacuum and mark agree."
    first = off[0]
    below = _off_words(first)
    if not left:
        return "Two faults, or misread: take 1 again", below
    if len(left) == 1:
        sentence = left[0].sentence
        return capital(sentence), below
    if len(left) == 2:
        second = left[1].sentence
        short = "its hose does" if left == (Suspect.CAN, Suspect.HOSE) else second
        if left == ALIKE:
            below = f"{below} A lamp never parts these two: only two TDC readings do."
        return f"Two are left: {left[0].sentence}, or {short}", below
    return f"{len(left)} are left", below


def _open_words(count: int) -> str:
    return f"{counted(count, 'suspect is', 'suspects are')} not ruled out yet."


def _off_words(row: Row) -> str:
    assert row.read is not None
    if row.asked.how is How.PUMP:
        return "The pump's needle falls: the can does not hold."
    by = row.read - row.should
    if row.asked.how is How.STOP:
        side = "after" if by > 0 else "before"
        return f"The mark is met {abs(by):.1f}° {side} true TDC."
    word = "over" if by > 0 else "short"
    return f"At {row.asked.title}, it is {abs(by):.1f}° {word}."
