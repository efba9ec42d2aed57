"""Every page without eyes and without a mouse: names, words and keys, by walking the tree."""

import re
from collections.abc import Iterator

import pytest
from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QWidget,
)

from tests.conftest import MakeWindow
from tests.qtest import QTest
from true_compass.app.registry import HOME
from true_compass.app.widgets.look import Painted
from true_compass.app.widgets.twins import Twins
from true_compass.app.window.system import System, wants_less_motion
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.engine.hand.model import Tab
from true_compass.app.workspaces.engine.workspace import BY_HAND, FIGURES, EngineWorkspace
from true_compass.drawing.text import localised, set_decimal_point, texts_recorded

BY_OTHER_KEYS = {
    "chart": "the arrows turn the crank wherever the keyboard is",
    "advance_chart": "the slider of the speed has the keys",
    "spin_map": "the field beside it takes the figure",
    "answer": "digits put cylinders, Backspace takes them back",
    "cells": "a press only holds what hovering shows",
}
"""Painted views that take a press, and why they need no keyboard of their own."""


def pages_of(window: MainWindow) -> Iterator[str]:
    for entry in (HOME, *window.entries):
        window.go_to(entry.word)
        for page in window.workspace.pages:
            window.go_to(entry.word, page)
            QApplication.processEvents()
            yield f"{entry.word} {page}"
    window.go_to("Engine", BY_HAND)
    assert isinstance(window.workspace, EngineWorkspace)
    for tab in Tab:
        window.workspace.hand.model.show_tab(tab)
        QApplication.processEvents()
        yield f"by hand, {tab.value}"


def shown(window: MainWindow) -> list[QWidget]:
    told = (Painted, QAbstractButton, QLineEdit, QComboBox)
    return [w for w in window.findChildren(QWidget) if w.isVisible() and isinstance(w, told)]


@pytest.mark.parametrize("rig", ["birch", "cedar", "acacia", "hickory", "fir"])
def test_every_view_has_a_name_and_its_words(open_window: MakeWindow, rig: str) -> None:
    window = open_window(rig)
    twins = window.look.twins
    for page in pages_of(window):
        while twins.tell_one():
            pass
        for view in shown(window):
            assert view.accessibleName(), (page, view)
            if isinstance(view, Painted) and not view.findChildren(Painted):
                assert view.accessibleDescription() or not view.text_twin(), (page, view)


@pytest.mark.parametrize("rig", ["birch", "cedar", "acacia", "hickory"])
def test_whatever_takes_a_press_takes_the_keyboard(open_window: MakeWindow, rig: str) -> None:
    window = open_window(rig)
    for page in pages_of(window):
        for view in shown(window):
            presses = "mousePressEvent" in type(view).__dict__
            if presses and view.focusPolicy() == Qt.FocusPolicy.NoFocus:
                assert view.objectName() in BY_OTHER_KEYS, (page, view)


def test_the_words_of_a_view_are_those_on_it_and_wait_for_the_hand(
    open_window: MakeWindow,
) -> None:
    window = open_window("birch")
    twins = window.look.twins
    while twins.tell_one():
        pass
    window.session.turn_to(120.0)
    QApplication.processEvents()
    ring = window.workspace.focus_first()
    before = ring.accessibleDescription()
    assert "240 degrees" not in before
    window.session.turn_to(240.0)
    window.grab()
    assert ring.accessibleDescription() == before
    while twins.tell_one():
        pass
    assert "240 degrees" in ring.accessibleDescription()
    gutter = window.findChild(QWidget, "gutter")
    assert gutter is not None
    assert "0.25" in gutter.accessibleDescription()


def test_numbers_are_shown_as_people_write_them_here(open_window: MakeWindow) -> None:
    window = open_window("birch")
    set_decimal_point(",")
    try:
        assert localised("I 0.25 mm (9.8 thou). Stop 1.") == "I 0,25 mm (9,8 thou). Stop 1."
        window.look.toggle_dark()
        window.grab()
        while window.look.twins.tell_one():
            pass
        gutter = window.findChild(QWidget, "gutter")
        assert gutter is not None
        assert "0,25" in gutter.accessibleDescription()
        assert "0.25" not in gutter.accessibleDescription()
        window.go_to("Engine", FIGURES)
        assert isinstance(window.workspace, EngineWorkspace)
        before = window.session.state.engine
        field = window.workspace.form.inputs["cam.intake_lift_mm"]
        assert isinstance(field, QLineEdit)
        assert field.text() == f"{before.cam.intake.peak_lift_mm:g}".replace(".", ",")
        damper = window.workspace.form.inputs["dimensions.damper_mm"]
        damper.setFocus()
        QTest.keyClicks(damper, "5")
        # What was not touched has not lost a digit on its way through the comma.
        assert window.session.state.engine.cam == before.cam
    finally:
        set_decimal_point(".")


def test_no_page_shows_a_point_where_people_write_a_comma(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    set_decimal_point(",")
    try:
        for entry in (HOME, *window.entries):
            for page in window.pages.of(entry).pages:
                window.go_to(entry.word, page)
                with texts_recorded() as words:
                    window.grab()
                assert [text for text in words if re.search(r"\d\.\d", text)] == [], page
                typed = window.workspace.findChildren(QLineEdit)
                shown = [field.text() for field in typed if field.isVisible()]
                assert [text for text in shown if re.fullmatch(r"[-−]?\d+\.\d+", text)] == [], page
    finally:
        set_decimal_point(".")


def test_the_look_follows_the_system_until_a_theme_is_chosen(open_window: MakeWindow) -> None:
    window = open_window("birch", still=False)
    system = System(window.look, window, less_motion=lambda: True)
    system.follow_scheme(Qt.ColorScheme.Dark)
    assert window.look.dark
    system.follow_scheme(Qt.ColorScheme.Light)
    assert not window.look.dark
    QTest.keyClick(window, Qt.Key.Key_D)
    system.follow_scheme(Qt.ColorScheme.Light)
    assert window.look.dark
    window.look.set_still(False)
    system.follow_motion()
    assert window.look.still
    window.close()
    again = open_window()
    assert again.look.dark
    assert not again.look.follows_system


def test_no_desktop_is_no_wish(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", "unix:path=/nowhere")
    assert wants_less_motion() is False


def test_a_view_that_is_gone_before_its_words_are_told_is_left_out(qapp: QApplication) -> None:
    """Another engine deletes the views of the last one while their words are still to be told."""
    twins, view = Twins(), QLabel("Cylinder 6")
    twins.painted(view)
    sip.delete(view)
    assert twins.tell_one() is False
