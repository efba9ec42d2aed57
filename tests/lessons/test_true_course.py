"""What the course says is true: sentences, answers, figures, cautions, wherever it is shown."""

import re
from collections.abc import Iterator
from functools import cache
from typing import Any

import pytest

from true_compass.core.cautions import Caution
from true_compass.core.engine import Engine
from true_compass.core.ideas import IDEAS
from true_compass.core.state import Rig
from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.lessons.drill import Asked, Question
from true_compass.lessons.drills import DRILLS, drill_of, judge, questions, rig_of
from true_compass.lessons.forms import Answer, Choice, Figure, Form, Place, Ticks
from true_compass.lessons.guide import Guided, Shown, cast_on, said, shown_on, why_not
from true_compass.lessons.kinds.cycle import CLEAR_DEG, border_deg
from true_compass.lessons.kinds.valves import margins_deg
from true_compass.lessons.lesson import Lesson, skills_of

ASKED = [drill for drill in DRILLS if not drill.slug.startswith("covered")]
LESSONS = {name: shipped_lesson(name) for name in lesson_names()}


def guided(lesson: Lesson) -> Guided:
    (part,) = (part for part in lesson.parts if isinstance(part, Guided))
    return part


def admitted(lesson: Lesson) -> list[Engine]:
    """Its own engine, and every rig that its guided part can be shown on."""
    part = guided(lesson)
    rigs = [demo_rig(name) for name in rig_names()]
    own = lesson.engine(part.engine)
    return [own, *(engine for engine in rigs if not why_not(rig_of(engine), part))]


@cache
def steps(name: str) -> list[tuple[Rig, Shown, Any]]:
    """Every step of a lesson on every engine: the rig, the step as shown, its notes in words."""
    return list(_steps(LESSONS[name]))


def _steps(lesson: Lesson) -> Iterator[tuple[Rig, Shown, Any]]:
    part = guided(lesson)
    for engine in admitted(lesson):
        rig = rig_of(engine)
        cast = cast_on(rig, part.cast)
        for nth in range(len(part.steps)):
            shown = shown_on(rig, part, nth, part.engine)
            asked = Asked(rig, shown.question) if shown.question is not None else None
            yield rig, shown, lambda words, c=cast, a=asked: said(words, c, a)


def stated(form: Form, words: str, at_deg: float) -> Answer:
    """The first answer that a sentence states in a form; None where it states none."""
    if isinstance(form, Place):
        found = re.search(r"(\d+)° on", words)
        return None if found is None else (at_deg + float(found[1])) % 720.0
    if isinstance(form, Figure):
        found = re.search(r"[-−]?\d+(?:\.\d+)?", words)
        return None if found is None else float(found[0].replace("−", "-"))
    if isinstance(form, Ticks):
        names = [name for name in form.names if re.search(rf"\b{name}\b", words)]
        low = words.casefold()
        if names or low.startswith("none"):
            return names
        return list(form.names) if low.startswith("both") else None
    assert isinstance(form, Choice)
    places = {}
    for option in form.options:
        for told in {option.words, str(option.value), " ".join(option.words.split()[:2])}:
            found = re.search(
                rf"(?<![\w.]){re.escape(told.rstrip(','))}(?!\w)", words, re.IGNORECASE
            )
            if found is not None:
                places[found.start(), -len(told)] = option.value
    return places[min(places)] if places else None


@pytest.mark.parametrize("name", LESSONS)
def test_what_a_step_says_afterwards_and_its_notes_earn_full_credit(name: str) -> None:
    for rig, shown, told in steps(name):
        if shown.question is None:
            continue
        step, q = shown.step, Asked(rig, shown.question)
        form = drill_of(shown.question.kind).form(q)
        for words in (told(step.notes.answer), shown.then):
            given = stated(form, words, shown.crank_deg) if words else None
            if given is None:
                # Only what is turned to need not be stated in figures.
                assert isinstance(form, Place) or not words, (step.say, words)
                continue
            judged = judge(rig.engine, shown.question, given)
            assert judged.is_right, (rig.engine.name, step.say, words, judged.why)
        assert step.notes.answer or isinstance(form, Place), step.say


NUMBERS = {"one": 1, "two": 2, "eight": 8, "three": 3, "fifteen": 15}


def figures_in(words: str) -> set[float]:
    plain = words.replace(",", "")
    found = {float(x) for x in re.findall(r"\d+(?:\.\d+)?", plain)}
    told = set(re.findall(r"[a-z]+", plain.casefold()))
    return found | {float(number) for word, number in NUMBERS.items() if word in told}


def figures_of(value: Any) -> set[float]:
    if isinstance(value, bool) or value is None:
        return set()
    if isinstance(value, int | float):
        return {abs(float(value))}
    if isinstance(value, list | tuple):
        return {x for one in value for x in figures_of(one)}
    return figures_in(value) if isinstance(value, str) and value[:1].isdigit() else set()


@pytest.mark.parametrize("name", LESSONS)
def test_every_figure_that_a_step_is_judged_on_stands_in_it(name: str) -> None:
    for rig, shown, _ in steps(name):
        if shown.question is None:
            continue
        q = Asked(rig, shown.question)
        needed = figures_in(drill_of(shown.question.kind).given(q))
        for key, value in shown.question.ask.items():
            wide_open = key in ("can", "mbar") and not shown.question.ask.get("mbar")
            if key != "cylinder" and not wide_open:
                needed |= figures_of(value)
        missing = needed - figures_in(shown.sentence) - {0.0}
        assert not missing, (rig.engine.name, shown.sentence, missing)


@pytest.mark.parametrize("rig", ["alder", "birch", "cedar", "linden", "acacia", "walnut"])
def test_a_question_on_paper_says_all_that_its_answer_follows_from(rig: str) -> None:
    """Two questions that read alike have the same answer; and no stroke is asked at a border."""
    engine = demo_rig(rig)
    made = rig_of(engine)
    for drill in ASKED:
        if drill.missing(made):
            continue
        known: dict[str, str] = {}
        for question in questions([drill.slug], {rig: engine}, 3, 60):
            q = Asked(made, question)
            form, answer = drill.form(q), repr(drill.answer(q))
            offered = [option.words for option in form.options] if isinstance(form, Choice) else []
            text = " ".join([drill.paper_text(q), *offered])
            assert not drill.on_paper or known.setdefault(text, answer) == answer, text
            assert not drill.unfair(q), text
            if drill.slug == "stroke":
                assert border_deg(made, q.cylinder, q.at_deg) >= CLEAR_DEG


CLAIMS = (
    (r"[Bb]oth (?:its )?valves (?:are )?(?:still )?shut|[Bb]oth shut", "both shut"),
    (r"[Bb]oth are open", "both open"),
    (r"[Bb]oth (?:of its own )?(?:are )?free|both of (?:it|its valves) are free", "both free"),
    (r"[Bb]oth pressed|neither may be set|nothing of \{\w\} may be set", "both pressed"),
    (r"intake (?:valve )?is open|with the intake open|Intake open", "intake open"),
    (r"exhaust (?:valve )?is open|with the exhaust open|Exhaust open", "exhaust open"),
    (r"Still shut", "intake shut"),
    (r"is free|rests|both of (?:it|its valves) are free", "free"),
    (r"still closing", "exhaust open"),
)


@pytest.mark.parametrize("name", LESSONS)
def test_what_is_said_of_valves_is_checked_on_every_engine(name: str) -> None:
    """Sentences about valves name what holds; an engine where it does not is refused."""
    for step in guided(LESSONS[name]).steps:
        for words in (step.say, step.then, step.plate):
            for pattern, claim in CLAIMS:
                if re.search(pattern, words) and not words.endswith("?"):
                    assert any(claim in held for held in step.holds), (words, step.holds)
            told = words.replace("wide open", "")
            if re.search(r"\b(open|shut|closed|pressed|free)\b", told) and "?" not in told:
                assert step.holds, words
            assert not re.search(r"\b(every|any|all) engines?\b|\balways\b|\bnever\b", words) or (
                "never where" in words
            ), words


def test_the_wrong_table_puts_two_valves_off_their_base_circle_at_each_stop() -> None:
    """1-3-4-2's table on 1-2-4-3, as lesson 9 says; common practice, no source."""
    table = ("I1", "E1", "I2", "E3"), ("E2", "I3", "I4", "E4")
    rig = rig_of(demo_rig("olive"))
    assert rig.engine.order_text == "1-2-4-3"
    for names, at in zip(table, (0.0, 360.0), strict=True):
        margins = margins_deg(rig, at)
        assert sum(margins[name] <= 0 for name in names) == 2


def test_an_engine_on_which_a_sentence_is_false_is_refused() -> None:
    """Mulberry’s compression release holds E1 open on the way up."""
    part = guided(LESSONS["four-strokes"])
    told = why_not(rig_of(demo_rig("mulberry")), part)
    assert told == "a step says that E1 is shut at 660°, and on Rig Mulberry it is not"


SETS = ("valves-here", "two-stop-table", "lash-ramps", "set-engine", "set-preload")


@pytest.mark.parametrize("name", LESSONS)
def test_a_lesson_that_sets_valves_cautions_at_a_step(name: str) -> None:
    lesson = LESSONS[name]
    care = {caution for step in guided(lesson).steps for caution in step.care}
    skills = skills_of(lesson)
    if set(skills) & set(SETS):
        assert Caution.BASE_CIRCLE in care or name == "find-fault"
    if {"set-engine", "set-preload"} & set(skills):
        assert {Caution.BASE_CIRCLE, Caution.NO_START, Caution.TOOL_OUT, Caution.TWO_TURNS} <= care


def test_every_caution_that_the_practice_names_is_given_somewhere() -> None:
    given = {c for x in LESSONS.values() for step in guided(x).steps for c in step.care}
    assert given == set(Caution) - {Caution.MANUAL}


@pytest.mark.parametrize("name", LESSONS)
def test_dots_that_are_together_are_shown_where_1_does_not_fire(name: str) -> None:
    for rig, shown, _ in steps(name):
        if shown.question is not None and shown.question.kind == "dots":
            assert not judge(rig.engine, shown.question, 1).is_right


def test_a_wrong_idea_never_earns_credit_and_each_is_a_wrong_answer_somewhere() -> None:
    found = set()
    for rig in ("alder", "birch", "cedar", "linden"):
        engine = demo_rig(rig)
        made = rig_of(engine)
        for drill in ASKED:
            if drill.missing(made):
                continue
            for question in questions([drill.slug], {rig: engine}, 9, 12):
                q = Asked(made, question)
                for slip in drill.slips(q):
                    judged = judge(engine, question, slip)
                    assert not (judged.idea and judged.is_right), (drill.slug, slip)
                    found.add(judged.idea)
    assert found - {""} == {idea.slug for idea in IDEAS}


@pytest.mark.parametrize(
    ("order", "first"),
    [("1-4-3-2", 4), ("1-2-3-4", 3), ("1-3-2-4", 2), ("1-3-4-2", None), ("1-2-4-3", None)],
)
def test_who_is_first_out_of_turn_on_a_four(order: str, first: int | None) -> None:
    """Worked by hand: on pins 0, 180, 180, 0 the turns are at 0, 180, 360 and 540."""
    question = Question("order-why", "", {"order": order, "pins": [0, 180, 180, 0]})
    assert judge(demo_rig("alder"), question, first).is_right
