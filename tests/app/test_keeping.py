"""Nothing is lost and nothing is overwritten: drafts, saving, reading again, other writers."""

import json
import os
import pickle
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt

from tests.conftest import Answers, MakeWindow
from tests.qtest import QTest
from true_compass.app.window.window import MainWindow
from true_compass.core.items import item_named
from true_compass.files.engine_file import read_engine
from true_compass.files.rigs import demo_rig, rig_text
from true_compass.session.drafts import Drafts
from true_compass.session.progress import Progress
from true_compass.session.session import Source
from true_compass.session.store import MOST_FILES, Store, Troubles
from true_compass.session.work import FRESH, deed_name

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


def drafts_in(folder: Path) -> tuple[Drafts, list[str]]:
    told: list[str] = []
    troubles = Troubles()
    troubles.listen(told.append)
    return Drafts(Store(folder, troubles)), told


def test_drafts_that_cannot_be_kept_or_read_stop_nothing(tmp_path: Path) -> None:
    in_the_way = tmp_path / "file"
    in_the_way.write_text("", encoding="utf-8")
    drafts, told = drafts_in(in_the_way / "drafts")
    for _ in range(2):
        drafts.keep(Source(rig="birch"), demo_rig("birch"))
    drafts.drop(Source(rig="birch"))
    # It is told once.
    assert len(told) == 1
    assert "cannot be kept" in told[0]
    drafts, told = drafts_in(tmp_path / "drafts")
    assert drafts.of(Source(rig="birch")) is None
    drafts.keep(Source(rig="birch"), demo_rig("birch"))
    (draft,) = (tmp_path / "drafts").iterdir()
    for text in ("half a dra", "[]", '{"values": {"format": 5}}', "9" * 5000):
        draft.write_text(text, encoding="utf-8")
        assert drafts.of(Source(rig="birch")) is None
        assert not draft.exists()
    assert len(list((tmp_path / "drafts").glob("*.broken-*"))) == 4
    assert "set aside" in told[0]


def test_only_so_many_drafts_are_kept_the_newest(tmp_path: Path) -> None:
    (drafts, _), engine = drafts_in(tmp_path), demo_rig("alder")
    sources = [Source(path=Path(f"/bench/{n}.engine.toml")) for n in range(MOST_FILES + 3)]
    for age, source in enumerate(reversed(sources)):
        before = set(tmp_path.iterdir())
        drafts.keep(source, engine)
        (new,) = set(tmp_path.iterdir()) - before
        os.utime(new, (1e9 + age, 1e9 + age))
    assert [drafts.of(source) is None for source in sources[-4:]] == [False, True, True, True]
    kept = drafts.of(sources[0])
    assert kept is not None
    assert kept.engine == engine


def test_a_draft_does_not_overwrite_what_a_colleague_has_saved_since(
    open_window: MakeWindow, bench: Path
) -> None:
    window = open_window("alder")
    window.opener.open_path(bench)
    set_rod(window, 190.0)
    window.close()
    theirs = bench.read_text(encoding="utf-8").replace("bore_mm = 96.0", "bore_mm = 97.0")
    bench.write_text(theirs, encoding="utf-8")
    again = open_window("alder")
    again.opener.open_path(bench)
    # Both are shown field by field; until a person has chosen, the file is what is open.
    assert again.sheet.isVisible()
    assert ("dimensions.rod_mm", "182.0 → 190.0") in again.sheet.rows
    assert ("dimensions.bore_mm", "97.0 → 96.0") in again.sheet.rows
    assert (rod(again), again.session.state.engine.bore_mm) == (182.0, 97.0)
    again.close()
    third = open_window("alder")
    third.opener.open_path(bench)
    take = next(b for b in third.sheet.choice_buttons if b.text() == "Take my edits")
    take.click()
    assert (rod(third), third.session.state.engine.bore_mm) == (190.0, 96.0)
    QTest.keyClick(third, Key.Key_Z, CTRL)
    assert third.session.state.engine.bore_mm == 97.0
    assert bench.read_text(encoding="utf-8") == theirs


def test_keeping_the_file_gives_the_edits_up(open_window: MakeWindow, bench: Path) -> None:
    window = open_window("alder")
    window.opener.open_path(bench)
    set_rod(window, 190.0)
    window.close()
    theirs = bench.read_text(encoding="utf-8").replace("bore_mm = 96.0", "bore_mm = 97.0")
    bench.write_text(theirs, encoding="utf-8")
    again = open_window("alder")
    again.opener.open_path(bench)
    next(b for b in again.sheet.choice_buttons if b.text() == "Keep the file").click()
    again.close()
    third = open_window("alder")
    third.opener.open_path(bench)
    assert not third.sheet.isVisible()
    assert rod(third) == 182.0


def test_two_windows_keep_each_others_ticks_and_drafts(open_window: MakeWindow) -> None:
    one, two = open_window("birch"), open_window("birch")
    set_rod(two, 190.0)
    two.draft_keeper.keep()
    for window, name in ((one, "I1"), (two, "E1")):
        window.session.tick({item_named(name): "set"}, f"tick of {name}")
    # The first closes without edits of its own: the other's draft is not its to take away.
    one.close()
    two.close()
    third = open_window("birch")
    assert rod(third) == 190.0
    assert {deed_name(deed) for deed in third.session.state.work.done} == {"I1", "E1"}


def test_ticks_are_undone_by_the_same_key_as_edits_and_go_with_a_copy(
    open_window: MakeWindow, answers: Answers, tmp_path: Path
) -> None:
    window = open_window("birch")
    window.session.tick({item_named("I3"): "set"}, "tick of I3")
    set_rod(window, 190.0)
    QTest.keyClick(window, Key.Key_Z, CTRL)
    assert window.note.text == "Undone: edit of rod."
    QTest.keyClick(window, Key.Key_Z, CTRL)
    assert window.note.text == "Undone: tick of I3."
    assert window.session.state.work.done == {}
    QTest.keyClick(window, Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
    answers.path = tmp_path / "copy.engine.toml"
    window.opener.choose_and_save_copy()
    window.close()
    again = open_window("alder")
    again.opener.open_path(answers.path)
    assert list(again.session.state.work.done) == [item_named("I3")]


def test_a_tick_is_on_disk_at_once_and_an_edit_within_a_second(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    window = open_window("birch")
    window.session.tick({item_named("I3"): "set"}, "tick of I3")
    (kept,) = (tmp_path / "settings" / "state" / "progress").glob("*.json")
    assert json.loads(kept.read_text(encoding="utf-8"))["items"]["I3"]["how"] == "set"
    # Whoever types on all the time is kept too.
    for tenth in range(12):
        set_rod(window, 190.0 + tenth)
        QTest.qWait(100)
    (draft,) = (tmp_path / "settings" / "state" / "drafts").glob("*.json")
    rod_mm = json.loads(draft.read_text(encoding="utf-8"))["values"]["dimensions"]["rod_mm"]
    assert rod_mm >= 195.0


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("settings.json", "{"),
        ("settings.json", "[]"),
        ("settings.json", '{"look.text_percent": [1], "engine.crank_deg": "x"}'),
        ("settings.json", '{"engine.path": "/etc", "engine.digest": "x"}'),
        ("settings.json", '{"engine.path": "a\\u0000b"}'),
        ("state/progress", "{"),
        ("state/progress", "[1]"),
        ("state/progress", '{"items": 5, "stop": "x", "school": []}'),
        ("state/progress", '{"items": {"Z9": 1, "I1": {"how": "eaten"}}, "stop": -1}'),
        ("state/drafts", '{"values": {"format": "true-compass-engine", "version": 3}}'),
    ],
)
def test_what_was_kept_and_makes_no_sense_never_ends_a_start(
    open_window: MakeWindow, tmp_path: Path, name: str, text: str
) -> None:
    first = open_window("birch")
    first.session.tick({item_named("I3"): "set"}, "tick of I3")
    set_rod(first, 190.0)
    first.close()
    at = tmp_path / "settings" / name
    (path,) = [at] if at.suffix else at.glob("*.json")
    path.write_text(text, encoding="utf-8")
    again = open_window()
    QTest.keyClick(again, Key.Key_S)
    assert again.grab().width() > 0
    assert again.session.state.engine.cylinder_count == 6


def test_old_settings_are_read_without_what_they_could_run(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    mark = tmp_path / "ran"
    # A pickled call, as a library that reads variants would run it at the start.
    call = pickle.dumps(Touch(mark)).hex()
    folder = tmp_path / "settings"
    folder.mkdir()
    (folder / "settings.ini").write_text(
        f"[engine]\nrig=cedar\ncrank_deg=@Variant({call})\n[look]\ndark=true\n"
        f"[window]\ngeometry=@PyQt_PyObject({call})\n",
        encoding="utf-8",
    )
    window = open_window()
    assert (window.session.state.source.rig, window.look.dark) == ("cedar", True)
    assert not mark.exists()


class Touch:
    """Pickled, it makes a file when it is read."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def __reduce__(self) -> tuple[object, tuple[Path]]:
        return Path.touch, (self.path,)


def test_what_another_open_program_holds_is_neither_taken_up_nor_taken_away(
    open_window: MakeWindow, tmp_path: Path
) -> None:
    window = open_window("birch")
    set_rod(window, 190.0)
    window.session.tick({item_named("I3"): "set"}, "tick of I3")
    window.close()
    folders = [tmp_path / "settings" / "state" / name for name in ("drafts", "progress")]
    # The process that runs this test run is surely another one, and open.
    for folder in folders:
        (path,) = folder.glob("*.json")
        path.rename(path.with_name(path.name.replace(str(os.getpid()), str(os.getppid()))))
    again = open_window("birch")
    # Its ticks count; its edits are its own.
    assert (rod(again), len(again.session.state.work.done)) == (182.0, 1)
    set_rod(again, 200.0)
    again.session.tick({item_named("E3"): "set"}, "tick of E3")
    again.close()
    for folder in folders:
        assert len(list(folder.glob("*.json"))) == 2
    third = open_window("birch")
    assert (rod(third), len(third.session.state.work.done)) == (200.0, 2)


def test_two_programs_may_tick_within_one_second(tmp_path: Path) -> None:
    """What one took back is not brought back by the other's file, though both are as old."""
    noon = datetime(2026, 5, 4, 12, 0, 0, tzinfo=UTC)
    one, two = (Progress(Store(tmp_path, Troubles()), lambda: noon) for _ in range(2))
    key, tick, other = Source(rig="birch").key, item_named("I5"), item_named("E1")
    ticked = FRESH.with_done({tick: "set"})
    one.keep(key, FRESH, ticked)
    (mine,) = tmp_path.glob("*.json")
    # Seen from the second program, the first is another process that still runs.
    away = mine.rename(mine.with_name(mine.name.replace(str(os.getpid()), str(os.getppid()))))
    two.keep(key, ticked, ticked.with_done({other: "set"}))
    away.rename(mine)
    (theirs,) = set(tmp_path.glob("*.json")) - {mine}
    theirs.rename(theirs.with_name(theirs.name.replace(str(os.getpid()), str(os.getppid()))))
    one.keep(key, ticked, FRESH)
    (their_file,) = set(tmp_path.glob("*.json")) - {mine}
    os.utime(their_file, (4e9, 4e9))
    assert [deed_name(deed) for deed in one.of(key).done] == ["E1"]
