"""The other ways to read a cam: what is typed, what it says, what is refused."""

import pytest

from true_compass.core.degreeing.curve import Station, curve_of
from true_compass.core.degreeing.sheet import Gauge, Setup, Sheet
from true_compass.core.degreeing.ways import WAYS, Told, measured_rig
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.valves.cam import CheckLift, Place
from true_compass.core.valves.timing import cylinder_times
from true_compass.files.rigs import demo_rig

BY_SLUG = {way.slug: way for way in WAYS}
AT_VALVE = Setup(gauge=Gauge(station=Station.VALVE))


def told(rig: str, slug: str, /, **texts: str) -> Told:
    sheet = Sheet(AT_VALVE)
    for name, text in texts.items():
        sheet = sheet.with_text(f"{slug}.{name.replace('_', '.')}", text)
    return BY_SLUG[slug].tell(Rig.of(demo_rig(rig)), sheet)


def read_off(rig: str, lift_mm: float, late_deg: float) -> dict[str, str]:
    """The four events at a lift, as somebody reads them on a cam that is late."""
    times = cylinder_times(Rig.of(demo_rig(rig)), 1, CheckLift(lift_mm, Place.VALVE))
    (io, ic), (eo, ec) = ((valve.own_opens_deg, valve.own_closes_deg) for valve in times.valves)
    assert None not in (io, ic, eo, ec)
    return {
        "io": f"{360 - io - late_deg:.2f}",  # type: ignore[operator]
        "ic": f"{ic - 540 + late_deg:.2f}",  # type: ignore[operator]
        "eo": f"{180 - eo - late_deg:.2f}",  # type: ignore[operator]
        "ec": f"{ec - 360 + late_deg:.2f}",  # type: ignore[operator]
    }


def test_events_at_a_lift_say_how_late_the_cam_is() -> None:
    says = told("birch", "lift", lift="1", **read_off("birch", 1.0, 3.0))
    assert says.headline == "Intake 3.0° late; Exhaust 3.0° late."
    assert "the card has 107.0" in says.lines[0]
    # A duration that is another one is asked about.
    other = read_off("birch", 1.0, 0.0) | {"ic": "80"}
    assert any("another lift" in line for line in told("birch", "lift", **other).lines)
    half = told("birch", "lift", io="12")
    assert half.headline == "One event of a valve says half."
    assert "12 BTDC read" in half.lines[0]
    assert "As set" in told("birch", "lift").lines[0]


@pytest.mark.parametrize(("slug", "lift_mm"), [("needle", 0.01), ("play", 0.0)])
def test_a_needle_that_just_moves_and_play_that_is_gone(slug: str, lift_mm: float) -> None:
    rig = demo_rig("birch")
    texts = read_off("birch", lift_mm or 1e-6, -2.0)
    assert rig.train.intake_ratio == 1.5
    says = told("birch", slug, **texts)
    assert says.headline == "Intake 2.0° early; Exhaust 2.0° early."


def test_lift_at_overlap_for_each_bank_at_its_own_cylinder() -> None:
    says = told("cedar", "overlap", A_read="0.30", A_target="0.50", B_read="0.5", B_target="0.3")
    assert says.headline.count("°") == 2
    assert "earlier" in says.headline
    assert "later" in says.headline
    starts = [line for line in says.lines if "zero the gauge" in line]
    assert len(starts) == 2
    lash = told("birch", "overlap", A_read="0.18", A_target="0.40", lash="0.1")
    assert "0.1 mm of lash is 0.1 of reading" in lash.lines[-1]
    zero = told("birch", "overlap", A_read="0.18", A_target="0.40", A_zero="0.05")
    assert any("has slipped" in line for line in zero.lines)
    assert "zero it with that valve shut" in told("birch", "overlap").lines[0]


def test_an_own_card_from_the_whole_lift() -> None:
    rig = Rig.of(demo_rig("birch"))
    sheet = Sheet(AT_VALVE)
    for kind, first in ((Kind.INTAKE, -60), (Kind.EXHAUST, -300)):
        curve = curve_of(rig, 1, kind)
        rows = (f"{a} {float(curve.lift_at_mm(a)):.2f}" for a in range(first, first + 361, 4))
        sheet = sheet.with_text(f"card.{kind.value}", "\n".join(rows))
    says = BY_SLUG["card"].tell(rig, sheet)
    assert says.headline == "Own card at 1 mm at the valve."
    true = cylinder_times(rig, 1, CheckLift(1.0, Place.VALVE))
    measured = measured_rig(rig, sheet)
    assert measured is not None
    own = cylinder_times(measured, 1, CheckLift(1.0, Place.VALVE))
    assert own.overlap_deg == pytest.approx(true.overlap_deg, abs=0.6)
    assert own.lobe_separation_cam_deg == pytest.approx(108.5, abs=0.2)
    assert own.overlap_area_mm_deg == pytest.approx(true.overlap_area_mm_deg, rel=0.1)
    assert "separation 108.5 cam °" in says.lines[2]


def test_one_tooth_moves_trip_and_cam_together() -> None:
    says = told("fir", "igniter", trip="5 after", opens="8", closes="24")
    assert says.headline == "1 tooth on; then trim the trip 5.0° later."
    assert says.lines[1] == "Then: trips 15° before TDC, exhaust opens 28 BBDC, closes 4 ATDC."
    late = told("fir", "igniter", trip="10 after", opens="8", closes="5 before").headline
    assert late.startswith("Set the exhaust gap first: it is too wide")
    assert "read all three" in told("fir", "igniter", trip="10").headline


def test_both_ways_to_read_an_exhaust_agree_on_one_file() -> None:
    """Opens 44 BBDC, closes 12 BTDC where the file has 28 and 4: 16° early, by either way."""
    play = told("fir", "play", eo="44", ec="12 before").headline
    assert play == "Exhaust 16.0° early."
    gear = told("fir", "igniter", trip="26", opens="44", closes="12 before")
    assert gear.headline.startswith("16.0° early is no whole tooth (20° each)")
    assert told("fir", "igniter", trip="-4 before", opens="1", closes="1").wrong == "igniter.trip"


REFUSED = [
    ("lift", {"io": "x"}, "lift.io", "plain number"),
    ("lift", {"lift": "400"}, "lift.lift", "from 0.01"),
    ("lift", {"ec": "300"}, "lift.ec", "within 200"),
    ("overlap", {"A_read": "20", "A_target": "1"}, "overlap.A.read", "full lift"),
    ("overlap", {"A_read": "25", "A_target": "1"}, "overlap.A.read", "end of this gauge"),
    ("overlap", {"A_read": "0.2", "A_target": "40"}, "overlap.A.target", "full lift"),
    ("overlap", {"lash": "x"}, "overlap.lash", "a length"),
    ("card", {"intake": "1 2 3"}, "card.intake", "an angle and a lift"),
    ("card", {"intake": "0 0\n10 1\n10 2\n20 0"}, "card.intake", "contradicts itself"),
    ("card", {"intake": "0 0\n10 1\n20 0"}, "card.intake", "7 to 5000 rows"),
    ("igniter", {"trip": "99", "opens": "1", "closes": "1"}, "igniter.trip", "within 90"),
]


@pytest.mark.parametrize(("slug", "texts", "wrong", "said"), REFUSED)
def test_what_cannot_be_names_its_field(
    slug: str, texts: dict[str, str], wrong: str, said: str
) -> None:
    says = told("birch", slug, **texts)
    assert says.wrong == wrong
    assert said in says.headline


def test_every_way_asks_and_tells_on_every_rig() -> None:
    for name in ("fir", "acacia", "cedar", "sycamore", "holly"):
        rig = Rig.of(demo_rig(name))
        for way in WAYS:
            asks = way.asks(rig.engine)
            assert len({ask.key for ask in asks}) == len(asks) > 0
            says = way.tell(rig, Sheet())
            assert says.headline
            assert not says.wrong
