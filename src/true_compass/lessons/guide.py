"""The guided part of a lesson: what is said, where the crank goes, what is covered and asked.

A step names cylinders by letters. The `cast` says who they are on the engine that is there, so that
one text goes with every layout: `1`, `companion a`, `next a`, `other a`.
"""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import Enum
from types import MappingProxyType
from typing import Any, Final

from true_compass.core.angles import wrap_deg
from true_compass.core.cautions import Caution
from true_compass.core.crank.phasing import companion_of
from true_compass.core.events import crossings
from true_compass.core.items import Item, Kind
from true_compass.core.state import Rig
from true_compass.core.valves.cam import SEAT
from true_compass.core.valves.timing import main_lift
from true_compass.lessons.drill import Asked, AskError, Cover, Question
from true_compass.lessons.drills import drill_of
from true_compass.lessons.forms import Choice, Figure, Place, Ticks
from true_compass.lessons.kinds.cycle import overlap_deg, tdc_deg
from true_compass.lessons.kinds.valves import lift_mm, margins_deg

MOST_STEPS: Final = 40
MOST_OPTIONS: Final = 9
LETTERS: Final = "abcd"


class LessonError(ValueError):
    """A lesson that cannot be given as it is written, as one sentence with the way out."""


class Pointing(Enum):
    """What a step points to."""

    NOTHING = ""
    VALVES = "valves"
    PISTONS = "pistons"
    STROKES = "strokes"
    CRANK = "crank"
    RING = "ring"
    CHIPS = "chips"


class Picture(Enum):
    """What stands beside the cylinders."""

    CRANK = "crank"
    ROTOR = "rotor"
    LIFT = "lift"


@dataclass(frozen=True, slots=True)
class Notes:
    """What the instructor's own window says: say, wait for, the answer, and what if it is wrong."""

    say: str = ""
    wait: str = ""
    answer: str = ""
    wrong: str = ""


@dataclass(frozen=True, slots=True)
class Step:
    """One step. `say` is its sentence, with `{a}` for a cylinder of the cast.

    `at` says where the crank goes (`place_deg`), nothing that it stays. `look` are letters of the
    cylinders that are shown large. `asks` is the kind of a drill, with what it asks in `ask`;
    `then` is the sentence after the answer, else the engine's reason stands there. In sentences
    `{given}` stands for the figures that the answer is judged on, `{answer}` for the right answer.
    `care` are the cautions that belong to the step. `holds` is what its sentences say of valves,
    such as `a both shut` or `b exhaust free at overlap b`: an engine where it is not so is refused.
    """

    say: str
    at: str = ""
    look: str = "a"
    point: Pointing = Pointing.NOTHING
    plate: str = ""
    cover: tuple[Cover, ...] = ()
    picture: Picture = Picture.CRANK
    asks: str = ""
    ask: Mapping[str, Any] = field(default_factory=lambda: MappingProxyType({}))
    then: str = ""
    care: tuple[Caution, ...] = ()
    holds: tuple[str, ...] = ()
    notes: Notes = Notes()


@dataclass(frozen=True, slots=True)
class Guided:
    """A guided part: who the letters are, and its steps. `engine` is the name of its own engine."""

    title: str
    engine: str
    cast: tuple[str, ...]
    steps: tuple[Step, ...]


_CAST: Final = re.compile(r"(\d{1,2})|(companion|next|after next|beside) ([a-d])")


def cast_on(rig: Rig, cast: Sequence[str]) -> dict[str, int]:
    """Who each letter is on an engine. Raises `LessonError` where there is nobody.

    >>> from true_compass.core.engine import even_inline
    >>> cast_on(Rig.of(even_inline((1, 3, 4, 2))), ("1", "companion a", "next a"))
    {'a': 1, 'b': 4, 'c': 3}
    """
    found: dict[str, int] = {}
    for letter, words in zip(LETTERS, cast, strict=False):
        match = _CAST.fullmatch(words)
        if match is None or (match[3] and match[3] not in found):
            raise LessonError(
                f"cast has {words[:30]!r}: write a cylinder, or companion, next, after next or "
                "beside with a letter before it"
            )
        found[letter] = _member(rig, match, found)
    return found


def _member(rig: Rig, match: "re.Match[str]", found: Mapping[str, int]) -> int:
    engine = rig.engine
    if match[1]:
        if int(match[1]) not in engine.cylinders:
            raise LessonError(f"{engine.name} has no cylinder {match[1]}")
        return int(match[1])
    of, word = found[match[3]], match[2]
    if word == "companion":
        other = companion_of(engine, of)
        if other is None:
            raise LessonError(f"{engine.name} has no companion of {of}")
        return other
    if word == "beside":
        if engine.cylinder_count < 2:
            raise LessonError(f"{engine.name} has one cylinder")
        return of % engine.cylinder_count + 1
    order = engine.firing_order
    steps = 1 if word == "next" else 2
    if len(order) <= steps:
        raise LessonError(f"{engine.name} has too few cylinders for who fires {word}")
    return order[(order.index(of) + steps) % len(order)]


_PLACE: Final = re.compile(
    r"(?:(compression|overlap) ([a-d])|([IE]) ([a-d]) (opens|closes|nose)|(-?\d{1,3}(?:\.\d)?))"
    r"(?: ?([+-]) ?(\d{1,3}))?"
)
_BY: Final = re.compile(r"([+-]) ?(\d{1,3})")


def place_deg(rig: Rig, at: str, cast: Mapping[str, int], stands_deg: float) -> float:
    """The crank angle that words of a step mean, [0, 720), for a crank that stands somewhere.

    Such as `compression a`, `overlap b + 30`, `I a opens`, `540`, `+90`; nothing is where it
    stands. Raises `LessonError` for other words.
    """
    if not at:
        return stands_deg
    by = _BY.fullmatch(at)
    if by is not None:
        return wrap_deg(stands_deg + float(f"{by[1]}{by[2]}"))
    match = _PLACE.fullmatch(at)
    if match is None:
        raise LessonError(
            f"at has {at[:30]!r}: write compression a, overlap a, I a opens, I a nose, an angle, "
            "or +90"
        )
    letter = match[2] or match[4]
    if letter and letter not in cast:
        raise LessonError(f"at names {letter}, and the cast has nobody of that letter")
    more = float(f"{match[7]}{match[8]}") if match[7] else 0.0
    return wrap_deg(_start_deg(rig, match, cast) + more)


def _start_deg(rig: Rig, match: "re.Match[str]", cast: Mapping[str, int]) -> float:
    if match[6]:
        return float(match[6])
    if match[1]:
        place = tdc_deg if match[1] == "compression" else overlap_deg
        return place(rig, cast[match[2]])
    kind = Kind.INTAKE if match[3] == "I" else Kind.EXHAUST
    row = rig.engine.valve_row(cast[match[4]], kind)
    seat = main_lift(crossings(rig.lobes, SEAT)[row])
    if seat is None:
        raise LessonError(f"{rig.engine.valves[row].name} never opens on {rig.engine.name}")
    if match[5] == "nose":
        timing = rig.engine.cam.timing(kind)
        nose_deg = timing.nose_cycle_deg(kind) - timing.advance_deg
        return wrap_deg(float(rig.offsets_deg[cast[match[4]] - 1]) + nose_deg)
    return seat[0] if match[5] == "opens" else seat[1]


_HOLDS: Final = re.compile(
    r"([a-d]) (both|intake|exhaust) (open|shut|free|pressed)(?: at (.{1,30}))?"
)


_TAPPETS: Final = ("hydraulic", "solid")


def _check_holds(rig: Rig, step: Step, cast: Mapping[str, int], stands_deg: float) -> None:
    """Raise `LessonError` where what a step says of valves is not so on an engine."""
    for words in step.holds:
        if words in _TAPPETS:
            if rig.engine.train.hydraulic != (words == _TAPPETS[0]):
                raise LessonError(f"it is about {words} tappets, and {rig.engine.name} has others")
            continue
        match = _HOLDS.fullmatch(words)
        if match is None or match[1] not in cast:
            raise LessonError(
                f"holds has {words[:30]!r}: write a letter of the cast, both, intake or exhaust, "
                "and open, shut, free or pressed, such as a both shut; or hydraulic, or solid"
            )
        at = place_deg(rig, match[4] or "", cast, stands_deg)
        kinds = [kind for kind in Kind if match[2] in ("both", kind.value)]
        names = [Item(kind, cast[match[1]]).name for kind in kinds]
        so = [_is_so(rig, name, match[3], at) for name in names]
        if not all(so):
            raise LessonError(
                f"a step says that {names[so.index(False)]} is {match[3]} at {at:.4g}°, and on "
                f"{rig.engine.name} it is not"
            )


def _is_so(rig: Rig, name: str, word: str, at_deg: float) -> bool:
    """Whether a valve is open, shut, free (on its base circle) or pressed (off it) at a place."""
    if word in ("open", "shut"):
        return (lift_mm(rig, name, at_deg) > 0) == (word == "open")
    return (margins_deg(rig, at_deg).get(name, math.nan) > 0) == (word == "free")


_LETTER: Final = re.compile(r"\{([a-d]|given|answer)\}")


def said(words: str, cast: Mapping[str, int], asked: Asked | None = None) -> str:
    """A sentence with its letters as cylinders, and with what its question gives and answers.

    Raises `LessonError` for a letter of nobody.
    """

    def number(match: "re.Match[str]") -> str:
        if match[1] in ("given", "answer") and asked is not None:
            return _of_question(asked, match[1])
        if match[1] not in cast:
            raise LessonError(f"a sentence names {{{match[1]}}}, and the cast has no such letter")
        return str(cast[match[1]])

    return _LETTER.sub(number, words)


def _of_question(asked: Asked, what: str) -> str:
    """What a question gives, or its right answer as a person says it."""
    drill = drill_of(asked.question.kind)
    if what == "given":
        return drill.given(asked)
    form = drill.form(asked)
    return form.words(form.read(drill.answer(asked)))


@dataclass(frozen=True, slots=True)
class Shown:
    """A step as it is given on an engine: its sentence, the cylinders, the crank, the question."""

    step: Step
    sentence: str
    plate: str
    then: str
    cylinders: tuple[int, ...]
    crank_deg: float
    question: Question | None


def shown_on(rig: Rig, part: Guided, nth: int, name: str = "") -> Shown:
    """Step `nth` (from 0) on an engine. `name` is the engine's name in questions.

    Raises `LessonError` for what this engine cannot show, or a step that makes no sense.
    """
    cast = cast_on(rig, part.cast)
    at = 0.0
    for step in part.steps[: nth + 1]:
        at = place_deg(rig, step.at, cast, at)
    step = part.steps[nth]
    for letter in step.look:
        if letter not in cast:
            raise LessonError(f"look names {letter}, and the cast has nobody of that letter")
    _check_holds(rig, step, cast, at)
    question = _question(rig, step, cast, at, name) if step.asks else None
    asked = Asked(rig, question) if question is not None else None
    return Shown(
        step,
        said(step.say, cast, asked),
        said(step.plate, cast, asked),
        said(step.then, cast, asked),
        tuple(dict.fromkeys(cast[letter] for letter in step.look)),
        at,
        question,
    )


def _question(rig: Rig, step: Step, cast: Mapping[str, int], at_deg: float, name: str) -> Question:
    """What a step asks, checked: one of some answers, a figure, or a place to turn to."""
    ask = {
        key: cast[value] if isinstance(value, str) and value in cast else value
        for key, value in step.ask.items()
    }
    try:
        drill = drill_of(step.asks)
        missing = drill.missing(rig)
        if missing:
            raise LessonError(f"asks {step.asks}, but {rig.engine.name} {missing}")
        question = Question(step.asks, name, ask, at_deg)
        form = drill.form(Asked(rig, question))
        drill.answer(Asked(rig, question))
        unfair = drill.unfair(Asked(rig, question))
        if unfair:
            raise LessonError(f"asks {step.asks}, but {rig.engine.name} {unfair}")
    except AskError as error:
        raise LessonError(f"asks {step.asks}: {error}") from None
    if not isinstance(form, Choice | Ticks | Figure | Place):
        raise LessonError(f"asks {step.asks}, which a guided step has no keys for: use a drill")
    return question


def why_not(rig: Rig, part: Guided) -> str:
    """Why an engine cannot show a part, as a sentence; nothing where it can."""
    try:
        for nth in range(len(part.steps)):
            shown_on(rig, part, nth)
    except LessonError as error:
        return str(error)
    return ""
