"""The scenarios that ship with the program."""

import tomllib
from functools import cache
from importlib.resources import files
from importlib.resources.abc import Traversable

from true_compass.bench.scenario import Scenario
from true_compass.files.scenario_file import SCENARIO_FILE, scenario_from_values


@cache
def _scenario_files() -> dict[str, Traversable]:
    folder = files("true_compass.scenarios")
    found = {
        entry.name.removesuffix(SCENARIO_FILE.suffix): entry
        for entry in folder.iterdir()
        if entry.name.endswith(SCENARIO_FILE.suffix)
    }
    return dict(sorted(found.items()))


def scenario_names() -> tuple[str, ...]:
    """Short names of the shipped scenarios, in alphabetical order."""
    return tuple(_scenario_files())


@cache
def shipped_scenario(name: str) -> Scenario:
    """A shipped scenario by its short name. Raises `KeyError` for an unknown name."""
    # Without the strict reading of other files: the tests have checked these.
    text = _scenario_files()[name].read_text(encoding="utf-8")
    return scenario_from_values(tomllib.loads(text))
