"""`book`: trends out of a table, and the book of jobs without a window."""

import argparse
import contextlib
import json
from collections import defaultdict
from collections.abc import Callable
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

from true_compass.book.brackets import Bracket
from true_compass.book.job import BookEngine, new_id
from true_compass.book.pointing import UNLEARNT_MM, USUAL_STEP_MM, Pointing
from true_compass.book.targets import targets_of
from true_compass.book.trend import RATE_HOURS, Entry, Point, changes_in, pointed
from true_compass.cli.adjusting import band_by_kind
from true_compass.cli.common import (
    PROGRAM,
    Outcome,
    UsageError,
    is_there,
    number_of,
    resolve_engine,
    rounded,
    ticker,
)
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.items import Item
from true_compass.core.words import counted
from true_compass.files.book_db import SUFFIX, BookDb, BookError
from true_compass.files.book_exchange import put_back_copy, write_out, write_table
from true_compass.files.book_file import Book
from true_compass.files.book_merge import export_values, merge
from true_compass.files.database import newest_copy
from true_compass.files.engine_values import engine_digest, values_of_engine
from true_compass.files.job_import import Setup, jobs_from, take_in
from true_compass.files.job_table import (
    FIRST_COLUMNS,
    entries_of,
    read_table,
    table_of,
)
from true_compass.files.kinds import BOOK_NAME
from true_compass.files.rigs import rig_names

Interval = float | list[float] | None


def add_book_commands(commands: "argparse._SubParsersAction[Any]") -> None:
    """`book` and what it can do."""
    book = commands.add_parser("book", help="trends, and the book of jobs")
    kinds = book.add_subparsers(dest="kind", required=True)
    trend = kinds.add_parser("trend", help="what changed in the last job of a table")
    trend.set_defaults(run=run_trend)
    trend.add_argument("table", metavar="JOBS.csv")
    trend.add_argument("--band", metavar="LOW/HIGH", help="both ends in, mm; I:…,E:… for two kinds")
    trend.add_argument(
        "--blades", default=str(USUAL_STEP_MM), metavar="MM", help="step of the blades"
    )
    trend.add_argument(
        "--scatter", default=str(UNLEARNT_MM), metavar="MM", help="of one reading by this hand"
    )
    blank = kinds.add_parser("blank", help="a table to fill in, one line an item")
    blank.set_defaults(run=run_blank)
    blank.add_argument("engine", metavar="FILE | RIG", help="engine file or rig")
    blank.add_argument("-o", "--output", required=True, metavar="FILE.csv|.xlsx")
    add = kinds.add_parser("add", help="take the jobs of a table into the book")
    add.set_defaults(run=run_add)
    add.add_argument("table", metavar="JOBS.csv")
    add.add_argument("--engine", metavar="FILE | RIG", help="on which engine they were done")
    add.add_argument("--number", default="", help="the engine's own number")
    shown = kinds.add_parser("list", help="every job, the newest first")
    shown.set_defaults(run=run_list)
    one = kinds.add_parser("show", help="one job")
    one.set_defaults(run=run_show)
    one.add_argument("job", help="the job's id, or the beginning of it")
    export = kinds.add_parser("export", help="the book as a table or as one file")
    export.set_defaults(run=run_export)
    export.add_argument("-o", "--output", required=True, metavar=f"FILE.csv|.xlsx|{SUFFIX}")
    export.add_argument("--number", help="only the engine of this number or name")
    joined = kinds.add_parser("merge", help="take every job of another book")
    joined.set_defaults(run=run_merge)
    joined.add_argument("other", metavar=f"OTHER{SUFFIX}")
    joined.add_argument(
        "--join", metavar="NUMBER", help="their engine of this number is ours of this number"
    )
    check = kinds.add_parser("check", help="whether the book is sound")
    check.set_defaults(run=run_check)
    back = kinds.add_parser("put-back", help="the newest whole copy in the place of a damaged book")
    back.set_defaults(run=run_put_back)
    for command in (add, shown, one, export, joined, check, back):
        command.add_argument("--book", metavar=f"FILE{SUFFIX}", help="another book than your own")
    for command in (trend, add, shown, one, joined, check):
        command.add_argument("--json", action="store_true", help="print JSON")


# Trends ------------------------------------------------------------------------------------------


def run_trend(options: argparse.Namespace) -> str:
    """`true-compass book trend`."""
    path = Path(options.table)
    entries = entries_of(read_table(path), path.name, date.today())
    if not entries:
        raise UsageError(f"{path.name} holds no job: add a line for each item that was measured")
    band_of = band_by_kind(options.band)
    scatter = number_of("--scatter", options.scatter, 0.0, 1.0)
    step = number_of("--blades", options.blades, 0.0, 1.0)
    job = entries[-1]
    points = changes_in(entries, len(entries) - 1)
    told = pointed(points, job, lambda _: scatter, step)
    rows = [_trend_record(p, told.get(item), band_of) for item, p in points.items()]
    if options.json:
        return json.dumps({"job": job.name, "items": rows}, indent=2, ensure_ascii=False)
    return "\n".join(_trend_lines(job, points, told, band_of))


def interval(value: Bracket | None) -> Interval:
    """A number, or both ends of a bracket, as JSON has it."""
    if value is None:
        return None
    ends = [rounded(value.low), rounded(value.high)]
    return ends[0] if ends[0] == ends[1] else ends


def _trend_record(
    point: Point, told: Pointing | None, band_of: Callable[[Item], tuple[float, float] | None]
) -> dict[str, Any]:
    return {
        "name": point.item.name,
        "change_mm": interval(point.change),
        "per_100h_mm": interval(point.rate(RATE_HOURS)),
        "due_in_h": interval(point.due(band_of(point.item))),
        "points_to": [cause.value for cause in told.causes] if told is not None else [],
    }


def _trend_lines(
    job: Entry,
    points: dict[Item, Point],
    told: dict[Item, Pointing],
    band_of: Callable[[Item], tuple[float, float] | None],
) -> list[str]:
    lines = [f"Job {job.name}, {job.day.isoformat()}: change since last left"]
    for item, point in points.items():
        words = [f"{item.name:<4} {_signed(point.change)}"]
        rate, due = point.rate(RATE_HOURS), point.due(band_of(item))
        if rate is not None:
            words.append(f"{_signed(rate, 4)} per 100 h")
        if due is not None:
            words.append(f"at the end of its band in {due.low:.0f} h")
        causes = told[item].causes if item in told else ()
        words += [f"points to {cause.words}" for cause in causes]
        lines.append(", ".join(words))
    return lines


def _signed(value: Bracket | None, digits: int = 2) -> str:
    if value is None:
        return "no change known"
    ends = [f"{end:+.{digits}f}" for end in (value.low, value.high)]
    return f"{ends[0]} mm" if value.is_number else f"{ends[0]} to {ends[1]} mm"


# The book ----------------------------------------------------------------------------------------


def usual_book() -> Path:
    """Where a person's own book is."""
    from platformdirs import user_data_path

    return user_data_path(PROGRAM) / BOOK_NAME


@contextmanager
def _book(options: argparse.Namespace, *, must_be: bool = True) -> Any:
    path = Path(options.book) if options.book else usual_book()
    if must_be and not is_there(path):
        raise UsageError(f"there is no book {path}: `book add` begins one")
    try:
        book = Book(path)
        try:
            yield book
        finally:
            book.close()
    except BookError as error:
        raise UsageError(str(error)) from None


def run_put_back(options: argparse.Namespace) -> str:
    """`true-compass book put-back`."""
    path = Path(options.book) if options.book else usual_book()
    try:
        with contextlib.suppress(BookError), contextlib.closing(Book(path, read_only=True)) as book:
            if not book.check():
                raise UsageError(f"{path.name[:60]} is whole: nothing was done")
        return put_back_copy(path, date.today())
    except BookError as error:
        raise UsageError(str(error)) from None


def run_add(options: argparse.Namespace) -> str:
    """`true-compass book add`."""
    path = Path(options.table)
    tables = read_table(path)
    with _book(options, must_be=False) as book:
        setup, values = _setup(book, options)
        found = jobs_from(tables, setup, path.name)
        added = take_in(book, found, setup.engine, values, _now(), ticker("jobs taken in"))
        told = {"jobs": len(found.jobs), "added": added, "book": str(book.db.path)}
    if options.json:
        return json.dumps(told, indent=2)
    return f"{counted(len(found.jobs), 'job')} read, {added} new in {told['book']}"


def _setup(book: Book, options: argparse.Namespace) -> tuple[Setup, dict[str, Any] | None]:
    """What the command line says of jobs from paper, and a copy of the engine as it is set."""
    if options.engine is None:
        return Setup(None, book.person, date.today(), _now()), None
    made = resolve_engine(options.engine)
    rig = options.engine in rig_names()
    key = f"rig {options.engine}" if rig else f"file {Path(options.engine).absolute()}"
    engine = _engine_in(book, made.name, options.number or made.serial, key, engine_digest(made))
    setup = Setup(engine, book.person, date.today(), _now(), targets_of(made), made.train.hydraulic)
    return setup, values_of_engine(made)


def _engine_in(book: Book, name: str, serial: str, source: str, digest: str) -> BookEngine:
    """The engine of the book that this is, or a new one."""
    serial = serial.strip()
    same = (
        book.same_number(serial)
        if serial
        else [one for one in book.engines() if one.source == source and not one.serial]
    )
    if len(same) > 1:
        raise UsageError(f"the book has {len(same)} engines of number {serial}: merge them first")
    if same:
        return replace(same[0], digest=digest)
    return BookEngine(new_id(), name, serial, source, digest)


def _now() -> str:
    return datetime.now(UTC).replace(microsecond=0).isoformat()


def run_list(options: argparse.Namespace) -> str:
    """`true-compass book list`."""
    with _book(options) as book:
        titles = defaultdict[str, str](lambda: "an engine that is gone")
        titles |= {engine.id: engine.title for engine in book.engines()}
        lines = book.lines()
        counts = book.counts([line.id for line in lines])
    if options.json:
        rows = [
            {
                "job": line.id,
                "date": line.day.isoformat(),
                "engine": titles[line.engine_id],
                "km" if line.by_distance else "hours": line.clock,
                "person": line.person,
                "items": counts[line.id][1],
                "set": counts[line.id][0],
            }
            for line in lines
        ]
        return json.dumps({"jobs": rows}, indent=2, ensure_ascii=False)
    return "\n".join(
        f"{line.id[:8]}  {line.day.isoformat()}  {titles[line.engine_id]}  {line.person or '–'}  "
        f"{counts[line.id][0]} of {counts[line.id][1]} set"
        for line in lines
    )


def run_show(options: argparse.Namespace) -> str:
    """`true-compass book show`."""
    with _book(options) as book:
        found = [line.id for line in book.lines() if line.id.startswith(options.job)]
        if len(found) != 1:
            many = "no job" if not found else f"{len(found)} jobs"
            raise UsageError(f"{many} of the book begin with {options.job[:40]!r}: see `book list`")
        job = book.job(found[0])
        assert job is not None
        engine = book.engine(job.engine_id)
        table = list(table_of([job], export_values(book)))
    if options.json:
        head, *lines = table
        cells = [{k: v for k, v in zip(head, line, strict=True) if v} for line in lines]
        return json.dumps({"job": job.id, "lines": cells}, indent=2, ensure_ascii=False)
    title = engine.title if engine is not None else "an engine"
    told = [f"{title}, {job.day.isoformat()}, {job.clock_words}, {job.person.name}".rstrip(", ")]
    for item, record in job.items.items():
        words = [f"{item.name:<4} found {record.found.words if record.found else '–'}"]
        if record.was_set and record.final is not None:
            words.append(f"left {record.final.words}")
        told.append(", ".join(filter(None, (*words, record.note))))
    return "\n".join(told)


def run_blank(options: argparse.Namespace) -> str:
    """`true-compass book blank`."""
    path = _new_file(options.output)
    engine = resolve_engine(options.engine)
    day = date.today().isoformat()
    items = [setting.item.name for setting in settings_of(engine)]
    lines = [list(FIRST_COLUMNS), *(["1", day, "", "", name, "", "", ""] for name in items)]
    try:
        write_table(path, lines)
    except BookError as error:
        raise UsageError(str(error)) from None
    return f"{path}: {len(items)} lines. Fill in found_mm and left_mm, then: book add {path}"


def _new_file(text: str) -> Path:
    path = Path(text)
    if is_there(path):
        raise UsageError(f"{path.name} is there already: choose another name, nothing was written")
    return path


def run_export(options: argparse.Namespace) -> str:
    """`true-compass book export`."""
    path = _new_file(options.output)
    with _book(options) as book:
        if options.number is None:
            return write_out(book, path, tell=ticker("jobs written"))
        if path.suffix == SUFFIX:
            raise UsageError(f"--number is for tables: a {SUFFIX} file is the whole book")
        engines = [one for one in book.engines() if options.number in (one.serial, one.name)]
        if len(engines) != 1:
            many = "no engine" if not engines else f"{len(engines)} engines"
            raise UsageError(f"{many} of the book has the number or name {options.number[:40]!r}")
        return write_out(book, path, engines[0], ticker("jobs written"))


def _checked(path: Path) -> tuple[list[str], int]:
    """What is wrong with a book, and how many jobs can be read in it."""
    try:
        book = Book(path, read_only=True)
    except BookError as error:
        return [str(error)], 0
    try:
        return book.check(), len(book.lines())
    except BookError as error:
        return [str(error)], 0
    finally:
        book.close()


def run_merge(options: argparse.Namespace) -> Outcome:
    """`true-compass book merge`."""
    other = Path(options.other)
    if not is_there(other):
        raise UsageError(f"{other} is not there: check the name")
    with _book(options, must_be=False) as book:
        join = {}
        if options.join is not None:
            theirs = Book(other, read_only=True)
            pairs = [
                (t.id, o.id)
                for t in theirs.same_number(options.join)
                for o in book.same_number(options.join)
                if o.id != t.id
            ]
            theirs.close()
            if len(pairs) != 1:
                raise UsageError(f"number {options.join[:20]} is not on one engine of each book")
            join = dict(pairs)
        book.db.back_up_before_merge(datetime.now())
        done = merge(book, other, join, ticker("jobs merged"))
    told = {"added": done.added, "renewed": done.renewed, "beside": done.beside, "same": done.same}
    asked = [f"{one.name} number {one.serial}" for one, _ in done.asked]
    if options.json:
        return Outcome(json.dumps(told | {"asked": asked}, indent=2, ensure_ascii=False))
    words = (
        f"{told['added']} jobs added, {told['renewed']} renewed, {told['same']} the same, "
        f"{told['beside']} kept beside another"
    )
    questions = [
        f"Both books have an engine {one}. If they are one engine, merge again with "
        "--join NUMBER into a book that does not have it twice."
        for one in asked
    ]
    return Outcome("\n".join([words, *questions]))


def run_check(options: argparse.Namespace) -> Outcome:
    """`true-compass book check`: 1 where something is wrong with it."""
    path = Path(options.book) if options.book else usual_book()
    if not is_there(path):
        raise UsageError(f"there is no book {path}: `book add` begins one")
    found, count = _checked(path)
    copy = newest_copy(BookDb.kind, path) if found else None
    if copy is not None:
        found.append(f"The newest whole copy is {copy}: `book put-back` puts it in its place.")
    if options.json:
        return Outcome(json.dumps({"jobs": count, "problems": found}, indent=2), 1 if found else 0)
    return Outcome("\n".join(found) or f"{count} jobs, nothing wrong", 1 if found else 0)
