"""The page of the ignition as its views see it: the bay, and everything that follows from it.

It owns no fact: every change goes through the session, which keeps it and can undo it. What is
dragged follows the hand without a step of undo; the release is one step.
"""

from dataclasses import replace
from typing import TypedDict, Unpack

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.desk import Desk
from true_compass.core.engine import Engine
from true_compass.core.ignition.bay import Bay, Standing, Step, engine_here
from true_compass.core.ignition.lamp import Faults, Reading, Suspect
from true_compass.core.ignition.leads import Wiring, WrongLead, exchanged, order_from
from true_compass.core.ignition.spin import Seen
from true_compass.core.ignition.stand import Fitted
from true_compass.core.rotation import Rotation
from true_compass.core.state import Rig


class Changes(TypedDict, total=False):
    """What of a bay is to be another."""

    fitted: Fitted | None
    wired: Wiring
    faults: Faults
    hidden: bool
    seen_turns: Rotation | None
    done: tuple[Step, ...]
    readings: tuple[Reading, ...]
    seen: tuple[Seen, ...]


class IgnitionModel(QObject):
    """The ignition of the open engine."""

    changed = pyqtSignal()
    dragged = pyqtSignal()
    """Only what a hand moves has changed."""

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self.desk = desk
        self._keeper = desk.ignition()
        self._known: tuple[Rig, Bay, Standing] | None = None
        self._began: Bay | None = None
        self._here: tuple[Rig, Rotation | None, Rig] | None = None
        self.post = 1
        """The post that is picked."""
        self.answer_hidden = False
        """Whether the leads are wired unaided, without ticks and words."""
        desk.bridge.ignition_changed.connect(self._on_change)
        desk.bridge.engine_changed.connect(self._on_engine)

    def _on_change(self) -> None:
        if self._began is not None:
            self.dragged.emit()
        else:
            self.changed.emit()

    def _on_engine(self) -> None:
        self._began, self.post = None, 1
        self.changed.emit()

    # What is open -----------------------------------------------------------------------------

    @property
    def bay(self) -> Bay:
        """The ignition as it stands."""
        return self._keeper.attach()

    @property
    def rig(self) -> Rig:
        """The engine as set, with the rotor's direction as it was seen here."""
        rig, turns = self.desk.session.state.rig, self.bay.seen_turns
        if turns is None or rig.engine.rotor.turns is not None:
            return rig
        if self._here is None or self._here[0] is not rig or self._here[1] is not turns:
            self._here = (rig, turns, Rig.of(engine_here(rig.engine, self.bay)))
        return self._here[2]

    @property
    def engine(self) -> Engine:
        """The engine that is open."""
        return self.rig.engine

    @property
    def standing(self) -> Standing:
        """Everything that follows from engine and bay; worked out once for each."""
        rig, bay = self.rig, self.bay
        if self._known is None or self._known[0] is not rig or self._known[1] is not bay:
            self._known = (rig, bay, Standing.of(rig, bay))
        return self._known[2]

    @property
    def told(self) -> Standing:
        """What the pages may tell of: the standing itself, or what it should be while it hides."""
        return self.standing.as_it_should_be() if self.standing.hides else self.standing

    @property
    def unaided(self) -> bool:
        """Whether the leads are shown without ticks and words."""
        return self.answer_hidden or self.standing.hides

    @property
    def direction_known(self) -> bool:
        """Whether somebody has seen the rotor turn."""
        return self.engine.rotor.turns is not None

    @property
    def order(self) -> tuple[int, ...]:
        """The cylinder that each post is for."""
        return order_from(self.engine, self.standing.fitted.post_1)

    # Changes ----------------------------------------------------------------------------------

    def write(self, words: str, **changes: Unpack[Changes]) -> None:
        """Put another state of the bay, as one step of undo."""
        began, self._began = self._began, None
        bay = replace(self.bay, **changes)
        session = self.desk.session
        same = bay == session.state.ignition
        session.write_ignition(bay, words, before=began)
        if same:
            self.changed.emit()

    def drag(self, **changes: Unpack[Changes]) -> None:
        """Put what a hand moves; not undone until it lets go."""
        if self._began is None:
            self._began = self.bay
        bay = replace(self.bay, **changes)
        self.desk.session.put_ignition(bay, in_hand=True)

    def let_go(self, words: str) -> None:
        """The hand has let go: one step of undo."""
        if self._began is not None:
            self.write(words)

    def begin_anew(self, bay: Bay, words: str) -> None:
        """Put a whole other bay."""
        self._began = None
        self.desk.session.write_ignition(bay, words)

    def repair(self, suspect: Suspect) -> None:
        """Put right what was found wrong. Readings of before say nothing of it any more."""
        faults, fitted = self.bay.faults, self.standing.fitted
        if suspect is Suspect.SETTING:
            wanted = self.standing.wanted_deg
            self.write(
                "setting the body", fitted=fitted.at_advance(self.engine, wanted), readings=()
            )
            return
        mended = {
            Suspect.WEIGHTS: replace(faults, weights_stuck=False),
            Suspect.CAN: replace(faults, can_leaks=False),
            Suspect.HOSE: replace(faults, hose_off=False),
            Suspect.DAMPER: replace(faults, crept_deg=0.0),
        }[suspect]
        self.write(f"mending: {suspect.value.lower()}", faults=mended, readings=())

    # Leads ------------------------------------------------------------------------------------

    def pick(self, post: int) -> None:
        """Pick a post; a wrong lead brings the crank to its spark."""
        count = self.engine.cylinder_count
        self.post = (post - 1) % count + 1
        wrong = self.wrong_at(self.post)
        if wrong is not None and not self.unaided:
            self.desk.turner.jump_to(wrong.spark.crank_deg)
        self.changed.emit()

    def wrong_at(self, post: int) -> WrongLead | None:
        """The wrong lead of a post, if it is."""
        return next((lead for lead in self.standing.judged.wrong if lead.post == post), None)

    def put_lead(self, post: int, cylinder: int) -> None:
        """Put a post's lead on a plug; two that are concerned change places."""
        wired = exchanged(self.standing.wired, post, cylinder)
        self.post = post
        self.write(f"lead to {cylinder}", wired=wired)

    def next_move(self) -> tuple[int, int] | None:
        """The post and the cylinder of the lead to move next: the picked one, else the first."""
        result = self.standing.judged
        lead = self.wrong_at(self.post) or next(iter(result.wrong), None)
        if lead is not None:
            return lead.post, lead.own
        if result.off:
            post = self.post if self.post in result.off else result.off[0]
            return post, self.order[post - 1]
        return None

    def move_next(self) -> None:
        """Move the lead that is next."""
        move = self.next_move()
        if move is not None:
            self.put_lead(*move)

    def take_all_off(self) -> None:
        """No lead is on any plug."""
        self.write("taking all leads off", wired=(0,) * self.engine.cylinder_count)

    def wire_all(self) -> None:
        """Every lead as it should be."""
        self.write("wiring all leads", wired=self.order)
