"""How an answer is given: keys to choose from, a field for a figure, places for cylinders.

Once it is judged, what the engine says of it stands in the same place, with ways to go on.
"""

from collections.abc import Sequence
from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton, TabButton
from true_compass.app.widgets.page_view import PageView
from true_compass.app.widgets.reading_field import ReadingField
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.core.ideas import BY_SLUG as IDEAS
from true_compass.core.items import item_named
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_number
from true_compass.drawing.codes import flat_pen, paint_problem_mark, paint_tick, rounded
from true_compass.drawing.text import (
    CENTRE,
    LEFT,
    draw_one_of,
    draw_paragraph,
    draw_text,
    text_width,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight
from true_compass.lessons.drill import Judged, Line
from true_compass.lessons.forms import Choice, Figure, Form, Option, Place, Slots, Ticks, TwoLists
from true_compass.lessons.kinds.covered import Deeds
from true_compass.session.lesson import OnLesson, Station

SLOT: Final = 54.0
LINE_HIGH: Final = 27.0


class OptionButton(TabButton):
    """One of the answers, with its number as its key where it has one."""

    def __init__(self, model: LessonModel, option: Option, parent: QWidget) -> None:
        super().__init__(model.desk.look, option.words, parent)
        self.setObjectName(f"option_{option.value}")
        self.option = option


class AnswerView(PageView):
    """Works on the lesson of its model."""

    def __init__(self, model: LessonModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self._model = model
        look = self.look
        self.setObjectName("answer")
        self.setAccessibleName("The answer")
        self.field = ReadingField(self)
        self.field.setObjectName("answer_field")
        self.field.setAccessibleName("The answer, a number")
        self.field.setMaxLength(12)
        self.options: list[OptionButton] = []
        self.numbers: list[DrawnButton] = []
        self.ok = StrongButton(look, "Answer: Enter", self)
        self.hint = DrawnButton(look, "Hint: H", self)
        self.next = StrongButton(look, "Next: Enter", self)
        self.again = DrawnButton(look, "Try again: A", self)
        self.home = DrawnButton(look, "Turn back to where it stood", self)
        self.free = DrawnButton(look, "", self)
        self.skip = DrawnButton(look, "Leave it", self)
        self.ok.clicked.connect(model.answer)
        self.next.clicked.connect(model.answer)
        self.hint.clicked.connect(model.hint)
        self.again.clicked.connect(model.again)
        self.home.clicked.connect(model.to_home)
        self.free.clicked.connect(self._turn_to_free)
        self.skip.clicked.connect(model.go_on)
        self.field.textEdited.connect(self._on_typed)
        self._made_for: object = None
        self._freed_deg: float | None = None
        model.changed.connect(self.refresh)
        look.changed.connect(self.show_state)

    # State ------------------------------------------------------------------------------------

    @property
    def _on(self) -> OnLesson | None:
        on = self._model.on
        return None if on is None or on.over else on

    @property
    def _form(self) -> Form | None:
        on = self._on
        return None if on is None or on.question is None else on.form

    def show_state(self) -> None:
        """Make the keys of this question, and show what stands."""
        on, form = self._on, self._form
        at = None if on is None else (id(on.lesson), on.place)
        if at != self._made_for:
            self._made_for = at
            self._remake(form)
        self._dress()
        self.arrange()
        self.update()

    def _remake(self, form: Form | None) -> None:
        for button in (*self.options, *self.numbers):
            button.hide()
            button.deleteLater()
        self.options, self.numbers = [], []
        self.field.clear()
        if isinstance(form, Choice):
            for option in form.options:
                button = OptionButton(self._model, option, self)
                button.clicked.connect(partial(self._model.choose, option.value))
                self.options.append(button)
        if isinstance(form, Slots):
            for cylinder in range(1, len(form.given) + 1):
                number = DrawnButton(self.look, str(cylinder), self)
                number.setObjectName(f"put_{cylinder}")
                number.setAccessibleName(f"Put cylinder {cylinder} into the next place")
                number.clicked.connect(partial(self.put, cylinder))
                self.numbers.append(number)

    def _dress(self) -> None:
        on, form = self._on, self._form
        asked = on is not None and form is not None and on.judged is None
        step = on is not None and on.stop.station is Station.STEP
        done = on is not None and on.judged is not None
        self.ok.setVisible(asked and not (step and isinstance(form, Choice)))
        self.ok.setEnabled(on is not None and (on.can_answer or isinstance(form, Place)))
        # A guided step that was answered, or asks nothing, goes on as well.
        self.next.setVisible(on is not None and not asked)
        self.next.setText("Go on: Enter" if step else "Next: Enter")
        hints = on is not None and asked and on.stop.hints and not step
        hints = hints and not isinstance(form, Deeds)
        self.hint.setVisible(hints)
        self.hint.setEnabled(hints and on is not None and not on.aided)
        wrong = done and on is not None and on.judged is not None and not on.judged.is_right
        self.again.setVisible(wrong and not step)
        self._dress_ways(on, done, step)
        covered = asked and isinstance(form, Deeds)
        self.skip.setVisible(covered)
        self.ok.setText("To the bench: Enter" if covered else "Answer: Enter")
        if covered:
            self.ok.setEnabled(True)
        self.field.setVisible(asked and isinstance(form, Figure))
        if self.field.isVisible():
            self.field.show_style(self.look, wrong=False)
        for button in self.options:
            button.setVisible(asked)
            chosen = on is not None and same(on.entry, button.option.value)
            button.setChecked(chosen)
            button.setEnabled(asked)
        for number in self.numbers:
            number.setVisible(asked)
            used = on is not None and int(number.text()) in on.entry
            number.setEnabled(not used)

    def _dress_ways(self, on: OnLesson | None, done: bool, step: bool) -> None:
        """What one can look at on the engine after a wrong answer."""
        self._freed_deg = None
        self.free.hide()
        judged = on.judged if on is not None and done else None
        if judged is None or judged.is_right or step or on is None:
            self.home.hide()
            return
        wrong = next((line for line in judged.lines if line.mark == "wrong"), None)
        if wrong is not None and on.question is not None and on.question.at_deg is not None:
            self._freed_deg = free_deg(on, wrong.name)
            self.free.setText(f"Turn to where {wrong.name} is free")
            self.free.setVisible(self._freed_deg is not None)
        away = on.crank_deg is not None and abs(self._model.from_home_deg) > 0.5
        self.home.setVisible(away and not self.free.isVisible())

    # Giving an answer -------------------------------------------------------------------------

    def _on_typed(self, text: str) -> None:
        on, form = self._on, self._form
        if on is None or not isinstance(form, Figure):
            return
        try:
            self._model.enter(parse_number("answer", text) if text.strip() else None)
        except EngineError as error:
            self._model.enter(None)
            self._model.desk.say(f"The answer {error}.")

    def put(self, cylinder: int) -> None:
        """Put a cylinder into the next place that is empty."""
        on, form = self._on, self._form
        if on is None or not isinstance(form, Slots) or on.judged is not None:
            return
        entry = list(on.entry)
        if cylinder in entry or 0 not in entry:
            return
        entry[entry.index(0)] = cylinder
        self._model.enter(tuple(entry))

    def take_back(self) -> bool:
        """Empty the last place that was filled; whether there was one."""
        on, form = self._on, self._form
        if on is None or not isinstance(form, Slots) or on.judged is not None:
            return False
        for nth in reversed(form.blanks):
            if on.entry[nth]:
                entry = list(on.entry)
                entry[nth] = 0
                self._model.enter(tuple(entry))
                return True
        return False

    def most_digit(self) -> int:
        """The largest number that a digit key could mean here."""
        form = self._form
        if isinstance(form, Slots):
            return len(form.given)
        if isinstance(form, Choice):
            whole = [v for v in (o.value for o in form.options) if type(v) is int]
            return max(whole, default=len(form.options))
        return 0

    def digit(self, number: int) -> None:
        """A digit, or two, chooses an option or puts a cylinder."""
        on, form = self._on, self._form
        if on is None or on.judged is not None:
            return
        if isinstance(form, Slots):
            self.put(number)
        elif isinstance(form, Choice):
            values = [option.value for option in form.options]
            whole = [v for v in values if isinstance(v, int) and not isinstance(v, bool)]
            if number in whole:
                self._model.choose(number)
            elif not whole and 1 <= number <= len(values):
                self._model.choose(values[number - 1])

    def _turn_to_free(self) -> None:
        if self._freed_deg is not None:
            self._model.turner.jump_to(self._freed_deg)

    # Places -----------------------------------------------------------------------------------

    def arrange(self) -> None:
        """Keys in rows; what goes on at the right."""
        width, height, put = self.logical_width, self.logical_height, self.look.scaled
        right = width - 234
        foot = height - (54 if height > 70 else 48)
        for button in (self.ok, self.next):
            button.setGeometry(put(right, foot, 222, 44))
        self.hint.setGeometry(put(right - 132, foot, 122, 44))
        self.again.setGeometry(put(14, foot, 140, 44))
        self.free.setGeometry(put(164, foot, 262, 44))
        self.home.setGeometry(put(164, foot, 262, 44))
        self.skip.setGeometry(put(14, foot, 140, 44))
        self.field.setGeometry(put(14, 52, 190, 56))
        self._arrange_options(width)
        for nth, number in enumerate(self.numbers):
            number.setGeometry(put(14 + nth * 46, foot, 42, 44))

    def _arrange_options(self, width: float) -> None:
        count = len(self.options)
        if not count:
            return
        long = max(text_width(b.option.words, BODY, Weight.LABEL) for b in self.options) + 34
        gap, room = 8.0, width - 28
        a_row = max(1, min(count, int((room + gap) // (max(long, 60.0) + gap))))
        if long > 240 and count <= 4:
            a_row = min(a_row, 2)
        rows = -(-count // a_row)
        a_row = -(-count // rows)
        wide = min((room + gap) / a_row - gap, max(long, 230.0) if count <= 4 else max(long, 64.0))
        on = self._on
        large = on is not None and on.stop.station is Station.STEP
        high = 62.0 if large and rows == 1 else 46.0 if rows <= 2 else 38.0
        top = 44.0 if rows == 1 else 40.0
        for nth, button in enumerate(self.options):
            row, column = divmod(nth, a_row)
            x, y = 14 + column * (wide + gap), top + row * (high + 6)
            button.setGeometry(self.look.scaled(x, y, wide, high))

    def slot_boxes(self) -> list[QRectF]:
        """Where the places of a row of cylinders stand."""
        form = self._form
        if not isinstance(form, Slots):
            return []
        count = len(form.given)
        wide = min(SLOT, (self.logical_width - 28) / count - 6)
        return [QRectF(14 + nth * (wide + 6), 44, wide, 46) for nth in range(count)]

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A press on a filled place empties it."""
        on, form = self._on, self._form
        if event is None or on is None or not isinstance(form, Slots) or on.judged is not None:
            return
        spot = event.position() / self.look.scale
        for nth, box in enumerate(self.slot_boxes()):
            if box.contains(spot) and nth in form.blanks and on.entry[nth]:
                entry = list(on.entry)
                entry[nth] = 0
                self._model.enter(tuple(entry))

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """The plate; what is asked for, or what the engine says."""
        theme, on = self.look.theme, self._on
        whole = QRectF(0, 0, self.logical_width, self.logical_height)
        if on is None:
            p.fillRect(whole, theme.paper)
            return
        judged = on.judged
        if judged is None and self._form is None:
            p.fillRect(whole, theme.paper)
            return
        rounded(p, whole, 6, theme.sheet, flat_pen(theme.ink if judged else theme.hair, 2))
        if judged is not None:
            self._paint_judged(p, on, judged)
        elif self._form is not None:
            self._paint_asked(p, on, self._form)

    def _paint_asked(self, p: QPainter, on: OnLesson, form: Form) -> None:
        theme, width = self.look.theme, self.logical_width
        words = on.drill.hint(on.asked) if on.aided else how_words(form)
        draw_text(p, QRectF(14, 10, width - 28, 26), words, LABEL, theme.ink, Weight.LABEL)
        self._paint_scheme(p, form)
        if isinstance(form, Figure):
            unit = QRectF(214, 52, width - 230, 56)
            draw_text(p, unit, form.unit.strip(), HEAD, theme.ink, Weight.LABEL, LEFT)
        if isinstance(form, Slots):
            self._paint_slots(p, on, form)

    def _paint_scheme(self, p: QPainter, form: Form) -> None:
        """How it is marked, where the keys leave room."""
        buttons = [b for b in (*self.options, *self.numbers) if b.isVisible()]
        top = max((b.geometry().bottom() / self.look.scale for b in buttons), default=0.0)
        box = QRectF(14, self.logical_height - 34, self.logical_width - 380, 24)
        if box.top() > top and not isinstance(form, Deeds):
            draw_one_of(p, box, (form.scheme,), NOTE, self.look.theme.ink2)

    def _paint_slots(self, p: QPainter, on: OnLesson, form: Slots) -> None:
        theme = self.look.theme
        due = next((nth for nth in form.blanks if not on.entry[nth]), None)
        for nth, box in enumerate(self.slot_boxes()):
            given = nth not in form.blanks
            edge = flat_pen(theme.now, 3) if nth == due else flat_pen(theme.ink, 2)
            fill = theme.ink if given else theme.now_tint if nth == due else theme.sheet
            rounded(p, box, 4, fill, edge)
            if on.entry[nth]:
                colour = theme.on_ink if given else theme.ink
                words = str(on.entry[nth])
                draw_text(p, box, words, HEAD, colour, Weight.STRONG, CENTRE)

    def _paint_judged(self, p: QPainter, on: OnLesson, judged: Judged) -> None:
        theme, width = self.look.theme, self.logical_width
        mark = QRectF(14, 14, 24, 24)
        if judged.is_right:
            rounded(p, mark, 2, theme.ink, None)
            paint_tick(p, mark.center(), 15, theme.on_ink)
        else:
            paint_problem_mark(p, mark, theme.ink, theme.on_ink)
        marks = judged.marks.words
        used = text_width(marks, BODY) + 20
        if on.stop.station is Station.QUESTION:
            draw_text(p, QRectF(width - used - 14, 12, used, 28), marks, BODY, theme.ink2)
        head = QRectF(50, 8, width - used - 80, 36)
        draw_one_of(p, head, heads_of(on, judged), HEAD, theme.ink, Weight.STRONG)
        top = 48.0
        if judged.idea and not judged.is_right:
            idea = QRectF(50, top, width - 64, 24)
            draw_one_of(p, idea, (IDEAS[judged.idea].shows,), BODY, theme.ink2)
            top += LINE_HIGH
        lines = [line for line in judged.lines if line.mark != "right"]
        most = max(0, int((self.logical_height - 62 - top) // LINE_HIGH))
        if lines and not judged.is_right:
            self._paint_lines(p, lines, top, most)
            return
        room = QRectF(50, top, width - 64, self.logical_height - 60 - top)
        draw_paragraph(p, room, judged.why, BODY, theme.ink)

    def _paint_lines(self, p: QPainter, lines: Sequence[Line], top: float, most: int) -> None:
        theme, width = self.look.theme, self.logical_width
        shown = list(lines[:most])
        if len(lines) > most > 0:
            shown = list(lines[: most - 1])
        for nth, line in enumerate(shown):
            y = top + nth * LINE_HIGH
            name = QRectF(50, y, 96, 24)
            draw_text(p, name, line.name, BODY, theme.ink, Weight.STRONG)
            sentence = f"{line.words} ({line.mark})" if line.mark == "left out" else line.words
            draw_one_of(p, QRectF(140, y, width - 154, 24), (sentence, line.words), BODY, theme.ink)
        if len(lines) > len(shown) and most > 0:
            names = ", ".join(line.name for line in lines[len(shown) :])
            rest = QRectF(50, top + len(shown) * LINE_HIGH, width - 64, 24)
            others = {line.mark for line in lines[len(shown) :]}
            lead = "left out:" if others == {"left out"} else "and"
            draw_text(p, rest, f"{lead} {names}", BODY, theme.ink2)

    def text_twin(self) -> str:
        """What is asked for, or what was said."""
        on = self._on
        if on is None or on.question is None:
            return ""
        if on.judged is None:
            return f"{how_words(on.form)} {on.drill.hint(on.asked) if on.aided else ''}".strip()
        lines = "; ".join(f"{line.name} {line.words}" for line in on.judged.lines)
        return f"{heads_of(on, on.judged)[0]}. {on.judged.marks.words}. {on.judged.why} {lines}"


def same(one: object, other: object) -> bool:
    """Whether two plain values are one: True is not 1 here."""
    return type(one) is type(other) and one == other


def how_words(form: Form) -> str:
    """How this answer is given."""
    if isinstance(form, Choice):
        return "Choose one."
    if isinstance(form, Ticks):
        return "Tick on the engine, then answer."
    if isinstance(form, TwoLists):
        return "Press each item once for stop 1, twice for stop 2, then answer."
    if isinstance(form, Slots):
        return "Type the cylinders in turn; Backspace takes one back."
    if isinstance(form, Place):
        return "Turn the crank to where it should stand, then answer."
    if isinstance(form, Deeds):
        return "It is done on the bench, on a covered engine: your work there is judged."
    return "Type the number, then answer."


def heads_of(on: OnLesson, judged: Judged) -> tuple[str, ...]:
    """What is said of an answer, in a few words; shorter ones where it is narrow."""
    if judged.is_right:
        return ("Right, with a hint" if on.aided else "Right",)
    if isinstance(on.form, Deeds):
        return ("Not passed",)
    right = on.form.words(on.form.read(on.drill.answer(on.asked)))
    if judged.idea:
        idea = f"“{IDEAS[judged.idea].title}”"
        return (idea, "A wrong idea")
    if isinstance(on.form, Choice | Figure | Slots):
        return (f"It is {right}", f"{right}", "Not right")
    return ("Partly right",) if judged.credit > 0 else ("Not right",)


def free_deg(on: OnLesson, name: str) -> float | None:
    """The crank angle in the middle of the longest arc in which an item is free."""
    arcs = on.rig.item_arcs_deg.get(item_named(name), ())
    if not arcs:
        return None
    start, length = max(arcs, key=lambda arc: arc[1])
    return float((start + length / 2) % 720.0)
