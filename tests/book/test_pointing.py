"""What a change points to: the trade's rule, its three bounds, and sound engines left in peace."""

import math
import random

import numpy as np
import pytest
from scipy import stats

from true_compass.book.brackets import Bracket
from true_compass.book.pointing import NORMAL, Cause, Hands, bound_of, point
from true_compass.core.items import Item, Kind, item_named

STEP = Hands(step_mm=0.02)


def changes(**told: float) -> dict[Item, Bracket]:
    return {item_named(name): Bracket.of(value) for name, value in told.items()}


def whole(cylinders: int, value: float = 0.0, **told: float) -> dict[Item, Bracket]:
    names = {f"{kind.letter}{n}": value for n in range(1, cylinders + 1) for kind in Kind}
    return changes(**(names | told))


def causes(given: dict[Item, Bracket], name: str, hands: Hands = STEP) -> list[str]:
    return [cause.value for cause in point(given, hands)[item_named(name)].causes]


@pytest.mark.parametrize(
    ("given", "name", "told"),
    [
        (whole(6, E5=-0.07), "E5", ["valve-or-seat"]),
        (whole(6, I3=+0.07), "I3", ["lobe-rod-or-tip"]),
        (whole(6, E5=-0.07), "E4", []),
        # All alike, whichever way; one that moved further is told apart as well.
        (whole(6, -0.05), "I2", ["heat-hand-or-blades"]),
        (whole(6, +0.05, E5=-0.06), "E5", ["valve-or-seat"]),
        (whole(6, -0.05, E5=-0.15), "E5", ["valve-or-seat", "heat-hand-or-blades"]),
        # Both of one cylinder, and one kind.
        (whole(6, I4=-0.06, E4=-0.07), "I4", ["stand-or-head-nut"]),
        (whole(6, I4=-0.06, E4=+0.07), "E4", ["lobe-rod-or-tip"]),
        (whole(4, E1=0.06, E2=0.06, E3=0.06, E4=0.06), "E2", ["wrong-target"]),
        (whole(4, E1=0.06, E2=0.06, E3=0.06, E4=0.06), "I2", []),
        # Four of a kind have three siblings: no claim about one.
        (whole(4, E2=-0.30), "E2", []),
        (whole(5, E2=-0.30), "E2", ["valve-or-seat"]),
        # Within a blade step all alike is nothing.
        (whole(6, -0.02), "I2", []),
    ],
)
def test_what_changes_point_to(given: dict[Item, Bracket], name: str, told: list[str]) -> None:
    assert causes(given, name) == told


def test_the_largest_of_three_bounds_decides() -> None:
    """Median distances by SciPy; the other two by the trade's rule (common practice, no source)."""
    rng = random.Random(3)
    for _ in range(50):
        given = {Item(Kind.INTAKE, n): Bracket.of(rng.gauss(0, 0.02)) for n in range(1, 9)}
        others = [change.middle for item, change in given.items() if item.cylinder != 1]
        step, before, now = rng.choice((0.01, 0.05)), rng.uniform(0, 0.02), rng.uniform(0, 0.02)
        bound = bound_of(Item(Kind.INTAKE, 1), given, Hands(before, now, step))
        assert bound is not None
        spread = 3.5 * NORMAL * float(stats.median_abs_deviation(others))
        hand = 3.5 * math.sqrt(before**2 + now**2)
        assert bound.median_mm == pytest.approx(float(np.median(others)))
        assert bound.mm == pytest.approx(max(spread, step, hand))
    # The factor makes the median distance a standard deviation of normal readings.
    assert pytest.approx(1 / stats.norm.ppf(0.75), abs=1e-4) == NORMAL


def test_a_bracket_must_lie_beyond_the_bound_with_both_ends() -> None:
    given = whole(6)
    item = item_named("E5")
    assert point(given | {item: Bracket(-0.10, -0.06)}, STEP)[item].causes == (Cause.SEAT,)
    assert point(given | {item: Bracket(-0.10, -0.04)}, STEP)[item].causes == ()


def test_two_hands_widen_the_bound() -> None:
    given = whole(6, E5=-0.07)
    assert causes(given, "E5", Hands(0.01, 0.01, 0.02)) == ["valve-or-seat"]
    assert causes(given, "E5", Hands(0.01, 0.02, 0.02)) == []


@pytest.mark.parametrize(("cylinders", "step"), [(4, 0.02), (6, 0.02), (8, 0.05), (18, 0.02)])
def test_a_sound_engine_is_accused_in_at_most_four_of_a_hundred_jobs(
    cylinders: int, step: float
) -> None:
    """6,000 simulated jobs in all four engines; readings scatter as the bound assumes."""
    rng = np.random.default_rng(cylinders)
    jobs = 6_000 // 4
    accused = dict.fromkeys(Kind, 0)
    for drawn in rng.normal(0, 0.01, (jobs, 2, 2 * cylinders)):
        values = iter((drawn[0] - drawn[1]).tolist())
        given = {
            Item(kind, n): Bracket.of(next(values))
            for n in range(1, cylinders + 1)
            for kind in Kind
        }
        told = point(given, Hands(0.01, 0.01, step))
        for kind in Kind:
            accused[kind] += any(p.causes for item, p in told.items() if item.kind is kind)
    assert max(accused.values()) / jobs <= 0.04
