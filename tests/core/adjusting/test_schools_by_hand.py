"""Each school by pencil and paper: free arcs from the four events, stops from the school's words.

Nothing of the program's own arithmetic is used for what is expected. With ramps R outside the named
events, an intake valve is free from IVC + R after BDC until IVO + R before TDC, an exhaust valve
from EVC + R after TDC until EVO + R before BDC; a margin is the way to the nearer end.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from true_compass.core.adjusting.schools import BY_WORD, Choice
from true_compass.core.adjusting.stops import Plan
from true_compass.core.engine import Engine, even_inline
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.valves.cam import Cam, ValveTiming

ORDERS = {
    1: (1,),
    2: (1, 2),
    4: (1, 3, 4, 2),
    5: (1, 2, 4, 5, 3),
    6: (1, 5, 3, 6, 2, 4),
    8: (1, 6, 2, 5, 8, 3, 7, 4),
}


@dataclass(frozen=True)
class Paper:
    """Four events and a ramp, and what follows from them in the cycle of one cylinder."""

    ivo: int
    ivc: int
    evo: int
    evc: int
    ramp: int

    def free(self, kind: Kind) -> tuple[int, int]:
        if kind is Kind.INTAKE:
            return 540 + self.ivc + self.ramp, 720 + 360 - self.ivo - self.ramp
        return 360 + self.evc + self.ramp, 720 + 180 - self.evo - self.ramp

    def nose(self, kind: Kind) -> float:
        if kind is Kind.INTAKE:
            return (360 - self.ivo + 540 + self.ivc) / 2
        return (180 - self.evo + 360 + self.evc) / 2

    def margin(self, kind: Kind, own: float) -> float:
        """Degrees to the nearer end of the free arc at an angle of the cylinder's own cycle."""
        start, end = self.free(kind)
        on = (own - start) % 720
        return (
            min(on, end - start - on) if on <= end - start else -min(on - (end - start), 720 - on)
        )

    def engine(self, count: int) -> Engine:
        intake = ValveTiming(self.ivo, self.ivc, 9.0, 0.25, self.ramp)
        exhaust = ValveTiming(self.evo, self.evc, 9.0, 0.25, self.ramp)
        return replace(even_inline(ORDERS[count]), cam=Cam(intake, exhaust))


papers = st.builds(
    Paper,
    st.integers(-5, 50),
    st.integers(20, 85),
    st.integers(20, 85),
    st.integers(-5, 50),
    st.integers(0, 30),
)


def plan_by(word: str, engine: Engine) -> Plan:
    return BY_WORD[word].plan(Rig.of(engine), Choice())


def margins(plan: Plan) -> dict[str, float]:
    return {item.name: item.margin_deg for stop in plan.stops for item in stop.items}


OWN_DEG: dict[str, Callable[[Paper, Kind], float]] = {
    "firing-order": lambda paper, kind: 0.0,
    "eo-ic": lambda paper, kind: 180 - paper.evo if kind is Kind.INTAKE else 540 + paper.ivc,
    "partner-open": lambda paper, kind: paper.nose(
        Kind.EXHAUST if kind is Kind.INTAKE else Kind.INTAKE
    ),
    "opposite-open": lambda paper, kind: paper.nose(kind) + 360,
}
"""Where each school sets a valve, in the cycle of the valve's own cylinder."""


@pytest.mark.parametrize("word", sorted(OWN_DEG))
@settings(max_examples=20)
@given(paper=papers, count=st.sampled_from([1, 4, 5, 6, 8]))
def test_margins_of_a_school_by_hand(word: str, paper: Paper, count: int) -> None:
    if word == "opposite-open" and count % 2:
        count = 6
    found = margins(plan_by(word, paper.engine(count)))
    for kind in Kind:
        expected = paper.margin(kind, OWN_DEG[word](paper, kind))
        for cylinder in range(1, count + 1):
            name = f"{kind.letter}{cylinder}"
            # A nose is found on a grid, a crossing by halving.
            assert found[name] == pytest.approx(expected, abs=0.15), name


@settings(max_examples=40)
@given(papers, st.sampled_from([1, 2, 4, 5, 6, 8]))
def test_two_stops_by_hand(paper: Paper, count: int) -> None:
    plan = plan_by("two-stop", paper.engine(count))
    # A stop at which nothing is due is no stop.
    assert [stop.crank_deg for stop in plan.stops] == ([0.0] if count == 1 else [0.0, 360.0])
    found = margins(plan)
    for place, cylinder in enumerate(ORDERS[count]):
        tdc = 720 * place / count
        for kind in Kind:
            first, second = (paper.margin(kind, (stop - tdc) % 720) for stop in (0, 360))
            name = f"{kind.letter}{cylinder}"
            assert found[name] == pytest.approx(max(first, second), abs=1e-6)
            at_deg = 0.0 if first >= second - 1e-9 else 360.0
            assert name in [
                due.name for stop in plan.stops if stop.crank_deg == at_deg for due in stop.items
            ]


@settings(max_examples=25)
@given(papers, st.sampled_from([4, 6, 8]))
def test_companion_rocking_by_hand(paper: Paper, count: int) -> None:
    # With events that mirror one another the two valves balance exactly at overlap TDC.
    even = replace(paper, evc=paper.ivo, evo=paper.ivc)
    found = margins(plan_by("companion", even.engine(count)))
    for kind in Kind:
        for cylinder in range(1, count + 1):
            expected = even.margin(kind, 0.0)
            assert found[f"{kind.letter}{cylinder}"] == pytest.approx(expected, abs=0.05)


@settings(max_examples=25)
@given(papers, st.sampled_from([4, 6, 8]), st.sampled_from(sorted(OWN_DEG)))
def test_turning_by_hand(paper: Paper, count: int, word: str) -> None:
    plan = plan_by(word, paper.engine(count))
    stops = [stop.crank_deg for stop in plan.stops]
    assert stops == sorted(stops)
    assert plan.turning_deg == pytest.approx(stops[-1] - stops[0], abs=1e-6)
    # Each stop says how far it is on from the one before it.
    ways = [stop.turn_deg for stop in plan.stops][1:]
    assert ways == pytest.approx([after - before for before, after in pairwise(stops)], abs=1e-6)


def test_the_figures_of_the_trade_by_hand() -> None:
    """15/50/50/15 with no ramps: 215 by events, 92 by the partner's nose, 237 by the companion's.

    Common practice, no source.
    """
    mild = Paper(15, 50, 50, 15, 0)
    for word, least in (("eo-ic", 215), ("partner-open", 92.5), ("opposite-open", 237.5)):
        own = [mild.margin(kind, OWN_DEG[word](mild, kind)) for kind in Kind]
        assert min(own) == least
        assert plan_by(word, mild.engine(4)).least_margin_deg == pytest.approx(least, abs=0.15)
