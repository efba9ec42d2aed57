"""Scenario files: what is written reads back; what is wrong says where."""

import pytest

from true_compass.bench.scenario import Hand, ItemSaid, Said, Scenario
from true_compass.bench.tasks import Task
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.files.scenario_file import parse_scenario, scenario_digest, scenario_text

FULL = Scenario(
    demo_rig("birch"),
    task=Task.SET,
    cylinder=3,
    seed=4417,
    hardness=4,
    hand=Hand.CLUMSY,
    faults=("lobe-worn", "leads-swapped"),
    method="companion",
    said=Said(
        start_deg=123.5,
        cam_slack_deg=2.0,
        slack_open=True,
        mark_error_deg=-3.0,
        head_torqued=False,
        items=(ItemSaid("I1", 0.4), ItemSaid("E2", nut_moves_mm=-0.05)),
    ),
    rig="birch",
    title='A "long" name',
    note="Two lines\nof it",
)
TEXT = scenario_text(FULL)


@pytest.mark.parametrize("scenario", [FULL, *(Scenario(demo_rig(rig)) for rig in rig_names())])
def test_what_is_written_reads_back(scenario: Scenario) -> None:
    again = parse_scenario(scenario_text(scenario), "a.scenario.toml")
    assert again == scenario
    assert scenario_digest(again) == scenario_digest(scenario)


@pytest.mark.parametrize(
    ("old", "new", "told"),
    [
        ("true-compass-scenario", "true-compass-engine", 'must be "true-compass-scenario"'),
        ("version = 1", "version = 3", "newer version of the program"),
        ("seed = 4417", "seed = -1", "must be 0 or more"),
        ("hardness = 4", "hardnes = 4", "not a key of a scenario: did you mean hardness"),
        ('task = "set"', 'task = "sit"', "task must be"),
        ('"lobe-worn"', '"gremlins"', "faults names 'gremlins'"),
        ('"lobe-worn", "leads-swapped"', '"leads-reversed", "leads-swapped"', "exclude each other"),
        ('"lobe-worn"', '"lifter-collapsed"', "has no hydraulic tappets"),
        ("cylinder = 3", "cylinder = 9", "cylinder must be 1 to 6"),
        ("start_deg = 123.5", "start_deg = 900", "condition.start_deg must be 0 to 720"),
        ('name = "I1"', 'name = "I7"', "this engine has I1 to E6"),
        ("stroke_mm = 104.0", "stroke_mm = 105.0", "names another engine"),
        ("stroke_mm = 104.0", "stroke_mm = 0.0", "engine.dimensions.stroke_mm must be 10 or more"),
    ],
)
def test_what_is_wrong_says_where(old: str, new: str, told: str) -> None:
    assert old in TEXT
    with pytest.raises(EngineFileError, match=told) as caught:
        parse_scenario(TEXT.replace(old, new, 1), "a.scenario.toml")
    assert caught.value.file_name == "a.scenario.toml"
