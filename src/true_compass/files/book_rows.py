"""Between a job and the plain values that a book, a table and a digest hold of it."""

import hashlib
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import fields
from datetime import date
from types import MappingProxyType
from typing import Any, Final

from true_compass.book.brackets import Bracket
from true_compass.book.job import (
    BookSource,
    General,
    ItemRecord,
    Job,
    Measure,
    Part,
    Person,
    SeenTo,
    Target,
    ToDo,
    Witness,
    check_item,
)
from true_compass.core.chained import plain_json
from true_compass.core.items import item_named
from true_compass.core.limits import EngineError
from true_compass.core.units import GapUnit

Values = dict[str, Any]
OWN_COLUMNS: Final = (
    "id",
    "engine_id",
    "engine_digest",
    "day",
    "made",
    "person",
    "clock",
    "by_distance",
    "items",
)
"""What stands in columns of its own; all else of a job is its head."""
MEASURES: Final = ("found", "left", "after_nut")
MEASURE_COLUMNS: Final = tuple(
    f"{name}_{what}" for name in MEASURES for what in ("low", "high", "turns", "text", "unit")
)
ITEM_COLUMNS: Final = (
    "name",
    *MEASURE_COLUMNS,
    "torque_nm",
    "stripe",
    "note",
    "anew",
    "shim_mm",
    "shim_left_mm",
    "more",
)
MOST_FIGURE: Final = 1e9
MORE_KEYS: Final = {"seen_to", "off_heel", "torqued"}
MORE: Final = ITEM_COLUMNS[-1]
"""A cell of JSON for what came after version 1 of the book; empty where there is nothing."""


def head_values(job: Job) -> Values:
    """The head of a job as plain values; what says nothing is left out."""
    usual = Job("", "", "", date.min, "")
    told: Values = {}
    for field in fields(Job):
        value = getattr(job, field.name)
        if field.name in OWN_COLUMNS or value == getattr(usual, field.name):
            continue
        told[field.name] = _plain(value)
    return told


def _plain(value: Any) -> Any:
    if type(value) in (str, float, int, bool):
        return value
    if isinstance(value, GapUnit):
        return value.value
    if isinstance(value, tuple):
        return [_plain(one) for one in value]
    if isinstance(value, date):
        return value.isoformat()
    if hasattr(value, "__dataclass_fields__"):
        told = ((name, getattr(value, name)) for name in value.__dataclass_fields__)
        return {name: _plain(inner) for name, inner in told if inner is not None}
    if isinstance(value, dict):
        return {key: _plain(inner) for key, inner in value.items() if inner is not None}
    return value


_FLOAT: Final = (int, float)


def _typed(field: str, value: Any, types: type | tuple[type, ...]) -> Any:
    if isinstance(value, bool) and types is not bool:
        raise EngineError(field, f"must not be {value}")
    if not isinstance(value, types):
        raise EngineError(field, f"makes no sense: {str(value)[:30]!r}")
    return value


def _text(field: str, value: Any) -> str:
    return str(_typed(field, value, str))


def _number(field: str, value: Any) -> float:
    number = _typed(field, value, _FLOAT)
    if not -MOST_FIGURE <= number <= MOST_FIGURE:
        raise EngineError(field, f"makes no sense: {str(number)[:30]}")
    return float(number)


def checked_clock(value: float | None) -> float | None:
    """Hours or km as a row has them. Raises `EngineError`."""
    return None if value is None else _number("clock", value)


def _yes(field: str, value: Any) -> bool:
    return bool(_typed(field, value, bool))


def _day(field: str, value: Any) -> date:
    try:
        return date.fromisoformat(_text(field, value))
    except ValueError:
        raise EngineError(field, f"must be a day such as 2026-11-12, not {value[:20]!r}") from None


def _rows(field: str, value: Any, make: Callable[[Values], Any]) -> tuple[Any, ...]:
    rows = _typed(field, value, list)
    try:
        return tuple(make(_typed(field, row, dict)) for row in rows)
    except (TypeError, KeyError, ValueError) as error:
        if isinstance(error, EngineError):
            raise
        raise EngineError(field, "makes no sense") from None


def _target(row: Values) -> Target:
    band = row.get("band_mm")
    ends = tuple(_number("targets", end) for end in band) if band else None
    if ends is not None and len(ends) != 2:
        raise EngineError("targets", "need two ends a band")
    return Target(
        _text("targets", row["of"]),
        _yes("targets", row["hot"]),
        _number("targets", row["target_mm"]),
        (ends[0], ends[1]) if ends is not None else None,
        BookSource(**{key: _text("source", one) for key, one in row.get("source", {}).items()}),
        _yes("targets", row.get("assumed", False)),
        _number("targets", row.get("per_turn_mm", 0.0)),
    )


def _to_do(row: Values) -> ToDo:
    at, day = row.get("at_clock"), row.get("day")
    return ToDo(
        _text("to_do", row["what"]),
        None if at is None else _number("to_do", at),
        None if day is None else _day("to_do", day),
    )


def _part(row: Values) -> Part:
    return Part(**{key: _text("parts", one) for key, one in row.items()})


def _general(row: Values) -> General:
    found, left = (
        None if row.get(k) is None else _number("readings", row[k]) for k in ("found", "left")
    )
    what, unit = _text("readings", row["what"]), _text("readings", row["unit"])
    return General(what, unit, found, left, _text("readings", row.get("text", "")))


def _witness(row: Values) -> Witness:
    item = _text("witness", row["item"])
    rest = {k: _number("witness", v) for k, v in row.items() if k != "item"}
    return Witness(item, **rest)


def _texts(field: str, value: Any) -> tuple[str, ...]:
    return tuple(_text(field, one) for one in _typed(field, value, list))


_READERS: Final[Mapping[str, Callable[[str, Any], Any]]] = {
    "seen_by": _text,
    "temperature_c": _number,
    "rested_h": _number,
    "blades": _text,
    "blade_step_mm": _number,
    "unit": lambda field, value: GapUnit(_text(field, value)),
    "school": _text,
    "hot": _yes,
    "targets": lambda field, value: _rows(field, value, _target),
    "zero_lash": _text,
    "pumped": _yes,
    "complaint": _text,
    "signs_before": _text,
    "signs_after": _text,
    "head_first": _yes,
    "parts": lambda field, value: _rows(field, value, _part),
    "to_do": lambda field, value: _rows(field, value, _to_do),
    "put_back": _texts,
    "rolled_over": _yes,
    "signed": _text,
    "note": _text,
    "origin": _text,
    "readings": lambda field, value: _rows(field, value, _general),
    "witness": lambda field, value: _rows(field, value, _witness),
}


def head_from_values(values: Values) -> Values:
    """The fields of a job's head. Raises `EngineError` for what makes no sense."""
    told: Values = {}
    for key, value in values.items():
        reader = _READERS.get(key)
        if reader is None:
            raise EngineError(key[:40], "is no part of a job: was it written by a newer version?")
        try:
            told[key] = reader(key, value)
        except ValueError as error:
            if isinstance(error, EngineError):
                raise
            raise EngineError(key, f"makes no sense: {str(value)[:30]!r}") from None
    return told


def _measure_row(measure: Measure | None) -> list[Any]:
    if measure is None:
        return [None, None, None, "", ""]
    gap = measure.gap
    ends = [None, None] if gap is None else [gap.low, gap.high]
    return [*ends, measure.turns, measure.text, measure.unit.value]


def item_row(name: str, record: ItemRecord) -> list[Any]:
    """One item as the columns `ITEM_COLUMNS` have it."""
    measures = [cell for which in MEASURES for cell in _measure_row(record.reading(which))]
    tail = [record.torque_nm, int(record.stripe), record.note, record.anew]
    more = more_values(record)
    cell = json.dumps(more, separators=(",", ":")) if more else ""
    return [name, *measures, *tail, record.shim_mm, record.shim_left_mm, cell]


def more_values(record: ItemRecord) -> Values:
    """What stands in the cell of JSON; what says nothing is left out."""
    more: Values = {}
    if record.seen_to is not SeenTo.NOT_SAID:
        more["seen_to"] = record.seen_to.value
    for key in ("off_heel", "torqued"):
        if getattr(record, key):
            more[key] = True
    return more


def more_from(field: str, values: Any) -> Values:
    """The fields of a record that the cell of JSON holds. Raises `EngineError`."""
    if not isinstance(values, dict) or set(values) - MORE_KEYS:
        raise EngineError(field, "makes no sense: was it written by a newer version?")
    try:
        seen_to = SeenTo(_text(field, values.get("seen_to", "")))
    except ValueError as error:
        if isinstance(error, EngineError):
            raise
        raise EngineError(field, f"makes no sense: {str(values)[:40]}") from None
    flags = {key: _yes(field, values.get(key, False)) for key in ("off_heel", "torqued")}
    return {"seen_to": seen_to, **flags}


def _measure_from(cells: Sequence[Any]) -> Measure | None:
    low, high, turns, text, unit = cells
    if low is None and turns is None:
        return None
    gap = None if low is None else Bracket(low, low if high is None else high)
    return Measure(gap, turns, text, GapUnit(unit) if unit else GapUnit.MM)


def record_from_row(row: Sequence[Any]) -> ItemRecord:
    """The record in a row with the columns `ITEM_COLUMNS`."""
    found, left, nut = (_measure_from(row[1 + 5 * n : 6 + 5 * n]) for n in range(3))
    more = more_from("more", plain_json(row[-1])) if row[-1] else {}
    return ItemRecord(found, left, nut, row[16], bool(row[17]), *row[18:-1], **more)


def job_from(
    columns: Mapping[str, Any], person: Person, head: Values, rows: Sequence[Sequence[Any]]
) -> Job:
    """A job from its own columns, its head, and the rows of its items. Raises `EngineError`."""
    items = {}
    for row in rows:
        record = record_from_row(row)
        check_item(row[0], record)
        items[item_named(row[0])] = record
    return Job(
        id=columns["id"],
        engine_id=columns["engine_id"],
        engine_digest=columns["engine_digest"],
        day=_day("day", columns["day"]),
        made=columns["made"],
        person=person,
        clock=checked_clock(columns["clock"]),
        by_distance=bool(columns["by_distance"]),
        items=MappingProxyType(items),
        **head_from_values(head),
    )


def _told_of(name: str, record: ItemRecord) -> list[Any]:
    """A row without an empty last cell, so that jobs of version 1 keep their digest."""
    row = item_row(name, record)
    return row if row[-1] else row[:-1]


def job_digest(job: Job) -> str:
    """Short SHA-256 of all that a job says; equal for two copies that say the same."""
    told = {
        **head_values(job),
        "engine": [job.engine_id, job.engine_digest],
        "when": [job.day.isoformat(), job.made, job.clock, job.by_distance],
        "person": [job.person.id, job.person.name],
        "items": sorted(_told_of(item.name, record) for item, record in job.items.items()),
    }
    text = json.dumps(told, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(f"true-compass-job {text}".encode()).hexdigest()[:32]
