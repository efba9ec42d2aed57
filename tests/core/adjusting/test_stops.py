from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings

from tests.strategies import engines
from tests.tables import rows
from true_compass.core.adjusting.stops import best_stops, two_stop_plan
from true_compass.core.crank.firing import parse_firing_order
from true_compass.core.engine import Engine, even_inline
from true_compass.core.state import Rig, engine_state
from true_compass.core.valves.cam import Cam


def rig_for(order: str, events: str = "15/50/50/15", ramp_deg: float = 0.0) -> Rig:
    engine = even_inline(parse_firing_order(order))
    ivo, ivc, evo, evc = map(float, events.split("/"))
    cam = Cam(
        replace(engine.cam.intake, opens_before_deg=ivo, closes_after_deg=ivc, ramp_deg=ramp_deg),
        replace(engine.cam.exhaust, opens_before_deg=evo, closes_after_deg=evc, ramp_deg=ramp_deg),
    )
    return Rig.of(replace(engine, cam=cam))


@pytest.mark.parametrize(
    "row", rows("two_stop"), ids=lambda row: f"{row['order']} {row['ramp_deg']}"
)
def test_trade_tables(row: dict[str, str]) -> None:
    plan = two_stop_plan(rig_for(row["order"], row["events"], float(row["ramp_deg"])))
    if row["first_stop"]:
        first = {item.name for item in plan.stops[0].items}
        assert first == set(row["first_stop"].split())
    # The table gives whole degrees.
    assert plan.least_margin_deg == pytest.approx(float(row["least_margin_deg"]), abs=0.5)


def test_one_fours_table_on_the_other_is_off_the_base_circle() -> None:
    # 1-3-4-2's table on 1-2-4-3 puts I2 and E3 off the base circle: common practice, no source.
    other = rig_for("1-2-4-3")
    names = [valve.name for valve in other.engine.valves]
    free = engine_state(other, 0.0).free
    due = [item.name for item in two_stop_plan(rig_for("1-3-4-2")).stops[0].items]
    assert [name for name in due if not free[names.index(name)]] == ["I2", "E3"]


@settings(max_examples=50)
@given(engines())
def test_each_valve_is_due_once_where_its_margin_is_larger(engine: Engine) -> None:
    rig = Rig.of(engine)
    plan = two_stop_plan(rig)
    margins = engine_state(rig, np.array([0.0, 360.0])).margin_deg
    due = [item for stop in plan.stops for item in stop.items]
    assert sorted(item.name for item in due) == sorted(valve.name for valve in engine.valves)
    for row, valve in enumerate(engine.valves):
        item = next(item for item in due if item.name == valve.name)
        assert item.margin_deg == pytest.approx(margins[row].max())
    assert plan.least_margin_deg == pytest.approx(margins.max(axis=1).min())


def test_a_tie_goes_to_the_earlier_stop() -> None:
    assert best_stops(np.array([[65.0, 65.0], [64.0, 65.0], [65.0, 65.0 + 1e-13]])) == [0, 1, 0]
