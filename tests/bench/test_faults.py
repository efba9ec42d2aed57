"""The catalogue, who can carry what, and a careful mechanic who finds every one of them.

The mechanic is a process of its own. It imports nothing of the program and knows only what the
bench answers.
"""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from true_compass.bench.condition import condition_of
from true_compass.bench.faults import FAULTS, Fault
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.tasks import Task
from true_compass.core.limits import EngineError
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.files.scenario_file import scenario_text

MECHANIC = Path(__file__).parents[2] / "tools" / "mechanic.py"
SEEDS = 3
NAMES = [
    "other-tdc",
    "damper-crept",
    "firing-mark",
    "two-marks",
    "flywheel-pair",
    "rotor-one-turn",
    "rotor-teeth",
    "leads-reversed",
    "leads-swapped",
    "leads-cross",
    "can-unplugged",
    "weights-stuck",
    "cam-one-tooth",
    "dots-companion",
    "valve-leaks",
    "rings-leak",
    "lobe-worn",
    "rod-bent",
    "rod-length",
    "stems-unequal",
    "lifter-collapsed",
    "plunger-bottomed",
    "rocker-tight",
    "cover-struck",
    "locknut-creeps",
    "compression-release",
    "probe-slanted",
    "overlap-small",
    "lash-wide-companions",
]


def carriers(fault: Fault) -> list[str]:
    return [name for name in rig_names() if not fault.missing(demo_rig(name))]


def test_the_catalogue_is_whole() -> None:
    assert [fault.slug for fault in FAULTS] == NAMES
    assert all(carriers(fault) for fault in FAULTS)
    assert len(carriers(FAULTS[-1])) < len(rig_names())


@pytest.mark.parametrize(
    ("rig", "faults", "told"),
    [
        ("birch", ("gremlins",), "which is none"),
        ("birch", ("lifter-collapsed",), "has no hydraulic tappets"),
        ("maple", ("rod-bent",), "has no push rods"),
        ("ash", ("damper-crept",), "can creep"),
        ("birch", ("lobe-worn", "lobe-worn"), "twice"),
        ("birch", ("lobe-worn", "rod-bent", "other-tdc"), "two are the most"),
        ("birch", ("rotor-teeth", "rotor-one-turn"), "exclude each other"),
        ("birch", ("leads-swapped", "leads-reversed"), "exclude each other"),
        ("hickory", ("rotor-teeth",), "has no distributor"),
    ],
)
def test_what_an_engine_cannot_carry_is_refused(
    rig: str, faults: tuple[str, ...], told: str
) -> None:
    with pytest.raises(EngineError, match=told):
        Scenario(demo_rig(rig), faults=faults)


@pytest.mark.parametrize(
    ("values", "told"),
    [
        ({"cylinder": 7}, "1 to 6"),
        ({"seed": -1}, "seed|0 to"),
        ({"hardness": 6}, "1 to 5"),
        ({"method": "by-ear"}, "one of"),
        ({"task": Task.PRELOAD}, "no hydraulic tappets"),
        ({"said": Said(start_deg=900.0)}, "0 to 720"),
    ],
)
def test_a_scenario_that_cannot_be_says_why(values: dict[str, object], told: str) -> None:
    with pytest.raises(EngineError, match=told):
        Scenario(demo_rig("birch"), **values)  # type: ignore[arg-type]


def test_the_same_seed_is_the_same_engine() -> None:
    one = condition_of(Scenario(demo_rig("birch"), seed=7, faults=("lobe-worn",)))
    assert one == condition_of(Scenario(demo_rig("birch"), seed=7, faults=("lobe-worn",)))
    assert one != condition_of(Scenario(demo_rig("birch"), seed=8, faults=("lobe-worn",)))


def worked(folder: Path, scenarios: list[Scenario], *words: str) -> list[dict[str, object]]:
    """What the mechanic's process says of some scenarios."""
    paths = []
    for nth, scenario in enumerate(scenarios):
        paths.append(folder / f"{nth}.scenario.toml")
        paths[-1].write_text(scenario_text(scenario), encoding="utf-8")
    # Which lines these processes run is not counted: that would take as long again.
    env = {key: said for key, said in os.environ.items() if not key.startswith("COVERAGE_")}
    told = subprocess.run(
        [sys.executable, str(MECHANIC), *words, *map(str, paths)],
        env=env,
        check=True,
        capture_output=True,
        text=True,
    )
    return [json.loads(line) for line in told.stdout.splitlines()]


SET_BY_SCREW = ("lash-wide-companions", "rod-bent")


@pytest.mark.parametrize("fault", FAULTS, ids=NAMES)
def test_a_careful_mechanic_finds_it(fault: Fault, tmp_path: Path) -> None:
    rigs = carriers(fault)
    step = max(len(rigs) // SEEDS, 1)
    scenarios = [
        Scenario(
            demo_rig(rigs[nth * step % len(rigs)]),
            task=Task.FAULT,
            seed=100 + nth,
            faults=(fault.slug,),
        )
        for nth in range(SEEDS)
    ]
    for verdict in worked(tmp_path, scenarios):
        assert verdict["named"] == fault.slug
        assert verdict["passed"] is True
        if fault.slug in SET_BY_SCREW:
            assert all(item["in_band"] for item in verdict["items"])  # type: ignore[attr-defined]


def test_a_careless_one_hears_what_he_did(tmp_path: Path) -> None:
    # The mark is met first at the overlap of cylinder 1.
    said = Said(start_deg=330.0, slack_open=False)
    rigs = ("birch", "alder", "hornbeam")
    scenarios = [Scenario(demo_rig(rig), task=Task.SET, said=said) for rig in rigs]
    for verdict in worked(tmp_path, scenarios, "--careless"):
        assert verdict["passed"] is False
        assert abs(abs(float(str(verdict["tdc_error_deg"]))) - 360.0) < 3.0
        assert {"mark-zero-fires", "tight-is-too-tight"} <= set(verdict["wrong_ideas"])  # type: ignore[call-overload]


def test_the_mechanic_imports_nothing_of_the_program() -> None:
    text = MECHANIC.read_text(encoding="utf-8")
    assert "import true_compass" not in text
    assert "from true_compass" not in text
