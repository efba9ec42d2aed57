"""What the Stops workspace shows: the chosen school's plan, and how far the work has come."""

import json
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.bridge import Bridge
from true_compass.core.angles import degrees_on
from true_compass.core.comparison import Row, compare
from true_compass.core.schools import BY_WORD, Choice, NotApplicableError, School
from true_compass.core.state import Rig
from true_compass.core.stops import Plan, Stop, StopItem
from true_compass.session.session import Session

SET, LEFT, SKIPPED, OFF = "set", "left", "skipped", "off"
"""How an item was seen to; `OFF` is found out of its band on a round that only checks."""
MOST_ENGINES = 20


class StopsModel(QObject):
    """One plan and its ticks."""

    changed = pyqtSignal()
    """Another plan, or another tick."""

    def __init__(self, session: Session, bridge: Bridge, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.word = "two-stop"
        self.choice = Choice()
        self.done: dict[str, str] = {}
        self.checking = False
        """Whether this round only checks: what is out of band is noted, and set on the next."""
        self.place = 0
        """The stop that is worked at."""
        self._history: list[tuple[str, str]] = []
        self._kept: dict[str, Any] = {}
        self._rig: Rig | None = None
        self._rows: list[Row] = []
        self._source = session.state.source
        bridge.engine_changed.connect(self._on_engine)
        bridge.tried.connect(self._on_tried)

    @property
    def rig(self) -> Rig:
        """The open engine, with what is tried on it."""
        return self.session.state.rig

    @property
    def rows(self) -> list[Row]:
        """All schools on this engine, worked out once for each rig."""
        if self._rig is not self.rig:
            self._rig = self.rig
            self._rows = compare(self.rig, self.choice)
        return self._rows

    @property
    def school(self) -> School:
        """The chosen school."""
        return BY_WORD[self.word]

    @property
    def thing(self) -> str:
        """What the places of the plan are called: the sweep counts quarters."""
        return "Quarter" if self.word == "quarter-turn" else "Stop"

    @property
    def row(self) -> Row:
        """The chosen school on this engine."""
        return next(row for row in self.rows if row.school.word == self.word)

    @property
    def plan(self) -> Plan | None:
        """The plan, or None where the school does not apply."""
        return self.row.plan

    @property
    def usable(self) -> Plan | None:
        """The plan if it is safe to follow."""
        plan = self.plan
        return plan if plan is not None and plan.safe else None

    @property
    def stop(self) -> Stop | None:
        """The stop that is worked at."""
        plan = self.usable
        return plan.stops[min(self.place, len(plan.stops) - 1)] if plan else None

    @property
    def next_item(self) -> StopItem | None:
        """The item to set next at this stop."""
        stop = self.stop
        if stop is None:
            return None
        return next((item for item in stop.items if item.name not in self.done), None)

    @property
    def finished(self) -> bool:
        """Whether every item has been seen to."""
        plan = self.usable
        return plan is not None and all(
            item.name in self.done for stop in plan.stops for item in stop.items
        )

    @property
    def to_set(self) -> list[str]:
        """Items that a round of checking found out of their band, in the order of the plan."""
        plan = self.usable
        items = (item.name for stop in (plan.stops if plan else ()) for item in stop.items)
        return [name for name in items if self.done.get(name) == OFF]

    @property
    def next_place(self) -> int | None:
        """The next stop at which something is open, the ones before this last; or None."""
        stops = self.usable.stops if self.usable else ()
        open_ones = [
            place
            for place, stop in enumerate(stops)
            if any(item.name not in self.done for item in stop.items)
        ]
        later = [place for place in open_ones if place > self.place]
        return next(iter([*later, *open_ones]), None)

    def check_only(self, checking: bool) -> None:
        """Only check on this round, or set as well."""
        if checking != self.checking:
            self.checking = checking
            self.changed.emit()

    def set_those(self) -> None:
        """After a round of checking: go round what was out of its band, and set it."""
        for name in self.to_set:
            del self.done[name]
        self._history.clear()
        self.checking, self.place = False, -1
        self.place = self.next_place or 0
        self.changed.emit()

    def choose(self, word: str) -> None:
        """Take another school. What has been set stays set."""
        if word in BY_WORD and word != self.word:
            self.word, self.place = word, 0
            self._history.clear()
            self.changed.emit()

    def ask(self, choice: Choice) -> bool:
        """Ask a solved plan for other stops or another margin; whether that can be."""
        try:
            self.school.plan(self.rig, choice)
        except NotApplicableError:
            return False
        self.choice, self._rig = choice, None
        self.place = 0
        self.changed.emit()
        return True

    def tick(self, name: str, how: str = SET) -> None:
        """Note an item as set, left or skipped; again, and it is open once more."""
        if self.done.get(name) == how:
            del self.done[name]
        else:
            self.done[name] = how
            self._history.append((name, how))
        self.changed.emit()

    def see_to_next(self, how: str = SET) -> None:
        """Note the item that is due; on a round that only checks, what would be set is `OFF`."""
        item = self.next_item
        if item is not None:
            self.tick(item.name, OFF if how == SET and self.checking else how)

    def undo(self) -> bool:
        """Take the last tick back; whether there was one."""
        while self._history:
            name, how = self._history.pop()
            if self.done.get(name) == how:
                del self.done[name]
                self.changed.emit()
                return True
        return False

    def begin_again(self) -> None:
        """Nothing has been set."""
        self.done.clear()
        self._history.clear()
        self.place, self.checking = 0, False
        self.changed.emit()

    def go_to(self, place: int) -> None:
        """Work at another stop."""
        plan = self.plan
        if plan is not None and 0 <= place < len(plan.stops) and place != self.place:
            self.place = place
            self.changed.emit()

    def start_from_here(self) -> None:
        """Work first at the stop that the crank comes to next."""
        plan, here = self.usable, self.session.state.crank_deg
        if plan is not None:
            ways = [degrees_on(stop.crank_deg, here) % 719.999 for stop in plan.stops]
            self.go_to(ways.index(min(ways)))

    def not_free_now(self) -> list[str]:
        """Items of this stop that the crank, as it stands, does not leave free."""
        stop = self.stop
        if stop is None:
            return []
        names = self.rig.item_names
        margins = self.rig.item_margins_deg(np.array([self.session.state.crank_deg]))[:, 0]
        return [item.name for item in stop.items if margins[names.index(item.name)] < 0]

    # What outlasts a close ------------------------------------------------------------------

    def kept_text(self) -> str:
        """Progress on every engine, as text for the settings."""
        self._keep()
        return json.dumps(self._kept)

    def take_up(self, text: str) -> None:
        """Take up the progress that a text holds; nonsense counts as none."""
        try:
            kept = json.loads(text) if text else {}
        except ValueError:
            kept = {}
        self._kept = kept if isinstance(kept, dict) else {}
        self._recall()

    def _key(self) -> str:
        return self._source.rig or str(self._source.path or "")

    def _keep(self) -> None:
        if self._key():
            self._kept.pop(self._key(), None)
            self._kept[self._key()] = {
                "school": self.word,
                "stop": self.place,
                "done": self.done,
                "checking": self.checking,
            }
            while len(self._kept) > MOST_ENGINES:
                del self._kept[next(iter(self._kept))]

    def _recall(self) -> None:
        kept = self._kept.get(self._key(), {})
        kept = kept if isinstance(kept, dict) else {}
        word, place, done = kept.get("school"), kept.get("stop"), kept.get("done")
        self.word = word if word in BY_WORD else "two-stop"
        self.checking = kept.get("checking") is True
        names = set(self.rig.item_names)
        self.done = {}
        if isinstance(done, dict):
            self.done = {
                name: how
                for name, how in done.items()
                if name in names and how in (SET, LEFT, SKIPPED, OFF)
            }
        stops = len(self.plan.stops) if self.plan else 1
        self.place = place if isinstance(place, int) and 0 <= place < stops else 0

    def _on_engine(self) -> None:
        source = self.session.state.source
        if source != self._source:
            self._keep()
            self._source = source
            self._history.clear()
            self.choice = Choice()
            self._recall()
        self._rig = None
        self.done = {n: how for n, how in self.done.items() if n in self.rig.item_names}
        self.changed.emit()

    def _on_tried(self) -> None:
        self.changed.emit()
