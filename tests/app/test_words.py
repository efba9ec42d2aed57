"""Words on every page: none lies over another, none is cut, at the size of a projector or a bench.

Every text of the program is written by one function; it tells here what it writes and where.
"""

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QAbstractButton, QApplication

from tests.conftest import MakeWindow
from tests.qtest import QTest
from true_compass.app.registry import HOME
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.engine.hand.model import Tab
from true_compass.app.workspaces.engine.workspace import BY_HAND, FIGURES, EngineWorkspace
from true_compass.app.workspaces.stops.workspace import COMPARE, TABS, StopsWorkspace
from true_compass.drawing import text

Key = Qt.Key
RIGS = ("ash", "oak", "aspen")
PANELS = ("Overlap", "Lift", "Events", "Train")


class Written:
    """Texts with their boxes, by what they are painted on."""

    def __init__(self) -> None:
        self.on: dict[int, list[tuple[QRectF, str]]] = {}

    def note(self, p: QPainter, box: QRectF, flags: int, words: str) -> None:
        if words.strip():
            place = p.worldTransform().mapRect(QRectF(p.boundingRect(box, flags, words)))
            self.on.setdefault(id(p.device()), []).append((place, words))

    def cut(self, window: MainWindow) -> list[str]:
        """Words that end in dots, but for buttons that ask something and lists that go on."""
        asking = {button.text() for button in window.findChildren(QAbstractButton)}
        every = [words for row in self.on.values() for _, words in row]
        return [w for w in every if w.endswith("…") and w not in asking and w[-2:] != " …"]

    @property
    def over_one_another(self) -> list[tuple[str, str]]:
        found = []
        for row in self.on.values():
            for (one, first), (other, second) in combinations(row, 2):
                both = one.adjusted(-1, 0, 1, 0).intersected(other.adjusted(-1, 0, 1, 0))
                again = first == second and abs(one.y() - other.y()) < 2
                # Boxes have room above and below their letters, so a little may overlap.
                deep = both.height() > 0.45 * min(one.height(), other.height())
                if both.width() > 1 and deep and not again:
                    found.append((first, second))
        return found


@pytest.fixture
def written(monkeypatch: pytest.MonkeyPatch) -> Written:
    log, write = Written(), text._write

    def tell(p: QPainter, box: QRectF, flags: int, words: str) -> None:
        log.note(p, box, flags, words)
        write(p, box, flags, words)

    monkeypatch.setattr(text, "_write", tell)
    return log


def press(window: MainWindow, words: str) -> None:
    for button in window.findChildren(QAbstractButton):
        if button.isVisible() and button.text() == words:
            button.click()


def open_pages(window: MainWindow) -> Iterator[str]:
    """Open one page after another; each is yielded by its name."""
    for crank_deg in (0.0, 100.0):
        window.session.turn_to(crank_deg)
        yield f"Watch at {crank_deg:g}°"
    QTest.keyClick(window, Key.Key_Z)
    yield "the lens"
    QTest.keyClick(window, Key.Key_T)
    for panel in PANELS:
        press(window, panel)
        yield f"one cylinder, {panel}"
    QTest.keyClick(window, Key.Key_T)
    window.pages.open(HOME)
    yield "the front page"
    for page in (BY_HAND, FIGURES):
        window.go_to("Engine", page)
        yield f"Engine, {page}"
    assert isinstance(window.workspace, EngineWorkspace)
    window.workspace.show_page(BY_HAND)
    for tab in Tab:
        window.workspace.hand.model.show_tab(tab)
        yield f"Engine by hand, {tab.value}"
    window.go_to("Orders")
    yield "Orders"
    QTest.keyClick(window, Key.Key_S)
    assert isinstance(window.workspace, StopsWorkspace)
    for page in TABS:
        window.workspace.show_page(page)
        yield page


def pages_of(window: MainWindow, written: Written) -> Iterator[str]:
    """Every page, painted anew."""
    for page in open_pages(window):
        QApplication.processEvents()
        # Another theme paints everything anew, also what stands still.
        window.look.toggle_dark()
        written.on.clear()
        window.grab()
        assert written.on, page
        yield page


@pytest.mark.parametrize("rig", RIGS)
def test_at_the_usual_size_all_words_are_whole(
    open_window: MakeWindow, written: Written, rig: str
) -> None:
    window = open_window(rig)
    for page in pages_of(window, written):
        assert written.over_one_another == [], page
        assert written.cut(window) == [], page


@pytest.mark.parametrize(
    ("rig", "size", "percent"),
    [
        ("hickory", (1000, 640), 100),
        ("birch", (1280, 800), 150),
        ("cedar", (1280, 800), 150),
        ("oak", (1000, 700), 125),
    ],
)
def test_in_a_small_window_or_large_print_words_keep_apart(
    open_window: MakeWindow, written: Written, rig: str, size: tuple[int, int], percent: int
) -> None:
    window = open_window(rig, size=size)
    window.look.set_text_percent(percent)
    for page in pages_of(window, written):
        assert written.over_one_another == [], page
        # The comparison's sentences are whole on hover.
        assert page == COMPARE or written.cut(window) == [], page


def test_the_judge_sees_what_is_wrong(open_window: MakeWindow, written: Written) -> None:
    window = open_window("birch")
    name = "Anamethatnoboxcanhold" * 5
    window.session.edit(replace(window.session.state.engine, name=name))
    QTest.keyClick(window, Key.Key_S)
    assert isinstance(window.workspace, StopsWorkspace)
    window.look.toggle_dark()
    written.on.clear()
    window.grab()
    assert [words[:5] for words in written.cut(window)] == ["Aname"]
    assert written.over_one_another == []
    for row in written.on.values():
        row.append((QRectF(row[0][0]).translated(2, 2), "another"))
    assert written.over_one_another
