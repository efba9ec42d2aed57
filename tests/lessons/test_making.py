"""What is checked before a lesson goes out: each question is answered, what cannot be is named."""

from dataclasses import replace

import pytest

from true_compass.files.rigs import demo_rig
from true_compass.lessons.drill import Asked, AskError
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
    other = replace(made, engines=(LessonEngine("Birch", demo_rig("cedar"), "cedar"),))
    assert tried(checked(other, {})) == before


@pytest.mark.parametrize("told", ["refused", "wrong"])
def test_what_cannot_be_answered_is_named(monkeypatch: pytest.MonkeyPatch, told: str) -> None:
    """A drill that refuses its own question, or whose answer is not taken as right."""
    drill = drill_of("fires-next")

    def answer(self: object, q: Asked) -> Answer:
        del self, q
        if told == "refused":
            raise AskError("the engine has gone")
        return 0

    seed = 700 + len(told)  # Sets of their own: what was tried before is not tried again.
    monkeypatch.setattr(type(drill), "answer", answer)
    found = checked(lesson(seed), {})
    assert not found.can_go_out
    (problem,) = found.bad
    assert isinstance(problem, PartProblem)
    assert problem.part == 1
    assert problem.sentence.startswith(f"{drill.title} on Birch cannot be answered: ")
