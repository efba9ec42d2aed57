"""A sealed scenario tells nothing before its word, and its log says under which it was made."""

import io
import json
import tomllib
from dataclasses import replace
from pathlib import Path

import jsonschema
import pytest

from true_compass.bench.log import LogError, parse_log, played
from true_compass.bench.scenario import ItemSaid, Said, Scenario
from true_compass.bench.tasks import Task
from true_compass.cli.bench import Line
from true_compass.cli.main import run
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import demo_rig
from true_compass.files.scenario_file import parse_scenario, scenario_digest, scenario_text
from true_compass.files.schemas import SCHEMAS
from true_compass.files.sealing import (
    Sealed,
    SealError,
    parse_any_scenario,
    sealed_text,
)

FIXTURES = Path(__file__).parents[1] / "fixtures" / "bench"
WORD = "oak ash birch elm"
SECRET = Scenario(
    demo_rig("birch"),
    Task.FAULT,
    2,
    seed=271828,
    hardness=3,
    faults=("damper-crept",),
    said=Said(start_deg=123.25, items=(ItemSaid("I1", 0.17),)),
    rig="birch",
    title="What is wrong?",
)


def sealed(scenario: Scenario = SECRET, word: str = WORD) -> Sealed:
    told = parse_any_scenario(sealed_text(scenario, word), "s.scenario.toml")
    assert isinstance(told, Sealed)
    return told


def test_only_the_word_opens_it_and_it_is_the_scenario_then() -> None:
    told = sealed()
    opened = told.opened("  oak ash  birch elm ")
    assert opened == SECRET
    assert scenario_text(opened) == told.text, "an opened one is written down sealed"
    for word in ("", "oak", "oak ash birch el", WORD.upper()):
        with pytest.raises(SealError, match="not the word"):
            told.opened(word)
    for word in ("", "short", "x" * 201):
        with pytest.raises(SealError, match="8 letters at least"):
            sealed_text(SECRET, word)


def test_nothing_hidden_can_be_seen_or_told_by_its_length() -> None:
    bare = replace(SECRET, faults=(), said=Said(), task=Task.FREE)
    texts = [told.text for told in (sealed(), sealed(), sealed(bare))]
    for text in texts:
        head = text.split("[engine]")[0].split("[engine.")[0]
        for secret in ("damper-crept", "271828", "123.25", "0.17", "seed"):
            assert secret not in head
    hidden = [tomllib.loads(text)["sealed"]["hidden"] for text in texts]
    assert len(set(map(len, hidden))) == 1
    assert len(set(hidden)) == 3, "one scenario is sealed in another way each time"
    told = sealed()
    assert (told.seen.seed, told.seen.faults, told.seen.said) == (1, (), Said())


@pytest.mark.parametrize(
    ("old", "new"),
    [
        ("hardness = 3", "hardness = 1"),
        ('task = "fault"', 'task = "free"'),
        ("cylinder = 2", "cylinder = 1"),
        ('hidden = "', 'hidden = "AAAA'),
        ("stroke_mm", "bore_mm"),
    ],
)
def test_what_is_seen_cannot_be_changed_under_the_seal(old: str, new: str) -> None:
    text = sealed().text
    assert old in text or old == "stroke_mm"
    changed = text.replace(old, new, 1) if old != "stroke_mm" else _with_other_engine(text)
    told = parse_any_scenario(changed, "s.scenario.toml")
    assert isinstance(told, Sealed)
    with pytest.raises(SealError, match="not the word of the seal, or the file was changed"):
        told.opened(WORD)


def _with_other_engine(text: str) -> str:
    other = sealed_text(replace(SECRET, engine=demo_rig("alder"), cylinder=2, faults=()), WORD)
    ours, theirs = text.split("[sealed]")[1].split("[engine")[0], other.split("[sealed]")
    return theirs[0] + "[sealed]" + ours + "[engine" + theirs[1].split("[engine", 1)[1]


@pytest.mark.parametrize("what", ['salt = "', 'nonce = "', "[sealed]"])
def test_a_seal_that_is_none_is_refused_by_name(what: str) -> None:
    text = sealed().text.replace(what, f"{what}A" if what != "[sealed]" else "[seal]", 1)
    with pytest.raises(EngineFileError) as told:
        parse_any_scenario(text, "s.scenario.toml")
    assert told.value.sentences()


def test_whoever_has_no_word_is_told_where_it_is_typed() -> None:
    with pytest.raises(EngineFileError, match="open it on the Bench"):
        parse_scenario(sealed().text, "s.scenario.toml")


def log_of(scenario: Scenario) -> str:
    out = io.StringIO()
    line = Line(scenario, out)
    for action in ({"do": "bar", "deg": 30}, {"do": "wiggle", "item": "I1"}, {"do": "finish"}):
        line.answer(json.dumps(action))
    return out.getvalue()


def test_a_log_says_that_it_was_made_under_the_word() -> None:
    opened = sealed().opened(WORD)
    text = log_of(opened)
    assert "271828" not in text
    assert "damper-crept" not in text
    log = parse_log(text, opened.seal)
    assert log.header is not None
    assert log.header.sealed
    assert played(opened, scenario_digest(opened), log).state.finished
    # Without the key the chain is looked at alone.
    assert parse_log(text).actions == log.actions
    forged = log_of(sealed().opened(WORD)).split("\n")
    whole = text.split("\n")
    other = replace(opened, seal=None)
    plain = log_of(other).replace(scenario_digest(other), scenario_digest(opened))
    for wrong, told in (
        ("\n".join([whole[0], *forged[1:]]), "altered"),
        (text.replace('"deg":30', '"deg":31'), "altered"),
        ("\n".join(forged), "not made under the word"),
    ):
        with pytest.raises(LogError, match=told):
            parse_log(wrong, opened.seal)
    with pytest.raises(LogError):
        parse_log(plain, opened.seal)


def test_the_command_seals_asks_for_the_word_and_judges(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    words: list[str] = []
    monkeypatch.setattr("getpass.getpass", lambda _asked: words.pop(0))
    path, log = tmp_path / "s.scenario.toml", tmp_path / "s.benchlog.jsonl"
    new = ["scenario", "new", "--engine", "birch", "--task", "tdc", "--sealed", "-o", str(path)]
    for typed, told in (
        ([WORD, "other"], "not the same"),
        (["short", "short"], "8 letters"),
    ):
        words[:] = typed
        assert run(new) == 2
        assert told in capsys.readouterr().err
        assert not path.exists()
    words[:] = [WORD, WORD]
    assert run(new) == 0
    assert run(["bench", str(path), "--about"]) == 0
    assert "sealed" in capsys.readouterr().out
    declared = {"do": "declare", "cylinder": 1, "tdc": "compression"}
    lines = "".join(json.dumps(a) + "\n" for a in (declared, {"do": "finish"}))
    monkeypatch.setattr("sys.stdin", io.StringIO(lines))
    words[:] = [WORD]
    run(["bench", str(path), "--stdin", "--log", str(log)])
    capsys.readouterr()
    words[:] = ["not the word at all"]
    assert run(["bench", str(path), "--play", str(log)]) == 2
    assert "not the word" in capsys.readouterr().err
    words[:] = [WORD]
    run(["bench", str(path), "--play", str(log), "--json"])
    verdict = json.loads(capsys.readouterr().out)
    assert verdict["sealed"] is True
    assert any("A guess" in note for note in verdict["notes"])


def test_version_2_still_opens_and_its_log_plays() -> None:
    text = (FIXTURES / "v2.scenario.toml").read_text("utf-8")
    schema = jsonschema.Draft202012Validator(json.loads(SCHEMAS["sealed-scenario.schema.json"]()))
    schema.validate(tomllib.loads(text))
    told = parse_any_scenario(text, "v2.scenario.toml")
    assert isinstance(told, Sealed)
    opened = told.opened(WORD)
    assert (opened.seed, opened.faults) == (271828, ("damper-crept",))
    lines = (FIXTURES / "v2.benchlog.jsonl").read_text("utf-8")
    log_schema = json.loads(SCHEMAS["sealed-benchlog.schema.json"]())
    told_lines = [json.loads(line) for line in lines.splitlines()]
    jsonschema.Draft202012Validator(log_schema).validate(told_lines)
    run_again = played(opened, scenario_digest(opened), parse_log(lines, opened.seal))
    assert run_again.state.finished
