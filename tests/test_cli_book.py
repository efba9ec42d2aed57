"""`adjust`, `shims` and `book` as they are typed."""

import json
from pathlib import Path

import pytest

from tests.files.jobs import filled
from true_compass.entry import main
from true_compass.files.book_file import Book

JOBS = """job,date,hours,person,item,found_mm,left_mm,note
1,2025-01-10,1200,Joel,E1,0.43,0.40,
1,2025-01-10,1200,Joel,E2,0.40,,
1,2025-01-10,1200,Joel,E3,0.40,,
1,2025-01-10,1200,Joel,E4,0.40,,
1,2025-01-10,1200,Joel,E5,0.37,0.40,
2,2025-06-10,1650,Joel,E1,0.39,,
2,2025-06-10,1650,Joel,E2,0.39,,
2,2025-06-10,1650,Joel,E3,0.38..0.40,,
2,2025-06-10,1650,Joel,E4,0.39,,
2,2025-06-10,1650,Joel,E5,0.34,0.40,
"""


def run(words: str, capsys: pytest.CaptureFixture[str], code: int = 0) -> str:
    assert main(words.split()) == code
    told = capsys.readouterr()
    return told.err if code == 2 else told.out


def record(words: str, capsys: pytest.CaptureFixture[str], code: int = 0) -> dict:  # type: ignore[type-arg]
    told = json.loads(run(f"{words} --json", capsys, code))
    assert isinstance(told, dict)
    return told


@pytest.mark.parametrize(
    ("words", "turn", "direction"),
    [
        (
            "push-rod-screw --thread M10x1 --ratio 1.6 --measured 0.42 --target 0.25",
            38.25,
            "tighter",
        ),
        ("rod-screw --thread M10x1 --ratio 1.6 --measured 0.08 --target 0.25", 38.25, "looser"),
        ("valve-screw --thread M8x1 --measured 0.25 --target 0.25", 0.0, "none"),
        ("pivot-nut --thread 3/8-24 --ratio 1.5 --measured 0.515 --target 0.25", 36.06, "tighter"),
        ("finger-pivot --thread M8x1 --ratio 1.5 --measured 0.3 --target 0.2", 72.0, "tighter"),
        ("valve-screw --thread M8x1 --measured 10thou --target 0.154", 36.0, "tighter"),
    ],
)
def test_adjust(
    words: str, turn: float, direction: str, capsys: pytest.CaptureFixture[str]
) -> None:
    told = record(f"adjust --adjuster {words}", capsys)
    assert told["turn_deg"] == pytest.approx(turn, abs=0.01)
    assert told["direction"] == direction
    assert told["new_mm"] == pytest.approx(float(words.split()[-1]))


def test_adjust_a_plunger(capsys: pytest.CaptureFixture[str]) -> None:
    told = record(
        "adjust --adjuster pedestal --thread M8x1.25 --ratio 1.6 --hydraulic --preload 1.015625",
        capsys,
    )
    assert (told["turns"], told["turn_deg"]) == (0.5, 180.0)


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("finger-pivot --thread M8x1 --ratio 1 --measured 0.3 --target 0.2", "other than 1"),
        ("pivot-nut --thread M8x1 --measured 15 --target 0.15", "0.15 mm? 15 thou is 0.38 mm"),
        ("pivot-nut --thread M8x1 --measured 8 --target 0.15", "8 thou is 0.20 mm"),
        ("pivot-nut --thread X8 --measured 0.3 --target 0.15", "thread must be a thread"),
        ("pivot-nut --thread M8x1 --measured 0.3", "--measured and --target"),
        ("pivot-nut --thread M8x1 --hydraulic --measured 0.3", "no gap"),
        ("pivot-nut --thread M8x1 --hydraulic", "--preload"),
        ("shim --thread M8x1 --measured 0.3 --target 0.15", "plan shims"),
        ("pivot-nut --thread M8x1 --ratio 9 --measured 0.3 --target 0.15", "0.5 to 4"),
        ("pivot-nut --thread M8x1 --measured -0.3 --target 0.15", "less than nothing"),
    ],
)
def test_adjust_refuses(words: str, says: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert says in run(f"adjust --adjuster {words}", capsys, 2)


def test_shims_for_two_kinds(capsys: pytest.CaptureFixture[str]) -> None:
    told = record(
        "shims --shims 2.70,2.80,2.60,2.85 --gaps 0.13,0.24,0.12,0.22 --names I1,E1,I4,E4 "
        "--band I:0.15/0.25,E:0.25/0.35 --stock 2.50:3.50:0.05",
        capsys,
    )
    assert told["bought"] == [2.5]
    assert [(p["position"], p["from"]) for p in told["place"]] == [
        ("I1", "position I4"),
        ("E1", "position I1"),
        ("I4", "buy"),
        ("E4", "position E1"),
    ]
    assert all(0.15 <= p["gap_mm"] <= 0.35 for p in told["place"])


def test_shims_that_nothing_serves(capsys: pytest.CaptureFixture[str]) -> None:
    told = record("shims --shims 2.70,2.80 --gaps 0.20,0.60 --band 0.15/0.25", capsys, 1)
    assert told["place"][1] == {
        "position": "2",
        "shim_mm": None,
        "from": None,
        "gap_mm": None,
    }
    assert told["place"][0]["from"] == "stays"
    assert "nothing brings it" in run(
        "shims --shims 2.70,2.80 --gaps 0.20,0.60 --band 0.15/0.25", capsys, 1
    )


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("--shims 2.7 --gaps 0.2,0.3 --band 0.15/0.25", "2 values for 1 shims"),
        ("--shims 2.7 --gaps 0.2 --band 0.25/0.15", "wider end first"),
        ("--shims 2.7 --gaps 0.2 --band 0.2", "two ends"),
        ("--shims 2.7 --gaps 0.2 --band 0.15/0.25 --target 0.4", "outside the band"),
        ("--shims 2.7 --gaps 0.2 --band 0.15/0.25 --stock 2:1:0.1", "least:most:step"),
        ("--shims 270 --gaps 0.2 --band 0.15/0.25", "0.1 to 20"),
        ("--shims 2.7 --gaps 20 --band 0.15/0.25", "20 thou"),
        ("--shims 2.7 --gaps 0.2 --band I:0.15/0.25 --names E1", "says nothing of E1"),
        ("--shims 2.7 --gaps 0.2 --band I:0.15/0.25", "differ by kind"),
        ("--shims 2.7,2.8 --gaps 0.2,0.2 --band 0.15/0.25 --names I1,I1", "one name twice"),
    ],
)
def test_shims_refuse(words: str, says: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert says in run(f"shims {words}", capsys, 2)


# The book ----------------------------------------------------------------------------------------


@pytest.fixture
def table(tmp_path: Path) -> Path:
    (tmp_path / "jobs.csv").write_text(JOBS)
    return tmp_path / "jobs.csv"


def test_trend(table: Path, capsys: pytest.CaptureFixture[str]) -> None:
    told = record(f"book trend {table} --band 0.30/0.50", capsys)["items"]
    by_name = {row["name"]: row for row in told}
    assert by_name["E5"]["change_mm"] == pytest.approx(-0.06)
    assert by_name["E5"]["per_100h_mm"] == pytest.approx(-0.0133, abs=5e-5)
    assert by_name["E5"]["due_in_h"] == pytest.approx(750)
    assert by_name["E5"]["points_to"] == ["valve-or-seat"]
    assert by_name["E1"]["change_mm"] == pytest.approx(-0.01)
    assert by_name["E3"]["change_mm"] == pytest.approx([-0.02, 0.0])
    assert "points to its valve or seat" in run(f"book trend {table}", capsys)


def test_a_new_head_in_the_table_begins_anew(
    table: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    table.write_text(JOBS.replace("E5,0.37,0.40,", "E5,0.37,0.40,new head"))
    told = record(f"book trend {table}", capsys)["items"]
    assert told[4]["change_mm"] == pytest.approx(-0.06)
    table.write_text(JOBS.replace("E5,0.34,0.40,", "E5,0.34,0.40,new head"))
    told = record(f"book trend {table}", capsys)["items"]
    assert {row["change_mm"] for row in told} == {None}
    assert {row["due_in_h"] for row in told} == {None}


def test_a_book_from_paper_to_table_and_back(
    table: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    one, two = tmp_path / "one.tcbook", tmp_path / "two.tcbook"
    told = record(f"book add {table} --engine birch --number 3 --book {one}", capsys)
    assert (told["jobs"], told["added"]) == (2, 2)
    assert record(f"book add {table} --engine birch --number 3 --book {one}", capsys)["added"] == 0
    listed = record(f"book list --book {one}", capsys)["jobs"]
    assert [(row["date"], row["engine"], row["set"]) for row in listed] == [
        ("2025-06-10", "Rig Birch, number 3", 1),
        ("2025-01-10", "Rig Birch, number 3", 2),
    ]
    assert "found 0.34 mm" in run(f"book show {listed[0]['job'][:8]} --book {one}", capsys)
    run(f"book export -o {tmp_path / 'all.csv'} --book {one}", capsys)
    run(f"book add {tmp_path / 'all.csv'} --book {two}", capsys)
    assert Book(two).digests() == Book(one).digests()
    run(f"book export -o {tmp_path / 'copy.tcbook'} --book {one}", capsys)
    merged = record(f"book merge {tmp_path / 'copy.tcbook'} --book {two}", capsys)
    assert (merged["added"], merged["same"], merged["asked"]) == (0, 2, [])
    assert "nothing wrong" in run(f"book check --book {two}", capsys)
    run(f"book export -o {tmp_path / 'all.xlsx'} --book {one}", capsys)


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("list --book none.tcbook", "there is no book"),
        ("trend none.csv", "is not there"),
        ("merge none.tcbook --book {book}", "is not there"),
        ("show zzz --book {book}", "no job of the book"),
        ("export -o x.txt --book {book}", "must end in .csv"),
        ("export -o {book} --book {book}", "there already"),
        ("list --book {table}", "is no book"),
    ],
)
def test_book_refuses(
    words: str, says: str, table: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    filled(tmp_path / "b.tcbook").close()
    told = words.format(book=tmp_path / "b.tcbook", table=table)
    assert says in run(f"book {told}", capsys, 2)


def test_equal_numbers_are_asked_about_and_joined_when_said(
    table: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    one, two = tmp_path / "one.tcbook", tmp_path / "two.tcbook"
    for book in (one, two):
        run(f"book add {table} --engine birch --number 3 --book {book}", capsys)
    asked = run(f"book merge {two} --book {one} --join 3", capsys)
    assert "Both books" not in asked
    assert len(Book(one).engines()) == 1
