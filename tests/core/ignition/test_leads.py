"""Wrong leads against tables made by hand, and what each pattern means."""

from itertools import permutations

import pytest

from true_compass.core.ignition.leads import (
    crossing_pairs,
    exchanged,
    headline,
    judged,
    meaning_of,
    parse_wiring,
)
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

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


def test_neighbours_that_fire_in_turn_are_named() -> None:
    # On Cedar 7 and 8 lie apart in firing (270°), 5 and 6 too; no: bank A 1-2: 2 fires before 1.
    assert (2, 1) in crossing_pairs(demo_rig("cedar"))
    assert crossing_pairs(demo_rig("birch")) == ()
