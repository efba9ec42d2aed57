"""Speed and memory, as medians and ratios of one run. Nothing here passes or fails."""

import math
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from true_compass.app.window.window import MainWindow
    from true_compass.core.engine import Engine
    from true_compass.instrument.simulated import SimulatedInstrument

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
STARTS = 7


def first_frame(kind: str, folder: str) -> None:
    """In a fresh process: show a window and print when its first frame was painted."""
    if kind == "empty":
        from PyQt6.QtGui import QPaintEvent
        from PyQt6.QtWidgets import QApplication, QMainWindow

        class Empty(QMainWindow):
            def paintEvent(self, a0: QPaintEvent | None) -> None:
                super().paintEvent(a0)
                print(time.monotonic(), flush=True)
                os._exit(0)

        application = QApplication([])
        empty = Empty()
        empty.resize(1280, 800)
        empty.show()
        application.exec()
    # What the command itself imports before it opens a window.
    from PyQt6.QtCore import QTimer

    import true_compass.entry  # noqa: F401
    from true_compass.app.main import Start, make_application, make_window
    from true_compass.session.session import Source

    application = make_application()
    window = make_window(Start(None, Source(), Path(folder), demo=True))
    window.show()

    def painted() -> None:
        loaded = "scipy" in sys.modules
        print(time.monotonic(), "SciPy was loaded" if loaded else "", flush=True)
        os._exit(0)

    # The first turn of the event loop paints every widget; this comes right after it.
    application.processEvents()
    QTimer.singleShot(0, painted)
    application.exec()


def start_ms(kind: str, folder: str, python: str = sys.executable) -> tuple[float, str]:
    """Milliseconds from starting a process to its first frame, and what it remarked."""
    begun = time.monotonic()
    command = [python, __file__, "--first-frame", kind, folder]
    words = subprocess.run(command, capture_output=True, text=True, check=True).stdout.split(" ", 1)
    return (float(words[0]) - begun) * 1e3, words[1].strip() if len(words) > 1 else ""


def times_ms(act: Callable[[], object], count: int) -> list[float]:
    """Milliseconds of each of a number of calls, sorted, after some to warm up."""
    for _ in range(max(3, count // 20)):
        act()
    found = []
    for _ in range(count):
        begun = time.perf_counter()
        act()
        found.append((time.perf_counter() - begun) * 1e3)
    return sorted(found)


def row(name: str, figure: str, bound: str) -> None:
    """Print one line of the table."""
    print(f"{name:<52} {figure:>26}   {bound}")


def bench_starts() -> None:
    """Start-up against an empty window, alternating so that both see the same machine."""
    with tempfile.TemporaryDirectory() as folder:
        row_of_starts("start to first frame", folder, sys.executable, "<= 5 x")
        installed = Path.home() / ".local/lib/true-compass/venv/bin/python"
        if installed.exists():
            row_of_starts("start of the installed program", folder, str(installed), "<= 5 x")
        row_of_cold_starts(folder)


def row_of_starts(name: str, folder: str, python: str, bound: str) -> None:
    """One program beside an empty window, both by one Python."""
    ours, empty, remarks = [], [], set()
    for _ in range(STARTS + 1):
        empty.append(start_ms("empty", folder, python)[0])
        figure, remark = start_ms("ours", folder, python)
        ours.append(figure)
        remarks.add(remark)
    ours_ms, empty_ms = statistics.median(ours[1:]), statistics.median(empty[1:])
    row(name, f"{ours_ms:.0f} ms = {ours_ms / empty_ms:.2f} x empty", bound)
    row("  an empty PyQt6 main window", f"{empty_ms:.0f} ms", "")
    row("  SciPy on the way", " ".join(filter(None, remarks)) or "not loaded", "not loaded")


DROP = Path("/proc/sys/vm/drop_caches")
COLD_STARTS = 3


def row_of_cold_starts(folder: str) -> None:
    """The same with nothing of the disk in memory, where the caches may be dropped."""
    if not os.access(DROP, os.W_OK):
        row("start with a cold file cache", "caches may not be dropped", "")
        return

    def cold(kind: str) -> float:
        os.sync()
        DROP.write_text("3", encoding="ascii")
        return start_ms(kind, folder)[0]

    found = {kind: [cold(kind) for _ in range(COLD_STARTS)] for kind in ("empty", "ours")}
    ours, empty = (statistics.median(found[kind]) for kind in ("ours", "empty"))
    row("start with a cold file cache", f"{ours:.0f} ms = {ours / empty:.2f} x empty", "")


def bench_state() -> None:
    """The state of a six at one angle and at 1,440."""
    import numpy as np

    from true_compass.core.events import crossings, valve_events
    from true_compass.core.state import Rig, engine_state
    from true_compass.files.rigs import demo_rig

    rig = Rig.of(demo_rig("birch"))
    angles = np.linspace(0.0, 720.0, 1440, endpoint=False)
    one = statistics.median(times_ms(lambda: engine_state(rig, 240.0), 2000))
    many = statistics.median(times_ms(lambda: engine_state(rig, angles), 300))
    row("state of a six at one angle", f"{one:.3f} ms", "<= 0.3 ms")
    row("  at 1,440 angles", f"{many:.2f} ms = {many / one:.1f} x one", "<= 1.2 ms")
    twelve = Rig.of(demo_rig("aspen"))
    twelve_ms = statistics.median(times_ms(lambda: engine_state(twelve, angles), 300))
    row(f"  of {twelve.engine.layout_words} at 1,440 angles", f"{twelve_ms:.2f} ms", "<= 2 ms")

    def all_events() -> object:
        crossings.cache_clear()
        return valve_events(rig)

    events = statistics.median(times_ms(all_events, 30))
    row("all valve events of a six", f"{events:.1f} ms", "")


def bench_valve_train() -> None:
    """Lift of 64 valves, and every event of eighteen cylinders."""
    import numpy as np

    from true_compass.core.crank.makers import radial
    from true_compass.core.engine import even_inline
    from true_compass.core.events import crossings
    from true_compass.core.state import Rig, WhatIf, valve_drives
    from true_compass.core.valves.drive import Drives
    from true_compass.core.valves.timing import engine_times

    drives = Drives.of(2 * valve_drives(even_inline(tuple(range(1, 17)))))
    angles = np.linspace(0.0, 720.0, 1440, endpoint=False)
    lift = statistics.median(times_ms(lambda: drives.lift_mm(angles), 200))
    row("lift of 64 valves at 1,440 angles", f"{lift:.2f} ms", "<= 4 ms")
    rig = Rig.of(radial(18, 2)).trying(WhatIf(0.1, 0.1))

    def all_events() -> object:
        crossings.cache_clear()
        return engine_times(rig)

    events = statistics.median(times_ms(all_events, 50))
    row("all events of 18 cylinders, overlaps too", f"{events:.1f} ms", "<= 50 ms")


def bench_refusals() -> None:
    """The slowest of some files that are small and would be costly to read."""
    from true_compass.files.engine_file import parse_engine
    from true_compass.files.problems import EngineFileError
    from true_compass.files.rigs import rig_text

    birch = rig_text("birch")
    costly = (
        birch + "[[b]]\n" * 20_000,
        birch + "a." * 8500 + "a = 1\n",
        birch + "".join(f"k{n} = 1\n" for n in range(75_000)),
        birch + "x = " + "[" * 400_000,
        birch.replace("rod_mm = 182.0", "rod_mm = 1.0"),
    )

    def read(text: str) -> None:
        try:
            parse_engine(text, "refused")
        except EngineFileError:
            return
        raise AssertionError("it was not refused")

    read(costly[-1])  # the strict model is imported once
    slowest = max(statistics.median(times_ms(partial(read, text), 5)) for text in costly)
    row("reading a file that is refused, the slowest", f"{slowest / 1000:.3f} s", "<= 0.3 s")


def bench_plans() -> None:
    """Stops solved exactly for 64 items on 16 uneven cylinders, and all schools of a V8."""
    import numpy as np

    from true_compass.core.adjusting.comparison import compare
    from true_compass.core.adjusting.piercing import FreeArcs
    from true_compass.core.crank.makers import vee
    from true_compass.core.state import Rig

    # Four items a cylinder, each with a free arc of its own, on cylinders that fire unevenly.
    random = np.random.default_rng(7)
    fires = np.sort(random.uniform(0.0, 720.0, 16))
    items = tuple(
        (((fire + begins) % 720.0, length),)
        for fire in fires
        for begins, length in zip(
            (600.0, 385.0, 150.0, 40.0), random.uniform(380.0, 480.0, 4), strict=True
        )
    )

    def solve() -> object:
        arcs = FreeArcs(items)
        return arcs.fewest(30.0), arcs.most_margin(3)

    # Eighteen uneven cylinders whose releases cut each free arc in two.
    split = tuple(
        ((start, length * share), ((start + length * share + 40.0) % 720.0, length * 0.3))
        for (((start, length),)), share in zip(
            items[:36], random.uniform(0.3, 0.5, 36), strict=True
        )
    )
    covered = statistics.median(times_ms(lambda: FreeArcs(split).most_margin(10), 10))
    row("most margin at ten stops, 36 items of two arcs", f"{covered:.0f} ms", "<= 1000 ms")
    solved = statistics.median(times_ms(solve, 20))
    row("fewest stops and most margin, 64 items, exact", f"{solved:.1f} ms", "<= 30 ms")
    rig = Rig.of(vee(8, 90))

    def schools() -> object:
        crossings.cache_clear()
        return compare(rig)

    from true_compass.core.events import crossings

    every = statistics.median(times_ms(schools, 20))
    row("all schools of a V8", f"{every:.1f} ms", "<= 20 ms")


def shown_window(engine: "Engine", folder: Path) -> "MainWindow":
    """The program's window at 1280x800, on Watch with an engine."""
    from true_compass.app.main import Start, make_window
    from true_compass.session.session import Source

    window = make_window(Start(engine, Source(rig="bench"), folder, demo=True))
    window.resize(1280, 800)
    window.show()
    return window


def bench_lash() -> None:
    """Drag the lash of a V8 on the page of one cylinder: a mouse move and its paint."""
    from PyQt6.QtCore import QEvent, QPointF, Qt
    from PyQt6.QtGui import QMouseEvent
    from PyQt6.QtWidgets import QApplication

    from true_compass.app.main import make_application
    from true_compass.app.workspaces.watch.workspace import ONE
    from true_compass.core.crank.makers import vee

    application = make_application()
    with tempfile.TemporaryDirectory() as folder:
        window = shown_window(vee(8, 90), Path(folder))
        window.workspace.show_page(ONE)
        QApplication.processEvents()
        from true_compass.app.workspaces.watch.cycle.trying import TrySlider

        slider = window.findChild(TrySlider, "try_intake_lash_mm")
        assert slider is not None
        place = 0

        def send(kind: QEvent.Type) -> None:
            button = Qt.MouseButton.LeftButton
            at = QPointF(60.0 + place * 7 % 150, 30.0)
            where = QPointF(slider.mapToGlobal(at))
            event = QMouseEvent(kind, at, where, button, button, Qt.KeyboardModifier.NoModifier)
            QApplication.sendEvent(slider, event)

        def drag() -> None:
            nonlocal place
            place += 1
            send(QEvent.Type.MouseMove)
            QApplication.processEvents()

        send(QEvent.Type.MouseButtonPress)
        frames = times_ms(drag, 300)
        window.close()
    del application
    p95 = frames[int(len(frames) * 0.95)]
    figure = f"{statistics.median(frames):.2f} ms, 95 %: {p95:.2f}"
    row("Watch frame while dragging the lash, V8", figure, "<= 12 ms median")


def bench_hand() -> None:
    """Drag a throw of a V8, and type into a figure of eighteen cylinders: a move and its paint."""
    from PyQt6.QtCore import QEvent, QPointF, Qt
    from PyQt6.QtGui import QKeyEvent, QMouseEvent
    from PyQt6.QtWidgets import QApplication, QLineEdit

    from true_compass.app.main import make_application
    from true_compass.app.workspaces.engine.hand.crank import ThrowsView
    from true_compass.app.workspaces.engine.hand.model import Tab
    from true_compass.app.workspaces.engine.hand.page import HandPage
    from true_compass.app.workspaces.engine.workspace import BY_HAND, FIGURES
    from true_compass.core.crank.makers import radial, vee

    application = make_application()
    with tempfile.TemporaryDirectory() as folder:
        window = shown_window(vee(8, 90), Path(folder))
        window.go_to("Engine", BY_HAND)
        page = window.findChild(HandPage)
        page.model.show_tab(Tab.THROWS)
        QApplication.processEvents()
        throws = window.findChild(ThrowsView)
        turned = 0

        def send(kind: QEvent.Type) -> None:
            angle = math.radians(90.0 + turned * 7 % 60)
            at = throws._middle + QPointF(math.sin(angle), -math.cos(angle)) * throws._radius * 0.7
            button, alt = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.AltModifier
            where = QPointF(throws.mapToGlobal(at))
            QApplication.sendEvent(throws, QMouseEvent(kind, at, where, button, button, alt))

        def drag() -> None:
            nonlocal turned
            turned += 1
            send(QEvent.Type.MouseMove)
            QApplication.processEvents()

        send(QEvent.Type.MouseButtonPress)
        frames = times_ms(drag, 200)
        window.close()
        window = shown_window(radial(18, 2), Path(folder, "keys"))
        window.go_to("Engine", FIGURES)
        QApplication.processEvents()
        field = window.findChild(QLineEdit, "dimensions.damper_mm")
        field.setFocus()
        typed = 0

        def key() -> None:
            nonlocal typed
            typed += 1
            sent = (Qt.Key.Key_5, "5") if typed % 2 else (Qt.Key.Key_Backspace, "")
            none = Qt.KeyboardModifier.NoModifier
            event = QKeyEvent(QEvent.Type.KeyPress, sent[0], none, sent[1])
            QApplication.sendEvent(field, event)

        def whole() -> None:
            key()
            QApplication.processEvents()

        keys, wholes = times_ms(key, 40), times_ms(whole, 40)
        window.close()
    del application
    p95 = frames[int(len(frames) * 0.95)]
    figure = f"{statistics.median(frames):.2f} ms, 95 %: {p95:.2f}"
    row("Engine by hand, dragging a throw of a V8", figure, "<= 12 ms median")
    figure = f"{statistics.median(keys):.1f} ms, {statistics.median(wholes):.1f} ms painted"
    row("one keystroke in All figures, 18 cylinders", figure, "<= 16 ms")


def bench_orders() -> None:
    """All orders of a V16 with eight shared throws, and the memory that they take."""
    import tracemalloc

    from true_compass.core.crank.makers import vee
    from true_compass.core.crank.orders import all_orders

    layout = vee(16, 45).layout
    tracemalloc.start()
    all_orders(layout)
    extra_mb = tracemalloc.get_traced_memory()[1] / 2**20
    tracemalloc.stop()
    took = statistics.median(times_ms(lambda: all_orders(layout), 9)) / 1e3
    row(
        "all orders of a V16 on eight throws",
        f"{took:.3f} s, {extra_mb:.0f} MB",
        "<= 0.5 s, 100 MB",
    )


def frame_times(engine: "Engine", frames: int) -> list[float]:
    """Milliseconds of each frame of a drag on the ring at 1280x800: a mouse move and its paint."""
    from PyQt6.QtCore import QEvent, QPointF, Qt
    from PyQt6.QtGui import QMouseEvent
    from PyQt6.QtWidgets import QApplication

    from true_compass.drawing.ring import lap_direction

    with tempfile.TemporaryDirectory() as folder:
        window = shown_window(engine, Path(folder))
        QApplication.processEvents()
        ring = window.workspace.focus_first()
        middle = QPointF(ring.width() / 2, 236)
        lap = 0.0

        def send(kind: QEvent.Type, at: QPointF) -> None:
            button = Qt.MouseButton.LeftButton
            where = QPointF(ring.mapToGlobal(at))
            event = QMouseEvent(kind, at, where, button, button, Qt.KeyboardModifier.NoModifier)
            QApplication.sendEvent(ring, event)

        def drag() -> None:
            nonlocal lap
            lap += 3.7
            send(QEvent.Type.MouseMove, middle + lap_direction(lap, 1) * 120)
            QApplication.processEvents()

        send(QEvent.Type.MouseButtonPress, middle + lap_direction(lap, 1) * 120)
        # One cycle first: a lesson turns the same engine round and round.
        times_ms(drag, 200)
        found = times_ms(drag, frames)
        window.close()
    return found


def bench_frames() -> None:
    """Frames while dragging, and how they grow with the engine."""
    from true_compass.app.main import make_application
    from true_compass.core.crank.makers import flat, inline, radial, vee
    from true_compass.files.rigs import demo_rig

    application = make_application()
    for name, engine, bound in (
        ("six cylinders", demo_rig("birch"), "<= 8 ms, <= 12 ms"),
        ("18-cylinder radial", radial(18, 2), "95 %: <= 12 ms"),
        ("inline four", inline(4), ""),
        ("flat six", flat(6), ""),
        ("V8", vee(8, 90), ""),
        ("V12", vee(12, 60), ""),
        ("V16", vee(16, 45), ""),
    ):
        frames = frame_times(engine, 300)
        p95 = frames[int(len(frames) * 0.95)]
        figure = f"{statistics.median(frames):.2f} ms, 95 %: {p95:.2f}"
        row(f"Watch frame while dragging, {name}", figure, bound)
    del application
    peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    row("most memory of this process", f"{peak_mb:.0f} MB", "")


def bench_covered() -> None:
    """The bench: an action with its repaint, a replay, scenarios from seeds."""
    from pathlib import Path

    from PyQt6.QtWidgets import QApplication

    from true_compass.app.main import Start, make_application, make_window
    from true_compass.app.workspaces.bench.workspace import BenchWorkspace
    from true_compass.bench.condition import condition_of
    from true_compass.bench.run import Run
    from true_compass.bench.scenario import Scenario
    from true_compass.bench.tasks import Task
    from true_compass.core.crank.makers import radial
    from true_compass.files.rigs import demo_rig
    from true_compass.files.scenario_file import scenario_text
    from true_compass.session.session import Source

    application = QApplication.instance() or make_application()
    eighteen = radial(18, rows=2)
    for engine in (demo_rig("cedar"), eighteen):
        with tempfile.TemporaryDirectory() as folder:
            window = make_window(Start(demo_rig("cedar"), Source(rig="cedar"), Path(folder)))
            window.resize(1280, 800)
            window.show()
            window.go_to("Bench")
            page = window.workspace
            assert isinstance(page, BenchWorkspace)
            page.begin(Scenario(engine, Task.FREE))
            for part in ("covers", "plugs", "cap"):
                page.model.do("off", part=part)
            page.model.do("line", cylinder=1)
            page.model.do("wheel")

            def act(model: object = page.model) -> None:
                model.bar(3.0)  # type: ignore[attr-defined]
                QApplication.processEvents()

            times = times_ms(act, 120)
            name = f"bench: an action, readings, repaint, {engine.layout_words}"
            figure = (
                f"{statistics.median(times):.1f} ms (95 %: {times[int(len(times) * 0.95)]:.1f})"
            )
            row(name, figure, "<= 12 ms")
            window.close()
            window.deleteLater()
    assert application is not None
    scenario = Scenario(demo_rig("birch"))
    hands = [
        {"do": "bar", "deg": 30},
        {"do": "rock", "deg": 3},
        {"do": "thumb", "cylinder": 1, "deg": 90},
        {"do": "wiggle", "item": "I1"},
        {"do": "feeler", "item": "E1", "blade_mm": 0.2},
        {"do": "look", "at": "marks"},
        {"do": "look", "at": "rockers"},
        {"do": "wheel"},
        {"do": "line", "cylinder": 2},
        {"do": "lift", "item": "I2"},
    ]
    begun = time.perf_counter()
    Run.begin(scenario).replayed(hands * 1000)
    row("  10,000 logged actions replay", f"{time.perf_counter() - begun:.2f} s", "<= 2 s")
    begun = time.perf_counter()
    for seed in range(1000):
        made = Scenario(demo_rig("birch"), Task.FAULT, seed=seed, faults=("damper-crept",))
        condition_of(made)
        scenario_text(made)
    row("  1,000 scenarios made from seeds", f"{time.perf_counter() - begun:.2f} s", "<= 3 s")


def bench_book() -> None:
    """The book: opened with 2,000 jobs of 24 items, a trend, a shim plan, a merge."""
    import random
    from dataclasses import replace

    from PyQt6.QtWidgets import QApplication

    from true_compass.app.main import Start, make_application, make_window
    from true_compass.book.pointing import USUAL_STEP_MM
    from true_compass.book.trend import changes_in, history, pointed
    from true_compass.core.adjusting.shims import Position, plan_shims, stock_sizes_mm
    from true_compass.core.crank.makers import vee
    from true_compass.files.book_file import Book
    from true_compass.files.book_merge import merge
    from true_compass.session.session import Source

    application = QApplication.instance() or make_application()
    engine = replace(vee(12, 60), name="Rig of twelve")
    with tempfile.TemporaryDirectory() as folder:
        here = Path(folder)
        path = here / "state" / "data" / "book.tcbook"
        fill_book(path, engine, "rig twelve", 2000, 0)
        window = make_window(Start(engine, Source(rig="twelve"), here))
        window.resize(1280, 800)
        window.show()
        window.go_to("Engine")
        QApplication.processEvents()
        begun = time.perf_counter()
        window.go_to("Book")
        QApplication.processEvents()
        took = 1000 * (time.perf_counter() - begun)
        row("book: opening it with 2,000 jobs of 24 items", f"{took:.0f} ms", "<= 150 ms")
        window.close()
        window.deleteLater()
        book = Book(path)
        engine_id = book.engines()[0].id

        def trend() -> None:
            entries = book.entries(engine_id)
            points = changes_in(entries, len(entries) - 1)
            pointed(points, entries[-1], lambda _: 0.01, USUAL_STEP_MM)
            history(entries, next(iter(points)))

        row(
            "  a trend over 200 jobs",
            f"{statistics.median(times_ms(trend, 15)):.0f} ms",
            "<= 50 ms",
        )
        rng = random.Random(3)
        stock = stock_sizes_mm(2.0, 3.5, 0.05)
        head = [
            Position(
                f"I{n}", rng.choice(stock), round(rng.uniform(0.05, 0.4), 2), (0.15, 0.25), 0.2
            )
            for n in range(32)
        ]
        drawer = [rng.choice(stock) for _ in range(200)]
        plan_shims(head, drawer, stock)
        plans = times_ms(partial(plan_shims, head, drawer, stock), 15)
        row(
            "  a shim plan of 32 positions, 200 in the drawer",
            f"{statistics.median(plans):.1f} ms",
            "<= 200 ms",
        )
        other = here / "other.tcbook"
        fill_book(other, engine, "rig twelve", 2000, 2000)
        begun = time.perf_counter()
        merge(book, other)
        row("  merging two books of 2,000 jobs", f"{time.perf_counter() - begun:.2f} s", "<= 5 s")
        book.close()
    assert application is not None


def bench_cam() -> None:
    """The cam: a reading with its picture, the correction, gaps of 64 valves, a live line."""
    from dataclasses import replace

    import numpy as np
    from PyQt6.QtWidgets import QApplication

    from true_compass.app.main import make_application
    from true_compass.core.crank.makers import vee
    from true_compass.core.degreeing.clearance import least_gaps
    from true_compass.core.degreeing.steps import best_options, steps_of
    from true_compass.core.state import Rig
    from true_compass.core.valves.chamber import Chamber, ValveRoom
    from true_compass.core.valves.timing_set import Offset, TimingSet
    from true_compass.files.rigs import demo_rig
    from true_compass.instrument.line import LineReader
    from true_compass.instrument.simulated import SimulatedInstrument, parse_on

    application = QApplication.instance() or make_application()
    rig = Rig.of(demo_rig("birch"))
    instrument = SimulatedInstrument(rig, parse_on("tappet I1", rig.engine), turn_deg_s=90.0)
    bench_readings(instrument)
    drive = TimingSet(
        teeth=42,
        holes=(15, 16),
        keys=tuple(Offset(size, 24.0) for size in (0.5, 1.0, 1.5)),
        bushes=tuple(Offset(size, 22.0) for size in (0.4, 0.8, 1.2)),
    )
    best = statistics.median(times_ms(lambda: best_options(steps_of(drive), 4.8), 20))
    row("  teeth x holes x keys x bushes, the best five", f"{best:.1f} ms", "<= 30 ms")
    sixteen = vee(16, 90)
    four = replace(sixteen, head=replace(sixteen.head, intake_valves=2, exhaust_valves=2))
    room = ValveRoom(2.0)
    chamber = Chamber(0.2, 1.0, room, room)
    earlier, large = np.full(len(four.valves), 4.0), Rig.of(four)
    gaps = statistics.median(times_ms(lambda: least_gaps(large, chamber, earlier), 20))
    count = four.cylinder_count * 4
    row(f"  valve to piston over a cycle, {count} valves", f"{gaps:.1f} ms", "<= 50 ms")
    block = b"".join(instrument.passed(0.5) for _ in range(40))
    reader = LineReader()
    for _ in reader.feed(block):
        pass
    before_kb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    read, begun = 0, time.perf_counter()
    while read < 720_000:
        read += sum(1 for _ in reader.feed(block))
    took_s = time.perf_counter() - begun
    grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before_kb
    figure = f"{took_s:.1f} s, {grown} kB more"
    row("  720,000 readings at full speed", figure, "no growth")
    assert application is not None


def bench_readings(instrument: "SimulatedInstrument") -> None:
    """Readings in the window: typed, and 200 a second from a line."""
    from PyQt6.QtWidgets import QApplication

    from true_compass.app.workspaces.cam.workspace import LINE, READINGS, CamWorkspace
    from true_compass.core.degreeing.sheet import entered, order_of_reading
    from true_compass.files.rigs import demo_rig
    from true_compass.instrument.line import LineReader, Reading

    with tempfile.TemporaryDirectory() as folder:
        window = shown_window(demo_rig("birch"), Path(folder))
        window.go_to("Cam")
        page = window.workspace
        assert isinstance(page, CamWorkspace)
        model = page.model
        model.name_setup(model.usual_setup)
        page.show_page(READINGS)
        cells = order_of_reading(model.sheet, model.kinds)[:8]
        figures = (10.0, 10.0, 89.0, 93.0, 99.0, 119.5, 125.5, 130.0)
        for cell, figure in zip(cells, figures, strict=True):
            model.write(entered(model.sheet, cell, figure), "a reading")
        nth = iter(range(100_000))

        def a_reading() -> None:
            figure = 130.0 + 0.5 * (next(nth) % 3)
            model.write(entered(model.sheet, cells[-1], figure), "a reading")
            QApplication.processEvents()

        took = times_ms(a_reading, 60)
        told = f"{statistics.median(took):.1f} ms, 95 % within {sorted(took)[56]:.1f}"
        row("cam: a reading entered, with the picture", told, "<= 16 ms")
        page.show_page(LINE)
        line, reader = page.lining.line, LineReader()
        blocks = [instrument.passed(0.08) for _ in range(150)]

        def a_frame() -> None:
            # Eight readings: what 200 a second bring in 40 ms, and the frame that shows them.
            for one in reader.feed(blocks[next(nth) % len(blocks)]):
                if isinstance(one, Reading):
                    line.take(one)
            line.shown.emit()
            QApplication.processEvents()

        took = times_ms(a_frame, 120)
        told = f"{statistics.median(took):.1f} ms, the slowest {max(took):.1f}"
        row("  200 readings a second shown, a frame", told, "<= 16 ms")
        window.close()
        window.deleteLater()


def bench_ignition() -> None:
    """The ignition of a radial of eighteen: a lead, the body, speed and depression dragged."""
    from dataclasses import replace

    import numpy as np
    from PyQt6.QtCore import QPointF
    from PyQt6.QtWidgets import QApplication

    from true_compass.app.main import make_application
    from true_compass.app.workspaces.ignition.workspace import (
        CURVE,
        FIT,
        LAMP,
        LEADS,
        IgnitionWorkspace,
    )
    from true_compass.core.crank.makers import radial
    from true_compass.core.ignition.advance import total_deg
    from true_compass.core.rotation import Rotation
    from true_compass.core.spark import Advance, Distributor, Ignition, Rotor, Spark

    advance = Advance(10.0, ((1000.0, 0.0), (2800.0, 22.0)), ((120.0, 0.0), (360.0, 12.0)))
    spark = Spark(
        Ignition.DISTRIBUTOR, Rotor(Rotation.CLOCKWISE), Distributor(13, 18, 0.0, 5.0), advance
    )
    engine = replace(radial(18, 2), spark=spark)
    application = QApplication.instance() or make_application()
    with tempfile.TemporaryDirectory() as folder:
        window = shown_window(engine, Path(folder))
        window.go_to("Ignition")
        page = window.workspace
        assert isinstance(page, IgnitionWorkspace)
        model, nth = page.model, iter(range(100_000))
        page.show_page(LEADS)
        map_view = page.leads.map
        model.write("two leads", wired=(*model.order[:-2], model.order[-1], model.order[-2]))
        map_view.held_post = 3

        def a_lead() -> None:
            map_view._hand = QPointF(120.0 + next(nth) % 300, 140.0)
            map_view.update()
            QApplication.processEvents()

        drag_row("ignition, radial eighteen: a lead dragged, a frame", a_lead)
        map_view.held_post = 0
        page.show_page(FIT)

        def the_body() -> None:
            body = (next(nth) % 40) * 0.5 - 10.0
            model.drag(fitted=replace(model.standing.fitted, body_deg=body))
            QApplication.processEvents()

        drag_row("  its body turned, a frame", the_body)
        model.let_go("turning the body")
        for word, title in ((CURVE, "curve"), (LAMP, "lamp")):
            page.show_page(word)
            page.lamping.set_hose(True)

            def the_speed() -> None:
                page.lamping.set_speed(500.0 + 50 * (next(nth) % 80))
                QApplication.processEvents()

            def the_depression() -> None:
                page.lamping.set_depression(10.0 * (next(nth) % 60))
                QApplication.processEvents()

            drag_row(f"  speed dragged on the {title}, a frame", the_speed)
            drag_row(f"  depression dragged on the {title}, a frame", the_depression)
        window.close()
        window.deleteLater()
    rpms, pulls = np.linspace(0.0, 6000.0, 200), np.linspace(0.0, 700.0, 50)
    took = statistics.median(times_ms(lambda: total_deg(advance, rpms, pulls), 50))
    row("  totals over 200 speeds and 50 depressions", f"{took:.2f} ms", "<= 5 ms")
    assert application is not None


def bench_lessons() -> None:
    """Questions, results of a class, opening with many answers on record, a guided step turned."""
    from PyQt6.QtWidgets import QApplication

    from true_compass.app.main import make_application
    from true_compass.app.workspaces.lessons.workspace import LessonsWorkspace
    from true_compass.files.course import shipped_lesson
    from true_compass.files.result_files import collect, result_paths
    from true_compass.files.rigs import demo_rig
    from true_compass.lessons.drills import DRILLS, questions, record_of, rig_of

    oak = demo_rig("oak")
    kinds = [d.slug for d in DRILLS if d.on_paper and not d.missing(rig_of(oak))]

    def asked() -> None:
        for question in questions(kinds, {"oak": oak}, 7, 1000):
            record_of(rig_of(oak), question)

    took = statistics.median(times_ms(asked, 3))
    row("1,000 questions with their answers, V12", f"{took / 1e3:.2f} s", "<= 2 s")
    application = make_application()
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        fill_results(place / "results", 300)
        paths = result_paths(place / "results")
        took = statistics.median(times_ms(lambda: collect(paths), 3))
        row("300 results collected and judged again", f"{took / 1e3:.2f} s", "<= 5 s")
        fill_answers(place / "state" / "data" / "demo", 50_000)
        window = shown_window(demo_rig("birch"), place)
        window.look.set_still(True)
        QApplication.processEvents()
        begun = time.perf_counter()
        window.go_to("Lessons")
        QApplication.processEvents()
        first = (time.perf_counter() - begun) * 1e3
        page = window.workspace
        assert isinstance(page, LessonsWorkspace)

        def opened() -> None:
            window.go_to("Watch")
            page.model.forget()
            window.go_to("Lessons")
            QApplication.processEvents()

        again = statistics.median(times_ms(opened, 10))
        told = f"{again:.0f} ms, the first time {first:.0f}"
        row("Lessons opened, 50,000 answers on record", told, "<= 150 ms")
        page.model.begin(shipped_lesson("companions"), practice=True, engine=demo_rig("elm"))

        def turn() -> None:
            page.model.turner.turn_by(3.7)
            QApplication.processEvents()

        drag_row("a guided step turned, W12", turn)
        window.close()
    del application


def fill_results(folder: Path, count: int) -> None:
    """Results of so many people, each of twelve answers."""
    from datetime import UTC, datetime, timedelta

    from true_compass.files.course import shipped_lesson
    from true_compass.files.lesson_file import lesson_digest, lesson_text
    from true_compass.lessons.lesson import set_seed
    from true_compass.lessons.result import Header, Person, chained
    from true_compass.session.lesson import OnLesson, Station

    lesson, now = shipped_lesson("no-table"), datetime(2026, 11, 2, 9, tzinfo=UTC)
    text, digest = lesson_text(lesson), lesson_digest(lesson)
    folder.mkdir(parents=True)
    for nth in range(count):
        who = Person(f"00000000-0000-4000-8000-{nth:012d}", f"Student {nth}")
        header = Header(who.id, lesson.id, digest, lesson.title, text, who, nth, "0.1.0")
        on, lines = OnLesson.begin(lesson, who, set_seed(lesson, who.id, "")), [header.line()]
        for place, stop in enumerate(on.stops):
            if stop.station is Station.QUESTION:
                on = on.at(place)
                on = on.entering(on.form.read(on.drill.answer(on.asked)))
                on = on.answered(now + timedelta(minutes=place), "2026-11-02")
                lines.append(chained(lines[-1], on.given[-1]))
        told = "".join(f"{line}\n" for line in lines)
        (folder / f"{nth}.result.jsonl").write_text(told, encoding="utf-8")


def fill_answers(folder: Path, count: int) -> None:
    """A record of so many answers of one person without a name, over all skills."""
    import random
    from datetime import UTC, datetime, timedelta

    from true_compass.files.answers_file import NAME, Answers
    from true_compass.lessons.skills import SKILLS

    rng, start = random.Random(7), datetime(2024, 1, 8, 8, tzinfo=UTC)
    layouts = ("inline four", "inline six", "90° V8", "60° V12", "radial nine")
    answers = Answers(folder / NAME)
    who = answers.person("", start)
    with answers.db.writing("answers"):
        for n in range(count):
            at = start + timedelta(minutes=11 * n)
            skill, layout = rng.choice(SKILLS), rng.choice(layouts)
            right, aided = int(rng.random() < 0.8), int(rng.random() < 0.1)
            answers.db.do(
                "INSERT INTO answer (person_id, lesson_id, part, nth, skill, engine, layout, at, "
                "day, correct, aided, credit, idea, kind, choices, asked, question, answer) "
                "VALUES (?, 'x', 0, 0, ?, 'Rig', ?, ?, ?, ?, ?, ?, '', ?, 4, ?, '{}', '1')",
                *(who.id, skill.slug, layout, at.isoformat(), at.date().isoformat(), right, aided),
                *(float(right), rng.choice((*skill.needs, "x")), f"question {n}"),
            )
        for skill_ in SKILLS:
            answers.db.do(
                "INSERT INTO again VALUES (?, ?, 9, 1, 0, 3.0, 5.0, ?, ?)",
                *(who.id, skill_.slug, start.isoformat(), start.isoformat()),
            )
    answers.close()


def drag_row(name: str, drag: Callable[[], None]) -> None:
    """A row of frames that follow a hand."""
    took = times_ms(drag, 60)
    told = f"{statistics.median(took):.1f} ms, 95 % within {sorted(took)[56]:.1f}"
    row(name, told, "<= 12 ms")


def fill_book(path: Path, engine: "Engine", source: str, count: int, first: int) -> None:
    """A book of so many jobs on one engine, each of all its items."""
    import random
    from datetime import date, timedelta

    from true_compass.book.job import BookEngine, ItemRecord, Job, Measure, Person
    from true_compass.book.targets import targets_of
    from true_compass.core.adjusting.setting import settings_of
    from true_compass.files.book_file import Book
    from true_compass.files.engine_values import engine_digest, values_of_engine

    rng = random.Random(first)
    book, person = Book(path), Person("p", "Joel R.")
    told = BookEngine("twelve", engine.name, "1", source, engine_digest(engine))
    book.put_engine(told, values_of_engine(engine))
    targets, settings = targets_of(engine), settings_of(engine)
    with book.db.writing("the jobs"):
        for n in range(first, first + count):
            items = {}
            for setting in settings:
                found = Measure.mm(round(setting.target_mm + rng.gauss(0, 0.01), 2))
                items[setting.item] = ItemRecord(found)
            day = date(2000, 1, 1) + timedelta(days=n)
            job = Job(
                f"job-{n}",
                told.id,
                told.digest,
                day,
                f"{day}T10:00:00+00:00",
                person,
                clock=10.0 * n,
                targets=targets,
                items=items,
            )
            book.put_whole(job, job.made, {"b": 1})
    book.close()


def bench_paper() -> None:
    """A degree wheel as a PDF page, as a picture on the screen, and typed at on its page."""
    from datetime import date

    from PyQt6.QtWidgets import QApplication

    from true_compass.app.main import make_application
    from true_compass.app.workspaces.cam.workspace import CamWorkspace
    from true_compass.core.adjusting.schools import BY_WORD, Choice
    from true_compass.core.paper.wheel import PaperWheel
    from true_compass.core.state import Rig
    from true_compass.drawing.documents import A4, picture_of, write_document
    from true_compass.drawing.paper.made import wheel_for
    from true_compass.drawing.paper.sheet import Style
    from true_compass.files.rigs import demo_rig

    application = make_application()
    for name in ("birch", "magnolia", "whitebeam"):
        rig = Rig.of(demo_rig(name))
        plan = BY_WORD["firing-order"].plan(rig, Choice())
        made = partial(wheel_for, rig, plan, PaperWheel(), Style(), date(2026, 11, 27))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "wheel.pdf"
            took = statistics.median(times_ms(lambda: write_document(made(), A4, path), 15))  # noqa: B023
            row(f"a wheel page as PDF, {rig.engine.name}", f"{took:.0f} ms", "<= 100 ms")
    took = statistics.median(times_ms(lambda: picture_of(A4, made().pages(A4)[0], 1.0), 15))
    row("the same page as a picture", f"{took:.0f} ms", "")
    with tempfile.TemporaryDirectory() as folder:
        window = shown_window(demo_rig("birch"), Path(folder))
        window.go_to("Cam", "Paper")
        page = window.workspace
        assert isinstance(page, CamWorkspace)
        texts = iter(f"{100 + nth}" for nth in range(1000))

        def typed() -> None:
            page.papering.type("diameter", next(texts))
            QApplication.processEvents()

        took = statistics.median(times_ms(typed, 20))
        row("a size typed on the page of paper, both sheets anew", f"{took:.0f} ms", "<= 100 ms")
        window.close()
    del application


def main() -> None:
    """Print every row."""
    if sys.argv[1:2] == ["--first-frame"]:
        first_frame(*sys.argv[2:4])
        return
    bench_starts()
    bench_state()
    bench_valve_train()
    bench_refusals()
    bench_plans()
    bench_orders()
    bench_lash()
    bench_hand()
    bench_frames()
    bench_covered()
    bench_book()
    bench_cam()
    bench_ignition()
    bench_lessons()
    bench_paper()


if __name__ == "__main__":
    main()
