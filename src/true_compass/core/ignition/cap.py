"""The cap as it is looked at: its posts, the rotor's seats, and how far the body must go.

Directions are degrees clockwise from the engine's front, seen from where the cap is looked at
(above, on most engines); + turns of the body are clockwise there. A rotor turns once in 720° of
crank, so half a firing offset lies between two posts.
"""

from dataclasses import dataclass
from typing import Final

from true_compass.core.angles import TURN_DEG
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.core.rotation import Rotation

SAME_DEG: Final = 1e-9


def shorter_deg(angle_deg: float) -> float:
    """The same direction, the shorter way round: in (-180, 180].

    >>> shorter_deg(190.0), shorter_deg(-180.0)
    (-170.0, 180.0)
    """
    return TURN_DEG / 2 - (TURN_DEG / 2 - angle_deg) % TURN_DEG


def posts_deg(engine: Engine, first_deg: float = 0.0, posts: int = 0) -> tuple[float, ...]:
    """Where each post stands, from post 1 on in the rotor's direction; the body in mid-swing.

    Post k is half the firing offset of its cylinder from post 1. Raises `EngineError` where a cap
    of so many posts cannot serve these cylinders.

    >>> from true_compass.core.engine import even_inline
    >>> posts_deg(even_inline((1, 3, 4, 2)), 45.0)
    (45.0, 135.0, 225.0, 315.0)
    """
    check_posts(engine, posts or engine.posts)
    sense, offsets = engine.rotor_turns.sense, engine.firing_offsets_deg
    return tuple(
        (first_deg + sense * float(offsets[cylinder - 1]) / 2) % TURN_DEG
        for cylinder in engine.firing_order
    )


def check_posts(engine: Engine, posts: int) -> None:
    """Raise unless there is a post for every cylinder."""
    if posts != engine.cylinder_count:
        raise EngineError(
            "distributor_posts",
            f"are {posts}, but the engine has {engine.cylinder_count} cylinders: count the posts "
            "of the cap again, without the one in the middle",
        )


@dataclass(frozen=True, slots=True)
class Pair:
    """A seat of the rotor and a post to put lead 1 on: `tooth` from 0, `post` from 1.

    `rotor_deg` is where the rotor points at cylinder 1's firing point; `body_turn_deg` brings the
    post to it from mid-swing, + clockwise.
    """

    post: int
    tooth: int
    rotor_deg: float
    body_turn_deg: float


def seats_deg(teeth: int, seat_deg: float) -> tuple[float, ...]:
    """Every direction in which the rotor can point with the crank at one place.

    >>> seats_deg(4, 30.0)
    (30.0, 120.0, 210.0, 300.0)
    """
    return tuple((seat_deg + tooth * TURN_DEG / teeth) % TURN_DEG for tooth in range(teeth))


def pairs_near(
    posts: tuple[float, ...], teeth: int, seat_deg: float, goal_deg: float
) -> tuple[Pair, ...]:
    """Seats within one pitch of the goal with every post: the least turn of the body first.

    Ties go to the lower post, then to the lower tooth. Brute force: there are few.
    """
    pitch = TURN_DEG / teeth
    near = [
        (tooth, rotor)
        for tooth, rotor in enumerate(seats_deg(teeth, seat_deg))
        if abs(shorter_deg(rotor - goal_deg)) <= pitch + SAME_DEG
    ]
    pairs = [
        Pair(nth + 1, tooth, rotor, shorter_deg(rotor - post))
        for nth, post in enumerate(posts)
        for tooth, rotor in near
    ]
    return tuple(sorted(pairs, key=_by_turn))


def _by_turn(pair: Pair) -> tuple[float, int, int]:
    return (round(abs(pair.body_turn_deg), 9), pair.post, pair.tooth)


ASSUMED_SWING_DEG: Final = (45.0, 45.0)
"""How far a body is drawn and dragged where nobody measured (common practice, no source)."""


def swing_of(engine: Engine) -> tuple[float, float]:
    """How far the body goes from mid-swing, anticlockwise and clockwise: measured, or assumed."""
    return engine.distributor.swing_deg or ASSUMED_SWING_DEG


def is_in_swing(engine: Engine, body_deg: float) -> bool:
    """Whether the body gets there before it meets something; where nobody measured, it does."""
    swing = engine.distributor.swing_deg
    if swing is None:
        return True
    return -swing[0] - SAME_DEG <= body_deg <= swing[1] + SAME_DEG


def left_in_swing_deg(engine: Engine, body_deg: float) -> tuple[float, float] | None:
    """How far the body can still go from there, anticlockwise and clockwise; None: not measured."""
    swing = engine.distributor.swing_deg
    return None if swing is None else (swing[0] + body_deg, swing[1] - body_deg)


def body_turn_words(turn_deg: float) -> str:
    """A turn of the body with its direction.

    >>> body_turn_words(6.43), body_turn_words(-12.0)
    ('6.4° clockwise', '12.0° anticlockwise')
    """
    turns = Rotation.CLOCKWISE if turn_deg >= 0 else Rotation.ANTICLOCKWISE
    return f"{abs(turn_deg):.1f}° {turns.value}"


def turn_words(engine: Engine, short_deg: float) -> str:
    """How the body is turned where the spark comes too late by some crank degrees, or too early.

    >>> from true_compass.core.engine import even_inline
    >>> turn_words(even_inline((1, 3, 4, 2)), 6.0)
    'Turn the body 3.0° anticlockwise, from above: against the rotor is earlier.'
    """
    turn = body_turn_words(body_for_deg(engine, short_deg))
    way = "against the rotor is earlier" if short_deg > 0 else "with the rotor is later"
    return f"Turn the body {turn}, {engine.rotor.seen_from.words}: {way}."


def body_for_deg(engine: Engine, advance_deg: float) -> float:
    """Turn of the body that makes the spark so many crank degrees earlier: against the rotor, half.

    >>> from true_compass.core.engine import even_inline
    >>> body_for_deg(even_inline((1, 3, 4, 2)), 4.0)
    -2.0
    """
    return -engine.rotor_turns.sense * advance_deg / 2
