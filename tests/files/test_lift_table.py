from pathlib import Path

import pytest

from true_compass.core.limits import EngineError
from true_compass.files.lift_table import parse_lift_table, read_lift_table
from true_compass.files.problems import EngineFileError

LIFTS = (0.0, 0.02, 0.9, 3.0, 3.6, 2.9, 0.8, 0.01, 0.0)


def text(head: str, mark: str = ",", factor: float = 1.0, step: float = 20.0) -> str:
    rows = "".join(f"{i * step}{mark}{lift * factor:.5f}\n" for i, lift in enumerate(LIFTS))
    return f"{head}\n{rows}"


@pytest.mark.parametrize(
    ("table", "angle"),
    [
        (text("crank_deg,lift_mm"), 20.0),
        (text("cam_deg,lift_mm"), 40.0),
        (text("Cam_deg;Lift_mm", ";").replace(".", ","), 40.0),
        (text("cam_deg\tlift_in", "\t", 1 / 25.4), 40.0),
        ("# read on the bench\n" + text("cam_deg,lift_thou", ",", 1 / 0.0254), 40.0),
    ],
)
def test_tables_as_people_have_them(table: str, angle: float) -> None:
    read = parse_lift_table(table)
    assert read.angles_deg[1] == angle
    assert read.lifts_mm == pytest.approx(LIFTS, abs=2e-4)


def test_the_resolution_is_the_last_printed_digit() -> None:
    rows = "".join(f"{20 * i},{lift:.2f}\n" for i, lift in enumerate(LIFTS))
    assert parse_lift_table("cam_deg,lift_mm\n" + rows).resolution_mm == 0.01
    assert parse_lift_table("cam_deg,lift_mm\n" + rows, resolution_mm=0.05).resolution_mm == 0.05


@pytest.mark.parametrize(
    ("table", "says"),
    [
        ("", "is empty"),
        ("0,1\n", "has no head"),
        ("deg,mm\n0,0\n", "has no head"),
        (text("cam_deg,lift_mm").replace("0.90000", "0.9mm"), "'0.9mm' in row 4"),
        (text("cam_deg,lift_mm").replace("0.90000", "nan"), "'nan' in row 4"),
        (text("cam_deg,lift_mm") + "200,1,2\n", "has 3 values in row 11"),
        (text("cam_deg,lift_mm") + "10,0\n", "goes back"),
        (text("cam_deg,lift_mm") + "160,0\n", "twice"),
        (text("cam_deg,lift_mm") + "180,2\n", "begin and end at zero"),
        ("cam_deg,lift_mm\n" + "1,0\n" * 6000, "more than 5000 rows"),
    ],
)
def test_wrong_tables_are_explained(table: str, says: str) -> None:
    with pytest.raises(EngineError, match=says):
        parse_lift_table(table)


def test_files_that_are_no_tables(tmp_path: Path) -> None:
    path = tmp_path / "lobe.csv"
    with pytest.raises(EngineFileError, match="is not there"):
        read_lift_table(path)
    path.write_bytes(b"\xff\xfe\x00")
    with pytest.raises(EngineFileError, match="UTF-8"):
        read_lift_table(path)
    path.write_bytes(b"0,0\n" * 10_000_000)
    with pytest.raises(EngineFileError, match="larger than 1 MB"):
        read_lift_table(path)
    path.write_text(text("cam_deg,lift_mm"), encoding="utf-8")
    assert len(read_lift_table(path).lifts_mm) == len(LIFTS)
