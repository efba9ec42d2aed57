"""`scenario` and `bench` as people and programs use them."""

import io
import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from true_compass.entry import main
from true_compass.files.rigs import rig_names

LINES = (
    {"do": "bar", "deg": 30},
    {"do": "wiggle", "item": "I1"},
    {"do": "fly"},
    {"do": "declare", "cylinder": 1, "tdc": "compression"},
    {"do": "finish"},
    {"do": "bar", "deg": 1},
)


@pytest.fixture
def scenario(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> Path:
    path = tmp_path / "one.scenario.toml"
    words = ["scenario", "new", "--engine", "birch", "--fault", "other-tdc", "--seed", "4"]
    assert main([*words, "--task", "tdc", "-o", str(path)]) == 0
    assert "Bring cylinder 1 to compression TDC" in capsys.readouterr().out
    return path


def test_faults_and_who_can_carry_them(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["scenario", "faults", "--json"]) == 0
    faults = json.loads(capsys.readouterr().out)["faults"]
    assert len(faults) == 29
    assert {"name", "title", "layouts"} <= set(faults[0])
    assert all(set(fault["layouts"]) <= set(rig_names()) for fault in faults)
    assert main(["scenario", "faults"]) == 0
    assert "rotor-one-turn" in capsys.readouterr().out


def test_lines_in_and_lines_out_each_flushed(scenario: Path, tmp_path: Path) -> None:
    log = tmp_path / "one.benchlog.jsonl"
    words = [sys.executable, "-m", "true_compass", "bench", str(scenario), "--stdin"]
    with subprocess.Popen(
        [*words, "--log", str(log)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    ) as process:
        assert process.stdin is not None
        assert process.stdout is not None
        answers: list[dict[str, Any]] = []
        for line in LINES:
            process.stdin.write(json.dumps(line) + "\n")
            process.stdin.flush()
            answers.append(json.loads(process.stdout.readline()))
        process.stdin.close()
        assert process.stdout.read() == ""
    assert process.returncode == 1
    assert answers[0]["ok"]
    assert answers[1]["play"] in ("loose", "just free", "tight")
    assert set(answers[2]) == set(answers[5]) == {"error"}
    assert answers[4]["passed"] is False
    assert len(log.read_text(encoding="utf-8").splitlines()) == 1 + 4


def test_a_log_plays_to_the_verdict_that_was_given(
    scenario: Path,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    log = tmp_path / "one.benchlog.jsonl"
    text = "".join(json.dumps(line) + "\n" for line in LINES)
    monkeypatch.setattr(sys, "stdin", io.StringIO(text))
    assert main(["bench", str(scenario), "--stdin", "--log", str(log)]) == 1
    said = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    verdict = said[4]
    assert main(["bench", str(scenario), "--play", str(log), "--json"]) == 1
    assert json.loads(capsys.readouterr().out) == {k: v for k, v in verdict.items() if k != "ok"}
    assert main(["bench", str(scenario), "--play", str(log)]) == 1
    assert "not passed" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("content", "told"),
    [
        ('{"do":"bar","deg":30}\n{"do":"ba', "torn in its last line"),
        ('{"do":"bar","deg":1e9}\n', "Action 1: deg of bar must be"),
        ("a song\n", "not readable in line 1"),
        ('{"format":"true-compass-engine"}\n', "does not begin as a log"),
    ],
)
def test_a_log_that_cannot_be_played(
    content: str, told: str, scenario: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    log = tmp_path / "odd.benchlog.jsonl"
    log.write_text(content, encoding="utf-8")
    assert main(["bench", str(scenario), "--play", str(log)]) == 2
    assert told in capsys.readouterr().err


@pytest.mark.parametrize(
    ("words", "told"),
    [
        ("scenario new --engine birch --fault gremlins -o {new}", "which is none"),
        ("scenario new --engine birch --seed x -o {new}", "--seed must be a whole number"),
        ("scenario new --engine birch --cylinder 9 -o {new}", "cylinder must be 1 to 6"),
        ("scenario new --engine birch -o {old}", "is there already"),
        ("scenario new --engine nowhere -o {new}", "neither a file nor a demo rig"),
        ("scenario new --engine cedar --task bridge -o {new}", "has no bridges"),
        ("bench {new} --stdin", "is not there"),
        ("bench {old} --stdin --log {old}", "is there already"),
        ("bench {old}", "required"),
    ],
)
def test_wrong_words_end_in_one_line(
    words: str, told: str, scenario: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    new = tmp_path / "new.scenario.toml"
    given = words.format(new=new, old=scenario).split()
    assert main(given) == 2
    error = capsys.readouterr().err
    assert told in error
    assert error.count("\n") == 1
    assert not new.exists()
