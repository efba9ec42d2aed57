"""The Cam in the real window: two engines degreed from the first reading to the report."""

import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QIODevice, QPoint, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtNetwork import QHostAddress, QTcpServer
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.conftest import Answers, MakeWindow
from tests.hand import Hand
from tests.painted import painted_texts
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.cam.live import LiveLine
from true_compass.app.workspaces.cam.workspace import CORRECT, LINE, LOBE, READINGS, CamWorkspace
from true_compass.bench.scenario import Scenario
from true_compass.core.degreeing.centreline import late_words
from true_compass.core.degreeing.found import curve_for
from true_compass.core.degreeing.sheet import Cell, Part, Ready
from true_compass.core.degreeing.top import met_words, span_of
from true_compass.core.degreeing.wheel import Scale, Wheel, Zero
from true_compass.core.items import Item, Kind
from true_compass.drawing.documents import A4, Document, write_document
from true_compass.drawing.text import texts_recorded
from true_compass.instrument.line import What, written
from true_compass.instrument.simulated import SimulatedInstrument, Vices, parse_on

Key = Qt.Key


def cam_of(window: MainWindow) -> CamWorkspace:
    QTest.keyClick(window, Key.Key_C)
    assert isinstance(window.workspace, CamWorkspace)
    return window.workspace


def typed(page: CamWorkspace, *texts: str) -> None:
    for text in texts:
        QTest.keyClicks(page.pad.field, text)
        QTest.keyClick(page.pad.field, Key.Key_Return)


class Reader:
    """Somebody at the wheel of an engine whose pointer and cam are out by so much."""

    def __init__(self, page: CamWorkspace, late_deg: float, pointer_deg: float = 0.0) -> None:
        self.page, self.late_deg, self.pointer_deg = page, late_deg, pointer_deg

    def figure(self) -> str:
        """What stands under the pointer where the asked reading is taken, to half a degree."""
        model = self.page.model
        cell = model.asked
        assert cell is not None
        if cell.part is Part.TOP:
            drop = model.sheet.now.tops[cell.row].drop_mm
            half = span_of(model.rig, model.cylinder, drop).half_deg
            at = half if cell.after else -half
        else:
            pair = model.asked_pair
            assert pair is not None
            curve = curve_for(model.rig, model.sheet, cell.part.kind)
            at = curve.chord_deg(pair.drop_mm)[cell.after] + self.late_deg
        at = round((at + self.pointer_deg) * 2) / 2
        return f"{model.setup.wheel.figure_deg(at):g}"

    def read_all(self) -> None:
        """Every reading by the keyboard, answering what is asked beside it."""
        model, field = self.page.model, self.page.pad.field
        while model.asks or model.question is not None:
            question = model.question
            if question is None:
                typed(self.page, self.figure())
            elif question.head == "Set the pointer":
                self.page.pad.answers[0].click()
                self.pointer_deg = 0.0
            elif question.head == "Look at the piston":
                middle = model.after_piston_kind
                self.page.pad.answers[0 if middle is Kind.INTAKE else 1].click()
            else:
                raise AssertionError(question)
            assert not model.refused, (model.refused, field.text())


def words_of(document: Document | None) -> str:
    """Everything that is written on the pages of a document."""
    assert document is not None
    picture = QImage(900, 1273, QImage.Format.Format_RGB32)
    p = QPainter(picture)
    with texts_recorded() as words:
        for paint in document.pages(A4):
            paint(p)
    p.end()
    return " ".join(words)


def begun(page: CamWorkspace, wheel: Wheel | None = None) -> CamWorkspace:
    """The usual instruments, or another wheel, and the page of readings."""
    setup = page.model.usual_setup
    page.model.name_setup(setup if wheel is None else replace(setup, wheel=wheel))
    page.show_page(READINGS)
    return page


# From the first reading to the report ------------------------------------------------------------


def test_a_v8_is_degreed_by_keyboard(open_window: MakeWindow, tmp_path: Path) -> None:
    window = open_window("cedar")
    page = cam_of(window)
    # Set-up is asked first: a wheel is chosen, everything is ticked, and it begins.
    assert page.page == "Set-up"
    page.setup.choices[0][0].click()
    for tick in page.setup.ticks:
        tick.click()
    QTest.keyClick(page.setup.begin, Key.Key_Space)
    setup = page.model.sheet.setup
    assert setup is not None
    assert setup.wheel.scale is Scale.FULL
    assert set(setup.ready) == set(Ready)
    Reader(page, late_deg=4.0, pointer_deg=1.5).read_all()
    result = page.model.result
    assert result.correction_deg == 0.0
    assert result.need_deg == pytest.approx(4.0, abs=0.4)
    assert page.done.isVisible()
    # The correction: the best way of five, the gaps, and a second set of readings beside the first.
    QTest.keyClick(page.done.plan, Key.Key_Space)
    assert page.page == CORRECT
    made = page.correcting.made
    assert len(made) == 5
    QTest.keyClick(page.correct.options, Key.Key_Down)
    assert page.correcting.row == 1
    QTest.keyClick(page.correct.options, Key.Key_Up)
    assert page.correct.move_it.isEnabled()
    gives = made[0].option.gives_deg
    QTest.keyClick(page.correct.move_it, Key.Key_Space)
    assert page.page == READINGS
    assert len(page.model.sheet.rounds) == 2
    Reader(page, late_deg=4.0 - gives).read_all()
    need = page.model.result.need_deg
    assert need is not None
    assert abs(need) < abs(4.0 - gives) + 0.4
    document = page.document()
    text = words_of(document)
    assert document is not None
    write_document(document, A4, tmp_path / "cam.pdf")
    assert (tmp_path / "cam.pdf").read_bytes().startswith(b"%PDF")
    assert "Readings as found" in text
    assert made[0].words in text
    assert "as read after the step" in text


def test_a_twin_cam_is_degreed_from_the_simulated_instrument(open_window: MakeWindow) -> None:
    page = begun(cam_of(open_window("maple")))
    page.show_page(LINE)
    for on, button in (("piston 1", 0), ("valve I1", 1), ("valve E1", 2)):
        page.line.on[button].click()
        feed(page, on, late_deg=4.6, seconds=14.0)
    assert not page.model.asks
    result = page.model.result
    assert set(result.noses) == set(Kind)
    for kind in Kind:
        assert result.need_of(kind) == pytest.approx(4.6, abs=0.35)
        # The encoder saw what the piston did there.
        pairs = page.model.sheet.now.pairs(1, kind)
        assert {pair.falls for pair in pairs} == {kind is Kind.INTAKE}
    page.show_page(CORRECT)
    assert [button.isVisible() for button in page.correct.shafts] == [True, True]
    first = page.correcting.made[0]
    assert (first.option.hole, first.option.tooth) == (2, 0)
    page.correct.shafts[1].click()
    assert page.correcting.shaft.kinds == (Kind.EXHAUST,)
    assert "2 holes on" in words_of(page.document())


def feed(page: CamWorkspace, on: str, late_deg: float, seconds: float, **vices: float) -> None:
    """So much of a simulated instrument over a network line, as fast as it goes."""
    rig = page.model.rig
    noise = Vices(noise_mm=vices.pop("noise_mm", 0.002), lost_share=0.01)
    instrument = SimulatedInstrument(
        rig, parse_on(on, rig.engine), noise, turn_deg_s=60.0, late_deg=late_deg
    )
    instrument.crank_deg = 300.0
    send(page, instrument.passed(seconds))


def send(page: CamWorkspace, data: bytes) -> None:
    """Bytes over a real socket, until they have been read; the line stays open."""
    server = QTcpServer()
    assert server.listen(QHostAddress.SpecialAddress.LocalHost)
    page.line.address.setText(f"127.0.0.1:{server.serverPort()}")
    if page.lining.line.is_open:
        page.line.connect_key.click()
    page.line.connect_key.click()
    assert server.waitForNewConnection(2000)
    socket = server.nextPendingConnection()
    assert socket is not None
    socket.write(data)
    # A line without a space is garbage, and counts as no reading.
    lines = sum(line.count(b" ") == 4 for line in data.split(b"\n")[:-1])
    wanted = lines + page.lining.line.readings
    end = time.monotonic() + 10.0
    while page.lining.line.readings < wanted and time.monotonic() < end:
        QTest.qWait(5)
    page.line.connect_key.click()
    server.close()
    server.deleteLater()


# What goes wrong on the way ----------------------------------------------------------------------


WHEELS = [
    Wheel(Scale.FULL),
    Wheel(Scale.FULL, against=True),
    Wheel(Scale.FULL, Zero.BDC),
    Wheel(Scale.SPLIT, Zero.BDC),
    Wheel(Scale.QUARTERS),
]


@pytest.mark.parametrize("wheel", WHEELS)
def test_every_wheel_says_the_same(open_window: MakeWindow, wheel: Wheel) -> None:
    page = begun(cam_of(open_window("birch")), wheel)
    Reader(page, late_deg=2.4, pointer_deg=1.5).read_all()
    result = page.model.result
    assert result.need_deg == pytest.approx(2.4, abs=0.3)
    lines = result.lines
    assert lines.separation_cam_deg == pytest.approx(108.5, abs=0.3)


def test_a_pointer_out_by_more_than_the_span(open_window: MakeWindow) -> None:
    page = begun(cam_of(open_window("birch")))
    # Both readings lie after zero: the first is typed with a minus, or by its key.
    page.pad.beyond.click()
    typed(page, "1", "21")
    top = page.model.result.top
    assert top is not None
    assert (top.top.set_to_deg, top.top.shift_deg) == (10.0, 11.0)
    assert "set the pointer to 10°" in page.pad.answers[0].parent().text_twin()  # type: ignore[union-attr]


REFUSED = [
    ("200", "from 0 to 180 on this wheel"),
    ("x", "plain number"),
    ("9,123", "9.123"),
]


@pytest.mark.parametrize(("text", "said"), REFUSED)
def test_what_cannot_be_is_said_and_stays(open_window: MakeWindow, text: str, said: str) -> None:
    page = begun(cam_of(open_window("birch")))
    typed(page, text)
    assert said in page.model.refused
    assert page.pad.field.text() == text
    assert page.model.sheet.now.tops[0].before is None


def test_a_pair_in_the_wrong_order_and_a_wrong_valve_are_named(open_window: MakeWindow) -> None:
    page = begun(cam_of(open_window("birch")), Wheel(Scale.FULL))
    typed(page, "350", "10")
    for cell_text in ("89", "93", "99"):
        typed(page, cell_text)
    typed(page, "80")
    assert "must follow 99° ATDC" in page.model.refused
    page.pad.field.clear()
    typed(page, "120")
    # The piston rises: so it is an exhaust nose, and the pair does not count.
    assert page.model.question is not None
    page.pad.answers[1].click()
    assert "exhaust nose" in page.model.refused
    assert Kind.INTAKE not in page.model.result.noses


def test_a_misread_figure_stays_out_until_it_is_kept(open_window: MakeWindow) -> None:
    page = begun(cam_of(open_window("birch")))
    reader = Reader(page, late_deg=2.4)
    model = page.model
    typed(page, "10", "10")
    for _ in range(5):
        typed(page, reader.figure())
        if model.question is not None:
            page.pad.answers[0].click()
    typed(page, "140")
    page.pad.answers[0].click()
    assert model.question is not None
    assert "misread?" in model.question.sentence
    mean = model.result.noses[Kind.INTAKE].nose.middle_deg
    assert mean == pytest.approx(109.4, abs=0.3)
    page.pad.answers[1].click()
    assert model.result.noses[Kind.INTAKE].nose.middle_deg > mean + 1
    # Undo takes the keeping back, and the question is there again.
    window = page.window()
    assert window is not None
    QTest.keyClick(window, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert model.result.noses[Kind.INTAKE].nose.middle_deg == pytest.approx(mean)


def begun_by_hand(window: MainWindow, wheel: str) -> tuple[CamWorkspace, Hand]:
    """The instruments named and ticked with the mouse; the keyboard stays where that leaves it."""
    page, hand = cam_of(window), Hand(window)
    hand.press(wheel)
    for tick in page.setup.ticks:
        hand.click(tick)
    hand.press("These are the instruments")
    return page, hand


def read_by_hand(reader: Reader, hand: Hand) -> int:
    """Every reading with the keyboard where it was left, answers pressed; how many actions."""
    model, actions = reader.page.model, 0
    while model.asks or model.question is not None:
        question = model.question
        if question is None:
            hand.enter(reader.figure())
        elif question.head == "Set the pointer":
            hand.press(question.answers[0][0])
            reader.pointer_deg = 0.0
        else:
            assert question.head == "Look at the piston"
            falls = model.after_piston_kind is Kind.INTAKE
            hand.press("It falls" if falls else "It rises")
        assert not model.refused
        actions += 1
    return actions


def test_a_hand_degrees_a_cam_to_its_correction(open_window: MakeWindow) -> None:
    """The cam stands 4° late and the pointer 1.5° off: read, moved, and read again."""
    page, hand = begun_by_hand(open_window("cedar"), "0 to 360")
    actions = read_by_hand(Reader(page, late_deg=4.0, pointer_deg=1.5), hand)
    assert actions <= 24, actions
    assert page.model.result.need_deg == pytest.approx(4.0, abs=0.4)
    hand.click(page.done.plan)
    gives = page.correcting.made[0].option.gives_deg
    hand.click(page.correct.move_it)
    assert page.page == READINGS
    read_by_hand(Reader(page, late_deg=4.0 - gives), hand)
    need = page.model.result.need_deg
    assert need == pytest.approx(4.0 - gives, abs=0.4)
    assert need is not None
    assert abs(need) < 1.5


def test_degrees_from_tdc_on_a_wheel_that_counts_round_are_asked_back(
    open_window: MakeWindow,
) -> None:
    page, hand = begun_by_hand(open_window("birch"), "0 to 360")
    hand.enter("8.4", "11.4")
    question = page.model.question
    assert question is not None
    assert "351.6 before TDC, and not 8.4" in question.sentence
    assert page.model.result.correction_deg == 0.0
    hand.press("It read 351.6")
    top = page.model.result.top
    assert top is not None
    assert (top.held, top.top.words) == (False, "1.5° early")


def test_a_pair_that_does_not_fit_its_drop_holds_the_correction(open_window: MakeWindow) -> None:
    page, hand = begun_by_hand(open_window("birch"), "0-180-0")
    hand.enter("6", "8")
    waits = page.model.result.waits
    assert waits is not None
    assert "wrong drop" in waits[0]
    # Enter on the empty field reads again; a figure that is right mends it.
    hand.key(Key.Key_Return)
    assert page.model.asked == Cell(Part.TOP, 0, after=False)
    hand.press("Correct")
    assert page.correct.move_it.text().startswith("Not yet")
    hand.press("Readings")
    hand.enter("6")
    hand.press("Keep it")
    assert page.model.result.waits is None
    assert page.model.question is not None
    assert page.model.question.head == "Set the pointer"


def test_readings_that_contradict_each_other_are_told_and_one_is_read_again(
    open_window: MakeWindow,
) -> None:
    page, hand = begun_by_hand(open_window("birch"), "0 to 360")
    hand.enter("350", "10", "92", "124", "87")
    question = page.model.question
    assert question is not None
    assert "0.25 mm read at 124 and 0.10 mm at 87" in question.sentence
    waits = page.model.result.waits
    assert waits is not None
    hand.press("Read 0.25 mm again")
    hand.enter("86")
    # 92, 86 and 87: the first is wrong as well.
    assert page.model.question is not None
    hand.press("Read 0.40 mm again")
    hand.enter("82")
    assert page.model.result.waits is None


def test_a_lobe_with_its_standard_left_out_is_held_until_it_is_kept(
    open_window: MakeWindow,
) -> None:
    page, hand = begun_by_hand(open_window("birch"), "0-180-0")
    hand.press("Lobe")
    hand.enter("44.86", "10.62")
    assert "25 forgotten" in page.lobing.headline
    hand.press("Read again")
    hand.enter("44.86", "35.62")
    assert "lifts 9.24 mm" in page.lobing.headline
    # The middle of it a whole standard out: three places of one lobe cannot differ so.
    hand.enter("69.86", "35.61")
    assert "25 too many" in page.lobing.headline
    hand.press("Keep it")
    assert "lifts 9.24 mm" in page.lobing.headline


def test_a_moved_pointer_voids_what_was_read_and_keeps_it(open_window: MakeWindow) -> None:
    page = begun(cam_of(open_window("birch")))
    Reader(page, late_deg=2.4).read_all()
    page.moved.click()
    assert page.model.result.noses == {}
    now = page.model.sheet.now
    assert sum(pair.void for pair in now.pairs(1, Kind.INTAKE)) == 3
    assert any(top.void for top in now.tops)
    assert "void" in page.rows.text_twin()
    Reader(page, late_deg=1.0).read_all()
    assert page.model.result.need_deg == pytest.approx(1.0, abs=0.3)


def test_readings_outlast_the_window_and_a_press_picks_one(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = begun(cam_of(window))
    typed(page, "8.5", "11.5")
    line = next(one for one in page.rows.lines() if one.part is Part.EXHAUST and one.row == 1)
    at = QPoint(260, round(line.top + line.high / 2))
    QTest.mouseClick(page.rows, Qt.MouseButton.LeftButton, pos=at)
    asked = page.model.asked
    assert asked is not None
    assert (asked.part, asked.row, asked.after) == (Part.EXHAUST, 1, True)
    window.close()
    again = cam_of(open_window("birch"))
    assert again.page == READINGS
    top = again.model.sheet.now.tops[0]
    assert (top.before, top.after) == (8.5, 11.5)


def test_a_drop_can_be_changed_and_one_more_depth_read(open_window: MakeWindow) -> None:
    page = begun(cam_of(open_window("birch")))
    model, rows = page.model, page.rows
    typed(page, "8.5", "11.5")
    before = [pair.drop_mm for pair in model.sheet.now.pairs(1, Kind.INTAKE)]
    QTest.keyClick(page.pad.field, Key.Key_Insert)
    typed(page, "20")  # A lobe is not so high: one sentence, and the text stays.
    assert "must be from 0.01 to" in model.refused
    assert page.pad.field.text() == "20"
    page.pad.field.clear()
    typed(page, "1.5")
    depths = [pair.drop_mm for pair in model.sheet.now.pairs(1, Kind.INTAKE)]
    assert sorted(depths) == sorted([*before, 1.5])
    # A press on the name of a row asks for its drop; what was read there stays.
    line = next(one for one in rows.lines() if one.part is Part.TOP and one.row == 0)
    at = QPoint(20, round(line.top + line.high / 2))
    QTest.mouseClick(rows, Qt.MouseButton.LeftButton, pos=at)
    typed(page, "1.2")
    top = model.sheet.now.tops[0]
    assert (top.drop_mm, top.before, top.after) == (1.2, 8.5, 11.5)
    # Undo takes the row away whose drop is asked for: then nothing is asked of it.
    rows_before = len(depths)
    model.ask_depth(Part.INTAKE, rows_before - 1)
    page.model.desk.session.undo()
    page.model.desk.session.undo()
    assert len(model.sheet.now.pairs(1, Kind.INTAKE)) == rows_before - 1
    assert model.depth is None


def test_the_engine_becomes_as_it_was_read_in_one_step(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = begun(cam_of(window))
    Reader(page, late_deg=2.4).read_all()
    need = page.model.result.need_deg
    assert need is not None
    page.put.click()
    cam = page.model.engine.cam
    assert cam.intake.advance_deg == pytest.approx(-need, abs=1e-6)
    assert page.model.result.need_deg == pytest.approx(0.0, abs=0.1)
    assert window.session.undo() == "the cam as it was read"
    assert page.model.engine.cam.intake.advance_deg == 0.0
    assert page.model.result.need_deg == pytest.approx(need)


def test_another_engine_asks_anew(open_window: MakeWindow) -> None:
    window = open_window("birch")
    page = begun(cam_of(window))
    page.correcting.type_need("4.8")
    page.model.ask_depth(Part.EXHAUST, 2)
    assert page.correcting.is_known
    window.opener.open_rig("fir")
    assert not page.correcting.is_known
    assert page.model.depth is None


# Lobes, gaps, the line ---------------------------------------------------------------------------


def test_a_worn_lobe_is_named(open_window: MakeWindow) -> None:
    page = cam_of(open_window("alder"))
    page.show_page(LOBE)
    lobing = page.lobing
    lifts = {
        1: (6.49, 6.49, 6.48),
        2: (6.47, 6.48, 6.47),
        3: (6.12, 6.02, 5.84),
        4: (6.5, 6.49, 6.49),
    }
    for cylinder, three in lifts.items():
        lobing.choose(Kind.EXHAUST, cylinder)
        for lift in three:
            for size in (30.46 + lift, 30.46):
                QTest.keyClicks(page.lobe.pad.field, f"{size - 25:.2f}+25")
                QTest.keyClick(page.lobe.pad.field, Key.Key_Return)
                assert not lobing.refused
    assert lobing.headline == "E3 points to a worn lobe: 0.64 mm low at its rear edge"
    lobing.choose(Kind.EXHAUST, 3)
    # The indicator agrees once its turns are counted.
    for figure in ("0.12", "0.14"):
        QTest.keyClicks(page.lobe.pad.field, figure)
        QTest.keyClick(page.lobe.pad.field, Key.Key_Return)
    for _ in range(5):
        page.lobe.more.click()
    assert "1 turn forgotten?" in lobing.two_ways
    page.lobe.more.click()
    assert lobing.dial_lift_mm(Item(Kind.EXHAUST, 3)) == pytest.approx(6.02)
    assert lobing.two_ways == ""
    lobing.choose(Kind.INTAKE, 1)
    QTest.keyClicks(page.lobe.pad.field, "1.766")
    QTest.keyClick(page.lobe.pad.field, Key.Key_Return)
    assert "was 1.766 in meant?" in lobing.refused


def test_no_step_is_offered_before_the_gaps_are_known(open_window: MakeWindow) -> None:
    page = cam_of(open_window("whitebeam"))
    page.show_page(CORRECT)
    QTest.keyClicks(page.correct.need, "6")
    QTest.keyClick(page.correct.need, Key.Key_Return)
    assert page.correcting.later_deg == 6.0
    assert not page.correct.move_it.isEnabled()
    assert "measure the gaps" in page.correct.move_it.second()
    QTest.keyClicks(page.correct.gap, "4.1")
    QTest.keyClicks(page.correct.angle, "10")
    page.correct.take[0].click()
    picked = page.correcting.picked
    assert picked is not None
    assert picked.known
    # Six degrees earlier the intake stands nearer at ten degrees than was measured.
    assert picked.worst[0].gap_mm < 4.1
    assert page.correct.move_it.isEnabled()
    # Far too little was left: the step is dead, and says why.
    QTest.keyClicks(page.correct.gap, "0.9")
    page.correct.take[0].click()
    assert not page.correct.move_it.isEnabled()
    assert "under its limit" in page.correct.move_it.second()


def test_a_need_that_is_none_and_an_engine_that_cannot_be_moved(open_window: MakeWindow) -> None:
    page = cam_of(open_window("alder"))
    page.show_page(CORRECT)
    assert page.correcting.made == []
    assert "does not say how the cam can be moved" in page.correct.options.text_twin()
    QTest.keyClicks(page.correct.need, "900")
    QTest.keyClick(page.correct.need, Key.Key_Return)
    assert "from -120 to 120" in page.correcting.refused


def test_a_line_that_goes_wrong_keeps_what_was_read(open_window: MakeWindow) -> None:
    page = begun(cam_of(open_window("birch")))
    page.show_page(LINE)
    lines = b"".join(written(n, What.CRANK, 10.0) for n in range(5))
    send(page, lines + b"garbage\n" + written(7, What.LIFT, 25.4, "in") + lines[:20])
    told = " ".join(page.lining.line.told)
    assert "made no sense" in told
    assert "2 lines were lost" in told
    assert page.lining.line.lift_mm == pytest.approx(25.4)
    page.line.address.setText("nowhere")
    page.line.connect_key.click()
    assert "Type an address" in page.lining.line.told[-1]
    page.line.address.setText("/dev/no-such-port")
    page.line.connect_key.click()
    assert "cannot be opened" in page.lining.line.told[-1]


def let_it_turn(page: CamWorkspace, until: Callable[[], bool]) -> None:
    """Let time pass for a simulated instrument, up to two turns of the crank."""
    for _ in range(600):
        if until():
            return
        page.lining.line._tick.timeout.emit()
    raise AssertionError("nothing was read in two turns")


def test_a_simulated_instrument_is_one_press(open_window: MakeWindow) -> None:
    page, hand = begun_by_hand(open_window("birch"), "0 to 360")
    hand.press("Line")
    hand.press("Practise with a simulated one")
    assert page.lining.line.is_open
    let_it_turn(page, lambda: page.model.sheet.now.tops[0].after is not None)
    for words, kind in (("the intake", Kind.INTAKE), ("the exhaust", Kind.EXHAUST)):
        hand.press(words)
        let_it_turn(page, lambda kind=kind: kind in page.model.result.noses)  # type: ignore[misc]
    hidden = page.lining.line.simulated
    assert hidden is not None
    result = page.model.result
    assert result.top is not None
    assert result.top.top.shift_deg == pytest.approx(hidden.zero_deg, abs=0.3)
    assert result.need_deg == pytest.approx(hidden.late_deg, abs=0.4)
    hand.press("Put it away")
    pointer = met_words(-hidden.zero_deg)
    assert page.lining.line.told[-1] == (
        f"The simulated cam stood {late_words(hidden.late_deg)}, the pointer's zero was met "
        f"{pointer}."
    )
    assert not page.lining.line.is_open


def test_a_dial_that_stands_elsewhere_is_told(open_window: MakeWindow) -> None:
    page, hand = begun_by_hand(open_window("birch"), "0 to 360")
    hand.press("Line")
    hand.press("the intake")
    send(page, written(0, What.LIFT, 63.0) + written(1, What.CRANK, 90.0))
    told = "63.00 mm is no lift of this cam: is the dial still on the piston?"
    assert page.lining.line.told[-1] == told
    assert told in painted_texts(page.line)


def test_a_line_that_is_lost_keeps_its_last_figures_and_the_wheel_stands(
    open_window: MakeWindow,
) -> None:
    page, hand = begun_by_hand(open_window("birch"), "0 to 360")
    hand.press("Line")
    server = QTcpServer()
    assert server.listen(QHostAddress.SpecialAddress.LocalHost)
    hand.click(page.line.address)
    hand.enter(f"127.0.0.1:{server.serverPort()}")
    assert server.waitForNewConnection(2000)
    line = server.nextPendingConnection()
    assert line is not None
    line.write(written(0, What.LIFT, 1.5) + written(1, What.CRANK, 90.0))
    line.flush()
    until(lambda: page.lining.line.crank_deg == 90.0)
    line.abort()
    until(lambda: bool(page.lining.line.lost_at))
    assert page.model.after_tdc_deg == pytest.approx(90.0)
    written_words = painted_texts(page.line)
    lost = page.lining.line.lost_at
    assert f"Dial, lost {lost}" in written_words
    assert "1.500 mm" in written_words
    hand.click(page.line.address)
    page.lining.close()
    assert page.model.line_crank_deg is None
    server.close()


def until(so: Callable[[], bool]) -> None:
    """Wait until something holds, at most two seconds."""
    end = time.monotonic() + 2.0
    while not so() and time.monotonic() < end:
        QTest.qWait(5)
    assert so()


def test_turning_back_on_the_line_counts_for_nothing(open_window: MakeWindow) -> None:
    page = begun(cam_of(open_window("birch")))
    page.show_page(LINE)
    rig = page.model.rig
    instrument = SimulatedInstrument(rig, parse_on("piston 1", rig.engine), turn_deg_s=60.0)
    instrument.crank_deg = 330.0
    told = instrument.passed(0.45)
    instrument.turn_deg_s = -60.0
    told += instrument.passed(0.3)
    send(page, told)
    assert page.lining.turned_back
    # Come up again too late for this top: only the next one is taken.
    instrument.turn_deg_s = 60.0
    send(page, told + instrument.passed(1.2))
    assert page.model.sheet.now.tops[0].after is None
    instrument.crank_deg = 330.0
    send(page, instrument.passed(1.2))
    assert page.model.sheet.now.tops[0].after == pytest.approx(9.9, abs=0.1)


def test_the_readings_are_written_as_a_table(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    page = begun(cam_of(open_window("birch")))
    Reader(page, late_deg=2.4, pointer_deg=1.5).read_all()
    answers.path = tmp_path / "readings"
    page.done.table.click()
    lines = (tmp_path / "readings.csv").read_text(encoding="utf-8-sig").splitlines()
    assert lines[0].startswith("round,cylinder,what,drop_mm")
    assert len(lines) == 1 + 4 + 12
    assert "1,1,intake nose,0.4,before,89.0,89.0,deg ATDC,yes" in lines[5] + lines[9]


# On the bench ------------------------------------------------------------------------------------


class BenchHand:
    """Hands at a covered engine: bar on, read the dial, stop where it is asked, read the wheel."""

    def __init__(self, window: MainWindow, page: CamWorkspace) -> None:
        self.session, self.page = window.session, page

    def do(self, word: str, **keys: object) -> dict[str, object]:
        return self.session.bench_do({"do": word, **keys})

    def dial_mm(self) -> float:
        return float(self.do("read")["mm"])  # type: ignore[arg-type]

    def read_over(self, start_deg: float, wide_deg: float, drops: tuple[float, ...]) -> None:
        """Once over a nose to know its height, then again, taking each drop as it comes."""
        bench = self.session.state.bench
        assert bench is not None
        self.do("bar", deg=(start_deg - bench.run.state.place_deg) % 720.0)
        heights = []
        for _ in range(int(wide_deg)):
            self.do("bar", deg=1.0)
            heights.append(self.dial_mm())
        self.do("bar", deg=720.0 - wide_deg)
        wanted = [max(heights) - drop for drop in (*drops, *reversed(drops))]
        rising = [*(True for _ in drops), *(False for _ in drops)]
        for nth, (height, up) in enumerate(zip(wanted, rising, strict=True)):
            if nth == len(drops):
                self.do("bar", deg=8.0)  # over the nose itself
            while (self.dial_mm() < height) if up else (self.dial_mm() > height):
                self.do("bar", deg=0.5)
            self.do("wheel")
            assert self.page.taking.take_from_bench(), self.page.model.refused
            if self.page.model.after_piston_kind is not None:
                falls = self.page.model.after_piston_kind is Kind.INTAKE
                self.page.pad.answers[0 if falls else 1].click()


def test_a_covered_engine_with_a_cam_one_tooth_out_is_degreed_from_the_bench(
    open_window: MakeWindow,
) -> None:
    window = open_window("birch")
    page = begun(cam_of(window), Wheel(Scale.FULL))
    scenario = Scenario(page.model.engine, seed=4, faults=("cam-one-tooth",))
    window.session.begin_bench(scenario)
    hand = BenchHand(window, page)
    for part in ("covers", "plugs"):
        hand.do("off", part=part)
    hand.do("indicator", on="piston 1")
    hand.do("pointer", deg=0.0)
    assert page.taking.bench_wheel_deg is None
    hand.read_over(320.0, 70.0, (1.0,))
    assert page.model.question is not None, (page.model.result, page.model.sheet.now.tops)
    # The pointer stood anywhere: it is left, and what it is out by is taken off every reading.
    page.model.answer("leave")
    for kind, nose in ((Kind.INTAKE, 467.0), (Kind.EXHAUST, 250.0)):
        hand.do("indicator", on=f"valve {kind.letter}1")
        hand.read_over(nose - 75.0, 150.0, (0.40, 0.25, 0.10))
    late = [page.model.result.need_of(kind) for kind in Kind]
    # A tooth of 44 is 16.4 crank degrees; which way it is out is what was to be found.
    assert [abs(value or 0.0) for value in late] == pytest.approx([16.36, 16.36], abs=1.5)
    # After turning back the cam is not where it seems.
    page.show_page(READINGS)
    page.model.pick(Cell(Part.INTAKE, 0, after=False))
    hand.do("bar", deg=-20.0)
    hand.do("wheel")
    assert not page.taking.take_from_bench()
    assert "turned back last" in page.model.refused


class Flood(QIODevice):
    """A line on which more comes in than anybody can read."""

    def __init__(self, line: bytes) -> None:
        super().__init__()
        self.waiting = b""
        self.sent = 0
        self._line = line
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    def send(self, lines: int) -> None:
        """So many lines more; without a line of its own they are good readings."""
        numbers = range(self.sent, self.sent + lines)
        self.sent += lines
        good = (written(number, What.LIFT, 1.5) for number in numbers)
        self.waiting += self._line * lines or b"".join(good)
        self.readyRead.emit()

    def bytesAvailable(self) -> int:
        return len(self.waiting)

    def readData(self, most: int) -> bytes:
        told, self.waiting = self.waiting[:most], self.waiting[most:]
        return told

    def isSequential(self) -> bool:
        return True


@pytest.mark.parametrize(
    ("line", "told"),
    [
        (b"17 lift 6.9\n", "most are not readings"),
        (b"", "more than can be read"),
    ],
)
def test_a_flood_on_the_line_is_said_once_and_never_holds_the_window_up(
    line: bytes, told: str, qtbot: QtBot
) -> None:
    live = LiveLine()
    device = Flood(line)
    live._begin(device)
    signals: list[int] = []
    live.told_changed.connect(lambda: signals.append(1))
    until, rounds = time.monotonic() + 2.2, 0
    while time.monotonic() < until:
        device.send(2_000)
        QApplication.processEvents()
        rounds += 1
    assert rounds > 20
    assert sum(told in sentence for sentence in live.told) == 1
    assert not any("silent" in sentence for sentence in live.told)
    assert len(signals) < 3_000
    assert device.bytesAvailable() < 200_000
    live.close()
    live.deleteLater()
