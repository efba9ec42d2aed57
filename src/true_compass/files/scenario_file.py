"""Read and write scenario files: `NAME.scenario.toml`, with a full copy of the engine in each."""

import hashlib
import json
import tomllib
from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from true_compass.bench.scenario import Hand, ItemSaid, Said, Scenario
from true_compass.bench.tasks import Task
from true_compass.core.engine import Engine
from true_compass.core.limits import EngineError
from true_compass.files.defaults import DEFAULTS, without_defaults
from true_compass.files.engine_values import (
    engine_digest,
    engine_from_values,
    values_of_engine,
)
from true_compass.files.kinds import ENDINGS, FileKind
from true_compass.files.problems import EngineFileError, Problem
from true_compass.files.reading import FileFormat, one_problem, parse_values, read_text
from true_compass.files.toml_lines import nearest_line

if TYPE_CHECKING:
    from pydantic import BaseModel

FORMAT: Final = "true-compass-scenario"
VERSION: Final = 1
"""What is written; a sealed scenario is version 2 (`sealing`)."""
NEWEST: Final = 2
SEALED: Final = "sealed"


def _models() -> "Mapping[int, type[BaseModel]]":
    from true_compass.files.model_scenario import ScenarioFile, SealedScenarioFile

    return {1: ScenarioFile, 2: SealedScenarioFile}


SCENARIO_FILE: Final = FileFormat(
    FORMAT,
    "a scenario",
    ENDINGS[FileKind.SCENARIO],
    NEWEST,
    _models,
    {},
    "docs/bench.md",
)


def read_scenario(path: Path) -> Scenario:
    """Read a scenario file. Raises `EngineFileError` with every problem found."""
    return parse_scenario(read_text(path, SCENARIO_FILE.thing), path.name)


def parse_scenario(text: str, file_name: str) -> Scenario:
    """Read the text of a scenario file; `file_name` is for the messages."""
    values, lines = parse_values(SCENARIO_FILE, text, file_name)
    if SEALED in values:
        raise one_problem(file_name, "is sealed: open it on the Bench, where its word is typed")
    try:
        return scenario_from_values(values)
    except EngineError as error:
        line = nearest_line(lines, tuple(error.field.split(".")))
        raise EngineFileError(file_name, (Problem(error.field, line, str(error)),)) from None


def scenario_from_values(values: dict[str, Any]) -> Scenario:
    """The scenario that checked values describe. Raises `EngineError` for what cannot be."""
    engine = engine_from_values(values["engine"])
    mark = values.get("engine_digest", "")
    if mark and mark != engine_digest(engine):
        raise EngineError(
            "engine_digest",
            "names another engine than the copy in this file: take the mark out if the copy "
            "was changed on purpose",
        )
    told = values.get("condition", {})
    items = tuple(ItemSaid(**item) for item in told.get("item", []))
    said = Said(**{key: value for key, value in told.items() if key != "item"}, items=items)
    return Scenario(
        engine=engine,
        task=Task(values.get("task", "free")),
        cylinder=values.get("cylinder", 1),
        seed=values.get("seed", 1),
        hardness=values.get("hardness", 2),
        hand=Hand(values.get("hand", "usual")),
        faults=tuple(values.get("faults", ())),
        method=values.get("method", "two-stop"),
        said=said,
        rig=values.get("rig", ""),
        title=values.get("title", ""),
        note=values.get("note", ""),
    )


def scenario_values(scenario: Scenario) -> dict[str, Any]:
    """A scenario as plain values, in the shape of its file, as another file holds it."""
    return tomllib.loads(scenario_text(scenario))


def scenario_text(scenario: Scenario) -> str:
    """The text of a scenario file of this scenario; of a sealed one as it was sealed."""
    if scenario.seal is not None:
        return scenario.seal.text
    said = scenario.said
    head = {
        "title": scenario.title,
        "note": scenario.note,
        "rig": scenario.rig,
        "engine_digest": engine_digest(scenario.engine),
        "task": scenario.task.value,
        "cylinder": scenario.cylinder,
        "seed": scenario.seed,
        "hardness": scenario.hardness,
        "hand": scenario.hand.value,
        "method": scenario.method,
        "faults": list(scenario.faults),
    }
    lines = [
        "# A covered engine for True Compass. docs/bench.md explains each key.",
        f'format = "{FORMAT}"',
        f"version = {VERSION}",
        *(f"{key} = {shown(value)}" for key, value in head.items() if value != ""),
    ]
    fixed = {key: getattr(said, key) for key in SAID if getattr(said, key) is not None}
    if fixed or said.items:
        lines += ["", "[condition]", *(f"{key} = {shown(v)}" for key, v in fixed.items())]
    for item in said.items:
        lines += ["", "[[condition.item]]", f"name = {shown(item.name)}"]
        for key in ("found_mm", "nut_moves_mm"):
            if getattr(item, key) is not None:
                lines.append(f"{key} = {shown(getattr(item, key))}")
    return "\n".join(lines) + "\n\n" + engine_part(scenario.engine)


SAID: Final = (
    "start_deg",
    "cam_slack_deg",
    "rotor_slack_deg",
    "slack_open",
    "mark_error_deg",
    "head_torqued",
    "pumped",
)


def shown(value: object) -> str:
    """A plain value as TOML has it: texts, numbers, truth and lists of texts are as in JSON."""
    return json.dumps(value, ensure_ascii=False)


@lru_cache(maxsize=4)
def engine_part(engine: Engine) -> str:
    """The engine of a scenario, as its table in the file."""
    # tomlkit costs 60 ms to import, and reading does not need it.
    import tomlkit

    values = values_of_engine(engine)
    needed = {"layout": {"firing_order": engine.order_text, "form": values["layout"]["form"]}}
    told = without_defaults(values, DEFAULTS)
    told["layout"] = needed["layout"] | told.get("layout", {})
    return tomlkit.dumps({"engine": told})


def scenario_digest(scenario: Scenario) -> str:
    """SHA-256 of everything that makes a scenario what it is; not its title or note.

    Of a sealed one it tells nothing that is hidden: who knows it could try what fits.
    """
    if scenario.seal is not None:
        return scenario.seal.digest
    said = scenario.said
    told = {
        "engine": engine_digest(scenario.engine),
        "task": scenario.task.value,
        "cylinder": scenario.cylinder,
        "seed": scenario.seed,
        "hardness": scenario.hardness,
        "hand": scenario.hand.value,
        "faults": list(scenario.faults),
        "said": {key: getattr(said, key) for key in SAID},
        "items": [[item.name, item.found_mm, item.nut_moves_mm] for item in said.items],
    }
    text = json.dumps(told, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(f"{FORMAT} {text}".encode()).hexdigest()
