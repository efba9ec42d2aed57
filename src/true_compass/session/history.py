"""What can be undone: one bounded history of edits and of ticks, which names its steps."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final

from true_compass.core.engine import Engine
from true_compass.session.work import Deed

if TYPE_CHECKING:
    from true_compass.book.job import Job
    from true_compass.core.degreeing.sheet import Sheet
    from true_compass.core.ignition.bay import Bay

MOST_STEPS: Final = 200


@dataclass(frozen=True, slots=True)
class Step:
    """One step. `words` complete "Undo …". The others are what was before and after."""

    words: str
    engine: tuple[Engine, Engine] | None = None
    ticks: Mapping[Deed, tuple[str | None, str | None]] | None = None
    job: "tuple[Job, Job] | None" = None
    sheet: "tuple[Sheet, Sheet] | None" = None
    bay: "tuple[Bay, Bay] | None" = None

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
        )


class History:
    """Steps that were done and those that were undone, the oldest forgotten first."""

    def __init__(self) -> None:
        self._done: list[Step] = []
        self._undone: list[Step] = []
        self._field = ""

    @property
    def undo_words(self) -> str:
        """What undo would take back, or nothing."""
        return self._done[-1].words if self._done else ""

    @property
    def redo_words(self) -> str:
        """What redo would bring back, or nothing."""
        return self._undone[-1].words if self._undone else ""

    @property
    def undoes_edit(self) -> bool:
        """Whether undo would change the engine."""
        return bool(self._done) and self._done[-1].engine is not None

    @property
    def redoes_edit(self) -> bool:
        """Whether redo would change the engine."""
        return bool(self._undone) and self._undone[-1].engine is not None

    def add(self, step: Step, field: str = "") -> None:
        """Remember a step. Edits of one `field` after another are one: nobody undoes letters."""
        self._undone.clear()
        last = self._done[-1] if self._done else None
        if field and field == self._field and last and last.engine and step.engine:
            self._done[-1] = replace(last, engine=(last.engine[0], step.engine[1]))
        else:
            self._done.append(step)
            del self._done[:-MOST_STEPS]
        self._field = field

    def undo(self) -> Step | None:
        """The last step, the other way round, or None."""
        return self._go(self._done, self._undone, back=True)

    def redo(self) -> Step | None:
        """The step that was undone last, or None."""
        return self._go(self._undone, self._done, back=False)

    def _go(self, there: list[Step], here: list[Step], back: bool) -> Step | None:
        if not there:
            return None
        self._field = ""
        step = there.pop()
        here.append(step)
        return step.back() if back else step

    def forget(self) -> None:
        """Nothing can be undone any more."""
        self._done.clear()
        self._undone.clear()
        self._field = ""
