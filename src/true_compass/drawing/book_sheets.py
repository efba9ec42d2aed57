"""A history and a plan for shims on paper: the charts of the screen in black and white."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QPainter

from true_compass.book.brackets import Bracket
from true_compass.book.meaning import Reason
from true_compass.book.pointing import Bound
from true_compass.core.adjusting.shims import ShimPlan, walk
from true_compass.core.items import Item
from true_compass.drawing.codes import flat_pen, paint_tick
from true_compass.drawing.documents import Document, Paint, Paper
from true_compass.drawing.history_chart import HistoryChart, Past, paint_changes
from true_compass.drawing.job_chart import Row
from true_compass.drawing.sheet_text import BLACK, WHITE
from true_compass.drawing.shim_chart import ShimChart
from true_compass.drawing.shop_card import MARGIN
from true_compass.drawing.text import draw_paragraph, draw_text
from true_compass.drawing.theme import Theme, Weight, theme

GREY: Final = QColor("#E8E8E8")
MIDDLE: Final = QColor("#6A6A6A")


def paper_theme() -> Theme:
    """The light theme in black, white and two greys."""
    return replace(
        theme("light"),
        ink=BLACK,
        ink2=QColor("#333333"),
        ink3=MIDDLE,
        on_ink=WHITE,
        sheet=WHITE,
        paper=WHITE,
        well=GREY,
        line=MIDDLE,
        hair=QColor("#C8C8C8"),
        now=BLACK,
        now_tint=WHITE,
    )


def _head(p: QPainter, paper: Paper, title: str, head: str, line: str) -> float:
    wide = paper.width - 2 * MARGIN
    draw_text(p, QRectF(MARGIN, 36, wide, 28), title, 20, BLACK, Weight.LABEL)
    y = draw_paragraph(p, QRectF(MARGIN, 70, wide, 80), head, 28, BLACK) + 4
    return draw_paragraph(p, QRectF(MARGIN, y, wide, 60), line, 18, BLACK) + 14


def _foot(p: QPainter, paper: Paper, words: str) -> None:
    y = paper.height - 52
    p.setPen(flat_pen(BLACK, 1.6))
    p.fillRect(QRectF(MARGIN, y, paper.width - 2 * MARGIN, 1.6), BLACK)
    draw_text(p, QRectF(MARGIN, y + 8, paper.width - 2 * MARGIN, 24), words, 14, BLACK)


def history_sheet(
    title: str,
    sentences: tuple[str, str],
    past: Past,
    changes: Mapping[Item, Bracket],
    bound: Bound | None,
    reasons: Sequence[Reason],
) -> Document:
    """One item's history on one page; `sentences` are its headline and when it is due."""

    def pages(paper: Paper) -> list[Paint]:
        def paint(p: QPainter) -> None:
            wide, look = paper.width - 2 * MARGIN, paper_theme()
            y = _head(p, paper, title, *sentences)
            HistoryChart(past, QRectF(MARGIN, y, wide, 430), look).paint(p)
            y += 450
            box = QRectF(MARGIN, y, wide * 0.55, 280)
            paint_changes(p, box, changes, past.item, bound, look)
            x = box.right() + 24
            for reason in reasons:
                if reason.holds:
                    paint_tick(p, QRectF(x, y, 24, 32).center(), 16, BLACK)
                weight = Weight.STRONG if reason.holds else Weight.BODY
                row = QRectF(x + 32, y, paper.width - MARGIN - x - 32, 32)
                draw_text(p, row, reason.words, 16, BLACK, weight)
                y += 40
            _foot(p, paper, 'Hollow as found, solid as left. "Points to", never "is".')

        return [paint]

    return Document(f"{title}: {past.item.name}", f"history-{past.item.name}", pages)


def shim_sheet(
    title: str,
    sentences: tuple[str, str],
    rows: Sequence[Row],
    gaps: Sequence[float | None],
    sizes: Sequence[float | None],
    plan: ShimPlan,
) -> Document:
    """A plan for shims on one page, and the list to walk along the head with."""

    def pages(paper: Paper) -> list[Paint]:
        def paint(p: QPainter) -> None:
            wide = paper.width - 2 * MARGIN
            y = _head(p, paper, title, *sentences)
            high = min(440.0 if len(rows) == 1 else 215.0 * len(rows), paper.height - y - 320)
            box = QRectF(MARGIN, y, wide, high)
            ShimChart(rows, gaps, sizes, plan, box, paper_theme()).paint(p)
            y = box.bottom() + 20
            bought = ", ".join(f"{size:.2f}" for size in plan.bought_mm)
            for line in (*walk(plan), f"Buy: {bought} mm." if bought else "Nothing to buy."):
                tick = QRectF(MARGIN, y + 3, 20, 20)
                p.setPen(flat_pen(BLACK, 1.8))
                p.drawRect(tick)
                y = draw_paragraph(p, QRectF(MARGIN + 32, y, wide - 32, 80), line, 17, BLACK) + 8
            rule = "New shim = old + gap − target. Measure all again after two turns by hand."
            _foot(p, paper, rule)

        return [paint]

    return Document(f"{title}: shims", "shims", pages)
