"""Texts of the Engine form: what is shown reads back to the same value; wrong ones are named."""

from collections.abc import Callable
from typing import Any

import pytest

from true_compass.app.workspaces.engine import readers
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_numbers


@pytest.mark.parametrize(
    ("show", "read", "text"),
    [
        (readers.show_durations, readers.read_durations, "250 seat, 216 1mm@tappet"),
        (readers.show_bump, readers.read_bump, "612 700 0.8 10"),
        (readers.show_extras, readers.read_extras, "injector 655 985 14 20 1.6 0"),
        (
            readers.show_extras,
            readers.read_extras,
            "injector 655 985 14 20, brake 655 755 2.2 20 1.3 0.6",
        ),
        (readers.show_advances, readers.read_advances, "A 2 0, B -1.5 3"),
        (readers.show_banks, readers.read_banks, "A -45 ahead, B 45 offset 12"),
        (readers.show_marks, readers.read_marks, "pulley 0 creeps = TDC, flywheel_rim 120"),
        (readers.show_points, readers.read_points, "900:0, 1600:12, 3200:24.5"),
        (readers.show_phrases, readers.read_phrases, "inlet manifold, oil filler"),
        (readers.numbers, parse_numbers, "0 90 270.5 180"),
        (readers.words, readers.read_words, "A A B B"),
    ],
)
def test_shown_texts_read_back(
    show: Callable[[Any], str], read: Callable[[str, str], Any], text: str
) -> None:
    value = read("field", text)
    assert show(value) == text
    assert read("field", show(value)) == value


@pytest.mark.parametrize(
    ("read", "text", "says"),
    [
        (readers.read_durations, "250", "must be like 250 seat"),
        (readers.read_durations, "x seat", "plain number"),
        (readers.read_bump, "612 700", "opens, closes, lift and ramp"),
        (readers.read_bump, "612 700 x", "plain number"),
        (readers.read_extras, "pump 1 2 3", "must be like brake"),
        (readers.read_extras, "brake 1 2", "must be like brake"),
        (readers.read_advances, "A 2", "must be like A 2 0"),
        (readers.read_table, "17 rows", "CSV file"),
        (readers.read_whole, "1.5", "whole number"),
        (readers.read_wholes, "1 2.5", "whole numbers"),
        (readers.read_banks, "A 0 behind", "does not know 'behind'"),
        (readers.read_marks, "pulley", "must be like pulley 0"),
        (readers.read_points, "900", "must be points such as"),
        (readers.read_points, "900:x", "plain number"),
        (readers.maybe, "x", "plain number"),
        (readers.maybe_mm, "3 ft", "must be a length"),
    ],
)
def test_wrong_texts_are_named(read: Callable[[str, str], Any], text: str, says: str) -> None:
    with pytest.raises(EngineError, match=says):
        read("field", text)


@pytest.mark.parametrize("read", [readers.maybe, readers.maybe_mm, readers.read_bump])
def test_nothing_is_none(read: Callable[[str, str], Any]) -> None:
    assert read("field", "  ") is None


@pytest.mark.parametrize(
    "read",
    [readers.read_durations, readers.read_extras, readers.read_advances, readers.read_marks],
)
def test_nothing_is_an_empty_list(read: Callable[[str, str], Any]) -> None:
    assert read("field", "") == []
    assert readers.read_seat("field", "") == "seat"
    assert readers.read_seat("field", "1 mm @ valve") == "1mm@valve"
