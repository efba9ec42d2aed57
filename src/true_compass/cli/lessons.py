"""`drill`, `mark`, `lesson`: questions, judging, results and lesson files without a window."""

import argparse
import json
from collections.abc import Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Final

from true_compass.cli.common import Outcome, UsageError, is_there, resolve_engine, source_record
from true_compass.core.engine import Engine
from true_compass.core.words import counted
from true_compass.files.class_table import write_class_csv, write_class_xlsx
from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.files.lesson_file import SUFFIX, read_lesson
from true_compass.files.qti import write_qti
from true_compass.files.reading import read_text
from true_compass.files.result_files import collect, known_lessons
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.lessons.collect import ClassSheet, class_of
from true_compass.lessons.drill import AskError, Question
from true_compass.lessons.drills import (
    BY_SLUG,
    judge,
    question_from,
    questions,
    record_of,
    rig_of,
)
from true_compass.lessons.forms import AnswerError
from true_compass.lessons.guide import LessonError
from true_compass.lessons.lesson import MOST_SEED, Lesson, asked_of
from true_compass.lessons.result import PROVES
from true_compass.lessons.skills import BY_SLUG as SKILL_BY_SLUG
from true_compass.lessons.skills import SKILLS

MOST_QUESTIONS: Final = 10_000
USUAL_RIG: Final = "alder"
MOST_JSON: Final = 1_000_000


def lesson_of(target: str) -> Lesson:
    """The lesson that a command line names: a shipped one's short name, or a file."""
    if target in lesson_names():
        return shipped_lesson(target)
    path = Path(target)
    if not (target.endswith(SUFFIX) or is_there(path) or "/" in target):
        raise UsageError(
            f"{target[:60]} is neither a file nor a lesson that ships ({', '.join(lesson_names())})"
        )
    return read_lesson(path)


def run_drill(options: argparse.Namespace) -> Outcome:
    """`true-compass drill`."""
    words = options.words
    if words[0] == "judge":
        return _judge(options, words[1:])
    if len(words) != 1:
        raise UsageError("drill needs one lesson, or kinds with commas between them")
    seed = whole_number("--seed", options.seed, 0, 999_999_999)
    count = whole_number("--count", options.count, 1, MOST_QUESTIONS)
    try:
        drawn = _drawn(words[0], options.engine, seed, count)
        records = [record_of(rig_of(engine), question) for engine, question in drawn]
    except AskError as error:
        raise UsageError(str(error)) from None
    if options.json:
        return Outcome(json.dumps({"questions": records}, indent=2, ensure_ascii=False))
    told = (f"{nth}. {record['engine']}: {record['text']}" for nth, record in enumerate(records, 1))
    return Outcome("\n".join(told))


def whole_number(option: str, text: str, least: int, most: int) -> int:
    """A whole number within limits, or a sentence that names the option."""
    plain = text.isascii() and text.isdigit() and len(text) < 12
    if not (plain and least <= int(text) <= most):
        raise UsageError(
            f"{option} must be a whole number from {least} to {most}, not {text[:20]!r}"
        )
    return int(text)


def _drawn(what: str, engine: str | None, seed: int, count: int) -> list[tuple[Engine, Question]]:
    """Questions with the engine of each: of kinds, or of the drills of a lesson."""
    kinds = tuple(what.split(","))
    if all(kind in BY_SLUG for kind in kinds):
        name = engine or USUAL_RIG
        engines = {name: resolve_engine(name)}
        return [(engines[q.engine], q) for q in questions(kinds, engines, seed, count)]
    if "," in what or what not in lesson_names():
        unknown = next((kind for kind in kinds if kind not in BY_SLUG), what)
        if not (is_there(Path(what)) or what.endswith(SUFFIX)):
            raise UsageError(
                f"{unknown[:40]} is neither a kind of question ({', '.join(BY_SLUG)}) nor a lesson "
                f"({', '.join(lesson_names())})"
            )
    lesson = lesson_of(what)
    found: list[tuple[Engine, Question]] = []
    for more in range(count):
        asked = asked_of(lesson, seed + more)
        if not asked:
            raise UsageError(f"{lesson.title} asks nothing: it has no drill")
        for one in asked:
            found.append((lesson.engine(one.question.engine), one.question))
        if len(found) >= count:
            break
    if engine is None:
        return found[:count]
    kinds = tuple(dict.fromkeys(question.kind for _, question in found))
    engines = {engine: resolve_engine(engine)}
    carried = tuple(k for k in kinds if not BY_SLUG[k].missing(rig_of(engines[engine])))
    if not carried:
        raise UsageError(f"{engines[engine].name} can be asked nothing of {lesson.title}")
    return [(engines[engine], q) for q in questions(carried, engines, seed, count)]


def _read_json(name: str) -> Any:
    text = read_text(Path(name), "a file of JSON", MOST_JSON)

    def refuse(constant: str) -> float:
        raise ValueError(constant)

    try:
        return json.loads(text, parse_constant=refuse)
    except (ValueError, RecursionError):
        raise UsageError(f"{Path(name).name[:60]} is not readable as JSON") from None


def _judge(options: argparse.Namespace, names: list[str]) -> Outcome:
    """`true-compass drill judge QUESTION ANSWER`."""
    if len(names) != 2:
        raise UsageError("drill judge needs two files: the question and the answer")
    told, said = _read_json(names[0]), _read_json(names[1])
    if not isinstance(said, Mapping) or "answer" not in said:
        raise UsageError(f'{Path(names[1]).name[:60]} must be {{"answer": …}}')
    try:
        question = question_from(told)
        engine = _engine_named(options.engine or question.engine or USUAL_RIG)
        judged = judge(engine, question, said["answer"])
    except (AskError, AnswerError) as error:
        raise UsageError(str(error)) from None
    code = 0 if judged.is_right else 1
    if options.json:
        return Outcome(json.dumps(judged.record(), indent=2, ensure_ascii=False), code)
    idea = f" (wrong idea: {judged.idea})" if judged.idea else ""
    return Outcome(f"{judged.marks.words}{idea}. {judged.why}", code)


def _engine_named(name: str) -> Engine:
    if name in rig_names():
        return demo_rig(name)
    for lesson in lesson_names():
        for one in shipped_lesson(lesson).engines:
            if one.name == name:
                return one.engine
    return resolve_engine(name)


def run_mark(options: argparse.Namespace) -> Outcome:
    """`true-compass mark`: 1 where a file was left out, or has something to be said of it."""
    paths = [Path(name) for name in options.results]
    collected = collect(paths, known=known_lessons({path.parent for path in paths}))
    room = class_of(collected.sheets, datetime.now(UTC))
    troubles = [f"{s.name} {s.trouble}." for s in collected.sheets if s.trouble]
    told = [*collected.left_out, *troubles]
    if not collected.sheets:
        raise UsageError(f"nothing could be marked: {' '.join(told)}")
    try:
        if options.csv:
            write_class_csv(_new_file(options.csv, ".csv"), room)
        if options.xlsx:
            write_class_xlsx(_new_file(options.xlsx, ".xlsx"), room)
    except OSError as error:
        raise UsageError(f"the table could not be written ({error.strerror})") from None
    code = 1 if told else 0
    if options.json:
        return Outcome(json.dumps(_mark_record(room, told), indent=2, ensure_ascii=False), code)
    lines = [
        f"{student.label}: {counted(student.answers, 'answer')}, "
        f"secure in {len(student.secure)} of {len(SKILLS)}"
        for student in room.students
    ]
    if room.teach_next:
        lines.append(f"Teach next: {SKILL_BY_SLUG[room.teach_next].title}.")
    return Outcome("\n".join([*lines, *told, *([PROVES] if room.students else [])]), code)


def _new_file(name: str, suffix: str) -> Path:
    path = Path(name)
    if path.suffix.lower() != suffix:
        raise UsageError(f"the file must end in {suffix}, not {path.suffix or path.name[:40]!r}")
    if is_there(path):
        raise UsageError(f"{path.name[:60]} is there already: choose another name")
    return path


def _mark_record(room: ClassSheet, told: list[str]) -> dict[str, Any]:
    return {
        "students": [
            {
                "name": student.label,
                "answers": student.answers,
                "can_do": list(student.secure),
                "skills": {slug: m.standing.value for slug, m in student.skills.items()},
            }
            for student in room.students
        ],
        "items": [
            {
                "part": item.part + 1,
                "question": item.nth + 1,
                "title": item.title,
                "right": item.right,
                "ideas": dict(item.ideas),
                "other": item.other,
                "p": item.p,
                "tells": item.tells,
            }
            for item in room.items
        ],
        "teach_next": room.teach_next or None,
        "troubles": told,
    }


def run_check(options: argparse.Namespace) -> str:
    """`true-compass lesson check`."""
    lesson = lesson_of(options.file)
    try:
        asked = asked_of(lesson, lesson.settings.seed)
    except LessonError as error:
        raise UsageError(str(error)) from None
    if options.json:
        record = {
            "title": lesson.title,
            "parts": len(lesson.parts),
            "questions": len(asked),
            "engines": [one.name for one in lesson.engines],
            "source": source_record(options.file),
        }
        return json.dumps(record, indent=2, ensure_ascii=False)
    return f"{lesson.title}: {len(lesson.parts)} parts, {len(asked)} questions. It can be given."


def run_qti(options: argparse.Namespace) -> str:
    """`true-compass lesson qti`."""
    lesson = lesson_of(options.file)
    path = _new_file(options.output, ".zip")
    seed = whole_number("--seed", options.seed, 0, MOST_SEED)
    try:
        package = write_qti(path, lesson, seed)
    except LessonError as error:
        raise UsageError(str(error)) from None
    except OSError as error:
        raise UsageError(f"{path.name[:60]} could not be written ({error.strerror})") from None
    told = "; ".join(one.words for one in package.left_out)
    left = f" Left out: {told}." if told else ""
    return f"{path}: {counted(package.count, 'question')}.{left}"


def run_list(options: argparse.Namespace) -> str:
    """`true-compass lesson list`."""
    shipped = [(name, shipped_lesson(name)) for name in lesson_names()]
    if options.json:
        told = [{"name": name, "title": x.title, "purpose": x.purpose} for name, x in shipped]
        return json.dumps({"lessons": told}, indent=2, ensure_ascii=False)
    wide = max(len(name) for name, _ in shipped)
    return "\n".join(f"{name:<{wide}}  {lesson.title}" for name, lesson in shipped)


def add_lesson_commands(commands: "argparse._SubParsersAction[Any]") -> None:
    """`drill` and `lesson`."""
    drill = commands.add_parser("drill", help="questions from a seed, and answers judged")
    drill.set_defaults(run=run_drill)
    drill.add_argument(
        "words",
        nargs="+",
        metavar="LESSON | KIND[,KIND] | judge QUESTION.json ANSWER.json",
        help=f"kinds: {', '.join(BY_SLUG)}",
    )
    drill.add_argument("--engine", metavar="FILE | RIG", help="engine to ask about")
    drill.add_argument("--seed", default="1", metavar="N", help="the same seed asks the same")
    drill.add_argument("--count", default="10", metavar="N", help="how many questions")
    drill.add_argument("--json", action="store_true", help="print JSON")
    mark = commands.add_parser("mark", help="results judged again: a class as a table")
    mark.set_defaults(run=run_mark)
    mark.add_argument("results", nargs="+", metavar="RESULT", help="NAME.result.jsonl")
    table = mark.add_mutually_exclusive_group()
    table.add_argument("--csv", metavar="FILE", help="write a line a person")
    table.add_argument("--xlsx", metavar="FILE", help="write people, questions and answers")
    mark.add_argument("--json", action="store_true", help="print JSON")
    lesson = commands.add_parser("lesson", help="lesson files")
    kinds = lesson.add_subparsers(dest="kind", required=True)
    check = kinds.add_parser("check", help="whether a lesson can be given, and what is wrong")
    check.set_defaults(run=run_check)
    check.add_argument("file", metavar="FILE | NAME")
    check.add_argument("--json", action="store_true", help="print JSON")
    qti = kinds.add_parser("qti", help="its questions as a quiz package, QTI 2.1")
    qti.set_defaults(run=run_qti)
    qti.add_argument("file", metavar="FILE | NAME")
    qti.add_argument("--seed", default="1", metavar="N", help="fixes the questions")
    qti.add_argument("-o", "--output", required=True, metavar="FILE.zip")
    listed = kinds.add_parser("list", help="the lessons that ship with the program")
    listed.set_defaults(run=run_list)
    listed.add_argument("--json", action="store_true", help="print JSON")
