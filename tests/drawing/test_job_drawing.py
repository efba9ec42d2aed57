"""Charts and sheets of jobs on every rig: nothing is left out, nothing lies over anything."""

import itertools
from dataclasses import replace
from pathlib import Path
from types import MappingProxyType

import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication

from tests.files.jobs import full_job
from true_compass.book.job import ItemRecord, Job, Measure
from true_compass.book.targets import targets_of
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.engine import Engine
from true_compass.drawing.documents import A4, LETTER, write_document
from true_compass.drawing.job_chart import JobChart, along_heads, rows_of
from true_compass.drawing.job_sheet import job_sheet
from true_compass.drawing.text import texts_recorded
from true_compass.drawing.theme import load_fonts, theme
from true_compass.files.rigs import demo_rig, rig_names


def job_on(rig: str) -> tuple[Engine, Job]:
    engine = demo_rig(rig)
    items = {
        one.item: ItemRecord(Measure.mm(round(one.target_mm + 0.01 * (n % 7 - 3), 2)))
        for n, one in enumerate(settings_of(engine))
        if one.target_mm > 0.05
    }
    job = full_job()
    return engine, replace(job, items=MappingProxyType(items), targets=targets_of(engine))


@pytest.mark.parametrize("rig", rig_names())
@pytest.mark.parametrize("size", [(946, 520), (520, 300)])
def test_every_item_has_a_cell_of_its_own(
    qapp: QApplication, rig: str, size: tuple[int, int]
) -> None:
    load_fonts()
    engine, job = job_on(rig)
    box = QRectF(0, 0, *size)
    chart = JobChart(engine, job, box, theme("light"))
    own = {setting.item for setting in settings_of(engine)}
    assert {cell.item for cell in chart.cells} == own
    assert len(chart.cells) == len(own)
    for cell in chart.cells:
        assert box.adjusted(-1, -1, 1, 6).contains(cell.box), cell.item
        assert chart.at(cell.plot.center()) == (cell.item, "found")
    for one, other in itertools.combinations(chart.cells, 2):
        assert not one.box.adjusted(1, 5, -1, -5).intersects(other.box.adjusted(1, 5, -1, -5))
    image = QImage(*size, QImage.Format.Format_RGB32)
    p = QPainter(image)
    with texts_recorded() as texts:
        chart.paint(p)
    p.end()
    # The row says its unit, so that a figure in thou is never read as millimetres.
    heads = [text for text in texts if text.split(",")[0] == "found"]
    assert len(heads) == len(chart.rows)


@pytest.mark.parametrize("rig", rig_names())
def test_a_cylinder_is_never_torn_apart(rig: str) -> None:
    engine = demo_rig(rig)
    for most in (4, 8, 18):
        rows = rows_of(engine, most)
        assert [i for row in rows for i in row.items] == list(along_heads(engine)) or most < 18
        for one, other in itertools.combinations(rows, 2):
            assert not {i.cylinder for i in one.items} & {i.cylinder for i in other.items}


@pytest.mark.parametrize("rig", ["birch", "cedar", "hornbeam", "acacia", "hickory", "sycamore"])
def test_sheets_hold_every_item_filled_and_to_fill_in(
    qapp: QApplication, tmp_path: Path, rig: str
) -> None:
    load_fonts()
    engine, job = job_on(rig)
    names = {item.name for item in along_heads(engine)}
    for told, paper in ((job, A4), (None, LETTER)):
        sheet = job_sheet(engine, "Rig, number 3", targets_of(engine), told, ["E1  points"])
        image = QImage(900, 1273, QImage.Format.Format_RGB32)
        shown: set[str] = set()
        for paint in sheet.pages(paper):
            p = QPainter(image)
            with texts_recorded() as texts:
                paint(p)
            p.end()
            shown |= set(texts)
        assert names <= shown
        assert ("1,840.5 h" in shown) == (told is not None)
        write_document(sheet, paper, tmp_path / f"{rig}.pdf")
