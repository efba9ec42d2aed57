"""What every view of Watch is given."""

from true_compass.app.bridge import Bridge
from true_compass.app.turner import Turner
from true_compass.app.widgets.look import Look
from true_compass.app.workspaces.watch.selection import Selection
from true_compass.core.crank.phasing import DueToFire, companion_of, due_to_fire
from true_compass.core.engine import Engine
from true_compass.core.items import Kind
from true_compass.core.state import tried_words
from true_compass.core.units import thou_words
from true_compass.core.valves.cam import ExtraItem, Valve
from true_compass.core.words import shown_degrees
from true_compass.drawing.chips import Chip
from true_compass.drawing.frames import CylinderFrame, cylinder_frames
from true_compass.drawing.ring import PASSING_DEG
from true_compass.drawing.stills import Stills
from true_compass.session.session import Session, SessionState


def frames_of(state: SessionState) -> list[CylinderFrame]:
    """Every column at the session's crank angle, as tried."""
    return cylinder_frames(state.shown, state.now)


class WatchContext:
    """The model and the helpers that the views of Watch share."""

    def __init__(
        self, session: Session, bridge: Bridge, turner: Turner, look: Look, selection: Selection
    ) -> None:
        self.session = session
        self.bridge = bridge
        self.turner = turner
        self.look = look
        self.selection = selection
        # The columns show the same figures and the same parts, so they share their pictures.
        self.column_stills = Stills()
        self._frames_of = session.state
        self._frames = frames_of(session.state)

    def frames(self) -> list[CylinderFrame]:
        """What every column shows now, by cylinder."""
        if self._frames_of is not self.session.state:
            self._frames_of = self.session.state
            self._frames = frames_of(self._frames_of)
        return self._frames

    def frame(self, cylinder: int) -> CylinderFrame:
        """What the column of a cylinder shows now."""
        return self.frames()[cylinder - 1]

    def chips(self) -> list[Chip]:
        """The chips of every valve, in the order of the engine's valves."""
        return [chip for frame in self.frames() for chip in frame.chips]

    def due(self) -> DueToFire:
        """The cylinder at compression TDC, or the one that comes to it next."""
        state = self.session.state
        return due_to_fire(state.engine, state.shown.true_offsets_deg, state.crank_deg)

    def headline(self) -> tuple[str, str]:
        """Headline and its second part: who is at compression TDC or comes to it, and companion."""
        state, due = self.session.state, self.due()
        numbers = " and ".join(map(str, sorted((due.cylinder, *due.together))))
        who = f"Cylinders {numbers}" if due.together else f"Cylinder {numbers}"
        if due.before_deg == 0:
            first = f"{who}: compression TDC"
        else:
            first = f"{who}: {shown_degrees(due.before_deg)}° before compression TDC"
        tried = tried_words(state.shown.what_if)
        tried = f"Trying {tried}" if tried else ""
        if tried:
            return first, tried
        if due.companion is None:
            return first, "No companion" if state.engine.cylinder_count > 1 else ""
        at_tdc = ": overlap TDC" if due.before_deg == 0 else ""
        return first, f"Companion {due.companion}{at_tdc}"

    def lash_words(self) -> list[tuple[str, str]]:
        """The lash of each kind of valve, in mm and in thou: `("I 0.25", "9.8 thou")`.

        Hydraulic tappets have none.
        """
        engine, what_if = self.session.state.engine, self.session.state.shown.what_if
        lashes = [
            (kind.letter, engine.cam.timing(kind).lash_mm + what_if.lash_mm(kind))
            for kind in Kind
            if not engine.cam.timing(kind).suction and not engine.train.hydraulic
        ]
        return [(f"{letter} {mm:.2f}", thou_words(mm)) for letter, mm in lashes]

    def in_words(self) -> str:
        """The whole of Watch as a sentence or two, for a screen reader."""
        state = self.session.state
        first, second = self.headline()
        free = ", ".join(f"{c.name} {c.figure}" for c in self.chips() if c.free)
        marks = ", ".join(
            mark.label
            for mark in state.engine.marks
            for at_deg in state.rig.mark_places_deg(mark)
            if abs((state.crank_deg - at_deg + 360.0) % 720.0 - 360.0) <= PASSING_DEG
        )
        parts = [f"{shown_degrees(state.crank_deg)} degrees", first, second, f"Free: {free}"]
        parts += [f"At the mark: {marks}"] if marks else []
        return ". ".join(part for part in parts if part) + "."


def strokes_in_words(context: WatchContext, cylinder: int) -> str:
    """One cylinder in words: stroke, valves and companion."""
    state = context.session.state
    words = [f"Cylinder {cylinder}", state.now.stroke_of(cylinder - 1).word]
    words += [chip.sentence for chip in context.frame(cylinder).chips]
    companion = companion_of(state.engine, cylinder)
    if companion is not None:
        words.append(f"companion {companion}")
    return "; ".join(words)


def names_in_full(engine: Engine, cylinder: int) -> str:
    """The codes of a cylinder's items with their full names, a line each."""
    items: tuple[Valve | ExtraItem, ...] = (*engine.valves, *engine.extra_items)
    return "\n".join(f"{i.name}: {i.full_name}" for i in items if i.cylinder == cylinder)
