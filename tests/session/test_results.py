"""Answers outlast a kill at any moment, a full disk, and two windows at one lesson."""

import signal
import subprocess
import sys
import time
from datetime import UTC, datetime
from pathlib import Path

import pytest

from tests.files.test_growing import room_for
from true_compass.files.answers_file import NAME, Answers
from true_compass.files.course import shipped_lesson
from true_compass.files.result_files import collect
from true_compass.lessons.result import Person, parse_result
from true_compass.session.lesson import OnLesson, Station
from true_compass.session.results import LessonKeeper
from true_compass.session.store import WRITTEN, Troubles

WORKER = """
import sys
from datetime import UTC, datetime
from pathlib import Path
from true_compass.files.course import shipped_lesson
from true_compass.lessons.result import Person
from true_compass.session.lesson import OnLesson, Station
from true_compass.session.results import LessonKeeper
from true_compass.session.store import Troubles

data, results = Path(sys.argv[1]), Path(sys.argv[2])
keeper = LessonKeeper(data, results, Troubles(), lambda: datetime.now(UTC))
who = keeper.answers.person("Ines", keeper.now())
on = OnLesson.begin(shipped_lesson("four-strokes"), who, 7)
places = [n for n, stop in enumerate(on.stops) if stop.station is Station.QUESTION]
for nth in range(10_000):
    on = on.at(places[nth % len(places)])
    on = on.entering(on.form.read(on.drill.answer(on.asked)))
    on = on.answered(keeper.now(), keeper.today())
    keeper.keep(on, on.given[-1])
    print(nth + 1, flush=True)
"""


@pytest.mark.parametrize("after_s", [0.05, 0.21, 0.4])
def test_what_was_answered_is_there_after_a_kill(after_s: float, tmp_path: Path) -> None:
    data, results = tmp_path / "data", tmp_path / "results"
    data.mkdir()
    words = [sys.executable, "-c", WORKER, str(data), str(results)]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as worker:
        assert worker.stdout is not None
        assert worker.stdout.readline() == "1\n"
        time.sleep(after_s)
        worker.send_signal(signal.SIGKILL)
        told = int((["1", *worker.stdout.read().split()])[-1])
    record = Answers(data / NAME)
    assert told <= record.count() <= told + 1
    ines = record.person("Ines", datetime.now(UTC))
    assert record.skills(ines.id, datetime.now(UTC))["name-stroke"].tried == record.count()
    record.close()
    (path,) = results.iterdir()
    result = parse_result(path.read_text(encoding="utf-8"))
    assert result.whole
    assert told <= len(result.given) <= told + 1


LESSON = shipped_lesson("four-strokes")
INES = Person("00000000-0000-4000-8000-000000000001", "Ines")


class Window:
    """One window at the lesson, as the page has it, with a clock that all windows share."""

    minute = 0

    def __init__(self, folder: Path, handed: Path) -> None:
        self.told: list[str] = []
        self.troubles = Troubles()
        self.troubles.listen(self.told.append)
        self.keeper = LessonKeeper(folder / "data", folder / "results", self.troubles, self._now)
        seed, given = self.keeper.set_of(LESSON, INES)
        self.on = OnLesson.begin(LESSON, INES, seed, folder=str(handed)).going_on(given)

    def _now(self) -> datetime:
        return datetime(2026, 12, 1, 9, Window.minute, tzinfo=UTC)

    def answer(self) -> None:
        """The question that it stands at, rightly; then the next."""
        Window.minute += 1
        while self.on.stop.station is not Station.QUESTION:
            self.on = self.on.at(self.on.place + 1)
        self.on = self.on.entering(self.on.form.read(self.on.drill.answer(self.on.asked)))
        self.on = self.on.answered(self.keeper.now(), self.keeper.today())
        self.keeper.keep(self.on, self.on.given[-1])
        self.on = self.on.at(self.on.place + 1)


@pytest.fixture(autouse=True)
def _same_clock() -> None:
    Window.minute = 0


@pytest.fixture
def handed(tmp_path: Path) -> Path:
    folder = tmp_path / "handed"
    folder.mkdir()
    return folder


@pytest.mark.parametrize("room", [0, 1_000, 20_000])
@pytest.mark.parametrize("first", [0, 1, 3])
def test_what_a_full_disk_refuses_waits_and_is_written_when_there_is_room(
    first: int, room: int, tmp_path: Path, handed: Path
) -> None:
    window = Window(tmp_path, handed)
    for _ in range(first):
        window.answer()
    with room_for(room):
        for _ in range(3):
            window.answer()
        assert room == 20_000 or any("make some" in sentence for sentence in window.told)
        window.troubles.try_again()
    kept = Window(tmp_path, handed).keeper.set_of(LESSON, INES)[1]
    assert kept == window.on.given[: len(kept)]
    assert len(kept) >= first
    window.troubles.try_again()
    assert window.told[-1] == WRITTEN or not kept[first:]
    window.answer()
    window.keeper.close()
    (path,) = (tmp_path / "results").iterdir()
    assert parse_result(path.read_text("utf-8")).given == window.on.given
    record = Answers(tmp_path / "data" / NAME)
    assert record.count() == first + 4
    record.close()
    assert collect(handed.iterdir()).sheets[0].given == window.on.given


def test_a_folder_that_cannot_be_made_costs_nothing_once_it_can(
    tmp_path: Path, handed: Path
) -> None:
    blocking = tmp_path / "results"
    blocking.write_text("in the way", encoding="utf-8")
    window = Window(tmp_path, handed)
    for _ in range(3):
        window.answer()
    assert len(window.told) == 1
    assert "cannot be kept" in window.told[0]
    blocking.unlink()
    window.troubles.try_again()
    assert window.told[-1] == WRITTEN
    window.keeper.close()
    assert Window(tmp_path, handed).on.given == window.on.given


def test_two_windows_at_one_lesson_are_one_honest_student(tmp_path: Path, handed: Path) -> None:
    first = Window(tmp_path, handed)
    first.answer()
    second = Window(tmp_path, handed)
    assert len(second.on.given) == 1
    first.answer()
    second.answer()
    first.answer()
    second.answer()
    second.answer()
    for window in (first, second):
        assert not window.told
        window.keeper.close()
    paths = list(handed.iterdir())
    assert len(paths) == 2
    (sheet,) = collect(paths).sheets
    assert not sheet.trouble
    assert len(sheet.given) == 6
    assert sheet.answered == 4
    # The first answer counts, whichever window gave it; and it is gone on with from both.
    assert [given.at for given in sheet.given] == sorted(given.at for given in sheet.given)
    third = Window(tmp_path, handed)
    assert third.on.given == sheet.given
    third.answer()
    third.keeper.close()
    (sheet,) = collect(handed.iterdir()).sheets
    assert (sheet.answered, sheet.trouble) == (5, "")
