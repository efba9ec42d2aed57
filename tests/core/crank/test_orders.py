"""Firing orders against facts of the trade and a second, independent enumeration."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.crank.test_layout import ALL_MAKERS
from tests.tables import rows
from true_compass.core.crank import makers
from true_compass.core.crank.firing import (
    Failure,
    backwards,
    cannot_follow,
    groups_text,
    parse_groups,
    second_turns,
    second_turns_at,
)
from true_compass.core.crank.layout import Bank, Form, Layout, Seat, Throw
from true_compass.core.crank.orders import (
    all_orders,
    even_orders,
    gaps_words,
    judge_order,
    longest_run,
    nearest_orders,
    neighbours,
    other_hand,
)
from true_compass.core.engine import Engine, fire_in_order
from true_compass.core.limits import EngineError


def inline_layout(pins: tuple[float, ...]) -> Layout:
    seats = tuple(Seat(0, throw) for throw in range(len(pins)))
    return Layout(Form.INLINE, (Bank("A"),), tuple(Throw(pin) for pin in pins), seats)


def even_by_all(layout: Layout) -> set[str]:
    table = all_orders(layout)
    return {"-".join(map(str, table.order(int(row)))) for row in np.flatnonzero(table.even)}


V8 = Layout(
    Form.V,
    (Bank("A", 45.0), Bank("B", -45.0)),
    tuple(Throw(float(pin)) for pin in (0, 90, 270, 180)),
    tuple(Seat(n % 2, n // 2) for n in range(8)),
)


CRANKS = (
    *(makers.inline(count) for count in range(1, 9)),
    *(makers.vee(count, 60) for count in (2, 6, 12)),
    *(makers.flat(4), makers.radial(9), makers.square_four(), makers.double_u(12)),
)


@given(engine=st.sampled_from(CRANKS), data=st.data())
def test_even_orders_are_those_of_all(engine: Engine, data: st.DataObject) -> None:
    """Also with pins that are a little out, about as much as still counts as even."""
    layout = engine.layout
    off = st.floats(-0.12, 0.12)
    throws = [
        replace(throw, angle_deg=(throw.angle_deg + (data.draw(off) if place else 0.0)) % 360)
        for place, throw in enumerate(layout.throws)
    ]
    layout = replace(layout, throws=tuple(throws))
    alone = even_orders(layout)
    assert bool(alone.even.all())
    assert {"-".join(map(str, alone.order(row))) for row in range(len(alone))} == even_by_all(
        layout
    )


def test_a_flat_crank_allows_exactly_two_even_by_all() -> None:
    # Common practice, no source.
    assert even_by_all(inline_layout((0, 180, 180, 0))) == {"1-3-4-2", "1-2-4-3"}


def test_each_hand_of_a_sixs_crank_allows_four() -> None:
    # Common practice, no source: eight in all.
    six = makers.inline(6).layout
    here, there = even_by_all(six), even_by_all(other_hand(six))
    assert (len(here), len(there), len(here | there)) == (4, 4, 8)


def test_a_cross_crank_v8_allows_eight() -> None:
    # Common practice, no source.
    found = even_by_all(V8)
    assert len(found) == 8
    assert "1-8-4-3-6-5-7-2" in found


@pytest.mark.parametrize("row", rows("handbook_orders"), ids=lambda row: row["order"])
def test_handbook_orders_are_even_on_one_hand_of_the_usual_crank(row: dict[str, str]) -> None:
    layout = eval(row["maker"], ALL_MAKERS).layout  # the table is ours
    assert row["order"] in even_by_all(layout) | even_by_all(other_hand(layout))


def test_two_pins_side_by_side_give_the_one_even_order() -> None:
    table = all_orders(inline_layout((0, 0)))
    assert [table.order(row) for row in range(len(table))] == [(1, 2)]
    assert table.intervals_deg.tolist() == [[360.0, 360.0]]
    assert len(table.together_deg) == 1


@settings(max_examples=60)
@given(st.lists(st.sampled_from([0, 30, 72, 90, 120, 180, 240, 270]), min_size=1, max_size=6))
def test_counts_against_a_second_enumeration(pins: list[int]) -> None:
    """Walk through permutations instead of choices: each must rise through the two turns."""
    layout = inline_layout(tuple(map(float, pins)))
    tdc = layout.tdc_deg.tolist()
    found = set()
    for rest in itertools.permutations(range(2, len(pins) + 1)):
        for late in itertools.product((0, 360), repeat=len(rest)):
            at = [
                0.0,
                *(tdc[cylinder - 1] + turn for cylinder, turn in zip(rest, late, strict=True)),
            ]
            if all(b - a > 0.01 for a, b in itertools.pairwise(at)):
                found.add(((1, *rest), tuple(np.round(at, 6))))
    table = all_orders(layout)
    ours = {
        (table.order(row), tuple(np.round(np.sort(table.offsets_deg[row]), 6)))
        for row in range(len(table))
    }
    assert ours == found
    assert len(table) + len(table.together_deg) == 2 ** (len(pins) - 1)


@settings(max_examples=60)
@given(st.integers(2, 8).flatmap(lambda n: st.permutations(range(2, n + 1))))
def test_the_verdict_agrees_with_the_list(rest: list[int]) -> None:
    order = (1, *rest)
    layout = makers.inline(len(order)).layout
    groups = tuple((cylinder,) for cylinder in order)
    table = all_orders(layout)
    listed = any(table.order(row) == order for row in range(len(table)))
    assert (cannot_follow(layout.tdc_deg, groups) is None) == listed
    assert bool(second_turns(layout.tdc_deg, groups)) == listed


def test_the_first_failure_is_named() -> None:
    layout = inline_layout((0, 180, 180, 0))
    failure = cannot_follow(layout.tdc_deg, parse_groups("1-2-3-4"))
    assert failure == Failure(4, 3, (0.0, 360.0))
    assert nearest_orders(all_orders(layout), (1, 2, 3, 4))[0] == (1, 2, 4, 3)


def test_a_last_firing_just_before_the_first_is_named_too() -> None:
    five = makers.radial(5)
    banks = list(five.layout.banks)
    banks[3] = replace(banks[3], angle_deg=359.995)
    with pytest.raises(EngineError, match="4 cannot follow 2, because it is at TDC at 359"):
        fire_in_order(replace(five.layout, banks=tuple(banks)), ((1,), (3,), (5,), (2,), (4,)))


def test_intervals_settle_what_the_order_leaves_open() -> None:
    tdc = makers.vee(2, 45).layout.tdc_deg
    groups = parse_groups("1-2")
    assert second_turns(tdc, groups)[0] == (False, True)
    assert second_turns_at(tdc, groups, [45.0, 675.0]) == (False, False)
    assert second_turns_at(tdc, groups, [405.0, 315.0]) == (False, True)
    for wrong in ([90.0, 630.0], [405.0], [405.0, 300.0]):
        with pytest.raises(EngineError):
            second_turns_at(tdc, groups, wrong)


def test_cylinders_that_fire_together() -> None:
    groups = parse_groups("1+4-2+3")
    layout = inline_layout((0, 180, 180, 0))
    assert groups_text(groups) == "1+4-2+3"
    late = second_turns(layout.tdc_deg, groups)
    assert late[0] == (False, True, True, False) or late[0] == (False, False, False, False)
    assert cannot_follow(layout.tdc_deg, groups) is None
    assert second_turns(layout.tdc_deg, parse_groups("1+2-3-4")) == []
    failure = cannot_follow(layout.tdc_deg, parse_groups("1+2-3-4"))
    assert failure == Failure(2, 1, (180.0, 540.0), tie=True)
    assert failure.words.startswith("2 cannot fire together with 1, because")


@pytest.mark.parametrize(
    ("order", "run", "pairs"),
    [
        ("1-5-3-6-2-4", 1, []),
        ("1-2-4-6-5-3", 3, [(1, 2), (6, 5)]),
        ("1-2-3-6-5-4", 3, [(1, 2), (2, 3), (6, 5), (5, 4)]),
    ],
)
def test_runs_and_neighbours(order: str, run: int, pairs: list[tuple[int, int]]) -> None:
    layout, sequence = makers.inline(6).layout, tuple(map(int, order.split("-")))
    assert longest_run(layout, sequence) == run
    assert neighbours(layout, sequence) == pairs
    groups = tuple((cylinder,) for cylinder in sequence)
    assert backwards(backwards(groups)) == groups


def test_a_v16_with_eight_throws_has_every_choice() -> None:
    table = all_orders(makers.vee(16, 45).layout)
    assert len(table) + len(table.together_deg) == 2**15


def test_a_run_goes_on_round_the_end_of_the_cycle() -> None:
    """Brute force: the longest stretch of one side in the order written down twice."""
    layout = makers.inline(6).layout
    for rest in itertools.permutations(range(2, 7)):
        order = (1, *rest)
        sides = "".join("A" if cylinder <= 3 else "B" for cylinder in order) * 2
        longest = max(len(run) for run in sides.replace("AB", "A B").replace("BA", "B A").split())
        assert longest_run(layout, order) == longest


@pytest.mark.parametrize(
    ("text", "head", "body"),
    [
        ("1-3-4-2", "1-3-4-2 is possible.", "Its gaps are 180°."),
        ("1+4-2+3", "1+4-2+3 is possible.", "Some fire together. Uneven: 180° to 540°."),
        (
            "1-2-3-4",
            "Not on this crank: 4 cannot follow 3.",
            "0° and 360°, and after 3",
        ),
        ("1+2-3-4", "Not on this crank: 2 cannot fire together with 1.", "180° and 540°."),
        ("1-3-2", "Another engine.", "It names 3 cylinders, not 4."),
        ("1-3-3-2", "Not an order.", "It has 3 more than once"),
    ],
)
def test_a_typed_order_is_judged(text: str, head: str, body: str) -> None:
    verdict = judge_order(makers.inline(4).layout, text)
    assert verdict.head == head
    assert body in verdict.body
    assert verdict.good == head.endswith("possible.")
    assert bool(verdict.nearest) == head.startswith("Not on")


def test_uneven_gaps_are_told_with_both_ends() -> None:
    assert judge_order(makers.vee(2, 45).layout, "1-2").body == "Uneven: 315° to 405°."
    assert gaps_words((120.0, 120.0, 120.0)) == "120°"


@settings(max_examples=30)
@given(st.permutations(range(2, 9)), st.integers(1, 5))
def test_the_nearest_orders_by_hand(rest: list[int], most: int) -> None:
    """Even ones first, then those with the fewest places that differ; none twice."""
    table, wanted = all_orders(makers.vee(8, 90).layout), (1, *rest)
    ways: dict[tuple[int, ...], tuple[bool, int]] = {}
    for row in range(len(table)):
        order = table.order(row)
        away = sum(a != b for a, b in zip(order, wanted, strict=True))
        ways[order] = min(ways.get(order, (True, 99)), (not table.even[row], away))
    found = nearest_orders(table, wanted, most)
    assert [ways[order] for order in found] == sorted(ways.values())[:most]
    assert len(set(found)) == most


@pytest.mark.parametrize("engine", [makers.vee(6, 90, "split"), makers.vee(6, 60, "own"), V8])
def test_the_other_hand_has_every_pin_on_the_other_side(engine: Engine | Layout) -> None:
    layout = engine if isinstance(engine, Layout) else engine.layout
    other = other_hand(layout)
    assert (other.pin_deg + layout.pin_deg) % 360.0 == pytest.approx(0.0)
    assert other_hand(other).tdc_deg == pytest.approx(layout.tdc_deg)
