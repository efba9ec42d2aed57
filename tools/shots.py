"""Retake the pictures in docs/screenshots from the demo rigs.

Throwaway pictures:  shots.py --out DIR [--rig NAME|FILE] [--at DEG] [--dark] [--scale 125|150]
[--projector] [--size 1280x800] [--open-file FILE] [--keys F1,T] [--tab Overlap]
[--lash MM] [--advance DEG]
"""

import argparse
import os
import sys
import tempfile
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6 import QtTest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLineEdit
from tools.demo_class import KNOWS, write_class

from true_compass.app.main import Start, make_application, make_window
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.bench.model import BY_SLUG
from true_compass.app.workspaces.bench.workspace import BenchWorkspace
from true_compass.app.workspaces.book.workspace import BookWorkspace
from true_compass.app.workspaces.cam.workspace import CamWorkspace
from true_compass.app.workspaces.ignition.workspace import IgnitionWorkspace
from true_compass.app.workspaces.lessons.workspace import LessonsWorkspace
from true_compass.app.workspaces.stops.workspace import StopsWorkspace
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.tasks import Task
from true_compass.book.job import ItemRecord, Measure
from true_compass.cli.common import resolve_engine
from true_compass.core.degreeing.found import curve_for
from true_compass.core.degreeing.top import span_of
from true_compass.core.evidence.where import Look, Seen
from true_compass.core.ignition.bay import Step, made_wrong
from true_compass.core.ignition.leads import exchanged
from true_compass.core.items import Item, Kind
from true_compass.core.state import WhatIf
from true_compass.files.course import shipped_lesson
from true_compass.files.rigs import demo_rig
from true_compass.session.session import Source

# Its type stubs leave out that every method is static.
QTest: Any = QtTest.QTest
SCREENSHOTS = Path(__file__).resolve().parent.parent / "docs" / "screenshots"


@dataclass(frozen=True)
class Shot:
    """One picture: what is open, where the crank stands, and how it looks."""

    name: str
    rig: str = "birch"
    at_deg: float = 240.0
    dark: bool = False
    percent: int = 100
    projector: bool = False
    size: tuple[int, int] = (1280, 800)
    open_file: str = ""
    keys: str = ""
    typed: str = ""
    tab: str = ""
    lash_mm: float = 0.0
    advance_deg: float = 0.0
    ticks: int = 0
    longer_deg: float = 0.0
    seen: tuple[str, ...] = ()
    school: str = ""
    page: str = ""
    bench: str = ""
    book: bool = False
    cam: int = 0
    """How many readings of a cam are typed."""
    lesson: str = ""
    paper: bool = False


SHOTS = (
    Shot("front", page="Front", at_deg=0.0, ticks=2),
    Shot("watch-light"),
    Shot("watch-v8", rig="cedar", at_deg=305.0),
    Shot("watch-radial", rig="acacia", at_deg=162.0),
    Shot("stops", keys="S", at_deg=0.0, ticks=2),
    Shot(
        "stops-do", rig="hickory", keys="S", tab="Do", school="firing-order", at_deg=682.5, ticks=2
    ),
    Shot("engine", rig="cedar", keys="E", tab="Throws"),
    Shot("orders", keys="O", typed="1-5-3-4-2-6"),
    Shot("bench", page="Bench", bench="work"),
    Shot("bench-truth", page="Bench", bench="truth"),
    Shot("cam", page="Cam", tab="Readings", cam=13, at_deg=273.5),
    Shot("cam-correct", page="Cam", tab="Correct", cam=99, at_deg=0.0),
    Shot("paper", page="Cam", tab="Paper", at_deg=0.0, paper=True),
    Shot("ignition", rig="cedar", page="Ignition", tab="Fit", at_deg=710.0),
    Shot("ignition-leads", rig="aspen", page="Ignition", tab="Leads", at_deg=0.0, dark=True),
    Shot("book", page="Book", book=True),
    Shot("lesson", page="Lessons", tab="Learn", lesson="two-tdcs"),
    Shot("drill", page="Lessons", tab="Learn", lesson="valves-here"),
    Shot("class", page="Lessons", tab="Class", lesson="class"),
)
BEFORE = ("acacia", "alder", "cedar")
"""Engines that were open before, for the front page."""


def set_the_scene(window: MainWindow, shot: Shot) -> None:
    """Three engines looked at before, the valves of this one begun, then the page asked for."""
    for rig, word in zip(BEFORE, ("Orders", "Stops", "Watch"), strict=True):
        window.opener.open_rig(rig)
        window.go_to(word)
        window.session.turn_to(305.0)
    window.opener.open_rig(shot.rig)
    window.go_to("Stops", "Do it")
    assert isinstance(window.workspace, StopsWorkspace)
    for _ in range(shot.ticks):
        window.workspace.set_button.click()
    window.go_to(shot.page)
    window.workspace.focus_first().setFocus(Qt.FocusReason.TabFocusReason)
    QApplication.processEvents()


def work_at_the_bench(window: MainWindow, shot: Shot) -> None:
    """Cylinder 3 brought near its compression TDC; or a six set with one mistake, and uncovered."""
    page = window.workspace
    assert isinstance(page, BenchWorkspace)
    model = page.model
    if shot.bench == "work":
        page.begin(Scenario(demo_rig(shot.rig), Task.TDC, 3, 4417, said=Said(start_deg=40.0)))
    else:
        page.begin(Scenario(demo_rig(shot.rig), Task.SET, 1, 4417, said=Said(start_deg=330.0)))
    for part in ("covers", "plugs", "cap"):
        model.do("off", part=part)
    model.chalk()
    if shot.bench == "work":
        model.thumb = 3
        model.bar(190.0)
        model.thumb = 0
        model.do("look", at="rotor")
        for item in ("I3", "E3"):
            model.do("wiggle", item=item)
        model.take(BY_SLUG["line"])
        model.do("line", cylinder=3)
        QApplication.processEvents()
        return
    model.bar(30.0)
    model.do("look", at="marks")
    for item in ("I1", "E1"):
        model.do("slacken", item=item)
        goes: dict[str, Any] | None = {"feel": "will not go"}
        while goes is not None and goes["feel"] == "will not go":
            model.do("screw", item=item, deg=-15.0)
            goes = model.do("feeler", item=item, blade_mm=0.25)
        model.do("tighten", item=item, hold=True)
    model.do("declare", cylinder=1, tdc="compression")
    model.do("finish")
    page.show_page("truth")
    QApplication.processEvents()


def a_proof_typed(window: MainWindow) -> None:
    """A printer whose bars were measured, and a cast mark that is 2° late."""
    window.go_to("Cam", "Paper")
    page = window.workspace
    assert isinstance(page, CamWorkspace)
    for name, text in (("late", "2"), ("across", "99.2"), ("along", "100.1")):
        page.papering.type(name, text)


def a_year_in_the_book(window: MainWindow, shot: Shot) -> None:
    """Four jobs by two people; one exhaust closes, one intake opens, both are set in the last."""
    page = window.workspace
    assert isinstance(page, BookWorkspace)
    model = page.model
    keeper, last = model.keeper, datetime(2026, 11, 12, 10, tzinfo=UTC)
    page.facts.number_typed.emit("3")
    left: dict[Item, float] = {}
    steps = (0, -1, 0, 1, -1, 0, 1, 0, -1, 0, 1, -1)
    shims = (2.70, 2.80, 2.65, 2.75, 2.80, 2.90, 2.60, 2.85, 2.75, 2.65)
    gaps = (0.13, 0.24, 0.21, 0.38, 0.27, 0.31, 0.12, 0.22, 0.19, 0.29)
    for nth, (days, hours, who) in enumerate(
        (
            (418, 600, "Mina L."),
            (307, 1010, "Joel R."),
            (162, 1420, "Joel R."),
            (0, 1840, "Joel R."),
        )
    ):
        moment = last - timedelta(days=days)
        keeper.clock = partial(datetime.fromisoformat, moment.isoformat())
        page.begin.click()
        job = replace(
            model.job or keeper.begin("paper"),
            person=keeper.person(who),
            clock=float(hours),
            temperature_c=18.0,
            rested_h=20.0,
            blades="set 3",
            blade_step_mm=0.02,
            seen_by="Mina L." if nth else "",
            complaint="ticks at idle, warm" if nth == 3 else "",
            signs_after="quiet" if nth == 3 else "",
            put_back=("Pin out, turning tool off",),
            signed=who if nth < 3 else "",
        )
        for place, item in enumerate(model.items):
            target = model.setting(item).target_mm
            change = steps[(place + nth) % len(steps)] * 0.01
            change = {"E5": (0, -0.01, -0.02, -0.07)[nth], "I3": (0, 0, 0.01, 0.07)[nth]}.get(
                item.name, change if nth else 0.0
            )
            found = round(left.get(item, target) + change, 2)
            record = ItemRecord(Measure.mm(found))
            if abs(found - target) > 0.051 or not nth:
                aim = Measure.mm(target)
                record = ItemRecord(Measure.mm(found), aim, aim, 27.0, stripe=True)
            if shot.rig == "linden" and nth == 3:
                record = ItemRecord(Measure.mm(gaps[place]), shim_mm=shims[place])
            left[item] = target if record.was_set else found
            job = job.with_item(item, record)
        window.session.write_job(job, "a job")
    page.shims_model.put_drawer("2.95 3.05")
    page.show_page(shot.tab or "Job")
    QApplication.processEvents()


def degree_a_cam(window: MainWindow, shot: Shot) -> None:
    """A cam that stands 2.4° late and a pointer that was 1.5° late, read to half a degree."""
    page = window.workspace
    assert isinstance(page, CamWorkspace)
    model = page.model
    model.name_setup(model.usual_setup)
    pointer_deg = 1.5
    for _ in range(shot.cam):
        while model.question is not None:
            words = [word for _, word in model.question.answers]
            pointer_deg = 0.0 if "set" in words else pointer_deg
            piston = "falls" if model.after_piston_kind is Kind.INTAKE else "rises"
            model.answer("set" if "set" in words else piston)
        cell, pair = model.asked, model.asked_pair
        if cell is None:
            break
        if pair is None:
            drop = model.sheet.now.tops[cell.row].drop_mm
            half = span_of(model.rig, model.cylinder, drop).half_deg
            at = half if cell.after else -half
        else:
            curve = curve_for(model.rig, model.sheet, cell.part.kind)
            at = curve.chord_deg(pair.drop_mm)[cell.after] + 2.4
        at = round(2 * (at + pointer_deg)) / 2
        model.enter(f"{model.setup.wheel.figure_deg(at):g}")
    page.show_page(shot.tab)
    window.session.turn_to(shot.at_deg)
    if shot.tab == "Readings":
        page.pad.field.setText("97.0")
    QApplication.processEvents()


def work_at_the_spark(window: MainWindow, shot: Shot) -> None:
    """A distributor that is down but not turned, three leads gone round, or a can that leaks."""
    page = window.workspace
    assert isinstance(page, IgnitionWorkspace)
    model = page.model
    if shot.tab == "Fit":
        fitted = replace(model.standing.fitted, body_deg=0.0)
        model.write("dropping it", fitted=fitted, done=tuple(Step)[:6])
    elif shot.tab == "Leads":
        wired = model.standing.wired
        for post, cylinder in ((3, 6), (6, 5)):
            wired = exchanged(wired, post, cylinder)
        model.write("wiring", wired=wired)
        model.pick(14)
    else:
        model.begin_anew(made_wrong(model.engine, ("can-leaks",)), "a leak")
        for reading in ("10", "32"):
            page.lamping.keep(reading)
        page.lamp.field.setText("27")
    page.show_page(shot.tab)
    if shot.tab == "Fit":
        window.session.turn_to(shot.at_deg)
    QApplication.processEvents()


def teach(window: MainWindow, shot: Shot, folder: Path) -> None:
    """A guided step with both pistons up, a wrong answer shown on the engine, or a whole class."""
    page = window.workspace
    assert isinstance(page, LessonsWorkspace)
    page.show_page(shot.tab)
    if shot.lesson == "class":
        write_class(folder)
        page.room.collect_from(folder)
        while len(page.room.room.students) < len(KNOWS) or page.room.collector.reading:
            QTest.qWait(50)
        return
    model = page.model
    model.begin(shipped_lesson(shot.lesson), practice=True)
    on = model.on
    assert on is not None
    if shot.name == "lesson":
        window.session.put_lesson(on.at(4))
    else:
        kinds = [stop.question.kind if stop.question else "" for stop in on.stops]
        window.session.put_lesson(on.at(kinds.index("free")))
        model.enter(("I2", "E1"))
        model.answer()
    page.focus_first().setFocus()
    QTest.qWait(50)


def take(shot: Shot, folder: Path) -> Path:
    """Draw one picture as the program draws it, with settings of its own."""
    with tempfile.TemporaryDirectory() as settings:
        engine = resolve_engine(shot.rig)
        # The hint for a first start would hide the lash, which is what stands there in class.
        (Path(settings) / "demo").mkdir()
        (Path(settings) / "demo" / "settings.json").write_text('{"watch.drags": 3}')
        window = make_window(Start(engine, Source(rig=shot.rig), Path(settings), demo=True))
        window.look.set_still(True)
        window.look.set_dark(shot.dark)
        window.look.set_text_percent(shot.percent)
        if shot.projector:
            window.look.toggle_projector()
        window.resize(*shot.size)
        window.session.turn_to(shot.at_deg)
        window.show()
        QApplication.processEvents()
        if shot.open_file:
            window.opener.open_path(Path(shot.open_file))
        if shot.keys == "all":
            window.note.more.click()
        elif shot.keys:
            for keys in shot.keys.split(","):
                chord = QKeySequence(keys)[0]
                QTest.keyClick(window, chord.key(), chord.keyboardModifiers())
        if shot.paper:
            a_proof_typed(window)
        if shot.tab and not (
            shot.book or shot.cam or shot.paper or shot.lesson or shot.page == "Ignition"
        ):
            button = window.findChild(QAbstractButton, f"tab_{shot.tab.lower()}")
            assert button is not None
            button.click()
        if isinstance(window.workspace, StopsWorkspace):
            if shot.school:
                window.workspace.model.choose(shot.school)
            for _ in range(shot.ticks):
                window.workspace.set_button.click()
            window.workspace.compare.slider.set_value(shot.longer_deg)
            for words in shot.seen:
                look, name = words.split()
                window.workspace.where.toggle(Seen(Look(look), name))
        lash, advance = shot.lash_mm, shot.advance_deg
        window.session.try_out(WhatIf(lash, lash, advance, advance))
        if shot.typed:
            field = window.findChild(QLineEdit, "order_field")
            assert field is not None
            field.setText(shot.typed)
        QApplication.processEvents()
        if shot.page:
            set_the_scene(window, shot)
        if shot.paper:
            a_proof_typed(window)
        if shot.cam:
            degree_a_cam(window, shot)
        if shot.page == "Ignition":
            work_at_the_spark(window, shot)
        if shot.book:
            a_year_in_the_book(window, shot)
        if shot.lesson:
            teach(window, shot, Path(settings) / "class")
        if shot.bench:
            work_at_the_bench(window, shot)
        path = folder / f"{shot.name}.png"
        window.grab().save(str(path))
        window.close()
        window.deleteLater()
    return path


def main() -> int:
    """Take the committed pictures, or one throwaway."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path)
    parser.add_argument("--name", default="shot")
    parser.add_argument("--rig", default="birch")
    parser.add_argument("--at", type=float, default=240.0)
    parser.add_argument("--dark", action="store_true")
    parser.add_argument("--scale", type=int, default=100)
    parser.add_argument("--projector", action="store_true")
    parser.add_argument("--size", default="1280x800")
    parser.add_argument("--open-file", default="")
    parser.add_argument("--keys", default="")
    parser.add_argument("--typed", default="")
    parser.add_argument("--tab", default="")
    parser.add_argument("--lash", type=float, default=0.0)
    parser.add_argument("--advance", type=float, default=0.0)
    options = parser.parse_args()
    application = make_application()
    folder = options.out or SCREENSHOTS
    shots: tuple[Shot, ...] = SHOTS
    if options.out:
        wide, high = options.size.split("x")
        shots = (
            Shot(
                options.name,
                options.rig,
                options.at,
                options.dark,
                options.scale,
                options.projector,
                (int(wide), int(high)),
                options.open_file,
                options.keys,
                options.typed,
                options.tab,
                options.lash,
                options.advance,
            ),
        )
    folder.mkdir(parents=True, exist_ok=True)
    for shot in shots:
        print(take(shot, folder))
    del application
    return 0


if __name__ == "__main__":
    sys.exit(main())
