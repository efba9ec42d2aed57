"""The commands agree with one another on every rig, each having come to its figures its own way."""

import csv
import io
import json
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

from true_compass.entry import main
from true_compass.files.rigs import demo_rig, rig_names

Run = Callable[[str], str]
RIGS = pytest.mark.parametrize("name", rig_names())


@pytest.fixture
def run(capsys: pytest.CaptureFixture[str]) -> Run:
    def words(line: str) -> str:
        # 1 is a plan that is unsafe: it is printed all the same.
        assert main(line.split()) in (0, 1)
        return capsys.readouterr().out

    return words


def told(run: Run, line: str) -> Any:
    """What a command prints; NaN and infinity are no JSON."""

    def refuse(word: str) -> float:
        raise AssertionError(f"{line} prints {word}")

    return json.loads(run(f"{line} --json"), parse_constant=refuse)


def lifts_of(run: Run, name: str, step: str) -> tuple[np.ndarray, dict[str, np.ndarray]]:
    rows = list(csv.reader(io.StringIO(run(f"lift {name} --csv --step {step}"))))
    columns = np.array(rows[1:], dtype=float).T
    return columns[0], dict(zip(rows[0][1:], columns[1:], strict=True))


@RIGS
def test_each_margin_of_a_plan_is_the_one_that_state_gives_there(run: Run, name: str) -> None:
    for school in ("two-stop", "firing-order"):
        plan = told(run, f"stops {name} --school {school}")
        for stop in plan["stops"][:6]:
            state = told(run, f"state {name} --at {stop['crank_deg']!r}")
            valves = {v["name"]: v for row in state["cylinders"] for v in row["valves"]}
            for item in stop["items"]:
                if item["name"] in valves:
                    margin = valves[item["name"]]["margin_deg"]
                    assert item["margin_deg"] == pytest.approx(margin, abs=0.01)
                    assert valves[item["name"]]["free"] == (margin >= 0)
        margins = [item["margin_deg"] for stop in plan["stops"] for item in stop["items"]]
        assert plan["least_margin_deg"] == pytest.approx(min(margins))


@RIGS
def test_the_comparison_says_what_each_plan_says(run: Run, name: str) -> None:
    for row in told(run, f"compare {name}")["schools"]:
        if not row["applies"] or row["school"] == "running":
            continue
        plan = told(run, f"stops {name} --school {row['school']}")
        assert len(plan["stops"]) == row["stops"]
        assert plan["least_margin_deg"] == pytest.approx(row["least_margin_deg"], abs=0.01)
        turned = sum(stop["turn_deg"] for stop in plan["stops"])
        assert turned == pytest.approx(row["turning_deg"], abs=0.01)
        assert row["safe"] == (row["least_margin_deg"] >= 0)


def crossing(at_deg: np.ndarray, lift: np.ndarray, height: float, rising: bool) -> float:
    """Where a curve passes a height, by the straight line between two rows."""
    shifted = lift - height
    ahead = np.roll(shifted, -1)
    before = (shifted < 0) & (ahead >= 0) if rising else (shifted >= 0) & (ahead < 0)
    (row,) = np.flatnonzero(before)
    step = at_deg[1] - at_deg[0]
    return float(at_deg[row] + step * shifted[row] / (shifted[row] - ahead[row]))


@RIGS
def test_events_stand_where_the_lift_curve_passes_their_height(run: Run, name: str) -> None:
    at_deg, lifts = lifts_of(run, name, "0.5")
    for valve in told(run, f"events {name} --at-lift 1mm@valve")["valves"][:6]:
        lift = lifts[valve["name"]]
        if valve["opens"] == "never":
            assert lift.max() < 1.0
            continue
        # A compression release stays below 1 mm, so each valve passes it twice.
        for key, rising in (("opens_deg", True), ("closes_deg", False)):
            found = crossing(at_deg, lift, 1.0, rising)
            away = (found - valve[key] + 360) % 720 - 360
            assert abs(away) < 0.05, (valve["name"], key)
        assert valve["peak_lift_mm"] == pytest.approx(lift.max(), abs=0.005)
        assert valve["duration_deg"] == pytest.approx(
            (valve["closes_deg"] - valve["opens_deg"]) % 720, abs=0.001
        )


@RIGS
def test_a_rig_fires_in_an_order_that_its_crank_allows(run: Run, name: str) -> None:
    engine = demo_rig(name)
    record = told(run, f"orders {name}")
    rows = record["orders"]
    assert all(sum(row["intervals_deg"]) == pytest.approx(720) for row in rows)
    for row in rows:
        assert row["even"] == (max(row["intervals_deg"]) - min(row["intervals_deg"]) < 1e-6)
    if all(len(group) == 1 for group in engine.firing_groups):
        # One sequence can have several sets of intervals; each is an order of its own.
        mine = [row["intervals_deg"] for row in rows if row["order"] == engine.order_text]
        assert mine.count(pytest.approx(list(engine.intervals_deg), abs=1e-6)) == 1


@RIGS
def test_state_agrees_with_itself_a_cycle_on_and_counts_every_stroke(run: Run, name: str) -> None:
    for at in (0.0, 211.5, 600.25):
        state = told(run, f"state {name} --at {at}")
        later = told(run, f"state {name} --at {at + 720}")
        assert later == state
        assert len(state["cylinders"]) == demo_rig(name).cylinder_count
        for row in state["cylinders"]:
            strokes = ["power", "exhaust", "intake", "compression"]
            assert row["stroke"] == strokes[int(row["cycle_deg"] // 180)]
            assert row["piston_from_tdc_mm"] >= -1e-9
            for valve in row["valves"]:
                # A valve that suction opens has nothing to set: it is never free, without a margin.
                margin = valve["margin_deg"]
                assert valve["free"] == (margin is not None and margin >= 0)
                assert not (valve["free"] and valve["lift_mm"] > 0)
