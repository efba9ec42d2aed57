"""What was read of a cam outlasts the program, whatever is in the folder."""

import json
from dataclasses import replace
from pathlib import Path

import pytest

from true_compass.core.degreeing.sheet import (
    Cell,
    LobeRows,
    Part,
    Ready,
    Setup,
    Sheet,
    begun,
    entered,
    next_round,
)
from true_compass.core.degreeing.wheel import Scale, Wheel, Zero
from true_compass.core.items import Kind
from true_compass.files.cam_sheet import sheet_from, sheet_values
from true_compass.files.rigs import demo_rig
from true_compass.session.cam_sheets import cam_sheets
from true_compass.session.session import Session, Source
from true_compass.session.store import Store, Troubles


def session() -> Session:
    return Session(demo_rig("birch"), Source(rig="birch"))


def full() -> Sheet:
    """A sheet that says something everywhere."""
    setup = Setup(Wheel(Scale.FULL, Zero.BDC, against=True), 200.0, ready=(Ready.ROD, Ready.LOBE))
    sheet = begun(Sheet(setup, cylinder=3))
    sheet = entered(sheet, Cell(Part.TOP, 0, after=False), 1.0, far_side=True)
    sheet = entered(sheet, Cell(Part.EXHAUST, 1, after=True), 96.5)
    sheet = next_round(sheet, "cam: 1 tooth on").with_text("lift.io", "12,5")
    lobe = LobeRows(2, Kind.EXHAUST, ((36.5, 30.4), (None, None), (36.3, None)), 0.1, 6, 0.2)
    return replace(sheet, lobes=(lobe,), zero_error_mm=0.01, turned_on_only=True)


def test_a_sheet_comes_back_as_it_was() -> None:
    values = json.loads(json.dumps(sheet_values(full())))
    assert sheet_from(values) == full()


def spoilt() -> list[object]:
    values = sheet_values(full())
    sheet = values["sheet"]
    return [
        None,
        [],
        {},
        {**values, "version": 99},
        {**values, "sheet": {**sheet, "cylinder": "three"}},
        {**values, "sheet": {**sheet, "rounds": []}},
        {**values, "sheet": {**sheet, "cylinder": -1}},
        {**values, "sheet": {**sheet, "rounds": [{"tops": [{"drop_mm": 1.0, "before": 400.0}]}]}},
        {**values, "sheet": {**sheet, "zero_error_mm": float("nan")}},
        {**values, "sheet": {**sheet, "setup": {**sheet["setup"], "wheel_mm": None}}},
    ]


@pytest.mark.parametrize("values", spoilt())
def test_what_makes_no_sense_is_none(values: object) -> None:
    assert sheet_from(values) is None


def test_each_reading_is_on_the_disk_and_undone_there(tmp_path: Path) -> None:
    one = session()
    keeper = cam_sheets(Store(tmp_path, Troubles()), one)
    assert keeper.attach() == Sheet()
    one.write_cam(begun(Sheet(Setup())), "the set-up")
    one.write_cam(entered(one.state.cam or Sheet(), Cell(Part.TOP, 0, after=False), 9.1), "9.1")

    def kept() -> Sheet:
        return cam_sheets(Store(tmp_path, Troubles()), session()).attach()

    assert kept().now.tops[0].before == 9.1
    assert one.undo() == "9.1"
    assert kept().now.tops[0].before is None
    assert one.redo() == "9.1"
    # Another engine has a sheet of its own, and this one's is there when one comes back.
    one.open_engine(demo_rig("alder"), Source(rig="alder"))
    assert keeper.attach() == Sheet()
    one.open_engine(demo_rig("birch"), Source(rig="birch"))
    assert keeper.attach().now.tops[0].before == 9.1
    # Saved under another name, what was read goes along.
    one.saved(Source(path=tmp_path / "mine.engine.toml"))
    other = session()
    other.saved(Source(path=tmp_path / "mine.engine.toml"))
    assert cam_sheets(Store(tmp_path, Troubles()), other).attach().now.tops[0].before == 9.1


def test_a_file_that_makes_no_sense_is_set_aside_and_told(tmp_path: Path) -> None:
    one = session()
    keeper = cam_sheets(Store(tmp_path, Troubles()), one)
    keeper.attach()
    one.write_cam(begun(Sheet(Setup())), "the set-up")
    (path,) = tmp_path.glob("*.json")
    path.write_text('{"engine": "rig birch", "cam": {"version": 1, "sheet": {"cylinder": -1}}}')
    troubles = Troubles()
    assert cam_sheets(Store(tmp_path, troubles), session()).attach() == Sheet()
    assert list(tmp_path.glob("*.broken-1"))
    assert any("set aside" in sentence for sentence in troubles._told)
