"""Gaps from valve to piston as the picked way makes them, and the verdict beside them."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.cam.correcting import Correcting
from true_compass.core.degreeing.clearance import Method, least_gaps, tightest
from true_compass.core.degreeing.moving import Made
from true_compass.core.items import Kind
from true_compass.drawing.codes import paint_tick, rounded
from true_compass.drawing.gap_chart import GapChart
from true_compass.drawing.text import CENTRE, RIGHT, draw_one_of, draw_paragraph, draw_text
from true_compass.drawing.theme import BODY, LABEL, LEAD, NOTE, Weight

VERDICT: Final = 250.0
LEAST_CHART: Final = 180.0


class GapsView(Painted):
    """Gaps from valve to piston as the picked way makes them, and the verdict beside them."""

    def __init__(self, look: Look, correcting: Correcting, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = correcting
        self.setObjectName("cam_gaps")
        self.setAccessibleName("Valve to piston")
        correcting.changed.connect(self.update)

    @property
    def known(self) -> bool:
        """Whether a gap can be worked out."""
        picked = self._model.picked
        return picked is not None and picked.known

    def paint(self, p: QPainter) -> None:
        """Chart left, verdict right; without dimensions, how to measure."""
        theme, wide, high = self.look.theme, self.logical_width, self.logical_height
        picked = self._model.picked
        if picked is None:
            return
        head = QRectF(0, 0, wide - VERDICT, 26)
        title = "Before you turn: valve to piston"
        used = draw_text(p, head, title, LEAD, theme.ink, Weight.STRONG)
        unit = head.adjusted(used + 10, 0, -14, 0)
        draw_one_of(p, unit, ("mm, about overlap TDC",), NOTE, theme.ink2, align=RIGHT)
        if not picked.known:
            self._paint_methods(p)
            return
        model = self._model
        if high < LEAST_CHART:
            self._paint_short(p, picked)
            return
        box = QRectF(1, 32, wide - VERDICT - 16, high - 34)
        chart = GapChart(box, model.rig, model.model.cylinder, theme)
        chart.paint(p, model.earlier(picked.option.gives_deg), model.too_far())
        self._paint_verdict(p, picked)

    def _paint_short(self, p: QPainter, picked: Made) -> None:
        """Where the room is low: the verdict alone, in a line a valve."""
        theme = self.look.theme
        wide = self.logical_width - VERDICT - 16
        lines = [f"{one.words}, must keep {one.limit_mm:g}" for one in picked.worst]
        if picked.between_mm is not None:
            lines.append(f"Valve to valve {picked.between_mm:.2f} mm")
        for nth, line in enumerate(lines):
            top = 28 + 22 * nth
            if top + 22 <= self.logical_height:
                draw_one_of(p, QRectF(28, top, wide - 28, 22), (line,), BODY, theme.ink)
        self._paint_sign(p, QPointF(10, 38), picked.clears)

    def _paint_verdict(self, p: QPainter, picked: Made) -> None:
        theme = self.look.theme
        left = self.logical_width - VERDICT + 4
        lines = [least.words for least in picked.worst]
        if picked.between_mm is not None:
            lines.append(f"Valve to valve {picked.between_mm:.2f} mm")
        y = self._paint_mark(p, left, 34, picked.clears, f"{picked.words.capitalize()}: ", lines)
        wrong = [least for least in picked.worst if not least.clears]
        for least in wrong:
            words = f"{least.item.name} must keep {least.limit_mm:g}: do not turn it."
            y = (
                draw_paragraph(p, QRectF(left + 28, y, VERDICT - 36, 50), words, BODY, theme.ink)
                + 4
            )
        self._paint_too_far(p, left, y + 6)

    def _paint_mark(
        self, p: QPainter, left: float, top: float, clears: bool, name: str, lines: list[str]
    ) -> float:
        theme = self.look.theme
        self._paint_sign(p, QPointF(left + 10, top + 12), clears)
        words = f"{name}clears" if clears else f"{name}too near"
        short = "Clears" if clears else "Too near"
        head = QRectF(left + 28, top, VERDICT - 34, 24)
        draw_one_of(p, head, (words, short), LABEL, theme.ink, Weight.STRONG)
        for nth, line in enumerate(lines):
            row = QRectF(left + 28, top + 26 + 24 * nth, VERDICT - 34, 22)
            draw_one_of(p, row, (line,), BODY, theme.ink)
        return top + 30 + 24 * len(lines)

    def _paint_sign(self, p: QPainter, at: QPointF, clears: bool) -> None:
        """A tick, or a plate that warns."""
        theme = self.look.theme
        if clears:
            paint_tick(p, at, 16, theme.ink)
            return
        box = QRectF(at.x() - 10, at.y() - 10, 20, 20)
        rounded(p, box, 3, theme.ink, None)
        draw_text(p, box, "!", BODY, theme.on_ink, Weight.STRONG, CENTRE)

    def _paint_too_far(self, p: QPainter, left: float, top: float) -> None:
        """One tooth too far: what it would come to."""
        model, far = self._model, self._model.too_far()
        if far is None or top > self.logical_height - 130:
            return
        kind, earlier = far
        nearest = tightest(least_gaps(model.rig, model.rig.engine.chamber, earlier), kind)
        if nearest is None or nearest.clears:
            return
        way = "on" if kind is Kind.INTAKE else "back"
        gap = max(nearest.gap_mm, 0.0)
        words = f"{nearest.item.name} comes to {gap:.2f}, under {nearest.limit_mm:g}."
        y = self._paint_mark(p, left, top, False, "", [])
        theme = self.look.theme
        p.fillRect(QRectF(left + 28, top, VERDICT - 34, 24), theme.paper)
        row = QRectF(left + 28, top, VERDICT - 34, 24)
        told = (f"One tooth too far {way}", "One tooth too far")
        draw_one_of(p, row, told, LABEL, theme.ink, Weight.STRONG)
        draw_paragraph(p, QRectF(left + 28, y - 4, VERDICT - 34, 48), words, BODY, theme.ink)

    def _paint_methods(self, p: QPainter) -> None:
        """The dimensions are not known: measure, two ways."""
        theme = self.look.theme
        wide = self.logical_width - VERDICT - 20
        y = 36.0
        for method, name in ((Method.CLAY, "Clay"), (Method.SPRING, "Soft spring")):
            draw_text(p, QRectF(0, y, wide, 24), name, LABEL, theme.ink, Weight.STRONG)
            y = draw_paragraph(p, QRectF(0, y + 24, wide, 90), method.steps, BODY, theme.ink2) + 8
