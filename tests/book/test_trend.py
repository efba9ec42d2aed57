"""Trends: change since last left, rate, due; restarts; brackets; and what jobs refuse."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.book.brackets import Bracket, checked_gap
from true_compass.book.job import (
    BookEngine,
    ItemRecord,
    Job,
    Measure,
    Part,
    check_clock,
    check_day,
    check_item,
)
from true_compass.book.trend import Entry, Seen, changes_in, day_of, history
from true_compass.book.typed import other_meanings, read_measure
from true_compass.core.items import Item, item_named
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit, ImplausibleGapError

E5 = item_named("E5")


def entry(
    day: str, hours: float | None, found: float | None, left: float | None = None, **more: bool
) -> Entry:
    seen = Seen(
        None if found is None else Bracket.of(found), None if left is None else Bracket.of(left)
    )
    return Entry(day, date.fromisoformat(day), hours, "Joel", {E5: seen}, **more)


YEAR = [
    entry("2025-01-10", 1200, 0.45, 0.40),
    entry("2025-06-10", 1650, 0.34),
]


def test_the_example_of_the_trade() -> None:
    """Left 0.40 at 1,200 h, found 0.34 at 1,650 h (common practice, no source)."""
    point = changes_in(YEAR, 1)[E5]
    assert point.change is not None
    assert point.change.low == pytest.approx(-0.06)
    rate, due = point.rate(), point.due((0.30, 0.50))
    assert rate is not None
    assert due is not None
    assert rate.low == pytest.approx(-0.0133, abs=5e-5)
    assert due.low == pytest.approx(300)
    again = changes_in([YEAR[0], entry("2025-06-10", 1650, 0.34, 0.40)], 1)[E5]
    back = again.due((0.30, 0.50))
    assert back is not None
    assert back.low == pytest.approx(750)


def test_change_is_from_what_was_left_never_from_nominal() -> None:
    jobs = [*YEAR, entry("2025-09-01", 1900, 0.33), entry("2025-12-01", 2100, 0.30, 0.41)]
    told = [p.change.low if p.change else None for p in history(jobs, E5)]
    assert told[0] is None
    assert told[1:] == pytest.approx([-0.06, -0.01, -0.03])


@pytest.mark.parametrize("new", ["job", "item"])
def test_a_new_part_begins_the_trend_anew(new: str) -> None:
    seen = Seen(Bracket.of(0.34), Bracket.of(0.40), anew=new == "item")
    fitted = Entry("3", date(2025, 7, 1), 1700, "Joel", {E5: seen}, anew=new == "job")
    jobs = [*YEAR, fitted, entry("2025-09-01", 1900, 0.39)]
    told = history(jobs, E5)
    assert told[2].change is None
    assert told[3].change is not None
    assert told[3].change.low == pytest.approx(-0.01)
    assert told[3].clock == 200


def test_a_part_changed_in_a_job_without_readings_also_ends_the_trend() -> None:
    silent = Entry("x", date(2025, 3, 1), 1400, "Joel", {}, anew=True)
    assert changes_in([YEAR[0], silent, YEAR[1]], 2)[E5].change is None


def test_rates_without_hours_and_bands_without_movement() -> None:
    point = changes_in([entry("2025-01-01", None, 0.4), YEAR[1]], 1)[E5]
    assert point.change is not None
    assert (point.rate(), point.due((0.3, 0.5))) == (None, None)
    still = changes_in([entry("2025-01-01", 1200, 0.34), YEAR[1]], 1)[E5]
    assert still.due((0.3, 0.5)) is None
    assert changes_in(YEAR, 1)[E5].due(None) is None


@given(
    left=st.tuples(st.floats(0.1, 0.5), st.floats(0, 0.05)),
    found=st.tuples(st.floats(0.1, 0.5), st.floats(0, 0.05)),
    at=st.floats(0, 1),
    then=st.floats(0, 1),
)
def test_brackets_hold_every_pair_of_numbers_in_them(
    left: tuple[float, float], found: tuple[float, float], at: float, then: float
) -> None:
    one, two = Bracket(left[0], sum(left)), Bracket(found[0], sum(found))
    inside = two.low + then * found[1] - (one.low + at * left[1])
    change = two - one
    assert change.low - 1e-12 <= inside <= change.high + 1e-12


def test_the_day_on_which_it_is_due_follows_the_pace_so_far() -> None:
    # 450 h in 151 days: 300 h more are 101 days.
    assert day_of(YEAR, 300) == date(2025, 9, 19)
    assert day_of(YEAR[:1], 300) is None


# What people type --------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "unit", "low", "high"),
    [
        ("0.25", GapUnit.MM, 0.25, 0.25),
        ("0,25", GapUnit.MM, 0.25, 0.25),
        ("10", GapUnit.THOU, 0.254, 0.254),
        ("8 thou", GapUnit.MM, 0.2032, 0.2032),
        ("0.20..0.25", GapUnit.MM, 0.20, 0.25),
        ("8..10 thou", GapUnit.MM, 0.2032, 0.254),
    ],
)
def test_gaps_as_they_are_typed(text: str, unit: GapUnit, low: float, high: float) -> None:
    gap = read_measure("I1", text, unit, 0.25).gap
    assert gap is not None
    assert (gap.low, gap.high) == pytest.approx((low, high))


def test_turns_to_the_seat() -> None:
    told = read_measure("I1", "1.5 turns", GapUnit.MM, 0.25)
    assert (told.turns, told.gap) == (1.5, None)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("0.25..0.20", "thicker"),
        ("0.20 mm 8 thou", "two units"),
        ("99 turns", "0 to 20"),
        ("-0.1", "less than nothing"),
        ("abc", "must be"),
    ],
)
def test_what_cannot_be_read_says_what_to_do(text: str, words: str) -> None:
    with pytest.raises(EngineError, match=words):
        read_measure("I1", text, GapUnit.MM, 0.25)


def test_fifteen_for_a_hundredth_is_asked_back_with_what_may_be_meant() -> None:
    with pytest.raises(ImplausibleGapError):
        read_measure("I1", "15", GapUnit.MM, 0.15)
    assert [words for words, _ in other_meanings("15", GapUnit.MM, 0.15)] == ["0.15 mm", "15 thou"]
    assert [words for words, _ in other_meanings("8", GapUnit.MM, 0.20)] == ["0.08 mm", "8 thou"]
    # Whoever is sure is taken at their word, but no engine has such a gap.
    with pytest.raises(EngineError, match="15"):
        read_measure("I1", "15", GapUnit.MM, 0.15, sure=True)
    assert read_measure("I1", "1.2", GapUnit.MM, 0.15, sure=True).gap == Bracket.of(1.2)


# What no job can be ------------------------------------------------------------------------------


def job(day: str, hours: float | None, *parts: Part) -> Job:
    return Job(
        day, "e", "", date.fromisoformat(day), "2025-01-01T00:00:00+00:00", clock=hours, parts=parts
    )


def test_hours_that_fall_are_explained() -> None:
    before = (job("2025-01-10", 1200), job("2025-09-10", 1900))
    check_clock(before, job("2025-06-10", 1650))
    for hours, words in ((1100, "fall"), (2000, "would be over")):
        with pytest.raises(EngineError, match=words):
            check_clock(before, job("2025-06-10", hours))
    check_clock(before[:1], job("2025-06-10", 3, Part("hour counter")))


def test_days_ahead_and_readings_without_found_are_refused() -> None:
    with pytest.raises(EngineError, match="ahead of today"):
        check_day(date(2025, 1, 2), date(2025, 1, 1))
    with pytest.raises(EngineError, match="as found"):
        check_item("I1", ItemRecord(left=Measure.mm(0.25)))
    with pytest.raises(EngineError, match="less than nothing"):
        checked_gap("I1", Bracket.of(-0.1))


def test_what_an_item_was_left_with() -> None:
    found, left, nut = Measure.mm(0.33), Measure.mm(0.27), Measure.mm(0.25)
    assert ItemRecord(found).final == found
    assert ItemRecord(found, left).final == left
    assert ItemRecord(found, left, nut).final == nut
    assert not ItemRecord(found).was_set
    assert BookEngine("", "Rig Birch", "3").title == "Rig Birch, number 3"
    told = job("2025-01-10", 1840).with_item(Item(E5.kind, 5), ItemRecord(found, left))
    assert told.clock_words == "1,840 h"
    assert told.with_item(E5, ItemRecord()).items == {}
