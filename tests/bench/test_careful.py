"""The careful person's steps pass, and the last zero of a plunger is what is judged."""

import pytest

from tests.bench.hands import Hands
from true_compass.bench.careful import careful_steps, played_carefully
from true_compass.bench.covered import Covered
from true_compass.bench.run import Run
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.tasks import Task, why_not
from true_compass.core.adjusting.comparison import compare, first_safe, rows_of
from true_compass.core.words import at_degrees
from true_compass.files.rigs import demo_rig, rig_names

ALL = [
    (name, task)
    for name in rig_names()
    for task in Task
    if task is not Task.FREE and not why_not(demo_rig(name), task)
]


def passes_carefully(scenario: Scenario) -> bool:
    run = Run.begin(scenario)
    run = Run(run.work, played_carefully(run.work, run.state))
    return bool(run.done({"do": "finish"})[1]["passed"])


@pytest.mark.parametrize(("name", "task"), ALL)
def test_a_careful_person_passes_by_the_benchs_own_actions(name: str, task: Task) -> None:
    """One seed a pair here; twenty in `make attack`."""
    seed = 11 + len(name)
    assert passes_carefully(Scenario(demo_rig(name), task, seed=seed))


def test_a_careful_person_follows_the_sweep_where_that_is_the_method() -> None:
    for seed in (1, 12):
        scenario = Scenario(demo_rig("cedar"), Task.PRELOAD, seed=seed, method="quarter-turn")
        words = [step.words for step in careful_steps(Covered.of(scenario))]
        assert "until it clacks" in words[0]
        assert "holds its valve open while turns are added" in words[-2]
        assert passes_carefully(scenario)


@pytest.mark.parametrize("name", rig_names())
def test_the_plan_that_is_told_is_safe_and_every_stop_has_its_place(name: str) -> None:
    engine = demo_rig(name)
    task = Task.SET if not why_not(engine, Task.SET) else Task.TDC
    work = Covered.of(Scenario(engine, task))
    row = first_safe(rows_of(work.book, first="two-stop"))
    assert row is not None
    assert row.plan is not None
    assert row.plan.safe
    if task is Task.SET:
        told = [step.words for step in careful_steps(work)]
        for nth, stop in enumerate(row.plan.stops, start=1):
            at = at_degrees(stop.crank_deg)
            assert any(words.startswith(f"Stop {nth}, crank at {at}:") for words in told)


def test_an_unsafe_method_gives_way_to_the_first_that_is_safe() -> None:
    """Two stops stand E1 and E6 of Hickory 38° off their base circle."""
    work = Covered.of(Scenario(demo_rig("hickory"), Task.BRIDGE, method="two-stop"))
    safe = [row.school for row in compare(work.book) if row.safe]
    begun = first_safe(rows_of(work.book, first="two-stop"))
    assert begun is not None
    assert begun.school is safe[0]
    assert begun.school.word != "two-stop"
    asked = first_safe(rows_of(work.book, first=safe[-1].word))
    assert asked is not None
    assert asked.school is safe[-1]


# The last zero ------------------------------------------------------------------------------------

PER_TURN_MM = 1.7639
"""Cedar: 3/8-24 on a pivot of ratio 1.5, p·(1 + 1/R) (common practice, no source)."""
AIM_TURNS = 0.95 / PER_TURN_MM


def slack(hands: Hands, item: str) -> None:
    """Slackened until it clacks on the heel, with time to rise."""
    value = hands.heel_mm(item)
    hands.do("slacken", item=item)
    hands.do("screw", item=item, deg=-(value + 0.3) / PER_TURN_MM * 360.0)
    hands.do("wait")
    assert hands.do("wiggle", item=item)["play"] == "loose"


def one_item(pumped: bool = True) -> Hands:
    said = Said(start_deg=0.0, slack_open=False, pumped=pumped)
    return Hands("cedar", task=Task.PRELOAD, method="quarter-turn", seed=12, said=said)


def verdict_of(hands: Hands, item: str) -> dict[str, object]:
    verdict = hands.do("finish")
    return next(one for one in verdict["items"] if one["name"] == item)


def tight(hands: Hands, item: str, deg: float) -> None:
    hands.do("screw", item=item, deg=deg)


def test_turns_may_be_added_anywhere_after_a_zero_on_the_heel() -> None:
    hands = one_item()
    hands.go_to(0.0)
    slack(hands, "I1")
    tight(hands, "I1", 0.301 / PER_TURN_MM * 360.0)
    hands.go_to(470.0)  # the nose of I1
    tight(hands, "I1", AIM_TURNS * 360.0)
    hands.do("tighten", item="I1")
    item = verdict_of(hands, "I1")
    assert (item["in_band"], item["set_off_base_circle"], item["zero"]) == (True, False, "sound")


def test_a_zero_on_a_lobe_is_no_fault_once_it_is_taken_again_on_the_heel() -> None:
    hands = one_item()
    hands.go_to(0.0)
    slack(hands, "I1")
    hands.go_to(390.0)  # on the flank of its lobe: some play is left there, or none
    tight(hands, "I1", 0.301 / PER_TURN_MM * 360.0)
    hands.go_to(0.0)
    slack(hands, "I1")
    tight(hands, "I1", (0.301 + 0.95) / PER_TURN_MM * 360.0)
    assert verdict_of(hands, "I1")["set_off_base_circle"] is False


def test_a_last_zero_on_a_lobe_still_fails() -> None:
    hands = one_item()
    hands.go_to(470.0)
    value = hands.heel_mm("I1")
    hands.do("slacken", item="I1")
    # Slackened at the nose until it clacks there, and zero taken there.
    tight(hands, "I1", -(value + 8.0) / PER_TURN_MM * 360.0)
    hands.do("wait")
    assert hands.do("wiggle", item="I1")["play"] == "loose"
    while hands.do("wiggle", item="I1")["play"] == "loose":
        tight(hands, "I1", 5.0)
    tight(hands, "I1", 2.0)
    hands.go_to(0.0)
    # On the heel the play is back, and turns that only take it up are a new zero; here none are.
    hands.go_to(470.0)
    tight(hands, "I1", AIM_TURNS * 360.0)
    item = verdict_of(hands, "I1")
    assert item["set_off_base_circle"] is True
    assert item["cause"] == "its zero was taken on a lobe"


def test_drag_taken_for_zero_on_a_soft_plunger_fails() -> None:
    hands = one_item(pumped=False)
    hands.go_to(0.0)
    slack(hands, "I1")
    while hands.do("spin", item="I1")["spin"] != "stiff":
        tight(hands, "I1", 5.0)
    assert hands.heel_mm("I1") > 0.25  # it sank under the hand
    tight(hands, "I1", 0.7 / PER_TURN_MM * 360.0)
    hands.do("tighten", item="I1")
    item = verdict_of(hands, "I1")
    assert item["zero"] == item["cause"] == "its zero was a drag on a soft plunger"


def test_play_gone_is_a_sound_zero_on_a_soft_plunger_too() -> None:
    hands = one_item(pumped=False)
    hands.go_to(0.0)
    slack(hands, "I1")
    while hands.do("spin", item="I1")["spin"] == "up-and-down play":
        tight(hands, "I1", 5.0)
    tight(hands, "I1", AIM_TURNS * 360.0)
    assert verdict_of(hands, "I1")["zero"] == "sound"


def test_a_plunger_needs_time_to_rise() -> None:
    hands = one_item()
    hands.go_to(0.0)
    value = hands.heel_mm("I1")
    hands.do("slacken", item="I1")
    tight(hands, "I1", -(value + 0.3) / PER_TURN_MM * 360.0)
    tight(hands, "I1", (0.3 + 0.95) / PER_TURN_MM * 360.0)
    assert verdict_of(hands, "I1")["cause"] == (
        "its plunger had no time to rise before the zero was taken"
    )


def test_a_screw_keeps_its_own_rule() -> None:
    """A gap that was changed on its lobe was set off the base circle, wherever it stands now."""
    hands = Hands("birch", task=Task.SET)
    hands.go_to(470.0)
    hands.do("slacken", item="I1")
    hands.do("screw", item="I1", deg=-5.0)
    assert verdict_of(hands, "I1")["set_off_base_circle"] is True


@pytest.mark.parametrize("held", [True, False])
def test_a_locknut_that_was_left_loose_fails(held: bool) -> None:
    scenario = Scenario(demo_rig("alder"), Task.SET, seed=3)
    run = Run.begin(scenario)
    run = Run(run.work, played_carefully(run.work, run.state))
    if not held:
        run, _ = run.done({"do": "slacken", "item": "E3"})
    verdict = run.done({"do": "finish"})[1]
    assert verdict["passed"] is held
    assert any("loose nut: E3" in note for note in verdict["notes"]) is not held


def test_nothing_wrong_can_be_said_and_is_right_where_nothing_is() -> None:
    for faults, said, passed in (
        ((), "nothing", True),
        ((), "valve-leaks", False),
        (("valve-leaks",), "nothing", False),
        (("valve-leaks",), "valve-leaks", True),
    ):
        hands = Hands("birch", task=Task.FAULT, faults=faults)
        hands.do("declare", fault=said)
        assert hands.do("finish")["passed"] is passed
    assert Hands("birch", task=Task.FAULT).do("finish")["passed"] is False
