import json
import os
import re
import tomllib
from dataclasses import replace
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.files.jobs import as_first_said
from tests.strategies import any_engines, engines
from true_compass.core.engine import Engine
from true_compass.core.valves.train import DEFAULT_TRAIN
from true_compass.files import engine_file
from true_compass.files.engine_file import (
    engine_text,
    parse_engine,
    read_checked,
    read_engine,
    save_engine,
)
from true_compass.files.model_v3 import schema_text
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import demo_rig, rig_names, rig_text

DOCS = Path(__file__).resolve().parents[2] / "docs"
FIXTURES = Path(__file__).resolve().parents[1] / "fixtures"
TEXT = rig_text("birch")
FIRST = (FIXTURES / "v1" / "birch.engine.toml").read_text(encoding="utf-8")
CEDAR = rig_text("cedar")


def problems(text: str) -> list[str]:
    with pytest.raises(EngineFileError) as caught:
        parse_engine(text, "x.engine.toml")
    return [str(problem) for problem in caught.value.problems]


def line_of(key: str, text: str) -> int:
    return next(n for n, line in enumerate(text.splitlines(), 1) if line.startswith(key))


def with_line(text: str, key: str, line: str) -> str:
    """The text with the line that begins with a key replaced."""
    lines = text.splitlines()
    lines[line_of(key, text) - 1] = line
    return "\n".join(lines)


@pytest.fixture(scope="module")
def schema() -> jsonschema.Draft202012Validator:
    return jsonschema.Draft202012Validator(json.loads(schema_text()))


@pytest.mark.parametrize("name", rig_names())
def test_every_rig_passes_the_strict_reading_and_the_schema(
    name: str, schema: jsonschema.Draft202012Validator
) -> None:
    assert parse_engine(rig_text(name), name) == demo_rig(name)
    assert demo_rig(name).place == "Wexcombe Vale College"
    schema.validate(tomllib.loads(rig_text(name)))


@pytest.mark.parametrize(
    ("key", "line", "field", "says"),
    [
        ("bore_mm", "bore_mm = nan", "dimensions.bore_mm", "plain number such as 82.5, not nan"),
        ("bore_mm", "bore_mm = inf", "dimensions.bore_mm", "not inf"),
        ("bore_mm", "bore_mm = 1e300", "dimensions.bore_mm", "2000 or less, not 1e\\+300"),
        ("bore_mm", f"bore_mm = {'9' * 400}", "dimensions.bore_mm", "plain number"),
        ("bore_mm", "bore_mm = true", "dimensions.bore_mm", "not true"),
        ("bore_mm", 'bore_mm = "96"', "dimensions.bore_mm", "plain number"),
        ("bore_mm", "bore = 96", "dimensions.bore", "did you mean bore_mm"),
        ("rod_mm", "rod_mm = 51", "dimensions.rod_mm", "longer than half the stroke \\(52 mm\\)"),
        ("cylinders", "cylinders = 200", "layout.cylinders", "18 or less"),
        ("cylinders", "cylinders = 5", "layout.firing_order", "names 6 cylinders"),
        (
            "firing_order",
            'firing_order = "1-5-3-6-2"',
            "layout.firing_order",
            "leaves out cylinder 4",
        ),
        ("firing_order", 'firing_order = "1-5-3-6-2-2"', "layout.firing_order", "2 more than once"),
        ("firing_order", "firing_order = 153624", "layout.firing_order", "text in quotes"),
        ("kind", 'kind = "vee"', "layout.kind", "must be 'inline', not 'vee'"),
        ("version", "version = 4", "version", "a newer version of the program wrote it"),
        ("version", "version = true", "version", "must be 1 to 3"),
        ("format", 'format = "other"', "format", "Is this an engine file"),
        ("name", 'name = "a\\u0000b"', "name", "without control or direction"),
        ("name", 'name = ""', "name", "must not be empty"),
        ("intake_opens", "intake_opens_btdc_deg = -90", "cam.intake_closes_abdc_deg", "only 10°"),
    ],
)
def test_a_wrong_field_is_named_with_its_line(key: str, line: str, field: str, says: str) -> None:
    text = with_line(FIRST, key, line)
    if key == "intake_opens":
        text = with_line(text, "intake_closes", "intake_closes_abdc_deg = -80")
    found = [problem for problem in problems(text) if f" {field} " in problem]
    assert len(found) == 1
    assert re.search(says, found[0])
    assert found[0].startswith(f"line {line_of(field.rpartition('.')[2][:12], FIRST)}: ")


@pytest.mark.parametrize(
    ("key", "line", "field", "says"),
    [
        ("throw", "throw = [1, 2, 3, 9, 1, 2, 3, 4]", "cylinders.throw", "cylinder 4 on throw 9"),
        ("throw", "throw = [1, 2, 3, 3, 1, 2, 3, 4]", "cylinders.throw", "3 and 4 in one place"),
        ("throw", "throw = [1, 2, 3, 4]", "cylinders.bank", "8 values for 4 cylinders"),
        ("throw", f"throw = {[1] * 200}", "cylinders.throw", "at most 18"),
        ("throw", "throw = [1, 2, 3, 0, 1, 2, 3, 4]", "cylinders.throw.4", "1 or more"),
        ("bank =", 'bank = ["A", "A", "A", "A", "B", "B", "B", "C"]', "cylinders.bank", "no bank"),
        ("pins_deg", "pins_deg = [0, 90, nan, 180]", "crank.pins_deg.3", "plain number"),
        ("pins_deg", "pins_deg = [0, 90, 1e9, 180]", "crank.pins_deg.3", "720 or less"),
        ("firing_order", 'firing_order = "1-2"', "layout.firing_order", "names 2 cylinders"),
        (
            "firing_order",
            'firing_order = "1-5-4-8-6-2-7-3"',
            "layout.firing_order",
            "7 cannot follow 2, because it is at TDC at 180° and 540°",
        ),
        ("pattern", 'pattern = "IEIE"', "valves.pattern", "one I and one E for each of the 4"),
        ("pattern", 'pattern = "EIIEEIIX"', "valves.pattern", "letters I and E"),
        ("form =", 'form = "vee"', "layout.form", "not 'vee'"),
        ("where", 'wher = "damper"', "mark.1.wher", "did you mean where"),
    ],
)
def test_a_wrong_layout_is_explained(key: str, line: str, field: str, says: str) -> None:
    found = [problem for problem in problems(with_line(CEDAR, key, line)) if f"{field} " in problem]
    assert len(found) == 1, problems(with_line(CEDAR, key, line))
    assert re.search(says, found[0])
    assert found[0].startswith("line ")


@pytest.mark.parametrize(
    "path", sorted(FIXTURES.glob("*/*.engine.toml")), ids=lambda path: path.stem
)
def test_files_of_every_released_version_still_open(path: Path) -> None:
    engine = read_engine(path)
    if path.parent.name == "v3":
        # Frozen with 1.0.0: the rigs as they shipped then.
        assert engine == demo_rig(path.name.split(".")[0])
        return
    # What later versions have learnt to say stands at its usual values.
    rig = as_first_said(demo_rig(path.name.split(".")[0]))
    if path.parent.name == "v1":
        rig = replace(rig, train=DEFAULT_TRAIN, damper_mm=0.0, ring_gear_teeth=0)
    assert replace(engine.train, preload_mm=None) == replace(rig.train, preload_mm=None)
    assert replace(engine, train=rig.train) == rig
    # Saving it writes the newest version, and the comments stay.
    text = engine_text(engine, path.read_text(encoding="utf-8"))
    assert parse_engine(text, "x") == engine
    assert "version = 3" in text
    assert text.splitlines()[0].startswith("# Rig ")


def test_every_wrong_field_is_reported_at_once() -> None:
    text = TEXT.replace("bore_mm = 96.0", "bore_mm = -1").replace("[lash]", "[lsh]")
    text = text.replace("ramp_deg = 20", "ramp_deg = 500")
    found = " ".join(problems(text))
    for field in ("dimensions.bore_mm", "cam.ramp_deg", "lash is missing", "lsh is not a key"):
        assert field in found


@pytest.mark.parametrize(
    "content",
    [
        b"\xff\xfe\x00",
        b"not toml at all",
        b"a = " + b"[" * 5000,
        b"a = " + b"9" * 10000,
        b"x" * 50_000_000,
        b"",
        b"[a]\n[a]\n",
    ],
    ids=["bytes", "words", "deep", "huge number", "50 MB", "empty", "twice"],
)
def test_anything_at_all_is_refused_in_one_sentence(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "any.engine.toml"
    path.write_bytes(content)
    with pytest.raises(EngineFileError) as caught:
        read_engine(path)
    assert len(caught.value.problems) == 1
    assert str(caught.value).startswith("any.engine.toml, ")
    assert path.read_bytes() == content


@pytest.mark.parametrize("name", ["missing.engine.toml", ".", "nul\0.toml"])
def test_a_path_that_is_no_file_is_refused(tmp_path: Path, name: str) -> None:
    with pytest.raises(EngineFileError, match="the file"):
        read_engine(tmp_path / name)


@settings(max_examples=200)
@given(st.text(max_size=60), st.integers(0, len(TEXT)))
def test_random_edits_are_read_or_refused_but_never_crash(extra: str, at: int) -> None:
    try:
        engine = parse_engine(TEXT[:at] + extra + TEXT[at:], "x")
    except EngineFileError:
        return
    assert isinstance(engine, Engine)


@settings(max_examples=60)
@given(st.one_of(engines(), any_engines()))
def test_round_trip_is_exact(engine: Engine) -> None:
    assert parse_engine(engine_text(engine), "x") == engine
    assert parse_engine(engine_text(engine, TEXT), "x") == engine
    assert parse_engine(engine_text(engine, CEDAR), "x") == engine


def test_saving_keeps_comments_and_touches_only_what_changed(tmp_path: Path) -> None:
    path = tmp_path / "mine.engine.toml"
    path.write_text(TEXT, encoding="utf-8")
    save_engine(replace(demo_rig("birch"), rod_mm=190.5), path)
    assert path.read_text(encoding="utf-8") == TEXT.replace("rod_mm = 182.0", "rod_mm = 190.5")


def test_saving_is_atomic(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "mine.engine.toml"
    path.write_text(TEXT, encoding="utf-8")
    path.chmod(0o640)

    def full_disk(_handle: int) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as broken:
        broken.setattr(os, "fsync", full_disk)
        with pytest.raises(OSError, match="No space"):
            save_engine(demo_rig("alder"), path)
    assert path.read_text(encoding="utf-8") == TEXT
    assert [entry.name for entry in tmp_path.iterdir()] == [path.name]
    save_engine(demo_rig("alder"), path)
    assert path.stat().st_mode & 0o777 == 0o640
    assert read_engine(path) == demo_rig("alder")


def test_a_file_that_is_no_engine_file_is_not_overwritten(tmp_path: Path) -> None:
    path = tmp_path / "letter.txt"
    path.write_text("Dear Sir", encoding="utf-8")
    with pytest.raises(EngineFileError):
        save_engine(demo_rig("birch"), path)
    assert path.read_text(encoding="utf-8") == "Dear Sir"


def test_a_text_checked_before_is_read_without_the_strict_model(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "mine.engine.toml"
    path.write_text(TEXT, encoding="utf-8")
    engine, mark = read_checked(path)
    monkeypatch.setattr(engine_file, "parse_engine", None)
    assert read_checked(path, mark) == (engine, mark)
    path.write_text(TEXT.replace("182.0", "nan"), encoding="utf-8")
    with pytest.raises(TypeError):
        read_checked(path, mark)


def test_the_schema_in_the_docs_is_current() -> None:
    assert (DOCS / "schemas" / "engine.schema.json").read_text(encoding="utf-8") == schema_text()


def test_the_docs_explain_every_key_and_their_example_is_read() -> None:
    page = (DOCS / "engine-file.md").read_text(encoding="utf-8")
    schema = json.loads(schema_text())
    parts = [schema, *schema["$defs"].values()]
    tables = {"layout", "crank", "cylinders", "rods", "dimensions", "valves", "cam", "lash", "mark"}
    tables |= {
        "ignition",
        "card",
        "table",
        "release",
        "extra",
        "train",
        "bank_advance",
        "compression",
        "source",
        "drive",
        "chamber",
    }
    for key in {key for part in parts for key in part["properties"]} - tables:
        assert f"| `{key}` |" in page, key
    examples = [part.split("```")[0] for part in page.split("```toml\n")[1:]]
    assert [parse_engine(text, "example").cylinder_count for text in examples] == [6, 8]
