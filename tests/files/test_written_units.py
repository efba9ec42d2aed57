"""Figures that an engine file has as text with their unit."""

import json
import tomllib

import jsonschema
import pytest

from true_compass.core.adjusting.screws import plunger_per_turn_mm
from true_compass.core.items import Kind
from true_compass.files.engine_file import engine_text, parse_engine
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import demo_rig
from true_compass.files.schemas import SCHEMAS

BIRCH, CEDAR = engine_text(demo_rig("birch")), engine_text(demo_rig("cedar"))


def with_line(text: str, old: str, new: str) -> str:
    """A file with one line changed."""
    key = old.partition(" ")[0]
    lines = [f"{key} = {new}" if line.startswith(f"{key} =") else line for line in text.split("\n")]
    assert lines != text.split("\n")
    return "\n".join(lines)


# 1 in is 25.4 mm exactly (ISO 80000-3), 1 lbf·ft is 1.3558179483 N·m (NIST SP 811, B.8).
@pytest.mark.parametrize(
    ("key", "typed", "meant"),
    [
        ("intake_mm", '"10 thou"', 0.254),
        ("intake_mm", '"0.006 in"', 0.1524),
        ("exhaust_mm", '"0.45 mm"', 0.45),
        ("bore_mm", '"3.7 in"', 93.98),
        ("torque_nm", '"20 ft·lb"', 27.116359),
        ("torque_nm", '"30 N·m"', 30.0),
    ],
)
def test_a_figure_may_be_text_with_its_unit(key: str, typed: str, meant: float) -> None:
    text = with_line(BIRCH, key, typed)
    engine = parse_engine(text, "b.engine.toml")
    plain = parse_engine(with_line(BIRCH, key, repr(meant)), "b.engine.toml")
    assert engine == plain
    schema = jsonschema.Draft202012Validator(json.loads(SCHEMAS["engine.schema.json"]()))
    schema.validate(tomllib.loads(text))
    # Saved again it stays as it was typed; another figure in its place is in mm or N·m.
    assert f"{key} = {typed}" in engine_text(engine, text)
    assert f"{key} = {typed}" not in engine_text(demo_rig("birch"), text)


@pytest.mark.parametrize("turns", ["0.5 turn", "½ turn", "1/2 of a turn"])
def test_preload_may_be_turns_of_the_adjuster(turns: str) -> None:
    text = with_line(CEDAR, "preload_mm", f'["{turns}", "1 turn"]')
    engine = parse_engine(text, "c.engine.toml")
    per_turn = plunger_per_turn_mm(engine.train, Kind.INTAKE)
    assert per_turn is not None
    assert engine.train.preload_mm == pytest.approx((0.5 * per_turn, per_turn), abs=1e-6)
    assert turns in engine_text(engine, text)


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ("intake_mm", '"10 thumbs"', "lash.intake_mm must be a length"),
        ("intake_mm", '"1,250 mm"', "lash.intake_mm may be 1250 or 1.250"),
        ("torque_nm", '"20 psi"', "train.torque_nm must be a torque"),
        ("intake_mm", '"900 in"', "lash.intake_mm"),
    ],
)
def test_what_is_no_figure_names_its_key_and_line(old: str, new: str, says: str) -> None:
    text = with_line(BIRCH, old, new)
    with pytest.raises(EngineFileError) as caught:
        parse_engine(text, "b.engine.toml")
    problem = caught.value.problems[0]
    assert f"{problem.field} {problem.sentence}".startswith(says)
    line = problem.line
    assert line is not None
    assert text.split("\n")[line - 1].startswith(old)


def test_turns_need_a_thread() -> None:
    text = with_line(CEDAR, "preload_mm", '["0.5 turn", "1 turn"]')
    text = "\n".join(line for line in text.split("\n") if not line.startswith("thread"))
    with pytest.raises(EngineFileError, match=r"needs train\.adjuster and train\.thread"):
        parse_engine(text, "c.engine.toml")
