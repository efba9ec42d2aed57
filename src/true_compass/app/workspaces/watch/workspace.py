"""Watch: turn the engine and see who fires, who is in overlap, and which valves are free."""

from collections.abc import Sequence
from enum import Enum
from functools import cached_property
from typing import TYPE_CHECKING, ClassVar, Final

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.settings import Remembered
from true_compass.app.keys import NONE, Key, KeyLine
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.workspace import Workspace
from true_compass.app.workspaces.watch.chart_view import ChartView
from true_compass.app.workspaces.watch.columns import (
    GUTTER,
    ColumnGrid,
    CylinderColumn,
)
from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.app.workspaces.watch.figures import (
    AdjustHere,
    AdjustList,
    DialsView,
    Gutter,
    Headline,
)
from true_compass.app.workspaces.watch.ring_view import RingView
from true_compass.app.workspaces.watch.selection import Selection
from true_compass.core.crank.layout import Form
from true_compass.core.state import AS_SET

if TYPE_CHECKING:
    from true_compass.app.workspaces.watch.cells import CellsView
    from true_compass.app.workspaces.watch.cycle.page import CyclePage
    from true_compass.app.workspaces.watch.star import FiringList, LinkBars, StarView
    from true_compass.drawing.documents import Document

FULL_WIDTH: Final = 1180.0
FULL_HEIGHT: Final = 590.0
HINT_DRAGS: Final = 3
COLUMNS_TOP: Final = 50.0
RING_WIDTH: Final = 424.0
RIGHT_SIDE: Final = 462.0


LENS_WORDS: Final = {False: "Lens", True: "Lap"}


ALL: Final = "All cylinders"
ONE: Final = "One cylinder"


class View(Enum):
    """What can stand at the right."""

    COLUMNS = "columns"
    CELLS = "cells"
    STAR = "star"
    CYCLE = "cycle"


NATURAL: Final = {
    Form.V: View.CELLS,
    Form.FLAT: View.CELLS,
    Form.W: View.CELLS,
    Form.RADIAL: View.STAR,
}
"""What shows a layout as it is built; the others are shown in columns."""


class WatchWorkspace(Workspace):
    """Places the figures: all in a large window, only the ring and the columns in a small one."""

    pages = (ALL, ONE)
    remembers: ClassVar = {"drags": Remembered(0)}

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        bridge, look = desk.bridge, desk.look
        self.setObjectName("watch")
        self.setAccessibleName("Watch")
        self.selection = Selection(self)
        self._context = WatchContext(desk.session, bridge, desk.turner, look, self.selection)
        self._toggled = False
        self._stale = False
        self._one_cylinder = False
        self.headline = Headline(self._context, self)
        self.ring = RingView(self._context, self)
        self.dials = DialsView(self._context, self)
        self.gutter = Gutter(self._context, self)
        self.adjust_here = AdjustHere(self._context, self)
        self.columns: list[CylinderColumn] = []
        self.chart = ChartView(self._context, self)
        self.lens_button = DrawnButton(look, LENS_WORDS[False], self)
        self.lens_button.clicked.connect(self.toggle_lens)
        self.lens_button.setToolTip("60° of the chart about the crank, or the whole lap (Z)")
        self.cycle_button = DrawnButton(look, "Cycle", self)
        self.cycle_button.setToolTip("One cylinder: lap, overlap, lift, events, train (T)")
        self.cycle_button.clicked.connect(self.toggle_cycle)
        self._make_columns()
        bridge.engine_changed.connect(self._on_engine_changed)
        look.changed.connect(self.arrange)
        self.ring.dragged.connect(self._show_hint)
        self.ring.drags = round(desk.settings.get("drags"))
        self._show_hint()

    # Views that only some layouts need are imported and made when one does.

    @cached_property
    def cells(self) -> "CellsView":
        """The end view."""
        from true_compass.app.workspaces.watch.cells import CellsView

        return CellsView(self._context, self)

    @cached_property
    def adjust_list(self) -> AdjustList:
        """What may be adjusted here, beside an end view."""
        return AdjustList(self._context, self)

    @cached_property
    def star(self) -> "StarView":
        """A radial from the front."""
        from true_compass.app.workspaces.watch.star import StarView

        return StarView(self._context, self)

    @cached_property
    def firing_list(self) -> "FiringList":
        """The cylinders of a radial in firing order."""
        from true_compass.app.workspaces.watch.star import FiringList

        return FiringList(self._context, self)

    @cached_property
    def link_bars(self) -> "LinkBars":
        """What link rods do to the TDCs of a radial."""
        from true_compass.app.workspaces.watch.star import LinkBars

        return LinkBars(self._context, self)

    @cached_property
    def cycle(self) -> "CyclePage":
        """One cylinder over its whole cycle."""
        from true_compass.app.workspaces.watch.cycle.page import CyclePage

        page = CyclePage(self._context, self)
        page.closed.connect(self.toggle_cycle)
        return page

    @property
    def compact(self) -> bool:
        """Whether chart and dials step back."""
        return self.logical_width < FULL_WIDTH or self.logical_height < FULL_HEIGHT

    @property
    def view(self) -> View:
        """What stands at the right: columns, cells of an end view, or a star."""
        if self._one_cylinder:
            return View.CYCLE
        form = self._context.session.state.engine.layout.form
        natural = NATURAL.get(form, View.COLUMNS)
        other = View.COLUMNS if natural is not View.COLUMNS else natural
        if self.compact:
            natural, other = other, natural
        if natural is View.STAR and self._rows() > 1:
            return View.STAR
        return other if self._toggled else natural

    @property
    def show_chart(self) -> bool:
        """Whether the chart takes the place of the sections of a small window."""
        form = self._context.session.state.engine.layout.form
        return self._toggled and self.compact and form not in NATURAL

    def _rows(self) -> int:
        layout = self._context.session.state.engine.layout
        return len(layout.throws) if layout.form is Form.RADIAL else 1

    @property
    def page(self) -> str:
        """All cylinders, or one over its whole cycle."""
        return ONE if self._one_cylinder else ALL

    def show_page(self, page: str) -> None:
        """Show all cylinders, or one."""
        if page in self.pages and page != self.page:
            self.toggle_cycle()

    def keys(self) -> Sequence[KeyLine]:
        """Its views."""
        return (
            KeyLine(
                "T",
                "one cylinder: lap, overlap, lift, events, train",
                {(Key.Key_T, NONE): self.toggle_cycle},
            ),
            KeyLine(
                "Z", "lens: 60° of the chart about the crank", {(Key.Key_Z, NONE): self.toggle_lens}
            ),
            KeyLine(
                "V",
                "columns or end view; in a small window chart or sections",
                {(Key.Key_V, NONE): self.toggle_view},
            ),
            KeyLine("Drag the ring", "turns the crank; with Alt no snap at TDC"),
            KeyLine("Drag the chart", "moves the cursor to an angle"),
        )

    def document(self) -> "Document | None":
        """The ring where the crank stands, or the lap of the cylinder that is shown; as set."""
        from true_compass.drawing.figure_sheets import diagram_sheet, ring_sheet

        state = self._context.session.state
        if self._one_cylinder:
            return diagram_sheet(state.rig, self.cycle.model.cylinder, state.crank_deg)
        return ring_sheet(state.rig, state.crank_deg)

    def toggle_view(self) -> None:
        """Columns or end view, the other row of a radial, or in a small window the chart."""
        self._toggled = not self._toggled
        if self._rows() > 1:
            self.star.show_row(int(self._toggled))
        self.arrange()

    def toggle_cycle(self) -> None:
        """One cylinder over its whole cycle, or all of them."""
        self._one_cylinder = not self._one_cylinder
        if self._one_cylinder and self.selection.strong is not None:
            self.cycle.model.show(self.selection.strong)
        self.arrange()
        # What hides passes the keyboard on as if by Tab; it is not shown that way.
        first = self.focus_first()
        first.clearFocus()
        first.setFocus()

    def toggle_lens(self) -> None:
        """The whole lap in the chart, or 60° about the crank."""
        self.chart.toggle_lens()
        self.lens_button.setText(LENS_WORDS[self.chart.lens_on])

    def go_back(self) -> bool:
        """Put back what is being tried; whether something was."""
        session = self._context.session
        if session.state.shown.what_if == AS_SET:
            return False
        session.try_out(AS_SET)
        return True

    def _on_engine_changed(self) -> None:
        self._toggled = False
        self.selection.clear()
        self._context.column_stills.forget()
        self._drop_columns()
        # While nobody looks, an edit need not wait for eighteen columns.
        self._stale = not self.isVisible()
        if not self._stale:
            self._make_columns()
            self.arrange()

    def came_to_front(self) -> None:
        """Make the columns of an engine that was changed while nobody looked."""
        if self._stale:
            self._stale = False
            self._make_columns()
            self.arrange()

    def _drop_columns(self) -> None:
        # A column that goes would hand the keyboard on to the next one that goes.
        if any(column.hasFocus() for column in self.columns):
            self.ring.setFocus()
        for column in self.columns:
            column.retire()
            column.setParent(None)
            column.deleteLater()
        self.columns = []

    def _make_columns(self) -> None:
        self._drop_columns()
        cylinders = self._context.session.state.engine.cylinders
        self.columns = [CylinderColumn(self._context, cylinder, self) for cylinder in cylinders]
        before: QWidget = self.ring
        for column in self.columns:
            QWidget.setTabOrder(before, column)
            before = column
            column.show()

    def focus_first(self) -> QWidget:
        """The ring."""
        return self.cycle.lap if self._one_cylinder else self.ring

    def remember(self) -> None:
        """How often the ring has been dragged: the first hint goes after three times."""
        self.desk.settings.put("drags", self.ring.drags)

    def _show_hint(self) -> None:
        self.headline.show_hint = self.ring.drags < HINT_DRAGS
        self.headline.update()

    def arrange(self) -> None:
        """Place the figures for the size that there is."""
        self._placed: set[QWidget] = set()
        if self.view is View.CYCLE:
            self._put(self.cycle, 0, 0, self.logical_width, self.logical_height)
        elif self.compact:
            self._arrange_compact()
        else:
            self._arrange_full()
        # Only what has no place goes: hiding all for a moment would lose the keyboard's place.
        for view in self.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly):
            if view not in self._placed:
                view.setVisible(False)
        self.update()

    def _put(self, view: QWidget, x: float, y: float, width: float, height: float) -> None:
        self._placed.add(view)
        view.setGeometry(self.look.scaled(x, y, max(width, 1), max(height, 1)))
        view.setVisible(True)

    def _arrange_full(self) -> None:
        width, height = self.logical_width, self.logical_height
        ring_height = min(456.0, height - 200)
        self._put(self.ring, 14, 12, RING_WIDTH, ring_height)
        below = 12 + ring_height + 6
        left, right = RIGHT_SIDE, width - RIGHT_SIDE - 16
        view = self.view
        if view is View.COLUMNS:
            self._put(self.dials, 14, below, RING_WIDTH, height - below - 8)
            self._arrange_columns(left, right)
        elif view is View.CELLS:
            self._put(self.adjust_list, 18, below + 4, RING_WIDTH - 8, height - below - 10)
            self._put(self.headline, left, 10, right - 88, 38)
            self._put_closer(left + right - 80, 10)
            self._put(self.cells, left, COLUMNS_TOP, right, height - COLUMNS_TOP - 8)
        else:
            self._put(self.link_bars, 18, below + 8, RING_WIDTH - 8, height - below - 20)
            listed = 236.0 if len(self.columns) <= 9 else 340.0
            self._put(self.headline, left, 10, right - listed - 16, 38)
            star_width = right - listed - 12
            self._put(self.star, left, COLUMNS_TOP, star_width, height - COLUMNS_TOP - 4)
            self._put(self.firing_list, left + right - listed, 12, listed, height - 18)
            self._put_closer(left, height - 72)

    def _put_closer(self, x: float, y: float) -> None:
        """The button to one cylinder, over whatever lies there."""
        self._put(self.cycle_button, x, y, 80, 34)
        self.cycle_button.raise_()

    def _arrange_columns(self, left: float, right: float) -> None:
        height = self.logical_height
        self._put(self.headline, left, 10, right, 38)
        columns_height = max(290.0, min(height * 0.5, 334.0))
        self._put_columns(left, COLUMNS_TOP, right, columns_height, GUTTER)
        self._put(self.gutter, left, COLUMNS_TOP, GUTTER - 6, columns_height + 2)
        for place, button in enumerate((self.lens_button, self.cycle_button)):
            self._put(button, left, COLUMNS_TOP + 2 + 40 * place, GUTTER - 6, 34)
            button.raise_()
        top = COLUMNS_TOP + columns_height
        self._put(self.chart, left, top, right, height - top - 2)

    def _arrange_compact(self) -> None:
        width, height = self.logical_width, self.logical_height
        ring_width = min(424.0, width * 0.48)
        self._put(self.ring, 6, 8, ring_width, min(height - 12, 456.0))
        left = ring_width + 22
        right = width - left - 8
        self._put(self.headline, left, 4, right, 68)
        self._put(self.adjust_here, left, height - 34, right, 30)
        columns_height = height - 76 - 38
        if self.view is not View.COLUMNS:
            shown = self.cells if self.view is View.CELLS else self.star
            self._put(shown, left, 76, right, columns_height)
            return
        if self.show_chart:
            self._put(self.chart, left, 76 + 74, right, height - 76 - 74 - 38)
            columns_height = 72
        gutter = GUTTER if self.show_chart else 0.0
        self._put_columns(left, 76, right, columns_height, gutter)

    def _bank_name(self, row: int) -> str:
        layout = self._context.session.state.engine.layout
        return layout.banks[layout.seats[row].bank].name

    def _put_columns(
        self,
        left: float,
        top: float,
        width: float,
        height: float,
        gutter: float,
    ) -> None:
        grid = ColumnGrid.of(width, self._context.session.state.engine, gutter)
        for row, column in enumerate(self.columns):
            x, column_width = grid.box(row)
            column.bank_name = self._bank_name(row) if row in grid.firsts else ""
            self._put(column, left + x, top, column_width, height)
