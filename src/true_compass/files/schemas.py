"""The shape of every format, for other programs: JSON Schema, and the tables of a book as SQL.

A schema says what a file may look like. Rules across several fields (the rod against the stroke,
the chain of a log) cannot be said in one; reading a file checks them.
"""

import json
import math
import sqlite3
from collections.abc import Callable, Iterable, Mapping
from typing import TYPE_CHECKING, Any, Final

from true_compass.bench import log as benchlog
from true_compass.bench.actions import ACTIONS, Key
from true_compass.lessons import result

if TYPE_CHECKING:
    from pydantic import BaseModel

DIALECT: Final = "https://json-schema.org/draft/2020-12/schema"
_DIGEST: Final = {"type": "string", "pattern": "^[0-9a-f]{64}$"}
_TEXT: Final = {"type": "string"}
_COUNT: Final = {"type": "integer", "minimum": 0}


def _object(needed: Mapping[str, Any], **optional: Any) -> dict[str, Any]:
    """An object with these keys and no others."""
    return {
        "type": "object",
        "properties": {**needed, **optional},
        "required": list(needed),
        "additionalProperties": False,
    }


def _lines(title: str, words: str, header: dict[str, Any], line: dict[str, Any]) -> dict[str, Any]:
    """A file of lines: a header, then as many lines of one shape as there are."""
    return {
        "$schema": DIALECT,
        "title": title,
        "description": f"{words} Each line of the file is one element of this array.",
        "type": "array",
        "prefixItems": [header],
        "items": line,
        "minItems": 1,
    }


def result_schema() -> dict[str, Any]:
    """A result of a lesson: its header holds the lesson, each next line an answer."""
    header = _object(
        {
            "format": {"const": result.FORMAT},
            "version": {"const": result.VERSION},
            "id": _TEXT,
            "lesson_id": _TEXT,
            "lesson_digest": _TEXT,
            "title": _TEXT,
            "person_id": _TEXT,
            "person": _TEXT,
            "seed": _COUNT,
            "program": _TEXT,
            "lesson": _TEXT,
        }
    )
    answer = _object({"given": {"type": "object"}, "chain": _DIGEST})
    return _lines("Result", "What one person answered in one lesson.", header, answer)


def benchlog_schema(*, sealed: bool = False) -> dict[str, Any]:
    """The log of a run at the bench: its header, then an action with its answer a line; made under
    a seal, each line has a mark of its key as well.
    """
    header = _object(
        {
            "format": {"const": benchlog.FORMAT},
            "version": {"const": benchlog.SEALED_VERSION if sealed else benchlog.VERSION},
            "engine_digest": _TEXT,
            "scenario_digest": _TEXT,
            "seed": _COUNT,
            "program": _TEXT,
            "starts": {"enum": ["closed", "open"]},
            "id": _TEXT,
        }
    )
    mac = {"mac": _DIGEST} if sealed else {}
    action = _object({"action": {"type": "object"}, "answer": {}, "chain": _DIGEST, **mac})
    title = "Sealed bench log" if sealed else "Bench log"
    return _lines(title, "What was done at a covered engine.", header, action)


def action_schema() -> dict[str, Any]:
    """One action at the bench: `do`, its keys, and what each may hold."""
    choices = []
    for word, action in ACTIONS.items():
        keys = {key: _key(rule) for key, rule in action.keys.items()}
        needed = {key: keys[key] for key, rule in action.keys.items() if rule.needed}
        rest = {key: keys[key] for key in keys if key not in needed}
        one = _object({"do": {"const": word}, **needed}, **rest, t_s={"type": ["number", "null"]})
        choices.append({**one, "description": action.about})
    return {
        "$schema": DIALECT,
        "title": "Action",
        "description": "One thing that is done at a covered engine: one JSON object a line.",
        "oneOf": choices,
    }


def _key(rule: Key) -> dict[str, Any]:
    """What one key of an action may hold; one that is not needed may be null or empty too."""
    if rule.words:
        words = list(rule.words)
        return {"enum": words if rule.needed else [*words, "", None]}
    kinds = rule.kind if isinstance(rule.kind, tuple) else (rule.kind,)
    types = sorted({_TYPES[kind] for kind in kinds} | ({"null"} if not rule.needed else set()))
    if "number" in types:
        types = [one for one in types if one != "integer"]
    told: dict[str, Any] = {"type": types[0] if len(types) == 1 else types}
    if math.isfinite(rule.least):
        told["minimum"] = rule.least
    if math.isfinite(rule.most):
        told["maximum"] = rule.most
    return told


_TYPES: Final = {float: "number", int: "integer", str: "string", bool: "boolean", list: "array"}


def _engine() -> str:
    from true_compass.files.model_v3 import schema_text

    return schema_text()


def _model(name: str) -> str:
    from true_compass.files.model_lesson import LessonFile
    from true_compass.files.model_scenario import ScenarioFile, SealedScenarioFile

    models: dict[str, type[BaseModel]] = {
        "scenario": ScenarioFile,
        "sealed scenario": SealedScenarioFile,
        "lesson": LessonFile,
    }
    return _text({"$schema": DIALECT, **models[name].model_json_schema()})


def _text(schema: Mapping[str, Any]) -> str:
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"


def book_sql() -> str:
    """The tables of a book, as a new one has them."""
    from true_compass.files.book_db import APPLICATION_ID, SCHEMA_1, UPGRADES, VERSION

    head = f"-- A book, version {VERSION}: SQLite, application_id {APPLICATION_ID:#x}\n"
    upgrades = [statement for version in sorted(UPGRADES) for statement in UPGRADES[version]]
    return head + ";\n".join(made_tables((*SCHEMA_1, *upgrades))) + ";\n"


def made_tables(statements: Iterable[str]) -> list[str]:
    """What a database holds after some statements, as it tells it itself."""
    database = sqlite3.connect(":memory:")
    try:
        for statement in statements:
            database.execute(statement)
        found = database.execute("SELECT sql FROM sqlite_master WHERE sql IS NOT NULL").fetchall()
    finally:
        database.close()
    return [sql for (sql,) in found]


SCHEMAS: Final[dict[str, Callable[[], str]]] = {
    "engine.schema.json": _engine,
    "scenario.schema.json": lambda: _model("scenario"),
    "sealed-scenario.schema.json": lambda: _model("sealed scenario"),
    "sealed-benchlog.schema.json": lambda: _text(benchlog_schema(sealed=True)),
    "lesson.schema.json": lambda: _model("lesson"),
    "result.schema.json": lambda: _text(result_schema()),
    "action.schema.json": lambda: _text(action_schema()),
    "benchlog.schema.json": lambda: _text(benchlog_schema()),
    "book.schema.sql": book_sql,
}
"""Files below `docs/schemas`, and what they hold."""
