"""Combinations of teeth, holes, keys and bushes, against brute force."""

import math
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from true_compass.core.degreeing.steps import Steps, best_options, reach_words, steps_of, tooth_deg
from true_compass.core.limits import EngineError
from true_compass.core.valves.timing_set import (
    Offset,
    TimingSet,
    check_timing_set,
    offset_text,
    parse_offset,
)


def test_what_one_step_is_worth() -> None:
    """Common practice, no source."""
    assert tooth_deg(42) == pytest.approx(17.142857)
    assert TimingSet(holes=(15, 16)).hole_step_deg == 3.0
    assert TimingSet(holes=(9, 10)).hole_step_deg == 8.0
    assert TimingSet(hole_deg=4.0, hole_on_cam=True).hole_step_deg == 8.0
    assert Offset(0.7, 19.0).crank_deg == pytest.approx(2.11, abs=0.005)
    assert Offset(0.7, 19.0, on_cam=True).crank_deg == pytest.approx(4.22, abs=0.01)
    steps = steps_of(TimingSet(bushes=(Offset(0.3, 24.0), Offset(0.6, 24.0))))
    assert steps.bushes_deg == pytest.approx((1.43, 2.87), abs=0.01)


drives = st.builds(
    Steps,
    tooth_deg=st.sampled_from([0.0, 720 / 42, 720 / 36]),
    hole_deg=st.just(3.0) | st.just(0.0),
    hole_steps=st.just(240),
    keys_deg=st.lists(st.sampled_from([1.1, 2.39, 4.2]), max_size=2, unique=True).map(tuple),
    cam_keys_deg=st.lists(st.sampled_from([2.2, 4.78]), max_size=1).map(tuple),
    bushes_deg=st.lists(st.sampled_from([1.43, 4.17]), max_size=2, unique=True).map(tuple),
)


def _all(steps: Steps, need: float) -> list[tuple[float, float, float]]:
    """Rank, error and what it gives, of everything that can be combined."""
    teeth = range(-3, 4) if steps.tooth_deg else [0]
    holes = range(-119, 121) if steps.hole_deg else [0]
    offsets = [
        [0.0, *values, *(-value for value in values)]
        for values in (steps.keys_deg, steps.cam_keys_deg, steps.bushes_deg)
    ]
    found = []
    for tooth, hole, key, cam_key, bush in product(teeth, holes, *offsets):
        gives = tooth * steps.tooth_deg + hole * steps.hole_deg + key + cam_key + bush
        moved = sum(map(bool, (tooth, hole, key or cam_key, bush)))
        found.append((abs(gives - need) + 0.2 * moved, abs(gives - need), gives))
    return sorted(found)


@settings(max_examples=60, deadline=None)
@given(drives, st.floats(-40, 40))
def test_the_best_few_equal_brute_force(steps: Steps, need: float) -> None:
    options, every = best_options(steps, need), _all(steps, need)
    least = min(error for _, error, _ in every)
    assert min(abs(option.error_deg) for option in options) == pytest.approx(least, abs=1e-8)
    ranks = [option.rank_deg for option in options]
    expected = [rank for rank, _, _ in every[: len(options)]]
    # The last may have given way to the least error.
    assert ranks[:-1] == pytest.approx(expected[:-1], abs=1e-8)
    for option in options:
        parts = option.key_deg + option.cam_key_deg + option.bush_deg
        gives = option.tooth * steps.tooth_deg + option.hole * steps.hole_deg + parts
        assert option.gives_deg == pytest.approx(gives, abs=1e-9)
        assert option.error_deg == pytest.approx(gives - need, abs=1e-9)
    assert len({(o.tooth, o.hole, o.key_deg, o.cam_key_deg, o.bush_deg) for o in options}) == len(
        options
    )


def test_slots_leave_no_error_within_their_reach() -> None:
    steps = steps_of(TimingSet(teeth=40, reach_deg=8.0))
    best = best_options(steps, 4.8)[0]
    assert (best.tooth, best.error_deg) == (0, 0.0)
    assert best.slide_deg == pytest.approx(4.8)
    beyond = best_options(steps, 21.0)[0]
    assert beyond.tooth == 1
    assert beyond.slide_deg == pytest.approx(3.0)


def test_a_need_that_no_step_reaches_names_the_nearest() -> None:
    options = best_options(Steps(tooth_deg=tooth_deg(42)), 6.0)
    assert reach_words(options, 6.0) == (
        "Nothing comes near +6.0°: the nearest gives +0.0°, 6.0° off."
    )
    assert not reach_words(best_options(Steps(tooth_deg=6.5), 6.0), 6.0)
    with pytest.raises(EngineError, match="-360 to 360"):
        best_options(Steps(tooth_deg=10.0), math.inf)


WRONG = [
    (TimingSet(teeth=7), "8 to 200"),
    (TimingSet(teeth=42, crank_teeth=20), "twice the crank"),
    (TimingSet(holes=(1, 9)), "2 to 60"),
    (TimingSet(holes=(9, 10), hole_deg=4.0), "give one of them"),
    (TimingSet(keys=(Offset(9.0, 19.0),)), "quarter of its radius"),
    (TimingSet(reach_deg=90.0), "from 0 to 60"),
    (TimingSet(idlers=9), "0 to 6"),
]


@pytest.mark.parametrize(("drive", "said"), WRONG)
def test_a_timing_set_that_cannot_be_is_refused(drive: TimingSet, said: str) -> None:
    with pytest.raises(EngineError, match=said):
        check_timing_set(drive)


@pytest.mark.parametrize("text", ["0.7@19", "1.4@19:cam", " 1@24 "])
def test_offsets_are_written_as_they_are_read(text: str) -> None:
    offset = parse_offset("key", text)
    assert parse_offset("key", offset_text(offset)) == offset


@pytest.mark.parametrize("text", ["", "0.7", "a@b", "0.7@19:crankcam", "0@19", "1@" + "9" * 50])
def test_an_offset_that_is_none_is_named(text: str) -> None:
    with pytest.raises(EngineError):
        parse_offset("key", text)
