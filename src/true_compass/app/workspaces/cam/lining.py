"""Readings from a live line: what the dial is on, what it passes, and where that goes."""

import random
from typing import Final

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.workspaces.cam.live import LiveLine
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.app.workspaces.cam.taking import Taking
from true_compass.core.degreeing.capture import Capture, Passed
from true_compass.core.degreeing.centreline import late_words
from true_compass.core.degreeing.curve import Station
from true_compass.core.degreeing.found import curve_for
from true_compass.core.degreeing.sheet import Part
from true_compass.core.degreeing.top import met_words
from true_compass.instrument.simulated import On, Place, SimulatedInstrument, Vices

PARTS: Final = (Part.TOP, Part.INTAKE, Part.EXHAUST)
TURN_DEG_S: Final = 30.0
"""How fast a simulated engine turns by itself."""
LATE_STEPS: Final = tuple(n / 2 for n in range(-12, 13) if abs(n) >= 3)
ZERO_STEPS: Final = tuple(n / 2 for n in range(-8, 9) if n)
PRACTICE: Final = Vices(noise_mm=0.002)
GRACE: Final = 1.05
"""How far beyond the engine's own figure a dial may go before it stands somewhere else."""


class Lining(QObject):
    """The page of the line; readings go into the sheet through the model of the page."""

    changed = pyqtSignal()

    def __init__(self, model: CamModel, parent: QObject) -> None:
        super().__init__(parent)
        self.model = model
        self.taking = Taking(model)
        self.line = LiveLine(self)
        self.part = Part.TOP
        self.passed: tuple[Passed, ...] = ()
        """The last pass that was taken or offered."""
        self.taken = False
        self.turns_engine = False
        self.wrong_place = False
        """Whether the dial shows what it cannot where it is said to be."""
        self._capture: Capture | None = None
        self._drops: tuple[float, ...] = ()
        self._crank_deg: float | None = None
        self.line.sample.connect(self._on_sample)
        self.line.shown.connect(self._on_shown)
        self.line.told_changed.connect(self.changed)
        model.changed.connect(self._on_model)
        model.desk.bridge.turned.connect(self._on_turned)

    def _on_model(self) -> None:
        simulated = self.line.simulated
        if simulated is not None and simulated.rig is not self.model.rig:
            self.close()  # it was an instrument on the engine that was open
        if self.model.line_crank_deg is None or not self.line.is_open:
            self.changed.emit()

    # Choosing ---------------------------------------------------------------------------------

    def choose(self, part: Part) -> None:
        """Say what the dial is on: it cannot tell."""
        self.part, self.passed, self.taken, self._capture = part, (), False, None
        simulated = self.line.simulated
        if simulated is not None:
            self._put_simulated(simulated.late_deg, simulated.zero_deg, simulated.crank_deg)
        self.changed.emit()

    def practise(self) -> None:
        """An instrument that is not there, on this engine with its cam and pointer somewhere else;
        what was to be found is told when it is put away."""
        self.turns_engine = False
        late_deg, zero_deg = random.choice(LATE_STEPS), random.choice(ZERO_STEPS)
        self._put_simulated(late_deg, zero_deg, self.model.desk.session.state.crank_deg)
        self.changed.emit()

    def _put_simulated(self, late_deg: float, zero_deg: float, crank_deg: float) -> None:
        """Put the simulated dial where it is said to be."""
        place = Place.TAPPET
        if self.part is Part.TOP:
            place = Place.PISTON
        elif self.model.setup.gauge.station is Station.VALVE:
            place = Place.VALVE
        kind = None if self.part is Part.TOP else self.part.kind
        self._capture = None
        self.line.practise(
            SimulatedInstrument(
                self.model.rig,
                On(place, self.model.cylinder, kind),
                PRACTICE,
                turn_deg_s=0.0 if self.turns_engine else TURN_DEG_S,
                late_deg=late_deg,
                zero_deg=zero_deg,
                crank_deg=crank_deg,
            )
        )

    def toggle_turning(self) -> None:
        """Whether turning in the window turns the engine on the line."""
        self.turns_engine = not self.turns_engine
        if self.line.simulated is not None:
            self.line.simulated.turn_deg_s = 0.0 if self.turns_engine else TURN_DEG_S
        self._crank_deg = self.model.desk.session.state.crank_deg
        self.changed.emit()

    def open(self, address: str) -> None:
        """Open a line, or close the open one where nothing is typed."""
        self._capture = None
        self.line.open(address)
        self.changed.emit()

    def close(self) -> None:
        """Close the line; the engine on the screen is the one that turns again."""
        simulated = self.line.simulated
        self.line.close()
        self.line.lost_at = ""
        if simulated is not None:
            pointer = met_words(-simulated.zero_deg)
            self.line.tell(
                f"The simulated cam stood {late_words(simulated.late_deg)}, the pointer's zero "
                f"was met {pointer}."
            )
        self.model.line_crank_deg = None
        self.model.changed.emit()

    def _on_turned(self) -> None:
        """The crank was turned in the window: so is that of the instrument, if it can."""
        at, before = self.model.desk.session.state.crank_deg, self._crank_deg
        self._crank_deg = at
        if self.turns_engine and self.line.is_open and before is not None:
            step = (at - before + 360.0) % 720.0 - 360.0
            if step:
                self.line.turn_by(step)

    # What comes -------------------------------------------------------------------------------

    @property
    def turned_back(self) -> bool:
        """Whether the crank was turned back, so that nothing counts until it has come up again."""
        return self._capture is not None and self._capture.turned_back

    @property
    def too_fast(self) -> bool:
        """Whether the last nose went by too fast to be read."""
        return self._capture is not None and self._capture.too_fast

    def impossible(self) -> str:
        """Why the dial cannot be where it is said to be, by what it shows; or nothing."""
        lift_mm = self.line.lift_mm
        if lift_mm is None:
            return ""
        words = self.model.mm_words(lift_mm)
        if self.part is Part.TOP:
            if lift_mm <= self.model.engine.stroke_mm * GRACE:
                return ""
            return f"{words} is more than the stroke: is the dial on the piston?"
        if lift_mm <= curve_for(self.model.rig, self.model.sheet, self.part.kind).peak_mm * GRACE:
            return ""
        return f"{words} is no lift of this cam: is the dial still on the piston?"

    def _on_sample(self, crank_deg: float, lift_mm: float) -> None:
        impossible = self.impossible()
        if impossible:
            if not self.wrong_place:
                self.line.tell(impossible)
            self.wrong_place, self._capture = True, None
            return
        self.wrong_place = False
        capture = self._following()
        if capture is None:
            return
        # A dial on a piston tells its fall from the top; one on a lobe its lift.
        height = -lift_mm if self.part is Part.TOP else lift_mm
        passed = capture.feed(crank_deg, height)
        if passed:
            self.passed = passed
            self.taken = self.taking.take_pass(self.part, passed)
            self._capture = None
            if not self.taken and self.model.refused:
                self.line.tell(self.model.refused)
            self.changed.emit()

    def _following(self) -> Capture | None:
        """What follows the dial over the drops that are not read yet."""
        if self.model.sheet.setup is None:
            return None
        drops = self.taking.empty_drops_mm(self.part)
        if not drops:
            self._capture = None
            return None
        if self._capture is None or drops != self._drops:
            self._drops, self._capture = drops, Capture(drops)
        return self._capture

    def _on_shown(self) -> None:
        model = self.model
        # A line that was lost leaves the wheel where it was: nobody turned anything.
        stays = self.line.is_open or self.line.lost_at
        model.line_crank_deg = self.line.crank_deg if stays else None
        self.changed.emit()
        model.line_moved.emit()
