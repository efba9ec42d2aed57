"""Nothing is lost and nothing is overwritten: drafts, saving, reading again, other writers."""

import os
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.conftest import Answers, MakeWindow
from true_compass.app.window import MainWindow
from true_compass.files.engine_file import read_engine
from true_compass.files.rigs import demo_rig, rig_text
from true_compass.session.drafts import MOST_DRAFTS, Drafts
from true_compass.session.session import Source

Key = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def bench(tmp_path: Path) -> Path:
    path = tmp_path / "bench.engine.toml"
    path.write_text(rig_text("birch").replace("Rig Birch", "Bench six"), encoding="utf-8")
    return path


def set_rod(window: MainWindow, rod_mm: float) -> None:
    window.session.edit(replace(window.session.state.engine, rod_mm=rod_mm), "rod")


def rod(window: MainWindow) -> float:
    return window.session.state.engine.rod_mm


def test_an_edit_waits_while_another_rig_is_open(open_window: MakeWindow) -> None:
    window = open_window("birch")
    set_rod(window, 190.0)
    window.opener.open_rig("cedar")
    set_rod(window, 150.0)
    window.opener.open_rig("birch")
    assert (rod(window), window.session.state.edited) == (190.0, True)
    assert window.note.text.startswith("Rig Birch with your unsaved edits.")
    QTest.keyClick(window, Key.Key_Z, CTRL)
    assert (rod(window), window.session.state.edited) == (182.0, False)
    # Undone is gone; the other rig's edit is still there, also after a close.
    window.opener.open_rig("alder")
    window.opener.open_rig("birch")
    assert rod(window) == 182.0
    window.close()
    again = open_window("cedar")
    assert (rod(again), again.note.isVisible()) == (150.0, True)


def test_a_file_that_is_away_for_a_while_keeps_its_edit(
    open_window: MakeWindow, bench: Path
) -> None:
    window = open_window("alder")
    window.opener.open_path(bench)
    set_rod(window, 190.0)
    window.close()
    away = bench.rename(bench.with_name("elsewhere"))
    without = open_window()
    assert without.session.state.source.rig == "birch"
    assert "bench.engine.toml" in without.note.text
    without.close()
    away.rename(bench)
    back = open_window("alder")
    back.opener.open_path(bench)
    assert rod(back) == 190.0


def test_saved_edits_leave_no_draft(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    set_rod(window, 190.0)
    answers.path = tmp_path / "mine.engine.toml"
    QTest.keyClick(window, Key.Key_S, CTRL)
    assert read_engine(answers.path).rod_mm == 190.0
    window.opener.open_rig("birch")
    assert rod(window) == 182.0
    window.opener.open_path(answers.path)
    assert (rod(window), window.session.state.edited) == (190.0, False)


def test_an_edit_taken_back_after_saving_is_unsaved(open_window: MakeWindow, bench: Path) -> None:
    window = open_window("alder")
    window.opener.open_path(bench)
    set_rod(window, 190.0)
    QTest.keyClick(window, Key.Key_S, CTRL)
    assert window.windowTitle() == "Bench six – True Compass"
    QTest.keyClick(window, Key.Key_Z, CTRL)
    assert window.windowTitle() == "Bench six (edited) – True Compass"
    window.close()
    again = open_window()
    assert (rod(again), read_engine(bench).rod_mm) == (182.0, 190.0)


def test_a_file_that_somebody_else_wrote_is_left_alone(
    open_window: MakeWindow, bench: Path
) -> None:
    window = open_window("alder")
    window.opener.open_path(bench)
    set_rod(window, 190.0)
    theirs = bench.read_text(encoding="utf-8").replace("bore_mm = 96.0", "bore_mm = 97.0")
    bench.write_text(theirs, encoding="utf-8")
    QTest.keyClick(window, Key.Key_S, CTRL)
    assert "was changed elsewhere" in window.note.text
    assert bench.read_text(encoding="utf-8") == theirs
    QTest.keyClick(window, Key.Key_F5)
    assert (window.session.state.engine.bore_mm, rod(window)) == (97.0, 182.0)
    assert window.note.text.endswith("Ctrl+Z brings your edits back.")
    QTest.keyClick(window, Key.Key_Z, CTRL)
    assert (window.session.state.engine.bore_mm, rod(window)) == (96.0, 190.0)
    # Now that it has been read, it may be written.
    QTest.keyClick(window, Key.Key_S, CTRL)
    assert read_engine(bench) == window.session.state.engine
    # A program that starts later reads what is there, and may write it too.
    bench.write_text(theirs, encoding="utf-8")
    window.close()
    again = open_window()
    set_rod(again, 191.0)
    QTest.keyClick(again, Key.Key_S, CTRL)
    assert read_engine(bench).rod_mm == 191.0


def test_a_file_that_is_gone_is_written_anew_and_a_broken_one_lends_no_comments(
    open_window: MakeWindow, answers: Answers, bench: Path
) -> None:
    window = open_window("alder")
    window.opener.open_path(bench)
    bench.unlink()
    set_rod(window, 190.0)
    QTest.keyClick(window, Key.Key_S, CTRL)
    assert read_engine(bench).rod_mm == 190.0
    bench.write_text("bro[ken", encoding="utf-8")
    answers.path = bench.with_name("copy.engine.toml")
    window.opener.choose_and_save_copy()
    assert read_engine(answers.path) == window.session.state.engine


@pytest.mark.parametrize("content", [b"Dear Sir", b"\xff\xfe\x00", b""])
def test_a_copy_never_takes_the_place_of_another_kind_of_file(
    open_window: MakeWindow, answers: Answers, tmp_path: Path, content: bytes
) -> None:
    window = open_window("birch")
    answers.path = tmp_path / "letter.txt"
    answers.path.write_bytes(content)
    window.opener.choose_and_save_copy()
    assert window.note.text.startswith("letter.txt is no engine file and was left alone.")
    assert answers.path.read_bytes() == content
    assert window.session.state.source.rig == "birch"


def test_drafts_that_cannot_be_kept_or_read_stop_nothing(tmp_path: Path) -> None:
    in_the_way = tmp_path / "file"
    in_the_way.write_text("", encoding="utf-8")
    Drafts(in_the_way / "drafts").keep(Source(rig="birch"), demo_rig("birch"))
    Drafts(in_the_way / "drafts").drop(Source(rig="birch"))
    drafts = Drafts(tmp_path / "drafts")
    assert drafts.of(Source(rig="birch")) is None
    drafts.keep(Source(rig="birch"), demo_rig("birch"))
    (draft,) = (tmp_path / "drafts").iterdir()
    draft.write_text("half a dra", encoding="utf-8")
    assert drafts.of(Source(rig="birch")) is None


def test_only_so_many_drafts_are_kept_the_newest(tmp_path: Path) -> None:
    drafts, engine = Drafts(tmp_path), demo_rig("alder")
    sources = [Source(path=Path(f"/bench/{n}.engine.toml")) for n in range(MOST_DRAFTS + 3)]
    for age, source in enumerate(reversed(sources)):
        before = set(tmp_path.iterdir())
        drafts.keep(source, engine)
        (new,) = set(tmp_path.iterdir()) - before
        os.utime(new, (1e9 + age, 1e9 + age))
    assert [drafts.of(source) is None for source in sources[-4:]] == [False, True, True, True]
    assert drafts.of(sources[0]) == engine
