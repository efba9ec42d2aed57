"""Beyond the distributor: coils, injection, a sensor, an igniter."""

from dataclasses import replace

import pytest

from true_compass.core.engine import Engine
from true_compass.core.ignition.beyond import (
    Coil,
    coils,
    edge_words,
    igniter_words,
    injections_deg,
    kind_words,
    sparks,
    sparks_deg,
)
from true_compass.core.limits import EngineError
from true_compass.core.rotation import Rotation
from true_compass.core.spark import Beyond, Spark
from true_compass.files.rigs import demo_rig


def test_beyond_the_distributor() -> None:
    four = demo_rig("whitebeam")
    pairs = coils(four)
    assert [coil.cylinders for coil in pairs] == [(1, 4), (3, 2)]
    assert sparks_deg(four, pairs[0]) == (0.0, 360.0)
    assert edge_words(four, four.spark.beyond.sensor_deg[0]) == "140° before 3"
    assert injections_deg(four)[0] == pytest.approx(300.0)
    three = demo_rig("larch")
    assert [coil.cylinders for coil in coils(three)] == [(1,), (3,), (2,)]
    assert "one tooth" in " ".join(igniter_words(demo_rig("fir"))).lower()
    heads = {name: kind_words(demo_rig(name)) for name in ("hickory", "fir", "larch", "birch")}
    assert "injects 1-5-3-6-2-4" in heads["hickory"]
    assert len(set(heads.values())) == 4
    with pytest.raises(EngineError, match="each plug has a coil of its own"):
        replace(demo_rig("willow"), spark=Spark(beyond=Beyond(waste_spark=True)))
    assert Rotation.CLOCKWISE.other.other is Rotation.CLOCKWISE


def wasting(name: str) -> Engine:
    return replace(demo_rig(name), spark=Spark(beyond=Beyond(waste_spark=True)))


def test_a_wasted_spark_of_one_alone_comes_every_turn() -> None:
    assert sparks_deg(wasting("ash"), Coil("A", (1,))) == (0.0, 360.0)
    assert sparks_deg(demo_rig("ash"), Coil("A", (1,))) == (0.0,)


@pytest.mark.parametrize(("name", "does"), [("hickory", False), ("birch", True), ("fir", True)])
def test_what_sparks_at_all(name: str, *, does: bool) -> None:
    assert sparks(demo_rig(name)) is does
