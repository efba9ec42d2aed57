"""Every drill on every rig; what is judged, against second derivations and the trade's lists."""

import json
from typing import Any

import numpy as np
import pytest

from true_compass.core.adjusting.stops import two_stop_plan
from true_compass.core.engine import Engine
from true_compass.core.ideas import IDEAS
from true_compass.core.state import Rig, engine_state
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.lessons.drill import Asked, AskError, Question
from true_compass.lessons.drills import (
    BY_SLUG,
    DRILLS,
    judge,
    question_from,
    questions,
    record_of,
    rig_of,
)
from true_compass.lessons.forms import (
    Answer,
    AnswerError,
    Choice,
    Figure,
    Form,
    Place,
    Slots,
    Ticks,
    TwoLists,
)
from true_compass.lessons.skills import BY_SLUG as SKILLS

ASKED = [drill for drill in DRILLS if not drill.slug.startswith("covered")]


def others(form: Form, right: Answer) -> list[Answer]:
    """Wrong answers in a form."""
    if isinstance(form, Choice):
        return [option.value for option in form.options if form.read(option.value) != right]
    if isinstance(form, Ticks):
        return [[name for name in form.names if name not in right], list(form.names)]
    if isinstance(form, TwoLists):
        return [[right[1], right[0]], [list(form.names), []], [[], []]]
    if isinstance(form, Figure):
        return [right + 3 * form.within, right * 2 + 1, -right - 1]
    if isinstance(form, Slots):
        return [[*right[:1], *right[2:], right[1]], [0] * len(right)]
    assert isinstance(form, Place)
    return [(right + 360.0) % 720.0, (right + 30.0) % 720.0]


@pytest.mark.parametrize("name", rig_names())
def test_every_drill_asks_answers_and_judges_on_every_rig(name: str) -> None:
    engine = demo_rig(name)
    rig = rig_of(engine)
    for drill in ASKED:
        if drill.missing(rig):
            continue
        for drawn in questions([drill.slug], {name: engine}, 11, 4):
            told = json.loads(json.dumps(record_of(rig, drawn), allow_nan=False))
            question = question_from(told)
            assert question.record() == json.loads(json.dumps(drawn.record()))
            right = judge(engine, question, told["answer"])
            assert (right.credit, right.idea) == (1.0, ""), (drill.slug, told)
            q = Asked(rig, question)
            form = drill.form(q)
            good = form.read(told["answer"])
            for other in others(form, good):
                wrong = judge(engine, question, other)
                if form.marks(good, form.read(other)).is_full:
                    continue
                assert wrong.credit < 1.0
                assert len(wrong.why) > 10
                assert wrong.idea in {"", *(idea.slug for idea in IDEAS)}
            assert drill.hint(q)
            assert drill.skill_of(q) in SKILLS


def test_the_answer_stored_in_a_question_is_ignored() -> None:
    engine = demo_rig("alder")
    told: dict[str, Any] = {
        "kind": "stroke",
        "engine": "alder",
        "at_deg": 90,
        "ask": {"cylinder": 1},
    }
    for stored in ("exhaust", None, 7):
        question = question_from({**told, "answer": stored, "why": "because"})
        assert judge(engine, question, "power").credit == 1.0
        assert judge(engine, question, "exhaust").credit == 0.0


@pytest.mark.parametrize("name", ["alder", "birch", "cedar", "ash", "linden", "magnolia"])
def test_strokes_follow_from_the_valves_not_from_the_phasing(name: str) -> None:
    """A second derivation: the piston's way and which of its valves has most lift."""
    engine = demo_rig(name)
    rig = rig_of(engine)
    for question in questions(["stroke"], {name: engine}, 3, 40):
        cylinder, at = question.ask["cylinder"], float(question.at_deg or 0.0)
        around = engine_state(rig, np.array([at - 1.0, at + 1.0]))
        rises = (
            around.piston_from_tdc_mm[cylinder - 1, 1] < around.piston_from_tdc_mm[cylinder - 1, 0]
        )
        intake, exhaust = engine.valve_rows(cylinder)
        here = engine_state(rig, at).lift_mm
        word = answer_of(engine, question)
        assert rises == (word in ("exhaust", "compression"))
        if here[intake] > 0.3 and here[exhaust] < 0.3 and not rises:
            assert word == "intake"
        if here[exhaust] > 0.3 and here[intake] < 0.3 and rises:
            assert word == "exhaust"


def answer_of(engine: Engine, question: Question) -> Answer:
    return BY_SLUG[question.kind].answer(Asked(rig_of(engine), question))


FOUR_STOPS = [["I1", "E1", "I2", "E3"], ["E2", "I3", "I4", "E4"]]
SIX_STOPS = [["I1", "E1", "I2", "E3", "I4", "E5"], ["E2", "I3", "E4", "I5", "I6", "E6"]]
V8_FIRST = ["E1", "E3", "E4", "E8", "I1", "I2", "I5", "I7"]


@pytest.mark.parametrize(
    ("rig", "lists"), [("alder", FOUR_STOPS), ("birch", SIX_STOPS)], ids=["four", "six"]
)
def test_the_two_stop_table_is_the_trades(rig: str, lists: list[list[str]]) -> None:
    """Tables of 1-3-4-2 and 1-5-3-6-2-4: common practice, no source."""
    engine = demo_rig(rig)
    question = Question("two-stop", rig, {}, 0.0)
    judged = judge(engine, question, lists)
    assert judged.credit == 1.0
    turned = judge(engine, question, lists[::-1])
    assert (turned.credit, turned.idea) == (0.0, "mark-zero-fires")
    half = judge(engine, question, [lists[0], []])
    assert half.credit == 0.5
    plan = two_stop_plan(Rig.of(engine))
    assert sorted(answer_of(engine, question)[0]) == sorted(due.name for due in plan.stops[0].items)


def test_ticks_are_marked_right_less_wrong_and_another_fours_table_is_named() -> None:
    four, other = demo_rig("alder"), demo_rig("olive")
    assert (four.order_text, other.order_text) == ("1-3-4-2", "1-2-4-3")
    question = Question("free", "alder", {}, 0.0)
    assert judge(four, question, ["I1", "E1", "I2", "E3"]).credit == 1.0
    assert judge(four, question, ["I1", "E1", "I2"]).credit == 0.75
    assert judge(four, question, ["I1", "E1", "E2"]).credit == 0.25
    assert judge(four, question, []).credit == 0.0
    swapped = judge(four, question, ["I1", "E1", "E2", "I3"])
    assert (swapped.credit, swapped.idea) == (0.0, "one-table-fits-all")
    assert "1-2-4-3" in swapped.why
    assert swapped.shows == (2, 3)
    marks = {line.name: line.mark for line in swapped.lines}
    assert marks == {
        "I1": "right",
        "E1": "right",
        "I2": "left out",
        "E2": "wrong",
        "I3": "wrong",
        "E3": "left out",
    }


PROVOKED: list[tuple[str, str, Question, Answer]] = [
    ("mark-zero-fires", "alder", Question("mark-zero", "", {"cylinder": 1}, 360.0), "yes"),
    ("mark-zero-fires", "alder", Question("free", "", {}, 0.0), ["E2", "I3", "I4", "E4"]),
    ("both-shut-at-tdc", "alder", Question("open-at-tdc", "", {"cylinder": 1}, 360.0), []),
    ("both-shut-at-tdc", "alder", Question("turn-to", "", {"cylinder": 1}, 100.0), 361.0),
    ("tight-is-too-tight", "alder", Question("tight", "", {"cylinder": 1}, 360.0), "slacken"),
    ("order-against-rotor", "alder", Question("cap", "", {"rotor": "clockwise"}), [1, 2, 4, 3]),
    ("neighbour-next", "birch", Question("fires-next", "", {"cylinder": 3}), 4),
    (
        "neighbour-next",
        "alder",
        Question("order-possible", "", {"order": "1-2-3-4", "pins": [0, 180, 180, 0]}),
        True,
    ),
    ("together-fire-together", "alder", Question("fires", "", {"cylinder": 1}, 0.0), "both"),
    (
        "together-fire-together",
        "alder",
        Question("together", "", {"cylinder": 1}, 90.0),
        "power",
    ),
    ("n-plus-1-minus-k", "linden", Question("companion", "", {"cylinder": 2}), 4),
    ("cam-for-crank", "alder", Question("tooth", "", {"teeth": 40}), 9.0),
    ("highest-is-tdc", "alder", Question("flat", "", {"sees_mm": 0.1}), "0"),
    ("one-table-fits-all", "alder", Question("free", "", {}, 0.0), ["I1", "E1", "E2", "I3"]),
    ("dots-mean-1", "alder", Question("dots", "", {}, 360.0), 1),
    ("half-post-small", "cedar", Question("half-post", "", {"posts": 8}), 5.0),
    ("bare-25-is-mm", "alder", Question("thou", "", {"thou": 25}), 0.25),
    ("bare-25-is-mm", "alder", Question("thou", "", {"thou": 15}), 15.0),
    (
        "dots-prove-timing",
        "alder",
        Question("dots-prove", "", {"card_icl_deg": 108.0, "read_icl_deg": 112.0}),
        True,
    ),
]


@pytest.mark.parametrize(("idea", "rig", "question", "answer"), PROVOKED)
def test_each_wrong_idea_is_provoked_and_named(
    idea: str, rig: str, question: Question, answer: Answer
) -> None:
    judged = judge(demo_rig(rig), question, answer)
    assert (judged.credit, judged.idea) == (0.0, idea)


def test_no_idea_is_left_out() -> None:
    """Those that need a place on the lobe are found by going through drawn questions."""
    engine = demo_rig("alder")
    found = {row[0] for row in PROVOKED}
    for kind in ("may-set", "ramp"):
        for question in questions([kind], {"alder": engine}, 5, 30):
            found.add(judge(engine, question, True).idea)
    assert found - {""} == {idea.slug for idea in IDEAS}


FIGURES = [
    ("thou", {"thou": 15}, 0.381, 0.38, 0.39),
    ("mm", {"mm": 0.40}, 15.748031, 15.7, 15.6),
    ("tooth", {"teeth": 42}, 17.142857, 17.1, 8.6),
    ("centreline", {"valve": "intake", "readings_deg": [92, 124]}, 108.0, 108.0, 107.0),
    ("centreline", {"valve": "exhaust", "readings_deg": [128, 96]}, 112.0, 112.0, 56.0),
    ("advance", {"icl_deg": 108.0, "ecl_deg": 112.0}, 2.0, 2.0, 0.0),
    ("two-readings", {"before_deg": 9.1, "after_deg": 13.5}, 2.2, 2.2, -2.2),
    ("two-readings", {"before_deg": -1.0, "after_deg": 9.0}, 5.0, 5.0, 4.0),
    ("half-post", {"posts": 8}, 45.0, 45.0, 22.5),
    ("dial", {"unit": "thou", "turns": 3, "hand": 48}, 348.0, 348.0, 48.0),
    (
        "total",
        {
            "initial_deg": 8,
            "weights": [[900, 0], [3200, 24]],
            "can": [[100, 0], [400, 14]],
            "rpm": 2000,
            "mbar": 250,
        },
        26.478261,
        26.5,
        24.0,
    ),
]


@pytest.mark.parametrize(("kind", "ask", "right", "given", "wrong"), FIGURES)
def test_figures_of_the_trade(
    kind: str, ask: dict[str, Any], right: float, given: float, wrong: float
) -> None:
    """Worked by hand: common practice, no source; 25.4 mm to the inch is exact."""
    engine = demo_rig("cedar")
    question = Question(kind, "", ask)
    assert answer_of(engine, question) == pytest.approx(right, abs=1e-6)
    assert judge(engine, question, given).credit == 1.0
    assert judge(engine, question, wrong).credit == 0.0


def test_one_eye_sees_a_flat_of_three_and_a_half_degrees() -> None:
    """r 40, rod 140: 1° is 0.008 mm, and 0.1 mm is ±3.6° (common practice, no source)."""
    from true_compass.core.engine import even_inline

    engine = even_inline((1, 3, 4, 2))
    assert (engine.stroke_mm, engine.rod_mm) == (80.0, 140.0)
    assert answer_of(engine, Question("flat", "", {"sees_mm": 0.1})) == "3.6"


def test_orders_that_a_crank_forbids_and_allows() -> None:
    engine = demo_rig("alder")
    for order, pins, possible in (
        ("1-3-4-2", [0, 180, 180, 0], True),
        ("1-2-4-3", [0, 180, 180, 0], True),
        ("1-2-3-4", [0, 180, 180, 0], False),
        ("1-5-3-6-2-4", [0, 240, 120, 120, 240, 0], True),
        ("1-4-2-6-3-5", [0, 240, 120, 120, 240, 0], False),
    ):
        question = Question("order-possible", "", {"order": order, "pins": pins})
        assert judge(engine, question, possible).credit == 1.0
        assert judge(engine, question, not possible).credit == 0.0
        listed = {"order": list(map(int, order.split("-"))), "pins": pins}
        assert judge(engine, Question("order-possible", "", listed), possible).credit == 1.0


def test_questions_repeat_from_their_seed_and_do_not_repeat_themselves() -> None:
    engine = demo_rig("magnolia")
    kinds = [drill.slug for drill in DRILLS if not drill.missing(rig_of(engine))]
    one, same, other = (questions(kinds, {"magnolia": engine}, s, 120) for s in (7, 7, 8))
    assert one == same
    assert one != other
    strokes = questions(["stroke"], {"magnolia": engine}, 7, 100)
    assert len({repr(question) for question in strokes}) == 100


BAD: list[tuple[dict[str, Any], Answer, str]] = [
    ({"kind": "guess"}, 1, "kind must be one of"),
    (
        {"kind": "stroke", "ask": {"cylinder": 9}, "at_deg": 3},
        "power",
        "ask.cylinder must be 1 to 4",
    ),
    ({"kind": "stroke", "ask": {"cylinder": True}, "at_deg": 3}, "power", "number of a cylinder"),
    ({"kind": "stroke", "ask": {"cylinder": 1}}, "power", "at_deg must say"),
    ({"kind": "stroke", "ask": {"cylinder": 1}, "at_deg": "x"}, "power", "at_deg must be"),
    ({"kind": "stroke", "ask": 4}, "power", "ask must be an object"),
    ({"kind": "stroke", "ask": {"cylinder": 1}, "at_deg": 3}, "fire", "must be one of power"),
    ({"kind": "companion", "ask": {"cylinder": 1}}, True, "must be one of 1"),
    ({"kind": "free", "at_deg": 0}, ["I9"], "names 'I9'"),
    ({"kind": "free", "at_deg": 0}, ["I1", "I1"], "names I1 twice"),
    ({"kind": "free", "at_deg": 0}, 1, "must be a list"),
    ({"kind": "free", "at_deg": 0}, "I1, I9", "names 'I9'"),
    ({"kind": "two-stop", "at_deg": 0}, [["I1"]], "must be two lists"),
    ({"kind": "thou", "ask": {"thou": 25}}, "25 thou", "must be a number in mm"),
    ({"kind": "thou", "ask": {"thou": 25}}, "0.64 m", "must be a number in mm"),
    ({"kind": "turn-to", "ask": {"cylinder": 1}, "at_deg": 9}, "half", "must be a crank angle"),
    ({"kind": "cap", "ask": {"rotor": "clockwise"}}, "1-3", "must be 4 cylinders"),
    ({"kind": "cap", "ask": {"rotor": "clockwise"}}, "1-3-x-2", "must be 4 cylinders"),
    ({"kind": "thou", "ask": {"thou": 25}}, float("nan"), "must be a plain number"),
    ({"kind": "thou", "ask": {"thou": float("nan")}}, 1.0, "ask.thou must be"),
    ({"kind": "cap", "ask": {"rotor": "clockwise"}}, [1, 2], "must be 4 cylinders"),
    ({"kind": "cap", "ask": {"rotor": "up"}}, [1, 3, 4, 2], "ask.rotor must be one of"),
    ({"kind": "order-possible", "ask": {"order": "1-2", "pins": [0]}}, True, "ask.pins must be"),
    ({"kind": "order-possible", "ask": {"order": "1-2-3", "pins": [0, 180]}}, True, "ask.order"),
    ({"kind": "covered-tdc", "ask": {"cylinder": 1, "seed": 1, "hardness": 9}}, [], "ask.hardness"),
    ({"kind": "covered-tdc", "ask": {"cylinder": 1, "seed": 1, "hardness": 1}}, [1], "played"),
]


@pytest.mark.parametrize(("told", "answer", "sentence"), BAD)
def test_bad_questions_and_answers_are_explained(
    told: dict[str, Any], answer: Answer, sentence: str
) -> None:
    with pytest.raises((AskError, AnswerError), match=sentence.replace(".", r"\.")):
        judge(demo_rig("alder"), question_from({"engine": "alder", **told}), answer)


TYPED: list[tuple[str, Question, str, float]] = [
    ("alder", Question("order", "", {"order": "1-?-?-?"}), "1-3-4-2", 1.0),
    ("alder", Question("order", "", {"order": "1-?-?-?"}), "1 3 4 2", 1.0),
    ("alder", Question("order", "", {"order": "1-?-?-?"}), "3-4-2-1", 1.0),
    ("alder", Question("order", "", {"order": "?-?-?-?"}), "4,2,1,3", 1.0),
    ("alder", Question("order", "", {"order": "?-?-?-?"}), "4-3-1-2", 0.0),
    ("alder", Question("cap", "", {"rotor": "clockwise"}), "1-3-4-2", 1.0),
    ("alder", Question("cap", "", {"rotor": "clockwise"}), "3-4-2-1", 0.0),  # From lead 1.
    ("alder", Question("turn-to", "", {"cylinder": 4}, 9.0), "360", 1.0),
    ("alder", Question("turn-to", "", {"cylinder": 4}, 9.0), "359°", 1.0),
    ("alder", Question("turn-to", "", {"cylinder": 4}, 9.0), "0", 0.0),
    ("alder", Question("turns", "", {"cylinder": 1, "stroke": "intake"}, 0.0), "360", 1.0),
    ("alder", Question("turns", "", {"cylinder": 1, "stroke": "intake"}, 0.0), "360°", 1.0),
    ("alder", Question("stroke", "", {"cylinder": 1}, 460.0), "INTAKE", 1.0),
    ("alder", Question("stroke", "", {"cylinder": 1}, 460.0), " power ", 0.0),
    ("alder", Question("open-at-tdc", "", {"cylinder": 1}, 360.0), "e1, i1", 1.0),
    ("alder", Question("open-at-tdc", "", {"cylinder": 1}, 0.0), "none", 1.0),
    ("alder", Question("free", "", {}, 0.0), "I1 E1 I2 E3", 1.0),
    ("alder", Question("two-stop", "", {}, 0.0), "I1, E1, I2, E3; E2, I3, I4, E4", 1.0),
    ("alder", Question("companion", "", {"cylinder": 1}), "4", 1.0),
    ("linden", Question("companion", "", {"cylinder": 1}), "none", 1.0),
    ("alder", Question("thou", "", {"thou": 25}), "0,64 mm", 1.0),
    ("alder", Question("body", "", {"late_deg": 5}), "2.5°", 1.0),
    ("alder", Question("two-readings", "", {"before_deg": 13, "after_deg": 9}), "−2", 1.0),
    ("alder", Question("may-set", "", {"item": "E1", "moves": "I1"}, 0.0), "Yes", 1.0),
]


@pytest.mark.parametrize(("rig", "question", "typed", "credit"), TYPED)
def test_answers_are_taken_as_people_type_them(
    rig: str, question: Question, typed: str, credit: float
) -> None:
    engine = demo_rig(rig)
    assert not BY_SLUG[question.kind].missing(rig_of(engine))
    assert judge(engine, question, typed).credit == credit


def test_nobody_is_asked_for_a_table_that_is_unsafe() -> None:
    """Two stops leave items of hickory off their base circle, from wherever one begins."""
    engine = demo_rig("hickory")
    for kind in ("two-stop", "table-line"):
        with pytest.raises(AskError, match="no safe two-stop table: E6 would be 38° off"):
            questions([kind], {"hickory": engine}, 0, 1)
        with pytest.raises(AskError, match="no safe two-stop table"):
            judge(engine, Question(kind, "hickory", {"lines": [[["I1", 1]]]}, 0.0), None)


def test_a_line_that_is_merely_freer_elsewhere_is_not_wrong() -> None:
    """E4 of yew rests at both stops; only a line off the base circle is wrong."""
    engine = demo_rig("yew")
    rig = rig_of(engine)
    here, there = (
        dict(zip(rig.item_names, rig.item_margins_deg(np.array([at]))[:, 0], strict=True))
        for at in (0.0, 360.0)
    )
    both = [name for name in rig.item_names if here[name] > 0 and there[name] > 0]
    assert both
    rows = [
        [
            (name, 1 + int((here[name] < there[name]) != (name in both)))
            for name in rig.item_names
            if name.endswith(str(cylinder))
        ]
        for cylinder in rig.engine.cylinders
    ]
    question = Question("table-line", "yew", {"lines": rows})
    assert judge(engine, question, None).credit == 1.0


def test_a_covered_engine_is_judged_by_what_was_done() -> None:
    engine = demo_rig("alder")
    question = Question("covered-tdc", "alder", {"cylinder": 1, "seed": 5, "hardness": 1})
    scenario = BY_SLUG["covered-tdc"].scenario(Asked(rig_of(engine), question))  # type: ignore[attr-defined]
    from true_compass.bench.covered import Covered
    from true_compass.bench.state import first_state

    work = Covered.of(scenario)
    way = (float(work.true_tdc_deg[0]) - first_state(work).crank_deg) % 720.0
    deeds = [{"do": "bar", "deg": way}, {"do": "declare", "cylinder": 1, "tdc": "compression"}]
    assert judge(engine, question, deeds).credit == 1.0
    other = [{"do": "bar", "deg": way + 360.0}, deeds[1]]
    assert judge(engine, question, other).credit == 0.0


@pytest.mark.parametrize(
    ("given", "marks"),
    [
        ((("I1", "E1"), ("I2", "E2")), (4, 0)),
        ((("I1",), ("E1", "I2", "E2")), (4, 0)),  # E1 is as good at either stop.
        ((("I1", "E1"), ("E1", "I2", "E2")), (4, 1)),  # Named twice, it counts once and costs one.
        ((("I2", "E1"), ("I1", "E2")), (2, 2)),
        (((), ()), (0, 0)),
    ],
)
def test_two_lists_are_marked_right_less_wrong(given: Any, marks: tuple[int, int]) -> None:
    form = TwoLists(("I1", "E1", "I2", "E2"), either=("E1",))
    told = form.marks((("I1", "E1"), ("I2", "E2")), form.read(given))
    assert (told.right, told.wrong, told.asked) == (*marks, 4)


@pytest.mark.parametrize("rig", ["alder", "birch", "cedar"])
def test_an_order_read_backwards_or_counted_through_is_known(rig: str) -> None:
    engine = demo_rig(rig)
    order = engine.firing_order
    for given, idea in (
        ((order[0], *reversed(order[1:])), "order-against-rotor"),
        (tuple(engine.cylinders), "neighbour-next"),
        ((order[0], order[2], order[1], *order[3:]), ""),
    ):
        shown = "-".join((str(order[0]), *("?" for _ in order[1:])))
        judged = judge(engine, Question("order", "", {"order": shown}), given)
        assert (judged.idea, judged.credit < 1.0) == (idea, True)


def test_engines_may_come_in_an_order_of_ones_own() -> None:
    engines = {name: demo_rig(name) for name in ("alder", "birch", "cedar", "oak")}
    orders = set()
    for seed in range(12):
        plain = questions(["stroke", "free"], engines, seed, 8)
        assert [q.engine for q in plain[::2]] == list(engines)
        mixed = questions(["stroke", "free"], engines, seed, 8, mixed=True)
        assert [q.kind for q in mixed] == [q.kind for q in plain]
        order = tuple(q.engine for q in mixed[::2])
        assert sorted(order) == sorted(engines)
        orders.add(order)
    assert len(orders) > 5
