"""Attacks the program with inputs that nobody should give it, always the same from one seed.

    python tools/attack.py --minutes 5                  every attack, for 5 minutes in all
    python tools/attack.py --only kills --inputs 200    one attack, so many times
    python tools/attack.py --only words --seed 3 --first 812 --inputs 1     one input again

A fault is a traceback, a second of work for one input or half a minute of waiting, more than
300 MiB, or something lost.
Exit code 1 where one was found. The inputs come from `tests/generators`.
"""

import argparse
import contextlib
import gc
import io
import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import traceback
from collections.abc import Iterator
from pathlib import Path
from random import Random
from typing import Any

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from tools.attack_base import Attack, LostError, check_sentences  # noqa: E402
from tools.attacks_on_files import ON_FILES  # noqa: E402

MOST_S = 1.0
MOST_MIB = 300.0
GRACE_S = 1.0


class Engines(Attack):
    """Engine files with something changed; what is accepted is worked with now and then."""

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from true_compass.app.main import make_application

        self.application = make_application()

    def try_one(self, number: int) -> str:
        """Read one text, and work with it."""
        from tests.generators.engines import broken, mutant, work_through

        from true_compass.files.engine_file import parse_engine, read_engine
        from true_compass.files.problems import EngineFileError
        from true_compass.files.rigs import rig_names, rig_text

        random = self.random(number)
        name = random.choice(rig_names())
        try:
            if random.random() < 0.5:
                engine = parse_engine(mutant(rig_text(name), random), "mutant")
            else:
                path = self.folder / "broken.engine.toml"
                path.write_bytes(broken(rig_text(name), random))
                engine = read_engine(path)
        except EngineFileError as error:
            check_sentences(error.sentences())
            return f"{name}: refused"
        if random.random() < 0.05:
            work_through(engine, random)
        return f"{name}: taken"


class Lifts(Attack):
    """Lift tables with something changed."""

    def try_one(self, number: int) -> str:
        """Read one table, and make a lobe of it."""
        import numpy as np
        from tests.generators.engines import broken

        from true_compass.files.lift_table import read_lift_table
        from true_compass.files.problems import EngineFileError

        random = self.random(number)
        step = random.choice((1, 2, 5, 10))
        places = range(0, 160, step)
        top = random.choice((7.0, 0.3, 12.0))
        head = random.choice(
            ("cam_deg,lift_mm", "crank_deg,lift_in", "cam_deg;lift_thou", "cam_deg")
        )
        mark = ";" if ";" in head else ","
        rows = [f"{x}{mark}{top * np.sin(np.pi * x / 155) ** 2:.3f}" for x in places]
        path = self.folder / "lift.csv"
        path.write_bytes(broken("\n".join([head, *rows]), random))
        try:
            table = read_lift_table(path)
        except EngineFileError as error:
            check_sentences(error.sentences())
            return "refused"
        assert np.all(np.isfinite(table.lifts_mm))
        return "taken"


class Kept(Attack):
    """Settings, drafts and progress with something wrong in them, at every start."""

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from true_compass.app.main import make_application

        self.application = make_application()

    def try_one(self, number: int) -> str:
        """Spoil one file that is kept, and start."""
        from tests.generators.kept import odd_file

        from true_compass.app.keeping.settings import Remembered
        from true_compass.app.main import Start
        from true_compass.app.widgets.look import Look
        from true_compass.session.session import Source

        random = self.random(number)
        folder = Path(tempfile.mkdtemp(dir=self.folder))
        whole = kept_files(folder)
        path = random.choice(whole)
        path.write_bytes(odd_file(path.read_bytes(), random))
        start = Start(None, Source(), folder)
        if number % 50 == 0:
            self.open_window(start)
        else:
            keeping = start.keeping()
            last = keeping.settings.last_engine()
            keeping.settings.restore_look(Look())
            keeping.settings.geometry()
            keeping.settings.recent()
            hints = keeping.settings.section("watch", {"drags": Remembered(0)})
            hints.get("drags")
            for source in (Source(rig="birch"), last.source if last else Source()):
                keeping.drafts.of(source)
                keeping.progress.of(source.key)
            hints.put("drags", 5)
            keeping.settings.write()
        for made in sorted(folder.rglob("*"), reverse=True):
            made.unlink() if made.is_file() else made.rmdir()
        folder.rmdir()
        return path.name

    def open_window(self, start: Any) -> None:
        """A whole start, to each workspace and to the end."""
        from tests.qtest import QTest

        from true_compass.app.main import make_window
        from true_compass.app.registry import WORKSPACES

        window = make_window(start)
        window.show()
        for entry in WORKSPACES:
            QTest.keyClick(window, entry.key)
            self.application.processEvents()
        window.close()
        window.deleteLater()
        self.application.sendPostedEvents(None, 52)


def kept_files(folder: Path) -> list[Path]:
    """A folder as a lesson leaves it."""
    from dataclasses import replace
    from datetime import UTC, datetime

    from true_compass.app.keeping.keeping import Keeping
    from true_compass.app.keeping.recents import Recent
    from true_compass.app.keeping.settings import Remembered
    from true_compass.core.items import item_named
    from true_compass.files.rigs import demo_rig
    from true_compass.session.session import Source
    from true_compass.session.work import FRESH

    keeping, source, engine = (
        Keeping.at(folder, folder / "state"),
        Source("birch"),
        demo_rig("birch"),
    )
    keeping.settings.remember_engine(source, 114.0)
    keeping.settings.remember_geometry(b"\1\2\3")
    keeping.settings.section("watch", {"drags": Remembered(0)}).put("drags", 2)
    at = datetime(2026, 1, 1, 8, 0, tzinfo=UTC)
    keeping.settings.remember_recent(
        Recent(source, "Rig Birch", "inline six", 114.0, "Watch", "", "Watch, at 114°", at)
    )
    keeping.settings.write()
    keeping.drafts.keep(source, replace(engine, rod_mm=190.0))
    done = FRESH.with_done({item_named("I1"): "set", item_named("E3"): "set"})
    keeping.progress.keep(source.key, FRESH, done)
    return sorted(folder.rglob("*.json"))


class Words(Attack):
    """Command lines."""

    def try_one(self, number: int) -> str:
        """Run one command line in this process."""
        from tests.generators.words import command_words

        from true_compass import entry

        for made in self.folder.iterdir():
            made.unlink()
        words = command_words(self.random(number), self.folder)
        out = io.TextIOWrapper(io.BytesIO(), "utf-8", errors="strict")
        err = io.TextIOWrapper(io.BytesIO(), "utf-8", errors="backslashreplace")
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            try:
                code: Any = entry.main(words)
            except SystemExit as leaving:  # --help
                code = leaving.code or 0
        out.flush()
        err.flush()
        said = out.buffer.getvalue() if isinstance(out.buffer, io.BytesIO) else b""
        told = err.buffer.getvalue().decode() if isinstance(err.buffer, io.BytesIO) else ""
        what = f"{[word[:60] for word in words]} -> {code}"
        assert code in (0, 1, 2), what
        # One line for what is refused, and nothing else; else nothing but the answer.
        assert told.count("\n") == (1 if code == 2 else 0), f"{what}: {told}"
        assert not (code == 2 and said), what
        assert b"\x1b" not in said + told.encode("utf-8", "replace"), what
        return what


class HandsOn(Attack):
    """Keys, clicks, drags and nonsense in the real window."""

    LESSON = 400

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from true_compass.app.main import make_application

        self.application = make_application()
        self.hands: Any = None
        self.window: Any = None
        self.faults: list[str] = []
        sys.excepthook = lambda *error: self.faults.append(
            "".join(traceback.format_exception(*error))
        )

    def open_window(self, number: int) -> None:
        """A window on some rig, which nobody is asked anything by."""
        from true_compass.app.keeping.opener import FileDialogs
        from true_compass.app.main import Start, make_window
        from true_compass.files.rigs import demo_rig, rig_names
        from true_compass.session.session import Source

        name = self.random(number).choice(rig_names())
        start = Start(demo_rig(name), Source(name), self.folder / "settings")
        nothing = FileDialogs(lambda *_: None, lambda *_: None)
        self.window = make_window(start, nothing)
        self.window.resize(1280, 800)
        self.window.show()

    def try_one(self, number: int) -> str:
        """One deed; after some hundreds the window is closed and another one opened."""
        from tests.generators.hands import Hands

        from true_compass.files.engine_file import engine_text, parse_engine

        if self.hands is None or number % self.LESSON == 0:
            self.close()
            self.open_window(number)
            self.hands = Hands(self.window, number * 1000 + self.seed)
        self.hands.act()
        state = self.hands.window.session.state
        if number % 10 == 0:
            assert parse_engine(engine_text(state.engine), "hands") == state.engine
            self.hands.window.grab()
        if self.faults:
            fault = self.faults[0]
            self.close()
            self.faults.clear()
            raise AssertionError(fault)
        did: str = self.hands.done[-1]
        return did

    def close(self) -> None:
        """Close the window."""
        if self.window is not None:
            self.window.close()
            self.window.deleteLater()
            self.application.sendPostedEvents(None, 52)
            self.hands, self.window = None, None


class Doors(HandsOn):
    """From one workspace to another, another rig and another theme, with waits between them."""

    LESSON = 100

    def try_one(self, number: int) -> str:
        """Through one door; waits are real, since timers run while nobody does anything."""
        from tests.generators.doors import walk

        if self.window is None or number % self.LESSON == 0:
            self.close()
            self.open_window(number)
        assert self.window is not None
        did = walk(self.window, self.random(number), number)
        if self.faults:
            fault = self.faults[0]
            self.close()
            self.faults.clear()
            raise AssertionError(fault)
        return did


class Lamps(Attack):
    """Engines with one thing wrong under the lamp: it is never ruled out, and nobody accused."""

    def try_one(self, number: int) -> str:
        """One fault, read by an eye that scatters."""
        from tests.generators.lamp import lamp_run

        from true_compass.core.ignition.lamp import Says, found

        run = lamp_run(self.random(number))
        told = found(run.advance, run.readings)
        column = told.suspects.index(run.suspect)
        assert all(row.says[column] is not Says.RULED_OUT for row in told.rows), run
        assert run.suspect in told.left or not any(row.off for row in told.rows), run
        return run.suspect.value


class Kills(Attack):
    """A window at work is killed at a random moment: what is on the disk is what was done."""

    timed = False
    grace_s = GRACE_S
    """What a kill may cost."""

    def try_one(self, number: int) -> str:
        """Start, wait, kill, and compare."""
        random = self.random(number)
        with tempfile.TemporaryDirectory(dir=self.folder) as place:
            typist = Typist(Path(place), number, "both")
            typist.wait_until_it_works()
            time.sleep(random.uniform(0.2, 2.5))
            how = random.choice((signal.SIGKILL, signal.SIGKILL, signal.SIGTERM, signal.SIGINT))
            at = typist.kill(how)
            told = typist.told()
            said = "\n".join(f"{line['at'] - at:.2f} s {line}" for line in told)
            # A tick is on the disk at once, an edit a little later, or in time where one can close.
            since_tick = last_done(told, at)
            since_edit = last_done(told, at - self.grace_s) if how == signal.SIGKILL else since_tick
            for rig in {line["rig"] for line in told}:
                ticks, rod = kept_of(Path(place), rig)
                if ticks not in [t for t, _ in rigged_since(told, since_tick, rig)]:
                    raise LostError(f"{how.name}, {rig}: {ticks} is on disk, after\n{said}")
                if rod not in [r for _, r in rigged_since(told, since_edit, rig)]:
                    raise LostError(f"{how.name}, {rig}: {rod} mm is on disk, after\n{said}")
            last = remembered_rig(Path(place))
            if last not in {line["rig"] for line in told[max(since_tick, 0) :]}:
                raise LostError(f"{how.name}: {last} is remembered, not {told[-1]['rig']}")
            return f"{how.name} after {len(told)} deeds"


class Windows(Attack):
    """Two windows at work on the same rigs: each keeps what the other did."""

    timed = False

    def try_one(self, number: int) -> str:
        """Start two, end both in any order, and compare."""
        random = self.random(number)
        ended: list[float] = []
        with tempfile.TemporaryDirectory(dir=self.folder) as place:
            two = [Typist(Path(place), number * 2 + n, hand) for n, hand in enumerate("IE")]
            for typist in two:
                typist.wait_until_it_works()
            time.sleep(random.uniform(0.3, 2.0))
            random.shuffle(two)
            for typist in two:
                typist.kill(signal.SIGTERM)
                ended.append(time.time())
                time.sleep(random.choice((0.0, 0.3)))
            for typist in two:
                told = typist.told()
                # After one window has ended, the other may take its edits up, and go on from them.
                later = [line for line in two[1].told() if line["at"] > ended[0]]
                taken = {line["rig"] for line in later if typist is two[0]}
                for rig in {line["rig"] for line in told}:
                    want = [rigged(told[:n], rig) for n in (len(told), len(told) - 1)]
                    ticks, _ = kept_of(Path(place), rig)
                    mine = [name for name in ticks if name[0] == typist.hand]
                    if mine not in [ticks for ticks, _ in want if ticks is not None]:
                        raise LostError(f"{rig}: {mine} is on disk, and {want[0]} was done")
                    rods = all_rods(Path(place), rig)
                    if rig not in taken and not any(r is None or r in rods for _, r in want):
                        raise LostError(f"{rig}: no draft with {want[0][1]} mm, but {rods}")
            return " and ".join(f"{len(typist.told())} deeds" for typist in two)


class Typist:
    """A window in another process, whose hand tells a log each deed before it does it."""

    def __init__(self, folder: Path, seed: int, hand: str) -> None:
        self.hand = hand
        self.log = folder / f"log-{hand}"
        words = [sys.executable, __file__, "--typist", str(folder), hand, "--seed", str(seed)]
        self.process = subprocess.Popen(words, stderr=subprocess.PIPE)

    def wait_until_it_works(self) -> None:
        """Until its first deed is told."""
        until = time.monotonic() + 60
        while not (self.log.exists() and self.log.read_text().count("\n")):
            if self.process.poll() is not None or time.monotonic() > until:
                self.process.kill()
                raise AssertionError(self.process.communicate()[1].decode()[-2000:])
            time.sleep(0.01)

    def kill(self, how: signal.Signals) -> float:
        """End it; the time of the kill."""
        at = time.time()
        self.process.send_signal(how)
        _, told = self.process.communicate(timeout=30)
        assert b"Traceback" not in told, told.decode()[-2000:]
        return at

    def told(self) -> list[dict[str, Any]]:
        """Every deed that is whole in the log."""
        lines = self.log.read_text().split("\n")[:-1]
        return [json.loads(line) for line in lines]


def rigged(told: list[dict[str, Any]], rig: str) -> tuple[list[str], float | None]:
    """Ticks and rod of a rig after some deeds."""
    mine = [line for line in told if line["rig"] == rig]
    return (mine[-1]["done"], mine[-1]["rod"]) if mine else ([], None)


def last_done(told: list[dict[str, Any]], until: float) -> int:
    """The last line whose deed was done by then, for each is told before it is done; or -1."""
    return max((n for n, line in enumerate(told[1:]) if line["at"] <= until), default=-1)


def rigged_since(
    told: list[dict[str, Any]], since: int, rig: str
) -> list[tuple[list[str], float | None]]:
    """Ticks and rod of a rig after that deed, and after each later one."""
    return [rigged(told[: n + 1], rig) for n in range(since, len(told))]


def kept_of(folder: Path, rig: str) -> tuple[list[str], float | None]:
    """Ticks and rod of a rig as they are on the disk."""
    from true_compass.app.keeping.keeping import Keeping
    from true_compass.session.session import Source
    from true_compass.session.work import deed_name

    keeping = Keeping.at(folder, folder / "state")
    draft = keeping.drafts.of(Source(rig))
    ticks = sorted(deed_name(deed) for deed in keeping.progress.of(Source(rig).key).done)
    return ticks, None if draft is None else draft.engine.rod_mm


def all_rods(folder: Path, rig: str) -> set[float]:
    """The rods of all drafts of a rig."""
    drafts = [json.loads(path.read_text()) for path in (folder / "state/drafts").glob("*.json")]
    return {d["values"]["dimensions"]["rod_mm"] for d in drafts if rig in d["engine"]}


def remembered_rig(folder: Path) -> str:
    """The rig that the next start opens."""
    from true_compass.app.keeping.keeping import Keeping

    last = Keeping.at(folder, folder / "state").settings.last_engine()
    return last.source.rig if last else ""


def work_as_typist(folder: Path, hand: str, seed: int) -> int:
    """A real window; a timer ticks, edits and opens rigs at random."""
    from dataclasses import replace

    from PyQt6.QtCore import QTimer

    from true_compass.app.main import Start, make_application, make_window
    from true_compass.app.window.farewell import Farewell
    from true_compass.files.rigs import demo_rig
    from true_compass.session.session import Source
    from true_compass.session.work import deed_name

    random = Random(seed)
    rigs = ("birch", "cedar", "alder")
    application = make_application()
    start = Start(demo_rig("birch"), Source("birch"), folder)
    window, keeping = make_window(start), start.keeping()
    window.show()
    log = os.open(folder / f"log-{hand}", os.O_WRONLY | os.O_CREAT | os.O_APPEND)
    session = window.session

    def tell(rig: str, done: Any, rod: float | None) -> None:
        line = {"at": time.time(), "rig": rig, "rod": rod}
        mine = [name for name in sorted(map(deed_name, done)) if hand in ("both", name[0])]
        os.write(log, (json.dumps({**line, "done": mine}) + "\n").encode())

    rods: dict[str, float] = {}

    def act() -> None:
        rig = session.state.source.rig
        chance = random.random()
        if chance < 0.5:
            own = [item for item in session.state.rig.items if hand in ("both", item.name[0])]
            item = random.choice(own)
            how = None if item in session.state.work.done else "set"
            after = session.state.work.with_done({item: how}).done
            tell(rig, after, rods.get(rig))
            session.tick({item: how}, f"tick of {item.name}")
        elif chance < 0.92:
            rods[rig] = round(random.uniform(180.0, 230.0), 1)
            tell(rig, session.state.work.done, rods[rig])
            session.edit(replace(session.state.engine, rod_mm=rods[rig]), "rod")
        else:
            other = random.choice([name for name in rigs if name != rig])
            done = keeping.progress.of(Source(other).key).done
            tell(other, done, rods.get(other))
            window.opener.open_rig(other)
        timer.start(random.choice((10, 30, 80, 150)))

    timer = QTimer(window)
    timer.setSingleShot(True)
    timer.timeout.connect(act)
    timer.start(10)
    farewell = Farewell(window)
    code = application.exec()
    farewell.forget()
    return code


class Books(Attack):
    """Somebody who writes into a book is killed at a random moment: at most one entry is lost."""

    timed = False

    def try_one(self, number: int) -> str:
        """Start, wait, kill, and hold the book against what was about to be written."""
        from true_compass.files.book_file import Book

        random = self.random(number)
        with tempfile.TemporaryDirectory(dir=self.folder) as place:
            log, path = Path(place) / "log", Path(place) / "book.tcbook"
            words = [sys.executable, __file__, "--scribe", place, "--seed", str(number)]
            scribe = subprocess.Popen(words)
            while not log.exists() or not log.read_bytes():
                time.sleep(0.01)
            time.sleep(random.uniform(0.0, 0.8))
            scribe.send_signal(signal.SIGKILL)
            scribe.wait()
            told = [json.loads(line) for line in log.read_text().splitlines()]
            book = Book(path)
            if book.check():
                raise LostError(f"after a kill: {book.check()}")
            jobs = book.jobs_where("1")
            found = {i.name: r.note for job in jobs for i, r in job.items.items()}
            book.close()
            if found not in [replayed(told), replayed(told[:-1])]:
                raise LostError(f"{found} is in the book, after {told[-3:]}")
            return f"killed after {len(told)} entries"


def replayed(told: list[dict[str, str]]) -> dict[str, str]:
    """What a book holds after some entries: the last of each item."""
    return {entry["item"]: entry["note"] for entry in told}


def write_as_scribe(folder: Path, seed: int) -> int:
    """Entry after entry into one job; each is told to a log before it is made."""
    from true_compass.book.job import ItemRecord, Measure
    from true_compass.core.adjusting.setting import settings_of
    from true_compass.files.rigs import demo_rig
    from true_compass.session.book_keeper import BookKeeper
    from true_compass.session.session import Session, Source
    from true_compass.session.store import Troubles

    random, engine = Random(seed), demo_rig("birch")
    session = Session(engine, Source("birch"))
    keeper = BookKeeper(folder / "book.tcbook", Troubles())
    keeper.watch(session)
    keeper.begin("paper")
    log = os.open(folder / "log", os.O_WRONLY | os.O_CREAT | os.O_APPEND)
    names = [setting.item for setting in settings_of(engine)]
    for number in range(100_000):
        item = random.choice(names)
        os.write(log, (json.dumps({"item": item.name, "note": str(number)}) + "\n").encode())
        on = session.state.book
        assert on is not None
        assert on.job is not None
        record = ItemRecord(Measure.mm(round(random.uniform(0.1, 0.5), 2)), note=str(number))
        session.write_job(on.job.with_item(item, record), "an entry")
    return 0


class Careful(Attack):
    """A careful person on every rig and task, seed after seed: whoever does as told passes."""

    def __init__(self, folder: Path, seed: int) -> None:
        super().__init__(folder, seed)
        from true_compass.bench.tasks import Task, why_not
        from true_compass.files.rigs import demo_rig, rig_names

        self.pairs = [
            (demo_rig(name), task)
            for name in rig_names()
            for task in Task
            if task is not Task.FREE and not why_not(demo_rig(name), task)
        ]

    def try_one(self, number: int) -> str:
        """One pair of rig and task with a seed of its own."""
        from true_compass.bench.careful import played_carefully
        from true_compass.bench.run import Run
        from true_compass.bench.scenario import Scenario
        from true_compass.core.adjusting.schools import BY_WORD

        engine, task = self.pairs[number % len(self.pairs)]
        random = self.random(number)
        scenario = Scenario(
            engine,
            task,
            random.randint(1, engine.cylinder_count),
            seed=random.randint(0, 999_999),
            hardness=random.randint(1, 5),
            method=random.choice(list(BY_WORD)),
        )
        run = Run.begin(scenario)
        run = Run(run.work, played_carefully(run.work, run.state))
        verdict = run.done({"do": "finish"})[1]
        said = f"{engine.name} {task.value} by {scenario.method}, seed {scenario.seed}"
        if not verdict["passed"]:
            wrong = [
                (item["name"], item["cause"])
                for item in verdict["items"]
                if not item["in_band"] or item["set_off_base_circle"]
            ]
            raise AssertionError(f"a careful person fails: {said}: {wrong}")
        return said


ATTACKS: dict[str, type[Attack]] = {
    "engines": Engines,
    "lifts": Lifts,
    "kept": Kept,
    "words": Words,
    "hands": HandsOn,
    "doors": Doors,
    "lamps": Lamps,
    "kills": Kills,
    "books": Books,
    "windows": Windows,
    "careful": Careful,
    **ON_FILES,
}


def memory_mib() -> float:
    """The most memory that this process has had; `getrusage` would count what started it too."""
    lines = Path("/proc/self/status").read_text().split("\n")
    return next(int(line.split()[1]) for line in lines if line.startswith("VmHWM:")) / 1024


def numbers(first: int, inputs: int | None, until: float) -> Iterator[int]:
    """Which inputs to try."""
    number = first
    while (inputs is None or number < first + inputs) and time.monotonic() < until:
        yield number
        number += 1


def attack(name: str, options: argparse.Namespace, seconds: float) -> int:
    """Run one attack in this process; how many faults."""
    faults, slowest, tried = 0, (0.0, -1, ""), 0
    begun = time.monotonic()
    with tempfile.TemporaryDirectory() as place:
        kind = ATTACKS[name](Path(place), options.seed)
        for number in numbers(options.first, options.inputs, begun + seconds):
            again = f"--only {name} --seed {options.seed} --first {number} --inputs 1"
            at, did = time.process_time(), ""
            try:
                with stopped_after(30 if kind.timed else 120):
                    did = kind.try_one(number)
            except Exception:
                faults += 1
                print(f"FAULT {again}\n{traceback.format_exc(limit=-6)}", flush=True)
            spent = time.process_time() - at
            if kind.timed and spent > options.slow:
                faults += 1
                print(f"SLOW {again}: {spent:.2f} s, {did}", flush=True)
            slowest = max(slowest, (spent, number, did))
            tried += 1
            if tried % 500 == 0:
                gc.collect()
        kind.close()
    most = memory_mib()
    if most > options.memory:
        faults += 1
        print(f"MEMORY {name}: {most:.0f} MiB", flush=True)
    spent = time.monotonic() - begun
    print(
        f"{name}: {tried} inputs in {spent:.0f} s, {faults} faults, slowest {slowest[0]:.2f} s "
        f"({slowest[1]}: {slowest[2][:90]}), {most:.0f} MiB",
        flush=True,
    )
    return faults


@contextlib.contextmanager
def stopped_after(seconds: int) -> Iterator[None]:
    """Raise where something hangs."""

    def hang(*_: object) -> None:
        raise TimeoutError(f"hangs for {seconds} s")

    signal.signal(signal.SIGALRM, hang)
    signal.alarm(seconds)
    try:
        yield
    finally:
        signal.alarm(0)


def main(words: list[str] | None = None) -> int:
    """Run what is asked for, each attack in a process of its own."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--minutes", type=float, default=1.0, help="for all attacks together")
    parser.add_argument("--inputs", type=int, help="stop each attack after so many")
    parser.add_argument("--first", type=int, default=0, help="the first input")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default=",".join(ATTACKS), help=f"any of {', '.join(ATTACKS)}")
    parser.add_argument("--slow", type=float, default=MOST_S, help="seconds that are a fault")
    parser.add_argument("--memory", type=float, default=MOST_MIB, help="MiB that are a fault")
    parser.add_argument("--grace", type=float, default=GRACE_S, help="seconds a kill may cost")
    parser.add_argument("--typist", nargs=2, help=argparse.SUPPRESS)
    parser.add_argument("--scribe", help=argparse.SUPPRESS)
    options = parser.parse_args(words)
    if options.typist:
        return work_as_typist(Path(options.typist[0]), options.typist[1], options.seed)
    if options.scribe:
        return write_as_scribe(Path(options.scribe), options.seed)
    Kills.grace_s = options.grace
    names = options.only.split(",")
    if len(names) == 1:
        return min(attack(names[0], options, options.minutes * 60), 1)
    share = ["--minutes", str(options.minutes / len(names)), "--seed", str(options.seed)]
    share += ["--slow", str(options.slow), "--memory", str(options.memory)]
    share += ["--grace", str(options.grace)]
    share += ["--first", str(options.first)]
    share += [] if options.inputs is None else ["--inputs", str(options.inputs)]
    runs = [subprocess.run([sys.executable, __file__, "--only", n, *share]) for n in names]
    return max(run.returncode for run in runs)


if __name__ == "__main__":
    sys.exit(main())
