"""Do it, from the first reading to the last nut, by a hand that sees only the screen."""

import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QApplication

from tests.conftest import MakeWindow
from tests.hand import Hand, Key
from tests.painted import Painted
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.book.workspace import BookWorkspace
from true_compass.app.workspaces.stops.side import TOP
from true_compass.app.workspaces.stops.workspace import StopsWorkspace
from true_compass.book.job import Job, SeenTo
from true_compass.book.work import Verdict, final_verdict
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.items import item_named
from true_compass.drawing import text
from true_compass.files.rigs import demo_rig, rig_names


def at_do_it(window: MainWindow) -> tuple[Hand, StopsWorkspace]:
    hand = Hand(window)
    hand.key(Key.Key_S)
    hand.press("Do it")
    assert isinstance(window.workspace, StopsWorkspace)
    return hand, window.workspace


def job_in_book(hand: Hand) -> Job:
    hand.press("Book")
    page = hand.window.workspace
    assert isinstance(page, BookWorkspace)
    job = page.model.job
    assert job is not None
    return job


@pytest.mark.parametrize("percent", [100, 150])
def test_a_six_from_plan_to_last_nut(open_window: MakeWindow, percent: int) -> None:
    window = open_window("birch")
    window.look.set_text_percent(percent)
    hand = Hand(window)
    hand.key(Key.Key_S)
    hand.press("Set the items")
    page = window.workspace
    assert isinstance(page, StopsWorkspace)
    hand.click(page.measured)
    # Stop 1: I1 E1 I2 E3 I4 E5. In band: Return takes the reading, Return again leaves it.
    hand.enter("0.25", "", "0.40", "")
    # I2 is out: set, then measured again after its nut, and that settles it.
    hand.enter("0.35")
    assert "Turn the screw 24° tighter, then measure again." in page.next_item.lines()[1]
    hand.press("In band")
    assert "out of its band, too wide" in window.note.text
    assert page.doing.setting is not None
    assert page.doing.setting.name == "I2"
    hand.click(page.measured)
    hand.enter("0.26")
    assert page.doing.setting.name == "E3"
    # One step is taken back and done again.
    hand.press("Undo: tick of I2")
    assert page.doing.setting.name == "I2"
    hand.press("Tick I2 as set")
    hand.click(page.measured)
    hand.enter("0.41", "", "0.24", "", "0.39", "")
    assert page.next_button.text().startswith("Turn 360° on to stop 2")
    hand.enter("")  # the dark button has the keyboard now, and gives it back to the field
    assert window.session.state.crank_deg == 360.0
    for _ in range(6):
        hand.enter("0.25" if page.doing.setting.name[0] == "I" else "0.40", "")
    assert page.model.round.finished
    # Only the nut of I2 was touched.
    assert [nut.name for nut in page.doing.nuts] == ["I2"]
    hand.key(Key.Key_Return)
    assert page.next_button.text() == "All is done"
    job = job_in_book(hand)
    assert len(job.items) == 12
    i2 = job.record(item_named("I2"))
    assert i2.found is not None
    assert i2.after_nut is not None
    assert (i2.found.text, i2.left, i2.after_nut.text) == ("0.35", None, "0.26")
    assert (i2.seen_to, i2.torqued, i2.torque_nm, i2.stripe) == (SeenTo.SET, True, 27.0, True)
    assert all(final_verdict(job, item) is Verdict.IN_BAND for item in job.items)
    others = [record for item, record in job.items.items() if item.name != "I2"]
    assert {record.seen_to for record in others} == {SeenTo.GOOD}
    assert all(record.final is record.found for record in others)


@pytest.mark.parametrize("name", rig_names())
def test_every_set_that_is_pressed_stands_in_the_book(open_window: MakeWindow, name: str) -> None:
    """Two valves of a kind are two adjusters, front first; an item of the plan is done when both
    are."""
    window = open_window(name)
    hand, page = at_do_it(window)
    model = page.model
    for _ in range(200):
        if model.round.finished:
            break
        setting = page.doing.setting
        if setting is None or not page.next_button.text().startswith("Tick"):
            hand.click(page.next_button)
        else:
            hand.press("Set")
            assert model.work.how(setting.item) is not None, setting.name
            own = model.round.settings_at(setting.due)
            done = [model.work.how(one.item) is not None for one in own]
            assert model.work.has(model.rig.engine, setting.due) == all(done)
    assert model.round.finished
    job = job_in_book(hand)
    wanted = [setting.item for setting in settings_of(demo_rig(name))]
    assert sorted(item.name for item in job.items) == sorted(item.name for item in wanted)
    for item in wanted:
        record = job.record(item)
        assert (record.seen_to, record.off_heel, record.final) == (SeenTo.SET, False, None)


def test_readings_of_two_valves_each_reach_the_book(open_window: MakeWindow) -> None:
    hand, page = at_do_it(open_window("maple"))
    hand.click(page.measured)
    hand.enter("0.40", "0.15", "0.16", "")
    job = job_in_book(hand)
    told = [
        (i.name, r.found and r.found.text, r.left and r.left.text) for i, r in job.items.items()
    ]
    assert told == [("I1a", "0.40", "0.15"), ("I1b", "0.16", None)]


def test_a_check_turns_no_screw(open_window: MakeWindow) -> None:
    hand, page = at_do_it(open_window("birch"))
    hand.press("Check only")
    hand.click(page.measured)
    hand.type("0.35")
    told = " ".join(page.next_item.lines()[1])
    assert "0.10 mm (3.9 thou) too wide." in told
    assert "Out of the band, 0.20 to 0.30 mm: note it and go on." in told
    assert not any(word in told for word in ("tighter", "looser", "Nut just loose"))
    hand.enter("")
    assert page.model.done == {item_named("I1"): "off"}
    hand.enter("0.40")
    assert page.model.done[item_named("E1")] == "left"


def test_a_reading_off_the_base_circle_is_asked_back_and_marked(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand, page = at_do_it(window)
    hand.press("+180°")
    hand.press("+180°")
    hand.click(page.measured)
    hand.enter("0")
    assert "I1 is open: other stroke" in " ".join(page.next_item.lines()[1])
    assert page.model.job.items == {}
    hand.enter("")
    assert page.model.job.record(item_named("I1")).found is not None
    hand.press("Set")
    hand.press("Set")
    assert page.model.done == {item_named("I1"): "off-heel"}
    window.grab()
    job = job_in_book(hand)
    assert job.record(item_named("I1")).off_heel


@pytest.mark.parametrize("name", rig_names())
def test_no_step_direction_or_caution_is_left_out(
    open_window: MakeWindow, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    window = open_window(name)
    _, page = at_do_it(window)
    painted = Painted(monkeypatch)
    for size in ((1280, 800), (1024, 768), (1000, 640), (1920, 1080)):
        for scale in (100, 125, 150, 0):
            window.resize(*size)
            window.look.set_text_percent(scale or 100)
            if (scale == 0) != window.look.projector:
                window.look.toggle_projector()
            QApplication.processEvents()
            for measured in ("", "0.9"):
                page.measured.setText(measured)
                page.measured.textEdited.emit(measured)
                words = shown_words(page, painted)
                for line in (*page.next_item.lines()[1], page.next_item.care()):
                    assert text.localised(line) in words, (size, scale, line)
            page.measured.setText("")
            page.measured.textEdited.emit("")


def shown_words(page: StopsWorkspace, painted: Painted) -> set[str]:
    """What stands whole inside the view, scrolled to its end where it must be."""
    view, found = page.next_item, set()
    for _ in range(20):
        painted.seen.clear()
        view.grab()
        found |= {w for w, box in painted.seen if box.bottom() <= view.logical_height + 2}
        before = view.scrolled
        view.scroll_by(1)
        if view.scrolled == before:
            break
    view.scroll_by(-99)
    return found


def chosen(window: MainWindow, percent: int, school: str) -> tuple[Hand, StopsWorkspace]:
    """A method taken on the plan page, and its work begun."""
    window.look.set_text_percent(percent)
    hand = Hand(window)
    hand.key(Key.Key_S)
    page = window.workspace
    assert isinstance(page, StopsWorkspace)
    hand.press("Plan")
    names = [row.school.name for row in page.model.rows]
    row = page.schools.row_height
    at = QPointF(60, TOP + (names.index(school) + 0.5) * row) * window.look.scale
    hand.click(page.schools, at)
    assert page.model.school.name == school
    hand.press("Do it")
    return hand, page


@pytest.mark.parametrize("percent", [100, 150])
def test_a_v8_with_hydraulic_tappets_by_sweep(open_window: MakeWindow, percent: int) -> None:
    window = open_window("cedar")
    hand, page = chosen(window, percent, "Quarter-turn sweep")
    turned = 0.0
    for quarter in range(8):
        assert page.next_item.lines()[0].name == f"Quarter {quarter + 1}"
        hand.press("Tick this quarter")
        if quarter < 7:
            before = window.session.state.crank_deg
            hand.press("Turn a quarter on")
            turned += (window.session.state.crank_deg - before) % 720.0
    assert turned == 630.0
    assert "The preload is next" in page.next_item.lines()[1][0]
    hand.press("Go on to the preload, here")
    # The last phase: so much tighter on all, no zero, no base circle, wherever the crank stands.
    words = " ".join(page.next_item.lines()[1])
    assert "Only so much tighter on all" in words
    assert "Do not look for zero again" in words
    assert "A full tappet holds its valve open" in words
    assert "base circle" not in page.next_item.care()
    hand.click(page.measured)
    for _ in range(16):
        hand.enter("¾ t", "")
    assert page.model.round.finished
    job = job_in_book(hand)
    assert len(job.items) == 16
    for record in job.items.values():
        assert not record.off_heel
        assert record.found is not None
        assert record.found.turns == 0.75


@pytest.mark.parametrize("percent", [100, 150])
@pytest.mark.parametrize(
    ("rig", "school"), [("cedar", "Two stops"), ("hickory", "Fewest stops, solved")]
)
def test_a_v8_by_two_stops_and_a_six_with_bridges(
    open_window: MakeWindow, rig: str, school: str, percent: int
) -> None:
    window = open_window(rig)
    hand, page = chosen(window, percent, school)
    plan = page.model.plan
    assert plan is not None
    turns = ticked = 0
    for _ in range(200):
        words = page.next_button.text()
        if page.model.round.finished:
            break
        ticked += words.startswith("Tick")
        turns += words.startswith("Turn")
        hand.click(page.next_button)
    assert page.model.round.finished
    own = settings_of(demo_rig(rig))
    assert ticked == len(own)
    assert len(plan.stops) - 1 <= turns <= len(plan.stops)
    # The last round: every nut with a torque of its own kind, wrench and stripe.
    nuts = [setting.name for setting in own if setting.nut_in_last_round]
    assert sorted(nut.name for nut in page.doing.nuts) == sorted(nuts)
    for _ in nuts:
        assert page.next_button.text().startswith("Tick")
        hand.click(page.next_button)
    assert page.next_button.text() == "All is done"
    job = job_in_book(hand)
    assert len(job.items) == len(own)
    for setting in own:
        record = job.record(setting.item)
        assert record.seen_to is SeenTo.SET
        assert record.torqued is setting.nut_in_last_round
