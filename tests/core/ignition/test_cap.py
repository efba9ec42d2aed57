"""The cap: seats and posts by brute force, and a distributor as it stands."""

import cmath
import math
from dataclasses import replace

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from true_compass.core.engine import Engine, even_inline
from true_compass.core.ignition.cap import (
    body_for_deg,
    is_in_swing,
    left_in_swing_deg,
    pairs_near,
    posts_deg,
    shorter_deg,
)
from true_compass.core.ignition.stand import Heard, lit, runs_words, sound
from true_compass.core.limits import EngineError
from true_compass.core.rotation import Rotation
from true_compass.core.spark import Rotor
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

WITHIN_DEG = 1e-6


def turning(engine: Engine, turns: Rotation) -> Engine:
    return replace(engine, spark=replace(engine.spark, rotor=Rotor(turns)))


def apart_deg(one: float, other: float) -> float:
    """From one direction to another by the angle of a quotient of unit vectors: no remainder."""
    turn = cmath.exp(1j * math.radians(one)) / cmath.exp(1j * math.radians(other))
    return math.degrees(cmath.phase(turn))


@given(
    st.integers(5, 60),
    st.floats(-360, 360),
    st.floats(-360, 360),
    st.floats(0, 360),
    st.sampled_from(((1, 3, 4, 2), (1, 5, 3, 6, 2, 4), (1, 2), (1, 3, 2))),
    st.sampled_from(Rotation),
)
def test_the_nearest_pair_is_that_of_brute_force(
    teeth: int,
    seat: float,
    goal: float,
    post_1: float,
    order: tuple[int, ...],
    turns: Rotation,
) -> None:
    """Every tooth with every post, as the command's own sentence says."""
    count, way = len(order), 1 if turns is Rotation.CLOCKWISE else -1
    engine = turning(even_inline(order), turns)
    # A goal on a seat, where the seats either side are just a pitch away, has a test of its own.
    away = [abs(apart_deg(seat + t * 360 / teeth, goal)) for t in range(teeth)]
    assume(all(abs(one - 360 / teeth) > WITHIN_DEG for one in away))
    best = pairs_near(posts_deg(engine, post_1), teeth, seat, goal)[0]
    ways = [
        (abs(apart_deg(seat + t * 360 / teeth, post_1 + way * k * 360 / count)), k + 1, t)
        for t in range(teeth)
        for k in range(count)
        if away[t] <= 360 / teeth
    ]
    least = min(ways)[0]
    assert abs(best.body_turn_deg) == pytest.approx(least, abs=WITHIN_DEG)
    assert any(
        (best.post, best.tooth) == (post, tooth) and turn - least < WITHIN_DEG
        for turn, post, tooth in ways
    )
    clear = [way for way in ways if way[0] - least < 1e-9]
    if all(turn - least > WITHIN_DEG for turn, *_ in ways if turn - least > 1e-9):
        assert (best.post, best.tooth) in {(post, tooth) for _, post, tooth in clear}


def test_ties_go_to_the_lower_post_then_tooth() -> None:
    # Twelve seats, four posts, every post on a seat: at the goal and at one seat either side.
    four = turning(even_inline((1, 3, 4, 2)), Rotation.CLOCKWISE)
    best = pairs_near(posts_deg(four), 12, 0.0, 90.0)[0]
    assert (best.post, best.tooth, best.body_turn_deg) == (2, 3, 0.0)
    # Half a tooth either side of a post.
    best = pairs_near(posts_deg(four), 12, 15.0, 90.0)[0]
    assert (best.post, best.tooth, best.body_turn_deg) == (2, 2, -15.0)


def test_uneven_engines_have_uneven_posts() -> None:
    willow = turning(demo_rig("willow"), Rotation.ANTICLOCKWISE)
    gaps = [
        -shorter_deg(b - a) for a, b in zip(posts_deg(willow), posts_deg(willow)[1:], strict=False)
    ]
    assert gaps == pytest.approx([each / 2 for each in willow.intervals_deg[:-1]])
    with pytest.raises(EngineError, match="count the posts"):
        posts_deg(willow, posts=8)


@pytest.mark.parametrize("name", ["birch", "cedar", "sycamore"])
def test_a_body_turned_with_the_rotor_fires_later_by_twice_as_much(name: str) -> None:
    """Body β against the rotor is 2β of crank earlier (common practice, no source)."""
    engine = demo_rig(name)
    wanted = engine.spark.advance.initial_deg or 0.0
    there = sound(engine)
    assert there.fires_at_deg(engine) == pytest.approx(wanted)
    assert is_in_swing(engine, there.body_deg)
    against = -engine.rotor_turns.sense * 3.0
    turned = replace(there, body_deg=there.body_deg + against)
    assert turned.fires_at_deg(engine) == pytest.approx(wanted + 6.0)
    assert body_for_deg(engine, 6.0) == pytest.approx(against)
    assert turned.at_advance(engine, wanted).body_deg == pytest.approx(there.body_deg)


def test_one_tooth_one_turn_and_half_a_post() -> None:
    """A tooth of 13 is 27.7° of rotor, 55.4° of crank; half-way between eight posts 45° of crank;
    180° of rotor is one crank turn (common practice, no source).
    """
    cedar = demo_rig("cedar")
    there = sound(cedar)
    on = replace(there, tooth=there.tooth + 1).fires_at_deg(cedar) - there.fires_at_deg(cedar)
    assert on == pytest.approx(720 / 14)
    half = replace(there, body_deg=there.body_deg - 22.5)
    assert half.fires_at_deg(cedar) - there.fires_at_deg(cedar) == pytest.approx(45.0)
    out = replace(there, turn_out=True).fires_at_deg(cedar) - there.fires_at_deg(cedar)
    assert abs(out) == pytest.approx(360.0)
    back, ahead = left_in_swing_deg(cedar, there.body_deg) or (0.0, 0.0)
    assert back + ahead == pytest.approx(40.0)
    assert left_in_swing_deg(demo_rig("alder"), 3.0) is None
    assert is_in_swing(demo_rig("alder"), 80.0)


@pytest.mark.parametrize(
    ("body_deg", "reached"),
    [(0.0, True), (22.0, True), (22.1, False), (-18.0, True), (-18.1, False)],
)
def test_the_body_goes_as_far_as_it_was_measured(body_deg: float, *, reached: bool) -> None:
    """On Cedar 18° anticlockwise to the manifold, 22° clockwise to the filler."""
    assert is_in_swing(demo_rig("cedar"), body_deg) is reached


@pytest.mark.parametrize(
    ("advance", "says"),
    [
        (10.0, "It starts and runs."),
        (370.0, "It does not start."),
        (70.0, "It does not start."),
        (-20.0, "It does not start."),
    ],
)
def test_what_the_engine_does_with_the_spark_there(advance: float, says: str) -> None:
    rig = Rig.of(demo_rig("birch"))
    assert runs_words(rig.engine, lit(rig, rig.engine.firing_order, advance)) == says


def test_a_crank_turn_out_sparks_in_overlap() -> None:
    rig = Rig.of(demo_rig("birch"))
    sparks = lit(
        rig,
        rig.engine.firing_order,
        replace(sound(rig.engine), turn_out=True).fires_at_deg(rig.engine),
    )
    assert {spark.heard for spark in sparks} == {Heard.POPS}
