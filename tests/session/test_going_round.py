"""A round by a plan: everything is ticked once, and the next stop is the next one with work."""

import pytest

from true_compass.core.adjusting.comparison import compare
from true_compass.core.adjusting.schools import BY_WORD, USUAL
from true_compass.core.adjusting.setting import settings_of
from true_compass.core.items import item_named
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.session.going_round import Round
from true_compass.session.work import FRESH, LEFT, OFF, SET, SKIPPED, Deed, Work

BIRCH = Rig.of(demo_rig("birch"))
TWO = Round.of(BIRCH.engine, BY_WORD["two-stop"].plan(BIRCH, USUAL), FRESH)


def at(place: int, **ticks: str) -> Round:
    """Two stops on the six with some ticks, worked at one of them."""
    done: dict[Deed, str | None] = {item_named(name): how for name, how in ticks.items()}
    return TWO.having(Work(place=place).with_done(done))


@pytest.mark.parametrize("name", rig_names())
def test_every_adjuster_is_ticked_once_by_every_safe_plan(name: str) -> None:
    rig = Rig.of(demo_rig(name))
    for row in compare(rig):
        if row.plan is None or not row.safe:
            continue
        round_ = Round.of(rig.engine, row.plan, FRESH)
        items = [deed for deed in round_.deeds if not isinstance(deed, int)]
        quarters = [deed for deed in round_.deeds if isinstance(deed, int)]
        assert sorted(item.name for item in items) == sorted(
            setting.name for setting in settings_of(rig.engine)
        )
        # A sweep takes up what is loose at each of its stops, and ends with the preload on all.
        assert quarters == (list(range(1, len(row.plan.stops) + 1)) if row.plan.swept else [])
        assert len(round_.stops) == len(row.plan.stops) + bool(row.plan.swept)


def test_a_round_is_finished_when_each_was_seen_to_one_way_or_another() -> None:
    hows = (SET, LEFT, SKIPPED, OFF)
    work, round_ = FRESH, TWO
    for count, deed in enumerate(TWO.deeds):
        assert (round_.seen_to, round_.finished) == (count, False)
        work = work.with_done({deed: hows[count % 4]})
        round_ = TWO.having(work)
    assert round_.finished
    assert round_.next_place is None
    assert round_.next_setting is None
    assert [item.name for item in round_.to_set] == [
        deed.name for deed in TWO.deeds[3::4] if not isinstance(deed, int)
    ]


def test_the_next_stop_is_the_next_one_with_work_and_then_the_ones_before() -> None:
    assert [item.item.name for item in TWO.stops[0].items] == ["I1", "E1", "I2", "E3", "I4", "E5"]
    first = dict.fromkeys(("I1", "E1", "I2", "E3", "I4"), SET)
    assert at(0).next_place == 1
    assert at(1).next_place == 0
    assert at(1, **first).next_place == 0
    done = at(1, **first, E5=SKIPPED)
    assert done.next_place == 1
    assert done.stop is TWO.stops[1]
    assert done.next_setting is not None
    assert done.next_setting.name == done.settings[0].name == "E2"
    assert at(7).stop is TWO.stops[1]


def test_nuts_were_touched_only_where_something_was_set() -> None:
    assert not at(0, I1=LEFT, E1=OFF, I2=SKIPPED).set_any
    assert at(0, I1=LEFT, E6=SET).set_any


def test_without_a_safe_plan_there_is_no_stop() -> None:
    none = Round.of(BIRCH.engine, None, FRESH)
    assert (none.stops, none.deeds, none.settings, none.finished) == ((), [], [], False)
    assert (none.stop, none.next_setting, none.next_item, none.next_place) == (None,) * 4
    assert len(none.settings_at(item_named("I3"))) == 1


def test_a_tick_of_both_valves_holds_for_each_of_them() -> None:
    maple = Rig.of(demo_rig("maple"))
    plan = BY_WORD["two-stop"].plan(maple, USUAL)
    work = FRESH.with_done({item_named("I1"): SET, item_named("E1a"): SET})
    round_ = Round.of(maple.engine, plan, work)
    assert round_.seen_to == 3
    assert round_.next_setting is not None
    assert round_.next_setting.name == "E1b"
    assert round_.next_item is not None
    assert round_.next_item.name == "E1"
