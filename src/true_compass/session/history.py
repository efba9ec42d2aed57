"""What can be undone: one bounded history of edits and of ticks, which names its steps."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final

from true_compass.core.engine import Engine
from true_compass.session.work import Deed

if TYPE_CHECKING:
    from true_compass.book.job import Job
    from true_compass.core.degreeing.sheet import Sheet
    from true_compass.core.ignition.bay import Bay
    from true_compass.session.book import Learnt
    from true_compass.session.session import Owned

MOST_STEPS: Final = 200
Place = tuple[str, str]
"""A workspace by its word, and one of its pages."""
NOWHERE: Final[Place] = ("", "")


@dataclass(frozen=True, slots=True)
class Step:
    """One step. `words` complete "Undo …". The others are what was before and after.

    `owner` is the key of the engine that a step belongs to, `page` where it was made. `owned` is
    what stays behind where the engine becomes another one.
    """

    words: str
    engine: tuple[Engine, Engine] | None = None
    ticks: Mapping[Deed, tuple[str | None, str | None]] | None = None
    job: "tuple[Job, Job] | None" = None
    sheet: "tuple[Sheet, Sheet] | None" = None
    bay: "tuple[Bay, Bay] | None" = None
    learnt: "tuple[Learnt | None, Learnt | None] | None" = None
    owned: "tuple[Owned, Owned] | None" = None
    owner: str = ""
    page: Place = NOWHERE

    def back(self) -> "Step":
        """The step the other way round."""
        ticks = self.ticks
        return replace(
            self,
            engine=self.engine and (self.engine[1], self.engine[0]),
            ticks=ticks and {deed: (after, before) for deed, (before, after) in ticks.items()},
            job=self.job and (self.job[1], self.job[0]),
            sheet=self.sheet and (self.sheet[1], self.sheet[0]),
            bay=self.bay and (self.bay[1], self.bay[0]),
            learnt=self.learnt and (self.learnt[1], self.learnt[0]),
            owned=self.owned and (self.owned[1], self.owned[0]),
        )


Asks = Callable[[Step], bool]
"""Whether what a step belongs to is open."""


class History:
    """Steps that were done and those that were undone, the oldest forgotten first."""

    def __init__(self) -> None:
        self._done: list[Step] = []
        self._undone: list[Step] = []
        self._field = ""

    def undo_words(self, is_here: Asks) -> str:
        """What undo would take back, or nothing."""
        return self._words(self._done, is_here)

    def redo_words(self, is_here: Asks) -> str:
        """What redo would bring back, or nothing."""
        return self._words(self._undone, is_here)

    def undoes_edit(self, is_here: Asks) -> bool:
        """Whether undo would change the engine."""
        at = _last(self._done, is_here)
        return at is not None and self._done[at].engine is not None

    def redoes_edit(self, is_here: Asks) -> bool:
        """Whether redo would change the engine."""
        at = _last(self._undone, is_here)
        return at is not None and self._undone[at].engine is not None

    @staticmethod
    def _words(steps: list[Step], is_here: Asks) -> str:
        at = _last(steps, is_here)
        return "" if at is None else steps[at].words

    def add(self, step: Step, field: str = "") -> None:
        """Remember a step. Edits of one `field` after another are one: nobody undoes letters."""
        self._undone.clear()
        last = self._done[-1] if self._done else None
        if field and field == self._field and last and last.engine and step.engine:
            engine = (last.engine[0], step.engine[1])
            self._done[-1] = replace(last, engine=engine, owned=_joined(last, step))
        else:
            self._done.append(step)
            del self._done[:-MOST_STEPS]
        self._field = field

    def undo(self, is_here: Asks) -> Step | None:
        """The last step whose owner is here, the other way round, or None."""
        return self._go(self._done, self._undone, is_here, back=True)

    def redo(self, is_here: Asks) -> Step | None:
        """The step that was undone last, or None."""
        return self._go(self._undone, self._done, is_here, back=False)

    def _go(self, there: list[Step], here: list[Step], is_here: Asks, *, back: bool) -> Step | None:
        at = _last(there, is_here)
        if at is None:
            return None
        self._field = ""
        step = there.pop(at)
        here.append(step)
        return step.back() if back else step

    def rename(self, owner: str, new: str) -> None:
        """An engine was saved under another name: its steps go along."""
        for steps in (self._done, self._undone):
            steps[:] = [replace(s, owner=new) if s.owner == owner else s for s in steps]

    def forget(self) -> None:
        """Nothing can be undone any more."""
        self._done.clear()
        self._undone.clear()
        self._field = ""


def _last(steps: list[Step], is_here: Asks) -> int | None:
    """Where the last step stands whose owner is here."""
    return next((at for at in range(len(steps) - 1, -1, -1) if is_here(steps[at])), None)


def _joined(first: Step, then: Step) -> "tuple[Owned, Owned] | None":
    """What stayed behind over two steps that are one."""
    ends = [step.owned for step in (first, then) if step.owned is not None]
    return (ends[0][0], ends[-1][1]) if ends else None
