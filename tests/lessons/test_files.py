"""Lessons on the disk: the record of answers, tables, quiz packages, worksheets, hostile files."""

import csv
import json
import sqlite3
import zipfile
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from io import StringIO
from pathlib import Path
from typing import Any
from xml.etree import ElementTree as ET

import pytest
from openpyxl import load_workbook

from tests.lessons.made import NOW, answers, person, result_text
from true_compass.cli.main import run
from true_compass.files.answers_file import (
    APPLICATION_ID,
    NAME,
    SCHEMA_1,
    VERSION,
    Answers,
    AnswersError,
)
from true_compass.files.class_table import write_class_csv, write_class_xlsx
from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.files.lesson_file import read_lesson
from true_compass.files.qti import LEFT_OUT, QTI, write_qti
from true_compass.files.result_files import NoResultError, collect, read_sheet
from true_compass.lessons.collect import class_of
from true_compass.lessons.mastery import Standing, mastery_of
from true_compass.lessons.work import shown_by

LESSON = shipped_lesson("four-strokes")


@pytest.fixture
def record(tmp_path: Path) -> Iterator[Answers]:
    made = Answers(tmp_path / NAME)
    yield made
    made.close()


def write(record: Answers, name: str, right: float = 1.0, day: int = 0) -> str:
    who = record.person(name, NOW)
    for given in answers(LESSON, who, right, day):
        record.write(who, LESSON.id, given, shown_by(LESSON, given))
    return who.id


def test_the_record_says_what_the_rule_says(record: Answers) -> None:
    """The quick way in SQL against the rule over every answer; the same set again shows nothing."""
    lessons = LESSON, shipped_lesson("two-turns")
    for name, rows, standing in (
        ("Ines", [(1.0, 0), (1.0, 8)], Standing.SECURE),
        ("Hugo", [(0.5, 0), (0.0, 3), (1.0, 9)], Standing.SOUND),
        ("Gita", [(1.0, 0), (1.0, 0), (1.0, 0)], Standing.PRACTICE),
    ):
        who = record.person(name, NOW)
        told = []
        for right, day in rows:
            for lesson in lessons:
                for given in answers(lesson, who, right, day):
                    shown = shown_by(lesson, given)
                    record.write(who, lesson.id, given, shown)
                    told += [shown] if shown.skill == "name-stroke" else []
        now = NOW + timedelta(days=9, hours=2)
        quick = record.skills(who.id, now)["name-stroke"]
        slow = mastery_of("name-stroke", told, now)
        assert quick.standing is slow.standing is standing
        assert (quick.due, quick.tried) == (slow.due, slow.tried)
        assert quick.evidence.missing == slow.evidence.missing
        assert [(x.kind, x.at) for x in quick.evidence.good] == [
            (x.kind, x.at) for x in slow.evidence.good
        ]
    assert record.skills(person(9, "").id, NOW)["name-stroke"].standing is Standing.UNTRIED


def test_people_of_one_name_are_one_here_and_one_can_be_erased(record: Answers) -> None:
    ines = write(record, "Ines")
    hugo = write(record, "Hugo")
    assert record.person(" INES ", NOW).id == ines
    assert record.count() == 20
    kept = list(record.everything())
    assert {(k.person.name, k.lesson_id) for k in kept} == {
        ("Ines", LESSON.id),
        ("Hugo", LESSON.id),
    }
    assert all(json.dumps(k.given) for k in kept)
    record.erase(ines)
    assert record.count() == 10
    assert [p.id for p in record.people()] == [hugo]
    path = record.db.path
    record.close()
    assert b"Ines" not in path.read_bytes()


def test_a_record_of_a_newer_program_and_another_file_are_left_alone(tmp_path: Path) -> None:
    for name, make, sentence in (
        ("new", "PRAGMA user_version = 9", "newer version"),
        ("other", "CREATE TABLE x (y)", "is no record of answers"),
    ):
        path = tmp_path / f"{name}.tcanswers"
        if name == "new":
            Answers(path).close()
        with sqlite3.connect(path) as db:
            db.execute(make)
        before = path.read_bytes()
        with pytest.raises(AnswersError, match=sentence):
            Answers(path)
        assert path.read_bytes() == before


def fill(record: Answers) -> None:
    for day in range(1, 60):
        write(record, "Ines", day=day)


def test_a_full_disk_loses_nothing_that_was_kept(record: Answers) -> None:
    ines = write(record, "Ines")
    pages = record.db.rows("PRAGMA page_count")[0][0]
    record.db.rows(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(AnswersError, match="no room"):
        fill(record)
    assert record.count() >= 10
    assert record.skills(ines, NOW)["name-stroke"].tried == record.count()


# Results and tables -----------------------------------------------------------------------------


def put(folder: Path, nth: int, name: str, right: float = 1.0) -> Path:
    who = person(nth, name)
    text = result_text(LESSON, who, answers(LESSON, who, right), nth)
    path = folder / f"r{nth}.result.jsonl"
    path.write_text(text, encoding="utf-8")
    return path


def test_what_is_hostile_or_broken_is_left_out_by_name(tmp_path: Path) -> None:
    good = put(tmp_path, 1, "Ines")
    text = good.read_text(encoding="utf-8")
    bad = {
        "other-lesson": text.replace('"lesson_id":"four-strokes"', '"lesson_id":"two-tdcs"', 1),
        "other-engine": text.replace('rig = \\"alder\\"', 'rig = \\"olive\\"', 1),
        "no-lesson": text.replace('"lesson":"', '"lesson":"x', 1),
        "deep": "[" * 60_000,
        "binary": "\0\1\2",
        "empty": "",
        "rows": text.split("\n")[0] + "\n" + "{}\n" * 25_000,
    }
    paths = [good]
    for name, content in bad.items():
        path = tmp_path / f"{name}.result.jsonl"
        path.write_text(content, encoding="utf-8")
        paths.append(path)
    (tmp_path / "folder.result.jsonl").mkdir()
    paths += [tmp_path / "folder.result.jsonl", tmp_path / "gone.result.jsonl"]
    found = collect(paths)
    assert found.sheets[0].person.name == "Ines"
    named = " ".join(found.left_out)
    for name in ("other-lesson", "no-lesson", "deep", "binary", "empty", "rows", "folder", "gone"):
        assert f"{name}.result.jsonl" in named, name
    big = tmp_path / "big.result.jsonl"
    with big.open("wb") as file:
        file.truncate(30_000_000)
    with pytest.raises(NoResultError, match="larger than"):
        read_sheet(big)


def test_collecting_can_be_cancelled_and_copies_count_once(tmp_path: Path) -> None:
    paths = [put(tmp_path, nth, f"P{nth}") for nth in range(1, 6)]
    copy = tmp_path / "copy.result.jsonl"
    copy.write_text("\n".join(paths[0].read_text(encoding="utf-8").split("\n")[:4]) + "\n")
    assert len(collect([*paths, copy]).sheets) == 5
    some = collect(paths, lambda done: done < 3)
    assert (len(some.sheets), some.all) == (3, False)


def test_tables_hold_no_formula(tmp_path: Path) -> None:
    sheets = [read_sheet(put(tmp_path, 1, "=SUM(1)")), read_sheet(put(tmp_path, 2, "Hugo", 0.0))]
    room = class_of(sheets, NOW)
    write_class_csv(tmp_path / "c.csv", room)
    rows = list(csv.reader(StringIO((tmp_path / "c.csv").read_text(encoding="utf-8-sig"))))
    assert rows[1][0] == "'=SUM(1)"
    write_class_xlsx(tmp_path / "c.xlsx", room)
    book = load_workbook(tmp_path / "c.xlsx")
    assert book.sheetnames == ["Class", "Questions", "Answers"]
    for sheet in book:
        assert all(cell.data_type != "f" for line in sheet.iter_rows() for cell in line)
    assert book["Class"]["A2"].value == "=SUM(1)"
    assert book["Questions"].max_row == 11
    assert book["Answers"].max_row == 21


def test_mark_judges_again_and_says_what_it_proves(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    good, bent = put(tmp_path, 1, "Ines"), put(tmp_path, 2, "Hugo", 0.0)
    assert run(["mark", str(good), str(bent), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [s["name"] for s in told["students"]] == ["Hugo", "Ines"]
    assert told["teach_next"] == "name-stroke"
    text = bent.read_text(encoding="utf-8").replace('"credit":0.0', '"credit":1.0', 1)
    bent.write_text(text, encoding="utf-8")
    assert run(["mark", str(good), str(bent)]) == 1
    out = capsys.readouterr().out
    assert "was altered: line 2" in out
    assert "only somebody who was there can say" in out
    assert run(["mark", str(tmp_path / "none.result.jsonl")]) == 2


# Quiz packages ----------------------------------------------------------------------------------

ORDER = ["responseDeclaration", "outcomeDeclaration", "itemBody", "responseProcessing"]
"""Children of an item in the order of IMS QTI 2.1 (Final, 31 August 2012), section 'XML binding'
(from memory); no package of the registries carries the schema."""


def local(tag: str) -> str:
    return tag.partition("}")[2]


@pytest.mark.parametrize("name", lesson_names())
def test_a_quiz_package_is_built_as_the_specification_has_it(name: str, tmp_path: Path) -> None:
    path = tmp_path / "q.zip"
    package = write_qti(path, shipped_lesson(name), 7)
    assert package.count + len(package.left_out) == shipped_lesson(name).asked_count
    assert all(one.why and one.title for one in package.left_out)
    with zipfile.ZipFile(path) as held:
        names = held.namelist()
        assert held.testzip() is None
        manifest = ET.fromstring(held.read("imsmanifest.xml"))
        files = {e.attrib["href"] for e in manifest.iter() if local(e.tag) == "file"}
        assert files == set(names) - {"imsmanifest.xml"}
        told = held.read(LEFT_OUT).decode() if package.left_out else ""
        assert all(one.words in told for one in package.left_out)
        ids = {e.attrib["identifier"] for e in manifest.iter() if local(e.tag) == "resource"}
        named = [e.attrib["identifierref"] for e in manifest.iter() if local(e.tag) == "dependency"]
        assert set(named) <= ids
        test = ET.fromstring(held.read("test.xml"))
        refs = [e for e in test.iter() if local(e.tag) == "assessmentItemRef"]
        assert len(refs) == package.count
        for ref in refs:
            check_item(ET.fromstring(held.read(ref.attrib["href"])))


def check_item(item: ET.Element) -> None:
    assert item.tag == f"{{{QTI}}}assessmentItem"
    assert {"identifier", "title", "adaptive", "timeDependent"} <= set(item.attrib)
    assert [local(child.tag) for child in item] == ORDER
    declared, outcome, body, processing = item
    assert declared.attrib["cardinality"] in ("single", "multiple")
    assert outcome.attrib["identifier"] == "SCORE"
    interactions = [e for e in body.iter() if "responseIdentifier" in e.attrib]
    assert [e.attrib["responseIdentifier"] for e in interactions] == ["RESPONSE"]
    values = [e.text for e in declared.iter() if local(e.tag) == "value"]
    choices = {e.attrib["identifier"] for e in body.iter() if local(e.tag) == "simpleChoice"}
    if choices:
        assert set(values) <= choices
        assert len(choices) == sum(local(e.tag) == "simpleChoice" for e in body.iter())
    else:
        assert declared.attrib["baseType"] == "float"
        assert float(values[0] or "x") is not None
        assert local(processing[0].tag) == "responseCondition"


def test_the_same_seed_gives_the_same_package(tmp_path: Path) -> None:
    for name in "ab":
        write_qti(tmp_path / f"{name}.zip", LESSON, 7)
    write_qti(tmp_path / "c.zip", LESSON, 8)
    one, same, other = ((tmp_path / f"{n}.zip").read_bytes() for n in "abc")
    assert one == same != other


# Commands ---------------------------------------------------------------------------------------


def test_drill_and_judge_speak_json(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    kinds = "stroke,companion,fires-next,free,two-stop,order-possible,thou,centreline,screw"
    assert run(["drill", kinds, "--engine", "olive", "--seed", "7", "--count", "18", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["questions"]
    assert [q["kind"] for q in told[:9]] == kinds.split(",")
    assert all(set(q) == {"kind", "engine", "at_deg", "ask", "text", "answer", "why"} for q in told)
    question, answer = tmp_path / "q.json", tmp_path / "a.json"
    for record in told:
        question.write_text(json.dumps(record), encoding="utf-8")
        answer.write_text(json.dumps({"answer": record["answer"]}), encoding="utf-8")
        assert run(["drill", "judge", str(question), str(answer), "--json"]) == 0
        judged = json.loads(capsys.readouterr().out)
        assert set(judged) == {"credit", "idea", "why"}
        assert (judged["credit"], judged["idea"]) == (1.0, None)
    # What a file says is right is not believed.
    free = next(q for q in told if q["kind"] == "free")
    question.write_text(json.dumps({**free, "answer": []}), encoding="utf-8")
    answer.write_text(json.dumps({"answer": []}), encoding="utf-8")
    assert run(["drill", "judge", str(question), str(answer), "--json"]) == 1
    assert json.loads(capsys.readouterr().out)["credit"] == 0.0


BAD = [
    (["drill", "stroke", "--count", "0"], "--count must be a whole number from 1"),
    (["drill", "guess"], "is neither a kind of question"),
    (["drill", "companion", "--engine", "ash"], "has one cylinder"),
    (["drill", "stroke", "--engine", "baobab"], "neither a file nor a demo rig"),
    (["drill", "judge", "x"], "needs two files"),
    (["lesson", "check", "nothing"], "nor a lesson that ships"),
    (["lesson", "qti", "four-strokes", "-o", "x.txt"], "must end in .zip"),
    (["mark", "nothing.result.jsonl"], "is not there"),
]


@pytest.mark.parametrize(("words", "sentence"), BAD)
def test_wrong_words_are_one_line(
    words: list[str], sentence: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert run(words) == 2
    told = capsys.readouterr().err
    assert sentence in told
    assert told.count("\n") == 1


def test_a_day_is_the_local_date_beside_the_time_in_utc(record: Answers) -> None:
    write(record, "Ines")
    (row, *_) = record.everything()
    at = datetime.fromisoformat(row.given["at"])
    assert at.tzinfo is not None
    assert at.astimezone(UTC) == NOW
    assert row.given["day"] == "2026-11-02"


FIXTURES = Path(__file__).parents[1] / "fixtures" / "lessons"


def old_row(nth: int, skill: str, question: Any, day: str = "2026-11-02") -> tuple[Any, ...]:
    """An answer as version 1 kept it, right and unaided, at a place of its own."""
    at = f"{day}T09:{nth:02d}:00+00:00"
    told = json.dumps(question)
    of = "p", "x", 0, nth, skill, "Rig", "inline four"
    return (*of, at, day, 1, 0, 1.0, "", told, "1")


def test_answers_of_version_1_are_read_by_the_rule_of_today(tmp_path: Path) -> None:
    """What never changed counts for nothing, a question asked again neither; preload parts."""
    path = tmp_path / NAME
    stroke = {"kind": "stroke", "engine": "Alder", "at_deg": 30.0, "ask": {"cylinder": 1}}
    rows = [
        old_row(1, "name-stroke", stroke),
        old_row(2, "name-stroke", stroke),
        old_row(2, "name-stroke", stroke, "2026-11-09"),
        old_row(3, "name-stroke", stroke, "2026-11-09"),
        old_row(4, "two-tdcs", {"kind": "mark-zero", "ask": {"cylinder": 1}}),
        old_row(5, "two-tdcs", {"kind": "covered", "ask": {"task": "which-tdc"}}),
        old_row(6, "set-engine", {"kind": "covered", "ask": {"task": "preload"}}),
        old_row(7, "figures", {"kind": "screw", "ask": {"item": "I1", "measured_mm": 0.0}}),
        old_row(8, "figures", {"kind": "thou", "ask": {"thou": 12}}),
    ]
    with sqlite3.connect(path) as db:
        for statement in SCHEMA_1:
            db.execute(statement)
        db.execute("INSERT INTO person VALUES ('p', 'Ines', ?)", (NOW.isoformat(),))
        for row in rows:
            marks = ", ".join("?" * len(row))
            db.execute(
                "INSERT INTO answer (person_id, lesson_id, part, nth, skill, engine, layout, at, "
                f"day, correct, aided, credit, idea, question, answer) VALUES ({marks})",
                row,
            )
        db.execute(
            "INSERT INTO again VALUES ('p', 'set-engine', 1, 1, 0, 3.0, 5.0, ?, ?)",
            (NOW.isoformat(), NOW.isoformat()),
        )
        db.execute("PRAGMA user_version = 1")
        db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    db.close()
    record = Answers(path)
    told = record.db.rows("SELECT kind, choices, fresh, skill FROM answer ORDER BY id")
    assert told == [
        ("stroke", 4, 1, "name-stroke"),
        ("stroke", 4, 0, "name-stroke"),  # Again on the same day.
        ("stroke", 4, 0, "name-stroke"),  # The same set on another day.
        ("stroke", 4, 0, "name-stroke"),  # And once more on that day.
        ("mark-zero", 1, 1, "two-tdcs"),
        ("covered", 2, 1, "two-tdcs"),
        ("covered-preload", 64, 1, "set-preload"),
        ("screw", 1, 1, "figures"),
        ("thou", 64, 1, "figures"),
    ]
    standings = {slug: m.standing for slug, m in record.skills("p", NOW).items() if m.tried}
    assert list(standings) == ["set-preload"]
    assert list((tmp_path / "backups").iterdir())
    record.close()


@pytest.mark.parametrize("version", range(1, VERSION + 1))
def test_what_every_version_wrote_still_opens(version: int, tmp_path: Path) -> None:
    """A lesson, a result of it that is judged again, and a record of the same answers."""
    lesson = read_lesson(FIXTURES / "v1.lesson.toml")
    assert lesson.asked_count == 10
    sheet = read_sheet(FIXTURES / "v1.result.jsonl")
    assert (sheet.trouble, sheet.lesson.title) == ("", lesson.title)
    assert [g.credit for g in sheet.given] == [1.0] * 8 + [0.0] * 2
    path = tmp_path / NAME
    with sqlite3.connect(path) as db:
        db.executescript((FIXTURES / f"v{version}.sql").read_text(encoding="utf-8"))
        db.execute(f"PRAGMA user_version = {version}")
        db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    db.close()
    old, fresh = Answers(path), Answers(tmp_path / "new.tcanswers")
    for given in sheet.given:
        fresh.write(sheet.person, lesson.id, given, shown_by(lesson, given))
    assert list(old.everything()) == list(fresh.everything())
    assert old.skills(sheet.person.id, NOW) == fresh.skills(sheet.person.id, NOW)
    tables = "SELECT sql FROM sqlite_master WHERE sql IS NOT NULL ORDER BY name"
    assert old.db.rows(tables) == fresh.db.rows(tables)
    old.close()
    fresh.close()
