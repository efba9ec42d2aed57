"""Limits of numbers, against those that the published schema of the engine file holds."""

import json
import math
from pathlib import Path
from typing import Any

import pytest

from true_compass.core.limits import LIMITS, EngineError, check_number

SCHEMA = Path(__file__).parents[2] / "docs" / "schemas" / "engine.schema.json"
# Fields that no engine file has: they are worked out, or typed elsewhere.
NOT_IN_FILES = {"between_banks_deg", "check_lift_mm"}


def schema_limits(part: Any) -> set[tuple[float, float]]:
    if isinstance(part, list):
        return set().union(*map(schema_limits, part)) if part else set()
    if not isinstance(part, dict):
        return set()
    own = {(part["minimum"], part["maximum"])} if {"minimum", "maximum"} <= part.keys() else set()
    return own.union(*map(schema_limits, part.values()))


def test_every_limit_is_one_that_is_published() -> None:
    published = schema_limits(json.loads(SCHEMA.read_text(encoding="utf-8")))
    odd = {field for field, limits in LIMITS.items() if limits not in published}
    assert odd <= NOT_IN_FILES
    assert LIMITS["between_banks_deg"] == (1.0, 180.0)
    assert LIMITS["check_lift_mm"] == (0.01, 100.0)


@pytest.mark.parametrize("field", LIMITS)
def test_both_ends_are_in_and_nothing_beyond(field: str) -> None:
    least, most = LIMITS[field]
    assert least < most
    for value in (least, most, (least + most) / 2):
        check_number(field, value)
    for value in (math.nextafter(least, -math.inf), math.nextafter(most, math.inf), math.nan):
        with pytest.raises(EngineError, match=f"must be from {least:g} to {most:g}"):
            check_number(field, value)


def test_a_unit_is_told_where_the_field_has_one() -> None:
    for field, words in (("rod_mm", "10000 mm, not 5"), ("ramp_deg", "120 deg, not -1")):
        with pytest.raises(EngineError, match=words):
            check_number(field, 5.0 if field == "rod_mm" else -1.0)
    with pytest.raises(EngineError, match=r"to 4, not 9"):
        check_number("ratio", 9.0)
