"""Guessing does not pass: what is always right, and what students who know nothing reach."""

import random
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from itertools import groupby

import pytest

from true_compass.files.rigs import demo_rig
from true_compass.lessons.drill import NEVER, Asked, Drill, Question
from true_compass.lessons.drills import DRILLS, drill_of, questions, rig_of
from true_compass.lessons.forms import Answer, Choice, Form, Place, Slots, Ticks, TwoLists
from true_compass.lessons.mastery import RUNNING, Evidence, Shown, counted_of
from true_compass.lessons.skills import SKILLS, Skill

RIGS = ("alder", "birch", "cedar")
DRAWN = 120
ASKED = [drill for drill in DRILLS if not drill.slug.startswith("covered")]


def drawn(drill: Drill, rig: str, count: int = DRAWN) -> list[Asked]:
    """Questions of one kind on one rig; none where it cannot carry them."""
    made = rig_of(demo_rig(rig))
    if drill.missing(made):
        return []
    return [Asked(made, q) for q in questions([drill.slug], {rig: made.engine}, 5, count)]


def bound(drill: Drill, asked: list[Asked], answers: Counter[object]) -> float:
    """How often one answer may be right: 60 % of two choices, else chance and 15 points."""
    choices = max(drill.choices(q) for q in asked)
    form = drill.form(asked[0])
    if choices == 2 or len(answers) == 2:
        return 0.6
    several = min(choices, len(answers))
    return 1.0 / (len(form.options) if isinstance(form, Choice) else several) + 0.15


@pytest.mark.parametrize("rig", RIGS)
def test_no_answer_and_no_place_is_right_too_often(rig: str) -> None:
    for drill in ASKED:
        asked = drawn(drill, rig)
        counting = [q for q in asked if drill.choices(q) > NEVER]
        if not counting:
            continue
        answers: Counter[object] = Counter()
        places: Counter[int] = Counter()
        for q in counting:
            form = drill.form(q)
            right = form.read(drill.answer(q))
            answers[right] += 1
            if isinstance(form, Choice):
                places[[option.value for option in form.options].index(right)] += 1
        most = bound(drill, counting, answers) * len(counting)
        assert max(answers.values()) <= most, (drill.slug, answers.most_common(2))
        assert max(places.values(), default=0) <= most, (drill.slug, places.most_common(2))


@pytest.mark.parametrize("rig", RIGS)
def test_no_question_of_1_0_whose_answer_never_changed_counts(rig: str) -> None:
    """As they stand in records of 1.0: the same answer 120 times of 120."""
    made = rig_of(demo_rig(rig))
    order = "-".join(("1", *("?" for _ in made.engine.firing_order[1:])))
    for kind, ask, at in (
        ("mark-zero", {"cylinder": 1}, 360.0),
        ("flat", {"sees_mm": 0.1}, None),
        ("half-post", {"posts": made.engine.cylinder_count}, None),
        ("backwards", {"wired": "1-2"}, None),
        ("order", {"order": order}, None),
        ("sign", {"cylinder": 1, "looks": [["still", "1"], ["pressure", "1"]]}, 0.0),
        ("screw", {"item": "I1", "measured_mm": 0.0}, None),
    ):
        q = Asked(made, Question(kind, rig, ask, at))
        assert drill_of(kind).choices(q) == NEVER, kind


# Students who were never taught ---------------------------------------------------------------

RUNS, DAYS, A_DAY, GUESSES = 2_000, 6, 10, 4


def blind(rng: random.Random, drill: Drill, q: Asked) -> Answer:
    """Anything that the form allows; of figures one that is right somewhere."""
    form = drill.form(q)
    if isinstance(form, Choice):
        return rng.choice(form.options).value
    if isinstance(form, Ticks):
        return [name for name in form.names if rng.random() < 0.5]
    if isinstance(form, TwoLists):
        first = [name for name in form.names if rng.random() < 0.5]
        return [first, [name for name in form.names if name not in first]]
    if isinstance(form, Slots):
        left = [c for c in range(1, len(form.given) + 1) if c not in form.given]
        rng.shuffle(left)
        return [given or left.pop() for given in form.given]
    if isinstance(form, Place):
        # Some piston is seen at its top: at this turn or at the next.
        return (float(drill.answer(q)) + 360.0 * rng.randrange(2)) % 720.0
    return rng.choice(answers_of(drill))


@cache
def answers_of(drill: Drill) -> list[Answer]:
    """What is right of each question of the pool."""
    return [drill.answer(q) for q in pool(drill)]


def is_right(form: Form, right: Answer, given: Answer) -> bool:
    return form.marks(form.read(right), form.read(given)).is_full


@cache
def pool(drill: Drill) -> list[Asked]:
    """Some questions of a kind, on three rigs."""
    return [q for rig in RIGS for q in drawn(drill, rig, DRAWN // 4)]


@dataclass(frozen=True, slots=True)
class Met:
    """A question as a student meets it: answered rightly and wrongly on each day, and whether one
    who guesses is right.
    """

    right: tuple[Shown, ...]
    wrong: tuple[Shown, ...]
    hit: bool


def chances(kinds: Iterable[str], how: str) -> dict[str, list[Met]]:
    """The questions of each kind as a student of some sort meets them."""
    rng, found = random.Random(7), {}
    at = datetime(2026, 9, 14, tzinfo=UTC)
    for kind in kinds:
        drill = drill_of(kind)
        always = Counter(map(repr, answers_of(drill))).most_common(1)[0][0]
        rows = []
        for q, answer in zip(pool(drill), answers_of(drill), strict=True):
            if drill.choices(q) == NEVER:
                continue
            of = drill.skill, kind, drill.choices(q), "", q.engine.layout_words, at
            right, wrong = (
                tuple(Shown(*of, str(day), good) for day in range(DAYS)) for good in (True, False)
            )
            for _ in range(GUESSES):
                if how == "same":
                    hit = repr(answer) == always
                else:
                    hit = is_right(drill.form(q), answer, blind(rng, drill, q))
                rows.append(Met(right, wrong, hit))
        if rows:
            found[kind] = rows
    return found


def reaches_secure(skill: Skill, answers: list[Shown]) -> bool:
    """Whether it was secure after any of these answers."""
    counted = counted_of(answers)
    running = set()
    for kind in dict.fromkeys(one.kind for one in counted):
        for good, run in groupby(one.good for one in counted if one.kind == kind):
            if good and len(list(run)) >= RUNNING:
                running.add(kind)
    if len(running) < skill.kinds or not set(skill.needs) <= running:
        return False
    ends = (nth for nth, shown in enumerate(answers, start=1) if shown.right)
    return any(not Evidence(skill.slug, tuple(answers[:end])).missing for end in ends)


@pytest.mark.parametrize("skill", SKILLS, ids=lambda skill: skill.slug)
@pytest.mark.parametrize("how", ["guess", "same", "one kind"])
def test_who_knows_nothing_or_one_kind_is_hardly_ever_secure(skill: Skill, how: str) -> None:
    """Ten questions a day on six days, three layouts; under 2 % of 2,000 students."""
    kinds = [drill.slug for drill in ASKED if drill.skill == skill.slug]
    table = chances(kinds, how)
    if not table or not set(skill.needs) <= set(table):
        assert any(kind.startswith("covered") for kind in skill.needs)
        return
    rng, secure = random.Random(11), 0
    names = list(table)
    if how == "one kind" and skill.kinds == 1:
        return
    for run in range(RUNS):
        known = names[run % len(names)] if how == "one kind" else ""
        answers = []
        for nth in range(DAYS * A_DAY):
            kind = names[nth % len(names)]
            met = rng.choice(table[kind])
            answers.append((met.right if met.hit or kind == known else met.wrong)[nth // A_DAY])
        secure += reaches_secure(skill, answers)
    assert secure < 0.02 * RUNS, f"{secure} of {RUNS}"


def test_who_knows_it_is_secure_after_a_few_days() -> None:
    """The other side: all right, as the lessons ask, is secure in every skill within six days."""
    for skill in SKILLS:
        kinds = [drill.slug for drill in ASKED if drill.skill == skill.slug]
        table = chances(kinds, "guess")
        if not set(skill.needs) <= set(table):
            continue
        names = list(table)
        answers = []
        for nth in range(DAYS * A_DAY):
            rows = table[names[nth % len(names)]]
            answers.append(rows[nth * 31 % len(rows)].right[nth // A_DAY])
        assert not Evidence(skill.slug, tuple(answers)).missing, skill.slug
