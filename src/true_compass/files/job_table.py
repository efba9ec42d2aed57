"""Jobs as a table: CSV from paper or from another program, and the table that a book writes.

One line an item, the job's own columns on each; lines without an item hold one fact of the job
each. `docs/book.md` explains the columns. Commas, semicolons or tabs between them; a decimal comma
is read where commas do not separate.
"""

import csv
import json
import math
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date
from io import StringIO
from itertools import pairwise
from pathlib import Path
from typing import IO, Any, Final

from true_compass.book.brackets import Bracket, checked_gap, most_mm
from true_compass.book.job import ItemRecord, Job, Part, check_day
from true_compass.book.trend import ALL_ANEW, ITEM_ANEW, Entry, Seen
from true_compass.core.items import Item, item_named
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_length_mm
from true_compass.files.book_rows import MEASURES, head_from_values, head_values
from true_compass.files.problems import EngineFileError, Problem
from true_compass.files.reading import column_mark, read_text
from true_compass.files.safe_cells import plain_cell, safe_cell

FIRST_COLUMNS: Final = (
    "job",
    "date",
    "hours",
    "person",
    "item",
    "found_mm",
    "left_mm",
    "note",
)
MORE_COLUMNS: Final = (
    "km",
    "after_nut_mm",
    "found_typed",
    "left_typed",
    "after_nut_typed",
    "typed_in",
    "torque_nm",
    "stripe",
    "part_changed",
    "shim_mm",
    "shim_left_mm",
    "fact",
    "value",
    "seen_to",
    "off_heel",
    "torqued",
)
COLUMNS: Final = (*FIRST_COLUMNS, *MORE_COLUMNS)
MOST_BYTES: Final = 60_000_000
MOST_ROWS: Final = 400_000
_ANEW: Final = re.compile(rf"\bnew\s+({'|'.join((*ALL_ANEW, *ITEM_ANEW))})\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Row:
    """One line of a table, its cells by their column."""

    line: int
    cells: dict[str, str]

    def __getitem__(self, column: str) -> str:
        return self.cells.get(column, "")

    def wrong(self, column: str, sentence: str) -> EngineError:
        """An error that names line and column."""
        return EngineError(f"{column} in line {self.line}", sentence)


@dataclass(slots=True)
class TableJob:
    """The lines of one job."""

    name: str
    first: Row
    rows: list[Row] = field(default_factory=list)
    facts: dict[str, str] = field(default_factory=dict)


def parse_table(text: str, file_name: str) -> list[TableJob]:
    """The jobs of a table, as they come. Raises `EngineFileError` with one sentence."""
    try:
        return list(_jobs(_rows(text.removeprefix("\ufeff"))))
    except EngineError as error:
        sentence = f"{error.field} {error}"
        raise EngineFileError(file_name, (Problem("", None, sentence),)) from None


def read_table(path: Path) -> list[TableJob]:
    """The jobs of a CSV file."""
    return parse_table(read_text(path, "a table of jobs in CSV", MOST_BYTES), path.name)


def _rows(text: str) -> Iterable[Row]:
    text = text.lstrip("\r\n ")
    if not text:
        raise EngineError(
            "the table", f"is empty: its first line must be {','.join(FIRST_COLUMNS)}"
        )
    mark = column_mark(text.split("\n", 1)[0])
    found = _cells(text, mark)
    head = [cell.strip().casefold() for cell in next(found)[1]]
    missing = [name for name in FIRST_COLUMNS if name not in head and name != "hours"]
    if "hours" not in head and "km" not in head:
        missing.append("hours (or km)")
    if missing:
        raise EngineError("the first line", f"lacks the columns {', '.join(missing)}: add them")
    if len(set(head)) != len(head):
        raise EngineError("the first line", "names one column twice: keep one of them")
    known: dict[str, str] = {}
    for number, cells in found:
        if not any(cell.strip() for cell in cells):
            continue
        if len(cells) > len(head):
            raise EngineError(
                f"line {number}",
                f"has {len(cells)} cells for {len(head)} columns: with decimal commas put "
                "semicolons between the cells",
            )
        # Most cells are empty, and most others say what another one says.
        told = {}
        for name, cell in zip(head, cells, strict=False):
            cell = cell.strip()
            if cell:
                plain = known.setdefault(cell, plain_cell(cell))
                told[name] = plain if mark == "," or name in _WORDS else _with_points(plain)
        yield Row(number, told)


_LINE: Final = re.compile(r"[^\r\n]*(?:\r\n|\r|\n)|[^\r\n]+")


def _cells(text: str, mark: str) -> Iterator[tuple[int, list[str]]]:
    """The cells of each line with its number. Raises `EngineError`."""
    reader = csv.reader((line[0] for line in _LINE.finditer(text)), delimiter=mark)
    try:
        for nth, cells in enumerate(reader):
            if nth >= MOST_ROWS:
                raise EngineError("the table", f"has more than {MOST_ROWS:,} lines: split it")
            yield reader.line_num, cells
    except csv.Error as error:
        raise EngineError("the table", f"cannot be read ({error}): write plain cells") from None


_WORDS: Final = (
    "job",
    "person",
    "note",
    "value",
    "fact",
    "found_typed",
    "left_typed",
    "after_nut_typed",
)
_COMMA: Final = re.compile(r"(?<=\d),(?=\d)")


def _with_points(cell: str) -> str:
    return _COMMA.sub(".", cell)


def _jobs(rows: Iterable[Row]) -> Iterable[TableJob]:
    """Lines of one job together, in the order in which the jobs begin."""
    found: dict[str, TableJob] = {}
    for row in rows:
        name = row["job"]
        if not name:
            raise row.wrong("job", "is empty: give each job a name or a number")
        job = found.setdefault(name, TableJob(name, row))
        for column in ("date", "hours", "km", "person"):
            if row[column] != job.first[column]:
                raise row.wrong(column, f"differs from line {job.first.line}, of the same job")
        if row["item"]:
            job.rows.append(row)
        elif row["fact"]:
            if row["fact"] in job.facts:
                raise row.wrong("fact", f"{row['fact'][:30]} was told before: keep one")
            job.facts[row["fact"]] = row["value"]
    return found.values()


# Cells -------------------------------------------------------------------------------------------


def cell_number(row: Row, column: str, least: float, most: float) -> float | None:
    """A number in a cell, or None where it is empty. Raises `EngineError`."""
    text = row[column]
    if not text:
        return None
    try:
        value = float(text)
    except ValueError:
        raise row.wrong(column, f"must be a plain number, not {text[:20]!r}") from None
    if not (math.isfinite(value) and least <= value <= most):
        raise row.wrong(column, f"must be {least:g} to {most:,.0f}, not {value:g}")
    return value


def _unit_of(text: str) -> str:
    """What stands behind a number, or nothing."""
    return text.strip().lstrip("+-0123456789., ")


def cell_gap(row: Row, column: str) -> Bracket | None:
    """A gap in a cell, in mm: `0.25`, `0.20..0.25` or `8..10 thou`. None for nothing, or turns."""
    text = row[column]
    if not text or text.endswith("turns"):
        return None
    goes, between, does_not = text.partition("..")
    ends = []
    for end in (goes, does_not) if between else (goes,):
        try:
            # A unit behind the last of both is that of both: 8..10 thou.
            ends.append(parse_length_mm(column, end, _unit_of(does_not) or "mm"))
        except EngineError:
            raise row.wrong(
                column, f"must be a gap such as 0.25, 0.20..0.25 or 10 thou, not {text[:20]!r}"
            ) from None
    most = most_mm(row["item"])
    return checked_gap(f"{column} in line {row.line}", Bracket(ends[0], ends[-1]), most)


def cell_day(row: Row, today: date) -> date:
    """The day of a line. Raises `EngineError` for none, or one that has not come."""
    try:
        day = date.fromisoformat(row["date"])
    except ValueError:
        raise row.wrong(
            "date", f"must be a day such as 2026-11-12, not {row['date'][:20]!r}"
        ) from None
    try:
        check_day(day, today)
    except EngineError as error:
        raise row.wrong("date", str(error)) from None
    return day


def cell_item(row: Row) -> Item:
    """The item of a line."""
    try:
        return item_named(row["item"])
    except EngineError as error:
        raise row.wrong("item", str(error)) from None


def clock_of(row: Row) -> tuple[float | None, bool]:
    """Hours, or km, and which."""
    km = cell_number(row, "km", 0, 1e7)
    hours = cell_number(row, "hours", 0, 1e6)
    if km is not None and hours is not None:
        raise row.wrong("km", "and hours are both given: a trend goes by one of them, keep one")
    return (hours, False) if km is None else (km, True)


def anew_in(note: str) -> str:
    """What part a note says is new: `head`, `cam`, `valve` …; nothing where it says none.

    >>> anew_in("New head, fitted by Joel"), anew_in("renewed")
    ('head', '')
    """
    found = _ANEW.search(note)
    return found[1].casefold() if found else ""


# Trends ------------------------------------------------------------------------------------------


def entries_of(jobs: Sequence[TableJob], file_name: str, today: date) -> list[Entry]:
    """The jobs of a table as a trend needs them, the oldest first.

    Raises `EngineFileError`: for hours that fall, a day ahead, as-left without as-found …
    """
    try:
        found = [_entry(job, today) for job in jobs]
        # Of one day the table's own order holds.
        order = sorted(range(len(found)), key=lambda n: (found[n].day, n))
        entries = [found[n] for n in order]
        for before, after in pairwise(order):
            _check_clock(jobs[before], found[before], jobs[after], found[after])
    except EngineError as error:
        sentence = f"{error.field} {error}"
        raise EngineFileError(file_name, (Problem("", None, sentence),)) from None
    return entries


def _check_clock(job: TableJob, one: Entry, later: TableJob, other: Entry) -> None:
    if one.clock is not None and other.clock is not None and other.clock < one.clock:
        raise later.first.wrong(
            "hours",
            f"fall: {other.clock:g} after {one.clock:g} in line {job.first.line}. Correct one",
        )


def _parts(job: TableJob) -> tuple[Part, ...]:
    """The parts that a book's own table tells of."""
    if "parts" not in job.facts:
        return ()
    try:
        told = head_from_values({"parts": json.loads(job.facts["parts"])})["parts"]
    except (ValueError, RecursionError):
        raise job.first.wrong("fact parts", "makes no sense: take that line out") from None
    parts: tuple[Part, ...] = told
    return parts


def _entry(job: TableJob, today: date) -> Entry:
    clock, _ = clock_of(job.first)
    parts = _parts(job)
    anew = any(part.all_anew for part in parts)
    anew_items = {part.item for part in parts if part.item_anew}
    items: dict[Item, Seen] = {}
    for row in job.rows:
        item = cell_item(row)
        if item in items:
            raise row.wrong("item", f"{item.name} was told before in this job: keep one line")
        told = anew_in(row["note"]) or row["part_changed"].casefold()
        anew = anew or told in ALL_ANEW
        found, left = cell_gap(row, "found_mm"), cell_gap(row, "left_mm")
        left = cell_gap(row, "after_nut_mm") or left
        if left is not None and found is None and not row["found_mm"]:
            raise row.wrong(
                "left_mm", "is given without found_mm: measure as found before a nut is slackened"
            )
        items[item] = Seen(found, left, told in ITEM_ANEW or item.name in anew_items)
    items = {item: seen for item, seen in items.items() if seen != Seen()}
    person = " ".join(job.first["person"].split())
    return Entry(job.name, cell_day(job.first, today), clock, person, items, anew)


# Writing -----------------------------------------------------------------------------------------


def number_text(value: float | None) -> str:
    """A number as a cell has it: no digit lost, none needless."""
    if value is None:
        return ""
    return f"{value:.0f}" if value == int(value) and abs(value) < 1e15 else repr(float(value))


def _measure_cell(record: ItemRecord, which: str) -> str:
    measure = record.reading(which)
    if measure is None:
        return ""
    if measure.gap is None:
        return f"{number_text(measure.turns)} turns"
    ends = [number_text(end) for end in (measure.gap.low, measure.gap.high)]
    return ends[0] if measure.gap.is_number else "..".join(ends)


def table_of(jobs: Iterable[Job], engines: dict[str, dict[str, Any]]) -> Iterator[list[str]]:
    """All lines of a table, its head first. `engines` are the plain values of each engine's id
    (and, by its digest, of each copy), told once with the first job that needs them.
    """
    yield list(COLUMNS)
    told: set[str] = set()
    for job in jobs:
        hours = "" if job.by_distance else number_text(job.clock)
        km = number_text(job.clock) if job.by_distance else ""
        own = {"job": job.id, "date": job.day.isoformat(), "hours": hours, "km": km}
        own["person"] = job.person.name
        facts: dict[str, Any] = {"engine_id": job.engine_id, "made": job.made}
        facts |= {"engine_digest": job.engine_digest, "person_id": job.person.id}
        for key, name in (("engine", job.engine_id), ("engine_copy", job.engine_digest)):
            if name in engines and name not in told:
                facts[key] = engines[name]
                told.add(name)
        if job.by_distance and job.clock is None:
            # No column says so where the counter was not read.
            facts["by_distance"] = True
        facts |= head_values(job)
        for name, value in facts.items():
            if value != "":
                text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
                yield _line(own | {"fact": name, "value": text})
        for item, record in job.items.items():
            yield _line(own | _item_cells(item, record))


def _line(cells: dict[str, str]) -> list[str]:
    return [cells.get(column, "") for column in COLUMNS]


def _item_cells(item: Item, record: ItemRecord) -> dict[str, str]:
    measures = [record.reading(which) for which in MEASURES]
    units = [measure.unit.value if measure else "" for measure in measures]
    cells = {f"{which}_mm": _measure_cell(record, which) for which in MEASURES}
    cells |= {
        f"{which}_typed": measure.text if measure else ""
        for which, measure in zip(MEASURES, measures, strict=True)
    }
    told = sorted({unit for unit in units if unit})
    return cells | {
        "item": item.name,
        "note": record.note,
        "typed_in": told[0] if len(told) == 1 else " ".join(unit or "-" for unit in units),
        "torque_nm": number_text(record.torque_nm or None),
        "stripe": "yes" if record.stripe else "",
        "part_changed": record.anew,
        "shim_mm": number_text(record.shim_mm),
        "shim_left_mm": number_text(record.shim_left_mm),
        "seen_to": record.seen_to.value,
        "off_heel": "yes" if record.off_heel else "",
        "torqued": "yes" if record.torqued else "",
    }


def csv_text(lines: Iterable[Sequence[str]], mark: str = ",") -> str:
    """Lines as CSV, every cell safe from being taken for a formula; reading takes that back."""
    out = StringIO()
    write_csv(out, lines, mark)
    return out.getvalue()


def write_csv(file: IO[str], lines: Iterable[Sequence[str]], mark: str = ",") -> None:
    """Write lines as `csv_text` has them, one after the other."""
    cells = ([safe_cell(cell) if cell else "" for cell in line] for line in lines)
    csv.writer(file, delimiter=mark, lineterminator="\r\n").writerows(cells)
