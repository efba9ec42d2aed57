"""Jobs out of a table: what a book wrote comes back without a difference, paper gets new ids.

A line that came twice is one job: ids of jobs without one follow from engine, name and day.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date
from types import MappingProxyType
from typing import Any, Final
from uuid import NAMESPACE_OID, UUID, uuid5

from true_compass.book.job import (
    SHIM_MM,
    BookEngine,
    ItemRecord,
    Job,
    Measure,
    Part,
    Person,
    SeenTo,
    Target,
    check_item,
)
from true_compass.book.trend import ALL_ANEW, ITEM_ANEW
from true_compass.core.chained import plain_json
from true_compass.core.items import Item
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit
from true_compass.files.book_db import BookError, Progress, StoppedError, go_on
from true_compass.files.book_file import Book
from true_compass.files.book_rows import MEASURES, head_from_values
from true_compass.files.job_table import (
    Row,
    TableJob,
    anew_in,
    cell_day,
    cell_gap,
    cell_item,
    cell_number,
    clock_of,
)
from true_compass.files.problems import EngineFileError, Problem

TEXT_FACTS: Final = (
    "seen_by",
    "blades",
    "unit",
    "school",
    "zero_lash",
    "complaint",
    "signs_before",
    "signs_after",
    "signed",
    "note",
    "origin",
)
OWN_FACTS: Final = (
    "engine",
    "engine_copy",
    "engine_id",
    "engine_digest",
    "made",
    "person_id",
    "by_distance",
)
YES: Final = {"yes": True, "1": True, "x": True, "": False, "no": False, "0": False}


@dataclass(slots=True)
class Imported:
    """What a table held: jobs, the engines that it told of, and copies of engines by digest."""

    jobs: list[Job] = field(default_factory=list)
    engines: dict[str, BookEngine] = field(default_factory=dict)
    copies: dict[str, dict[str, Any]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Setup:
    """What a table from paper does not say: the engine, its targets, the unit, and the day."""

    engine: BookEngine | None
    person_of: Callable[[str], Person]
    today: date
    made: str
    targets: tuple[Target, ...] = ()
    hydraulic: bool = False


def jobs_from(tables: Sequence[TableJob], setup: Setup, file_name: str) -> Imported:
    """Every job of a table. Raises `EngineFileError` with one sentence, and nothing is taken.

    The lines of each job are let go when it is made: a table of years is large.
    """
    found = Imported()
    try:
        for table in tables:
            found.jobs.append(_job(table, setup, found))
            table.rows.clear()
    except (EngineError, ValueError, TypeError) as error:
        named = (
            f"{error.field} {error}"
            if isinstance(error, EngineError)
            else f"makes no sense: {error}"
        )
        raise EngineFileError(file_name, (Problem("", None, named),)) from None
    return found


def take_in(
    book: Book,
    found: Imported,
    engine: BookEngine | None,
    values: dict[str, Any] | None,
    now: str,
    tell: Progress = go_on,
) -> int:
    """Write the jobs of a table that are not in a book yet, with their engines; how many were new.

    `engine` with its plain `values` is the one that jobs from paper were done on. `tell` is told
    how many of how many are done, and says whether to go on. Raises `BookError`, `StoppedError`;
    then the book is as it was.
    """
    added = 0
    with book.db.writing("the table"):
        for digest, copy in found.copies.items():
            book.put_copy(digest, copy)
        there = {line.id for line in book.lines()}
        engines = {one.id for one in book.engines()}
        for done, job in enumerate(found.jobs, start=1):
            if job.id not in there:
                own = engine if engine is not None and engine.id == job.engine_id else None
                if job.engine_id not in engines or own is not None:
                    _put_engine(book, found.engines.get(job.engine_id), own, values, job)
                    engines.add(job.engine_id)
                    engine = None if own is not None else engine
                book.write_job(None, job, now)
                there.add(job.id)
                added += 1
            if not tell(done, len(found.jobs)):
                raise StoppedError("Stopped: nothing of the table was taken.")
    return added


def _put_engine(
    book: Book,
    told: BookEngine | None,
    own: BookEngine | None,
    values: dict[str, Any] | None,
    job: Job,
) -> None:
    if told is not None:
        book.put_engine(told)
    elif own is not None:
        book.put_engine(own, values)
    else:
        raise BookError(
            f"The job {job.id[:40]} is on an engine that the table does not tell of: name it with "
            "--engine. Nothing of the table was taken."
        )


def _facts(table: TableJob) -> tuple[dict[str, Any], dict[str, Any]]:
    """The job's own facts, and those of its head."""
    own: dict[str, Any] = {}
    head: dict[str, Any] = {}
    for name, text in table.facts.items():
        plain = name in TEXT_FACTS or name in ("engine_id", "engine_digest", "made", "person_id")
        try:
            value = text if plain else plain_json(text)
        except ValueError:
            raise table.first.wrong(f"fact {name[:30]}", f"makes no sense: {text[:30]!r}") from None
        (own if name in OWN_FACTS else head)[name] = value
    return own, head


def _engine_id(own: dict[str, Any], table: TableJob, setup: Setup, found: Imported) -> str:
    if isinstance(own.get("engine"), dict):
        engine = BookEngine(**{key: str(value) for key, value in own["engine"].items()})
        found.engines[engine.id] = engine
    if isinstance(own.get("engine_copy"), dict) and own.get("engine_digest"):
        found.copies[own["engine_digest"]] = own["engine_copy"]
    if own.get("engine_id"):
        return str(own["engine_id"])
    if setup.engine is None:
        raise table.first.wrong("job", "does not say on which engine it was: name it with --engine")
    return setup.engine.id


def _job(table: TableJob, setup: Setup, found: Imported) -> Job:
    own, head_values = _facts(table)
    engine_id = _engine_id(own, table, setup, found)
    head = head_from_values(head_values)
    day = cell_day(table.first, setup.today)
    clock, by_distance = clock_of(table.first)
    by_distance = by_distance or own.get("by_distance") is True
    from_paper = not table.facts
    person = (
        Person(own["person_id"], table.first["person"])
        if own.get("person_id")
        else setup.person_of(table.first["person"])
    )
    if from_paper:
        head |= {"origin": "table", "targets": setup.targets}
    items: dict[Item, ItemRecord] = {}
    parts = list(head.get("parts", ()))
    for row in table.rows:
        item = cell_item(row)
        if item in items:
            raise row.wrong("item", f"{item.name} was told before in this job: keep one line")
        record = _record(row, from_paper)
        if (
            setup.hydraulic
            and item.is_valve
            and record.found is not None
            and record.found.gap is not None
        ):
            raise row.wrong(
                "found_mm",
                f"gives lash for {item.name}, which is hydraulic: write turns, 1.5 turns",
            )
        new = anew_in(row["note"]) if from_paper else ""
        if new in ALL_ANEW and not any(part.what == new for part in parts):
            parts.append(Part(new))
        try:
            check_item(item.name, record)
        except EngineError as error:
            raise row.wrong("item", f"{error.field} {error}") from None
        items[item] = record
    if parts:
        head["parts"] = tuple(parts)
    made = own.get("made") or setup.made
    return Job(
        id=_job_id(table.name, engine_id, day) if from_paper else table.name[:64],
        engine_id=engine_id,
        engine_digest=str(own.get("engine_digest", setup.engine.digest if setup.engine else "")),
        day=day,
        made=str(made),
        person=person,
        clock=clock,
        by_distance=by_distance,
        items=MappingProxyType(items),
        **head,
    )


def _job_id(name: str, engine_id: str, day: date) -> str:
    try:
        return str(UUID(name))
    except ValueError:
        return str(uuid5(NAMESPACE_OID, f"true-compass {engine_id} {name} {day.isoformat()}"))


def _record(row: Row, from_paper: bool) -> ItemRecord:
    units = row["typed_in"].split()
    told = [units[0] if len(units) == 1 else one for one in (units * 3)[:3]] if units else []
    measures: dict[str, Measure | None] = {}
    for n, which in enumerate(MEASURES):
        unit = GapUnit(told[n]) if told and told[n] != "-" else GapUnit.MM
        measures[which] = _measure(row, which, unit)
    torque = cell_number(row, "torque_nm", 0, 500) or 0.0
    stripe = _yes(row, "stripe")
    try:
        seen_to = SeenTo(row["seen_to"].casefold())
    except ValueError:
        words = ", ".join(one.value for one in SeenTo if one.value)
        wrong = f"must be {words} or empty, not {row['seen_to'][:20]!r}"
        raise row.wrong("seen_to", wrong) from None
    note, anew = row["note"], row["part_changed"].casefold()
    if from_paper and anew_in(note) in ITEM_ANEW:
        anew = anew_in(note)
    shim_mm, shim_left_mm = (cell_number(row, key, *SHIM_MM) for key in ("shim_mm", "shim_left_mm"))
    found, left, nut = (measures[which] for which in MEASURES)
    return ItemRecord(
        found,
        left,
        nut,
        torque,
        stripe,
        note,
        anew,
        shim_mm,
        shim_left_mm,
        seen_to,
        off_heel=_yes(row, "off_heel"),
        torqued=_yes(row, "torqued"),
    )


def _yes(row: Row, column: str) -> bool:
    told = YES.get(row[column].casefold())
    if told is None:
        raise row.wrong(column, f"must be yes or empty, not {row[column][:20]!r}")
    return told


def _measure(row: Row, which: str, unit: GapUnit) -> Measure | None:
    column = f"{which}_mm"
    text = row[column]
    if not text:
        return None
    typed = row[f"{which}_typed"] or text
    if text.endswith("turns"):
        try:
            return Measure(None, float(text.removesuffix("turns")), typed, unit)
        except ValueError:
            raise row.wrong(column, f"must be such as 1.5 turns, not {text[:20]!r}") from None
    return Measure(cell_gap(row, column), None, typed, unit)
