import numpy as np
import pytest
from hypothesis import given, settings

from tests.strategies import engines
from true_compass.core.engine import Engine
from true_compass.core.events import changes, next_place, valve_events
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig

MICRO_DEGREE = 1e-6


def test_changes_of_a_known_step_function() -> None:
    edges = np.array([17.25, 300.0, 719.5])
    found = changes(lambda at: np.searchsorted(edges, at[None, :], side="right"), 4.0)
    assert [change.crank_deg for change in found] == pytest.approx(edges, abs=2 * MICRO_DEGREE)
    assert [change.after for change in found] == [1, 2, 3]


@settings(max_examples=30)
@given(engines())
def test_every_event_solves_back_to_the_number_that_was_entered(engine: Engine) -> None:
    rig = Rig.of(engine)
    found = {event.words: event.crank_deg for event in valve_events(rig)}
    assert len(found) == 4 * engine.cylinder_count
    for cylinder, offset in zip(engine.cylinders, rig.offsets_deg, strict=True):
        cam = engine.cam
        expected = {
            f"I{cylinder} opens": 360 - cam.intake.opens_before_deg,
            f"I{cylinder} closes": 540 + cam.intake.closes_after_deg,
            f"E{cylinder} opens": 180 - cam.exhaust.opens_before_deg,
            f"E{cylinder} closes": 360 + cam.exhaust.closes_after_deg,
        }
        for words, cycle_deg in expected.items():
            away = (found[words] - offset - cycle_deg + 360) % 720 - 360
            assert abs(away) < 0.01, words


def test_events_come_in_running_order() -> None:
    events = valve_events(Rig.of(demo_rig("birch")))
    angles = [event.crank_deg for event in events]
    assert angles == sorted(angles)
    # Cylinder 4 is in overlap at 240°, so its exhaust valve closes 10° on.
    coming = events[next_place(angles, 240.0)]
    assert (coming.words, round(coming.crank_deg, 3)) == ("E4 closes", 250.0)


@pytest.mark.parametrize(
    ("here", "back", "index"),
    [(10.0, False, 1), (0.0, False, 1), (700.0, False, 0), (0.0, True, 2), (250.0, True, 1)],
)
def test_the_next_place_is_never_the_one_underfoot(here: float, back: bool, index: int) -> None:
    assert next_place([0.0, 240.0, 480.0], here, back=back) == index
