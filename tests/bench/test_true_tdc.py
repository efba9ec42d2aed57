"""True TDC found on a covered engine by two readings: the sign of what was hidden."""

import pytest

from tests.bench.hands import Hands
from true_compass.bench.scenario import Said
from true_compass.core.degreeing.top import true_top
from true_compass.core.degreeing.wheel import Scale, Wheel


def zero_by_the_cast_mark(hands: Hands) -> None:
    """Turn on until the cast mark stands at the pointer, by looking alone, and set the wheel."""
    for _ in range(1600):
        marks = hands.do("look", at="marks")["in_sight"]
        seen = [mark for mark in marks if mark["where"] == "damper"]
        if any(mark["at"] == "in line" for mark in seen):
            hands.do("pointer", deg=0.0)
            return
        to_come = [mark["mm"] for mark in seen if mark["at"] == "to come"]
        hands.do("bar", deg=0.25 if to_come and max(to_come) > -4.0 else 2.0)
    raise AssertionError("the mark never came")


@pytest.mark.parametrize("error", [-7.0, -3.0, 3.0, 7.0])
def test_the_sign_is_that_of_the_hidden_mark(error: float) -> None:
    hands = Hands(faults=("damper-crept",), said=Said(start_deg=200.0, mark_error_deg=error))
    assert hands.run.work.condition.mark_error_deg == error
    zero_by_the_cast_mark(hands)
    hands.do("off", part="plugs")
    hands.do("indicator", on="piston 1")
    hands.do("bar", deg=300.0)
    hands.do("zero")
    passed = []
    for _ in range(480):
        passed.append((float(hands.do("wheel")["deg"]), float(hands.do("read")["mm"])))
        hands.do("bar", deg=0.5)
    top_mm = max(mm for _, mm in passed)
    within = [deg for deg, mm in passed if mm >= top_mm - 1.0]
    up, down = within[0], within[-1]
    top = true_top(up, down, Wheel(Scale.FULL))
    assert top.mark_error_deg == pytest.approx(error, abs=1.0)
    assert top.late is (error > 0)
