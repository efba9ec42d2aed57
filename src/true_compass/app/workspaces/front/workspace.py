"""The front page: what do you want to do, and where were you?"""

from datetime import datetime
from typing import Final

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QAbstractButton, QWidget

from true_compass.app.desk import Desk
from true_compass.app.keeping.recents import Recent
from true_compass.app.tile import GoOn
from true_compass.app.widgets.arrows import ARROWS, place_towards
from true_compass.app.widgets.controls import DrawnButton
from true_compass.app.workspace import NEW_ENGINE, Workspace
from true_compass.app.workspaces.front.parts import GoOnCard, RecentButton, TileButton
from true_compass.core.cautions import IN_SHORT
from true_compass.drawing.text import RIGHT, draw_one_of, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, HEAD, LEAD, NOTE, READOUT, Weight
from true_compass.files.rigs import rig_names
from true_compass.session.bench import tells_order_asked

FULL_WIDTH: Final = 1100.0
FULL_HEIGHT: Final = 560.0
EDGE: Final = 16.0
LEFT: Final = 384.0
TOP: Final = 54.0
GAP: Final = 9.0
MOST_RECENT: Final = 4
ROW: Final = 62.0
WELCOME_FOOT: Final = 236.0
QUESTION: Final = "What do you want to do?"


class FrontWorkspace(Workspace):
    """One tile a workspace; at the left where one was, and the engines before."""

    wants_crank = False
    least_size = (520.0, 330.0)

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, parent)
        self.setObjectName("front")
        self.setAccessibleName("Front page")
        self._session = desk.session
        look = desk.look
        self.tiles = [TileButton(desk, entry, self) for entry in desk.entries]
        self.card = GoOnCard(desk, self)
        self.rows = [RecentButton(look, self) for _ in range(MOST_RECENT)]
        self.more_recent = DrawnButton(look, "All recent…", self)
        self.open_file = DrawnButton(look, "Open a file…", self)
        self.rigs = DrawnButton(look, f"{len(rig_names())} demo rigs", self)
        self.new = DrawnButton(look, "New engine", self)
        self.menu = DrawnButton(look, "Menu", self)
        for tile in self.tiles:
            tile.clicked.connect(self._open_tile)
        for row in self.rows:
            row.clicked.connect(self._open_row)
        self.card.clicked.connect(self._go_on)
        self.open_file.clicked.connect(desk.files.choose_and_open)
        self.rigs.clicked.connect(desk.open_rigs)
        self.more_recent.clicked.connect(desk.open_recent)
        self.new.clicked.connect(self._new_engine)
        self.menu.clicked.connect(desk.open_menu)
        self._last: Recent | None = None
        self._before: list[Recent] = []
        desk.bridge.engine_changed.connect(self._on_change)
        desk.bridge.turned.connect(self._on_change)
        look.changed.connect(self.arrange)

    @property
    def hides_order(self) -> bool:
        """While the bench asks for the order of the open engine."""
        state = self._session.state
        return tells_order_asked(state.bench, state.engine)

    @property
    def goes_on(self) -> bool:
        """Whether something was done on the open engine that one could go on with."""
        return self._last is not None or self.card.go_on is not None

    @property
    def first_start(self) -> bool:
        """Whether nothing has been done yet, on any engine."""
        return not self.goes_on and not self._before

    def focus_first(self) -> QWidget:
        """Going on, or else the first tile."""
        return self.card if self.goes_on else self.tiles[0]

    def came_to_front(self) -> None:
        """Show what is true now."""
        self._take_stock()

    def _on_change(self) -> None:
        if self.isVisible():
            self._take_stock()

    def _take_stock(self) -> None:
        state = self._session.state
        recent = self.desk.files.recent()
        same = [one for one in recent if one.source.key == state.source.key]
        self._last = same[0] if same else None
        self._before = [one for one in recent if one.source.key != state.source.key]
        found: GoOn | None = None
        for entry in self.desk.entries:
            found = entry.tile().go_on(state)
            if found is not None:
                self.card.show_work(entry.word, found, self._left_words())
                break
        if found is None:
            self.card.show_place(self._last, self._left_words())
        now = self.desk.files.now()
        for row, one in zip(self.rows, self._before, strict=False):
            row.show_recent(one, now)
        for tile in self.tiles:
            tile.show_state(state, first=self.first_start and tile is self.tiles[0])
        self.arrange()

    def _left_words(self) -> str:
        if self._last is None:
            return ""
        now: datetime = self.desk.files.now()
        return self._last.when_words(now)

    # What a press does -----------------------------------------------------------------------

    def _go_on(self) -> None:
        if self.card.go_on is not None:
            self.desk.go_to(self.card.word, self.card.go_on.page)
        elif self._last is not None:
            self.desk.go_to(self._last.word, self._last.page)

    def _open_tile(self) -> None:
        for tile in self.tiles:
            if tile is self.sender():
                self.desk.go_to(tile.entry.word, "")

    def _open_row(self) -> None:
        for row, one in zip(self.rows, list(self._before), strict=False):
            if row is self.sender():
                self.desk.open_recent_one(one)

    def _new_engine(self) -> None:
        self.desk.go_to(*NEW_ENGINE)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from tile to tile; no crank is to be seen here that they could turn."""
        if event is None:
            return
        way = ARROWS.get(Qt.Key(event.key()))
        if way is None or event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            event.ignore()
            return
        self._step(way)

    def _step(self, way: tuple[int, int]) -> None:
        """Give the keyboard to the nearest button in a direction."""
        shown: list[QAbstractButton] = [
            button for button in self.findChildren(QAbstractButton) if button.isVisible()
        ]
        here = self.focus_widget()
        if here not in shown:
            self.focus_first().setFocus(Qt.FocusReason.TabFocusReason)
            return
        places = [QRectF(button.geometry()).center() for button in shown]
        goal = place_towards(places, QRectF(here.geometry()).center(), way)
        if goal is not None:
            shown[goal].setFocus(Qt.FocusReason.TabFocusReason)

    # Places ----------------------------------------------------------------------------------

    @property
    def full(self) -> bool:
        """Whether there is room for the left column."""
        return self.logical_width >= FULL_WIDTH and self.logical_height >= FULL_HEIGHT

    def _put(self, button: QWidget, x: float, y: float, width: float, height: float) -> None:
        button.setGeometry(self.look.scaled(x, y, max(width, 1), max(height, 1)))
        self._placed.add(button)

    def arrange(self) -> None:
        """Put everything in its place."""
        full = self.full
        self._placed: set[QWidget] = set()
        if full:
            self._arrange_left()
        left = EDGE + LEFT + 24 if full else EDGE
        self._arrange_tiles(left, TOP)
        if not full:
            self._arrange_foot()
        # Only what has no place goes: hiding all for a moment would lose the keyboard's place.
        for button in self.findChildren(QAbstractButton):
            button.setVisible(button in self._placed)
        self.update()

    def _foot(self) -> float:
        return 0.0 if self.full else 56.0

    def _arrange_left(self) -> None:
        height = self.logical_height
        y = 52.0
        if self.goes_on:
            self._put(self.card, EDGE, y, LEFT, self.card.wanted_height)
            y += self.card.wanted_height + 44
        shown = min(len(self._before), MOST_RECENT, max(int((height - 130 - y) // (ROW + 6)), 0))
        for row in self.rows[:shown]:
            self._put(row, EDGE, y, LEFT, ROW)
            y += ROW + 6
        if len(self._before) > shown:
            self._put(self.more_recent, EDGE, y, 130, 36)
        wide = (LEFT - 2 * GAP) / 3
        for place, button in enumerate((self.open_file, self.rigs, self.new)):
            top = WELCOME_FOOT if self.first_start else height - 112
            self._put(button, EDGE + place * (wide + GAP), top, wide, 46)

    def _arrange_tiles(self, left: float, top: float) -> None:
        width = self.logical_width - left - EDGE
        columns = 3 if len(self.tiles) > 4 and width > 560 else 2
        rows = -(-len(self.tiles) // columns)
        height = self.logical_height - top - 14 - self._foot()
        wide = (width - GAP * (columns - 1)) / columns
        high = (height - GAP * (rows - 1)) / rows
        for place, tile in enumerate(self.tiles):
            x, y = place % columns, place // columns
            self._put(tile, left + x * (wide + GAP), top + y * (high + GAP), wide, high)

    def _arrange_foot(self) -> None:
        """In a small window what stands at the left is one line below the tiles."""
        y, x = self.logical_height - 54, EDGE
        room = self.logical_width - 2 * EDGE
        wide = 118.0
        for button in (self.open_file, self.rigs, self.new, self.menu):
            self._put(button, x, y, wide, 42)
            x += wide + 6
        if self.goes_on:
            self._put(self.card, x, y, EDGE + room - x, 42)

    def paint(self, p: QPainter) -> None:
        """Draw the headings and the care."""
        theme, width, height = self.look.theme, self.logical_width, self.logical_height
        left = EDGE + LEFT + 24 if self.full else EDGE
        engine = self._session.state.engine
        head = QRectF(left, 8, width - left - EDGE, 42)
        used = draw_text(p, head, QUESTION, READOUT, theme.ink, Weight.STRONG)
        room = QRectF(left + used + 24, 14, width - EDGE - left - used - 24, 36)
        with_words = (f"with {engine.name}, {engine.layout_words}", f"with {engine.name}")
        draw_one_of(p, room, with_words, BODY, theme.ink2, Weight.BODY, RIGHT)
        if not self.full:
            return
        if self.first_start:
            self._paint_welcome(p)
        else:
            title = QRectF(EDGE, 10, LEFT, 38)
            words = "Go on" if self.goes_on else "Recent engines"
            draw_text(p, title, words, HEAD, theme.ink, Weight.STRONG)
            if self._before and self.goes_on:
                y = 52 + self.card.wanted_height + 14
                before = QRectF(EDGE, y, LEFT, 28)
                draw_text(p, before, "Before that", LEAD, theme.ink, Weight.STRONG)
        care = QRectF(EDGE, height - 56, LEFT, 44)
        draw_paragraph(p, care, IN_SHORT, NOTE, theme.ink2)

    def _paint_welcome(self, p: QPainter) -> None:
        theme = self.look.theme
        title = QRectF(EDGE, 10, LEFT, 38)
        draw_text(p, title, "True Compass", HEAD, theme.ink, Weight.STRONG)
        words = QRectF(EDGE, 58, LEFT - 20, 160)
        y = draw_paragraph(p, words, WELCOME, LEAD - 2, theme.ink)
        words = QRectF(EDGE, y + 12, LEFT - 20, 160)
        draw_paragraph(p, words, WELCOME_ALSO, BODY, theme.ink2)


WELCOME: Final = (
    "Turn an engine on the screen and see which cylinder fires, which overlaps, and which valves "
    "may be set."
)
WELCOME_ALSO: Final = (
    "Choose a tile, or press the letter that is underlined. F1 shows all keys, Home comes back "
    "here."
)
