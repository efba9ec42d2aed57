"""Tables of jobs: out and in without a difference, and what is wrong is named by its line."""

from datetime import date
from pathlib import Path

import openpyxl
import pytest

from tests.files.jobs import NOW, book_engine, filled
from true_compass.files.book_file import Book
from true_compass.files.book_merge import export_values
from true_compass.files.job_import import Setup, jobs_from
from true_compass.files.job_table import COLUMNS, csv_text, entries_of, parse_table, table_of
from true_compass.files.job_workbook import write_xlsx
from true_compass.files.problems import EngineFileError

TODAY = date(2026, 11, 26)
HEAD = "job,date,hours,person,item,found_mm,left_mm,note"


def lines_of(book: Book) -> list[list[str]]:
    jobs = [job for engine in book.engines() for job in book.jobs(engine.id)]
    return list(table_of(jobs, export_values(book)))


@pytest.mark.parametrize("mark", [",", ";", "\t"])
def test_a_book_comes_back_from_its_table_without_a_difference(tmp_path: Path, mark: str) -> None:
    book = filled(tmp_path / "a.tcbook")
    text = "\ufeff" + csv_text(lines_of(book), mark)
    empty = Book(tmp_path / "b.tcbook")
    found = jobs_from(parse_table(text, "t.csv"), Setup(None, empty.person, TODAY, NOW), "t.csv")
    for engine in found.engines.values():
        empty.put_engine(engine)
    for digest, values in found.copies.items():
        empty.put_copy(digest, values)
    for job in found.jobs:
        empty.write_job(None, job, NOW)
    assert empty.digests() == book.digests()
    assert lines_of(empty) == lines_of(book)
    # The table of a book is also what a trend reads.
    told = entries_of(parse_table(text, "t.csv"), "t.csv", TODAY)
    assert told == book.entries("e-birch-3")


def test_a_workbook_holds_no_formula(tmp_path: Path) -> None:
    book = filled(tmp_path / "a.tcbook")
    write_xlsx(tmp_path / "t.xlsx", lines_of(book))
    sheet = openpyxl.load_workbook(tmp_path / "t.xlsx").active
    assert sheet is not None
    cells = [cell for row in sheet.iter_rows() for cell in row if cell.value is not None]
    assert [cell.value for cell in cells[: len(COLUMNS)]] == list(COLUMNS)
    assert "f" not in {cell.data_type for cell in cells}
    notes = [cell.value for cell in cells if str(cell.value).startswith("=2+3")]
    assert len(notes) == 3
    numbers = [cell for cell in cells if cell.data_type == "n"]
    assert 1840.5 in {cell.value for cell in numbers}


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("1,2025-01-10,1200,Joel,E1,15,,", "found_mm in line 2 is 15 mm: 0.15 mm"),
        ("1,2025-01-10,1200,Joel,E1,8,,", "8 thou is 0.20 mm"),
        ("1,2025-01-10,1200,Joel,E1,0.20 mm 8 thou,,", "0.20..0.25 or 10 thou, not"),
        ("1,2025-01-10,1200,Joel,E1,0.25..0.20,,", "thicker"),
        ("1,2025-01-10,1200,Joel,E1,,0.20,", "without found_mm"),
        ("1,2027-01-10,1200,Joel,E1,0.2,,", "ahead of today"),
        ("1,10.1.2025,1200,Joel,E1,0.2,,", "must be a day such as"),
        ("1,2025-01-10,many,Joel,E1,0.2,,", "hours in line 2 must be a plain number"),
        ("1,2025-01-10,1200,Joel,Q1,0.2,,", "item in line 2 must be a name"),
        (",2025-01-10,1200,Joel,E1,0.2,,", "job in line 2 is empty"),
        ("1,2025-01-10,1200,Joel,E1,0,2,,", "put semicolons"),
        (
            "1,2025-01-10,1200,J,E1,0.2,,\n1,2025-01-10,1200,J,E1,0.3,,",
            "E1 was told before",
        ),
        (
            "1,2025-01-10,1200,J,E1,0.2,,\n1,2025-01-11,1200,J,E2,0.3,,",
            "differs from line 2, of the same job",
        ),
        (
            "1,2025-01-10,1200,J,E1,0.2,,\n2,2025-02-11,1100,J,E1,0.3,,",
            "hours in line 3 fall: 1100 after 1200 in line 2",
        ),
    ],
)
def test_a_wrong_line_is_named(line: str, words: str) -> None:
    with pytest.raises(EngineFileError, match=words.replace("(", r"\(")):
        entries_of(parse_table(f"{HEAD}\n{line}\n", "t.csv"), "t.csv", TODAY)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "is empty"),
        ("job,date,item\n1,2025-01-01,E1\n", "lacks the columns"),
        (f"{HEAD},note\n", "one column twice"),
    ],
)
def test_a_wrong_head_is_named(text: str, words: str) -> None:
    with pytest.raises(EngineFileError, match=words):
        parse_table(text, "t.csv")


def test_a_table_with_semicolons_decimal_commas_and_a_mark_of_order_is_read() -> None:
    text = "\ufeff" + HEAD.replace(",", ";") + "\n1;2025-01-10;1200,5;Joel;E1;0,25;0,40;a, b\n"
    (entry,) = entries_of(parse_table(text, "t.csv"), "t.csv", TODAY)
    (seen,) = entry.items.values()
    assert entry.clock == 1200.5
    assert seen.found is not None
    assert seen.left is not None
    assert (seen.found.low, seen.left.low) == (0.25, 0.40)


@pytest.mark.parametrize(
    ("cell", "low_mm", "high_mm"),
    [
        ("10 thou", 0.254, 0.254),
        ("0.006 in", 0.1524, 0.1524),
        ("0.25 mm", 0.25, 0.25),
        ("8..10 thou", 0.2032, 0.254),
        ("0.20 mm..10 thou", 0.20, 0.254),
    ],
)
def test_a_cell_may_have_its_own_unit(cell: str, low_mm: float, high_mm: float) -> None:
    text = f"{HEAD}\n1,2025-01-10,1200,Joel,E1,{cell},,\n"
    (entry,) = entries_of(parse_table(text, "t.csv"), "t.csv", TODAY)
    (seen,) = entry.items.values()
    assert seen.found is not None
    assert (seen.found.low, seen.found.high) == pytest.approx((low_mm, high_mm))


def test_paper_gets_ids_that_follow_from_what_it_says(tmp_path: Path) -> None:
    told, _ = book_engine()
    book = Book(tmp_path / "b.tcbook")
    text = f"{HEAD}\n1,2025-01-10,1200,Joel,E1,0.2,,new head\n"
    setup = Setup(told, book.person, TODAY, NOW)
    one, two = (jobs_from(parse_table(text, "t.csv"), setup, "t").jobs[0] for _ in range(2))
    assert one.id == two.id
    assert one.all_anew
    with pytest.raises(EngineFileError, match="--engine"):
        jobs_from(parse_table(text, "t"), Setup(None, book.person, TODAY, NOW), "t")
    with pytest.raises(EngineFileError, match="hydraulic"):
        jobs_from(parse_table(text, "t"), Setup(told, book.person, TODAY, NOW, (), True), "t")
