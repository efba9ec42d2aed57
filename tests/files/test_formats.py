"""Formats frozen with 1.0.0: each has a page, a schema and a fixture, and may only grow."""

import json
import re
import tomllib
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from true_compass.bench.log import parse_log, played
from true_compass.files.book_db import UPGRADES
from true_compass.files.book_file import Book
from true_compass.files.problems import EngineFileError
from true_compass.files.scenario_file import parse_scenario, read_scenario, scenario_digest
from true_compass.files.schemas import SCHEMAS, made_tables

ROOT = Path(__file__).resolve().parents[2]
DOCS = ROOT / "docs"
FIXTURES = ROOT / "tests" / "fixtures"
FROZEN = FIXTURES / "schemas"


@pytest.mark.parametrize("name", SCHEMAS)
def test_the_schemas_in_the_docs_are_current(name: str) -> None:
    assert (DOCS / "schemas" / name).read_text("utf-8") == SCHEMAS[name]()


def test_every_format_has_its_page_and_its_schema() -> None:
    page = (DOCS / "formats.md").read_text("utf-8")
    named = set(re.findall(r"schemas/([\w.-]+)\)", page))
    assert named == set(SCHEMAS) == {path.name for path in FROZEN.iterdir()}
    assert named == {path.name for path in (DOCS / "schemas").iterdir()}


def shrunk(old: Any, new: Any, at: str = "") -> list[str]:
    """Where a schema allows less than before, or says something else; optional keys may come."""
    if isinstance(old, dict) and isinstance(new, dict):
        if "anyOf" in new and old != new and ("type" in old or "anyOf" in old):
            return without_a_choice(old, new, at)
        found: list[str] = []
        if "properties" in old:
            more = set(new.get("required", [])) - set(old.get("required", []))
            found += [f"{at}: {key} must be there now" for key in sorted(more)]
        for key, value in old.items():
            if key in ("description", "title", "required"):
                continue
            if key not in new:
                found.append(f"{at}/{key} is gone")
            else:
                found += shrunk(value, new[key], f"{at}/{key}")
        return found
    if isinstance(old, list) and isinstance(new, list) and at.endswith("/enum"):
        return [f"{at}: {one} is gone" for one in old if one not in new]
    return [] if old == new else [f"{at}: {old!r} is {new!r} now"]


def without_a_choice(old: dict[str, Any], new: dict[str, Any], at: str) -> list[str]:
    """What was allowed before and is no choice now; more choices may come beside it."""
    told = ("title", "description", "default")
    found = [] if old.get("default") == new.get("default") else [f"{at}/default is another"]
    bare = {key: value for key, value in old.items() if key not in told}
    for one in bare.get("anyOf", [bare]):
        if all(shrunk(one, other, at) for other in new["anyOf"]):
            found.append(f"{at}: {one!r} is no choice any more")
    return found


@pytest.mark.parametrize("name", [name for name in SCHEMAS if name.endswith(".json")])
def test_a_frozen_format_only_grows(name: str) -> None:
    frozen = json.loads((FROZEN / name).read_text("utf-8"))
    assert shrunk(frozen, json.loads(SCHEMAS[name]())) == []


def test_what_counts_as_less() -> None:
    old = {"properties": {"a": {"type": "number"}, "b": {"enum": [1, 2]}}, "required": ["a"]}
    grown = {
        "properties": {"a": {"type": "number"}, "b": {"enum": [1, 2, 3]}, "c": {}},
        "required": ["a"],
    }
    assert shrunk(old, grown) == []
    assert shrunk(old, {**grown, "required": ["a", "c"]})
    assert shrunk(old, {"properties": {"a": {"type": "string"}, "b": {"enum": [1, 2]}}})
    assert shrunk(old, {"properties": {"a": {"type": "number"}, "b": {"enum": [1]}}})
    text = {"type": "string"}
    wider = {"anyOf": [{"type": "number", "minimum": 0}, text]}
    assert shrunk({"type": "number", "minimum": 0}, wider) == []
    assert shrunk({"anyOf": [{"type": "number", "minimum": 0}]}, wider) == []
    assert shrunk({"type": "number", "minimum": -1}, wider)
    assert shrunk({"type": "number", "minimum": 0, "default": 1}, wider)
    assert shrunk({"type": "integer"}, wider)


def test_the_tables_of_a_book_are_those_that_were_frozen(tmp_path: Path) -> None:
    """What was frozen with 1.0.0, brought up to today, is what a new book has."""

    def statements(text: str) -> list[str]:
        return text.partition("\n")[2].strip().rstrip(";").split(";\n")

    frozen = statements((FROZEN / "book.schema.sql").read_text("utf-8"))
    upgrades = [one for version in sorted(UPGRADES) for one in UPGRADES[version]]
    told = set(statements(SCHEMAS["book.schema.sql"]()))
    assert set(made_tables([*frozen, *upgrades])) == told
    book = Book(tmp_path / "b.tcbook")
    made = {row[0] for row in book.db.rows("SELECT sql FROM sqlite_master WHERE sql IS NOT NULL")}
    assert made == told


def lines_of(path: Path) -> list[Any]:
    return [json.loads(line) for line in path.read_text("utf-8").splitlines()]


@pytest.mark.parametrize(
    ("name", "path"),
    [
        ("result", FIXTURES / "lessons" / "v1.result.jsonl"),
        ("benchlog", FIXTURES / "bench" / "v1.benchlog.jsonl"),
    ],
)
def test_lines_of_a_file_fit_their_schema_and_altered_ones_do_not(name: str, path: Path) -> None:
    schema = jsonschema.Draft202012Validator(json.loads(SCHEMAS[f"{name}.schema.json"]()))
    lines = lines_of(path)
    schema.validate(lines)
    for wrong in (
        lines[1:],
        [{**lines[0], "version": 2}, *lines[1:]],
        [{key: value for key, value in lines[0].items() if key != "program"}, *lines[1:]],
        [lines[0], {**lines[1], "chain": "x"}],
    ):
        assert list(schema.iter_errors(wrong))


def test_a_scenario_and_its_log_of_version_1_still_open_and_play() -> None:
    path = FIXTURES / "bench" / "v1.scenario.toml"
    scenario = read_scenario(path)
    schema = jsonschema.Draft202012Validator(json.loads(SCHEMAS["scenario.schema.json"]()))
    schema.validate(tomllib.loads(path.read_text("utf-8")))
    log = parse_log((FIXTURES / "bench" / "v1.benchlog.jsonl").read_text("utf-8"))
    run = played(scenario, scenario_digest(scenario), log)
    assert run.state.finished
    assert len(log.actions) == 4


def test_a_file_of_a_newer_version_is_refused_in_one_sentence() -> None:
    text = (FIXTURES / "bench" / "v1.scenario.toml").read_text("utf-8")
    with pytest.raises(EngineFileError) as told:
        parse_scenario(text.replace("version = 1", "version = 3", 1), "new.scenario.toml")
    assert "newer" in " ".join(told.value.sentences()).lower()


def test_every_action_that_was_logged_fits_the_schema_of_actions() -> None:
    schema = jsonschema.Draft202012Validator(json.loads(SCHEMAS["action.schema.json"]()))
    log = parse_log((FIXTURES / "bench" / "v1.benchlog.jsonl").read_text("utf-8"))
    assert log.actions
    for action in log.actions:
        schema.validate(action)
    for wrong in ({"action": "bar", "deg": 30}, {"do": "bar"}, {"do": "bar", "deg": "far"}):
        assert list(schema.iter_errors(wrong))
