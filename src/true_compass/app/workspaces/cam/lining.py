"""Readings from a live line: what the dial is on, what it passes, and where that goes."""

from typing import Final

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.workspaces.cam.live import LiveLine
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.app.workspaces.cam.taking import Taking
from true_compass.core.degreeing.capture import Capture, Passed
from true_compass.core.degreeing.sheet import Part

PARTS: Final = (Part.TOP, Part.INTAKE, Part.EXHAUST)


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
        self._capture: Capture | None = None
        self._drops: tuple[float, ...] = ()
        self._crank_deg: float | None = None
        self.line.sample.connect(self._on_sample)
        self.line.shown.connect(self._on_shown)
        self.line.told_changed.connect(self.changed)
        model.changed.connect(self._on_model)
        model.desk.bridge.turned.connect(self._on_turned)

    def _on_model(self) -> None:
        if self.model.line_crank_deg is None or not self.line.is_open:
            self.changed.emit()

    # Choosing ---------------------------------------------------------------------------------

    def choose(self, part: Part) -> None:
        """Say what the dial is on: it cannot tell."""
        self.part, self.passed, self.taken, self._capture = part, (), False, None
        self.changed.emit()

    def toggle_turning(self) -> None:
        """Whether turning in the window turns the engine on the line."""
        self.turns_engine = not self.turns_engine
        self._crank_deg = self.model.desk.session.state.crank_deg
        self.changed.emit()

    def open(self, address: str) -> None:
        """Open a line, or close the open one where nothing is typed."""
        self._capture = None
        self.line.open(address)
        self.changed.emit()

    def close(self) -> None:
        """Close the line; the engine on the screen is the one that turns again."""
        self.line.close()
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

    def _on_sample(self, crank_deg: float, lift_mm: float) -> None:
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
        if self.line.is_open and self.line.crank_deg is not None:
            model.line_crank_deg = self.line.crank_deg
        else:
            model.line_crank_deg = None
        self.changed.emit()
        model.line_moved.emit()
