"""Banks, throws and makers: where every cylinder's dead centres are."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq, minimize_scalar

from tests.tables import rows
from true_compass.core.angles import Floats
from true_compass.core.crank import makers
from true_compass.core.crank.firing import parse_groups
from true_compass.core.crank.layout import (
    Articulated,
    Bank,
    Form,
    Layout,
    Seat,
    Throw,
    turned_about,
)
from true_compass.core.crank.mechanism import Linkage, dead_centres, piston_height_mm
from true_compass.core.crank.phasing import companion_of
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.core.rotation import End
from true_compass.core.state import Rig, engine_state
from true_compass.files.rigs import demo_rig

MILLIDEGREE = 1e-3
NANOMETRE = 1e-6

ALL_MAKERS = {
    "inline": makers.inline,
    "vee": makers.vee,
    "flat": makers.flat,
    "double_u": makers.double_u,
    "staggered": makers.staggered,
    "radial": makers.radial,
    "square_four": makers.square_four,
    "u_engine": makers.u_engine,
}


@pytest.mark.parametrize("row", rows("layouts"), ids=lambda row: row["maker"])
def test_makers_build_what_the_trade_knows(row: dict[str, str]) -> None:
    engine = eval(row["maker"], ALL_MAKERS)  # the table is ours
    assert engine.layout.tdc_deg.tolist() == pytest.approx(
        [float(t) for t in row["tdc_deg"].split()]
    )
    assert engine.fires_evenly == (row["even"] == "yes")
    assert engine.order_text == row["order"]


@pytest.mark.parametrize("row", rows("radial_orders"), ids=lambda row: row["count"])
def test_radial_orders(row: dict[str, str]) -> None:
    engine = makers.radial(int(row["count"]), int(row["rows"]))
    assert engine.order_text == row["order"]
    assert engine.fires_evenly


def test_the_signs() -> None:
    """A pin 120° on from pin 1 has its TDC at 240°, and a bank 45° on comes 45° later."""
    banks = (Bank("A"), Bank("B", 45.0))
    layout = Layout(
        Form.OTHER, banks, (Throw(30.0), Throw(150.0)), (Seat(0, 0), Seat(0, 1), Seat(1, 0))
    )
    assert layout.tdc_deg.tolist() == [0.0, 240.0, 45.0]


def test_a_split_pin_moves_only_the_second_cylinder() -> None:
    banks = (Bank("A", -45.0), Bank("B", 45.0))
    layout = Layout(Form.V, banks, (Throw(0.0, split_deg=-30.0),), (Seat(0, 0), Seat(1, 0)))
    assert layout.tdc_deg.tolist() == [0.0, 120.0]


def test_opposed_pistons_and_a_shared_pin_are_told_apart() -> None:
    boxer, vee = makers.flat(2), makers.vee(2, 180)
    assert companion_of(boxer, 1) == 2
    assert companion_of(vee, 1) is None
    assert vee.intervals_deg in ((180.0, 540.0), (540.0, 180.0))


@pytest.mark.parametrize(
    ("numbering", "end", "first", "second"),
    [("along", "front", 0, 1), ("across", "front", 0, 0), ("along", "rear", 3, 2)],
)
def test_numbering_schemes(numbering: str, end: str, first: int, second: int) -> None:
    seats = makers.vee(8, 90, numbering=numbering, end=end).layout.seats
    assert (seats[0].throw, seats[1].throw) == (first, second)
    assert len(set(seats)) == 8


OFFSET = replace(makers.inline(1), pin_offset_mm=1.0)


def test_a_pin_offset_moves_both_dead_centres() -> None:
    # 1 mm, r 40, rod 140: asin(1/180) and 180 + asin(1/100), by hand.
    centres = dead_centres(Linkage.of(OFFSET))
    assert centres.tdc_deg[0] == pytest.approx(np.degrees(np.arcsin(1 / 180)), abs=MILLIDEGREE)
    assert centres.bdc_deg[0] == pytest.approx(
        180 + np.degrees(np.arcsin(1 / 100)), abs=MILLIDEGREE
    )
    by_hand = np.sqrt(180**2 - 1) - np.sqrt(100**2 - 1)
    assert centres.stroke_mm[0] == pytest.approx(by_hand, abs=NANOMETRE)


def test_at_tdc_follows_the_true_one_and_strokes_the_nominal_one() -> None:
    rig = Rig.of(OFFSET)
    true = float(rig.true_offsets_deg[0])
    state = engine_state(rig, true)
    assert state.piston_from_tdc_mm[0] == pytest.approx(0.0, abs=1e-5)
    assert state.stroke_of(0).word == "power"
    assert bool(state.at_compression_tdc[0])
    assert not bool(engine_state(rig, true - 0.55).at_compression_tdc[0])


def axis(engine: Engine, row: int) -> Floats:
    turned = np.radians(float(engine.layout.bank_deg[row]))
    return np.array([np.sin(turned), np.cos(turned)])


def reach(along_axis: Floats, foot: Floats, length: float) -> float:
    """How far out on an axis the other end of a rod stands."""
    along = float(foot @ along_axis)
    return float(
        brentq(lambda s: np.hypot(*(s * along_axis - foot)) - length, along, along + 2 * length)
    )


def knuckle_by_solving(engine: Engine, row: int, angle_deg: float) -> Floats:
    """Where the foot of a cylinder's rod is: on the pin, or where its master carries it."""
    layout, rods = engine.layout, engine.layout.articulated
    assert rods is not None
    master = rods.masters[layout.seats[row].throw] - 1
    shaft = np.radians(float(layout.bank_deg[row]) + angle_deg)
    pin = engine.stroke_mm / 2 * np.array([np.sin(shaft), np.cos(shaft)])
    if row == master:
        return pin
    top = reach(axis(engine, master), pin, engine.rod_mm)
    rod_way = (top * axis(engine, master) - pin) / engine.rod_mm
    turn = np.radians(float(layout.bank_deg[row] - layout.bank_deg[master]))
    cos, sin = np.cos(turn), np.sin(turn)
    # Bearings grow clockwise from the top, so this turns clockwise.
    return np.asarray(
        pin
        + rods.hub_mm
        * np.array([rod_way[0] * cos + rod_way[1] * sin, rod_way[1] * cos - rod_way[0] * sin])
    )


def height_by_solving(engine: Engine, row: int, angle_deg: float) -> float:
    """A link rod's piston by geometry: solve for the master, hang the knuckle, solve again."""
    rods = engine.layout.articulated
    assert rods is not None
    own = row + 1 == rods.masters[engine.layout.seats[row].throw]
    foot = knuckle_by_solving(engine, row, angle_deg)
    return reach(axis(engine, row), foot, engine.rod_mm - (0.0 if own else rods.hub_mm))


@settings(max_examples=60)
@given(st.integers(0, 8), st.floats(0, 720), st.floats(20, 60))
def test_link_rods_against_a_solver(row: int, angle: float, hub: float) -> None:
    nine = makers.radial(9, hub_mm=hub)
    heights = piston_height_mm(Linkage.of(nine), np.full(9, angle))
    assert heights[row] == pytest.approx(height_by_solving(nine, row, angle), abs=NANOMETRE)


@pytest.mark.parametrize(("count", "hub_mm"), [(3, 40.0), (5, 50.0), (9, 62.0)])
def test_the_shortest_rod_that_turns_over_just_passes_its_knuckle_pin(
    count: int, hub_mm: float
) -> None:
    """The least rod that is accepted, against the farthest swing of the solved linkage."""
    usual = makers.radial(count, hub_mm=hub_mm)

    def with_rod(rod_mm: float) -> Engine | None:
        try:
            return replace(usual, rod_mm=rod_mm)
        except EngineError:
            return None

    refused, accepted = hub_mm + 1.0, usual.rod_mm
    while accepted - refused > 0.01:
        middle = (accepted + refused) / 2
        refused, accepted = (middle, accepted) if with_rod(middle) is None else (refused, middle)
    with pytest.raises(EngineError, match=r"too short: its knuckle pin swings \d"):
        replace(usual, rod_mm=refused)
    shortest = with_rod(accepted)
    assert shortest is not None
    swing_mm = 0.0
    for row in range(1, count):
        aside = axis(shortest, row)[::-1] * np.array([1.0, -1.0])
        for angle in np.arange(0.0, 360.0, 2.0):
            swing_mm = max(swing_mm, abs(float(knuckle_by_solving(shortest, row, angle) @ aside)))
    assert accepted - hub_mm == pytest.approx(swing_mm, abs=0.06)
    every = np.broadcast_to(np.arange(0.0, 360.0, 0.25), (count, 1440))
    assert np.all(np.isfinite(piston_height_mm(Linkage.of(shortest), every)))


def test_true_dead_centres_of_a_nine_against_an_optimiser() -> None:
    nine = makers.radial(9)
    centres = dead_centres(Linkage.of(nine))
    for row in range(9):
        best = minimize_scalar(
            lambda angle, row=row: -height_by_solving(nine, row, angle),
            bounds=(-15, 15),
            method="bounded",
            options={"xatol": 1e-7},
        )
        assert centres.tdc_deg[row] == pytest.approx(best.x, abs=MILLIDEGREE)
    # Link rods move TDC by about 4° on a nine: common practice, no source.
    assert 2.5 < np.max(np.abs(centres.tdc_deg)) < 5.0
    assert centres.tdc_deg[0] == 0.0


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"seats": (Seat(0, 0), Seat(0, 0))}, "1 and 2 in one place"),
        ({"seats": (Seat(0, 0), Seat(0, 7))}, "cylinder 2 on throw 8, but there are 2"),
        ({"seats": tuple(Seat(0, n) for n in range(200))}, "must be 1 to 18, not 200"),
        ({"throws": (Throw(0.0), Throw(1e9))}, "pin_deg|from -720 to 720"),
        ({"typed_tdc_deg": (0.0,)}, "has 1 angles for 2 cylinders"),
        ({"articulated": Articulated((1,), 30.0)}, "one master cylinder a throw"),
        ({"articulated": Articulated((1, 1), 30.0)}, "names cylinder 1, which is not on throw 2"),
    ],
)
def test_a_layout_that_cannot_be_is_explained(change: dict[str, object], says: str) -> None:
    with pytest.raises(EngineError, match=says):
        replace(makers.inline(2).layout, **change)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "call",
    [
        lambda: makers.inline(9),
        lambda: makers.inline(5, "180"),
        lambda: makers.vee(7, 90),
        lambda: makers.vee(8, 90, pins="three"),
        lambda: makers.vee(8, 90, numbering="backwards"),
        lambda: makers.flat(14),
        lambda: makers.double_u(12, 5),
        lambda: makers.vee(8, float("nan")),
        lambda: makers.double_u(12, 4, 150.0),
        lambda: makers.staggered(9),
        lambda: makers.radial(20, 2),
        lambda: makers.u_engine(5),
    ],
)
def test_makers_refuse_what_they_do_not_know(call: object) -> None:
    assert callable(call)
    with pytest.raises(EngineError):
        call()


def height_with_offsets(engine: Engine, row: int, angle_deg: float) -> float:
    """A link rod's piston with every axis beside the crank's centre, by solving twice.

    No formula of the program is used: the master's end of rod is found on its own offset axis, the
    knuckle hangs on the rod's direction, and the link's end is found on its offset axis.
    """
    layout, rods = engine.layout, engine.layout.articulated
    assert rods is not None
    master = rods.masters[layout.seats[row].throw] - 1

    def end_of(of: int, foot: Floats, length: float) -> tuple[Floats, float]:
        way = axis(engine, of)
        aside = np.array([way[1], -way[0]]) * float(engine.offsets_mm[of])
        along = float((foot - aside) @ way)
        s = brentq(
            lambda s: np.hypot(*(s * way + aside - foot)) - length, along, along + 2 * length
        )
        return s * way + aside, float(s)

    shaft = np.radians(float(layout.bank_deg[row]) + angle_deg)
    pin = engine.stroke_mm / 2 * np.array([np.sin(shaft), np.cos(shaft)])
    top, height = end_of(master, pin, engine.rod_mm)
    if row == master:
        return height
    rod_way = (top - pin) / engine.rod_mm
    turn = np.radians(float(layout.bank_deg[row] - layout.bank_deg[master]))
    cos, sin = np.cos(turn), np.sin(turn)
    hung = np.array([rod_way[0] * cos + rod_way[1] * sin, rod_way[1] * cos - rod_way[0] * sin])
    knuckle = pin + rods.hub_mm * hung
    return end_of(row, knuckle, engine.rod_mm - rods.hub_mm)[1]


@settings(max_examples=40)
@given(st.integers(0, 8), st.floats(0, 720), st.floats(20, 60), st.floats(-6, 6))
def test_link_rods_of_an_offset_master_against_a_solver(
    row: int, angle: float, hub: float, offset: float
) -> None:
    nine = replace(makers.radial(9, hub_mm=hub), pin_offset_mm=offset)
    heights = piston_height_mm(Linkage.of(nine), np.full(9, angle))
    assert heights[row] == pytest.approx(height_with_offsets(nine, row, angle), abs=1e-9)


def test_dead_centres_of_a_nine_with_an_offset() -> None:
    nine = replace(demo_rig("acacia"), pin_offset_mm=3.0)
    centres = dead_centres(Linkage.of(nine))
    for row, sign in ((4, -1.0), (4, 1.0), (7, -1.0)):
        place = centres.tdc_deg[row] if sign < 0 else centres.bdc_deg[row]
        best = minimize_scalar(
            lambda at, row=row, sign=sign: sign * height_with_offsets(nine, row, at),
            bounds=(place - 10, place + 10),
            method="bounded",
            options={"xatol": 1e-7},
        )
        assert place == pytest.approx(best.x, abs=MILLIDEGREE)
    assert centres.tdc_deg[4] == pytest.approx(2.11, abs=0.005)


@pytest.mark.parametrize("hub_mm", [20.0, 60.0, 100.0, 120.0])
def test_dead_centres_are_the_highest_and_the_lowest_however_long_the_hub(hub_mm: float) -> None:
    """Against every tenth of a degree: a long hub lets a piston turn about more than twice."""
    for count in (3, 5, 7, 9):
        engine = replace(makers.radial(count), rod_mm=260.0)
        try:
            layout = replace(engine.layout, articulated=Articulated((1,), hub_mm))
            engine = replace(engine, layout=layout)
        except EngineError:
            continue
        linkage = Linkage.of(engine)
        centres = dead_centres(linkage)
        every = np.broadcast_to(np.arange(0.0, 360.0, 0.1), (count, 3600))
        heights = piston_height_mm(linkage, every)
        assert centres.top_mm == pytest.approx(heights.max(axis=1), abs=1e-3)
        assert centres.stroke_mm == pytest.approx(np.ptp(heights, axis=1), abs=2e-3)


@given(st.floats(-80, 80), st.booleans())
def test_a_second_crank_against_the_first_is_at_tdc_where_it_is_drawn(
    bank_deg: float, against: bool
) -> None:
    """Turn the second crank as it is built until its pin lies in its bank: no formula is used."""
    banks = (Bank("A"), Bank("B", bank_deg))
    throws = (Throw(0.0), Throw(30.0, second_crank=True))
    layout = Layout(Form.U, banks, throws, (Seat(0, 0), Seat(1, 1)), second_crank_against=against)
    at_tdc_of_1 = 0.0  # pin 1 stands in bank A, which is at 0°
    way = -1.0 if against else 1.0
    # Its own pin stands 30° on in its own running direction, and moves in that direction.
    turned = np.arange(0.0, 360.0, 0.01)
    pin_bearing = way * (30.0 + at_tdc_of_1 + turned)
    away = np.abs((pin_bearing - bank_deg + 180.0) % 360.0 - 180.0)
    found = turned[int(np.argmin(away))]
    difference = (layout.tdc_deg[1] - found + 180.0) % 360.0 - 180.0
    assert abs(difference) < 0.01


@pytest.mark.parametrize(
    ("make", "order"),
    [
        # The two commonest orders of a cross-crank V8 and of a flat six (common practice, no
        # source); cylinder 1 stands on the later bank.
        (lambda first: makers.vee(8, 90, numbering="across", first=first), "1-8-4-3-6-5-7-2"),
        (lambda first: makers.flat(6, numbering="along", first=first), "1-6-2-4-3-5"),
    ],
)
def test_makers_try_both_banks_and_both_hands(make: Callable[[str], Engine], order: str) -> None:
    groups = parse_groups(order)
    engine = makers.to_order((make(first) for first in "AB"), groups)
    assert engine.order_text == order
    assert engine.fires_evenly
    with pytest.raises(EngineError, match="cannot follow"):
        makers.to_order([makers.inline(4)], parse_groups("1-2-3-4"))


@pytest.mark.parametrize(
    ("count", "crank"), [(4, "usual"), (6, "usual"), (8, "usual"), (8, "flat")]
)
@pytest.mark.parametrize("angle", [45.0, 60.0, 90.0])
def test_turned_pins_fire_as_evenly_as_any_turn_of_them(
    count: int, crank: str, angle: float
) -> None:
    """Against turning the second bank's pins through every multiple of 7.5°."""
    engine = makers.vee(count, angle, "own", crank)
    layout, least = engine.layout, []
    second = {seat.throw for seat in layout.seats if seat.bank == 1}
    for by in np.arange(0.0, 360.0, 7.5):
        throws = tuple(
            replace(throw, angle_deg=(throw.angle_deg + by) % 360) if place in second else throw
            for place, throw in enumerate(layout.throws)
        )
        turned = makers.made(replace(layout, throws=throws))
        if len(turned.firing_groups) == count:
            least.append(min(turned.intervals_deg))
    assert min(engine.intervals_deg) >= max(least) - 1e-6


def test_a_flat_v12_with_turned_pins_fires_evenly_in_eight_places() -> None:
    # Two pins a bank leave four places in two turns; two banks make eight, 90° apart.
    for pins in ("own", "split"):
        twelve = makers.vee(12, 60, pins, "flat")
        assert twelve.intervals_deg == pytest.approx((90.0,) * 8)
        assert twelve.fires_evenly


def test_typed_dead_centres_are_told_from_that_of_cylinder_1() -> None:
    typed = replace(makers.inline(3).layout, form=Form.OTHER, typed_tdc_deg=(30.0, 150.0, 20.0))
    assert typed.tdc_deg.tolist() == [0.0, 120.0, 350.0]


@pytest.mark.parametrize("count", range(2, 9))
def test_cylinder_1_at_the_rear_keeps_every_tdc_and_changes_every_place(count: int) -> None:
    front, rear = makers.inline(count), makers.inline(count, end="rear")
    assert rear.cylinder_1_at is End.REAR
    assert rear.layout.tdc_deg == pytest.approx(front.layout.tdc_deg)
    assert rear.order_text == front.order_text
    assert rear.layout.on_bank(0) == tuple(reversed(front.layout.on_bank(0)))
    assert turned_about(turned_about(front.layout)) == front.layout
