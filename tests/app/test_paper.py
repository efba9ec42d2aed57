"""Paper in the real window: typed, proved, looked at, saved and printed."""

from pathlib import Path

import pypdfium2 as pdfium
import pytest
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QLineEdit

from tests.app.test_cam import Reader, begun
from tests.conftest import Answers, MakeWindow
from tests.qtest import QTest
from true_compass.app.paper.preview import Preview
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.cam.papering import Group, Papering, Round
from true_compass.app.workspaces.cam.workspace import PAPER, CamWorkspace
from true_compass.core.paper.wheel import Face
from true_compass.drawing.text import texts_recorded

Key = Qt.Key


def paper_of(window: MainWindow) -> CamWorkspace:
    window.go_to("Cam", PAPER)
    assert isinstance(window.workspace, CamWorkspace)
    return window.workspace


def type_into(page: CamWorkspace, name: str, text: str) -> QLineEdit:
    field = page.paper_view.form.fields[name]
    assert field.isVisible()
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    return field


def written(page: CamWorkspace) -> str:
    """What is written on the whole page, form and all."""
    with texts_recorded() as words:
        page.grab()
    return " ".join(words)


def text_of(path: Path) -> str:
    document = pdfium.PdfDocument(str(path))
    return "\n".join(page.get_textpage().get_text_range() for page in document)


def test_a_wheel_and_a_tape_from_the_keyboard_to_the_pdf(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    answers.printers = ["Office", "Workshop"]
    window = open_window("birch")
    page = paper_of(window)
    form, model = page.paper_view.form, page.papering
    QTest.mouseClick(form.printer, Qt.MouseButton.LeftButton)
    type_into(page, "diameter", "160")
    type_into(page, "damper", "165.0")
    type_into(page, "late", "2")
    field = type_into(page, "across", "99,2")
    assert field.hasFocus()
    assert model.headline == "One degree: 1.40 mm on the wheel, 1.441 mm on the damper"
    assert "Drawn 1.0081 times as wide, 1.0000 as long." in written(page)
    answers.path = tmp_path / "sheets.pdf"
    QTest.mouseClick(form.save, Qt.MouseButton.LeftButton)
    text = text_of(answers.path)
    for words in ("wheel, 160 mm", "518.7 mm round", "cast mark, 2.0 late", "Drawn 1.0081 times"):
        assert words in text
    # The proof itself is never corrected, or a second measure would take the first one back.
    QTest.mouseClick(form.proof, Qt.MouseButton.LeftButton)
    preview = window.findChild(Preview)
    assert preview is not None
    answers.path = tmp_path / "proof.pdf"
    preview.save_button.click()
    assert "Drawn" not in text_of(answers.path)
    assert "100 mm across" in text_of(answers.path)


def test_each_printer_keeps_its_proof(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    answers.printers = ["Office", "Workshop"]
    window = open_window("birch")
    page = paper_of(window)
    form, model = page.paper_view.form, page.papering
    form.printer.click()
    type_into(page, "across", "98.7")
    form.printer.click()
    assert (model.printer_name, model.texts["across"]) == ("Workshop", "100")
    assert model.sizes.proof.is_plain
    type_into(page, "along", "100.4")
    form.printer.click()
    assert (model.printer_name, model.texts["across"]) == ("Office", "98.7")
    assert model.sizes.proof.factors[0] == pytest.approx(1.0132, abs=0.00005)
    type_into(page, "diameter", "150")
    window.close()
    again = paper_of(open_window("birch"))
    assert (again.papering.printer_name, again.papering.texts["across"]) == ("Office", "98.7")
    assert again.papering.texts["diameter"] == "150"


def test_fit_to_page_is_told_first(open_window: MakeWindow) -> None:
    page = paper_of(open_window("birch"))
    type_into(page, "across", "97.0")
    words = page.paper_view.form.text_twin()
    assert words.index("Fit to page") < words.index("1.0309")


@pytest.mark.parametrize(
    ("group", "name", "text", "way_out"),
    [
        (Group.WHEEL, "diameter", "0", "from 50 to 1500 mm, not 0"),
        (Group.WHEEL, "diameter", "7", "is that inches? Write 7 in"),
        (Group.WHEEL, "diameter", "", "a length such as"),
        (Group.WHEEL, "hole", "170", "from 0 to 144 mm"),
        (Group.WHEEL, "damper", "6.5", "is that inches? Write 6.5 in"),
        (Group.WHEEL, "late", "90", "up to 45° out"),
        (Group.WHEEL, "across", "85", "from 90 to 110 mm"),
        (Group.FLYWHEEL, "teeth", "0x", "a whole number"),
        (Group.KEYWAY, "key", "40", "from 1 to 12.5 mm wide"),
        (Group.BLADES, "blades", "0.05 9", "from 0.02 to 3 mm thick"),
    ],
)
def test_a_wrong_size_is_told_and_the_last_good_sheet_stays(
    open_window: MakeWindow, group: Group, name: str, text: str, way_out: str
) -> None:
    page = paper_of(open_window("birch"))
    model = page.papering
    model.choose(group=group)
    before = model.sizes
    field = page.paper_view.form.fields[name]
    # All at once, as it is pasted: on the way there every figure may be a good one.
    model.type(name, text)
    assert field.text() == text
    assert model.sizes == before
    assert way_out in written(page)
    assert "border: 3.0px" in field.styleSheet()
    assert not page.paper_view.form.save.isEnabled()


def test_a_wheel_for_too_many_sheets_is_told(open_window: MakeWindow) -> None:
    page = paper_of(open_window("birch"))
    type_into(page, "diameter", "1400")
    assert "54 sheets of this paper" in written(page)
    page.papering.choose(paper="Own")
    type_into(page, "own", "841 x 1189")
    assert page.papering.paper.width_mm == 841.0
    assert "sheets of this paper" not in written(page)
    type_into(page, "own", "50 x 60")
    assert "from 140 to 1200 mm" in written(page)


def test_the_cast_mark_comes_from_the_readings(open_window: MakeWindow) -> None:
    window = open_window("birch")
    window.go_to("Cam")
    assert isinstance(window.workspace, CamWorkspace)
    page = begun(window.workspace)
    Reader(page, 0.0, 2.0).read_all()
    page = paper_of(window)
    QTest.mouseClick(page.paper_view.form.late, Qt.MouseButton.LeftButton)
    assert float(page.papering.texts["late"]) == pytest.approx(page.papering.sizes.late_deg)
    # The pointer read 2° high, so its zero came 2° before TDC: early, minus.
    assert page.papering.sizes.late_deg == pytest.approx(-2.0, abs=0.3)


def test_strip_string_and_diameter_give_one_tape(open_window: MakeWindow) -> None:
    page = paper_of(open_window("birch"))
    form, model = page.paper_view.form, page.papering
    lengths = []
    for known, name, text in (
        (Round.ACROSS, "damper", "165"),
        (Round.STRIP, "strip", "518.68"),
        (Round.STRING, "string", "521.5"),
    ):
        form.rounds[list(Round).index(known)].click()
        type_into(page, name, text)
        assert model.sizes.tape is not None
        lengths.append(model.sizes.tape.length_mm)
    assert lengths == pytest.approx([518.68] * 3, abs=0.02)


def test_a_printer_that_fails_or_is_another_one_is_told(
    open_window: MakeWindow, answers: Answers, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    answers.printers = ["Office"]
    window = open_window("birch")
    page = paper_of(window)
    page.paper_view.form.printer.click()
    page.paper_view.form.look_at.click()
    preview = window.findChild(Preview)
    assert preview is not None
    assert not preview.papers[0].isVisible()
    assert len(preview._pages) == 2
    answers.printed = tmp_path / "printed.pdf"
    preview.print_button.click()
    assert "Sent to" in window.note.text
    assert len(pdfium.PdfDocument(str(answers.printed))) == 2
    monkeypatch.setattr("true_compass.drawing.documents.paint_pages", lambda *_: False)
    preview.print_button.click()
    assert "did not take it" in window.note.text


def test_cards_open_and_a_cap_nobody_saw_turning_is_refused(open_window: MakeWindow) -> None:
    window = open_window("cedar")
    page = paper_of(window)
    page.papering.choose(group=Group.CARDS)
    page.papering.choose(paper="A3")
    assert [paper.word for paper in page.papering.card("lap").papers] == ["A3"]
    page.papering.choose(paper="Own")
    assert "A4" in [paper.word for paper in page.papering.card("lap").papers]
    for key in page.paper_view.form.cards:
        key.click()
        preview = window.findChild(Preview)
        assert preview is not None
        assert preview.isVisible()
        QTest.keyClick(preview, Key.Key_Escape)
    window.opener.open_rig("alder")
    page.paper_view.form.cards[2].click()
    assert not preview.isVisible()
    assert "assumed, not seen" in window.note.text or "no distributor" in window.note.text


@pytest.mark.parametrize("size", [(1280, 800), (1024, 768), (1600, 1000)])
@pytest.mark.parametrize("percent", [100, 150])
def test_nothing_lies_over_anything_else(
    open_window: MakeWindow, size: tuple[int, int], percent: int
) -> None:
    window = open_window("birch")
    window.look.set_text_percent(percent)
    window.resize(QSize(*size))
    page = paper_of(window)
    model: Papering = page.papering
    for group in Group:
        model.choose(group=group, paper="Own")
        form = page.paper_view.form
        shown = [
            child
            for child in (
                *form.groups,
                *form.faces,
                *form.rounds,
                *form.papers,
                *form.cards,
                *form.fields.values(),
                form.late,
                form.printer,
                form.proof,
                form.look_at,
                form.save,
                form.outlines,
            )
            if child.isVisible()
        ]
        boxes = [child.geometry() for child in shown]
        assert all(form.rect().contains(box) for box in boxes), (group, size, percent)
        for nth, box in enumerate(boxes):
            assert not any(box.intersects(other) for other in boxes[nth + 1 :]), (group, shown[nth])


def test_the_method_of_stops_is_the_one_on_the_wheel(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = paper_of(window)
    assert "Stops, two stops:" in written(page)
    window.session.work_at(school="firing-order", place=0)
    assert "Stops, in firing order:" in written(page)
    page.papering.choose(face=Face.FULL)
    assert "Scale 0 to 360" in written(page)
    page.cylinder.click()
    assert "Events of cylinder 2" in written(page)
