"""Wrong leads against tables made by hand, and what each pattern means."""

import argparse
from itertools import permutations

import pytest

from true_compass.cli.ignition import run_leads
from true_compass.core.crank import makers
from true_compass.core.crank.firing import backwards, parse_groups
from true_compass.core.ignition.leads import (
    backwards_words,
    crossing_pairs,
    exchanged,
    headline,
    judged,
    meaning_of,
    order_from,
    parse_wiring,
)
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig, rig_names

# Orders read against the rotor, each lead that is wrong with what it meets 5° before the post's
# own TDC. Worked by hand on paper from the firing offsets; common practice, no source.
BACKWARDS = [
    ("alder", "1-2-4-3", {2: (360, "exhaust", "IE"), 3: (360, "exhaust", "IE")}),
    (
        "birch",
        "1-4-2-6-3-5",
        {
            4: (240, "exhaust", "E"),
            2: (480, "intake", "I"),
            3: (240, "exhaust", "E"),
            5: (480, "intake", "I"),
        },
    ),
    (
        "cedar",
        "1-2-7-3-6-8-4-5",
        {
            2: (180, "power", "E"),
            8: (180, "power", "E"),
            4: (360, "exhaust", "IE"),
            7: (360, "exhaust", "IE"),
            3: (540, "intake", "I"),
            5: (540, "intake", "I"),
        },
    ),
]


@pytest.mark.parametrize(("name", "wired", "expected"), BACKWARDS)
def test_an_order_read_against_the_rotor(
    name: str, wired: str, expected: dict[int, tuple[int, str, str]]
) -> None:
    rig = Rig.of(demo_rig(name))
    result = judged(rig, parse_wiring(rig.engine, wired))
    assert result.meaning.slug == "reversed"
    assert {lead.lead_to for lead in result.wrong} == set(expected)
    for lead in result.wrong:
        at, stroke, kinds = expected[lead.lead_to]
        assert lead.at_cycle_deg == pytest.approx(at)
        assert lead.spark.stroke.word == stroke
        names = {f"{kind}{lead.lead_to}" for kind in kinds}
        assert set(lead.spark.open_valves) == names, lead.lead_to


SIX = (1, 5, 3, 6, 2, 4)


@pytest.mark.parametrize(
    ("wired", "slug", "says"),
    [
        ((1, 5, 3, 6, 2, 4), "right", "Every lead is right"),
        ((1, 4, 2, 6, 3, 5), "reversed", "The order is right, the direction is wrong"),
        ((4, 1, 5, 3, 6, 2), "round-by-1", "All leads sit 1 post on"),
        ((5, 3, 6, 2, 4, 1), "round-by-5", "All leads sit 1 post back"),
        ((1, 5, 3, 2, 6, 4), "swapped-2-6", "2 and 6 are swapped at the cap"),
        ((1, 5, 6, 2, 3, 4), "other", "2, 3 and 6 have gone round by one plug"),
        ((5, 1, 6, 3, 2, 4), "other", "4 leads are on a wrong plug"),
        ((1, 5, 0, 6, 2, 4), "other", "1 lead is off; the others are right"),
        ((0, 0, 0, 0, 0, 0), "other", "No lead is on"),
    ],
)
def test_what_is_behind_it(wired: tuple[int, ...], slug: str, says: str) -> None:
    result = judged(Rig.of(demo_rig("birch")), wired)
    assert result.meaning.slug == slug
    assert headline(result) == says


def test_fewest_to_move_is_right_by_trying() -> None:
    """On a four, by breadth: leads are taken off and put on free plugs, one a move."""
    rig = Rig.of(demo_rig("alder"))
    order = rig.engine.firing_order
    for wired in permutations(order):
        wrong = [post for post in range(4) if wired[post] != order[post]]
        # A lead that stays is not moved, one that moves goes straight to its own plug.
        assert judged(rig, wired).moves == len(wrong)
        assert len(judged(rig, wired).wrong) != 1
        assert meaning_of(order, wired).slug == "right" or wrong


def test_with_lead_1_meant_for_another_post_the_order_begins_there() -> None:
    birch = demo_rig("birch")
    assert order_from(birch, 1) == SIX
    assert order_from(birch, 2) == (4, 1, 5, 3, 6, 2)
    assert order_from(birch, 5) == (3, 6, 2, 4, 1, 5)
    assert judged(Rig.of(birch), (4, 1, 5, 3, 6, 2), 2).meaning.slug == "right"


def test_a_lead_dragged_to_a_plug_changes_places_with_the_one_there() -> None:
    wired = exchanged(exchanged(SIX, 2, 3), 2, 5)
    assert wired == SIX
    assert exchanged((1, 0, 3, 6, 2, 4), 2, 5) == SIX


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("1-2-4", "3 leads, but the engine has 6 cylinders"),
        ("1-5-3-6-2-7", "cylinder 7, which there is not"),
        ("1-5-3-6-2-2", "two leads to plug 2"),
        ("1-5-3-6-2-0", "without a lead"),
        ("1,5,3", "such as 1-5-3-6-2-4"),
    ],
)
def test_a_wiring_that_cannot_be_is_explained(typed: str, says: str) -> None:
    with pytest.raises(EngineError, match=says):
        parse_wiring(demo_rig("birch"), typed)


@pytest.mark.parametrize(
    ("name", "pairs"),
    [
        # Numbered along each row, 1-5-4-8-6-3-7-2: 2 fires 90° before 1.
        ("cedar", {(2, 1)}),
        # An odd number of cylinders has them at 144°: next but none in the order.
        ("linden", {(1, 2), (4, 5)}),
        ("chestnut", {(2, 1), (5, 4), (7, 6), (10, 9)}),
        # On an even six or four in line no neighbours are nearer than 180° (6: 120° twice).
        ("birch", set()),
        ("alder", set()),
    ],
)
def test_neighbours_that_fire_in_turn_are_named(name: str, pairs: set[tuple[int, int]]) -> None:
    assert set(crossing_pairs(demo_rig(name))) == pairs


def test_the_pair_of_a_cross_crank_v8_of_which_every_class_hears() -> None:
    """5 before 7, next to each other on one bank (common practice, no source)."""
    makes = (makers.vee(8, 90, numbering="across", first=first) for first in "AB")
    engine = makers.to_order(makes, parse_groups("1-8-4-3-6-5-7-2"))
    assert crossing_pairs(engine) == ((5, 7),)


def test_leads_that_are_right_are_counted() -> None:
    """Of six, two on wrong plugs and one off: three are right, and three to be moved."""
    result = judged(Rig.of(demo_rig("birch")), (5, 1, 0, 6, 2, 4))
    assert (len(result.wrong), result.off, result.right, result.moves) == (2, (3,), 3, 3)


@pytest.mark.parametrize("name", rig_names())
def test_orders_fit_and_leads_tell_the_same_of_an_order_read_backwards(name: str) -> None:
    """One judge: who gets the first wrong spark, on which stroke, and what one hears of it."""
    rig = Rig.of(demo_rig(name))
    result = judged(rig, backwards(rig.engine.firing_order))
    body = backwards_words(rig)[1]
    if not result.wrong:
        assert body == "Read either way it is the same order."
        return
    first = result.wrong[0]
    stroke, heard = first.spark.stroke.word, first.spark.heard.sentence
    assert f"{first.lead_to} gets it on its {stroke} stroke. {heard}" in body
    if rig.engine.has_rotor:
        wired = "-".join(map(str, backwards(rig.engine.firing_order)))
        told = run_leads(argparse.Namespace(target=name, wired=wired, json=False))
        assert f"sparks {first.lead_to} on its {stroke} stroke: {heard}" in told
