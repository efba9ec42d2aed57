"""The Book in the real window: a year on one engine, and what goes wrong on the way."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from PyQt6.QtCore import QPointF, Qt

from tests.conftest import Answers, MakeWindow
from tests.files.jobs import filled
from tests.hand import Hand
from tests.painted import Painted
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.app.workspaces.book.topics import TOPICS
from true_compass.app.workspaces.book.workspace import BookWorkspace
from true_compass.app.workspaces.stops.workspace import StopsWorkspace
from true_compass.book.job import Job, Measure
from true_compass.book.putting_back import PUT_BACK, ROLLED_OVER
from true_compass.book.work import next_asked
from true_compass.core.items import item_named
from true_compass.drawing.documents import A4, write_document
from true_compass.files.book_file import Book
from true_compass.files.book_merge import export_values
from true_compass.files.job_import import Setup, jobs_from
from true_compass.files.job_table import csv_text, parse_table, table_of
from true_compass.files.rigs import rig_text

Key = Qt.Key


def book_of(window: MainWindow) -> BookWorkspace:
    QTest.keyClick(window, Key.Key_K)
    assert isinstance(window.workspace, BookWorkspace)
    return window.workspace


def typed(page: BookWorkspace, *texts: str) -> None:
    for text in texts:
        QTest.keyClicks(page.pad.field, text)
        QTest.keyClick(page.pad.field, Key.Key_Return)


def fact(page: BookWorkspace, name: str, text: str) -> None:
    page.show_page("Facts")
    field = page.facts.fields[name]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Key.Key_Return)


def open_job(page: BookWorkspace) -> Job:
    assert page.model.job is not None
    return page.model.job


@pytest.fixture
def page(open_window: MakeWindow) -> BookWorkspace:
    page = book_of(open_window("birch"))
    page.begin.click()
    return page


def left_alone(page: BookWorkspace) -> list[str]:
    return ["0.25" if item.name[0] == "I" else "0.40" for item in page.model.items]


def test_everything_as_found_then_tight_ones_first_then_the_nut(page: BookWorkspace) -> None:
    texts = left_alone(page)
    names = [item.name for item in page.model.items]
    texts[names.index("E5")], texts[names.index("I3")] = "0.30", "0.33"
    typed(page, *texts)
    job = open_job(page)
    assert len(job.items) == 12
    asked = page.model.asked
    assert asked is not None
    assert (asked.item.name, asked.which) == ("E5", "left")
    card = {item.name: lines for item, lines in page.job.cards(job)}["E5"]
    # M10×1 at the push-rod end, ratio 1.5: 0.10 is 24°.
    assert card[:2] == [
        "0.10 mm (3.9 thou) too tight.",
        "Turn the screw 24° looser, then measure again.",
    ]
    typed(page, "0.42", "0.40", "0.27", "0.25")
    job = open_job(page)
    assert job.record(item_named("E5")).final == Measure(Measure.mm(0.40).gap, None, "0.40")
    assert next_asked(job, page.model.items) is None
    assert not page.pad.isVisible()
    # It is on the disk, and undo takes it off again.
    assert page.model.keeper.job(job.id) == job
    page.undo.click()
    assert page.model.keeper.job(job.id) == open_job(page) != job


def test_an_unlikely_number_offers_what_may_be_meant(page: BookWorkspace) -> None:
    typed(page, "15")
    assert [b.text() for b in page.pad.meant if not b.isHidden()] == [
        "0.15 mm",
        "15 thou",
        "Keep it",
    ]
    assert open_job(page).items == {}
    assert page.pad.field.text() == "15"
    page.pad.meant[0].click()
    assert open_job(page).record(item_named("I1")).found == Measure(
        Measure.mm(0.15).gap, None, "0.15 mm"
    )
    assert page.pad.field.text() == ""


def test_keys_brackets_and_wrong_words(page: BookWorkspace) -> None:
    for word in ("0", ".", "2", "0", "goes", "0", ".", "2", "5", "Enter"):
        page.pad.keys[word].click()
    found = open_job(page).record(item_named("I1")).found
    assert found is not None
    assert found.gap is not None
    assert (found.gap.low, found.gap.high) == (0.20, 0.25)
    typed(page, "0.30..0.20")
    assert page.model.refused is not None
    assert "thicker" in page.model.refused.sentence
    assert page.pad.field.text() == "0.30..0.20"
    page.pad.keys["⌫"].click()
    assert page.model.refused is None


def test_a_press_picks_a_reading_and_left_needs_found(page: BookWorkspace) -> None:
    job = open_job(page)
    cell = next(c for c in page.job.chart(job).cells if c.item.name == "E4")
    at = QPointF(cell.box.center().x(), cell.left_y + 4) * page.look.scale
    QTest.mouseClick(page.job, Qt.MouseButton.LeftButton, pos=at.toPoint())
    asked = page.model.asked
    assert asked is not None
    assert (asked.item.name, asked.which) == ("E4", "left")
    typed(page, "0.40")
    assert page.model.refused is not None
    assert "as found" in page.model.refused.sentence
    QTest.keyClick(page.pad.field, Key.Key_PageUp)
    QTest.keyClick(page.pad.field, Key.Key_Down)
    asked = page.model.asked
    assert asked is not None
    assert (asked.item.name, asked.which) == ("I5", "found")


def test_facts_are_kept_and_wrong_ones_stay_typed(page: BookWorkspace) -> None:
    fact(page, "person", "Joel R.")
    fact(page, "clock", "1840")
    fact(page, "complaint", "ticks at idle")
    fact(page, "parts", "head: cracked; E5 valve: burnt")
    fact(page, "to_do", "E5 again at 2140; oil on 2027-03-07")
    fact(page, "blades", "set 3, thou, step 1")
    job = open_job(page)
    assert (job.person.name, job.clock, job.complaint) == ("Joel R.", 1840.0, "ticks at idle")
    assert [(p.item, p.what, p.reason) for p in job.parts] == [
        ("", "head", "cracked"),
        ("E5", "valve", "burnt"),
    ]
    assert [(one.what, one.at_clock) for one in job.to_do] == [("E5 again", 2140.0), ("oil", None)]
    assert job.blade_step_mm == pytest.approx(0.0254)
    fact(page, "day", "2031-01-01")
    assert open_job(page).day != datetime(2031, 1, 1, tzinfo=UTC).date()
    assert page.facts.fields["day"].text() == "2031-01-01"
    page.facts.toggle(ROLLED_OVER)
    page.facts.toggle(PUT_BACK[0])
    assert open_job(page).put_back[0] == "Pin out, turning tool off"
    assert open_job(page).rolled_over


def test_a_wrong_fact_is_told_by_the_words_of_its_field(
    page: BookWorkspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    fact(page, "temperature_c", "999")
    painted = Painted(monkeypatch)
    page.facts.grab()
    assert any(words.startswith("Temperature must be ") for words, _ in painted.seen)
    assert page.facts.fields["temperature_c"].text() == "999"
    assert open_job(page).temperature_c is None


def test_ticks_and_readings_of_stops_land_in_the_job_of_today(open_window: MakeWindow) -> None:
    window = open_window("birch")
    QTest.keyClick(window, Key.Key_S)
    stops = window.workspace
    assert isinstance(stops, StopsWorkspace)
    stops.show_page("Do it")
    QTest.keyClicks(stops.measured, "0.31")
    stops.set_button.click()
    QTest.keyClicks(stops.measured, "0.41")
    stops.leave_button.click()
    stops.set_button.click()
    page = book_of(window)
    job = open_job(page)
    assert job.origin == "stops"
    told = [
        (i.name, r.found.short if r.found else "", r.seen_to.value, r.final and r.final.short)
        for i, r in job.items.items()
    ]
    # What was set and not measured again has no reading as left: nobody has one.
    assert told == [
        ("I1", "0.31", "set", None),
        ("E1", "0.41", "left", "0.41"),
        ("I2", "", "set", None),
    ]
    # One step of undo takes back the tick and what it wrote.
    page.undo.click()
    assert [item.name for item in open_job(page).items] == ["I1", "E1"]
    assert item_named("I2") not in window.session.state.work.done


def test_an_engine_that_knows_its_number_and_sources_brings_them(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    text = (
        rig_text("birch").replace('place = "', 'serial = "17"\nplace = "', 1)
        + '\n[[source]]\nbook = "Bench book"\nedition = "2"\npage = "41"\nof = "E"\n'
    )
    for name in ("one", "two"):
        (tmp_path / f"{name}.engine.toml").write_text(text)
    window = open_window("birch")
    window.opener.open_path(tmp_path / "one.engine.toml")
    page = book_of(window)
    assert page.model.book_engine.title == "Rig Birch, number 17"
    page.begin.click()
    typed(page, "0.25")
    target = open_job(page).target(item_named("E1"))
    assert target is not None
    assert target.source.words == "Bench book, 2, page 41"
    # The same engine from another file is the same engine.
    window.opener.open_path(tmp_path / "two.engine.toml")
    assert len(book_of(window).model.lines) == 1


def test_the_number_finds_its_history_and_two_of_one_number_are_asked(
    open_window: MakeWindow,
) -> None:
    window = open_window("birch")
    page = book_of(window)
    page.begin.click()
    typed(page, "0.25")
    page.facts.number_typed.emit("3")
    assert page.model.book_engine.title == "Rig Birch, number 3"
    page.facts.number_typed.emit("4")
    assert (page.model.book_engine.serial, page.model.lines) == ("4", [])
    page.begin.click()
    typed(page, "0.24")
    page.facts.number_typed.emit("3")
    assert len(page.model.lines) == 1
    window.opener.open_rig("cedar")
    page = book_of(window)
    page.facts.number_typed.emit("3")
    assert "has that number too" in window.note.text
    assert page.model.book_engine.serial == ""
    page.facts.number_typed.emit("3")
    assert page.model.book_engine.serial == "3"


def test_shims_are_measured_planned_and_written_down(open_window: MakeWindow) -> None:
    page = book_of(open_window("linden"))
    page.begin.click()
    gaps = ["0.13", "0.24", "0.21", "0.38", "0.27", "0.31", "0.12", "0.22", "0.19", "0.29"]
    typed(page, *gaps)
    page.show_page("Shims")
    sizes = ["2.70", "2.80", "2.65", "2.75", "2.80", "2.90", "2.60", "2.85", "2.75", "2.65"]
    typed(page, *sizes)
    plan = page.shims_model.plan
    assert plan is not None
    assert plan.bought_mm == (2.5,)
    assert page.shims_model.sentence()[0].startswith("Swap 5, buy 1")
    page.shims.drawer.setText("2.50 3.05")
    page.shims.drawer.editingFinished.emit()
    plan = page.shims_model.plan
    assert plan is not None
    assert (plan.bought_mm, plan.drawn_mm) == ((), (2.5,))
    page.shims.fit.click()
    job = open_job(page)
    assert job.record(item_named("I4")).shim_left_mm == 2.5
    assert page.model.keeper.book is not None
    assert page.model.keeper.book.learnt.drawer() == [2.7, 3.05]


def test_a_book_that_cannot_be_used_says_why_and_the_work_goes_on(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    window = open_window("birch")
    path = window._keeping.book_path
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"not a book " * 100)
    page = book_of(window)
    assert "is no book" in page.model.keeper.refusal
    page.begin.click()
    typed(page, "0.25")
    assert len(open_job(page).items) == 1
    assert path.read_bytes() == b"not a book " * 100


def fill(page: BookWorkspace, topic: str, **texts: str) -> Hand:
    """Write into the fields of a topic of More, as a hand does."""
    hand = Hand(window_of(page))
    hand.press("More")
    hand.press(topic)
    for name, text in texts.items():
        hand.write(page.more.fields[f"{topic} {name}"], text)
    return hand


def test_a_hand_is_learnt_blind_and_bounds_go_by_it(page: BookWorkspace) -> None:
    fact(page, "person", "Joel R.")
    gaps = {"set1": "0.20", "set2": "0.25", "set3": "0.30", "set4": "0.35", "set5": "0.40"}
    read = {"measured1": "0.22", "measured2": "0.23", "measured3": "0.33", "measured4": "0.33"}
    fill(page, "Hand test", who="Joel R.", step="0.01", **gaps, **read)
    assert page.more.fields["Hand test set1"].displayText() != "0.20"
    assert not page.more.keep.isEnabled()
    assert "needs 5 gaps" in page.more.lines()[0][0]
    hand = fill(page, "Hand test", measured5="0.43")
    hand.press("Keep this hand")
    assert page.model.keeper.scatter_of("joel r.") == pytest.approx(0.02588, abs=1e-5)
    assert page.model.keeper.scatter_of("Mina L.") == 0.01
    assert page.more.fields["Hand test set1"].text() == ""
    # What is kept is said, listed, and taken back by undo.
    today = page.model.today.isoformat()
    assert page.desk.session.undo_words == "hand of Joel R."
    (line,) = kept_on(page)
    assert line == f"Joel R., 0.008 mm wide, {today}"
    hand.press("Undo: hand of Joel R.")
    assert kept_on(page) == []
    assert page.model.keeper.scatter_of("joel r.") == 0.01
    assert page.desk.session.redo() == "hand of Joel R."
    assert page.model.keeper.scatter_of("joel r.") == pytest.approx(0.02588, abs=1e-5)


def window_of(page: BookWorkspace) -> MainWindow:
    window = page.window()
    assert isinstance(window, MainWindow)
    return window


def kept_on(page: BookWorkspace) -> list[str]:
    topic = next(one for one in TOPICS if one.word == "Hand test")
    return topic.kept(page.model)


def test_heat_gives_this_engine_its_hot_targets(page: BookWorkspace) -> None:
    hand = fill(page, "Hot and cold", kind="E", cold="0.40", hot="0.34", degrees="84")
    hand.press("Keep this difference")
    hot = [target for target in open_job(page).targets if target.hot]
    assert [(t.of, t.target_mm) for t in hot] == [("E", 0.34)]
    page.begin.click()
    assert [t.of for t in open_job(page).targets if t.hot] == ["E"]


def test_a_difference_is_said_and_undone_with_the_targets_that_follow(
    page: BookWorkspace,
) -> None:
    hand = fill(page, "Hot and cold", kind="E", cold="0.40", hot="0.34", degrees="84")
    hand.press("Keep this difference")
    assert [t.of for t in open_job(page).targets if t.hot] == ["E"]
    hand.press("Undo: hot and cold of E")
    assert [t.of for t in open_job(page).targets if t.hot] == []
    book = page.model.keeper.book
    assert book is not None
    assert book.learnt.hot_cold() == []


def test_witness_marks_and_other_readings_are_written_into_the_job(page: BookWorkspace) -> None:
    fill(page, "Witness marks", item="E1", centre="9", width="1.6", tip="8", rod="190.5")
    assert "over the edge" in page.more.lines()[0][0]
    fill(page, "Witness marks", centre="4.1")
    page.more.keep.click()
    fill(page, "Other readings", what="intake centreline", unit="° ATDC", found="108", left="106")
    page.more.keep.click()
    job = open_job(page)
    assert (job.witness[0].item, job.witness[0].centre_mm) == ("E1", 4.1)
    assert (job.readings[0].found, job.readings[0].left) == (108.0, 106.0)


def test_push_rods_of_a_hydraulic_engine(open_window: MakeWindow) -> None:
    page = book_of(open_window("cedar"))
    page.begin.click()
    typed(page, "0.25")
    assert page.model.refused is not None
    assert "no lash" in page.model.refused.sentence
    page.pad.field.clear()
    typed(page, *["0.5 t"] * 15, "5 t")
    page.show_page("More")
    page.more.show_topic("Push rods")
    told = " ".join(page.more.lines()[0])
    assert "Outliers" in told
    assert page.model.items[-1].name in told


def test_jobs_go_out_and_come_back_and_another_book_is_merged(
    page: BookWorkspace, answers: Answers, tmp_path: Path
) -> None:
    typed(page, *left_alone(page))
    page.facts.number_typed.emit("3")
    page.show_page("More")
    page.more.show_topic("Books, tables")
    for name, door in (("jobs.csv", "write"), ("jobs.xlsx", "write"), ("all.tcbook", "whole")):
        answers.path = tmp_path / name
        page.more.doors[door].click()
        assert answers.path.stat().st_size > 400
    book = page.model.keeper.book
    assert book is not None
    before = book.digests()
    for name in ("jobs.csv", "all.tcbook"):
        answers.path = tmp_path / name
        page.more.doors["take"].click()
    assert book.digests() == before
    # Another book is shown first; that an engine of it has a number of ours is asked about.
    other = filled(tmp_path / "other.tcbook")
    other.close()
    page.take_file(tmp_path / "other.tcbook")
    more = page.more
    assert more.coming is not None
    assert "3 new here" in more.coming.words
    assert "in both books under one number" in more.coming.words
    assert book.digests() == before
    take, two, leave = more.choices
    assert take.isVisible()
    assert two.isVisible()
    leave.click()
    assert not take.isVisible()
    assert more.doors["take"].isVisible()
    assert book.digests() == before
    page.take_file(tmp_path / "other.tcbook")
    take.click()
    (copy,) = (book.db.path.parent / "backups").glob("*-before-merge.tcbook")
    assert copy.stat().st_size > 400
    assert len(book.digests()) == len(before) + 3
    # The list shows them at once.
    assert len(page.model.lines) == len(before) + 3
    assert len(book.engines()) == 1
    answers.path = tmp_path / "wrong.csv"
    answers.path.write_text("a,b\n1,2\n")
    page.more.doors["take"].click()
    assert len(book.digests()) == len(before) + 3


def test_notes_stripes_and_targets_of_a_job(page: BookWorkspace) -> None:
    texts = left_alone(page)
    names = [item.name for item in page.model.items]
    texts[names.index("E5")] = "0.30"
    typed(page, *texts)
    assert not page.job.stripe.isEnabled()
    typed(page, "0.40")
    page.model.pick(item_named("E5"), "after_nut")
    page.job.stripe.click()
    page.job.note.setText("nut is new")
    page.job.note.editingFinished.emit()
    record = open_job(page).record(item_named("E5"))
    assert (record.stripe, record.torque_nm, record.note) == (True, 27.0, "nut is new")
    page.show_page("Facts")
    band, source = page.facts.targets[1]
    assert band.text() == "0.35..0.45 mm"
    band.setText("0.30..0.40 = 0.34")
    source.setText("Bench book / 2 / 41 / turbo")
    source.editingFinished.emit()
    target = open_job(page).target(item_named("E1"))
    assert target is not None
    assert (target.target_mm, target.band_mm) == (0.34, (0.30, 0.40))
    assert target.source.words == "Bench book, 2, page 41, turbo"
    band.setText("0.40..0.30")
    band.editingFinished.emit()
    assert open_job(page).target(item_named("E1")) == target
    page.facts.hot.click()
    assert page.facts.targets[1][0].text() in ("", "0.40..0.30")


def test_a_part_of_one_item_begins_its_trend_anew(page: BookWorkspace) -> None:
    keeper, now = page.model.keeper, datetime.now(UTC)
    keeper.clock = lambda: now - timedelta(days=30)
    page.begin.click()
    typed(page, *left_alone(page))
    keeper.clock = lambda: now
    page.begin.click()
    typed(page, *left_alone(page))
    fact(page, "parts", "E5 valve: burnt")
    points = page.model.changes(open_job(page))
    assert points[item_named("E5")].change is None
    assert points[item_named("E4")].change is not None
    # The book says the same as the window.
    entries = keeper.entries(page.model.book_engine.id)
    assert entries[-1].items[item_named("E5")].anew


# A year ------------------------------------------------------------------------------------------


def test_a_year_on_one_engine(
    open_window: MakeWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Five jobs by two people, one exhaust closing, a shim job, a new head; then trend, sheet,
    table and back into an empty book without a difference.
    """
    window = open_window("linden")
    page = book_of(window)
    keeper, now = page.model.keeper, datetime.now(UTC).replace(microsecond=0)
    page.facts.number_typed.emit("12")
    # E4 closes, and is shimmed in the fourth job; before the last the head was changed.
    year = [
        (360, 600, "Mina L.", "0.30", ""),
        (270, 1010, "Joel R.", "0.29", ""),
        (180, 1420, "Joel R.", "0.27", ""),
        (90, 1840, "Joel R.", "0.19", ""),
        (1, 2100, "Joel R.", "0.30", "head: cracked"),
    ]
    names = [item.name for item in page.model.items]
    told, printed = [], []
    for days, hours, who, gap, parts in year:
        monkeypatch.setattr(keeper, "clock", lambda d=days: now - timedelta(days=d))
        page.show_page("Job")
        page.begin.click()
        fact(page, "person", who)
        fact(page, "clock", str(hours))
        if parts:
            fact(page, "parts", parts)
        page.show_page("Job")
        texts = ["0.20" if name[0] == "I" else "0.30" for name in names]
        texts[names.index("E4")] = gap
        typed(page, *texts)
        if page.model.asked is not None:
            page.show_page("Shims")
            typed(page, *["2.70"] * len(names))
            plan = page.shims_model.plan
            assert plan is not None
            assert plan.bought_mm == (2.6,)
            printed.append(page.document())
            page.shims.fit.click()
            page.show_page("Job")
            typed(page, "0.29", "0.30")
        assert page.model.asked is None
        fact(page, "signed", who)
        page.show_page("History")
        page.model.show_history(item_named("E4"))
        told.append(page.history.told())
        printed.append(page.document())
    changes = [
        None if one is None or one[3].change is None else round(one[3].change.low, 2)
        for one in told
    ]
    assert changes == [None, -0.01, -0.02, -0.08, None]
    fourth = told[3]
    assert fourth is not None
    assert fourth[4] is not None
    assert [cause.value for cause in fourth[4].causes] == ["valve-or-seat"]
    rate = fourth[3].rate()
    assert rate is not None
    assert rate.low == pytest.approx(-0.08 / 4.2)
    page.show_page("Job")
    for nth, document in enumerate((*printed, page.document())):
        assert document is not None
        write_document(document, A4, tmp_path / f"{nth}.pdf")
        assert (tmp_path / f"{nth}.pdf").stat().st_size > 5000
    assert {document.name for document in printed if document} == {"history-E4", "shims"}
    book = keeper.book
    assert book is not None
    lines = table_of(book.jobs(page.model.book_engine.id), export_values(book))
    empty = Book(tmp_path / "empty.tcbook")
    setup = Setup(None, empty.person, now.date(), now.isoformat())
    found = jobs_from(parse_table(csv_text(lines), "t.csv"), setup, "t.csv")
    for engine in found.engines.values():
        empty.put_engine(engine)
    for job in found.jobs:
        empty.write_job(None, job, now.isoformat())
    assert empty.digests() == book.digests()
    assert len(empty.lines()) == 5
    # Closed and opened again it is all there.
    window.close()
    again = Book(keeper.path)
    assert again.digests() == empty.digests()
