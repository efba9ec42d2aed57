"""Advance, the lamp and its suspects, and what an engine tells without a book."""

from dataclasses import replace

import numpy as np
import pytest

from true_compass.core.ignition.advance import (
    checks,
    parts_at,
    rim_mm,
    three_places,
    total_deg,
)
from true_compass.core.ignition.beyond import (
    coils,
    edge_words,
    igniter_words,
    injections_deg,
    kind_words,
    sparks_deg,
)
from true_compass.core.ignition.lamp import (
    Faults,
    How,
    Reading,
    Suspect,
    found,
    usual_row,
    would_read_deg,
)
from true_compass.core.ignition.spin import Seen, closing_before_tdc_deg, inferred
from true_compass.core.limits import EngineError
from true_compass.core.rotation import Rotation
from true_compass.core.spark import Advance, Beyond, Port, Spark, check_advance, parse_points
from true_compass.core.state import Rig
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


FAULTS = [
    (Faults(off_deg=-6.0), (Suspect.SETTING,)),
    (Faults(weights_stuck=True), (Suspect.WEIGHTS,)),
    (Faults(can_leaks=True), (Suspect.CAN,)),
    (Faults(hose_off=True), (Suspect.HOSE,)),
]


@pytest.mark.parametrize(("faults", "left"), FAULTS)
@pytest.mark.parametrize("name", ["birch", "cedar", "sycamore"])
def test_the_usual_row_leads_to_each_fault(
    name: str, faults: Faults, left: tuple[Suspect, ...]
) -> None:
    advance = demo_rig(name).spark.advance
    row = usual_row(advance)
    readings = [Reading(one, would_read_deg(advance, one, faults)) for one in row]
    result = found(advance, readings)
    assert result.left == left
    assert result.next_row is None
    assert all(row.read is not None for row in result.rows)


def test_one_reading_at_a_time_and_the_row_that_tells_most() -> None:
    advance = demo_rig("birch").spark.advance
    row = usual_row(advance)
    start = found(advance, [])
    assert start.headline == "Take the readings in their order"
    assert start.next_row == 0
    leak = [Reading(one, would_read_deg(advance, one, FAULTS[2][0])) for one in row]
    two = found(advance, leak[:3])
    assert two.headline == "Two are left: the can leaks, or its hose does"
    assert two.rows[two.next_row or 0].asked.how is How.PUMP
    sound = [Reading(one, would_read_deg(advance, one, Faults())) for one in row]
    assert found(advance, sound).headline == "Everything is as it should be"
    # Too much with the hose on alone fits nothing that is known.
    odd = [*sound[:2], Reading(row[2], 60.0)]
    assert found(advance, odd).headline == "Two faults, or misread: take 1 again"


def test_a_damper_that_crept_before_it_was_set_is_seen_by_the_piston_stop_alone() -> None:
    advance = demo_rig("birch").spark.advance
    crept = Faults(off_deg=-5.0, crept_deg=5.0)
    readings = [Reading(one, would_read_deg(advance, one, crept)) for one in usual_row(advance)]
    result = found(advance, readings)
    assert [row.read == row.should for row in result.rows] == [True, True, True, True, False]
    assert result.left == (Suspect.DAMPER,)
    # One that crept since reads too much everywhere, as a wrong setting does.
    since = Faults(crept_deg=6.0)
    both = [Reading(one, would_read_deg(advance, one, since)) for one in usual_row(advance)]
    assert found(advance, both[:2]).left == (Suspect.SETTING, Suspect.DAMPER)


@pytest.mark.parametrize("name", ["birch", "cedar", "sycamore", "alder"])
def test_three_things_seen_tell_order_direction_and_posts(name: str) -> None:
    """The rotor is looked at as each intake closes; an eye is out by some degrees."""
    engine = demo_rig(name)
    rig, sense = Rig.of(engine), engine.rotor_turns.sense
    before = closing_before_tdc_deg(rig)

    def seen(cylinder: int, off: float) -> Seen:
        crank = float(rig.offsets_deg[cylinder - 1]) - before
        return Seen(cylinder, (77.0 + sense * crank / 2 + off) % 360)

    order = engine.firing_order
    three = zip(order, (0.0, 4.0, -3.0), strict=False)
    result = inferred(rig, tuple(seen(cylinder, off) for cylinder, off in three))
    assert result.turns is engine.rotor_turns
    assert order in result.orders
    assert result.posts_deg[1] == pytest.approx(77.0)
    all_seen = inferred(rig, tuple(seen(cylinder, 0.0) for cylinder in order))
    assert all_seen.orders == (order,)
    assert "Nothing is open" in all_seen.still_open


def test_what_cannot_have_been_seen_is_said() -> None:
    rig = Rig.of(demo_rig("birch"))
    assert "direction is open" in inferred(rig, (Seen(1, 0.0),)).still_open
    twice = inferred(rig, (Seen(1, 0.0), Seen(1, 60.0)))
    assert "stands there twice" in twice.still_open
    ways = inferred(rig, (Seen(1, 0.0), Seen(5, 60.0), Seen(3, 10.0)))
    assert "both ways" in ways.still_open
    never = inferred(rig, (Seen(1, 0.0), Seen(6, 60.0)))
    assert "look again" in never.still_open


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
