"""What a wrong item does is a value: how it is worded changes nothing on the engine."""

import pytest

from tests.bench.hands import Hands
from true_compass.bench.consequence import Consequence, Effect, consequence
from true_compass.bench.covered import Covered
from true_compass.bench.gaps import heel_values_mm
from true_compass.bench.running import report_of
from true_compass.bench.scenario import ItemSaid, Said, Scenario
from true_compass.bench.state import first_state
from true_compass.bench.tasks import Task
from true_compass.core.adjusting.setting import settings_of
from true_compass.files.rigs import demo_rig


def left_so(rig: str, item: str, value_mm: float) -> Hands:
    """An engine of which all is right but one item."""
    names = [setting.name for setting in settings_of(demo_rig(rig))]
    good = {s.name: sum(s.band_mm) / 2 for s in settings_of(demo_rig(rig))}
    items = tuple(ItemSaid(n, value_mm if n == item else good[n]) for n in names)
    return Hands(rig, task=Task.FREE, said=Said(start_deg=50.0, slack_open=False, items=items))


@pytest.mark.parametrize(
    ("rig", "item", "value_mm", "effect", "pulls", "ticks"),
    [
        ("hickory", "I1 bridge", 0.08, Effect.ONE_OPENS_LATE, "well", False),
        ("hickory", "I1 bridge", -0.08, Effect.ONE_HANGS, "weakly", False),
        ("birch", "E3", 0.0, Effect.HELD_OPEN, "weakly", False),
        ("birch", "E3", 0.6, Effect.TICKS, "well", True),
        ("cedar", "I4", -0.1, Effect.HAS_PLAY, "well", True),
    ],
)
def test_one_wrong_item_runs_so(
    rig: str, item: str, value_mm: float, effect: Effect, pulls: str, ticks: bool
) -> None:
    hands = left_so(rig, item, value_mm)
    work = hands.run.work
    setting = work.settings[work.place[item]]
    assert consequence(setting, value_mm).effect is effect
    report = report_of(work, hands.run.state)
    assert report.pulls == pulls
    assert any("ticks" in sound and item in sound for sound in report.sounds) is ticks


@pytest.mark.parametrize("rig", ["birch", "cedar", "hickory"])
def test_other_words_are_the_same_engine(rig: str, monkeypatch: pytest.MonkeyPatch) -> None:
    faults = [Scenario(demo_rig(rig), task=Task.FREE, seed=seed, hardness=5) for seed in range(3)]
    set_wrong = Scenario(
        demo_rig(rig), task=Task.PRELOAD if rig == "cedar" else Task.SET, hardness=5
    )
    works = [Covered.of(scenario) for scenario in [*faults, set_wrong]]
    before = [report_of(work, first_state(work)) for work in works]
    monkeypatch.setattr(Consequence, "words", property(lambda _self: "ticks, open, held open"))
    assert [report_of(work, first_state(work)) for work in works] == before


def test_a_look_is_judged_by_its_value_not_its_words() -> None:
    hands = Hands("birch")
    hands.go_to(5.0)
    hands.do("feeler", item="I1", blade_mm=0.25)
    hands.do("look", at="marks")
    hands.do("rock", deg=10.0)
    feeler, marks, rock = hands.run.state.seen[-3:]
    assert feeler.fact.mm == 0.25
    assert marks.fact[0] == "past"
    # 6 is the companion of 1: at 5° its two valves tilt.
    assert {"I6", "E6"} <= set(rock.fact)


def test_the_heel_decides() -> None:
    """A rocker over a bridge that is 0.03 mm out stands 0.015 mm wider, as `docs/bench.md` says."""
    hands = left_so("hickory", "I1 bridge", 0.03)
    work = hands.run.work
    values = heel_values_mm(work, hands.run.state)
    own = work.condition.items[work.place["I1"]].value_mm
    assert values[work.place["I1"]] == pytest.approx(own + 0.015)
