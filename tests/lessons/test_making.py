"""What is checked before a lesson goes out: each question is answered, what cannot be is named."""

from dataclasses import replace

import pytest

from true_compass.files.rigs import demo_rig
from true_compass.lessons.drill import Asked, AskError, Drill
from true_compass.lessons.drills import drill_of
from true_compass.lessons.forms import Answer
from true_compass.lessons.lesson import Lesson, LessonEngine, PartProblem, Settings
from true_compass.lessons.making import (
    SETS_TRIED,
    Checked,
    changed,
    checked,
    counted_part,
    drill_part,
)


def lesson(seed: int = 1) -> Lesson:
    """Two drills on one engine."""
    parts = (drill_part("companion", "Birch"), drill_part("fires-next", "Birch"))
    engines = (LessonEngine("Birch", demo_rig("birch"), "birch"),)
    return Lesson("made", "Made", "", engines, parts, Settings(same=True, seed=seed))


def tried(found: Checked) -> int:
    """How many questions it says it tried."""
    assert found.can_go_out
    told = next(line for line in found.good if " tried, " in line)
    return int(told.split(": ")[1].split()[0])


def test_many_sets_are_tried_and_always_that_which_goes_out() -> None:
    made = lesson()
    assert tried(checked(made, {})) == SETS_TRIED * made.asked_count
    own = lesson(seed=500)
    assert tried(checked(own, {})) == (SETS_TRIED + 1) * own.asked_count


def test_a_part_that_changed_is_tried_again() -> None:
    made = lesson()
    before = tried(checked(made, {}))
    more = changed(made, 1, counted_part(drill_part("fires-next", "Birch"), 1))
    assert tried(checked(more, {})) == before + SETS_TRIED


@pytest.mark.parametrize(
    ("given", "told"),
    [
        (None, "the engine has gone"),
        (99, "the answer must be one of 1, 2, 3, 4, 5, 6, 7, 8, not 99"),
    ],
)
def test_what_cannot_be_answered_is_named(
    monkeypatch: pytest.MonkeyPatch, given: int | None, told: str
) -> None:
    """An eight that a drill cannot answer, in place of a six that it could."""
    drill = drill_of("fires-next")
    answer = type(drill).answer

    def of_eights(self: Drill, q: Asked) -> Answer:
        if q.engine.cylinder_count != 8:
            return answer(self, q)
        if given is None:
            raise AskError("the engine has gone")
        return given

    monkeypatch.setattr(type(drill), "answer", of_eights)
    # Sets of their own: what was tried before is not tried again.
    made = lesson(seed=700 + bool(given))
    assert checked(made, {}).can_go_out
    made = replace(made, engines=(LessonEngine("Birch", demo_rig("cedar"), "cedar"),))
    sentence = f"{drill.title} on Birch cannot be answered: {told}"
    assert checked(made, {}).bad == (PartProblem(1, sentence),)
