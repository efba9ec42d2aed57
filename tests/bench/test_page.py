"""The page about the bench and the scenarios that ship are true."""

from pathlib import Path

import pytest

from true_compass.bench.actions import ACTIONS
from true_compass.bench.faults import FAULTS
from true_compass.bench.ideas import RULES
from true_compass.bench.run import Run
from true_compass.bench.tasks import Task
from true_compass.files.model_scenario import ScenarioFile
from true_compass.files.scenario_file import scenario_text
from true_compass.files.scenarios import scenario_names, shipped_scenario

PAGE = (Path(__file__).parents[2] / "docs" / "bench.md").read_text(encoding="utf-8")


def test_the_page_names_every_action_key_fault_and_task() -> None:
    keys = {key for action in ACTIONS.values() for key in action.keys}
    words = {*ACTIONS, *keys, *ScenarioFile.model_fields, *(fault.slug for fault in FAULTS)}
    words |= {task.value for task in Task}
    words -= {"condition", "engine"}
    assert [word for word in sorted(words) if f"`{word}`" not in PAGE] == []
    assert len(RULES) == 14


@pytest.mark.parametrize("name", scenario_names())
def test_a_shipped_scenario_begins_and_is_written_as_it_is(name: str) -> None:
    scenario = shipped_scenario(name)
    assert scenario.title
    assert scenario.note
    run = Run.begin(scenario)
    assert run.verdict()["passed"] is not True or scenario.task is Task.SET
    folder = Path(__file__).parents[2] / "src" / "true_compass" / "scenarios"
    text = (folder / f"{name}.scenario.toml").read_text(encoding="utf-8")
    assert scenario_text(scenario) == text


def test_scenarios_cover_layouts_and_tasks() -> None:
    shipped = [shipped_scenario(name) for name in scenario_names()]
    assert len(shipped) >= 16
    assert len({scenario.engine.layout_words for scenario in shipped}) >= 8
    assert {scenario.task for scenario in shipped} == set(Task) - {Task.FREE}
    assert {scenario.hardness for scenario in shipped} == {1, 2, 3, 4, 5}
