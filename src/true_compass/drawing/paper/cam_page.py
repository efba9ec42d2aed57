"""The cam card of an engine, and one cylinder's lap, for paper."""

from dataclasses import replace
from typing import Final

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor

from true_compass.book.targets import targets_of
from true_compass.core.cautions import ON_PAPER
from true_compass.core.state import Rig
from true_compass.core.units import band_words, gap_words
from true_compass.core.valves.cam import SEAT, CheckLift
from true_compass.core.valves.timing import CylinderCycle, CylinderTimes, cylinder_times
from true_compass.core.words import capital
from true_compass.drawing.book_sheets import paper_theme
from true_compass.drawing.codes import Place, flat_pen, polygon
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.lap import Lap
from true_compass.drawing.lens import Lens
from true_compass.drawing.paper.sheet import (
    HAIR,
    LINE,
    SMALL,
    About,
    Sheet,
    Style,
    paint_title,
    plain_pages,
)
from true_compass.drawing.ring import sense_of
from true_compass.drawing.sheet_text import BLACK, WHITE
from true_compass.drawing.text import CENTRE
from true_compass.drawing.theme import Theme, Weight

FIGURE: Final = 18.0
ROW: Final = 34.0
CHART_HIGH: Final = 300.0
NAME_WIDE: Final = 250.0


def cam_card_document(rig: Rig, about: About, style: Style) -> Document:
    """The card of cylinder 1's two lobes, at the seat and at the engine's own checking lift."""

    def pages(paper: Paper) -> list[Paint]:
        def draw(sheet: Sheet) -> None:
            _card(sheet, rig, about)

        return plain_pages(paper, style, about, [draw])

    return Document(f"{about.name}: cam card", "cam-card", pages)


def checks_of(rig: Rig) -> tuple[CheckLift, ...]:
    """The seat, and what the engine's own figures are at, where that is another."""
    own = rig.engine.cam.intake.check
    return (SEAT,) if own == SEAT else (SEAT, own)


def _card(sheet: Sheet, rig: Rig, about: About) -> None:
    engine = rig.engine
    y = paint_title(sheet, 0.0, f"{about.name}: cam card", sheet.wide)
    layout = engine.layout_words
    words = f"{capital(layout)}, order {about.order}. {about.turns} Cylinder 1."
    y = sheet.paragraph(0.0, y, sheet.wide, words, 17.0)
    for check in checks_of(rig):
        y = _table(sheet, y + 14, cylinder_times(rig, 1, check), check)
    y = _set_to(sheet, y + 14, rig)
    y = _chart(sheet, y + 16, rig)
    sheet.paragraph(0.0, min(y + 10, sheet.foot - 24), sheet.wide, ON_PAPER)


def _degrees(value: float | None) -> str:
    return "–" if value is None else f"{value:.1f}°"


def _table(sheet: Sheet, y: float, times: CylinderTimes, check: CheckLift) -> float:
    """Both valves beside each other, and what they do together."""
    intake, exhaust = times.valves
    words = f"At {check.words}, in crank degrees"
    sheet.say(QRectF(0, y, sheet.wide, 28), words, 20.0, Weight.STRONG)
    y += 30
    rows = [
        ("", "intake", "exhaust"),
        ("opens", intake.opens, exhaust.opens),
        ("closes", intake.closes, exhaust.closes),
        ("open for", _degrees(intake.duration_deg), _degrees(exhaust.duration_deg)),
        ("centreline", _after(intake.centreline_deg), _before(exhaust.centreline_deg)),
        ("lift at overlap TDC", _mm(intake.lift_at_overlap_mm), _mm(exhaust.lift_at_overlap_mm)),
    ]
    each = (sheet.wide - NAME_WIDE) / 2
    for name, one, other in rows:
        sheet.line(QPointF(0, y), QPointF(sheet.wide, y), HAIR)
        weight = Weight.STRONG if name else Weight.LABEL
        sheet.say(QRectF(0, y, NAME_WIDE, ROW), name, FIGURE)
        sheet.say(QRectF(NAME_WIDE, y, each - 8, ROW), one, FIGURE, weight)
        sheet.say(QRectF(NAME_WIDE + each, y, each - 8, ROW), other, FIGURE, weight)
        y += ROW
    sheet.line(QPointF(0, y), QPointF(sheet.wide, y), LINE)
    separation = times.lobe_separation_cam_deg
    apart = "–" if separation is None else f"{separation:.1f} cam°"
    line = (
        f"Overlap {_degrees(times.overlap_deg)}, lobe separation {apart}, "
        f"advance {_degrees(times.advance_deg)}"
    )
    sheet.say(QRectF(0, y + 4, sheet.wide, 28), line.replace("-", "−"), FIGURE)
    return y + 34


def _after(value: float | None) -> str:
    return "–" if value is None else f"{value:.1f}° ATDC"


def _before(value: float | None) -> str:
    return "–" if value is None else f"{value:.1f}° BTDC"


def _mm(value: float) -> str:
    return f"{value:.2f} mm ({value / 25.4:.3f} in)"


def _set_to(sheet: Sheet, y: float, rig: Rig) -> float:
    """Full lift at the valve, and the gaps as set."""
    engine, (intake, exhaust) = rig.engine, cylinder_times(rig, 1).valves
    lifts = f"Full lift: intake {_mm(intake.peak_lift_mm)}, exhaust {_mm(exhaust.peak_lift_mm)}"
    y = sheet.paragraph(0.0, y, sheet.wide, lifts, FIGURE)
    for target in targets_of(engine):
        band = target.band_mm
        what = "Preload" if target.per_turn_mm else "Gap"
        told = f"{what} {target.of}: {gap_words(target.target_mm, engine.gap_unit)}"
        if band is not None:
            told = f"{told}, good from {band_words(band, engine.gap_unit)}"
        how = "hot" if target.hot else "cold"
        y = sheet.paragraph(0.0, y, sheet.wide, f"{told}, {how}.", FIGURE)
    return y


def _chart(sheet: Sheet, y: float, rig: Rig) -> float:
    """Lift over the cycle about overlap TDC: intake a thin line, exhaust a thick one."""
    high = min(CHART_HIGH, sheet.foot - y - 90)
    if high < 90:
        return y
    cycle = CylinderCycle.of(rig, 1)
    box = QRectF(40, y, sheet.wide - 60, high)
    most = float(cycle.lift_mm.max()) * 1.08
    at = np.asarray(cycle.at_deg)
    shown = (at >= 90.0) & (at <= 630.0)
    xs = box.left() + (at[shown] - 90.0) / 540.0 * box.width()
    p = sheet.p
    for centre, words in ((180.0, "BDC"), (360.0, "overlap TDC"), (540.0, "BDC")):
        x = box.left() + (centre - 90.0) / 540.0 * box.width()
        sheet.line(QPointF(x, box.top()), QPointF(x, box.bottom()), HAIR)
        sheet.say(QRectF(x - 80, box.bottom() + 4, 160, 22), words, SMALL, Weight.BODY, CENTRE)
    step = 2.0 if most > 5 else 1.0
    for nth in range(int(most / step) + 1):
        lift = nth * step
        level = box.bottom() - lift / most * box.height()
        sheet.line(QPointF(box.left(), level), QPointF(box.right(), level), HAIR)
        sheet.say(QRectF(0, level - 10, 34, 20), f"{lift:g}", SMALL)
    p.setBrush(Qt.BrushStyle.NoBrush)
    for row, width in ((0, 1.6), (1, 3.6)):
        ys = box.bottom() - cycle.lift_mm[row][shown] / most * box.height()
        p.setPen(flat_pen(BLACK, width))
        p.drawPolyline(polygon(xs, ys))
    key = "Lift at the valve, mm. Thin line intake, thick line exhaust."
    sheet.say(QRectF(box.left(), box.bottom() + 26, box.width(), 22), key, SMALL)
    return box.bottom() + 50


# The lap ----------------------------------------------------------------------------------------


def ink_theme() -> Theme:
    """Black, white and a grey for strokes too: their textures tell them apart."""
    grey = QColor("#505050")
    return replace(
        paper_theme(),
        power=grey,
        compression=grey,
        intake=grey,
        exhaust=grey,
        power_tint=WHITE,
        compression_tint=WHITE,
        intake_tint=WHITE,
        exhaust_tint=WHITE,
        on_power=WHITE,
        on_compression=WHITE,
        on_intake=WHITE,
        on_exhaust=WHITE,
    )


def lap_document(rig: Rig, about: About, cylinder: int, style: Style) -> Document:
    """One cylinder's lap of 720° with its overlap enlarged, in black and white."""

    def pages(paper: Paper) -> list[Paint]:
        def draw(sheet: Sheet) -> None:
            _lap(sheet, rig, about, cylinder)

        return plain_pages(paper, style, about, [draw])

    return Document(f"{about.name}: lap of cylinder {cylinder}", f"lap-{cylinder}", pages)


def _lap(sheet: Sheet, rig: Rig, about: About, cylinder: int) -> None:
    y = paint_title(sheet, 0.0, f"{about.name}: cylinder {cylinder} over 720°", sheet.wide)
    check = rig.engine.cam.intake.check.words
    words = f"{about.turns} Order {about.order}. Angles at {check}, in crank degrees."
    y = sheet.paragraph(0.0, y, sheet.wide, words, 17.0)
    ink, cycle = ink_theme(), CylinderCycle.of(rig, cylinder)
    lap = Lap(ink, sense_of(rig.engine))
    p = sheet.p
    p.save()
    p.translate(sheet.wide / 2, y + 330)
    lap.paint_frame(p)
    lap.paint_lobes(p, cycle)
    lap.paint_lens_frame(p, cycle)
    lap.paint_events(p, cycle)
    lap.paint_bead(p, cylinder, 0.0, Place.COMPRESSION_TDC)
    p.restore()
    y += 650
    box = QRectF(100, y, sheet.wide - 200, min(260.0, sheet.foot - y - 60))
    if box.height() < 100:
        return
    lens = Lens(box, cycle, ink)
    lens.paint_ground(p)
    lens.paint_curves(p)
    sheet.paragraph(0.0, box.bottom() + 16, sheet.wide, ON_PAPER)
