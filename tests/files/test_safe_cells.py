"""No cell of a table is worked out, and every one comes back as it was."""

import csv
from io import StringIO

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from true_compass.files.job_table import csv_text
from true_compass.files.safe_cells import plain_cell, safe_cell

NASTY = st.text(st.sampled_from("=+-@'; \t\r\n,|1aé\"").map(str), max_size=12)


@given(NASTY | st.text(max_size=20))
@example("'=1")
@example(";;'' =1")
def test_a_cell_comes_back_as_it_was(text: str) -> None:
    assert plain_cell(safe_cell(text)) == text


@pytest.mark.parametrize("between", [",", ";", "\t"])
@given(st.lists(NASTY, min_size=1, max_size=3))
def test_whatever_parts_the_columns_where_it_is_opened_nothing_begins_as_a_formula(
    between: str, cells: list[str]
) -> None:
    """As a program of another country reads it: its own mark between the cells, blanks trimmed."""
    for row in csv.reader(StringIO(csv_text([cells]), newline=""), delimiter=between):
        for cell in row:
            told = cell.strip().lstrip('"').strip()
            begins = told[:1] in ("=", "+", "-", "@")
            assert not begins or told.lstrip("+-").replace(",", ".").replace(".", "", 1).isdigit()
