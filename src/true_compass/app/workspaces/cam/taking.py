"""Readings that are not typed: from the bench, and from a live line."""

from collections.abc import Sequence
from typing import Final

from true_compass.app.workspaces.cam.model import CamModel
from true_compass.core.degreeing.capture import Passed
from true_compass.core.degreeing.centreline import check_pair
from true_compass.core.degreeing.found import pair_of
from true_compass.core.degreeing.sheet import (
    Cell,
    NosePair,
    Part,
    Sheet,
    TopPair,
    begun,
    entered,
    pair_changed,
)
from true_compass.core.limits import EngineError

SLACK_DEG: Final = 0.2
"""A camshaft that lags by more was turned back last."""


class Taking:
    """Puts readings from elsewhere into the sheet, by the rules of those that are typed."""

    def __init__(self, model: CamModel) -> None:
        self._model = model

    @property
    def bench_wheel_deg(self) -> float | None:
        """What the wheel on the bench was read at, where that engine stands as it did then."""
        bench = self._model.desk.session.state.bench
        if bench is None or bench.run.work.engine.name != self._model.engine.name:
            return None
        for reading in bench.readings:
            if reading.action["do"] == "wheel" and bench.is_live(reading):
                return float(reading.answer["deg"])
        return None

    def take_from_bench(self) -> bool:
        """Put in what the wheel on the bench read; whether it was taken.

        There it is known whether the crank was turned back last: then a cam is not where it seems.
        """
        deg, cell = self.bench_wheel_deg, self._model.asked
        bench = self._model.desk.session.state.bench
        if deg is None or cell is None or bench is None:
            return False
        if cell.part is not Part.TOP and bench.run.state.cam_lag_deg > SLACK_DEG:
            self._model.refuse(
                "cannot be taken: the crank was turned back last, so there is slack in the cam "
                "drive. Go back well past and come up again",
            )
            return False
        after_tdc = (deg + 180.0) % 360.0 - 180.0
        figure = self._model.setup.wheel.figure_deg(after_tdc)
        far = cell.part is Part.TOP and self._model.has_far_side and (after_tdc > 0) != cell.after
        return self._model.enter(f"−{figure:g}" if far else f"{figure:g}")

    def take_pass(self, part: Part, passes: Sequence[Passed]) -> bool:
        """Put in what a line read while the crank went over a nose, or over the top.

        Only rows that are empty are filled; whether any was. What cannot be is refused.
        """
        sheet = begun(self._model.sheet, self._model.kinds)
        for one in passes:
            cells = self._empty_cells(sheet, part, one.drop_mm)
            if cells is None:
                continue
            for cell, at in zip(cells, (one.before_deg, one.after_deg), strict=True):
                after_tdc = (at + 180.0) % 360.0 - 180.0
                figure = round(self._model.setup.wheel.figure_deg(after_tdc), 2)
                far = part is Part.TOP and (after_tdc > 0) != cell.after
                sheet = entered(sheet, cell, figure, far)
            if part is not Part.TOP:
                middle = (one.before_deg + (one.after_deg - one.before_deg) % 360.0 / 2) % 360.0
                sheet = pair_changed(sheet, part.kind, cells[0].row, falls=middle < 180.0)
        if sheet == self._model.sheet:
            return False
        try:
            self._check_pass(sheet, part)
        except EngineError as error:
            self._model.refuse(str(error), error.field)
            return False
        self._model.write(sheet, f"a pass over {part.value}")
        return True

    def _empty_cells(self, sheet: Sheet, part: Part, drop_mm: float) -> tuple[Cell, Cell] | None:
        """Both cells of the first row of a drop that has neither reading, or None."""
        pairs: Sequence[TopPair | NosePair] = self._pairs(sheet, part)
        for row, pair in enumerate(pairs):
            empty = pair.before is None and pair.after is None
            if empty and not pair.void and abs(pair.drop_mm - drop_mm) < 1e-6:
                return Cell(part, row, after=False), Cell(part, row, after=True)
        return None

    def _pairs(self, sheet: Sheet, part: Part) -> tuple[TopPair, ...] | tuple[NosePair, ...]:
        """The pairs of a block."""
        if part is Part.TOP:
            return sheet.now.tops
        return sheet.now.pairs(self._model.cylinder, part.kind)

    def _check_pass(self, sheet: Sheet, part: Part) -> None:
        if part is Part.TOP:
            return
        correction = self._model.result.correction_deg
        for pair in sheet.now.pairs(self._model.cylinder, part.kind):
            told = pair_of(self._model.rig, sheet, part.kind, pair, correction)
            if told is not None and not pair.void:
                check_pair(part.kind, told, pair.falls)

    def empty_drops_mm(self, part: Part) -> tuple[float, ...]:
        """The drops of a block that are not read yet."""
        pairs: Sequence[TopPair | NosePair] = self._pairs(
            begun(self._model.sheet, self._model.kinds), part
        )
        return tuple(
            pair.drop_mm
            for pair in pairs
            if not pair.void and pair.before is None and pair.after is None
        )
