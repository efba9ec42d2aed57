"""The result of the readings: one sentence, then the noses with their chords and middles."""

from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.core.degreeing.found import card_of, curve_for, found, headlines, second_lines
from true_compass.core.degreeing.sheet import Part
from true_compass.core.items import Kind
from true_compass.drawing.nose_chart import Middles, NoseChart
from true_compass.drawing.text import draw_one_of
from true_compass.drawing.theme import BODY, HEAD, Weight

GAP: Final = 16.0
HEAD_HIGH: Final = 70.0


class HeadView(Painted):
    """The result in one sentence, and one line of why."""

    def __init__(self, look: Look, model: CamModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("cam_head")
        self.setAccessibleName("Result")
        model.changed.connect(self.update)

    def paint(self, p: QPainter) -> None:
        """Two lines."""
        theme, wide, model = self.look.theme, self.logical_width, self._model
        told = headlines(model.rig, model.result)
        draw_one_of(p, QRectF(0, 0, wide, 36), told, HEAD, theme.ink, Weight.STRONG)
        why = second_lines(model.result)
        draw_one_of(p, QRectF(0, 38, wide, 24), why, BODY, theme.ink2)


class NosesView(Painted):
    """Each nose's last half millimetre, and its middles enlarged: exhaust left, as it comes first.

    Time runs to the right, so an exhaust nose stands left of the intake's.
    """

    def __init__(self, look: Look, model: CamModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("cam_noses")
        self.setAccessibleName("Noses and their middles")
        model.changed.connect(self.update)

    def paint(self, p: QPainter) -> None:
        """A column a nose; where the room is low the middles alone."""
        model = self._model
        kinds = [kind for kind in (Kind.EXHAUST, Kind.INTAKE) if kind in model.kinds]
        if not kinds:
            return
        each = (self.logical_width - GAP * (len(kinds) - 1)) / len(kinds)
        for nth, kind in enumerate(kinds):
            box = QRectF(nth * (each + GAP), 0, each, self.logical_height)
            # A reading of one lobe leaves the other's column as it is.
            self.stills.draw(
                p, self._looks(kind), box, partial(self._paint_column, box, kind), self.ground()
            )

    def _looks(self, kind: Kind) -> tuple[object, ...]:
        """Everything that the column of a lobe depends on."""
        model = self._model
        sheet, cell = model.sheet, model.asked
        own = cell if cell is not None and cell.part is Part.of(kind) else None
        rounds = tuple(one.pairs(model.cylinder, kind) for one in sheet.rounds)
        correction = model.result.correction_deg
        return (kind, model.rig, model.cylinder, sheet.setup, rounds, own, correction)

    def _paint_column(self, box: QRectF, kind: Kind, p: QPainter) -> None:
        left, each, high = box.left(), box.width(), box.height()
        if high < 300:
            middles = QRectF(left + 1, 1, each - 2, high - 2)
        else:
            top = (high - GAP) * 0.49
            self._paint_nose(p, QRectF(left + 1, 1, each - 2, top - 2), kind)
            middles = QRectF(left + 1, top + GAP, each - 2, high - top - GAP - 2)
        self._middles(middles, kind).paint(p, self._model.result.noses.get(kind))

    def _middles(self, box: QRectF, kind: Kind) -> Middles:
        rig, sheet = self._model.rig, self._model.sheet
        before = None
        if len(sheet.rounds) > 1:
            before = found(rig, sheet, sheet.rounds[-2]).noses.get(kind)
        return Middles(box, kind, card_of(rig, sheet, kind)[1], self.look.theme, before)

    def _paint_nose(self, p: QPainter, box: QRectF, kind: Kind) -> None:
        model = self._model
        sign = 1.0 if kind is Kind.INTAKE else -1.0
        curve = curve_for(model.rig, model.sheet, kind)
        told = model.result.noses.get(kind)
        card = card_of(model.rig, model.sheet, kind)[1]
        pairs = model.sheet.now.pairs(model.cylinder, kind)
        deepest = max((pair.drop_mm for pair in pairs if not pair.void), default=0.4)
        depth = max(0.5, deepest * 1.2)
        chart = NoseChart(
            box, curve, model.item(kind).name, sign * card, self.look.theme, round(depth, 2)
        )
        stands = None if told is None else sign * told.nose.middle_deg
        chart.paint(p, stands)
        if told is not None:
            for pair, used in zip(told.nose.pairs, told.nose.used, strict=True):
                chart.paint_pair(p, pair, used=used)
        self._paint_asked(p, chart, kind, sign * card if stands is None else stands)

    def _paint_asked(self, p: QPainter, chart: NoseChart, kind: Kind, stands: float) -> None:
        cell, pair = self._model.asked, self._model.asked_pair
        if cell is None or pair is None or cell.part is not Part.of(kind):
            return
        chart.paint_asked(p, pair.drop_mm, cell.after, stands)
