"""Every drill, by its slug; questions drawn from some of them; and the one way to judge."""

import math
from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from typing import Any, Final

from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.lessons.drill import Asked, AskError, Draw, Drill, Judged, Question, plain
from true_compass.lessons.forms import Answer
from true_compass.lessons.kinds import (
    cams,
    covered,
    cycle,
    figures,
    finding,
    orders,
    sparks,
    two_stops,
    valves,
)

DRILLS: Final[tuple[Drill, ...]] = (
    *cycle.DRILLS,
    *orders.DRILLS,
    *valves.DRILLS,
    *two_stops.DRILLS,
    *figures.DRILLS,
    *finding.DRILLS,
    *cams.DRILLS,
    *sparks.DRILLS,
    *covered.DRILLS,
)
BY_SLUG: Final = {drill.slug: drill for drill in DRILLS}
TRIES: Final = 12
"""How often a question that was asked just before is drawn again."""
MORE: Final = 120
"""How often, where sets are to differ."""


@lru_cache(maxsize=64)
def rig_of(engine: Engine) -> Rig:
    """The rig of an engine; the last ones are kept."""
    return Rig.of(engine)


def drill_of(slug: str) -> Drill:
    """The drill of a slug. Raises `AskError`."""
    drill = BY_SLUG.get(slug)
    if drill is None:
        raise AskError(f"kind must be one of {', '.join(BY_SLUG)}, not {slug[:30]!r}")
    return drill


def questions(
    kinds: Sequence[str],
    engines: Mapping[str, Engine],
    seed: int,
    count: int,
    *,
    mixed: bool = False,
    apart: "Apart | None" = None,
) -> list[Question]:
    """Questions of some kinds in turn, on some engines in turn, the same from the same seed.

    A kind that none of the engines carries raises `AskError`; where only some do, it is asked on
    those. A question is not asked twice until there is no other. With `mixed` the engines come in
    an order that follows from the seed. `apart` knows what other sets ask: what they share
    least with comes first, and what is asked here is noted too.
    """
    rigs = {name: rig_of(engine) for name, engine in engines.items()}
    carried = {
        kind: [name for name, rig in rigs.items() if not drill_of(kind).missing(rig)]
        for kind in kinds
    }
    for kind, names in carried.items():
        if not names:
            told = next(f"{rig.engine.name} {drill_of(kind).missing(rig)}" for rig in rigs.values())
            raise AskError(f"{kind} cannot be asked: {told}")
    if mixed:
        order = Draw(seed, 0).some("engines", list(engines), len(engines))
        carried = {kind: sorted(names, key=order.index) for kind, names in carried.items()}
    asked: list[Question] = []
    seen: set[str] = set()
    for nth in range(count):
        kind = kinds[nth % len(kinds)]
        names = carried[kind]
        name = names[nth // len(kinds) % len(names)]
        draws = (Draw(seed, nth).again(tries) for tries in range(MORE if apart else TRIES))
        made = (drill_of(kind).make(rigs[name], name, draw) for draw in draws)
        question = _least_shared(made, seen, apart, rigs[name])
        seen.add(repr(question))
        if apart is not None:
            apart.note(repr(question), _marks(rigs[name], question))
        asked.append(question)
    return asked


class Apart:
    """What sets that are given to several people share: marks of one and the same question."""

    def __init__(self) -> None:
        self._sets: list[dict[str, int]] = []
        self._shared: list[int] = []

    def next_set(self) -> None:
        """Another set begins."""
        self._sets.append({})
        self._shared = [0] * (len(self._sets) - 1)

    def cost(self, key: str, marks: int) -> tuple[int, int]:
        """The most that this set would share with another, and how many others have it: 0, 0 where
        none has.
        """
        others = [nth for nth, known in enumerate(self._sets[:-1]) if key in known]
        return max((self._shared[nth] + marks for nth in others), default=0), len(others)

    def note(self, key: str, marks: int) -> None:
        """This set asks it."""
        for nth, known in enumerate(self._sets[:-1]):
            self._shared[nth] += marks if key in known else 0
        self._sets[-1][key] = marks


def _marks(rig: Rig, question: Question) -> int:
    """How many marks a question has."""
    drill, q = drill_of(question.kind), Asked(rig, question)
    if not drill.on_paper:
        return 0
    form = drill.form(q)
    right = form.read(drill.answer(q))
    return form.marks(right, right).asked


def _least_shared(
    made: Iterable[Question], seen: set[str], apart: Apart | None, rig: Rig
) -> Question:
    """The first of some questions that was not asked yet, nor in other sets; else the next best."""
    best, least = None, (math.inf, math.inf, math.inf)
    for question in made:
        key = repr(question)
        shared = apart.cost(key, _marks(rig, question)) if apart is not None else (0, 0)
        told = (int(key in seen), *shared)
        if told < least:
            best, least = question, told
        if told == (0, 0, 0):
            break
    assert best is not None
    return best


def record_of(rig: Rig, question: Question) -> dict[str, Any]:
    """A question with its text, its right answer and the reason, as commands and papers have it."""
    drill, q = drill_of(question.kind), Asked(rig, question)
    told = {"text": drill.text(q), "answer": plain(drill.answer(q)), "why": drill.why(q)}
    return {**question.record(), **told}


def question_from(values: Any) -> Question:
    """A question from plain values. Raises `AskError`; what else they hold is not looked at."""
    if not isinstance(values, Mapping):
        raise AskError('a question must be an object such as {"kind": "stroke", …}')
    kind, engine = values.get("kind"), values.get("engine", "")
    ask, at = values.get("ask", {}), values.get("at_deg")
    if not isinstance(kind, str):
        raise AskError("kind must be a word such as stroke")
    drill_of(kind)
    if not isinstance(engine, str):
        raise AskError("engine must be the name of an engine")
    if not isinstance(ask, Mapping):
        raise AskError('ask must be an object such as {"cylinder": 3}')
    if at is not None:
        if isinstance(at, bool) or not isinstance(at, int | float) or not math.isfinite(at):
            raise AskError("at_deg must be a crank angle, 0 to 720, or null")
        at = float(at) % 720.0
    return Question(kind, engine, dict(ask), at)


def judge(engine: Engine, question: Question, answer: Answer) -> Judged:
    """Judge an answer from the engine alone.

    Raises `AskError` for a question that cannot be asked of it, `AnswerError` for an answer that is
    not in its form.
    """
    drill, rig = drill_of(question.kind), rig_of(engine)
    missing = drill.missing(rig)
    if missing:
        raise AskError(f"{question.kind} cannot be asked: {engine.name} {missing}")
    try:
        return drill.judge(Asked(rig, question), answer)
    except EngineError as error:
        raise AskError(f"ask.{error.field} {error}") from None
