"""The timing lamp: what its readings say of each suspect, and what to read next."""

import random

import pytest
from tests.generators.lamp import RIGS, lamp_run, seen

from true_compass.core.ignition.lamp import (
    SOUND,
    Faults,
    How,
    Reading,
    Says,
    Suspect,
    found,
    should_read_deg,
    usual_row,
    would_read_deg,
)
from true_compass.core.spark import Advance
from true_compass.files.rigs import demo_rig

FAULTS = [
    (Faults(off_deg=-6.0), (Suspect.SETTING,)),
    (Faults(weights_stuck=True), (Suspect.WEIGHTS,)),
    (Faults(can_leaks=True), (Suspect.CAN,)),
    (Faults(hose_off=True), (Suspect.HOSE,)),
]


@pytest.mark.parametrize(("faults", "left"), FAULTS)
@pytest.mark.parametrize("name", ["birch", "cedar", "sycamore"])
def test_the_usual_row_leads_to_each_fault(
    name: str, faults: Faults, left: tuple[Suspect, ...]
) -> None:
    advance = demo_rig(name).spark.advance
    row = usual_row(advance)
    readings = [Reading(one, would_read_deg(advance, one, faults)) for one in row]
    result = found(advance, readings)
    assert result.left == left
    assert result.next_row is None
    assert all(row.read is not None for row in result.rows)


def test_one_reading_at_a_time_and_the_row_that_tells_most() -> None:
    advance = demo_rig("birch").spark.advance
    row = usual_row(advance)
    start = found(advance, [])
    assert start.headline == "Take the readings in their order"
    assert start.next_row == 0
    leak = [Reading(one, would_read_deg(advance, one, FAULTS[2][0])) for one in row]
    two = found(advance, leak[:3])
    assert two.headline == "Two are left: the can leaks, or its hose does"
    assert two.rows[two.next_row or 0].asked.how is How.PUMP
    sound = [Reading(one, would_read_deg(advance, one, Faults())) for one in row]
    assert found(advance, sound).headline == "Everything is as it should be"
    # Too much with the hose on alone fits nothing that is known.
    odd = [*sound[:2], Reading(row[2], 60.0)]
    assert found(advance, odd).headline == "Two faults, or misread: take 1 again"


def test_a_damper_that_crept_before_it_was_set_is_seen_by_the_piston_stop_alone() -> None:
    advance = demo_rig("birch").spark.advance
    crept = Faults(off_deg=-5.0, crept_deg=5.0)
    readings = [Reading(one, would_read_deg(advance, one, crept)) for one in usual_row(advance)]
    result = found(advance, readings)
    assert [row.read == row.should for row in result.rows] == [True, True, True, True, False]
    assert result.left == (Suspect.DAMPER,)
    # One that crept since reads too much everywhere, as a wrong setting does.
    since = Faults(crept_deg=6.0)
    both = [Reading(one, would_read_deg(advance, one, since)) for one in usual_row(advance)]
    assert found(advance, both[:2]).left == (Suspect.SETTING, Suspect.DAMPER)


ALIKE = " A lamp never parts these two: only two TDC readings do."
SHORT, OVER = (f"At 750 rpm, hose off, it is 6.0° {way}." for way in ("short", "over"))
SETTING_OR_DAMPER = "Two are left: the setting is wrong, or the damper has crept"


@pytest.mark.parametrize(
    ("faults", "taken", "headline", "below", "following"),
    [
        (Faults(), 1, "1 reading is as it should be", "4 suspects are not ruled out yet.", 1),
        (Faults(), 2, "2 readings are as they should be", "3 suspects are not ruled out yet.", 2),
        # The pump is for a can that is suspected: on a sound one the piston stop is next.
        (Faults(), 3, "3 readings are as they should be", "1 suspect is not ruled out yet.", 4),
        (
            Faults(off_deg=-6.0),
            1,
            SETTING_OR_DAMPER,
            SHORT + ALIKE,
            1,
        ),
        (
            Faults(off_deg=6.0),
            1,
            SETTING_OR_DAMPER,
            OVER + ALIKE,
            1,
        ),
        (
            Faults(off_deg=6.0),
            3,
            SETTING_OR_DAMPER,
            OVER + ALIKE,
            4,
        ),
        (
            # Half of the 22° of the weights.
            Faults(weights_stuck=True),
            2,
            "The weights are stuck",
            "At 2,800 rpm, hose off, it is 11.0° short.",
            2,
        ),
        (
            Faults(off_deg=-5.0, crept_deg=5.0),
            5,
            "The damper has crept",
            "The mark is met 5.0° after true TDC.",
            None,
        ),
    ],
)
def test_the_row_step_by_step(
    faults: Faults, taken: int, headline: str, below: str, following: int | None
) -> None:
    advance = demo_rig("birch").spark.advance
    row = usual_row(advance)[:taken]
    result = found(advance, [Reading(one, would_read_deg(advance, one, faults)) for one in row])
    assert (result.headline, result.below) == (headline, below)
    assert result.next_row == following


def test_an_advance_without_a_can_has_no_hose_to_pull() -> None:
    bare = Advance(8.0, ((900.0, 0.0), (3200.0, 24.0)))
    assert found(bare, []).below == "Idle first, below the weights where there are any."
    assert all(one.how is not How.PUMP and not one.hose_on for one in usual_row(bare))


def test_two_degrees_off_is_off_and_less_is_reading() -> None:
    """A lamp is read to a degree or two (common practice, no source)."""
    advance = demo_rig("birch").spark.advance
    first = usual_row(advance)[0]
    for off, is_off in ((1.5, False), (2.5, True), (-2.5, True)):
        head = found(advance, [Reading(first, 10.0 + off)]).headline
        assert head.startswith("Two are left") is is_off


def test_cedar_set_early_does_not_accuse_the_damper() -> None:
    """Set 2.5° early and read by an eye that scatters by a degree: neither of two is ruled out."""
    advance = demo_rig("cedar").spark.advance
    row = usual_row(advance)[:2]
    should = [should_read_deg(advance, one) for one in row]
    read = [should[0] + 1.6, should[1] + 2.7]
    told = found(advance, [Reading(one, deg) for one, deg in zip(row, read, strict=True)])
    assert told.left == (Suspect.SETTING, Suspect.DAMPER)


def test_what_is_really_wrong_is_never_ruled_out() -> None:
    for seed in range(400):
        run = lamp_run(random.Random(seed))
        told = found(run.advance, run.readings)
        column = told.suspects.index(run.suspect)
        assert all(row.says[column] is not Says.RULED_OUT for row in told.rows), seed
        assert run.suspect in told.left or not any(row.off for row in told.rows), seed


def test_a_sound_engine_is_not_accused() -> None:
    for seed in range(100):
        chance = random.Random(seed)
        advance = demo_rig(chance.choice(RIGS)).spark.advance
        readings = seen(chance, advance, SOUND, usual_row(advance))
        assert not found(advance, readings).left, seed
