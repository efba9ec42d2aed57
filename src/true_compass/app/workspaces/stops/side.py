"""Left of the sheets: the schools with their margins, and the item to set next."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.stops.doing import Doing, Typed
from true_compass.app.workspaces.stops.model import StopsModel
from true_compass.core.adjusting.tasks import (
    EACH_QUARTER,
    FIRST_OF_SWEEP,
    last_of_sweep,
    last_round,
    task_for,
)
from true_compass.core.cautions import CARE
from true_compass.core.engine import Engine
from true_compass.core.words import capital
from true_compass.drawing.codes import flat_pen
from true_compass.drawing.text import (
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_text,
    paragraph_height,
    text_width,
)
from true_compass.drawing.theme import BODY, HEAD, LEAD, NOTE, Weight
from true_compass.files.engine_values import origin_words

ROW: Final = 34.0
TOP: Final = 66.0
LOW: Final = 330.0
"""Under this height what is due next is told in smaller print, so that its steps fit."""
NAMED: Final = 6
"""How many items are told by name where they are no longer free."""


@dataclass(frozen=True, slots=True)
class Head:
    """What stands at the top: the item with its full name and its target, or a short sentence."""

    name: str
    full_name: str = ""
    target: str = ""

    @property
    def words(self) -> str:
        """In one line: `I1 to 0.25 mm (9.8 thou)`."""
        return f"{self.name} to {self.target}" if self.target else self.name


_CHECK_STEPS: Final = (
    "This round only checks: no nut is slackened.",
    "In the accepted band: leave it. If not, press Out of band and go on.",
)


def choose_by_key(model: StopsModel, event: QKeyEvent) -> bool:
    """Up and down, home and end among the schools; whether the key was one of these."""
    words = [row.school.word for row in model.rows]
    here, last = words.index(model.word), len(words) - 1
    goals = {
        Qt.Key.Key_Up: max(here - 1, 0),
        Qt.Key.Key_Down: min(here + 1, last),
        Qt.Key.Key_Home: 0,
        Qt.Key.Key_End: last,
    }
    goal = goals.get(Qt.Key(event.key()))
    if goal is not None:
        model.choose(words[goal])
    return goal is not None


class SchoolList(Painted):
    """Every school: how many stops, and the least margin. One click takes one."""

    def __init__(
        self,
        model: StopsModel,
        bridge: Bridge,
        look: Look,
        parent: QWidget,
        today: Callable[[], date],
    ) -> None:
        super().__init__(look, parent)
        self._model = model
        self._today = today
        self._made: tuple[Engine | None, date | None, str] = (None, None, "")
        self.setObjectName("schools")
        self.setAccessibleName("Methods of adjusting")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        model.changed.connect(self.update)

    @property
    def row_height(self) -> float:
        """Height of a row in the room that there is."""
        return min((self.logical_height - TOP) / len(self._model.rows), ROW)

    def paint(self, p: QPainter) -> None:
        """Draw the list; unsafe plans say so."""
        high = self.row_height
        theme, width = self.look.theme, self.logical_width
        head = self._model.school.name
        # Beside it there may be two buttons.
        px = HEAD if text_width(head, HEAD, Weight.STRONG) < width - 84 else LEAD
        draw_text(p, QRectF(0, 0, width, 36), head, px, theme.ink, Weight.STRONG)
        plan = self._model.plan
        if plan is not None:
            words = f"{plan.turning_deg:.0f}° in all"
            draw_text(p, QRectF(0, 40, 120, 20), words, NOTE, theme.ink2)
        draw_text(p, QRectF(0, 40, width, 20), "stops", NOTE, theme.ink2, align=RIGHT)
        draw_text(p, QRectF(0, 40, width - 56, 20), "least margin", NOTE, theme.ink2, align=RIGHT)
        for place, row in enumerate(self._model.rows):
            y = TOP + place * high
            chosen = row.school.word == self._model.word
            middle = QPointF(11, y + high / 2)
            p.setBrush(theme.sheet)
            p.setPen(flat_pen(theme.ink if row.plan else theme.hair, 1.8))
            p.drawEllipse(middle, 8, 8)
            if chosen:
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(theme.ink)
                p.drawEllipse(middle, 4.5, 4.5)
            weight = Weight.STRONG if chosen else Weight.BODY
            colour = theme.ink if row.plan else theme.ink3
            name = QRectF(28, y, width - 160, high)
            draw_text(p, name, row.school.name, BODY, colour, weight)
            if row.plan is None:
                word = "running" if row.without_stops else "–"
                draw_text(p, QRectF(0, y, width, high), word, BODY, theme.ink3, align=RIGHT)
                continue
            words = row.plan.least_item.margin_words if row.plan.safe else "unsafe"
            strong = Weight.STRONG if not row.plan.safe or chosen else Weight.BODY
            draw_text(p, QRectF(0, y, width - 50, high), words, BODY, theme.ink, strong, RIGHT)
            count = str(len(row.plan.stops))
            draw_text(p, QRectF(0, y, width, high), count, BODY, theme.ink, weight, RIGHT)
        y = TOP + high * len(self._model.rows) + 10
        for line in self.words():
            if y > self.logical_height - 36:
                break
            y = draw_paragraph(p, QRectF(0, y, width, 60), line, BODY, theme.ink) + 3
        if y < self.logical_height - 18:
            origin = self._origin()
            short = f"As set, mark {origin.partition(' mark ')[2]}"
            draw_one_of(p, QRectF(0, y, width, 20), (origin, short), NOTE, theme.ink2)

    def _origin(self) -> str:
        """Where the figures come from; the mark of an engine is worked out once."""
        made_for = (self._model.rig.engine, self._today())
        if self._made[0] is not made_for[0] or self._made[1] != made_for[1]:
            self._made = (*made_for, origin_words(*made_for))
        return self._made[2]

    def words(self) -> list[str]:
        """What is said of the chosen school; of an unsafe plan, only that."""
        model = self._model
        if model.plan is not None and model.usable is None:
            return ["Unsafe: do not follow.", f"{model.plan.least_item.off_words}."]
        return [f"Needs {model.school.needs}.", f"Risk: {model.school.risks}."]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down take another school."""
        if event is not None and not choose_by_key(self._model, event):
            event.ignore()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take the school under the pointer."""
        if event is not None:
            place = int((event.position().y() / self.look.scale - TOP) // self.row_height)
            if 0 <= place < len(self._model.rows):
                self._model.choose(self._model.rows[place].school.word)


class NextItem(Painted):
    """What to do next, in a few short lines. No line is ever left out: print gets smaller, and
    where that is not enough the lines scroll.
    """

    def __init__(
        self, model: StopsModel, doing: Doing, bridge: Bridge, look: Look, parent: QWidget
    ) -> None:
        super().__init__(look, parent)
        self._model = model
        self._doing = doing
        self.typed = Typed()
        """What stands in the field, as it would be taken."""
        self._first = 0
        """The first line that is shown, where not all fit."""
        self._most = 0
        self.setObjectName("next_item")
        self.setAccessibleName("The item that is due")
        model.changed.connect(self._from_the_top)
        bridge.turned.connect(self._from_the_top)

    def _from_the_top(self) -> None:
        self._first = 0
        self.update()

    def lines(self) -> tuple[Head, list[str]]:
        """What stands at the top, and the lines below it."""
        model = self._model
        if model.plan is None:
            words = "Engine running" if model.row.without_stops else "No plan"
            return Head(words), [model.row.reason]
        if model.usable is None:
            words = f"{model.plan.least_item.off_words}. Take a method whose margin is positive."
            return Head("Unsafe: do not follow"), [words]
        if model.round.finished:
            return self._last_lines()
        off = [item.name for item in model.not_free_now()]
        stop, due = model.round.stop, model.round.next_setting
        assert stop is not None
        if stop.loose_now and not model.round.is_done(model.place + 1):
            return self._quarter_lines()
        if due is None:
            after = model.round.next_place
            where = f"{model.thing} {after + 1} is next." if after is not None else ""
            if model.plan.swept and after == len(model.round.stops) - 1:
                where = "The preload is next, the same on all, wherever the crank stands."
            return Head(f"This {model.thing.lower()} is done"), [where] if where else []
        task = task_for(model.rig.engine, due.item)
        head = Head(due.name, task.full_name, task.target_words if task.target_mm else "")
        lines = []
        if model.plan.swept:
            return head, list(last_of_sweep(model.rig.engine, due))
        if task.target_mm is None:
            lines.append(f"{capital(task.target_words)}.")
        elif task.band_words:
            lines.append(f"Leave it from {task.band_words}.")
        if off:
            more = f" and {len(off) - NAMED} more" if len(off) > NAMED else ""
            lines.append(f"Not free where the crank stands: {', '.join(off[:NAMED])}{more}.")
        typed = self.typed
        if typed.refused or typed.advice:
            return head, [*lines, *([typed.refused] if typed.refused else typed.advice)]
        known = self._doing.standing_words(due)
        lines += known
        if not (known and model.checking):
            lines.append(f"Blade {task.place}." if task.target_mm is not None else "")
            lines += [] if model.checking else [task.tools]
            lines += _CHECK_STEPS if model.checking and task.target_mm is not None else task.steps
        return head, [line for line in lines if line]

    def _last_lines(self) -> tuple[Head, list[str]]:
        model, wrong = self._model, self._model.round.to_set
        if wrong:
            return Head(f"Checked: {len(wrong)} out of band"), [
                f"{', '.join(item.name for item in wrong)}.",
                "Set those: the plan then goes round these only.",
            ]
        head = "All in band" if model.checking else "All set. Last round"
        return Head(head), list(last_round(model.round.set_any))

    def _quarter_lines(self) -> tuple[Head, list[str]]:
        """One quarter of a sweep: no item is named, whatever is loose is taken up."""
        model = self._model
        loose = ", ".join(item.name for item in model.loose_at(model.place))
        return Head(f"Quarter {model.place + 1}"), [
            *(FIRST_OF_SWEEP if model.place == 0 else ()),
            *EACH_QUARTER,
            f"Loose where the crank stands: {loose}.",
        ]

    def counted(self) -> str:
        """How far the work has come."""
        model = self._model
        plan = model.usable
        if plan is None:
            return ""
        where = f"{model.thing} {model.place + 1} of {len(plan.stops)}"
        if plan.swept and model.place >= len(plan.stops):
            where = "Preload"
        tried = " Watch tries another lash or cam; this is as set." if self._tried() else ""
        return f"{where}. {model.round.seen_to} of {len(model.round.deeds)} done.{tried}"

    def _tried(self) -> bool:
        return self._model.session.state.tried is not None

    def fits(self, width: float, height: float) -> bool:
        """Whether all lines fit into so much room in body print, none of them scrolled."""
        head, lines = self.lines()
        y = self._head_height(head, low=height < LOW)
        need = sum(paragraph_height(line, BODY, width) + 3 for line in lines)
        return y + need <= height - self._care_height(width)

    def care(self) -> str:
        """The caution at the foot. The preload of a sweep goes on wherever the crank stands."""
        model = self._model
        preload = (
            model.plan is not None and model.plan.swept and model.round.next_setting is not None
        )
        return CARE[3] if model.round.finished or preload else CARE[2]

    def _care_height(self, width: float) -> float:
        return paragraph_height(self.care(), NOTE + 1, width) + 4

    @staticmethod
    def _head_height(head: Head, *, low: bool) -> float:
        if low or not head.full_name:
            return 64.0 if low else 78.0
        return 110.0 + (46.0 if head.target else 0.0)

    def paint(self, p: QPainter) -> None:
        """Draw the lines, to be read from the engine; a line of care at the foot."""
        theme, width, height = self.look.theme, self.logical_width, self.logical_height
        head, lines = self.lines()
        draw_text(p, QRectF(0, 0, width, 24), self.counted(), BODY, theme.ink2)
        low = height < LOW
        y = self._paint_head(p, head, low=low)
        gap = 3.0 if low else 7.0
        foot = height - self._care_height(width)
        room = foot - y
        px = BODY if low else LEAD - 1.0

        def need(size: float) -> float:
            return sum(paragraph_height(line, size, width) + gap for line in lines)

        while px > NOTE and need(px) > room:
            px, gap = px - 1.0, 3.0
        self._most = self._last_first(lines, px, gap, width, room)
        self._first = min(self._first, self._most)
        for line in lines[self._first :]:
            high = paragraph_height(line, px, width)
            if y + high > foot + 1:
                break
            y = draw_paragraph(p, QRectF(0, y, width, high + 4), line, px, theme.ink) + gap
        if self._most:
            words = "Scroll for the rest" if self._first < self._most else "Scroll back up"
            draw_text(p, QRectF(0, 0, width, 24), words, NOTE, theme.ink, Weight.STRONG, RIGHT)
        care = QRectF(0, foot + 2, width, height - foot)
        draw_paragraph(p, care, self.care(), NOTE + 1, theme.ink2, Weight.LABEL)

    @staticmethod
    def _last_first(lines: list[str], px: float, gap: float, width: float, room: float) -> int:
        """From which line on the rest of them fits; 0 where all do."""
        for first in range(len(lines)):
            rest = sum(paragraph_height(line, px, width) + gap for line in lines[first:])
            if rest <= room + 1:
                return first
        return max(len(lines) - 1, 0)

    def _paint_head(self, p: QPainter, head: Head, *, low: bool) -> float:
        theme, width = self.look.theme, self.logical_width
        if low or not head.full_name:
            px, high = (HEAD - 4, 34.0) if low else (HEAD, 40.0)
            draw_text(p, QRectF(0, 26, width, high), head.words, px, theme.ink, Weight.STRONG)
        else:
            draw_text(p, QRectF(0, 30, width, 50), head.name, 44, theme.ink, Weight.STRONG)
            draw_text(p, QRectF(0, 82, width, 24), head.full_name, BODY, theme.ink2)
            target = QRectF(0, 110, width, 40)
            draw_text(p, target, head.target, HEAD, theme.ink, Weight.STRONG)
        return self._head_height(head, low=low)

    @property
    def scrolled(self) -> int:
        """How many lines are out of sight above."""
        return self._first

    def scroll_by(self, lines: int) -> None:
        """Show later lines, or earlier ones."""
        self._first = min(max(self._first + lines, 0), self._most)
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel scrolls the lines."""
        if event is not None:
            event.accept()
            self.scroll_by(-1 if event.angleDelta().y() > 0 else 1)
