"""The bay: what can be made wrong of an ignition, what it does, and what a person notices."""

from dataclasses import replace

import pytest

from true_compass.core.ignition.bay import (
    BLANK,
    WRONGS,
    Bay,
    Standing,
    can_be_wrong,
    made_wrong,
    signs,
    what_is_wrong,
    wrongs_now,
)
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig, rig_names


def standing(name: str, bay: Bay = BLANK) -> Standing:
    return Standing.of(Rig.of(demo_rig(name)), bay)


def made(name: str, *slugs: str, turn: int = 0) -> Standing:
    return standing(name, made_wrong(demo_rig(name), slugs, turn))


@pytest.mark.parametrize("name", rig_names())
def test_everything_that_can_be_wrong_is_noticed(name: str) -> None:
    """Each alone, both ways: something is said to be wrong, and signs tell it or a reading does."""
    engine = demo_rig(name)
    rig = Rig.of(engine)
    for wrong in can_be_wrong(engine):
        for turn in (0, 1, 7):
            here = Standing.of(rig, made_wrong(engine, (wrong.slug,), turn))
            assert what_is_wrong(here), (name, wrong.slug)
            silent = wrong.slug in ("damper-crept", "body-moved")
            assert silent or len(signs(here)) > 1 or not here.runs, (name, wrong.slug)
    without = {wrong.slug for wrong in WRONGS} - {wrong.slug for wrong in can_be_wrong(engine)}
    assert ("rotor-tooth" in without) is not engine.has_rotor


@pytest.mark.parametrize("name", rig_names())
def test_what_is_wrong_now_is_read_off_the_engine_by_its_slug(name: str) -> None:
    """Each alone and all at once, a leak and a hose beside each other; nothing on a sound one."""
    engine = demo_rig(name)
    rig, slugs = Rig.of(engine), [wrong.slug for wrong in can_be_wrong(engine)]
    assert wrongs_now(Standing.of(rig, BLANK)) == ()
    for slug in slugs:
        for turn in (0, 1, 7):
            told = wrongs_now(Standing.of(rig, made_wrong(engine, (slug,), turn)))
            # With few leads two that are swapped are the order read backwards.
            same = engine.cylinder_count <= 4 and slug == "leads-swapped"
            assert told in {(slug,), *((("leads-reversed",),) if same else ())}
    # A crept ring was set by its mark, and a tooth hides a body that moved.
    both = [slug for slug in slugs if slug not in ("damper-crept", "body-moved", "leads-swapped")]
    assert wrongs_now(Standing.of(rig, made_wrong(engine, tuple(both), 1))) == tuple(both)


TOOTH_OF_13_DEG = 2 * 360 / 13
"""A tooth of a gear of 13, in crank degrees: the rotor goes half as far as the crank."""


@pytest.mark.parametrize(
    ("name", "slug", "turn", "early_deg", "meaning"),
    [
        ("birch", "rotor-tooth", 0, -TOOTH_OF_13_DEG, "right"),
        ("birch", "rotor-tooth", 1, TOOTH_OF_13_DEG, "right"),
        # The same tooth on a rotor that turns the other way.
        ("sycamore", "rotor-tooth", 0, TOOTH_OF_13_DEG, "right"),
        ("birch", "rotor-tooth", 2, -TOOTH_OF_13_DEG, "right"),
        ("birch", "body-moved", 0, 8.0, "right"),
        ("sycamore", "body-moved", 0, 8.0, "right"),
        ("sycamore", "body-moved", 1, -8.0, "right"),
        ("birch", "damper-crept", 0, -7.0, "right"),
        ("birch", "leads-reversed", 0, 0.0, "reversed"),
        ("birch", "leads-swapped", 0, 0.0, "swapped-1-5"),
        # Leads 3 and 2 of 1-5-3-6-2-4: not next to each other on the cap.
        ("birch", "leads-swapped", 8, 0.0, "swapped-2-3"),
        ("birch", "weights-stuck", 0, 0.0, "right"),
    ],
)
def test_what_each_does(name: str, slug: str, turn: int, early_deg: float, meaning: str) -> None:
    here = made(name, slug, turn=turn)
    assert here.fires_at_deg - here.wanted_deg == pytest.approx(early_deg)
    assert here.judged.meaning.slug == meaning
    assert here.bay.faults.weights_stuck is (slug == "weights-stuck")
    assert here.bay.hidden


def test_a_crank_turn_out_is_half_a_turn_of_the_rotor() -> None:
    for name in ("birch", "sycamore"):
        here = made(name, "rotor-turn")
        assert abs(here.fires_at_deg - here.wanted_deg) == pytest.approx(360.0)
        assert what_is_wrong(here) == ("The distributor is a crank turn out.",)
    # A tooth as well: it is still told as a turn, and as no second thing.
    both = made("birch", "rotor-turn", "rotor-tooth", turn=1)
    assert what_is_wrong(both)[0] == "The distributor is a crank turn out."


KICKS = ("Cranked", "The starter is kicked back.")
KNOCKS = ("Driven", "It knocks when it pulls hard.")
HOT = ("Driven", "Slow and hot, the exhaust glows.")
THIRSTY = ("Driven", "It drinks on a light throttle, and is fine wide open.")
RUNS = ("Cranked", "It starts and runs.")


@pytest.mark.parametrize(
    ("slug", "turn", "told"),
    [
        ("body-moved", 0, [RUNS, KICKS, KNOCKS]),
        ("body-moved", 1, [RUNS, HOT]),
        ("damper-crept", 0, [RUNS, HOT]),
        ("weights-stuck", 0, [RUNS, ("Driven", "It pulls well at idle and is flat above.")]),
        ("can-leaks", 0, [RUNS, THIRSTY]),
        ("hose-off", 0, [RUNS, THIRSTY, ("Heard", "A hiss at the manifold at idle.")]),
        (
            "leads-swapped",
            0,
            [
                ("Cranked", "It runs on 4 of 6, and shakes."),
                ("Heard", "It fires much too early: it kicks back."),
                ("Heard", "It fires late: weak and hot."),
            ],
        ),
        (
            # Companions 1 and 6 keep their spark; of the rest two fire into each open valve.
            "leads-reversed",
            0,
            [
                (
                    "Cranked",
                    "It does not start: only 2 of 6 get a spark on compression.",
                ),
                ("Heard", "A bang in the exhaust. On 2 cylinders."),
                ("Heard", "It spits back through the intake. On 2 cylinders."),
            ],
        ),
    ],
)
def test_signs_of_a_six(slug: str, turn: int, told: list[tuple[str, str]]) -> None:
    """What a person would tell of it (common practice, no source)."""
    found = signs(made("birch", slug, turn=turn))
    assert [(sign.where, sign.said) for sign in found] == told


@pytest.mark.parametrize(
    ("wired", "says", "runs"),
    [
        ((3, 1, 5, 6, 2, 4), "It runs on 3 of 6, and shakes.", True),
        ((3, 1, 5, 2, 6, 4), "It does not start: only 1 of 6 get a spark on compression.", False),
        ((0, 0, 0, 0, 0, 0), "It does not start.", False),
    ],
)
def test_half_of_it_runs_or_does_not_in_words_and_under_the_lamp(
    wired: tuple[int, ...], says: str, *, runs: bool
) -> None:
    here = standing("birch", Bay(wired=wired))
    assert signs(here)[0].said == says
    assert here.runs is runs


@pytest.mark.parametrize(("over_deg", "knocks"), [(1.5, False), (2.5, True)])
def test_too_much_wide_open_knocks_without_kicking_the_starter(
    over_deg: float, *, knocks: bool
) -> None:
    """The setting alone kicks; knocking comes of the total: 10 and 22 of the weights on Birch."""
    engine = demo_rig("birch")
    advance = replace(engine.spark.advance, most_wide_open_deg=32.0 - over_deg)
    tight = replace(engine, spark=replace(engine.spark, advance=advance))
    told = [(one.where, one.said) for one in signs(Standing.of(Rig.of(tight), BLANK))]
    assert (KNOCKS in told) is knocks
    assert KICKS not in told


def test_a_wiring_of_another_engine_counts_as_right() -> None:
    assert standing("birch", Bay(wired=(1, 2, 3))).judged.meaning.slug == "right"
    assert standing("birch", Bay(wired=(1, 1, 3, 6, 2, 4))).judged.meaning.slug == "right"
