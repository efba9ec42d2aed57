"""Shim plans against every plan there is, and against a solver of whole-number programs."""

import itertools
import random
import re

import numpy as np
import pytest
from scipy.optimize import Bounds, LinearConstraint, milp

from true_compass.core.adjusting.shims import (
    Origin,
    Position,
    ShimPlan,
    plan_shims,
    stock_sizes_mm,
    walk,
)
from true_compass.core.limits import EngineError

STOCK = stock_sizes_mm(2.5, 3.0, 0.05)
WIDE = stock_sizes_mm(2.2, 3.4, 0.05)
Score = tuple[int, int, int, int, float]


def head(rng: random.Random, count: int, share: float = 1.0) -> list[Position]:
    sizes = np.arange(2.5, 3.01, 0.05)
    return [
        Position(
            f"I{n}",
            round(float(rng.choice(list(sizes))), 2),
            round(rng.uniform(0.02, 0.45), 2),
            (0.15, 0.25),
            rng.choice((0.20, 0.18)),
            share,
        )
        for n in range(1, count + 1)
    ]


def score(plan: ShimPlan) -> Score:
    off = sum(abs(p.gap_mm - p.position.target_mm) for p in plan.places if p.gap_mm is not None)
    lost, bought = len(plan.impossible), len(plan.bought_mm)
    return lost, bought, plan.touched, len(plan.drawn_mm), round(off, 9)


def best_by_brute_force(
    positions: list[Position], drawer: list[float], stock: tuple[float, ...]
) -> Score:
    """Every way to give each position nothing, its own, another's, a drawer's or a bought shim."""
    count = len(positions)
    there = [p.shim_mm for p in positions] + drawer
    ways = []
    for p in positions:
        buys = [("buy", size) for size in stock if p.takes(size)]
        ways.append([n for n, size in enumerate(there) if p.takes(size)] + buys + [None])
    scores = []
    for chosen in itertools.product(*ways):
        used = [way for way in chosen if isinstance(way, int)]
        if len(set(used)) < len(used):
            continue
        off = 0.0
        for p, way in zip(positions, chosen, strict=True):
            if way is not None:
                size = there[way] if isinstance(way, int) else way[1]
                off += abs(p.gap_with_mm(size) - p.target_mm)
        lost = chosen.count(None)
        bought = sum(isinstance(way, tuple) for way in chosen)
        touched = sum(way is not None and way != n for n, way in enumerate(chosen))
        drawn = sum(way >= count for way in used)
        scores.append((lost, bought, touched, drawn, round(off, 9)))
    return min(scores)


@pytest.mark.parametrize("seed", range(40))
def test_no_plan_is_better(seed: int) -> None:
    rng = random.Random(seed)
    positions = head(rng, 4, rng.choice((1.0, 1.5)))
    drawer = [round(rng.uniform(2.5, 3.0), 2) for _ in range(rng.randrange(4))]
    stock = rng.choice((STOCK[::3], ()))
    found = score(plan_shims(positions, drawer, stock))
    assert found == best_by_brute_force(positions, drawer, stock)


def fewest_by_milp(positions: list[Position], drawer: list[float]) -> tuple[int, int]:
    """Fewest bought, then fewest touched, by two whole-number programs (SciPy's HiGHS)."""
    there = [p.shim_mm for p in positions] + drawer
    pairs = [(r, c) for r, p in enumerate(positions) for c, s in enumerate(there) if p.takes(s)]
    buys = [(r, -1) for r, p in enumerate(positions) if any(p.takes(s) for s in WIDE)]
    columns = pairs + buys
    rows = [[float(r == row) for r, _ in columns] for row in range(len(positions))]
    once = [[float(c == column) for _, c in columns] for column in range(len(there))]
    bought = np.array([float(c == -1) for _, c in columns])
    touched = np.array([float(c != r) for r, c in columns])
    each = LinearConstraint(np.array(rows), 1, 1)
    most = LinearConstraint(np.array(once), 0, 1)
    ones, binary = np.ones(len(columns), dtype=int), Bounds(0, 1)
    first = milp(bought, integrality=ones, bounds=binary, constraints=[each, most])
    assert first.fun is not None
    fewest = round(first.fun)
    held = LinearConstraint(bought[None, :], 0, fewest)
    second = milp(touched, integrality=ones, bounds=binary, constraints=[each, most, held])
    assert second.fun is not None
    return fewest, round(second.fun)


@pytest.mark.parametrize("seed", range(8))
def test_a_whole_number_solver_buys_and_touches_no_fewer(seed: int) -> None:
    rng = random.Random(1000 + seed)
    positions = head(rng, 12)
    drawer = [round(rng.uniform(2.5, 3.0), 2) for _ in range(6)]
    plan = plan_shims(positions, drawer, WIDE)
    assert not plan.impossible
    assert (len(plan.bought_mm), plan.touched) == fewest_by_milp(positions, drawer)


def test_every_shim_goes_to_one_place_and_every_gap_is_in_band() -> None:
    rng = random.Random(5)
    positions = head(rng, 24)
    drawer = [2.6, 2.6, 2.75]
    plan = plan_shims(positions, drawer, STOCK)
    givers = [p.giver for p in plan.places if p.origin is Origin.MOVED]
    assert len(set(givers)) == len(givers)
    assert all(plan.drawn_mm.count(size) <= drawer.count(size) for size in plan.drawn_mm)
    for placed in plan.places:
        if placed.shim_mm is not None:
            assert placed.position.takes(placed.shim_mm)
            new = placed.position.gap_mm + placed.position.shim_mm - placed.shim_mm
            assert placed.gap_mm == pytest.approx(new)


def test_the_shim_rule_with_a_ratio() -> None:
    # New = old + k·(measured − target), k the ratio (common practice, no source).
    at_cam = Position("E1", 3.0, 0.10, (0.15, 0.25), 0.20, share=1.5)
    assert at_cam.wanted_mm == pytest.approx(2.85)
    assert at_cam.gap_with_mm(2.85) == pytest.approx(0.20)


def test_a_position_that_nothing_serves_is_named_and_the_others_are_planned() -> None:
    far = Position("I1", 2.0, 1.50, (0.15, 0.25), 0.20)
    good = Position("E1", 2.8, 0.20, (0.15, 0.25), 0.20)
    plan = plan_shims([far, good], (), STOCK)
    assert plan.impossible == ("I1",)
    assert [p.origin for p in plan.places] == [None, Origin.STAYS]


def test_the_walk_names_every_shim_that_moves_once() -> None:
    rng = random.Random(9)
    for _ in range(60):
        plan = plan_shims(head(rng, 10), [2.6, 2.9], STOCK)
        told = " ".join(walk(plan))
        for placed in plan.places:
            moved = placed.origin not in (None, Origin.STAYS)
            named = re.findall(rf"to {placed.position.name}[,.]", told)
            assert len(named) == int(moved)
        assert told.count("to the drawer") == len(plan.freed)


def test_stock_that_makes_no_sense() -> None:
    for low, high, step in ((3.5, 2.5, 0.05), (2.5, 3.5, 0.0), (0.1, 20.0, 0.001)):
        with pytest.raises(EngineError, match=r"must be|at most"):
            stock_sizes_mm(low, high, step)
