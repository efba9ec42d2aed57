"""A message never lies on what can be pressed or typed at."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, QRect
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QWidget

from tests.conftest import MakeWindow
from true_compass.app.window.free_room import STEP, free_room
from true_compass.app.window.window import MainWindow

SHORT = "Undone: tick of I3."
LONG = "Undone: tick of I3. It is open again, the reading that was taken there stays in the job."


def place_of(view: QWidget, window: MainWindow) -> QRect:
    return QRect(view.mapTo(window, QPoint(0, 0)), view.size())


def hidden_by_the_note(window: MainWindow) -> list[str]:
    """Buttons and fields whose middle lies under the message."""
    lies = place_of(window.note, window)
    return [
        view.accessibleName() or view.text()
        for view in window.workspace.findChildren(QWidget)
        if isinstance(view, QAbstractButton | QLineEdit)
        and view.isVisible()
        and view.height() < window.height() / 6
        and lies.contains(place_of(view, window).center())
        and not view.visibleRegion().contains(view.rect().center())
    ]


@pytest.mark.parametrize(
    ("rig", "size", "percent"),
    [
        ("birch", (1280, 800), 100),
        ("birch", (1280, 800), 150),
        ("acacia", (1024, 768), 100),
        ("oak", (1000, 640), 125),
    ],
)
def test_on_every_page_a_message_leaves_every_button_free(
    open_window: MakeWindow, rig: str, size: tuple[int, int], percent: int
) -> None:
    window = open_window(rig)
    window.resize(*size)
    window.look.set_text_percent(percent)
    for entry in window.entries:
        for page in window.pages.of(entry).pages or ("",):
            window.go_to(entry.word, page)
            for sentence in (SHORT, LONG):
                window.note.say(sentence)
                for _ in range(2):
                    QApplication.processEvents()
                assert window.note.isVisible()
                assert hidden_by_the_note(window) == [], (entry.word, page, sentence)


rects = st.builds(
    QRect, st.integers(-50, 450), st.integers(-50, 350), st.integers(1, 300), st.integers(1, 90)
)


@given(st.lists(rects, max_size=12), st.integers(20, 500), st.integers(10, 60))
def test_the_room_is_free_wherever_there_is_any(taken: list[QRect], wide: int, high: int) -> None:
    """By brute force: every place of so wide a strip at every height that is tried."""
    page = QRect(0, 0, 400, 300)
    room = free_room(page, taken, (wide,), high)
    assert page.contains(room)
    need = min(wide, page.width())
    free = [
        y
        for y in range(page.height() - high, -1, -STEP)
        if any(
            not any(QRect(x, y, need, high).intersects(rect) for rect in taken)
            for x in range(page.width() - need + 1)
        )
    ]
    if not free:
        assert room == QRect(0, page.height() - high, page.width(), high)
        return
    assert room.top() == max(free)
    assert room.width() >= need
    assert not any(room.intersects(rect) for rect in taken)
