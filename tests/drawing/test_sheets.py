"""Pages that are printed: their size on paper, their margins, and that nothing is lost on them."""

import re
from pathlib import Path

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtSvg import QSvgRenderer

from true_compass.core.adjusting.schools import BY_WORD, Choice
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.adjusting.stops import Plan
from true_compass.core.adjusting.tasks import FELT_AT_LAST
from true_compass.core.state import Rig
from true_compass.core.units import torque_words
from true_compass.drawing import sheet_text, shop_card
from true_compass.drawing.documents import A4, LETTER, Paint, Paper, own_size, write_document
from true_compass.drawing.figure_sheets import chart_sheet, diagram_sheet, ring_sheet
from true_compass.drawing.shop_card import card_pages
from true_compass.drawing.shop_card import shop_card as card_of
from true_compass.drawing.text import draw_paragraph, draw_text, fitted, texts_recorded
from true_compass.drawing.theme import Weight, load_fonts
from true_compass.files.rigs import demo_rig, rig_names

# ISO 216, and ANSI/ASME Y14.1 size A: from memory.
PAPERS_MM = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
LEAST_EDGE_MM = 5.0


@pytest.fixture(autouse=True)
def _fonts(qapp: object) -> None:
    load_fonts()


def safe_plan(rig: Rig, school: str = "two-stop") -> Plan:
    plan = BY_WORD[school].plan(rig, Choice())
    return plan if plan.safe else BY_WORD["firing-order"].plan(rig, Choice())


def pages_of(name: str, paper: Paper = A4) -> list[Paint]:
    rig = Rig.of(demo_rig(name))
    return card_pages(rig, safe_plan(rig), paper)


def printed(paint: Paint, paper: Paper) -> QImage:
    image = QImage(round(paper.width), round(paper.height), QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    p = QPainter(image)
    paint(p)
    p.end()
    return image


def box_of_ink(image: QImage) -> QRectF:
    """The box about everything that is not white."""
    grey = image.convertToFormat(QImage.Format.Format_Grayscale8)
    bits = grey.constBits()
    assert bits is not None
    raw, wide = bytes(bits.asarray(grey.sizeInBytes())), grey.bytesPerLine()
    rows = [raw[y * wide : y * wide + grey.width()] for y in range(grey.height())]
    inked = [y for y, row in enumerate(rows) if min(row) < 200]
    columns = [x for x in range(grey.width()) if min(raw[x::wide]) < 200]
    return QRectF(columns[0], inked[0], columns[-1] - columns[0], inked[-1] - inked[0])


@pytest.mark.parametrize("paper", [A4, LETTER])
@pytest.mark.parametrize("name", rig_names())
def test_a_card_keeps_within_what_printers_reach(name: str, paper: Paper) -> None:
    edge = LEAST_EDGE_MM / PAPERS_MM[paper.word][0] * paper.width
    page = paper.box.adjusted(edge, edge, -edge, -edge)
    for paint in pages_of(name, paper):
        ink = box_of_ink(printed(paint, paper))
        assert page.contains(ink)
        # It fills its page: to be read from two metres, not tucked into a corner.
        assert ink.width() > 0.9 * page.width()
        assert ink.height() > 0.9 * page.height()


@pytest.mark.parametrize("name", ["birch", "hickory", "oak"])
def test_a_card_is_black_and_white(name: str) -> None:
    image = printed(pages_of(name)[0], A4)
    for x in range(0, image.width(), 7):
        for y in range(0, image.height(), 7):
            colour = QColor(image.pixel(x, y))
            assert colour.saturation() == 0


class Words:
    """Takes down every text of a page, and whether it had to be cut."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.lines: list[str] = []
        self.cut: list[str] = []

        def line(
            p: QPainter,
            box: QRectF,
            text: str,
            px: float,
            colour: QColor,
            weight: Weight = Weight.BODY,
            align: int = 0,
        ) -> float:
            self.lines.append(text)
            if text and fitted(text, px, weight, round(box.width(), 1))[0] != text:
                self.cut.append(text)
            return draw_text(p, box, text, px, colour, weight, align)

        def paragraph(p: QPainter, box: QRectF, text: str, px: float, colour: QColor) -> float:
            self.lines.append(text)
            return draw_paragraph(p, box, text, px, colour)

        monkeypatch.setattr(sheet_text, "draw_text", line)
        monkeypatch.setattr(shop_card, "draw_paragraph", paragraph)


@pytest.mark.parametrize("name", rig_names())
def test_a_card_says_all_that_is_needed_at_the_engine(
    name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    engine = demo_rig(name)
    words = Words(monkeypatch)
    for paint in pages_of(name):
        words.lines.clear()
        printed(paint, A4)
        said = "\n".join(words.lines)
        for wanted in (
            engine.name,
            engine.rotation.value.capitalize(),
            f"seen from the {engine.seen_from.value}",
            "The maker's manual and local rules come first.",
            "How to know you are there",
        ):
            assert wanted in said
        # The firing order stands in boxes of its own, cylinder by cylinder or group by group.
        digits = [line for line in words.lines if re.fullmatch(r"\d+(\+\d+)*", line)]
        order = "-".join(digits)
        assert engine.order_text.replace(" ", "") in order
    assert words.cut == []


def test_every_item_has_one_box_to_tick_with_its_margin(monkeypatch: pytest.MonkeyPatch) -> None:
    rig = Rig.of(demo_rig("cedar"))
    words, plan = Words(monkeypatch), safe_plan(Rig.of(demo_rig("cedar")), "firing-order")
    for paint in card_pages(rig, plan):
        printed(paint, A4)
    pairs = list(zip(words.lines, words.lines[1:], strict=False))
    for stop in plan.stops:
        for item in stop.items:
            assert pairs.count((item.name, f"{int(item.margin_deg)}°")) == 1


def test_gaps_that_are_not_lash_are_told_with_their_names(monkeypatch: pytest.MonkeyPatch) -> None:
    words = Words(monkeypatch)
    printed(pages_of("hickory")[0], A4)
    (line,) = [line for line in words.lines if "brake B" in line]
    assert "variable I 0.45 mm (17.7 thou)" in line
    assert "brake B 0.60 mm (23.6 thou)" in line
    assert "injector U its height" in line


@pytest.mark.parametrize("paper", [A4, LETTER])
def test_paper_has_its_size_in_every_format(paper: Paper, tmp_path: Path) -> None:
    wide_mm, high_mm = PAPERS_MM[paper.word]
    rig = Rig.of(demo_rig("birch"))
    card = card_of(rig, safe_plan(rig))
    for suffix in ("png", "svg", "pdf"):
        write_document(card, paper, tmp_path / f"card.{suffix}")
    image = QImage(str(tmp_path / "card.png"))
    assert image.width() / image.dotsPerMeterX() * 1000 == pytest.approx(wide_mm, abs=0.1)
    assert image.height() / image.dotsPerMeterY() * 1000 == pytest.approx(high_mm, abs=0.4)
    svg = (tmp_path / "card.svg").read_text(encoding="utf-8")
    told = re.search(r'width="([\d.]+)mm" height="([\d.]+)mm"', svg)
    assert told is not None
    assert [float(side) for side in told.groups()] == pytest.approx([wide_mm, high_mm], abs=0.06)
    pdf = (tmp_path / "card.pdf").read_bytes().decode("latin-1")
    told = re.search(r"/MediaBox \[0 0 (\d+\.?\d*) (\d+\.?\d*)", pdf)
    assert told is not None
    points = [float(side) for side in told.groups()]
    assert points == pytest.approx([wide_mm / 25.4 * 72, high_mm / 25.4 * 72], abs=1.0)


@pytest.mark.parametrize("name", ["birch", "hickory"])
def test_an_svg_looks_the_same_where_the_typeface_is_not(name: str, tmp_path: Path) -> None:
    rig, path = Rig.of(demo_rig(name)), tmp_path / "card.svg"
    card = card_of(rig, safe_plan(rig))
    paint = card.pages(A4)[0]
    write_document(card, A4, path)
    assert "<text" not in path.read_text(encoding="utf-8")
    reader, shown = QSvgRenderer(str(path)), QImage(900, 1273, QImage.Format.Format_RGB32)
    shown.fill(Qt.GlobalColor.white)
    p = QPainter(shown)
    reader.render(p)
    p.end()
    small = Qt.TransformationMode.SmoothTransformation
    one, other = (image.scaledToWidth(90, small) for image in (shown, printed(paint, A4)))
    apart = [
        abs(QColor(one.pixel(x, y)).lightness() - QColor(other.pixel(x, y)).lightness())
        for x in range(90)
        for y in range(one.height())
    ]
    assert sum(apart) / len(apart) < 4.0


@pytest.mark.parametrize("name", rig_names()[::3])
def test_figures_keep_within_their_sheet(name: str) -> None:
    rig = Rig.of(demo_rig(name))
    last = rig.engine.cylinder_count
    for sheet in (
        ring_sheet(rig, 100.0),
        diagram_sheet(rig, last, 350.0),
        chart_sheet(rig, 600.0),
    ):
        (paper,) = sheet.papers
        (paint,) = sheet.pages(paper)
        ink = box_of_ink(printed(paint, own_size(paper.width + 40.0, paper.height + 40.0)))
        assert ink.right() < paper.width
        assert ink.bottom() < paper.height
        assert ink.left() > 4.0
        assert ink.top() > 4.0


@pytest.mark.parametrize("suffix", ["png", "svg", "pdf"])
def test_a_place_that_cannot_be_written_is_said_so(suffix: str, tmp_path: Path) -> None:
    sheet = ring_sheet(Rig.of(demo_rig("ash")), 0.0)
    with pytest.raises(OSError, match="No such file"):
        write_document(sheet, sheet.papers[0], tmp_path / "none" / f"ring.{suffix}")


@pytest.mark.parametrize("paper", [A4, LETTER])
@pytest.mark.parametrize("name", rig_names())
def test_the_last_round_lists_every_nut_with_its_torque(name: str, paper: Paper) -> None:
    engine = demo_rig(name)
    with texts_recorded() as texts:
        printed(pages_of(name, paper)[-1], paper)
    nuts = [one for one in settings_of(engine) if one.nut_in_last_round]
    for one in nuts:
        assert one.name in texts
        told = torque_words(one.tools.torque_nm) if one.tools.torque_nm else "the maker's torque"
        assert any(text.startswith(f"Last round: {told}") for text in texts)
    assert nuts or not any(text.startswith("Last round") for text in texts)


def test_a_sweep_ends_without_looking_for_zero_again() -> None:
    rig = Rig.of(demo_rig("cedar"))
    plan = BY_WORD["quarter-turn"].plan(rig, Choice())
    with texts_recorded() as texts:
        printed(card_pages(rig, plan)[0], A4)
    words = " ".join(texts)
    for part in ("Do not look for zero again", "A full tappet holds its valve open", FELT_AT_LAST):
        assert part in words
    assert "Adjust a valve only while" not in words
