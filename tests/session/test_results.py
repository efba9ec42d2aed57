"""Answers outlast a kill at any moment."""

import signal
import subprocess
import sys
import time
from datetime import UTC, datetime
from pathlib import Path

import pytest

from true_compass.files.answers_file import NAME, Answers
from true_compass.lessons.result import parse_result

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
