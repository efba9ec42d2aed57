"""What people type: point or comma, mm or thou, N·m or lbf·ft; what is doubtful is asked back."""

import pytest
from scipy import constants

from true_compass.core.limits import EngineError
from true_compass.core.units import (
    GapUnit,
    ImplausibleGapError,
    band_words,
    gap_words,
    parse_gap_mm,
    parse_length_mm,
    parse_number,
    parse_numbers,
    parse_torque_nm,
)


@pytest.mark.parametrize(
    ("text", "unit", "mm"),
    [
        ("0.2", GapUnit.MM, 0.2),
        ("0,2", GapUnit.MM, 0.2),
        ("8 thou", GapUnit.MM, 0.2032),
        ("8", GapUnit.THOU, 0.2032),
        ("0.2 mm", GapUnit.THOU, 0.2),
        ("0", GapUnit.MM, 0.0),
        ("0.008 in", GapUnit.MM, 0.2032),
        ("1.0", GapUnit.MM, 1.0),  # four times the target is the most
    ],
)
def test_a_gap_goes_by_its_written_unit_or_that_of_the_blades(
    text: str, unit: GapUnit, mm: float
) -> None:
    assert parse_gap_mm(text, unit, 0.25) == pytest.approx(mm, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "unit", "target", "asks"),
    [
        ("8", GapUnit.MM, 0.25, "is 8 mm? 8 thou is 0.20 mm"),
        ("25", GapUnit.MM, 0.25, "is 25 mm? 25 thou is 0.64 mm"),
        ("1.01", GapUnit.MM, 0.25, "is 1.01 mm?"),
        ("2.1", GapUnit.MM, 0.9, "is 2.1 mm?"),
        ("2.1", GapUnit.MM, 0.0, "is 2.1 mm?"),
        ("60 thou", GapUnit.MM, 0.25, "is 60 thou?"),
        ("60", GapUnit.THOU, 0.25, "is 60 thou?"),
        ("1.5", GapUnit.THOU, 0.005, "is 1.5 thou? 1.5 mm is 59.1 thou"),
        ("1.5 mm", GapUnit.THOU, 0.25, "is 1.5 mm? 1.5 thou is 0.04 mm"),
    ],
)
def test_what_can_hardly_be_a_gap_is_asked_back(
    text: str, unit: GapUnit, target: float, asks: str
) -> None:
    with pytest.raises(ImplausibleGapError, match=asks.replace("?", r"\?")) as asked:
        parse_gap_mm(text, unit, target)
    assert asked.value.gap_mm == pytest.approx(parse_length_mm("x", text, unit.value))
    # Where nothing is known of a target only 2 mm bounds it.
    assert parse_gap_mm("2", GapUnit.MM, 0.0) == 2.0


@pytest.mark.parametrize("text", ["-0.1", "x", "", "0.2 kg", "1,200", "0,125", "9" * 50, "1e5"])
def test_what_is_no_gap_is_said(text: str) -> None:
    with pytest.raises(EngineError):
        parse_gap_mm(text, GapUnit.MM, 0.25)


@pytest.mark.parametrize("text", ["5 mm", "15 deg", "nan", "inf", "x", ""])
def test_a_plain_number_has_no_unit_and_an_end(text: str) -> None:
    with pytest.raises(EngineError):
        parse_number("ratio", text)


def test_a_row_of_numbers() -> None:
    assert parse_numbers("pins_deg", " 0 240; 120,5 ") == [0.0, 240.0, 120.5]
    assert parse_numbers("pins_deg", "") == []


def test_a_comma_before_three_digits_is_asked_back() -> None:
    with pytest.raises(EngineError, match=r"may be 1200 or 1\.200"):
        parse_number("stroke_mm", "1,200")
    assert [parse_number("x", text) for text in ("1,5", "1.200", "\u22121,25", "15°")] == [
        1.5,
        1.2,
        -1.25,
        15.0,
    ]


@pytest.mark.parametrize("text", ["20 lbf·ft", "20 ft-lb", "20 lbf ft", "20 lb.ft"])
def test_torques_against_the_constants_of_scipy(text: str) -> None:
    expected = 20 * constants.pound_force * constants.foot
    assert parse_torque_nm("torque_nm", text) == pytest.approx(expected, rel=1e-12)


def test_torques_in_newton_metres_and_wrong_ones() -> None:
    assert [parse_torque_nm("t", text) for text in ("27", "27 N·m", "27 Nm")] == [27.0] * 3
    with pytest.raises(EngineError, match="a torque such as 27 N·m or 20 lbf·ft"):
        parse_torque_nm("t", "27 kg")


def test_gaps_and_bands_are_shown_in_both_units_the_blades_first() -> None:
    # 0.001 in is 0.0254 mm: 0.15 mm is 5.9 thou (arithmetic).
    assert gap_words(0.15) == "0.15 mm (5.9 thou)"
    assert gap_words(10 * 0.0254, GapUnit.THOU) == "10 thou (0.25 mm)"
    assert band_words((0.15, 0.25)) == "0.15 to 0.25 mm"
    assert band_words((6 * 0.0254, 10 * 0.0254), GapUnit.THOU) == "6 to 10 thou"
