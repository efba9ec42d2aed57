"""The bench in the real window: every tool and task by hand, and what is kept of it."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QWidget

from tests.conftest import Answers, MakeWindow
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.bench.model import ALL_TOOLS, BY_SLUG
from true_compass.app.workspaces.bench.workspace import CHOOSE, BenchWorkspace
from true_compass.bench.blades import bracket, bracket_words
from true_compass.bench.log import parse_log, played
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.tasks import Task, why_not
from true_compass.core.items import item_named
from true_compass.drawing.scene import Place
from true_compass.files.rigs import demo_rig
from true_compass.files.scenario_file import scenario_digest
from true_compass.files.scenarios import scenario_names

Key = Qt.Key
LEFT = Qt.MouseButton.LeftButton
AT_50 = Said(start_deg=50.0, slack_open=False)


class Bench:
    """The window with its bench in front, and a hand that presses places and buttons."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        window.go_to("Bench")
        assert isinstance(window.workspace, BenchWorkspace)
        self.page = window.workspace
        self.model = self.page.model

    def begin(self, rig: str, task: Task, cylinder: int = 1, **more: object) -> "Bench":
        said = more.pop("said", AT_50)
        self.page.begin(Scenario(demo_rig(rig), task, cylinder, said=said, **more))  # type: ignore[arg-type]
        QApplication.processEvents()
        return self

    @property
    def state(self) -> object:
        return self.model.begun.run.state

    def press(self, place: Place | None) -> None:
        assert place is not None
        at = place.box.center() * self.window.look.scale
        QTest.mouseClick(self.page.scene, LEFT, pos=QPoint(round(at.x()), round(at.y())))

    def place(self, kind: str, cylinder: int = 0, item: str = "") -> Place:
        found = self.page.scene.scene().place(kind, cylinder, item)
        assert found is not None
        return found

    def take(self, slug: str) -> None:
        QTest.keyClick(
            self.page.scene, Key(ord(BY_SLUG[slug].letter)), Qt.KeyboardModifier.ShiftModifier
        )
        assert self.model.hand is BY_SLUG[slug]

    def choose(self, words: str) -> None:
        """Press one of the choices on the sheet."""
        button = next(b for b in self.window.sheet.choice_buttons if b.text() == words)
        QTest.mouseClick(button, LEFT)

    def check(self) -> None:
        """To what is said; where nothing was touched yet that is asked first."""
        self.click("check")
        if self.page.page == "work":
            self.click("check")

    def uncover(self) -> None:
        """Be judged, also on what was never measured."""
        self.click("uncover")
        if self.page.say.asked:
            self.click("uncover")

    def click(self, name: str) -> None:
        button = self.window.findChild(QAbstractButton, name)
        assert button is not None
        assert button.isVisible(), name
        assert button.isEnabled(), name
        QTest.mouseClick(button, LEFT)

    def open_up(self) -> None:
        self.model.do("off", part="covers")
        self.model.do("off", part="plugs")

    def turn_to(self, crank_deg: float) -> None:
        self.model.bar((crank_deg - self.model.begun.run.state.crank_deg) % 720.0 + 720.0)

    def last(self) -> dict[str, object]:
        return self.model.begun.readings[0].answer


@pytest.fixture
def bench(open_window: MakeWindow) -> Bench:
    return Bench(open_window("birch"))


def test_begin_by_mouse_and_what_an_engine_cannot_carry(bench: Bench) -> None:
    choose = bench.page.choose
    for task, button in zip(Task, choose.tasks, strict=True):
        assert button.isEnabled() is not bool(why_not(demo_rig("birch"), task))
    bench.click("task_which-tdc")
    field = bench.window.findChild(QLineEdit, "seed")
    assert field is not None
    field.setText("x7")
    bench.click("begin")
    assert bench.model.bench is None
    assert "digits only" in choose.said
    field.setText("77")
    bench.click("begin")
    assert bench.page.page == "work"
    assert bench.model.begun.run.work.scenario.seed == 77
    assert bench.model.begun.run.work.scenario.task is Task.WHICH_TDC


def test_covers_plugs_and_cap_come_off_where_they_are(bench: Bench) -> None:
    bench.begin("birch", Task.TDC, 3)
    state = bench.model.begun.run.state
    assert {"cover", "plug 3", "cap"} <= state.parts_on
    for place in (bench.place("cover"), bench.place("hole", 3), bench.place("cap")):
        bench.press(place)
    assert not {"cover", "plug 3", "cap"} & bench.model.begun.run.state.parts_on
    bench.press(bench.place("hole", 3))
    assert "plug 3" in bench.model.begun.run.state.parts_on
    bench.click("put_away")
    assert bench.page.page == ""


@pytest.mark.parametrize("tool", ALL_TOOLS, ids=lambda tool: tool.slug)
def test_every_tool_is_taken_placed_and_read(bench: Bench, tool: object) -> None:
    slug = tool.slug  # type: ignore[attr-defined]
    bench.begin("birch", Task.FREE)
    bench.open_up()
    bench.take(slug)
    kind = BY_SLUG[slug].goes_on[0]
    bench.press(bench.place(kind, 3 if kind != "damper" else 0))
    if slug == "thumb":
        assert bench.model.thumb == 3
        bench.turn_to(200.0)
        assert bench.last()["push"] in (True, False)
    elif slug == "blades":
        assert bench.page.page == "set"
        assert bench.model.item == "I3"
    elif slug == "stop":
        assert bench.model.begun.run.state.stop is not None
        bench.model.bar(400.0)
        assert bench.model.begun.last is not None
        assert bench.model.begun.last[1]["touches"]
    else:
        words = {"wiggle": "wiggle", "dial": "read"}.get(slug, slug)
        assert bench.model.begun.readings[0].action["do"] == words
        assert bench.model.begun.is_live(bench.model.begun.readings[0])


def test_a_tool_that_does_not_go_there_says_why_and_esc_puts_it_back(bench: Bench) -> None:
    bench.begin("birch", Task.FREE)
    bench.take("thumb")
    bench.press(bench.place("hole", 2))
    assert bench.model.sentence == "Plug 2 is in: take it out first."
    bench.press(bench.place("damper"))
    QTest.keyClick(bench.page.scene, Key.Key_Escape)
    assert bench.model.hand is None
    bench.model.do("on", part="wings")
    assert "the parts are" in bench.model.sentence


def test_keys_bar_and_never_jump(bench: Bench) -> None:
    bench.begin("birch", Task.TDC)
    scene, session = bench.page.scene, bench.window.session
    before = session.state.crank_deg
    QTest.keyClick(scene, Key.Key_X)
    for key, by in ((Key.Key_Right, 1.0), (Key.Key_PageDown, 90.0), (Key.Key_Left, -1.0)):
        at = bench.model.begun.run.state.crank_deg
        QTest.keyClick(scene, key)
        assert bench.model.begun.run.state.crank_deg == pytest.approx(at + by)
    at = bench.model.begun.run.state.crank_deg
    for key in (Key.Key_Space, Key.Key_Period, Key.Key_Comma, Key.Key_3):
        QTest.keyClick(scene, key)
    assert bench.model.begun.run.state.crank_deg == at
    assert session.state.crank_deg == before
    QTest.keyClick(scene, Key.Key_J)
    assert bench.model.begun.readings[0].action["do"] == "rock"
    count = bench.window.findChild(QWidget, "count")
    assert count is not None
    assert "+90°" in count.text_twin()  # type: ignore[attr-defined]


@pytest.mark.parametrize("rig", ["birch", "cedar", "magnolia", "hornbeam", "aspen", "fir"])
def test_nothing_tells_the_angle_while_it_is_covered(open_window: MakeWindow, rig: str) -> None:
    bench = Bench(open_window(rig)).begin(rig, Task.FREE, said=Said(start_deg=137.0))
    bench.open_up()
    bench.model.do("look", at="marks")
    for page in ("work", "set", "say"):
        bench.page.show_page(page)
        QApplication.processEvents()
        for view in bench.page.findChildren(QWidget):
            if view.isVisible():
                told = f"{view.accessibleName()} {view.accessibleDescription()} {view.toolTip()}"
                twin = getattr(view, "text_twin", None)
                told += twin() if twin else ""
                assert "137" not in told, (page, view)
                assert "margin" not in told.lower(), (page, view)


def test_find_compression_tdc_by_hand_and_see_the_truth(bench: Bench) -> None:
    bench.begin("birch", Task.TDC, 3)
    bench.open_up()
    bench.take("thumb")
    bench.press(bench.place("hole", 3))
    bench.turn_to(235.0)
    assert bench.last()["push"] is True
    QTest.keyClick(bench.page.scene, Key.Key_Escape)
    bench.model.bar(5.0)
    bench.take("wiggle")
    bench.press(bench.place("rocker", 3))
    assert {r.answer["play"] for r in bench.model.begun.readings[:2]} == {"loose"}
    bench.check()
    bench.uncover()
    assert bench.page.page == "truth"
    verdict = bench.model.begun.verdict
    assert verdict is not None
    assert verdict["passed"] is True
    assert bench.page.truth.head() == "Right"
    bench.click("same_again")
    assert bench.page.page == "work"
    assert bench.model.begun.run.state.done == 0


def test_setting_an_item_with_blades_screw_and_nut(bench: Bench) -> None:
    bench.begin("birch", Task.SET, said=Said(start_deg=0.0, slack_open=False))
    bench.open_up()
    bench.press(bench.place("rocker", 1, "I1"))
    assert bench.page.page == "set"
    view = bench.page.set_view
    for nth in range(6):
        QTest.mouseClick(view.blades[nth], LEFT)
    found = bracket(bench.model.begun.run.state, "I1", left=False)
    assert bracket_words(found)
    QTest.mouseClick(view.screws[0], LEFT)
    assert "slacken it first" in bench.model.refused
    QTest.mouseClick(view.slacken, LEFT)
    setting = view.setting
    value = bench.model.begun.run.state.items[0].value_mm
    target = sum(setting.band_mm) / 2
    for _ in range(40):
        off = (bench.model.begun.run.state.items[0].value_mm - target) / setting.per_turn_mm * 360
        if abs(off) < 3:
            break
        step = (0, 1, 2, 3, 4, 5)[
            5
            if off > 25
            else 4
            if off > 6
            else 3
            if off > 0
            else 0
            if off < -25
            else 1
            if off < -6
            else 2
        ]
        QTest.mouseClick(view.screws[step], LEFT)
    QTest.mouseClick(view.hold, LEFT)
    QTest.mouseClick(view.tighten, LEFT)
    QTest.mouseClick(view.torque, LEFT)
    QTest.mouseClick(view.stripe, LEFT)
    item = bench.model.begun.run.state.items[0]
    assert item.held
    assert item.striped
    assert item.torque_nm == 27.0
    assert setting.holds(item.value_mm)
    assert value is not None
    QTest.keyClick(view.items, Key.Key_Down)
    assert bench.model.item == "E1"
    bench.click("check_work")
    bench.uncover()
    assert "of 12 in the band" in bench.page.truth.head()
    # What blades said is a job in the book of that engine.
    bench.click("into_the_book")
    on = bench.window.session.state.book
    assert on is not None
    assert on.job is not None
    assert "Written into the book of Rig Birch" in bench.window.note.text
    assert on.job.origin == "bench"
    record = on.job.record(item_named("I1"))
    assert record.stripe
    measured = record.found.gap if record.found is not None else None
    ends = (found[0], found[1])
    assert record.note or (measured is not None and (measured.low, measured.high) == ends)


@pytest.mark.parametrize(
    ("rig", "task", "item", "feel"),
    [
        ("cedar", Task.PRELOAD, "I1", "spin"),
        ("hickory", Task.BRIDGE, "I1 bridge", "bridge"),
        ("hickory", Task.SET, "U1", "height"),
        ("maple", Task.SET, "I1a", "wiggle"),
    ],
)
def test_other_trains_on_the_setting_page(
    open_window: MakeWindow, rig: str, task: Task, item: str, feel: str
) -> None:
    bench = Bench(open_window(rig)).begin(rig, task, said=Said(start_deg=0.0))
    bench.open_up()
    bench.model.open_item(item)
    QApplication.processEvents()
    bench.click(f"feel_{feel}")
    assert bench.model.begun.readings[0].action == {"do": feel, "item": item}
    view = bench.page.set_view
    if rig == "maple":
        before = bench.model.begun.run.state.items[0].value_mm
        QTest.mouseClick(view.screws[2], LEFT)
        assert bench.model.begun.run.state.items[0].value_mm == pytest.approx(before + 0.05)
    elif not view.slacken.isHidden():
        QTest.mouseClick(view.slacken, LEFT)
        QTest.mouseClick(view.screws[1], LEFT)
    if rig == "cedar":
        bench.click("feel_zero")
        assert "I1" in bench.model.no_play_deg
        bench.click("feel_wait")


def say(bench: Bench, task: Task) -> None:
    page = bench.page.say
    if task in (Task.TDC, Task.WHICH_TDC, Task.TRUE_TDC):
        QTest.mouseClick(page.tdc[0], LEFT)
    elif task is Task.MARK:
        page.field.setText("seven")
        bench.click("uncover")
        assert "must be a number" in page.said
        page.field.setText("7,0")
    elif task is Task.ORDER:
        page.field.setText("1-5-3")
        QTest.mouseClick(page.rotor[0], LEFT)
        bench.click("uncover")
        assert "each of the 6 cylinders" in page.said
        page.field.setText("1-5-3-6-2-4")
    elif task is Task.FAULT:
        bench.click("uncover")
        assert "Press the fault" in page.said
        bench.click("fault_leads-swapped")


@pytest.mark.parametrize("task", Task)
def test_every_task_is_said_and_judged(open_window: MakeWindow, task: Task) -> None:
    rig = {Task.PRELOAD: "cedar", Task.BRIDGE: "hickory"}.get(task, "birch")
    faults = ("leads-swapped",) if task is Task.FAULT else ()
    said = Said(start_deg=0.0, slack_open=False, mark_error_deg=7.0)
    bench = Bench(open_window(rig)).begin(rig, task, faults=faults, said=said)
    bench.check()
    say(bench, task)
    bench.uncover()
    verdict = bench.model.begun.verdict
    assert verdict is not None
    expected = {Task.SET: False, Task.BRIDGE: False, Task.PRELOAD: False, Task.FREE: None}
    assert verdict["passed"] is expected.get(task, True)
    assert bench.page.truth.head()
    bench.page.truth.see.click()
    assert bench.window.pages.entry.word == "Watch"
    assert bench.window.session.state.crank_deg == pytest.approx(0.0)


@pytest.mark.parametrize("name", scenario_names()[::4])
def test_a_ready_made_engine_begins_with_a_press(bench: Bench, name: str) -> None:
    bench.click(f"ready_{name}")
    assert bench.page.page == "work"
    assert bench.model.begun.run.work.scenario.title


def test_work_goes_on_after_a_close_and_its_log_replays(open_window: MakeWindow) -> None:
    bench = Bench(open_window("birch")).begin("birch", Task.TDC)
    bench.open_up()
    bench.turn_to(700.0)
    bench.model.do("wiggle", item="I1")
    state = bench.model.begun.run.state
    folder = Path(bench.window._keeping.runs_folder)
    bench.window.close()
    again = Bench(open_window("birch"))
    assert again.page.page == ""
    again.click("go_on_bench")
    assert again.page.page == "work"
    assert again.model.begun.run.state == state
    again.model.bar(20.0)
    again.check()
    again.uncover()
    (path,) = folder.glob("*.benchlog.jsonl")
    log = parse_log(path.read_text(encoding="utf-8"))
    scenario = again.model.begun.run.work.scenario
    run = played(scenario, scenario_digest(scenario), log)
    verdict = again.model.begun.verdict
    assert verdict is not None
    assert run.verdict() == {key: verdict[key] for key in run.verdict()}


def test_a_whole_session_is_recorded_and_replays(open_window: MakeWindow) -> None:
    """Find TDC, find that the mark lies, set two items, check."""
    said = Said(start_deg=200.0, slack_open=False, mark_error_deg=8.0)
    bench = Bench(open_window("birch")).begin("birch", Task.SET, said=said)
    bench.open_up()
    model = bench.model
    bench.take("thumb")
    bench.press(bench.place("hole", 1))
    bench.turn_to(690.0)
    QTest.keyClick(bench.page.scene, Key.Key_Escape)
    bench.take("dial")
    bench.press(bench.place("hole", 1))
    bench.take("wheel")
    bench.press(bench.place("damper"))
    for _ in range(12):
        model.bar(5.0)
    bench.turn_to(0.0)
    model.do("pointer", deg=0.0)
    bench.turn_to(8.0)
    bench.take("look")
    bench.press(bench.place("damper"))
    model.do("wheel")
    assert model.begun.readings[0].answer["deg"] == pytest.approx(8.0, abs=0.5)
    marks = next(r.answer for r in model.begun.readings if r.action.get("at") == "marks")
    assert marks["in_sight"][0]["at"] == "in line"
    model.do("off", part="indicator")
    bench.turn_to(0.0)
    for item in ("I1", "E1"):
        model.open_item(item)
        view = bench.page.set_view
        QTest.mouseClick(view.slacken, LEFT)
        for _ in range(30):
            setting = view.setting
            now = model.begun.run.state.items[model.begun.run.work.place[item]].value_mm
            off_deg = (now - sum(setting.band_mm) / 2) / setting.per_turn_mm * 360.0
            if abs(off_deg) < 3.0:
                break
            nth = 4 if off_deg > 8 else 3 if off_deg > 0 else 1 if off_deg < -8 else 2
            QTest.mouseClick(view.screws[nth], LEFT)
        view.hold.setChecked(True)
        QTest.mouseClick(view.tighten, LEFT)
    model.do("declare", cylinder=1, tdc="compression")
    bench.click("check_work")
    bench.uncover()
    verdict = model.begun.verdict
    assert verdict is not None
    left = {item["name"]: item for item in verdict["items"]}
    assert left["I1"]["in_band"]
    assert left["E1"]["in_band"]
    assert verdict["could_tell"]
    (path,) = Path(bench.window._keeping.runs_folder).glob("*.benchlog.jsonl")
    log = parse_log(path.read_text(encoding="utf-8"))
    scenario = model.begun.run.work.scenario
    run = played(scenario, scenario_digest(scenario), log)
    assert run.verdict() == {key: verdict[key] for key in run.verdict()}


def test_a_line_that_a_power_cut_tore_off_is_all_that_is_lost(open_window: MakeWindow) -> None:
    bench = Bench(open_window("birch")).begin("birch", Task.TDC)
    bench.model.do("off", part="cover")
    bench.model.do("chalk")
    (path,) = Path(bench.window._keeping.runs_folder).glob("*.benchlog.jsonl")
    bench.window.close()
    text = path.read_text(encoding="utf-8")
    path.write_text(text[:-30], encoding="utf-8")
    again = Bench(open_window("birch"))
    assert "cover" not in again.model.begun.run.state.parts_on
    assert again.model.begun.run.state.chalk_deg is None
    again.model.do("chalk")
    assert len(parse_log(path.read_text(encoding="utf-8")).actions) == 2


def test_another_engine_in_the_window_leaves_the_bench_alone(bench: Bench) -> None:
    bench.begin("birch", Task.TDC)
    before = bench.model.begun
    bench.window.opener.open_rig("cedar")
    assert bench.model.begun is before


@pytest.mark.parametrize("rig", ["fir", "birch", "cedar", "magnolia", "aspen", "hickory"])
@pytest.mark.parametrize(("size", "percent"), [((1280, 800), 100), ((1280, 800), 150)])
def test_it_is_painted_at_every_size_and_in_both_themes(
    open_window: MakeWindow, rig: str, size: tuple[int, int], percent: int
) -> None:
    window = open_window(rig, size=size)
    window.look.set_text_percent(percent)
    bench = Bench(window).begin(rig, Task.FREE)
    bench.open_up()
    for page in ("", "work", "set", "say"):
        bench.page.show_page(page)
        window.look.toggle_dark()
        window.grab()
        for view in bench.page.findChildren(QWidget):
            if view.isVisible() and isinstance(view, QAbstractButton):
                parent = view.parentWidget()
                assert parent is not None
                assert parent.rect().contains(view.geometry()), (page, view.objectName())
    QTest.keyClick(bench.page.scene, Key.Key_V)


def test_what_is_on_the_engine_is_pressed_part_by_part(bench: Bench) -> None:
    bench.begin("birch", Task.FREE, said=Said(start_deg=0.0, slack_open=False, head_torqued=False))
    bench.click("part_covers")
    bench.click("part_plugs")
    assert "cover" not in bench.model.begun.run.state.parts_on
    bench.click("part_run")
    assert bench.model.refused.startswith("Put back first: cover, plug 1")
    bench.click("part_pin")
    bench.model.bar(5.0)
    assert "pin is in" in bench.model.refused
    bench.click("part_pin")
    bench.click("part_starter")
    assert "coil is on" in bench.model.refused
    bench.click("part_coil")
    bench.click("part_starter")
    assert bench.last()["kpa"] is not None
    bench.click("part_head")
    assert bench.model.sentence == "The head's bolts turned."


def test_at_a_flat_engine_hands_reach_one_side(open_window: MakeWindow) -> None:
    bench = Bench(open_window("hornbeam")).begin("hornbeam", Task.FREE)
    bench.press(bench.place("hole", 2))
    assert "Walk round first" in bench.model.sentence
    assert "plug 2" in bench.model.begun.run.state.parts_on
    QTest.keyClick(bench.page.scene, Key.Key_V)
    bench.press(bench.place("hole", 2))
    assert "plug 2" not in bench.model.begun.run.state.parts_on
    bench.click("other_row")
    assert bench.page.scene.walk.text() == "Walk round (V)"
    bench.press(bench.place("hole", 4))
    assert "plug 4" in bench.model.begun.run.state.parts_on


@pytest.mark.parametrize(
    ("rig", "words", "first", "then"),
    [
        ("elm", "Next bank (V)", 1, 5),
        ("aspen", "Other row (V)", 1, 2),
        ("birch", "", 1, 1),
    ],
)
def test_the_mouse_reaches_every_row(
    open_window: MakeWindow, rig: str, words: str, first: int, then: int
) -> None:
    bench = Bench(open_window(rig)).begin(rig, Task.FREE)
    assert bench.page.scene.walk.isVisible() is bool(words)
    assert bench.page.scene.scene().place("hole", first)
    if words:
        assert bench.page.scene.walk.text() == words
        bench.click("other_row")
        assert not bench.page.scene.scene().place("hole", first)
    assert bench.page.scene.scene().place("hole", then)


def test_the_pointer_is_bent_to_a_figure(bench: Bench) -> None:
    bench.begin("birch", Task.TRUE_TDC)
    bench.take("wheel")
    bench.press(bench.place("damper"))
    field = bench.window.findChild(QLineEdit, "pointer_figure")
    assert field is not None
    field.setText("eleven")
    bench.click("set_pointer")
    assert "must be" in bench.model.sentence
    field.setText("11,5")
    bench.click("set_pointer")
    assert bench.last()["deg"] == pytest.approx(11.5, abs=0.5)
    bench.model.bar(30.0)
    assert bench.last()["deg"] == pytest.approx(41.5, abs=0.5)


def test_what_is_foretold_is_scored(bench: Bench) -> None:
    bench.begin("birch", Task.FREE, said=Said(start_deg=0.0, slack_open=False))
    bench.open_up()
    bench.take("wiggle")
    QTest.mouseClick(bench.page.side.words[0], LEFT)
    assert bench.model.foretold == "loose"
    bench.press(bench.place("rocker", 1))
    state = bench.model.begun.run.state
    assert (state.foretold_right, state.foretold_all) == (2, 2)


def test_two_people_do_not_see_each_other_s_readings(bench: Bench) -> None:
    bench.begin("birch", Task.FREE, said=Said(start_deg=0.0, slack_open=False))
    bench.open_up()
    bench.model.do("wiggle", item="I1")
    bench.model.do("look", at="marks")
    bench.click("part_over")
    assert bench.page.page == "over"
    bench.click("role_turns")
    told = bench.page.readings.text_twin()
    assert "Ask the other" in told
    assert "Loose" not in told
    assert "in line" in told
    bench.click("part_over")
    bench.click("role_feels")
    assert "Loose" in bench.page.readings.text_twin()
    at = bench.model.begun.run.state.crank_deg
    bench.model.bar(30.0)
    assert bench.model.begun.run.state.crank_deg == at
    bench.click("part_over")
    bench.click("role_alone")
    bench.model.bar(30.0)
    assert bench.model.begun.run.state.crank_deg == at + 30.0


def test_a_second_look_is_blind_and_a_careful_person_is_played(bench: Bench) -> None:
    bench.begin("birch", Task.SET, said=Said(start_deg=0.0, slack_open=False))
    bench.open_up()
    for name in bench.model.begun.run.work.place:
        bench.model.do("feeler", item=name, blade_mm=0.05)
        bench.model.do("feeler", item=name, blade_mm=0.8)
    bench.check()
    bench.click("second_look")
    assert bench.page.page == "set"
    three = bench.model.begun.run.state.second_look
    assert len(three) == 3
    assert "measure it again" in bench.page.set_view.items.text_twin()
    bench.turn_to(float(bench.model.begun.run.work.true_tdc_deg[int(three[0][1:]) - 1]))
    bench.model.do("feeler", item=three[0], blade_mm=0.1)
    bench.click("check_work")
    bench.uncover()
    verdict = bench.model.begun.verdict
    assert verdict is not None
    assert any(note.startswith(f"Second look at {three[0]}") for note in verdict["notes"])
    bench.click("careful_step")
    assert "1 of 3: Stop 1, crank at 0°: I1, E1, I2" in bench.page.truth.text_twin()
    for _ in range(3):
        bench.click("careful_step")
    assert bench.page.truth.step == -1


def test_many_items_are_scrolled_and_none_is_out_of_reach(open_window: MakeWindow) -> None:
    bench = Bench(open_window()).begin("sycamore", Task.SET)
    bench.page.show_page("say")
    bench.uncover()
    items = bench.page.truth.items
    verdict = bench.page.model.begun.verdict
    assert verdict is not None
    wrong = {item["name"] for item in verdict["items"] if not item["in_band"]}
    seen = [item["name"] for item in items.shown()]
    assert wrong - set(seen)
    for _ in range(len(verdict["items"])):
        QTest.keyClick(items, Qt.Key.Key_Down)
        seen += [item["name"] for item in items.shown()]
    assert wrong <= set(seen)


def test_a_scenario_is_saved_for_the_class_and_opened_again(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    bench = Bench(open_window("birch")).begin("birch", Task.FREE)
    bench.model.do("finish")
    bench.page.show_page("truth")
    answers.path = tmp_path / "mine.scenario.toml"
    bench.click("save_scenario")
    bench.choose("As it is")
    assert "Saved mine.scenario.toml in" in bench.window.note.text
    other = Bench(open_window("cedar"))
    other.window.go_to("Watch")
    other.window.opener.open_path(answers.path)
    assert other.page.page == "work"
    assert other.model.begun.run.work.engine == demo_rig("birch")
    before = other.model.begun
    answers.path.write_text("format = 1", encoding="utf-8")
    other.window.opener.open_path(answers.path)
    assert other.model.begun is before
    assert "format" in other.window.note.text


WORD = "oak ash birch elm"


def test_a_sealed_engine_begins_goes_on_and_begins_again_only_under_its_word(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    bench = Bench(open_window("birch")).begin("birch", Task.SET)
    bench.model.do("finish")
    bench.page.show_page("truth")
    truth = bench.model.begun.run.work.scenario
    answers.path = tmp_path / "mine.scenario.toml"
    for words, said in (
        ([WORD, "another word"], "not the same"),
        (["short", "short"], "8 letters"),
        ([WORD, WORD], "Saved mine.scenario.toml"),
    ):
        answers.words = [*words]
        bench.click("save_scenario")
        bench.choose("Seal it")
        assert said in bench.window.note.text
    text = answers.path.read_text(encoding="utf-8")
    assert "seed" not in text.split("[engine")[0]
    bench.window.close()

    student = Bench(open_window("cedar"))
    opens: list[tuple[str | None, str]] = [(None, CHOOSE), ("wrong word", CHOOSE)]
    for word, page in (*opens, (WORD, "work")):
        answers.words = [word]
        student.window.opener.open_path(answers.path)
        assert student.page.page == page, word
    assert student.model.begun.run.work.scenario == truth
    student.model.do("bar", deg=30)
    folder = Path(student.window._keeping.runs_folder)
    kept = [path.read_text(encoding="utf-8") for path in folder.glob("*.scenario.toml")]
    assert text in kept, "what is kept on the student's machine is sealed too"
    student.window.close()

    again = Bench(open_window("cedar"))
    assert again.page.page == CHOOSE
    answers.words = [WORD]
    again.choose("Type its word")
    assert again.page.page == "work"
    assert again.model.begun.run.state.turned_deg == 30.0
    again.model.do("finish")
    again.page.show_page("truth")
    # Whoever has seen the truth does not begin again without the word.
    before = again.model.begun
    answers.words = [None]
    again.click("same_again")
    assert again.model.begun is before
    logs = [parse_log(path.read_text(encoding="utf-8")) for path in folder.glob("*.benchlog.jsonl")]
    (log,) = [log for log in logs if log.header is not None and log.header.sealed]
    assert [action["do"] for action in log.actions] == ["bar", "finish"]
    answers.words = [WORD]
    again.click("same_again")
    assert again.model.begun is not before
