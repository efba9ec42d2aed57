"""Single figures as sheets of their own: ring, diagram of one cylinder, chart. Light theme.

The screen's own painters draw them; a sheet adds the engine's name above and a line below.
"""

import errno
import os
from collections.abc import Callable
from pathlib import Path
from typing import Final

from PyQt6.QtCore import QMarginsF, QPointF, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import QImage, QPageLayout, QPageSize, QPainter, QPdfWriter
from PyQt6.QtSvg import QSvgGenerator

from true_compass.core.cautions import ON_PAPER
from true_compass.core.state import Rig, engine_state, tried_words
from true_compass.core.valves.timing import CylinderCycle
from true_compass.drawing.chart import LiftCurves, paint_axis, paint_cursor, paint_lane
from true_compass.drawing.codes import number_disc
from true_compass.drawing.lap import Lap, plain_words
from true_compass.drawing.lens import Lens
from true_compass.drawing.ring import Card, free_arcs, paint_frame, place_of, sense_of
from true_compass.drawing.shop_card import A4, LETTER
from true_compass.drawing.stills import Stills
from true_compass.drawing.text import CENTRE, LEFT, draw_text, texts_as_outlines
from true_compass.drawing.theme import BODY, HEAD, NOTE, Theme, Weight, theme
from true_compass.files.atomic import replacing

PNG_TIMES: Final = 2.0
PNG_QUALITY: Final = 80
"""Without loss as every PNG, but squeezed less: a tenth larger, in half the time."""
WIDTH: Final = 800.0
HEAD_ROOM: Final = 84.0

PAPER_MM: Final = {A4: (210.0, 297.0), LETTER: (215.9, 279.4)}
"""Paper by the size of the card's page: ISO 216 and ANSI/ASME Y14.1 A, from memory."""
MM_PER_PIXEL: Final = 25.4 / 96

Paint = Callable[[QPainter], None]


def write_sheet(path: Path, height: float, paint: Paint) -> None:
    """Paint a sheet 800 wide into a PNG, SVG or PDF, by the suffix. Raises `OSError`."""
    write_pages(path, (WIDTH, height), [paint])


def write_pages(path: Path, size: tuple[float, float], pages: list[Paint]) -> None:
    """Paint pages into one PDF, or each into a PNG or SVG of its own (`name-2.png` …).

    Each file is written beside its goal, checked, and only then takes its place. Raises `OSError`.
    """
    suffix = path.suffix.lower()
    if suffix == ".pdf":
        with replacing(path) as part:
            _write_pdf(part, size, pages)
            _check_end(part, b"%%EOF")
        return
    names = [path, *(path.with_stem(f"{path.stem}-{n}") for n in range(2, len(pages) + 1))]
    for name, paint in zip(names, pages, strict=True):
        with replacing(name) as part:
            if suffix == ".png":
                _write_png(part, size, paint)
                _check_end(part, PNG_END)
            else:
                _write_svg(part, size, paint)
                _check_end(part, b"</svg>")


PNG_END: Final = b"IEND\xaeB`\x82"
"""How a whole PNG ends (W3C, *Portable Network Graphics*, IEND; its check sum from memory)."""


def _check_end(path: Path, end: bytes) -> None:
    """Raise unless a file is whole: Qt says that all is well on a full disk too."""
    data = path.read_bytes()
    if not data.rstrip().endswith(end):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))


def _failed(what: str) -> OSError:
    return OSError(errno.EIO, f"{what} could not be painted")


def _paper_mm(size: tuple[float, float]) -> tuple[float, float]:
    """How large a page prints; what is no paper prints at 96 pixels to the inch."""
    return PAPER_MM.get(size, (size[0] * MM_PER_PIXEL, size[1] * MM_PER_PIXEL))


def _write_png(path: Path, size: tuple[float, float], paint: Paint) -> None:
    image = QImage(
        QSize(round(size[0] * PNG_TIMES), round(size[1] * PNG_TIMES)), QImage.Format.Format_RGB32
    )
    dots_per_m = round(image.width() / _paper_mm(size)[0] * 1000)
    image.setDotsPerMeterX(dots_per_m)
    image.setDotsPerMeterY(dots_per_m)
    image.fill(Qt.GlobalColor.white)
    p = QPainter(image)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.scale(PNG_TIMES, PNG_TIMES)
    paint(p)
    p.end()
    if not image.save(str(path), "PNG", PNG_QUALITY):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))


def _write_svg(path: Path, size: tuple[float, float], paint: Paint) -> None:
    made = QSvgGenerator()
    made.setFileName(str(path))
    # 254 to the inch is 10 to the millimetre, so the paper comes out to a tenth.
    made.setResolution(254)
    made.setSize((QSizeF(*_paper_mm(size)) * 10).toSize())
    made.setViewBox(QRectF(0, 0, *size))
    made.setTitle("True Compass")
    p = QPainter()
    if not p.begin(made):
        raise _failed("the SVG")
    with texts_as_outlines():
        paint(p)
    p.end()


def _write_pdf(path: Path, size: tuple[float, float], pages: list[Paint]) -> None:
    made = QPdfWriter(str(path))
    page = QPageSize(QSizeF(*_paper_mm(size)), QPageSize.Unit.Millimeter)
    made.setPageLayout(QPageLayout(page, QPageLayout.Orientation.Portrait, QMarginsF()))
    made.setResolution(288)
    made.setTitle("True Compass")
    p = QPainter()
    if not p.begin(made):
        raise _failed("the PDF")
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.scale(made.width() / size[0], made.width() / size[0])
    for number, paint in enumerate(pages):
        if number:
            made.newPage()
        p.save()
        paint(p)
        p.restore()
    p.end()


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


def ring_sheet(rig: Rig, crank_deg: float) -> tuple[float, Paint]:
    """Height of the ring's sheet, and its painter."""
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

    return height, paint


def diagram_sheet(rig: Rig, cylinder: int, crank_deg: float) -> tuple[float, Paint]:
    """Height of the sheet of one cylinder's lap and overlap, and its painter."""
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
        lap.paint_lens_frame(p)
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

    return height, paint


def chart_sheet(rig: Rig, crank_deg: float) -> tuple[float, Paint]:
    """Height of the chart's sheet, and its painter."""
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

    return height, paint
