"""Fitting a distributor: steps, tooth and post, wrong states, and what a class is given."""

from dataclasses import replace

import pytest

from true_compass.core.engine import Engine
from true_compass.core.ignition.bay import (
    BLANK,
    Bay,
    Standing,
    made_wrong,
    signs,
    what_is_wrong,
)
from true_compass.core.ignition.cap import turn_words
from true_compass.core.ignition.fitting import (
    dropped,
    headline,
    slot_deg,
    stands_right,
    steps,
    turned_right,
    ways,
    wrong_states,
)
from true_compass.core.ignition.stand import sound
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

RIGS = ("birch", "cedar", "sycamore", "aspen", "alder", "beech")


def standing(name: str, bay: Bay = BLANK) -> Standing:
    return Standing.of(Rig.of(demo_rig(name)), bay)


def with_distributor(engine: Engine, **changes: object) -> Engine:
    distributor = replace(engine.distributor, **changes)  # type: ignore[arg-type]
    return replace(engine, spark=replace(engine.spark, distributor=distributor))


@pytest.mark.parametrize("name", RIGS)
def test_what_the_file_says_stands_right_and_needs_nothing(name: str) -> None:
    here = standing(name)
    assert what_is_wrong(here) == ()
    assert signs(here)[0].said == "It starts and runs."
    if here.engine.rotor.turns is not None:
        assert headline(here)[0] == "The distributor stands right"
    assert len(steps(here)) == 8
    assert not any(state.is_now for state in wrong_states(here))


def test_a_tooth_out_is_led_back_by_the_list_of_ways() -> None:
    cedar = demo_rig("cedar")
    for turn, back in ((0, "tooth on, this post"), (1, "tooth back, this post")):
        here = standing("cedar", made_wrong(cedar, ("rotor-tooth",), turn))
        assert headline(here)[0].startswith("The body has no room")
        assert [state.title for state in wrong_states(here) if state.is_now] == ["One tooth out"]
        way = next(way for way in ways(here, 9) if way.name == back)
        assert way.reached
        mended = replace(way.fitted, body_deg=way.body_deg)
        assert what_is_wrong(standing("cedar", Bay(fitted=mended))) == ()


def test_leads_go_round_with_the_post_of_lead_1() -> None:
    """Dropped a post on, as wrong or right as they were: two that are swapped stay swapped."""
    cedar = demo_rig("cedar")
    here = standing("cedar", made_wrong(cedar, ("leads-swapped",), 2))
    for way in ways(here, 9):
        fitted, wired = dropped(here, way)
        there = standing("cedar", Bay(fitted=fitted, wired=wired))
        assert fitted.body_deg == here.fitted.body_deg
        assert there.judged.meaning == here.judged.meaning
        assert sorted(wired) == sorted(cedar.firing_order)


def test_tooth_and_post_together_are_worth_little() -> None:
    """Gear of 14 and eight posts: a tooth on and a post on is 45 − 25.7 = 19.3° of body."""
    here = standing("cedar")
    turns = {way.name: way.body_deg for way in ways(here, 9)}
    assert turns["this tooth, this post"] == pytest.approx(6.43, abs=0.01)
    assert turns["tooth on, post on"] - turns["this tooth, this post"] == pytest.approx(
        360 / 14 - 45
    )


def test_words_for_what_is_not_known_and_for_what_cannot_be() -> None:
    alder = standing("alder")
    assert headline(alder)[0] == "How does the rotor turn?"
    words = {step.step.value: step for step in steps(alder)}
    assert "if there is one" in words["slot"].title
    assert "a little back" in words["back"].title
    cedar = demo_rig("cedar")
    small = with_distributor(cedar, swing_deg=(0.1, 0.1), seat_deg=8.0)
    here = Standing.of(Rig.of(small), Bay(fitted=replace(sound(small), body_deg=0.0)))
    assert headline(here)[0] == "The swing is too small for every tooth near"
    posts = Standing.of(Rig.of(with_distributor(cedar, posts=9)), BLANK)
    assert "9 posts for 8 cylinders" in steps(posts)[2].note
    straight = Standing.of(Rig.of(with_distributor(cedar, twist_deg=0.0)), BLANK)
    assert "does not twist" in steps(straight)[4].title


def test_the_slot_goes_with_the_rotor() -> None:
    cedar = demo_rig("cedar")
    there = sound(cedar)
    on = replace(there, tooth=there.tooth + 1)
    assert (slot_deg(cedar, on) - slot_deg(cedar, there)) % 360 == pytest.approx(360 / 14)


@pytest.mark.parametrize(
    ("name", "short", "says"),
    [
        ("cedar", 6.0, "3.0° anticlockwise, from above: against the rotor is earlier"),
        ("cedar", -4.0, "2.0° clockwise, from above: with the rotor is later"),
        ("sycamore", 6.0, "3.0° clockwise, from above: against the rotor is earlier"),
    ],
)
def test_how_far_and_which_way(name: str, short: float, says: str) -> None:
    assert says in turn_words(demo_rig(name), short)


@pytest.mark.parametrize(
    ("slot_ways", "title", "note"),
    [
        # Rotor and slot 270° apart: with two ways the nearer half is told, with one the way itself.
        (2, "Pump slot to 90° from the front", "two ways fit, both are right"),
        (1, "Pump slot to 270° from the front", "it fits one way only"),
    ],
)
def test_a_slot_that_fits_two_ways_is_told_by_the_nearer(
    slot_ways: int, title: str, note: str
) -> None:
    cedar = demo_rig("cedar")
    rotor = sound(cedar).rotor_deg(cedar)
    engine = with_distributor(cedar, slot_ways=slot_ways, slot_deg=270.0 - rotor)
    step = {each.step.value: each for each in steps(Standing.of(Rig.of(engine), BLANK))}["slot"]
    assert (step.title, step.note) == (title, note)


@pytest.mark.parametrize(("twist", "way"), [(13.0, "anticlockwise"), (-13.0, "clockwise")])
def test_a_rotor_is_started_against_the_twist(twist: float, way: str) -> None:
    here = Standing.of(Rig.of(with_distributor(demo_rig("cedar"), twist_deg=twist)), BLANK)
    step = {each.step.value: each for each in steps(here)}["back"]
    assert step.title == "Start 13° back; the gear twists it on"
    assert step.note.startswith(f"{way},")


def test_a_body_that_has_slipped_within_its_swing_is_only_turned() -> None:
    """Room is counted from mid-swing, what is asked from where the body stands."""
    cedar = demo_rig("cedar")
    right = sound(cedar)
    slipped = Bay(fitted=replace(right, body_deg=right.body_deg - 20.0))
    assert headline(standing("cedar", slipped))[0] == "Turn the body 20.0° clockwise"
    far = with_distributor(cedar, swing_deg=(30.0, right.body_deg - 1.0))
    here = Standing.of(Rig.of(far), Bay(fitted=replace(right, body_deg=right.body_deg - 20.0)))
    asked, room = headline(here)
    assert asked.startswith("The body has no room")
    assert room.startswith(f"It goes {right.body_deg - 1.0:g}° that way.")
    titles = {step.step.value: step.title for step in steps(here)}
    assert titles["body"] == "No room for the body: another tooth"


def test_the_body_is_turned_as_far_as_it_goes() -> None:
    cedar = demo_rig("cedar")
    right = sound(cedar)
    back = turned_right(cedar, replace(right, body_deg=right.body_deg - 20.0))
    assert back.body_deg == pytest.approx(right.body_deg)
    assert stands_right(cedar, back)
    # A tooth back asks for 19.3° anticlockwise, one on for 32.1° clockwise: 18 and 22 are there.
    for tooth, stop in ((-1, -18.0), (1, 22.0)):
        stopped = turned_right(cedar, replace(right, tooth=right.tooth + tooth))
        assert stopped.body_deg == stop
        assert not stands_right(cedar, stopped)
    out = replace(right, turn_out=True)
    assert turned_right(cedar, out) == out


def test_the_three_wrong_states_of_a_v8() -> None:
    right = sound(demo_rig("cedar"))
    turn, back, tooth = wrong_states(standing("cedar"))
    assert turn.title == "180° out"
    assert turn.fitted.turn_out
    assert back.short == "Only 1 and 6 are right."
    assert tooth.short == "25.7° of rotor, 51.4° of crank."
    assert tooth.fitted.tooth == right.tooth - 1
    # One that stands a turn out is drawn as it stands; the other two as they would be put right.
    out = wrong_states(
        standing("cedar", Bay(fitted=replace(sound(demo_rig("cedar")), turn_out=True)))
    )
    assert [state.is_now for state in out] == [True, False, False]
    assert [state.fitted.turn_out for state in out] == [True, False, False]
    assert out[2].more == tooth.more
    here = standing("cedar", Bay(fitted=replace(right, turn_out=True)))
    titles = {step.step.value: step.title for step in steps(here)}
    assert titles["body"] == "Not the body: lift it, one crank turn"
