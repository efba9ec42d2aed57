import math
from contextlib import nullcontext
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from scipy.optimize import brentq

from true_compass.core.crank import makers
from true_compass.core.crank.firing import parse_firing_order
from true_compass.core.crank.mechanism import piston_height_mm
from true_compass.core.engine import (
    BankAdvance,
    Compression,
    Engine,
    Head,
    Mark,
    Meaning,
    Shaft,
    even_inline,
)
from true_compass.core.items import ExtraKind
from true_compass.core.limits import EngineError
from true_compass.core.rotation import End, Rotation
from true_compass.core.state import Rig
from true_compass.core.valves.cam import (
    DEFAULT_CAM,
    Bump,
    Cam,
    ExtraLobe,
    LiftTable,
    ValveTiming,
    check_band,
    check_bump,
    check_table,
)
from true_compass.core.valves.train import Train

FOUR = even_inline((1, 3, 4, 2))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("1-1-2", "has 1 more than once"),
        ("1-3", "leaves out cylinder 2"),
        ("2-1", "must start with cylinder 1: write 1-2"),
        ("1-x", "has 'x'"),
        ("", "has ''"),
        ("1--2", "has ''"),
        ("0-1", "leaves out cylinder 2"),
        ("-".join(map(str, range(1, 20))), "1 to 18 cylinders, not 19"),
        ("1-²", "has '²'"),
        ("1-99999999999999999999", "has '999999999999'"),
    ],
)
def test_a_wrong_order_is_explained(text: str, says: str) -> None:
    with pytest.raises(EngineError, match=says) as caught:
        parse_firing_order(text)
    assert caught.value.field == "firing_order"


@pytest.mark.parametrize("text", ["1-3-4-2", "1, 3, 4, 2".replace(", ", ","), "1 3 4 2"])
def test_orders_are_read_however_they_are_parted(text: str) -> None:
    assert parse_firing_order(text) == (1, 3, 4, 2)


@pytest.mark.parametrize(
    ("field", "value"),
    [("rod_mm", 40.0), ("rod_mm", math.nan), ("bore_mm", math.inf), ("stroke_mm", -1.0)],
)
def test_an_engine_that_cannot_be_is_not_made(field: str, value: float) -> None:
    change: dict[str, Any] = {field: value}
    with pytest.raises(EngineError) as caught:
        replace(FOUR, **change)
    assert caught.value.field == field


@pytest.mark.parametrize(
    ("timing", "field"),
    [
        (ValveTiming(-80, -80, 9, 0.2), "intake_closes_abdc_deg"),
        (ValveTiming(150, 150, 9, 0.2, ramp_deg=120), "intake_ramp_deg"),
        (ValveTiming(15, 50, math.nan, 0.2), "intake_peak_lift_mm"),
        (ValveTiming(15, 50, 9, -0.1), "intake_lash_mm"),
        (ValveTiming(200, 50, 9, 0.2), "intake_opens_btdc_deg"),
    ],
)
def test_a_cam_that_cannot_be_is_not_made(timing: ValveTiming, field: str) -> None:
    with pytest.raises(EngineError) as caught:
        replace(FOUR, cam=Cam(timing, DEFAULT_CAM.exhaust))
    assert caught.value.field == field


def test_duration_and_overlap_follow_the_identities() -> None:
    # IVO + 180 + IVC, EVO + 180 + EVC and IVO + EVC: common practice, no source.
    cam = Cam(ValveTiming(15, 50, 9, 0.2), ValveTiming(55, 12, 9, 0.3))
    assert (cam.intake.duration_deg, cam.exhaust.duration_deg, cam.overlap_deg) == (245, 247, 27)


@pytest.mark.parametrize(
    ("engine", "words"),
    [
        (makers.inline(1), "single"),
        (makers.inline(2), "inline twin"),
        (makers.inline(3), "inline three"),
        (even_inline(tuple(range(1, 19))), "inline eighteen"),
        (makers.vee(2, 45), "45° V2"),
        (makers.flat(4), "flat four"),
        (makers.double_u(12), "W12"),
        (makers.u_engine(8), "U8"),
        (makers.staggered(6), "15° staggered six"),
        (makers.radial(3), "radial three"),
        (makers.radial(14, 2), "two-row radial fourteen"),
        (makers.square_four(), "square four"),
    ],
)
def test_layouts_have_words(engine: Engine, words: str) -> None:
    assert engine.layout_words == words


def test_where_cylinder_1_stands_alone_it_is_at_the_front() -> None:
    assert makers.inline(1).cylinder_1_at is makers.vee(2, 90).cylinder_1_at is End.FRONT
    for numbering in ("along", "across"):
        for end, first in ((End.FRONT, "A"), (End.REAR, "A"), (End.FRONT, "B"), (End.REAR, "B")):
            eight = makers.vee(8, 90, numbering=numbering, end=end.value, first=first)
            assert eight.cylinder_1_at is end
    assert makers.inline(2, end="rear").cylinder_1_at is End.REAR


@pytest.mark.parametrize(("offset_mm", "least_mm"), [(0.0, 40.0), (12.0, 52.0), (-12.0, 52.0)])
def test_a_rod_must_reach_past_the_crank_and_the_offset(offset_mm: float, least_mm: float) -> None:
    with pytest.raises(EngineError) as caught:
        replace(FOUR, rod_mm=least_mm, pin_offset_mm=offset_mm)
    assert caught.value.field == "rod_mm"
    turns = replace(FOUR, rod_mm=least_mm + 0.01, pin_offset_mm=offset_mm)
    height = piston_height_mm(Rig.of(turns).linkage, np.arange(0.0, 720.0, 0.5)[None, :])
    assert np.all(np.isfinite(height))


def test_the_rod_of_the_worse_bank_decides() -> None:
    """Bores 12 mm aside and pins 5 mm: 17 mm on one bank, 7 mm on the other; the throw is 40 mm."""
    narrow = replace(makers.staggered(4, axis_offset_mm=12.0), pin_offset_mm=5.0)
    assert replace(narrow, rod_mm=57.01).rod_mm == 57.01
    with pytest.raises(EngineError):
        replace(narrow, rod_mm=56.99)


def drawn_swing_mm(engine: Engine, rod_mm: float, hub_mm: float) -> float:
    """Throw, master rod and knuckle pin drawn as vectors: its greatest distance to the side."""
    radius, offset = engine.stroke_mm / 2, engine.pin_offset_mm
    turn = np.radians(np.arange(0.0, 360.0, 0.05))
    tilt = np.arcsin((radius * np.sin(turn) - offset) / rod_mm)
    worst = 0.0
    for row in range(1, engine.cylinder_count):
        bank = np.radians(float(engine.layout.bank_deg[row]))
        pin_x = radius * np.sin(turn) + hub_mm * np.sin(bank - tilt)
        pin_y = radius * np.cos(turn) + hub_mm * np.cos(bank - tilt)
        aside = pin_x * np.cos(bank) - pin_y * np.sin(bank) - offset
        worst = max(worst, float(np.abs(aside).max()))
    return worst


@pytest.mark.parametrize("count", [3, 5, 7, 9])
@pytest.mark.parametrize(("offset_mm", "hub_mm"), [(0.0, 45.0), (8.0, 45.0), (-8.0, 60.0)])
def test_a_link_rod_must_reach_past_its_pins_swing(
    count: int, offset_mm: float, hub_mm: float
) -> None:
    usual = replace(makers.radial(count, hub_mm=hub_mm), rod_mm=250.0, pin_offset_mm=offset_mm)
    least = brentq(lambda rod: rod - hub_mm - drawn_swing_mm(usual, rod, hub_mm), 80.0, 250.0)
    assert replace(usual, rod_mm=least * 1.001).rod_mm > least
    with pytest.raises(EngineError, match="too short"):
        replace(usual, rod_mm=least * 0.999)


def marked(**more: Any) -> dict[str, Any]:
    return {"marks": (Mark("rim", **more),)}


def on_cam(angle_deg: float) -> dict[str, Any]:
    return marked(angle_deg=angle_deg, shaft=Shaft.CAM)


def opening(before_deg: float, after_deg: float, ramp_deg: float = 20.0) -> dict[str, Any]:
    intake = ValveTiming(before_deg, after_deg, 9.0, 0.2, ramp_deg)
    return {"cam": replace(DEFAULT_CAM, intake=intake)}


SOFT = Train(hydraulic=True)


def gaps(intake_mm: float, exhaust_mm: float) -> Cam:
    sides = zip((DEFAULT_CAM.intake, DEFAULT_CAM.exhaust), (intake_mm, exhaust_mm), strict=True)
    intake, exhaust = (replace(side, lash_mm=mm, ramp_mm=0.1) for side, mm in sides)
    return Cam(intake, exhaust)


def with_extras(*extras: ExtraLobe) -> dict[str, Any]:
    return {"cam": replace(DEFAULT_CAM, extras=extras)}


BRAKE = ExtraLobe(ExtraKind.BRAKE)
FIVE_DEG_EARLY = replace(DEFAULT_CAM, intake=replace(DEFAULT_CAM.intake, advance_deg=5.0))


@pytest.mark.parametrize(
    ("accepted", "refused", "field"),
    [
        # The last value that is in, and the first that is not.
        ({}, {"late": (False, True, True)}, "firing_order"),
        ({}, {"late": (True, True, True, False)}, "firing_order"),
        ({"dots_fire": 4}, {"dots_fire": 5}, "dots_fire"),
        ({"dots_fire": 0}, {"dots_fire": -1}, "dots_fire"),
        ({"ring_gear_teeth": 400}, {"ring_gear_teeth": 401}, "ring_gear_teeth"),
        ({"ring_gear_teeth": 0}, {"ring_gear_teeth": -1}, "ring_gear_teeth"),
        ({"camshafts": 8}, {"camshafts": 9}, "camshafts"),
        ({"camshafts": 1}, {"camshafts": 0}, "camshafts"),
        ({"head": Head(1, 1)}, {"head": Head(2, 0)}, "intake_valves"),
        ({"head": Head(3, 2)}, {"head": Head(3, 3)}, "intake_valves"),
        ({"head": Head(1, 2)}, {"head": Head(0, 2)}, "intake_valves"),
        ({"head": Head(pattern="EIIEEIIE")}, {"head": Head(pattern="EIIEEIIX")}, "pattern"),
        ({"head": Head(pattern="IIIIEEEE")}, {"head": Head(pattern="IIIIIEEE")}, "pattern"),
        ({}, {"head": Head(pattern="IEIEIE")}, "pattern"),
        (marked(cylinder=4), marked(cylinder=5), "mark.cylinder"),
        (marked(cylinder=1), marked(cylinder=0), "mark.cylinder"),
        (marked(angle_deg=359.9), marked(angle_deg=360.0), "mark.angle_deg"),
        (on_cam(719.9), on_cam(720.0), "mark.angle_deg"),
        (marked(angle_deg=0.0), marked(angle_deg=-0.1), "mark.angle_deg"),
        (marked(), marked(meaning=Meaning.OTHER), "mark.angle_deg"),
        (with_extras(BRAKE), with_extras(BRAKE, BRAKE), "extra"),
        ({}, with_extras(ExtraLobe(ExtraKind.INJECTOR)), "opens_deg"),
        ({"train": SOFT, "cam": gaps(0, 0)}, {"train": SOFT, "cam": gaps(0, 0.3)}, "intake_mm"),
        ({"train": SOFT, "cam": gaps(0, 0)}, {"train": SOFT, "cam": gaps(0.3, 0)}, "intake_mm"),
        (opening(-70, -70), opening(-70, -70.1), "intake_closes_abdc_deg"),
        (opening(150, 150, 110), opening(150, 150, 110.1), "intake_ramp_deg"),
        ({"cam": FIVE_DEG_EARLY, "camshafts": 2}, {"cam": FIVE_DEG_EARLY}, "intake_advance_deg"),
        (
            {"bank_advances": (BankAdvance("A", 2.0, 4.0),), "camshafts": 2},
            {"bank_advances": (BankAdvance("A", 2.0, 4.0),)},
            "bank_advance",
        ),
    ],
)
def test_edges_of_what_an_engine_can_be(
    accepted: dict[str, Any], refused: dict[str, Any], field: str
) -> None:
    replace(FOUR, **accepted)
    with pytest.raises(EngineError) as caught:
        replace(FOUR, **refused)
    assert caught.value.field == field


def rows_of(count: int) -> LiftTable:
    lifts = (0.0, *([1.0] * (count - 2)), 0.0)
    return LiftTable(tuple(0.1 * row for row in range(count)), lifts)


def stretched(last_deg: float, lifted_gap_deg: float = 60.0) -> LiftTable:
    return LiftTable(
        (0.0, 10, 20, 20 + lifted_gap_deg, 100, 110, last_deg), (0.0, 0, 4, 6, 4, 0, 0)
    )


def first_at(zero_deg: float) -> LiftTable:
    return LiftTable((zero_deg, 50.0, 70, 90, 110, 130, 140), (0.0, 4, 6, 6, 4, 1, 0))


@pytest.mark.parametrize(
    ("accepted", "refused", "says"),
    [
        (Bump(600, 620, 1.0), Bump(600, 619.9, 1.0), "20° or more after"),
        (Bump(60, 700, 1, 30), Bump(60, 700.1, 1, 30), "leave base circle"),
        ((0.2, 0.2), (0.21, 0.2), "lower end first"),
        (rows_of(7), rows_of(6), "7 to 5000 rows, not 6"),
        (rows_of(5000), rows_of(5001), "7 to 5000 rows, not 5001"),
        (stretched(719.9), stretched(720.0), "longer than one cycle"),
        (stretched(300.0), stretched(300.0, 60.1), "60° apart"),
        (first_at(10.0), first_at(-10.1), "60° apart"),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_edges_of_lobes_bands_and_tables(accepted: Any, refused: Any, says: str) -> None:
    for value in (accepted, refused):
        with pytest.raises(EngineError, match=says) if value is refused else nullcontext():
            if isinstance(value, Bump):
                check_bump(value)
            elif isinstance(value, LiftTable):
                check_table("table", value)
            else:
                check_band("accepted_mm", value)


def test_what_is_left_out_is_the_ordinary_engine() -> None:
    assert [valve.count for valve in FOUR.valves] == [1] * 8
    assert FOUR.compression == Compression(9.0, 1.3, 100.0)
    assert (FOUR.bore_mm, FOUR.stroke_mm, FOUR.rod_mm) == (84.0, 80.0, 140.0)
    assert (BRAKE.ratio, BRAKE.lash_mm, BRAKE.turns, BRAKE.height_mm) == (1.0, 0.0, 0.0, 0.0)
    assert (FOUR.camshafts, FOUR.dots_fire, FOUR.damper_mm, FOUR.ring_gear_teeth) == (1, 0, 0, 0)
    assert (FOUR.pin_offset_mm, Mark("rim").cylinder) == (0, 1)


def test_pins_and_bores_beside_the_axis_add_up() -> None:
    engine = replace(makers.staggered(4, axis_offset_mm=12.0), pin_offset_mm=1.5)
    assert engine.offsets_mm.tolist() == [13.5, -10.5, 13.5, -10.5]


@pytest.mark.parametrize(
    ("rotation", "seen_from", "clockwise"),
    [
        (Rotation.CLOCKWISE, End.FRONT, True),
        (Rotation.ANTICLOCKWISE, End.FRONT, False),
        (Rotation.CLOCKWISE, End.REAR, False),
        (Rotation.ANTICLOCKWISE, End.REAR, True),
    ],
)
def test_a_direction_seen_from_the_rear_is_the_other_one(
    rotation: Rotation, seen_from: End, clockwise: bool
) -> None:
    assert replace(FOUR, rotation=rotation, seen_from=seen_from).clockwise_from_front == clockwise
