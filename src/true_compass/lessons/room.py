"""A question for a whole room: a few lettered answers, and how many hands went up for each."""

from dataclasses import dataclass, field
from typing import Final

from true_compass.lessons.drill import Asked, Draw, Drill
from true_compass.lessons.drills import drill_of
from true_compass.lessons.forms import (
    Answer,
    Choice,
    Figure,
    Form,
    Place,
    Slots,
    Ticks,
    TwoLists,
)

LETTERS: Final = "ABCDEFGHI"
USUAL: Final = 4
MOST_HANDS: Final = 999


@dataclass(frozen=True, slots=True)
class Lettered:
    """One of the answers: its value and its words."""

    value: Answer
    words: str


@dataclass(frozen=True, slots=True)
class RoomQuestion:
    """A question with its lettered answers, one of which is right."""

    q: Asked
    drill: Drill
    answers: tuple[Lettered, ...]
    right: int

    @property
    def text(self) -> str:
        """What is asked."""
        return self.drill.text(self.q)


def room_question(q: Asked, seed: int) -> RoomQuestion | None:
    """A question for a room; None for one that is answered by turning or at the bench."""
    drill = drill_of(q.question.kind)
    form = drill.form(q)
    if not drill.on_paper or isinstance(form, Place):
        return None
    right = form.read(drill.answer(q))
    draw = Draw(seed, 0)
    if isinstance(form, Choice):
        options = [option for option in form.options if option.value != right]
        more = draw.some("others", options, len(LETTERS) - 1 if len(options) < 9 else USUAL - 1)
        values = [right, *(option.value for option in more)]
        ordered = [o.value for o in form.options if any(_same(o.value, v) for v in values)]
    else:
        values = [right, *_wrong(form, right, drill.slips(q), draw)]
        ordered = list(draw.some("turn", values, len(values)))
    if len(ordered) < 2:
        return None
    answers = tuple(Lettered(value, form.words(value)) for value in ordered)
    place = next(nth for nth, value in enumerate(ordered) if _same(value, right))
    return RoomQuestion(q, drill, answers, place)


def _same(one: Answer, other: Answer) -> bool:
    return type(one) is type(other) and one == other


def _wrong(form: Form, right: Answer, slips: list[Answer], draw: Draw) -> list[Answer]:
    """Three wrong answers: what people say first, then answers near the right one."""
    found: list[Answer] = []
    near = (_near(form, right, draw.again(n)) for n in range(40))
    for value in (*(form.read(slip) for slip in slips), *near):
        wrong = not form.marks(right, value).is_full
        if wrong and value not in found and form.words(value) != form.words(right):
            found.append(value)
        if len(found) == USUAL - 1:
            break
    return found


def _near(form: Form, right: Answer, draw: Draw) -> Answer:
    """An answer a little beside the right one."""
    if isinstance(form, Figure):
        by = max(abs(right) * 0.2, 4.0 * form.within) * draw.one("by", (-2, -1, 1, 2, 3))
        return float(round(right + by, form.digits))
    if isinstance(form, Ticks):
        name = draw.one("name", form.names)
        changed = set(right) ^ {name, draw.one("other", form.names)}
        return tuple(n for n in form.names if n in changed)
    if isinstance(form, TwoLists):
        name = draw.one("name", form.names)
        first = set(right[0]) ^ {name}
        return (
            tuple(n for n in form.names if n in first),
            tuple(n for n in form.names if n not in first),
        )
    assert isinstance(form, Slots)
    one, other = draw.some("swap", form.blanks, 2) if len(form.blanks) > 1 else (0, 0)
    row = list(right)
    row[one], row[other] = row[other], row[one]
    return tuple(row)


@dataclass(frozen=True, slots=True)
class Hands:
    """How many hands went up for each answer, as they are typed in."""

    counts: tuple[int, ...] = field(default_factory=tuple)
    at: int = 0

    @staticmethod
    def none(answers: int) -> "Hands":
        """No hand yet."""
        return Hands((0,) * answers)

    def to(self, place: int) -> "Hands":
        """Another answer is counted."""
        return Hands(self.counts, min(max(place, 0), len(self.counts) - 1))

    def typed(self, digit: int) -> "Hands":
        """A digit more of the count of this answer.

        >>> Hands.none(2).typed(1).typed(2).to(1).typed(7).counts
        (12, 7)
        """
        counts = list(self.counts)
        counts[self.at] = min(counts[self.at] * 10 + digit, MOST_HANDS)
        return Hands(tuple(counts), self.at)

    def cleared(self) -> "Hands":
        """The count of this answer is nothing again."""
        counts = list(self.counts)
        counts[self.at] = 0
        return Hands(tuple(counts), self.at)
