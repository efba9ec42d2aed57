"""Engines from a line of words, and the cranks that fire in an order."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.changes import with_order
from true_compass.core.crank import makers
from true_compass.core.crank.firing import parse_groups
from true_compass.core.crank.wished import more_even, offers, parse_wish, unevenness
from true_compass.core.findings import Severity, findings, is_very_uneven
from true_compass.core.limits import EngineError
from true_compass.files.rigs import demo_rig, rig_names

# Line; the first offer's crank and gaps. Orders of the trade (common practice, no source).
LINES = [
    ("inline five 1-3-5-4-2", "Crank 0/144/216/288/72, gaps 144°"),
    ("1-2-4-5-3", "Crank 0/216/144/72/288, gaps 144°"),
    ("I6 1-4-2-6-3-5", "Crank 0/120/240, gaps 120°"),
    ("V8 90° 1-8-4-3-6-5-7-2", "Crank 0/90/270/180, gaps 90°"),
    ("v12 60 deg 1-7-5-11-3-9-6-12-2-8-4-10", "Crank 0/240/120, gaps 60°"),
    ("flat four 1-4-3-2", "Crank 0/180, gaps 180°"),
    ("radial nine", "Crank 0, gaps 80°"),
    ("inline four 1 - 3 - 4 - 2", "Crank 0/180, gaps 180°"),
]


@pytest.mark.parametrize(("line", "head"), LINES)
def test_what_fires_so(line: str, head: str) -> None:
    found = offers(parse_wish(line))
    assert found[0].head == head
    assert [one.unevenness for one in found] == sorted(one.unevenness for one in found)


def test_a_six_of_90_degrees_that_counts_through_has_gaps_of_90_and_150() -> None:
    told = [one.head for one in offers(parse_wish("V6 90° 1-2-3-4-5-6"))]
    assert "Crank 0/120/240, gaps 90 and 150°" in told


@given(st.permutations(range(2, 7)))
def test_every_inline_six_that_is_offered_fires_as_it_was_asked(rest: list[int]) -> None:
    text = "-".join(map(str, [1, *rest]))
    found = offers(parse_wish(f"inline six {text}"))
    # Whatever the order, pins can be put so that it is even: the last way always works.
    assert found[0].unevenness == pytest.approx(0.0, abs=1e-6)
    assert all(one.engine.order_text == text for one in found)


WRONG = [
    ("V5 1-2-3-4-5", "V is built with"),
    ("inline 4 1-2-3", "names 3 cylinders, and the layout has 4"),
    ("banana 6", "'banana'"),
    ("V", "names no cylinders"),
    ("inline four 1-1-2-3", "more than once"),
]


@pytest.mark.parametrize(("line", "said"), WRONG)
def test_what_cannot_be_read_says_how_it_is_written(line: str, said: str) -> None:
    with pytest.raises(EngineError) as caught:
        parse_wish(line)
    assert said in caught.value.in_words


def test_an_absurd_engine_is_worth_a_look_and_has_a_way_out() -> None:
    engine = with_order(makers.vee(6, 90), parse_groups("1-4-2-5-3-6"))
    assert engine.intervals_deg == pytest.approx((90, 390, 90, 30, 90, 30))
    found = [one for one in findings(engine) if one.field == "firing_order"]
    assert found[0].severity is Severity.LOOK
    assert found[0].sentence == "Firing is uneven: gaps of 30°, 90°, 390°."
    offer = more_even(engine)
    assert offer is not None
    assert offer.engine.order_text == "1-4-2-5-3-6"
    assert (unevenness(offer.engine), offer.engine.bore_mm) == (0.0, engine.bore_mm)


@pytest.mark.parametrize("name", rig_names())
def test_no_demo_rig_is_called_absurd(name: str) -> None:
    engine = demo_rig(name)
    assert not is_very_uneven(engine), engine.intervals_deg
