"""What is set at an engine: which items there are, how each is measured, and what it is judged by.

Bands, windows and the change a turn makes are common practice, no source; figures are worked by
hand.
"""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from true_compass.core.adjusting.setting import (
    Setting,
    Tools,
    Way,
    setting_of,
    settings_at,
    settings_of,
)
from true_compass.core.engine import Engine
from true_compass.core.items import Kind, item_named
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.valves.cam import Method
from true_compass.core.valves.train import Adjuster, LashAt, Train, TrainKind
from true_compass.files.rigs import demo_rig, rig_names

BIRCH, HICKORY = demo_rig("birch"), demo_rig("hickory")


def with_train(engine: Engine, **more: Any) -> Engine:
    return replace(engine, train=replace(engine.train, **more))


def with_extra(at: int, **more: Any) -> Engine:
    """Hickory, whose injectors (0) or brakes (1) are set otherwise."""
    extras = list(HICKORY.cam.extras)
    extras[at] = replace(extras[at], **more)
    return replace(HICKORY, cam=replace(HICKORY.cam, extras=tuple(extras)))


def one(engine: Engine, name: str) -> Setting:
    return setting_of(engine, item_named(name))


# Which items there are ------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("rig", "count", "first"),
    [
        ("birch", 12, "I1 E1 I2 E2"),
        ("fir", 1, "E1"),  # the intake is an automatic valve
        ("cedar", 16, "I1 E1 I2 E2"),
        ("maple", 16, "I1a I1b E1a E1b"),
        ("hickory", 42, "I1 bridge, I1, I1 variable, E1 bridge, E1, B1, I2 bridge"),
    ],
)
def test_every_adjuster_is_one_item_in_the_order_of_the_hand(
    rig: str, count: int, first: str
) -> None:
    names = [setting.name for setting in settings_of(demo_rig(rig))]
    expected = first.split(", ") if "," in first else first.split()
    assert len(names) == len(set(names)) == count
    assert names[: len(expected)] == expected


@pytest.mark.parametrize("rig", rig_names())
def test_each_belongs_to_an_item_of_the_plan_and_no_item_of_the_plan_is_empty(rig: str) -> None:
    engine = demo_rig(rig)
    due = {setting.due for setting in settings_of(engine)}
    assert due == set(Rig.of(engine).items)
    assert [s for item in Rig.of(engine).items for s in settings_at(engine, item)] != []
    for setting in settings_of(engine):
        assert setting_of(engine, setting.item) is setting
        assert setting in settings_at(engine, setting.due)


def test_four_valves_over_bridges_are_set_by_two_rockers() -> None:
    """Without a screw in the bridge there is a third less to set than with one."""
    names = {setting.name for setting in settings_of(with_train(HICKORY, bridge_screw=False))}
    assert len(names) == 30
    assert not any("bridge" in name for name in names)


def test_what_an_engine_does_not_have_is_refused() -> None:
    with pytest.raises(EngineError, match="U1, and this engine has none"):
        one(BIRCH, "U1")


# The gap, where it is measured ----------------------------------------------------------------


@pytest.mark.parametrize("rig", rig_names())
def test_a_gap_is_closed_exactly_where_its_valve_lifts(rig: str) -> None:
    """A second derivation: the gap is the target less the lobe's lift as it comes to that place;
    below nothing the valve is off its seat. By lobes, ratios and lash of `core.valves` alone.
    """
    engine = demo_rig(rig)
    lobes = Rig.of(engine).lobes
    crank_deg = np.arange(0.0, 720.0, 0.5)
    lobe_mm, lift_mm = lobes.lobe_mm(crank_deg), lobes.lift_mm(crank_deg)
    for setting in settings_of(engine):
        if setting.way is Way.GAP and setting.item.is_valve:
            gap_mm = setting.target_mm - setting.lobe_share * lobe_mm[setting.row]
            sure = np.abs(gap_mm) > 1e-9
            assert np.array_equal((gap_mm < 0)[sure], (lift_mm[setting.row] > 0)[sure])


@pytest.mark.parametrize(
    ("adjuster", "lash_at", "per_turn_mm", "shim"),
    [
        # Rocker 1.5, pitch 1 mm. The screw's own end moves by the pitch, the other end by the
        # lever: at the push rod 1.5 at the valve, and 1 where the gap is measured there too.
        (Adjuster.VALVE_SCREW, LashAt.VALVE, 1.0, 1.0),
        (Adjuster.ROD_SCREW, LashAt.VALVE, 1.5, 1.0),
        (Adjuster.ROD_SCREW, LashAt.ROD_END, 1.0, 1.5),
        (Adjuster.PIVOT_NUT, LashAt.VALVE, 2.5, 1.0),
        (Adjuster.STUD_NUT, LashAt.CAM, 2.5 / 1.5, 1.5),
        (Adjuster.PIVOT_SCREW, LashAt.CAM, 0.5 / 1.5, 1.5),
        (Adjuster.SHIM, LashAt.CAM, 0.0, 1.5),
        (Adjuster.NONE, LashAt.VALVE, 0.0, 1.0),
    ],
)
def test_what_a_turn_and_a_shim_change(
    adjuster: Adjuster, lash_at: LashAt, per_turn_mm: float, shim: float
) -> None:
    kind = TrainKind.FINGER if adjuster is Adjuster.PIVOT_SCREW else TrainKind.PUSH_ROD
    train = Train(kind, intake_ratio=1.5, adjuster=adjuster, thread="M8x1", lash_at=lash_at)
    setting = one(replace(BIRCH, train=train), "I1")
    assert setting.per_turn_mm == pytest.approx(per_turn_mm)
    assert setting.shim_per_gap == shim
    assert setting.can_be_set == (adjuster is not Adjuster.NONE)
    assert not setting.turn_assumed


def test_without_a_thread_the_turn_is_assumed_from_the_usual_one() -> None:
    setting = one(with_train(BIRCH, adjuster=Adjuster.VALVE_SCREW, thread=""), "E2")
    assert setting.turn_assumed
    assert setting.per_turn_mm == 1.0


@pytest.mark.parametrize(
    ("lash_mm", "accepted_mm", "band_mm"),
    [
        (0.25, None, (0.20, 0.30)),
        (0.12, None, (0.07, 0.17)),
        (0.10, None, (0.07, 0.13)),
        (0.02, None, (0.00, 0.05)),
        (0.25, (0.22, 0.26), (0.22, 0.26)),
    ],
)
def test_a_band_is_the_files_or_so_much_about_the_target(
    lash_mm: float, accepted_mm: tuple[float, float] | None, band_mm: tuple[float, float]
) -> None:
    cam = replace(BIRCH.cam, intake=replace(BIRCH.cam.intake, lash_mm=lash_mm))
    engine = with_train(replace(BIRCH, cam=cam), intake_accepted_mm=accepted_mm)
    setting = one(engine, "I4")
    assert setting.band_mm == pytest.approx(band_mm)
    assert setting.band_assumed == (accepted_mm is None)
    low, high = setting.band_mm
    assert [setting.holds(mm) for mm in (low - 0.001, low, high, high + 0.001)] == [
        *(False, True, True, False)
    ]


# Plungers, bridges, levers, injectors and brakes ----------------------------------------------


@pytest.mark.parametrize(
    ("preload_mm", "window_mm", "assumed"),
    [
        (None, (0.5, 1.5), True),
        ((0.8, 1.4), (0.8, 1.4), False),
        ((0.5, 0.7), (0.5, 0.7), False),
        ((1.0, 1.0), (0.8, 1.2), True),
        ((0.1, 0.1), (0.0, 0.3), True),
    ],
)
def test_how_far_a_plunger_is_pushed_in(
    preload_mm: tuple[float, float] | None, window_mm: tuple[float, float], assumed: bool
) -> None:
    setting = one(with_train(demo_rig("cedar"), preload_mm=preload_mm), "E8")
    assert setting.way is Way.PLUNGER
    assert setting.band_mm == pytest.approx(window_mm)
    assert setting.target_mm == pytest.approx(sum(window_mm) / 2)
    assert setting.band_assumed == assumed


def test_a_plunger_moves_by_what_the_nut_moves_its_end_of_the_rocker() -> None:
    """Common practice, no source: 3/8-24 on the pivot at 1.5 is 1.76 mm of plunger a turn."""
    train = Train(
        hydraulic=True,
        intake_ratio=1.5,
        exhaust_ratio=1.5,
        adjuster=Adjuster.PIVOT_NUT,
        thread="3/8-24",
    )
    engine = replace(demo_rig("cedar"), train=train)
    assert one(engine, "I1").per_turn_mm == pytest.approx(1.764, abs=0.001)
    bare = replace(engine, train=replace(train, adjuster=Adjuster.NONE))
    assert one(bare, "I1").per_turn_mm == 0.0
    assert not one(bare, "I1").can_be_set


def test_a_bridge_has_its_own_tools_and_no_gap() -> None:
    engine = with_train(
        HICKORY,
        key="6 mm key",
        spanner="17 mm",
        torque_nm=40.0,
        bridge_key="5 mm key",
        bridge_spanner="13 mm",
        bridge_torque_nm=25.0,
    )
    bridge, lever = one(engine, "I2 bridge"), one(engine, "I2 variable")
    assert bridge.way is Way.BRIDGE
    assert (bridge.target_mm, bridge.band_mm) == (0.0, (-0.03, 0.03))
    assert bridge.tools == Tools("5 mm key", "13 mm", 25.0)
    assert lever.tools == Tools("6 mm key", "17 mm", 40.0)
    assert lever.way is Way.GAP
    assert lever.target_mm == HICKORY.train.variable_intake_mm
    assert lever.lobe_share == HICKORY.train.intake_ratio


def test_an_injector_is_set_by_height_or_from_contact_and_a_brake_by_a_blade() -> None:
    by_height = one(with_extra(0, method=Method.HEIGHT, height_mm=78.8), "U3")
    assert (by_height.way, by_height.target_mm) == (Way.HEIGHT, 78.8)
    assert by_height.band_mm == pytest.approx((78.7, 78.9))
    unknown = one(with_extra(0, method=Method.HEIGHT, height_mm=0.0), "U3")
    assert unknown.target_mm == 60.0

    turned = one(with_extra(0, method=Method.CONTACT, turns=0.5, thread="M10x1.5"), "U3")
    assert (turned.way, turned.target_mm) == (Way.CONTACT, 0.75)
    assert turned.band_mm == pytest.approx((0.6375, 0.8625))
    assert not turned.turn_assumed
    usual = one(with_extra(0, method=Method.CONTACT, turns=0.0, thread="M10x1.5"), "U3")
    assert usual.target_mm == 0.375

    blade = with_extra(1, method=Method.BLADE, lash_mm=0.6, accepted_mm=(0.58, 0.66))
    brake = one(blade, "B2")
    assert (brake.way, brake.target_mm, brake.band_mm) == (Way.GAP, 0.6, (0.58, 0.66))
    assert not brake.band_assumed
    about = one(with_extra(1, method=Method.BLADE, lash_mm=0.6, accepted_mm=None), "B2")
    assert about.band_mm == pytest.approx((0.55, 0.65))
    assert about.band_assumed


def test_each_extra_rides_on_its_own_lobe_or_on_the_exhaust_rocker() -> None:
    valves = 2 * HICKORY.cylinder_count
    rows = [one(HICKORY, f"U{cylinder}").row for cylinder in HICKORY.cylinders]
    assert min(rows) >= valves
    assert len(set(rows)) == HICKORY.cylinder_count
    riding = with_extra(1, bump=None)
    assert one(riding, "B4").row == one(riding, "E4").row
    assert one(riding, "B4").lobe_share == HICKORY.train.exhaust_ratio


# Nuts -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("adjuster", "locknut"),
    [
        (Adjuster.VALVE_SCREW, True),
        (Adjuster.ROD_SCREW, True),
        (Adjuster.PIVOT_SCREW, True),
        (Adjuster.STUD_NUT, True),
        (Adjuster.PIVOT_NUT, False),
        (Adjuster.PEDESTAL, False),
        (Adjuster.SHIM, False),
        (Adjuster.NONE, False),
    ],
)
def test_which_adjusters_have_a_nut_to_torque_in_the_last_round(
    adjuster: Adjuster, locknut: bool
) -> None:
    kind = TrainKind.FINGER if adjuster is Adjuster.PIVOT_SCREW else TrainKind.PUSH_ROD
    setting = one(with_train(BIRCH, kind=kind, adjuster=adjuster), "I1")
    assert setting.has_locknut == setting.nut_in_last_round == locknut
    assert not setting.seats


def test_bridges_go_into_the_last_round_injectors_do_not() -> None:
    names = {"I1 bridge": True, "I1": True, "E1": True, "B1": True, "U1": False}
    for name, last in names.items():
        assert one(HICKORY, name).nut_in_last_round == last
    contact = with_extra(0, method=Method.CONTACT, turns=0.5)
    assert not one(contact, "U1").nut_in_last_round


def test_only_the_bolt_of_a_hydraulic_pedestal_is_turned_to_a_seat() -> None:
    cedar = demo_rig("cedar")
    assert one(with_train(cedar, adjuster=Adjuster.PEDESTAL), "I1").seats
    assert not one(with_train(cedar, adjuster=Adjuster.STUD_NUT), "I1").seats
    assert one(cedar, "I1").item.kind is Kind.INTAKE
