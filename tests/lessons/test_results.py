"""Results: chained, judged again, collected; and what a class can do."""

import json
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from scipy import stats

from tests.lessons.made import NOW, answers, person, result_text
from true_compass.files.course import shipped_lesson
from true_compass.lessons.collect import Sheet, class_of, correlation, items_of, sheet_of
from true_compass.lessons.lesson import asked_of
from true_compass.lessons.mastery import Standing
from true_compass.lessons.result import (
    Result,
    ResultError,
    clean_name,
    groups_of,
    parse_result,
)

LESSON = shipped_lesson("four-strokes")
INES = person(1, "Ines")


@pytest.fixture(scope="module")
def text() -> str:
    return result_text(LESSON, INES, answers(LESSON, INES))


def test_a_result_is_read_as_it_was_written(text: str) -> None:
    result = parse_result(text)
    assert result.whole
    assert not result.torn
    assert result.header.person == INES
    assert result.given == tuple(answers(LESSON, INES))
    assert len(groups_of(result.mark)) == 8
    sheet = sheet_of("x", result, LESSON)
    assert (sheet.differs, sheet.trouble) == (0, "")


def test_a_torn_last_line_is_left_out(text: str) -> None:
    result = parse_result(text[:-20])
    assert result.torn
    assert result.whole
    assert len(result.given) == 9


def test_a_clock_that_went_back_is_told() -> None:
    given = answers(LESSON, INES)
    given[3] = replace(given[3], at=NOW - timedelta(days=2), day="2026-10-31")
    sheet = sheet_of("x", parse_result(result_text(LESSON, INES, given)), LESSON)
    assert sheet.trouble == "the clock went back before answer 4: its days are not sure"
    assert len(sheet.given) == len(given)


@pytest.mark.parametrize("line", [3, 6, 10])
def test_an_altered_file_is_noticed_and_read_up_to_there(text: str, line: int) -> None:
    lines = text.split("\n")
    lines[line - 1] = lines[line - 1].replace('"credit":1.0', '"credit":0.0', 1)
    result = parse_result("\n".join(lines))
    assert result.altered == line
    assert len(result.given) == line - 2
    assert "altered" in sheet_of("x", result, LESSON).trouble
    lines = text.split("\n")
    del lines[line - 1]
    assert parse_result("\n".join(lines)).altered == (line if line < 11 else 0)


def test_a_made_up_judgement_is_judged_again() -> None:
    """Somebody writes a whole new chain: the answers judge otherwise, and the engine counts."""
    wrong = answers(LESSON, INES, right=0.0)
    forged = [replace(given, credit=1.0, idea="") for given in wrong]
    sheet = sheet_of("x", parse_result(result_text(LESSON, INES, forged)), LESSON)
    assert sheet.differs == 10
    assert all(given.credit == 0.0 for given in sheet.given)
    assert "judge otherwise" in sheet.trouble


BROKEN: list[tuple[Any, str]] = [
    ("", "no whole line"),
    ("{}\n", "does not begin as a result"),
    ("not json\n", "not readable in line 1"),
    ("[1]\n", "says nothing in line 1"),
    ('{"format":"true-compass-result","version":9}\n', "is of version 9"),
    ('{"format":"true-compass-result","version":1}\n', "not whole"),
    ("[" * 100_000 + "\n", "not readable in line 1"),
    ("x" * 1_300_000 + "\n", "too long"),
]


@pytest.mark.parametrize(("text", "sentence"), BROKEN)
def test_what_is_no_result_is_explained(text: str, sentence: str) -> None:
    with pytest.raises(ResultError, match=sentence):
        parse_result(text)


def test_a_chained_line_that_is_no_answer_is_explained(text: str) -> None:
    from true_compass.core.chained import compact, mark_of

    head = text.split("\n", maxsplit=1)[0]
    for told, sentence in (([], "no answer in line 2"), ({"part": 1}, "that is none")):
        line = compact({"given": told, "chain": mark_of(head, told)})
        with pytest.raises(ResultError, match=sentence):
            parse_result(f"{head}\n{line}\n")


@pytest.mark.parametrize(
    ("typed", "kept"),
    [("  Ada  B ", "Ada B"), ("a\u202eb\x1b[31m", "ab[31m"), ("=SUM(1)", "=SUM(1)"), ("é", "é")],
)
def test_names_are_cleaned(typed: str, kept: str) -> None:
    assert clean_name(typed) == kept
    assert len(clean_name("x" * 500)) == 60


def sheets() -> list[Sheet]:
    """Three people: one knows it, one half, one nothing; two of them have one name."""
    people = [(person(1, "Ines"), 1.0), (person(2, "Hugo"), 0.5), (person(3, "hugo"), 0.0)]
    found = []
    for who, right in people:
        given = answers(LESSON, who, right)
        result = parse_result(result_text(LESSON, who, given))
        found.append(sheet_of(f"{who.name}.result.jsonl", result, LESSON))
    return found


def test_a_class_shows_who_can_do_what_and_which_question_misled() -> None:
    room = class_of(sheets(), NOW + timedelta(hours=1))
    assert len(room.students) == 3
    labels = [student.label for student in room.students]
    assert labels[2] == "Ines"
    assert len(set(labels)) == 3
    assert all(label.casefold().startswith("hugo ") for label in labels[:2])
    standings = [student.skills["name-stroke"].standing for student in room.students]
    assert sorted(one.value for one in standings) == ["firm", "shaky", "shaky"]
    assert room.teach_next == "name-stroke"
    assert room.count("name-stroke", Standing.PRACTICE) == 2
    assert len(room.items) == 10
    assert {item.right for item in room.items} == {1, 2}
    assert all(item.right + item.misled + item.other == 3 for item in room.items)


def test_what_misled_most_stands_first() -> None:
    header = parse_result(result_text(LESSON, INES, [])).header
    rows = []
    for who in range(3):
        given = answers(LESSON, INES, 1.0)
        for nth, people in ((4, 3), (2, 2), (7, 1)):
            if who < people:
                given[nth] = replace(given[nth], credit=0.0, idea="neighbour-next")
        rows.append(Sheet("x", Result(header, tuple(given), ""), LESSON, tuple(given), 0))
    items = items_of(rows)
    assert [(item.nth, item.misled) for item in items[:3]] == [(4, 3), (2, 2), (7, 1)]
    assert [item.nth for item in items[3:]] == [0, 1, 3, 5, 6, 8, 9]


def test_the_lesson_with_most_answers_is_looked_at() -> None:
    other = shipped_lesson("no-table")
    few, many = answers(LESSON, INES), answers(other, person(2, "Hugo"))
    rows = [
        sheet_of("a", parse_result(result_text(LESSON, INES, few)), LESSON),
        sheet_of("b", parse_result(result_text(other, person(2, "Hugo"), many)), other),
    ]
    for order in (rows, rows[::-1]):
        shown = class_of(order, NOW).lesson
        assert shown is not None
        assert shown.id == (other.id if len(many) > len(few) else LESSON.id)
    assert len(many) != len(few)


def test_item_statistics_are_those_of_the_library() -> None:
    """Point-biserial correlation of a question with the rest of the marks: scipy.stats."""
    rows = []
    for nth, right in enumerate((1.0, 0.8, 0.6, 0.5, 0.3, 0.0)):
        who = person(nth + 1, f"P{nth}")
        result = Result(
            parse_result(result_text(LESSON, who, [])).header,
            tuple(answers(LESSON, who, right)),
            "",
        )
        rows.append(sheet_of("x", result, LESSON))
    for item in items_of(rows):
        credits = [next(g.credit for g in r.given if g.nth == item.nth) for r in rows]
        rests = [sum(g.credit for g in r.given if g.nth != item.nth) for r in rows]
        assert item.p == pytest.approx(sum(credits) / 6)
        if len(set(credits)) == 1:
            assert item.tells is None
        else:
            told = stats.pointbiserialr([c > 0.5 for c in credits], rests)
            assert item.tells == pytest.approx(told.statistic)
    assert correlation([1, 0], [1, 0]) is None


def test_a_lesson_with_many_questions_gives_each_its_own_place() -> None:
    lesson = shipped_lesson("no-table")
    places = [(one.part, one.nth) for one in asked_of(lesson, 3)]
    assert len(set(places)) == len(places)
    told = json.dumps([one.question.record() for one in asked_of(lesson, 3)], allow_nan=False)
    assert "acacia" in told.casefold()
