"""Finding one's way: front page, strip, menu, searchable lists, and what is printed."""

import itertools
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import QAbstractButton, QApplication, QWidget

from tests.conftest import Answers, MakeWindow
from tests.qtest import QTest
from true_compass.app.keeping.keeping import Keeping
from true_compass.app.keeping.recents import Recent, recents_of, when_words
from true_compass.app.paper.preview import Preview
from true_compass.app.registry import HOME, WORKSPACES
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.front.workspace import FrontWorkspace
from true_compass.app.workspaces.stops.workspace import DO, StopsWorkspace
from true_compass.app.workspaces.watch.workspace import ALL, ONE
from true_compass.drawing.theme import load_fonts
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.session.session import Session, Source

Key = Qt.Key


def front(window: MainWindow) -> FrontWorkspace:
    assert isinstance(window.workspace, FrontWorkspace)
    return window.workspace


def press(window: MainWindow, key: Qt.Key) -> None:
    QTest.keyClick(window.focusWidget() or window, key)


def test_a_first_start_begins_at_the_first_tile(open_window: MakeWindow) -> None:
    window = open_window()
    page = front(window)
    assert page.first_start
    assert window.focusWidget() is page.tiles[0]
    assert "See it turn (Watch)" in page.tiles[0].accessibleName()
    press(window, Key.Key_Return)
    assert window.strip.tabs[0].isChecked()
    QTest.keyClick(window, Key.Key_Home)
    assert window.workspace is page
    assert window.strip.home.isChecked()
    QTest.mouseClick(window.strip.tabs[2], Qt.MouseButton.LeftButton)
    QTest.mouseClick(window.strip.home, Qt.MouseButton.LeftButton)
    assert window.workspace is page


def test_arrows_go_from_tile_to_tile(open_window: MakeWindow) -> None:
    window = open_window()
    tiles = front(window).tiles
    for key, place in ((Key.Key_Right, 1), (Key.Key_Down, 4), (Key.Key_Left, 3), (Key.Key_Up, 0)):
        press(window, key)
        assert window.focusWidget() is tiles[place]
    assert window.session.state.crank_deg == 240.0


def test_going_on_with_what_was_begun(open_window: MakeWindow) -> None:
    window = open_window("birch")
    window.go_to("Stops", DO)
    stops = window.workspace
    assert isinstance(stops, StopsWorkspace)
    window.turner.jump_to(0.0)
    for _ in range(2):
        stops.set_button.click()
    window.close()
    again = open_window()
    page = front(again)
    assert not page.first_start
    assert again.focusWidget() is page.card
    work = page.card.go_on
    assert work is not None
    assert (work.head, work.line) == ("Set to 0.25 mm (9.8 thou)", "Stop 1 of 2, crank at 0°")
    assert (work.done, work.of) == (2, 12)
    assert "2 of 12 done" in page.card.accessibleName()
    press(again, Key.Key_Return)
    assert isinstance(again.workspace, StopsWorkspace)
    assert again.workspace.page == DO


def test_engines_that_were_open_before_open_where_one_was(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    window.go_to("Watch", ONE)
    window.session.turn_to(305.0)
    window.opener.open_rig("alder")
    window.go_to("Orders")
    window.opener.open_rig("birch")
    window.pages.open(HOME)
    rows = [row for row in front(window).rows if row.isVisible()]
    assert [row.text().partition(",")[0] for row in rows] == ["Rig Alder", "Rig Cedar"]
    assert "Watch, at 305°" in rows[1].text()
    # Nothing was done on Birch yet: no going on, and no welcome below the engines.
    page = front(window)
    assert not page.first_start
    assert not page.card.isVisible()
    assert "Recent engines" in page.text_twin()
    assert "see which cylinder fires" not in page.text_twin()
    rows[1].click()
    assert window.session.state.source.rig == "cedar"
    assert window.session.state.crank_deg == 305.0
    assert window.workspace.page == ONE


def test_a_recent_file_that_is_gone_is_said_so(open_window: MakeWindow, tmp_path: Path) -> None:
    window = open_window("birch")
    source = Source(path=tmp_path / "gone.engine.toml")
    window.open_recent_one(
        Recent(source, "Gone", "single", 0.0, "Watch", "", "", window.opener.now())
    )
    assert "gone.engine.toml" in window.note.text
    assert window.session.state.source.rig == "birch"


def test_recents_of_two_windows_are_both_kept(tmp_path: Path) -> None:
    one, other = (Keeping.at(tmp_path / "c", tmp_path / "s").settings for _ in range(2))
    begun = datetime(2026, 1, 1, tzinfo=UTC)

    def seen(rig: str, hours: int) -> Recent:
        at = begun + timedelta(hours=hours)
        return Recent(Source(rig=rig), rig, "inline", 0.0, "Watch", "", "", at)

    one.remember_recent(seen("ash", 1))
    one.write()
    other.remember_recent(seen("oak", 2))
    other.write()
    for number in range(40):
        other.remember_recent(seen(f"rig{number}", 3 + number))
    other.write()
    kept = Keeping.at(tmp_path / "c", tmp_path / "s").settings.recent()
    assert len(kept) == 24
    assert [recent.name for recent in kept[:2]] == ["rig39", "rig38"]


@pytest.mark.parametrize(
    "record",
    [None, {}, {"rig": 3}, [], "x", {"rig": "a", "at": "yesterday", "crank_deg": 0.0}],
)
def test_recents_that_make_no_sense_are_left_out(record: object) -> None:
    assert recents_of([record]) == []


@pytest.mark.parametrize(
    ("days", "words"),
    [(0, "today at 15:40"), (1, "yesterday at 15:40"), (3, "on Friday"), (400, "on 25 January")],
)
def test_times_as_people_say_them(days: int, words: str) -> None:
    now = datetime(2027, 3, 1, 18, 0)
    then = (now - timedelta(days=days)).replace(hour=15, minute=40)
    assert when_words(then, now).startswith(words)


# Lists and menu ------------------------------------------------------------------------------


def test_rigs_are_searched_by_typing(open_window: MakeWindow) -> None:
    window = open_window("birch")
    QTest.keyClick(window, Key.Key_F4)
    found = window.lists.found
    assert found is not None
    assert len(found.model.lines) == len(rig_names())
    # The open one is chosen at first, so that Return changes nothing.
    assert found.model.lines[found.view.currentIndex().row()].open_now
    QTest.keyClicks(found.field, "radial nine")
    assert {line.head for line in found.model.lines} == {
        f"{demo_rig(name).name} ({demo_rig(name).layout_words})"
        for name in rig_names()
        if "radial nine" in demo_rig(name).layout_words
    }
    QTest.keyClicks(found.field, " nonsense")
    assert found.model.lines == []
    QTest.keyClick(found.field, Key.Key_Return)
    assert found.isVisible()
    QTest.keyClick(found.field, Key.Key_Escape)
    assert not found.isVisible()
    assert window.session.state.source.rig == "birch"


def test_every_rig_says_what_lesson_it_is_good_for() -> None:
    assert [name for name in rig_names() if not demo_rig(name).note] == []


def test_print_is_offered_where_there_is_paper(open_window: MakeWindow) -> None:
    window = open_window("birch")

    def offered() -> bool:
        window.lists.open_menu()
        window.lists.menu.close()
        (action,) = (a for a in window.lists.menu.actions() if a.text().startswith("Print"))
        return action.isEnabled()

    for page in (ALL, ONE):
        window.go_to("Watch", page)
        assert offered()
        window.print_page()
        preview = window.findChild(Preview)
        assert preview is not None
        assert preview.isVisible()
        assert not preview.papers[0].isVisible()
        QTest.keyClick(preview, Key.Key_Escape)
    window.go_to("Orders")
    assert not offered()
    window.print_page()
    assert "nothing to print" in window.note.text
    window.go_to("Stops")
    assert offered()


def test_a_document_is_looked_at_before_it_is_saved_or_printed(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("sycamore")
    window.go_to("Stops")
    assert isinstance(window.workspace, StopsWorkspace)
    window.workspace.model.choose("firing-order")
    window.print_page()
    preview = window.findChild(Preview)
    assert preview is not None
    pages = len(preview._pages)
    assert pages > 1
    QTest.keyClick(preview, Key.Key_Right)
    assert preview.page == 1
    assert "Page 2 of" in preview.accessibleDescription()
    preview.papers[2].click()
    assert preview.accessibleDescription().endswith("Letter")
    answers.path = tmp_path / "card.png"
    preview.save_button.click()
    assert answers.suggested == "sycamore-firing-order.pdf"
    assert len(list(tmp_path.glob("card*.png"))) == pages
    answers.printed = tmp_path / "printed.pdf"
    preview.print_button.click()
    assert answers.printed.read_bytes().startswith(b"%PDF")
    assert "printer" in window.note.text
    crank = window.session.state.crank_deg
    QTest.keyClick(preview, Key.Key_Space)
    assert window.session.state.crank_deg == crank
    QTest.keyClick(preview, Key.Key_Escape)
    assert not preview.isVisible()


# Keys ----------------------------------------------------------------------------------------


def test_no_two_keys_collide(open_window: MakeWindow) -> None:
    window = open_window("birch")
    everywhere = [chord for line in window.key_lines for chord in line.acts]
    assert len(everywhere) == len(set(everywhere))
    for place in range(len(WORKSPACES)):
        lines = window.pages.of(window.entries[place]).keys()
        own = [chord for line in lines for chord in line.acts]
        assert len(own) == len(set(own))
        assert not set(own) & set(everywhere)
        # Keys that mean something else there are keys that mean something everywhere else.
        other = window.pages.of(window.entries[place]).instead()
        assert {chord for line in other for chord in line.acts} <= set(everywhere)


def test_the_help_tells_the_keys_of_the_open_page(open_window: MakeWindow) -> None:
    window = open_window("birch")

    def told() -> set[str]:
        QTest.keyClick(window, Key.Key_F1)
        rows = {left for left, _ in window.sheet.rows}
        QTest.keyClick(window.sheet, Key.Key_F1)
        return rows

    assert {"T", "Z", "V", "Space"} <= told()
    window.go_to("Orders")
    assert "Z" not in told()


# Nine workspaces -----------------------------------------------------------------------------


def apart(boxes: list[QRect]) -> bool:
    return not any(a.intersects(b) for a, b in itertools.combinations(boxes, 2))


def shown(parent: QWidget) -> list[QAbstractButton]:
    return [b for b in parent.findChildren(QAbstractButton) if b.isVisible()]


@pytest.mark.parametrize("size", [(1280, 800), (1000, 640), (1920, 1080)])
@pytest.mark.parametrize("percent", [100, 125, 150, 0])
def test_nine_workspaces_fit(
    qapp: QApplication,
    tmp_path: Path,
    answers: Answers,
    size: tuple[int, int],
    percent: int,
) -> None:
    """`0` is the projector. Every word or the list, menu or front page, and the rig."""
    load_fonts()
    assert len(WORKSPACES) == 9
    keeping = Keeping.at(tmp_path / "c", tmp_path / "s")
    session = Session(demo_rig("birch"), Source(rig="birch"))
    window = MainWindow(session, keeping, answers.dialogs())
    window.look.set_text_percent(percent or 100)
    if not percent:
        window.look.toggle_projector()
    window.resize(*size)
    window.show()
    qapp.processEvents()
    try:
        strip, page = window.strip, window.workspace
        assert isinstance(page, FrontWorkspace)
        strip.show()
        for button in shown(strip):
            assert strip.rect().contains(button.geometry()), button.accessibleName()
        assert apart([button.geometry() for button in shown(strip)])
        words = [tab for tab in strip.tabs if tab.isVisible()]
        assert len(words) == 9 or strip.list.isVisible()
        assert len(words) == 9 or size[0] < 1280
        assert strip.menu_button.isVisible() or page.menu.isVisible()
        assert strip.picker.width() >= 120 * window.look.scale
        for button in shown(page):
            assert page.rect().contains(button.geometry()), button.accessibleName()
        assert apart([button.geometry() for button in shown(page)])
        assert sum(tile.isVisible() for tile in page.tiles) == 9
        for entry in WORKSPACES:
            QTest.keyClick(window, entry.key)
            assert window.workspace is window.pages.of(entry)
            on = next(t for t, e in zip(strip.tabs, WORKSPACES, strict=True) if e is entry)
            assert on.isChecked()
            assert on.isVisibleTo(strip)
    finally:
        window.close()
        window.deleteLater()


def test_letters_of_nine_are_their_own() -> None:
    letters = [entry.letter.upper() for entry in WORKSPACES]
    assert len(set(letters)) == 9
    assert HOME.word not in [entry.word for entry in WORKSPACES]
