"""One file never stops a class, takes another's place, or passes for what it is not."""

import json
import os
from dataclasses import replace
from functools import cache
from pathlib import Path

import pytest

from tests.lessons.made import NOW, answers, person, result_text
from true_compass.cli.main import run
from true_compass.core.chained import compact, mark_of
from true_compass.files.course import shipped_lesson
from true_compass.files.lesson_file import lesson_text
from true_compass.files.result_files import collect, known_lessons
from true_compass.lessons.collect import class_of
from true_compass.lessons.lesson import DrillPart, Lesson, Settings

LESSON = shipped_lesson("four-strokes")
GOOD = 299


@cache
def good_text(nth: int) -> str:
    who = person(nth, f"P{nth:03}")
    return result_text(LESSON, who, answers(LESSON, who)[:2], nth)


def rechained(text: str, nth: int, **changes: object) -> str:
    """A result whose line `nth` says something else, with a chain that holds."""
    lines = [json.loads(line) for line in text.split("\n") if line]
    told = lines[nth].get("given", lines[nth])
    for key, value in changes.items():
        if value is None:
            del told[key]
        else:
            told[key] = value
    whole = [json.dumps(lines[0]) if nth == 0 else text.split("\n")[0]]
    for line in lines[1:]:
        mark = "0" * 64
        try:
            mark = mark_of(whole[-1], line["given"])
        except UnicodeEncodeError:
            whole.append(json.dumps({"given": line["given"], "chain": mark}, sort_keys=True))
            continue
        whole.append(compact({"given": line["given"], "chain": mark}))
    return "".join(f"{line}\n" for line in whole)


def bad_texts() -> dict[str, str]:
    text = good_text(1)
    other = json.dumps(json.loads(text.split("\n")[0])["lesson"])
    return {
        "surrogate": rechained(text, 1, answer="\ud800"),
        "no-answer": rechained(text, 1, answer=None),
        "infinite-seed": text.replace('"seed":7', '"seed":Infinity', 1),
        "huge-seed": text.replace('"seed":7', '"seed":1e400', 1),
        "long-seed": text.replace('"seed":7', f'"seed":{"9" * 400}', 1),
        "first-day": rechained(text, 1, at="0001-01-01T00:00:00+14:00"),
        "last-day": rechained(text, 1, at="9999-12-31T23:59:59-14:00"),
        "part": rechained(text, 1, part=1e300),
        "credit": rechained(text, 1, credit=-1),
        "kind": rechained(text, 1, question={"kind": "nothing"}),
        "ask": rechained(text, 1, question={"kind": "stroke", "ask": {"cylinder": [[[]]]}}),
        "copy": text.replace(other, other.replace("cylinders = 4", "cylinders = [4]"), 1),
        "no-copy": text.replace(other, other.replace("[engines.copy", "[engines.cpy"), 1),
        "title": rechained(text, 0, title="\udfff"),
    }


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Good results, and among them everything that is none."""
    folder = tmp_path_factory.mktemp("class")
    for nth in range(1, GOOD + 1):
        (folder / f"good-{nth}.result.jsonl").write_text(good_text(nth), encoding="utf-8")
    for name, text in bad_texts().items():
        path = folder / f"{name}.result.jsonl"
        path.write_text(text, encoding="utf-8", errors="surrogatepass")
    (folder / "dangling.result.jsonl").symlink_to(folder / "nothing")
    (folder / "looping.result.jsonl").symlink_to(folder / "looping.result.jsonl")
    os.mkfifo(folder / "pipe.result.jsonl")
    return folder


def test_299_good_ones_beside_every_bad_one_are_299_students(folder: Path) -> None:
    paths = sorted(folder.iterdir())
    bad = [path.name for path in paths if not path.name.startswith("good-")]
    found = collect(paths, known=known_lessons([folder]))
    room = class_of(found.sheets, NOW)
    assert len({student.person.id for student in room.students}) == GOOD
    assert all(student.answers == 2 for student in room.students if student.person.id[-1:] != "1")
    odd = [sheet for sheet in found.sheets if sheet.trouble]
    told = [*found.left_out, *(f"{sheet.name} {sheet.trouble}" for sheet in odd)]
    for name in bad:
        assert any(name in line and len(line) > len(name) + 5 for line in told), name
    assert not any("cannot be judged: it is left out" in line for line in found.left_out)


def test_mark_tells_them_in_lines_and_goes_on(
    folder: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert run(["mark", *map(str, sorted(folder.iterdir())), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert len(told["students"]) >= GOOD
    assert len(told["troubles"]) >= len(bad_texts())


def put(folder: Path, name: str, text: str) -> Path:
    path = folder / f"{name}.result.jsonl"
    path.write_text(text, encoding="utf-8")
    return path


@pytest.mark.parametrize("same", ["person", "result", "both"])
def test_nobody_takes_the_place_of_another_by_an_id(same: str, tmp_path: Path) -> None:
    ines, hugo = person(1, "Ines"), person(2, "Hugo")
    if same != "result":
        hugo = replace(hugo, id=ines.id)
    nth = 1 if same != "person" else 2
    put(tmp_path, "a", result_text(LESSON, ines, answers(LESSON, ines), 1))
    put(tmp_path, "b", result_text(LESSON, hugo, answers(LESSON, hugo, 0.2), nth))
    room = class_of(collect(sorted(tmp_path.iterdir())).sheets, NOW)
    assert {student.label for student in room.students} == {"Ines", "Hugo"}
    told = {sheet.person.name: sheet.trouble for _, sheet in room.handed_in}
    assert "has the id of what Hugo handed in" in told["Ines"]
    assert "has the id of what Ines handed in" in told["Hugo"]


def easier(lesson: Lesson) -> Lesson:
    """The same lesson by name and id, with one question in each drill."""
    parts = [replace(p, count=1) if isinstance(p, DrillPart) else p for p in lesson.parts]
    return replace(lesson, parts=tuple(parts))


@pytest.mark.parametrize("shipped", [True, False])
def test_an_easier_lesson_of_the_same_id_is_another_lesson(
    *, shipped: bool, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    own = LESSON if shipped else replace(LESSON, id="3f0d9a52-6c0e-4f6e-9c1c-1a2b3c4d5e6f")
    own = replace(own, settings=replace(Settings(), passed=1, seed=3))
    known = None
    if not shipped:
        (tmp_path / "own.lesson.toml").write_text(lesson_text(own), encoding="utf-8")
        known = known_lessons([tmp_path])
    ines, hugo = person(1, "Ines"), person(2, "Hugo")
    put(tmp_path, "a", result_text(own, ines, answers(own, ines), 1))
    put(tmp_path, "b", result_text(easier(own), hugo, answers(easier(own), hugo), 2))
    paths = sorted(tmp_path.glob("*.result.jsonl"))
    sheets = {s.person.name: s for s in collect(paths, known=known or known_lessons([])).sheets}
    assert sheets["Hugo"].state == "another lesson"
    assert sheets["Hugo"].passed is None
    assert "another lesson that has this one's id" in sheets["Hugo"].trouble
    assert sheets["Ines"].is_other is shipped, "a shipped lesson with a pass mark is another one"
    assert run(["mark", *map(str, paths)]) == 1
    assert "another lesson" in capsys.readouterr().out
