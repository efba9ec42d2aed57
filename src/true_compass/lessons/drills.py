"""Every drill, by its slug; questions drawn from some of them; and the one way to judge."""

import math
from collections.abc import Mapping, Sequence
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
) -> list[Question]:
    """Questions of some kinds in turn, on some engines in turn, the same from the same seed.

    A kind that none of the engines carries raises `AskError`; where only some do, it is asked on
    those. A question is not asked twice until there is no other. With `mixed` the engines come in
    an order that follows from the seed.
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
        draw = Draw(seed, nth)
        for tries in range(TRIES):
            question = drill_of(kind).make(rigs[name], name, draw.again(tries))
            key = repr(question)
            if key not in seen:
                break
        seen.add(key)
        asked.append(question)
    return asked


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
