"""How an answer is given: keys to choose from, a field for a figure, places for cylinders.

Once it is judged, what the engine says of it stands in the same place, with ways to go on.
"""

from collections.abc import Sequence
from functools import partial
from typing import Final

from PyQt6.QtCore import QRectF, QTimer
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QWidget

from true_compass.app.keys import TWO_DIGITS_MS, DigitKeys
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
    draw_paragraph_that_fits,
    draw_text,
    paragraph_height,
    text_width,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, NOTE, Weight
from true_compass.lessons.drill import Judged, Line
from true_compass.lessons.forms import Choice, Figure, Form, Option, Place, Slots, Ticks, TwoLists
from true_compass.lessons.kinds.covered import Deeds
from true_compass.session.lesson import OnLesson, Station

SLOT: Final = 54.0
MOST_HIGH: Final = 214.0
PAD: Final = ("1", "2", "3", "4", "5", "6", "7", "8", "9", "0", ".", "−", "⌫")
PAD_NAMES: Final = {".": "point", "−": "minus", "⌫": "rub out"}
LINE_HIGH: Final = 27.0


class OptionButton(TabButton):
    """One of the answers, with the digit that is its key in its corner, where that says more."""

    def __init__(self, model: LessonModel, option: Option, key: str, parent: QWidget) -> None:
        super().__init__(model.desk.look, option.words, parent)
        self.setObjectName(f"option_{option.value}")
        self.option, self.key = option, key

    def _paint_still(self, p: QPainter, box: QRectF, active: bool, focus: bool) -> None:
        super()._paint_still(p, box, active, focus)
        if self.key:
            theme = self.look.theme
            colour = theme.on_ink if self.isChecked() else theme.ink2
            corner = QRectF(box.left() + 7, box.top() + 2, 20, 20)
            draw_text(p, corner, self.key, NOTE, colour, Weight.LABEL)


def is_number(option: Option) -> bool:
    """Whether an option is a whole number, which its own digits choose."""
    return type(option.value) is int


def keys_of(options: Sequence[Option]) -> list[str]:
    """The digit beside each option: none where it is a number; 0, 9, 8 … for words beside numbers,
    else their places."""
    numbers = sum(is_number(option) for option in options)
    if not numbers:
        return [str(nth) for nth in range(1, len(options) + 1)]
    used = {str(option.value)[0] for option in options if is_number(option)}
    free = [digit for digit in "0987654321" if digit not in used]
    words = [option for option in options if not is_number(option)]
    keys = dict(zip(map(id, words), free, strict=False))
    return [keys.get(id(option), "") for option in options]


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
        self.none = OptionButton(model, Option("none", "None of them"), "0", self)
        self.none.clicked.connect(partial(model.enter, ()))
        self.pad = [DrawnButton(look, word, self) for word in PAD]
        for word, button in zip(PAD, self.pad, strict=True):
            button.setObjectName(f"pad_{PAD_NAMES.get(word, word)}")
            button.setAccessibleName(PAD_NAMES.get(word, word))
            button.clicked.connect(partial(self._pad, word))
        self._typed = ""
        self._more = QTimer(self)
        self._more.setSingleShot(True)
        self._more.setInterval(TWO_DIGITS_MS)
        self._more.timeout.connect(self._take_typed)
        self._slots_digits = DigitKeys(self.put, self._slot_count, self)
        self._made_for: object = None
        self._was_judged = False
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
        judged = on is not None and on.judged is not None
        if at != self._made_for:
            self._made_for = at
            self._remake(form)
        elif self._was_judged and not judged:
            # The same question once more begins with nothing typed.
            self.field.clear()
        self._was_judged = judged
        self._dress()
        self.arrange()
        self.update()

    def _remake(self, form: Form | None) -> None:
        for button in (*self.options, *self.numbers):
            button.hide()
            button.deleteLater()
        self.options, self.numbers = [], []
        self.field.clear()
        self._typed = ""
        self._more.stop()
        if isinstance(form, Choice):
            for option, key in zip(form.options, keys_of(form.options), strict=True):
                button = OptionButton(self._model, option, key, self)
                button.clicked.connect(partial(self._model.choose, option.value))
                self.options.append(button)
        on = self._on
        if isinstance(form, Ticks) and on is not None and on.stop.station is Station.STEP:
            for nth, name in enumerate(form.names, start=1):
                button = OptionButton(self._model, Option(name, name), str(nth), self)
                button.clicked.connect(partial(self._model.tick, name))
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
            ticks = isinstance(form, Ticks) and on is not None
            chosen = on is not None and (
                button.option.value in (on.entry or ())
                if ticks
                else same(on.entry, button.option.value)
            )
            button.setChecked(chosen)
            button.setEnabled(asked)
        self.none.setVisible(asked and isinstance(form, Ticks))
        self.none.setChecked(on is not None and on.entry == ())
        for key in self.pad:
            key.setVisible(asked and isinstance(form, Figure))
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

    def _slot_count(self) -> int:
        form = self._form
        return len(form.given) if isinstance(form, Slots) else 0

    def _pad(self, word: str) -> None:
        """A key of the number pad."""
        if word == "⌫":
            self.field.backspace()
        elif word == "−":
            text = self.field.text()
            self.field.setText(text[1:] if text.startswith(("-", "−")) else f"−{text}")
        else:
            self.field.insert(word)
        self.field.setFocus()
        self._on_typed(self.field.text())

    def digit(self, digit: int) -> None:
        """A digit chooses, ticks or puts a cylinder; digits of one number follow each other."""
        on, form = self._on, self._form
        if on is None or on.judged is not None:
            return
        if isinstance(form, Slots):
            self._slots_digits.press(digit)
        elif isinstance(form, Ticks) and self.options:
            self._tick_by(digit)
        elif isinstance(form, Choice):
            self._choose_by(str(digit))

    def _tick_by(self, digit: int) -> None:
        if digit == 0:
            self._model.enter(())
        elif digit <= len(self.options):
            self._model.tick(str(self.options[digit - 1].option.value))

    def _choose_by(self, digit: str) -> None:
        by_key = [b for b in self.options if b.key == digit]
        if by_key and not self._typed:
            self._model.choose(by_key[0].option.value)
            return
        numbers = [str(b.option.value) for b in self.options if is_number(b.option)]
        for typed in (self._typed + digit, digit):
            found = [number for number in numbers if number.startswith(typed)]
            if found:
                self._typed = typed
                if found == [typed]:
                    self._take_typed()
                else:
                    self._more.start()
                return
        self._typed = ""

    def _take_typed(self) -> None:
        """The number that was typed, or the only one that begins so."""
        self._more.stop()
        typed, self._typed = self._typed, ""
        numbers = [b.option.value for b in self.options if is_number(b.option)]
        found = [value for value in numbers if str(value) == typed]
        found = found or [value for value in numbers if str(value).startswith(typed)]
        if typed and len(found) == 1:
            self._model.choose(found[0])

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
        self.none.setGeometry(put(14, foot, 150, 44))
        self._arrange_options(width - 28)
        if self.options and self.ok.isVisibleTo(self) and self._options_foot > foot:
            # In a low window they stand beside the key that answers.
            self._arrange_options(right - 26)
        top = 12.0 if height < 150 else 48.0
        for nth, key in enumerate(self.pad):
            row, column = divmod(nth, 7)
            key.setGeometry(put(right - 310 + column * 43, top + row * 46, 40, 43))
        for nth, number in enumerate(self.numbers):
            number.setGeometry(put(14 + nth * 46, foot, 42, 44))

    @property
    def _options_foot(self) -> float:
        """Where the lowest option ends."""
        views = [view for view in (*self.options, self.none) if view.isVisibleTo(self)]
        return max((view.geometry().bottom() for view in views), default=0) / self.look.scale

    def _arrange_options(self, room: float) -> None:
        shown: list[TabButton] = [*self.options]
        if isinstance(self._form, Ticks) and shown:
            shown.append(self.none)
        count = len(shown)
        if not count:
            return
        long = max(text_width(b.text(), BODY, Weight.LABEL) for b in shown) + 34
        gap = 8.0
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
        for nth, button in enumerate(shown):
            row, column = divmod(nth, a_row)
            x, y = 14 + column * (wide + gap), top + row * (high + 6)
            button.setGeometry(self.look.scaled(x, y, wide, high))

    def wanted_high(self, least: float) -> float:
        """How high the panel must be for what is said to be read whole."""
        on = self._on
        if on is None or on.judged is None:
            return least
        why = paragraph_height(on.judged.why, BODY, self.logical_width - 330)
        lines = [line for line in on.judged.lines if line.mark != "right"]
        said = max(why, LINE_HIGH * min(len(lines), 4))
        idea = LINE_HIGH if on.judged.idea and not on.judged.is_right else 0.0
        return min(max(least, 48 + idea + said + 16), MOST_HIGH)

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
        keys = [view for view in (*self.options, *self.numbers, self.field) if view.isVisible()]
        top = max((view.geometry().bottom() / self.look.scale for view in keys), default=0.0)
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
        step = on.stop.station is Station.STEP
        foot = 12.0 if step else 62.0
        most = max(0, int((self.logical_height - foot - top) // LINE_HIGH))
        if lines and not judged.is_right:
            self._paint_lines(p, lines, top, most)
            return
        room = QRectF(50, top, width - 64, self.logical_height - 60 - top)
        if step:
            # Beside the key that goes on, so that all of it is read.
            room = QRectF(50, top, width - 330, self.logical_height - 10 - top)
        draw_paragraph_that_fits(p, room, judged.why, BODY, theme.ink)

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
        return "Tick all that belong, on the engine or here; or none. Then answer."
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
