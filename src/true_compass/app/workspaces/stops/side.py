"""Left of the sheets: the schools with their margins, and the item to set next."""

from collections.abc import Callable
from datetime import date
from typing import Final

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.widgets.look import Look, Painted
from true_compass.app.workspaces.stops.model import StopsModel
from true_compass.core.adjusting.tasks import last_round, task_for
from true_compass.core.cautions import CARE
from true_compass.core.engine import Engine
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
                draw_text(p, QRectF(0, y, width, high), "–", BODY, theme.ink3, align=RIGHT)
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
    """What to do next, in a few short lines."""

    def __init__(self, model: StopsModel, bridge: Bridge, look: Look, parent: QWidget) -> None:
        super().__init__(look, parent)
        self._model = model
        self.measured = ""
        """What a measured gap asks for."""
        self.setObjectName("next_item")
        self.setAccessibleName("The item that is due")
        model.changed.connect(self.update)
        bridge.turned.connect(self.update)

    def lines(self) -> tuple[str, list[str]]:
        """Head line, and the lines below it."""
        model = self._model
        if model.plan is None:
            return "No plan", [model.row.reason]
        if model.usable is None:
            words = f"{model.plan.least_item.off_words}. Take a method whose margin is positive."
            return "Unsafe: do not follow", [words]
        if model.finished:
            wrong = model.to_set
            if wrong:
                return f"Checked: {len(wrong)} out of band", [
                    f"{', '.join(item.name for item in wrong)}.",
                    "Set those: the plan then goes round these only.",
                ]
            head = "All in band" if model.checking else "All set. Last round"
            return head, list(last_round(model.set_any))
        off = [item.name for item in model.not_free_now()]
        stop, due = model.stop, model.next_item
        assert stop is not None
        if stop.loose_now and model.place + 1 not in model.done:
            return self._quarter_lines()
        if due is None:
            return f"This {model.thing.lower()} is done", ["Go on to the next."]
        task = task_for(model.rig.engine, due.item)
        head = f"{due.name} to {task.target_words}" if task.target_mm is not None else due.name
        words = task.target_words
        lines = [] if task.target_mm is not None else [f"{words[0].upper()}{words[1:]}."]
        if off:
            more = f" and {len(off) - NAMED} more" if len(off) > NAMED else ""
            lines.append(f"Not free where the crank stands: {', '.join(off[:NAMED])}{more}.")
        lines.append(f"Blade {task.place}." if task.target_mm is not None else "")
        steps = _CHECK_STEPS if model.checking and task.target_mm is not None else task.steps
        lines += [task.tools] if not model.checking else []
        lines += [self.measured] if self.measured else list(steps)
        return head, [line for line in lines if line]

    def _quarter_lines(self) -> tuple[str, list[str]]:
        """One quarter of a sweep: no item is named, whatever is loose is taken up."""
        first = self._model.place == 0
        begin = "First slacken every adjuster until it clacks. Begin anywhere; chalk the damper."
        loose = ", ".join(item.name for item in self._model.loose_at(self._model.place))
        return f"Quarter {self._model.place + 1}", [
            *([begin] if first else []),
            "Take up to zero lash whatever is loose now, and nothing else.",
            "Where it is still tight, leave it: its turn comes.",
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
        return f"{where}. {model.seen_to} of {len(model.deeds)} done.{tried}"

    def _tried(self) -> bool:
        return self._model.session.state.tried is not None

    def paint(self, p: QPainter) -> None:
        """Draw the lines, to be read from the engine; a line of care at the foot."""
        theme, width, height = self.look.theme, self.logical_width, self.logical_height
        head, lines = self.lines()
        draw_text(p, QRectF(0, 0, width, 24), self.counted(), BODY, theme.ink2)
        item, last = self._model.next_item, self._model.finished or self._model.usable is None
        name, _, target = head.partition(" to ")
        y, px, low = 30.0, LEAD - 1, height < LOW
        if low:
            draw_text(p, QRectF(0, y - 4, width, 34), head, HEAD - 4, theme.ink, Weight.STRONG)
            y, px = y + 34, BODY
        elif item is not None and not last:
            draw_text(p, QRectF(0, y, width, 50), name, 44, theme.ink, Weight.STRONG)
            full = task_for(self._model.rig.engine, item.item).full_name
            y += 52
            draw_text(p, QRectF(0, y, width, 24), full, BODY, theme.ink2)
            y += 28
            if target:
                draw_text(p, QRectF(0, y, width, 40), target, HEAD, theme.ink, Weight.STRONG)
                y += 46
        else:
            draw_text(p, QRectF(0, y, width, 40), head, HEAD, theme.ink, Weight.STRONG)
            y += 48
        for line in lines:
            if y + paragraph_height(line, px, width) > height - 26:
                break
            y = draw_paragraph(p, QRectF(0, y, width, 80), line, px, theme.ink) + (3 if low else 7)
        care = QRectF(0, height - 24, width, 22)
        words = CARE[2] if not self._model.finished else CARE[3]
        draw_text(p, care, words, NOTE + 1, theme.ink2, Weight.LABEL)
