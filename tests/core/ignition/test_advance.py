"""Advance against worked totals, its limits, and units."""

from dataclasses import replace

import numpy as np
import pytest

from true_compass.core.ignition.advance import (
    checks,
    parts_at,
    rim_mm,
    three_places,
    told_at,
    total_deg,
)
from true_compass.core.limits import EngineError
from true_compass.core.spark import Advance, Port, check_advance, parse_points
from true_compass.core.units import MBAR_PER_INHG, PA_PER_INHG, parse_depression_mbar
from true_compass.files.rigs import demo_rig

BOOK = Advance(8.0, ((900.0, 0.0), (3200.0, 24.0)), ((100.0, 0.0), (400.0, 14.0)))


@pytest.mark.parametrize(
    ("rpm", "mbar", "total"), [(2000, 250, 26.5), (3200, 0, 32.0), (3200, 400, 46.0)]
)
def test_worked_totals(rpm: float, mbar: float, total: float) -> None:
    """Common practice, no source."""
    assert parts_at(BOOK, rpm, mbar).total_deg == pytest.approx(total, abs=0.05)
    # Data at the distributor double for the crank: degrees, and the weights' speeds.
    half = replace(
        BOOK,
        weights=((450.0, 0.0), (1600.0, 12.0)),
        can=((100.0, 0.0), (400.0, 7.0)),
        at_distributor=True,
    )
    assert parts_at(half, rpm, mbar) == parts_at(BOOK, rpm, mbar)


def test_points_told_elsewhere_mean_the_same() -> None:
    there = told_at(BOOK, distributor=True)
    assert there.weights == ((450.0, 0.0), (1600.0, 12.0))
    assert there.can == ((100.0, 0.0), (400.0, 7.0))
    assert told_at(there, distributor=False) == BOOK
    assert told_at(there, distributor=True) is there


def test_inches_of_mercury_and_the_rim() -> None:
    """1 inHg = 3386.389 Pa (NIST SP 811, 2008, B.8); full at 14 inHg is 474 mbar (common
    practice); 1 mm on 160 mm is 0.716° (arithmetic, πD/360).
    """
    assert PA_PER_INHG == 3386.389
    assert parse_depression_mbar("vacuum", "14 inHg") == pytest.approx(474.09, abs=0.01)
    assert parse_depression_mbar("vacuum", "25kPa") == 250.0
    assert pytest.approx(33.86389) == MBAR_PER_INHG
    assert 1 / rim_mm(160.0, 1.0) == pytest.approx(0.716, abs=0.0005)


def test_many_totals_are_those_of_one() -> None:
    speeds, pulls = np.linspace(0, 5000, 200), np.linspace(0, 700, 50)
    table = total_deg(BOOK, speeds, pulls)
    assert table.shape == (200, 50)
    for n, m in ((0, 0), (50, 20), (137, 49)):
        one = parts_at(BOOK, float(speeds[n]), float(pulls[m])).total_deg
        assert table[n, m] == pytest.approx(one)


def test_three_places_and_the_limits() -> None:
    birch = demo_rig("birch").spark.advance
    totals = [place.parts.total_deg for place in three_places(birch)]
    assert totals == pytest.approx([22.0, 37.61, 32.0], abs=0.01)
    said = {check.said: check.fine for check in checks(birch)}
    assert said == {
        "Wide open 32.0°, 1.0° under the limit": True,
        "Idle, 750 rpm, is below the weights": True,
        "Pull and plug the hose first": False,
    }
    # 10 with the hose on leaves −2 without: 12° come from the can at idle.
    assert "−2° is left" in checks(birch)[-1].why
    worse = replace(birch, initial_deg=18.0, port=Port.PORTED, idle_rpm=1200.0)
    words = " ".join(check.said for check in checks(worse) if not check.fine)
    assert "40.0°, 7.0° over" in words
    assert "too much for the starter" in words
    assert "already in the weights" in words
    assert three_places(worse)[0].depression_mbar == 0.0
    assert three_places(BOOK)[0].assumed


@pytest.mark.parametrize(
    ("known", "assumed"),
    [
        ({}, [True, True, False]),
        ({"idle_rpm": 700.0}, [True, True, False]),
        # A ported can has nothing at idle, whatever the engine pulls.
        ({"idle_rpm": 700.0, "port": Port.PORTED}, [False, True, False]),
        ({"idle_rpm": 700.0, "idle_mbar": 450.0}, [False, True, False]),
        ({"cruise_rpm": 2500.0}, [True, True, False]),
        ({"cruise_mbar": 300.0}, [True, True, False]),
        ({"cruise_rpm": 2500.0, "cruise_mbar": 300.0}, [True, False, False]),
    ],
)
def test_a_place_is_assumed_until_speed_and_depression_are_known(
    known: dict[str, object], assumed: list[bool]
) -> None:
    advance = replace(BOOK, **known)  # type: ignore[arg-type]
    places = three_places(advance)
    assert [place.assumed for place in places] == assumed
    assert places[1].speed_rpm == known.get("cruise_rpm", 2400.0)
    # Wide open is where the weights have gone all the way, and no depression is left.
    assert (places[2].speed_rpm, places[2].depression_mbar) == (3200.0, 0.0)


def test_a_limit_that_is_met_is_not_passed() -> None:
    fine = {check.said: check.fine for check in checks(replace(BOOK, most_wide_open_deg=32.0))}
    assert fine["Wide open 32.0°, 0.0° under the limit"]
    at_limit = replace(BOOK, initial_deg=16.0)
    assert not any("starter" in check.said for check in checks(at_limit))
    over = replace(BOOK, initial_deg=16.5)
    assert any("16.5° is too much for the starter" in check.said for check in checks(over))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"initial_deg": 24.0}, "kicks the starter"),
        ({"weights": ((900.0, 20.0), (3200.0, 4.0))}, "must not fall"),
        ({"weights": ((900.0, 0.0), (900.0, 4.0))}, "must rise in rpm"),
        ({"weights": ((900.0, 0.0),)}, "2 to 12 points"),
        ({"can": ((3.0, 0.0), (14.0, 12.0))}, "14 inHg are 474 mbar"),
    ],
)
def test_an_advance_that_cannot_be_is_explained(change: dict[str, object], says: str) -> None:
    with pytest.raises(EngineError, match=says):
        check_advance(replace(BOOK, **change))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("250", "needs its unit"),
        ("-50 mbar", "0 or more"),
        ("250 inHg", "is the unit right"),
        ("x", "a depression such as"),
    ],
)
def test_a_depression_that_cannot_be_is_explained(typed: str, says: str) -> None:
    with pytest.raises(EngineError, match=says):
        parse_depression_mbar("vacuum", typed)
    assert parse_points("can", "3inHg:0, 14inHg:12")[1] == pytest.approx((474.09, 12), abs=0.01)
