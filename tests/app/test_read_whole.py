"""No direction and no caution is left out for want of room, on any page that gives them."""

from collections.abc import Iterator

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from tests.conftest import MakeWindow
from tests.hand import Hand, Key
from tests.painted import Painted
from true_compass.app.widgets import look as drawn
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.book.workspace import BookWorkspace
from true_compass.app.workspaces.ignition.workspace import IgnitionWorkspace
from true_compass.core.ignition.advance import checks
from true_compass.core.units import MM_PER_THOU, GapUnit
from true_compass.drawing.text import localised
from true_compass.files.rigs import demo_rig, rig_names

SIZES = ((1280, 800), (1024, 768), (1000, 640), (1920, 1080))
PERCENTS = (100, 125, 150)
WITH_ROTOR = [name for name in rig_names() if demo_rig(name).spark.advance.initial_deg is not None]
WITH_GAPS = [name for name in rig_names() if not demo_rig(name).train.hydraulic]
"""Plungers have no gap that could be out of its band."""


def whole(view: drawn.Painted, painted: Painted, high: float) -> set[str]:
    """The texts that stand inside a view."""
    painted.seen.clear()
    view.repaint_all()  # else a kept picture is shown, and nothing is written
    view.grab()
    return {words for words, box in painted.seen if box.bottom() <= high + 2}


def looks(window: MainWindow) -> Iterator[tuple[tuple[int, int], int]]:
    """The window in every size, and in every size of print."""
    for size in SIZES:
        for percent in PERCENTS:
            window.resize(*size)
            window.look.set_text_percent(percent)
            QApplication.processEvents()
            yield size, percent


@pytest.mark.parametrize("name", WITH_ROTOR)
def test_what_to_do_before_timing_is_set_is_read_whole(
    open_window: MakeWindow, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    window = open_window(name)
    hand = Hand(window)
    hand.key(Key.Key_I)
    hand.press("Curve")
    page = window.workspace
    assert isinstance(page, IgnitionWorkspace)
    curve = page.curve
    # Over every limit at once: that is when the most has to be said.
    for field, figure in (("initial_deg", "20"), ("most_wide_open_deg", "10")):
        hand.click(curve.fields[field])
        hand.key(Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        hand.enter(figure)
    advance = window.session.state.engine.spark.advance
    assert not all(check.fine for check in checks(advance))
    said = [text for check in checks(advance) for text in (check.said, check.why)]
    painted = Painted(monkeypatch)
    for look in looks(window):
        if curve.before.isVisible() and not curve.before.isChecked():
            hand.click(curve.before)
        words = whole(curve, painted, curve.logical_height)
        for line in filter(None, (*said, "Turn against the rotor to advance")):
            assert localised(line) in words, (look, line)


@pytest.mark.parametrize("name", WITH_GAPS)
def test_every_card_of_a_job_is_read_whole(
    open_window: MakeWindow, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    window = open_window(name)
    hand = Hand(window)
    hand.key(Key.Key_K)
    page = window.workspace
    assert isinstance(page, BookWorkspace)
    hand.press("New job")
    thou = page.model.unit is GapUnit.THOU
    while (asked := page.model.asked) is not None and asked.which == "found":
        wide_mm = page.model.setting(asked.item).target_mm + 0.21
        hand.enter(f"{wide_mm / MM_PER_THOU:.0f}" if thou else f"{wide_mm:.2f}")
    assert page.model.job is not None
    painted = Painted(monkeypatch)
    view = page.job
    for look in looks(window):
        cards = view.cards(page.model.job)
        words = whole(view, painted, view.logical_height)
        count, _, _ = view.fitting(cards)
        assert cards[:count], look
        for _, lines in cards[:count]:
            for line in lines:
                assert localised(line) in words, (look, line)
