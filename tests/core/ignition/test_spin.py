"""No book: what an engine tells while it is barred round."""

import numpy as np
import pytest

from true_compass.core.ignition.spin import Seen, closing_before_tdc_deg, inferred
from true_compass.core.rotation import Rotation
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig, rig_names


@pytest.mark.parametrize("name", ["birch", "cedar", "sycamore", "alder"])
def test_three_things_seen_tell_order_direction_and_posts(name: str) -> None:
    """The rotor is looked at as each intake closes; an eye is out by some degrees."""
    engine = demo_rig(name)
    rig, sense = Rig.of(engine), engine.rotor_turns.sense
    before = closing_before_tdc_deg(rig)

    def seen(cylinder: int, off: float) -> Seen:
        crank = float(rig.offsets_deg[cylinder - 1]) - before
        return Seen(cylinder, (77.0 + sense * crank / 2 + off) % 360)

    order = engine.firing_order
    three = zip(order, (0.0, 4.0, -3.0), strict=False)
    result = inferred(rig, tuple(seen(cylinder, off) for cylinder, off in three))
    assert result.turns is engine.rotor_turns
    assert order in result.orders
    assert result.posts_deg[1] == pytest.approx(77.0)
    all_seen = inferred(rig, tuple(seen(cylinder, 0.0) for cylinder in order))
    assert all_seen.orders == (order,)
    assert "Nothing is open" in all_seen.still_open


@pytest.mark.parametrize("turns", Rotation)
@pytest.mark.parametrize("name", rig_names())
def test_no_look_ever_tells_the_wrong_direction_or_drops_the_order(
    name: str, turns: Rotation
) -> None:
    """However unevenly it fires, and whichever way its rotor goes; looks in running order."""
    engine = demo_rig(name)
    rig, order = Rig.of(engine), engine.firing_order
    offsets = engine.firing_offsets_deg
    looks = [Seen(c, float(30.0 + turns.sense * offsets[c - 1] / 2) % 360) for c in order]
    for count in range(1, len(looks) + 1):
        result = inferred(rig, tuple(looks[:count]))
        assert not result.trouble
        assert result.turns in (None, turns)
        assert order in result.orders
    # Only where it may have gone either way between two looks the direction stays open.
    assert (inferred(rig, tuple(looks)).turns is None) is (name in OPEN)


OPEN = {
    # One look; two that are half a turn apart; and 540° one way, which is 180° the other.
    *("ash", "fir", "mulberry"),
    *("hazel", "medlar"),
    "beech",
}


def test_what_cannot_have_been_seen_is_said() -> None:
    rig = Rig.of(demo_rig("birch"))
    assert "direction is open" in inferred(rig, (Seen(1, 0.0),)).still_open
    twice = inferred(rig, (Seen(1, 0.0), Seen(1, 60.0)))
    assert "stands there twice" in twice.still_open
    ways = inferred(rig, (Seen(1, 0.0), Seen(5, 60.0), Seen(3, 10.0)))
    assert "both ways" in ways.still_open
    never = inferred(rig, (Seen(1, 0.0), Seen(6, 60.0)))
    assert "look again" in never.still_open


@pytest.mark.parametrize("sense", [1, -1])
def test_posts_of_those_that_were_not_seen_follow_once_one_order_is_left(sense: int) -> None:
    """On a three the second intake settles it: 1-3-2, posts 120° apart the way the rotor goes."""
    rig = Rig.of(demo_rig("larch"))
    ahead = closing_before_tdc_deg(rig) / 2
    result = inferred(rig, (Seen(1, 10.0), Seen(3, (10.0 + sense * 120.0) % 360)))
    assert result.orders == ((1, 3, 2),)
    assert result.turns is (Rotation.CLOCKWISE if sense > 0 else Rotation.ANTICLOCKWISE)
    for nth, cylinder in enumerate((1, 3, 2)):
        expected = (10.0 + sense * (ahead + nth * 120.0)) % 360
        assert result.posts_deg[cylinder] == pytest.approx(expected)


def test_orders_that_are_left_are_told_by_count_and_name() -> None:
    rig = Rig.of(demo_rig("alder"))
    two = inferred(rig, (Seen(1, 0.0), Seen(3, 90.0)))
    assert two.orders == ((1, 3, 4, 2),)
    one = inferred(rig, (Seen(1, 0.0),))
    assert len(one.orders) == 2
    six = inferred(Rig.of(demo_rig("birch")), (Seen(1, 0.0), Seen(5, 60.0)))
    assert six.still_open == "2 orders are left: 1-5-3-6-2-4, 1-5-4-6-2-3. Bar on."


@pytest.mark.parametrize("name", ["birch", "larch"])
def test_an_intake_closes_before_tdc_by_what_its_events_say(name: str) -> None:
    """180° of compression less what the intake stays open after BDC, given at the seat."""
    rig = Rig.of(demo_rig(name))
    after_bdc = rig.engine.cam.intake.closes_after_deg
    for cylinder in range(1, rig.engine.cylinder_count + 1):
        assert closing_before_tdc_deg(rig, cylinder) == pytest.approx(180.0 - after_bdc, abs=1e-4)


def test_an_engine_that_fires_unevenly_is_told_by_its_own_orders() -> None:
    """On Willow, at 150° and 90° in turn, the posts that were not seen stay open."""
    engine = demo_rig("willow")
    rig, order = Rig.of(engine), engine.firing_order
    on = np.cumsum([0.0, *engine.intervals_deg[:-1]]) / 2
    seen = [Seen(cylinder, float(at)) for cylinder, at in zip(order, on, strict=True)]
    result = inferred(rig, tuple(seen[:3]))
    assert order in result.orders
    assert set(result.posts_deg) == set(order[:3])


def test_a_look_that_is_far_out_leaves_nothing_of_it() -> None:
    """An eye is given 15° a look, 30° of crank between two; 60° of rotor is 120° of crank."""
    rig = Rig.of(demo_rig("birch"))
    assert inferred(rig, (Seen(1, 0.0), Seen(5, 74.0))).orders
    assert not inferred(rig, (Seen(1, 0.0), Seen(5, 76.0))).orders
