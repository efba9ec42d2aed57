"""One cylinder over its whole cycle: its lap, and beside it overlap, lift, events or the train."""

from collections.abc import Callable
from enum import Enum
from typing import Final

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, TabButton
from true_compass.app.widgets.look import Painted
from true_compass.app.widgets.slider import SLIDER_HEIGHT
from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.app.workspaces.watch.cycle.events import EventsPanel
from true_compass.app.workspaces.watch.cycle.lap_view import LapView
from true_compass.app.workspaces.watch.cycle.lift import LiftPanel
from true_compass.app.workspaces.watch.cycle.model import CycleModel
from true_compass.app.workspaces.watch.cycle.overlap import OverlapPanel
from true_compass.app.workspaces.watch.cycle.panel import Panel
from true_compass.app.workspaces.watch.cycle.train import TrainPanel
from true_compass.app.workspaces.watch.cycle.trying import TrySlider, sliders_for
from true_compass.core.state import AS_SET

PANEL_LEFT: Final = 722.0
TAB_HEIGHT: Final = 34.0


class Tab(Enum):
    """What stands beside the lap."""

    OVERLAP = "Overlap"
    LIFT = "Lift"
    EVENTS = "Events"
    TRAIN = "Train"


class CyclePage(Painted):
    """The lap at the left; tabs, one panel and the sliders at the right."""

    closed = pyqtSignal()

    def __init__(self, context: WatchContext, parent: QWidget) -> None:
        super().__init__(context.look, parent)
        self._context = context
        self.setObjectName("cycle")
        self.setAccessibleName("One cylinder")
        self.model = CycleModel(context, self)
        self.lap = LapView(context, self.model, self)
        self.before = self._button("−", "The cylinder before", self.model.step_back)
        self.after = self._button("+", "The next cylinder", self.model.step_on)
        self.close_button = self._button("All cylinders (T)", "All cylinders", self.closed.emit)
        self.as_set_button = self._button("As set", "Lash and advance as set", self.go_as_set)
        self.tabs = [TabButton(context.look, tab.value, self) for tab in Tab]
        for button in self.tabs:
            button.clicked.connect(self._on_tab)
        self.panels: dict[Tab, Panel] = {
            Tab.OVERLAP: OverlapPanel(context, self.model, self),
            Tab.LIFT: LiftPanel(context, self.model, self),
            Tab.EVENTS: EventsPanel(context, self.model, self),
            Tab.TRAIN: TrainPanel(context, self.model, self),
        }
        self.sliders: list[TrySlider] = []
        self.tab = Tab.OVERLAP
        self._make_sliders()
        context.bridge.engine_changed.connect(self._on_engine_changed)
        context.bridge.tried.connect(self._show_as_set)
        context.look.changed.connect(self.arrange)

    def _button(self, words: str, full: str, act: Callable[[], object]) -> DrawnButton:
        button = DrawnButton(self._context.look, words, self)
        button.setAccessibleName(full)
        button.setToolTip(full)
        button.clicked.connect(act)
        return button

    def _on_tab(self) -> None:
        sender = self.sender()
        if isinstance(sender, TabButton):
            self.show_tab(Tab(sender.text()))

    def show_tab(self, tab: Tab) -> None:
        """Show one of the panels."""
        self.tab = tab
        self.arrange()

    def go_as_set(self) -> None:
        """Back to lash and advance as set."""
        self._context.session.try_out(AS_SET)

    def _on_engine_changed(self) -> None:
        for slider in self.sliders:
            slider.setParent(None)
            slider.deleteLater()
        self._make_sliders()
        self.arrange()

    def _make_sliders(self) -> None:
        self.sliders = sliders_for(self._context, self)

    def _show_as_set(self) -> None:
        tried = self._context.session.state.shown.what_if != AS_SET
        self.as_set_button.setVisible(tried and self._has_sliders())

    def _has_sliders(self) -> bool:
        return self.tab in (Tab.OVERLAP, Tab.LIFT)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Place everything anew."""
        super().resizeEvent(event)
        self.arrange()

    def _put(self, view: QWidget, x: float, y: float, width: float, height: float) -> None:
        view.setGeometry(self.look.scaled(x, y, max(width, 1), max(height, 1)))
        view.setVisible(True)

    def arrange(self) -> None:
        """Place the parts for the size that there is."""
        width, height = self.logical_width, self.logical_height
        narrow = width < 1100
        left = width * 0.5 if narrow else PANEL_LEFT
        wide = width - left - 16
        self._put(self.lap, 0, 0, left - 8, height)
        one = self._context.session.state.engine.cylinder_count == 1
        for button, x in ((self.before, 14.0), (self.after, 46.0)):
            self._put(button, x, 10, 30, 34)
            button.setVisible(not one)
        closer = min(150.0, wide * 0.3)
        tab_wide = (wide - closer - 12 - 3 * 6) / 4
        for place, button in enumerate(self.tabs):
            button.setChecked(button.text() == self.tab.value)
            button.repaint_all()
            self._put(button, left + place * (tab_wide + 6), 10, tab_wide, TAB_HEIGHT)
        self._put(self.close_button, left + wide - closer, 10, closer, TAB_HEIGHT)
        rows = -(-len(self.sliders) // 2) if self._has_sliders() else 0
        below = rows * SLIDER_HEIGHT + (8 if rows else 0)
        for tab, panel in self.panels.items():
            if tab is self.tab:
                panel.slider_room = below
                self._put(panel, left, 52, wide, height - 58)
            else:
                panel.hide()
        self._place_sliders(left, wide)

    def _place_sliders(self, left: float, wide: float) -> None:
        panel = self.panels[self.tab]
        top = 52 + panel.sliders_top
        column = (wide - 24) / 2
        for place, slider in enumerate(self.sliders):
            if not self._has_sliders():
                slider.hide()
                continue
            x, y = left + (place % 2) * (column + 24), top + (place // 2) * SLIDER_HEIGHT
            self._put(slider, x, y, column, SLIDER_HEIGHT)
            slider.raise_()
        self._put(self.as_set_button, left + wide - 84, 54, 84, 32)
        self.as_set_button.raise_()
        self._show_as_set()

    def paint(self, p: QPainter) -> None:
        """Only the ground."""
