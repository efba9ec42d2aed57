"""Plans of every school against the trade's figures, a brute force, and a general solver."""

from dataclasses import replace
from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import Bounds, LinearConstraint, brentq, milp

from tests.strategies import any_engines, never_opens
from tests.tables import rows
from true_compass.core.adjusting.comparison import compare, verdict
from true_compass.core.adjusting.piercing import Arcs, FreeArcs, shared_arcs
from true_compass.core.adjusting.schools import (
    BY_WORD,
    SCHOOLS,
    Choice,
    NotApplicableError,
    rocking_deg,
)
from true_compass.core.adjusting.stops import Plan, whole_degrees
from true_compass.core.changes import with_order
from true_compass.core.crank import makers
from true_compass.core.engine import Engine, even_inline
from true_compass.core.items import ExtraKind, Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.valves.cam import Bump
from true_compass.core.valves.train import Adjuster, Train
from true_compass.files.rigs import demo_rig, rig_names

MILD, LONG = (15.0, 50.0, 50.0, 15.0), (50.0, 85.0, 90.0, 45.0)


@st.composite
def arcs_of_one(draw: st.DrawFn) -> Arcs:
    """One to three free arcs of an item that do not touch."""
    ends = sorted(draw(st.lists(st.integers(0, 143), min_size=2, max_size=6, unique=True)))
    by = draw(st.integers(0, 719))
    pairs = zip(ends[::2], ends[1::2], strict=False)
    return tuple(((5.0 * a + by) % 720.0, 5.0 * (b - a)) for a, b in pairs)


def rig_with(engine: Engine, events: tuple[float, ...], ramp: float = 0.0) -> Rig:
    intake = replace(
        engine.cam.intake, opens_before_deg=events[0], closes_after_deg=events[1], ramp_deg=ramp
    )
    exhaust = replace(
        engine.cam.exhaust, opens_before_deg=events[2], closes_after_deg=events[3], ramp_deg=ramp
    )
    return Rig.of(replace(engine, cam=replace(engine.cam, intake=intake, exhaust=exhaust)))


ENGINES = {
    "I3": makers.inline(3),
    "I4": makers.inline(4),
    "I5": makers.inline(5),
    "I6": makers.inline(6),
    "V8": with_order(makers.vee(8, 90), tuple((c,) for c in (1, 5, 4, 8, 6, 3, 7, 2))),
    "V12": makers.vee(12, 60),
    "R9": even_inline((1, 3, 5, 7, 9, 2, 4, 6, 8)),
}


def plan(rig: Rig, word: str, choice: Choice | None = None) -> Plan:
    return BY_WORD[word].plan(rig, choice or Choice())


@pytest.mark.parametrize("row", rows("schools"), ids=lambda row: f"{row['engine']}-{row['school']}")
def test_least_margins_of_the_trade(row: dict[str, str]) -> None:
    events = {"mild": MILD, "long": LONG}[row["cam"]]
    rig = rig_with(ENGINES[row["engine"]], events, float(row["ramp"]))
    choice = Choice(stops=int(row["stops"])) if row["stops"] else Choice()
    made = plan(rig, row["school"], choice)
    assert made.least_margin_deg == pytest.approx(float(row["margin"]), abs=0.01)
    if row["stops"]:
        assert len(made.stops) <= int(row["stops"])


@pytest.mark.parametrize(("name", "turns"), [("I4", 8), ("I6", 12)])
def test_along_the_heads_it_takes_many_turns(name: str, turns: int) -> None:
    rig = rig_with(ENGINES[name], MILD)
    along = plan(rig, "eo-ic", Choice(along_heads=True))
    assert round(along.turning_deg / 360) == turns
    assert plan(rig, "eo-ic").turning_deg / 360 == pytest.approx(1.8, abs=0.15)


def test_a_v8_along_its_heads_takes_twenty() -> None:
    # Bank A at +45°, B at -45°, cylinders 1-3-5-7 and 2-4-6-8: common practice, no source.
    layout = makers.vee(8, 90, numbering="across").layout
    banks = tuple(replace(bank, angle_deg=-bank.angle_deg) for bank in layout.banks)
    order = tuple((c,) for c in (1, 8, 4, 3, 6, 5, 7, 2))
    engine = with_order(makers.made(replace(layout, banks=banks)), order)
    along = plan(rig_with(engine, MILD), "eo-ic", Choice(along_heads=True))
    assert round(along.turning_deg / 360) == 20


@settings(max_examples=25)
@given(any_engines())
def test_every_item_is_due_exactly_once_in_every_plan(engine: Engine) -> None:
    rig = Rig.of(engine)
    for row in compare(rig):
        if row.plan is None:
            assert row.reason.endswith(".")
            continue
        due = [item.name for item in row.plan.items]
        assert sorted(due) == sorted(rig.item_names), row.school.word
        for stop in row.plan.stops:
            for item in stop.items:
                if item.margin_deg > 1e-6:
                    assert min(item.back_deg, item.on_deg) == pytest.approx(item.margin_deg)


def brute_most(rig: Rig, count: int, step: float) -> float:
    """The best least margin of `count` stops on a grid."""
    margins = rig.item_margins_deg(np.arange(0.0, 720.0, step))
    return max(
        float(margins[:, list(places)].max(axis=1).min())
        for places in combinations(range(margins.shape[1]), count)
    )


@settings(max_examples=12)
@given(any_engines().filter(lambda engine: engine.cylinder_count <= 8))
def test_two_solved_stops_against_every_pair_of_whole_degrees(engine: Engine) -> None:
    rig = Rig.of(engine)
    found = FreeArcs(tuple(rig.item_arcs_deg.values())).most_margin(2)
    brute = brute_most(rig, 2, 4.0)
    if found is None:
        assert brute < 0
        return
    # The grid can only be worse, and by no more than its step.
    assert brute <= found.margin_deg + 1e-6
    assert brute >= found.margin_deg - 4.0
    margins = rig.item_margins_deg(np.array(found.stops_deg))
    assert margins.max(axis=1).min() == pytest.approx(found.margin_deg, abs=1e-6)


@settings(max_examples=12)
@given(any_engines(), st.sampled_from([0.0, 20.0, 45.0, 70.0]))
def test_fewest_stops_against_a_general_solver(engine: Engine, margin: float) -> None:
    """Exact set cover by mixed-integer programming over the ends of the arcs."""
    rig = Rig.of(engine)
    arcs = FreeArcs(tuple(rig.item_arcs_deg.values()))
    ends = sorted(
        {
            (s + length - margin) % 720
            for item in arcs.items
            for s, length in item
            if length >= 2 * margin
        }
    )
    covers = rig.item_margins_deg(np.array(ends)) >= margin - 1e-6 if ends else np.zeros((1, 0))
    found = arcs.fewest(margin)
    if not ends or not covers.any(axis=1).all():
        assert found is None
        return
    solved = milp(
        np.ones(len(ends)),
        constraints=LinearConstraint(covers.astype(float), lb=1),
        integrality=np.ones(len(ends), dtype=np.int8),
        bounds=Bounds(0, 1),
    )
    assert found is not None
    assert solved.fun is not None
    assert len(found.stops_deg) == round(solved.fun)
    assert found.margin_deg >= margin - 1e-6


@given(st.floats(-60, 60), st.integers(2, 4))
def test_turning_all_arcs_turns_the_plan(by_deg: float, count: int) -> None:
    rig = rig_with(ENGINES["V8"], MILD, 20.0)
    items = tuple(rig.item_arcs_deg.values())
    turned = tuple(tuple(((s + by_deg) % 720, length) for s, length in arcs) for arcs in items)
    first, second = FreeArcs(items).most_margin(count), FreeArcs(turned).most_margin(count)
    assert first is not None
    assert second is not None
    assert second.margin_deg == pytest.approx(first.margin_deg, abs=1e-6)


@given(st.floats(0, 30), st.sampled_from(["two-stop", "firing-order"]))
def test_wider_arcs_never_hurt_stops_that_stay_on_the_crank(wider: float, word: str) -> None:
    narrow = rig_with(ENGINES["I6"], MILD, 30.0)
    wide = rig_with(ENGINES["I6"], MILD, 30.0 - wider)
    assert plan(wide, word).least_margin_deg >= plan(narrow, word).least_margin_deg - 1e-9


@given(any_engines().filter(lambda e: not e.cam.release and not e.cam.extras))
def test_two_stops_a_turn_apart_leave_at_least_a_turn_less_the_lobe(engine: Engine) -> None:
    rig = Rig.of(engine)
    longest = max(720.0 - sum(length for _, length in arcs) for arcs in rig.item_arcs_deg.values())
    assert plan(rig, "two-stop").least_margin_deg >= 180.0 - longest / 2 - 1e-6


def test_four_on_another_fours_table() -> None:
    # Common practice, no source: 1-3-4-2's table on 1-2-4-3 puts I2 and E3 off the base circle.
    table = plan(rig_with(even_inline((1, 3, 4, 2)), MILD), "two-stop")
    other = rig_with(even_inline((1, 2, 4, 3)), MILD)
    names = [item.name for item in table.stops[0].items]
    margins = other.item_margins_deg(np.array([0.0]))[:, 0]
    off = [n for n in names if margins[other.item_names.index(n)] < 0]
    assert off == ["I2", "E3"]


def test_injectors_follow_where_their_free_arc_is_centred() -> None:
    # Six with unit injectors, 1-5-3-6-2-4: injectors 6 5 3, then 1 2 4. Common practice, no source.
    made = plan(Rig.of(demo_rig("hickory")), "two-stop")
    first = {item.name for item in made.stops[0].items if item.name[0] == "U"}
    assert first == {"U6", "U5", "U3"}


def test_a_release_shifts_the_stop_past_tdc_and_says_so() -> None:
    made = plan(Rig.of(demo_rig("mulberry")), "firing-order")
    assert made.stops[0].crank_deg == pytest.approx(52.0, abs=1.0)
    assert "past compression TDC of 1" in made.stops[0].sign
    assert made.least_margin_deg > 60


def test_several_arcs_an_item_are_solved_too() -> None:
    engine = replace(ENGINES["I4"], cam=replace(ENGINES["I4"].cam, release=Bump(610, 700, 0.6, 10)))
    rig = Rig.of(engine)
    found = FreeArcs(tuple(rig.item_arcs_deg.values())).most_margin(3)
    assert found is not None
    assert found.margin_deg >= brute_most(rig, 3, 12.0) - 1e-6


@pytest.mark.parametrize(
    ("word", "rig", "choice", "says"),
    [
        ("fewest", "birch", Choice(margin_deg=250.0), "No stop leaves 250° on E1.*220.0°"),
        ("most-margin", "birch", Choice(stops=1), "2 stops can"),
        ("most-margin", "birch", Choice(stops=99), "1 to 36 stops"),
        ("most-margin", "birch", Choice(at_marks=True), "no marks in its file"),
        ("quarter-turn", "birch", Choice(), "needs hydraulic"),
        ("loose", "cedar", Choice(), "hydraulic tappets have none"),
        ("companion", "linden", Choice(), "cylinder 1 has none"),
        ("running", "cedar", Choice(), "Suits; done with the engine running, not at stops"),
        # Never pedestals, buckets or finger followers (common practice, no source).
        ("running", "chestnut", Choice(), "pedestal bolt"),
        ("running", "holly", Choice(), "buckets"),
        ("running", "walnut", Choice(), "finger followers"),
        ("quarter-turn", "chestnut", Choice(), "torqued down to its seat"),
        ("quarter-turn", "rowan", Choice(), "none to turn"),
    ],
)
def test_what_does_not_apply_is_explained(word: str, rig: str, choice: Choice, says: str) -> None:
    with pytest.raises(NotApplicableError, match=says):
        plan(Rig.of(demo_rig(rig)), word, choice)


def test_a_cylinder_that_never_opens_rocks_at_its_overlap_tdc() -> None:
    rig = Rig.of(never_opens())
    for cylinder, offset in enumerate(rig.offsets_deg.tolist(), start=1):
        assert rocking_deg(rig, cylinder) == (offset + 360.0) % 720.0
    with pytest.raises(NotApplicableError, match="I1 never opens: correct the lash first"):
        plan(rig, "eo-ic")


def test_where_nothing_is_free_no_stop_serves() -> None:
    """The brake's lobe fills what the exhaust's leaves: nowhere are both free."""
    hickory = demo_rig("hickory")
    brake = next(extra for extra in hickory.cam.extras if extra.kind is ExtraKind.BRAKE)
    all_round = replace(brake, bump=Bump(380.0, 840.0, 2.0, 20.0))
    others = tuple(extra for extra in hickory.cam.extras if extra is not brake)
    rig = Rig.of(replace(hickory, cam=replace(hickory.cam, extras=(*others, all_round))))
    for word in ("fewest", "most-margin"):
        with pytest.raises(NotApplicableError, match="No stop serves E1 anywhere: nowhere is all"):
            plan(rig, word)


@pytest.mark.parametrize("name", rig_names())
def test_every_rig_has_a_plan_by_each_applicable_school(name: str) -> None:
    found = compare(Rig.of(demo_rig(name)))
    assert len(found) == len(SCHOOLS)
    assert sum(row.plan is not None for row in found) >= 5
    assert verdict(found).endswith(".")
    for row in found:
        if row.plan is not None and row.school.word in ("fewest", "opposite-open", "eo-ic"):
            assert row.plan.safe


def test_solved_stops_at_multiples_only() -> None:
    for step in (15.0, 30.0, 45.0, 90.0):
        made = plan(Rig.of(demo_rig("cedar")), "most-margin", Choice(stops=4, at_deg=step))
        assert all(stop.crank_deg % step == 0 for stop in made.stops)
        rig, grid = Rig.of(demo_rig("alder")), np.arange(0.0, 720.0, step)
        two = FreeArcs(tuple(rig.item_arcs_deg.values()), tuple(grid)).most_margin(2)
        assert two is not None
        assert two.margin_deg == pytest.approx(brute_most(rig, 2, step), abs=1e-6)


@settings(max_examples=20)
@given(any_engines(), st.floats(0, 719.9))
def test_margins_against_scanning_the_lift_of_every_lobe(engine: Engine, at: float) -> None:
    """Walk both ways in half degrees until the lobe lifts, or rests; no arcs are used."""
    rig = Rig.of(engine)
    margins = rig.item_margins_deg(np.array([at]))[:, 0]
    step = 0.5
    way = at + step * np.arange(-1440, 1441, dtype=np.float64)
    lifted = rig.lobes.lobe_mm(way) > 1e-9
    # A lobe without height on its ramps (zero lash) rests there; its arc counts the ramp.
    ramps = engine.cam.intake.lash_mm > 0.01 and engine.cam.exhaust.lash_mm > 0.01
    for row in range(len(engine.valves)) if ramps else ():
        here = lifted[row, 1440]
        change = np.flatnonzero(lifted[row] != here)
        nearest = np.min(np.abs(change - 1440)) * step
        margin = margins[rig.item_names.index(engine.valves[row].name)]
        assert abs(margin) == pytest.approx(nearest, abs=1.5)
        if nearest > 2:
            assert (margin < 0) == here


@pytest.mark.parametrize("name", rig_names())
def test_the_verdict_names_numbers_of_the_table(name: str) -> None:
    found = compare(Rig.of(demo_rig(name)))
    words = verdict(found)
    two = next(row.plan for row in found if row.school.word == "two-stop")
    assert two is not None
    assert two.least_item.name in words
    assert f" {abs(whole_degrees(two.least_margin_deg))}°" in words
    widest = max(row.plan.least_margin_deg for row in found if row.plan is not None)
    last = words.rstrip(".").split(". ")[-1]
    assert f": {whole_degrees(widest)}°, at " in last
    stops = [len(r.plan.stops) for r in found if r.plan and r.plan.least_margin_deg == widest]
    assert any(f"at {count} stop" in last for count in stops)


def test_marks_alone_can_be_where_stops_may_be() -> None:
    rig = Rig.of(demo_rig("cedar"))
    made = plan(rig, "fewest", Choice(margin_deg=20.0, at_marks=True))
    marks = {mark.angle_deg % 360 for mark in rig.engine.marks if mark.angle_deg is not None}
    assert {stop.crank_deg % 360 for stop in made.stops} <= marks
    with pytest.raises(NotApplicableError, match="at these places"):
        plan(rig, "fewest", Choice(margin_deg=200.0, at_marks=True))


def test_two_stops_from_any_tdc_mark() -> None:
    rig = Rig.of(demo_rig("birch"))
    for offset in rig.true_offsets_deg:
        made = plan(rig, "two-stop", Choice(start_deg=float(offset)))
        assert made.least_margin_deg == pytest.approx(plan(rig, "two-stop").least_margin_deg)
        assert made.stops[1].turn_deg == pytest.approx(360.0)


def test_rocking_without_overlap_is_half_way_between_closing_and_opening() -> None:
    # -14/50/50/4: the exhaust closes 4° after overlap TDC, the intake opens 14° after it.
    rig = rig_with(even_inline((1, 3, 4, 2)), (-14.0, 50.0, 50.0, 4.0))
    for cylinder, overlap_tdc in ((1, 360.0), (3, 540.0), (4, 0.0), (2, 180.0)):
        assert rocking_deg(rig, cylinder) == pytest.approx(overlap_tdc + 9.0, abs=1e-6)
    stops = sorted(stop.crank_deg for stop in plan(rig, "companion").stops)
    assert stops == pytest.approx([9.0, 189.0, 369.0, 549.0], abs=1e-6)


@settings(max_examples=25)
@given(st.floats(-30, 60), st.floats(-30, 60))
def test_rocking_is_where_both_valves_lift_alike(ivo: float, evc: float) -> None:
    """Against the least difference of the two lifts on a fine grid, or the middle of the gap."""
    rig = rig_with(even_inline((1, 3, 4, 2)), (ivo, 50.0, 50.0, evc), 20.0)
    at = rocking_deg(rig, 1)
    around = np.arange(300.0, 420.0, 0.01)
    intake, exhaust = rig.lobes.lift_mm(around)[[0, 1]]
    if ivo + evc > 0.5:
        both = np.flatnonzero((intake > 0) & (exhaust > 0))
        best = around[both[np.argmin(np.abs(intake - exhaust)[both])]]
        assert at == pytest.approx(best, abs=0.02)
    elif ivo + evc < -0.5:
        assert at == pytest.approx(360 + (evc - ivo) / 2, abs=0.02)


def test_the_sweep_is_as_good_as_its_worst_start() -> None:
    """Against every start of a quarter, a tenth of a degree apart; the trade's 192 and 172."""
    soft = Train(hydraulic=True, adjuster=Adjuster.PIVOT_NUT)
    for ramp, told in ((0.0, 192.5), (20.0, 172.5)):
        engine = rig_with(ENGINES["I4"], MILD, ramp).engine
        cam = engine.cam
        for kind in Kind:
            cam = cam.with_timing(kind, replace(cam.timing(kind), lash_mm=0.0, ramp_mm=0.1))
        rig = Rig.of(replace(engine, cam=cam, train=soft))
        made = plan(rig, "quarter-turn")
        assert [len(stop.items) for stop in made.stops] == [0] * 8
        assert made.least_margin_deg == pytest.approx(told)
        starts = np.arange(0.0, 90.0, 0.1)
        worst = min(
            rig.item_margins_deg(start + 90.0 * np.arange(8.0)).max(axis=1).min()
            for start in starts
        )
        assert made.least_margin_deg == pytest.approx(worst, abs=0.1)
        # Each is loose at about five of the eight quarters (common practice, no source).
        for item in rig.items:
            loose = sum(item in stop.loose_now for stop in made.stops)
            assert loose in (4, 5, 6)


@pytest.mark.parametrize(
    ("choice", "sign"),
    [
        (Choice(), "a degree scale"),
        (Choice(at_deg=90.0), "a multiple of 90°"),
        (Choice(at_deg=90.0, start_deg=180.0), "a multiple of 90°"),
        (Choice(at_deg=90.0, start_deg=30.0), "30° and every 90° on"),
        (Choice(at_deg=90.0, start_deg=75.0), "75° and every 90° on"),
    ],
)
def test_solved_stops_tell_by_what_their_places_are_known(choice: Choice, sign: str) -> None:
    made = plan(Rig.of(demo_rig("birch")), "most-margin", choice)
    assert {stop.sign for stop in made.stops} == {sign}
    assert len(made.stops) == 3, "three are asked for where nothing else is"


@pytest.mark.parametrize("name", rig_names())
def test_turns_are_those_between_the_stops_that_are_kept(name: str) -> None:
    for row in compare(Rig.of(demo_rig(name))):
        stops = row.plan.stops if row.plan else ()
        assert all(stop.items or stop.loose_now for stop in stops), row.school.word
        for before, after in pairwise(stops):
            way = (after.crank_deg - before.crank_deg) % 720.0
            assert after.turn_deg == pytest.approx(way, abs=1e-6), row.school.word


@pytest.mark.parametrize("name", rig_names())
def test_in_firing_order_nobody_turns_nearly_a_cycle_for_a_place_a_little_back(name: str) -> None:
    engine = demo_rig(name)
    for offset in (0.0, 3.0, -3.0):
        try:
            rig = Rig.of(replace(engine, pin_offset_mm=offset))
        except EngineError:
            continue
        made = plan(rig, "firing-order")
        assert made.turning_deg < 720.0
        assert max(stop.turn_deg for stop in made.stops) < 720.0 - min(engine.intervals_deg) / 2


def test_a_start_off_the_grid_is_told_as_it_is() -> None:
    made = plan(Rig.of(demo_rig("birch")), "fewest", Choice(start_deg=7.0, at_deg=15.0))
    assert made.stops[0].sign == "7° and every 15° on"
    assert all((stop.crank_deg - 7.0) % 15.0 == 0 for stop in made.stops)


@given(st.lists(arcs_of_one(), min_size=1, max_size=3), st.floats(0, 719.99))
def test_shared_arcs_are_where_all_are_free(several: list[Arcs], at: float) -> None:
    def inside(arcs: Arcs) -> bool:
        return any((at - start) % 720.0 < length for start, length in arcs)

    every = [arc for arcs in several for arc in arcs]
    edges = [(start + end) % 720 for start, length in every for end in (0, length)]
    if min(min((at - edge) % 720, (edge - at) % 720) for edge in edges) > 1e-6:
        assert inside(shared_arcs(several)) == all(map(inside, several))


@pytest.mark.parametrize("name", ["birch", "whitebeam", "hickory", "elder", "mulberry", "oak"])
def test_valves_rock_where_both_lift_alike(name: str) -> None:
    """By a general solver on the lifts themselves."""
    rig = Rig.of(demo_rig(name))
    for cylinder in rig.engine.cylinders:
        intake, exhaust = rig.engine.valve_rows(cylinder)
        overlap = float(rig.offsets_deg[cylinder - 1]) + 360.0

        def ahead(at_deg: float, rows: tuple[int, int] = (intake, exhaust)) -> float:
            lift = rig.lobes.lift_mm(np.array([at_deg]))[:, 0]
            return float(lift[rows[0]] - lift[rows[1]])

        if ahead(overlap - 60.0) < 0 < ahead(overlap + 60.0):
            solved = brentq(ahead, overlap - 60.0, overlap + 60.0, xtol=1e-9)
            found = rocking_deg(rig, cylinder)
            # Where they lift alike; in a gap between them both are shut over some degrees.
            if abs(ahead(solved + 0.01)) > 1e-9:
                assert (found - solved + 360.0) % 720.0 - 360.0 == pytest.approx(0.0, abs=1e-5)


def test_past_a_release_one_goes_to_where_all_are_freest() -> None:
    """Brute force over half degrees of half a turn."""
    rig = Rig.of(demo_rig("mulberry"))
    past = np.arange(0.0, 180.5, 0.5)
    margins = rig.item_margins_deg(past).min(axis=0)
    (stop,) = BY_WORD["firing-order"].plan(rig, Choice()).stops
    assert stop.crank_deg == past[int(np.argmax(margins))]
    assert stop.crank_deg > 0
    assert min(item.margin_deg for item in stop.items) == pytest.approx(margins.max())


@pytest.mark.parametrize("name", ["hickory", "mulberry"])
def test_past_a_lobe_that_holds_at_tdc_the_sign_and_the_place_say_the_same(name: str) -> None:
    rig = Rig.of(demo_rig(name))
    for stop in plan(rig, "firing-order").stops:
        past, _, rest = stop.sign.partition("° past compression TDC of ")
        tdc_deg = float(rig.true_offsets_deg[int(rest.partition(",")[0]) - 1])
        assert (tdc_deg + float(past)) % 720.0 == pytest.approx(stop.crank_deg)
