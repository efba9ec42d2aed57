"""The Cam: instruments, readings, events, lobes, and the correction with its gaps."""

from collections.abc import Sequence
from datetime import date
from functools import partial
from types import MappingProxyType
from typing import TYPE_CHECKING, Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.desk import Desk
from true_compass.app.keys import NONE, Key, KeyLine
from true_compass.app.tabbed import TabbedWorkspace
from true_compass.app.undo import UndoButton
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.workspaces.cam.correct_view import CorrectView
from true_compass.app.workspaces.cam.correcting import Correcting
from true_compass.app.workspaces.cam.done_view import DoneView
from true_compass.app.workspaces.cam.events_view import EventsView
from true_compass.app.workspaces.cam.line_view import LineView
from true_compass.app.workspaces.cam.lining import Lining
from true_compass.app.workspaces.cam.lobe_view import LobeView
from true_compass.app.workspaces.cam.lobing import Lobing
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.app.workspaces.cam.pad import HEIGHT as PAD
from true_compass.app.workspaces.cam.pad import Pad
from true_compass.app.workspaces.cam.paper_view import PaperView
from true_compass.app.workspaces.cam.papering import REMEMBERS, Papering
from true_compass.app.workspaces.cam.readings_view import HEAD_HIGH, HeadView, NosesView
from true_compass.app.workspaces.cam.rows_view import RowsView
from true_compass.app.workspaces.cam.setup_view import SetupView
from true_compass.app.workspaces.cam.taking import Taking
from true_compass.app.workspaces.cam.wheel_view import MapView, WheelView
from true_compass.drawing.text import draw_one_of
from true_compass.drawing.theme import NOTE

if TYPE_CHECKING:
    from true_compass.drawing.documents import Document

SETUP, READINGS, EVENTS, LOBE, CORRECT, LINE, PAPER = PAGES = (
    "Set-up",
    "Readings",
    "Events",
    "Lobe",
    "Correct",
    "Line",
    "Paper",
)
TAB_WIDE: Final = {
    SETUP: 76.0,
    READINGS: 92.0,
    EVENTS: 70.0,
    LOBE: 62.0,
    CORRECT: 80.0,
    LINE: 56.0,
    PAPER: 66.0,
}
EDGE: Final = 20.0
SIDE: Final = 372.0
COLUMN: Final = EDGE + SIDE + 32
GAP: Final = 6.0
MIDDLE: Final = 284.0
MAP_HIGH: Final = 116.0


class CamWorkspace(TabbedWorkspace):
    """One page at a time; what is typed stands at the left."""

    least_size = (780.0, 400.0)
    pages = PAGES
    tab_wide = TAB_WIDE
    remembers = MappingProxyType(REMEMBERS)

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        look = desk.look
        self.setObjectName("cam")
        self.setAccessibleName("Cam")
        self.model = CamModel(desk, self)
        self._two_rows, self._keys_left = False, 0.0
        self._page = READINGS if self.model.sheet.setup is not None else SETUP
        self.cylinder = DrawnButton(look, "Cyl 1", self)
        self.cylinder.setObjectName("cam_cylinder")
        self.cylinder.clicked.connect(self._next_cylinder)
        self.moved = DrawnButton(look, "Pointer has moved", self)
        self.moved.setObjectName("pointer_moved")
        self.moved.clicked.connect(self.model.pointer_has_moved)
        self.put = DrawnButton(look, "Put into the engine", self)
        self.put.setObjectName("put_into_engine")
        self.put.setToolTip("The engine as set becomes the engine as it was read")
        self.put.clicked.connect(self._put)
        self.bench = DrawnButton(look, "From the bench", self)
        self.bench.setObjectName("from_bench")
        self.bench.setToolTip("Take what the wheel on the bench reads now")
        self.taking = Taking(self.model)
        self.bench.clicked.connect(self.taking.take_from_bench)
        self.setup = SetupView(look, self.model, self)
        self.setup.begun.connect(partial(self.show_page, READINGS))
        self.rows = RowsView(look, self.model, self)
        self.pad = Pad(look, self.model, UndoButton(desk, self), self)
        self.rows.asked.connect(self.pad.field.setFocus)
        self.done = DoneView(look, self.model, self)
        self.done.plan.clicked.connect(partial(self.show_page, CORRECT))
        self.done.report.clicked.connect(self._print)
        self.done.table.clicked.connect(self._write_readings)
        self.head = HeadView(look, self.model, self)
        self.wheel = WheelView(look, self.model, self)
        self.map = MapView(look, self.model, self)
        self.noses = NosesView(look, self.model, self)
        self.events = EventsView(look, self.model, self)
        self.lobing = Lobing(self.model, self)
        self.lobe = LobeView(look, self.lobing, self)
        self.lining = Lining(self.model, self)
        self.line = LineView(look, self.lining, self)
        self.papering = Papering(self.model, desk.documents.printers, self)
        self.paper_view = PaperView(look, self.papering, desk.documents, self)
        self.correcting = Correcting(self.model, self)
        self.correct = CorrectView(look, self.correcting, self)
        self.correct.moved.connect(partial(self.show_page, READINGS))
        self.model.changed.connect(self._show)
        look.changed.connect(self._show)
        self._show()

    # Pages ------------------------------------------------------------------------------------

    def turned_to(self, _page: str) -> None:
        """Show it."""
        self._show()

    def focus_first(self) -> QWidget:
        """The field for readings, else what begins."""
        if self._page == READINGS:
            return self.pad.field if self.model.asks else self.rows
        if self._page == CORRECT:
            return self.correct.options
        if self._page == LOBE:
            return self.lobe.pad.field
        if self._page == LINE:
            return self.line.address
        if self._page == EVENTS:
            return self.events.fields[0]
        if self._page == PAPER:
            return self.paper_view.form.look_at
        return self.setup.begin

    def came_to_front(self) -> None:
        """Another engine may be open by now."""
        self._show()

    def _next_cylinder(self) -> None:
        count = self.model.engine.cylinder_count
        self.model.choose_cylinder(self.model.cylinder % count + 1)

    def _put(self) -> None:
        wrong = self.correcting.put_into_engine()
        self.desk.say(wrong or "The engine is now as it was read. Undo brings the old one back.")

    def document(self) -> "Document | None":
        """The report of what was read; on the page of paper, its sheets."""
        if self._page == PAPER:
            return self.paper_view.document()
        from true_compass.drawing.cam_report import Reported, cam_report  # opening need not wait
        from true_compass.files.engine_values import origin_words

        model, day = self.model, date.today()
        made = self.correcting.picked if self.correcting.is_known else None
        origin = origin_words(model.engine, day)
        return cam_report(Reported(model.rig, model.sheet, made, origin, day))

    def _print(self) -> None:
        document = self.document()
        if document is not None:
            self.desk.documents.show(document)

    def _write_readings(self) -> None:
        """The readings as a table."""
        name = self.model.engine.name.lower().replace(" ", "-")
        path = self.desk.files.ask_readings(f"{name}-readings.csv")
        if path is None:
            return
        from true_compass.files.readings_table import write_readings

        try:
            write_readings(self.model.rig, self.model.sheet, path)
        except OSError as error:
            self.desk.say(f"{path.name} was not written ({error.strerror}). Choose another folder.")
            return
        self.desk.say(f"Readings written to {path.name}.")

    def _show(self) -> None:
        words = f"Cyl {self.model.cylinder}"
        if self.cylinder.text() != words:
            self.cylinder.setText(words)
            self.cylinder.setToolTip("Read another cylinder")
        self.arrange()
        self.update()

    def arrange(self) -> None:
        """Put everything in its place."""
        put, wide, high = self.look.scaled, self.logical_width, self.logical_height
        x = self.arrange_tabs(EDGE, 10, 34)
        self.cylinder.setGeometry(put(wide - EDGE - 76, 10, 76, 34))
        deg = self.taking.bench_wheel_deg
        offered = deg is not None and self._page == READINGS and self.model.asked is not None
        self.bench.setVisible(offered)
        if offered:
            self.bench.setText(f"Bench wheel {deg:g}°")
        read = bool(self.model.result.noses) and self._page in (READINGS, CORRECT)
        self.put.setVisible(read and not offered)
        reading = self._page == READINGS
        self.setup.setVisible(self._page == SETUP)
        self.correct.setVisible(self._page == CORRECT)
        self.lobe.setVisible(self._page == LOBE)
        self.line.setVisible(self._page == LINE)
        self.events.setVisible(self._page == EVENTS)
        self.paper_view.setVisible(self._page == PAPER)
        self.cylinder.setVisible(self._page != LOBE)
        self.moved.setVisible(reading)
        self._arrange_keys(x, wide)
        all_read = not self.model.asks and self.model.question is None
        for view in (self.rows, self.head, self.noses, self.wheel, self.map):
            view.setVisible(reading)
        self.pad.setVisible(reading and not all_read)
        self.done.setVisible(reading and all_read)
        for page in (self.setup, self.events, self.lobe, self.correct, self.line, self.paper_view):
            page.setGeometry(put(EDGE, 54, wide - 2 * EDGE, high - 60))
        if reading:
            self._arrange_readings(wide, high)

    def _arrange_keys(self, tabs_end: float, wide: float) -> None:
        """Keys stand at the right of the tabs; where they have no room, over the right column."""
        put, right = self.look.scaled, wide - EDGE - 84
        offer = self.put if self.bench.isHidden() else self.bench
        widths = ((offer, 170.0), (self.moved, 160.0))
        shown = [(key, key_wide) for key, key_wide in widths if not key.isHidden()]
        needed = sum(key_wide + GAP for _, key_wide in shown)
        self._two_rows = bool(shown) and right - needed < tabs_end
        if self._two_rows:
            each = (wide - COLUMN - EDGE + GAP) / len(shown)
            for nth, (key, _) in enumerate(shown):
                key.setGeometry(put(COLUMN + nth * each, 50, each - GAP, 34))
        else:
            for key, key_wide in reversed(shown):
                right -= key_wide + GAP
                key.setGeometry(put(right, 10, key_wide, 34))
        self._keys_left = right

    def _arrange_readings(self, wide: float, high: float) -> None:
        put = self.look.scaled
        pad = min(PAD, high - 170)
        pad_top = high - pad - 6
        self.rows.setGeometry(put(EDGE, 50, SIDE, pad_top - 58))
        for view in (self.pad, self.done):
            view.setGeometry(put(EDGE, pad_top, SIDE, pad))
        left, top = COLUMN, 90.0 if self._two_rows else 50.0
        self.head.setGeometry(put(left, top, wide - left - EDGE, HEAD_HIGH))
        top += HEAD_HIGH + 6
        roomy = wide >= 1100 and high >= 560
        self.wheel.setVisible(roomy)
        self.map.setVisible(roomy)
        charts = left
        if roomy:
            self.wheel.setGeometry(put(left, top, MIDDLE, high - top - 8))
            charts = left + MIDDLE + 28
            self.map.setGeometry(put(charts, top, wide - charts - EDGE, MAP_HIGH))
            top += MAP_HIGH + 10
        self.noses.setGeometry(put(charts, top, wide - charts - EDGE, high - top - 8))

    def paint(self, p: QPainter) -> None:
        """What the wheel reads, beside the keys at the right."""
        if self._page != READINGS:
            return
        theme, scale = self.look.theme, self.model.setup.wheel.scale
        left = EDGE + sum(TAB_WIDE.values()) + 6 * len(TAB_WIDE) + 14
        words = f"Wheel {scale.words}, zero at {self.model.setup.wheel.zero.value.upper()}"
        box = QRectF(left, 10, max(self._keys_left - left, 10), 34)
        draw_one_of(p, box, (words, f"Wheel {scale.words}"), NOTE + 1, theme.ink2)

    def _ask_depth(self, *, one_more: bool) -> None:
        if self._page == READINGS:
            self.model.ask_depth_here(one_more=one_more)
            self.pad.field.setFocus()

    # Keys -------------------------------------------------------------------------------------

    def keys(self) -> Sequence[KeyLine]:
        """Up and Down go along the readings."""
        return (
            KeyLine(
                "Up, Down",
                "another reading",
                in_view=((Key.Key_Up, NONE), (Key.Key_Down, NONE)),
            ),
            KeyLine(
                "F2, Insert",
                "another drop of this row, one more drop",
                acts={
                    (Key.Key_F2, NONE): partial(self._ask_depth, one_more=False),
                    (Key.Key_Insert, NONE): partial(self._ask_depth, one_more=True),
                },
            ),
        )
