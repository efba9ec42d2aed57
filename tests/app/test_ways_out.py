"""Messages, dropped files, the menu, and how one gets out of what lies over the page."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication

from tests.conftest import MakeWindow
from tests.hand import Hand
from true_compass.app.paper.preview import Preview
from true_compass.files.engine_file import SUFFIX
from true_compass.files.job_table import FIRST_COLUMNS
from true_compass.files.kinds import FileKind, kind_of
from true_compass.files.rigs import rig_text

Key = Qt.Key
LIFTS = "cam_deg,lift_mm\n" + "".join(
    f"{at},{max(0, 8 - abs(at - 60) / 7.5):.2f}\n" for at in range(0, 125, 5)
)
JOBS = ",".join(FIRST_COLUMNS) + "\n"


@pytest.mark.parametrize(
    ("name", "text", "kind"),
    [
        (f"a{SUFFIX}", "", FileKind.ENGINE),
        ("a.toml", "", FileKind.ENGINE),
        ("engine of mine", rig_text("alder"), FileKind.ENGINE),
        ("a.scenario.toml", "", FileKind.SCENARIO),
        ("a.LESSON.toml", "", FileKind.LESSON),
        ("a.tcbook", "", FileKind.BOOK),
        ("lifts.csv", LIFTS, FileKind.LIFT_TABLE),
        ("lifts.txt", "# read on Monday\ncrank_deg;lift_in\n0;0\n", FileKind.LIFT_TABLE),
        ("jobs.csv", "\ufeff" + JOBS, FileKind.JOB_TABLE),
        ("notes.txt", "Bring the rocker cover gasket.\n", FileKind.OTHER),
        ("other.csv", "a,b,c\n1,2,3\n", FileKind.OTHER),
    ],
)
def test_a_file_is_known_by_its_name_and_first_line(
    tmp_path: Path, name: str, text: str, kind: FileKind
) -> None:
    path = tmp_path / name
    path.write_text(text, encoding="utf-8")
    assert kind_of(path) is kind


def test_a_dropped_lift_table_asks_for_which_valves(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    window = open_window("birch")
    hand, path = Hand(window), tmp_path / "lifts.csv"
    path.write_text(LIFTS, encoding="utf-8")
    before = window.session.state.engine
    assert hand.drop(path)
    assert window.sheet.accessibleName() == "lifts.csv: use for intake or exhaust?"
    assert window.session.state.engine is before
    hand.press("Use for exhaust")
    assert not window.sheet.isVisible()
    assert window.note.text == "lifts.csv now drives the exhaust valves."
    assert window.session.state.engine.cam.exhaust.table is not None
    assert window.session.state.engine.cam.intake.table is None


def test_a_dropped_table_of_jobs_is_offered_to_the_book(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    window = open_window("birch")
    hand, path = Hand(window), tmp_path / "jobs.csv"
    path.write_text(JOBS, encoding="utf-8")
    assert hand.drop(path)
    assert window.sheet.accessibleName() == "jobs.csv: take into the Book?"
    hand.press("Take into Book")
    assert window.pages.entry.word == "Book"


def test_a_text_is_told_what_opens_here(open_window: MakeWindow, tmp_path: Path) -> None:
    window = open_window("birch")
    path = tmp_path / "notes.txt"
    path.write_text("Bring the gasket.", encoding="utf-8")
    assert Hand(window).drop(path)
    assert "notes.txt: the file is not one of this program. It opens engines" in window.note.text
    assert "TOML" not in window.note.text
    assert window.session.state.source.rig == "birch"


def test_a_message_takes_no_click_and_goes_when_it_no_longer_holds(
    open_window: MakeWindow,
) -> None:
    window = open_window("birch")
    note, hand = window.note, Hand(window)
    hand.key(Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert note.text == "Nothing to undo."
    assert note.isVisible()
    for x in (4, note.width() // 2, note.width() - 4):
        seen = window.childAt(note.mapTo(window, QPoint(x, note.height() // 2)))
        assert seen is not note
    hand.key(Key.Key_S)
    assert window.pages.entry.word == "Stops"
    assert not note.isVisible()


def test_the_rows_of_the_menu_do_not_move(open_window: MakeWindow, tmp_path: Path) -> None:
    window = open_window("birch")
    path = tmp_path / f"own{SUFFIX}"
    path.write_text(rig_text("alder"), encoding="utf-8")
    rows = []
    for opened in (False, True):
        if opened:
            assert Hand(window).drop(path)
        Hand(window).click(window.strip.menu_button)
        rows.append([action.text() for action in window.lists.menu.actions()])
        again = next(a for a in window.lists.menu.actions() if "Read the file again" in a.text())
        assert again.isEnabled() is opened
        window.lists.menu.hide()
    assert rows[0] == rows[1]
    assert rows[0][0] == "New engine…"
    assert rows[0][-1] == "Quit"


def test_escape_leaves_the_projector_view_which_says_so(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = Hand(window)
    hand.key(Key.Key_P)
    assert window.look.projector
    assert window.note.text.startswith("Projector view: Esc leaves it.")
    hand.key(Key.Key_Escape)
    assert not window.look.projector


def test_tab_stays_in_a_preview_and_the_keyboard_goes_back(open_window: MakeWindow) -> None:
    window = open_window("birch")
    hand = Hand(window)
    hand.key(Key.Key_S)
    hand.key(Key.Key_Tab)
    before = window.focusWidget()
    hand.key(Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    preview = window.findChild(Preview)
    assert preview is not None
    reached = []
    for _ in range(12):
        hand.key(Key.Key_Tab)
        holder = window.focusWidget()
        assert holder is not None
        assert preview.isAncestorOf(holder)
        reached.append(holder)
    assert {preview.save_button, preview.print_button, preview.close_button} <= set(reached)
    hand.key(Key.Key_Escape)
    assert not preview.isVisible()
    QApplication.processEvents()
    assert window.focusWidget() is before
