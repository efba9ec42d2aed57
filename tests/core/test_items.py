"""Items: names are made and read in one place; what is set at a rocker stays together."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.adjusting.comparison import compare
from true_compass.core.items import ExtraKind, Item, Kind, Part, item_named
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.core.valves.cam import ExtraLobe
from true_compass.files.rigs import demo_rig

valves = st.builds(
    Item, st.sampled_from(Kind), st.integers(1, 18), st.sampled_from(Part), st.integers(0, 4)
)
extras = st.builds(Item, st.sampled_from(ExtraKind), st.integers(1, 18))


@given(valves | extras)
def test_a_name_reads_back_as_the_item(item: Item) -> None:
    assert item_named(item.name) == item


@pytest.mark.parametrize("name", ["", "I", "I0", "X1", "I1 ", "i1", "I123", "I1e", "I1 lid", "１"])
def test_what_is_no_name_is_said(name: str) -> None:
    with pytest.raises(EngineError, match="must be a name such as I1"):
        item_named(name)


def test_single_valves_of_a_kind_are_counted_from_the_front() -> None:
    assert [one.name for one in Item(Kind.INTAKE, 3).singles(2)] == ["I3a", "I3b"]
    assert {one.rocker for one in Item(Kind.INTAKE, 3).singles(2)} == {Item(Kind.INTAKE, 3)}


@pytest.mark.parametrize("lobe", [True, False])
def test_a_brake_follows_its_exhaust_rocker_at_the_same_stop_and_injectors_come_last(
    lobe: bool,
) -> None:
    engine = demo_rig("hickory")
    if not lobe:
        riding = tuple(
            ExtraLobe(e.kind, lash_mm=0.6) if e.kind is ExtraKind.BRAKE else e
            for e in engine.cam.extras
        )
        engine = replace(engine, cam=replace(engine.cam, extras=riding))
    rig = Rig.of(engine)
    for row in compare(rig):
        for stop in row.plan.stops if row.plan else ():
            items = [due.item for due in stop.items]
            for place, item in enumerate(items):
                if item.kind is ExtraKind.BRAKE:
                    assert items[place - 1] == Item(Kind.EXHAUST, item.cylinder), row.school.word
                if item.kind is ExtraKind.INJECTOR:
                    assert all(other.kind is ExtraKind.INJECTOR for other in items[place:])
    if not lobe:
        # It rides on the exhaust rocker: its arcs are that rocker's.
        for cylinder in engine.cylinders:
            brake, exhaust = Item(ExtraKind.BRAKE, cylinder), Item(Kind.EXHAUST, cylinder)
            assert rig.item_arcs_deg[brake] == rig.item_arcs_deg[exhaust]


def test_only_a_brake_can_do_without_a_lobe() -> None:
    engine = demo_rig("hickory")
    with pytest.raises(EngineError, match="only a brake can ride"):
        replace(engine, cam=replace(engine.cam, extras=(ExtraLobe(ExtraKind.INJECTOR),)))
