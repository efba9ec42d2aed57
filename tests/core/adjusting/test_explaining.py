"""Each figure of an explanation, worked out anew from the cam's events."""

import re
from dataclasses import replace

import pytest

from true_compass.core.adjusting.explaining import explained
from true_compass.core.adjusting.schools import BY_WORD, USUAL
from true_compass.core.adjusting.stops import Plan
from true_compass.core.crank.makers import inline, vee
from true_compass.core.engine import BankAdvance, Engine
from true_compass.core.items import Item, Kind, item_named
from true_compass.core.state import Rig
from true_compass.core.valves.cam import Cam, ValveTiming
from true_compass.files.rigs import demo_rig

CAM = Cam(ValveTiming(15, 50, 9, 0.25, ramp_deg=20), ValveTiming(55, 12, 9, 0.3, ramp_deg=20))
BANKS_APART = replace(
    vee(8, 90),
    cam=replace(
        CAM,
        intake=replace(CAM.intake, advance_deg=3.0),
        exhaust=replace(CAM.exhaust, advance_deg=3.0),
    ),
    bank_advances=(BankAdvance("B", 4.0, 4.0),),
    camshafts=2,
)


def told(engine: Engine, school: str, item: Item) -> tuple[Plan, list[str]]:
    rig = Rig.of(engine)
    plan = BY_WORD[school].plan(rig, USUAL)
    return plan, explained(rig, plan, item)


def figures(line: str) -> list[float]:
    return [float(figure) for figure in re.findall(r"-?\d+(?:\.\d+)?(?=°)", line)]


@pytest.mark.parametrize("engine", [replace(inline(6), cam=CAM), BANKS_APART], ids=["6", "V8"])
@pytest.mark.parametrize("name", ["I1", "E1", "I3", "E4", "I6", "E6"])
def test_the_way_from_events_to_margin_adds_up(engine: Engine, name: str) -> None:
    """15 before and 50 after: open 345 to 590 after compression TDC; 55 and 12: 125 to 372."""
    item = item_named(name)
    plan, (fires, lobe, lifted, free, stands) = told(engine, "firing-order", item)
    assert fires.startswith(f"{name}: cylinder {item.cylinder} is at compression TDC at ")
    (tdc,) = figures(fires)
    assert tdc == pytest.approx(float(engine.firing_offsets_deg[item.cylinder - 1]))
    opens, closes = (345.0, 590.0) if item.kind is Kind.INTAKE else (125.0, 372.0)
    # Bank A of the V8 has 3° of advance, bank B, with cylinders 5 to 8, 3 + 4.
    early = 0.0 if engine.cylinder_count == 6 else 3.0 if item.cylinder <= 4 else 7.0
    assert figures(lobe) == [opens, closes, 20.0, *([early] if early else [])]
    start, end = (tdc - early + opens - 20) % 720, (tdc - early + closes + 20) % 720
    assert figures(lifted) == pytest.approx([start, end])
    assert figures(free) == pytest.approx([end, start, (start - end) % 720])
    number = next(
        n for n, stop in enumerate(plan.stops, 1) for due in stop.items if due.item == item
    )
    assert stands.startswith(f"Stop {number} stands at ")
    at, back, on, margin = figures(stands)
    assert at == pytest.approx(plan.stops[number - 1].crank_deg)
    assert (back, on) == pytest.approx(((at - end) % 720, (start - at) % 720))
    assert margin == min(back, on)


@pytest.mark.parametrize(("ramp_deg", "margin_deg"), [(40.0, -10.0), (29.5, 0.5)])
def test_only_a_stop_off_the_base_circle_is_called_unsafe(
    ramp_deg: float, margin_deg: float
) -> None:
    """Open from 330° to 690° after its TDC; the ramp reaches up to its next TDC or past it."""
    long = replace(
        inline(4), cam=Cam(ValveTiming(30, 150, 9, 0.25, ramp_deg=ramp_deg), CAM.exhaust)
    )
    plan = BY_WORD["two-stop"].plan(Rig.of(long), USUAL)
    worst = plan.least_item
    assert worst.item.kind is Kind.INTAKE
    assert worst.margin_deg == pytest.approx(margin_deg)
    stands = told(long, "two-stop", worst.item)[1][-1]
    unsafe = f"{-margin_deg:.1f}° off its base circle: unsafe."
    assert stands.endswith(unsafe if margin_deg < 0 else f"is the margin: {margin_deg:.1f}°.")


def test_a_sweep_leaves_half_the_arc_less_an_eighth_of_a_turn() -> None:
    plan, lines = told(demo_rig("cedar"), "quarter-turn", item_named("E2"))
    assert plan.swept
    free = figures(lines[-2])[-1]
    assert lines[-1].endswith(f"{free:.1f}° / 2 − 45° leaves {free / 2 - 45:.1f}°.")


@pytest.mark.parametrize(
    ("rig", "name", "lobe", "begins"),
    [
        # The release, and the brake's own lobe, lift from 612 to 700 and from 655 to 755.
        ("mulberry", "E1", "The compression release lifts", 612.0 - 10.0),
        ("hickory", "B2", "Its lobe lifts", 480.0 + 655.0 - 20.0 - 720.0),
    ],
)
def test_what_is_lifted_lies_between_what_is_free(
    rig: str, name: str, lobe: str, begins: float
) -> None:
    lines = told(demo_rig(rig), "firing-order", item_named(name))[1]
    lifted = [figures(line) for line in lines if line.startswith("Its tappet is off")]
    free = [figures(line) for line in lines if line.startswith("It is free")]
    # Round the circle each begins where another ends.
    assert sorted(end for _, end in lifted) == sorted(start for start, *_ in free)
    assert sorted(start for start, _ in lifted) == sorted(end for _, end, _ in free)
    opens, closes, ramp = next(figures(line) for line in lines if line.startswith(lobe))
    assert [begins, begins + closes - opens + 2 * ramp] in [pytest.approx(arc) for arc in lifted]
