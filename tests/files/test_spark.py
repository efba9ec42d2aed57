"""`[ignition]` of an engine file: what comes back as it went, and what cannot be."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.rotation import Rotation
from true_compass.core.spark import (
    Advance,
    Beyond,
    Distributor,
    Ignition,
    Points,
    Port,
    Rotor,
    Spark,
    Viewpoint,
)
from true_compass.files.engine_file import engine_text, parse_engine
from true_compass.files.problems import EngineFileError
from true_compass.files.rigs import demo_rig

SIX = engine_text(replace(demo_rig("birch"), spark=Spark()))


def figures(least: float, most: float) -> st.SearchStrategy[float]:
    return st.floats(least, most).map(lambda value: round(value, 3))


def maybe(strategy: st.SearchStrategy[float]) -> st.SearchStrategy[float | None]:
    return st.none() | strategy


@st.composite
def points(draw: st.DrawFn, most: float) -> Points:
    """None at all, or two to twelve that rise."""
    ats = draw(st.lists(st.integers(32, int(most)), max_size=12, unique=True).map(sorted))
    if len(ats) < 2:
        return ()
    degs = draw(st.lists(figures(0, 60), min_size=len(ats), max_size=len(ats)).map(sorted))
    return tuple((float(at), deg) for at, deg in zip(ats, degs, strict=True))


@st.composite
def sparks(draw: st.DrawFn) -> Spark:
    """Anything that `[ignition]` can say of an even six."""
    angle = figures(-360, 360)
    words = st.sampled_from(("", "manifold", "pump pipe"))
    distributor = Distributor(
        draw(st.sampled_from((0, 5, 13, 60))),
        draw(st.sampled_from((0, 6, 36))),
        draw(maybe(angle)),
        draw(maybe(angle)),
        draw(maybe(figures(-90, 90))),
        draw(st.integers(0, 2)),
        draw(angle),
        draw(st.none() | st.tuples(figures(0, 90), figures(0, 90))),
        draw(st.tuples(words, words)),
    )
    advance = Advance(
        draw(maybe(figures(-20, 20))),
        draw(points(20000)),
        draw(points(1000)),
        draw(st.booleans()),
        draw(st.sampled_from(Port)),
        idle_rpm=draw(figures(0, 20000)),
        idle_mbar=draw(figures(0, 1000)),
        cruise_rpm=draw(figures(0, 20000)),
        cruise_mbar=draw(figures(0, 1000)),
        most_wide_open_deg=draw(maybe(figures(0, 60))),
        most_starter_deg=draw(maybe(figures(0, 40))),
    )
    beyond = Beyond(
        draw(st.booleans()),
        tuple(draw(st.lists(figures(0, 719.999), max_size=4))),
        draw(maybe(figures(0, 720))),
        draw(maybe(figures(-20, 60))),
    )
    rotor = Rotor(draw(st.none() | st.sampled_from(Rotation)), draw(st.sampled_from(Viewpoint)))
    return Spark(draw(st.sampled_from(Ignition)), rotor, distributor, advance, beyond)


@given(sparks())
def test_every_spark_comes_back_as_it_went(spark: Spark) -> None:
    engine = replace(demo_rig("birch"), spark=spark)
    assert parse_engine(engine_text(engine), "x").spark == spark


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("initial_deg = 24", "ignition.initial_deg must be from -20 to 20 deg, not 24: more kicks"),
        ("initial_deg = nan", "ignition.initial_deg"),
        ("weights_rpm_deg = [[900, 20], [3200, 4]]", "ignition.weights_rpm_deg must not fall"),
        ("weights_rpm_deg = [[900, 0]]", "ignition.weights_rpm_deg must be 2 to 12 points"),
        ("can_mbar_deg = [[4, 0], [14, 12]]", "inHg? 14 inHg are 474 mbar"),
        ("can_mbar_deg = [[-50, 0], [400, 12]]", "ignition.can_mbar_deg must not have -50"),
        ("swing_deg = [18]", "ignition.swing_deg must be two: how far anticlockwise"),
        ("swing_deg = [18, 200]", "ignition.swing_deg"),
        ("gear_teeth = 4", "ignition.gear_teeth must be 5 to 60, or 0 if not known, not 4"),
        ("sensor_deg = [720]", "ignition.sensor_deg"),
        ('kind = "flint"', "ignition.kind"),
        ("trip_deg = 90", "ignition.trip_deg"),
    ],
)
def test_what_cannot_be_is_told_by_its_field_and_line(line: str, says: str) -> None:
    text = f"{SIX}\n[ignition]\n{line}\n"
    with pytest.raises(EngineFileError) as told:
        parse_engine(text, "x.engine.toml")
    assert says in str(told.value)
    assert told.value.problems[0].line == text[: text.index(line)].count("\n") + 1


def test_a_coil_cannot_share_where_nobody_fires_a_turn_away() -> None:
    odd = engine_text(replace(demo_rig("willow"), spark=Spark()))
    with pytest.raises(EngineFileError, match="each plug has a coil of its own"):
        parse_engine(f"{odd}\n[ignition]\nwaste_spark = true\n", "x")
