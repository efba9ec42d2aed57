"""Who can do it, and when to ask again."""

from datetime import UTC, datetime, timedelta
from itertools import combinations
from typing import Any

import fsrs
import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.lessons.again import Due, after
from true_compass.lessons.mastery import Shown, Standing, mastery_of, proof_of, still_needed

START = datetime(2026, 9, 14, 8, 0, tzinfo=UTC)


def shown(day: int, layout: str = "inline four", right: bool = True, aided: bool = False) -> Shown:
    at = START + timedelta(days=day, minutes=day)
    return Shown("stroke", "", layout, at, at.date().isoformat(), right, aided)


@pytest.mark.parametrize(
    ("answers", "standing"),
    [
        ([], Standing.UNTRIED),
        ([shown(0)], Standing.FIRM),
        ([shown(0, aided=True)], Standing.SHAKY),
        ([shown(0, right=False)], Standing.SHAKY),
        ([shown(0), shown(0), shown(0)], Standing.FIRM),
        ([shown(0), shown(1), shown(2)], Standing.FIRM),
        ([shown(0), shown(0, "V8"), shown(0)], Standing.FIRM),
        ([shown(0), shown(0, "V8"), shown(1)], Standing.CAN),
        ([shown(0), shown(1, "V8")], Standing.FIRM),
        ([shown(0), shown(1, "V8", aided=True), shown(2)], Standing.FIRM),
        ([shown(0), shown(0, "V8"), shown(1), shown(2, right=False)], Standing.SHAKY),
        ([shown(0), shown(0, "V8"), shown(1), shown(2, right=False), shown(3)], Standing.CAN),
    ],
)
def test_the_rule(answers: list[Shown], standing: Standing) -> None:
    now = (answers[-1].at if answers else START) + timedelta(minutes=1)
    mastery = mastery_of("stroke", answers, now)
    assert mastery.standing is standing
    assert bool(mastery.proof) == any(
        len({a.day, b.day, c.day}) > 1 and len({a.layout, b.layout, c.layout}) > 1
        for a, b, c in combinations(mastery.successes, 3)
    )


@pytest.mark.parametrize(
    ("answers", "words"),
    [
        ([], "untried"),
        ([shown(0, right=False)], "needs to be right unaided"),
        ([shown(0), shown(0)], "needs another layout and another day"),
        ([shown(0), shown(1), shown(2)], "needs another layout"),
        ([shown(0), shown(0, "V8"), shown(0)], "needs another day"),
        ([shown(0), shown(1, "V8")], "needs one more time"),
        ([shown(0), shown(0, "V8"), shown(1)], "can do"),
        ([shown(0), shown(0, "V8"), shown(1), shown(2, right=False)], "needs to be right again"),
    ],
)
def test_what_is_still_needed_is_said(answers: list[Shown], words: str) -> None:
    assert still_needed(mastery_of("stroke", answers, START + timedelta(days=3))) == words


@given(st.lists(st.tuples(st.integers(0, 3), st.sampled_from("abc")), max_size=9))
def test_a_proof_is_found_wherever_there_is_one(rows: list[tuple[int, str]]) -> None:
    successes = [shown(day, layout) for day, layout in sorted(rows)]
    proof = proof_of(successes)
    brute = [
        three
        for three in combinations(successes, 3)
        if len({x.day for x in three}) > 1 and len({x.layout for x in three}) > 1
    ]
    assert bool(proof) == bool(brute)
    if proof:
        assert len({x.day for x in proof}) > 1
        assert len({x.layout for x in proof}) > 1
        assert all(any(x is y for y in successes) for x in proof)


def test_firm_becomes_shaky_when_it_is_due_again() -> None:
    answers = [shown(0)]
    due = mastery_of("stroke", answers, START).due
    assert due is not None
    before, then = due.due_at - timedelta(seconds=1), due.due_at
    assert mastery_of("stroke", answers, before).standing is Standing.FIRM
    assert mastery_of("stroke", answers, then).standing is Standing.SHAKY


def library(rows: list[tuple[int, str]]) -> Any:
    """The same answers through the library alone, with its own words."""
    scheduler = fsrs.Scheduler(learning_steps=(), relearning_steps=(), enable_fuzzing=False)
    card = fsrs.Card(card_id=1)
    for day, how in rows:
        rated = {"wrong": fsrs.Rating.Again, "hint": fsrs.Rating.Hard, "good": fsrs.Rating.Good}
        card, _ = scheduler.review_card(card, rated[how], START + timedelta(days=day))
    return card


@given(
    st.lists(
        st.tuples(st.integers(0, 40), st.sampled_from(["wrong", "hint", "good"])),
        min_size=1,
        max_size=8,
    )
)
def test_the_scheduler_is_the_librarys_own(rows: list[tuple[int, str]]) -> None:
    rows = sorted(rows, key=lambda row: row[0])
    due: Due | None = None
    for day, how in rows:
        at = START + timedelta(days=day)
        due = after(due, at, right=how != "wrong", aided=how == "hint")
    card = library(rows)
    assert due is not None
    assert due.holds_days == pytest.approx(card.stability)
    assert due.hard == pytest.approx(card.difficulty)
    assert due.due_at == card.due


def test_a_clock_that_went_back_counts_at_the_time_of_the_last_answer() -> None:
    first = after(None, START, right=True, aided=False)
    back = after(first, START - timedelta(days=400), right=True, aided=False)
    same = after(first, START, right=True, aided=False)
    assert back == same
    assert back.due_at > START
