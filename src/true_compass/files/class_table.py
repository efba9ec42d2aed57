"""What a class can do as tables: CSV and XLSX, every cell plain text or a number."""

from collections.abc import Sequence
from pathlib import Path
from typing import Final

from true_compass.core.chained import compact
from true_compass.core.ideas import BY_SLUG as IDEAS
from true_compass.files.atomic import write_atomic
from true_compass.files.job_table import csv_text
from true_compass.files.workbook import Sheet, write_workbook
from true_compass.lessons.collect import ClassSheet, Student
from true_compass.lessons.skills import SKILLS
from true_compass.lessons.work import firsts_of

STUDENTS: Final = ("student", "answers", "marks", "asked", "aided", "can_do")
ITEMS: Final = ("part", "question", "title", "right", "misled", "idea", "other", "p", "tells")
ANSWERS: Final = (
    *("student", "lesson", "part", "question", "kind", "engine", "at", "credit", "aided"),
    *("idea", "answer", "file"),
)
NUMBERS: Final = (
    *("answers", "marks", "asked", "aided", "can_do", "right", "misled", "other"),
    *("p", "tells", "credit"),
)


def student_lines(room: ClassSheet) -> list[list[str]]:
    """A line a person: marks, and how it stands with each skill."""
    lines = [[*STUDENTS, *(skill.slug for skill in SKILLS), "files"]]
    for student in room.students:
        marks = sum(g.credit for s in student.sheets for g in firsts_of(s.given))
        aided = sum(given.aided for sheet in student.sheets for given in sheet.given)
        asked = sum(sheet.lesson.asked_count for sheet in student.sheets)
        lines.append(
            [
                student.label,
                str(student.answers),
                f"{marks:.4g}",
                str(asked),
                str(aided),
                str(len(student.secure)),
                *(student.skills[skill.slug].standing.value for skill in SKILLS),
                _files_words(student),
            ]
        )
    return lines


def _files_words(student: Student) -> str:
    """The files of a person, and what is to be said of each."""
    told = (f"{s.name} {s.trouble}".strip() if s.trouble else s.name for s in student.sheets)
    return "; ".join(told)


def item_lines(room: ClassSheet) -> list[list[str]]:
    """A line a question: how many were right, what misled, and how well it tells."""
    lines = [list(ITEMS)]
    for item in room.items:
        idea = item.ideas[0][0] if item.ideas else ""
        lines.append(
            [
                str(item.part + 1),
                str(item.nth + 1),
                item.title,
                str(item.right),
                str(item.misled),
                IDEAS[idea].title if idea else "",
                str(item.other),
                f"{item.p:.3f}",
                "" if item.tells is None else f"{item.tells:.3f}",
            ]
        )
    return lines


def answer_lines(room: ClassSheet) -> list[list[str]]:
    """A line an answer."""
    lines = [list(ANSWERS)]
    for student in room.students:
        for sheet in student.sheets:
            for given in sheet.given:
                lines.append(
                    [
                        student.label,
                        sheet.lesson.title,
                        str(given.part + 1),
                        str(given.nth + 1),
                        given.question.kind,
                        given.question.engine,
                        given.at.isoformat(timespec="seconds"),
                        f"{given.credit:.4g}",
                        "yes" if given.aided else "",
                        given.idea,
                        compact(given.answer),
                        sheet.name,
                    ]
                )
    return lines


def write_class_csv(path: Path, room: ClassSheet) -> None:
    """Write the line a person of each. Raises `OSError`."""
    write_atomic(path, "\ufeff" + csv_text(student_lines(room)))


def write_class_xlsx(path: Path, room: ClassSheet) -> None:
    """Write people, questions and answers, a sheet each. Raises `OSError`."""
    tables: Sequence[tuple[str, list[list[str]]]] = (
        ("Class", student_lines(room)),
        ("Questions", item_lines(room)),
        ("Answers", answer_lines(room)),
    )
    write_workbook(path, [Sheet(name, lines, NUMBERS) for name, lines in tables])
