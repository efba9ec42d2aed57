"""Worksheets and certificates: every answer is on the key, none on the sheet."""

from datetime import timedelta
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication

from tests.lessons.made import NOW, answers, person, result_text
from true_compass.drawing.certificate import NOT_PROVED, certificate, mark_of_student
from true_compass.drawing.documents import A4, LETTER, Document, write_document
from true_compass.drawing.text import texts_recorded
from true_compass.drawing.theme import load_fonts
from true_compass.drawing.worksheet import paper_sets, pointers_of, worksheet
from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.lessons.collect import Sheet, class_of, sheet_of
from true_compass.lessons.result import groups_of, parse_result


def texts_of(document: Document) -> list[list[str]]:
    """What is written on each page."""
    load_fonts()
    found = []
    for paint in document.pages(A4):
        image = QImage(900, 1273, QImage.Format.Format_RGB32)
        p = QPainter(image)
        with texts_recorded() as told:
            paint(p)
        p.end()
        found.append(told)
    return found


@pytest.mark.parametrize("name", lesson_names())
def test_the_key_has_every_answer_and_the_sheet_none(qapp: QApplication, name: str) -> None:
    lesson = shipped_lesson(name)
    (one,) = paper_sets(lesson, 7)
    pages = texts_of(worksheet(lesson, 7))
    half = next(n for n, told in enumerate(pages) if "Answer key" in told)
    sheet, key = (
        " ".join(" ".join(page) for page in part) for part in (pages[:half], pages[half:])
    )
    for question in one.questions:
        why = question.drill.why(question.q)
        assert why[:30] in key
        assert why not in sheet
    assert len(one.questions) + one.left_out == lesson.asked_count
    assert all(f"{nth} of {half}" in " ".join(page) for nth, page in enumerate(pages[:half], 1))


def test_each_student_has_a_set_and_the_same_seed_gives_it_again() -> None:
    lesson = shipped_lesson("valves-here")
    sets = paper_sets(lesson, 7, 5)
    assert [one.number for one in sets] == [1, 2, 3, 4, 5]
    asked = [[q.q.question for q in one.questions] for one in sets]
    assert len({repr(one) for one in asked}) == 5
    assert asked == [[q.q.question for q in one.questions] for one in paper_sets(lesson, 7, 5)]


def test_wrong_answers_on_the_key_point_to_ideas() -> None:
    told = [words for _, words in pointers_of(paper_sets(shipped_lesson("two-stop-table"), 7)[0])]
    assert any("One table fits all fours" in words for words in told)
    assert any("The mark is at zero, so it fires" in words for words in told)


def test_a_certificate_tells_what_was_shown_where_and_what_it_does_not_prove(
    qapp: QApplication, tmp_path: Path
) -> None:
    who = person(1, "Ines Hart")
    sheets: list[Sheet] = []
    for name in ("four-strokes", "two-turns"):
        for day in (0, 9):
            lesson = shipped_lesson(name)
            text = result_text(lesson, who, answers(lesson, who, day=day), len(sheets))
            sheets.append(sheet_of(f"{name}-{day}.result.jsonl", parse_result(text), lesson))
    room = class_of(sheets, NOW + timedelta(days=9, hours=3))
    (student,) = room.students
    assert student.secure == ("name-stroke",)
    (page,) = texts_of(certificate([student], NOW.date(), "Wexcombe Vale College"))
    words = " ".join(page)
    assert "Ines Hart" in words
    assert "Name the stroke" in words
    assert "11 Nov" in words
    assert all(group in words for group in groups_of(mark_of_student(student)))
    assert NOT_PROVED[:60] in words
    assert "1 of 16" in words
    # What was shown on screen and what is seen by hand stand apart, and no more than was answered.
    assert "Name the stroke; Two turns make one cycle" in words
    assert "shown on screen" in words
    assert "seen by hand" in words
    for field in ("Candidate", "Centre", "Assessor", "Second signature", "Adjustments made"):
        assert field in words
    assert "Not supervised" in words
    assert "4 attempts, 40 answers, 0 answers with a hint" in words
    assert sheets[0].result.header.lesson_digest[:8] in words
    assert "True Compass 0.1.0" in words
    write_document(certificate([student], NOW.date()), LETTER, tmp_path / "c.pdf")
    assert (tmp_path / "c.pdf").stat().st_size > 5000
