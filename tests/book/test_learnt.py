"""What is learnt: hands, nuts, heat, push rods, witness marks; and the order of work."""

import itertools
import random
from datetime import date
from types import MappingProxyType

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from true_compass.book.brackets import Bracket
from true_compass.book.hand import hand_of, nut_shift_mm, nut_words
from true_compass.book.heat import checked_diff_mm, with_heat
from true_compass.book.job import ItemRecord, Job, Measure, Target, Witness
from true_compass.book.targets import targets_of
from true_compass.book.witness import check_witness, witness_words
from true_compass.book.work import (
    Verdict,
    headline,
    next_asked,
    to_set,
    totals,
    verdict,
    what_to_do,
)
from true_compass.core.adjusting.preload import plan_rods, plunger_change_mm, rod_words
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.items import Item, Kind, item_named
from true_compass.core.limits import EngineError
from true_compass.files.book_learnt import HotCold
from true_compass.files.rigs import demo_rig

# Hands -------------------------------------------------------------------------------------------


def test_a_hand_test_by_a_statistics_library() -> None:
    pairs = [(0.15, 0.16), (0.20, 0.19), (0.25, 0.27), (0.30, 0.30), (0.40, 0.43)]
    off = [measured - told for told, measured in pairs]
    found = hand_of(pairs, 0.0)
    assert found.bias_mm == pytest.approx(float(stats.tmean(off)))
    assert found.scatter_mm == pytest.approx(float(stats.tstd(off)))
    # An even spread over one step of the blades scatters step/√12 (SciPy's uniform).
    exact = hand_of([(n / 10, n / 10) for n in range(1, 6)], 0.05)
    assert exact.scatter_mm == pytest.approx(float(stats.uniform(scale=0.05).std()))
    with pytest.raises(EngineError, match="needs 5 gaps"):
        hand_of(pairs[:4], 0.0)


def test_what_the_nut_does_is_learnt_after_three_readings() -> None:
    assert nut_shift_mm([-0.02, -0.02]) is None
    assert nut_shift_mm([-0.02, -0.03, -0.02, 0.3]) == -0.02
    assert nut_shift_mm([0.001, 0.0, 0.002]) is None
    assert nut_words(-0.02, 0.25) == "Your nut closes it by 0.02 mm: hold the screw at 0.27 mm."
    assert nut_words(0.02, 0.25) == "Your nut opens it by 0.02 mm: hold the screw at 0.23 mm."


# Heat --------------------------------------------------------------------------------------------


def test_hot_targets_follow_from_what_was_measured_on_this_engine() -> None:
    cold = Target("E", False, 0.40, (0.35, 0.45))
    found = HotCold("h", "e", "E", checked_diff_mm(0.40, 0.33), 84.0, date(2026, 2, 1))
    hot = with_heat([cold, Target("I", False, 0.25, (0.2, 0.3))], [found], "measured")[2]
    assert (hot.of, hot.hot, hot.target_mm, hot.band_mm) == ("E", True, 0.33, (0.28, 0.38))
    # What a book gives is never replaced.
    assert with_heat([cold, hot], [found], "measured") == (cold, hot)
    with pytest.raises(EngineError, match="measure both again"):
        checked_diff_mm(0.2, 1.2)


# Push rods ---------------------------------------------------------------------------------------


def test_effects_of_rod_cut_and_stem() -> None:
    """Common practice, no source: rod and cut one to one, a stem h by h/R."""
    assert plunger_change_mm(rod_mm=0.5) == 0.5
    assert plunger_change_mm(head_cut_mm=0.2) == 0.2
    assert plunger_change_mm(stem_mm=0.3, ratio=1.5) == pytest.approx(0.2)


@given(
    values=st.lists(st.integers(0, 400), min_size=1, max_size=7),
    low=st.integers(0, 150),
    wide=st.integers(5, 200),
)
def test_no_length_serves_more_lifters(values: list[int], low: int, wide: int) -> None:
    """Against every group and every change of length in hundredths of a millimetre."""
    plungers = {Item(Kind.INTAKE, n + 1): value / 100 for n, value in enumerate(values)}
    window = (low / 100, (low + wide) / 100)
    plan = plan_rods(plungers, window)
    most = max(
        sum(low <= value + change <= low + wide for value in values) for change in range(-450, 451)
    )
    assert len(values) - len(plan.outliers) == most
    if plan.change_mm is not None:
        for change, value in itertools.product(plan.change_mm, plungers.values()):
            assert window[0] - 1e-9 <= value + change <= window[1] + 1e-9


def test_outliers_are_named() -> None:
    window, even = (0.5, 1.5), {Item(Kind.INTAKE, n): 1.0 for n in range(1, 8)}
    assert rod_words(plan_rods(even, window))[0] == "The rods that are in serve every lifter."
    odd = plan_rods({**even, item_named("E4"): 2.6}, window)
    assert odd.outliers == (item_named("E4"),)
    assert "stem heights first" in rod_words(odd)[1]


# Witness marks -----------------------------------------------------------------------------------


def test_marks_are_held_against_rod_lengths() -> None:
    marks = [
        Witness("E1", 3.2, 2.4, 8.0, 190.0),
        Witness("E1", 4.1, 1.9, 8.0, 191.0),
        Witness("E1", 4.8, 1.6, 8.0, 192.0),
    ]
    assert witness_words(marks)[-1] == ("Nearest to the middle with 191 mm, narrowest with 192 mm.")
    for wrong in (Witness("E1", 0.5, 2.0, 8.0), Witness("E1", 4.0, 9.0, 8.0)):
        with pytest.raises(EngineError, match=r"edge|width|tip"):
            check_witness(wrong)


# The order of work -------------------------------------------------------------------------------


def job_with(gaps: dict[str, str], rig: str = "birch") -> tuple[Job, list[Item]]:
    engine = demo_rig(rig)
    items = {}
    for name, text in gaps.items():
        low, _, high = text.partition("..")
        measure = Measure.mm(float(low))
        if high:
            measure = Measure(Bracket(float(low), float(high)), None, text)
        items[item_named(name)] = ItemRecord(measure)
    job = Job(
        "j",
        "e",
        "",
        date(2026, 1, 1),
        "",
        targets=targets_of(engine),
        items=MappingProxyType(items),
    )
    return job, [setting.item for setting in settings_of(engine)]


def test_both_ends_of_the_band_are_in_and_brackets_may_lie_across_one() -> None:
    job, _ = job_with({})
    target = job.target(item_named("I1"))
    for low, high, told in (
        (0.20, 0.20, Verdict.IN_BAND),
        (0.30, 0.30, Verdict.IN_BAND),
        (0.199, 0.199, Verdict.TIGHT),
        (0.31, 0.35, Verdict.WIDE),
        (0.25, 0.35, Verdict.OPEN),
    ):
        assert verdict(target, Measure(Bracket(low, high))) is told


def test_tight_ones_come_first_and_nothing_is_asked_twice() -> None:
    rng = random.Random(5)
    for _ in range(30):
        job, items = job_with({})
        for item in items:
            gap = round((0.25 if item.kind is Kind.INTAKE else 0.4) + rng.gauss(0, 0.06), 2)
            asked = next_asked(job, items)
            assert asked is not None
            assert (asked.item, asked.which) == (item, "found")
            job = job.with_item(item, ItemRecord(Measure.mm(max(gap, 0.0))))
        order = to_set(job, items)
        asked_for = []
        while (asked := next_asked(job, items)) is not None:
            asked_for.append((asked.item, asked.which))
            target = job.target(asked.item)
            assert target is not None
            record = job.record(asked.item)
            job = job.with_item(
                asked.item, record.with_reading(asked.which, Measure.mm(target.target_mm))
            )
        assert asked_for == [(i, which) for i in order for which in ("left", "after_nut")]
        told = totals(job, items)
        assert (told.in_band, told.measured) == (12, 12)
        assert headline(job, items).startswith(f"{12 - len(order)} of 12") or not order


def test_what_to_do_says_the_turn_the_shim_or_the_preload() -> None:
    job, _ = job_with({"I1": "0.33", "E1": "0.40", "I2": "0.25..0.35"})
    by_name = {setting.name: setting for setting in settings_of(demo_rig("birch"))}
    # M10×1 at the push-rod end, ratio 1.5: 1.5 mm a turn.
    assert what_to_do(by_name["I1"], job, -0.02) == [
        "0.08 mm (3.1 thou) too wide.",
        "Turn the screw 19° tighter, then measure again.",
        "Your nut closes it by 0.02 mm: hold the screw at 0.27 mm.",
    ]
    assert what_to_do(by_name["E1"], job) == ["In the accepted band, 0.35 to 0.45 mm: leave it."]
    assert "between" in what_to_do(by_name["I2"], job)[0]
    assert "as found" in what_to_do(by_name["E3"], job)[0]
    linden, _ = job_with({"I1": "0.10"}, "linden")
    shim = settings_of(demo_rig("linden"))[0]
    assert what_to_do(shim, linden)[1].startswith("A shim 0.10 mm thinner")
    cedar, _ = job_with({}, "cedar")
    lifter = settings_of(demo_rig("cedar"))[0]
    turned = cedar.with_item(lifter.item, ItemRecord(Measure(None, 1.5)))
    assert "turns" in what_to_do(lifter, turned)[0]
    target = cedar.target(lifter.item)
    assert target is not None
    assert target.per_turn_mm == pytest.approx(lifter.per_turn_mm)
    # Too few turns leave play: that is tight or wide as a gap would be.
    assert verdict(target, Measure(None, 0.0)) is Verdict.WIDE
