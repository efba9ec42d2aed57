"""Changes by hand: what stays, what clashes, and what may fire next."""

from dataclasses import replace
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.changes import with_valves_swapped
from true_compass.core.crank import makers
from true_compass.core.crank.firing import cannot_follow, parse_groups
from true_compass.core.crank.orders import all_orders
from true_compass.core.crank.shaping import (
    Clash,
    clash_of,
    clash_words,
    next_firings,
    renumbered,
    reshaped,
    snapped_deg,
    taking,
    throws_changed_about,
    with_bank,
    with_throw,
)
from true_compass.core.engine import Engine, Head
from true_compass.core.limits import EngineError

ENGINES = (
    makers.inline(4),
    makers.inline(5),
    makers.inline(6),
    makers.vee(8, 90),
    makers.vee(6, 60, "own"),
    makers.flat(6),
    makers.radial(7),
    makers.square_four(),
)


@pytest.mark.parametrize("engine", ENGINES, ids=lambda engine: engine.layout_words)
def test_nothing_moved_is_nothing_changed(engine: Engine) -> None:
    assert reshaped(engine, engine.layout) == engine
    assert renumbered(engine, engine.layout.seats) == engine


@given(engine=st.sampled_from(ENGINES), data=st.data())
def test_numbers_change_names_and_not_what_fires_where(engine: Engine, data: st.DataObject) -> None:
    """Spelt anew, the order is the old one, or the same places fire one after the other."""
    seats = data.draw(st.permutations(engine.layout.seats))
    try:
        changed = renumbered(engine, seats)
    except EngineError:
        # A master rod belongs to its throw, whatever the numbers are.
        assert engine.layout.articulated is not None
        return
    assert changed.layout.seats == tuple(seats)
    if changed.firing_groups == engine.firing_groups:
        return
    before = [engine.layout.seats[cylinder - 1] for cylinder in engine.firing_order]
    after = [changed.layout.seats[cylinder - 1] for cylinder in changed.firing_order]
    start = before.index(after[0])
    turned = before[start:] + before[:start]
    if all(len(group) == 1 for group in engine.firing_groups):
        assert after == turned


@given(engine=st.sampled_from(ENGINES), data=st.data())
def test_a_moved_throw_keeps_the_order_or_says_what_cannot_fire(
    engine: Engine, data: st.DataObject
) -> None:
    throw = data.draw(st.integers(0, len(engine.layout.throws) - 1))
    angle = data.draw(st.sampled_from([0.0, 45.0, 90.0, 120.0, 180.0, 240.0, 270.0]))
    layout = with_throw(engine.layout, throw, angle)
    found = reshaped(engine, layout)
    if not isinstance(found, Clash):
        assert found.firing_order == engine.firing_order
        assert cannot_follow(layout.tdc_deg, engine.firing_groups) is None
        return
    table = all_orders(layout)
    spelt = [table.order(row) for row in range(len(table))]
    assert engine.firing_order not in spelt or len(engine.firing_groups) != len(engine.firing_order)
    assert (found.nearest in spelt) if found.nearest else not spelt
    if found.nearest:
        assert taking(engine, layout, found.nearest).firing_order == found.nearest
    # Those that could fire do so in rising places, each at one of its own TDCs.
    places = [at for _, at in found.fired_deg]
    assert places == sorted(places)
    for cylinder, at in found.fired_deg:
        assert (at - layout.tdc_deg[cylinder - 1]) % 360.0 == pytest.approx(0.0, abs=1e-6)


def test_the_clash_of_two_pins_changed_about() -> None:
    engine = makers.vee(8, 90)
    engine = taking(engine, engine.layout, (1, 5, 4, 8, 6, 3, 7, 2))
    found = reshaped(engine, throws_changed_about(engine.layout, 2, 3))
    assert isinstance(found, Clash)
    head, body = clash_words(found)
    assert head == "6 cannot fire after 8 here"
    assert body.startswith("With these throws 8 fires at 540°. 6 is at TDC at 0° and 360°")
    assert found.even_count == 8


def test_a_clash_of_cylinders_that_cannot_fire_together() -> None:
    clash = clash_of(makers.inline(4).layout, parse_groups("1+2-3-4"))
    assert clash is not None
    assert clash_words(clash)[0] == "2 cannot fire together with 1 here"


@pytest.mark.parametrize("engine", ENGINES, ids=lambda engine: engine.layout_words)
def test_what_may_fire_next_is_what_some_order_goes_on_with(engine: Engine) -> None:
    """Against all orders of the crank, one beginning after the other."""
    table = all_orders(engine.layout)
    orders = [table.order(row) for row in range(len(table))]
    if not orders:
        return
    begun: tuple[int, ...] = (1,)
    while len(begun) < engine.cylinder_count:
        goes_on = {order[len(begun)] for order in orders if order[: len(begun)] == begun}
        found = {f.cylinder for f in next_firings(engine.layout, begun) if f.possible}
        assert found == goes_on
        assert all(f.why for f in next_firings(engine.layout, begun) if not f.possible)
        begun += (min(goes_on),)


def test_an_order_starts_with_1() -> None:
    found = next_firings(makers.inline(4).layout, ())
    assert [f.cylinder for f in found if f.possible] == [1]


def test_banks_move_as_mirror_images_or_alone() -> None:
    layout = makers.vee(8, 90).layout
    assert [b.angle_deg for b in with_bank(layout, 0, -30.0).banks] == [-30.0, 30.0]
    assert [b.angle_deg for b in with_bank(layout, 0, -30.0, alone=True).banks] == [-30.0, 45.0]
    three = makers.double_u(12).layout
    assert [b.angle_deg for b in with_bank(three, 1, 5.0).banks] == [-60.0, 5.0, 60.0]


@pytest.mark.parametrize(
    ("count", "angle", "snapped"),
    [(4, 100.0, 90.0), (6, 232.0, 240.0), (3, 110.0, 120.0), (5, 350.0, 0.0)],
)
def test_pins_snap_to_firing_intervals(count: int, angle: float, snapped: float) -> None:
    assert snapped_deg(makers.inline(count).layout, angle) == snapped


def test_valves_swapped_twice_are_as_before() -> None:
    engine = makers.vee(6, 60)
    once = with_valves_swapped(engine, (2, 5))
    assert [once.valves_along(bank) for bank in (0, 1)] == ["IEEIIE", "IEEIIE"]
    assert once.head.pattern == "IEEIIE"
    one = with_valves_swapped(engine, (5,))
    assert one.head.pattern == "IEIEIE IEEIIE"
    assert with_valves_swapped(one, (5,)) == engine


@pytest.mark.parametrize(
    ("pattern", "says"),
    [("IEIEIE IEIE", "each of the 3 cylinders"), ("IEIEIE IEIEIE IEIEIE", "each of the 2 heads")],
)
def test_a_pattern_for_each_head_must_fit_it(pattern: str, says: str) -> None:
    engine = makers.vee(6, 60)
    with pytest.raises(EngineError, match=says):
        replace(engine, head=Head(pattern=pattern))


def test_every_family_makes_what_it_says() -> None:
    for family in makers.FAMILIES:
        assert family.usual_count in family.counts
        for variant in family.variants:
            for count in variant.counts:
                engine = variant.make(count, family.angle_of(count))
                assert engine.cylinder_count == count
                assert makers.family_of(engine) is family


def test_an_even_order_is_one_of_the_permutations() -> None:
    # A second derivation of the three: tries all orders of a flat six.
    layout = makers.flat(6).layout
    table = all_orders(layout)
    spelt = {table.order(int(row)) for row in np.flatnonzero(table.even)}
    tried = {
        (1, *rest)
        for rest in permutations(range(2, 7))
        if clash_of(layout, tuple((c,) for c in (1, *rest))) is None
    }
    assert spelt <= tried
