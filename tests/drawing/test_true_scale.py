"""Paper measured: PDF and SVG rasterised, and their lengths read off in millimetres.

The PDF is rasterised at 600 dpi by PDFium, which has nothing to do with what wrote it.
"""

import math
from datetime import date
from pathlib import Path

import numpy as np
import pypdfium2 as pdfium
import pytest
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtSvg import QSvgRenderer

from true_compass.core.adjusting.schools import BY_WORD, Choice
from true_compass.core.paper.keyway import Keyway
from true_compass.core.paper.proof import PLAIN, Proof
from true_compass.core.paper.tape import Ring, tape_of_diameter
from true_compass.core.paper.wheel import Face, PaperWheel
from true_compass.core.state import Rig
from true_compass.drawing.documents import (
    A3,
    A4,
    LETTER,
    Document,
    DocumentError,
    Paint,
    Paper,
    page_of,
    paint_pages,
    write_document,
)
from true_compass.drawing.paper.keyway_page import keyway_document
from true_compass.drawing.paper.made import about_of, flywheel_for, sense_for, tape_for, wheel_for
from true_compass.drawing.paper.pocket_card import pocket_document
from true_compass.drawing.paper.proof_page import proof_document
from true_compass.drawing.paper.sheet import Style
from true_compass.drawing.theme import load_fonts
from true_compass.files.rigs import demo_rig, rig_names

DAY = date(2026, 11, 27)
MM = 25.4 / 600
RIM_PEN_MM = 0.25
PLAIN_STYLE = Style()
Dark = np.ndarray[tuple[int, int], np.dtype[np.bool_]]


@pytest.fixture(autouse=True)
def _fonts(qapp: object) -> None:
    load_fonts()


def close(length_mm: float) -> object:
    """Within 0.1 mm or 0.05 %, whichever is more."""
    return pytest.approx(length_mm, abs=max(0.1, 0.0005 * length_mm))


def printed(document: Document, paper: Paper, folder: Path, number: int = 0) -> Dark:
    """A page at 600 dpi: what is dark."""
    path = folder / "page.pdf"
    write_document(document, paper, path)
    page = pdfium.PdfDocument(str(path))[number]
    image = page.render(scale=600 / 72, grayscale=True).to_numpy()
    dark: Dark = image.reshape(image.shape[:2]) < 128
    return dark


def runs_mm(line: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> list[float]:
    """The middles of the dark runs along a line, mm from its start."""
    dark = np.flatnonzero(line)
    if not dark.size:
        return []
    parts = np.split(dark, np.flatnonzero(np.diff(dark) > 1) + 1)
    return [float(part.mean() + 0.5) * MM for part in parts]


def row(dark: Dark, y_mm: float) -> list[float]:
    return runs_mm(dark[round(y_mm / MM)])


def column(dark: Dark, x_mm: float) -> list[float]:
    return runs_mm(dark[:, round(x_mm / MM)])


def birch_wheel(wheel: PaperWheel, style: Style = PLAIN_STYLE, name: str = "birch") -> Document:
    rig = Rig.of(demo_rig(name))
    plan = BY_WORD["firing-order"].plan(rig, Choice())
    return wheel_for(rig, plan, wheel, style, DAY, 2.0)


def birch_tape(style: Style = PLAIN_STYLE, diameter_mm: float = 165.0) -> Document:
    rig = Rig.of(demo_rig("birch"))
    plan = BY_WORD["firing-order"].plan(rig, Choice())
    tape = tape_of_diameter(diameter_mm, 0.1, sense_for(rig))
    return tape_for(rig, plan, tape, style, DAY, 2.0)


@pytest.mark.parametrize("paper", [A4, A3, LETTER, page_of("own", 300.0, 260.0)])
@pytest.mark.parametrize("proof", [PLAIN, Proof(98.7, 101.2)])
def test_both_bars_are_100_mm_after_the_printer(paper: Paper, proof: Proof, tmp_path: Path) -> None:
    """What a printer makes of it: a length drawn on the page times what it makes of 100."""
    dark = printed(birch_wheel(PaperWheel(120.0), Style(proof)), paper, tmp_path)
    wide, long = proof.across_mm / 100, proof.along_mm / 100
    foot = paper.height_mm - (10.0 + 7.0) / long
    left, right, *_ = row(dark, foot - (11.0 - 3.2) / long)
    assert (right - left) * wide == close(100.0)
    rightmost = paper.width_mm - (10.0 + 1.0 + 3.2) / wide
    ends = [at for at in column(dark, rightmost) if at > paper.height_mm / 3]
    top, bottom = ends[-3], ends[-2]
    assert (bottom - top) * long == close(100.0)


def test_the_proof_page_is_never_corrected(tmp_path: Path) -> None:
    dark = printed(proof_document(), A4, tmp_path)
    spans = [
        found[1] - found[0]
        for y in np.arange(40.0, 100.0, 0.5)
        if len(found := row(dark, float(y))) == 2 and found[0] < 11.0
    ]
    assert any(span == close(100.0) for span in spans)


@pytest.mark.parametrize("diameter_mm", [60.0, 120.0, 180.0])
def test_the_rim_is_a_closed_circle_of_the_asked_diameter(
    diameter_mm: float, tmp_path: Path
) -> None:
    dark = printed(birch_wheel(PaperWheel(diameter_mm, 10.0)), A4, tmp_path)
    middle = (105.0, 10.0 + 2.0 + diameter_mm / 2)
    radii = []
    for turn in np.arange(0.25, 360.0, 0.5):  # between the ticks
        away = np.arange(diameter_mm / 2 - 0.6, diameter_mm / 2 + 0.6, MM / 2)
        x = middle[0] + away * math.sin(math.radians(turn))
        y = middle[1] - away * math.cos(math.radians(turn))
        hit = away[dark[(y / MM).astype(int), (x / MM).astype(int)]]
        assert hit.size, turn
        radii.append(float(hit.max()) - RIM_PEN_MM / 2)
    assert 2 * float(np.mean(radii)) == close(diameter_mm)
    assert max(abs(radius - diameter_mm / 2) for radius in radii) < 0.1


def edges_mm(dark: Dark) -> list[float]:
    """Upper edges of the strips: long lines across the page, every other one."""
    wide = dark[:, round(12 / MM) : round(90 / MM)].mean(axis=1) > 0.98
    return runs_mm(wide)


def test_the_tape_is_as_long_as_its_damper_is_round(tmp_path: Path) -> None:
    """165.0 mm and 0.1 mm of paper: 518.7 mm, 1.4408 mm a degree."""
    dark = printed(birch_tape(), A4, tmp_path)
    lines = edges_mm(dark)[:8]
    length, ticks = 0.0, []
    for top in lines[::2]:
        # Through the ticks of single degrees: the left end, 90 of them, and the lap.
        found = row(dark, top + 2.0)
        ticks.append(found)
        length += found[90] - found[0]
    assert length == close(518.7)
    steps = np.diff(ticks[1][:91])
    assert float(steps.mean()) == pytest.approx(1.4408, abs=0.001)
    # The lap of a piece and the beginning of the next have the same ticks.
    lap = np.array(ticks[0][90:97]) - ticks[0][90]
    begins = np.array(ticks[1][:7]) - ticks[1][0]
    assert lap == pytest.approx(begins, abs=0.1)


@pytest.mark.parametrize("suffix", ["svg", "png"])
def test_pictures_have_the_size_of_the_paper(suffix: str, tmp_path: Path) -> None:
    path = tmp_path / f"wheel.{suffix}"
    write_document(birch_wheel(PaperWheel(180.0)), A4, path)
    image = QImage(2100, 2970, QImage.Format.Format_RGB32)
    image.fill(0xFFFFFF)
    if suffix == "svg":
        assert b'width="210mm" height="297mm"' in path.read_bytes()
        reader = QSvgRenderer(str(path))
        p = QPainter(image)
        reader.render(p)
        p.end()
        scale = 0.1
    else:
        image = QImage(str(path))
        scale = 1000.0 / image.dotsPerMeterX()
        assert image.width() * scale == pytest.approx(210.0, abs=0.05)
    y = round(102.0 / scale)
    dark = [x for x in range(image.width()) if image.pixelColor(x, y).value() < 140]
    assert (dark[-1] - dark[0]) * scale == pytest.approx(180.0, abs=0.35)


def test_words_can_be_searched_and_the_typeface_is_inside(tmp_path: Path) -> None:
    path = tmp_path / "wheel.pdf"
    write_document(birch_wheel(PaperWheel(180.0)), A4, path)
    text = pdfium.PdfDocument(str(path))[0].get_textpage().get_text_range()
    for words in (
        "Rig Birch: wheel, 180 mm",
        "Crank clockwise, seen from the front.",
        "one degree is 1.57 mm",
        "cast mark, 2.0 late",
        "E closes 10 ATDC",
        "Sheet 1 of 1",
        "Rig Birch as set, mark",
        "2: at 120 after, 5 fires: I5 E5",
    ):
        assert words in text, words
    assert b"/FontFile2" in path.read_bytes()


def test_an_anticlockwise_engine_is_the_mirror(tmp_path: Path) -> None:
    """Its 30 after TDC stands where a clockwise engine has its 30 before."""
    rig = Rig.of(demo_rig("birch"))
    plan = BY_WORD["firing-order"].plan(rig, Choice())
    assert sense_for(rig) == 1
    assert sense_for(rig, "rear") == -1
    one = printed(birch_wheel(PaperWheel(120.0, face=Face.FULL)), A4, tmp_path)
    mirrored = next(name for name in rig_names() if sense_for(Rig.of(demo_rig(name))) < 0)
    other_rig = Rig.of(demo_rig(mirrored))
    other = wheel_for(other_rig, None, PaperWheel(120.0, face=Face.FULL), PLAIN_STYLE, DAY, 2.0)
    two = printed(other, A4, tmp_path)
    at = []
    for dark in (one, two):  # the triangle of the cast mark, 2° from zero, 3 mm inside the rim
        found = [x for x in row(dark, 10.0 + 2.0 + 4.5) if abs(x - 105.0) < 4.0]
        at.append(found)
    assert min(at[0]) - 105.0 == pytest.approx(105.0 - max(at[1]), abs=0.2)
    del plan


def test_a_large_wheel_comes_in_sheets_whose_joints_meet(tmp_path: Path) -> None:
    document = birch_wheel(PaperWheel(300.0))
    pages = document.pages(A4)
    assert len(pages) == 5
    left, right = printed(document, A4, tmp_path, 0), printed(document, A4, tmp_path, 1)
    # Down the middle of the lap both have the broken line with the same ticks.
    joint_left = 10.0 + (190.0 - 13.0) - 5.0 + 1.6
    joint_right = 10.0 + 5.0 + 1.6
    ticks = [
        [y for y in column(dark, x) if y < 250.0]
        for dark, x in ((left, joint_left), (right, joint_right))
    ]
    shared = [y for y in ticks[0] if any(abs(y - other) < 0.1 for other in ticks[1])]
    assert len(shared) >= 20


@pytest.mark.parametrize("name", rig_names())
def test_every_rig_has_its_sheets_and_no_word_runs_off_them(name: str) -> None:
    rig = Rig.of(demo_rig(name))
    plan = BY_WORD["firing-order"].plan(rig, Choice())
    strip = tape_of_diameter(300.0, 0.1, sense_for(rig, "rear"))
    documents = (
        wheel_for(rig, plan, PaperWheel(180.0), PLAIN_STYLE, DAY, -3.0),
        tape_for(rig, plan, tape_of_diameter(140.0, 0.1, sense_for(rig)), PLAIN_STYLE, DAY, 1.0),
        flywheel_for(rig, plan, strip, Ring(132), PLAIN_STYLE, DAY),
    )
    for document in documents:
        for paint in document.pages(A4):
            dark = np.argwhere(painted(paint, A4) < 200)
            assert dark[:, 0].min() > 38
            assert dark[:, 0].max() < 1273 - 38
            assert dark[:, 1].min() > 38
            assert dark[:, 1].max() < 900 - 38


SMALL = page_of("small", 140.0, 150.0)
LOW = page_of("low", 400.0, 140.0)


@pytest.mark.parametrize("paper", [SMALL, LOW, A3], ids=lambda paper: paper.word)
@pytest.mark.parametrize("name", ["birch", "elm", "aspen"])
def test_odd_papers_hold_their_sheets(paper: Paper, name: str) -> None:
    """Nothing runs into the white edge, and words keep clear of the bar across."""
    rig = Rig.of(demo_rig(name))
    plan = BY_WORD["firing-order"].plan(rig, Choice())
    documents = (
        wheel_for(rig, plan, PaperWheel(100.0), PLAIN_STYLE, DAY, 1.0),
        tape_for(rig, plan, tape_of_diameter(150.0, 0.1, sense_for(rig)), PLAIN_STYLE, DAY),
        keyway_document(about_of(rig, DAY), Keyway(), (), PLAIN_STYLE),
        pocket_document(PLAIN_STYLE),
        proof_document(),
    )
    for document in documents:
        for paint in document.pages(paper):
            grey = painted(paint, paper)
            dark = np.argwhere(grey < 200)
            edge = 9.0 / paper.width_mm * grey.shape[1]
            assert dark.min() > edge
            assert dark[:, 0].max() < grey.shape[0] - 0.4 * edge
            assert dark[:, 1].max() < grey.shape[1] - edge


def painted(paint: Paint, paper: Paper) -> np.ndarray[tuple[int, int], np.dtype[np.uint8]]:
    """A page as grey values."""
    wide, high = round(paper.width), round(paper.height)
    image = QImage(wide, high, QImage.Format.Format_Grayscale8)
    image.fill(255)
    p = QPainter(image)
    paint(p)
    p.end()
    bits = image.constBits()
    assert bits is not None
    grey = np.frombuffer(bytes(bits.asarray(image.sizeInBytes())), np.uint8)
    return grey.reshape(high, image.bytesPerLine())[:, :wide]


def test_a_square_that_no_paper_of_this_size_holds_is_refused() -> None:
    rig = Rig.of(demo_rig("birch"))
    made = keyway_document(about_of(rig, DAY), Keyway(110.0), (), PLAIN_STYLE)
    with pytest.raises(DocumentError, match="larger paper"):
        made.pages(SMALL)


@pytest.mark.parametrize(
    "mode", [QPrinter.PrinterMode.HighResolution, QPrinter.PrinterMode.ScreenResolution]
)
def test_a_printer_draws_as_the_pdf_does(mode: QPrinter.PrinterMode, tmp_path: Path) -> None:
    """Printed to a file by the system's own way: the bar is 100 mm, from the paper's corner on."""
    printer = QPrinter(mode)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "page.pdf"))
    assert paint_pages(printer, A4, birch_wheel(PaperWheel(180.0)).pages(A4))
    page = pdfium.PdfDocument(str(tmp_path / "page.pdf"))[0]
    image = page.render(scale=600 / 72, grayscale=True).to_numpy()
    dark: Dark = image.reshape(image.shape[:2]) < 128
    left, right, *_ = row(dark, 297.0 - 10.0 - 7.0 - 11.0 + 3.2)
    assert right - left == close(100.0)
    assert left == pytest.approx(10.0, abs=0.15)
