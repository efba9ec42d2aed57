"""The correction as its page sees it: the camshaft, how far it must go, the five best ways."""

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.workspaces.cam.model import CamModel
from true_compass.core.angles import Floats
from true_compass.core.degreeing.moving import (
    Made,
    Shaft,
    drive_of,
    earlier_deg,
    options_for,
    shafts_of,
    stands_later_deg,
    with_found,
    with_measured_gaps,
)
from true_compass.core.degreeing.sheet import GapRow, next_round
from true_compass.core.degreeing.steps import tooth_deg
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.units import parse_length_mm, parse_number
from true_compass.core.valves.timing_set import TimingSet

if TYPE_CHECKING:
    from true_compass.core.degreeing.sheet import Sheet

MOST_GAP_MM = 60.0


class Correcting(QObject):
    """One correction; it owns no reading."""

    changed = pyqtSignal()

    def __init__(self, model: CamModel, parent: QObject) -> None:
        super().__init__(parent)
        self.model = model
        self.which = 0
        """The camshaft that is moved, of those that serve the cylinder."""
        self.row = 0
        """The option that is looked at."""
        self.typed_deg: float | None = None
        """How far it must go where that was typed and not read."""
        self.refused = ""
        self._source = model.desk.session.state.source
        self._made: tuple[Rig, Sheet, int, float, list[Made]] | None = None
        self._rig: tuple[Rig, Sheet, Rig] | None = None
        model.changed.connect(self._on_change)

    def _on_change(self) -> None:
        # What is moved is worked out when the page is looked at, not at every reading.
        source = self.model.desk.session.state.source
        if source != self._source:
            # What was typed was meant for the engine that was open then.
            self._source, self.typed_deg, self.refused = source, None, ""
        self.which = min(self.which, len(self.shafts) - 1)
        self.row = 0
        self.changed.emit()

    # What is moved ----------------------------------------------------------------------------

    @property
    def shafts(self) -> tuple[Shaft, ...]:
        """The camshafts of the cylinder."""
        return shafts_of(self.model.engine, self.model.cylinder)

    @property
    def shaft(self) -> Shaft:
        """The camshaft that is moved."""
        return self.shafts[self.which]

    @property
    def drive(self) -> TimingSet:
        """How it can be moved."""
        return drive_of(self.model.engine, self.shaft)

    @property
    def later_deg(self) -> float:
        """How much later than set it stands, so must come earlier: as read, or as typed."""
        if self.typed_deg is not None:
            return self.typed_deg
        return stands_later_deg(self.shaft, self.model.result) or 0.0

    @property
    def is_known(self) -> bool:
        """Whether it was read or typed how far it must go."""
        return self.typed_deg is not None or (
            stands_later_deg(self.shaft, self.model.result) is not None
        )

    @property
    def waits(self) -> str:
        """Why nothing may be moved by these readings yet, or nothing; what was typed can wait for
        none."""
        waits = None if self.typed_deg is not None else self.model.result.waits
        return "" if waits is None else waits[0]

    @property
    def rig(self) -> Rig:
        """The engine with the gaps that were measured by hand."""
        rig, sheet = self.model.rig, self.model.sheet
        if self._rig is None or self._rig[0] is not rig or self._rig[1] is not sheet:
            result = self.model.result
            later = {kind: nose.later_deg for kind, nose in result.noses.items()}
            self._rig = (rig, sheet, with_measured_gaps(rig, sheet, later))
        return self._rig[2]

    @property
    def made(self) -> list[Made]:
        """The five best ways, the best first; empty where nothing can be moved."""
        rig, sheet, later = self.rig, self.model.sheet, self.later_deg
        known = self._made
        if known is None or known[:4] != (rig, sheet, self.which, later):
            made = options_for(rig, self.shaft, later)
            self._made = known = (rig, sheet, self.which, later, made)
        return known[4]

    @property
    def picked(self) -> Made | None:
        """The option that is looked at."""
        made = self.made
        return made[self.row] if made else None

    def earlier(self, option_deg: float) -> Floats:
        """How much earlier each valve comes than set, with the camshaft moved by so much."""
        return earlier_deg(self.model.engine, self.shaft, option_deg - self.later_deg)

    def too_far(self) -> tuple[Kind, Floats] | None:
        """The valve that one tooth too many would bring near, and where its lobes would stand.

        On brings the intake near, back the exhaust: on is shown where the camshaft has intakes.
        """
        drive, picked = self.drive, self.picked
        if not drive.teeth or picked is None:
            return None
        kind = Kind.INTAKE if Kind.INTAKE in self.shaft.kinds else Kind.EXHAUST
        step = tooth_deg(drive.teeth) * (1 if kind is Kind.INTAKE else -1)
        return kind, self.earlier(picked.option.gives_deg + step)

    # Choosing ---------------------------------------------------------------------------------

    def choose_shaft(self, which: int) -> None:
        """Move another camshaft."""
        self.which, self.row, self.typed_deg, self.refused = which, 0, None, ""
        self.changed.emit()

    def choose(self, row: int) -> None:
        """Look at another option."""
        if 0 <= row < len(self.made):
            self.row = row
            self.changed.emit()

    def type_need(self, text: str) -> None:
        """How far it must go, typed; nothing follows the readings again."""
        self.refused, self.row = "", 0
        try:
            value = parse_number("need", text) if text.strip() else None
            if value is not None and abs(value) > 120.0:
                raise EngineError("need", f"must be from -120 to 120 crank degrees, not {value:g}")
            self.typed_deg = value
        except EngineError as error:
            self.refused = f"Need {error}"
        self.changed.emit()

    def measured(self, kind: Kind, gap: str, angle: str) -> bool:
        """A gap by clay, or by a soft spring at an angle after TDC; whether it was taken."""
        self.refused = ""
        try:
            gap_mm = parse_length_mm("gap", gap)
            if not 0 <= gap_mm <= MOST_GAP_MM:
                raise EngineError("gap", f"must be from 0 to {MOST_GAP_MM:g} mm, not {gap_mm:g}")
            at = parse_number("angle", angle) if angle.strip() else None
            if at is not None and abs(at) > 60.0:
                raise EngineError("angle", f"must be within 60° of TDC, not {at:g}")
        except EngineError as error:
            self.refused = error.in_words
            self.changed.emit()
            return False
        sheet = self.model.sheet
        row = GapRow(self.model.cylinder, kind, at is not None, gap_mm, at)
        self.model.write(replace(sheet, gaps=(*sheet.gaps, row)), "a measured gap")
        return True

    # Acting -----------------------------------------------------------------------------------

    @property
    def may_move(self) -> bool:
        """Whether the picked way moves anything, and every gap is known and keeps its limit."""
        picked = self.picked
        can = picked is not None and picked.known and picked.clears and picked.option.moved > 0
        return can and not self.waits

    def move_it(self) -> None:
        """The step is made: a second set of readings is taken beside the first."""
        picked = self.picked
        if picked is not None and self.may_move:
            self.typed_deg = None
            told = f"{self.shaft.words[4:]}: {picked.words}"
            self.model.write(next_round(self.model.sheet, told), "a step of the cam")

    def put_into_engine(self) -> str:
        """The engine as set becomes as it was read, in one step of undo; why not, or nothing."""
        engine, waits = self.model.engine, self.model.result.waits
        if waits is not None:
            return waits[0]
        try:
            for shaft in self.shafts:
                later = stands_later_deg(shaft, self.model.result)
                if later is not None:
                    engine = with_found(engine, shaft, later)
        except EngineError as error:
            return error.in_words
        self.model.desk.session.edit(engine, words="the cam as it was read")
        return ""
