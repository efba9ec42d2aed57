"""Adjusters against a rigid lever that is worked separately, and threads against the standards."""

from dataclasses import dataclass

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.tables import rows
from true_compass.core.adjusting.screws import (
    gap_per_turn_mm,
    plunger_per_turn_mm,
    preload_turns,
    turn_to,
)
from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_thread_mm
from true_compass.core.valves.train import Adjuster, Train, TrainKind


@dataclass
class Lever:
    """A straight lever through two points, by the equation of a line. x along it, y upwards.

    Rocker: rod at −1, pivot at 0, valve at R. Finger: pivot at 0, cam at 1, valve at R.
    """

    ratio: float
    finger: bool = False

    def valve_gap(self, rod: float = 0.0, pivot: float = 0.0, tip: float = 0.0) -> float:
        """Height of the valve end over its stem when the other two places are as given."""
        at = 1.0 if self.finger else -1.0
        slope = (rod - pivot) / at
        return pivot + slope * self.ratio - tip

    def rod_end(self, pivot: float) -> float:
        """Height of the rod end (cam end of a finger) while the valve end rests on its stem."""
        at = 1.0 if self.finger else -1.0
        return pivot + (0.0 - pivot) / self.ratio * at


RATIOS = st.floats(1.05, 2.5)


def train(adjuster: Adjuster, ratio: float, thread: str = "M8x1") -> Train:
    kind = TrainKind.FINGER if adjuster is Adjuster.PIVOT_SCREW else TrainKind.PUSH_ROD
    return Train(
        kind=kind, adjuster=adjuster, thread=thread, intake_ratio=ratio, exhaust_ratio=ratio
    )


@given(ratio=RATIOS)
def test_a_turn_moves_the_gap_as_a_rigid_lever_does(ratio: float) -> None:
    rocker, finger = Lever(ratio), Lever(ratio, finger=True)
    moved = {
        # The screw shortens what stands on the rod, lengthens the valve end, lowers the pivot.
        Adjuster.ROD_SCREW: rocker.valve_gap(rod=-1.0),
        Adjuster.VALVE_SCREW: rocker.valve_gap(tip=-1.0),
        Adjuster.PIVOT_NUT: rocker.valve_gap(pivot=1.0),
        Adjuster.PEDESTAL: rocker.valve_gap(pivot=1.0),
        Adjuster.PIVOT_SCREW: finger.valve_gap(pivot=1.0),
    }
    for adjuster, gap in moved.items():
        per_turn = gap_per_turn_mm(train(adjuster, ratio), Kind.INTAKE)
        assert per_turn == pytest.approx(abs(gap), rel=1e-12), adjuster


@given(ratio=RATIOS)
def test_a_turn_moves_a_plunger_as_a_rigid_lever_does(ratio: float) -> None:
    rocker, finger = Lever(ratio), Lever(ratio, finger=True)
    moved = {
        Adjuster.ROD_SCREW: 1.0,
        Adjuster.VALVE_SCREW: 1.0 / ratio,
        Adjuster.PIVOT_NUT: rocker.rod_end(pivot=-1.0),
        Adjuster.PEDESTAL: rocker.rod_end(pivot=-1.0),
        Adjuster.PIVOT_SCREW: finger.rod_end(pivot=-1.0),
    }
    for adjuster, plunger in moved.items():
        per_turn = plunger_per_turn_mm(train(adjuster, ratio), Kind.INTAKE)
        assert per_turn == pytest.approx(abs(plunger), rel=1e-12), adjuster


@pytest.mark.parametrize(
    ("adjuster", "thread", "ratio", "gap", "plunger"),
    [
        # Common practice, no source: 3/8-24 on 1.5 is 2.65 mm of lash and 1.76 mm of plunger a
        # turn; M8×1.25 on 1.6 is 2.03 mm of plunger.
        (Adjuster.PIVOT_NUT, "3/8-24", 1.5, 2.65, 1.76),
        (Adjuster.PEDESTAL, "M8x1.25", 1.6, 3.25, 2.03),
    ],
)
def test_usual_figures_a_turn(
    adjuster: Adjuster, thread: str, ratio: float, gap: float, plunger: float
) -> None:
    told = train(adjuster, ratio, thread)
    assert gap_per_turn_mm(told, Kind.INTAKE) == pytest.approx(gap, abs=0.005)
    assert plunger_per_turn_mm(told, Kind.INTAKE) == pytest.approx(plunger, abs=0.005)


@pytest.mark.parametrize("row", rows("threads"), ids=lambda row: row["thread"])
def test_pitches_of_the_standards(row: dict[str, str]) -> None:
    assert parse_thread_mm(row["thread"]) == pytest.approx(float(row["pitch_mm"]), abs=1e-9)


@given(
    measured=st.floats(0, 2),
    target=st.floats(0.05, 1),
    adjuster=st.sampled_from([Adjuster.ROD_SCREW, Adjuster.VALVE_SCREW, Adjuster.PEDESTAL]),
)
def test_the_turn_leads_to_the_target(measured: float, target: float, adjuster: Adjuster) -> None:
    told = train(adjuster, 1.5)
    turn = turn_to(told, Kind.INTAKE, measured, target)
    per_turn = gap_per_turn_mm(told, Kind.INTAKE)
    assert per_turn is not None
    sign = {"tighter": -1, "looser": 1, "none": 0}[turn.direction]
    assert turn.turn_deg >= 0
    assert measured + sign * turn.turn_deg / 360 * per_turn == pytest.approx(turn.new_mm, abs=1e-9)


def test_what_cannot_be_turned_says_what_to_do() -> None:
    for told, word in (
        (train(Adjuster.PIVOT_SCREW, 1.0), "ratio"),
        (train(Adjuster.SHIM, 1.0), "shims"),
        (Train(adjuster=Adjuster.ROD_SCREW), "thread"),
    ):
        with pytest.raises(EngineError, match=word):
            turn_to(told, Kind.INTAKE, 0.3, 0.2)
        with pytest.raises(EngineError, match=word):
            preload_turns(told, Kind.INTAKE, 0.5)
