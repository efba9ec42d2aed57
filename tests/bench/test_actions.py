"""Every action: what it refuses, that a refusal changes nothing, that nothing tells the angle."""

import json
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.bench.hands import Hands
from tests.strategies import engines
from true_compass.bench.actions import ACTIONS, Key
from true_compass.bench.faults import FAULTS
from true_compass.bench.run import Run
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.state import RefusedError
from true_compass.bench.tasks import Task, why_not
from true_compass.core.engine import Engine
from true_compass.files.rigs import demo_rig
from true_compass.files.scenario_file import parse_scenario, scenario_text


@pytest.mark.parametrize(
    ("action", "told"),
    [
        ("bar", "is one object"),
        ({}, "no action"),
        ({"action": "bar", "deg": 30}, r'key is "do"'),
        ({"do": "fly"}, "no action 'fly'"),
        ({"do": "bar"}, "bar needs deg"),
        ({"do": "bar", "deg": 1e9}, "-7200 to 7200°"),
        ({"do": "bar", "deg": float("nan")}, "-7200 to 7200°"),
        ({"do": "bar", "deg": True}, "must be a number"),
        ({"do": "bar", "deg": "30"}, "must be a number"),
        ({"do": "bar", "degrees": 30}, "no key 'degrees'"),
        ({"do": "feeler", "item": "I1", "blade_mm": 0}, "0.02 to 5 mm"),
        ({"do": "feeler", "item": "I9", "blade_mm": 0.2}, "no item of this engine"),
        ({"do": "thumb", "cylinder": 9, "deg": 90}, "1 to 6 here"),
        ({"do": "screw", "item": "I1", "deg": 20}, "slacken it first"),
        ({"do": "read"}, "No dial"),
        ({"do": "indicator", "on": "the moon"}, "piston 1 or valve I1"),
        ({"do": "look", "at": "sun"}, "one of marks"),
        ({"do": "declare"}, "Declare one thing"),
        ({"do": "declare", "cylinder": 1, "tdc": "upper"}, "compression or overlap"),
        ({"do": "declare", "order": "1-2-3", "rotor": "clockwise"}, "each of the 6 cylinders"),
        ({"do": "declare", "fault": ["gremlins"]}, "no fault 'gremlins'"),
        ({"do": "on", "part": "wings"}, "the parts are"),
        ({"do": "on", "part": "pin"}, "does not drop in"),
        ({"do": "bump"}, "take it off first"),
        ({"do": "shim", "item": "I1"}, "has no shim"),
        ({"do": "height", "item": "I1"}, "no height"),
        ({"do": "bridge", "item": "I1"}, "no bridge"),
        ({"do": "test run"}, "Put back first"),
        ({"do": "lamp"}, "Put back first"),
        ({"do": "touch", "deg": 30}, "no stop"),
    ],
)
def test_what_cannot_be_done_says_why_and_changes_nothing(action: Any, told: str) -> None:
    run = Run.begin(Scenario(demo_rig("birch"), said=Said(start_deg=50.0)))
    with pytest.raises(RefusedError, match=told):
        run.done(action)
    assert run.state == Run.begin(run.work.scenario).state


@pytest.mark.parametrize(
    ("faults", "marks"),
    [
        ((), (10, 32, 38)),
        (("weights-stuck",), (10, 21, 29)),
        (("can-unplugged",), (10, 32, 27)),
        (("leads-swapped",), (10, 32, 38)),
    ],
)
def test_the_mark_under_the_lamp(faults: tuple[str, ...], marks: tuple[int, ...]) -> None:
    """Ten as set, 22 by the weights, of which half when they stick, 10.5 by the can at 330 mbar."""
    readings = Hands("birch", closed=True, faults=faults).do("lamp")["readings"]
    assert [one["mark_deg"] for one in readings] == pytest.approx(marks, abs=2)
    assert [round(one["book_deg"]) for one in readings] == [10, 32, 38]


def test_a_lamp_needs_an_engine_that_starts_and_a_book() -> None:
    for name, faults, told in (
        ("alder", (), "gives no advance"),
        ("birch", ("rotor-one-turn",), "It will not start"),
    ):
        assert told in Hands(name, closed=True, faults=faults).refused("lamp")


def test_an_adjuster_has_an_end() -> None:
    hands = Hands("birch")
    hands.do("slacken", item="I1")
    for _ in range(10):
        hands.do("screw", item="I1", deg=-360.0)
    assert "turns of thread" in hands.refused("screw", item="I1", deg=-1.0)


@pytest.mark.parametrize(
    ("hidden", "word", "keys", "told"),
    [
        ("cover", "wiggle", {"item": "I1"}, "cover is on"),
        ("cap", "look", {"at": "rotor"}, "cap is on"),
        ("front cover", "look", {"at": "cam marks"}, "front cover is on"),
        ("plug 2", "thumb", {"cylinder": 2, "deg": 90}, "Plug 2 is in"),
        ("cover", "look", {"at": "cover"}, "cover is on"),
    ],
)
def test_what_is_covered_must_be_uncovered(
    hidden: str, word: str, keys: dict[str, Any], told: str
) -> None:
    hands = Hands("birch", closed=True)
    assert told in hands.refused(word, **keys)
    hands.do("off", part=hidden)
    hands.do(word, **keys)


def test_a_bumped_starter_breaks_what_was_left_in() -> None:
    hands = Hands("birch", said=Said(start_deg=0.0))
    hands.do("on", part="pin")
    assert "pin is in" in hands.refused("bar", deg=5.0)
    hands.do("off", part="coil")
    assert hands.do("bump")["broke"] == "the flywheel pin"
    assert hands.do("finish")["broke"]


def test_the_count_is_what_was_turned_since_the_chalk() -> None:
    hands = Hands("birch")
    assert hands.do("bar", deg=30.0)["since_chalk_deg"] is None
    hands.do("chalk")
    hands.do("bar", deg=212.0)
    assert hands.do("bar", deg=-10.0)["since_chalk_deg"] == 202.0
    hands.do("off", part="coil")
    hands.do("bump")
    assert hands.do("bar", deg=1.0)["since_chalk_deg"] is None


def test_a_knocked_dial_has_lost_its_zero() -> None:
    hands = Hands("birch")
    hands.do("off", part="coil")
    hands.do("indicator", on="valve I1")
    hands.do("bump")
    assert "was knocked" in hands.refused("read")


def test_a_dial_counts_the_whole_stroke() -> None:
    hands = Hands("birch", said=Said(start_deg=180.0))
    hands.do("indicator", on="piston 1")
    hands.do("zero")
    hands.do("bar", deg=180.0)
    read = hands.do("read")
    assert read["mm"] == pytest.approx(104.0, abs=0.02)
    assert read["turns"] == int(read["mm"])


def test_foretelling_is_scored() -> None:
    hands = Hands("birch", said=Said(start_deg=0.0))
    for says in ("loose", "tight"):
        hands.do("foretell", next="wiggle", item="I1", says=says)
        hands.do("wiggle", item="I1")
    assert hands.do("finish")["foretold"] == {"right": 1, "all": 2}


def test_hints_climb_and_are_counted() -> None:
    hands = Hands("birch", task=Task.TDC, cylinder=3)
    assert [hands.do("hint")["level"] for _ in range(3)] == [1, 2, 3]
    hands.do("bar", deg=1.0)
    assert hands.do("hint")["level"] == 1
    assert hands.do("finish")["hints"] == 4


def test_no_second_person_or_look_is_forgotten() -> None:
    hands = Hands("birch", task=Task.SET, said=Said(start_deg=0.0))
    assert hands.do("hand over", role="feels")["role"] == "feels"
    first, *_ = items = hands.do("second look")["items"]
    assert len(set(items)) == 3
    hands.do("record", item=first, **{"as": "left"}, goes_mm=0.25, not_mm=0.30)
    hands.do("record", item=first, **{"as": "second"}, goes_mm=0.30, not_mm=0.35)
    assert f"Second look at {first}: +0.05 mm." in hands.do("finish")["notes"]


def test_after_the_end_there_are_only_errors() -> None:
    hands = Hands("birch")
    hands.do("finish")
    for word, action in ACTIONS.items():
        keys = {key: _example(key, rule) for key, rule in action.keys.items() if rule.needed}
        assert "finished" in hands.refused(word, **keys)


def _example(key: str, rule: Key) -> Any:
    if rule.words:
        return rule.words[0]
    texts = {"item": "I1", "part": "cap", "on": "piston 1", "next": "wiggle", "says": "loose"}
    if key in texts:
        return texts[key]
    return 1 if rule.kind is int else max(rule.least, min(1.0, rule.most))


def _values(key: str, rule: Key) -> st.SearchStrategy[Any]:
    if rule.words:
        return st.sampled_from(rule.words)
    if key in ("item", "with"):
        return st.sampled_from(["I1", "E1", "I2", "E2", "I1a", "I1 bridge", "U1", "B1", "X"])
    if rule.kind is bool:
        return st.booleans()
    if rule.kind is int:
        return st.integers(0, 9)
    if rule.kind == (int, float):
        return st.one_of(st.floats(-800, 800), st.sampled_from([0.1, 0.25, 1, 2.5, 30]))
    words = ["cap", "plugs", "covers", "pin", "coil", "stop", "piston 1", "valve I1", "wiggle"]
    return st.sampled_from([*words, "loose", "compression", "clockwise", "order", "1"])


@st.composite
def _any_action(draw: st.DrawFn) -> dict[str, Any]:
    word = draw(st.sampled_from(sorted(set(ACTIONS) - {"finish"})))
    keys = ACTIONS[word].keys
    given = {key: draw(_values(key, rule)) for key, rule in keys.items() if draw(st.integers(0, 9))}
    return {"do": word, **given}


RIGS = ("birch", "cedar", "hickory", "maple", "mulberry", "fir", "magnolia", "walnut", "willow")


@given(rig=st.sampled_from(RIGS), actions=st.lists(_any_action(), max_size=40), data=st.data())
def test_any_hands_get_an_answer_or_a_sentence(
    rig: str, actions: list[dict[str, Any]], data: st.DataObject
) -> None:
    run = Run.begin(Scenario(demo_rig(rig), seed=data.draw(st.integers(0, 99))))
    done, refusals = [], []
    for action in actions:
        try:
            run, answer = run.done(action)
        except RefusedError as error:
            refusals.append(str(error))
            continue
        done.append(action)
        assert answer["ok"] is True
        json.dumps(answer, allow_nan=False)
        assert "crank_deg" not in json.dumps(answer)
    assert all(sentence.endswith(".") for sentence in refusals), refusals
    again = Run.begin(run.work.scenario).replayed(done)
    assert again.state == run.state
    assert json.dumps(again.verdict(), allow_nan=False) == json.dumps(run.verdict())


@settings(max_examples=60)
@given(engine=engines(), data=st.data())
def test_any_engine_can_be_worked_on(engine: Engine, data: st.DataObject) -> None:
    faults = [fault.slug for fault in FAULTS if not fault.missing(engine)]
    tasks = [task for task in Task if not why_not(engine, task)]
    scenario = Scenario(
        engine,
        data.draw(st.sampled_from(tasks)),
        seed=data.draw(st.integers(0, 999)),
        faults=(data.draw(st.sampled_from(faults)),),
    )
    assert parse_scenario(scenario_text(scenario), "any") == scenario
    run = Run.begin(scenario)
    names = list(run.work.place)[:4]
    look = [{"do": "look", "at": at} for at in ("marks", "rotor", "cap", "rockers", "cam marks")]
    gauge: list[dict[str, Any]] = [{"do": "off", "part": "coil"}, {"do": "bump", "gauge": 1}]
    feel = [
        {"do": word, "item": name}
        for name in names
        for word in ("wiggle", "lift", "spin", "bridge", "height", "shim", "slacken")
    ]
    turn = [{"do": "screw", "item": name, "deg": -30.0} for name in names]
    stop = [{"do": "stop", "cylinder": 1, "depth_mm": 1.0}, {"do": "touch", "deg": 720.0}]
    for action in ({"do": "manual"}, *look, *gauge, *feel, *turn, *stop, *[{"do": "hint"}] * 3):
        try:
            run, answer = run.done(action)
        except RefusedError:
            continue
        json.dumps(answer, allow_nan=False)
    json.dumps(run.verdict(), allow_nan=False)
