"""Learn: the question or the step, large; the live engine; and the answer below it."""

from typing import Final

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QLineEdit, QWidget

from true_compass.app.widgets.controls import DrawnButton, StrongButton
from true_compass.app.widgets.fields import field_style
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.lessons.answer_view import AnswerView
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.app.workspaces.lessons.skill_map import SkillMap
from true_compass.app.workspaces.lessons.stage import Showing, Stage, Ticking
from true_compass.app.workspaces.lessons.steps import StepView
from true_compass.core.ideas import BY_SLUG as IDEAS
from true_compass.core.words import counted
from true_compass.drawing.cap_face import paint_cap_face
from true_compass.drawing.codes import flat_pen, rounded
from true_compass.drawing.text import (
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_text,
    paragraph_height,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, NOTE, READOUT, Weight
from true_compass.files.problems import shown_text
from true_compass.lessons.forms import Slots, Ticks, TwoLists
from true_compass.lessons.kinds.sparks import WireCap
from true_compass.lessons.lesson import Lesson
from true_compass.lessons.mastery import RULE, SHORT_RULE
from true_compass.lessons.result import MOST_NAME
from true_compass.lessons.work import firsts_of
from true_compass.session.lesson import OnLesson, Station

PANEL: Final = 196.0
STEP_PANEL: Final = 120.0
BARE_PANEL: Final = 56.0
LOW: Final = 560.0
LOW_PANEL: Final = 148.0
QUESTION_TOP: Final = 34.0
QUESTION_HIGH: Final = 90.0
MOST_IDEAS: Final = 5


class LearnView(PageView):
    """Shows the place that the lesson stands at, or what a lesson is for before one is begun."""

    def __init__(self, model: LessonModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self._model = model
        self.setObjectName("learn")
        self.setAccessibleName("The lesson")
        self.stage = Stage(self.look, model.crank, model.turner, self)
        self.step = StepView(model, self)
        self.answer = AnswerView(model, self)
        self.shows_bar = False
        """Whether the engine is turned here."""
        self.leave = DrawnButton(self.look, "All lessons", self)
        self.leave.clicked.connect(model.ask_leave)
        self.asks = QLineEdit(self)
        self.asks.setObjectName("asks_name")
        self.asks.setAccessibleName("Your name, it goes to your instructor")
        self.asks.setMaxLength(MOST_NAME)
        self.asks.returnPressed.connect(self._begin_named)
        self.begin = StrongButton(self.look, "Begin: Enter", self)
        self.begin.setObjectName("begin_named")
        self.begin.clicked.connect(self._begin_named)
        self.elsewhere = DrawnButton(self.look, "On another engine", self)
        self.elsewhere.setObjectName("elsewhere")
        self.drill = StrongButton(self.look, "Drill one kind of question", self)
        self.drill.setObjectName("free_drill")
        self.record = DrawnButton(self.look, "Kept on this computer", self)
        self.record.setObjectName("record")
        self.map = SkillMap(model, self)
        self.map.chosen.connect(model.begin_skill)
        self.more = StrongButton(self.look, "Ten more: Enter", self)
        self.more.setObjectName("more")
        self.more.clicked.connect(model.more)
        model.ticked.connect(self.update)
        self.stage.pressed.connect(self._press)
        model.changed.connect(self.refresh)
        model.bridge.turned.connect(self._on_turned)
        self.look.changed.connect(self.arrange)

    # State ------------------------------------------------------------------------------------

    def show_state(self) -> None:
        """Show the right parts for this place."""
        on = self._model.on
        running = on is not None and not on.over
        step = running and on is not None and on.stop.station is Station.STEP
        engine = running and on is not None and (step or on.drill.shows_engine)
        self.stage.setVisible(engine and not step)
        self.step.setVisible(step)
        self.answer.setVisible(running)
        self.shows_bar = engine
        waiting = self._model.waiting is not None
        self.asks.setVisible(waiting)
        self.begin.setVisible(waiting)
        self.leave.setVisible(on is not None or waiting)
        leaving = self._model.leaving and on is not None
        self.leave.setText("Leave it unfinished?" if leaving else "All lessons")
        self.elsewhere.setVisible(step)
        for part in (self.drill, self.record, self.map):
            part.setVisible(on is None and not waiting)
        at_end = on is not None and on.over
        hands_in = at_end and on is not None and bool(on.folder) and not on.practice
        again = "Hand in again: Enter" if self._model.keeper.handed_in else "Hand in: Enter"
        self.more.setText(again if hands_in else "Ten more: Enter")
        self.more.setVisible(hands_in or (at_end and on is not None and on.lesson.is_free))
        if on is not None and running and not step:
            self.stage.show_this(showing_of(self._model, on))
        self.arrange()
        self.update()

    def _begin_named(self) -> None:
        page = self.parentWidget()
        if self._model.waiting is not None and page is not None:
            # The field goes: the keyboard belongs to the question from now on.
            page.setFocus()
            self._model.begin_as(self.asks.text())

    def _on_turned(self) -> None:
        if self.isVisible():
            (self.step if self.step.isVisible() else self.stage).update()

    def _press(self, name: str) -> None:
        on = self._model.on
        if on is None or on.over or on.question is None:
            return
        self._model.enter(pressed(on, name))

    # Places -----------------------------------------------------------------------------------

    @property
    def _low(self) -> bool:
        return self.logical_height < LOW

    def _question_high(self) -> float:
        on = self._model.on
        if on is None or on.over or on.stop.station is Station.STEP:
            return 62.0
        return self._high_at(on, self._question_px(on)) + 4

    def _question_px(self, on: OnLesson) -> float:
        """As large as it can be in two lines or so."""
        px, most = (float(HEAD), 36.0) if self._low else (float(READOUT), QUESTION_HIGH)
        while px > LEAD and self._high_at(on, px) > most:
            px -= 1
        return px

    def _high_at(self, on: OnLesson, px: float) -> float:
        return paragraph_height(self._words(on), px, self.logical_width - 8, Weight.STRONG)

    def arrange(self) -> None:
        """Question above, engine, answer, turn bar."""
        width, height, put = self.logical_width, self.logical_height, self.look.scaled
        on = self._model.on
        step = self.step.isVisibleTo(self)
        low = self._low
        panel = (LOW_PANEL if low else PANEL) if not step else self.answer.wanted_high(STEP_PANEL)
        if step and on is not None and on.question is None:
            panel = BARE_PANEL
        top = QUESTION_TOP + self._question_high() + 6
        foot = height - 8
        wide = 190.0 if self._model.leaving else 118.0
        self.leave.setGeometry(put(width - wide - 4, 0, wide, 34))
        self.elsewhere.setGeometry(put(width - wide - 4 - 168, 0, 160, 34))
        self.asks.setGeometry(put(0, 166, min(width - 8, 460.0), 48))
        self.begin.setGeometry(put(0, 226, 200, 46))
        style = field_style(self.look.theme, self.look.scale, wrong=False)
        if self.asks.styleSheet() != style:
            self.asks.setStyleSheet(style)
        keys, rows = (42.0, 134.0) if self._low else (214.0, 282.0)
        self.drill.setGeometry(put(0, keys, 260, 44))
        self.record.setGeometry(put(272, keys, 210, 44))
        self.map.setGeometry(put(0, rows, width - 8, height - rows - 8))
        rows = len(self._over_rows(on)) if on is not None and on.over else 0
        self.more.setGeometry(put(0, 128 + rows * 32, 232, 44))
        self.step.setGeometry(put(0, QUESTION_TOP, width, foot - QUESTION_TOP - panel - 8))
        self.answer.setGeometry(put(0, foot - panel, width, panel))
        self.stage.setGeometry(put(0, top, width, foot - panel - 8 - top))
        if on is not None and not on.over and not self.stage.isVisibleTo(self) and not step:
            self.answer.setGeometry(put(0, top + 30, width, 220))

    # Painting ---------------------------------------------------------------------------------

    def _words(self, on: OnLesson) -> str:
        return on.drill.text(on.asked)

    def paint(self, p: QPainter) -> None:
        """Progress and the question; before a lesson, what it is for."""
        on = self._model.on
        if self._model.waiting is not None:
            self._paint_asks(p, self._model.waiting[0])
        elif on is None:
            self._paint_welcome(p)
        elif on.over:
            self._paint_over(p, on)
        else:
            self._paint_progress(p, on)
            self._paint_cap(p, on)
            if on.stop.station is Station.QUESTION:
                theme = self.look.theme
                box = QRectF(0, QUESTION_TOP, self.logical_width - 4, self._question_high())
                px = self._question_px(on)
                draw_paragraph(p, box, self._words(on), px, theme.ink, Weight.STRONG)

    def _paint_cap(self, p: QPainter, on: OnLesson) -> None:
        """The cap that is wired, below the answer, where there is room."""
        if not isinstance(on.drill if on.question is not None else None, WireCap):
            return
        top = self.answer.geometry().bottom() / self.look.scale + 16
        radius = min((self.logical_height - top) / 2 - 8, 150.0)
        form = on.form
        if radius < 60 or not isinstance(form, Slots):
            return
        theme = self.look.theme
        numbers = on.drill.answer(on.asked) if on.judged is not None else on.entry
        paint_cap_face(
            p,
            QPointF(radius + 20, top + radius),
            radius,
            numbers,
            [bool(given) for given in form.given],
            clockwise=on.asked.ask.get("rotor") == "clockwise",
            ink=theme.ink,
            ground=theme.sheet,
        )
        note = QRectF(2 * radius + 60, top + 8, self.logical_width - 2 * radius - 70, 26)
        draw_text(p, note, "Seen on the cap; the arrow is the rotor.", BODY, theme.ink2)

    def _paint_progress(self, p: QPainter, on: OnLesson) -> None:
        theme, width = self.look.theme, self.logical_width
        places, here = on.in_part, on.nth_in_part
        step = on.stop.station is Station.STEP
        words = on.lesson.parts[on.stop.part].title if step else "Question"
        told = f"{words}  {here + 1} of {len(places)}"
        if on.folder:
            # A test that was handed out is counted as a whole, with whose it is.
            name = on.person.name or "no name given"
            told = f"{on.lesson.title}, {name}  {on.nth_asked} of {on.lesson.asked_count}"
        head = QRectF(0, 4, width * 0.6, 26)
        x = draw_text(p, head, told, LABEL, theme.ink2, Weight.STRONG) + 14
        side = 13.0 if len(places) <= 24 else 7.0
        for nth, stop in enumerate(places):
            box = QRectF(x + nth * (side + 6), 17 - side / 2, side, side)
            if box.right() > width - 300:
                break
            done = nth < here or (nth == here and on.judged is not None)
            given = on.done_at(stop)
            if nth == here and not done:
                rounded(p, box, 1.5, theme.sheet, flat_pen(theme.now, 2.6))
            elif done and (given is None or given.right):
                rounded(p, box, 1.5, theme.ink, None)
            elif done:
                rounded(p, box, 1.5, theme.sheet, flat_pen(theme.ink, 2))
                p.fillRect(QRectF(box.left(), box.center().y(), side, side / 2), theme.ink)
            else:
                rounded(p, box, 1.5, None, flat_pen(theme.line, 1.6))
        ends = self.elsewhere if step else self.leave
        right = ends.geometry().left() / self.look.scale - 12
        note = QRectF(right - 230, 4, 230, 26)
        draw_one_of(p, note, (self._note(on),), NOTE, theme.ink2, Weight.BODY, RIGHT)

    def _note(self, on: OnLesson) -> str:
        if on.practice:
            return "practice: nothing is kept"
        if on.stop.station is Station.STEP:
            return on.rig.engine.name
        aided, left = on.aided_so_far, self._model.left_words
        if left:
            return left
        return f"{counted(aided, 'hint', 'hints')} so far" if aided else "unaided so far"

    def _paint_asks(self, p: QPainter, lesson: Lesson) -> None:
        """A lesson that was handed out, before it begins: its title, and who works on it."""
        theme, width = self.look.theme, self.logical_width
        draw_text(p, QRectF(0, 40, width, 44), lesson.title, READOUT, theme.ink, Weight.STRONG)
        told = f"{counted(lesson.asked_count, 'question')}. {lesson.purpose}"
        draw_one_of(p, QRectF(0, 88, width, 28), (told, lesson.purpose), LEAD, theme.ink)
        words = "Your name, it goes to your instructor:"
        draw_text(p, QRectF(0, 134, width, 28), words, LABEL, theme.ink, Weight.LABEL)

    def _paint_welcome(self, p: QPainter) -> None:
        theme, width = self.look.theme, self.logical_width
        due = self._due_words()
        if self._low:
            head = QRectF(0, 0, width, 36)
            draw_one_of(p, head, (due or "Choose a lesson",), HEAD, theme.ink, Weight.STRONG)
            draw_one_of(p, QRectF(0, 92, width, 26), (SHORT_RULE,), NOTE, theme.ink2)
            return
        head = QRectF(0, 20, width, 44)
        draw_text(p, head, "Choose a lesson", READOUT, theme.ink, Weight.STRONG)
        lines = (
            "Each begins with the engine: it turns, points, covers and asks. Then it drills.",
            "What you answer is judged from the engine, and a wrong answer is shown on it.",
        )
        for nth, line in enumerate(lines):
            draw_text(p, QRectF(0, 70 + nth * 30, width, 28), line, LEAD, theme.ink)
        draw_paragraph(p, QRectF(0, 136, width - 8, 44), RULE, NOTE, theme.ink2)
        if due:
            draw_text(p, QRectF(0, 180, width, 30), due, LEAD, theme.ink, Weight.STRONG)

    def _due_words(self) -> str:
        from true_compass.lessons.skills import BY_SLUG

        skills = self._model.skills
        now = self._model.keeper.now()
        due = [m for m in skills.values() if m.due is not None and m.due.due_at <= now]
        if not due:
            return ""
        first = min(due, key=lambda m: m.due.due_at if m.due else now)
        return f"Due again: {BY_SLUG[first.skill].title}"

    def _paint_over(self, p: QPainter, on: OnLesson) -> None:
        theme, width = self.look.theme, self.logical_width
        asked = on.lesson.asked_count
        told = f"{on.lesson.title}: done" if not asked else f"{on.marks:.4g} of {asked} marks"
        draw_text(p, QRectF(0, 60, width, 44), told, READOUT, theme.ink, Weight.STRONG)
        for nth, row in enumerate(self._over_rows(on)):
            draw_text(p, QRectF(0, 112 + nth * 32, width, 30), row, LEAD, theme.ink)

    def _handed_words(self) -> str:
        """Where the result was written, or that it was not yet."""
        path = self._model.keeper.handed_in
        if path is None:
            return "Not handed in yet: put the stick back, then hand it in."
        return f"Handed in as {shown_text(path.name)}, in {shown_text(str(path.parent))}"

    def _over_rows(self, on: OnLesson) -> list[str]:
        aided = on.aided_so_far
        rows = [f"{counted(aided, 'answer')} with a hint" if aided else "All of it unaided"]
        if on.folder and not on.practice:
            rows.append(self._handed_words())
        if on.timed_out:
            rows.insert(0, f"The time is up: {counted(len(firsts_of(on.given)), 'answer')} given")
        passed = on.lesson.settings.passed
        if passed:
            good = on.marks >= passed - 1e-9
            words = f"Passed: {passed} were needed" if good else f"Not passed: {passed} are needed"
            rows.insert(0, words)
        if on.practice:
            rows = ["Worked through as a student: nothing was kept."]
        ideas = dict.fromkeys(one.idea for one in on.given if one.idea)
        rows += [f"Look again at: “{IDEAS[idea].title}”" for idea in ideas][:MOST_IDEAS]
        return rows


def showing_of(model: LessonModel, on: OnLesson) -> Showing:
    """What the stage shows at a question."""
    form = on.form
    judged = on.judged
    ticking, ticked = Ticking.NOTHING, {}
    chips = False
    if isinstance(form, Ticks) and on.rig.item_names[0] in (*form.names, on.rig.item_names[0]):
        ticking, chips = Ticking.TICK, True
        ticked = dict.fromkeys(on.entry or (), 1)
    elif isinstance(form, TwoLists):
        ticking, chips = Ticking.STOPS, True
        ticked = {name: nth for nth, names in enumerate(on.entry, start=1) for name in names}
    marks = {line.name: line.mark for line in judged.lines} if judged is not None else {}
    figures = judged is not None and chips
    return Showing(
        covers=model.covers,
        ticking=Ticking.NOTHING if judged is not None else ticking,
        ticked=ticked,
        marks=marks,
        framed=judged.shows if judged is not None and not judged.is_right else (),
        figures=figures,
        chips=chips,
    )


def pressed(on: OnLesson, name: str) -> object:
    """The answer after a press on an item: ticked or not; first stop, second, none."""
    form = on.form
    if isinstance(form, Ticks):
        if name not in form.names:
            return on.entry
        entry = tuple(on.entry or ())
        return tuple(n for n in entry if n != name) if name in entry else (*entry, name)
    if isinstance(form, TwoLists):
        first, second = on.entry
        if name in first:
            return tuple(n for n in first if n != name), (*second, name)
        if name in second:
            return first, tuple(n for n in second if n != name)
        return (*first, name), second
    return on.entry
