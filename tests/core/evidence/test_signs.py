"""Signs at a place, a turn along the rim, and what signs leave of the crank."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.adjusting.stops import Stop
from true_compass.core.evidence.rim import rim_words
from true_compass.core.evidence.signs import looks_at, signs_at, there_words
from true_compass.core.evidence.where import Look, Places, Seen
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

BIRCH = Rig.of(demo_rig("birch"))
LEVER: dict[str, Any] = {"thread": "M8x1", "intake_ratio": 1.5}


def test_signs_name_what_fools_them() -> None:
    looks = [sign.look for sign in signs_at(BIRCH, 240.0)]
    assert looks[0].startswith("the valves of 4 rock")
    assert any("rockers of 3 are loose" in look for look in looks)
    assert all(sign.fooled_by for sign in signs_at(BIRCH, 240.0))
    cedar = Rig.of(demo_rig("cedar"))
    marks = [sign for sign in signs_at(cedar, 360.0) if "damper" in sign.look]
    assert "twice a cycle" in marks[0].fooled_by
    assert "chalk it from TDC" in there_words(BIRCH, 35.0)
    assert there_words(BIRCH, 240.0) == f"{looks[0][0].upper()}{looks[0][1:]}."
    # What the school says already is not said again.
    assert there_words(BIRCH, 240.0, looks[0]) == f"{looks[1][0].upper()}{looks[1][1:]}."
    assert there_words(BIRCH, 35.0, "chalk") == ""


def test_a_stop_is_known_by_the_schools_own_sign_and_then_by_others() -> None:
    cedar = Rig.of(demo_rig("cedar"))
    looks = [sign.look for sign in signs_at(cedar, 0.0)]
    assert len(looks) >= 3
    for own, most, wanted in (
        ("", 1, looks[:1]),
        ("", 2, looks[:2]),
        ("by chalk", 1, ["by chalk", looks[0]]),
        (looks[0], 1, looks[:2]),
        (looks[0], 2, looks[:3]),
    ):
        assert looks_at(cedar, Stop(0.0, (), sign=own), most) == wanted


def test_a_turn_along_the_rim() -> None:
    # π·186·120/360 mm and 132·120/360 teeth: arithmetic.
    assert rim_words(BIRCH, 120.0) == "195 mm on the damper, 44 teeth"
    assert rim_words(Rig.of(demo_rig("alder")), 120.0) == ""


@given(st.floats(0, 719.9), st.integers(0, 11), st.integers(0, 11))
def test_what_is_truly_seen_never_excludes_where_the_crank_is(
    crank: float, first: int, second: int
) -> None:
    places = Places(BIRCH)
    here = int(crank / 0.5)
    seen = []
    for row in (first, second):
        name = BIRCH.item_names[row]
        for look in (Look.LOOSE, Look.TIGHT, Look.OPENING, Look.CLOSING):
            sign = Seen(look, name)
            if places.holds(sign)[here] and sign not in seen:
                seen.append(sign)
    left = places.left_by(seen)
    assert left[here]
    total = sum(length for _, length in places.arcs(left))
    assert total == pytest.approx(float(left.sum()) * 0.5)
    assert places.doubt(seen) is None
    coming = places.next_look(seen)
    if coming is not None:
        assert coming[1] <= total


def test_signs_of_the_trade_find_the_place() -> None:
    # "I3 closing, both of 5 loose": the six stands within a few arcs.
    places = Places(BIRCH)
    seen = [Seen(Look.CLOSING, "I3"), Seen(Look.LOOSE, "I5"), Seen(Look.LOOSE, "E5")]
    left = places.left_by(seen)
    own = (places.at_deg[left] - BIRCH.offsets_deg[2]) % 720
    # Intake 3 closes between its nose at 467.0 and 586.
    assert np.all((own > 460) & (own < 590))
    assert left.any()


def test_contradictory_signs_name_the_likely_fool() -> None:
    places = Places(BIRCH)
    seen = [Seen(Look.LOOSE, "I1"), Seen(Look.LOOSE, "E1"), Seen(Look.PRESSURE, "1")]
    assert places.doubt(seen) is None
    wrong = Seen(Look.ROTOR, "6")
    assert places.doubt([*seen, Seen(Look.OPENING, "I6"), wrong]) is not None
    assert places.doubt([Seen(Look.OPENING, "I1"), Seen(Look.CLOSING, "I1")]) is not None


def test_dots_and_marks_stand_where_the_file_says() -> None:
    rig = Rig.of(replace(demo_rig("cedar"), dots_fire=6))
    places = Places(rig)
    assert Seen(Look.DOTS, "meet") in places.looks()
    left = places.left_by([Seen(Look.DOTS, "meet")])
    assert places.arcs(left) == [(359.0, 2.5)]
    # A crank mark passes twice a cycle.
    mark = places.left_by([Seen(Look.MARK, rig.engine.marks[0].where)])
    assert len(places.arcs(mark)) == 2


def test_between_dead_centres_a_valve_that_begins_or_ends_to_lift_tells_the_place() -> None:
    """By the lifts alone, a quarter of a degree apart; nothing else is said to open or close."""
    crank_deg = np.arange(0.0, 720.0, 0.25)
    lifts = BIRCH.lobes.lift_mm(crank_deg) > 0
    for row, valve in enumerate(BIRCH.engine.valves):
        for change, word in ((1, "just opens"), (-1, "just closes")):
            turned = np.diff(lifts[row].astype(int), append=int(lifts[row, 0]))
            at_deg = float(crank_deg[int(np.flatnonzero(turned == change)[0])])
            looks = [sign.look for sign in signs_at(BIRCH, at_deg)]
            assert f"{valve.name} {word}" in looks
            for look in looks:
                if "just" in look:
                    other = BIRCH.item_names.index(look.split()[0])
                    near = np.abs((crank_deg - at_deg + 360.0) % 720.0 - 360.0) <= 3.25
                    assert 0 < lifts[other][near].sum() < near.sum()


def test_a_single_has_no_companion_and_tells_its_own_overlap() -> None:
    ash = Rig.of(demo_rig("ash"))
    firing, overlap = ([sign.look for sign in signs_at(ash, at)] for at in (0.0, 360.0))
    assert "both rockers of 1 are loose, and the rotor points to its post" in firing
    assert "the valves of 1 rock: overlap TDC" in overlap
    assert not any("rock:" in look for look in firing)
    assert not any("loose" in look for look in overlap)


def test_no_sign_is_told_twice_and_no_overlap_beside_a_cylinder_that_fires() -> None:
    for cylinder, tdc_deg in zip(
        BIRCH.engine.cylinders, BIRCH.true_offsets_deg.tolist(), strict=True
    ):
        looks = [sign.look for sign in signs_at(BIRCH, tdc_deg)]
        assert len(looks) == len(set(looks))
        assert not any("overlap TDC" in look or "fully open" in look for look in looks)
        assert any(f"both rockers of {cylinder} are loose" in look for look in looks)


@pytest.mark.parametrize("rig", ["magnolia", "holly", "acacia"])
def test_a_degree_scale_shows_the_nominal_tdc_and_how_far_off_the_true_one_is(rig: str) -> None:
    off = Rig.of(demo_rig(rig))
    for row, nominal_deg in enumerate(off.offsets_deg.tolist()):
        away = (float(off.true_offsets_deg[row]) - nominal_deg + 360.0) % 720.0 - 360.0
        told = [s.look for s in signs_at(off, nominal_deg) if f"TDC of {row + 1}," in s.look]
        words = f"{away:.1f}° on" if away > 0 else f"{-away:.1f}° before"
        assert [look.endswith(f"true TDC is {words}") for look in told] == (
            [True] if abs(away) > 0.5 else []
        )
