"""Single figures as sheets of their own: ring, diagram of one cylinder, chart. Light theme.

The screen's own painters draw them; a sheet adds the engine's name above and a line below.
"""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from true_compass.core.cautions import ON_PAPER
from true_compass.core.state import Rig, engine_state, tried_words
from true_compass.core.valves.timing import CylinderCycle
from true_compass.drawing.chart import LiftCurves, paint_axis, paint_cursor, paint_lane
from true_compass.drawing.codes import number_disc
from true_compass.drawing.documents import Document, Paint, own_size
from true_compass.drawing.lap import Lap, plain_words
from true_compass.drawing.lens import Lens
from true_compass.drawing.ring import Card, free_arcs, paint_frame, place_of, sense_of
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, LEFT, draw_text
from true_compass.drawing.theme import BODY, HEAD, NOTE, Theme, Weight, theme

WIDTH: Final = 800.0
HEAD_ROOM: Final = 84.0


def _head(p: QPainter, rig: Rig, words: str, paper: Theme) -> None:
    engine = rig.engine
    name = QRectF(30, 16, WIDTH - 60, 36)
    tried = tried_words(rig.what_if)
    words = f"{words}, as tried: {tried}" if tried else words
    draw_text(p, name, f"{engine.name}: {words}", HEAD, paper.ink, Weight.STRONG)
    turns = f"{engine.rotation.value}, seen from the {engine.seen_from.value}"
    line = f"{engine.layout_words}, fires {engine.order_text}; {turns}"
    draw_text(p, QRectF(30, 52, WIDTH - 60, 24), line, BODY, paper.ink2)


def _foot(p: QPainter, height: float, paper: Theme, words: str = ON_PAPER) -> None:
    draw_text(p, QRectF(30, height - 34, WIDTH - 60, 22), words, NOTE, paper.ink2, align=LEFT)


def _figure(rig: Rig, word: str, height: float, paint: Paint) -> Document:
    title = f"{rig.engine.name}: {word}"
    return Document(title, word.replace(" ", "-"), lambda _: [paint], (own_size(WIDTH, height),))


def ring_sheet(rig: Rig, crank_deg: float) -> Document:
    """The ring at a crank angle."""
    height = HEAD_ROOM + 640.0 + 44.0

    def paint(p: QPainter) -> None:
        paper, sense = theme("light"), sense_of(rig.engine)
        _head(p, rig, f"at {crank_deg:g}°", paper)
        p.save()
        p.translate(WIDTH / 2, HEAD_ROOM + 320)
        p.scale(1.4, 1.4)
        paint_frame(p, free_arcs(rig), paper, sense)
        Card(paper, Stills(kept=False), sense).paint(p, rig, engine_state(rig, crank_deg))
        p.restore()
        key = "Solid arc: an exhaust valve is free below it. Hollow arc: an intake valve."
        _foot(p, height - 20, paper, key)
        _foot(p, height, paper)

    return _figure(rig, "ring", height, paint)


def diagram_sheet(rig: Rig, cylinder: int, crank_deg: float) -> Document:
    """One cylinder's lap, with its overlap large."""
    height = HEAD_ROOM + 620.0 + 250.0 + 60.0
    cycle = CylinderCycle.of(rig, cylinder)

    def paint(p: QPainter) -> None:
        paper = theme("light")
        _head(p, rig, f"cylinder {cylinder} over 720°", paper)
        lap = Lap(paper, sense_of(rig.engine))
        state = engine_state(rig, crank_deg)
        own_deg = float(state.cycle_deg[cylinder - 1])
        p.save()
        p.translate(WIDTH / 2, HEAD_ROOM + 310)
        lap.paint_frame(p)
        lap.paint_lobes(p, cycle)
        if cycle.changed:
            lap.paint_as_set(p, cycle)
        lap.paint_lens_frame(p, cycle)
        lap.paint_events(p, cycle)
        lap.paint_bead(p, cylinder, own_deg, place_of(state, cylinder - 1))
        p.restore()
        lens = Lens(QRectF(130, HEAD_ROOM + 626, WIDTH - 260, 230), cycle, paper)
        lens.paint_ground(p)
        lens.paint_curves(p)
        if cycle.changed:
            lens.paint_as_set(p)
        lens.paint_cursor(p, own_deg)
        check = rig.engine.cam.intake.check.words
        words = f"Angles at {check}: "
        words += "; ".join(
            f"{valve.name} {plain_words(valve.opens)} to {plain_words(valve.closes)}"
            for valve in cycle.times.valves
        )
        draw_text(p, QRectF(30, height - 64, WIDTH - 60, 24), words, BODY, paper.ink, align=CENTRE)
        _foot(p, height, paper)

    return _figure(rig, f"cylinder {cylinder}", height, paint)


def chart_sheet(rig: Rig, crank_deg: float) -> Document:
    """Every cylinder over the whole cycle."""
    lanes = 720.0
    height = HEAD_ROOM + 60.0 + lanes + 60.0

    def paint(p: QPainter) -> None:
        paper = theme("light")
        _head(p, rig, "the cycle", paper)
        state = engine_state(rig, crank_deg)
        left, right = 92.0, WIDTH - 30.0
        pitch = min((right - left) / rig.engine.cylinder_count, 150.0)
        for row in range(rig.engine.cylinder_count):
            middle = QPointF(left + (row + 0.5) * pitch, HEAD_ROOM + 28)
            radius = min(17.0, pitch / 2 - 3)
            number_disc(p, middle, radius, row + 1, place_of(state, row), paper, strong=False)
        p.save()
        p.translate(0, HEAD_ROOM + 60)
        paint_axis(p, 78, lanes, left + pitch * rig.engine.cylinder_count, paper)
        curves = LiftCurves.of(rig).fractions.tolist()
        for row, offset_deg in enumerate(rig.offsets_deg.tolist()):
            lane = QRectF(left + row * pitch + 3, 0, pitch - 6, lanes)
            pair = rig.engine.valves[2 * row : 2 * row + 2]
            own = {valve.kind: curves[2 * row + i] for i, valve in enumerate(pair)}
            paint_lane(p, lane, offset_deg, own, paper)
        paint_cursor(p, 84, left + pitch * rig.engine.cylinder_count, crank_deg, paper)
        p.restore()
        words = "Down the page: crank angle. Left of a lane intake lift, right of it exhaust lift."
        _foot(p, height - 20, paper, words)
        _foot(p, height, paper)

    return _figure(rig, "chart", height, paint)
