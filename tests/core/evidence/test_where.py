"""Where am I? Each sign holds where a person would see it; contradictions name the right fool."""

from collections import Counter
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.strategies import any_engines, never_opens
from true_compass.core.crank.phasing import companion_of
from true_compass.core.engine import Engine, Mark, Meaning, Shaft
from true_compass.core.evidence.signs import signs_at
from true_compass.core.evidence.where import Look, Places, Seen, mark_labels
from true_compass.core.items import Kind
from true_compass.core.spark import Ignition, Spark
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig, rig_names

KINDS = {"I": Kind.INTAKE, "E": Kind.EXHAUST}
BIRCH = Rig.of(demo_rig("birch"))


def places_of(seen: Seen, places: Places) -> list[tuple[float, float]]:
    return places.arcs(places.left_by([seen]))


@pytest.mark.parametrize("name", rig_names())
def test_rocking_has_a_sane_width_on_every_rig(name: str) -> None:
    places = Places(Rig.of(demo_rig(name)))
    for cylinder in demo_rig(name).cylinders:
        arcs = places_of(Seen(Look.ROCKING, str(cylinder)), places)
        assert len(arcs) == 1
        assert 15.0 <= arcs[0][1] <= 52.0
        middle = arcs[0][0] + arcs[0][1] / 2
        overlap = float(Rig.of(demo_rig(name)).offsets_deg[cylinder - 1]) + 360.0
        assert abs((middle - overlap + 360.0) % 720.0 - 360.0) < 30.0


@pytest.mark.parametrize(
    ("opens", "closes", "reach_deg"),
    # Half of the overlap either way, but 8° at least and 25° at most.
    [(12.0, 10.0, 11.0), (30.0, 10.0, 20.0), (3.0, 3.0, 8.0), (45.0, 45.0, 25.0), (-5.0, 3.0, 8.0)],
)
def test_rocking_is_as_wide_as_the_overlap(opens: float, closes: float, reach_deg: float) -> None:
    cam = BIRCH.engine.cam
    intake = replace(cam.intake, opens_before_deg=opens)
    exhaust = replace(cam.exhaust, closes_after_deg=closes)
    rig = Rig.of(replace(BIRCH.engine, cam=replace(cam, intake=intake, exhaust=exhaust)))
    for cylinder in ("1", "4"):
        ((_, length),) = places_of(Seen(Look.ROCKING, cylinder), Places(rig))
        assert length == pytest.approx(2 * reach_deg, abs=0.5)


@settings(max_examples=30)
@given(any_engines(), st.floats(0, 719.5))
def test_a_moving_valve_is_what_is_seen_to_move_while_rocking_the_crank(
    engine: Engine, at: float
) -> None:
    """Rock by hand: three degrees either way, and look at the lifts. The grid is not used."""
    rig = Rig.of(engine)
    places = Places(rig)
    place = round(at / 0.5) % 1440
    here = 0.5 * place
    before, after = rig.lobes.lift_mm(np.array([here - 3.0, here + 3.0])).T
    for row, valve in enumerate(engine.valves):
        for look, moved in ((Look.OPENING, after - before), (Look.CLOSING, before - after)):
            if abs(moved[row] - 0.05) > 1e-6:
                assert places.holds(Seen(look, valve.name))[place] == (moved[row] > 0.05)


def test_on_its_quiet_ramp_a_rocker_can_be_loose_or_tight() -> None:
    places = Places(BIRCH)
    on_ramp = int(338 / 0.5)  # 20° of ramp before it opens at 348
    assert places.holds(Seen(Look.LOOSE, "I1"))[on_ramp]
    assert places.holds(Seen(Look.TIGHT, "I1"))[on_ramp]


def with_companions() -> list[str]:
    return [
        name
        for name in rig_names()
        if companion_of(demo_rig(name), 1) and not demo_rig(name).cam.intake.suction
    ]


@pytest.mark.parametrize("name", with_companions())
def test_four_loose_is_no_contradiction_and_the_trades_way_tells_them_apart(name: str) -> None:
    """Wide gaps leave all four loose at a dead centre. Turned on as told, the intake of the one
    in overlap goes tight first, and the other three stay loose (common practice, no source).
    """
    rig = Rig.of(demo_rig(name))
    places = Places(rig)
    engine = rig.engine
    other = companion_of(engine, 1)
    assert other is not None
    names = [f"{kind}{cylinder}" for cylinder in (1, other) for kind in "IE"]
    seen = [Seen(Look.LOOSE, valve) for valve in names]
    assert places.doubt(seen) is None
    left = places.left_by(seen)
    assert left[0]
    assert left[720]
    question = places.next_look(seen)
    assert question is not None
    on_deg = places.turn_on_deg((1, other))
    assert f"Turn on {on_deg:.0f}°. Of 1 and {other} the one whose intake" in question[0]
    assert "never slacken" in question[0]
    for overlap, firing in ((other, 1), (1, other)):
        tdc_deg = float(rig.true_offsets_deg[firing - 1])
        lift = rig.lobes.lift_mm(np.array([tdc_deg + on_deg, tdc_deg - on_deg]))
        rows = {v: engine.valve_row(int(v[1:]), KINDS[v[0]]) for v in names}
        intake, exhaust = rows[f"I{overlap}"], rows[f"E{overlap}"]
        assert lift[intake, 0] > 0.1  # tight, turned on
        assert lift[intake, 0] > 2 * lift[exhaust, 0]
        assert lift[exhaust, 1] > 0.1  # turned back instead, its exhaust
        for kind in "IE":
            assert lift[rows[f"{kind}{firing}"]].max() == 0


def test_all_loose_on_both_companions_has_a_next_step() -> None:
    # A wide lash and little overlap leave play on all four rockers around the mark.
    engine = demo_rig("birch")
    cam = replace(
        engine.cam,
        intake=replace(engine.cam.intake, opens_before_deg=-5.0),
        exhaust=replace(engine.cam.exhaust, closes_after_deg=-5.0),
    )
    places = Places(Rig.of(replace(engine, cam=cam)))
    seen = [Seen(Look.LOOSE, name) for name in ("I1", "E1", "I6", "E6")]
    look = places.next_look(seen)
    assert look is not None
    assert look[0].startswith("Turn on 20°. Of 1 and 6 the one whose intake goes tight was in over")
    # It halves what is left, which is counted in steps of half a degree.
    assert look[1] == pytest.approx(np.count_nonzero(places.left_by(seen)) * 0.5 / 2)
    # Both dead centres are still possible: it proves nothing yet.
    left = places.left_by(seen)
    assert left[0]
    assert left[720]


@settings(max_examples=40)
@given(st.floats(0, 719.5), st.integers(1, 6))
def test_the_sign_without_which_most_is_left_is_doubted(at: float, wrong: int) -> None:
    """True signs of one place and one that is not: brute force over dropping each."""
    places = Places(BIRCH)
    here = int(at / 0.5)
    true = [
        Seen(look, name)
        for name in ("I1", "E2", "I3", "E4", "I5")
        for look in (Look.LOOSE, Look.TIGHT, Look.OPENING, Look.CLOSING)
        if places.holds(Seen(look, name))[here]
    ]
    seen = [*true, Seen(Look.STILL, str(wrong)), Seen(Look.PRESSURE, str(wrong))]
    doubt = places.doubt(seen)
    if places.left_by(seen).any():
        assert doubt is None
        return
    assert doubt is not None
    left = [int(places.left_by([s for s in seen if s is not dropped]).sum()) for dropped in seen]
    if max(left):
        assert doubt.left_deg == max(left) * 0.5
        assert len(doubt.signs) == 1
    assert "can mislead" in doubt.words or "More than two" in doubt.words


def test_the_right_fool_is_named() -> None:
    places = Places(BIRCH)
    # At compression TDC of 1 everything of 1 is loose; one rocker felt tight is the odd one.
    seen = [Seen(Look.LOOSE, "I1"), Seen(Look.PRESSURE, "1"), Seen(Look.STILL, "1")]
    doubt = places.doubt([*seen, Seen(Look.TIGHT, "E1")])
    assert doubt is not None
    assert doubt.signs == (Seen(Look.TIGHT, "E1"),)
    assert "set too tight" in doubt.words
    # Too tight cannot look loose: what is felt loose is doubted for another reason.
    doubt = places.doubt(
        [Seen(Look.CLOSING, "E1"), Seen(Look.ROCKING, "1"), Seen(Look.LOOSE, "E1"), seen[2]]
    )
    assert doubt is None or "slackened too far" in doubt.words


def test_a_piston_at_its_top_is_at_either_tdc() -> None:
    places = Places(BIRCH)
    arcs = places_of(Seen(Look.STILL, "3"), places)
    assert sorted(arc[0] for arc in arcs) == [236.0, 596.0]
    assert {arc[1] for arc in arcs} == {8.5}


MARKS = (
    Mark("pulley", 0.0, stamped="T", colour="white"),
    Mark("pulley", 350.0, stamped="F", colour="red", meaning=Meaning.FIRING),
    Mark("flywheel", 0.0, stamped="1-6"),
    Mark("flywheel", 120.0, stamped="2-5"),
    Mark("cam cap", 0.0, shaft=Shaft.CAM),
    Mark("flywheel pin", None, cylinder=3),
)
MARKED = Rig.of(replace(demo_rig("birch"), marks=MARKS))


def test_several_marks_at_one_place_are_several_signs() -> None:
    labels = mark_labels(MARKED)
    assert labels == (
        "pulley, white, T",
        "pulley, red, F",
        "flywheel, 1-6",
        "flywheel, 2-5",
        "cam cap",
        "flywheel pin",
    )
    places = Places(MARKED)
    starts = {
        label: sorted(round(arc[0] + arc[1] / 2) % 720 for arc in arcs)
        for label in labels
        for arcs in (places_of(Seen(Look.MARK, label), places),)
    }
    # A crank mark passes twice a cycle, a cam mark once: it settles the stroke.
    assert starts["pulley, white, T"] == [0, 360]
    assert starts["pulley, red, F"] == [350, 710]
    assert starts["flywheel, 2-5"] == [120, 480]
    assert starts["cam cap"] == [0]
    # A TDC mark without an angle stands at the true TDC of its cylinder: 3 fires at 240°.
    assert starts["flywheel pin"] == [240, 600]


@pytest.mark.parametrize(
    ("crank_deg", "says", "never"),
    [
        (0.0, "the TDC mark on the pulley (white, T) is in line", "firing mark"),
        (350.0, "the firing mark on the pulley (red, F) is in line", "TDC mark on the pulley"),
        (360.0, "the TDC mark on the flywheel (1-6) is in line", "cam cap"),
        (720.0, "the TDC mark on the cam cap is in line", "firing mark"),
    ],
)
def test_a_firing_mark_is_never_called_a_tdc_mark(crank_deg: float, says: str, never: str) -> None:
    looks = [sign.look for sign in signs_at(MARKED, crank_deg)]
    assert says in looks
    assert not any(never in look for look in looks)


def test_a_nominal_tdc_says_that_the_true_one_is_elsewhere() -> None:
    rig = Rig.of(replace(demo_rig("birch"), pin_offset_mm=14.0))
    looks = " ".join(sign.look for sign in signs_at(rig, 0.0))
    away = float(rig.centres.tdc_deg[0])
    assert f"the nominal TDC of 1, by a degree scale: its true TDC is {away:.1f}° on" in looks


@pytest.mark.parametrize("ignition", [Ignition.COILS, Ignition.DIESEL])
def test_no_rotor_is_told_of_where_there_is_none(ignition: Ignition) -> None:
    rig = Rig.of(replace(demo_rig("birch"), spark=Spark(ignition)))
    assert not any("rotor" in sign.look for sign in signs_at(rig, 0.0))
    assert not any(seen.look is Look.ROTOR for seen in Places(rig).looks())
    # Pumps inject: nothing is said of a rotor either, whatever the file leaves open.
    assert not demo_rig("hickory").has_rotor
    assert demo_rig("birch").has_rotor


def test_no_sign_is_told_twice() -> None:
    for name in rig_names():
        rig = Rig.of(demo_rig(name))
        for at in np.arange(0.0, 720.0, 15.0):
            looks = [sign.look for sign in signs_at(rig, float(at))]
            assert len(looks) == len(set(looks))


@given(any_engines())
def test_companions_rock_together(engine: Engine) -> None:
    places = Places(Rig.of(engine))
    for cylinder in engine.cylinders:
        other = companion_of(engine, cylinder)
        if other is not None:
            pair = [Seen(Look.ROCKING, str(c)) for c in (cylinder, other)]
            assert not places.left_by(pair).any()


def test_a_mark_and_a_post_are_near_for_so_many_degrees() -> None:
    """Within a degree of a crank mark, once a turn; half a firing gap each side of a rotor post."""
    cam = Mark("cam gear", 500.0, shaft=Shaft.CAM, meaning=Meaning.OTHER)
    places = Places(Rig.of(replace(demo_rig("birch"), marks=(Mark("damper", 30.0), cam))))
    crank, gear = places.mark_labels
    assert sorted(places_of(Seen(Look.MARK, crank), places)) == [(29.0, 2.5), (389.0, 2.5)]
    assert places_of(Seen(Look.MARK, gear), places) == [(499.0, 2.5)]
    # Cylinder 5 fires 120° after 1.
    assert places_of(Seen(Look.ROTOR, "5"), places) == [(60.0, 120.5)]
    assert sorted(places_of(Seen(Look.STILL, "5"), places)) == [(116.0, 8.5), (476.0, 8.5)]


def test_arcs_go_round_the_end_of_the_cycle_and_the_longest_comes_first() -> None:
    places = Places(BIRCH)
    at = places.at_deg
    left = (at >= 710) | (at < 20) | ((at >= 100) & (at < 110))
    assert places.arcs(left) == [(710.0, 30.0), (100.0, 10.0)]


def test_what_can_be_looked_at_at_a_valve() -> None:
    """All four looks at a valve with a lobe; one that suction opens has nothing to feel."""
    suction = next(name for name in rig_names() if demo_rig(name).cam.intake.suction)
    for name, looks in (("birch", 4), (suction, 2)):
        seen = [look for look in Places(Rig.of(demo_rig(name))).looks() if look.name == "I1"]
        assert len(seen) == looks
        moving = {Look.OPENING, Look.CLOSING}
        assert moving <= {look.look for look in seen}


MOTIONS = (Look.OPENING, Look.CLOSING, Look.LOOSE)


@settings(max_examples=40)
@given(st.floats(0, 719.5), st.sets(st.integers(0, 11), max_size=2))
def test_the_next_look_is_the_one_that_leaves_least(at: float, felt: set[int]) -> None:
    """By counting: what is left where each of the answers is true, weighed by how often it is."""
    places, rig = Places(BIRCH), BIRCH
    here = int(at / 0.5)
    seen = []
    for row in felt:
        name = rig.item_names[row]
        true = [look for look in MOTIONS if places.holds(Seen(look, name))[here]]
        seen.append(Seen([*true, Look.TIGHT][0], name))
    left = np.flatnonzero(places.left_by(seen))
    leaves = {}
    for name in rig.item_names:
        answers: Counter[str] = Counter()
        holds = {look: places.holds(Seen(look, name)) for look in MOTIONS}
        for place in left:
            told = [look.name for look in MOTIONS if holds[look][place]]
            answers[told[0] if told else "neither"] += 1
        leaves[name] = sum(n * n for n in answers.values()) / len(left) * 0.5
    look_next = places.next_look(seen)
    if len(left) <= 4 or min(leaves.values()) > len(left) * 0.5 - 1e-9:
        assert look_next is None
    else:
        assert look_next is not None
        question, degrees = look_next
        assert degrees == pytest.approx(min(leaves.values()))
        assert leaves[question.split()[1]] == pytest.approx(degrees)


def test_four_places_or_none_are_no_question() -> None:
    """Two degrees are near enough; signs that contradict one another leave none."""
    places = Places(BIRCH)
    assert places.next_look([Seen(Look.OPENING, "I1"), Seen(Look.CLOSING, "I1")]) is None
    assert places.arcs(np.ones(len(places.at_deg), dtype=bool)) == [(0.0, 720.0)]


def test_more_than_two_wrong_signs_are_too_many() -> None:
    places = Places(BIRCH)
    # One post each of five cylinders: whichever two are let go, three are left.
    doubt = places.doubt([Seen(Look.ROTOR, post) for post in "15362"])
    assert doubt is not None
    assert doubt.left_deg == 0.0
    assert doubt.words.startswith("More than two of them must be wrong.")


def test_a_cylinder_whose_intake_never_opens_never_squeezes() -> None:
    places = Places(Rig.of(never_opens()))
    assert not places.holds(Seen(Look.PRESSURE, "1")).any()
