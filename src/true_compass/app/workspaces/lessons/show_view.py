"""Show: one question at a time for the whole room. The answer is hidden until it is asked for.

Keys alone: Enter answers, N goes on, H shows the angle; Left and Right pick an answer, digits count
its hands.
"""

from typing import Final

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from true_compass.app.bridge import Bridge
from true_compass.app.turner import Turner
from true_compass.app.widgets.page_view import PageView
from true_compass.app.workspaces.lessons.model import LessonModel
from true_compass.app.workspaces.lessons.stage import Showing, Stage
from true_compass.drawing.codes import flat_pen, paint_tick, rounded
from true_compass.drawing.text import (
    CENTRE,
    RIGHT,
    draw_one_of,
    draw_paragraph,
    draw_text,
    paragraph_height,
    text_width,
)
from true_compass.drawing.theme import BODY, HEAD, LABEL, LEAD, Weight
from true_compass.files.rigs import demo_rig
from true_compass.lessons.drill import Asked, Cover
from true_compass.lessons.drills import rig_of
from true_compass.lessons.forms import Ticks, TwoLists
from true_compass.lessons.lesson import Lesson, asked_of
from true_compass.lessons.room import LETTERS, Hands, RoomQuestion, room_question
from true_compass.session.session import Session, Source

FOOT: Final = 64.0
ANSWER: Final = 74.0
TEXT: Final = 44.0
LOW: Final = 560.0
LOW_ANSWER: Final = 54.0
LOW_TEXT: Final = 34.0


class ShowView(PageView):
    """Shows a lesson's questions to a room."""

    def __init__(self, model: LessonModel, parent: QWidget) -> None:
        super().__init__(model.desk.look, parent)
        self._model = model
        self.lesson: Lesson | None = None
        self.questions: list[RoomQuestion] = []
        self.at = 0
        self.answered = False
        self.angle = False
        self.hands = Hands()
        self.setObjectName("show")
        self.setAccessibleName("A question for the room")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._session = Session(demo_rig("alder"), Source(rig="alder"))
        self._bridge = Bridge(self._session, self)
        self._turner = Turner(self._session, self.look, self)
        self.stage = Stage(self.look, self._session, self._turner, self)
        self._bridge.turned.connect(self.stage.update)
        self.look.changed.connect(self.arrange)

    # What is shown ----------------------------------------------------------------------------

    def begin(self, lesson: Lesson, seed: int, part: int = -1, nth: int = -1) -> bool:
        """Show a lesson's questions from one of them on; whether there are any."""
        self.lesson, self.questions = lesson, []
        first = 0
        for place, one in enumerate(asked_of(lesson, seed)):
            q = Asked(rig_of(lesson.engine(one.question.engine)), one.question)
            made = room_question(q, seed + place)
            if made is None:
                continue
            if (one.part, one.nth) == (part, nth):
                first = len(self.questions)
            self.questions.append(made)
        if self.questions:
            self.go_to(first)
        return bool(self.questions)

    @property
    def question(self) -> RoomQuestion | None:
        """The question that is shown."""
        return self.questions[self.at] if self.questions else None

    def go_to(self, place: int) -> None:
        """Another question, nothing answered and no hand counted."""
        self.at = place % max(len(self.questions), 1)
        question = self.question
        if question is None:
            return
        self.answered = self.angle = False
        self.hands = Hands.none(len(question.answers))
        at = question.q.question.at_deg or 0.0
        if question.q.engine != self._session.state.engine:
            self._session.open_engine(question.q.engine, Source(), at)
        else:
            self._session.turn_to(at)
        self._show()

    def _show(self) -> None:
        question = self.question
        if question is None:
            return
        shows = question.drill.shows_engine
        covers: set[Cover] = set()
        framed: tuple[int, ...] = ()
        marks: dict[str, str] = {}
        if not self.answered:
            covers = set(question.drill.covers)
            if not self.angle:
                covers |= {Cover.ANGLE, Cover.ARCS}
        else:
            judged = question.drill.judge(question.q, question.answers[question.right].value)
            marks = {line.name: line.mark for line in judged.lines if line.mark == "right"}
            framed = question.drill.shows(question.q, question.answers[question.right].value)
        form = question.drill.form(question.q)
        chips = isinstance(form, Ticks | TwoLists)
        self.stage.setVisible(shows)
        self.stage.show_this(
            Showing(
                covers=frozenset(covers),
                framed=framed if self.answered and not chips else (),
                marks=marks,
                figures=self.answered and chips and not self._low,
                # On a low screen the answers name the items, and the engine needs the room.
                chips=chips and not self._low,
            )
        )
        self.arrange()
        self.update()

    # Keys -------------------------------------------------------------------------------------

    def answer(self) -> None:
        """Show the answer; once it is shown, go on."""
        if self.answered:
            self.next()
        else:
            self.answered = True
            self._show()

    def next(self) -> None:
        """The next question."""
        self.go_to(self.at + 1)

    def toggle_angle(self) -> None:
        """Show the angle and the free arcs, or hide them."""
        self.angle = not self.angle
        self._show()

    def count(self, digit: int) -> None:
        """A digit of the hands for the answer that is counted."""
        if self.hands.counts:
            self.hands = self.hands.typed(digit)
            self.update()

    def pick(self, place: int) -> None:
        """Count the hands of another answer."""
        if self.hands.counts:
            self.hands = self.hands.to(place)
            self.update()

    def step(self, by: int) -> None:
        """The answer beside it."""
        self.pick(self.hands.at + by)

    def clear(self) -> None:
        """Count the hands of this answer anew."""
        if self.hands.counts:
            self.hands = self.hands.cleared()
            self.update()

    # Places -----------------------------------------------------------------------------------

    @property
    def _low(self) -> bool:
        return self.logical_height < LOW

    def _text_high(self) -> float:
        question = self.question
        if question is None:
            return 60.0
        high = paragraph_height(question.text, self._px(), self._text_wide)
        return min(high + 6, self._most_text + 6)

    @property
    def _text_wide(self) -> float:
        # The heavy face runs wider than the plain one, by which lines are counted.
        return (self.logical_width - 8) * 0.92

    @property
    def _most_text(self) -> float:
        return 92.0 if self._low else 126.0

    def _px(self) -> float:
        px, question = LOW_TEXT if self._low else TEXT, self.question
        wide, most = self._text_wide, self._most_text
        while question and px > LEAD and paragraph_height(question.text, px, wide) > most:
            px -= 1
        return px

    def answer_boxes(self) -> list[QRectF]:
        """Where the lettered answers stand."""
        question = self.question
        if question is None:
            return []
        count = len(question.answers)
        longest = max(text_width(a.words, LEAD + 4, Weight.LABEL) for a in question.answers) + 110
        a_row = max(1, min(count, 4, int(self.logical_width // max(longest, 150.0))))
        rows = -(-count // a_row)
        a_row = -(-count // rows)
        wide = (self.logical_width - 12 * (a_row - 1)) / a_row
        high = min(LOW_ANSWER, 150.0 / rows) if self._low else min(ANSWER, 230.0 / rows)
        top = self.logical_height - FOOT - rows * (high + 10)
        return [
            QRectF(n % a_row * (wide + 12), top + n // a_row * (high + 10), wide, high)
            for n in range(count)
        ]

    def arrange(self) -> None:
        """Question, engine, answers, keys."""
        boxes = self.answer_boxes()
        foot = boxes[0].top() if boxes else self.logical_height - FOOT
        top = self._text_high() + (4 if self._hides_engine_line else 44)
        room = max(foot - top - 12, 10.0)
        self.stage.setGeometry(self.look.scaled(0, top, self.logical_width, room))

    @property
    def _hides_engine_line(self) -> bool:
        # The ring names the engine, where it is shown.
        return self._low and self.stage.isVisibleTo(self)

    # Painting ---------------------------------------------------------------------------------

    def paint(self, p: QPainter) -> None:
        """Everything but the engine."""
        theme, question, wide = self.look.theme, self.question, self.logical_width
        if question is None:
            words = "This lesson has no question for a room."
            draw_text(p, QRectF(0, 0, wide, 60), words, HEAD, theme.ink, Weight.STRONG)
            return
        high = self._text_high()
        box = QRectF(0, 0, wide - 4, high)
        draw_paragraph(p, box, question.text, self._px(), theme.ink, Weight.STRONG)
        engine = question.q.engine
        where = QRectF(0, high + 2, wide, 34)
        told = f"{engine.name}, {engine.layout_words}"
        if Cover.RING not in question.drill.covers or self.answered:
            told += f", fires {engine.order_text}"
        if not self._hides_engine_line:
            draw_text(p, where, told, LEAD + 4, theme.ink2)
        if self.answered:
            room = QRectF(0, high + 60, wide, 200)
            if not self.stage.isVisible():
                draw_paragraph(p, room, question.drill.why(question.q), HEAD, theme.ink)
        for nth, answer_box in enumerate(self.answer_boxes()):
            self._paint_answer(p, answer_box, nth, question)
        self._paint_keys(p)

    def _paint_answer(self, p: QPainter, box: QRectF, nth: int, question: RoomQuestion) -> None:
        theme = self.look.theme
        right = self.answered and nth == question.right
        edge = QPen(theme.now, 4) if right else flat_pen(theme.ink, 2.6)
        rounded(p, box.adjusted(2, 2, -2, -2), 5, theme.now_tint if right else theme.sheet, edge)
        side = min(44.0, box.height() - 14)
        plate = QRectF(box.left() + 12, box.center().y() - side / 2, 44, side)
        rounded(p, plate, 3, theme.ink, None)
        draw_text(p, plate, LETTERS[nth], HEAD, theme.on_ink, Weight.STRONG, CENTRE)
        words = box.adjusted(70, 0, -96, 0)
        told = question.answers[nth].words
        draw_one_of(p, words, (told,), LEAD + 4, theme.ink, Weight.LABEL) or draw_text(
            p, words, told, BODY, theme.ink, Weight.LABEL
        )
        hands = self.hands.counts[nth] if self.hands.counts else 0
        spot = QRectF(box.right() - 92, box.center().y() - 20, 50, 40)
        if hands or nth == self.hands.at:
            pen = QPen(theme.now, 3) if nth == self.hands.at else flat_pen(theme.line, 1.6)
            rounded(p, spot, 4, theme.sheet, pen)
            draw_text(p, spot, str(hands or ""), LEAD, theme.ink, Weight.STRONG, CENTRE)
        if right:
            paint_tick(
                p, QRectF(box.right() - 40, box.top(), 30, box.height()).center(), 24, theme.ink
            )

    def _paint_keys(self, p: QPainter) -> None:
        theme, y = self.look.theme, self.logical_height - FOOT + 14
        p.fillRect(QRectF(0, y - 10, self.logical_width, 1.4), theme.line)
        angle = "hide the angle" if self.angle else "show the angle"
        lines = (
            ("Enter", "next" if self.answered else "show the answer"),
            *(() if self.answered else (("N", "next"),)),
            ("H", angle),
            ("Left, Right, 0–9", "count hands"),
            ("Esc", "leave"),
        )
        x, room = 0.0, self.logical_width - 110
        for key, does in lines:
            wide = text_width(key, LABEL, Weight.STRONG) + 24
            if x + wide + 10 + text_width(does, LABEL + 2) > room:
                continue
            box = QRectF(x, y, wide, 38)
            rounded(p, box, 5, theme.sheet, flat_pen(theme.line, 2))
            draw_text(p, box, key, LABEL, theme.ink, Weight.STRONG, CENTRE)
            used = draw_text(p, QRectF(x + wide + 10, y, 220, 38), does, LABEL + 2, theme.ink)
            x += wide + used + 28
        nth = QRectF(self.logical_width - 160, y, 156, 38)
        told = f"{self.at + 1} of {len(self.questions)}"
        draw_text(p, nth, told, LEAD, theme.ink, Weight.STRONG, RIGHT)

    def text_twin(self) -> str:
        """The question, its answers, and the right one once it was asked for."""
        question = self.question
        if question is None:
            return "no question"
        told = [f"{LETTERS[n]} {a.words}" for n, a in enumerate(question.answers)]
        words = f"{question.text} {'; '.join(told)}."
        if self.answered:
            words += f" {LETTERS[question.right]} is right. {question.drill.why(question.q)}"
        return words
