"""What each wrong lead sparks into: the cylinder, its stroke, the open valve, what one hears."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPolygonF
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.look import Look
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.core.ignition.leads import WrongLead, crossing_pairs
from true_compass.core.ignition.stand import runs_words
from true_compass.core.items import Kind
from true_compass.core.state import engine_state
from true_compass.drawing.chips import lift_words
from true_compass.drawing.codes import flat_pen, rounded, stroke_plate
from true_compass.drawing.section import HEIGHT, Section, SectionPose, SectionScale
from true_compass.drawing.text import (
    CENTRE,
    LEFT,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_paragraph_that_fits,
    draw_text,
)
from true_compass.drawing.theme import BODY, LABEL, LEAD, NOTE, Weight

MOST: Final = 3
FLASH: Final = (
    *((0, -9), (3, -3), (9, -4), (4, 1), (7, 8)),
    *((0, 4), (-7, 8), (-4, 1), (-9, -4), (-3, -3)),
)


class SparksView(PageView):
    """Up to three wrong leads, the picked one first; with none what to keep apart."""

    def __init__(self, look: Look, model: IgnitionModel, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.setObjectName("sparks")
        self.setAccessibleName("What each one sparks into")
        model.changed.connect(self.refresh)

    def paint(self, p: QPainter) -> None:
        """A title, then a block a lead."""
        model, theme, wide = self._model, self.look.theme, self.logical_width
        draw_text(
            p, QRectF(0, 0, wide, 34), "What each one sparks into", LEAD, theme.ink, Weight.STRONG
        )
        p.setPen(flat_pen(theme.ink2, 1.6))
        p.drawLine(QPointF(0, 40), QPointF(wide, 40))
        result = model.standing.judged
        if model.unaided:
            box = QRectF(0, 52, wide, 120)
            draw_paragraph(p, box, "Shown again with the answer.", BODY, theme.ink2)
            return
        if not result.wrong:
            self._paint_right(p)
            return
        leads = sorted(result.wrong, key=lambda lead: (lead.post != model.post, lead.post))[:MOST]
        foot = 74.0
        each = min((self.logical_height - 44 - foot) / len(leads), 250.0)
        for nth, lead in enumerate(leads):
            self._paint_lead(p, QRectF(0, 44 + nth * each, wide, each), lead)
        self._paint_runs(p, QRectF(0, self.logical_height - foot, wide, foot))

    def _paint_lead(self, p: QPainter, box: QRectF, lead: WrongLead) -> None:
        theme = self.look.theme
        title = QRectF(box.left(), box.top() + 2, box.width(), 24)
        used = draw_text(
            p,
            title,
            f"The post of {lead.own} sparks {lead.lead_to}",
            LABEL,
            theme.ink,
            Weight.STRONG,
        )
        angle = f"{lead.spark.cycle_deg:.0f}° of its 720°"
        rest = title.adjusted(used + 8, 0, 0, 0)
        draw_one_of(p, rest, (angle, f"{lead.spark.cycle_deg:.0f}°"), NOTE, theme.ink2, align=RIGHT)
        scale = min((box.height() - 34) / HEIGHT, 1.05)
        self._paint_section(p, QPointF(box.left() + 52 * scale, box.top() + 30), scale, lead)
        x = box.left() + 112 * scale
        plate = QRectF(x, box.top() + 32, box.right() - x, 26)
        stroke_plate(p, plate, lead.spark.stroke, theme, alone=True)
        y = plate.bottom() + 8
        valves = list(zip(lead.spark.open_valves, lead.spark.lifts_mm, strict=True))
        across = (box.right() - x) / max(len(valves), 1)
        for nth, (name, lift) in enumerate(valves):
            self._paint_valve(p, QRectF(x + nth * across, y, across - 4, 36), name, lift)
        y += 40 if valves else 0
        words = QRectF(x, y, box.right() - x, max(box.bottom() - y - 6, 20))
        draw_paragraph_that_fits(p, words, lead.spark.heard.sentence, BODY, theme.ink)
        p.setPen(flat_pen(theme.hair, 1.4))
        p.drawLine(box.bottomLeft(), box.bottomRight())

    def _paint_valve(self, p: QPainter, box: QRectF, name: str, lift_mm: float) -> None:
        theme, is_intake = self.look.theme, name.startswith("I")
        plate = QRectF(box.left(), box.top(), 50, 34)
        rounded(p, plate, 12 if is_intake else 3, theme.sheet, flat_pen(theme.ink, 2))
        draw_text(p, plate, name, BODY, theme.ink, Weight.STRONG, CENTRE)
        words = QRectF(plate.right() + 8, box.top(), box.width() - 58, 34)
        lift = lift_words(lift_mm)
        draw_one_of(p, words, (f"open {lift}", lift, "open"), BODY, theme.ink, align=LEFT)

    def _paint_section(self, p: QPainter, at: QPointF, scale: float, lead: WrongLead) -> None:
        """The cylinder in section where the spark meets it, and the spark."""
        rig, row = self._model.rig, lead.lead_to - 1
        state = engine_state(rig, lead.spark.crank_deg)
        rows = rig.engine.valve_rows(lead.lead_to)
        lifts = [float(state.lift_mm[valve] / rig.full_lift_mm[valve]) for valve in rows]
        pose = SectionPose(
            float(state.cycle_deg[row]),
            lead.spark.stroke,
            float(state.piston_from_tdc_mm[row]),
            lifts[list(Kind).index(Kind.INTAKE)],
            lifts[list(Kind).index(Kind.EXHAUST)],
        )
        section = Section(SectionScale.of(rig.engine), self.look.theme, self.stills)
        p.save()
        p.translate(at)
        p.scale(scale, scale)
        section.paint_still(p, pose)
        section.paint(p, pose)
        p.translate(0, 46)
        p.setBrush(self.look.theme.sheet)
        p.setPen(flat_pen(self.look.theme.now, 2.4))
        p.drawPolygon(QPolygonF([QPointF(x, y) for x, y in FLASH]))
        p.restore()

    def _paint_runs(self, p: QPainter, box: QRectF) -> None:
        model, theme = self._model, self.look.theme
        standing = model.standing
        runs = runs_words(model.engine, standing.judged.sparks)
        draw_paragraph(p, box.adjusted(0, 6, 0, -24), runs, LABEL, theme.ink, Weight.STRONG)
        more = len(standing.judged.wrong) - MOST
        if more > 0:
            foot = QRectF(box.left(), box.bottom() - 22, box.width(), 20)
            draw_text(p, foot, f"{more} more: pick them in the rows", NOTE, theme.ink2)

    def _paint_right(self, p: QPainter) -> None:
        """All is right: what can still go wrong between two leads."""
        theme, wide = self.look.theme, self.logical_width
        off = self._model.standing.judged.off
        first = (
            "Every lead on its plug sparks a compressed charge."
            if not off
            else "The leads that are on are right. The others are off."
        )
        y = draw_paragraph(p, QRectF(0, 54, wide, 100), first, BODY, theme.ink) + 18
        pairs = crossing_pairs(self._model.engine)
        draw_text(p, QRectF(0, y, wide, 26), "Keep apart", LABEL, theme.ink, Weight.STRONG)
        if pairs:
            words = ", ".join(f"{one} and {other}" for one, other in pairs[:6])
            said = (
                f"{words}: neighbours that fire one after the other. Side by side, one lead can "
                "light the next cylinder while it still compresses."
            )
        else:
            said = "No two neighbours on a head fire one after the other here."
        draw_paragraph(p, QRectF(0, y + 30, wide, 200), said, BODY, theme.ink2)
        p.setPen(Qt.PenStyle.NoPen)
