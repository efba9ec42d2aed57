"""What is being changed by hand: the engine as it is drawn, what was begun, what cannot be.

While a grip is dragged only the drawings follow (`live`); the session hears of it at the release,
as one step of undo. What the firing order forbids stays drawn as a clash, and the session keeps the
last good engine.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from enum import Enum
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.desk import Desk
from true_compass.core.changes import Event, with_event, with_order, with_valves_swapped
from true_compass.core.crank.firing import Groups
from true_compass.core.crank.layout import Layout, Seat
from true_compass.core.crank.makers import Family, Variant, family_of
from true_compass.core.crank.shaping import (
    Clash,
    NextFiring,
    next_firings,
    renumbered,
    reshaped,
    taking,
    throws_at,
    throws_changed_about,
    with_bank,
    with_throw,
)
from true_compass.core.engine import Engine, Mark
from true_compass.core.limits import EngineError
from true_compass.core.rotation import Rotation


class Tab(Enum):
    """What is worked at; each says what to do next."""

    LAYOUT = "Layout"
    NUMBERS = "Numbers"
    THROWS = "Throws"
    BANKS = "Banks"
    VALVES = "Valves"
    EVENTS = "Events"
    ORDER = "Order"
    MARKS = "Marks"
    SIZES = "Sizes"


class HandModel(QObject):
    """One engine under two hands."""

    changed = pyqtSignal()
    """Something is drawn anew."""

    moved = pyqtSignal(object)
    """What a `Tab` works at follows a hand; everything else stands as it stood."""

    told = pyqtSignal()
    """Only the problem is another one."""

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self._session = desk.session
        self._say = desk.say
        self.tab = Tab.LAYOUT
        self.confirmed: set[Tab] = set()
        self.live: Engine | None = None
        self.clash: Clash | None = None
        self._kept: Layout | None = None
        self.problem = ""
        self.numbering: list[Seat] = []
        self.ordering: list[int] = []
        self.mark = 0
        self._strokes = 0
        desk.bridge.engine_changed.connect(self._on_engine)

    @property
    def engine(self) -> Engine:
        """The engine that is drawn: as it is dragged, or as it is set."""
        return self.live or self.settled

    @property
    def settled(self) -> Engine:
        """The engine as it is set, whatever is dragged."""
        return self._session.state.engine

    @property
    def layout(self) -> Layout:
        """The layout that is drawn, also where the order forbids it."""
        return self.clash.layout if self.clash is not None else self.engine.layout

    def _on_engine(self) -> None:
        self.live = self.clash = self._kept = None
        self.problem = ""
        self.numbering, self.ordering = [], []
        self.mark = min(self.mark, max(len(self.engine.marks) - 1, 0))
        self.changed.emit()

    def show_tab(self, tab: Tab) -> None:
        """Work at something else; what was begun there is given up."""
        self.tab, self.problem = tab, ""
        self.numbering, self.ordering = [], []
        self.changed.emit()

    # One change, live or settled ---------------------------------------------------------------

    def _settle(self, engine: Engine, words: str, tab: Tab) -> None:
        """Hand an engine to the session as one step of undo."""
        self._strokes += 1
        self.live, self.clash, self._kept, self.problem = None, None, None, ""
        self.confirmed.add(tab)
        self._session.edit(engine, f"{words} {self._strokes}", words)
        self.changed.emit()

    def _refuse(self, error: EngineError) -> None:
        self.problem = f"{error.in_words}."
        self.changed.emit()

    def _change(
        self, make: Callable[[], Engine], words: str, tab: Tab, *, live: bool = False
    ) -> None:
        """Make another engine and settle it, or only draw it while a hand has hold of it."""
        try:
            engine = make()
        except EngineError as error:
            self._refuse(error)
            return
        if not live:
            self._settle(engine, words, tab)
            return
        self.problem, self.live = "", engine
        self.moved.emit(tab)

    def _take_layout(self, layout: Layout, words: str, tab: Tab, *, live: bool) -> None:
        base = self.settled
        try:
            found = reshaped(base, layout)
        except EngineError as error:
            self._refuse(error)
            return
        self.problem = ""
        if isinstance(found, Engine) and not live:
            self._settle(found, words, tab)
            return
        # A clash that comes or goes under the hand changes the whole page.
        whole = not live or (self.clash is None) != isinstance(found, Engine)
        if isinstance(found, Engine):
            self.live, self.clash = found, None
        else:
            self.live, self.clash = None, found
            self._kept = self._kept if live else layout
        if whole:
            self.changed.emit()
        else:
            self.moved.emit(tab)

    def let_go(self) -> None:
        """Give up what was dragged, and show the engine as it is set."""
        self.live = self.clash = self._kept = None
        self.problem = ""
        self.changed.emit()

    # Layout ------------------------------------------------------------------------------------

    @property
    def family(self) -> Family:
        """The family of the engine that is drawn."""
        return family_of(self.engine)

    def make(self, family: Family, count: int, angle_deg: float, variant: Variant) -> None:
        """Put a new engine in place of the open one; undo brings that back."""
        try:
            engine = variant.make(count, angle_deg)
        except EngineError as error:
            self._refuse(error)
            return
        self.take_offer(engine)

    def take_offer(self, engine: Engine) -> None:
        """Put an engine that was offered in place of the open one; undo brings that back."""
        self.confirmed.clear()
        self._settle(engine, f"new engine, {engine.layout_words}", Tab.LAYOUT)

    def take_shape(self, engine: Engine, words: str) -> None:
        """The same engine on another crank."""
        self._settle(engine, words, Tab.THROWS)

    def turn_round(self, rotation: Rotation) -> None:
        """Let the engine run the other way, seen from the same end."""
        self._settle(replace(self.settled, rotation=rotation), "running direction", Tab.LAYOUT)

    # Numbers -----------------------------------------------------------------------------------

    def number(self, seat: Seat) -> None:
        """Give a seat the next number; the last one again takes it back."""
        if self.numbering and seat == self.numbering[-1]:
            self.numbering.pop()
        elif seat not in self.numbering:
            self.numbering.append(seat)
        if len(self.numbering) == self.layout.cylinder_count:
            self._finish_numbers()
        self.changed.emit()

    def _finish_numbers(self) -> None:
        seats, self.numbering = tuple(self.numbering), []
        if seats == self.engine.layout.seats:
            self.confirmed.add(Tab.NUMBERS)
            return
        self._change(partial(renumbered, self.engine, seats), "numbers", Tab.NUMBERS)

    def number_of(self, seat: Seat) -> str:
        """The number that a seat shows; nothing where it has none yet."""
        if not self.numbering:
            return str(self.layout.seats.index(seat) + 1)
        return str(self.numbering.index(seat) + 1) if seat in self.numbering else ""

    # Throws and banks --------------------------------------------------------------------------

    def move_throw(self, throw: int, angle_deg: float, *, live: bool) -> None:
        """Turn one throw (from 0) to an angle."""
        layout = with_throw(self._base, throw, angle_deg)
        self._take_layout(layout, f"throw {throw + 1}", Tab.THROWS, live=live)

    def drop_throw(self, throw: int, angle_deg: float) -> None:
        """Leave a throw at an angle; dropped on another, both change places."""
        base = self._base
        own_deg = base.throws[throw].angle_deg
        for other in throws_at(base, angle_deg, throw):
            if abs(base.throws[other].angle_deg - own_deg) > 0.01:
                layout = throws_changed_about(base, throw, other)
                words = f"throws {throw + 1} and {other + 1}"
                self._take_layout(layout, words, Tab.THROWS, live=False)
                return
        self.move_throw(throw, angle_deg, live=False)

    @property
    def _base(self) -> Layout:
        """What a drag starts from: a layout that was left in conflict, or the one as set."""
        return self._kept or self.settled.layout

    def move_bank(self, bank: int, angle_deg: float, *, alone: bool, live: bool) -> None:
        """Lean a bank (from 0) over; two banks move as mirror images unless `alone`."""
        layout = with_bank(self._base, bank, angle_deg, alone=alone)
        name = layout.banks[bank].name
        words = f"bank {name}" if alone or len(layout.banks) != 2 else "angle between the banks"
        self._take_layout(layout, words, Tab.BANKS, live=live)

    # A clash, and the ways out -----------------------------------------------------------------

    def take_nearest(self) -> None:
        """Keep the layout, and fire in the nearest order that it allows."""
        clash = self.clash
        if clash is not None:
            make = partial(taking, self.settled, clash.layout, clash.nearest)
            self._change(make, "throws and order", Tab.THROWS)

    # Valves and events -------------------------------------------------------------------------

    def swap_valves(self, cylinder: int, *, head: bool) -> None:
        """Change intake and exhaust about at one cylinder, or along its whole head."""
        layout = self.engine.layout
        cylinders = layout.on_bank(layout.seats[cylinder - 1].bank) if head else (cylinder,)
        words = "valves of a head" if head else f"valves of cylinder {cylinder}"
        make = partial(with_valves_swapped, self.engine, cylinders)
        self._change(make, words, Tab.VALVES)

    def move_event(self, event: Event, cycle_deg: float, *, live: bool) -> None:
        """Let a valve open or close at another place of the cycle."""
        make = partial(with_event, self.settled, event, cycle_deg)
        self._change(make, f"events, {event.words}", Tab.EVENTS, live=live)

    # Order -------------------------------------------------------------------------------------

    def next_firings(self) -> list[NextFiring]:
        """What may fire next in the order that was begun, and why the others may not."""
        return next_firings(self.layout, self.ordering)

    def fire(self, cylinder: int) -> str:
        """Let a cylinder fire next; why it cannot, or nothing. The last again takes it back."""
        if self.ordering and cylinder == self.ordering[-1]:
            self.ordering.pop()
            self.changed.emit()
            return ""
        for found in self.next_firings():
            if found.cylinder == cylinder and found.possible:
                self.ordering.append(cylinder)
                if len(self.ordering) == self.layout.cylinder_count:
                    self._finish_order()
                self.changed.emit()
                return ""
            if found.cylinder == cylinder:
                self._say(found.why)
                return found.why
        return ""

    def _finish_order(self) -> None:
        order, self.ordering = self.ordering, []
        self.take_order(tuple((cylinder,) for cylinder in order))

    def take_order(self, groups: Groups) -> None:
        """Let the engine fire in an order."""
        self._change(partial(with_order, self.engine, groups), "firing order", Tab.ORDER)

    # Marks -------------------------------------------------------------------------------------

    def put_marks(self, marks: Sequence[Mark], words: str, *, live: bool = False) -> None:
        """Other marks on damper, flywheel or cam."""
        make = partial(replace, self.settled, marks=tuple(marks))
        self._change(make, words, Tab.MARKS, live=live)

    def name_mark(self, mark: Mark, what: str) -> None:
        """The words of the chosen mark, as they are typed: letters in a row are one step."""
        marks = list(self.settled.marks)
        marks[self.mark] = mark
        try:
            engine = replace(self.settled, marks=tuple(marks))
        except EngineError as error:
            self._refuse(error)
            return
        words = {"where": "place", "stamped": "stamp"}.get(what, what)
        self.put_engine(engine, f"{words} of a mark", f"mark {self.mark} {what}")

    def put_engine(self, engine: Engine, words: str, field: str) -> None:
        """A figure that was typed; keystrokes in one field are one step."""
        self.live, self.clash, self._kept, self.problem = None, None, None, ""
        self._session.edit(engine, field, words)
