"""Which engine is which: what makes another engine of one, and what leaves it itself."""

from dataclasses import replace
from typing import Any

import pytest

from true_compass.core.changes import with_order
from true_compass.core.crank.makers import flat, inline, vee
from true_compass.core.engine import Engine, Mark
from true_compass.core.identity import changed_name, identity_mark, is_same_engine
from true_compass.files.rigs import demo_rig, rig_names

BIRCH = demo_rig("birch")


def with_intake(engine: Engine, **more: Any) -> Engine:
    return replace(engine, cam=replace(engine.cam, intake=replace(engine.cam.intake, **more)))


@pytest.mark.parametrize(
    "kept",
    [
        replace(BIRCH, name="Bench six"),
        with_intake(BIRCH, lash_mm=0.3),
        replace(BIRCH, marks=(Mark("pulley", 0.0, "T"),)),
        replace(BIRCH, train=replace(BIRCH.train, intake_ratio=1.6)),
        replace(BIRCH, rod_mm=190.0),
    ],
    ids=["name", "gap", "marks", "ratio", "rod"],
)
def test_what_is_set_named_or_measured_keeps_an_engine(kept: Engine) -> None:
    assert kept != BIRCH
    assert is_same_engine(BIRCH, kept)
    assert identity_mark(BIRCH) == identity_mark(kept)


@pytest.mark.parametrize(
    ("one", "other"),
    [
        (BIRCH, with_order(BIRCH, ((1,), (2,), (4,), (6,), (5,), (3,)))),
        (inline(5), inline(6)),
        (inline(4), flat(4)),
        (flat(4, numbering="across"), flat(4, numbering="along")),
        (inline(6, end="front"), inline(6, end="rear")),
        (vee(8, 90), vee(8, 60)),
    ],
    ids=["order", "count", "form", "numbering", "end", "bank angle"],
)
def test_another_layout_count_numbering_or_order_is_another_engine(
    one: Engine, other: Engine
) -> None:
    assert not is_same_engine(one, other)
    assert identity_mark(one) != identity_mark(other)
    assert is_same_engine(one, replace(one))


def test_every_rig_is_its_own_engine_or_shares_its_whole_layout_and_order() -> None:
    rigs = [demo_rig(name) for name in rig_names()]
    for one in rigs:
        for other in rigs:
            alike = one.layout == other.layout and one.firing_order == other.firing_order
            assert is_same_engine(one, other) == (alike and one.late == other.late)


def test_a_changed_engine_has_a_name_that_a_file_takes() -> None:
    assert changed_name("Rig Birch") == "Rig Birch, changed"
    assert len(changed_name("W" * 120)) == 120
    assert changed_name("W" * 120).endswith("W, changed")
