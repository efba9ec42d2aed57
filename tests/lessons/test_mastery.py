"""What has been shown of a skill, and when to ask again."""

from datetime import UTC, datetime, timedelta
from typing import Any

import fsrs
import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.lessons.again import Due, after
from true_compass.lessons.drills import BY_SLUG as DRILLS
from true_compass.lessons.mastery import (
    LAST,
    Counted,
    Shown,
    Standing,
    counted_of,
    fresh_of,
    mastery_of,
    run_needed,
    still_needed,
    stretch_of,
)
from true_compass.lessons.skills import BY_SLUG as SKILLS
from true_compass.lessons.skills import SKILLS as ALL_SKILLS

START = datetime(2026, 9, 14, 8, 0, tzinfo=UTC)
MANY = 64


def shown(
    day: int = 0,
    kind: str = "a",
    *,
    layout: str = "inline four",
    right: bool = True,
    aided: bool = False,
    choices: int = MANY,
    asked: str = "",
    place: str = "",
) -> Shown:
    at = START + timedelta(days=day, minutes=day)
    of_day = at.date().isoformat()
    return Shown("name-stroke", kind, choices, "", layout, at, of_day, right, aided, asked, place)


def six(days: tuple[int, int] = (0, 1), layouts: tuple[str, str] = ("four", "V8")) -> list[Shown]:
    """Three running of two kinds, on two days and two layouts: secure with nothing to spare."""
    return [
        shown(days[nth // 3], ("stroke", "turns")[nth % 2], layout=layouts[nth % 2 ^ nth // 3])
        for nth in range(6)
    ]


WRONG, HINT = shown(2, "stroke", right=False), shown(2, "stroke", aided=True)


@pytest.mark.parametrize(
    ("answers", "standing", "words"),
    [
        ([], Standing.UNTRIED, "untried"),
        ([shown(right=False)], Standing.PRACTICE, "needs right unaided"),
        ([shown(aided=True)], Standing.PRACTICE, "needs right unaided"),
        (six(), Standing.SECURE, "secure"),
        (six()[:5], Standing.SOUND, "needs 3 running of a 2nd kind"),
        (six(days=(1, 1)), Standing.SOUND, "needs another day"),
        (six(layouts=("V8", "V8")), Standing.SOUND, "needs another layout"),
        ([shown(nth % 2, "turns") for nth in range(9)], Standing.SOUND,
         "needs 3 running: Name the stroke, another layout"),
        # One slip of six is allowed, a hint is one too; two are not.
        ([*six(), WRONG], Standing.SECURE, "secure"),
        ([*six(), HINT], Standing.SECURE, "secure"),
        ([*six(), WRONG, HINT], Standing.PRACTICE,
         "needs 5 of the last 6, 3 running: Name the stroke"),
        ([*six(), WRONG, HINT, *six((3, 4))], Standing.SECURE, "secure"),
        # What was answered long ago keeps counting as long as it goes well.
        ([*six(), *(shown(9, "stroke") for _ in range(20))], Standing.SECURE, "secure"),
        # What can be guessed counts in runs, and what never changes not at all.
        ([shown(nth // 6, "stroke", choices=4) for nth in range(12)], Standing.SOUND,
         "needs 3 running of a 2nd kind, another layout"),
        ([shown(nth // 6, "stroke", choices=1) for nth in range(12)], Standing.SOUND,
         "needs right unaided"),
    ],
)  # fmt: skip
def test_the_rule(answers: list[Shown], standing: Standing, words: str) -> None:
    now = (answers[-1].at if answers else START) + timedelta(minutes=1)
    mastery = mastery_of("name-stroke", answers, now)
    assert (mastery.standing, still_needed(mastery)) == (standing, words)


@given(st.lists(st.booleans(), max_size=24), st.sampled_from([2, 3, 4, 16]))
def test_runs_are_counted_as_one_counts_them_by_hand(rights: list[bool], choices: int) -> None:
    counted = counted_of([shown(right=right, choices=choices) for right in rights])
    text = "".join("x" if right else "." for right in rights)
    runs = [len(part) // run_needed(choices) for part in text.split(".")]
    assert sum(one.good for one in counted) == sum(runs)
    assert sum(not one.good for one in counted) == rights.count(False)
    # A run that counts is one that guessing makes once in sixteen times at most.
    assert choices ** run_needed(choices) >= 16 > choices ** (run_needed(choices) - 1) / choices


@given(st.lists(st.booleans(), max_size=20))
def test_the_stretch_is_the_longest_end_without_two_slips_in_six(goods: list[bool]) -> None:
    counted = [Counted("a", good, ()) for good in goods]
    ends = [counted[start:] for start in range(len(counted) + 1)]

    def holds(end: list[Counted]) -> bool:
        windows = [end[nth : nth + LAST] for nth in range(max(1, len(end) - LAST + 1))]
        return all(sum(not one.good for one in window) <= 1 for window in windows)

    assert stretch_of(counted) == next(end for end in ends if holds(end))


def test_a_question_that_was_answered_before_shows_nothing() -> None:
    """The same on one day, or the same set opened again; another set may ask it again."""
    first = shown(0, asked="q", place="x/1/0")
    same_day = shown(0, asked="q", place="x/1/5")
    same_set = shown(3, asked="q", place="x/1/0")
    other_set = shown(3, asked="q", place="x/1/4")
    assert fresh_of([first, same_day, other_set]) == [first, other_set]
    assert fresh_of([first, same_set]) == [first]
    again = [*six(), *(shown(2, "stroke", right=False, asked="q", place="p") for _ in range(4))]
    assert mastery_of("name-stroke", again, START).standing is Standing.SECURE


def test_a_skill_names_kinds_that_show_it() -> None:
    for skill in ALL_SKILLS:
        kinds = {drill.slug for drill in DRILLS.values() if drill.skill == skill.slug}
        assert set(skill.needs) <= kinds, skill.slug
        assert skill.kinds == min(len(kinds), 2) or skill.slug == "find-fault", skill.slug
    assert SKILLS["degree-cam"].needs == ("centreline", "advance")


def test_sound_becomes_practice_when_it_is_due_again() -> None:
    answers = [shown(0)]
    due = mastery_of("name-stroke", answers, START).due
    assert due is not None
    before, then = due.due_at - timedelta(seconds=1), due.due_at
    assert mastery_of("name-stroke", answers, before).standing is Standing.SOUND
    assert mastery_of("name-stroke", answers, then).standing is Standing.PRACTICE


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
