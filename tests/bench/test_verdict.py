"""What is judged, and which wrong idea is called by its name."""

from typing import Any

import pytest

from tests.bench.hands import Hands
from true_compass.bench.ideas import RULES
from true_compass.bench.run import Run
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.tasks import Task, why_not
from true_compass.core.engine import even_inline
from true_compass.core.ideas import IDEAS
from true_compass.files.rigs import demo_rig


@pytest.mark.parametrize(
    ("task", "at_deg", "tdc", "passed", "error"),
    [
        (Task.TDC, 243.0, "compression", True, 3.0),
        (Task.TDC, 235.0, "compression", False, -5.0),
        (Task.TDC, 600.0, "compression", False, -360.0),
        (Task.TDC, 600.0, "overlap", False, 0.0),
        (Task.WHICH_TDC, 600.0, "overlap", True, 0.0),
        (Task.WHICH_TDC, 600.0, "compression", False, -360.0),
        (Task.TRUE_TDC, 240.25, "compression", True, 0.25),
        (Task.TRUE_TDC, 600.25, "compression", True, -359.75),
        (Task.TRUE_TDC, 240.5, "compression", False, 0.5),
    ],
)
def test_a_tdc_is_judged_by_stroke_and_degrees(
    task: Task, at_deg: float, tdc: str, passed: bool, error: float
) -> None:
    hands = Hands("birch", task=task, cylinder=3)
    hands.go_to(at_deg)
    hands.do("declare", cylinder=3, tdc=tdc)
    verdict = hands.do("finish")
    assert verdict["passed"] is passed
    assert verdict["tdc_error_deg"] == pytest.approx(error)


def test_the_wrong_cylinder_is_not_the_one_asked_for() -> None:
    hands = Hands("birch", task=Task.TDC, cylinder=3)
    hands.go_to(0.0)
    hands.do("declare", cylinder=1, tdc="compression")
    assert hands.do("finish")["passed"] is False


@pytest.mark.parametrize(("said", "passed"), [(7.9, True), (7.0, True), (5.9, False), (-7, False)])
def test_a_mark_within_a_degree(said: float, passed: bool) -> None:
    hands = Hands("birch", task=Task.MARK, said=Said(mark_error_deg=7.0))
    hands.do("declare", mark_error_deg=said)
    assert hands.do("finish")["passed"] is passed


def test_an_order_may_begin_anywhere_and_needs_the_rotor() -> None:
    for order, rotor, passed in (
        ("3-6-2-4-1-5", True, True),
        ([1, 5, 3, 6, 2, 4], True, True),
        ("1-5-3-6-2-4", False, False),
        ("1-4-2-6-3-5", True, False),
    ):
        hands = Hands("birch", task=Task.ORDER)
        own = hands.run.work.engine.rotor_turns.value
        other = "clockwise" if own != "clockwise" else "anticlockwise"
        hands.do("declare", order=order, rotor=own if rotor else other)
        assert hands.do("finish")["passed"] is passed


def test_faults_must_all_be_named_and_no_other() -> None:
    for named, passed in (
        (["lobe-worn", "leads-reversed"], True),
        ("lobe-worn", False),
        (["lobe-worn", "leads-reversed", "rod-bent"], False),
    ):
        hands = Hands("birch", task=Task.FAULT, faults=("leads-reversed", "lobe-worn"))
        hands.do("declare", fault=named)
        assert hands.do("finish")["passed"] is passed


def set_all(hands: Hands) -> None:
    """Set every gap that is out of its band, on the heel, as the book has it."""
    work = hands.run.work
    for setting in work.settings:
        aim = sum(setting.band_mm) / 2
        hands.go_to(float(work.true_tdc_deg[setting.item.cylinder - 1]))
        if setting.holds(hands.heel_mm(setting.name)):
            continue
        hands.do("slacken", item=setting.name)
        for _ in range(3):
            turn = (hands.heel_mm(setting.name) - aim) / setting.per_turn_mm * 360.0
            hands.do("screw", item=setting.name, deg=turn)
        hands.do("tighten", item=setting.name, hold=True)


@pytest.mark.parametrize(("rig", "task"), [("birch", Task.SET), ("hornbeam", Task.SET)])
def test_setting_passes_on_the_heel_and_fails_on_a_lobe(rig: str, task: Task) -> None:
    hands = Hands(rig, task=task)
    set_all(hands)
    verdict = hands.run.verdict()
    assert verdict["passed"] is True, [i for i in verdict["items"] if not i["in_band"]]
    hands.go_to(360.0)
    hands.do("slacken", item="E1")
    hands.do("screw", item="E1", deg=-0.5)
    hands.do("tighten", item="E1", hold=True)
    verdict = hands.do("finish")
    assert verdict["passed"] is False
    assert [i["name"] for i in verdict["items"] if i["set_off_base_circle"]] == ["E1"]


@pytest.mark.parametrize(
    ("before", "guess"),
    [
        ([], True),
        ([{"do": "manual"}], True),
        ([{"do": "bar", "deg": 10}], False),
        ([{"do": "wiggle", "item": "I1"}], False),
    ],
)
def test_what_is_said_without_turning_or_looking_is_told_as_a_guess(
    before: list[Any], guess: bool
) -> None:
    scenario = Scenario(demo_rig("birch"), Task.TDC, 1)
    told = {"do": "declare", "cylinder": 1, "tdc": "compression"}
    verdict = Run.begin(scenario).replayed([*before, told]).verdict()
    assert any("A guess" in note for note in verdict["notes"]) is guess


def test_a_free_bench_judges_nothing() -> None:
    assert Hands("birch").do("finish")["passed"] is None


def test_a_run_before_and_after_says_what_changed() -> None:
    hands = Hands("birch", task=Task.SET, said=Said(start_deg=0.0))
    hands.do("slacken", item="I1")
    hands.do("screw", item="I1", deg=-120.0)
    hands.do("tighten", item="I1", hold=True)
    verdict = hands.do("finish")
    assert any("I1" in sound for sound in verdict["run_after"]["sounds"])
    assert verdict["run_before"]["starts"] == "at once"
    assert len(verdict["run_after"]["compression_kpa"]) == 6


@pytest.mark.parametrize("task", Task)
def test_every_task_begins_somewhere_and_says_why_not_elsewhere(task: Task) -> None:
    rigs = {"preload": "cedar", "bridge": "hickory"}
    assert Hands(rigs.get(task.value, "birch"), task=task).do("hint")["hint"]
    if task in (Task.PRELOAD, Task.BRIDGE):
        assert why_not(demo_rig("birch"), task)


def look_at_zero_and_declare(hands: Hands) -> None:
    hands.go_to(360.0)
    hands.do("look", at="marks")
    hands.do("declare", cylinder=1, tdc="compression")


def line_and_declare(hands: Hands) -> None:
    hands.go_to(360.0)
    hands.do("line", cylinder=1)
    hands.do("declare", cylinder=1, tdc="compression")


def slacken_in_overlap(hands: Hands) -> None:
    hands.go_to(360.0)
    hands.do("slacken", item="I1")
    hands.do("screw", item="I1", deg=-200.0)


def order_backwards(hands: Hands) -> None:
    hands.do("declare", order="1-4-2-6-3-5", rotor="clockwise")


def order_of_neighbours(hands: Hands) -> None:
    hands.do("declare", order="1-2-3-4-5-6", rotor="clockwise")


def companion_clicks(hands: Hands) -> None:
    hands.go_to(360.0)
    hands.do("wiggle", item="I6")
    hands.do("wiggle", item="E6")
    hands.do("declare", cylinder=1, tdc="compression")


def half_the_error(hands: Hands) -> None:
    hands.do("declare", mark_error_deg=5.0)


def top_of_the_line(hands: Hands) -> None:
    hands.go_to(2.0)
    hands.do("line", cylinder=1)
    hands.do("declare", cylinder=1, tdc="compression")


def dots_meet(hands: Hands) -> None:
    hands.go_to(360.0)
    hands.do("look", at="cam marks")
    hands.do("declare", cylinder=1, tdc="compression")


def on_the_ramp(hands: Hands) -> None:
    hands.go_to(360.0 - 12.0 - 6.0)
    hands.do("slacken", item="I1")
    hands.do("screw", item="I1", deg=-5.0)


def exhaust_as_intake_lifts(hands: Hands) -> None:
    hands.go_to(355.0)
    hands.do("slacken", item="E1")
    hands.do("screw", item="E1", deg=-5.0)


def thou_for_mm(hands: Hands) -> None:
    for cylinder, place in ((1, 0.0), (3, 240.0)):
        hands.go_to(place)
        name = f"I{cylinder}"
        hands.do("slacken", item=name)
        hands.do("screw", item=name, deg=-(0.635 - hands.heel_mm(name)) / 1.5 * 360.0)


@pytest.mark.parametrize(
    ("idea", "act", "scenario"),
    [
        ("mark-zero-fires", look_at_zero_and_declare, {"task": Task.TDC}),
        ("both-shut-at-tdc", line_and_declare, {"task": Task.TDC}),
        ("tight-is-too-tight", slacken_in_overlap, {"task": Task.SET}),
        ("order-against-rotor", order_backwards, {"task": Task.ORDER}),
        ("neighbour-next", order_of_neighbours, {"task": Task.ORDER}),
        ("together-fire-together", companion_clicks, {"task": Task.TDC}),
        (
            "cam-for-crank",
            half_the_error,
            {"task": Task.MARK, "said": Said(start_deg=50.0, mark_error_deg=10.0)},
        ),
        ("highest-is-tdc", top_of_the_line, {"task": Task.TRUE_TDC}),
        ("dots-mean-1", dots_meet, {"task": Task.TDC, "faults": ("dots-companion",)}),
        ("blade-goes-so-heel", on_the_ramp, {"task": Task.SET}),
        ("intake-lifts-so-exhaust", exhaust_as_intake_lifts, {"task": Task.SET}),
        ("bare-25-is-mm", thou_for_mm, {"task": Task.SET}),
    ],
)
def test_a_wrong_idea_is_called_by_its_name(idea: str, act: Any, scenario: dict[str, Any]) -> None:
    hands = Hands("birch", **scenario)
    act(hands)
    assert idea in hands.do("finish")["wrong_ideas"]


def test_two_ideas_about_companions_and_tables() -> None:
    five = Hands("linden", task=Task.TDC)
    five.go_to(100.0)
    five.do("wiggle", item="I5")
    five.do("declare", cylinder=1, tdc="compression")
    assert "n-plus-1-minus-k" in five.do("finish")["wrong_ideas"]
    four = even_inline((1, 2, 4, 3))
    run = Run.begin(Scenario(four, task=Task.SET, said=Said(start_deg=0.0, slack_open=False)))
    for stop, items in ((0.0, ("I1", "E1", "I2", "E3")), (360.0, ("E2", "I3", "I4", "E4"))):
        run, _ = run.done({"do": "bar", "deg": stop})
        for item in items:
            run, _ = run.done({"do": "slacken", "item": item})
            run, _ = run.done({"do": "screw", "item": item, "deg": -1.0})
    assert "one-table-fits-all" in run.verdict()["wrong_ideas"]


def test_a_careful_run_has_no_wrong_idea() -> None:
    hands = Hands("birch", task=Task.TDC)
    hands.go_to(700.0)
    hands.do("thumb", cylinder=1, deg=20.0)
    for item in ("I1", "E1"):
        hands.do("wiggle", item=item)
    hands.do("declare", cylinder=1, tdc="compression", evidence=["thumb", "rockers"])
    verdict = hands.do("finish")
    assert verdict["passed"]
    assert verdict["could_tell"]
    assert verdict["wrong_ideas"] == []
    assert list(RULES) == [idea.slug for idea in IDEAS if idea.slug in RULES]
