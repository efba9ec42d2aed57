"""Drills of the two-stop table: filled in, and a book's with a line that is wrong."""

from functools import lru_cache
from typing import Final

from true_compass.core.adjusting.stops import Plan, two_stop_plan
from true_compass.core.angles import TURN_DEG, wrap_deg
from true_compass.core.engine import Engine
from true_compass.core.items import item_named
from true_compass.core.state import Rig
from true_compass.lessons.drill import Asked, AskError, Cover, Draw, Drill, Line, Question
from true_compass.lessons.forms import Answer, Choice, Form, Option, TwoLists, away_deg
from true_compass.lessons.kinds.cycle import tdc_deg
from true_compass.lessons.kinds.valves import (
    CLEAR_DEG,
    item_words,
    margins_deg,
    of_another_four,
    other_fours,
)

ALIKE_DEG: Final = 1.0
"""Margins no further apart than this are the same to whoever sets a valve."""


ASIDE_DEG: Final = (0.0, 15.0, -15.0, 30.0, -30.0)
"""How far from a compression TDC the first of two stops may be asked for."""


@lru_cache(maxsize=512)
def _plan(engine: Engine, start_deg: float) -> Plan:
    return two_stop_plan(Rig.of(engine), start_deg)


def two_lists(rig: Rig, start_deg: float) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The items of both stops, in the order of the rig's items."""
    plan = _plan(rig.engine, start_deg)
    at = {wrap_deg(start_deg): 0, wrap_deg(start_deg + TURN_DEG): 1}
    lists: tuple[list[str], list[str]] = ([], [])
    for stop in plan.stops:
        nth = min(at, key=lambda place: away_deg(place, stop.crank_deg))
        lists[at[nth]].extend(due.name for due in stop.items)
    names = rig.item_names
    return tuple(sorted(lists[0], key=names.index)), tuple(sorted(lists[1], key=names.index))


def unsafe_words(rig: Rig, start_deg: float) -> str:
    """Why two stops from a place are unsafe, as the end of a sentence; nothing where they are not.

    Nobody is asked for a table that would set an item off its base circle.
    """
    least = _plan(rig.engine, wrap_deg(start_deg)).least_item
    if least.margin_deg > 0:
        return ""
    return f"has no safe two-stop table: {least.off_words}"


@lru_cache(maxsize=64)
def _safe_starts(engine: Engine) -> tuple[tuple[int, float], ...]:
    """The cylinders from whose compression TDC two stops are safe, and those beside it: how far."""
    rig = Rig.of(engine)
    return tuple(
        (c, aside)
        for aside in ASIDE_DEG
        for c in engine.cylinders
        if not unsafe_words(rig, round(tdc_deg(rig, c) + aside, 3))
    )


class TwoStopTable(Drill):
    """Fill in the two-stop table."""

    slug = "two-stop"
    reads_cam = True
    title = "Fill in the two-stop table"
    skill = "two-stop-table"
    covers = (Cover.ARCS,)

    def missing(self, rig: Rig) -> str:
        """Two stops must be safe from some cylinder's TDC."""
        return "" if _safe_starts(rig.engine) else unsafe_words(rig, tdc_deg(rig, 1))

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """From somebody's compression TDC, or from beside it."""
        safe = _safe_starts(rig.engine)
        at_top = [one for one in safe if not one[1]]
        of = at_top if at_top and draw.yes("top", 0.5) else safe
        cylinder, aside = draw.even("start", of)
        at = round(wrap_deg(tdc_deg(rig, cylinder) + aside), 3)
        return Question(self.slug, engine, {"cylinder": cylinder}, at)

    def _start(self, q: Asked) -> float:
        start = tdc_deg(q.rig, q.cylinder) if "cylinder" in q.ask else 0.0
        if q.question.at_deg is not None:
            start = wrap_deg(q.question.at_deg)
        unsafe = unsafe_words(q.rig, start)
        if unsafe:
            raise AskError(f"{self.slug} cannot be asked: {q.engine.name} {unsafe}")
        return start

    def text(self, q: Asked) -> str:
        """The question."""
        start = self._start(q)
        return f"Two stops: {_place_words(q, start)}, then one turn on. What is set at each?"

    def form(self, q: Asked) -> Form:
        """Two lists; what is as free at both stops may stand at either."""
        start = self._start(q)
        here, there = margins_deg(q.rig, start), margins_deg(q.rig, start + TURN_DEG)
        ties = tuple(name for name in here if abs(here[name] - there[name]) <= ALIKE_DEG)
        return TwoLists(q.rig.item_names, ties)

    def answer(self, q: Asked) -> Answer:
        """Each item at the stop where its margin is larger."""
        return two_lists(q.rig, self._start(q))

    def why(self, q: Asked) -> str:
        """The table and its least margin."""
        first, second = self.answer(q)
        least = _plan(q.engine, self._start(q)).least_item
        told = f"First {', '.join(first) or 'none'}; one turn on {', '.join(second) or 'none'}."
        return f"{told} Least clear: {least.margin_words}."

    def lines(self, q: Asked, given: Answer) -> tuple[Line, ...]:
        """A reason for each item that is not where it belongs."""
        start, right = self._start(q), self.answer(q)
        here, there = margins_deg(q.rig, start), margins_deg(q.rig, start + TURN_DEG)
        told = []
        for name in q.rig.item_names:
            belongs = 0 if name in right[0] else 1
            said = [nth for nth in (0, 1) if name in given[nth]]
            if said == [belongs]:
                continue
            margin, at = ((here, start), (there, start + TURN_DEG))[belongs]
            mark = "wrong" if said else "left out"
            words = item_words(q.rig, name, wrap_deg(at), margin[name])
            told.append(Line(name, mark, f"at stop {belongs + 1} {words}"))
        return tuple(told)

    def idea(self, q: Asked, given: Answer) -> str:
        """Both stops changed over, or another four's table."""
        first, second = self.answer(q)
        if (given[0], given[1]) == (second, first):
            return "mark-zero-fires"
        return "one-table-fits-all" if self._another(q, given) else ""

    def _another(self, q: Asked, given: Answer) -> str:
        start = self._start(q)
        first = min(q.engine.cylinders, key=lambda c: away_deg(start, tdc_deg(q.rig, c)))
        return of_another_four(
            q.engine, tuple(given), lambda other: two_lists(other, tdc_deg(other, first))
        )

    def slips(self, q: Asked) -> list[Answer]:
        """Both stops changed over, and the tables of other fours."""
        first, second = self.answer(q)
        start = self._start(q)
        at = min(q.engine.cylinders, key=lambda c: away_deg(start, tdc_deg(q.rig, c)))
        others = (Rig.of(other) for other in other_fours(q.engine))
        return [(second, first), *(two_lists(o, tdc_deg(o, at)) for o in others)]

    def wrong_words(self, q: Asked, given: Answer) -> str:
        """Whose table that is."""
        order = self._another(q, given)
        return f"That is the table of {order}." if order else ""

    def shows(self, q: Asked, given: Answer) -> tuple[int, ...]:
        """The cylinders of what is not where it belongs."""
        lines = self.lines(q, given)
        return tuple(sorted({item_named(line.name).cylinder for line in lines}))


def _place_words(q: Asked, start: float) -> str:
    """The first stop in words: by a compression TDC, or so far before or after one."""
    first = q.ask.get("cylinder", 1)
    nearest = min(q.engine.cylinders, key=lambda c: (away_deg(start, tdc_deg(q.rig, c)), c))
    if away_deg(start, tdc_deg(q.rig, nearest)) <= 0.5:
        return f"{nearest} at compression TDC"
    away = away_deg(start, tdc_deg(q.rig, first))
    if away > max(ASIDE_DEG) + 0.5:
        return f"{start:.4g}°"
    if away_deg(start - 1.0, tdc_deg(q.rig, first)) < away:
        return f"{away:.4g}° after {first} is at compression TDC"
    return f"{away:.4g}° before {first} is at compression TDC"


class TableLine(Drill):
    """A book's table: which line of it is wrong?

    A line is wrong where an item stands off its base circle, not where it is merely freer at the
    other stop.
    """

    slug = "table-line"
    reads_cam = True
    title = "A book's table: which line is wrong?"
    skill = "two-stop-table"
    covers = (Cover.ARCS,)
    stands = False

    def missing(self, rig: Rig) -> str:
        """A table needs a few lines, and must be safe."""
        if rig.engine.cylinder_count < 2:
            return "has a table of one line"
        return unsafe_words(rig, 0.0)

    def make(self, rig: Rig, engine: str, draw: Draw) -> Question:
        """One item of one line where it is off its base circle; now and then none."""
        lists = two_lists(rig, 0.0)
        margins = margins_deg(rig, 0.0), margins_deg(rig, TURN_DEG)
        movable = [
            name for name in rig.item_names if min(margins[0][name], margins[1][name]) < -CLEAR_DEG
        ]
        wrong = draw.one("item", movable) if movable and draw.yes("wrong", 0.85) else ""
        rows = []
        for cylinder in rig.engine.cylinders:
            names = [name for name in rig.item_names if item_named(name).cylinder == cylinder]
            stops = {name: (1 if name in lists[0] else 2) for name in names}
            rows.append([
                [name, 3 - stop if name == wrong else stop] for name, stop in stops.items()
            ])  # fmt: skip
        return Question(self.slug, engine, {"lines": rows})

    def _rows(self, q: Asked) -> list[list[tuple[str, int]]]:
        lines = q.ask.get("lines")
        if not isinstance(lines, list | tuple) or not lines:
            raise AskError("ask.lines must be the lines of a table, each a list of [item, stop]")
        rows = []
        for line in lines:
            row = []
            for pair in line if isinstance(line, list | tuple) else ():
                if not isinstance(pair, list | tuple) or len(pair) != 2:
                    raise AskError("ask.lines must have pairs of an item and its stop")
                name, stop = pair
                if name not in q.rig.item_names or stop not in (1, 2):
                    raise AskError(f"ask.lines has {str(name)[:20]} at stop {str(stop)[:9]}, "
                                   "which this engine has not")  # fmt: skip
                row.append((str(name), int(stop)))
            rows.append(row)
        return rows

    def text(self, q: Asked) -> str:
        """The question."""
        self._rows(q)
        return (
            f"A book has this two-stop table for {q.engine.order_text}, from 1 at compression "
            "TDC. Which line is wrong, with an item off its base circle?"
        )

    def form(self, q: Asked) -> Form:
        """A line, or none."""
        options = [
            Option(nth, f"{nth}: {', '.join(f'{name} at {stop}' for name, stop in row)}")
            for nth, row in enumerate(self._rows(q), start=1)
        ]
        return Choice((*options, Option(None, "none")))

    def answer(self, q: Asked) -> Answer:
        """The first line with an item off its base circle."""
        wrong = self._wrong(q)
        return wrong[0] if wrong else None

    def _wrong(self, q: Asked) -> tuple[int, str, int] | None:
        """The first line that is wrong, from 1, with the item and its stop."""
        margins = margins_deg(q.rig, 0.0), margins_deg(q.rig, TURN_DEG)
        for nth, row in enumerate(self._rows(q), start=1):
            for name, stop in row:
                if margins[stop - 1][name] <= 0:
                    return nth, name, stop
        return None

    def why(self, q: Asked) -> str:
        """The item and how it stands there."""
        wrong = self._wrong(q)
        if wrong is None:
            return "Every item rests on its base circle at its stop."
        nth, name, stop = wrong
        at = TURN_DEG * (stop - 1)
        words = item_words(q.rig, name, at, margins_deg(q.rig, at)[name])
        return f"Line {nth}: at stop {stop} {name} {words}."


DRILLS: Final = (TwoStopTable(), TableLine())
