"""Logs: what replays, what was altered, what is torn or of another scenario."""

import json

import pytest

from true_compass.bench.log import Header, LogError, chained, parse_log, played
from true_compass.bench.run import Run
from true_compass.bench.scenario import Said, Scenario
from true_compass.bench.tasks import Task
from true_compass.files.rigs import demo_rig
from true_compass.files.scenario_file import scenario_digest

SCENARIO = Scenario(demo_rig("birch"), task=Task.TDC, said=Said(start_deg=50.0))
ACTIONS = (
    {"do": "bar", "deg": 640.0, "t_s": 3.5},
    {"do": "thumb", "cylinder": 1, "deg": 30.0},
    {"do": "wiggle", "item": "I1"},
    {"do": "declare", "cylinder": 1, "tdc": "compression"},
    {"do": "finish"},
)


def log_text() -> str:
    header = Header("digest", scenario_digest(SCENARIO), 1, "0.1.0", False, "an id")
    lines, run = [header.line()], Run.begin(SCENARIO)
    for action in ACTIONS:
        run, answer = run.done(action)
        lines.append(chained(lines[-1], action, {} if run.state.finished else answer))
    return "\n".join(lines) + "\n"


def test_a_log_plays_to_the_same_verdict() -> None:
    log = parse_log(log_text())
    run = played(SCENARIO, scenario_digest(SCENARIO), log)
    assert run.verdict() == Run.begin(SCENARIO).replayed(ACTIONS).verdict()
    assert run.verdict()["passed"] is True
    plain = parse_log("\n".join(map(json.dumps, ACTIONS)))
    assert played(SCENARIO, "", plain).state == run.state


def test_the_last_line_may_be_torn_off() -> None:
    text = log_text()
    torn = parse_log(text[: text.rindex("\n", 0, -1) + 20])
    assert torn.torn
    assert len(torn.actions) == len(ACTIONS) - 1


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("not a log", "no whole line"),
        ("not a log\n", "line 1"),
        ("[1]\n", "no action in line 1"),
        ('{"format":"something"}\n', "does not begin"),
        ('{"format":"true-compass-benchlog","version":9}\n', "version 9"),
        ('{"format":"true-compass-benchlog","version":1}\n', "not whole"),
        (log_text().replace("640.0", "641.0"), "altered: line 2"),
        ("\n".join([*log_text().split("\n")[:2], *log_text().split("\n")[3:]]), "altered: line 3"),
        ('{"do":"bar","deg":' + "1" * 30_000 + "}\n", "too long"),
    ],
)
def test_what_is_no_log_says_so(text: str, told: str) -> None:
    with pytest.raises(LogError, match=told):
        parse_log(text)


def test_a_log_of_another_scenario_is_not_played() -> None:
    with pytest.raises(LogError, match="another scenario"):
        played(SCENARIO, "other", parse_log(log_text()))
    with pytest.raises(LogError, match="Action 1: There is no action"):
        played(SCENARIO, "", parse_log('{"do":"fly"}\n'))
    # What a line would refuse changes nothing, and the rest of a plain list goes on.
    mixed = [{"do": "fly"}, *ACTIONS, {"do": "bar", "deg": 1}]
    run = played(SCENARIO, "", parse_log("\n".join(map(json.dumps, mixed))))
    assert run.verdict() == Run.begin(SCENARIO).replayed(ACTIONS).verdict()
