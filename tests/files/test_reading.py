"""One reader for every format: what is no ordinary file, what would be slow, what is doubtful."""

import os
import tracemalloc
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from true_compass.core.engine import Mark, Meaning, Shaft, even_inline
from true_compass.core.limits import EngineError
from true_compass.core.rotation import End, Rotation
from true_compass.core.spark import Ignition, Rotor, Spark, Viewpoint
from true_compass.core.units import GapUnit
from true_compass.core.valves.train import LashAt
from true_compass.drawing.dials import rotor_title
from true_compass.files.engine_file import engine_text, parse_engine, read_engine, save_engine
from true_compass.files.engine_values import ENGINE_FILE, differing, engine_digest
from true_compass.files.lift_table import read_lift_table
from true_compass.files.problems import EngineFileError, shown_text
from true_compass.files.rigs import demo_rig, rig_text

BIRCH = rig_text("birch")


def refused(text: str) -> EngineFileError:
    with pytest.raises(EngineFileError) as caught:
        parse_engine(text, "x.engine.toml")
    return caught.value


def test_nothing_but_ordinary_files_is_read_and_nothing_is_waited_for(tmp_path: Path) -> None:
    pipe, loop, folder = (tmp_path / name for name in ("pipe", "loop", "folder"))
    os.mkfifo(pipe)
    loop.symlink_to(loop)
    folder.mkdir()
    for path in (pipe, loop, folder, Path("/dev/zero"), tmp_path / ("a" * 300), tmp_path / "none"):
        for read in (read_engine, read_lift_table):
            with pytest.raises(EngineFileError) as caught:
                read(path)
            assert len(caught.value.sentences()) == 1
    with pytest.raises((OSError, EngineFileError), match=r"links|circle"):
        save_engine(demo_rig("birch"), loop)


LARGE = {
    "tables": BIRCH + "[[b]]\n" * 20_000,
    "deep key": BIRCH + "a." * 8500 + "a = 1\n",
    "deep quoted key": BIRCH + '"a".' * 8500 + "a = 1\n",
    "deep inline": BIRCH + "x = {" + "a." * 8500 + "a = 1}\n",
    "keys": BIRCH + "".join(f"k{n} = 1\n" for n in range(75_000)),
    "values": BIRCH + "x = [" + "0," * 450_000 + "]\n",
    "lines": BIRCH + "\n" * 900_000,
    "one long word": BIRCH + "a" * 950_000,
    "brackets": BIRCH + "x = " + "[" * 400_000,
    "quotes": BIRCH + '"' * 900_000,
    "hexadecimal": BIRCH.replace("132", "0x" + "f" * 5000),
    "long text": BIRCH.replace('name = "Rig Birch"', f'name = "{"x" * 900_000}"'),
}


@pytest.mark.parametrize("name", LARGE)
def test_a_file_that_would_be_slow_to_read_is_refused_before_it_is_parsed(name: str) -> None:
    refused("format = 5")  # the model is imported once, and not counted
    tracemalloc.start()
    error = refused(LARGE[name])
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    # Far above what it takes, far below the 413 MB of parsing it all; `make bench` has the time.
    assert most < 60e6
    assert len(str(error)) < 4000


def test_ten_problems_are_told_and_the_rest_counted() -> None:
    error = refused(BIRCH + "[sheds]\n" + "".join(f"[shed{n}]\n" for n in range(200)))
    assert error.count == 201
    assert len(error.problems) == 10
    assert error.sentences()[-1] == "And 191 more."


@pytest.mark.parametrize("char", ["\\u202e", "\\u200b", "\\u0007", "\\u0085", "\\u2028", "\\ufeff"])
def test_names_without_control_and_direction_characters(char: str) -> None:
    for field in ("Rig Birch", "Wexcombe Vale College", "screwdriver"):
        error = refused(BIRCH.replace(field, f"{field}{char}"))
        assert "control or direction characters" in str(error)
    # Letters of any script are welcome, with their marks.
    name = "Rig Björk מנוע محرك"
    assert parse_engine(BIRCH.replace("Rig Birch", name), "x").name == name


def test_what_cannot_be_shown_is_spelt_out() -> None:
    assert shown_text("a\u202eb\x1b[31m\udcff") == "a\\u202eb\\x1b[31m\\udcff"
    assert shown_text("Rig Björk, 5 °") == "Rig Björk, 5 °"


DOTTED = """\
# Kept at the top.
format = "true-compass-engine"
version = 3
name = "Dotted"
layout.form = "inline"  # kept too?
layout.firing_order = "1-3-4-2"
crank.pins_deg = [0, 180, 180, 0]
dimensions.bore_mm = 84
dimensions.stroke_mm = 80
dimensions.rod_mm = 140
cam.intake_opens_btdc_deg = 15
cam.intake_closes_abdc_deg = 50
cam.exhaust_opens_bbdc_deg = 50
cam.exhaust_closes_atdc_deg = 15
cam.intake_lift_mm = 9
cam.exhaust_lift_mm = 9
lash.intake_mm = 0.2
lash.exhaust_mm = 0.3
"""


@pytest.mark.parametrize(
    "text",
    [
        DOTTED,
        DOTTED.replace("lash.intake_mm = 0.2\nlash.exhaust_mm = 0.3\n", "")
        + "[lash]\nintake_mm = 0.2\nexhaust_mm = 0.3\n",
        DOTTED + "[train]\n[train.x]\n".replace("[train.x]\n", "kind = 'rocker'\n"),
    ],
)
def test_dotted_keys_can_be_saved_and_comments_stay(text: str, tmp_path: Path) -> None:
    path = tmp_path / "dotted.engine.toml"
    path.write_text(text, encoding="utf-8")
    changes: tuple[dict[str, Any], ...] = ({"bore_mm": 86.0}, {"damper_mm": 165.0}, {"note": "x"})
    for change in changes:
        engine = replace(read_engine(path), **change)
        save_engine(engine, path)
        assert read_engine(path) == engine
    assert "# Kept at the top." in path.read_text(encoding="utf-8")


def test_a_remark_or_a_new_key_at_its_usual_value_changes_no_digest() -> None:
    engine = demo_rig("birch")
    same = replace(engine, name="Other", place="Elsewhere", note="remark")
    assert engine_digest(same) == engine_digest(engine)
    assert engine_digest(replace(engine, bore_mm=97.0)) != engine_digest(engine)
    assert engine_digest(replace(engine, gap_unit=GapUnit.THOU)) != engine_digest(engine)
    spelt = BIRCH.replace("ramp_deg = 20", "ramp_deg = 20.0\ncamshafts = 1")
    assert engine_digest(parse_engine(spelt, "x")) == engine_digest(engine)
    assert engine_digest(replace(engine, pin_offset_mm=-0.0)) == engine_digest(engine)
    rows = differing(engine, replace(engine, bore_mm=97.0))
    assert rows == [("dimensions.bore_mm", "96.0", "97.0")]


@pytest.mark.parametrize(
    ("mark", "says"),
    [
        (Mark("pulley", 360.0), "of a crank mark must be from 0 to less than 360"),
        (Mark("pulley", -1.0), "of a crank mark must be from 0"),
        (Mark("cap", 720.0, shaft=Shaft.CAM), "of a cam mark must be from 0 to less than 720"),
        (Mark("pulley", None, meaning=Meaning.FIRING), "only a TDC mark can do without an angle"),
        (Mark("pulley", 0.0, cylinder=9), "must be a cylinder, not 9"),
    ],
)
def test_marks_stand_in_one_turn_of_their_shaft(mark: Mark, says: str) -> None:
    with pytest.raises(EngineError, match=says):
        replace(demo_rig("birch"), marks=(mark,))
    replace(demo_rig("birch"), marks=(Mark("cap", 719.0, shaft=Shaft.CAM),))


def test_what_version_3_has_learnt_comes_back_as_it_went() -> None:
    engine = replace(
        demo_rig("birch"),
        gap_unit=GapUnit.THOU,
        spark=Spark(Ignition.DISTRIBUTOR, Rotor(Rotation.ANTICLOCKWISE, Viewpoint.REAR)),
        marks=(
            Mark("pulley", 0.0, "T", True, "white"),
            Mark("pulley", 350.0, meaning=Meaning.FIRING),
            Mark("cam cap", 700.0, shaft=Shaft.CAM, meaning=Meaning.OTHER),
            Mark("flywheel pin", None, cylinder=3),
        ),
    )
    assert parse_engine(engine_text(engine), "x") == engine
    assert parse_engine(engine_text(engine, BIRCH), "x") == engine
    assert rotor_title(engine) == "Rotor, from the rear"
    assert rotor_title(demo_rig("alder")) == "Rotor, direction assumed"


def version_2(text: str) -> str:
    return (Path(__file__).parent.parent / "fixtures" / "v2" / f"{text}.engine.toml").read_text(
        encoding="utf-8"
    )


def test_what_version_2_said_still_means_the_same() -> None:
    birch = version_2("birch")
    assert "accepted_mm = 0.05" in birch
    engine = parse_engine(birch, "x")
    assert engine.train.intake_accepted_mm == pytest.approx((0.20, 0.30))
    assert engine.train.exhaust_accepted_mm == pytest.approx((0.35, 0.45))
    foot = birch.replace('adjuster = "rod-screw"', 'adjuster = "rod-screw"\nlash_at = "foot"')
    assert parse_engine(foot, "x").train.lash_at is LashAt.ROD_END
    # A mark was folded then, and what is no TDC was not told apart from one.
    marked = birch + '[[mark]]\nwhere = "pulley"\nangle_deg = -10\n'
    marked += '[[mark]]\nwhere = "flywheel"\nangle_deg = 480\n'
    first, second = parse_engine(marked, "x").marks
    assert (first.angle_deg, first.meaning) == (350.0, Meaning.OTHER)
    assert (second.angle_deg, second.meaning) == (120.0, Meaning.TDC)


@pytest.mark.parametrize("throws", ["", "[cylinders]\nthrow = [1, 2, 3, 4, 5, 6]\n"])
def test_cylinder_1_at_the_rear_in_a_file_of_version_2_keeps_every_tdc(throws: str) -> None:
    text = version_2("birch").replace('form = "inline"', 'form = "inline"\ncylinder_1_at = "rear"')
    text = text.replace("[0.0, 240.0, 120.0, 120.0, 240.0, 0.0]", "[0, 240, 120, 0, 240, 120]")
    text = text.replace("1-5-3-6-2-4", "1-2-3-4-5-6").replace("[train]", f"{throws}[train]")
    front = parse_engine(text.replace('"rear"', '"front"'), "x")
    rear = parse_engine(text, "x")
    assert rear.cylinder_1_at is End.REAR
    assert rear.firing_offsets_deg.tolist() == front.firing_offsets_deg.tolist()
    assert parse_engine(engine_text(rear), "x") == rear


def test_an_end_that_its_throws_contradict_is_said() -> None:
    text = BIRCH.replace('form = "inline"', 'form = "inline"\ncylinder_1_at = "rear"')
    text = text.replace("[train]", "[cylinders]\nthrow = [1, 2, 3, 4, 5, 6]\n\n[train]")
    assert "says rear, but its throw is not the last" in str(refused(text))
    assert parse_engine(text.replace("[1, 2, 3, 4, 5, 6]", "[6, 5, 4, 3, 2, 1]"), "x")


def test_every_format_has_an_upgrade_for_each_version() -> None:
    assert sorted(ENGINE_FILE.upgrades) == list(range(1, ENGINE_FILE.newest))
    assert sorted(ENGINE_FILE.models()) == list(range(1, ENGINE_FILE.newest + 1))
    assert engine_digest(even_inline((1, 3, 4, 2))) == engine_digest(even_inline((1, 3, 4, 2)))
