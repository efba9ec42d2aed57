import math
from dataclasses import replace

import pytest

from tests.strategies import never_opens
from true_compass.core.changes import with_table
from true_compass.core.crank import makers
from true_compass.core.engine import Engine, Mark, Meaning
from true_compass.core.findings import Severity, findings
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.rotation import Rotation
from true_compass.core.spark import Ignition, Rotor, Spark
from true_compass.core.units import parse_length_mm, parse_number
from true_compass.core.valves.cam import LiftTable
from true_compass.files.rigs import demo_rig, rig_names

FOUR = makers.inline(4)
AT_VALVE = LiftTable(
    tuple(range(0, 240, 20)), (0, 1, 3, 5, 7, 8, 8.5, 8, 7, 5, 2, 0), of_lobe=False
)


def with_lash(lash_mm: float) -> Engine:
    timing = replace(FOUR.cam.intake, lash_mm=lash_mm)
    return replace(FOUR, cam=FOUR.cam.with_timing(Kind.INTAKE, timing))


@pytest.mark.parametrize(
    ("engine", "says"),
    [
        (makers.vee(2, 45), "Firing is uneven: gaps of 315°, 405°."),
        (makers.inline(5), "No cylinder has a companion."),
        (makers.flat(4), "Companion numbers do not add up to 5 here."),
        (makers.radial(9), "Link rods move TDC by up to"),
        (replace(FOUR, pin_offset_mm=1.0), "Offsets move TDC by up to 0.32°"),
        (replace(FOUR, rod_mm=90.0), "Rod over stroke is 1.12"),
        (replace(FOUR, bore_mm=20.0), "lift of 9 mm is large for the bore"),
        (replace(FOUR, dots_fire=4), "When the gear dots meet, cylinder 4 fires"),
        (replace(FOUR, rod_mm=300.0), "Rod over stroke is 3.75"),
        (with_lash(2.5), "The intake lash of 2.5 mm is large"),
        (replace(FOUR, spark=Spark(Ignition.MAGNETO)), "The rotor's direction is assumed"),
        (
            replace(FOUR, marks=(Mark("damper", 10.0, meaning=Meaning.FIRING),)),
            "The mark on the damper is a firing point",
        ),
        (never_opens(), "The lash takes up the whole intake lobe: it never opens."),
        (with_table(FOUR, Kind.EXHAUST, AT_VALVE), "The exhaust table was read at the valve"),
        (replace(FOUR, marks=(Mark("damper", 0.0, can_creep=True),)), "on the damper can creep"),
        (replace(FOUR, marks=(Mark("pulley", 10.0),)), "at no cylinder's TDC"),
        (makers.vee(8, 180, crank="flat"), "fire together"),
    ],
)
def test_findings_say_what_is_worth_saying(engine: Engine, says: str) -> None:
    assert any(says in finding.sentence for finding in findings(engine))


@pytest.mark.parametrize(
    "engine",
    [
        FOUR,
        replace(FOUR, spark=Spark(Ignition.COILS)),
        replace(FOUR, spark=Spark(Ignition.DISTRIBUTOR, Rotor(Rotation.CLOCKWISE))),
        replace(FOUR, marks=(Mark("damper", 0.0), Mark("rim", None), Mark("pulley", 180.4))),
        replace(FOUR, dots_fire=1, rod_mm=80.0 * 1.2),
        with_lash(1.0),
        makers.inline(1),
    ],
)
def test_nothing_is_said_of_an_ordinary_engine(engine: Engine) -> None:
    assert findings(engine) == []


def companions_by_hand(engine: Engine) -> bool:
    """Whether each cylinder that has a companion adds up with it to one more than there are."""
    offsets = engine.firing_offsets_deg.tolist()
    pairs = [
        (a + 1, b + 1)
        for a in range(len(offsets))
        for b in range(len(offsets))
        if abs(abs(offsets[a] - offsets[b]) - 360.0) < 0.02
    ]
    return all(a + b == len(offsets) + 1 for a, b in pairs)


@pytest.mark.parametrize("name", rig_names())
def test_a_rule_of_thumb_is_denied_where_one_pair_breaks_it(name: str) -> None:
    engine = demo_rig(name)
    denied = any("do not add up" in finding.sentence for finding in findings(engine))
    assert denied != companions_by_hand(engine)


@pytest.mark.parametrize("name", rig_names())
def test_no_rig_is_wrong(name: str) -> None:
    assert not [f for f in findings(demo_rig(name)) if f.severity is Severity.WRONG]
    assert demo_rig(name).note, "each rig says what it is good for"


def test_there_are_rigs_enough() -> None:
    assert len(rig_names()) >= 20


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("94", 94.0),
        ("94 mm", 94.0),
        ("9,4 cm", 94.0),
        ("3.7 in", 93.98),
        ('3.7"', 93.98),
        ("10 thou", 0.254),
    ],
)
def test_lengths_as_people_type_them(text: str, mm: float) -> None:
    assert parse_length_mm("bore_mm", text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["", "x", "1e5", "nan", "inf", "3 ft", "1 2"])
def test_other_lengths_are_refused(text: str) -> None:
    with pytest.raises(EngineError) as caught:
        parse_length_mm("bore_mm", text)
    assert caught.value.field == "bore_mm"


@pytest.mark.parametrize(("text", "value"), [("15°", 15.0), ("\u22124", -4.0), (" 1,5 ", 1.5)])
def test_numbers_as_people_type_them(text: str, value: float) -> None:
    assert parse_number("x", text) == value


@pytest.mark.parametrize(
    ("offset_mm", "mark_deg", "says"),
    [
        # True TDC of an offset pin is past (or before) 0° by asin(e / (l + r)): 3.184° here.
        (10.0, 0.0, "is met 3.2° before the true TDC"),
        (10.0, 359.8, "is met 3.4° before the true TDC"),
        (-10.0, 0.0, "is met 3.2° after the true TDC"),
        (-10.0, 0.4, "is met 3.6° after the true TDC"),
        # 2 mm: 0.637°.
        (2.0, 0.0, "is met 0.6° before the true TDC"),
        (-2.0, 0.0, "is met 0.6° after the true TDC"),
        (10.0, 180.0, "is met 3.2° before the true TDC"),
        (10.0, 3.2, "at no cylinder's TDC"),
    ],
)
def test_a_mark_is_early_or_late_the_short_way_round(
    offset_mm: float, mark_deg: float, says: str
) -> None:
    assert math.degrees(math.asin(10.0 / (140.0 + 40.0))) == pytest.approx(3.184, abs=1e-3)
    engine = replace(FOUR, pin_offset_mm=offset_mm, marks=(Mark("damper", mark_deg),))
    assert any(says in finding.sentence for finding in findings(engine))


@pytest.mark.parametrize("count", [3, 5, 7, 9])
def test_a_radial_that_fires_every_other_cylinder_is_as_it_should_be(count: int) -> None:
    assert not any("every other" in f.sentence for f in findings(makers.radial(count)))


def test_a_radial_numbered_the_other_way_round_is_looked_at() -> None:
    """1-2-3-4-5 round a radial, by numbering every other bank: even, and not as it is done."""
    five = makers.radial(5)
    seats = tuple(five.layout.seats[2 * n % 5] for n in range(5))
    other = makers.made(replace(five.layout, seats=seats))
    assert other.order_text == "1-2-3-4-5"
    assert any("every other" in f.sentence for f in findings(other))


@pytest.mark.parametrize(
    ("ramp_deg", "says"),
    [
        (0.0, None),
        (0.4, "Two stops are thin: the least margin is 29°."),
        (30.0, "Two stops are thin: the least margin is 0°."),
        (30.4, "Two stops are unsafe: one valve would be 1° off its base circle."),
        (42.0, "Two stops are unsafe: one valve would be 12° off its base circle."),
    ],
)
def test_two_stops_are_thin_below_30_and_unsafe_below_nothing(
    ramp_deg: float, says: str | None
) -> None:
    """Intake valves that close 150° after BDC: 30° of margin at the next TDC, less the ramp."""
    late = replace(
        FOUR.cam.intake, opens_before_deg=30.0, closes_after_deg=150.0, ramp_deg=ramp_deg
    )
    engine = replace(FOUR, cam=replace(FOUR.cam, intake=late))
    found = [f.sentence for f in findings(engine) if f.sentence.startswith("Two stops")]
    assert found == ([says] if says else [])
