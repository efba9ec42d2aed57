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
from true_compass.core.ignition.fitting import headline, slot_deg, steps, ways, wrong_states
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
