import math
from dataclasses import replace

import pytest

from true_compass.core.cam import DEFAULT_CAM, Cam, ValveTiming
from true_compass.core.engine import even_inline
from true_compass.core.firing import parse_firing_order
from true_compass.core.limits import EngineError

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
    with pytest.raises(EngineError) as caught:
        replace(FOUR, **{field: value})
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
    ("count", "words"), [(1, "single"), (6, "inline six"), (18, "inline eighteen")]
)
def test_layouts_have_words(count: int, words: str) -> None:
    assert even_inline(tuple(range(1, count + 1))).layout_words == words
