"""The Ignition: signs, the distributor fitted, its leads, its advance, the lamp, and beyond."""

from collections.abc import Sequence
from functools import partial
from typing import Final

from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.keys import NONE, Key, KeyLine
from true_compass.app.tabbed import TabbedWorkspace
from true_compass.app.undo import UndoButton
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.beyond_view import BeyondView
from true_compass.app.workspaces.ignition.curve_view import CurveView
from true_compass.app.workspaces.ignition.fit_view import FitView
from true_compass.app.workspaces.ignition.lamp_view import LampView
from true_compass.app.workspaces.ignition.lamping import Lamping
from true_compass.app.workspaces.ignition.leads_view import LeadsView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.app.workspaces.ignition.signs_view import SignsView
from true_compass.app.workspaces.ignition.spin_view import SpinView
from true_compass.core.ignition.beyond import sparks

SIGNS, FIT, LEADS, CURVE, LAMP, SPIN, COILS = PAGES = (
    "Signs",
    "Fit",
    "Leads",
    "Curve",
    "Lamp",
    "No book",
    "Coils",
)
OF_ROTOR: Final = (FIT, LEADS, SPIN)
"""Pages about a rotor and its cap."""
EDGE: Final = 20.0
TAB_WIDE: Final = dict.fromkeys(PAGES, 84.0)


class IgnitionWorkspace(TabbedWorkspace):
    """One page at a time."""

    least_size = (780.0, 400.0)
    pages = PAGES
    tab_wide = TAB_WIDE

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        look = desk.look
        self.setObjectName("ignition")
        self.setAccessibleName("Ignition")
        self.model = IgnitionModel(desk, self)
        self._page = FIT
        self.undo = UndoButton(desk, self)
        self.leads = LeadsView(look, self.model, self)
        self.fit = FitView(look, self.model, self)
        self.lamping = Lamping(self.model, self)
        self.lamp = LampView(look, self.lamping, self)
        self.curve = CurveView(look, self.lamping, self)
        self.curve.set_it.connect(partial(self.show_page, LAMP))
        self.signs = SignsView(look, self.model, self)
        self.signs.to_page.connect(self.show_page)
        self.spin = SpinView(look, self.model, self)
        self.beyond = BeyondView(look, self.model, self)
        self.views: dict[str, PageView] = {
            SIGNS: self.signs,
            FIT: self.fit,
            LEADS: self.leads,
            CURVE: self.curve,
            LAMP: self.lamp,
            SPIN: self.spin,
            COILS: self.beyond,
        }
        self.model.changed.connect(self._show)
        look.changed.connect(self._show)
        self._show()

    def turned_to(self, _page: str) -> None:
        """Show it."""
        self._show()

    def focus_first(self) -> QWidget:
        """The view that takes the page's own keys."""
        return {
            SIGNS: self.signs.draw_one,
            FIT: self.fit.map,
            LEADS: self.leads.map,
            CURVE: self.curve.speed,
            LAMP: self.lamp.field,
            SPIN: self.spin.cylinder,
            COILS: self.beyond.ring,
        }[self.shown_page]

    def came_to_front(self) -> None:
        """Another engine may be open by now."""
        self._show()

    def _show(self) -> None:
        self.arrange()
        self.update()
        self.shows_changed.emit()

    @property
    def hides_order(self) -> bool:
        """Where the order is to be found by barring and looking."""
        return self.shown_page == SPIN

    def arrange(self) -> None:
        """Put everything in its place."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        self.arrange_tabs(EDGE, 10, 34)
        self.undo.setGeometry(put(wide - EDGE - 130, 10, 130, 34))
        for word, view in self.views.items():
            view.setGeometry(put(EDGE, 54, wide - 2 * EDGE, high - 60))
            view.setVisible(word == self.shown_page)

    @property
    def shown_page(self) -> str:
        """The page, or what the engine has instead: without a rotor, what fires what."""
        return COILS if self.has_nothing_for(self._page) else self._page

    def has_nothing_for(self, page: str) -> bool:
        """Whether this engine has nothing that a page could be about."""
        engine = self.model.engine
        if page == COILS:
            return False
        return not sparks(engine) or (page in OF_ROTOR and not engine.has_rotor)

    def keys(self) -> Sequence[KeyLine]:
        """What the page's own view takes."""
        return (
            KeyLine(
                "Up, Down",
                "another post or row",
                in_view=((Key.Key_Up, NONE), (Key.Key_Down, NONE)),
            ),
            KeyLine(
                "Digits, Return",
                "put the picked post's lead on a plug, move the next one; keep a reading",
                in_view=((Key.Key_Return, NONE),),
            ),
            KeyLine("H", "the vacuum hose on or off, by the lamp", in_view=((Key.Key_H, NONE),)),
        )
