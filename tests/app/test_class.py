"""A lesson in the real window, from handing out to certificate: an instructor and three students,
one of whom has every wrong idea.
"""

from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QWidget

from tests.conftest import Answers
from tests.hand import Hand
from tests.lessons import made
from tests.painted import painted_texts
from tests.qtest import QTest
from true_compass.app.keeping.keeping import Keeping
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.lessons.workspace import CLASS, MAKE, SHOW, LessonsWorkspace
from true_compass.core.ideas import IDEAS
from true_compass.drawing.certificate import certificate, mark_of_student
from true_compass.drawing.documents import A4
from true_compass.drawing.theme import load_fonts
from true_compass.files.course import shipped_lesson
from true_compass.files.lesson_file import lesson_text
from true_compass.files.rigs import demo_rig
from true_compass.lessons.forms import Answer, Choice
from true_compass.lessons.lesson import DrillPart
from true_compass.lessons.mastery import Standing
from true_compass.session.lesson import OnLesson, Station
from true_compass.session.session import Session, Source

Key = Qt.Key
KINDS = {
    "mark-zero": 2,
    "open-at-tdc": 4,
    "tight": 3,
    "cap": 2,
    "fires-next": 2,
    "fires": 2,
    "companion": 4,
    "tooth": 2,
    "flat": 2,
    "free": 4,
    "ramp": 5,
    "dots": 3,
    "may-set": 4,
    "half-post": 2,
    "thou": 2,
    "dots-prove": 4,
}
"""Drills with how often each is asked: between them they provoke every wrong idea."""


class Room:
    """One machine that passes from hand to hand."""

    def __init__(self, window: MainWindow, answers: Answers, folder: Path) -> None:
        self.window, self.answers, self.folder = window, answers, folder
        self.now = datetime(2026, 11, 2, 9, 0, tzinfo=UTC)
        window.look.set_still(True)
        window.go_to("Lessons")
        page = window.workspace
        assert isinstance(page, LessonsWorkspace)
        self.page, self.model = page, page.model

    @property
    def on(self) -> OnLesson:
        assert self.model.on is not None
        return self.model.on

    def sit(self, name: str) -> None:
        self.page.who.click()
        self.page.name.setText(name)
        QTest.keyClick(self.page.name, Key.Key_Return)
        assert self.model.person.name.casefold() == name.casefold()

    def open(self) -> None:
        (lesson,) = self.folder.glob("*.lesson.toml")
        self.window.opener.open_path(lesson)
        # It asks who works on it; who sits there already goes on with Enter.
        QTest.keyClick(self.window.focusWidget(), Key.Key_Return)
        assert self.on.folder == str(self.folder)

    def work(self, wrong: bool = False, every: int = 1) -> None:
        """Answer everything: rightly, or with a wrong idea wherever one leads to an answer."""
        while not self.on.over:
            if self.on.stop.station is Station.QUESTION and self.on.place % every == 0:
                self.model.enter(self.idea() if wrong else self.right())
                QTest.keyClick(self.window, Key.Key_Return)
                assert self.on.judged is not None
            self.now += timedelta(minutes=1)
            self.model.go_on()
        QTest.keyClick(self.window, Key.Key_Escape)

    def right(self) -> Answer:
        return self.on.form.read(self.on.drill.answer(self.on.asked))

    def idea(self) -> Answer:
        on = self.on
        slips = [on.form.read(slip) for slip in on.drill.slips(on.asked)]
        wrong = [s for s in slips if not on.form.marks(self.right(), s).is_full]
        misled = [s for s in wrong if on.drill.idea(on.asked, s)]
        found = misled or wrong or [self.right()]
        return found[on.stop.nth % len(found)]


@pytest.fixture
def room(qapp: QApplication, tmp_path: Path, answers: Answers) -> Iterator[Room]:
    load_fonts()
    clock: list[Room] = []

    def now() -> datetime:
        return clock[0].now if clock else datetime(2026, 11, 2, 9, 0, tzinfo=UTC)

    keeping = Keeping.at(tmp_path / "c", tmp_path / "s", now, tmp_path / "d")
    session = Session(demo_rig("alder"), Source(rig="alder"))
    window = MainWindow(session, keeping, answers.dialogs())
    keeping.troubles.listen(window.opener.said.emit)
    window.resize(1280, 800)
    window.show()
    folder = tmp_path / "shared"
    folder.mkdir()
    made = Room(window, answers, folder)
    clock.append(made)
    yield made
    window.close()
    window.deleteLater()


def test_from_handing_out_to_certificate(room: Room, qapp: QApplication, tmp_path: Path) -> None:
    page, making = room.page, room.page.making
    # The instructor makes a lesson and hands it out.
    page.show_page(MAKE)
    making.begin_anew()
    assert not making.checked.can_go_out
    assert not page.make.hand_out.isEnabled()
    page.make.title.setText("Every wrong idea")
    page.make.title.editingFinished.emit()
    for kind, count in KINDS.items():
        making.add_drill(kind)
        making.toggle_engine("Birch")
        if kind == "companion":
            making.toggle_engine("Linden")
        if kind == "free":
            making.toggle_engine("Birch")
        for _ in range(6 - count):
            page.make.fewer.click()
        if kind == "may-set":
            page.make.more_engines.click()
            page.chooser.hide()
    assert making.checked.can_go_out, making.checked.bad
    making.set_whole(same=True, passed=20)
    page.make.own.click()
    page.make.mixed.click()
    assert making.lesson.settings.mixed
    page.make.same.click()
    assert not making.lesson.settings.mixed
    room.answers.path = room.folder / "Every wrong idea.lesson.toml"
    page.make.hand_out.click()
    assert room.answers.suggested == "Every wrong idea.lesson.toml"
    # Three students, one after the other; Ines comes back a week later.
    room.sit("Ines")
    room.open()
    room.work()
    room.sit("Hugo")
    room.open()
    room.work(wrong=True)
    room.sit("")
    room.open()
    room.work(every=2)
    room.now += timedelta(days=7)
    room.sit("ines")
    room.open()
    assert len(room.on.given) == sum(KINDS.values())
    room.work()
    assert len(list(room.folder.glob("*.result.jsonl"))) == 3
    assert len(room.model.people()) == 3
    # The instructor collects.
    page.show_page(CLASS)
    collector = page.room.collector
    assert collector.folder == room.folder
    collector.look()
    while collector.reading is not None:
        qapp.processEvents()
    sheet = page.room.room
    assert "not finished" in page.room.line  # the one without a name answered every second
    assert [student.person.name for student in sheet.students][:2] == ["Hugo", "Ines"]
    states = {student.label.split()[0]: s.state for student, s in sheet.handed_in}
    assert states == {"Hugo": "not passed", "Ines": "passed", "no": "not finished"}
    page.class_page.skills.click()
    hugo, ines = sheet.students[:2]
    told = {idea for item in sheet.items for idea, _ in item.ideas}
    assert told == {idea.slug for idea in IDEAS}
    # All had one set: what was told of it shows nothing a week later.
    assert not hugo.secure
    assert not ines.secure
    assert ines.skills["two-tdcs"].standing is not Standing.SECURE
    # What she did elsewhere, on two days with a set each, comes into the folder.
    for name in ("four-strokes", "two-turns"):
        for day in (0, 9):
            lesson = shipped_lesson(name)
            given = made.answers(lesson, ines.person, day=day)
            text = made.result_text(lesson, ines.person, given, 7 + day + len(name))
            (room.folder / f"{name}-{day}.result.jsonl").write_text(text, encoding="utf-8")
    collector.look()
    while collector.reading is not None:
        qapp.processEvents()
    sheet = page.room.room
    hugo, ines = sheet.students[:2]
    assert ines.secure == ("name-stroke",)
    assert page.room.headline.startswith("Teach next: ")
    window = room.window
    window.grab()
    # The question that misled most goes to the room.
    page.class_page.show_it.click()
    assert page.page == SHOW
    show = page.show_page_view
    shown = show.question
    assert shown is not None
    QTest.keyClick(window, Key.Key_1)
    QTest.keyClick(window, Key.Key_2)
    QTest.keyClick(window, Key.Key_Right)
    QTest.keyClick(window, Key.Key_3)
    assert show.hands.counts[:2] == (12, 3)
    assert "is right" not in show.text_twin()
    assert not show.answered
    QTest.keyClick(window, Key.Key_Return)
    assert show.answered
    assert "is right" in show.text_twin()
    window.grab()
    QTest.keyClick(window, Key.Key_N)
    assert not show.answered
    QTest.keyClick(window, Key.Key_Escape)
    # Certificate and table.
    page.room.pick(0, 1)
    page.class_page.certificates.click()
    assert certificate([ines], room.now.date()).pages(A4)
    assert len(mark_of_student(ines)) == 64
    room.answers.path = tmp_path / "class.csv"
    page.class_page.table.click()
    lines = (tmp_path / "class.csv").read_text(encoding="utf-8-sig").split("\n")
    assert lines[0].startswith("student,answers,marks")
    assert any(line.startswith("Hugo,") for line in lines)
    room.answers.path = tmp_path / "class.xlsx"
    page.class_page.table.click()
    assert (tmp_path / "class.xlsx").stat().st_size > 5000


def test_a_folder_that_is_gone_is_told_and_what_was_read_stays(
    room: Room, qapp: QApplication
) -> None:
    room.page.room.collect_from(room.folder)
    (room.folder / "x.result.jsonl").write_text("no result\n", encoding="utf-8")
    room.page.room.collector.look()
    while room.page.room.collector.reading is not None:
        qapp.processEvents()
    assert "left out" in room.page.room.line
    (_, left_out), (_, proves) = room.page.room.troubles()
    assert "x.result.jsonl" in left_out
    assert "only somebody who was there can say" in proves
    (room.folder / "x.result.jsonl").unlink()
    room.folder.rmdir()
    room.page.room.collector.look()
    assert "is the stick there?" in room.page.room.line


def test_a_clock_that_goes_back_is_told_and_the_answer_kept(room: Room) -> None:
    room.model.begin(shipped_lesson("four-strokes"))
    while room.on.stop.station is Station.STEP:
        room.model.go_on()
    for days in (0, 40):
        room.now -= timedelta(days=days)
        room.model.choose(room.right())
        room.model.answer()
        room.model.go_on()
    assert "The clock of this computer went back" in room.window.note.text
    assert len(room.on.given) == 2
    kept = room.model.keeper.answers
    assert kept is not None
    assert kept.count() == 2


def test_a_stick_that_is_pulled_out_loses_nothing(room: Room, tmp_path: Path) -> None:
    making = room.page.making
    making.begin_anew()
    making.add_drill("stroke")
    stick = tmp_path / "stick"
    stick.mkdir()
    path = stick / "strokes.lesson.toml"
    making.write(path, making.lesson)
    room.page.take_file(path)
    room.page.learn.begin.click()
    path.unlink()
    stick.rmdir()
    room.model.choose(room.right())
    QTest.keyClick(room.window, Key.Key_Return)
    assert "could not be left in" in room.window.note.text
    (kept,) = room.model.keeper.folder.iterdir()
    assert kept.name.endswith(".result.jsonl")
    # It is there again: the next answer hands all of it in.
    stick.mkdir()
    room.model.go_on()
    room.model.choose(room.right())
    QTest.keyClick(room.window, Key.Key_Return)
    (left,) = stick.iterdir()
    assert left.read_bytes() == kept.read_bytes()
    assert left.read_bytes().count(b"\n") == 3
    # Whoever took the file away can have it once more at the end.
    left.unlink()
    while not room.on.over:
        room.model.go_on()
    room.window.grab()
    QTest.keyClick(room.window, Key.Key_Return)
    assert left.read_bytes() == kept.read_bytes()
    assert "Your result is in" in room.window.note.text


def test_each_day_brings_a_set_and_one_left_unfinished_is_finished_first(room: Room) -> None:
    """By keys alone: two of four answered, left, finished the next day; then a set of that day."""
    hand = Hand(room.window)
    part = DrillPart("Daily", ("stroke",), ("Alder",), 4)
    lesson = replace(shipped_lesson("four-strokes"), id="daily", title="Daily", parts=(part,))
    path = room.folder / "Daily.lesson.toml"
    path.write_text(lesson_text(lesson), encoding="utf-8")

    def begin() -> list[object]:
        assert hand.drop(path)
        hand.key(Key.Key_Return)
        return [stop.question for stop in room.on.stops]

    def answer() -> None:
        form = room.on.form
        assert isinstance(form, Choice)
        right = [option.value for option in form.options].index(room.right())
        hand.type(str(right + 1))
        hand.key(Key.Key_Return)
        hand.key(Key.Key_Return)

    first = begin()
    answer()
    answer()
    hand.key(Key.Key_Escape)
    hand.key(Key.Key_Escape)
    room.now += timedelta(days=1)
    assert begin() == first
    assert room.on.place == 2
    answer()
    answer()
    assert room.on.over
    hand.key(Key.Key_Escape)
    second = begin()
    assert second != first
    assert not room.on.given
    for _ in range(4):
        answer()
    hand.key(Key.Key_Escape)
    assert begin() == second
    assert len(list(room.folder.glob("*.result.jsonl"))) == 2
    assert room.model.skills["name-stroke"].tried == 8


def test_a_quiz_package_is_written_from_class_and_says_what_it_left_out(
    room: Room, tmp_path: Path
) -> None:
    hand = Hand(room.window)
    hand.press("Class")
    room.answers.path = tmp_path / "two-tdcs.zip"
    hand.press("Quiz package…")
    hand.type("two tdcs")
    hand.key(Key.Key_Return)
    assert room.answers.suggested == "The two TDCs.zip"
    assert (tmp_path / "two-tdcs.zip").stat().st_size > 1000
    sheets = [w for w in room.window.findChildren(QWidget) if w.isVisible()]
    told = " ".join(text for sheet in sheets for text in painted_texts(sheet))
    assert "Left out of the quiz package" in told
    assert "it is answered by turning the engine" in told
