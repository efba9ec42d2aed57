"""Everything that is printed or exported: a title, a kind of paper, and pages painted in order.

One document goes the same way wherever it ends: preview, printer, PDF, PNG or SVG.
"""

import errno
import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from PyQt6.QtCore import QMarginsF, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import QImage, QPagedPaintDevice, QPageLayout, QPageSize, QPainter, QPdfWriter
from PyQt6.QtSvg import QSvgGenerator

from true_compass.drawing.text import texts_as_outlines
from true_compass.files.atomic import replacing

SUFFIXES: Final = (".pdf", ".png", ".svg")
PNG_TIMES: Final = 2.0
PNG_QUALITY: Final = 80
"""Without loss as every PNG, but squeezed less: a tenth larger, in half the time."""
MM_PER_PIXEL: Final = 25.4 / 96

Paint = Callable[[QPainter], None]


@dataclass(frozen=True, slots=True)
class Paper:
    """A kind of paper, upright: how large it is, and how many pixels a page is drawn in."""

    word: str
    width_mm: float
    height_mm: float
    width: float
    height: float

    @property
    def size_mm(self) -> QSizeF:
        """Width and height in millimetres."""
        return QSizeF(self.width_mm, self.height_mm)

    @property
    def box(self) -> QRectF:
        """The whole page, in the pixels that it is drawn in."""
        return QRectF(0, 0, self.width, self.height)

    @property
    def layout(self) -> QPageLayout:
        """The page for Qt, without margins: a sheet brings its own."""
        page = QPageSize(self.size_mm, QPageSize.Unit.Millimeter)
        layout = QPageLayout(page, QPageLayout.Orientation.Portrait, QMarginsF())
        # A printer would begin inside its own margins otherwise.
        layout.setMode(QPageLayout.Mode.FullPageMode)
        return layout


PAGE_WIDE: Final = 900.0


def page_of(word: str, width_mm: float, height_mm: float) -> Paper:
    """A kind of paper of which a page is drawn in 900 pixels across, whatever its size."""
    return Paper(word, width_mm, height_mm, PAGE_WIDE, PAGE_WIDE * height_mm / width_mm)


# ISO 216 and ANSI/ASME Y14.1 size A, from memory.
A4: Final = page_of("A4", 210.0, 297.0)
A3: Final = page_of("A3", 297.0, 420.0)
LETTER: Final = page_of("Letter", 215.9, 279.4)
PAPERS: Final = (A4, A3, LETTER)


def own_size(width: float, height: float) -> Paper:
    """Paper just as large as a figure, at 96 pixels to the inch."""
    return Paper("own size", width * MM_PER_PIXEL, height * MM_PER_PIXEL, width, height)


class DocumentError(Exception):
    """Something that is not printed, with the reason as a sentence."""


@dataclass(frozen=True, slots=True)
class Document:
    """What can be looked at, printed and saved.

    `name` is the file that is suggested, without its ending. `pages` gives the painters for a kind
    of paper, each in that paper's pixels; it raises `DocumentError` for what is not printed.
    """

    title: str
    name: str
    pages: Callable[[Paper], list[Paint]]
    papers: tuple[Paper, ...] = PAPERS
    printer: str = ""
    """The printer that it was drawn for, where its proof was measured."""


def joined(documents: Sequence[Document]) -> Document:
    """Several documents for the same paper as one, their pages in order."""
    first = documents[0]
    if len(documents) == 1:
        return first

    def pages(paper: Paper) -> list[Paint]:
        return [paint for document in documents for paint in document.pages(paper)]

    name = "-".join(document.name for document in documents)
    return Document(first.title, name, pages, first.papers, first.printer)


def write_document(document: Document, paper: Paper, path: Path) -> None:
    """Write all pages, in the format of the suffix: one PDF, or a PNG or SVG a page (`name-2.png`).

    Each file is written beside its goal, checked, and only then takes its place. Raises `OSError`,
    and `DocumentError` for what is not printed.
    """
    pages, suffix = document.pages(paper), path.suffix.lower()
    if suffix == ".pdf":
        with replacing(path) as part:
            _write_pdf(part, document.title, paper, pages)
            _check_end(part, b"%%EOF")
        return
    names = [path, *(path.with_stem(f"{path.stem}-{n}") for n in range(2, len(pages) + 1))]
    for name, paint in zip(names, pages, strict=True):
        with replacing(name) as part:
            if suffix == ".png":
                _write_png(part, paper, paint)
                _check_end(part, PNG_END)
            else:
                _write_svg(part, document.title, paper, paint)
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


def picture_of(paper: Paper, paint: Paint, times: float) -> QImage:
    """One page as a picture, `times` as large as the pixels that it is drawn in."""
    image = QImage(
        QSize(round(paper.width * times), round(paper.height * times)), QImage.Format.Format_RGB32
    )
    dots_per_m = round(image.width() / paper.width_mm * 1000)
    image.setDotsPerMeterX(dots_per_m)
    image.setDotsPerMeterY(dots_per_m)
    image.fill(Qt.GlobalColor.white)
    p = QPainter(image)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.scale(times, times)
    paint(p)
    p.end()
    return image


def _write_png(path: Path, paper: Paper, paint: Paint) -> None:
    if not picture_of(paper, paint, PNG_TIMES).save(str(path), "PNG", PNG_QUALITY):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))


def _write_svg(path: Path, title: str, paper: Paper, paint: Paint) -> None:
    made = QSvgGenerator()
    made.setFileName(str(path))
    # 254 to the inch is 10 to the millimetre, so the paper comes out to a tenth.
    made.setResolution(254)
    made.setSize((paper.size_mm * 10).toSize())
    made.setViewBox(paper.box)
    made.setTitle(title)
    p = QPainter()
    if not p.begin(made):
        raise _failed("the SVG")
    with texts_as_outlines():
        paint(p)
    p.end()


def _write_pdf(path: Path, title: str, paper: Paper, pages: list[Paint]) -> None:
    made = QPdfWriter(str(path))
    made.setResolution(288)
    made.setTitle(title)
    if not paint_pages(made, paper, pages):
        raise _failed("the PDF")


def paint_pages(device: QPagedPaintDevice, paper: Paper, pages: list[Paint]) -> bool:
    """Paint pages onto a PDF or a printer, true to size; whether it could be begun."""
    device.setPageLayout(paper.layout)
    p = QPainter()
    if not p.begin(device):
        return False
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    # By the device's own resolution: its width is rounded to whole dots, and 180 mm would show it.
    dots = device.logicalDpiX() / 25.4 * paper.width_mm / paper.width
    p.scale(dots, dots)
    for number, paint in enumerate(pages):
        if number and not device.newPage():
            p.end()
            return False
        p.save()
        paint(p)
        p.restore()
    return p.end()
