"""Drills without end, a time that runs out, another engine, and what is kept on the computer."""

import csv
from dataclasses import replace
from datetime import timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt

from tests.app.test_lessons import Bench, Key
from tests.conftest import Answers, MakeWindow
from tests.qtest import QTest
from true_compass.files.course import shipped_lesson
from true_compass.files.rigs import demo_rig
from true_compass.lessons.skills import SKILLS
from true_compass.session.lesson import Station

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def bench(open_window: MakeWindow) -> Bench:
    return Bench(open_window("elm"))


def answer_rightly(bench: Bench) -> None:
    bench.model.enter(bench.on.form.read(bench.on.drill.answer(bench.on.asked)))
    bench.key(Key.Key_Return)
    assert bench.on.judged is not None
    bench.key(Key.Key_Return)


def press_skill(bench: Bench, slug: str) -> None:
    page = bench.page.learn.map
    row = next(row for row, skill in enumerate(SKILLS) if skill.slug == slug)
    at = page.row_box(row).center() * page.look.scale
    QTest.mouseClick(page, LEFT, pos=at.toPoint())


def test_a_skill_is_drilled_on_the_engine_of_the_window_as_long_as_one_likes(bench: Bench) -> None:
    press_skill(bench, "companions")
    assert bench.on.rig.engine == demo_rig("elm")
    assert bench.on.drill.skill == "companions"
    first = [stop.question for stop in bench.on.stops]
    assert len(first) == 10
    while not bench.on.over:
        answer_rightly(bench)
    assert bench.on.marks == 10
    bench.window.grab()
    bench.key(Key.Key_Return)
    assert [stop.question for stop in bench.on.stops] != first
    assert bench.on.place == 0
    assert not list(bench.model.keeper.folder.glob("*")), "no result is handed in"
    assert bench.model.skills["companions"].tried == 10
    bench.key(Key.Key_Escape)
    assert "Companions and overlap: needs " in bench.page.learn.map.text_twin()
    assert not bench.model.trouble


def test_a_kind_is_found_by_typing(bench: Bench) -> None:
    QTest.mouseClick(bench.page.learn.drill, LEFT)
    QTest.keyClicks(bench.page.chooser.field, "who fires next")
    QTest.keyClick(bench.page.chooser.field, Key.Key_Return)
    assert {stop.question.kind for stop in bench.on.stops if stop.question} == {"fires-next"}


def test_a_skill_that_this_engine_cannot_show_says_so(open_window: MakeWindow) -> None:
    bench = Bench(open_window("ash"))
    press_skill(bench, "rotor-leads")
    assert bench.model.on is None
    assert "Open another engine first" in bench.window.note.text


def test_a_guided_part_goes_on_on_another_engine(bench: Bench) -> None:
    bench.open("two-tdcs")
    bench.key(Key.Key_Return)
    QTest.mouseClick(bench.page.learn.elsewhere, LEFT)
    QTest.keyClicks(bench.page.chooser.field, "elm")
    QTest.keyClick(bench.page.chooser.field, Key.Key_Return)
    assert bench.on.place == 1
    assert bench.on.rig.engine == demo_rig("elm") == bench.model.crank.state.engine
    bench.model.crank.turn_to(bench.on.drill.answer(bench.on.asked))
    bench.key(Key.Key_Return)
    assert bench.on.judged is not None
    assert bench.on.judged.is_right
    bench.key(Key.Key_Return)
    assert bench.on.place == 2
    bench.model.give_on(demo_rig("ash"))
    assert bench.on.rig.engine == demo_rig("elm"), "a single has no companion: nothing changed"


def test_the_time_runs_from_the_first_question_and_ends_it(bench: Bench) -> None:
    lesson = shipped_lesson("four-strokes")
    lesson = replace(lesson, settings=replace(lesson.settings, minutes=5))
    bench.model.begin(lesson)
    assert bench.on.until is None, "a guided part has no time"
    while bench.on.stop.station is Station.STEP:
        bench.model.go_on()
    now = bench.model.keeper.now()
    left = bench.on.left_s(now)
    assert left is not None
    assert 295 <= left <= 300
    assert bench.on.left_s(now + timedelta(minutes=9)) == 0
    assert bench.model.left_words in ("4 min left", "5 min left")
    answer_rightly(bench)
    bench.model.leave()
    bench.model.begin(lesson)
    again = bench.on.until
    assert again == bench.on.given[0].at + timedelta(minutes=5), "leaving does not stop the clock"
    bench.model.desk.session.put_lesson(replace(bench.on, until=now - timedelta(seconds=1)))
    bench.model.enter(bench.on.form.read(bench.on.drill.answer(bench.on.asked)))
    bench.key(Key.Key_Return)
    assert bench.on.over
    assert bench.on.timed_out
    assert len(bench.on.given) == 1, "what came too late is not taken"
    assert not bench.model.clock.isActive()
    bench.window.grab()


def test_all_is_written_out_and_one_person_erased(
    bench: Bench, answers: Answers, tmp_path: Path
) -> None:
    for name in ("=Ines", "Jon"):
        bench.model.be(name)
        bench.open("four-strokes")
        bench.to_drill()
        answer_rightly(bench)
        bench.key(Key.Key_Escape)
    chooser, record = bench.page.chooser, bench.page.learn.record
    answers.path = tmp_path / "all"
    QTest.mouseClick(record, LEFT)
    QTest.keyClicks(chooser.field, "every")
    QTest.keyClick(chooser.field, Key.Key_Return)
    rows = list(csv.reader((tmp_path / "all.csv").read_text("utf-8-sig").splitlines()))
    assert [row[1] for row in rows] == ["name", "'=Ines", "Jon"]
    answers.path = tmp_path / "no" / "such" / "folder.csv"
    QTest.mouseClick(record, LEFT)
    QTest.keyClick(chooser.field, Key.Key_Return)
    assert "could not be written" in bench.window.note.text

    QTest.mouseClick(record, LEFT)
    QTest.keyClicks(chooser.field, "erase jon")
    QTest.keyClick(chooser.field, Key.Key_Return)
    QTest.keyClick(chooser.field, Key.Key_Return)
    kept = bench.model.keeper.answers
    assert kept is not None
    assert kept.count() == 2, "the first line keeps everything"
    chooser.hide()
    QTest.mouseClick(record, LEFT)
    QTest.keyClicks(chooser.field, "erase jon")
    QTest.keyClick(chooser.field, Key.Key_Return)
    QTest.keyClick(chooser.field, Key.Key_Down)
    QTest.keyClick(chooser.field, Key.Key_Return)
    assert [one.person.name for one in kept.everything()] == ["=Ines"]
    assert len(list(bench.model.keeper.folder.iterdir())) == 1
    assert bench.model.person.name == ""
    data = bench.model.keeper._data
    assert not any(b"Jon" in path.read_bytes() for path in data.rglob("*answers*"))
